"""The journeys once more in a real X11 window, on an X server of their own."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

JOURNEY = Path(__file__).with_name("test_journey.py")


@pytest.mark.sweep
@pytest.mark.window
def test_the_journeys_in_a_real_window():
    server = shutil.which("Xvfb")
    assert server, "Xvfb is missing; ./check installs it"
    read, write = os.pipe()
    with subprocess.Popen(
        [server, "-displayfd", str(write), "-screen", "0", "1600x1000x24", "-nolisten", "tcp"],
        pass_fds=[write],
        stderr=subprocess.DEVNULL,
    ) as xvfb:
        os.close(write)
        try:
            with os.fdopen(read) as stream:
                display = stream.readline().strip()
            assert display
            done = subprocess.run(
                [sys.executable, "-m", "pytest", "-q", str(JOURNEY)],
                capture_output=True,
                text=True,
                timeout=300,
                check=False,
                env={**os.environ, "DISPLAY": f":{display}", "QT_QPA_PLATFORM": "xcb"},
            )
        finally:
            xvfb.terminate()
    assert done.returncode == 0, done.stdout + done.stderr

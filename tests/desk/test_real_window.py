"""The journeys once more in a real X11 window, on an X server of their own."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

from tests.desk.screens import hidden_screen

JOURNEY = Path(__file__).with_name("test_journey.py")


@pytest.mark.sweep
@pytest.mark.window
def test_the_journeys_in_a_real_window():
    with hidden_screen("1600x1000") as display:
        done = subprocess.run(
            [sys.executable, "-m", "pytest", "-q", str(JOURNEY)],
            capture_output=True,
            text=True,
            timeout=300,
            check=False,
            env={**os.environ, "DISPLAY": display, "QT_QPA_PLATFORM": "xcb"},
        )
    assert done.returncode == 0, done.stdout + done.stderr

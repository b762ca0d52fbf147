"""What a real screen reader is told, over the accessibility bus of a session of its own."""

from __future__ import annotations

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from tests.desk.screen_reader import NO_BUS
from tests.desk.screens import hidden_screen

ROOT = Path(__file__).parents[2]
LAUNCHER = Path("/usr/libexec/at-spi-bus-launcher")


@pytest.fixture(scope="module")
def told(tmp_path_factory):
    session = shutil.which("dbus-run-session")
    if not (session and LAUNCHER.exists()):
        pytest.skip("no accessibility bus on this system")
    cache = str(tmp_path_factory.mktemp("bus"))
    with hidden_screen("1400x900") as display:
        env = {**os.environ, "DISPLAY": display, "QT_QPA_PLATFORM": "xcb", "XDG_CACHE_HOME": cache}
        done = subprocess.run(
            [session, "--", sys.executable, "-m", "tests.desk.screen_reader"],
            capture_output=True,
            text=True,
            timeout=300,
            check=False,
            cwd=ROOT,
            env=env,
        )
    if done.returncode == NO_BUS:
        pytest.skip("no accessibility bus could be started here")
    assert done.returncode == 0, done.stderr
    return json.loads(done.stdout.splitlines()[-1])


@pytest.mark.sweep
@pytest.mark.window
def test_every_control_of_every_stage_says_what_it_is(told):
    for stage, controls in told["stages"].items():
        assert len(controls) > 20, stage
        for control in controls:
            # A list that opens is told by its choice; whose it is, by its label.
            named = control["labels"] if control["role"] == "combo box" else control["name"]
            assert named, (stage, control)


@pytest.mark.sweep
@pytest.mark.window
def test_stages_and_machines_are_buttons_that_it_presses(told):
    names = [{c["name"] for c in controls} for controls in told["stages"].values()]
    for heard in names:
        assert sum(name.startswith("Stage ") for name in heard) == 8
        assert any(name.startswith("Planer, off, 444 of 545 CFM, short") for name in heard)
    # Each stage has controls that no other has: pressing it went there.
    own = [heard - set().union(*(o for o in names if o is not heard)) for heard in names]
    assert sum(bool(each) for each in own) >= 7
    # What is put in from a strip is a button too.
    assert any(name.startswith("Table saw") for name in names[1])
    assert any(c["name"].startswith("Planer, on") for c in told["switched"])

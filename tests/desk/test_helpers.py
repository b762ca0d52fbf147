"""Helpers beside the window: they find what it would find alone, and go when it goes, however it
goes."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from grey_current.desk.shell.background import Background
from grey_current.shop import edits
from grey_current.workspace.jobs import HelpShop, carried_out
from tests.desk.conftest import do

OPEN = "import sys; from grey_current.desk import app; app.HELPERS_AFTER_MS = 1; sys.exit(app.main(sys.argv[1:]))"


def children(process: int) -> list[int]:
    return [
        int(each) for each in Path(f"/proc/{process}/task/{process}/children").read_text().split()
    ]


def alive(process: int) -> bool:
    state = Path(f"/proc/{process}/stat")
    return state.exists() and state.read_text().rpartition(")")[2].split()[0] != "Z"


def until(is_so, seconds=30.0):
    for _ in range(round(seconds / 0.05)):
        if is_so():
            return True
        time.sleep(0.05)
    return False


def test_what_helpers_find_is_shown_as_the_windows_own_through_edits_and_undo(window, qtbot):
    background: Background = window.background
    background.call_helpers()
    crew = background.crew
    assert crew.helpers
    crew.wait()
    try:
        shown_as_found(window, qtbot)
    finally:
        background.dismiss()
    assert not any(alive(helper.process.pid) for helper in crew.helpers)


def shown_as_found(window, qtbot):
    workspace = window.workspace
    workspace.select(None)
    known = workspace.computed.known_improvements
    for step in (
        lambda: workspace.edit("Move", lambda p: edits.moved(p, "planer", 0.3, 0.0)),
        lambda: do(window, "undo"),
        lambda: workspace.edit("Move", lambda p: edits.moved(p, "saw", 0.1, 0.0)),
    ):
        step()
        # The causes come first; the changes are known with the last word.
        qtbot.waitUntil(lambda: known(HelpShop()) is not None, timeout=20_000)
        alone = carried_out(workspace.assessment.counted, HelpShop()).changes
        shown = known(HelpShop())
        assert [(i.words, i.costs, i.money) for i in shown] == [
            (i.words, i.costs, i.money) for i in alone
        ]
        assert any(i.told is not None for i in shown)


@pytest.mark.sweep
@pytest.mark.parametrize("how", [signal.SIGKILL, signal.SIGTERM])
def test_helpers_go_when_their_window_goes(tmp_path, how):
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "PYTHONPATH": str(Path.cwd())}
    command = [sys.executable, "-c", OPEN, "--settings", str(tmp_path)]
    with subprocess.Popen(command, env=environment, stderr=subprocess.DEVNULL) as window:
        assert until(lambda: children(window.pid))
        (helper,) = children(window.pid)
        time.sleep(0.5)
        window.send_signal(how)
        window.wait(20)
    assert until(lambda: not alive(helper), 5)

"""Nothing ends the window and nothing is lost: faults, signals, half-typed fields."""

import os
import subprocess
import sys
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from grey_current.desk.shell import idle_garbage_collector
from grey_current.desk.shell.exception_hook import Guard
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.workspace.autosave import UNSAVED, left_in
from grey_current.workspace.keeping import Keeper
from tests.core.shops import demo
from tests.desk.conftest import do

FAULTY = """
import sys
from PyQt6.QtCore import QTimer
from grey_current.desk import app
from grey_current.desk.inspector.inspector import Inspector
from grey_current.shop import edits

shown = Inspector.show_workspace

def once_faulty(self, palette=None):
    shown(self, palette)
    if self.workspace.project.settings.longest_board == 3.0:
        raise ZeroDivisionError("made up")

Inspector.show_workspace = once_faulty

def act():
    window = next(w for w in app.QApplication.topLevelWidgets() if isinstance(w, app.MainWindow))
    window.workspace.edit("Good", lambda p: edits.changed(p, "saw", x=3.5))
    QTimer.singleShot(300, lambda: window.workspace.edit("Bad", lambda p: edits.with_settings(p, longest_board=3.0)))
    QTimer.singleShot(900, lambda: print("after:", window.workspace.project.machine["saw"].x,
        window.workspace.project.settings.longest_board, window.banner.text.text(), flush=True))

guarded = app.Guard

def guard(window, *rest):
    QTimer.singleShot(500, act)
    return guarded(window, *rest)

app.Guard = guard
sys.exit(app.main(["--settings", sys.argv[1]]))
"""


def started(tmp_path):
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "PYTHONPATH": str(Path.cwd())}
    command = [sys.executable, "-c", FAULTY, str(tmp_path)]
    return subprocess.Popen(
        command, env=environment, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
    )


def test_a_fault_is_told_taken_back_and_logged_and_a_signal_keeps_the_work(tmp_path):
    with started(tmp_path) as window:
        try:
            faults_and_signal(window, tmp_path)
        finally:
            window.kill()


def faults_and_signal(window, tmp_path):
    line = window.stdout.readline()
    assert line.startswith("after: 3.5 ") and "3.0" not in line.split("went wrong")[0]
    assert "the last step was taken back" in line and "faults.log" in line
    log = (tmp_path / "faults.log").read_text()
    assert "made up" in log and "last steps: Good; Bad" in log
    window.terminate()
    assert window.wait(timeout=20) == 0
    assert "work that was not saved is kept; the next start offers it" in window.stderr.read()
    (journal_left,) = (
        tmp_path / UNSAVED
    ).iterdir()  # one thing to recover: the fault's copy is of the same state
    kept = left_in(journal_left).project
    assert (
        kept.machine["saw"].x == 3.5
        and kept.settings.longest_board == demo().settings.longest_board
    )
    copies = [project_file.load(path) for path in (tmp_path / "kept").iterdir()]
    assert len(copies) == 1 and copies[0].machine["saw"].x == 3.5


def test_a_fault_while_nothing_changed_leaves_all_as_it_was(window, tmp_path):
    keeper = Keeper(window.workspace, tmp_path)
    guard = Guard(window, keeper)
    try:
        before = window.workspace.project
        guard.caught(RuntimeError, RuntimeError("deleted"), None)
        assert (
            window.workspace.project is before and "goes on as it was" in window.banner.text.text()
        )
        assert list(keeper.copies()) == []  # nothing was changed, so there is nothing to keep
        guard.caught(type(None), edits.RefusedEdit("the saw", "flying", "let it stand"), None)
        assert window.banner.text.text() == "The saw: flying is not possible; let it stand."
        unwritable = Keeper(window.workspace, tmp_path / "faults.log")
        window.workspace.edit("Move", lambda p: edits.changed(p, "saw", x=3.1))
        assert "went wrong" in unwritable.caught(RuntimeError("x"))
    finally:
        guard.release()


def type_half(window, key, text):
    editor = window.inspector.field(key)
    editor.setFocus()
    editor.selectAll()
    QTest.keyClicks(editor, text)
    return editor


@pytest.mark.parametrize("what", ["edit", "undo", "run", "theme", "findings", "select"])
def test_what_is_half_typed_outlives_whatever_happens_beside_it(window, hands, what):
    """A page made anew under the typing hand keeps the text, the focus and the window."""
    workspace = window.workspace
    workspace.select("planer-hose")
    hands.type_into("planer-hose/length", "9' 6\"")
    before = workspace.project
    type_half(window, "planer-hose/length", "7' ")
    {
        "edit": lambda: workspace.edit("Move", lambda p: edits.changed(p, "saw", x=3.1)),
        "undo": workspace.undo,
        "run": lambda: workspace.switch_on(("planer",)),
        "theme": window.toggle_theme,
        "findings": window.search.find_all,
        "select": lambda: workspace.select("planer-hose"),
    }[what]()
    now = window.inspector.field("planer-hose/length")
    assert now.text() == "7' "
    changed = {
        "edit": before.machine["saw"].x != workspace.project.machine["saw"].x,
        "undo": before != workspace.project,
    }
    assert changed.get(what, before == workspace.project)
    QTest.keyClicks(now, "3")
    QTest.keyClick(now, Qt.Key.Key_Return)
    assert workspace.project.run["planer-hose"].length == pytest.approx(7.25 * 0.3048)


def test_saving_enters_what_is_half_typed(window, tmp_path):
    workspace = window.workspace
    workspace.path = tmp_path / "shop.greycurrent.json"
    workspace.select("planer-hose")
    type_half(window, "planer-hose/length", "5'")
    do(window, "save")
    assert project_file.load(workspace.path).run["planer-hose"].length == pytest.approx(1.524)
    type_half(window, "planer-hose/length", "nonsense")
    workspace.edit("Move", lambda p: edits.changed(p, "saw", x=3.1))
    do(window, "save")
    assert window.inspector.field("planer-hose/length").text() == "nonsense"
    assert project_file.load(workspace.path).machine["saw"].x == 3.1


@pytest.mark.parametrize(
    "change",
    [
        lambda p: p.replaced(settings=p.settings.replaced(altitude=1e9)),
        lambda p: edits.moved(p, "saw", 1e6, 0),
        lambda p: edits.changed(p, "saw", x=float("inf")),
        lambda p: p.replaced(machines=(p.machines[0].replaced(width=1 / 0),)),
    ],
)
def test_a_value_that_cannot_be_is_a_sentence_wherever_it_comes_from(window, change):
    before = window.workspace.project
    assert not window.attempt(lambda: window.workspace.edit("Change it", change))
    said = window.banner.text.text()
    assert said.endswith(".") and "\n" not in said and window.workspace.project is before


def test_a_fault_right_after_opening_never_puts_the_old_shop_into_the_new_file(window, tmp_path):
    keeper = Keeper(window.workspace, tmp_path)
    before = keeper.good
    window.open_demo("allotment")
    opened = window.workspace.project
    assert keeper.good is before and "goes on as it was" in keeper.caught(RuntimeError("x"))
    assert window.workspace.project == opened
    window.workspace.edit("Move", lambda p: edits.changed(p, "saw", x=1.1))
    assert project_file.load(keeper.keep_copy()).name == opened.name
    keeper.shown()
    good = keeper.good
    window.workspace.undo()
    assert (
        "taken back" in keeper.caught(RuntimeError("while undoing"))
        and window.workspace.project == good
    )


def test_a_fault_in_a_search_is_told_and_logged_and_takes_nothing_back(
    window, qtbot, tmp_path, monkeypatch
):
    keeper = Keeper(window.workspace, tmp_path)
    guard = Guard(window, keeper)
    monkeypatch.setattr("grey_current.desk.shell.background.carried_out", lambda *a: 1 / 0)
    window.workspace.edit("Rename", lambda p: p.replaced(name="Another shop"))
    window.workspace.ask_for("ducts")
    said = "went wrong in the search"  # of the ducts; what was searched before may say so first
    qtbot.waitUntil(
        lambda: said in window.strip.why.text() and said in window.banner.text.text(),
        timeout=10_000,
    )
    assert window.workspace.project.name == "Another shop"
    assert "ZeroDivisionError" in (tmp_path / "faults.log").read_text()
    guard.release()


def test_full_rounds_of_the_collector_wait_until_nobody_does_anything(window, monkeypatch):
    """None while edits come or a button is held, one when it is quiet, and only slowly until
    something is done again."""
    went, clock, held = [], [100.0], [Qt.MouseButton.NoButton]
    monkeypatch.setattr(idle_garbage_collector.time, "monotonic", lambda: clock[0])
    monkeypatch.setattr(idle_garbage_collector.gc, "collect", lambda: went.append(clock[0]))
    monkeypatch.setattr(QApplication, "mouseButtons", lambda: held[0])
    rounds = idle_garbage_collector.IdleGarbageCollector(window.workspace)
    rounds.on_timeout()
    for second in range(8):
        clock[0] += 1.0
        if second < 4:
            window.workspace.edit(
                "Climb", lambda p, s=second: edits.with_settings(p, altitude=float(s + 1))
            )
        held[0] = Qt.MouseButton.LeftButton if second == 5 else Qt.MouseButton.NoButton
        rounds.on_timeout()
    assert went == [107.0]
    clock[0] += 29.0
    rounds.on_timeout()
    clock[0] += 2.0
    rounds.on_timeout()
    assert went == [107.0, 139.0]  # slowly, for what was searched meanwhile
    for _ in range(130):
        clock[0] += 1.0
        window.workspace.select("saw" if window.workspace.selection != "saw" else "planer")
        rounds.on_timeout()
    assert went == [107.0, 139.0, 260.0]  # at the latest

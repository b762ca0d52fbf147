"""Practice, complaints and instruments on a line at the window: opened, solved, saved, told,
undone; and their neighbours."""

from __future__ import annotations

import datetime
import threading

import pytest
from PyQt6.QtCore import QEvent, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QInputDialog

from grey_current.desk.shell.guess_dialog import GuessDialog
from grey_current.desk.shell.keep_dialogs import PracticeDialog
from grey_current.desk.shell.rack import row_facts
from grey_current.keep.guessing import ROUNDS
from grey_current.keep.practice import begun, secret_of
from grey_current.shop.edits import with_settings
from grey_current.standins.instruments import INSTRUMENTS, StandIn
from grey_current.standins.line import LineServer
from grey_current.units import CFM
from tests.core.shops import demo
from tests.desk.conftest import do, wait_for_keep
from tests.desk.test_keeping import facts

pytestmark = pytest.mark.usefixtures("compiled_kernel")


@pytest.fixture
def practice(window, monkeypatch, qtbot):
    """A practice shop of the sample loft, opened from the menu."""

    def accept(dialog):
        dialog.what.setCurrentIndex(dialog.what.count() - 1)
        dialog.number.setValue(145)
        dialog.levels.setCurrentIndex(1)
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(PracticeDialog, "exec", accept)
    do(window, "practise")
    wait_for_keep(window, qtbot)
    return window


def test_a_practice_shop_is_solved_by_clicks(practice, hands, qtbot):
    workspace = practice.workspace
    assert workspace.stage == "keep" and workspace.path is None
    assert "weaker than it was" in facts(practice) and "Practice 145, one fault" in facts(practice)
    assert not [key for key in practice.inspector.fields if key.startswith(("read/", "reading-"))]
    (cause,) = secret_of(workspace.project).causes
    workspace.select("planer")
    hands.press("measure/airflow/planer/planer/hood")
    hands.press("look/inlet wrapped/planer/hood")
    workspace.select("cyclone")
    hands.press("look/filter loaded/cyclone")
    workspace.select("gate-planer")
    hands.press("look/gate open/gate-planer")
    workspace.select("planer-hose")
    hands.press("look/hose collapsed/planer-hose")
    workspace.select("planer-stub")
    assert not [key for key in practice.inspector.fields if key.startswith("mend/")]
    hands.press("look/joint apart/planer-stub")
    assert cause.cause == ("joint apart", "planer-drop")
    hands.press("mend/joint apart/planer-stub")
    assert [act.found for act in workspace.project.keep.practice.acts[-2:]] == [True, True]
    workspace.select(None)
    assert "Mended." in facts(practice) and "minutes so far" in facts(practice)
    hands.press("practice/done")
    wait_for_keep(practice, qtbot)
    assert "It was: The planer's drop" in facts(practice) and "Score: " in facts(practice)
    hands.press("practice/keep")
    wait_for_keep(practice, qtbot)
    assert workspace.project.keep.practice is None and any(
        k.startswith("read/") for k in practice.inspector.fields
    )
    workspace.undo()
    assert (
        workspace.project.keep.practice.over and workspace.undo_label is None
    )  # what took minutes took them


def test_a_practice_that_was_thought_better_of_changes_nothing(window, monkeypatch):
    before = window.workspace.project
    monkeypatch.setattr(PracticeDialog, "exec", lambda dialog: QDialog.DialogCode.Rejected)
    do(window, "practise")
    assert window.workspace.project is before


def test_ducts_changed_in_the_middle_of_a_practice(practice, hands, qtbot):
    """What is torn out takes its fault along; the truth is told all the same."""
    workspace = practice.workspace
    workspace.select("planer-drop")
    workspace.edit("Take away", lambda p: p.replaced(points=(), runs=(), gates=()))
    workspace.select(None)
    workspace.undo()
    wait_for_keep(practice, qtbot)
    workspace.select("saw")
    hands.press("measure/airflow/saw/saw/cabinet")
    before = workspace.project
    workspace.undo()
    assert len(workspace.project.keep.practice.acts) == 1 and workspace.undo_label is None
    hands.press("measure/airflow/saw/saw/cabinet")
    workspace.go_to(before)  # as after a fault of the program's own
    assert workspace.project == before and workspace.undo_label is None
    workspace.edit("Take away", lambda p: p.replaced(points=(), runs=(), gates=()))
    workspace.select(None)
    hands.press("practice/done")
    QApplication.processEvents()
    assert practice.isVisible() and "Nobody" not in facts(practice) and workspace.undo_label is None


@pytest.mark.sweep
@pytest.mark.parametrize(("seed", "level", "name"), [(1, 4, "loft"), (2, 3, "allotment")])
def test_every_page_of_a_practice_stands(window, hands, qtbot, seed, level, name):
    """Each thing chosen in turn, every button pressed once; none of it can be taken back, and
    nothing else changed."""
    workspace = window.workspace
    start = begun(demo(name), seed, level, datetime.date(2026, 3, 14))
    workspace.show_project(start, None)
    workspace.go("keep")
    wait_for_keep(window, qtbot)
    pressed = 0
    for thing in [
        None,
        *workspace.project.collector,
        *list(workspace.project.machine)[:3],
        *workspace.project.run,
    ]:
        workspace.select(thing)
        for key in [k for k in window.inspector.fields if k.startswith(("look/", "measure/"))][:3]:
            hands.press(key)
            QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
            pressed += 1
    assert pressed > 8 and 0.7 * pressed < len(workspace.project.keep.practice.acts) <= pressed
    assert workspace.undo_label is None
    plain = workspace.project.replaced(keep=start.keep)
    assert plain == start


@pytest.mark.sweep
def test_what_is_complained_of_parts_the_readings(window, hands, qtbot):
    workspace = window.workspace
    hands.keys("Ctrl+8")
    wait_for_keep(window, qtbot)
    hands.choose("complaint", "only the planer is weaker")
    assert (
        workspace.project.keep.complaint.machine == "planer"
        and workspace.undo_label == "Say what is wrong"
    )
    wait_for_keep(window, qtbot)
    assert "Which fault" in [section.title for section in window.inspector._page.sections][:3]
    hands.choose("complaint", "everything is weaker than it was")
    hands.choose("worst", "the planer")
    assert workspace.project.keep.complaint.machine == "planer"
    hands.choose("worst", "alike")
    assert workspace.project.keep.complaint.machine is None
    hands.choose("complaint", "only the planer is weaker")
    hands.choose("besides", "the jointer")
    hands.type_into("since", "last week")
    assert "write a date" in window.inspector._complaints["since"].text()
    hands.type_into("since", "2026-01-02")
    assert workspace.project.keep.complaint.besides == "jointer"
    workspace.select("planer")
    hands.type_into("read/airflow/planer/planer/hood", "200 CFM")
    workspace.select(None)
    wait_for_keep(window, qtbot)
    assert (
        "taken since it is wrong" in facts(window) and workspace.computed.doubt.fit.readings == ()
    )
    hands.choose("complaint", "nothing")
    wait_for_keep(window, qtbot)
    assert workspace.project.keep.complaint is None and "taken since" not in facts(window)


def test_figures_from_an_instrument_on_a_line(window, hands, qtbot, monkeypatch):
    """Connected, asked with a click, parted from; one that is gone, none there, and rubbish are a
    sentence each."""
    workspace, said = window.workspace, window.banner.text
    gauge = StandIn(INSTRUMENTS["gauge"], lambda what, machine, place: 900.0, 3)
    hands.keys("Ctrl+8")
    wait_for_keep(window, qtbot)
    with LineServer(gauge) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        for typed, words in (
            ("rubbish", "write its port"),
            (str(server.address), "A gauge answers"),
        ):
            monkeypatch.setattr(QInputDialog, "getText", lambda *a, typed=typed, **k: (typed, True))
            do(window, "instrument")
            qtbot.waitUntil(lambda words=words: words in said.text(), timeout=5000)
        workspace.select("inlet-run")
        key = next(k for k in window.inspector.fields if k.startswith("take/static pressure"))
        assert not [k for k in window.inspector.fields if k.startswith("take/velocity")]
        hands.press(key)
        qtbot.waitUntil(lambda: len(workspace.project.keep.readings) == 1, timeout=5000)
        assert workspace.project.keep.readings[0].value == pytest.approx(900, rel=0.3)
        server.shutdown()
    hands.press(key)
    qtbot.waitUntil(lambda: "nothing answers there" in said.text(), timeout=5000)
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("", True))
    do(window, "instrument")
    assert workspace.instrument is None and not [
        k for k in window.inspector.fields if k.startswith("take/")
    ]
    workspace.undo()
    assert workspace.project.keep.readings == ()


def test_the_game_is_played_to_its_end(window, monkeypatch):
    """Ten questions, one guess rubbish, one in the other unit; misses as bars, and the shop is
    untouched."""
    before, seen = window.workspace.project, []

    def play(dialog):
        for number in range(ROUNDS):
            if number == 2:
                QTest.keyClicks(dialog.guess, "rubbish")
                QTest.keyClick(dialog.guess, Qt.Key.Key_Return)
                assert "write an airflow" in dialog.told.text() and len(dialog.answers) == number
                dialog.guess.clear()
            QTest.keyClicks(dialog.guess, "500 m3/h" if number == 3 else "300")
            QTest.keyClick(dialog.guess, Qt.Key.Key_Return)
            assert "off by" in dialog.told.text() and len(dialog.answers) == number + 1
            assert dialog.answers[-1].guess == pytest.approx(
                500 / 3600 if number == 3 else 300 * CFM
            )
            seen.append((dialog.asked.machine, dialog.asked.words))
            dialog.misses.repaint()
            QTest.mouseClick(dialog.button, Qt.MouseButton.LeftButton)
        assert dialog.result() == QDialog.DialogCode.Accepted
        return dialog.result()

    monkeypatch.setattr(GuessDialog, "exec", play)
    do(window, "guess")
    assert len(set(seen)) == ROUNDS and window.workspace.project is before


def test_the_verdict_follows_the_readings_at_this_stage(window, hands, qtbot):
    workspace = window.workspace
    plain = workspace.verdict
    hands.keys("Ctrl+8")
    wait_for_keep(window, qtbot)
    assert workspace.verdict == plain
    workspace.select("planer")
    hands.type_into("read/airflow/planer/planer/hood", "330 CFM")
    hands.click_row("planer")
    assert not workspace.verdict.startswith("By your readings")
    wait_for_keep(window, qtbot)
    assert workspace.verdict.startswith("By your readings: Planer: 3")
    row = row_facts(workspace, "planer")
    assert int(row.figures.split()[0]) < 400
    workspace.go("air")
    assert workspace.verdict.startswith("Planer: 444")
    workspace.go("keep")
    workspace.select(None)
    hands.choose("applied", "as the tables say")
    wait_for_keep(window, qtbot)
    assert workspace.verdict.startswith("Planer: 444")


def test_advice_says_how_often_it_holds_and_is_one_click(window, hands, qtbot):
    workspace = window.workspace
    hands.keys("Ctrl+8")
    wait_for_keep(window, qtbot)
    workspace.select("planer")
    assert "Trying it in some hundred shops" in facts(window)
    qtbot.waitUntil(lambda: "holds-1" in window.inspector.fields, timeout=60_000)
    words = window.inspector.fields["holds-1"].words()
    assert (
        "miter saw's gate" in words
        and "of such shops" in words
        and "Enough air: under 1% before" in words
    )
    doubt = workspace.computed.doubt
    workspace.select(None)
    assert workspace.computed.doubt is doubt
    workspace.select("planer")
    qtbot.waitUntil(lambda: "holds-1" in window.inspector.fields, timeout=60_000)
    workspace.edit("Warmer", lambda p: with_settings(p, temperature=22.0))
    qtbot.waitUntil(lambda: "holds-1" not in window.inspector.fields, timeout=60_000)
    qtbot.waitUntil(lambda: "holds-1" in window.inspector.fields, timeout=60_000)
    hands.press("holds-1")
    assert workspace.project.gate["gate-mitre"].rule != "left open" and workspace.undo_label
    wait_for_keep(window, qtbot)
    workspace.undo()
    workspace.undo()
    assert workspace.project.gate["gate-mitre"].rule == "left open"

"""The logbook at the window: what comes next, lines with one click, charts over time, another copy,
undone to the start."""

from __future__ import annotations

import datetime

import pytest
from PyQt6.QtCore import QDate, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDateEdit, QFileDialog, QLineEdit

from grey_current.files import project_file
from grey_current.files.log_report import made_entry
from grey_current.shop.keep_edits import with_entries
from grey_current.workspace.logbook_table import CHIPS, DATE, HOURS, NOTE, WHAT
from tests.desk.conftest import do, wait_for_keep
from tests.desk.test_keeping import facts

EDIT = Qt.ItemDataRole.EditRole
pytestmark = pytest.mark.usefixtures("compiled_kernel")


def row_of(book, what, column):
    """The cell of the first line of a kind, as it is shown."""
    for row in range(book.shown.rowCount()):
        if book.shown.index(row, WHAT).data() == what:
            return book.shown.index(row, column)
    raise AssertionError(what)


def test_the_logbook_is_sorted_searched_changed_and_struck_out_of(window, hands, tmp_path):
    workspace = window.workspace
    today = datetime.date.today()

    def on(days, kind, **facts):
        date = today - datetime.timedelta(days=days)
        place = None if kind == "noticed" else "cyclone"
        return made_entry(workspace.project, kind, date, place, **facts)

    lines = [
        on(3, "worked", hours=2.0, litres=60.0),
        on(1, "bin emptied"),
        on(9, "noticed", note="Whistles"),
        on(40, "worked", hours=1.0, litres=20.0),
    ]
    workspace.edit("Lines", lambda p: with_entries(p, lines))
    do(window, "logbook")
    book = window.keeping.logbook
    assert [book.shown.index(n, WHAT).data() for n in range(4)] == [
        "Bin emptied",
        "A day's work",
        "Noticed",
        "A day's work",
    ]
    book.view.sortByColumn(HOURS, Qt.SortOrder.DescendingOrder)
    assert book.shown.index(0, HOURS).data() == "2.0 h"
    QTest.keyClicks(book.search, "whist")
    assert book.shown.rowCount() == 1
    book.search.clear()
    # What is typed goes into the project; what cannot be is said and changes nothing.
    note = row_of(book, "Noticed", NOTE)
    book.view.edit(note)
    editor = next(e for e in book.view.findChildren(QLineEdit) if e.isVisible())
    editor.selectAll()
    QTest.keyClicks(editor, "Whistles at the planer")
    QTest.keyClick(editor, Qt.Key.Key_Return)
    QApplication.processEvents()  # what is typed into a cell is taken a moment later
    assert workspace.project.keep.entries[2].note == "Whistles at the planer"
    before = workspace.project
    for column, text, says in (
        (HOURS, "thirty", "write hours"),
        (HOURS, "30", "at most 24"),
        (CHIPS, "lots", "write a volume"),
        (DATE, "2199-01-01", "a day that has been"),
    ):
        cell = row_of(book, "A day's work", column)
        assert not book.shown.setData(cell, text, EDIT)
        book.show_workspace()
        assert says in book.complaint.text() and workspace.project is before
    assert not row_of(book, "Noticed", HOURS).flags() & Qt.ItemFlag.ItemIsEditable
    assert book.shown.setData(row_of(book, "Bin emptied", CHIPS), "95 l", EDIT)
    assert workspace.project.keep.entries[1].litres == pytest.approx(95)
    book.view.selectAll()
    QTest.keyClick(book.view, Qt.Key.Key_Delete)
    assert workspace.project.keep.entries == ()
    assert workspace.undo_label == "Delete 4 lines of the logbook"
    QTest.keyClick(book.view, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert len(workspace.project.keep.entries) == book.shown.rowCount() == 4
    assert not looked_at(book)


def looked_at(book):
    """What of the logbook's window is cut off."""
    book.grab()
    heads = [book.table.headerData(n, Qt.Orientation.Horizontal) for n in range(6)]
    return [head for n, head in enumerate(heads) if book.view.columnWidth(n) < 10 + 6 * len(head)]


def test_a_month_of_lines_and_what_comes_of_them(window, hands, qtbot, tmp_path, monkeypatch):
    workspace = window.workspace
    start, theirs = workspace.project, tmp_path / "theirs.json"
    today = datetime.date.today()
    project_file.save(
        with_entries(start, [made_entry(start, "noticed", today, note="in the copy")]), theirs
    )
    hands.keys("Ctrl+8")
    wait_for_keep(window, qtbot)
    assert "its bin is two thirds full: about" in facts(window)
    hands.press("log-day")
    (entry,) = workspace.project.keep.entries
    assert (
        entry.kind == "worked" and entry.litres > 50 and workspace.undo_label == "Log a day's work"
    )
    hands.type_into("log/noticed/", "whistles since Monday")
    hands.press("open-logbook")
    book = window.keeping.logbook
    assert book.isVisible() and "1 day, " in book.glance.text()
    day = row_of(book, "A day's work", DATE)
    book.view.edit(day)
    editor = book.view.findChild(QDateEdit)
    editor.setDate(QDate.currentDate().addDays(-20))
    QTest.keyClick(editor, Qt.Key.Key_Return)
    QApplication.processEvents()  # what is typed into a cell is taken a moment later
    assert workspace.project.keep.entries[0].date == today - datetime.timedelta(days=20)
    wait_for_keep(window, qtbot)
    assert "whistles since Monday" in facts(window) and "logged days" in facts(window)
    for kind, points in (("Chips", 1), ("Hours", 1), ("Filter", 0)):
        window.strip.view.setCurrentText(kind)
        assert sum(len(line.points) for line in window.strip.trend.lines) == points
        assert (
            window.strip._head() == window.strip.trend.words and kind in window.strip._head()
        ) or not points
    hands.keys("Ctrl+U")
    window.strip.view.setCurrentText("How sure")
    assert "How sure" in window.strip._head() and window.strip.trend.isHidden()
    workspace.select("cyclone")
    hands.type_into("log/bin emptied/cyclone", "rubbish")
    assert len(workspace.project.keep.entries) == 2
    hands.type_into("log/bin emptied/cyclone", "95 l")
    hands.press("log/filter cleaned/cyclone")
    workspace.select("planer-hose")
    hands.press("log/hose changed/planer-hose")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(theirs), ""))
    do(window, "merge-logbook")
    do(window, "merge-logbook")
    assert [e.kind for e in workspace.project.keep.entries].count("noticed") == 2
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "book.csv"), ""))
    do(window, "save-logbook")
    assert "in the copy" in (tmp_path / "book.csv").read_text()
    workspace.select(None)
    do(window, "logbook")
    book.view.selectRow(row_of(book, "A day's work", DATE).row())
    QTest.mouseClick(book.delete, Qt.MouseButton.LeftButton)
    assert "worked" not in [e.kind for e in workspace.project.keep.entries]
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(tmp_path / "book.csv"), ""))
    do(window, "merge-logbook")
    assert "book.csv" in window.banner.text.text()
    while workspace.undo_label:
        workspace.undo()
    assert workspace.project.keep == start.keep

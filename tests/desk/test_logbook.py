"""The logbook at the window: what comes next, lines with one click, charts over time, another copy,
undone to the start."""

from __future__ import annotations

import datetime

import pytest
from PyQt6.QtWidgets import QFileDialog

from grey_current.files import project_file
from grey_current.files.log_report import made_entry
from grey_current.shop.keep_edits import with_entries
from tests.desk.conftest import do
from tests.desk.test_keeping import facts, wait

pytestmark = pytest.mark.usefixtures("compiled_kernel")


def test_a_month_of_lines_and_what_comes_of_them(window, hands, qtbot, tmp_path, monkeypatch):
    workspace = window.workspace
    start, theirs = workspace.project, tmp_path / "theirs.json"
    today = datetime.date.today()
    project_file.save(
        with_entries(start, [made_entry(start, "noticed", today, note="in the copy")]), theirs
    )
    hands.keys("Ctrl+8")
    wait(window, qtbot)
    assert "its bin is two thirds full: about" in facts(window)
    hands.press("log-day")
    (entry,) = workspace.project.keep.entries
    assert (
        entry.kind == "worked" and entry.litres > 50 and workspace.undo_label == "Log a day's work"
    )
    hands.type_into("log/noticed/", "whistles since Monday")
    hands.type_into("redate", "1 soon")
    assert "write a date" in window.inspector._complaints["redate"].text()
    hands.type_into("redate", f"1 {today - datetime.timedelta(days=20)}")
    wait(window, qtbot)
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
    hands.type_into("strike", "1")
    assert "worked" not in [e.kind for e in workspace.project.keep.entries]
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(tmp_path / "book.csv"), ""))
    do(window, "merge-logbook")
    assert "book.csv" in window.banner.text.text()
    while workspace.undo_label:
        workspace.undo()
    assert workspace.project.keep == start.keep

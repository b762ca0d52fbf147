"""Find anything: typed, chosen by key or click, run or gone to."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel

from grey_current.desk.shell.finder_dialog import NOTHING, FinderDialog
from tests.desk.seen import out_of_sight

pytestmark = pytest.mark.usefixtures("compiled_kernel")


@pytest.fixture
def find(window, hands, qtbot, monkeypatch):
    """Press Ctrl+K, type, go down some lines, and press Enter, or Esc for None."""

    def of(text, down=0, enter=True):
        def drive(dialog):
            dialog.show()
            qtbot.waitExposed(dialog)
            QTest.keyClicks(dialog.field, text)
            for _ in range(down):
                QTest.keyClick(dialog.field, Qt.Key.Key_Down)
            assert not out_of_sight(dialog)
            of.titles = [entry.title for entry in dialog.shown]
            of.words = " ".join(label.text() for label in dialog.findChildren(QLabel))
            key = Qt.Key.Key_Return if enter else Qt.Key.Key_Escape
            QTest.keyClick(dialog.field, key)
            dialog.hide()
            dialog.deleteLater()
            return dialog.result()

        monkeypatch.setattr(FinderDialog, "exec", drive)
        hands.keys("Ctrl+K")
        return of.titles

    return of


def test_a_command_a_machine_a_problem_a_part_and_a_page(window, find):
    workspace = window.workspace
    window.search.find_all()
    assert find("dark mode")[0] == "Light / dark"
    assert window.colours.name == "dark"
    find("text size 125")
    assert window.settings.get("text-size") == "125"
    find("planer")
    assert (workspace.stage, workspace.selection) == ("machines", "planer")
    finding = next(f for f in workspace.known_findings if f.stage == "air")
    find(finding.message[:40])
    assert workspace.stage == "air"
    find("blast gate 4 in stepped")
    assert workspace.stage == "build" and workspace.part is not None
    find("can i empty it alone")
    assert workspace.reading == "empty-alone"


def test_up_and_down_esc_and_nothing_found(window, find):
    workspace = window.workspace
    before = workspace.project, workspace.stage, workspace.selection
    find("planer", enter=False)
    assert (workspace.project, workspace.stage, workspace.selection) == before
    assert find("xyzzy") == [] and NOTHING in find.words
    titles = find("stage", down=2)
    assert titles[2].startswith("Stage") and workspace.stage != before[1]
    # What makes no sense now is shown, and cannot be taken.
    workspace.select(None)
    titles = find("rotate 15")
    assert titles == ["Rotate 15°"] and "not now" in find.words
    assert workspace.project == before[0]

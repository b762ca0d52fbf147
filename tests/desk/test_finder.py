"""Find anything: typed, chosen by key or click, run or gone to."""

from __future__ import annotations

from importlib.metadata import version

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel

from grey_current.desk.shell.finder_dialog import NOTHING, FinderDialog
from grey_current.desk.shell.help_texts import about_page
from grey_current.desk.shell.history_dialog import HistoryDialog
from grey_current.shop import edits
from tests.desk.conftest import do
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


def test_the_history_goes_back_and_forward_by_a_click(window, hands, monkeypatch):
    workspace = window.workspace
    states = [workspace.project]
    for dx in (0.1, 0.2, 0.3):
        workspace.edit(f"Move by {dx}", lambda p, dx=dx: edits.moved(p, "planer", dx, 0.0))
        states.append(workspace.project)
    shown: list[list[str]] = []

    def drive(dialog):
        dialog.show()
        assert not out_of_sight(dialog)
        # To the beginning, to the second step, and to the latest again.
        for place, state in ((3, 0), (1, 2), (0, 3)):
            dialog.on_taken(dialog.list.item(place))
            assert workspace.project == states[state]
            shown.append([dialog.list.item(n).text() for n in range(dialog.list.count())])
        dialog.hide()
        return 0

    monkeypatch.setattr(HistoryDialog, "exec", drive)
    do(window, "history")
    assert len(shown) == 3 and all(len(lines) == 4 for lines in shown)
    assert shown[0][3] == "As it was opened (now)" and shown[2][0].endswith("Move by 0.3 (now)")
    workspace.go_steps(99)
    assert workspace.project == states[3]


def test_about_says_the_version_and_the_licences():
    text = about_page()
    assert f"Grey Current {version('grey-current')}" in text
    for words in ("GNU General Public License", "Open Font License", "PyQt6", "numpy"):
        assert words in text

"""What is heard: every control of every page and dialog has a name, the floor tells what is
selected, things are walked and connected by keys alone."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QApplication,
    QComboBox,
    QLineEdit,
    QScrollBar,
    QWidget,
)

from grey_current.desk.papers.preview import PapersDialog
from grey_current.desk.shell import help_texts
from grey_current.desk.shell.finder_dialog import FinderDialog
from grey_current.desk.shell.guess_dialog import GuessDialog
from grey_current.desk.shell.help_page import HelpPage
from grey_current.desk.shell.keep_dialogs import PracticeDialog
from grey_current.desk.shell.logbook import LogbookWindow
from grey_current.desk.shell.manual_window import ManualWindow
from grey_current.desk.shell.preferences import PreferencesDialog
from grey_current.desk.shell.share_dialog import ShareDialog
from grey_current.desk.shell.switch_panel import SwitchPanel
from grey_current.workspace.finder import entries
from grey_current.workspace.stages import STAGES
from tests.desk.conftest import do

pytestmark = pytest.mark.usefixtures("compiled_kernel")
CONTROLS = (QAbstractButton, QLineEdit, QComboBox, QAbstractSlider, QAbstractItemView)


def said_of(widget):
    """What a screen reader says of a control."""
    if widget.accessibleName():
        return widget.accessibleName()
    if isinstance(widget, QAbstractButton):
        words = getattr(widget, "words", None)
        return widget.text() or (words() if callable(words) else "")
    return ""


def nameless(root):
    found = []
    for widget in root.findChildren(QWidget):
        inner = widget.objectName().startswith("qt_") or isinstance(widget, QScrollBar)
        reached = isinstance(widget, CONTROLS) or widget.focusPolicy() != Qt.FocusPolicy.NoFocus
        charted = "pyqtgraph" in type(widget.parent()).__module__
        if widget.isVisible() and reached and not inner and not charted and not said_of(widget):
            found.append((type(widget).__name__, type(widget.parent()).__name__))
    return found


@pytest.mark.parametrize("stage", [entry.name for entry in STAGES])
def test_every_control_of_a_stage_has_a_name(window, stage):
    workspace = window.workspace
    workspace.go(stage)
    for chosen in (None, "planer", "planer-hose", "main-3", "cyclone", "gate-planer", "stove"):
        workspace.select(chosen)
        window.search.find_all()
        window.on_found()
        QApplication.processEvents()
        assert not nameless(window), (stage, chosen)


def test_every_control_of_the_other_windows_has_a_name(window):
    do(window, "view-both")
    QApplication.processEvents()
    assert not nameless(window)
    dialogs = [
        ManualWindow(window),
        PreferencesDialog(window, window.workspace, window.settings),
        ShareDialog(window),
        LogbookWindow(window, window.workspace),
        FinderDialog(window, entries(window.workspace, lambda name, choice: None)),
        PracticeDialog(window),
        GuessDialog(window, window.workspace, window.colours, 5),
        SwitchPanel(window, window.workspace),
        HelpPage(window, "Keys", help_texts.keys_page()),
        PapersDialog(window, "Print", {"Nothing": lambda size: []}, "A4"),
    ]
    for dialog in dialogs:
        dialog.show()
        QApplication.processEvents()
        assert not nameless(dialog), type(dialog).__name__
        dialog.close()


def test_the_floor_tells_what_is_selected(window, hands):
    floor, workspace = window.floor, window.workspace
    assert "Tab goes from one to the next" in floor.accessibleDescription()
    workspace.select("planer")
    assert floor.accessibleDescription() == "The planer, 444 of 545 CFM, short"
    workspace.select("planer-hose")
    told = floor.accessibleDescription()
    assert told.startswith("The planer's hose") or "hose" in told
    assert "5 in" in told
    # Walked from thing to thing, each is told.
    floor.setFocus()
    workspace.select(None)
    heard = set()
    for _ in range(len(workspace.project.machines) + 1):
        do(window, "next-thing")
        heard.add(floor.accessibleDescription())
    assert len(heard) == len(workspace.project.machines) + 1
    do(window, "view-space")
    workspace.select("saw")
    assert window.views.space.accessibleDescription().startswith("The saw, ")
    QTest.keyClick(window.views.space, Qt.Key.Key_Left)

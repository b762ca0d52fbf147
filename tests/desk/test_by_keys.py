"""The first shop without a mouse: from four walls to a laid and saved garage by keys alone."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication, QFileDialog, QLineEdit

from grey_current.files import project_file
from tests.desk.conftest import do

pytestmark = pytest.mark.usefixtures("compiled_kernel")

# Presses of Tab after which somebody gives up.
PATIENCE = 160


def in_hand():
    """What has the keyboard."""
    found = QApplication.focusWidget()
    assert found is not None, "nothing has the keyboard"
    return found


def press(key, keys=Qt.KeyboardModifier.NoModifier):
    QTest.keyClick(in_hand(), key, keys)
    QApplication.processEvents()


def words(widget):
    said = widget.text() if isinstance(widget, QAbstractButton) else ""
    return f"{said} {widget.accessibleName()}".replace("\n", " ").strip()


def tab_to(name):
    """Press Tab until what is called so has the keyboard."""
    met = []
    for _ in range(PATIENCE):
        if name in words(in_hand()):
            return in_hand()
        met.append(words(in_hand()))
        press(Qt.Key.Key_Tab)
    pytest.fail(f"{name!r} is not reached by Tab; met: {list(dict.fromkeys(met))}")


@pytest.mark.parametrize("units", ["us", "metric"])
def test_four_walls_to_a_saved_garage_by_keys_alone(window, qtbot, tmp_path, monkeypatch, units):
    workspace = window.workspace
    window.settings.use("new-units", units)
    path = tmp_path / "mine.greycurrent.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    workspace._saved = workspace.project
    do(window, "new-double-garage")
    for name, size in (("Length", "22'"), ("Width", "20'")):
        field = tab_to(name)
        assert isinstance(field, QLineEdit)
        press(Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        QTest.keyClicks(in_hand(), size)
        press(Qt.Key.Key_Return)
    tab_to("Next")
    press(Qt.Key.Key_Space)
    for name in ("Table saw", "planer"):
        tab_to(name)
        press(Qt.Key.Key_Space)
    tab_to("Next")
    press(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: any(k.startswith("offer/") for k in window.inspector.fields))
    tab_to("Recommended collectors")
    press(Qt.Key.Key_Space)
    tab_to("3 hp cyclone")
    press(Qt.Key.Key_Space)
    assert len(workspace.project.collectors) == 1
    tab_to("Next")
    press(Qt.Key.Key_Space)
    tab_to("Lay the ducts")
    press(Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: workspace.offer.complete, timeout=240_000)
    tab_to("Offered layouts")
    press(Qt.Key.Key_Down)
    press(Qt.Key.Key_Up)
    press(Qt.Key.Key_Return)
    project = workspace.project
    assert project.runs and all(answer.met for answer in workspace.assessment.counted.answers)
    press(Qt.Key.Key_S, Qt.KeyboardModifier.ControlModifier)
    assert project_file.load(path) == project and project.settings.units == units

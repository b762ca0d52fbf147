"""Every desk test gets a window of its own on a demo shop, with settings in a temporary folder."""

from __future__ import annotations

import threading

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox, QWidget

from grey_current.desk.shell.window import MainWindow
from grey_current.desk.theme import font, load_fonts
from grey_current.spelling import localised
from grey_current.workspace.settings import UserSettings
from grey_current.workspace.workspace import demo_workspace


def do(window: MainWindow, command: str) -> None:
    """Choose a command from the menu."""
    action = window.menus.actions[command]
    assert action.isEnabled(), command
    action.trigger()


def begin_metric(window: MainWindow) -> None:
    """An empty shop in metres, whatever the open one is in."""
    window.settings.use("new-units", "metric")
    do(window, "open-empty")


def pick(box: QComboBox, words: str) -> None:
    """Pick an entry of a list by keyboard: open it, go there, Enter."""
    index = box.findText(words)
    assert index >= 0, [box.itemText(i) for i in range(box.count())]
    if index != box.currentIndex():
        box.setFocus()
        window = box.window()
        QTest.keyClick(box, Qt.Key.Key_Down)
        QTest.keyClick(box.view(), Qt.Key.Key_Home)
        for _ in range(index):
            QTest.keyClick(box.view(), Qt.Key.Key_Down)
        QTest.keyClick(box.view(), Qt.Key.Key_Return)
        # Offscreen a list that closes does not give the keys back to its window.
        window.activateWindow()


def turn_wheel(widget: QWidget, at: QPointF, by: int) -> None:
    """Turn the wheel over a place of a widget, by eighths of a degree; towards oneself is less."""
    buttons, keys = Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier
    phase = Qt.ScrollPhase.NoScrollPhase
    there = widget.mapToGlobal(at)
    wheel = QWheelEvent(at, there, QPoint(), QPoint(0, by), buttons, keys, phase, False)
    QApplication.sendEvent(widget, wheel)


class Hands:
    """Mouse and keyboard on a window, as a user has them."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window

    def spot(self, x: float, y: float) -> QPoint:
        """The floor's pixel of a place in the shop."""
        return self.window.floor.view.point((x, y)).toPoint()

    def click_row(self, machine: str, together: bool = False) -> None:
        row = self.window.rack.row(machine)
        keys = Qt.KeyboardModifier.ControlModifier if together else Qt.KeyboardModifier.NoModifier
        QTest.mouseClick(row, Qt.MouseButton.LeftButton, keys, QPoint(120, 20))

    def click_run(self, run: str) -> None:
        """Click on the floor in the middle of a run as it is drawn."""
        shape = next(d for d in self.window.floor.scene.ducts if d.run == run)
        middle = shape.line[len(shape.line) // 2]
        if len(shape.line) == 2:
            (ax, ay), (bx, by) = shape.line
            middle = (ax + bx) / 2, (ay + by) / 2
        QTest.mouseClick(self.window.floor, Qt.MouseButton.LeftButton, pos=self.spot(*middle))

    def type_into(self, key: str, text: str) -> None:
        """Replace a field's text in the inspector and press Enter."""
        self.window.inspector.reveal(key)
        editor = self.window.inspector.field(key)
        editor.setFocus()
        editor.selectAll()
        QTest.keyClicks(editor, text)
        QTest.keyClick(editor, Qt.Key.Key_Return)

    def choose(self, key: str, words: str) -> None:
        """Pick an entry of a list in the inspector by keyboard."""
        self.window.inspector.reveal(key)
        pick(self.window.inspector.field(key), words)

    def click(self, x: float, y: float, shift: bool = False) -> None:
        """Click on the floor at a place of the shop."""
        keys = Qt.KeyboardModifier.ShiftModifier if shift else Qt.KeyboardModifier.NoModifier
        QTest.mouseClick(self.window.floor, Qt.MouseButton.LeftButton, keys, self.spot(x, y))

    def drag_from(self, start: tuple[float, float], by: tuple[float, float]) -> None:
        """Drag on the floor from a place of the shop."""
        floor = self.window.floor
        QTest.mousePress(floor, Qt.MouseButton.LeftButton, pos=self.spot(*start))
        for share in (0.4, 0.8, 1.0):
            QTest.mouseMove(floor, self.spot(start[0] + by[0] * share, start[1] + by[1] * share))
        QTest.mouseRelease(
            floor, Qt.MouseButton.LeftButton, pos=self.spot(start[0] + by[0], start[1] + by[1])
        )

    def press(self, key: str) -> None:
        """Press a button of the inspector."""
        QTest.mouseClick(self.window.inspector.field(key), Qt.MouseButton.LeftButton)

    def take(self, title: str) -> None:
        """Click a card of the strip that is shown, as the catalogue calls it."""
        title = localised(title, self.window.workspace.project.settings.units)
        card = self.window.strips.currentWidget().card(title)
        QTest.mouseClick(card, Qt.MouseButton.LeftButton)
        assert self.window.workspace.placing == card.placing

    def press_drag_type(self, start: tuple, end: tuple, text: str) -> None:
        """Drag on the floor and, with the button still down, type a length and press Enter."""
        floor = self.window.floor
        QTest.mousePress(floor, Qt.MouseButton.LeftButton, pos=self.spot(*start))
        for share in (0.5, 1.0):
            there = [a + (b - a) * share for a, b in zip(start, end, strict=True)]
            QTest.mouseMove(floor, self.spot(*there))
        floor.grab()
        QTest.keyClicks(floor, text)
        QTest.keyClick(floor, Qt.Key.Key_Return)
        QTest.mouseRelease(floor, Qt.MouseButton.LeftButton, pos=self.spot(*end))

    def drag(
        self,
        machine: str,
        dx: float,
        dy: float,
        keep: bool = True,
        corner: tuple[float, float] = (0.05, 0.05),
    ) -> None:
        floor = self.window.floor
        item = self.window.workspace.project.machine[machine]
        start = self.spot(item.x - item.width / 2 + corner[0], item.y - item.depth / 2 + corner[1])
        QTest.mousePress(floor, Qt.MouseButton.LeftButton, pos=start)
        for share in (0.3, 0.6, 1.0):
            move = QPointF(start) + QPointF(dx, -dy) * floor.view.scale * share
            QTest.mouseMove(floor, move.toPoint())
        if not keep:
            self.keys("Esc")
            QTest.mouseMove(floor, start)
        QTest.mouseRelease(floor, Qt.MouseButton.LeftButton, pos=move.toPoint())

    def keys(self, text: str) -> None:
        """A shortcut such as "Ctrl+Z"."""
        action = next(a for a in self.window.actions() if a.shortcut().toString() == text)
        assert action.isEnabled(), text
        sequence = action.shortcut()[0]
        QTest.keyClick(self.window, sequence.key(), sequence.keyboardModifiers())


@pytest.fixture(autouse=True)
def nothing_left_behind(qapp):
    """No window, thread or running timer outlives its test."""
    yield
    qapp.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    qapp.processEvents()
    assert not [w for w in qapp.topLevelWidgets() if w.isVisible()]
    # Python keeps a record, "Dummy-1", of a thread of Qt's pool that once asked for its own name:
    # no thread of ours
    assert [t.name for t in threading.enumerate() if not t.name.startswith("Dummy-")] == [
        "MainThread"
    ]


@pytest.fixture
def window(qtbot, tmp_path):
    load_fonts()
    made = MainWindow(demo_workspace(), UserSettings(tmp_path / "settings"), tmp_path / "library")
    made.setFont(font())
    made.floor.set_moving(False)
    qtbot.addWidget(
        made, before_close_func=lambda w: setattr(w.workspace, "_saved", w.workspace.project)
    )
    with qtbot.waitExposed(made):
        made.show()
    made.activateWindow()
    return made


@pytest.fixture
def hands(window) -> Hands:
    return Hands(window)


def wait_for_keep(window: MainWindow, qtbot) -> None:
    """Wait until what Keep knows is about the shop as it is."""

    def known():
        found = window.workspace.computed.doubt
        return found is not None and found.project == window.workspace.project

    qtbot.waitUntil(known, timeout=60_000)


@pytest.fixture
def keep(window, hands, qtbot):
    """The window at the Keep stage with its answers in."""
    hands.keys("Ctrl+8")
    wait_for_keep(window, qtbot)
    return window

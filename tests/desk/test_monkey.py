"""Hands that do anything: nothing raises, and undone to the start the very first project is back.

`MONKEY_STEPS=5000 .venv/bin/python -m pytest tests/desk/test_monkey.py` goes on for longer.
"""

import contextlib
import os
import random

import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QComboBox,
    QDialog,
    QFileDialog,
    QInputDialog,
    QLineEdit,
    QMessageBox,
    QPushButton,
)

from grey_current.errors import GreyCurrentError
from grey_current.workspace.stages import STAGES
from tests.core.shops import made_up

STEPS = int(os.environ.get("MONKEY_STEPS", "150"))
TEXTS = (
    "",
    "0",
    "-1",
    "6-1/2",
    "1,200",
    "9 ft",
    "2.5 m",
    "1e400",
    "nan",
    "90½",
    "x" * 300,
    "7' 6\"",
    "100000",
    "0.001",
    "½",
)
KEYS = (
    Qt.Key.Key_D,
    Qt.Key.Key_R,
    Qt.Key.Key_N,
    Qt.Key.Key_Delete,
    Qt.Key.Key_Escape,
    Qt.Key.Key_Return,
    Qt.Key.Key_Left,
    Qt.Key.Key_Up,
    Qt.Key.Key_Space,
    Qt.Key.Key_Tab,
    Qt.Key.Key_7,
    Qt.Key.Key_M,
)
ENDS = {"close", "quit"}


def spot(chance, widget):
    """A place on a widget, now and then far outside."""
    far = 4000 if chance.random() < 0.15 else 0
    return QPoint(
        chance.randint(-far, widget.width() + far), chance.randint(-far, widget.height() + far)
    )


def drag(chance, window):
    floor = window.floor
    QTest.mousePress(floor, Qt.MouseButton.LeftButton, pos=spot(chance, floor))
    for _ in range(chance.randint(1, 3)):
        QTest.mouseMove(floor, spot(chance, floor))
    if chance.random() < 0.2:
        QTest.keyClick(floor, Qt.Key.Key_Escape)
    QTest.mouseRelease(floor, Qt.MouseButton.LeftButton, pos=spot(chance, floor))


def field(chance, window):
    fields = window.inspector.fields
    if not fields:
        return
    key = chance.choice(sorted(fields))
    editor = fields[key]
    if isinstance(editor, QLineEdit):
        editor.setFocus()
        editor.selectAll()
        QTest.keyClicks(editor, chance.choice(TEXTS))
        if chance.random() < 0.8:
            QTest.keyClick(editor, Qt.Key.Key_Return)
    elif isinstance(editor, QComboBox):
        index = chance.randrange(editor.count())
        editor.setCurrentIndex(index)
        editor.activated.emit(index)
    elif isinstance(editor, QPushButton):
        QTest.mouseClick(editor, Qt.MouseButton.LeftButton)


def select(chance, window):
    window.workspace.select(
        chance.choice([None, *window.workspace.project.element, *window.workspace.project.pickup])
    )


def command(chance, window):
    actions = {
        n: a
        for n, a in window.menus.actions.items()
        if n not in ENDS and not n.startswith(("open", "new-"))
    }
    name = chance.choice(sorted(actions))
    if actions[name].isEnabled():
        actions[name].trigger()


def offered(chance, window):
    """Ask for an offer, wait for a while, point at rows, take one."""
    workspace = window.workspace
    if workspace.asked is None:
        workspace.ask_for(
            chance.choice(("ducts", "unconnected", "sizes", "places")),
            chance.choice(("", "cyclone")),
        )
        return
    QTest.qWait(chance.choice((0, 50, 400)))
    window.grab()
    workspace.point_at(chance.choice((None, 0, 1, 9)))
    if chance.random() < 0.5:
        workspace.take(chance.randint(0, 3))


def helper_ends(chance, window):
    """A helper is gone, and perhaps others are called."""
    crew = window.background.crew
    if crew.helpers:
        crew.helpers[0].process.kill()
        if chance.random() < 0.5:
            window.background.dismiss()
            window.background.call_helpers()


ACTS = {
    drag: 4,
    field: 6,
    select: 4,
    command: 4,
    lambda c, w: QTest.mouseClick(w.floor, Qt.MouseButton.LeftButton, pos=spot(c, w.floor)): 3,
    lambda c, w: QTest.keyClick(w.floor, c.choice(KEYS)): 4,
    lambda c, w: QTest.mouseClick(w.strip, Qt.MouseButton.LeftButton, pos=spot(c, w.strip)): 3,
    lambda c, w: w.workspace.go(c.choice(STAGES).name): 2,
    lambda c, w: [w.workspace.undo() for _ in range(c.randint(1, 6))]: 1,
    offered: 1,
    helper_ends: 0.1,
    lambda c, w: w.search.find_all(): 1,
    lambda c, w: w.grab(): 1,
}


@pytest.mark.sweep
@pytest.mark.parametrize(
    ("name", "seed"), [("loft", 1), ("allotment", 2), ("empty", 3), ("made up", 4), ("made up", 5)]
)
def test_anything_may_be_done_and_undone(window, qtbot, monkeypatch, name, seed):
    for kind in (QDialog, QMessageBox):
        monkeypatch.setattr(kind, "exec", lambda *a: 0)
    for ask in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, ask, lambda *a, **k: ("", ""))
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: "")
    for ask in ("getText", "getItem"):
        monkeypatch.setattr(QInputDialog, ask, lambda *a, **k: ("", False))
    chance = random.Random(seed)
    if name == "made up":
        window.workspace.show_project(made_up(seed * STEPS), None)
    else:
        window.open_demo(name)
    first = window.workspace.project
    if name != "empty":
        window.background.call_helpers()
    acts, weights = list(ACTS), list(ACTS.values())
    with qtbot.captureExceptions() as raised:
        for step in range(STEPS):
            act = chance.choices(acts, weights)[0]
            with contextlib.suppress(
                GreyCurrentError
            ):  # refused in a sentence, as a caller outside the window gets it
                act(chance, window)
            assert not raised, (step, act, raised)
    window.background.dismiss()
    window.workspace.abort()
    for _ in range(250):
        window.workspace.undo()
    assert window.workspace.project == first

"""What the pointer does on the floor: what every stage's tool has in common."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter

from grey_current.desk.floor.canvas import Canvas
from grey_current.desk.floor.scene import FloorScene
from grey_current.shop import edits
from grey_current.shop.edits import Edit
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.snap import snapped
from grey_current.units import INCH
from grey_current.workspace.workspace import Workspace

# Pixels within which something small is hit, and within which things snap.
REACH = 9.0
DRAG_FROM = 4.0


class Tool:
    """Base: clicks select, drags move what is selected, and what is in hand is put down."""

    def __init__(self, floor: Canvas) -> None:
        self.floor = floor
        self._pressed: QPointF | None = None
        self._grabbed: str | None = None

    @property
    def workspace(self) -> Workspace:
        return self.floor.workspace

    @property
    def project(self) -> Project:
        return self.workspace.project

    @property
    def scene(self) -> FloorScene:
        return self.floor.scene

    @property
    def wants_keys(self) -> bool:
        """Whether letters typed now belong to this tool and not to the window's shortcuts."""
        return False

    @property
    def step(self) -> float:
        """The smallest move: an inch or 10 mm."""
        return INCH if self.project.settings.units == "us" else 0.01

    def hit(self, spot: QPointF) -> str | None:
        """The id or reference of what this tool finds at a pixel."""
        raise NotImplementedError

    def draggable(self, ref: str) -> bool:
        """Whether this tool moves something."""
        return edits.movable(self.project, ref)

    def press(self, spot: QPointF, together: bool) -> bool:
        """The left button goes down; returns whether the tool takes the drag that may follow."""
        self._pressed, self._grabbed = spot, None
        if self.workspace.placing is not None:
            self.put_down(spot)
            return True
        found = self.hit(spot)
        if together or found is None or found not in self.workspace.selected:
            self.workspace.select(found, together)
        self._grabbed = self.handle(found) if found and not together else None
        return found is not None

    def handle(self, found: str) -> str | None:
        """What a drag that begins on something moves: the thing itself, or the machine that it
        belongs to.
        """
        owner = found if self.draggable(found) else found.split("/", maxsplit=1)[0]
        return owner if self.draggable(owner) else None

    def put_down(self, spot: QPointF) -> None:
        """Put down what is in hand."""
        placing = self.workspace.placing
        if placing is not None:
            x, y = (round(v / self.step) * self.step for v in self.floor.view.place(spot))
            self.floor.attempt(lambda: self.workspace.put(placing, x, y))

    def drag(self, spot: QPointF) -> None:
        """The pointer moves with the button down."""
        if self._pressed is None or self._grabbed is None:
            return
        moved = spot - self._pressed
        if not self.workspace.in_gesture and math.hypot(moved.x(), moved.y()) < DRAG_FROM:
            return
        if not self.workspace.in_gesture:
            self.workspace.begin(self.label(self._grabbed))
        change = self.move(
            self._grabbed, moved.x() / self.floor.view.scale, -moved.y() / self.floor.view.scale
        )
        self.floor.attempt(lambda: self.workspace.preview(change))

    def label(self, ref: str) -> str:
        """What a drag is called in the undo list."""
        return f"Move {called(self.project, ref)}"

    def move(self, ref: str, dx: float, dy: float) -> Edit:
        """The edit that a drag by (dx, dy) m makes, counted from where the drag began."""
        chosen = tuple(r for r in self.workspace.selected if self.draggable(r))
        together = chosen if ref in chosen else (ref,)

        def change(project: Project) -> Project:
            x, y = snapped(project, together, dx, dy, REACH / self.floor.view.scale, self.step)
            return edits.moved_all(project, together, x, y)

        return change

    def release(self) -> None:
        """The button comes up."""
        self._pressed = self._grabbed = None
        self.workspace.commit()

    def key(self, event: QKeyEvent) -> bool:
        """A key that this tool may want; returns whether it took it."""
        arrows = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        if event.key() not in arrows:
            return False
        x, y = arrows[Qt.Key(event.key())]
        far = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        return self.nudge(x * far * self.step, y * far * self.step)

    def nudge(self, dx: float, dy: float) -> bool:
        """Move what is selected by a step; returns whether there was anything to move."""
        chosen = tuple(r for r in self.workspace.selected if self.draggable(r))
        if not chosen:
            return False
        step = self.label(chosen[-1])
        self.floor.attempt(
            lambda: self.workspace.edit(step, lambda p: edits.moved_all(p, chosen, dx, dy))
        )
        return True

    def hover(self, spot: QPointF) -> None:
        """The pointer moves with no button down."""

    def stop(self) -> None:
        """Let go of everything that is under way."""
        self._pressed = self._grabbed = None

    def paint(self, painter: QPainter) -> None:
        """Paint what belongs to the tool itself, over the floor."""


def near_port(tool: Tool, spot: QPointF) -> str | None:
    """The pickup whose port is at a pixel."""
    view = tool.floor.view
    for machine in tool.scene.machines:
        for ref, place, port in machine.ports:
            if far(view.point(place), spot) <= max(port * view.scale / 2, 4.0):
                return ref
    return None


def on_body(tool: Tool, spot: QPointF) -> str | None:
    """The machine or collector that covers a pixel."""
    bodies = [(m.machine, m.corners) for m in tool.scene.machines]
    bodies += [(c.collector, c.corners) for c in tool.scene.collectors]
    for ident, corners in reversed(bodies):
        if tool.floor.view.polygon(corners).containsPoint(spot, Qt.FillRule.OddEvenFill):
            return ident
    return None


def far(a: QPointF, b: QPointF) -> float:
    """Distance of two pixels."""
    return math.hypot(a.x() - b.x(), a.y() - b.y())

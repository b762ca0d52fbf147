"""The floor: the plan to scale. Points, drags, zooms; painting is in `floor_paint`."""

from __future__ import annotations

import itertools
import math
import time
from dataclasses import replace

from PyQt6.QtCore import QPointF, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QWidget

from grey_current.desk.floor_paint import View, paint_floor, paint_flow
from grey_current.desk.floor_scene import FloorScene, build_scene, off_line
from grey_current.desk.theme import Palette
from grey_current.shop import edits
from grey_current.units import INCH
from grey_current.workspace.workspace import Workspace

MARGIN = 46
FRAME_MS = 33
REACH = 9.0
"""Pixels within which a gate or a point is hit."""
SCALES = (8.0, 1200.0)
DRAG_FROM = 4


class Floor(QWidget):
    """The plan of the shop. No signals: it tells the workspace, and is told by `show_workspace`."""

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__()
        self.workspace, self.colours = workspace, palette
        self.setMinimumSize(320, 220)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Floor plan")
        self.view = View(60.0, 0.0, 0.0)
        self._fitted = True
        self._scene: FloorScene = build_scene(workspace.assessment, workspace.use)
        self._still: QPixmap | None = None
        self._pressed: QPointF | None = None
        self._drag: str | None = None
        self._panning = False
        self._clock = QTimer(self)
        self._clock.setInterval(FRAME_MS)
        self._clock.timeout.connect(self.update)
        self._started = time.monotonic()
        self.moving = False

    # -- what is shown

    def show_workspace(self, palette: Palette | None = None, refit: bool = False) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        self._scene = build_scene(self.workspace.assessment, self.workspace.use)
        self._still = None
        if refit:
            self.fit()
        self._run_clock()
        self.update()

    def set_moving(self, moving: bool) -> None:
        """Let the chevrons move, or stand."""
        self.moving = moving
        self._run_clock()
        self.update()

    def _run_clock(self) -> None:
        if self.moving and self.workspace.running and self.isVisible():
            self._clock.start()
        else:
            self._clock.stop()

    def fit(self) -> None:
        """Show the whole room."""
        xs, ys = zip(*self.workspace.project.room.outline, strict=True)
        wide, deep = max(xs) - min(xs), max(ys) - min(ys)
        scale = min((self.width() - 2 * MARGIN) / wide, (self.height() - 2 * MARGIN) / deep)
        scale = min(max(scale, SCALES[0]), SCALES[1])
        left = self.width() / 2 - scale * (min(xs) + wide / 2) + 8
        bottom = self.height() / 2 + scale * (min(ys) + deep / 2) - 8
        self.view, self._fitted, self._still = View(scale, left, bottom), True, None
        self.update()

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        """Closer (factor above 1) or farther, keeping the place at a pixel where it is."""
        at = at or QPointF(self.width() / 2, self.height() / 2)
        scale = min(max(self.view.scale * factor, SCALES[0]), SCALES[1])
        ratio = scale / self.view.scale
        left = at.x() + (self.view.left - at.x()) * ratio
        bottom = at.y() + (self.view.bottom - at.y()) * ratio
        self.view, self._fitted, self._still = View(scale, left, bottom), False, None
        self.update()

    def pan(self, dx: float, dy: float) -> None:
        """Move the paper by pixels."""
        self.view = replace(self.view, left=self.view.left + dx, bottom=self.view.bottom + dy)
        self._fitted, self._still = False, None
        self.update()

    # -- painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        if self._still is None:
            self._still = self._painted_still()
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._still)
        if self.workspace.running:
            seconds = time.monotonic() - self._started if self.moving else 0.5
            paint_flow(painter, self._scene.ducts, self.view, self.colours, seconds)
        painter.end()

    def _painted_still(self) -> QPixmap:
        ratio = self.devicePixelRatioF()
        still = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
        still.setDevicePixelRatio(ratio)
        still.fill(self.colours.bench)
        painter = QPainter(still)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_floor(painter, self._scene, self.view, self.colours, self.workspace.selection)
        painter.end()
        return still

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._still = None
        if self._fitted:
            self.fit()

    # -- pointing

    def hit(self, spot: QPointF) -> str | None:
        """The id or reference of what is at a pixel: gates and ports before ducts, ducts before machines."""
        return (
            self._near_gate(spot) or self._near_port(spot) or self._near_point(spot)
            or self._on_duct(spot) or self._on_body(spot)
        )  # fmt: skip

    def _near_gate(self, spot: QPointF) -> str | None:
        near = [(_far(self.view.point(g.at), spot), g.gate) for g in self._scene.gates]
        return min((found for found in near if found[0] < REACH), default=(0.0, None))[1]

    def _near_port(self, spot: QPointF) -> str | None:
        for machine in self._scene.machines:
            for ref, place, port in machine.ports:
                if _far(self.view.point(place), spot) <= max(port * self.view.scale / 2, 4.0):
                    return ref
        return None

    def _near_point(self, spot: QPointF) -> str | None:
        near = [
            (_far(self.view.point((point.x, point.y)), spot), point.id)
            for point in self.workspace.project.points
        ]
        return min((found for found in near if found[0] < REACH * 0.7), default=(0.0, None))[1]

    def _on_duct(self, spot: QPointF) -> str | None:
        x, y = self.view.place(spot)
        for duct in reversed(self._scene.ducts):
            reach = max(duct.width / 2, 4.0 / self.view.scale)
            left, low, right, high = duct.bounds
            inside = left - reach <= x <= right + reach and low - reach <= y <= high + reach
            if inside and any(off_line(a, b, (x, y)) <= reach for a, b in itertools.pairwise(duct.line)):
                return duct.run
        return None

    def _on_body(self, spot: QPointF) -> str | None:
        bodies = [(m.machine, m.corners) for m in self._scene.machines]
        bodies += [(c.collector, c.corners) for c in self._scene.collectors]
        for ident, corners in reversed(bodies):
            if self.view.polygon(corners).containsPoint(spot, Qt.FillRule.OddEvenFill):
                return ident
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self._pressed = event.position()
        if event.button() == Qt.MouseButton.LeftButton:
            found = self.hit(event.position())
            self.workspace.select(found)
            project = self.workspace.project
            body = found.split("/")[0] if found else None
            self._drag = body if body in project.machine or body in project.collector else None
            self._panning = found is None
        else:
            self._panning = event.button() == Qt.MouseButton.MiddleButton

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed is None:
            self._point_at(event)
            return
        moved = event.position() - self._pressed
        if self._panning:
            self.pan(moved.x(), moved.y())
            self._pressed = event.position()
        elif self._drag and (self.workspace.in_gesture or math.hypot(moved.x(), moved.y()) >= DRAG_FROM):
            self._drag_to(moved)

    def _point_at(self, event: QMouseEvent | None) -> None:
        if event is not None:
            found = self.hit(event.position())
            shape = Qt.CursorShape.PointingHandCursor if found else Qt.CursorShape.ArrowCursor
            self.setCursor(shape)

    def _drag_to(self, moved: QPointF) -> None:
        ident = self._drag or ""
        if not self.workspace.in_gesture:
            item = self.workspace.project.find(ident)
            self.workspace.begin(f"Move the {getattr(item, 'name', ident).lower()}")
        step = INCH if self.workspace.project.settings.units == "us" else 0.01
        dx = round(moved.x() / self.view.scale / step) * step
        dy = round(-moved.y() / self.view.scale / step) * step
        self.workspace.preview(lambda project: edits.moved(project, ident, dx, dy))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        del event
        self.workspace.commit()
        self._pressed, self._drag, self._panning = None, None, False

    def stop_drag(self) -> bool:
        """Take a drag back that is under way; answers whether there was one."""
        dragging = self.workspace.in_gesture
        self._drag = None
        self.workspace.abort()
        return dragging

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and event.angleDelta().y():
            self.zoom(1.0015 ** event.angleDelta().y(), event.position())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        arrows = {
            Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1),
        }  # fmt: skip
        if event.key() in arrows:
            self._nudge(*arrows[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    def _nudge(self, x: int, y: int) -> None:
        """An arrow key: the selected machine by an inch or 10 mm, or else the paper."""
        chosen = self.workspace.selection
        project = self.workspace.project
        if chosen and (chosen in project.machine or chosen in project.collector):
            step = INCH if project.settings.units == "us" else 0.01
            name = getattr(project.find(chosen), "name", chosen)
            self.workspace.edit(
                f"Move the {name.lower()}", lambda p: edits.moved(p, chosen, x * step, y * step)
            )
        else:
            self.pan(-40 * x, 40 * y)


def _far(a: QPointF, b: QPointF) -> float:
    return math.hypot(a.x() - b.x(), a.y() - b.y())

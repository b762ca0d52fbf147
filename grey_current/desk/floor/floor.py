"""The floor: the plan to scale. Shows, pans and zooms; what the pointer does is in `tools`."""

from __future__ import annotations

import base64
import time
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Protocol

from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPixmap,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QToolTip, QWidget

from grey_current.desk.floor.before import Before
from grey_current.desk.floor.paint import paint_flow
from grey_current.desk.floor.scene import Emphasis, FloorScene, build_scene
from grey_current.desk.floor.spoken import spoken
from grey_current.desk.floor.static_layer import Look, StillLayer
from grey_current.desk.floor.tool import Tool
from grey_current.desk.floor.view import View
from grey_current.desk.plain import tip
from grey_current.desk.theme import Palette
from grey_current.errors import GreyCurrentError
from grey_current.shop.places import XY
from grey_current.workspace.workspace import Workspace

MARGIN = 34
FRAME_MS = 33
SCALES = (8.0, 1200.0)
ABOUT_LINE = "Drag it over the plan: left of it is the design before (5)."
IN_THE_PAST = (
    "Left of the line is the design before: put things down on its right, or drag the line back."
)


class FloorStage(Protocol):
    """What the floor wants to know of a stage of the work: what stands out, and what the pointer
    does.
    """

    @property
    def emphasis(self) -> Emphasis:
        """What stands out."""

    @property
    def tool(self) -> type[Tool]:
        """What the pointer does."""


class Floor(QWidget):
    """The plan of the shop. Signals: `refused` (a sentence), `scale_asked` (two places on the
    underlay), `menu_asked` (where on the screen) for what is selected then.
    """

    refused = pyqtSignal(str)
    scale_asked = pyqtSignal(tuple, tuple)
    menu_asked = pyqtSignal(QPoint)

    def __init__(
        self, workspace: Workspace, palette: Palette, stages: Mapping[str, FloorStage]
    ) -> None:
        super().__init__()
        self.workspace, self.colours, self._stages = workspace, palette, stages
        self.setMinimumSize(200, 100)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setAccessibleName("Floor plan")
        self.view = View(60.0, 0.0, 0.0)
        self._fitted = True
        self.scene: FloorScene = build_scene(workspace, self._stage.emphasis)
        # One tool for all stages that share it: what it has in hand survives the change.
        makers = {view.tool for view in stages.values()}
        self._tools = {maker: maker(self) for maker in makers}
        self._still = StillLayer()
        self.before = Before()
        self._dividing = False
        self._underlay: tuple[str, QPixmap] | None = None
        self._panned_from: QPointF | None = None
        self._dragging = False
        self._clock = QTimer(self)
        self._clock.setInterval(FRAME_MS)
        self._clock.timeout.connect(self.update)
        self._started = time.monotonic()
        self.moving = False

    @property
    def _stage(self) -> FloorStage:
        return self._stages[self.workspace.stage]

    @property
    def _emphasis(self) -> Emphasis:
        """What stands out: where the search offers something, the air of that."""
        return "air" if self.workspace.pointed_row is not None else self._stage.emphasis

    @property
    def tool(self) -> Tool:
        """What the pointer does at this stage."""
        return self._tools[self._stage.tool]

    # -- what is shown

    def show_workspace(self, palette: Palette | None = None, refit: bool = False) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        rooms = self.scene.project.rooms
        self.scene = build_scene(self.workspace, self._emphasis, self.scene.all_lanes)
        if refit or (
            rooms != self.scene.project.rooms
            and not self.workspace.in_gesture
            and self._wants_fit()
        ):
            self.fit()
        self.before.show_workspace(self.workspace)
        self.setAccessibleDescription(spoken(self.workspace, self.scene))
        self._run_clock()
        self.update()

    def _wants_fit(self) -> bool:
        """Whether rooms that changed their size are to be shown anew: all of them were in sight, or
        are no more.
        """
        corners = [self.view.point(corner) for corner in self.workspace.project.corners]
        return self._fitted or not all(QRectF(self.rect()).contains(spot) for spot in corners)

    def set_all_lanes(self, shown: bool) -> None:
        """Show the lanes of all machines, or only of those that are selected or run."""
        self.scene = replace(self.scene, all_lanes=shown)
        self.update()

    def toggle_before(self) -> None:
        """Show the kept design that is compared with on the left half, or the present one all
        over.
        """
        self.before.divide = 0.0 if self.before.divide > 0 else 0.5
        self.update()

    def set_moving(self, moving: bool) -> None:
        """Let the chevrons move, or stand."""
        self.moving = moving
        self._run_clock()
        self.update()

    @property
    def _flowing(self) -> bool:
        return bool(self.workspace.running) and self._stage.emphasis == "air"

    def _run_clock(self) -> None:
        if self.moving and (self._flowing or self.scene.ghost) and self.isVisible():
            self._clock.start()
        else:
            self._clock.stop()

    def fit(self) -> None:
        """Show all rooms."""
        corners = self.workspace.project.corners
        view = View.fitted(corners, self.width(), self.height(), MARGIN, SCALES)
        # Lengths of walls stand on the left and below.
        self.view = replace(view, left=view.left + 8, bottom=view.bottom - 8)
        self._fitted = True
        self.update()

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        """Closer (factor above 1) or farther, keeping the place at a pixel where it is."""
        at = at or QPointF(self.width() / 2, self.height() / 2)
        scale = min(max(self.view.scale * factor, SCALES[0]), SCALES[1])
        ratio = scale / self.view.scale
        left = at.x() + (self.view.left - at.x()) * ratio
        bottom = at.y() + (self.view.bottom - at.y()) * ratio
        self.view, self._fitted = View(scale, left, bottom), False
        self.update()

    def pan(self, dx: float, dy: float) -> None:
        """Move the paper by pixels."""
        self.view = replace(self.view, left=self.view.left + dx, bottom=self.view.bottom + dy)
        self._fitted = False
        self.update()

    # -- painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        look = Look(
            self.size(),
            self.devicePixelRatioF(),
            self.scene,
            self.view,
            self.colours,
            self.workspace.lit,
            self._emphasis,
        )
        still = self._still.picture(look, self._underlay_picture(), not self.workspace.in_gesture)
        painter = QPainter(self)
        painter.drawPixmap(0, 0, still)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._flowing or self.scene.ghost:
            seconds = time.monotonic() - self._started if self.moving else 0.5
            paint_flow(painter, self.scene.ducts, self.view, self.colours, seconds)
        if not self.scene.ghost:
            name = self.workspace.compared_name
            self.before.paint(painter, look, self._underlay_picture(), name)
        self.tool.paint(painter)
        painter.end()

    def _underlay_picture(self) -> QPixmap | None:
        """The underlay's picture, decoded once."""
        under = self.workspace.project.underlay
        if under is None or under.picture is None:
            return None
        if self._underlay is None or self._underlay[0] is not under.picture:
            pixmap = QPixmap()
            pixmap.loadFromData(base64.b64decode(under.picture))
            self._underlay = (under.picture, pixmap)
        return self._underlay[1]

    # -- pointing

    def ask_scale(self, first: XY, second: XY) -> None:
        """Two places on the plan underneath were pointed at."""
        self.scale_asked.emit(first, second)

    def hit(self, spot: QPointF) -> str | None:
        """The id or reference of what is at a pixel, as this stage's tool sees it; of the design
        before nothing.
        """
        return None if self.before.covers(spot, self.width()) else self.tool.hit(spot)

    def attempt(self, action: Callable[[], None]) -> None:
        """Do something that may be refused; the sentence goes out as `refused`."""
        try:
            action()
        except GreyCurrentError as problem:
            self.refused.emit(str(problem))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self._panned_from = None
        spot = event.position()
        if self.before.at_line(spot, self.width(), self.height()):
            self._dividing = True
        elif self.before.covers(spot, self.width()):
            # What was cannot be changed; the paper can be moved.
            self._panned_from = spot
            if self.workspace.placing is not None:
                self.refused.emit(IN_THE_PAST)
        elif event.button() == Qt.MouseButton.LeftButton:
            together = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._dragging = self.tool.press(event.position(), together)
            if not self._dragging:
                self._panned_from = event.position()
        elif event.button() == Qt.MouseButton.MiddleButton:
            self._panned_from = event.position()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self._dividing:
            self.before.drag(event.position(), self.width())
            self.update()
        elif self._panned_from is not None:
            moved = event.position() - self._panned_from
            self.pan(moved.x(), moved.y())
            self._panned_from = event.position()
        elif self._dragging:
            self.tool.drag(event.position())
        else:
            self.tool.hover(event.position())
            self._show_cursor(event.position())

    def _show_cursor(self, spot: QPointF) -> None:
        if self.workspace.placing is not None:
            shape = Qt.CursorShape.CrossCursor
        elif self.before.at_line(spot, self.width(), self.height()):
            shape = Qt.CursorShape.SplitHCursor
        else:
            shape = (
                Qt.CursorShape.PointingHandCursor if self.hit(spot) else Qt.CursorShape.ArrowCursor
            )
        if self.cursor().shape() != shape:
            self.setCursor(shape)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        del event
        self._panned_from, self._dragging, self._dividing = None, False, False
        self.tool.release()
        self.update()

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """Open the menu of what is pointed at, or by the keyboard of what is selected; while
        something is in hand this puts it away.
        """
        if event is None or self.stop():
            return
        if event.reason() == QContextMenuEvent.Reason.Keyboard:
            self.menu_asked.emit(self.mapToGlobal(self.rect().center()))
            return
        hit = self.hit(QPointF(event.pos()))
        if hit not in self.workspace.selected:
            self.workspace.select(hit)
        self.menu_asked.emit(event.globalPos())

    def stop(self) -> bool:
        """Let go of a drag or of what is in hand; returns whether there was anything."""
        busy = self.workspace.in_gesture or self.workspace.placing is not None
        self._dragging = False
        self.tool.stop()
        self.workspace.abort()
        self.workspace.arm(None)
        self.update()
        return busy

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and event.angleDelta().y():
            self.zoom(1.0015 ** event.angleDelta().y(), event.position())

    def event(self, event: QEvent | None) -> bool:
        """While a length is typed, its letters are not the window's shortcuts; Esc still is. The
        line before which the kept design lies says so.
        """
        if isinstance(event, QKeyEvent) and self._is_typed_length(event):
            event.accept()
            return True
        if isinstance(event, QHelpEvent):
            at_line = self.before.at_line(QPointF(event.pos()), self.width(), self.height())
            QToolTip.showText(event.globalPos(), tip(ABOUT_LINE) if at_line else "", self)
            return True
        return super().event(event)

    def _is_typed_length(self, event: QKeyEvent) -> bool:
        asked = event.type() == QEvent.Type.ShortcutOverride
        return asked and self.tool.wants_keys and event.key() != Qt.Key.Key_Escape

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self.tool.key(event):
            return
        arrows = {
            Qt.Key.Key_Left: (40, 0),
            Qt.Key.Key_Right: (-40, 0),
            Qt.Key.Key_Up: (0, 40),
            Qt.Key.Key_Down: (0, -40),
        }
        if event.key() in arrows:
            self.pan(*arrows[Qt.Key(event.key())])
        else:
            super().keyPressEvent(event)

    # -- things dragged in from the strips

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and self.workspace.placing is not None:
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent | None) -> None:
        if event is not None and self.workspace.placing is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event is None or self.workspace.placing is None:
            return
        if self.before.covers(event.position(), self.width()):
            self.refused.emit(IN_THE_PAST)
            return
        self.tool.put_down(event.position())
        event.acceptProposedAction()
        self.setFocus()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self._fitted:
            self.fit()

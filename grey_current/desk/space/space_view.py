"""The shop in space. Turned, moved and zoomed by the mouse or by keys; a click selects what the
plan selects, a drag lifts the duct that is selected, two clicks measure.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QHelpEvent,
    QHideEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QShowEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSlider, QToolTip, QVBoxLayout, QWidget

from grey_current.build.solid.camera import Camera
from grey_current.build.solid.presets import Preset, all_of, ceiling_of, looking_at, preset
from grey_current.desk.choice_box import ChoiceBox
from grey_current.desk.floor.scene import FloorScene
from grey_current.desk.floor.spoken import spoken
from grey_current.desk.plain import plain_label, tip
from grey_current.desk.space.overlay import BAR, Overlay
from grey_current.desk.space.picture import SHARP, SpacePicture
from grey_current.desk.theme import SPACE, Palette
from grey_current.errors import GreyCurrentError
from grey_current.shop.duct_edits import with_height_changed
from grey_current.shop.names import called
from grey_current.shop.places import XYZ, position
from grey_current.units import INCH, Display
from grey_current.workspace.workspace import Workspace

# Whence one looks, as the choice has it; at what is selected one goes near.
CHOSEN = "chosen"
LOOKS = (
    ("corner", "Look at all"),
    ("above", "From above"),
    ("door", "From the door"),
    ("main", "Along the main"),
    (CHOSEN, "What is selected"),
)
# Degrees that a pixel of a drag turns the eye; a press of an arrow key.
DRAG_TURN, KEY_TURN = 0.35, 6.0
# Pixels from which on a press is a drag, and within which the line between two designs is taken in
# hand.
DRAG_FROM, NEAR_LINE = 4.0, 7.0
# ms after the last movement until the picture is drawn finely; between two pictures of moving air.
FINE_AFTER, FRAME_MS = 140, 33
# ms that this view lags behind what is dragged on the plan; s at which air that stands is drawn.
LATE, STANDING = 90, 0.4


class SpaceView(QWidget):
    """The picture. Signals: `refused` (a sentence), `menu_asked` (where on the screen)."""

    refused = pyqtSignal(str)
    menu_asked = pyqtSignal(QPoint)

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__()
        self.workspace, self.colours = workspace, palette
        self.setMinimumSize(200, 100)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("The shop in space")
        self.camera = Camera((0.0, 0.0, 1.0))
        self.moving = False
        # Two places that are measured between, m.
        self.measured: list[XYZ] = []
        self._fitted, self._fine = True, True
        self.picture = SpacePicture(workspace)
        self._dividing = False
        self._image = QImage()
        self._pressed: QPointF | None = None
        self._dragged: Qt.MouseButton | None = None
        self._lifting: str | None = None
        self._started = time.monotonic()
        self._step_seen = 0
        self._settle = QTimer(self)
        self._settle.setSingleShot(True)
        self._settle.setInterval(FINE_AFTER)
        self._settle.timeout.connect(self.draw_finely)
        self._late = QTimer(self)
        self._late.setSingleShot(True)
        self._late.setInterval(LATE)
        self._late.timeout.connect(self._show)
        self._clock = QTimer(self)
        self._clock.setInterval(FRAME_MS)
        self._clock.timeout.connect(self.update)
        self._lay_out()
        self._poll = QTimer(self)
        self._poll.setInterval(40)
        self._poll.timeout.connect(self._on_loaded)
        self._poll.start()

    def _lay_out(self) -> None:
        bar = QHBoxLayout()
        bar.setSpacing(4)
        self.looks = ChoiceBox(self)
        self.looks.call("Look from")
        self.looks.setPlaceholderText("Look from…")
        for name, words in LOOKS:
            self.looks.addItem(words, name)
        self.looks.setCurrentIndex(0)
        self.looks.activated.connect(self.on_look)
        self.measure = QPushButton("Measure")
        self.measure.setObjectName("small")
        self.measure.setCheckable(True)
        self.measure.setToolTip(tip("Click two places: how far apart they are."))
        self.measure.clicked.connect(self.on_measure)
        bar.addWidget(self.looks)
        bar.addWidget(self.measure)
        bar.addStretch(1)
        self.cut_words = plain_label("All heights", "soft")
        self.cut = QSlider(Qt.Orientation.Horizontal)
        self.cut.setAccessibleName("Cut off what is higher")
        self.cut.setToolTip(tip("Cut off what is higher than this."))
        self.cut.setFixedWidth(70)
        self.cut.valueChanged.connect(self.on_cut)
        bar.addWidget(self.cut_words)
        bar.addWidget(self.cut)
        column = QVBoxLayout(self)
        column.setContentsMargins(SPACE, SPACE // 2, SPACE, SPACE)
        column.addLayout(bar)
        column.addStretch(1)

    # -- what is shown

    def show_workspace(self, palette: Palette | None = None, refit: bool = False) -> None:
        """Show the workspace as it is now; what is not in sight is not made."""
        self.colours = palette or self.colours
        if not self.isVisible():
            return
        # While something is dragged on the plan this view follows a little behind.
        if self.workspace.in_gesture and self._lifting is None and self._scene is not None:
            if not self._late.isActive():
                self._late.start()
            return
        self._late.stop()
        self._show(refit)

    def _show(self, refit: bool = False) -> None:
        before = self._scene.project.rooms if self._scene is not None else None
        scene = self.picture.show_workspace()
        project = scene.project
        if before != project.rooms:
            steps = max(round(ceiling_of(project) / self._step), 1)
            self.cut.setRange(1, steps)
            self.cut.setValue(steps)
        if refit or (before != project.rooms and self._fitted):
            self.fit()
        self.setAccessibleDescription(spoken(self.workspace, scene))
        self._go_to_step()
        self.redraw()
        self._run_clock()

    def _go_to_step(self) -> None:
        """Go near to the part that is put up next, once for each step, looking the same way."""
        steps = self.workspace.steps_shown
        number = steps[-1].number if steps else 0
        if number != self._step_seen:
            self._step_seen = number
            packed = self.picture.solids() if number else None
            if packed is not None:
                from grey_current.build.solid.sight import facing_step  # noqa: PLC0415

                self.camera = facing_step(self.camera, packed, steps[-1])
                self._fitted = False
                self.looks.setCurrentIndex(-1)

    @property
    def _step(self) -> float:
        """The step of heights: 2 in or 50 mm."""
        return 2 * INCH if self.workspace.project.settings.units == "us" else 0.05

    def set_all_lanes(self, shown: bool) -> None:
        """Show the ways of the boards of all machines, or only of what is chosen or runs."""
        self.picture.set_all_lanes(shown)
        self.redraw()

    def set_moving(self, moving: bool) -> None:
        """Let the air move, or stand."""
        self.moving = moving
        self._run_clock()
        self.update()

    def _run_clock(self) -> None:
        if self.moving and self.isVisible() and self.workspace.running:
            self._clock.start()
        else:
            self._clock.stop()

    def _on_loaded(self) -> None:
        if self.picture.loaded:
            self._poll.stop()
            self.redraw()

    def redraw(self) -> None:
        """Something is seen differently: a quick picture now, a fine one once it rests."""
        self._image = QImage()
        self._fine = False
        self._settle.start()
        self.update()

    def wait(self) -> None:
        """Wait until what draws is loaded; for pictures and tests."""
        self.picture.wait()
        self._on_loaded()

    def toggle_before(self) -> None:
        """Show the design before on the left half, or the present one all over."""
        self.picture.divide = 0.0 if self.picture.divide > 0 else 0.5
        self.redraw()

    def draw_finely(self) -> None:
        """Draw the picture finely, now that it rests."""
        if not self.workspace.in_gesture and self._dragged is None:
            self._fine, self._image = True, QImage()
            self.update()

    # -- the eye

    def fit(self) -> None:
        """Show all rooms."""
        corners = all_of(self.workspace.project)
        self._look(self.camera.fitted(corners, self.width(), self.height(), BAR))
        self._fitted = True

    def _look(self, camera: Camera) -> None:
        self.camera, self._fitted = camera, False
        self.redraw()

    def zoom(self, factor: float) -> None:
        """Nearer by a factor over one, farther by one below."""
        self._look(self.camera.zoomed(factor))

    def on_look(self) -> None:
        """Look from where the choice says."""
        name = self.looks.currentData()
        if name == CHOSEN:
            self.at_selected()
        else:
            self.look_from(name)

    def look_from(self, name: Preset) -> None:
        """Look at all of the shop from somewhere."""
        size = self.width(), self.height()
        self._look(preset(self.workspace.project, name, *size, BAR))
        self._fitted = True

    def at_selected(self) -> None:
        """Go near to what is selected."""
        packed = self.picture.solids()
        if packed is not None:
            size = (float(self.width()), float(self.height()))
            near = looking_at(self.camera, packed.solids, self.picture.lit(), size, BAR)
            if near is not None:
                self._look(near)

    def on_measure(self) -> None:
        """Begin to measure, or put the tape away."""
        self.measured = []
        self.update()

    def on_cut(self) -> None:
        """Cut off what is higher."""
        whole = self.cut.value() == self.cut.maximum()
        units = self.workspace.project.settings.units
        high = self.cut.value() * self._step
        self.cut_words.setText("All heights" if whole else f"Up to {Display(units).length(high)}")
        self.redraw()

    # -- drawing

    def _draw(self) -> None:
        """Draw what the eye sees, finely once it rests."""
        ratio = self.devicePixelRatioF()
        size = max(round(self.width() * ratio), 1), max(round(self.height() * ratio), 1)
        cut = math.inf if self.cut.value() == self.cut.maximum() else self.cut.value() * self._step
        times = 2 if self._fine and ratio < SHARP else 1
        image = self.picture.draw(self.camera, self.colours, size, cut, times)
        if image is not None:
            self._image = image
            self._image.setDevicePixelRatio(ratio)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        painter = QPainter(self)
        if self._image.isNull():
            self._draw()
        scene = self._scene
        if self._image.isNull() or scene is None:
            painter.fillRect(self.rect(), self.colours.bench)
            painter.setPen(self.colours.soft)
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Drawing the shop…")
            painter.end()
            return
        painter.drawImage(0, 0, self._image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        over = Overlay(
            painter, self.camera, self.colours, self.width(), self.height(), self._depth_at
        )
        if not self.workspace.steps_shown:
            if self.workspace.running:
                over.air(scene, time.monotonic() - self._started if self.moving else STANDING)
            over.labels(scene, self.picture.lit())
        over.tape(self.measured, self.measure_words())
        if self.picture.seen_before is not None:
            over.line_between(self.picture.divide, self.workspace.compared_name)
        painter.end()

    @property
    def _scene(self) -> FloorScene | None:
        return self.picture.scene

    def _pixels(self, places: list[XYZ]) -> np.ndarray:
        """Places as the widget's pixels and their depth (m)."""
        return self.camera.seen(np.array(places, dtype=float), self.width(), self.height())

    def _depth_at(self, x: float, y: float) -> float:
        ratio, shown = self.devicePixelRatioF(), self.picture.shown_at(x / max(self.width(), 1))
        return shown.far_at(x * ratio, y * ratio) if shown is not None else math.inf

    def measure_words(self) -> str:
        """How far the two measured places are apart; empty while there are not two."""
        if len(self.measured) < 2:
            return ""
        a, b = self.measured
        say = Display(self.workspace.project.settings.units).length
        rise = abs(a[2] - b[2])
        level = math.dist(a[:2], b[:2])
        return f"{say(math.dist(a, b))}: {say(level)} along, {say(rise)} up"

    # -- pointing

    def element_at(self, spot: QPointF) -> str | None:
        """Whose solid is seen at a pixel; None for the building and for nothing."""
        ratio = self.devicePixelRatioF()
        shown = self.picture.shown_at(spot.x() / max(self.width(), 1))
        if shown is None:
            return None
        solid = shown.solid_at(spot.x() * ratio, spot.y() * ratio)
        if solid is None or self.workspace.project.find(solid.element) is None:
            return None
        return solid.element

    def place_at(self, spot: QPointF) -> XYZ | None:
        """The place (m) that is seen at a pixel; None where there is nothing."""
        depth = self._depth_at(spot.x(), spot.y())
        if not math.isfinite(depth):
            return None
        eye, way = self.camera.ray(spot.x(), spot.y(), self.width(), self.height())
        # The depth is along the eye's axis, the ray is not.
        far = depth / float(-way @ self.camera.axes()[2])
        x, y, z = (float(e + far * w) for e, w in zip(eye, way, strict=True))
        return x, y, z

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self._pressed, self._dragged = event.position(), None
        off = abs(event.position().x() - self.picture.divide * self.width())
        self._dividing = self.picture.seen_before is not None and off < NEAR_LINE
        found = None if self._dividing else self.element_at(event.position())
        left = event.button() == Qt.MouseButton.LeftButton
        chosen = found in self.workspace.selected and found in self.workspace.project.run
        self._lifting = found if left and chosen and not self.measuring else None

    @property
    def measuring(self) -> bool:
        """Whether clicks measure."""
        return self.measure.isChecked()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed is None:
            return
        if self._dividing:
            self.picture.divide = min(max(event.position().x() / max(self.width(), 1), 0.0), 1.0)
            self.redraw()
            return
        moved = event.position() - self._pressed
        if self._dragged is None and math.hypot(moved.x(), moved.y()) < DRAG_FROM:
            return
        # What was in hand may have been deleted meanwhile, and its drag cancelled.
        if self._lifting is not None and self._lifting not in self.workspace.project.run:
            self._lifting = None
        buttons, keys = event.buttons(), event.modifiers()
        if self._dragged is None:
            self._dragged = Qt.MouseButton.LeftButton
            if self._lifting is not None:
                self.workspace.begin(
                    f"Change the height of {called(self.workspace.project, self._lifting)}"
                )
        if self._lifting is not None:
            self._lift(moved.y())
            return
        pans = buttons & (Qt.MouseButton.MiddleButton | Qt.MouseButton.RightButton)
        if pans or keys & Qt.KeyboardModifier.ShiftModifier:
            self._look(self.camera.panned(moved.x(), moved.y(), self.width(), self.height()))
        else:
            self.looks.setCurrentIndex(-1)
            self._look(self.camera.orbited(-moved.x() * DRAG_TURN, moved.y() * DRAG_TURN))
        self._pressed = event.position()

    def _lift(self, down: float) -> None:
        """Preview the duct in hand higher by what the pointer went up, in whole steps."""
        run = self._lifting
        assert run is not None
        project = self.workspace.gesture_start or self.workspace.project
        middle = np.mean([position(project, end) for end in project.run[run].ends], axis=0)
        at = tuple(float(v) for v in middle)
        foot, head = self._pixels([(at[0], at[1], at[2]), (at[0], at[1], at[2] + 1.0)])
        pixels = max(float(foot[1] - head[1]), 8.0)
        higher = round(-down / pixels / self._step) * self._step
        self.attempt(lambda: self.workspace.preview(lambda p: with_height_changed(p, run, higher)))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        dragged = self._dragged is not None or self._dividing
        self._pressed, self._dividing = None, False
        self._dragged = None
        if self._lifting is not None and dragged:
            self.workspace.commit()
        elif not dragged and event.button() == Qt.MouseButton.LeftButton:
            self._click(
                event.position(), bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            )
        self._lifting = None
        self._settle.start()

    def _click(self, spot: QPointF, together: bool) -> None:
        if self.measuring:
            place = self.place_at(spot)
            if place is not None:
                self.measured = [*self.measured, place] if len(self.measured) < 2 else [place]
                self.update()
            return
        self.workspace.select(self.element_at(spot), together)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is None or event.reason() == QContextMenuEvent.Reason.Mouse:
            # A drag with the right button moves the picture.
            return
        self.menu_asked.emit(self.mapToGlobal(self.rect().center()))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None and event.angleDelta().y():
            self.zoom(1.0015 ** event.angleDelta().y())

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Arrows turn the eye, with Shift they move it; Page Up and Page Down lift what is
        selected.
        """
        if event is None:
            return
        arrows = {
            Qt.Key.Key_Left: (-1, 0),
            Qt.Key.Key_Right: (1, 0),
            Qt.Key.Key_Up: (0, 1),
            Qt.Key.Key_Down: (0, -1),
        }
        lifts = {Qt.Key.Key_PageUp: 1, Qt.Key.Key_PageDown: -1}
        if event.key() in arrows:
            x, y = arrows[Qt.Key(event.key())]
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self._look(self.camera.panned(-40 * x, 40 * y, self.width(), self.height()))
            else:
                self._look(self.camera.orbited(KEY_TURN * x, KEY_TURN * y))
        elif event.key() in lifts and self.workspace.selection in self.workspace.project.run:
            run, higher = self.workspace.selection, lifts[Qt.Key(event.key())] * self._step
            assert run is not None
            label = f"Change the height of {called(self.workspace.project, run)}"
            self.attempt(
                lambda: self.workspace.edit(label, lambda p: with_height_changed(p, run, higher))
            )
        else:
            super().keyPressEvent(event)

    def attempt(self, action: Callable[[], None]) -> None:
        """Do something that may be refused; the sentence goes out as `refused`."""
        try:
            action()
        except GreyCurrentError as problem:
            self.refused.emit(str(problem))

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            found = self.element_at(QPointF(event.pos()))
            words = self.workspace.computed.names.start(found) if found else ""
            QToolTip.showText(event.globalPos(), tip(words), self)
            return True
        return super().event(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self._fitted:
            self.fit()
        else:
            self.redraw()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.show_workspace(refit=self._scene is None)

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self._clock.stop()

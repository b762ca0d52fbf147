"""The shop in space. Turned, moved and zoomed by the mouse or by keys; a click selects what the
plan selects, a drag lifts the duct that is selected, two clicks measure.
"""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import shapely
from PyQt6.QtCore import QEvent, QPoint, QPointF, QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QColor,
    QContextMenuEvent,
    QHelpEvent,
    QHideEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QShowEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSlider, QToolTip, QVBoxLayout, QWidget

from grey_current.build.solid.camera import Camera
from grey_current.build.solid.mesh import prism
from grey_current.build.solid.presets import Preset, all_of, ceiling_of, looking_at, preset
from grey_current.build.solid.shop_solids import Solid, shop_solids, up_by_now
from grey_current.design.flow.states import gates_open
from grey_current.desk import glyphs
from grey_current.desk.choice_box import ChoiceBox
from grey_current.desk.floor.scene import FloorScene, build_scene
from grey_current.desk.floor.spoken import spoken
from grey_current.desk.plain import draw_cut, plain_label, tip
from grey_current.desk.space.colours import colour_of, rgb
from grey_current.desk.theme import SPACE, Palette, font
from grey_current.errors import GreyCurrentError
from grey_current.shop.collectors import Collector
from grey_current.shop.differences import differing
from grey_current.shop.duct_edits import with_height_changed
from grey_current.shop.machines import Machine
from grey_current.shop.names import called
from grey_current.shop.places import XYZ, bodies, position
from grey_current.shop.stacking import top_of
from grey_current.units import INCH, Display
from grey_current.workspace.workspace import Workspace

if TYPE_CHECKING:
    from grey_current.build.solid.view import Colour, Packed, Seen

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
# Pixels from which on a press is a drag, and of a label's own room.
DRAG_FROM, LABEL_HIGH = 4.0, 18.0
# m over the floor at which a name stands at most; pixels of the row of buttons.
LABEL_AT, BAR = 1.6, 34.0
# Pixels of the screen for one of ours from which on fine is fine enough; pixels within which the
# line between two designs is taken in hand.
SHARP, NEAR_LINE = 1.5, 7.0
# Problems of things that are in one another's way; m that a sheet of light is thick.
CLASHES = frozenset(
    {
        *("clash-duct", "clash-lane", "overlap", "in-the-wall", "through-wall", "above-ceiling"),
        *("no-pipe-room", "no-joint-room", "door-blocked", "too-tall", "over-table", "hose-across"),
    }
)
SHEET = 0.004
# ms after the last movement until the picture is drawn finely; between two pictures of moving air.
FINE_AFTER, FRAME_MS = 140, 33
# m between two motes of moving air, and their speed over the air's own: the eye follows slowly.
MOTES, SLOWED = 0.55, 0.06
# m/s below which air is not drawn moving; m that a mote may lie behind a duct's skin.
STILL, SKIN = 0.3, 0.16


class SpaceView(QWidget):
    """The picture. Signals: `refused` (a sentence), `menu_asked` (where on the screen)."""

    refused = pyqtSignal(str)
    menu_asked = pyqtSignal(QPoint)

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__()
        self.workspace, self.colours = workspace, palette
        self.setMinimumSize(320, 160)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("The shop in space")
        self.camera = Camera((0.0, 0.0, 1.0))
        self.seen: Seen | None = None
        self.moving = False
        # Two places that are measured between, m.
        self.measured: list[XYZ] = []
        self._fitted, self._fine = True, True
        self._packed: Packed | None = None
        # The design that is compared with, what differs, and where the two pictures meet.
        self.seen_before: Seen | None = None
        self._before: Packed | None = None
        self._of_before: object = None
        self._differing: frozenset[str] = frozenset()
        self.divide, self._dividing = 0.5, False
        self._of: object = None
        self._scene: FloorScene | None = None
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
        self._clock = QTimer(self)
        self._clock.setInterval(FRAME_MS)
        self._clock.timeout.connect(self.update)
        self._lay_out()
        self._loader = threading.Thread(target=_load, name="raster", daemon=True)
        self._loader.start()
        self._poll = QTimer(self)
        self._poll.setInterval(40)
        self._poll.timeout.connect(self._on_loaded)
        self._poll.start()

    def _lay_out(self) -> None:
        bar = QHBoxLayout()
        bar.setSpacing(4)
        self.looks = ChoiceBox(self)
        self.looks.setAccessibleName("Look from")
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
        before = self._scene.project.rooms if self._scene is not None else None
        all_lanes = self._scene is not None and self._scene.all_lanes
        self._scene = build_scene(self.workspace, "machines", all_lanes)
        project = self._scene.project
        if before != project.rooms:
            steps = max(round(ceiling_of(project) / self._step), 1)
            self.cut.setRange(1, steps)
            self.cut.setValue(steps)
        if refit or (before != project.rooms and self._fitted):
            self.fit()
        self._of = None
        self.setAccessibleDescription(spoken(self.workspace, self._scene))
        self._go_to_step()
        self.redraw()
        self._run_clock()

    def _go_to_step(self) -> None:
        """Go near to the part that is put up next, once for each step, looking the same way."""
        steps = self.workspace.steps_shown
        number = steps[-1].number if steps else 0
        if number != self._step_seen:
            self._step_seen = number
            packed = self._packed_now() if number else None
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
        if self._scene is not None:
            self._scene = replace(self._scene, all_lanes=shown)
            self._of = None
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
        if not self._loader.is_alive():
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
        self._loader.join()
        self._on_loaded()

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
        packed = self._packed_now()
        if packed is not None:
            size = (float(self.width()), float(self.height()))
            near = looking_at(self.camera, packed.solids, self._lit(), size, BAR)
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

    def _lit(self) -> frozenset[str]:
        """What stands out: of a pickup its machine, of a joint the ducts that meet there; the part
        that is put up next.
        """
        if self.workspace.steps_shown:
            return frozenset(self.workspace.steps_shown[-1].parts)
        project = self.workspace.project
        found: set[str] = set()
        for ref in self.workspace.lit:
            found.add(ref.split("/", maxsplit=1)[0])
            found.update(run.id for run in project.runs if ref in run.ends)
        return frozenset(found)

    def _packed_now(self) -> Packed | None:
        if self._scene is None or self._loader.is_alive():
            return None
        from grey_current.build.solid.view import Packed  # noqa: PLC0415 - it takes numba along

        steps = self.workspace.steps_shown
        lanes = () if steps else tuple(self._lanes())
        key = (self._scene.project, self._open_gates, len(steps), self.workspace.selected)
        if self._of != key:
            self._of = key
            assembly = self.workspace.computed.parts.assembly
            if self._scene.project is not self.workspace.project:
                from grey_current.design.parts.assembly import assemble  # noqa: PLC0415

                assembly = assemble(self._scene.project)
            solids = shop_solids(self._scene.project, assembly, self._open_gates)
            self._packed = Packed(up_by_now(solids, steps) if steps else (*solids, *lanes))
        return self._packed

    @property
    def _open_gates(self) -> frozenset[str]:
        return frozenset(gates_open(self.workspace.shown_scenario))

    def _draw(self) -> None:
        """Draw what the eye sees, finely once it rests; before and now where two designs are
        compared.
        """
        packed = self._packed_now()
        if packed is None or self._scene is None:
            return
        from grey_current.build.solid.sight import seen_through  # noqa: PLC0415
        from grey_current.build.solid.view import Look, seen  # noqa: PLC0415

        ratio = self.devicePixelRatioF()
        wide, high = max(round(self.width() * ratio), 1), max(round(self.height() * ratio), 1)
        states = {duct.run: duct.state for duct in self._scene.ducts}
        cut = np.inf if self.cut.value() == self.cut.maximum() else self.cut.value() * self._step
        p = self.colours
        lit = (
            (self._in_the_way(), rgb(p.starved)),
            (self._differing, rgb(p.short)),
            (self._lit(), rgb(p.accent)),
        )
        times = 2 if self._fine and ratio < SHARP else 1
        look = Look(
            self._colour_of(states), rgb(p.bench), rgb(p.ink), lit, times, cut, seen_through
        )
        self.seen = seen(packed, self.camera, wide, high, look)
        picture = self.seen.picture
        self.seen_before = None
        before = self._packed_before()
        if before is not None:
            plain = replace(look, colour_of=colour_of(p, {}, frozenset()))
            self.seen_before = seen(before, self.camera, wide, high, plain)
            at = round(self.divide * wide)
            picture = np.concatenate([self.seen_before.picture[:, :at], picture[:, at:]], axis=1)
        self._image = QImage(
            picture.tobytes(), wide, high, wide * 4, QImage.Format.Format_RGB32
        ).copy()
        self._image.setDevicePixelRatio(ratio)

    def _packed_before(self) -> Packed | None:
        """The kept design that the present one is compared with; None where there is none."""
        kept = self.workspace.compared_project
        if kept is None or self.workspace.steps_shown:
            self._before, self._differing, self._of_before = None, frozenset(), None
            return None
        from grey_current.build.solid.view import Packed  # noqa: PLC0415
        from grey_current.design.parts.assembly import assemble  # noqa: PLC0415

        key = (kept, self.workspace.project)
        if self._of_before != key:
            self._of_before = key
            self._before = Packed(shop_solids(kept, assemble(kept)))
            self._differing = differing(kept, self.workspace.project)
        return self._before

    def _in_the_way(self) -> frozenset[str]:
        """What is in one another's way, by the problems that are known."""
        found: set[str] = set()
        for finding in self.workspace.known_findings:
            if finding.code in CLASHES and finding.severity != "note":
                found.update((finding.element, *finding.also))
        return frozenset(ref.split("/", maxsplit=1)[0] for ref in found)

    def _lanes(self) -> Iterator[Solid]:
        """The ways of the boards as sheets of light, of what is chosen or runs."""
        scene = self._scene
        assert scene is not None
        shown = {*self.workspace.running, *(ref.split("/")[0] for ref in self.workspace.selected)}
        for lane in scene.lanes:
            if scene.all_lanes or lane.machine in shown:
                machine = scene.project.machine[lane.machine]
                high = machine.bottom + machine.table_height
                yield Solid("", "lane", prism(shapely.Polygon(lane.outline), high, high + SHEET))

    def _colour_of(self, states: dict[str, str]) -> Callable[[Solid], Colour]:
        """What solids are painted in: what is put up next in the colour of what is lit."""
        usual = colour_of(self.colours, states, frozenset(self.workspace.running))
        steps = self.workspace.steps_shown
        next_up = frozenset(steps[-1].parts) if steps else frozenset()
        lit = rgb(self.colours.accent)
        return lambda solid: lit if solid.part in next_up else usual(solid)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        painter = QPainter(self)
        if self._image.isNull():
            self._draw()
        if self._image.isNull():
            painter.fillRect(self.rect(), self.colours.bench)
            painter.setPen(self.colours.soft)
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "Drawing the shop…")
            painter.end()
            return
        painter.drawImage(0, 0, self._image)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.workspace.steps_shown:
            self._paint_air(painter)
            self._paint_labels(painter)
        self._paint_measure(painter)
        self._paint_divide(painter)
        painter.end()

    def _pixels(self, places: list[XYZ]) -> np.ndarray:
        """Places as the widget's pixels and their depth (m)."""
        return self.camera.seen(np.array(places, dtype=float), self.width(), self.height())

    def _shown_at(self, x: float) -> Seen | None:
        """The picture that is shown at a pixel across: before or now."""
        before = self.seen_before is not None and x < self.divide * self.width()
        return self.seen_before if before else self.seen

    def _depth_at(self, x: float, y: float) -> float:
        ratio, shown = self.devicePixelRatioF(), self._shown_at(x)
        return shown.far_at(x * ratio, y * ratio) if shown is not None else math.inf

    def _paint_labels(self, painter: QPainter) -> None:
        """Names with their state over machines and collectors, none over another."""
        scene = self._scene
        assert scene is not None
        project = scene.project
        states = {shape.machine: shape.state for shape in scene.machines}
        named: list[tuple[Machine | Collector, XYZ, str]] = [
            (item, (item.x, item.y, min(top_of(item), LABEL_AT) + 0.12), states.get(item.id, ""))
            for item in bodies(project)
        ]
        if not named:
            return
        spots = self._pixels([at for _, at, _ in named])
        taken: list[QRectF] = [QRectF(0, 0, self.width(), 30)]
        painter.setFont(font("small"))
        chosen = self._lit()
        for number in np.argsort(spots[:, 2]):
            (item, _, state), (x, y, depth) = named[number], spots[number]
            if depth <= 0:
                continue
            wide = painter.fontMetrics().horizontalAdvance(item.name) + (22 if state else 10)
            box = QRectF(x - wide / 2, y - LABEL_HIGH / 2, wide, LABEL_HIGH)
            if any(box.intersects(other) for other in taken) or not self.rect().contains(
                box.toAlignedRect()
            ):
                continue
            taken.append(box)
            painter.setPen(QPen(self.colours.accent if item.id in chosen else self.colours.rule, 1))
            painter.setBrush(self.colours.sheet)
            painter.drawRoundedRect(box, 4, 4)
            if state:
                glyphs.draw_state(painter, QPointF(box.left() + 11, y), 10, state, self.colours)
            painter.setPen(self.colours.ink)
            words = box.adjusted(18 if state else 0, 0, 0, 0)
            painter.drawText(words, Qt.AlignmentFlag.AlignCenter, item.name)

    def _paint_air(self, painter: QPainter) -> None:
        """Motes along every duct that air moves in, hidden where something is before them."""
        scene = self._scene
        assert scene is not None
        if not self.workspace.running:
            return
        seconds = time.monotonic() - self._started if self.moving else 0.4
        places: list[XYZ] = []
        colours: list[QColor] = []
        for duct in scene.ducts:
            if abs(duct.velocity) < STILL or duct.hose:
                continue
            run = scene.project.run[duct.run]
            a, b = position(scene.project, run.start), position(scene.project, run.end)
            far = math.dist(a, b)
            phase = (seconds * duct.velocity * SLOWED) % MOTES
            count = int(max(far - phase, 0.0) / MOTES) + 1
            shares = [(phase + n * MOTES) / far for n in range(count)] if far > 0 else []
            shares = [share for share in shares if share < 1]
            # Where chips settle what lies there is seen, not the air.
            lies = duct.state == "settles"
            colours += [self.colours.settled if lies else self.colours.sheet] * len(shares)
            places += [
                (a[0] + (b[0] - a[0]) * s, a[1] + (b[1] - a[1]) * s, a[2] + (b[2] - a[2]) * s)
                for s in shares
            ]
        if not places:
            return
        painter.setPen(Qt.PenStyle.NoPen)
        for (x, y, depth), colour in zip(self._pixels(places), colours, strict=True):
            painter.setBrush(colour)
            if depth > 0 and self._depth_at(x, y) > depth - SKIN:
                painter.drawEllipse(QPointF(x, y), 1.8, 1.8)

    def _paint_divide(self, painter: QPainter) -> None:
        """The line between the design before and the present one, with their names."""
        if self.seen_before is None:
            return
        x, p = self.divide * self.width(), self.colours
        painter.setPen(QPen(p.accent, 2))
        painter.drawLine(QPointF(x, BAR), QPointF(x, self.height()))
        painter.setBrush(p.sheet)
        painter.drawEllipse(QPointF(x, self.height() / 2), 6, 6)
        painter.setFont(font("small", bold=True))
        painter.setPen(p.ink)
        foot = self.height() - 22
        left, right = Qt.AlignmentFlag.AlignRight, Qt.AlignmentFlag.AlignLeft
        draw_cut(painter, QRectF(8, foot, x - 16, 18), self._before_name, left)
        draw_cut(painter, QRectF(x + 8, foot, self.width() - x - 16, 18), "Now", right)

    @property
    def _before_name(self) -> str:
        kept = self.workspace.compared
        designs = {design.id: design.name for design in self.workspace.project.kept_designs}
        return f"Before: {designs.get(kept or '', '')}"

    def _paint_measure(self, painter: QPainter) -> None:
        if not self.measured:
            return
        spots = self._pixels(self.measured)
        painter.setPen(QPen(self.colours.accent, 2))
        painter.setBrush(self.colours.accent)
        ends = [QPointF(x, y) for x, y, _ in spots]
        for end in ends:
            painter.drawEllipse(end, 3, 3)
        if len(ends) < 2:
            return
        painter.drawLine(ends[0], ends[1])
        painter.setFont(font("small", bold=True))
        words = self.measure_words()
        wide = painter.fontMetrics().horizontalAdvance(words) + 12
        middle = (ends[0] + ends[1]) / 2
        box = QRectF(middle.x() - wide / 2, middle.y() - 10, wide, 20)
        painter.setBrush(self.colours.sheet)
        painter.drawRoundedRect(box, 4, 4)
        painter.setPen(self.colours.ink)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

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
        shown = self._shown_at(spot.x())
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
        off = abs(event.position().x() - self.divide * self.width())
        self._dividing = self.seen_before is not None and off < NEAR_LINE
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
            self.divide = min(max(event.position().x() / max(self.width(), 1), 0.0), 1.0)
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


def _load() -> None:
    """Load what draws, and let it draw a speck, so that its machine code is there."""
    from grey_current.build.solid.view import speck  # noqa: PLC0415

    speck()

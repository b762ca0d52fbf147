"""Names on the floor: which there are, where each goes, and how one is painted."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetrics, QPainter

from grey_current.desk import glyphs
from grey_current.desk.floor.building_paint import wall_width
from grey_current.desk.floor.label_places import Surroundings, WantedLabel, label_places
from grey_current.desk.floor.scene import CollectorShape, FloorScene, MachineShape
from grey_current.desk.floor.view import View
from grey_current.desk.theme import Palette, faded, font

# Pixels before a machine's name for the shape of its state.
MARK_WIDTH = 18.0
# Least radius (pixels) at which a port is drawn.
LEAST_PORT = 3.0


@dataclass(frozen=True)
class Label:
    """A name at its place in pixels, with the state whose shape stands before it, if any."""

    text: str
    left: float
    top: float
    wide: float
    high: float
    bold: bool = False
    soft: bool = False
    state: str = ""

    @property
    def box(self) -> QRectF:
        """Where it goes."""
        return QRectF(self.left, self.top, self.wide, self.high)


@dataclass(frozen=True)
class PlacedNames:
    """Where the names of a scene go, found for how it stood then."""

    wanted: tuple[WantedLabel, ...]
    places: tuple[QRectF | None, ...]
    view: View

    def moved_along(self, wanted: tuple[WantedLabel, ...]) -> tuple[QRectF | None, ...]:
        """Each name where it was, those of bodies that have moved by as much as these: nothing
        jumps about while something is dragged.
        """
        places = []
        for old, new, place in zip(self.wanted, wanted, self.places, strict=True):
            moved = self.view.point(new.corners[0]) - self.view.point(old.corners[0])
            places.append(None if place is None else place.translated(moved))
        return tuple(places)


def placed_names(scene: FloorScene, view: View, mark: bool, canvas: tuple[int, int]) -> PlacedNames:
    """A place for every name of a scene on a canvas of so many pixels across and down; `mark`
    leaves room for the state before it.
    """
    wanted = _wanted(scene, mark)
    places = label_places(wanted, surroundings(scene, view), view, canvas)
    return PlacedNames(wanted, places, view)


def names_while_dragged(before: PlacedNames, scene: FloorScene, mark: bool) -> PlacedNames | None:
    """The names of a scene in which something is dragged, from those of `before`; None when there
    are others.
    """
    wanted = _wanted(scene, mark)
    if [w.wide for w in wanted] != [w.wide for w in before.wanted]:
        return None
    return PlacedNames(wanted, before.moved_along(wanted), before.view)


def _wanted(scene: FloorScene, mark: bool) -> tuple[WantedLabel, ...]:
    """Names of machines, collectors and features. As wide as in bold type always: a name stays
    where it is when its machine is switched on.
    """
    margin = MARK_WIDTH if mark else 0.0
    machines = [(m.name, m.corners, margin) for m in scene.machines]
    collectors = [(c.name, c.corners, 0.0) for c in scene.collectors]
    wanted = [
        WantedLabel(_wide(name, True) + before + 4, corners, optional=False)
        for name, corners, before in machines + collectors
    ]
    features = scene.project.features
    wanted += [WantedLabel(_wide(f.name, False) + 4, f.outline, optional=True) for f in features]
    return tuple(wanted)


def placed_labels(scene: FloorScene, places: Sequence[QRectF | None], mark: bool) -> list[Label]:
    """What is painted for the names that have a place."""
    items: list[MachineShape | CollectorShape] = [*scene.machines, *scene.collectors]
    labels = []
    for item, place in zip(items, places, strict=False):
        if place is not None:
            state = item.state if mark and isinstance(item, MachineShape) else ""
            labels.append(_label(item.name, place, bold=item.running, state=state))
    for feature, place in zip(scene.project.features, places[len(items) :], strict=True):
        if place is not None:
            labels.append(_label(feature.name, place, soft=True))
    return labels


def surroundings(scene: FloorScene, view: View) -> Surroundings:
    """What the names of a scene keep clear of."""
    rounds = [
        (place, port / 2, LEAST_PORT)
        for machine in scene.machines
        for _, place, port in machine.ports
    ]
    for collector in scene.collectors:
        across, deep = ([corner[axis] for corner in collector.corners] for axis in (0, 1))
        middle = (min(across) + max(across)) / 2, (min(deep) + max(deep)) / 2
        rounds.append((middle, collector.radius, 0.0))
    lines = tuple((duct.line, duct.width) for duct in scene.ducts)
    rooms = tuple(room.outline for room in scene.project.rooms)
    return Surroundings(lines, tuple(rounds), rooms, wall_width(view))


def _label(
    name: str, place: QRectF, *, bold: bool = False, soft: bool = False, state: str = ""
) -> Label:
    """A label at its place; a name that had to be cut short ends in dots."""
    room = place.width() - 4 - (MARK_WIDTH if state else 0.0)
    text = name if _wide(name, bold) <= room else _shortened(name, bold, int(room))
    return Label(text, place.left(), place.top(), place.width(), place.height(), bold, soft, state)


@lru_cache(maxsize=2048)
def _wide(text: str, bold: bool) -> int:
    return QFontMetrics(font("small", bold)).horizontalAdvance(text)


@lru_cache(maxsize=2048)
def _shortened(text: str, bold: bool, room: int) -> str:
    metrics = QFontMetrics(font("small", bold))
    return metrics.elidedText(text, Qt.TextElideMode.ElideRight, room)


def label_box(label: Label) -> QRectF:
    """The pixels that a label takes."""
    return label.box.adjusted(-6, -6, 6, 6)


def paint_label(painter: QPainter, label: Label, p: Palette) -> None:
    """A name at its place, and before it the machine's state."""
    margin = MARK_WIDTH if label.state else 0.0
    centre = label.box.center()
    text = QPointF(centre.x() + margin / 2, centre.y())
    halo_text(painter, text, label.text, p, bold=label.bold, soft=label.soft)
    if label.state:
        spot = QPointF(label.left + 9, centre.y())
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(faded(p.sheet, 215))
        painter.drawEllipse(spot, 8, 8)
        glyphs.draw_state(painter, spot, 11, label.state, p)


def halo_text(
    painter: QPainter,
    centre: QPointF,
    text: str,
    p: Palette,
    *,
    bold: bool = False,
    soft: bool = False,
) -> None:
    """Text that stays readable over lines: on a patch of paper."""
    painter.setFont(font("small", bold))
    metrics = painter.fontMetrics()
    wide, high = metrics.horizontalAdvance(text), metrics.height()
    box = QRectF(centre.x() - wide / 2 - 2, centre.y() - high / 2, wide + 4, high)
    painter.fillRect(box, faded(p.sheet, 190))
    painter.setPen(p.soft if soft else p.ink)
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)

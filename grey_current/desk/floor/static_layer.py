"""The floor's still picture: painted once, and after an edit only where something looks otherwise
than before.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from PyQt6.QtCore import QRect, QRectF, QSize
from PyQt6.QtGui import QPainter, QPixmap, QRegion

from grey_current.desk.floor.building_paint import paint_building, paint_underlay
from grey_current.desk.floor.labels import (
    Label,
    PlacedNames,
    label_box,
    names_while_dragged,
    placed_labels,
    placed_names,
)
from grey_current.desk.floor.paint import (
    body_box,
    collector_box,
    duct_box,
    gate_box,
    paint_floor,
    point_box,
)
from grey_current.desk.floor.scene import Emphasis, FloorScene
from grey_current.desk.floor.view import View
from grey_current.desk.theme import Palette


@dataclass(frozen=True)
class Look:
    """Everything that the still picture follows from, besides the underlay's pixels."""

    size: QSize
    ratio: float
    scene: FloorScene
    view: View
    colours: Palette
    selected: tuple[str, ...]
    emphasis: Emphasis


class StillLayer:
    """Keeps the picture and what it shows."""

    def __init__(self) -> None:
        self._picture = QPixmap()
        self._look: Look | None = None
        self._boxes: dict[object, tuple[object, QRectF]] = {}
        self._names: PlacedNames | None = None
        self._bare: tuple[object, QPixmap] | None = None

    def picture(self, look: Look, underlay: QPixmap | None, settled: bool) -> QPixmap:
        """The picture for a look. Names keep their places while a gesture goes on, that is until
        `settled`.
        """
        if look == self._look:
            return self._picture
        mark = look.emphasis != "building"
        self._names = self._placed(look, mark, settled)
        labels = placed_labels(look.scene, self._names.places, mark)
        boxes = dict(_boxes(look, labels))
        region = self._changed(look, boxes)
        if region is None:
            self._picture = QPixmap(look.size * look.ratio)
            self._picture.setDevicePixelRatio(look.ratio)
            region = QRegion(QRect(0, 0, look.size.width(), look.size.height()))
        self._paint(look, labels, region, underlay)
        self._look, self._boxes = look, boxes
        return self._picture

    def _placed(self, look: Look, mark: bool, settled: bool) -> PlacedNames:
        """Where the names go: found anew, or moved along while something is dragged."""
        before, old = self._names, self._look
        same_view = (
            before is not None
            and old is not None
            and (before.view, old.emphasis) == (look.view, look.emphasis)
        )
        if before is not None and same_view and not settled:
            dragged = names_while_dragged(before, look.scene, mark)
            if dragged is not None:
                return dragged
        return placed_names(look.scene, look.view, mark, (look.size.width(), look.size.height()))

    def _ground_under(self, look: Look, underlay: QPixmap | None) -> QPixmap:
        """The paper, the plan under it and the building, which stay while machines and ducts are
        moved.
        """
        ground = _ground(look)
        if self._bare is None or self._bare[0] != ground:
            picture = QPixmap(look.size * look.ratio)
            picture.setDevicePixelRatio(look.ratio)
            picture.fill(look.colours.bench)
            painter = QPainter(picture)
            paint_underlay(painter, look.scene.project, look.view, look.colours, underlay)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint_building(painter, look.scene.project, look.view, look.colours, look.selected)
            painter.end()
            self._bare = (ground, picture)
        return self._bare[1]

    def _changed(self, look: Look, boxes: dict[object, tuple[object, QRectF]]) -> QRegion | None:
        """Where the picture must be painted anew; None for everywhere."""
        old = self._look
        if old is None or _ground(old) != _ground(look) or look.emphasis != "air":
            return None
        region = QRegion()
        for key in boxes.keys() | self._boxes.keys():
            was, now = self._boxes.get(key), boxes.get(key)
            if was is None or now is None or was[0] != now[0]:
                for _, box in filter(None, (was, now)):
                    region = region.united(QRegion(box.toAlignedRect()))
        return region

    def _paint(
        self, look: Look, labels: list[Label], region: QRegion, underlay: QPixmap | None
    ) -> None:
        painter = QPainter(self._picture)
        painter.setClipRegion(region)
        painter.drawPixmap(0, 0, self._ground_under(look, underlay))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        whole = QRectF(0, 0, look.size.width(), look.size.height())
        paint_floor(
            painter,
            look.scene,
            look.view,
            look.colours,
            look.selected,
            look.emphasis,
            whole,
            labels,
            lambda box: region.intersects(box.toAlignedRect()),
        )
        painter.end()


def _ground(look: Look) -> object:
    """What the whole picture follows from."""
    scene, project = look.scene, look.scene.project
    things = (
        project.rooms,
        project.openings,
        project.features,
        project.beams,
        project.outlets,
        project.underlay,
    )
    rest = (
        look.size,
        look.ratio,
        look.view,
        look.colours,
        look.selected,
        look.emphasis,
        project.settings.units,
    )
    return rest, things, scene.lanes, scene.parked, scene.all_lanes, scene.ghost, scene.reach


def _boxes(look: Look, labels: Iterable[Label]) -> Iterable[tuple[object, tuple[object, QRectF]]]:
    """For each thing on the floor what it looks like and the pixels that it takes."""
    scene, view = look.scene, look.view
    for duct in scene.ducts:
        yield ("duct", duct.run), (duct.look, duct_box(duct, view))
    for gate in scene.gates:
        yield ("gate", gate.gate), (gate, gate_box(gate, view))
    for machine in scene.machines:
        yield ("machine", machine.machine), (machine, body_box(machine.corners, view))
    for collector in scene.collectors:
        yield ("collector", collector.collector), (collector, collector_box(collector, view))
    for ident in look.selected:
        point = scene.project.point.get(ident)
        if point is not None:
            place = (point.x, point.y)
            yield ("point", ident), (place, point_box(place, view))
    for number, label in enumerate(labels):
        yield ("label", number), (label, label_box(label))

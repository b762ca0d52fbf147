"""Where a duct's centre line may lie at one height: inside the rooms, clear of everything that is
in its way there.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

import shapely

from grey_current.air.fittings import INLET_DIAMETERS
from grey_current.design.space.clashes import DuctSpace, Solid
from grey_current.design.space.ground import ELSEWHERE
from grey_current.design.space.outlines import THICKEST, plan
from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import Collector
from grey_current.shop.duct_edits import FLOOR, UNDER
from grey_current.shop.ducts import Run
from grey_current.shop.laying import LayingChoices
from grey_current.shop.model import Project
from grey_current.shop.places import footprint, inlet_of, outwards, position
from grey_current.shop.room import HOT

# m between a duct and what it passes. Allowance.
CLEAR = 0.02
# m kept from stoves, heaters and flues. Allowance; the appliance's papers and local code decide.
FROM_HEAT = 0.3
# m kept over them. Allowance.
OVER_HEAT = 0.6
# m round a collector in another room, and its way to these rooms, that its duct may take.
# Allowance.
ROUND_INLET = 0.7


@dataclass(frozen=True)
class DuctGround:
    """The free ground at one height, the part of it that lies in walls, where holes are made, and
    what stands there.
    """

    free: Any
    in_walls: Any
    solid: Any


def main_level(project: Project, choices: LayingChoices, bore: float) -> float:
    """Height (m) of the centre line of a main of a bore (m), as it is chosen."""
    ceilings = [min(room.ceiling, room.far_ceiling or room.ceiling) for room in project.rooms]
    lids = [*ceilings, *(beam.underside for beam in project.beams)]
    lying = bore / 2 + UNDER
    heights = {
        "under the beams": min(lids) - lying,
        "between the beams": min(ceilings) - lying,
        "along the wall": choices.wall_height,
        "at a height": choices.wall_height,
        "on the floor": lying,
        "under the floor": -lying - FLOOR,
    }
    return round(heights[choices.height], 3)


def duct_ground(
    space: DuctSpace,
    collector: Collector,
    height: float,
    bore: float,
    kept: Iterable[Run] = (),
    soft: bool = False,
) -> DuctGround:
    """The ground that is free at a height (m) for a duct of a bore (m) that leads to a collector.

    `kept` are runs that stay. `soft` leaves out what only a note is made of: windows. Raises
    nothing.
    """
    project, radius = space.project, bore / 2
    rooms = _rooms(project, height, radius)
    # A duct keeps its radius and a hand's breadth from the walls.
    inner = shapely.union_all([room.buffer(-radius - UNDER, join_style="mitre") for room in rooms])
    ground = inner
    if project.laying.through_walls:
        ground = _over_walls(rooms, radius)
    if collector.stands in ELSEWHERE:
        ground = shapely.union_all([ground, _to_collector(project, collector, rooms)])
    blocked = [
        _grown(project, solid, radius)
        for solid in space.solids
        if _stands_at(project, solid, height, radius)
    ]
    solid = shapely.union_all([shape for shape, kind in blocked if not (soft and kind == "window")])
    ducts = [shape for run in kept if (shape := _duct(project, run, height, radius)) is not None]
    free = ground.difference(shapely.union_all([solid, *ducts]))
    # What is free but not within a room is a hole in a wall: it costs more, and no turn is made in
    # it.
    lines = shapely.union_all([room.boundary for room in rooms])
    shapely.prepare(solid)
    return DuctGround(
        free,
        free.difference(inner).intersection(lines.buffer(radius + UNDER + THICKEST / 2)),
        solid,
    )


def _rooms(project: Project, height: float, radius: float) -> list[Any]:
    """The rooms whose ceiling leaves a duct at that height room."""
    return [
        plan(room.outline)
        for room in project.rooms
        if min(room.ceiling, room.far_ceiling or room.ceiling) >= height + radius - 1e-6
    ]


def _over_walls(rooms: list[Any], radius: float) -> Any:
    """The rooms grown together over the walls between them, which a duct may then pass."""
    half = THICKEST / 2
    together = shapely.union_all([room.buffer(half, join_style="mitre") for room in rooms])
    return together.buffer(-half - radius - UNDER, join_style="mitre")


def _to_collector(project: Project, collector: Collector, rooms: list[Any]) -> Any:
    """The ground round a collector that stands elsewhere, and straight on into the rooms."""
    x, y, _ = inlet_of(collector)
    ahead = outwards(collector) or (0.0, 0.0)
    reach = INLET_DIAMETERS * collector.inlet
    straight = shapely.LineString([(x, y), (x + ahead[0] * reach, y + ahead[1] * reach)])
    round_it = shapely.union_all([plan(footprint(collector)), straight]).convex_hull.buffer(
        ROUND_INLET
    )
    inside = shapely.union_all(rooms)
    if inside.is_empty:
        return round_it
    way = shapely.shortest_line(round_it, inside)
    beyond = shapely.Point(shapely.get_coordinates(way)[-1]).buffer(ROUND_INLET)
    return shapely.union_all([round_it, way.buffer(ROUND_INLET), beyond])


def _stands_at(project: Project, solid: Solid, height: float, radius: float) -> bool:
    """Whether something is in the way of a level duct at a height."""
    over = OVER_HEAT if _hot(project, solid) else 0.0
    return solid.low < height + radius and solid.high + over > height - radius


def _hot(project: Project, solid: Solid) -> bool:
    item = project.find(solid.ident)
    return getattr(item, "kind", None) in HOT and solid.kind == "thing"


def _grown(project: Project, solid: Solid, radius: float) -> tuple[Any, str]:
    """What a duct's centre line must keep out of for something that stands there."""
    more = FROM_HEAT if _hot(project, solid) else CLEAR
    return solid.shape.buffer(radius + more, quad_segs=4), solid.kind


def _duct(project: Project, run: Run, height: float, radius: float) -> Any | None:
    """The same for a duct that stays, where it is at that height."""
    a, b = position(project, run.start), position(project, run.end)
    if materials()[run.material].hose:
        return None
    reach = run.diameter / 2 + radius
    if min(a[2], b[2]) - reach > height or max(a[2], b[2]) + reach < height:
        return None
    if math.dist(a[:2], b[:2]) > 1e-3:
        line = shapely.LineString([a[:2], b[:2]])
    else:
        line = shapely.Point(a[:2])
    return line.buffer(reach + CLEAR, quad_segs=4)

"""Where a duct's centre line may lie at one height: inside the rooms, clear of everything that is
in its way there.
"""

from __future__ import annotations

import itertools
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
from grey_current.shop.person import head_room
from grey_current.shop.places import footprint, head_of, inlet_of, outwards, position
from grey_current.shop.roofs import Part, axes, dormers, extent, highest, lowest, roof
from grey_current.shop.room import HOT, Room

# m between a duct and what it passes. Allowance.
CLEAR = 0.02
# m kept from stoves, heaters and flues. Allowance; the appliance's papers and local code decide.
FROM_HEAT = 0.3
# m kept over them. Allowance.
OVER_HEAT = 0.6
# Heights at which no duct may lie over floor that people walk on, and m round a collector that its
# first duct takes all the same. Allowance.
OFF_THE_FLOOR, AT_COLLECTOR = ("on the floor", "along the wall"), 0.8
# m; a wide main, for telling whether one fits.
WIDE = 0.15
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


def main_level(
    project: Project, choices: LayingChoices, bore: float, *, low_side: bool = False
) -> float:
    """Height (m) of the centre line of a main of a bore (m), as it is chosen.

    Under a slope that is too low to walk under it lies as high as one walks under it, where the
    slope goes up so far, unless it is to lie at the `low_side`.
    """
    lying = bore / 2 + UNDER
    ceilings = _lids(project, low_side, lying, bore)
    lids = [*ceilings, *(beam.underside for beam in project.beams)]
    heights = {
        "under the beams": min(lids) - lying,
        "between the beams": min(ceilings) - lying,
        "along the wall": choices.wall_height,
        "at a height": choices.wall_height,
        "on the floor": lying,
        "under the floor": -lying - FLOOR,
    }
    return round(heights[choices.height], 3)


def _lids(project: Project, low_side: bool, lying: float, bore: float) -> list[float]:
    """The height (m) up to which each room that is in use leaves a main room."""
    walked = head_room(project.settings) + bore / 2 + CLEAR + lying
    found = []
    for room in rooms_in_use(project):
        low, high = _ceilings(room)
        found.append(low if low_side else max(low, min(high, walked)))
    return found


def _ceilings(room: Room) -> tuple[float, float]:
    """The lowest and the highest height (m) of a room's ceiling."""
    return lowest(room), highest(room)


def rooms_in_use(project: Project) -> list[Room]:
    """The rooms in which a port or an inlet is, all where none is in any."""
    places = [position(project, ref)[:2] for ref in project.pickup]
    places += [inlet_of(c)[:2] for c in project.collectors if c.stands not in ELSEWHERE]
    grounds = [(room, plan(room.outline)) for room in project.rooms]
    used = [
        room
        for room, ground in grounds
        if any(shapely.intersects_xy(ground, *place) for place in places)
    ]
    return used or list(project.rooms)


def is_low_under_slopes(project: Project) -> bool:
    """Whether a main could lie at the low side of a slope, or higher where one walks under it."""
    if project.laying.height not in ("under the beams", "between the beams"):
        return False
    low, high = (
        main_level(project, project.laying, WIDE, low_side=low_side) for low_side in (True, False)
    )
    return high > low


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
    if project.laying.height in OFF_THE_FLOOR:
        # Where people walk they would stumble over it or walk into it.
        beside = plan(footprint(head_of(collector))).buffer(AT_COLLECTOR)
        walked = space.ground.walked_ground.buffer(radius).difference(beside)
        solid = shapely.union_all([solid, walked])
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
    """The rooms, or what of them lies under a ceiling that leaves a duct at that height room."""
    found = [_under(room, height + radius) for room in project.rooms]
    return [ground for ground in found if not ground.is_empty]


def _under(room: Room, top: float) -> Any:
    """The ground of a room over which the ceiling is at least so high (m)."""
    ground = plan(room.outline)
    low, high = _ceilings(room)
    if low >= top - 1e-6:
        return ground
    if high < top - 1e-6:
        return shapely.Polygon()
    under = [
        _strip(room, part, along)
        for dormer, part, along in dormers(room)
        if dormer.ceiling >= top - 1e-6
    ]
    # Where the ceiling rises through that height and where it falls below it again: a roof is
    # highest in one place, so that the ground between is one strip.
    shares: list[float] = []
    for (a, below), (b, above) in itertools.pairwise(roof(room)):
        ends = [share for share, height in ((a, below), (b, above)) if height >= top - 1e-6]
        shares += ends
        if len(ends) == 1:
            shares.append(a + (b - a) * (top - below) / (above - below))
    sloping, eave = axes(room)
    a, b = extent(room, sloping)
    part = (a + (b - a) * min(shares), a + (b - a) * max(shares))
    return ground.intersection(shapely.union_all([*under, _strip(room, part, extent(room, eave))]))


def _strip(room: Room, part: Part, along: Part) -> Any:
    """A strip of a room: its part of the way that the ceiling slopes, and of the eave."""
    (x, y) = (part, along) if room.slopes_along == "x" else (along, part)
    return shapely.box(x[0], y[0], x[1], y[1])


def _over_walls(rooms: list[Any], radius: float) -> Any:
    """The rooms grown together over the walls between them, which a duct may then pass."""
    half = THICKEST / 2
    together = shapely.union_all([room.buffer(half, join_style="mitre") for room in rooms])
    return together.buffer(-half - radius - UNDER, join_style="mitre")


def _to_collector(project: Project, collector: Collector, rooms: list[Any]) -> Any:
    """The ground round a collector that stands elsewhere, and straight on into the rooms."""
    x, y, _ = inlet_of(collector)
    ahead = outwards(collector) or (0.0, 0.0)
    reach = INLET_DIAMETERS * collector.duct_inlet
    straight = shapely.LineString([(x, y), (x + ahead[0] * reach, y + ahead[1] * reach)])
    round_it = shapely.union_all(
        [plan(footprint(head_of(collector))), straight]
    ).convex_hull.buffer(ROUND_INLET)
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

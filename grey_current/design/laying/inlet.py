"""How a collector's first duct leaves its inlet: straight out as far as there is room, then up or
down to the main.
"""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from grey_current.air.fittings import INLET_DIAMETERS
from grey_current.design.space.clashes import OVER_TABLE, DuctSpace
from grey_current.design.space.ground import ELSEWHERE
from grey_current.shop.collectors import Collector
from grey_current.shop.duct_edits import LEAST_RISE
from grey_current.shop.places import XY, inlet_of, outwards
from grey_current.shop.stacking import table_of

# Diameters of straight pipe before an inlet under which a collector stands too close to what is
# before it.
LEAST_DIAMETERS = 1.0
# Kinds of thing that the first duct cannot go through, and that it had better not.
HARD, SOFT = ("thing", "machine", "area", "lamp", "beam"), ("walkway", "door", "tracks", "doorway")


@dataclass(frozen=True)
class Inlet:
    """The first duct of a collector: the inlet (m), the foot to which it leads straight, and which
    way air enters.

    `height` is the main's; `level` says that the inlet is so near to it that the main just goes on
    to it. `heading` is None for an inlet on top, which is come to from any side. `diameters` of
    straight pipe stand before the inlet. `blocked` is what leaves it no room: an id, "wall" or
    "ceiling".
    """

    collector: str
    inlet: tuple[float, float, float]
    foot: XY
    heading: XY | None
    height: float
    level: bool
    diameters: float
    blocked: str | None = None


def led_out(space: DuctSpace, item: Collector, height: float, bore: float) -> Inlet:
    """The first duct of a collector to a main of a height and bore (m): the best of `ways_out`."""
    return ways_out(space, item, height, bore)[0]


def ways_out(space: DuctSpace, item: Collector, height: float, bore: float) -> list[Inlet]:
    """First ducts for a collector to a main of a height and bore (m), as straight as there is room
    for, the best first.

    Those out of everybody's way come before the longer ones. Raises nothing; where it has no room
    at all, the one that is given says what is in the way.
    """
    inlet = inlet_of(item)
    level = abs(height - inlet[2]) < LEAST_RISE
    if level:
        height = inlet[2]
    away = outwards(item)
    if away is None:
        return [
            Inlet(item.id, inlet, inlet[:2], None, height, level, abs(height - inlet[2]) / bore)
        ]
    # As much straight duct before the inlet as there is room for, down to the least that is of use.
    reaches = [
        INLET_DIAMETERS - 0.5 * n for n in range(int((INLET_DIAMETERS - LEAST_DIAMETERS) / 0.5) + 1)
    ]
    feet = [
        (reach, (inlet[0] + away[0] * reach * bore, inlet[1] + away[1] * reach * bore))
        for reach in reaches
    ]
    found: dict[float, Inlet] = {}
    last: str | None = None
    # Best where nothing is met and no lane is crossed; then in a lane; at last before a window.
    for kinds, in_lanes in ((HARD + SOFT, False), (HARD + SOFT, True), (HARD, True)):
        for reach, foot in feet:
            last = _blocked(space, item, inlet, foot, height, bore, kinds)
            if last is None and (in_lanes or not _in_lane(space, foot, inlet[2], bore)):
                made = Inlet(item.id, inlet, foot, (-away[0], -away[1]), height, level, reach)
                found.setdefault(reach, made)
    return list(found.values()) or [
        Inlet(item.id, inlet, foot, (-away[0], -away[1]), height, level, reach, last)
    ]


def _in_lane(space: DuctSpace, foot: XY, low: float, bore: float) -> bool:
    """Whether boards would meet a riser that begins at a height (m)."""
    place = shapely.Point(foot)
    return any(
        low < table_of(machine) + OVER_TABLE and ground.distance(place) < bore / 2
        for machine, ground in space.lanes
    )


def _blocked(
    space: DuctSpace,
    item: Collector,
    inlet: tuple[float, float, float],
    foot: XY,
    height: float,
    bore: float,
    kinds: tuple[str, ...],
) -> str | None:
    """What stands in the way of a first duct: an id, "wall" or "ceiling"; None where it is free."""
    own = frozenset((item.id,))
    legs = [(inlet, (*foot, inlet[2])), ((*foot, inlet[2]), (*foot, height))]
    for a, b in legs:
        for solid, _ in space.passed(a, b, bore, own, kinds):
            return solid.ident
    if item.stands in ELSEWHERE:
        return None
    if space.wall_between(*legs[0]) or not space.in_a_room(foot):
        return "wall"
    return None if space.room_over(foot, max(height, inlet[2]) + bore / 2) else "ceiling"

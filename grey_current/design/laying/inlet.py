"""How a collector's first duct leaves its inlet: straight out as far as there is room, then up or down to the main."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from grey_current.air.fittings import INLET_DIAMETERS
from grey_current.design.space.clashes import OVER_TABLE, DuctSpace
from grey_current.design.space.ground import ELSEWHERE
from grey_current.shop.collectors import Collector
from grey_current.shop.duct_edits import LEAST_RISE
from grey_current.shop.places import inlet_of, outwards

XY = tuple[float, float]
LEAST_DIAMETERS = 1.0
"""Diameters of straight pipe before an inlet under which a collector stands too close to what is before it."""
BLOCKS = ("thing", "machine", "area", "lamp", "walkway", "door")
"""Kinds of thing that the first duct must not go through."""


@dataclass(frozen=True)
class Inlet:
    """The first duct of a collector: the inlet (m), the foot to which it leads straight, and which way air enters.

    `height` is the main's; `level` says that the inlet is so near to it that the main just goes on to it. `heading` is
    None for an inlet on top, which is come to from any side. `diameters` of straight pipe stand before the inlet.
    """

    collector: str
    inlet: tuple[float, float, float]
    foot: XY
    heading: XY | None
    height: float
    level: bool
    diameters: float


def led_out(space: DuctSpace, item: Collector, height: float, bore: float) -> Inlet:
    """The first duct of a collector to a main of a height and bore (m), as straight as there is room for.

    Raises nothing; where nothing is free it is as short as can be, and what stands there is found when it is judged.
    """
    inlet = inlet_of(item)
    level = abs(height - inlet[2]) < LEAST_RISE
    if level:
        height = inlet[2]
    away = outwards(item)
    if away is None:
        return Inlet(item.id, inlet, inlet[:2], None, height, level, abs(height - inlet[2]) / bore)
    reaches = [INLET_DIAMETERS - 0.5 * n for n in range(int((INLET_DIAMETERS - LEAST_DIAMETERS) / 0.5) + 1)]
    for reach, in_lanes in [*((reach, False) for reach in reaches), *((reach, True) for reach in reaches)]:
        foot = (inlet[0] + away[0] * reach * bore, inlet[1] + away[1] * reach * bore)
        if _free(space, item, inlet, foot, height, bore) and (in_lanes or not _in_lane(space, foot, inlet[2], bore)):
            break
    return Inlet(item.id, inlet, foot, (-away[0], -away[1]), height, level, reach)


def _in_lane(space: DuctSpace, foot: XY, low: float, bore: float) -> bool:
    """Whether boards would meet a riser that begins at a height (m)."""
    place = shapely.Point(foot)
    return any(
        low < machine.table_height + OVER_TABLE and ground.distance(place) < bore / 2 for machine, ground in space.lanes
    )


def _free(
    space: DuctSpace, item: Collector, inlet: tuple[float, float, float], foot: XY, height: float, bore: float
) -> bool:
    own = frozenset((item.id,))
    legs = [(inlet, (*foot, inlet[2])), ((*foot, inlet[2]), (*foot, height))]
    if any(space.passed(a, b, bore, own, BLOCKS) for a, b in legs):
        return False
    if item.stands in ELSEWHERE:
        return True
    return not space.wall_between(*legs[0]) and space.room_over(foot, height + bore / 2)

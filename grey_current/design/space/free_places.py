"""Where something new can stand: as near to a wanted place as walls and everything else leave
room.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from grey_current.design.space.clashes import duct_space
from grey_current.design.space.outlines import ground_of
from grey_current.shop.collectors import Collector
from grey_current.shop.model import Project
from grey_current.shop.places import footprint

# m from where a collector is wanted at which a free place for it is looked for, nearest first.
FARTHER = (0.3, 0.6, 0.9, 1.2, 1.6, 2.0, 2.5, 3.0, 4.0, 5.0, 6.5, 8.0)
# Degrees in which it is looked for.
DIRECTIONS = range(0, 360, 30)


@dataclass(frozen=True)
class FreeGround:
    """Where something new can stand: out of the boards' lanes and of everybody's way, and wherever
    nothing stands.

    Of both is left what has been `taken` since.
    """

    unused: Any
    free: Any
    taken: tuple[Any, ...] = ()

    def without(self, item: Collector) -> FreeGround:
        """What is left of it where something stands now; lanes are looked at as they were."""
        return FreeGround(self.unused, self.free, (*self.taken, ground_of(item)))


def free_ground(project: Project) -> FreeGround:
    """The free ground of a shop. Raises nothing."""
    space = duct_space(project).ground
    free = space.free_ground
    return FreeGround(
        free.difference(
            shapely.union_all([space.lane_ground, space.swept_ground, space.clean_ground])
        ),
        free,
    )


def freely_standing(
    project: Project, item: Collector, ground: FreeGround | None = None
) -> Collector:
    """A collector at the nearest place to its own where it stands free, in its own direction or
    turned by a quarter.

    Out of the boards' lanes and of everybody's way where that can be; else where nothing stands;
    where nothing is free, as it was given. `ground` is known by a caller who asks often. Raises
    nothing.
    """
    known = ground or free_ground(project)
    for where in (known.unused, known.free):
        found = _nearest(where, item, known.taken)
        if found is not None:
            return found
    return item


def _nearest(ground: Any, item: Collector, taken: tuple[Any, ...]) -> Collector | None:
    """The nearest place to an item's own at which it stands in some ground, and in nothing that is
    taken.
    """
    shapely.prepare(ground)
    turns = (item.turn, (item.turn + 90) % 360)
    corners = [_corners(item, turn) for turn in turns]
    # Ring by ring outwards, all directions of a ring and both turns at once.
    for away in (0.0, *FARTHER):
        angles = [math.radians(degrees) for degrees in DIRECTIONS] if away else [0.0]
        places = [
            (round(item.x + away * math.cos(a), 4), round(item.y + away * math.sin(a), 4))
            for a in angles
        ]
        outlines = np.array([[c + place for c in corners] for place in np.array(places)])
        outlined = shapely.polygons(outlines.reshape(-1, 4, 2))
        for number in np.flatnonzero(shapely.contains(ground, outlined)):
            if not any(_overlap(outlined[number], other) for other in taken):
                (x, y), turn = places[number // len(turns)], turns[number % len(turns)]
                return item.model_copy(update={"x": x, "y": y, "turn": turn})
    return None


def _overlap(one: Any, other: Any) -> bool:
    """Whether two plans share more than their edges."""
    return bool(shapely.intersects(one, other) and not shapely.touches(one, other))


def _corners(item: Collector, turn: float) -> NDArray[np.float64]:
    """Where the corners of a collector are from its middle when it is turned so, (4, 2)."""
    return np.array(footprint(item.model_copy(update={"x": 0.0, "y": 0.0, "turn": turn})))

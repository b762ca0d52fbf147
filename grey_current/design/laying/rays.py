"""Where a branch can leave the grid and go straight on into a duct that stays."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from grey_current.design.laying.lattice import HEADINGS, Lattice
from grey_current.design.laying.routes import JoinableDuct

Array = NDArray[np.float64]

# Degrees between which a branch may enter a main: wyes are sold for 30° to 60°.
ENTERS = (28.0, 62.0)
# m at most from the grid to a duct that stays.
RAY = 1.0
# m that a wye stays away from the ends of a run that stays.
FROM_ENDS = 0.2


@dataclass(frozen=True)
class Rays:
    """The ways from the grid into ducts, one a row.

    Attributes:
        states: The state of the lattice in which the grid is left.
        costs: m from there on to the duct.
        ducts: Which duct is met.
        places: Where, (n, 2) in m.
    """

    states: NDArray[np.int64]
    costs: Array
    ducts: NDArray[np.int64]
    places: Array

    def __len__(self) -> int:
        return len(self.states)

    def only(self, which: Any) -> Rays:
        """Some of them."""
        return Rays(self.states[which], self.costs[which], self.ducts[which], self.places[which])


def rays_into(lattice: Lattice, ducts: Sequence[JoinableDuct], solid: Any) -> Rays:
    """Return where a branch enters a duct at the angle of a wye and with the flow.

    Only where nothing `solid` (shapely) is between the grid and the duct.
    """
    parts: list[Rays] = []
    for number, duct in enumerate(ducts):
        a, b = np.array(duct.start), np.array(duct.end)
        length = float(np.hypot(*(b - a)))
        if length < 2 * FROM_ENDS or not lattice.nodes:
            continue
        flow = (b - a) / length
        for heading in range(HEADINGS):
            way = np.array(lattice.frame.heading(heading))
            angle = math.degrees(math.acos(min(1.0, max(-1.0, float(way @ flow)))))
            if ENTERS[0] <= angle <= ENTERS[1]:
                parts += _entering(lattice, heading, a, flow, length, number)
    if not parts:
        none, no_index = np.zeros(0), np.zeros(0, dtype=np.int64)
        return Rays(no_index, none, no_index, np.zeros((0, 2)))
    found = Rays(
        np.concatenate([part.states for part in parts]),
        np.concatenate([part.costs for part in parts]),
        np.concatenate([part.ducts for part in parts]),
        np.concatenate([part.places for part in parts]),
    )
    left_at = lattice.xy[found.states // HEADINGS]
    lines = shapely.linestrings(np.stack([left_at, found.places], axis=1))
    return found.only(~shapely.intersects(solid, lines))


def _entering(
    lattice: Lattice, heading: int, a: Array, flow: Array, length: float, duct: int
) -> Iterator[Rays]:
    """Yield the rays in one heading from all nodes, as far as they meet the duct within its ends.

    A ray from a node p in direction w meets the line a + s·flow where p + r·w = a + s·flow; both r
    and s follow from cross products.
    """
    way = np.array(lattice.frame.heading(heading))
    cross = way[0] * flow[1] - way[1] * flow[0]
    away = a - lattice.xy
    onward = (away[:, 0] * flow[1] - away[:, 1] * flow[0]) / cross
    along = (away[:, 0] * way[1] - away[:, 1] * way[0]) / cross
    near = np.flatnonzero(
        (onward > 0) & (onward < RAY) & (along > FROM_ENDS) & (along < length - FROM_ENDS)
    )
    if near.size:
        yield Rays(
            near * HEADINGS + heading,
            onward[near],
            np.full(near.size, duct, dtype=np.int64),
            a + along[near, None] * flow,
        )

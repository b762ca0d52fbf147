"""The lane of a machine: where stock passes it, how far, and what ends it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from grey_current.design.space.outlines import plan, strip_outline
from grey_current.shop.machines import Machine
from grey_current.shop.places import XY

# m; a lane that meets nothing is given up here, so a board through an open door is at most this
# long.
REACH = 12.0
# m; a full sheet of plywood (8 ft).
SHEET_LENGTH = 2.4384
WIDEST_SHEET = 1.83


@dataclass(frozen=True)
class Lane:
    """The way of stock through a machine.

    Free length (m) before and after the cutter, what ends it on each side (element id, None for
    nothing within reach), the openings that it passes through, and the longest board.
    """

    machine: str
    direction: XY
    start: XY
    width: float
    before: float
    after: float
    stopped_before: str | None
    stopped_after: str | None
    through: tuple[str, ...]
    across: bool

    @property
    def longest(self) -> float:
        """Longest board (m): it must lie free before the cut and after it; across a saw it lies on
        both sides.
        """
        return self.before + self.after if self.across else min(self.before, self.after)

    @property
    def stopper(self) -> str | None:
        """What limits the longest board."""
        return self.stopped_before if self.before <= self.after else self.stopped_after


def ahead_of(machine: Machine) -> XY:
    """The way that boards go through a machine, as a unit vector."""
    turn = math.radians(machine.turn + (machine.feed or 0.0))
    return math.cos(turn), math.sin(turn)


def free_along(
    start: XY, ahead: XY, wide: float, solid: list[tuple[str, Any]]
) -> tuple[float, str | None]:
    """How far (m) a strip is free from a place, and what ends it."""
    strip = plan(strip_outline(start, ahead, wide, 0.0, REACH))
    cuts = shapely.intersection(strip, [shape for _, shape in solid])
    corners, of = shapely.get_coordinates(cuts, return_index=True)
    along = (corners - start) @ np.array(ahead)
    if not along.size or along.min() >= REACH:
        return REACH, None
    nearest = np.maximum(along, 0.0).argmin()  # of what is equally near, the first
    return max(float(along[nearest]), 0.0), solid[of[nearest]][0]

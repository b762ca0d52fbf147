"""Ducts in plan before they are sized: what each pickup's branch is, and what it joins."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

from grey_current.shop.places import XY


@dataclass(frozen=True)
class OntoLeg:
    """The end of a branch that joins another one of the same layout, by its number."""

    number: int


@dataclass(frozen=True)
class OntoRun:
    """The end of a branch that joins a duct that stays, by the run's id."""

    run: str


Target = OntoLeg | OntoRun


@dataclass(frozen=True)
class JoinableDuct:
    """A level duct that may be joined, from where to where its air goes.

    Nothing wider than its `bore` (m) may join it.
    """

    target: Target
    start: XY
    end: XY
    bore: float


@dataclass(frozen=True)
class RoutedBranch:
    """One pickup's branch: its corners (m) from the drop to where it joins.

    `target` is what it joins, None for the collector.
    """

    ref: str
    places: tuple[XY, ...]
    target: Target | None

    @property
    def length(self) -> float:
        """Length in plan, m."""
        return length_of(self.places)

    @property
    def turns(self) -> int:
        """How many elbows it has on the way, without those of its drop and wye."""
        return max(len(self.places) - 2, 0)


@dataclass(frozen=True)
class Layout:
    """Ducts in plan, not yet sized.

    Attributes:
        height: Of the level ducts, m.
        legs: The branches in the order in which they were laid.
        stranded: Pickups that found no way.
        cost: m of duct with allowances for turns, wyes and hose.
    """

    height: float
    legs: tuple[RoutedBranch, ...]
    stranded: tuple[str, ...]
    cost: float

    @property
    def shape(self) -> tuple[object, ...]:
        """What makes two layouts the same, whatever the order in which they were laid."""
        legs = []
        for leg in self.legs:
            legs.append((leg.ref, tuple((round(x, 2), round(y, 2)) for x, y in leg.places)))
        return (round(self.height, 3), *sorted(legs))


def corners_of(places: Sequence[XY]) -> tuple[XY, ...]:
    """A way's ends and the places where it turns."""
    if len(places) < 2:
        return tuple(places)
    kept = [places[0]]
    for (ax, ay), (bx, by), (cx, cy) in zip(places, places[1:], places[2:], strict=False):
        if abs((bx - ax) * (cy - by) - (by - ay) * (cx - bx)) > 1e-9:
            kept.append((bx, by))
    return (*kept, places[-1])


def length_of(places: Sequence[XY]) -> float:
    """Length (m) of a way."""
    return math.fsum(math.dist(a, b) for a, b in itertools.pairwise(places))

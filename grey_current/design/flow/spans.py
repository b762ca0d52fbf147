"""What a walk through the ducts found along each branch, kept for a later walk."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from grey_current.air.network import Branch, Network
from grey_current.air.pieces import Piece

# The run by which a walk comes into a branch, and the end of it by which it comes.
SpanKey = tuple[str, str]
# Where a branch begins: at the upstream end of which other one, and as which of the legs there.
Place = tuple[int, int]
# Where the branch through the collector begins.
ROOT: Place = (-1, 0)


class JoinedLeg(NamedTuple):
    """A branch that begins at a wye.

    Attributes:
        joins: Which of the legs of the same joint it joins; -1 is the branch that all lead to.
        pieces: What it has of the wye, in flow order.
        run: The run that the walk goes on with, None between two wyes at one place.
    """

    joins: int
    pieces: tuple[Piece, ...]
    run: str | None


@dataclass(frozen=True)
class Span:
    """What lies along one branch, and what the walk went on with at its upstream end.

    Attributes:
        runs: The runs that it passes.
        at: What its upstream end is at: a point, or a pickup.
        legs: The branches that begin there.
        switch: Place of the machine's own fan at its end among the switches.
    """

    runs: frozenset[str]
    branch: Branch
    at: str
    legs: tuple[JoinedLeg, ...]
    switch: int | None

    def goes_on_as(self, other: Span) -> bool:
        """Whether the same branches begin at its upstream end, and the same pickup stands there."""
        return self._end() == other._end()

    def _end(self) -> tuple[object, ...]:
        legs = [(leg.joins, leg.run) for leg in self.legs]
        return self.at, self.branch.pickup, self.switch, legs


@dataclass(frozen=True)
class Walked:
    """A network, and the spans along its branches for a later walk.

    Attributes:
        entered: The span of each branch, None where the walk did not go along it.
        begins: The place of each branch.
    """

    network: Network
    spans: Mapping[SpanKey, Span]
    entered: tuple[SpanKey | None, ...]
    begins: tuple[Place, ...]

    @cached_property
    def at(self) -> dict[Place, int]:
        """The branch that begins at a place."""
        return {place: branch for branch, place in enumerate(self.begins)}

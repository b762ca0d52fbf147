"""Where the fittings of a joint stand in space: each with its ends, and what they face.

A drawing has centre lines that meet in points. A fitting takes up room round such a point, and some
cannot have their middle there: a 45° wye whose branch is drawn at 90° slides along the main, with
an elbow that brings the branch round to its line. Plain geometry; knows keys and sizes only as they
are given to it.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from grey_current.shop.fitting_sizes import PipeSizes
from grey_current.shop.places import XYZ
from grey_current.shop.vectors import along, between, dot

# m by which two fittings may miss one another and still be joined. Allowance.
JOINED = 0.001
# Cosine of the angle within which two lines are one.
COLLINEAR = 0.99999


class Seat(NamedTuple):
    """An end of a fitting.

    Attributes:
        at: The middle of its shoulder, up to which what is joined there comes.
        out: Unit vector out of the fitting.
        bore: Inside diameter, m.
        comes: Whether air comes in here.
    """

    at: XYZ
    out: XYZ
    bore: float
    comes: bool


class Fitting(NamedTuple):
    """A fitting in its place: what it is, the key that it is bought by, the joint, and the run
    whose make it is of.
    """

    id: str
    kind: str
    key: str
    point: str
    run: str
    seats: tuple[Seat, ...]


class Link(NamedTuple):
    """Two ends that face one another, each by its fitting and its number there, and how far (m)
    they are apart.
    """

    one: tuple[Fitting, int]
    other: tuple[Fitting, int]
    gap: float


def facing(fittings: Sequence[Fitting]) -> list[Link]:
    """The ends of a joint's fittings that look at one another along one line, the nearest first;
    each faces one other at most.
    """
    ends = [(fitting, number) for fitting in fittings for number in range(len(fitting.seats))]
    found = []
    for (one, i), (other, j) in itertools.combinations(ends, 2):
        gap = _apart(one.seats[i], other.seats[j]) if one is not other else None
        if gap is not None:
            found.append(Link((one, i), (other, j), gap))
    # The nearest pair first, so that an end faces what stands next to it and nothing beyond.
    found.sort(key=lambda link: link.gap)
    taken: set[tuple[str, int]] = set()
    links = []
    for link in found:
        both = {(fitting.id, number) for fitting, number in (link.one, link.other)}
        if not both & taken:
            taken |= both
            links.append(link)
    return links


def _apart(one: Seat, other: Seat) -> float | None:
    """How far (m) one end is from another that looks at it; None for one that does not."""
    # Two ends look at one another where their ways out are opposite and lie on one line.
    if dot(one.out, other.out) > -COLLINEAR:
        return None
    away = between(one.at, other.at)
    gap = dot(away, one.out)
    beside = math.sqrt(max(dot(away, away) - gap * gap, 0.0))
    return max(gap, 0.0) if gap >= -JOINED and beside <= JOINED else None


@dataclass(frozen=True)
class Misfit:
    """Fittings of one joint that cannot stand as drawn.

    Attributes:
        point: The joint.
        run: The run that does not reach its fitting.
        by: How much room is wanting, m.
        why: The end of a sentence about them.
    """

    point: str
    run: str
    by: float
    why: str


@dataclass(frozen=True)
class Unsold:
    """A fitting that is not sold for its material.

    Attributes:
        element: Where it would stand.
        kind: "elbow" or "wye".
        angle: The angle that is drawn, degrees.
        sold: The angles that are sold.
    """

    element: str
    kind: str
    material: str
    angle: float
    sold: tuple[float, ...]


@dataclass(frozen=True)
class Branch:
    """A branch that comes into a wye.

    Attributes:
        run: Its run.
        out: Unit vector from the joint along it.
        drawn: Degrees between its air and the main's.
        angle: Degrees of the wye's branch.
        bare: From the wye's middle to the corner (m) at which an elbow brings the branch round to
            its line, without pipe between; 0 where no elbow does.
        floats: Whether it is a hose, which comes to the wye wherever that stands.
        key: The wye's.
        to_main, to_out, to_side: What the wye takes, m.
    """

    run: str
    out: XYZ
    drawn: float
    angle: float
    bare: float
    floats: bool
    key: str
    to_out: float
    to_main: float
    to_side: float

    @property
    def brought_round(self) -> bool:
        """Whether an elbow stands behind the wye."""
        return self.bare > 0

    @property
    def stays(self) -> bool:
        """Whether the wye can stand in the joint and nowhere else."""
        return not self.brought_round and not self.floats

    @property
    def shift(self) -> float:
        """How far (m, along the main's air) the wye's middle stands from the joint for each metre
        from it to the elbow's corner.

        Source: law of sines in the triangle of the joint, the wye's middle and the corner.
        """
        turned = math.radians(self.drawn - self.angle)
        return math.sin(turned) / math.sin(math.radians(self.drawn))

    def mouth_way(self, onward: XYZ) -> XYZ:
        """Unit vector out of the wye's branch, for a main whose air goes `onward`."""
        drawn, angle = math.radians(self.drawn), math.radians(self.angle)
        if self.stays or math.sin(drawn) < 0.1:
            return self.out
        # Across the main, in the plane of both.
        leant = along(self.out, onward, math.cos(drawn))
        size = math.hypot(*leant)
        across = leant[0] / size, leant[1] / size, leant[2] / size
        return along(along((0.0, 0.0, 0.0), onward, -math.cos(angle)), across, math.sin(angle))


@dataclass(frozen=True)
class WyeRow:
    """Wyes one after the other on a main, in m from the joint along the main's air.

    Attributes:
        middles: Where the middle of each stands, by its branch's run.
        wanting: How much room is wanting for one, by its branch's run.
        begins, ends: Where all of them together begin and end.
    """

    middles: dict[str, float]
    wanting: dict[str, float]
    begins: float
    ends: float


def wyes_in_a_row(
    branches: Sequence[Branch], sizes: PipeSizes, bore: float, first: float
) -> WyeRow:
    """Place wyes on a main so that each branch reaches its own, the last of `branches` the
    farthest upstream.

    `first` is where (m from the joint) the first one may begin; minus infinity for anywhere.
    """
    middles: dict[str, float] = {}
    wanting: dict[str, float] = {}
    low, begins, ends = first, 0.0, 0.0
    # Downstream first: the farthest upstream stands behind all others.
    for branch in reversed(branches):
        room = low + branch.to_main
        at = _middle(branch, sizes, bore, room)
        if room - at > JOINED:
            wanting[branch.run] = room - at
        if not middles:
            begins = at - branch.to_main
        middles[branch.run], ends = at, at + branch.to_out
        low = ends + least_gap(sizes, bore)
    return WyeRow(middles, wanting, begins, ends)


def _middle(branch: Branch, sizes: PipeSizes, bore: float, room: float) -> float:
    """Where a wye's middle stands when there is room from a place on."""
    # A hose comes to the wye; a pipe makes the wye come to it.
    if branch.floats:
        return max(0.0, room)
    if not branch.brought_round:
        return 0.0
    pipe = least_gap(sizes, bore)
    if branch.shift > 0:
        # Farther along the main the pipe between wye and elbow is longer.
        pipe = gap_from(sizes, bore, max(room / branch.shift - branch.bare, pipe))
    return (branch.bare + pipe) * branch.shift


def least_gap(sizes: PipeSizes, bore: float) -> float:
    """The least distance (m) between the shoulders of two fittings."""
    return gap_from(sizes, bore, 0.0)


def gap_from(sizes: PipeSizes, bore: float, gap: float) -> float:
    """The least distance (m), `gap` or more, between two shoulders that pipe can bridge.

    Crimped fittings go into one another, hubs are joined by a stub that disappears in them; all
    else wants a piece that its two joints hold.
    """
    least = max(sizes.least.at(bore) - sizes.joint(bore), 0.0)
    if sizes.has_hubs or (gap <= JOINED and sizes.coupled_by == "crimp"):
        return max(gap, 0.0)
    return max(gap, least)

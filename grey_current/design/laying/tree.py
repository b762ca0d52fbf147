"""Trees of ducts on a lattice: pickups joined one after the other, each by the cheapest way to what
is there.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from grey_current.design.laying.lattice import HEADINGS, Lattice, ShortestPaths
from grey_current.shop.places import XY

Array = NDArray[np.float64]
Target = int | str
"""What a leg joins: another leg by its number, or a run that stays by its id."""

WYE = 0.6
"""m of duct that a wye is worth. Allowance."""
ENTERS = (28.0, 62.0)
"""Degrees between which a branch may enter a main: wyes are sold for 30° to 60°."""
SAME_BORE = 0.003
"""m by which two bores are still one size."""
RAY = 1.0
"""m at most from the grid to a duct that stays."""
FROM_ENDS = 0.2
"""m that a wye stays away from the ends of a run that stays."""
NEAREST_TRIES = 10
"""Ways that are looked at, cheapest first, before a pickup is led round what is in its way."""


@dataclass(frozen=True)
class JoinableDuct:
    """A level duct that may be joined: the run that stays or the number of a leg just laid, from
    where to where its air goes, its bore (m).

    Nothing wider than that may join it.
    """

    target: Target
    start: XY
    end: XY
    bore: float


@dataclass(frozen=True)
class RoutedBranch:
    """One pickup's way: its corners (m) from the drop to where it joins, and what it joins; None
    for the collector.
    """

    ref: str
    places: tuple[XY, ...]
    target: Target | None

    @property
    def length(self) -> float:
        """Length in plan, m."""
        return length_of(list(self.places))

    @property
    def turns(self) -> int:
        """How many elbows it has on the way, without those of its drop and wye."""
        return max(len(self.places) - 2, 0)


@dataclass(frozen=True)
class Layout:
    """Ducts in plan, not yet sized: the legs in the order in which they were laid, and pickups that
    found no way.
    """

    height: float
    legs: tuple[RoutedBranch, ...]
    stranded: tuple[str, ...]
    cost: float
    """m of duct with allowances for turns, wyes and hose."""

    @property
    def shape(self) -> tuple[object, ...]:
        """What makes two layouts the same, whatever the order in which they were laid."""
        legs = [
            (leg.ref, tuple((round(x, 2), round(y, 2)) for x, y in leg.places)) for leg in self.legs
        ]
        return (round(self.height, 3), *sorted(legs))


@dataclass
class RoutingGrid:
    """What trees are grown on: the grid, each pickup's ways over it, where the collector is met and
    what stays.

    `foot` is the collector's node and `arrive` the headings by which it may be reached, empty where
    a duct is on its inlet. `apart` is the distance (m) that two ducts keep between their centre
    lines.
    """

    lattice: Lattice
    ways: Mapping[str, ShortestPaths]
    height: float
    foot: int | None
    arrive: tuple[int, ...]
    trunks: tuple[JoinableDuct, ...]
    apart: float
    bores: Mapping[str, float]
    """The least bore (m) that each pickup's duct may have."""
    solid: Any
    """What a duct's centre line must not pass (shapely)."""
    rays: _Rays = field(init=False)

    def __post_init__(self) -> None:
        self.rays = _rays(self.lattice, self.trunks, self.solid)


@dataclass(frozen=True)
class _Rays:
    """States from which a duct goes straight on to one that is there: state, m on to there, which,
    and where.
    """

    states: NDArray[np.int64]
    costs: Array
    trunks: NDArray[np.int64]
    places: Array


def grow(ground: RoutingGrid, order: Sequence[str], shallow: float = 0.0) -> Layout:
    """A tree that joins pickups in an order, each by the cheapest way to what is there already.

    `shallow` is what a metre onwards to the collector counts beside a metre of new duct: 0 saves
    pipe, more keeps the ways of the air short. Raises nothing; a pickup without a way is left out
    and named.
    """
    tree = _Tree(ground, shallow)
    for ref in order:
        tree.join(ref)
    return Layout(ground.height, tuple(tree.legs), tuple(tree.stranded), tree.cost)


@dataclass(frozen=True)
class _Joint:
    """A place on a leg that may be joined: the node, the air's heading there, m from there to the
    collector.
    """

    node: int
    heading: int
    behind: float
    leg: int
    at: int


class _Tree:
    """A tree while it grows."""

    def __init__(self, ground: RoutingGrid, shallow: float) -> None:
        self.ground, self.lattice, self.shallow = ground, ground.lattice, shallow
        self.legs: list[RoutedBranch] = []
        self.stranded: list[str] = []
        self.cost = 0.0
        self._joints: dict[tuple[int, int], _Joint] = {}
        self._taken = np.zeros(self.lattice.nodes, dtype=np.int64)
        """Of each node, the number of the leg that is too near, counted from 1; 0 where none is."""
        self._laid: set[int] = set()
        self._met = ground.foot is None
        self._stops: dict[str, list[XY]] = {}
        self._limits: list[float] = []
        """The bore (m) that nothing joining a leg may exceed: that of the narrowest duct that stays
        on its way."""

    def join(self, ref: str) -> None:
        """Lead one pickup to the tree, or name it as stranded."""
        ways = self.ground.ways.get(ref)
        bore = self.ground.bores.get(ref, 0.0)
        found = self._found(ways, bore) if ways is not None else None
        if found is None and ways is not None and self.legs:
            found = self._round(ways, bore)
        if found is None:
            self.stranded.append(ref)
            return
        way, end, cost = found
        self._add(ref, way, end, cost)

    def _found(
        self, ways: ShortestPaths, bore: float
    ) -> tuple[list[tuple[int, int]], object, float] | None:
        """The cheapest way that meets nothing on its way, where it ends, and its cost."""
        states, costs, ends = self._ends(bore)
        if not len(states):
            return None
        total = ways.cost[states] + costs
        for number in np.argsort(total, kind="stable")[:NEAREST_TRIES]:
            if not math.isfinite(total[number]):
                return None
            way = ways.way_to(int(states[number]))
            if self._clear(way, ends[number]):
                return way, ends[number], float(total[number])
        return None

    def _round(
        self, ways: ShortestPaths, bore: float
    ) -> tuple[list[tuple[int, int]], object, float] | None:
        """A way round the ducts that are there, for one whose cheapest ways all meet them."""
        bare = self.lattice.without(np.flatnonzero(self._taken).tolist())
        from_here = [start for node, start in ways.first.items() if not self._taken[node]]
        led = bare.ways([from_here])[0] if from_here else None
        return self._found_by_rays(led, bare, bore) if led is not None else None

    def _found_by_rays(
        self, ways: ShortestPaths, bare: Lattice, bore: float
    ) -> tuple[list[tuple[int, int]], object, float] | None:
        trunks = [*self.ground.trunks]
        for number, leg in enumerate(self.legs):
            bore_of = self._limits[number]
            trunks += [
                JoinableDuct(number, a, b, bore_of)
                for a, b in zip(leg.places, leg.places[1:], strict=False)
            ]
        trunks = [trunk for trunk in trunks if trunk.bore >= bore - SAME_BORE]
        rays = _rays(bare, tuple(trunks), self.ground.solid)
        total = ways.cost[rays.states] + rays.costs
        for number in np.argsort(total, kind="stable")[:NEAREST_TRIES]:
            if not math.isfinite(total[number]):
                return None
            x, y = rays.places[number]
            trunk = trunks[int(rays.trunks[number])]
            place = (float(x), float(y))
            if self._may_stop(trunk.target, place):
                return (
                    ways.way_to(int(rays.states[number])),
                    (trunk.target, place),
                    float(total[number]),
                )
        return None

    def _ends(self, bore: float) -> tuple[NDArray[np.int64], Array, list[object]]:
        """All states in which a way may end, with what that costs beside the way, and what is met
        there.
        """
        states: list[int] = []
        costs: list[float] = []
        ends: list[object] = []
        for joint in self._joints.values():
            if self._limits[joint.leg] < bore - SAME_BORE:
                continue
            for sign in (1, -1):
                states.append(joint.node * HEADINGS + (joint.heading + sign) % HEADINGS)
                costs.append(WYE + self.shallow * joint.behind)
                ends.append(joint)
        if not self._met:
            for heading in self.ground.arrive:
                states.append((self.ground.foot or 0) * HEADINGS + heading)
                costs.append(0.0)
                ends.append(None)
        rays = self.ground.rays
        for number in range(len(rays.states)):
            x, y = rays.places[number]
            place = (float(x), float(y))
            trunk = self.ground.trunks[int(rays.trunks[number])]
            if trunk.bore >= bore - SAME_BORE and self._may_stop(trunk.target, place):
                states.append(int(rays.states[number]))
                costs.append(WYE + float(rays.costs[number]))
                ends.append((trunk.target, place))
        return np.array(states, dtype=np.int64), np.array(costs), ends

    def _may_stop(self, target: Target, place: XY) -> bool:
        """Whether no wye is too near on the same duct."""
        gap = self.lattice.behind
        return all(math.dist(place, other) >= gap for other in self._stops.get(str(target), ()))

    def _clear(self, way: list[tuple[int, int]], end: object) -> bool:
        """Whether a way keeps away from the ducts that are there, but at its end for the one that
        it joins.
        """
        last = self.lattice.length(way[-1][1])
        spared = math.ceil(1.6 * self.ground.apart / last) + 1
        taken = self._taken[[node for node, _ in way]]
        if taken[:-spared].any() or taken[0]:
            return False
        own = end.leg + 1 if isinstance(end, _Joint) else 0
        crosses = any(node in self._laid for node, _ in way[-spared:-1])
        return not crosses and bool(np.isin(taken[-spared:], (0, own)).all())

    def _add(self, ref: str, way: list[tuple[int, int]], end: object, cost: float) -> None:
        places = [
            (float(self.lattice.xy[node, 0]), float(self.lattice.xy[node, 1])) for node, _ in way
        ]
        target: Target | None = None
        behind = 0.0
        if isinstance(end, _Joint):
            target, behind = end.leg, end.behind
            self._stops.setdefault(str(target), []).append(places[-1])
            self._unjoin(end)
        elif isinstance(end, tuple):
            target, place = end
            places.append(place)
            self._stops.setdefault(str(target), []).append(place)
        else:
            self._met = True
        number = len(self.legs)
        self._limits.append(self._limit(target))
        self.legs.append(RoutedBranch(ref, tuple(corners_of(places)), target))
        self.cost += cost - (self.shallow * behind)
        self._offer(
            number,
            way,
            behind + (math.dist(places[-1], places[-2]) if isinstance(end, tuple) else 0.0),
        )
        self._take(way, number)

    def _limit(self, target: Target | None) -> float:
        """The bore (m) that nothing joining a leg with that end may exceed."""
        if isinstance(target, int):
            return self._limits[target]
        return next(
            (trunk.bore for trunk in self.ground.trunks if trunk.target == target), math.inf
        )

    def _unjoin(self, joint: _Joint) -> None:
        """No second wye close beside one."""
        gap = self.lattice.behind
        here = self.lattice.xy[joint.node]
        near = [
            key
            for key, other in self._joints.items()
            if other.leg == joint.leg and math.dist(here, self.lattice.xy[other.node]) < gap - 1e-9
        ]
        for key in near:
            del self._joints[key]

    def _offer(self, leg: int, way: list[tuple[int, int]], behind: float) -> None:
        """Make the straight parts of a new leg ones that may be joined, away from its turns and
        ends.
        """
        turns = [0, *(i for i in range(1, len(way)) if way[i][1] != way[i - 1][1]), len(way) - 1]
        far = behind
        for index in range(len(way) - 1, 0, -1):
            node, heading = way[index - 1]
            far += self.lattice.length(heading)
            gap, _ = self.lattice.stride(heading)
            if all(abs(index - 1 - turn) >= gap for turn in turns):
                self._joints[leg, index - 1] = _Joint(node, heading, far, leg, index - 1)

    def _take(self, way: list[tuple[int, int]], leg: int) -> None:
        """Mark the nodes that are too near to a new leg."""
        near = self.lattice.around(np.array([node for node, _ in way]), self.ground.apart)
        self._taken[near[self._taken[near] == 0]] = leg + 1
        self._laid.update(node for node, _ in way)


def _rays(lattice: Lattice, trunks: Sequence[JoinableDuct], solid: Any) -> _Rays:
    """Where straight on from the grid a branch enters a duct that stays, at the angle of a wye and
    with the flow.

    Only where nothing `solid` is between.
    """
    parts: list[tuple[NDArray[np.int64], Array, Array, Array]] = []
    for number, trunk in enumerate(trunks):
        a, b = np.array(trunk.start), np.array(trunk.end)
        length = float(np.hypot(*(b - a)))
        if length < 2 * FROM_ENDS or not lattice.nodes:
            continue
        flow = (b - a) / length
        for heading in range(HEADINGS):
            way = np.array(lattice.frame.heading(heading))
            angle = math.degrees(math.acos(min(1.0, max(-1.0, float(way @ flow)))))
            if not ENTERS[0] <= angle <= ENTERS[1]:
                continue
            parts += _entering(lattice, heading, way, a, flow, length, number)
    if not parts:
        none = np.zeros(0)
        return _Rays(none.astype(np.int64), none, none.astype(np.int64), np.zeros((0, 2)))
    joined = [np.concatenate([part[i] for part in parts]) for i in range(4)]
    lines = shapely.linestrings(np.stack([lattice.xy[joined[0] // HEADINGS], joined[3]], axis=1))
    clear = ~shapely.intersects(solid, lines)
    return _Rays(
        joined[0][clear], joined[1][clear], joined[2][clear].astype(np.int64), joined[3][clear]
    )


def _entering(
    lattice: Lattice, heading: int, way: Array, a: Array, flow: Array, length: float, trunk: int
) -> Iterator[tuple[NDArray[np.int64], Array, Array, Array]]:
    """Rays in one heading: from each node m onward to the duct, within its ends."""
    cross = way[0] * flow[1] - way[1] * flow[0]
    away = a - lattice.xy
    onward = (away[:, 0] * flow[1] - away[:, 1] * flow[0]) / cross
    along = (away[:, 0] * way[1] - away[:, 1] * way[0]) / cross
    near = np.flatnonzero(
        (onward > 0) & (onward < RAY) & (along > FROM_ENDS) & (along < length - FROM_ENDS)
    )
    if near.size:
        places = a + along[near, None] * flow
        yield (
            near * HEADINGS + heading,
            onward[near],
            np.full(near.size, trunk, dtype=float),
            places,
        )


def corners_of(places: list[XY]) -> list[XY]:
    """A way's ends and the places where it turns."""
    if len(places) < 2:
        return places
    kept = [places[0]]
    for (ax, ay), (bx, by), (cx, cy) in zip(places, places[1:], places[2:], strict=False):
        if abs((bx - ax) * (cy - by) - (by - ay) * (cx - bx)) > 1e-9:
            kept.append((bx, by))
    return [*kept, places[-1]]


def length_of(places: list[XY]) -> float:
    """Length (m) of a way."""
    return math.fsum(math.dist(a, b) for a, b in itertools.pairwise(places))

"""Trees of ducts on a lattice: pickups are joined one after the other by the cheapest way.

A way goes over the lattice from a pickup's drop to an `_End`: a place on a branch that is laid
already, a duct that stays, or the collector.
"""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from grey_current.design.laying.lattice import HEADINGS, Lattice, ShortestPaths
from grey_current.design.laying.rays import Rays, rays_into
from grey_current.design.laying.routes import (
    JoinableDuct,
    Layout,
    OntoLeg,
    RoutedBranch,
    Target,
    corners_of,
)
from grey_current.shop.places import XY

# A node of the lattice, and the heading in which a way comes to it.
Step = tuple[int, int]

# m of duct that a wye is worth. Allowance.
WYE = 0.6
# m by which two bores are still one size.
SAME_BORE = 0.003
# Ways that are looked at, cheapest first, before a pickup is led round what is in its way.
NEAREST_TRIES = 10
# Gaps between two ducts within which the end of a way may be near the one that it joins.
END_SPARED = 1.6


@dataclass
class RoutingGrid:
    """What trees are grown on.

    Attributes:
        lattice: The grid of one height.
        ways: Each pickup's ways over it.
        height: Of the grid, m.
        foot: The collector's node, None where a duct is on its inlet.
        arrive: Headings by which the foot may be reached.
        trunks: Ducts that stay and may be joined.
        apart: What two ducts keep between their centre lines, m.
        bores: The least bore (m) that each pickup's duct may have.
        solid: What a duct's centre line must not pass (shapely).
        rays: Where the grid is left for a trunk.
    """

    lattice: Lattice
    ways: Mapping[str, ShortestPaths]
    height: float
    foot: int | None
    arrive: tuple[int, ...]
    trunks: tuple[JoinableDuct, ...]
    apart: float
    bores: Mapping[str, float]
    solid: Any
    rays: Rays = field(init=False)

    def __post_init__(self) -> None:
        self.rays = rays_into(self.lattice, self.trunks, self.solid)

    @property
    def at_collector(self) -> list[int]:
        """The states in which the collector is reached."""
        if self.foot is None:
            return []
        return [self.foot * HEADINGS + heading for heading in self.arrive]


@dataclass(frozen=True)
class _Joint:
    """A place on a branch that may be joined.

    `heading` is the air's, `behind` the way from there to the collector (m).
    """

    node: int
    heading: int
    behind: float
    leg: int


@dataclass(frozen=True)
class _End:
    """Where a way may end.

    Attributes:
        state: The state of the lattice in which it ends.
        cost: What that costs beside the way (m of duct).
        target: What it joins; None for the collector.
        joint: The place on a branch, where it joins one on the grid.
        place: Where it goes on to, off the grid.
    """

    state: int
    cost: float
    target: Target | None = None
    joint: _Joint | None = None
    place: XY | None = None


@dataclass(frozen=True)
class _Way:
    """A way from a pickup's drop to what it joins, and all that it costs (m of duct)."""

    steps: list[Step]
    end: _End
    cost: float


def grow(
    grid: RoutingGrid, order: Sequence[str], shallow: float = 0.0, *, round_about: bool = True
) -> Layout:
    """A tree that joins pickups in an order, each by the cheapest way to what is there already.

    `shallow` is what a metre onwards to the collector counts beside a metre of new duct: 0 saves
    pipe, more keeps the ways of the air short. Raises nothing; a pickup without a way is left out
    and named. Unless `round_about`, so is one whose cheapest ways all meet what is laid: looking
    for a way round takes as long as a whole tree.
    """
    tree = _Tree(grid, shallow, round_about)
    for ref in order:
        tree.join(ref)
    return Layout(grid.height, tuple(tree.legs), tuple(tree.stranded), tree.cost)


class _Tree:
    """A tree while it grows."""

    def __init__(self, grid: RoutingGrid, shallow: float, round_about: bool) -> None:
        self.grid, self.lattice, self.shallow = grid, grid.lattice, shallow
        self._round_about = round_about
        self.legs: list[RoutedBranch] = []
        self.stranded: list[str] = []
        self.cost = 0.0
        self._met = grid.foot is None
        self._joints: dict[tuple[int, int], _Joint] = {}
        # Of each node the number of the leg that is too near, counted from 1; 0 where none is.
        self._taken = np.zeros(self.lattice.nodes, dtype=np.int64)
        self._laid: set[int] = set()
        self._stops: dict[Target, list[XY]] = defaultdict(list)
        # The bore that nothing joining a leg may exceed: of the narrowest kept duct behind it.
        self._limits: list[float] = []

    def join(self, ref: str) -> None:
        """Lead one pickup to the tree, or name it as stranded."""
        ways = self.grid.ways.get(ref)
        bore = self.grid.bores.get(ref, 0.0)
        found = None
        if ways is not None:
            found = self._cheapest(ways, list(self._ends(bore)), self._is_clear)
            if found is None and self.legs and self._round_about:
                found = self._way_round(ways, bore)
        if found is None:
            self.stranded.append(ref)
        else:
            self._lay(ref, found)

    # -- where a way may end

    def _ends(self, bore: float) -> Iterator[_End]:
        """Yield all ends that a duct of a bore (m) may come to."""
        for joint in self._joints.values():
            # A duct must not get narrower on its way to the fan.
            if self._limits[joint.leg] < bore - SAME_BORE:
                continue
            cost = WYE + self.shallow * joint.behind
            # A wye joins at 45°, from either side.
            for sign in (1, -1):
                state = joint.node * HEADINGS + (joint.heading + sign) % HEADINGS
                yield _End(state, cost, OntoLeg(joint.leg), joint)
        # The collector has one inlet: what comes later joins what leads there.
        if not self._met:
            yield from (_End(state, 0.0) for state in self.grid.at_collector)
        for end in self._ends_of(self.grid.rays, self.grid.trunks, bore, WYE):
            if self._is_apart(end):
                yield end

    def _ends_of(
        self, rays: Rays, ducts: Sequence[JoinableDuct], bore: float, wye: float
    ) -> Iterator[_End]:
        """Yield the ends at which a way leaves the grid for a duct that is wide enough.

        `wye` is what the wye there counts, m of duct.
        """
        for state, cost, number, (x, y) in zip(
            rays.states.tolist(),
            rays.costs.tolist(),
            rays.ducts.tolist(),
            rays.places.tolist(),
            strict=True,
        ):
            duct = ducts[number]
            if duct.bore >= bore - SAME_BORE:
                yield _End(state, wye + cost, duct.target, place=(x, y))

    def _is_apart(self, end: _End) -> bool:
        """Whether no wye is too near on the same duct."""
        if end.target is None or end.place is None:
            return True
        stops = self._stops.get(end.target, ())
        return all(math.dist(end.place, other) >= self.lattice.behind for other in stops)

    # -- the way to one

    def _cheapest(
        self, ways: ShortestPaths, ends: Sequence[_End], fits: Callable[[list[Step], _End], bool]
    ) -> _Way | None:
        """Return the cheapest of some ways that fits; only the first few are tried."""
        if not ends:
            return None
        total = ways.cost[[end.state for end in ends]] + np.array([end.cost for end in ends])
        for number in np.argsort(total, kind="stable")[:NEAREST_TRIES]:
            if not math.isfinite(total[number]):
                return None
            end = ends[number]
            steps = ways.way_to(end.state)
            if fits(steps, end):
                return _Way(steps, end, float(total[number]))
        return None

    def _way_round(self, ways: ShortestPaths, bore: float) -> _Way | None:
        """Return a way round what is laid, for one whose cheapest ways all meet it.

        Nodes that are too near to a duct are taken out of the grid, so that the way can only leave
        it by a ray.
        """
        bare = self.lattice.without(np.flatnonzero(self._taken).tolist())
        starts = [start for node, start in ways.first.items() if not self._taken[node]]
        if not starts:
            return None
        ducts = [*self.grid.trunks]
        for number, leg in enumerate(self.legs):
            for a, b in itertools.pairwise(leg.places):
                ducts.append(JoinableDuct(OntoLeg(number), a, b, self._limits[number]))
        # Every way round ends in a wye, so that it is not counted.
        ends = list(self._ends_of(rays_into(bare, ducts, self.grid.solid), ducts, bore, 0.0))
        return self._cheapest(bare.ways([starts])[0], ends, lambda _, end: self._is_apart(end))

    def _is_clear(self, steps: list[Step], end: _End) -> bool:
        """Whether a way keeps away from what is laid, but at its end for what it joins."""
        # The last metres lie beside the duct that is joined, which is no trouble; the rest must
        # keep away from everything.
        last = self.lattice.length(steps[-1][1])
        spared = math.ceil(END_SPARED * self.grid.apart / last) + 1
        taken = self._taken[[node for node, _ in steps]]
        if taken[:-spared].any() or taken[0]:
            return False
        own = end.joint.leg + 1 if end.joint is not None else 0
        crosses = any(node in self._laid for node, _ in steps[-spared:-1])
        return not crosses and bool(np.isin(taken[-spared:], (0, own)).all())

    # -- laying it

    def _lay(self, ref: str, way: _Way) -> None:
        """Add a way as a branch, and make it one that others may join."""
        end = way.end
        places: list[XY] = []
        for node, _ in way.steps:
            x, y = self.lattice.xy[node].tolist()
            places.append((x, y))
        behind = end.joint.behind if end.joint is not None else 0.0
        # What the air has still to go beyond the joint is a wish, not pipe to be bought.
        self.cost += way.cost - self.shallow * behind
        if end.place is not None:
            places.append(end.place)
            behind += math.dist(*places[-2:])
        # A joint that is taken, and those close to it, are free no more.
        if end.joint is not None:
            self._unjoin(end.joint)
        if end.target is None:
            self._met = True
        else:
            self._stops[end.target].append(places[-1])
        number = len(self.legs)
        self._limits.append(self._limit(end.target))
        self.legs.append(RoutedBranch(ref, corners_of(places), end.target))
        self._offer(number, way.steps, behind)
        self._take(way.steps, number)

    def _limit(self, target: Target | None) -> float:
        """The bore (m) that nothing joining a leg with that end may exceed."""
        if isinstance(target, OntoLeg):
            return self._limits[target.number]
        trunks = [trunk.bore for trunk in self.grid.trunks if trunk.target == target]
        return trunks[0] if trunks else math.inf

    def _unjoin(self, joint: _Joint) -> None:
        """No second wye close beside one."""
        here, gap = self.lattice.xy[joint.node], self.lattice.behind
        for key, other in list(self._joints.items()):
            near = math.dist(here, self.lattice.xy[other.node]) < gap - 1e-9
            if other.leg == joint.leg and near:
                del self._joints[key]

    def _offer(self, leg: int, steps: list[Step], behind: float) -> None:
        """Let the straight parts of a new leg be joined, away from its turns and ends."""
        # A wye wants straight pipe on both sides: not where the branch turns, begins or ends.
        turns = [i for i in range(1, len(steps)) if steps[i][1] != steps[i - 1][1]]
        turns += [0, len(steps) - 1]
        far = behind
        for index in range(len(steps) - 1, 0, -1):
            node, heading = steps[index - 1]
            far += self.lattice.length(heading)
            gap, _ = self.lattice.stride(heading)
            if all(abs(index - 1 - turn) >= gap for turn in turns):
                self._joints[leg, index - 1] = _Joint(node, heading, far, leg)

    def _take(self, steps: Iterable[Step], leg: int) -> None:
        """Mark the nodes that are too near to a new leg."""
        nodes = [node for node, _ in steps]
        # A node keeps the first duct that came near it: that is the one it may join.
        near = self.lattice.around(np.array(nodes), self.grid.apart)
        self._taken[near[self._taken[near] == 0]] = leg + 1
        self._laid.update(nodes)

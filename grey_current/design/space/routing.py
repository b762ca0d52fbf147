"""From a pickup to the main by itself: hose, drop, gate, branch and wye at the best place, with the
flow.
"""

from __future__ import annotations

import heapq
import itertools
import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np

from grey_current.design.space.clashes import TOUCH, duct_space
from grey_current.design.space.crossings import rigid_runs, segment_distances
from grey_current.shop.catalogue import FITS_OVER, materials, size_for_port
from grey_current.shop.duct_edits import DEFAULT_MATERIAL, parted
from grey_current.shop.duct_graph import downstream_ends
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.edits import fresh_id
from grey_current.shop.hoses import cut_length
from grey_current.shop.model import Project
from grey_current.shop.places import XY, XYZ, position
from grey_current.shop.room import off_line

# m between a port and the drop's foot, bridged by hose, so that the machine can be moved a little.
HOSE_GAP = 0.35
# m of the last piece into the wye, at 45° with the flow.
STUB = 0.40
# Bores of its run that a wye stays away from the ends of it: nearer there is hardly ever room for
# pipe between two fittings.
CLEAR = 2.0
# m that a run may rise over its length and still be a main.
LEVEL = 0.10
LEAST_DROP = 0.25
# m; a level branch shorter than this is left out, and the stub begins at the drop.
LEAST_BRANCH = 0.15

# m along the main by which the wye is tried up or down from where it would be nearest.
SHIFTS = (0.0, 0.3, -0.3, 0.6, -0.6, 1.0, -1.0, 1.5, -1.5, 2.5, -2.5)
SAME_PLACE = 1e-6
# m at most by which a drop stands aside of its port, with hose for the rest.
LONGEST_ASIDE = 0.6
# m from a port, all round it, at which a drop is tried too, and m of duct that one would lay rather
# than do so: a hose that leads away from the machine lies in somebody's way.
FARTHER = (HOSE_GAP, 0.6, 0.9, 1.2)
DIRECTIONS = 8
AROUND = 1.0
# m of duct that an elbow is worth saving. Allowance.
ELBOW = 0.3
# m that one would lead a duct round rather than through such a thing. Allowances.
HINDERS = {
    "duct": 20.0,
    "thing": 20.0,
    "lamp": 20.0,
    "area": 40.0,
    "machine": 20.0,
    "beam": 20.0,
    "door": 5.0,
    "tracks": 5.0,
    "doorway": 3.0,
    "walkway": 1.0,
    "ceiling": 20.0,
    "lane": 4.0,
}
BLOCKS = ("thing", "machine")
# m that one would lead a duct farther rather than into a narrower one. Allowance.
NARROWER = 20.0
# m that one would lead a duct round rather than through a wall. Allowance.
THROUGH_WALL = 10.0

# Diameters round a wye within which other ducts may come close: those that meet there.
NEAR_WYE = 3.0

# Places of drops from where a port lies, both in a run's own axes (m along it, m to its side).
_Drops = Callable[[float, float], list[XY]]


@dataclass(frozen=True)
class Way:
    """A way to a main: the run and where on it (m from its start), the drop and the corners after
    it, its length.

    The last corner is the turn into the stub. `cost` is metres of duct and hose, with allowances
    for elbows.
    """

    run: Run
    along: float
    corners: tuple[XY, ...]
    height: float
    cost: float

    @property
    def drop(self) -> XY:
        return self.corners[0]


def ways_to_mains(
    project: Project, ref: str, collector: str | None = None
) -> Iterator[tuple[Way, float]]:
    """The ways from a pickup to a main, or to one that leads to a collector, the cheapest first.

    A wye is put on the main downstream of the pickup so that the branch enters at 45° with the
    flow; from it a stub, an elbow, a level branch (with a corner, where that leads round something
    or the main does not come by), and a drop. Each comes with its cost (m of duct and hose), all
    that stands in its way counted. Raises nothing; without a main there is none.
    """
    obstacles, port = _Obstacles(project, ref), position(project, ref)[:2]
    number = itertools.count()
    # What waits to be looked at, by what it costs at least: a main costs as much as it is away,
    # a way as long as it is, and more with everything that is found in its way.
    waiting: list[tuple[float, int, Any, Way | None]] = []
    bore = size_for_port(project, project.pickup[ref][1].port)
    for run, forward in _mains(project, collector):
        near = max(_apart(project, run, port) - HOSE_GAP, 0.0)
        narrower = NARROWER if run.diameter < bore - FITS_OVER else 0.0
        for extra, drops in ((narrower, _close_drops), (narrower + AROUND, _drops_around)):
            paths = _paths_to(project, run, forward, ref, drops, extra)
            waiting.append((near + extra, next(number), paths, None))
    heapq.heapify(waiting)
    while waiting:
        cost, _, found, way = heapq.heappop(waiting)
        if way is None:
            for way in found:
                heapq.heappush(waiting, (way.cost, next(number), obstacles.of(way), way))
        elif (more := next(found, None)) is not None:
            heapq.heappush(waiting, (cost + more, next(number), found, way))
        else:
            yield way, cost


def _apart(project: Project, run: Run, place: XY) -> float:
    """How far (m) a place is from a run in plan: no path to it costs less, but for the hose at its
    end.
    """
    return off_line(place, position(project, run.start)[:2], position(project, run.end)[:2])


class _Obstacles:
    """What stands between a pickup and the mains. Many ways share a drop or a leg, so that what was
    found of one is kept.
    """

    def __init__(self, project: Project, ref: str) -> None:
        machine, pickup = project.pickup[ref]
        self._space, self._own = duct_space(project), frozenset((machine.id,))
        self._port, self._bore = position(project, ref), size_for_port(project, pickup.port)
        self._of_leg = cache(self._leg)
        self._of_drop = cache(self._drop)

    def of(self, way: Way) -> Iterator[float]:
        """What is in a way, one leg after the other, as metres that one would go round for it."""
        project, run = self._space.project, way.run
        start, end = position(project, run.start), position(project, run.end)
        share = way.along / (math.dist(start[:2], end[:2]) or 1.0)
        wye = (start[0] + (end[0] - start[0]) * share, start[1] + (end[1] - start[1]) * share)
        level = [(x, y, way.height) for x, y in (*way.corners, wye)]
        foot = (*way.drop, self._port[2])
        legs = [(foot, level[0]), *itertools.pairwise(level)]
        yield self._of_drop(foot, way.height)
        for leg in legs:
            yield self._of_leg(*leg)
        yield HINDERS["duct"] * _ducts_met(project, way, legs, self._bore)

    def _leg(self, a: XYZ, b: XYZ) -> float:
        # Its own machine is in its way like any other; only the hose comes out of that.
        space, bore = self._space, self._bore
        met = math.fsum(HINDERS.get(solid.kind, 0.0) for solid, _ in space.passed(a, b, bore))
        too_high = HINDERS["ceiling"] * (space.ceiling_passed(a, b, bore) is not None)
        return met + too_high + THROUGH_WALL * space.wall_between(a, b)

    def _drop(self, foot: XYZ, top: float) -> float:
        space, port, bore = self._space, self._port, self._bore
        met = HINDERS["thing"] * len(space.passed(port, foot, bore, self._own, BLOCKS))
        boards = HINDERS["lane"] * len(space.boards_met(foot, top, bore))
        return met + boards + THROUGH_WALL * space.wall_between(port, foot)


def _ducts_met(project: Project, way: Way, legs: list[tuple[XYZ, XYZ]], bore: float) -> int:
    """How many ducts a way goes through, but for the main that it joins, and those that its last
    leg comes close to where they meet that main too.
    """
    runs, starts, ends, bores = rigid_runs(project)
    first, last = np.array([a for a, _ in legs])[:, None], np.array([b for _, b in legs])[:, None]
    near = segment_distances(first, last, starts, ends) < (bores + bore) / 2 - TOUCH
    apart = segment_distances(last[-1], last[-1], starts, ends)
    for number in np.flatnonzero(near[-1] & (apart < NEAR_WYE * bore)):
        near[-1, number] = set(runs[number].ends).isdisjoint(way.run.ends)
    return sum(runs[number].id != way.run.id for number in np.flatnonzero(near.any(axis=0)))


def _mains(project: Project, collector: str | None) -> list[tuple[Run, bool]]:
    """Level rigid runs that lead to a collector, each with whether air passes from its start to its
    end.
    """
    level = []
    for ident, down in downstream_ends(project, collector).items():
        run = project.run[ident]
        a, b = position(project, run.start), position(project, run.end)
        if (
            abs(a[2] - b[2]) < LEVEL
            and math.dist(a, b) > 2 * CLEAR * run.diameter
            and not materials()[run.material].hose
        ):
            level.append((run, run.end == down))
    return level


def _close_drops(along: float, side: float) -> list[XY]:
    """Straight beside the port, or a hose's length up or down the main."""
    drops = [(along, max(abs(side) - HOSE_GAP, STUB))]
    if abs(side) >= STUB:
        drops += [(along + aside, abs(side)) for aside in (HOSE_GAP, -HOSE_GAP)]
    return [(t, math.copysign(out, side)) for t, out in drops]


def _drops_around(along: float, side: float) -> list[XY]:
    """All round the port, and farther and farther off; on either side of the main."""
    turns = [2 * math.pi * number / DIRECTIONS for number in range(DIRECTIONS)]
    around = [
        (along + away * math.cos(turn), side + away * math.sin(turn))
        for away in FARTHER
        for turn in turns
    ]
    # Over the main itself there is no drop with a branch to it.
    return [(t, s) for t, s in around if abs(s) >= STUB]


def _paths_to(
    project: Project, run: Run, forward: bool, ref: str, drops: _Drops, extra: float
) -> Iterator[Way]:
    """Ways from a pickup to one run, with the drop at several places beside the port and the wye
    here and there; each costs so much `extra` (m).
    """
    up, down = run.ends if forward else (run.end, run.start)
    a, b, port = position(project, up), position(project, down), position(project, ref)
    length, clear = math.dist(a[:2], b[:2]), CLEAR * run.diameter
    ux, uy = (b[0] - a[0]) / length, (b[1] - a[1]) / length
    # The port in the run's own axes: how far along it lies, and how far to the side.
    along = (port[0] - a[0]) * ux + (port[1] - a[1]) * uy
    side = -(port[0] - a[0]) * uy + (port[1] - a[1]) * ux

    def place(t: float, s: float) -> XY:
        return a[0] + ux * t - uy * s, a[1] + uy * t + ux * s

    for (number, (drop, aside)), shift in itertools.product(enumerate(drops(along, side)), SHIFTS):
        out, sign = abs(aside), math.copysign(1.0, aside)
        # Close to the main there is no room for a straight piece and a turn: one leg at the wye's
        # angle.
        stub = out if out < STUB + LEAST_BRANCH else STUB
        wanted = drop + stub + shift
        wye = min(max(wanted, clear), length - clear)
        if shift and wye != wanted:
            continue  # the end of the main is tried without a shift
        at = wye if forward else length - wye
        turn = wye - stub
        hose = math.dist(place(drop, aside), port[:2])
        straight = abs(turn - drop) < SAME_PLACE
        ahead = (place(turn, aside), place(turn, sign * stub))
        if straight:
            yield Way(run, at, ahead, a[2], extra + out + hose)
        elif out - stub >= LEAST_BRANCH and abs(turn - drop) >= LEAST_BRANCH:
            cost = extra + out + abs(turn - drop) + ELBOW + hose
            yield Way(run, at, (place(drop, aside), *ahead), a[2], cost)
        # The drop itself aside, in line with its turn.
        nearest = shift == 0 and number == 0
        if not straight and (abs(turn - drop) <= LONGEST_ASIDE or nearest):
            hose = math.dist(ahead[0], port[:2])
            yield Way(run, at, ahead, a[2], extra + out + 2 * hose)


def with_branch(project: Project, ref: str, way: Way, like: Gate | None = None) -> Project:
    """The project with a pickup connected by one of its ways: a wye on the main, the branch, a drop
    with a gate, and a hose to the port, in the next pipe size that takes the port.

    The gate is made `like` another, where one is given. Raises nothing.
    """
    pickup = project.pickup[ref][1]
    total = math.dist(position(project, way.run.start)[:2], position(project, way.run.end)[:2])
    wye, main, gates = parted(project, way.run.id, way.along / total)
    base = ref.replace("/", "-")
    bore = size_for_port(project, pickup.port)
    port = position(project, ref)
    heights = [("foot", way.drop, port[2]), ("top", way.drop, way.height)]
    heights += [("corner", corner, way.height) for corner in way.corners[1:-1]]
    heights += [("turn", way.corners[-1], way.height)]
    # A port at the main's height needs no drop.
    if abs(way.height - port[2]) < LEAST_DROP:
        heights = heights[1:]
    if math.dist(way.drop, way.corners[-1]) < LEAST_BRANCH / 2:
        heights = [place for place in heights if place[0] != "turn"]
    names = {"foot": "drop", "top": "branch", "corner": "branch", "turn": "stub"}
    points, runs, last = {wye.id: wye}, {main[-1].id: main[-1]}, wye.id
    # From the wye outwards, so that every run knows what it ends at.
    for name, (x, y), height in reversed(heights):
        point = fresh_id(project, f"{base}-{name}", (*points, *runs))
        points[point] = Point(id=point, x=round(x, 4), y=round(y, 4), height=round(height, 4))
        run = fresh_id(project, f"{base}-{names[name]}", (*points, *runs))
        runs[run] = Run(id=run, start=point, end=last, diameter=bore, material=DEFAULT_MATERIAL)
        last = point
    gate = Gate(id=fresh_id(project, f"gate-{base}", (*points, *runs)), run=run)
    if like is not None:
        gate = gate.replaced(rule=like.rule, opening=like.opening, bore=like.bore, leak=like.leak)
    end = (points[last].x, points[last].y, points[last].height)
    hose = Run(
        id=fresh_id(project, f"{base}-hose", (*points, *runs)),
        start=ref,
        end=last,
        diameter=bore,
        material="ribbed-hose",
        length=cut_length(project, math.dist(port, end)),
    )
    return project.replaced(
        points=(*project.points, *points.values()),
        runs=(*main[:-1], *runs.values(), hose),
        gates=(*gates, gate),
    )

"""From a pickup to the main by itself: hose, drop, gate, branch and wye at the best place, with the
flow.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from grey_current.design.space.clashes import TOUCH, DuctSpace, duct_space
from grey_current.design.space.crossings import rigid_runs, segment_distances
from grey_current.errors import RefusedEdit
from grey_current.shop.catalogue import materials, size_for_port
from grey_current.shop.duct_edits import DEFAULT_MATERIAL, parted
from grey_current.shop.duct_graph import branch_segment, downstream_ends
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.edits import fresh_id, removed
from grey_current.shop.hoses import cut_length
from grey_current.shop.machines import Pickup
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.places import XY, XYZ, position
from grey_current.shop.room import off_line

# m between a port and the drop's foot, bridged by hose, so that the machine can be moved a little.
HOSE_GAP = 0.35
# m of the last piece into the wye, at 45° with the flow.
STUB = 0.40
# m that a wye stays away from the ends of its run.
CLEAR = 0.12
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
# m from a port, all round it, at which a drop is tried where nothing nearer stands free. Farther
# off a hose takes more air than a longer branch.
FARTHER = (HOSE_GAP, 0.6, 0.9, 1.2)
DIRECTIONS = 8
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
# m that one would lead a duct round rather than through a wall. Allowance.
THROUGH_WALL = 10.0

# Diameters round a wye within which other ducts may come close: those that meet there.
NEAR_WYE = 3.0

# Places of drops from where a port lies, both in a run's own axes (m along it, m to its side).
_Drops = Callable[[float, float], list[XY]]


@dataclass(frozen=True)
class _Path:
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


def connected(
    project: Project, ref: str, collector: str | None = None, like: Gate | None = None
) -> Project:
    """The project with a pickup connected to the nearest main, or the nearest that leads to a
    collector.

    A wye is put on the main downstream of the pickup so that the branch enters at 45° with the
    flow; from it a stub, an elbow, a level branch (with a corner, where that leads round something
    or the main does not come by), a drop with a gate, and a hose to the port, in the next pipe size
    that takes the port. Of the ways that are free the shortest; only where none is, one through
    what stands there. The gate is made `like` another, where one is given. Raises `RefusedEdit`
    when there is no main, or the pickup has a run already.
    """
    pickup = project.pickup[ref][1]
    if any(ref in run.touches for run in project.runs):
        raise RefusedEdit(called(project, ref), "a second duct on it", "delete the first one")
    best = _freest(project, ref, _mains(project, collector))
    if best is None:
        raise RefusedEdit(
            called(project, ref), "connecting it", "draw a main from a collector first"
        )
    return _built(project, ref, pickup, best, like)


def _freest(project: Project, ref: str, mains: list[tuple[Run, bool]]) -> _Path | None:
    """The path that costs least with what stands in its way counted.

    Drops close to the port are looked at first; others only where each of those is in the way.
    """
    best, cost = _cheapest(project, ref, mains, _close_drops, math.inf)
    if best is not None and cost > best.cost:
        farther, _ = _cheapest(project, ref, mains, _drops_around, cost)
        best = farther or best
    return best


def _cheapest(
    project: Project, ref: str, mains: list[tuple[Run, bool]], drops: _Drops, beat: float
) -> tuple[_Path | None, float]:
    """The path that costs least, and its cost with what is in its way; none where none costs less
    than `beat`. Those that cannot win are not looked at.
    """
    space, port = duct_space(project), position(project, ref)[:2]
    best: _Path | None = None
    least = beat
    # Nearest mains first: what is farther than the best path's cost cannot win.
    for near, run, forward in sorted(
        ((_apart(project, r, port), r, f) for r, f in mains), key=lambda each: each[0]
    ):
        if near - HOSE_GAP >= least:
            break
        for path in sorted(
            _paths_to(project, run, forward, ref, drops), key=lambda path: path.cost
        ):
            if path.cost >= least:
                break
            cost = path.cost
            for hindrance in _in_the_way(space, ref, path):
                cost += hindrance
                if cost >= least:
                    break
            else:
                best, least = path, cost
    return best, least


def _apart(project: Project, run: Run, place: XY) -> float:
    """How far (m) a place is from a run in plan: no path to it costs less, but for the hose at its
    end.
    """
    return off_line(place, position(project, run.start)[:2], position(project, run.end)[:2])


def _in_the_way(space: DuctSpace, ref: str, path: _Path) -> Iterator[float]:
    """What stands in a path's way, one thing after the other, as metres that one would go round for
    it.
    """
    project = space.project
    machine, pickup = project.pickup[ref]
    port, bore = position(project, ref), size_for_port(project, pickup.port)
    start, end = position(project, path.run.start), position(project, path.run.end)
    share = path.along / (math.dist(start[:2], end[:2]) or 1.0)
    wye = (start[0] + (end[0] - start[0]) * share, start[1] + (end[1] - start[1]) * share)
    level = [(x, y, path.height) for x, y in (*path.corners, wye)]
    foot = (*path.drop, port[2])
    # The drop from the port's height, and the level part to the wye. Its own machine is in their
    # way like any other; only the hose comes out of that.
    for a, b in itertools.pairwise([foot, *level]):
        yield math.fsum(HINDERS.get(solid.kind, 0.0) for solid, _ in space.passed(a, b, bore))
        yield THROUGH_WALL * space.wall_between(a, b)
        yield HINDERS["ceiling"] * (space.ceiling_passed(a, b, bore) is not None)
    own = frozenset((machine.id,))
    yield HINDERS["thing"] * len(space.passed(port, foot, bore, own, BLOCKS))
    yield THROUGH_WALL * space.wall_between(port, foot)
    yield HINDERS["lane"] * len(space.boards_met(foot, path.height, bore))
    legs = [(foot, level[0]), *itertools.pairwise(level)]
    yield HINDERS["duct"] * _ducts_met(project, path, legs, bore)


def _ducts_met(project: Project, path: _Path, legs: list[tuple[XYZ, XYZ]], bore: float) -> int:
    """How many ducts a path goes through, but for the main that it joins, and those that its last
    leg comes close to where they meet that main too.
    """
    runs, starts, ends, bores = rigid_runs(project)
    first, last = np.array([a for a, _ in legs])[:, None], np.array([b for _, b in legs])[:, None]
    near = segment_distances(first, last, starts, ends) < (bores + bore) / 2 - TOUCH
    apart = segment_distances(last[-1], last[-1], starts, ends)
    for number in np.flatnonzero(near[-1] & (apart < NEAR_WYE * bore)):
        near[-1, number] = set(runs[number].ends).isdisjoint(path.run.ends)
    return sum(runs[number].id != path.run.id for number in np.flatnonzero(near.any(axis=0)))


def reconnected(project: Project, ref: str) -> Project:
    """The project with a pickup's branch taken away, up to its wye, and put in anew by the nearest
    way.

    Its gate keeps its kind. Raises `RefusedEdit` when it has no branch of its own, or cannot be
    connected.
    """
    run = next((r for r in project.runs if ref in r.ends), None)
    if run is None or run.also_serves:
        raise RefusedEdit(
            called(project, ref), "another branch for it", "choose a pickup with a hose of its own"
        )
    chain = branch_segment(project, run.id)
    ends = {end for r in chain for end in project.run[r].ends}
    if ends & set(project.collector):
        raise RefusedEdit(
            called(project, ref), "another branch for it", "it needs a main that it joins"
        )
    # What the user set of its gate goes on with the new one.
    old = next((gate for gate in project.gates if gate.run in chain), None)
    return connected(removed(project, chain), ref, like=old)


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
            and math.dist(a, b) > 3 * CLEAR
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
    project: Project, run: Run, forward: bool, ref: str, drops: _Drops
) -> Iterator[_Path]:
    """Ways from a pickup to one run, with the drop at several places beside the port and the wye
    here and there.
    """
    up, down = run.ends if forward else (run.end, run.start)
    a, b, port = position(project, up), position(project, down), position(project, ref)
    length = math.dist(a[:2], b[:2])
    ux, uy = (b[0] - a[0]) / length, (b[1] - a[1]) / length
    # The port in the run's own axes: how far along it lies, and how far to the side.
    along = (port[0] - a[0]) * ux + (port[1] - a[1]) * uy
    side = -(port[0] - a[0]) * uy + (port[1] - a[1]) * ux

    def place(t: float, s: float) -> XY:
        return a[0] + ux * t - uy * s, a[1] + uy * t + ux * s

    for (number, (drop, aside)), shift in itertools.product(
        enumerate(drops(along, side)), SHIFTS
    ):
        out, sign = abs(aside), math.copysign(1.0, aside)
        # Close to the main there is no room for a straight piece and a turn: one leg at the wye's
        # angle.
        stub = out if out < STUB + LEAST_BRANCH else STUB
        wanted = drop + stub + shift
        wye = min(max(wanted, CLEAR), length - CLEAR)
        if shift and wye != wanted:
            continue  # the end of the main is tried without a shift
        at = wye if forward else length - wye
        turn = wye - stub
        hose = math.dist(place(drop, aside), port[:2])
        straight = abs(turn - drop) < SAME_PLACE
        ahead = (place(turn, aside), place(turn, sign * stub))
        if straight:
            yield _Path(run, at, ahead, a[2], out + hose)
        elif out - stub >= LEAST_BRANCH and abs(turn - drop) >= LEAST_BRANCH:
            cost = out + abs(turn - drop) + ELBOW + hose
            yield _Path(run, at, (place(drop, aside), *ahead), a[2], cost)
        # The drop itself aside, in line with its turn.
        nearest = shift == 0 and number == 0
        if not straight and (abs(turn - drop) <= LONGEST_ASIDE or nearest):
            hose = math.dist(ahead[0], port[:2])
            yield _Path(run, at, ahead, a[2], out + 2 * hose)


def _built(project: Project, ref: str, pickup: Pickup, path: _Path, like: Gate | None) -> Project:
    total = math.dist(position(project, path.run.start)[:2], position(project, path.run.end)[:2])
    wye, main, gates = parted(project, path.run.id, path.along / total)
    base = ref.replace("/", "-")
    bore = size_for_port(project, pickup.port)
    port = position(project, ref)
    heights = [("foot", path.drop, port[2]), ("top", path.drop, path.height)]
    heights += [("corner", corner, path.height) for corner in path.corners[1:-1]]
    heights += [("turn", path.corners[-1], path.height)]
    # A port at the main's height needs no drop.
    if abs(path.height - port[2]) < LEAST_DROP:
        heights = heights[1:]
    if math.dist(path.drop, path.corners[-1]) < LEAST_BRANCH / 2:
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

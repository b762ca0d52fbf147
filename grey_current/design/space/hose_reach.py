"""One hose moved about: whether it reaches each machine, over what, and what the moving costs in a
week.

Times are allowances; the user's own figure takes their place.
"""

from __future__ import annotations

import heapq
import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass

import shapely

from grey_current.design.space.ground import FloorSpace, walls_between
from grey_current.design.space.outlines import passage, plan
from grey_current.shop.catalogue import materials
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.ducts import Run
from grey_current.shop.hoses import HOSE_SLACK, cut_length
from grey_current.shop.model import Project
from grey_current.shop.places import bridged, distance, position

# Seconds to take a hose off one machine and put it on another: walk, loosen, push on, fasten.
# Allowance.
SWAP_SECONDS = {"clamp": 60.0, "quick": 12.0}
# Hours to plan, cut, hang and seal one fixed drop with its gate. Allowance.
DROP_HOURS = 2.0
Place = tuple[float, float]
# m between a hose's centre line and the corner that it lies round.
CLEARANCE = 0.08
# m within which an end of a duct is where it was.
SAME_PLACE = 0.02
# m; a hose that hangs higher than this over a walkway trips nobody.
OVERHEAD = 2.0


def cut_off(drawn: Project, moved: Project) -> tuple[str, ...]:
    """Machines that the ducts do not reach when things stand otherwise than the ducts were drawn
    for: behind a hose that is too short then, or a rigid duct whose end has gone.
    """
    paths, found = AirPaths(moved), []
    for run in moved.runs:
        onward = [moved.run[ident] for ident in paths.onward(run.id) if ident != run.id]
        for ref in run.serves or (run.start, run.end):
            if ref in moved.pickup and not (
                _still_reaches(drawn, moved, run, ref if run.serves else run.start)
                and all(_still_reaches(drawn, moved, other, other.start) for other in onward)
            ):
                found.append(ref.partition("/")[0])
    return tuple(dict.fromkeys(found))


def _still_reaches(drawn: Project, moved: Project, run: Run, start: str) -> bool:
    """Whether a run with its start at a place still joins what it joined where it was drawn."""
    if not materials()[run.material].hose:
        return all(
            math.dist(position(drawn, end), position(moved, end)) < SAME_PLACE
            for end in (start, run.end)
        )
    length = run.length
    if length is None:
        # It is cut for where it was drawn.
        length = cut_length(drawn, max(distance(drawn, run, r) for r in run.serves or (start,)))
    return distance(moved, run, start) <= length + SAME_PLACE


@dataclass(frozen=True)
class Reach:
    """A hose's way to one pickup: length of the way (m) round what stands there, and the length
    needed (m).

    `around` are the things that it lies round, `walkways` those that it crosses below head height.
    Both lengths are infinite where walls leave no way.
    """

    pickup: str
    length: float
    needed: float
    around: tuple[str, ...]
    walkways: tuple[str, ...]


@dataclass(frozen=True)
class Swaps:
    """What moving a hose costs: swaps in a week, seconds for each, minutes in a week.

    `drops` is the number of fixed drops that would end it, `weeks` after how many the time to build
    those is won back; None when nothing is swapped.
    """

    each_week: float
    seconds: float
    minutes: float
    drops: int
    weeks: float | None


def served(run: Run) -> tuple[str, ...]:
    """All pickups that a hose is put on."""
    return run.serves


def carried_hoses(project: Project) -> list[Run]:
    """Every hose that is carried from port to port, once."""
    return [*project.moved_hoses, *(runs[0] for runs in project.shared_hoses)]


def reaches(project: Project, space: FloorSpace, run: Run) -> list[Reach]:
    """How a hose gets to each pickup that it serves; see `reach`."""
    return [reach(project, space, run, ref) for ref in served(run) if ref in project.pickup]


def swaps(project: Project, run: Run) -> Swaps:
    """What moving a hose costs. Each use of a machine asks for one swap, if other machines are used
    between.

    With shares s of all scenarios, the machine used next is another one with probability 1 − Σ s².
    """
    group = project.same_hose(run) or (run,)
    ports = [ref for each in group for ref in served(each)]
    machines = dict.fromkeys(ref.split("/")[0] for ref in ports)
    uses = [project.machine[m].uses_per_week for m in machines if m in project.machine]
    total = math.fsum(uses)
    # The chance that the hose is elsewhere when a machine is wanted next: uses follow one another
    # by chance, each as often as it is used.
    other = 1 - math.fsum((u / total) ** 2 for u in uses) if total > 0 else 0.0
    count = total * other
    seconds = run.swap_seconds or SWAP_SECONDS[run.coupling]
    minutes = count * seconds / 60
    weeks = len(uses) * DROP_HOURS * 60 / minutes if minutes > 0 else None
    return Swaps(count, seconds, minutes, len(uses), weeks)


def reach(project: Project, space: FloorSpace, run: Run, ref: str) -> Reach:
    """How a hose gets to one pickup, as one would lay it: round what stands higher than it.

    `space` is the ground of the project, or of one in which the same stands at the same places.
    Raises nothing.
    """
    a, b = position(project, run.end), position(project, ref)
    machine = ref.split("/", maxsplit=1)[0]
    # A hose hangs between its two ends and goes over what is lower than both.
    low = max(a[2], b[2], run.hung or 0.0)
    solid = [
        (body.ident, body.shape)
        for body in space.bodies(machine)
        if body.ident not in (machine, run.end) and body.bottom <= low < body.top
    ]
    line, around = _path_round(a[:2], b[:2], solid, space)
    if not line:
        return Reach(ref, math.inf, math.inf, around, ())
    flat = sum(math.dist(p, q) for p, q in itertools.pairwise(line))
    length = bridged((0.0, 0.0, a[2]), (flat, 0.0, b[2]), run)
    crossed = tuple(
        f.id for f in project.features if f.kind == "walkway" and _crosses(line, f.outline)
    )
    # Overhead it crosses no walkway that anyone trips on.
    high = (min(a[2], b[2]) if run.hung is None else run.hung) > OVERHEAD
    return Reach(ref, length, length * HOSE_SLACK, around, () if high else crossed)


def _crosses(line: list[tuple[float, float]], outline: tuple[tuple[float, float], ...]) -> bool:
    return bool(shapely.LineString(line).intersection(plan(outline)).length > 0.05)


def _path_round(
    a: Place, b: Place, solid: list[tuple[str, object]], space: FloorSpace
) -> tuple[list[tuple[float, float]], tuple[str, ...]]:
    """The shortest way on the floor between two places, and what it goes round: a visibility graph.

    Through a wall it goes by a door; no line at all where there is no way.
    """
    if math.dist(a, b) < 1e-3:
        return [a, b], ()
    doors = [
        (o, passage(o, space.project.rooms)) for o in space.project.openings if o.kind != "window"
    ]
    walls = walls_between(space.project.rooms, ())
    walls = walls.difference(shapely.union_all([way for _, way in doors]))
    block = shapely.union_all([shape for _, shape in solid]) if solid else shapely.Polygon()

    def clear(p: Place, q: Place) -> bool:
        line = shapely.LineString([p, q])
        return not line.crosses(block) and not line.within(block) and not line.crosses(walls)

    # The straight way is nearly always free, and then no graph is needed.
    if clear(a, b):
        return [a, b], ()
    corners = [
        (x, y)
        for _, shape in solid
        for x, y in shapely.get_coordinates(shapely.buffer(shape, CLEARANCE, join_style="mitre"))[
            :-1
        ]
    ]
    # And the inner corners of the rooms themselves, round which a hose turns too.
    corners += [
        (x, y)
        for room in space.project.rooms
        for x, y in shapely.get_coordinates(
            shapely.buffer(plan(room.outline), -CLEARANCE, join_style="mitre")
        )[:-1]
    ]
    # Halfway into each passage, so that a way through a door is found from both sides.
    for opening, way in doors:
        spots = shapely.get_coordinates(shapely.buffer(way, CLEARANCE, join_style="mitre"))[:-1]
        middle = (opening.start[0] + opening.end[0]) / 2, (opening.start[1] + opening.end[1]) / 2
        corners += [((x + middle[0]) / 2, (y + middle[1]) / 2) for x, y in spots]
    places = [a, b, *corners]
    straight = shapely.LineString([a, b])
    line = _shortest(places, clear)
    return line, tuple(ident for ident, shape in solid if straight.intersects(shape))


def _shortest(places: list[Place], clear: Callable[[Place, Place], bool]) -> list[Place]:
    """The shortest line from the first place to the second by way of others; nothing where there is
    none.

    Towards the goal first (A*), so that few pairs are asked whether they see one another. Source:
    Hart, Nilsson and Raphael, A Formal Basis for the Heuristic Determination of Minimum Cost Paths,
    1968.
    """
    goal, far = places[1], [math.inf] * len(places)
    far[0], before, done = 0.0, [-1] * len(places), [False] * len(places)
    # A*: by what is done and the straight rest. Edges are tested only when they would be better.
    waiting = [(math.dist(places[0], goal), 0)]
    while waiting:
        _, here = heapq.heappop(waiting)
        if here == 1:
            line = [1]
            while line[-1]:
                line.append(before[line[-1]])
            return [places[i] for i in reversed(line)]
        if done[here]:
            continue
        done[here] = True
        for there, place in enumerate(places):
            length = far[here] + math.dist(places[here], place)
            if not done[there] and length < far[there] and clear(places[here], place):
                far[there], before[there] = length, here
                heapq.heappush(waiting, (length + math.dist(place, goal), there))
    return []

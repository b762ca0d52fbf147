"""How a layout's ducts lie in the room: aslant across it, or along its walls."""

from __future__ import annotations

import math
from collections.abc import Iterable

import shapely

from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop.duct_graph import AirPaths, far_end
from grey_current.shop.ducts import Run
from grey_current.shop.model import Project
from grey_current.shop.places import distance, position
from grey_current.shop.room import building_turn
from grey_current.shop.vectors import dot, way_between

# Degrees to the walls beyond which a duct is aslant, and m of a branch that enters its main at 45°
# in any case. Allowances.
AWRY, INTO_MAIN = 5.0, 0.6
# m from a wall within which a main is said to lie along it. Allowance.
BESIDE_WALL = 0.3
# Cosine from which a duct goes straight on.
STRAIGHT_ON = 0.99


def metres_aslant(project: Project) -> float:
    """M of level duct that run at an angle to the walls, but for what a branch takes to enter its
    main. Raises nothing.
    """
    paths, turn = AirPaths(project), building_turn(project.rooms)
    total = 0.0
    for run in project.runs:
        if is_hose(run) or run.id not in paths.down:
            continue
        a, b = position(project, run.start), position(project, run.end)
        flat = math.dist(a[:2], b[:2])
        if flat < abs(a[2] - b[2]):
            continue
        angle = (math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]) - turn)) % 90
        if min(angle, 90 - angle) > AWRY:
            total += max(flat - (INTO_MAIN if _enters(project, paths, run) else 0.0), 0.0)
    return total


def _enters(project: Project, paths: AirPaths, run: Run) -> bool:
    """Whether a run ends in a wye, at an angle to the main."""
    onward = paths.next_run(run.id)
    if onward is None:
        return False
    at = paths.down[run.id]
    here = position(project, at)
    back = way_between(here, position(project, far_end(run, at)))
    ahead = way_between(here, position(project, far_end(onward, at)))
    return len(paths.at[at]) > 2 and -dot(back, ahead) < STRAIGHT_ON


def main_of(project: Project) -> list[str]:
    """The runs that more than one pickup's air passes, on the way of the one that is farthest from
    its collector.
    """
    paths = AirPaths(project)
    passes: dict[str, int] = {}
    ways = []
    for run in project.runs:
        if run.start in project.pickup and run.id in paths.down:
            ways.append(list(paths.onward(run.id)))
            for passed in ways[-1]:
                passes[passed] = passes.get(passed, 0) + 1
    shared = [[run for run in way if passes[run] > 1] for way in ways]
    return max(
        shared, key=lambda way: sum(distance(project, project.run[run]) for run in way), default=[]
    )


def lies_beside_walls(project: Project, main: Iterable[str]) -> bool:
    """Whether most of a main lies close along walls."""
    outlines = shapely.union_all([shapely.Polygon(room.outline).boundary for room in project.rooms])
    near = total = 0.0
    for ident in main:
        run = project.run[ident]
        a, b = position(project, run.start)[:2], position(project, run.end)[:2]
        length = math.dist(a, b)
        middle = shapely.Point((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        total += length
        near += length if outlines.distance(middle) < BESIDE_WALL else 0.0
    return total > 0 and near > 0.7 * total


def lies_along_walls(project: Project) -> bool:
    """Whether most of the longest main lies close along walls. Raises nothing."""
    return lies_beside_walls(project, main_of(project))

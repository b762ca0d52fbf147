"""Capped pieces of pipe: clean-outs, where what settled can be taken out, and stubs that wait for
a machine to come.

Pure functions. The tee or the wye there is inferred from the runs; cap and piece are bought like
any other.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from grey_current.errors import RefusedEdit
from grey_current.shop.catalogue import materials
from grey_current.shop.duct_edits import split
from grey_current.shop.duct_graph import AirPaths, far_end
from grey_current.shop.ducts import Point, Run
from grey_current.shop.edits import added, changed, fresh_id
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.places import XYZ, distance, position
from grey_current.shop.room import within
from grey_current.shop.vectors import along, dot, way_between

# m of capped pipe past a turn that are tried, the shortest first: a tee or a wye, a piece that
# holds, and a cap have to find room.
PAST_A_TURN = (0.15, 0.25, 0.35, 0.5)
# m of capped pipe on a wye, and of duct below which none is proposed. Allowances.
ON_A_WYE, LEAST_FOR_WYE = 0.3, 1.0
# m that a run may rise and still count as level.
LEVEL = 0.1
# Degrees by which the air must turn for there to be a straight way on past the turn.
TURNS = 30.0
# Degrees of the wye by which a rigid duct joins one that goes straight on to a cap: a tee would
# cost its air more.
WYE = 45.0
# m that a cap keeps from the floor, for the hand that takes it off.
HAND = 0.05


class _Turn(NamedTuple):
    """A joint where air turns: the run that it comes by, the one it leaves by, where a cap past it
    would be.
    """

    coming: Run
    leaving: Run
    cap: XYZ


# -- clean-outs


def takes_clean_out(paths: AirPaths, point: str) -> bool:
    """Whether a joint is a turn past which a rigid duct can go straight on to a cap: the foot of a
    drop, a main's first corner.
    """
    return _turn(paths, point) is not None


def with_clean_out(project: Project, point: str, length: float = PAST_A_TURN[0]) -> Project:
    """The project with a capped piece of pipe (m, from the joint's middle) straight on past a
    turn. Raises `RefusedEdit` anywhere else.
    """
    turn = _turn(AirPaths(project), point, length)
    if turn is None or _leaves_room(project, position(project, point), turn.cap):
        raise RefusedEdit(
            called(project, point),
            "a clean-out here",
            "choose the foot of a drop or a corner of a main, with room for a capped piece of pipe",
        )
    x, y, height = (round(value, 4) for value in turn.cap)
    cap = Point(id=fresh_id(project, f"{point}-clean-out"), x=x, y=y, height=height, end="cap")
    piece = Run(
        id=fresh_id(project, f"{turn.leaving.id}-clean-out"),
        start=cap.id,
        end=point,
        diameter=turn.leaving.diameter,
        material=turn.leaving.material,
    )
    project = added(added(project, cap), piece)
    return project if _is_hose(turn.coming) else changed(project, point, wye_angle=WYE)


def _turn(paths: AirPaths, point: str, length: float = PAST_A_TURN[0]) -> _Turn | None:
    """The turn at a joint where a clean-out has room; None anywhere else."""
    design, meeting = paths.design, paths.at[point]
    if point not in design.point or len(meeting) != 2:
        return None
    leaving = next((run for run in meeting if paths.down.get(run.id) not in (None, point)), None)
    if leaving is None or _is_hose(leaving):
        return None
    coming = next(run for run in meeting if run.id != leaving.id)
    here = position(design, point)
    onward, back = (
        way_between(here, position(design, far_end(run, point))) for run in (leaving, coming)
    )
    straight_on = -dot(onward, back)
    if straight_on > math.cos(math.radians(TURNS)):
        return None
    cap = along(here, onward, -length)
    if cap[2] < HAND:
        return None
    return _Turn(coming, leaving, cap)


def is_capped(paths: AirPaths, run: str) -> bool:
    """Whether a run has a cap, or a capped piece of pipe begins at one of its ends."""
    here = paths.design.run[run].ends
    ends = {far_end(beside, end) for end in here for beside in paths.at[end]}
    points = [paths.design.point[end] for end in ends.union(here) if end in paths.design.point]
    return any(point.end == "cap" and len(paths.at[point.id]) == 1 for point in points)


# -- stubs


def takes_stub(paths: AirPaths, run: str) -> bool:
    """Whether a run is level, rigid, long enough for a wye with a cap, and leads to a collector."""
    item = paths.design.run[run]
    a, b = position(paths.design, item.start), position(paths.design, item.end)
    level = abs(a[2] - b[2]) < LEVEL and distance(paths.design, item) > LEAST_FOR_WYE
    return level and run in paths.down and not _is_hose(item)


def with_capped_stub(project: Project, run: str, diameter: float) -> tuple[Project, str]:
    """The project with a wye in the middle of a level duct and a capped stub on it, and the stub's
    end.

    The stub leaves at 45° with the flow, to the side where no wall is near. Raises `RefusedEdit`
    where it has no room.
    """
    old = project.run[run]
    down = AirPaths(project).down.get(run)
    if down is None or _is_hose(old) or distance(project, old) < 3 * ON_A_WYE:
        raise RefusedEdit(
            called(project, run),
            "a stub on it",
            "choose a duct that is longer and leads to a collector",
        )
    a, b = position(project, far_end(old, down)), position(project, down)
    project, wye = split(project, run, 0.5)
    here = position(project, wye)
    ux, uy, _ = way_between((a[0], a[1], 0.0), (b[0], b[1], 0.0))
    # At 45° against the flow, as the wye that will join it wants.
    ways = [way_between((0.0, 0.0, 0.0), (-ux - s * uy, -uy + s * ux, 0.0)) for s in (1, -1)]
    # With a wall on both sides it says so itself.
    ends = [along(here, way, ON_A_WYE) for way in ways]
    x, y, height = next((end for end in ends if not _leaves_room(project, here, end)), ends[0])
    end = Point(
        id=fresh_id(project, f"{run}-stub-end"),
        x=round(x, 4),
        y=round(y, 4),
        height=height,
        end="cap",
    )
    stub = Run(
        id=fresh_id(project, f"{run}-stub"),
        start=end.id,
        end=wye,
        diameter=diameter,
        material=old.material,
    )
    return added(added(project, end), stub), end.id


# -- in space


def _is_hose(run: Run) -> bool:
    return materials()[run.material].hose


def _leaves_room(project: Project, start: XYZ, end: XYZ) -> bool:
    """Whether a place is in none of the rooms that another one is in; outdoors nothing is left."""
    here = [room.outline for room in project.rooms if within(start[:2], room.outline)]
    return bool(here) and not any(within(end[:2], outline) for outline in here)

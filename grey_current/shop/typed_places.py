"""Where something stands as one measures it: from the left and the lower edge of the first room, by
tape.

Bodies are measured to their nearest edges, joints and outlets to their middle. Pure functions,
metres.
"""

from __future__ import annotations

import math

from grey_current.shop.corner_edits import corner_of, typed_corner
from grey_current.shop.duct_edits import with_point_moved
from grey_current.shop.edits import moved, part_of
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.places import stood_apart
from grey_current.shop.room import Beam, Opening, Outlet, share_along, walls
from grey_current.shop.room_edits import on_wall, slid_along
from grey_current.shop.snap import box_of
from grey_current.shop.values import XY


def origin(project: Project) -> XY:
    """The left and the lower edge of the first room (m on paper), from which places are
    measured.
    """
    outline = project.rooms[0].outline
    return min(x for x, _ in outline), min(y for _, y in outline)


def measured(project: Project, ref: str) -> XY | None:
    """How far (m) something lies from the left and from the lower edge of the first room.

    None for what has no place of its own.
    """
    here = _here(project, ref)
    left, low = origin(project)
    return None if here is None else (here[0] - left, here[1] - low)


def with_measured(
    project: Project, ref: str, left: float | None = None, low: float | None = None
) -> Project:
    """The project with something brought to a distance (m) from the left and the lower edge of the
    first room.

    None leaves that one as it is. Raises `InputError` for a place that cannot be.
    """
    here = _here(project, ref)
    if here is None:
        return project
    x0, y0 = origin(project)
    # A room's corner moves alone; everything else as a whole, by what is missing to the figure.
    corner = corner_of(project, ref)
    if corner is not None:
        x, y = (None if v is None else v + o for v, o in ((left, x0), (low, y0)))
        return typed_corner(project, corner[0].id, corner[1], x, y)
    dx = 0.0 if left is None else left + x0 - here[0]
    dy = 0.0 if low is None else low + y0 - here[1]
    if ref in project.point:
        return with_point_moved(project, ref, dx, dy)
    return moved(project, ref, dx, dy)


def _here(project: Project, ref: str) -> XY | None:
    """The place (m on paper) that is measured: the lower left of a body, the middle of anything
    small.
    """
    corner = corner_of(project, ref)
    if corner is not None:
        return corner[0].outline[corner[1]]
    owner, _, part = ref.partition("/")
    item = project.element.get(owner)
    kind, _, number = part.rpartition("-")
    if isinstance(item, Machine) and kind == "parked":
        place = item.parked[int(number) - 1]
        item = item.replaced(x=place.x, y=place.y, turn=place.turn)
    elif isinstance(item, Beam) and kind == "end":
        return item.start if number == "1" else item.end
    elif (named := part_of(project, ref)) is not None:
        item = stood_apart(*named)
    elif part:
        return None
    box = box_of(item)
    if box is not None:
        return box[0], box[1]
    if ref in project.point:
        return project.point[ref].x, project.point[ref].y
    return (item.x, item.y) if isinstance(item, Outlet) else None


def along_wall(project: Project, opening: Opening) -> float:
    """How far (m) an opening's near edge lies from the corner where its wall begins."""
    room, number, _, _ = on_wall(project.rooms, opening.start)
    a, b = walls(project.element[room].outline)[number]
    return min(share_along(end, a, b) for end in (opening.start, opening.end)) * math.dist(a, b)


def with_along_wall(project: Project, ident: str, along: float) -> Project:
    """The project with an opening so far (m) from the corner where its wall begins, kept between
    its corners.
    """
    opening: Opening = project.element[ident]
    room, number, _, _ = on_wall(project.rooms, opening.start)
    a, b = walls(project.element[room].outline)[number]
    length = math.dist(a, b)
    wide = math.dist(opening.start, opening.end)
    shift = min(max(along, 0.0), max(length - wide, 0.0)) - along_wall(project, opening)
    return slid_along(
        project, ident, (b[0] - a[0]) / length * shift, (b[1] - a[1]) / length * shift
    )

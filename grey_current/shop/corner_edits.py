"""Edits of a room's corners: moved to any place, taken away so that two walls become one. Pure
functions.
"""

from __future__ import annotations

import math

from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.edits import checked
from grey_current.shop.model import Project
from grey_current.shop.roof_edits import kept_dormers
from grey_current.shop.room import ON_WALL, Opening, Outlet, Room, off_line, share_along, walls
from grey_current.shop.room_edits import refitted
from grey_current.shop.values import XY


def corner_of(project: Project, ref: str | None) -> tuple[Room, int] | None:
    """The room and corner number (from 0) that a reference such as "room/corner-2" means."""
    owner, _, number = (ref or "").partition("/corner-")
    item = project.element.get(owner)
    if (
        not number.isdigit()
        or not isinstance(item, Room)
        or not 1 <= int(number) <= len(item.outline)
    ):
        return None
    return item, int(number) - 1


def with_corner_at(project: Project, room: str, corner: int, place: XY) -> Project:
    """The project with one corner (number from 0) of a room at a place (m).

    The two walls that meet there turn and grow with it, and what is in them keeps its share of
    their length. Raises `InputError` when the walls would cross or enclose too little.
    """
    old: Room = project.element[room]
    there = (round(place[0], 4), round(place[1], 4))
    outline = (*old.outline[:corner], there, *old.outline[corner + 1 :])
    if any(math.dist(a, b) < ON_WALL for a, b in walls(outline)):
        raise RefusedEdit(
            f"{old.name}, corner", "that place, where another corner is", "leave 20 mm between them"
        )
    before, after = walls(old.outline), walls(outline)
    # Two walls change: what sits in them goes along.
    moved = {before[n]: after[n] for n in (corner - 1, corner)}
    return _with_outline(project, old, outline, moved)


def without_corner(project: Project, room: str, corner: int) -> Project:
    """The project without one corner (number from 0) of a room: the two walls that met there are
    one.

    Raises `RefusedEdit` for a room of three corners, and `InputError` when the walls would cross.
    """
    old: Room = project.element[room]
    if len(old.outline) <= 3:
        raise RefusedEdit(old.name, "joining two of its three walls", "a room has at least three")
    outline = (*old.outline[:corner], *old.outline[corner + 1 :])
    sides = walls(old.outline)
    first, second = sides[corner - 1], sides[corner]
    joined = (first[0], second[1])
    # What sat in the two walls goes to its part of the one between.
    share = math.dist(*first) / (math.dist(*first) + math.dist(*second))
    middle = _along(joined, share)
    return _with_outline(
        project, old, outline, {first: (first[0], middle), second: (middle, second[1])}
    )


def _with_outline(
    project: Project, room: Room, outline: tuple[XY, ...], moved: dict[tuple[XY, XY], tuple[XY, XY]]
) -> Project:
    """The room with another outline, and what was in some of its walls at the same share of what
    they became.
    """
    values = {"outline": outline, "dormers": kept_dormers(room, outline)}
    new = checked(room, f"{room.name}, walls", values)
    project = project.replaced(rooms=tuple(new if r.id == room.id else r for r in project.rooms))
    openings = tuple(_opening_in(project, opening, moved) for opening in project.openings)
    outlets = tuple(_outlet_in(outlet, moved) for outlet in project.outlets)
    return project.replaced(openings=openings, outlets=outlets)


def _opening_in(
    project: Project, opening: Opening, moved: dict[tuple[XY, XY], tuple[XY, XY]]
) -> Opening:
    for old, new in moved.items():
        if off_line(opening.start, *old) < ON_WALL and off_line(opening.end, *old) < ON_WALL:
            middle = (
                (opening.start[0] + opening.end[0]) / 2,
                (opening.start[1] + opening.end[1]) / 2,
            )
            there = _along(new, share_along(middle, *old))
            return refitted(project, opening, there, math.dist(opening.start, opening.end))
    return opening


def _outlet_in(outlet: Outlet, moved: dict[tuple[XY, XY], tuple[XY, XY]]) -> Outlet:
    for old, new in moved.items():
        if off_line((outlet.x, outlet.y), *old) < ON_WALL:
            x, y = _along(new, share_along((outlet.x, outlet.y), *old))
            return outlet.replaced(x=round(x, 4), y=round(y, 4))
    return outlet


def _along(wall: tuple[XY, XY], share: float) -> XY:
    (ax, ay), (bx, by) = wall
    return ax + (bx - ax) * share, ay + (by - ay) * share


def squared(outline: tuple[XY, ...], corner: int, place: XY, reach: float) -> XY:
    """The place drawn to where the corner's walls stand square to the paper, when that is within
    `reach` (m).
    """
    x, y = place
    for other in (outline[corner - 1], outline[(corner + 1) % len(outline)]):
        x = other[0] if abs(x - other[0]) <= reach else x
        y = other[1] if abs(y - other[1]) <= reach else y
    if any(math.dist((x, y), other) < ON_WALL for n, other in enumerate(outline) if n != corner):
        return place
    return x, y


def typed_corner(
    project: Project, room: str, corner: int, x: float | None, y: float | None
) -> Project:
    """The project with one corner's x or y typed (m). Raises as `with_corner_at`, `InputError` for
    a room too large.
    """
    here = project.element[room].outline[corner]
    place = (here[0] if x is None else x, here[1] if y is None else y)
    if max(abs(v) for v in place) > 200:
        where = f"{project.element[room].name}, corner"
        raise InputError(where, max(place), "keep the walls within 200 m (656 ft)")
    return with_corner_at(project, room, corner, place)

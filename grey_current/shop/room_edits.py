"""Edits of the building: rooms from two sizes, walls pushed and split, lengths typed. Pure
functions.
"""

from __future__ import annotations

import math
from collections.abc import Callable

from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.edits import added, changed, checked, fresh_id, with_settings
from grey_current.shop.model import ROOM_TEMPERATURE, Project
from grey_current.shop.places import XY
from grey_current.shop.roof_edits import kept_dormers, stretched_dormers
from grey_current.shop.roofs import ceiling_at, is_level
from grey_current.shop.room import (
    ON_WALL,
    Beam,
    Circuit,
    Feature,
    Opening,
    Room,
    area,
    off_line,
    walls,
)
from grey_current.units import FOOT, System

# Sine of the turn under which two walls count as one straight line.
STRAIGHT = 1e-3


def rectangle(x: float, y: float, across: float, deep: float) -> tuple[XY, ...]:
    """The outline of a rectangle (m) from its lower left corner, anticlockwise."""
    return ((x, y), (x + across, y), (x + across, y + deep), (x, y + deep))


def size(room: Room) -> tuple[float, float]:
    """How far a room reaches along x and y, m."""
    xs, ys = zip(*room.outline, strict=True)
    return max(xs) - min(xs), max(ys) - min(ys)


def _corner(room: Room) -> XY:
    """The lower left corner of what a room takes, m."""
    return min(p[0] for p in room.outline), min(p[1] for p in room.outline)


def with_size(project: Project, room: str, across: float, deep: float) -> Project:
    """The project with a room stretched to two overall sizes (m), its lower left corner kept.

    What is in its walls keeps its width and its share of the way along.
    """
    old: Room = project.element[room]
    wide, high = size(old)
    x, y = _corner(old)

    def stretched(place: XY) -> XY:
        return x + (place[0] - x) * across / wide, y + (place[1] - y) * deep / high

    outline = tuple(stretched(p) for p in old.outline)
    after = changed(project, room, outline=outline, dormers=stretched_dormers(old, outline))
    return _with_walls_things(after, old.outline, stretched)


def in_units(project: Project, units: System) -> Project:
    """The project in another system of units. A bare room, to which nothing was added, gets round
    sizes in it: whole feet, or halves of a metre; all else keeps its size.
    """
    made = with_settings(project, units=units)
    room = project.rooms[0]
    others = set(project.element) - {room.id}
    if others or project.underlay is not None or not is_level(room):
        return made
    if set(room.outline) != set(rectangle(*_corner(room), *size(room))):
        return made
    step = FOOT if units == "us" else 0.5
    across, deep = (max(round(side / step), 1) * step for side in size(room))
    ceiling = round(room.ceiling / (step / 2)) * (step / 2)
    made = with_settings(made, temperature=ROOM_TEMPERATURE[units == "us"])
    tall = room.replaced(ceiling=min(max(round(ceiling, 4), 1.2), 20.0))
    return with_size(made.replaced(rooms=(tall,)), room.id, round(across, 4), round(deep, 4))


def with_wall_pushed(project: Project, room: str, wall: int, out: float) -> Project:
    """The project with wall number `wall` (from 0) of a room moved by `out` m away from the room's
    inside.

    Neighbours at an angle grow or shrink with it; a neighbour in line stays, and a jog joins the
    two, which is how an L is made: split a wall, push one half. Doors, windows and outlets go with
    their wall. Raises `InputError` when the walls would cross.
    """
    old: Room = project.element[room]
    a, b = walls(old.outline)[wall]
    ux, uy = _unit(a, b)
    # Outwards, whichever way round the room was drawn.
    sign = 1.0 if area(old.outline) > 0 else -1.0
    shift = (uy * out * sign, -ux * out * sign)
    after = project.replaced(rooms=_swap(project, room, _pushed(old, wall, shift)))
    return _with_walls_things(
        after, (a, b), lambda place: (place[0] + shift[0], place[1] + shift[1])
    )


def _with_walls_things(
    project: Project, line: tuple[XY, ...], moved: Callable[[XY], XY]
) -> Project:
    """The project with the openings and outlets that sat on some walls brought to where those walls
    went.
    """
    sides = walls(line) if len(line) > 2 else [(line[0], line[1])]

    def sits(place: XY) -> bool:
        return any(off_line(place, a, b) < ON_WALL for a, b in sides)

    openings = []
    for opening in project.openings:
        # What sits in the wall goes with it and is fitted into what the wall is now.
        if sits(opening.start) and sits(opening.end):
            middle = moved(
                ((opening.start[0] + opening.end[0]) / 2, (opening.start[1] + opening.end[1]) / 2)
            )
            openings.append(
                refitted(project, opening, middle, math.dist(opening.start, opening.end))
            )
        else:
            openings.append(opening)
    outlets = []
    for outlet in project.outlets:
        x, y = moved((outlet.x, outlet.y)) if sits((outlet.x, outlet.y)) else (outlet.x, outlet.y)
        outlets.append(outlet.replaced(x=round(x, 4), y=round(y, 4)))
    return project.replaced(openings=tuple(openings), outlets=tuple(outlets))


def _swap(project: Project, room: str, outline: tuple[XY, ...]) -> tuple[Room, ...]:
    where = f"{project.element[room].name}, walls"
    if len(outline) < 3 or area(outline) * area(project.element[room].outline) <= 0:
        raise InputError(where, "pushed this far", "leave at least 0.2 m² between the walls")
    try:
        return tuple(
            checked(r, where, {"outline": outline, "dormers": kept_dormers(r, outline)})
            if r.id == room
            else r
            for r in project.rooms
        )
    except InputError as problem:
        raise InputError(where, "pushed this far", problem.rule) from None


def _pushed(room: Room, wall: int, shift: XY) -> tuple[XY, ...]:
    corners = list(room.outline)
    count = len(corners)
    a, b = corners[wall], corners[(wall + 1) % count]
    ux, uy = _unit(a, b)
    before, after = corners[wall - 1], corners[(wall + 2) % count]
    new_a = (a[0] + shift[0], a[1] + shift[1])
    new_b = (b[0] + shift[0], b[1] + shift[1])
    # A neighbour in line with the wall gets a jog; any other is lengthened or shortened.
    start = [a, new_a] if _in_line(before, a, (ux, uy)) else [_slid(before, a, new_a, (ux, uy))]
    end = [new_b, b] if _in_line(b, after, (ux, uy)) else [_slid(after, b, new_b, (ux, uy))]
    anew = {wall: start, (wall + 1) % count: end}
    made: list[XY] = []
    for number, corner in enumerate(corners):
        made += anew.get(number, [corner])
    return _tidy(made)


def _unit(a: XY, b: XY) -> XY:
    length = math.dist(a, b)
    return (b[0] - a[0]) / length, (b[1] - a[1]) / length


def _in_line(a: XY, b: XY, along: XY) -> bool:
    ux, uy = _unit(a, b)
    return abs(ux * along[1] - uy * along[0]) < STRAIGHT


def _slid(far: XY, corner: XY, moved: XY, along: XY) -> XY:
    """Where a moved wall's line meets the line of its neighbour through `far` and `corner`."""
    nx, ny = _unit(far, corner)
    cross = nx * along[1] - ny * along[0]
    t = ((moved[0] - far[0]) * along[1] - (moved[1] - far[1]) * along[0]) / cross
    return far[0] + nx * t, far[1] + ny * t


def _tidy(corners: list[XY]) -> tuple[XY, ...]:
    """Corners rounded to a tenth of a millimetre, without two in one place."""
    rounded = [(round(x, 4), round(y, 4)) for x, y in corners]
    return tuple(c for i, c in enumerate(rounded) if math.dist(c, rounded[i - 1]) > 1e-3)


def with_wall_split(project: Project, room: str, wall: int, share: float = 0.5) -> Project:
    """The project with a wall (number from 0) split into two in line, at a share of its length."""
    outline = project.element[room].outline
    a, b = walls(outline)[wall]
    middle = (a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share)
    return changed(project, room, outline=(*outline[: wall + 1], middle, *outline[wall + 1 :]))


def wall_length(room: Room, wall: int) -> float:
    """Length of a wall (number from 0), m."""
    return math.dist(*walls(room.outline)[wall])


def with_wall_length(project: Project, room: str, wall: int, length: float) -> Project:
    """The project with a wall made `length` m long: the next wall that is not in line with it is
    pushed.

    Raises `InputError` when the next wall stands too flat against this one, or the walls would
    cross.
    """
    old: Room = project.element[room]
    sides = walls(old.outline)
    following = (wall + 1) % len(sides)
    ux, uy = _unit(*sides[wall])
    vx, vy = _unit(*sides[following])
    sine = ux * vy - uy * vx
    # Nearly in line, the next wall would have to go very far for a little length.
    if abs(sine) < 0.2 or not 0.05 <= length <= 100:
        if abs(sine) >= 0.2:
            rule = "make it 50 mm (2 in) to 100 m (328 ft)"
        else:
            rule = "push one of the walls instead"
        raise InputError(f"{old.name}, wall length", length, rule)
    out = (length - math.dist(*sides[wall])) * abs(sine)
    return with_wall_pushed(project, room, following, out)


def on_wall(room_list: tuple[Room, ...], place: XY) -> tuple[str, int, float, float]:
    """The wall nearest to a place: room id, wall number, distance along it and distance from it
    (m).
    """
    best: tuple[float, str, int, float] | None = None
    for room in room_list:
        for number, (a, b) in enumerate(walls(room.outline)):
            away = off_line(place, a, b)
            if best is None or away < best[0]:
                ux, uy = _unit(a, b)
                along = (place[0] - a[0]) * ux + (place[1] - a[1]) * uy
                best = (away, room.id, number, min(max(along, 0.0), math.dist(a, b)))
    assert best is not None
    return best[1], best[2], best[3], best[0]


def refitted(project: Project, opening: Opening, middle: XY, width: float) -> Opening:
    """An opening of a width (m) in the wall nearest to a place, turned the way that it was, so that
    its swing holds.
    """
    start, end = span_on_wall(project.rooms, middle, width)
    (ax, ay), (bx, by) = opening.start, opening.end
    if (end[0] - start[0]) * (bx - ax) + (end[1] - start[1]) * (by - ay) < 0:
        start, end = end, start
    return opening.replaced(start=start, end=end)


def span_on_wall(rooms: tuple[Room, ...], place: XY, width: float) -> tuple[XY, XY]:
    """Where an opening of a width (m) goes on the wall nearest to a place: its two ends on that
    wall.
    """
    room, number, along, _ = on_wall(rooms, place)
    a, b = walls(next(r for r in rooms if r.id == room).outline)[number]
    length = math.dist(a, b)
    wide = min(width, length)
    middle = min(max(along, wide / 2), length - wide / 2)
    ux, uy = _unit(a, b)
    ends = (middle - wide / 2, middle + wide / 2)
    first, last = ((round(a[0] + ux * t, 4), round(a[1] + uy * t, 4)) for t in ends)
    return first, last


def wall_of(project: Project, ref: str | None) -> tuple[Room, int] | None:
    """The room and wall number (from 0) that a reference such as "room/wall-2" means."""
    owner, _, number = (ref or "").partition("/wall-")
    item = project.element.get(owner)
    return (item, int(number) - 1) if number.isdigit() and isinstance(item, Room) else None


def with_opening_width(project: Project, opening: str, width: float) -> Project:
    """The project with an opening of another width (m) about its middle."""
    item: Opening = project.element[opening]
    middle = ((item.start[0] + item.end[0]) / 2, (item.start[1] + item.end[1]) / 2)
    new = refitted(project, item, middle, width)
    return changed(project, opening, start=new.start, end=new.end)


def with_opening_heights(
    project: Project, opening: str, sill: float | None = None, head: float | None = None
) -> Project:
    """The project with an opening from another sill, or up to another head (m; None: as it is).

    Raises `InputError` for a sill over the head, and for a head over the ceiling there.
    """
    item: Opening = project.element[opening]
    # The ceiling where the opening is, in every room that shares the wall.
    lids = [
        ceiling_at(room, item.start)
        for room in project.rooms
        if any(off_line(item.start, a, b) < ON_WALL for a, b in walls(room.outline))
    ]
    if head is not None and lids and head > max(lids) + 1e-6:
        raise RefusedEdit(
            item.name, "a head over the ceiling", "let it end at the ceiling or lower"
        )
    changes = {"sill": sill, "head": head}
    return changed(project, opening, **{name: v for name, v in changes.items() if v is not None})


def with_beam_turned(
    project: Project, beam: str, length: float | None = None, degrees: float | None = None
) -> Project:
    """The project with a beam of another length (m) or at another angle (° anticlockwise from the
    paper's lower edge).

    Its first end stays. Raises `InputError` for a beam that leaves the paper or is none.
    """
    item: Beam = project.element[beam]
    (ax, ay), (bx, by) = item.start, item.end
    far = math.dist(item.start, item.end) if length is None else length
    turn = math.atan2(by - ay, bx - ax) if degrees is None else math.radians(degrees)
    return changed(
        project,
        beam,
        end=(round(ax + far * math.cos(turn), 4), round(ay + far * math.sin(turn), 4)),
    )


def beam_across(room: Room, place: XY) -> tuple[XY, XY]:
    """Where a beam through a place reaches from wall to wall, the short way (m)."""
    spans = [
        (span, axis) for axis in (0, 1) if (span := _span(room.outline, place, axis)) is not None
    ]
    if not spans:
        width, depth = size(room)
        spans = [((place[1] - depth / 2, place[1] + depth / 2), 1)] if depth <= width else []
        spans = spans or [((place[0] - width / 2, place[0] + width / 2), 0)]
    (low, high), axis = min(spans, key=lambda each: each[0][1] - each[0][0])
    return ((low, place[1]), (high, place[1])) if axis == 0 else ((place[0], low), (place[0], high))


def _span(outline: tuple[XY, ...], place: XY, axis: int) -> tuple[float, float] | None:
    """From wall to wall through a place along x (0) or y (1); None for a place that no two walls
    lie round.
    """
    other = 1 - axis
    met = [
        a[axis] + (b[axis] - a[axis]) * (place[other] - a[other]) / (b[other] - a[other])
        for a, b in walls(outline)
        if min(a[other], b[other]) <= place[other] < max(a[other], b[other])
    ]
    below, above = [m for m in met if m <= place[axis]], [m for m in met if m > place[axis]]
    return (max(below), min(above)) if below and above else None


def slid_along(project: Project, opening: str, dx: float, dy: float) -> Project:
    """The project with an opening moved along the walls: its middle by (dx, dy) m, then to the wall
    nearest there.
    """
    item: Opening = project.element[opening]
    middle = ((item.start[0] + item.end[0]) / 2 + dx, (item.start[1] + item.end[1]) / 2 + dy)
    new = refitted(project, item, middle, math.dist(item.start, item.end))
    return changed(project, opening, start=new.start, end=new.end)


def with_feature_size(
    project: Project, feature: str, across: float | None = None, deep: float | None = None
) -> Project:
    """The project with a feature so wide and deep (m; None: as it is), its lower left corner kept.

    Raises `InputError` for a size that is none.
    """
    item: Feature = project.element[feature]
    xs, ys = zip(*item.outline, strict=True)
    x, y, wide, high = min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)
    for name, size_ in (("across", across), ("deep", deep)):
        if size_ is not None and not 0.01 <= size_ <= 100:
            raise InputError(f"{item.name}, {name}", size_, "give it a size of 10 mm to 100 m")
    ratio = (across or wide) / wide, (deep or high) / high
    outline = tuple((x + (px - x) * ratio[0], y + (py - y) * ratio[1]) for px, py in item.outline)
    return changed(project, feature, outline=outline)


def quarter_turned(project: Project, feature: str) -> Project:
    """The project with a feature turned by 90° about its middle."""
    item: Feature = project.element[feature]
    xs, ys = zip(*item.outline, strict=True)
    cx, cy = (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2
    outline = tuple((round(cx - (y - cy), 4), round(cy + (x - cx), 4)) for x, y in item.outline)
    return changed(project, feature, outline=outline)


def with_circuit(project: Project, outlet: str, circuit: str) -> Project:
    """The project with an outlet on another circuit; with "" on a new one like its present one."""
    if circuit:
        return changed(project, outlet, circuit=circuit)
    now: Circuit = project.element[project.element[outlet].circuit]
    made = now.replaced(
        id=fresh_id(project, "circuit"), name=f"Circuit {len(project.circuits) + 1}"
    )
    return changed(added(project, made), outlet, circuit=made.id)

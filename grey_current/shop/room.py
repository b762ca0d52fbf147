"""What the user draws of the building: rooms, beams, openings, things that stand there,
circuits.
"""

from __future__ import annotations

import base64
import itertools
import math
from collections.abc import Iterable
from typing import Annotated, Literal, Self

from pydantic import Field, field_validator, model_validator

from grey_current.shop.values import XY, Height, Id, Name, Place, Size, Value

OpeningKind = Literal["door", "roll-up door", "sliding door", "hoist door", "doorway", "window"]
FeatureKind = Literal[
    "hatch",
    "stair",
    "post",
    "chimney",
    "bench",
    "rack",
    "cupboard",
    "car",
    "finish store",
    "walkway",
    "kept free",
    "heated floor",
    "air cleaner",
    "stove",
    "heater",
    "water heater",
    "flue",
    "return-air grille",
    "lamp",
    "no-duct area",
]
# Features that light dust or whose draught it must not disturb.
HOT: frozenset[str] = frozenset({"stove", "heater", "water heater", "flue"})
# Features that take no room above the floor; nothing that stands there is in their way.
FLAT: frozenset[str] = frozenset(
    {
        *("hatch", "walkway", "kept free", "heated floor", "return-air grille", "lamp"),
        "no-duct area",
    }
)
# Features that are in the way of ducts alone.
OVERHEAD: frozenset[str] = frozenset({"lamp", "no-duct area"})


# m from a wall within which an opening or outlet belongs to it.
ON_WALL = 0.02
# m from one end of a beam to the other.
LEAST_BEAM = 0.1
# m; nothing narrower is called a door or a window.
LEAST_OPENING = 0.05


class Beam(Value):
    """A tie beam or joist to pass under: its centre line, width and the height of its underside."""

    id: Id
    start: XY
    end: XY
    width: Size
    underside: Height

    @model_validator(mode="after")
    def _reaches_somewhere(self) -> Self:
        if math.dist(self.start, self.end) < LEAST_BEAM:
            raise ValueError("a beam is at least 0.1 m (4 in) long")
        return self


class Opening(Value):
    """A door or window in a wall, from one place on it to another; sill and head above the floor
    (m).

    `swing` says to which side of the line from start to end a hinged door opens, and at which end
    its hinges are. Boards are fed through it when `feeds`.
    """

    id: Id
    name: Name
    kind: OpeningKind
    start: XY
    end: XY
    sill: Height = 0.0
    head: Height = 2.03
    swing: Literal[
        "none", "left from start", "left from end", "right from start", "right from end"
    ] = "none"
    feeds: bool = True

    @model_validator(mode="after")
    def _is_a_hole(self) -> Self:
        if math.dist(self.start, self.end) < LEAST_OPENING:
            raise ValueError("an opening is at least 50 mm (2 in) wide")
        if self.sill >= self.head:
            raise ValueError("its sill must lie lower than its head")
        return self


class Feature(Value):
    """Something that stands in the room; `top` is its height (m), None for up to the ceiling.

    `bottom` is its underside (m): a bench with one stands on legs, a cupboard or rack hangs on the
    wall, a lamp from the ceiling. No duct may pass a no-duct area, from its bottom to its top.
    """

    id: Id
    name: Name
    kind: FeatureKind
    outline: Annotated[tuple[XY, ...], Field(min_length=3, max_length=64)]
    top: Height | None = None
    bottom: Height = 0.0
    # What it stands on, under or in.
    host: Id | None = None
    # Whether it is not there now, but in another arrangement.
    away: bool = False
    # The side of its outline that its doors or drawers open to, counted from 0, and how deep (m)
    # the ground before that stays free; None: nothing opens.
    front: Annotated[int, Field(ge=0, le=63)] | None = None
    front_depth: Size = 0.6

    @model_validator(mode="after")
    def _has_a_thickness(self) -> Self:
        if self.kind not in FLAT and self.top is not None and self.bottom >= self.top:
            raise ValueError("its underside must lie lower than its top")
        if self.front is not None and self.front >= len(self.outline):
            raise ValueError("its front must be one of its sides")
        return self


class Circuit(Value):
    """An electrical circuit: voltage and breaker size (A).

    `leg` says on which half of a split supply (120 and 240 V) it lies; "both" for one across the
    two.
    """

    id: Id
    name: Name
    volts: Annotated[float, Field(ge=90, le=480)]
    breaker: Annotated[float, Field(gt=0, le=200)]
    leg: Literal["not said", "first", "second", "both"] = "not said"


class Outlet(Value):
    """A socket on a wall, on one of the circuits; how high over the floor (m), where that is
    said.
    """

    id: Id
    name: Name
    x: Place
    y: Place
    circuit: Id
    height: Height | None = None


# How every PNG begins.
PNG = b"\x89PNG\r\n\x1a\n"


class Underlay(Value):
    """A plan laid under the drawing: a picture (PNG as base64) or lines (as shares of the whole).

    Its lower left corner lies at (x, y) m, about which it is turned by degrees anticlockwise.
    """

    name: Name
    picture: str | None = None
    lines: tuple[tuple[XY, ...], ...] = ()
    x: Place = 0.0
    y: Place = 0.0
    width: Annotated[float, Field(gt=0, le=1000, description="m across the whole picture")]
    height: Annotated[float, Field(gt=0, le=1000, description="m up the whole picture")]
    turn: Annotated[float, Field(ge=-360, le=360, description="degrees")] = 0.0

    @field_validator("picture")
    @classmethod
    def _is_a_picture(cls, given: str | None) -> str | None:
        if given is not None:
            try:
                head = base64.b64decode(given, validate=True)[: len(PNG)]
            except ValueError:
                raise ValueError("its picture must be base64 text") from None
            if head != PNG:
                raise ValueError("its picture must be a PNG")
        return given


class Room(Value):
    """A room: its outline and ceiling. With a second ceiling height it slopes from the low x (or y)
    to the high; with a ridge it rises to that in the middle from both sides.
    """

    id: Id = "room"
    name: Name = "Workshop"
    outline: Annotated[tuple[XY, ...], Field(min_length=3, max_length=200)]
    ceiling: Annotated[float, Field(ge=1.2, le=20, description="m")]
    far_ceiling: Annotated[float, Field(ge=1.2, le=20, description="m")] | None = None
    ridge: Annotated[float, Field(ge=1.2, le=20, description="m")] | None = None
    slopes_along: Literal["x", "y"] = "y"

    @model_validator(mode="after")
    def _is_an_outline(self) -> Self:
        if abs(area(self.outline)) < 0.2:
            raise ValueError("the walls must enclose at least 0.2 m² (2 sq ft)")
        if crosses_itself(self.outline):
            raise ValueError("the walls must not cross each other")
        # A roof sheds its water: what lies lower in the middle is two rooms.
        if self.ridge is not None and self.ridge < max(self.ceiling, self.far_ceiling or 0.0):
            raise ValueError("a ridge is no lower than the ceiling at its sides")
        return self


def hot_names(features: Iterable[Feature]) -> list[str]:
    """What burns among some things, by their names as within a sentence."""
    return [feature.name.lower() for feature in features if feature.kind in HOT]


def area(outline: tuple[XY, ...]) -> float:
    """Area (m²) of an outline; positive when its corners go round anticlockwise."""
    turned = zip(outline, (*outline[1:], outline[0]), strict=True)
    return math.fsum(a[0] * b[1] - b[0] * a[1] for a, b in turned) / 2


def walls(outline: tuple[XY, ...]) -> list[tuple[XY, XY]]:
    """The walls of an outline, from corner to corner."""
    return list(zip(outline, (*outline[1:], outline[0]), strict=True))


def walls_of(rooms: Iterable[Room]) -> list[tuple[XY, XY]]:
    """The walls of several rooms."""
    return list(itertools.chain.from_iterable(walls(room.outline) for room in rooms))


def building_turn(rooms: Iterable[Room]) -> float:
    """How far (radians) the building's longest wall is turned from the paper's edge."""
    sides = walls_of(rooms)
    (ax, ay), (bx, by) = max(sides, key=lambda side: round(math.dist(*side), 6))
    turn = math.atan2(by - ay, bx - ax) % (math.pi / 2)
    return 0.0 if min(turn, math.pi / 2 - turn) < 1e-6 else turn


def share_along(place: XY, a: XY, b: XY) -> float:
    """The share (0 to 1) of the way from `a` to `b` at which a place is nearest to it."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    square = dx * dx + dy * dy
    share = 0.0 if square == 0 else ((place[0] - a[0]) * dx + (place[1] - a[1]) * dy) / square
    return min(max(share, 0.0), 1.0)


def within(place: XY, outline: tuple[XY, ...]) -> bool:
    """Whether a place lies in an outline: a ray from it meets the sides an odd number of times."""
    x, y = place
    inside = False
    for (ax, ay), (bx, by) in walls(outline):
        if (ay > y) != (by > y) and x < (bx - ax) * (y - ay) / (by - ay) + ax:
            inside = not inside
    return inside


def off_line(place: XY, a: XY, b: XY) -> float:
    """Distance (m) of a place from a line between two others: a wall, a duct in plan."""
    t = share_along(place, a, b)
    return math.hypot(a[0] + (b[0] - a[0]) * t - place[0], a[1] + (b[1] - a[1]) * t - place[1])


def crosses_itself(outline: tuple[XY, ...]) -> bool:
    """Whether two walls of an outline that are no neighbours meet."""
    sides = walls(outline)
    last = len(sides) - 1
    for (i, a), (j, b) in itertools.combinations(enumerate(sides), 2):
        neighbours = j == i + 1 or (i == 0 and j == last)
        if not neighbours and _meet(*a, *b):
            return True
    return False


def _meet(a: XY, b: XY, c: XY, d: XY) -> bool:
    def side(p: XY, q: XY, r: XY) -> float:
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    return side(a, b, c) * side(a, b, d) < -1e-12 and side(c, d, a) * side(c, d, b) < -1e-12


def roof(room: Room) -> list[tuple[float, float]]:
    """A room's ceiling from its low side to its high along the way it slopes: shares of that way
    (0 to 1) with heights (m), straight between them.
    """
    far = room.ceiling if room.far_ceiling is None else room.far_ceiling
    ends = [(0.0, room.ceiling), (1.0, far)]
    return ends if room.ridge is None else [ends[0], (0.5, room.ridge), ends[1]]


def highest(room: Room) -> float:
    """The highest point of a room's ceiling (m)."""
    return max(height for _, height in roof(room))


def lowest(room: Room) -> float:
    """The lowest point of a room's ceiling (m)."""
    return min(height for _, height in roof(room))


def is_level(room: Room) -> bool:
    """Whether a room's ceiling is the same height everywhere."""
    return lowest(room) == highest(room)


def ceiling_at(room: Room, place: XY) -> float:
    """Height of a room's ceiling (m) over a place."""
    if room.far_ceiling is None and room.ridge is None:
        return room.ceiling
    axis = 0 if room.slopes_along == "x" else 1
    low, high = min(p[axis] for p in room.outline), max(p[axis] for p in room.outline)
    share = min(max((place[axis] - low) / (high - low), 0.0), 1.0)
    for (a, below), (b, above) in itertools.pairwise(roof(room)):
        if share <= b:
            return below + (above - below) * (share - a) / (b - a)
    return roof(room)[-1][1]


def volume(room: Room) -> float:
    """Volume of a room, m³: of each part whose ceiling is one plane, its area times the ceiling's
    height over its centre of area.
    """
    axis = 0 if room.slopes_along == "x" else 1
    low, high = min(p[axis] for p in room.outline), max(p[axis] for p in room.outline)
    shares = [share for share, _ in roof(room)]
    found = 0.0
    for a, b in itertools.pairwise(shares):
        outline = _clipped(room.outline, axis, low + (high - low) * a, above=True)
        outline = _clipped(outline, axis, low + (high - low) * b, above=False)
        size = area(outline) if len(outline) > 2 else 0.0
        if abs(size) > 1e-9:
            found += abs(size) * ceiling_at(room, _centre(outline, size))
    return found


def _centre(outline: tuple[XY, ...], size: float) -> XY:
    """The centre of area of an outline of some area (m²)."""
    sides = walls(outline)
    cross = [a[0] * b[1] - b[0] * a[1] for a, b in sides]
    x, y = (
        math.fsum((a[axis] + b[axis]) * c for (a, b), c in zip(sides, cross, strict=True))
        / (6 * size)
        for axis in (0, 1)
    )
    return x, y


def _clipped(outline: tuple[XY, ...], axis: int, at: float, *, above: bool) -> tuple[XY, ...]:
    """What of an outline lies on one side of a line across an axis.

    Source: Sutherland and Hodgman, Reentrant polygon clipping, 1974; for one line its area is right
    for any outline.
    """
    sign = 1.0 if above else -1.0
    made: list[XY] = []
    for a, b in walls(outline):
        inside_a, inside_b = (sign * (p[axis] - at) >= 0 for p in (a, b))
        if inside_a:
            made.append(a)
        if inside_a != inside_b:
            share = (at - a[axis]) / (b[axis] - a[axis])
            made.append((a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share))
    return tuple(made)

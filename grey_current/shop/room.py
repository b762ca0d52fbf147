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
    "clean zone",
    "dusty zone",
    "noisy zone",
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
# Parts of the floor that the user sets aside for a kind of work.
ZONES: frozenset[str] = frozenset({"clean zone", "dusty zone", "noisy zone"})
# Features that take no room above the floor; nothing that stands there is in their way.
FLAT: frozenset[str] = frozenset(
    {
        *("hatch", "walkway", "kept free", "heated floor", "return-air grille", "lamp"),
        "no-duct area",
    }
    | ZONES
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
    # Whether it is rolled aside, with all that stands on, under or in it: a tool trolley.
    wheels: bool = False
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


MOST_DORMERS = 12


class Dormer(Value):
    """A dormer in a sloping roof: its ceiling (m) runs level from the eave inwards until it meets
    the roof.

    `start` is how far (m) along the eave it begins, from the room's end with the low x or y. Under
    a ridge it is in one of two slopes, at the eave with the low or the high y or x.
    """

    start: Annotated[float, Field(ge=0, le=200, description="m")]
    width: Annotated[float, Field(ge=0.3, le=100, description="m")]
    ceiling: Annotated[float, Field(ge=1.2, le=20, description="m")]
    eave: Literal["low", "high"] = "low"


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
    # Counted only while the ceiling slopes.
    dormers: Annotated[tuple[Dormer, ...], Field(max_length=MOST_DORMERS)] = ()

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

    @model_validator(mode="after")
    def _has_dormers_in_its_roof(self) -> Self:
        if self.ridge is None and self.far_ceiling is None:
            return self
        top = max(self.ceiling, self.far_ceiling or 0.0, self.ridge or 0.0)
        if any(dormer.ceiling > top + 1e-6 for dormer in self.dormers):
            raise ValueError("a dormer is no higher than the roof's highest; lower the dormer")
        for one, other in itertools.combinations(self.dormers, 2):
            apart = one.start + one.width <= other.start or other.start + other.width <= one.start
            if not apart and (one.eave == other.eave or self.ridge is None):
                raise ValueError("two dormers of one slope must not overlap")
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

"""Ceilings: how high a room is over a place, under slopes, ridges and dormers, and its volume."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterable

from grey_current.shop.room import Dormer, Room, area, walls
from grey_current.shop.values import XY

# From one place on an axis to another, m.
Part = tuple[float, float]


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


def axes(room: Room) -> tuple[int, int]:
    """The axis (0 for x, 1 for y) along which a room's ceiling slopes, and that of its eaves."""
    return (0, 1) if room.slopes_along == "x" else (1, 0)


def extent(room: Room, axis: int) -> tuple[float, float]:
    """From where to where (m) a room reaches along an axis."""
    along = [corner[axis] for corner in room.outline]
    return min(along), max(along)


def dormers(room: Room) -> list[tuple[Dormer, Part, Part]]:
    """A room's dormers, each with the part (m) of its slope along the way that the ceiling slopes
    and its part of the eave. None under a level ceiling.
    """
    if room.far_ceiling is None and room.ridge is None:
        return []
    sloping, eave = axes(room)
    low, high = extent(room, sloping)
    start, _ = extent(room, eave)
    middle = (low + high) / 2
    halves = {"low": (low, middle), "high": (middle, high)}
    return [
        (
            dormer,
            (low, high) if room.ridge is None else halves[dormer.eave],
            (start + dormer.start, start + dormer.start + dormer.width),
        )
        for dormer in room.dormers
    ]


def ceiling_at(room: Room, place: XY) -> float:
    """Height of a room's ceiling (m) over a place: of its slope, or of a dormer in that."""
    if room.far_ceiling is None and room.ridge is None:
        return room.ceiling
    sloping, eave = axes(room)
    height = _slope_at(room, place[sloping])
    for dormer, (first, last), (start, end) in dormers(room):
        if first <= place[sloping] <= last and start <= place[eave] <= end:
            height = max(height, dormer.ceiling)
    return height


def _slope_at(room: Room, at: float) -> float:
    """Height of the roof (m), dormers left out, at a place along the way that it slopes."""
    low, high = extent(room, axes(room)[0])
    share = min(max((at - low) / (high - low), 0.0), 1.0)
    for (a, below), (b, above) in itertools.pairwise(roof(room)):
        if share <= b:
            return below + (above - below) * (share - a) / (b - a)
    return roof(room)[-1][1]


# m to both sides of a dormer's cheek at which the ceiling is looked up: it steps there.
CHEEK = 1e-4


def ceiling_marks(room: Room, a: XY, b: XY) -> list[float]:
    """The places (m from `a`, in order) on the way from `a` to `b` between which a room's ceiling
    runs straight: both ends, the ridge, and where a dormer begins, ends or meets the roof.
    """
    far = math.dist(a, b)
    if room.far_ceiling is None and room.ridge is None:
        return [0.0, far]
    marks = {0.0, far}

    def mark(axis: int, at: float, beside: float = 0.0) -> None:
        """Where the way passes a coordinate, or close before and behind that."""
        run = b[axis] - a[axis]
        if abs(run) > CHEEK:
            along = (at - a[axis]) / run * far
            marks.update(m for m in (along - beside, along + beside) if 0 < m < far)

    sloping, eave = axes(room)
    if room.ridge is not None:
        mark(sloping, sum(extent(room, sloping)) / 2)
    for dormer, part, (start, end) in dormers(room):
        mark(eave, start, CHEEK)
        mark(eave, end, CHEEK)
        for at in _met_by_roof(room, dormer, part):
            mark(sloping, at)
    return sorted(marks)


def lowest_over(room: Room, outline: Iterable[XY]) -> float:
    """The lowest ceiling (m) over some ground in a room: over its sides, for between them a
    ceiling only rises.
    """
    if is_level(room):
        return room.ceiling
    return min(
        ceiling_at(room, (a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share))
        for a, b in walls(tuple(outline))
        for share in (m / max(math.dist(a, b), CHEEK) for m in ceiling_marks(room, a, b))
    )


def _met_by_roof(room: Room, dormer: Dormer, part: Part) -> list[float]:
    """Where along the way that the ceiling slopes (m) it reaches a dormer's height, within its
    slope.
    """
    low, high = part
    below, above = _slope_at(room, low), _slope_at(room, high)
    if (below - dormer.ceiling) * (above - dormer.ceiling) >= 0:
        return []
    return [low + (high - low) * (dormer.ceiling - below) / (above - below)]


def roof_lines(room: Room) -> list[tuple[XY, ...]]:
    """What a plan shows of a room's roof, as lines (m): its ridge, and round each dormer from the
    eave to where it meets the roof.
    """
    sloping, eave = axes(room)

    def place(slope: float, along: float) -> XY:
        return (slope, along) if sloping == 0 else (along, slope)

    found: list[tuple[XY, ...]] = []
    if room.ridge is not None:
        middle = sum(extent(room, sloping)) / 2
        found.append(tuple(place(middle, along) for along in extent(room, eave)))
    for dormer, (low, high), (start, end) in dormers(room):
        # From the lower side of its slope to where the roof is as high.
        rising = _slope_at(room, low) <= _slope_at(room, high)
        at, last = (low, high) if rising else (high, low)
        met = _met_by_roof(room, dormer, (low, high)) or [last]
        corners = ((at, start), (met[0], start), (met[0], end), (at, end))
        found.append(tuple(place(*corner) for corner in corners))
    return found


def volume(room: Room) -> float:
    """Volume of a room, m³: of each part whose ceiling is one plane, its area times the ceiling's
    height over its centre of area; and what each dormer adds over its slope.
    """
    sloping, eave = axes(room)
    low, high = extent(room, sloping)
    found = 0.0
    for (a, _), (b, _) in itertools.pairwise(roof(room)):
        outline = _between(room.outline, sloping, low + (high - low) * a, low + (high - low) * b)
        found += _over(outline, lambda centre: _slope_at(room, centre[sloping]))
    for dormer, part, along in dormers(room):
        strip = _between(room.outline, eave, *along)
        for a, b in itertools.pairwise(sorted({*part, *_met_by_roof(room, dormer, part)})):
            if _slope_at(room, (a + b) / 2) < dormer.ceiling:
                rest = _between(strip, sloping, a, b)
                found += abs(area(rest)) * dormer.ceiling if len(rest) > 2 else 0.0
                found -= _over(rest, lambda centre: _slope_at(room, centre[sloping]))
    return found


def _over(outline: tuple[XY, ...], height: Callable[[XY], float]) -> float:
    """The volume (m³) over an outline under a plane, whose height (m) over a place is given."""
    size = area(outline) if len(outline) > 2 else 0.0
    return abs(size) * height(_centre(outline, size)) if abs(size) > 1e-9 else 0.0


def _between(outline: tuple[XY, ...], axis: int, low: float, high: float) -> tuple[XY, ...]:
    """What of an outline lies between two places on an axis."""
    rest = _clipped(outline, axis, low, above=True)
    return _clipped(rest, axis, high, above=False) if rest else rest


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

"""Where names go on the floor. Found once for what stands still; plain values.

A name never lies over another name, a wall, a port or a symbol: it moves aside, then it is cut
short, and where nothing is free it is left out (the list of machines has it). Ducts and other
bodies it covers as little as it can.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QRectF

from grey_current.desk.floor.view import View
from grey_current.shop.places import XY
from grey_current.shop.room import walls

HIGH = 16.0
# Pixels from a wall to the line with the shop's length or width.
SIZES_OFF = 13
# Heights of a name that a body must be deep to bear it inside without being hidden by it.
ROOM_INSIDE = 1.4
# Metres between the places along a duct at which a label is kept off it.
SAMPLE_GAP = 0.12
# The widths that are tried, as shares of the whole name, and the least in pixels.
SHARES = (1.0, 0.72, 0.5)
LEAST_WIDE = 70.0
# Pixels beyond a body at which its name may still stand.
FARTHER_OFF = (8.0, 18.0, 32.0)
FARTHEST = max(FARTHER_OFF)
# A place that costs less is good enough: the farther ones are not looked at.
GOOD = 6.0
# What a place costs: lying over something hard outweighs any number of points of a duct (one
# each); another body, or the world outside the walls, counts as much as 25 of them. A farther place
# costs a little, so that names stay where people look for them.
HARD, CROWDED, FARTHER = 10_000.0, 25.0, 0.25

# Centre line (m) and width (m) of each duct.
Ducts = tuple[tuple[tuple[XY, ...], float], ...]
# Place (m), radius (m) and least radius (pixels) of ports and symbols.
Rounds = tuple[tuple[XY, float, float], ...]
Rows = NDArray[np.float64]


@dataclass(frozen=True)
class WantedLabel:
    """A label: its width in pixels and the corners (m) of what it names; an optional one yields
    where it is tight.
    """

    wide: float
    corners: tuple[XY, ...]
    optional: bool


@dataclass(frozen=True)
class Surroundings:
    """What names keep clear of: ducts as far as they can; rounds and the walls of rooms always."""

    ducts: Ducts
    rounds: Rounds
    rooms: tuple[tuple[XY, ...], ...]
    wall: float


@lru_cache(maxsize=32)
def label_places(
    wanted: tuple[WantedLabel, ...],
    around: Surroundings,
    view: View,
    canvas: tuple[int, int] | None = None,
) -> tuple[QRectF | None, ...]:
    """A place for each label, in order: inside what it names or beside it, perhaps narrower than
    wanted; None for one that has no room on a canvas of so many pixels across and down.
    """
    walled = _wall_rows(around.rooms, around.wall, view)
    corners = tuple(itertools.chain.from_iterable(around.rooms))
    inside = view.polygon(corners).boundingRect()
    fixed = np.concatenate(
        [
            _round_rows(around.rounds, view),
            walled,
            _duct_rows(around.ducts, view),
            _box_rows(_beyond(canvas) if canvas else [], HARD),
            _box_rows(size_lines(inside, around.wall), HARD),
        ]
    )
    boxes = [view.polygon(label.corners).boundingRect() for label in wanted]
    solid = [box for box, label in zip(boxes, wanted, strict=True) if not label.optional]
    places: list[QRectF | None] = []
    for label, box in zip(wanted, boxes, strict=True):
        others = [b for b in (boxes if label.optional else solid) if b is not box]
        rows = np.concatenate([fixed, _box_rows(others, CROWDED)])
        place = _label_place(box, label.wide, rows, inside)
        if place is not None and label.optional and any(place.intersects(b) for b in others):
            place = None
        if place is not None:
            fixed = np.concatenate([fixed, _box_rows([place], HARD)])
        places.append(place)
    return tuple(places)


# -- what is kept clear of, as rows of x, y, half the width and height there (pixels), and what
# lying over it costs


def _duct_rows(ducts: Ducts, view: View) -> Rows:
    """Places along all ducts."""
    if not ducts:
        return np.zeros((0, 5))
    places = np.concatenate([_along_line(line, width) for line, width in ducts])
    places = places * np.array([view.scale, -view.scale, view.scale / 2])
    places += np.array([view.left, view.bottom, 0.0])
    return np.column_stack([places, places[:, 2], np.ones(len(places))])


@lru_cache(maxsize=1024)
def _along_line(line: tuple[XY, ...], width: float) -> Rows:
    """Places along one line every `SAMPLE_GAP` m: rows of x, y and its width."""
    corners = np.array(line)
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(corners, axis=0).T))])
    wanted = np.linspace(0, along[-1], max(int(along[-1] / SAMPLE_GAP), 1) + 1)
    x, y = (np.interp(wanted, along, corners[:, axis]) for axis in (0, 1))
    return np.stack([x, y, np.full(len(x), width)], axis=1)


def _round_rows(rounds: Rounds, view: View) -> Rows:
    rows = []
    for place, radius, least in rounds:
        spot, half = view.point(place), max(radius * view.scale, least)
        rows.append((spot.x(), spot.y(), half, half, HARD))
    return np.array(rows).reshape(-1, 5)


@lru_cache(maxsize=8)
def _wall_rows(rooms: tuple[tuple[XY, ...], ...], wall: float, view: View) -> Rows:
    """Places along the walls of all rooms, in the middle of their thickness outside the floor."""
    rows = [np.zeros((0, 5))]
    half = wall / 2
    for outline in rooms:
        turn = sum(ax * by - bx * ay for (ax, ay), (bx, by) in walls(outline))
        for (ax, ay), (bx, by) in walls(outline):
            start, end = view.point((ax, ay)), view.point((bx, by))
            length = float(np.hypot(end.x() - start.x(), end.y() - start.y())) or 1.0
            # y goes down on screen: for corners that go round to the left the outside is this way.
            out = half * (1 if turn > 0 else -1) / length
            aside_x, aside_y = -(end.y() - start.y()) * out, (end.x() - start.x()) * out
            if min(abs(end.x() - start.x()), abs(end.y() - start.y())) < 1:
                # A wall along the paper's edge is one box.
                middle_x, middle_y = (start.x() + end.x()) / 2, (start.y() + end.y()) / 2
                reach = abs(end.x() - start.x()) / 2, abs(end.y() - start.y()) / 2
                sizes = max(reach[0], half), max(reach[1], half)
                rows.append(np.array([[middle_x + aside_x, middle_y + aside_y, *sizes, HARD]]))
                continue
            steps = np.linspace(0, 1, max(int(length / 4), 1) + 1)
            x = start.x() + (end.x() - start.x()) * steps + aside_x
            y = start.y() + (end.y() - start.y()) * steps + aside_y
            size = np.full(len(steps), half)
            rows.append(np.column_stack([x, y, size, size, np.full(len(steps), HARD)]))
    return np.concatenate(rows)


def size_lines(room: QRectF, wall: float) -> list[QRectF]:
    """Where the shop's length and width stand with their figures: below it and left of it."""
    off = wall + SIZES_OFF
    across = QRectF(room.left(), room.bottom() + off - HIGH / 2, room.width(), HIGH)
    upright = QRectF(room.left() - off - HIGH / 2, room.top(), HIGH, room.height())
    return [across, upright]


def _beyond(canvas: tuple[int, int]) -> list[QRectF]:
    """What lies beyond the four edges of the canvas, where a name would be cut off."""
    wide, high = canvas
    far = 10_000.0
    return [
        QRectF(-far, -far, far, 3 * far),
        QRectF(wide, -far, far, 3 * far),
        QRectF(-far, -far, 3 * far, far),
        QRectF(-far, high, 3 * far, far),
    ]


def _box_rows(boxes: list[QRectF], cost: float) -> Rows:
    rows = [(b.center().x(), b.center().y(), b.width() / 2, b.height() / 2, cost) for b in boxes]
    return np.array(rows).reshape(-1, 5)


# -- one label


def _label_place(box: QRectF, whole: float, rows: Rows, room: QRectF) -> QRectF | None:
    """Where a label goes at a body: inside, or on the side that covers least; None where each
    place, cut short too, lies over something hard.
    """
    rows = _within_reach(box, whole, rows)
    best_cost, x, y = HARD, 0.0, 0.0
    for share in SHARES:
        wide = max(whole * share, min(whole, LEAST_WIDE))
        # Most names find a free place at once, and the places farther off need not be looked at.
        for centres in (_inside_or_close(box, wide), _farther_off(box, wide)):
            cost = _covered(centres, wide, rows) + CROWDED * _outside(centres, wide, room)
            cost += FARTHER * np.arange(len(centres))
            best = int(np.argmin(cost))
            if cost[best] < best_cost:
                best_cost, (x, y) = float(cost[best]), centres[best]
            if best_cost < GOOD:
                break
        if best_cost < HARD:
            return QRectF(float(x) - wide / 2, float(y) - HIGH / 2, wide, HIGH)
    return None


def _within_reach(box: QRectF, wide: float, rows: Rows) -> Rows:
    """Those of the rows that a label at a body can lie over at all."""
    x, y, half_x, half_y, _ = rows.T
    near_x = np.abs(x - box.center().x()) - half_x < box.width() / 2 + wide + FARTHEST + 8
    near_y = np.abs(y - box.center().y()) - half_y < box.height() / 2 + 2 * HIGH + FARTHEST
    near: Rows = rows[near_x & near_y]
    return near


def _inside_or_close(box: QRectF, wide: float) -> Rows:
    """The places for a label's middle where people look first: inside where there is room, below,
    above, beside.
    """
    x, y = box.center().x(), box.center().y()
    spots: list[tuple[float, float]] = []
    if box.width() > wide + 2 and box.height() > HIGH * ROOM_INSIDE:
        third, side = box.height() / 2 - HIGH * 0.7, (box.width() - wide) / 2 - 1
        steps = ((0, 0), (0, 1), (0, -1), (1, 1), (-1, 1), (1, -1), (-1, -1))
        spots = [(x + dx * side, y + dy * third) for dx, dy in steps]
    return np.array(spots + _ring(box, wide, 0.0))


def _farther_off(box: QRectF, wide: float) -> Rows:
    """The places round about, farther and farther from the body."""
    return np.array([spot for far in FARTHER_OFF for spot in _ring(box, wide, far)])


def _ring(box: QRectF, wide: float, far: float) -> list[tuple[float, float]]:
    """Places around a body at a distance in pixels."""
    x, y = box.center().x(), box.center().y()
    down = box.height() / 2 + HIGH * 0.7 + far
    across = box.width() / 2 + wide / 2 + 4 + far
    lean, high = (wide - box.width()) / 2, box.height() / 2 - HIGH / 2
    return [
        *((x, y + down), (x, y - down), (x + across, y), (x - across, y)),
        *((x - lean, y - down), (x - lean, y + down), (x + lean, y - down), (x + lean, y + down)),
        *((x - across, y - high), (x - across, y + high)),
        *((x + across, y - high), (x + across, y + high)),
        *((x - across, y - down), (x - across, y + down)),
        *((x + across, y - down), (x + across, y + down)),
    ]


def _covered(centres: Rows, wide: float, rows: Rows) -> Rows:
    """What a label at each of the centres costs by what it would lie over."""
    x, y, half_x, half_y, weight = rows.T
    over_x = np.abs(x - centres[:, :1]) - half_x < wide / 2
    over_y = np.abs(y - centres[:, 1:]) - half_y < HIGH / 2
    cost: Rows = (over_x & over_y) @ weight
    return cost


def _outside(centres: Rows, wide: float, room: QRectF) -> NDArray[np.bool_]:
    """Whether a label at each of the centres would stand out of the rooms' extent."""
    x, y = centres.T
    out: NDArray[np.bool_] = (
        (x - wide / 2 < room.left())
        | (x + wide / 2 > room.right())
        | (y - HIGH / 2 < room.top())
        | (y + HIGH / 2 > room.bottom())
    )
    return out

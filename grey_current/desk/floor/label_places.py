"""Where names go on the floor, so that they cover the least. Found once for what stands still;
plain values.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF

from grey_current.desk.floor.view import View
from grey_current.shop.places import XY

HIGH = 16.0
# Heights of a name that a body must be deep to bear it inside without being hidden by it.
ROOM_INSIDE = 1.6
# Metres between the places along a duct at which a label is kept off it.
SAMPLE_GAP = 0.08

# Centre line (m) and width (m) of each duct.
Ducts = tuple[tuple[tuple[XY, ...], float], ...]


@dataclass(frozen=True)
class WantedLabel:
    """A label: its width in pixels and the corners (m) of what it names; an optional one yields
    where it is tight.
    """

    wide: float
    corners: tuple[XY, ...]
    optional: bool


@lru_cache(maxsize=32)
def label_places(
    wanted: tuple[WantedLabel, ...], ducts: Ducts, room: tuple[XY, ...], view: View
) -> tuple[QRectF | None, ...]:
    """A place for each label, in order: inside what it names or beside it; None for one that has no
    room.
    """
    samples = _samples(ducts, view)
    inside = view.polygon(room).boundingRect()
    boxes = [view.polygon(label.corners).boundingRect() for label in wanted]
    solid = [box for box, label in zip(boxes, wanted, strict=True) if not label.optional]
    taken: list[QRectF] = []
    places: list[QRectF | None] = []
    for label, box in zip(wanted, boxes, strict=True):
        others = [*taken, *(b for b in (boxes if label.optional else solid) if b is not box)]
        place = _label_place(box, label.wide, HIGH, samples, others, inside)
        free = not label.optional or not any(place.intersects(other) for other in others)
        places.append(place if free else None)
        if free:
            taken.append(place)
    return tuple(places)


def _samples(ducts: Ducts, view: View) -> NDArray[np.float64]:
    """Places along all ducts: rows of x, y and half the width there, in pixels."""
    if not ducts:
        return np.zeros((0, 3))
    places: NDArray[np.float64] = np.concatenate(
        [_along_duct(line, width) for line, width in ducts]
    )
    places *= np.array([view.scale, -view.scale, view.scale / 2])
    places += np.array([view.left, view.bottom, 0.0])
    return places


@lru_cache(maxsize=1024)
def _along_duct(line: tuple[XY, ...], width: float) -> NDArray[np.float64]:
    """Places along one duct every `SAMPLE_GAP` m: rows of x, y and its width."""
    corners = np.array(line)
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(corners, axis=0).T))])
    wanted = np.linspace(0, along[-1], max(int(along[-1] / SAMPLE_GAP), 1) + 1)
    x, y = (np.interp(wanted, along, corners[:, axis]) for axis in (0, 1))
    return np.stack([x, y, np.full(len(x), width)], axis=1)


def _label_place(
    box: QRectF,
    wide: float,
    high: float,
    ducts: NDArray[np.float64],
    taken: list[QRectF],
    room: QRectF,
) -> QRectF:
    """Where a label of this size goes at a body: inside, or on the side that covers least."""
    c = box.center()
    down, across = box.height() / 2 + high * 0.7, box.width() / 2 + wide / 2 + 4
    # Below first, then above, then beside: where people look for a name.
    centres = [
        QPointF(c.x(), c.y() + down),
        QPointF(c.x(), c.y() - down),
        QPointF(c.x() + across, c.y()),
        QPointF(c.x() - across, c.y()),
    ]
    lean = (wide - box.width()) / 2
    centres += [QPointF(c.x() + dx, c.y() + dy) for dx in (-lean, lean) for dy in (-down, down)]
    # Inside is best, where there is room.
    if box.width() > wide * 0.75 and box.height() > high * ROOM_INSIDE:
        third, side = box.height() / 2 - high * 0.7, (box.width() - wide) / 2
        inside = [
            (0, 0),
            (0, third),
            (0, -third),
            (side, third),
            (-side, third),
            (side, -third),
            (-side, -third),
        ]
        centres = [*(QPointF(c.x() + dx, c.y() + dy) for dx, dy in inside), *centres]

    x, y, half = ducts.T

    def covers(centre: QPointF) -> int:
        label = QRectF(centre.x() - wide / 2, centre.y() - high / 2, wide, high)
        apart_x = np.abs(x - centre.x()) - half < wide / 2
        apart_y = np.abs(y - centre.y()) - half < high / 2
        # Covering another label, or leaving the room, counts as much as forty points of duct.
        crowded = sum(label.intersects(other) for other in taken) + (not room.contains(label))
        return int(np.count_nonzero(apart_x & apart_y)) + 40 * crowded

    best, least = centres[0], covers(centres[0])
    for centre in centres[1:]:
        if least == 0:
            break
        if (now := covers(centre)) < least:
            best, least = centre, now
    return QRectF(best.x() - wide / 2, best.y() - high / 2, wide, high)

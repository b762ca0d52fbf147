"""A drawing as plain values: lines, circles, texts and dimensions in metres, on layers of one line
weight system.

What writes it (SVG, DXF, PDF) is elsewhere; sizes of text and weights of lines are in millimetres
on paper.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import Literal

from grey_current.shop.places import XY

Anchor = Literal["left", "middle", "right"]

# Layers, and how thick (mm) their lines are on paper.
LAYERS: dict[str, float] = {
    "walls": 0.5,
    "ducts": 0.35,
    "gates": 0.35,
    "outline": 0.35,
    "machines": 0.25,
    "hoses": 0.25,
    "beams": 0.18,
    "centre lines": 0.18,
    "hidden": 0.18,
    "dimensions": 0.13,
    "text": 0.13,
    # At full size: sawn through, drilled, only scored.
    "cut": 0.25,
    "drill": 0.25,
    "score": 0.13,
}
DASHED = frozenset({"beams", "hidden", "hoses", "score"})
# mm; ordinary lettering, read at arm's length: ten points and a little more.
TEXT = 2.8
SMALL = 2.62
# mm; the radius of the ring round a piece's number.
NUMBER_RING = 2.4
# mm between what is measured and its dimension's witness lines.
DIMENSION_GAP = 1.5
# Width of letters over their height in the face that the papers are set in, by hundredths; of
# others that of a figure.
LETTER = 0.9
LETTERS = {
    40: " ',.IJijl",
    50: "!()-/:;[\\]ft|",
    65: '"r*?_`csz',
    80: "FLPTYaekovxy⌀",
    105: "DGHNUOQw&+<=>#^~M",
    135: "%Wm½¼⅛@",
}
WIDTHS = {letter: hundredths / 100 for hundredths, all_of in LETTERS.items() for letter in all_of}


@dataclass(frozen=True)
class Path:
    """A line from place to place (m); closed when it comes back."""

    points: tuple[XY, ...]
    layer: str
    closed: bool = False


@dataclass(frozen=True)
class Circle:
    """A circle (m); a blank one covers what lies under it."""

    centre: XY
    radius: float
    layer: str
    blank: bool = False


@dataclass(frozen=True)
class Text:
    """Lettering: where it stands (m), how high (mm on paper), turned by degrees anticlockwise."""

    at: XY
    text: str
    size: float = TEXT
    anchor: Anchor = "middle"
    turn: float = 0.0
    layer: str = "text"


@dataclass(frozen=True)
class Dimension:
    """A measured distance between two places (m), its line beside them by `offset` (mm on paper,
    left of a to b).
    """

    a: XY
    b: XY
    text: str
    offset: float = 6.0
    layer: str = "dimensions"

    @property
    def length(self) -> float:
        """The distance (m)."""
        return math.dist(self.a, self.b)


Item = Path | Circle | Text | Dimension


@dataclass(frozen=True)
class Drawing:
    """A named drawing at a scale of 1 to `scale`."""

    title: str
    items: tuple[Item, ...]
    scale: float = 1.0
    notes: tuple[str, ...] = field(default=())

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, low, right and high edge (m) of everything, lettering and dimensions too."""
        xs, ys = [], []
        for x, y in self._places():
            xs.append(x)
            ys.append(y)
        return (min(xs), min(ys), max(xs), max(ys)) if xs else (0.0, 0.0, 0.1, 0.1)

    @property
    def corners(self) -> tuple[XY, ...]:
        """Places (m) that all of it lies between."""
        return tuple(self._places())

    def _places(self) -> Iterator[XY]:
        for item in self.items:
            if isinstance(item, Path):
                yield from item.points
            elif isinstance(item, Circle):
                (x, y), r = item.centre, item.radius
                yield from ((x - r, y - r), (x + r, y + r))
            elif isinstance(item, Text):
                yield from text_box(item, self.scale)
            else:
                yield from dimension_line(item, self.scale)
                yield from text_box(dimension_text(item, self.scale), self.scale)

    def at_scale(self, scale: float) -> Drawing:
        """The same at another scale."""
        return Drawing(self.title, self.items, scale, self.notes)


def paper(millimetres: float, scale: float) -> float:
    """What a size on paper (mm) is in the drawing (m)."""
    return millimetres / 1000 * scale


def text_width(text: str, size: float) -> float:
    """How wide (mm on paper) a line of lettering of some height (mm) is, near enough to lay out
    by.
    """
    return size * math.fsum(WIDTHS.get(letter, LETTER) for letter in text)


def text_box(item: Text, scale: float) -> tuple[XY, XY, XY, XY]:
    """The corners (m) of lettering."""
    high = paper(item.size, scale)
    wide = paper(text_width(item.text, item.size), scale)
    left = {"left": 0.0, "middle": -wide / 2, "right": -wide}[item.anchor]
    c, s = math.cos(math.radians(item.turn)), math.sin(math.radians(item.turn))
    corners = ((left, 0.0), (left + wide, 0.0), (left + wide, high), (left, high))
    a, b, d, e = ((item.at[0] + c * x - s * y, item.at[1] + s * x + c * y) for x, y in corners)
    return a, b, d, e


def _beside(item: Dimension) -> tuple[XY, XY]:
    """Unit vectors along a dimension and to the left of it."""
    length = item.length or 1.0
    along = ((item.b[0] - item.a[0]) / length, (item.b[1] - item.a[1]) / length)
    return along, (-along[1], along[0])


def dimension_line(item: Dimension, scale: float) -> tuple[XY, XY]:
    """The ends (m) of the line on which a dimension is written."""
    _, left = _beside(item)
    by = paper(item.offset, scale)
    return (item.a[0] + left[0] * by, item.a[1] + left[1] * by), (
        item.b[0] + left[0] * by,
        item.b[1] + left[1] * by,
    )


def readable(a: XY, b: XY) -> float:
    """The turn (degrees) of lettering along a line that is read from below or from the right."""
    turn = math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
    if turn > 90.5 or turn <= -89.5:
        turn += 180.0 if turn <= 0 else -180.0
    return turn


def dimension_text(item: Dimension, scale: float) -> Text:
    """The figure over a dimension line, readable from below or from the right."""
    (ax, ay), (bx, by) = dimension_line(item, scale)
    turn = readable((ax, ay), (bx, by))
    up = math.radians(turn + 90)
    roomy = paper(text_width(item.text, SMALL), scale) <= item.length
    lift = paper(0.8, scale) if roomy else -paper(0.8 + SMALL, scale)
    at = ((ax + bx) / 2 + math.cos(up) * lift, (ay + by) / 2 + math.sin(up) * lift)
    return Text(at, item.text, SMALL, "middle", turn, item.layer)


def dimension_paths(item: Dimension, scale: float) -> Iterator[Path]:
    """The lines of a dimension: two witness lines, the line itself, and a stroke at each end."""
    a, b = dimension_line(item, scale)
    along, left = _beside(item)
    side = math.copysign(1.0, item.offset)
    gap, over, stroke = (
        paper(DIMENSION_GAP, scale) * side,
        paper(1.0, scale) * side,
        paper(1.0, scale),
    )
    for near, end in ((item.a, a), (item.b, b)):
        start = (near[0] + left[0] * gap, near[1] + left[1] * gap)
        beyond = (end[0] + left[0] * over, end[1] + left[1] * over)
        yield Path((start, beyond), item.layer)
        dx, dy = (along[0] + left[0]) * stroke * 0.7, (along[1] + left[1]) * stroke * 0.7
        yield Path(((end[0] - dx, end[1] - dy), (end[0] + dx, end[1] + dy)), item.layer)
    yield Path((a, b), item.layer)


def rectangle(left: float, low: float, wide: float, high: float, layer: str) -> Path:
    """A rectangle (m)."""
    corners = ((left, low), (left + wide, low), (left + wide, low + high), (left, low + high))
    return Path(corners, layer, closed=True)


def fitting_scale(drawings: Iterable[Drawing], wide: float, high: float) -> float:
    """The largest usual scale at which a drawing is no larger than so much paper (mm)."""
    scales = (1, 2, 5, 10, 20, 25, 50, 75, 100, 150, 200, 250, 500, 1000)
    for scale in scales:
        boxes = [drawing.at_scale(scale).bounds for drawing in drawings]
        if all(
            (b[2] - b[0]) * 1000 / scale <= wide and (b[3] - b[1]) * 1000 / scale <= high
            for b in boxes
        ):
            return float(scale)
    return 2000.0

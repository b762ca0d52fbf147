"""A drawing at full size, for sawing by: what is cut, drilled and scored on layers of its own, and
the sheets of paper that it is parted into.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import shapely

from grey_current.build.drawing import Circle, Drawing, Item, Path
from grey_current.shop.places import XY

# m; a smaller hole is drilled, not sawn. Allowance.
DRILLED = 0.012
# mm that a sheet keeps free at its edges, and at its foot for what is to be read.
EDGE, FOOT = 12.0, 30.0
# mm that is drawn beyond a sheet's frame, so that an edge that is trimmed askew shows.
BLEED = 4.0
# m; no saw's cut is thinner.
THINNEST = 1e-5
# m by which sums of sheets may fall short of the whole.
HAIR = 1e-6
# Corners to a quarter of a circle.
ARC = 64
# What is drawn on a layer is sawn or scored.
LAYER = {"outline": "cut", "centre lines": "score", "hidden": "score"}
# Sheets that nobody glues together.
MOST_SHEETS = 60


@dataclass(frozen=True)
class Sheet:
    """One sheet of paper: its row (from the top) and column, and what of the drawing it shows: left
    and low edge, width and height (m).
    """

    row: int
    column: int
    left: float
    low: float
    wide: float
    high: float

    @property
    def name(self) -> str:
        """Its row as a letter, its column as a number: "B2"."""
        return f"{chr(ord('A') + self.row)}{self.column + 1}"


def to_cut(drawing: Drawing, kerf: float = 0.0) -> Drawing:
    """A drawing at full size with what is sawn, drilled and scored on the layers "cut", "drill" and
    "score".

    With a `kerf` (m) contours lie where the middle of the cut goes: outer ones half of it outside,
    holes inside.
    """
    items = [_by_layer(item) for item in drawing.items]
    if kerf > THINNEST:
        items = list(_offset(items, kerf / 2))
    return Drawing(drawing.title, tuple(items), 1.0, drawing.notes)


def _by_layer(item: Item) -> Item:
    layer = LAYER.get(item.layer, item.layer)
    if isinstance(item, Circle) and layer == "cut" and 2 * item.radius <= DRILLED:
        layer = "drill"
    return replace(item, layer=layer)


def contours(items: Iterable[Item]) -> Iterable[shapely.Polygon]:
    """What each contour that is sawn or drilled encloses, m."""
    for item in items:
        ground = _ground(replace(item, layer=LAYER.get(item.layer, item.layer)))
        if ground is not None:
            yield ground


def _offset(items: Sequence[Item], by: float) -> Iterable[Item]:
    """Contours moved out of the wood that stays: outer ones outwards, holes inwards."""
    grounds = [_ground(item) for item in items]
    for item, ground in zip(items, grounds, strict=True):
        if ground is None:
            yield item
            continue
        # A contour within another is a hole in it; one within a hole is a piece again.
        around = sum(other is not None and other.contains_properly(ground) for other in grounds)
        way = by if around % 2 == 0 else -by
        if isinstance(item, Circle):
            yield replace(item, radius=max(item.radius + way, 0.0))
            continue
        moved = ground.buffer(way, join_style="mitre")
        if not moved.is_empty and isinstance(item, Path):
            places = tuple((x, y) for x, y in shapely.get_coordinates(moved.exterior)[:-1].tolist())
            yield replace(item, points=places)


def _ground(item: Item) -> shapely.Polygon | None:
    """What a contour encloses; None for anything else."""
    if isinstance(item, Circle) and item.layer == "cut":
        return shapely.Point(item.centre).buffer(item.radius, quad_segs=32)
    if isinstance(item, Path) and item.layer == "cut" and item.closed and len(item.points) > 2:
        return shapely.Polygon(item.points)
    return None


def sheets(drawing: Drawing, page: tuple[float, float]) -> list[Sheet]:
    """The sheets of a drawing at full size on pages of a width and height (mm), row by row; empty
    ones left out.
    """
    left, low, right, high = drawing.bounds
    wide, tall = ((side - rest) / 1000 for side, rest in zip(page, _kept_free(), strict=True))
    columns = max(math.ceil((right - left) / wide - 1e-9), 1)
    rows = max(math.ceil((high - low) / tall - 1e-9), 1)
    every = [
        Sheet(row, column, left + column * wide, high - (row + 1) * tall, wide, tall)
        for row in range(rows)
        for column in range(columns)
    ]
    # A hair wider: what lies on the outermost edge is within.
    frames = [
        shapely.box(s.left, s.low, s.left + s.wide, s.low + s.high).buffer(HAIR) for s in every
    ]
    lines = shapely.STRtree([_line(drawing, item) for item in drawing.items])
    shown = set(lines.query(frames, predicate="intersects")[0].tolist())
    return [sheet for number, sheet in enumerate(every) if number in shown]


def _line(drawing: Drawing, item: Item) -> shapely.Geometry:
    """What an item marks on the paper."""
    if isinstance(item, Circle):
        # A band between the polygons within and around it: no arc slips past a sheet's edge.
        middle, outside = shapely.Point(item.centre), 1 / math.cos(math.pi / (4 * ARC))
        within = middle.buffer(item.radius, quad_segs=ARC)
        around = middle.buffer(item.radius * outside, quad_segs=ARC)
        return shapely.difference(around, within)
    if isinstance(item, Path):
        places = (*item.points, item.points[0]) if item.closed else item.points
    else:
        places = Drawing("", (item,), drawing.scale).corners
    return shapely.LineString(places) if len(places) > 1 else shapely.Point(places[0])


def best_page(drawing: Drawing, size: tuple[float, float]) -> tuple[float, float]:
    """A page upright or on its side (mm), whichever takes fewer sheets."""
    upright, lying = size, (size[1], size[0])
    return min((upright, lying), key=lambda page: len(sheets(drawing, page)))


def _kept_free() -> XY:
    """What a page keeps free across and down (mm)."""
    return 2 * EDGE, EDGE + FOOT

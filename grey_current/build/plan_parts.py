"""A plan in parts, for a shop that one sheet shows too small to read."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

import shapely

from grey_current.build.drawing import Dimension, Drawing, Item, Path, Text, fitting_scale
from grey_current.shop.model import Project
from grey_current.shop.places import XY, bounds

# The smallest scale at which numbers still stand beside what they are the numbers of.
SMALLEST = 100.0
# m that a part shows beyond its edges, so that what goes on is seen to.
BEYOND = 0.3
# m of a wall that bear its number.
LEAST_PART = 0.1
MOST_PARTS = 12


@dataclass(frozen=True)
class Window:
    """A part of the plan (m)."""

    left: float
    low: float
    right: float
    high: float

    def holds(self, at: XY) -> bool:
        """Whether a place lies in it; an edge belongs to the part to its right or above."""
        return self.left <= at[0] < self.right and self.low <= at[1] < self.high

    def of_line(self, a: XY, b: XY) -> tuple[XY, XY] | None:
        """The part of a straight line that lies in it; None where less than a hand's width does."""
        box = shapely.box(self.left, self.low, self.right, self.high)
        part = shapely.LineString((a, b)).intersection(box)
        if part.length < LEAST_PART:
            return None
        first, last = part.coords
        return first, last

    def clipped(self, items: Iterable[Item]) -> Iterator[Item]:
        """What of a drawing lies in it: lines cut off at its edge, and dimensions whole or not."""
        edge = shapely.box(self.left, self.low, self.right, self.high).buffer(
            BEYOND, join_style="mitre"
        )
        for item in items:
            if isinstance(item, Dimension):
                if edge.contains(shapely.LineString((item.a, item.b))):
                    yield item
            elif isinstance(item, Path):
                points = (*item.points, item.points[0]) if item.closed else item.points
                seen = shapely.LineString(points).intersection(edge)
                for part in shapely.get_parts(seen):
                    if part.geom_type == "LineString":
                        yield Path(tuple(part.coords), item.layer)
            elif isinstance(item, Text) or item.blank or edge.contains(shapely.Point(item.centre)):
                # Names and numbers are those of the part, wherever they found room.
                yield item


def windows(project: Project, count: int) -> list[Window]:
    """The plan's rooms side by side in so many parts of one size, along their longer side.

    What stands outside the rooms belongs to the nearest part.
    """
    left, low, right, high = bounds([at for room in project.rooms for at in room.outline])
    far = 1000.0
    lying = right - left >= high - low
    first, last = (left, right) if lying else (low, high)
    edges = [first + (last - first) * n / count for n in range(count + 1)]
    edges[0], edges[-1] = first - far, last + far
    between = itertools.pairwise(edges)
    if lying:
        return [Window(a, low - far, b, high + far) for a, b in between]
    return [Window(left - far, a, right + far, b) for a, b in between]


def in_parts(
    project: Project,
    draw: Callable[[float, Window | None], Drawing],
    overview: Callable[[float], Drawing],
    room: tuple[float, float],
) -> list[Drawing]:
    """A plan on one sheet where `room` (mm) shows it well; else an overview and as few parts as do.

    `draw` draws a part, or the whole, at a scale. Raises nothing.
    """
    whole = settled(lambda scale: [draw(scale, None)], room)
    if whole <= SMALLEST or not project.rooms:
        return [draw(whole, None)]
    for count in range(2, MOST_PARTS + 1):
        parts = windows(project, count)
        scale = _scale_of(draw, parts, room)
        if scale <= SMALLEST or count == MOST_PARTS:
            break
    return [
        overview(settled(lambda s: [overview(s)], room)),
        *(
            Drawing(f"{made.title}, part {number} of {count}", made.items, scale, made.notes)
            for number, made in enumerate((draw(scale, part) for part in parts), 1)
        ),
    ]


def _scale_of(
    draw: Callable[[float, Window | None], Drawing], parts: list[Window], room: tuple[float, float]
) -> float:
    return settled(lambda scale: [draw(scale, part) for part in parts], room)


def settled(make: Callable[[float], list[Drawing]], room: tuple[float, float]) -> float:
    """The scale at which drawings that are lettered for it fit; lettering takes room too."""
    scale = 10.0
    for _ in range(6):
        made = make(scale)
        wanted = fitting_scale(made, *room) if made else scale
        if wanted <= scale:
            return scale
        scale = wanted
    return scale

"""Elevations of walls: what hangs on a wall and stands before it, seen from inside, with distances
to floor, ceiling and the wall's ends.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass

from grey_current.build.drawing import (
    SMALL,
    TEXT,
    Circle,
    Dimension,
    Drawing,
    Item,
    Path,
    Text,
    dimension_text,
    paper,
    rectangle,
)
from grey_current.build.lettering import Free
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import Run
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.places import XY, all_bodies, footprint, position
from grey_current.shop.roofs import ceiling_at, ceiling_marks
from grey_current.shop.room import FLAT, Feature, Room, area, walls
from grey_current.shop.stacking import top_of
from grey_current.units import Display

# m from a wall within which a duct hangs on it, and within which a thing stands before it.
ON_WALL, BEFORE = 0.7, 1.0
# m along or up within which two places are not measured apart.
LEAST_STEP = 0.05
# m from a socket's middle to its edge, as it is drawn. Allowance.
SOCKET = 0.04
# m from a wall within which an opening is in it.
IN_WALL = 0.05


@dataclass(frozen=True)
class Wall:
    """A wall as it is seen from inside: from its left end to its right one, with its room.

    Attributes:
        number: As the plan has it, from 1.
    """

    number: int
    left: XY
    right: XY
    room: Room

    @property
    def length(self) -> float:
        """How long it is, m."""
        return math.dist(self.left, self.right)

    def along(self, place: XY) -> float:
        """How far (m) from its left end a place is, along it; beyond the ends below 0 or over its
        length.
        """
        dx, dy = self.right[0] - self.left[0], self.right[1] - self.left[1]
        return ((place[0] - self.left[0]) * dx + (place[1] - self.left[1]) * dy) / self.length

    def off(self, place: XY) -> float:
        """How far (m) a place is from it, into the room; negative behind it."""
        dx, dy = self.right[0] - self.left[0], self.right[1] - self.left[1]
        cross = dx * (place[1] - self.left[1]) - dy * (place[0] - self.left[0])
        # The room lies on the right of the way from left to right, seen from inside.
        return -cross / self.length

    def at(self, along: float) -> XY:
        """The place on it at so much (m) from its left end."""
        share = along / self.length
        return (
            self.left[0] + (self.right[0] - self.left[0]) * share,
            self.left[1] + (self.right[1] - self.left[1]) * share,
        )


def walls_of_shop(project: Project) -> tuple[Wall, ...]:
    """All walls, numbered as on the plan, each from its left end seen from inside."""
    found = []
    sides = ((room, side) for room in project.rooms for side in walls(room.outline))
    for number, (room, (a, b)) in enumerate(sides, 1):
        # Round an anticlockwise room the inside lies on the left of the way.
        left, right = (b, a) if area(room.outline) > 0 else (a, b)
        found.append(Wall(number, left, right, room))
    return tuple(found)


def wall_drawings(project: Project, scale: float) -> list[Drawing]:
    """The elevations of all walls that ducts hang on. Raises nothing."""
    return [
        wall_drawing(project, wall, scale)
        for wall in walls_of_shop(project)
        if any(_hangs_on(project, wall, run) for run in project.runs)
    ]


def wall_drawing(project: Project, wall: Wall, scale: float) -> Drawing:
    """The elevation of one wall at a scale of 1 to `scale`. Raises nothing."""
    free = Free(scale)
    # Figures first: names go where those leave room.
    ducts = [run for run in project.runs if _hangs_on(project, wall, run)]
    items = [
        *_outline(wall),
        *_measures(project, wall, ducts, free),
        *_ducts(project, wall, ducts, free),
        *_things(project, wall, free),
    ]
    title = f"Wall {wall.number}, seen from inside"
    if len(project.rooms) > 1:
        title = f"{wall.room.name}, wall {wall.number}, seen from inside"
    return Drawing(title, tuple(items), scale)


def _hangs_on(project: Project, wall: Wall, run: Run) -> bool:
    """Whether a rigid duct hangs on a wall: both of its ends are near to it, before it."""
    places = [position(project, end) for end in run.ends]
    return not is_hose(run) and all(
        0 <= wall.off(place[:2]) <= ON_WALL
        and -ON_WALL <= wall.along(place[:2]) <= wall.length + ON_WALL
        for place in places
    )


# -- what is drawn


def _outline(wall: Wall) -> Iterator[Item]:
    """The wall itself, up to its ceiling, which may slope or have a ridge or a dormer."""
    marks = ceiling_marks(wall.room, wall.left, wall.right)
    top = [(m, ceiling_at(wall.room, wall.at(m))) for m in marks]
    yield Path(((0.0, 0.0), *top, (wall.length, 0.0)), "walls", closed=True)


def _things(project: Project, wall: Wall, free: Free) -> Iterator[Item]:
    """Openings in the wall and what stands before it, each with its name."""
    for item in project.openings:
        if all(abs(wall.off(place)) < IN_WALL for place in (item.start, item.end)):
            a, b = sorted(wall.along(place) for place in (item.start, item.end))
            if a > -LEAST_STEP and b < wall.length + LEAST_STEP:
                yield rectangle(a, item.sill, b - a, item.head - item.sill, "machines")
                yield from _name(item.name, (a, b), (item.sill, item.head), free)
    for outlet in project.outlets:
        place = outlet.x, outlet.y
        if outlet.height is not None and abs(wall.off(place)) < IN_WALL:
            at = wall.along(place)
            if -LEAST_STEP < at < wall.length + LEAST_STEP:
                yield Circle((at, outlet.height), SOCKET, "machines")
                across, up = (at - SOCKET, at + SOCKET), (outlet.height, outlet.height + 0.2)
                yield from _name(outlet.name, across, up, free)
    standing: list[tuple[Machine | Collector | Feature, tuple[XY, ...]]] = [
        *((item, footprint(item)) for item in all_bodies(project)),
        *((item, item.outline) for item in project.features if item.kind not in FLAT),
    ]
    for thing, corners in standing:
        near = min(wall.off(corner) for corner in corners)
        a, b = min(map(wall.along, corners)), max(map(wall.along, corners))
        if not -IN_WALL <= near <= BEFORE or b <= 0 or a >= wall.length:
            continue
        a, b = max(a, 0.0), min(b, wall.length)
        high = min(top_of(thing), ceiling_at(wall.room, wall.at((a + b) / 2)))
        if high > thing.bottom:
            yield rectangle(a, thing.bottom, b - a, high - thing.bottom, "hidden")
            yield from _name(thing.name, (a, b), (thing.bottom, high), free)


def _name(
    text: str, across: tuple[float, float], up: tuple[float, float], free: Free
) -> Iterator[Item]:
    middle = (across[0] + across[1]) / 2, (up[0] + up[1]) / 2
    steps = (0.0, 4.0, -4.0, 8.0, -8.0)
    places = [Text((middle[0], middle[1] + paper(step, free.scale)), text, SMALL) for step in steps]
    yield from free.name(places, middle)


def _ducts(project: Project, wall: Wall, ducts: list[Run], free: Free) -> Iterator[Item]:
    """Ducts at their true width, those that come out of the picture as circles, with their size."""
    display, shown = Display(project.settings.units), set[tuple[str, bool]]()
    for run in ducts:
        (ax, ay, az), (bx, by, bz) = (position(project, end) for end in run.ends)
        a, b = (wall.along((ax, ay)), az), (wall.along((bx, by)), bz)
        far = math.dist(a, b)
        if far < run.diameter / 2:
            yield Circle(a, run.diameter / 2, "ducts")
            continue
        nx, ny = (-(b[1] - a[1]) / far * run.diameter / 2, (b[0] - a[0]) / far * run.diameter / 2)
        for side in (1, -1):
            yield Path(
                ((a[0] + side * nx, a[1] + side * ny), (b[0] + side * nx, b[1] + side * ny)),
                "ducts",
            )
        yield Path((a, b), "centre lines")
        upright = abs(b[1] - a[1]) > abs(b[0] - a[0])
        size = display.diameter(run.diameter)
        if (size, upright) not in shown and far > paper(10, free.scale):
            shown.add((size, upright))
            middle = (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
            off = run.diameter / 2 + paper(1.2, free.scale)
            beside = [
                Text((middle[0] + off, middle[1]), size, TEXT, "left")
                if upright
                else Text((middle[0], middle[1] + off), size, TEXT),
                Text((middle[0], middle[1] - off - paper(TEXT, free.scale)), size, TEXT),
            ]
            yield from free.name(beside, middle)


def _measures(project: Project, wall: Wall, ducts: list[Run], free: Free) -> Iterator[Item]:
    """How far each joint is from the wall's ends along the floor, how high over the floor, and how
    far under the ceiling the highest is.
    """
    display = Display(project.settings.units)
    joints = {end: position(project, end) for run in ducts for end in run.ends}
    places = [(wall.along((x, y)), z) for x, y, z in joints.values()]
    places = [(u, z) for u, z in places if -LEAST_STEP <= u <= wall.length + LEAST_STEP]
    if not places:
        chain = [0.0, wall.length]
    else:
        chain = _apart([0.0, *sorted(u for u, _ in places), wall.length])
    for a, b in itertools.pairwise(chain):
        yield free.dimension(Dimension((a, 0.0), (b, 0.0), display.length(b - a), -5.0), -4.0)
    out = wall.length
    for height in _apart(sorted(z for _, z in places if z > LEAST_STEP)):
        out += paper(6, free.scale)
        made = Dimension((out, 0.0), (out, height), display.length(height), 0.0)
        while not free.takes(dimension_text(made, free.scale)):
            out += paper(2, free.scale)
            made = Dimension((out, 0.0), (out, height), display.length(height), 0.0)
        yield made
    if places:
        along, height = max(places, key=lambda place: place[1])
        inside = min(max(along, 0.0), wall.length)
        over = ceiling_at(wall.room, wall.at(inside)) - height
        if over > LEAST_STEP:
            made = Dimension((inside, height), (inside, height + over), display.length(over), 3.0)
            yield free.dimension(made, 4.0)


def _apart(values: list[float]) -> list[float]:
    """Values of which none is nearer to the one before than is measured; the last one stays."""
    found: list[float] = []
    for value in values:
        if not found or value - found[-1] > LEAST_STEP:
            found.append(value)
    if values and found[-1] != values[-1]:
        found[-1] = values[-1]
    return found

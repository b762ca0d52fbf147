"""Ground plans of what stands in a shop or needs room in it, m. Plane geometry by shapely."""

from __future__ import annotations

import math
from collections.abc import Iterable
from functools import lru_cache
from typing import Any

import shapely

from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine, Side
from grey_current.shop.places import XY, footprint, own_bodies, standing
from grey_current.shop.room import Beam, Feature, Opening, Room, area, walls

# m to both sides of a wall's line that an opening in it reaches.
HOLE = 0.12
# m between the lines of two rooms' walls up to which they are one wall that a door passes.
# Allowance.
THICKEST = 0.6


def plan(outline: Iterable[XY]) -> Any:
    """The ground plan inside an outline, to the micrometre; one that crosses itself is the parts
    that it encloses.

    Corners a hair apart, or next to nothing off zero, make overlays of the geometry library fail. A
    search asks for the same ones again and again.
    """
    return _plan(tuple(outline))


@lru_cache(maxsize=4096)
def _plan(outline: tuple[XY, ...]) -> Any:
    drawn = shapely.Polygon([(round(x, 6), round(y, 6)) for x, y in outline])
    return drawn if drawn.is_valid else shapely.make_valid(drawn)


def ground_of(item: Machine | Collector) -> Any:
    """The ground that something covers, with what stands by itself of it."""
    grounds = [plan(footprint(body)) for body in own_bodies(item)]
    return grounds[0] if len(grounds) == 1 else shapely.union_all(grounds)


@lru_cache(maxsize=256)
def beam_plan(beam: Beam) -> Any:
    """The ground under a beam."""
    return shapely.LineString([beam.start, beam.end]).buffer(beam.width / 2, cap_style="flat")


def strip_outline(start: XY, ahead: XY, wide: float, before: float, after: float) -> list[XY]:
    """Corners of a strip of a width (m) along a direction, from `before` behind a place to `after`
    ahead of it.
    """
    (x, y), (ux, uy), half = start, ahead, wide / 2
    ends = [(-before, half), (after, half), (after, -half), (-before, -half)]
    return [(x + ux * t - uy * s, y + uy * t + ux * s) for t, s in ends]


def at_rest(machine: Machine) -> Machine:
    """The machine where it stands when it does not run: its first parked place, if it has wheels
    and one.
    """
    return parked(machine)[0] if machine.wheels and machine.parked else machine


def parked(machine: Machine) -> list[Machine]:
    """The machine at each of its parked places."""
    return [machine.model_copy(update={"x": p.x, "y": p.y, "turn": p.turn}) for p in machine.parked]


def service_outline(machine: Machine | Collector, side: Side) -> list[XY]:
    """Corners of the ground that must stay free at one side of a machine or collector, m."""
    w, d, free = machine.width / 2, machine.depth / 2, machine.service_depth
    boxes = {
        "front": (-w, -d - free, w, -d),
        "back": (-w, d, w, d + free),
        "left": (-w - free, -d, -w, d),
        "right": (w, -d, w + free, d),
    }
    x0, y0, x1, y1 = boxes[side]
    corners = ((x0, y0), (x1, y0), (x1, y1), (x0, y1))
    return [standing(machine.x, machine.y, machine.turn, dx, dy) for dx, dy in corners]


def front_outline(item: Feature) -> list[XY]:
    """The ground before the doors or drawers of something, m; empty where nothing opens."""
    if item.front is None:
        return []
    a, b = walls(item.outline)[item.front]
    far = math.dist(a, b) or 1.0
    # Outwards lies right of a side where the corners go round anticlockwise.
    out = item.front_depth / far * (1 if area(item.outline) > 0 else -1)
    away = ((b[1] - a[1]) * out, -(b[0] - a[0]) * out)
    return [a, b, (b[0] + away[0], b[1] + away[1]), (a[0] + away[0], a[1] + away[1])]


def swing_outline(opening: Opening, steps: int = 8) -> list[XY]:
    """The ground that a hinged door sweeps: a quarter circle from its hinges; empty for any other
    opening.
    """
    if opening.kind != "door" or opening.swing == "none":
        return []
    side, _, end = opening.swing.partition(" from ")
    hinge, leaf = (opening.start, opening.end) if end == "start" else (opening.end, opening.start)
    reach, first = math.dist(hinge, leaf), math.atan2(leaf[1] - hinge[1], leaf[0] - hinge[0])
    turn = math.pi / 2 * (1 if (side == "left") == (end == "start") else -1)
    arc = [first + turn * i / steps for i in range(steps + 1)]
    return [hinge, *((hinge[0] + reach * math.cos(a), hinge[1] + reach * math.sin(a)) for a in arc)]


def passage(opening: Opening, rooms: Iterable[Room]) -> Any:
    """The ground of a hole in the wall: through the wall, and through the next room's where one
    stands close behind.

    Two rooms drawn with a real wall between them have a line each; a door in either is a way
    through both.
    """
    (x0, y0), (x1, y1) = opening.start, opening.end
    length = math.dist(opening.start, opening.end) or 1.0
    nx, ny = -(y1 - y0) / length, (x1 - x0) / length
    reaches = [HOLE, HOLE]
    # Another room may lie close behind the wall: the hole then goes on into it.
    for side, sign in ((0, 1.0), (1, -1.0)):
        far = [
            (x + nx * sign * THICKEST, y + ny * sign * THICKEST) for x, y in ((x1, y1), (x0, y0))
        ]
        strip = plan([opening.start, opening.end, *far])
        line = shapely.LineString([opening.start, opening.end])
        for room in rooms:
            ground = plan(room.outline)
            away = ground.distance(line)
            if 0 < away < THICKEST and ground.intersection(strip).area > 1e-6:
                reaches[side] = max(reaches[side], away + HOLE)
    (left, right) = reaches
    corners = [(x0 + nx * left, y0 + ny * left), (x1 + nx * left, y1 + ny * left)]
    corners += [(x1 - nx * right, y1 - ny * right), (x0 - nx * right, y0 - ny * right)]
    return plan(corners)


def track_outline(opening: Opening, inside: XY) -> list[XY]:
    """The ground under a roll-up door's tracks, as deep as the door is high, on the side of a place
    `inside`.
    """
    if opening.kind != "roll-up door":
        return []
    (x0, y0), (x1, y1) = opening.start, opening.end
    length = math.dist(opening.start, opening.end) or 1.0
    nx, ny = -(y1 - y0) / length, (x1 - x0) / length
    side = (inside[0] - x0) * nx + (inside[1] - y0) * ny
    deep = math.copysign(opening.head - opening.sill, side)
    return [(x0, y0), (x1, y1), (x1 + nx * deep, y1 + ny * deep), (x0 + nx * deep, y0 + ny * deep)]

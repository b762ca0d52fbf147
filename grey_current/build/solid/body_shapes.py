"""Collectors, the room and what stands in it, and a person for scale, in few solids; m."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Iterator
from functools import lru_cache

import numpy as np
import shapely

from grey_current.build.solid.mesh import Mesh, ball, cuboid, cylinder, prism, together, tube
from grey_current.build.solid.tones import Tone
from grey_current.design.space.solids import blocks
from grey_current.shop.collectors import Collector, PartName
from grey_current.shop.places import XY, XYZ
from grey_current.shop.roofs import ceiling_at, ceiling_marks, highest
from grey_current.shop.room import FLAT, Beam, Feature, Opening, Room, share_along, walls

Shape = Iterator[tuple[Tone, Mesh]]
# m: how thick a floor and a thing painted on it are drawn; how high a beam is over its
# underside. Allowances.
FLOOR, PAINTED, BEAM = 0.1, 0.004, 0.16
# Somebody whose height is not said, m.
USUAL_HEIGHT = 1.75


# -- collectors


@lru_cache(maxsize=256)
def collector_shape(item: Collector) -> tuple[tuple[Tone, Mesh], ...]:
    """A collector about its own foot: cone, drum and filter; fan with two bags; or a barrel.

    What stands by itself of it has its own shape.
    """
    if item.apart("separator") is not None:
        item = item.model_copy(update={"separator": None})
    if item.apart("filter") is not None:
        item = item.model_copy(update={"filter": item.filter.replaced(kind="none", apart=None)})
    if item.separator is not None and item.separator.kind in ("cyclone", "small cyclone"):
        return tuple(_cyclone(item))
    if item.height < BARREL:
        return tuple(_barrel(item))
    return tuple(_with_bags(item))


@lru_cache(maxsize=64)
def apart_shape(body: Collector, part: PartName, *, is_cone: bool) -> tuple[tuple[Tone, Mesh], ...]:
    """A separator or filter that stands by itself, about its own foot: a drum with a cone or a lid
    on it, or a cloth over a bag.
    """
    radius, top = min(body.width, body.depth) / 2, body.height
    if part == "filter":
        low = top * 0.35
        return (
            ("bin", cylinder(0, 0, 0.0, low, radius * 0.9)),
            ("filter", cylinder(0, 0, low, top, radius)),
        )
    shapes: list[tuple[Tone, Mesh]]
    if is_cone:
        drum, cone = top * 0.4, top * 0.78
        shapes = [
            ("bin", cylinder(0, 0, 0.0, drum, radius)),
            ("collector", cylinder(0, 0, drum, cone, radius * 0.3, radius * 0.75)),
            ("collector", cylinder(0, 0, cone, top, radius * 0.75)),
        ]
    else:
        drum = top * 0.9
        shapes = [
            ("bin", cylinder(0, 0, 0.0, drum, radius * 0.95)),
            ("collector", cylinder(0, 0, drum, top, radius)),
        ]
    return (*shapes, *_inlet(body, (0.0, 0.0)))


# m; what is no higher stands on the floor as one barrel.
BARREL = 1.0


def _cyclone(item: Collector) -> Shape:
    wide, deep, top = item.width, item.depth, item.height
    radius = min(wide / 2, deep * 0.29)
    y = -deep / 2 + radius
    bin_top = min(item.bin.height if item.bin else 0.6, top * 0.5) + item.stand
    cone, barrel, fan = (bin_top + (top - bin_top) * share for share in (0.42, 0.8, 0.9))
    yield "bin", cylinder(0, y, item.stand, bin_top, radius * 0.92)
    if item.stand > 0:
        yield "steel", cylinder(0, y, 0.0, item.stand, radius * 0.5)
    yield "collector", cylinder(0, y, bin_top, cone, radius * 0.35, radius)
    yield "collector", cylinder(0, y, cone, barrel, radius)
    yield "collector", cylinder(0, y, barrel, fan, radius * 0.8)
    yield "steel", cylinder(0, y, fan, top, radius * 0.42)
    if item.filter.kind != "none" and deep - 2 * radius > 0.05:
        size = min((deep - 2 * radius) / 2, wide / 2)
        back = deep / 2 - size
        yield "filter", cylinder(0, back, top * 0.3, fan, size)
        yield "bin", cylinder(0, back, top * 0.16, top * 0.3, size * 0.9)
        yield "collector", cuboid((-size * 0.6, y, barrel), (size * 0.6, back, fan))
    yield from _inlet(item, (0.0, y))


def _with_bags(item: Collector) -> Shape:
    """A fan on a base beside a ring with a bag below and a bag or cartridge above."""
    wide, deep, top = item.width, item.depth, item.height
    radius = min(wide / 2, deep * 0.3)
    y = deep / 2 - radius
    ring = min((item.bin.height if item.bin else 0.6) + 0.05, top * 0.55)
    yield "steel", cuboid((-wide / 2, -deep / 2, 0.0), (wide / 2, deep / 2, 0.05))
    yield "bin", cylinder(0, y, 0.06, ring, radius * 0.9)
    yield "collector", cylinder(0, y, ring, ring + 0.14, radius)
    if item.filter.kind != "none":
        yield "filter", cylinder(0, y, ring + 0.14, top, radius * 0.94)
    high = item.inlet_height
    fan = min(deep / 2 - radius, wide / 2) * 0.9
    if fan > 0.03:
        at = -deep / 2 + fan
        yield "collector", cylinder(0, at, max(high - 0.12, 0.05), high + 0.12, fan)
        yield "steel", cylinder(0, at, high + 0.12, high + 0.4, fan * 0.55)
        yield "collector", tube([(0, at, high), (0, y, ring + 0.07)], min(0.07, radius / 2))
        yield from _inlet(item, (0.0, at))
    else:
        yield from _inlet(item, (0.0, y))


def _barrel(item: Collector) -> Shape:
    radius = min(item.width, item.depth) / 2
    head = item.height * 0.68
    yield "bin", cylinder(0, 0, 0.04, head, radius * 0.92)
    yield "collector", cylinder(0, 0, head, item.height, radius, radius * 0.7)
    for turn in range(4):
        x, y = (radius * 0.75 * f(turn * math.pi / 2 + 0.78) for f in (math.cos, math.sin))
        yield "steel", cylinder(x, y, 0.0, 0.05, 0.03)
    yield from _inlet(item, (0.0, 0.0))


def _inlet(item: Collector, axis: XY) -> Shape:
    """The spigot, from where duct goes on to the body's axis or along its wall."""
    at = (item.inlet_dx, item.inlet_dy, item.inlet_height)
    if math.hypot(at[0], at[1]) < 1e-3:
        yield "collector", tube([at, (at[0], at[1], at[2] - 0.15)], item.inlet / 2)
        return
    across = abs(at[0]) / item.width >= abs(at[1]) / item.depth
    inside = (axis[0], at[1], at[2]) if across else (at[0], axis[1], at[2])
    if math.dist(at, inside) > 1e-3:
        yield "collector", tube([at, inside], item.inlet / 2)


# -- the building


def floor_shape(room: Room) -> Shape:
    """The floor's slab: its top lies at nought."""
    yield "floor", prism(shapely.Polygon(room.outline), -FLOOR, 0.0)


def wall_shapes(room: Room, openings: Iterable[Opening]) -> list[Mesh]:
    """The walls as faces that are seen from inside only, each with holes where openings are: so the
    walls between the eye and the room are not there.
    """
    outline = room.outline
    ring = list(shapely.orient_polygons(shapely.Polygon(outline)).exterior.coords)[:-1]
    inside = tuple((float(x), float(y)) for x, y in ring)
    return [_wall(room, a, b, list(openings)) for a, b in walls(inside)]


def _wall(room: Room, a: XY, b: XY, openings: list[Opening]) -> Mesh:
    far = math.dist(a, b)
    holes = []
    for item in openings:
        if all(_off(place, a, b) < NEAR for place in (item.start, item.end)):
            s, t = sorted(share_along(place, a, b) * far for place in (item.start, item.end))
            holes.append((s, t, item.sill, item.head))
    marks = sorted({*(m for s, t, _, _ in holes for m in (s, t)), *ceiling_marks(room, a, b)})
    parts = []
    for s, t in itertools.pairwise(m for m in marks if 0 <= m <= far):
        if t - s < 1e-6:
            continue
        tops = [ceiling_at(room, _at(a, b, m / far)) for m in (s, t)]
        base = 0.0
        here = sorted(
            (h for h in holes if h[0] <= s + 1e-9 and h[1] >= t - 1e-9), key=lambda h: h[2]
        )
        for _, _, sill, head in here:
            if sill > base + 1e-6:
                parts.append(_panel(a, b, (s / far, t / far), (base, base), (sill, sill)))
            base = max(base, head)
        if min(tops) > base + 1e-6:
            parts.append(_panel(a, b, (s / far, t / far), (base, base), (tops[0], tops[1])))
    return together(parts)


# m from a wall within which an opening is in it.
NEAR = 0.05


def _panel(
    a: XY, b: XY, shares: tuple[float, float], low: tuple[float, float], high: tuple[float, float]
) -> Mesh:
    """A piece of a wall, seen from the left of the way from `a` to `b`."""
    p, q = _at(a, b, shares[0]), _at(a, b, shares[1])
    points = [(*p, low[0]), (*q, low[1]), (*q, high[1]), (*p, high[0])]
    # Inside lies on the left: corners go round the other way seen from outside.
    return Mesh(np.array(points), np.array([(0, 2, 1), (0, 3, 2)], dtype=np.int32))


def _at(a: XY, b: XY, share: float) -> XY:
    return a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share


def _off(place: XY, a: XY, b: XY) -> float:
    return math.dist(place, _at(a, b, share_along(place, a, b)))


def opening_shapes(room: Room, item: Opening) -> Shape:
    """What closes an opening of a room, a leaf or a pane: seen from inside only, like its wall."""
    if item.kind == "doorway":
        return
    ring = list(shapely.orient_polygons(shapely.Polygon(room.outline)).exterior.coords)[:-1]
    for a, b in walls(tuple((float(x), float(y)) for x, y in ring)):
        if all(_off(place, a, b) < NEAR for place in (item.start, item.end)):
            shares = sorted(share_along(place, a, b) for place in (item.start, item.end))
            low, high = (item.sill, item.sill), (item.head, item.head)
            leaf = _panel(a, b, (shares[0], shares[1]), low, high)
            yield "window" if item.kind == "window" else "door", leaf


def beam_shape(item: Beam, room: Room | None) -> Shape:
    """A beam over its underside, up to the ceiling where that is lower than it is usually high."""
    (ax, ay), (bx, by) = item.start, item.end
    most = highest(room) - item.underside if room is not None else BEAM
    high = min(BEAM, most) if most > 0.02 else BEAM
    body = cuboid(
        (0.0, -item.width / 2, item.underside),
        (math.dist(item.start, item.end), item.width / 2, item.underside + high),
    )
    yield "beam", body.placed(ax, ay, math.degrees(math.atan2(by - ay, bx - ax)))


def feature_shape(item: Feature, ceiling: float) -> Shape:
    """What stands or hangs in the room; what takes no room is painted on the floor."""
    if item.kind in FLAT and item.kind not in ("lamp", "no-duct area"):
        yield "fixture", prism(shapely.Polygon(item.outline), 0.0, PAINTED)
        return
    for block in blocks(item):
        top = min(block.top, ceiling)
        if top > block.bottom:
            yield "fixture", prism(block.shape, block.bottom, top)


# -- somebody


def person_shape(tall: float | None) -> Shape:
    """Somebody who stands there, for scale."""
    high = USUAL_HEIGHT if tall is None else tall
    hips, shoulders = 0.48 * high, 0.82 * high
    for side in (-1, 1):
        yield "person", tube([(side * 0.09, 0, 0), (side * 0.09, 0, hips)], [0.05, 0.075])
        arm: list[XYZ] = [(side * 0.24, 0, 0.42 * high), (side * 0.2, 0, shoulders)]
        yield "person", tube(arm, [0.035, 0.05])
    yield "person", tube([(0, 0, hips - 0.02), (0, 0, shoulders)], [0.16, 0.2])
    yield "person", tube([(0, 0, shoulders), (0, 0, 0.88 * high)], [0.2, 0.06])
    yield "person", ball((0, 0, 0.935 * high), 0.065 * high)

"""The ductwork in space: every part of the assembly as a closed mesh between its ends."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from functools import lru_cache

import numpy as np

from grey_current.build.solid.mesh import SIDES, Mesh, cuboid, tube
from grey_current.build.solid.tones import Tone
from grey_current.design.parts.assembly import PartEnd, PlacedPart
from grey_current.shop.places import XYZ
from grey_current.shop.vectors import along, opposite, way_between

# m that sleeves stand out over the pipe; a gate's plate over the bore, and how thick it is.
SLEEVE, PLATE, THICK = 0.004, 0.035, 0.03
# m on either side of a joint that a coupling is drawn which lies in the pipes it joins.
BAND = 0.02
# Places along a bend and along a hose.
BEND_STEPS, HOSE_STEPS = 8, 20
# m; what is shorter has no direction of its own.
NOTHING = 1e-6
# The sag of a hose (m) for the slack (m) that it has over its span: a shallow parabola is longer
# than its chord by 8 s² / 3 l.
PARABOLA = 3 / 8
Shape = Iterator[tuple[Tone, Mesh]]


@lru_cache(maxsize=4096)
def part_shape(part: PlacedPart, open_gate: bool = False) -> tuple[tuple[Tone, Mesh], ...]:
    """The solids of a part, each with what it is painted as; their ends lie at the part's ends.

    What lies in its neighbours (a coupling) is a band about the joint. Raises nothing.
    """
    return tuple(_part(part, open_gate))


def _part(part: PlacedPart, open_gate: bool) -> Shape:
    ends = part.ends
    if len(ends) == 1:
        # A cap: it closes what its end is on.
        yield (
            "duct",
            tube([ends[0].at, along(ends[0].at, ends[0].out, -BAND)], ends[0].bore / 2 + SLEEVE),
        )
        return
    a, b = ends[0], ends[1]
    if part.kind == "hose":
        yield "hose", hose(part)
    elif part.kind == "gate":
        yield from _gate(a, b, open_gate)
    elif len(ends) == 3:
        yield from _wye(ends)
    elif part.kind in ("coupling", "connector"):
        yield from _straight(a, b, SLEEVE)
    elif part.kind == "pipe":
        yield from _straight(a, b, 0.0)
    else:
        yield from _fitting(a, b)


def _straight(a: PartEnd, b: PartEnd, over: float) -> Shape:
    """A piece between two ends; where both lie in one place, the band of it that one sees."""
    low, high = a.at, b.at
    if math.dist(low, high) <= NOTHING:
        low, high, over = along(low, a.out, BAND), along(high, a.out, -BAND), SLEEVE
    yield "duct", tube([low, high], [a.bore / 2 + over, b.bore / 2 + over])


def _fitting(a: PartEnd, b: PartEnd) -> Shape:
    """A bend, or what leads from one bore to another."""
    if math.dist(a.at, b.at) <= NOTHING:
        yield from _straight(a, b, SLEEVE)
        return
    path = bend(a.at, opposite(a.out), b.at, b.out)
    share = np.linspace(0.0, 1.0, len(path))
    radii = a.bore / 2 + (b.bore - a.bore) / 2 * share + SLEEVE / 2
    yield "duct", tube(path, list(radii), ways=(opposite(a.out), b.out))


def bend(a: XYZ, way: XYZ, b: XYZ, then: XYZ) -> list[XYZ]:
    """The places of a bend that leaves `a` along one unit vector and comes to `b` along another: an
    arc where both legs are alike, else the parabola between them.
    """
    if sum(x * y for x, y in zip(way, then, strict=True)) > 1 - 1e-9:
        return [a, b]
    corner = _corner(a, way, b, then)
    if corner is None:
        return [a, b]
    p, q, r = (np.array(place) for place in (a, corner, b))
    first, second = float(np.linalg.norm(q - p)), float(np.linalg.norm(r - q))
    half = math.acos(max(-1.0, min(1.0, float((q - p) @ (r - q)) / max(first * second, 1e-12)))) / 2
    # A rational curve of the second degree is the arc itself when its middle weighs cos of half the
    # turn (Piegl and Tiller, The NURBS Book, 1997, eq. 7.33).
    weight = math.cos(half) if abs(first - second) < 0.02 * max(first, second) else 0.7
    found = []
    for t in np.linspace(0.0, 1.0, BEND_STEPS + 1):
        u, v, w = (1 - t) ** 2, 2 * t * (1 - t) * weight, t**2
        place = (u * p + v * q + w * r) / (u + v + w)
        found.append((float(place[0]), float(place[1]), float(place[2])))
    return found


def _corner(a: XYZ, way: XYZ, b: XYZ, then: XYZ) -> XYZ | None:
    """Where the two legs of a bend meet, or nearly; None where one would have to go back."""
    p, d, q, e = (np.array(x) for x in (a, way, b, opposite(then)))
    matrix = np.array([[d @ d, -(d @ e)], [d @ e, -(e @ e)]])
    if abs(np.linalg.det(matrix)) < 1e-9:
        return None
    s, t = np.linalg.solve(matrix, np.array([(q - p) @ d, (q - p) @ e]))
    if s <= 0 or t <= 0:
        return None
    place = (p + s * d + q + t * e) / 2
    return float(place[0]), float(place[1]), float(place[2])


def _wye(ends: Sequence[PartEnd]) -> Shape:
    """A straight body with a branch into it: the two ends that lie most in line are the body."""
    pairs = [(0, 1, 2), (0, 2, 1), (1, 2, 0)]
    i, j, k = min(
        pairs, key=lambda p: sum(x * y for x, y in zip(ends[p[0]].out, ends[p[1]].out, strict=True))
    )
    a, b, branch = ends[i], ends[j], ends[k]
    if math.dist(a.at, b.at) > NOTHING:
        yield ("duct", tube([a.at, b.at], [a.bore / 2 + SLEEVE / 2, b.bore / 2 + SLEEVE / 2]))
    inside = _corner(branch.at, opposite(branch.out), b.at, way_between(a.at, b.at)) or tuple(
        (x + y) / 2 for x, y in zip(a.at, b.at, strict=True)
    )
    if math.dist(branch.at, inside) > NOTHING:
        yield (
            "duct",
            tube([branch.at, (inside[0], inside[1], inside[2])], branch.bore / 2 + SLEEVE / 2),
        )


def _gate(a: PartEnd, b: PartEnd, is_open: bool) -> Shape:
    """A short piece with its slide, pulled out where it is open."""
    bore = max(a.bore, b.bore)
    way = way_between(a.at, b.at) if math.dist(a.at, b.at) > NOTHING else a.out
    middle = along(a.at, way, math.dist(a.at, b.at) / 2)
    yield from (("gate", mesh) for _, mesh in _straight(a, b, SLEEVE))
    half = bore / 2 + PLATE
    local = cuboid((-THICK / 2, -half, -half), (THICK / 2, half, half))
    up = _upright(way)
    out = half * (1.7 if is_open else 0.9)
    slide = cuboid((-0.004, -half * 0.8, out - half), (0.004, half * 0.8, out + 0.05))
    yield "gate", _aligned(local, middle, way, up)
    yield "lever", _aligned(slide, middle, way, up)


def _upright(way: XYZ) -> XYZ:
    """The way that a gate's slide is pulled: up, or level where the duct stands."""
    flat = math.hypot(way[0], way[1])
    if flat < 0.5:
        return (1.0, 0.0, 0.0)
    # Square to the duct, as steep as that allows.
    return (-way[2] * way[0] / flat, -way[2] * way[1] / flat, flat)


def _aligned(mesh: Mesh, at: XYZ, way: XYZ, up: XYZ) -> Mesh:
    """A mesh about the origin with its x along a way and its z up another, moved to a place."""
    x, z = np.array(way), np.array(up)
    z = z - (z @ x) * x
    z /= max(float(np.linalg.norm(z)), 1e-12)
    return Mesh(mesh.points @ np.stack([x, np.cross(z, x), z]) + np.array(at), mesh.faces)


def hose(part: PlacedPart) -> Mesh:
    """A hose from one end to the other: it leaves each along its axis and sags by its slack."""
    a, b = part.ends[0], part.ends[1]
    path = hose_path(a, b, part.length or 0.0)
    return tube(path, hose_radii(a.bore), sides=SIDES - 4, ways=(opposite(a.out), b.out))


def hose_radii(bore: float) -> list[float]:
    """The radii along a hose: rib and groove in turn, the bore's own at both ends."""
    ribs = [bore / 2 + (0.006 if n % 2 else -0.001) for n in range(HOSE_STEPS + 1)]
    return [bore / 2, *ribs[1:-1], bore / 2]


def hose_path(a: PartEnd, b: PartEnd, length: float) -> list[XYZ]:
    """The places of a hose: a cubic (Hermite) between its ends' axes, hanging through by the slack
    that it has over the straight way.
    """
    p, q = np.array(a.at), np.array(b.at)
    span = float(np.linalg.norm(q - p))
    out, home = np.array(a.out), np.array(b.out)
    # An end points out of the hose; the hose goes the other way, a third of its span.
    leave, come = -out * span, home * span
    slack = max(length - span, 0.0)
    sag = min(math.sqrt(max(PARABOLA * slack * span, 0.0)), 0.6 * span)
    lowest = min(a.at[2], b.at[2])
    sag = min(sag, max(lowest - a.bore / 2, 0.0))
    found = []
    for t in np.linspace(0.0, 1.0, HOSE_STEPS + 1):
        h = (2 * t**3 - 3 * t**2 + 1) * p + (t**3 - 2 * t**2 + t) * leave
        h = h + (-2 * t**3 + 3 * t**2) * q + (t**3 - t**2) * come
        # The sag leaves the ends' own directions alone.
        drop = sag * 16 * (t * (1 - t)) ** 2
        found.append((float(h[0]), float(h[1]), max(float(h[2]) - drop, a.bore / 2)))
    found[0], found[-1] = a.at, b.at
    return found

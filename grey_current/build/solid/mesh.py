"""Meshes: bodies in space as triangles whose corners go anticlockwise seen from outside, m."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from grey_current.shop.places import XY, XYZ

Points = NDArray[np.float64]
Faces = NDArray[np.int32]
# Sides of a round body: enough for a pipe to look round, few enough to draw fast.
SIDES = 16


@dataclass(frozen=True, eq=False)
class Mesh:
    """Triangles: `points` (n, 3) in m, and `faces` (m, 3), the numbers of their corners."""

    points: Points
    faces: Faces

    @property
    def closed(self) -> bool:
        """Whether it has an inside: each edge is walked once in either direction."""
        edges = Counter(
            (int(face[i]), int(face[(i + 1) % 3])) for face in self.faces for i in range(3)
        )
        return all(count == 1 and edges[b, a] == 1 for (a, b), count in edges.items())

    @property
    def volume(self) -> float:
        """What it encloses, m³, by the divergence theorem; right for closed meshes only."""
        a, b, c = (self.points[self.faces[:, i]] for i in range(3))
        return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)

    def placed(self, x: float, y: float, turn: float, bottom: float = 0.0) -> Mesh:
        """The same turned by degrees about its upright axis, then moved (m)."""
        c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
        spin = np.array([[c, -s, 0.0], [s, c, 0.0], [0.0, 0.0, 1.0]])
        return Mesh(self.points @ spin.T + np.array([x, y, bottom]), self.faces)


def together(meshes: Iterable[Mesh]) -> Mesh:
    """Several meshes as one."""
    found = list(meshes)
    if not found:
        return Mesh(np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int32))
    starts = np.cumsum([0, *(len(mesh.points) for mesh in found[:-1])])
    return Mesh(
        np.concatenate([mesh.points for mesh in found]),
        np.concatenate(
            [mesh.faces + np.int32(start) for mesh, start in zip(found, starts, strict=True)]
        ).astype(np.int32),
    )


# A cuboid's corners are counted x first, then y, then z; two triangles a side.
_CUBOID = np.array(
    [
        *((0, 2, 3), (0, 3, 1), (4, 5, 7), (4, 7, 6)),
        *((0, 1, 5), (0, 5, 4), (2, 6, 7), (2, 7, 3)),
        *((0, 4, 6), (0, 6, 2), (1, 3, 7), (1, 7, 5)),
    ],
    dtype=np.int32,
)


def cuboid(low: XYZ, high: XYZ) -> Mesh:
    """A body with six sides along the axes, from one corner to the opposite one."""
    corners = [
        (x, y, z) for z in (low[2], high[2]) for y in (low[1], high[1]) for x in (low[0], high[0])
    ]
    return Mesh(np.array(corners, dtype=float), _CUBOID)


def prism(shape: Any, bottom: float, top: float) -> Mesh:
    """A ground plan (a shapely polygon, perhaps with holes or in parts) from one height to
    another.
    """
    return together(_prism(part, bottom, top) for part in _polygons(shape) if part.area > 1e-9)


def _polygons(shape: Any) -> list[Any]:
    return [part for part in shapely.get_parts(shape) if part.geom_type == "Polygon"]


def _prism(shape: Any, bottom: float, top: float) -> Mesh:
    shape = shapely.orient_polygons(shape)
    corners: dict[XY, int] = {}
    rings = [list(ring.coords)[:-1] for ring in (shape.exterior, *shape.interiors)]
    for place in (place for ring in rings for place in ring):
        corners.setdefault(place, len(corners))
    count = len(corners)
    flat = [
        [corners[place] for place in list(shapely.orient_polygons(part).exterior.coords)[:-1]]
        for part in shapely.get_parts(shapely.constrained_delaunay_triangles(shape))
    ]
    faces = [(a + count, b + count, c + count) for a, b, c in flat]
    faces += [(c, b, a) for a, b, c in flat]
    for ring in rings:
        around = [corners[place] for place in ring]
        for a, b in zip(around, (*around[1:], around[0]), strict=True):
            faces += [(a, b, b + count), (a, b + count, a + count)]
    plan = np.array(list(corners))
    points = np.concatenate(
        [np.column_stack([plan, np.full(count, height)]) for height in (bottom, top)]
    )
    return Mesh(points, np.array(faces, dtype=np.int32))


def tube(
    path: Sequence[XYZ],
    radii: Sequence[float] | float,
    sides: int = SIDES,
    ways: tuple[XYZ, XYZ] | None = None,
) -> Mesh:
    """A round body along a path, with a radius (m) for each of its places, closed at both ends;
    `ways` are the unit vectors along which it begins and ends, where the path's own steps do not
    say so.

    Its rings stand square to the path; they are carried along it without a twist (double
    reflection: Wang, Jüttler, Zheng and Liu, Computation of Rotation Minimizing Frames, 2008,
    table I).
    """
    line = np.array(path, dtype=float)
    sizes = np.full(len(line), radii) if isinstance(radii, int | float) else np.array(radii)
    along = _tangents(line)
    if ways is not None:
        along[0], along[-1] = ways
    side = _square_to(along[0])
    turn = np.arange(sides) * (2 * math.pi / sides)
    rings = []
    for number, (place, way, size) in enumerate(zip(line, along, sizes, strict=True)):
        if number:
            side = _carried(side, line[number - 1], place, along[number - 1], way)
        other = np.cross(way, side)
        rings.append(place + size * (np.outer(np.cos(turn), side) + np.outer(np.sin(turn), other)))
    return Mesh(np.concatenate(rings), _tube_faces(len(line), sides))


def _tube_faces(rings: int, sides: int) -> Faces:
    faces = [(0, i + 1, i) for i in range(1, sides - 1)]
    for ring in range(rings - 1):
        low, high = ring * sides, (ring + 1) * sides
        for i in range(sides):
            j = (i + 1) % sides
            faces += [(low + i, low + j, high + j), (low + i, high + j, high + i)]
    last = (rings - 1) * sides
    faces += [(last, last + i, last + i + 1) for i in range(1, sides - 1)]
    return np.array(faces, dtype=np.int32)


def _tangents(line: Points) -> Points:
    steps = np.diff(line, axis=0)
    steps /= np.maximum(np.linalg.norm(steps, axis=1), 1e-12)[:, None]
    middle = steps[:-1] + steps[1:]
    ways = np.concatenate([steps[:1], middle, steps[-1:]])
    return np.asarray(ways / np.maximum(np.linalg.norm(ways, axis=1), 1e-12)[:, None])


def _square_to(way: Points) -> Points:
    """A unit vector square to another: level where that can be."""
    flat = np.cross(way, np.array([0.0, 0.0, 1.0]))
    if np.linalg.norm(flat) < 1e-6:
        return np.array([1.0, 0.0, 0.0])
    return np.asarray(flat / np.linalg.norm(flat))


def _carried(side: Points, a: Points, b: Points, way: Points, then: Points) -> Points:
    step = b - a
    far = float(step @ step)
    if far < 1e-18:
        return side
    turned = side - (2 / far) * float(step @ side) * step
    ahead = way - (2 / far) * float(step @ way) * step
    bend = then - ahead
    size = float(bend @ bend)
    found = turned if size < 1e-18 else turned - (2 / size) * float(bend @ turned) * bend
    # Rounding must not let it lean over a long hose.
    found = found - float(found @ then) * then
    return np.asarray(found / max(float(np.linalg.norm(found)), 1e-12))


def cylinder(
    x: float, y: float, bottom: float, top: float, radius: float, upper: float = -1.0
) -> Mesh:
    """An upright round body; with an `upper` radius (m) a cone."""
    return tube(
        [(x, y, bottom), (x, y, top)], [radius, radius if upper < 0 else upper], sides=SIDES
    )


def ball(at: XYZ, radius: float, rings: int = 6) -> Mesh:
    """A round head: rings of a sphere, its poles cut off by a hair."""
    turns = np.linspace(-0.49, 0.49, rings + 1) * math.pi
    path = [(at[0], at[1], at[2] + radius * math.sin(turn)) for turn in turns]
    return tube(path, [radius * math.cos(turn) for turn in turns], sides=12)

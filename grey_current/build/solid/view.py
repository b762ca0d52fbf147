"""A picture of solids: what an eye sees of them, whose each pixel is, and how far away."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grey_current.build.solid import raster
from grey_current.build.solid.camera import NEAR, Camera
from grey_current.build.solid.mesh import cuboid
from grey_current.build.solid.shop_solids import Solid
from grey_current.build.solid.tones import Tone, rgb

Array = NDArray[np.float64]
Colour = tuple[float, float, float]
# Where the light comes from, right and up and before the eye, and how much there is everywhere.
LIGHT, EVERYWHERE = np.array([-0.35, 0.55, 0.76]), 0.78


@dataclass(frozen=True)
class Look:
    """How a picture is painted.

    Attributes:
        colour_of: The colour (0 to 255) of each solid.
        paper, ink: Behind everything; outlines.
        lit: Elements and parts whose outlines are drawn in a colour of their own; of several that
            meet the last counts.
        times: How many times finer it is drawn than it is shown.
        cut: Height (m) over which nothing is drawn; infinite for all.
        veiled: Solids that are seen through.
    """

    colour_of: Callable[[Solid], Colour]
    paper: Colour
    ink: Colour
    lit: tuple[tuple[frozenset[str], Colour], ...] = ()
    times: int = 2
    cut: float = np.inf
    veiled: Callable[[Solid], bool] = lambda solid: False

    def coarse(self) -> Look:
        """The same with one pixel drawn for each that is shown, while something moves."""
        return replace(self, times=1)


class Seen:
    """A picture (h, w) as 0xffRRGGBB, with what is in it."""

    def __init__(
        self,
        picture: NDArray[np.uint32],
        depth: NDArray[np.float32],
        hit: NDArray[np.int32],
        owners: NDArray[np.int32],
        solids: Sequence[Solid],
        times: int,
    ) -> None:
        self.picture, self._depth, self._hit, self._owners = picture, depth, hit, owners
        self._solids, self._times = solids, times

    def solid_at(self, x: float, y: float) -> Solid | None:
        """The solid that is seen at a pixel of the picture; None for none."""
        found = int(self._at(self._hit, x, y, raster.NOTHING))
        return self._solids[self._owners[found]] if found >= 0 else None

    def far_at(self, x: float, y: float) -> float:
        """How far before the eye (m, along its axis) what is seen at a pixel is; infinite for
        nothing.
        """
        near = self._at(self._depth, x, y, 0.0)
        return 1 / near if near > 0 else math.inf

    def _at(self, what: NDArray[Any], x: float, y: float, otherwise: float) -> float:
        row, column = int(y * self._times), int(x * self._times)
        if 0 <= row < what.shape[0] and 0 <= column < what.shape[1]:
            return float(what[row, column])
        return otherwise

    def pixels_of(self, names: frozenset[str]) -> int:
        """How many drawn pixels some elements or parts have."""
        mine = np.array([bool({s.element, s.part} & names) for s in self._solids] or [False])
        found = self._hit[self._hit >= 0]
        return int(mine[self._owners[found]].sum())

    @cached_property
    def shares(self) -> dict[str, int]:
        """How many pixels of the picture each element has."""
        whose = np.append(self._owners, np.int32(raster.NOTHING))[self._hit]
        numbers, counts = np.unique(whose, return_counts=True)
        found: dict[str, int] = {}
        for number, count in zip(numbers, counts, strict=True):
            if number >= 0:
                element = self._solids[number].element
                found[element] = found.get(element, 0) + int(count) // self._times**2
        return found


class Packed:
    """Solids laid end to end for drawing: made once for every look at them from elsewhere."""

    def __init__(self, solids: Sequence[Solid]) -> None:
        self.solids = tuple(solids)
        empty = np.zeros((0, 3))
        self.points = np.concatenate([s.mesh.points for s in self.solids] or [empty])
        starts = np.cumsum([0, *(len(s.mesh.points) for s in self.solids)])[:-1]
        faces = [s.mesh.faces + start for s, start in zip(self.solids, starts, strict=True)]
        self.faces = np.concatenate(faces or [np.zeros((0, 3), dtype=np.int64)]).astype(np.int64)
        counts = [len(s.mesh.faces) for s in self.solids]
        self.owners = np.repeat(np.arange(len(counts), dtype=np.int32), counts)
        one = np.array([s.one_sided for s in self.solids], dtype=np.bool_)
        self.one_sided = one[self.owners] if counts else np.zeros(0, dtype=np.bool_)
        a, b, c = (self.points[self.faces[:, k]] for k in range(3))
        normals = np.cross(b - a, c - a)
        self.normals = normals / np.maximum(np.linalg.norm(normals, axis=1), 1e-12)[:, None]
        self.tops = np.maximum(np.maximum(a[:, 2], b[:, 2]), c[:, 2])


def seen(packed: Packed, camera: Camera, width: int, height: int, look: Look) -> Seen:
    """What an eye sees of solids, as a picture of so many pixels. Raises nothing; nothing at all is
    a sheet of paper.
    """
    wide, high = width * look.times, height * look.times
    depth = np.zeros((high, wide), dtype=np.float32)
    hit = np.full((high, wide), raster.NOTHING, dtype=np.int32)
    veil = np.zeros((0, 0), dtype=np.int32)
    corners, numbers = _projected(packed, camera, wide, high, look.cut)
    owners = packed.owners[numbers]
    colours = _shaded(packed, camera, numbers, look)
    through = np.array([look.veiled(s) for s in packed.solids] or [False], dtype=np.bool_)
    clear = through[owners] if len(owners) else np.zeros(0, dtype=np.bool_)
    raster.fill(corners[~clear], packed.one_sided[numbers][~clear], depth, hit, True)
    if clear.any():
        veil = np.full((high, wide), raster.NOTHING, dtype=np.int32)
        raster.fill(corners[clear], packed.one_sided[numbers][clear], depth, veil, False)
    lit = np.array([_how_lit(s, look) for s in packed.solids] or [0], dtype=np.int64)
    out = np.empty((height, width), dtype=np.uint32)
    raster.finish(
        hit,
        depth,
        colours[~clear],
        owners[~clear],
        veil,
        colours[clear],
        VEIL,
        lit,
        np.array(look.paper, dtype=float),
        np.array(look.ink, dtype=float),
        np.array([colour for _, colour in look.lit] or [look.ink], dtype=float),
        look.times,
        out,
    )
    return Seen(out, depth, hit, owners[~clear], packed.solids, look.times)


def _how_lit(solid: Solid, look: Look) -> int:
    """Which of the lit ones a solid is, from 1; 0 for none."""
    names = {solid.element, solid.part} - {""}
    return max((n for n, (lit, _) in enumerate(look.lit, 1) if names & lit), default=0)


# The share of what is seen through that is laid over what is behind it.
VEIL = 0.28


def _projected(
    packed: Packed, camera: Camera, width: int, height: int, cut: float
) -> tuple[Array, NDArray[np.int64]]:
    """The triangles before the eye as pixels and one over their depth, and which ones they are.

    What reaches behind the eye is left out if all of it does, else cut off at the nearest depth.
    """
    places = camera.seen(packed.points, width, height)
    before = (places[:, 2] > NEAR)[packed.faces]
    low = packed.tops <= cut if np.isfinite(cut) else np.ones(len(packed.faces), dtype=np.bool_)
    whole = np.flatnonzero(before.all(axis=1) & low)
    part = np.flatnonzero(before.any(axis=1) & ~before.all(axis=1) & low)
    corners = places[packed.faces[whole]]
    corners[:, :, 2] = 1 / corners[:, :, 2]
    pieces, numbers = [], []
    for number in part:
        for piece in _clipped(packed.points[packed.faces[number]], camera):
            seen_piece = camera.seen(piece, width, height)
            seen_piece[:, 2] = 1 / np.maximum(seen_piece[:, 2], NEAR)
            pieces.append(seen_piece)
            numbers.append(number)
    if pieces:
        corners = np.concatenate([corners, np.array(pieces)])
        whole = np.concatenate([whole, np.array(numbers)])
    return corners, whole


def _clipped(corners: Array, camera: Camera) -> list[Array]:
    """A triangle cut off where it comes nearer to the eye than the nearest depth: one or two
    triangles (Sutherland and Hodgman, Reentrant Polygon Clipping, 1974).
    """
    away = camera.axes()[2]
    depth = (np.array(camera.eye) - corners) @ away
    kept = []
    for i in range(3):
        j = (i + 1) % 3
        if depth[i] > NEAR:
            kept.append(corners[i])
        if (depth[i] > NEAR) != (depth[j] > NEAR):
            share = (depth[i] - NEAR) / (depth[i] - depth[j])
            kept.append(corners[i] + (corners[j] - corners[i]) * share)
    return [np.array([kept[0], kept[k], kept[k + 1]]) for k in range(1, len(kept) - 1)]


def _shaded(
    packed: Packed, camera: Camera, numbers: NDArray[np.int64], look: Look
) -> NDArray[np.float32]:
    """The colour of each triangle in the light, which goes with the eye."""
    own = np.array([look.colour_of(solid) for solid in packed.solids] or [look.paper], dtype=float)
    towards = LIGHT @ camera.axes()
    towards /= np.linalg.norm(towards)
    facing = np.abs(packed.normals[numbers] @ towards)
    bright = EVERYWHERE + (1 - EVERYWHERE) * facing
    return np.asarray(own[packed.owners[numbers]] * bright[:, None], dtype=np.float32)


# What is painted before all else in a picture of areas, in this order.
BEHIND: dict[Tone, int] = {"floor": 0, "wall": 1, "door": 2, "window": 2}


def paper_look() -> Look:
    """How a picture is painted on light paper, in the solids' own colours."""
    return Look(lambda solid: rgb(solid.tone), (244.0, 243.0, 239.0), (34.0, 40.0, 44.0))


def seen_triangles(
    packed: Packed, camera: Camera, width: int, height: int, look: Look
) -> list[tuple[str, Array]]:
    """The triangles of which an eye sees a pixel, the farthest first: each with its colour
    (#rrggbb) and its corners (3, 2) in pixels.
    """
    depth = np.zeros((height * look.times, width * look.times), dtype=np.float32)
    hit = np.full(depth.shape, raster.NOTHING, dtype=np.int32)
    corners, numbers = _projected(packed, camera, *depth.shape[::-1], look.cut)
    raster.fill(corners, packed.one_sided[numbers], depth, hit, True)
    colours = _shaded(packed, camera, numbers, look)
    found = np.unique(hit)
    found = found[found >= 0]
    # The building's large faces lie behind all that stands in it, however near their middles are.
    tones = [packed.solids[owner].tone for owner in packed.owners[numbers[found]]]
    layer = np.array([BEHIND.get(tone, len(BEHIND)) for tone in tones], dtype=np.int64)
    # One over the depth: the smallest is the farthest.
    order = found[np.lexsort((corners[found, :, 2].mean(axis=1), layer))]
    return [
        (
            "#" + "".join(f"{min(int(value), 255):02x}" for value in colours[n]),
            corners[n, :, :2].astype(float) / look.times,
        )
        for n in order
    ]


def speck() -> Seen:
    """A picture of one small body, which makes numba load or make the machine code."""
    solid = Solid("", "steel", cuboid((0.0, 0.0, 0.0), (1.0, 1.0, 1.0)))
    look = Look(
        lambda _: (200.0, 200.0, 200.0),
        (255.0, 255.0, 255.0),
        (0.0, 0.0, 0.0),
        times=1,
        veiled=lambda _: True,
    )
    clear = replace(look, veiled=lambda _: False)
    seen(Packed([solid]), Camera((0.5, 0.5, 0.5)), 8, 8, look)
    return seen(Packed([solid]), Camera((0.5, 0.5, 0.5)), 8, 8, clear)


if __name__ == "__main__":
    speck()

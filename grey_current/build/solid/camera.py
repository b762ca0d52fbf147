"""The eye: where it is, what it looks at, and where places of the shop are in its picture."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from grey_current.shop.places import XYZ

Array = NDArray[np.float64]
# Half of the angle of sight, as its tangent: a long lens, so that what is upright looks so.
HALF_ANGLE = 0.32
# m before the eye from which on something is seen; the eye's least and most distance.
NEAR, CLOSEST, FARTHEST = 0.05, 0.4, 200.0
# Degrees over the level at which one looks at least and at most.
LOWEST, STEEPEST = -20.0, 89.9
# How much farther off the eye stands than it must, for air round what it looks at.
FRAME = 1.06


@dataclass(frozen=True)
class Camera:
    """An eye that goes round what it looks at.

    Attributes:
        target: What it looks at, m.
        turn: Degrees anticlockwise from the x axis at which the eye stands, seen from above.
        tilt: Degrees over the level at which it stands.
        far: Its distance, m.
    """

    target: XYZ
    turn: float = -60.0
    tilt: float = 32.0
    far: float = 10.0

    @property
    def eye(self) -> XYZ:
        """Where the eye is, m."""
        away = self._away()
        x, y, z = (float(t + self.far * a) for t, a in zip(self.target, away, strict=True))
        return x, y, z

    def _away(self) -> Array:
        turn, tilt = math.radians(self.turn), math.radians(self.tilt)
        level = math.cos(tilt)
        return np.array([level * math.cos(turn), level * math.sin(turn), math.sin(tilt)])

    def axes(self) -> Array:
        """Unit vectors as rows: to the right of the picture, up in it, and towards the eye."""
        away, turn = self._away(), math.radians(self.turn)
        right = np.array([-math.sin(turn), math.cos(turn), 0.0])
        return np.stack([right, np.cross(away, right), away])

    def seen(self, points: Array, width: float, height: float) -> Array:
        """Places (n, 3) as pixels across and down, and how far before the eye they are (m); what is
        nearer than `NEAR` or behind it has no pixel, its depth says so.
        """
        local = (points - np.array(self.eye)) @ self.axes().T
        depth = -local[:, 2]
        scale = self._scale(width, height) / np.maximum(depth, NEAR)
        return np.column_stack(
            [width / 2 + local[:, 0] * scale, height / 2 - local[:, 1] * scale, depth]
        )

    def _scale(self, width: float, height: float) -> float:
        """Pixels for a metre across at a depth of one metre."""
        return min(width, height) / 2 / HALF_ANGLE

    def ray(self, x: float, y: float, width: float, height: float) -> tuple[Array, Array]:
        """The line of sight through a pixel: the eye, and a vector away from it."""
        scale = self._scale(width, height)
        right, up, away = self.axes()
        way = right * ((x - width / 2) / scale) + up * ((height / 2 - y) / scale) - away
        return np.array(self.eye), way / np.linalg.norm(way)

    # -- moved

    def orbited(self, turn: float, tilt: float) -> Camera:
        """The eye farther round and higher, by degrees."""
        lifted = min(max(self.tilt + tilt, LOWEST), STEEPEST)
        return replace(self, turn=(self.turn + turn) % 360.0, tilt=lifted)

    def panned(self, dx: float, dy: float, width: float, height: float) -> Camera:
        """What is looked at moved by pixels across and down."""
        size = self.far / self._scale(width, height)
        right, up, _ = self.axes()
        moved = np.array(self.target) - right * dx * size + up * dy * size
        return replace(self, target=(float(moved[0]), float(moved[1]), float(moved[2])))

    def zoomed(self, factor: float) -> Camera:
        """Nearer by a factor over one, farther by one below."""
        return replace(self, far=min(max(self.far / factor, CLOSEST), FARTHEST))

    def fitted(self, points: Array, width: float, height: float, margin: float = 0.0) -> Camera:
        """The eye as near as all of some places are in sight, looking the same way; `margin` is
        what stays free above and below, in pixels.
        """
        if not len(points) or width <= 0 or height <= 0:
            return self
        right, up, away = self.axes()
        across, high, near = points @ right, points @ up, points @ away
        # The farther from the axis a place is, the farther off the eye must stand for it; the axis
        # lies where both sides ask for the same.
        half = HALF_ANGLE / min(width, height)
        spans = [(across, half * width), (high, half * max(height - 2 * margin, 0.2 * height))]
        middles, far = [], CLOSEST
        for offs, share in spans:
            low, top = float((-offs / share + near).max()), float((offs / share + near).max())
            middles.append((top - low) * share / 2)
            far = max(far, (top + low) / 2)
        depth = float(near.max() + near.min()) / 2
        place = right * middles[0] + up * middles[1] + away * depth
        target = (float(place[0]), float(place[1]), float(place[2]))
        return replace(self, target=target, far=min((far - depth) * FRAME, FARTHEST))


def corners_of(places: Iterable[tuple[float, float]], bottom: float, top: float) -> Array:
    """Places of a plan at two heights, for fitting an eye to them."""
    return np.array([(x, y, z) for x, y in places for z in (bottom, top)], dtype=float)

"""Places and ways in space: x, y and height, m."""

from __future__ import annotations

import math

from grey_current.shop.places import XYZ


def along(at: XYZ, way: XYZ, far: float) -> XYZ:
    """The place `far` (m) from another one, along a unit vector."""
    return at[0] + way[0] * far, at[1] + way[1] * far, at[2] + way[2] * far


def opposite(way: XYZ) -> XYZ:
    """The other way."""
    return -way[0], -way[1], -way[2]


def dot(a: XYZ, b: XYZ) -> float:
    """The scalar product."""
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def between(a: XYZ, b: XYZ) -> XYZ:
    """The vector from one place to another, m."""
    return b[0] - a[0], b[1] - a[1], b[2] - a[2]


def way_between(a: XYZ, b: XYZ) -> XYZ:
    """Unit vector from one place to another."""
    far = math.dist(a, b) or 1.0
    return (b[0] - a[0]) / far, (b[1] - a[1]) / far, (b[2] - a[2]) / far

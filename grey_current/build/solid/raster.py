"""The picture that an eye has of triangles, pixel by pixel, compiled by numba: the nearest one
wins (Catmull, A Subdivision Algorithm for Computer Display of Curved Surfaces, 1974: the z-buffer).

It needs no graphics card and no screen, so that the picture is the same everywhere. A library for
this would bring a window's OpenGL, which is not there off screen and not in every shop.
Importing this module imports numba; machine code is kept in numba's cache.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numba import njit

kept = njit(cache=True, nogil=True, error_model="numpy", inline="never")
# Where no triangle is seen.
NOTHING = -1
# The share of its depth by which something must lie farther away to have an outline before it.
JUMP = 0.06


@kept
def _span(start: float, step: float, low: float, high: float) -> tuple[float, float]:
    """The part of a range of columns in which `start + step * column` is not negative."""
    if step > 0.0:
        return max(low, -start / step), high
    if step < 0.0:
        return low, min(high, -start / step)
    return (low, high) if start >= 0.0 else (1.0, 0.0)


@kept
def fill(corners: Any, one_sided: Any, depth: Any, hit: Any, writes: bool) -> None:
    """Find which triangle is seen at each pixel.

    `corners` (n, 3, 3) are pixels across, down and one over the depth; `one_sided` (n) whether a
    triangle is seen from its front only. `depth` (h, w) holds one over the depth of what is
    nearest, `hit` (h, w) the number of its triangle; written in place, the depth only where it
    `writes`: else what is hit is seen through, and hides nothing.
    """
    high, wide = depth.shape
    for n in range(len(corners)):
        ax, ay, az = corners[n, 0, 0], corners[n, 0, 1], corners[n, 0, 2]
        bx, by, bz = corners[n, 1, 0], corners[n, 1, 1], corners[n, 1, 2]
        cx, cy, cz = corners[n, 2, 0], corners[n, 2, 1], corners[n, 2, 2]
        size = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        # Down is positive: what is anticlockwise to the eye has a negative size here.
        if size == 0.0 or (one_sided[n] and size > 0.0):
            continue
        left = max(np.floor(min(ax, bx, cx)), 0.0)
        right = min(np.ceil(max(ax, bx, cx)), wide - 1.0)
        top = max(int(np.floor(min(ay, by, cy))), 0)
        bottom = min(int(np.ceil(max(ay, by, cy))), high - 1)
        over = 1.0 / size
        # Shares of the corners b, c and a: each grows evenly along a row.
        u_step, v_step = (by - cy) * over, (cy - ay) * over
        w_step = -u_step - v_step
        for row in range(top, bottom + 1):
            y = row + 0.5
            u = ((bx - 0.5) * (cy - y) - (by - y) * (cx - 0.5)) * over
            v = ((cx - 0.5) * (ay - y) - (cy - y) * (ax - 0.5)) * over
            w = 1.0 - u - v
            first, last = _span(u, u_step, left, right)
            first, last = _span(v, v_step, first, last)
            first, last = _span(w, w_step, first, last)
            if first > last:
                continue
            near = u * az + v * bz + w * cz
            near_step = u_step * az + v_step * bz + w_step * cz
            for column in range(int(np.ceil(first)), int(last) + 1):
                here = near + near_step * column
                if here > depth[row, column]:
                    if writes:
                        depth[row, column] = here
                    hit[row, column] = n


@kept
def _outline(hit: Any, depth: Any, owners: Any, lit: Any, y: int, x: int) -> tuple[bool, int]:
    """Whether an outline runs through a pixel, and how what it goes round is lit: 0 for not."""
    tall, broad = depth.shape
    n, here = hit[y, x], depth[y, x]
    mine = owners[n] if n >= 0 else NOTHING
    edge, shine = False, 0
    for step in range(2):
        ny, nx = y + (1 - step), x + step
        if ny >= tall or nx >= broad or hit[ny, nx] == n:
            continue
        m, there = hit[ny, nx], depth[ny, nx]
        other = owners[m] if m >= 0 else NOTHING
        if other != mine or abs(here - there) > JUMP * max(here, there):
            edge = True
            if mine >= 0:
                shine = max(shine, lit[mine])
            if other >= 0:
                shine = max(shine, lit[other])
    return edge, shine


@kept
def finish(
    hit: Any,
    depth: Any,
    colours: Any,
    owners: Any,
    veil: Any,
    veils: Any,
    share: float,
    lit: Any,
    paper: Any,
    ink: Any,
    glow: Any,
    times: int,
    out: Any,
) -> None:
    """Colour what is seen, ink its outlines, and bring the picture to its size.

    `colours` (n, 3) and `owners` (n) are those of the triangles that are `hit`, `veils` those that
    are seen through: a `share` of them is laid over what is behind. A pixel lies on an outline
    where a neighbour is somebody else's or much farther away; where `lit` (by owner) is not 0 it
    is drawn in that row, from 1, of `glow` (k, 3). Each pixel of `out` (h, w) is the mean of
    `times` by `times` pixels, as 0xffRRGGBB.
    """
    high, wide = out.shape
    parts = 1.0 / (times * times)
    through = len(veils) > 0
    for row in range(high):
        for column in range(wide):
            r = g = b = 0.0
            for i in range(times):
                for j in range(times):
                    y, x = row * times + i, column * times + j
                    n = hit[y, x]
                    if n >= 0:
                        red, green, blue = colours[n, 0], colours[n, 1], colours[n, 2]
                    else:
                        red, green, blue = paper[0], paper[1], paper[2]
                    edge, shine = _outline(hit, depth, owners, lit, y, x)
                    if shine > 0:
                        k = shine - 1
                        red, green, blue = glow[k, 0], glow[k, 1], glow[k, 2]
                    elif edge:
                        red += (ink[0] - red) * 0.7
                        green += (ink[1] - green) * 0.7
                        blue += (ink[2] - blue) * 0.7
                    if through and veil[y, x] >= 0:
                        k = veil[y, x]
                        red += (veils[k, 0] - red) * share
                        green += (veils[k, 1] - green) * share
                        blue += (veils[k, 2] - blue) * share
                    r += red
                    g += green
                    b += blue
            out[row, column] = (
                np.uint32(0xFF000000)
                | (np.uint32(r * parts + 0.5) << np.uint32(16))
                | (np.uint32(g * parts + 0.5) << np.uint32(8))
                | np.uint32(b * parts + 0.5)
            )

"""A plan to lay under the drawing: the lines of a DXF file, or a picture handed over as bytes."""

from __future__ import annotations

import base64
import math
from pathlib import Path
from typing import Any

from grey_current.errors import FileError
from grey_current.numerals import decimal
from grey_current.shop.places import XY
from grey_current.shop.room import Underlay

MOST_LINES = 20_000
# Parts of a plan that are looked at: blocks within blocks can hold any number.
MOST_PARTS = 200_000
# How far (drawing units) a curve's chords may stray from it.
ROUNDNESS = 0.01
# The same as a share of a curve's own size: no curve takes more than some hundred chords.
FINEST = 1e-3
MOST_CORNERS = 400_000
# Drawing units from the origin beyond which nothing is looked at.
FARTHEST = 1e9
# m that a plan may be across.
SMALLEST, LARGEST = 0.01, 1000.0
KINDS = frozenset(("LINE", "LWPOLYLINE", "POLYLINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE"))
# Metres in a DXF drawing unit, by its $INSUNITS code; any other is taken as millimetres.
METRES = {1: 0.0254, 2: 0.3048, 4: 0.001, 5: 0.01, 6: 1.0}


def from_dxf(path: Path) -> Underlay:
    """The lines of a DXF plan, at the size that its own units say. Raises `FileError` with one
    sentence.
    """
    import ezdxf.disassemble  # noqa: PLC0415  it takes a second, and few sessions read a plan
    import ezdxf.filemanagement  # noqa: PLC0415
    import ezdxf.path  # noqa: PLC0415
    from ezdxf.lldxf.const import DXFError  # noqa: PLC0415

    if path.exists() and not path.is_file():
        raise FileError(str(path), "is not an ordinary file", "choose a DXF plan")
    try:
        document = ezdxf.filemanagement.readfile(path)
    except (OSError, DXFError, UnicodeDecodeError, ValueError):
        raise FileError(
            str(path), "is no DXF plan that can be read", "save it again as DXF R2000 or later"
        ) from None
    lines: list[tuple[XY, ...]] = []
    seen = corners = 0
    try:
        # What blocks hold, where they stand.
        for entity in ezdxf.disassemble.recursive_decompose(document.modelspace()):
            seen += 1
            # A whole house with its furniture would be drawn for minutes: given up and said.
            if len(lines) > MOST_LINES or seen > MOST_PARTS or corners > MOST_CORNERS:
                break
            if entity.dxftype() not in KINDS:
                continue
            points = _flattened(ezdxf.path.make_path(entity))
            corners += len(points)
            if len(points) > 1:
                lines.append(tuple(points))
    except (DXFError, ValueError, TypeError, ArithmeticError, LookupError, RecursionError):
        what = "holds something that is no line, or a size that is no number"
        raise FileError(
            str(path), what, "clean the plan up where it was drawn, and save it again"
        ) from None
    if corners > MOST_CORNERS:
        raise FileError(
            str(path),
            f"has over {decimal(MOST_CORNERS)} corners",
            "choose a plan of the room alone",
        )
    if not lines or len(lines) > MOST_LINES or seen > MOST_PARTS:
        what = (
            "has no lines in it"
            if not lines
            else f"has over {decimal(min(MOST_LINES, seen))} lines"
        )
        raise FileError(str(path), what, "choose a plan of the room alone")
    return _placed(path.name, lines, METRES.get(document.header.get("$INSUNITS", 4), 0.001))


def _flattened(path: Any) -> list[XY]:
    """A line or curve as chords, as fine as its own size asks for. Raises `ValueError` for sizes
    that are none.
    """
    held = [(float(v.x), float(v.y)) for v in path.control_vertices()]
    if not all(math.isfinite(c) and abs(c) < FARTHEST for place in held for c in place):
        raise ValueError("a place that is no place")
    xs, ys = zip(*held, strict=True) if held else ((0.0,), (0.0,))
    size = max(max(xs) - min(xs), max(ys) - min(ys))
    return [(p.x, p.y) for p in path.flattening(max(ROUNDNESS, size * FINEST))]


def _placed(name: str, lines: list[tuple[XY, ...]], unit: float) -> Underlay:
    """Lines as shares of the whole plan, whose lower left corner lies at the shop's origin."""
    xs = [x for line in lines for x, _ in line]
    ys = [y for line in lines for _, y in line]
    left, low = min(xs), min(ys)
    wide, high = max(max(xs) - left, 1e-9), max(max(ys) - low, 1e-9)
    shares = tuple(
        tuple((round((x - left) / wide, 6), round((y - low) / high, 6)) for x, y in line)
        for line in lines
    )
    width, height = (min(max(size * unit, SMALLEST), LARGEST) for size in (wide, high))
    return Underlay(name=name, lines=shares, width=width, height=height)


def from_picture(name: str, png: bytes, pixels: tuple[int, int], width: float) -> Underlay:
    """A picture (PNG bytes, its size in pixels) laid down `width` m across, to be scaled
    afterwards.
    """
    height = width * pixels[1] / pixels[0]
    least, most = min(width, height), max(width, height)
    if least * LARGEST < most * SMALLEST:
        raise FileError(
            name,
            f"is too narrow for a plan ({pixels[0]} by {pixels[1]} pixels)",
            "choose another picture",
        )
    # As large as asked, but within what a plan may be.
    fits = min(LARGEST / most, 1.0) * max(SMALLEST / least, 1.0)
    width, height = width * fits, height * fits
    return Underlay(
        name=name, picture=base64.b64encode(png).decode("ascii"), width=width, height=height
    )

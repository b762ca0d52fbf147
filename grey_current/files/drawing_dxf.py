"""Drawings as DXF in metres, one layer for each kind of line, dimensions as lines with their
figure.
"""

from __future__ import annotations

import io
from pathlib import Path as FilePath
from typing import Any

from grey_current.build.drawing import (
    DASHED,
    LAYERS,
    Circle,
    Dimension,
    Drawing,
    Path,
    Text,
    dimension_paths,
    dimension_text,
    paper,
)
from grey_current.files.safe_write import write_export

# DXF's number for metres as the unit of a drawing.
METRES = 6


def write_dxf(drawings: list[Drawing], path: FilePath) -> str:
    """Write drawings side by side into one DXF file, in true size; returned is what was saved.
    Raises `FileError`.
    """
    import ezdxf.filemanagement  # noqa: PLC0415 - slow to load

    document: Any = ezdxf.filemanagement.new("R2010", setup=["linetypes"])
    document.header["$INSUNITS"] = METRES
    document.header["$MEASUREMENT"] = 1
    for name, weight in LAYERS.items():
        attributes = {
            "lineweight": round(weight * 100),
            "linetype": "DASHED" if name in DASHED else "CONTINUOUS",
        }
        document.layers.add(name.upper().replace(" ", "_"), **attributes)
    space = document.modelspace()
    # Side by side in one space, in true size: to be measured in any drawing program.
    shift = 0.0
    for drawing in drawings:
        left, _, right, _ = drawing.bounds
        for item in drawing.items:
            _add(space, item, drawing.scale, shift - left)
        _add(
            space,
            Text((left, drawing.bounds[1] - paper(8, drawing.scale)), drawing.title, 3.5, "left"),
            drawing.scale,
            shift - left,
        )
        shift += right - left + paper(30, drawing.scale)
    text = io.StringIO()
    document.write(text)
    return write_export(text.getvalue().encode(document.encoding, errors="dxfreplace"), path)


def _add(space: Any, item: Path | Circle | Text | Dimension, scale: float, dx: float) -> None:
    layer = {"layer": item.layer.upper().replace(" ", "_")}
    if isinstance(item, Path):
        space.add_lwpolyline(
            [(x + dx, y) for x, y in item.points], close=item.closed, dxfattribs=layer
        )
    elif isinstance(item, Circle):
        space.add_circle((item.centre[0] + dx, item.centre[1]), item.radius, dxfattribs=layer)
    elif isinstance(item, Dimension):
        for line in dimension_paths(item, scale):
            _add(space, line, scale, dx)
        _add(space, dimension_text(item, scale), scale, dx)
    else:
        from ezdxf.enums import TextEntityAlignment as Align  # noqa: PLC0415 - slow to load

        place = {"left": Align.LEFT, "middle": Align.CENTER, "right": Align.RIGHT}[item.anchor]
        text = space.add_text(
            item.text, height=paper(item.size, scale), rotation=item.turn, dxfattribs=layer
        )
        text.set_placement((item.at[0] + dx, item.at[1]), align=place)

"""Drawings as DXF in metres: a layer for each kind of line, in several views for each kind in each
view, and dimensions that a drawing program knows as such.
"""

from __future__ import annotations

import io
from pathlib import Path as FilePath
from typing import Any

from grey_current.build.drawing import (
    DASHED,
    DIMENSION_GAP,
    LAYERS,
    SMALL,
    Circle,
    Dimension,
    Drawing,
    Path,
    Text,
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

    document: Any = ezdxf.filemanagement.new("R2010", setup=["linetypes", "dimstyles"])
    document.header["$INSUNITS"] = METRES
    document.header["$MEASUREMENT"] = 1
    # Side by side in one space, in true size: to be measured in any drawing program.
    shift = 0.0
    for number, drawing in enumerate(drawings, 1):
        view = _View(document, drawing, f"V{number:02}_" if len(drawings) > 1 else "", shift)
        for item in drawing.items:
            view.add(item)
        left, low, right, _ = drawing.bounds
        title = (left, low - paper(8, drawing.scale))
        view.add(Text(title, drawing.title, 3.5, "left"))
        shift += right - left + paper(30, drawing.scale)
    text = io.StringIO()
    document.write(text)
    return write_export(text.getvalue().encode(document.encoding, errors="dxfreplace"), path)


class _View:
    """One drawing in the document: its layers begin with a word of their own, so that a view can be
    shut off.
    """

    def __init__(self, document: Any, drawing: Drawing, prefix: str, shift: float) -> None:
        self._document, self._space = document, document.modelspace()
        self._scale, self._prefix = drawing.scale, prefix
        self._dx = shift - drawing.bounds[0]

    def _layer(self, name: str) -> dict[str, str]:
        """The layer of a kind of line, made when it is first drawn on."""
        full = f"{self._prefix}{name.upper().replace(' ', '_')}"
        if full not in self._document.layers:
            self._document.layers.add(
                full,
                lineweight=round(LAYERS[name] * 100),
                linetype="DASHED" if name in DASHED else "CONTINUOUS",
            )
        return {"layer": full}

    def add(self, item: Path | Circle | Text | Dimension) -> None:
        """Draw an item."""
        layer, dx = self._layer(item.layer), self._dx
        if isinstance(item, Path):
            places = [(x + dx, y) for x, y in item.points]
            self._space.add_lwpolyline(places, close=item.closed, dxfattribs=layer)
        elif isinstance(item, Circle):
            x, y = item.centre
            self._space.add_circle((x + dx, y), item.radius, dxfattribs=layer)
        elif isinstance(item, Dimension):
            self._measure(item, layer)
        else:
            from ezdxf.enums import TextEntityAlignment as Align  # noqa: PLC0415 - slow to load

            place = {"left": Align.LEFT, "middle": Align.CENTER, "right": Align.RIGHT}
            high = paper(item.size, self._scale)
            text = self._space.add_text(
                item.text, height=high, rotation=item.turn, dxfattribs=layer
            )
            text.set_placement((item.at[0] + dx, item.at[1]), align=place[item.anchor])

    def _measure(self, item: Dimension, layer: dict[str, str]) -> None:
        """A dimension as such: it goes along when what it measures is moved, and says what it says
        on paper.
        """
        (ax, ay), (bx, by) = item.a, item.b
        made = self._space.add_aligned_dim(
            p1=(ax + self._dx, ay),
            p2=(bx + self._dx, by),
            distance=paper(item.offset, self._scale),
            text=item.text,
            dimstyle="EZDXF",
            override={
                "dimtxt": paper(SMALL, self._scale),
                "dimtsz": paper(1.0, self._scale),
                "dimexe": paper(1.0, self._scale),
                "dimexo": paper(DIMENSION_GAP, self._scale),
                "dimgap": paper(0.8, self._scale),
                "dimtad": 1,
            },
            dxfattribs=layer,
        )
        made.render()

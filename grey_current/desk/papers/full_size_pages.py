"""A drawing at full size on several sheets, with marks to join them by and bars to check the
printer by.

Run as `python -m grey_current.desk.papers.full_size_pages THING FILE.pdf FIGURES` it saves the
sheets of a thing to make; `FIGURES` is JSON: figures, kerf, units, size.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

from PyQt6.QtGui import QGuiApplication

from grey_current.build.drawing import Drawing
from grey_current.build.full_size import BLEED, EDGE, FOOT, MOST_SHEETS, Sheet, best_page, sheets
from grey_current.build.made.templates import full_size
from grey_current.desk.papers.layout import FINE, SIZES, Cutout, Mark, PaperPage, Rule, Word
from grey_current.desk.papers.painting import save_pdf
from grey_current.desk.theme import load_fonts
from grey_current.errors import GreyCurrentError, RefusedEdit
from grey_current.units import Display

# mm of a cross at a corner of the frame, and the bars to check by.
CROSS = 5.0
BARS = ((100.0, "100 mm"), (101.6, "4 in"))


def full_size_pages(drawing: Drawing, size: str = "A4") -> list[PaperPage]:
    """The sheets of a drawing at full size. Raises `RefusedEdit` for more than anybody glues
    together, and `KeyError` for an unknown size of paper.
    """
    page = best_page(drawing, SIZES[size])
    parts = sheets(drawing, page)
    if len(parts) > MOST_SHEETS:
        raise RefusedEdit(
            drawing.title,
            f"printing it at full size on {len(parts)} sheets of {size}",
            "save it as DXF or SVG, or make it smaller",
        )
    names = {(part.row, part.column): part.name for part in parts}
    return [_page(drawing, part, page, size, names) for part in parts]


def _page(
    drawing: Drawing,
    part: Sheet,
    page: tuple[float, float],
    size: str,
    names: dict[tuple[int, int], str],
) -> PaperPage:
    wide, tall = page
    right, bottom = wide - EDGE, tall - FOOT
    marks: list[Mark] = [Cutout(EDGE, EDGE, right, bottom, BLEED, drawing, part.left, part.low)]
    for x in (EDGE, right):
        for y in (EDGE, bottom):
            marks.append(Rule(x - CROSS, y, x + CROSS, y, 0.1))
            marks.append(Rule(x, y - CROSS, x, y + CROSS, 0.1))
    joins = [
        f"{names[place]} {where}"
        for place, where in (
            ((part.row - 1, part.column), "above"),
            ((part.row, part.column - 1), "to the left"),
            ((part.row, part.column + 1), "to the right"),
            ((part.row + 1, part.column), "below"),
        )
        if place in names
    ]
    said = f"{drawing.title}, full size on {size}. Sheet {part.name}"
    said += f" of {len(names)}: {', '.join(joins)}." if joins else "."
    marks.append(Word(EDGE, bottom + CROSS + 3.5, said, FINE))
    marks.append(
        Word(EDGE, bottom + CROSS + 7.5, "Print at 100 %, not fitted to the page. Measure:", FINE)
    )
    y = tall - 5.5
    x = EDGE
    for long, words in BARS:
        # One bar over the other where both do not fit side by side.
        if x + long > right:
            x, y = EDGE, y - 5.0
        marks.append(Rule(x, y, x + long, y, 0.25))
        marks += [Rule(end, y - 1.2, end, y + 1.2, 0.25) for end in (x, x + long)]
        marks.append(Word(x + long / 2, y - 0.8, words, FINE, align="middle"))
        x += long + 8.0
    return PaperPage(wide, tall, marks)


def main(arguments: list[str]) -> int:
    """Save the sheets of a thing to make. Exit status 2 with a sentence for bad input."""
    thing, path, asked = arguments[0], Path(arguments[1]), json.loads(arguments[2])
    application = QGuiApplication(sys.argv[:1])
    load_fonts()
    try:
        drawing = full_size(thing, asked["figures"], Display(asked["units"]), asked["kerf"])
        pages = full_size_pages(drawing, asked["size"])
        said = save_pdf(pages, path, drawing.title, asked["size"])
    except GreyCurrentError as problem:
        sys.stderr.write(f"{problem}\n")
        return 2
    sys.stdout.write(f"{said}\n")
    del application
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))

"""The sticker for the hole of the monthly reading: its limits for this shop, to cut out."""

from __future__ import annotations

import itertools

from grey_current.desk.papers.layout import MARGIN, SIZES, Mark, PaperPage, Rule, Word, wrapped
from grey_current.keep.monthly import Monthly, limit_lines, place_of
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.units import Display

# mm; the sticker, what is kept free in it, and its lettering.
WIDE, TALL, INSIDE = 90.0, 56.0, 4.0
HEAD, BODY, LEADING = 4.2, 3.4, 1.45


def sticker_page(project: Project, found: Monthly, size: str = "A4") -> PaperPage:
    """A page with the sticker in its upper left corner. Raises `KeyError` for an unknown size."""
    page = PaperPage(*SIZES[size])
    page.marks += _frame(MARGIN, MARGIN)
    display, names = Display(project.settings.units), Names(project)
    x, y = MARGIN + INSIDE, MARGIN + INSIDE + HEAD
    page.marks.append(Word(x, y, "Suction here, once a month", HEAD, bold=True))
    lines = [capital(place_of(names, found)), *limit_lines(display, found)]
    for line in lines:
        for part in wrapped(line, BODY, WIDE - 2 * INSIDE):
            y += BODY * LEADING
            page.marks.append(Word(x, y, part, BODY))
    return page


def _frame(left: float, top: float) -> list[Mark]:
    right, low = left + WIDE, top + TALL
    corners = [(left, top), (right, top), (right, low), (left, low), (left, top)]
    return [Rule(*a, *b, 0.1) for a, b in itertools.pairwise(corners)]

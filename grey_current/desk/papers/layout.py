"""From the papers' sections to pages: every text, line and drawing with its place in
millimetres.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtGui import QFontMetricsF

from grey_current.build.drawing import Drawing
from grey_current.build.papers import Column, Note, Papers, PaperSection, Table
from grey_current.desk.theme import paper_font
from grey_current.numerals import compact

MARGIN = 15.0
FOOT = 12.0
# Heights of lettering (mm).
TITLE, STRONG, BODY, FINE = 6.0, 3.9, 3.55, 2.8
LEADING = 1.35
# The share of a page that is next to nothing, and body and leading that spare such a page.
LITTLE_ON_IT = 0.3
CLOSER = (3.4, 1.22)
GAP = 3.0
# mm between figures and the column behind them.
AFTER_FIGURES = 4.0
# mm under a drawing for its title and scale.
BAR_ROOM = 12.0
SIZES = {"A4": (210.0, 297.0), "Letter": (215.9, 279.4)}
METRIC_PIXELS = 100


@dataclass(frozen=True)
class Word:
    """A line of text: its baseline's left (or right, or middle) end in mm, its height, weight and
    side.
    """

    x: float
    y: float
    text: str
    size: float
    bold: bool = False
    align: str = "left"


@dataclass(frozen=True)
class Rule:
    """A thin line, mm."""

    x: float
    y: float
    to_x: float
    to_y: float
    weight: float = 0.13


@dataclass(frozen=True)
class Placed:
    """A drawing with its lower left corner at a place, mm."""

    x: float
    y: float
    drawing: Drawing


@dataclass(frozen=True)
class Cutout:
    """A part of a drawing at full size: the frame that it fills (mm from the page's upper left
    corner), how far it is drawn beyond that (mm), and the drawing's place (m) in the frame's lower
    left corner.
    """

    x: float
    y: float
    to_x: float
    to_y: float
    bleed: float
    drawing: Drawing
    left: float
    low: float


@dataclass(frozen=True, eq=False)
class Shot:
    """A picture (0xffRRGGBB, h × w) in a frame: its upper left corner, width and height, mm."""

    x: float
    y: float
    wide: float
    tall: float
    picture: NDArray[np.uint32]


Mark = Word | Rule | Placed | Cutout | Shot


@dataclass
class PaperPage:
    """A page and what stands on it."""

    wide: float
    tall: float
    marks: list[Mark] = field(default_factory=list)

    @property
    def lying(self) -> bool:
        """Whether it lies on its side."""
        return self.wide > self.tall


@lru_cache(maxsize=8)
def _metrics(bold: bool) -> QFontMetricsF:
    return QFontMetricsF(paper_font(METRIC_PIXELS, bold))


def width(text: str, size: float, bold: bool = False) -> float:
    """The width (mm) of a line of text of a height (mm)."""
    return _metrics(bold).horizontalAdvance(text) * size / METRIC_PIXELS


def wrapped(text: str, size: float, room: float, bold: bool = False) -> list[str]:
    """Text in lines no wider than so much room (mm); a word that is wider alone is parted."""
    lines: list[str] = []
    line = ""
    for word in text.split():
        tried = f"{line} {word}".strip()
        if width(tried, size, bold) <= room:
            line = tried
            continue
        if line:
            lines.append(line)
        line = word
        while width(line, size, bold) > room and len(line) > 1:
            fits = next(
                n
                for n in range(len(line) - 1, 0, -1)
                if n == 1 or width(line[:n], size, bold) <= room
            )
            lines.append(line[:fits])
            line = line[fits:]
    return [*lines, line] if line or not lines else lines


def pages(papers: Papers, size: str = "A4") -> list[PaperPage]:
    """All pages, each with its foot. Raises `KeyError` for an unknown size."""
    wide, tall = SIZES[size]
    made: list[PaperPage] = []
    for section in papers.sections:
        made += _laid_out(section, *((tall, wide) if section.lying else (wide, tall)))
    for number, page in enumerate(made, 1):
        low = page.tall - FOOT + 3
        page.marks.append(Rule(MARGIN, low - 4, page.wide - MARGIN, low - 4))
        page.marks.append(
            Word(
                MARGIN,
                low,
                f"{papers.title}, {papers.date:%d %B %Y}. Estimates for planning.",
                FINE,
            )
        )
        page.marks.append(
            Word(page.wide - MARGIN, low, f"Page {number} of {len(made)}", FINE, align="right")
        )
    return made


def _laid_out(section: PaperSection, wide: float, tall: float) -> list[PaperPage]:
    """The pages of a section: set closer where that spares a last page with next to nothing."""
    roomy = _Section(section, wide, tall, BODY, LEADING)
    if len(roomy.pages) == 1 or roomy.used > LITTLE_ON_IT * tall:
        return roomy.pages
    closer = _Section(section, wide, tall, *CLOSER)
    return closer.pages if len(closer.pages) < len(roomy.pages) else roomy.pages


def _beside(column: Column) -> float:
    """The width (mm) that a column's text keeps free."""
    return AFTER_FIGURES if column.figures else 2.0


class _Section:
    """One section laid out from top to bottom, going on to new pages."""

    def __init__(
        self, section: PaperSection, wide: float, tall: float, body: float, leading: float
    ) -> None:
        self.wide, self.tall = wide, tall
        self.body, self.leading = body, leading
        self.pages: list[PaperPage] = []
        self._title = section.title
        self._new_page()
        drawings: list[Drawing] = []
        for block in section.blocks:
            if isinstance(block, Drawing):
                drawings.append(block)
                continue
            self._side_by_side(drawings)
            drawings = []
            if isinstance(block, Note):
                self._said(block)
            else:
                self._table(block)
        self._side_by_side(drawings)

    @property
    def room(self) -> float:
        """The width (mm) between the margins."""
        return self.wide - 2 * MARGIN

    @property
    def used(self) -> float:
        """The height (mm) that is used on the last page."""
        return self.y

    @property
    def _left(self) -> float:
        """The height (mm) that is left on the page."""
        return self.tall - MARGIN - FOOT - self.y

    def _new_page(self) -> None:
        self.pages.append(PaperPage(self.wide, self.tall))
        self.y = MARGIN + TITLE
        size = TITLE if len(self.pages) == 1 else STRONG
        title = self._title if len(self.pages) == 1 else f"{self._title}, continued"
        for line in wrapped(title, size, self.room, bold=True)[:2]:
            self._mark(Word(MARGIN, self.y, line, size, bold=True))
            self.y += size * self.leading
        self.y += GAP

    def _mark(self, mark: Mark) -> None:
        self.pages[-1].marks.append(mark)

    def _said(self, block: Note) -> None:
        size = STRONG if block.strong else self.body
        lines = wrapped(block.text, size, self.room, block.strong)
        for number, line in enumerate(lines):
            need = size * self.leading * (min(len(lines), 2) if number == 0 else 1) + (
                GAP * 3 if block.strong else 0
            )
            if need > self._left:
                self._new_page()
            self.y += size * self.leading
            self._mark(Word(MARGIN, self.y, line, size, block.strong))
        self.y += GAP * 0.6

    def _table(self, table: Table) -> None:
        self._heading(table)
        for number, row in enumerate(table.rows):
            lines = self._cells(table, row)
            tall = max(len(cell) for cell in lines) * self.body * self.leading + 0.8
            follows = number + 1 < len(table.rows)
            # A heading with its first row.
            keep = tall + (self.body * self.leading + 0.8 if len(row) == 1 and follows else 0.0)
            if keep > self._left:
                self._new_page()
                self._heading(table)
            self._row(table, row, lines)
            self.y += tall
            self._mark(Rule(MARGIN, self.y + 0.6, self.wide - MARGIN, self.y + 0.6, 0.05))
        self.y += GAP

    def _heading(self, table: Table) -> None:
        if not any(column.title for column in table.columns):
            return
        if self._left < self.body * self.leading * 3:
            self._new_page()
        self.y += FINE * self.leading
        x = MARGIN
        for column in table.columns:
            wide = column.share * self.room
            place = x + wide - AFTER_FIGURES if column.figures else x
            title = wrapped(column.title, FINE, wide - 1, bold=True)[0] if column.title else ""
            self._mark(
                Word(place, self.y, title, FINE, True, "right" if column.figures else "left")
            )
            x += wide
        self.y += 1.2
        self._mark(Rule(MARGIN, self.y, self.wide - MARGIN, self.y, 0.25))

    def _cells(self, table: Table, row: tuple[str, ...]) -> list[list[str]]:
        if len(row) == 1:
            return [wrapped(row[0], self.body, self.room, bold=True)]
        return [
            wrapped(text, self.body, column.share * self.room - _beside(column))
            for text, column in zip(row, table.columns, strict=True)
        ]

    def _row(self, table: Table, row: tuple[str, ...], lines: list[list[str]]) -> None:
        x = MARGIN
        for place, cell in enumerate(lines):
            heading = len(row) == 1
            column = table.columns[place]
            figures = column.figures and not heading
            at = x + column.share * self.room - AFTER_FIGURES if figures else x
            for number, line in enumerate(cell):
                y = self.y + self.body * self.leading * (number + 1)
                self._mark(Word(at, y, line, self.body, heading, "right" if figures else "left"))
            x += column.share * self.room

    def _side_by_side(self, drawings: list[Drawing]) -> None:
        """Drawings in rows, as many beside one another as there is room for, each with its title
        and scale.
        """
        row: list[tuple[Drawing, float, float]] = []
        used = 0.0
        for drawing in drawings:
            left, low, right, high = drawing.bounds
            wide, tall = (right - left) * 1000 / drawing.scale, (high - low) * 1000 / drawing.scale
            wide = max(wide, width(drawing.title, STRONG, bold=True), 62.0)
            if row and used + wide > self.room:
                self._drawing_row(row)
                row, used = [], 0.0
            row.append((drawing, wide, tall))
            used += wide + GAP * 2
        if row:
            self._drawing_row(row)

    def _drawing_row(self, row: list[tuple[Drawing, float, float]]) -> None:
        tall = max(high for _, _, high in row)
        if tall + BAR_ROOM > self._left and self.y > MARGIN + TITLE * 3:
            self._new_page()
        x = MARGIN
        for drawing, wide, _ in row:
            foot = self.y + tall
            self._mark(Placed(x, foot, drawing))
            self._mark(Word(x, foot + 5, drawing.title, STRONG, bold=True))
            self._scale_bar(x, foot + 9.5, drawing.scale)
            x += wide + GAP * 2
        self.y += tall + BAR_ROOM + GAP

    def _scale_bar(self, x: float, y: float, scale: float) -> None:
        """A length to check the printer by, 100 mm where there is room for it, and the scale."""
        long = 100.0 if self.pages[-1].lying and x + 160 < self.wide else 25.0
        self._mark(Rule(x, y, x + long, y, 0.25))
        for part in (0.0, 0.5, 1.0):
            self._mark(Rule(x + long * part, y - 1.2, x + long * part, y + 1.2, 0.25))
        self._mark(
            Word(x + long + 2, y + 1, f"{compact(long)} mm as printed, 1 : {compact(scale)}", FINE)
        )

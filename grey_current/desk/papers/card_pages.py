"""The cards on pages: four to a sheet with lines to cut along, each with its levers drawn as they
stand.
"""

from __future__ import annotations

import datetime
from collections.abc import Sequence

from grey_current.desk.papers.layout import (
    BODY,
    FINE,
    FOOT,
    SIZES,
    STRONG,
    Mark,
    PaperPage,
    Rule,
    Word,
    wrapped,
)
from grey_current.work.cards import Card

COLUMNS, ROWS = 2, 2
# mm between a card's edge and what stands on it.
INSIDE = 7.0
NAME = 7.5
# mm that a lever is high.
LEVER = 12.0
LEVER_ROOM = 25.5
PLATE = 2.5
LEADING = 1.3


def card_pages(
    cards: Sequence[Card], shop: str, date: datetime.date, size: str = "A4"
) -> list[PaperPage]:
    """Pages of cards. Raises `KeyError` for an unknown size of sheet."""
    wide, tall = SIZES[size]
    made: list[PaperPage] = []
    each_wide, each_tall = wide / COLUMNS, (tall - FOOT) / ROWS
    for number, card in enumerate(cards):
        place = number % (COLUMNS * ROWS)
        if place == 0:
            made.append(PaperPage(wide, tall))
            made[-1].marks += _cut_lines(wide, tall - FOOT)
        column, row = place % COLUMNS, place // COLUMNS
        made[-1].marks += _card(card, column * each_wide, row * each_tall, each_wide, each_tall)
    for number, page in enumerate(made, 1):
        foot = (
            f"{shop}, {date:%d %B %Y}. Estimates for planning. Cut along the lines; page "
            f"{number} of {len(made)}."
        )
        page.marks.append(Word(INSIDE, tall - 4, foot, FINE))
    return made


def _cut_lines(wide: float, tall: float) -> list[Mark]:
    upright = [
        Rule(wide * n / COLUMNS, 3, wide * n / COLUMNS, tall, 0.1) for n in range(1, COLUMNS)
    ]
    level = [Rule(3, tall * n / ROWS, wide - 3, tall * n / ROWS, 0.1) for n in range(1, ROWS + 1)]
    return [*upright, *level]


def _card(card: Card, left: float, top: float, wide: float, tall: float) -> list[Mark]:
    room, x, y = wide - 2 * INSIDE, left + INSIDE, top + INSIDE + NAME
    marks: list[Mark] = [Word(x, y, wrapped(card.name, NAME, room, bold=True)[0], NAME, bold=True)]
    y += 3
    if card.levers:
        marks += _levers(card, x, y, room)
        y += LEVER_ROOM
        marks += (lines := _lines([card.gates], x, y, room, STRONG, bold=True))
        y += len(lines) * STRONG * LEADING + 1
    for text, size, bold in (
        *((line, BODY, False) for line in card.air),
        (card.together, BODY, True),
        (card.boards, BODY, False),
        (card.wear, BODY, True),
    ):
        if text:
            lines = _lines([text], x, y, room, size, bold)
            marks += lines
            y += len(lines) * size * LEADING
    y += 1.5
    marks.append(Rule(x, y, x + room, y, 0.13))
    for line in card.lines:
        rows = wrapped(line, BODY, room - 6)
        if y + (len(rows) + 0.5) * BODY * LEADING > top + tall - 2:
            break
        marks.append(Word(x, y + BODY * LEADING, "☐", BODY))
        marks += [
            Word(x + 6, y + BODY * LEADING * (n + 1), row, BODY) for n, row in enumerate(rows)
        ]
        y += len(rows) * BODY * LEADING + 0.6
    return marks


def _lines(
    texts: Sequence[str], x: float, y: float, room: float, size: float, bold: bool
) -> list[Mark]:
    rows = [row for text in texts for row in wrapped(text, size, room, bold)]
    return [Word(x, y + size * LEADING * (n + 1), row, size, bold) for n, row in enumerate(rows)]


def _levers(card: Card, x: float, y: float, room: float) -> list[Mark]:
    """The levers of the frame in their order: upright is shut, pulled over is open; numbers and
    plates under them.
    """
    each = min(room / len(card.levers), 16.0)
    marks: list[Mark] = []
    for number, (plate, is_open) in enumerate(card.levers):
        middle, foot = x + each * (number + 0.5), y + LEVER + 2
        tip = (middle + LEVER * 0.45, foot - LEVER * 0.75) if is_open else (middle, foot - LEVER)
        marks.append(Rule(middle - 2.2, foot, middle + 2.2, foot, 0.5))
        marks.append(Rule(middle, foot, *tip, 1.1 if is_open else 0.45))
        rows = wrapped(plate, PLATE, each - 0.6, is_open)[:2]
        marks += [
            Word(middle, foot + 3.4 + 2.9 * n, row, PLATE, is_open, "middle")
            for n, row in enumerate(rows)
        ]
        marks.append(
            Word(middle, foot + 9.4, "open" if is_open else "shut", PLATE, is_open, "middle")
        )
    return marks

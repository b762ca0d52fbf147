"""The logbook as a table, without Qt: its rows, what each cell says, and what typing into one
does.
"""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from dataclasses import dataclass

from grey_current.dates import date_words, parse_past
from grey_current.errors import InputError
from grey_current.keep.log import DONE
from grey_current.keep.reading_words import figure, place_words
from grey_current.numerals import decimal
from grey_current.shop.edits import Edit
from grey_current.shop.keep_edits import (
    with_entry_changed,
    with_reading_changed,
    without_entry,
    without_reading,
)
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.units import Display, parse_number, parse_volume

COLUMNS = ("Date", "What", "Where", "Hours", "Chips", "Note")
DATE, WHAT, WHERE, HOURS, CHIPS, NOTE = range(len(COLUMNS))
# Kinds of line that have hours, and that have litres.
HAS_HOURS, HAS_LITRES = ("worked",), ("worked", "bin emptied")
WEEK = 7


@dataclass(frozen=True)
class LogRow:
    """A line of the logbook or a reading.

    Attributes:
        number: Which of the entries, or of the readings, it is (from 1).
        cells: What each column says, and `keys` what it is sorted by.
    """

    date: datetime.date
    number: int
    is_reading: bool
    kind: str
    cells: tuple[str, ...]
    keys: tuple[str | float, ...]

    def editable(self, column: int) -> bool:
        """Whether a cell can be typed into."""
        if column in (DATE, NOTE):
            return True
        if column == HOURS:
            return self.kind in HAS_HOURS
        return column == CHIPS and self.kind in HAS_LITRES


def log_rows(project: Project) -> list[LogRow]:
    """Every line and reading, the newest first."""
    display, names = Display(project.settings.units), Names(project)
    rows = []
    for number, entry in enumerate(project.keep.entries, 1):
        where = names.of(entry.place).removeprefix("the ") if entry.place else ""
        hours, litres = entry.hours, entry.litres
        cells = (
            date_words(entry.date, display.system),
            capital(DONE[entry.kind]),
            capital(where),
            f"{decimal(hours, 1)} h" if hours is not None else "",
            display.volume(litres) if litres is not None else "",
            entry.note,
        )
        keys = (entry.date.isoformat(), cells[1], cells[2], hours or 0.0, litres or 0.0, entry.note)
        rows.append(LogRow(entry.date, number, False, entry.kind, cells, keys))
    for number, reading in enumerate(project.keep.readings, 1):
        told = figure(display, reading.kind, reading.value)
        where = place_words(names, reading.kind, reading.machine, reading.place)
        cells = (
            date_words(reading.date, display.system),
            f"Reading: {told}",
            capital(where),
            "",
            "",
            reading.note,
        )
        keys = (reading.date.isoformat(), cells[1], cells[2], 0.0, 0.0, reading.note)
        rows.append(LogRow(reading.date, number, True, reading.kind, cells, keys))
    return sorted(rows, key=lambda row: (row.date, row.number), reverse=True)


def typed(project: Project, row: LogRow, column: int, text: str) -> Edit:
    """The edit that typing into a cell makes. Raises `InputError` for what cannot be read."""
    system = project.settings.units
    if column == DATE:
        return _changes(row, date=parse_past(text, system))
    if column == NOTE:
        return _changes(row, note=text.strip())
    if not text.strip():
        return _changes(row, **{"hours" if column == HOURS else "litres": None})
    if column == HOURS:
        try:
            hours = parse_number(text.strip().lower().removesuffix("h").strip())
        except ValueError:
            raise InputError("hours", text, "write hours such as 1.5") from None
        return _changes(row, hours=hours)
    return _changes(row, litres=parse_volume(text, system, "chips"))


def _changes(row: LogRow, **changes: object) -> Edit:
    if row.is_reading:
        return lambda project: with_reading_changed(project, row.number, **changes)
    return lambda project: with_entry_changed(project, row.number, **changes)


def deleted(rows: Sequence[LogRow]) -> Edit:
    """The edit that takes some rows out."""

    def edit(project: Project) -> Project:
        # From behind, so that numbers before stay what they are.
        for row in sorted(rows, key=lambda row: row.number, reverse=True):
            strike = without_reading if row.is_reading else without_entry
            project = strike(project, row.number)
        return project

    return edit


def at_a_glance(project: Project, today: datetime.date) -> str:
    """This week and this month, in a line."""
    display = Display(project.settings.units)
    week = [e for e in project.keep.entries if 0 <= (today - e.date).days < WEEK]
    month = [
        e for e in project.keep.entries if (e.date.year, e.date.month) == (today.year, today.month)
    ]
    parts = []
    for name, entries in (("Last seven days", week), ("This month", month)):
        worked = [e for e in entries if e.kind == "worked"]
        hours = sum(e.hours or 0.0 for e in worked)
        litres = sum(e.litres or 0.0 for e in worked)
        days = len({e.date for e in worked})
        counted = "1 day" if days == 1 else f"{days} days"
        parts.append(f"{name}: {counted}, {decimal(hours, 1)} h, {display.volume(litres)} of chips")
    return ". ".join(parts) + "."

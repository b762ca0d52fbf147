"""The readings as a table, without Qt: what each cell says, and what typing into one does."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from grey_current.dates import date_words, parse_past
from grey_current.files.keep_report import read_value, reading_of
from grey_current.keep.answers import Logged, standing_words
from grey_current.keep.reading_words import figure, likely_words, what_words
from grey_current.shop.edits import Edit
from grey_current.shop.keep_edits import with_reading_changed, without_reading
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.units import Display

COLUMNS = ("Date", "Where", "Only on", "You read", "Likely", "What it says")
DATE, WHERE, ON, READ, LIKELY, SAYS = range(len(COLUMNS))


@dataclass(frozen=True)
class ReadingRow:
    """A reading, numbered from 1; `state` is "short" where it is not as expected or is not used.

    Attributes:
        cells: What each column says, and `keys` what it is sorted by.
        practising: Whether it belongs to a practice shop, whose readings stay as they are.
    """

    number: int
    cells: tuple[str, ...]
    keys: tuple[str | float, ...]
    state: str
    practising: bool

    @property
    def words(self) -> str:
        """What was measured where, with which machine on."""
        return f"{self.cells[WHERE]}, {self.cells[ON].lower()} on"

    def editable(self, column: int) -> bool:
        """Whether a cell can be typed into."""
        return not self.practising and column in (DATE, READ)


def reading_rows(project: Project, logged: Sequence[Logged]) -> list[ReadingRow]:
    """Every reading in the order of the logbook; `logged` is what is known of each, which may lag a
    moment behind.
    """
    display, names = Display(project.settings.units), Names(project)
    known = {item.number: item for item in logged}
    rows = []
    for number, reading in enumerate(project.keep.readings, 1):
        item = known.get(number)
        if item is not None and item.reading != reading:
            item = None
        usual = item is not None and math.isfinite(item.expected)
        likely = (
            likely_words(display, reading.kind, item.expected, item.half)
            if item is not None and usual
            else ""
        )
        cells = (
            date_words(reading.date, display.system),
            what_words(names, reading.kind, reading.place),
            capital(names.of(reading.machine).removeprefix("the ")),
            figure(display, reading.kind, reading.value),
            likely,
            "" if item is None else standing_words(item),
        )
        # Figures of different kinds have no common order: each kind stands together.
        keys: tuple[str | float, ...] = (
            reading.date.isoformat(),
            cells[WHERE],
            cells[ON],
            f"{reading.kind} {reading.value:012.4f}",
            f"{reading.kind} {item.expected:012.4f}" if item is not None and usual else "",
            cells[SAYS],
        )
        fine = item is None or (item.standing in ("followed", "of the room") and item.as_expected)
        state = "" if fine else "short"
        rows.append(ReadingRow(number, cells, keys, state, project.keep.practising))
    return rows


def typed_reading(project: Project, row: ReadingRow, column: int, text: str) -> Edit:
    """The edit that typing into a cell makes. Raises `InputError` for what cannot be read."""
    system, reading = project.settings.units, project.keep.readings[row.number - 1]
    if column == DATE:
        date = parse_past(text, system)
        return lambda p: with_reading_changed(p, row.number, date=date)
    spec = (reading.kind, reading.machine, reading.place)
    value = read_value(reading.kind, text, system)
    new = reading_of(project, spec, value, reading.date, typed=text)
    return lambda p: with_reading_changed(p, row.number, value=new.value, error=new.error)


def deleted_readings(rows: Sequence[ReadingRow]) -> Edit:
    """The edit that takes some readings out."""

    def edit(project: Project) -> Project:
        # From behind, so that numbers before stay what they are.
        for number in sorted((row.number for row in rows), reverse=True):
            project = without_reading(project, number)
        return project

    return edit

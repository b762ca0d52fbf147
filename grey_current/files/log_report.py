"""The logbook and what comes next, as text, plain values and CSV; lines of it as they are typed."""

from __future__ import annotations

import datetime
from dataclasses import asdict
from typing import Any, get_args

from grey_current.dates import date_words, month_name
from grey_current.errors import InputError
from grey_current.files.csv_text import csv_of
from grey_current.files.keep_report import exact
from grey_current.keep.chips import chip_uses, chips_of
from grey_current.keep.forecast import Forecast, Month, months
from grey_current.keep.log import design_mark, log_lines
from grey_current.numerals import decimal
from grey_current.shop.edits import checked
from grey_current.shop.keep_plan import EntryKind, LogEntry
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.units import Display, System

ENTRY_KINDS: tuple[EntryKind, ...] = get_args(EntryKind)
COLUMNS = (
    "date",
    "what",
    "machine",
    "place",
    "value",
    "hours",
    "litres",
    "kWh",
    "woods",
    "note",
    "design",
)
LONGEST_NOTE = 200


def made_entry(
    project: Project, kind: str, date: datetime.date, place: str | None = None, **facts: Any
) -> LogEntry:
    """A line of the logbook about the present design. Raises `InputError` for a kind or figure that
    cannot be.
    """
    known = next((item for item in ENTRY_KINDS if item == kind.strip().lower()), None)
    if known is None:
        raise InputError("logbook", kind, f"write one of: {', '.join(ENTRY_KINDS)}")
    plain = LogEntry(kind=known, date=date, place=place, design=design_mark(project))
    return checked(plain, "logbook", facts, Display(project.settings.units))


def log_text(project: Project) -> str:
    """The logbook, newest first; lines that are no readings have a number with L before it."""
    units = project.settings.units
    lines: list[str] = []
    for line in log_lines(project):
        number = f"L{line.entry}" if line.entry else f"{line.reading}"
        lines.append(f"{date_words(line.date, units):>12}  {number:>4}  {line.words}")
    return "\n".join(lines or ["Nothing is written down yet."])


def dates_words(item: Forecast, system: System) -> str:
    """When something is likely to be due."""
    early = date_words(item.early, system) if item.early is not None else "now"
    if item.date is None:
        return "not within three years" if item.early is None else f"perhaps from {early}"
    date = date_words(item.date, system)
    if item.early == item.late == item.date:
        return f"now ({date})"
    late = date_words(item.late, system) if item.late is not None else "not within three years"
    return f"about {date} (likely {early} to {late})"


def forecast_text(project: Project, found: tuple[Forecast, ...]) -> str:
    """What is due next, the chips, and the months of the logbook."""
    lines = [f"{project.name}: what comes next"]
    lines += [
        f"  {item.words}: {dates_words(item, project.settings.units)}. {item.why}."
        for item in found
    ]
    if not found:
        lines.append(
            "  Nothing that could be foreseen: no collector serves a machine that is used."
        )
    for collector in project.collectors:
        chips = chips_of(project, collector.id)
        if chips is not None:
            where = Names(project).of(collector.id)
            lines.append(f"Chips of {where} ({chips.words}). Check with whoever takes them:")
            uses = chip_uses(chips.woods)
            lines += [f"  {item.use}: {'' if item.good else 'no, '}{item.words}" for item in uses]
    lines += [month_words(month, Display(project.settings.units)) for month in months(project)]
    return "\n".join(lines)


def month_words(month: Month, display: Display) -> str:
    """A month in a line."""
    days = "1 day" if month.days == 1 else f"{month.days} days"
    return (
        f"{month_name(month.name)}: {days} at work, {decimal(month.hours, 1)} h, "
        f"{display.volume(month.litres)}, {decimal(month.kwh, 1)} kWh, "
        f"{month.readings} readings"
    )


def forecast_report(project: Project, found: tuple[Forecast, ...]) -> dict[str, Any]:
    """The same as plain values."""
    return {
        "format": "grey-current/forecast/1",
        "due": [
            {
                "element": item.element,
                "words": item.words,
                "date": _iso(item.date),
                "early": _iso(item.early),
                "late": _iso(item.late),
                "why": item.why,
            }
            for item in found
        ],
        "chips": [
            {"collector": c.id, "use": use.use, "good": use.good, "words": use.words}
            for c in project.collectors
            if (chips := chips_of(project, c.id)) is not None
            for use in chip_uses(chips.woods)
        ],
        "months": [{"month": m.name, **asdict(m)} for m in months(project)],
    }


def _iso(date: datetime.date | None) -> str | None:
    return None if date is None else date.isoformat()


def book_csv(project: Project) -> str:
    """The whole logbook as CSV, the oldest first: readings in the project's units, and all other
    lines.
    """
    display = Display(project.settings.units)
    rows: list[tuple[datetime.date, tuple[object, ...]]] = [
        (
            r.date,
            (
                r.date,
                r.kind,
                r.machine,
                r.place,
                exact(display, r.kind, r.value),
                "",
                "",
                "",
                "",
                r.note,
                "",
            ),
        )
        for r in project.keep.readings
    ]
    rows += [
        (
            e.date,
            (
                *(e.date, e.kind, "", e.place or "", ""),
                *("" if figure is None else f"{figure:g}" for figure in (e.hours, e.litres, e.kwh)),
                *(" ".join(e.woods), e.note, e.design),
            ),
        )
        for e in project.keep.entries
    ]
    return csv_of(COLUMNS, (row for _, row in sorted(rows, key=lambda item: item[0])))

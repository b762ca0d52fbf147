"""The logbook: lines by date with the design that stood then, a day's work written down, two copies
put together.
"""

from __future__ import annotations

import datetime
import hashlib
from collections import Counter
from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass
from functools import partial
from typing import TypeVar

from grey_current.errors import InputError
from grey_current.keep.reading_words import figure, place_words
from grey_current.numerals import decimal
from grey_current.shop.design_parts import Parts
from grey_current.shop.keep_edits import check_entry, check_place, with_keep
from grey_current.shop.keep_plan import LogEntry, Reading
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.units import Display
from grey_current.work.day import Day, served_by_collectors
from grey_current.work.materials import UNSAID

# Signs of a design's mark.
MARK = 10
DONE = {
    "worked": "a day's work",
    "bin emptied": "bin emptied",
    "filter cleaned": "filter cleaned",
    "filter changed": "new filter",
    "hose changed": "new hose",
    "mended": "mended",
    "noticed": "noticed",
}


def design_mark(project: Project) -> str:
    """A mark of the design as it stands: the same for the same ducts, machines and collectors."""
    text = "".join(repr(getattr(project, name)) for name in Parts.model_fields)
    return hashlib.sha256(text.encode()).hexdigest()[:MARK]


def entries_of_day(day: Day, date: datetime.date) -> tuple[LogEntry, ...]:
    """A day's work as lines of the logbook: one for each collector that was on. Raises `InputError`
    for none.
    """
    hours = {collector: day.hours_on(collector) for collector in day.on}
    whole = sum(hours.values()) or 1.0
    mark = design_mark(day.project)
    made = tuple(
        LogEntry(
            kind="worked",
            date=date,
            place=collector,
            hours=round(min(hours[collector], 24.0), 2),
            litres=round(min(day.bins.get(collector, 0.0), 5000.0), 1),
            # The day's energy is shared out by the hours that each collector ran.
            kwh=round(day.kwh * hours[collector] / whole, 2),
            woods=_woods_into(day, collector),
            design=mark,
        )
        for collector in day.on
    )
    if not made:
        raise InputError(
            "the day",
            "no jobs",
            "plan a day at machines that have a collector at the Work stage first",
        )
    return made


def _woods_into(day: Day, collector: str) -> tuple[str, ...]:
    """Woods of the day's jobs whose chips fall into a collector's bin; of a job without one, that
    it is not known.
    """
    served = served_by_collectors(day.project)
    mine = [day.jobs[n] for n in day.order if collector in served.get(day.jobs[n].machine, ())[:1]]
    return tuple(dict.fromkeys(job.wood or UNSAID for job in mine))


@dataclass(frozen=True)
class Line:
    """A line of the logbook to be read: its date, its words, and which entry or reading (from 1) it
    is.
    """

    date: datetime.date
    words: str
    entry: int | None = None
    reading: int | None = None


def log_lines(project: Project) -> list[Line]:
    """Everything that was written down, the newest first."""
    display, names = Display(project.settings.units), Names(project)
    mark = design_mark(project) if project.keep.entries else ""
    lines = [
        Line(
            r.date,
            f"{place_words(names, r.kind, r.machine, r.place)}: {figure(display, r.kind, r.value)}"
            + (f". {r.note}" if r.note else ""),
            reading=number,
        )
        for number, r in enumerate(project.keep.readings, 1)
    ]
    lines += [
        Line(e.date, entry_words(names, e, mark), entry=number)
        for number, e in enumerate(project.keep.entries, 1)
    ]
    return sorted(lines, key=lambda line: line.date, reverse=True)


def entry_words(names: Names, entry: LogEntry, mark: str) -> str:
    """A line of the logbook in words; `mark` is that of the present design."""
    parts = [DONE[entry.kind]]
    parts += [f"{decimal(entry.hours, 1)} h"] if entry.hours is not None else []
    parts += (
        [Display(names.project.settings.units).volume(entry.litres)]
        if entry.litres is not None
        else []
    )
    parts += [f"{decimal(entry.kwh, 1)} kWh"] if entry.kwh is not None else []
    where = f"{names.start(entry.place)}: " if entry.place is not None else ""
    words = capital(f"{where}{', '.join(parts)}")
    words += f". {entry.note}" if entry.note else ""
    return words + (
        " (with other ducts or machines than now)" if entry.design and entry.design != mark else ""
    )


# -- two copies


@dataclass(frozen=True)
class Merged:
    """Two copies of a logbook put together, and how many readings and lines came from the other
    one.
    """

    project: Project
    readings: int
    entries: int


def merged(mine: Project, theirs: Project) -> Merged:
    """My project with what only the other copy's logbook has. The rest of the other copy is not
    looked at.

    Raises `InputError` where the other one speaks of places that are not in my shop: then they are
    no copies.
    """
    readings = _only_there(mine.keep.readings, theirs.keep.readings)
    entries = _only_there(mine.keep.entries, theirs.keep.entries)
    # Another copy may know machines that are gone here: said before anything is taken.
    for reading in readings:
        _fits(theirs, reading.date, partial(check_place, mine, reading))
    for entry in entries:
        _fits(theirs, entry.date, partial(check_entry, mine, entry))
    project = with_keep(
        mine,
        readings=_by_date((*mine.keep.readings, *readings)),
        entries=_by_date((*mine.keep.entries, *entries)),
    )
    return Merged(project, len(readings), len(entries))


def _fits(theirs: Project, date: datetime.date, check: Callable[[], None]) -> None:
    try:
        check()
    except InputError as problem:
        rule = (
            "it cannot be put together with this one, whose shop has no such place; mend that first"
        )
        raise InputError(f"the logbook of {theirs.name}, {date}", problem.value, rule) from None


Dated = TypeVar("Dated", Reading, LogEntry)


def _by_date(items: Sequence[Dated]) -> tuple[Dated, ...]:
    return tuple(sorted(items, key=lambda item: item.date))


Kept = TypeVar("Kept", bound=Hashable)


def _only_there(mine: Iterable[Kept], theirs: Iterable[Kept]) -> list[Kept]:
    """What theirs has more often than mine, as often as that: the same line twice is two lines."""
    have, found = Counter(mine), list[Kept]()
    for item in theirs:
        if have[item] > 0:
            have[item] -= 1
        else:
            found.append(item)
    return found

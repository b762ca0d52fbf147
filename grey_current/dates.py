"""Dates as people of a shop say them, and back: in US units the month comes before the day.

Imports only `errors` and `units`. In data files dates are ISO (2026-11-30), which is read here too.
"""

from __future__ import annotations

import datetime
import re

from grey_current.errors import InputError
from grey_current.units import System

MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
_FIGURES = re.compile(r"(\d{1,2})[./-](\d{1,2})[./-]?(\d{4}|\d{2})?")
_DAY_FIRST = re.compile(r"(\d{1,2})\.?\s+([a-z]{3})[a-z]*\.?,?\s*(\d{4})?")
_MONTH_FIRST = re.compile(r"([a-z]{3})[a-z]*\.?\s+(\d{1,2}),?\s*(\d{4})?")


def date_words(date: datetime.date, system: System) -> str:
    """A date in words that nobody takes for another one.

    >>> date_words(datetime.date(2026, 3, 4), "us"), date_words(datetime.date(2026, 3, 4), "metric")
    ('Mar 4, 2026', '4 Mar 2026')
    """
    month = MONTHS[date.month - 1]
    if system == "us":
        return f"{month} {date.day}, {date.year}"
    return f"{date.day} {month} {date.year}"


def month_name(month: str) -> str:
    """A month of the logbook in words.

    >>> month_name("2026-03")
    'Mar 2026'
    """
    year, _, number = month.partition("-")
    return f"{MONTHS[int(number) - 1]} {year}"


def parse_past(text: str, system: System, where: str = "date") -> datetime.date:
    """Read a date as `parse_date` does, of a day that has been. Raises `InputError`."""
    date = parse_date(text, system, where)
    if date > datetime.date.today():
        raise InputError(where, text, "write a day that has been")
    return date


def parse_date(
    text: str, system: System, where: str = "date", today: datetime.date | None = None
) -> datetime.date:
    """Read a date such as "3/14/2026", "14.3.2026", "Mar 14", "14 March 2026", "yesterday" or
    "2026-03-14".

    Of two figures the first is the month in US units, else the day; without a year it is the last
    such day up to `today`. Raises `InputError`.
    """
    now = today or datetime.date.today()
    plain = " ".join(text.strip().lower().split())
    near = {"today": 0, "yesterday": 1}
    if plain in near:
        return now - datetime.timedelta(days=near[plain])
    try:
        if re.fullmatch(r"\d{4}-\d{1,2}-\d{1,2}", plain):
            year, month, day = plain.split("-")
        else:
            month, day, year = _parts(plain, system)
        return _date(int(month), int(day), year, now)
    except ValueError:
        example = "Mar 14, 2026 or 3/14/2026" if system == "us" else "14 Mar 2026 or 14.3.2026"
        raise InputError(where, text, f"write a date such as {example}") from None


def _parts(plain: str, system: System) -> tuple[str, str, str]:
    """Month, day and year (or nothing) as they were written. Raises `ValueError`."""
    if found := _FIGURES.fullmatch(plain):
        first, second, year = found[1], found[2], found[3] or ""
        return (first, second, year) if system == "us" else (second, first, year)
    named = _DAY_FIRST.fullmatch(plain)
    if named:
        day, name, year = named[1], named[2], named[3] or ""
    elif named := _MONTH_FIRST.fullmatch(plain):
        name, day, year = named[1], named[2], named[3] or ""
    else:
        raise ValueError(plain)
    return str([month.lower() for month in MONTHS].index(name) + 1), day, year


def _date(month: int, day: int, year: str, now: datetime.date) -> datetime.date:
    """A date; in the year that is meant where none was written. Raises `ValueError`."""
    if year:
        return datetime.date(int(year) + (2000 if len(year) == 2 else 0), month, day)
    this = datetime.date(now.year, month, day)
    return this if this <= now else datetime.date(now.year - 1, month, day)

"""Chores and what is due as a calendar file.

Source: RFC 5545, Internet Calendaring and Scheduling Core Object Specification, 2009.
"""

from __future__ import annotations

import datetime
import hashlib
from collections.abc import Iterable

from grey_current.keep.forecast import Forecast
from grey_current.work.chores import Chore

# Octets of a line before it is folded.
LINE = 73


def calendar(
    chores: Iterable[Chore], shop: str, today: datetime.date, due: Iterable[Forecast] = ()
) -> str:
    """The text of an .ics file: every chore an event of a day that comes again, what is due once on
    its likely day.
    """
    stamp = f"{today:%Y%m%d}T000000Z"
    lines = [
        "BEGIN:VCALENDAR",
        "VERSION:2.0",
        "PRODID:-//Grey Current//Chores//EN",
        "CALSCALE:GREGORIAN",
    ]
    for chore in chores:
        again = (f"RRULE:FREQ=DAILY;INTERVAL={chore.days}",)
        lines += _event(chore.words, shop, chore.first(today), chore.why, stamp, again)
    for item in due:
        if item.date is not None:
            lines += _event(item.words, shop, item.date, item.why, stamp)
    return "".join(f"{part}\r\n" for line in [*lines, "END:VCALENDAR"] for part in _folded(line))


def _event(
    words: str, shop: str, day: datetime.date, why: str, stamp: str, again: tuple[str, ...] = ()
) -> list[str]:
    mark = hashlib.sha256(f"{shop}/{words}".encode()).hexdigest()[:24]
    return [
        "BEGIN:VEVENT",
        f"UID:{mark}@grey-current",
        f"DTSTAMP:{stamp}",
        f"DTSTART;VALUE=DATE:{day:%Y%m%d}",
        *again,
        f"SUMMARY:{_text(words)}",
        f"DESCRIPTION:{_text(f'{shop}: {why}.')}",
        "TRANSP:TRANSPARENT",
        "END:VEVENT",
    ]


def _text(text: str) -> str:
    for sign in ("\\", ";", ","):
        text = text.replace(sign, f"\\{sign}")
    return text.replace("\n", "\\n")


def _folded(line: str) -> list[str]:
    """A line in pieces of at most 75 octets, the later ones begun with a space."""
    parts, now = [], ""
    for letter in line:
        if len((now + letter).encode()) > LINE:
            parts.append(now)
            now = " "
        now += letter
    return [*parts, now]

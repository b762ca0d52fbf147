"""Chores as a calendar file. Source: RFC 5545, Internet Calendaring and Scheduling Core Object Specification, 2009."""

from __future__ import annotations

import datetime
import hashlib
from collections.abc import Iterable

from grey_current.work.chores import Chore

LINE = 73
"""Octets of a line before it is folded."""


def calendar(chores: Iterable[Chore], shop: str, today: datetime.date) -> str:
    """The text of an .ics file with every chore as an event of a day that comes again."""
    stamp = f"{today:%Y%m%d}T000000Z"
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", "PRODID:-//Grey Current//Chores//EN", "CALSCALE:GREGORIAN"]
    for chore in chores:
        mark = hashlib.sha256(f"{shop}/{chore.words}".encode()).hexdigest()[:24]
        lines += [
            "BEGIN:VEVENT",
            f"UID:{mark}@grey-current",
            f"DTSTAMP:{stamp}",
            f"DTSTART;VALUE=DATE:{chore.first(today):%Y%m%d}",
            f"RRULE:FREQ=DAILY;INTERVAL={chore.days}",
            f"SUMMARY:{_text(chore.words)}",
            f"DESCRIPTION:{_text(f'{shop}: {chore.why}.')}",
            "TRANSP:TRANSPARENT",
            "END:VEVENT",
        ]
    return "".join(f"{part}\r\n" for line in [*lines, "END:VCALENDAR"] for part in _folded(line))


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

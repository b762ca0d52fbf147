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
# A calendar has to hold something: where nothing is due it names its time.
NOTHING = (
    "BEGIN:VTIMEZONE",
    "TZID:UTC",
    "BEGIN:STANDARD",
    "DTSTART:19700101T000000",
    "TZOFFSETFROM:+0000",
    "TZOFFSETTO:+0000",
    "END:STANDARD",
    "END:VTIMEZONE",
)
# From the start of the day to its alarm: nine in the morning.
ALARM = "PT9H"


def calendar(
    chores: Iterable[Chore], shop: str, today: datetime.date, due: Iterable[Forecast] = ()
) -> str:
    """The text of an .ics file: every chore an event of a day that comes again with an alarm in the
    morning, what is due once on its likely day.

    A chore for which the logbook gives a date comes first on that, so that each bin and each filter
    has one entry.
    """
    stamp = f"{today:%Y%m%d}T000000Z"
    lines = [
        "BEGIN:VCALENDAR",
        "VERSION:2.0",
        "PRODID:-//Grey Current//Chores//EN",
        "CALSCALE:GREGORIAN",
    ]
    left = [(item, item.date) for item in due if item.date is not None]
    expected = {item.key: (item, day) for item, day in left if item.key}
    taken = set()
    for chore in chores:
        day, why = chore.first(today), chore.why
        if chore.key in expected:
            item, day = expected[chore.key]
            why = f"{why}; {item.why}"
            taken.add(chore.key)
        again = (f"RRULE:FREQ=DAILY;INTERVAL={chore.days}",)
        lines += _event(chore.words, shop, day, why, stamp, again)
    for item, day in left:
        if item.key not in taken:
            lines += _event(item.words, shop, day, item.why, stamp)
    if "BEGIN:VEVENT" not in lines:
        lines += NOTHING
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
        "BEGIN:VALARM",
        "ACTION:DISPLAY",
        f"DESCRIPTION:{_text(words)}",
        f"TRIGGER:{ALARM}",
        "END:VALARM",
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

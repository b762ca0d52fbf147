"""The usual ways in which people jot a job, brought into the one that is read: "20 min on the saw"
becomes "saw 20 min".
"""

from __future__ import annotations

import re
from collections.abc import Callable

from grey_current.numerals import compact

# Words that say nothing of their own.
FILLERS = frozenset(
    [
        "for",
        "on",
        "at",
        "the",
        "with",
        "used",
        "using",
        "some",
        "about",
        "around",
        "roughly",
        "ca",
        "circa",
        "of",
        "a",
        "an",
        "my",
        "i",
        "did",
        "then",
        "and",
        "in",
        "to",
        "do",
        "doing",
        "worked",
        "work",
        "ran",
        "run",
    ]
)
# What people call machines, as their names have it.
CALLED = {
    "chop saw": "miter",
    "chopsaw": "miter",
    "drop saw": "miter",
    "thickness planer": "planer",
    "thicknesser": "planer",
    "surface planer": "jointer",
    "surfacer": "jointer",
    "tablesaw": "saw",
    "table saw": "saw",
    "band saw": "bandsaw",
    "router": "router table",
    "drill": "drill press",
}
_SIGNS = {"½": 0.5, "¼": 0.25, "¾": 0.75}
_WORDS = {"half an": 0.5, "half a": 0.5, "a quarter of an": 0.25, "an": 1.0, "one": 1.0, "two": 2.0}
_FIGURE = r"\d+\s+\d/\d|\d/\d|\d+(?:[.,]\d+)?\s*[½¼¾]?|[½¼¾]"
_HOURS = r"hours?|hrs?|h"
_MINUTES = r"minutes?|mins?|m|'"
# From the fullest way to say how long to the barest.
_DURATIONS = (
    re.compile(r"(?<![\d:])(?P<h>\d{1,2}):(?P<m>[0-5]\d)(?![\d:])(?:\s*(?:h|hours?)\b)?"),
    re.compile(
        rf"(?P<h>{_FIGURE})\s*(?:{_HOURS})\b\.?\s*(?:and\s+)?(?P<m>\d{{1,2}})\s*(?:{_MINUTES})?"
    ),
    re.compile(r"(?P<h>\d{1,2})h(?P<m>[0-5]\d)\b"),
    re.compile(rf"(?P<h>{_FIGURE}|half an?|a quarter of an|an|one|two)\s*(?:{_HOURS})\b\.?"),
    re.compile(rf"(?P<m>{_FIGURE}|an|one|two)\s*(?:{_MINUTES})(?!\w)\.?"),
    re.compile(rf"(?P<m>{_FIGURE})"),
)


def figure(text: str) -> float:
    """A number as people write it: "1 1/2", "1½", "1,5", "half an"."""
    plain = text.strip().lower()
    if plain in _WORDS:
        return _WORDS[plain]
    total = 0.0
    for part in re.findall(r"\d+/\d|\d+(?:[.,]\d+)?|[½¼¾]", plain):
        if part in _SIGNS:
            total += _SIGNS[part]
        elif "/" in part:
            above, _, below = part.partition("/")
            total += int(above) / max(int(below), 1)
        else:
            total += float(part.replace(",", "."))
    return total


def duration(text: str) -> tuple[float, int, int] | None:
    """How many minutes a text says, and where in it; None where it says none."""
    for pattern in _DURATIONS:
        found = pattern.search(text)
        if found is None:
            continue
        said = found.groupdict()
        minutes = 60 * figure(said["h"]) if said.get("h") else 0.0
        minutes += figure(said["m"]) if said.get("m") else 0.0
        return minutes, found.start(), found.end()
    return None


def usual_job(text: str, is_machine: Callable[[str], bool]) -> str | None:
    """A job in the one way that is read; None where no time or no machine is found in it.

    `is_machine` says whether some words mean one machine, or work by hand.
    """
    text = re.sub(r"^[\s\-–•*·.]+", "", text).lower()
    found = duration(text)
    # A sign at the figure is one, "saw -5"; words in brackets are a working place.
    if found is None or re.search(r"(?:^|\s)[-+−]\d|\([^)]*[a-z]", text):
        return None
    minutes, start, end = found
    head, _, tail = f"{text[:start]} {text[end:]}".partition("after ")
    words = [word for word in re.sub(r"[:=()\-–,.]+", " ", head).split() if word not in FILLERS]
    # The longest run of words that is a machine; what else stands there is a wood.
    for count in range(len(words), 0, -1):
        for first in range(len(words) - count + 1):
            name = " ".join(words[first : first + count])
            if is_machine(name):
                wood = " ".join(words[:first] + words[first + count :])
                after = f" after {tail.strip()}" if tail.strip() else ""
                return f"{name} {compact(minutes)} min {wood}{after}".strip()
    return None


def as_called(text: str, is_machine: Callable[[str], bool]) -> str:
    """A day with machines' own names in place of what people call them, where only those mean
    one.
    """
    for called, name in CALLED.items():
        if not is_machine(called) and is_machine(name):
            # "router" stands for a router table, but "router table" is one already.
            more = re.escape(name.removeprefix(called)) if name.startswith(called) else "(?!)"
            text = re.sub(rf"\b{called}\b(?!{more})", name, text, flags=re.IGNORECASE)
    return text


def only_words(text: str, known: Callable[[str], object]) -> list[str]:
    """The words of a piece without a time, where all but fillers are known; else none."""
    words = [word for word in re.findall(r"[a-z-]+", text.lower()) if word not in FILLERS]
    if re.search(r"\d|[½¼¾]", text) or not all(known(word) for word in words):
        return []
    return words


def parts_of(text: str) -> list[str]:
    """A piece of a day that holds several jobs, parted where each part says its time."""
    parts = re.split(r"\s+(?:and then|and|then|&|\+|plus)\s+", text)
    if len(parts) > 1 and all(re.search(r"\d|½|¼|¾|hour|lunch|break", part) for part in parts):
        return parts
    return [text]

"""Words as a shop of a system of units has them: American spelling in shops of feet and inches,
trade sizes in millimetres in metric ones.

Sentences are written in British spelling; what is shown in a shop of feet and inches goes through
`spelled`, what the catalogue calls its things through `localised`. Names that somebody typed do
not. Words that need no table are better: "middle" for centre, "fumes" for vapours. Imports only
`units` and `numerals`.
"""

from __future__ import annotations

import math
import re

from grey_current.numerals import in_marks
from grey_current.units import System

AMERICAN = {
    "aluminium": "aluminum",
    "centre": "center",
    "colour": "color",
    "grey": "gray",
    "litre": "liter",
    "metre": "meter",
    "centimetre": "centimeter",
    "millimetre": "millimeter",
    "mitre": "miter",
    "mitred": "mitered",
    "moulder": "molder",
    "neighbour": "neighbor",
}
# mm of a trade inch: a 10 in blade is sold as 250 mm.
TRADE_INCH = 25
_NAME = "Grey Current"
_WORDS = re.compile(rf"{_NAME}|\b({'|'.join(AMERICAN)})(?=s?\b)", re.IGNORECASE)

_INCHES = re.compile(r"\b(\d+)(?: (1)/(2))?(?: x (\d+))? in\b")


def spelled(text: str, system: System) -> str:
    """A text as it is spelled in shops of a system of units; the program's name stays.

    >>> spelled("Mitre saw, in Grey Current", "us")
    'Miter saw, in Grey Current'
    """
    return _WORDS.sub(_american, text) if system == "us" else text


def spellings(text: str) -> set[str]:
    """A text in both spellings: what is typed may have either, whatever the shop's units are."""
    british = text
    for ours, theirs in AMERICAN.items():
        british = re.sub(rf"\b{theirs}(?=s?\b)", ours, british, flags=re.IGNORECASE)
    return {text, spelled(text, "us"), british}


def localised(text: str, system: System) -> str:
    """What the catalogue calls something, in a shop's spelling, trade sizes and marks.

    >>> localised("6 x 48 in belt, 2 1/2 in hose", "metric")
    '150 x 1200 mm belt, 63 mm hose'
    """
    return in_marks(spelled(text, system) if system == "us" else _INCHES.sub(_metric, text))


def names_alike(one: str, other: str) -> bool:
    """Whether two names say the same in one spelling, size and mark or another."""
    return _plainest(one) == _plainest(other)


def _plainest(text: str) -> str:
    return localised(spelled(text, "us"), "metric").lower().replace(",", ".")


def _metric(found: re.Match[str]) -> str:
    half = 0.5 if found[2] else 0.0
    sizes = [float(found[1]) + half, *([float(found[4])] if found[4] else [])]
    return " x ".join(f"{_trade_size(size):g}" for size in sizes) + " mm"


def _trade_size(inches: float) -> float:
    """Millimetres (whole, from 100 in steps of 5) that something of so many inches is sold as."""
    step = 5 if inches > 4 else 1
    return math.floor(inches * TRADE_INCH / step + 0.5) * step


def _american(found: re.Match[str]) -> str:
    word = found[1]
    if word is None:
        return found[0]
    made = AMERICAN[word.lower()]
    return made.capitalize() if word[0].isupper() else made

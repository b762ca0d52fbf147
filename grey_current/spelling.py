"""American spelling for shops in US units: the words that are spelled in two ways, in one table.

Sentences are written in British spelling; what is shown in a shop of feet and inches goes through
`spelled`. Names that somebody typed do not. Words that need no table are better: "middle" for
centre, "fumes" for vapours. Imports only `units`.
"""

from __future__ import annotations

import re

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
_NAME = "Grey Current"
_WORDS = re.compile(rf"{_NAME}|\b({'|'.join(AMERICAN)})(?=s?\b)", re.IGNORECASE)


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


def _american(found: re.Match[str]) -> str:
    word = found[1]
    if word is None:
        return found[0]
    made = AMERICAN[word.lower()]
    return made.capitalize() if word[0].isupper() else made

"""How figures are written: with the marks for decimals and thousands of whoever reads them.

One choice for the whole program, made before the first sentence is written, as a locale is:
sentences are written in every room, and kept. Helper processes find it in the environment. Imports
nothing.

>>> decimal(1234.5, 1), compact(0.25)
('1,234.5', '0.25')
"""

from __future__ import annotations

import os
import re
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Literal

Marks = Literal["point", "comma"]
# The choice in the environment: for the command line, and for helper processes.
VARIABLE = "GREY_CURRENT_NUMBERS"
# 1,234.5 becomes 1 234,5: a space that no line is broken at parts the thousands, so that neither a
# dot nor a comma is ever read as the other one (ISO 80000-1, 7.3.1 and 7.3.2).
_TO_COMMA = str.maketrans(",.", "\u00a0,")
_POINT = re.compile(r"(?<=\d)\.(?=\d)")
_OTHER_WAY = str.maketrans(",.", ".,")

_chosen: list[Marks] = ["comma" if os.environ.get(VARIABLE) == "comma" else "point"]
# Tables in files have points whoever reads them: they go from one desk to another.
_in_a_file: ContextVar[bool] = ContextVar("in_a_file", default=False)


def use_marks(marks: Marks) -> None:
    """Write all figures so from now on, here and in processes that are begun from here."""
    _chosen[0] = marks
    os.environ[VARIABLE] = marks


def with_comma() -> bool:
    """Whether a comma is the decimal mark."""
    return _chosen[0] == "comma" and not _in_a_file.get()


@contextmanager
def as_in_files() -> Iterator[None]:
    """Within it figures are written and read as they stand in files: with a point."""
    token = _in_a_file.set(True)
    try:
        yield
    finally:
        _in_a_file.reset(token)


def decimal(value: float, places: int = 0) -> str:
    """A figure with so many decimals, its thousands parted."""
    text = f"{value:,.{places}f}"
    return text.translate(_TO_COMMA) if with_comma() else text


def compact(value: float, digits: int = 6) -> str:
    """A figure with as many decimals as it has, up to so many digits in all."""
    text = f"{value:.{digits}g}"
    return text.translate(_TO_COMMA) if with_comma() else text


def in_marks(text: str) -> str:
    """A text that was written with points, of the catalogue or of a page, with the marks in use."""
    return _POINT.sub(",", text) if with_comma() else text


def with_points(typed: str) -> str:
    """What was typed, as it would be with a point as the decimal mark: each mark for the other.

    So every rule about marks is written once, for the point; it leads back again too.
    """
    return typed.translate(_OTHER_WAY) if with_comma() else typed

"""Figures with a comma, as long as a test lasts."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager

from grey_current.numerals import Marks, use_marks

# A decimal point, as none is to be seen where figures have a comma.
POINT = re.compile(r"\d\.\d")


@contextmanager
def written(marks: Marks) -> Iterator[None]:
    """Within it figures are written with these marks."""
    use_marks(marks)
    try:
        yield
    finally:
        use_marks("point")

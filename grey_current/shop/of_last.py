"""What was worked out for the project that was asked about last: one question after the other is
about the same one.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Generic, TypeVar

from grey_current.shop.model import Project

T = TypeVar("T")


class OfLast(Generic[T]):
    """Something that follows from a project, kept for the very same one, in each thread by
    itself.
    """

    def __init__(self, made: Callable[[Project], T]) -> None:
        self._made, self._last = made, threading.local()

    def __call__(self, project: Project) -> T:
        """It, for a project. Raises what making it raises."""
        known: tuple[Project, T] | None = getattr(self._last, "known", None)
        if known is None or known[0] is not project:
            known = self._last.known = project, self._made(project)
        return known[1]

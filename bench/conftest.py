"""Prints the figures after the run, each with the clock of that moment."""

from __future__ import annotations

import faulthandler
import time
from collections.abc import Callable

import pytest

FIGURES: list[str] = []


def best(function: Callable[[], object], repeat: int = 7) -> float:
    """Seconds of the quickest of several calls."""
    times = []
    for _ in range(repeat):
        start = time.perf_counter()
        function()
        times.append(time.perf_counter() - start)
    return min(times)


def clock() -> float:
    """Milliseconds that this machine takes now for a fixed piece of work: its speed varies by the
    minute."""
    return best(lambda: sum(i * i for i in range(100_000)), 3) * 1e3


def report(words: str) -> None:
    """One figure for the end of the run."""
    FIGURES.append(f"{words} (clock {clock():.1f})")


def pytest_terminal_summary(terminalreporter):
    for line in FIGURES:
        terminalreporter.write_line(line)


@pytest.fixture(autouse=True)
def as_long_as_it_takes() -> None:
    """No watchdog: it would look into a measurement that runs for minutes, and can end the program
    by that."""
    faulthandler.cancel_dump_traceback_later()

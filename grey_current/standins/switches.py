"""Stand-ins for switches: one that senses a tool's current and starts the collector, a remote, and
a timer.

Each is told what happens at which second and answers when what it switches goes on or off; real
ones would have the same interface.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Protocol

# From one second to another.
Span = tuple[float, float]


class Switch(Protocol):
    """What switches a collector or a cleaner."""

    def on_during(self, tools: Sequence[Span], until: float) -> list[Span]:
        """When it is on, from when tools run (s) and when the day ends."""


@dataclass(frozen=True)
class CurrentSwitch:
    """Senses a tool's current: on `delay` s after it starts, off `run_on` s after it stops."""

    delay: float = 1.0
    run_on: float = 0.0

    def on_during(self, tools: Sequence[Span], until: float) -> list[Span]:
        """When it is on; what would go off and on again within its run-on stays on."""
        del until
        return joined(
            (start + self.delay, end + self.run_on)
            for start, end in tools
            if end - start > self.delay
        )


@dataclass(frozen=True)
class Remote:
    """Switched by hand: on before the first tool of the day, off `later` s after the last one."""

    later: float = 0.0

    def on_during(self, tools: Sequence[Span], until: float) -> list[Span]:
        """From the first tool's start to the last one's end."""
        del until
        spans = list(tools)
        return [(min(s for s, _ in spans), max(e for _, e in spans) + self.later)] if spans else []


@dataclass(frozen=True)
class Timer:
    """An air cleaner's: on with the first tool, off so many s after the last."""

    run_on: float

    def on_during(self, tools: Sequence[Span], until: float) -> list[Span]:
        """From the first tool to its run-on after the last, no longer than until the end."""
        spans = Remote(self.run_on).on_during(tools, until)
        return [(start, min(end, until)) for start, end in spans]


class LiveSwitch:
    """A current switch as time goes on: told which tools run, it says whether it is on and what
    run-on is left.
    """

    def __init__(self, delay: float, run_on: float) -> None:
        self.delay, self.run_on = delay, run_on
        self._running: dict[str, float] = {}
        self._off_at = -1.0

    def tell(self, tool: str, on: bool, now: float) -> None:
        """A tool was started or stopped at a moment (s)."""
        was_on = self.state(now)[0]
        if on:
            self._running[tool] = now - self.delay if was_on else now
        elif self._running.pop(tool, None) is not None and not self._running and was_on:
            self._off_at = now + self.run_on

    def state(self, now: float) -> tuple[bool, float]:
        """Whether it is on at a moment (s), and the seconds of run-on that are left."""
        sensed = any(now >= start + self.delay for start in self._running.values())
        left = max(self._off_at - now, 0.0) if not self._running else 0.0
        return sensed or left > 0, left


def joined(spans: Iterable[Span]) -> list[Span]:
    """Spans that overlap or touch as one."""
    made: list[Span] = []
    for start, end in sorted(spans):
        if made and start <= made[-1][1]:
            made[-1] = (made[-1][0], max(made[-1][1], end))
        else:
            made.append((start, end))
    return made

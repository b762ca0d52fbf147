"""Which way air goes through the runs as drawn, and which runs make one branch segment between two
junctions.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from functools import cached_property

from grey_current.shop.ducts import Run
from grey_current.shop.model import Design


def runs_at(design: Design) -> dict[str, list[Run]]:
    """The runs that begin or end at each reference, hoses where they rest."""
    found: dict[str, list[Run]] = defaultdict(list)
    for run in design.runs:
        found[run.start].append(run)
        found[run.end].append(run)
    return found


def far_end(run: Run, near: str) -> str:
    """The other end of a run."""
    return run.start if run.end == near else run.end


def downstream_ends(design: Design, collector: str | None = None) -> dict[str, str]:
    """For each run that leads to a collector, or to one of them, the end that air leaves it by."""
    at = runs_at(design)
    found: dict[str, str] = {}
    heads = [item.id for item in design.collectors if collector in (None, item.id)]
    pending = [(run, head) for head in heads for run in at[head]]
    while pending:
        run, near = pending.pop()
        found[run.id] = near
        far = far_end(run, near)
        pending.extend((other, far) for other in at[far] if other.id not in found)
    return found


class AirPaths:
    """The ways of air through a design, worked out once for many questions.

    `down` is `downstream_ends`, in which every run stands behind the one that its air passes next.
    """

    def __init__(self, design: Design) -> None:
        self.design, self.at, self.down = design, runs_at(design), downstream_ends(design)

    @cached_property
    def _leaving(self) -> dict[str, Run]:
        """The run that air leaves a point by, for each point on a way to a collector."""
        leaving = {}
        for ident, down in self.down.items():
            run = self.design.run[ident]
            leaving[far_end(run, down)] = run
        return leaving

    def next_run(self, run: str) -> Run | None:
        """The run that a run's air passes next on its way to the collector; None behind the last
        one.
        """
        end = self.down.get(run, "")
        return self._leaving.get(end) if end in self.design.point else None

    def onward(self, run: str) -> Iterator[str]:
        """A run and all that its air passes next, up to the collector."""
        here = self.design.run.get(run)
        while here is not None:
            yield here.id
            here = self.next_run(here.id)

    def head(self, run: str) -> str:
        """The collector that a run's air goes to. Raises `KeyError` for one that leads to none."""
        return self.down[list(self.onward(run))[-1]]

    def passed(self, runs: Iterable[str]) -> set[str]:
        """Some runs and all that their air passes on its way to the collector."""
        found: set[str] = set()
        for run in runs:
            found.update(self.onward(run))
        return found

    def branch_segment(self, run: str) -> list[str]:
        """The runs that carry the same air as one: from junction to junction, upstream ones first.

        A run that leads to no collector stands alone.
        """
        if run not in self.down:
            return [run]
        chain = [run]
        # Downstream while exactly two runs meet, then upstream alike.
        here = self.design.run[run]
        while (end := self.down[here.id]) in self.design.point and len(self.at[end]) == 2:
            here = next(other for other in self.at[end] if other.id != here.id)
            chain.append(here.id)
        here = self.design.run[run]
        while (far := far_end(here, self.down[here.id])) in self.design.point and len(
            self.at[far]
        ) == 2:
            here = next(other for other in self.at[far] if other.id != here.id)
            chain.insert(0, here.id)
        return chain


def branch_segment(design: Design, run: str) -> list[str]:
    """The runs that carry the same air as one, as `AirPaths.branch_segment`."""
    return AirPaths(design).branch_segment(run)

"""What a design consists of, by list and by id."""

from __future__ import annotations

import operator
from collections.abc import Sequence
from functools import cached_property
from typing import Annotated

from pydantic import Field

from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.machines import Machine, Pickup
from grey_current.shop.values import Value

# Fields of a project that hold elements with ids.
LISTS = (
    "rooms",
    "openings",
    "beams",
    "features",
    "circuits",
    "outlets",
    "machines",
    "collectors",
    "points",
    "runs",
    "gates",
)


def alike(was: Sequence[object], now: Sequence[object]) -> bool:
    """Whether two lists hold the very same values: what an edit leaves alone stays the value that
    it was.
    """
    return len(was) == len(now) and all(map(operator.is_, was, now))


class Parts(Value):
    """Machines, collectors and the ductwork between them, by list and by id.

    A home shop has some dozens; what is far beyond that would compute for minutes and is refused.
    """

    machines: Annotated[tuple[Machine, ...], Field(max_length=200)] = ()
    collectors: Annotated[tuple[Collector, ...], Field(max_length=60)] = ()
    points: Annotated[tuple[Point, ...], Field(max_length=1200)] = ()
    runs: Annotated[tuple[Run, ...], Field(max_length=1200)] = ()
    gates: Annotated[tuple[Gate, ...], Field(max_length=600)] = ()

    @cached_property
    def machine(self) -> dict[str, Machine]:
        return {item.id: item for item in self.machines}

    @cached_property
    def collector(self) -> dict[str, Collector]:
        return {item.id: item for item in self.collectors}

    @cached_property
    def point(self) -> dict[str, Point]:
        return {item.id: item for item in self.points}

    @cached_property
    def run(self) -> dict[str, Run]:
        return {item.id: item for item in self.runs}

    @cached_property
    def moved_hoses(self) -> tuple[Run, ...]:
        """The hoses that are moved between pickups."""
        return tuple([run for run in self.runs if run.also_serves])

    @cached_property
    def moved_to(self) -> frozenset[str]:
        """The pickups that a moved hose goes to; while it is at one, another of the same machine is
        left open.
        """
        return frozenset(ref for run in self.moved_hoses for ref in run.serves)

    @cached_property
    def shared_hoses(self) -> tuple[tuple[Run, ...], ...]:
        """The hoses that are plugged in at several ports, each as the runs that it is at times."""
        named: dict[str, list[Run]] = {}
        for run in self.runs:
            if run.one_hose is not None:
                named.setdefault(run.one_hose, []).append(run)
        return tuple(tuple(runs) for runs in named.values() if len(runs) > 1)

    def same_hose(self, run: Run) -> tuple[Run, ...]:
        """Every run that the hose of one is at times, itself too where it is plugged in at several
        ports; () for any other. Whatever else of the run is tried otherwise.
        """
        return next((runs for runs in self.shared_hoses if runs[0].one_hose == run.one_hose), ())

    @cached_property
    def gate(self) -> dict[str, Gate]:
        return {item.id: item for item in self.gates}

    @cached_property
    def pickup(self) -> dict[str, tuple[Machine, Pickup]]:
        """Every pickup by its reference "machine/pickup"."""
        return {f"{m.id}/{p.id}": (m, p) for m in self.machines for p in m.pickups}

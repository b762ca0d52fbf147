"""What quick couplers, drops and automatic gates would save in a year."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.gates import own_gates
from grey_current.design.space.gate_reach import gate_seconds
from grey_current.design.space.hose_reach import DROP_HOURS, SWAP_SECONDS, swaps
from grey_current.shop.model import Project
from grey_current.work.day import served_by_collectors
from grey_current.work.day_tasks import PACE

# Working weeks of a year. Allowance.
WEEKS = 48
# Hours to make a pair of rings with magnets, or to motorise a gate. Allowance.
COUPLER_HOURS, AUTOMATIC_HOURS = 1.0, 3.0
# Hours to put in a remote or a starter that is bought. Allowance.
STARTER_HOURS = 0.5


@dataclass(frozen=True)
class Worth:
    """What a way to save moving is worth: minutes a year, against hours to make it."""

    words: str
    minutes: float
    hours: float


def worth_making(now: Assessment) -> list[Worth]:
    """Return what each would save in a year, from the uses a week; the most first."""
    project = now.project
    found = []
    for run in project.moved_hoses:
        moved = swaps(project, run)
        # Whoever has timed the swap needs no table.
        if run.coupling == "clamp" and run.swap_seconds is None:
            saved = moved.each_week * (SWAP_SECONDS["clamp"] - SWAP_SECONDS["quick"]) / 60 * WEEKS
            hours = COUPLER_HOURS * (moved.drops + 1)
            found.append(Worth("Quick couplers on the moved hose", saved, hours))
        each_year, hours = moved.minutes * WEEKS, DROP_HOURS * moved.drops
        found.append(Worth("A drop for each machine of the moved hose", each_year, hours))
    found += _switches(project)
    own = own_gates(now)
    seconds = gate_seconds(project)
    a_week = math.fsum(
        project.machine[m].uses_per_week * seconds[gate]
        for m, gates in own.items()
        if m in project.machine
        for gate in gates
    )
    if a_week:
        minutes = a_week * 2 / 60 * WEEKS
        found.append(Worth("Automatic gates", minutes, AUTOMATIC_HOURS * len(project.gates)))
    return sorted((item for item in found if item.minutes >= 1), key=lambda item: -item.minutes)


def _switches(project: Project) -> Iterator[Worth]:
    """What a remote, or a starter that the tool sets off, saves of walking to each switch: there
    and back before the cut and after it.
    """
    served = served_by_collectors(project)
    for collector in project.collectors:
        if collector.auto_start:
            continue
        there = (collector.x, collector.y)
        walked = math.fsum(
            machine.uses_per_week * 4 * math.dist((machine.x, machine.y), there)
            for machine in project.machines
            if collector.id in served.get(machine.id, ())
        )
        words = f"A remote or automatic starter for the {collector.name.lower()}"
        yield Worth(words, walked / PACE / 60 * WEEKS, STARTER_HOURS)

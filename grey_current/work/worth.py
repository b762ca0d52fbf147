"""What quick couplers, drops and automatic gates would save in a year."""

from __future__ import annotations

import math
from dataclasses import dataclass

from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.gates import own_gates
from grey_current.design.space.gate_reach import gate_seconds
from grey_current.design.space.hose_reach import DROP_HOURS, SWAP_SECONDS, swaps

# Working weeks of a year. Allowance.
WEEKS = 48
# Hours to make a pair of rings with magnets, or to motorise a gate. Allowance.
COUPLER_HOURS, AUTOMATIC_HOURS = 1.0, 3.0


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

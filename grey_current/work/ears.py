"""What a day is on the ears: machines and collectors that run together, the dose, what the next
room hears.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from grey_current.design.collector.noise import USUAL, WALLS, heard_at, total
from grey_current.design.flow.assessment import Assessment
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.work_plan import Wall

# dB(A) where one stands, by how it is cut, where the user has given none. Allowance, ± 5.
NOISE = {"blade": 95.0, "segmented": 88.0, "straight knives": 97.0, "abrasive": 85.0}
USUAL_NOISE = 90.0
# dB that a wall, door or the floor above takes off what is heard beyond it, with its gaps.
# Allowance, ± 5; Long, Architectural Acoustics, 2014, ch. 10, less what gaps let by.
WALL_TAKES: dict[Wall, float] = {
    "open door": 8.0,
    "door": 22.0,
    "sealed door": 28.0,
    "stud wall": 35.0,
    "lined stud wall": 42.0,
    "double stud wall": 52.0,
    "brick wall": 45.0,
    "joist floor": 33.0,
    "insulated floor": 45.0,
}
# What each is called behind which one hears.
BEHIND: dict[Wall, str] = {
    "open door": "an open door",
    "door": "a door",
    "sealed door": "a door with gaskets",
    "stud wall": "a stud wall",
    "lined stud wall": "a stud wall, filled and with a second board",
    "double stud wall": "two stud walls that do not touch",
    "brick wall": "a brick wall",
    "joist floor": "the joists and boards of the floor above",
    "insulated floor": "a floor above, filled, its ceiling on clips",
}
# What each can be made into.
BETTER: dict[Wall, tuple[Wall, ...]] = {
    "open door": ("door", "sealed door"),
    "door": ("sealed door",),
    "stud wall": ("lined stud wall", "double stud wall"),
    "lined stud wall": ("double stud wall",),
    "joist floor": ("insulated floor",),
}
# s of the eight hours over which a dose is told.
WORKDAY = 28_800.0
# Share of the protection on the label that worn muffs and plugs give. NIOSH, 1998: derate by a half
# at the middle.
REAL_PROTECTION = 0.5


@dataclass(frozen=True)
class Stretch:
    """Some seconds in which what one hears stays the same: where one stands, whether it works,
    collectors that run.
    """

    seconds: float
    machine: Machine | None
    works: bool
    collectors: tuple[Collector, ...]


def noise_at(now: Assessment, machine: Machine) -> float:
    """How loud it is at a machine at work, with the collectors that run for it, dB(A)."""
    project, answer = now.project, now.of_machine.get(machine.id)
    running = answer.systems if answer is not None else ()
    heard = [heard_at(project, project.collector[ident], machine).level for ident in running]
    return total([noise_of(machine), *heard])


def noise_of(machine: Machine) -> float:
    """How loud it is where one stands at a machine, dB(A): its own figure, else a usual one by how
    it cuts.
    """
    return (
        machine.noise if machine.noise is not None else NOISE.get(machine.cutter or "", USUAL_NOISE)
    )


def dose(project: Project, stretches: Sequence[Stretch]) -> float:
    """Sound exposure as a level over eight hours, dB(A), by exchange of 3 dB; −∞ in silence. Raises
    nothing.

    Source: ISO 1999, 2013, eq. (1): L_EX,8h = 10 log Σ t/8h 10^(L/10).
    """
    parts = []
    for stretch in stretches:
        # The machine's own noise while one works at it, and every collector as it is heard there.
        levels = (
            [noise_of(stretch.machine)] if stretch.machine is not None and stretch.works else []
        )
        if stretch.machine is not None:
            levels += [
                heard_at(project, item, stretch.machine).level for item in stretch.collectors
            ]
        if levels and stretch.seconds > 0:
            parts.append(total(levels) + 10 * math.log10(stretch.seconds / WORKDAY))
    return total(parts)


def next_door(project: Project, stretches: Sequence[Stretch]) -> float | None:
    """What the next room hears while the day is loudest, dB(A); None where nobody is there or
    nothing runs.
    """
    taken = WALL_TAKES.get(project.work.wall)
    levels = [total(_in_the_shop(stretch)) for stretch in stretches]
    loudest = max(levels, default=-math.inf)
    return loudest - taken if taken is not None and math.isfinite(loudest) else None


def quieter(wall: Wall, level: float) -> list[str]:
    """What would be heard, level (dB(A)) as it is now, were a wall, door or floor made better."""
    return [
        f"With {BEHIND[other]} about {level + WALL_TAKES[wall] - WALL_TAKES[other]:.0f} dB(A)"
        for other in BETTER.get(wall, ())
    ]


def _in_the_shop(stretch: Stretch) -> list[float]:
    """Levels of what runs in the shop, dB(A), each near itself."""
    working = [noise_of(stretch.machine)] if stretch.machine is not None and stretch.works else []
    here = [item for item in stretch.collectors if item.stands in ("in the room", "boxed in")]
    return working + [
        (USUAL if item.noise is None else item.noise) - WALLS[item.stands] for item in here
    ]

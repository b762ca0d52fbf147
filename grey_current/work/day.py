"""A day's work as it was planned: its steps, and what they add up to."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property

from grey_current.air.separators import FULL_FROM
from grey_current.design.collector.catch import share_in_bin
from grey_current.design.supply.circuits import machines_of_collectors
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.work_plan import DayJob
from grey_current.standins.switches import Span
from grey_current.work import ears
from grey_current.work.materials import Guess, JobOutput

# Share of a bin from which it is to be emptied: over-full it sends everything to the filter.
FULL = FULL_FROM
# Starts an hour that a small single-phase motor bears. Allowance; its plate decides.
STARTS_AN_HOUR = 10.0


@dataclass(frozen=True)
class Step:
    """Something on the time line: moving or working, from when, how long (s), in words."""

    kind: str
    starts: float
    seconds: float
    words: str
    job: int | None = None
    machine: str = ""

    @property
    def ends(self) -> float:
        """When it is over (s)."""
        return self.starts + self.seconds


@dataclass(frozen=True)
class DustFactor:
    """What readings make of a machine's dust: how many times the middle allowance it is, and which
    share of the uncertainty is left. `low` and `high` are the logarithms of the allowances' ends
    over their middle.
    """

    times: float
    left: float
    low: float
    high: float

    def of(self, guess: Guess) -> float:
        """What the dust at some end of the allowances is multiplied by."""
        off = {"low": self.low, "mid": 0.0, "high": self.high}[guess]
        return self.times * math.exp(off * (self.left - 1))


@dataclass(frozen=True)
class Day:
    """A day in an order of its jobs.

    Attributes:
        jobs: All jobs of the day.
        order: Those that can be done, by number from 0, in their order.
        steps: Moving and working, one after the other.
        walked: m from machine to machine.
        made: Chips and dust of each job.
        run_on: s that each machine's collector is to run on after its last cut.
        on: When each collector is on, s.
        missing: Machines of the jobs that are gone.
        dust: What a particle counter makes of some machines' dust.
    """

    project: Project
    jobs: tuple[DayJob, ...]
    order: tuple[int, ...]
    steps: tuple[Step, ...]
    gate_moves: int
    hose_swaps: int
    hoods_turned: int
    stands_turned: int
    walked: float
    made: tuple[JobOutput, ...]
    run_on: dict[str, float]
    on: dict[str, list[Span]]
    kwh: float
    missing: tuple[str, ...]
    dust: Mapping[str, DustFactor] = field(default_factory=dict)

    @property
    def move_seconds(self) -> float:
        """What moving takes in all (s)."""
        return math.fsum(step.seconds for step in self.steps if step.kind == "move")

    @property
    def ends(self) -> float:
        """When the last job is over (s)."""
        return self.steps[-1].ends if self.steps else 0.0

    @property
    def litres(self) -> float:
        """Chips of the day (l as they lie)."""
        return math.fsum(item.litres for item in self.made)

    @cached_property
    def bins(self) -> dict[str, float]:
        """Litres that fall into each collector's bin."""
        served = served_by_collectors(self.project)
        found: dict[str, float] = {}
        for job, item in zip(self.jobs, self.made, strict=True):
            # A machine with two collectors fills the bin of the first: which chip goes where
            # nobody knows.
            for collector in served.get(job.machine, ())[:1]:
                kept = share_in_bin(self.project.collector[collector])
                found[collector] = found.get(collector, 0.0) + item.litres * kept
        return found

    def bin_full_after(self, collector: str) -> float | None:
        """When a bin is at two thirds (s after the start, were it empty); None where that does not
        come today.
        """
        item = self.project.collector[collector]
        if item.bin is None:
            return None
        room, filled = item.bin.volume * 1000 * FULL, 0.0
        served = served_by_collectors(self.project)
        for step in self.steps:
            if step.job is None or collector not in served.get(self.jobs[step.job].machine, ())[:1]:
                continue
            more = self.made[step.job].litres * share_in_bin(item)
            # Within the job in which it comes to that, by the share of its time.
            if filled + more > room:
                return step.starts + step.seconds * (room - filled) / more
            filled += more
        return None

    def starts_an_hour(self, collector: str) -> float:
        """The most starts of a collector within any hour."""
        starts = [start for start, _ in self.on.get(collector, [])]
        most = 0
        # The fullest hour begins with a start.
        for first in starts:
            most = max(most, sum(first <= other < first + 3600 for other in starts))
        return float(most)

    @property
    def next_door(self) -> float | None:
        """What the next room hears while the day is loudest, dB(A); None where nobody is there.

        Machine and collectors that run at one time add up. A box round a collector takes off what
        such a box does; a collector elsewhere is not heard through this wall.
        """
        return ears.next_door(self.project, self._stretches)

    @cached_property
    def _stretches(self) -> list[ears.Stretch]:
        """The day cut where anything starts or stops, so that within a stretch what is heard stays
        the same.
        """
        found = []
        machines, collectors = self.project.machine, self.project.collector
        switched: set[float] = set()
        for spans in self.on.values():
            switched.update(itertools.chain.from_iterable(spans))
        place: Machine | None = None
        for step in self.steps:
            # Between two jobs one stands, as far as the ears go, where one worked last.
            place = machines.get(step.machine, place) if step.job is not None else place
            within = sorted(moment for moment in switched if step.starts < moment < step.ends)
            for start, end in itertools.pairwise([step.starts, *within, step.ends]):
                # Nothing is switched within a stretch, so that its middle stands for all of it.
                middle = (start + end) / 2
                on = tuple(collectors[name] for name in self.on if self.is_on(name, middle))
                works = step.job is not None and step.machine in machines
                found.append(ears.Stretch(end - start, place, works, on))
        return found

    def is_on(self, collector: str, moment: float) -> bool:
        """Whether a collector of the day runs at a moment (s)."""
        return any(since <= moment < until for since, until in self.on[collector])

    def job_at(self, moment: float) -> int | None:
        """The number (from 0) of the job that is worked on at a moment (s); None between jobs."""
        for step in self.steps:
            if step.starts <= moment < step.ends:
                return step.job
        return None

    def hours_on(self, collector: str) -> float:
        """Hours that a collector, and so its filter, runs on this day."""
        return math.fsum(end - start for start, end in self.on.get(collector, ())) / 3600

    @property
    def dose(self) -> float:
        """Sound exposure of the day as a level over eight hours, dB(A), by exchange of 3 dB; −∞ in
        silence.

        The machine that one works at and the collectors that run meanwhile count together.
        Source: ISO 1999, 2013, eq. (1): L_EX,8h = 10 log Σ t/8h 10^(L/10).
        """
        return ears.dose(self.project, self._stretches)

    @property
    def dose_with_protection(self) -> float:
        """The same behind what is worn on the ears, half of what its label says."""
        return self.dose - ears.REAL_PROTECTION * self.project.work.hearing


def served_by_collectors(project: Project) -> dict[str, tuple[str, ...]]:
    """For each machine the collectors that its pickups lead to."""
    served = machines_of_collectors(project) if project.runs else {}
    found: dict[str, tuple[str, ...]] = {}
    for machine in project.machine:
        collectors = tuple(name for name, machines in served.items() if machine in machines)
        if collectors:
            found[machine] = collectors
    return found

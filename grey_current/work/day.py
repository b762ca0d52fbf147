"""A day's work: what is moved between the jobs, the better order, chips, starts, current, ears."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from grey_current.air.fan import shaft_power
from grey_current.design.collector.make_up_air import EFFICIENCY
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.fittings import fan_curve
from grey_current.design.flow.gates import own_gates
from grey_current.design.flow.run_on import run_on
from grey_current.design.space.hose_reach import DROP_HOURS, SWAP_SECONDS, swaps
from grey_current.design.supply.circuits import draw, machines_of_collectors
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.work_plan import DayJob
from grey_current.standins.switches import CurrentSwitch, Remote, Span, Switch
from grey_current.work import ears
from grey_current.work.day_tasks import GATE_SECONDS, PACE, tasks_of
from grey_current.work.day_text import job_name
from grey_current.work.materials import JobOutput, density_of, made

WHEELS_SECONDS = 45.0
"""s to roll a machine out to its working place, or back. Allowance."""
FULL = 2 / 3
"""Share of a bin from which it is to be emptied: over-full it sends everything to the filter."""
STARTS_AN_HOUR = 10.0
"""Starts an hour that a small single-phase motor bears. Allowance; its plate decides."""


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
class Day:
    """A day in an order of its jobs (numbers from 0): the steps, and what they add up to."""

    project: Project
    jobs: tuple[DayJob, ...]
    order: tuple[int, ...]
    steps: tuple[Step, ...]
    gate_moves: int
    hose_swaps: int
    hoods_turned: int
    walked: float
    made: tuple[JobOutput, ...]
    run_on: dict[str, float]
    on: dict[str, list[Span]]
    kwh: float
    missing: tuple[str, ...]

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
            for collector in served.get(job.machine, ())[:1]:
                found[collector] = found.get(collector, 0.0) + item.litres
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
            more = self.made[step.job].litres
            if filled + more > room:
                return step.starts + step.seconds * (room - filled) / more
            filled += more
        return None

    def starts_an_hour(self, collector: str) -> float:
        """The most starts of a collector within any hour."""
        starts = [start for start, _ in self.on.get(collector, [])]
        return float(
            max((sum(s <= other < s + 3600 for other in starts) for s in starts), default=0)
        )

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
        switched = sorted(
            {moment for spans in self.on.values() for span in spans for moment in span}
        )
        place: Machine | None = None
        for step in self.steps:
            # Between two jobs one stands, as far as the ears go, where one worked last.
            place = machines.get(step.machine, place) if step.job is not None else place
            marks = [step.starts, *(t for t in switched if step.starts < t < step.ends), step.ends]
            for start, end in itertools.pairwise(marks):
                middle = (start + end) / 2
                on = tuple(
                    collectors[name]
                    for name, spans in self.on.items()
                    if any(since <= middle < until for since, until in spans)
                )
                works = step.job is not None and step.machine in machines
                found.append(ears.Stretch(end - start, place, works, on))
        return found

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
    return {
        m: tuple(c for c in served if m in served[c])
        for m in project.machine
        if any(m in s for s in served.values())
    }


def plan_day(now: Assessment, jobs: Sequence[DayJob], order: Sequence[int] | None = None) -> Day:
    """A day in an order of its jobs, or as they stand. Raises nothing; jobs at machines that are
    gone are left out.
    """
    project = now.project
    there = [
        n
        for n, j in enumerate(jobs)
        if j.machine in project.machine or j.machine.startswith("hand-")
    ]
    chosen = [n for n in (order if order is not None else range(len(jobs))) if n in there]
    tasks, costs = tasks_of(now, jobs)
    names, steps, clock = Names(project), list[Step](), 0.0
    hoses = [run for run in project.runs if run.also_serves]
    hangs, last = list(costs.start), None
    gate_moves = swapped = turned = 0
    walked = 0.0
    for number in chosen:
        job, task = jobs[number], tasks[number]
        before = costs.always_open if last is None else tasks[last].gates
        for gate in sorted(before ^ task.gates):
            verb = "Open" if gate in task.gates else "Shut"
            clock = _add(steps, "move", clock, GATE_SECONDS, f"{verb} {names.of(gate)}")
            gate_moves += 1
        moved = [
            (n, ref) for n, ref in enumerate(task.hoses) if ref is not None and ref != hangs[n]
        ]
        for place, wanted in moved:
            hangs[place] = wanted
            if place < len(hoses):
                words = f"Put {names.of(hoses[place].id)} on {names.of(wanted)}"
                clock, swapped = _add(steps, "move", clock, costs.hose[place], words), swapped + 1
        if last is not None and costs.walk[last][number] > 0:
            walked += costs.walk[last][number] * PACE
            clock = _add(
                steps,
                "move",
                clock,
                costs.walk[last][number],
                f"Walk to the {job_name(project, job.machine).lower()}",
            )
        rolled = _rolls(project, job.machine)
        if rolled:
            clock = _add(
                steps,
                "move",
                clock,
                WHEELS_SECONDS,
                f"Roll the {job_name(project, job.machine).lower()} out",
            )
        for place, wanted in moved:
            if place >= len(hoses):
                words = f"Turn the hood over for {names.of(wanted)}"
                clock, turned = _add(steps, "move", clock, costs.hose[place], words), turned + 1
        words = job_name(project, job.machine, job.place)
        steps.append(Step("work", clock, job.minutes * 60, words, number, job.machine))
        clock = steps[-1].ends
        if rolled:
            clock = _add(
                steps,
                "move",
                clock,
                WHEELS_SECONDS,
                f"Roll the {job_name(project, job.machine).lower()} back",
            )
        last = number
    run_on_needed = {
        m: run_on(a) for m, a in now.of_machine.items() if any(jobs[n].machine == m for n in chosen)
    }
    on = collectors_on(now, steps)
    return Day(
        project,
        tuple(jobs),
        tuple(chosen),
        tuple(steps),
        gate_moves,
        swapped,
        turned,
        walked,
        tuple(_made(project, job) for job in jobs),
        {machine: seconds for machine, seconds in run_on_needed.items() if seconds > 0},
        on,
        _kwh(now, steps, on),
        tuple(dict.fromkeys(jobs[n].machine for n in range(len(jobs)) if n not in there)),
    )


def _add(steps: list[Step], kind: str, starts: float, seconds: float, words: str) -> float:
    steps.append(Step(kind, starts, seconds, words))
    return starts + seconds


def _rolls(project: Project, machine: str) -> bool:
    item = project.machine.get(machine)
    return item is not None and item.wheels and bool(item.parked)


def _made(project: Project, job: DayJob) -> JobOutput:
    machine = project.machine.get(job.machine)
    if machine is None:
        return JobOutput(0.0, 0.0, 0.0)
    return made(machine, job.minutes, density_of(job.wood), "mid", job.litres)


def switch_of(project: Project, collector: str) -> Switch:
    """How a collector is switched: by a tool's current, or by hand for the whole day."""
    item = project.collector[collector]
    return CurrentSwitch(run_on=item.run_on) if item.auto_start else Remote()


def collectors_on(now: Assessment, steps: Sequence[Step]) -> dict[str, list[Span]]:
    """When each collector is on (s), switched by the stand-in for its switch."""
    served = served_by_collectors(now.project)
    found: dict[str, list[Span]] = {}
    until = steps[-1].ends if steps else 0.0
    for collector in now.project.collector:
        tools = [(s.starts, s.ends) for s in steps if collector in served.get(s.machine, ())]
        if tools:
            found[collector] = switch_of(now.project, collector).on_during(tools, until)
    return found


def _kwh(now: Assessment, steps: Sequence[Step], on: dict[str, list[Span]]) -> float:
    """Energy of the day (kWh): collectors by their shaft's power, machines by half of what their
    plates allow.
    """
    project, total = now.project, 0.0
    for collector, spans in on.items():
        item = project.collector[collector]
        rated = item.motor.power if item.motor else 0.0
        power = (
            shaft_power(fan_curve(item.fan, now.air), now.counted.most_airflow(collector), rated)
            / EFFICIENCY
        )
        total += power * sum(end - start for start, end in spans)
    for step in steps:
        drawn = (
            draw(project, project.machine[step.machine])
            if step.machine in project.machine
            else None
        )
        if drawn is not None:
            total += 0.5 * drawn.volts * drawn.amps * step.seconds
    return total / 3.6e6


WEEKS = 48
"""Working weeks of a year. Allowance."""
COUPLER_HOURS, AUTOMATIC_HOURS = 1.0, 3.0
"""Hours to make a pair of rings with magnets, or to motorise a gate. Allowance."""


@dataclass(frozen=True)
class Worth:
    """What a way to save moving is worth: words, minutes a year, and the hours that making it
    takes.
    """

    words: str
    minutes: float
    hours: float


def worth_making(now: Assessment) -> list[Worth]:
    """What quick couplers, drops and automatic gates would save in a year, from the uses a week;
    the most first.
    """
    project = now.project
    found = []
    for run in project.runs:
        if not run.also_serves:
            continue
        moved = swaps(project, run)
        if run.coupling == "clamp" and run.swap_seconds is None:
            saved = moved.each_week * (SWAP_SECONDS["clamp"] - SWAP_SECONDS["quick"]) / 60 * WEEKS
            found.append(
                Worth("Quick couplers on the moved hose", saved, COUPLER_HOURS * (moved.drops + 1))
            )
        found.append(
            Worth(
                "A drop for each machine of the moved hose",
                moved.minutes * WEEKS,
                DROP_HOURS * moved.drops,
            )
        )
    own = own_gates(now)
    uses = math.fsum(
        project.machine[m].uses_per_week * len(gates)
        for m, gates in own.items()
        if m in project.machine
    )
    if uses:
        found.append(
            Worth(
                "Automatic gates",
                uses * 2 * GATE_SECONDS / 60 * WEEKS,
                AUTOMATIC_HOURS * len(project.gates),
            )
        )
    return sorted((item for item in found if item.minutes >= 1), key=lambda item: -item.minutes)

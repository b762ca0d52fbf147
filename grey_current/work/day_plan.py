"""A day planned: what is moved between the jobs, when collectors run, what current that takes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from grey_current.air.fan import shaft_power
from grey_current.design.collector.make_up_air import EFFICIENCY
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.fittings import fan_curve
from grey_current.design.flow.run_on import run_on
from grey_current.design.space.hose_reach import carried_hoses
from grey_current.design.supply.circuits import draw
from grey_current.shop.day_edits import BY_HAND
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.work_plan import DayJob
from grey_current.standins.switches import CurrentSwitch, Remote, Span, Switch
from grey_current.work.day import Day, Step, served_by_collectors
from grey_current.work.day_tasks import PACE, tasks_of
from grey_current.work.day_text import job_name
from grey_current.work.materials import made_by_job
from grey_current.work.order import Costs, Task

# What is said of a day of which no job can be done.
ALL_GONE = "None of these jobs can be done: their machines are gone."
# s to roll a machine out to its working place, or back. Allowance.
WHEELS_SECONDS = 45.0
# Share of what its plate allows that a machine draws on average while it works. Allowance.
USUAL_LOAD = 0.5


def plan_day(now: Assessment, jobs: Sequence[DayJob], order: Sequence[int] | None = None) -> Day:
    """Return a day in an order of its jobs, or as they stand.

    Raises nothing; jobs at machines that are gone are left out.
    """
    project = now.project
    there = [n for n, job in enumerate(jobs) if can_be_done(project, job)]
    asked = range(len(jobs)) if order is None else order
    chosen = [n for n in asked if n in there]
    tasks, costs = tasks_of(now, jobs)
    clock = _Clock(project, jobs, tasks, costs)
    for number in chosen:
        clock.do(number)
    used = {jobs[n].machine for n in chosen}
    run_on_needed = {m: run_on(answer) for m, answer in now.of_machine.items() if m in used}
    on = collectors_on(now, clock.steps)
    return Day(
        project=project,
        jobs=tuple(jobs),
        order=tuple(chosen),
        steps=tuple(clock.steps),
        gate_moves=clock.gate_moves,
        hose_swaps=clock.hose_swaps,
        hoods_turned=clock.hoods_turned,
        stands_turned=clock.stands_turned,
        walked=clock.walked,
        made=tuple(made_by_job(project, job, "mid") for job in jobs),
        run_on={machine: seconds for machine, seconds in run_on_needed.items() if seconds > 0},
        on=on,
        kwh=_kwh(now, clock.steps, on),
        missing=tuple(dict.fromkeys(j.machine for n, j in enumerate(jobs) if n not in there)),
    )


def can_be_done(project: Project, job: DayJob) -> bool:
    """Whether a job is by hand or at a machine of this shop."""
    return job.machine in project.machine or job.machine.startswith(BY_HAND)


@dataclass
class _Clock:
    """The day as it goes on, job by job.

    Attributes:
        hangs: Where each moved hose hangs now, then which working place is turned up.
        last: The job that was done last.
    """

    project: Project
    jobs: Sequence[DayJob]
    tasks: Sequence[Task]
    costs: Costs
    steps: list[Step] = field(default_factory=list)
    gate_moves: int = 0
    hose_swaps: int = 0
    hoods_turned: int = 0
    stands_turned: int = 0
    walked: float = 0.0
    last: int | None = None

    def __post_init__(self) -> None:
        self.names = Names(self.project)
        self.hoses = carried_hoses(self.project)
        self.hangs = list(self.costs.start)

    def do(self, number: int) -> None:
        """Get everything ready for a job, and do it."""
        job = self.jobs[number]
        name = job_name(self.project, job.machine).lower()
        self._move_gates(number)
        self._swap_hoses(number)
        if self.last is not None and self.costs.walk[self.last][number] > 0:
            seconds = self.costs.walk[self.last][number]
            self.walked += seconds * PACE
            self._move(seconds, f"Walk to the {name}")
        # Gates and hoses are moved on the way; what rolls comes out last, when one stands before
        # it.
        rolled = _rolls(self.project, job.machine)
        if rolled:
            self._move(WHEELS_SECONDS, f"Roll the {name} out")
        self._turn_hoods(number)
        words = job_name(self.project, job.machine, job.place)
        seconds = job.minutes * 60
        self.steps.append(Step("work", self._now, seconds, words, number, job.machine))
        if rolled:
            self._move(WHEELS_SECONDS, f"Roll the {name} back")
        self.last = number

    @property
    def _now(self) -> float:
        return self.steps[-1].ends if self.steps else 0.0

    def _move(self, seconds: float, words: str) -> None:
        self.steps.append(Step("move", self._now, seconds, words))

    def _move_gates(self, number: int) -> None:
        wanted = self.tasks[number].gates
        before = self.costs.always_open if self.last is None else self.tasks[self.last].gates
        for gate in sorted(before ^ wanted):
            verb = "Open" if gate in wanted else "Shut"
            self._move(self.costs.gates[gate], f"{verb} {self.names.of(gate)}")
            self.gate_moves += 1

    def _swap_hoses(self, number: int) -> None:
        for place, wanted in self._to_move(number):
            if place < len(self.hoses):
                self.hangs[place] = wanted
                hose = self.names.of(self.hoses[place].id)
                plugged = self.project.run.get(wanted)
                words = f"Put {hose} on {self.names.of(wanted)}"
                if plugged is not None:
                    words = f"Plug {hose} in for {self.names.of(plugged.start)}"
                self._move(self.costs.hose[place], words)
                self.hose_swaps += 1

    def _turn_hoods(self, number: int) -> None:
        for place, wanted in self._to_move(number):
            if place >= len(self.hoses):
                self.hangs[place] = wanted
                whole = wanted in self.project.machine
                what = "stand" if whole else "hood"
                words = f"Turn the {what} over for {self.names.of(wanted)}"
                self._move(self.costs.hose[place], words)
                self.hoods_turned += not whole
                self.stands_turned += whole

    def _to_move(self, number: int) -> list[tuple[int, str]]:
        """What hangs, or is turned up, otherwise than a job wants it."""
        found = []
        for place, wanted in enumerate(self.tasks[number].hoses):
            if wanted is not None and wanted != self.hangs[place]:
                found.append((place, wanted))
        return found


def _rolls(project: Project, machine: str) -> bool:
    item = project.machine.get(machine)
    return item is not None and item.wheels and bool(item.parked)


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
    """Energy of the day (kWh): collectors by their shaft's power, machines by their plates."""
    project, total = now.project, 0.0
    for collector, spans in on.items():
        item = project.collector[collector]
        rated = item.motor.power if item.motor else 0.0
        most = now.counted.most_airflow(collector)
        shaft = shaft_power(fan_curve(item.fan, now.air), most, rated)
        total += shaft / EFFICIENCY * sum(end - start for start, end in spans)
    for step in steps:
        machine = project.machine.get(step.machine)
        drawn = draw(project, machine) if machine is not None else None
        if drawn is not None:
            total += USUAL_LOAD * drawn.volts * drawn.amps * step.seconds
    return total / 3.6e6

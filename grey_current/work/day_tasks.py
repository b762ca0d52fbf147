"""The jobs of a day as the search for their order sees them: gates, hoses and hoods to move, ways
to walk.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import replace

from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.gates import open_gates
from grey_current.design.flow.scenarios import arrangement, scenario_of
from grey_current.design.space.gate_reach import gate_seconds
from grey_current.design.space.hose_reach import SWAP_SECONDS, carried_hoses
from grey_current.shop.ducts import Run
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.stacking import stand_mates
from grey_current.shop.work_plan import DayJob
from grey_current.work.materials import HAND_SANDING
from grey_current.work.order import Costs, Order, Task, best_order, seconds_of

# s from which another order of a day is worth a word, and m of walking in a day from which two
# machines had better change places. Allowances.
LEAST_GAIN, LEAST_WALK = 180.0, 10.0
# m/s that one walks in a workshop. Allowance.
PACE = 1.2
# s to turn a combination machine's hood and tables over, where the user has given none. Allowance.
TURN_SECONDS = 40.0


def tasks_of(now: Assessment, jobs: Sequence[DayJob]) -> tuple[list[Task], Costs]:
    """A day's jobs as tasks for the search, with what moving costs."""
    project = now.project
    hoses = project.moved_hoses
    shared = project.shared_hoses
    turned = turned_over(project, jobs)
    stands = turning_stands(project, jobs)
    always = frozenset(gate.id for gate in project.gates if gate.rule == "left open")
    known: dict[tuple[str, str | None], tuple[frozenset[str], tuple[str | None, ...]]] = {}
    for job in jobs:
        # The same machine comes up again and again: its gates and hoses are looked up once.
        if (job.machine, job.place) not in known:
            gates, hangs = _wants(now, job, hoses, always)
            plugs = tuple(_plugged(job, runs) for runs in shared)
            turns = tuple(
                working_place(project, job) if job.machine == m.id else None for m in turned
            )
            up = tuple(job.machine if job.machine in stand else None for stand in stands)
            known[job.machine, job.place] = (gates, (*hangs, *plugs, *turns, *up))
    tasks = [
        Task(*known[job.machine, job.place], frozenset(n - 1 for n in job.after)) for job in jobs
    ]
    places = [work_place(project, job.machine) for job in jobs]
    walk = tuple(tuple(math.dist(a, b) / PACE for b in places) for a in places)
    seconds = [run.swap_seconds or SWAP_SECONDS[run.coupling] for run in carried_hoses(project)]
    seconds += [_turning(m) for m in turned]
    seconds += [_turning(project.machine[stand[0]]) for stand in stands]
    start = (
        *(run.start for run in hoses),
        *(runs[0].id for runs in shared),
        *(f"{m.id}/{m.pickups[0].id}" for m in turned),
        *(stand[0] for stand in stands),
    )
    return tasks, Costs(gate_seconds(project), tuple(seconds), walk, start, always)


def _plugged(job: DayJob, runs: Sequence[Run]) -> str | None:
    """Which of the runs that one hose is at times a job wants; None where it wants none."""
    return next((run.id for run in runs if run.start.startswith(f"{job.machine}/")), None)


def _turning(machine: Machine) -> float:
    """Seconds to turn a machine over, or its stand."""
    return TURN_SECONDS if machine.turn_over is None else machine.turn_over


def turning_stands(project: Project, jobs: Sequence[DayJob]) -> list[tuple[str, ...]]:
    """The turning stands of a day, each as its machines; the first of them is up at the start."""
    used = {job.machine for job in jobs}
    found = []
    for machine in project.machines:
        mates = () if machine.turns else stand_mates(project, machine.id)
        group = (machine.id, *sorted(mates))
        if mates and not used.isdisjoint(group):
            found.append(group)
    return found


def turned_over(project: Project, jobs: Sequence[DayJob]) -> list[Machine]:
    """The machines of a day that must be turned over from one working place to another."""
    used = {job.machine for job in jobs}
    return [m for m in project.machines if m.id in used and m.one_at_a_time and len(m.pickups) > 1]


def working_place(project: Project, job: DayJob) -> str | None:
    """The pickup at which a job is done on a machine that uses one place at a time, else None."""
    machine = project.machine.get(job.machine)
    if machine is None or not machine.one_at_a_time or len(machine.pickups) < 2:
        return None
    known = [pickup.id for pickup in machine.pickups]
    return f"{machine.id}/{job.place if job.place in known else known[0]}"


def _wants(
    now: Assessment, job: DayJob, hoses: Sequence[Run], always: frozenset[str]
) -> tuple[frozenset[str], tuple[str | None, ...]]:
    """The gates that are open for a job, and where each moved hose must hang for it."""
    project = now.project
    if job.machine not in project.machine:
        return always, (None,) * len(hoses)
    scenario = scenario_of(project, (job.machine,), (working_place(project, job) or "",))
    moved = dict(arrangement(project, scenario))
    needs = []
    for run in hoses:
        mine = any(scenario.uses(*ref.split("/", 1)) for ref in run.serves)
        needs.append(moved.get(run.id, run.start) if mine else None)
    return open_gates(now, scenario), tuple(needs)


def work_place(project: Project, machine: str) -> tuple[float, float]:
    """Where (m) one works at a machine; by hand at the bench, else in the middle of the first
    room.
    """
    item = project.machine.get(machine)
    if item is not None:
        return item.x, item.y
    bench = next((f for f in project.features if f.kind == "bench"), None)
    if bench is not None:
        xs, ys = zip(*bench.outline, strict=True)
        return sum(xs) / len(xs), sum(ys) / len(ys)
    xs, ys = zip(*project.rooms[0].outline, strict=True)
    return (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2


def better_order(now: Assessment, jobs: Sequence[DayJob]) -> tuple[Order, float]:
    """The best order of a day, and what it saves against the order in which the jobs stand (s).

    What is cut, sanded, put together and finished stays in that order as it was jotted: nobody
    glues before the saw. Only jobs between two such steps change places.
    """
    tasks, costs = tasks_of(now, jobs)
    best = best_order(_in_stages(now.project, jobs, tasks), costs)
    as_it_is = tuple(range(len(jobs)))
    return best, seconds_of(as_it_is, tasks, costs) - best.seconds


def _in_stages(project: Project, jobs: Sequence[DayJob], tasks: Sequence[Task]) -> list[Task]:
    """The tasks, each after all jobs of another stage of the work that were jotted before it."""
    stages = [_stage(project, job) for job in jobs]
    return [
        replace(task, after=task.after | {n for n in range(number) if stages[n] != stages[number]})
        for number, task in enumerate(tasks)
    ]


def _stage(project: Project, job: DayJob) -> str:
    """Which stage of the work a job is of: cutting, sanding, or what is done by hand."""
    machine = project.machine.get(job.machine)
    if job.machine == HAND_SANDING:
        return "sanding"
    if machine is None:
        return job.machine
    return "sanding" if machine.cutter == "abrasive" else "cutting"


def better_neighbours(
    now: Assessment, jobs: Sequence[DayJob], order: Sequence[int]
) -> tuple[str, str, float] | None:
    """The two machines whose places, were they changed, would save most walking, and how much (m);
    None for none.
    """
    project = now.project
    visited = [jobs[n].machine for n in order if jobs[n].machine in project.machine]
    places = {machine: work_place(project, machine) for machine in visited}

    def walked(at: dict[str, tuple[float, float]]) -> float:
        return sum(math.dist(at[a], at[b]) for a, b in itertools.pairwise(visited))

    now_walked, best = walked(places), None
    names = list(places)
    for i, a in enumerate(names):
        for b in names[i + 1 :]:
            saved = now_walked - walked(places | {a: places[b], b: places[a]})
            if saved >= LEAST_WALK and (best is None or saved > best[2]):
                best = (a, b, saved)
    return best

"""The air of the rooms over a day: what jobs put into it, what collectors, cleaners, doors and
windows take out, stretch by stretch.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from dataclasses import replace

import shapely

from grey_current.air.rooms import RoomAir
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.flow.scenarios import scenario_of
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.roofs import volume
from grey_current.shop.room import area
from grey_current.shop.work_plan import AirCleaner, DayJob
from grey_current.standins.switches import Span, Timer
from grey_current.work.day import Day
from grey_current.work.day_tasks import work_place, working_place
from grey_current.work.materials import (
    HAND_SANDING,
    Guess,
    allowance,
    caught_share,
    drawer_share,
    filter_lets_through,
    made_by_job,
    opposite,
    tested_share,
    together,
    with_aids,
)

# s after the last job that are looked at.
AFTER = 4 * 3600.0
STEP = 60.0
# m³/s through a door between rooms that stands open, is shut, or is shut and sealed. Allowance.
OPEN_DOOR, SHUT_DOOR, SEALED_DOOR = 0.06, 0.003, 0.0003
# m from a room within which a door belongs to it too: the thickness of a wall.
WALL = 0.4


def caught_by(
    now: Assessment, machine: Machine, guess: Guess, answer: ScenarioAir | None = None
) -> float:
    """The share of a machine's fine dust that its hoods, own bag and drawer catch; usually at its
    worst place. A test of its hoods counts before what their air makes likely.
    """
    answer = answer or now.of_machine.get(machine.id)
    shares = []
    for pickup in answer.pickups if answer is not None and answer.converged else ():
        item = now.project.pickup[f"{pickup.machine}/{pickup.pickup}"][1]
        if pickup.leaf is None and item.own_fan is not None:
            shares.append(allowance("own_bag", guess))
        elif pickup.leaf is not None or item.caught is not None:
            shares.append(caught_share(item, pickup.airflow, guess))
    test = machine.hood_test
    tested = None if test is None or not shares else tested_share(test, guess)
    if test is not None and tested is not None:
        more = [aid for aid in machine.aids if aid not in test.aids]
        shares = [with_aids(tested, more, guess)]
    else:
        shares = [with_aids(together(shares), machine.aids, guess)]
    if machine.chip_drawer:
        shares.append(drawer_share(machine, guess))
    return together(shares)


def stretches(now: Assessment, day: Day, guess: Guess) -> list[RoomAir]:
    """The day as stretches in which nothing changes: from every start and end of anything to the
    next.
    """
    project = now.project
    until = day.ends + AFTER
    cleaning = {n: _cleaner_on(c, day, until) for n, c in enumerate(project.work.cleaners)}
    # Wherever anything starts or stops a new stretch begins; within one all rates are constant.
    marks = {0.0, until, *(s.starts for s in day.steps), *(s.ends for s in day.steps)}
    for spans in (*day.on.values(), *cleaning.values()):
        marks.update(t for span in spans for t in span)
    times = sorted(t for t in marks if 0 <= t <= until)
    doors = _doors(project)
    return [
        _stretch(now, day, guess, (a + b) / 2, b - a, cleaning, doors)
        for a, b in itertools.pairwise(times)
        if b - a > 1e-6
    ]


def _stretch(
    now: Assessment,
    day: Day,
    guess: Guess,
    at: float,
    seconds: float,
    cleaning: dict[int, list[Span]],
    doors: Sequence[tuple[int, int, float]],
) -> RoomAir:
    project = now.project
    count = len(project.rooms)
    volumes = [volume(room) for room in project.rooms]
    source, filtered, out = [0.0] * count, [0.0] * count, [0.0] * count
    exchange = [[0.0] * count for _ in range(count)]
    # Settling is taken at its other end: dusty days have little of it.
    settling = [
        abs(area(room.outline)) * allowance("settling", opposite(guess)) for room in project.rooms
    ]
    for i in range(count):
        out[i] += project.work.windows * volumes[i] / 3600
    for i, j, flow in doors:
        exchange[i][j] += flow
        exchange[j][i] += flow
    job = day.job_at(at)
    working = "" if job is None else day.jobs[job].machine
    if job is not None:
        for part in released(now, day, job, guess):
            source = [a + b for a, b in zip(source, part, strict=True)]
    for collector in day.on:
        if day.is_on(collector, at):
            _collector(now, project.collector[collector], working, filtered, out, exchange)
    for number, cleaner in enumerate(project.work.cleaners):
        room = _room_number(project, cleaner.room)
        if room is not None and any(a <= at < b for a, b in cleaning[number]):
            filtered[room] += clean_air_of(cleaner)
    return RoomAir(
        seconds,
        tuple(volumes),
        tuple(source),
        tuple(map(tuple, exchange)),
        tuple(out),
        tuple(settling),
        tuple(filtered),
    )


def released(now: Assessment, day: Day, job: int, guess: Guess) -> tuple[list[float], list[float]]:
    """The fine dust (mg/s) that a job puts into the air of each room: what its hoods miss, and what
    comes back through the collector's filter.
    """
    project, item = now.project, day.jobs[job]
    missed, returned = [0.0] * len(project.rooms), [0.0] * len(project.rooms)
    here = room_of_job(project, item)
    if here is None:
        return missed, returned
    rate = made_by_job(project, item, guess).fine / (item.minutes * 60)
    if item.machine in day.dust:
        rate *= day.dust[item.machine].of(guess)
    machine, answer = project.machine.get(item.machine), _answer_of(now, item)
    caught = 0.0 if machine is None else caught_by(now, machine, opposite(guess), answer)
    missed[here] += rate * (1 - caught)
    for collector in answer.systems if answer is not None else ():
        unit = project.collector[collector]
        if unit.exhausts == "into the shop":
            returned[_home(project, unit)] += rate * caught * lets_through(project, unit)
    return missed, returned


def _answer_of(now: Assessment, job: DayJob) -> ScenarioAir | None:
    """The air of a job's machine alone, at the working place where it is done; None by hand."""
    if job.machine not in now.project.machine:
        return None
    place = working_place(now.project, job)
    wanted = scenario_of(now.project, (job.machine,), () if place is None else (place,))
    return next((a for a in now.answers if a.scenario == wanted), None)


def lets_through(project: Project, collector: Collector) -> float:
    """The share of fine dust that a collector gives back: through its filter, and by a worn
    seal.
    """
    through = filter_lets_through(collector.filter.kind)
    return through + (1 - through) * project.work.seal


def _collector(
    now: Assessment,
    unit: Collector,
    machine: str,
    filtered: list[float],
    out: list[float],
    exchange: list[list[float]],
) -> None:
    """A collector that runs draws the room's air too: it filters what it gives back, or takes it
    outdoors.
    """
    project = now.project
    answer = now.of_machine.get(machine)
    system = answer.systems.get(unit.id) if answer is not None and answer.converged else None
    airflow = max(system.airflow if system is not None else now.counted.most_airflow(unit.id), 0.0)
    item = project.machine.get(machine)
    here = _room_at(project, (item.x, item.y)) if item is not None else _home(project, unit)
    if unit.exhausts == "outdoors":
        out[here] += airflow
        return
    # What its filter lets through comes back where the collector stands.
    home, through = _home(project, unit), lets_through(project, unit)
    filtered[here] += airflow * (1 - through)
    if home != here:
        exchange[here][home] += airflow * through
        exchange[home][here] += airflow


def clean_air_of(cleaner: AirCleaner) -> float:
    """Clean air (m³/s) that a cleaner gives, less the longer its filters have run."""
    return float(cleaner.airflow * cleaner.caught * 0.5 ** (cleaner.hours / cleaner.lasts))


def _cleaner_on(cleaner: AirCleaner, day: Day, until: float) -> list[tuple[float, float]]:
    tools = [(s.starts, s.ends) for s in day.steps if s.kind == "work"]
    return Timer(cleaner.runs_on * 60).on_during(tools, until)


def quiet_air(
    now: Assessment,
    day: Day,
    guess: Guess,
    seconds: float = 1.0,
    *,
    cleaning: bool = True,
    running: Iterable[str] = (),
) -> RoomAir:
    """Some time (s) in which nothing is cut, with the cleaners on or off, and some collectors
    running.
    """
    spans = [(0.0, math.inf)] if cleaning else []
    cleaners = dict.fromkeys(range(len(now.project.work.cleaners)), spans)
    always = [(0.0, math.inf)]
    quiet = replace(day, on=dict.fromkeys(running, always), steps=())
    return _stretch(now, quiet, guess, 0.0, seconds, cleaners, _doors(now.project))


# -- rooms of things


def _room_at(project: Project, place: tuple[float, float]) -> int:
    """The number of the room that a place is in, else of the nearest."""
    if len(project.rooms) == 1:
        return 0
    spot = shapely.Point(place)
    shapes = [shapely.Polygon(room.outline) for room in project.rooms]
    return min(range(len(shapes)), key=lambda n: shapes[n].distance(spot))


def room_of_job(project: Project, job: DayJob) -> int | None:
    """The number of the room in which a job makes dust; None for one that makes none."""
    if job.machine not in project.machine and job.machine != HAND_SANDING:
        return None
    return _room_at(project, work_place(project, job.machine))


def _home(project: Project, unit: Collector) -> int:
    return _room_at(project, (unit.x, unit.y))


def _room_number(project: Project, room: str) -> int | None:
    return next((n for n, item in enumerate(project.rooms) if item.id == room), None)


def _doors(project: Project) -> list[tuple[int, int, float]]:
    """Air (m³/s) that goes to and fro between two rooms by the doors that both have: both numbers,
    and how much.
    """
    shapes = [shapely.Polygon(room.outline) for room in project.rooms]
    found = []
    for opening in project.openings if len(shapes) > 1 else ():
        line = shapely.LineString([opening.start, opening.end])
        near = [n for n, shape in enumerate(shapes) if shape.distance(line) < WALL]
        if opening.kind != "window":
            flow = SEALED_DOOR if project.work.sealed_doors else SHUT_DOOR
            if project.work.open_doors or opening.kind == "doorway":
                flow = OPEN_DOOR
            found += [(i, j, flow) for i, j in itertools.combinations(near, 2)]
    return found

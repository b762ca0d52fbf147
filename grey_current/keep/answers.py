"""What the Keep stage shows, in one go: bands, what readings have taught, and which reading to take
next.
"""

from __future__ import annotations

import datetime
import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from grey_current.design.flow.assessment import Assessment
from grey_current.keep.by_readings import by_readings
from grey_current.keep.causes import fault_words
from grey_current.keep.debrief import Debrief, debrief
from grey_current.keep.evidence import Suspects
from grey_current.keep.faults import Cause, Told, which_fault
from grey_current.keep.fit import (
    Calibration,
    NextReading,
    expected,
    fit,
    next_readings,
    usable,
    when_well,
)
from grey_current.keep.forecast import Forecast, forecasts
from grey_current.keep.model import Model
from grey_current.keep.monthly import Monthly, monthly
from grey_current.keep.practice import looks_of
from grey_current.keep.reading_words import band_words, figure, place_words
from grey_current.keep.steps import Step, next_step
from grey_current.keep.uncertainty import DRAWS, Sure, sure
from grey_current.shop.keep_plan import Reading
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.units import Display

LEAST_TAKEN, LEAST_CHANCE = 0.005, 0.05
# Readings that are asked for at once, listed and marked on the floor.
SHOWN = 3
Standing = Literal["followed", "aside", "gone", "of the fault", "of the room"]


@dataclass(frozen=True)
class Logged:
    """A reading (numbered from 1), what became of it, and what was expected there without any
    reading (SI).

    One that was taken since something is complained of tells of the fault; the figures do not
    follow it. `half` is how far eight in ten were to lie from it.
    """

    number: int
    reading: Reading
    standing: Standing
    expected: float
    half: float

    @property
    def inside(self) -> bool:
        """Whether it lies where eight in ten were expected."""
        return abs(self.reading.value - self.expected) <= self.half

    @property
    def as_expected(self) -> bool:
        """Whether nothing speaks against it: what has no expectation is as good as expected."""
        return self.inside or not math.isfinite(self.expected)


@dataclass(frozen=True)
class HowSure:
    """The bands, what the readings teach, what became of each, the next ones, and which fault would
    explain them.

    The bands follow the readings where the project says so; the fit and the next readings always
    do. `due` is what comes next: bins, filters, hoses; `debrief` the truth about a practice shop
    that is over. `measured` is the shop's air as the readings have it, where the figures follow
    them.
    """

    project: Project
    sure: Sure
    fit: Calibration
    logged: tuple[Logged, ...]
    wanted: tuple[NextReading, ...]
    told: Told
    due: tuple[Forecast, ...] = ()
    debrief: Debrief | None = None
    measured: Assessment | None = None
    # The one reading a month, for each collector that has a hole for it.
    monthly: tuple[Monthly, ...] = ()
    # What to do next to find what is complained of; None where nothing is.
    step: Step | None = None


def how_sure(
    now: Assessment,
    draws: int = DRAWS,
    should_continue: Callable[[], bool] = lambda: True,
    today: datetime.date | None = None,
) -> HowSure:
    """Everything about doubt in the shop as it is, and what comes next from `today` (this very
    day).

    Raises `InputError` for a number of draws that is none.
    """
    project, model = now.project, Model(now)
    plain = fit(now, (), model)
    there, well = usable(model), when_well(model)
    # Readings since something is wrong tell of the fault: the figures do not follow them.
    healthy = [project.keep.readings[n - 1] for n in well]
    taught = fit(now, healthy, model, should_continue)
    logged = _logged(plain, taught, there, well)
    found = sure(
        now, taught if project.keep.applied else plain, draws, should_continue=should_continue
    )
    told, step = _fault_and_step(plain, taught, there, well, should_continue)
    due = forecasts(project, model, today or datetime.date.today()) if should_continue() else []
    practice = project.keep.practice
    if practice is not None and practice.over and should_continue():
        truth = debrief(project, should_continue)
    else:
        truth = None
    if project.keep.applied and taught.readings and should_continue():
        measured = by_readings(now, taught)
    else:
        measured = None
    wanted_next = tuple(next_readings(taught)) if should_continue() else ()
    each_month = tuple(
        one
        for collector in project.collector
        if should_continue() and (one := monthly(now, collector)) is not None
    )
    return HowSure(
        project,
        found,
        taught,
        logged,
        wanted_next,
        told,
        tuple(due),
        truth,
        measured,
        each_month,
        step,
    )


def _logged(
    plain: Calibration, taught: Calibration, there: list[int], well: list[int]
) -> tuple[Logged, ...]:
    """Each reading of the logbook, with what became of it and what the tables expected there.

    `there` are the numbers of those that have air, `well` of those that tell of the healthy shop.
    """
    readings = taught.model.project.keep.readings
    aside = {well[place] for place in taught.aside}

    def standing(number: int) -> Standing:
        if readings[number - 1].kind == "dust":
            return "of the room"
        if number in aside:
            return "aside"
        if number in well:
            return "followed"
        return "of the fault" if number in there else "gone"

    def before(number: int, reading: Reading) -> tuple[float, float]:
        if number not in there:
            return math.nan, math.nan
        return expected(plain, reading.kind, reading.machine, reading.place)

    return tuple(
        Logged(n, reading, standing(n), *before(n, reading))
        for n, reading in enumerate(readings, 1)
    )


def _fault_and_step(
    plain: Calibration,
    taught: Calibration,
    there: list[int],
    well: list[int],
    should_continue: Callable[[], bool],
) -> tuple[Told, Step | None]:
    """Which fault would explain what was read and seen, and what to do next to find it."""
    project = taught.model.project
    keep = project.keep
    # With a complaint the healthy shop is what was learned before it; without, every reading is
    # searched for a fault.
    was, numbers = plain, well
    if keep.complaint is not None:
        since = [n for n in there if n not in well]
        was, numbers = taught, [n for n in since if keep.of_this_fault(keep.readings[n - 1])]
    suspects, looks = Suspects(was), looks_of(project)
    readings = [keep.readings[n - 1] for n in numbers]
    told = which_fault(suspects, readings, keep.complaint, should_continue, looks)
    step = next_step(told, keep, looks, was, suspects) if should_continue() else None
    return told, step


def followed(now: Assessment) -> Calibration:
    """What the figures follow: the readings where the project says so, those of a fault apart, else
    the tables.
    """
    model, plan = Model(now), now.project.keep
    return fit(now, [plan.readings[n - 1] for n in when_well(model)] if plan.applied else (), model)


def machines_through(now: Assessment, element: str) -> list[str]:
    """The machines whose air passes a duct, gate or collector while they run alone, in the shop's
    order.
    """
    found = []
    for answer in now.counted.answers:
        if len(answer.scenario.running) != 1 or not answer.converged:
            continue
        for ident, system in answer.systems.items():
            passed = system.network.branches_of.get(element, frozenset())
            paths = map(system.network.branch_path, system.leaves.values())
            if ident == element or any(not passed.isdisjoint(path) for path in paths):
                found.append(answer.scenario.running[0])
                break
    return found


# -- in words


def logged_words(names: Names, display: Display, item: Logged) -> str:
    """A reading and what became of it."""
    reading = item.reading
    words = f"{place_words(names, reading.kind, reading.machine, reading.place)}: "
    words += figure(display, reading.kind, reading.value)
    if item.standing == "of the room":
        return f"{words}. It narrows how much dust is in the room (Work)."
    if item.standing == "gone":
        return f"{words}. Its place is gone, or no air is computed there; it is kept and not used."
    band = band_words(display, reading.kind, item.expected, item.half)
    words += f", {'as expected' if item.inside else 'not as expected'} ({band})."
    if item.standing == "of the fault":
        words += (
            " Taken since it is wrong: it tells of the fault, and the figures do not follow it."
        )
    if item.standing == "aside":
        words += (
            " It contradicts the other readings or the tables, and is set aside: measure "
            "again, or look for a fault "
            "there."
        )
    return words


def standing_words(item: Logged) -> str:
    """What a reading says, in a few words for a table."""
    if item.standing == "of the room":
        return "narrows the room's dust"
    if item.standing == "gone":
        return "not used: no air there now"
    if item.standing == "aside":
        return "contradicts the others"
    if item.standing == "of the fault":
        return "taken since it is wrong"
    if item.inside:
        return "as expected"
    return "lower than expected" if item.reading.value < item.expected else "higher than expected"


def cause_words(names: Names, cause: Cause) -> str:
    """A cause in words, with its place, its chance, and what it takes."""
    if cause.kind is None:
        return (
            f"Nothing is wrong ({cause.chance:.0%}): the readings lie within what the "
            "tables leave open."
        )
    return f"{place_and_fault(names, cause)} ({cause.chance:.0%}). {about_cause(names, cause)}"


def place_and_fault(names: Names, cause: Cause) -> str:
    """A cause in few words: where, and what."""
    if cause.kind is None:
        return "Nothing is wrong"
    words = fault_words(names.project, cause.kind, cause.place)
    return f"{names.start(cause.place)}: {words}" if cause.place else capital(words)


def about_cause(names: Names, cause: Cause) -> str:
    """What a cause takes, where else it may be, and what to look at."""
    if cause.kind is None:
        return "The readings lie within what the tables leave open."
    takes = f"It takes {cause.loses:.0%} of all machines' air. "
    also = f"Or there: {', '.join(names.of(place) for place in cause.also)}. "
    return (
        f"{takes if cause.loses > LEAST_TAKEN else ''}{also if cause.also else ''}{cause.kind.look}"
    )


def likely_causes(told: Told, most: int = 3) -> list[Cause]:
    """The causes that are worth a look: the likeliest, and others while they have a chance."""
    return [c for n, c in enumerate(told.causes[:most]) if n == 0 or c.chance >= LEAST_CHANCE]

"""What the Keep stage shows, in one go: bands, what readings have taught, and which reading to take next."""

from __future__ import annotations

import datetime
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from grey_current.design.flow.assessment import Assessment
from grey_current.keep.faults import Cause, Told, which_fault
from grey_current.keep.fit import Fit, Wanted, expected, fit, next_readings
from grey_current.keep.forecast import Forecast, forecasts
from grey_current.keep.model import Model
from grey_current.keep.sure import DRAWS, Sure, sure
from grey_current.shop.keep_plan import Reading, ReadingKind
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.units import Display

LEAST_TAKEN, LEAST_CHANCE = 0.005, 0.05
SHOWN = 3
"""Readings that are asked for at once, listed and marked on the floor."""
Standing = Literal["followed", "aside", "gone"]


@dataclass(frozen=True)
class Logged:
    """A reading (numbered from 1), what became of it, and what was expected there without any reading (SI).

    `half` is how far eight in ten were to lie from it.
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


@dataclass(frozen=True)
class HowSure:
    """The bands, what the readings teach, what became of each, the next ones, and which fault would explain them.

    The bands follow the readings where the project says so; the fit and the next readings always do. `due` is what
    comes next: bins, filters, hoses.
    """

    project: Project
    sure: Sure
    fit: Fit
    logged: tuple[Logged, ...]
    wanted: tuple[Wanted, ...]
    told: Told
    due: tuple[Forecast, ...] = ()


def how_sure(
    now: Assessment, draws: int = DRAWS, wanted: Callable[[], bool] = lambda: True, today: datetime.date | None = None
) -> HowSure:
    """Everything about doubt in the shop as it is, and what comes next from `today` (this very day).

    Raises `InputError` for a number of draws that is none.
    """
    project, model = now.project, Model(now)
    readings = project.keep.readings
    plain = fit(now, (), model)
    first = {n: _expected_here(project, plain, reading) for n, reading in enumerate(readings, 1)}
    used = [n for n, (at, _) in first.items() if np.isfinite(at)]
    taught = fit(now, [readings[n - 1] for n in used], model, wanted) if used else plain
    aside = {used[place] for place in taught.aside}
    logged = tuple(
        Logged(n, reading, "gone" if n not in used else "aside" if n in aside else "followed", *first[n])
        for n, reading in enumerate(readings, 1)
    )
    followed = taught if project.keep.applied else plain
    found = sure(now, followed, draws, wanted=wanted)
    told = which_fault(model, [readings[n - 1] for n in used], wanted)
    due = forecasts(project, model, today or datetime.date.today()) if wanted() else []
    return HowSure(project, found, taught, logged, tuple(next_readings(taught)) if wanted() else (), told, tuple(due))


def _expected_here(project: Project, plain: Fit, reading: Reading) -> tuple[float, float]:
    """What is expected where a reading was taken; NaN where the place or its air is gone since."""
    if reading.machine not in project.machine or project.find(reading.place) is None:
        return float("nan"), float("nan")
    return expected(plain, reading.kind, reading.machine, reading.place)


def machines_through(now: Assessment, element: str) -> list[str]:
    """The machines whose air passes a duct, gate or collector while they run alone, in the shop's order."""
    found = []
    for answer in now.counted.answers:
        if len(answer.scenario.running) != 1 or not answer.converged:
            continue
        for ident, system in answer.systems.items():
            network = system.network
            passed = network.branches_of.get(element, frozenset())
            leaves = [leaf for (m, p), leaf in network.leaf_of_pickup.items() if answer.scenario.uses(m, p)]
            if ident == element or any(not passed.isdisjoint(network.branch_path(leaf)) for leaf in leaves):
                found.append(answer.scenario.running[0])
                break
    return found


# -- in words

INSTRUMENT: dict[ReadingKind, str] = {
    "static pressure": "A gauge on a small hole (3 mm) at half the pipe's length, no burr inside, its tube square.",
    "velocity": "The mean over the pipe, in a straight piece: not the figure in the middle, which is some 10 % more.",
    "airflow": "All the air that goes in at the hood: an anemometer's mean over the whole opening, times its area.",
    "filter drop": "Gauge between the dirty side and the clean side of the filter.",
}


def figure(display: Display, kind: ReadingKind, value: float) -> str:
    """A reading's value with its unit."""
    if kind == "airflow":
        return display.airflow(value)
    return display.velocity(value) if kind == "velocity" else display.pressure(value)


def band_words(display: Display, kind: ReadingKind, at: float, half: float) -> str:
    """Where eight in ten lie."""
    low = figure(display, kind, max(at - half, 0.0)).rpartition(" ")[0]
    return f"likely {low} to {figure(display, kind, at + half)}"


def place_words(names: Names, kind: ReadingKind, machine: str, place: str) -> str:
    """What is measured where, while which machine runs."""
    what = {
        "static pressure": f"suction in {names.of(place)}",
        "velocity": f"velocity in {names.of(place)}",
        "airflow": f"airflow at {names.of(place)}",
        "filter drop": f"drop across the filter of {names.of(place)}",
    }[kind]
    return f"{capital(what)}, only {names.of(machine)} on"


def logged_words(names: Names, display: Display, item: Logged) -> str:
    """A reading and what became of it."""
    reading = item.reading
    words = f"{place_words(names, reading.kind, reading.machine, reading.place)}: "
    words += figure(display, reading.kind, reading.value)
    if item.standing == "gone":
        return f"{words}. Its place is gone, or no air is computed there; it is kept and not used."
    band = band_words(display, reading.kind, item.expected, item.half)
    words += f", {'as expected' if item.inside else 'not as expected'} ({band})."
    if item.standing == "aside":
        words += (
            " It contradicts the other readings or the tables, and is set aside: measure again, or look for a fault "
            "there."
        )
    return words


def cause_words(names: Names, cause: Cause) -> str:
    """A cause in words, with its place, its chance, and what it takes."""
    if cause.kind is None:
        return f"Nothing is wrong ({cause.chance:.0%}): the readings lie within what the tables leave open."
    where = f"{names.start(cause.place)}: {cause.kind.words}" if cause.place else capital(cause.kind.words)
    takes = f" It takes {cause.loses:.0%} of all machines' air." if cause.loses > LEAST_TAKEN else ""
    return f"{where} ({cause.chance:.0%}).{takes} {cause.kind.look}"


def likely_causes(told: Told, most: int = 3) -> list[Cause]:
    """The causes that are worth a look: the likeliest, and others while they have a chance."""
    return [c for n, c in enumerate(told.causes[:most]) if n == 0 or c.chance >= LEAST_CHANCE]

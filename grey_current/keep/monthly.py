"""One reading a month: where, with which machine on, and what is green, amber and red for this
shop.

The suction in the main falls when less air flows, as with a loading filter, and rises when the way
to the machine is narrower.
"""

from __future__ import annotations

import datetime
import math
from dataclasses import dataclass
from typing import Literal

from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.gates import own_gates
from grey_current.keep.model import Model
from grey_current.shop.catalogue import materials
from grey_current.shop.edits import changed, changed_all
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.units import Display

# How far open a gate is that stands for a way half plugged, and for one that is. Allowances.
NARROWER, PLUGGED = 0.7, 0.5
# The least share by which a limit lies off the healthy value: less nobody reads off a gauge.
LEAST_APART = 0.03
# The share by which a first reading may be off the tables and still be the healthy one. Allowance.
FAR_OFF = 0.25
KIND = "static pressure"
State = Literal["good", "short", "starved"]


@dataclass(frozen=True)
class Monthly:
    """The monthly reading of a collector.

    Attributes:
        place, machine: Where the hole is, a run or the collector whose inlet it is in, and which
            machine is on meanwhile.
        healthy: What it should be (Pa): the shop's own first reading, else what the tables say.
        own: Whether it is the shop's own.
        low_red, low, high, high_red: The limits (Pa). Above `high` only where a gate tells them.
        readings: What was read there, by date.
    """

    collector: str
    place: str
    machine: str
    healthy: float
    own: bool
    low_red: float
    low: float
    high: float | None
    high_red: float | None
    readings: tuple[tuple[datetime.date, float], ...]

    def state(self, value: float) -> State:
        """Green, amber or red, as states are called."""
        if value < self.low_red or (self.high_red is not None and value > self.high_red):
            return "starved"
        if value < self.low or (self.high is not None and value > self.high):
            return "short"
        return "good"

    def words(self, value: float) -> str:
        """What a reading means, and what to do."""
        state = self.state(value)
        if state == "good":
            return "As it should be."
        if value < self.healthy:
            if state == "starved":
                return "Too low: clean the filter, then look for an open gate or a leak."
            return "Falling: the filter is loading. Look at it soon."
        if state == "starved":
            return "Too high: something is shut or plugged between here and the machine."
        return "Rising: look for chips that lie in the duct or at the hood."


def monthly(now: Assessment, collector: str) -> Monthly | None:
    """The monthly reading of a collector; None where no machine draws through it.

    The hole is in the first rigid run at the collector, half way along, or in the collector's inlet
    where a hose goes into that; the machine that is on is the one that is used most. Raises
    nothing.
    """
    project = now.project
    machine = _most_used(now, collector)
    place = _hole(project, collector)
    if machine is None or place is None:
        return None
    here = _suction(project, machine, place)
    item = project.collector[collector]
    loaded = (item.filter.seasoned + item.filter.due) / 2
    low_red = _suction(_with_loading(project, collector, item.filter.due), machine, place)
    low = _suction(_with_loading(project, collector, loaded), machine, place)
    high, high_red = (_narrowed(now, machine, place, share) for share in (NARROWER, PLUGGED))
    if not math.isfinite(here) or here <= 0:
        return None
    wanted = (KIND, place, machine)
    mine = [
        r
        for r in project.keep.readings
        if (r.kind, r.place, r.machine) == wanted and not r.of_fault
    ]
    mine.sort(key=lambda reading: reading.date)
    # The shop's own first reading tells what healthy is better than any table, unless it is so far
    # off that something was wrong already.
    well = [r.value for r in mine if not project.keep.of_the_fault(r)]
    first = well[0] if well else math.nan
    own = first if abs(first / here - 1) < FAR_OFF else None
    scale = (own or here) / here
    apart = LEAST_APART * here
    limits = (
        min(low_red, here - 2 * apart),
        min(low, here - apart),
        None if high is None else max(high, here + apart),
        None if high_red is None else max(high_red, here + 2 * apart),
    )
    below, lower, upper, above = (None if x is None else x * scale for x in limits)
    return Monthly(
        collector,
        place,
        machine,
        here * scale,
        own is not None,
        below or 0.0,
        lower or 0.0,
        upper,
        above,
        tuple((r.date, r.value) for r in mine),
    )


def _most_used(now: Assessment, collector: str) -> str | None:
    """The machine that draws through a collector and is used most."""
    drawing = [
        machine
        for machine, answer in now.of_machine.items()
        if (system := answer.systems.get(collector)) is not None and system.converged
    ]

    def used(machine: str) -> float:
        item = now.project.machine[machine]
        return item.uses_per_week * item.minutes_per_use

    return max(drawing, key=used, default=None)


def _hole(project: Project, collector: str) -> str | None:
    """Where the hole is; None where nothing leads into the collector, or one cannot get at it."""
    run = next((r for r in project.runs if collector in r.ends), None)
    if run is None:
        return None
    place = collector if materials()[run.material].hose else run.id
    return None if place in project.keep.out_of_reach else place


def _with_loading(project: Project, collector: str, loading: float) -> Project:
    filter_ = project.collector[collector].filter
    return changed(project, collector, filter=filter_.replaced(loading=loading))


def _narrowed(now: Assessment, machine: str, place: str, share: float) -> float | None:
    """The suction with a machine's own gates open by a share; None for a machine without any."""
    gates = own_gates(now).get(machine, frozenset())
    if not gates:
        return None
    narrower = changed_all(now.project, gates, opening=share)
    return _suction(narrower, machine, place)


def _suction(project: Project, machine: str, place: str) -> float:
    model = Model(assess(project)).only(frozenset((machine,)))
    return float(model.view({}).value(KIND, machine, place))


def place_of(names: Names, found: Monthly) -> str:
    """Where the hole is, and with what on: "the main by the cyclone, only the saw on"."""
    inlet = "the inlet of " if found.place == found.collector else ""
    return f"{inlet}{names.of(found.place)}, only {names.of(found.machine)} on"


def limit_lines(display: Display, found: Monthly) -> list[str]:
    """The limits in words, as they stand on the sticker."""

    def say(value: float) -> str:
        return display.pressure(value)

    to = f" to {say(found.high)}" if found.high is not None else " and more"
    lines = [
        f"Green: {say(found.low)}{to}",
        f"Amber from {say(found.low)} down: the filter is loading",
        f"Red under {say(found.low_red)}: clean the filter; then look for leaks",
    ]
    if found.high is not None and found.high_red is not None:
        lines.append(f"Amber from {say(found.high)} up: look for chips that lie")
        lines.append(f"Red over {say(found.high_red)}: something is shut or plugged")
    return lines


def spec_of(found: Monthly) -> tuple[Literal["static pressure"], str, str]:
    """What is asked of the gauge: kind, machine and place of the reading."""
    return ("static pressure", found.machine, found.place)


def last_of(found: Monthly) -> tuple[datetime.date, float] | None:
    """The latest reading; None where nothing was read yet."""
    return found.readings[-1] if found.readings else None


def due_again(found: Monthly, today: datetime.date) -> bool:
    """Whether a month has gone by since the last one, or nothing was read yet."""
    last = last_of(found)
    return last is None or (today - last[0]).days >= 28

"""What a particle counter in the room says of the dust that machines really make: it narrows the
allowances' wide band.

Each machine's dust is the middle allowance times a factor. Before anything is read the factor's
logarithm is normal, as wide as the allowances leave it, and two machines' factors have half of it
in common: the room, the filter and the way of working are the same. Source: Gaussian conditioning;
Rasmussen and Williams, Gaussian Processes for Machine Learning, 2006, eq. A.6.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from weakref import WeakKeyDictionary

import numpy as np

from grey_current.air.rooms import course
from grey_current.design.flow.assessment import Assessment
from grey_current.shop.keep_plan import Reading
from grey_current.shop.work_plan import DayJob
from grey_current.work.day import DustFactor
from grey_current.work.day_plan import plan_day
from grey_current.work.materials import GUESSES
from grey_current.work.room_air import STEP, room_of_job, stretches

# The work after which one reads, min: long enough that most of the dust is there, short enough that
# somebody does it.
MINUTES = 15.0
# A cheap meter counts and knows nothing of wood: right within a factor of two, eight times in ten.
# Allowance.
METER = math.log(2.0)
# The share of the uncertainty that machines have in common. Allowance.
IN_COMMON = 0.5
# Deviations to each side that hold eight in ten.
INSIDE = 1.2816


@dataclass(frozen=True)
class DustExpected:
    """What a particle counter should show in a room after `MINUTES` of work at a machine: mg/m³
    above what it showed before, at the low end, in the middle and at the high end.
    """

    machine: str
    room: str
    low: float
    mid: float
    high: float

    @property
    def wide(self) -> float:
        """How many times the high end is the low one."""
        return self.high / self.low

    @property
    def spread(self) -> float:
        """The deviation of the factor's logarithm that the allowances leave."""
        return math.log(self.wide) / 2 / INSIDE


_known: WeakKeyDictionary[Assessment, dict[str, DustFactor]] = WeakKeyDictionary()


def dust_factors(now: Assessment) -> dict[str, DustFactor]:
    """What the readings of a shop make of each machine's dust; nothing where no particle counter
    was read. Raises nothing.
    """
    readings = [r for r in now.project.keep.readings if r.kind == "dust"]
    if not readings:
        return {}
    # Worked out once for an assessment: a day is looked at many times.
    if now not in _known:
        _known[now] = _factors(now, readings)
    return _known[now]


def expected_dust(
    now: Assessment, machine: str, room: str, factors: Mapping[str, DustFactor]
) -> DustExpected | None:
    """What a particle counter should show after some work at a machine, with what readings make of
    it; None where it makes no dust that floats there.
    """
    places = [item.id for item in now.project.rooms]
    if room not in places or machine not in now.project.machine:
        return None
    day = replace(plan_day(now, (DayJob(machine=machine, minutes=MINUTES),)), dust=factors)
    shown = []
    for guess in GUESSES:
        found = course(stretches(now, day, guess), [0.0] * len(places), STEP)
        last = int(np.searchsorted(found.times, day.ends + 1e-6, side="right")) - 1
        shown.append(float(found.dust[last, places.index(room)]))
    low, mid, high = shown
    return DustExpected(machine, room, low, mid, high) if low > 0 else None


@dataclass(frozen=True)
class MeterTest:
    """What to read with a particle counter.

    Attributes:
        expected: What it should show, by all that was read so far.
        tables: What it should show by the tables alone.
        readings: How many were taken in the shop.
    """

    expected: DustExpected
    tables: DustExpected
    readings: int


def meter_test(now: Assessment, machine: str) -> MeterTest | None:
    """The reading that tells how much dust a machine really makes; None for one that makes none, or
    without a particle counter.
    """
    plan = now.project.keep
    if machine not in now.project.machine or not plan.can_read("dust"):
        return None
    place = room_of_job(now.project, DayJob(machine=machine, minutes=MINUTES))
    if place is None:
        return None
    room = now.project.rooms[place].id
    tables = expected_dust(now, machine, room, {})
    expected = expected_dust(now, machine, room, dust_factors(now))
    if tables is None or expected is None:
        return None
    return MeterTest(expected, tables, sum(r.kind == "dust" for r in plan.readings))


def _factors(now: Assessment, readings: list[Reading]) -> dict[str, DustFactor]:
    """The factors of all machines, by everything that was read."""
    told, seen = list[DustExpected](), list[float]()
    for reading in readings:
        expected = expected_dust(now, reading.machine, reading.place, {})
        if expected is not None:
            told.append(expected)
            seen.append(math.log(reading.value / expected.mid))
    if not told:
        return {}
    home = told[0].room
    rooms = {expected.machine: expected.room for expected in told}
    factors: dict[str, DustFactor] = {}
    read_spread = np.array([expected.spread for expected in told])
    same = [[1.0 if a.machine == b.machine else IN_COMMON for b in told] for a in told]
    between = np.outer(read_spread, read_spread) * np.array(same)
    noise = np.eye(len(told)) * (METER / INSIDE) ** 2
    for machine in now.project.machine:
        expected = expected_dust(now, machine, rooms.get(machine, home), {})
        if expected is None:
            continue
        spread = expected.spread
        alike = [1.0 if one.machine == machine else IN_COMMON for one in told]
        towards = spread * read_spread * np.array(alike)
        gain = np.linalg.solve(between + noise, towards)
        left = math.sqrt(max(spread**2 - float(gain @ towards), 0.0)) / spread
        factors[machine] = DustFactor(
            math.exp(float(gain @ np.array(seen))),
            left,
            math.log(expected.low / expected.mid),
            math.log(expected.high / expected.mid),
        )
    return factors

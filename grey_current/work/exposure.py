"""Exposure over a day against a reference value: like compared with like, in the room and for the
person at the tool.

The rooms' air knows only fine dust that floats. References for wood dust count all that is
inhalable, coarse grains too, and somebody at the tool breathes several times what the room holds on
average. Both are allowances with a wide range, so that the answer is a band and the verdict one of
three.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from grey_current.numerals import compact
from grey_current.shop.model import Project
from grey_current.shop.work_plan import Limit, Respirator
from grey_current.work.materials import GUESSES, allowance
from grey_current.work.room_air import room_of_job
from grey_current.work.room_day import RoomDay

Verdict = Literal["under", "may be over", "over"]


@dataclass(frozen=True)
class Reference:
    """A reference value: mg/m³ as an average over so many hours, of which dust, and who says so."""

    value: float
    hours: float
    counts: Literal["inhalable", "pm25"]
    source: str


# Your country's limit decides.
REFERENCES: dict[Limit, Reference] = {
    "eu-hardwood": Reference(
        2.0, 8, "inhalable", "Directive (EU) 2017/2398: hardwood dust, inhalable, over 8 h"
    ),
    "acgih-wood": Reference(
        1.0, 8, "inhalable", "ACGIH, TLVs, 2023: wood dust, inhalable, over 8 h"
    ),
    "niosh-wood": Reference(
        1.0, 10, "inhalable", "NIOSH, Pocket Guide, 2007: wood dust, over 10 h"
    ),
    "who-pm25": Reference(
        0.015, 24, "pm25", "WHO, Air quality guidelines, 2021: fine dust (PM2.5), over a day"
    ),
}
COUNTED = {"inhalable": "inhalable dust", "pm25": "PM2.5"}
# How many times less dust a respirator that fits lets through. EN 529, 2005, assigned protection
# factors.
PROTECTION: dict[Respirator, float] = {"none": 1.0, "ffp2": 10.0, "ffp3": 20.0, "half-mask": 20.0}


@dataclass(frozen=True)
class Band:
    """A figure that the allowances leave open: mg/m³ at their low end, in the middle and at their
    high end.
    """

    low: float
    mid: float
    high: float

    def over(self, share: float) -> Band:
        """The band divided by a factor."""
        return Band(self.low / share, self.mid / share, self.high / share)

    def against(self, limit: float) -> Verdict:
        """Under or over a limit only where the whole band is."""
        if self.high <= limit:
            return "under"
        return "over" if self.low > limit else "may be over"


@dataclass(frozen=True)
class Exposure:
    """A day's exposure as a reference counts it: the mean of the worst room, and of the person at
    the tools.
    """

    room: Band
    person: Band
    reference: Reference
    protection: float

    @property
    def verdict(self) -> Verdict:
        """How the person at the tool stands against the reference, without a respirator."""
        return self.person.against(self.reference.value)

    @property
    def breathed(self) -> Band:
        """What the person breathes behind the respirator that is worn."""
        return self.person.over(self.protection)

    @property
    def words(self) -> str:
        """The verdict in a sentence."""
        value, counted = self.reference.value, COUNTED[self.reference.counts]
        least, most = figure(self.person.low), figure(self.person.high)
        start = {"under": "Under", "may be over": "May be over", "over": "Over"}[self.verdict]
        hours = f"{compact(self.reference.hours)} h"
        return (
            f"{start} the reference of {compact(value)} mg/m³: {least} to {most} of {counted} at "
            f"the tool, over {hours}."
        )


def figure(value: float) -> str:
    """Milligrams in a cubic metre with two digits, for no more is known."""
    return compact(value, 2) if value < 10 else f"{value:.0f}"


def reference_of(project: Project) -> Reference:
    """The reference value that the user chose."""
    return REFERENCES[project.work.limit]


def floating_at_limit(project: Project) -> float:
    """How much floating dust (mg/m³) a room's mean may hold to be at the reference, by the middle
    allowance.
    """
    reference = reference_of(project)
    return reference.value / allowance(reference.counts, "mid")


def exposure(found: RoomDay) -> Exposure:
    """A day's exposure with its band. Raises nothing."""
    reference = reference_of(found.day.project)
    dust = {"low": found.low, "mid": found.mid.dust, "high": found.high}
    sums = zip(*(over_the_day(found, dust[guess]) for guess in GUESSES), strict=True)
    room, at_tool, between = (Band(*ends) for ends in sums)
    near = Band(*(allowance("near_field", guess) for guess in GUESSES))
    counted = Band(
        *(allowance(reference.counts, guess) / (reference.hours * 3600) for guess in GUESSES)
    )
    close = product(at_tool, near)
    person = Band(close.low + between.low, close.mid + between.mid, close.high + between.high)
    protection = PROTECTION[found.day.project.work.respirator]
    return Exposure(product(room, counted), product(person, counted), reference, protection)


def product(a: Band, b: Band) -> Band:
    """Two independent uncertain figures multiplied: their spreads add up as squares of logarithms.
    Raises nothing.

    Both ends at once would call a chance of one in a hundred likely.
    Source: Bevington and Robinson, Data Reduction and Error Analysis, 2003, ch. 3 (products).
    """
    mid = a.mid * b.mid
    if a.low <= 0 or b.low <= 0:
        return Band(0.0, mid, a.high * b.high)
    below = math.hypot(math.log(a.mid / a.low), math.log(b.mid / b.low))
    above = math.hypot(math.log(a.high / a.mid), math.log(b.high / b.mid))
    return Band(mid * math.exp(-below), mid, mid * math.exp(above))


def over_the_day(found: RoomDay, dust: NDArray[np.float64]) -> tuple[float, float, float]:
    """Floating dust over the day (mg s/m³): the worst room's, and the person's room's at the tools
    and between jobs.

    `dust` (mg/m³) has the shape of the day's course: a row a moment, a column a room.
    """
    times, worst = found.mid.times, found.rooms.index(found.worst_room)
    project = found.day.project
    room = at_tool = between = 0.0
    for step in found.day.steps:
        inside = (times >= step.starts - 1e-6) & (times <= step.ends + 1e-6)
        job = None if step.job is None else found.day.jobs[step.job]
        at_it = None if job is None else room_of_job(project, job)
        # Between jobs one may be anywhere: the worst room counts.
        here = worst if at_it is None else at_it
        room += float(np.trapezoid(dust[inside, worst], times[inside]))
        breathed = float(np.trapezoid(dust[inside, here], times[inside]))
        if at_it is not None:
            at_tool += breathed
        else:
            between += breathed
    return room, at_tool, between

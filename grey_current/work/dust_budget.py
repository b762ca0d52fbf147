"""Whose dust one breathes: the share of every working place in the day, and which way it came."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from grey_current.air.rooms import course_in_parts
from grey_current.design.flow.assessment import Assessment
from grey_current.numerals import compact
from grey_current.work.day import Day
from grey_current.work.day_text import job_name
from grey_current.work.exposure import over_the_day
from grey_current.work.materials import allowance
from grey_current.work.room_air import STEP, released, stretches
from grey_current.work.room_day import RoomDay
from grey_current.work.room_readings import MeterTest, meter_test
from grey_current.work.varnish import CleanRoom, clean_rooms, early_finishing

# A smaller share than this is not worth a line.
LEAST = 0.005
# The share of a place's dust from which the other way is not worth naming.
MOST_OF_IT = 0.7


@dataclass(frozen=True)
class DayDust:
    """Where the dust of a day comes from, and when it is gone.

    Attributes:
        shares: Every operation's share of what the person breathes, the largest first.
        clean: When each room is clean enough to varnish in.
        early: What is amiss with the day's own finishing, a sentence each.
        meter: What to read with a particle counter, at the machine that makes most of it.
    """

    shares: tuple[DustShare, ...]
    clean: tuple[CleanRoom, ...]
    early: tuple[str, ...]
    meter: MeterTest | None = None


def day_dust(now: Assessment, found: RoomDay) -> DayDust:
    """Where the dust of a day comes from, and when it is gone. Raises nothing."""
    shares = dust_budget(now, found)
    machines = [share.machine for share in shares if share.machine in now.project.machine]
    meter = meter_test(now, machines[0]) if machines else None
    return DayDust(shares, clean_rooms(now, found), early_finishing(now, found), meter)


@dataclass(frozen=True)
class DustShare:
    """What one operation (a machine's working place in one wood, or work by hand) adds to the dust
    that the person breathes over the day, by the middle allowances.

    Attributes:
        machine: The id of the machine, or of work by hand.
        name: The machine, with its working place where it has several, and the wood where the day
            has it in more than one.
        minutes: How long all its jobs take, min.
        missed: The share of the day's dose that its hoods missed, 0 to 1.
        returned: The share that came back through the collector's filter.
        caught: Whether anything at all catches its dust.
        dose: What it adds, mg s/m³: by it a day with a change is held against the day without.
    """

    machine: str
    name: str
    minutes: float
    missed: float
    returned: float
    caught: bool
    dose: float = 0.0

    @property
    def words(self) -> str:
        """The machine and its minutes as one says them."""
        return f"{self.name}, {compact(self.minutes)} min"

    @property
    def whole(self) -> float:
        """Its share of the day's dose."""
        return self.missed + self.returned

    @property
    def way(self) -> str:
        """Which way its dust came."""
        if not self.caught:
            return "nothing catches it"
        if self.missed > MOST_OF_IT * self.whole:
            return "past its hoods"
        if self.returned > MOST_OF_IT * self.whole:
            return "through the filter"
        return "past its hoods, and through the filter"


def dust_budget(now: Assessment, found: RoomDay) -> tuple[DustShare, ...]:
    """The share of every operation in what the person breathes over a day, at the tools and
    between them, the largest first.

    The rooms' air is linear in what is made, so that the shares add up to the whole. Empty where
    nothing makes dust. Raises nothing.
    """
    day = found.day
    groups = _jobs_by_operation(day)
    place_of = {job: place for place, jobs in enumerate(groups) for job in jobs}
    ways = {job: released(now, day, job, "mid") for job in place_of}
    air = stretches(now, day, "mid")
    # For each stretch what every operation puts into each room: missed, and returned.
    made, clock = [], 0.0
    for stretch in air:
        source = np.zeros((len(found.rooms), 2 * len(groups)))
        job = day.job_at(clock + stretch.seconds / 2)
        if job in ways:
            place = 2 * place_of[job]
            source[:, place], source[:, place + 1] = ways[job]
        made.append(source)
        clock += stretch.seconds
    parts = course_in_parts(air, made, STEP) if groups else np.zeros((0, 0, 0))
    doses = [_breathed(found, parts[:, :, part]) for part in range(parts.shape[2])]
    whole = sum(doses)
    shares = [
        DustShare(
            day.jobs[jobs[0]].machine,
            _operation(day, jobs[0], groups),
            math.fsum(day.jobs[job].minutes for job in jobs),
            doses[2 * place] / whole,
            doses[2 * place + 1] / whole,
            any(_is_caught(day, job, ways[job][0]) for job in jobs),
            doses[2 * place] + doses[2 * place + 1],
        )
        for place, jobs in enumerate(groups)
        if whole > 0
    ]
    return tuple(sorted(shares, key=lambda share: -share.whole))


@dataclass(frozen=True)
class BeforeAndAfter:
    """An operation's share of the day's dose as it is, and after a change, both of the dose as it
    is: so that what all become is what is left of the whole.
    """

    share: DustShare
    now: float
    then: float


def before_and_after(
    now: Sequence[DustShare], then: Sequence[DustShare]
) -> tuple[BeforeAndAfter, ...]:
    """What every operation adds as it is and after a change, the largest first. Raises nothing.

    What makes no dust any more comes to nothing.
    """
    whole = math.fsum(share.dose for share in now)
    after = {(share.machine, share.name): share.dose for share in then}
    return tuple(
        BeforeAndAfter(
            share, share.dose / whole, after.get((share.machine, share.name), 0.0) / whole
        )
        for share in now
    )


def _jobs_by_operation(day: Day) -> list[list[int]]:
    """The jobs of a day that make dust, by number, those at one working place in one wood
    together.
    """
    groups: dict[tuple[str, str | None, str | None], list[int]] = {}
    for step in day.steps:
        if step.job is not None and day.made[step.job].fine > 0:
            job = day.jobs[step.job]
            groups.setdefault((job.machine, job.place, job.wood), []).append(step.job)
    return list(groups.values())


def _operation(day: Day, job: int, groups: Sequence[Sequence[int]]) -> str:
    """What an operation is called: with its wood only where that tells it from another one."""
    item = day.jobs[job]
    name = job_name(day.project, item.machine, item.place)
    at_it = [day.jobs[jobs[0]] for jobs in groups]
    alike = [other for other in at_it if (other.machine, other.place) == (item.machine, item.place)]
    return name if len(alike) < 2 else f"{name}, {item.wood or 'usual wood'}"


def _is_caught(day: Day, job: int, missed: Sequence[float]) -> bool:
    """Whether less gets past than is made."""
    return sum(missed) < day.made[job].fine / (day.jobs[job].minutes * 60) * (1 - 1e-9)


def _breathed(found: RoomDay, dust: NDArray[np.float64]) -> float:
    """What the person breathes of some dust over the day (mg s/m³), by the middle allowance."""
    _, at_tool, between = over_the_day(found, dust)
    return at_tool * allowance("near_field", "mid") + between

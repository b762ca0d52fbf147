"""When the air is clean enough to varnish: how long after the last cut, room by room, and whether
the day's own finishing comes too early.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from grey_current.air.rooms import course
from grey_current.design.flow.assessment import Assessment
from grey_current.shop.room import hot_names
from grey_current.work.day import Day
from grey_current.work.day_text import job_name
from grey_current.work.exposure import figure
from grey_current.work.materials import GUESSES, Guess, clean_air
from grey_current.work.room_air import STEP, quiet_air
from grey_current.work.room_day import RoomDay, at_moment, minutes_words

# s that are looked ahead; what is not clean by then is said to take more than a day.
AHEAD = 86_400.0
FINISHING = "hand-finish"


@dataclass(frozen=True)
class CleanRoom:
    """How long after the last job (s) a room's air is clean enough; infinite beyond a day.

    Attributes:
        soonest: With the cleaners left on, by the allowances at one end; then `likely`, `latest`.
        without: Likely, with the cleaners off.
        running: Likely, with the day's collectors left on too; NaN where none may be.
    """

    room: str
    soonest: float
    likely: float
    latest: float
    without: float
    running: float

    @property
    def words(self) -> str:
        """When it likely is, in words."""
        return f"{roughly(self.likely)} after work" if self.likely > 0 else "at once"

    @property
    def band(self) -> str:
        """How far that may be off; empty where it is clean at once in any case."""
        if self.latest <= 0:
            return ""
        return f"{roughly(self.soonest)} to {roughly(self.latest)}"


def clean_rooms(now: Assessment, found: RoomDay) -> tuple[CleanRoom, ...]:
    """When each room is clean enough to varnish in after a day. Raises nothing."""
    day = found.day
    end = at_moment(found.mid, day.ends)
    dust: dict[Guess, NDArray[np.float64]] = {
        "low": found.low[end],
        "mid": found.mid.dust[end],
        "high": found.high[end],
    }
    waits = {guess: _waits(now, day, guess, dust[guess]) for guess in GUESSES}
    off = _waits(now, day, "mid", dust["mid"], cleaning=False)
    left_on = [math.nan] * len(found.rooms)
    collectors = may_run_on(day)
    if collectors:
        left_on = _waits(now, day, "mid", dust["mid"], running=collectors)
    return tuple(
        CleanRoom(
            room,
            soonest=waits["low"][place],
            likely=waits["mid"][place],
            latest=waits["high"][place],
            without=off[place],
            running=left_on[place],
        )
        for place, room in enumerate(found.rooms)
    )


def may_run_on(day: Day) -> tuple[str, ...]:
    """The collectors of a day that may be left on to clear the air: none that takes the air of a
    room in which something burns.
    """
    project = day.project
    burns = bool(hot_names(project.features))
    return tuple(name for name in day.on if not (burns and project.collector[name].takes_air_away))


def _waits(
    now: Assessment,
    day: Day,
    guess: Guess,
    start: NDArray[np.float64],
    *,
    cleaning: bool = True,
    running: Sequence[str] = (),
) -> list[float]:
    """How long (s) it takes in each room from some dust (mg/m³) until it stays clean enough."""
    quiet = quiet_air(now, day, guess, AHEAD, cleaning=cleaning, running=running)
    found = course([quiet], list(start), STEP)
    return [_last_above(found.times, column) for column in found.dust.T]


def _last_above(times: NDArray[np.float64], dust: NDArray[np.float64]) -> float:
    """When dust falls under what is clean for good: 0 where it never was over, infinite where it
    still is.

    A room next to a dusty one may be clean at first and grow dusty, so that the last time counts.
    """
    over = np.flatnonzero(dust > clean_air())
    if not over.size:
        return 0.0
    last = int(over[-1])
    if last + 1 == len(times):
        return math.inf
    # Between two steps dust falls by a constant share of itself.
    before, after = dust[last], max(dust[last + 1], 1e-12)
    share = math.log(before / clean_air()) / math.log(before / after)
    return float(times[last] + share * (times[last + 1] - times[last]))


def early_finishing(now: Assessment, found: RoomDay) -> tuple[str, ...]:
    """What is amiss with the finishing of a day, a sentence each: begun before the air is clean, or
    dust made while it is wet.
    """
    day, said = found.day, []
    for step in day.steps:
        if step.job is None or day.jobs[step.job].machine != FINISHING:
            continue
        dust = found.mid.dust[at_moment(found.mid, step.starts)]
        # As the day has it: what is on while one finishes clears the air meanwhile.
        on = [name for name in day.on if day.is_on(name, step.starts)]
        waits = _waits(now, day, "mid", dust, running=on)
        best = int(np.argmin(waits))
        if waits[best] > STEP:
            amount, wait = figure(float(dust[best])), roughly(waits[best])
            collectors = may_run_on(day)
            left_on = _waits(now, day, "mid", dust, running=collectors)[best]
            if collectors and left_on < waits[best] - STEP:
                wait = f"{wait} ({roughly(left_on)} with the collector left on)"
            said.append(
                f"The finishing would begin in {amount} mg/m³ of dust: wait {wait} without "
                "cutting anything, or do it another day."
            )
        later = _dusty_after(day, step.ends)
        if later:
            said.append(
                f"The {later[0]} is used after the finishing: its dust falls on the wet finish, "
                "unless that dries in another room."
            )
    return tuple(dict.fromkeys(said))


def _dusty_after(day: Day, moment: float) -> Sequence[str]:
    """The machines by name at which dust is made after a moment (s)."""
    names = []
    for step in day.steps:
        if step.job is not None and step.starts >= moment - 1e-6 and day.made[step.job].fine > 0:
            names.append(job_name(day.project, day.jobs[step.job].machine).lower())
    return names


def roughly(seconds: float) -> str:
    """A time in words, no finer than it is known: to 5 min, a quarter of an hour, an hour."""
    if not math.isfinite(seconds) or seconds <= 0:
        return "at once" if seconds <= 0 else minutes_words(seconds)
    step = 300.0 if seconds < 3600 else 900.0 if seconds < 4 * 3600 else 3600.0
    return minutes_words(max(round(seconds / step), 1) * step)

"""The dust in the rooms over a day: what hoods miss, what filters give back, what settles and is
cleaned away.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from grey_current.air.rooms import RoomCourse, course, seconds_until
from grey_current.design.collector.make_up_air import most_depression
from grey_current.design.flow.assessment import Assessment
from grey_current.errors import InputError
from grey_current.shop.room import hot_names
from grey_current.units import Display
from grey_current.work.day import Day
from grey_current.work.day_text import VAPOURS
from grey_current.work.ears import WORKDAY
from grey_current.work.materials import GUESSES
from grey_current.work.room_air import STEP, caught_by, quiet_air, stretches
from grey_current.work.room_readings import dust_factors

TENTH = 0.1


@dataclass(frozen=True)
class RoomDay:
    """The day's dust: rooms by id, the likely course with its range, and what it means."""

    day: Day
    rooms: tuple[str, ...]
    mid: RoomCourse
    low: NDArray[np.float64]
    high: NDArray[np.float64]
    decay: float
    caught: dict[str, float]
    warnings: tuple[str, ...]

    def dose(self, room: str) -> float:
        """The dust over eight hours (mg/m³) of one who works in a room until the last job is
        over.
        """
        place = self.rooms.index(room)
        at_work = self.mid.times <= self.day.ends + 1e-6
        times, dust = self.mid.times[at_work], self.mid.dust[at_work, place]
        return float(np.trapezoid(dust, times)) / WORKDAY

    @property
    def worst_room(self) -> str:
        """The room with most dust over the day."""
        return max(self.rooms, key=self.dose)


def room_day(now: Assessment, day: Day) -> RoomDay:
    """The dust of a day in every room, with the range that the allowances give.

    Raises `InputError` for what no room bears.
    """
    rooms = tuple(room.id for room in now.project.rooms)
    day = replace(day, dust=dust_factors(now))
    try:
        # Three courses: the allowances as they are, and at both of their ends.
        courses = {
            guess: course(stretches(now, day, guess), [0.0] * len(rooms), STEP) for guess in GUESSES
        }
        decay = _decay(now, day, courses["mid"])
    except ValueError as problem:
        raise InputError(
            "the room's air", str(problem), "enter fewer air changes or smaller airflows"
        ) from None
    return RoomDay(
        day,
        rooms,
        courses["mid"],
        courses["low"].dust,
        courses["high"].dust,
        decay,
        {m.id: caught_by(now, m, "mid") for m in now.project.machines},
        tuple(_warnings(now, day)),
    )


def _decay(now: Assessment, day: Day, found: RoomCourse) -> float:
    """How long after the last job (s) the dust of the worst room is down to a tenth, its cleaners
    left on.
    """
    if not day.steps or not now.project.rooms:
        return 0.0
    start = found.dust[at_moment(found, day.ends)]
    room = int(np.argmax(start))
    return seconds_until(quiet_air(now, day, "mid"), list(start), TENTH, room)


def at_moment(found: RoomCourse, moment: float) -> int:
    """The number of the last time of a course that is not after a moment (s)."""
    return int(np.searchsorted(found.times, moment + 1e-6, side="right")) - 1


def _warnings(now: Assessment, day: Day) -> Iterable[str]:
    project = now.project
    hot = hot_names(project.features)
    away = [c for c in project.collectors if c.takes_air_away and c.id in day.on]
    pulled = max((most_depression(now, c.id) for c in away), default=0.0)
    below = Display(project.settings.units).pressure(-pulled)
    if away and hot:
        yield (
            f"Danger: a collector takes air out of the room of the {hot[0]} (up to {below}) and "
            "can pull flue gases in. Make-up air first, and somebody licensed."
        )
    if any(f.kind == "return-air grille" for f in project.features):
        yield "A return-air grille takes this dust into the house: shut it while you work."
    if any(c.exhausts == "outdoors" for c in away):
        yield (
            f"The shop is under negative pressure (up to {below}): air comes in from the house "
            "by every gap, and "
            "dust stays out of it."
        )
    if any(job.machine in VAPOURS for job in day.jobs):
        yield (
            "Dust filters do not stop solvent fumes: open the windows for glue and finish, "
            "and mind flames."
        )


def minutes_words(seconds: float) -> str:
    """A time in words: "35 min", "2 h 10 min"."""
    if not math.isfinite(seconds):
        return "more than a day"
    minutes = round(seconds / 60)
    hours, rest = divmod(minutes, 60)
    if not hours:
        return f"{minutes} min"
    return f"{hours} h {rest} min" if rest else f"{hours} h"


def shares_of(found: RoomDay) -> Sequence[tuple[str, float]]:
    """What became of the dust by the end: its words and its share of what was made."""
    whole = found.mid.made or 1.0
    settled, filtered, gone = (float(row.sum()) / whole for row in found.mid.sinks)
    return (
        ("settled on things", settled),
        ("filtered", filtered),
        ("gone out", gone),
        ("still in the air", found.mid.left / whole),
    )

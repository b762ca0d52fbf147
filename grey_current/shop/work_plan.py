"""What the user says about working: a day's jobs, cleaners, checklists, figures of the house.
Values only.
"""

from __future__ import annotations

from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from grey_current.shop.values import Airflow, Id, Name, Share, Value

Minutes = Annotated[float, Field(gt=0, le=720, description="minutes")]
Line = Annotated[str, Field(min_length=1, max_length=160)]


class DayJob(Value):
    """A job of the day: a machine, how long, in which wood; `after` names the jobs (from 1) that
    must come before it.

    `place` is the working place (a pickup's id) of a machine that uses one at a time; None: its
    first. `litres` is what it makes of chips where that is known; else it follows from the machine
    and the minutes.
    """

    machine: Id
    place: Id | None = None
    minutes: Minutes
    wood: Id | None = None
    after: Annotated[tuple[Annotated[int, Field(ge=1, le=60)], ...], Field(max_length=20)] = ()
    litres: Annotated[float, Field(ge=0, le=5000, description="l")] | None = None


class Unread(Value):
    """A line of the day that was not understood, as typed; `after_jobs` of the day stand before
    it.
    """

    text: Annotated[str, Field(min_length=1, max_length=400)]
    after_jobs: Annotated[int, Field(ge=0, le=60)]


class KeptDay(Value):
    """A day's jobs kept under a name, such as a usual Saturday."""

    name: Name
    jobs: Annotated[tuple[DayJob, ...], Field(max_length=60)]


class AirCleaner(Value):
    """An air cleaner in a room: airflow (m³/s) through clean filters, share of fine dust caught in
    one pass.

    `hours` its filters have run; `runs_on` minutes that its timer lets it run when work is over.
    """

    name: Name
    room: Id
    airflow: Airflow
    caught: Annotated[float, Field(gt=0, le=1)]
    hours: Annotated[float, Field(ge=0, le=20_000)] = 0.0
    # Hours after which its filters let through half of the air that they did.
    lasts: Annotated[float, Field(gt=0, le=20_000, description="hours")] = 400.0
    runs_on: Annotated[float, Field(ge=0, le=1440, description="minutes")] = 60.0


class Checklist(Value):
    """The lines of one machine's checklist, in the user's own words."""

    machine: Id
    lines: Annotated[tuple[Line, ...], Field(max_length=20)]


Limit = Literal["eu-hardwood", "acgih-wood", "niosh-wood", "who-pm25"]
Wall = Literal[
    "none",
    "open door",
    "door",
    "sealed door",
    "stud wall",
    "lined stud wall",
    "double stud wall",
    "brick wall",
    "joist floor",
    "insulated floor",
]
Respirator = Literal["none", "ffp2", "ffp3", "half-mask"]


class WorkPlan(Value):
    """Everything about working that is not in the drawing.

    `open_doors` says whether doors between rooms stand open while one works, `sealed_doors` whether
    shut ones are tight, `windows` air changes
    an hour by windows and leaks; `seal` the share that a worn filter seal lets by.
    """

    day: Annotated[tuple[DayJob, ...], Field(max_length=60)] = ()
    # What was jotted down with it and is not understood yet; it counts for nothing.
    unread: Annotated[tuple[Unread, ...], Field(max_length=60)] = ()
    # The day that was logged last, and days that are kept.
    logged: Annotated[tuple[DayJob, ...], Field(max_length=60)] = ()
    days: Annotated[tuple[KeptDay, ...], Field(max_length=12)] = ()
    cleaners: Annotated[tuple[AirCleaner, ...], Field(max_length=12)] = ()
    checklists: Annotated[tuple[Checklist, ...], Field(max_length=200)] = ()
    limit: Limit = "eu-hardwood"
    respirator: Respirator = "none"
    # Protection (SNR or NRR) of what is worn on the ears.
    hearing: Annotated[float, Field(ge=0, le=40, description="dB")] = 0.0
    open_doors: bool = False
    # Doors between rooms that are shut have gaskets all round and a seal at the foot.
    sealed_doors: bool = False
    windows: Annotated[float, Field(ge=0, le=20)] = 0.3
    seal: Share = 0.0
    # What stands between the shop and the next room where somebody hears it; none: nobody does.
    wall: Wall = "none"
    kwh_price: Annotated[float, Field(ge=0, le=100)] | None = None

    @model_validator(mode="after")
    def _jobs_come_after_jobs(self) -> Self:
        for number, job in enumerate(self.day, 1):
            for before in job.after:
                if before == number or before > len(self.day):
                    raise ValueError(
                        f"job {number} is to come after job {before}, which is none before it"
                    )
        if _circle(self.day):
            raise ValueError("the jobs wait for one another in a circle")
        return self


def _circle(day: tuple[DayJob, ...]) -> bool:
    left = set(range(1, len(day) + 1))
    while left:
        free = {n for n in left if not left.intersection(day[n - 1].after)}
        if not free:
            return True
        left -= free
    return False

"""Seven short lessons before the free practice shops: each a shop with known faults, what to read
there, what that means, and what one would do at home.
"""

from __future__ import annotations

import datetime
import json
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Literal

from grey_current.design.flow.assess import assess
from grey_current.errors import InputError
from grey_current.keep.causes import cause_at, fault_kinds, faulty_model
from grey_current.keep.fit import ReadingSpec
from grey_current.keep.model import Model
from grey_current.keep.practice import WHEN_WELL, Hidden, as_read, complaint_of_all, veiled
from grey_current.shop.keep_edits import with_keep, with_readings
from grey_current.shop.keep_plan import Practice, PracticeAct, Reading, ReadingKind
from grey_current.shop.model import Project


@dataclass(frozen=True)
class LessonReading:
    """A reading of a lesson: what, with which machine on, where; which way the faults move it, and
    what that means.
    """

    kind: ReadingKind
    machine: str
    place: str
    moves: Literal["up", "down", "same"]
    means: str

    @property
    def spec(self) -> ReadingSpec:
        """What is read."""
        return self.kind, self.machine, self.place


@dataclass(frozen=True)
class Lesson:
    """A lesson: its faults as kind, place and quantile of their size."""

    number: int
    title: str
    picture: str
    learn: str
    faults: tuple[tuple[str, str, float], ...]
    readings: tuple[LessonReading, ...]
    home: str


@dataclass(frozen=True)
class LessonStep:
    """What is to be done next in a lesson; "over" when all is done."""

    todo: Literal["measure", "look", "mend", "over"]
    reading: LessonReading | None = None
    fault: str = ""
    place: str = ""


@cache
def lessons() -> tuple[Lesson, ...]:
    """The lessons in their order."""
    text = (files("grey_current.keep") / "data" / "lessons.json").read_text(encoding="utf-8")
    return tuple(
        Lesson(
            number,
            raw["title"],
            raw["picture"],
            raw["learn"],
            tuple((kind, place, quantile) for kind, place, quantile in raw["faults"]),
            tuple(LessonReading(**reading) for reading in raw["readings"]),
            raw["home"],
        )
        for number, raw in enumerate(json.loads(text)["lessons"], 1)
    )


def lesson_of(project: Project) -> Lesson | None:
    """The lesson that a practice shop is; None for any other shop."""
    practice = project.keep.practice
    number = practice.lesson if practice is not None else 0
    return next((lesson for lesson in lessons() if lesson.number == number), None)


def lesson_shop(loft: Project, number: int, today: datetime.date) -> Project:
    """The sample loft as the shop of a lesson (from 1): its faults hidden in it, and what was read
    when it was well. Raises `InputError` for a number that is none.
    """
    lesson = next((one for one in lessons() if one.number == number), None)
    if lesson is None:
        raise InputError("lesson", number, f"lessons are 1 to {len(lessons())}")
    clean = with_keep(loft, readings=(), entries=(), complaint=None, looks=(), applied=True)
    model = faulty_model(Model(assess(clean)))
    kinds = fault_kinds().by_name
    causes = tuple(
        cause_at(model, kinds[kind], place, quantile) for kind, place, quantile in lesson.faults
    )
    # All but the faults is as the tables say: a lesson is about one thing.
    secret = Hidden(model, {unknown.key: 1.0 for unknown in model.unknowns}, causes)
    well = frozenset(cause.cause for cause in causes)
    known = [
        as_read(r.spec, secret.value(r.spec, well), today - WHEN_WELL, "when it was well")
        for r in lesson.readings
    ]
    plan = Practice(seed=number, level=1, veiled=veiled(secret), lesson=number)
    complaint = complaint_of_all(secret, today) if causes else None
    return with_keep(with_readings(clean, known), practice=plan, complaint=complaint)


def lesson_step(project: Project) -> LessonStep:
    """What comes next in a lesson: its readings first, then a look at each fault, then its mending.

    Raises `InputError` for a shop that is no lesson.
    """
    lesson, practice = lesson_of(project), project.keep.practice
    if lesson is None or practice is None:
        raise InputError("lesson", project.name, "begin one with Practice lessons")
    done = {(act.kind, act.what, act.place) for act in practice.acts}
    for reading in lesson.readings:
        if ("measured", reading.kind, reading.place) not in done:
            return LessonStep("measure", reading)
    for fault, place, _ in lesson.faults:
        if ("mended", fault, place) in done:
            continue
        todo: Literal["look", "mend"] = "mend" if ("looked", fault, place) in done else "look"
        return LessonStep(todo, fault=fault, place=place)
    return LessonStep("over")


def read_in_lesson(project: Project, reading: LessonReading) -> tuple[float, float] | None:
    """What was read when it was well, and what was read now (SI); None where it was not yet."""
    practice = project.keep.practice
    acts: tuple[PracticeAct, ...] = practice.acts if practice is not None else ()
    now = [a.value for a in acts if (a.kind, a.what, a.place) == _taken(reading)]
    well = [r.value for r in project.keep.readings if _spec(r) == reading.spec]
    if not now or now[-1] is None or not well:
        return None
    return well[0], now[-1]


def _taken(reading: LessonReading) -> tuple[str, str, str]:
    return "measured", reading.kind, reading.place


def _spec(reading: Reading) -> ReadingSpec:
    return reading.kind, reading.machine, reading.place

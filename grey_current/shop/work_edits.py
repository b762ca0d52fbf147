"""Edits of what is said about working: a day, cleaners, checklists. Pure functions."""

from __future__ import annotations

from typing import Any

from grey_current.errors import InputError
from grey_current.shop.edits import changed, checked
from grey_current.shop.machines import HoodTest
from grey_current.shop.model import Project
from grey_current.shop.work_plan import Checklist, DayJob
from grey_current.units import Display


def with_work(project: Project, **changes: Any) -> Project:
    """The project with some of its working plan changed. Raises `InputError` for a value that
    cannot be.
    """
    return project.replaced(
        work=checked(project.work, "working", changes, Display(project.settings.units))
    )


def with_job(project: Project, machine: str, place: str | None = None) -> Project:
    """The project with one more job of the day, as long as the machine is usually used. Raises
    `InputError`.

    `place` is the working place of a machine that uses one at a time.
    """
    item = project.machine.get(machine)
    if item is None:
        raise InputError("machine", machine, "choose a machine of this shop")
    job = DayJob(machine=machine, place=place, minutes=min(max(item.minutes_per_use, 1.0), 720.0))
    return with_work(project, day=(*project.work.day, job))


def with_cleaner(project: Project, number: int, **changes: Any) -> Project:
    """The project with a cleaner (from 1) changed. Raises `InputError` for an unknown one or a bad
    value.
    """
    cleaners = project.work.cleaners
    if not 1 <= number <= len(cleaners):
        raise InputError("air cleaner", number, f"cleaners of this shop are 1 to {len(cleaners)}")
    new = checked(
        cleaners[number - 1], cleaners[number - 1].name, changes, Display(project.settings.units)
    )
    return with_work(project, cleaners=(*cleaners[: number - 1], new, *cleaners[number:]))


def without_cleaner(project: Project, number: int) -> Project:
    """The project without a cleaner (from 1)."""
    return with_work(
        project, cleaners=tuple(c for n, c in enumerate(project.work.cleaners, 1) if n != number)
    )


def with_checklist(project: Project, machine: str, lines: tuple[str, ...] | None) -> Project:
    """The project with a machine's own checklist; None for the usual one."""
    others = tuple(item for item in project.work.checklists if item.machine != machine)
    made = () if lines is None else (Checklist(machine=machine, lines=lines),)
    return with_work(project, checklists=(*others, *made))


def with_hood_test(project: Project, machine: str, **figures: Any) -> Project:
    """The project with a figure of a test of a machine's hoods, as it is fitted out now. Raises
    `InputError` for an unknown machine, or for more swept up than was cut away.
    """
    item = project.machine.get(machine)
    if item is None:
        raise InputError("machine", machine, "choose a machine of this shop")
    was = item.hood_test or HoodTest()
    test = checked(was, f"{item.name}, hood test", figures).replaced(aids=item.aids)
    if test.removed is not None and test.swept is not None and test.swept > test.removed:
        what = Display(project.settings.units).small_mass(test.swept)
        raise InputError(
            f"{item.name}, swept up", what, "no more can be swept up than was cut away"
        )
    empty = test.lamp is None and test.removed is None and test.swept is None
    return changed(project, machine, hood_test=None if empty else test)

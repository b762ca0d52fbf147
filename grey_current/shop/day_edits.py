"""Edits of a day's jobs, one by one: longer, elsewhere, in another wood; days that are kept. Pure
functions.
"""

from __future__ import annotations

from typing import Any

from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.edits import checked
from grey_current.shop.model import Project
from grey_current.shop.values import checked_name
from grey_current.shop.work_edits import with_work
from grey_current.shop.work_plan import DayJob, KeptDay, Unread
from grey_current.units import Display

# Minutes that a click adds, that a job has at least, and that stretching goes by.
A_CLICK, LEAST, STEP = 10.0, 5.0, 5.0
MOST_DAYS = 12
# What the ids of work by hand begin with.
BY_HAND = "hand-"


def with_more_at(project: Project, machine: str, minutes: float = A_CLICK) -> Project:
    """The project with more minutes at a machine, or of work by hand: its job is longer when it is
    the last of the day, else it is one more, at a machine in the wood of the last. Raises
    `InputError` for an unknown machine.
    """
    by_hand = machine not in project.machine
    if by_hand and not machine.startswith(BY_HAND):
        raise InputError("machine", machine, "choose a machine of this shop")
    day = project.work.day
    if day and day[-1].machine == machine:
        return with_job_changed(
            project, len(day) - 1, minutes=min(day[-1].minutes + minutes, 720.0)
        )
    wood = day[-1].wood if day and not by_hand else None
    return with_work(project, day=(*day, DayJob(machine=machine, minutes=minutes, wood=wood)))


def with_job_changed(project: Project, number: int, **changes: Any) -> Project:
    """The project with a job of the day (from 0) changed. Raises `InputError` for an unknown one
    or a value that cannot be.
    """
    day = _checked(project, number)
    new = checked(day[number], f"job {number + 1}", changes, Display(project.settings.units))
    return with_work(project, day=(*day[:number], new, *day[number + 1 :]))


def without_job(project: Project, number: int) -> Project:
    """The project without a job of the day (from 0); what waited for it waits no longer. Raises
    `InputError` for an unknown one.
    """
    day = _checked(project, number)
    order = [n for n in range(len(day)) if n != number]
    return with_work(project, day=_in_order(day, order))


def with_job_moved(project: Project, number: int, to: int) -> Project:
    """The project with a job of the day (from 0) at another place among them. Raises `InputError`
    for an unknown one.
    """
    day = _checked(project, number)
    order = [n for n in range(len(day)) if n != number]
    order.insert(min(max(to, 0), len(order)), number)
    return with_work(project, day=_in_order(day, order))


def with_jobs_in(project: Project, order: list[int]) -> Project:
    """The project with the day's jobs (from 0) in another order, each still after those that it
    waits for. Raises `InputError` for an order that is none.
    """
    day = project.work.day
    if sorted(order) != list(range(len(day))):
        raise InputError("order", ", ".join(str(n + 1) for n in order), "name each job once")
    return with_work(project, day=_in_order(day, order))


def with_unread_taken(project: Project, number: int, job: DayJob) -> Project:
    """The project with a job in place of a line of the day (from 0) that was not understood.
    Raises `InputError` for an unknown one.
    """
    place = _unread(project, number).after_jobs
    project = _without_unread(project, number, 1)
    project = with_work(project, day=(*project.work.day, job))
    return with_job_moved(project, len(project.work.day) - 1, place)


def without_unread(project: Project, number: int) -> Project:
    """The project without a line of the day (from 0) that was not understood. Raises `InputError`
    for an unknown one.
    """
    _unread(project, number)
    return _without_unread(project, number, 0)


def _without_unread(project: Project, number: int, more: int) -> Project:
    """The project without such a line; those behind it have some jobs more before them."""
    lines = project.work.unread
    behind = [
        line.replaced(after_jobs=min(line.after_jobs + more, 60)) for line in lines[number + 1 :]
    ]
    return with_work(project, unread=(*lines[:number], *behind))


def _unread(project: Project, number: int) -> Unread:
    if not 0 <= number < len(project.work.unread):
        raise InputError("line", number + 1, "choose one of the lines that are not understood")
    return project.work.unread[number]


def _in_order(day: tuple[DayJob, ...], order: list[int]) -> tuple[DayJob, ...]:
    """Some of a day's jobs in an order, each still after those of them that it waits for."""
    place = {old + 1: new for new, old in enumerate(order, 1)}
    return tuple(
        day[n].replaced(after=tuple(sorted(place[b] for b in day[n].after if b in place)))
        for n in order
    )


def _checked(project: Project, number: int) -> tuple[DayJob, ...]:
    day = project.work.day
    if not 0 <= number < len(day):
        raise InputError("job", number + 1, f"the day has {len(day)} jobs")
    return day


# -- days that are kept


def with_day_kept(project: Project, name: str) -> Project:
    """The project with its day kept under a name, in place of one of that name. Raises
    `InputError` for a name that is none, `RefusedEdit` for no jobs or too many days.
    """
    name = checked_name("kept day", name)
    if not project.work.day:
        raise RefusedEdit("a day", "keeping it without jobs", "put jobs into it first")
    others = tuple(day for day in project.work.days if day.name != name)
    if len(others) >= MOST_DAYS:
        raise RefusedEdit("kept days", "one more", f"a file holds {MOST_DAYS}; delete one first")
    kept = KeptDay(name=name, jobs=project.work.day)
    return with_work(project, days=(*others, kept))


def without_kept_day(project: Project, name: str) -> Project:
    """The project without one of its kept days."""
    return with_work(project, days=tuple(d for d in project.work.days if d.name != name))


def with_day_of(project: Project, jobs: tuple[DayJob, ...]) -> Project:
    """The project with the jobs of a kept day, those left out whose machine is gone."""
    order = [
        n
        for n, job in enumerate(jobs)
        if job.machine in project.machine or job.machine.startswith(BY_HAND)
    ]
    return with_work(project, day=_in_order(jobs, order), unread=())

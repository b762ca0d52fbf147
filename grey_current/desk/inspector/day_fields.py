"""The day by clicks, on the Work stage's page: the job that is looked at, days that are kept, and
what is written into the logbook with one click.
"""

from __future__ import annotations

import datetime

from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Item,
    Section,
    TextField,
    number_field,
)
from grey_current.desk.inspector.log_pages import emptied_today, logs_day
from grey_current.keep.forecast import litres_in_bin
from grey_current.shop.day_edits import (
    with_day_kept,
    with_day_of,
    with_job_changed,
    with_job_moved,
    with_more_at,
    without_job,
    without_kept_day,
)
from grey_current.shop.edits import Edit
from grey_current.shop.model import Project
from grey_current.shop.work_plan import DayJob
from grey_current.units import Display
from grey_current.work.day_plan import can_be_done
from grey_current.work.day_text import HAND_NAMES, day_words, job_name
from grey_current.work.materials import recent_woods
from grey_current.work.room_day import minutes_words
from grey_current.workspace.workspace import Workspace

NO_WOOD = ("", "not said")


def log_buttons(workspace: Workspace) -> list[Item]:
    """Log today, and a bin emptied: the two that are wanted at the end of a day."""
    project = workspace.project
    items: list[Item] = []
    today = datetime.date.today()
    logged = any(e.kind == "worked" and e.date == today for e in project.keep.entries)
    if project.work.day:
        items.append(
            ActionField(
                "log-today",
                "Log today once more" if logged else "Log today",
                step="Log a day's work",
                edit=logs_day(workspace.assessment),
                detail=_counted(project),
                primary=not logged,
            )
        )
    display = Display(project.settings.units)
    several = len(project.collectors) > 1
    for collector in project.collectors:
        if collector.bin is None:
            continue
        held = litres_in_bin(project, collector.id)
        items.append(
            ActionField(
                f"emptied/{collector.id}",
                f"Bin emptied: {collector.name}" if several else "Bin emptied",
                step="Log an emptied bin",
                edit=emptied_today(collector.id),
                detail=f"{display.volume(held)} in it by the logbook" if held > 0 else "",
            )
        )
    return items


def _counted(project: Project) -> str:
    """How many of the day's jobs can be done, how long they take together, and how many cannot."""
    jobs = [job for job in project.work.day if can_be_done(project, job)]
    count = "1 job" if len(jobs) == 1 else f"{len(jobs)} jobs"
    left_out = len(project.work.day) - len(jobs)
    gone = f"; {left_out} left out, their machines are gone" if left_out else ""
    return f"{count}, {minutes_words(sum(job.minutes for job in jobs) * 60)}{gone}"


def job_section(workspace: Workspace) -> list[Section]:
    """The job that is looked at: how long, in which wood, earlier or later, or not at all."""
    number, project = workspace.chosen_job, workspace.project
    if number is None:
        return []
    job = project.work.day[number]
    items: list[Item] = [
        number_field(
            f"job-{number}/minutes",
            "Minutes",
            job.minutes,
            edit=lambda p, v: with_job_changed(p, number, minutes=v),
            unit="min",
        ),
        _wood_field(project, number, job),
    ]
    if number > 0:
        items.append(_moves(number, number - 1, "Earlier"))
    if number < len(project.work.day) - 1:
        items.append(_moves(number, number + 1, "Later"))
    items.append(
        ActionField(
            f"job-{number}/delete",
            "Delete this job",
            step="Delete a job",
            edit=lambda p: without_job(p, number),
        )
    )
    if job.machine in project.machine:
        items.append(
            ActionField(
                f"job-{number}/machine",
                f"Show the {project.machine[job.machine].name.lower()}",
                step="",
                act=lambda: workspace.select(job.machine),
            )
        )
    title = f"Job {number + 1}: {job_name(project, job.machine, job.place)}"
    return [Section(title, tuple(items), open_first=True)]


def by_hand_section() -> Section:
    """Work that no machine does: ten minutes of it a click."""

    def more(ident: str) -> Edit:
        return lambda project: with_more_at(project, ident)

    items = tuple(
        ActionField(f"by-hand/{ident}", f"{name}, +10 min", "Add work by hand", edit=more(ident))
        for ident, name in HAND_NAMES.items()
    )
    return Section("By hand", items)


def _wood_field(project: Project, number: int, job: DayJob) -> ChoiceField:
    """The wood: those used last stand first."""
    options = [NO_WOOD, *((wood, wood) for wood in recent_woods(project, number))]
    if job.wood and job.wood not in dict(options):
        options.append((job.wood, job.wood))
    return ChoiceField(
        f"job-{number}/wood",
        "Wood",
        job.wood or "",
        tuple(options),
        step="Change the wood",
        edit=lambda p, v: with_job_changed(p, number, wood=v or None),
    )


def _moves(number: int, to: int, words: str) -> ActionField:
    return ActionField(
        f"job-{number}/{words.lower()}",
        words,
        step="Move a job",
        edit=lambda p: with_job_moved(p, number, to),
    )


def kept_days_section(workspace: Workspace) -> Section:
    """As yesterday, and the days that are kept."""
    project = workspace.project
    items: list[Item] = []
    if project.work.logged and project.work.logged != project.work.day:
        items.append(
            ActionField(
                "as-last-time",
                "As the day logged last",
                step="Take the jobs of the day logged last",
                edit=lambda p: with_day_of(p, p.work.logged),
                detail=day_words(project, project.work.logged),
            )
        )
    for day in project.work.days:
        items.append(
            ActionField(
                f"day/{day.name}",
                day.name,
                step=f"Take the jobs of {day.name}",
                edit=lambda p, jobs=day.jobs: with_day_of(p, jobs),  # type: ignore[misc]
                detail=day_words(project, day.jobs),
            )
        )
        items.append(
            ActionField(
                f"drop-day/{day.name}",
                f"Delete “{day.name}”",
                step="Delete a kept day",
                edit=lambda p, name=day.name: without_kept_day(p, name),  # type: ignore[misc]
            )
        )
    if project.work.day:
        items.append(
            TextField("keep-day", "Keep as", "", step="Keep this day", read=str, edit=with_day_kept)
        )
    count = len(project.work.days)
    return Section("Usual days", tuple(items), summary=str(count) if count else "none kept")

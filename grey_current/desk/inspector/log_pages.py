"""The logbook on pages of the Keep stage: what comes next, lines written down with one click, the
latest of them.
"""

from __future__ import annotations

import datetime

from grey_current.dates import date_words
from grey_current.design.flow.assessment import Assessment
from grey_current.desk.inspector.fields import ActionField, Fact, Item, Section, TextField
from grey_current.errors import InputError
from grey_current.files.log_report import dates_words, made_entry, month_words
from grey_current.keep.answers import HowSure
from grey_current.keep.chips import chip_uses, chips_of
from grey_current.keep.forecast import months
from grey_current.keep.log import entries_of_day, log_lines
from grey_current.shop.catalogue import materials
from grey_current.shop.edits import Edit
from grey_current.shop.keep_edits import with_entries
from grey_current.shop.keep_plan import EntryKind
from grey_current.shop.model import Project
from grey_current.shop.work_edits import with_work
from grey_current.units import Display, parse_volume
from grey_current.work.day_plan import plan_day
from grey_current.work.day_text import day_words
from grey_current.workspace.workspace import Workspace

LATEST, LATEST_MONTHS = 8, 3
# Days within which something that is due stands out.
SOON = 7


def coming_section(project: Project, found: HowSure | None) -> Section:
    """What is due next, with its dates and what they rest on."""
    today = datetime.date.today()
    items = [
        Fact(
            "",
            f"{item.words}: {dates_words(item, project.settings.units)}. {item.why}.",
            "short" if item.date is not None and (item.date - today).days <= SOON else "",
        )
        for item in (found.due if found is not None else ())
    ]
    items += [
        Fact("", month_words(month, Display(project.settings.units)))
        for month in months(project)[-LATEST_MONTHS:]
    ]
    if found is None and project.runs:
        words = "Working it out…"
    else:
        words = "Nothing is due: no machine draws through a collector."
    dates = [item.date for item in (found.due if found is not None else ()) if item.date]
    first = date_words(min(dates), Display(project.settings.units).system) if dates else ""
    return Section("What comes next", tuple(items) or (Fact("", words),), summary=first)


def logbook_section(workspace: Workspace) -> Section:
    """A day's work and what was noticed, written down; the latest lines, each with its date, to be
    struck out.
    """
    project = workspace.project
    items: list[Item] = []
    if project.work.day:
        words = day_words(project, project.work.day)
        edit = logs_day(workspace.assessment)
        items.append(
            ActionField(
                "log-day", "Log today's work", step="Log a day's work", edit=edit, detail=words
            )
        )
    else:
        items.append(Fact("", "Plan a day at the Work stage to log it here with one click."))
    items.append(_noticed(None))
    lines = [line for line in log_lines(project) if line.entry is not None]
    units = project.settings.units
    items += [Fact("", f"{date_words(line.date, units)}: {line.words}") for line in lines[:LATEST]]
    if len(lines) > LATEST:
        items.append(Fact("", f"{len(lines) - LATEST} earlier lines: File, Export, Logbook."))
    if lines or project.keep.readings:
        items.append(
            ActionField(
                "open-logbook",
                "Open the logbook…",
                step="",
                act=workspace.show_logbook,
                detail="sort, search, change or delete lines",
            )
        )
    return Section("Logbook", tuple(items), summary=f"{len(lines)} lines" if lines else "empty")


def place_items(project: Project, place: str) -> tuple[Item, ...]:
    """What can be written down about a collector, a hose or anything else with one click or
    figure.
    """
    if place in project.collector:
        chips = chips_of(project, place)
        uses = chip_uses(chips.woods) if chips is not None else []
        return (
            _emptied(project, place),
            _done("filter cleaned", place, "Filter cleaned today", "Log a cleaning"),
            _done("filter changed", place, "New filter today", "Log a new filter"),
            *((Fact("Chips", chips.words),) if chips is not None else ()),
            *(Fact("", f"{use.use}: {use.words}", "" if use.good else "short") for use in uses),
            *((Fact("", "Check with whoever takes the chips."),) if uses else ()),
            _noticed(place),
        )
    if place in project.run and materials()[project.run[place].material].hose:
        return (_done("hose changed", place, "New hose today", "Log a new hose"), _noticed(place))
    return (_noticed(place),)


def _done(kind: EntryKind, place: str, label: str, step: str) -> ActionField:
    def edit(project: Project) -> Project:
        return with_entries(project, (made_entry(project, kind, datetime.date.today(), place),))

    return ActionField(f"log/{kind}/{place}", label, step=step, edit=edit)


def _emptied(project: Project, place: str) -> TextField:
    """A bin that was emptied: what it held, or nothing more than that."""

    def read(text: str) -> float | None:
        if text.strip().lower() in ("", "yes", "today"):
            return None
        try:
            return parse_volume(text, project.settings.units, "Bin emptied, it held")
        except InputError as wrong:
            raise InputError(
                wrong.where, text, "write 90 l or 24 gal, or yes where you did not look"
            ) from None

    def edit(project: Project, litres: float | None) -> Project:
        facts = {} if litres is None else {"litres": litres}
        return with_entries(
            project, (made_entry(project, "bin emptied", datetime.date.today(), place, **facts),)
        )

    return TextField(
        f"log/bin emptied/{place}",
        "Bin emptied, held",
        "",
        step="Log an emptied bin",
        read=read,
        edit=edit,
    )


def _noticed(place: str | None) -> TextField:
    def read(text: str) -> str:
        if not text.strip():
            raise InputError(
                "Noticed", text, "write what you noticed, such as: whistles since Monday"
            )
        return text.strip()

    def edit(project: Project, words: str) -> Project:
        return with_entries(
            project, (made_entry(project, "noticed", datetime.date.today(), place, note=words),)
        )

    return TextField(
        f"log/noticed/{place or ''}",
        "Noticed today",
        "",
        step="Log what was noticed",
        read=read,
        edit=edit,
    )


def emptied_today(collector: str) -> Edit:
    """The edit that writes down that a collector's bin was emptied."""

    def edit(project: Project) -> Project:
        entry = made_entry(project, "bin emptied", datetime.date.today(), collector)
        return with_entries(project, (entry,))

    return edit


def logs_day(now: Assessment) -> Edit:
    """The edit that writes the day into the logbook, and remembers its jobs for the next time."""

    def edit(project: Project) -> Project:
        jobs = project.work.day
        written = with_entries(project, entries_of_day(plan_day(now, jobs), datetime.date.today()))
        return with_work(written, logged=jobs)

    return edit

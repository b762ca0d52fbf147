"""Edits of what was measured. Pure functions."""

from __future__ import annotations

import datetime
from collections.abc import Iterable
from typing import Any

from grey_current.errors import InputError
from grey_current.shop.edits import checked
from grey_current.shop.keep_plan import (
    READS,
    Complaint,
    ComplaintKind,
    EntryKind,
    Instrument,
    LogEntry,
    Look,
    Reading,
)
from grey_current.shop.model import Project
from grey_current.units import Display


def with_keep(project: Project, **changes: Any) -> Project:
    """The project with some of its readings changed. Raises `InputError` for a value that cannot
    be.
    """
    return project.replaced(
        keep=checked(project.keep, "keeping", changes, Display(project.settings.units))
    )


def with_instrument(project: Project, instrument: Instrument, *, there: bool) -> Project:
    """The project with an instrument there or not; the first that is named says that the others
    are as they were counted, all there.
    """
    owned = set(READS if project.keep.instruments is None else project.keep.instruments)
    owned = owned | {instrument} if there else owned - {instrument}
    return with_keep(project, instruments=tuple(name for name in READS if name in owned))


def with_out_of_reach(project: Project, place: str, *, reached: bool = False) -> Project:
    """The project with a place at which nothing can be measured, or can again. Raises `InputError`
    for a place that is not in this shop.
    """
    if project.find(place) is None:
        raise InputError("out of reach", place, "name something of this shop")
    others = tuple(known for known in project.keep.out_of_reach if known != place)
    return with_keep(project, out_of_reach=others if reached else (*others, place))


def with_reading(project: Project, reading: Reading) -> Project:
    """The project with one more reading. Raises `InputError` for a place that is not in this shop,
    or one too many.
    """
    return with_readings(project, (reading,))


def with_readings(project: Project, readings: Iterable[Reading]) -> Project:
    """The project with more readings. Raises as `with_reading` does."""
    more = tuple(readings)
    for reading in more:
        check_place(project, reading)
    return with_keep(project, readings=(*project.keep.readings, *more))


def without_reading(project: Project, number: int) -> Project:
    """The project without a reading (from 1). Raises `InputError` for an unknown one."""
    _must_be_reading(project, number)
    return with_keep(
        project, readings=tuple(r for n, r in enumerate(project.keep.readings, 1) if n != number)
    )


def with_entries(project: Project, entries: Iterable[LogEntry]) -> Project:
    """The project with more lines in its logbook. Raises `InputError` for a place that is not in
    this shop.
    """
    more = tuple(entries)
    for entry in more:
        check_entry(project, entry)
    return with_keep(project, entries=(*project.keep.entries, *more))


def without_entry(project: Project, number: int) -> Project:
    """The project without a line of its logbook (from 1, as they were written). Raises
    `InputError`.
    """
    _must_be_line(project, number)
    return with_keep(
        project, entries=tuple(e for n, e in enumerate(project.keep.entries, 1) if n != number)
    )


def with_entry_changed(project: Project, number: int, **changes: Any) -> Project:
    """The project with a line of its logbook (from 1) changed. Raises `InputError` for an unknown
    one or a value that cannot be.
    """
    _must_be_line(project, number)
    new = checked(
        project.keep.entries[number - 1], "logbook", changes, Display(project.settings.units)
    )
    entries = enumerate(project.keep.entries, 1)
    return with_keep(project, entries=tuple(new if n == number else e for n, e in entries))


def with_reading_changed(project: Project, number: int, **changes: Any) -> Project:
    """The project with a reading (from 1) changed. Raises `InputError` as `with_entry_changed`."""
    _must_be_reading(project, number)
    new = checked(
        project.keep.readings[number - 1], "reading", changes, Display(project.settings.units)
    )
    readings = enumerate(project.keep.readings, 1)
    return with_keep(project, readings=tuple(new if n == number else r for n, r in readings))


def _must_be_reading(project: Project, number: int) -> None:
    count = len(project.keep.readings)
    if not 1 <= number <= count:
        raise InputError("reading", number, f"readings of this shop are 1 to {count}")


def _must_be_line(project: Project, number: int) -> None:
    count = len(project.keep.entries)
    if not 1 <= number <= count:
        raise InputError("line of the logbook", number, f"lines of this logbook are 1 to {count}")


def with_complaint(
    project: Project,
    kind: ComplaintKind | None,
    machine: str | None,
    since: datetime.date,
    besides: str | None = None,
) -> Project:
    """The project with what is complained of since a day, or with nothing. Raises `InputError`."""
    if kind is None:
        return with_keep(project, complaint=None, looks=())
    for ident in (machine, besides):
        if ident is not None and ident not in project.machine:
            raise InputError(
                "complaint, machine", ident, f"machines are: {', '.join(project.machine) or 'none'}"
            )
    other = besides if kind == "only one machine" and besides != machine else None
    return with_keep(
        project, complaint=Complaint(kind=kind, machine=machine, since=since, besides=other)
    )


def with_look(
    project: Project, fault: str, places: Iterable[str], date: datetime.date, *, found: bool
) -> Project:
    """The project with one more look for a fault. Raises `InputError` for a place that is not in
    this shop, or where nothing is complained of.
    """
    where = tuple(places)
    for place in where:
        if project.find(place) is None:
            raise InputError("look, place", place, "name something of this shop, or nothing")
    if project.keep.complaint is None:
        raise InputError("look", fault, "first say what is wrong")
    look = Look(fault=fault, places=where, found=found, date=date)
    return with_keep(project, looks=(*project.keep.looks, look))


# What the logbook calls the mending of some faults.
MENDED_AS: dict[str, EntryKind] = {
    "filter loaded": "filter cleaned",
    "separator plugged": "bin emptied",
}


def with_mended(
    project: Project, fault: str, places: Iterable[str], date: datetime.date, note: str = ""
) -> Project:
    """The project after a fault was mended: a line in its logbook, nothing complained of any more,
    and what was read meanwhile is of the fault for good. Raises `InputError` as `with_entries`.
    """
    place = next(iter(places), None)
    entry = LogEntry(kind=MENDED_AS.get(fault, "mended"), date=date, place=place, note=note)
    plan = project.keep
    readings = tuple(
        r.replaced(of_fault=True) if plan.of_this_fault(r) else r for r in plan.readings
    )
    mended = with_keep(project, readings=readings, complaint=None, looks=())
    return with_entries(mended, (entry,))


def check_entry(project: Project, entry: LogEntry) -> None:
    """Raises `InputError` where a line's place is not in the shop, or is of the wrong kind for what
    was done.
    """
    collectors, hoses = (
        ("bin emptied", "filter cleaned", "filter changed", "worked"),
        ("hose changed",),
    )
    # Each kind of line is about a collector, a hose, or anything.
    if entry.kind in collectors and entry.place not in project.collector:
        known = ", ".join(project.collector) or "none"
        raise InputError(
            f"logbook, {entry.kind}", entry.place or "nowhere", f"collectors are: {known}"
        )
    if entry.kind in hoses and entry.place not in project.run:
        raise InputError(
            f"logbook, {entry.kind}", entry.place or "nowhere", "name a hose of this shop"
        )
    if entry.place is not None and project.find(entry.place) is None:
        raise InputError("logbook, place", entry.place, "name something of this shop, or nothing")


def check_place(project: Project, reading: Reading) -> None:
    """Raises `InputError` where a reading's machine or place is not in the shop, or is of the wrong
    kind.
    """
    if reading.machine not in project.machine:
        raise InputError(
            "reading, machine",
            reading.machine,
            f"machines are: {', '.join(project.machine) or 'none'}",
        )
    wanted: dict[str, tuple[str, Any]] = {
        "static pressure": ("a duct, hose or collector", {**project.run, **project.collector}),
        "velocity": ("a duct or hose", project.run),
        "airflow": ("a pickup, such as saw/port", project.pickup),
        "filter drop": ("a collector", project.collector),
        "motor current": ("a collector", project.collector),
        "sound": ("a collector", project.collector),
        "dust": ("a room", {room.id: room for room in project.rooms}),
    }
    what, known = wanted[reading.kind]
    if reading.place not in known:
        raise InputError(f"reading, {reading.kind}", reading.place, f"name {what} of this shop")

"""Edits of what was measured. Pure functions."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from grey_current.errors import InputError
from grey_current.shop.edits import checked
from grey_current.shop.keep_plan import Reading
from grey_current.shop.model import Project
from grey_current.units import Display


def with_keep(project: Project, **changes: Any) -> Project:
    """The project with some of its readings changed. Raises `InputError` for a value that cannot be."""
    return project.replaced(keep=checked(project.keep, "keeping", changes, Display(project.settings.units)))


def with_reading(project: Project, reading: Reading) -> Project:
    """The project with one more reading. Raises `InputError` for a place that is not in this shop, or one too many."""
    return with_readings(project, (reading,))


def with_readings(project: Project, readings: Iterable[Reading]) -> Project:
    """The project with more readings. Raises as `with_reading` does."""
    more = tuple(readings)
    for reading in more:
        check_place(project, reading)
    return with_keep(project, readings=(*project.keep.readings, *more))


def without_reading(project: Project, number: int) -> Project:
    """The project without a reading (from 1). Raises `InputError` for an unknown one."""
    if not 1 <= number <= len(project.keep.readings):
        raise InputError("reading", number, f"readings of this shop are 1 to {len(project.keep.readings)}")
    return with_keep(project, readings=tuple(r for n, r in enumerate(project.keep.readings, 1) if n != number))


def check_place(project: Project, reading: Reading) -> None:
    """Raises `InputError` where a reading's machine or place is not in the shop, or is of the wrong kind."""
    if reading.machine not in project.machine:
        raise InputError("reading, machine", reading.machine, f"machines are: {', '.join(project.machine) or 'none'}")
    wanted: dict[str, tuple[str, Any]] = {
        "static pressure": ("a duct or hose", project.run),
        "velocity": ("a duct or hose", project.run),
        "airflow": ("a pickup, such as saw/port", project.pickup),
        "filter drop": ("a collector", project.collector),
    }
    what, known = wanted[reading.kind]
    if reading.place not in known:
        raise InputError(f"reading, {reading.kind}", reading.place, f"name {what} of this shop")

"""Edits: pure functions from a Project to a Project. Every one checks its values and its references."""

from __future__ import annotations

from typing import Any, TypeVar

from pydantic import ValidationError

from grey_current.errors import InputError
from grey_current.shop.catalogue import collector_model, fitted, materials
from grey_current.shop.model import Project, Value, distance

ValueT = TypeVar("ValueT", bound=Value)

_LISTS = ("machines", "collectors", "points", "runs", "gates")


def changed(project: Project, element: str, **changes: Any) -> Project:
    """The project with fields of one element changed.

    Raises `InputError` for an unknown element or a value that cannot be; the project is untouched.
    """
    for name in _LISTS:
        items = getattr(project, name)
        for place, item in enumerate(items):
            if item.id == element:
                made = checked(item, element, changes)
                return project.but(**{name: (*items[:place], made, *items[place + 1 :])})
    raise InputError("element", element, "choose something that is in this shop")


def checked(item: ValueT, where: str, changes: dict[str, Any]) -> ValueT:
    """A value with some fields changed. Raises `InputError` naming `where` for a value that cannot be."""
    try:
        return item.but(**changes)
    except ValidationError as problem:
        fault = problem.errors(include_url=False)[0]
        field = str(fault["loc"][0]) if fault["loc"] else "value"
        rule = fault["msg"].removeprefix("Value error, ").removeprefix("Input ")
        raise InputError(f"{where}, {field.replace('_', ' ')}", fault.get("input"), f"it {rule}") from None


def with_settings(project: Project, **changes: Any) -> Project:
    """The project with some settings changed. Raises `InputError` for a value that cannot be."""
    return project.but(settings=checked(project.settings, "settings", changes))


def with_hose_length(project: Project, run: str, length: float) -> Project:
    """The project with a hose of another length (m). Raises `InputError` for a rigid run or a bad length."""
    if not materials()[project.run[run].material].hose:
        raise InputError(run, length, "only a hose has a length of its own; move its ends instead")
    return changed(project, run, length=length)


def with_material(project: Project, run: str, material: str) -> Project:
    """The project with a run of another material; a hose made rigid loses its own length."""
    kind = materials().get(material)
    if kind is None:
        raise InputError(f"{run}, material", material, f"use one of {', '.join(materials())}")
    old = project.run[run]
    length = (old.length or round(distance(project, old), 4)) if kind.hose else None
    return changed(project, run, material=material, length=length)


def with_collector(project: Project, collector: str, model: str) -> Project:
    """The project with a collector exchanged for a catalogue model. Raises `InputError` for an unknown one."""
    try:
        chosen = collector_model(model)
    except KeyError:
        raise InputError(f"{collector}, model", model, "choose a model of the catalogue") from None
    new = fitted(project.collector[collector], chosen)
    return project.but(collectors=tuple(new if item.id == collector else item for item in project.collectors))


def moved(project: Project, element: str, dx: float, dy: float) -> Project:
    """The project with a machine, collector or point moved by (dx, dy) m; what is connected follows."""
    item: Any = project.find(element)
    return changed(project, element, x=round(item.x + dx, 4), y=round(item.y + dy, 4))

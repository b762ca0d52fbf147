"""Edits of what stands by itself of a collector: its separator or filter, joined by a hose. Pure
functions.

Such a part is named "cyclone/separator" or "cyclone/filter".
"""

from __future__ import annotations

from typing import Any

from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.collector_edits import INLET_SIDES, usual_body
from grey_current.shop.collectors import PartName
from grey_current.shop.edits import checked, with_apart
from grey_current.shop.model import Project
from grey_current.units import Display


def stood_by_itself(project: Project, collector: str, part: PartName, apart: bool) -> Project:
    """The project with a collector's separator or filter standing by itself, or on its body again.
    Raises `RefusedEdit` for one that is not there.
    """
    item = project.collector[collector]
    if part == "separator" and item.separator is None:
        raise RefusedEdit(item.name, "standing its separator apart", "give it one first")
    if part == "filter" and item.filter.kind == "none":
        raise RefusedEdit(item.name, "standing its filter apart", "give it one first")
    return with_apart(project, item, part, usual_body(item, part) if apart else None)


def with_part(project: Project, collector: str, part: PartName, **changes: Any) -> Project:
    """The project with fields of a part that stands by itself changed. Raises `InputError` for a
    value that cannot be, and where it does not stand by itself.
    """
    item = project.collector[collector]
    body = item.apart(part)
    if body is None:
        raise InputError(part, collector, "let it stand by itself first")
    display = Display(project.settings.units)
    return with_apart(project, item, part, checked(body, f"{item.name}, {part}", changes, display))


def with_part_inlet(project: Project, collector: str, part: PartName, side: str) -> Project:
    """The project with the inlet of a part that stands by itself on another side, or on its top.
    Raises `InputError` for an unknown side.
    """
    if side not in INLET_SIDES:
        raise InputError("inlet", side, f"use one of {', '.join(INLET_SIDES)}")
    body = project.collector[collector].apart(part)
    if body is None:
        return project
    right, back = INLET_SIDES[side]
    # One on a side lies below the edge, by the port's width and a hand.
    high = body.height if side == "top" else max(body.height - body.port, body.height / 2)
    return with_part(
        project,
        collector,
        part,
        inlet_dx=round(body.width / 2 * right, 4),
        inlet_dy=round(body.depth / 2 * back, 4),
        inlet_height=round(high, 4),
    )

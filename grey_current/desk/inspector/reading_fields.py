"""How a reading comes in: typed as the instrument shows it, taken from one on a line, or from a
stand-in in a practice shop.
"""

from __future__ import annotations

import datetime
from functools import partial

from grey_current.desk.inspector.fields import ActionField, Item, TextField
from grey_current.desk.inspector.practice_pages import measure_action
from grey_current.files.keep_report import read_value, reading_of
from grey_current.keep.reading_words import figure
from grey_current.shop.keep_edits import with_reading
from grey_current.shop.keep_plan import ReadingKind
from grey_current.shop.model import Project
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace


def reading_items(workspace: Workspace, kind: ReadingKind, machine: str, place: str) -> list[Item]:
    """How a figure comes in: typed as an instrument shows it, or in a practice shop from a
    stand-in.
    """
    if workspace.project.keep.practising:
        return [measure_action(kind, machine, place)]
    items: list[Item] = [reading_field(workspace, kind, machine, place)]
    instrument = workspace.instrument
    if instrument is not None and kind in instrument.kind.reads:
        label = f"Take it from the {instrument.kind.name}"
        act = partial(workspace.take_figure, (kind, machine, place))
        items.append(ActionField(f"take/{kind}/{machine}/{place}", label, step="", act=act))
    return items


def reading_field(workspace: Workspace, kind: ReadingKind, machine: str, place: str) -> TextField:
    """Where the figure that an instrument shows is typed; it becomes a reading of today."""
    units = workspace.project.settings.units
    display = Display(units)

    def edit(project: Project, value: float | None) -> Project:
        if value is None:
            return project
        return with_reading(
            project, reading_of(project, (kind, machine, place), value, datetime.date.today())
        )

    def read(text: str) -> float | None:
        return read_value(kind, text, units) if text.strip() else None

    return TextField(
        f"read/{kind}/{machine}/{place}",
        "You read",
        "",
        step="Log a reading",
        read=read,
        edit=edit,
        say=lambda value: "" if value is None else figure(display, kind, value),
    )

"""How the next duct is drawn: its height, size, material and turns."""

from __future__ import annotations

from grey_current.desk.inspector.fields import ChoiceField, Fact, Item, Page, Section, TextField
from grey_current.shop.catalogue import catalogue, pipe_sizes
from grey_current.shop.duct_edits import Level
from grey_current.units import Display, parse_length_like
from grey_current.workspace.workspace import Workspace

LEVELS: tuple[tuple[Level, str], ...] = (
    ("as it goes on", "as it goes on"),
    ("under the beams", "under the beams"),
    ("at a height", "at a height of…"),
    ("on the floor", "on the floor"),
    ("under the floor", "under the floor"),
)


def drawing_page(workspace: Workspace) -> Page:
    """How the next duct is drawn: its height, size and material, and the angles that it may turn
    by.
    """
    project, how = workspace.project, workspace.drawing
    display = Display(project.settings.units)
    chosen = sorted({*pipe_sizes(project), *([how.diameter] if how.diameter else [])})
    sizes = tuple((f"{size:.5f}", display.diameter(size)) for size in chosen)
    rigid = tuple((m.name, m.label) for m in catalogue().materials if not m.hose)
    items: list[Item] = [
        ChoiceField(
            "draw/level",
            "Height",
            how.level,
            LEVELS,
            step="",
            act=lambda v: workspace.draw_with(level=v),
        )
    ]
    if how.level == "at a height":
        items.append(_height_field(workspace))
    items += [
        ChoiceField(
            "draw/diameter",
            "Diameter",
            f"{how.diameter:.5f}" if how.diameter else "same",
            (("same", "as it goes on"), *sizes),
            step="",
            act=lambda v: workspace.draw_with(diameter=None if v == "same" else float(v)),
        ),
        ChoiceField(
            "draw/material",
            "Material",
            how.material or "same",
            (("same", "as it goes on"), *rigid),
            step="",
            act=lambda v: workspace.draw_with(material=None if v == "same" else v),
        ),
        ChoiceField(
            "draw/free",
            "Turns",
            "free" if how.free else "fittings",
            (("fittings", "30, 45, 60 or 90°"), ("free", "any angle")),
            step="",
            act=lambda v: workspace.draw_with(free=v == "free"),
        ),
    ]
    diameter = how.diameter or max((c.inlet for c in project.collectors), default=0.15)
    lies = Fact("Its middle", f"{display.length(how.centre(project, diameter))} above the floor")
    if how.level == "under the floor":
        caution = (
            "Under a floor: keep clean-outs within reach, and let no joint leak into a hollow."
        )
    else:
        caution = ""
    subtitle = (
        "Click the collector or a duct to begin, then each turn; click a port to "
        "connect it. Esc ends it."
    )
    return Page("Draw a duct", subtitle, (Section("How it goes on", (*items, lies)),), (), caution)


def _height_field(workspace: Workspace) -> TextField:
    units = workspace.project.settings.units
    shown = Display(units).length(workspace.drawing.height)
    return TextField(
        "draw/height",
        "Above the floor",
        shown,
        step="",
        read=lambda t: parse_length_like(t, units, "Height of the duct", workspace.drawing.height),
        act=lambda v: workspace.draw_with(height=v),
        say=Display(units).length,
        quantity="length",
        amount=workspace.drawing.height,
    )

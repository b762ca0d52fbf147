"""Inspector pages of the Shop stage: rooms and walls, openings, features, beams, outlets."""

from __future__ import annotations

import math

from grey_current.design.findings.finding import of_element
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Section,
    choice,
    length_field,
    name_field,
    number_field,
    wish_field,
    yes_no,
)
from grey_current.shop import edits, room_edits
from grey_current.shop.model import Project
from grey_current.shop.room import Beam, Circuit, Feature, Opening, Outlet, Room, area, volume
from grey_current.shop.room_edits import wall_of
from grey_current.units import FOOT, Display
from grey_current.workspace.guide import stage_findings
from grey_current.workspace.workspace import Workspace

SWINGS = (
    ("none", "does not swing"),
    ("left from start", "in or left, hinges first"),
    ("left from end", "in or left, hinges last"),
    ("right from start", "out or right, hinges first"),
    ("right from end", "out or right, hinges last"),
)
KINDS = tuple((k, k) for k in ("door", "roll-up door", "sliding door", "hoist door", "doorway", "window"))
HOT_CAUTION = "Dust burns and can explode. Clearances of heaters and flues: local code and licensed people."


def area_words(display: Display, square_metres: float) -> str:
    """An area in square feet or square metres."""
    return f"{square_metres / FOOT**2:,.0f} sq ft" if display.us else f"{square_metres:.1f} m²"


def volume_words(display: Display, cubic_metres: float) -> str:
    """A volume in cubic feet or cubic metres."""
    return f"{cubic_metres / FOOT**3:,.0f} cu ft" if display.us else f"{cubic_metres:.1f} m³"


def shop_page(workspace: Workspace) -> Page | None:
    """The page of what is selected at the Shop stage; None for what belongs to another stage."""
    project, chosen = workspace.project, workspace.selection
    if chosen is None:
        return _rooms_page(workspace, project.rooms[0])
    wall = wall_of(project, chosen)
    if wall is not None:
        return _wall_page(workspace, *wall)
    item = project.element.get(chosen)
    found = tuple(of_element(workspace.known_findings, project, chosen))
    if isinstance(item, Room):
        return _rooms_page(workspace, item)
    if isinstance(item, Opening):
        return Page(item.name, "In a wall; drag it along.", _opening(project, item), found)
    if isinstance(item, Feature):
        caution = HOT_CAUTION if any(f.code == "near-heat" for f in found) else ""
        return Page(item.name, "Drag it on the floor.", _feature(project, item), found, caution)
    if isinstance(item, Beam):
        return Page("Beam", "Ducts pass under it.", _beam(project, item), found)
    if isinstance(item, Outlet):
        caution = "Mains wiring: local code and a licensed electrician."
        return Page(item.name, "On a wall.", _outlet(project, item), found, caution)
    return None


def _rooms_page(workspace: Workspace, room: Room) -> Page:
    project = workspace.project
    display = Display(project.settings.units)
    across, deep = room_edits.size(room)
    slope = "none" if room.far_ceiling is None else room.slopes_along
    items: list[Item] = [
        name_field(room.id, room.name),
        length_field(
            project,
            f"{room.id}/length",
            "Length",
            across,
            lambda p, v: room_edits.with_size(p, room.id, v, room_edits.size(p.element[room.id])[1]),
        ),
        length_field(
            project,
            f"{room.id}/width",
            "Width",
            deep,
            lambda p, v: room_edits.with_size(p, room.id, room_edits.size(p.element[room.id])[0], v),
        ),
        length_field(
            project, f"{room.id}/ceiling", "Ceiling", room.ceiling, lambda p, v: edits.changed(p, room.id, ceiling=v)
        ),
        ChoiceField(
            f"{room.id}/slope",
            "It slopes",
            slope,
            (("none", "not at all"), ("x", "along the length"), ("y", "along the width")),
            "Slope the ceiling",
            lambda p, v: room_edits.with_slope(p, room.id, v),
        ),
    ]
    if room.far_ceiling is not None:
        items.append(
            length_field(
                project,
                f"{room.id}/far",
                "Up to",
                room.far_ceiling,
                lambda p, v: edits.changed(p, room.id, far_ceiling=v),
            )
        )
    sizes = Section(
        "Size",
        (
            Fact("Floor", area_words(display, abs(area(room.outline)))),
            Fact("Air", volume_words(display, volume(room))),
            Fact("Walls", str(len(room.outline))),
        ),
    )
    board = Section(
        "What it is for",
        (
            wish_field(project),
            ChoiceField(
                "units",
                "Units",
                project.settings.units,
                (("us", "Feet, inches, CFM"), ("metric", "Metric, m³/h")),
                "Change units",
                lambda p, v: edits.with_settings(p, units=v),
            ),
        ),
    )
    sections = (Section("Room", tuple(items)), sizes, board)
    found = stage_findings(workspace) if workspace.selection is None else ()
    return Page(project.name, "Type sizes here; drag walls on the floor.", sections, found)


def _wall_page(workspace: Workspace, room: Room, wall: int) -> Page:
    project = workspace.project
    ref = f"{room.id}/wall-{wall + 1}"
    length = room_edits.wall_length(room, wall)
    items: tuple[Item, ...] = (
        length_field(
            project,
            f"{ref}/length",
            "Length",
            length,
            lambda p, v: room_edits.with_wall_length(p, room.id, wall, v),
            "Change a wall's length",
        ),
        ActionField(
            f"{ref}/split",
            "Split this wall in two",
            "Split a wall",
            lambda p: room_edits.with_wall_split(p, room.id, wall),
        ),
    )
    subtitle = f"Of the {room.name.lower()}. Drag it to push it; split it and push one half to make an L."
    return Page(f"Wall {wall + 1}", subtitle, (Section("Wall", items),), ())


def _opening(project: Project, item: Opening) -> tuple[Section, ...]:
    width = math.dist(item.start, item.end)

    items: list[Item] = [
        name_field(item.id, item.name),
        choice(item.id, "kind", "Kind", item.kind, KINDS),
        length_field(
            project, f"{item.id}/width", "Width", width, lambda p, v: room_edits.with_opening_width(p, item.id, v)
        ),
        length_field(project, f"{item.id}/sill", "Sill", item.sill, lambda p, v: edits.changed(p, item.id, sill=v)),
        length_field(project, f"{item.id}/head", "Head", item.head, lambda p, v: edits.changed(p, item.id, head=v)),
        yes_no(item.id, "feeds", "Boards pass", item.feeds),
    ]
    if item.kind == "door":
        items.append(choice(item.id, "swing", "Swings", item.swing, SWINGS))
    return (Section("Opening", tuple(items)),)


def _feature(project: Project, item: Feature) -> tuple[Section, ...]:
    xs, ys = zip(*item.outline, strict=True)
    across, deep = max(xs) - min(xs), max(ys) - min(ys)

    top: Item = (
        Fact("Top", "up to the ceiling")
        if item.top is None
        else length_field(project, f"{item.id}/top", "Top", item.top, lambda p, v: edits.changed(p, item.id, top=v))
    )
    items: tuple[Item, ...] = (
        name_field(item.id, item.name),
        length_field(
            project,
            f"{item.id}/across",
            "Across",
            across,
            lambda p, v: room_edits.with_feature_size(p, item.id, across=v),
        ),
        length_field(
            project, f"{item.id}/deep", "Deep", deep, lambda p, v: room_edits.with_feature_size(p, item.id, deep=v)
        ),
        top,
        ActionField(f"{item.id}/turn", "Turn by 90°", "Turn", lambda p: room_edits.quarter_turned(p, item.id)),
    )
    return (Section(item.kind.capitalize(), items),)


def _beam(project: Project, item: Beam) -> tuple[Section, ...]:
    items = (
        length_field(
            project,
            f"{item.id}/underside",
            "Underside",
            item.underside,
            lambda p, v: edits.changed(p, item.id, underside=v),
        ),
        length_field(project, f"{item.id}/width", "Width", item.width, lambda p, v: edits.changed(p, item.id, width=v)),
    )
    return (Section("Beam", items),)


def _outlet(project: Project, item: Outlet) -> tuple[Section, ...]:
    circuit: Circuit = project.element[item.circuit]
    options = (*((c.id, c.name) for c in project.circuits), ("", "a new circuit"))

    items = (
        name_field(item.id, item.name),
        ChoiceField(
            f"{item.id}/circuit",
            "Circuit",
            item.circuit,
            options,
            "Change the circuit",
            lambda p, v: room_edits.with_circuit(p, item.id, v),
        ),
        number_field(
            f"{circuit.id}/volts", "Voltage", circuit.volts, lambda p, v: edits.changed(p, circuit.id, volts=v), "V"
        ),
        number_field(
            f"{circuit.id}/breaker",
            "Breaker",
            circuit.breaker,
            lambda p, v: edits.changed(p, circuit.id, breaker=v),
            "A",
        ),
    )
    return (Section("Outlet", items),)

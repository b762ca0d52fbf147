"""Inspector pages of the Shop stage: rooms and walls, openings, features, beams, outlets."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from grey_current.design.findings.finding import of_element
from grey_current.desk.inspector.building_fields import (
    beam_fields,
    feature_fields,
    opening_fields,
    outlet_fields,
    underlay_section,
)
from grey_current.desk.inspector.fields import (
    SYSTEMS,
    ActionField,
    ChoiceField,
    Item,
    Page,
    Section,
    length_field,
    name_field,
    wish_field,
)
from grey_current.desk.inspector.overview_page import person_section
from grey_current.desk.inspector.place_fields import place_fields, place_section
from grey_current.shop import edits, roof_edits, room_edits
from grey_current.shop.corner_edits import corner_of, without_corner
from grey_current.shop.model import Project
from grey_current.shop.roofs import volume
from grey_current.shop.room import Beam, Dormer, Feature, Opening, Outlet, Room, area
from grey_current.shop.room_edits import wall_of
from grey_current.units import Display
from grey_current.workspace.guide import stage_findings
from grey_current.workspace.workspace import Workspace

# m: no room is shorter or lower.
LEAST_ROOM = 1.2
HOT_CAUTION = (
    "Dust burns and can explode. Clearances of heaters and flues: local code and licensed people."
)


def shop_page(workspace: Workspace) -> Page | None:
    """The page of what is selected at the Shop stage; None for what belongs to another stage."""
    project, chosen = workspace.project, workspace.selection
    if chosen is None:
        return _rooms_page(workspace, project.rooms[0])
    wall, corner = wall_of(project, chosen), corner_of(project, chosen)
    if wall is not None:
        return _wall_page(workspace, *wall)
    if corner is not None:
        return _corner_page(workspace, *corner)
    item = project.element.get(chosen.split("/end-")[0])
    found = tuple(of_element(workspace.known_findings, project, chosen))
    if isinstance(item, Room):
        return _rooms_page(workspace, item)
    if isinstance(item, Opening):
        return Page(item.name, "In a wall; drag it along.", opening_fields(project, item), found)
    if isinstance(item, Feature):
        caution = HOT_CAUTION if any(f.code == "near-heat" for f in found) else ""
        return Page(
            item.name, "Drag it on the floor.", feature_fields(project, item), found, caution
        )
    if isinstance(item, Beam):
        return Page(
            "Beam",
            "Ducts pass under it. Drag it, or one of its ends.",
            beam_fields(project, item),
            found,
        )
    if isinstance(item, Outlet):
        caution = "Mains wiring: local code and a licensed electrician."
        return Page(item.name, "On a wall.", outlet_fields(project, item), found, caution)
    return None


def _rooms_page(workspace: Workspace, room: Room) -> Page:
    project = workspace.project
    display = Display(project.settings.units)
    answer = (
        f"{display.surface(abs(area(room.outline)))} of floor, {display.room(volume(room))} of air."
    )
    board = Section(
        "What it is for",
        (
            wish_field(project),
            ChoiceField(
                "units",
                "Units",
                project.settings.units,
                SYSTEMS,
                step="Change units",
                edit=room_edits.in_units,
            ),
        ),
    )
    place = place_section(project, room.id) if room.id != project.rooms[0].id else ()
    person = person_section(project)
    dormers = _dormer_sections(project, room)
    sections = (
        _room_fields(project, room),
        *dormers,
        *place,
        board,
        person,
        *underlay_section(project),
    )
    found = stage_findings(workspace) if workspace.selection is None else ()
    subtitle = "Type sizes here; drag walls on the floor."
    return Page(project.name, subtitle, sections, found, answer=answer)


# How a ceiling may slope; a ridge that runs along the length is higher in the middle of the width.
SLOPES = (
    ("none", "not at all"),
    ("x", "along the length"),
    ("y", "along the width"),
    ("ridge y", "to a ridge along the length"),
    ("ridge x", "to a ridge along the width"),
)


def _room_fields(project: Project, room: Room) -> Section:
    """A room's name, sizes and ceiling."""
    across, deep = room_edits.size(room)
    slope: str = "none" if room.far_ceiling is None else room.slopes_along
    if room.ridge is not None:
        slope = f"ridge {room.slopes_along}"
    items: list[Item] = [
        name_field(room.id, room.name),
        length_field(
            project,
            f"{room.id}/length",
            "Length",
            across,
            edit=lambda p, v: room_edits.with_size(
                p, room.id, v, room_edits.size(p.element[room.id])[1]
            ),
            least=LEAST_ROOM,
        ),
        length_field(
            project,
            f"{room.id}/width",
            "Width",
            deep,
            edit=lambda p, v: room_edits.with_size(
                p, room.id, room_edits.size(p.element[room.id])[0], v
            ),
            least=LEAST_ROOM,
        ),
        length_field(
            project,
            f"{room.id}/ceiling",
            "Ceiling",
            room.ceiling,
            edit=lambda p, v: edits.changed(p, room.id, ceiling=v),
            least=LEAST_ROOM,
        ),
        ChoiceField(
            f"{room.id}/slope",
            "It slopes",
            slope,
            SLOPES,
            step="Slope the ceiling",
            edit=lambda p, v: roof_edits.with_slope(p, room.id, v),
        ),
    ]
    if room.far_ceiling is not None:
        items.append(
            length_field(
                project,
                f"{room.id}/far",
                "Up to",
                room.far_ceiling,
                edit=lambda p, v: edits.changed(p, room.id, far_ceiling=v),
            )
        )
    if room.ridge is not None:
        items.append(
            length_field(
                project,
                f"{room.id}/ridge",
                "Ridge",
                room.ridge,
                edit=lambda p, v: edits.changed(p, room.id, ridge=v),
            )
        )
    return Section("Room", tuple(items))


def _dormer_sections(project: Project, room: Room) -> tuple[Section, ...]:
    """The dormers in a room's roof, one section each; the last one adds another. None where the
    ceiling is level.
    """
    if room.ridge is None and room.far_ceiling is None:
        return ()
    more = ActionField(
        f"{room.id}/dormer",
        "Add a dormer",
        step="Add a dormer",
        edit=lambda p: roof_edits.with_dormer(p, room.id),
    )
    found = [_dormer_fields(project, room, n, item) for n, item in enumerate(room.dormers)]
    return (*found, Section("Dormers", (more,)))


def _dormer_fields(project: Project, room: Room, number: int, dormer: Dormer) -> Section:
    key = f"{room.id}/dormer-{number + 1}"

    def edit(name: str) -> Callable[[Project, Any], Project]:
        return lambda p, v: roof_edits.with_dormer_changed(p, room.id, number, **{name: v})

    along, across = ("left", "right"), ("lower", "upper")
    ends, eaves = (across, along) if room.slopes_along == "x" else (along, across)
    top = dormer.ceiling
    items: list[Item] = [
        length_field(
            project, f"{key}/start", f"From the {ends[0]} end", dormer.start, edit=edit("start")
        ),
        length_field(project, f"{key}/width", "Width", dormer.width, edit=edit("width")),
        length_field(project, f"{key}/ceiling", "Its ceiling", top, edit=edit("ceiling")),
    ]
    if room.ridge is not None:
        sides = tuple(zip(("low", "high"), (f"the {eave} eave" for eave in eaves), strict=True))
        items.append(
            ChoiceField(
                f"{key}/eave", "At", dormer.eave, sides, step="Move a dormer", edit=edit("eave")
            )
        )
    items.append(
        ActionField(
            f"{key}/delete",
            "Delete this dormer",
            step="Delete a dormer",
            edit=lambda p: roof_edits.without_dormer(p, room.id, number),
        )
    )
    return Section(f"Dormer {number + 1}", tuple(items))


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
            edit=lambda p, v: room_edits.with_wall_length(p, room.id, wall, v),
            step="Change a wall's length",
        ),
        ActionField(
            f"{ref}/split",
            "Split this wall in two",
            step="Split a wall",
            edit=lambda p: room_edits.with_wall_split(p, room.id, wall),
        ),
    )
    subtitle = (
        f"Of the {room.name.lower()}. Drag it to push it; split it and push one half to make an L."
    )
    return Page(f"Wall {wall + 1}", subtitle, (Section("Wall", items),), ())


def _corner_page(workspace: Workspace, room: Room, corner: int) -> Page:
    project = workspace.project
    ref = f"{room.id}/corner-{corner + 1}"
    join = ActionField(
        f"{ref}/join",
        "Delete this corner: one wall instead of two",
        step="Join two walls",
        edit=lambda p: without_corner(p, room.id, corner),
    )
    items = (*place_fields(project, ref), join)
    subtitle = f"Of the {room.name.lower()}. Drag it to any angle; its walls follow."
    return Page(f"Corner {corner + 1}", subtitle, (Section("Corner", items),), ())

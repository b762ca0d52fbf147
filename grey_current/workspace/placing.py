"""Things that can be taken from a strip and put down on the floor, and what putting them down
makes.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, replace
from typing import Literal

from grey_current.design.collector.candidates import put_in
from grey_current.design.laying.places import first_place
from grey_current.design.space.free_places import freely_standing
from grey_current.design.space.good_places import good_place, wall_place
from grey_current.errors import RefusedEdit
from grey_current.shop import edits
from grey_current.shop.catalogue import CollectorModel, collector_model, new_collector
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine, MachineBody
from grey_current.shop.model import Project
from grey_current.shop.places import XY, middle_of
from grey_current.shop.room import (
    Beam,
    Circuit,
    Feature,
    FeatureKind,
    Opening,
    OpeningKind,
    Outlet,
    Room,
    walls_of,
)
from grey_current.shop.room_edits import beam_across, on_wall, rectangle, span_on_wall
from grey_current.shop.stacking import settled
from grey_current.spelling import localised, names_alike
from grey_current.units import INCH, Display, System

Kind = Literal[
    "room",
    "opening",
    "feature",
    "beam",
    "outlet",
    "machine",
    "collector",
    "tape",
    "scale",
    "plan",
    "duct",
]


@dataclass(frozen=True)
class Placeable:
    """Something in hand: its kind, the variant within it, its title and size (m)."""

    kind: Kind
    sort: str
    title: str
    width: float = 0.0
    depth: float = 0.0
    top: float | None = None
    body: MachineBody | None = None
    about: str = ""
    bottom: float = 0.0
    wheels: bool = False


# What stands along a wall unless somebody moves it.
ALONG_WALLS = (
    "bench",
    "rack",
    "cupboard",
    "finish store",
    "stove",
    "heater",
    "water heater",
    "chimney",
    "flue",
)
# m between the places that are tried along a wall, and that stay between two openings.
WALL_STEP = 0.25
BETWEEN_OPENINGS = 0.1
SHOP_THINGS = (
    Placeable("opening", "door", "Door", 0.85, 0.0, 2.03, about="Swings on hinges"),
    Placeable(
        "opening", "roll-up door", "Roll-up door", 2.4, 0.0, 2.1, about="Takes head room inside"
    ),
    Placeable(
        "opening", "sliding door", "Sliding door", 1.8, 0.0, 2.03, about="Slides along its wall"
    ),
    Placeable("opening", "doorway", "Doorway", 0.85, 0.0, 2.03, about="Between two rooms"),
    Placeable("opening", "window", "Window", 1.2, 0.0, 1.9, about="No board passes"),
    Placeable("feature", "post", "Post", 0.15, 0.15, None, about="Cannot move"),
    Placeable("feature", "chimney", "Chimney", 1.2, 0.5, None, about="Up to the ceiling"),
    Placeable("beam", "beam", "Beam", 0.15, 0.0, 2.2, about="To pass under"),
    Placeable(
        "feature", "bench", "Bench", 1.5, 0.6, 0.86, about="Lanes pass above it", bottom=0.76
    ),
    Placeable(
        "feature",
        "bench",
        "Tool trolley",
        0.8,
        0.5,
        0.86,
        about="On wheels: a vacuum below, tools on top",
        bottom=0.8,
        wheels=True,
    ),
    Placeable(
        "feature", "cupboard", "Wall cupboard", 0.8, 0.35, 2.1, about="Hangs on a wall", bottom=1.4
    ),
    Placeable("feature", "rack", "Rack", 1.2, 0.4, 1.8, about="Timber, shelves"),
    Placeable(
        "feature", "finish store", "Finish store", 0.9, 0.45, 1.0, about="Solvents, oils, rags"
    ),
    Placeable("feature", "car", "Parked car", 1.8, 4.4, 1.5, about="There at times"),
    Placeable("feature", "stair", "Stair", 0.9, 2.2, None, about="Keep it free"),
    Placeable("feature", "hatch", "Hatch", 0.9, 1.2, 0.0, about="In the floor"),
    Placeable("feature", "walkway", "Walkway", 0.9, 2.0, 0.0, about="The way out"),
    Placeable("feature", "kept free", "Kept free", 1.5, 1.5, 0.0, about="To assemble, to turn"),
    Placeable("feature", "clean zone", "Clean zone", 2.0, 1.5, 0.0, about="To finish, to draw"),
    Placeable("feature", "dusty zone", "Dusty zone", 2.0, 2.0, 0.0, about="For what sands"),
    Placeable("feature", "noisy zone", "Noisy zone", 2.0, 2.0, 0.0, about="For what is loud"),
    Placeable("feature", "heated floor", "Heated floor", 3.0, 2.0, 0.0, about="No anchors"),
    Placeable(
        "feature", "air cleaner", "Air cleaner", 0.75, 0.6, 2.35, about="It hangs", bottom=2.05
    ),
    Placeable("feature", "stove", "Stove", 0.6, 0.5, 0.9, about="Dust must not reach it"),
    Placeable("feature", "heater", "Heater", 0.6, 0.3, 1.6, about="Dust must not reach it"),
    Placeable(
        "feature", "water heater", "Water heater", 0.55, 0.55, 1.5, about="Dust must not reach it"
    ),
    Placeable("feature", "flue", "Flue", 0.2, 0.2, None, about="It must go on drawing"),
    Placeable(
        "feature",
        "return-air grille",
        "Return-air grille",
        0.6,
        0.3,
        0.0,
        about="Dust gets into the house",
    ),
    Placeable("feature", "lamp", "Lamp", 1.2, 0.2, None, about="No duct through it", bottom=2.1),
    Placeable("feature", "no-duct area", "No-duct area", 1.5, 1.0, None, about="No duct may pass"),
    Placeable("outlet", "outlet", "Outlet", about="On a circuit"),
    Placeable("room", "room", "Another room", 3.0, 3.0, 2.4, about="Collector next door"),
    Placeable("tape", "tape", "Tape measure", about="Between two places"),
)


def sized(thing: Placeable, system: System) -> Placeable:
    """The thing in sizes that people of this system build in: whole inches, or 50 mm as it
    stands.
    """
    if system != "us" or thing.kind in ("machine", "collector"):
        return thing

    def whole(metres: float) -> float:
        return round(metres / INCH) * INCH

    top = None if thing.top is None else whole(thing.top)
    return replace(
        thing,
        width=whole(thing.width),
        depth=whole(thing.depth),
        top=top,
        bottom=whole(thing.bottom),
    )


def place(project: Project, thing: Placeable, x: float, y: float) -> tuple[Project, str]:
    """The project with a thing put down at a place (m), and the new element's id.

    Openings and outlets go to the nearest wall. Raises `InputError` for a thing that makes nothing.
    """
    ident = edits.fresh_id(project, thing.title)
    # A second one of its kind is called by its number.
    number = ident.rpartition("-")[2]
    name = f"{thing.title} {number}" if number.isdigit() else thing.title
    if thing.kind == "machine" and thing.body is not None:
        return _settled(*edits.placed(project, thing.body, x, y))
    if thing.kind == "collector":
        called = localised(name, project.settings.units)
        item = new_collector(collector_model(thing.sort), ident, called, x, y)
        return _settled(edits.added(project, item), ident)
    if thing.kind == "opening":
        return edits.added(project, _opening(project, thing, ident, name, x, y)), ident
    if thing.kind == "outlet":
        return _with_outlet(project, ident, name, x, y), ident
    if thing.kind == "beam":
        return edits.added(project, _beam(project, thing, ident, x, y)), ident
    corner = (round(x - thing.width / 2, 3), round(y - thing.depth / 2, 3))
    outline = rectangle(*corner, thing.width, thing.depth)
    if thing.kind == "room":
        return edits.added(
            project, Room(id=ident, name=name, outline=outline, ceiling=thing.top or 2.4)
        ), ident
    kind: FeatureKind = thing.sort  # type: ignore[assignment]
    return edits.added(
        project,
        Feature(
            id=ident,
            name=name,
            kind=kind,
            outline=outline,
            top=thing.top,
            bottom=thing.bottom,
            wheels=thing.wheels,
        ),
    ), ident


def _settled(project: Project, ident: str) -> tuple[Project, str]:
    """The project with what was put down settled: under a bench where it goes under one."""
    changes = settled(project, project.element[ident])
    return (edits.changed(project, ident, **changes) if changes else project), ident


def copies_of(project: Project, thing: Placeable) -> tuple[str, ...]:
    """What stands in the shop of a thing, in the order in which it was put in: machines by their
    name with or without a number, collectors by model, the building's things by kind.
    """
    if thing.kind == "machine" and thing.body is not None:
        # A second one has a number behind its name.
        return tuple(
            machine.id
            for machine in project.machines
            if names_alike(re.sub(r" \d+$", "", machine.name), thing.body.name)
        )
    if thing.kind == "collector":
        return tuple(item.id for item in project.collectors if item.model == thing.sort)
    if thing.kind == "opening":
        return tuple(item.id for item in project.openings if item.kind == thing.sort)
    return tuple(
        item.id
        for item in project.features
        if item.kind == thing.sort and item.wheels == thing.wheels
    )


def place_well(project: Project, thing: Placeable, x: float, y: float) -> tuple[Project, str]:
    """The project with a thing put down where it had better be, and the new element's id.

    Machines where they take the longest boards, collectors along a wall near to what needs air,
    doors in a free stretch of wall, furniture along a wall; the rest, and what finds no such place,
    at (x, y). Raises as `place`.
    """
    if thing.kind == "opening":
        return place(project, thing, *_free_wall(project, thing, (x, y)))
    if thing.kind == "feature" and thing.sort in ALONG_WALLS:
        found = wall_place(project, thing.width, thing.depth, (x, y))
        if found is not None:
            (x, y), turned = found
            size = (thing.depth, thing.width) if turned else (thing.width, thing.depth)
            thing = replace(thing, width=size[0], depth=size[1])
        return place(project, thing, x, y)
    made, ident = place(project, thing, x, y)
    item: Machine | Collector | None = None
    if thing.kind == "machine":
        item = good_place(project, made.machine[ident])
    elif thing.kind == "collector":
        item = first_place(made, ident) or freely_standing(project, made.collector[ident])
    if item is not None:
        made = edits.changed(made, ident, x=item.x, y=item.y, turn=item.turn)
    return made, ident


def put_in_well(project: Project, model: CollectorModel) -> Project:
    """The project with a first collector of a model, where it had better stand."""
    made = put_in(project, None, model)
    (ident,) = made.collector.keys() - project.collector.keys()
    item = first_place(made, ident)
    if item is None:
        return made
    return edits.changed(made, ident, x=item.x, y=item.y, turn=item.turn)


def _free_wall(project: Project, thing: Placeable, near: XY) -> XY:
    """The place in a wall, nearest to `near`, at which no other opening is.

    Raises `RefusedEdit` where no wall has a free stretch that is wide enough.
    """
    free = []
    for a, b in walls_of(project.rooms):
        length = math.dist(a, b)
        for step in range(int((length - thing.width) / WALL_STEP) + 1):
            share = (thing.width / 2 + step * WALL_STEP) / length
            at = (a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share)
            apart = [
                math.dist(at, middle_of([o.start, o.end]))
                - (math.dist(o.start, o.end) + thing.width) / 2
                for o in project.openings
            ]
            if min(apart, default=1.0) >= BETWEEN_OPENINGS and 0 < share < 1:
                free.append(at)
    if not free:
        wide = Display(project.settings.units).length(thing.width)
        raise RefusedEdit(
            f"the {thing.title.lower()}",
            "putting it in",
            f"no wall has {wide} without another opening; drag it where it is to be",
        )
    return min(free, key=lambda at: math.dist(at, near))


def _opening(
    project: Project, thing: Placeable, ident: str, name: str, x: float, y: float
) -> Opening:
    start, end = span_on_wall(project.rooms, (x, y), thing.width)
    kind: OpeningKind = thing.sort  # type: ignore[assignment]
    return Opening(
        id=ident,
        name=name,
        kind=kind,
        start=start,
        end=end,
        head=thing.top or 2.03,
        sill=0.9 if kind == "window" else 0.0,
        feeds=kind != "window",
        swing="left from start" if kind == "door" else "none",
    )


def _with_outlet(project: Project, ident: str, name: str, x: float, y: float) -> Project:
    """An outlet on the nearest wall, on the first circuit; the first outlet brings a circuit with
    it.
    """
    if not project.circuits:
        volts, breaker = (120.0, 20.0) if project.settings.units == "us" else (230.0, 16.0)
        circuit = edits.fresh_id(project, "circuit")
        project = edits.added(
            project, Circuit(id=circuit, name="Circuit 1", volts=volts, breaker=breaker)
        )
    start, end = span_on_wall(project.rooms, (x, y), 0.02)
    middle = ((start[0] + end[0]) / 2, (start[1] + end[1]) / 2)
    outlet = Outlet(id=ident, name=name, x=middle[0], y=middle[1], circuit=project.circuits[0].id)
    return edits.added(project, outlet)


def _beam(project: Project, thing: Placeable, ident: str, x: float, y: float) -> Beam:
    """A beam across the room at a place, the short way."""
    room_id = on_wall(project.rooms, (x, y))[0]
    room = next(r for r in project.rooms if r.id == room_id)
    start, end = beam_across(room, (x, y))
    return Beam(
        id=ident,
        start=start,
        end=end,
        width=thing.width,
        underside=min(thing.top or 2.2, room.ceiling),
    )

"""Rooms to begin with, in sizes that people of either system build in."""

from __future__ import annotations

from dataclasses import dataclass

from grey_current.errors import InputError
from grey_current.shop.model import ROOM_TEMPERATURE, Project, Settings
from grey_current.shop.room import Opening, OpeningKind, Room
from grey_current.shop.room_edits import rectangle
from grey_current.units import FOOT, INCH, System


@dataclass(frozen=True)
class Hole:
    """A door or window of a template.

    Attributes:
        wall: Counted from the lower one, anticlockwise.
        at: Share of the wall's length at which its middle is.
        wide, head: m; in a US shop to the whole inch.
    """

    kind: OpeningKind
    name: str
    wall: int
    at: float
    wide: float
    head: float = 2.03
    sill: float = 0.0


@dataclass(frozen=True)
class ShopTemplate:
    """A room: its title, and length, width and height (m) in either system."""

    name: str
    title: str
    metric: tuple[float, float, float]
    us: tuple[float, float, float]
    holes: tuple[Hole, ...]


TEMPLATES = (
    ShopTemplate(
        "single-garage",
        "Single garage",
        (6.2, 3.2, 2.4),
        (22 * FOOT, 12 * FOOT, 8 * FOOT),
        (
            Hole("roll-up door", "Garage door", 3, 0.5, 2.4, 2.1),
            Hole("door", "Side door", 0, 0.85, 0.85),
            Hole("window", "Window", 1, 0.5, 1.0, 1.9, 1.0),
        ),
    ),
    ShopTemplate(
        "double-garage",
        "Double garage",
        (6.4, 6.0, 2.5),
        (24 * FOOT, 22 * FOOT, 9 * FOOT),
        (
            Hole("roll-up door", "Garage door", 0, 0.5, 4.8, 2.1),
            Hole("door", "Side door", 1, 0.8, 0.85),
            Hole("window", "Window", 2, 0.5, 1.2, 1.9, 1.0),
        ),
    ),
    ShopTemplate(
        "cellar",
        "Cellar",
        (5.6, 4.2, 2.15),
        (19 * FOOT, 14 * FOOT, 7 * FOOT),
        (Hole("door", "Door", 0, 0.8, 0.8, 1.98), Hole("window", "Window", 2, 0.3, 0.8, 2.0, 1.6)),
    ),
    ShopTemplate(
        "shed",
        "Shed",
        (4.8, 3.0, 2.3),
        (16 * FOOT, 10 * FOOT, 7.5 * FOOT),
        (
            Hole("door", "Double door", 0, 0.5, 1.5, 1.98),
            Hole("window", "Window", 2, 0.5, 1.0, 1.8, 1.0),
        ),
    ),
    ShopTemplate(
        "spare-room",
        "Spare room",
        (4.0, 3.2, 2.45),
        (13 * FOOT, 10.5 * FOOT, 8 * FOOT),
        (Hole("door", "Door", 0, 0.2, 0.8), Hole("window", "Window", 2, 0.5, 1.2, 2.0, 0.9)),
    ),
    ShopTemplate(
        "barn",
        "Barn",
        (9.0, 6.6, 3.6),
        (30 * FOOT, 22 * FOOT, 12 * FOOT),
        (
            Hole("sliding door", "Barn door", 0, 0.4, 2.4, 2.4),
            Hole("door", "Side door", 1, 0.8, 0.9),
            Hole("window", "Window", 2, 0.5, 1.2, 2.0, 1.0),
        ),
    ),
)


def template_shop(name: str, units: System) -> Project:
    """A new shop in one of the rooms. Raises `InputError` for an unknown one."""
    known = {template.name: template for template in TEMPLATES}
    if name not in known:
        raise InputError("template", name, f"choose one of {', '.join(known)}")
    chosen = known[name]
    length, width, ceiling = chosen.us if units == "us" else chosen.metric
    outline = rectangle(0.0, 0.0, length, width)
    room = Room(id="room", name="Workshop", outline=outline, ceiling=ceiling)
    openings = tuple(_opening(room, hole, units) for hole in chosen.holes)
    settings = Settings(units=units, temperature=ROOM_TEMPERATURE[units == "us"])
    return Project(name=chosen.title, settings=settings, rooms=(room,), openings=openings)


def _opening(room: Room, hole: Hole, units: System) -> Opening:
    a, b = room.outline[hole.wall], room.outline[(hole.wall + 1) % len(room.outline)]
    length = abs(b[0] - a[0]) + abs(b[1] - a[1])

    def size(metres: float) -> float:
        return round(metres / INCH) * INCH if units == "us" else metres

    half = size(hole.wide) / 2 / length

    def place(share: float) -> tuple[float, float]:
        return a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share

    return Opening(
        id=hole.name.lower().replace(" ", "-"),
        name=hole.name,
        kind=hole.kind,
        start=place(hole.at - half),
        end=place(hole.at + half),
        sill=size(hole.sill),
        head=min(size(hole.head), room.ceiling),
        swing="right from start" if hole.kind == "door" else "none",
    )

"""The guide to a first shop: its steps, and which machines the work that one does asks for."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from grey_current.shop.catalogue import machine_models
from grey_current.shop.machines import MachineBody


@dataclass(frozen=True)
class GuideStep:
    """One step: the stage at which it is done, its title, and what to do, in a sentence or two."""

    stage: str
    title: str
    says: str


STEPS = (
    GuideStep(
        "shop",
        "The room",
        "Type its length and width below, then add the doors. Drag each to where it is.",
    ),
    GuideStep(
        "machines",
        "Your machines",
        "Click each machine you own, or will buy first: below, or in the pictures under the floor. "
        "It goes where its boards have room; drag it to where you want it.",
    ),
    GuideStep(
        "collector",
        "What pulls the dust",
        "Click what you have. With nothing yet, use one of the recommended collectors below.",
    ),
    GuideStep(
        "air",
        "The ducts",
        "Lay the ducts: whole layouts are tried and the best ones offered. Click one to use it.",
    ),
)


@dataclass(frozen=True)
class Work:
    """A kind of work: its title, its machines with the first to buy first, and the room it asks."""

    title: str
    machines: tuple[str, ...]
    room: str


WORKS = {
    "any": Work(
        "a bit of everything",
        ("Table saw", "Mitre saw", "12 in planer", "Bandsaw", "Router table", "Drill press"),
        "Leave a board's length before and behind the saw.",
    ),
    "boxes": Work(
        "boxes",
        ("Table saw", "12 in planer", "Drum sander", "Router table", "Small bandsaw"),
        "Short boards: one good step before and behind each machine will do.",
    ),
    "chairs": Work(
        "chairs",
        ("Bandsaw", "12 in planer", "Lathe", "Spindle sander", "Drill press"),
        "Parts are small; the room goes into a bench that one can walk round.",
    ),
    "cabinets": Work(
        "sheet cabinets",
        ("Track saw station", "Table saw", "Router table", "Edge sander", "Mitre saw"),
        "Full sheets want their whole length before and behind the saw.",
    ),
    "turning": Work(
        "turning",
        ("Lathe", "Small bandsaw", "Disc sander", "Drill press"),
        "Little room, and fine dust: a hood close behind the work.",
    ),
    "instruments": Work(
        "instruments",
        ("Small bandsaw", "Drum sander", "Spindle sander", "Router table", "Scroll saw"),
        "Thin wood and much sanding: fine dust counts more than chips.",
    ),
}


def body_of(name: str) -> MachineBody:
    """A machine of the catalogue by its name. Raises `KeyError` for an unknown one."""
    return _bodies()[name]


@cache
def _bodies() -> dict[str, MachineBody]:
    return {model.body.name: model.body for model in machine_models()}

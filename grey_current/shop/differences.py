"""What differs between two states of a shop, in a few words each."""

from __future__ import annotations

from collections.abc import Iterator

from grey_current.shop.design_parts import LISTS
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital

SINGLE = {
    "points": "joint",
    "runs": "run of duct or hose",
    "gates": "gate",
    "machines": "machine",
    "collectors": "collector",
    "rooms": "room",
    "openings": "door or window",
    "beams": "beam",
    "features": "thing that stands there",
    "circuits": "circuit",
    "outlets": "outlet",
}
PLURAL = {
    "runs": "runs of duct or hose",
    "openings": "doors or windows",
    "features": "things that stand there",
    "machines": "machines",
}
NAMED = 2
"""As many things of one kind are named; more are counted."""


def differences(before: Project, after: Project) -> Iterator[str]:
    """What an earlier and a later state differ in: "the saw changed", "3 runs of duct or hose added"."""
    old, new = Names(before), Names(after)
    for kind in LISTS:
        was = {item.id: item for item in getattr(before, kind)}
        now = {item.id: item for item in getattr(after, kind)}
        changed = [ident for ident in now if ident in was and now[ident] != was[ident]]
        for verb, idents, names in (
            ("added", [i for i in now if i not in was], new),
            ("taken away", [i for i in was if i not in now], old),
            ("changed", changed, new),
        ):
            if idents:
                yield f"{_what(kind, idents, names)} {verb}"
    rest = {name for name in Project.model_fields if name not in LISTS}
    if any(getattr(before, name) != getattr(after, name) for name in rest):
        yield "Settings of the shop changed"


def _what(kind: str, idents: list[str], names: Names) -> str:
    if len(idents) <= NAMED:
        return capital(" and ".join(names.of(ident) for ident in idents))
    return f"{len(idents)} {PLURAL.get(kind, SINGLE.get(kind, kind) + 's')}"

"""What differs between two states of a shop, in a few words each."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

from grey_current.shop.design_parts import LISTS
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.shop.values import Value

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
# A project's plans, with what their single figures are called.
PLANS = {
    "build": "Figures of the build stage",
    "work": "Figures of the work stage",
    "keep": "Figures of the keep stage",
    "laying": "How ducts are laid",
}
# Lists in plans, one and several of what they hold.
IN_PLANS = {
    "prices": ("price", "prices"),
    "owned": ("part that you have", "parts that you have"),
    "stock": ("length in stock", "lengths in stock"),
    "offcuts": ("offcut", "offcuts"),
    "sizes": ("measured lay length", "measured lay lengths"),
    "phases": ("phase", "phases"),
    "made": ("thing to make", "things to make"),
    "cut": ("piece that is cut", "pieces that are cut"),
    "mounted": ("duct that hangs", "ducts that hang"),
    "sealed": ("sealed duct", "sealed ducts"),
    "day": ("job of the day", "jobs of the day"),
    "cleaners": ("air cleaner", "air cleaners"),
    "checklists": ("checklist", "checklists"),
    "readings": ("reading", "readings"),
    "entries": ("line of the logbook", "lines of the logbook"),
}
# Single figures in plans that have a name of their own.
SINGLE_IN_PLANS = {
    "applied": "Whether figures follow the readings",
    "complaint": "What is complained of",
    "practice": "The practice",
}
OTHERS = frozenset(Project.model_fields) - {*LISTS, *PLANS}
# As many things of one kind are named; more are counted.
NAMED = 2


def differences(before: Project, after: Project) -> Iterator[str]:
    """What an earlier and a later state differ in: "the saw changed", "3 runs of duct or hose
    added".
    """
    old, new = Names(before), Names(after)
    for kind in LISTS:
        was = {item.id: item for item in getattr(before, kind)}
        now = {item.id: item for item in getattr(after, kind)}
        changed = [ident for ident in now if ident in was and now[ident] != was[ident]]
        # What is gone is called as it was called before.
        for verb, idents, names in (
            ("added", [i for i in now if i not in was], new),
            ("taken away", [i for i in was if i not in now], old),
            ("changed", changed, new),
        ):
            if idents:
                yield f"{_what(kind, idents, names)} {verb}"
    for name, words in PLANS.items():
        yield from _plan_differences(getattr(before, name), getattr(after, name), words)
    if any(getattr(before, name) != getattr(after, name) for name in OTHERS):
        yield "Settings of the shop changed"


def differing(before: Project, after: Project) -> frozenset[str]:
    """The ids of what is in only one of two states of a shop, or stands, runs or is made otherwise:
    a duct too whose ends were moved.
    """
    found: set[str] = set()
    for kind in LISTS:
        was = {item.id: item for item in getattr(before, kind)}
        now = {item.id: item for item in getattr(after, kind)}
        found.update(ident for ident in was.keys() | now.keys() if was.get(ident) != now.get(ident))
    owners = {ref.split("/", maxsplit=1)[0] for ref in found}
    for project in (before, after):
        ends = (
            (run.id, {end.split("/", maxsplit=1)[0] for end in run.touches}) for run in project.runs
        )
        found.update(run for run, touched in ends if touched & owners)
    return frozenset(found)


def _plan_differences(before: Value, after: Value, words: str) -> Iterator[str]:
    """What was added to or taken from a plan's lists, and whether any of its other figures
    changed.
    """
    other = False
    for field in type(before).model_fields:
        was, now = getattr(before, field), getattr(after, field)
        if was == now:
            continue
        if field in SINGLE_IN_PLANS:
            yield f"{SINGLE_IN_PLANS[field]} changed"
            continue
        what = IN_PLANS.get(field)
        if what is None:
            other = True
            continue
        # What both begin with is the same; only the rest is compared item by item.
        same = sum(
            1
            for _ in itertools.takewhile(
                lambda pair: pair[0] == pair[1], zip(was, now, strict=False)
            )
        )
        was, now = was[same:], now[same:]  # a long logbook differs at its end
        more, fewer = len([i for i in now if i not in was]), len([i for i in was if i not in now])
        one, several = what
        if (more and fewer) or (not more and not fewer):
            yield f"{capital(several)} changed"
        else:
            count = more or fewer
            yield f"{count} {one if count == 1 else several} {'added' if more else 'taken away'}"
    if other:
        yield f"{words} changed"


def _what(kind: str, idents: list[str], names: Names) -> str:
    if len(idents) <= NAMED:
        return capital(" and ".join(names.of(ident) for ident in idents))
    return f"{len(idents)} {PLURAL.get(kind, SINGLE.get(kind, kind) + 's')}"

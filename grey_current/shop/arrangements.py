"""Arrangements of a shop: named sets of places, one of which is laid out. Pure functions."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.edits import fresh_id
from grey_current.shop.model import FloorArrangement, PlaceIn, Project
from grey_current.shop.places import bodies, middle_of
from grey_current.shop.room import Feature
from grey_current.shop.stacking import rolled_by, things
from grey_current.shop.values import checked_name

# Things that are moved about or are there only at times.
MOVED_ABOUT = ("bench", "rack", "car")
MOST = 8
# m within which something stands where it stood, and degrees within which as it was turned.
SAME_PLACE, SAME_TURN = 0.02, 1.0
# Minutes to move something on wheels, something without, and a car. Allowances.
ON_WHEELS, CARRIED, DRIVEN = 0.5, 5.0, 3.0


def begun(project: Project, name: str | None = None) -> tuple[Project, str]:
    """The project with a new arrangement laid out, which is as the present one yet, and its id.

    The first time what stands there is kept as "Usual". Raises `RefusedEdit` for more than a file
    holds, `InputError` for a name that is none.
    """
    held = project.arrangements
    if len(held) + (1 if held else 2) > MOST:
        raise RefusedEdit("arrangements", "one more", f"a file holds {MOST}; delete one first")
    if not held:
        project = _with(project, (_present(project, "usual", "Usual"),), "usual")
    project = _stored(project)
    chosen = checked_name("arrangement", name or f"Arrangement {len(project.arrangements) + 1}")
    ident = fresh_id(project, chosen, (each.id for each in project.arrangements))
    new = _present(project, ident, chosen)
    return _with(project, (*project.arrangements, new), ident), ident


def laid_out(project: Project, ident: str) -> Project:
    """The project with an arrangement laid out; how it stands now is stored in the present one.

    Raises `InputError` for an unknown one.
    """
    chosen = find(project, ident)
    if chosen.id == project.arranged:
        return project
    project = _stored(project)
    return _with(_placed(project, chosen), project.arrangements, chosen.id)


def as_arranged(project: Project) -> Iterator[tuple[FloorArrangement, Project]]:
    """Every arrangement with the shop laid out so, the present one as it stands."""
    for each in project.arrangements:
        yield each, project if each.id == project.arranged else _placed(project, each)


def renamed(project: Project, ident: str, name: str) -> Project:
    """The project with an arrangement called otherwise. Raises `InputError` for a name that is
    none.
    """
    find(project, ident)
    new = checked_name("arrangement", name)
    held = tuple(
        each.replaced(name=new) if each.id == ident else each for each in project.arrangements
    )
    return _with(project, held, project.arranged)


def dropped(project: Project, ident: str) -> Project:
    """The project without an arrangement; the last that is left is none, and what is laid out
    stays. Raises `InputError` for an unknown one.
    """
    find(project, ident)
    held = tuple(each for each in project.arrangements if each.id != ident)
    if len(held) <= 1:
        return _with(project, (), None)
    if project.arranged == ident:
        return _with(_placed(project, held[0]), held, held[0].id)
    return _with(project, held, project.arranged)


def find(project: Project, ident: str) -> FloorArrangement:
    """An arrangement by its id or name. Raises `InputError` for an unknown one."""
    for each in project.arrangements:
        if ident in (each.id, each.name):
            return each
    known = ", ".join(each.name for each in project.arrangements) or "none yet"
    raise InputError("arrangement", ident, f"arrangements of this shop are: {known}")


def moves(before: Project, after: Project) -> list[tuple[str, float]]:
    """What is moved from one arrangement to another: ids, each with the minutes that it takes."""
    found = []
    for item in things(before):
        other: Any = after.element.get(item.id)
        if other is None:
            continue
        ident = item.id
        if isinstance(item, Feature) and item.away != other.away:
            found.append((ident, DRIVEN if item.kind == "car" else CARRIED))
        elif _stands_elsewhere(item, other) and not _goes_along(before, after, item, other):
            rolled = item.wheels or rolled_by(before, item) is not None
            found.append((ident, ON_WHEELS if rolled else CARRIED))
    return found


def minutes_words(minutes: float) -> str:
    """How long moving takes, in words."""
    return "half a minute" if minutes < 0.75 else f"about {minutes:.0f} min"


def _goes_along(before: Project, after: Project, item: Any, other: Any) -> bool:
    """Whether something stays where it is on, under or in a thing on wheels that is moved."""
    carrier = rolled_by(before, item)
    if carrier is None or carrier != rolled_by(after, other):
        return False
    return _stands_elsewhere(before.element[carrier], after.element[carrier])


def _stands_elsewhere(item: Any, other: Any) -> bool:
    here, there = (
        middle_of(each.outline) if isinstance(each, Feature) else (each.x, each.y)
        for each in (item, other)
    )
    turn = abs(getattr(item, "turn", 0.0) - getattr(other, "turn", 0.0)) % 360
    turned = min(turn, 360 - turn) > SAME_TURN
    raised = abs(item.bottom - other.bottom) > SAME_PLACE
    return math.dist(here, there) > SAME_PLACE or turned or raised


def _with(project: Project, held: tuple[FloorArrangement, ...], arranged: str | None) -> Project:
    return project.replaced(arrangements=held, arranged=arranged)


def _stored(project: Project) -> Project:
    """The project with how it stands now in the arrangement that is laid out."""
    held = tuple(
        _present(project, each.id, each.name) if each.id == project.arranged else each
        for each in project.arrangements
    )
    return project.replaced(arrangements=held)


def _present(project: Project, ident: str, name: str) -> FloorArrangement:
    places = [
        PlaceIn(id=m.id, x=m.x, y=m.y, turn=m.turn, bottom=m.bottom, host=m.host)
        for m in bodies(project)
    ]
    places += [
        PlaceIn(id=f.id, outline=f.outline, bottom=f.bottom, host=f.host, away=f.away)
        for f in project.features
        if f.kind in MOVED_ABOUT
    ]
    return FloorArrangement(id=ident, name=name, places=tuple(places))


def _placed(project: Project, chosen: FloorArrangement) -> Project:
    """The project with everything where an arrangement has it; what it does not know stays."""
    known = {place.id: place for place in chosen.places}
    lists: dict[str, tuple[Any, ...]] = {}
    for name in ("machines", "collectors", "features"):
        lists[name] = tuple(
            _at(item, known[item.id], project) if item.id in known else item
            for item in getattr(project, name)
        )
    return project.replaced(**lists)


def _at(item: Any, place: PlaceIn, project: Project) -> Any:
    host = place.host if place.host in project.element else None
    if not isinstance(item, Feature):
        return item.replaced(x=place.x, y=place.y, turn=place.turn, bottom=place.bottom, host=host)
    top = item.top
    if top is not None and item.kind != "bench":
        top = round(top + place.bottom - item.bottom, 4)
    bottom = item.bottom if item.kind == "bench" else place.bottom
    return item.replaced(
        outline=place.outline or item.outline, bottom=bottom, top=top, host=host, away=place.away
    )

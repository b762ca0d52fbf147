"""Edits of what stands on, under or in what. Pure functions."""

from __future__ import annotations

import math

from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.collectors import Collector
from grey_current.shop.edits import changed
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.places import bounds
from grey_current.shop.room import Feature
from grey_current.shop.stacking import (
    LEAST_TOP,
    OVER_IT,
    Thing,
    bottom_of,
    check_stands,
    free_under_at,
    host_of,
    outline_of,
    relation,
    stands_in_itself,
    things,
    top_of,
)
from grey_current.units import Display

FLOOR, HEIGHT = "floor", "height"
# m of a machine that stand over what it stands on, at least. Allowance.
LEAST_BODY = 0.03


def stands(project: Project, item: Thing) -> str:
    """How something stands, as `with_stand` takes it: "floor", "on:bench", "under:bench"…,
    "turn:saw" for one turning stand with it; "height" for over the floor on nothing that is named.
    """
    host = project.element.get(item.host) if item.host else None
    if host is not None:
        how = "turn" if isinstance(item, Machine) and item.turns else relation(host, item)
        return f"{how}:{host.id}"
    return FLOOR if bottom_of(item) <= 0 else HEIGHT


def with_stand(project: Project, ident: str, how: str) -> Project:
    """The project with something on the floor ("floor"), or "on", "under" or "in" another thing.

    Under a bench, a rack or a machine room is made for it where its top is high enough. Raises
    `RefusedEdit` where it does not go.
    """
    item: Thing = project.element[ident]
    if isinstance(item, Machine) and item.turns and how != stands(project, item):
        item = item.replaced(turns=False)
        project = changed(project, ident, turns=False)
    if how == HEIGHT:
        return project
    if how == FLOOR:
        return _at(project, item, 0.0, None)
    relation_, _, host_id = how.partition(":")
    host = project.element.get(host_id)
    if relation_ == "turn" and isinstance(item, Machine) and isinstance(host, Machine):
        return _on_one_stand(project, item, host)
    if relation_ not in ("on", "under", "in") or not isinstance(
        host, Machine | Collector | Feature
    ):
        raise InputError(f"{item.name}, stands", how, "choose one of those that are offered")
    check_stands(project, ident, host_id)
    if relation_ == "on":
        if math.isinf(top_of(host)):
            raise RefusedEdit(
                item.name, f"standing on {host.name.lower()}", "it goes up to the ceiling"
            )
        if isinstance(item, Machine):
            project = _without_its_stand(project, item, top_of(host))
        return _at(project, item, top_of(host), host_id)
    if relation_ == "under":
        project = _with_room_under(project, item, host)
        return _at(project, item, _ground_under(project, host), host_id)
    return _at(project, item, bottom_of(host), host_id)


def _ground_under(project: Project, host: Thing) -> float:
    """The height (m) at which stands what goes under something: its foot, or below what hangs the
    floor, or what both are over.
    """
    if not isinstance(host, Feature):
        return bottom_of(host)
    below = host_of(project, host)
    return top_of(below) if below is not None and relation(below, host) == "on" else 0.0


def _on_one_stand(project: Project, item: Machine, host: Machine) -> Project:
    """The project with a machine on another's stand, which is turned to bring either up."""
    check_stands(project, item.id, host.id)
    if host.turns and host.host:
        host = project.machine[host.host]
    return changed(
        project,
        item.id,
        x=host.x,
        y=host.y,
        turn=host.turn,
        bottom=host.bottom,
        host=host.id,
        turns=True,
    )


def _at(project: Project, item: Thing, bottom: float, host: str | None) -> Project:
    if isinstance(item, Feature):
        if item.kind == "bench":
            return changed(project, item.id, host=host)
        top = None if item.top is None else round(item.top + bottom - item.bottom, 4)
        return changed(project, item.id, host=host, bottom=round(bottom, 4), top=top)
    return changed(project, item.id, host=host, bottom=round(bottom, 4))


def _without_its_stand(project: Project, item: Machine, stand: float) -> Project:
    """The project with a machine's heights over its own foot, where they were over the floor, on a
    stand as high (m) as what it is to stand on: its table stays where it is.
    """
    if item.bottom > 0 or item.table_height < stand + LEAST_BODY:
        return project
    pickups = tuple(
        pickup.replaced(height=round(max(pickup.height - stand, 0.0), 4)) for pickup in item.pickups
    )
    high = None if item.height is None else round(item.height - stand, 4)
    table = round(item.table_height - stand, 4)
    return changed(project, item.id, pickups=pickups, height=high, table_height=table)


def _with_room_under(project: Project, item: Thing, host: Thing) -> Project:
    """The project with as much free under a host as what is to stand there is high."""
    ground = _ground_under(project, host)
    wanted = ground + top_of(item) - bottom_of(item) + OVER_IT
    if free_under_at(host, item) >= wanted - OVER_IT:
        return project
    most = top_of(host)
    if isinstance(host, Machine):
        most = host.bottom + host.table_height
    if isinstance(host, Collector) or wanted > most - LEAST_TOP:
        display = Display(project.settings.units)
        raise RefusedEdit(
            item.name,
            f"standing under {host.name.lower()}",
            f"it takes {display.length(wanted - ground)}, and the top is {display.length(most)} up",
        )
    if isinstance(host, Machine):
        return changed(project, host.id, under=round(wanted - host.bottom, 4))
    return changed(project, host.id, bottom=round(wanted, 4))


def stand_choices(project: Project, item: Thing) -> tuple[tuple[str, str], ...]:
    """How something may stand where it is, each with its words: on the floor, or on, under or in
    whatever is at the same place.
    """
    now = stands(project, item)
    found = [(FLOOR, "on the floor")]
    if now == HEIGHT:
        found.append((HEIGHT, "over the floor, on nothing here"))
    for other in things(project):
        at_hand = meet(item, other) or item.host == other.id
        if other.id == item.id or not at_hand or stands_in_itself(project, item.id, other.id):
            continue
        name = other.name.lower()
        if math.isfinite(top_of(other)):
            found.append((f"on:{other.id}", f"on the {name}"))
        if not isinstance(other, Collector):
            found.append((f"under:{other.id}", f"under the {name}"))
        found.append((f"in:{other.id}", f"in the {name}"))
        if isinstance(item, Machine) and isinstance(other, Machine):
            found.append((f"turn:{other.id}", f"on one turning stand with the {name}"))
    if now not in dict(found):
        found.append((now, now))
    return tuple(found)


def meet(one: Thing, other: Thing) -> bool:
    """Whether two things are at the same place in plan, by what each takes across and down."""
    a, b = bounds(outline_of(one)), bounds(outline_of(other))
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]

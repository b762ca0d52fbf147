"""Edits: pure functions from a Project to a Project. Every one checks its values and its
references.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Any, Literal, TypeVar

from grey_current.errors import InputError, RefusedEdit, ValueRefused
from grey_current.shop.catalogue import local_body, materials
from grey_current.shop.collectors import PARTS, Apart, Collector, PartName
from grey_current.shop.design_parts import LISTS
from grey_current.shop.ducts import Gate, Point, Run, ends_of
from grey_current.shop.limits import in_units, owned
from grey_current.shop.machines import Machine, MachineBody, ParkedPlace
from grey_current.shop.model import Design, Project
from grey_current.shop.names import called, capital
from grey_current.shop.of_last import OfLast
from grey_current.shop.places import distance, standing
from grey_current.shop.room import (
    ON_WALL,
    Beam,
    Feature,
    Opening,
    Outlet,
    Room,
    off_line,
    walls,
    walls_of,
)
from grey_current.shop.stacking import after_its_host, guests_of, host_of, relation, settled
from grey_current.shop.values import XY, Value
from grey_current.units import Display

ValueT = TypeVar("ValueT", bound=Value)
# What changes a project: a function from one to the next.
Edit = Callable[[Project], Project]


@dataclass(frozen=True)
class Change:
    """A change in words, the element that it is about, and the function that makes it."""

    words: str
    element: str
    edit: Edit


def made(project: Project, change: Edit, label: str) -> Project:
    """The project with a change made. Raises what the change raises, and `RefusedEdit` for a value
    that cannot be.
    """
    try:
        return change(project)
    except ValueRefused as problem:
        raise in_units(problem, label, Display(project.settings.units)) from None
    except (ArithmeticError, RecursionError):
        raise RefusedEdit(
            label, "a figure of that size", "write one that a workshop could have"
        ) from None


def changed(project: Project, element: str, **changes: Any) -> Project:
    """The project with fields of one element changed.

    Raises `InputError` for an unknown element or a value that cannot be; the project is untouched.
    """
    for name in LISTS:
        items = getattr(project, name)
        for place, item in enumerate(items):
            if item.id == element:
                made = checked(
                    item, _named(project, element), changes, Display(project.settings.units)
                )
                after = project.replaced(**{name: (*items[:place], made, *items[place + 1 :])})
                return _followed(after, item, made) if not PLACING.isdisjoint(changes) else after
    raise InputError("element", element, "choose something that is in this shop")


# Fields by which something stands elsewhere, or higher.
PLACING = frozenset({"x", "y", "turn", "outline", "bottom", "top", "height", "table_height"})


def _followed(project: Project, was: Any, now: Any) -> Project:
    """The project with what stands on, under or in a thing moved, turned and raised with it."""
    if not isinstance(now, Machine | Collector | Feature):
        return project
    for guest in guests_of(project, now.id):
        changes = after_its_host(was, now, guest)
        if changes:
            project = changed(project, guest.id, **changes)
    return project


def changed_all(project: Project, elements: Iterable[str], **changes: Any) -> Project:
    """The project with the same fields changed in several elements at once. Raises as `changed`."""
    wanted = set(elements)
    lists: dict[str, tuple[Any, ...]] = {}
    for name in LISTS:
        items = getattr(project, name)
        if any(item.id in wanted for item in items):
            display = Display(project.settings.units)
            lists[name] = tuple(
                checked(item, _named(project, item.id), changes, display)
                if item.id in wanted
                else item
                for item in items
            )
            # What is left at the end is in no list: an unknown id.
            wanted -= {item.id for item in items}
    if wanted:
        raise InputError("element", min(wanted), "choose something that is in this shop")
    return project.replaced(**lists)


def _named(project: Project, element: str) -> Callable[[], str]:
    """What an element is called, worked out only when it is said."""
    return lambda: capital(called(project, element))


def checked(
    item: ValueT,
    where: str | Callable[[], str],
    changes: dict[str, Any],
    display: Display | None = None,
) -> ValueT:
    """A value with some fields changed. Raises `InputError` naming `where` for a value that cannot
    be, in the units of `display`, or in those that `made` knows.
    """
    try:
        return item.replaced(**changes)
    except ValueRefused as problem:
        owner = where if isinstance(where, str) else where()
        if display is None:
            raise owned(problem, owner) from None
        raise in_units(problem, owner, display) from None


def with_settings(project: Project, **changes: Any) -> Project:
    """The project with some settings changed. Raises `InputError` for a value that cannot be."""
    return project.replaced(
        settings=checked(project.settings, "settings", changes, Display(project.settings.units))
    )


def with_pickup(project: Project, ref: str, **changes: Any) -> Project:
    """The project with fields of one pickup changed. Raises `InputError` for an unknown one or a
    bad value.
    """
    if ref not in project.pickup:
        raise InputError("pickup", ref, "choose a pickup of this shop")
    machine, pickup = project.pickup[ref]
    new = checked(
        pickup, f"{machine.name}, {pickup.name.lower()}", changes, Display(project.settings.units)
    )
    return changed(
        project, machine.id, pickups=tuple(new if p.id == pickup.id else p for p in machine.pickups)
    )


def with_hose_length(project: Project, run: str, length: float) -> Project:
    """The project with a hose of another length (m). Raises `InputError` for a rigid run or a bad
    length.
    """
    if not materials()[project.run[run].material].hose:
        raise RefusedEdit(
            called(project, run),
            "a length of its own",
            "only a hose has one; move its ends instead",
        )
    return changed(project, run, length=length)


def with_material(project: Project, run: str, material: str) -> Project:
    """The project with a run of another material; a hose made rigid loses its own length."""
    kind = materials().get(material)
    if kind is None:
        raise InputError(f"{run}, material", material, f"use one of {', '.join(materials())}")
    old = project.run[run]
    length = (old.length or round(distance(project, old), 4)) if kind.hose else None
    hung = old.hung if kind.hose else None
    return changed(project, run, material=material, length=length, hung=hung)


def moved(project: Project, element: str, dx: float, dy: float) -> Project:
    """The project with one element moved by (dx, dy) m; what is connected follows.

    "saw/parked-1" is the saw's first parked place, "beam/end-2" one end of a beam,
    "cyclone/filter" what stands by itself of it. With a room go the openings and outlets that are
    in no other room's walls.
    """

    def there(place: tuple[float, float]) -> tuple[float, float]:
        return round(place[0] + dx, 4), round(place[1] + dy, 4)

    # References into things first: a parked place, a beam's end.
    owner, _, part = element.partition("/parked-")
    item: Any = project.element.get(owner)
    if part and isinstance(item, Machine):
        places = list(item.parked)
        place = places[int(part) - 1]
        places[int(part) - 1] = place.replaced(x=round(place.x + dx, 4), y=round(place.y + dy, 4))
        return changed(project, owner, parked=tuple(places))
    named = part_of(project, element)
    if named is not None:
        return _part_moved(project, *named, dx, dy)
    owner, _, part = element.partition("/end-")
    item = project.element.get(owner)
    if part and isinstance(item, Beam):
        end = "start" if part == "1" else "end"
        return changed(project, owner, **{end: there(getattr(item, end))})
    if isinstance(item, Room):
        project = _with_its_openings_moved(project, item, there)
    if isinstance(item, Feature | Room):
        return changed(project, element, outline=tuple(there(p) for p in item.outline))
    if isinstance(item, Beam | Opening):
        return changed(project, element, start=there(item.start), end=there(item.end))
    x, y = there((item.x, item.y))
    project = changed(project, element, x=x, y=y)
    if isinstance(item, Machine | Collector):
        settling = settled(project, project.element[element])
        return changed(project, element, **settling) if settling else project
    return project


def part_of(project: Project, ref: str) -> tuple[Collector, PartName] | None:
    """The collector and which part of it, standing by itself, a reference names ("cyclone/filter");
    None for anything else.
    """
    owner, _, name = ref.partition("/")
    item = project.collector.get(owner)
    if item is None:
        return None
    return next(((item, part) for part in PARTS if part == name and item.apart(part)), None)


def with_apart(project: Project, item: Collector, part: PartName, body: Apart | None) -> Project:
    """The project with a separator or filter of a collector standing by itself so, or not."""
    if part == "separator" and item.separator is not None:
        return changed(project, item.id, separator=item.separator.replaced(apart=body))
    return changed(project, item.id, filter=item.filter.replaced(apart=body))


def _part_moved(project: Project, item: Collector, part: PartName, dx: float, dy: float) -> Project:
    body = item.apart(part)
    assert body is not None
    # As the fan sees it, which may be turned.
    right, back = standing(0.0, 0.0, -item.turn, dx, dy)
    new = body.replaced(dx=round(body.dx + right, 4), dy=round(body.dy + back, 4))
    return with_apart(project, item, part, new)


def _with_its_openings_moved(project: Project, room: Room, there: Callable[[XY], XY]) -> Project:
    """The project with what is in a room's walls, and in no other's, brought to where they go."""
    others = walls_of(other for other in project.rooms if other.id != room.id)

    # An opening in a wall that two rooms share stays for the other one.
    def goes(*places: XY) -> bool:
        mine = any(
            all(off_line(p, *wall) < ON_WALL for p in places) for wall in walls(room.outline)
        )
        return mine and not any(
            all(off_line(p, *wall) < ON_WALL for p in places) for wall in others
        )

    openings = tuple(
        o.replaced(start=there(o.start), end=there(o.end)) if goes(o.start, o.end) else o
        for o in project.openings
    )
    outlets = []
    for outlet in project.outlets:
        x, y = there((outlet.x, outlet.y)) if goes((outlet.x, outlet.y)) else (outlet.x, outlet.y)
        outlets.append(outlet.replaced(x=x, y=y))
    return project.replaced(openings=openings, outlets=tuple(outlets))


def fresh_id(project: Project, wanted: str, besides: Iterable[str] = ()) -> str:
    """An id like `wanted` that nothing in the project has yet, nor any `besides`."""
    base = re.sub(r"[^a-z0-9]+", "-", wanted.lower()).strip("-")[:50] or "thing"
    taken = _taken(project).union(besides)
    if base not in taken:
        return base
    return next(f"{base}-{n}" for n in range(2, 10_000) if f"{base}-{n}" not in taken)


def _ids(project: Project) -> frozenset[str]:
    """Every id that is taken, in kept designs too, so that one can always be brought back."""
    kept = (
        getattr(kept_design, part)
        for kept_design in project.kept_designs
        for part in Design.model_fields
    )
    own = (getattr(project, name) for name in (*LISTS, "kept_designs"))
    return frozenset([item.id for items in (*own, *kept) for item in items])


# What connects a pickup asks for a dozen new ids.
_taken = OfLast(_ids)


def added(project: Project, *items: Value) -> Project:
    """The project with elements added, each to the list of its kind."""
    lists: dict[str, tuple[Any, ...]] = {}
    for item in items:
        name = _HOME[type(item).__name__]
        lists[name] = (*lists.get(name, getattr(project, name)), item)
    return project.replaced(**lists)


_HOME = {
    "Room": "rooms",
    "Opening": "openings",
    "Beam": "beams",
    "Feature": "features",
    "Circuit": "circuits",
    "Outlet": "outlets",
    "Machine": "machines",
    "Collector": "collectors",
    "Point": "points",
    "Run": "runs",
    "Gate": "gates",
}


def removed(project: Project, idents: Iterable[str]) -> Project:
    """The project without some elements, and without what cannot be without them.

    Runs to them go, with their gates, the joints where nothing meets any more, and the outlets of a
    circuit that goes. Raises `RefusedEdit` for the last room.
    """
    gone = {ident for ident in idents if "/" not in ident}
    if gone >= {room.id for room in project.rooms}:
        raise RefusedEdit(
            called(project, project.rooms[0].id), "taking it away", "a shop keeps at least one room"
        )
    runs = runs_without(project, gone)
    gone |= project.run.keys() - {run.id for run in runs}
    # A joint goes with the last run that it held; one that held nothing stays.
    gone |= project.point.keys() & (ends_of(project.runs) - ends_of(runs))
    gone |= {gate.id for gate in project.gates if gate.run in gone}
    gone |= {outlet.id for outlet in project.outlets if outlet.circuit in gone}
    lists: dict[str, tuple[Any, ...]] = {}
    for name in LISTS:
        lists[name] = tuple(i for i in getattr(project, name) if i.id not in gone)
    lists["runs"] = runs
    lists["gates"] = tuple(_forgetting(gate, gone) for gate in lists["gates"])
    for name in ("machines", "collectors"):
        lists[name] = tuple(_unplugged(item, gone) for item in lists[name])
    for name in ("machines", "collectors", "features"):
        lists[name] = tuple(_set_down(project, item, gone) for item in lists[name])
    return project.replaced(**lists)


def runs_without(project: Project, gone: set[str]) -> tuple[Run, ...]:
    """The runs that stay without some elements and pickups; a moved hose stays for the pickups that
    are left of those it serves.
    """
    ends = gone | {ref for ref, (machine, _) in project.pickup.items() if machine.id in gone}
    runs = []
    for run in project.runs:
        serves = tuple(ref for ref in run.serves if ref not in ends)
        if run.id in gone or run.end in ends or not serves:
            continue
        as_it_was = serves == run.serves
        runs.append(run if as_it_was else run.replaced(start=serves[0], also_serves=serves[1:]))
    return tuple(runs)


def _unplugged(item: Machine | Collector, gone: set[str]) -> Machine | Collector:
    return item.replaced(circuit=None) if item.circuit in gone else item


def _set_down(project: Project, item: Any, gone: set[str]) -> Any:
    """Something whose host goes: what stood on it comes to stand on the floor."""
    if item.host not in gone:
        return item
    if isinstance(item, Machine) and item.turns:
        return item.replaced(host=None, turns=False)
    host = host_of(project, item)
    on = host is not None and relation(host, item) == "on"
    if not on:
        return item.replaced(host=None)
    if isinstance(item, Feature) and item.top is not None:
        return item.replaced(host=None, bottom=0.0, top=item.top - item.bottom)
    return item.replaced(host=None, bottom=0.0)


def _forgetting(gate: Gate, gone: set[str]) -> Gate:
    if gone.isdisjoint(gate.also_open_for):
        return gate
    return gate.replaced(
        also_open_for=tuple(machine for machine in gate.also_open_for if machine not in gone)
    )


def moved_all(project: Project, idents: Iterable[str], dx: float, dy: float) -> Project:
    """The project with several elements moved by (dx, dy) m; what cannot be moved alone stays."""
    wanted = list(idents)
    for ident in wanted:
        # A guest goes with its host: it is not moved twice.
        if movable(project, ident) and not _carried(project, ident, wanted):
            project = moved(project, ident, dx, dy)
    return project


def _carried(project: Project, ident: str, wanted: list[str]) -> bool:
    """Whether something stands, over others too, on, under or in one of some things."""
    here = getattr(project.element.get(ident), "host", None)
    while here is not None:
        if here in wanted:
            return True
        here = getattr(project.element.get(here), "host", None)
    return False


def movable(project: Project, ident: str) -> bool:
    """Whether an element can be moved on its own."""
    item = project.element.get(ident)
    return (
        "/parked-" in ident
        or "/end-" in ident
        or part_of(project, ident) is not None
        or isinstance(item, Machine | Collector | Point | Feature | Beam | Opening | Outlet | Room)
    )


def aligned(project: Project, idents: Iterable[str], axis: Literal["x", "y"]) -> Project:
    """The project with machines and collectors brought onto one line: all get the first one's x or
    y.
    """
    items = [
        project.element[i]
        for i in idents
        if isinstance(project.element.get(i), Machine | Collector)
    ]
    for item in items[1:]:
        project = changed(project, item.id, **{axis: getattr(items[0], axis)})
    return project


def turned(project: Project, idents: Iterable[str], degrees: float) -> Project:
    """The project with machines and collectors turned by degrees anticlockwise."""
    wanted = list(idents)
    for ident in wanted:
        item = project.element.get(ident)
        named = part_of(project, ident)
        if named is not None and (body := named[0].apart(named[1])) is not None:
            new = body.replaced(turn=(body.turn + degrees) % 360)
            project = with_apart(project, *named, new)
        if isinstance(item, Machine | Collector) and not _carried(project, ident, wanted):
            project = changed(project, ident, turn=(item.turn + degrees) % 360)
    return project


def placed(
    project: Project, body: MachineBody, x: float, y: float, turn: float = 0.0
) -> tuple[Project, str]:
    """The project with a machine of the catalogue stood at a place, and its id."""
    ident = fresh_id(project, body.name)
    names = {machine.name for machine in project.machines}
    own = local_body(body, project.settings.units)
    name = own.name if own.name not in names else f"{own.name} {ident.rpartition('-')[2]}"
    fields = {key: getattr(own, key) for key in MachineBody.model_fields} | {"name": name}
    machine = Machine(**fields, id=ident, x=round(x, 4), y=round(y, 4), turn=turn)
    return added(project, machine), ident


def parked(project: Project, machine: str, dx: float, dy: float) -> Project:
    """The project with one parked place more for a machine, (dx, dy) m from where it works; it gets
    wheels.
    """
    item = project.machine[machine]
    place = ParkedPlace(x=round(item.x + dx, 4), y=round(item.y + dy, 4), turn=item.turn)
    return changed(project, machine, parked=(*item.parked, place), wheels=True)


def unparked(project: Project, refs: Iterable[str]) -> Project:
    """The project without some parked places, each given as "machine/parked-1"."""
    for ref in sorted(refs, reverse=True):
        owner, _, number = ref.partition("/parked-")
        if number:
            places = project.machine[owner].parked
            kept = tuple(place for i, place in enumerate(places, 1) if i != int(number))
            project = changed(project, owner, parked=kept)
    return project

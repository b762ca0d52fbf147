"""Copies of things, within a shop and from one into another: rooms with what is in their walls,
furniture, beams, machines, collectors, and ducts with their gates.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.edits import added, fresh_id, moved
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.places import position
from grey_current.shop.room import ON_WALL, Beam, Feature, Opening, Outlet, Room, off_line, walls
from grey_current.shop.values import XY

Copyable = Machine | Feature | Beam | Collector
# m by which a copy stands off what it is a copy of.
BESIDE = (0.3, -0.3)
# m that a copied room stands clear of the others.
ROOM_APART = 1.0


@dataclass(frozen=True)
class Clip:
    """What was copied, as it was then.

    Attributes:
        rooms: Rooms, with `openings` and `outlets` in their walls.
        items: What stands in a room.
        runs: Ducts and hoses, with the `points` at their ends and their `gates`; an end at what was
            not copied is a point of its own.
    """

    rooms: tuple[Room, ...] = ()
    openings: tuple[Opening, ...] = ()
    outlets: tuple[Outlet, ...] = ()
    items: tuple[Copyable, ...] = ()
    points: tuple[Point, ...] = ()
    runs: tuple[Run, ...] = ()
    gates: tuple[Gate, ...] = ()

    def __bool__(self) -> bool:
        return bool(self.rooms or self.items or self.runs)


def clip_of(project: Project, chosen: Iterable[str]) -> Clip:
    """What is copied of some chosen things. Raises nothing; what cannot be copied is left out."""
    wanted = set(chosen)
    rooms = tuple(room for room in project.rooms if room.id in wanted)
    items = tuple(
        item
        for ident in project.element
        if ident in wanted and isinstance(item := project.element[ident], Copyable)
    )
    runs, points = _ducts(project, wanted, {item.id for item in items})
    mine = {run.id for run in runs}
    return Clip(
        rooms,
        tuple(o for o in project.openings if _in_walls(rooms, o.start, o.end)),
        tuple(o for o in project.outlets if _in_walls(rooms, (o.x, o.y))),
        items,
        points,
        runs,
        tuple(gate for gate in project.gates if gate.run in mine),
    )


def _in_walls(rooms: Iterable[Room], *places: XY) -> bool:
    return any(
        all(off_line(place, *wall) < ON_WALL for place in places)
        for room in rooms
        for wall in walls(room.outline)
    )


def _ducts(
    project: Project, wanted: set[str], items: set[str]
) -> tuple[tuple[Run, ...], tuple[Point, ...]]:
    """The chosen runs, and the points at their ends; where a machine or collector is not copied
    too, a point takes its place.
    """
    points: dict[str, Point] = {}

    def end_of(ref: str) -> str:
        if ref in project.point:
            points[ref] = project.point[ref]
            return ref
        if ref.partition("/")[0] in items:
            return ref
        x, y, height = position(project, ref)
        ident = f"{ref.replace('/', '-')}-end"
        points[ident] = Point(id=ident, x=x, y=y, height=max(height, 0.0))
        return ident

    runs = []
    for run in project.runs:
        if run.id in wanted:
            others = tuple(ref for ref in run.also_serves if ref.partition("/")[0] in items)
            ends = {"start": end_of(run.start), "end": end_of(run.end)}
            runs.append(run.replaced(also_serves=others, **ends))
    return tuple(runs), tuple(points.values())


def pasted(project: Project, clip: Clip) -> tuple[Project, tuple[str, ...]]:
    """The project with copies of what was copied, and their ids.

    A copy stands beside what it is a copy of, with its parked places and a name of its own; where
    that is gone, as after cutting or in another shop, it stands in its place. A room stands clear
    of the others. Its circuit goes with a machine while there is one, and its host while that is
    copied too or there.
    """
    project, rooms = _with_rooms(project, clip)
    twins: dict[str, str] = {}
    for item in clip.items:
        project, twins[item.id] = _with_twin(project, item, twins)
    project, runs = _with_ducts(project, clip, twins)
    return project, (*rooms, *twins.values(), *runs)


def _with_rooms(project: Project, clip: Clip) -> tuple[Project, tuple[str, ...]]:
    made: list[str] = []
    if not clip.rooms:
        return project, ()
    # To the right of all that is there, the copied ones as they stood to each other.
    right = max((x for room in project.rooms for x, _ in room.outline), default=-ROOM_APART)
    left = min(x for room in clip.rooms for x, _ in room.outline)
    by = round(right + ROOM_APART - left, 4)
    for room in clip.rooms:
        twin = room.replaced(
            id=fresh_id(project, room.id),
            name=_fresh_name(project, room.name),
            outline=tuple((round(x + by, 4), y) for x, y in room.outline),
        )
        project = added(project, twin)
        made.append(twin.id)
    for opening in clip.openings:
        (ax, ay), (bx, by_) = opening.start, opening.end
        project = added(
            project,
            opening.replaced(
                id=fresh_id(project, opening.id),
                start=(round(ax + by, 4), ay),
                end=(round(bx + by, 4), by_),
            ),
        )
    circuits = {circuit.id for circuit in project.circuits}
    for outlet in clip.outlets:
        if outlet.circuit in circuits:
            twin_id = fresh_id(project, outlet.id)
            project = added(project, outlet.replaced(id=twin_id, x=round(outlet.x + by, 4)))
    return project, tuple(made)


def _with_twin(project: Project, item: Copyable, twins: dict[str, str]) -> tuple[Project, str]:
    """The project with one copy, and its id; `twins` are those that are there already."""
    twin = item.replaced(id=fresh_id(project, item.id))
    circuits = {circuit.id for circuit in project.circuits}
    if not isinstance(twin, Beam | Feature) and twin.circuit not in circuits:
        twin = twin.replaced(circuit=None)
    host = getattr(twin, "host", None)
    if host is not None and not isinstance(twin, Beam):
        at = twins.get(host, host if host in project.element else None)
        # Without what it stood on it stands on the floor.
        twin = twin.replaced(host=at) if at is not None else twin.replaced(host=None, bottom=0.0)
    # After cutting it takes the place of what is gone; else it stands beside it.
    if item.id not in project.element:
        return added(project, twin), twin.id
    return _beside(project, twin), twin.id


def _beside(project: Project, twin: Copyable) -> Project:
    if not isinstance(twin, Beam):
        twin = twin.replaced(name=_fresh_name(project, twin.name))
    if isinstance(twin, Machine):
        places = tuple(p.replaced(x=p.x + BESIDE[0], y=p.y + BESIDE[1]) for p in twin.parked)
        twin = twin.replaced(parked=places)
    return moved(added(project, twin), twin.id, *BESIDE)


def _with_ducts(
    project: Project, clip: Clip, twins: dict[str, str]
) -> tuple[Project, tuple[str, ...]]:
    """The project with copies of ducts, ends and gates, and the ids of the runs."""
    if not clip.runs:
        return project, ()
    here = any(run.id in project.run for run in clip.runs)
    dx, dy = BESIDE if here else (0.0, 0.0)
    names = dict(twins)
    for point in clip.points:
        names[point.id] = fresh_id(project, point.id)
        place = {"x": round(point.x + dx, 4), "y": round(point.y + dy, 4)}
        project = added(project, point.replaced(id=names[point.id], **place))

    def end_of(ref: str) -> str:
        owner, slash, pickup = ref.partition("/")
        return f"{names[owner]}{slash}{pickup}"

    made: list[str] = []
    runs: list[Run] = []
    for run in clip.runs:
        names[run.id] = fresh_id(project, run.id, made)
        made.append(names[run.id])
        others = tuple(end_of(ref) for ref in run.also_serves)
        ends = {"start": end_of(run.start), "end": end_of(run.end)}
        # The copies of one hose are one hose of their own.
        hose = None if run.one_hose is None else f"{run.one_hose}, {made[0]}"[-60:]
        runs.append(run.replaced(id=names[run.id], also_serves=others, one_hose=hose, **ends))
    # All at once: a run alone may lead nowhere.
    project = added(project, *runs)
    for gate in clip.gates:
        known = tuple(names[m] for m in gate.also_open_for if m in names)
        twin = gate.replaced(
            id=fresh_id(project, gate.id), run=names[gate.run], also_open_for=known
        )
        project = added(project, twin)
    return project, tuple(made)


def _fresh_name(project: Project, name: str) -> str:
    """A name like another that nothing in the project has yet: "Saw 2"; the name itself where it is
    free.
    """
    taken = {getattr(item, "name", "").lower() for item in project.element.values()}
    if name.lower() not in taken:
        return name
    base = re.sub(r" \d+$", "", name)[:110]
    return next(f"{base} {n}" for n in range(2, 10_000) if f"{base} {n}".lower() not in taken)

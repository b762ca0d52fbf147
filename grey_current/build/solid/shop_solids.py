"""Everything of a shop in space: which solid is what, and whose."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
import shapely.ops

from grey_current.build.solid.body_shapes import (
    apart_shape,
    beam_shape,
    collector_shape,
    feature_shape,
    floor_shape,
    opening_shapes,
    person_shape,
    wall_shapes,
)
from grey_current.build.solid.duct_shapes import hose_radii, part_shape
from grey_current.build.solid.machine_shapes import machine_shape
from grey_current.build.solid.mesh import SIDES, Mesh, cuboid, tube
from grey_current.build.solid.tones import Tone
from grey_current.build.steps import Step
from grey_current.design.parts.assembly import Assembly, PlacedPart
from grey_current.design.space.outlines import plan
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine, MachineBody
from grey_current.shop.model import Project
from grey_current.shop.places import (
    XY,
    XYZ,
    all_bodies,
    footprint,
    hung_at,
    lead_ends,
    lies_over,
    parts_apart,
    position,
)
from grey_current.shop.roofs import ceiling_at
from grey_current.shop.room import FLAT, Opening, Room, within

# m that a thing goes up which stands in no room. Allowance.
OUTSIDE = 2.4
# m that the hose between a fan and what stands beside it rises over both. Allowance.
LEAD_RISE = 0.12
# m that a port stands out of its machine's body, where nothing else is there.
PORT = 0.06
# m from a wall and between places that are tried for the person; how much room one takes.
STEP, ROOM = 0.3, 0.35
# m from a hanger to the next, and how thick its rod is.
ROD = 0.008


@dataclass(frozen=True, eq=False)
class Solid:
    """A body in space.

    Attributes:
        element: Whose it is: the id of a machine, run, gate, collector or thing; "" for the
            building's own walls and floor.
        part: The id of the part of the assembly that it is; "" for what is none.
        one_sided: It is seen from its front only: a wall, which is not there from behind.
    """

    element: str
    tone: Tone
    mesh: Mesh
    part: str = ""
    one_sided: bool = False


def shop_solids(
    project: Project, assembly: Assembly, open_gates: frozenset[str] = frozenset()
) -> tuple[Solid, ...]:
    """All solids of a shop as it stands. Raises nothing."""
    return (
        *building_solids(project),
        *standing_solids(project),
        *duct_solids(project, assembly, open_gates),
    )


def building_solids(project: Project) -> Iterator[Solid]:
    """Floors, walls, doors, beams and what stands in the rooms."""
    for room in project.rooms:
        yield from (Solid("", tone, mesh) for tone, mesh in _floor(room))
        for mesh in _walls(room, project.openings):
            if len(mesh.faces):
                yield Solid("", "wall", mesh, one_sided=True)
        for opening in project.openings:
            for tone, mesh in opening_shapes(room, opening):
                yield Solid(opening.id, tone, mesh, one_sided=True)
    for beam in project.beams:
        middle = ((beam.start[0] + beam.end[0]) / 2, (beam.start[1] + beam.end[1]) / 2)
        shape = beam_shape(beam, _room_at(project, middle))
        yield from (Solid(beam.id, tone, mesh) for tone, mesh in shape)
    for item in project.features:
        if item.away:
            continue
        around = _room_at(project, item.outline[0])
        ceiling = OUTSIDE if around is None else ceiling_at(around, item.outline[0])
        yield from (Solid(item.id, tone, mesh) for tone, mesh in feature_shape(item, ceiling))


@lru_cache(maxsize=64)
def _floor(room: Room) -> tuple[tuple[Tone, Mesh], ...]:
    return tuple(floor_shape(room))


@lru_cache(maxsize=64)
def _walls(room: Room, openings: tuple[Opening, ...]) -> tuple[Mesh, ...]:
    return tuple(wall_shapes(room, openings))


def _room_at(project: Project, place: XY) -> Room | None:
    return next((room for room in project.rooms if within(place, room.outline)), None)


def standing_solids(project: Project) -> Iterator[Solid]:
    """Machines with their ports, collectors, and somebody beside them."""
    for machine in project.machines:
        for tone, mesh in machine_shape(_body_of(machine)):
            placed = mesh.placed(machine.x, machine.y, machine.turn, machine.bottom)
            yield Solid(machine.id, tone, placed)
        for pickup in machine.pickups:
            yield Solid(
                machine.id, "steel", _port(project, f"{machine.id}/{pickup.id}", pickup.port)
            )
    for item in project.collectors:
        for tone, mesh in collector_shape(item):
            yield Solid(item.id, tone, mesh.placed(item.x, item.y, item.turn, item.bottom))
        yield from _parts_apart(item)
    at = person_place(project)
    if at is not None:
        for tone, mesh in person_shape(project.settings.tall):
            yield Solid("", tone, mesh.placed(*at, 0.0))


def _parts_apart(item: Collector) -> Iterator[Solid]:
    """What stands by itself of a collector, each with its hose over to the fan."""
    for part, body in parts_apart(item):
        is_cone = item.separator is not None and "cyclone" in item.separator.kind
        own = body.model_copy(update={"x": 0.0, "y": 0.0, "turn": 0.0, "bottom": 0.0})
        for tone, mesh in apart_shape(own, part, is_cone=is_cone):
            yield Solid(item.id, tone, mesh.placed(body.x, body.y, body.turn, body.bottom))
        known = item.apart(part)
        assert known is not None
        a, b = lead_ends(item, part)
        # Up from the top, over in one sweep, and down to the fan.
        high = max(a[2], b[2]) + LEAD_RISE
        path = [a, (a[0], a[1], high), (b[0], b[1], high), b]
        yield Solid(item.id, "hose", tube(path, (known.hose or known.port) / 2))


@lru_cache(maxsize=512)
def _body_of(machine: Machine) -> MachineBody:
    """What a machine is wherever it stands: its shape is made once."""
    return MachineBody.model_construct(
        **{name: getattr(machine, name) for name in MachineBody.model_fields}
    )


def _port(project: Project, ref: str, bore: float) -> Mesh:
    """A port as a short stub through its place, towards its machine's middle."""
    machine, _ = project.pickup[ref]
    at = position(project, ref)
    way = np.array([machine.x - at[0], machine.y - at[1], 0.0])
    far = float(np.linalg.norm(way))
    way = way / far if far > 0.05 else np.array([0.0, 0.0, -1.0])
    inner = np.array(at) + way * PORT
    return tube([at, (float(inner[0]), float(inner[1]), float(inner[2]))], bore / 2 + 0.002)


def person_place(project: Project) -> XY | None:
    """Where somebody stands: the free place next to a door, or next to the middle of the first
    room; None where there is none.
    """
    if not project.rooms:
        return None
    room = project.rooms[0]
    outline = plan(room.outline)
    taken = [plan(footprint(item)) for item in all_bodies(project)]
    taken += [plan(f.outline) for f in project.features if f.kind not in FLAT and f.bottom < 2.0]
    free = outline.buffer(-ROOM).difference(shapely.union_all(taken).buffer(ROOM))
    if free.is_empty:
        return None
    doors = [item for item in project.openings if item.kind != "window"]
    beside = (
        shapely.Point(
            (doors[0].start[0] + doors[0].end[0]) / 2, (doors[0].start[1] + doors[0].end[1]) / 2
        )
        if doors
        else outline.centroid
    )
    near = shapely.ops.nearest_points(free, beside)[0]
    return float(near.x), float(near.y)


def duct_solids(
    project: Project, assembly: Assembly, open_gates: frozenset[str] = frozenset()
) -> Iterator[Solid]:
    """Every part of the ductwork, and the hangers that hold level duct."""
    for part in assembly.parts:
        yield from part_solids(project, part, open_gates)
    yield from _hangers(project)


def up_by_now(solids: Iterable[Solid], steps: Sequence[Step]) -> list[Solid]:
    """What stands when so many steps are done: of the ductwork only their parts, with the hangers
    of what is up.
    """
    parts = {part for step in steps for part in step.parts}
    runs = {step.run for step in steps}
    return [
        solid
        for solid in solids
        if (solid.part in parts if solid.part else solid.tone != "hanger" or solid.element in runs)
    ]


def part_solids(
    project: Project, part: PlacedPart, open_gates: frozenset[str] = frozenset()
) -> Iterator[Solid]:
    """The solids of one part of the assembly."""
    gate = part.kind == "gate"
    element = part.id if gate and part.id in project.gate else part.run
    run = project.run.get(part.run)
    if part.kind == "hose" and run is not None and hung_at(run) is not None:
        a, b = part.ends[0], part.ends[1]
        path = _rounded(lies_over(a.at, b.at, run))
        radii = hose_radii(a.bore)[1:3]
        ribs = [a.bore / 2, *itertools.islice(itertools.cycle(radii), len(path) - 2), a.bore / 2]
        yield Solid(element, "hose", tube(path, ribs, sides=SIDES - 4), part.id)
        return
    for tone, mesh in part_shape(part, gate and element in open_gates):
        yield Solid(element, tone, mesh, part.id)


def _rounded(corners: Iterable[XYZ], most: float = 0.15) -> list[XYZ]:
    """A way over corners, each cut off by an arc of few places."""
    line = [np.array(place) for place in corners]
    line = [
        place
        for n, place in enumerate(line)
        if n == 0 or np.linalg.norm(place - line[n - 1]) > 1e-6
    ]
    found = [line[0]]
    for before, here, after in zip(line, line[1:], line[2:], strict=False):
        cut = min(most, *(float(np.linalg.norm(here - o)) / 2 for o in (before, after)))
        p = here + (before - here) * (cut / float(np.linalg.norm(before - here)))
        q = here + (after - here) * (cut / float(np.linalg.norm(after - here)))
        found += [
            (1 - t) ** 2 * p + 2 * t * (1 - t) * here + t**2 * q for t in (0, 0.25, 0.5, 0.75, 1)
        ]
    found.append(line[-1])
    steps = [found[0]]
    for place in found[1:]:
        gap = float(np.linalg.norm(place - steps[-1]))
        count = max(math.ceil(gap / 0.12), 1)
        steps += [steps[-1] + (place - steps[-1]) * (n / count) for n in range(1, count + 1)]
    return [(float(p[0]), float(p[1]), float(p[2])) for p in steps]


def _hangers(project: Project) -> Iterator[Solid]:
    """A rod from the ceiling over the middle of each long level duct."""
    for run in project.runs:
        if run.material.endswith("hose"):
            continue
        a, b = position(project, run.start), position(project, run.end)
        far = math.dist(a[:2], b[:2])
        if far < 0.6 or abs(a[2] - b[2]) > 0.3 * far:
            continue
        x, y, z = ((p + q) / 2 for p, q in zip(a, b, strict=True))
        room = _room_at(project, (x, y))
        high = ceiling_at(room, (x, y)) if room is not None else z
        if high - z > run.diameter / 2 + 0.02:
            low = z + run.diameter / 2
            rod = cuboid((x - ROD, y - ROD, low), (x + ROD, y + ROD, high))
            yield Solid(run.id, "hanger", rod)

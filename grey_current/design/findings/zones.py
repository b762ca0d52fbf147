"""Zones that the user has set aside: what stands in a clean one, what stands out of a dusty or a
noisy one, and what a clean one can not keep out.
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import shapely

from grey_current.design.collector.noise import PROTECT_FROM, USUAL
from grey_current.design.findings.finding import Finding, Found, Inspection, Rule
from grey_current.design.space.ground import ELSEWHERE
from grey_current.design.space.outlines import ground_of, plan
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine
from grey_current.shop.names import Names
from grey_current.shop.room import Feature, Room

# The share of its ground with which something stands in a zone.
INSIDE = 0.5


def clean_zones(inspection: Inspection) -> Found:
    """What makes dust in a clean zone, and in the same air."""
    project, names = inspection.project, inspection.names
    for zone in _zones(inspection, "clean zone"):
        inside = [item for item in _standing(inspection) if _stands_in(item, plan(zone.outline))]
        for item in inside:
            yield Finding(
                "in-clean-zone",
                "warning",
                item.id,
                f"{item.name}: stands in the {zone.name.lower()}.",
                also=(zone.id,),
                remedies=("Move it out, or make the zone smaller.",),
            )
        room = _room_of(inspection, zone)
        dusty = [
            machine.id
            for machine in project.machines
            if machine.cutter == "abrasive" and machine not in inside and _is_in(machine, room)
        ]
        if room is not None and dusty:
            yield Finding(
                "clean-zone-air",
                "note",
                zone.id,
                f"{zone.name}: its air is the {room.name.lower()}'s, so that what "
                f"floats from {_several(names, dusty)} is here within minutes.",
                also=tuple(dusty),
                remedies=(
                    "Finish when the air is clean (Work, When to varnish), or put a wall with a "
                    "tight door between.",
                ),
            )
        yield None


def own_zones(inspection: Inspection) -> Found:
    """What makes much dust or noise and stands out of the zone for that."""
    dusty, noisy = (_zones(inspection, kind) for kind in ("dusty zone", "noisy zone"))
    for_dust, for_noise = (inspection.space.zoned(kind) for kind in ("dusty zone", "noisy zone"))
    for item in _standing(inspection) if dusty or noisy else ():
        sands = isinstance(item, Machine) and item.cutter == "abrasive"
        level = item.noise or (USUAL if isinstance(item, Collector) else 0.0)
        if dusty and sands and not _stands_in(item, for_dust):
            yield Finding(
                "out-of-zone",
                "note",
                item.id,
                f"{item.name}: it sands, and stands outside the {dusty[0].name.lower()}.",
                also=(dusty[0].id,),
                remedies=("Move it there, or make the zone larger.",),
            )
        elif noisy and level >= PROTECT_FROM and not _stands_in(item, for_noise):
            yield Finding(
                "out-of-zone",
                "note",
                item.id,
                f"{item.name}: {level:.0f} dB(A) beside it, and it stands outside the "
                f"{noisy[0].name.lower()}.",
                level,
                PROTECT_FROM,
                also=(noisy[0].id,),
                remedies=("Move it there, or make the zone larger.",),
            )
        yield None


def _several(names: Names, machines: list[str]) -> str:
    """One machine by its name, or the first of several and how many more there are."""
    first, rest = names.of(machines[0]), len(machines) - 1
    if not rest:
        return first
    return f"{first} and {rest} other sander{'s' if rest > 1 else ''}"


def _zones(inspection: Inspection, kind: str) -> list[Feature]:
    return [f for f in inspection.project.features if f.kind == kind and not f.away]


def _standing(inspection: Inspection) -> Iterator[Machine | Collector]:
    """What stands in these rooms."""
    project = inspection.project
    yield from project.machines
    yield from (item for item in project.collectors if item.stands not in ELSEWHERE)


def _stands_in(item: Machine | Collector, zoned: Any) -> bool:
    """Whether something stands on the ground of zones."""
    ground = ground_of(item)
    return bool(ground.intersection(zoned).area > INSIDE * ground.area)


def _room_of(inspection: Inspection, zone: Feature) -> Room | None:
    """The room in which most of a zone lies."""
    ground = plan(zone.outline)
    rooms = [
        (plan(room.outline).intersection(ground).area, room) for room in inspection.project.rooms
    ]
    area, room = max(rooms, key=lambda found: found[0])
    return room if area > 0 else None


def _is_in(machine: Machine, room: Room | None) -> bool:
    return room is not None and bool(
        shapely.intersects_xy(plan(room.outline), machine.x, machine.y)
    )


RULES: tuple[Rule, ...] = (clean_zones, own_zones)

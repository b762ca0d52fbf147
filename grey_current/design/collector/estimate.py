"""A rough way for air where no duct is drawn yet: along the walls from the collector to each
pickup.

Everything here is an estimate, and every result made from it says so.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from grey_current.air import fittings, laws, pieces
from grey_current.air.gas import Air
from grey_current.air.network import Branch, Network
from grey_current.air.pieces import Piece
from grey_current.design.flow import fittings as make
from grey_current.shop.catalogue import materials, size_for_port
from grey_current.shop.duct_edits import DEFAULT_MATERIAL, main_height
from grey_current.shop.model import Project
from grey_current.shop.places import XY, position
from grey_current.shop.room import walls

# m of hose at the machine. Allowance.
HOSE = 1.0
# Elbows between a pickup and the collector's inlet. Allowance.
ELBOWS = 4
# K of the branch's entry into the main. Allowance.
WYE_K = 0.3


def assumed_place(project: Project) -> XY:
    """Where a collector would stand that is not there yet: the room's corner nearest to all pickups
    (m).
    """
    ports = [position(project, ref)[:2] for ref in project.pickup]
    return min(
        project.corners, key=lambda corner: sum(math.dist(corner, nearest) for nearest in ports)
    )


def path_along_walls(project: Project, a: XY, b: XY) -> float:
    """Length (m) of a way from one place to another along the walls of the room, or straight where
    that is longer.
    """
    best = math.inf
    for room in project.rooms:
        sides = walls(room.outline)
        starts = [0.0]
        for p, q in sides:
            starts.append(starts[-1] + math.dist(p, q))
        around = starts[-1]
        (from_a, out_a), (from_b, out_b) = _onto(sides, starts, a), _onto(sides, starts, b)
        along = abs(from_a - from_b)
        best = min(best, out_a + out_b + min(along, around - along))
    return max(best, math.dist(a, b))


def _onto(sides: list[tuple[XY, XY]], starts: list[float], place: XY) -> tuple[float, float]:
    """Where on the walls a place is nearest: m along them, and m away."""
    found = (0.0, math.inf)
    for (p, q), start in zip(sides, starts, strict=False):
        length = math.dist(p, q) or 1.0
        along = ((place[0] - p[0]) * (q[0] - p[0]) + (place[1] - p[1]) * (q[1] - p[1])) / length
        along = min(max(along, 0.0), length)
        nearest = (p[0] + (q[0] - p[0]) * along / length, p[1] + (q[1] - p[1]) * along / length)
        away = math.dist(nearest, place)
        if away < found[1]:
            found = (start + along, away)
    return found


def rough_network(
    project: Project, ref: str, collector: str | None, end: Sequence[Piece], air: Air
) -> Network:
    """A network of one branch from a pickup to `end`, the pieces at and behind the collector's
    inlet.

    Hose at the machine, a drop from under the beams, elbows, a wye, and duct along the walls in the
    next pipe size that takes the port. Raises nothing.
    """
    machine, pickup = project.pickup[ref]
    place = position(project, collector)[:2] if collector else assumed_place(project)
    here = position(project, ref)
    size = size_for_port(project, pickup.port)
    drop = abs(main_height(project, size) - here[2])
    # Along the walls at the main's height, up from the port and down to the inlet.
    length = path_along_walls(project, here[:2], place) + 2 * drop
    rough, hose = materials()[DEFAULT_MATERIAL].roughness, materials()["ribbed-hose"].roughness
    friction = fittings.fitting_friction(size, rough)
    elbow = fittings.elbow(size, 90.0, 1.5, friction, "smooth")
    step = make.reducer(f"{ref}/adapter", machine.id, pickup.port, size, rough, True)
    hang = {"hose": True, "rises": False, "forward": True}
    slot = laws.Constant(fittings.GATE_K["stepped"], size)
    turns = laws.Constant(ELBOWS * elbow, size)
    # What a usual branch has: a hose, a gate, some elbows, one wye and straight duct.
    made = [
        *make.pickup(ref, machine.id, pickup, air),
        *([step] if step else []),
        make.straight(f"{ref}/hose", machine.id, HOSE, size, hose, **hang),
        make.hose_bends(machine.id, HOSE, HOSE, size, hose),
        pieces.Piece(f"{ref}/gate", machine.id, slot, size, allowance=True),
        pieces.Piece(f"{ref}/elbows", machine.id, turns, size, allowance=True),
        pieces.Piece(f"{ref}/wye", machine.id, laws.Constant(WYE_K, size), size, allowance=True),
        make.straight(
            f"{ref}/duct", machine.id, length, size, rough, hose=False, rises=True, forward=True
        ),
    ]
    key = (machine.id, pickup.id)
    return Network(
        collector or "",
        (Branch((*made, *end), -1, key),),
        (),
        air,
        (key,) if pickup.own_fan else (),
    )

"""Where a drop may stand beside a port: near it, clear of what stands there, and where no board
passes.
"""

from __future__ import annotations

import numpy as np
import shapely
from numpy.typing import NDArray

from grey_current.design.laying.free_ground import CLEAR
from grey_current.design.laying.inlet import Inlet
from grey_current.design.laying.lattice import Lattice, Start
from grey_current.design.space.clashes import OVER_TABLE, DuctSpace
from grey_current.design.space.outlines import parked, plan
from grey_current.shop.catalogue import size_for_port
from grey_current.shop.machines import Machine, Pickup
from grey_current.shop.places import footprint, position
from grey_current.shop.stacking import table_of, top_of

Array = NDArray[np.float64]
# m from a port within which its drop is looked for; farther only where nearer nothing is free.
REACHES = (0.7, 1.2, 2.0)
# m; a shorter hose cannot be pushed onto both ends.
LEAST_HOSE = 0.15
# m of hose at least where a port swings with its machine, or the machine is rolled. Allowance.
MOVING_HOSE = {"tilts": 0.5, "wheels": 0.6}
# m of duct that a metre of hose is worth. Allowance.
HOSE_COST = 3.0
# m of duct that one would lay rather than let a drop stand where boards pass. Allowance.
IN_LANE = 4.0
# m of height under which there is no drop, and the hose comes off the branch's end.
LEAST_DROP = 0.25


def drop_places(
    lattice: Lattice,
    space: DuctSpace,
    ref: str,
    height: float,
    inlet: Inlet | None,
    bore: float,
    *,
    soft: bool = False,
) -> list[Start]:
    """Nodes at which a pickup's drop may stand, each with its cost (m of duct); none where nothing
    is free.

    `height` is the main's, m. A drop reaches from there to the height of the port, and not through
    the collector's first duct, whose bore (m) is the main's. Where boards pass it stands only where
    there is no other place, or where no way leads to that (`soft`).
    """
    project = space.project
    machine, pickup = project.pickup[ref]
    x, y, low = position(project, ref)
    away = np.hypot(lattice.xy[:, 0] - x, lattice.xy[:, 1] - y) if lattice.nodes else np.zeros(0)
    radius = size_for_port(project, pickup.port) / 2
    # Close to the port first. Only when nothing stands free there, or only in lanes, farther off.
    for reach in REACHES:
        near = np.flatnonzero(away <= reach)
        near = near[_stands_free(lattice.xy[near], space, low, height, radius)]
        near = near[_clear_of_inlet(lattice.xy[near], inlet, low, height, radius + bore / 2)]
        near = near[_hose_free(lattice.xy[near], space, machine, (x, y, low), radius)]
        in_lanes = _in_lanes(lattice.xy[near], space, low, radius)
        if near.size and (not in_lanes.all() or reach == REACHES[-1]):
            if not soft and not in_lanes.all():
                near, in_lanes = near[in_lanes == 0], in_lanes[in_lanes == 0]
            costs = HOSE_COST * _hose(machine, pickup, away[near]) + IN_LANE * in_lanes
            return [Start(int(node), float(cost)) for node, cost in zip(near, costs, strict=True)]
    return []


def _hose(machine: Machine, pickup: Pickup, away: Array) -> Array:
    return np.maximum(away, least_hose(machine, pickup)) + 0.1 * away


def least_hose(machine: Machine, pickup: Pickup) -> float:
    """Length (m) of hose that a port's movement needs."""
    moving = [MOVING_HOSE["tilts"]] if pickup.tilts else []
    moving += [MOVING_HOSE["wheels"]] if machine.wheels else []
    return max([LEAST_HOSE, *moving])


def _stands_free(
    xy: Array, space: DuctSpace, low: float, height: float, radius: float
) -> NDArray[np.bool_]:
    """Where an upright duct from a port's height to the main's goes through nothing, and no machine
    is parked.
    """
    bottom, top = min(low, height), max(low, height)
    free = np.ones(len(xy), dtype=bool)
    if top - bottom < LEAST_DROP or not len(xy):
        return free
    for solid in space.solids:
        if solid.low < top - CLEAR and solid.high > bottom + CLEAR and solid.kind != "window":
            free &= ~shapely.intersects_xy(
                solid.shape.buffer(radius + CLEAR, quad_segs=4), xy[:, 0], xy[:, 1]
            )
    # And where machines are parked, though nothing stands there now.
    for machine in space.project.machines:
        for place in parked(machine) if bottom < top_of(machine) else ():
            ground = plan(footprint(place)).buffer(radius + CLEAR, quad_segs=4)
            free &= ~shapely.intersects_xy(ground, xy[:, 0], xy[:, 1])
    return free


def _clear_of_inlet(
    xy: Array, inlet: Inlet | None, low: float, height: float, apart: float
) -> NDArray[np.bool_]:
    """Where an upright duct does not come down on the first duct, on its way under the main or over
    it.
    """
    if inlet is None or inlet.level or not min(low, height) < inlet.inlet[2] < max(low, height):
        return np.ones(len(xy), dtype=bool)
    lying = shapely.LineString([inlet.inlet[:2], inlet.foot]).buffer(apart, quad_segs=4)
    return np.asarray(~shapely.intersects_xy(lying, xy[:, 0], xy[:, 1]), dtype=np.bool_)


def _hose_free(
    xy: Array, space: DuctSpace, machine: Machine, port: tuple[float, float, float], radius: float
) -> NDArray[np.bool_]:
    """From where a hose reaches the port through nothing but its own machine."""
    free = np.ones(len(xy), dtype=bool)
    if not len(xy):
        return free
    lines = shapely.linestrings(
        np.stack([xy, np.broadcast_to(np.array(port[:2]), xy.shape)], axis=1)
    )
    for solid in space.solids:
        low, high = port[2] - radius, port[2] + radius
        hard = solid.kind in ("thing", "machine") and solid.ident != machine.id
        if hard and solid.low < high and solid.high > low:
            free &= ~shapely.intersects(lines, solid.shape.buffer(radius))
    # In plan first, then with the openings' heights only where a wall is met at all.
    crossed = shapely.intersects(lines, space.walls)
    for number in np.flatnonzero(crossed & free):
        free[number] = not space.wall_between((*xy[number], port[2]), port)
    return free


def _in_lanes(xy: Array, space: DuctSpace, low: float, radius: float) -> Array:
    """1 where boards would meet a drop that comes down to a height, 0 elsewhere."""
    met = np.zeros(len(xy))
    for machine, ground in space.lanes:
        if low < table_of(machine) + OVER_TABLE:
            met = np.maximum(met, shapely.intersects_xy(ground.buffer(radius), xy[:, 0], xy[:, 1]))
    return met

"""Gates that a hand reaches from the floor, and those that want a step, a hook or a lean over the
machine.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import shapely

from grey_current.design.space.outlines import plan
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.ducts import Gate
from grey_current.shop.model import Project
from grey_current.shop.person import reach_up
from grey_current.shop.places import XYZ, footprint, position
from grey_current.shop.stacking import table_of

# m; a lever so far within a machine's outline, above its table, makes one lean over the cutter.
# Allowance.
LEAN = 0.35
# s to reach up and open or shut a gate beside the way, and how many more where a step or a hook is
# to be fetched first. Allowances.
GATE_SECONDS, FETCH_SECONDS = 6.0, 15.0


def lever_place(project: Project, gate: Gate) -> XYZ:
    """Where a gate's lever is (m): on its run's centre line."""
    run = project.run[gate.run]
    (ax, ay, az), (bx, by, bz) = position(project, run.start), position(project, run.end)
    return (ax + (bx - ax) * gate.at, ay + (by - ay) * gate.at, az + (bz - az) * gate.at)


def leaned_over(project: Project, gate: Gate) -> str | None:
    """The machine that one leans over to reach a gate; None where one stands beside it."""
    x, y, height = lever_place(project, gate)
    for machine in project.machines:
        # Nothing so far from its middle lies within its outline: most gates are told by that.
        apart = math.dist((x, y), (machine.x, machine.y))
        if height < table_of(machine) or apart > (machine.width + machine.depth) / 2:
            continue
        outline, spot = plan(footprint(machine)), shapely.Point(x, y)
        if outline.contains(spot) and outline.exterior.distance(spot) > LEAN:
            return machine.id
    return None


def is_out_of_reach(project: Project, gate: Gate) -> bool:
    """Whether a gate that is moved by hand hangs where no hand reaches it from the floor."""
    if gate.rule != "with its machine":
        return False
    high = lever_place(project, gate)[2] > reach_up(project.settings)
    return high or leaned_over(project, gate) is not None


def gate_seconds(project: Project) -> dict[str, float]:
    """For each gate the seconds that opening or shutting it takes."""
    return {
        gate.id: GATE_SECONDS + (FETCH_SECONDS if is_out_of_reach(project, gate) else 0.0)
        for gate in project.gates
    }


def fetching_minutes(project: Project) -> float:
    """Minutes in a week for which steps and hooks are fetched: each use of a machine opens and
    shuts the gates that its air passes.
    """
    return sum(uses for _, uses in _uses_of_high_gates(project)) * 2 * FETCH_SECONDS / 60


def _uses_of_high_gates(project: Project) -> Iterator[tuple[str, float]]:
    """Each gate that is out of reach with how often a week a machine is used behind it."""
    high = {gate.run: gate.id for gate in project.gates if is_out_of_reach(project, gate)}
    if not high:
        return
    paths = AirPaths(project)
    for machine in project.machines:
        refs = {f"{machine.id}/{pickup.id}" for pickup in machine.pickups}
        runs = [run.id for run in project.runs if not refs.isdisjoint(run.touches)]
        for passed in paths.passed(runs):
            if passed in high:
                yield high[passed], machine.uses_per_week

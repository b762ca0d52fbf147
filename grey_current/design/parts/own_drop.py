"""A second hood joined to the drop of its own machine: the shortest way to connect a guard."""

from __future__ import annotations

import math

from grey_current.design.parts.connecting import connected
from grey_current.shop.duct_edits import split, upright
from grey_current.shop.duct_graph import AirPaths, runs_at
from grey_current.shop.ducts import Run
from grey_current.shop.edits import fresh_id
from grey_current.shop.hoses import cut_length
from grey_current.shop.model import Project
from grey_current.shop.places import position

# m of the drop that stay over and under the joint: a wye, and straight pipe to it. Allowance.
FREE = 0.4
# The hose of such a hood: short and smooth, it is moved with the guard.
MATERIAL = "smooth-hose"


def connected_to_own_drop(project: Project, ref: str) -> Project:
    """The project with a pickup joined by a hose to the drop that another pickup of its machine
    has; connected to the nearest main where there is no such drop. Raises as `connected` does.
    """
    machine, pickup = project.pickup[ref]
    port = position(project, ref)
    joints = [
        joint
        for other in machine.pickups
        if other.id != pickup.id
        for joint in _joints(project, f"{machine.id}/{other.id}", port[2])
    ]
    if not joints:
        return connected(project, ref)
    # The joint that is nearest to the port, first of those that are there already.
    there, end = min(joints, key=lambda joint: math.dist(position(joint[0], joint[1]), port))
    ident = fresh_id(there, f"{ref.replace('/', '-')}-hose")
    length = cut_length(there, math.dist(port, position(there, end)))
    hose = Run(id=ident, start=ref, end=end, diameter=pickup.port, material=MATERIAL, length=length)
    return there.replaced(runs=(*there.runs, hose))


def _joints(project: Project, ref: str, height: float) -> list[tuple[Project, str]]:
    """Where a hose can join the drop of a pickup: the project with the joint, and the joint."""
    first = next((run for run in project.runs if ref in run.touches), None)
    if first is None:
        return []
    segment = [project.run[ident] for ident in AirPaths(project).branch_segment(first.id)]
    drop = [run for run in segment if upright(project, run)]
    meeting = runs_at(project)
    between = {run.end for run in drop} & {run.start for run in drop}
    # A joint that is there already, between two pieces of the drop and with nothing else on it.
    found = [(project, point) for point in between if len(meeting[point]) == 2]
    for run in drop:
        low, high = position(project, run.start)[2], position(project, run.end)[2]
        length = abs(high - low)
        if found or length < 2 * FREE:
            continue
        share = (height - low) / (high - low)
        share = min(max(share, FREE / length), 1 - FREE / length)
        found.append(split(project, run.id, share))
    return found

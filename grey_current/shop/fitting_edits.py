"""Edits that put a part into the ductwork: a floor sweep, a second hose, gates' places, sizes
carried on.

Pure functions; what stands where is still inferred from the runs.
"""

from __future__ import annotations

import math
from typing import Literal

from grey_current.errors import RefusedEdit
from grey_current.shop.catalogue import FITS_OVER, machine_models, materials
from grey_current.shop.duct_graph import AirPaths, branch_segment, downstream_ends, far_end, runs_at
from grey_current.shop.ducts import Gate, Run
from grey_current.shop.edits import added, changed, changed_all, fresh_id, placed
from grey_current.shop.hoses import cut_length
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.places import distance, position
from grey_current.shop.roofs import ceiling_at
from grey_current.shop.room import within
from grey_current.units import INCH, Display

# m between a gate and the fitting at its end of the run.
GATE_FROM_END = 0.10
# m of height over a floor sweep below which none is proposed. Allowance.
LEAST_ABOVE_SWEEP = 1.0
# m over the floor that a hose is usually hung at, and under the ceiling at least. Allowances.
USUAL_HOOK, UNDER_CEILING = 2.2, 0.1
SWEEP_MODEL = "Floor sweep"

GatePlace = Literal["at the tool", "at the wye", "both"]


def with_diameter_continued(
    project: Project, run: str, towards: Literal["collector", "machine"]
) -> Project:
    """The project with a run's diameter carried on over rigid runs to the next wye, one way or the
    other.
    """
    chain = branch_segment(project, run)
    here = chain.index(run)
    others = chain[here + 1 :] if towards == "collector" else chain[:here]
    rigid = [ident for ident in others if not materials()[project.run[ident].material].hose]
    return changed_all(project, rigid, diameter=project.run[run].diameter)


def with_sweep(project: Project, point: str) -> tuple[Project, str]:
    """The project with a floor sweep under a main's capped end: drop, gate and sweep, and the
    sweep's id.

    Raises `RefusedEdit` for anything but a free end above the floor.
    """
    end = project.point.get(point)
    meeting = runs_at(project)[point]
    if end is None or len(meeting) != 1:
        raise RefusedEdit(
            called(project, point), "a floor sweep here", "choose the free end of a duct"
        )
    body = next(m.body for m in machine_models() if m.body.name == SWEEP_MODEL)
    pickup = body.pickups[0]
    # There has to be room for the gate above the sweep.
    if end.height - pickup.height < 3 * GATE_FROM_END:
        raise RefusedEdit(
            called(project, point),
            "a floor sweep here",
            "choose an end that is higher above the floor",
        )
    project, sweep = placed(project, body, end.x - pickup.dx, end.y - pickup.dy)
    pattern = meeting[0]
    size = min(pattern.diameter, max(pickup.port, 0.1))
    drop = Run(
        id=fresh_id(project, f"{sweep}-drop"),
        start=f"{sweep}/{pickup.id}",
        end=point,
        diameter=size,
        material=pattern.material,
    )
    project = added(project, drop)
    gate = Gate(id=fresh_id(project, f"gate-{sweep}"), run=drop.id)
    return changed(added(project, gate), point, end="open"), sweep


def with_second_hose(project: Project, ref: str) -> Project:
    """The project with a pickup connected by a hose of its own to where its machine's other hose
    begins.

    A splitter box there joins the two. Raises `RefusedEdit` when the machine has no other hose.
    """
    machine, pickup = project.pickup[ref]
    at = runs_at(project)
    # The other hose's end becomes a box for two.
    for other in machine.pickups:
        for run in at[f"{machine.id}/{other.id}"]:
            end = far_end(run, f"{machine.id}/{other.id}")
            if other.id != pickup.id and materials()[run.material].hose and end in project.point:
                straight = math.dist(position(project, ref), position(project, end))
                length = cut_length(project, straight)
                hose = Run(
                    id=fresh_id(project, f"{machine.id}-{pickup.id}-hose"),
                    start=ref,
                    end=end,
                    diameter=pickup.port,
                    material=run.material,
                    length=length,
                )
                return changed(added(project, hose), end, splitter=True)
    raise RefusedEdit(called(project, ref), "a second hose", "connect its other pickup first")


def usual_hanging(project: Project, run: str) -> float:
    """The height (m) that a hose is usually hung at: out of everybody's way, under the ceiling."""
    top = _ceiling_over(project, run)
    # Down to what a tape reads at a glance.
    step = INCH if project.settings.units == "us" else 0.05
    return math.floor(min(USUAL_HOOK, top - UNDER_CEILING) / step + 1e-6) * step


def _ceiling_over(project: Project, run: str) -> float:
    """The height of the ceiling over a run's end (m); without end outdoors."""
    x, y, _ = position(project, project.run[run].end)
    over = [room for room in project.rooms if within((x, y), room.outline)]
    return min((ceiling_at(room, (x, y)) for room in over), default=math.inf)


def with_hung_hose(project: Project, run: str, height: float | None) -> Project:
    """The project with a hose hung from something at a height (m), or taken down (None), and cut
    to the way that it then has. Raises `RefusedEdit` for a rigid run, and for a height over the
    ceiling there.
    """
    item = project.run[run]
    if not materials()[item.material].hose:
        raise RefusedEdit(called(project, run), "hanging it", "only a hose hangs")
    top = _ceiling_over(project, run)
    if height is not None and height > top:
        most = Display(project.settings.units).length(top)
        raise RefusedEdit(called(project, run), "hanging it so high", f"the ceiling is at {most}")
    hung = changed(project, run, hung=height)
    farthest = max(distance(hung, hung.run[run], ref) for ref in item.serves)
    return changed(hung, run, length=cut_length(hung, farthest))


def with_gate_at(project: Project, gate: str, place: GatePlace) -> Project:
    """The project with a gate moved to one end of its branch, or standing at both. Raises
    `RefusedEdit`.

    At the tool: by the foot of the drop, next to the hose. At the wye: by the main.
    """
    item = project.gate[gate]
    chain = [
        r
        for r in branch_segment(project, item.run)
        if not materials()[project.run[r].material].hose
    ]
    if not chain:
        raise RefusedEdit(
            called(project, gate), "another place for it", "draw a rigid duct in its branch first"
        )
    down = downstream_ends(project)
    tool, wye = chain[0], chain[-1]
    # Where the gate stands within the branch, seen from either end.
    near_tool = {
        "run": tool,
        "at": _from_end(project, tool, far_end(project.run[tool], down.get(tool, ""))),
    }
    near_wye = {"run": wye, "at": _from_end(project, wye, down.get(wye, project.run[wye].end))}
    if place == "at the tool":
        return changed(project, gate, **near_tool)
    project = changed(project, gate, **near_wye)
    if place == "at the wye":
        return project
    twin = item.replaced(id=fresh_id(project, f"{gate}-tool"), **near_tool)
    return added(project, twin)


def with_gate_on(project: Project, run: str) -> tuple[Project, str]:
    """The project with one more gate, in the middle of a run, and the gate's id."""
    gate = Gate(id=fresh_id(project, f"gate-{run}"), run=run)
    return added(project, gate), gate.id


def _from_end(project: Project, run: str, end: str) -> float:
    """Share of a run's way at which a gate sits close to one of its ends."""
    item = project.run[run]
    share = min(GATE_FROM_END / max(distance(project, item), 1e-6), 0.5)
    return round(1 - share if item.end == end else share, 4)


# -- where each of them makes sense


def takes_sweep(paths: AirPaths, point: str) -> bool:
    """Whether a point is a free end high enough above the floor for a sweep under it."""
    return len(paths.at[point]) == 1 and position(paths.design, point)[2] > LEAST_ABOVE_SWEEP


def continues_size(paths: AirPaths, run: str, towards: Literal["collector", "machine"]) -> bool:
    """Whether carrying a run's diameter on towards one side would change anything."""
    chain, own = paths.branch_segment(run), paths.design.run[run].diameter
    here = chain.index(run)
    others = [
        paths.design.run[r] for r in (chain[here + 1 :] if towards == "collector" else chain[:here])
    ]
    return any(
        abs(r.diameter - own) > FITS_OVER for r in others if not materials()[r.material].hose
    )

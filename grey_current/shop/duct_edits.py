"""Edits of the ductwork: runs drawn on from where they are, runs split by a new point. Pure functions."""

from __future__ import annotations

import math

from grey_current.air.fittings import INLET_DIAMETERS
from grey_current.errors import InputError
from grey_current.shop.catalogue import materials, pipe_sizes
from grey_current.shop.edits import added, changed, fresh_id, moved
from grey_current.shop.model import Collector, Gate, Point, Project, Run, position

UNDER = 0.05
"""m between a main and the beam or ceiling above it."""
LEAST_RUN = 0.05
DEFAULT_MATERIAL = "spiral-steel"


def split(project: Project, run: str, share: float) -> tuple[Project, str]:
    """The project with a rigid run split at a share of its way from its start, and the new point's id.

    The run keeps its id up to the point; a new run goes on from there. Gates stay where they sit. Raises
    `InputError` for a hose or a share at its ends.
    """
    old = project.run[run]
    if materials()[old.material].hose or not 0 < share < 1:
        raise InputError(run, "splitting it", "choose a place in the middle of a rigid duct")
    a, b = position(project, old.start), position(project, old.end)
    x, y, height = (round(p + (q - p) * share, 4) for p, q in zip(a, b, strict=True))
    point = Point(id=fresh_id(project, f"{run}-joint"), x=x, y=y, height=height)
    project = added(project, point)
    second = old.but(id=fresh_id(project, run), start=point.id)
    project = added(changed(project, run, end=point.id), second)
    gates = tuple(_moved_gate(g, run, second.id, share) for g in project.gates)
    return project.but(gates=gates), point.id


def _moved_gate(gate: Gate, run: str, second: str, share: float) -> Gate:
    if gate.run != run:
        return gate
    if gate.at <= share:
        return gate.but(at=gate.at / share)
    return gate.but(run=second, at=(gate.at - share) / (1 - share))


def main_height(project: Project, diameter: float) -> float:
    """Height (m) of a main's centre line close under the lowest beam or ceiling."""
    lids = [beam.underside for beam in project.beams] + [room.ceiling for room in project.rooms]
    return round(min(lids) - UNDER - diameter / 2, 3)


def drawn_on(project: Project, start: str, x: float, y: float) -> tuple[Project, str]:
    """The project with a duct drawn on from a point or a collector's free inlet to a place, and the new point's id.

    From a collector: first straight out of the inlet, then up under the beams, then to the place. The duct keeps
    the size and material of what it goes on from; its far end is capped. Raises `InputError` when it cannot begin
    there or would be too short.
    """
    if start in project.collector:
        project, start = _led_out(project, project.collector[start], (x, y))
    elif start not in project.point:
        raise InputError("duct", start, "begin at a collector's inlet or at a duct")
    origin = position(project, start)
    if math.dist(origin[:2], (x, y)) < LEAST_RUN:
        raise InputError("duct", "a point on the same spot", "click where the duct goes next")
    pattern = next(run for run in project.runs if start in (run.start, run.end))
    return _with_run(project, start, (x, y, origin[2]), pattern.diameter, pattern.material, "main")


def _with_run(
    project: Project, end: str, place: tuple[float, float, float], diameter: float, material: str, name: str
) -> tuple[Project, str]:
    x, y, height = (round(v, 4) for v in place)
    point = Point(id=fresh_id(project, f"{name}-corner"), x=x, y=y, height=height, end="cap")
    project = added(project, point)
    run = Run(id=fresh_id(project, name), start=point.id, end=end, diameter=diameter, material=material)
    return added(project, run), point.id


def _led_out(project: Project, collector: Collector, towards: tuple[float, float]) -> tuple[Project, str]:
    """Straight out of an inlet as far as it wants, then up to the main's height."""
    if any(collector.id in (run.start, run.end) for run in project.runs):
        raise InputError(collector.name, "a second duct on its inlet", "begin at the duct that is there")
    inlet = position(project, collector.id)
    away = (inlet[0] - collector.x, inlet[1] - collector.y)
    if math.hypot(*away) < 0.05:
        away = (towards[0] - inlet[0], towards[1] - inlet[1])
    length = math.hypot(*away) or 1.0
    bore = next((s for s in reversed(pipe_sizes(project)) if s <= collector.inlet + 1e-3), collector.inlet)
    reach = INLET_DIAMETERS * bore
    foot = (inlet[0] + away[0] / length * reach, inlet[1] + away[1] / length * reach, inlet[2])
    project, point = _with_run(project, collector.id, foot, bore, DEFAULT_MATERIAL, "inlet")
    height = main_height(project, bore)
    if height - inlet[2] < 0.15:
        return project, point
    return _with_run(project, point, (foot[0], foot[1], height), bore, DEFAULT_MATERIAL, "riser")


def upright_group(project: Project, point: str) -> frozenset[str]:
    """The points that stand over one another with this one: the head and foot of a drop move as one."""
    found = {point}
    while True:
        more = {
            other
            for run in project.runs
            for mine, other in ((run.start, run.end), (run.end, run.start))
            if mine in found and other in project.point and other not in found and upright(project, run)
        }
        if not more:
            return frozenset(found)
        found |= more


def upright(project: Project, run: Run) -> bool:
    """Whether a run is a rigid drop or riser that stands straight up."""
    a, b = position(project, run.start), position(project, run.end)
    return math.dist(a[:2], b[:2]) < 1e-3 and not materials()[run.material].hose


def with_point_moved(project: Project, point: str, dx: float, dy: float) -> Project:
    """The project with a point of the ductwork moved by (dx, dy) m, and what stands over or under it with it.

    The runs that meet there follow; fittings are inferred anew. Raises `InputError` for an unknown point.
    """
    for ident in upright_group(project, point):
        project = moved(project, ident, dx, dy)
    return project


def snapped_heading(origin: tuple[float, float], place: tuple[float, float], step: float = 45.0) -> tuple[float, float]:
    """The place moved so that the way to it from an origin goes at a multiple of `step` degrees."""
    dx, dy = place[0] - origin[0], place[1] - origin[1]
    turn = math.radians(round(math.degrees(math.atan2(dy, dx)) / step) * step)
    along = dx * math.cos(turn) + dy * math.sin(turn)
    return origin[0] + math.cos(turn) * along, origin[1] + math.sin(turn) * along

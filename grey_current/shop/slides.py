"""Edits that slide a part of the ductwork: a gate along its run, a straight stretch of main aside.
Pure functions.
"""

from __future__ import annotations

import math

from grey_current.shop.duct_edits import upright, with_points_moved
from grey_current.shop.duct_graph import runs_at
from grey_current.shop.ducts import Run
from grey_current.shop.edits import changed
from grey_current.shop.model import Project
from grey_current.shop.places import XYZ, distance, position

# m that a gate keeps from the ends of its run.
FROM_END = 0.06
# Sine of the turn under which two runs count as one straight line.
IN_LINE = 0.02
# Cosine under which a run counts as standing square to another.
SQUARE = 0.02


def with_gate_along(project: Project, gate: str, along: float) -> Project:
    """The project with a gate so far along its run (m from the run's start), kept a little from its
    ends.
    """
    run = project.run[project.gate[gate].run]
    length = distance(project, run)
    keep = min(FROM_END, length / 2)
    return changed(
        project, gate, at=round(min(max(along, keep), length - keep) / (length or 1.0), 4)
    )


def with_gate_slid(project: Project, gate: str, dx: float, dy: float, step: float) -> Project:
    """The project with a gate moved along its run by what (dx, dy) m is along it, in whole steps
    (m).
    """
    item = project.gate[gate]
    run = project.run[item.run]
    ux, uy, _ = heading(project, run)
    moved = round((dx * ux + dy * uy) / step) * step
    return with_gate_along(project, gate, item.at * distance(project, run) + moved)


def heading(project: Project, run: Run) -> XYZ:
    """Unit vector from a run's start to its end; nothing for a run of no length."""
    a, b = position(project, run.start), position(project, run.end)
    length = math.dist(a, b)
    if length:
        return ((b[0] - a[0]) / length, (b[1] - a[1]) / length, (b[2] - a[2]) / length)
    return (0.0, 0.0, 0.0)


def straight_line(project: Project, run: str) -> frozenset[str]:
    """The points of the straight stretch that a run is part of: through every wye that it passes
    without a turn.
    """
    at = runs_at(project)
    item = project.run[run]
    along = heading(project, item)
    found: set[str] = set()
    waiting = [end for end in item.ends if end in project.point]
    while waiting:
        point = waiting.pop()
        if point in found:
            continue
        found.add(point)
        for other in at[point]:
            # On through wyes, as long as the next run goes the same way.
            if _turn(along, heading(project, other)) < IN_LINE:
                waiting += [end for end in other.ends if end in project.point]
    return frozenset(found)


def _turn(a: XYZ, b: XYZ) -> float:
    """Sine of the angle between two lines; 1 where one of them has no direction."""
    cosine = abs(sum(p * q for p, q in zip(a, b, strict=True)))
    return math.sqrt(max(1 - cosine**2, 0.0))


def with_run_moved(project: Project, run: str, dx: float, dy: float) -> Project:
    """The project with the straight stretch that a level run is part of moved by (dx, dy) m.

    Stubs that enter it at an angle go with it, so that they keep their angle; what stands square to
    it grows or shrinks. Raises as `with_points_moved`.
    """
    line = straight_line(project, run)
    along = heading(project, project.run[run])
    moving = set(line)
    for other in project.runs:
        mine = [end for end in other.ends if end in line]
        far = [end for end in other.ends if end in project.point and end not in line]
        if len(mine) == 1 and far and not upright(project, other):
            cosine = abs(sum(p * q for p, q in zip(along, heading(project, other), strict=True)))
            # A run that leaves askew would change its angle: its far end moves along.
            if cosine > SQUARE:
                moving.update(far)
    return with_points_moved(project, moving, dx, dy)

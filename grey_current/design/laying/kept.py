"""What stays when ducts are laid: what is pinned with its way to the collector, or everything that
is drawn.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass

from grey_current.shop.catalogue import materials
from grey_current.shop.duct_graph import AirPaths, downstream_ends, far_end, runs_at
from grey_current.shop.edits import removed
from grey_current.shop.model import Project
from grey_current.shop.places import position

# m that a run may rise over its length and still be joined by wyes anywhere.
LEVEL = 0.05


@dataclass(frozen=True)
class Kept:
    """The project without what is laid anew, the runs that stay, and the pickups that are to be
    connected.

    `loose` are pinned runs that lead to no collector.
    """

    base: Project
    runs: frozenset[str]
    wanted: tuple[str, ...]
    loose: tuple[str, ...]


def kept(project: Project, only_unconnected: bool = False) -> Kept:
    """What stays of a project's ducts and which pickups wait; a loose hose on a port that waits
    goes.

    Raises nothing.
    """
    if only_unconnected:
        runs = frozenset(run.id for run in project.runs) - _loose_on_ports(project)
    else:
        runs = _pinned(project)
    base = removed(project, [run.id for run in project.runs if run.id not in runs])
    # Ends whose neighbour was taken away are capped: air must not come in there.
    base = _capped(base)
    down = downstream_ends(base)
    held = set(itertools.chain.from_iterable(run.touches for run in base.runs))
    wanted = tuple(
        ref
        for ref, (_, pickup) in base.pickup.items()
        if ref not in held and not pickup.bags_itself
    )
    return Kept(base, runs, wanted, tuple(run.id for run in base.runs if run.id not in down))


def _loose_on_ports(project: Project) -> frozenset[str]:
    """Runs that hang together with a port but lead to no collector, and are not pinned: they only
    block the port.
    """
    down, at = downstream_ends(project), runs_at(project)
    found: set[str] = set()
    for ref in project.pickup:
        pending = [run for run in at.get(ref, ()) if run.id not in down]
        while pending:
            run = pending.pop()
            if run.id in found or run.pinned:
                continue
            found.add(run.id)
            pending += [other for end in run.ends for other in at[end] if other.id not in down]
    return frozenset(found)


def _pinned(project: Project) -> frozenset[str]:
    """The runs that are pinned, those at a pinned joint, and all that their air passes on its way
    to a collector.
    """
    chosen = {run.id for run in project.runs if run.pinned}
    joints = {point.id for point in project.points if point.pinned}
    chosen |= {run.id for run in project.runs if run.start in joints or run.end in joints}
    paths = AirPaths(project)
    return frozenset(paths.passed(chosen))


def _capped(project: Project) -> Project:
    """The project with the ends that were left without what joined them capped."""
    at = runs_at(project)
    points = tuple(
        point.replaced(end="cap")
        if len(at.get(point.id, ())) == 1 and point.end == "open"
        else point
        for point in project.points
    )
    return project.replaced(points=points) if points != project.points else project


def joinable(base: Project, collector: str) -> list[tuple[str, str, float]]:
    """Level rigid runs that lead to a collector: each with the end that its air comes from, and its
    height (m).
    """
    found = []
    for ident, down in downstream_ends(base, collector).items():
        run = base.run[ident]
        a, b = position(base, run.start), position(base, run.end)
        if abs(a[2] - b[2]) < LEVEL and not materials()[run.material].hose:
            found.append((ident, far_end(run, down), (a[2] + b[2]) / 2))
    return found

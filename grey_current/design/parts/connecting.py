"""A pickup connected to the main by itself, by a way that can be put together."""

from __future__ import annotations

import itertools

from grey_current.design.parts.buildable import BuildSet, build_set_of
from grey_current.design.space.routing import ways_to_mains, with_branch
from grey_current.errors import RefusedEdit
from grey_current.shop.duct_graph import branch_segment
from grey_current.shop.ducts import Gate
from grey_current.shop.edits import removed
from grey_current.shop.model import Project
from grey_current.shop.names import called

# m of duct that one would lay rather than have a branch that cannot be put together as drawn, or
# one with a piece too short to hold. Allowances.
CANNOT_BE_BUILT = 15.0
TOO_SHORT = 3.0
# Ways that are looked at so closely.
WAYS = 40


def connected(
    project: Project, ref: str, collector: str | None = None, like: Gate | None = None
) -> Project:
    """The project with a pickup connected to a main, or to one that leads to a collector.

    Of the ways that are free and can be put together the shortest; only where none is, one through
    what stands there, or one that wants a joint moved. The gate is made `like` another, where one
    is given. Raises `RefusedEdit` when there is no main, or the pickup has a run already.
    """
    if any(ref in run.touches for run in project.runs):
        raise RefusedEdit(called(project, ref), "a second duct on it", "delete the first one")
    before = build_set_of(project)
    best, least = None, float("inf")
    for way, cost in itertools.islice(ways_to_mains(project, ref, collector), WAYS):
        # They come by their cost: what follows can no longer be the best.
        if cost >= least:
            break
        made = with_branch(project, ref, way, like)
        total = cost + _trouble(BuildSet(made, before)) - _trouble(before)
        if total < least:
            best, least = made, total
    if best is None:
        raise RefusedEdit(
            called(project, ref), "connecting it", "draw a main from a collector first"
        )
    return best


def _trouble(found: BuildSet) -> float:
    return sum(CANNOT_BE_BUILT if item.is_fault else TOO_SHORT for item in found.troubles)


def reconnected(project: Project, ref: str) -> Project:
    """The project with a pickup's branch taken away, up to its wye, and put in anew by the nearest
    way.

    Its gate keeps its kind. Raises `RefusedEdit` when it has no branch of its own, or cannot be
    connected.
    """
    run = next((r for r in project.runs if ref in r.ends), None)
    if run is None or run.also_serves:
        raise RefusedEdit(
            called(project, ref), "another branch for it", "choose a pickup with a hose of its own"
        )
    chain = branch_segment(project, run.id)
    ends = {end for r in chain for end in project.run[r].ends}
    if ends & set(project.collector):
        raise RefusedEdit(
            called(project, ref), "another branch for it", "it needs a main that it joins"
        )
    # What the user set of its gate goes on with the new one.
    old = next((gate for gate in project.gates if gate.run in chain), None)
    return connected(removed(project, chain), ref, like=old)

"""Ducts that go through one another: rigid runs whose bodies meet without a joint between them."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from grey_current.shop.catalogue import materials
from grey_current.shop.ducts import Run
from grey_current.shop.model import Project
from grey_current.shop.of_last import OfLast
from grey_current.shop.places import position

Array = NDArray[np.float64]
# m by which two ducts may touch.
MAY_TOUCH = 0.01
# Diameters of a run between two joints up to which what meets at either may lie close together: a
# crowded joint.
NEAR_JOINT = 3.0


class Rigid(NamedTuple):
    """A project's rigid runs: where they start and end, and their bores, m, of shapes (n, 3) and
    (n,).
    """

    runs: list[Run]
    starts: Array
    ends: Array
    bores: Array


def _rigid(project: Project) -> Rigid:
    runs = [run for run in project.runs if not materials()[run.material].hose]
    places = np.array(
        [(position(project, run.start), position(project, run.end)) for run in runs]
    ).reshape(-1, 2, 3)
    return Rigid(runs, places[:, 0], places[:, 1], np.array([run.diameter for run in runs]))


# One path after the other is held against the same runs.
rigid_runs = OfLast(_rigid)


def crossings(project: Project, moved: frozenset[str] | None = None) -> list[tuple[str, str]]:
    """Pairs of rigid runs, by id, that go through one another; only those with one of `moved`,
    where that is given.

    Runs that meet in a joint, or at two joints close together, do not cross. Raises nothing.
    """
    if moved is not None and not moved:
        return []
    runs, starts, ends, bores = rigid_runs(project)
    rows = np.array(
        [i for i, run in enumerate(runs) if moved is None or run.id in moved], dtype=int
    )
    if not rows.size:
        return []
    # Boxes first: most pairs are far apart, and only the others are measured.
    low, high = (
        np.minimum(starts, ends) - bores[:, None] / 2,
        np.maximum(starts, ends) + bores[:, None] / 2,
    )
    beside_each_other = ((low[rows][:, None] < high) & (high[rows][:, None] > low)).all(axis=-1)
    ones, twos = np.nonzero(beside_each_other)
    ones = rows[ones]
    apart = segment_distances(starts[ones], ends[ones], starts[twos], ends[twos])
    near = (apart < (bores[ones] + bores[twos]) / 2 - MAY_TOUCH) & (ones != twos)
    if not near.any():
        return []
    # Runs that meet at a joint may lie in one another there; so may those that a short run joins.
    short = np.linalg.norm(ends - starts, axis=1) < NEAR_JOINT * bores
    beside = _beside([runs[i] for i in np.flatnonzero(short)])
    pairs = {
        (min(one, two), max(one, two))
        for one, two in zip(ones[near].tolist(), twos[near].tolist(), strict=True)
    }
    found = {(one, two) for one, two in pairs if not _joined(runs[one], runs[two], beside)}
    return [(runs[one].id, runs[two].id) for one, two in sorted(found)]


def _beside(short: list[Run]) -> dict[str, set[str]]:
    """For the ends of runs of some diameters' length, the ends that are as good as the same
    place.
    """
    found: dict[str, set[str]] = {}
    for run in short:
        for end, other in (run.ends, (run.end, run.start)):
            found.setdefault(end, {end}).add(other)
    return found


def _joined(one: Run, two: Run, beside: dict[str, set[str]]) -> bool:
    ones, twos = ([beside.get(end, {end}) for end in run.ends] for run in (one, two))
    return any(not here.isdisjoint(there) for here in ones for there in twos)


def segment_distances(a: Array, b: Array, c: Array, d: Array) -> Array:
    """Least distance (m) of segments a to b from segments c to d, each of a shape (..., 3) that
    goes with the others.

    Source: Ericson, Real-Time Collision Detection, 2005, section 5.1.9.
    """
    u, v, w = b - a, d - c, a - c
    uu, vv = _dot(u, u), _dot(v, v)
    uv, uw, vw = _dot(u, v), _dot(u, w), _dot(v, w)
    # The nearest points of two lines, each then held to its segment; parallel ones begin anywhere.
    slant = uu * vv - uv * uv
    along = np.where(slant > 1e-12, (uv * vw - uw * vv) / np.where(slant > 1e-12, slant, 1.0), 0.0)
    along = np.clip(along, 0.0, 1.0)
    other = np.clip((uv * along + vw) / np.where(vv > 0, vv, 1.0), 0.0, 1.0)
    along = np.clip((uv * other - uw) / np.where(uu > 0, uu, 1.0), 0.0, 1.0)
    gap: Array = np.linalg.norm(w + u * along[..., None] - v * other[..., None], axis=-1)
    return gap


def _dot(p: Any, q: Any) -> Any:
    return np.sum(p * q, axis=-1)

"""What is hit or out of reach in a shop, as plain facts that two designs can be compared by."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from grey_current.design.space.clashes import DuctSpace
from grey_current.design.space.ground import Space
from grey_current.design.space.hose_reach import reach
from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import Run
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.places import position

WORDS = {
    "beam": "goes through {}",
    "thing": "goes through {}",
    "machine": "goes through {}",
    "door": "hangs in the swing of {}",
    "doorway": "crosses {}",
    "tracks": "is in the way of {}",
    "walkway": "crosses {}",
    "ceiling": "stands above the ceiling",
    "reach": "does not reach {}",
    "overlap": "stands in {}",
    "wall": "stands in a wall",
}
SHORT_BY = 0.005
"""m by which a hose may be shorter than the straight line and still be called long enough."""


@dataclass(frozen=True, order=True)
class Hit:
    """Something that hits another, or does not reach it: the element's id, a kind of `WORDS`, the other's id."""

    element: str
    kind: str
    other: str = ""

    def words(self, names: Names) -> str:
        """What it does, without its own name."""
        return WORDS[self.kind].format(names.of(self.other) if self.other else "")


@dataclass(frozen=True)
class Ground:
    """A room as ducts see it, and everything in it that is hit or out of reach."""

    ducts: DuctSpace
    hits: frozenset[Hit]

    @cached_property
    def lies(self) -> dict[str, object]:
        """Where each run lies, and what of it counts for what it hits."""
        project = self.ducts.project
        return {run.id: _lies(project, run) for run in project.runs}


def ground_of(project: Project, before: Ground | None = None) -> Ground:
    """Everything that is hit or out of reach; what is as it was `before` is taken from there. Raises nothing."""
    if before is None or not _same_ground(before.ducts.project, project):
        space = DuctSpace(project)
        return Ground(space, frozenset((*_of_bodies(project), *(h for r in project.runs for h in _of_run(space, r)))))
    space, known = before.ducts.with_ducts_of(project), before.lies
    moved = [run for run in project.runs if known.get(run.id) != _lies(project, run)]
    gone = {run.id for run in moved} | (known.keys() - project.run.keys())
    kept = (hit for hit in before.hits if hit.element not in gone)
    return Ground(space, frozenset((*kept, *(hit for run in moved for hit in _of_run(space, run)))))


def _of_bodies(project: Project) -> Iterator[Hit]:
    space = Space(project)
    items: tuple[Machine | Collector, ...] = (*project.machines, *project.collectors)
    for item in items:
        if space.outside(item):
            yield Hit(item.id, "wall")
        for other in space.overlaps(item):
            yield Hit(item.id, "overlap", other)


def _of_run(space: DuctSpace, run: Run) -> Iterator[Hit]:
    for clash in space.clashes(run):
        if clash.kind != "window":
            yield Hit(run.id, clash.kind, clash.ident)
    if space.above_ceiling(run) is not None:
        yield Hit(run.id, "ceiling")
    if materials()[run.material].hose and run.length is not None:
        for ref in (run.start, *run.also_serves):
            if run.length < _way(space, run, ref) - SHORT_BY:
                yield Hit(run.id, "reach", ref)


def _way(space: DuctSpace, run: Run, ref: str) -> float:
    """Length (m) of a hose's way to one of its ends: straight, or round what stands between."""
    a, b = position(space.project, ref), position(space.project, run.end)
    own = frozenset((ref.split("/", maxsplit=1)[0], run.end))
    between = any(solid.kind in ("thing", "machine") for solid, _ in space.passed(a, b, run.diameter, own))
    if ref in space.project.pickup and (between or space.wall_between(a, b)):
        return reach(space.project, Space(space.project), run, ref).length
    return math.dist(a, b)


def _same_ground(a: Project, b: Project) -> bool:
    """Whether everything that stands on the floor or hangs over it is where it was."""
    parts = ("rooms", "features", "openings", "beams")
    return all(getattr(a, part) == getattr(b, part) for part in parts) and _bodies(a) == _bodies(b)


def _bodies(project: Project) -> list[object]:
    machines = [m.model_copy(update={"pickups": ()}) for m in project.machines]
    return [*machines, *((c.id, c.x, c.y, c.turn, c.width, c.depth, c.height, c.stands) for c in project.collectors)]


def _lies(project: Project, run: Run) -> object:
    places = tuple(position(project, ref) for ref in (run.start, *run.also_serves, run.end))
    return places, run.diameter, run.material, run.length

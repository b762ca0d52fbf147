"""What is hit or out of reach in a shop, as plain facts that two designs can be compared by."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property

from grey_current.design.space.clashes import DuctSpace, duct_space
from grey_current.design.space.crossings import crossings
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hit_changes import Body, Changes, changes_since
from grey_current.design.space.hose_reach import reach
from grey_current.shop.catalogue import materials
from grey_current.shop.ducts import Run
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.places import bodies, bridged, lies_over, position

WORDS = {
    "beam": "goes through {}",
    "thing": "goes through {}",
    "machine": "goes through {}",
    "door": "hangs in the swing of {}",
    "doorway": "crosses {}",
    "tracks": "is in the way of {}",
    "walkway": "crosses {}",
    "lamp": "goes through {}",
    "area": "goes through {}",
    "duct": "goes through {}",
    "lane": "stands where boards pass at {}",
    "ceiling": "stands above the ceiling",
    "reach": "does not reach {}",
    "overlap": "stands in {}",
    "wall": "stands in a wall",
}
# m by which a hose may be shorter than the straight line and still be called long enough.
SHORT_BY = 0.005


@dataclass(frozen=True, order=True)
class Hit:
    """Something that hits another, or does not reach it: two ids and a kind of `WORDS`."""

    element: str
    kind: str
    other: str = ""

    def words(self, names: Names) -> str:
        """What it does, without its own name."""
        return WORDS[self.kind].format(names.of(self.other) if self.other else "")

    def ended_words(self, names: Names) -> str:
        """That it does so no longer, without its own name."""
        if self.kind == "reach":
            return f"then reaches {names.of(self.other)}"
        return f"no longer {self.words(names)}"


class ClashSet:
    """A room as ducts see it, and everything in it that is hit or out of reach.

    `sure` are hits that are there in any case; the others are looked for when they are first asked
    after, for most changes that a search tries are given up before that.
    """

    def __init__(
        self,
        project: Project,
        sure: frozenset[Hit],
        look: Callable[[], tuple[DuctSpace, Iterable[Hit]]],
    ):
        self.project, self.sure, self._look = project, sure, look

    @cached_property
    def _looked(self) -> tuple[DuctSpace, frozenset[Hit]]:
        ducts, found = self._look()
        return ducts, self.sure.union(found)

    @property
    def ducts(self) -> DuctSpace:
        """The room as ducts see it."""
        return self._looked[0]

    @property
    def hits(self) -> frozenset[Hit]:
        """Everything that is hit or out of reach."""
        return self._looked[1]


def clash_set(project: Project, before: ClashSet | None = None) -> ClashSet:
    """Return everything that is hit or out of reach.

    What an edit left alone since `before` is taken from there. Raises nothing.
    """
    changes = changes_since(before.project, project) if before is not None else None
    if before is None or changes is None:
        return ClashSet(project, frozenset(), lambda: _looked_at_all(project))
    # Not `before` itself, which would keep alive all that were before it.
    ducts, hits = before.ducts, before.hits
    stay = [hit for hit in hits if changes.leaves_alone(hit)]
    sure = frozenset([hit for hit in stay if not changes.bodies or hit.kind != "lane"])
    return ClashSet(project, sure, lambda: _looked_at_again(project, ducts, changes, stay))


def _looked_at_all(project: Project) -> tuple[DuctSpace, Iterable[Hit]]:
    space = duct_space(project)
    found = [*_of_bodies(space.ground, bodies(project))]
    for run in project.runs:
        found += _of_run(space, run)
    return space, (*found, *_of_crossings(project), *_of_lanes(space, project.runs))


def _looked_at_again(
    project: Project, was: DuctSpace, changes: Changes, stay: Iterable[Hit]
) -> tuple[DuctSpace, Iterable[Hit]]:
    """Look only at what an edit changed; `stay` are the hits that it left alone."""
    if changes.bodies:
        space = was.with_bodies_of(project, changes.bodies)
    else:
        space = was.with_ducts_of(project)
    found = [*_of_bodies(space.ground, changes.beside)]
    for run in changes.runs:
        found += _of_run(space, run)
    found += _of_crossings(project, changes.crossed)
    found += _of_lanes(space, changes.runs)
    if changes.bodies:
        # A lane ends at what stands in its way: where it does so as before, its hits stay too.
        before = {machine.id: ground for machine, ground in was.lanes}
        same = frozenset(
            machine.id
            for machine, ground in space.lanes
            if machine.id not in changes.bodies and before.get(machine.id) is ground
        )
        found += [hit for hit in stay if hit.kind == "lane" and hit.other in same]
        found += _of_lanes(space, project.runs, same)
    return space, found


def _of_bodies(space: FloorSpace, items: Iterable[Body]) -> Iterator[Hit]:
    for item in items:
        if space.outside(item):
            yield Hit(item.id, "wall")
        for other in space.overlaps(item):
            yield Hit(item.id, "overlap", other)


def _of_lanes(
    space: DuctSpace, runs: Iterable[Run], but: frozenset[str] = frozenset()
) -> Iterator[Hit]:
    for run in runs:
        for machine in space.lanes_met(run, but):
            yield Hit(run.id, "lane", machine)


def _of_crossings(project: Project, moved: frozenset[str] | None = None) -> Iterator[Hit]:
    for one, other in crossings(project, moved):
        yield Hit(one, "duct", other)


def _of_run(space: DuctSpace, run: Run) -> Iterator[Hit]:
    for clash in space.clashes(run):
        if clash.kind != "window":
            yield Hit(run.id, clash.kind, clash.ident)
    if space.above_ceiling(run) is not None:
        yield Hit(run.id, "ceiling")
    if materials()[run.material].hose and run.length is not None:
        for ref in run.serves:
            if run.length < _way(space, run, ref) - SHORT_BY:
                yield Hit(run.id, "reach", ref)


def _way(space: DuctSpace, run: Run, ref: str) -> float:
    """Length (m) of a hose's way to one of its ends: straight, or round what stands between."""
    a, b = position(space.project, ref), position(space.project, run.end)
    own = frozenset((ref.split("/", maxsplit=1)[0], run.end))
    # A hose that hangs meets what stands as high as it hangs, not what it comes down beside.
    corners = lies_over(a, b, run)
    middle = len(corners) // 2
    start, end = corners[middle - 1], corners[middle]
    between = space.passed(start, end, run.diameter, own, ("thing", "machine"))
    if ref in space.project.pickup and (between or space.wall_between(a, b)):
        return reach(space.project, space.ground, run, ref).length
    return bridged(a, b, run)

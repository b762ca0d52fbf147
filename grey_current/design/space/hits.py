"""What is hit or out of reach in a shop, as plain facts that two designs can be compared by."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from grey_current.design.space.clashes import DuctSpace, duct_space
from grey_current.design.space.crossings import crossings
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hose_reach import reach
from grey_current.design.space.outlines import parked
from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import Collector
from grey_current.shop.design_parts import alike
from grey_current.shop.ducts import Run
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.places import bodies, bounds, footprint, position

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
SHORT_BY = 0.005
"""m by which a hose may be shorter than the straight line and still be called long enough."""


Body = Machine | Collector
Box = tuple[float, float, float, float]
NEAR = 0.3
"""m round a body that has changed within which everything is looked at again."""


@dataclass(frozen=True, order=True)
class Hit:
    """Something that hits another, or does not reach it: the element's id, a kind of `WORDS`, the
    other's id.
    """

    element: str
    kind: str
    other: str = ""

    def words(self, names: Names) -> str:
        """What it does, without its own name."""
        return WORDS[self.kind].format(names.of(self.other) if self.other else "")

    def ended_words(self, names: Names) -> str:
        """That it does so no longer, without its own name."""
        return (
            f"then reaches {names.of(self.other)}"
            if self.kind == "reach"
            else f"no longer {self.words(names)}"
        )


class ClashSet:
    """A room as ducts see it, and everything in it that is hit or out of reach.

    `sure` are hits that are there in any case; what else is hit is looked for when it is first
    asked after.
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


def ground_of(project: Project, before: ClashSet | None = None) -> ClashSet:
    """Everything that is hit or out of reach; what is as it was `before` is taken from there.
    Raises nothing.
    """
    was = before.project if before else None
    changed = (
        _changed_bodies(was, project) if was is not None and _same_building(was, project) else None
    )
    items = bodies(project)
    if before is None or was is None or changed is None:
        return ClashSet(project, frozenset(), lambda: _all_hits(project))
    # Not `before` itself, which would keep all that were before it.
    ducts, hits = (before.ducts, before.hits)
    boxes = [_box(_standing(p, ident)) for p in (was, project) for ident in changed]
    moved, beside = _lying_otherwise(was, project), list[Body]()
    if boxes:
        looked_at = {run.id for run in moved}
        moved += [
            run for run in project.runs if run.id not in looked_at and _touched(project, run, boxes)
        ]
        beside = [item for item in items if _meets(_box(item), boxes)]
    gone = (
        {run.id for run in moved}
        | {item.id for item in beside}
        | (was.run.keys() - project.run.keys())
    )
    crossed = _meeting(was, project, gone)
    stay = [hit for hit in hits if hit.element not in gone and not _of_ducts(hit, crossed)]
    kept = frozenset([hit for hit in stay if not changed or hit.kind != "lane"])

    def look() -> tuple[DuctSpace, Iterable[Hit]]:
        space = ducts.with_bodies_of(project, changed) if changed else ducts.with_ducts_of(project)
        anew = (
            *_of_bodies(space.ground, beside),
            *(hit for run in moved for hit in _of_run(space, run)),
        )
        lanes = _of_lanes_after(ducts, space, changed, moved, stay)
        return space, (*anew, *_of_crossings(project, crossed), *lanes)

    return ClashSet(project, kept, look)


def _all_hits(project: Project) -> tuple[DuctSpace, Iterable[Hit]]:
    space = duct_space(project)
    stood = _of_bodies(space.ground, bodies(project))
    runs = (hit for run in project.runs for hit in _of_run(space, run))
    return space, (*stood, *runs, *_of_crossings(project), *_of_lanes(space, project.runs))


def _standing(project: Project, ident: str) -> Body:
    return project.machine.get(ident) or project.collector[ident]


def _box(item: Body) -> Box:
    """Left, low, right and high edge of where something may stand, its parked places too, m."""
    places = [item, *(parked(item) if isinstance(item, Machine) else ())]
    return bounds(itertools.chain.from_iterable(footprint(place) for place in places))


def _meets(box: Box, others: Iterable[Box]) -> bool:
    left, low, right, high = box[0] - NEAR, box[1] - NEAR, box[2] + NEAR, box[3] + NEAR
    return any(x0 < right and x1 > left and y0 < high and y1 > low for x0, y0, x1, y1 in others)


def _touched(project: Project, run: Run, boxes: list[Box]) -> bool:
    """Whether a run may hit something otherwise, or a hose reach otherwise, when bodies in some
    boxes have changed.

    A way round that leaves the ground within a hose's length of its ends is longer than the hose in
    any case.
    """
    ends = [position(project, ref) for ref in (*run.serves, run.end)]
    xs, ys = [end[0] for end in ends], [end[1] for end in ends]
    far = (run.length or 0.0) if materials()[run.material].hose else 0.0
    return _meets((min(xs) - far, min(ys) - far, max(xs) + far, max(ys) + far), boxes)


def _of_bodies(space: FloorSpace, items: Iterable[Body]) -> Iterator[Hit]:
    for item in items:
        if space.outside(item):
            yield Hit(item.id, "wall")
        for other in space.overlaps(item):
            yield Hit(item.id, "overlap", other)


def _meeting(was: Project, project: Project, gone: set[str]) -> frozenset[str]:
    """Runs that are gone or otherwise, and those that meet them, in either project.

    Ducts may come close at two joints that a short run lies between: with it changes what goes
    through one another.
    """
    if not gone:
        return frozenset()
    runs = [*was.runs, *project.runs]
    ends = {end for run in runs if run.id in gone for end in run.ends}
    return frozenset(
        [run.id for run in runs if run.id in gone or run.start in ends or run.end in ends]
    )


def _of_ducts(hit: Hit, some: frozenset[str]) -> bool:
    """Whether a hit is one of two ducts of which either is among some."""
    return hit.kind == "duct" and (hit.element in some or hit.other in some)


def _of_lanes(
    space: DuctSpace, runs: Iterable[Run], but: frozenset[str] = frozenset()
) -> Iterator[Hit]:
    for run in runs:
        for machine in space.lanes_met(run, but):
            yield Hit(run.id, "lane", machine)


def _of_lanes_after(
    was: DuctSpace,
    now: DuctSpace,
    changed: frozenset[str],
    moved: Iterable[Run],
    stay: Iterable[Hit],
) -> Iterator[Hit]:
    """Hits in lanes: of runs that moved in all, of the others in those that end elsewhere since
    bodies have changed.
    """
    yield from _of_lanes(now, moved)
    if changed:
        before = {machine.id: ground for machine, ground in was.lanes}
        same = frozenset(
            [m.id for m, ground in now.lanes if m.id not in changed and before.get(m.id) is ground]
        )
        yield from (hit for hit in stay if hit.kind == "lane" and hit.other in same)
        yield from _of_lanes(now, now.project.runs, same)


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
    between = space.passed(a, b, run.diameter, own, ("thing", "machine"))
    if ref in space.project.pickup and (between or space.wall_between(a, b)):
        return reach(space.project, space.ground, run, ref).length
    return math.dist(a, b)


def _same_building(a: Project, b: Project) -> bool:
    """Whether the building, and what stands in it besides machines and collectors, is as it was."""
    parts = ("rooms", "features", "openings", "beams")
    return all(getattr(a, part) == getattr(b, part) for part in parts)


def _changed_bodies(a: Project, b: Project) -> frozenset[str] | None:
    """Machines and collectors that stand, or are, otherwise than before; None when there are others
    than there were.
    """
    was, now = bodies(a), bodies(b)
    if [item.id for item in was] != [item.id for item in now]:
        return None
    return frozenset(
        new.id
        for old, new in zip(was, now, strict=True)
        if old is not new and _body(old) != _body(new)
    )


def _body(item: Body) -> object:
    """What of a machine or collector counts for what it hits and for what hits it."""
    if isinstance(item, Machine):
        return item.model_copy(update={"pickups": ()})
    return item.x, item.y, item.turn, item.width, item.depth, item.height, item.stands


def _lying_otherwise(was: Project, project: Project) -> list[Run]:
    """Runs that are not as they were in all that counts for what they hit.

    Only those are looked at that are, or end at, something that is not the very same value.
    """
    ends = {item.id for part in ("points", "collectors") for item in _new(was, project, part)}
    ends |= {
        f"{item.id}/{pickup.id}"
        for item in _new(was, project, "machines")
        for pickup in item.pickups
    }
    looked_at: Iterable[Run] = _new(was, project, "runs")
    if ends:
        new = {run.id for run in looked_at}
        looked_at = [
            run
            for run in project.runs
            if run.id in new
            or run.start in ends
            or run.end in ends
            or not ends.isdisjoint(run.also_serves)
        ]
    return [
        run
        for run in looked_at
        if run.id not in was.run or _lies(was, was.run[run.id]) != _lies(project, run)
    ]


def _new(was: Project, project: Project, part: str) -> Iterator[Any]:
    """What of a list of parts is not the very same value as before."""
    if not alike(getattr(was, part), getattr(project, part)):
        yield from (item for item in getattr(project, part) if was.element.get(item.id) is not item)


def _lies(project: Project, run: Run) -> object:
    places = tuple(position(project, ref) for ref in (*run.serves, run.end))
    return places, run.diameter, materials()[run.material].hose, run.length

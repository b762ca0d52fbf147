"""What an edit changed of all that is looked at for hits, found by identity.

What an edit leaves alone stays the very same value, so that most of a shop need not be compared.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Any, Protocol

from grey_current.design.space.outlines import parked
from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import Collector
from grey_current.shop.design_parts import alike
from grey_current.shop.ducts import Run, ends_of
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.places import bodies, bounds, footprint, own_bodies, position

Body = Machine | Collector
Box = tuple[float, float, float, float]
# m round a body that has changed within which everything is looked at again.
NEAR = 0.3
# What stands for good: after a change of it everything is looked at.
BUILDING = ("rooms", "features", "openings", "beams")


class HitLike(Protocol):
    """What is asked of a hit here."""

    @property
    def element(self) -> str: ...
    @property
    def kind(self) -> str: ...
    @property
    def other(self) -> str: ...


@dataclass(frozen=True)
class Changes:
    """What is looked at again after an edit.

    Attributes:
        bodies: Machines and collectors that stand, or are, otherwise than before.
        beside: Those and their neighbours, as they are now.
        runs: The runs that lie otherwise, or lie where a body has changed.
        gone: Ids whose own hits are looked for again, or are no more.
        crossed: Runs whose crossings with others are looked for again.
    """

    bodies: frozenset[str]
    beside: list[Body]
    runs: list[Run]
    gone: set[str]
    crossed: frozenset[str]

    def leaves_alone(self, hit: HitLike) -> bool:
        """Whether a hit is there as before."""
        if hit.element in self.gone:
            return False
        return hit.kind != "duct" or self.crossed.isdisjoint((hit.element, hit.other))


def changes_since(was: Project, project: Project) -> Changes | None:
    """Return what an edit changed; None where all is to be looked at."""
    changed = _changed_bodies(was, project)
    if changed is None or any(getattr(was, name) != getattr(project, name) for name in BUILDING):
        return None
    runs = _lying_otherwise(was, project)
    beside: list[Body] = []
    if changed:
        # Both where they stood and where they stand now.
        boxes = [_box(_standing(p, ident)) for p in (was, project) for ident in changed]
        known = {run.id for run in runs}
        runs += [r for r in project.runs if r.id not in known and _touched(project, r, boxes)]
        beside = [item for item in bodies(project) if _meets(_box(item), boxes)]
    gone = {run.id for run in runs} | {item.id for item in beside}
    gone |= was.run.keys() - project.run.keys()
    return Changes(changed, beside, runs, gone, _meeting(was, project, gone))


def _standing(project: Project, ident: str) -> Body:
    return project.machine.get(ident) or project.collector[ident]


def _box(item: Body) -> Box:
    """Left, low, right and high edge of where something may stand, its parked places too, m."""
    places = [item, *(parked(item) if isinstance(item, Machine) else ())]
    return bounds(c for place in places for body in own_bodies(place) for c in footprint(body))


def _meets(box: Box, others: Iterable[Box]) -> bool:
    left, low, right, high = box[0] - NEAR, box[1] - NEAR, box[2] + NEAR, box[3] + NEAR
    return any(x0 < right and x1 > left and y0 < high and y1 > low for x0, y0, x1, y1 in others)


def _touched(project: Project, run: Run, boxes: list[Box]) -> bool:
    """Whether a run may hit something else, or a hose reach otherwise, when bodies in boxes change.

    A way round that leaves the ground within a hose's length of its ends is longer than the hose in
    any case.
    """
    left, low, right, high = bounds(position(project, ref)[:2] for ref in (*run.serves, run.end))
    far = (run.length or 0.0) if materials()[run.material].hose else 0.0
    return _meets((left - far, low - far, right + far, high + far), boxes)


def _meeting(was: Project, project: Project, gone: set[str]) -> frozenset[str]:
    """Runs that are gone or otherwise, and those that meet them, in either project.

    Ducts may come close at two joints that a short run lies between: with it changes what goes
    through one another.
    """
    if not gone:
        return frozenset()
    runs = [*was.runs, *project.runs]
    ends = ends_of(run for run in runs if run.id in gone)
    return frozenset([run.id for run in runs if run.id in gone or not ends.isdisjoint(run.ends)])


def _changed_bodies(a: Project, b: Project) -> frozenset[str] | None:
    """Machines and collectors that stand, or are, otherwise than before.

    None when there are others than there were.
    """
    was, now = bodies(a), bodies(b)
    if [item.id for item in was] != [item.id for item in now]:
        return None
    pairs = list(zip(was, now, strict=True))
    # What is turned down takes no room: then there are other solids than before.
    if any(getattr(o, "turns", False) != getattr(n, "turns", False) for o, n in pairs):
        return None
    return frozenset(n.id for o, n in pairs if o is not n and _body(o) != _body(n))


def _body(item: Body) -> object:
    """What of a machine or collector counts for what it hits and for what hits it."""
    if isinstance(item, Machine):
        return item.model_copy(update={"pickups": ()})
    return item.x, item.y, item.turn, *_sizes(item)


def _sizes(item: Collector) -> tuple[object, ...]:
    apart = (item.apart("separator"), item.apart("filter"))
    told = (item.stands, item.host, item.wheels, apart)
    return item.width, item.depth, item.bottom, item.height, *told


def _lying_otherwise(was: Project, project: Project) -> list[Run]:
    """Runs that are not as they were in all that counts for what they hit.

    Only those are looked at that are, or end at, something that is not the very same value.
    """
    looked_at = {run.id for run in _new(was, project, "runs")}
    ends = {item.id for part in ("points", "collectors") for item in _new(was, project, part)}
    for machine in _new(was, project, "machines"):
        ends |= {f"{machine.id}/{pickup.id}" for pickup in machine.pickups}
    if ends:
        looked_at |= {run.id for run in project.runs if not ends.isdisjoint(run.touches)}
    found = []
    for run in project.runs if looked_at else ():
        if run.id in looked_at:
            before = was.run.get(run.id)
            if before is None or _lies(was, before) != _lies(project, run):
                found.append(run)
    return found


def _new(was: Project, project: Project, part: str) -> Iterator[Any]:
    """What of a list of parts is not the very same value as before."""
    if not alike(getattr(was, part), getattr(project, part)):
        yield from (item for item in getattr(project, part) if was.element.get(item.id) is not item)


def _lies(project: Project, run: Run) -> object:
    places = tuple(position(project, ref) for ref in (*run.serves, run.end))
    return places, run.diameter, materials()[run.material].hose, run.length

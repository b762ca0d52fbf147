"""What a collector does to boards' ways where there is no other place for it, and ground that it
must leave free all the same.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any

import shapely

from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.lanes import Lane
from grey_current.design.space.outlines import ground_of, plan, strip_outline, track_outline
from grey_current.shop.collectors import Collector
from grey_current.shop.model import Project
from grey_current.shop.places import footprint, own_bodies
from grey_current.shop.stacking import top_of
from grey_current.units import Display

# m before a door in which nothing tall is to stand. Allowance.
DOORSTEP = 0.7
# m of a board's length that are not worth a word. Allowance.
LEAST_SHORTER = 0.05


@dataclass(frozen=True)
class Shortened:
    """A machine whose longest board (m) would be shorter."""

    machine: str
    before: float
    after: float

    def words(self, project: Project) -> str:
        """What becomes of its boards."""
        say = Display(project.settings.units).about
        name = project.machine[self.machine].name
        return f"{name}: boards to {say(self.after, down=True)} instead of {say(self.before)}"


def shortened(space: FloorSpace, item: Collector) -> list[Shortened]:
    """The machines whose boards a collector would be in the way of, the one that loses most first;
    `space` is the floor without it. Raises nothing.
    """
    body, corners = ground_of(item), [c for each in own_bodies(item) for c in footprint(each)]
    found = []
    for machine in space.project.machines:
        lane = space.lane(machine)
        if lane is None:
            continue
        ground = plan(
            strip_outline(lane.start, lane.direction, lane.width, lane.before, lane.after)
        )
        if not body.intersects(ground):
            continue
        left = _up_to(lane, corners).longest
        if lane.longest - left > LEAST_SHORTER:
            found.append(Shortened(machine.id, lane.longest, left))
    return sorted(found, key=lambda one: one.after - one.before)


def _up_to(lane: Lane, corners: Any) -> Lane:
    """A lane that ends where something begins that stands in it."""
    (x, y), (ux, uy) = lane.start, lane.direction
    along = [(px - x) * ux + (py - y) * uy for px, py in corners]
    near, far = min(along), max(along)
    if near >= 0:
        return replace(lane, after=min(lane.after, near))
    if far <= 0:
        return replace(lane, before=min(lane.before, -far))
    return replace(lane, before=0.0, after=0.0)


def always_free(project: Project, item: Collector) -> Any:
    """The ground that a collector must leave free wherever it stands: before doors, and under the
    tracks of a roll-up door that it is taller than.
    """
    middle = shapely.union_all([plan(room.outline) for room in project.rooms]).centroid
    kept: list[Any] = []
    for opening in project.openings:
        if opening.kind == "window":
            continue
        kept.append(
            shapely.LineString([opening.start, opening.end]).buffer(DOORSTEP, cap_style="flat")
        )
        tracks = track_outline(opening, (middle.x, middle.y))
        if tracks and top_of(item) > opening.head:
            kept.append(plan(tracks))
    return shapely.union_all(kept)


def length_lost(found: list[Shortened]) -> float:
    """How much shorter boards get at all machines together, m."""
    return math.fsum(one.before - one.after for one in found)

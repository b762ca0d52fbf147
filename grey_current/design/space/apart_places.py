"""Where a collector's separator or filter that stands by itself finds room beside its fan."""

from __future__ import annotations

import itertools
import math

from grey_current.design.space.clashes import duct_space
from grey_current.design.space.reached import service_blocked
from grey_current.design.space.solids import in_itself
from grey_current.shop.apart_edits import stood_by_itself
from grey_current.shop.collectors import PartName
from grey_current.shop.edits import with_apart
from grey_current.shop.model import Project
from grey_current.shop.places import own_bodies
from grey_current.shop.stacking import top_of

# m between fan and part, and degrees round the fan, in which a place is looked for, nearest first.
GAPS = (0.15, 0.3, 0.5, 0.8, 1.2, 1.6)
ROUND = range(0, 360, 30)


def beside_its_fan(project: Project, collector: str, part: PartName) -> Project:
    """The project with a collector's separator or filter standing by itself in the nearest free
    place beside the fan, its own sides free too where that can be; on its usual side where nothing
    is free. Raises `RefusedEdit` for a part that is not there.
    """
    usual = stood_by_itself(project, collector, part, True)
    item = usual.collector[collector]
    body = item.apart(part)
    assert body is not None
    before = duct_space(project).ground
    blocked = len(service_blocked(before, project.collector[collector]))
    free: Project | None = None
    for gap, degrees in itertools.product(GAPS, ROUND):
        across, along = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
        # To the fan's edge in that direction, and from the part's edge to its middle.
        far = gap + _to_edge(item.width, item.depth, across, along)
        far += _to_edge(body.width, body.depth, across, along)
        there = body.replaced(dx=round(far * across, 4), dy=round(far * along, 4))
        made = with_apart(usual, item, part, there)
        now = made.collector[collector]
        space = duct_space(made).ground
        if space.outside(now) or space.overlaps(now) or in_itself(now):
            continue
        if any(top_of(b) > space.height_over(b) for b in own_bodies(now)[1:]):
            continue
        free = free or made
        if len(service_blocked(space, now)) <= blocked:
            return made
    return free or usual


def _to_edge(width: float, depth: float, across: float, along: float) -> float:
    """How far (m) it is from a rectangle's middle to its edge in a direction."""
    ways = [size / 2 / abs(share) for size, share in ((width, across), (depth, along)) if share]
    return min(ways)

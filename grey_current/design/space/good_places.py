"""Where a machine or a thing that is just put in had better stand, found at once."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator

import numpy as np
import shapely

from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.outlines import plan, service_outline
from grey_current.design.space.reached import service_blocked
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.places import XY, bodies, bounds, footprint, middle_of, standing
from grey_current.shop.room import walls

# m that stays free to a wall.
FROM_WALL = 0.02
# m between the places that are tried.
STEP = 0.3
# Of those that are free, so many are looked at for their lanes.
LOOKED_AT = 48
# m that boards are long where nobody has said: sheets and usual boards are 8 ft.
USUAL_BOARD = 2.44
# m of lane that a blocked service side is worth.
BLOCKED = 0.5


def good_place(project: Project, machine: Machine) -> Machine:
    """Return the machine where it stands free and takes the longest boards.

    What boards pass stands in the middle, everything else along a wall; out of everybody's lanes
    where that can be, else where nothing stands. Where nothing is free it is returned as it was
    given. Raises nothing.
    """
    space = FloorSpace(project)
    free = free_places(project, _unused(space), machine)
    free = free or free_places(project, space.free_ground, machine)
    if not free:
        return machine
    middle = middle_of(project.rooms[0].outline)
    sides = space.walls_at(machine.table_height)

    def liked(item: Machine) -> float:
        """How far (m) it is from where such a machine usually stands."""
        if item.feed is None:
            return float(plan(footprint(item)).distance(sides))
        if item.feeds_across:
            # Boards lie along the wall, the one who saws stands before it.
            back = standing(item.x, item.y, item.turn, 0.0, item.depth / 2)
            return float(shapely.Point(back).distance(sides))
        return math.dist((item.x, item.y), middle)

    wish = project.settings.longest_board or USUAL_BOARD

    def cost(item: Machine) -> float:
        lane = space.lane(item)
        short = 0.0 if lane is None else max(wish - lane.longest, 0.0)
        return short + BLOCKED * len(service_blocked(space, item)) + 0.3 * liked(item)

    free.sort(key=liked)
    # Some of the best liked, and some of all others: a long lane may be anywhere.
    half = LOOKED_AT // 2
    stride = max(len(free) // half, 1)
    best = min([*free[:half], *free[half::stride]], key=cost)
    return _against_the_wall(best, space) if best.feeds_across else best


def _against_the_wall(machine: Machine, space: FloorSpace) -> Machine:
    """The machine with its back against the wall behind it, where it stands free there too."""
    back = standing(machine.x, machine.y, machine.turn, 0.0, machine.depth / 2)
    far = float(shapely.Point(back).distance(space.walls_at(machine.table_height))) - FROM_WALL
    x, y = standing(machine.x, machine.y, machine.turn, 0.0, far)
    moved = machine.model_copy(update={"x": round(x, 3), "y": round(y, 3)})
    is_free = 0 < far < STEP + FROM_WALL and space.free_ground.contains(plan(footprint(moved)))
    return moved if is_free else machine


def wall_place(project: Project, width: float, depth: float, near: XY) -> tuple[XY, bool] | None:
    """Return where a rectangle stands free along a wall, nearest to a place, and whether turned.

    Out of everybody's way where that can be, else where nothing stands; None where even that is
    taken.
    """
    space = FloorSpace(project)
    for ground in (_unused(space), space.free_ground):
        found = _along_walls(project, ground, width, depth, near)
        if found is not None:
            return found
    return None


def _along_walls(
    project: Project, ground: shapely.Geometry, width: float, depth: float, near: XY
) -> tuple[XY, bool] | None:
    best: tuple[float, XY, bool] | None = None
    for room in project.rooms:
        for a, b in walls(room.outline):
            for turned, (wide, deep) in enumerate(((width, depth), (depth, width))):
                for x, y in _beside(a, b, wide, deep):
                    box = shapely.box(x - wide / 2, y - deep / 2, x + wide / 2, y + deep / 2)
                    far = math.dist((x, y), near)
                    if (best is None or far < best[0]) and ground.contains(box):
                        best = far, (round(x, 3), round(y, 3)), bool(turned)
    return None if best is None else best[1:]


def _beside(a: XY, b: XY, wide: float, deep: float) -> Iterator[XY]:
    """Yield the middles of rectangles along both sides of a wall, as far as it goes."""
    length = math.dist(a, b)
    ux, uy = (b[0] - a[0]) / length, (b[1] - a[1]) / length
    # Half of what the rectangle takes along the wall, and away from it.
    along = abs(ux) * wide / 2 + abs(uy) * deep / 2
    away = abs(uy) * wide / 2 + abs(ux) * deep / 2 + FROM_WALL
    for at in np.arange(along + FROM_WALL, length - along, STEP):
        for side in (1, -1):
            yield a[0] + ux * at - uy * away * side, a[1] + uy * at + ux * away * side


def _unused(space: FloorSpace) -> shapely.Geometry:
    """The free ground that no board, door or hand on a service side wants."""
    wanted = [space.lane_ground, space.swept_ground, space.clean_ground]
    for item in bodies(space.project):
        wanted += [plan(service_outline(item, side)) for side in item.service]
    unused = space.free_ground.difference(shapely.union_all(wanted))
    shapely.prepare(unused)
    return unused


def free_places(project: Project, ground: shapely.Geometry, machine: Machine) -> list[Machine]:
    """Every place of a grid at which the machine stands in free ground, in all four directions."""
    left, low, right, high = bounds(project.corners)
    places = np.array(
        list(itertools.product(np.arange(left, right, STEP), np.arange(low, high, STEP)))
    )
    shapely.prepare(ground)
    found: list[Machine] = []
    for turn in (0.0, 90.0, 180.0, 270.0):
        turned = machine.model_copy(update={"x": 0.0, "y": 0.0, "turn": turn})
        corners = np.array(footprint(turned))
        outlines = shapely.polygons(places[:, None, :] + corners[None, :, :])
        for x, y in places[shapely.contains(ground, outlines)].round(3).tolist():
            found.append(machine.model_copy(update={"x": x, "y": y, "turn": turn}))
    return found

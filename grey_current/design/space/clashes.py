"""Ducts against what is in their way, in three dimensions: beams, posts, machines, doors, windows,
heads and feet.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
import shapely

from grey_current.design.space.ground import FloorSpace, walls_between
from grey_current.design.space.outlines import (
    beam_plan,
    passage,
    plan,
    swing_outline,
    track_outline,
)
from grey_current.design.space.solids import blocks
from grey_current.errors import RefusedEdit
from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import Run
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.places import XYZ, bodies, footprint, head_of, lies_over, position
from grey_current.shop.roofs import ceiling_at, ceiling_marks
from grey_current.shop.room import FLAT, OVERHEAD, Feature, Room
from grey_current.shop.stacking import stand_mates, table_of, top_of

# m kept free over a walkway, stair or hatch (most building codes ask for about as much). Allowance.
HEAD_ROOM = 2.0
# m; what lies lower across a walkway is stumbled over, what is higher is walked into.
TRIP = 0.5
# m above a roll-up door's head that its tracks and the rolled-up door take. Allowance.
TRACK_ROOM = 0.35
WINDOW_DEPTH = 0.15
# m by which a duct may touch a thing.
TOUCH = 0.01
# m that a duct may lie in its own collector's outline before it is said to go through it.
INSIDE = 0.05
# m between supports at most: plastic pipe sags sooner than steel, hose soonest. Allowance.
HANGER_GAP = {"plastic": 1.5, "steel": 3.0, "hose": 1.2}
# m under a ceiling within which hangers reach it. Allowance.
UNDER_CEILING = 0.6

# m that a drop may reach into a lane, whose width is an allowance itself.
GRAZE = 0.04
# m over a table above which boards pass under a drop's lower end. Allowance.
OVER_TABLE = 0.3


@dataclass(frozen=True)
class Solid:
    """Something that a duct may not pass: its id, what it is to a duct, its ground plan and its
    heights (m).
    """

    ident: str
    kind: str
    shape: Any
    low: float
    high: float


@dataclass(frozen=True)
class Clash:
    """A run that passes something: the run's id, the thing, its kind, and the run's lowest edge
    there (m).
    """

    run: str
    ident: str
    kind: str
    underside: float


@dataclass
class DuctSpace:
    """The room as ducts see it, for one project."""

    project: Project

    def with_ducts_of(self, project: Project) -> DuctSpace:
        """The same room for a project in which everything stands where it stood."""
        found = DuctSpace(project)
        found.solids, found._boxes, found._grown, found._rooms = (
            self.solids,
            self._boxes,
            self._grown,
            self._rooms,
        )
        found.ground = self.ground
        return found

    def with_bodies_of(self, project: Project, changed: frozenset[str]) -> DuctSpace:
        """The same room for a project in which some machines or collectors have changed, and
        nothing else.
        """
        found = DuctSpace(project)
        found.solids, found._rooms = self._again(project, changed), self._rooms
        # What was grown by a radius is kept for every solid that has not changed: growing takes
        # longest. Where something has more parts than before, the others have other numbers.
        if len(found.solids) == len(self.solids):
            found._grown = {
                key: shape
                for key, shape in self._grown.items()
                if self.solids[key[0]].ident not in changed
            }
        found.ground.lane_grounds = found.ground.lane_grounds_after(self.ground, changed)
        return found

    def _again(self, project: Project, changed: frozenset[str]) -> list[Solid]:
        """The solids with those of some machines and collectors as they are now, in their order."""
        made: list[Solid] = []
        done: set[str] = set()
        for solid in self.solids:
            if solid.ident not in changed:
                made.append(solid)
            elif solid.ident not in done:
                done.add(solid.ident)
                item = project.machine.get(solid.ident) or project.collector[solid.ident]
                made += _solids_of(item, "machine")
        return made

    @cached_property
    def solids(self) -> list[Solid]:
        """Everything that a duct may not pass, with the heights that it takes."""
        return list(self._solids())

    def _solids(self) -> Iterator[Solid]:
        project = self.project
        for beam in project.beams:
            yield Solid(beam.id, "beam", beam_plan(beam), beam.underside, math.inf)
        for feature in project.features:
            if feature.kind in ("walkway", "stair", "hatch"):
                yield Solid(feature.id, "walkway", plan(feature.outline), 0.0, HEAD_ROOM)
            # A lamp hangs from its bottom up; an area without a bottom forbids every height.
            elif feature.kind in OVERHEAD:
                kind = "lamp" if feature.kind == "lamp" else "area"
                low = -math.inf if kind == "area" and not feature.bottom else feature.bottom
                yield Solid(feature.id, kind, plan(feature.outline), low, top_of(feature))
            elif feature.kind not in FLAT and not feature.away:
                yield from _solids_of(feature, "thing")
        for item in bodies(project):
            if not (isinstance(item, Machine) and item.turns):
                yield from _solids_of(item, "machine")
        # Tracks run inwards, which is towards the middle of the first room.
        centre = plan(project.rooms[0].outline).centroid
        for opening in project.openings:
            if swept := swing_outline(opening):
                yield Solid(opening.id, "door", plan(swept), opening.sill, opening.head)
            if tracks := track_outline(opening, (centre.x, centre.y)):
                yield Solid(
                    opening.id, "tracks", plan(tracks), opening.head, opening.head + TRACK_ROOM
                )
            line = shapely.LineString([opening.start, opening.end])
            kind = "window" if opening.kind == "window" else "doorway"
            yield Solid(
                opening.id,
                kind,
                line.buffer(WINDOW_DEPTH, cap_style="flat"),
                opening.sill,
                opening.head,
            )

    @cached_property
    def ground(self) -> FloorSpace:
        """The ground under it, of this project or of one in which the same stands at the same
        places.
        """
        return FloorSpace(self.project)

    @property
    def lanes(self) -> list[tuple[Machine, Any]]:
        """Each machine that boards pass, and the ground over which they do."""
        return self.ground.lane_grounds

    def lanes_met(self, run: Run, but: frozenset[str] = frozenset()) -> list[str]:
        """Machines, but for some, in whose lane an upright duct stands so that boards meet it."""
        a, b = position(self.project, run.start), position(self.project, run.end)
        if math.dist(a[:2], b[:2]) > TOUCH or materials()[run.material].hose:
            return []
        return [ident for ident in self.boards_met(a, b[2], run.diameter) if ident not in but]

    def boards_met(self, foot: XYZ, top: float, diameter: float) -> list[str]:
        """Machines whose boards meet a duct that goes straight up, or down, from `foot` to a height
        (m).
        """
        low, high, place = min(foot[2], top), max(foot[2], top), shapely.Point(foot[:2])
        return [
            machine.id
            for machine, ground in self.lanes
            if low < table_of(machine) + OVER_TABLE
            and high > table_of(machine)
            and ground.distance(place) < diameter / 2 - GRAZE
        ]

    def clashes(self, run: Run) -> list[Clash]:
        """What a run passes that it should not; its own machines and collector do not count."""
        a, b = position(self.project, run.start), position(self.project, run.end)
        own = frozenset(end.split("/")[0] for end in run.touches)
        # A duct may pass what is turned down while its own machine is up.
        own |= frozenset().union(*(stand_mates(self.project, ident) for ident in own))
        hose = materials()[run.material].hose
        found = [] if hose else list(self._through_own_collector(run, a, b))
        only = ("walkway",) if hose else ()
        corners = dict.fromkeys(lies_over(a, b, run))
        for start, end in itertools.pairwise(corners):
            for solid, underside in self.passed(start, end, run.diameter, own, only):
                found.append(Clash(run.id, solid.ident, solid.kind, underside))
        return list(dict.fromkeys(found))

    def passed(
        self,
        a: XYZ,
        b: XYZ,
        diameter: float,
        own: frozenset[str] = frozenset(),
        only: tuple[str, ...] = (),
    ) -> list[tuple[Solid, float]]:
        """Every solid that a duct from `a` to `b` goes through but for its `own`, with the duct's
        lowest edge there.

        `only` solids of some kinds, where any are named.
        """
        found = []
        for number in self._near(a, b, diameter / 2):
            solid = self.solids[number]
            if solid.ident not in own and (not only or solid.kind in only):
                underside = self._passes(a, b, diameter / 2, number)
                if underside is not None:
                    found.append((solid, underside))
        return found

    def _through_own_collector(self, run: Run, a: XYZ, b: XYZ) -> Iterator[Clash]:
        """A duct that reaches its inlet from the far side, through the body; one on top comes from
        anywhere.
        """
        for end in run.ends:
            item = self.project.collector.get(end)
            item = None if item is None else head_of(item)
            if (
                item is None
                or item.inlet_dx == item.inlet_dy == 0
                or max(a[2], b[2]) > top_of(item)
            ):
                continue
            body = plan(footprint(item)).buffer(-INSIDE, join_style="mitre")
            if shapely.LineString([a[:2], b[:2]]).intersection(body).length > INSIDE:
                yield Clash(run.id, item.id, "machine", min(a[2], b[2]) - run.diameter / 2)

    @cached_property
    def _rooms(self) -> list[tuple[Room, Any]]:
        """The rooms with their ground plans, ready to be asked what lies in them."""
        rooms = [(room, plan(room.outline).buffer(TOUCH)) for room in self.project.rooms]
        shapely.prepare([shape for _, shape in rooms])
        return rooms

    @cached_property
    def _grown(self) -> dict[tuple[int, float], Any]:
        """Ground plans widened by a duct's radius, by the solid's place in the list and the
        radius.
        """
        return {}

    def _plan(self, number: int, radius: float) -> Any:
        key = (number, radius)
        if key not in self._grown:
            self._grown[key] = self.solids[number].shape.buffer(radius - TOUCH)
        return self._grown[key]

    @cached_property
    def _boxes(self) -> np.ndarray[Any, Any]:
        return np.array([solid.shape.bounds for solid in self.solids]).reshape(-1, 4)

    def _near(self, a: XYZ, b: XYZ, radius: float) -> list[int]:
        """Places in the list of the solids whose bounds a duct touches in plan."""
        left, right = min(a[0], b[0]) - radius, max(a[0], b[0]) + radius
        low, high = min(a[1], b[1]) - radius, max(a[1], b[1]) + radius
        boxes = self._boxes
        near = (
            (boxes[:, 0] < right)
            & (boxes[:, 2] > left)
            & (boxes[:, 1] < high)
            & (boxes[:, 3] > low)
        )
        return np.flatnonzero(near).tolist()

    def in_the_way(self, a: XYZ, b: XYZ, diameter: float) -> list[str]:
        """Posts, chimneys and other things up to the ceiling that a duct from `a` to `b` would go
        through.
        """
        through = self.passed(a, b, diameter, only=("thing",))
        return [solid.ident for solid, _ in through if math.isinf(solid.high)]

    def _passes(self, a: XYZ, b: XYZ, radius: float, number: int) -> float | None:
        """The underside (m) of a duct where it passes a solid, or None when it keeps clear of
        it.
        """
        solid, flat = self.solids[number], math.dist(a[:2], b[:2])
        # Upright: it meets what its circle meets, over its whole height.
        if flat < 1e-3:
            if solid.shape.distance(shapely.Point(a[:2])) >= radius - TOUCH:
                return None
            heights = (a[2], b[2])
        else:
            line = shapely.LineString([a[:2], b[:2]])
            inside = line.intersection(self._plan(number, radius))
            if inside.is_empty:
                return None
            # Slanting: only as high as it is within the solid's outline.
            along = [line.project(shapely.Point(p)) / flat for p in shapely.get_coordinates(inside)]
            heights = (a[2] + (b[2] - a[2]) * min(along), a[2] + (b[2] - a[2]) * max(along))
        # The radius counts upwards by as much as the duct lies flat.
        slope = flat / (math.dist(a, b) or 1.0)
        low, high = min(heights) - radius * slope, max(heights) + radius * slope
        return low if low < solid.high - TOUCH and high > solid.low + TOUCH else None

    @cached_property
    def walls(self) -> Any:
        """The walls as lines."""
        return walls_between(self.project.rooms, ())

    def through_wall(self, run: Run) -> bool:
        """Whether a run passes a wall where there is no opening at its height; along a wall does
        not count.
        """
        return self.wall_between(position(self.project, run.start), position(self.project, run.end))

    def wall_between(self, a: XYZ, b: XYZ) -> bool:
        """Whether a wall without an opening at that height lies between two places; along a wall
        does not count.
        """
        line = shapely.LineString([a[:2], b[:2]])
        crossed = line.intersection(self.walls)
        for spot in shapely.get_coordinates(crossed) if crossed.length < TOUCH else ():
            along = line.project(shapely.Point(spot))
            if TOUCH < along < line.length - TOUCH and not self._in_opening(
                spot, a[2] + (b[2] - a[2]) * along / line.length
            ):
                return True
        return False

    def _in_opening(self, spot: Any, height: float) -> bool:
        """Whether there is a door or a window at a spot on a wall, at a height (m)."""
        return any(
            o.sill < height < o.head
            and passage(o, self.project.rooms).distance(shapely.Point(spot)) < TOUCH
            for o in self.project.openings
        )

    def in_a_room(self, place: tuple[float, float]) -> bool:
        """Whether a place lies in one of the rooms."""
        return any(shapely.intersects_xy(ground, *place) for _, ground in self._rooms)

    def room_over(self, place: tuple[float, float], top: float) -> bool:
        """Whether a place lies in a room whose ceiling there is not lower than a height (m)."""
        return any(
            shapely.intersects_xy(ground, *place) and ceiling_at(room, place) >= top - TOUCH
            for room, ground in self._rooms
        )

    def above_ceiling(self, run: Run) -> float | None:
        """How far (m) a run's top stands above the ceiling over it; None when it does not or no
        room is there.
        """
        a, b = position(self.project, run.start), position(self.project, run.end)
        return self.ceiling_passed(a, b, run.diameter)

    def ceiling_passed(self, a: XYZ, b: XYZ, diameter: float) -> float | None:
        """The same for a duct from `a` to `b`."""
        far, worst = math.dist(a[:2], b[:2]), 0.0
        for room, ground in self._rooms:
            for mark in ceiling_marks(room, a[:2], b[:2]):
                share = mark / far if far else 0.0
                x, y, z = (p + (q - p) * share for p, q in zip(a, b, strict=True))
                if shapely.intersects_xy(ground, x, y):
                    worst = max(worst, z + diameter / 2 - ceiling_at(room, (x, y)))
        return worst if worst > TOUCH else None

    def unsupported(self, run: Run) -> tuple[float, float] | None:
        """The longest piece (m) of an overhead run with nothing near above to hang it from, and
        what it may be.

        A ceiling within reach holds it anywhere, a beam where it passes under it; None when it
        hangs well.
        """
        a, b = position(self.project, run.start), position(self.project, run.end)
        flat = math.dist(a[:2], b[:2])
        # Short pieces hang on their joints, and what lies low stands on the floor.
        if flat < 0.3 or min(a[2], b[2]) < HEAD_ROOM * 0.9:
            return None
        allowed = hanger_gap(run.material)
        line = shapely.LineString([a[:2], b[:2]])
        middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
        for room, ground in self._rooms:
            over = shapely.intersects_xy(ground, *middle)
            if (
                over
                and ceiling_at(room, middle) - max(a[2], b[2]) - run.diameter / 2 <= UNDER_CEILING
            ):
                return None
        # Both ends are held by what they join; between them every beam holds it.
        holds = [0.0, flat]
        beams = [
            solid.shape
            for solid in self.solids
            if solid.kind == "beam" and line.intersects(solid.shape)
        ]
        holds.extend(line.project(line.intersection(beam).centroid) for beam in beams)
        gap = max(q - p for p, q in itertools.pairwise(sorted(holds)))
        # Five centimetres more are nobody's concern.
        return (gap, allowed) if gap > allowed + 0.05 else None


def _solids_of(item: Machine | Collector | Feature, kind: str) -> Iterator[Solid]:
    for block in blocks(item):
        yield Solid(block.ident, kind, block.shape, block.bottom, block.top)


def keep_clear(project: Project, a: XYZ, b: XYZ, diameter: float) -> None:
    """Raises `RefusedEdit` when a duct from `a` to `b` (m) would go through a post, a chimney or
    the like.
    """
    stops = duct_space(project).in_the_way(a, b, diameter)
    if stops:
        attempt = f"leading it through {called(project, stops[0])}"
        raise RefusedEdit("the duct", attempt, "click a corner beside it first, then go on")


class _Standing:
    """All of a project that a duct may meet, equal where it is the very same."""

    def __init__(self, project: Project) -> None:
        self.project = project
        parts = (
            project.rooms,
            project.features,
            project.openings,
            project.beams,
            project.machines,
            project.collectors,
        )
        self.key = tuple([tuple(map(id, items)) for items in parts])

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Standing) and self.key == other.key

    def __hash__(self) -> int:
        return hash(self.key)


@lru_cache(maxsize=4)
def _space_of(standing: _Standing) -> DuctSpace:
    return DuctSpace(standing.project)


def duct_space(project: Project) -> DuctSpace:
    """The room as a project's ducts see it, worked out once for all projects in which the very same
    things stand.
    """
    return _space_of(_Standing(project)).with_ducts_of(project)


def hanger_gap(material: str) -> float:
    """How far apart (m) the supports of a pipe may be at most."""
    if materials()[material].hose:
        return HANGER_GAP["hose"]
    return HANGER_GAP["plastic" if material == "pvc" else "steel"]


def hangers(run: Run, length: float) -> int:
    """How many hangers a level run of a length (m) wants."""
    # A hair over a whole number of gaps wants no more.
    return max(1, math.ceil(length / hanger_gap(run.material) - 1e-3))

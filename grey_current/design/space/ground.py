"""What stands where, and what is free: lanes for boards and sheets, service sides, clashes of
machines.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from typing import Any, NamedTuple

import shapely

from grey_current.design.space.lanes import (
    REACH,
    SHEET_LENGTH,
    WIDEST_SHEET,
    Lane,
    ahead_of,
    free_along,
)
from grey_current.design.space.outlines import (
    at_rest,
    beam_plan,
    front_outline,
    ground_of,
    parked,
    passage,
    plan,
    strip_outline,
    swing_outline,
)
from grey_current.design.space.reached import front_blocked, service_blocked
from grey_current.design.space.solids import Block, blocks
from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import Run
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.person import HEAD_ROOM, head_room
from grey_current.shop.places import XY, bodies, footprint, own_bodies, parts_apart, position
from grey_current.shop.roofs import lowest_over
from grey_current.shop.room import FLAT, Feature, Opening, Room, within
from grey_current.shop.stacking import (
    TOUCH,
    host_of,
    outline_of,
    relation,
    rolled_by,
    stand_mates,
    table_of,
    top_of,
)

# m by which something may stand higher than a table and still let stock pass over it, and m over a
# table that boards and hands take. Allowances.
ABOVE, STOCK = 0.005, 0.3
# m by which something may stand out of what it stands in. Allowance.
TOUCHING = 0.01
# m within which something stands on what is under it, the share of its ground that must be borne,
# and m to a wall that it hangs on. Allowances.
BORNE, BEARS, ON_WALL = 0.03, 0.2, 0.1
# Things that people pass over, so that nothing may stand there.
PASSED = ("walkway", "hatch", "stair", "kept free")
# Where a collector stands out of these rooms: nothing in them is in its way, nor it in theirs.
ELSEWHERE = ("next room", "outdoors")


# m kept over a collector for its lid, and m by which something may be taller than is said.
# Allowances.
LID, TALLER = 0.05, 0.01
# m along a wall where nobody walks, and the width of a person. Allowances.
ALONG_WALL, PERSON = 0.3, 0.5
# m over a table within which a duct is in the way of work, and m of it from which that is said.
# Allowances.
OVER_TABLES, LEAST_OVER = 0.6, 0.15


class Low(NamedTuple):
    """A duct over open floor: how far (m), and how high its underside is (m)."""

    length: float
    underside: float


class Misplaced(NamedTuple):
    """A machine or collector that stands too tall ("tall"), or of which a side that must be reached
    is blocked ("service"): the side and by what.
    """

    kind: str
    element: str
    what: str


@dataclass
class FloorSpace:
    """The ground of a project, with everything that stands on it, for questions about room to
    work.
    """

    project: Project
    _bodies: dict[str | None, list[Block]] = field(default_factory=dict)
    _lanes: dict[tuple[str, float, float, float, float, float, bool], Lane | None] = field(
        default_factory=dict
    )

    @cached_property
    def floor(self) -> Any:
        """All rooms together, with the doorways between them."""
        rooms = [plan(room.outline) for room in self.project.rooms]
        if len(rooms) == 1:
            return rooms[0]
        doors = [o for o in self.project.openings if o.kind != "window"]
        ways = [
            way
            for o in doors
            if sum(map((way := passage(o, self.project.rooms)).intersects, rooms)) > 1
        ]
        return shapely.union_all([*rooms, *ways])

    def bodies(self, running: str | None = None) -> list[Block]:
        """Everything solid while a machine runs: machines on wheels stand parked unless they are
        the one.
        """
        if running not in self._bodies:
            machine = self.project.machine.get(running or "")
            if running is None:
                self._bodies[None] = list(self._rolling(self._standing()))
            # What does not roll stands where it stands, running or not.
            elif machine is None or (
                at_rest(machine) is machine and not stand_mates(self.project, machine.id)
            ):
                self._bodies[running] = self.bodies()
            else:
                # What shares its stand is turned down while it runs.
                down = {running, *stand_mates(self.project, machine.id)}
                others = [body for body in self.bodies() if body.ident not in down]
                self._bodies[running] = [*others, *self._rolling(blocks(machine))]
        return self._bodies[running]

    def _standing(self) -> Iterator[Block]:
        for feature in self.project.features:
            if feature.kind not in FLAT and not feature.away:
                yield from blocks(feature)
        for machine in self.project.machines:
            # Of several on one turning stand the first is up while none runs.
            if not machine.turns:
                yield from blocks(at_rest(machine))
        for collector in self.project.collectors:
            yield from self._in_the_rooms(collector)

    def _rolling(self, solids: Iterable[Block]) -> Iterator[Block]:
        """Solids, those on wheels that stand on, under or in what is rolled aside."""
        for solid in solids:
            along = not solid.wheeled and rolled_by(self.project, self.project.element[solid.ident])
            yield replace(solid, wheeled=True) if along else solid

    def _in_the_rooms(self, item: Collector) -> Iterator[Block]:
        """The solids of a collector that stand here: of one that stands elsewhere what is by itself
        in a room, such as a separator by the door with its fan behind the wall.
        """
        fan, *others = blocks(item)
        if item.stands not in ELSEWHERE:
            yield fan
        for solid, (_, body) in zip(others, parts_apart(item), strict=True):
            here = (within((body.x, body.y), room.outline) for room in self.project.rooms)
            if item.stands not in ELSEWHERE or any(here):
                yield solid

    @cached_property
    def walked_ground(self) -> Any:
        """The open floor on which people walk: where nothing stands, off the walls, and no strip
        narrower than a person.
        """
        # Shrunk and grown again by half a person: what was too narrow to walk in is gone.
        open_floor = self.free_ground.intersection(self.floor.buffer(-ALONG_WALL))
        walked = open_floor.buffer(-PERSON / 2).buffer(PERSON / 2)
        shapely.prepare(walked)
        return walked

    def walked_under(self, project: Project, run: Run, head_room: float) -> Low | None:
        """How far a level duct lies over that floor with less than some head room (m) under it;
        None where it does not, is upright or lies under the floor.
        """
        a, b = position(project, run.start), position(project, run.end)
        flat = math.dist(a[:2], b[:2])
        underside = min(a[2], b[2]) - run.diameter / 2
        if flat < abs(a[2] - b[2]) or underside >= head_room:
            return None
        if max(a[2], b[2]) + run.diameter / 2 <= 0:
            return None
        over = shapely.LineString([a[:2], b[:2]]).intersection(self.walked_ground).length
        return Low(over, underside) if over > 0 else None

    @cached_property
    def _tables(self) -> list[tuple[str, Any, float]]:
        """What one works at: its id, its ground and its height (m)."""
        tables = [
            (machine.id, plan(footprint(machine)), table_of(machine))
            for machine in self.project.machines
            if machine.feed is not None
        ]
        for feature in self.project.features:
            if feature.kind == "bench" and feature.top is not None and not feature.away:
                tables.append((feature.id, plan(feature.outline), feature.top))
        return tables

    @cached_property
    def _out_of_the_way(self) -> float:
        """The height (m) from which a duct is in nobody's way."""
        tables = [height for _, _, height in self._tables]
        return max([head_room(self.project.settings), *(height + OVER_TABLES for height in tables)])

    def over_tables(self, project: Project, run: Run) -> tuple[str, Low] | None:
        """The table over which a level duct hangs so low that it is in the way of work, how far
        (m), and how high over the table (m); None where it hangs over none.
        """
        a, b = position(project, run.start), position(project, run.end)
        flat = math.dist(a[:2], b[:2])
        if flat < abs(a[2] - b[2]):
            return None
        under = min(a[2], b[2]) - run.diameter / 2
        own = {end.split("/", maxsplit=1)[0] for end in run.touches}
        line = None
        for ident, ground, height in self._tables:
            if not 0 <= under - height < OVER_TABLES or ident in own:
                continue
            line = line or shapely.LineString([a[:2], b[:2]])
            over = line.intersection(ground).length
            if over > LEAST_OVER:
                return ident, Low(over, under - height)
        return None

    def in_the_way(self, project: Project, run: Run) -> float:
        """How far (m) a level duct hangs where people walk into it or stumble over it, or low over
        a table.
        """
        a, b = position(project, run.start), position(project, run.end)
        # Most ducts stand upright or hang over everything: looked at first, for every change that
        # is tried asks.
        level = math.dist(a[:2], b[:2]) >= abs(a[2] - b[2])
        if not level or min(a[2], b[2]) - run.diameter / 2 >= self._out_of_the_way:
            return 0.0
        walked = self.walked_under(project, run, head_room(self.project.settings))
        over = self.over_tables(project, run)
        return (walked.length if walked else 0.0) + (over[1].length if over else 0.0)

    @cached_property
    def free_ground(self) -> Any:
        """The floor where nothing stands, machines at work and at every parked place counted; ready
        to be asked.
        """
        taken = [body.shape for body in self.bodies() if body.bottom < HEAD_ROOM]
        for machine in self.project.machines:
            taken += [plan(footprint(at)) for at in (machine, *parked(machine))]
        free = self.floor.difference(shapely.union_all(taken))
        shapely.prepare(free)
        return free

    @cached_property
    def lane_grounds(self) -> list[tuple[Machine, Any]]:
        """Each machine that boards pass, and the ground over which they do."""
        return [
            (machine, self._lane_ground(machine))
            for machine in self.project.machines
            if machine.feed is not None
        ]

    def _lane_ground(self, machine: Machine) -> Any:
        at = self.lane(machine)
        assert at is not None
        return plan(strip_outline(at.start, at.direction, at.width, at.before, at.after))

    def lane_grounds_after(
        self, was: FloorSpace, changed: frozenset[str]
    ) -> list[tuple[Machine, Any]]:
        """Those of a project in which some machines or collectors are otherwise than in the one
        that `was`.

        A lane that none of them reaches into, nor did, however long it were, is as it was.
        """
        bodies = [
            body.shape for space in (was, self) for body in space.bodies() if body.ident in changed
        ]
        known = {machine.id: ground for machine, ground in was.lane_grounds}

        def reached(machine: Machine) -> bool:
            # The longest lane that it could have: what changed outside of it cannot matter.
            whole = strip_outline(
                (machine.x, machine.y), ahead_of(machine), machine.lane_width, REACH, REACH
            )
            return bool(shapely.intersects(plan(whole), bodies).any())

        return [
            (
                m,
                self._lane_ground(m)
                if m.id in changed or m.id not in known or reached(m)
                else known[m.id],
            )
            for m in self.project.machines
            if m.feed is not None
        ]

    @cached_property
    def lane_ground(self) -> Any:
        """The ground over which boards pass at any machine."""
        return shapely.union_all([ground for _, ground in self.lane_grounds])

    @cached_property
    def swept_ground(self) -> Any:
        """The ground that must stay free to pass: doors' swings, walkways, stairs and hatches, and
        before what opens.
        """
        swept = [plan(outline) for o in self.project.openings if (outline := swing_outline(o))]
        swept += [plan(outline) for f in self.project.features if (outline := front_outline(f))]
        return shapely.union_all(
            [*swept, *(plan(f.outline) for f in self.project.features if f.kind in PASSED)]
        )

    def zoned(self, kind: str) -> Any:
        """The ground of all zones of a kind."""
        zones = [f for f in self.project.features if f.kind == kind and not f.away]
        return shapely.union_all([plan(zone.outline) for zone in zones])

    @cached_property
    def clean_ground(self) -> Any:
        """The zones in which no machine and no collector is put unasked."""
        return self.zoned("clean zone")

    def walls_at(self, height: float) -> Any:
        """The walls as lines, with gaps where stock at a height (m) passes through an opening."""
        gaps = tuple(o for o in self.project.openings if o.feeds and o.sill < height < o.head)
        return walls_between(self.project.rooms, gaps)

    # -- lanes

    def lane(
        self, machine: Machine, width: float | None = None, moved_away: bool = False
    ) -> Lane | None:
        """The lane of a machine where it works, for stock of a width (m); None for one without
        feed.

        With `moved_away`, machines on wheels are taken out of the way.
        """
        if machine.feed is None:
            return None
        wide = width or machine.lane_width
        key = (machine.id, machine.x, machine.y, machine.turn, machine.bottom, wide, moved_away)
        if key not in self._lanes:
            self._lanes[key] = self._lane(machine, wide, moved_away)
        return self._lanes[key]

    def _lane(self, machine: Machine, wide: float, moved_away: bool) -> Lane:
        ahead = ahead_of(machine)
        height = table_of(machine) + ABOVE
        solid = [("wall", self.walls_at(height))]
        solid += [
            (body.ident, body.shape)
            for body in self.bodies(machine.id)
            if body.ident != machine.id
            # Boards pass over what is lower and under what hangs, but never over what is hot.
            and (body.meets(height, height + STOCK) or body.hot)
            and not (moved_away and body.wheeled)
        ]
        start = (machine.x, machine.y)
        after, stopped_after = free_along(start, ahead, wide, solid)
        before, stopped_before = free_along(start, (-ahead[0], -ahead[1]), wide, solid)
        through = self._passed(start, ahead, wide, before, after)
        return Lane(
            machine.id,
            ahead,
            start,
            wide,
            before,
            after,
            stopped_before,
            stopped_after,
            through,
            machine.feeds_across,
        )

    def _passed(
        self, start: XY, ahead: XY, wide: float, before: float, after: float
    ) -> tuple[str, ...]:
        strip = strip_outline(start, ahead, wide, before, after)
        inside = plan(strip)
        return tuple(
            o.id
            for o in self.project.openings
            if o.feeds
            and inside.intersection(shapely.LineString([o.start, o.end])).length > 0.8 * wide
        )

    def widest_sheet(self, machine: Machine) -> float:
        """Widest full-length sheet (m) that passes a machine; 0 when even a narrow one does not."""

        def passes(width: float) -> bool:
            lane = self.lane(machine, width)
            return lane is not None and lane.longest >= SHEET_LENGTH

        if not passes(0.1):
            return 0.0
        if passes(WIDEST_SHEET):
            return WIDEST_SHEET
        low, high = 0.1, WIDEST_SHEET
        # To the centimetre, by halving: a wider sheet never passes where a narrower one does not.
        while high - low > 0.01:
            middle = (low + high) / 2
            low, high = (middle, high) if passes(middle) else (low, middle)
        return low

    # -- what stands in the way

    def must_move(self, machine: Machine) -> list[str]:
        """Machines on wheels that must be rolled away before this one can run as it might.

        Those whose resting place lies in its footprint, and all that stand in the lane that it
        would have without them, where that takes longer boards.
        """
        found = [
            body.ident
            for body in self.bodies(machine.id)
            if body.wheeled
            and body.ident != machine.id
            and _stand_in_one_another(body, blocks(machine))
        ]
        # Besides what stands in its ground, what shortens its lane and could be rolled away.
        lane, free = self.lane(machine), self.lane(machine, moved_away=True)
        if lane and free and free.longest > lane.longest + 0.01:
            far = (free.before, free.after) if free.across else (free.longest, free.longest)
            way = plan(strip_outline(free.start, free.direction, free.width, *far))
            found += [
                body.ident
                for body in self.bodies(machine.id)
                if body.wheeled
                and body.ident not in (machine.id, *found)
                and body.meets(table_of(machine) + ABOVE, table_of(machine) + STOCK)
                and body.shape.intersection(way).area > 1e-4
            ]
        return found

    def overlaps(self, item: Machine | Collector) -> list[str]:
        """What a machine at its working place, or a collector, stands in and that cannot be rolled
        away.

        Under, over and on one another things may stand, and in one another where that is said and
        there is room. A machine drawn with its table over a bench stands on it. A collector in
        another room is judged by nothing here.
        """
        mine = tuple(self._in_the_rooms(item)) if isinstance(item, Collector) else blocks(item)
        table = table_of(item) if isinstance(item, Machine) and item.bottom == 0 else 0.0
        benches = {f.id for f in self.project.features if f.kind == "bench" and top_of(f) < table}
        found = [
            body.ident
            for body in self.bodies(item.id)
            if body.ident != item.id
            # What is rolled aside is in nobody's way but of what is rolled with it.
            and (not body.wheeled or self._roll_together(item, body.ident))
            and body.ident not in benches
            and _stand_in_one_another(body, mine, 1e-3)
        ]
        return [ident for ident in dict.fromkeys(found) if not self._hold(item, ident)]

    def _roll_together(self, item: Machine | Collector, ident: str) -> bool:
        """Whether something is rolled aside with another thing, or with the same one."""
        carrier = rolled_by(self.project, item)
        other = self.project.element[ident]
        return carrier is not None and carrier in (ident, rolled_by(self.project, other))

    def _hold(self, item: Machine | Collector, ident: str) -> bool:
        """Whether of two things one is said to stand in the other, and has room there."""
        other = self.project.element[ident]
        if other.host == item.id:
            host, guest = item, other
        elif item.host == ident:
            host, guest = other, item
        else:
            return False
        inside = plan(outline_of(host)).buffer(TOUCHING).contains(plan(outline_of(guest)))
        return bool(inside) and top_of(guest) <= top_of(host) + TOUCH

    def in_the_air(self, item: Machine | Collector) -> bool:
        """Whether a body stands over the floor on nothing, in nothing and at no wall."""
        if item.bottom <= TOUCH or (isinstance(item, Collector) and item.stands in ELSEWHERE):
            return False
        host = host_of(self.project, item)
        if host is not None and relation(host, item) == "in":
            return False
        ground = plan(footprint(item))
        if ground.distance(self.walls_at(item.bottom)) < ON_WALL:
            return False
        return not any(
            abs(body.top - item.bottom) < BORNE
            and body.shape.intersection(ground).area > BEARS * ground.area
            for body in self.bodies(item.id)
            if body.ident != item.id
        )

    def outside(self, item: Machine | Collector) -> bool:
        """Whether something stands partly in or beyond a wall; a collector that is said to stand
        elsewhere does not.
        """
        if isinstance(item, Collector) and item.stands in ELSEWHERE:
            return False
        return bool(ground_of(item).difference(self.floor).area > 1e-3)

    def height_over(self, item: Machine | Collector) -> float:
        """Height (m) of the lowest ceiling over something's corners, or of a beam over it; infinite
        outside.
        """
        return self.height_over_ground(footprint(item))

    def parked_in(self, place: Machine) -> str | None:
        """What a machine at a parked place would stand in: "wall" or an id; None when it has room
        there.
        """
        # Touching a wall is allowed; a square decimetre within it is not.
        if ground_of(place).difference(self.floor).area > 1e-3:
            return "wall"
        mine = blocks(place)
        for body in self.bodies(place.id):
            if body.ident != place.id and _stand_in_one_another(body, mine, 1e-3):
                return body.ident
        for other in self.project.machines:
            if other.id != place.id and any(
                _stand_in_one_another(body, mine, 1e-3)
                for at in parked(other)
                for body in blocks(at)
            ):
                return other.id
        return None

    @cached_property
    def misplaced(self) -> frozenset[Misplaced]:
        """Everything that stands too tall, or where a side that must be reached is blocked."""
        found: set[Misplaced] = set()
        for item in bodies(self.project):
            if isinstance(item, Collector) and item.stands in ELSEWHERE:
                continue
            for body in own_bodies(item):
                high = top_of(body) + (LID if isinstance(item, Collector) else 0.0)
                if high > self.height_over(body) + TALLER:
                    found.add(Misplaced("tall", item.id, "" if body is item else body.name))
            for side, other in service_blocked(self, item):
                found.add(Misplaced("service", item.id, f"{side} {other}"))
        for feature in self.project.features:
            blocked = front_blocked(self, feature)
            if blocked is not None:
                found.add(Misplaced("service", feature.id, f"front {blocked}"))
        return frozenset(found)

    def height_over_ground(self, outline: Iterable[XY]) -> float:
        """Height (m) of the lowest ceiling over some ground, or of a beam over it; infinite
        outside.
        """
        corners = tuple(outline)
        ground = plan(corners)
        over = [
            lowest_over(room, corners)
            for room in self.project.rooms
            if plan(room.outline).intersects(ground)
        ]
        over += [
            beam.underside
            for beam in self.project.beams
            if beam_plan(beam).intersection(ground).area > 1e-3
        ]
        return min(over, default=math.inf)

    def distance(self, item: Machine | Collector, feature: Feature) -> float:
        """Clear distance (m) on the floor between something and a feature."""
        return float(ground_of(item).distance(plan(feature.outline)))

    def within(self, outline: Iterable[XY], low: float = 0.0, high: float = HEAD_ROOM) -> list[str]:
        """Ids of what stands in an outline between two heights (m)."""
        ground = plan(outline)
        found = [
            body.ident
            for body in self.bodies()
            if body.meets(low, high) and body.shape.intersection(ground).area > 1e-3
        ]
        return list(dict.fromkeys(found))


@lru_cache(maxsize=16)
def walls_between(rooms: tuple[Room, ...], gaps: tuple[Opening, ...]) -> Any:
    """The walls as lines, with gaps where some openings are."""
    lines = shapely.union_all([plan(room.outline).boundary for room in rooms])
    return lines.difference(shapely.union_all([passage(o, rooms) for o in gaps])) if gaps else lines


def _stand_in_one_another(body: Block, others: Iterable[Block], least: float = 1e-4) -> bool:
    """Whether a solid takes the room of one of others, on more ground than `least` (m²)."""
    return any(
        body.meets(other.bottom, other.top) and body.shape.intersection(other.shape).area > least
        for other in others
    )

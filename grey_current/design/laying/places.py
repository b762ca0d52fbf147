"""Where a collector should stand: places where it fits, each judged with the ducts that it would
then have, the best as whole layouts are.
"""

from __future__ import annotations

import itertools
import math
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, NamedTuple

import shapely

from grey_current.design.collector.candidates import with_candidate
from grey_current.design.collector.fit import fit
from grey_current.design.collector.noise import Loudness, at_machine
from grey_current.design.flow.scenarios import need
from grey_current.design.laying.free_ground import main_level
from grey_current.design.laying.in_lanes import Shortened, always_free, length_lost, shortened
from grey_current.design.laying.inlet import led_out
from grey_current.design.laying.kept import kept
from grey_current.design.laying.proposal import Proposal, as_laid
from grey_current.design.laying.proposals import quickly_laid, well_laid
from grey_current.design.laying.sizes import allowed_sizes
from grey_current.design.space.clashes import DuctSpace
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.outlines import ground_of, plan, service_outline
from grey_current.design.supply.circuits import worst_load
from grey_current.errors import RefusedEdit
from grey_current.shop.collectors import Collector
from grey_current.shop.edits import removed
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.places import XY, bounds, footprint, inlet_of, own_bodies, position
from grey_current.shop.room import FLAT, walls, walls_of
from grey_current.units import Display
from grey_current.workers.pool import ALONE, Crew

# m between a collector and the wall behind it. Allowance.
FROM_WALL = 0.06
# m from one place along a wall to the next.
EVERY = 0.3
# Places that are judged with quickly laid ducts, and with well laid ones and offered.
ROUGHLY, OFFERED = 16, 3
# m between two places that are worth two offers.
APART = 1.2
# m between two places that are worth judging both.
SPREAD = 0.6
# m of duct that each diameter of straight pipe before the inlet is worth, up to five. Allowance.
INLET_COST = 1.0
# m of duct that each metre is worth by which a port is nearer than its fittings want. Chosen over
# 18 shops (docs/laying-ducts.md).
CROWDED, ROOM_FOR_FITTINGS = 2.0, 2.0
QUICK_TREES = 8

# m from a wall at which a collector stands at it, and from a thing at which it is beside that.
AT_WALL, BESIDE = 0.5, 1.5
# Places whose inlets are looked at when a collector is put in at once.
LED_OUT = 12
# m of duct that a metre is worth by which boards get shorter, where it can stand nowhere else.
# Allowance.
BOARDS = 3.0


@dataclass(frozen=True)
class CollectorPlace:
    """A place for a collector: it, the layout with which it was judged, and what speaks for and
    against.

    `spare` is the height left over it (m), `loudest` what the nearest user hears, `over_amps` what
    its circuit lacks (A), `shortens` whose boards it would be in the way of.
    """

    collector: Collector
    words: str
    proposal: Proposal = field(repr=False)
    spare: float
    loudest: Loudness | None
    over_amps: float
    shortens: tuple[Shortened, ...] = ()

    @property
    def rank(self) -> tuple[float, ...]:
        """Smaller is better."""
        return self.proposal.rank


@dataclass(frozen=True)
class CollectorPlaces:
    """The places that are offered, the best first; how many were looked at, and in how many
    seconds.
    """

    collector: str
    places: tuple[CollectorPlace, ...]
    tried: int
    seconds: float
    complete: bool = True


OnProgress = Callable[[CollectorPlaces], None]


def where_to_stand(
    project: Project,
    collector: str | None = None,
    *,
    seed: int = 0,
    should_continue: Callable[[], bool] = lambda: True,
    on_progress: OnProgress = lambda found: None,
    crew: Crew = ALONE,
) -> CollectorPlaces:
    """Three places for a collector, the best first, each with the ducts that it would have.

    `collector` is its id, the first one's without it. What is pinned stays. Raises `RefusedEdit`
    when there is none, no machine has a port, it stands in another room, or it fits nowhere. `crew`
    are helpers that lay some of the ducts.
    """
    return _Placing(project, collector, seed, should_continue, on_progress, crew).all()


def first_place(project: Project, collector: str) -> Collector | None:
    """Where a collector that is just put in had better stand, by a rough figure; at once.

    Along a wall, free, with straight duct before its inlet, near to what needs most air. None where
    it fits nowhere, stands in another room, or no machine has a port yet.
    """
    try:
        placing = _Placing(project, collector, 0, lambda: True, lambda found: None, ALONE)
    except RefusedEdit:
        return None
    return placing.roughly_best()


class _PlacesRequest(NamedTuple):
    """What a helper is sent: the shop without the collector's ducts, places for it, how many trees
    are to be tried.
    """

    bare: Project
    items: tuple[Collector, ...]
    # None: laid for the most air, as whole layouts are.
    trees: int | None
    seed: int

    def laid(self, number: int) -> Proposal | None:
        """The ducts that the collector would have at one of the places."""
        item = self.items[number]
        there = with_candidate(self.bare, item.id, item)
        if self.trees is None:
            return well_laid(there, self.seed)
        return quickly_laid(there, self.trees, self.seed)


class WorkerTask:
    """Ducts for one place after the other, as a helper lays them."""

    def __init__(self, sent: _PlacesRequest, last: object) -> None:
        del last
        self._sent = sent

    def part(self, number: int) -> tuple[Project, tuple[str, ...]] | None:
        """The shop with the ducts, and the pickups that they leave out; None where nothing can be
        laid.
        """
        laid = self._sent.laid(number)
        return None if laid is None else (laid.project.replaced(), laid.stranded)


class _Placing:
    def __init__(
        self,
        project: Project,
        collector: str | None,
        seed: int,
        should_continue: Callable[[], bool],
        on_progress: OnProgress,
        crew: Crew,
    ) -> None:
        if not project.collectors:
            raise RefusedEdit("the collector", "finding its place", "put one in first (stage 3)")
        if not project.pickup:
            raise RefusedEdit(
                "the collector",
                "finding its place",
                "put down a machine with a port first (stage 2)",
            )
        self.item = project.collector[collector or project.collectors[0].id]
        if self.item.stands in ("next room", "outdoors"):
            raise RefusedEdit(
                self.item.name,
                "finding its place outside these rooms",
                "say first that it stands in the room",
            )
        self.project, self.seed, self.should_continue, self.on_progress, self.crew = (
            project,
            seed,
            should_continue,
            on_progress,
            crew,
        )
        self._began = time.monotonic()
        self.tried = 0
        self.bare = _without_its_ducts(project, self.item.id)
        self.others = removed(self.bare, [self.item.id])
        self.space, self.bare_space = FloorSpace(self.others), FloorSpace(self.bare)

    def all(self) -> CollectorPlaces:
        """The search: all places by a rough figure, some with quickly laid ducts, the best with
        well laid ones.
        """
        rough = self._spread(sorted(self._fitting(), key=lambda pair: pair[0]))[:ROUGHLY]
        here = [self.item] if self._inside(self.item) else []
        if not rough and not here:
            raise RefusedEdit(
                self.item.name,
                "standing anywhere in these rooms",
                "make room for its body and the side from which its bin is pulled, or choose a "
                "smaller one",
            )
        quick = self._judged([*here, *(item for _, item in rough)], QUICK_TREES)
        best = self._apart(quick)
        well = self._judged([place.collector for place in best], None)
        return self._answer(well or best, complete=True)

    def _answer(self, found: list[CollectorPlace], *, complete: bool) -> CollectorPlaces:
        chosen = self._apart(found)
        return CollectorPlaces(
            self.item.id, tuple(chosen), self.tried, time.monotonic() - self._began, complete
        )

    def _apart(self, found: list[CollectorPlace]) -> list[CollectorPlace]:
        """The best places that are worth an offer each."""
        # Places that nothing can be led to are none, as long as there is another one.
        led_to = [place for place in found if place.proposal.duct + place.proposal.hose > 0]
        chosen: list[CollectorPlace] = []
        for place in sorted(led_to or found, key=lambda one: one.rank):
            if all(_apart(place.collector, other.collector) >= APART for other in chosen):
                chosen.append(place)
        return chosen[:OFFERED]

    def _judged(self, items: list[Collector], trees: int | None) -> list[CollectorPlace]:
        # A fresh value, without all that is cached in the project: it goes through a pipe.
        sent = _PlacesRequest(self.bare.replaced(), tuple(items), trees, self.seed)
        found: dict[int, CollectorPlace] = {}

        def own(number: int) -> tuple[Project, tuple[str, ...]] | None:
            laid = sent.laid(number)
            if laid is not None:
                take(number, laid)
            return None

        def take(number: int, laid: Proposal) -> None:
            found[number] = self._place(items[number], laid)
            self.on_progress(self._answer(in_turn(), complete=False))

        def in_turn() -> list[CollectorPlace]:
            return [found[number] for number in sorted(found)]

        for number, elsewhere in enumerate(
            self.crew.share(WorkerTask, sent, len(items), own, self.should_continue) or ()
        ):
            self.tried += 1
            if elsewhere is not None:
                take(number, as_laid(*elsewhere))
        return sorted(in_turn(), key=lambda one: one.rank)

    def _place(self, item: Collector, laid: Proposal) -> CollectorPlace:
        heard = [
            loud
            for machine in laid.project.machines
            if machine.pickups and (loud := at_machine(laid.project, item, machine)) is not None
        ]
        load = worst_load(laid.project, item.id)
        over = max(load.amps - load.allowed, 0.0) if load is not None else 0.0
        loudest = max(heard, key=lambda loud: loud.level, default=None)
        words = "Where it stands now" if item == self.item else where(laid.project, item)
        spare, lost = fit(laid.project, item).spare, tuple(shortened(self.space, item))
        return CollectorPlace(item, words, laid, spare, loudest, over, lost)

    # -- places where it fits

    def roughly_best(self) -> Collector | None:
        """The best place by the rough figure; inlets are looked at only where ducts are short."""
        near = sorted(
            self._free_places(),
            key=lambda item: self._far(inlet_of(item)[:2]) + self._in_the_way(item),
        )
        found = [(self._rough(item), number) for number, item in enumerate(near[:LED_OUT])]
        return near[min(found)[1]] if found else None

    def _fitting(self) -> Iterator[tuple[float, Collector]]:
        """Every free place along a wall, with a rough figure of what its ducts would take (m)."""
        for item in self._free_places():
            yield self._rough(item), item

    def _rough(self, item: Collector) -> float:
        """The way to the ports (m of duct), more where little straight duct fits at the inlet."""
        level, bore = self._main
        inlet = led_out(self._ducts, item, level, bore)
        straight = INLET_COST * (5.0 - min(inlet.diameters, 5.0))
        return self._far(inlet.foot) + straight + self._in_the_way(item)

    def _in_the_way(self, item: Collector) -> float:
        """What it is worth (m of duct) that boards get no shorter."""
        return BOARDS * length_lost(shortened(self.space, item))

    def _far(self, place: XY) -> float:
        """The way (m) from a place to the ports along right angles; much air counts for more.

        A port that is too near counts against it: between the two go elbow, gate and wye.
        """
        ways = [(abs(place[0] - x) + abs(place[1] - y), weight) for x, y, weight in self._ports]
        far = sum(way * weight for way, weight in ways) / len(ways)
        return far + CROWDED * sum(max(ROOM_FOR_FITTINGS - way, 0.0) for way, _ in ways)

    @cached_property
    def _ports(self) -> list[tuple[float, float, float]]:
        """Where each port is (m), and how much its distance counts."""
        needs = [need(p, self.others.settings).airflow for _, p in self.others.pickup.values()]
        most = max(needs)
        return [
            (*position(self.others, ref)[:2], 0.3 + flow / most)
            for ref, flow in zip(self.others.pickup, needs, strict=True)
        ]

    @cached_property
    def _main(self) -> tuple[float, float]:
        """The level and the largest bore (m) of a main that may lead to it."""
        bore = allowed_sizes(self.others, self.item.duct_inlet)[-1]
        return main_level(self.others, self.others.laying, bore), bore

    @cached_property
    def _ducts(self) -> DuctSpace:
        return DuctSpace(self.others)

    def _free_places(self) -> Iterator[Collector]:
        """Every place along a wall where it stands free: out of all boards' ways and clean zones,
        or in them where there is no other.
        """
        kept_free = [self.space.swept_ground, always_free(self.others, self.item)]
        free = self.space.free_ground.difference(shapely.union_all(kept_free))
        unasked = free.difference(self.space.lane_ground)
        noisy = self.space.zoned("noisy zone")
        apart = [] if noisy.is_empty else [unasked.intersection(noisy)]
        # In the zone for it where there is one; in a clean one only where there is no other place.
        for ground in (*apart, unasked.difference(self.space.clean_ground), unasked, free):
            found = list(self._standing_on(ground))
            if found:
                break
        yield from found

    def _standing_on(self, free: Any) -> Iterator[Collector]:
        """Every place along a wall where it stands on some ground."""
        room = self.space.floor.difference(
            shapely.union_all([b.shape for b in self.space.bodies()])
        )
        shapely.prepare(free)
        shapely.prepare(room)
        for item in self._along_walls():
            self.tried += 1
            if self._stands(item, free, room):
                yield item

    def _along_walls(self) -> Iterator[Collector]:
        """It at steps along each wall, in all four directions, and in its corners."""
        for room in self.project.rooms:
            for (ax, ay), (bx, by) in walls(room.outline):
                length = math.dist((ax, ay), (bx, by))
                ux, uy = (bx - ax) / length, (by - ay) / length
                wall = math.degrees(math.atan2(uy, ux))
                # In all four directions and on both sides of the wall; those outside are thrown out
                # later.
                for turn, side in itertools.product((0.0, 90.0, 180.0, 270.0), (1.0, -1.0)):
                    deep = (
                        self.item.depth if turn in (0.0, 180.0) else self.item.width
                    ) / 2 + FROM_WALL
                    wide = (
                        self.item.width if turn in (0.0, 180.0) else self.item.depth
                    ) / 2 + FROM_WALL
                    steps = max(int((length - 2 * wide) / EVERY) + 1, 0)
                    for number in range(steps + 1):
                        along = min(wide + number * EVERY, length - wide)
                        x = ax + ux * along - uy * deep * side
                        y = ay + uy * along + ux * deep * side
                        yield self.item.model_copy(
                            update={
                                "x": round(x, 4),
                                "y": round(y, 4),
                                "turn": round((wall + turn) % 360, 4),
                            }
                        )

    def _stands(self, item: Collector, free: Any, room: Any) -> bool:
        """Whether it fits there: free ground, height, and room on the sides from which it is
        served.
        """
        if not free.contains(ground_of(item)):
            return False
        if any(
            plan(service_outline(body, side)).difference(room).area
            > 0.03 * body.width * body.service_depth
            for body in own_bodies(item)
            for side in body.service
        ):
            return False
        return fit(self.others, item).spare >= 0

    def _inside(self, item: Collector) -> bool:
        """Whether it stands somewhere already where it fits under the ceiling and in nothing
        else.
        """
        return (
            fit(self.bare, item).spare >= 0
            and not self.bare_space.outside(item)
            and not self.bare_space.overlaps(item)
        )

    def _spread(self, found: list[tuple[float, Collector]]) -> list[tuple[float, Collector]]:
        """The best of places that lie close together and face the same way."""
        kept_ones: list[tuple[float, Collector]] = []
        for cost, item in found:
            if all(
                _apart(item, other) >= SPREAD
                or (other.turn != item.turn and _apart(item, other) > EVERY / 2)
                for _, other in kept_ones
            ):
                kept_ones.append((cost, item))
        return kept_ones


def _apart(a: Collector, b: Collector) -> float:
    return math.dist((a.x, a.y), (b.x, b.y))


def _without_its_ducts(project: Project, collector: str) -> Project:
    """The project without what is laid anew, for a collector whose ducts are not pinned."""
    held = kept(project)
    pinned = [run.id for run in held.base.runs if collector in run.ends]
    if pinned:
        raise RefusedEdit(
            project.collector[collector].name,
            "moving it while its ducts are pinned",
            "unpin what leads to its inlet",
        )
    return held.base


def where(project: Project, item: Collector) -> str:
    """A place in words, as one would point at it: its wall or corner, and what it stands beside."""
    body = plan(footprint(item))
    near: dict[str, float] = {}
    for start, end in walls_of(project.rooms):
        side = _side_of(start, end, item)
        away = shapely.LineString([start, end]).distance(body)
        if side and away < AT_WALL:
            near[side] = min(away, near.get(side, away))
    upright = next((side for side in ("left", "right") if side in near), "")
    level = next((side for side in ("upper", "lower") if side in near), "")
    if upright and level:
        at = f"{level.capitalize()} {upright} corner"
    elif upright or level:
        at = f"{(upright or level).capitalize()} wall"
    else:
        at = "In the room"
    beside = _beside(project, item, body)
    if beside:
        return f"{at}, beside {beside}"
    display = Display(project.settings.units)
    west, south, _, _ = bounds(project.corners)
    if level:
        return f"{at}, {display.about(item.x - west)} from the left"
    return f"{at}, {display.about(item.y - south)} from below"


def _side_of(start: XY, end: XY, item: Collector) -> str:
    """On which side of a collector a wall is, as the plan shows it; nothing for one aslant."""
    dx, dy = abs(end[0] - start[0]), abs(end[1] - start[1])
    if dy < 0.05 * dx:
        return "lower" if start[1] < item.y else "upper"
    if dx < 0.05 * dy:
        return "left" if start[0] < item.x else "right"
    return ""


def _beside(project: Project, item: Collector, body: Any) -> str:
    """The nearest thing that stands beside a collector, by its name; nothing without one."""
    names = Names(project)
    others = [(plan(footprint(machine)), machine.id) for machine in project.machines]
    others += [
        (plan(f.outline), f.id) for f in project.features if f.kind not in FLAT and not f.away
    ]
    others += [(shapely.LineString([o.start, o.end]), o.id) for o in project.openings]
    near = [(body.distance(shape), ident) for shape, ident in others if ident != item.id]
    away, ident = min(near, default=(math.inf, ""))
    return names.of(ident) if away <= BESIDE else ""


def taken(project: Project, place: CollectorPlace) -> Project:
    """The project with its collector at a place; where it had ducts, with those that it was judged
    with.
    """
    if any(place.collector.id in run.ends for run in project.runs):
        return place.proposal.project
    return with_candidate(project, place.collector.id, place.collector)

"""Many trees of ducts for one collector: grown in many orders, the promising ones judged with their
air computed.
"""

from __future__ import annotations

import itertools
import math
import random
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import shapely

from grey_current.design.flow.scenarios import need
from grey_current.design.laying.assemble import assembled
from grey_current.design.laying.drops import drop_places
from grey_current.design.laying.free_ground import duct_ground, main_level
from grey_current.design.laying.inlet import Inlet, ways_out
from grey_current.design.laying.kept import Kept, joinable
from grey_current.design.laying.lattice import HEADINGS, SQUARE, Lattice, lattice
from grey_current.design.laying.routes import JoinableDuct, Layout, OntoLeg, OntoRun
from grey_current.design.laying.sizes import allowed_sizes
from grey_current.design.laying.tree import WYE, RoutingGrid, grow
from grey_current.design.space.clashes import DuctSpace
from grey_current.shop.catalogue import FITS_OVER, size_for_port
from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import Run
from grey_current.shop.model import Project
from grey_current.shop.places import position
from grey_current.shop.room import building_turn

# Diameters of straight pipe behind a fitting: as it should be, and where there is no room for that.
BEHIND = (2.5, 1.0)
# How much dearer each metre away from the wall makes a metre of duct that is to follow the walls.
# Allowance.
HUG = 0.6
# The same where the user wants the main along the wall. Allowance.
WALL_HUG = 2.0
# What a metre onwards to the collector counts beside a metre of new duct.
SHALLOW = (0.0, 0.35, 0.8)
# Orders in which ways round what is laid are looked for in any case.
THOROUGH = 8
# m between two ducts side by side. Allowance.
APART = 0.05
# Degrees at most by which a main turns into the straight pipe before a level inlet.
TURN_ARRIVES = 100.0


@dataclass(frozen=True)
class Site:
    """One collector's ducts to be laid: the project without them, what stays, the pickups, the bore
    (m) of a main.
    """

    kept: Kept
    collector: Collector
    refs: tuple[str, ...]
    bore: float
    seed: int = 0

    @property
    def base(self) -> Project:
        """The project without what is laid anew."""
        return self.kept.base


@dataclass(frozen=True)
class Grounds:
    """What trees of a site grow on, and the collector's first duct, None where it has one."""

    ground: RoutingGrid
    inlet: Inlet | None


def site(kept: Kept, collector: Collector, refs: Sequence[str], seed: int = 0) -> Site:
    """A site whose main is as wide as the inlet and the sizes allow."""
    return Site(
        kept, collector, tuple(refs), allowed_sizes(kept.base, collector.duct_inlet)[-1], seed
    )


@dataclass(frozen=True)
class Liking:
    """Which ways are liked.

    Attributes:
        hug: How much dearer each metre away from the wall makes a metre of duct.
        aslant: How much dearer a metre at 45° to the walls is than one along them.
        low_side: Under a slope the main lies at the low side's height, not where one walks under
            it.
        at_inlet: The main lies as high as the collector's inlet, not where it was chosen.
    """

    hug: float = 0.0
    aslant: float = SQUARE
    low_side: bool = False
    at_inlet: bool = False


# Square to the walls, wherever the least duct leads.
ANYWHERE = Liking()


def grounds(place: Site, space: DuctSpace, liking: Liking) -> Grounds:
    """The grid and all ways over it for a site; pickups that nothing leads to are tried again with
    fittings closer.

    Raises nothing.
    """
    made = _grounds(place, space, liking, BEHIND[0], soft=False)
    stuck = [ref for ref in place.refs if not _reaches(made.ground, ref)]
    if not stuck:
        return made
    tight = _grounds(place, space, liking, BEHIND[1], soft=True)
    better = [ref for ref in stuck if _reaches(tight.ground, ref)]
    return tight if better else made


def _reaches(ground: RoutingGrid, ref: str) -> bool:
    """Whether a pickup finds a way to the collector or to a duct that stays."""
    ways = ground.ways.get(ref)
    if ways is None:
        return False
    states = [*ground.at_collector, *ground.rays.states.tolist()]
    return any(math.isfinite(ways.cost[state]) for state in states)


def _grounds(
    place: Site, space: DuctSpace, liking: Liking, behind: float, *, soft: bool
) -> Grounds:
    base, bore, item = place.base, place.bore, place.collector
    hug = liking.hug
    if base.laying.height == "along the wall":
        hug = max(hug, WALL_HUG)
    if liking.at_inlet:
        level = round(position(base, item.id)[2], 3)
    else:
        level = main_level(base, base.laying, bore, low_side=liking.low_side)
    trunks = joinable(base, item.id)
    inlet: Inlet | None = None
    # A duct that stays is on its inlet: new ones can only join what is there.
    if any(item.id in run.ends for run in base.runs):
        level = _level_of(base, trunks, level)
        origin = position(base, item.id)[:2]
    else:
        out = ways_out(space, item, level, bore)
        level = out[0].height
        free = duct_ground(space, item, level, bore, base.runs, soft)
        inlet = next((one for one in out if shapely.intersects_xy(free.free, *one.foot)), out[0])
        origin = inlet.foot
    if inlet is None:
        free = duct_ground(space, item, level, bore, base.runs, soft)
    grid = lattice(
        free.free,
        origin,
        building_turn(base.rooms),
        behind * bore,
        free.in_walls,
        free.in_walls,
        hug,
        liking.aslant,
    )
    starts = [drop_places(grid, space, ref, level, inlet, bore, soft=soft) for ref in place.refs]
    known = dict(zip(place.refs, grid.ways(starts), strict=True))
    ways = {ref: way for ref, way in known.items() if way.first}
    foot = _node_at(grid, origin) if inlet is not None and inlet.blocked is None else None
    if foot is not None and inlet:
        arrive = tuple(h for h in range(HEADINGS) if _arrives(grid, inlet, h))
    else:
        arrive = ()
    near = [
        JoinableDuct(OntoRun(r), *_ends(base, r, up), base.run[r].diameter)
        for r, up, height in trunks
        if abs(height - level) < 0.06
    ]
    bores = {ref: _least_bore(place, ref) for ref in place.refs}
    return Grounds(
        RoutingGrid(grid, ways, level, foot, arrive, tuple(near), bore + APART, bores, free.solid),
        inlet,
    )


def _least_bore(place: Site, ref: str) -> float:
    """The least bore (m) of a pickup's duct: the smallest size allowed that takes its port."""
    port = size_for_port(place.base, place.base.pickup[ref][1].port)
    sizes = allowed_sizes(place.base, place.collector.duct_inlet)
    return next((size for size in sizes if size >= port - FITS_OVER), sizes[-1])


def _level_of(base: Project, trunks: list[tuple[str, str, float]], otherwise: float) -> float:
    """The height (m) at which most of the level duct lies."""
    lengths: dict[float, float] = {}
    for run, _, height in trunks:
        a, b = _ends(base, run, base.run[run].start)
        lengths[round(height, 2)] = lengths.get(round(height, 2), 0.0) + math.dist(a, b)
    if not lengths:
        return otherwise
    most = max(lengths, key=lambda height: lengths[height])
    return next(height for _, _, height in trunks if round(height, 2) == most)


def _ends(
    base: Project, run: str, upstream: str
) -> tuple[tuple[float, float], tuple[float, float]]:
    item: Run = base.run[run]
    down = item.start if item.end == upstream else item.end
    return position(base, upstream)[:2], position(base, down)[:2]


def _node_at(grid: Lattice, place: tuple[float, float]) -> int | None:
    """The node at a place, which is one of the grid's; None where it is not free."""
    if not grid.nodes:
        return None
    away = (grid.xy[:, 0] - place[0]) ** 2 + (grid.xy[:, 1] - place[1]) ** 2
    node = int(away.argmin())
    return node if away[node] < 1e-6 else None


def _arrives(grid: Lattice, inlet: Inlet, heading: int) -> bool:
    """Whether a main may come to the collector's first duct by a heading."""
    if not inlet.level or inlet.heading is None:
        return True
    x, y = grid.frame.heading(heading)
    turn = math.degrees(math.acos(min(1.0, max(-1.0, x * inlet.heading[0] + y * inlet.heading[1]))))
    return turn <= TURN_ARRIVES


def layouts(place: Site, made: Grounds) -> Iterator[Layout | None]:
    """Trees for a site without end, grown in orders that make sense and in random ones; the same
    for the same seed. None stands for one like another before it.
    """
    base = place.base
    refs = list(place.refs)
    if not refs:
        return
    needs = needs_of(place)
    origin = position(base, place.collector.id)
    away = {ref: math.dist(position(base, ref)[:2], origin[:2]) for ref in refs}
    # Farthest first makes a long main, nearest first a short one; hungry ones first get the
    # straight ways.
    sensible = [
        sorted(refs, key=lambda r: -away[r]),
        sorted(refs, key=lambda r: away[r]),
        sorted(refs, key=lambda r: -needs[r]),
        sorted(refs, key=lambda r: -needs[r] * away[r]),
    ]
    chance = random.Random(place.seed)
    seen: set[object] = set()
    best: list[str] = sensible[0]
    least = (math.inf, math.inf)
    for number in itertools.count():
        # Every order is grown with each weight of the air's way against pipe; then the best order
        # so far is varied by chance.
        shallow = SHALLOW[number % len(SHALLOW)]
        if number // len(SHALLOW) < len(sensible):
            order = sensible[number // len(SHALLOW)]
        else:
            order = _next(best, chance)
        # Ways round are looked for in the first orders, and until a tree leads to all.
        thorough = number < len(SHALLOW) * THOROUGH or least[0] > 0
        layout = grow(made.ground, order, shallow, round_about=thorough)
        worth = (len(layout.stranded), layout.cost)
        if worth < least:
            best, least = order, worth
        yield layout if layout.shape not in seen else None
        seen.add(layout.shape)


def needs_of(place: Site) -> dict[str, float]:
    """The airflow (m³/s) that each pickup of a site needs."""
    base = place.base
    return {ref: need(base.pickup[ref][1], base.settings).airflow for ref in place.refs}


def grown_like(made: Grounds, layout: Layout, chance: random.Random) -> Layout:
    """A tree with one pickup at another place in the order of a tree."""
    order = [leg.ref for leg in layout.legs] + list(layout.stranded)
    return grow(made.ground, _moved(order, chance), chance.choice(SHALLOW))


def _next(best: list[str], chance: random.Random) -> list[str]:
    """Another order: the best one with one pickup moved, or any."""
    if chance.random() < 0.3:
        return chance.sample(best, len(best))
    return _moved(best, chance)


def _moved(order: list[str], chance: random.Random) -> list[str]:
    """An order with one pickup moved."""
    left = list(order)
    moved = left.pop(chance.randrange(len(left)))
    left.insert(chance.randint(0, len(left)), moved)
    return left


def reach_cost(layout: Layout, weights: Mapping[str, float]) -> float:
    """How far the air has to go, in m of duct with allowances for turns and wyes, weighted by
    pickup.
    """
    behind: list[float] = []
    total = 0.0
    for leg in layout.legs:
        own = leg.length + 0.8 * leg.turns
        far = own
        if isinstance(leg.target, OntoLeg):
            far += WYE + behind[leg.target.number] * 0.9
        behind.append(far)
        total += weights.get(leg.ref, 1.0) * far
    return total


def built(place: Site, made: Grounds, layout: Layout) -> tuple[Project, frozenset[str]]:
    """A layout as ducts in the widest bore, and its new runs."""
    return assembled(place.base, layout, made.inlet if layout.legs else None, place.bore)

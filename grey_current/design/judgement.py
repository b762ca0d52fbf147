"""The one judgement of a shop, for everything that advises or searches. docs/judgement.md says it
in words.

For every scenario and every pickup in use: is its need met, are its chips carried on every run of
its path. Then what is hit or unreachable, what cannot be put together, and what the supply does
not bear. Then margin; then money and work. A design is better when its trouble is less; of two
with the same trouble, when its margin is larger; then when it costs less.
"""

from __future__ import annotations

import itertools
import math
import operator
from collections.abc import Callable, Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import Any, NamedTuple, TypeVar

from grey_current.air.needs import MET_FROM
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.flow.scenarios import Scenario
from grey_current.design.flow.transport import path_shares
from grey_current.design.parts.buildable import WEIGHTS, BuildSet, Unbuildable, build_set_of
from grey_current.design.parts.costs import shop_cost
from grey_current.design.parts.takeoffs import is_hose
from grey_current.design.space.clashes import DuctSpace
from grey_current.design.space.gate_reach import fetching_minutes
from grey_current.design.space.ground import Misplaced
from grey_current.design.space.hits import ClashSet, Hit, clash_set
from grey_current.design.space.hose_reach import carried_hoses, swaps
from grey_current.design.supply.circuits import (
    all_loads,
    circuit_of,
    machines_of_collectors,
    supply_troubles,
)
from grey_current.design.words import transport_word
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.names import Names, pickup_words
from grey_current.units import Display

ItemT = TypeVar("ItemT")
# A scenario and a pickup ("machine/pickup") that is in use in it.
Key = tuple[Scenario, str]

# Share of a need, or of a transport velocity, by which a figure may move without being called
# another. Allowance.
SAME = 0.005
# Share of its need that a pickup must lose before it is said. Allowance.
LOSES = 0.01
# Trouble of one thing hit, unreachable or without supply: as much as a machine that gets no air.
HARD = 1.0
# Minutes in a week of moving a hose that are as much trouble as a machine without air: what is so
# tedious is left undone. Allowance.
TEDIOUS = 60.0
# Trouble of something that is too tall for its place, and of a side that must be reached and is
# blocked. Allowance.
MISPLACED = {"tall": HARD, "service": 0.25}
# m of duct that people walk into or stumble over, or that hangs low over a table, which are as much
# trouble as a machine without air. Allowance.
LOW = 20.0
# What a circuit adds to that for each time over that it bears what its breaker allows. Allowance.
EXCESS = 0.25
# m of such duct that are not worth a word. Allowance.
LEAST_LOWER = 0.3
# Share of a need beyond which more air is no more margin. Allowance.
SPARE = 1.25


class PickupJudged(NamedTuple):
    """One pickup in one scenario: airflow and need (m³/s), the slowest air on its path over what
    its chips need.

    `airflow` is 0 where nothing is connected, and `transport` then None.
    """

    airflow: float
    need: float
    transport: float | None
    slowest_run: str | None

    @property
    def share(self) -> float:
        """Airflow over need."""
        return self.airflow / self.need

    @property
    def met(self) -> bool:
        """Whether the need is met."""
        return self.share >= MET_FROM

    @property
    def carried(self) -> bool:
        """Whether chips are carried on every run of the path."""
        return self.transport is not None and self.transport >= 1 - SAME

    @property
    def trouble(self) -> float:
        """What is lacking, 0 when need and chips are in order, up to 2."""
        short = 0.0 if self.met else max(1 - self.share, 0.0)
        slow = (
            max(1 - self.transport, 0.0) if self.transport is not None and not self.carried else 0.0
        )
        return short + slow


@dataclass(frozen=True)
class Judgement:
    """What a shop is judged to be: every pickup in every scenario, what is hit, what the supply
    does not bear (each with its trouble), what cannot be put together (None: only the air).
    """

    pickups: Mapping[Key, PickupJudged]
    ground: ClashSet
    supply: Mapping[tuple[str, str], float]
    unanswered: frozenset[Scenario]
    build: BuildSet | None
    # Minutes in a week for which hoses are moved from port to port, and for which steps or hooks
    # are fetched for gates out of reach.
    moving: float
    fetching: float
    # The project whose parts are counted as money; None where only the air is judged.
    shop: Project | None
    work: int

    @property
    def hits(self) -> frozenset[Hit]:
        """What is hit or out of reach."""
        return self.ground.hits

    @property
    def unbuildable(self) -> frozenset[Unbuildable]:
        """What cannot be put together."""
        return self.build.troubles if self.build is not None else frozenset()

    @cached_property
    def price(self) -> float | None:
        """What the parts that have a price cost; None where none has, or only the air is judged."""
        return shop_cost(self.shop) if self.shop is not None else None

    @cached_property
    def low(self) -> float:
        """M of level duct that people walk into or stumble over, or that hangs low over a table."""
        shop = self.shop
        if shop is None:
            return 0.0
        ground = self.ground.ducts.ground
        rigid = [run for run in shop.runs if not is_hose(run)]
        return math.fsum([ground.in_the_way(shop, run) for run in rigid])

    @property
    def misplaced(self) -> frozenset[Misplaced]:
        """What stands too tall, or where a side that must be reached is blocked."""
        return self.ground.ducts.ground.misplaced if self.shop is not None else frozenset()

    @cached_property
    def trouble(self) -> float:
        """Everything that is not in order, added up."""
        build = math.fsum([WEIGHTS[item.kind] for item in self.unbuildable])
        standing = math.fsum([MISPLACED[item.kind] for item in self.misplaced])
        hits = HARD * (len(self.hits) + self.low / LOW)
        return self._certain + hits + standing + build

    @property
    def least_trouble(self) -> float:
        """What `trouble` cannot be less than, without looking for all that is hit or cannot be
        put together.
        """
        return self._certain + HARD * len(self.ground.sure)

    @property
    def _certain(self) -> float:
        """What is known without looking at anything in space."""
        known = math.fsum(self.supply.values()) + HARD * len(self.unanswered)
        return self._soft + known + HARD * (self.moving + self.fetching) / TEDIOUS

    @cached_property
    def _soft(self) -> float:
        """What is not in order with the pickups."""
        return math.fsum([p.trouble for p in self.pickups.values()])

    @cached_property
    def margin(self) -> float:
        """The mean share of the needs, each counted up to `SPARE`."""
        shares = [min(p.share, SPARE) for p in self.pickups.values()]
        return math.fsum(shares) / len(shares) if shares else 0.0

    def with_more(self, more: Judgement) -> Judgement:
        """This judgement of the air with that of more scenarios."""
        return replace(
            self,
            pickups={**self.pickups, **more.pickups},
            unanswered=self.unanswered | more.unanswered,
        )

    @property
    def by_air(self) -> tuple[float, float]:
        """Smaller is better: trouble, margin (less is worse)."""
        return round(self.trouble, 3), -round(self.margin, 3)

    @property
    def rank(self) -> tuple[float, float, float, int]:
        """Smaller is better: trouble, margin, money, work."""
        return *self.by_air, self.price or 0.0, self.work

    def served(self) -> tuple[int, int]:
        """Scenarios in which every pickup has its need met and its chips carried, of all that have
        pickups.
        """
        fine: dict[Scenario, bool] = {}
        for (scenario, _), pickup in self.pickups.items():
            fine[scenario] = fine.get(scenario, True) and pickup.met and pickup.carried
        return sum(fine.values()), len(fine)

    @property
    def worst(self) -> float:
        """The smallest share of a need."""
        return min((p.share for p in self.pickups.values()), default=0.0)

    @property
    def slowest(self) -> float | None:
        """The slowest air anywhere over what the chips need; None when nothing is connected."""
        return min(
            (p.transport for p in self.pickups.values() if p.transport is not None), default=None
        )


def judge(assessment: Assessment, before: Judgement | None = None) -> Judgement:
    """The judgement of a shop whose air is known for every scenario that it counts with.

    `before` is the judgement of a similar project; what cannot have changed is taken from it.
    Raises nothing.
    """
    project = assessment.project
    air = air_judgement(assessment)
    same_supply = before is not None and _same_supply(before.ground.project, project)
    return Judgement(
        air.pickups,
        clash_set(project, before.ground if before else None),
        before.supply if same_supply and before else dict(_supply(project)),
        air.unanswered,
        BuildSet(project, before.build) if before else build_set_of(project),
        math.fsum([swaps(project, hose).minutes for hose in carried_hoses(project)]),
        fetching_minutes(project),
        project,
        len(project.runs) + len(project.gates),
    )


@lru_cache(maxsize=2)
def judgement_of(now: Assessment) -> Judgement:
    """The judgement of the shop as it is, kept while one search after the other asks about it.
    Raises nothing.
    """
    return judge(now)


def best_first(
    items: Iterable[ItemT], first: Callable[[ItemT], Any], then: Callable[[ItemT], Any]
) -> list[ItemT]:
    """In the order of `first`; `then`, which takes longer to work out, is asked only of those that
    are alike in it.
    """
    ordered: list[ItemT] = []
    for _, group in itertools.groupby(sorted(items, key=first), key=first):
        alike = list(group)
        ordered += sorted(alike, key=then) if len(alike) > 1 else alike
    return ordered


def air_judgement(assessment: Assessment) -> Judgement:
    """The judgement of the air alone, for changes that can hit nothing and draw no current. Raises
    nothing.
    """
    project = assessment.project
    pickups: dict[Key, PickupJudged] = {}
    answers = assessment.counted.answers
    for answer in answers:
        pickups.update(judged_pickups(project, answer))
    unanswered = frozenset([answer.scenario for answer in answers if not answer.converged])
    nothing = ClashSet(project, frozenset(), lambda: (DuctSpace(project), ()))
    return Judgement(pickups, nothing, {}, unanswered, None, 0.0, 0.0, None, 0)


def judged_pickups(project: Project, answer: ScenarioAir) -> Iterator[tuple[Key, PickupJudged]]:
    """Every pickup in use in one scenario, judged by its air alone."""
    slowest = path_shares(project, answer)
    for p in answer.pickups:
        ref = f"{p.machine}/{p.pickup}"
        share, run = slowest.get(ref, (None, None))
        yield (
            (answer.scenario, ref),
            # Into its own bag it blows through a short hose: nothing settles there.
            PickupJudged(
                0.0 if p.loose else p.airflow, p.need.airflow, 1.0 if p.by_itself else share, run
            ),
        )


def _supply(project: Project) -> Iterator[tuple[tuple[str, str], float]]:
    """What the supply does not bear, with its trouble: more, the further it is overloaded."""
    for trouble in supply_troubles(project):
        yield (trouble.kind, trouble.element), HARD
    loads = [load for load in all_loads(project) if not load.fits]
    # The one that is furthest beyond its breaker comes last and stays.
    for load in sorted(loads, key=lambda load: load.amps / load.allowed):
        yield ("overload", load.circuit), HARD + EXCESS * (load.amps / load.allowed - 1)


def _same_supply(a: Project, b: Project) -> bool:
    """Whether all that draws current, and what it is plugged into, is as it was."""
    parts = ("collectors", "circuits", "outlets", "settings")
    if len(a.machines) != len(b.machines) or any(
        getattr(a, part) != getattr(b, part) for part in parts
    ):
        return False
    pairs = zip(a.machines, b.machines, strict=True)
    same = (one is two or _plugged(a, one) == _plugged(b, two) for one, two in pairs)
    return all(same) and (
        _same_ends(a, b) or machines_of_collectors(a) == machines_of_collectors(b)
    )


def _plugged(project: Project, machine: Machine) -> object:
    """What of a machine counts for what its supply bears: where it stands only for the outlet that
    is nearest.
    """
    pickups = tuple([pickup.id for pickup in machine.pickups])
    return circuit_of(project, machine), machine.model_copy(
        update={"pickups": pickups, "x": 0.0, "y": 0.0}
    )


def _same_ends(a: Project, b: Project) -> bool:
    ends = operator.attrgetter("start", "end", "also_serves")
    runs = zip(a.runs, b.runs, strict=True) if len(a.runs) == len(b.runs) else None
    return runs is not None and all(one is two or ends(one) == ends(two) for one, two in runs)


# -- two judgements against one another


@dataclass(frozen=True)
class Worsening:
    """Something that a change makes worse: in words, and how much trouble it adds.

    `loser` is the pickup that gets less of what was too little already, where that is what gets
    worse.
    """

    words: str
    trouble: float
    loser: str | None = None


def worsenings(project: Project, before: Judgement, after: Judgement) -> list[Worsening]:
    """What gets worse from one judgement to another, the worst first, in words that go beside an
    offer.

    `project` is the one after. A need or a path that was in order and is not any more is said, and
    so is what was not in order and gets worse; spare air that is lost while the need stays met is
    not.
    """
    names, display = Names(project), Display(project.settings.units)
    found: list[Worsening] = []
    for key, now in after.pickups.items():
        was = before.pickups.get(key)
        if was is not None:
            found += _of_pickup(project, key, was, now, display)
    found += _settling(project, before, after, names)
    for hit in sorted(after.hits - before.hits):
        found.append(Worsening(f"{names.of(hit.element)} then {hit.words(names)}", HARD))
    found += _of_supply(project, before, after, names)
    more = after.moving - before.moving
    if more >= 1:
        words = f"moving hoses takes about {more:.0f} min more a week"
        found.append(Worsening(words, HARD * more / TEDIOUS))
    more = after.fetching - before.fetching
    if more >= 1:
        words = f"reaching gates takes about {more:.0f} min more a week"
        found.append(Worsening(words, HARD * more / TEDIOUS))
    lower = after.low - before.low
    if lower >= LEAST_LOWER:
        words = f"{display.about(lower)} more of duct then hang in people's way"
        found.append(Worsening(words, HARD * lower / LOW))
    found += [
        Worsening(item.words(names), WEIGHTS[item.kind])
        for item in sorted(after.unbuildable - before.unbuildable)
    ]
    for item in sorted(after.misplaced - before.misplaced):
        does = "is too tall for its place" if item.kind == "tall" else "has a service side blocked"
        found.append(Worsening(f"{names.of(item.element)} then {does}", MISPLACED[item.kind]))
    for scenario in sorted(after.unanswered - before.unanswered, key=lambda s: s.running):
        found.append(Worsening(f"no airflow could be computed for {scenario.name(project)}", HARD))
    return sorted(found, key=lambda worse: -worse.trouble)


def _of_supply(
    project: Project, before: Judgement, after: Judgement, names: Names
) -> Iterator[Worsening]:
    """Circuits that then bear too much, or still more than before; plugs without their outlet."""
    for (kind, element), trouble in sorted(after.supply.items()):
        was = before.supply.get((kind, element), 0.0)
        if trouble <= was + SAME:
            continue
        what = "is overloaded" if kind == "overload" else "has no outlet of its voltage"
        if was:
            what = "is overloaded still more"
        # A leg of the supply is no element.
        who = names.of(element) if element in project.element else element
        yield Worsening(f"{who} then {what}", trouble - was)


def _of_pickup(
    project: Project, key: Key, was: PickupJudged, now: PickupJudged, display: Display
) -> Iterator[Worsening]:
    """A pickup that gets too little where it got enough, or less than the too little that it
    got.
    """
    if now.met or now.share >= was.share - LOSES:
        return
    who = _who(project, key)
    less = display.airflow(max(was.airflow - now.airflow, 0.0))
    got, need = display.airflow(now.airflow, unit=False), display.airflow(now.need)
    changed = abs(now.need - was.need) > SAME * was.need
    added = max(_short(now) - _short(was), 0.0)
    if was.met or changed:
        yield Worsening(f"{who} then gets {got} of {need}", added)
    else:
        yield Worsening(f"{who} loses {less}", added, key[1])


def towards_needs(before: Judgement, after: Judgement) -> float:
    """What all pickups win towards their needs (m³/s), each machine running alone; what is more
    than a need does not count.
    """
    return math.fsum(
        min(p.airflow, p.need) - min(before.pickups[key].airflow, before.pickups[key].need)
        for key, p in after.pickups.items()
        if key in before.pickups and len(key[0].running) == 1
    )


def _short(pickup: PickupJudged) -> float:
    return 0.0 if pickup.met else max(1 - pickup.share, 0.0)


def _settling(
    project: Project, before: Judgement, after: Judgement, names: Names
) -> Iterator[Worsening]:
    """Chips that are carried worse, each machine's on its slowest run; one line for all that settle
    in the same run.
    """
    slower: dict[tuple[str, str], list[tuple[float, Key]]] = {}
    for key, now in after.pickups.items():
        was = before.pickups.get(key)
        if was is None or was.transport is None or now.transport is None or now.slowest_run is None:
            continue
        if not now.carried and now.transport < was.transport - SAME:
            verb = transport_word(min(now.transport, 1 - SAME))
            added = max((1 - now.transport) - (0.0 if was.carried else 1 - was.transport), 0.0)
            slower.setdefault((now.slowest_run, verb), []).append((added, key))
    for (run, verb), keys in slower.items():
        whose = list(
            dict.fromkeys(
                project.machine[key[1].split("/", maxsplit=1)[0]].name.lower() for _, key in keys
            )
        )
        who = f"the {whose[0]}'s" if len(whose) == 1 else f"{len(whose)} machines'"
        does = "then settle" if verb == "settles" else "may then settle"
        yield Worsening(
            f"{who} chips {does} in {names.of(run)}", math.fsum(added for added, _ in keys)
        )


def _who(project: Project, key: Key) -> str:
    scenario, ref = key
    machine, pickup = project.pickup[ref]
    others = [project.machine[m].name.lower() for m in scenario.running if m != machine.id]
    beside = f" with the {' and the '.join(others)}" if others else ""
    return f"the {pickup_words(machine, pickup)}{beside}"

"""How well each collector would do it: put in place one after the other, every scenario solved with
each.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from grey_current.air import laws
from grey_current.air.fan import AIR_POWER_LIMIT, best_air_power, shaft_power
from grey_current.air.gas import Air
from grey_current.air.needs import MET_FROM
from grey_current.air.solver import Solved, solve
from grey_current.design.collector.estimate import assumed_place, rough_network
from grey_current.design.collector.fit import fit
from grey_current.design.collector.plausible import implausible
from grey_current.design.flow import fittings as make
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment, ScenarioAir, System
from grey_current.design.flow.scenarios import Scenario, all_scenarios, need
from grey_current.design.flow.trace import shop_air
from grey_current.design.flow.transport import slowest_transport
from grey_current.design.judgement import (
    HARD,
    SAME,
    Judgement,
    Key,
    PickupJudged,
    best_first,
    judge,
    judgement_of,
)
from grey_current.design.parts.costs import prices, unit_price
from grey_current.design.space.free_places import freely_standing
from grey_current.design.supply.circuits import worst_load
from grey_current.shop import edits
from grey_current.shop.catalogue import CollectorModel, collector_key, fitted, new_collector
from grey_current.shop.collector_edits import exchanged
from grey_current.shop.collectors import Collector
from grey_current.shop.model import Project
from grey_current.shop.places import bounds
from grey_current.spelling import localised
from grey_current.units import Display

Array = NDArray[np.float64]
# Makes the ducts of a shop go with the collector that was put into it.
Refit = Callable[[Project], Project]
# What ducts that are drawn in the end lose, over a first tree's. Measured,
# docs/how-the-collector-is-sized.md.
LESS_LOSS, MORE_LOSS = 0.65, 1.2
# Share of its rated power that a motor bears for long. Allowance.
OVERLOAD = 1.15
# m between a new collector and the walls of its corner.
GAP = 0.1


def fan_power(item: Collector, airflow: float, air: Air) -> float:
    """Power (W) that a collector's fan takes at its shaft at an airflow (m³/s)."""
    return shaft_power(
        make.fan_curve(item.fan, air), airflow, item.motor.power if item.motor else 0.0
    )


@dataclass(frozen=True)
class Offer:
    """What one collector would do for the shop, each scenario on its own.

    `served` of `asked` scenarios have every need met and every chip carried with a seasoned filter,
    `loaded` with one due for cleaning. `worst` is the smallest share of a need and `worst_scenario`
    where; `transport` the slowest air over what chips need. `power` is the largest shaft power (W),
    `overloads` whether the motor would not bear it. `too_tall` is what it lacks in height where it
    would stand (m, 0 when it fits), `over_amps` what its circuit lacks with the machine that draws
    most beside it (A, 0 when it bears it or nothing is known), `implausible` whether neither its
    motor nor its impeller could give its curve. `price` in the user's money where it is given.
    `rank` is where the one judgement puts the shop with it (docs/judgement.md), what stands against
    it beside its air counted too; smaller is better. `judged` is the shop with it, `against` how
    much stands against it. `size` is how large it is (W at the shaft), and `close` how many
    scenarios the uncertainty of the ducts may win or lose: (surely served, perhaps served) with a
    seasoned filter.
    """

    model: str
    served: int
    loaded: int
    asked: int
    worst: float
    worst_scenario: Scenario | None
    transport: float | None
    power: float
    overloads: bool
    too_tall: float
    over_amps: float
    implausible: bool
    price: float | None
    judged: Judgement
    against: int
    size: float
    close: tuple[int, int]

    @property
    def served_words(self) -> str:
        """How many scenarios it serves, with the likely range where ducts are a guess."""
        least, most = self.close
        likely = f", likely {least} to {most}" if least < most else ""
        return f"serves {self.served} of {self.asked}{likely}"

    @property
    def by_air(self) -> tuple[float, int, float]:
        """The first three of `rank`: trouble, what is not served with the filter due, how large it
        is.

        Not margin: of collectors that serve all, the smallest is enough.
        """
        trouble, _ = self.judged.by_air
        return round(trouble + HARD * self.against, 3), self.asked - self.loaded, self.size

    @property
    def rank(self) -> tuple[float, int, float, float, int]:
        """Trouble, what is not served with the filter due, size, money, work."""
        return *self.by_air, *self.judged.rank[2:]


def offer_troubles(project: Project, offer: Offer) -> list[str]:
    """What stands against a candidate besides its air, in a few words each."""
    display = Display(project.settings.units)
    found = []
    if offer.too_tall > 0:
        found.append(f"{display.length(display.tape(offer.too_tall))} too tall here")
    if offer.over_amps > 0:
        found.append(f"{math.ceil(offer.over_amps)} A too much for its circuit")
    if offer.implausible:
        found.append("a curve that cannot be")
    if offer.overloads:
        found.append("more than its motor bears")
    return found


def offers(
    now: Assessment,
    collector: str | None,
    models: Sequence[CollectorModel],
    refit: Refit = lambda project: project,
) -> list[Offer]:
    """What the collector as it stands and each model in its place would do, the smallest that
    serves all first.

    `now` is the present answer, for every scenario that the shop counts with; `refit` makes the
    ducts of a shop with a candidate go with it. Raises `DuctworkError` as tracing does.
    """
    before = judgement_of(now)
    found = [
        _offer(now, collector, item, before, refit)
        for item in candidates(now.project, collector, models)
    ]
    return best_first(
        found, lambda offer: (offer.implausible, *offer.by_air), lambda offer: offer.rank
    )


def candidates(
    project: Project, collector: str | None, models: Sequence[CollectorModel]
) -> list[Collector]:
    """The collector as it stands, and each model in its place."""
    now = project.collector.get(collector or "")
    own = [now] if now is not None else []
    return own + [
        stood_in(project, collector, m) for m in models if now is None or m.model != now.model
    ]


def stood_in(project: Project, collector: str | None, model: CollectorModel) -> Collector:
    """A model in a collector's place; without one, free in the corner where it would be nearest to
    the machines.
    """
    now = project.collector.get(collector or "")
    if now is not None:
        return fitted(now, model)
    x, y = assumed_place(project)
    left, low, right, high = bounds(project.corners)
    middle = ((left + right) / 2, (low + high) / 2)
    x += math.copysign(model.width / 2 + GAP, middle[0] - x)
    y += math.copysign(model.depth / 2 + GAP, middle[1] - y)
    name = localised(model.model, project.settings.units)
    made = new_collector(model, edits.fresh_id(project, "collector"), name, x, y)
    return freely_standing(project, made.replaced(turn=0.0 if middle[0] >= x else 180.0))


def with_candidate(project: Project, collector: str | None, item: Collector) -> Project:
    """The project with a candidate in the collector's place, or added to it."""
    if collector in project.collector:
        return exchanged(project, item)
    return edits.added(project, item)


def put_in(project: Project, collector: str | None, model: CollectorModel) -> Project:
    """The project with a model in a collector's place, or in its corner when there is no collector
    yet.
    """
    return with_candidate(project, collector, stood_in(project, collector, model))


def _offer(
    now: Assessment, collector: str | None, item: Collector, before: Judgement, refit: Refit
) -> Offer:
    project = now.project
    done = _assessed(now, collector, item, refit)
    # As it stands, and with the filter as loaded as it may become before it is cleaned.
    usual = _answers(done, item)
    loaded = _answers(_with_filter_due(done, item), item)
    worst = min(usual, key=lambda a: a.share, default=None)
    transport_checks = [a.transport for a in usual if a.transport is not None]
    power = max((a.power for a in usual), default=0.0)
    limit = OVERLOAD * item.motor.power if item.motor else math.inf
    load = worst_load(done.project, item.id)
    over = load.amps - load.allowed if load else 0.0
    dreamt = any(implausible(item, Display(project.settings.units)))
    spare = fit(done.project, item).spare
    # Overloading its motor, not fitting under the ceiling, a curve that cannot be: each counts
    # against it.
    against = sum((power > limit, spare < 0, dreamt))
    return Offer(
        item.model,
        _served(usual),
        _served(loaded),
        len(usual),
        worst.share if worst else 0.0,
        worst.scenario if worst else None,
        min(transport_checks, default=None),
        power,
        power > limit,
        max(-spare, 0.0),
        max(over, 0.0),
        dreamt,
        unit_price(prices(project), collector_key(item.model)),
        _judged(done, usual, before),
        against,
        item.motor.power
        if item.motor
        else best_air_power(make.fan_curve(item.fan, done.air)) / AIR_POWER_LIMIT,
        (_served(usual, 1 / MORE_LOSS**0.5), _served(usual, 1 / LESS_LOSS**0.5)),
    )


def _served(answers: Sequence[_Answer], times: float = 1.0) -> int:
    """How many scenarios have their needs met and their chips carried with so many times their
    airflow.
    """
    return sum(
        a.share * times >= MET_FROM and (a.transport is None or a.transport * times >= 1 - SAME)
        for a in answers
    )


def _judged(done: Assessment, answers: list[_Answer], before: Judgement) -> Judgement:
    """The judgement of a shop with a candidate; pickups without ducts by what they would get on a
    rough way.

    `before` is the judgement of the shop as it is, from which what cannot have changed is taken.
    """
    judged = judge(done, before)
    pickups = dict(judged.pickups)
    for answer in answers:
        pickups |= answer.rough
    return replace(judged, pickups=pickups)


@dataclass(frozen=True)
class _Answer:
    scenario: Scenario
    share: float
    transport: float | None
    power: float
    rough: dict[Key, PickupJudged] = field(default_factory=dict)


def _assessed(now: Assessment, collector: str | None, item: Collector, refit: Refit) -> Assessment:
    """The shop with a candidate whose filter holds what it holds in use."""
    item = item.replaced(filter=item.filter.replaced(loading=item.filter.seasoned))
    then = refit(with_candidate(now.project, collector, item))
    return assess(then, all_scenarios(then), now)


def _with_filter_due(done: Assessment, item: Collector) -> Assessment:
    """The same air when the candidate's filter is due to be cleaned: its networks solved anew with
    that filter.
    """
    worn = item.replaced(filter=item.filter.replaced(loading=item.filter.due))
    piece = make.filter_piece(item.id, worn.filter, item.inlet)
    solved: dict[int, Solved] = {}

    def loaded(system: System) -> System:
        was = system.solved
        # Scenarios of one network share their solution, and so its solution with a loaded filter.
        if id(was) not in solved:
            root = was.network.branches[0]
            pieces = tuple([piece if p.id == piece.id else p for p in root.pieces])
            network = was.network.with_branches({0: replace(root, pieces=pieces)})
            solved[id(was)] = solve(network, was.cases, was.flow[:, was.network.tree.leaves])
        return replace(system, network=solved[id(was)].network, solved=solved[id(was)])

    def again(answer: ScenarioAir) -> ScenarioAir:
        return answer.with_systems(
            {c: loaded(s) if c == item.id else s for c, s in answer.systems.items()}
        )

    project = with_candidate(done.project, item.id, worn)
    return replace(done, project=project, answers=tuple([again(answer) for answer in done.answers]))


def _answers(done: Assessment, item: Collector) -> list[_Answer]:
    """What a candidate gives in every scenario."""
    found = []
    for answer in done.answers:
        made = _ducted(done, answer, item) or _rough_answer(
            done.project, answer, done.project.collector[item.id]
        )
        if made is not None:
            found.append(made)
    return found


def _ducted(done: Assessment, answer: ScenarioAir, item: Collector) -> _Answer | None:
    system = answer.systems.get(item.id)
    mine = [p for p in answer.pickups if p.collector == item.id and p.leaf is not None]
    if system is None or not mine or not system.converged:
        return None
    slow = slowest_transport(done.project, answer)
    power = fan_power(item, system.airflow, done.air)
    return _Answer(answer.scenario, min(p.share for p in mine), slow.share if slow else None, power)


def _rough_answer(project: Project, answer: ScenarioAir, item: Collector) -> _Answer | None:
    """A scenario without ducts: each of its pickups alone on a rough way, which flatters machines
    with several.
    """
    refs = [f"{p.machine}/{p.pickup}" for p in answer.pickups if p.collector is None]
    if not refs:
        return None
    air = shop_air(project)
    judged: dict[Key, PickupJudged] = {}
    for ref in refs:
        network = rough_network(project, ref, item.id, make.collector(item, air), air)
        flow = float(
            solve(network, laws.cases(np.ones((1, len(network.own_fans)), dtype=bool))).flow[0, 0]
        )
        # Whether chips are carried cannot be said without ducts.
        asked = need(project.pickup[ref][1], project.settings).airflow
        judged[answer.scenario, ref] = PickupJudged(flow, asked, None, None)
    most = max(pickup.airflow for pickup in judged.values())
    least = min(pickup.share for pickup in judged.values())
    return _Answer(answer.scenario, least, None, fan_power(item, most, air), judged)

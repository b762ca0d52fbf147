"""Building in phases: what each buys, who gets air when it stands, what is capped for later, what
is thrown away.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from grey_current.build.bill import with_lengths, with_used
from grey_current.build.cuts import CutCache, PipeCuts, cutting_list, kept_offcuts
from grey_current.build.made.materials import with_materials
from grey_current.build.standing import standing, with_only
from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import Scenario
from grey_current.design.judgement import Judgement, PickupJudged, judge
from grey_current.design.parts.costs import Cost, cost_of, extra_cost, prices
from grey_current.design.parts.keys import GROUPS, pipe_key
from grey_current.design.parts.packs import in_packs, packs_of
from grey_current.design.parts.parts_list import Part, PartsList
from grey_current.design.parts.phase_order import phase_of
from grey_current.design.parts.straights import Straight
from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.build_edits import with_build, with_offcuts, with_phase_count
from grey_current.shop.build_plan import MOST_PHASES, Phase
from grey_current.shop.edits import changed_all
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.usual_prices import usual_prices

LEAST_WASTE = 1e-6
# Times that phases are proposed anew when whole lengths bring one over its budget.
TRIES = 4


@dataclass(frozen=True)
class PhaseFacts:
    """A phase: the shop that stands after it, how that is judged, what it buys, and what it makes
    useless.

    `capped` names the points where something is to join on later; `waste` is what was bought before
    and is not in use any more; `unpriced` are keys of parts that it buys and that have no price.
    """

    number: int
    phase: Phase
    project: Project
    judgement: Judgement
    new: tuple[str, ...]
    bought: tuple[Part, ...]
    money: Cost
    waste: tuple[Part, ...]
    waste_money: float
    capped: tuple[str, ...]
    so_far: float
    cuts: tuple[PipeCuts, ...]

    @property
    def over(self) -> float:
        """How much it is over its budget; 0 where it is not, or has none."""
        return (
            max(self.money.money - self.phase.budget, 0.0) if self.phase.budget is not None else 0.0
        )

    @property
    def met(self) -> int:
        """Scenarios with every need met, whether or not every chip is carried."""
        fine: dict[Scenario, bool] = {}
        for (scenario, _), pickup in self.judgement.pickups.items():
            fine[scenario] = fine.get(scenario, True) and pickup.met
        return sum(fine.values())

    @property
    def served(self) -> tuple[int, int]:
        """Scenarios with every need met and every chip carried, of all those of this shop as it
        stands.
        """
        return self.judgement.served()


def phase_facts(
    project: Project,
    should_continue: Callable[[], bool] = lambda: True,
    known: CutCache | None = None,
) -> tuple[PhaseFacts, ...]:
    """All phases in their order; one where none is made. `known` holds cuttings found before.

    Raises `DuctworkError` as the cutting list does.
    """
    plan = project.build.phases or (Phase(name="All at once"),)
    last = max((*phase_of(project).values(), len(plan)), default=1)
    plan = (*plan, *(Phase(name=f"Phase {n}") for n in range(len(plan) + 1, last + 1)))
    facts: list[PhaseFacts] = []
    store = _Store(project, {} if known is None else known)
    for number, phase in enumerate(plan, 1):
        if not should_continue():
            break
        facts.append(_facts(project, number, phase, store, facts))
    return tuple(facts)


class _Store:
    """What was bought so far, by part key; the pieces that were cut; the offcuts that are left;
    what stood last.
    """

    def __init__(self, project: Project, known: CutCache) -> None:
        self.known = known
        self.has: dict[str, float] = defaultdict(
            float, {item.key: item.had for item in project.build.owned}
        )
        self.pieces: dict[str, float] = {}
        self.shop = project
        self.parts: PartsList | None = None


def _facts(
    project: Project, number: int, phase: Phase, store: _Store, before: list[PhaseFacts]
) -> PhaseFacts:
    shop = standing(project, number)
    parts = PartsList(shop)
    pieces = {piece.id: piece.length for piece in parts.straights if piece.is_pipe}
    # Pieces that are not there from the phase before, or are of another length now.
    new = [
        p
        for p in parts.straights
        if p.id in pieces and abs(store.pieces.get(p.id, -1.0) - p.length) > LEAST_WASTE
    ]
    with_rest = shop.replaced(build=shop.build.replaced(offcuts=store.shop.build.offcuts))
    cuts = cutting_list(with_rest, parts, new, known=store.known)
    listed = with_materials(parts.parts, shop)
    needed = {part.key: part for part in listed if not part.key.startswith("pipe/")}
    bought = [
        replace(part, quantity=part.quantity - store.has[key])
        for key, part in needed.items()
        if part.quantity > store.has[key] + LEAST_WASTE
    ]
    pipe = [_of_pieces(part, new) for part in parts.parts if part.key.startswith("pipe/")]
    used = [part for part in pipe if part.uses]
    lengths = [p for p in with_lengths(used, cuts) if not p.key.startswith("pipe/")]
    if number == 1:
        # What was used before this program planned anything belongs to the first phase.
        lengths = with_used(lengths, project.build.owned)
    # Before the store is brought up to date: what this phase throws out.
    waste = _waste(store, needed, pieces)
    us = project.settings.units == "us"
    for part in bought:
        # What is left of a box or a roll serves the next phase, what is left of a hose does not.
        packs, quantity = packs_of(part.key), part.quantity
        if packs is not None and not packs.whole:
            quantity = in_packs(part.key, part.uses, quantity, us=us)
        store.has[part.key] += quantity
    store.pieces, store.parts = pieces, parts
    store.shop = _with_rests(with_rest, cuts)
    book = prices(project)
    everything = sorted((*bought, *lengths), key=lambda part: GROUPS.index(part.group))
    money = cost_of(book, everything)
    so_far = (before[-1].so_far if before else 0.0) + money.money
    kept_before = set(before[-1].project.element) if before else set()
    came = tuple(ident for ident in (*shop.machine, *shop.collector) if ident not in kept_before)
    # Ends that wait for a later phase, and are capped meanwhile.
    capped = tuple(
        point.id for point in shop.points if point.end == "cap" and project.find(point.id) != point
    )
    judged = judge(assess(shop).counted)
    thrown = cost_of(book, waste).money
    return PhaseFacts(
        number,
        phase,
        shop,
        judged,
        came,
        tuple(everything),
        money,
        waste,
        thrown,
        capped,
        so_far,
        cuts,
    )


def _of_pieces(part: Part, pieces: Iterable[Straight]) -> Part:
    """A pipe by the metre with only the pieces that are new in a phase."""
    uses: dict[str, float] = defaultdict(float)
    for piece in pieces:
        if part.key == pipe_key(piece.material, piece.diameter):
            uses[piece.run] += piece.length
    return Part(part.key, math.fsum(uses.values()), tuple(uses.items()))


def _with_rests(shop: Project, cuts: Iterable[PipeCuts]) -> Project:
    """The shop with what a phase leaves of its pipe as offcuts for the next."""
    rests: dict[tuple[str, float], list[float]] = defaultdict(list)
    for material, bore, length in kept_offcuts(shop, cuts):
        rests[material, bore].append(length)
    used: dict[tuple[str, float], list[float]] = {}
    for pipe in cuts:
        used[pipe.material, pipe.diameter] = [bar.length for bar in pipe.bars if bar.owned]
    for item in shop.build.offcuts:
        key = next((k for k in used if item.is_of(*k)), None)
        left = item.count - (used[key].count(item.length) if key else 0)
        rests[key or (item.material, item.diameter)] += [item.length] * left
    made = shop
    for (material, bore), lengths in rests.items():
        made = with_offcuts(made, material, bore, tuple(lengths))
    return made


def _waste(store: _Store, needed: dict[str, Part], pieces: dict[str, float]) -> tuple[Part, ...]:
    """What stood after the phase before and stands no more: parts that are left over, pieces cut
    for nothing.
    """
    if store.parts is None:
        return ()
    found = []
    for part in store.parts.parts:
        now = needed[part.key].quantity if part.key in needed else 0.0
        if not part.key.startswith("pipe/") and part.quantity > now + LEAST_WASTE:
            found.append(replace(part, quantity=part.quantity - now))
    # A piece that is wanted at another length now was cut in vain.
    gone = [
        piece
        for piece in store.parts.straights
        if piece.id in store.pieces and abs(pieces.get(piece.id, -1.0) - piece.length) > LEAST_WASTE
    ]
    for key in sorted({pipe_key(piece.material, piece.diameter) for piece in gone}):
        uses = tuple(
            (piece.run, piece.length)
            for piece in gone
            if pipe_key(piece.material, piece.diameter) == key
        )
        found.append(Part(key, math.fsum(length for _, length in uses), uses))
    return tuple(found)


# -- proposing


def proposed_phases(
    project: Project, budget: float, should_continue: Callable[[], bool] = lambda: True
) -> Project:
    """The shop in phases of a budget each: what serves most use per week for the money comes first.

    A machine counts with its hours a week if its needs are met and its chips carried in the shop as
    it then stands, with nothing otherwise. Raises `InputError` for a budget of nothing and
    `RefusedEdit` where nothing has a price or more than nine phases would be needed.
    """
    if not 0 < budget <= 1e7:
        raise InputError("budget for a phase", budget, "write the money for one phase, more than 0")
    if not project.build.prices and project.build.currency not in usual_prices().currencies:
        raise RefusedEdit(
            "the phases", "proposing them without prices", "enter what the parts cost first"
        )
    # Planned against a little less, until no phase is over.
    aim = budget
    for _ in range(TRIES):
        made = _in_phases(project, *_ordered(project, aim, should_continue), budget)
        facts = phase_facts(made, should_continue)
        over = max((f.over for f in facts if _could_wait(project, f)), default=0.0)
        if over <= 0 or over >= aim:
            break
        # Whole lengths and packs, caps and stubs cost a little more than pipe by the metre.
        aim -= over + 1
    return made


def _could_wait(project: Project, facts: PhaseFacts) -> bool:
    """Whether a phase connects several machines, so that one of them could wait for the next."""
    new = [project.machine[ident] for ident in facts.new if ident in project.machine]
    return sum(bool(machine.pickups) for machine in new) > 1


def _ordered(
    project: Project, budget: float, should_continue: Callable[[], bool]
) -> tuple[list[tuple[Machine, int]], int]:
    """Machines in the order in which they are best connected, each with its phase; and how many
    phases there are.
    """
    waiting = [machine for machine in project.machines if machine.pickups]
    order: list[tuple[Machine, int]] = []
    number, spent, chosen = 1, 0.0, set[str]()
    while waiting and should_continue():
        best = _best(project, chosen, waiting, budget - spent)
        # Nothing more fits into this phase: begin the next one.
        if best is None and spent > 0:
            number, spent = number + 1, 0.0
            continue
        machine, cost = best or _cheapest(project, chosen, waiting)
        waiting.remove(machine)
        chosen.add(machine.id)
        order.append((machine, number))
        spent += cost
        if spent >= budget and waiting:
            number, spent = number + 1, 0.0
    if number > MOST_PHASES:
        raise RefusedEdit(
            "the phases",
            f"building in {number} of them",
            "allow more money for each; nine are the most",
        )
    return order, number


def _best(
    project: Project, chosen: set[str], waiting: list[Machine], left: float
) -> tuple[Machine, float] | None:
    """The machine that serves most use for the money of those that the rest of the budget pays;
    None when it pays none.

    It serves its use when it adds all of it: to its own air, and nothing lost for those that stand
    already. The best by money alone is looked at first, so that the air is computed for few of
    them.
    """
    now = with_only(project, chosen)
    costs = {machine.id: _added(now, project, chosen, machine) for machine in waiting}
    paid = [machine for machine in waiting if costs[machine.id] <= left]
    if not paid:
        return None
    # By use per money; the first that does not take air from those before is taken.
    by_worth = sorted(paid, key=lambda m: -_use(m) / max(costs[m.id], 1.0))
    served = _served_hours(now)
    for machine in by_worth:
        if (
            _served_hours(with_only(project, chosen | {machine.id}))
            >= served + _use(machine) - LEAST_WASTE
        ):
            return machine, costs[machine.id]
    return by_worth[0], costs[by_worth[0].id]


def _cheapest(project: Project, chosen: set[str], waiting: list[Machine]) -> tuple[Machine, float]:
    """The machine that serves most use for its money, though it costs more than a phase may."""
    now = with_only(project, chosen)
    costs = {machine.id: _added(now, project, chosen, machine) for machine in waiting}
    machine = max(waiting, key=lambda m: _use(m) / max(costs[m.id], 1.0))
    return machine, costs[machine.id]


def _added(now: Project, project: Project, chosen: set[str], machine: Machine) -> float:
    extra = extra_cost(now, with_only(project, chosen | {machine.id}))
    return extra.money if extra is not None else 0.0


def _use(machine: Machine) -> float:
    """Hours a week."""
    return machine.uses_per_week * machine.minutes_per_use / 60


def _served_hours(shop: Project) -> float:
    """Hours a week of all machines whose needs are met and whose chips are carried while they
    run.
    """
    judged: dict[str, list[PickupJudged]] = defaultdict(list)
    for (scenario, _), pickup in judge(assess(shop).counted).pickups.items():
        if len(scenario.running) == 1:
            judged[scenario.running[0]].append(pickup)
    well = [m for m, found in judged.items() if all(p.met and p.carried for p in found)]
    return math.fsum(_use(shop.machine[machine]) for machine in well)


def _in_phases(
    project: Project, order: list[tuple[Machine, int]], last: int, budget: float
) -> Project:
    made = project
    for number in range(1, last + 1):
        made = changed_all(made, [m.id for m, phase in order if phase == number], phase=number)
    made = changed_all(made, [run.id for run in made.runs if run.phase is not None], phase=None)
    phases = phase_of(made)
    for collector in made.collectors:
        hung = [phases[run.id] for run in made.runs if collector.id in run.ends]
        made = changed_all(made, [collector.id], phase=min(hung, default=1))
    made = with_build(made, phases=())
    made = with_phase_count(made, last)
    return with_build(made, phases=tuple(p.replaced(budget=budget) for p in made.build.phases))

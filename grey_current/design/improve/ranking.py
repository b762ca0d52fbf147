"""What would help a machine most: every sensible single change, each computed and judged, the best
first.

For one machine, or the other ways in which one part could be made; for the whole shop see
`shop_search`. What is offered leaves the shop no worse by the one judgement (docs/judgement.md),
and what it makes worse on the way stands in its line.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property

from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment, PickupAir, ScenarioAir
from grey_current.design.flow.gates import flushings, opened_for
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.improve.changes import sensible_changes
from grey_current.design.improve.part_changes import part_changes
from grey_current.design.judgement import (
    HARD,
    LOSES,
    SAME,
    Judgement,
    best_first,
    judge,
    judgement_of,
    worsenings,
)
from grey_current.design.parts.connecting import connected
from grey_current.design.parts.costs import Cost, extra_cost, shop_cost
from grey_current.errors import GreyCurrentError
from grey_current.numerals import decimal
from grey_current.shop.edits import Change, Edit
from grey_current.shop.model import Project
from grey_current.shop.names import Names, called
from grey_current.units import Display

# Trouble (share of a need, or of a transport velocity) that a change must take away to be worth a
# line: nobody would notice less.
LEAST_GAIN = 0.02
# Improvements whose money is looked at where they take away as much trouble.
LOOKED_AT = 9
# Gates that are tried open for a machine too: those that speed its slowest run most.
MOST_GATES = 2
# Trouble by which an offered change may make a shop worse without being left out: rounding.
NO_WORSE = 1e-3

ShouldContinue = Callable[[], bool]


@dataclass(frozen=True)
class Effects:
    """What is known of a shop with a change made by one who did not judge it here: as an
    `Improvement` has it.
    """

    trouble: float
    by_air: tuple[float, float]
    costs: tuple[str, ...]
    winners: tuple[str, ...]
    carried: tuple[str, ...]


@dataclass(frozen=True)
class Improvement:
    """One change: in words, on which element, the function that makes it, and what it was worth as
    computed.

    `gain` is the airflow (m³/s) more at the machine's least pickup when it runs, for the whole shop
    the sum of what the pickups win towards their needs; `airflow` of `need` is what the least
    pickup then gets, and `need_before` what it needed until then. `met` says whether all that was
    asked about get their need then. `transport` is the slowest velocity that the machine's chips
    meet then, over what they need; for a whole shop the slowest anywhere. `costs` are what gets
    worse, in words, the worst first, but for what `asked` loses, which the gain says; `winners`
    machines that win towards their need, `carried` those whose chips are carried better. `was` is
    the judgement of the shop as it is, `judged` with the change made, worked out by `then`; `told`
    is what is known of it without.
    """

    words: str
    element: str
    edit: Edit
    gain: float
    airflow: float
    need: float
    need_before: float
    met: bool
    transport: float | None
    was: Judgement
    then: Callable[[], Judgement]
    asked: str | None = None
    told: Effects | None = None

    @cached_property
    def judged(self) -> Judgement:
        """The judgement of the shop with the change made."""
        return self.then()

    @cached_property
    def costs(self) -> tuple[str, ...]:
        """What gets worse, in words."""
        if self.told is not None:
            return self.told.costs
        return what_gets_worse(self.was, self.judged, self.asked)

    @cached_property
    def winners(self) -> tuple[str, ...]:
        """Machines that win towards their need."""
        return self.told.winners if self.told is not None else winners(self.was, self.judged)

    @cached_property
    def carried(self) -> tuple[str, ...]:
        """Machines whose chips are carried better."""
        return self.told.carried if self.told is not None else carried(self.was, self.judged)

    @property
    def by_air(self) -> tuple[float, float]:
        """As `Judgement.by_air`, with the change made."""
        return self.told.by_air if self.told is not None else self.judged.by_air

    @cached_property
    def shop(self) -> Project | None:
        """The shop with the change made; None where only the air is judged."""
        if self.told is not None and self.was.shop is not None:
            return self.edit(self.was.shop)
        return self.judged.shop

    @cached_property
    def money(self) -> Cost | None:
        """What the parts cost that it wants and the shop has not; None where there are no
        prices.
        """
        before, after = self.was.shop, self.shop
        return extra_cost(before, after) if before is not None and after is not None else None

    @property
    def price(self) -> float:
        """What is to be bought for it; 0 where no price is known."""
        return self.money.money if self.money is not None else 0.0

    @property
    def rank(self) -> tuple[float, float, float, int]:
        """As `Judgement.rank`, with the change made."""
        if self.told is None or self.shop is None:
            return self.judged.rank
        return *self.by_air, shop_cost(self.shop) or 0.0, len(self.shop.runs) + len(self.shop.gates)

    @property
    def better(self) -> float:
        """By how much the shop's trouble is less; negative when it is more."""
        return self.was.trouble - (
            self.told.trouble if self.told is not None else self.judged.trouble
        )

    def wins(self, least: float) -> bool:
        """Whether the shop's trouble is less by as much; what is hit is looked for only where that
        decides.
        """
        return wins(self.was, self.judged, least)

    @property
    def share(self) -> float:
        """Airflow over need of the least pickup."""
        return self.airflow / self.need


def money_words(improvement: Improvement, currency: str) -> str:
    """What a change costs in parts, and that some have no price; empty where there are no
    prices.
    """
    cost = improvement.money
    if cost is None:
        return ""
    # Nothing to buy is worth saying: it is the cheapest cure there is.
    if not cost.money and cost.known:
        return "needs nothing bought"
    more = "" if cost.known else f" and {len(cost.unpriced)} without a price"
    about = "about " if cost.by_usual else ""
    return f"parts for {about}{decimal(cost.money)} {currency}{more}"


def won_words(improvement: Improvement, machine: str | None, display: Display) -> str:
    """What a change wins, in a few words: airflow where it is more by what one can read, else chips
    that it carries.

    Of a change that carries chips with less air the airflow is no gain; what is lost stands in
    `lost_words`. `machine` is the one that was asked about, None for the whole shop.
    """
    parts = (won_air(improvement, machine, display), cleared_words(improvement))
    return ", ".join(words for words in parts if words) or "fewer problems"


def won_air(improvement: Improvement, machine: str | None, display: Display) -> str:
    """Airflow, or chips carried; empty where neither is won by what one can read."""
    more = f"+{display.airflow(improvement.gain)}" if wins_air(improvement, display) else ""
    # Air first, where it was wanted; else what the change was made for: chips.
    if more and not _carries_only(improvement, machine):
        return more
    was, now = _carried_before(improvement, machine), improvement.transport
    if was is not None and now is not None and now >= was + SAME:
        return f"slowest air {was:.0%} → {now:.0%}"
    if improvement.carried:
        return f"chips of {len(improvement.carried)} carried better"
    return more


def wins_air(improvement: Improvement, display: Display) -> bool:
    """Whether the airflow is more by what one can read."""
    return improvement.gain > 0 and _reads(improvement.gain, display)


def cleared_words(improvement: Improvement) -> str:
    """What is no longer in the way or out of reach with a change made; empty where nothing is.

    It is looked for only where trouble is less by about one such thing: to look costs milliseconds.
    """
    was = improvement.was
    # One thing hit counts `HARD`: where less is won, none of them can have gone.
    if was.shop is None or was.trouble - improvement.by_air[0] < HARD / 2:
        return ""
    gone = sorted(was.hits - improvement.judged.hits)
    if not gone:
        return ""
    names = Names(was.shop)
    more = f", and {len(gone) - 1} more" if gone[1:] else ""
    return f"{names.of(gone[0].element)} {gone[0].ended_words(names)}{more}"


def difference_words(improvement: Improvement, display: Display) -> str:
    """What another way to make a part changes in air, more or less: "+12 CFM", "−5 CFM", "no
    difference".
    """
    if not _reads(improvement.gain, display):
        return "no difference"
    return f"{'+' if improvement.gain > 0 else '−'}{display.airflow(abs(improvement.gain))}"


def lost_words(improvement: Improvement, display: Display) -> str:
    """How much less air a change gives to what was asked about; empty where that is nothing that
    one can read.
    """
    less = -improvement.gain
    return f"{display.airflow(less)} less" if less > 0 and _reads(less, display) else ""


def _reads(airflow: float, display: Display) -> bool:
    """Whether an airflow (m³/s) is more than nothing as it is written."""
    return display.airflow(abs(airflow), unit=False) != "0"


def _carries_only(improvement: Improvement, machine: str | None) -> bool:
    """Whether a machine had its air already, so that what a change wins is how its chips are
    carried.
    """
    mine = [
        p
        for (_, ref), p in improvement.was.pickups.items()
        if machine and ref.startswith(f"{machine}/")
    ]
    return bool(mine) and all(p.met for p in mine)


def _carried_before(improvement: Improvement, machine: str | None) -> float | None:
    """The slowest air that was met, over what chips need: on the machine's paths when it runs
    alone, or anywhere.
    """
    if machine is None:
        return improvement.was.slowest
    shares = [
        p.transport
        for (scenario, ref), p in improvement.was.pickups.items()
        if ref.startswith(f"{machine}/") and len(scenario.running) == 1
    ]
    return min((share for share in shares if share is not None), default=None)


def improvements(
    now: Assessment, machine: str, should_continue: ShouldContinue = lambda: True
) -> list[Improvement]:
    """Changes that would help a machine, the best first.

    Parameters
    ----------
    now
        The present answer, for every scenario that the shop counts with.
    machine
        Which one. A change must take away some of its own trouble: bring a pickup nearer to its
        need, which is computed again with the change, or its chips nearer to being carried; and it
        must not leave a short one shorter.
    should_continue
        Asked before each change; the search stops when it returns False.

    Returns
    -------
    list of Improvement
        By the judgement of the whole shop; none that leaves the shop worse. Empty for a machine
        without a pickup.

    Raises
    ------
    Nothing; a change that cannot be built is left out.
    """
    answer = now.of_machine.get(machine)
    worst = answer.worst if answer and answer.converged else None
    if answer is None or worst is None:
        return []
    before = judgement_of(now)
    own = _own_trouble(before, machine)
    changes = [
        (worst, c)
        for c in (*sensible_changes(now.project, answer, worst), *_flushing_changes(now, answer))
    ]
    # What is not connected is helped first of all by being connected.
    changes += [(p, _connection(now.project, p)) for p in answer.pickups if p.loose]
    found: list[Improvement] = []
    for pickup, change in changes:
        if not should_continue():
            return []
        made = tried(now, before, pickup, change)
        # What helps one pickup of the machine and starves the other does not help the machine.
        if made is None or (made.share < 1 and made.share < pickup.share - LOSES):
            continue
        if own - _own_trouble(made.judged, machine) >= LEAST_GAIN and made.wins(-NO_WORSE):
            found.append(made)
    return in_order(found)


def in_order(found: Iterable[Improvement]) -> list[Improvement]:
    """Those that take away most trouble first; of those that take away as much the cheapest, then
    by the judgement. Money takes milliseconds: it decides among the first that are offered.
    """
    ordered = sorted(found, key=lambda made: (-round(made.better, 3), *made.by_air, -made.gain))
    first = best_first(
        ordered[:LOOKED_AT],
        lambda made: -round(made.better, 3),
        lambda made: (made.price, *made.by_air, -made.gain),
    )
    return [*first, *ordered[LOOKED_AT:]]


def part_improvements(
    now: Assessment, element: str, machine: str, should_continue: ShouldContinue = lambda: True
) -> list[Improvement]:
    """What the other ways to make one part would be worth to a machine, in their own order, losses
    included.

    Raises nothing; empty for a part that has only one way.
    """
    answer = now.of_machine.get(machine)
    worst = answer.worst if answer and answer.converged else None
    if answer is None or worst is None:
        return []
    before, found = judgement_of(now), []
    for change in part_changes(now.project, element):
        if not should_continue():
            return []
        made = tried(now, before, worst, change)
        if made is not None:
            found.append(made)
    return found


def tried(
    now: Assessment, before: Judgement, worst: PickupAir, change: Change
) -> Improvement | None:
    """A change computed for every scenario and judged; None when it cannot be built or changes
    nothing.

    `before` is the judgement of `now`, `worst` the pickup that is asked about.
    """
    changed = made_with(now.project, change)
    if changed is None:
        return None
    then = assess(changed, all_scenarios(changed), now)
    answer = then.of_machine.get(worst.machine)
    # A change may take the pickup away: then there is nothing to compare.
    after = next((p for p in answer.pickups if p.pickup == worst.pickup), None) if answer else None
    if answer is None or not answer.converged or after is None:
        return None
    judged = judge(then, before)
    return Improvement(
        change.words,
        change.element,
        change.edit,
        after.airflow - worst.airflow,
        after.airflow,
        after.need.airflow,
        worst.need.airflow,
        all(p.met for p in answer.pickups),
        _slowest(judged, answer),
        before,
        lambda: judged,
        f"{worst.machine}/{worst.pickup}",
    )


def wins(before: Judgement, judged: Judgement, least: float) -> bool:
    """Whether trouble is less by as much; what is hit is looked for only where that decides."""
    return (
        before.trouble - judged.least_trouble >= least and before.trouble - judged.trouble >= least
    )


def made_with(project: Project, change: Change) -> Project | None:
    """The project with a change made; None when it cannot be or changes nothing."""
    try:
        changed = change.edit(project)
    except GreyCurrentError:
        return None
    return None if changed == project else changed


def _slowest(judged: Judgement, answer: ScenarioAir) -> float | None:
    """The slowest air that the chips of a scenario meet, over what they need; None when nothing is
    ducted.
    """
    mine = [
        p.transport for (scenario, _), p in judged.pickups.items() if scenario == answer.scenario
    ]
    return min((share for share in mine if share is not None), default=None)


def _own_trouble(judged: Judgement, machine: str) -> float:
    """What is not in order with a machine, in whatever scenario it works."""
    mine = (
        p.trouble
        for (scenario, ref), p in judged.pickups.items()
        if ref.split("/", maxsplit=1)[0] == machine
    )
    return math.fsum(mine)


def _connection(project: Project, pickup: PickupAir) -> Change:
    """A pickup that is not connected, connected by the nearest way."""
    ref = f"{pickup.machine}/{pickup.pickup}"
    name = project.pickup[ref][1].name.lower()
    return Change(f"Connect its {name} to the main", ref, lambda p: connected(p, ref))


def what_gets_worse(
    before: Judgement, judged: Judgement, asked: str | None = None
) -> tuple[str, ...]:
    """What a change costs, in words, the worst first; what the pickup that is asked about loses is
    not said.
    """
    if judged.shop is None:
        return ()
    found = worsenings(judged.shop, before, judged)
    return tuple([worse.words for worse in found if asked is None or worse.loser != asked])


def winners(before: Judgement, after: Judgement) -> tuple[str, ...]:
    """Machines with a pickup that comes nearer to its need."""
    won = {}
    for key, now in after.pickups.items():
        was = before.pickups.get(key)
        if was is not None and min(now.share, 1.0) > min(was.share, 1.0) + SAME:
            won[key[1].split("/", maxsplit=1)[0]] = True
    return tuple(won)


def carried(before: Judgement, after: Judgement) -> tuple[str, ...]:
    """Machines with chips that were not carried and now meet faster air."""
    better = {}
    for key, now in after.pickups.items():
        was = before.pickups.get(key)
        if was is None or was.transport is None or now.transport is None or was.carried:
            continue
        if now.transport > was.transport + SAME:
            better[key[1].split("/", maxsplit=1)[0]] = True
    return tuple(better)


def _flushing_changes(now: Assessment, answer: ScenarioAir) -> list[Change]:
    """Gates that flush the slowest run when they are opened for a machine too."""
    (machine,) = answer.scenario.running

    def open_too(gate: str) -> Edit:
        return lambda p: opened_for(p, gate, machine)

    return [
        Change(f"Open {called(now.project, w.gate)} for it too", w.gate, open_too(w.gate))
        for w in flushings(now, answer)[:MOST_GATES]
    ]

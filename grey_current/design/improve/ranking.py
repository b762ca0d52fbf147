"""What would help most: every sensible single change, each computed and judged, the best first.

For one machine, for the whole shop, or the other ways in which one part could be made. What is offered leaves the shop
no worse by the one judgement (docs/judgement.md), and what it makes worse on the way stands in its line.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property

from grey_current.design.flow.assessment import Assessment, PickupAir, ScenarioAir, assess
from grey_current.design.flow.gates import flushings, opened_for
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.improve.changes import own_changes, sensible_changes, shared_changes
from grey_current.design.improve.part_changes import part_changes
from grey_current.design.judgement import LOSES, SAME, Judgement, best_first, judge, judgement_of, worsenings
from grey_current.design.parts.costs import Cost, extra_cost
from grey_current.design.space.routing import connected
from grey_current.errors import GreyCurrentError
from grey_current.shop.design_parts import LISTS, alike
from grey_current.shop.edits import Change, Edit
from grey_current.shop.model import Project
from grey_current.shop.names import called

LEAST_GAIN = 0.002
"""Trouble (share of a need, or of a transport velocity) that a change must take away to be worth a line."""
MOST_GATES = 2
"""Gates that are tried open for a machine too: those that speed its slowest run most."""
NO_WORSE = 1e-3
"""Trouble by which an offered change may make a shop worse without being left out: rounding."""

Wanted = Callable[[], bool]


@dataclass(frozen=True)
class Improvement:
    """One change: in words, on which element, the function that makes it, and what it was worth as computed.

    `gain` is the airflow (m³/s) more at the machine's least pickup when it runs, for the whole shop the sum of what
    the pickups win towards their needs; `airflow` of `need` is what the least pickup then gets, and `need_before` what
    it needed until then. `met` says whether all that was asked about get their need then. `transport` is the slowest
    velocity that the machine's chips meet then, over what they need; for a whole shop the slowest anywhere. `costs` are
    what gets worse, in words, the worst first, but for what `asked` loses, which the gain says; `winners` machines that
    win towards their need, `carried` those whose chips are carried better. `was` is the judgement of the shop as it is,
    `judged` with the change made.
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
    judged: Judgement
    asked: str | None = None

    @cached_property
    def costs(self) -> tuple[str, ...]:
        """What gets worse, in words."""
        if self.judged.shop is None:
            return ()
        found = worsenings(self.judged.shop, self.was, self.judged)
        return tuple([worse.words for worse in found if self.asked is None or worse.loser != self.asked])

    @cached_property
    def winners(self) -> tuple[str, ...]:
        """Machines that win towards their need."""
        return tuple(_winners(self.was, self.judged))

    @cached_property
    def carried(self) -> tuple[str, ...]:
        """Machines whose chips are carried better."""
        return tuple(_carried(self.was, self.judged))

    @cached_property
    def money(self) -> Cost | None:
        """What the parts cost that it wants and the shop has not; None where there are no prices."""
        before, after = self.was.shop, self.judged.shop
        return extra_cost(before, after) if before is not None and after is not None else None

    @property
    def better(self) -> float:
        """By how much the shop's trouble is less; negative when it is more."""
        return self.was.trouble - self.judged.trouble

    def wins(self, least: float) -> bool:
        """Whether the shop's trouble is less by as much; what is hit is looked for only where that decides."""
        return _wins(self.was, self.judged, least)

    @property
    def share(self) -> float:
        """Airflow over need of the least pickup."""
        return self.airflow / self.need


def money_words(improvement: Improvement, currency: str) -> str:
    """What a change costs in parts, and that some have no price; empty where there are no prices."""
    cost = improvement.money
    if cost is None:
        return ""
    if not cost.money and cost.known:
        return "needs nothing bought"
    more = "" if cost.known else f" and {len(cost.unpriced)} without a price"
    return f"parts for {cost.money:,.0f} {currency}{more}"


def improvements(now: Assessment, machine: str, wanted: Wanted = lambda: True) -> list[Improvement]:
    """Changes that would help a machine, the best first.

    Parameters
    ----------
    now
        The present answer, for every scenario that the shop counts with.
    machine
        Which one. A change must take away some of its own trouble: bring a pickup nearer to its need, which is computed
        again with the change, or its chips nearer to being carried; and it must not leave a short one shorter.
    wanted
        Asked before each change; the search stops when it answers False.

    Returns
    -------
    list of Improvement
        By the judgement of the whole shop; none that leaves the shop worse. Empty for a machine without a pickup.

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
    changes = [(worst, c) for c in (*sensible_changes(now.project, answer, worst), *_flushing_changes(now, answer))]
    changes += [(p, _connection(now.project, p)) for p in answer.pickups if p.leaf is None]
    found: list[Improvement] = []
    for pickup, change in changes:
        if not wanted():
            return []
        made = tried(now, before, pickup, change)
        if made is None or (made.share < 1 and made.share < pickup.share - LOSES):
            continue
        if own - _own_trouble(made.judged, machine) >= LEAST_GAIN and made.wins(-NO_WORSE):
            found.append(made)
    return _in_order(found)


def shop_improvements(now: Assessment, wanted: Wanted = lambda: True) -> list[Improvement]:
    """Changes that would help the whole shop, the best first by the judgement; none that leaves it worse.

    `now` is the present answer, for every scenario that the shop counts with; `wanted` as for `improvements`. Raises
    nothing.
    """
    before = judgement_of(now)
    found: dict[str, Improvement] = {}
    tried_already: set[frozenset[object]] = set()
    for name, change in _of_the_shop(now, before):
        if not wanted():
            return []
        changed = _made(now.project, change)
        what = _what_is_new(now.project, changed) if changed else frozenset()
        if changed is None or what in tried_already:
            continue
        tried_already.add(what)
        made = _relief(now, before, change, changed, name)
        if made is not None:
            found[made.words] = made
    return _in_order(found.values())


def _in_order(found: Iterable[Improvement]) -> list[Improvement]:
    """The best first, by the judgement; what the parts cost is worked out only for those that are alike else."""
    return best_first(
        found, lambda made: (round(-made.better, 3), *made.judged.by_air), lambda made: (*made.judged.rank, -made.gain)
    )


def part_improvements(now: Assessment, element: str, machine: str, wanted: Wanted = lambda: True) -> list[Improvement]:
    """What the other ways to make one part would be worth to a machine, in their own order, losses included.

    Raises nothing; empty for a part that has only one way.
    """
    answer = now.of_machine.get(machine)
    worst = answer.worst if answer and answer.converged else None
    if answer is None or worst is None:
        return []
    before, found = judgement_of(now), []
    for change in part_changes(now.project, element):
        if not wanted():
            return []
        made = tried(now, before, worst, change)
        if made is not None:
            found.append(made)
    return found


def tried(now: Assessment, before: Judgement, worst: PickupAir, change: Change) -> Improvement | None:
    """A change computed for every scenario and judged; None when it cannot be built or changes nothing.

    `before` is the judgement of `now`, `worst` the pickup that is asked about.
    """
    changed = _made(now.project, change)
    if changed is None:
        return None
    then = assess(changed, all_scenarios(changed), now)
    answer = then.of_machine.get(worst.machine)
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
        judged,
        f"{worst.machine}/{worst.pickup}",
    )


def _wins(before: Judgement, judged: Judgement, least: float) -> bool:
    return before.trouble - judged.least_trouble >= least and before.trouble - judged.trouble >= least


def _made(project: Project, change: Change) -> Project | None:
    """The project with a change made; None when it cannot be or changes nothing."""
    try:
        changed = change.edit(project)
    except GreyCurrentError:
        return None
    return None if changed == project else changed


def _slowest(judged: Judgement, answer: ScenarioAir) -> float | None:
    """The slowest air that the chips of a scenario meet, over what they need; None when nothing is ducted."""
    mine = [p.transport for (scenario, _), p in judged.pickups.items() if scenario == answer.scenario]
    return min((share for share in mine if share is not None), default=None)


def _own_trouble(judged: Judgement, machine: str) -> float:
    """What is not in order with a machine, in whatever scenario it works."""
    mine = (p.trouble for (scenario, ref), p in judged.pickups.items() if ref.split("/", maxsplit=1)[0] == machine)
    return math.fsum(mine)


def _connection(project: Project, pickup: PickupAir) -> Change:
    """A pickup that hangs on nothing, connected by the nearest way."""
    ref = f"{pickup.machine}/{pickup.pickup}"
    name = project.pickup[ref][1].name.lower()
    return Change(f"Connect its {name} to the main", ref, lambda p: connected(p, ref))


def _of_the_shop(now: Assessment, before: Judgement) -> Iterator[tuple[str, Change]]:
    """Every change worth trying for a whole shop, each with the name of the machine that it is for, if it is for one.

    What is not on a machine's own way is tried once, for all.
    """
    troubled = _in_trouble(now, before)
    for answer, worst in troubled:
        name = now.project.machine[worst.machine].name
        yield from ((name, change) for change in own_changes(now.project, answer, worst))
    for collector in dict.fromkeys(worst.collector or "" for _, worst in troubled):
        yield from (("", change) for change in shared_changes(now.project, collector))


def _what_is_new(was: Project, now: Project) -> frozenset[object]:
    """What a change put in or took away; what it left alone is the very same value in both."""
    found: list[object] = []
    for name in LISTS:
        if not alike(getattr(was, name), getattr(now, name)):
            old, new = ({id(item): item for item in getattr(p, name)} for p in (was, now))
            found += [(name, old.get(which) or new[which]) for which in old.keys() ^ new.keys()]
    return frozenset(found)


def _in_trouble(now: Assessment, before: Judgement) -> list[tuple[ScenarioAir, PickupAir]]:
    """Each machine whose least ducted pickup is short or whose chips settle, the worst first."""
    found = []
    for answer in now.of_machine.values():
        worst = answer.worst
        if worst is not None and answer.converged:
            mine = [p for (scenario, _), p in before.pickups.items() if scenario == answer.scenario]
            trouble = math.fsum(p.trouble for p in mine)
            if trouble > 0:
                found.append((trouble, answer, worst))
    return [(answer, worst) for _, answer, worst in sorted(found, key=lambda each: -each[0])]


def _winners(before: Judgement, after: Judgement) -> Iterator[str]:
    """Machines with a pickup that comes nearer to its need."""
    won = {}
    for key, now in after.pickups.items():
        was = before.pickups.get(key)
        if was is not None and min(now.share, 1.0) > min(was.share, 1.0) + SAME:
            won[key[1].split("/", maxsplit=1)[0]] = True
    yield from won


def _carried(before: Judgement, after: Judgement) -> Iterator[str]:
    """Machines with chips that were not carried and now meet faster air."""
    better = {}
    for key, now in after.pickups.items():
        was = before.pickups.get(key)
        if was is None or was.transport is None or now.transport is None or was.carried:
            continue
        if now.transport > was.transport + SAME:
            better[key[1].split("/", maxsplit=1)[0]] = True
    yield from better


def _relief(now: Assessment, before: Judgement, change: Change, changed: Project, name: str) -> Improvement | None:
    """A change judged by what it wins for the whole shop; None when nothing worth a line."""
    then = assess(changed, all_scenarios(changed), now)
    judged = judge(then, before)
    if not _wins(before, judged, LEAST_GAIN):
        return None
    gain = math.fsum(
        min(p.airflow, p.need) - min(before.pickups[key].airflow, before.pickups[key].need)
        for key, p in judged.pickups.items()
        if key in before.pickups and len(key[0].running) == 1
    )
    winners, carried = tuple(_winners(before, judged)), tuple(_carried(before, judged))
    words = (
        change.words
        if winners[1:] or carried[1:] or not name
        else f"{name}: {change.words[:1].lower()}{change.words[1:]}"
    )
    least = min(judged.pickups.values(), key=lambda p: p.share)
    return Improvement(
        words,
        change.element,
        change.edit,
        gain,
        least.airflow,
        least.need,
        least.need,
        all(p.met for p in judged.pickups.values()),
        judged.slowest,
        before,
        judged,
    )


def _flushing_changes(now: Assessment, answer: ScenarioAir) -> list[Change]:
    """Gates that flush the slowest run when they are opened for a machine too."""
    (machine,) = answer.scenario.running

    def open_too(gate: str) -> Edit:
        return lambda p: opened_for(p, gate, machine)

    return [
        Change(f"Open {called(now.project, w.gate)} for it too", w.gate, open_too(w.gate))
        for w in flushings(now, answer)[:MOST_GATES]
    ]

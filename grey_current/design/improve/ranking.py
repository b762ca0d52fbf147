"""What would help most: every sensible single change, each computed, ranked by what it gains.

For one machine, for the whole shop, or the other ways in which one part could be made.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from grey_current.air.needs import MET_FROM
from grey_current.design.flow.assessment import Assessment, PickupAir, UseAir, assess
from grey_current.design.flow.gates import washes
from grey_current.design.flow.scenarios import own_uses
from grey_current.design.flow.transport import slowest
from grey_current.design.improve.changes import Change, Idea, ideas
from grey_current.design.improve.part_changes import alternatives
from grey_current.errors import GreyCurrentError
from grey_current.shop import edits
from grey_current.shop.model import Project

LEAST_GAIN = 0.002
"""Share of the need under which a change is not worth a line."""
LOSES = 0.01
"""Share of its need that another machine must lose, or win, before it is named."""
CARRIES_BETTER = 1.02
"""Share by which the slowest air must get faster before a change counts as carrying chips better."""

Wanted = Callable[[], bool]


@dataclass(frozen=True)
class Lever:
    """One change: in words, on which element, the function that makes it, and what it was worth as computed.

    `gain` is the airflow (m³/s) more at the machine's worst pickup when it runs alone, for the whole shop the sum of
    what the short ones win towards their needs. `met` says whether all that was asked about get their need then.
    `carry` is the slowest velocity that the machine's chips meet then, over what they need; None for the whole shop.
    `losers` and `winners` are other machines with what they lose or win (m³/s).
    """

    words: str
    element: str
    change: Change
    gain: float
    met: bool
    carry: float | None = None
    losers: tuple[tuple[str, float], ...] = ()
    winners: tuple[tuple[str, float], ...] = ()


def levers(now: Assessment, machine: str, wanted: Wanted = lambda: True) -> list[Lever]:
    """Changes that would help a machine, the best first.

    Parameters
    ----------
    now
        The present answer, each machine running alone.
    machine
        Which one. Short of air, its changes are ranked by airflow gained; with enough air but chips that settle,
        by how fast the slowest air gets.
    wanted
        Asked before each idea; the search stops when it answers False.

    Returns
    -------
    list of Lever
        Each worth at least `LEAST_GAIN` of the need; empty for a machine without a ducted pickup.

    Raises
    ------
    Nothing; an idea that cannot be built is left out.
    """
    answer = now.of_machine.get(machine)
    worst = answer.worst if answer and answer.converged else None
    if answer is None or worst is None:
        return []
    short = not worst.met
    found: list[Lever] = []
    for idea in (*ideas(now.project, answer, worst), *(() if short else _wash_ideas(now, answer))):
        if not wanted():
            return []
        lever = tried(now, worst, idea)
        if lever is not None:
            found.append(lever)
    if short:
        gaining = [lever for lever in found if lever.gain >= LEAST_GAIN * worst.need.airflow]
        return sorted(gaining, key=lambda lever: -lever.gain)
    slow = slowest(now.project, answer)
    enough = MET_FROM * worst.need.airflow - worst.airflow
    carrying = [v for v in found if slow and (v.carry or 0.0) > slow.share * CARRIES_BETTER and v.gain >= enough]
    return sorted(carrying, key=lambda lever: -(lever.carry or 0.0))


def shop_levers(now: Assessment, wanted: Wanted = lambda: True) -> list[Lever]:
    """Changes that would help the whole shop, the best first: what the short machines win together.

    `now` is the present answer, each machine running alone; `wanted` as for `levers`. A change that takes more from
    machines than it gives is left out. Raises nothing.
    """
    short = [(a, a.worst) for a in now.uses if a.worst is not None and a.converged and not a.worst.met]
    short.sort(key=lambda pair: pair[1].share)
    found: dict[str, Lever] = {}
    tried_already: list[Project] = []
    for answer, worst in short:
        for idea in ideas(now.project, answer, worst):
            if not wanted():
                return []
            changed = _made(now.project, idea)
            if changed is None or changed in tried_already:
                continue
            tried_already.append(changed)
            lever = _relief(now, idea, changed)
            if lever is not None:
                name = now.project.machine[worst.machine].name
                words = idea.words if lever.winners[1:] else f"{name}: {idea.words[:1].lower()}{idea.words[1:]}"
                found[words] = Lever(words, lever.element, lever.change, lever.gain, lever.met, None,
                                     lever.losers, lever.winners)  # fmt: skip
    return sorted(found.values(), key=lambda lever: -lever.gain)


def choices(now: Assessment, element: str, machine: str, wanted: Wanted = lambda: True) -> list[Lever]:
    """What the other ways to make one part would be worth to a machine, in their own order, losses included.

    Raises nothing; empty for a part that has only one way.
    """
    answer = now.of_machine.get(machine)
    worst = answer.worst if answer and answer.converged else None
    if answer is None or worst is None:
        return []
    found: list[Lever] = []
    for idea in alternatives(now.project, element):
        if not wanted():
            return []
        lever = tried(now, worst, idea)
        if lever is not None:
            found.append(lever)
    return found


def tried(now: Assessment, worst: PickupAir, idea: Idea) -> Lever | None:
    """An idea computed for every machine running alone; None when it cannot be built or changes nothing."""
    changed = _made(now.project, idea)
    then = assess(changed, own_uses(changed), now) if changed is not None else None
    answer = then.of_machine.get(worst.machine) if then else None
    if changed is None or then is None or answer is None or not answer.converged:
        return None
    after = next(p for p in answer.pickups if p.pickup == worst.pickup)
    others = [u for u in now.uses if u.worst is not None and u.worst.machine != worst.machine]
    losers, winners = _others(others, then)
    slow = slowest(changed, answer)
    return Lever(
        idea.words, idea.element, idea.change, after.airflow - worst.airflow, all(p.met for p in answer.pickups),
        slow.share if slow else None, losers, winners,
    )  # fmt: skip


def _made(project: Project, idea: Idea) -> Project | None:
    """The project with an idea carried out; None when it cannot be or changes nothing."""
    try:
        changed = idea.change(project)
    except GreyCurrentError:
        return None
    return None if changed == project else changed


def _others(uses: Iterable[UseAir], then: Assessment) -> tuple[tuple[tuple[str, float], ...], ...]:
    """What machines lose and what they win, each more than `LOSES` of its need."""
    losers: list[tuple[str, float]] = []
    winners: list[tuple[str, float]] = []
    for other in uses:
        was, will = other.worst, then.of(other.use)
        if was is None or will is None or not will.converged:
            continue
        same = next((p for p in will.pickups if p.pickup == was.pickup and p.leaf is not None), None)
        if same is None:
            continue
        change = same.airflow - was.airflow
        if abs(change) > LOSES * was.need.airflow:
            (winners if change > 0 else losers).append((was.machine, abs(change)))
    return tuple(losers), tuple(winners)


def _relief(now: Assessment, idea: Idea, changed: Project) -> Lever | None:
    """What a change wins towards all needs together; None when nothing worth a line."""
    then = assess(changed, own_uses(changed), now)
    before = {a.use: a.worst for a in now.uses if a.worst is not None and a.converged}
    gain, met = 0.0, True
    for use, was in before.items():
        answer = then.of(use)
        same = next((p for p in answer.pickups if p.pickup == was.pickup), None) if answer else None
        if answer is None or same is None or not answer.converged:
            return None
        gain += min(same.airflow, same.need.airflow) - min(was.airflow, was.need.airflow)
        met = met and all(p.met for p in answer.pickups)
    losers, winners = _others([a for a in now.uses if a.use in before], then)
    total = sum(was.need.airflow for was in before.values())
    if gain < LEAST_GAIN * total or not winners:
        return None
    return Lever(idea.words, idea.element, idea.change, gain, met, None, losers, winners)


def _wash_ideas(now: Assessment, answer: UseAir) -> list[Idea]:
    """Gates that, left open, wash the slowest run."""

    def left_open(gate: str) -> Change:
        return lambda p: edits.changed(p, gate, rule="left open")

    return [Idea(f"Leave '{w.gate}' open", w.gate, left_open(w.gate)) for w in washes(now, answer)]

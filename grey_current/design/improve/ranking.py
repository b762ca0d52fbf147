"""What would help most: every sensible single change, each computed, ranked by what it gains.

For one machine, for the whole shop, or the other ways in which one part could be made.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from grey_current.air.needs import MET_FROM
from grey_current.design.flow.assessment import Assessment, PickupAir, ScenarioAir, assess
from grey_current.design.flow.gates import flushings
from grey_current.design.flow.scenarios import alone_scenarios
from grey_current.design.flow.transport import slowest_transport
from grey_current.design.improve.changes import Change, sensible_changes
from grey_current.design.improve.part_changes import part_changes
from grey_current.errors import GreyCurrentError
from grey_current.shop import edits
from grey_current.shop.edits import Edit
from grey_current.shop.model import Project
from grey_current.shop.names import called

LEAST_GAIN = 0.002
"""Share of the need under which a change is not worth a line."""
LOSES = 0.01
"""Share of its need that another machine must lose, or win, before it is named."""
TRANSPORTS_BETTER = 1.02
"""Share by which the slowest air must get faster before a change counts as carrying chips better."""

Wanted = Callable[[], bool]


@dataclass(frozen=True)
class Improvement:
    """One change: in words, on which element, the function that makes it, and what it was worth as computed.

    `gain` is the airflow (m³/s) more at the machine's worst pickup when it runs alone, for the whole shop the sum of
    what the short ones win towards their needs. `met` says whether all that was asked about get their need then.
    `transport` is the slowest velocity that the machine's chips meet then, over what they need; None for a whole shop.
    `losers` and `winners` are other machines with what they lose or win (m³/s).
    """

    words: str
    element: str
    edit: Edit
    gain: float
    met: bool
    transport: float | None = None
    losers: tuple[tuple[str, float], ...] = ()
    winners: tuple[tuple[str, float], ...] = ()


def improvements(now: Assessment, machine: str, wanted: Wanted = lambda: True) -> list[Improvement]:
    """Changes that would help a machine, the best first.

    Parameters
    ----------
    now
        The present answer, each machine running alone.
    machine
        Which one. Short of air, its changes are ranked by airflow gained; with enough air but chips that settle,
        by how fast the slowest air gets.
    wanted
        Asked before each change; the search stops when it answers False.

    Returns
    -------
    list of Lever
        Each worth at least `LEAST_GAIN` of the need; empty for a machine without a ducted pickup.

    Raises
    ------
    Nothing; a change that cannot be built is left out.
    """
    answer = now.of_machine.get(machine)
    worst = answer.worst if answer and answer.converged else None
    if answer is None or worst is None:
        return []
    short = not worst.met
    found: list[Improvement] = []
    for change in (*sensible_changes(now.project, answer, worst), *(() if short else _flushing_changes(now, answer))):
        if not wanted():
            return []
        improvement = tried(now, worst, change)
        if improvement is not None:
            found.append(improvement)
    if short:
        gaining = [improvement for improvement in found if improvement.gain >= LEAST_GAIN * worst.need.airflow]
        return sorted(gaining, key=lambda improvement: -improvement.gain)
    slow = slowest_transport(now.project, answer)
    enough = MET_FROM * worst.need.airflow - worst.airflow
    carrying = [v for v in found if slow and (v.transport or 0.0) > slow.share * TRANSPORTS_BETTER and v.gain >= enough]
    return sorted(carrying, key=lambda improvement: -(improvement.transport or 0.0))


def shop_improvements(now: Assessment, wanted: Wanted = lambda: True) -> list[Improvement]:
    """Changes that would help the whole shop, the best first: what the short machines win together.

    `now` is the present answer, each machine running alone; `wanted` as for `improvements`. A change that takes more
    from machines than it gives is left out. Raises nothing.
    """
    short = [(a, a.worst) for a in now.answers if a.worst is not None and a.converged and not a.worst.met]
    short.sort(key=lambda pair: pair[1].share)
    found: dict[str, Improvement] = {}
    tried_already: list[Project] = []
    for answer, worst in short:
        for change in sensible_changes(now.project, answer, worst):
            if not wanted():
                return []
            changed = _made(now.project, change)
            if changed is None or changed in tried_already:
                continue
            tried_already.append(changed)
            improvement = _relief(now, change, changed)
            if improvement is not None:
                name = now.project.machine[worst.machine].name
                words = (
                    change.words if improvement.winners[1:] else f"{name}: {change.words[:1].lower()}{change.words[1:]}"
                )
                found[words] = Improvement(
                    words,
                    improvement.element,
                    improvement.edit,
                    improvement.gain,
                    improvement.met,
                    None,
                    improvement.losers,
                    improvement.winners,
                )
    return sorted(found.values(), key=lambda improvement: -improvement.gain)


def part_improvements(now: Assessment, element: str, machine: str, wanted: Wanted = lambda: True) -> list[Improvement]:
    """What the other ways to make one part would be worth to a machine, in their own order, losses included.

    Raises nothing; empty for a part that has only one way.
    """
    answer = now.of_machine.get(machine)
    worst = answer.worst if answer and answer.converged else None
    if answer is None or worst is None:
        return []
    found: list[Improvement] = []
    for change in part_changes(now.project, element):
        if not wanted():
            return []
        improvement = tried(now, worst, change)
        if improvement is not None:
            found.append(improvement)
    return found


def tried(now: Assessment, worst: PickupAir, change: Change) -> Improvement | None:
    """A change computed for every machine running alone; None when it cannot be built or changes nothing."""
    changed = _made(now.project, change)
    then = assess(changed, alone_scenarios(changed), now) if changed is not None else None
    answer = then.of_machine.get(worst.machine) if then else None
    if changed is None or then is None or answer is None or not answer.converged:
        return None
    after = next(p for p in answer.pickups if p.pickup == worst.pickup)
    others = [u for u in now.answers if u.worst is not None and u.worst.machine != worst.machine]
    losers, winners = _others(others, then)
    slow = slowest_transport(changed, answer)
    return Improvement(
        change.words,
        change.element,
        change.edit,
        after.airflow - worst.airflow,
        all(p.met for p in answer.pickups),
        slow.share if slow else None,
        losers,
        winners,
    )


def _made(project: Project, change: Change) -> Project | None:
    """The project with a change made; None when it cannot be or changes nothing."""
    try:
        changed = change.edit(project)
    except GreyCurrentError:
        return None
    return None if changed == project else changed


def _others(scenarios: Iterable[ScenarioAir], then: Assessment) -> tuple[tuple[tuple[str, float], ...], ...]:
    """What machines lose and what they win, each more than `LOSES` of its need."""
    losers: list[tuple[str, float]] = []
    winners: list[tuple[str, float]] = []
    for other in scenarios:
        was, will = other.worst, then.of(other.scenario)
        if was is None or will is None or not will.converged:
            continue
        same = next((p for p in will.pickups if p.pickup == was.pickup and p.leaf is not None), None)
        if same is None:
            continue
        change = same.airflow - was.airflow
        if abs(change) > LOSES * was.need.airflow:
            (winners if change > 0 else losers).append((was.machine, abs(change)))
    return tuple(losers), tuple(winners)


def _relief(now: Assessment, change: Change, changed: Project) -> Improvement | None:
    """What a change wins towards all needs together; None when nothing worth a line."""
    then = assess(changed, alone_scenarios(changed), now)
    before = {a.scenario: a.worst for a in now.answers if a.worst is not None and a.converged}
    gain, met = 0.0, True
    for scenario, was in before.items():
        answer = then.of(scenario)
        same = next((p for p in answer.pickups if p.pickup == was.pickup), None) if answer else None
        if answer is None or same is None or not answer.converged:
            return None
        gain += min(same.airflow, same.need.airflow) - min(was.airflow, was.need.airflow)
        met = met and all(p.met for p in answer.pickups)
    losers, winners = _others([a for a in now.answers if a.scenario in before], then)
    total = sum(was.need.airflow for was in before.values())
    if gain < LEAST_GAIN * total or not winners:
        return None
    return Improvement(change.words, change.element, change.edit, gain, met, None, losers, winners)


def _flushing_changes(now: Assessment, answer: ScenarioAir) -> list[Change]:
    """Gates that, left open, flush the slowest run."""

    def left_open(gate: str) -> Edit:
        return lambda p: edits.changed(p, gate, rule="left open")

    return [
        Change(f"Leave {called(now.project, w.gate)} open", w.gate, left_open(w.gate)) for w in flushings(now, answer)
    ]

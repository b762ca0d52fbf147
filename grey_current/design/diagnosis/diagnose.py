"""Why a shop, or a machine, is short of air: causes ranked by what they take, the root cause first.

Each suspect is tried without: its cures are computed one after the other, and what the shop is then
better by is what the cause holds. Docs: docs/diagnosis.md.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import NamedTuple

from grey_current.air.needs import NEARLY, SETTLES_BELOW
from grey_current.design.diagnosis.cause import Cause, Cure, Explained, Oddity, Suspect
from grey_current.design.diagnosis.scene import Scene
from grey_current.design.diagnosis.suspects import RULES
from grey_current.design.findings.finding import Finding
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.improve.ranking import NO_WORSE, made_with, what_gets_worse
from grey_current.design.judgement import (
    Judgement,
    Key,
    PickupJudged,
    air_judgement,
    judge,
    judgement_of,
    towards_needs,
)
from grey_current.design.parts.costs import Cost, extra_cost
from grey_current.design.parts.make_room import builds_no_worse
from grey_current.shop.edits import Change
from grey_current.shop.model import Project

# What a cause must hold to be named, in needs: below it nobody would notice. Air beyond the need
# counts for little, so one pickup that wins so much of its need is enough. Allowances.
LEAST_WORTH, LEAST_SHARE = 0.02, 0.03
# What air beyond the need counts for, and up to which share of the need more; chips that are
# carried count for half as much as a need that is met. Allowances.
SPARE_COUNTS, SPARE_UP_TO, CHIPS_COUNT = 0.2, 1.5, 0.5
# Money (in the shop's currency) by which a cure counts for half. Allowance: what a weekend's worth
# of ducts costs.
HALF_AT = 500.0
# The dearer of two cures is taken only where the cheaper one wins less than this share of what it
# wins.
AS_GOOD = 0.9
# Share of what is lacking that must go for a finding to be explained.
EXPLAINED_FROM = 0.5
# What a cause counts for that no single change takes away. Allowance.
INCURABLE = 0.4
# Causes that are named at most.
MOST_CAUSES = 6


class _Trial(NamedTuple):
    """One cure as it was computed: the shop with it, its air and what it wins."""

    change: Change
    project: Project
    then: Assessment
    judged: Judgement
    worth: float
    gain: float


@dataclass(frozen=True)
class Diagnosis:
    """Why there is too little air, the root cause first.

    Attributes:
        machine: Which one was asked about; None for the whole shop.
        causes: Those that hold something worth mending.
    """

    machine: str | None
    causes: tuple[Cause, ...]

    @property
    def root(self) -> Cause | None:
        """The first cause; None where nothing is out of the ordinary."""
        return self.causes[0] if self.causes else None


def diagnose(
    now: Assessment,
    machine: str | None = None,
    findings: Iterable[Finding] = (),
    should_continue: Callable[[], bool] = lambda: True,
) -> Diagnosis:
    """Return the causes of what is amiss with a machine, or with the whole shop.

    Parameters
    ----------
    now
        The present answer, for every scenario that the shop counts with.
    machine
        A machine's id, None for the whole shop.
    findings
        What is known to be wrong; each cause names those that it explains.
    should_continue
        Asked before each suspect is tried; nothing is found once it returns False.

    Raises
    ------
    Nothing; a cure that cannot be built is left out.
    """
    scene, before = Scene(now, machine), judgement_of(now)
    known = [f for f in findings if machine is None or _concerns(f, machine)]
    tried: list[tuple[Suspect, list[_Trial]]] = []
    causes: list[Cause] = []
    for suspect in (each for rule in RULES for each in rule(scene)):
        if not should_continue():
            return Diagnosis(machine, ())
        trials = [_tried(now, before, change, machine, suspect) for change in suspect.cures]
        noticed = [t for t in trials if t is not None and _is_noticed(before, t, machine)]
        if noticed:
            tried.append((suspect, noticed))
        elif suspect.worth:
            causes.append(_without_cure(suspect, known))
    causes += _of_trials(now, before, machine, tried, known, should_continue)
    causes.sort(key=lambda cause: -cause.worth)
    return Diagnosis(machine, _surely(causes[:MOST_CAUSES]))


def _of_trials(
    now: Assessment,
    before: Judgement,
    machine: str | None,
    tried: list[tuple[Suspect, list[_Trial]]],
    findings: list[Finding],
    should_continue: Callable[[], bool],
) -> list[Cause]:
    """The causes that have been tried without, by what their cures win and cost."""
    most = {
        suspect: max(trial.worth for trial in trials) * suspect.oddity.value
        for suspect, trials in tried
    }
    causes: list[tuple[Cause, _Trial]] = []
    for suspect, trials in sorted(tried, key=lambda each: -most[each[0]]):
        if not should_continue():
            return []
        # Money takes milliseconds: it is asked only of those that may still come to the front.
        ahead = [cause for cause, _ in causes if cause.worth >= most[suspect]]
        if len(ahead) < MOST_CAUSES:
            causes.append(_cause(now, before, machine, suspect, trials))
    causes.sort(key=lambda each: -each[0].worth)
    return [_explaining(before, cause, trial, findings) for cause, trial in causes[:MOST_CAUSES]]


def _surely(causes: list[Cause]) -> tuple[Cause, ...]:
    """Causes with each one's share of what they hold together."""
    whole = math.fsum(cause.worth for cause in causes)
    return tuple(replace(cause, sure=cause.worth / whole) for cause in causes)


def _without_cure(suspect: Suspect, findings: list[Finding]) -> Cause:
    """A cause whose worth is known without a trial."""
    same = [f for f in findings if f.code in suspect.own and f.element in suspect.elements]
    explains = tuple(dict.fromkeys(Explained(f.code, f.element) for f in same))
    worth = INCURABLE * suspect.worth * suspect.oddity.value
    return Cause(suspect, suspect.takes, worth, None, explains)


def _tried(
    now: Assessment, before: Judgement, change: Change, machine: str | None, suspect: Suspect
) -> _Trial | None:
    project = made_with(now.project, change)
    if project is None:
        return None
    then = assess(project, all_scenarios(project), now)
    judged = air_judgement(then)
    worth, gain = _won(before, judged, machine, suspect)
    return _Trial(change, project, then, judged, worth, gain)


def _is_noticed(before: Judgement, trial: _Trial, machine: str | None) -> bool:
    """Whether a cure wins what anybody would notice."""
    if trial.worth >= LEAST_WORTH:
        return True
    if trial.worth <= 0:
        return False
    shares = [
        is_now.share - was.share
        for key, was in before.pickups.items()
        if machine in (None, key[1].partition("/")[0])
        and (is_now := trial.judged.pickups.get(key)) is not None
    ]
    return max(shares, default=0.0) >= LEAST_SHARE


def _won(
    before: Judgement, after: Judgement, machine: str | None, suspect: Suspect
) -> tuple[float, float]:
    """What the pickups that are asked about win, in needs, and in airflow (m³/s) of each machine on
    its own.

    What is set wrong is wrong even where it happens to flush the main: chips that then settle are
    another cause, and do not count against it.
    """
    forgiven = suspect.oddity is Oddity.SET_WRONG
    worth, gain = [0.0], [0.0]
    for key, was in before.pickups.items():
        scenario, ref = key
        if machine is not None and ref.partition("/")[0] != machine:
            continue
        is_now = after.pickups.get(key)
        if is_now is None:
            # A set of machines that is not run together any more lacks nothing.
            worth.append(_lacks(was) if len(scenario.running) > 1 else 0.0)
            continue
        chips = CHIPS_COUNT * (_carried(is_now) - _carried(was))
        # A wider port asks for more: one that had enough and then has not is no gain.
        loses = was.met and not is_now.met and not suspect.restores
        worth.append(is_now.share - 1 if loses else _air(is_now, was) - _air(was, is_now))
        worth.append(max(chips, 0.0) if forgiven else chips)
        if len(scenario.running) == 1:
            gain.append(is_now.airflow - was.airflow)
    unanswered = len(before.unanswered) - len(after.unanswered)
    return math.fsum(worth) + unanswered, math.fsum(gain)


def _air(pickup: PickupJudged, other: PickupJudged) -> float:
    """What a pickup's air is worth. Both are held against the larger need of the two: a wider port
    asks for more, which is no loss.
    """
    share = pickup.airflow / max(pickup.need, other.need)
    return min(share, 1.0) + SPARE_COUNTS * min(max(share - 1, 0.0), SPARE_UP_TO)


def _carried(pickup: PickupJudged) -> float:
    """How well chips are carried, up to 1."""
    return min(pickup.transport, 1.0) if pickup.transport is not None else 0.0


def _lacks(pickup: PickupJudged) -> float:
    slow = max(1 - pickup.transport, 0.0) if pickup.transport is not None else 0.0
    return max(1 - pickup.share, 0.0) + CHIPS_COUNT * slow


def _left(before: Judgement, after: Judgement, machine: str | None) -> float | None:
    """Share of all that lacks that lacks still; None where nothing did."""
    lacked = _all_lack(before, machine)
    return min(_all_lack(after, machine) / lacked, 1.0) if lacked else None


def _all_lack(judged: Judgement, machine: str | None) -> float:
    """What all pickups that are asked about lack, but for those that have nearly enough."""
    return math.fsum(
        _lacks(pickup)
        for (_, ref), pickup in judged.pickups.items()
        if machine in (None, ref.partition("/")[0])
        and (pickup.share < NEARLY or (pickup.transport or 1.0) < SETTLES_BELOW)
    )


def _cause(
    now: Assessment, before: Judgement, machine: str | None, suspect: Suspect, trials: list[_Trial]
) -> tuple[Cause, _Trial]:
    """A suspect with the best of its cures that leaves the shop no worse and can be built.

    Where none is left it is a cause all the same, with what it takes and without a cure.
    """
    left = trials
    while left:
        chosen, cost = _cheapest(now, suspect, left)
        judged = judge(chosen.then, before)
        if _is_cure(before, judged, suspect) and _can_be_built(now.project, chosen.project):
            money = cost.money if cost is not None else 0.0
            worth = chosen.worth * suspect.oddity.value / (1 + money / HALF_AT)
            met, then_met = _met(now), _met(chosen.then)
            worse = what_gets_worse(before, judged)
            cure = Cure(
                chosen.change,
                chosen.gain,
                towards_needs(before, chosen.judged),
                met,
                then_met,
                len(now.asking),
                cost,
                worse,
                _left(before, chosen.judged, machine),
            )
            return Cause(suspect, chosen.gain, worth, cure), chosen
        left = [trial for trial in left if trial is not chosen]
    best = max(trials, key=lambda trial: trial.worth)
    worth = INCURABLE * max(best.worth, suspect.worth) * suspect.oddity.value
    return Cause(suspect, best.gain, worth, None), best


def _cheapest(
    now: Assessment, suspect: Suspect, trials: list[_Trial]
) -> tuple[_Trial, Cost | None]:
    """Of cures that win about the same, the cheapest; among those the first that was named.

    What could merely be larger need not be larger than serves as many machines.
    """
    best = max(trials, key=lambda trial: trial.worth)
    alike = [trial for trial in trials if trial.worth >= AS_GOOD * best.worth]
    if suspect.oddity is Oddity.COULD_BE_BETTER:
        most = _met(best.then)
        alike += [t for t in trials if t not in alike and _met(t.then) >= most > _met(now)]
    costs = [extra_cost(now.project, trial.project) for trial in alike]
    sums = [cost.money if cost is not None else 0.0 for cost in costs]
    place = sums.index(min(sums))
    return alike[place], costs[place]


def _is_cure(before: Judgement, after: Judgement, suspect: Suspect) -> bool:
    """Whether a change hits nothing new, and leaves the shop no worse by the one judgement.

    What is set wrong is put right whatever follows from it; that stands beside the offer.
    """
    forgiven = suspect.oddity is Oddity.SET_WRONG
    return after.hits <= before.hits and (forgiven or after.trouble <= before.trouble + NO_WORSE)


def _can_be_built(before: Project, after: Project) -> bool:
    """Whether a cure leaves every joint that could be put together as good as it was."""
    return _joints(before) == _joints(after) or builds_no_worse(before, after)


def _joints(project: Project) -> tuple[list[object], ...]:
    """What joints follow from."""
    return (
        list(project.points),
        [(run.start, run.end, run.diameter, run.material) for run in project.runs],
        [(gate.run, gate.at, gate.bore) for gate in project.gates],
    )


def _met(assessment: Assessment) -> int:
    """Machines that get the air they need, each running on its own."""
    return sum(answer.met for answer in assessment.of_machine.values())


def _explaining(before: Judgement, cause: Cause, trial: _Trial, findings: list[Finding]) -> Cause:
    """A cause with the findings that it explains."""
    explains = tuple(
        dict.fromkeys(
            Explained(finding.code, finding.element)
            for finding in findings
            if _explains(before, trial.judged, cause.suspect, finding)
        )
    )
    return replace(cause, explains=explains)


def _concerns(finding: Finding, machine: str) -> bool:
    """Whether a finding is about a machine: about itself or what it runs with."""
    if finding.scenario:
        return machine in finding.scenario
    return finding.element.partition("/")[0] == machine or "/" not in finding.element


def _explains(before: Judgement, after: Judgement, suspect: Suspect, finding: Finding) -> bool:
    """Whether a finding says the same as a cause, or goes, or is half as bad, without it."""
    if finding.code in suspect.own:
        about = {finding.element, *finding.also}
        return not suspect.elements or not about.isdisjoint(suspect.elements)
    if finding.code in ("starved", "short", "small-port"):
        keys = [key for key in before.pickups if key[1] == finding.element]
        lacks = [(_short(before, key), _short(after, key)) for key in keys]
    elif finding.code in ("settles", "may-settle"):
        keys = [key for key in before.pickups if key[0].running == finding.scenario]
        lacks = [(_slow(before, key), _slow(after, key)) for key in keys]
    else:
        return False
    was = max((lack for lack, _ in lacks), default=0.0)
    left = max((lack for _, lack in lacks), default=0.0)
    return was > 0 and left <= (1 - EXPLAINED_FROM) * was


def _short(judged: Judgement, key: Key) -> float:
    pickup = judged.pickups.get(key)
    return 0.0 if pickup is None or pickup.met else max(1 - pickup.share, 0.0)


def _slow(judged: Judgement, key: Key) -> float:
    pickup = judged.pickups.get(key)
    if pickup is None or pickup.transport is None:
        return 0.0
    return max(1 - pickup.transport, 0.0)

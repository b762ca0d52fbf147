"""What would help the whole shop most: every sensible single change, tried one by one, here and by
helpers.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment, PickupAir, ScenarioAir
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.improve.changes import own_changes, shared_changes
from grey_current.design.improve.ranking import (
    LEAST_GAIN,
    Effects,
    Improvement,
    ShouldContinue,
    carried,
    in_order,
    made_with,
    what_gets_worse,
    winners,
    wins,
)
from grey_current.design.judgement import Judgement, judge, judgement_of, towards_needs
from grey_current.shop.design_parts import LISTS, alike
from grey_current.shop.edits import Change
from grey_current.shop.model import Project
from grey_current.workers.pool import ALONE, Crew


def shop_improvements(
    now: Assessment, should_continue: ShouldContinue = lambda: True, crew: Crew = ALONE
) -> list[Improvement]:
    """Changes that would help the whole shop, the best first by the judgement; none that leaves it
    worse.

    Parameters
    ----------
    now
        The present answer, for every scenario that the shop counts with.
    should_continue
        Asked before each change; the search stops, and finds nothing, when it returns False.
    crew
        Helpers that try the last of the changes while the first are tried here.

    Raises
    ------
    Nothing; a change that cannot be built is left out.
    """
    search = _Search(now, judgement_of(now))
    sent = _SearchRequest(now.project.replaced(), tuple(search.asked))
    # Helpers begin at the end of the list, this process at the front; what they do not bring is
    # done here.
    tries = crew.share(WorkerTask, sent, len(search.asked), search.tried_once, should_continue)
    found: dict[str, Improvement] = {}
    new: set[frozenset[object]] = set()
    for (name, change), tried in zip(search.asked.values(), tries or [], strict=False):
        # Two changes may come to the very same shop, such as one elbow of a single one and all
        # elbows.
        if tried is not None and tried.new not in new:
            new.add(tried.new)
            made = _improvement(search.before, name, change, tried)
            found[made.words] = made
    return in_order(found.values())


# A change's words and the element that it is made on: no two that are tried have the same.
ChangeKey = tuple[str, str]


class _SearchRequest(NamedTuple):
    """What a helper is sent: the shop, and what is asked, to be sure that it numbers the changes in
    the same way.
    """

    project: Project
    asked: tuple[ChangeKey, ...]


class _ChangeResult(NamedTuple):
    """What a change comes to, where it is worth a line: what is new with it, and figures as an
    `Improvement` has them.

    The judgement of the shop with it where it was tried here, what is told of it where it was tried
    by a helper.
    """

    new: frozenset[object]
    gain: float
    airflow: float
    need: float
    met: bool
    transport: float | None
    judged: Judgement | None
    told: Effects | None


class _Search:
    """Every change worth trying for a whole shop, each with the name of the machine that it is for,
    if it is for one.

    What is not on a machine's own way is tried once, for all.
    """

    def __init__(self, now: Assessment, before: Judgement) -> None:
        self.now, self.before = now, before
        self.asked: dict[ChangeKey, tuple[str, Change]] = {}
        troubled = _in_trouble(now, self.before)
        for answer, worst in troubled:
            name = now.project.machine[worst.machine].name
            for change in own_changes(now.project, answer, worst):
                self.asked.setdefault((change.words, change.element), (name, change))
        for collector in dict.fromkeys(worst.collector or "" for _, worst in troubled):
            for change in shared_changes(now.project, collector):
                self.asked.setdefault((change.words, change.element), ("", change))
        self._changes = [change for _, change in self.asked.values()]
        self._new: set[frozenset[object]] = set()

    def tried_once(self, number: int) -> _ChangeResult | None:
        """A change as `tried`; None too where one that was asked before comes to the same."""
        changed = made_with(self.now.project, self._changes[number])
        new = _what_is_new(self.now.project, changed) if changed is not None else frozenset()
        if changed is None or new in self._new:
            return None
        self._new.add(new)
        return self._judged(changed, new)

    def tried(self, number: int) -> _ChangeResult | None:
        """A change judged by what it wins for the whole shop; None when nothing worth a line, or it
        cannot be made.
        """
        changed = made_with(self.now.project, self._changes[number])
        if changed is None:
            return None
        return self._judged(changed, _what_is_new(self.now.project, changed))

    def _judged(self, changed: Project, new: frozenset[object]) -> _ChangeResult | None:
        before = self.before
        judged = judge(assess(changed, all_scenarios(changed), self.now), before)
        if not wins(before, judged, LEAST_GAIN):
            return None
        gain = towards_needs(before, judged)
        least = min(judged.pickups.values(), key=lambda p: p.share)
        met = all(p.met for p in judged.pickups.values())
        return _ChangeResult(
            new, gain, least.airflow, least.need, met, judged.slowest, judged, None
        )


class WorkerTask:
    """The search as a helper does it; `last` is the one that it did before, from which this one
    starts.
    """

    def __init__(self, sent: _SearchRequest, last: WorkerTask | None) -> None:
        was: _Search | None = last.search if last else None
        now = assess(sent.project, all_scenarios(sent.project), was.now if was else None)
        self.search: _Search = _Search(now, judge(now, was.before if was else None))
        if tuple(self.search.asked) != sent.asked:
            raise LookupError("the changes stand in another order here")

    def part(self, number: int) -> _ChangeResult | None:
        """What one of the changes comes to, with what it does told in words."""
        tried, before = self.search.tried(number), self.search.before
        if tried is None or tried.judged is None:
            return None
        after = tried.judged
        told = Effects(
            after.trouble,
            after.by_air,
            what_gets_worse(before, after),
            winners(before, after),
            carried(before, after),
        )
        return tried._replace(judged=None, told=told)


def _improvement(before: Judgement, name: str, change: Change, tried: _ChangeResult) -> Improvement:
    """A line of the answer; it names the machine where no other one gains."""
    now, judged = before.shop, tried.judged

    def then() -> Judgement:
        if judged is not None:
            return judged
        assert now is not None
        changed = change.edit(now)
        return judge(assess(changed, all_scenarios(changed)), before)

    told = tried.told
    if told is not None:
        gains = told.winners, told.carried
    else:
        assert judged is not None
        gains = winners(before, judged), carried(before, judged)
    # Machines that gain besides the one it is for.
    of_others = any(who[1:] for who in gains)
    if of_others or not name:
        words = change.words
    else:
        words = f"{name}: {change.words[:1].lower()}{change.words[1:]}"
    return Improvement(
        words,
        change.element,
        change.edit,
        tried.gain,
        tried.airflow,
        tried.need,
        tried.need,
        tried.met,
        tried.transport,
        before,
        then,
        told=told,
    )


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

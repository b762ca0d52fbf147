"""The order of a day's jobs in which least time goes to gates, hoses and walking, precedences kept.

A state is what is done, which job was last, and where each moved hose hangs; states are walked job
by job (Held and Karp, A dynamic programming approach to sequencing problems, 1962), and one that
cannot beat a good order that is known is left out. Exact for up to twelve jobs; with more, jobs are
moved about until nothing gets better.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

EXACT = 12
TINY = 1e-9
# Moves that are tried for a long day: a moment's work.
MOST_TRIES = 3000


@dataclass(frozen=True)
class Task:
    """A job as the search sees it: its gates, where each moved hose must hang (None: anywhere),
    jobs before it.
    """

    gates: frozenset[str]
    hoses: tuple[str | None, ...]
    after: frozenset[int]


@dataclass(frozen=True)
class Costs:
    """Seconds for each gate, for each hose, and for the way from job to job; `start` is where hoses
    hang at first.
    """

    gates: Mapping[str, float]
    hose: tuple[float, ...]
    walk: tuple[tuple[float, ...], ...]
    start: tuple[str, ...]
    always_open: frozenset[str] = frozenset()

    def moving(self, gates: frozenset[str]) -> float:
        """Seconds to move some gates."""
        return math.fsum([self.gates[gate] for gate in gates])


@dataclass(frozen=True)
class Order:
    """An order of jobs (numbers from 0), what moving takes (s), and whether nothing takes less."""

    jobs: tuple[int, ...]
    seconds: float
    proven: bool


class _Search:
    """The steps between jobs, worked out once: `pair` for gates and way, -1 for the beginning of
    the day.
    """

    def __init__(self, tasks: Sequence[Task], costs: Costs) -> None:
        self.tasks, self.costs = tasks, costs
        self.pair = [
            [costs.moving(a.gates ^ b.gates) + costs.walk[i][j] for j, b in enumerate(tasks)]
            for i, a in enumerate(tasks)
        ]
        self.first = [costs.moving(costs.always_open ^ task.gates) for task in tasks]
        self.wants = [
            [(n, ref) for n, ref in enumerate(task.hoses) if ref is not None] for task in tasks
        ]

    def step(self, last: int, hangs: tuple[str, ...], job: int) -> tuple[float, tuple[str, ...]]:
        """Seconds to get from one job (-1: none yet) to the next, and where the hoses hang then."""
        total = self.first[job] if last < 0 else self.pair[last][job]
        for number, wanted in self.wants[job]:
            if hangs[number] != wanted:
                total += self.costs.hose[number]
                hangs = (*hangs[:number], wanted, *hangs[number + 1 :])
        return total, hangs

    def seconds(self, order: Sequence[int]) -> float:
        """What the moves of an order take (s)."""
        total, last, hangs = 0.0, -1, self.costs.start
        for job in order:
            step, hangs = self.step(last, hangs, job)
            total, last = total + step, job
        return total

    def allowed(self, order: Sequence[int]) -> bool:
        """Whether every job comes after those that must come before it."""
        done: set[int] = set()
        for job in order:
            if not self.tasks[job].after <= done:
                return False
            done.add(job)
        return True

    def greedy(self) -> list[int]:
        """Always the next job that is quickest to get to. Raises `ValueError` for a circle of
        precedences.
        """
        order: list[int] = []
        last, hangs = -1, self.costs.start
        while len(order) < len(self.tasks):
            free = [
                j
                for j in range(len(self.tasks))
                if j not in order and self.tasks[j].after <= set(order)
            ]
            if not free:
                raise ValueError("the jobs wait for one another in a circle")
            last = min(free, key=lambda job: self.step(last, hangs, job)[0])
            hangs = self.step(order[-1] if order else -1, hangs, last)[1]
            order.append(last)
        return order

    def improved(self, order: list[int]) -> list[int]:
        """The order with stretches of up to three jobs moved elsewhere, as long as that helps."""
        best, least = order, self.seconds(order)
        better, tries = True, 0
        while better and tries < MOST_TRIES:
            better = False
            for length, start in itertools.product((1, 2, 3), range(len(order))):
                rest, moved = best[:start] + best[start + length :], best[start : start + length]
                for place in range(len(rest) + 1):
                    tried = rest[:place] + moved + rest[place:]
                    tries += 1
                    if self.seconds(tried) < least - TINY and self.allowed(tried):
                        best, least, better = tried, self.seconds(tried), True
                        break
        return best

    def exact(self, good: list[int]) -> Order:
        """The best of all orders; `good` is one that is known."""
        count, most = len(self.tasks), self.seconds(good)
        # Each job has to be got to from somewhere: the least that can cost bounds what is left.
        least_into = [
            min([self.first[j], *(self.pair[i][j] for i in range(count) if i != j)])
            for j in range(count)
        ]
        before = [sum(1 << b for b in task.after) for task in self.tasks]
        level: _Level = {0: {(-1, self.costs.start): (0.0, ())}}
        for _ in range(count):
            following: _Level = {}
            # Dynamic programming over sets of jobs done (Held and Karp, 1962), with what hangs
            # where as part of the state.
            for mask, states in level.items():
                free = [
                    j for j in range(count) if not mask >> j & 1 and before[j] & mask == before[j]
                ]
                still = sum(least_into[j] for j in range(count) if not mask >> j & 1)
                for (last, hangs), (spent, way) in states.items():
                    for job in free:
                        step, there = self.step(last, hangs, job)
                        # What cannot beat the order that is known is not followed further.
                        if spent + step + still - least_into[job] > most + TINY:
                            continue
                        found = following.setdefault(mask | 1 << job, {})
                        known = found.get((job, there))
                        if known is None or spent + step < known[0] - TINY:
                            found[job, there] = (spent + step, (*way, job))
            level = following
        total, way = min(level.get((1 << count) - 1, {}).values(), default=(most, tuple(good)))
        return Order(way, total, True) if total < most - TINY else Order(tuple(good), most, True)


# By what is done: the last job and where hoses hang, with the seconds so far and the way there.
_Level = dict[int, dict[tuple[int, tuple[str, ...]], tuple[float, tuple[int, ...]]]]


def seconds_of(order: Sequence[int], tasks: Sequence[Task], costs: Costs) -> float:
    """What the moves of an order take (s)."""
    return _Search(tasks, costs).seconds(order)


def best_order(tasks: Sequence[Task], costs: Costs) -> Order:
    """The best order, proven for up to twelve jobs, else the best found. Raises `ValueError` for a
    circle.
    """
    if not tasks:
        return Order((), 0.0, True)
    search = _Search(tasks, costs)
    good = search.improved(search.greedy())
    if len(tasks) <= EXACT:
        return search.exact(good)
    return Order(tuple(good), search.seconds(good), False)

"""One-dimensional cutting: which pieces come out of which stock length, solved exactly where time
allows.

Everything is in whole ticks (millimetres or sixteenths), as one marks it. A bar of length L yields
pieces w when Σ(w + kerf) ≤ L + kerf: the last cut of a bar that is used up is not made. What is
minimised is the stock that has to be bought, by length; offcuts that are there already cost
nothing.

Source: Gilmore and Gomory, A linear programming approach to the cutting-stock problem, 1961
(patterns, columns by the dual prices); the bound is the linear programme's, rounded up to what
lengths can add up to.
"""

from __future__ import annotations

import itertools
import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

# Patterns that are listed in full; with more, columns are made as the dual prices ask for them.
MOST_PATTERNS = 20_000
COLUMN_ROUNDS = 400
SMALL = 1e-7
# Ticks that an offcut counts as, over its length, so that the small ones are used up first.
# Allowance.
SHORTEST_FIRST = 1e-4


@dataclass(frozen=True)
class Bar:
    """A kind of stock: its length, what one counts as (0 for what is there already), and how many
    there are.
    """

    length: int
    cost: int
    count: int | None = None


@dataclass(frozen=True)
class Pattern:
    """What is cut out of one bar: its kind's number, and how many of each width."""

    bar: int
    counts: tuple[int, ...]


@dataclass(frozen=True)
class Cutting:
    """Patterns, one for each bar that is used; what is bought, and the bound below which nobody can
    get (ticks).
    """

    patterns: tuple[Pattern, ...]
    cost: int
    bound: int

    @property
    def proven(self) -> bool:
        """Whether no other way of cutting needs less."""
        return self.cost <= self.bound


def cut(
    widths: Sequence[int],
    demand: Sequence[int],
    bars: Sequence[Bar],
    kerf: int,
    seconds: float = 5.0,
) -> Cutting:
    """How to cut `demand` pieces of each of `widths` (ticks) out of bars with the least bought.

    Raises `ValueError` for a piece that no bar is long enough for.
    """
    longest = max((bar.length for bar in bars if bar.count is None), default=0)
    if any(width > longest for width in widths):
        raise ValueError("a piece is longer than every bar")
    if not widths:
        return Cutting((), 0, 0)
    until = time.monotonic() + seconds
    # A simple plan first: it is often proven at once, and the answer when time runs out.
    simple = _first_fit(widths, demand, bars, kerf)
    bound = _length_bound(widths, demand, bars, kerf)
    if _cost(simple, bars) <= bound or seconds <= 0:
        return Cutting(tuple(simple), _cost(simple, bars), bound)
    patterns = _all_patterns(widths, demand, bars, kerf)
    listed = patterns is not None
    if patterns is None:
        # Too many ways to fill a bar to list: made one by one, as prices ask for them.
        patterns, linear = _columns(widths, demand, bars, kerf, simple, until)
        bound = max(bound, _reachable(linear, bars))
    best, proven = _chosen(patterns, demand, bars, max(until - time.monotonic(), 0.2))
    best = _trimmed(best, demand) if best else simple
    # Columns made for fractions need not hold the best whole plan.
    if _cost(best, bars) > _cost(simple, bars):
        best = simple
    if listed:
        bound = max(bound, _reachable(proven, bars))
    return Cutting(tuple(best), _cost(best, bars), min(bound, _cost(best, bars)))


def _cost(patterns: Sequence[Pattern], bars: Sequence[Bar]) -> int:
    return sum(bars[pattern.bar].cost for pattern in patterns)


@dataclass
class _Open:
    """A bar that is being filled: its kind, what is left of it, what is taken out of it."""

    bar: int
    left: int
    held: list[int]


def _first_fit(
    widths: Sequence[int], demand: Sequence[int], bars: Sequence[Bar], kerf: int
) -> list[Pattern]:
    """The longest pieces first, each into the fullest bar that takes it; then for every bar the
    shortest that will do.

    Tried with each kind of bar that is bought; the cheapest is answered.
    """
    ways = [
        _filled_with(kind, widths, demand, bars, kerf)
        for kind, bar in enumerate(bars)
        if bar.count is None
    ]
    return min((way for way in ways if way is not None), key=lambda way: _cost(way, bars))


def _filled_with(
    kind: int, widths: Sequence[int], demand: Sequence[int], bars: Sequence[Bar], kerf: int
) -> list[Pattern] | None:
    empty = [0] * len(widths)
    filled: list[_Open] = []
    for number, bar in enumerate(bars):
        # A bar counts as longer by one cut, for the last piece needs none: so each piece takes
        # its width and a cut.
        filled += [_Open(number, bar.length + kerf, list(empty)) for _ in range(bar.count or 0)]
    # Best fit, longest first: each piece into the fullest bar that still takes it.
    for place in sorted(range(len(widths)), key=lambda i: -widths[i]):
        need = widths[place] + kerf
        for _ in range(demand[place]):
            into = min(
                (bar for bar in filled if bar.left >= need), key=lambda bar: bar.left, default=None
            )
            if into is None:
                into = _Open(kind, bars[kind].length + kerf, list(empty))
                filled.append(into)
            if into.left < need:
                return None
            into.left -= need
            into.held[place] += 1
    used = [bar for bar in filled if any(bar.held)]
    return [
        Pattern(_shortest(bar.bar, bar.held, widths, bars, kerf), tuple(bar.held)) for bar in used
    ]


def _shortest(
    number: int, counts: Sequence[int], widths: Sequence[int], bars: Sequence[Bar], kerf: int
) -> int:
    """The shortest bar to be bought that takes what was put into one; an offcut stays."""
    if bars[number].count is not None:
        return number
    need = sum(count * (width + kerf) for count, width in zip(counts, widths, strict=True)) - kerf
    enough = [i for i, bar in enumerate(bars) if bar.count is None and bar.length >= need]
    return min(enough, key=lambda i: bars[i].cost)


def _length_bound(
    widths: Sequence[int], demand: Sequence[int], bars: Sequence[Bar], kerf: int
) -> int:
    """What must be bought at least, by length alone."""
    need = sum(count * (width + kerf) for count, width in zip(demand, widths, strict=True))
    need -= sum((bar.count or 0) * (bar.length + kerf) for bar in bars)
    bought = [bar for bar in bars if bar.count is None]
    return _reachable(max(need, 0) * min(bar.cost / (bar.length + kerf) for bar in bought), bars)


def _reachable(least: float, bars: Sequence[Bar]) -> int:
    """The smallest sum of bought lengths that is no less than a bound."""
    # Bars are bought whole: a bound between two sums of whole bars rises to the higher one.
    costs = sorted({bar.cost for bar in bars if bar.count is None})
    goal = int(np.ceil(least - 1e-6))
    if goal <= 0:
        return 0
    sums = np.zeros(goal + costs[-1] + 1, dtype=bool)
    sums[0] = True
    for cost in costs:
        for start in range(cost, len(sums)):
            if sums[start - cost]:
                sums[start] = True
    return int(goal + np.argmax(sums[goal:]))


def _all_patterns(
    widths: Sequence[int], demand: Sequence[int], bars: Sequence[Bar], kerf: int
) -> list[Pattern] | None:
    """Every pattern that takes nothing more; None when there are too many."""
    found: list[Pattern] = []
    # Longest first: what is left over is small sooner, and fewer ways are walked.
    order = sorted(range(len(widths)), key=lambda i: -widths[i])
    for number, bar in enumerate(bars):
        ways = itertools.islice(
            _filled(widths, demand, order, bar.length + kerf, kerf), MOST_PATTERNS + 1
        )
        found += [Pattern(number, counts) for counts in ways]
        if len(found) > MOST_PATTERNS:
            return None
    return found


def _filled(
    widths: Sequence[int], demand: Sequence[int], order: list[int], room: int, kerf: int
) -> Iterator[tuple[int, ...]]:
    """The ways to fill a bar to the end, the longest pieces first."""
    counts = [0] * len(widths)

    def walk(place: int, left: int) -> Iterator[tuple[int, ...]]:
        if place == len(order):
            # Only full bars: one with room for another piece is no better than with it.
            more = any(counts[i] < demand[i] and widths[i] + kerf <= left for i in order)
            if not more and any(counts):
                yield tuple(counts)
            return
        item = order[place]
        most = min(demand[item], left // (widths[item] + kerf))
        for count in range(most, -1, -1):
            counts[item] = count
            yield from walk(place + 1, left - count * (widths[item] + kerf))
        counts[item] = 0

    yield from walk(0, room)


def _chosen(
    patterns: Sequence[Pattern], demand: Sequence[int], bars: Sequence[Bar], seconds: float
) -> tuple[list[Pattern] | None, float]:
    """The patterns, each as often as it is to be cut, that cover the demand at least cost; and the
    solver's bound.
    """
    from scipy.optimize import Bounds, LinearConstraint, milp  # noqa: PLC0415 - slow to load

    # Cover the demand, use no more offcuts than there are, at least cost.
    matrix = np.array([p.counts for p in patterns], dtype=float).T
    # An offcut costs a trifle by its length, so that of two that do the shorter is taken.
    cost = np.array([_weighed(bars[p.bar]) for p in patterns])
    rules = [LinearConstraint(matrix, lb=np.array(demand, dtype=float))]
    kinds = [number for number, bar in enumerate(bars) if bar.count is not None]
    if kinds:
        limits = np.array([float(bars[number].count or 0) for number in kinds])
        rules.append(LinearConstraint(_cut_of(patterns, kinds), ub=limits))
    answer = milp(
        cost,
        constraints=rules,
        integrality=np.ones(len(patterns)),
        bounds=Bounds(0, np.inf),
        options={"time_limit": seconds, "mip_rel_gap": 0.0},
    )
    bound = float(answer.mip_dual_bound) if answer.mip_dual_bound is not None else 0.0
    if answer.x is None:
        return None, bound
    times = np.round(answer.x).astype(int)
    # Offcuts cost next to nothing instead of nothing, which lifts the bound by as much.
    slack = SHORTEST_FIRST * sum(bar.length * (bar.count or 0) for bar in bars)
    chosen: list[Pattern] = []
    for pattern, count in zip(patterns, times, strict=True):
        chosen += [pattern] * int(count)
    return chosen, max(bound - slack, 0.0)


def _cut_of(patterns: Sequence[Pattern], kinds: Sequence[int]) -> NDArray[np.float64]:
    """Return for each kind of bar (a row) whether each pattern is cut of it, as 0 and 1."""
    bar_of = np.array([pattern.bar for pattern in patterns])
    made: NDArray[np.float64] = (bar_of == np.array(kinds)[:, None]).astype(np.float64)
    return made


def _weighed(bar: Bar) -> float:
    return float(bar.cost) if bar.count is None else SHORTEST_FIRST * bar.length


def _trimmed(patterns: Sequence[Pattern], demand: Sequence[int]) -> list[Pattern]:
    """Patterns that give exactly what is wanted, where some would give more."""
    # The solver covers the demand and may cover more: nobody cuts what nobody wants.
    left, made = list(demand), []
    for pattern in patterns:
        counts = tuple(min(count, rest) for count, rest in zip(pattern.counts, left, strict=True))
        left = [rest - count for rest, count in zip(left, counts, strict=True)]
        if any(counts):
            made.append(Pattern(pattern.bar, counts))
    return made


def _columns(
    widths: Sequence[int],
    demand: Sequence[int],
    bars: Sequence[Bar],
    kerf: int,
    simple: Sequence[Pattern],
    until: float,
) -> tuple[list[Pattern], float]:
    """Patterns made one by one as the dual prices ask for them, and the bound that the last prices
    give.
    """
    from scipy.optimize import linprog  # noqa: PLC0415 - slow to load

    patterns = list(dict.fromkeys(simple))
    kinds = [number for number, bar in enumerate(bars) if bar.count is not None]
    bound = 0.0
    for _ in range(COLUMN_ROUNDS):
        matrix = np.array([p.counts for p in patterns], dtype=float).T
        rows = _cut_of(patterns, kinds)
        limits = [float(bars[number].count or 0) for number in kinds]
        answer = linprog(
            np.array([_weighed(bars[p.bar]) for p in patterns]),
            A_ub=np.vstack([-matrix, rows]),
            b_ub=np.array([*(-float(d) for d in demand), *limits]),
            method="highs",
        )
        if answer.x is None:
            break
        # The dual price of a piece is what one more of it would cost: a bar filled with more than
        # its own cost is worth having (Gilmore and Gomory, 1961).
        prices = -np.asarray(answer.ineqlin.marginals)
        worth, scarce = prices[: len(widths)], dict(zip(kinds, prices[len(widths) :], strict=True))
        best = [_knapsack(widths, demand, worth, bar.length + kerf, kerf) for bar in bars]
        gains = [
            value - (_weighed(bar) - scarce.get(number, 0.0))
            for number, (bar, (value, _)) in enumerate(zip(bars, best, strict=True))
        ]
        bound = max(bound, _dual_bound(worth, demand, bars, best))
        new = [
            Pattern(i, counts)
            for i, (gain, (_, counts)) in enumerate(zip(gains, best, strict=True))
            if gain > SMALL
        ]
        if not new or time.monotonic() > until:
            break
        patterns += [pattern for pattern in new if pattern not in patterns]
    return patterns, bound


def _dual_bound(
    worth: NDArray[np.float64],
    demand: Sequence[int],
    bars: Sequence[Bar],
    best: Sequence[tuple[float, tuple[int, ...]]],
) -> float:
    """A bound from any dual prices, scaled down until no bought bar is worth more than it costs
    (Farley 1990).
    """
    total = float(np.dot(worth, demand))
    share = max(
        (v / bar.cost for bar, (v, _) in zip(bars, best, strict=True) if bar.count is None),
        default=1.0,
    )
    share = max(share, 1.0)
    for bar, (value, _) in zip(bars, best, strict=True):
        total -= value * (bar.count or 0)  # what offcuts can take of it at most
    return max(total / share, 0.0)


def _knapsack(
    widths: Sequence[int], demand: Sequence[int], worth: NDArray[np.float64], room: int, kerf: int
) -> tuple[float, tuple[int, ...]]:
    """The most that one bar can be worth, and with which pieces; each piece at most as often as it
    is wanted.
    """
    value = np.zeros(room + 1)
    taken = np.zeros((len(widths), room + 1), dtype=np.int16)
    for place, (width, most) in enumerate(zip(widths, demand, strict=True)):
        size = width + kerf
        if worth[place] <= 0 or size > room:
            continue
        before = value
        value = before.copy()
        for count in range(1, min(most, room // size) + 1):
            # All fillings with so many of this piece, in one shift of the row.
            with_it = np.full(room + 1, -np.inf)
            with_it[count * size :] = before[: room + 1 - count * size] + count * worth[place]
            better = with_it > value + 1e-12
            value[better] = with_it[better]
            taken[place, better] = count
    counts = [0] * len(widths)
    left = room
    # Back from the last piece: how many of each the best filling took.
    for place in reversed(range(len(widths))):
        counts[place] = int(taken[place, left])
        left -= counts[place] * (widths[place] + kerf)
    return float(value[room]), tuple(counts)

"""Which fault: causes ranked by how well each explains all readings and the complaint, with the
doubt about the rest.

Source: Bayes' rule over single causes and pairs of them; Kay, Fundamentals of Statistical Signal
Processing II: Detection Theory, 1998, ch. 6. Some sizes of each cause are solved exactly, those
between are carried from them (`keep/sizes.py`); everything else that is not known is linear in
logarithms. Two causes' effects add up there, and of the likeliest pairs what they do together is
solved.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from grey_current.keep.causes import FaultKind, Tried, both_of, cause_at, look_weight
from grey_current.keep.complaints import Symptom
from grey_current.keep.discrimination import neighbours, tells_apart
from grey_current.keep.evidence import LEAST, Evidence, Suspects, evidence_of
from grey_current.keep.fit import ReadingSpec
from grey_current.keep.model import Model
from grey_current.keep.sizes import LEAST_SIZES, MOST_ROWS, Sizes, between
from grey_current.shop.keep_plan import Complaint, Look, Reading

Array = NDArray[np.float64]
# Of all faulty shops so many have two faults at once. Allowance.
PAIRED = 0.15
MOST_TOLD = 6
# So many of the likeliest pairs are solved together, and so often looked whether others are
# likelier then.
PAIRS_SOLVED, ROUNDS = 10, 3


@dataclass(frozen=True)
class Cause:
    """One cause: its kind and the thing that has it (an unknown's owner, a gate, a run), None for a
    healthy shop.

    `chance` is how likely it is there, alone or beside another one; `factor` the likeliest of its
    sizes, `loses` the share of all machines' air that it takes. `also` are places that no reading
    tells from its own: the chance is theirs too.
    """

    kind: FaultKind | None
    place: str
    chance: float
    factor: float = 1.0
    loses: float = 0.0
    also: tuple[str, ...] = ()

    @property
    def named(self) -> list[tuple[str, str]]:
        """The kind's name with each of its places; an empty kind for a healthy shop."""
        return [(self.kind.name if self.kind else "", place) for place in (self.place, *self.also)]


@dataclass(frozen=True)
class Told:
    """The causes, the likeliest first, and the reading that tells the likeliest apart.

    Attributes:
        apart: That reading; None where there is none.
        learned: What it tells on average of which cause it is, nats.
    """

    causes: tuple[Cause, ...]
    apart: ReadingSpec | None
    learned: float = 0.0


def which_fault(
    suspects: Suspects,
    readings: Sequence[Reading],
    complaint: Complaint | None = None,
    should_continue: Callable[[], bool] = lambda: True,
    looks: Sequence[Look] = (),
) -> Told:
    """All causes ranked by how well they explain readings, looks and complaint; nothing is told
    without any reading or complaint.

    `suspects` are of the shop as it was when it was well: fitted to the readings of then, or to
    none. Raises nothing.
    """
    known = evidence_of(suspects, readings)
    if not (known.asked or complaint) or not suspects.model.pickups or not should_continue():
        return Told((), None)
    said = Symptom(suspects, complaint)
    numbers, effects, kept = list[int](), list[Array](), list[Array]()
    # What each cause would do to the readings; one that leaves a scenario without an answer is no
    # cause.
    for number in range(len(suspects.tried)):
        if not should_continue():
            return Told((), None)
        effect = known.effect(number)
        if np.isfinite(effect).all():
            numbers.append(number)
            effects.append(effect)
            kept.append(said.kept(suspects.view(number)))
    sizes = between(suspects.tried, numbers)
    chances = Chances(
        known,
        sizes,
        sizes.weights @ np.array(effects),
        said,
        sizes.weights @ np.array(kept),
        np.array([look_weight(looks, *named) for named in sizes.causes]),
    )
    # Pairs are first taken as the sum of their parts; the likeliest ones are then solved together,
    # until none of them is new.
    for _ in range(ROUNDS):
        if not should_continue() or not chances.solve_likeliest_pairs():
            break
    single, pairs = chances.each()
    each = single.copy()
    each[chances.rows] += pairs.sum(axis=0) + pairs.sum(axis=1)
    causes = _told(suspects, sizes, each)
    if not should_continue():
        return Told(causes, None)
    apart, learned = tells_apart(
        known, sizes, chances.effects, single, pairs, chances.rows, should_continue
    )
    return Told(causes, apart, learned)


class Chances:
    """The chance of every cause in every size, alone and with another one besides.

    `rows` are those that are paired: all of them, or the likeliest causes' where there are many.
    `looked` (cause,) is what looks add to the logarithm of each cause's chance.
    """

    def __init__(
        self,
        known: Evidence,
        sizes: Sizes,
        effects: Array,
        said: Symptom,
        kept: Array,
        looked: Array,
    ) -> None:
        self.known, self.sizes, self.effects = known, sizes, effects
        # In coordinates in which all errors are independent and alike, likelihood is a distance.
        white = effects @ known.whitening.T
        left = known.whitening @ known.read - white
        prior, faulty = (
            np.log(sizes.prior) + looked[sizes.cause],
            np.array([name != "" for name, _ in sizes.causes])[sizes.cause],
        )
        kind_of = [sizes.item(number).kind for number in range(len(sizes.causes))]
        kinds = [kind_of[number] for number in sizes.cause]
        far = (left**2).sum(axis=1)
        self.alone = (
            prior + np.where(faulty, np.log(1 - PAIRED), 0.0) + said.alone_of(kept, kinds) - far / 2
        )
        self.rows = self._paired(faulty)
        cause = sizes.cause[self.rows]
        first, second = (self.rows[n] for n in np.nonzero(cause[:, None] < cause[None, :]))
        # Two faults at one time are rare, and as likely in either order.
        two = np.log(2 * PAIRED / max(sizes.prior[faulty].sum(), LEAST))
        self.before = np.full((len(self.rows), len(self.rows)), -np.inf)
        self.before[cause[:, None] < cause[None, :]] = (
            prior[first] + prior[second] + two + said.both_of(kept, kinds, first, second)
        )
        self.white, self.left = white[self.rows], left[self.rows]
        more = (self.white**2).sum(axis=1)[None, :] - 2 * self.left @ self.white.T
        self.both = self.before - (far[self.rows][:, None] + more) / 2
        self.solved: set[tuple[int, int]] = set()

    def _paired(self, faulty: NDArray[np.bool_]) -> NDArray[np.intp]:
        rows = np.flatnonzero(faulty)
        if len(rows) <= MOST_ROWS:
            return rows
        best = np.full(len(self.sizes.causes), -np.inf)
        np.maximum.at(best, self.sizes.cause[rows], self.alone[rows])
        likeliest = np.argsort(-best)[: MOST_ROWS // LEAST_SIZES]
        return rows[np.isin(self.sizes.cause[rows], likeliest)]

    def places_of(self, cause: int) -> NDArray[np.intp]:
        """Where the rows of a cause stand among those that are paired."""
        return np.flatnonzero(self.sizes.cause[self.rows] == cause)

    def each(self) -> tuple[Array, Array]:
        """The chance of every row alone, and of every two that are paired, the earlier cause
        first.
        """
        most = max(self.alone.max(), self.both.max(initial=-np.inf))
        single, pairs = np.exp(self.alone - most), np.exp(self.both - most)
        whole = single.sum() + pairs.sum()
        return single / whole, pairs / whole

    def solve_likeliest_pairs(self) -> bool:
        """Solve what the likeliest pairs of causes do together; False where all of them are
        solved.
        """
        _, pairs = self.each()
        count = len(self.sizes.causes)
        by_cause = self.sizes.by_cause(pairs, self.rows)
        order = [divmod(int(n), count) for n in np.argsort(-by_cause, axis=None)[:PAIRS_SOLVED]]
        fresh = [pair for pair in order if by_cause[pair] > LEAST and pair not in self.solved]
        for a, b in fresh:
            self._solve(a, b, pairs)
        return bool(fresh)

    def _solve(self, a: int, b: int, pairs: Array) -> None:
        """What two causes in their likeliest sizes do together beyond what each does, taken for all
        their sizes.
        """
        self.solved.add((a, b))
        ours, theirs = self.places_of(a), self.places_of(b)
        i, j = np.unravel_index(
            int(np.argmax(pairs[np.ix_(ours, theirs)])), (len(ours), len(theirs))
        )
        model, effect = self.known.suspects.model, self.known.effect_of
        first, second = (_sized(model, self.sizes, int(self.rows[n])) for n in (ours[i], theirs[j]))
        # What both do beyond their sum is taken for all sizes of the two.
        more = effect(both_of(first, second)) - effect(first) - effect(second)
        if np.isfinite(more).all():
            left = (
                self.left[ours][:, None, :]
                - self.white[theirs][None, :, :]
                - self.known.whitening @ more
            )
            self.both[np.ix_(ours, theirs)] = (
                self.before[np.ix_(ours, theirs)] - (left**2).sum(axis=2) / 2
            )


def _sized(model: Model, sizes: Sizes, row: int) -> Tried:
    """The cause of a row in its own size."""
    item = sizes.item(int(sizes.cause[row]))
    if item.kind is not None:
        return cause_at(model, item.kind, item.place, float(sizes.quantile[row]))
    return item


def _told(suspects: Suspects, sizes: Sizes, each: Array) -> tuple[Cause, ...]:
    """The sizes of each cause added up, the likeliest first; those that no reading tells from it
    belong to it.
    """
    total = np.bincount(sizes.cause, each, len(sizes.causes))
    whole = float(suspects.plain.airflows().sum()) or 1.0
    order = [int(number) for number in np.argsort(-total)]
    causes = list[Cause]()
    while order and len(causes) < MOST_TOLD:
        number = order.pop(0)
        rows = sizes.rows_of(number)
        item = _sized(suspects.model, sizes, int(rows[np.argmax(each[rows])]))
        left = float(item.model.airflows(item.over(suspects.base)).sum())
        # What no reading tells from it is told in one line with it, for one would look at both.
        also = neighbours(suspects, sizes, number, [n for n in order if total[n] > LEAST])
        order = [n for n in order if n not in also]
        chance = float(total[[number, *also]].sum())
        places = tuple(sizes.causes[n][1] for n in also)
        causes.append(Cause(item.kind, item.place, chance, item.factor, 1 - left / whole, places))
    return tuple(sorted(causes, key=lambda cause: -cause.chance))

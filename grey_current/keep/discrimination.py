"""The reading that tells causes apart: the one of which most is learned about which cause it is.

Source: Lindley, On a measure of the information provided by an experiment, 1956: what a reading
tells of the cause is the entropy of the reading, less what of it is left when the cause is known.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from grey_current.keep.evidence import LEAST, Evidence, Suspects
from grey_current.keep.fit import ReadingSpec, usual_error
from grey_current.keep.sizes import Sizes

Array = NDArray[np.float64]
Rows = NDArray[np.intp]
# So many of the likeliest causes and pairs are weighed, each in so many of its likeliest sizes.
WEIGHED, IN_SIZES = 60, 4
# Places along a reading at which its chance is worked out.
STEPS = 120
# Deviations beyond the outermost cause that are looked at.
BEYOND = 4.0
# Logarithms by which a reading is looked at: farther off nobody measures.
FARTHEST = 3.0
# Times its own doubt by which some reading must differ to tell two places apart.
TOLD = 1.5
# A chance that counts for none: the product of two such is no number any more.
NOTHING = 1e-100
# A reading that tells less than this (nats) tells nothing.
LEARNED = 0.01


def tells_apart(
    known: Evidence,
    sizes: Sizes,
    effects: Array,
    single: Array,
    pairs: Array,
    paired: Rows,
    should_continue: Callable[[], bool] = lambda: True,
) -> tuple[ReadingSpec | None, float]:
    """The reading not taken yet that tells most about which causes it is, of those for which there
    is an instrument, and how much that is (nats); None and nothing where none does.

    `effects` (row, reading) is what every row of `sizes` does to the readings that were taken,
    `single` (row,) and `pairs` are their chances, the latter for the rows in `paired`. Worthless
    once `should_continue` returns False. Raises nothing.
    """
    suspects, likely = known.suspects, Likely(sizes, single, pairs, paired)
    plan = suspects.model.project.keep
    able = [i for i in suspects.measurable if plan.can_measure(i[0], i[2])]
    asked = [i for i in able if i not in known.asked]
    if not asked or len(likely.member) < 2:
        return None, 0.0
    plain = np.array([suspects.measurable[item] for item in asked])
    names = {sizes.causes[cause] for cause in likely.causes}
    shows = np.zeros((len(sizes.solved), len(asked)))
    for place, (number, item) in enumerate(zip(sizes.numbers, sizes.solved, strict=True)):
        if not should_continue():
            return None, 0.0
        if item.cause in names:
            # As logarithms against the healthy shop: a factor counts the same everywhere.
            shows[place] = np.log(np.maximum(suspects.shows(number, asked), LEAST) / plain)
    there = likely.summed(sizes.weights @ np.clip(np.nan_to_num(shows), -FARTHEST, FARTHEST))
    mean, spread = _expected(known, asked, plain, there, likely.summed(effects))
    told = [
        likely.told(mean[:, n], float(spread[n])) if np.isfinite(shows[:, n]).all() else 0.0
        for n in range(len(asked))
    ]
    # What would tell most on average, by the information in its two or more answers.
    best = int(np.argmax(told))
    return (asked[best], told[best]) if told[best] > LEARNED else (None, 0.0)


def neighbours(suspects: Suspects, sizes: Sizes, cause: int, others: Sequence[int]) -> list[int]:
    """Of other causes those that no reading tells from one: holes in the pieces of a line beside
    it, by their numbers.

    No reading that could be taken differs by more than `TOLD` times its own doubt.
    """
    kind = sizes.item(cause).kind
    mine = [
        n for n in others if kind is not None and kind.of == "hole" and sizes.item(n).kind is kind
    ]
    if not mine:
        return []
    asked, plain = list(suspects.measurable), np.array(list(suspects.measurable.values()))
    own = _own_doubt(asked, plain)

    def logs(number: int) -> Array:
        made: Array = np.log(np.maximum(suspects.shows(sizes.middle(number), asked), LEAST) / plain)
        return made

    # A place whose readings differ by less than an instrument's error cannot be told from this one.
    here = logs(cause)
    return [n for n in mine if np.max(np.abs(logs(n) - here) / own, initial=0.0) < TOLD]


def _own_doubt(asked: Sequence[ReadingSpec], plain: Array) -> Array:
    """What each reading is off by itself, as a share of what the healthy shop shows."""
    return (
        np.array([usual_error(item[0], value) for item, value in zip(asked, plain, strict=True)])
        / plain
    )


def _expected(
    known: Evidence, asked: list[ReadingSpec], plain: Array, there: Array, taken: Array
) -> tuple[Array, Array]:
    """What each reading would be for every case (case, reading) and how far it lies from it, given
    what was read.
    """
    suspects = known.suspects
    towards = suspects.towards(asked, plain)
    own = _own_doubt(asked, plain)
    spread = np.einsum("ij,jk,ik->i", towards, suspects.covariance, towards) + own**2
    if known.asked:
        common = known.towards @ suspects.covariance @ towards.T
        carried = np.linalg.solve(known.doubt, common)
        there = there + (known.read - taken) @ carried
        spread = spread - np.einsum("ki,ki->i", common, carried)
    return there, np.sqrt(np.maximum(spread, (own / 2) ** 2))


class Likely:
    """The likeliest cases: causes or pairs of them in their sizes, each with its chance and which
    causes it is of.
    """

    def __init__(self, sizes: Sizes, single: Array, pairs: Array, paired: Rows) -> None:
        count = len(sizes.causes)
        paired_cause = sizes.cause[paired]
        # Single causes first, then every pair of two, numbered in one row.
        chance = np.concatenate(
            [np.bincount(sizes.cause, single, count), sizes.by_cause(pairs, paired).ravel()]
        )
        cases = [int(n) for n in np.argsort(-chance)[:WEIGHED] if chance[n] > LEAST]
        weight, first, second, label = list[float](), list[int](), list[int](), list[int]()
        for number, case in enumerate(cases):
            a, b = (case, -1) if case < count else divmod(case - count, count)
            ours, theirs = sizes.rows_of(a), sizes.rows_of(b)
            if b < 0:
                each = single[ours]
            else:
                each = pairs[np.ix_(paired_cause == a, paired_cause == b)].ravel()
            # Only the likeliest sizes of each: the others hardly weigh.
            likeliest = np.argsort(-each)[:IN_SIZES]
            weight += (chance[case] * each[likeliest] / each[likeliest].sum()).tolist()
            first += ours[likeliest if b < 0 else likeliest // len(theirs)].tolist()
            second += [-1] * len(likeliest) if b < 0 else theirs[likeliest % len(theirs)].tolist()
            label += [number] * len(likeliest)
        self.weight, self.label = np.array(weight), np.array(label)
        self.first, self.second = np.array(first, dtype=np.intp), np.array(second, dtype=np.intp)
        self.causes = set(sizes.cause[self.first].tolist()) | set(
            sizes.cause[self.second[self.second >= 0]].tolist()
        )
        self.member = np.eye(len(cases))[:, self.label] if cases else np.zeros((0, 0))

    def summed(self, rows: Array) -> Array:
        """What every case shows, from what every row shows."""
        made: Array = rows[self.first] + np.where(self.second[:, None] < 0, 0.0, rows[self.second])
        return made

    def told(self, mean: Array, spread: float) -> float:
        """What a reading tells (nats) about which causes it is, where every case expects a mean and
        one spread.
        """
        at = np.linspace(mean.min() - BEYOND * spread, mean.max() + BEYOND * spread, STEPS)
        dense = np.exp(-(((at[None, :] - mean[:, None]) / spread) ** 2) / 2) * self.weight[:, None]
        by_label = self.member @ dense
        share = by_label.sum(axis=1)
        whole = by_label.sum(axis=0)
        there = by_label > NOTHING
        known = (
            by_label[there] * np.log(by_label[there] / (share[:, None] * whole[None, :])[there])
        ).sum()
        total = whole.sum()
        return float(known / total + np.log(total)) if total > NOTHING else 0.0

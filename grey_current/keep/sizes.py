"""Causes in every size: what some solved sizes show, carried to those between them.

Source: Lagrange's interpolation in the normal deviate of the size's logarithm, in which what is
read changes smoothly.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import NormalDist

import numpy as np
from numpy.typing import NDArray

from grey_current.keep.causes import Tried

Array = NDArray[np.float64]
# So many sizes of each cause are weighed, fewer where there would be more rows in all.
MOST_SIZES, LEAST_SIZES, MOST_ROWS = 12, 3, 800


@dataclass(frozen=True)
class Sizes:
    """All causes in all sizes that are weighed: rows of everything here.

    `cause` is each row's number in `causes`, `weights` (row, solved) carry what solved items show
    to the rows; those have `numbers` among all. `prior` is each row's chance before anything is
    read, `quantile` its size.
    """

    causes: tuple[tuple[str, str], ...]
    solved: tuple[Tried, ...]
    numbers: tuple[int, ...]
    cause: NDArray[np.intp]
    weights: Array
    prior: Array
    quantile: Array

    def rows_of(self, cause: int) -> NDArray[np.intp]:
        """The rows of a cause."""
        return np.flatnonzero(self.cause == cause)

    def by_cause(self, pairs: Array, rows: NDArray[np.intp]) -> Array:
        """What pairs of some rows have, added up for pairs of causes."""
        member = np.eye(len(self.causes))[self.cause[rows]]
        made: Array = member.T @ pairs @ member
        return made

    def middle(self, cause: int) -> int:
        """The number, among all that is tried, of a cause in the solved size that is nearest to the
        usual one.
        """
        mine = [place for place, item in enumerate(self.solved) if item.cause == self.causes[cause]]
        return self.numbers[min(mine, key=lambda place: abs(self.solved[place].quantile - 0.5))]

    def item(self, cause: int) -> Tried:
        """One of a cause's solved items, for its kind and place."""
        return next(item for item in self.solved if item.cause == self.causes[cause])


def between(tried: Sequence[Tried], numbers: Sequence[int]) -> Sizes:
    """The sizes between those that are solved: `numbers` of what is tried. Raises nothing."""
    solved = [tried[n] for n in numbers]
    causes = tuple(dict.fromkeys(item.cause for item in solved))
    cause, weights, prior, quantile = list[int](), list[Array](), list[float](), list[float]()
    count = min(max(MOST_ROWS // max(len(causes), 1), LEAST_SIZES), MOST_SIZES)
    quantiles = tuple((n + 0.5) / count for n in range(count))  # each as likely as the others
    deviates = np.array([NormalDist().inv_cdf(q) for q in quantiles])
    for number, name in enumerate(causes):
        mine = [n for n, item in enumerate(solved) if item.cause == name]
        at = [solved[n].quantile for n in mine] if len(mine) > 1 else [0.5]
        wanted, sizes = (deviates, quantiles) if len(mine) > 1 else (np.zeros(1), (0.5,))
        rows = np.zeros((len(wanted), len(solved)))
        rows[:, mine] = _lagrange(np.array([NormalDist().inv_cdf(q) for q in at]), wanted)
        whole = sum(solved[n].prior for n in mine)
        cause += [number] * len(wanted)
        weights += list(rows)
        prior += [whole / len(wanted)] * len(wanted)
        quantile += sizes
    return Sizes(
        causes,
        tuple(solved),
        tuple(numbers),
        np.array(cause, dtype=np.intp),
        np.array(weights),
        np.array(prior),
        np.array(quantile),
    )


def _lagrange(known: Array, wanted: Array) -> Array:
    """Weights (wanted, known) that carry values at some places to others by the polynomial through
    all of them.
    """
    made = np.ones((len(wanted), len(known)))
    for n, own in enumerate(known):
        for other in np.delete(known, n):
            made[:, n] *= (wanted - other) / (own - other)
    return made

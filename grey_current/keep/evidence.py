"""What is known when a fault is looked for: the shop as it was when it was well, every cause, and
what was read since.

Each shop with one cause is solved once, for whatever is asked about it later.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from grey_current.keep.causes import Tried, all_tried, faulty_model
from grey_current.keep.fit import STEP, Calibration, ReadingSpec, asked_of, candidates, shown
from grey_current.keep.model import Model, View
from grey_current.shop.keep_plan import Reading

Array = NDArray[np.float64]
# Readings (SI) below this are none: they have no logarithm.
LEAST = 1e-6


class Suspects:
    """The shop as it was when it was well, and what it would be with each cause.

    `theta` and `covariance` are of the unknowns' logarithms, `base` the factors that they make.
    """

    def __init__(self, healthy: Calibration) -> None:
        self.model: Model = faulty_model(healthy.model)
        model = self.model
        self.theta, self.covariance = np.zeros(len(model.sigma)), np.diag(model.sigma**2)
        theirs = [n for n, u in enumerate(healthy.model.unknowns) if u.key in model.place]
        ours = [model.place[healthy.model.unknowns[n].key] for n in theirs]
        self.theta[ours] = healthy.theta[theirs]
        self.covariance[np.ix_(ours, ours)] = healthy.covariance[np.ix_(theirs, theirs)]
        self.base = model.factors(self.theta)
        self._views: dict[int, View] = {}
        self._shown: dict[int, dict[ReadingSpec, float]] = {}
        self._rows: dict[ReadingSpec, Array] = {}

    @cached_property
    def plain(self) -> View:
        """The healthy shop."""
        return self.model.view(self.base)

    @cached_property
    def tried(self) -> list[Tried]:
        """Every cause in the sizes that are solved, the healthy shop first."""
        return all_tried(self.model)

    @cached_property
    def measurable(self) -> dict[ReadingSpec, float]:
        """Whatever could be measured anywhere, with what the healthy shop shows there (SI)."""
        asked = candidates(self.model, every_run=True)
        known = zip(asked, shown(self.plain, asked), strict=True)
        return {
            wanted: float(value) for wanted, value in known if np.isfinite(value) and value > LEAST
        }

    def view(self, number: int) -> View:
        """The shop with one of them, by its number."""
        if number not in self._views:
            item = self.tried[number]
            self._views[number] = item.model.view(item.over(self.base), self.plain)
        return self._views[number]

    @cached_property
    def _moved(self) -> list[View]:
        """The healthy shop with each unknown moved a little."""
        found = []
        for place in range(len(self.theta)):
            moved = self.theta.copy()
            moved[place] += STEP
            found.append(self.model.view(self.model.factors(moved), self.plain))
        return found

    def shows(self, number: int, asked: Sequence[ReadingSpec]) -> Array:
        """What readings would be with one cause, by its number (SI); NaN where there is no air."""
        known = self._shown.setdefault(number, {})
        fresh = [wanted for wanted in asked if wanted not in known]
        known.update(zip(fresh, shown(self.view(number), fresh), strict=True))
        return np.array([known[wanted] for wanted in asked])

    def towards(self, asked: Sequence[ReadingSpec], plain: Array) -> Array:
        """How logarithms of readings follow the unknowns' (reading, unknown); `plain`: what the
        healthy shop shows.
        """
        fresh = [n for n, wanted in enumerate(asked) if wanted not in self._rows]
        wanted = [asked[n] for n in fresh]
        if fresh:
            moved = [
                (shown(view, wanted) - plain[fresh]) / plain[fresh] / STEP for view in self._moved
            ]
        else:
            moved = []
        for n, row in zip(fresh, np.nan_to_num(np.array(moved)).T, strict=True):
            self._rows[asked[n]] = row
        return np.array([self._rows[wanted] for wanted in asked]).reshape(
            len(asked), len(self.theta)
        )


@dataclass(frozen=True)
class Evidence:
    """Readings since, in logarithms over what the healthy shop shows.

    `plain` is what that shows (SI), `read` and `error` have one value for each reading in `asked`,
    `towards` (reading, unknown) is how those follow the unknowns.
    """

    suspects: Suspects
    asked: tuple[ReadingSpec, ...]
    plain: Array
    read: Array
    error: Array
    towards: Array

    @cached_property
    def doubt(self) -> Array:
        """The covariance of what is read, of the shop's doubts and the readings' own."""
        made: Array = self.towards @ self.suspects.covariance @ self.towards.T + np.diag(
            self.error**2
        )
        return made

    @cached_property
    def whitening(self) -> Array:
        """What makes the readings' doubts alike and independent."""
        made: Array = np.linalg.inv(np.linalg.cholesky(self.doubt))
        return made

    def effect(self, number: int) -> Array:
        """What a cause does to the readings, by its number, in logarithms; NaN where there is no
        air then.
        """
        return self._over_plain(self.suspects.shows(number, self.asked))

    def effect_of(self, item: Tried) -> Array:
        """The same of a cause that is not among those that are solved already."""
        machines = frozenset(machine for _, machine, _ in self.asked)
        return self._over_plain(
            shown(item.model.only(machines).view(item.over(self.suspects.base)), self.asked)
        )

    def _over_plain(self, values: Array) -> Array:
        made: Array = np.log(np.maximum(values, LEAST) / self.plain)
        return made


def evidence_of(suspects: Suspects, readings: Sequence[Reading]) -> Evidence:
    """The evidence of readings; those without air are left out."""
    asked = asked_of(readings)
    plain = shown(suspects.plain, asked)
    kept = [n for n, value in enumerate(plain) if np.isfinite(value) and value > LEAST]
    asked, plain = [asked[n] for n in kept], plain[kept]
    read = np.array([readings[n].value for n in kept])
    error = np.array([readings[n].error for n in kept])
    towards = suspects.towards(asked, plain)
    logs = np.log(np.maximum(read, LEAST) / plain)
    return Evidence(suspects, tuple(asked), plain, logs, error / np.maximum(read, error), towards)

"""How sure every figure is: the shop drawn some hundred times with its allowances otherwise, in all
scenarios.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from grey_current.air.needs import MET_FROM
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import Scenario, need
from grey_current.errors import InputError
from grey_current.keep.fit import INSIDE, Calibration
from grey_current.keep.model import Model

Array = NDArray[np.float64]
DRAWS, MOST_DRAWS = 400, 20_000
# The share of draws under each end of a band: eight in ten lie inside.
LOW, HIGH = 0.1, 0.9
LIKELY_ENOUGH, LIKELY_SHORT = 0.6, 0.1
# From which chance on a need is said to be what.
LIKELY = (
    (0.9, "enough"),
    (LIKELY_ENOUGH, "likely enough"),
    (0.4, "as likely as not"),
    (LIKELY_SHORT, "likely short"),
    (0.0, "short"),
)
NAMED, LEAST_SAID = 3, 0.01


def share_words(share: float) -> str:
    """A share of drawn shops; they are too few to say all or none."""
    if share < LEAST_SAID:
        return "under 1%"
    if share > 1 - LEAST_SAID:
        return "over 99%"
    return f"{share:.0%}"


# Deviations to each side that hold half of all draws.
HALF = 0.6745


def known_words(found: Sure) -> str:
    """How well the airflows are known, and so what readings are for: half of all pickups' airflows
    lie nearer than the share that is said.

    Empty where no airflow is computed. Source: half the band over its middle, as deviations of a
    normal distribution.
    """
    halves = sorted((p.high - p.low) / 2 / p.mid for p in found.pickups if p.mid > 0)
    if not halves:
        return ""
    off = halves[len(halves) // 2] / INSIDE * HALF
    return (
        f"The airflows here are known to about {off:.0%}: readings are for finding what is wrong."
    )


@dataclass(frozen=True)
class PickupSure:
    """One pickup in one scenario: its airflow's band (m³/s), the chance that its need is met, what
    matters for it.

    `figure` is the airflow that is shown everywhere else, by the tables or as the readings have it;
    the draws' own middle is `mid`. `matters` are the unknowns with the largest share of it,
    in words.
    """

    scenario: Scenario
    pickup: str
    figure: float
    low: float
    mid: float
    high: float
    need: float
    chance: float
    matters: tuple[tuple[str, float], ...]

    @property
    def words(self) -> str:
        """The chance in words and as a share; draws are too few to say that anything is certain."""
        words = next(words for least, words in LIKELY if self.chance >= least)
        return f"{words}, {share_words(self.chance)}"


@dataclass(frozen=True)
class Sure:
    """All pickups; how many draws had an answer."""

    pickups: tuple[PickupSure, ...]
    draws: int

    def of(self, pickup: str) -> PickupSure | None:
        """A pickup while its machine runs alone; None for one without a duct."""
        return next(
            (p for p in self.pickups if p.pickup == pickup and len(p.scenario.running) == 1), None
        )


def sure(
    now: Assessment,
    fitted: Calibration,
    draws: int = DRAWS,
    seed: int = 1,
    should_continue: Callable[[], bool] = lambda: True,
) -> Sure:
    """The band of every pickup from as many drawn shops, around what readings have taught the
    fitted model.

    No pickup is told of once `should_continue` returns False.

    Raises `InputError` for a number of draws that is none.
    """
    if not 20 <= draws <= MOST_DRAWS:
        raise InputError("draws", draws, f"draw 20 to {MOST_DRAWS} times")
    model = fitted.model
    if not model.pickups:
        return Sure((), 0)
    chance = np.random.default_rng(seed)
    # Shops drawn around what readings have taught, with the doubts that are left hanging together.
    theta = fitted.theta + chance.standard_normal((draws, len(model.sigma))) @ fitted.root.T
    flows = np.full((draws, len(model.pickups)), np.nan)
    for number in range(draws):
        if not should_continue():
            return Sure((), 0)
        flows[number] = model.airflows(model.factors(theta[number]))
    # A drawn shop without an answer is left out of every band.
    whole = ~np.isnan(flows).any(axis=1)
    flows, theta = flows[whole], theta[whole]
    if len(flows) < 2:
        return Sure((), 0)
    shown = model.airflows(fitted.factors)
    numbers = range(len(model.pickups))
    return Sure(
        tuple(_pickup(now, model, float(shown[n]), flows[:, n], theta, n) for n in numbers),
        len(flows),
    )


def _pickup(
    now: Assessment, model: Model, shown: float, flows: Array, theta: Array, number: int
) -> PickupSure:
    scenario, ref, _ = model.pickups[number]
    wanted = need(now.project.pickup[ref][1], now.project.settings).airflow
    low, mid, high = (float(v) for v in np.quantile(flows, (LOW, 0.5, HIGH)))
    met = float((flows >= MET_FROM * wanted).mean())
    figure = shown if math.isfinite(shown) else mid
    return PickupSure(
        scenario, ref, figure, low, mid, high, wanted, met, _matters(model, flows, theta)
    )


def _matters(model: Model, flows: Array, theta: Array) -> tuple[tuple[str, float], ...]:
    """The unknowns with the largest shares of the variance, by their squared correlation with the
    airflow.
    """
    spread = theta.std(axis=0)
    moved = spread > 1e-12
    centred = (theta - theta.mean(axis=0))[:, moved] / spread[moved]
    log = np.log(np.maximum(flows, 1e-9))
    log = (log - log.mean()) / max(float(log.std()), 1e-12)
    squares = (centred.T @ log / len(log)) ** 2
    total = float(squares.sum()) or 1.0
    known = [u for u, is_moved in zip(model.unknowns, moved, strict=True) if is_moved]
    order = np.argsort(-squares)[:NAMED]
    return tuple((known[i].words, float(squares[i]) / total) for i in order)

"""How often advice holds: each change that would help a machine, tried in the same drawn shops as
it stands in now.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from grey_current.air.needs import MET_FROM
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import need
from grey_current.design.improve.ranking import Improvement, improvements
from grey_current.errors import GreyCurrentError
from grey_current.keep.fit import Calibration
from grey_current.keep.model import Model
from grey_current.shop.edits import made
from grey_current.shop.model import Project

Array = NDArray[np.float64]
HOLD_DRAWS = 120
# Changes that are tried: the best by the one judgement.
MOST_TRIED = 4
# Share of the promised gain from which on it counts as kept.
KEPT = 0.5


@dataclass(frozen=True)
class Holds:
    """A change, the share of drawn shops in which it gives at least half of what it promises, and
    meets the need.

    `before` is the share in which the need is met without it.
    """

    improvement: Improvement
    kept: float
    met: float
    before: float


@dataclass(frozen=True)
class HowOften:
    """What would help a machine, and how often that holds; of which project."""

    project: Project
    machine: str
    changes: tuple[Holds, ...]


def how_often(
    now: Assessment,
    machine: str,
    fitted: Calibration,
    should_continue: Callable[[], bool] = lambda: True,
) -> HowOften:
    """The best changes for a machine with how often each holds. Worthless once `should_continue`
    returns False. Raises nothing.

    What both shops have is drawn alike, by what readings have left of its doubt; what is new with a
    change by its spread.
    """
    chance = np.random.default_rng(3)
    theta = fitted.theta + chance.standard_normal((HOLD_DRAWS, len(fitted.theta))) @ fitted.root.T
    was = _least(fitted.model, machine, [fitted.model.factors(row) for row in theta])
    found = []
    for item in improvements(now, machine, should_continue)[:MOST_TRIED]:
        if not should_continue():
            break
        try:
            model = Model(assess(made(now.project, item.edit, item.words)))
        except GreyCurrentError:
            continue
        then = _least(
            model,
            machine,
            [_carried_over(fitted.model, model, row, n) for n, row in enumerate(theta)],
        )
        both = np.isfinite(was[0]) & np.isfinite(then[0])
        if not both.any() or item.gain <= 0:
            continue
        gained = (then[0] - was[0])[both] >= KEPT * item.gain
        found.append(
            Holds(
                item, float(gained.mean()), float(then[1][both].mean()), float(was[1][both].mean())
            )
        )
    return HowOften(now.project, machine, tuple(found))


def _carried_over(model: Model, changed: Model, theta: Array, draw: int) -> dict[str, float]:
    """A drawn shop after a change: what it had keeps its factor, what is new is drawn, the same for
    every change.
    """
    factors = model.factors(theta)
    chance = np.random.default_rng([5, draw])
    new = np.exp(chance.standard_normal(len(changed.sigma)) * changed.sigma)
    return {u.key: factors.get(u.key, float(f)) for u, f in zip(changed.unknowns, new, strict=True)}


def _least(model: Model, machine: str, drawn: list[dict[str, float]]) -> tuple[Array, Array]:
    """The airflow (m³/s) of a machine's least pickup in each drawn shop, and whether all its needs
    are met there.
    """
    part = model.only(frozenset((machine,)))
    mine = [(ref, n) for n, ref in enumerate(_pickups(part))]
    needs = np.array(
        [need(part.project.pickup[ref][1], part.project.settings).airflow for ref, _ in mine]
    )
    flows = np.array([part.airflows(factors) for factors in drawn]).reshape(len(drawn), -1)
    if not mine or not flows.size:
        return np.full(len(drawn), np.nan), np.zeros(len(drawn))
    shares = flows / needs
    least = flows[np.arange(len(flows)), np.argmin(shares, axis=1)]
    return least, (shares >= MET_FROM).all(axis=1)


def _pickups(model: Model) -> list[str]:
    """The pickups whose airflows a part of a model answers, in their order."""
    return [ref for part in model.parts for _, ref, _ in part.uses()]

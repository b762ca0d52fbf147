"""The shop's air as the readings have it: every figure of an assessment with the fitted factors."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from grey_current.air.solver import Solved
from grey_current.design.flow.assessment import Assessment, System
from grey_current.design.flow.scenarios import Scenario, used_leaves
from grey_current.keep.fit import Calibration


def by_readings(now: Assessment, fitted: Calibration) -> Assessment:
    """The assessment with airflows and losses of the fitted model; scenarios that it does not know
    stay as they were.

    A scenario whose fitted model has no answer stays too. Raises nothing.
    """
    model = fitted.model
    view = model.view(fitted.factors)
    systems: dict[Scenario, dict[str, System]] = {}
    for number, (part, solved) in enumerate(zip(model.parts, view.solved, strict=True)):
        losses = np.stack([view.losses(number, row) for row in range(len(part.scenarios))])
        measured = _with_losses(solved, losses)
        for row, scenario in enumerate(part.scenarios):
            if solved.converged[row]:
                leaves = dict(used_leaves(model.project, part.network, scenario))
                systems.setdefault(scenario, {})[part.collector] = System(
                    part.network, measured, row, leaves
                )
    # A scenario that the model lacks a system of stays as the tables have it.
    answers = [
        answer.with_systems(found)
        if (found := systems.get(answer.scenario, {})).keys() == answer.systems.keys()
        else answer
        for answer in now.answers
    ]
    return replace(now, answers=tuple(answers))


def _with_losses(solved: Solved, losses: NDArray[np.float64]) -> Solved:
    """The same flows; what pieces take is not read off the table's laws but given."""
    made = replace(solved)
    made.__dict__["loss"] = losses
    return made

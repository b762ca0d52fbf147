"""Edits of the plan that lies under the drawing: moved, turned, scaled. Pure functions."""

from __future__ import annotations

from typing import Any

from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.edits import checked
from grey_current.shop.model import Project
from grey_current.shop.room import Underlay
from grey_current.shop.values import XY

# m between two places by which a plan is scaled.
LEAST_APART = 0.01


def with_underlay(project: Project, **changes: Any) -> Project:
    """The project with fields of the plan underneath changed. Raises `InputError` for a value that
    cannot be.
    """
    if project.underlay is None:
        raise RefusedEdit("the plan underneath", "changing it", "lay one under the drawing first")
    return project.replaced(underlay=checked(project.underlay, "plan underneath", changes))


def with_underlay_moved(project: Project, dx: float, dy: float) -> Project:
    """The project with the plan underneath moved by (dx, dy) m. Raises as `with_underlay`."""
    plan = project.underlay
    where = {} if plan is None else {"x": round(plan.x + dx, 4), "y": round(plan.y + dy, 4)}
    return with_underlay(project, **where)


def with_underlay_wide(project: Project, width: float) -> Project:
    """The project with the plan underneath `width` m across, its proportions kept. Raises as
    `with_underlay`.
    """
    plan = project.underlay
    sizes = {} if plan is None else {"width": width, "height": plan.height * width / plan.width}
    return with_underlay(project, **sizes)


def rescaled(underlay: Underlay, first: XY, second: XY, distance: float) -> Underlay:
    """The underlay scaled so that two places on it (m as now drawn) are `distance` m apart; the
    first stays.

    Raises `InputError` for one place twice, or a distance of nothing.
    """
    now = ((first[0] - second[0]) ** 2 + (first[1] - second[1]) ** 2) ** 0.5
    if now < LEAST_APART:
        raise InputError(
            "Scale the plan", None, "the two places are one and the same; click two that are apart"
        )
    if not distance > 0:
        raise InputError(
            "Scale the plan",
            None,
            "the two places are some way apart; write a length of more than nothing",
        )
    # The first place stays where it is; all else grows away from it.
    factor = distance / now
    return underlay.replaced(
        x=first[0] + (underlay.x - first[0]) * factor,
        y=first[1] + (underlay.y - first[1]) * factor,
        width=underlay.width * factor,
        height=underlay.height * factor,
    )

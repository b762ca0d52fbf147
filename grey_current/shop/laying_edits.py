"""Edits of how ducts are laid. Pure functions."""

from __future__ import annotations

from typing import Any

from grey_current.shop.edits import checked
from grey_current.shop.model import Project
from grey_current.units import Display


def with_laying(project: Project, **changes: Any) -> Project:
    """The project with some choices for laying ducts changed. Raises `InputError` for a value that
    cannot be.
    """
    made = checked(project.laying, "laying the ducts", changes, Display(project.settings.units))
    return project.replaced(laying=made)


def unpinned(project: Project) -> Project:
    """The project with nothing pinned."""
    return project.replaced(
        runs=tuple(run.replaced(pinned=False) if run.pinned else run for run in project.runs),
        points=tuple(
            point.replaced(pinned=False) if point.pinned else point for point in project.points
        ),
    )

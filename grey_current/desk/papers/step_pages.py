"""Putting up step by step on paper, four steps a page: each with a picture of what is up so far and
the next part dark.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np

from grey_current.build.bill import Bill, bill
from grey_current.build.cuts import numbered
from grey_current.build.setting_out import SettingOut
from grey_current.build.solid.presets import preset
from grey_current.build.solid.shop_solids import Solid, shop_solids, up_by_now
from grey_current.build.solid.sight import facing_step, seen_through
from grey_current.build.solid.tones import rgb
from grey_current.build.solid.view import Packed, paper_look, seen
from grey_current.build.steps import Step, build_steps
from grey_current.desk.papers.layout import (
    BODY,
    FOOT,
    LEADING,
    MARGIN,
    SIZES,
    TITLE,
    PaperPage,
    Shot,
    Word,
    wrapped,
)
from grey_current.errors import RefusedEdit
from grey_current.shop.model import Project
from grey_current.shop.names import capital

# Steps across and down a page; mm between them; how high a picture is over its width.
ACROSS, DOWN, BETWEEN, HIGH = 2, 2, 6.0, 1.15
# Pixels of a picture for a millimetre.
FINE = 5.0


def step_pages(
    found: Bill, size: str = "A4", on_progress: Callable[[float], bool] = lambda _: True
) -> list[PaperPage]:
    """The pages; none where nothing is put up, or once `on_progress`, which is told the share that
    is done, returns False. Raises `KeyError` for an unknown size.
    """
    project = found.parts.project
    steps = build_steps(SettingOut(found.parts, numbered(found.cuts)))
    solids = shop_solids(project, found.parts.assembly)
    wide, tall = SIZES[size]
    each = (wide - 2 * MARGIN - (ACROSS - 1) * BETWEEN) / ACROSS
    cell = (tall - 2 * MARGIN - TITLE * 2 - FOOT) / DOWN
    pages: list[PaperPage] = []
    for first in range(0, len(steps), ACROSS * DOWN):
        page = PaperPage(wide, tall)
        page.marks.append(
            Word(MARGIN, MARGIN + TITLE, f"{project.name}: step by step", TITLE, bold=True)
        )
        for place, step in enumerate(steps[first : first + ACROSS * DOWN]):
            if not on_progress(step.number / len(steps)):
                return []
            x = MARGIN + (place % ACROSS) * (each + BETWEEN)
            y = MARGIN + TITLE * 2 + (place // ACROSS) * cell
            _step(page, step, (x, y), each, _picture(project, solids, steps[: step.number], each))
        foot = f"{len(pages) + 1} of {-(-len(steps) // (ACROSS * DOWN))}"
        page.marks.append(Word(wide - MARGIN, tall - MARGIN, foot, BODY, align="right"))
        pages.append(page)
    return pages


def steps_on_paper(
    project: Project, size: str = "A4", on_progress: Callable[[float], bool] = lambda _: True
) -> list[PaperPage]:
    """The pages of a project. Raises `RefusedEdit` where nothing is put up, `DuctworkError` where
    pipe has no stock length that will do.
    """
    found = bill(project)
    pages = step_pages(found, size, on_progress)
    if not found.parts.assembly.parts:
        raise RefusedEdit("the steps", "printing them without ducts", "lay the ducts first")
    return pages


def _step(
    page: PaperPage, step: Step, at: tuple[float, float], wide: float, picture: np.ndarray
) -> None:
    x, y = at
    page.marks.append(Shot(x, y, wide, wide * HIGH, picture))
    y += wide * HIGH + BODY * LEADING
    for line in wrapped(f"{step.number}. {step.words}", BODY, wide, bold=True):
        page.marks.append(Word(x, y, line, BODY, bold=True))
        y += BODY * LEADING
    for line in wrapped(f"{capital(step.joint)}; {step.height}.", BODY, wide):
        page.marks.append(Word(x, y, line, BODY))
        y += BODY * LEADING


def _picture(
    project: Project, solids: Sequence[Solid], steps: Sequence[Step], wide: float
) -> np.ndarray:
    """What is up, near to what is put up next."""
    across, high = round(wide * FINE), round(wide * HIGH * FINE)
    packed = Packed(up_by_now(solids, steps))
    camera = facing_step(preset(project, "corner", across, high), packed, steps[-1])
    next_up = frozenset(steps[-1].parts)
    look = replace(
        paper_look(),
        colour_of=lambda solid: rgb("lit" if solid.part in next_up else solid.tone),
        paper=(255.0, 255.0, 255.0),
        veiled=seen_through,
    )
    return seen(packed, camera, across, high, look).picture

"""Hanging a hose over people's heads, as what mends one that lies across their way."""

from __future__ import annotations

from functools import partial

from grey_current.design.findings.finding import Inspection
from grey_current.design.space.hose_reach import OVERHEAD
from grey_current.shop.edits import Change
from grey_current.shop.fitting_edits import usual_hanging, with_hung_hose


def hooks(inspection: Inspection, run: str) -> tuple[Change, ...]:
    """The change that hangs a hose; none where the ceiling is too low for it."""
    height = usual_hanging(inspection.project, run)
    if height <= OVERHEAD:
        return ()
    words = f"Hang it at {inspection.display.length(height)}"
    return (Change(words, run, partial(with_hung_hose, run=run, height=height)),)

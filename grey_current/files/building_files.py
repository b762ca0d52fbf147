"""A design's drawings and lists, written into a folder."""

from __future__ import annotations

import re
from pathlib import Path

from grey_current.build.bill import Bill, bill
from grey_current.build.papers import drawings
from grey_current.build.phases import phase_facts
from grey_current.files.build_report import cuts_csv, parts_csv, phases_csv
from grey_current.files.drawing_dxf import write_dxf
from grey_current.files.drawing_svg import svg
from grey_current.files.safe_write import write_export
from grey_current.shop.model import Project


def save_lists(
    project: Project, folder: Path, wanted: set[str], costs: Bill | None = None
) -> list[str]:
    """Write drawings ("svg", "dxf") and the lists of parts, cuts and phases; returned is what was
    saved, in words.

    Raises `FileError`.
    """
    found = costs or bill(project)
    everything = [drawing for group in drawings(found) for drawing in group]
    saved: list[str] = []
    if "svg" in wanted:
        for number, drawing in enumerate(everything, 1):
            name = re.sub(r"[^a-z0-9]+", "-", drawing.title.lower()).strip("-")[:60]
            saved.append(write_export(svg(drawing), folder / f"{number:02}-{name}.svg"))
    if "dxf" in wanted:
        saved.append(write_dxf(everything, folder / "drawings.dxf"))
    lists = {"parts": parts_csv(found), "cuts": cuts_csv(project, found.cuts)}
    lists["phases"] = phases_csv(project, phase_facts(project))
    for name, text in lists.items():
        saved.append(write_export(text, folder / f"{name}.csv"))
    return saved

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
from grey_current.files.safe_write import write_whole
from grey_current.shop.model import Project


def save_lists(project: Project, folder: Path, wanted: set[str], costs: Bill | None = None) -> list[Path]:
    """Write drawings ("svg", "dxf") and the lists of parts, cuts and phases; answers the files. Raises `FileError`."""
    found = costs or bill(project)
    plan, elevations, drops = drawings(found)
    everything = [plan, *elevations, *drops]
    made: list[Path] = []
    if "svg" in wanted:
        for number, drawing in enumerate(everything, 1):
            name = re.sub(r"[^a-z0-9]+", "-", drawing.title.lower()).strip("-")[:60]
            made.append(folder / f"{number:02}-{name}.svg")
            write_whole(svg(drawing), made[-1])
    if "dxf" in wanted:
        made.append(folder / "drawings.dxf")
        write_dxf(everything, made[-1])
    lists = {"parts": parts_csv(found), "cuts": cuts_csv(project, found.cuts)}
    lists["phases"] = phases_csv(project, phase_facts(project))
    for name, text in lists.items():
        made.append(folder / f"{name}.csv")
        write_whole(text, made[-1])
    return made

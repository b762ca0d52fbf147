"""The manual: short pages, their order, and which one is about what is looked at.

The pages lie beside this module as Markdown, with their pictures, so that they are read without
the program too.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from importlib.resources import as_file, files
from pathlib import Path

from grey_current.design.findings.finding import STAGE_OF
from grey_current.design.parts.takeoffs import is_hose
from grey_current.workspace.workspace import Workspace

# The pages in the order in which one would read them.
ORDER = (
    *("first-shop", "safety", "floor", "numbers", "room", "machines", "ports", "collector"),
    *("drawing-ducts", "laying-ducts", "air", "chips", "gates", "hoses", "designs", "parts"),
    *("cutting", "putting-up", "work", "dust", "keeping", "finding-a-fault", "files", "reasons"),
)
# What users see of each version, which developers know as the changelog.
NEWS = "whats-new"
# The page of each stage, and of what a stage shows beside it.
OF_STAGE = {
    "shop": "room",
    "machines": "machines",
    "collector": "collector",
    "air": "air",
    "gates": "gates",
    "build": "parts",
    "work": "work",
    "keep": "keeping",
}
OF_FACE = {"parts": "parts", "cuts": "cutting", "steps": "putting-up", "phases": "putting-up"}
# Problems that have a page of their own; the others' is that of their stage.
ABOUT = {
    **dict.fromkeys(("settles", "may-settle", "chip-jam", "dead-pipe"), "chips"),
    **dict.fromkeys(
        (
            *("hose-short", "hose-long", "hose-round", "hose-across", "unsupported"),
            *("one-hose", "open-port", "left-open"),
        ),
        "hoses",
    ),
    **dict.fromkeys(("small-port", "no-pickup", "tilts", "flush", "own-bag"), "ports"),
    **dict.fromkeys(
        ("no-pipe-room", "no-joint-room", "short-piece", "unsold-fitting"), "drawing-ducts"
    ),
    **dict.fromkeys(("open-end", "crowded", "near-inlet", "not-connected"), "drawing-ducts"),
    **dict.fromkeys(("cut-otherwise", "no-stock"), "cutting"),
    **dict.fromkeys(("hangs-on-nothing",), "putting-up"),
    **dict.fromkeys(("in-clean-zone", "clean-zone-air", "out-of-zone"), "room"),
    **dict.fromkeys(("near-heat", "flue", "store-near-heat"), "safety"),
}

# Sections of the inspector that another page is about than the one of what is looked at.
OF_SECTION = {
    **dict.fromkeys(("Pickups", "The air at it", "Its work"), "ports"),
    **dict.fromkeys(("Put together", "Its lay length", "Its pieces", "Its parts"), "drawing-ducts"),
    **dict.fromkeys(("Fan", "Separator, filter and bin", "Does it fit?"), "collector"),
    **dict.fromkeys(("Where its air goes", "Separators", "Recommended collectors"), "collector"),
    **dict.fromkeys(("Moving it", "Carried to", "For sweeping up"), "hoses"),
    **dict.fromkeys(("Found by search", "Which may be used"), "laying-ducts"),
    **dict.fromkeys(("Designs kept", "Left over"), "designs"),
    **dict.fromkeys(("Prices", "What it costs", "Make it yourself"), "parts"),
    **dict.fromkeys(("Pipe as it is sold", "Cut", "If you buy one more length"), "cutting"),
    **dict.fromkeys(("Phases", "Its phase"), "putting-up"),
    "Clean-outs": "chips",
    "Switching": "gates",
    **dict.fromkeys(
        (
            *("The dust in the air", "Whose dust", "By whose it is", "By what it is"),
            *("What would clear it most", "Particle counter", "Test its hoods", "Air cleaners"),
        ),
        "dust",
    ),
    **dict.fromkeys(("Chores", "Logbook", "Usual days", "When you are done"), "work"),
    **dict.fromkeys(("Instruments", "Readings", "Measure next", "What comes next"), "keeping"),
    **dict.fromkeys(("Something wrong?", "Which fault", "Practice"), "finding-a-fault"),
    "New here?": "first-shop",
}


@dataclass(frozen=True)
class ManualPage:
    """A page: its heading, and its Markdown with the heading."""

    id: str
    title: str
    text: str


@cache
def manual_pages() -> dict[str, ManualPage]:
    """All pages by id, in their order."""
    folder = files("grey_current.workspace") / "manual"
    found = {}
    for ident in (*ORDER, NEWS):
        text = (folder / f"{ident}.md").read_text(encoding="utf-8")
        found[ident] = ManualPage(ident, text.partition("\n")[0].removeprefix("# "), text)
    return found


def manual_folder() -> Path:
    """Where the pages' pictures are looked for."""
    with as_file(files("grey_current.workspace") / "manual") as folder:
        return folder


def page_about(code: str) -> str:
    """The page about a problem. Raises `KeyError` for an unknown code."""
    return ABOUT.get(code) or OF_STAGE[STAGE_OF[code]]


def page_of_section(workspace: Workspace, title: str) -> str:
    """The page about a section of the inspector."""
    if title.startswith("Pickup: "):
        return "ports"
    return OF_SECTION.get(title) or page_here(workspace)


def page_here(workspace: Workspace) -> str:
    """The page about what is looked at."""
    if workspace.reading is not None:
        return "reasons"
    if workspace.guiding:
        return "first-shop"
    if workspace.finding or workspace.project.keep.practising:
        return "finding-a-fault"
    if workspace.compared is not None:
        return "designs"
    stage, chosen = workspace.stage, workspace.selection
    if workspace.asked is not None:
        return "laying-ducts"
    if stage == "build":
        return OF_FACE[workspace.face]
    run = workspace.project.run.get(chosen or "")
    if run is not None and stage in ("air", "gates"):
        return "hoses" if is_hose(run) else "drawing-ducts"
    if chosen is not None and chosen in workspace.project.pickup:
        return "ports"
    return OF_STAGE[stage]

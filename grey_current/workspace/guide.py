"""Where the work stands: a mark for each stage, and the one next thing to do."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from typing import Literal

from grey_current.design.findings import Finding
from grey_current.workspace.workspace import Stage, Workspace

Mark = Literal["to do", "look", "done"]

OF_SHOP = {"door-blocked", "door-tracks", "walkway", "near-heat", "near-grille"}
OF_MACHINES = {
    "in-the-wall", "overlap", "lane-blocked", "lane-short", "service-blocked", "must-move", "no-pickup",
    "tilts", "curls",
}  # fmt: skip


@dataclass(frozen=True)
class StageState:
    """A stage of the work: its title, its mark, and why in a few words."""

    stage: Stage
    title: str
    mark: Mark
    words: str


def stage_states(workspace: Workspace) -> tuple[StageState, ...]:
    """All stages in their order."""
    project = workspace.project
    pressing = [f.code for f in workspace.known_findings if f.severity != "note"]
    counts = Counter(_stage_of(code) for code in pressing)
    untouched = not project.machines and not project.openings
    empty = {"shop": untouched, "machines": not project.machines, "air": not project.runs}
    titles: tuple[tuple[Stage, str], ...] = (("shop", "Shop"), ("machines", "Machines"), ("air", "Air"))
    return tuple(
        StageState(stage, title, *_mark(empty[stage], counts[stage], stage == "air" and not project.machines))
        for stage, title in titles
    )


def _mark(empty: bool, count: int, too_early: bool) -> tuple[Mark, str]:
    if too_early or empty:
        return "to do", "to do"
    if count:
        return "look", f"{count} to look at"
    return "done", "in order"


def stage_findings(workspace: Workspace) -> tuple[Finding, ...]:
    """The findings that are mended at the stage where the work stands."""
    return tuple(f for f in workspace.known_findings if _stage_of(f.code) == workspace.stage)


def _stage_of(code: str) -> Stage:
    return "shop" if code in OF_SHOP else "machines" if code in OF_MACHINES else "air"


def next_step(workspace: Workspace) -> str:
    """The one next thing to do, in words."""
    project = workspace.project
    if workspace.placing is not None:
        if workspace.placing.kind == "tape":
            return "Press at one place, drag to another: the tape shows the distance. Esc puts it away."
        if workspace.placing.kind == "scale":
            return "Click two places on the plan whose distance you know."
        return f"Click on the floor where the {workspace.placing.title.lower()} goes. Esc puts it away."
    if workspace.stage == "shop":
        if not project.openings and not project.machines:
            return "Type the room's length and width on the right; then put in doors and posts from the strip below."
        return "Drag a wall to push it; click one to type its length or split it. Then go on to Machines."
    if workspace.stage == "machines":
        if not project.machines:
            return "Drag the first machine from the strip below to where it stands."
        return "Drag a machine to move it, R turns it. Its lane shows the longest board it can take."
    if not project.machines:
        return "Machines first: go back to stage 2."
    if not project.runs:
        return "This shop has no ducts or hoses yet, so no air is computed."
    return "Click a machine's row to run it; click anything to see what it costs."

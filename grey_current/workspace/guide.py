"""Where the work stands: a mark for each stage, and the one next thing to do."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from typing import Literal

from grey_current.design.findings.airflow import Finding
from grey_current.workspace.placing import Placing
from grey_current.workspace.workspace import Stage, Workspace

Mark = Literal["to do", "look", "done"]

OF_SHOP = {"door-blocked", "door-tracks", "walkway", "near-heat", "near-grille"}
OF_COLLECTOR = {
    "too-tall",
    "overload",
    "loud",
    "flue",
    "opening",
    "small-bin",
    "implausible-curve",
    "motor",
    "through-the-fan",
    "small-port",
    "small-filter",
    "off-curve",
}
OF_GATES = {"gate-open", "gate-shut"}
OF_MACHINES = {
    "in-the-wall",
    "overlap",
    "lane-blocked",
    "lane-short",
    "service-blocked",
    "must-move",
    "no-pickup",
    "tilts",
    "chip-jam",
}


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
    empty = {
        "shop": untouched,
        "machines": not project.machines,
        "collector": not project.collectors,
        "air": not project.runs,
        "gates": not project.gates,
    }
    titles: tuple[tuple[Stage, str], ...] = (
        ("shop", "Shop"),
        ("machines", "Machines"),
        ("collector", "Collector"),
        ("air", "Air"),
        ("gates", "Gates"),
    )
    return tuple(
        StageState(
            stage,
            title,
            *_mark(empty[stage], counts[stage], stage in ("collector", "air", "gates") and not project.machines),
        )
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
    stages: tuple[tuple[Stage, set[str]], ...] = (
        ("shop", OF_SHOP),
        ("machines", OF_MACHINES),
        ("collector", OF_COLLECTOR),
        ("gates", OF_GATES),
    )
    return next((stage for stage, codes in stages if code in codes), "air")


def next_step(workspace: Workspace) -> str:
    """The one next thing to do, in words."""
    if workspace.placing is not None:
        return _with_in_hand(workspace.placing)
    return {
        "shop": _next_in_shop,
        "machines": _next_in_machines,
        "collector": _next_in_collector,
        "air": _next_in_air,
        "gates": _next_in_gates,
    }[workspace.stage](workspace)


def _with_in_hand(placing: Placing) -> str:
    special = {
        "tape": "Press at one place, drag to another: the tape shows the distance. Esc puts it away.",
        "duct": "Click the collector or a duct to begin, then each turn; click a port to connect it. Esc ends it.",
        "scale": "Click two places on the plan whose distance you know.",
    }
    return special.get(placing.kind, f"Click on the floor where the {placing.title.lower()} goes. Esc puts it away.")


def _next_in_shop(workspace: Workspace) -> str:
    project = workspace.project
    if not project.openings and not project.machines:
        return "Type the room's length and width on the right; then put in doors and posts from the strip below."
    return "Drag a wall to push it; click one to type its length or split it. Then go on to Machines."


def _next_in_machines(workspace: Workspace) -> str:
    if not workspace.project.machines:
        return "Drag the first machine from the strip below to where it stands."
    return "Drag a machine to move it, R turns it. Its lane shows the longest board it can take."


def _next_in_collector(workspace: Workspace) -> str:
    if not workspace.project.machines:
        return "Machines first: go back to stage 2."
    if not workspace.project.collectors:
        return "See what a collector must do, then put one in with its button; drag it where it is to stand."
    return "Drag it where it is to stand. A button puts another one in its place; undo brings the old one back."


def _next_in_gates(workspace: Workspace) -> str:
    if not workspace.project.gates:
        return "Gates come with the branches: connect a machine to the main at stage 4."
    return "Choose a machine in the rack: the levers show its gates. Click a lever to leave its gate open."


def _next_in_air(workspace: Workspace) -> str:
    project = workspace.project
    if not project.machines:
        return "Machines first: go back to stage 2."
    if not project.collectors:
        return "A collector comes next: stage 3 says what it must do."
    if not project.runs:
        return "Draw the main: press D, click the collector, then each corner of the way. Esc ends it."
    if any(f.code == "not-connected" for f in workspace.known_findings):
        return "Press D and click a machine's port, or press 'Connect it to the main': the whole branch is put in."
    return "Click a machine's row to run it; click anything to see what it costs."

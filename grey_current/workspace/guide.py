"""Where the work stands: a mark for each stage, its findings, and the one next thing to do."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace
from typing import Literal

from grey_current.build.progress import Progress
from grey_current.design.findings.finding import Finding
from grey_current.shop.model import Project
from grey_current.workspace.placing import Placeable
from grey_current.workspace.stages import STAGES, Stage, stage
from grey_current.workspace.workspace import Workspace

Mark = Literal["to do", "look", "done"]


@dataclass(frozen=True)
class StageState:
    """A stage of the work: its name and title, its mark, how many things to look at, and that in a
    few words.
    """

    stage: str
    title: str
    mark: Mark
    count: int
    words: str
    # How far the phase under way is built, as a share; None where nothing is ticked.
    progress: float | None = None


def stage_states(workspace: Workspace) -> tuple[StageState, ...]:
    """All stages in their order."""
    counts = Counter(f.stage for f in workspace.known_findings if f.severity != "note")
    states = [_state(entry, workspace.project, counts[entry.name]) for entry in STAGES]
    done = workspace.computed.progress if not workspace.in_gesture else None
    return tuple(
        _with_progress(state, done) if state.stage == "build" and done else state
        for state in states
    )


def _state(entry: Stage, project: Project, count: int) -> StageState:
    if not entry.begun(project) or (entry.wants_machines and not project.machines):
        return StageState(entry.name, entry.title, "to do", 0, "to do")
    if count:
        return StageState(entry.name, entry.title, "look", count, f"{count} to look at")
    return StageState(entry.name, entry.title, "done", 0, "in order")


def _with_progress(state: StageState, done: Progress) -> StageState:
    phase = f"phase {done.phase}: " if done.phases > 1 else ""
    return replace(
        state, progress=done.share, words=f"{state.words}; {phase}{done.done} of {done.asked} ticks"
    )


def stage_findings(workspace: Workspace) -> tuple[Finding, ...]:
    """The findings that are mended at the stage where the work stands."""
    return tuple(f for f in workspace.known_findings if f.stage == workspace.stage)


def next_step(workspace: Workspace) -> str:
    """The one next thing to do, in words."""
    if workspace.placing is not None:
        return _with_in_hand(workspace.placing)
    if workspace.asked is not None:
        return (
            "Point at a row to see it on the floor; click to use it. Undo restores the old "
            "layout. Esc closes the list."
        )
    codes = frozenset(f.code for f in workspace.known_findings)
    return stage(workspace.stage).next_step(workspace.project, codes)


def _with_in_hand(placing: Placeable) -> str:
    special = {
        "tape": "Press at one place, drag to another: the tape shows the distance. Esc puts it "
        "away.",
        "duct": "Click the collector or a duct to begin, then each turn; click a port to "
        "connect it. Esc ends it.",
        "plan": "Drag anywhere on the floor: the plan underneath moves. Esc lets go of it.",
        "scale": "Click two places on the plan whose distance you know.",
    }
    return special.get(
        placing.kind,
        f"Click on the floor where the {placing.title.lower()} goes. Esc puts it away.",
    )

"""Everything that can be done from menu or keyboard, as data. The desk brings the hands."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from grey_current.workspace.workspace import Workspace


def _always(workspace: Workspace) -> bool:
    del workspace
    return True


def _has_machines(workspace: Workspace) -> bool:
    return bool(workspace.project.machines)


def _has_selection(workspace: Workspace) -> bool:
    return bool(workspace.selected)


def _machine_selected(workspace: Workspace) -> bool:
    return (workspace.selection or "").split("/")[0] in workspace.project.machine


@dataclass(frozen=True)
class Command:
    """A command: id, title, menu it stands in, shortcut, and when it makes sense."""

    id: str
    title: str
    group: str
    shortcut: str = ""
    enabled: Callable[[Workspace], bool] = _always


GROUPS = ("Shop", "Edit", "View", "Help")

COMMANDS = (
    Command("open", "Open…", "Shop", "Ctrl+O"),
    Command("open-loft", "Open the Net Loft", "Shop"),
    Command("open-allotment", "Open the Allotment Shed", "Shop"),
    Command("open-empty", "Open an empty shop", "Shop"),
    Command("save", "Save", "Shop", "Ctrl+S"),
    Command("save-as", "Save as…", "Shop", "Ctrl+Shift+S"),
    Command(
        "read-curve", "Read the collector's fan curve from CSV…", "Shop", "", lambda w: w.sized_collector is not None
    ),
    Command("save-chart", "Save the match chart as a picture…", "Shop", "", lambda w: w.stage == "collector"),
    Command("underlay", "Lay a plan under the drawing…", "Shop"),
    Command("scale-underlay", "Scale the plan by two places", "Shop", "", lambda w: w.project.underlay is not None),
    Command("drop-underlay", "Take the plan away", "Shop", "", lambda w: w.project.underlay is not None),
    Command("quit", "Close", "Shop", "Ctrl+Q"),
    Command("undo", "Undo", "Edit", "Ctrl+Z", lambda w: w.undo_label is not None),
    Command("redo", "Redo", "Edit", "Ctrl+Shift+Z", lambda w: w.redo_label is not None),
    Command("draw-duct", "Draw a duct", "Edit", "D", lambda w: bool(w.project.collectors)),
    Command("keep-design", "Keep this design", "Edit", "Ctrl+B", lambda w: bool(w.project.runs)),
    Command(
        "compare-design",
        "Compare with the last design kept",
        "Edit",
        "Ctrl+Shift+B",
        lambda w: bool(w.project.kept_designs),
    ),
    Command("copy", "Copy", "Edit", "Ctrl+C", _has_selection),
    Command("paste", "Paste", "Edit", "Ctrl+V", lambda w: w.can_paste),
    Command("delete", "Take away", "Edit", "Del", _has_selection),
    Command("select-all", "Select all machines", "Edit", "Ctrl+A", _has_machines),
    Command("next-thing", "Select the next thing", "Edit", "N"),
    Command("previous-thing", "Select the thing before", "Edit", "Shift+N"),
    Command("turn", "Turn by 90°", "Edit", "R", _has_selection),
    Command("turn-little", "Turn by 15°", "Edit", "Shift+R", _has_selection),
    Command("align-x", "Align on one line, up and down", "Edit", "Ctrl+Shift+X", lambda w: len(w.selected) > 1),
    Command("align-y", "Align on one line, side by side", "Edit", "Ctrl+Shift+Y", lambda w: len(w.selected) > 1),
    Command("keep-machine", "Keep this machine in my catalogue", "Edit", "Ctrl+K", _machine_selected),
    Command(
        "keep-collector",
        "Keep this collector in my catalogue",
        "Edit",
        "Ctrl+Shift+K",
        lambda w: w.sized_collector is not None,
    ),
    Command("run-together", "Count what runs now as run together", "Edit", "Ctrl+T", lambda w: len(w.running) > 1),
    Command("all-off", "Switch all machines off", "Edit", "0", lambda w: bool(w.running)),
    Command("deselect", "Select nothing, or let go", "Edit", "Esc"),
    Command("units", "Feet and inches / metric", "Edit", "Ctrl+U"),
    Command("criterion", "Clear the chips / catch the fine dust", "Edit", "Ctrl+D"),
    Command("stage-shop", "Stage 1: Shop", "View", "Ctrl+1"),
    Command("stage-machines", "Stage 2: Machines", "View", "Ctrl+2"),
    Command("stage-collector", "Stage 3: Collector", "View", "Ctrl+3"),
    Command("stage-air", "Stage 4: Air", "View", "Ctrl+4"),
    Command("stage-gates", "Stage 5: Gates", "View", "Ctrl+5"),
    Command("fit", "Fit the floor", "View", "F"),
    Command("zoom-in", "Closer", "View", "+"),
    Command("zoom-out", "Farther", "View", "-"),
    Command("theme", "Light / dark", "View", "Ctrl+L"),
    Command("motion", "Moving air on / off", "View", "Ctrl+M"),
    Command("next-machine", "Run the next machine", "View", "Ctrl+Down", _has_machines),
    Command("previous-machine", "Run the machine before", "View", "Ctrl+Up", _has_machines),
    Command("keys", "Keys and mouse", "Help", "F1"),
    Command("cautions", "Before you rely on it", "Help"),
)

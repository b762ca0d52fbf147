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
    Command("quit", "Close", "Shop", "Ctrl+Q"),
    Command("undo", "Undo", "Edit", "Ctrl+Z", lambda w: w.undo_label is not None),
    Command("redo", "Redo", "Edit", "Ctrl+Shift+Z", lambda w: w.redo_label is not None),
    Command("all-off", "Switch all machines off", "Edit", "0", lambda w: bool(w.running)),
    Command("deselect", "Select nothing, or stop dragging", "Edit", "Esc", lambda w: w.selection is not None),
    Command("units", "Feet and inches / metric", "Edit", "Ctrl+U"),
    Command("school", "Clear the chips / catch the fine dust", "Edit", "Ctrl+D"),
    Command("fit", "Fit the floor", "View", "F"),
    Command("zoom-in", "Closer", "View", "+"),
    Command("zoom-out", "Farther", "View", "-"),
    Command("theme", "Light / dark", "View", "Ctrl+L"),
    Command("motion", "Moving air on / off", "View", "Ctrl+M"),
    Command("next-machine", "Run the next machine", "View", "Ctrl+Down", _has_machines),
    Command("previous-machine", "Run the machine before", "View", "Ctrl+Up", _has_machines),
    Command("keys", "Keys and mouse", "Help", "F1"),
    Command("cautions", "Before you rely on it", "Help"),
)  # fmt: skip

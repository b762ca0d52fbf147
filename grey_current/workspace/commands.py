"""Everything that can be done from menu or keyboard, as data: what it is called, when it makes
sense, what it does.

What needs a window is asked of a `Desk`; everything else is done to the workspace.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from grey_current.shop import arrangements, edits, kept_designs
from grey_current.shop.room_edits import in_units
from grey_current.shop.templates import TEMPLATES
from grey_current.units import System
from grey_current.workspace import asking
from grey_current.workspace.desk import Desk
from grey_current.workspace.manual import NEWS
from grey_current.workspace.offering import OfferKind
from grey_current.workspace.placing import Placeable
from grey_current.workspace.stages import STAGES, stepped
from grey_current.workspace.workspace import Workspace


def _has_readings(workspace: Workspace) -> bool:
    return bool(workspace.project.keep.readings)


def _has_log(workspace: Workspace) -> bool:
    return bool(workspace.project.keep.entries or workspace.project.keep.readings)


def _has_logbook(workspace: Workspace) -> bool:
    return bool(workspace.project.keep.readings or workspace.project.keep.entries)


def _always(workspace: Workspace) -> bool:
    del workspace
    return True


@dataclass(frozen=True)
class Command:
    """One thing that a user can do: from a menu, by a key or by a button.

    Several shortcuts are parted by "; ", the usual one first; `group` is a menu, or menu and
    submenu: "File/Import".
    `act` may raise a `GreyCurrentError`, whose sentence is shown.
    """

    id: str
    title: str
    group: str
    act: Callable[[Desk], object]
    shortcut: str = ""
    enabled: Callable[[Workspace], bool] = _always

    @property
    def usual_key(self) -> str:
        """The shortcut that is shown."""
        return self.shortcut.split("; ")[0]


# -- when they make sense


def _has_machines(workspace: Workspace) -> bool:
    return bool(workspace.project.machines)


def _has_selection(workspace: Workspace) -> bool:
    return bool(workspace.selected)


def _several_selected(workspace: Workspace) -> bool:
    return len(workspace.selected) > 1


def _machine_selected(workspace: Workspace) -> bool:
    return (workspace.selection or "").split("/")[0] in workspace.project.machine


def _has_sized_collector(workspace: Workspace) -> bool:
    return asking.sized_collector(workspace) is not None


def _at_machines(workspace: Workspace) -> bool:
    return workspace.stage == "machines" and _has_machines(workspace)


def _may_lay(workspace: Workspace) -> bool:
    return bool(workspace.project.collectors) and bool(workspace.project.pickup)


def _has_ducts(workspace: Workspace) -> bool:
    return bool(workspace.project.runs or workspace.project.collectors)


def _has_plan(workspace: Workspace) -> bool:
    return workspace.project.underlay is not None


def _may_connect(workspace: Workspace) -> bool:
    return _may_lay(workspace) and bool(workspace.waiting)


def _has_kept_design(workspace: Workspace) -> bool:
    return bool(workspace.project.kept_designs)


def _has_steps(workspace: Workspace) -> bool:
    return len(workspace.steps) > 1


def _is_running(workspace: Workspace) -> bool:
    return bool(workspace.running)


# -- what they do to the workspace


def _select_all(desk: Desk) -> None:
    desk.workspace.select_all(tuple(desk.workspace.project.machine))


def _duplicate(desk: Desk) -> None:
    desk.workspace.copy()
    desk.workspace.paste()


def _switch_selected(desk: Desk) -> None:
    machine = (desk.workspace.selection or "").split("/")[0]
    desk.workspace.toggle(machine)


def _draw_duct(desk: Desk) -> None:
    desk.workspace.go("air")
    desk.workspace.arm(Placeable("duct", "duct", "Duct"))
    desk.focus_floor()


def _deselect(desk: Desk) -> None:
    if desk.cancel():
        return
    if desk.workspace.asked is not None and desk.workspace.selection is None:
        desk.workspace.end_offer()
    desk.workspace.select(None)


def _ask(kind: OfferKind) -> Callable[[Desk], None]:
    def act(desk: Desk) -> None:
        desk.workspace.ask_for(kind)
        desk.focus_strip()

    return act


def _ask_place(desk: Desk) -> None:
    desk.workspace.ask_for("places", asking.sized_collector(desk.workspace) or "")
    desk.focus_strip()


def _change_units(desk: Desk) -> None:
    other: System = "metric" if desk.workspace.project.settings.units == "us" else "us"
    desk.workspace.edit("Change units", lambda p: in_units(p, other))


def _change_criterion(desk: Desk) -> None:
    now = desk.workspace.project.settings.criterion
    other = "catch fine dust" if now == "clear chips" else "clear chips"
    desk.workspace.edit(
        "Change what air must do", lambda p: edits.with_settings(p, criterion=other)
    )


def _step_machine(desk: Desk, step: int) -> None:
    workspace = desk.workspace
    idents = list(workspace.project.machine)
    ident = stepped(idents, workspace.running[0] if workspace.running else None, step)
    workspace.switch_on((ident,))
    workspace.select(ident)


def _count_together(desk: Desk) -> None:
    sets, running = desk.workspace.project.settings.together, desk.workspace.running
    if running not in sets:
        step = "Count machines as working together"
        desk.workspace.edit(step, lambda p: edits.with_settings(p, together=(*sets, running)))


def _compare(desk: Desk) -> None:
    """Compare with the design that was kept last, or end the comparison."""
    last = desk.workspace.project.kept_designs[-1].id
    desk.workspace.compare(None if desk.workspace.compared else last)


def _new_arrangement(desk: Desk) -> None:
    desk.workspace.edit("Begin an arrangement", lambda p: arrangements.begun(p)[0])


def _next_arrangement(desk: Desk) -> None:
    """Lay out the arrangement that comes after the present one, the first after the last."""
    project = desk.workspace.project
    held = [each.id for each in project.arrangements]
    following = held[(held.index(project.arranged or "") + 1) % len(held)]
    name = arrangements.find(project, following).name
    desk.workspace.edit(f"Lay out {name}", lambda p: arrangements.laid_out(p, following))


def _keep_design(desk: Desk) -> None:
    desk.workspace.edit("Keep this design", lambda p: kept_designs.kept(p)[0])


def _turn(desk: Desk, degrees: float) -> None:
    chosen = desk.workspace.selected
    desk.workspace.edit("Rotate", lambda p: edits.turned(p, chosen, degrees))


def _align(desk: Desk, axis: Literal["x", "y"]) -> None:
    chosen = desk.workspace.selected
    desk.workspace.edit("Align", lambda p: edits.aligned(p, chosen, axis))


def _to_stage(number: int, name: str, title: str) -> Command:
    act = lambda desk: desk.workspace.go(name)  # noqa: E731
    return Command(f"stage-{name}", f"Stage {number}: {title}", "View", act, f"Ctrl+{number}")


def _from_template(name: str, title: str) -> Command:
    return Command(f"new-{name}", title, "File/New from template", lambda d: d.open_template(name))


# The menus. "File/Import" is a submenu of the first.
GROUPS = ("File", "Edit", "View", "Design", "Tools", "Help")

FILE_COMMANDS = (
    Command("open-empty", "New", "File", lambda d: d.open_demo("empty"), "Ctrl+N"),
    *(_from_template(template.name, template.title) for template in TEMPLATES),
    Command("open", "Open…", "File", lambda d: d.ask_open(), "Ctrl+O"),
    Command("recent", "Open recent…", "File", lambda d: d.show_recent(), "Ctrl+Shift+O"),
    Command("open-loft", "Net Loft", "File/Examples", lambda d: d.open_demo("loft")),
    Command(
        "open-allotment", "Allotment Shed", "File/Examples", lambda d: d.open_demo("allotment")
    ),
    Command("save", "Save", "File", lambda d: d.save(), "Ctrl+S"),
    Command("save-as", "Save as…", "File", lambda d: d.save_as(), "Ctrl+Shift+S"),
    Command("underlay", "Floor plan to trace…", "File/Import", lambda d: d.underlays.choose()),
    Command(
        "read-curve",
        "Fan curve…",
        "File/Import",
        lambda d: d.read_curve(),
        "",
        _has_sized_collector,
    ),
    Command(
        "read-prices", "Prices…", "File/Import", lambda d: d.building.read_prices(), "", _has_ducts
    ),
    Command(
        "read-pieces",
        "Pieces of another shop…",
        "File/Import",
        lambda d: d.building.read_pieces(),
        "",
        _has_ducts,
    ),
    Command(
        "read-readings",
        "Readings…",
        "File/Import",
        lambda d: d.keeping.read_readings(),
        "",
        _has_ducts,
    ),
    Command("merge-logbook", "Merge a logbook…", "File/Import", lambda d: d.merge_logbook()),
    Command(
        "save-lists",
        "Drawings and lists…",
        "File/Export",
        lambda d: d.building.save_all(),
        "",
        _has_ducts,
    ),
    Command(
        "save-chart",
        "Match chart…",
        "File/Export",
        lambda d: d.save_chart(),
        "",
        lambda w: w.stage == "collector",
    ),
    Command(
        "save-prices", "Prices…", "File/Export", lambda d: d.building.save_prices(), "", _has_ducts
    ),
    Command(
        "save-steps",
        "Putting up, step by step…",
        "File/Export",
        lambda d: d.building.save_steps(),
        "",
        _has_ducts,
    ),
    Command("share", "Page to share…", "File/Export", lambda d: d.building.share()),
    Command("save-space", "Shop in space…", "File/Export", lambda d: d.building.save_space()),
    Command(
        "cards",
        "Machine cards…",
        "File/Export",
        lambda d: d.working.save_cards(),
        "",
        _has_machines,
    ),
    Command(
        "chores",
        "Maintenance calendar…",
        "File/Export",
        lambda d: d.working.save_chores(),
        "",
        _has_machines,
    ),
    Command(
        "save-readings",
        "Readings…",
        "File/Export",
        lambda d: d.keeping.save_readings(),
        "",
        _has_readings,
    ),
    Command(
        "save-logbook",
        "Logbook…",
        "File/Export",
        lambda d: d.keeping.save_logbook(),
        "",
        _has_logbook,
    ),
    Command(
        "logbook", "Logbook…", "Tools", lambda d: d.keeping.show_logbook(), "Ctrl+Shift+L", _has_log
    ),
    Command("papers", "Print…", "File", lambda d: d.show_papers(), "Ctrl+P"),
    Command("preferences", "Preferences…", "File", lambda d: d.show_preferences(), "Ctrl+,"),
    Command("quit", "Quit", "File", lambda d: d.close(), "Ctrl+Q"),
)

EDIT_COMMANDS = (
    Command("history", "History…", "Edit", lambda d: d.show_history(), "", _has_steps),
    Command("find", "Find anything…", "Edit", lambda d: d.find_anything(), "Ctrl+K; Ctrl+Shift+P"),
    Command(
        "undo",
        "Undo",
        "Edit",
        lambda d: d.workspace.undo(),
        "Ctrl+Z",
        lambda w: w.undo_label is not None,
    ),
    Command(
        "redo",
        "Redo",
        "Edit",
        lambda d: d.workspace.redo(),
        "Ctrl+Shift+Z",
        lambda w: w.redo_label is not None,
    ),
    Command("cut", "Cut", "Edit", lambda d: d.workspace.cut(), "Ctrl+X", _has_selection),
    Command("copy", "Copy", "Edit", lambda d: d.workspace.copy(), "Ctrl+C", _has_selection),
    Command(
        "paste", "Paste", "Edit", lambda d: d.workspace.paste(), "Ctrl+V", lambda w: w.can_paste
    ),
    Command("duplicate", "Duplicate", "Edit", _duplicate, "", _has_selection),
    Command("delete", "Delete", "Edit", lambda d: d.workspace.delete(), "Del", _has_selection),
    Command("select-all", "Select all machines", "Edit", _select_all, "Ctrl+A", _has_machines),
    Command("next-thing", "Select next", "Edit", lambda d: d.workspace.select_next(1), "N"),
    Command(
        "previous-thing",
        "Select previous",
        "Edit",
        lambda d: d.workspace.select_next(-1),
        "Shift+N",
    ),
    Command("deselect", "Cancel, or select nothing", "Edit", _deselect, "Esc"),
    Command("turn", "Rotate 90°", "Edit", lambda d: _turn(d, 90), "R", _has_selection),
    Command("turn-little", "Rotate 15°", "Edit", lambda d: _turn(d, 15), "Shift+R", _has_selection),
    Command(
        "align-x",
        "Align in a column",
        "Edit",
        lambda d: _align(d, "x"),
        "Ctrl+Shift+X",
        _several_selected,
    ),
    Command(
        "align-y",
        "Align in a row",
        "Edit",
        lambda d: _align(d, "y"),
        "Ctrl+Shift+Y",
        _several_selected,
    ),
)

VIEW_COMMANDS = (
    *(_to_stage(number, entry.name, entry.title) for number, entry in enumerate(STAGES, 1)),
    Command("zoom-in", "Zoom in", "View", lambda d: d.zoom(1.25), "Ctrl++; Ctrl+=; +"),
    Command("zoom-out", "Zoom out", "View", lambda d: d.zoom(0.8), "Ctrl+-; -"),
    Command("fit", "Fit the floor", "View", lambda d: d.fit(), "F"),
    Command("view-plan", "Plan", "View", lambda d: d.show_view("plan"), "2"),
    Command("view-space", "The shop in space", "View", lambda d: d.show_view("space"), "3"),
    Command("view-both", "Plan and space side by side", "View", lambda d: d.show_view("both"), "4"),
    Command(
        "lanes",
        "Lanes of all machines / of the selected one",
        "View",
        lambda d: d.toggle_lanes(),
        "L",
        _at_machines,
    ),
    Command(
        "pane-machines", "Machine list on / off", "View", lambda d: d.toggle_pane("machines"), "F6"
    ),
    Command("pane-strip", "Strip below on / off", "View", lambda d: d.toggle_pane("strip"), "F7"),
    Command("pane-page", "Page on / off", "View", lambda d: d.toggle_pane("page"), "F8"),
    Command(
        "before",
        "Design before, beside it",
        "View",
        lambda d: d.toggle_before(),
        "5",
        lambda w: w.compared_air is not None,
    ),
    Command("theme", "Light / dark", "View", lambda d: d.toggle_theme(), "Ctrl+L"),
    Command("motion", "Moving air on / off", "View", lambda d: d.toggle_motion(), "Ctrl+M"),
)

DESIGN_COMMANDS = (
    Command(
        "draw-duct", "Draw a duct", "Design", _draw_duct, "D", lambda w: bool(w.project.collectors)
    ),
    Command("lay-ducts", "Lay the ducts", "Design", _ask("ducts"), "Shift+D", _may_lay),
    Command(
        "connect-rest",
        "Connect what is not connected",
        "Design",
        _ask("unconnected"),
        "Ctrl+Shift+D",
        _may_connect,
    ),
    Command(
        "size-ducts",
        "Size the ducts",
        "Design",
        _ask("sizes"),
        "Shift+S",
        lambda w: bool(w.project.runs),
    ),
    Command(
        "place-collector",
        "Find the best place for the collector",
        "Design",
        _ask_place,
        "Shift+W",
        _may_lay,
    ),
    Command(
        "keep-design",
        "Keep this design",
        "Design",
        _keep_design,
        "Ctrl+B",
        lambda w: bool(w.project.runs),
    ),
    Command(
        "new-arrangement",
        "New arrangement",
        "Design",
        _new_arrangement,
        "",
        lambda w: bool(w.project.machines),
    ),
    Command(
        "next-arrangement",
        "Lay out the next arrangement",
        "Design",
        _next_arrangement,
        "Ctrl+Shift+A",
        lambda w: bool(w.project.arrangements),
    ),
    Command(
        "compare-design",
        "Compare with the last design kept",
        "Design",
        _compare,
        "Ctrl+Shift+B",
        _has_kept_design,
    ),
    Command(
        "switch-selected",
        "Switch this machine on / off",
        "Design",
        _switch_selected,
        "Ctrl+Return",
        _machine_selected,
    ),
    Command(
        "next-machine",
        "Switch on the next machine",
        "Design",
        lambda d: _step_machine(d, 1),
        "Ctrl+Down",
        _has_machines,
    ),
    Command(
        "previous-machine",
        "Switch on the previous machine",
        "Design",
        lambda d: _step_machine(d, -1),
        "Ctrl+Up",
        _has_machines,
    ),
    Command(
        "all-off",
        "Switch all machines off",
        "Design",
        lambda d: d.workspace.switch_on(()),
        "0",
        _is_running,
    ),
    Command(
        "count-together",
        "These machines run together",
        "Design",
        _count_together,
        "Ctrl+T",
        lambda w: len(w.running) > 1,
    ),
    Command(
        "criterion", "Clear the chips / catch the fine dust", "Design", _change_criterion, "Ctrl+D"
    ),
    Command("units", "Feet and inches / metric", "Design", _change_units, "Ctrl+U"),
    Command(
        "scale-underlay",
        "Scale the floor plan by two points",
        "Design/Floor plan",
        lambda d: d.underlays.begin_scale(),
        "",
        _has_plan,
    ),
    Command(
        "move-underlay",
        "Move the floor plan",
        "Design/Floor plan",
        lambda d: d.underlays.begin_move(),
        "",
        _has_plan,
    ),
    Command(
        "drop-underlay",
        "Delete the floor plan",
        "Design/Floor plan",
        lambda d: d.underlays.drop(),
        "",
        _has_plan,
    ),
)

TOOLS_COMMANDS = (
    Command(
        "at-machine",
        "At the machine, full screen",
        "Tools",
        lambda d: d.at_machine(),
        "F11",
        _has_machines,
    ),
    Command(
        "switch-panel",
        "Simulate tools and switches",
        "Tools",
        lambda d: d.working.switch_panel(),
        "",
        _has_machines,
    ),
    Command(
        "instrument",
        "Connect an instrument…",
        "Tools",
        lambda d: d.connect_instrument(),
        "",
        _has_ducts,
    ),
    Command("guess", "Guess the effect of a change…", "Tools", lambda d: d.guess(), "", _has_ducts),
    Command("practise", "Fault-finding practice…", "Tools", lambda d: d.practise()),
    Command(
        "keep-machine",
        "Keep this machine for other shops",
        "Tools",
        lambda d: d.keep_machine(),
        "",
        _machine_selected,
    ),
    Command(
        "keep-collector",
        "Keep this collector for other shops",
        "Tools",
        lambda d: d.keep_collector(),
        "Ctrl+Shift+K",
        _has_sized_collector,
    ),
    Command("forget-kept", "Delete one of mine…", "Tools", lambda d: d.forget_kept()),
)

HELP_COMMANDS = (
    Command("guide", "Guide to a first shop", "Help", lambda d: d.workspace.begin_guide()),
    Command("reasons", "Reasons", "Help", lambda d: d.workspace.read("")),
    Command("manual", "Manual", "Help", lambda d: d.show_manual(), "F1"),
    Command("whats-new", "What is new", "Help", lambda d: d.show_manual(NEWS)),
    Command("keys", "Keys and mouse", "Help", lambda d: d.show_keys(), "Ctrl+F1"),
    Command("cautions", "Before you rely on it", "Help", lambda d: d.show_cautions()),
    Command("about", "About Grey Current", "Help", lambda d: d.show_about()),
)

COMMANDS = (
    *FILE_COMMANDS,
    *EDIT_COMMANDS,
    *VIEW_COMMANDS,
    *DESIGN_COMMANDS,
    *TOOLS_COMMANDS,
    *HELP_COMMANDS,
)

# What a context menu offers for each kind of thing; "-" is a line.
CHANGES = ("cut", "copy", "duplicate", "delete")
CONTEXT: dict[str, tuple[str, ...]] = {
    "machine": ("switch-selected", "at-machine", "-", "turn", "-", *CHANGES, "-", "keep-machine"),
    "collector": ("place-collector", "turn", "-", *CHANGES, "-", "keep-collector"),
    "duct": ("draw-duct", "size-ducts", "-", "delete"),
    "building": ("turn", "-", *CHANGES),
    "floor": (
        "draw-duct",
        "lay-ducts",
        "-",
        "paste",
        "select-all",
        "-",
        "fit",
        "zoom-in",
        "zoom-out",
    ),
}


def kind_of_selection(workspace: Workspace) -> str:
    """What is selected, as `CONTEXT` calls it; "floor" for nothing."""
    project, chosen = workspace.project, workspace.selection
    if chosen is None:
        return "floor"
    owner = chosen.split("/")[0]
    if owner in project.machine:
        return "machine"
    if owner in project.collector:
        return "collector"
    if owner in project.run or owner in project.point or owner in project.gate:
        return "duct"
    return "building"

"""Everything that can be done from menu or keyboard, as data: what it is called, when it makes
sense, what it does.

What needs a window is asked of a `Desk`; everything else is done to the workspace.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from grey_current.shop.templates import TEMPLATES
from grey_current.workspace import doing
from grey_current.workspace.desk import Desk
from grey_current.workspace.manual import NEWS
from grey_current.workspace.stages import STAGES
from grey_current.workspace.workspace import Workspace


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
    enabled: Callable[[Workspace], bool] = doing.always

    @property
    def usual_key(self) -> str:
        """The shortcut that is shown."""
        return self.shortcut.split("; ")[0]


def _to_stage(number: int, name: str, title: str) -> Command:
    act = lambda desk: desk.workspace.go(name)  # noqa: E731
    return Command(f"stage-{name}", f"Stage {number}: {title}", "View", act, f"Ctrl+{number}")


def _from_template(name: str, title: str) -> Command:
    return Command(f"new-{name}", title, "File/New from template", lambda d: d.open_template(name))


# The menus. "File/Import" is a submenu of the first.
GROUPS = ("File", "Edit", "View", "Design", "Tools", "Help")

FILE_COMMANDS = (
    Command("open-empty", "New", "File", lambda d: d.open_demo("empty"), "Ctrl+N"),
    Command("new-window", "New window", "File", lambda d: d.new_window(), "Ctrl+Shift+N"),
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
        doing.has_sized_collector,
    ),
    Command(
        "read-prices",
        "Prices…",
        "File/Import",
        lambda d: d.building.read_prices(),
        "",
        doing.has_ducts,
    ),
    Command(
        "read-pieces",
        "Pieces of another shop…",
        "File/Import",
        lambda d: d.building.read_pieces(),
        "",
        doing.has_ducts,
    ),
    Command(
        "read-readings",
        "Readings…",
        "File/Import",
        lambda d: d.keeping.read_readings(),
        "",
        doing.has_ducts,
    ),
    Command("merge-logbook", "Merge a logbook…", "File/Import", lambda d: d.merge_logbook()),
    Command(
        "save-lists",
        "Drawings and lists…",
        "File/Export",
        lambda d: d.building.save_all(),
        "",
        doing.has_ducts,
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
        "save-prices",
        "Prices…",
        "File/Export",
        lambda d: d.building.save_prices(),
        "",
        doing.has_ducts,
    ),
    Command(
        "save-steps",
        "Putting up, step by step…",
        "File/Export",
        lambda d: d.building.save_steps(),
        "",
        doing.has_ducts,
    ),
    Command("share", "Page to share…", "File/Export", lambda d: d.building.share()),
    Command("save-space", "Shop in space…", "File/Export", lambda d: d.building.save_space()),
    Command(
        "cards",
        "Machine cards…",
        "File/Export",
        lambda d: d.working.save_cards(),
        "",
        doing.has_machines,
    ),
    Command(
        "chores",
        "Maintenance calendar…",
        "File/Export",
        lambda d: d.working.save_chores(),
        "",
        doing.has_machines,
    ),
    Command(
        "save-readings",
        "Readings…",
        "File/Export",
        lambda d: d.keeping.save_readings(),
        "",
        doing.has_readings,
    ),
    Command(
        "save-logbook",
        "Logbook…",
        "File/Export",
        lambda d: d.keeping.save_logbook(),
        "",
        doing.has_log,
    ),
    Command(
        "logbook",
        "Logbook…",
        "Tools",
        lambda d: d.keeping.show_logbook(),
        "Ctrl+Shift+L",
        doing.has_log,
    ),
    Command("papers", "Print…", "File", lambda d: d.show_papers(), "Ctrl+P"),
    Command("preferences", "Preferences…", "File", lambda d: d.show_preferences(), "Ctrl+,"),
    Command("quit", "Quit", "File", lambda d: d.close(), "Ctrl+Q"),
)

EDIT_COMMANDS = (
    Command("history", "History…", "Edit", lambda d: d.show_history(), "", doing.has_steps),
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
    Command("cut", "Cut", "Edit", lambda d: d.workspace.cut(), "Ctrl+X", doing.has_selection),
    Command("copy", "Copy", "Edit", lambda d: d.workspace.copy(), "Ctrl+C", doing.has_selection),
    Command(
        "paste", "Paste", "Edit", lambda d: d.workspace.paste(), "Ctrl+V", lambda w: w.can_paste
    ),
    Command("duplicate", "Duplicate", "Edit", doing.duplicate, "", doing.has_selection),
    Command("delete", "Delete", "Edit", lambda d: d.workspace.delete(), "Del", doing.has_selection),
    Command(
        "select-all", "Select all machines", "Edit", doing.select_all, "Ctrl+A", doing.has_machines
    ),
    Command("next-thing", "Select next", "Edit", lambda d: d.workspace.select_next(1), "N"),
    Command(
        "previous-thing",
        "Select previous",
        "Edit",
        lambda d: d.workspace.select_next(-1),
        "Shift+N",
    ),
    Command("deselect", "Cancel, or select nothing", "Edit", doing.deselect, "Esc"),
    Command("turn", "Rotate 90°", "Edit", lambda d: doing.turn(d, 90), "R", doing.has_selection),
    Command(
        "turn-little",
        "Rotate 15°",
        "Edit",
        lambda d: doing.turn(d, 15),
        "Shift+R",
        doing.has_selection,
    ),
    Command(
        "align-x",
        "Align in a column",
        "Edit",
        lambda d: doing.align(d, "x"),
        "Ctrl+Shift+X",
        doing.several_selected,
    ),
    Command(
        "align-y",
        "Align in a row",
        "Edit",
        lambda d: doing.align(d, "y"),
        "Ctrl+Shift+Y",
        doing.several_selected,
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
        doing.at_machines,
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
        "draw-duct",
        "Draw a duct",
        "Design",
        doing.draw_duct,
        "D",
        lambda w: bool(w.project.collectors),
    ),
    Command("lay-ducts", "Lay the ducts", "Design", doing.ask("ducts"), "Shift+D", doing.may_lay),
    Command(
        "connect-rest",
        "Connect what is not connected",
        "Design",
        doing.ask("unconnected"),
        "Ctrl+Shift+D",
        doing.may_connect,
    ),
    Command(
        "size-ducts",
        "Size the ducts",
        "Design",
        doing.ask("sizes"),
        "Shift+S",
        lambda w: bool(w.project.runs),
    ),
    Command(
        "place-collector",
        "Find the best place for the collector",
        "Design",
        doing.ask_place,
        "Shift+W",
        doing.may_lay,
    ),
    Command(
        "keep-design",
        "Keep this design",
        "Design",
        doing.keep_design,
        "Ctrl+B",
        lambda w: bool(w.project.runs),
    ),
    Command(
        "new-arrangement",
        "New arrangement",
        "Design",
        doing.new_arrangement,
        "",
        lambda w: bool(w.project.machines),
    ),
    Command(
        "next-arrangement",
        "Lay out the next arrangement",
        "Design",
        doing.next_arrangement,
        "Ctrl+Shift+A",
        lambda w: bool(w.project.arrangements),
    ),
    Command(
        "compare-design",
        "Compare with the last design kept",
        "Design",
        doing.compare,
        "Ctrl+Shift+B",
        doing.has_kept_design,
    ),
    Command(
        "switch-selected",
        "Switch this machine on / off",
        "Design",
        doing.switch_selected,
        "Ctrl+Return",
        doing.machine_selected,
    ),
    Command(
        "next-machine",
        "Switch on the next machine",
        "Design",
        lambda d: doing.step_machine(d, 1),
        "Ctrl+Down",
        doing.has_machines,
    ),
    Command(
        "previous-machine",
        "Switch on the previous machine",
        "Design",
        lambda d: doing.step_machine(d, -1),
        "Ctrl+Up",
        doing.has_machines,
    ),
    Command(
        "all-off",
        "Switch all machines off",
        "Design",
        lambda d: d.workspace.switch_on(()),
        "0",
        doing.is_running,
    ),
    Command(
        "count-together",
        "These machines run together",
        "Design",
        doing.count_together,
        "Ctrl+T",
        lambda w: len(w.running) > 1,
    ),
    Command(
        "criterion",
        "Clear the chips / catch the fine dust",
        "Design",
        doing.change_criterion,
        "Ctrl+D",
    ),
    Command("units", "Feet and inches / metric", "Design", doing.change_units, "Ctrl+U"),
    Command(
        "scale-underlay",
        "Scale the floor plan by two points",
        "Design/Floor plan",
        lambda d: d.underlays.begin_scale(),
        "",
        doing.has_plan,
    ),
    Command(
        "move-underlay",
        "Move the floor plan",
        "Design/Floor plan",
        lambda d: d.underlays.begin_move(),
        "",
        doing.has_plan,
    ),
    Command(
        "drop-underlay",
        "Delete the floor plan",
        "Design/Floor plan",
        lambda d: d.underlays.drop(),
        "",
        doing.has_plan,
    ),
)

TOOLS_COMMANDS = (
    Command(
        "at-machine",
        "At the machine, full screen",
        "Tools",
        lambda d: d.at_machine(),
        "F11",
        doing.has_machines,
    ),
    Command(
        "switch-panel",
        "Simulate tools and switches",
        "Tools",
        lambda d: d.working.switch_panel(),
        "",
        doing.has_machines,
    ),
    Command(
        "instrument",
        "Connect an instrument…",
        "Tools",
        lambda d: d.connect_instrument(),
        "",
        doing.has_ducts,
    ),
    Command(
        "guess", "Guess the effect of a change…", "Tools", lambda d: d.guess(), "", doing.has_ducts
    ),
    Command("practise", "Fault-finding practice…", "Tools", lambda d: d.practise()),
    Command(
        "keep-machine",
        "Keep this machine for other shops",
        "Tools",
        lambda d: d.keep_machine(),
        "",
        doing.machine_selected,
    ),
    Command(
        "keep-collector",
        "Keep this collector for other shops",
        "Tools",
        lambda d: d.keep_collector(),
        "Ctrl+Shift+K",
        doing.has_sized_collector,
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

"""Everything that can be done from menu or keyboard, as data: what it is called, when it makes
sense, what it does.

What needs a window is asked of a `Desk`; everything else is done to the workspace.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from grey_current.shop import edits, kept_designs
from grey_current.workspace import asking
from grey_current.workspace.desk import Desk
from grey_current.workspace.offering import OfferKind
from grey_current.workspace.placing import Placeable
from grey_current.workspace.stages import STAGES
from grey_current.workspace.workspace import Workspace


def _has_readings(workspace: Workspace) -> bool:
    return bool(workspace.project.keep.readings)


def _has_logbook(workspace: Workspace) -> bool:
    return bool(workspace.project.keep.readings or workspace.project.keep.entries)


def _always(workspace: Workspace) -> bool:
    del workspace
    return True


@dataclass(frozen=True)
class Command:
    """A command: id, title, menu it stands in, what it does, its shortcut, and when it makes sense.

    `act` may raise a `GreyCurrentError`, whose sentence is shown.
    """

    id: str
    title: str
    group: str
    act: Callable[[Desk], object]
    shortcut: str = ""
    enabled: Callable[[Workspace], bool] = _always


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


# -- what they do to the workspace


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
    other = "metric" if desk.workspace.project.settings.units == "us" else "us"
    desk.workspace.edit("Change units", lambda p: edits.with_settings(p, units=other))


def _change_criterion(desk: Desk) -> None:
    now = desk.workspace.project.settings.criterion
    other = "catch fine dust" if now == "clear chips" else "clear chips"
    desk.workspace.edit("Change what air must do", lambda p: edits.with_settings(p, criterion=other))


def _step_machine(desk: Desk, step: int) -> None:
    workspace = desk.workspace
    idents = list(workspace.project.machine)
    now = idents.index(workspace.running[0]) if workspace.running else -1 if step > 0 else 0
    ident = idents[(now + step) % len(idents)]
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


def _keep_design(desk: Desk) -> None:
    desk.workspace.edit("Keep this design", lambda p: kept_designs.kept(p)[0])


def _turn(desk: Desk, degrees: float) -> None:
    chosen = desk.workspace.selected
    desk.workspace.edit("Turn", lambda p: edits.turned(p, chosen, degrees))


def _align(desk: Desk, axis: Literal["x", "y"]) -> None:
    chosen = desk.workspace.selected
    desk.workspace.edit("Align", lambda p: edits.aligned(p, chosen, axis))


def _to_stage(number: int, name: str, title: str) -> Command:
    act = lambda desk: desk.workspace.go(name)  # noqa: E731
    return Command(f"stage-{name}", f"Stage {number}: {title}", "View", act, f"Ctrl+{number}")


GROUPS = ("Shop", "Edit", "View", "Help")

SHOP_COMMANDS = (
    Command("open", "Open…", "Shop", lambda d: d.ask_open(), "Ctrl+O"),
    Command("open-loft", "Open the Net Loft", "Shop", lambda d: d.open_demo("loft")),
    Command("open-allotment", "Open the Allotment Shed", "Shop", lambda d: d.open_demo("allotment")),
    Command("open-empty", "Open an empty shop", "Shop", lambda d: d.open_demo("empty")),
    Command("practise", "Practise finding faults…", "Shop", lambda d: d.practise()),
    Command("guess", "Guess what a change gives…", "Shop", lambda d: d.guess(), "", _has_ducts),
    Command("save", "Save", "Shop", lambda d: d.save(), "Ctrl+S"),
    Command("save-as", "Save as…", "Shop", lambda d: d.save_as(), "Ctrl+Shift+S"),
    Command(
        "read-curve",
        "Read the collector's fan curve from CSV…",
        "Shop",
        lambda d: d.read_curve(),
        enabled=_has_sized_collector,
    ),
    Command(
        "save-chart",
        "Save the match chart as a picture…",
        "Shop",
        lambda d: d.save_chart(),
        enabled=lambda w: w.stage == "collector",
    ),
    Command("papers", "Papers for the shop…", "Shop", lambda d: d.show_papers(), "Ctrl+P", _has_ducts),
    Command("cards", "Cards for the machines…", "Shop", lambda d: d.working.save_cards(), "", _has_machines),
    Command("chores", "Save the chores as a calendar…", "Shop", lambda d: d.working.save_chores(), "", _has_machines),
    Command(
        "save-lists", "Save drawings and lists in a folder…", "Shop", lambda d: d.building.save_all(), "", _has_ducts
    ),
    Command("save-prices", "Save the price list as CSV…", "Shop", lambda d: d.building.save_prices(), "", _has_ducts),
    Command("read-prices", "Read prices from CSV…", "Shop", lambda d: d.building.read_prices(), "", _has_ducts),
    Command(
        "save-readings", "Save the readings as CSV…", "Shop", lambda d: d.keeping.save_readings(), "", _has_readings
    ),
    Command("read-readings", "Read readings from CSV…", "Shop", lambda d: d.keeping.read_readings(), "", _has_ducts),
    Command("instrument", "Connect an instrument…", "Shop", lambda d: d.connect_instrument(), "", _has_ducts),
    Command("save-logbook", "Save the logbook as CSV…", "Shop", lambda d: d.keeping.save_logbook(), "", _has_logbook),
    Command("merge-logbook", "Put in another copy's logbook…", "Shop", lambda d: d.merge_logbook()),
    Command("underlay", "Lay a plan under the drawing…", "Shop", lambda d: d.underlays.choose()),
    Command(
        "scale-underlay", "Scale the plan by two places", "Shop", lambda d: d.underlays.begin_scale(), enabled=_has_plan
    ),
    Command("move-underlay", "Move the plan underneath", "Shop", lambda d: d.underlays.begin_move(), enabled=_has_plan),
    Command("drop-underlay", "Take the plan away", "Shop", lambda d: d.underlays.drop(), enabled=_has_plan),
    Command("quit", "Close", "Shop", lambda d: d.close(), "Ctrl+Q"),
)

EDIT_COMMANDS = (
    Command("undo", "Undo", "Edit", lambda d: d.workspace.undo(), "Ctrl+Z", lambda w: w.undo_label is not None),
    Command("redo", "Redo", "Edit", lambda d: d.workspace.redo(), "Ctrl+Shift+Z", lambda w: w.redo_label is not None),
    Command("draw-duct", "Draw a duct", "Edit", _draw_duct, "D", lambda w: bool(w.project.collectors)),
    Command("lay-ducts", "Lay the ducts", "Edit", _ask("ducts"), "Shift+D", _may_lay),
    Command(
        "connect-rest",
        "Connect what is not connected",
        "Edit",
        _ask("unconnected"),
        "Ctrl+Shift+D",
        lambda w: _may_lay(w) and bool(w.waiting),
    ),
    Command("size-ducts", "Size the ducts", "Edit", _ask("sizes"), "Shift+S", lambda w: bool(w.project.runs)),
    Command("place-collector", "Where should the collector stand?", "Edit", _ask_place, "Shift+W", _may_lay),
    Command("keep-design", "Keep this design", "Edit", _keep_design, "Ctrl+B", lambda w: bool(w.project.runs)),
    Command(
        "compare-design",
        "Compare with the last design kept",
        "Edit",
        _compare,
        "Ctrl+Shift+B",
        lambda w: bool(w.project.kept_designs),
    ),
    Command("copy", "Copy", "Edit", lambda d: d.workspace.copy(), "Ctrl+C", _has_selection),
    Command("cut", "Cut", "Edit", lambda d: d.workspace.cut(), "Ctrl+X", _has_selection),
    Command("paste", "Paste", "Edit", lambda d: d.workspace.paste(), "Ctrl+V", lambda w: w.can_paste),
    Command("delete", "Take away", "Edit", lambda d: d.workspace.delete(), "Del", _has_selection),
    Command(
        "select-all",
        "Select all machines",
        "Edit",
        lambda d: d.workspace.select_all(tuple(d.workspace.project.machine)),
        "Ctrl+A",
        _has_machines,
    ),
    Command("next-thing", "Select the next thing", "Edit", lambda d: d.workspace.select_next(1), "N"),
    Command("previous-thing", "Select the thing before", "Edit", lambda d: d.workspace.select_next(-1), "Shift+N"),
    Command("turn", "Turn by 90°", "Edit", lambda d: _turn(d, 90), "R", _has_selection),
    Command("turn-little", "Turn by 15°", "Edit", lambda d: _turn(d, 15), "Shift+R", _has_selection),
    Command(
        "align-x", "Align on one line, up and down", "Edit", lambda d: _align(d, "x"), "Ctrl+Shift+X", _several_selected
    ),
    Command(
        "align-y",
        "Align on one line, side by side",
        "Edit",
        lambda d: _align(d, "y"),
        "Ctrl+Shift+Y",
        _several_selected,
    ),
    Command(
        "keep-machine",
        "Keep this machine in my catalogue",
        "Edit",
        lambda d: d.keep_machine(),
        "Ctrl+K",
        _machine_selected,
    ),
    Command("forget-kept", "Forget what was kept…", "Edit", lambda d: d.forget_kept()),
    Command(
        "keep-collector",
        "Keep this collector in my catalogue",
        "Edit",
        lambda d: d.keep_collector(),
        "Ctrl+Shift+K",
        _has_sized_collector,
    ),
    Command(
        "count-together",
        "Count what is switched on as working together",
        "Edit",
        _count_together,
        "Ctrl+T",
        lambda w: len(w.running) > 1,
    ),
    Command(
        "all-off",
        "Switch all machines off",
        "Edit",
        lambda d: d.workspace.switch_on(()),
        "0",
        lambda w: bool(w.running),
    ),
    Command("deselect", "Select nothing, or let go", "Edit", _deselect, "Esc"),
    Command("units", "Feet and inches / metric", "Edit", _change_units, "Ctrl+U"),
    Command("criterion", "Clear the chips / catch the fine dust", "Edit", _change_criterion, "Ctrl+D"),
)

VIEW_COMMANDS = (
    *(_to_stage(number, entry.name, entry.title) for number, entry in enumerate(STAGES, 1)),
    Command("fit", "Fit the floor", "View", lambda d: d.fit(), "F"),
    Command("zoom-in", "Closer", "View", lambda d: d.zoom(1.25), "+"),
    Command("zoom-out", "Farther", "View", lambda d: d.zoom(0.8), "-"),
    Command("theme", "Light / dark", "View", lambda d: d.toggle_theme(), "Ctrl+L"),
    Command(
        "lanes", "Lanes of all machines / of the chosen one", "View", lambda d: d.toggle_lanes(), "L", _at_machines
    ),
    Command("at-machine", "At the machine, full screen", "View", lambda d: d.at_machine(), "F11", _has_machines),
    Command(
        "switch-panel", "Tools and switches, simulated", "View", lambda d: d.working.switch_panel(), "", _has_machines
    ),
    Command("motion", "Moving air on / off", "View", lambda d: d.toggle_motion(), "Ctrl+M"),
    Command(
        "next-machine", "Switch on the next machine", "View", lambda d: _step_machine(d, 1), "Ctrl+Down", _has_machines
    ),
    Command(
        "previous-machine",
        "Switch on the machine before",
        "View",
        lambda d: _step_machine(d, -1),
        "Ctrl+Up",
        _has_machines,
    ),
)

HELP_COMMANDS = (
    Command("keys", "Keys and mouse", "Help", lambda d: d.show_keys(), "F1"),
    Command("cautions", "Before you rely on it", "Help", lambda d: d.show_cautions()),
)

COMMANDS = (*SHOP_COMMANDS, *EDIT_COMMANDS, *VIEW_COMMANDS, *HELP_COMMANDS)

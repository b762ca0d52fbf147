"""When commands make sense, and what they do to the workspace."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from grey_current.shop import arrangements, edits, kept_designs
from grey_current.shop.room_edits import in_units
from grey_current.units import System
from grey_current.workspace import asking
from grey_current.workspace.desk import Desk
from grey_current.workspace.offering import OfferKind
from grey_current.workspace.placing import Placeable
from grey_current.workspace.stages import stepped
from grey_current.workspace.workspace import Workspace


def has_readings(workspace: Workspace) -> bool:
    return bool(workspace.project.keep.readings)


def has_log(workspace: Workspace) -> bool:
    return bool(workspace.project.keep.entries or workspace.project.keep.readings)


def has_logbook(workspace: Workspace) -> bool:
    return bool(workspace.project.keep.readings or workspace.project.keep.entries)


def always(workspace: Workspace) -> bool:
    del workspace
    return True


# -- when they make sense


def has_machines(workspace: Workspace) -> bool:
    return bool(workspace.project.machines)


def has_selection(workspace: Workspace) -> bool:
    return bool(workspace.selected)


def several_selected(workspace: Workspace) -> bool:
    return len(workspace.selected) > 1


def machine_selected(workspace: Workspace) -> bool:
    return (workspace.selection or "").split("/")[0] in workspace.project.machine


def has_sized_collector(workspace: Workspace) -> bool:
    return asking.sized_collector(workspace) is not None


def at_machines(workspace: Workspace) -> bool:
    return workspace.stage == "machines" and has_machines(workspace)


def may_lay(workspace: Workspace) -> bool:
    return bool(workspace.project.collectors) and bool(workspace.project.pickup)


def has_ducts(workspace: Workspace) -> bool:
    return bool(workspace.project.runs or workspace.project.collectors)


def has_plan(workspace: Workspace) -> bool:
    return workspace.project.underlay is not None


def may_connect(workspace: Workspace) -> bool:
    return may_lay(workspace) and bool(workspace.waiting)


def has_kept_design(workspace: Workspace) -> bool:
    return bool(workspace.project.kept_designs)


def has_steps(workspace: Workspace) -> bool:
    return len(workspace.steps) > 1


def is_running(workspace: Workspace) -> bool:
    return bool(workspace.running)


# -- what they do to the workspace


def select_all(desk: Desk) -> None:
    desk.workspace.select_all(tuple(desk.workspace.project.machine))


def duplicate(desk: Desk) -> None:
    desk.workspace.copy()
    desk.workspace.paste()


def switch_selected(desk: Desk) -> None:
    machine = (desk.workspace.selection or "").split("/")[0]
    desk.workspace.toggle(machine)


def draw_duct(desk: Desk) -> None:
    desk.workspace.go("air")
    desk.workspace.arm(Placeable("duct", "duct", "Duct"))
    desk.focus_floor()


def deselect(desk: Desk) -> None:
    if desk.cancel():
        return
    if desk.workspace.asked is not None and desk.workspace.selection is None:
        desk.workspace.end_offer()
    desk.workspace.select(None)


def ask(kind: OfferKind) -> Callable[[Desk], None]:
    def act(desk: Desk) -> None:
        desk.workspace.ask_for(kind)
        desk.focus_strip()

    return act


def ask_place(desk: Desk) -> None:
    desk.workspace.ask_for("places", asking.sized_collector(desk.workspace) or "")
    desk.focus_strip()


def change_units(desk: Desk) -> None:
    other: System = "metric" if desk.workspace.project.settings.units == "us" else "us"
    desk.workspace.edit("Change units", lambda p: in_units(p, other))


def change_criterion(desk: Desk) -> None:
    now = desk.workspace.project.settings.criterion
    other = "catch fine dust" if now == "clear chips" else "clear chips"
    desk.workspace.edit(
        "Change what air must do", lambda p: edits.with_settings(p, criterion=other)
    )


def step_machine(desk: Desk, step: int) -> None:
    workspace = desk.workspace
    idents = list(workspace.project.machine)
    ident = stepped(idents, workspace.running[0] if workspace.running else None, step)
    workspace.switch_on((ident,))
    workspace.select(ident)


def count_together(desk: Desk) -> None:
    sets, running = desk.workspace.project.settings.together, desk.workspace.running
    if running not in sets:
        step = "Count machines as working together"
        desk.workspace.edit(step, lambda p: edits.with_settings(p, together=(*sets, running)))


def compare(desk: Desk) -> None:
    """Compare with the design that was kept last, or end the comparison."""
    last = desk.workspace.project.kept_designs[-1].id
    desk.workspace.compare(None if desk.workspace.compared else last)


def new_arrangement(desk: Desk) -> None:
    desk.workspace.edit("Begin an arrangement", lambda p: arrangements.begun(p)[0])


def next_arrangement(desk: Desk) -> None:
    """Lay out the arrangement that comes after the present one, the first after the last."""
    project = desk.workspace.project
    held = [each.id for each in project.arrangements]
    following = held[(held.index(project.arranged or "") + 1) % len(held)]
    name = arrangements.find(project, following).name
    desk.workspace.edit(f"Lay out {name}", lambda p: arrangements.laid_out(p, following))


def keep_design(desk: Desk) -> None:
    desk.workspace.edit("Keep this design", lambda p: kept_designs.kept(p)[0])


def turn(desk: Desk, degrees: float) -> None:
    chosen = desk.workspace.selected
    desk.workspace.edit("Rotate", lambda p: edits.turned(p, chosen, degrees))


def align(desk: Desk, axis: Literal["x", "y"]) -> None:
    chosen = desk.workspace.selected
    desk.workspace.edit("Align", lambda p: edits.aligned(p, chosen, axis))

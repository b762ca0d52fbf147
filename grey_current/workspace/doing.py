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

# -- when they make sense


def has_readings(workspace: Workspace) -> bool:
    """Whether something was read off an instrument."""
    return bool(workspace.project.keep.readings)


def has_log(workspace: Workspace) -> bool:
    """Whether the logbook has a line or a reading."""
    return bool(workspace.project.keep.entries or workspace.project.keep.readings)


def always(workspace: Workspace) -> bool:
    """Whatever is open."""
    del workspace
    return True


def has_machines(workspace: Workspace) -> bool:
    """Whether a machine is there."""
    return bool(workspace.project.machines)


def has_selection(workspace: Workspace) -> bool:
    """Whether something is selected."""
    return bool(workspace.selected)


def several_selected(workspace: Workspace) -> bool:
    """Whether more than one thing is selected."""
    return len(workspace.selected) > 1


def machine_selected(workspace: Workspace) -> bool:
    """Whether a machine, or a pickup of one, is selected."""
    return (workspace.selection or "").split("/")[0] in workspace.project.machine


def has_sized_collector(workspace: Workspace) -> bool:
    """Whether there is a collector that is sized."""
    return asking.sized_collector(workspace) is not None


def at_machines(workspace: Workspace) -> bool:
    """Whether the Machines stage is open, with a machine on its floor."""
    return workspace.stage == "machines" and has_machines(workspace)


def may_lay(workspace: Workspace) -> bool:
    """Whether there is a collector to lay ducts to, and a port to lay them from."""
    return bool(workspace.project.collectors) and bool(workspace.project.pickup)


def has_ducts(workspace: Workspace) -> bool:
    """Whether a duct or a collector is there."""
    return bool(workspace.project.runs or workspace.project.collectors)


def has_plan(workspace: Workspace) -> bool:
    """Whether a floor plan lies under the drawing."""
    return workspace.project.underlay is not None


def may_connect(workspace: Workspace) -> bool:
    """Whether ducts may be laid and a pickup waits for one."""
    return may_lay(workspace) and bool(workspace.waiting)


def has_kept_design(workspace: Workspace) -> bool:
    """Whether a design is kept."""
    return bool(workspace.project.kept_designs)


def has_steps(workspace: Workspace) -> bool:
    """Whether there are steps of putting up."""
    return len(workspace.steps) > 1


def is_running(workspace: Workspace) -> bool:
    """Whether a machine is switched on."""
    return bool(workspace.running)


# -- what they do to the workspace


def select_all(desk: Desk) -> None:
    """Select all machines."""
    desk.workspace.select_all(tuple(desk.workspace.project.machine))


def duplicate(desk: Desk) -> None:
    """Put a copy of what is selected beside it."""
    desk.workspace.copy()
    desk.workspace.paste()


def switch_selected(desk: Desk) -> None:
    """Switch the selected machine on or off."""
    machine = (desk.workspace.selection or "").split("/")[0]
    desk.workspace.toggle(machine)


def draw_duct(desk: Desk) -> None:
    """Begin to draw a duct."""
    desk.workspace.go("air")
    desk.workspace.arm(Placeable("duct", "duct", "Duct"))
    desk.focus_floor()


def deselect(desk: Desk) -> None:
    """Give up what is in hand, else what is offered, else select nothing."""
    if desk.cancel():
        return
    if desk.workspace.asked is not None and desk.workspace.selection is None:
        desk.workspace.end_offer()
    desk.workspace.select(None)


def ask(kind: OfferKind) -> Callable[[Desk], None]:
    """What asks the search for something and goes to its answer."""

    def act(desk: Desk) -> None:
        desk.workspace.ask_for(kind)
        desk.focus_strip()

    return act


def ask_place(desk: Desk) -> None:
    """Ask where the collector should stand."""
    desk.workspace.ask_for("places", asking.sized_collector(desk.workspace) or "")
    desk.focus_strip()


def change_units(desk: Desk) -> None:
    """Show the shop in the other units."""
    other: System = "metric" if desk.workspace.project.settings.units == "us" else "us"
    desk.workspace.edit("Change units", lambda p: in_units(p, other))


def change_criterion(desk: Desk) -> None:
    """Ask for the other thing that air may have to do."""
    now = desk.workspace.project.settings.criterion
    other = "catch fine dust" if now == "clear chips" else "clear chips"
    desk.workspace.edit(
        "Change what air must do", lambda p: edits.with_settings(p, criterion=other)
    )


def step_machine(desk: Desk, step: int) -> None:
    """Switch on the machine so many places on, and no other."""
    workspace = desk.workspace
    idents = list(workspace.project.machine)
    ident = stepped(idents, workspace.running[0] if workspace.running else None, step)
    workspace.switch_on((ident,))
    workspace.select(ident)


def count_together(desk: Desk) -> None:
    """Count what is switched on as working together."""
    sets, running = desk.workspace.project.settings.together, desk.workspace.running
    if running not in sets:
        step = "Count machines as working together"
        desk.workspace.edit(step, lambda p: edits.with_settings(p, together=(*sets, running)))


def compare(desk: Desk) -> None:
    """Compare with the design that was kept last, or end the comparison."""
    last = desk.workspace.project.kept_designs[-1].id
    desk.workspace.compare(None if desk.workspace.compared else last)


def new_arrangement(desk: Desk) -> None:
    """Begin an arrangement of how things stand now."""
    desk.workspace.edit("Begin an arrangement", lambda p: arrangements.begun(p)[0])


def next_arrangement(desk: Desk) -> None:
    """Lay out the arrangement that comes after the present one, the first after the last."""
    project = desk.workspace.project
    held = [each.id for each in project.arrangements]
    following = held[(held.index(project.arranged or "") + 1) % len(held)]
    name = arrangements.find(project, following).name
    desk.workspace.edit(f"Lay out {name}", lambda p: arrangements.laid_out(p, following))


def keep_design(desk: Desk) -> None:
    """Keep the design as it is now."""
    desk.workspace.edit("Keep this design", lambda p: kept_designs.kept(p)[0])


def turn(desk: Desk, degrees: float) -> None:
    """Turn what is selected by an angle (°)."""
    chosen = desk.workspace.selected
    desk.workspace.edit("Rotate", lambda p: edits.turned(p, chosen, degrees))


def align(desk: Desk, axis: Literal["x", "y"]) -> None:
    """Bring what is selected into one line."""
    chosen = desk.workspace.selected
    desk.workspace.edit("Align", lambda p: edits.aligned(p, chosen, axis))

"""Edits of a machine's pickups: added, taken away, and the figures of their intake and capture.
Pure functions.
"""

from __future__ import annotations

import math
from typing import Any

from grey_current.air.fittings import entry, free_intake
from grey_current.errors import InputError
from grey_current.shop.catalogue import chip_fan, local_body, machine_models
from grey_current.shop.duct_graph import branch_segment
from grey_current.shop.edits import changed, checked, removed, with_pickup
from grey_current.shop.machines import Capture, FreeArea, Machine, Measured, Pickup
from grey_current.shop.model import Project

# What can be added to a machine, by kind.
NEW_PICKUPS = {"hood": "Hood", "sweep": "Floor sweep", "port": "Port"}
# m across of a new pickup's port.
# m, of a new pickup's port in inches and in millimetres.
PORT_US, PORT_METRIC = 0.1016, 0.1
# m; a floor sweep's port lies on the floor.
SWEEP_HEIGHT = 0.05
# A hood close behind the work: dust thrown towards it, caught 150 mm before it. Allowance.
HOOD = Capture(distance=0.15, velocity=1.0, area=0.06, flanged=True)
# m/s in the port at which an intake's measurement is made up from its free area.
MEASURED_AT = 20.0
# kg/m³ of the air that such a measurement is counted with.
DENSITY = 1.2
# m²; an intake freer than this has no loss.
MOST_AREA = 4.0
# Times its port's bore that a new pickup's intake is free. Allowance.
TWICE = 2.0


def new_pickup(machine: Machine, kind: str, units: str) -> Pickup:
    """A hood behind the work, a floor sweep beside the machine, or a plain port at its back.

    Raises `InputError` for another kind.
    """
    if kind not in NEW_PICKUPS:
        raise InputError("pickup", kind, f"add one of {', '.join(NEW_PICKUPS)}")
    port = PORT_US if units == "us" else PORT_METRIC
    area = round(TWICE * math.pi / 4 * port**2, 4)
    # Where such a pickup usually is on a machine.
    places: dict[str, dict[str, Any]] = {
        "hood": {"dy": machine.depth / 2, "height": machine.table_height + 0.1, "capture": HOOD},
        "sweep": {"dx": machine.width / 2, "height": SWEEP_HEIGHT},
        "port": {"dy": machine.depth / 2, "height": machine.table_height / 2},
    }
    taken = {pickup.id for pickup in machine.pickups}
    ident = next(i for n in range(1, 100) if (i := kind if n == 1 else f"{kind}-{n}") not in taken)
    count = ident.removeprefix(kind).removeprefix("-")
    name = NEW_PICKUPS[kind] + (f" {count}" if count else "")
    intake = FreeArea(area=HOOD.area if kind == "hood" else area)
    return Pickup(id=ident, name=name, port=port, intake=intake, **places[kind])


def with_new_pickup(project: Project, machine: str, kind: str) -> Project:
    """The project with one more pickup at a machine. Raises `InputError` for an unknown machine or
    kind.
    """
    if machine not in project.machine:
        raise InputError("machine", machine, "choose a machine of this shop")
    item = project.machine[machine]
    return changed(
        project, machine, pickups=(*item.pickups, new_pickup(item, kind, project.settings.units))
    )


def can_have_blade_guard(machine: Machine) -> bool:
    """Whether a guard with a port can stand over a machine's blade: a table saw that has no pickup
    over its table yet.
    """
    kind = machine.kind.lower()
    is_table_saw = machine.cutter == "blade" and "saw" in kind and not machine.feeds_across
    other = any(word in kind for word in ("band", "scroll", "radial", "bench", "mitre", "miter"))
    over = any(p.height > machine.table_height for p in machine.pickups)
    return is_table_saw and not other and not over


def with_blade_guard(project: Project, machine: str) -> tuple[Project, str]:
    """The project with a guard that has a port over a saw's blade, like the catalogue's own, and
    the pickup's reference. Raises `InputError` for an unknown machine.
    """
    if machine not in project.machine:
        raise InputError("machine", machine, "choose a machine of this shop")
    item = project.machine[machine]
    bodies = (local_body(model.body, project.settings.units) for model in machine_models())
    usual = next(p for body in bodies for p in body.pickups if p.id == "over-blade")
    taken = {pickup.id for pickup in item.pickups}
    ident = next(i for n in range(1, 100) if (i := f"guard-{n}" if n > 1 else "guard") not in taken)
    above = usual.height - machine_models()[0].body.table_height
    guard = usual.replaced(
        id=ident, name="Blade guard", dx=0.0, dy=0.0, height=item.table_height + above
    )
    return changed(project, machine, pickups=(*item.pickups, guard)), f"{machine}/{ident}"


def without_pickup(project: Project, ref: str) -> Project:
    """The project without a pickup and without the branch that served only it. Raises `InputError`
    for none.
    """
    if ref not in project.pickup:
        raise InputError("pickup", ref, "choose a pickup of this shop")
    machine, pickup = project.pickup[ref]
    for run in project.runs:
        served = [end for end in run.serves if end != ref]
        # A moved hose goes on serving the others; a hose of its own goes with its branch.
        if ref in run.also_serves or (ref == run.start and run.also_serves):
            project = changed(project, run.id, start=served[0], also_serves=tuple(served[1:]))
        elif ref in run.ends:
            project = removed(project, branch_segment(project, run.id) or [run.id])
            break
    return changed(
        project, machine.id, pickups=tuple(p for p in machine.pickups if p.id != pickup.id)
    )


def with_intake(project: Project, ref: str, by: str) -> Project:
    """The project with a pickup's intake known by its free area, or by one measurement, and the
    same loss.

    Static pressure at the port, ρ/2 (k_free (Q/A)² + (k_entry + 1) v²), from `air.fittings`. Raises
    `InputError` for an unknown pickup or way.
    """
    if by not in ("free area", "measured"):
        raise InputError("intake", by, "say it by its free area or by one measurement")
    _, pickup = project.pickup[ref]
    intake, across = pickup.intake, math.pi / 4 * pickup.port**2
    if by == "measured" and isinstance(intake, FreeArea):
        flow = MEASURED_AT * across
        there = (
            free_intake() * (flow / intake.area) ** 2 + (entry(pickup.opening) + 1) * MEASURED_AT**2
        )
        # The same resistance said in the other way, so that nothing jumps.
        intake = Measured(airflow=flow, static_pressure=DENSITY / 2 * there, density=DENSITY)
    elif by == "free area" and isinstance(intake, Measured):
        velocity = intake.airflow / across
        left = (
            intake.static_pressure * 2 / (intake.density or DENSITY)
            - (entry(pickup.opening) + 1) * velocity**2
        )
        area = intake.airflow * math.sqrt(free_intake() / left) if left > 0 else MOST_AREA
        intake = FreeArea(area=min(area, MOST_AREA))
    return with_pickup(project, ref, intake=intake)


def with_own_fan(project: Project, ref: str, kind: str) -> Project:
    """The project with a pickup's own fan: "none", "own", which helps in a branch, or "bag", which
    blows into a bag of its own.
    """
    now = project.pickup[ref][1].own_fan
    fan = None if kind == "none" else now or chip_fan()
    return with_pickup(project, ref, own_fan=fan, own_bag=kind == "bag")


def with_intake_figure(project: Project, ref: str, **figure: float | None) -> Project:
    """The project with a figure of a pickup's intake changed. Raises `InputError` for one that
    cannot be.
    """
    machine, pickup = project.pickup[ref]
    intake = checked(pickup.intake, f"{machine.name}, {pickup.name.lower()}, intake", figure)
    return with_pickup(project, ref, intake=intake)


def with_capture(project: Project, ref: str, **figure: float | bool | None) -> Project:
    """The project with a figure of where a pickup's dust is released; `capture=None` says that it
    is not known.
    """
    machine, pickup = project.pickup[ref]
    if "capture" in figure:
        return with_pickup(project, ref, capture=figure["capture"])
    made = checked(
        pickup.capture or HOOD, f"{machine.name}, {pickup.name.lower()}, dust", dict(figure)
    )
    return with_pickup(project, ref, capture=made)

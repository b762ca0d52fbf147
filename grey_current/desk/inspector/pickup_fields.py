"""A machine's pickups on its page: every figure of each, and buttons that add one or take one
away.
"""

from __future__ import annotations

import math

from grey_current.air.needs import STANDARD_DENSITY
from grey_current.desk.inspector.fields import (
    ActionField,
    Changed,
    ChoiceField,
    Fact,
    Item,
    Section,
    TextField,
    length_field,
    measured_field,
    number_field,
    offset_field,
    yes_no,
)
from grey_current.shop import edits
from grey_current.shop.machines import FreeArea, Machine, Pickup
from grey_current.shop.model import Project
from grey_current.shop.pickup_edits import (
    NEW_PICKUPS,
    with_capture,
    with_intake,
    with_intake_figure,
    with_new_pickup,
    with_own_fan,
    without_pickup,
)
from grey_current.units import FPM, INCH
from grey_current.work.day_tasks import TURN_SECONDS
from grey_current.workspace.workspace import Workspace

OWN_FANS = (("none", "none"), ("own", "a chip fan"), ("bag", "a chip fan, into its own bag"))
PORT_ENDS = (
    ("spigot", "a spigot: pipe or hose goes over it"),
    ("socket", "a socket: pipe goes into it"),
)
OPENINGS = (
    ("plain", "plain"),
    ("flanged", "flanged"),
    ("tapered", "tapered"),
    ("bell", "bell mouth"),
)
INTAKES = (("free area", "free area"), ("measured", "one measurement"))
STEP = "Change the pickup"


def pickup_sections(workspace: Workspace, machine: Machine) -> tuple[Section, ...]:
    """Each pickup, then what can be added."""
    project = workspace.project
    return (*(_section(project, machine, pickup) for pickup in machine.pickups), _new(machine))


def _new(machine: Machine) -> Section:
    items: list[Item] = [
        ActionField(
            f"{machine.id}/add-{kind}",
            f"Add a {name.lower()}",
            step=f"Add a {name.lower()}",
            edit=lambda p, kind=kind: with_new_pickup(p, machine.id, kind),  # type: ignore[misc]
        )
        for kind, name in NEW_PICKUPS.items()
    ]
    if len(machine.pickups) > 1:
        words = ("one at a time", "all at once")
        items.append(
            yes_no(machine.id, "one_at_a_time", "Pickups work", machine.one_at_a_time, words)
        )
        if machine.one_at_a_time:
            items.append(_turning_over(machine))
    return Section("Pickups", tuple(items))


def _turning_over(machine: Machine) -> TextField:
    seconds = TURN_SECONDS if machine.turn_over is None else machine.turn_over
    return number_field(
        f"{machine.id}/turn_over",
        "Turning over takes",
        seconds,
        edit=lambda p, v: edits.changed(p, machine.id, turn_over=v),
        unit="s",
    )


def _section(project: Project, machine: Machine, pickup: Pickup) -> Section:
    ref = f"{machine.id}/{pickup.id}"
    fan = ChoiceField(
        f"{ref}/fan",
        "Own fan",
        ("bag" if pickup.own_bag else "own") if pickup.own_fan else "none",
        OWN_FANS,
        step=STEP,
        edit=lambda p, v: with_own_fan(p, ref, v),
    )
    items: list[Item] = [
        TextField(
            f"{ref}/name",
            "Name",
            pickup.name,
            step="Rename",
            read=str,
            edit=lambda p, v: edits.with_pickup(p, ref, name=v),
        ),
        _length(project, ref, "port", "Port across", pickup.port),
        ChoiceField(
            f"{ref}/port-end",
            "It ends in",
            pickup.port_end,
            PORT_ENDS,
            step=STEP,
            edit=lambda p, v: edits.with_pickup(p, ref, port_end=v),
        ),
        _length(project, ref, "height", "Port height", pickup.height),
        _offset(project, ref, "dx", "Right of middle", pickup.dx),
        _offset(project, ref, "dy", "Behind middle", pickup.dy),
        ChoiceField(
            f"{ref}/opening",
            "Opens",
            pickup.opening,
            OPENINGS,
            step=STEP,
            edit=lambda p, v: edits.with_pickup(p, ref, opening=v),
        ),
        *_intake(project, ref, pickup),
        *_capture(project, ref, pickup),
        fan,
        ChoiceField(
            f"{ref}/tilts",
            "Its port",
            "moves" if pickup.tilts else "stays",
            (("stays", "stays still"), ("moves", "moves with it")),
            step=STEP,
            edit=lambda p, v: edits.with_pickup(p, ref, tilts=v == "moves"),
        ),
    ]
    if pickup.tilts:
        items.append(Fact("", "End a hose here, not a duct."))
    items.append(
        ActionField(
            f"{ref}/remove",
            "Delete this pickup",
            step="Delete a pickup",
            edit=lambda p: without_pickup(p, ref),
        )
    )
    return Section(f"Pickup: {pickup.name.lower()}", tuple(items))


def _length(project: Project, ref: str, field: str, label: str, value: float) -> TextField:
    return length_field(
        project,
        f"{ref}/{field}",
        label,
        value,
        edit=lambda p, v: edits.with_pickup(p, ref, **{field: v}),
        step=STEP,
    )


def _offset(project: Project, ref: str, field: str, label: str, value: float) -> TextField:
    return offset_field(
        project,
        f"{ref}/{field}",
        label,
        value,
        edit=lambda p, v: edits.with_pickup(p, ref, **{field: v}),
        step=STEP,
    )


def _intake(project: Project, ref: str, pickup: Pickup) -> list[Item]:
    """How freely air comes in before the port: by area, or by one measurement."""
    intake = pickup.intake
    way = ChoiceField(
        f"{ref}/intake",
        "Intake by",
        intake.by,
        INTAKES,
        step=STEP,
        edit=lambda p, v: with_intake(p, ref, v),
    )
    if isinstance(intake, FreeArea):
        return [
            way,
            area_field(project, f"{ref}/area", "Free area", intake.area, _figure(ref, "area")),
        ]
    return [
        way,
        measured_field(
            "airflow",
            project,
            f"{ref}/measured-airflow",
            "It draws",
            intake.airflow,
            _figure(ref, "airflow"),
            STEP,
        ),
        measured_field(
            "pressure",
            project,
            f"{ref}/measured-pressure",
            "At a suction of",
            intake.static_pressure,
            _figure(ref, "static_pressure"),
            STEP,
        ),
        ChoiceField(
            f"{ref}/measured-in",
            "Measured in",
            "here" if intake.density is None else "standard",
            (("here", "this shop's air"), ("standard", "standard air")),
            step=STEP,
            edit=lambda p, v: with_intake_figure(
                p, ref, density=None if v == "here" else STANDARD_DENSITY
            ),
        ),
    ]


def _figure(ref: str, field: str) -> Changed:
    return lambda p, v: with_intake_figure(p, ref, **{field: v})


def _capture(project: Project, ref: str, pickup: Pickup) -> list[Item]:
    """Where dust is released before the opening, which fine dust is caught by."""
    known = ChoiceField(
        f"{ref}/captures",
        "Fine dust",
        "known" if pickup.capture else "unknown",
        (("unknown", "not said"), ("known", "released near it")),
        step=STEP,
        edit=lambda p, v: (
            with_capture(p, ref, capture=None) if v == "unknown" else with_capture(p, ref)
        ),
    )
    if pickup.capture is None:
        return [known]

    def figure(field: str) -> Changed:
        return lambda p, v: with_capture(p, ref, **{field: v})

    c, us = pickup.capture, project.settings.units == "us"
    unit, size = ("fpm", FPM) if us else ("m/s", 1.0)
    return [
        known,
        length_field(
            project,
            f"{ref}/distance",
            "Off its opening",
            c.distance,
            edit=lambda p, v: with_capture(p, ref, distance=v),
            step=STEP,
        ),
        number_field(
            f"{ref}/velocity",
            "Caught from",
            round(c.velocity / size, 0 if us else 2),
            edit=lambda p, v: with_capture(p, ref, velocity=v * size),
            unit=unit,
        ),
        area_field(project, f"{ref}/mouth", "Opening", c.area, figure("area")),
        ChoiceField(
            f"{ref}/flanged",
            "Round it",
            "flanged" if c.flanged else "open",
            (("open", "nothing"), ("flanged", "a flange")),
            step=STEP,
            edit=lambda p, v: with_capture(p, ref, flanged=v == "flanged"),
        ),
    ]


def area_field(project: Project, key: str, label: str, value: float, edit: Changed) -> TextField:
    """An area, in square inches or square centimetres."""
    unit, size = ("sq in", INCH**2) if project.settings.units == "us" else ("cm²", 1e-4)
    shown = value / size
    digits = max(0, 3 - math.ceil(math.log10(shown))) if shown > 0 else 0
    return number_field(
        key, label, round(shown, digits), edit=lambda p, v: edit(p, v * size), unit=unit
    )

"""A collector where it stands: does it fit, what it draws, how loud it is, where its air goes."""

from __future__ import annotations

from grey_current.air.fittings import INLET_DIAMETERS
from grey_current.design.collector.fit import (
    days_to_empty,
    fit,
    litres_a_week,
    straight_before_inlet,
)
from grey_current.design.collector.make_up_air import (
    DEPRESSION,
    area_back,
    make_up_air,
    most_depression,
)
from grey_current.design.collector.noise import WALLS, at_machine
from grey_current.design.findings.collectors import NARROW
from grey_current.design.flow.fittings import LEAKS
from grey_current.design.space.reached import service_blocked
from grey_current.design.supply.circuits import STARTS_AT, draw, supply_troubles, worst_load
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Section,
    TextField,
    choice,
    lead_field,
    measured_field,
    number_field,
    yes_no,
)
from grey_current.desk.inspector.machine_page import service_field
from grey_current.desk.inspector.reason_fields import why_button
from grey_current.errors import InputError
from grey_current.numerals import compact, decimal
from grey_current.shop import edits
from grey_current.shop.collector_edits import standing, with_bin, with_motor
from grey_current.shop.collectors import Collector
from grey_current.shop.names import called
from grey_current.units import Display, parse_number
from grey_current.workspace.workspace import Workspace

NO_OPENING = "none entered"


def fit_section(workspace: Workspace, item: Collector) -> Section:
    """Whether it fits under what is above it, and whether bin and filter can be reached."""
    project, display = workspace.project, Display(workspace.project.settings.units)
    found = fit(project, item)
    over = "the ceiling" if found.by == "ceiling" else called(project, found.by)
    items: list[Item] = [
        Fact("Height", display.length(item.height)),
        Fact(f"Under {over}", display.length(found.above)),
        Fact(
            "Room over it", display.length(found.spare), "good" if found.spare >= 0 else "starved"
        ),
    ]
    if found.bin is not None:
        items.append(
            ActionField(
                f"{item.id}/smaller-bin",
                f"Use a {display.volume(found.bin.volume * 1000)} bin",
                step="Change the bin",
                edit=lambda p: with_bin(p, item.id, found.bin, lower=True),
                detail=f"{display.length(found.bin.height)} high",
            )
        )
    if found.cut:
        items.append(Fact("", f"Or cut {display.length(found.cut)} off its stand."))
    straight = straight_before_inlet(project, item)
    if straight is not None:
        wanted = INLET_DIAMETERS * item.duct_inlet
        state = "good" if straight >= wanted - 5e-3 else "short"
        items.append(
            Fact(
                "Straight before inlet",
                f"{display.about(straight)} of {display.about(wanted)}",
                state,
            )
        )
    # By the uses a week that the machines say.
    days = days_to_empty(project, item)
    if days is not None:
        items.append(
            Fact("Chips", f"about {display.volume(litres_a_week(project, item.id))} a week")
        )
        items.append(
            Fact(
                "Empty the bin",
                f"every {days:.0f} days" if days >= 2 else f"every {days * 24:.0f} hours",
            )
        )
    blocked = service_blocked(workspace.space, item)
    reached = " and ".join(f"{side} by {called(project, other)}" for side, other in blocked)
    items.append(
        Fact(
            "Bin and filter",
            f"blocked at the {reached}" if blocked else "can be reached",
            "short" if blocked else "good",
        )
    )
    items.append(service_field(item))
    items += why_button(workspace, item.id, "empty-alone")
    fits = "" if found.spare >= 0 and not blocked else "look here"
    return Section("Does it fit?", tuple(items), summary=fits)


def power(workspace: Workspace, item: Collector) -> Section:
    """What it draws, on which circuit."""
    project = workspace.project
    taken = draw(project, item)
    circuits = (("", "the nearest outlet's"), *((c.id, c.name) for c in project.circuits))
    items: list[Item] = [
        measured_field(
            "power",
            project,
            f"{item.id}/motor",
            "Motor",
            item.motor.power if item.motor else 0.0,
            edit=lambda p, v: with_motor(p, item.id, v),
        )
    ]
    if taken is not None:
        about = "about " if taken.estimated else ""
        items.append(
            Fact("Draws", f"{about}{decimal(taken.amps, 1)} A at {compact(taken.volts)} V")
        )
        items.append(Fact("For a moment, starting", f"about {taken.amps * STARTS_AT:.0f} A"))
    items.append(lead_field(project, item))
    if project.circuits:
        items.append(
            ChoiceField(
                f"{item.id}/circuit",
                "Circuit",
                item.circuit or "",
                circuits,
                step="Change the circuit",
                edit=lambda p, v: edits.changed(p, item.id, circuit=v or None),
            )
        )
        items += _on_circuit(workspace, item)
    else:
        items.append(Fact("", "Put outlets in at stage 1 to check its circuit."))
    items.append(
        yes_no(
            item.id, "auto_start", "Starts", item.auto_start, ("with the tool's current", "by hand")
        )
    )
    items.append(
        number_field(
            f"{item.id}/run-on",
            "Runs on for",
            item.run_on,
            edit=lambda p, v: edits.changed(p, item.id, run_on=v),
            unit="s",
        )
    )
    items += why_button(workspace, item.id, "remote-switch")
    items.append(Fact("", "Mains wiring: a licensed electrician and the local code."))
    load = worst_load(project, item.id)
    summary = "" if load is None or load.fits else "look here"
    return Section("Power", tuple(items), summary=summary)


def _on_circuit(workspace: Workspace, item: Collector) -> list[Item]:
    """What its circuit bears when most of what shares it works, and whether it can be plugged in at
    all.
    """
    project, names = workspace.project, workspace.computed.names
    found: list[Item] = []
    worst = worst_load(project, item.id)
    if worst is not None:
        others = [names.of(other) for other in worst.items if other != item.id]
        label = f"With {' and '.join(others)}" if others else "Alone"
        words = f"{worst.amps:.0f} A of {worst.allowed:.0f} A"
        found.append(Fact(label, words, "good" if worst.fits else "starved"))
    trouble = next((t for t in supply_troubles(project) if t.element == item.id), None)
    if trouble is not None:
        found.append(
            Fact("", f"No outlet of {compact(trouble.volts)} V is where it is plugged in.")
        )
    return found


def noise(workspace: Workspace, item: Collector) -> Section:
    """How loud it is where people stand."""
    project = workspace.project
    stands = (
        ("in the room", "in the room"),
        ("boxed in", "boxed in"),
        ("next room", "in the next room"),
        ("outdoors", "outdoors"),
    )
    units = workspace.project.settings.units
    items: list[Item] = [
        ChoiceField(
            f"{item.id}/stands",
            "It stands",
            item.stands,
            stands,
            step="Change where it stands",
            edit=lambda p, v: standing(p, item.id, v),
        ),
        number_field(
            f"{item.id}/noise",
            f"At {'3 ft' if Display(units).us else '1 m'}, in the open",
            item.noise or 0.0,
            edit=lambda p, v: edits.changed(p, item.id, noise=v or None),
            unit="dB(A)",
        ),
    ]
    heard = [
        (loud, m.name)
        for m in project.machines
        if (loud := at_machine(project, item, m)) is not None
    ]
    if heard:
        loud, name = max(heard, key=lambda pair: pair[0].level)
        state = "short" if loud.needs_protection else "good"
        items.append(
            Fact(f"At the {name.lower()}", f"{loud.level:.0f} ± {loud.band:.0f} dB(A)", state)
        )
        # As much less as a wall more takes off.
        behind = max(loud.level - (WALLS["next room"] - WALLS[item.stands]), 0.0)
        if item.stands in ("in the room", "boxed in"):
            items.append(Fact("Behind a wall", f"{behind:.0f} ± {loud.band:.0f} dB(A)"))
        items += why_button(workspace, item.id, "noise-next-door")
        items.append(Fact("", "The machine itself is often louder: wear hearing protection."))
    loudest = max((loud.level for loud, _ in heard), default=None)
    summary = "" if loudest is None else f"{loudest:.0f} dB(A)"
    return Section("Noise", tuple(items), summary=summary)


def _opening_field(item: Collector, display: Display) -> TextField:
    """The opening that its air comes back through; without one the building's own gaps count."""
    one, unit = display.area_unit

    def read(text: str) -> float | None:
        bare = text.strip().lower().removesuffix(unit).strip()
        if bare in ("", "0", NO_OPENING):
            return None
        try:
            return parse_number(bare) * one
        except ValueError:
            raise InputError(
                "Opening", text, f"write its free area such as 400 {unit}, or {NO_OPENING}"
            ) from None

    return TextField(
        f"{item.id}/opening",
        "Opening has",
        NO_OPENING if item.opening is None else display.area(item.opening),
        step="Change the opening",
        read=read,
        edit=lambda p, v: edits.changed(p, item.id, opening=v),
    )


def air(workspace: Workspace, item: Collector) -> Section:
    """Where its air goes, and through which opening it comes back."""
    project, display = workspace.project, Display(workspace.project.settings.units)
    airflow = workspace.assessment.most_airflow(item.id)
    outlets = (("into the shop", "back into the shop"), ("outdoors", "outdoors"))
    items: list[Item] = [choice(item.id, "exhausts", "It blows", item.exhausts, outlets)]
    outdoors = item.exhausts == "outdoors"
    if item.stands == "outdoors" and not outdoors:
        items.append(
            Fact("", "Its air comes back through a duct of its own; without one it blows outdoors.")
        )
    if outdoors or item.stands != "in the room":
        wanted = make_up_air(project, item, airflow, workspace.assessment.air)
        items.append(_opening_field(item, display))
        if item.opening is None:
            items.append(
                Fact("", f"The building's own gaps count, about {display.area(LEAKS)} (allowance).")
            )
        enough = area_back(item) >= NARROW * wanted.opening
        items.append(Fact("It wants", display.area(wanted.opening), "good" if enough else "short"))
        pulled = most_depression(workspace.assessment, item.id)
        items.append(
            Fact(
                "Shop's pressure",
                display.pressure(-pulled),
                "good" if pulled <= DEPRESSION else "short",
            )
        )
        if item.stands == "boxed in" and airflow:
            items.append(Fact("Air leaves the box", f"{display.warmer(wanted.warmth)} warmer"))
        if outdoors:
            items.append(
                measured_field(
                    "temperature",
                    project,
                    "outside",
                    "Winter outdoors",
                    project.settings.outside,
                    edit=lambda p, v: edits.with_settings(p, outside=v),
                )
            )
            items.append(
                Fact("Heat blown out", f"{decimal(wanted.heat / 1000, 1)} kW while it runs")
            )
            items.append(Fact("In a heating season", f"about {wanted.season:.0f} kWh"))
        if wanted.flue:
            items.append(
                Fact("", "Something burns in this shop: its flue gases can be pulled in and kill.")
            )
    if airflow:
        items.append(Fact("Most air through it", display.airflow(airflow)))
    items += why_button(workspace, "air-goes", "indoors-or-outdoors")
    return Section("Where its air goes", tuple(items))

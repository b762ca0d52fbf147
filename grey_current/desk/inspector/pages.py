"""What the inspector says about each kind of thing, as plain values: facts, fields and findings."""

from __future__ import annotations

from grey_current.design.findings.finding import of_element
from grey_current.design.flow.losses import largest_losses
from grey_current.design.flow.scenarios import need
from grey_current.design.space.routing import connected
from grey_current.design.words import state_word
from grey_current.desk.inspector.collector_page import collector_page
from grey_current.desk.inspector.duct_pages import drawing_page, duct_page
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Section,
    TextField,
    altitude_field,
    capital,
    number_field,
    wish_field,
)
from grey_current.desk.inspector.improvement_fields import machine_help, shop_help
from grey_current.desk.inspector.kept_design_fields import kept_designs_section
from grey_current.desk.inspector.machine_page import machine_page
from grey_current.desk.inspector.shop_pages import shop_page
from grey_current.shop import edits
from grey_current.shop.catalogue import materials
from grey_current.shop.duct_parts import with_second_hose
from grey_current.shop.edits import Edit
from grey_current.shop.model import Collector, Machine, Project
from grey_current.units import Display, parse_airflow
from grey_current.workspace.guide import stage_findings
from grey_current.workspace.workspace import Workspace

MOST_LOSSES = 6


def page(workspace: Workspace) -> Page:
    """The page for what is selected at this stage of the work, or for the shop."""
    project = workspace.project
    chosen = workspace.selection
    if workspace.placing is not None and workspace.placing.kind == "duct":
        return drawing_page(workspace)
    if workspace.stage == "shop" and (made := shop_page(workspace)) is not None:
        return made
    if workspace.stage == "collector" and (chosen is None or chosen in project.collector):
        return collector_page(workspace)
    if chosen is None:
        return _shop_page(workspace)
    owner = chosen.split("/")[0]
    if owner in project.machine:
        return (machine_page if workspace.stage == "machines" else _machine_page)(workspace, project.machine[owner])
    found = tuple(of_element(workspace.known_findings, project, chosen))
    item = project.find(chosen)
    if isinstance(item, Collector):
        return collector_page(workspace)
    if (made := duct_page(workspace, item, found)) is not None:
        return made
    return shop_page(workspace) or _shop_page(workspace)


# -- the shop


def _shop_page(workspace: Workspace) -> Page:
    project = workspace.project
    s = project.settings
    display = Display(s.units)
    settings = Section(
        "How this shop counts",
        (
            ChoiceField(
                "units",
                "Units",
                s.units,
                (("us", "Feet, inches, CFM"), ("metric", "Metric, m³/h")),
                "Change units",
                lambda v: lambda p: edits.with_settings(p, units=v),
            ),
            ChoiceField(
                "criterion",
                "Air must",
                s.criterion,
                (("clear chips", "clear the chips"), ("catch fine dust", "catch the fine dust")),
                "Change what air must do",
                lambda v: lambda p: edits.with_settings(p, criterion=v),
            ),
            altitude_field(project),
            number_field(
                "temperature",
                "Temperature",
                s.temperature,
                lambda v: lambda p: edits.with_settings(p, temperature=v),
                "°C",
            ),
        ),
    )
    count = Section(
        "In it",
        (
            Fact("Ceiling", display.length(project.rooms[0].ceiling)),
            Fact("Machines", str(len(project.machines))),
            Fact("Runs of duct and hose", str(len(project.runs))),
            Fact("Air density", f"{workspace.assessment.air.density:.2f} kg/m³"),
        ),
    )
    caution = (
        "Estimates for planning, not a certificate. Fine wood dust harms lungs: wear a respirator for what "
        "the hoods miss."
    )
    subtitle = "Nothing is selected. Click anything on the floor."
    if workspace.stage == "machines":
        settings = Section("What it is for", (wish_field(project),))
    sections: tuple[Section, ...] = (settings, count)
    if workspace.stage in ("air", "gates"):
        sections = (*shop_help(workspace), kept_designs_section(workspace), settings, count)
    return Page(project.name, subtitle, sections, stage_findings(workspace), caution)


# -- a machine


def _machine_page(workspace: Workspace, machine: Machine) -> Page:
    project = workspace.project
    display = Display(project.settings.units)
    running = machine.id in workspace.running
    answer = workspace.scenario if running else workspace.assessment.of_machine.get(machine.id)
    sections = []
    for pickup in machine.pickups:
        asked = need(pickup, project.settings)
        air = (
            next((p for p in answer.pickups if (p.machine, p.pickup) == (machine.id, pickup.id)), None)
            if answer
            else None
        )
        items: list[Item] = []
        if air is None or air.leaf is None:
            items.append(Fact("Air", "not connected", "starved"))
            items.extend(_connect_fields(workspace.project, machine, pickup.id))
        else:
            items.append(Fact("Air", display.airflow(air.airflow), state_word(air.share)))
        items.append(_need_field(machine, pickup.id, display.airflow(asked.airflow), project))
        items.append(Fact("", asked.reason))
        items.append(Fact("Port", display.diameter(pickup.port)))
        sections.append(Section(pickup.name, tuple(items)))
    if answer and answer.converged and answer.worst and answer.worst.machine == machine.id:
        taken = largest_losses(project, answer, answer.worst)[:MOST_LOSSES]
        lines = tuple(Fact(capital(t.words), display.pressure(t.loss)) for t in taken)
        name = next(p.name for p in machine.pickups if p.id == answer.worst.pickup)
        where = f" from the {name.lower()}" if len(machine.pickups) > 1 else ""
        sections.append(Section(f"Where the suction goes{where}", lines))
    sections[:0] = machine_help(workspace, machine)
    subtitle = f"{machine.kind}. Drag it on the floor, or nudge it with the arrow keys."
    found = tuple(of_element(workspace.known_findings, project, machine.id))
    caution = "Unplug before reaching into the machine or its hood." if machine.pickups else ""
    return Page(machine.name, subtitle, tuple(sections), found, caution)


def _connect_fields(project: Project, machine: Machine, pickup: str) -> list[ActionField]:
    """Ways to connect a pickup: to the nearest main, to another system's, or by a second hose from its own drop."""
    ref, name = f"{machine.id}/{pickup}", machine.name.lower()
    fields: list[ActionField] = []
    if _has_hose(project, machine):
        fields.append(
            ActionField(
                f"{ref}/second-hose",
                "Connect it by a second hose",
                f"Connect the {name}",
                lambda: lambda p: with_second_hose(p, ref),
                "from a splitter where the first one begins",
            )
        )
    fields.append(
        ActionField(
            f"{ref}/connect", "Connect it to the main", f"Connect the {name}", lambda: lambda p: connected(p, ref)
        )
    )
    piped = [c for c in project.collectors if any(c.id in (r.start, r.end) for r in project.runs)]
    return fields + [_connect_to(ref, name, collector) for collector in piped if len(piped) > 1]


def _has_hose(project: Project, machine: Machine) -> bool:
    return any(materials()[r.material].hose and r.start.startswith(f"{machine.id}/") for r in project.runs)


def _connect_to(ref: str, name: str, collector: Collector) -> ActionField:
    return ActionField(
        f"{ref}/connect-{collector.id}",
        f"Connect it to {collector.name}",
        f"Connect the {name}",
        lambda: lambda p: connected(p, ref, collector.id),
    )


def _need_field(machine: Machine, pickup: str, value: str, project: Project) -> TextField:
    def edit(text: str) -> Edit:
        airflow = parse_airflow(text, project.settings.units, f"{machine.name}, airflow needed")

        return lambda p: edits.with_pickup(p, f"{machine.id}/{pickup}", need=airflow)

    return TextField(f"{machine.id}/{pickup}/need", "Needs", value, "Change the need", edit)

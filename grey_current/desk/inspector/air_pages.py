"""Pages of the Air and Gates stages: the whole shop's air, and one machine's."""

from __future__ import annotations

from grey_current.design.findings.finding import of_element
from grey_current.design.flow.assessment import PickupAir, ScenarioAir
from grey_current.design.flow.losses import largest_losses
from grey_current.design.flow.scenarios import need, scenario_of
from grey_current.design.flow.states import machine_state
from grey_current.design.judgement import judged_pickups
from grey_current.design.parts.connecting import connected
from grey_current.design.words import how_many_get, state_word
from grey_current.desk.inspector.cause_fields import with_explained
from grey_current.desk.inspector.fields import (
    ActionField,
    Fact,
    Item,
    Page,
    Section,
    TextField,
    measured_field,
)
from grey_current.desk.inspector.improvement_fields import machine_help, shop_help
from grey_current.desk.inspector.kept_design_fields import kept_designs_section
from grey_current.desk.inspector.laying_fields import ask_section, laying_sections
from grey_current.desk.inspector.overview_page import overview, settings_section
from grey_current.shop import edits
from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import Collector
from grey_current.shop.fitting_edits import with_second_hose
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.names import capital
from grey_current.spelling import localised
from grey_current.units import Display
from grey_current.workspace.jobs import HelpMachine, HelpShop
from grey_current.workspace.workspace import Workspace

MOST_LOSSES = 6


def stage_page(workspace: Workspace) -> Page | None:
    """The stages' own page: the whole shop, when nothing is selected."""
    if workspace.selection is not None:
        return None
    kept = (kept_designs_section(workspace), settings_section(workspace))
    if workspace.stage == "gates":
        return overview(workspace, kept, _gates_answer(workspace.project))
    # Machines that wait for a duct come first; else the cause of what is amiss does.
    if workspace.offers_to_lay:
        sections = (*laying_sections(workspace), *shop_help(workspace), *kept)
    else:
        sections = (*shop_help(workspace), *ask_section(workspace), *kept)
    page = overview(workspace, sections, _air_answer(workspace))
    return with_explained(workspace, HelpShop(), page)


def _gates_answer(project: Project) -> str:
    """How many gates there are, and whether any is not where it belongs."""
    gates = project.gates
    if not gates:
        return "No gates yet: everything that is connected shares the air."
    count = "1 gate" if len(gates) == 1 else f"{len(gates)} gates"
    left = [gate for gate in gates if gate.rule == "left open"]
    if not left:
        return f"{count}; none is left open."
    return f"{count}; {len(left)} left open, taking air from every machine."


def _air_answer(workspace: Workspace) -> str:
    """How many machines get their air when each runs alone, whatever runs now, and of how many the
    chips are carried too: those that an offer calls served.
    """
    answers = workspace.assessment.asking.values()
    reached = [a for a in answers if a.converged and any(p.leaf is not None for p in a.pickups)]
    if not reached:
        return "No machine has air yet."
    met = [answer for answer in reached if answer.met]
    served = [
        answer
        for answer in met
        if all(pickup.carried for _, pickup in judged_pickups(workspace.project, answer))
    ]
    words = f"{how_many_get(len(met), len(answers))} enough air"
    words += ", each alone" if len(answers) > 1 else ""
    if len(served) == len(met):
        return f"{words}."
    return f"{words}; chips are carried all the way for {len(served) or 'none'}."


def machine_page(workspace: Workspace, machine: Machine) -> Page:
    """The page of a machine: what each pickup gets, where the suction goes, what would help."""
    project = workspace.project
    display = Display(project.settings.units)
    running = machine.id in workspace.running
    # While it runs, the figures of what runs; else those of it alone.
    answer = workspace.scenario if running else workspace.assessment.of_machine.get(machine.id)
    sections = []
    for pickup in machine.pickups:
        asked = need(pickup, project.settings)
        air = _air_at(workspace, answer, machine, pickup.id)
        items: list[Item] = []
        if air is not None and air.by_itself:
            own = f"{display.airflow(air.airflow)}, into its own bag"
            items.append(Fact("Air", own, state_word(air.share)))
            items.extend(_connect_fields(workspace.project, machine, pickup.id))
        elif air is None or air.leaf is None:
            left = f"{machine.id}/{pickup.id}" in project.moved_to
            words = "none: the hose is at its other port" if left else "not connected"
            items.append(Fact("Air", words, "starved"))
            items.extend(_connect_fields(workspace.project, machine, pickup.id))
        else:
            items.append(Fact("Air", display.airflow(air.airflow), state_word(air.share)))
        items.append(_need_field(machine, pickup.id, asked.airflow, project))
        items.append(Fact("", asked.reason))
        items.append(Fact("Port", display.diameter(pickup.port)))
        if machine.one_at_a_time and len(machine.pickups) > 1:
            items.append(_work_here(workspace, answer, machine, pickup.id))
        sections.append(Section(pickup.name, tuple(items)))
    if answer and answer.converged and answer.worst and answer.worst.machine == machine.id:
        taken = largest_losses(project, answer, answer.worst)[:MOST_LOSSES]
        lines = tuple(
            Fact(capital(t.words) + (", as bought" if t.given else ""), display.pressure(t.loss))
            for t in taken
        )
        name = next(p.name for p in machine.pickups if p.id == answer.worst.pickup)
        where = f": {name.lower()}" if len(machine.pickups) > 1 else ""
        most = lines[0].label.partition(",")[0] if lines else ""
        sections.append(Section(f"Where the suction goes{where}", lines, summary=most))
    sections[:0] = machine_help(workspace, machine)
    state = machine_state(answer, machine.id)
    found = tuple(of_element(workspace.known_findings, project, machine.id))
    caution = "Unplug before reaching into the machine or its hood." if machine.pickups else ""
    page = Page(
        machine.name,
        f"{localised(machine.kind, workspace.project.settings.units)}.",
        tuple(sections),
        found,
        caution,
        _machine_answer(answer, running, display),
        state,
    )
    return with_explained(workspace, HelpMachine(machine.id), page)


def _machine_answer(answer: ScenarioAir | None, running: bool, display: Display) -> str:
    """What its worst pickup gets of what it needs."""
    worst = answer.worst if answer is not None and answer.converged else None
    if worst is None or worst.leaf is None:
        return "No duct or hose reaches it yet."
    got = display.airflow(worst.airflow, unit=False)
    when = "" if running else " when it runs alone"
    return f"{got} of {display.airflow(worst.need.airflow)}{when}."


def _air_at(
    workspace: Workspace, answer: ScenarioAir | None, machine: Machine, pickup: str
) -> PickupAir | None:
    """What a pickup gets: in what is shown, or else at work alone, where its machine uses one place
    at a time.
    """
    alone = workspace.assessment.of(
        scenario_of(workspace.project, [machine.id], [f"{machine.id}/{pickup}"])
    )
    for shown in (answer, alone):
        for air in shown.pickups if shown else ():
            if (air.machine, air.pickup) == (machine.id, pickup):
                return air
    return None


def _work_here(
    workspace: Workspace, answer: ScenarioAir | None, machine: Machine, pickup: str
) -> Item:
    """The place where it works now, or a button to work at this one."""
    ref = f"{machine.id}/{pickup}"
    here = (
        machine.id in workspace.running
        and answer is not None
        and answer.scenario.uses(machine.id, pickup)
    )
    if here:
        return Fact("", "It works here now.")
    return ActionField(
        f"{ref}/work", "Work here", step="Work here", act=lambda: workspace.work_at(ref)
    )


def _connect_fields(project: Project, machine: Machine, pickup: str) -> list[ActionField]:
    """Ways to connect a pickup: to the nearest main, to another system's, or by a second hose from
    its own drop.
    """
    ref, name = f"{machine.id}/{pickup}", machine.name.lower()
    fields: list[ActionField] = []
    if not project.collectors:
        return fields
    if _has_hose(project, machine):
        fields.append(
            ActionField(
                f"{ref}/second-hose",
                "Connect it by a second hose",
                step=f"Connect the {name}",
                edit=lambda p: with_second_hose(p, ref),
                detail="from a splitter where the first one begins",
            )
        )
    fields.append(
        ActionField(
            f"{ref}/connect",
            "Connect it to the main",
            step=f"Connect the {name}",
            edit=lambda p: connected(p, ref),
        )
    )
    # With several systems one may choose which.
    piped = [c for c in project.collectors if any(c.id in r.ends for r in project.runs)]
    return fields + [_connect_to(ref, name, collector) for collector in piped if len(piped) > 1]


def _has_hose(project: Project, machine: Machine) -> bool:
    return any(
        materials()[r.material].hose and r.start.startswith(f"{machine.id}/") for r in project.runs
    )


def _connect_to(ref: str, name: str, collector: Collector) -> ActionField:
    return ActionField(
        f"{ref}/connect-{collector.id}",
        f"Connect it to {collector.name}",
        step=f"Connect the {name}",
        edit=lambda p: connected(p, ref, collector.id),
    )


def _need_field(machine: Machine, pickup: str, need: float, project: Project) -> TextField:
    ref = f"{machine.id}/{pickup}"
    return measured_field(
        "airflow",
        project,
        f"{ref}/need",
        "Needs",
        need,
        lambda p, v: edits.with_pickup(p, ref, need=v),
        "Change the need",
        f"{machine.name}, airflow needed",
    )

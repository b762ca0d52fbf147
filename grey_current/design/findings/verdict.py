"""The verdict: one plain sentence about what runs, what it gets, what it needs and the biggest loss."""

from __future__ import annotations

from grey_current.design.flow.assessment import Assessment, PickupAir, ScenarioAir
from grey_current.design.flow.losses import largest_losses
from grey_current.design.flow.transport import slowest_transport
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.units import Display


def verdict(assessment: Assessment, scenario: ScenarioAir | None) -> str:
    """The sentence for a scenario, or for the whole shop when nothing runs."""
    project = assessment.project
    if scenario is None or not scenario.scenario.running:
        return _shop_verdict(assessment)
    name = scenario.scenario.name(project)
    if not scenario.converged:
        return f"{name}: no answer could be computed for this ductwork."
    if not any(project.machine[m].pickups for m in scenario.scenario.running):
        return f"{name}: no pickup, so nothing catches its dust. A hood or a floor sweep would."
    worst = scenario.worst
    if worst is None:
        return f"{name}: not connected to a collector yet. Run a duct or hose to its pickup."
    return _scenario_verdict(project, scenario, worst)


def _scenario_verdict(project: Project, scenario: ScenarioAir, worst: PickupAir) -> str:
    display = Display(project.settings.units)
    machine = project.machine[worst.machine]
    name = scenario.scenario.name(project)
    if len(scenario.pickups) > 1:
        pickup_name = next(p.name for p in machine.pickups if p.id == worst.pickup)
        name = f"{machine.name}, {pickup_name[:1].lower()}{pickup_name[1:]}"
    got, wanted = display.airflow(worst.airflow, unit=False), display.airflow(worst.need.airflow)
    if worst.airflow < 0:
        return f"{name}: air blows out of the port instead of in. It needs {wanted}."
    if worst.met:
        return f"{name}: {display.airflow(worst.airflow)}, and it needs {wanted}. {_transport(project, scenario)}"
    missing = display.airflow(worst.need.airflow - worst.airflow, unit=False)
    sentence = f"{name}: {got} of {wanted}, {missing} short."
    if found := largest_losses(project, scenario, worst):
        sentence += f" Biggest loss: {found[0].words}, {display.pressure(found[0].loss)}."
    return sentence


def _transport(project: Project, scenario: ScenarioAir) -> str:
    display = Display(project.settings.units)
    slow = slowest_transport(project, scenario)
    if slow is None or slow.share >= 1:
        return "Good."
    word = "will settle" if slow.share < 0.8 else "may settle"
    velocity, least = display.velocity(slow.velocity, unit=False), display.velocity(slow.needed)
    return f"But chips {word} in {called(project, slow.run)}: {velocity} of {least}."


def _shop_verdict(assessment: Assessment) -> str:
    project = assessment.project
    if not project.machines:
        return "An empty floor: draw the room, then place the machines."
    display = Display(project.settings.units)
    answers = [u for u in assessment.answers if len(u.scenario.running) == 1]
    ducted = [u for u in answers if u.worst is not None and u.converged]
    if not ducted:
        count = "One machine" if len(project.machines) == 1 else f"{len(project.machines)} machines"
        return f"{count} placed, no air yet: a collector, a main and a branch to each come next."
    worst = [u.worst for u in ducted if u.worst]
    short = [p for p in worst if not p.met]
    fine = len(ducted) - len(short)
    parts = [f"{fine} of {len(project.machines)} machines get the air they need"]
    if short:
        least = min(short, key=lambda p: p.share)
        got = display.airflow(least.airflow, unit=False)
        parts.append(
            f"worst is the {project.machine[least.machine].name.lower()}: "
            f"{got} of {display.airflow(least.need.airflow)}"
        )
    return "; ".join(parts) + "."

"""The verdict: one plain sentence about what runs, what it gets, what it needs and the biggest
loss.
"""

from __future__ import annotations

import itertools

from grey_current.air.needs import NEARLY
from grey_current.design.flow.assessment import Assessment, PickupAir, ScenarioAir
from grey_current.design.flow.losses import biggest_loss
from grey_current.design.flow.transport import slowest_transport
from grey_current.design.words import how_many_get, transport_word
from grey_current.shop.model import Project
from grey_current.shop.names import called, pickup_words
from grey_current.units import Display


def verdict(
    assessment: Assessment, scenario: ScenarioAir | None, *, names_loss: bool = True
) -> str:
    """The sentence for a scenario, or for the whole shop when nothing runs.

    Unless `names_loss` it leaves the biggest loss out: the cause is then said beside it.
    """
    project = assessment.project
    if scenario is None or not scenario.scenario.running:
        return _shop_verdict(assessment)
    name = scenario.scenario.name(project)
    if not scenario.converged:
        return f"{name}: no answer could be computed for this ductwork."
    if not any(project.machine[m].pickups for m in scenario.scenario.running):
        return f"{name}: no pickup, so nothing catches its dust. A hood or a floor sweep would."
    worst = scenario.worst
    own = next((p for p in scenario.pickups if p.by_itself), None)
    if worst is None and own is not None:
        display = Display(project.settings.units)
        got = display.airflow(own.airflow, unit=False)
        return (
            f"{name}: {got} of {display.airflow(own.need.airflow)} by its own fan, into a bag "
            "that lets much of the fine dust through."
        )
    if worst is None:
        return f"{name}: not connected to a collector yet. Run a duct or hose to its pickup."
    return _scenario_verdict(project, scenario, worst, names_loss)


def _scenario_verdict(
    project: Project, scenario: ScenarioAir, worst: PickupAir, names_loss: bool
) -> str:
    display = Display(project.settings.units)
    machine = project.machine[worst.machine]
    loose = next((p for p in scenario.pickups if p.loose), None)
    if loose is not None and worst.met:
        ref = f"{loose.machine}/{loose.pickup}"
        owner, pickup = project.pickup[ref]
        gets = f"{display.airflow(worst.airflow)} elsewhere" if len(scenario.pickups) > 1 else ""
        why = "left open by the moved hose" if ref in project.moved_to else "not connected"
        return (
            f"{owner.name}, {pickup.name.lower()}: {why}, so its dust goes into the room; {gets}."
        )
    name = scenario.scenario.name(project)
    if len(scenario.pickups) > 1:
        pickup_name = next(p.name for p in machine.pickups if p.id == worst.pickup)
        name = f"{machine.name}, {pickup_name[:1].lower()}{pickup_name[1:]}"
    got, wanted = display.airflow(worst.airflow, unit=False), display.airflow(worst.need.airflow)
    if worst.airflow < 0:
        return f"{name}: air blows out of the port instead of in. It needs {wanted}."
    if worst.met:
        needs = display.airflow(worst.need.airflow, unit=False)
        return (
            f"{name}: {display.airflow(worst.airflow)} (needs "
            f"{needs}){_transport(project, scenario)}"
        )
    if worst.nearly_met:
        return f"{name}: {got} of {wanted}, nearly enough{_transport(project, scenario)}"
    missing = display.airflow(worst.need.airflow - worst.airflow, unit=False)
    sentence = f"{name}: {got} of {wanted}, {missing} short."
    found = biggest_loss(project, scenario, worst) if names_loss else None
    if found is not None:
        sentence += f" Biggest loss: {found.words}, {display.pressure(found.loss)}."
    return sentence


def _transport(project: Project, scenario: ScenarioAir) -> str:
    """How its chips fare: the end of a sentence."""
    display = Display(project.settings.units)
    slow = slowest_transport(project, scenario)
    if slow is None or transport_word(slow.share) == "carries":
        return ". Good." if scenario.met else "."
    word = "will settle" if transport_word(slow.share) == "settles" else "may settle"
    velocity, least = display.velocity(slow.velocity, unit=False), display.velocity(slow.needed)
    return f", but chips {word} in {called(project, slow.run)}: {velocity} of {least}."


def _shop_verdict(assessment: Assessment) -> str:
    project = assessment.project
    if not project.machines:
        return "An empty floor: draw the room, then place the machines."
    display = Display(project.settings.units)
    answers = [u for u in assessment.answers if len(u.scenario.running) == 1]
    ducted = [u for u in answers if u.worst is not None and u.converged]
    if not ducted:
        count = "One machine" if len(project.machines) == 1 else f"{len(project.machines)} machines"
        missing = [] if project.collectors else ["a collector"]
        missing += [] if project.runs else ["a main"]
        comes = " and ".join(
            [", ".join(missing), "a branch to each"] if missing else ["a branch to each"]
        )
        return f"{count} placed, no air yet: {comes} come{'s' if not missing else ''} next."
    asked = len(assessment.asking)
    fine = sum(answer.met for answer in assessment.asking.values())
    needs = "it needs" if asked == 1 else "they need"
    parts = [f"{how_many_get(fine, asked)} the air {needs}"]
    pickups = list(itertools.chain.from_iterable(answer.pickups for answer in ducted))
    short = [p for p in pickups if p.leaf is not None and not p.met]
    loose = [p for p in pickups if p.loose]
    least = min(short, key=lambda p: p.share, default=None)
    # What is not connected says more than what gets nearly enough.
    if least is not None and not (loose and least.nearly_met):
        got = display.airflow(least.airflow, unit=False)
        wanted = display.airflow(least.need.airflow)
        who = project.machine[least.machine].name.lower()
        if asked == 1 and least.nearly_met:
            parts = [f"The {who} gets nearly all the air it needs: {got} of {wanted}"]
        elif asked == 1:
            parts = [f"The {who} gets {got} of the {wanted} that it needs"]
        elif least.nearly_met:
            parts.append(f"the {who} nearly: {got} of {wanted}")
        else:
            parts.append(f"worst is the {who}: {got} of {wanted}")
    elif loose:
        ref = f"{loose[0].machine}/{loose[0].pickup}"
        whose = pickup_words(*project.pickup[ref])
        open_then = "stands open while the moved hose is at its other port"
        parts.append(f"the {whose} {open_then if ref in project.moved_to else 'is not connected'}")
    elif sets := _worst_set(assessment):
        name, least = sets
        parts.append(
            f"but together {name} do not: {display.airflow(least.airflow, unit=False)} "
            f"of {display.airflow(least.need.airflow)} at the "
            f"{project.machine[least.machine].name.lower()}"
        )
    elif settling := _settling(assessment):
        who = f"the {settling[0].lower()}'s" if len(settling) == 1 else f"{len(settling)} machines'"
        parts.append(f"but {who} chips settle on the way")
    return "; ".join(parts) + "."


def _settling(assessment: Assessment) -> list[str]:
    """Names of the machines whose chips settle while they run alone."""
    project = assessment.project
    checks = {
        m: slowest_transport(project, a) for m, a in assessment.of_machine.items() if a.converged
    }
    return [
        project.machine[m].name
        for m, slow in checks.items()
        if slow and transport_word(slow.share) == "settles"
    ]


def _worst_set(assessment: Assessment) -> tuple[str, PickupAir] | None:
    """Of the machines that work together, those that get the least, with their least pickup; None
    when each has nearly enough.
    """
    several = [
        a
        for a in assessment.counted.answers
        if len(a.scenario.running) > 1 and a.converged and a.least_share < NEARLY
    ]
    worst = min(several, key=lambda a: a.least_share, default=None)
    if worst is None or worst.least is None:
        return None
    names = [f"the {assessment.project.machine[m].name.lower()}" for m in worst.scenario.running]
    return " and ".join(names), worst.least

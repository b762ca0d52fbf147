"""What a part costs in pressure, in the scenario that is switched on."""

from __future__ import annotations

from collections.abc import ItemsView

from grey_current.air.needs import TOO_FAST
from grey_current.air.pieces import Straight
from grey_current.design.flow.assessment import ScenarioAir, System
from grey_current.design.flow.transport import transport_checks
from grey_current.design.words import piece_words, transport_word
from grey_current.desk.inspector.fields import Fact, Item, Section
from grey_current.shop.model import Project
from grey_current.shop.names import capital
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace


def _system_with(scenario: ScenarioAir | None, elements: set[str]) -> System | None:
    for system in scenario.systems.values() if scenario and scenario.converged else ():
        if any(piece.source_id in elements for piece in system.network.pieces):
            return system
    return None


def cost_section(workspace: Workspace, elements: set[str], run: str) -> list[Section]:
    """What something costs in the scenario that runs now."""
    project = workspace.project
    display = Display(project.settings.units)
    scenario = workspace.scenario
    if scenario is None:
        return [Section("What it costs", (Fact("", "Switch a machine on to see."),))]
    system = _system_with(scenario, elements)
    if system is None:
        return [Section("What it costs", (Fact("", "No air passes with what is running now."),))]
    mine = [i for i, piece in enumerate(system.network.pieces) if piece.source_id in elements]
    flow = abs(system.airflows[mine[0]])
    items: list[Item] = [Fact("Air", display.airflow(flow))]
    ducts = [i for i in mine if isinstance(system.network.pieces[i], Straight)]
    if ducts:
        items.append(
            _velocity_fact(project, scenario, run, abs(system.velocity(ducts[0])), display)
        )
    for index in mine:
        piece = system.network.pieces[index]
        words = piece_words(project, piece, display, system.gate_open(piece))
        items.append(Fact(capital(words), display.pressure(system.losses[index])))
    # Fittings at one place are passed one after the other: their sum is what one can save.
    for machine, path in _paths(scenario, system):
        passed = [i for i in mine if i in path]
        if len(passed) > 1:
            together = display.pressure(sum(system.losses[i] for i in passed))
            if scenario.scenario.running[1:]:
                whose = f", {project.machine[machine].name.lower()}"
            else:
                whose = ""
            items.append(Fact(f"Together{whose}", together))
    return [Section(f"What it costs: {scenario.scenario.name(project)} running", tuple(items))]


def _paths(scenario: ScenarioAir, system: System) -> ItemsView[str, set[int]]:
    """The pieces on the path of each running machine's least pickup; the legs of a wye are never
    both on one.
    """
    found: dict[str, set[int]] = {}
    for p in sorted(scenario.pickups, key=lambda p: p.share):
        if p.leaf is not None and p.collector == system.network.collector:
            found.setdefault(p.machine, set(system.network.path(p.leaf)))
    return found.items()


def _velocity_fact(
    project: Project, scenario: ScenarioAir, run: str, speed: float, display: Display
) -> Fact:
    mine = [c for c in transport_checks(project, scenario) if c.run == run]
    if not mine:
        return Fact("Velocity", display.velocity(speed))
    worst = min(mine, key=lambda c: c.share)
    state = "too fast" if worst.velocity > TOO_FAST else transport_word(worst.share)
    words = f"{display.velocity(worst.velocity, unit=False)} of {display.velocity(worst.needed)}"
    return Fact("Velocity", words, state)

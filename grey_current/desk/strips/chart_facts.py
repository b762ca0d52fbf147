"""What the match chart shows, as plain values: curves and dots."""

from __future__ import annotations

from dataclasses import dataclass

from grey_current.design.collector.candidates import stood_in
from grey_current.design.collector.chart_lines import Line, collector_line, port_line
from grey_current.design.collector.sizing import Sizing
from grey_current.design.flow.assessment import ScenarioAir
from grey_current.shop.collectors import Collector
from grey_current.units import Display
from grey_current.workspace import asking
from grey_current.workspace.workspace import Workspace

# Candidates' curves shown before any is chosen in the table.
MOST_OTHERS = 3


@dataclass(frozen=True)
class Dot:
    """A point of the chart: which use, m³/s and Pa, "works" or "needs", and the state word of the
    scenario.
    """

    name: str
    airflow: float
    pressure: float
    kind: str
    state: str
    chosen: bool


@dataclass(frozen=True)
class ChartFacts:
    """What the chart shows, in SI: lines, dots, and the largest airflow and pressure in sight."""

    lines: tuple[Line, ...]
    dots: tuple[Dot, ...]
    most_airflow: float
    most_pressure: float
    words: str


def chart_facts(workspace: Workspace, shown: frozenset[str]) -> ChartFacts | None:
    """The chart as the workspace has it; None while there is nothing to show. `shown` are
    candidates to draw.
    """
    sizing = asking.known_sizing(workspace)
    project, air = workspace.project, workspace.assessment.air
    collector = project.collector.get(asking.sized_collector(workspace) or "")
    if sizing is None or not sizing.requirements:
        return None
    lines: list[Line] = []
    if collector is not None:
        lines.append(collector_line(collector, air, collector.filter.seasoned, "seasoned"))
        lines.append(collector_line(collector, air, collector.filter.due, "loaded"))
    models = asking.collector_models(workspace)
    for name in sorted(shown & set(models)):
        if collector is None or name != collector.model:
            item = stood_in(project, collector.id if collector else None, models[name])
            lines.append(collector_line(item, air, item.filter.seasoned, "other"))
    focus = _focus(workspace, sizing)
    top = (
        max(
            [p for line in lines for _, p in line.points]
            + [r.pressure for r in sizing.requirements]
        )
        * 1.14
    )
    wide = (
        max(
            [q for line in lines for q, _ in line.points] + [r.airflow for r in sizing.requirements]
        )
        * 1.05
    )
    for requirement in sizing.requirements:
        name = requirement.scenario.name(project)
        chosen = requirement.scenario.running == focus
        held = tuple((q, p) for q, p in requirement.curve if p <= top * 1.1)
        lines.append(Line(name, "system chosen" if chosen else "system", ((0.0, 0.0), *held)))
        if chosen:
            lines.append(port_line(project, requirement.ruling, air, top))
    dots = [
        Dot(
            r.scenario.name(project),
            r.airflow,
            r.pressure,
            "needs",
            "",
            r.scenario.running == focus,
        )
        for r in sizing.requirements
        if r.reached
    ]
    dots += _working(workspace, collector, focus)
    return ChartFacts(tuple(lines), tuple(dots), wide, top, _words(workspace, sizing))


def _focus(workspace: Workspace, sizing: Sizing) -> tuple[str, ...]:
    """The scenario that is looked at: what runs, else the hardest."""
    running = workspace.running
    if any(r.scenario.running == running for r in sizing.requirements):
        return running
    return sizing.hardest.scenario.running if sizing.hardest else ()


def _working(
    workspace: Workspace, collector: Collector | None, focus: tuple[str, ...]
) -> list[Dot]:
    found: list[Dot] = []
    answers: list[ScenarioAir] = list(workspace.assessment.answers)
    for answer in answers if collector else ():
        system = answer.systems.get(collector.id) if collector else None
        if system is None or not system.converged:
            continue
        mine = [p for p in answer.pickups if p.collector == system.network.collector]
        met = all(p.met for p in mine)
        name = answer.scenario.name(workspace.project)
        found.append(
            Dot(
                name,
                system.airflow,
                -system.inlet_total,
                "works",
                "good" if met else "short",
                answer.scenario.running == focus,
            )
        )
    return found


def _words(workspace: Workspace, sizing: Sizing) -> str:
    """The one line over the chart."""
    hard = sizing.hardest
    if hard is None:
        return ""
    display = Display(workspace.project.settings.units)
    rough = " (an estimate: its duct is not drawn yet)" if hard.estimated else ""
    return (
        f"Hardest: {hard.scenario.name(workspace.project)}, {display.airflow(hard.airflow)} at "
        f"{display.pressure(hard.pressure)}{rough}"
    )

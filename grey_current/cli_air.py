"""The command for the air: airflow and pressure at every machine. It imports no more than it needs,
to answer soon.
"""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from grey_current.design.collector.make_up_air import depression
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.flow.scenarios import scenario_named
from grey_current.design.parts.takeoffs import is_hose
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.reach_map import reach_map
from grey_current.design.words import state_word
from grey_current.files import air_report, project_file
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.units import Display

FINE = 0
EXAMPLES = """\
  grey-current air loft.greycurrent.json                  each machine on its own, in turn
  grey-current air loft.greycurrent.json --on planer     only the planer
  grey-current air loft.greycurrent.json --on saw --on planer --json
                                                          both at once, every piece as JSON"""


def add_air(commands: Any) -> None:
    """Add the command for the air."""
    air = commands.add_parser("air", help="airflow and pressure at every machine")
    air.add_argument("file", type=Path, metavar="FILE", help="a project file")
    air.add_argument(
        "--on",
        "--run",
        action="append",
        default=[],
        metavar="MACHINE",
        help="a machine's id to switch on, or machine/place; several together; without it each "
        "machine in turn",
    )
    air.add_argument(
        "--json", action="store_true", help="every piece, pressure and airflow as JSON"
    )
    air.set_defaults(command=_air)


def add_reach(commands: Any) -> None:
    """Add the command for what hoses reach of the floor."""
    reach = commands.add_parser("reach", help="how much of the floor each hose's end reaches")
    reach.add_argument("file", type=Path, metavar="FILE", help="a project file")
    reach.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    reach.set_defaults(command=_reach)


def _reach(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    space, display, names = FloorSpace(project), Display(project.settings.units), Names(project)
    hoses = [run for run in project.runs if is_hose(run)]
    found = [(run, reach_map(project, space, run)) for run in hoses]
    if options.json:
        known = [
            {"run": run.id, "reached_m2": m.reached, "floor_m2": m.floor, "strips_m": m.strips}
            for run, m in found
            if m is not None
        ]
        print(json.dumps({"format": "grey-current/reach/1", "hoses": known}, indent=1))
        return FINE
    print(f"{project.name}: what each hose's end reaches of the floor, taken off its machine")
    for run, m in found:
        reached = (
            f"{display.surface(m.reached)} of {display.surface(m.floor)}, {m.share:.0%}"
            if m is not None
            else "ends nowhere fixed"
        )
        print(f"  {capital(names.of(run.id))}: {reached}")
    return FINE


def _air(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    scenarios = [scenario_named(project, options.on)] if options.on else []
    assessment = assess(project, scenarios)
    if options.json:
        print(json.dumps(air_report.air_report(assessment), indent=1, allow_nan=False))
    else:
        print(_air_text(project, assessment))
    return FINE


def _air_text(project: Project, assessment: Assessment) -> str:
    display = Display(project.settings.units)
    density = Display(project.settings.units).density(assessment.air.density)
    lines = [f"{project.name}: {project.settings.criterion}, air {density}"]
    for answer in assessment.answers:
        lines.append("")
        lines.append(verdict(assessment, answer))
        lines.extend(_pickup_lines(project, answer, display))
        for ident, system in answer.systems.items():
            if system.converged:
                lines.append(
                    f"  {project.collector[ident].name}: {display.airflow(system.airflow)}, "
                    "fan static "
                    f"pressure {display.pressure(system.fan_static)}, at the inlet "
                    f"{display.pressure(system.inlet_static)}"
                )
        pulled = depression(project, answer, assessment.air)
        if pulled > 0:
            lines.append(f"  The shop is under negative pressure: {display.pressure(-pulled)}")
    return "\n".join(lines)


def _pickup_lines(project: Project, answer: ScenarioAir, display: Display) -> list[str]:
    lines = []
    for p in answer.pickups:
        machine, pickup = project.pickup[f"{p.machine}/{p.pickup}"]
        ref = f"{p.machine}/{p.pickup}"
        loose = "left open" if ref in project.moved_to else "not connected"
        state = loose if p.loose else state_word(p.share)
        name = f"{machine.name}, {pickup.name.lower()}"
        lines.append(
            f"  {name:<32} {display.airflow(p.airflow):>11} of "
            f"{display.airflow(p.need.airflow):>11}  {state}"
        )
    return lines

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
from grey_current.design.words import state_word
from grey_current.files import air_report, project_file
from grey_current.shop.model import Project
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
        state = state_word(p.share) if p.leaf is not None else "not connected"
        name = f"{machine.name}, {pickup.name.lower()}"
        lines.append(
            f"  {name:<32} {display.airflow(p.airflow):>11} of "
            f"{display.airflow(p.need.airflow):>11}  {state}"
        )
    return lines

"""The command that says why a shop, or a machine, is short of air."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from grey_current.design.diagnosis.diagnose import diagnose
from grey_current.design.diagnosis.symptoms import symptoms
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import scenario_of
from grey_current.files import project_file
from grey_current.files.why_report import why_lines, why_report

FINE, CAUSES = 0, 1
EXAMPLES = """\
  grey-current why loft.greycurrent.json                  what takes the air, and its cure
  grey-current why loft.greycurrent.json planer           the same for the planer"""


def add_why(commands: Any) -> None:
    """Add the command."""
    why = commands.add_parser(
        "why", help="what takes the air: the root cause first; exit status 1 when there is any"
    )
    why.add_argument("file", type=Path, metavar="FILE", help="a project file")
    why.add_argument(
        "machine", metavar="MACHINE", nargs="?", help="a machine's id; without it the whole shop"
    )
    why.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    why.set_defaults(command=_why)


def _why(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    now = assess(project)
    if options.machine is not None:
        scenario_of(project, [options.machine])
    found = diagnose(now, options.machine, symptoms(now))
    if options.json:
        print(json.dumps(why_report(project, found), indent=1, allow_nan=False))
    else:
        answer = now.of_machine[options.machine] if options.machine is not None else None
        print(verdict(now, answer))
        for line in why_lines(project, found):
            print(line)
    return CAUSES if found.causes else FINE

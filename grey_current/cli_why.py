"""The commands that say why a shop, or a machine, is short of air, and the reasons behind it."""

from __future__ import annotations

import argparse
import json
import textwrap
from pathlib import Path
from typing import Any

from grey_current.design.diagnosis.diagnose import diagnose
from grey_current.design.diagnosis.symptoms import symptoms
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import scenario_of
from grey_current.design.reasons.reasons import GROUPS, reason_page, reasons
from grey_current.files import project_file
from grey_current.files.why_report import why_lines, why_report

FINE, CAUSES = 0, 1
# Letters in a line of a page.
LINE = 88
EXAMPLES = """\
  grey-current why loft.greycurrent.json                  what takes the air, and its cure
  grey-current why loft.greycurrent.json planer           the same for the planer
  grey-current reasons loft.greycurrent.json              pages of reasons, by their ids
  grey-current reasons loft.greycurrent.json no-gates     one of them, with this shop's figures"""


def add_why(commands: Any) -> None:
    """Add the commands."""
    why = commands.add_parser(
        "why", help="what takes the air: the root cause first; exit status 1 when there is any"
    )
    why.add_argument("file", type=Path, metavar="FILE", help="a project file")
    why.add_argument(
        "machine", metavar="MACHINE", nargs="?", help="a machine's id; without it the whole shop"
    )
    why.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    why.set_defaults(command=_why)
    pages = commands.add_parser(
        "reasons", help="what stands behind advice, with this shop's figures"
    )
    pages.add_argument("file", type=Path, metavar="FILE", help="a project file")
    pages.add_argument(
        "page", metavar="PAGE", nargs="?", help="a page's id; without it the list of all"
    )
    pages.set_defaults(command=_reasons)


def _reasons(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    if options.page is None:
        for group in GROUPS:
            print(group)
            for each in reasons().values():
                if each.group == group:
                    print(f"  {each.id:<22} {each.title}")
        return FINE
    page = reason_page(assess(project), options.page)
    print(page.reason.title)
    for paragraph in page.paragraphs:
        print()
        print(textwrap.fill(paragraph, LINE))
    print()
    print(f"Source: {page.reason.source}.")
    return FINE


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

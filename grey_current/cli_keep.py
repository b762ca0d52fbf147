"""The commands that keep a shop true: how sure, readings, what they teach, which to take next."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from grey_current.air import compiled
from grey_current.design.flow.assess import assess
from grey_current.files import keep_report, project_file
from grey_current.keep.answers import HowSure, how_sure
from grey_current.keep.monthly import monthly
from grey_current.keep.uncertainty import DRAWS
from grey_current.shop.keep_edits import with_readings
from grey_current.shop.model import Project

FINE = 0
EXAMPLES = """\
  grey-current sure loft.greycurrent.json        bands of all airflows, chances of all needs
  grey-current next-reading loft.greycurrent.json         where to measure next, what to expect
  grey-current monthly loft.greycurrent.json     the one reading a month, with its limits
  grey-current fit loft.greycurrent.json         what the readings say of this shop
  grey-current faults loft.greycurrent.json      which fault explains them, how to look"""


def add_keeping(commands: Any) -> None:
    """Add the commands that keep a shop true."""
    sure = commands.add_parser(
        "sure", help="how sure every airflow is: its band, and the chance that its need is met"
    )
    sure.add_argument("file", type=Path, metavar="FILE", help="a project file")
    sure.add_argument(
        "--draws",
        type=_count,
        default=DRAWS,
        metavar="N",
        help=f"so many drawn shops (usual: {DRAWS})",
    )
    sure.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    sure.set_defaults(command=_sure)
    fit = commands.add_parser(
        "fit", help="the model made true by readings: what they moved, which contradict"
    )
    fit.add_argument("file", type=Path, metavar="FILE", help="a project file")
    fit.add_argument(
        "--readings", type=Path, metavar="CSV", help="readings in place of the file's own"
    )
    fit.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    fit.set_defaults(command=_fit)
    faults = commands.add_parser(
        "faults", help="which fault would explain the readings, how to look, what tells apart"
    )
    faults.add_argument("file", type=Path, metavar="FILE", help="a project file")
    faults.add_argument("--json", action="store_true", help="the same as JSON")
    faults.set_defaults(command=_faults)
    wanted = commands.add_parser(
        "next-reading", help="the readings that would settle most, and what to expect"
    )
    wanted.add_argument("file", type=Path, metavar="FILE", help="a project file")
    wanted.set_defaults(command=_next)
    month = commands.add_parser(
        "monthly", help="the one reading a month: where, with what on, and its limits here"
    )
    month.add_argument("file", type=Path, metavar="FILE", help="a project file")
    month.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    month.set_defaults(command=_monthly)


def _count(text: str) -> int:
    if not text.isdecimal():
        raise argparse.ArgumentTypeError(f"{text!r} is no number; write one such as 400")
    return int(text)


def known_of(project: Project, draws: int = DRAWS) -> HowSure:
    """All that the Keep stage knows of a project."""
    compiled.load()
    return how_sure(assess(project), draws)


def printed(options: argparse.Namespace, text: str, report: dict[str, Any]) -> int:
    """Print a text, or a report where JSON is wanted."""
    print(json.dumps(report, indent=1, allow_nan=False) if options.json else text)
    return FINE


def _sure(options: argparse.Namespace) -> int:
    found = known_of(project_file.load(options.file), options.draws)
    return printed(options, keep_report.sure_text(found), keep_report.sure_report(found))


def _fit(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    if options.readings is not None:
        own = keep_report.read_readings(options.readings, project)
        project = with_readings(project.replaced(keep=project.keep.replaced(readings=())), own)
    found = known_of(project)
    return printed(options, keep_report.fit_text(found), keep_report.fit_report(found))


def _faults(options: argparse.Namespace) -> int:
    found = known_of(project_file.load(options.file))
    return printed(options, keep_report.faults_text(found), keep_report.faults_report(found))


def _next(options: argparse.Namespace) -> int:
    print(keep_report.next_text(known_of(project_file.load(options.file))))
    return FINE


def _monthly(options: argparse.Namespace) -> int:
    now = assess(project_file.load(options.file))
    found = [one for c in now.project.collector if (one := monthly(now, c)) is not None]
    if options.json:
        print(json.dumps(keep_report.monthly_report(found), indent=1, allow_nan=False))
    else:
        print(keep_report.monthly_text(now.project, found))
    return FINE

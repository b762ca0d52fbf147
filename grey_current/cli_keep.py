"""The commands that keep a shop true: how sure, readings, what they teach, which to take next."""

from __future__ import annotations

import argparse
import datetime
import json
from pathlib import Path
from typing import Any

from grey_current.air import compiled
from grey_current.design.flow.assessment import assess
from grey_current.errors import InputError
from grey_current.files import keep_report, project_file
from grey_current.files.safe_write import write_whole
from grey_current.keep.answers import HowSure, how_sure
from grey_current.keep.sure import DRAWS
from grey_current.shop.keep_edits import with_readings, without_reading
from grey_current.shop.model import Project

FINE = 0
EXAMPLES = """\
  grey-current sure loft.greycurrent.json                 the band of every airflow, the chance of every need
  grey-current next-reading loft.greycurrent.json         where to hold the gauge first, and what to expect
  grey-current log loft.greycurrent.json add "static pressure" bandsaw inlet-run "7.1 inH2O"
  grey-current fit loft.greycurrent.json                  what the readings say of this shop
  grey-current faults loft.greycurrent.json               which fault would explain them, and how to look"""


def add_keeping(commands: Any) -> None:
    """Add the commands that keep a shop true."""
    sure = commands.add_parser("sure", help="how sure every airflow is: its band, and the chance that its need is met")
    sure.add_argument("file", type=Path, metavar="FILE", help="a project file")
    sure.add_argument("--draws", type=_count, default=DRAWS, metavar="N", help=f"so many drawn shops (usual: {DRAWS})")
    sure.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    sure.set_defaults(command=_sure)
    fit = commands.add_parser("fit", help="the model made true by readings: what they moved, which contradict")
    fit.add_argument("file", type=Path, metavar="FILE", help="a project file")
    fit.add_argument("--readings", type=Path, metavar="CSV", help="readings in place of the file's own")
    fit.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    fit.set_defaults(command=_fit)
    faults = commands.add_parser("faults", help="which fault would explain the readings, how to look, what tells apart")
    faults.add_argument("file", type=Path, metavar="FILE", help="a project file")
    faults.add_argument("--json", action="store_true", help="the same as JSON")
    faults.set_defaults(command=_faults)
    wanted = commands.add_parser("next-reading", help="the readings that would settle most, and what to expect")
    wanted.add_argument("file", type=Path, metavar="FILE", help="a project file")
    wanted.set_defaults(command=_next)
    _add_log(commands.add_parser("log", help="the readings: add one, list them, take one away, CSV out and in"))


def _add_log(log: argparse.ArgumentParser) -> None:
    log.add_argument("file", type=Path, metavar="FILE", help="a project file")
    acts = log.add_subparsers(required=True, metavar="ACT")
    add = acts.add_parser("add", help="one more reading, written into the file")
    add.add_argument("kind", metavar="KIND", help=", ".join(keep_report.KINDS))
    add.add_argument("machine", metavar="MACHINE", help="the machine that was on alone")
    add.add_argument("place", metavar="PLACE", help="a duct, a pickup (saw/port) or a collector")
    add.add_argument("value", metavar="VALUE", help='such as "7.1 inH2O", "620 CFM", "4000 fpm"')
    add.add_argument("--note", default="", help="what else is worth keeping")
    add.set_defaults(command=_log_add)
    acts.add_parser("list", help="what was measured, and what was expected").set_defaults(command=_log_list)
    remove = acts.add_parser("remove", help="take a reading away")
    remove.add_argument("number", type=_count, metavar="N", help="the reading's number")
    remove.set_defaults(command=_log_remove)
    for act, words, command in (
        ("read", "readings from a CSV file, behind the others", _log_read),
        ("write", "the readings as a CSV file", _log_write),
    ):
        parser = acts.add_parser(act, help=words)
        parser.add_argument("csv", type=Path, metavar="CSV", help="the CSV file")
        parser.set_defaults(command=command)


def _count(text: str) -> int:
    if not text.isdecimal():
        raise argparse.ArgumentTypeError(f"{text!r} is no number; write one such as 400")
    return int(text)


def _known(project: Project, draws: int = DRAWS) -> HowSure:
    compiled.load()
    return how_sure(assess(project), draws)


def _print(options: argparse.Namespace, text: str, report: dict[str, Any]) -> int:
    print(json.dumps(report, indent=1, allow_nan=False) if options.json else text)
    return FINE


def _sure(options: argparse.Namespace) -> int:
    found = _known(project_file.load(options.file), options.draws)
    return _print(options, keep_report.sure_text(found), keep_report.sure_report(found))


def _fit(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    if options.readings is not None:
        own = keep_report.read_readings(options.readings, project)
        project = with_readings(project.replaced(keep=project.keep.replaced(readings=())), own)
    found = _known(project)
    return _print(options, keep_report.fit_text(found), keep_report.fit_report(found))


def _faults(options: argparse.Namespace) -> int:
    found = _known(project_file.load(options.file))
    return _print(options, keep_report.faults_text(found), keep_report.faults_report(found))


def _next(options: argparse.Namespace) -> int:
    print(keep_report.next_text(_known(project_file.load(options.file))))
    return FINE


def _log_add(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    asked = (options.kind, options.machine, options.place)
    reading = keep_report.made_reading(project, asked, options.value, datetime.date.today(), options.note)
    return _logged(with_readings(project, (reading,)), options.file)


def _log_remove(options: argparse.Namespace) -> int:
    return _logged(without_reading(project_file.load(options.file), options.number), options.file)


def _log_read(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    found = keep_report.read_readings(options.csv, project)
    if not found:
        raise InputError("readings", options.csv.name, "write a line for each reading under the heading")
    return _logged(with_readings(project, found), options.file)


def _logged(project: Project, path: Path) -> int:
    text = keep_report.fit_text(_known(project))
    project_file.save(project, path)
    print(text)
    return FINE


def _log_list(options: argparse.Namespace) -> int:
    print(keep_report.fit_text(_known(project_file.load(options.file))))
    return FINE


def _log_write(options: argparse.Namespace) -> int:
    write_whole(keep_report.readings_csv(project_file.load(options.file)), options.csv)
    print(f"Saved {options.csv}")
    return FINE

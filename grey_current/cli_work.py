"""The commands that work: cards for the machines, a day's jobs, the air of the rooms, chores."""

from __future__ import annotations

import argparse
import datetime
import json
from pathlib import Path
from typing import Any

from grey_current.cli_files import by_the_window, file_name
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.errors import InputError
from grey_current.files import arrangement_report, project_file, separator_report, work_report
from grey_current.files.ics import calendar
from grey_current.files.safe_write import write_export
from grey_current.shop.model import Project
from grey_current.shop.work_edits import with_work
from grey_current.work.arrangements import arrangement_facts
from grey_current.work.chores import chores
from grey_current.work.day_plan import plan_day
from grey_current.work.day_tasks import better_order
from grey_current.work.day_text import parse_day
from grey_current.work.dust_budget import day_dust
from grey_current.work.room_changes import room_changes
from grey_current.work.room_day import room_day
from grey_current.work.separators import separator_rows

FINE = 0
EXAMPLES = """\
  grey-current day loft.greycurrent.json "saw 20 min, planer 25 walnut, sand 40 after saw"
                                                          moves, the better order, chips
  grey-current room loft.greycurrent.json                 the room's air over the file's day
  grey-current cards loft.greycurrent.json -o cards.pdf   a card for each machine
  grey-current chores loft.greycurrent.json -o shop.ics   upkeep as a calendar
  grey-current separators loft.greycurrent.json           which separator"""


def add_working(commands: Any) -> None:
    """Add the commands that work."""
    cards = commands.add_parser("cards", help="cards for the machines, several to a page, as PDF")
    cards.add_argument("file", type=Path, metavar="FILE", help="a project file")
    cards.add_argument(
        "-o", dest="output", type=file_name, required=True, metavar="FILE.pdf", help="where they go"
    )
    cards.add_argument("--letter", action="store_true", help="pages of Letter size instead of A4")
    cards.set_defaults(command=_cards)
    day = commands.add_parser(
        "day", help="a day's jobs: moves, the better order, chips, energy, ears, dust"
    )
    day.add_argument("file", type=Path, metavar="FILE", help="a project file")
    day.add_argument(
        "day",
        nargs="?",
        metavar="JOBS",
        help='such as "saw 20 min, planer 25"; without it the file\'s own',
    )
    day.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    day.set_defaults(command=_day)
    room = commands.add_parser(
        "room", help="the dust in the rooms over the day, and what would clear it"
    )
    room.add_argument("file", type=Path, metavar="FILE", help="a project file")
    room.add_argument("day", nargs="?", metavar="JOBS", help="a day in place of the file's own")
    room.add_argument("--json", action="store_true", help="the same as JSON")
    room.set_defaults(command=_room)
    listed = commands.add_parser("chores", help="the maintenance schedule, as a list or a calendar")
    listed.add_argument("file", type=Path, metavar="FILE", help="a project file")
    listed.add_argument(
        "-o", dest="output", type=file_name, metavar="FILE.ics", help="save a calendar there"
    )
    listed.set_defaults(command=_chores)
    compared = commands.add_parser(
        "separators", help="which separator: air, dust, cleaning, lifting and money of each kind"
    )
    compared.add_argument("file", type=Path, metavar="FILE", help="a project file")
    compared.add_argument(
        "collector", nargs="?", metavar="COLLECTOR", help="the id of one; without it the first"
    )
    compared.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    compared.set_defaults(command=_separators)
    arranged = commands.add_parser(
        "arrangements", help="each arrangement: longest boards, air, what is in the way, moves"
    )
    arranged.add_argument("file", type=Path, metavar="FILE", help="a project file")
    arranged.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    arranged.set_defaults(command=_arrangements)


def _with_day(options: argparse.Namespace) -> Assessment:
    project = project_file.load(options.file)
    if options.day is not None:
        project = with_work(project, day=parse_day(options.day, project), unread=())
    if not project.work.day:
        raise InputError("the day", "", 'write the jobs, such as "saw 20 min, planer 25"')
    return assess(project)


def _cards(options: argparse.Namespace) -> int:
    project_file.load(options.file)
    print(by_the_window(options.file, options.output, "--cards", options.letter))
    return FINE


def _day(options: argparse.Namespace) -> int:
    now = _with_day(options)
    jobs = now.project.work.day
    day, (best, saved) = plan_day(now, jobs), better_order(now, jobs)
    room = room_day(now, day)
    dust = day_dust(now, room)
    if options.json:
        better = plan_day(now, jobs, best.jobs)
        report = work_report.day_report(day, better, best.proven, saved, room, dust)
        print(json.dumps(report, indent=1, allow_nan=False))
    else:
        print(work_report.day_text(day, best, saved))
        print("\n".join(work_report.room_lines(room, dust)))
    return FINE


def _room(options: argparse.Namespace) -> int:
    now = _with_day(options)
    day = plan_day(now, now.project.work.day)
    found = room_day(now, day)
    dust = day_dust(now, found)
    if options.json:
        print(
            json.dumps(
                {
                    "format": "grey-current/room/1",
                    **work_report.room_report(found, dust),
                    "changes": work_report.changes_report(room_changes(now, found), dust),
                },
                indent=1,
                allow_nan=False,
            )
        )
    else:
        print(work_report.room_text(found, dust, room_changes(now, found)))
    return FINE


def _separators(options: argparse.Namespace) -> int:
    project: Project = project_file.load(options.file)
    known = list(project.collector)
    chosen = options.collector or next(iter(known), None)
    if chosen not in project.collector:
        rule = (
            f"choose one of {', '.join(known)}"
            if known
            else "this shop has no collector yet; add one at the Collector stage"
        )
        raise InputError("collector", chosen or "", rule)
    rows = separator_rows(project, chosen)
    if options.json:
        report = separator_report.separators_report(chosen, rows)
        print(json.dumps(report, indent=1, allow_nan=False))
    else:
        print(separator_report.separators_text(project, chosen, rows))
    return FINE


def _arrangements(options: argparse.Namespace) -> int:
    project: Project = project_file.load(options.file)
    found = arrangement_facts(project)
    if options.json:
        print(json.dumps(arrangement_report.report(found), indent=1, allow_nan=False))
    else:
        print(arrangement_report.text(project, found))
    return FINE


def _chores(options: argparse.Namespace) -> int:
    project: Project = project_file.load(options.file)
    found = chores(project)
    for chore in found:
        print(f"every {chore.days:>3} days  {chore.words}: {chore.why}")
    if options.output:
        print(write_export(calendar(found, project.name, datetime.date.today()), options.output))
    return FINE

"""The commands of the logbook: readings and lines written, listed, struck out, put together; what
comes next.
"""

from __future__ import annotations

import argparse
import datetime
from pathlib import Path
from typing import Any

from grey_current.cli_files import file_name
from grey_current.cli_keep import FINE, known_of, printed
from grey_current.dates import parse_past
from grey_current.design.flow.assess import assess
from grey_current.errors import InputError
from grey_current.files import ics, keep_report, log_report, project_file
from grey_current.files.safe_write import write_export
from grey_current.keep.forecast import forecasts
from grey_current.keep.log import entries_of_day, merged
from grey_current.keep.model import Model
from grey_current.shop.keep_edits import with_entries, with_readings, without_entry, without_reading
from grey_current.shop.model import Project
from grey_current.standins.line import LineInstrument, read_address
from grey_current.work.chores import chores
from grey_current.work.day_plan import plan_day
from grey_current.work.day_text import parse_day

EXAMPLES = """\
  grey-current log loft.greycurrent.json add "static pressure" bandsaw inlet-run "7.1 inH2O"
  grey-current log loft.greycurrent.json note "bin emptied" cyclone --litres 90
  grey-current log loft.greycurrent.json day "saw 20 min, planer 25 walnut"
  grey-current forecast loft.greycurrent.json -o next.ics     what is due, with dates"""


def add_logbook(commands: Any) -> None:
    """Add the commands of the logbook."""
    forecast = commands.add_parser(
        "forecast", help="what comes next: bin full, filter due, hose worn; the months"
    )
    forecast.add_argument("file", type=Path, metavar="FILE", help="a project file")
    forecast.add_argument(
        "-o", "--output", type=file_name, metavar="FILE.ics", help="the same dates as a calendar"
    )
    forecast.add_argument("--json", action="store_true", help="the same as JSON")
    forecast.set_defaults(command=_forecast)
    log = commands.add_parser(
        "log", help="the logbook: readings, work, what was emptied, cleaned, mended, noticed"
    )
    log.add_argument("file", type=Path, metavar="FILE", help="a project file")
    acts = log.add_subparsers(required=True, metavar="ACT")
    add = acts.add_parser("add", help="one more reading, written into the file")
    add.add_argument("kind", metavar="KIND", help=", ".join(keep_report.KINDS))
    add.add_argument("machine", metavar="MACHINE", help="the machine that was on alone")
    add.add_argument("place", metavar="PLACE", help="a duct, a pickup (saw/port) or a collector")
    add.add_argument(
        "value", metavar="VALUE", nargs="?", help='such as "7.1 inH2O", "620 CFM", "4000 fpm"'
    )
    add.add_argument(
        "--from", dest="instrument", metavar="HOST:PORT", help="ask an instrument there instead"
    )
    add.add_argument("--note", default="", help="what else is worth keeping")
    add.set_defaults(command=_add)
    note = acts.add_parser(
        "note", help="one more line: what was emptied, cleaned, changed, mended, noticed"
    )
    note.add_argument("kind", metavar="KIND", help=", ".join(log_report.ENTRY_KINDS))
    note.add_argument(
        "place", metavar="PLACE", nargs="?", help="a collector, a hose or anything else in the shop"
    )
    note.add_argument("--date", metavar="DATE", help="such as 2026-03-14 (usual: today)")
    note.add_argument("--hours", metavar="H", type=_figure, help="hours that the collector was on")
    note.add_argument("--litres", metavar="L", type=_figure, help="litres of chips")
    note.add_argument("--note", default="", help="what else is worth keeping")
    note.set_defaults(command=_note)
    day = acts.add_parser(
        "day", help="a day's work, as it is planned in the file or as it is typed"
    )
    day.add_argument(
        "jobs", metavar="JOBS", nargs="?", help='such as "saw 20 min, planer 25 walnut"'
    )
    day.add_argument("--date", metavar="DATE", help="such as 2026-03-14 (usual: today)")
    day.set_defaults(command=_day)
    acts.add_parser("list", help="what was measured and written down").set_defaults(command=_list)
    remove = acts.add_parser("remove", help="strike out a reading (3) or another line (L3)")
    remove.add_argument("number", metavar="N", help="its number in the list")
    remove.set_defaults(command=_remove)
    merge = acts.add_parser("merge", help="merge the logbook of another copy of the file")
    merge.add_argument("other", type=Path, metavar="OTHER", help="the other copy")
    merge.set_defaults(command=_merge)
    for act, words, command, kind in (
        ("read", "readings from a CSV file, behind the others", _read, Path),
        ("write", "the readings as a CSV file", _write, file_name),
        ("book", "the whole logbook as a CSV file", _book, file_name),
    ):
        parser = acts.add_parser(act, help=words)
        parser.add_argument("csv", type=kind, metavar="CSV", help="the CSV file")
        parser.set_defaults(command=command)


def _figure(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise argparse.ArgumentTypeError(f"{text!r} is no number; write one such as 2.5") from None


def _day_of(options: argparse.Namespace, project: Project) -> datetime.date:
    if not options.date:
        return datetime.date.today()
    return parse_past(options.date, project.settings.units, "--date")


def _forecast(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    today = datetime.date.today()
    due = tuple(forecasts(project, Model(assess(project)), today))
    if options.output is not None:
        print(write_export(ics.calendar(chores(project), project.name, today, due), options.output))
        return FINE
    text = log_report.forecast_text(project, due)
    return printed(options, text, log_report.forecast_report(project, due))


def _saved(project: Project, path: Path, text: str) -> int:
    project_file.save(project, path)
    print(text)
    return FINE


def _with_readings(project: Project, path: Path) -> int:
    return _saved(project, path, keep_report.fit_text(known_of(project)))


def _add(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    asked, today = (options.kind, options.machine, options.place), datetime.date.today()
    if (options.value is None) == (options.instrument is None):
        raise InputError(
            "log add", options.value or "no value", "type the figure, or --from and an address"
        )
    if options.instrument is None:
        reading = keep_report.made_reading(project, asked, options.value, today, options.note)
    else:
        kind = keep_report.read_kind(options.kind)
        value = LineInstrument(read_address(options.instrument)).read(
            kind, options.machine, options.place
        )
        reading = keep_report.reading_of(project, (kind, *asked[1:]), value, today, options.note)
    return _with_readings(with_readings(project, (reading,)), options.file)


def _note(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    facts = {"hours": options.hours, "litres": options.litres, "note": options.note}
    given = {name: value for name, value in facts.items() if value not in (None, "")}
    entry = log_report.made_entry(
        project, options.kind, _day_of(options, project), options.place, **given
    )
    new = with_entries(project, (entry,))
    return _saved(new, options.file, log_report.log_text(new))


def _day(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    jobs = project.work.day if options.jobs is None else parse_day(options.jobs, project)
    entries = entries_of_day(plan_day(assess(project), jobs), _day_of(options, project))
    new = with_entries(project, entries)
    return _saved(new, options.file, log_report.log_text(new))


def _remove(options: argparse.Namespace) -> int:
    project, number = project_file.load(options.file), options.number.strip()
    is_line = number[:1] in ("L", "l")
    if not number[is_line:].isdecimal():
        raise InputError(
            "remove",
            number,
            "write the number of a reading such as 3, or of another line such as L3",
        )
    take_away = without_entry if is_line else without_reading
    new = take_away(project, int(number[is_line:]))
    return _saved(new, options.file, log_report.log_text(new))


def _merge(options: argparse.Namespace) -> int:
    found = merged(project_file.load(options.file), project_file.load(options.other))
    words = f"{found.readings} readings and {found.entries} other lines came from {options.other}"
    return _saved(found.project, options.file, words)


def _read(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    found = keep_report.read_readings(options.csv, project)
    if not found:
        raise InputError(
            "readings", options.csv.name, "write a line for each reading under the heading"
        )
    return _with_readings(with_readings(project, found), options.file)


def _list(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    print(keep_report.fit_text(known_of(project)))
    if project.keep.entries:
        print(f"\nLogbook\n{log_report.log_text(project)}")
    return FINE


def _write(options: argparse.Namespace) -> int:
    print(write_export(keep_report.readings_csv(project_file.load(options.file)), options.csv))
    return FINE


def _book(options: argparse.Namespace) -> int:
    print(write_export(log_report.book_csv(project_file.load(options.file)), options.csv))
    return FINE

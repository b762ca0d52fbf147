"""The commands that judge and better a design: what is wrong, what would help, collectors, layouts
of ducts.
"""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from grey_current.air import compiled
from grey_current.cli_files import file_name, save_project
from grey_current.design.collector.make_up_air import most_depression
from grey_current.design.diagnosis.diagnose import diagnose
from grey_current.design.findings.adds import added_findings, added_words
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.gates import gate_order, gate_table
from grey_current.design.flow.scenarios import all_scenarios, scenario_of
from grey_current.design.improve.comparison import compared, kept_assessment, served
from grey_current.design.improve.ranking import (
    Improvement,
    cleared_words,
    difference_words,
    improvements,
    lost_words,
    money_words,
    part_improvements,
    won_air,
)
from grey_current.design.improve.shop_search import shop_improvements
from grey_current.design.laying.first_tree import sizing_for
from grey_current.design.laying.next_machine import next_machines
from grey_current.design.laying.places import where_to_stand
from grey_current.design.laying.proposals import propose
from grey_current.design.laying.resizing import resized
from grey_current.design.words import served_words
from grey_current.errors import InputError
from grey_current.files import (
    check_report,
    help_report,
    laying_report,
    next_report,
    project_file,
    size_report,
)
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.kept_designs import find
from grey_current.shop.model import Project
from grey_current.units import Display
from grey_current.workspace.helpers import helpers

# Layouts that are offered at most.
MOST_LAYOUTS = 9
FINE, FINDINGS = 0, 1
# Changes that are listed; more of them win next to nothing.
MOST_LINES = 15
EXAMPLES = """\
  grey-current check loft.greycurrent.json                what is wrong, worst first
  grey-current gates loft.greycurrent.json                the table of machines and gates
  grey-current help-most loft.greycurrent.json planer     what would win it most air
  grey-current help-most loft.greycurrent.json            what would help the whole shop most
  grey-current help-most loft.greycurrent.json planer --part planer-hose
                                                          what other parts there would be worth
  grey-current size loft.greycurrent.json                 what it must do, recommended ones
  grey-current size loft.greycurrent.json --curve fan.csv
                                                          the same, with a fan curve of yours
  grey-current compare loft.greycurrent.json              the designs kept in the file, side by side
  grey-current propose loft.greycurrent.json -o laid      whole layouts, saved in a folder
  grey-current sizes loft.greycurrent.json                sizes for the ducts as they are drawn
  grey-current places loft.greycurrent.json               where the collector should stand
  grey-current next loft.greycurrent.json                 which main suits the next machines too"""


def add_design(commands: Any) -> None:
    """Add the commands that judge and better a design."""
    check = commands.add_parser(
        "check", help="what is wrong, worst first; exit status 1 when anything is"
    )
    check.add_argument("file", type=Path, metavar="FILE", help="a project file")
    check.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    check.set_defaults(command=_check)
    gates = commands.add_parser(
        "gates", help="which gates are open for which machine, in the order of the main"
    )
    gates.add_argument("file", type=Path, metavar="FILE", help="a project file")
    gates.set_defaults(command=_gates)
    helps = commands.add_parser("help-most", help="what would help most, each change computed")
    helps.add_argument("file", type=Path, metavar="FILE", help="a project file")
    helps.add_argument(
        "machine", metavar="MACHINE", nargs="?", help="a machine's id; without it the whole shop"
    )
    helps.add_argument(
        "--part", metavar="ID", help="only the other ways to make this duct, joint or gate"
    )
    helps.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    helps.set_defaults(command=_help_most)
    compare = commands.add_parser(
        "compare", help="kept designs against the present one, machine by machine"
    )
    compare.add_argument("file", type=Path, metavar="FILE", help="a project file")
    compare.add_argument(
        "design", nargs="?", metavar="DESIGN", help="a kept design's id or name; without it all"
    )
    compare.set_defaults(command=_compare)
    size = commands.add_parser(
        "size", help="what the collector must do for each scenario, and how each candidate would do"
    )
    size.add_argument("file", type=Path, metavar="FILE", help="a project file")
    size.add_argument(
        "--collector", metavar="ID", help="a collector's id; without it the first, or one to come"
    )
    size.add_argument(
        "--curve",
        type=Path,
        action="append",
        default=[],
        metavar="CSV",
        help="a fan curve to try in its place; airflow and pressure, units named in the heading",
    )
    size.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    size.set_defaults(command=_size)
    _add_laying(commands)
    _add_next(commands)
    schema = commands.add_parser("schema", help="the JSON Schema of the project file")
    schema.set_defaults(command=_schema)


def _add_laying(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """The commands that lay ducts."""
    propose = commands.add_parser("propose", help="whole layouts of ducts, found by search")
    propose.add_argument("file", type=Path, metavar="FILE", help="a project file")
    propose.add_argument(
        "--only-unconnected",
        action="store_true",
        help="leave what is drawn alone, connect what is not connected",
    )
    propose.add_argument(
        "--most", type=_count, metavar="N", help="end with so many layouts, which is quicker"
    )
    propose.add_argument(
        "--seed", type=int, default=0, metavar="N", help="another one gives other orders to try"
    )
    propose.add_argument(
        "--json", action="store_true", help="the same as JSON, with every whole project"
    )
    propose.add_argument(
        "-o",
        dest="folder",
        type=file_name,
        metavar="FOLDER",
        help="save each as a project file there",
    )
    propose.set_defaults(command=_propose)
    sizes = commands.add_parser("sizes", help="other sizes for the ducts as they are drawn")
    sizes.add_argument("file", type=Path, metavar="FILE", help="a project file")
    sizes.add_argument("--json", action="store_true", help="the same as JSON")
    sizes.add_argument(
        "-o",
        dest="output",
        type=file_name,
        metavar="FILE",
        help="save the shop with the better sizes",
    )
    sizes.set_defaults(command=_sizes)
    places = commands.add_parser("places", help="where the collector should stand")
    places.add_argument("file", type=Path, metavar="FILE", help="a project file")
    places.add_argument("--collector", metavar="ID", help="a collector's id; without it the first")
    places.add_argument("--json", action="store_true", help="the same as JSON")
    places.set_defaults(command=_places)


def _add_next(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """The command that tries the main for machines to come."""
    after = commands.add_parser(
        "next", help="which main stays good for the machines that may come next"
    )
    after.add_argument("file", type=Path, metavar="FILE", help="a project file")
    after.add_argument(
        "machines",
        nargs="*",
        metavar="MACHINE",
        help="machines of the catalogue, by name; without any the likeliest",
    )
    after.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    after.set_defaults(command=_next)


def _next(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    compiled.load_beside()
    found = next_machines(project, options.machines)
    if options.json:
        print(json.dumps(next_report.next_report(found), indent=1, allow_nan=False))
    else:
        print(next_report.next_text(project, found))
    return FINE


def _count(text: str) -> int:
    """A number of layouts from the command line."""
    if not text.isascii() or not text.isdigit() or not 1 <= int(text) <= MOST_LAYOUTS:
        raise argparse.ArgumentTypeError(f"{text!r} is no number from 1 to {MOST_LAYOUTS}")
    return int(text)


def _propose(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    if options.folder:
        laying_report.make_folder(options.folder)
    # The compiled solver is loaded beside the first steps, which do without it.
    compiled.load_beside()
    with helpers() as crew:
        found = propose(
            project,
            only_unconnected=options.only_unconnected,
            most=options.most,
            seed=options.seed,
            crew=crew,
        )
    saved = laying_report.save_proposals(found, options.folder) if options.folder else []
    if options.json:
        print(json.dumps(laying_report.proposals_report(project, found), indent=1, allow_nan=False))
    else:
        print(laying_report.proposals_text(project, found))
        for words in saved:
            print(words)
    return FINE


def _sizes(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    compiled.load_beside()
    found = resized(project)
    saved = save_project(found[0].project, options.output)
    if options.json:
        print(json.dumps(laying_report.sizes_report(project, found), indent=1, allow_nan=False))
    else:
        print("\n".join([laying_report.sizes_text(project, found), *saved]))
    return FINE


def _places(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    if options.collector is not None and options.collector not in project.collector:
        raise InputError("collector", options.collector, _collectors_known(project))
    compiled.load_beside()
    with helpers() as crew:
        found = where_to_stand(project, options.collector, crew=crew)
    if options.json:
        print(json.dumps(laying_report.places_report(project, found), indent=1, allow_nan=False))
    else:
        print(laying_report.places_text(project, found))
    return FINE


def _collectors_known(project: Project) -> str:
    return f"collectors of this shop are: {', '.join(project.collector) or 'none'}"


def _check(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    now = assess(project)
    found, pulled = all_findings(project, now), most_depression(now)
    causes = diagnose(now, None, found)
    if options.json:
        report = check_report.check_report(found, pulled, causes)
        print(json.dumps(report, indent=1, allow_nan=False))
        return FINDINGS if found else FINE
    for line in check_report.check_lines(project, found, causes):
        print(line)
    if pulled > 0:
        below = Display(project.settings.units).pressure(-pulled)
        print(f"The shop is under negative pressure while its collectors run: down to {below}.")
    return FINDINGS if found else FINE


def _gates(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    now = assess(project)
    # Without gates there is no table; what that means is said instead.
    order = gate_order(now)
    if not order:
        print(f"{project.name}: no gates; every port draws air all the time.")
        return FINE
    for number, gate in enumerate(order, 1):
        rule = project.gate[gate].rule
        print(f"{number:>3}  {gate}" + ("" if rule == "with its machine" else f"  ({rule})"))
    print()
    for machine, opened in gate_table(now).items():
        marks = " ".join("O" if gate in opened else "." for gate in order)
        print(f"{project.machine[machine].name:<24} {marks}")
    return FINE


def _help_most(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    now = assess(project)
    if options.machine is None:
        if options.part is not None:
            raise InputError(
                "--part", options.part, "name the machine as well whose air is asked about"
            )
        found, answer = shop_improvements(now), None
    else:
        # Only to refuse a machine that is not there, with those that are.
        scenario_of(project, [options.machine])
        found, answer = _found(now, options.machine, options.part), now.of_machine[options.machine]
    if options.json:
        report = help_report.help_report(now, options.machine, found[:MOST_LINES])
        print(json.dumps(report, indent=1, allow_nan=False))
        return FINE
    print(verdict(now, answer))
    display = Display(project.settings.units)
    for improvement in found[:MOST_LINES]:
        if options.part is None:
            cleared = cleared_words(improvement)
            wins = won_air(improvement, options.machine, display) or (
                "clears the way" if cleared else "fewer problems"
            )
            more: tuple[str, ...] = (cleared, lost_words(improvement, display))
        else:
            wins, more = difference_words(improvement, display), ()
        adds = added_words(added_findings(now, _with(now, improvement)))
        print(f"  {wins:>24}  {'; '.join(_facts(project, improvement, wins, (*more, adds)))}")
    if len(found) > MOST_LINES:
        print(f"  and {len(found) - MOST_LINES} more that win less")
    return FINE


def _with(now: Assessment, improvement: Improvement) -> Assessment:
    """The air with a change made."""
    after = improvement.edit(now.project)
    return assess(after, all_scenarios(after), now)


def _found(now: Assessment, machine: str, part: str | None) -> list[Improvement]:
    if part is None:
        return improvements(now, machine)
    if not isinstance(now.project.find(part), Point | Run | Gate):
        raise InputError("--part", part, "name a duct, a joint or a gate of this shop")
    return part_improvements(now, part, machine)


def _facts(
    project: Project, improvement: Improvement, wins: str, more: tuple[str, ...]
) -> list[str]:
    """What there is to say of a change besides what it wins."""
    slow = improvement.transport if "slowest air" not in wins else None
    facts = (
        improvement.words,
        "all needs met" if improvement.met else "",
        "" if slow is None else f"slowest air {slow:.0%} of what chips need",
        *more,
        *improvement.costs,
        money_words(improvement, project.build.currency),
    )
    return [fact for fact in facts if fact]


def _compare(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    chosen = [find(project, options.design)] if options.design else list(project.kept_designs)
    if not chosen:
        raise InputError("designs", project.name, "keep a design in this shop first")
    now, display = assess(project), Display(project.settings.units)
    for kept_design in chosen:
        rows = compared(now, kept_assessment(project, kept_design.id))
        print(
            f"{kept_design.name}: {served_words(*served(rows, False), len(rows))}; "
            f"as drawn now: {served_words(*served(rows, True), len(rows))}"
        )
        for row in rows:
            was, will = (
                display.airflow(f.airflow) if f else "none" for f in (row.kept, row.present)
            )
            shown = row.present or row.kept
            need = f" of {display.airflow(shown.need)}" if shown else ""
            print(f"  {row.name:<24} {was:>11} -> {will:>11}{need}")
    return FINE


def _size(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    ident = options.collector or next(iter(project.collector), None)
    if ident is not None and ident not in project.collector:
        raise InputError("collector", ident, _collectors_known(project))
    models = tuple(size_report.model_from_curve(project, ident, path) for path in options.curve)
    found = sizing_for(assess(project), ident, models)
    if options.json:
        print(json.dumps(size_report.size_report(project, ident, found), indent=1, allow_nan=False))
    else:
        print(size_report.size_text(project, ident, found))
    return FINE


def _schema(options: argparse.Namespace) -> int:
    del options
    print(json.dumps(project_file.schema(), indent=1, ensure_ascii=False))
    return FINE

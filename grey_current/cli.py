"""The command line: the same work without a window."""

from __future__ import annotations

import argparse
import json
import math
import sys
from importlib.metadata import version
from pathlib import Path

from grey_current import terminal
from grey_current.air import compiled
from grey_current.cli_build import EXAMPLES as BUILDING_EXAMPLES
from grey_current.cli_build import add_building
from grey_current.cli_keep import EXAMPLES as KEEPING_EXAMPLES
from grey_current.cli_keep import add_keeping
from grey_current.cli_log import EXAMPLES as LOGBOOK_EXAMPLES
from grey_current.cli_log import add_logbook
from grey_current.cli_practice import EXAMPLES as PRACTICE_EXAMPLES
from grey_current.cli_practice import add_practice
from grey_current.cli_work import EXAMPLES as WORKING_EXAMPLES
from grey_current.cli_work import add_working
from grey_current.design.collector.make_up_air import depression
from grey_current.design.collector.sizing import sizing
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assessment import Assessment, ScenarioAir, assess
from grey_current.design.flow.gates import gate_order, gate_table
from grey_current.design.flow.scenarios import scenario_of
from grey_current.design.improve.comparison import compared, kept_assessment, served
from grey_current.design.improve.ranking import Improvement, improvements, money_words, part_improvements
from grey_current.design.improve.shop_search import shop_improvements
from grey_current.design.laying.places import where_to_stand
from grey_current.design.laying.proposals import propose
from grey_current.design.laying.resizing import resized
from grey_current.design.words import state_word
from grey_current.errors import GreyCurrentError, InputError
from grey_current.files import air_report, check_report, laying_report, project_file, size_report
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.kept_designs import find
from grey_current.shop.model import Project
from grey_current.units import Display
from grey_current.workspace.helpers import helpers

FINE, FINDINGS, BAD_INPUT = 0, 1, 2

EXAMPLES = """\
examples:
  grey-current air loft.greycurrent.json                  each machine on its own, in turn
  grey-current air loft.greycurrent.json --on planer     only the planer
  grey-current air loft.greycurrent.json --on saw --on planer --json
                                                          both at once, every piece as JSON
  grey-current check loft.greycurrent.json                what is wrong, worst first
  grey-current gates loft.greycurrent.json                the table of machines and gates
  grey-current help-most loft.greycurrent.json planer     what would win it most air
  grey-current help-most loft.greycurrent.json            what would help the whole shop most
  grey-current help-most loft.greycurrent.json planer --part planer-hose
                                                          what other ways to make a part would be worth
  grey-current size loft.greycurrent.json                 what the collector must do, and which would do it
  grey-current size loft.greycurrent.json --curve fan.csv
                                                          the same, with a fan curve of your own among them
  grey-current compare loft.greycurrent.json              the designs kept in the file, side by side
  grey-current propose loft.greycurrent.json -o laid     whole layouts of ducts, each saved in a folder
  grey-current sizes loft.greycurrent.json                sizes for the ducts as they are drawn
  grey-current places loft.greycurrent.json               where the collector should stand
{building}
{working}
{keeping}
  grey-current schema > project.schema.json               the project file's JSON Schema

Estimates for planning, not a certificate."""


def main(arguments: list[str] | None = None) -> int:
    """Run one command. Exit status: 0 fine, 1 findings, 2 bad input."""
    options = _parser().parse_args(arguments)

    def command() -> int:
        return int(options.command(options))

    try:
        return terminal.run(command, "grey-current")
    except GreyCurrentError as problem:
        terminal.complain("grey-current", str(problem))
        return BAD_INPUT


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="grey-current",
        description="The air in a home woodshop's dust collection system.",
        epilog=EXAMPLES.format(
            building=BUILDING_EXAMPLES,
            working=WORKING_EXAMPLES,
            keeping="\n".join((KEEPING_EXAMPLES, LOGBOOK_EXAMPLES, PRACTICE_EXAMPLES)),
        ),
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument("--version", action="version", version=f"Grey Current {version('grey-current')}")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    air = commands.add_parser("air", help="airflow and pressure at every machine")
    air.add_argument("file", type=Path, metavar="FILE", help="a project file")
    air.add_argument(
        "--on",
        "--run",
        action="append",
        default=[],
        metavar="MACHINE",
        help="a machine's id to switch on; several together; without it each machine in turn",
    )
    air.add_argument("--json", action="store_true", help="every piece, pressure and airflow as JSON")
    air.set_defaults(command=_air)
    check = commands.add_parser("check", help="what is wrong, worst first; exit status 1 when anything is")
    check.add_argument("file", type=Path, metavar="FILE", help="a project file")
    check.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    check.set_defaults(command=_check)
    gates = commands.add_parser("gates", help="which gates are open for which machine, in the order of the main")
    gates.add_argument("file", type=Path, metavar="FILE", help="a project file")
    gates.set_defaults(command=_gates)
    helps = commands.add_parser("help-most", help="what would help most, each change computed")
    helps.add_argument("file", type=Path, metavar="FILE", help="a project file")
    helps.add_argument("machine", metavar="MACHINE", nargs="?", help="a machine's id; without it the whole shop")
    helps.add_argument("--part", metavar="ID", help="only the other ways to make this duct, joint or gate")
    helps.set_defaults(command=_help_most)
    compare = commands.add_parser("compare", help="kept designs against the present one, machine by machine")
    compare.add_argument("file", type=Path, metavar="FILE", help="a project file")
    compare.add_argument("design", nargs="?", metavar="DESIGN", help="a kept design's id or name; without it all")
    compare.set_defaults(command=_compare)
    size = commands.add_parser(
        "size", help="what the collector must do for each scenario, and how each candidate would do"
    )
    size.add_argument("file", type=Path, metavar="FILE", help="a project file")
    size.add_argument("--collector", metavar="ID", help="a collector's id; without it the first, or one to come")
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
    add_building(commands)
    add_working(commands)
    add_keeping(commands)
    add_logbook(commands)
    add_practice(commands)
    schema = commands.add_parser("schema", help="the JSON Schema of the project file")
    schema.set_defaults(command=_schema)
    return parser


def _add_laying(commands: argparse._SubParsersAction[argparse.ArgumentParser]) -> None:
    """The commands that lay ducts."""
    propose = commands.add_parser("propose", help="whole layouts of ducts, found by search")
    propose.add_argument("file", type=Path, metavar="FILE", help="a project file")
    propose.add_argument(
        "--only-unconnected", action="store_true", help="leave what is drawn alone, connect what is not connected"
    )
    propose.add_argument("--seconds", type=_seconds, metavar="N", help="begin no new search after so many seconds")
    propose.add_argument("--seed", type=int, default=0, metavar="N", help="another one gives other orders to try")
    propose.add_argument("--json", action="store_true", help="the same as JSON, with every whole project")
    propose.add_argument("-o", dest="folder", type=Path, metavar="FOLDER", help="save each as a project file there")
    propose.set_defaults(command=_propose)
    sizes = commands.add_parser("sizes", help="other sizes for the ducts as they are drawn")
    sizes.add_argument("file", type=Path, metavar="FILE", help="a project file")
    sizes.add_argument("--json", action="store_true", help="the same as JSON")
    sizes.add_argument("-o", dest="output", type=Path, metavar="FILE", help="save the shop with the better sizes")
    sizes.set_defaults(command=_sizes)
    places = commands.add_parser("places", help="where the collector should stand")
    places.add_argument("file", type=Path, metavar="FILE", help="a project file")
    places.add_argument("--collector", metavar="ID", help="a collector's id; without it the first")
    places.add_argument("--json", action="store_true", help="the same as JSON")
    places.set_defaults(command=_places)


def _seconds(text: str) -> float:
    """A time in seconds from the command line."""
    try:
        seconds = float(text)
    except ValueError:
        seconds = math.nan
    if not 0 < seconds <= 3600:
        raise argparse.ArgumentTypeError(f"{text!r} is no time: write seconds, more than 0 and at most 3600")
    return seconds


def _propose(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    if options.folder:
        laying_report.make_folder(options.folder)
    compiled.load_beside()
    found = propose(project, only_unconnected=options.only_unconnected, seconds=options.seconds, seed=options.seed)
    paths = laying_report.save_proposals(found, options.folder) if options.folder else []
    if options.json:
        print(json.dumps(laying_report.proposals_report(found), indent=1, allow_nan=False))
    else:
        print(laying_report.proposals_text(project, found))
        for path in paths:
            print(f"Saved {path}")
    return FINE


def _sizes(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    compiled.load_beside()
    found = resized(project)
    if options.output:
        project_file.save(found[0].project, options.output)
    if options.json:
        print(json.dumps(laying_report.sizes_report(found), indent=1, allow_nan=False))
    else:
        print(laying_report.sizes_text(project, found))
    return FINE


def _places(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    if options.collector is not None and options.collector not in project.collector:
        raise InputError("collector", options.collector, _collectors_known(project))
    compiled.load_beside()
    with helpers() as crew:
        found = where_to_stand(project, options.collector, crew=crew)
    if options.json:
        print(json.dumps(laying_report.places_report(found), indent=1, allow_nan=False))
    else:
        print(laying_report.places_text(project, found))
    return FINE


def _collectors_known(project: Project) -> str:
    return f"collectors of this shop are: {', '.join(project.collector) or 'none'}"


def _air(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    scenarios = [scenario_of(project, options.on)] if options.on else []
    assessment = assess(project, scenarios)
    if options.json:
        print(json.dumps(air_report.air_report(assessment), indent=1, allow_nan=False))
    else:
        print(_air_text(project, assessment))
    return FINE


def _air_text(project: Project, assessment: Assessment) -> str:
    display = Display(project.settings.units)
    lines = [f"{project.name}: {project.settings.criterion}, air {assessment.air.density:.3f} kg/m3"]
    for answer in assessment.answers:
        lines.append("")
        lines.append(verdict(assessment, answer))
        lines.extend(_pickup_lines(project, answer, display))
        for ident, system in answer.systems.items():
            if system.converged:
                lines.append(
                    f"  {project.collector[ident].name}: {display.airflow(system.airflow)}, fan static "
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
        lines.append(f"  {name:<32} {display.airflow(p.airflow):>11} of {display.airflow(p.need.airflow):>11}  {state}")
    return lines


def _check(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    found = all_findings(project, assess(project))
    if options.json:
        print(json.dumps(check_report.check_report(found), indent=1, allow_nan=False))
        return FINDINGS if found else FINE
    for finding in found:
        print(f"{finding.severity}: {finding.message} {' '.join(finding.remedies)}".rstrip())
    if not found:
        print(f"{project.name}: nothing found.")
    return FINDINGS if found else FINE


def _gates(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    now = assess(project)
    order = gate_order(now)
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
            raise InputError("--part", options.part, "name the machine as well whose air is asked about")
        print(verdict(now, None))
        found = shop_improvements(now)
    else:
        scenario_of(project, [options.machine])
        print(verdict(now, now.of_machine[options.machine]))
        found = _found(now, options.machine, options.part)
    for improvement in found:
        print(_improvement_line(project, improvement))
    return FINE


def _found(now: Assessment, machine: str, part: str | None) -> list[Improvement]:
    if part is None:
        return improvements(now, machine)
    if not isinstance(now.project.find(part), Point | Run | Gate):
        raise InputError("--part", part, "name a duct, a joint or a gate of this shop")
    return part_improvements(now, part, machine)


def _improvement_line(project: Project, improvement: Improvement) -> str:
    display = Display(project.settings.units)
    enough = "  all that is needed" if improvement.met else ""
    transport = (
        f"  slowest air {improvement.transport:.0%} of what chips need" if improvement.transport is not None else ""
    )
    costs = "".join(f"; {cost}" for cost in improvement.costs)
    money = money_words(improvement, project.build.currency)
    costs += f"; {money}" if money else ""
    sign = "-" if improvement.gain < 0 else "+"
    return f"  {sign + display.airflow(abs(improvement.gain)):>11}  {improvement.words}{enough}{transport}{costs}"


def _compare(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    chosen = [find(project, options.design)] if options.design else list(project.kept_designs)
    if not chosen:
        raise InputError("designs", project.name, "keep a design in this shop first")
    now, display = assess(project), Display(project.settings.units)
    for kept_design in chosen:
        rows = compared(now, kept_assessment(project, kept_design.id))
        print(f"{kept_design.name}: {served(rows, False)} of {len(rows)} served; as drawn now: {served(rows, True)}")
        for row in rows:
            was, will = (display.airflow(f.airflow) if f else "none" for f in (row.kept, row.present))
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
    found = sizing(assess(project), ident, models)
    if options.json:
        print(json.dumps(size_report.size_report(project, ident, found), indent=1, allow_nan=False))
    else:
        print(size_report.size_text(project, ident, found))
    return FINE


def _schema(options: argparse.Namespace) -> int:
    del options
    print(json.dumps(project_file.schema(), indent=1, ensure_ascii=False))
    return FINE


if __name__ == "__main__":
    sys.exit(main())

"""The commands that build: parts, cuts, phases, papers, and things made in the shop."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from grey_current.build.bill import bill
from grey_current.build.cuts import cutting_list
from grey_current.build.made.template import read
from grey_current.build.made.templates import TEMPLATES, full_size, sheet, template
from grey_current.build.phases import phase_facts, proposed_phases
from grey_current.build.reuse import reuse
from grey_current.build.standing import standing
from grey_current.cli_files import by_the_window, file_name, printed_by, save_project
from grey_current.design.parts.assembly import assemble
from grey_current.design.parts.phase_order import phase_of
from grey_current.errors import InputError
from grey_current.files import (
    assembly_report,
    build_report,
    laying_report,
    project_file,
    reuse_report,
)
from grey_current.files.building_files import save_lists
from grey_current.files.drawing_dxf import write_dxf
from grey_current.files.drawing_svg import svg
from grey_current.files.price_csv import price_list, read_prices
from grey_current.files.safe_write import check_export, write_export
from grey_current.shop.build_edits import with_prices
from grey_current.units import Display, System, parse_length, parse_money

FINE = 0
# m; a wider cut is no saw's.
MOST_KERF = 0.01
# What argparse adds commands to; its own name for it is private.
Commands = Any


def add_building(commands: Commands) -> None:
    """Add the commands that build."""
    parts = commands.add_parser("parts", help="everything that is to be bought, with prices")
    parts.add_argument("file", type=Path, metavar="FILE", help="a project file")
    parts.add_argument(
        "--phase", type=int, metavar="N", help="of the shop as it stands after a phase"
    )
    parts.add_argument(
        "--prices",
        type=Path,
        metavar="CSV",
        help="prices to count with, as written by --price-list",
    )
    how = parts.add_mutually_exclusive_group()
    how.add_argument("--csv", action="store_true", help="the same as CSV")
    how.add_argument(
        "--json", action="store_true", help="the same as JSON, SI units, with every straight piece"
    )
    how.add_argument(
        "--price-list",
        action="store_true",
        help="CSV of part keys and prices, to fill in and read back",
    )
    parts.set_defaults(command=_parts)
    made = commands.add_parser("assembly", help="every part in its place, and what joins what")
    made.add_argument("file", type=Path, metavar="FILE", help="a project file")
    made.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    made.set_defaults(command=_assembly)
    cuts = commands.add_parser("cuts", help="which piece comes out of which length of pipe")
    cuts.add_argument("file", type=Path, metavar="FILE", help="a project file")
    how = cuts.add_mutually_exclusive_group()
    how.add_argument("--csv", action="store_true", help="the same as CSV")
    how.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    cuts.set_defaults(command=_cuts)
    again = commands.add_parser(
        "reuse", help="an old shop's pieces in this one: used again, cut, left over, to buy"
    )
    again.add_argument("file", type=Path, metavar="FILE", help="the project file of the new shop")
    again.add_argument("old", type=Path, metavar="OLD", help="the project file of the old shop")
    again.add_argument(
        "-o", "--output", type=file_name, metavar="FILE", help="the new shop with the pieces in it"
    )
    again.add_argument("--json", action="store_true", help="the same as JSON, SI units")
    again.set_defaults(command=_reuse)
    phases = commands.add_parser("phases", help="what each phase costs and whom it serves")
    phases.add_argument("file", type=Path, metavar="FILE", help="a project file")
    phases.add_argument(
        "--budget", type=_money, metavar="N", help="propose phases that cost no more than this each"
    )
    phases.add_argument("--json", action="store_true", help="the same as JSON")
    phases.add_argument(
        "-o",
        dest="output",
        type=file_name,
        metavar="FILE",
        help="save the shop with the proposed phases",
    )
    phases.set_defaults(command=_phases)
    _add_papers(commands)
    _add_templates(commands)


def _add_papers(commands: Commands) -> None:
    papers = commands.add_parser(
        "papers", help="plan, elevations, parts and cuts to take to the shop"
    )
    papers.add_argument("file", type=Path, metavar="FILE", help="a project file")
    papers.add_argument(
        "-o", dest="folder", type=file_name, required=True, metavar="FOLDER", help="where they go"
    )
    for kind, words in (
        ("pdf", "all on pages"),
        ("svg", "the drawings"),
        ("dxf", "the drawings, in true size"),
    ):
        papers.add_argument(
            f"--{kind}",
            action="store_true",
            help=f"{words}, as {kind.upper()}; without any of these all",
        )
    papers.add_argument("--letter", action="store_true", help="pages of Letter size instead of A4")
    papers.set_defaults(command=_papers)


def _add_templates(commands: Commands) -> None:
    made = commands.add_parser(
        "make",
        help="drawings of things to make in the shop",
        epilog=_make_help(),
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    made.add_argument("what", metavar="THING", help=", ".join(item.name for item in TEMPLATES))
    made.add_argument(
        "sizes", nargs="*", metavar="NAME=SIZE", help="figures, such as bore=4in gap=0.5mm"
    )
    made.add_argument(
        "--units",
        choices=("us", "metric"),
        default="us",
        help="units of the drawing and of bare numbers",
    )
    made.add_argument(
        "-o",
        dest="output",
        type=file_name,
        metavar="FILE",
        help="save the drawing: .svg to scale, .pdf at full size on several sheets, .dxf for a "
        "machine (layers CUT, DRILL, SCORE), .stl of the pieces for a printer",
    )
    made.add_argument("--letter", action="store_true", help="sheets of Letter size instead of A4")
    made.add_argument(
        "--kerf", metavar="SIZE", help="move contours by half a saw's cut: --kerf 3mm"
    )
    made.set_defaults(command=_make)


EXAMPLES = """\
  grey-current parts loft.greycurrent.json              what to buy, with prices
  grey-current assembly loft.greycurrent.json --json    every part in its place in space
  grey-current cuts loft.greycurrent.json               what to cut out of which length
  grey-current phases loft.greycurrent.json --budget 800  phases that cost no more than that each
  grey-current papers loft.greycurrent.json -o papers   PDF, drawings and lists for the ladder
  grey-current make gate bore=6in -o gate.svg           a drawing of a gate to make"""


def _make_help() -> str:
    lines = []
    for item in TEMPLATES:
        asks = ", ".join(f"{asked.name} ({asked.label.lower()})" for asked in item.asks)
        lines.append(f"  {item.name}: {item.title}. {asks}")
    return "\n".join(["things and the figures they ask for:", *lines])


def _money(text: str) -> float:
    try:
        return parse_money(text, "the budget")
    except ValueError:
        raise argparse.ArgumentTypeError(
            f"{text!r} is no sum of money: write a number such as 800"
        ) from None


def _print_json(report: object) -> int:
    print(json.dumps(report, indent=1, allow_nan=False))
    return FINE


def _parts(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    if options.prices:
        read = read_prices(options.prices, project.build.currency, ())
        project = with_prices(project, read.prices)
    if options.phase is not None:
        last = max((*phase_of(project).values(), len(project.build.phases)), default=1)
        if not 1 <= options.phase <= last:
            raise InputError("--phase", options.phase, f"phases of this shop are 1 to {last}")
        project = standing(project, options.phase)
    found = bill(project)
    if options.json:
        return _print_json(build_report.parts_report(found))
    # The two tables end their last line themselves.
    if options.price_list:
        print(price_list(found), end="")
    elif options.csv:
        print(build_report.parts_csv(found), end="")
    else:
        print(build_report.parts_text(found))
    return FINE


def _assembly(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    made = assemble(project)
    if options.json:
        return _print_json(assembly_report.assembly_report(project, made))
    print(assembly_report.assembly_text(project, made))
    return FINE


def _cuts(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    found = cutting_list(project)
    if options.json:
        return _print_json(build_report.cuts_report(project, found))
    if options.csv:
        print(build_report.cuts_csv(project, found), end="")
    else:
        print(build_report.cuts_text(project, found))
    return FINE


def _reuse(options: argparse.Namespace) -> int:
    project, old = project_file.load(options.file), project_file.load(options.old)
    found = reuse(project, old)
    if options.json:
        print(json.dumps(reuse_report.reuse_report(found), indent=1, allow_nan=False))
    else:
        print(reuse_report.reuse_text(found, old.name))
    if options.output is not None:
        print("\n".join(save_project(found.project, options.output)))
    return FINE


def _phases(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    if options.budget is not None:
        project = proposed_phases(project, options.budget)
    elif options.output:
        raise InputError(
            "-o",
            str(options.output),
            "give a budget as well; without one nothing is proposed to be saved",
        )
    saved = save_project(project, options.output)
    facts = phase_facts(project)
    if options.json:
        return _print_json(build_report.phases_report(project, facts))
    print("\n".join([build_report.phases_text(project, facts), *saved]))
    return FINE


def _papers(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    wanted = {kind for kind in ("pdf", "svg", "dxf") if getattr(options, kind)} or {
        "pdf",
        "svg",
        "dxf",
    }
    laying_report.make_folder(options.folder)
    for saved in save_lists(project, options.folder, wanted):
        print(saved)
    if "pdf" in wanted:
        print(
            by_the_window(options.file, options.folder / "papers.pdf", "--papers", options.letter)
        )
    return FINE


def _save_made(options: argparse.Namespace, given: dict[str, float], kerf: float) -> str:
    """Save a thing's drawing as what its file's name ends with: SVG to scale, DXF, PDF and STL at
    full size. Raises `InputError` for another ending.
    """
    path, display = options.output, Display(options.units)
    check_export(path)
    ending = path.suffix.lower()
    if ending == ".dxf":
        return write_dxf([full_size(options.what, given, display, kerf)], path)
    if ending == ".pdf":
        size = "Letter" if options.letter else "A4"
        asked = {"figures": given, "kerf": kerf, "units": options.units, "size": size}
        module = "grey_current.desk.papers.full_size_pages"
        return printed_by(module, [options.what, str(path), json.dumps(asked)], path)
    if ending == ".stl":
        from grey_current.files.space_files import made_stl  # noqa: PLC0415 - it takes numpy along

        content, words = made_stl(options.what, given, display)
        return f"{write_export(content, path)}. {words}"
    if ending != ".svg":
        raise InputError("-o", str(path), "end its name with .svg, .dxf, .pdf or .stl")
    return write_export(svg(sheet(options.what, given, display)), path)


def _make(options: argparse.Namespace) -> int:
    units: System = options.units
    display, chosen = Display(units), template(options.what)
    known = {asked.name: asked for asked in chosen.asks}
    given = {}
    for text in options.sizes:
        name, equals, value = text.partition("=")
        if not equals or name not in known:
            raise InputError(chosen.title, text, f"write NAME=SIZE with one of {', '.join(known)}")
        given[name] = read(known[name], value, display)
    drawing = sheet(chosen.name, given, display)
    kerf = parse_length(options.kerf, units, "--kerf") if options.kerf else 0.0
    if not 0 <= kerf <= MOST_KERF:
        raise InputError("--kerf", options.kerf, f"give from 0 to {display.length(MOST_KERF)}")
    saved = [_save_made(options, given, kerf)] if options.output else []
    print("\n".join([drawing.title, *drawing.notes, *saved]))
    return FINE

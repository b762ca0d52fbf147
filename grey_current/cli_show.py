"""The commands that show: putting up step by step, the shop in space, a page to share, the program
on the desktop.
"""

from __future__ import annotations

import argparse
import json
import re
import sys
from dataclasses import asdict
from pathlib import Path
from typing import Any, get_args

import platformdirs

from grey_current.build.bill import bill
from grey_current.build.cuts import numbered
from grey_current.build.setting_out import SettingOut
from grey_current.build.solid.presets import Preset, preset
from grey_current.build.solid.shop_solids import shop_solids
from grey_current.build.steps import build_steps, step_line
from grey_current.cli_files import by_the_window, file_name
from grey_current.design.flow.assess import assess
from grey_current.design.parts.assembly import assemble
from grey_current.files import desktop_entry, project_file, space_files
from grey_current.files.safe_write import check_export, write_export
from grey_current.files.share_page import Sharing, share_page

FINE = 0
# Pixels across or down of a picture.
LEAST_PIXELS, MOST_PIXELS = 16, 8000
# What argparse adds commands to; its own name for it is private.
Commands = Any
EXAMPLES = """\
  grey-current steps loft.greycurrent.json -o steps.pdf putting up, four steps a page
  grey-current space loft.greycurrent.json -o shop.glb  the shop in space, for other programs
  grey-current share loft.greycurrent.json -o page.html one page to show to others"""


def add_showing(commands: Commands) -> None:
    """Add the commands that show."""
    _add_space(commands)
    _add_share(commands)
    _add_integrate(commands)


def _add_space(commands: Commands) -> None:
    steps = commands.add_parser("steps", help="putting up step by step: what goes on what")
    steps.add_argument("file", type=Path, metavar="FILE", help="a project file")
    steps.add_argument("--json", action="store_true", help="the same as JSON")
    steps.add_argument(
        "-o", dest="output", type=file_name, metavar="FILE.pdf", help="on pages, with pictures"
    )
    steps.add_argument("--letter", action="store_true", help="pages of Letter size instead of A4")
    steps.set_defaults(command=_steps)
    space = commands.add_parser(
        "space", help="the shop in space: glTF, OBJ or STL for other programs, or a picture"
    )
    space.add_argument("file", type=Path, metavar="FILE", help="a project file")
    space.add_argument(
        "-o",
        dest="output",
        type=file_name,
        required=True,
        metavar="FILE",
        help=f"by the ending of its name: {', '.join(space_files.WRITERS)}",
    )
    space.add_argument(
        "--from",
        dest="look",
        choices=get_args(Preset),
        default="corner",
        help="from where a picture is seen",
    )
    space.add_argument(
        "--size", type=_pixels, metavar="WxH", help="how many pixels a picture has, as 1600x900"
    )
    space.set_defaults(command=_space)


def _add_share(commands: Commands) -> None:
    share = commands.add_parser(
        "share", help="one page of HTML to show to others: plan, space, air, parts, problems"
    )
    share.add_argument("file", type=Path, metavar="FILE", help="a project file")
    share.add_argument(
        "-o", dest="output", type=file_name, required=True, metavar="FILE", help="where it goes"
    )
    share.add_argument("--prices", action="store_true", help="with what parts cost")
    share.add_argument("--notes", action="store_true", help="with your own notes")
    share.add_argument("--ask", default="", metavar="TEXT", help="a question that stands on top")
    share.set_defaults(command=_share)


def _add_integrate(commands: Commands) -> None:
    integrate = commands.add_parser(
        "integrate", help="the program in the desktop's menu, and its files opened by it"
    )
    integrate.add_argument(
        "--remove", action="store_true", help="remove it from the desktop's menu again"
    )
    integrate.add_argument(
        "--prefix",
        type=file_name,
        metavar="FOLDER",
        help="the data folder, such as /usr/share; your own without it",
    )
    integrate.set_defaults(command=_integrate)


def _integrate(options: argparse.Namespace) -> int:
    # An application's own folder lies below that of all data.
    folder = options.prefix or Path(platformdirs.user_data_dir())
    if options.remove:
        gone = desktop_entry.withdraw(folder)
        print("\n".join(f"Removed: {path}" for path in gone) or "Nothing of it was there.")
        return FINE
    program = Path(sys.executable).with_name("grey-current-desk")
    for path in desktop_entry.integrate(folder, program):
        print(f"Written: {path}")
    return FINE


def _steps(options: argparse.Namespace) -> int:
    project = project_file.load(options.file)
    found = bill(project)
    steps = build_steps(SettingOut(found.parts, numbered(found.cuts)))
    if options.output is not None:
        print(by_the_window(options.file, options.output, "--steps", options.letter))
        return FINE
    if options.json:
        report = {"format": "grey-current/steps/1", "steps": [asdict(s) for s in steps]}
        print(json.dumps(report, indent=1))
        return FINE
    print("\n".join(map(step_line, steps)) or f"{project.name}: nothing to put up.")
    return FINE


def _space(options: argparse.Namespace) -> int:
    path = options.output
    check_export(path)
    project = project_file.load(options.file)
    solids = shop_solids(project, assemble(project))
    size = options.size or space_files.SIZE
    camera = preset(project, options.look, *size)
    print(f"{write_export(space_files.written(solids, camera, path.name, size), path)}.")
    return FINE


def _pixels(text: str) -> tuple[int, int]:
    """A size such as 1600x900. Raises argparse's own error for what is none."""
    found = re.fullmatch(r"(\d{1,5})\s*[x×]\s*(\d{1,5})", text.strip())
    wide, high = (int(part) for part in found.groups()) if found else (0, 0)
    if not (min(wide, high) >= LEAST_PIXELS and max(wide, high) <= MOST_PIXELS):
        raise argparse.ArgumentTypeError(
            f"'{text}' is no size: write pixels across and down from {LEAST_PIXELS} to "
            f"{MOST_PIXELS}, such as 1600x900"
        )
    return wide, high


def _share(options: argparse.Namespace) -> int:
    check_export(options.output)
    now = assess(project_file.load(options.file))
    page = share_page(now, Sharing(options.prices, options.notes, options.ask))
    print(f"{write_export(page, options.output)}.")
    return FINE

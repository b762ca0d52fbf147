"""The command line: the same work without a window.

Here stands only which module holds which commands; the one that is asked for is imported then, so
that an answer comes soon, and Ctrl-C while that goes on is a line.
"""

from __future__ import annotations

import argparse
import importlib
import sys
from dataclasses import dataclass
from types import ModuleType

from grey_current import terminal
from grey_current.errors import GreyCurrentError

BAD_INPUT = 2


@dataclass(frozen=True)
class Group:
    """Commands that live in one module, and the function there that adds them to a parser."""

    module: str
    adds: str
    commands: tuple[str, ...]

    def load(self) -> ModuleType:
        """Import the module."""
        return importlib.import_module(f"grey_current.{self.module}")


GROUPS = (
    Group("cli_air", "add_air", ("air",)),
    Group("cli_air", "add_reach", ("reach",)),
    Group(
        "cli_design",
        "add_design",
        (
            "check",
            "gates",
            "help-most",
            "compare",
            "size",
            "propose",
            "sizes",
            "places",
            "next",
            "schema",
        ),
    ),
    Group("cli_why", "add_why", ("why", "reasons")),
    Group(
        "cli_build",
        "add_building",
        ("parts", "assembly", "cuts", "reuse", "phases", "papers", "make"),
    ),
    Group("cli_show", "add_showing", ("steps", "space", "share", "integrate")),
    Group(
        "cli_work", "add_working", ("cards", "day", "room", "chores", "separators", "arrangements")
    ),
    Group("cli_keep", "add_keeping", ("sure", "fit", "faults", "next-reading", "monthly")),
    Group("cli_log", "add_logbook", ("forecast", "log")),
    Group("cli_practice", "add_practice", ("practise", "guess", "standin")),
)


def main(arguments: list[str] | None = None) -> int:
    """Run one command. Exit status: 0 fine, 1 findings, 2 bad input, 130 stopped by Ctrl-C."""
    given = sys.argv[1:] if arguments is None else arguments
    try:
        options = _parser(given).parse_args(given)
        return terminal.run(lambda: int(options.command(options)), "grey-current")
    except GreyCurrentError as problem:
        terminal.complain("grey-current", str(problem))
        return BAD_INPUT
    except KeyboardInterrupt:
        terminal.complain("grey-current", "stopped by Ctrl-C; nothing was changed.")
        return terminal.INTERRUPTED


def _version(given: list[str]) -> str:
    """What --version says; looked up only where it is asked for, for that takes a while."""
    if "--version" not in given:
        return ""
    from importlib.metadata import version  # noqa: PLC0415 - slow to load

    return f"Grey Current {version('grey-current')}"


def _parser(given: list[str]) -> argparse.ArgumentParser:
    """The parser of the command that is asked for, or of all where that is not known or help is
    wanted.
    """
    asked = given[0] if given else ""
    groups = [group for group in GROUPS if asked in group.commands] or list(GROUPS)
    modules = [group.load() for group in groups]
    examples = "\n".join(module.EXAMPLES for module in modules)
    parser = argparse.ArgumentParser(
        prog="grey-current",
        description="The air in a home woodshop's dust collection system.",
        epilog=f"examples:\n{examples}\n\nEstimates for planning, not a certificate.",
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    parser.add_argument("--version", action="version", version=_version(given))
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    for group, module in zip(groups, modules, strict=True):
        getattr(module, group.adds)(commands)
    return parser


if __name__ == "__main__":
    sys.exit(main())

"""Which main stays good for the next machines, as text and as JSON in SI units."""

from __future__ import annotations

from typing import Any

from grey_current.air.needs import MET_FROM
from grey_current.design.laying.next_machine import MainChoice, NextMachines
from grey_current.numerals import decimal
from grey_current.shop.model import Project
from grey_current.units import Display

FORMAT = "grey-current/next/1"


def main_words(project: Project, choice: MainChoice) -> str:
    """What a choice is called: "the main as drawn", "a 6 in main"."""
    if choice.size is None:
        return "the main as drawn"
    return f"a {Display(project.settings.units).diameter(choice.size)} main"


def next_lines(project: Project, found: NextMachines) -> list[str]:
    """What one had better do, and what each next machine would get then, in sentences."""
    best, drawn = found.best, found.choices[0]
    name = main_words(project, best)
    lines = [f"With the next machines in mind: {name}."]
    if best is not drawn and best.extra is not None:
        lines[0] = f"{lines[0][:-1]}; {_extra_words(project, best)} as drawn."
    for number, machine in enumerate(found.names):
        share = best.shares[number]
        if share >= MET_FROM:
            lines.append(f"{machine}: gets its air.")
        elif any(choice.shares[number] >= MET_FROM for choice in found.choices):
            lines.append(f"{machine}: {share:.0%} of its need; a wider main would serve it.")
        else:
            lines.append(f"{machine}: {share:.0%} of its need; no main here would serve it.")
    return lines


def rows(project: Project, found: NextMachines) -> list[tuple[str, ...]]:
    """A row for each choice: what it is, whom it serves now, for how many of the next it stays
    good, what it costs, and what it costs at worst over the best choice.
    """
    display = Display(project.settings.units)
    made: list[tuple[str, ...]] = []
    for choice in found.choices:
        size = "as drawn" if choice.size is None else display.diameter(choice.size)
        extra = "–" if choice.extra is None else f"{round(choice.extra) + 0:+,}"
        made.append(
            (
                size,
                f"{choice.served} of {choice.asked}",
                f"{choice.good_for} of {len(found.names)}",
                "0" if choice.size is None else extra,
                "–" if choice.regret is None else decimal(choice.regret),
            )
        )
    return made


def next_text(project: Project, found: NextMachines) -> str:
    """The rows and sentences, in the project's units and currency."""
    lines = [f"{project.name}: the next machines, and which main stays good for them", ""]
    heads = ("main", "served now", "good for next", "price", "at worst")
    for row in (heads, *rows(project, found)):
        lines.append("  ".join(cell.rjust(13) for cell in row))
    lines += ["", *next_lines(project, found)]
    lines.append(
        f"Price in {project.build.currency} over the main as drawn; at worst: what it costs more "
        "than the best choice would have, whichever of them comes."
    )
    return "\n".join(lines)


def next_report(found: NextMachines) -> dict[str, Any]:
    """The same for programs."""
    return {
        "format": FORMAT,
        "machines": list(found.names),
        "choices": [
            {
                "size_m": choice.size,
                "served": choice.served,
                "asked": choice.asked,
                "trouble": choice.trouble,
                "shares": list(choice.shares),
                "extra": choice.extra,
                "later": list(choice.later),
                "regret": choice.regret,
                "best": choice is found.best,
            }
            for choice in found.choices
        ],
    }


def _extra_words(project: Project, choice: MainChoice) -> str:
    extra = choice.extra or 0.0
    about = f"{decimal(abs(extra))} {project.build.currency}"
    if abs(extra) < 1:
        return "it costs as much as"
    return f"it costs about {about} {'more' if extra > 0 else 'less'} than"

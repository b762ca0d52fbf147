"""The arrangements of a shop compared, as text and as JSON."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import Any

from grey_current.shop.arrangements import minutes_words
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.units import Display
from grey_current.work.arrangements import ArrangementFacts

FORMAT = "grey-current/arrangements/1"


def text(project: Project, found: Sequence[ArrangementFacts]) -> str:
    """The arrangements as lines."""
    if not found:
        return "This shop has no arrangements: it stands in one way only."
    display, names = Display(project.settings.units), Names(project)
    lines: list[str] = []
    for each in found:
        lines.append(f"{each.name}{' (laid out now)' if each.now else ''}")
        lines.append(f"    {each.served} of {each.asked} machines get the air that they need")
        for machine, longest in each.longest.items():
            board = display.about(longest, down=True)
            lines.append(f"    boards up to {board} at {names.of(machine)}")
        if each.cut_off:
            away = ", ".join(names.of(ident) for ident in each.cut_off)
            lines.append(f"    the ducts do not reach: {away}")
        if each.moved:
            moved = ", ".join(names.of(ident) for ident in each.moved)
            lines.append(f"    to move: {moved}; {minutes_words(each.minutes)}")
        lines += [f"    {problem}" for problem in each.problems]
    return "\n".join(lines)


def report(found: Sequence[ArrangementFacts]) -> dict[str, Any]:
    """The same in SI units, as JSON has it."""
    return {"format": FORMAT, "arrangements": [asdict(each) for each in found]}

"""The parts that an inspector page is made of, as plain values; the inspector turns them into
widgets.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from grey_current.build.drawing import Drawing
from grey_current.design.findings.finding import Finding
from grey_current.errors import InputError
from grey_current.numerals import compact
from grey_current.shop import edits
from grey_current.shop.collectors import Collector
from grey_current.shop.edits import Edit
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.units import (
    FOOT,
    Display,
    System,
    parse_airflow,
    parse_length,
    parse_length_like,
    parse_number,
    parse_power,
    parse_pressure,
    parse_surface,
    parse_temperature,
    parse_volume,
)

# What a field makes of a project and the value that was given.
Changed = Callable[[Project, Any], Project]
# What reads a quantity: its text, the system of units, what is read for the error.
Reader = Callable[[str, System, str], float]


# Words beside the floor without unfolding anything.
MOST_WORDS = 120


@dataclass(frozen=True)
class Fact:
    """A line that is read only; `state` colours it and gives it its shape, `prose` makes it a
    paragraph to be read.
    """

    label: str
    value: str
    state: str = ""
    prose: bool = False


@dataclass(frozen=True)
class TextField:
    """A value typed in.

    `read` makes it of the text, or raises `InputError` that says why not; `edit` puts it into the
    project. A field that is no edit of the project has `act` instead. `say` writes what was
    understood, shown while it is typed. `quantity` (of `unit_choices`) and its `amount` offer the
    value in other units; `unit` stands after a figure that has only one.
    """

    key: str
    label: str
    value: str
    step: str
    read: Callable[[str], Any]
    edit: Changed | None = None
    act: Callable[[Any], None] | None = None
    say: Callable[[Any], str] | None = None
    quantity: str = ""
    amount: float | None = None
    unit: str = ""


@dataclass(frozen=True)
class ChoiceField:
    """A value picked from a list of (value, words); `edit` puts it into the project, or `act` does
    something else.
    """

    key: str
    label: str
    value: str
    options: tuple[tuple[str, str], ...]
    step: str
    edit: Changed | None = None
    act: Callable[[str], None] | None = None


@dataclass(frozen=True)
class ActionField:
    """A button that makes one edit, or does something else.

    Attributes:
        detail: A second line on it.
        primary: Whether it is the one thing to do next on its page, and is filled.
    """

    key: str
    label: str
    step: str
    edit: Edit | None = None
    detail: str = ""
    act: Callable[[], None] | None = None
    primary: bool = False


@dataclass(frozen=True)
class Picture:
    """A small drawing, and in words what it shows."""

    drawing: Drawing
    words: str


@dataclass(frozen=True)
class Table:
    """Rows under headings: words in the first column, figures in the others.

    Attributes:
        states: A state for each row, drawn as its shape at the row's end; none at all for ().
    """

    headings: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    states: tuple[str, ...] = ()


Field = TextField | ChoiceField | ActionField
Item = Fact | Picture | Table | Field


@dataclass(frozen=True)
class Section:
    """Items under one heading; a page that is too long folds it.

    Attributes:
        brief: How many of the first items are in sight while it is folded.
        summary: What stands beside the heading while it is folded.
        open_first: Whether it stays open however long the page is.
    """

    title: str
    items: tuple[Item, ...]
    brief: int = 0
    summary: str = ""
    open_first: bool = False


@dataclass(frozen=True)
class Page:
    """One page: what is selected, in plain words, with its sections and findings.

    Attributes:
        subtitle: What it is and how it is handled, in one line.
        answer: The one answer that the page has, in a sentence.
        state: The state of what is selected, shown as a shape beside the title.
        problems: Whether problems may be found a moment after the page is shown.
        explained: Problems that come from the cause that the page names.
        words: How many words may be in sight before anything is unfolded.
    """

    title: str
    subtitle: str
    sections: tuple[Section, ...]
    findings: tuple[Finding, ...]
    caution: str = ""
    answer: str = ""
    state: str = ""
    problems: bool = True
    explained: tuple[Finding, ...] = ()
    words: int = MOST_WORDS


# The systems of units, as they are chosen.
SYSTEMS = (("us", "Feet, inches, CFM"), ("metric", "mm, m, m³/h"), ("metric-cm", "cm, m, m³/h"))
NOTHING = ("", "-", "–", "none", "not said", "any")
# A length as it stands in a sentence: "I want to rip 8 ft boards".
LENGTH_WITHIN = (
    r"-?\d[\d\s./,'\"’”½¼¾-]*(?:mm|cm|ft|feet|foot|inch(?:es)?|in|m)?(?:[\d\s./½¼¾-]+(?:in|\"|”))?"
)

# -- fields that many pages have


def length_field(
    project: Project,
    key: str,
    label: str,
    value: float,
    edit: Changed,
    step: str = "",
    least: float = 0.0,
) -> TextField:
    """A length (m) shown and read in the project's units; `edit` gets it in metres. It cannot be
    less than `least`.
    """
    units = project.settings.units
    words, say = step or f"Change the {label.lower()}", Display(units).length
    return TextField(
        key,
        label,
        say(value),
        step=words,
        read=lambda t: parse_length_like(t, units, label, value, least),
        edit=edit,
        say=say,
        quantity="length",
        amount=value,
    )


def lead_field(project: Project, item: Machine | Collector) -> TextField:
    """How long something's power lead is; 0 where it is not known."""
    return length_field(
        project,
        f"{item.id}/lead",
        "Its lead",
        item.lead or 0.0,
        edit=lambda p, v: edits.changed(p, item.id, lead=v or None),
    )


def offset_field(
    project: Project, key: str, label: str, value: float, edit: Changed, step: str
) -> TextField:
    """A length (m) to one side or the other: with a minus sign it is to the opposite one."""
    units = project.settings.units

    def read(text: str) -> float:
        bare = text.strip().replace("−", "-")
        length = parse_length_like(bare.removeprefix("-"), units, label, abs(value))
        return -length if bare.startswith("-") else length

    say = Display(units).length
    return TextField(
        key,
        label,
        say(value),
        step=step,
        read=read,
        edit=edit,
        say=say,
        quantity="length",
        amount=value,
    )


def wish_field(project: Project) -> TextField:
    """The longest board that the user wants to work."""
    wish, units = project.settings.longest_board, project.settings.units
    shown = "not said" if wish is None else Display(units).length(wish)

    def read(text: str) -> float | None:
        """A length, also in the middle of a sentence; nothing, or that it is not said, takes the
        wish away.
        """
        if text.strip().lower() in NOTHING:
            return None
        # The first length in the sentence, whatever else is said.
        found = re.search(LENGTH_WITHIN, text, re.IGNORECASE)
        return parse_length(found[0] if found else text, units, "Longest board")

    return TextField(
        "wish",
        "Longest board",
        shown,
        step="Change the longest board",
        read=read,
        edit=lambda p, v: edits.with_settings(p, longest_board=v),
        say=lambda v: "not said" if v is None else Display(units).length(v),
    )


def altitude_field(project: Project) -> TextField:
    """The shop's height above the sea; a bare number is in feet or metres, not in inches or
    millimetres.
    """
    units = project.settings.units
    unit, size = ("ft", FOOT) if units == "us" else ("m", 1.0)

    def read(text: str) -> float:
        return parse_length(
            text if text.strip()[-1:].isalpha() else f"{text} {unit}", units, "Altitude"
        )

    shown = f"{project.settings.altitude / size:.0f} {unit}"
    return TextField(
        "altitude",
        "Altitude",
        shown,
        step="Change the altitude",
        read=read,
        edit=lambda p, v: edits.with_settings(p, altitude=v),
        say=lambda v: f"{v / size:.0f} {unit}",
        quantity="altitude",
        amount=project.settings.altitude,
    )


def number_field(key: str, label: str, value: float, edit: Changed, unit: str = "") -> TextField:
    """A plain number, with its unit after it."""

    def read(text: str) -> float:
        try:
            return parse_number(text.strip().lower().removesuffix(unit.lower()))
        except ValueError:
            raise InputError(
                label, text, f"write a number such as {compact(value)} {unit}".rstrip()
            ) from None

    return TextField(
        key,
        label,
        f"{compact(value)} {unit}".rstrip(),
        step=f"Change {label.lower()}",
        read=read,
        edit=edit,
        unit=unit,
    )


# How each quantity is said and read; lengths have fields of their own.
_SAID_AND_READ: dict[str, tuple[Callable[[Display, float], str], Reader]] = {
    "airflow": (Display.airflow, parse_airflow),
    "pressure": (Display.pressure, parse_pressure),
    "power": (Display.power, parse_power),
    "surface": (Display.surface, parse_surface),
    "temperature": (Display.temperature, parse_temperature),
    "volume": (Display.volume, parse_volume),
}


def measured_field(
    quantity: str,
    project: Project,
    key: str,
    label: str,
    value: float,
    edit: Changed,
    step: str = "",
    asked: str = "",
) -> TextField:
    """A quantity (SI; °C, litres) shown and read in the project's units; a complaint names it by
    what was `asked`.
    """
    units = project.settings.units
    said, read = _SAID_AND_READ[quantity]
    display = Display(units)
    return TextField(
        key,
        label,
        said(display, value),
        step=step or f"Change {label.lower()}",
        read=lambda text: read(text, units, asked or label),
        edit=edit,
        say=lambda v: said(display, v),
        quantity=quantity,
        amount=value,
    )


def name_field(element: str, value: str) -> TextField:
    """The element's name."""
    return TextField(
        f"{element}/name",
        "Name",
        value,
        step="Rename",
        read=str,
        edit=lambda p, v: edits.changed(p, element, name=v),
    )


def choice(
    element: str,
    field: str,
    label: str,
    value: str,
    options: tuple[tuple[str, str], ...],
    step: str = "",
) -> ChoiceField:
    """A field of an element picked from a list."""
    words = step or f"Change {label.lower()}"
    return ChoiceField(
        f"{element}/{field}",
        label,
        value,
        options,
        step=words,
        edit=lambda p, v: edits.changed(p, element, **{field: v}),
    )


def pinned_field(element: str, value: bool) -> ChoiceField:
    """Whether a duct or joint stays as it is when ducts are laid by search."""
    return yes_no(element, "pinned", "When laid anew", value, ("stays: pinned", "may change"))


def percent_field(key: str, label: str, value: float, edit: Changed, step: str = "") -> TextField:
    """A share shown and read in per cent."""

    def read(text: str) -> float:
        try:
            return parse_number(text.strip().removesuffix("%")) / 100
        except ValueError:
            raise InputError(label, text, "write a number of per cent such as 0.5 %") from None

    return TextField(
        key,
        label,
        f"{compact(value * 100)} %",
        step=step or f"Change {label.lower()}",
        read=read,
        edit=edit,
        unit="%",
    )


def yes_no(
    element: str, field: str, label: str, value: bool, words: tuple[str, str] = ("yes", "no")
) -> ChoiceField:
    """A yes or no of an element."""
    options = (("yes", words[0]), ("no", words[1]))
    return ChoiceField(
        f"{element}/{field}",
        label,
        "yes" if value else "no",
        options,
        step=f"Change {label.lower()}",
        edit=lambda p, v: edits.changed(p, element, **{field: v == "yes"}),
    )

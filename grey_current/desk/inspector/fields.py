"""The parts that an inspector page is made of, as plain values; the inspector turns them into widgets."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from grey_current.design.findings.finding import Finding
from grey_current.errors import InputError
from grey_current.shop import edits
from grey_current.shop.edits import Edit
from grey_current.shop.model import Project
from grey_current.units import FOOT, Display, parse_length


@dataclass(frozen=True)
class Fact:
    """A line that is read only; `state` colours it and gives it its shape."""

    label: str
    value: str
    state: str = ""


@dataclass(frozen=True)
class TextField:
    """A value typed in; `edit` turns the text into an edit, or raises `InputError` that says why not.

    Here and in the other fields, an edit of None says that what was asked has been done without one.
    """

    key: str
    label: str
    value: str
    step: str
    edit: Callable[[str], Edit | None]


@dataclass(frozen=True)
class ChoiceField:
    """A value picked from a list of (value, words)."""

    key: str
    label: str
    value: str
    options: tuple[tuple[str, str], ...]
    step: str
    edit: Callable[[str], Edit | None]


@dataclass(frozen=True)
class ActionField:
    """A button that makes one edit; `detail` is a second line on it."""

    key: str
    label: str
    step: str
    edit: Callable[[], Edit | None]
    detail: str = ""


Field = TextField | ChoiceField | ActionField
Item = Fact | Field


@dataclass(frozen=True)
class Section:
    """Items under one heading."""

    title: str
    items: tuple[Item, ...]


@dataclass(frozen=True)
class Page:
    """One page: what is selected, in plain words, with its sections and findings."""

    title: str
    subtitle: str
    sections: tuple[Section, ...]
    findings: tuple[Finding, ...]
    caution: str = ""


def capital(text: str) -> str:
    """The text with its first letter large."""
    return text[:1].upper() + text[1:]


def length_field(
    project: Project, key: str, label: str, value: float, edit: Callable[[float], Edit], step: str = ""
) -> TextField:
    """A length (m) shown and read in the project's units; `edit` gets it in metres."""
    units = project.settings.units
    words = step or f"Change the {label.lower()}"
    return TextField(
        key, label, Display(units).length(value), words, lambda text: edit(parse_length(text, units, label))
    )


def wish_field(project: Project) -> TextField:
    """The longest board that the user wants to work."""
    wish = project.settings.longest_board
    shown = "not said" if wish is None else Display(project.settings.units).length(wish)

    def read(text: str) -> Edit:
        value = parse_length(text, project.settings.units, "Longest board")
        return lambda p: edits.with_settings(p, longest_board=value)

    return TextField("wish", "Longest board", shown, "Change the longest board", read)


def altitude_field(project: Project) -> TextField:
    """The shop's height above the sea; a bare number is in feet or metres, not in inches or millimetres."""
    units = project.settings.units
    unit, size = ("ft", FOOT) if units == "us" else ("m", 1.0)

    def read(text: str) -> Edit:
        value = parse_length(text if text.strip()[-1:].isalpha() else f"{text} {unit}", units, "Altitude")
        return lambda p: edits.with_settings(p, altitude=value)

    shown = f"{project.settings.altitude / size:.0f} {unit}"
    return TextField("altitude", "Altitude", shown, "Change the altitude", read)


def number_field(key: str, label: str, value: float, edit: Callable[[float], Edit], unit: str = "") -> TextField:
    """A plain number, with its unit after it."""

    def read(text: str) -> Edit:
        try:
            number = float(text.lower().removesuffix(unit.lower()).strip().replace(",", "."))
        except ValueError:
            raise InputError(label, text, f"write a number such as {value:g} {unit}".rstrip()) from None
        return edit(number)

    return TextField(key, label, f"{value:g} {unit}".rstrip(), f"Change {label.lower()}", read)


def name_field(element: str, value: str) -> TextField:
    """The element's name."""
    return TextField(f"{element}/name", "Name", value, "Rename", lambda text: field_edit(element, name=text))


def field_edit(element: str, **changes: Any) -> Edit:
    """An edit that changes fields of one element."""
    return lambda project: edits.changed(project, element, **changes)


def choice(
    element: str, field: str, label: str, value: str, options: tuple[tuple[str, str], ...], step: str = ""
) -> ChoiceField:
    """A field of an element picked from a list."""
    words = step or f"Change {label.lower()}"
    return ChoiceField(f"{element}/{field}", label, value, options, words, lambda v: field_edit(element, **{field: v}))


def percent_field(key: str, label: str, value: float, edit: Callable[[float], Edit], step: str = "") -> TextField:
    """A share shown and read in per cent."""

    def read(text: str) -> Edit:
        try:
            number = float(text.strip().removesuffix("%").strip().replace(",", "."))
        except ValueError:
            raise InputError(label, text, "write a number of per cent such as 0.5 %") from None
        return edit(number / 100)

    return TextField(key, label, f"{value * 100:g} %", step or f"Change {label.lower()}", read)


def yes_no(element: str, field: str, label: str, value: bool, words: tuple[str, str] = ("yes", "no")) -> ChoiceField:
    """A yes or no of an element."""
    options = (("yes", words[0]), ("no", words[1]))
    return ChoiceField(
        f"{element}/{field}",
        label,
        "yes" if value else "no",
        options,
        f"Change {label.lower()}",
        lambda v: field_edit(element, **{field: v == "yes"}),
    )

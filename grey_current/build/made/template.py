"""What a template is, and what it makes: figures asked for, and drawings, cut list and facts as
answers.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Literal

from grey_current.build.drawing import Circle, Dimension, Item, Path, rectangle
from grey_current.errors import InputError
from grey_current.numerals import compact
from grey_current.shop.places import XY
from grey_current.units import (
    Display,
    parse_airflow,
    parse_length,
    parse_number,
    parse_pressure,
    parse_velocity,
    parse_volume,
)

Quantity = Literal[
    "length",
    "volume",
    "airflow",
    "pressure",
    "velocity",
    "force",
    "mass",
    "number",
    "share",
    "power",
    "count",
]
Figures = Mapping[str, float]


@dataclass(frozen=True)
class TemplateInput:
    """A figure that a template asks for: name in files, words, what it is a quantity of, default
    and bounds in SI.
    """

    name: str
    label: str
    quantity: Quantity
    default: float
    least: float
    most: float


@dataclass(frozen=True)
class Board:
    """A piece to cut: how many, what, of what, length, width and thickness (m)."""

    count: int
    name: str
    material: str
    length: float
    width: float
    thickness: float


@dataclass(frozen=True)
class Supply:
    """Something else to buy for a thing: the key of the part, and how much of it (its unit)."""

    key: str
    quantity: float


@dataclass(frozen=True)
class TemplateResult:
    """What a template makes: items of a drawing (m), its cut list, the figure that decides, other
    facts, cautions, and what it wants bought besides its boards, screws and glue.
    """

    items: tuple[Item, ...]
    boards: tuple[Board, ...]
    decides: str
    facts: tuple[str, ...] = ()
    cautions: tuple[str, ...] = ()
    supplies: tuple[Supply, ...] = ()


@dataclass(frozen=True)
class Template:
    """A thing to make: name in files, title, what it is for, the figures it asks for, and what
    makes it.
    """

    name: str
    title: str
    purpose: str
    asks: tuple[TemplateInput, ...]
    make: Callable[[Figures, Display], TemplateResult]

    def figures(self, given: Figures) -> dict[str, float]:
        """All figures, those not given by default. Raises `InputError` for an unknown name or one
        out of bounds.
        """
        known = {asked.name: asked for asked in self.asks}
        for name, value in given.items():
            if name not in known:
                raise InputError(f"{self.title}, {name}", value, f"it asks for {', '.join(known)}")
            asked = known[name]
            # Bounds are told in the unit that the user writes in.
            if not asked.least <= value <= asked.most:
                raise InputError(
                    f"{self.title}, {asked.label.lower()}",
                    plain_figure(asked, value),
                    f"it should be from {plain_figure(asked, asked.least)} to "
                    f"{plain_figure(asked, asked.most)}",
                )
        return {name: float(given.get(name, asked.default)) for name, asked in known.items()}

    def made(self, given: Figures, display: Display) -> TemplateResult:
        """The thing with these figures. Raises as `figures`, and `InputError` for figures that do
        not go together.
        """
        return self.make(self.figures(given), display)


# m under which a length is told in millimetres, whatever the units: no rule shows it in sixteenths.
THIN = 0.003
UNITS: dict[Quantity, tuple[str, float]] = {
    "pressure": ("Pa", 1.0),
    "velocity": ("m/s", 1.0),
    "force": ("N", 1.0),
    "mass": ("kg", 1.0),
    "number": ("", 1.0),
    "share": ("%", 100.0),
    "power": ("W", 1.0),
    "count": ("", 1.0),
}


def say(asked: TemplateInput, value: float, display: Display) -> str:
    """A figure in the user's units."""
    if asked.quantity == "length":
        return display.length(value) if value >= THIN else plain_figure(asked, value)
    if asked.quantity == "volume":
        return display.volume(value * 1000)
    if asked.quantity == "airflow":
        return display.airflow(value)
    if asked.quantity == "pressure":
        return display.pressure(value)
    if asked.quantity == "velocity":
        return display.velocity(value)
    return plain_figure(asked, value)


def plain_figure(asked: TemplateInput, value: float) -> str:
    """A figure in SI units."""
    if asked.quantity == "length":
        return f"{compact(value * 1000)} mm"
    if asked.quantity == "volume":
        return f"{compact(value * 1000)} l"
    if asked.quantity == "airflow":
        return f"{compact(value)} m³/s"
    unit, size = UNITS[asked.quantity]
    return f"{compact(value * size)} {unit}".rstrip()


def read(asked: TemplateInput, text: str, display: Display) -> float:
    """A figure as it is typed, in SI. Raises `InputError` for one that cannot be read."""
    if asked.quantity == "length":
        return parse_length(text, display.system, asked.label)
    if asked.quantity == "volume":
        return parse_volume(text, display.system, asked.label) / 1000
    if asked.quantity == "airflow":
        return parse_airflow(text, display.system, asked.label)
    if asked.quantity == "pressure":
        return parse_pressure(text, display.system, asked.label)
    if asked.quantity == "velocity":
        return parse_velocity(text, display.system, asked.label)
    unit, size = UNITS[asked.quantity]
    try:
        return parse_number(text.strip().lower().removesuffix(unit.lower())) / size
    except ValueError:
        raise InputError(
            asked.label, text, f"write a figure such as {say(asked, asked.default, display)}"
        ) from None


def plate(left: float, low: float, wide: float, high: float, display: Display) -> list[Item]:
    """A rectangle with its two dimensions."""
    return [
        rectangle(left, low, wide, high, "outline"),
        Dimension((left, low), (left + wide, low), display.length(wide), -7.0),
        Dimension((left, low + high), (left, low), display.length(high), -7.0),
    ]


def hole(centre: XY, diameter: float, display: Display) -> list[Item]:
    """A round hole with its middle lines and diameter."""
    x, y = centre
    reach = diameter / 2 * 1.15
    return [
        Circle(centre, diameter / 2, "outline"),
        Path(((x - reach, y), (x + reach, y)), "centre lines"),
        Path(((x, y - reach), (x, y + reach)), "centre lines"),
        Dimension(
            (x - diameter / 2, y), (x + diameter / 2, y), f"⌀ {display.length(diameter)}", 0.0
        ),
    ]

"""A quantity written in each of the units that it may be typed in: what a field's unit menu offers.

Imports only `units` and `numerals`; every text here is read back by its parsers.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from grey_current.numerals import compact
from grey_current.units import (
    CFM,
    CUBIC_METRE_PER_HOUR,
    FOOT,
    GALLON,
    HORSEPOWER,
    INCH,
    INH2O,
    Display,
)

# More than any field's figure has.
DIGITS = 12
# The sign of lengths that are written with marks of their own: 7' 6 1/2".
FEET_AND_INCHES = "ft in"


@dataclass(frozen=True)
class InUnit:
    """An amount in one unit: its sign, and the whole text with it."""

    sign: str
    text: str


def _in(size: float, sign: str, digits: int) -> Callable[[float], InUnit]:
    """How an amount is written in a unit of a size (SI), to so many digits after the mark."""

    def write(amount: float) -> InUnit:
        return InUnit(sign, f"{compact(round(amount / size, digits), DIGITS)} {sign}")

    return write


def _feet_and_inches(metres: float) -> InUnit:
    return InUnit(FEET_AND_INCHES, Display("us").length(metres))


def _degrees(us: bool) -> Callable[[float], InUnit]:
    display = Display("us" if us else "metric")
    return lambda celsius: InUnit(display.degrees, display.temperature(celsius))


_UNITS: dict[str, tuple[Callable[[float], InUnit], ...]] = {
    "length": (
        _in(0.001, "mm", 0),
        _in(0.01, "cm", 1),
        _in(1.0, "m", 3),
        _feet_and_inches,
        _in(INCH, "in", 3),
    ),
    "altitude": (_in(1.0, "m", 0), _in(FOOT, "ft", 0)),
    "airflow": (_in(CFM, "CFM", 0), _in(CUBIC_METRE_PER_HOUR, "m³/h", 0), _in(0.001, "l/s", 1)),
    "pressure": (_in(INH2O, "inH2O", 2), _in(1.0, "Pa", 0), _in(100.0, "mbar", 2)),
    "temperature": (_degrees(True), _degrees(False)),
    "volume": (_in(1.0, "l", 0), _in(GALLON, "gal", 1)),
    "power": (_in(HORSEPOWER, "hp", 2), _in(1.0, "W", 0), _in(1000.0, "kW", 2)),
    "surface": (_in(1.0, "m²", 2), _in(FOOT**2, "sq ft", 1)),
}
QUANTITIES = tuple(_UNITS)


def in_each_unit(quantity: str, amount: float) -> tuple[InUnit, ...]:
    """An amount (SI; °C, litres of volumes) in each unit of a quantity. Raises `KeyError` for an
    unknown quantity.

    >>> [choice.text for choice in in_each_unit("length", 2.2987)][:3]
    ['2299 mm', '229.9 cm', '2.299 m']
    """
    return tuple(write(amount) for write in _UNITS[quantity])

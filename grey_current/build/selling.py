"""By what a part is sold: pipe and hose by the foot or metre, sheets by their surface, liquids by
the quart or litre, the rest by the piece. Quantities and prices that somebody reads are always in
the same unit.
"""

from __future__ import annotations

from dataclasses import dataclass

from grey_current.design.parts.keys import Unit, kind_of
from grey_current.design.parts.packs import QUART
from grey_current.units import FOOT, Display


@dataclass(frozen=True)
class SoldBy:
    """A unit of sale: its name in lists, its name after a price, and how much (m, l or pieces) it
    is.
    """

    name: str
    each: str
    size: float


PIECE = SoldBy("piece", "", 1.0)
FEET = SoldBy("ft", " per ft", FOOT)
METRES = SoldBy("m", " per m", 1.0)
SQUARE_FEET = SoldBy("sq ft", " per sq ft", FOOT**2)
SQUARE_METRES = SoldBy("m²", " per m²", 1.0)
QUARTS = SoldBy("qt", " per qt", QUART)
LITRES = SoldBy("l", " per l", 1.0)
# What the unit of a price may be called in a list, by what the part counts.
NAMES: dict[Unit, dict[str, SoldBy]] = {
    "piece": dict.fromkeys(("piece", "pieces", "pc", "pcs", "each", "ea"), PIECE),
    "m": dict.fromkeys(("ft", "foot", "feet"), FEET)
    | dict.fromkeys(("m", "metre", "meter", "metres", "meters"), METRES),
    "m²": dict.fromkeys(("sq ft", "ft²", "ft2", "sqft"), SQUARE_FEET)
    | dict.fromkeys(("m²", "m2", "sq m", "sqm"), SQUARE_METRES),
    "l": dict.fromkeys(("qt", "quart", "quarts"), QUARTS)
    | dict.fromkeys(("l", "litre", "liter", "litres", "liters"), LITRES),
}


def sold_by(key: str, display: Display) -> SoldBy:
    """By what a part is sold in a shop."""
    unit = kind_of(key).unit
    if unit == "m":
        return FEET if display.us else METRES
    if unit == "m²":
        return SQUARE_FEET if display.us else SQUARE_METRES
    if unit == "l":
        return QUARTS if display.us else LITRES
    return PIECE

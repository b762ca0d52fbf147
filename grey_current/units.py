"""Lengths, airflows, pressures and velocities as people say them, and back to SI.

SI everywhere inside the program; the units here exist only at the edges. Imports only `errors` and
`numerals`.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from fractions import Fraction
from typing import Literal

from grey_current.errors import DoubtfulInput, InputError
from grey_current.numerals import compact, decimal, with_points

INCH = 0.0254
FOOT = 12 * INCH
# Cubic feet per minute in m³/s, exact.
CFM = 4.719474432e-4
# Inch of water at 4 °C in Pa (conventional).
INH2O = 249.08891
FPM = 0.00508
CUBIC_METRE_PER_HOUR = 1 / 3600

# "metric-cm" is metric with short lengths in centimetres, as many people measure a room.
System = Literal["us", "metric", "metric-cm"]
# Litres in a US gallon.
GALLON = 3.785411784
# W; mechanical horsepower, 550 ft lbf/s.
HORSEPOWER = 745.6998715822702
POUND_PER_CUBIC_FOOT = 16.018463
POUND = 0.45359237
# m from which a metric length is shown in metres.
SHOWN_IN_METRES = 2.0
# Times longer or shorter than before: a thousand is a slip of the unit, three is a change.
FAR = 30.0
# What is shown where a figure is missing or has no bound.
NO_FIGURE = "–"

_UNITS = {
    **dict.fromkeys(("mm", "millimetre", "millimetres", "millimeter", "millimeters"), 0.001),
    **dict.fromkeys(("cm", "centimetre", "centimetres", "centimeter", "centimeters"), 0.01),
    **dict.fromkeys(("m", "metre", "metres", "meter", "meters"), 1.0),
    **dict.fromkeys(("in", "inch", "inches", '"', "″"), INCH),
    **dict.fromkeys(("ft", "foot", "feet", "'", "′"), FOOT),
}
# Metres of a bare number.
_BARE: dict[System, float] = {"us": INCH, "metric": 0.001, "metric-cm": 0.01}
_UNIT = "|".join(sorted((re.escape(name) for name in _UNITS), key=len, reverse=True))
_DECIMAL = r"(?:\d{1,3}(?:,\d{3})+(?!\d)(?:\.\d+)?|\d{1,3}(?:\.\d{3})+,\d+|\d+(?:[.,]\d+)?|[.,]\d+)"
_FRACTION = r"\d+\s*/\s*\d+"
_NUMBER = rf"(?:\d+\s+{_FRACTION}|{_FRACTION}|{_DECIMAL})"
_TERM = re.compile(rf"\s*({_NUMBER})\s*({_UNIT})?\s*", re.IGNORECASE)
_WHOLE_DASH_FRACTION = re.compile(rf"\s*(\d+)\s*-\s*({_FRACTION})\s*({_UNIT})?\s*", re.IGNORECASE)
_FEET_DASH_INCHES = re.compile(rf"\s*(\d+)\s*-\s*({_NUMBER})\s*(?:in|\"|″)?\s*")
_SPACED = re.compile(r"(?<![\d.,/'\"-])\d{1,3}(?: \d{3})+(?![\d/]| ?/)")
_DOTTED_MM = re.compile(r"([1-9]\d{0,2})\.(\d{3})\s*mm", re.IGNORECASE)
_DOTTED = re.compile(r"([1-9]\d{0,2})\.(\d{3})")
# Units whose figures go into the thousands, so that a dot before three digits may be a mark of
# those.
_IN_THOUSANDS = frozenset(("cfm", "m3/h", "m³/h", "l/s", "pa", "fpm", "ft/min"))
_THOUSANDS = re.compile(r"[1-9]\d{0,2}(?:,\d{3})+")
_LENGTH_RULE = "write a length such as 7' 6 1/2\", 90.5 in, 2.3 m or 230 cm"
# Signs that keyboards and other programs put in place of plain ones.
_AS_TYPED = str.maketrans(
    {
        **dict.fromkeys("’‘´`′", "'"),
        **dict.fromkeys("”“″", '"'),
        **dict.fromkeys("−–—‐‑", "-"),
        **dict.fromkeys("\u00a0\u202f\u2009", " "),
        "⁄": "/",
        **{
            char: f" {fraction}"
            for char, fraction in zip(
                "½⅓⅔¼¾⅛⅜⅝⅞",
                ("1/2", "1/3", "2/3", "1/4", "3/4", "1/8", "3/8", "5/8", "7/8"),
                strict=True,
            )
        },
    }
)


def parse_number(text: str) -> float:
    """Read a plain number with either decimal mark: "1200", "1,200", "1 200", "1.5", "1,5",
    "1,200.5", "1.200,5".

    A comma before exactly three digits is a thousands mark; before any other number of digits it
    is a decimal mark. Where figures are written with a comma, comma and point change places. Raises
    `ValueError` for anything else.
    """
    return _number_with_point(_plain(text))


def _plain(text: str) -> str:
    """What was typed with plain signs, and with the marks as they would be with a point."""
    return with_points(text.translate(_AS_TYPED).strip())


def _number_with_point(plain: str) -> float:
    """A number in plain signs, of which a point is the decimal mark."""
    sign = -1.0 if plain.startswith("-") else 1.0
    plain = plain.removeprefix("-").strip()
    if re.fullmatch(r"\d{1,3}(?: \d{3})+(?:[.,]\d+)?", plain):
        plain = plain.replace(" ", "")
    if _THOUSANDS.fullmatch(plain.partition(".")[0]) and "," in plain:
        return sign * float(plain.replace(",", ""))
    if re.fullmatch(r"\d{1,3}(?:\.\d{3})+,\d+", plain):
        return sign * float(plain.replace(".", "").replace(",", "."))
    if re.fullmatch(r"\d+(?:[.,]\d*)?|[.,]\d+", plain):
        return sign * float(plain.replace(",", "."))
    raise ValueError(f"no number: {plain}")


def _number(text: str) -> float:
    whole, _, rest = text.strip().partition(" ")
    if "/" in text:
        if "/" in whole or not rest:
            whole, rest = "0", text
        top, bottom = (int(part) for part in rest.replace(" ", "").split("/"))
        if bottom == 0:
            raise ZeroDivisionError
        return int(whole) + top / bottom
    return _number_with_point(text.strip())


def _joined(text: str) -> str:
    """A length with thousands that were parted by a space put together: "2 440 mm" is one number,
    "7 1/2" is not.
    """
    return _SPACED.sub(lambda found: found[0].replace(" ", ""), text)


def _clear(text: str, where: str) -> None:
    """Raises `InputError` for a plain length whose mark may be either: a metre and a thousand
    millimetres differ.
    """
    for found in re.findall(r"[\d.,]*\d[\d.,]*", text):
        if not re.fullmatch(_DECIMAL, found.rstrip(",.")):
            raise InputError(where, with_points(text), _LENGTH_RULE)
    dotted = _DOTTED_MM.fullmatch(text)
    if dotted:
        raise _doubtful_mark(where, text, dotted[0].lower().removesuffix("mm").strip())
    for found in re.findall(r"[\d.,]+", text):
        if _THOUSANDS.fullmatch(found) and found.count(",") == 1:
            raise _doubtful_mark(where, text, found)


def _doubtful_mark(where: str, text: str, found: str) -> DoubtfulInput:
    """The question what the one mark of a number parts: thousands, or decimals."""
    whole, part = re.split("[.,]", found)
    # Three decimals would be asked about again.
    thousands, decimals = f"{whole}{part}", f"{whole}.{part.rstrip('0') or '0'}"
    if len(part.rstrip("0")) == len(part):
        decimals += "0"
    return _doubtful(where, text, text.replace(found, thousands), text.replace(found, decimals))


def _doubtful(where: str, text: str, one: str, other: str) -> DoubtfulInput:
    """The question which of two a plain text means, with the marks as they were typed."""
    choices = with_points(one), with_points(other)
    return DoubtfulInput(where, with_points(text), "write one of these", choices)


def parse_length(text: str, system: System, where: str = "length") -> float:
    r"""Read a length as people write it.

    Parameters
    ----------
    text
        For example ``7' 6 1/2"``, ``7'-6"``, ``7-6.5``, ``90½``, ``90-1/2``, ``2.3 m``, ``230 cm``;
        docs/typing-numbers.md has the whole grammar.
    system
        Unit of a bare number: inches in "us", millimetres in "metric", else centimetres.
    where
        What is being read, for the error.

    Returns
    -------
    float
        Length, m.

    Raises
    ------
    InputError
        If the text is no length.

    >>> round(parse_length("7' 6 1/2\"", "us"), 4)
    2.2987
    """
    stripped = _joined(_plain(text))
    _clear(stripped, where)
    try:
        inches = _WHOLE_DASH_FRACTION.fullmatch(stripped)
        if inches:
            unit = _UNITS[inches[3].lower()] if inches[3] else INCH
            return (int(inches[1]) + _number(inches[2])) * unit
        dashed = _FEET_DASH_INCHES.fullmatch(stripped)
        if dashed:
            return int(dashed[1]) * FOOT + _number(dashed[2]) * INCH
        terms = _split_terms(stripped, system)
    except (ZeroDivisionError, ValueError):
        terms = []
    if not terms:
        raise InputError(where, text, _LENGTH_RULE)
    return math.fsum(number * unit for number, unit in terms)


def parse_length_like(
    text: str, system: System, where: str, now: float, least: float = 0.0
) -> float:
    """Read a length (m), a bare number in the unit in which the present length is shown.

    `now` is that length (m). A metric field shows "6.00 m" or "1738 mm"; 7.2 typed into the first
    is metres. Where that would be far off and the other of the two units would not, the other one
    is meant: 2400 typed over "2.40 m" is millimetres. Feet and inches are too near each other for
    that: 23 typed over "24'" raises `DoubtfulInput`, unless 23 in are less than the `least` (m)
    that it can be. Raises `InputError` as `parse_length`.

    >>> parse_length_like("7.2", "metric", "length", 6.0)
    7.2
    """
    plain = _plain(text)
    if not re.fullmatch(_DECIMAL, _joined(plain)):
        return parse_length(text, system, where)
    _clear(plain, where)
    number = _number_with_point(_joined(plain))
    if system == "us":
        if now >= FOOT and now / 4 < number * FOOT < now * 2:
            if number * INCH < least:
                return number * FOOT
            raise _doubtful(where, plain, f"{plain} in", f"{plain} ft")
        return parse_length(text, system, where)
    short = _BARE[system]
    shown, other = (1.0, short) if abs(now) >= SHOWN_IN_METRES else (short, 1.0)
    if now > 0 and _far(number * shown, now) and not _far(number * other, now):
        return number * other
    return number * shown


def _far(length: float, now: float) -> bool:
    """Whether a length is so far from what stands there that a slip of the unit is likelier."""
    return not now / FAR < length < now * FAR


def _split_terms(text: str, system: System) -> list[tuple[float, float]]:
    """(number, metres per unit) for each term; empty when the text is no list of falling units."""
    terms: list[tuple[float, float]] = []
    position = 0
    while position < len(text):
        match = _TERM.match(text, position)
        if not match:
            return []
        fallback = INCH if terms else _BARE[system]
        unit = _UNITS[match[2].lower()] if match[2] else fallback
        if terms and unit >= terms[-1][1]:
            return []
        terms.append((_number(match[1]), unit))
        position = match.end()
        if match[2] and text[position : position + 1] == "-" and position + 1 < len(text):
            position += 1
    return terms


_SURFACE_UNITS = {"sqft": FOOT**2, "ft2": FOOT**2, "ft²": FOOT**2, "m2": 1.0, "m²": 1.0, "sqm": 1.0}
_VOLUME_UNITS = {
    "l": 1.0,
    "litre": 1.0,
    "litres": 1.0,
    "liter": 1.0,
    "liters": 1.0,
    "gal": GALLON,
    "gallon": GALLON,
    "gallons": GALLON,
}
_AIRFLOW_UNITS = {
    "cfm": CFM,
    "m3/h": CUBIC_METRE_PER_HOUR,
    "m³/h": CUBIC_METRE_PER_HOUR,
    "m3/s": 1.0,
    "m³/s": 1.0,
    "l/s": 0.001,
}
# A column of water by its height, as a tube of water is read, and the pascal.
_PRESSURE_UNITS = {
    **dict.fromkeys(("inh2o", "inwc", "inwg", "in", '"', '"wc', '"h2o', '"wg'), INH2O),
    **dict.fromkeys(("mmh2o", "mmwc", "mm"), INH2O * 0.001 / INCH),
    **dict.fromkeys(("mbar", "hpa"), 100.0),
    "pa": 1.0,
    "kpa": 1000.0,
}
_VELOCITY_UNITS = {
    **dict.fromkeys(("fpm", "ft/min"), FPM),
    "m/s": 1.0,
    "km/h": 1 / 3.6,
    "mph": 5280 * FOOT / 3600,
}


def parse_airflow(text: str, system: System, where: str = "airflow") -> float:
    """Read an airflow such as "600 CFM" or "1000 m3/h"; a bare number is in the project's unit.

    Returns m³/s. Raises `InputError` when the text is no airflow.
    """
    bare = "cfm" if system == "us" else "m3/h"
    return _measured(
        text, where, _AIRFLOW_UNITS, bare, "write an airflow such as 600 CFM or 1000 m3/h"
    )


def parse_pressure(text: str, system: System, where: str = "pressure") -> float:
    """Read a pressure such as "3.2 inH2O" or "800 Pa"; a bare number is in the project's unit.

    Returns Pa. Raises `InputError` when the text is no pressure.
    """
    bare = "inh2o" if system == "us" else "pa"
    return _measured(
        text, where, _PRESSURE_UNITS, bare, "write a pressure such as 3.2 inH2O, 800 Pa or 80 mm"
    )


def parse_velocity(text: str, system: System, where: str = "velocity") -> float:
    """Read a velocity such as "4000 fpm" or "20 m/s"; a bare number is in the project's unit.

    Returns m/s. Raises `InputError` when the text is no velocity.
    """
    bare = "fpm" if system == "us" else "m/s"
    return _measured(
        text, where, _VELOCITY_UNITS, bare, "write a velocity such as 4000 fpm or 20 m/s"
    )


def parse_volume(text: str, system: System, where: str = "volume") -> float:
    """Read a volume of chips such as "90 l" or "24 gal"; a bare number is in the project's unit.

    Returns litres. Raises `InputError` when the text is no volume.
    """
    bare = "gal" if system == "us" else "l"
    return _measured(text, where, _VOLUME_UNITS, bare, "write a volume such as 24 gal or 90 l")


_POWER_UNITS = {"w": 1.0, "watt": 1.0, "watts": 1.0, "kw": 1000.0, "hp": HORSEPOWER}


def parse_power(text: str, system: System, where: str = "power") -> float:
    """Read a motor's power such as "1.5 hp" or "1100 W"; a bare number is in the project's unit.

    Returns W. Raises `InputError` when the text is no power.
    """
    bare = "hp" if system == "us" else "w"
    return _measured(text, where, _POWER_UNITS, bare, "write a power such as 1.5 hp or 1100 W")


_MASS_UNITS = {
    "kg": 1.0,
    "g": 0.001,
    "lb": POUND,
    "lbs": POUND,
    "pound": POUND,
    "pounds": POUND,
    "oz": POUND / 16,
    "ounce": POUND / 16,
    "ounces": POUND / 16,
}


def parse_mass(text: str, system: System, where: str = "mass", *, small: bool = False) -> float:
    """Read a mass such as "20 kg" or "44 lb"; a bare number is in kilograms or pounds, of a `small`
    one in grams or ounces.

    Returns kg. Raises `InputError` when the text is no mass.
    """
    if small:
        bare, such_as = "oz" if system == "us" else "g", "30 oz or 850 g"
    else:
        bare, such_as = "lb" if system == "us" else "kg", "44 lb or 20 kg"
    return _measured(text, where, _MASS_UNITS, bare, f"write a mass such as {such_as}")


def parse_surface(text: str, system: System, where: str = "area") -> float:
    """Read an area of filters such as "16 sq ft"; a bare number is in the project's unit.

    Returns m². Raises `InputError` when the text is no area.
    """
    bare = "sqft" if system == "us" else "m²"
    return _measured(text, where, _SURFACE_UNITS, bare, "write an area such as 16 sq ft or 1.5 m²")


def parse_money(text: str, where: str) -> float:
    """Read a sum of money without its currency: "12.50", "1,200"; "1.200" may be either, so that it
    is asked which.

    Raises `DoubtfulInput`, and `ValueError` for what is no number.
    """
    plain = _plain(text)
    if _DOTTED.fullmatch(plain):
        raise _doubtful_mark(where, plain, plain)
    return _number_with_point(plain)


def parse_temperature(text: str, system: System, where: str = "temperature") -> float:
    """Read a temperature such as "70 °F", "21 C" or "-5"; a bare number is in the project's unit.

    Returns °C. Raises `InputError` when the text is no temperature.
    """
    plain = _plain(text).lower()
    for sign in ("°", "degrees", "deg"):
        plain = plain.replace(sign, "")
    unit = plain[-1:]
    if unit not in ("f", "c"):
        unit = "f" if system == "us" else "c"
    try:
        number = _number_with_point(plain.removesuffix("f").removesuffix("c").strip())
    except ValueError:
        raise InputError(where, text, "write a temperature such as 70 °F or 21 °C") from None
    return (number - 32) / 1.8 if unit == "f" else number


def _measured(text: str, where: str, units: dict[str, float], bare: str, rule: str) -> float:
    """A number and a unit of one table in SI; the bare unit where none is written."""
    plain = _plain(text).lower()
    match = re.fullmatch(r"([\d.,][\d., ]*?)\s*([a-z\"][a-z0-9²³\"/. ]*)?", plain)
    unit = match and (re.sub(r"[\s.]", "", match[2] or "") or bare)
    dotted = _DOTTED.fullmatch(match[1].strip()) if match else None
    if dotted and unit in _IN_THOUSANDS:
        raise _doubtful_mark(where, plain, dotted[0])
    try:
        if match is None:
            raise ValueError(f"no number: {text}")
        return _number_with_point(match[1].strip()) * units[str(unit)]
    except (ValueError, KeyError):
        raise InputError(where, text, rule) from None


def _sixteenths(metres: float) -> str:
    total = round(metres / INCH * 16)
    sign, total = ("-" if total < 0 else ""), abs(total)
    feet, rest = divmod(total, 12 * 16)
    inches, sixteenths = divmod(rest, 16)
    fraction = f"{Fraction(sixteenths, 16)}" if sixteenths else ""
    inch_text = f"{inches} {fraction}".strip() if inches or not fraction else fraction
    if not feet:
        return f'{sign}{inch_text}"'
    if inch_text == "0":
        return f"{sign}{feet}'"
    return f"{sign}{feet}' {inch_text if inches else f'0 {fraction}'}\""


@dataclass(frozen=True)
class Display:
    """Writes SI quantities in one system of units, always with the unit."""

    system: System

    @property
    def us(self) -> bool:
        return self.system == "us"

    def length(self, metres: float) -> str:
        """A length (m) in feet, inches and sixteenths, or to the millimetre: in millimetres or
        centimetres, and in metres from 2 m on.
        """
        if not math.isfinite(metres):
            return NO_FIGURE
        if self.us:
            return _sixteenths(metres)
        if abs(metres) < SHOWN_IN_METRES and self.system == "metric-cm":
            return compact(round(metres * 100, 1)) + " cm"
        if abs(metres) < SHOWN_IN_METRES:
            return f"{metres * 1000:.0f} mm"
        text = decimal(metres, 3)
        return f"{text.removesuffix('0')} m"

    def body(self, *sides: float) -> str:
        """The sides (m) of a body, in feet and inches or all in millimetres or centimetres."""
        if self.us:
            return " × ".join(self.length(side) for side in sides)
        per_metre, unit = (100, "cm") if self.system == "metric-cm" else (1000, "mm")
        return " × ".join(compact(round(side * per_metre, 1)) for side in sides) + f" {unit}"

    def about(self, metres: float, down: bool = False) -> str:
        """A length (m) as one says it where nothing is cut: to the inch or centimetre, small ones a
        little finer.

        `down` rounds it down, for the longest that goes somewhere.
        """
        if not math.isfinite(metres):
            return NO_FIGURE
        if self.us:
            step = INCH / 4 if abs(metres) < FOOT else INCH
        else:
            step = 0.001 if abs(metres) < 0.1 else 0.01
        steps = math.floor(metres / step + 1e-6) if down else round(metres / step)
        if self.us or abs(metres) < 1:
            return self.length(steps * step)
        return f"{decimal(steps * step, 2)} m"

    def tape(self, metres: float) -> float:
        """A length (m) rounded up to what one would cut by: whole inches or 10 mm."""
        if not math.isfinite(metres):
            return metres
        step = INCH if self.us else 0.01
        return math.ceil(metres / step - 1e-6) * step

    def diameter(self, metres: float) -> str:
        """A pipe diameter (m), in whole or quarter inches or in millimetres."""
        if not math.isfinite(metres):
            return NO_FIGURE
        if not self.us:
            return f"{metres * 1000:.0f} mm"
        quarters = round(metres / INCH * 4)
        whole, part = divmod(quarters, 4)
        fraction = f"{Fraction(part, 4)}" if part else ""
        return f"{whole or ''} {fraction}".strip() + " in"

    def airflow(self, m3_s: float, unit: bool = True) -> str:
        """An airflow (m³/s) in CFM or m³/h."""
        if not math.isfinite(m3_s):
            return NO_FIGURE
        value = m3_s / (CFM if self.us else CUBIC_METRE_PER_HOUR)
        return decimal(value) + (f" {self.airflow_unit}" if unit else "")

    @property
    def airflow_unit(self) -> str:
        return "CFM" if self.us else "m³/h"

    def area(self, square_metres: float) -> str:
        """An area (m²) of openings and filters, in square inches or square centimetres."""
        if not math.isfinite(square_metres):
            return NO_FIGURE
        one, unit = self.area_unit
        value = square_metres / one
        figure = decimal(value) if value >= 10 or value == 0 else compact(value, 2)
        return f"{figure} {unit}"

    def surface(self, square_metres: float) -> str:
        """An area (m²) of floors and filters, in square feet or square metres."""
        if not math.isfinite(square_metres):
            return NO_FIGURE
        if self.us:
            value = square_metres / FOOT**2
            return f"{decimal(value, 1 if value < 100 else 0)} sq ft"
        return f"{decimal(square_metres, 2 if square_metres < 10 else 1)} m²"

    def room(self, cubic_metres: float) -> str:
        """The volume (m³) of a room, in cubic feet or cubic metres."""
        if not math.isfinite(cubic_metres):
            return NO_FIGURE
        if self.us:
            return f"{decimal(cubic_metres / FOOT**3)} cu ft"
        return f"{decimal(cubic_metres, 1)} m³"

    @property
    def area_unit(self) -> tuple[float, str]:
        """The unit that openings are measured in: its size (m²) and its sign."""
        return (INCH**2, "sq in") if self.us else (1e-4, "cm²")

    def pressure(self, pascal: float) -> str:
        """A pressure (Pa) in inches of water or in pascal."""
        if not math.isfinite(pascal):
            return NO_FIGURE
        # 0.0 is added to what is rounded so that nothing is never "-0"
        if self.us:
            return f"{decimal(round(pascal / INH2O, 2) + 0.0, 2)} inH2O"
        return f"{decimal(round(pascal) + 0.0)} Pa"

    def volume(self, litres: float) -> str:
        """A volume (litres) of chips or of a bin, in US gallons or litres."""
        if not math.isfinite(litres):
            return NO_FIGURE
        return f"{decimal(litres / GALLON)} gal" if self.us else f"{decimal(litres)} l"

    def power(self, watts: float) -> str:
        """The power (W) of a motor, in horsepower or watts."""
        if not math.isfinite(watts):
            return NO_FIGURE
        if self.us:
            return f"{compact(round(watts / HORSEPOWER, 2))} hp"
        return f"{decimal(watts)} W"

    def temperature(self, celsius: float) -> str:
        """A temperature (°C) in °F or °C, to a tenth of a degree."""
        value = celsius * 1.8 + 32 if self.us else celsius
        return f"{compact(round(value, 1))} {self.degrees}"

    def warmer(self, kelvin: float) -> str:
        """A difference of temperatures (K)."""
        return f"{kelvin * (1.8 if self.us else 1):.0f} {self.degrees}"

    @property
    def degrees(self) -> str:
        return "°F" if self.us else "°C"

    def mass(self, kg: float) -> str:
        """A mass (kg), in whole pounds or kilograms; under ten with one decimal."""
        value, unit = (kg / POUND, "lb") if self.us else (kg, "kg")
        return f"{value:.0f} {unit}" if value >= 10 else f"{decimal(value, 1)} {unit}"

    def small_mass(self, kg: float) -> str:
        """A small mass (kg), in ounces or grams."""
        return f"{decimal(kg / POUND * 16, 1)} oz" if self.us else f"{kg * 1000:.0f} g"

    def density(self, kg_m3: float) -> str:
        """A density of air (kg/m³)."""
        if self.us:
            return f"{decimal(kg_m3 / POUND_PER_CUBIC_FOOT, 3)} lb/ft³"
        return f"{decimal(kg_m3, 2)} kg/m³"

    def far(self, metres: float) -> str:
        """A distance (m) that is walked, in whole feet or metres."""
        return f"{decimal(metres / FOOT)} ft" if self.us else f"{decimal(metres)} m"

    def velocity(self, m_s: float, unit: bool = True) -> str:
        """A velocity (m/s) in feet per minute, to the nearest ten, or in m/s."""
        if not math.isfinite(m_s):
            return NO_FIGURE
        value = decimal(round(m_s / FPM, -1)) if self.us else decimal(m_s, 1)
        return value + (" fpm" if self.us else " m/s") * unit

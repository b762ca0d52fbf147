"""Readings in words: what is measured where, with what, how a figure and its band are said."""

from __future__ import annotations

import math

from grey_current.numerals import compact, decimal
from grey_current.shop.keep_plan import Instrument, ReadingKind
from grey_current.shop.names import Names, capital
from grey_current.units import NO_FIGURE, Display

INSTRUMENT: dict[ReadingKind, str] = {
    "static pressure": "A gauge on a small hole (3 mm, 1/8 in) at half the pipe's length, no burr "
    "inside, its tube square.",
    "velocity": "The mean over the pipe, in a straight piece: not the figure in the middle, "
    "which is some 10 % more.",
    "airflow": "All the air that goes in at the hood: an anemometer's mean over the whole "
    "opening, times its area.",
    "filter drop": "Gauge between the dirty side and the clean side of the filter.",
    "motor current": "A clamp round one wire of the collector's cord by a split lead; its "
    "plate's current decides.",
    "dust": "The PM10 figure of a particle counter in the middle of the room, at your face's "
    "height: what it shows at the end of the work, less what it showed before.",
    "sound": "A meter or a telephone 1 m (3 ft) away, always at the same spot; every machine "
    "itself off, ears covered.",
}


INSTRUMENT_NAMES: dict[Instrument, str] = {
    "gauge": "Pressure gauge, or U of water",
    "anemometer": "Anemometer",
    "clamp ammeter": "Clamp ammeter",
    "telephone": "Telephone, for sound",
    "particle counter": "Particle counter, for the room",
}

# Where to hold a probe along a diameter, as shares of it, so that the plain mean is that of the
# pipe. Source: ISO 3966, Measurement of fluid flow in closed conduits, 2008: log-linear method, six
# points a diameter.
TRAVERSE = (0.032, 0.135, 0.321, 0.679, 0.865, 0.968)


def traverse_points(diameter: float) -> list[float]:
    """Distances from the wall (m) at which a probe is held in a pipe of some diameter (m)."""
    return [share * diameter for share in TRAVERSE]


def figure(display: Display, kind: ReadingKind, value: float) -> str:
    """A reading's value with its unit."""
    if not math.isfinite(value):
        return NO_FIGURE
    if kind == "airflow":
        return display.airflow(value)
    if kind == "motor current":
        return f"{decimal(value, 1)} A"
    if kind == "sound":
        return f"{value:.0f} dB(A)"
    if kind == "dust":
        return dust_words(value)
    return display.velocity(value) if kind == "velocity" else display.pressure(value)


def dust_words(value: float) -> str:
    """Dust in the air (mg/m³) as a particle counter shows it: two digits, for no more is known."""
    if value >= 1:
        return f"{compact(value, 2)} mg/m³"
    return f"{compact(float(f'{value * 1000:.2g}'))} µg/m³"


def likely_words(display: Display, kind: ReadingKind, at: float, half: float) -> str:
    """Where eight in ten lie, as two figures with one unit."""
    return band_words(display, kind, at, half).removeprefix("likely ")


def band_words(display: Display, kind: ReadingKind, at: float, half: float) -> str:
    """Where eight in ten lie."""
    low = figure(display, kind, max(at - half, 0.0)).rpartition(" ")[0]
    return f"likely {low} to {figure(display, kind, at + half)}"


def place_words(names: Names, kind: ReadingKind, machine: str, place: str) -> str:
    """What is measured where, while which machine runs."""
    if kind == "dust":
        return f"Dust in {names.of(place)} after work at {names.of(machine)}"
    what = what_words(names, kind, place)
    if kind == "sound":
        return f"{what}, only the gate of {names.of(machine)} open"
    return f"{what}, only {names.of(machine)} on"


def what_words(names: Names, kind: ReadingKind, place: str) -> str:
    """What is measured where."""
    inlet = "the inlet of " if place in names.project.collector else ""
    said = {
        "static pressure": f"suction in {inlet}{names.of(place)}",
        "velocity": f"velocity in {names.of(place)}",
        "airflow": f"airflow at {names.of(place)}",
        "filter drop": f"drop across the filter of {names.of(place)}",
        "motor current": f"current of {names.of(place)}",
        "sound": f"sound beside {names.of(place)}",
        "dust": f"dust in {names.of(place)}",
    }
    return capital(said[kind])

"""Reads a fan curve from CSV: airflow and pressure, their units named in the heading."""

from __future__ import annotations

import itertools
import re
from pathlib import Path

from grey_current.errors import FileError, ValueRefused
from grey_current.files.csv_text import csv_rows, csv_text
from grey_current.numerals import as_in_files
from grey_current.shop.fans import CurvePoints
from grey_current.units import CFM, CUBIC_METRE_PER_HOUR, INH2O, parse_number

AIRFLOW = {
    "cfm": CFM,
    "ft3/min": CFM,
    "m3/h": CUBIC_METRE_PER_HOUR,
    "m³/h": CUBIC_METRE_PER_HOUR,
    "m3/min": 1 / 60,
    "m³/min": 1 / 60,
    "m3/s": 1.0,
    "m³/s": 1.0,
    "l/s": 0.001,
}
PRESSURE = {
    "inh2o": INH2O,
    "inwg": INH2O,
    "inwc": INH2O,
    '"wg': INH2O,
    '"wc': INH2O,
    "pa": 1.0,
    "kpa": 1000.0,
    "mbar": 100.0,
    "hpa": 100.0,
    "mmh2o": 9.80665,
}
LARGEST = 200_000
_NUMBER = re.compile(r"-?\d+(\.\d*)?([eE][-+]?\d+)?")


def load_curve(path: Path) -> CurvePoints:
    """A fan curve from a CSV file. Raises `FileError` that says line and column of what it cannot
    read.
    """
    text = csv_text(path, "a fan curve", LARGEST)
    return read_curve(text, str(path))


@as_in_files()
def read_curve(text: str, name: str) -> CurvePoints:
    """A fan curve from the text of a CSV file; `name` is for the message. Raises `FileError` as
    `load_curve`.
    """
    rows = [(n, row) for n, row in enumerate(csv_rows(text, name, "the curve"), 1) if any(row)]
    if not rows:
        raise FileError(
            name, "is empty", 'begin with a heading such as "airflow CFM, pressure inH2O"'
        )
    columns = _columns(rows[0][1], name, rows[0][0])
    points = []
    for number, row in rows[1:]:
        values = [_value(row, column, name, number) * unit for column, unit in columns]
        points.append((values[0], values[1]))
    try:
        return CurvePoints(points=tuple(sorted(points)))
    except ValueRefused as problem:
        raise FileError(
            name, f"is no fan curve: {problem.rule}", "give rising airflows with falling pressures"
        ) from None


def _columns(heading: list[str], name: str, line: int) -> list[tuple[int, float]]:
    """(column, unit in SI) of the airflow and of the pressure."""
    found: list[tuple[int, float]] = []
    # By its unit: a column that says CFM is the airflow, whatever it is called.
    for what, units in (("airflow", AIRFLOW), ("pressure", PRESSURE)):
        column = next(
            ((c, u) for c, cell in enumerate(heading) if (u := _unit(cell, units)) is not None),
            None,
        )
        if column is None:
            raise FileError(
                name,
                f"names no unit of {what} in its heading (line {line})",
                f"name one there, such as {' or '.join(list(units)[:3])}",
            )
        found.append(column)
    return found


def _unit(cell: str, units: dict[str, float]) -> float | None:
    plain = cell.lower().replace("in. w.g.", "inwg").replace("in w.g.", "inwg")
    words = re.split(r"[\s()\[\],:_]+", plain)
    joined = {*words, *("".join(pair) for pair in itertools.pairwise(words))}
    return next((units[word] for word in joined if word in units), None)


def _value(row: list[str], column: int, name: str, line: int) -> float:
    text = row[column].strip() if column < len(row) else ""
    try:
        return float(text) if _NUMBER.fullmatch(text) else parse_number(text)
    except ValueError:
        shown = f"'{text}' is no number" if text else "nothing is written"
        raise FileError(
            name, f"line {line}, column {column + 1}: {shown}", "write a number such as 420 or 8.5"
        ) from None

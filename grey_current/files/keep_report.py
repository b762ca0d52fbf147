"""How sure the figures are, as text and as plain values for JSON; readings as CSV, out and in
again.
"""

from __future__ import annotations

import datetime
import math
import re
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any, get_args

from grey_current.dates import date_words, parse_past
from grey_current.errors import DoubtfulInput, FileError, InputError
from grey_current.files.csv_text import csv_of, csv_rows, csv_text
from grey_current.keep.answers import HowSure, cause_words, likely_causes, logged_words
from grey_current.keep.believable import most_believed
from grey_current.keep.fit import ReadingSpec, usual_error
from grey_current.keep.monthly import Monthly, limit_lines, place_of
from grey_current.keep.reading_words import band_words, figure, place_words
from grey_current.keep.steps import Step, instructions, question
from grey_current.keep.uncertainty import PickupSure, known_words
from grey_current.numerals import as_in_files, compact
from grey_current.shop.keep_edits import check_place
from grey_current.shop.keep_plan import Reading, ReadingKind
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.units import (
    CFM,
    FOOT,
    FPM,
    INH2O,
    Display,
    System,
    parse_airflow,
    parse_number,
    parse_pressure,
    parse_velocity,
)

COLUMNS = ("kind", "machine", "place", "value", "date", "note")
KINDS: tuple[ReadingKind, ...] = get_args(ReadingKind)
# m³ of a US gallon.
GALLON = 3.785411784e-3
LARGEST, LINES, LONGEST_NOTE = 1024 * 1024, 400, 200


def read_value(kind: ReadingKind, text: str, system: System) -> float:
    """The figure of a reading (SI). Raises `InputError`.

    Suction may be written with the gauge's minus sign; velocities over a pipe one by one with
    semicolons between, their mean counts; airflow as what filled a bag in how long.
    """
    bare = text.strip().replace("−", "-")
    if kind == "airflow":
        return _filled_bag(bare) or parse_airflow(bare, system, "airflow measured")
    if kind == "velocity":
        return _mean_velocity(bare, system)
    if kind == "motor current":
        return _figure(kind, bare, r"a|amps?", "a current such as 12.5 A")
    if kind == "sound":
        return _figure(kind, bare, r"db(\s*\(?a\)?)?", "a level such as 78 dB(A)")
    if kind == "dust":
        return _dust(bare)
    return parse_pressure(bare.removeprefix("-"), system, f"{kind} measured")


_BAG = re.compile(
    r"(?P<much>[\d.,]+)\s*(?P<unit>l|litres?|liters?|gal|gallons?|ft3|ft³|cu "
    r"?ft|m3|m³)\s+in\s+(?P<time>[\d.,]+)\s*s?"
)
_BAG_UNITS = {"l": 1e-3, "g": GALLON, "f": FOOT**3, "c": FOOT**3, "m": 1.0}


def _filled_bag(text: str) -> float | None:
    """The airflow that fills a bag, "200 l in 4.2 s"; None for what is no such text. Raises
    `InputError`.
    """
    found = _BAG.fullmatch(text.lower())
    if found is None:
        return None
    try:
        much, time = parse_number(found["much"]), parse_number(found["time"])
        return much * _BAG_UNITS[found["unit"][0]] / time
    except (ValueError, ZeroDivisionError):
        raise InputError(
            "airflow measured",
            text,
            "write what filled the bag and how long, such as 200 l in 4.2 s",
        ) from None


def _mean_velocity(text: str, system: System) -> float:
    """The mean of velocities over a pipe; a unit behind the last one is that of all."""
    parts = [part.strip() for part in text.split(";") if part.strip()]
    unit = re.sub(r"^[\d.,\s]+", "", parts[-1]) if parts else ""
    given = [part if re.search(r"[a-z]", part.lower()) else f"{part} {unit}" for part in parts]
    found = [parse_velocity(part, system, "velocity measured") for part in given or [text]]
    return math.fsum(found) / len(found)


def _figure(kind: ReadingKind, text: str, unit: str, such_as: str) -> float:
    try:
        return parse_number(re.sub(rf"\s*({unit})$", "", text.lower()))
    except ValueError:
        raise InputError(f"{kind} measured", text, f"write {such_as}") from None


# µg/m³ below which a bare figure is more likely one of mg/m³.
FEW_MICROGRAMS = 2.0


def _dust(text: str) -> float:
    """Dust in mg/m³; a bare figure is in µg/m³, as particle counters show it.

    Raises `DoubtfulInput` for one that is more likely in mg/m³.
    """
    found = re.fullmatch(r"(?P<figure>[\d.,\s]+)(?P<unit>[µμu]g|mg)?(/?\s*m(3|³))?", text.lower())
    if found is None:
        raise InputError("dust measured", text, "write a figure such as 350 µg/m³ or 0.35 mg/m³")
    value = _figure("dust", found["figure"].strip(), "mg", "a figure such as 350 µg/m³")
    if found["unit"] == "mg":
        return value
    if found["unit"] is None and 0 < value < FEW_MICROGRAMS:
        choices = (f"{compact(value)} µg/m³", f"{compact(value)} mg/m³")
        raise DoubtfulInput("dust measured", text, "write one of these", choices)
    return value / 1000


def read_kind(text: str) -> ReadingKind:
    """A kind of reading by its name. Raises `InputError`."""
    kind = next((known for known in KINDS if known == text.strip().lower()), None)
    if kind is None:
        raise InputError("kind of reading", text, f"write one of: {', '.join(KINDS)}")
    return kind


def made_reading(
    project: Project, asked: tuple[str, str, str], value: str, date: datetime.date, note: str = ""
) -> Reading:
    """A reading of what (kind, machine that runs, place) is asked, its figure as typed.

    Raises `InputError` for what is not in the shop and for a figure that cannot be.
    """
    kind = read_kind(asked[0])
    figure = read_value(kind, value, project.settings.units)
    return reading_of(project, (kind, *asked[1:]), figure, date, note, typed=value)


def reading_of(
    project: Project,
    asked: ReadingSpec,
    value: float,
    date: datetime.date,
    note: str = "",
    typed: str | None = None,
) -> Reading:
    """A reading with its usual doubt; `value` in SI, `typed` as somebody wrote it. Raises as
    `made_reading` does.
    """
    kind, machine, place = asked
    display = Display(project.settings.units)
    highest = most_believed(project, kind)
    if not 0 < value <= highest:
        most = figure(display, kind, highest)
        raise InputError(
            f"{kind} measured",
            typed or exact(display, kind, value),
            f"write more than nothing and no more than {most}",
        )
    error = usual_error(kind, value)
    reading = Reading(
        kind=kind,
        machine=machine,
        place=place,
        value=value,
        error=error,
        date=date,
        note=note[:LONGEST_NOTE],
    )
    check_place(project, reading)
    return reading


# -- text and JSON


def sure_text(found: HowSure) -> str:
    """Every pickup with its band, the chance that its need is met, and what matters most for it."""
    display, names = Display(found.project.settings.units), Names(found.project)
    if found.project.keep.applied and found.fit.readings:
        follow = "with the readings"
    else:
        follow = "from the tables alone"
    lines = [
        f"{found.project.name}: how sure the airflows are, {follow}; eight in ten of "
        f"{found.sure.draws} draws"
    ]
    for item in found.sure.pickups:
        lines.append(f"{capital(pickup_words(names, item))}: {pickup_band(display, item)}")
        lines.append(
            "    mostly " + ", ".join(f"{words} ({share:.0%})" for words, share in item.matters)
        )
    return "\n".join(lines)


def pickup_words(names: Names, item: PickupSure) -> str:
    """The pickup, and what else is on where it is not its machine alone."""
    alone = item.scenario.running == (item.pickup.partition("/")[0],)
    others = " and ".join(
        names.of(m) for m in item.scenario.running if m != item.pickup.partition("/")[0]
    )
    return names.of(item.pickup) + ("" if alone else f" with {others} on")


def pickup_band(display: Display, item: PickupSure) -> str:
    """The airflow, where eight in ten lie, and whether that is enough."""
    low, high = (display.airflow(value, unit=False) for value in (item.low, item.high))
    needed = f"of {display.airflow(item.need)} needed: {item.words}"
    return f"{display.airflow(item.figure)}, likely {low} to {high}, {needed}"


def sure_report(found: HowSure) -> dict[str, Any]:
    """The same as plain values; airflows in m³/s."""
    pickups = [
        {
            "pickup": item.pickup,
            "running": list(item.scenario.running),
            "figure": item.figure,
            "low": item.low,
            "mid": item.mid,
            "high": item.high,
            "need": item.need,
            "chance_met": item.chance,
            "matters": [{"name": words, "share": share} for words, share in item.matters],
        }
        for item in found.sure.pickups
    ]
    applied = found.project.keep.applied and bool(found.fit.readings)
    return {
        "format": "grey-current/sure/1",
        "draws": found.sure.draws,
        "follows_readings": applied,
        "pickups": pickups,
    }


def fit_text(found: HowSure) -> str:
    """What became of the readings, and what they have moved."""
    display, names = Display(found.project.settings.units), Names(found.project)
    lines = [f"{item.number}. {logged_words(names, display, item)}" for item in found.logged]
    lines += [
        capital(moved.words) + f"; {moved.left:.0%} of its uncertainty is left"
        for moved in found.fit.moved
    ]
    return "\n".join(
        lines or ["No readings yet: grey-current next-reading says which to take first."]
    )


def fit_report(found: HowSure) -> dict[str, Any]:
    """The same as plain values, SI units; a place that is gone has no figure expected."""
    readings = [
        {
            "number": item.number,
            **item.reading.model_dump(mode="json"),
            "standing": item.standing,
            "expected": None if item.standing == "gone" else item.expected,
            "half": None if item.standing == "gone" else item.half,
        }
        for item in found.logged
    ]
    moved = [
        {"unknown": m.unknown.key, "factor": m.factor, "doubt_left": m.left}
        for m in found.fit.moved
    ]
    return {"format": "grey-current/fit/1", "readings": readings, "moved": moved}


def faults_text(found: HowSure) -> str:
    """The likeliest causes with how to look, and the reading that tells the two likeliest apart."""
    names = Names(found.project)
    if not found.told.causes:
        return "No readings to explain: grey-current next-reading says which to take first."
    lines = [
        f"{n}. {cause_words(names, cause)}" for n, cause in enumerate(likely_causes(found.told), 1)
    ]
    if found.told.apart is not None and len(lines) > 1:
        lines.append(f"Best next check: {place_words(names, *found.told.apart)}.")
    if found.step is not None:
        display = Display(found.project.settings.units)
        lines.append(f"Next step: {question(names, found.step)}")
        lines += [f"  {line}" for line in instructions(names, display, found.step)]
    return "\n".join(lines)


def faults_report(found: HowSure) -> dict[str, Any]:
    """The same as plain values; a cause without a name is a healthy shop."""
    causes = [
        {
            "fault": cause.kind.name if cause.kind else None,
            "place": cause.place or None,
            "also": list(cause.also),
            "chance": cause.chance,
            "times_table": cause.factor,
            "air_lost": cause.loses,
            "look": cause.kind.look if cause.kind else None,
        }
        for cause in found.told.causes
    ]
    apart = dict(zip(("kind", "machine", "place"), found.told.apart or (), strict=False)) or None
    return {
        "format": "grey-current/faults/1",
        "causes": causes,
        "tells_apart": apart,
        "next_step": None if found.step is None else _step_report(found.step),
    }


def _step_report(step: Step) -> dict[str, Any]:
    asked = dict(zip(("kind", "machine", "place"), step.asked or (), strict=False)) or None
    return {
        "todo": step.todo,
        "minutes": step.minutes,
        "reading": asked,
        "fault": step.fault.name if step.fault is not None else None,
        "places": list(step.places),
    }


def next_text(found: HowSure) -> str:
    """The readings that would settle most."""
    display, names = Display(found.project.settings.units), Names(found.project)
    lines = [
        f"{place_words(names, w.kind, w.machine, w.place)}: expect "
        f"{figure(display, w.kind, w.expected)} "
        f"({band_words(display, w.kind, w.expected, w.half)}); it removes {w.settles:.0%} of "
        "the uncertainty"
        f'\n    grey-current log FILE add "{w.kind}" {w.machine} {w.place} VALUE'
        for w in found.wanted
    ]
    if not lines and not found.project.keep.reads_ducts:
        return "Nothing to measure with: choose your instruments at the Keep stage."
    if lines:
        lines.append(known_words(found.sure))
    return "\n".join(lines or ["Nothing to measure: no air is computed yet."])


# -- CSV


def exact(display: Display, kind: ReadingKind, value: float) -> str:
    """A reading's value with its unit, to six digits."""
    if kind == "airflow":
        return f"{value / CFM:.6g} CFM" if display.us else f"{value * 3600:.6g} m3/h"
    if kind == "motor current":
        return f"{value:.6g} A"
    if kind == "sound":
        return f"{value:.6g} dB(A)"
    if kind == "dust":
        return f"{value:.6g} mg/m3"
    if kind == "velocity":
        return f"{value / FPM:.6g} fpm" if display.us else f"{value:.6g} m/s"
    return f"{value / INH2O:.6g} inH2O" if display.us else f"{value:.6g} Pa"


def readings_csv(project: Project) -> str:
    """The readings as CSV, one a line, in the project's units."""
    display = Display(project.settings.units)
    return csv_of(
        COLUMNS,
        (
            (
                r.kind,
                r.machine,
                r.place,
                exact(display, r.kind, r.value),
                r.date.isoformat(),
                r.note,
            )
            for r in project.keep.readings
        ),
    )


@as_in_files()
def read_readings(path: Path, project: Project) -> tuple[Reading, ...]:
    """Readings from a CSV file. Raises `FileError` for one that has none, `InputError` for a line
    that cannot be.
    """
    rows = csv_rows(csv_text(path, "readings", LARGEST), str(path), "the readings")
    heading = [cell.strip().lower() for cell in rows[0]] if rows else []
    if any(column not in heading for column in COLUMNS[:4]):
        raise FileError(
            str(path), "has no heading for readings", f"begin with: {', '.join(COLUMNS)}"
        )
    found = []
    for number, row in enumerate(rows[1 : LINES + 1], 2):
        cells = dict(zip(heading, (cell.strip() for cell in row), strict=False))
        if any(cells.values()):
            found.append(_of_line(project, cells, number))
    return tuple(found)


def _of_line(project: Project, cells: dict[str, str], number: int) -> Reading:
    if cells.get("date"):
        date = parse_past(cells["date"], project.settings.units, f"line {number}, date")
    else:
        date = datetime.date.today()
    asked = (cells.get("kind", ""), cells.get("machine", ""), cells.get("place", ""))
    try:
        return made_reading(project, asked, cells.get("value", ""), date, cells.get("note", ""))
    except InputError as problem:
        raise InputError(f"line {number}, {problem.where}", problem.value, problem.rule) from None


def monthly_text(project: Project, found: Sequence[Monthly]) -> str:
    """The monthly reading of each collector, with its limits."""
    if not found:
        return "No machine draws through a collector yet."
    display, names = Display(project.settings.units), Names(project)
    lines: list[str] = []
    for one in found:
        lines.append(f"Suction in {place_of(names, one)}")
        lines += [f"    {line}" for line in limit_lines(display, one)]
        for date, value in one.readings:
            on = date_words(date, display.system)
            lines.append(f"    {on}  {display.pressure(value)}  {one.words(value)}")
    return "\n".join(lines)


def monthly_report(found: Sequence[Monthly]) -> dict[str, Any]:
    """The same in SI units, as JSON has it."""
    return {
        "format": "grey-current/monthly/1",
        "monthly": [
            asdict(one) | {"readings": [(f"{date}", value) for date, value in one.readings]}
            for one in found
        ],
    }

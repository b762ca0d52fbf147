"""What comes next, with dates: bin full, filter due, hose worn; by what was logged, else by what is
usual.

Source: what is usual is a prior and what was logged moves it (Gelman et al., Bayesian Data
Analysis, 2013, ch. 2 and 14: normal with known variance; linear regression with a normal prior). A
band holds eight in ten.
"""

from __future__ import annotations

import datetime
import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from grey_current.dates import date_words
from grey_current.design.collector.catch import hours_between_cleanings, share_in_bin
from grey_current.keep.fit import INSIDE, usual_error
from grey_current.keep.model import Model, spreads
from grey_current.numerals import decimal
from grey_current.shop.collectors import Collector
from grey_current.shop.keep_plan import LogEntry, Reading
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.units import Display
from grey_current.work.chores import bin_key, chips_a_week, filter_key, hours_a_week
from grey_current.work.day import FULL

Array = NDArray[np.float64]
# Deviation of the logarithm of chips a week, from uses a week alone. Allowance.
USUAL_DOUBT = 0.5
# The same for one logged day: days differ. Allowance.
DAY_DOUBT = 0.7
# What litres worked out from minutes are off by, all together. Allowance.
CHIP_DOUBT = 0.3
# What litres seen in the bin when it was emptied are off by. Allowance.
EMPTIED_DOUBT = 0.2
# Deviation of the logarithm of the hours after which a filter wants cleaning. Allowance.
CLEANING_DOUBT = 0.6
# Hours at work after which a moved hose is worn, and its deviation. Allowance.
HOSE_HOURS, HOSE_DOUBT = 400.0, 0.5
# Days that a logbook must span before a rate is read off it.
SHORTEST_SPAN = 7
# Days beyond which no date is given.
FARTHEST = 3 * 365
DRAWS = 2000
# Times the table's resistance of a filter at which its drop is solved.
RATIOS = np.geomspace(0.1, 20.0, 14)


@dataclass(frozen=True)
class Forecast:
    """Something that will be due: its words, when it is likely to be, and the days that hold eight
    in ten.

    `why` says what it rests on. Dates beyond some years are None: not soon. `key` is that of the
    chore which it gives a date to; empty for none.
    """

    element: str
    words: str
    date: datetime.date | None
    early: datetime.date | None
    late: datetime.date | None
    why: str
    key: str = ""


def forecasts(project: Project, model: Model, today: datetime.date) -> list[Forecast]:
    """What is due next, the soonest first. `model` by the tables is what filter readings are
    compared with.
    """
    found = []
    for collector in project.collectors:
        found += [
            f
            for f in (
                _bin_full(project, collector, today),
                _filter_due(project, model, collector, today),
            )
            if f
        ]
    found += [
        f
        for run in project.runs
        if run.also_serves
        if (f := _hose_worn(project, run.id, today)) is not None
    ]
    return sorted(found, key=lambda f: f.date or datetime.date.max)


def _since(
    project: Project, place: str, kinds: Sequence[str], today: datetime.date
) -> list[LogEntry]:
    """A place's lines of some kinds up to today, the oldest first."""
    mine = [
        e for e in project.keep.entries if e.place == place and e.kind in kinds and e.date <= today
    ]
    return sorted(mine, key=lambda entry: entry.date)


def _together(means: Sequence[float], doubts: Sequence[float]) -> tuple[float, float]:
    """Independent estimates of one thing put together by their precisions: the mean and its
    deviation.
    """
    weights = [doubt**-2 for doubt in doubts]
    whole = math.fsum(weights)
    return math.fsum(m * w for m, w in zip(means, weights, strict=True)) / whole, whole**-0.5


# -- the bin


def _bin_full(project: Project, collector: Collector, today: datetime.date) -> Forecast | None:
    if collector.bin is None:
        return None
    lines = [entry for entry in project.keep.of_the_bin(collector.id) if entry.date <= today]
    rate = _litres_a_day(project, collector.id, lines, today)
    if rate is None:
        return None
    mean, doubt, why = rate
    filled, since = _filled(lines)
    room = collector.bin.volume * 1000 * FULL
    # Rates are log-normal, so that a bin is never full before today.
    low, mid, high = (math.exp(mean + k * INSIDE * doubt) for k in (-1, 0, 1))
    name, display = Names(project).start(collector.id), Display(project.settings.units)
    if since is None:
        start, why = today, f"{why}; counted from an empty bin today"
    else:
        start, why = since, f"{why}; {display.volume(filled)} went in since it was emptied"
    left = max(room - filled, 0.0)
    days = [left / each for each in (mid, high, low)]
    return Forecast(
        collector.id,
        f"{name}: its bin is two thirds full",
        *_dates(start, days, today),
        why,
        bin_key(collector.id),
    )


def _filled(lines: Sequence[LogEntry]) -> tuple[float, datetime.date | None]:
    """Litres logged since the bin was last emptied, and the last day of them; none where nothing is
    logged.

    `lines` in the order in which it happened: what stands behind the emptying of the same day went
    in after it.
    """
    emptied = max((n for n, e in enumerate(lines) if e.kind == "bin emptied"), default=0)
    since = lines[emptied:]
    filled = math.fsum(e.litres or 0.0 for e in since if e.kind == "worked")
    return filled, since[-1].date if since else None


def litres_in_bin(project: Project, collector: str) -> float:
    """Litres that went into a collector's bin since it was last emptied, by the logbook; NaN for
    one without a bin.
    """
    item = project.collector.get(collector)
    if item is None or item.bin is None:
        return math.nan
    return _filled(project.keep.of_the_bin(collector))[0]


def _litres_a_day(
    project: Project, collector: str, lines: Sequence[LogEntry], today: datetime.date
) -> tuple[float, float, str] | None:
    """The logarithm of litres a day, its deviation, and what they rest on; None where no chips are
    known.
    """
    say = Display(project.settings.units).volume
    # Three witnesses, weighed by their doubt: the uses a week, the logged days, and what the bin
    # held.
    usual = chips_a_week(project, collector) / 7 * share_in_bin(project.collector[collector])
    means, doubts, why = [], [], []
    if usual > 0:
        means.append(math.log(usual))
        doubts.append(USUAL_DOUBT)
        why.append(f"{say(usual * 7)} a week by uses")
    worked = [e for e in lines if e.kind == "worked" and e.litres]
    span = (today - worked[0].date).days if worked else 0
    if span >= SHORTEST_SPAN:
        rate = math.fsum(e.litres or 0.0 for e in worked) / span
        means.append(math.log(rate))
        doubts.append(math.hypot(DAY_DOUBT / math.sqrt(len(worked)), CHIP_DOUBT))
        why.append(f"{say(rate * 7)} a week by {len(worked)} logged days")
    emptied = [e for e in lines if e.kind == "bin emptied"]
    for before, after in itertools.pairwise(emptied):
        days = (after.date - before.date).days
        if after.litres and days >= 1:
            means.append(math.log(after.litres / days))
            doubts.append(math.hypot(EMPTIED_DOUBT, CHIP_DOUBT))
            on = date_words(after.date, project.settings.units)
            why.append(f"{say(after.litres / days * 7)} a week by what the bin held on {on}")
    return (*_together(means, doubts), "; ".join(why[:3])) if means else None


# -- the filter


def _filter_due(
    project: Project, model: Model, collector: Collector, today: datetime.date
) -> Forecast | None:
    item = collector.filter
    after = hours_between_cleanings(collector)
    hours = _hours_a_day(project, collector.id, today)
    due = (1 + item.due) / (1 + item.loading)
    if after is None or hours is None:
        return None
    lines = _since(project, collector.id, ("filter cleaned", "filter changed"), today)
    cleaned = lines[-1].date if lines else None
    readings = [
        r
        for r in project.keep.readings
        if r.kind == "filter drop"
        and r.place == collector.id
        and (cleaned is None or r.date >= cleaned)
        and r.date <= today
    ]
    start = cleaned or min((r.date for r in readings), default=today)
    ratios = resistances_of(model, readings)
    known = [
        (float((r.date - start).days), x)
        for r, x in zip(readings, ratios, strict=True)
        if math.isfinite(x)
    ]
    # Between a clean filter and one that is due its resistance grows by the hours.
    days_usual = after / hours
    after_it = {"filter cleaned": item.seasoned, "filter changed": 0.0}
    left_in = after_it[lines[-1].kind] if lines else item.loading
    first = (1 + left_in) / (1 + item.loading)
    rise = (item.due - item.seasoned) / (1 + item.loading) / days_usual
    if due <= first or rise <= 0:
        return None
    crossing = _crossing(known, first, rise, due)
    name = Names(project).start(collector.id)
    if cleaned is not None:
        on = date_words(cleaned, project.settings.units)
        since = f"since it was {lines[-1].kind.split()[-1]} on {on}"
    else:
        since = "its state as it is drawn"
    kept = "no separator" if collector.separator is None else f"its {collector.separator.kind}"
    why = f"{after:.0f} h with {kept} at {decimal(hours * 7, 1)} h a week; {since}"
    if known:
        count = "one reading" if len(known) == 1 else f"{len(known)} readings"
        why = f"{count} of its drop, the last {decimal(known[-1][1], 1)} times the table's; {why}"
    return Forecast(
        collector.id,
        f"{name}: its filter is due for cleaning",
        *_dates(start, crossing, today),
        why,
        filter_key(collector.id),
    )


def resistances_of(model: Model, readings: Sequence[Reading]) -> list[float]:
    """How many times the table's resistance a filter has by each reading of its drop; NaN where no
    air is known.

    The drop falls behind the resistance, for less air flows: read off the model solved with a row
    of resistances, everything else by the tables.
    """
    tables: dict[tuple[str, str], Array] = {}
    found = []
    for reading in readings:
        key = (reading.machine, reading.place)
        if key not in tables:
            part = model.only(frozenset((reading.machine,)))
            views = (part.view({f"filter/{reading.place}": float(ratio)}) for ratio in RATIOS)
            tables[key] = np.array([view.value("filter drop", *key) for view in views])
        found.append(float(np.interp(reading.value, tables[key], RATIOS)))
    return found


def _crossing(
    known: Sequence[tuple[float, float]], first: float, slope: float, due: float
) -> list[float]:
    """Days until the resistance (times the table's) is due: the middle, and where eight in ten lie.

    A line with a normal prior: it begins where such a filter is after its cleaning and rises as its
    kind does.
    """
    # The table's resistance and usual rise with their doubts, then each reading of the drop adds
    # what it tells.
    prior = np.diag([(spreads()["filter"].sigma * first) ** -2, (CLEANING_DOUBT * slope) ** -2])
    precision, pull = prior.copy(), prior @ np.array([first, slope])
    for time, ratio in known:
        row = np.array([1.0, time])
        error = max(usual_error("filter drop", 500.0) / 500.0 * ratio, 1e-3)
        precision += np.outer(row, row) / error**2
        pull += row * ratio / error**2
    covariance = np.linalg.inv(precision)
    # The day at which a line crosses has no simple spread: drawn, with a fixed seed.
    drawn = np.random.default_rng(1).multivariate_normal(covariance @ pull, covariance, DRAWS)
    least = slope / 50
    days = np.maximum((due - drawn[:, 0]) / np.maximum(drawn[:, 1], least), 0.0)
    return [float(q) for q in np.quantile(days, (0.5, 0.1, 0.9))]


def _hours_a_day(project: Project, collector: str, today: datetime.date) -> float | None:
    """Hours a day that a collector is on: by uses a week, and by the logbook where it spans some
    weeks.
    """
    usual = hours_a_week(project, collector) / 7
    means, doubts = ([math.log(usual)], [USUAL_DOUBT]) if usual > 0 else ([], [])
    worked = [e for e in _since(project, collector, ("worked",), today) if e.hours]
    span = (today - worked[0].date).days if worked else 0
    if span >= SHORTEST_SPAN:
        means.append(math.log(math.fsum(e.hours or 0.0 for e in worked) / span))
        doubts.append(DAY_DOUBT / math.sqrt(len(worked)))
    return math.exp(_together(means, doubts)[0]) if means else None


# -- hoses


def _hose_worn(project: Project, run: str, today: datetime.date) -> Forecast | None:
    item = project.run[run]
    owners = {ref.partition("/")[0] for ref in item.touches}
    mine = [m for m in project.machines if m.id in owners]
    hours = math.fsum(m.uses_per_week * m.minutes_per_use / 60 for m in mine) / 7
    if hours <= 0:
        return None
    lines = _since(project, run, ("hose changed",), today)
    start = lines[-1].date if lines else today
    days = [HOSE_HOURS * math.exp(k * INSIDE * HOSE_DOUBT) / hours for k in (0, -1, 1)]
    since = f"since {start}" if lines else "were it new today"
    why = f"{HOSE_HOURS:.0f} h at work is an allowance; {decimal(hours * 7, 1)} h a week, {since}"
    return Forecast(run, f"{Names(project).start(run)}: worn", *_dates(start, days, today), why)


def _dates(
    start: datetime.date, days: Sequence[float], today: datetime.date
) -> tuple[datetime.date | None, datetime.date | None, datetime.date | None]:
    """Days after a start as dates, none before today; None for what is far off."""
    late = [max(start + datetime.timedelta(days=min(d, 10 * FARTHEST)), today) for d in days]
    first, early, last = (None if (date - today).days > FARTHEST else date for date in late)
    return first, early, last


# -- months


@dataclass(frozen=True)
class Month:
    """A month of the logbook: hours that collectors were on, litres, energy (kWh), days at work,
    readings.
    """

    year: int
    month: int
    hours: float
    litres: float
    kwh: float
    days: int
    readings: int

    @property
    def name(self) -> str:
        """Such as 2026-03."""
        return f"{self.year}-{self.month:02d}"


def months(project: Project) -> list[Month]:
    """Every month in which anything was logged, the oldest first."""
    keys = {(e.date.year, e.date.month) for e in project.keep.entries}
    keys |= {(r.date.year, r.date.month) for r in project.keep.readings}
    found = []
    for year, month in sorted(keys):
        worked = [
            e
            for e in project.keep.entries
            if e.kind == "worked" and (e.date.year, e.date.month) == (year, month)
        ]
        found.append(
            Month(
                year,
                month,
                math.fsum(e.hours or 0.0 for e in worked),
                math.fsum(e.litres or 0.0 for e in worked),
                math.fsum(e.kwh or 0.0 for e in worked),
                len({e.date for e in worked}),
                sum((r.date.year, r.date.month) == (year, month) for r in project.keep.readings),
            )
        )
    return found


# -- trends


@dataclass(frozen=True)
class Trend:
    """A course over time: what it is of, its unit's kind, and its points (date, value in SI) in
    order.
    """

    name: str
    kind: str
    points: tuple[tuple[datetime.date, float], ...]


def trends(project: Project) -> list[Trend]:
    """Readings of one kind at one place, and litres and hours added up: each a course with at least
    one point.
    """
    names, found = Names(project), []
    groups: dict[tuple[str, str, str], list[Reading]] = {}
    for reading in project.keep.readings:
        groups.setdefault((reading.kind, reading.machine, reading.place), []).append(reading)
    for (kind, machine, place), readings in groups.items():
        if kind != "static pressure":
            where = names.of(place)
        else:
            where = f"{names.of(place)}, {names.of(machine)} on"
        points = tuple(sorted((r.date, r.value) for r in readings))
        found.append(Trend(where, kind, points))
    worked = sorted(
        (e for e in project.keep.entries if e.kind == "worked"), key=lambda entry: entry.date
    )
    for kind in ("litres", "hours"):
        # Litres and hours add up, so that the line climbs.
        by_place: dict[str, list[tuple[datetime.date, float]]] = {}
        for entry in worked:
            value = getattr(entry, kind)
            if value is not None and entry.place is not None:
                mine = by_place.setdefault(entry.place, [])
                mine.append((entry.date, value + (mine[-1][1] if mine else 0.0)))
        found += [Trend(names.of(place), kind, tuple(points)) for place, points in by_place.items()]
    return found

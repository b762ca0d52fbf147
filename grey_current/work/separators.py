"""Which separator for a collector: what each kind costs in air, and what it spares in work and
money, for this shop.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from grey_current.air.fan import is_vacuum
from grey_current.air.gas import air_at
from grey_current.air.separators import FULL_FROM, SeparatorKind, Spread
from grey_current.design.collector.catch import CLEANINGS, caught, hours_between_cleanings, kind_of
from grey_current.design.collector.fit import CHIPS
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.fittings import fan_curve
from grey_current.numerals import decimal
from grey_current.shop.catalogue import usual_separator
from grey_current.shop.collector_edits import with_separator, with_separator_in_place
from grey_current.shop.collectors import Collector
from grey_current.shop.model import Project
from grey_current.shop.names import Names, capital
from grey_current.shop.usual_prices import usual_price
from grey_current.units import Display
from grey_current.work.chores import chips_a_week, hours_a_week

# m³ that what stands under each kind usually holds; a collector's own bin where it has one.
# Allowances.
HOLDS: dict[SeparatorKind, float] = {
    "drum lid": 0.12,
    "lid with baffle": 0.12,
    "bucket": 0.02,
    "small cyclone": 0.02,
    "cyclone": 0.13,
}
BARE_BAG = 0.08
# m that it stands high and takes beside the collector. Allowances.
TAKES: dict[SeparatorKind, tuple[float, float]] = {
    "none": (0.0, 0.0),
    "drum lid": (0.9, 0.6),
    "lid with baffle": (0.95, 0.6),
    "bucket": (0.6, 0.4),
    "small cyclone": (0.95, 0.4),
    "cyclone": (1.9, 0.7),
}
# m³/s within which two airflows are the same.
LITTLE_AIR = 0.002
# A share above which whole per cents would say that it is all.
ALMOST_ALL = 0.99
# Years over which a separator is paid off, and weeks of work in a year. Allowances.
YEARS, WEEKS = 10.0, 46.0
FOR_VACUUMS: tuple[SeparatorKind, ...] = ("none", "bucket", "small cyclone")
FOR_COLLECTORS: tuple[SeparatorKind, ...] = ("none", "drum lid", "lid with baffle", "cyclone")


@dataclass(frozen=True)
class SeparatorRow:
    """One kind of separator on a collector.

    Attributes:
        air: What each pickup gets (m³/s), and `least` the lowest share of a need that is met.
        chips, fine: What it keeps of them.
        emptied: How often in a year its bin, or the bag, is two thirds full, and `lift` what is
            then lifted (kg).
        to_bag: Litres a year that go on into the bag.
        hours: Hours of work between two cleanings of the filter.
        high, wide: What it takes beside the collector (m).
        price, yearly: What it costs to buy, and what it and the filter cost a year; None where no
            price is known.
    """

    kind: SeparatorKind
    now: bool
    air: dict[str, float]
    least: float
    served: int
    chips: Spread
    fine: Spread
    emptied: float
    lift: float
    to_bag: float
    hours: float | None
    high: float
    wide: float
    price: float | None
    yearly: float | None


def separator_rows(project: Project, collector: str) -> list[SeparatorRow]:
    """What each kind of separator would be for a collector, from none to the best; what it has is
    among them. Raises `KeyError` for an unknown one.
    """
    item = project.collector[collector]
    vacuum = is_vacuum(fan_curve(item.fan, air_at()))
    kinds = list(FOR_VACUUMS if vacuum else FOR_COLLECTORS)
    if kind_of(item) not in kinds:
        kinds.append(kind_of(item))
    return [_row(project, item, kind) for kind in kinds]


def title(row: SeparatorRow) -> str:
    """What a row is called: "Lid with baffle", "No separator"."""
    return "No separator" if row.kind == "none" else capital(row.kind)


def air_words(project: Project, row: SeparatorRow, now: SeparatorRow) -> str:
    """What a kind does to the air, at the pickup where it changes most."""
    display, names = Display(project.settings.units), Names(project)
    changes = {ref: air - now.air[ref] for ref, air in row.air.items() if ref in now.air}
    if row.now or not changes:
        return ""
    ref = max(changes, key=lambda each: abs(changes[each]))
    if abs(changes[ref]) < LITTLE_AIR:
        return "about the same air"
    sign = "+" if changes[ref] > 0 else "−"
    return f"{sign}{display.airflow(abs(changes[ref]))} at {names.of(ref)}"


def dust_words(row: SeparatorRow) -> str:
    """What it keeps of chips and of fine dust."""
    if row.kind == "none":
        return "all chips go through the fan into the bag"
    return f"keeps {_share(row.chips)} of the chips, {_share(row.fine)} of the fine dust"


def work_words(project: Project, row: SeparatorRow) -> str:
    """What it makes of cleaning, emptying and money."""
    words = []
    if row.hours is not None:
        words.append(f"clean the filter every {row.hours:.0f} h of work")
    if row.emptied > 0:
        what = "bag" if row.kind == "none" else "bin"
        weight = Display(project.settings.units).mass(row.lift)
        words.append(f"empty the {what} {_times(row.emptied)} a year, {weight}")
    if row.yearly is not None:
        words.append(f"about {decimal(row.yearly)} {project.build.currency} a year")
    return "; ".join(words)


def _times(count: float) -> str:
    return "once" if round(count) <= 1 else f"{count:.0f} times"


def _share(spread: Spread) -> str:
    most = f"{decimal(spread.most * 100, 1)}%" if spread.most > ALMOST_ALL else f"{spread.most:.0%}"
    return f"{spread.least:.0%} to {most}"


def with_kind(project: Project, collector: str, kind: SeparatorKind) -> Project:
    """The project with a separator of a kind: its own where it has one of that kind, else that
    which comes with its model, else the usual one.
    """
    item = project.collector[collector]
    if kind_of(item) == kind:
        return project
    own = usual_separator(item.model)
    if own is not None and own.kind == kind:
        return with_separator_in_place(project, collector, own)
    return with_separator(project, collector, kind)


def _row(project: Project, item: Collector, kind: SeparatorKind) -> SeparatorRow:
    made = with_kind(project, item.id, kind)
    now = assess(made)
    new = made.collector[item.id]
    air, least, served, most = _air(now, item.id)
    kept = caught(new, most or None)
    hours_a_year = hours_a_week(project, item.id) * WEEKS
    litres = chips_a_week(project, item.id) * WEEKS
    held = HOLDS.get(kind, BARE_BAG)
    if item.bin is not None and kind in ("none", "cyclone"):
        held = item.bin.volume
    keeps = kept.chips.usual if kind != "none" else 1.0
    hours = hours_between_cleanings(new, most or None)
    price = _price(project, kind, new)
    return SeparatorRow(
        kind,
        kind == kind_of(item),
        air,
        least,
        served,
        kept.chips,
        kept.fine,
        litres * keeps / (held * 1000 * FULL_FROM),
        held * FULL_FROM * CHIPS,
        litres * (1 - kept.chips.usual),
        hours,
        *TAKES[kind],
        price,
        _yearly(project, new, price, hours, hours_a_year),
    )


def _air(now: Assessment, collector: str) -> tuple[dict[str, float], float, int, float]:
    """What each pickup of a collector gets alone, the least share of a need, how many machines are
    served, and the usual airflow through the collector.
    """
    air: dict[str, float] = {}
    shares, flows = [], []
    served = 0
    for machine, answer in now.of_machine.items():
        system = answer.systems.get(collector)
        if system is None or not system.converged:
            continue
        flows.append(system.airflow)
        mine = [p for p in answer.pickups if p.machine == machine and p.collector == collector]
        for pickup in mine:
            air[f"{machine}/{pickup.pickup}"] = pickup.airflow
            shares.append(pickup.share)
        served += bool(mine) and all(pickup.met for pickup in mine)
    usual = sorted(flows)[len(flows) // 2] if flows else 0.0
    return air, min(shares, default=math.nan), served, usual


def _price(project: Project, kind: SeparatorKind, item: Collector) -> float | None:
    own = usual_separator(item.model)
    # What comes with a model is paid with it.
    if kind == "none" or (own is not None and own.kind == kind):
        return 0.0
    found = usual_price(f"separator/{kind.replace(' ', '-')}", project.build.currency)
    return None if found is None else found.usual


def _yearly(
    project: Project, item: Collector, price: float | None, hours: float | None, worked: float
) -> float | None:
    """The separator by the year, and the filters that its cleanings wear out."""
    if price is None:
        return None
    kind = item.filter.kind.replace(" ", "-")
    found = usual_price(f"filter/{kind}/{item.filter.area * 100:.0f}", project.build.currency)
    if hours is None or found is None:
        return price / YEARS
    return price / YEARS + worked / hours / CLEANINGS * found.usual

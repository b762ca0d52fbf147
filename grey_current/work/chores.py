"""Chores from jobs and hours: how often bins, filters, heaters and hoses want a hand, and when
next.
"""

from __future__ import annotations

import datetime
import math
from dataclasses import dataclass

from grey_current.design.collector.catch import hours_between_cleanings, share_in_bin
from grey_current.numerals import decimal
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.room import hot_names
from grey_current.units import Display
from grey_current.work.day import FULL, served_by_collectors
from grey_current.work.materials import allowance, litres_an_hour

CLEAN_MOTORS = (
    "dust in them overheats. Unplug first; vacuum, and blow out only what is left, "
    "outdoors and with a respirator on"
)
MOST_DAYS = 365
# Of a drawer: what lies higher is thrown out again.
HALF_FULL = 0.5


@dataclass(frozen=True)
class Chore:
    """Something to do every so many days, and why so often; `key` is what it is told by."""

    words: str
    days: int
    why: str
    key: str = ""

    def first(self, today: datetime.date) -> datetime.date:
        """When it is due the first time, counted from today."""
        return today + datetime.timedelta(days=self.days)


def bin_key(collector: str) -> str:
    """What the emptying of a collector's bin is told by."""
    return f"bin/{collector}"


def filter_key(collector: str) -> str:
    """What the cleaning of a collector's filter is told by."""
    return f"filter/{collector}"


def hours_a_week(project: Project, collector: str) -> float:
    """Hours that a collector's machines are used in a week, as it is entered."""
    return math.fsum(
        m.uses_per_week * m.minutes_per_use / 60 for m in _machines_of(project, collector)
    )


def chips_a_week(project: Project, collector: str) -> float:
    """Litres of chips that a collector's machines make in a week of that use, where nothing is said
    a usual figure.
    """
    return math.fsum(_litres_a_week(m) for m in _machines_of(project, collector))


def _litres_a_week(machine: Machine) -> float:
    return litres_an_hour(machine) * machine.uses_per_week * machine.minutes_per_use / 60


def _machines_of(project: Project, collector: str) -> list[Machine]:
    served = served_by_collectors(project)
    return [m for m in project.machines if collector in served.get(m.id, ())]


def chores(project: Project) -> list[Chore]:
    """The chores of a shop by its uses a week, the most frequent first. Raises nothing."""
    found: list[Chore] = []
    say = Display(project.settings.units).volume
    for collector in project.collectors:
        hours, litres = hours_a_week(project, collector.id), chips_a_week(project, collector.id)
        name = collector.name.lower()
        if collector.bin is not None and litres > 0:
            # At two thirds: an over-full bin sends everything to the filter.
            into = litres * share_in_bin(collector)
            days = _days(collector.bin.volume * 1000 * FULL / into * 7)
            found.append(
                Chore(
                    f"Empty the {name}'s bin",
                    days,
                    f"{say(into)} of chips a week; full at two thirds",
                    bin_key(collector.id),
                )
            )
        after = hours_between_cleanings(collector)
        if after is not None and hours > 0:
            days = _days(after / hours * 7)
            why = (
                f"{decimal(hours, 1)} hours of work a week; with {_keeps(collector)} it lasts "
                f"{after:.0f}"
            )
            key = filter_key(collector.id)
            found.append(Chore(f"Clean the {name}'s filter", days, why, key))
    found += _drawers(project)
    found += [
        Chore(
            f"New filters for the {c.name.lower()}",
            _days(c.lasts / 10 * 7),
            "some ten hours a week",
        )
        for c in project.work.cleaners
    ]
    hot = hot_names(project.features)
    if hot:
        found.append(Chore(f"Take the dust off the {hot[0]}, cold", 30, "dust on hot things burns"))
    # What wants doing by the calendar, whatever was worked.
    if project.machines:
        found.append(Chore("Clean motors and switches", 90, CLEAN_MOTORS))
    if project.moved_hoses or project.shared_hoses:
        found.append(Chore("Look along the moved hose for holes", 60, "it is what wears first"))
    if project.runs:
        found.append(
            Chore("Before the season: gates, joints, clamps, earthing", 180, "leaks come slowly")
        )
    return sorted(found, key=lambda chore: chore.days)


def _keeps(collector: Collector) -> str:
    """What keeps dust off a collector's filter."""
    return "no separator" if collector.separator is None else f"its {collector.separator.kind}"


def _drawers(project: Project) -> list[Chore]:
    """Drawers that fill: where air takes the chips away none does."""
    piped = served_by_collectors(project)
    say = Display(project.settings.units).volume
    found = []
    for machine in project.machines:
        litres = _litres_a_week(machine)
        if machine.chip_drawer and machine.id not in piped and litres > 0:
            days = _days(allowance("drawer_litres", "mid") * HALF_FULL / litres * 7)
            words = f"Empty the {machine.name.lower()}'s drawer, with a respirator on"
            found.append(
                Chore(words, days, f"{say(litres)} of chips a week; before it is half full")
            )
    return found


def _days(days: float) -> int:
    return int(min(max(round(days), 1), MOST_DAYS))

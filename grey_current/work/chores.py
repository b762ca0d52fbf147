"""Chores from jobs and hours: how often bins, filters, heaters and hoses want a hand, and when next."""

from __future__ import annotations

import datetime
import math
from dataclasses import dataclass

from grey_current.shop.model import Project
from grey_current.shop.room import HOT
from grey_current.work.day import FULL, served_by_collectors
from grey_current.work.materials import litres_an_hour

CLEAN_AFTER_HOURS = {"bag": 10.0, "felt bag": 25.0, "pleated cartridge": 40.0}
"""Hours of work after which a filter of a kind wants cleaning. Allowance; its gauge knows better."""
MOST_DAYS = 365


@dataclass(frozen=True)
class Chore:
    """Something to do every so many days, and why so often."""

    words: str
    days: int
    why: str

    def first(self, today: datetime.date) -> datetime.date:
        """When it is due the first time, counted from today."""
        return today + datetime.timedelta(days=self.days)


def chores(project: Project) -> list[Chore]:
    """The chores of a shop by its uses a week, the most frequent first. Raises nothing."""
    found: list[Chore] = []
    served = served_by_collectors(project)
    for collector in project.collectors:
        mine = [m for m in project.machines if collector.id in served.get(m.id, ())]
        hours = math.fsum(m.uses_per_week * m.minutes_per_use / 60 for m in mine)
        litres = math.fsum(litres_an_hour(m) * m.uses_per_week * m.minutes_per_use / 60 for m in mine)
        name = collector.name.lower()
        if collector.bin is not None and litres > 0:
            days = _days(collector.bin.volume * 1000 * FULL / litres * 7)
            found.append(Chore(f"Empty the {name}'s bin", days, f"{litres:.0f} l of chips a week; full at two thirds"))
        after = CLEAN_AFTER_HOURS.get(collector.filter.kind)
        if after is not None and hours > 0:
            days = _days(after / hours * 7)
            found.append(Chore(f"Clean the {name}'s filter", days, f"{hours:.1f} hours of work a week"))
    found += [
        Chore(f"New filters for the {c.name.lower()}", _days(c.lasts / 10 * 7), "some ten hours a week")
        for c in project.work.cleaners
    ]
    hot = [feature.name.lower() for feature in project.features if feature.kind in HOT]
    if hot:
        found.append(Chore(f"Take the dust off the {hot[0]}, cold", 30, "dust on hot things burns"))
    if project.machines:
        found.append(Chore("Blow out motors and switches, unplugged", 90, "dust in them overheats"))
    if any(run.also_serves for run in project.runs):
        found.append(Chore("Look along the moved hose for holes", 60, "it is what wears first"))
    if project.runs:
        found.append(Chore("Before the season: gates, joints, clamps, earthing", 180, "leaks come slowly"))
    return sorted(found, key=lambda chore: chore.days)


def _days(days: float) -> int:
    return int(min(max(round(days), 1), MOST_DAYS))

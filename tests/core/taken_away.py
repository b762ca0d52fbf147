"""One good thing taken away from a shop, and the cause that must then be named."""

from __future__ import annotations

import math
import random
from collections.abc import Iterator
from typing import NamedTuple

from grey_current.design.flow.assessment import Assessment
from grey_current.design.improve.duct_changes import main_runs
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop import edits
from grey_current.shop.collector_edits import with_separator
from grey_current.shop.collectors import Collector
from grey_current.shop.duct_edits import split
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.model import Project
from grey_current.shop.places import distance, position

MAIN_BORE, LEAK, TINY_OPENING, BLINDED = 0.1016, 0.0004, 0.015, 12.0


class Taken(NamedTuple):
    """What was taken away: its cause, the shop without it, the machine that is asked about."""

    code: str
    project: Project
    machine: str | None = None


def taken_away(project: Project, chance: random.Random) -> Iterator[Taken]:
    """The shop with one good thing after the other taken away."""
    if len(project.gates) > 1:
        yield Taken("no-gates", project.replaced(gates=()))
        yield Taken("no-gates", edits.removed(project, [chance.choice(project.gates).id]))
        gate = chance.choice(project.gates)
        yield Taken("gate-open", edits.changed(project, gate.id, rule="left open"))
    hoses = [
        run
        for run in project.runs
        if is_hose(run) and not run.also_serves and run.start in project.pickup
    ]
    if hoses:
        run = chance.choice(hoses)
        slack = edits.with_hose_length(project, run.id, max(4 * distance(project, run), 3.0))
        yield Taken("hose-long", slack, project.pickup[run.start][0].id)
        machine, pickup = project.pickup[chance.choice(hoses).start]
        narrow = round(0.55 * pickup.port, 4)
        ref = f"{machine.id}/{pickup.id}"
        yield Taken("port-narrow", edits.with_pickup(project, ref, port=narrow), machine.id)
    for collector in project.collectors:
        if collector.id in main_runs(project):
            yield from _from_collector(project, collector)
    yield Taken("duct-leak", edits.with_settings(project, duct_leakage=LEAK))


def _from_collector(project: Project, item: Collector) -> Iterator[Taken]:
    yield Taken("separator-lossy", with_separator(project, item.id, "bucket"))
    dirty = item.filter.replaced(loading=BLINDED)
    yield Taken("filter-loaded", edits.changed(project, item.id, filter=dirty))
    wide = [r for r in main_runs(project)[item.id] if project.run[r].diameter > MAIN_BORE + 0.02]
    if wide:
        yield Taken("main-small", edits.changed_all(project, wide, diameter=MAIN_BORE))
    if item.takes_air_away:
        shut = edits.changed(project, item.id, opening=TINY_OPENING)
        yield Taken("return-opening-small", shut)
    yield from _behind_elbows(project, item)


def _behind_elbows(project: Project, item: Collector) -> Iterator[Taken]:
    """Two mitred turns close before the inlet, one beside the other."""
    last = AirPaths(project).at[item.id]
    if len(last) != 1 or is_hose(last[0]) or distance(project, last[0]) < 0.7:
        return
    away = 0.25 / distance(project, last[0])
    share = 1 - away if last[0].end == item.id else away
    project, near = split(project, last[0].id, share)
    behind = next(r for r in project.runs if near in r.ends and item.id not in r.ends)
    away = 0.05 / distance(project, behind)
    project, far = split(project, behind.id, 1 - away if behind.end == near else away)
    here, inlet = position(project, near), position(project, item.id)
    dx, dy = here[0] - inlet[0], here[1] - inlet[1]
    length = math.hypot(dx, dy)
    if length > 0.05:
        aside = project.point[far]
        x, y = aside.x - 0.5 * dy / length, aside.y + 0.5 * dx / length
        project = edits.changed_all(project, [near, far], elbow="mitre")
        yield Taken("elbow-at-inlet", edits.changed(project, far, x=x, y=y))


def air_of(now: Assessment, machine: str | None) -> float:
    """What all connected pickups get (m³/s), each machine running on its own."""
    return math.fsum(
        p.airflow
        for name, answer in now.of_machine.items()
        if machine in (None, name)
        for p in answer.pickups
        if p.leaf is not None
    )

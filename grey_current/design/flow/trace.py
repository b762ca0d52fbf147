"""From the ductwork as drawn to the network of pieces that air passes, fittings inferred.

After an edit only those branches are walked again that it touched.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TypeVar

from grey_current.air.gas import Air, air_at
from grey_current.air.network import Network
from grey_current.design.flow.walk import Ends, Span, SpanKey, Walk
from grey_current.errors import DuctworkError
from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import Collector
from grey_current.shop.design_parts import alike
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.places import position

PartT = TypeVar("PartT", Collector, Gate, Machine, Point, Run)
Arrangement = tuple[tuple[str, str], ...]
"""(run id, pickup reference) for each hose that is not where it rests."""


def shop_air(project: Project) -> Air:
    """The air of a project's shop."""
    s = project.settings
    return air_at(s.altitude, s.temperature, s.humidity)


@dataclass(frozen=True, eq=False)
class Trace:
    """The networks of a project by collector id, with hoses where an arrangement has them, and how they were found."""

    project: Project
    arrangement: Arrangement
    networks: Mapping[str, Network]
    ends_at: Ends
    spans: Mapping[str, Mapping[SpanKey, Span]]


def trace(project: Project, arrangement: Arrangement = (), before: Trace | None = None) -> Trace:
    """The network of every collector that has ducts.

    Parameters
    ----------
    project
        The shop.
    arrangement
        Where moved hoses are.
    before
        The trace of a similar project; branches that nothing has changed are taken from it.

    Raises
    ------
    DuctworkError
        For a run of a material that is not in the catalogue.
    """
    known = materials()
    for run in project.runs:
        if run.material not in known:
            use = f"use one of {', '.join(known)}"
            raise DuctworkError(f"run '{run.id}'", f"is of unknown material '{run.material}'", use)
    air, moved = shop_air(project), dict(arrangement)
    ends_at = _ends_at(project, moved)
    stale = _stale(before, project, ends_at, moved) if before and _comparable(before, project, arrangement) else None
    gates = tuple([gate.id for gate in project.gates])
    networks: dict[str, Network] = {}
    spans: dict[str, Mapping[SpanKey, Span]] = {}
    for collector in project.collectors:
        ident = collector.id
        if ident not in ends_at:
            continue
        kept: Mapping[SpanKey, Span] = {}
        if before and stale is not None:
            old = before.spans.get(ident, {})
            kept = {key: span for key, span in old.items() if span.runs.isdisjoint(stale)}
            if kept and len(kept) == len(old) and before.networks[ident].gates == gates:
                networks[ident], spans[ident] = before.networks[ident], old
                continue
        networks[ident], spans[ident] = Walk(project, moved, collector, air, ends_at, kept).network()
    return Trace(project, arrangement, networks, ends_at, spans)


def _ends_at(project: Project, moved: Mapping[str, str]) -> Ends:
    ends: dict[str, list[Run]] = defaultdict(list)
    for run in project.runs:
        ends[moved.get(run.id, run.start)].append(run)
        ends[run.end].append(run)
    return dict(ends)


def _comparable(before: Trace, project: Project, arrangement: Arrangement) -> bool:
    """Whether branches of an earlier trace may be taken over at all."""
    was, now = before.project.settings, project.settings
    as_tight = was is now or was.duct_leakage == now.duct_leakage
    return as_tight and shop_air(before.project) == shop_air(project) and before.arrangement == arrangement


def _stale(before: Trace, project: Project, ends_at: Ends, moved: Mapping[str, str]) -> set[str]:
    """Runs whose branches are not as they were: all that meet where a run, or what a run ends at, has changed.

    A wye and an elbow are made of the runs on both of their sides, so that a changed run touches its neighbours, and
    what has moved touches those beyond the far ends of its runs too.
    """
    was = before.project
    changed = _differing(was.runs, project.runs)
    ends = {point.id for point in _differing(was.points, project.points)}
    ends |= {collector.id for collector in _differing(was.collectors, project.collectors)}
    ends |= {f"{m.id}/{pickup.id}" for m in _differing(was.machines, project.machines) for pickup in m.pickups}
    for ref in ends:
        if _moved(was, project, ref):
            changed += (*before.ends_at.get(ref, ()), *ends_at.get(ref, ()))
    joints = ends | {ref for run in changed for ref in (moved.get(run.id, run.start), run.end)}
    touched = {run.id for ref in joints for found in (before.ends_at, ends_at) for run in found.get(ref, ())}
    if not alike(was.gates, project.gates):
        touched |= {gate.run for gate in _differing(was.gates, project.gates)}
        places = {gate.id: place for place, gate in enumerate(was.gates)}
        touched |= {gate.run for place, gate in enumerate(project.gates) if places.get(gate.id) != place}
    return touched


def _moved(was: Project, project: Project, ref: str) -> bool:
    """Whether what runs end at is somewhere else now, or is new or gone."""
    try:
        return position(was, ref) != position(project, ref)
    except KeyError:
        return True


def _differing(was: Sequence[PartT], now: Sequence[PartT]) -> list[PartT]:
    """What is not the same before and after: as it was, and as it is."""
    if alike(was, now):
        return []
    old, new = ({item.id: item for item in items} for items in (was, now))
    kept = {ident for ident, item in old.items() if (other := new.get(ident)) is item or other == item}
    return [item for items in (old, new) for ident, item in items.items() if ident not in kept]

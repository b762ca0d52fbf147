"""From the ductwork as drawn to the network of pieces that air passes, fittings inferred.

After an edit only those branches are walked again that it touched.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TypeVar

from grey_current.air.gas import Air, air_at
from grey_current.air.network import Network
from grey_current.design.flow.spans import Walked
from grey_current.design.flow.walk import Ends, Walk
from grey_current.errors import DuctworkError
from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import Collector
from grey_current.shop.design_parts import alike
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.places import position

PartT = TypeVar("PartT", Collector, Gate, Machine, Point, Run)
# (run id, pickup reference) for each hose that is not where it rests.
Arrangement = tuple[tuple[str, str], ...]


def shop_air(project: Project) -> Air:
    """The air of a project's shop."""
    s = project.settings
    return air_at(s.altitude, s.temperature, s.humidity)


@dataclass(frozen=True, eq=False)
class Trace:
    """The ways of the air by collector id, with hoses where an arrangement has them."""

    project: Project
    arrangement: Arrangement
    walked: Mapping[str, Walked]
    ends_at: Ends

    @cached_property
    def networks(self) -> Mapping[str, Network]:
        """The network of each collector that has ducts."""
        return {collector: walked.network for collector, walked in self.walked.items()}


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
    comparable = before is not None and _comparable(before, project, arrangement)
    ends_at = (_ends_after(before, project, moved) if before and comparable else None) or _ends_at(
        project, moved
    )
    stale = _stale(before, project, ends_at, moved) if before and comparable else None
    found: dict[str, Walked] = {}
    for collector in project.collectors:
        ident = collector.id
        if ident not in ends_at:
            continue
        last = before.walked.get(ident) if before and stale is not None else None
        if last is None or stale is None:
            found[ident] = Walk(project, moved, collector, air, ends_at, {}).walked()
            continue
        fresh = {key: span for key, span in last.spans.items() if span.runs.isdisjoint(stale)}
        walk = Walk(project, moved, collector, air, ends_at, fresh)
        as_many = bool(last.spans) and last.network.gates == walk.gates
        again = None
        if as_many:
            again = last if len(fresh) == len(last.spans) else walk.again(last, stale)
        found[ident] = again or Walk(project, moved, collector, air, ends_at, fresh).walked()
    return Trace(project, arrangement, found, ends_at)


def _ends_at(project: Project, moved: Mapping[str, str]) -> Ends:
    ends: dict[str, list[Run]] = defaultdict(list)
    for run in project.runs:
        ends[moved.get(run.id, run.start)].append(run)
        ends[run.end].append(run)
    return dict(ends)


def _ends_after(before: Trace, project: Project, moved: Mapping[str, str]) -> Ends | None:
    """The runs at each end where they end as they did before; None where they do not."""
    was, now = before.project.runs, project.runs
    if len(was) != len(now):
        return None
    ends: dict[str, Sequence[Run]] = dict(before.ends_at)
    for old, new in zip(was, now, strict=True):
        if old is not new:
            if (old.id, old.start, old.end) != (new.id, new.start, new.end):
                return None
            for ref in (moved.get(new.id, new.start), new.end):
                ends[ref] = [new if run.id == new.id else run for run in ends[ref]]
    return ends


def _comparable(before: Trace, project: Project, arrangement: Arrangement) -> bool:
    """Whether branches of an earlier trace may be taken over at all."""
    was, now = before.project.settings, project.settings
    as_tight = was is now or was.duct_leakage == now.duct_leakage
    return (
        as_tight
        and shop_air(before.project) == shop_air(project)
        and before.arrangement == arrangement
    )


def _stale(before: Trace, project: Project, ends_at: Ends, moved: Mapping[str, str]) -> set[str]:
    """Runs whose branches are not as they were: all that meet where a run, or what a run ends at,
    has changed.

    A wye and an elbow are made of the runs on both of their sides, so that a changed run touches
    its neighbours, and what has moved touches those beyond the far ends of its runs too.
    """
    was = before.project
    changed = _differing(was.runs, project.runs)
    ends = {point.id for point in _differing(was.points, project.points)}
    ends |= {collector.id for collector in _differing(was.collectors, project.collectors)}
    for machine in _differing(was.machines, project.machines):
        ends |= {f"{machine.id}/{pickup.id}" for pickup in machine.pickups}
    for ref in ends:
        if _moved(was, project, ref):
            changed += (*before.ends_at.get(ref, ()), *ends_at.get(ref, ()))
    joints = set(ends)
    for run in changed:
        joints |= {moved.get(run.id, run.start), run.end}
    touched: set[str] = set()
    for ref in joints:
        touched |= {run.id for run in (*before.ends_at.get(ref, ()), *ends_at.get(ref, ()))}
    if not alike(was.gates, project.gates):
        touched |= {gate.run for gate in _differing(was.gates, project.gates)}
        places = {gate.id: place for place, gate in enumerate(was.gates)}
        touched |= {
            gate.run for place, gate in enumerate(project.gates) if places.get(gate.id) != place
        }
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
    if len(was) == len(now):
        pairs = [(one, two) for one, two in zip(was, now, strict=True) if one is not two]
        if all(one.id == two.id for one, two in pairs):
            pairs = [(one, two) for one, two in pairs if one != two]
            return [one for one, _ in pairs] + [two for _, two in pairs]
    old = {item.id: item for item in was}
    new = {item.id: item for item in now}
    gone = [item for ident, item in old.items() if new.get(ident) != item]
    return gone + [item for ident, item in new.items() if old.get(ident) != item]

"""What "show me" on a page of reasons does to the shop, so that both can be compared."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from grey_current.design.improve import changes as ideas
from grey_current.design.improve.collector_changes import (
    larger_filter,
    larger_models,
    without_separator,
)
from grey_current.design.improve.duct_changes import main_runs, main_sizes, straighter_inlet
from grey_current.design.improve.gate_changes import missing_gates, with_gates_at_wyes
from grey_current.design.parts.besides import SEALED
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop import edits
from grey_current.shop.collectors import Collector
from grey_current.shop.edits import Change
from grey_current.shop.hoses import cut_length
from grey_current.shop.machines import FreeArea
from grey_current.shop.model import Project
from grey_current.shop.places import distance

# An opening for the air to come back through is made so much larger.
LARGER_OPENING = 2.0
# What is shown: a change of the shop, None where the shop has nothing of it. The second value is
# the pickup that gets the least, if there is one.
Shown = Callable[[Project, str | None], Change | None]


def _first(found: Iterable[Change]) -> Change | None:
    """The first of some changes, None where there is none."""
    return next(iter(found), None)


def _gates(words: str, **fields: object) -> Shown:
    def shown(project: Project, _: str | None) -> Change | None:
        ids = [gate.id for gate in project.gates]
        if not ids:
            return None
        return Change(words, ids[0], lambda p: edits.changed_all(p, ids, **fields))

    return shown


def _gates_at_wyes(project: Project, _: str | None) -> Change | None:
    ids = [gate.id for gate in project.gates]
    if not ids:
        return None
    return Change("Every gate at its wye", ids[0], lambda p: with_gates_at_wyes(p, ids))


def _main(*, up: bool) -> Shown:
    def shown(project: Project, _: str | None) -> Change | None:
        for runs in main_runs(project).values():
            return _first(main_sizes(project, runs, up=up))
        return None

    return shown


def _short_hoses(project: Project, _: str | None) -> Change | None:
    """Every hose cut to what it needs."""
    cut: dict[str, float] = {}
    for run in project.runs:
        if is_hose(run) and run.length:
            short = cut_length(project, max(distance(project, run, ref) for ref in run.serves))
            if short < run.length:
                cut[run.id] = short

    def edit(p: Project) -> Project:
        for run, length in cut.items():
            p = edits.with_hose_length(p, run, length)
        return p

    return Change("Every hose cut to what it needs", next(iter(cut)), edit) if cut else None


def _smooth_hoses(project: Project, _: str | None) -> Change | None:
    ribbed = [run.id for run in project.runs if is_hose(run) and run.material != "smooth-hose"]

    def edit(p: Project) -> Project:
        for run in ribbed:
            p = edits.with_material(p, run, "smooth-hose")
        return p

    return Change("Smooth-bore hose everywhere", ribbed[0], edit) if ribbed else None


def _long_elbows(project: Project, _: str | None) -> Change | None:
    turns = [p.id for p in project.points if p.radius_ratio < ideas.LONG_RADIUS]
    if not turns:
        return None
    fields = {"elbow": "smooth", "radius_ratio": ideas.LONG_RADIUS}
    return Change(
        "Long-radius elbows everywhere", turns[0], lambda p: edits.changed_all(p, turns, **fields)
    )


def _sealed_ducts(project: Project, _: str | None) -> Change | None:
    if not project.settings.duct_leakage:
        return None
    return Change("Tight joints", "", lambda p: edits.with_settings(p, duct_leakage=0.0))


def _wider_port(project: Project, ref: str | None) -> Change | None:
    return _first(ideas.wider_ports(project, ref)) if ref is not None else None


def _wider_intake(project: Project, ref: str | None) -> Change | None:
    intake = project.pickup[ref][1].intake if ref is not None else None
    if ref is None or not isinstance(intake, FreeArea):
        return None
    wider = FreeArea(area=min(intake.area * ideas.WIDER_INTAKE, 4.0))
    return Change(
        "Its intake half as wide again", ref, lambda p: edits.with_pickup(p, ref, intake=wider)
    )


def _larger_opening(project: Project, _: str | None) -> Change | None:
    item = next((c for c in project.collectors if c.takes_air_away and c.opening), None)
    if item is None or item.opening is None:
        return None
    area = min(item.opening * LARGER_OPENING, 20.0)
    return Change("Twice the opening", item.id, lambda p: edits.changed(p, item.id, opening=area))


def _outdoors(project: Project, _: str | None) -> Change | None:
    item = next(iter(project.collectors), None)
    if item is None:
        return None
    other = "into the shop" if item.exhausts == "outdoors" else "outdoors"
    words = "Blow the air outdoors" if other == "outdoors" else "Blow the air back into the shop"
    return Change(words, item.id, lambda p: edits.changed(p, item.id, exhausts=other))


def _other_criterion(project: Project, _: str | None) -> Change | None:
    fine = project.settings.criterion == "clear chips"
    wanted = "catch fine dust" if fine else "clear chips"
    words = "Count with catching the fine dust" if fine else "Count with clearing the chips"
    return Change(words, "", lambda p: edits.with_settings(p, criterion=wanted))


def _of_collector(make: Callable[[Collector], Iterator[Change]]) -> Shown:
    def shown(project: Project, _: str | None) -> Change | None:
        return _first(change for item in project.collectors for change in make(item))

    return shown


SHOWS: dict[str, Shown] = {
    "missing-gates": lambda project, _: _first(missing_gates(project)),
    "follow-gates": _gates("Every gate follows its machine", rule="with its machine"),
    "sealed-gates": _gates("A seal on every gate", leak=SEALED),
    "gates-at-wyes": _gates_at_wyes,
    "no-separator": _of_collector(without_separator),
    "larger-filter": _of_collector(larger_filter),
    "larger-collector": lambda project, _: _first(
        change
        for item in project.collectors
        for change in larger_models(item, project.settings.units)
    ),
    "larger-opening": _larger_opening,
    "outdoors": _outdoors,
    "wider-main": _main(up=True),
    "narrower-main": _main(up=False),
    "straight-inlet": lambda project, _: _first(
        c for item in project.collectors for c in straighter_inlet(project, item.id)
    ),
    "short-hoses": _short_hoses,
    "smooth-hoses": _smooth_hoses,
    "long-elbows": _long_elbows,
    "sealed-ducts": _sealed_ducts,
    "wider-port": _wider_port,
    "wider-intake": _wider_intake,
    "other-criterion": _other_criterion,
}

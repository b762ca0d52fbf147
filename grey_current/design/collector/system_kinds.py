"""Three ways to serve the same machines: one ducted collector, one hose moved about, several small collectors."""

from __future__ import annotations

import math
from dataclasses import dataclass

from grey_current.air.needs import MET_FROM
from grey_current.design.collector.noise import Loudness, at_machine
from grey_current.design.collector.small_ports import SMALL
from grey_current.design.flow.assessment import assess
from grey_current.design.flow.scenarios import alone_scenarios
from grey_current.design.space.hose_reach import swaps
from grey_current.shop.catalogue import CollectorModel, catalogue, new_collector
from grey_current.shop.ducts import Run
from grey_current.shop.edits import added, fresh_id
from grey_current.shop.hoses import cut_length
from grey_current.shop.model import Project
from grey_current.shop.places import position

OWN_HOSE = 1.5
"""m of hose of a small collector that stands by its machine. Allowance."""
BESIDE = 0.9
"""m from a port at which such a collector stands. Allowance."""


@dataclass(frozen=True)
class SystemKind:
    """One way: its name, the project that has it, how many of the machines it serves, the worst share of a need,
    minutes of swapping in a week, the loudest that any machine's user hears, and the price of its collectors where
    all are known.
    """

    name: str
    project: Project
    served: int
    asked: int
    worst: float
    swap_minutes: float
    loudness: Loudness | None
    price: float | None


def system_kinds(project: Project) -> list[SystemKind]:
    """The design as drawn, where it has ducts or hoses, and both others from the same machines. Raises nothing."""
    found = [_judged("As drawn", project)] if project.runs else []
    if any(machine.pickups for machine in project.machines):
        found += [_judged("One hose moved about", one_hose(project)), _judged("Several small ones", several(project))]
    return found


def one_hose(project: Project) -> Project:
    """The machines with one single-stage collector in their midst, and one hose that goes from port to port."""
    bare = project.replaced(collectors=(), points=(), runs=(), gates=())
    refs = [f"{m.id}/{m.pickups[0].id}" for m in project.machines if m.pickups]
    places = [position(bare, ref) for ref in refs]
    x, y = (sum(place[axis] for place in places) / len(places) for axis in (0, 1))
    best: tuple[int, float, Project] | None = None
    for model in (m for m in catalogue().collectors if m.kind == "single-stage"):
        made = _with_hose(bare, model, refs, x, y)
        answers = [u.worst.share for u in assess(made).answers if u.worst is not None and u.converged]
        score = (sum(share >= MET_FROM for share in answers), sum(answers), made)
        if best is None or score[:2] > best[:2]:
            best = score
    return best[2] if best else bare


def _with_hose(project: Project, model: CollectorModel, refs: list[str], x: float, y: float) -> Project:
    made = new_collector(model, fresh_id(project, "collector"), "Collector", x, y)
    made = made.replaced(stands="in the room")
    project = added(project, made)
    straight = max(math.dist(position(project, ref), position(project, made.id)) for ref in refs)
    length = cut_length(project, straight)
    hose = Run(
        id=fresh_id(project, "hose"),
        start=refs[0],
        end=made.id,
        diameter=min(model.inlet, 0.1524),
        material="ribbed-hose",
        length=length,
        also_serves=tuple(refs[1:]),
    )
    return added(project, hose)


def several(project: Project) -> Project:
    """The machines with a small collector beside each: a vacuum for small ports, a single-stage for the others."""
    made = project.replaced(collectors=(), points=(), runs=(), gates=())
    for machine in project.machines:
        if machine.pickups:
            made = _own_collector(made, f"{machine.id}/{machine.pickups[0].id}")
    return made


def _own_collector(project: Project, ref: str) -> Project:
    machine, pickup = project.pickup[ref]
    shelf = catalogue().collectors
    if pickup.port <= SMALL:
        model = next(m for m in shelf if m.kind == "vacuum")
    else:
        single = [m for m in shelf if m.kind == "single-stage"]
        model = next((m for m in single if m.inlet >= pickup.port - 3e-3), single[-1])
    x, y, _ = position(project, ref)
    away = math.atan2(y - machine.y, x - machine.x)
    place = (x + BESIDE * math.cos(away), y + BESIDE * math.sin(away))
    ident = fresh_id(project, f"{machine.id}-collector")
    project = added(project, new_collector(model, ident, f"{machine.name}'s collector", *place))
    straight = math.dist(position(project, ref), position(project, ident))
    hose = Run(
        id=fresh_id(project, f"{machine.id}-hose"),
        start=ref,
        end=ident,
        diameter=min(model.inlet, pickup.port),
        material="ribbed-hose",
        length=max(OWN_HOSE, cut_length(project, straight)),
    )
    return added(project, hose)


def _judged(name: str, project: Project) -> SystemKind:
    done = assess(project, alone_scenarios(project))
    shares = [u.worst.share if u.worst and u.converged else 0.0 for u in done.answers if u.pickups]
    heard = [
        loud
        for answer in done.answers
        for ident in answer.systems
        if (loud := at_machine(project, project.collector[ident], project.machine[answer.scenario.running[0]]))
        is not None
    ]
    prices = [c.price for c in project.collectors]
    return SystemKind(
        name,
        project,
        sum(share >= MET_FROM for share in shares),
        len(shares),
        min(shares, default=0.0),
        sum(swaps(project, run).minutes for run in project.runs if run.also_serves),
        max(heard, key=lambda loud: loud.level, default=None),
        None if any(p is None for p in prices) else sum(p or 0.0 for p in prices),
    )

"""Three ways to serve the same machines: one ducted collector, one hose moved about, several small collectors."""

from __future__ import annotations

import math
from dataclasses import dataclass

from grey_current.design.collector.noise import Loudness, at_machine
from grey_current.design.collector.small_ports import SMALL
from grey_current.design.flow.assessment import Assessment, assess
from grey_current.design.judgement import Judgement, air_judgement, judge, judgement_of
from grey_current.design.parts.costs import cost_of, prices
from grey_current.design.parts.parts_list import PartsList
from grey_current.design.space.free_places import FreeGround, free_ground, freely_standing
from grey_current.design.space.hose_reach import swaps
from grey_current.shop.catalogue import CollectorModel, catalogue, new_collector, pipe_sizes
from grey_current.shop.ducts import Run
from grey_current.shop.edits import added, fresh_id
from grey_current.shop.hoses import cut_length
from grey_current.shop.model import Project
from grey_current.shop.places import position

OWN_HOSE = 1.5
"""m of hose of a small collector that stands by its machine. Allowance."""
BESIDE = 0.9
"""m from a port at which such a collector stands. Allowance."""
LEAST_HOSE = 0.06
"""m; no narrower hose is tried for a whole shop. Allowance."""
XY = tuple[float, float]


@dataclass(frozen=True)
class SystemKind:
    """One way, by the one judgement: its name, the project that has it, in how many of the scenarios every need is met
    and every chip carried, the worst share of a need over all pickups, the slowest air over what chips need (None when
    nothing is connected), minutes of swapping in a week, the loudest that any machine's user hears, and the price of
    its collectors where all are known.
    """

    name: str
    project: Project
    served: int
    asked: int
    worst: float
    transport: float | None
    swap_minutes: float
    loudness: Loudness | None
    price: float | None


def system_kinds(now: Assessment) -> list[SystemKind]:
    """The design as drawn, where it has ducts or hoses, and both others from the same machines.

    `now` is the present answer, for every scenario that the shop counts with. Raises nothing.
    """
    project = now.project
    found = [_kind("As drawn", now, judgement_of(now))] if project.runs else []
    if any(machine.pickups for machine in project.machines):
        found += [_judged("One hose moved about", one_hose(project)), _judged("Several small ones", several(project))]
    return found


def one_hose(project: Project) -> Project:
    """The machines with one single-stage collector in their midst, and one hose that goes from port to port.

    It serves every pickup; size of hose and collector are those that the judgement of the shop finds best.
    """
    bare = project.replaced(collectors=(), points=(), runs=(), gates=())
    refs = [f"{m.id}/{p.id}" for m in project.machines for p in m.pickups]
    places = [position(bare, ref) for ref in refs]
    x, y = (sum(place[axis] for place in places) / len(places) for axis in (0, 1))
    best: tuple[tuple[float, float, float, int], Project] | None = None
    ground = free_ground(bare)
    for model in (m for m in catalogue().collectors if m.kind == "single-stage"):
        standing = _standing(bare, model, "collector", "Collector", (x, y), ground)
        for size in sorted({size for size in pipe_sizes(project) if LEAST_HOSE <= size <= model.inlet + 3e-3}):
            made = _with_hose(standing, refs, size)
            rank = air_judgement(assess(made)).rank
            if best is None or rank < best[0]:
                best = rank, made
    return best[1] if best else bare


def _standing(
    project: Project, model: CollectorModel, ident: str, name: str, wanted: XY, ground: FreeGround
) -> Project:
    """The project with a collector as near to a place as it stands free of walls and of everything else."""
    made = new_collector(model, fresh_id(project, ident), name, *wanted).replaced(stands="in the room")
    return added(project, freely_standing(project, made, ground))


def _with_hose(project: Project, refs: list[str], size: float) -> Project:
    """The newest collector with one hose that goes from port to port, and reaches the farthest."""
    collector = project.collectors[-1].id
    straight = max(math.dist(position(project, ref), position(project, collector)) for ref in refs)
    hose = Run(
        id=fresh_id(project, "hose"),
        start=refs[0],
        end=collector,
        diameter=size,
        material="ribbed-hose",
        length=cut_length(project, straight),
        also_serves=tuple(refs[1:]),
    )
    return added(project, hose)


def several(project: Project) -> Project:
    """The machines with small collectors beside them, one for each pickup.

    A vacuum for small ports, a single-stage for the others, each where it stands free.
    """
    made = project.replaced(collectors=(), points=(), runs=(), gates=())
    ground = free_ground(made)
    for ref in project.pickup:
        made = _own_collector(made, ref, ground)
        ground = ground.without(made.collectors[-1])
    return made


def _own_collector(project: Project, ref: str, ground: FreeGround) -> Project:
    machine, pickup = project.pickup[ref]
    shelf = catalogue().collectors
    if pickup.port <= SMALL:
        model = next(m for m in shelf if m.kind == "vacuum")
    else:
        single = [m for m in shelf if m.kind == "single-stage"]
        model = next((m for m in single if m.inlet >= pickup.port - 3e-3), single[-1])
    x, y, _ = position(project, ref)
    away = math.atan2(y - machine.y, x - machine.x)
    wanted = (x + BESIDE * math.cos(away), y + BESIDE * math.sin(away))
    whose = machine.name if len(machine.pickups) == 1 else f"{machine.name}'s {pickup.name.lower()}"
    made = _standing(project, model, f"{machine.id}-collector", f"{whose}'s collector", wanted, ground)
    ident = made.collectors[-1].id
    straight = math.dist(position(made, ref), position(made, ident))
    hose = Run(
        id=fresh_id(made, f"{machine.id}-hose"),
        start=ref,
        end=ident,
        diameter=min(model.inlet, pickup.port),
        material="ribbed-hose",
        length=max(OWN_HOSE, cut_length(made, straight)),
    )
    return added(made, hose)


def _judged(name: str, project: Project) -> SystemKind:
    done = assess(project)
    return _kind(name, done, judge(done))


def _kind(name: str, done: Assessment, judged: Judgement) -> SystemKind:
    project = done.project
    heard = [
        loud
        for answer in done.answers
        for ident in answer.systems
        if (loud := at_machine(project, project.collector[ident], project.machine[answer.scenario.running[0]]))
        is not None
    ]
    money = cost_of(prices(project), PartsList(project).parts) if project.build.prices else None
    return SystemKind(
        name,
        project,
        *judged.served(),
        judged.worst,
        judged.slowest,
        sum(swaps(project, run).minutes for run in project.runs if run.also_serves),
        max(heard, key=lambda loud: loud.level, default=None),
        money.money if money is not None and money.known else None,
    )

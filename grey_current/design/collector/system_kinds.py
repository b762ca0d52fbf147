"""Three ways to serve the same machines: one ducted collector, one hose moved about, several small
collectors.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

from grey_current.design.collector.noise import Loudness, at_machine
from grey_current.design.collector.small_ports import SMALL
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import Scenario, all_scenarios
from grey_current.design.judgement import Judgement, air_judgement, judge, judgement_of
from grey_current.design.parts.costs import cost_of, prices
from grey_current.design.parts.parts_list import PartsList
from grey_current.design.space.clashes import TOUCH
from grey_current.design.space.free_places import FreeGround, free_ground, freely_standing
from grey_current.design.space.hose_reach import swaps
from grey_current.design.space.outlines import ground_of
from grey_current.errors import RefusedEdit
from grey_current.shop.catalogue import CollectorModel, catalogue, new_collector, pipe_sizes
from grey_current.shop.collectors import Collector
from grey_current.shop.duct_graph import branch_segment
from grey_current.shop.ducts import Run
from grey_current.shop.edits import Change, added, fresh_id, removed, runs_without
from grey_current.shop.hoses import cut_length
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.places import XY, inlet_of, middle_of, position
from grey_current.spelling import localised

# m from a port at which such a collector stands. Allowance.
BESIDE = 0.9
# m; no narrower hose is tried for a whole shop. Allowance.
LEAST_HOSE = 0.06


@dataclass(frozen=True)
class SystemKind:
    """One way, by the one judgement: its name, the project that has it, in how many of the
    scenarios every need is met and every chip carried, the worst share of a need over all pickups,
    the slowest air over what chips need (None when nothing is connected), minutes of swapping in a
    week, the loudest that any machine's user hears, and the price of its collectors where all are
    known.
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
        found += [
            _judged("One hose moved about", one_hose(project)),
            _judged("Several small ones", several(project)),
        ]
    return found


def one_hose(project: Project) -> Project:
    """The machines with one single-stage collector in their midst, and one hose that goes from port
    to port.

    It serves every pickup; size of hose and collector are those that the judgement of the shop
    finds best.
    """
    bare = project.replaced(collectors=(), points=(), runs=(), gates=())
    refs = list(project.pickup)
    x, y = middle_of([position(bare, ref) for ref in refs])
    tried: list[tuple[float, Project]] = []
    ground = free_ground(bare)
    for model in (m for m in catalogue().collectors if m.kind == "single-stage"):
        standing = _standing(bare, model, "collector", "Collector", (x, y), ground)
        sizes = sorted(
            {size for size in pipe_sizes(project) if LEAST_HOSE <= size <= model.inlet + 3e-3}
        )
        # The middle sizes first: they are usually best, and let the others be given up early.
        for place, size in enumerate(sizes):
            made = added(bare, standing, _with_hose(bare, standing, refs, size))
            tried.append((abs(place - len(sizes) / 2), made))
    return _best_by_air(tried) or bare


def _best_by_air(tried: Sequence[tuple[float, Project]]) -> Project | None:
    """The first of those whose air is judged best; one is given up as soon as its trouble is more
    than the least.

    Those that are given the smallest number are tried first, the later ones before the earlier, and
    the scenarios that were worst before: so what is hopeless shows soonest.
    """
    best: tuple[tuple[float, ...], int] | None = None
    troubles: dict[Scenario, float] = {}
    # Scenario by scenario, the worst one first: most choices are out after one.
    for number in sorted(range(len(tried)), key=lambda n: (tried[n][0], -n)):
        judged, (_, project) = None, tried[number]
        for scenario in sorted(all_scenarios(project), key=lambda s: -troubles.get(s, 0.0)):
            part = air_judgement(assess(project, [scenario]))
            judged, troubles[scenario] = (
                part if judged is None else judged.with_more(part),
                part.trouble,
            )
            if best is not None and round(judged.trouble, 3) > best[0][0]:
                break
        else:
            if judged is not None and (best is None or (judged.rank, number) < best):
                best = judged.rank, number
    return tried[best[1]][1] if best is not None else None


def _standing(
    project: Project,
    model: CollectorModel,
    ident: str,
    name: str,
    wanted: XY,
    ground: FreeGround,
    turn: float = 0.0,
) -> Collector:
    """A collector as near to a place as it stands free of walls and of everything else."""
    made = new_collector(model, fresh_id(project, ident), name, *wanted).replaced(
        stands="in the room", turn=turn
    )
    return freely_standing(project, made, ground)


def _with_hose(project: Project, collector: Collector, refs: list[str], size: float) -> Run:
    """A hose that goes from port to port, and reaches the farthest."""
    straight = max(math.dist(position(project, ref), inlet_of(collector)) for ref in refs)
    return Run(
        id=fresh_id(project, "hose"),
        start=refs[0],
        end=collector.id,
        diameter=size,
        material="ribbed-hose",
        length=cut_length(project, straight),
        also_serves=tuple(refs[1:]),
    )


def several(project: Project) -> Project:
    """The machines with small collectors beside them, one for each pickup.

    A vacuum for small ports, a single-stage for the others, each where it stands free.
    """
    bare = project.replaced(collectors=(), points=(), runs=(), gates=())
    ground, made = free_ground(bare), list[Collector | Run]()
    for ref in project.pickup:
        collector, hose = _own_collector(bare, ref, ground, {item.id for item in made})
        made += [collector, hose]
        ground = ground.without(collector)
    return added(bare, *made)


def with_own_collector(project: Project, ref: str) -> Project:
    """The project with a small collector beside a machine for one of its pickups, on a hose; what
    led there before goes, a hose that is moved about stays for the others.

    Raises `KeyError` for an unknown pickup, `RefusedEdit` where no place for it is out of the way.
    """
    led = next((run for run in project.runs if ref in run.serves), None)
    bare = project
    if led is not None and led.also_serves:
        bare = project.replaced(runs=runs_without(project, {ref}))
    elif led is not None:
        bare = removed(project, branch_segment(project, led.id))
    ground = free_ground(bare)
    made, hose = _own_collector(bare, ref, ground, set())
    if not ground.unused.buffer(TOUCH).covers(ground_of(made)):
        raise RefusedEdit(
            called(project, ref),
            "a collector of its own",
            "make room beside the machine, out of the ways of boards",
        )
    return added(bare, made, hose)


def own_collector_change(project: Project, ref: str, whom: str = "") -> Change:
    """The change that gives a pickup a small collector of its own; `whom` says in words whose.

    Raises `KeyError` for an unknown pickup.
    """
    model = localised(_own_model(project, ref).model, project.settings.units)
    whose = f" for {whom}" if whom else ""
    words = f"A collector of its own{whose}: {model}"
    return Change(words, ref, partial(with_own_collector, ref=ref))


def _own_model(project: Project, ref: str) -> CollectorModel:
    """The model that suits one pickup: small ports want a vacuum's pressure, wide ones a
    single-stage collector of their size.
    """
    port, shelf = project.pickup[ref][1].port, catalogue().collectors
    if port <= SMALL:
        return next(model for model in shelf if model.kind == "vacuum")
    single = [model for model in shelf if model.kind == "single-stage"]
    return next((model for model in single if model.inlet >= port - 3e-3), single[-1])


def _own_collector(
    project: Project, ref: str, ground: FreeGround, taken: set[str]
) -> tuple[Collector, Run]:
    machine, pickup = project.pickup[ref]
    model = _own_model(project, ref)
    x, y, _ = position(project, ref)
    away = math.atan2(y - machine.y, x - machine.x)
    wanted = (x + BESIDE * math.cos(away), y + BESIDE * math.sin(away))
    whose = machine.name if len(machine.pickups) == 1 else f"{machine.name}'s {pickup.name.lower()}"
    ident = fresh_id(project, f"{machine.id}-collector", taken)
    port, name = position(project, ref), f"{whose}'s collector"
    # With its inlet towards the port, where it can stand so.
    made = min(
        (
            _standing(project, model, ident, name, wanted, ground, turn)
            for turn in (0.0, 90.0, 180.0, 270.0)
        ),
        key=lambda item: math.dist(port, inlet_of(item)),
    )
    straight = math.dist(port, inlet_of(made))
    hose = Run(
        id=fresh_id(project, f"{machine.id}-hose", taken),
        start=ref,
        end=ident,
        diameter=min(model.inlet, pickup.port),
        material="ribbed-hose",
        length=cut_length(project, straight),
    )
    return made, hose


def _judged(name: str, project: Project) -> SystemKind:
    done = assess(project)
    return _kind(name, done, judge(done))


def _kind(name: str, done: Assessment, judged: Judgement) -> SystemKind:
    project = done.project
    heard = []
    for answer in done.answers:
        machine = project.machine[answer.scenario.running[0]]
        for ident in answer.systems:
            loudness = at_machine(project, project.collector[ident], machine)
            if loudness is not None:
                heard.append(loudness)
    money = cost_of(prices(project), PartsList(project).parts)
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

"""The causes that are tried: each kind of fault at its places in some sizes, and what they make of
the model.
"""

from __future__ import annotations

import copy
import json
import math
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cache, cached_property
from importlib.resources import files
from statistics import NormalDist
from typing import Any

from grey_current.air import pieces
from grey_current.air.drawn import FAN_FLOW, FAN_PRESSURE
from grey_current.air.network import Network
from grey_current.design.flow.assess import assess
from grey_current.keep.model import Model
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.keep_plan import Look
from grey_current.shop.model import Project
from grey_current.shop.places import distance

# Quantiles of a fault's size that are tried.
SIZES = (0.1, 0.3, 0.5, 0.7, 0.9)
# A gate that does not shut is open, whatever its size.
GATE_SIZES = (0.5,)
# Those that are tried where a fault can be in more places than this.
FEW_SIZES, MANY_PLACES = (0.15, 0.5, 0.85), 8
# Darcy's friction factor in a smooth duct at work: turns a plug's velocity heads into a factor on a
# run's friction.
USUAL_FRICTION = 0.02
# Leakage (m³/s per m² at 1 Pa) that a tight shop is given so that a hole can be anywhere. By itself
# it moves no airflow of the sample loft by more than 0.2 %; with less the solver takes a hundred
# times as long.
HOLE_SEAMS = 1e-6
# Pa at which a hole and a leaky seam are made alike.
AT_SUCTION = 1000.0
# Discharge coefficient of a sharp hole. Idelchik, Handbook of Hydraulic Resistance, diagram 4-1.
ORIFICE = 0.6


@dataclass(frozen=True)
class FaultKind:
    """A kind of fault: of which unknown, its usual size and that logarithm's deviation, in words,
    how to look
    and how to mend it.

    The size is a factor; of a plug it is velocity heads, of a hole m². `whistles` and `dusty` are
    the chances that it is heard, and that dust comes behind the filter.
    """

    name: str
    of: str
    times: float
    spread: float
    words: str
    look: str
    mend: str
    whistles: float
    dusty: float


@dataclass(frozen=True)
class FaultKinds:
    """The kinds of fault, and the chances of a healthy shop: of being one, of whistling, of a dusty
    filter.

    `look_finds` is the chance that who looks for a fault that is there finds it, `look_errs` that
    who looks for one that is not takes something else for it.
    """

    kinds: tuple[FaultKind, ...]
    healthy: float
    healthy_whistles: float
    healthy_dusty: float
    look_finds: float
    look_errs: float

    @cached_property
    def by_name(self) -> dict[str, FaultKind]:
        """Each kind under its name."""
        return {kind.name: kind for kind in self.kinds}


@cache
def fault_kinds() -> FaultKinds:
    """The kinds of fault from the data file."""
    raw: dict[str, Any] = json.loads(
        (files("grey_current.keep") / "data" / "faults.json").read_text(encoding="utf-8")
    )
    kinds = tuple(FaultKind(**item) for item in raw["faults"])
    chances = ("healthy", "healthy_whistles", "healthy_dusty", "look_finds", "look_errs")
    return FaultKinds(kinds, *(float(raw[name]) for name in chances))


@dataclass(frozen=True)
class Tried:
    """A cause at one size: what it makes of the shop. Without a kind it is the healthy one."""

    kind: FaultKind | None
    place: str
    prior: float
    model: Model
    factors: dict[str, float]
    factor: float
    quantile: float = 0.5

    @property
    def cause(self) -> tuple[str, str]:
        """The cause without its size."""
        return self.kind.name if self.kind else "", self.place

    def over(self, base: dict[str, float]) -> dict[str, float]:
        """Its factors on top of others."""
        return base | {key: base.get(key, 1.0) * factor for key, factor in self.factors.items()}


def look_weight(looks: Iterable[Look], fault: str, place: str) -> float:
    """What looks add to the logarithm of a cause's chance: how much likelier each is with it than
    without. Zero for a healthy shop.

    Two causes add up: a look at one thing says nothing of another. Source: Bayes' rule.
    """
    known, weight = fault_kinds(), 0.0
    for look in looks:
        if look.fault != fault or (look.places and place not in look.places):
            continue
        if look.found:
            weight += math.log(known.look_finds / known.look_errs)
        else:
            weight += math.log((1 - known.look_finds) / (1 - known.look_errs))
    return weight


def faulty_model(model: Model) -> Model:
    """The same shop with seams that leak next to nothing, where there were none: a hole is a factor
    on one of them.
    """
    project = model.project
    if project.settings.duct_leakage > 0 or not model.parts:
        return model
    return Model(
        assess(project.replaced(settings=project.settings.replaced(duct_leakage=HOLE_SEAMS)))
    )


def all_tried(model: Model) -> list[Tried]:
    """Every cause at every size, each with its chance before anything is read, the healthy shop
    first.
    """
    known = fault_kinds()
    places = {kind: places_of(model, kind) for kind in known.kinds}
    there = [kind for kind in known.kinds if places[kind]]
    made = [Tried(None, "", known.healthy, model, {}, 1.0)]
    for kind in there:
        for place in places[kind]:
            # Every kind of fault is as likely as any other, and within a kind every place.
            share = (1 - known.healthy) / len(there) / len(places[kind])
            # Many places, few sizes: the search stays within a second.
            sizes: tuple[float, ...] = FEW_SIZES if len(places[kind]) > MANY_PLACES else SIZES
            if kind.of == "gate":
                sizes = GATE_SIZES
            made += [
                replace(cause_at(model, kind, place, size), prior=share / len(sizes))
                for size in sizes
            ]
    return made


def places_of(model: Model, kind: FaultKind) -> list[str]:
    """Where a kind of fault can be: gates, runs, or the owners of its unknown."""
    if kind.of == "gate":
        return [gate.id for gate in model.project.gates if gate.rule != "left open"]
    if kind.of in ("plug", "hole"):
        wanted = "duct/" if kind.of == "plug" else "duct leak/"
        runs: dict[str, None] = {}
        for part in model.parts:
            runs |= {
                group.partition("/")[2]: None
                for group in part.drawn.groups
                if group.startswith(wanted)
            }
        return _one_of_each_segment(model.project, runs)
    # In a tight shop seams do not leak, so that none of them can have opened.
    if kind.of == "duct leak" and model.project.settings.duct_leakage <= HOLE_SEAMS:
        return []
    return list(
        dict.fromkeys(u.key.partition("/")[2] for u in model.unknowns if _is_of(u.key, kind))
    )


def place_for(model: Model, kind: FaultKind, place: str) -> str:
    """The place that stands for one: of a plug or a hole, the run that stands for its whole branch
    segment.
    """
    if kind.of not in ("plug", "hole") or place not in model.project.run:
        return place
    segment = AirPaths(model.project).branch_segment(place)
    return next((known for known in places_of(model, kind) if known in segment), place)


def _one_of_each_segment(project: Project, runs: Iterable[str]) -> list[str]:
    """Of runs that follow one another without a branch between the longest: no reading tells such
    apart.
    """
    known, paths = list(runs), AirPaths(project)
    longest = {}
    for run in known:
        mine = tuple(other for other in paths.branch_segment(run) if other in known)
        longest[mine] = max(mine, key=lambda ident: distance(project, project.run[ident]))
    return list(dict.fromkeys(longest.values()))


def fault_words(project: Project, kind: FaultKind, place: str) -> str:
    """A kind of fault in words, with what else it may be there: no reading tells such apart."""
    collector, run = project.collector.get(place), project.run.get(place)
    if kind.of == "filter" and collector is not None and collector.exhausts == "outdoors":
        return f"{kind.words}, or the exhaust is blocked"
    if kind.of == "hole" and run is not None:
        segment = [project.run[ident] for ident in AirPaths(project).branch_segment(place)]
        if any(end in project.collector for item in segment for end in item.ends):
            return f"{kind.words}, or the lid of the bin leaks"
    return kind.words


def cause_at(model: Model, kind: FaultKind, place: str, quantile: float) -> Tried:
    """A cause at a quantile of its size."""
    # Sizes are log-normal: the usual one times or by a factor.
    size = kind.times * math.exp(kind.spread * NormalDist().inv_cdf(quantile))
    if kind.of == "gate":
        return Tried(kind, place, 0.0, with_open(model, place), {}, 1.0, quantile)
    if kind.of == "plug":
        return Tried(
            kind,
            place,
            0.0,
            model,
            {f"duct/{place}": 1 + size / _friction(model, place)},
            size,
            quantile,
        )
    if kind.of == "hole":
        return Tried(
            kind,
            place,
            0.0,
            model,
            {f"duct leak/{place}": 1 + _as_seam(model, place, size)},
            size,
            quantile,
        )
    keys = [
        u.key for u in model.unknowns if _is_of(u.key, kind) and u.key.partition("/")[2] == place
    ]
    return Tried(kind, place, 0.0, model, dict.fromkeys(keys, size), size, quantile)


def both_of(first: Tried, second: Tried) -> Tried:
    """Two causes at once, as one: what scales the same thing twice is multiplied."""
    shared = {key: first.factors.get(key, 1.0) * factor for key, factor in second.factors.items()}
    if second.kind is not None and second.kind.of == "gate":
        model = with_open(first.model, second.place)
    else:
        model = first.model
    return replace(first, model=model, factors=first.factors | shared)


def _is_of(key: str, kind: FaultKind) -> bool:
    name = key.partition("/")[0]
    return name in (FAN_PRESSURE, FAN_FLOW) if kind.of == "fan" else name == kind.of


def _networks(model: Model) -> list[Network]:
    return [part.network for part in model.parts]


def _friction(model: Model, run: str) -> float:
    """The velocity heads that a run's friction takes, about: f L / D."""
    for network in _networks(model):
        mine = [p for p in network.pieces if isinstance(p, pieces.Duct) and p.source_id == run]
        if mine:
            return max(USUAL_FRICTION * sum(p.length / p.diameter for p in mine), 1e-3)
    return 1.0


def _as_seam(model: Model, run: str, area: float) -> float:
    """How many times a run's seams a hole (m²) lets in at a usual suction: Q = 0.6 A √(2 Δp /
    ρ).
    """
    for network in _networks(model):
        mine = [p for p in network.pieces if isinstance(p, pieces.Leakage) and p.source_id == run]
        if mine:
            seams = sum(p.capacity for p in mine) * AT_SUCTION**0.65
            return float(ORIFICE * area * math.sqrt(2 * AT_SUCTION / network.air.density) / seams)
    return 0.0


def with_open(model: Model, gate: str) -> Model:
    """The model with one gate open in all scenarios."""
    made = copy.copy(model)
    made.parts = []
    for part in model.parts:
        gates = part.gates.copy()
        if gate in part.network.gates:
            gates[:, part.network.gates.index(gate)] = True
        made.parts.append(replace(part, gates=gates))
    return made

"""Which fault: causes ranked by how well each explains all readings, with the doubt about everything else.

Source: Bayes' rule over single causes; Kay, Fundamentals of Statistical Signal Processing II: Detection Theory, 1998,
ch. 6. A cause's size is integrated over a grid, each solved exactly; everything else that is not known is linear in
logarithms.
"""

from __future__ import annotations

import copy
import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files
from statistics import NormalDist
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grey_current.air.drawn import FAN_FLOW, FAN_PRESSURE
from grey_current.keep.fit import Asked, asked_of, candidates, jacobian, shown, usual_error
from grey_current.keep.model import Model
from grey_current.shop.keep_plan import Reading

Array = NDArray[np.float64]
SIZES = (0.1, 0.3, 0.5, 0.7, 0.9)
"""Quantiles of a fault's size that are tried."""
LEAST = 1e-6


@dataclass(frozen=True)
class FaultKind:
    """A kind of fault: of which unknown, its usual factor and that logarithm's deviation, in words, how to look."""

    name: str
    of: str
    times: float
    spread: float
    words: str
    look: str


@cache
def fault_kinds() -> tuple[tuple[FaultKind, ...], float]:
    """The kinds of fault, and the chance that a shop is healthy before anything is read."""
    raw: dict[str, Any] = json.loads((files("grey_current.keep") / "data" / "faults.json").read_text(encoding="utf-8"))
    return tuple(FaultKind(**item) for item in raw["faults"]), float(raw["healthy"])


@dataclass(frozen=True)
class Cause:
    """One cause: its kind and the thing that has it (an unknown's key, a gate), None for a healthy shop.

    `chance` is its share among all causes after the readings, `factor` the likeliest size of those tried, `loses` the
    share of all machines' air that it takes.
    """

    kind: FaultKind | None
    place: str
    chance: float
    factor: float = 1.0
    loses: float = 0.0


@dataclass(frozen=True)
class Told:
    """The causes, the likeliest first, and the reading that tells the two likeliest apart (None without one)."""

    causes: tuple[Cause, ...]
    apart: Asked | None


@dataclass(frozen=True)
class _Tried:
    """A cause at one size: what it makes of the shop."""

    kind: FaultKind | None
    place: str
    prior: float
    model: Model
    factors: dict[str, float]
    factor: float


def which_fault(model: Model, readings: Sequence[Reading], wanted: Callable[[], bool] = lambda: True) -> Told:
    """All causes ranked by how well they explain the readings; nothing is told without any. Raises nothing."""
    asked = asked_of(readings)
    zero = np.zeros(len(model.sigma))
    plain = shown(model.view({}), asked)
    kept = [n for n, value in enumerate(plain) if np.isfinite(value) and value > LEAST]
    if not kept or not wanted():
        return Told((), None)
    asked = [asked[n] for n in kept]
    read, error, plain = (np.array(v)[kept] for v in ([r.value for r in readings], [r.error for r in readings], plain))
    towards = jacobian(model, asked, zero) / plain[:, None]
    doubt = (towards * model.sigma**2) @ towards.T + np.diag((error / np.maximum(read, error)) ** 2)
    weights, tried = [], list[_Tried]()
    for item in _all_tried(model):
        if not wanted():
            return Told((), None)
        at = shown(item.model.only(frozenset(m for _, m, _ in asked)).view(item.factors), asked)
        if np.isfinite(at).all():
            off = np.log(read / np.maximum(at, LEAST))
            weights.append(np.log(item.prior) - 0.5 * float(off @ np.linalg.solve(doubt, off)))
            tried.append(item)
    shares = np.exp(np.array(weights) - max(weights))
    shares /= shares.sum()
    return _told(model, tried, shares)


def _all_tried(model: Model) -> list[_Tried]:
    """Every cause at every size, each with its chance before anything is read."""
    kinds, healthy = fault_kinds()
    gates = [gate.id for gate in model.project.gates]
    places = {
        kind: gates
        if kind.of == "gate"
        else list(dict.fromkeys(u.key.partition("/")[2] for u in model.unknowns if _is_of(u.key, kind)))
        for kind in kinds
    }
    there = [kind for kind in kinds if places[kind]]
    made = [_Tried(None, "", healthy, model, {}, 1.0)]
    for kind in there:
        share = (1 - healthy) / len(there) / len(places[kind])
        for place in places[kind]:
            if kind.of == "gate":
                made.append(_Tried(kind, place, share, _with_open(model, place), {}, 1.0))
                continue
            for quantile in SIZES:
                factor = kind.times * float(np.exp(kind.spread * NormalDist().inv_cdf(quantile)))
                keys = [u.key for u in model.unknowns if _is_of(u.key, kind) and u.key.partition("/")[2] == place]
                made.append(_Tried(kind, place, share / len(SIZES), model, dict.fromkeys(keys, factor), factor))
    return made


def _is_of(key: str, kind: FaultKind) -> bool:
    name = key.partition("/")[0]
    return name in (FAN_PRESSURE, FAN_FLOW) if kind.of == "fan" else name == kind.of


def _with_open(model: Model, gate: str) -> Model:
    """The model with one gate open in all scenarios."""
    made = copy.copy(model)
    made.parts = []
    for part in model.parts:
        gates = part.gates.copy()
        if gate in part.network.gates:
            gates[:, part.network.gates.index(gate)] = True
        made.parts.append(replace(part, gates=gates))
    return made


def _told(model: Model, tried: list[_Tried], shares: Array) -> Told:
    """The sizes of each cause added up, the likeliest first, and what tells the first two apart."""
    best: dict[tuple[str, str], tuple[float, float, _Tried]] = {}
    for item, share in zip(tried, shares, strict=True):
        key = (item.kind.name if item.kind else "", item.place)
        total, most, first = best.get(key, (0.0, -1.0, item))
        best[key] = (total + float(share), max(most, float(share)), item if share > most else first)
    order = sorted(best.values(), key=lambda found: -found[0])
    whole = float(model.airflows({}).sum()) or 1.0
    causes = tuple(
        Cause(item.kind, item.place, total, item.factor, 1 - float(item.model.airflows(item.factors).sum()) / whole)
        for total, _, item in order[:6]
    )
    return Told(causes, _apart(model, order[0][2], order[1][2]) if len(order) > 1 else None)


def _apart(model: Model, one: _Tried, other: _Tried) -> Asked | None:
    """The reading whose two expected values lie most deviations of its own error apart."""
    asked = candidates(model)
    if not asked:
        return None
    a, b = (np.nan_to_num(shown(item.model.view(item.factors), asked)) for item in (one, other))
    error = np.array([usual_error(wanted[0], float((x + y) / 2)) for wanted, x, y in zip(asked, a, b, strict=True)])
    return asked[int(np.argmax(np.abs(a - b) / np.maximum(error, LEAST)))]

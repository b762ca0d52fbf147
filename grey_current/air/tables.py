"""The laws of many pieces packed into arrays, the one form that both the NumPy bank and the compiled kernel read."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from grey_current.air import fittings, laws
from grey_current.air.fan import REFERENCE_DENSITY, interpolant
from grey_current.air.friction import duct_terms
from grey_current.air.gas import Air

Array = NDArray[np.float64]
Index = NDArray[np.int64]


class Table(NamedTuple):
    """Laws by slot: a slot is a branch for the solver, a piece for the report. SI units.

    `quadratic` (Pa/(m³/s)²) and `linear` (Pa/(m³/s)) have one value a slot; of everything else a slot may have none or
    several, but at most one wye leg. Rows: `gates` the coefficient open and shut, `ducts` as `friction.Ducts`, `leaks`
    the capacity, `knots` the fans' curves one after the other as `fan.interpolant`, `wyes` the combined and the leg's
    own dynamic coefficient, `wye_terms` (leg, 3, 6) as `fittings.wye_branch`. `gate_at` holds slot and index of each
    gate (a machine's fan that stands is one), `duct_start` where a slot's ducts begin, `leak_at` and `wye_at` slots,
    `fan_at` slot and switch of each fan (-1: it always runs), `fan_start` where a fan's knots begin.
    """

    quadratic: Array
    linear: Array
    gate_at: Index
    gates: Array
    duct_start: Index
    ducts: Array
    leak_at: Index
    leaks: Array
    fan_at: Index
    fan_start: Index
    knots: Array
    wye_at: Index
    wyes: Array
    wye_terms: Array


def packed(given: Sequence[laws.Law], slots: Sequence[int], size: int, air: Air) -> Table:
    """Laws, each with its slot (0 to size - 1), as one table for an air. Raises `IndexError` for another slot."""
    found: dict[type[Any], list[tuple[int, Any]]] = defaultdict(list)
    for slot, law in zip(slots, given, strict=True):
        found[type(law)].append((slot, law))
    quadratic, linear = [0.0] * size, [0.0] * size
    for slot, law in found[laws.Constant]:
        quadratic[slot] += law.k * dynamic(law.diameter, air)
    for slot, law in found[laws.QuadraticLoss]:
        quadratic[slot] += law.coefficient * air.density / REFERENCE_DENSITY
    for slot, law in found[laws.FilterMedium]:
        linear[slot] += law.resistance
    leaks, wyes = found[laws.DuctLeakage], found[laws.Wye]
    fans = [(slot, law, -1) for slot, law in found[laws.Fan]]
    fans += [(slot, law, law.index) for slot, law in found[laws.MachineFan]]
    gates = [(slot, law.index, law.open_k, law.shut_k, law.diameter) for slot, law in found[laws.Gate]]
    gates += [(slot, law.index, 0.0, law.standing_k, law.diameter) for slot, law in found[laws.MachineFan]]
    ducts = sorted(found[laws.Friction], key=lambda pair: pair[0])
    curves = [interpolant(law.curve.points) for _, law, _ in fans]
    return Table(
        np.array(quadratic),
        np.array(linear),
        np.array([(slot, index) for slot, index, *_ in gates], dtype=np.int64).reshape(-1, 2),
        _rows([(a * dynamic(bore, air), b * dynamic(bore, air)) for *_, a, b, bore in gates], 2),
        np.searchsorted(_slots(ducts), np.arange(size + 1)).astype(np.int64),
        _rows([duct_terms(law.length, law.diameter, law.roughness, *_state(air)) for _, law in ducts], 5),
        _slots(leaks),
        np.array([law.capacity for _, law in leaks], dtype=np.float64),
        np.array([(slot, switch) for slot, _, switch in fans], dtype=np.int64).reshape(-1, 2),
        np.cumsum([0, *(len(rows) for rows in curves)]),
        np.concatenate(curves) if curves else np.zeros((0, 5)),
        _slots(wyes),
        _rows([(dynamic(law.combined, air), dynamic(law.own, air)) for _, law in wyes], 2),
        np.array([_wye_polynomials(law) for _, law in wyes], dtype=np.float64).reshape(-1, 3, 6),
    )


@lru_cache(maxsize=1024)
def dynamic(diameter: float, air: Air) -> float:
    """ρ/2 A⁻², Pa/(m³/s)²: what turns Q² into the velocity pressure in a duct of diameter (m)."""
    return air.density / 2 / laws.area(diameter) ** 2


def _state(air: Air) -> tuple[float, float]:
    return air.density, air.viscosity


def _wye_polynomials(law: laws.Wye) -> Array:
    ratio = min(1.0, (law.branch / law.combined) ** 2)
    return (fittings.wye_main if law.main else fittings.wye_branch)(ratio, law.angle)


def _slots(pairs: Iterable[tuple[int, Any]]) -> Index:
    return np.array([slot for slot, _ in pairs], dtype=np.int64)


def _rows(values: list[tuple[float, ...]], wide: int) -> Array:
    return np.array(values, dtype=np.float64).reshape(-1, wide)

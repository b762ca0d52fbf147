"""The laws of many pieces packed into arrays, which the NumPy bank and the compiled kernel read."""

from __future__ import annotations

import itertools
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

# The switch of a fan that runs in every case.
ALWAYS = -1


class Table(NamedTuple):
    """The laws of all slots: a slot is a branch for the solver, a piece for the report. SI units.

    Every slot has one `quadratic` and one `linear` term. Of everything else it may have none or
    several, but at most one wye leg: those rows name their slot in the array that ends in `_at`.
    Where rows vary in number (ducts, knots), `_start` says where a slot's, or a fan's, begin; one
    more entry says where the last ones end.

    Attributes:
        quadratic: Pa/(m³/s)², one a slot.
        linear: Pa/(m³/s), one a slot: filters.
        gate_at: Slot and switch of each gate; a machine's own fan that stands is one.
        gates: Coefficient of each gate, Pa/(m³/s)², open and shut.
        duct_start: Where a slot's ducts begin.
        ducts: Rows as `friction.Ducts`.
        leak_at: Slot of each leak.
        leaks: Capacity of each leak.
        fan_at: Slot and switch of each fan; switch -1: it always runs.
        fan_start: Where a fan's knots begin.
        knots: The fans' curves one after the other, rows as `fan.interpolant`.
        wye_at: Slot of each wye leg.
        wyes: The combined and the leg's own dynamic coefficient, Pa/(m³/s)².
        wye_terms: Polynomials of each leg, (3, 6) as `fittings.wye_branch`.
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


class Slot(NamedTuple):
    """The laws of one slot as plain rows, kept by a branch so that few are packed anew.

    Attributes:
        gates: Switch, coefficient open and shut.
        standing: The same of a machine's own fan: running, and standing in the way.
        ducts: Rows as `friction.Ducts`.
        leaks: Capacities.
        fans: Knots of the fans that always run.
        own_fans: Switch and knots of a machine's own fan.
        wyes: The combined and the leg's own dynamic coefficient, and the polynomials.
    """

    quadratic: float
    linear: float
    gates: tuple[tuple[int, float, float], ...]
    standing: tuple[tuple[int, float, float], ...]
    ducts: tuple[tuple[float, ...], ...]
    leaks: tuple[float, ...]
    fans: tuple[Array, ...]
    own_fans: tuple[tuple[int, Array], ...]
    wyes: tuple[tuple[float, float, Array], ...]


def slot_of(given: Iterable[laws.Law], air: Air) -> Slot:
    """The laws of one slot in an air. Raises nothing."""
    quadratic, linear = 0.0, 0.0
    found: dict[type[Any], list[Any]] = defaultdict(list)
    for law in given:
        if isinstance(law, laws.Constant):
            quadratic += law.k * dynamic(law.diameter, air)
        elif isinstance(law, laws.QuadraticLoss):
            quadratic += law.coefficient * air.density / REFERENCE_DENSITY
        elif isinstance(law, laws.FilterMedium):
            linear += law.resistance
        else:
            found[type(law)].append(law)
    own = found[laws.MachineFan]
    ducts = [
        duct_terms(law.length, law.diameter, law.roughness, air.density, air.viscosity)
        for law in found[laws.Friction]
    ]
    return Slot(
        quadratic=quadratic,
        linear=linear,
        gates=tuple([_switched(law, law.open_k, law.shut_k, air) for law in found[laws.Gate]]),
        standing=tuple([_switched(law, 0.0, law.standing_k, air) for law in own]),
        ducts=tuple(ducts),
        leaks=tuple([law.capacity for law in found[laws.DuctLeakage]]),
        fans=tuple([interpolant(law.curve.points) for law in found[laws.Fan]]),
        own_fans=tuple([(law.index, interpolant(law.curve.points)) for law in own]),
        wyes=tuple([_wye(law, air) for law in found[laws.Wye]]),
    )


def table_of(slots: Sequence[Slot]) -> Table:
    """Slots beside one another in one table: of each kind first those of the first slot.

    Machines' own fans come behind all that always run, and behind all gates when they stand.
    """
    gates: list[tuple[int, int, float, float]] = []
    standing: list[tuple[int, int, float, float]] = []
    fans: list[tuple[int, int, Array]] = []
    own_fans: list[tuple[int, int, Array]] = []
    leaks: list[tuple[int, float]] = []
    wyes: list[tuple[int, float, float, Array]] = []
    ducts: list[tuple[float, ...]] = []
    duct_start = [0]
    for at, slot in enumerate(slots):
        gates += [(at, *gate) for gate in slot.gates]
        standing += [(at, *fan) for fan in slot.standing]
        fans += [(at, ALWAYS, knots) for knots in slot.fans]
        own_fans += [(at, switch, knots) for switch, knots in slot.own_fans]
        leaks += [(at, capacity) for capacity in slot.leaks]
        wyes += [(at, *wye) for wye in slot.wyes]
        ducts += slot.ducts
        duct_start.append(len(ducts))
    gates += standing
    fans += own_fans
    curves = [knots for _, _, knots in fans]
    return Table(
        quadratic=_array([slot.quadratic for slot in slots]),
        linear=_array([slot.linear for slot in slots]),
        gate_at=_index([gate[:2] for gate in gates]).reshape(-1, 2),
        gates=_array([gate[2:] for gate in gates]).reshape(-1, 2),
        duct_start=_index(duct_start),
        ducts=_array(ducts).reshape(-1, 5),
        leak_at=_index([at for at, _ in leaks]),
        leaks=_array([capacity for _, capacity in leaks]),
        fan_at=_index([fan[:2] for fan in fans]).reshape(-1, 2),
        fan_start=_index([0, *itertools.accumulate(map(len, curves))]),
        knots=np.concatenate(curves) if curves else np.zeros((0, 5)),
        wye_at=_index([wye[0] for wye in wyes]),
        wyes=_array([wye[1:3] for wye in wyes]).reshape(-1, 2),
        wye_terms=_array([wye[3] for wye in wyes]).reshape(-1, 3, 6),
    )


def _array(rows: Sequence[Any]) -> Array:
    return np.array(rows, dtype=np.float64)


def _index(rows: Sequence[Any]) -> Index:
    return np.array(rows, dtype=np.int64)


def packed(given: Sequence[laws.Law], slots: Sequence[int], size: int, air: Air) -> Table:
    """Laws, each with its slot (0 to size - 1), as one table for an air.

    Raises `IndexError` for another slot.
    """
    groups: list[list[laws.Law]] = [[] for _ in range(size)]
    for slot, law in zip(slots, given, strict=True):
        groups[slot].append(law)
    return table_of([slot_of(group, air) for group in groups])


@lru_cache(maxsize=1024)
def dynamic(diameter: float, air: Air) -> float:
    """ρ/2 A⁻², Pa/(m³/s)²: what turns Q² into the velocity pressure in a duct of diameter (m)."""
    return air.density / 2 / laws.area(diameter) ** 2


def _switched(
    law: laws.Gate | laws.MachineFan, is_open: float, is_shut: float, air: Air
) -> tuple[int, float, float]:
    velocity_pressure = dynamic(law.diameter, air)
    return law.index, is_open * velocity_pressure, is_shut * velocity_pressure


def _wye(law: laws.Wye, air: Air) -> tuple[float, float, Array]:
    ratio = min(1.0, (law.branch / law.combined) ** 2)
    terms = (fittings.wye_main if law.main else fittings.wye_branch)(ratio, law.angle)
    return dynamic(law.combined, air), dynamic(law.own, air), terms

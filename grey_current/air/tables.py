"""The laws of many pieces packed into arrays, the one form that both the NumPy bank and the
compiled kernel read.
"""

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


class Table(NamedTuple):
    """Laws by slot: a slot is a branch for the solver, a piece for the report. SI units.

    `quadratic` (Pa/(m³/s)²) and `linear` (Pa/(m³/s)) have one value a slot; of everything else a
    slot may have none or several, but at most one wye leg. Rows: `gates` the coefficient open and
    shut, `ducts` as `friction.Ducts`, `leaks` the capacity, `knots` the fans' curves one after the
    other as `fan.interpolant`, `wyes` the combined and the leg's own dynamic coefficient,
    `wye_terms` (leg, 3, 6) as `fittings.wye_branch`. `gate_at` holds slot and index of each gate (a
    machine's fan that stands is one), `duct_start` where a slot's ducts begin, `leak_at` and
    `wye_at` slots, `fan_at` slot and switch of each fan (-1: it always runs), `fan_start` where a
    fan's knots begin.
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
    """The laws of one slot as plain rows, as `Table` has them beside one another.

    `gates` are (switch, open, shut), `ducts` as `friction.Ducts`, `leaks` capacities, `fans` the
    knots of those that always run, `wyes` the combined and the leg's own dynamic coefficient and
    the polynomials. A machine's own fan has (switch, running, standing) in `standing` and (switch,
    knots) in `own_fans`.
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
    return Slot(
        quadratic,
        linear,
        tuple([_switched(law, law.open_k, law.shut_k, air) for law in found[laws.Gate]]),
        tuple([_switched(law, 0.0, law.standing_k, air) for law in own]),
        tuple(
            [
                duct_terms(law.length, law.diameter, law.roughness, *_state(air))
                for law in found[laws.Friction]
            ]
        ),
        tuple([law.capacity for law in found[laws.DuctLeakage]]),
        tuple([interpolant(law.curve.points) for law in found[laws.Fan]]),
        tuple([(law.index, interpolant(law.curve.points)) for law in own]),
        tuple([_wye(law, air) for law in found[laws.Wye]]),
    )


def table_of(slots: Sequence[Slot]) -> Table:
    """Slots beside one another in one table: of each kind first those of the first slot, a
    machine's own fans last.
    """
    gates = [(at, *gate) for at, slot in enumerate(slots) for gate in slot.gates]
    gates += [(at, *fan) for at, slot in enumerate(slots) for fan in slot.standing]
    fans = [(at, -1, knots) for at, slot in enumerate(slots) for knots in slot.fans]
    fans += [
        (at, switch, knots) for at, slot in enumerate(slots) for switch, knots in slot.own_fans
    ]
    wyes = [(at, *wye) for at, slot in enumerate(slots) for wye in slot.wyes]
    leaks = [(at, leak) for at, slot in enumerate(slots) for leak in slot.leaks]
    return Table(
        np.array([slot.quadratic for slot in slots], dtype=np.float64),
        np.array([slot.linear for slot in slots], dtype=np.float64),
        np.array([row[:2] for row in gates], dtype=np.int64).reshape(-1, 2),
        np.array([row[2:] for row in gates], dtype=np.float64).reshape(-1, 2),
        np.array([0, *itertools.accumulate(len(slot.ducts) for slot in slots)], dtype=np.int64),
        np.array([row for slot in slots for row in slot.ducts], dtype=np.float64).reshape(-1, 5),
        np.array([at for at, _ in leaks], dtype=np.int64),
        np.array([leak for _, leak in leaks], dtype=np.float64),
        np.array([row[:2] for row in fans], dtype=np.int64).reshape(-1, 2),
        np.array([0, *itertools.accumulate(len(knots) for *_, knots in fans)], dtype=np.int64),
        np.concatenate([knots for *_, knots in fans]) if fans else np.zeros((0, 5)),
        np.array([row[0] for row in wyes], dtype=np.int64),
        np.array([row[1:3] for row in wyes], dtype=np.float64).reshape(-1, 2),
        np.array([terms for *_, terms in wyes], dtype=np.float64).reshape(-1, 3, 6),
    )


def packed(given: Sequence[laws.Law], slots: Sequence[int], size: int, air: Air) -> Table:
    """Laws, each with its slot (0 to size - 1), as one table for an air. Raises `IndexError` for
    another slot.
    """
    groups: list[list[laws.Law]] = [[] for _ in range(size)]
    for slot, law in zip(slots, given, strict=True):
        groups[slot].append(law)
    return table_of([slot_of(group, air) for group in groups])


@lru_cache(maxsize=1024)
def dynamic(diameter: float, air: Air) -> float:
    """ρ/2 A⁻², Pa/(m³/s)²: what turns Q² into the velocity pressure in a duct of diameter (m)."""
    return air.density / 2 / laws.area(diameter) ** 2


def _state(air: Air) -> tuple[float, float]:
    return air.density, air.viscosity


def _switched(
    law: laws.Gate | laws.MachineFan, is_open: float, is_shut: float, air: Air
) -> tuple[int, float, float]:
    velocity_pressure = dynamic(law.diameter, air)
    return law.index, is_open * velocity_pressure, is_shut * velocity_pressure


def _wye(law: laws.Wye, air: Air) -> tuple[float, float, Array]:
    ratio = min(1.0, (law.branch / law.combined) ** 2)
    terms = (fittings.wye_main if law.main else fittings.wye_branch)(ratio, law.angle)
    return dynamic(law.combined, air), dynamic(law.own, air), terms

"""How much pressure a piece takes at an airflow: one small law a kind, as plain numbers.

`tables` packs the laws of many pieces into arrays, `bank` evaluates them for many cases at once.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from grey_current.air.fan import FanCurve

Array = NDArray[np.float64]


def area(diameter: float) -> float:
    """Area (m²) of a round duct of diameter (m)."""
    return math.pi / 4 * diameter * diameter


@dataclass(frozen=True, slots=True)
class Constant:
    """K on the velocity pressure of `diameter` (m): Δp = K ρ/2 (Q/A)²."""

    k: float
    diameter: float


@dataclass(frozen=True, slots=True)
class Gate:
    """A gate in a duct of `diameter` (m): K when open, K when shut (a leak), and its place in the
    scenario.
    """

    open_k: float
    shut_k: float
    diameter: float
    index: int


@dataclass(frozen=True, slots=True)
class Friction:
    """Straight duct: length, diameter and roughness in m."""

    length: float
    diameter: float
    roughness: float


@dataclass(frozen=True, slots=True)
class Wye:
    """One leg of a converging wye: the branch or the straight main; diameters in m, angle in
    degrees.
    """

    main: bool
    angle: float
    branch: float
    combined: float
    own: float


@dataclass(frozen=True, slots=True)
class FilterMedium:
    """A filter: Δp = R Q, R in Pa/(m³/s)."""

    resistance: float


@dataclass(frozen=True, slots=True)
class QuadraticLoss:
    """A separator: Δp = a Q² at the reference density 1.2014 kg/m³, a in Pa/(m³/s)²."""

    coefficient: float


@dataclass(frozen=True, slots=True)
class DuctLeakage:
    """A leaky length of duct: Q = c Δp^0.65, c in m³/s/Pa^0.65."""

    capacity: float


@dataclass(frozen=True, slots=True)
class Fan:
    """A fan: lifts the pressure by its curve (already at this air's density)."""

    curve: FanCurve


@dataclass(frozen=True, slots=True)
class MachineFan:
    """A machine's own fan in its port of `diameter` (m): lifts while the machine runs, else a
    standing wheel of K.

    `index` is its place among the scenario's switches, as a gate's is.
    """

    curve: FanCurve
    standing_k: float
    diameter: float
    index: int


Law = (
    Constant | Gate | Friction | Wye | FilterMedium | QuadraticLoss | DuctLeakage | Fan | MachineFan
)

# Duct leakage exponent turned round. ASHRAE, Fundamentals, 2017, ch. 21 (leakage class).
LEAKAGE_EXPONENT = 1 / 0.65


@dataclass(frozen=True)
class Cases:
    """Settings of one network solved together: S of them.

    `gates` (S, switch) is True where a gate is open, and after the gates where a machine's own fan
    runs; `fan` and `loss` (S,) scale the collector's fan's pressure and every K and friction (1.0 =
    as designed).
    """

    gates: NDArray[np.bool_]
    fan: Array
    loss: Array

    def __len__(self) -> int:
        return len(self.fan)

    def some(self, chosen: NDArray[np.intp]) -> Cases:
        """Some of the settings."""
        return Cases(self.gates[chosen], self.fan[chosen], self.loss[chosen])


def cases(gates: NDArray[np.bool_]) -> Cases:
    """Scenarios that differ only in their gates and what runs, shape (S, switch)."""
    ones = np.ones(len(gates))
    return Cases(gates, ones, ones)

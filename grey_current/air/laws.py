"""How much pressure a piece takes at an airflow: one small law a kind, evaluated for many at once.

A law is plain numbers; `Bank` holds the laws of many pieces as arrays and evaluates them for all
scenarios together, each with its derivatives by the piece's own airflow and by the airflow it joins.
"""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from grey_current.air import fittings
from grey_current.air.fan import FanCurve
from grey_current.air.friction import Ducts, friction_drop
from grey_current.air.gas import Air

Array = NDArray[np.float64]
Index = NDArray[np.intp]

REST_FLOW = 1e-6
"""m³/s under which Q|Q| turns into a straight line, Q √(Q² + q0²), so that a still branch has a slope."""
SHARE_MARGIN = 0.1
"""How far a wye's flow share may run past 0 or 1 before its K stands still."""


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
    """A gate in a duct of `diameter` (m): K when open, K when shut (a leak), and its place in the scenario."""

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
    """One leg of a converging wye: the branch or the straight main; diameters in m, angle in degrees."""

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


Law = Constant | Gate | Friction | Wye | FilterMedium | QuadraticLoss | DuctLeakage | Fan

LawT = TypeVar("LawT", Constant, Gate, Friction, Wye, FilterMedium, QuadraticLoss, DuctLeakage, Fan)

LEAKAGE_EXPONENT = 1 / 0.65
"""Duct leakage exponent turned round. ASHRAE, Fundamentals, 2017, ch. 21 (leakage class)."""


@dataclass(frozen=True)
class Cases:
    """Settings of one network solved together: S of them.

    `gates` (S, gate) is True where a gate is open; `fan` and `loss` (S,) scale every fan's pressure and
    every K and friction (1.0 = as designed).
    """

    gates: NDArray[np.bool_]
    fan: Array
    loss: Array

    def __len__(self) -> int:
        return len(self.fan)


def cases(gates: NDArray[np.bool_]) -> Cases:
    """Scenarios that differ only in their gates, shape (S, gate)."""
    ones = np.ones(len(gates))
    return Cases(gates, ones, ones)


def _of(by: dict[type[Law], list[tuple[int, Law]]], kind: type[LawT]) -> list[tuple[int, LawT]]:
    """The laws of one kind with their slots."""
    return by.get(kind, [])  # type: ignore[return-value]


class Bank:
    """Many laws as arrays. Each adds to a slot: a branch for the solver, a piece for the report.

    Inside, arrays have one row a slot and the scenarios side by side, (slot, S), which is how memory
    is read quickest.
    """

    def __init__(self, laws: Sequence[Law], slots: Sequence[int], size: int, air: Air) -> None:
        self.size, self.air = size, air
        by: dict[type[Law], list[tuple[int, Law]]] = defaultdict(list)
        for slot, law in zip(slots, laws, strict=True):
            by[type(law)].append((slot, law))
        quadratic, linear = [0.0] * size, [0.0] * size
        for slot, law in _of(by, Constant):
            quadratic[slot] += law.k * _dynamic(law.diameter, air)
        for slot, law in _of(by, QuadraticLoss):
            quadratic[slot] += law.coefficient * air.density / 1.2014
        for slot, law in _of(by, FilterMedium):
            linear[slot] += law.resistance
        self._quadratic, self._linear = np.array(quadratic), np.array(linear)
        self._gates = _of(by, Gate)
        self._ducts = _DuctBank(_of(by, Friction), air)
        self._leakages = [(slot, law.capacity) for slot, law in _of(by, DuctLeakage)]
        self._fans = [(slot, law.curve) for slot, law in _of(by, Fan)]
        self._wyes = _WyeBank(_of(by, Wye), air)

    def ready(self, given: Cases) -> ReadyBank:
        """The bank with the gates of S scenarios set."""
        quadratic = np.repeat(self._quadratic[:, None], len(given), axis=1)
        for slot, law in self._gates:
            k = np.where(given.gates[:, law.index], law.open_k, law.shut_k)
            quadratic[slot] += k * _dynamic(law.diameter, self.air)
        return ReadyBank(self, quadratic * given.loss, given.fan, given.loss)

    def wye_coefficients(self, flow: Array, joined: Array) -> Array:
        """K of the wye leg in each slot on the combined velocity pressure, (slot, S); 0 where there is none."""
        values = np.zeros_like(flow)
        if len(self._wyes.at):
            share = self._wyes.share(flow, joined)[1]
            values[self._wyes.at] = self._wyes.coefficient(share)[0]
        return values


@dataclass(frozen=True)
class ReadyBank:
    """A bank with its scenarios set: `quadratic` (slot, S) in Pa/(m³/s)², `fan` and `loss` (S,)."""

    bank: Bank
    quadratic: Array
    fan: Array
    loss: Array

    def columns(self, chosen: Index) -> ReadyBank:
        """Some of the scenarios."""
        return ReadyBank(self.bank, self.quadratic[:, chosen], self.fan[chosen], self.loss[chosen])

    def estimate(self) -> Array:
        """A rough all-turbulent coefficient (Pa/(m³/s)²) for each slot, (slot, S), without wyes."""
        values = self.quadratic + (self.bank._linear * 0.3)[:, None]
        self.bank._ducts.add_estimate(values)
        for slot, capacity in self.bank._leakages:
            values[slot] += 1e3 / capacity**2
        return values

    def evaluate(self, flow: Array, joined: Array) -> tuple[Array, Array, Array]:
        """Pressure taken in each slot and its slopes.

        Parameters are the airflow through each slot and the airflow of the leg it joins, m³/s, both
        (slot, S). Returns Δp (Pa), ∂Δp/∂flow and ∂Δp/∂joined (Pa per m³/s), each (slot, S).
        """
        bank = self.bank
        root = np.sqrt(flow * flow + REST_FLOW**2)
        drop = self.quadratic * root
        slope = self.quadratic * (flow / root)
        slope *= flow
        slope += drop
        drop *= flow
        drop += bank._linear[:, None] * flow
        slope += bank._linear[:, None]
        coupling = np.zeros_like(flow)
        bank._ducts.add(flow, self.loss, drop, slope)
        for slot, capacity in bank._leakages:
            through = np.sqrt(flow[slot] ** 2 + REST_FLOW**2) / capacity
            power = through ** (LEAKAGE_EXPONENT - 1) / capacity
            drop[slot] += power * flow[slot]
            slope[slot] += LEAKAGE_EXPONENT * power
        for slot, curve in bank._fans:
            lift, lift_slope = curve.pressure(flow[slot])
            drop[slot] -= lift * self.fan
            slope[slot] -= lift_slope * self.fan
        if len(bank._wyes.at):
            bank._wyes.add(flow, joined, self.loss, drop, slope, coupling)
        return drop, slope, coupling


def _dynamic(diameter: float, air: Air) -> float:
    return air.density / 2 / area(diameter) ** 2


class _DuctBank:
    """Straight ducts. A slot may hold several; they are added in ranks, one of each slot at a time."""

    def __init__(self, ducts: Sequence[tuple[int, Friction]], air: Air) -> None:
        ranks: list[int] = []
        seen: dict[int, int] = {}
        for slot, _ in ducts:
            ranks.append(seen.get(slot, 0))
            seen[slot] = ranks[-1] + 1
        order = sorted(range(len(ducts)), key=lambda i: (ranks[i], ducts[i][0]))
        chosen = [ducts[i] for i in order]
        self.at = np.array([slot for slot, _ in chosen], dtype=np.intp)
        self.ducts = Ducts(
            np.array([[law.length] for _, law in chosen]),
            np.array([[law.diameter] for _, law in chosen]),
            np.array([[law.roughness] for _, law in chosen]),
            air.density,
            air.viscosity,
        )
        bounds = np.searchsorted(np.sort(ranks), np.arange(max(ranks, default=-1) + 2))
        self.ranks = [slice(int(a), int(b)) for a, b in itertools.pairwise(bounds)]

    def add(self, flow: Array, loss: Array, drop: Array, slope: Array) -> None:
        if not len(self.at):
            return
        lost, lost_slope = friction_drop(flow[self.at], self.ducts)
        lost *= loss
        lost_slope *= loss
        for rank in self.ranks:
            drop[self.at[rank]] += lost[rank]
            slope[self.at[rank]] += lost_slope[rank]

    def add_estimate(self, values: Array) -> None:
        for rank in self.ranks:
            values[self.at[rank]] += 0.02 * self.ducts.square[rank]


class _WyeBank:
    """All wye legs of a bank, main and branch alike: K is a piecewise polynomial in the leg's own share."""

    def __init__(self, legs: Sequence[tuple[int, Wye]], air: Air) -> None:
        self.at = np.array([i for i, _ in legs], dtype=np.intp)
        rows = [_wye_polynomials(law) for _, law in legs]
        self._terms = np.concatenate(rows).T if rows else np.zeros((6, 0))
        self._leg = 3 * np.arange(len(legs))[:, None]
        self.combined = np.array([[_dynamic(law.combined, air)] for _, law in legs])
        self.own = np.array([[_dynamic(law.own, air)] for _, law in legs])

    def coefficient(self, share: Array) -> tuple[Array, Array]:
        """K of these legs and its slope by the leg's own share, (leg, S)."""
        low, high = fittings.WYE_JOIN
        region = self._leg + (share > low) + (share > high)
        terms = self._terms.take(region, axis=1)
        slope = terms[5]
        k = slope * share + terms[4]
        for term in terms[3::-1]:
            slope = slope * share + k
            k = k * share + term
        return k, slope

    def share(self, flow: Array, joined: Array) -> tuple[Array, Array, Array]:
        """This leg's raw share of the combined flow, the share held near 0 to 1, and the hold's slope."""
        raw = flow[self.at] / np.maximum(joined[self.at], 1e-12)
        inside = np.minimum(np.maximum(raw, 0.0), 1.0)
        bent = np.tanh((raw - inside) / SHARE_MARGIN)
        return raw, inside + SHARE_MARGIN * bent, 1 - bent * bent

    def add(self, flow: Array, joined: Array, loss: Array, drop: Array, slope: Array, coupling: Array) -> None:
        """Add these legs' loss and slopes.

        Forward flow follows the correlation. A combined leg that runs backward costs one velocity
        pressure of its own, a leg that alone runs backward one of its own more: an allowance that
        keeps the sign of the resistance and joins without a kink at rest.
        """
        through, whole = flow[self.at], joined[self.at]
        dynamic = loss * self.combined
        if through.min() > 0 and (whole - through).min() >= 0:
            share = through / whole
            k, bend = self.coefficient(share)
            drop[self.at] += dynamic * k * whole * whole
            slope[self.at] += dynamic * bend * whole
            coupling[self.at] += dynamic * whole * (2 * k - bend * share)
            return
        raw, share, held = self.share(flow, joined)
        k, bend = self.coefficient(share)
        bend = bend * held
        forward, backward = np.maximum(whole, 0.0), np.minimum(whole, 0.0)
        own_back = loss * self.own * np.minimum(through, 0.0)
        drop[self.at] += dynamic * (k * forward**2 - backward**2) - own_back * np.minimum(through, 0)
        slope[self.at] += dynamic * bend * forward - 2 * own_back
        coupling[self.at] += dynamic * (forward * (2 * k - bend * raw) - 2 * backward)


def _wye_polynomials(law: Wye) -> Array:
    ratio = min(1.0, (law.branch / law.combined) ** 2)
    return (fittings.wye_main if law.main else fittings.wye_branch)(ratio, law.angle)

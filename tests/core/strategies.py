"""Hypothesis strategies: random trees of ductwork and random project edits."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from hypothesis import strategies as st

from grey_current.air import fan, fittings, laws
from grey_current.air.bank import Bank
from grey_current.air.gas import Air
from grey_current.air.network import Branch, Network
from grey_current.air.pieces import Piece
from grey_current.air.tables import packed

AIR = Air(1.2, 1.82e-5)
DIAMETERS = st.sampled_from([0.05, 0.063, 0.1, 0.125, 0.15, 0.2])


LAWS: list[laws.Law] = [
    laws.Constant(1.3, 0.1),
    laws.Gate(0.35, 1e5, 0.1, 0),
    laws.Friction(3.0, 0.1, 1.5e-3),
    laws.Wye(False, 45, 0.1, 0.15, 0.1),
    laws.Wye(True, 45, 0.1, 0.15, 0.15),
    laws.Wye(False, 90, 0.05, 0.15, 0.05),
    laws.FilterMedium(500.0),
    laws.QuadraticLoss(2000.0),
    laws.DuctLeakage(1e-4),
    laws.Fan(fan.curve_from_claim(0.33, 0.8, 60)),
]
"""One law of each kind, and wyes of several."""


def bank(
    given: Sequence[laws.Law],
    air: Air = AIR,
    slots: list[int] | None = None,
    rows: np.ndarray | None = None,
) -> Bank:
    """Some laws, each in a slot of its own, with every gate open."""
    slots = list(range(len(given))) if slots is None else slots
    table = packed(given, slots, max(slots) + 1, air)
    return Bank(table, laws.cases(np.ones((1, 9), dtype=bool) if rows is None else rows))


def piece(law: laws.Law, diameter: float) -> Piece:
    return Piece("x", "x", law, diameter)


@st.composite
def fan_curves(draw: st.DrawFn) -> fan.FanCurve:
    shut_off, free = draw(st.floats(800, 20_000)), draw(st.floats(0.05, 0.9))
    power = draw(st.floats(1.1, 2.2))
    shares = (0.0, 0.2, 0.45, 0.7, 0.9, 1.0)
    return fan.curve_from_points([(free * x, shut_off * (1 - x**power)) for x in shares])


@st.composite
def duct_pieces(draw: st.DrawFn, gate: int | None = None) -> tuple[Piece, ...]:
    """Some duct, a fitting and perhaps a gate, all of one diameter."""
    d = draw(DIAMETERS)
    made = [
        piece(
            laws.Friction(draw(st.floats(0.05, 6)), d, draw(st.sampled_from([3e-5, 4e-4, 3e-3]))), d
        ),
        piece(laws.Constant(draw(st.floats(0, 4)), d), d),
    ]
    if gate is not None:
        made.append(piece(laws.Gate(0.35, fittings.leak(0.005), d, gate), d))
    return tuple(made)


@st.composite
def networks(draw: st.DrawFn, max_wyes: int = 6, with_wyes: bool = True) -> Network:
    """A random tree: every junction a wye of two legs, every leaf with a gate, fan and filter at
    the root."""
    curve = draw(fan_curves())
    branches: list[Branch] = []
    gates = 0

    def leg(joins: int, main: bool, angle: float, bores: tuple[float, float], depth: int) -> None:
        nonlocal gates
        index = len(branches)
        branch_bore, combined = bores
        ends: tuple[Piece, ...] = ()
        if with_wyes:
            own = combined if main else branch_bore
            ends = (piece(laws.Wye(main, angle, branch_bore, combined, own), own),)
        goes_on = depth < 5 and len(branches) < 2 * max_wyes and draw(st.booleans())
        pieces = draw(duct_pieces(None if goes_on else gates))
        branches.append(Branch(pieces + ends, joins, None if goes_on else ("m", str(gates))))
        if goes_on:
            meet(index, depth + 1)
        else:
            gates += 1

    def meet(index: int, depth: int) -> None:
        combined = draw(DIAMETERS)
        branch = min(draw(DIAMETERS), combined)
        angle = draw(st.sampled_from([30.0, 45.0, 60.0, 90.0]))
        for main in (True, False):
            leg(index, main, angle, (branch, combined), depth)

    end = (piece(laws.QuadraticLoss(draw(st.floats(0, 4000))), 0.15), piece(laws.Fan(curve), 0.15))
    cloth = piece(laws.FilterMedium(draw(st.floats(50, 9000))), 0.15)
    branches.append(Branch((*draw(duct_pieces()), *end, cloth), -1))
    meet(0, 0)
    return Network("c", tuple(branches), tuple(f"g{i}" for i in range(gates)), AIR)


@st.composite
def gate_rows(draw: st.DrawFn, network: Network, rows: int = 3) -> np.ndarray:
    bits = st.lists(st.booleans(), min_size=len(network.gates), max_size=len(network.gates))
    return np.array([draw(bits) for _ in range(rows)], dtype=bool).reshape(rows, len(network.gates))

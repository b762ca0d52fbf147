"""The solver compiled by numba: the same laws and the same Newton walk as `bank` and `newton`, one
case at a time.

Importing this module imports numba, which takes a while; `compiled` does so beside the window.
Machine code is kept in numba's cache. One truth: tests hold every law here against `bank`, and
every answer against `newton`, to 1e-10.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numba import njit

from grey_current.air.bank import GUESSES, REST_FLOW, SHARE_MARGIN, WITH_WYE
from grey_current.air.fittings import WYE_JOIN
from grey_current.air.friction import LAMINAR_UNTIL, TURBULENT_FROM
from grey_current.air.laws import LEAKAGE_EXPONENT
from grey_current.air.newton import (
    CALM,
    CONVERGED,
    GOAL,
    INERTIA,
    INERTIA_CHANGE,
    LEAST_FLOW,
    MAX_HALVINGS,
    MAX_ITERATIONS,
    SHORT_STEP,
    STIFFNESS,
)

LN10 = math.log(10.0)
LOW, HIGH = WYE_JOIN
WIDTH = TURBULENT_FROM - LAMINAR_UNTIL

kept = njit(cache=True, nogil=True, error_model="numpy", inline="never")


@kept
def duct_drop(flow: float, duct: Any) -> tuple[float, float]:
    """Drop (Pa) and slope of one duct at an airflow (m³/s), as `friction.friction_drop`."""
    size = abs(flow)
    reynolds = size * duct[0]
    if reynolds <= LAMINAR_UNTIL:
        return duct[2] * flow, duct[2]
    rough, inverse = duct[3] / 3.7, 1 / reynolds
    x = (-1.8 / LN10) * math.log(duct[4] + 6.9 * inverse)
    # The same step as in `friction.turbulent_factor`, for one value.
    smooth = 2.51 * inverse
    ratio = smooth / (rough + smooth * x)
    first = 1 + (2 / LN10) * ratio
    newton = (x + (2 / LN10) * math.log(rough + smooth * x)) / first
    x -= newton / (1 + newton * (ratio * ratio) / (LN10 * first))
    ratio = (2 / LN10) * smooth / (rough + smooth * x)
    factor = 1 / (x * x)
    factor_slope = -2 * factor * ratio * inverse / (1 + ratio)
    grown = duct[1] * size
    slope, drop = grown * (2 * factor + factor_slope * reynolds), grown * size * factor
    if reynolds < TURBULENT_FROM:
        t = (reynolds - LAMINAR_UNTIL) / WIDTH
        share, share_slope = t * t * (3 - 2 * t), (6 / WIDTH) * t * (1 - t) * duct[0]
        surplus = drop - duct[2] * size
        slope = duct[2] + share * (slope - duct[2]) + share_slope * surplus
        drop = duct[2] * size + share * surplus
    return (drop if flow >= 0 else -drop), slope


@kept
def fan_lift(flow: float, knots: Any, first: int, last: int) -> tuple[float, float]:
    """Pressure (Pa) and slope of a fan whose knots stand in rows `first` to `last`, as
    `fan.curve_pressure`.
    """
    inside = min(max(flow, knots[first, 0]), knots[last - 1, 0])
    row = first
    while row < last - 2 and knots[row + 1, 0] <= inside:
        row += 1
    step = inside - knots[row, 0]
    c1, c2, c3 = knots[row, 2], knots[row, 3], knots[row, 4]
    slope = c1 + step * (2 * c2 + step * 3 * c3)
    return knots[row, 1] + step * (c1 + step * (c2 + step * c3)) + slope * (flow - inside), slope


@kept
def wye_drop(
    flow: float, joined: float, terms: Any, coefficients: Any
) -> tuple[float, float, float]:
    """Drop, slope and coupling of one wye leg, as `Bank._add_wyes`."""
    raw = flow / max(joined, 1e-12)
    # Outside 0 to 1 the share is held by a smooth bend, as `Bank._share` does.
    inside = min(max(raw, 0.0), 1.0)
    bent = math.tanh((raw - inside) / SHARE_MARGIN)
    share = inside + SHARE_MARGIN * bent
    # Which of the three published polynomials holds.
    row = (1 if share > LOW else 0) + (1 if share > HIGH else 0)
    bend = terms[row, 5]
    k = bend * share + terms[row, 4]
    for power in range(3, -1, -1):
        bend = bend * share + k
        k = k * share + terms[row, power]
    bend *= 1 - bent * bent
    forward, backward, back = max(joined, 0.0), min(joined, 0.0), min(flow, 0.0)
    combined, own = coefficients[0], coefficients[1]
    drop = combined * (k * forward * forward - backward * backward) - own * back * back
    slope = combined * bend * forward - 2 * own * back
    return drop, slope, combined * (forward * (2 * k - bend * raw) - 2 * backward)


@kept
def set_gates(table: Any, gates: Any, loss: float, quadratic: Any) -> None:
    """The quadratic coefficients of a case."""
    quadratic[:] = table.quadratic
    for gate in range(len(table.gate_at)):
        is_open = gates[table.gate_at[gate, 1]]
        quadratic[table.gate_at[gate, 0]] += table.gates[gate, 0 if is_open else 1]
    quadratic *= loss


@kept
def set_fans(table: Any, gates: Any, fan: float, lifts: Any) -> None:
    """How much of its pressure each fan gives in a case: the collector's as it is scaled, a
    machine's while it runs.
    """
    for number in range(len(table.fan_at)):
        switch = table.fan_at[number, 1]
        if switch < 0:
            lifts[number] = fan
        else:
            lifts[number] = 1.0 if gates[switch] else 0.0


@kept
def evaluate(
    table: Any,
    quadratic: Any,
    lifts: Any,
    loss: float,
    flow: Any,
    whole: Any,
    joins: Any,
    drop: Any,
    slope: Any,
    coupling: Any,
) -> None:
    """Drops and slopes of all slots of one case, as `Bank.evaluate`; slot i joins the flow
    `whole[joins[i]]`.

    `lifts` says how much of its pressure each fan gives.
    """
    for slot in range(len(quadratic)):
        # As in the bank, by the letter: tests hold the two to one another.
        q = flow[slot]
        root = math.sqrt(q * q + REST_FLOW * REST_FLOW)
        drop[slot] = quadratic[slot] * root * q + table.linear[slot] * q
        slope[slot] = quadratic[slot] * (q * q / root + root) + table.linear[slot]
        coupling[slot] = 0.0
        for duct in range(table.duct_start[slot], table.duct_start[slot + 1]):
            lost, lost_slope = duct_drop(q, table.ducts[duct])
            drop[slot] += lost * loss
            slope[slot] += lost_slope * loss
    for leak in range(len(table.leak_at)):
        slot = table.leak_at[leak]
        through = math.sqrt(flow[slot] ** 2 + REST_FLOW * REST_FLOW) / table.leaks[leak]
        power = through ** (LEAKAGE_EXPONENT - 1) / table.leaks[leak]
        drop[slot] += power * flow[slot]
        slope[slot] += LEAKAGE_EXPONENT * power
    for number in range(len(table.fan_at)):
        slot = table.fan_at[number, 0]
        lift, lift_slope = fan_lift(
            flow[slot], table.knots, table.fan_start[number], table.fan_start[number + 1]
        )
        drop[slot] -= lift * lifts[number]
        slope[slot] -= lift_slope * lifts[number]
    for leg in range(len(table.wye_at)):
        slot = table.wye_at[leg]
        d, s, c = wye_drop(
            flow[slot], whole[max(joins[slot], 0)], table.wye_terms[leg], table.wyes[leg]
        )
        drop[slot] += loss * d
        slope[slot] += loss * s
        coupling[slot] += loss * c


@kept
def estimate(
    table: Any,
    quadratic: Any,
    lifts: Any,
    joins: Any,
    is_leaf: Any,
    ends: Any,
    flow: Any,
    through: Any,
    ease: Any,
) -> None:
    """All-turbulent start as `solver.Solver.first_guess`."""
    size = len(quadratic)
    through[:] = quadratic + 0.3 * table.linear
    for slot in range(size):
        for duct in range(table.duct_start[slot], table.duct_start[slot + 1]):
            through[slot] += 0.02 * table.ducts[duct, 1]
    for leak in range(len(table.leak_at)):
        through[table.leak_at[leak]] += 1e3 / table.leaks[leak] ** 2
    through[:] = np.maximum(through, 1e-6)
    ease[:] = 0.0
    # Leaf to root: what joins in parallel eases as the sum of roots.
    for slot in range(size - 1, -1, -1):
        if not is_leaf[slot]:
            through[slot] += 1 / ease[slot] ** 2
        if slot:
            ease[joins[slot]] += 1 / math.sqrt(through[slot])
    flow[0] = math.sqrt(ends[0] / (through[0] + ends[0] / ends[1] ** 2))
    for slot in range(1, size):
        flow[slot] = flow[joins[slot]] / (math.sqrt(through[slot]) * ease[joins[slot]])
    blow(table, lifts, through, flow)


@kept
def blow(table: Any, lifts: Any, through: Any, flow: Any) -> None:
    """Let the machines' own fans blow into a first guess, as `Bank.blown`."""
    for number in range(len(table.fan_at)):
        slot, switch = table.fan_at[number]
        if switch >= 0 and lifts[number] > 0:
            first, last = table.fan_start[number], table.fan_start[number + 1]
            drawn = flow[slot]
            low, high = drawn, max(table.knots[last - 1, 0], 2 * drawn)
            for _ in range(GUESSES):
                middle = (low + high) / 2
                lift = fan_lift(middle, table.knots, first, last)[0]
                if through[slot] * (WITH_WYE * middle * middle - drawn * drawn) < lift:
                    low = middle
                else:
                    high = middle
            flow[slot] = high


@kept
def add_up(joins: Any, is_leaf: Any, flow: Any) -> None:
    """Flows of all branches from those of the leaves, so that nothing is lost at a junction."""
    for slot in range(len(flow)):
        if not is_leaf[slot]:
            flow[slot] = 0.0
    for slot in range(len(flow) - 1, 0, -1):
        flow[joins[slot]] += flow[slot]


@kept
def residuals(joins: Any, is_leaf: Any, drop: Any, total: Any) -> tuple[float, float]:
    """Drops along the path of every branch to the root; returns the largest and the square sum over
    the leaves.
    """
    largest, square = 0.0, 0.0
    total[0] = drop[0]
    for slot in range(len(drop)):
        if slot:
            total[slot] = drop[slot] + total[joins[slot]]
        if is_leaf[slot]:
            largest = max(largest, abs(total[slot])) if total[slot] == total[slot] else math.nan
            square += total[slot] * total[slot]
    return largest, square


@kept
def newton_step(
    joins: Any,
    is_leaf: Any,
    slope: Any,
    coupling: Any,
    total: Any,
    heavy: bool,
    change: Any,
    work: Any,
) -> bool:
    """Change of every branch's flow, leaf to root and back as `newton._Elimination`; answers
    whether it is finite.

    Where it is `heavy`, subtrees are kept stiff.
    """
    offset, ease_sum, pull_sum, own, stiffness, held = (
        work[0],
        work[1],
        work[2],
        work[3],
        work[4],
        work[5],
    )
    ease_sum[:] = 0.0
    pull_sum[:] = 0.0
    own[:] = 0.0
    held[:] = 1.0
    for slot in range(len(slope)):
        offset[slot] = total[slot] if is_leaf[slot] else 0.0
    for slot in range(len(slope) - 1, -1, -1):
        stiffness[slot] = slope[slot] + 1e-12
        if not is_leaf[slot]:
            offset[slot] /= ease_sum[slot]
            own[slot] = (1 + pull_sum[slot]) / ease_sum[slot]
            # A subtree that would answer too softly is stiffened: its couplings are weakened, all
            # alike.
            if heavy:
                least = STIFFNESS / ease_sum[slot] - stiffness[slot]
                if own[slot] < least:
                    own[slot] = least
                    if pull_sum[slot] != 0:
                        held[slot] = (least * ease_sum[slot] - 1) / pull_sum[slot]
            stiffness[slot] += own[slot]
        if slot:
            ease, down = 1 / stiffness[slot], joins[slot]
            ease_sum[down] += ease
            offset[down] += ease * offset[slot]
            pull_sum[down] += ease * coupling[slot]
    change[0] = offset[0] / stiffness[0]
    finite = math.isfinite(change[0])
    for slot in range(1, len(slope)):
        down = joins[slot]
        level = offset[down] - own[down] * change[down]
        change[slot] = (
            offset[slot] - level - held[down] * coupling[slot] * change[down]
        ) / stiffness[slot]
        finite = finite and math.isfinite(change[slot])
    return finite


@kept
def first_inertia(largest: float, flow: Any) -> float:
    """An inertia to begin with, Pa per m³/s, from the largest residual (Pa)."""
    most = LEAST_FLOW
    for slot in range(len(flow)):
        most = max(most, abs(flow[slot]))
    return INERTIA * largest / most


@kept
def descend(
    table: Any,
    quadratic: Any,
    lifts: Any,
    loss: float,
    joins: Any,
    is_leaf: Any,
    scale: float,
    flow: Any,
    work: Any,
) -> tuple[float, int]:
    """One case from its start in `flow` to its answer there, as `newton.solve`: residual share and
    iterations.
    """
    drop, slope, coupling, total, change, tried = (
        work[6],
        work[7],
        work[8],
        work[9],
        work[10],
        work[11],
    )
    add_up(joins, is_leaf, flow)
    evaluate(table, quadratic, lifts, loss, flow, flow, joins, drop, slope, coupling)
    largest, square = residuals(joins, is_leaf, drop, total)
    share, falls, inertia = largest / scale, False, 0.0
    for iteration in range(MAX_ITERATIONS):
        if share <= GOAL:
            return share, iteration
        steadied = inertia > 0
        heavy = steadied and not (share < CALM and falls)
        if heavy:
            slope += inertia
        if not newton_step(joins, is_leaf, slope, coupling, total, heavy, change, work):
            change[:] = 0.0
        step = 1.0
        # Half steps until the residual falls; a steadied case takes full ones.
        for halving in range(MAX_HALVINGS + 1):
            tried[:] = flow - step * change
            add_up(joins, is_leaf, tried)
            evaluate(table, quadratic, lifts, loss, tried, tried, joins, drop, slope, coupling)
            largest, new_square = residuals(joins, is_leaf, drop, total)
            if new_square < square or steadied or halving == MAX_HALVINGS:
                break
            step /= 2
        flow[:] = tried
        before, square, share = share, new_square, largest / scale
        falls = share < before
        if steadied:
            ratio = share / before if share < INERTIA_CHANGE[1] * before else INERTIA_CHANGE[1]
            inertia *= max(ratio, INERTIA_CHANGE[0])
        elif step <= SHORT_STEP:
            inertia = first_inertia(largest, flow)
        # Arrived, lost, or as near as rounding lets it.
        if math.isnan(share) or (share <= CONVERGED and share >= 0.5 * before):
            return share, iteration + 1
    return share, MAX_ITERATIONS


@kept
def solve_cases(
    table: Any,
    joins: Any,
    is_leaf: Any,
    gates: Any,
    fan: Any,
    loss: Any,
    ends: Any,
    flow: Any,
    started: bool,
    share: Any,
    iterations: Any,
) -> None:
    """Solve cases one after the other into `flow` (S, branch); when `started`, its leaves hold the
    first guess.

    `ends` are the shut-off pressure (Pa) and free delivery (m³/s) of the root's fan and the largest
    drive (Pa).
    """
    size = flow.shape[1]
    work = np.empty((12, size))
    quadratic, lifts = np.empty(size), np.empty(len(table.fan_at))
    for case in range(flow.shape[0]):
        here, given = flow[case], loss[case]
        set_gates(table, gates[case], given, quadratic)
        set_fans(table, gates[case], fan[case], lifts)
        if not started:
            estimate(table, quadratic, lifts, joins, is_leaf, ends, here, work[0], work[1])
        share[case], iterations[case] = descend(
            table, quadratic, lifts, given, joins, is_leaf, ends[2], here, work
        )


@kept
def losses(
    table: Any,
    gates: Any,
    fan: Any,
    loss: Any,
    branch_flow: Any,
    branch: Any,
    joins: Any,
    drop: Any,
) -> None:
    """Drop (Pa) of each piece into `drop` (S, piece), from the flows of the branches (S, branch).

    `branch` is the branch that each piece stands in, `joins` the one that this joins.
    """
    size = len(branch)
    quadratic, flow, slope, coupling = (
        np.empty(size),
        np.empty(size),
        np.empty(size),
        np.empty(size),
    )
    lifts = np.empty(len(table.fan_at))
    for case in range(len(fan)):
        set_gates(table, gates[case], loss[case], quadratic)
        for piece in range(size):
            flow[piece] = branch_flow[case, branch[piece]]
        set_fans(table, gates[case], fan[case], lifts)
        evaluate(
            table,
            quadratic,
            lifts,
            loss[case],
            flow,
            branch_flow[case],
            joins,
            drop[case],
            slope,
            coupling,
        )

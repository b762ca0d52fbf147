"""A table of laws evaluated for many cases at once with NumPy: drops and their slopes by the two
flows they follow.

Arrays have one row a slot and the cases side by side, (slot, S), which is how memory is read
quickest.
"""

from __future__ import annotations

from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from grey_current.air import fittings
from grey_current.air.fan import curve_pressure
from grey_current.air.friction import Ducts, friction_drop
from grey_current.air.laws import LEAKAGE_EXPONENT, Cases
from grey_current.air.tables import Table

Array = NDArray[np.float64]
Index = NDArray[np.intp]

# m³/s under which Q|Q| turns into a straight line, Q √(Q² + q0²), so that a still branch has a
# slope.
REST_FLOW = 1e-6
# Halvings in which a first guess finds what a machine's own fan blows.
GUESSES = 30
# What an own fan blows through in a first guess, over what is counted there without its wye.
# Allowance.
WITH_WYE = 1.1
# How far a wye's flow share may run past 0 or 1, where its data end, before its K stands still:
# just so that Newton meets no kink.
SHARE_MARGIN = 0.02


class Bank:
    """The laws of a table in S cases: gates set, fans and losses scaled."""

    def __init__(self, table: Table, given: Cases) -> None:
        self.table, self.cases = table, given
        self.quadratic = np.repeat(table.quadratic[:, None], len(given), axis=1)
        for (slot, index), (is_open, is_shut) in zip(table.gate_at, table.gates, strict=True):
            self.quadratic[slot] += np.where(given.gates[:, index], is_open, is_shut)
        self.quadratic *= given.loss

    def columns(self, chosen: Index) -> Bank:
        """Some of the cases."""
        made = Bank.__new__(Bank)
        made.table, made.quadratic = self.table, self.quadratic[:, chosen]
        made.cases = self.cases.some(chosen)
        return made

    @cached_property
    def _ranks(self) -> list[tuple[Index, Index]]:
        """Slots and ducts of a first, second, ... duct in a slot; a slot may hold several."""
        starts = self.table.duct_start
        counts = np.diff(starts)
        ranks = range(int(counts.max(initial=0)))
        return [
            (slots := np.flatnonzero(counts > rank), starts[:-1][slots] + rank) for rank in ranks
        ]

    @cached_property
    def _ducts(self) -> list[tuple[Index, Ducts]]:
        columns = self.table.ducts.T[:, :, None]
        found = []
        for slots, which in self._ranks:
            found.append((slots, Ducts(*[column[which] for column in columns])))
        return found

    def estimate(self) -> Array:
        """A rough all-turbulent coefficient (Pa/(m³/s)²) for each slot, (slot, S), without wyes."""
        # Rough is enough: where friction is 0.02 and a filter passes 0.3 m³/s, all resistances
        # are of the right order.
        values = self.quadratic + (self.table.linear * 0.3)[:, None]
        for slots, ducts in self._ducts:
            values[slots] += 0.02 * ducts.square
        for slot, capacity in zip(self.table.leak_at, self.table.leaks, strict=True):
            values[slot] += 1e3 / capacity**2
        return values

    def blown(self, through: Array, flow: Array) -> Array:
        """A first guess (slot, S) with the machines' own fans blowing in it.

        Each of them works along its curve against R (1.1 Q² − Q0²), with R `through` its slot and
        Q0 what the guess drew there without it. Source: none; a start, from which the answer is
        found in fewer steps.
        """
        table, made = self.table, flow.copy()
        for number, (slot, switch) in enumerate(table.fan_at):
            if switch < 0:
                continue
            rows, drawn = (
                table.knots[table.fan_start[number] : table.fan_start[number + 1]],
                flow[slot],
            )
            # Between what the collector draws and what the fan gives at most, by halving.
            low, high = drawn, np.maximum(rows[-1, 0], 2 * drawn)
            for _ in range(GUESSES):
                middle = (low + high) / 2
                blows = (
                    through[slot] * (WITH_WYE * middle * middle - drawn * drawn)
                    < curve_pressure(rows, middle)[0]
                )
                low, high = np.where(blows, middle, low), np.where(blows, high, middle)
            made[slot] = np.where(self.cases.gates[:, switch], high, drawn)
        return made

    def evaluate(self, flow: Array, joined: Array) -> tuple[Array, Array, Array]:
        """Pressure taken in each slot and its slopes.

        Parameters are the airflow through each slot and the airflow of the leg it joins, m³/s, both
        (slot, S). Returns Δp (Pa), ∂Δp/∂flow and ∂Δp/∂joined (Pa per m³/s), each (slot, S).
        """
        table, loss = self.table, self.cases.loss
        # Smoothed near rest, so that the slope is never zero and Newton's step stays finite.
        root = np.sqrt(flow * flow + REST_FLOW**2)
        drop = self.quadratic * root
        slope = self.quadratic * (flow / root)
        slope *= flow
        slope += drop
        drop *= flow
        drop += table.linear[:, None] * flow
        slope += table.linear[:, None]
        for slots, ducts in self._ducts:
            lost, lost_slope = friction_drop(flow[slots], ducts)
            drop[slots] += lost * loss
            slope[slots] += lost_slope * loss
        self._add_leaks(flow, drop, slope)
        self._add_fans(flow, drop, slope)
        coupling = np.zeros_like(flow)
        if len(table.wye_at):
            self._add_wyes(flow, joined, drop, slope, coupling)
        return drop, slope, coupling

    def _add_leaks(self, flow: Array, drop: Array, slope: Array) -> None:
        for slot, capacity in zip(self.table.leak_at, self.table.leaks, strict=True):
            through = np.sqrt(flow[slot] ** 2 + REST_FLOW**2) / capacity
            power = through ** (LEAKAGE_EXPONENT - 1) / capacity
            drop[slot] += power * flow[slot]
            slope[slot] += LEAKAGE_EXPONENT * power

    def _add_fans(self, flow: Array, drop: Array, slope: Array) -> None:
        starts = self.table.fan_start
        for number, (slot, switch) in enumerate(self.table.fan_at):
            runs = self.cases.fan if switch < 0 else self.cases.gates[:, switch].astype(float)
            rows = self.table.knots[starts[number] : starts[number + 1]]
            # A fan gives pressure: it is a loss below nought.
            lift, lift_slope = curve_pressure(rows, flow[slot])
            drop[slot] -= lift * runs
            slope[slot] -= lift_slope * runs

    # -- wyes

    def wye_coefficients(self, flow: Array, joined: Array) -> Array:
        """K of the wye leg in each slot on the combined velocity pressure, (slot, S); 0 where there
        is none.
        """
        values = np.zeros_like(flow)
        if len(self.table.wye_at):
            share = self._share(flow, joined)[1]
            values[self.table.wye_at] = self._coefficient(share)[0]
        return values

    def _coefficient(self, share: Array) -> tuple[Array, Array]:
        """K of the wye legs and its slope by the leg's own share, (leg, S): a polynomial, one of
        three.
        """
        low, high = fittings.WYE_JOIN
        leg = 3 * np.arange(len(share))[:, None]
        terms = self.table.wye_terms.reshape(-1, 6).T.take(
            leg + (share > low) + (share > high), axis=1
        )
        slope = terms[5]
        # Horner's rule, for value and slope in one pass.
        k = slope * share + terms[4]
        for term in terms[3::-1]:
            slope = slope * share + k
            k = k * share + term
        return k, slope

    def _share(self, flow: Array, joined: Array) -> tuple[Array, Array, Array]:
        """A leg's raw share of the combined flow, the share held near 0 to 1, and the hold's
        slope.
        """
        at = self.table.wye_at
        raw = flow[at] / np.maximum(joined[at], 1e-12)
        inside = np.minimum(np.maximum(raw, 0.0), 1.0)
        # Past its ends the share bends off smoothly: a corner there would turn Newton's steps
        # round.
        bent = np.tanh((raw - inside) / SHARE_MARGIN)
        return raw, inside + SHARE_MARGIN * bent, 1 - bent * bent

    def _add_wyes(
        self, flow: Array, joined: Array, drop: Array, slope: Array, coupling: Array
    ) -> None:
        """Add the legs' loss and slopes.

        Forward flow follows the correlation. A combined leg that runs backward costs one velocity
        pressure of its own, a leg that alone runs backward one of its own more: an allowance that
        keeps the sign of the resistance and joins without a kink at rest.
        """
        at, loss = self.table.wye_at, self.cases.loss
        combined, own = (column[:, None] for column in self.table.wyes.T)
        through, whole = flow[at], joined[at]
        raw, share, held = self._share(flow, joined)
        k, bend = self._coefficient(share)
        bend = bend * held
        # Where the joint is passed backwards the correlation ends: one velocity pressure is lost
        # instead.
        forward, backward = np.maximum(whole, 0.0), np.minimum(whole, 0.0)
        back = np.minimum(through, 0.0)
        drop[at] += loss * (combined * (k * forward**2 - backward**2) - own * back * back)
        slope[at] += loss * (combined * bend * forward - 2 * own * back)
        coupling[at] += loss * combined * (forward * (2 * k - bend * raw) - 2 * backward)

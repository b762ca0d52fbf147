"""The solution of a network in many cases: flows, losses and pressures; compiled where the kernel
is loaded.
"""

from __future__ import annotations

import copy
import itertools
import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from grey_current.air import compiled, laws, newton
from grey_current.air.bank import Bank
from grey_current.air.laws import Cases
from grey_current.air.network import Network
from grey_current.air.tables import Table

Array = NDArray[np.float64]
Index = NDArray[np.intp]

# Cases that one thread solves in one go; the kernel lets go of the interpreter's lock.
CHUNK = 256


@dataclass(frozen=True)
class Solved:
    """Flows of a network in S scenarios: per branch and per piece, with each piece's loss and
    pressures.

    Shapes: `flow` (S, branch); `piece_flow`, `loss`, `before` and `after` (S, piece), where
    `before` and `after` are the total pressures (Pa, room = 0) at the piece's two ends; they are
    computed when first asked for. Rows that did not converge are NaN.
    """

    network: Network
    cases: Cases
    converged: NDArray[np.bool_]
    iterations: NDArray[np.int64]
    residual: Array
    flow: Array

    @cached_property
    def piece_flow(self) -> Array:
        """Airflow through each piece, m³/s."""
        return self.flow[:, self.network.branch_of_piece]

    @cached_property
    def _bank(self) -> Bank:
        return Bank(self.network.piece_table, self.cases)

    @cached_property
    def loss(self) -> Array:
        """Total pressure taken by each piece, Pa."""
        kernel, network = compiled.kernel(), self.network
        if kernel is None:
            with np.errstate(invalid="ignore"):
                return self._bank.evaluate(self.piece_flow.T, self._joined)[0].T
        drop = np.empty((len(self.flow), len(network.pieces)))
        cases, branch = self.cases, network.branch_of_piece
        joins = network.tree.joined_at[branch]
        gates, flow = np.ascontiguousarray(cases.gates), np.ascontiguousarray(self.flow)
        kernel.losses(network.piece_table, gates, cases.fan, cases.loss, flow, branch, joins, drop)
        return drop

    @cached_property
    def before(self) -> Array:
        """Total pressure at each piece's upstream end, Pa, summed from the exhaust upstream."""
        loss, network = self.loss.T, self.network
        before = np.zeros_like(loss)
        ends = np.zeros((len(network.branches), loss.shape[1]))
        for b, branch in enumerate(network.branches):
            here = network.pieces_of_branch[b]
            first, last = here.start, here.stop
            # The last branch ends outdoors, where the pressure is that of the room: zero.
            end = ends[branch.joins] if branch.joins >= 0 else 0.0
            before[first:last] = end + np.cumsum(loss[first:last][::-1], axis=0)[::-1]
            ends[b] = before[first] if last > first else end
        return before.T

    @cached_property
    def after(self) -> Array:
        """Total pressure at each piece's downstream end, Pa."""
        return self.before - self.loss

    @property
    def _joined(self) -> Array:
        """Airflow of the leg that each piece's branch joins, (piece, S)."""
        joined_at = self.network.tree.joined_at[self.network.branch_of_piece]
        return np.ascontiguousarray(self.flow[:, joined_at].T)

    def velocity(self, piece: int, row: int) -> float:
        """Velocity (m/s) in a piece's own diameter."""
        return float(self.piece_flow[row, piece] / self.network.areas[piece])

    @cached_property
    def wye_coefficients(self) -> Array:
        """K of each wye leg on the combined velocity pressure, (S, piece); 0 for other pieces."""
        return self._bank.wye_coefficients(self.piece_flow.T, self._joined).T


class Solver:
    """A network made ready for many solves: the laws of a branch lie in one slot."""

    def __init__(self, network: Network) -> None:
        self.network, self.table = network, network.branch_table

    def with_table(self, table: Table) -> Solver:
        """The same solver with other laws in the same slots; its fans' ends, from which it starts,
        stay.
        """
        # Asked for here so that they are kept before the copy, which takes them along.
        _ = self._fan_ends, self._drive
        made = copy.copy(self)
        made.table = table
        return made

    def solve(self, given: Cases, start: Array | None = None) -> newton.Outcome:
        """Flows of all cases, from `start` (S, leaf) or from the first guess.

        Where a case comes to no answer from there, the first guess is tried, and the one in which
        own fans do not blow.
        """
        made = self._once(given, start)
        # Cases that did not arrive begin once more from another guess; the others are left alone.
        for blows in (False,) if start is None else (True, False):
            left = np.flatnonzero(~made.converged)
            if not len(left):
                break
            part = given.some(left)
            again = self._once(part, self.first_guess(Bank(self.table, part), blows).T)
            made.flow[left], made.converged[left], made.residual[left] = (
                again.flow,
                again.converged,
                again.residual,
            )
            made.iterations[left] += again.iterations
        return made

    def _once(self, given: Cases, start: Array | None) -> newton.Outcome:
        kernel = compiled.kernel()
        if kernel is None:
            return self._with_numpy(given, start)
        return self._with_kernel(kernel, given, start)

    def _with_kernel(
        self, kernel: compiled.Kernel, given: Cases, start: Array | None
    ) -> newton.Outcome:
        tree, count = self.network.tree, len(given)
        flow = np.zeros((count, tree.size))
        if start is not None:
            flow[:, tree.leaves] = start
        share, iterations = np.empty(count), np.empty(count, dtype=np.int64)
        gates = np.ascontiguousarray(given.gates)
        ends = np.array([*self._fan_ends, self._drive])

        # The kernel lets go of the interpreter while it solves, so that threads are enough.
        def part(first: int) -> None:
            rows = slice(first, first + CHUNK)
            kernel.solve_cases(
                self.table,
                tree.joins,
                tree.is_leaf,
                gates[rows],
                given.fan[rows],
                given.loss[rows],
                ends,
                flow[rows],
                start is not None,
                share[rows],
                iterations[rows],
            )

        if count <= CHUNK:
            part(0)
        else:
            with ThreadPoolExecutor(os.cpu_count()) as pool:
                list(pool.map(part, range(0, count, CHUNK)))
        converged = share <= newton.CONVERGED
        # No figure may be read off a case without an answer, not even a plausible one.
        flow[~converged] = np.nan
        return newton.Outcome(flow, converged, iterations, share)

    def _with_numpy(self, given: Cases, start: Array | None) -> newton.Outcome:
        bank = Bank(self.table, given)

        def drops(flow: Array, joined: Array, which: Index) -> tuple[Array, Array, Array]:
            here = bank if len(which) == len(given) else bank.columns(which)
            return here.evaluate(flow, joined)

        first = self.first_guess(bank) if start is None else start.T
        return newton.solve(self.network.tree, drops, first, self._drive)

    @cached_property
    def _drive(self) -> float:
        """The highest shut-off pressure among the fans, Pa."""
        fans = itertools.chain.from_iterable(branch.fans for branch in self.network.branches)
        return max((fan.curve.shut_off for fan in fans), default=1.0)

    def first_guess(self, bank: Bank, blows: bool = True) -> Array:
        """All-turbulent start (leaf, S): every branch R Q², legs in parallel, the fan's parabola at
        the root.

        Unless it is told not to, machines' own fans then blow against the suction found there.
        """
        tree = self.network.tree
        through = np.maximum(bank.estimate(), 1e-6)
        ease = np.zeros_like(through)
        sums = np.zeros_like(through)
        # From the leaves to the fan: legs side by side add their ease (1/√R), pieces in a row
        # their R.
        for branch in range(tree.size - 1, -1, -1):
            if tree.joining[branch]:
                through[branch] += 1 / sums[branch] ** 2
            ease[branch] = 1 / np.sqrt(through[branch])
            if branch:
                sums[tree.downstream[branch]] += ease[branch]
        # The fan as a parabola through its shut-off and its free delivery, met by R Q².
        shut_off, free = self._fan_ends
        flow = np.zeros_like(through)
        flow[0] = np.sqrt(shut_off / (through[0] + shut_off / free**2))
        # Back outwards: at each joint the air parts as the legs are easy.
        for branch in range(1, tree.size):
            down = tree.downstream[branch]
            flow[branch] = flow[down] * (ease[branch] / sums[down])
        return (bank.blown(through, flow) if blows else flow)[tree.leaves]

    @cached_property
    def _fan_ends(self) -> tuple[float, float]:
        curves = [fan.curve for fan in self.network.branches[0].fans if isinstance(fan, laws.Fan)]
        if curves and curves[0].shut_off > 0:
            return curves[0].shut_off, curves[0].free_delivery
        return 1.0, 1.0


def solve(network: Network, given: Cases, start: Array | None = None) -> Solved:
    """Solve a network in all scenarios.

    Parameters
    ----------
    network
        The collector's tree.
    given
        S scenarios; gates in the order of `network.gates`, then the machines' own fans.
    start
        First guess of the leaves' flows (S, leaf), m³/s, or None.

    Returns
    -------
    Solved

    Raises
    ------
    Nothing; a scenario without an answer is marked and carries NaN.

    Source: Kirchhoff's laws for pipe networks, White, Fluid Mechanics, 2011, ch. 6.9.
    """
    outcome = Solver(network).solve(given, start)
    return Solved(
        network, given, outcome.converged, outcome.iterations, outcome.residual, outcome.flow
    )

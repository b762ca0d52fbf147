"""One network with its allowances drawn otherwise: every kind of piece scaled by a factor, without
tracing it anew.

The laws of each kind are packed on their own once; a draw adds the packed arrays with their factors
and solves. Scaling is exact: losses are proportional to their K, friction to its length, a fan's
curve to its two axes, a leak to its area.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from grey_current.air import laws
from grey_current.air.laws import Cases
from grey_current.air.network import Network
from grey_current.air.newton import Outcome
from grey_current.air.pieces import Piece
from grey_current.air.solver import Solver
from grey_current.air.tables import Table, packed

Array = NDArray[np.float64]
FAN_PRESSURE, FAN_FLOW = "fan pressure", "fan flow"


class DrawnNetwork:
    """A network whose pieces belong to groups, each scaled by its own factor.

    `group_of` names the group of a piece; pieces of "" stay as they are. The collector's fan
    belongs to `FAN_PRESSURE` and `FAN_FLOW`.
    """

    def __init__(self, network: Network, group_of: Callable[[Piece], str]) -> None:
        self.network = network
        order: list[tuple[str, int, laws.Law]] = []
        for branch, item in enumerate(network.branches):
            order += [(group_of(piece), branch, piece.law) for piece in item.pieces]
        self.groups = tuple(dict.fromkeys(group for group, _, _ in order))
        size = len(network.branches)
        rows = [(branch, law) for _, branch, law in order]
        self.base = packed(
            [law for _, law in rows], [branch for branch, _ in rows], size, network.air
        )
        # What goes with Q² or Q adds up, so that one row a group, times its factor, gives the sum.
        self._quadratic = np.zeros((len(self.groups), size))
        self._linear = np.zeros((len(self.groups), size))
        for number, group in enumerate(self.groups):
            mine = [
                (branch, law) for own, branch, law in order if own == group and not _moving(law)
            ]
            table = packed(
                [law for _, law in mine], [branch for branch, _ in mine], size, network.air
            )
            self._quadratic[number], self._linear[number] = table.quadratic, table.linear
        # Friction, wyes, gates and leaks keep a row each: their factors are put into the rows.
        self._ducts = self._numbers(order, laws.Friction, by_slot=True)
        self._wyes = self._numbers(order, laws.Wye)
        self._gates = self._numbers(order, laws.Gate)
        self._leaks = self._numbers(order, laws.DuctLeakage)
        self._solver = Solver(network)

    def _numbers(
        self, order: Sequence[tuple[str, int, laws.Law]], kind: type, *, by_slot: bool = False
    ) -> NDArray[np.intp]:
        """The group's number of every law of a kind, in the order in which they are packed."""
        found = [
            (branch, self.groups.index(group))
            for group, branch, law in order
            if isinstance(law, kind)
        ]
        if by_slot:
            found = sorted(found, key=lambda item: item[0])
        return np.array([number for _, number in found], dtype=np.intp)

    def table(self, factors: Mapping[str, float]) -> Table:
        """The laws with factors by group; 1 for those that are not named."""
        each = np.array([factors.get(group, 1.0) for group in self.groups])
        base = self.base
        ducts = base.ducts.copy()
        ducts[:, 1:3] *= each[self._ducts][:, None]
        gates = base.gates.copy()
        count = len(self._gates)
        # A leak twice as large lets the same air through at a quarter of the pressure.
        gates[:count, 1] /= each[self._gates] ** 2
        knots = _scaled_knots(base, factors.get(FAN_FLOW, 1.0))
        return base._replace(
            quadratic=each @ self._quadratic,
            linear=each @ self._linear,
            ducts=ducts,
            gates=gates,
            leaks=base.leaks * each[self._leaks],
            knots=knots,
            wye_terms=base.wye_terms * each[self._wyes][:, None, None],
        )

    def solve(
        self, factors: Mapping[str, float], gates: NDArray[np.bool_], start: Array | None = None
    ) -> Outcome:
        """Flows of all cases with these factors. Raises nothing; a case without an answer is
        marked.
        """
        solver = self._solver.with_table(self.table(factors))
        pressure = np.full(len(gates), factors.get(FAN_PRESSURE, 1.0))
        return solver.solve(Cases(gates, pressure, np.ones(len(gates))), start)


def _moving(law: laws.Law) -> bool:
    return isinstance(law, laws.Fan | laws.MachineFan)


def _scaled_knots(base: Table, factor: float) -> Array:
    """The collector's curve with its airflow scaled; machines' own fans stay."""
    knots = base.knots.copy()
    for number, (_, switch) in enumerate(base.fan_at):
        if switch < 0 and factor != 1.0:
            rows = slice(base.fan_start[number], base.fan_start[number + 1])
            knots[rows, 0] *= factor
            for power, column in enumerate((2, 3, 4), 1):
                knots[rows, column] /= factor**power
    return knots

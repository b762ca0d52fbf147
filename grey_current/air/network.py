"""A collector's ductwork as a tree of branches made of pieces, and its solution.

A piece is one thing that air passes (a length of duct, an elbow, a gate, the filter). Pieces in series
make a branch; branches meet at junctions; leaves breathe from the room and the root gives back to it.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from grey_current.air import laws, newton
from grey_current.air.gas import Air
from grey_current.air.laws import Bank, Cases, ReadyBank, area

Array = NDArray[np.float64]
Index = NDArray[np.intp]

ROOM = "room"

Kind = Literal[
    "duct",
    "hose",
    "hose_bend",
    "elbow",
    "mitre",
    "wye_branch",
    "wye_main",
    "expansion",
    "contraction",
    "splitter",
    "gate",
    "leak",
    "entry",
    "intake",
    "seam",
    "spacing",
    "inlet_disturbance",
    "separator",
    "filter",
    "fan",
    "return_opening",
]


@dataclass(frozen=True, slots=True)
class Piece:
    """One thing that air passes.

    `source_id` is the id of the run, point, gate, machine or collector that it came from. `diameter` (m) is the
    one whose velocity is shown. The other measures (m, degrees, m², shares) are present where they apply
    and say everything that the law was made from. `rises`: it lifts the chips; `forward`: the air passes
    from its run's start to its end as drawn.
    """

    id: str
    source_id: str
    kind: Kind
    law: laws.Law
    diameter: float
    length: float | None = None
    roughness: float | None = None
    angle: float | None = None
    radius_ratio: float | None = None
    construction: str | None = None
    friction_factor: float | None = None
    small: float | None = None
    large: float | None = None
    other: float | None = None
    combined: float | None = None
    free_area: float | None = None
    count: float | None = None
    opening: float | None = None
    leak_capacity: float | None = None
    leak_share: float | None = None
    coefficient_on: str = "diameter_m"
    allowance: bool = False
    outside_data: bool = False
    rises: bool = False
    forward: bool = True


@dataclass(frozen=True, slots=True)
class Branch:
    """Pieces in series from upstream to downstream; `joins` is the branch it ends in, -1 for the root.

    `pickup` names the pickup at its upstream end as (machine id, pickup id).
    """

    pieces: tuple[Piece, ...]
    joins: int
    pickup: tuple[str, str] | None = None


@dataclass(frozen=True)
class Network:
    """One collector's tree. Branches stand root first; `gates` are gate ids in the scenario's order."""

    collector: str
    branches: tuple[Branch, ...]
    gates: tuple[str, ...]
    air: Air

    @cached_property
    def tree(self) -> newton.Tree:
        return newton.Tree(tuple(branch.joins for branch in self.branches))

    @cached_property
    def pieces(self) -> tuple[Piece, ...]:
        return tuple(piece for branch in self.branches for piece in branch.pieces)

    @cached_property
    def branch_of_piece(self) -> NDArray[np.intp]:
        return np.array([b for b, branch in enumerate(self.branches) for _ in branch.pieces], dtype=np.intp)

    @cached_property
    def areas(self) -> Array:
        """Cross-section of each piece, m²."""
        return np.array([area(piece.diameter) for piece in self.pieces])

    @cached_property
    def piece_bank(self) -> Bank:
        return Bank([p.law for p in self.pieces], range(len(self.pieces)), len(self.pieces), self.air)

    @cached_property
    def leaf_of_pickup(self) -> dict[tuple[str, str], int]:
        return {branch.pickup: b for b, branch in enumerate(self.branches) if branch.pickup}

    @cached_property
    def gates_of_branch(self) -> tuple[frozenset[int], ...]:
        """For each branch, the gates on the way from it to the fan."""
        found: list[frozenset[int]] = []
        for branch in self.branches:
            here = {p.law.index for p in branch.pieces if isinstance(p.law, laws.Gate)}
            below = found[branch.joins] if branch.joins >= 0 else frozenset()
            found.append(below | here)
        return tuple(found)

    @cached_property
    def nodes(self) -> tuple[tuple[str, str], ...]:
        """(from, to) node ids of every piece, in the order of `pieces`."""
        names: list[tuple[str, str]] = []
        starts = [f"{self.collector}:{b}.0" if group else ROOM for b, group in enumerate(self.tree.joining)]
        for b, branch in enumerate(self.branches):
            end = starts[branch.joins] if branch.joins >= 0 else ROOM
            inner = [f"{self.collector}:{b}.{i}" for i in range(1, len(branch.pieces))]
            stops = [starts[b], *inner, end]
            names.extend(itertools.pairwise(stops))
        return tuple(names)

    @cached_property
    def branches_of(self) -> dict[str, frozenset[int]]:
        """For everything that pieces came from, the branches that they stand in."""
        found: dict[str, set[int]] = {}
        for b, branch in enumerate(self.branches):
            for piece in branch.pieces:
                found.setdefault(piece.source_id, set()).add(b)
        return {of: frozenset(branches) for of, branches in found.items()}

    @cached_property
    def _carrying(self) -> dict[int, NDArray[np.intp]]:
        return {}

    def carrying(self, leaf: int) -> NDArray[np.intp]:
        """Indices of the ducts and hoses that air passes from a leaf to the root."""
        if leaf not in self._carrying:
            kinds = ("duct", "hose")
            self._carrying[leaf] = np.array([i for i in self.path(leaf) if self.pieces[i].kind in kinds], dtype=np.intp)
        return self._carrying[leaf]

    @cached_property
    def rising(self) -> NDArray[np.bool_]:
        """Which pieces lift the chips, shape (piece,)."""
        return np.array([piece.rises for piece in self.pieces], dtype=bool)

    def path(self, leaf: int) -> list[int]:
        """Indices into `pieces` from a leaf branch to the exhaust, in the order that air passes them."""
        return [piece for branch in self.branch_path(leaf) for piece in self.pieces_of_branch[branch]]

    def branch_path(self, leaf: int) -> list[int]:
        """Indices of the branches from a leaf to the root."""
        order = [leaf]
        while self.branches[order[-1]].joins >= 0:
            order.append(self.branches[order[-1]].joins)
        return order

    @cached_property
    def pieces_of_branch(self) -> tuple[range, ...]:
        """For each branch, where its pieces stand in `pieces`."""
        ranges: list[range] = []
        for branch in self.branches:
            first = ranges[-1].stop if ranges else 0
            ranges.append(range(first, first + len(branch.pieces)))
        return tuple(ranges)


@dataclass(frozen=True)
class Solved:
    """Flows of a network in S scenarios: per branch and per piece, with each piece's loss and pressures.

    Shapes: `flow` (S, branch); `piece_flow`, `loss`, `before` and `after` (S, piece), where `before` and
    `after` are the total pressures (Pa, room = 0) at the piece's two ends; they are computed when first
    asked for. Rows that did not converge are NaN.
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
    def loss(self) -> Array:
        """Total pressure taken by each piece, Pa."""
        with np.errstate(invalid="ignore"):
            ready = self.network.piece_bank.ready(self.cases)
            return ready.evaluate(self.piece_flow.T, self._joined)[0].T

    @cached_property
    def before(self) -> Array:
        """Total pressure at each piece's upstream end, Pa, summed from the exhaust upstream."""
        loss, network = self.loss.T, self.network
        before = np.zeros_like(loss)
        ends = np.zeros((len(network.branches), loss.shape[1]))
        for b, branch in enumerate(network.branches):
            here = network.pieces_of_branch[b]
            first, last = here.start, here.stop
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
        return self.network.piece_bank.wye_coefficients(self.piece_flow.T, self._joined).T


class Solver:
    """A network made ready for many solves: the laws of a branch lie in one slot."""

    def __init__(self, network: Network) -> None:
        self.network = network
        lumped = [(b, law) for b, branch in enumerate(network.branches) for law in _lump(branch.pieces)]
        slots = [b for b, _ in lumped]
        self._bank = Bank([law for _, law in lumped], slots, len(network.branches), network.air)

    def solve(self, given: Cases, start: Array | None = None) -> newton.Outcome:
        """Flows of all scenarios, from `start` (S, leaf) or from the all-turbulent estimate."""
        ready = self._bank.ready(given)

        def drops(flow: Array, joined: Array, which: Index) -> tuple[Array, Array, Array]:
            here = ready if len(which) == len(given) else ready.columns(which)
            return here.evaluate(flow, joined)

        first = self._estimate(ready) if start is None else start.T
        return newton.solve(self.network.tree, drops, first, self._drive)

    @cached_property
    def _drive(self) -> float:
        """The highest shut-off pressure among the fans, Pa."""
        return max([p.law.curve.shut_off for p in self.network.pieces if isinstance(p.law, laws.Fan)] + [1.0])

    def _estimate(self, ready: ReadyBank) -> Array:
        """All-turbulent start: every branch R Q², legs in parallel, the fan's parabola at the root."""
        tree = self.network.tree
        through = np.maximum(ready.estimate(), 1e-6)
        ease = np.zeros_like(through)
        sums = np.zeros_like(through)
        for branch in range(tree.size - 1, -1, -1):
            if tree.joining[branch]:
                through[branch] += 1 / sums[branch] ** 2
            ease[branch] = 1 / np.sqrt(through[branch])
            if branch:
                sums[tree.downstream[branch]] += ease[branch]
        shut_off, free = self._fan_ends()
        flow = np.zeros_like(through)
        flow[0] = np.sqrt(shut_off / (through[0] + shut_off / free**2))
        for branch in range(1, tree.size):
            down = tree.downstream[branch]
            flow[branch] = flow[down] * (ease[branch] / sums[down])
        return flow[tree.leaves]

    def _fan_ends(self) -> tuple[float, float]:
        curves = [p.law.curve for p in self.network.branches[0].pieces if isinstance(p.law, laws.Fan)]
        if curves and curves[0].shut_off > 0:
            return curves[0].shut_off, curves[0].free_delivery
        return 1.0, 1.0


def _lump(pieces: Sequence[Piece]) -> list[laws.Law]:
    """The same branch with fewer laws: ducts of one bore added up."""
    ducts: dict[tuple[float, float], float] = {}
    rest: list[laws.Law] = []
    for piece in pieces:
        law = piece.law
        if isinstance(law, laws.Friction):
            bore = (law.diameter, law.roughness)
            ducts[bore] = ducts.get(bore, 0.0) + law.length
        else:
            rest.append(law)
    return [*(laws.Friction(length, *bore) for bore, length in ducts.items()), *rest]


def solve(network: Network, given: Cases, start: Array | None = None) -> Solved:
    """Solve a network in all scenarios.

    Parameters
    ----------
    network
        The collector's tree.
    given
        S scenarios; gates in the order of `network.gates`.
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
    return Solved(network, given, outcome.converged, outcome.iterations, outcome.residual, outcome.flow)

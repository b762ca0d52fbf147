"""Newton's method on a tree of branches, for many scenarios at once. Knows nothing of pipes.

Unknowns are the flows through the leaves; the flow of every other branch is the sum of what joins
it, so that nothing is ever lost at a junction. For each leaf the drops along its path to the root
must add up to nothing (whatever drives the flow is a negative drop in the root). Inside, arrays
have one row a branch and the scenarios side by side, (branch, S), which is how memory is read
quickest.
"""

from __future__ import annotations

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
Index = NDArray[np.intp]

# A shop needs four to six, the wildest of 20,000 random ones 28.
MAX_ITERATIONS = 60
MAX_HALVINGS = 12
# A step halved to this says that Newton's method turns round a hump: the case is steadied from
# there.
SHORT_STEP = 1 / 4
# Inertia of a steadied branch to begin with, as a share of the residual over the airflow.
INERTIA = 0.1
# Least and largest factor by which the inertia follows the residual from one step to the next.
INERTIA_CHANGE = (0.2, 1.5)
# Least stiffness of a steadied subtree, as a share of what its legs alone would answer.
STIFFNESS = 0.4
# Residual share under which, while it falls, Newton's own steps bring a steadied case home.
CALM = 1.5e-3
# Residual aimed at, as a share of the largest drive; where rounding stops it short, `CONVERGED` is
# enough.
GOAL = 1e-12
CONVERGED = 1e-8
# m³/s; under which an inertia no longer grows as the air gets less.
LEAST_FLOW = 1e-3
DENSE_LEAVES = 40
DENSE_CASES = 64
CHUNK = 512


class Drops(Protocol):
    """The physics: drops along branches for the scenarios in `which`."""

    def __call__(self, flow: Array, joined: Array, which: Index) -> tuple[Array, Array, Array]:
        """Drop, ∂drop/∂flow, ∂drop/∂joined, each (branch, len(which)); `joined` is the flow
        downstream.
        """
        ...


@dataclass(frozen=True)
class Tree:
    """`downstream[b]` is the branch that b joins, -1 for the root; a branch stands after the one it
    joins.
    """

    downstream: tuple[int, ...]

    def __post_init__(self) -> None:
        if any(not -1 <= d < b for b, d in enumerate(self.downstream)):
            raise ValueError("each branch must stand after the branch that it joins")
        if self.downstream.count(-1) != 1:
            raise ValueError("a tree has exactly one root")

    @property
    def size(self) -> int:
        return len(self.downstream)

    @cached_property
    def joining(self) -> tuple[tuple[int, ...], ...]:
        """For each branch, the branches that join it."""
        groups: list[list[int]] = [[] for _ in self.downstream]
        for branch, down in enumerate(self.downstream):
            if down >= 0:
                groups[down].append(branch)
        return tuple(tuple(group) for group in groups)

    @cached_property
    def leaves(self) -> Index:
        return np.array([b for b, group in enumerate(self.joining) if not group], dtype=np.intp)

    @cached_property
    def joins(self) -> NDArray[np.int64]:
        """`downstream` as an array."""
        return np.array(self.downstream, dtype=np.int64)

    @cached_property
    def is_leaf(self) -> NDArray[np.bool_]:
        """Which branches nothing joins."""
        return np.array([not group for group in self.joining], dtype=np.bool_)

    @cached_property
    def path(self) -> Array:
        """(branch, leaf): 1 where the branch lies on the leaf's path to the root."""
        # Flows add up towards the fan: a branch carries the leaves whose path it lies on.
        matrix = np.zeros((self.size, len(self.leaves)))
        for column, leaf in enumerate(self.leaves):
            branch = int(leaf)
            while branch >= 0:
                matrix[branch, column] = 1.0
                branch = self.downstream[branch]
        return matrix

    @cached_property
    def _ways(self) -> dict[int, list[int]]:
        return {}

    def way(self, leaf: int) -> list[int]:
        """Indices of the branches from a leaf to the root; not to be changed."""
        if leaf not in self._ways:
            order = [leaf]
            while self.downstream[order[-1]] >= 0:
                order.append(self.downstream[order[-1]])
            self._ways[leaf] = order
        return self._ways[leaf]

    @cached_property
    def joined_at(self) -> Index:
        return np.array([max(d, 0) for d in self.downstream], dtype=np.intp)

    @cached_property
    def dense(self) -> tuple[Array, Array, Array]:
        """`path`, and the weights that turn slopes and couplings into Jacobians (branch, leaf²)."""
        path = self.path
        # The root joins nothing: its row is nought.
        joined = path[self.joined_at] * (np.array(self.downstream) >= 0)[:, None]
        flat = (self.size, len(self.leaves) ** 2)
        own = (path[:, :, None] * path[:, None, :]).reshape(flat)
        return path, own, (path[:, :, None] * joined[:, None, :]).reshape(flat)


@dataclass(frozen=True)
class Outcome:
    """Flows (S, branch), and for each scenario whether it converged, its iterations and its
    residual share.
    """

    flow: Array
    converged: NDArray[np.bool_]
    iterations: NDArray[np.int64]
    residual: Array


def solve(tree: Tree, drops: Drops, start: Array, scale: float) -> Outcome:
    """Find the flows of all scenarios.

    Newton's method with step halving. A case whose step gets short turns round a hump: a fan's, or
    a wye's whose one leg is sucked the harder the more the other takes, so that the slopes point
    the wrong way. It is steadied from there: full steps, an inertia in each branch that goes as the
    residual goes, and couplings only as strong as leaves every subtree stiff, as air that has mass
    comes to rest. Near its answer Newton's own steps bring it home.

    Parameters
    ----------
    tree
        How the branches join.
    drops
        The physics.
    start
        First guess of the leaves' flows, (leaf, S).
    scale
        The largest drive; residuals are judged as a share of it.

    Returns
    -------
    Outcome
        Scenarios that did not converge carry NaN flows; the others are not touched by them.

    Raises
    ------
    Nothing; a failure is part of the outcome.

    Source: damped Newton with step halving, Dennis and Schnabel, Numerical Methods for
    Unconstrained Optimization, 1983, ch. 6; inertia, Kelley and Keyes, Convergence Analysis of
    Pseudo-Transient Continuation, 1998, algorithm PTC with switched evolution relaxation.
    """
    cases = start.shape[1]
    # Few leaves: dense matrices for all scenarios in one call of LAPACK. Else elimination along the
    # tree, which grows with the branches only.
    small = len(tree.leaves) <= DENSE_LEAVES and cases <= DENSE_CASES
    linear: _Dense | _Elimination = _Dense(tree) if small else _Elimination(tree)
    chunks = [
        _Descent(linear, drops, start, scale, range(first, min(first + CHUNK, cases)))
        for first in range(0, cases, CHUNK)
    ]
    if len(chunks) == 1:
        return chunks[0].run()
    with ThreadPoolExecutor(os.cpu_count()) as pool:  # NumPy lets go of the interpreter's lock
        parts = list(pool.map(_Descent.run, chunks))
    names = ("flow", "converged", "iterations", "residual")
    return Outcome(*(np.concatenate([getattr(part, name) for part in parts]) for name in names))


class _Descent:
    """One chunk of scenarios on its way down; scenarios that have arrived are left alone."""

    def __init__(
        self, linear: _Dense | _Elimination, drops: Drops, start: Array, scale: float, chosen: range
    ) -> None:
        self.linear, self.drops, self.scale = linear, drops, scale
        self.steady = _Elimination(linear.tree)
        self.which = which = np.arange(chosen.start, chosen.stop)
        self.leaf_flow = start if len(which) == start.shape[1] else start[:, which]
        self.iterations = np.zeros(len(which), dtype=np.int64)
        self.share = np.full(len(which), np.inf)

    def run(self) -> Outcome:
        live = np.arange(len(self.which))
        with np.errstate(all="ignore"):
            # The first guess may be the answer already, where little has changed.
            state = self._state(self.leaf_flow, live)
            final = self.leaf_flow.copy()
            self.share[:] = state.share
            # Scenarios that have arrived leave, so that the last ones do not hold the others.
            going = ~(state.share <= GOAL)
            for _ in range(MAX_ITERATIONS):
                if not going.any():
                    break
                if not going.all():
                    live, state = live[going], state.columns(going)
                before, state = state.share, self._step(state, live)
                self.share[live], final[:, live] = state.share, state.leaf_flow
                self.iterations[live] += 1
                # Good enough and no longer falling: rounding is all that is left.
                stalled = (state.share <= CONVERGED) & (state.share >= 0.5 * before)
                going = ~((state.share <= GOAL) | stalled | np.isnan(state.share))
        converged = self.share <= CONVERGED
        flow = self.linear.branch_flow(final)
        # Whatever a case without an answer has come to is no flow.
        flow[:, ~converged] = np.nan
        return Outcome(flow.T, converged, self.iterations, self.share)

    def _state(self, leaf_flow: Array, live: Index) -> _State:
        flow = self.linear.branch_flow(leaf_flow)
        joined = flow[self.linear.tree.joined_at]
        drop, slope, coupling = self.drops(flow, joined, self.which[live])
        residual = self.linear.along_paths(drop)
        # The worst path decides, as a share of what the fan can lift at most.
        share = np.abs(residual).max(axis=0) / self.scale
        norm = np.einsum("ls,ls->s", residual, residual)
        still, falls = np.zeros(len(live)), np.zeros(len(live), dtype=np.bool_)
        return _State(leaf_flow, slope, coupling, residual, share, norm, still, falls)

    def _first_inertia(self, state: _State) -> Array:
        """An inertia to begin with, Pa per m³/s."""
        most: Array = np.abs(self.linear.branch_flow(state.leaf_flow)).max(axis=0)
        return np.asarray(INERTIA * state.share * self.scale / np.maximum(most, LEAST_FLOW))

    def _step(self, state: _State, live: Index) -> _State:
        steadied = state.inertia > 0
        # Newton's own step brings a steadied case home once it is calm and its residual falls.
        change = self._change(state, steadied & ~((state.share < CALM) & state.falls))
        best = self._state(state.leaf_flow - change, live)
        step = np.ones(len(live))
        # Only cases whose residual grew go back half a step, again and again.
        worse = np.flatnonzero(~(best.norm < state.norm) & ~steadied)
        for _ in range(MAX_HALVINGS):
            if not len(worse):
                break
            step[worse] /= 2
            tried = state.leaf_flow[:, worse] - step[worse] * change[:, worse]
            trial = self._state(tried, live[worse])
            best.put(worse, trial)
            worse = worse[~(trial.norm < state.norm[worse])]
        least, most = INERTIA_CHANGE
        # Inertia follows the residual: less of it the nearer the answer.
        ratio = best.share / state.share
        best.inertia = state.inertia * np.maximum(np.where(ratio < most, ratio, most), least)
        best.falls = best.share < state.share
        # A step this short means that the slopes point the wrong way: steady it from here.
        stuck = ~steadied & (step <= SHORT_STEP)
        if stuck.any():
            best.inertia[stuck] = self._first_inertia(best.columns(stuck))
        return best

    def _change(self, state: _State, heavy: NDArray[np.bool_]) -> Array:
        """What each leaf's flow is to change by: Newton's step, with inertia and stiff subtrees
        where it is `heavy`.
        """
        if not heavy.any():
            change = self.linear.solve(state.slope, state.coupling, state.residual)
        else:
            change = np.empty_like(state.residual)
            light = ~heavy
            plain, held = state.columns(light), state.columns(heavy)
            change[:, light] = self.linear.solve(plain.slope, plain.coupling, plain.residual)
            slope = held.slope + held.inertia
            change[:, heavy] = self.steady.solve(slope, held.coupling, held.residual, STIFFNESS)
        # A singular case stays where it is; the others of the chunk go on.
        change[:, ~np.isfinite(change).all(axis=0)] = 0.0
        return change


@dataclass
class _State:
    """Scenarios side by side. `inertia` is 0 where Newton's method goes on alone; `falls`: the
    residual fell.
    """

    leaf_flow: Array
    slope: Array
    coupling: Array
    residual: Array
    share: Array
    norm: Array
    inertia: Array
    falls: NDArray[np.bool_]

    def columns(self, chosen: NDArray[np.bool_]) -> _State:
        return _State(*(getattr(self, name)[..., chosen] for name in self.__dataclass_fields__))

    def put(self, columns: Index, other: _State) -> None:
        for name in self.__dataclass_fields__:
            getattr(self, name)[..., columns] = getattr(other, name)


class _Dense:
    """Linear algebra by matrices: quickest for the size of a shop and few scenarios."""

    def __init__(self, tree: Tree) -> None:
        self.tree = tree
        self._path, self._own, self._next = tree.dense

    def branch_flow(self, leaf_flow: Array) -> Array:
        return self._path @ leaf_flow

    def along_paths(self, drop: Array) -> Array:
        return self._path.T @ drop

    def solve(self, slope: Array, coupling: Array, residual: Array) -> Array:
        leaves = len(residual)
        jacobian = (slope.T @ self._own + coupling.T @ self._next).reshape(-1, leaves, leaves)
        jacobian += 1e-12 * np.eye(leaves)
        try:
            solved = np.linalg.solve(jacobian, residual.T[:, :, None])[:, :, 0].T
            return np.asarray(solved, dtype=np.float64)
        except np.linalg.LinAlgError:
            return np.full_like(residual, np.nan)


class _Elimination:
    """Linear algebra leaf to root: cost grows with the number of branches only.

    Each subtree answers as one straight line: the residual at its lower end is a - s·(flow out of
    it). Where legs meet, the lines combine into one; the root's line gives its flow, and the way
    back shares it out.
    """

    def __init__(self, tree: Tree) -> None:
        self.tree = tree

    def branch_flow(self, leaf_flow: Array) -> Array:
        flow = np.zeros((self.tree.size, leaf_flow.shape[1]))
        flow[self.tree.leaves] = leaf_flow
        for branch in range(self.tree.size - 1, 0, -1):
            flow[self.tree.downstream[branch]] += flow[branch]
        return flow

    def along_paths(self, drop: Array) -> Array:
        total = drop.copy()
        for branch in range(1, self.tree.size):
            total[branch] += total[self.tree.downstream[branch]]
        return total[self.tree.leaves]

    def solve(
        self, slope: Array, coupling: Array, residual: Array, stiff: float | None = None
    ) -> Array:
        """Changes of the leaves' flows. Where `stiff` is given, a subtree whose answer is less
        stiff than that part of what its legs alone would answer has their couplings weakened, all
        alike, until it is.
        """
        downstream = self.tree.downstream
        offset, ease_sum, pull_sum = (np.zeros_like(slope) for _ in range(3))
        offset[self.tree.leaves] = residual
        stiffness = slope + 1e-12
        own, held = np.zeros_like(slope), np.ones_like(slope)
        # Leaf to root: each subtree as one line, the lines of what meets combined.
        for branch in range(self.tree.size - 1, -1, -1):
            if self.tree.joining[branch]:
                offset[branch] /= ease_sum[branch]
                own[branch] = (1 + pull_sum[branch]) / ease_sum[branch]
                if stiff is not None:
                    least = stiff / ease_sum[branch] - stiffness[branch]
                    weak = own[branch] < least
                    kept = np.where(
                        pull_sum[branch] == 0,
                        1.0,
                        (least * ease_sum[branch] - 1) / pull_sum[branch],
                    )
                    held[branch], own[branch] = (
                        np.where(weak, kept, 1.0),
                        np.where(weak, least, own[branch]),
                    )
                stiffness[branch] += own[branch]
            if branch:
                ease = 1 / stiffness[branch]
                down = downstream[branch]
                ease_sum[down] += ease
                offset[down] += ease * offset[branch]
                pull_sum[down] += ease * coupling[branch]
        change = np.zeros_like(slope)
        # Root to leaf: the root's flow from its line, then shared out.
        change[0] = offset[0] / stiffness[0]
        for branch in range(1, self.tree.size):
            down = downstream[branch]
            level = offset[down] - own[down] * change[down]
            rest = offset[branch] - level - held[down] * coupling[branch] * change[down]
            change[branch] = rest / stiffness[branch]
        return change[self.tree.leaves]

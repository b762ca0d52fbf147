"""Newton's method on a tree of branches, for many scenarios at once. Knows nothing of pipes.

Unknowns are the flows through the leaves; the flow of every other branch is the sum of what joins it,
so that nothing is ever lost at a junction. For each leaf the drops along its path to the root must add
up to nothing (whatever drives the flow is a negative drop in the root). Inside, arrays have one row a
branch and the scenarios side by side, (branch, S), which is how memory is read quickest.
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

MAX_ITERATIONS = 14
"""A shop needs four to six; what takes more, humps in a curve or fans against one another, is settled."""
MAX_SETTLING = 80
ATTEMPTS = ((1.0, 0.15, 1.5), (0.3, 0.3, 3.0), (0.1, 0.15, 2.0))
"""Ways to settle, one after the other where the one before does not come to rest: the inertia to begin with, as a share
of drive over airflow, and the least and largest factor by which it changes from one step to the next."""
MAX_HALVINGS = 12
GOAL = 1e-12
"""Residual aimed at, as a share of the largest drive; where rounding stops it short, `CONVERGED` is enough."""
CONVERGED = 1e-8
DENSE_LEAVES = 40
DENSE_CASES = 64
CHUNK = 512


class Drops(Protocol):
    """The physics: drops along branches for the scenarios in `which`."""

    def __call__(self, flow: Array, joined: Array, which: Index) -> tuple[Array, Array, Array]:
        """Drop, ∂drop/∂flow, ∂drop/∂joined, each (branch, len(which)); `joined` is the flow downstream."""
        ...


@dataclass(frozen=True)
class Tree:
    """`downstream[b]` is the branch that b joins, -1 for the root; a branch stands after the one it joins."""

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
        matrix = np.zeros((self.size, len(self.leaves)))
        for column, leaf in enumerate(self.leaves):
            branch = int(leaf)
            while branch >= 0:
                matrix[branch, column] = 1.0
                branch = self.downstream[branch]
        return matrix

    @cached_property
    def joined_at(self) -> Index:
        return np.array([max(d, 0) for d in self.downstream], dtype=np.intp)

    @cached_property
    def dense(self) -> tuple[Array, Array, Array]:
        """`path`, and the weights that turn slopes and couplings into Jacobians (branch, leaf²)."""
        path = self.path
        joined = path[self.joined_at] * (np.array(self.downstream) >= 0)[:, None]
        flat = (self.size, len(self.leaves) ** 2)
        own = (path[:, :, None] * path[:, None, :]).reshape(flat)
        return path, own, (path[:, :, None] * joined[:, None, :]).reshape(flat)


@dataclass(frozen=True)
class Outcome:
    """Flows (S, branch), and for each scenario whether it converged, its iterations and its residual share."""

    flow: Array
    converged: NDArray[np.bool_]
    iterations: NDArray[np.int64]
    residual: Array


def solve(tree: Tree, drops: Drops, start: Array, scale: float) -> Outcome:
    """Find the flows of all scenarios.

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

    Source: damped Newton with step halving, Dennis and Schnabel, Numerical Methods for Unconstrained
    Optimization, 1983, ch. 6.
    """
    cases = start.shape[1]
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


def settle(tree: Tree, drops: Drops, start: Array, scale: float) -> Outcome:
    """Find the flows of scenarios that Newton's method did not, as the air itself would come to them.

    Each branch gets an inertia, which goes as the residual goes: pseudo-transient continuation. Humps in a fan's curve
    and fans against one another, which throw Newton's method from side to side, settle where the air is stable.

    Parameters, returns and raises as `solve`: flows in m³/s, the scale in Pa. Source: Kelley and Keyes, Convergence
    Analysis of Pseudo-Transient Continuation, 1998, algorithm PTC with switched evolution relaxation.
    """
    linear, left = _Elimination(tree), np.arange(start.shape[1])
    iterations, best, final = np.zeros(len(left), dtype=np.int64), np.full(len(left), np.inf), start.copy()
    with np.errstate(all="ignore"):
        for attempt in ATTEMPTS:
            leaf_flow, share, steps = _settled(linear, drops, start[:, left], scale, left, attempt)
            iterations[left] += steps
            better = share < best[left]
            best[left[better]], final[:, left[better]] = share[better], leaf_flow[:, better]
            left = np.flatnonzero(~(best <= CONVERGED))
            if not len(left):
                break
    converged = best <= CONVERGED
    flow = linear.branch_flow(final)
    flow[:, ~converged] = np.nan
    return Outcome(flow.T, converged, iterations, best)


def _settled(
    linear: _Elimination, drops: Drops, start: Array, scale: float, which: Index, attempt: tuple[float, float, float]
) -> tuple[Array, Array, NDArray[np.int64]]:
    """One attempt at settling: the leaves' best flows, their residual share, and the steps taken."""
    first, shrink, grow = attempt
    leaf_flow, inertia, before = start.copy(), np.zeros(len(which)), np.full(len(which), np.inf)
    steps, best, final = np.zeros(len(which), dtype=np.int64), np.full(len(which), np.inf), start.copy()
    for step in range(MAX_SETTLING):
        flow = linear.branch_flow(leaf_flow)
        drop, slope, coupling = drops(flow, flow[linear.tree.joined_at], which)
        residual = linear.along_paths(drop)
        share = np.abs(residual).max(axis=0) / scale
        better = share < best
        best[better], final[:, better] = share[better], leaf_flow[:, better]
        if not (best > GOAL).any():
            break
        steps[best > GOAL] += 1
        if step == 0:
            inertia[:] = first * scale / np.maximum(np.abs(flow).max(axis=0), 1e-3)
        else:
            inertia *= np.clip(np.where(share < grow * before, share / before, grow), shrink, grow)
        before = share
        change = linear.solve(slope + inertia, coupling, residual)
        change[:, ~np.isfinite(change).all(axis=0)] = 0.0
        leaf_flow = leaf_flow - change
    return final, best, steps


class _Descent:
    """One chunk of scenarios on its way down; scenarios that have arrived are left alone."""

    def __init__(self, linear: _Dense | _Elimination, drops: Drops, start: Array, scale: float, chosen: range) -> None:
        self.linear, self.drops, self.scale = linear, drops, scale
        self.which = which = np.arange(chosen.start, chosen.stop)
        self.leaf_flow = start if len(which) == start.shape[1] else start[:, which]
        self.iterations = np.zeros(len(which), dtype=np.int64)
        self.share = np.full(len(which), np.inf)

    def run(self) -> Outcome:
        live = np.arange(len(self.which))
        with np.errstate(all="ignore"):
            state = self._state(self.leaf_flow, live)
            final = self.leaf_flow.copy()
            self.share[:] = state.share
            going = ~(state.share <= GOAL)
            for _ in range(MAX_ITERATIONS):
                if not going.any():
                    break
                if not going.all():
                    live, state = live[going], state.columns(going)
                before, state = state.share, self._step(state, live)
                self.share[live], final[:, live] = state.share, state.leaf_flow
                self.iterations[live] += 1
                stalled = (state.share <= CONVERGED) & (state.share >= 0.5 * before)
                going = ~((state.share <= GOAL) | stalled)
        converged = self.share <= CONVERGED
        flow = self.linear.branch_flow(final)
        flow[:, ~converged] = np.nan
        return Outcome(flow.T, converged, self.iterations, self.share)

    def _state(self, leaf_flow: Array, live: Index) -> _State:
        flow = self.linear.branch_flow(leaf_flow)
        joined = flow[self.linear.tree.joined_at]
        drop, slope, coupling = self.drops(flow, joined, self.which[live])
        residual = self.linear.along_paths(drop)
        share = np.abs(residual).max(axis=0) / self.scale
        norm = np.einsum("ls,ls->s", residual, residual)
        return _State(leaf_flow, slope, coupling, residual, share, norm)

    def _step(self, state: _State, live: Index) -> _State:
        change = self.linear.solve(state.slope, state.coupling, state.residual)
        change[:, ~np.isfinite(change).all(axis=0)] = 0.0
        best = self._state(state.leaf_flow - change, live)
        scale = 1.0
        worse = np.flatnonzero(~(best.norm < state.norm))
        for _ in range(MAX_HALVINGS):
            if not len(worse):
                break
            scale /= 2
            tried = state.leaf_flow[:, worse] - scale * change[:, worse]
            trial = self._state(tried, live[worse])
            best.put(worse, trial)
            worse = worse[~(trial.norm < state.norm[worse])]
        return best


@dataclass
class _State:
    leaf_flow: Array
    slope: Array
    coupling: Array
    residual: Array
    share: Array
    norm: Array

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

    Each subtree answers as one straight line: the residual at its lower end is a - s·(flow out of it).
    Where legs meet, the lines combine into one; the root's line gives its flow, and the way back shares
    it out.
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

    def solve(self, slope: Array, coupling: Array, residual: Array) -> Array:
        downstream = self.tree.downstream
        offset, ease_sum, pull_sum = (np.zeros_like(slope) for _ in range(3))
        offset[self.tree.leaves] = residual
        stiffness = slope + 1e-12
        own = np.zeros_like(slope)
        for branch in range(self.tree.size - 1, -1, -1):
            if self.tree.joining[branch]:
                offset[branch] /= ease_sum[branch]
                own[branch] = (1 + pull_sum[branch]) / ease_sum[branch]
                stiffness[branch] += own[branch]
            if branch:
                ease = 1 / stiffness[branch]
                down = downstream[branch]
                ease_sum[down] += ease
                offset[down] += ease * offset[branch]
                pull_sum[down] += ease * coupling[branch]
        change = np.zeros_like(slope)
        change[0] = offset[0] / stiffness[0]
        for branch in range(1, self.tree.size):
            down = downstream[branch]
            level = offset[down] - own[down] * change[down]
            rest = offset[branch] - level - coupling[branch] * change[down]
            change[branch] = rest / stiffness[branch]
        return change[self.tree.leaves]

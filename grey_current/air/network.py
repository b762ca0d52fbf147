"""A collector's ductwork as a tree of branches made of pieces.

A piece is one thing that air passes (a length of duct, an elbow, a gate, the filter). Pieces in series
make a branch; branches meet at junctions; leaves breathe from the room and the root gives back to it.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from grey_current.air import laws, newton
from grey_current.air.gas import Air
from grey_current.air.laws import area
from grey_current.air.pieces import Piece, Straight
from grey_current.air.tables import Table, packed

Array = NDArray[np.float64]

ROOM = "room"


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
    """One collector's tree. Branches stand root first; `gates` are gate ids in the scenario's order.

    After the gates come the switches of the machines' own fans, as `own_fans` names their pickups.
    """

    collector: str
    branches: tuple[Branch, ...]
    gates: tuple[str, ...]
    air: Air
    own_fans: tuple[tuple[str, str], ...] = ()

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
    def piece_table(self) -> Table:
        """The laws of all pieces, a slot each."""
        return packed([p.law for p in self.pieces], range(len(self.pieces)), len(self.pieces), self.air)

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
            if not branch.pieces:  # between a leaky seam and a wye stands nothing: one node
                starts[b] = end
                continue
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
    def _straights(self) -> dict[int, NDArray[np.intp]]:
        return {}

    def straights(self, leaf: int) -> NDArray[np.intp]:
        """Indices of the ducts and hoses that air passes from a leaf to the root."""
        if leaf not in self._straights:
            found = [i for i in self.path(leaf) if isinstance(self.pieces[i], Straight)]
            self._straights[leaf] = np.array(found, dtype=np.intp)
        return self._straights[leaf]

    @cached_property
    def rising(self) -> NDArray[np.bool_]:
        """Which pieces lift the chips, shape (piece,)."""
        return np.array([isinstance(piece, Straight) and piece.rises for piece in self.pieces], dtype=bool)

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

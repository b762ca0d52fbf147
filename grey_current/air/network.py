"""A collector's ductwork as a tree of branches made of pieces.

A piece is one thing that air passes (a length of duct, an elbow, a gate, the filter). Pieces in
series make a branch; branches meet at junctions; leaves breathe from the room and the root gives
back to it.
"""

from __future__ import annotations

import copy
import itertools
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from grey_current.air import laws, newton
from grey_current.air.gas import Air
from grey_current.air.laws import area
from grey_current.air.pieces import Piece, Straight
from grey_current.air.tables import Slot, Table, slot_of, table_of

Array = NDArray[np.float64]

ROOM = "room"


class Slowest(NamedTuple):
    """Where in a branch chips are carried worst: the share of what they need at 1 m³/s, the piece
    and its place.
    """

    share: float
    place: int
    piece: Straight


@dataclass(frozen=True)
class Branch:
    """Pieces in series from upstream to downstream; `joins` is the branch it ends in, -1 for the
    root.

    `pickup` names the pickup at its upstream end as (machine id, pickup id). What follows from its
    pieces is worked out once: a network that was traced again after an edit has most branches from
    before.
    """

    pieces: tuple[Piece, ...]
    joins: int
    pickup: tuple[str, str] | None = None

    def joining(self, branch: int) -> Branch:
        """The same branch where it joins another one; what is known of its pieces goes with it."""
        if branch == self.joins:
            return self
        made = copy.copy(self)
        object.__setattr__(made, "joins", branch)
        return made

    @cached_property
    def gates(self) -> frozenset[int]:
        """Indices of the gates in it."""
        return frozenset([p.law.index for p in self.pieces if isinstance(p.law, laws.Gate)])

    @cached_property
    def fans(self) -> tuple[laws.Fan | laws.MachineFan, ...]:
        """The fans in it."""
        return tuple([p.law for p in self.pieces if isinstance(p.law, laws.Fan | laws.MachineFan)])

    @cached_property
    def areas(self) -> Array:
        """Cross-section of each piece, m²."""
        return np.array([area(piece.diameter) for piece in self.pieces])

    @cached_property
    def straights(self) -> tuple[Straight, ...]:
        """The ducts and hoses in it."""
        return tuple([piece for piece in self.pieces if isinstance(piece, Straight)])

    @cached_property
    def widest(self) -> tuple[tuple[int, Straight, float], ...]:
        """Where the air in it is slowest: of what lifts the chips, and of what does not, the first
        of the widest.

        Each with its place among the pieces and its cross-section (m²), in the order that air
        passes them.
        """
        found: dict[bool, tuple[int, Straight, float]] = {}
        for place, piece in enumerate(self.pieces):
            if isinstance(piece, Straight) and (
                piece.rises not in found or piece.diameter > found[piece.rises][1].diameter
            ):
                found[piece.rises] = place, piece, area(piece.diameter)
        return tuple(sorted(found.values(), key=lambda one: one[0]))

    def slowest(self, level: float, rising: float) -> Slowest | None:
        """Where chips are carried worst that need `level` and `rising` (m/s); None where no duct or
        hose is in it.
        """
        return min(
            [
                Slowest(1 / area / (rising if piece.rises else level), place, piece)
                for place, piece, area in self.widest
            ],
            key=lambda one: one.share,
            default=None,
        )

    @cached_property
    def _slots(self) -> dict[bool, tuple[Air, tuple[Slot, ...]]]:
        return {}

    def slots(self, air: Air, *, each: bool) -> tuple[Slot, ...]:
        """Its laws in an air: in one slot for the solver, or with a slot for `each` piece."""
        known = self._slots.get(each)
        # The same air is nearly always the very same value, which is quicker to see.
        if known is None or (known[0] is not air and known[0] != air):
            groups = [(piece.law,) for piece in self.pieces] if each else [_lumped(self.pieces)]
            known = self._slots[each] = air, tuple([slot_of(group, air) for group in groups])
        return known[1]


def _lumped(pieces: Sequence[Piece]) -> list[laws.Law]:
    """The laws of some pieces in series, ducts of one bore added up."""
    # Two lengths of one bore lose what their sum does: fewer laws for the solver, the same
    # figures.
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


@dataclass(frozen=True)
class Network:
    """One collector's tree. Branches stand root first; `gates` are gate ids in the scenario's
    order.

    After the gates come the switches of the machines' own fans, as `own_fans` names their pickups.
    """

    collector: str
    branches: tuple[Branch, ...]
    gates: tuple[str, ...]
    air: Air
    own_fans: tuple[tuple[str, str], ...] = ()

    def with_branches(self, changed: Mapping[int, Branch]) -> Network:
        """The same tree with other pieces along some branches: pickups and own fans stand where
        they stood.
        """
        branches = list(self.branches)
        for number, branch in changed.items():
            branches[number] = branch
        made = Network(self.collector, tuple(branches), self.gates, self.air, self.own_fans)
        # What follows from the tree alone is the same value still: handed on, not worked out anew.
        made.__dict__.update(tree=self.tree, leaf_of_pickup=self.leaf_of_pickup)
        if all(branch.gates == self.branches[number].gates for number, branch in changed.items()):
            made.__dict__["gates_of_branch"] = self.gates_of_branch
        # And where chips are carried worst, but for the branches that changed.
        for needs, places in self._slowest.items():
            made._slowest[needs] = [*places]
            for number, branch in changed.items():
                made._slowest[needs][number] = branch.slowest(*needs)
        return made

    @cached_property
    def _slowest(self) -> dict[tuple[float, float], list[Slowest | None]]:
        return {}

    def slowest(self, level: float, rising: float) -> Sequence[Slowest | None]:
        """For each branch, where chips are carried worst that need `level` and `rising` (m/s)."""
        found = self._slowest.get((level, rising))
        if found is None:
            found = self._slowest[level, rising] = [
                branch.slowest(level, rising) for branch in self.branches
            ]
        return found

    @cached_property
    def tree(self) -> newton.Tree:
        return _tree(tuple([branch.joins for branch in self.branches]))

    @cached_property
    def pieces(self) -> tuple[Piece, ...]:
        return tuple(piece for branch in self.branches for piece in branch.pieces)

    @cached_property
    def branch_of_piece(self) -> NDArray[np.intp]:
        counts = [len(branch.pieces) for branch in self.branches]
        return np.repeat(np.arange(len(counts), dtype=np.intp), counts)

    @cached_property
    def areas(self) -> Array:
        """Cross-section of each piece, m²."""
        return np.concatenate([branch.areas for branch in self.branches])

    @cached_property
    def branch_table(self) -> Table:
        """The laws of all branches, a slot each."""
        return self._table(each=False)

    @cached_property
    def piece_table(self) -> Table:
        """The laws of all pieces, a slot each."""
        return self._table(each=True)

    def _table(self, *, each: bool) -> Table:
        slots: list[Slot] = []
        for branch in self.branches:
            slots += branch.slots(self.air, each=each)
        return table_of(slots)

    @cached_property
    def leaf_of_pickup(self) -> dict[tuple[str, str], int]:
        return {branch.pickup: b for b, branch in enumerate(self.branches) if branch.pickup}

    @cached_property
    def gates_of_branch(self) -> tuple[frozenset[int], ...]:
        """For each branch, the gates on the way from it to the fan."""
        found: list[frozenset[int]] = []
        for branch in self.branches:
            # A branch stands after the one it joins, so that what is below it is known.
            below = found[branch.joins] if branch.joins >= 0 else frozenset()
            found.append(below | branch.gates if branch.gates else below)
        return tuple(found)

    @cached_property
    def nodes(self) -> tuple[tuple[str, str], ...]:
        """(from, to) node ids of every piece, in the order of `pieces`."""
        names: list[tuple[str, str]] = []
        # A branch that others join begins at a joint, any other one in the room.
        starts = [
            f"{self.collector}:{b}.0" if group else ROOM
            for b, group in enumerate(self.tree.joining)
        ]
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

    def path(self, leaf: int) -> list[int]:
        """Indices into `pieces` from a leaf branch to the exhaust, in the order that air passes
        them.
        """
        found: list[int] = []
        for branch in self.branch_path(leaf):
            found += self.pieces_of_branch[branch]
        return found

    def branch_path(self, leaf: int) -> list[int]:
        """Indices of the branches from a leaf to the root."""
        return self.tree.way(leaf)

    @cached_property
    def pieces_of_branch(self) -> tuple[range, ...]:
        """For each branch, where its pieces stand in `pieces`."""
        ranges: list[range] = []
        for branch in self.branches:
            first = ranges[-1].stop if ranges else 0
            ranges.append(range(first, first + len(branch.pieces)))
        return tuple(ranges)


@lru_cache(maxsize=64)
def _tree(downstream: tuple[int, ...]) -> newton.Tree:
    """The very same tree for every network of that shape, with all that is known of it."""
    return newton.Tree(downstream)

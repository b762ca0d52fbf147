"""The ways that a duct can take at one height: a grid along the building, with turns as fittings
make them.

A state is a node of the grid and one of eight headings, 45° apart. From a state a duct goes one
step straight on, or turns by 45° or 90° and then goes as far as a fitting wants pipe behind it.
Headings follow the air.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from grey_current.shop.places import XY

Array = NDArray[np.float64]
Ints = NDArray[np.int64]

HEADINGS = 8
# Columns and rows of one step in each heading.
STEPS = ((1, 0), (1, 1), (0, 1), (-1, 1), (-1, 0), (-1, -1), (0, -1), (1, -1))
# m of duct that one would lay to save a turn of 45° or 90°. Allowance.
TURN_COST = {1: 0.25, 2: 0.55}
# How much dearer a metre at 45° to the walls is than one along them: so that no long slants are
# laid, and where a slant may save the air a turn. Allowances.
SQUARE, ACROSS = 2.2, 1.5
STEP = 0.15
# A larger shop gets a coarser grid.
MOST_NODES = 5200
OUTSIDE = -1
# What the search answers for a state that it came to from nowhere.
NO_WAY = -9999


@dataclass(frozen=True)
class Frame:
    """Axes along the building: an origin (m) and how far they are turned from the paper's
    (radians).
    """

    origin: XY
    turn: float

    def place(self, along: Array, across: Array) -> tuple[Array, Array]:
        """Where something at distances (m) along the axes lies on the paper."""
        c, s = math.cos(self.turn), math.sin(self.turn)
        return self.origin[0] + c * along - s * across, self.origin[1] + s * along + c * across

    def heading(self, number: int) -> XY:
        """A heading as a unit vector on the paper."""
        angle = self.turn + number * math.pi / 4
        return math.cos(angle), math.sin(angle)


@dataclass(frozen=True)
class Start:
    """Where a duct may begin: a node, and what the way to there costs (m of duct)."""

    node: int
    cost: float


@dataclass(frozen=True)
class _Edges:
    """The edges of a grid's graph.

    Attributes:
        rows, columns: The states that each leads from and to, in the order of those it leads from.
        costs: m of duct with allowances.
        slots: Where in `_leads_on` it stands whether an edge is there: a grid of which nodes were
            taken out has the same edges, but for those.
    """

    rows: Ints
    columns: Ints
    costs: Array
    slots: Ints


@dataclass
class Lattice:
    """A grid of nodes in the free ground of one height.

    `aslant` is how much dearer a metre at 45° is than one along the walls; `xy` are the nodes'
    places on the paper (n, 2); `next` the node one step on in each heading (8, n), `OUTSIDE` where
    none is or something is in between; `dear` how much dearer than free ground a node is (1 for
    free ground), `tight` where no turn is made (inside a wall).
    """

    frame: Frame
    step: float
    xy: Array
    next: Ints
    dear: Array
    tight: NDArray[np.bool_]
    # m of straight pipe behind each fitting.
    behind: float
    aslant: float
    # Column and row of each node, (n, 2).
    cells: Ints = field(repr=False)
    # The node in each cell, `OUTSIDE` where none is.
    number: Ints = field(repr=False)
    _strides: tuple[tuple[int, Ints], ...] = field(default=(), repr=False)
    _edges: _Edges | None = field(default=None, repr=False)

    @property
    def nodes(self) -> int:
        """How many there are."""
        return len(self.xy)

    def length(self, heading: int) -> float:
        """Length (m) of one step."""
        return self.step * (math.sqrt(2) if heading % 2 else 1.0)

    def worth(self, heading: int) -> float:
        """What one step costs on free ground, in m of duct along the walls."""
        return self.length(heading) * (self.aslant if heading % 2 else 1.0)

    def around(self, nodes: Ints, radius: float) -> Ints:
        """All nodes nearer than a radius (m) to some nodes."""
        # A square of cells round each node, cut to a circle.
        reach = math.ceil(radius / self.step)
        square = np.arange(-reach, reach + 1)
        offsets = np.stack(np.meshgrid(square, square, indexing="ij"), axis=-1).reshape(-1, 2)
        offsets = offsets[np.hypot(offsets[:, 0], offsets[:, 1]) * self.step < radius - 1e-9]
        cells = (self.cells[nodes][:, None, :] + offsets).reshape(-1, 2)
        inside = ((cells >= 0) & (cells < self.number.shape)).all(axis=1)
        found = self.number[cells[inside, 0], cells[inside, 1]]
        return np.unique(found[found >= 0])

    def stride(self, heading: int) -> tuple[int, Ints]:
        """How many steps a fitting wants behind it in a heading, and the node that far on from
        each.
        """
        if not self._strides:
            self._strides = tuple(self._stride(h) for h in range(HEADINGS))
        return self._strides[heading]

    def _stride(self, heading: int) -> tuple[int, Ints]:
        steps = max(1, math.ceil(self.behind / self.length(heading) - 1e-9))
        reached = np.arange(self.nodes)
        for _ in range(steps):
            # Once outside, a step leads nowhere any more.
            reached = np.where(reached >= 0, self.next[heading][np.maximum(reached, 0)], OUTSIDE)
        return steps, reached

    def graph(self, starts: list[list[Start]]) -> Any:
        """The graph of all states, and one more node for each list of starts, from which its first
        legs go out.
        """
        from scipy.sparse import csr_matrix  # noqa: PLC0415 - slow to load, and only a search wants it

        if self._edges is None:
            self._edges = self._all_edges()
        edges = self._edges
        left = self._leads_on().ravel()[edges.slots]
        rows, columns, costs = [edges.rows[left]], [edges.columns[left]], [edges.costs[left]]
        # One more node for each list of starts, with edges to where its first legs end.
        for number, places in enumerate(starts):
            ends, lengths = self._first_legs(places)
            rows.append(np.full(len(ends), self.nodes * HEADINGS + number))
            columns.append(ends)
            costs.append(lengths)
        size = self.nodes * HEADINGS + len(starts)
        # A cost of nothing would be no edge at all in a sparse matrix.
        data = np.maximum(np.concatenate(costs), 1e-9)
        # The edges stand in the order of their rows, so that only where rows begin is counted.
        begins = np.zeros(size + 1, dtype=np.int64)
        np.cumsum(np.bincount(np.concatenate(rows), minlength=size), out=begins[1:])
        return csr_matrix((data, np.concatenate(columns), begins), shape=(size, size))

    def _first_legs(self, places: list[Start]) -> tuple[Ints, Array]:
        """The states where the first legs from some starts end, in their order, and their costs."""
        nodes = np.array([start.node for start in places], dtype=np.int64)
        begun = np.array([start.cost for start in places])
        ends, costs = [], []
        for heading in range(HEADINGS):
            steps, reached = self.stride(heading)
            there = reached[nodes]
            ends.append(there[there >= 0] * HEADINGS + heading)
            costs.append(begun[there >= 0] + steps * self.worth(heading))
        order = np.argsort(np.concatenate(ends))
        return np.concatenate(ends)[order], np.concatenate(costs)[order]

    def _leads_on(self) -> NDArray[np.bool_]:
        """Whether a step leads on from each node in each heading, and whether a turn into that
        heading does, (2, 8, n).
        """
        strides = np.array([self.stride(heading)[1] for heading in range(HEADINGS)])
        return np.stack([self.next >= 0, (strides >= 0) & ~self.tight])

    def _all_edges(self) -> _Edges:
        """All edges of the graph but those of starts, in the order of their rows."""
        rows, columns, costs, slots = [], [], [], []
        leads_on = self._leads_on()
        for heading in range(HEADINGS):
            # A state is a node and the heading by which it was come to: only so does a turn have
            # a price.
            here = np.flatnonzero(leads_on[0, heading])
            onward = self.next[heading][here]
            rows.append(here * HEADINGS + heading)
            columns.append(onward * HEADINGS + heading)
            costs.append(self.worth(heading) * (self.dear[here] + self.dear[onward]) / 2)
            slots.append(heading * self.nodes + here)
            # After a turn a fitting wants straight pipe behind it: a turn leads that far in one go.
            steps, reached = self.stride(heading)
            here = np.flatnonzero(leads_on[1, heading])
            there = reached[here]
            leg = steps * self.worth(heading) * (self.dear[here] + self.dear[there]) / 2
            for turn, cost in TURN_COST.items():
                for sign in (1, -1):
                    rows.append(here * HEADINGS + (heading + sign * turn) % HEADINGS)
                    columns.append(there * HEADINGS + heading)
                    costs.append(leg + cost)
                    slots.append((HEADINGS + heading) * self.nodes + here)
        joined = [np.concatenate(part) for part in (rows, columns, costs, slots)]
        order = np.lexsort((joined[1], joined[0]))
        return _Edges(*[part[order] for part in joined])

    def ways(self, starts: list[list[Start]]) -> list[ShortestPaths]:
        """For each list of starts, the cheapest ways from it to every state."""
        from scipy.sparse.csgraph import dijkstra  # noqa: PLC0415 - as above

        if not starts:
            return []
        first, graph = self.nodes * HEADINGS, self.graph(starts)
        found = []
        # One at a time: the search holds the interpreter while it goes on.
        for number, places in enumerate(starts):
            costs, before = dijkstra(graph, indices=first + number, return_predecessors=True)
            found.append(ShortestPaths(self, costs[:first], before, {s.node: s for s in places}))
        return found

    def without(self, nodes: Iterable[int]) -> Lattice:
        """The same grid with some nodes taken out of use."""
        gone = np.zeros(self.nodes, dtype=bool)
        gone[list(nodes)] = True
        # Neither from a node that is gone nor to one; the numbers of the others stay.
        kept = np.where(gone[None, :] | gone[np.maximum(self.next, 0)], OUTSIDE, self.next)
        return replace(self, next=kept, _strides=())

    def heading_between(self, a: int, b: int) -> int:
        """The heading from one node to another that lies straight on from it."""
        (ax, ay), (bx, by) = self.xy[a], self.xy[b]
        angle = math.atan2(by - ay, bx - ax) - self.frame.turn
        return round(angle / (math.pi / 4)) % HEADINGS

    def straight(self, a: int, heading: int, b: int) -> list[int]:
        """The nodes after `a` in a heading, up to `b`."""
        found, node = [], a
        while node != b:
            node = int(self.next[heading][node])
            found.append(node)
        return found


@dataclass(frozen=True)
class ShortestPaths:
    """The cheapest ways from some starts to every state: their costs (m of duct with allowances),
    and how they went.
    """

    lattice: Lattice
    cost: Array
    before: Ints
    first: dict[int, Start]

    def way_to(self, state: int) -> list[tuple[int, int]]:
        """Each node of the way to a state with the heading by which it is left; the last with that
        of the state.
        """
        lattice = self.lattice
        last, chain = lattice.nodes * HEADINGS, [state]
        # The search remembers where it came from: back to the start, then turned round.
        while (previous := int(self.before[chain[-1]])) < last:
            chain.append(previous)
        chain.reverse()
        node, heading = divmod(chain[0], HEADINGS)
        way = self._first_leg(node, heading)
        for one in chain[1:]:
            after, heading = divmod(one, HEADINGS)
            way += [(n, heading) for n in [node, *lattice.straight(node, heading, after)[:-1]]]
            node = after
        return [*way, (node, state % HEADINGS)]

    def _first_leg(self, node: int, heading: int) -> list[tuple[int, int]]:
        """From the start to the first state, without that state's own node."""
        steps, _ = self.lattice.stride(heading)
        back = (heading + HEADINGS // 2) % HEADINGS
        way = [node]
        for _ in range(steps):
            way.append(int(self.lattice.next[back][way[-1]]))
        return [(n, heading) for n in reversed(way[1:])]


def lattice(
    free: Any,
    origin: XY,
    turn: float,
    behind: float,
    dear: Any = None,
    tight: Any = None,
    hug: float = 0.0,
    aslant: float = SQUARE,
) -> Lattice:
    """The grid in some free ground (shapely, m), one of whose nodes is the origin.

    Parameters
    ----------
    free
        Where a duct's centre line may lie.
    origin, turn
        A node of the grid (m), and the turn of the building's axes (radians).
    behind
        m of straight pipe behind each fitting.
    dear, tight
        Ground that costs three times as much to lie in, and ground in which no turn is made.
    hug
        How much dearer each metre away from the edge of the free ground makes a step.
    aslant
        How much dearer a metre at 45° to the axes is than one along them.

    Raises nothing; ground with no node in it gives a grid without any.
    """
    frame = Frame(origin, turn)
    # A large shop gets a coarser grid, so that the search stays quick.
    step = max(STEP, math.sqrt(free.area / MOST_NODES))
    columns, rows = _span(free, frame, step)
    grid = np.stack(np.meshgrid(columns, rows, indexing="ij"), axis=-1).reshape(-1, 2)
    x, y = frame.place(*(grid.T * step).astype(np.float64))
    shapely.prepare(free)
    inside = shapely.intersects_xy(free, x, y)
    number = np.where(inside, np.cumsum(inside) - 1, OUTSIDE).reshape(len(columns), len(rows))
    xy = np.column_stack([x[inside], y[inside]])
    onward = _neighbours(free, number, inside, xy)
    cost = np.ones(len(xy))
    if dear is not None and not dear.is_empty:
        cost = np.where(shapely.intersects_xy(dear, xy[:, 0], xy[:, 1]), 3.0, cost)
    # Nodes far from the walls cost more, so that mains follow the walls.
    if hug:
        cost = cost + hug * shapely.distance(free.boundary, shapely.points(xy))
    if tight is None:
        inner = np.zeros(len(xy), dtype=bool)
    else:
        inner = shapely.intersects_xy(tight, xy[:, 0], xy[:, 1])
    cells = np.stack(
        np.meshgrid(np.arange(len(columns)), np.arange(len(rows)), indexing="ij"), axis=-1
    ).reshape(-1, 2)
    return Lattice(frame, step, xy, onward, cost, inner, behind, aslant, cells[inside], number)


def _span(free: Any, frame: Frame, step: float) -> tuple[Ints, Ints]:
    """The columns and rows that cover some ground."""
    corners = shapely.get_coordinates(free.envelope) - np.array(frame.origin)
    c, s = math.cos(frame.turn), math.sin(frame.turn)
    along, across = corners @ np.array([c, s]), corners @ np.array([-s, c])
    spans = [
        (math.floor(v.min() / step), math.ceil(v.max() / step)) for v in (along, across) if v.size
    ]
    if not spans:
        return np.arange(0), np.arange(0)
    return np.arange(spans[0][0], spans[0][1] + 1), np.arange(spans[1][0], spans[1][1] + 1)


def _neighbours(free: Any, number: Ints, inside: NDArray[np.bool_], xy: Array) -> Ints:
    """The node one step on in each heading, where the way there lies in the free ground."""
    found = np.full((HEADINGS, len(xy)), OUTSIDE)
    wide = np.full((number.shape[0] + 2, number.shape[1] + 2), OUTSIDE)
    wide[1:-1, 1:-1] = number
    # Half of the headings: the way back is free where the way there is.
    for heading in range(HEADINGS // 2):
        dx, dy = STEPS[heading]
        beyond = wide[1 + dx : wide.shape[0] - 1 + dx, 1 + dy : wide.shape[1] - 1 + dy].reshape(-1)[
            inside
        ]
        here = np.flatnonzero(beyond >= 0)
        there = beyond[here]
        a, b = xy[here], xy[there]
        clear = np.ones(len(here), dtype=bool)
        # Three points between two nodes are close enough at this step for anything that a duct must
        # not pass.
        for share in (0.25, 0.5, 0.75):
            between = a + (b - a) * share
            clear &= shapely.intersects_xy(free, between[:, 0], between[:, 1])
        found[heading][here[clear]] = there[clear]
        found[heading + HEADINGS // 2][there[clear]] = here[clear]
    return found

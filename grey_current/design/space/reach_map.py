"""Where on the floor the free end of a hose can be brought, to sweep up with it or to reach a
hand tool: its length, less what it takes to hang down, laid round what stands there.

Source of the shortest ways: Dijkstra, A Note on Two Problems in Connexion with Graphs, 1959, over a
grid with sixteen directions, which is at most 2.8 % longer than a straight line.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import dijkstra

from grey_current.design.space.ground import FloorSpace
from grey_current.shop.ducts import Run
from grey_current.shop.hoses import HOSE_SLACK
from grey_current.shop.model import Project
from grey_current.shop.places import distance, position

# Cells of the grid at most, and m of a cell at least.
MOST_CELLS, FINEST = 3600, 0.1
# m over the floor at which the nozzle is; what is lower than a step is swept over. Allowances.
NOZZLE, A_STEP = 0.1, 0.15
# Steps of the grid in all directions that differ: straight, aslant, and as a knight goes.
STEPS = ((1, 0), (0, 1), (1, 1), (1, -1), (2, 1), (1, 2), (2, -1), (1, -2))
# Cells round its fixed end that a hose lies straight to.
NEAR = 2.5
Strip = tuple[float, float, float, float]


@dataclass(frozen=True)
class ReachMap:
    """What a hose reaches of the floor: how much of the open floor (m²), out of how much, and where
    as strips (left, low, right, high; m).
    """

    reached: float
    floor: float
    strips: tuple[Strip, ...]

    @property
    def share(self) -> float:
        """The share of the open floor that is reached."""
        return self.reached / self.floor if self.floor > 0 else 0.0


def reach_map(project: Project, space: FloorSpace, run: Run) -> ReachMap | None:
    """What the free end of a hose reaches of the floor; None for a hose that ends nowhere fixed.

    It is the end at a pickup that is taken off; the other one stays. Round machines and walls, and
    through doors. Raises nothing.
    """
    fixed = next((end for end in run.ends if end not in project.pickup), None)
    if fixed is None or not project.rooms:
        return None
    x, y, height = position(project, fixed)
    length = (run.length or distance(project, run)) / HOSE_SLACK
    flat = math.sqrt(max(length**2 - max(height - NOZZLE, 0.0) ** 2, 0.0))
    if run.hung is not None:
        # Up to where it hangs, level, and down again.
        flat = max(length - max(run.hung - height, 0.0) - max(run.hung - NOZZLE, 0.0), 0.0)
    floor = _open_floor(space)
    cell, centres, inside = _grid(floor)
    if not inside.any():
        return None
    far = _distances(centres, inside, cell, (x, y))
    reached = inside & (far <= flat)
    # The grid says which share is reached; how much floor there is is known without it.
    whole = float(floor.area)
    share = float(reached.sum() / inside.sum())
    return ReachMap(share * whole, whole, tuple(_strips(centres, reached, cell)))


def _open_floor(space: FloorSpace) -> Any:
    """The floor on which nothing stands that a nozzle does not pass over or under."""
    standing = [body.shape for body in space.bodies() if body.bottom < NOZZLE and body.top > A_STEP]
    return space.floor.difference(shapely.union_all(standing)) if standing else space.floor


def _grid(floor: Any) -> tuple[float, NDArray[np.float64], NDArray[np.bool_]]:
    """The size of a cell (m), the middles of all cells (rows, columns, 2), and which are floor."""
    left, low, right, high = shapely.bounds(floor)
    wide, deep = max(right - left, FINEST), max(high - low, FINEST)
    cell = max(FINEST, math.sqrt(wide * deep / MOST_CELLS))
    columns, rows = math.ceil(wide / cell), math.ceil(deep / cell)
    # As much over on either side, so that a shop turned round is seen as it was.
    xs = (left + right) / 2 + cell * (np.arange(columns) - (columns - 1) / 2)
    ys = (low + high) / 2 + cell * (np.arange(rows) - (rows - 1) / 2)
    centres = np.stack(np.meshgrid(xs, ys), axis=-1)
    shapely.prepare(floor)
    inside = shapely.contains_xy(floor, centres[..., 0], centres[..., 1])
    return cell, centres, np.asarray(inside, dtype=bool)


def _distances(
    centres: NDArray[np.float64], inside: NDArray[np.bool_], cell: float, start: tuple[float, float]
) -> NDArray[np.float64]:
    """M from a place to every cell, round what is no floor; infinite where no way leads."""
    rows, columns = inside.shape
    number = np.arange(rows * columns).reshape(rows, columns)
    ends, lengths = [], []
    for dx, dy in STEPS:
        here, there = _shifted(number, dx, dy)
        free = _shifted(inside, dx, dy)
        passes = free[0] & free[1]
        # A knight's step passes between two cells: both have to be free.
        if abs(dx) + abs(dy) == 3:
            sx, sy = int(math.copysign(1, dx)), int(math.copysign(1, dy))
            beside = ((sx, 0), (sx, sy)) if abs(dx) == 2 else ((0, sy), (sx, sy))
            for bx, by in beside:
                passes = passes & _beside(inside, dx, dy, bx, by)
        elif dx and dy:
            passes = passes & (_beside(inside, dx, dy, dx, 0) | _beside(inside, dx, dy, 0, dy))
        ends.append(np.stack([here[passes], there[passes]]))
        lengths.append(np.full(int(passes.sum()), cell * math.hypot(dx, dy)))
    # The place itself is one more node, from which the floor round it is reached straight.
    straight = np.hypot(centres[..., 0] - start[0], centres[..., 1] - start[1])
    straight = np.where(inside, straight, np.inf)
    near = number[straight <= straight.min() + NEAR * cell]
    ends.append(np.stack([np.full(near.size, number.size), near]))
    lengths.append(straight.reshape(-1)[near])
    (a, b), along = np.concatenate(ends, axis=1), np.concatenate(lengths)
    graph = coo_array((along, (a, b)), shape=(number.size + 1, number.size + 1)).tocsr()
    far = dijkstra(graph, directed=False, indices=number.size)[:-1]
    return np.asarray(far.reshape(rows, columns), dtype=float)


def _shifted(values: NDArray[Any], dx: int, dy: int) -> tuple[NDArray[Any], NDArray[Any]]:
    """The values of all cells that have a neighbour `dx` to the right and `dy` up, and those of the
    neighbours.
    """
    rows, columns = values.shape
    here = values[max(-dy, 0) : rows - max(dy, 0), max(-dx, 0) : columns - max(dx, 0)]
    there = values[max(dy, 0) : rows - max(-dy, 0), max(dx, 0) : columns - max(-dx, 0)]
    return here, there


def _beside(inside: NDArray[np.bool_], dx: int, dy: int, bx: int, by: int) -> NDArray[np.bool_]:
    """Whether the cell `bx`, `by` from each such cell is floor."""
    rows, columns = inside.shape
    low, left = max(-dy, 0), max(-dx, 0)
    high, right = rows - max(dy, 0), columns - max(dx, 0)
    return inside[low + by : high + by, left + bx : right + bx]


def _strips(centres: NDArray[np.float64], reached: NDArray[np.bool_], cell: float) -> list[Strip]:
    """The reached cells, those of a row that touch put together."""
    found: list[Strip] = []
    half = cell / 2
    for row, cells in zip(centres, reached, strict=True):
        edges = np.flatnonzero(np.diff(np.concatenate(([0], cells.astype(int), [0]))))
        for first, end in zip(edges[::2], edges[1::2], strict=True):
            left, y = row[first]
            found.append(
                (
                    float(left - half),
                    float(y - half),
                    float(row[end - 1][0] + half),
                    float(y + half),
                )
            )
    return found

"""Snapping: where a dragged thing comes to rest by walls, neighbours and the grid. Pure functions,
metres.
"""

from __future__ import annotations

from collections.abc import Iterable

from grey_current.shop.collectors import Collector
from grey_current.shop.edits import part_of
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.places import footprint, stood_apart
from grey_current.shop.room import Feature, Room, walls_of

Box = tuple[float, float, float, float]


def box_of(item: object) -> Box | None:
    """Left, low, right and high edge of something with a ground plan; None for anything else."""
    if isinstance(item, Machine | Collector):
        corners = footprint(item)
    elif isinstance(item, Feature | Room):
        corners = item.outline
    else:
        return None
    xs, ys = zip(*corners, strict=True)
    return min(xs), min(ys), max(xs), max(ys)


def _thing(project: Project, ident: str) -> object:
    """What an id names; what stands by itself of a collector is a body of its own."""
    named = part_of(project, ident)
    return project.element.get(ident) if named is None else stood_apart(*named)


def snapped(
    project: Project, idents: Iterable[str], dx: float, dy: float, reach: float, step: float
) -> tuple[float, float]:
    """A move (dx, dy) of some things, drawn to what is near: walls and neighbours within `reach`,
    else the grid.

    The edges of what moves snap to walls and to neighbours' edges, its centre to neighbours'
    centres. Without anything near, the move is a whole number of `step`.
    """
    chosen = set(idents)
    boxes = [b for b in (box_of(_thing(project, i)) for i in chosen) if b]
    if not boxes:
        return round(dx / step) * step, round(dy / step) * step
    left, low = min(b[0] for b in boxes), min(b[1] for b in boxes)
    right, high = max(b[2] for b in boxes), max(b[3] for b in boxes)
    # To walls and to the edges and middles of what stands near.
    edges_x, edges_y = _wall_lines(project, chosen)
    middles_x: list[float] = []
    middles_y: list[float] = []
    others: tuple[Machine | Collector | Feature, ...] = (
        *project.machines,
        *project.collectors,
        *project.features,
    )
    for item in others:
        other = box_of(item)
        if item.id not in chosen and other:
            edges_x += [other[0], other[2]]
            edges_y += [other[1], other[3]]
            middles_x.append((other[0] + other[2]) / 2)
            middles_y.append((other[1] + other[3]) / 2)
    return (
        _drawn((left, right), edges_x, middles_x, dx, reach, step),
        _drawn((low, high), edges_y, middles_y, dy, reach, step),
    )


def _wall_lines(project: Project, without: set[str]) -> tuple[list[float], list[float]]:
    """X of upright walls and y of level ones, of rooms that do not move themselves."""
    sides = walls_of(room for room in project.rooms if room.id not in without)
    return [a[0] for a, b in sides if abs(a[0] - b[0]) < 1e-6], [
        a[1] for a, b in sides if abs(a[1] - b[1]) < 1e-6
    ]


def _drawn(
    span: tuple[float, float],
    edges: list[float],
    middles: list[float],
    move: float,
    reach: float,
    step: float,
) -> float:
    middle = (span[0] + span[1]) / 2
    wanted = [target - edge for target in edges for edge in span] + [
        target - middle for target in middles
    ]
    near = min(wanted, key=lambda w: abs(w - move), default=None)
    if near is not None and abs(near - move) <= reach:
        return near
    return round(move / step) * step

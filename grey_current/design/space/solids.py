"""Everything that stands in a shop as solids: a ground plan, from one height to another."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import shapely

from grey_current.design.space.outlines import plan
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine
from grey_current.shop.places import XY, footprint, own_bodies, parts_apart, standing
from grey_current.shop.room import HOT, Feature
from grey_current.shop.stacking import TOUCH, WING, table_of, top_of

# m square of a leg, and m² of ground that two parts of one thing may share. Allowances.
LEG, IN_ITSELF = 0.07, 1e-3


@dataclass(frozen=True)
class Block:
    """Something solid: its id, ground plan, and from which height (m) to which it goes, infinite
    for up to the ceiling.

    Over something `hot` no board is fed, however low it is.
    """

    ident: str
    shape: Any
    bottom: float
    top: float
    wheeled: bool = False
    hot: bool = False

    def meets(self, bottom: float, top: float) -> bool:
        """Whether it takes room between two heights (m); touching is none."""
        return min(self.top, top) - max(self.bottom, bottom) > TOUCH


def blocks(item: Machine | Collector | Feature) -> tuple[Block, ...]:
    """The solids that something is made of: a bench or stand with room under it of its top and
    legs, a table with wings of its body and those.
    """
    if isinstance(item, Feature):
        return tuple(_of_feature(item))
    if isinstance(item, Collector):
        return tuple(
            Block(item.id, plan(footprint(body)), body.bottom, top_of(body), item.wheels)
            for body in own_bodies(item)
        )
    return tuple(_of_machine(item))


def in_itself(item: Machine | Collector) -> tuple[Collector, ...]:
    """What stands by itself of a collector and takes the room of its fan or of its other part."""
    # The solids stand in the order of the bodies, the fan's first.
    solids = blocks(item)
    return tuple(
        body
        for number, (_, body) in enumerate(parts_apart(item), 1)
        if any(
            solids[number].meets(other.bottom, other.top)
            and solids[number].shape.intersection(other.shape).area > IN_ITSELF
            for other in solids[:number]
        )
    )


def _of_feature(item: Feature) -> Iterator[Block]:
    shape, hot = plan(item.outline), item.kind in HOT
    yield Block(item.id, shape, item.bottom, top_of(item), item.wheels, hot)
    if item.kind == "bench" and item.bottom > 0:
        yield Block(item.id, _legs(item.outline), 0.0, item.bottom, item.wheels)


def _of_machine(item: Machine) -> Iterator[Block]:
    bottom, top, on = item.bottom, top_of(item), item.wheels
    left, right = item.left_wing, item.right_wing
    body = footprint(item)
    if left or right:
        table = table_of(item)
        half, deep = item.width / 2, item.depth / 2
        body = _part(item, -half + left, half - right, deep)
        for low, high in ((-half, -half + left), (half - right, half)):
            if high > low:
                wing = plan(_part(item, low, high, deep))
                # A wing is thinner where as much is said to be free under the body.
                under = max(table - WING, min(bottom + item.under, table))
                yield Block(item.id, wing, under, table, on)
    yield Block(item.id, plan(body), bottom + item.under, top, on)
    if item.under > 0:
        yield Block(item.id, _legs(body), bottom, bottom + item.under, on)


def _part(item: Machine, low: float, high: float, deep: float) -> tuple[XY, ...]:
    """A part of a machine's footprint across its width, from one side to another (m)."""
    corners = ((low, -deep), (high, -deep), (high, deep), (low, deep))
    return tuple(standing(item.x, item.y, item.turn, dx, dy) for dx, dy in corners)


@lru_cache(maxsize=512)
def _legs(outline: tuple[XY, ...]) -> Any:
    """The ground plan of legs at the corners of an outline."""
    shape = plan(outline)
    squares = [shapely.box(x - LEG, y - LEG, x + LEG, y + LEG) for x, y in outline]
    return shapely.union_all([square.intersection(shape) for square in squares])

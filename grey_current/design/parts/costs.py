"""Money: what parts cost by the project's own price book, and what has no price."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from grey_current.design.parts.parts_list import Part, PartsList
from grey_current.shop.build_plan import Price
from grey_current.shop.model import Project
from grey_current.shop.of_last import OfLast

# Pipe bought over pipe used, where lengths are not laid out yet. Allowance.
WASTE = 1.1
# Beginnings of keys of parts that nobody sells: their material is in their own cut lists.
FREE = ("made/",)


def prices(project: Project) -> dict[str, Price]:
    """The project's prices in its own currency, by part key."""
    return {
        item.key: item for item in project.build.prices if item.currency == project.build.currency
    }


@dataclass(frozen=True)
class Cost:
    """A sum of money, and the keys of the parts that it leaves out because they have no price."""

    money: float
    unpriced: tuple[str, ...] = ()

    @property
    def known(self) -> bool:
        """Whether nothing is left out."""
        return not self.unpriced


def unit_price(book: Mapping[str, Price], key: str) -> float | None:
    """The price of one unit of a part; None when there is none. Pipe by the metre costs what the
    best length does.
    """
    if key.startswith(FREE):
        return 0.0
    exact = book.get(key)
    if exact is not None:
        return exact.price
    # A metre costs what the cheapest length of it comes to.
    if key.startswith("pipe/"):
        start = key.replace("pipe/", "length/", 1) + "/"
        return min(
            (
                item.price / (float(k[len(start) :]) / 1000)
                for k, item in book.items()
                if k.startswith(start)
            ),
            default=None,
        )
    return None


def cost_of(book: Mapping[str, Price], parts: Iterable[Part]) -> Cost:
    """What parts cost, pipe by the metre with some waste. Raises nothing."""
    sums: list[float] = []
    missing: list[str] = []
    for part in parts:
        price = unit_price(book, part.key)
        if price is None:
            missing.append(part.key)
        else:
            sums.append(price * part.quantity * (WASTE if part.key.startswith("pipe/") else 1.0))
    return Cost(math.fsum(sums), tuple(missing))


def shop_cost(project: Project) -> float | None:
    """What all parts of a design that have a price cost; None where the project has no prices at
    all.
    """
    if not project.build.prices:
        return None
    return cost_of(prices(project), PartsList(project).parts).money


# How many units of each part a design wants: one change after the other is held against it.
_quantities = OfLast(lambda project: {part.key: part.quantity for part in PartsList(project).parts})


def extra_cost(before: Project, after: Project) -> Cost | None:
    """What a change costs: the parts that it wants and the shop as it is has not. None where there
    are no prices.

    What is no longer wanted brings nothing back. Raises nothing.
    """
    if not before.build.prices:
        return None
    had = _quantities(before)
    more = [
        Part(part.key, part.quantity - had.get(part.key, 0.0), part.uses)
        for part in PartsList(after).parts
        if part.quantity > had.get(part.key, 0.0) + 1e-9
    ]
    return cost_of(prices(before), more)

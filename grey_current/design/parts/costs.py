"""Money: what parts cost by the project's own price book, and what has no price."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from grey_current.design.parts.besides import bought_besides
from grey_current.design.parts.packs import in_packs
from grey_current.design.parts.parts_list import Part, PartsList, gathered
from grey_current.shop.build_plan import Price
from grey_current.shop.model import Project
from grey_current.shop.of_last import OfLast
from grey_current.shop.usual_prices import Usual, usual_price, usual_prices

# Pipe bought over pipe used, where lengths are not laid out yet. Allowance.
WASTE = 1.1
# Beginnings of keys of parts that nobody sells: their material is in their own cut lists.
FREE = ("made/",)


@dataclass(frozen=True)
class PriceBook:
    """A project's own prices in its currency, by part key; behind them stand the usual ones."""

    own: Mapping[str, Price]
    currency: str
    # Whether one counts in feet, by which things are packed.
    us: bool = False

    def usual(self, key: str) -> Usual | None:
        """The range that a part usually costs in, where the project has no price of its own."""
        return None if self.own_price(key) is not None else usual_price(key, self.currency)

    def own_price(self, key: str) -> float | None:
        """The project's own price of one unit of a part. Pipe by the metre costs what the best
        length does.
        """
        if key.startswith(FREE):
            return 0.0
        exact = self.own.get(key)
        if exact is not None:
            return exact.price
        if not key.startswith("pipe/"):
            return None
        start = key.replace("pipe/", "length/", 1) + "/"
        by_metre = [
            item.price / (float(k[len(start) :]) / 1000)
            for k, item in self.own.items()
            if k.startswith(start)
        ]
        return min(by_metre, default=None)


def prices(project: Project) -> PriceBook:
    """The prices that a project counts with."""
    currency = project.build.currency
    own = {item.key: item for item in project.build.prices if item.currency == currency}
    return PriceBook(own, currency, project.settings.units == "us")


@dataclass(frozen=True)
class Cost:
    """A sum of money, the keys of the parts that it leaves out because they have no price, and how
    much of it rests on usual prices.
    """

    money: float
    unpriced: tuple[str, ...] = ()
    by_usual: float = 0.0

    @property
    def known(self) -> bool:
        """Whether nothing is left out."""
        return not self.unpriced


def unit_price(book: PriceBook, key: str) -> float | None:
    """The price of one unit of a part, the project's own or the usual one; None when there is
    neither.
    """
    own = book.own_price(key)
    if own is not None:
        return own
    usual = book.usual(key)
    return usual.usual if usual is not None else None


def cost_of(book: PriceBook, parts: Iterable[Part]) -> Cost:
    """What parts cost, pipe by the metre with some waste, other things in whole packs. Raises
    nothing.
    """
    sums: list[float] = []
    usual: list[float] = []
    missing: list[str] = []
    for part in parts:
        price = unit_price(book, part.key)
        if price is None:
            missing.append(part.key)
            continue
        bought = in_packs(part.key, part.uses, part.quantity, us=book.us)
        sums.append(price * bought * (WASTE if part.key.startswith("pipe/") else 1.0))
        if book.own_price(part.key) is None:
            usual.append(sums[-1])
    return Cost(math.fsum(sums), tuple(missing), math.fsum(usual))


def shop_cost(project: Project) -> float | None:
    """What all parts of a design cost; None where no part has a price."""
    parts = PartsList(project).parts
    cost = cost_of(prices(project), parts)
    return cost.money if len(cost.unpriced) < len(parts) else None


# How many units of each part a design wants: one change after the other is held against it.
_quantities = OfLast(lambda project: {part.key: part.quantity for part in PartsList(project).parts})


def extra_cost(before: Project, after: Project) -> Cost | None:
    """What a change costs: the parts that it wants and the shop as it is has not. None where no
    prices are known in the shop's currency.

    What is no longer wanted brings nothing back. Raises nothing.
    """
    if not before.build.prices and before.build.currency not in usual_prices().currencies:
        return None
    had = _quantities(before)
    more = list(gathered(bought_besides(before, after)))
    more += [
        Part(part.key, part.quantity - had.get(part.key, 0.0), part.uses)
        for part in PartsList(after).parts
        if part.quantity > had.get(part.key, 0.0) + 1e-9
    ]
    return cost_of(prices(before), more)

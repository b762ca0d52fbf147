"""What parts usually cost, until real prices are typed or read: allowances with a year, by kind of
part, material and bore, each with a range.
"""

from __future__ import annotations

import json
import re
from functools import cache, lru_cache
from importlib.resources import files
from typing import Annotated, NamedTuple

from pydantic import Field

from grey_current.shop.values import Value

Sum = Annotated[float, Field(gt=0, le=1e5)]


class Rule(Value):
    """The usual price of a kind of part with a bore of 100 mm, and the power of the bore by which
    it grows; `material` is "" for any.
    """

    kind: str
    material: str
    at_100_mm: Sum
    grows: Annotated[float, Field(ge=0, le=3)]


class UsualPrices(Value):
    """What the file of usual prices holds.

    Attributes:
        currencies: What one of the file's units is in each currency.
        low, high: The range over the usual price.
        collectors: By the end of their part keys.
    """

    year: int
    source: str
    currencies: dict[str, float]
    low: float
    high: float
    rules: tuple[Rule, ...]
    collectors: dict[str, Sum]


class Usual(NamedTuple):
    """A price range: low, usual and high, for one unit of a part."""

    low: float
    usual: float
    high: float


@cache
def usual_prices() -> UsualPrices:
    """The shipped prices."""
    text = (files("grey_current.shop") / "data" / "usual_prices.json").read_text(encoding="utf-8")
    return UsualPrices.model_validate(json.loads(text))


@lru_cache(maxsize=2048)
def usual_price(key: str, currency: str) -> Usual | None:
    """The range that one unit of a part usually costs in; None for a part or a currency that is not
    known.
    """
    known = usual_prices()
    rate, price = known.currencies.get(currency), _price(key)
    if rate is None or price is None:
        return None
    usual = price * rate
    return Usual(usual * known.low, usual, usual * known.high)


def _price(key: str) -> float | None:
    kind, _, rest = key.partition("/")
    if kind == "collector":
        return usual_prices().collectors.get(rest)
    words = rest.split("/")
    if kind == "length":
        # A length of pipe costs what its metres do.
        metres = float(words[2]) / 1000 if len(words) > 2 and words[2].isdigit() else 0.0
        by_metre = _price(f"pipe/{words[0]}/{words[1]}") if metres else None
        return None if by_metre is None else by_metre * metres
    for rule in usual_prices().rules:
        if rule.kind == kind and rule.material in ("", words[0]):
            return float(rule.at_100_mm * (_bore(words) / 100) ** rule.grows)
    return None


def _bore(words: list[str]) -> float:
    """The largest bore (mm) that a key names: the first of its words that are sizes."""
    sizes = next((word for word in words if re.fullmatch(r"\d+(-\d+)*", word)), "100")
    return max(float(size) for size in sizes.split("-"))

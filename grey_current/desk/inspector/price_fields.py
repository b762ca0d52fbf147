"""A part's price as a field, wherever one is asked for it."""

from __future__ import annotations

from grey_current.build.selling import sold_by
from grey_current.design.parts.costs import prices, unit_price
from grey_current.desk.inspector.fields import NOTHING, TextField
from grey_current.errors import InputError
from grey_current.numerals import decimal
from grey_current.shop.build_edits import with_price
from grey_current.shop.model import Project
from grey_current.units import Display, parse_money

SIGNS = "$€£"


def read_money(text: str, where: str) -> float | None:
    """A sum of money as it is typed; None for nothing. Raises `InputError` for anything else."""
    bare = text.strip().strip(SIGNS).strip()
    if bare.lower() in NOTHING or bare.lower() == "no price":
        return None
    bare = bare[:-3] if bare[-3:].isalpha() else bare
    try:
        return parse_money(bare.strip().strip(SIGNS), where)
    except ValueError:
        raise InputError(
            where, text, "write a price such as 12.50, or nothing to clear it"
        ) from None


def price_field(project: Project, key: str, label: str) -> TextField:
    """What one unit of a part costs, in the unit that it is sold by."""
    sold = sold_by(key, Display(project.settings.units))
    size = sold.size
    book = prices(project)
    now, usual = unit_price(book, key), book.usual(key)
    currency = project.build.currency

    def say(value: float | None) -> str:
        return "no price" if value is None else f"{decimal(value, 2)} {currency}"

    return TextField(
        f"price/{key}",
        f"{label}{sold.each}",
        ("about " if usual is not None else "") + say(None if now is None else now * size),
        step="Change a price",
        read=lambda text: read_money(text, label),
        edit=lambda p, v: with_price(p, key, None if v is None else v / size),
        say=say,
    )

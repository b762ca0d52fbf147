"""Quantities and money of the bill in words, the same on screen, paper and command line."""

from __future__ import annotations

from grey_current.build.bill import Bill, Line
from grey_current.build.selling import sold_by
from grey_current.design.parts.joint_words import misfit_words, unsold_words
from grey_current.design.parts.keys import part_words
from grey_current.design.parts.packs import packs_of
from grey_current.design.parts.parts_list import Part
from grey_current.numerals import compact, decimal
from grey_current.shop.names import Names
from grey_current.shop.usual_prices import usual_prices
from grey_current.units import Display

# Share of a total by entered prices from which on it is said.
LEAST_KNOWN = 0.005
# From here on a guess is told in whole units of money.
WHOLE = 10.0


def quantity_words(part: Part, display: Display) -> str:
    """How much of a part, as one asks for it."""
    unit = sold_by(part.key, display)
    if part.unit == "piece":
        return compact(part.quantity)
    places = 1 if part.unit == "m" else 2
    return f"{decimal(part.quantity / unit.size, places)} {unit.name}"


def bought_words(line: Line, display: Display) -> str:
    """A part with the packs in which what is left of it is bought: "Hose 5 in, ribbed; buy 1 × 10
    ft".
    """
    name, packs = part_words(line.part.key, display), packs_words(line, display)
    return f"{name}; buy {packs}" if packs else name


def packs_words(line: Line, display: Display) -> str:
    """The packs in which what is left of a part is bought; empty for what is not packed."""
    unit, how = sold_by(line.part.key, display), packs_of(line.part.key)
    found = []
    for size, count in sorted(line.packs(line.left).items(), reverse=True):
        by_length = line.part.unit != "piece"
        figure = f"{compact(size / unit.size, 3)} {unit.name}" if by_length else compact(size)
        called = f"{how.name} {figure}" if how is not None and how.name else figure
        found.append(f"{count} × {called}")
    return " and ".join(found)


def money_words(money: float | None, currency: str, digits: int = 2) -> str:
    """A sum of money, or that it is not known."""
    return "no price" if money is None else f"{decimal(money, digits)} {currency}"


def misfits(found: Bill) -> list[str]:
    """What cannot be put together as drawn, or is not sold, a sentence each."""
    names, display = Names(found.parts.project), Display(found.parts.project.settings.units)
    return [
        f"No room for pipe in {names.of(piece.run)}: its fittings are "
        f"{display.length(-piece.free)} too long together."
        for piece in found.parts.straights
        if not piece.fits
    ] + [
        *(misfit_words(misfit, names, display) for misfit in found.parts.joints.misfits),
        *(unsold_words(unsold, names) for unsold in found.parts.joints.unsold),
    ]


def _about_words(found: Bill, currency: str) -> str:
    """What it costs about, where some prices are only the usual ones."""
    low, high = (round(money, -1) for money in found.range)
    words = f"About {decimal(round(found.total, -1))} {currency}, "
    words += f"likely {decimal(low)} to {decimal(high)}"
    if found.left_to_buy < found.total - 0.5:
        words += f", about {decimal(round(found.left_to_buy, -1))} left to buy"
    year = usual_prices().year
    known = 1 - found.by_usual / found.total
    if known < LEAST_KNOWN:
        return f"{words}, by usual prices of {year} until you enter real ones."
    entered = "made-up prices of the demo" if found.made_up else "prices that are entered"
    return f"{words}: {known:.0%} by {entered}, the rest by usual ones of {year}."


def line_money(line: Line, currency: str) -> str:
    """What a line of the bill comes to; "about" where its price is only the usual one."""
    if line.usual is None:
        return money_words(line.sum, currency)
    return f"about {money_words(line.sum, currency, about_digits(line.sum or 0.0))}"


def about_digits(money: float) -> int:
    """How many digits behind the mark a usual price is told with: two figures, for nobody knows
    more of it.
    """
    if money >= WHOLE:
        return 0
    return 1 if money >= 1 else 2


def part_of_bill(found: Bill, money: float) -> str:
    """What some lines of a bill come to, "about" where some of its prices are only usual ones."""
    currency = found.parts.project.build.currency
    if not found.by_usual:
        return money_words(money, currency)
    return f"about {money_words(money, currency, about_digits(money))}"


def totals_words(found: Bill) -> list[str]:
    """What it costs, what is left, what has no price."""
    currency = found.parts.project.build.currency
    if found.lines and all(line.price is None for line in found.lines):
        return ["None of the parts has a price yet."]
    if found.by_usual:
        lines = [_about_words(found, currency)]
    else:
        lines = [
            f"Total {money_words(found.total, currency)}, left to buy "
            f"{money_words(found.left_to_buy, currency)}"
            + (", by made-up prices of the demo" if found.made_up else "")
            + "."
        ]
    if found.unpriced:
        display = Display(found.parts.project.settings.units)
        named = [part_words(line.part.key, display) for line in found.unpriced]
        more = f" and {len(named) - 3} more" if len(named) > 3 else ""
        parts = "1 part has" if len(named) == 1 else f"{len(named)} parts have"
        lines.append(
            f"{parts} no price and {'is' if len(named) == 1 else 'are'} not in it: "
            f"{'; '.join(named[:3])}{more}."
        )
    return lines

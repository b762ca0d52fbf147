"""What a piece that is cut wrong costs, and what one more length of pipe would change about it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from grey_current.build.cuts import RESERVE, PipeCuts, length_key
from grey_current.design.parts.costs import prices, unit_price
from grey_current.design.parts.keys import pipe_key
from grey_current.design.parts.straights import Straight
from grey_current.numerals import decimal
from grey_current.shop.fitting_sizes import stock_lengths
from grey_current.shop.model import Project
from grey_current.units import Display


@dataclass(frozen=True)
class OneMore:
    """One more length of a pipe: how long (m), what it costs in the shop's currency (None where
    nobody knows), and how many of the `pieces` can be cut a second time without it and with it.
    `times` is how often it gives the longest piece.
    """

    length: float
    price: float | None
    pieces: int
    again_now: int
    again_then: int
    times: int


def spare(pipe: PipeCuts) -> float:
    """The longest piece (m) that what is left over gives, with a little to spare."""
    return max((bar.rest for bar in pipe.bars), default=0.0) * (1 - RESERVE)


def one_more(project: Project, pipe: PipeCuts) -> OneMore:
    """What one more of the longest length that this pipe is sold in would change.

    A piece as long as the whole bar is not cut at all, so nothing is kept back for it.
    """
    length = max(stock_lengths(project, pipe.material, pipe.diameter))
    lengths = [piece.length for piece in _pieces(pipe)]
    left, kerf = spare(pipe), project.build.kerf
    longest = max(lengths, default=0.0)
    return OneMore(
        length,
        _price(project, pipe, length),
        len(lengths),
        sum(each <= left for each in lengths),
        sum(each <= max(left, length) for each in lengths),
        int((length + kerf + 1e-9) / (longest + kerf)) if lengths else 0,
    )


def _price(project: Project, pipe: PipeCuts, length: float) -> float | None:
    """A length's own price, or that of so much pipe by the metre."""
    book = prices(project)
    whole = unit_price(book, length_key(pipe, length))
    if whole is not None:
        return whole
    by_metre = unit_price(book, pipe_key(pipe.material, pipe.diameter))
    return None if by_metre is None else by_metre * length


def _pieces(pipe: PipeCuts) -> Iterable[Straight]:
    return (piece for bar in pipe.bars for piece in bar.pieces)


def miscut_words(pipe: PipeCuts, display: Display) -> str:
    """What a piece that is cut wrong costs: nothing, or one more length; empty without pieces."""
    pieces = [piece.length for piece in _pieces(pipe)]
    left = spare(pipe)
    if not pieces:
        return ""
    if left >= max(pieces):
        return "If one is cut wrong, what is left over gives it again, whichever it is."
    if left < min(pieces):
        return "If one is cut wrong, it takes one more length: nothing long enough is left over."
    longest = display.about(left, down=True)
    return (
        f"If one is cut wrong, what is left over gives those up to {longest} again; a longer one "
        "takes one more length."
    )


def price_words(found: OneMore, currency: str) -> str:
    """What one more length costs, in words."""
    return "no price yet" if found.price is None else f"about {decimal(found.price)} {currency}"


def again_words(found: OneMore) -> str:
    """How many pieces one more length gives again, and how many what is left over gives."""
    one = found.pieces == 1
    which = "The piece" if one else f"Any of the {found.pieces} pieces"
    often = {1: "once", 2: "twice"}.get(found.times, f"{found.times} times")
    if found.again_now == found.pieces:
        now = "gives it too" if one else "gives each too"
    else:
        now = f"gives {found.again_now or 'none'}"
    return f"{which} again, the longest {often}; what is left over {now}."


def one_more_words(found: OneMore, currency: str, display: Display) -> str:
    """What one more length costs and would change, in words; empty without pieces."""
    if not found.pieces:
        return ""
    length = display.length(found.length)
    return f"One more length of {length}, {price_words(found, currency)}: {again_words(found)}"

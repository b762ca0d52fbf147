"""In which lengths, boxes, rolls and tins parts are sold, and how many of them are bought."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from grey_current.units import FOOT

QUART = 0.946353  # l
# m, l or pieces within which a pack is full, and two quantities are one.
LITTLE, WHOLE = 1e-9, 1e-6


@dataclass(frozen=True)
class Packs:
    """How a part is packed: what one of them is called, and the sizes (m, m², l or pieces) that are
    usual where one counts in feet and where in metres. Allowances.

    `whole` marks what is used in whole pieces, each of which must come out of one of them.
    """

    name: str
    us: tuple[float, ...]
    metric: tuple[float, ...]
    whole: bool = False


PACKS: dict[str, Packs] = {
    "hose": Packs("", (5 * FOOT, 10 * FOOT, 20 * FOOT), (2.5, 5.0, 10.0), whole=True),
    "screws": Packs("box of", (100.0, 500.0), (100.0, 500.0)),
    "tape": Packs("roll of", (30 * FOOT, 150 * FOOT), (10.0, 50.0)),
    # Small panels and whole sheets.
    "sheet": Packs("", (4 * FOOT**2, 8 * FOOT**2, 32 * FOOT**2), (0.36, 0.72, 2.977)),
    "wood-screws": Packs("box of", (50.0, 100.0), (50.0, 100.0)),
    "wood-glue": Packs("bottle of", (QUART / 4, QUART / 2), (0.25, 0.5)),
    "mastic": Packs("tin of", (QUART, 4 * QUART), (1.0, 4.0)),
    "cement": Packs("tin of", (QUART / 4, QUART / 2, QUART), (0.25, 0.5, 1.0)),
    "primer": Packs("tin of", (QUART / 4, QUART / 2, QUART), (0.25, 0.5, 1.0)),
    "anchor": Packs("box of", (25.0, 100.0), (25.0, 100.0)),
    "earth-wire": Packs("roll of", (25 * FOOT, 100 * FOOT), (10.0, 25.0)),
}


def packs_of(key: str) -> Packs | None:
    """How a part is packed; None for one that is bought by the piece or cut to length."""
    return PACKS.get(key.partition("/")[0])


def packed(key: str, pieces: Sequence[float], *, us: bool) -> Counter[float]:
    """Return how many of which size are bought of a part, by size (m, l or pieces).

    Pieces of hose are laid into lengths, the longest first, and each length is the shortest that
    takes what lies in it; one longer than any is bought as long as it is. Of all ways tried the one
    that buys least, with the fewest packs. Empty for a part without packs. Raises nothing.
    """
    how = packs_of(key)
    wanted = [piece for piece in pieces if piece > 0]
    if how is None or not wanted:
        return Counter()
    sizes = how.us if us else how.metric
    return _lengths(wanted, sizes) if how.whole else _fewest(math.fsum(wanted), sizes)


def _lengths(pieces: list[float], sizes: tuple[float, ...]) -> Counter[float]:
    """First fit, the longest piece first, into lengths of each size in turn; the way that buys
    least.
    """
    return min((_laid_into(most, pieces, sizes) for most in sizes), key=_amount)


def _laid_into(most: float, pieces: list[float], sizes: tuple[float, ...]) -> Counter[float]:
    filled: list[float] = []
    for piece in sorted(pieces, reverse=True):
        place = next((n for n, used in enumerate(filled) if used + piece <= most + LITTLE), None)
        if place is None:
            filled.append(piece)
        else:
            filled[place] += piece
    return Counter(next((s for s in sizes if s >= used - LITTLE), used) for used in filled)


def _fewest(quantity: float, sizes: tuple[float, ...]) -> Counter[float]:
    """As many of the largest as go whole or one more, and of the rest alike; what buys least."""
    if quantity <= LITTLE:
        return Counter()
    largest, smaller = sizes[-1], sizes[:-1]
    whole = math.floor(quantity / largest + LITTLE)
    ways = [Counter({largest: whole + 1})]
    if smaller or quantity - whole * largest <= LITTLE:
        ways.append(Counter({largest: whole}) + _fewest(quantity - whole * largest, smaller))
    return +min(ways, key=_amount)


def _amount(packs: Counter[float]) -> tuple[float, int]:
    """How much some packs hold, and how many they are."""
    return round(math.fsum(size * count for size, count in packs.items()), 6), packs.total()


def in_packs(key: str, uses: Sequence[tuple[str, float]], quantity: float, *, us: bool) -> float:
    """The quantity of a part that is bought, in whole packs, for one that is wanted."""
    found = packs_of_part(key, uses, quantity, us=us)
    return math.fsum(size * count for size, count in found.items()) if found else quantity


def packs_of_part(
    key: str, uses: Sequence[tuple[str, float]], quantity: float, *, us: bool
) -> Counter[float]:
    """In which packs a quantity of a part is bought, by size; `uses` are its pieces, each with the
    element that it is for.
    """
    pieces = [each for _, each in uses]
    # Which of its pieces are there already nobody knows: what is left counts as one.
    if abs(math.fsum(pieces) - quantity) > WHOLE:
        pieces = [quantity]
    return packed(key, pieces, us=us)

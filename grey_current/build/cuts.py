"""The cutting list of a design: its straight pieces laid out on the lengths that pipe is sold
in.
"""

from __future__ import annotations

import itertools
import math
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from grey_current.build.cutting import Bar, Cutting, cut
from grey_current.design.parts.keys import mm
from grey_current.design.parts.parts_list import PartsList
from grey_current.design.parts.straights import CUT_WITHIN, Straight
from grey_current.errors import DuctworkError
from grey_current.shop.build_edits import with_build, with_offcuts, with_owned
from grey_current.shop.build_plan import Offcut
from grey_current.shop.catalogue import materials
from grey_current.shop.fitting_sizes import stock_lengths
from grey_current.shop.model import Project
from grey_current.units import INCH, Display

# Cuttings by what was asked: widths, how many of each, bars and kerf (ticks).
CutCache = dict[tuple[tuple[int, ...], tuple[int, ...], tuple[Bar, ...], int], Cutting]
# Share of what is left over that is not counted on when a piece must be cut again. Allowance.
RESERVE = 0.02
# s allowed for one material and bore; what is not proven by then is shown with its gap.
SECONDS = 4.0


@dataclass(frozen=True)
class BarCut:
    """One length of stock: its length (m), whether it is an offcut that is there already, and its
    pieces in order.
    """

    length: float
    owned: bool
    pieces: tuple[Straight, ...]
    # What is left of it (m), after the cuts.
    rest: float


@dataclass(frozen=True)
class PipeCuts:
    """How the pieces of one pipe are cut: its bars, how many are bought, and the least length that
    must be (m). One bar may stay whole, as a reserve.
    """

    material: str
    diameter: float
    bars: tuple[BarCut, ...]
    bound: float
    # Length (m) that can be cut once more; 0 for none.
    reserve: float = 0.0

    @property
    def bought(self) -> Counter[float]:
        """How many lengths are bought, by length (m)."""
        return Counter(bar.length for bar in self.bars if not bar.owned)

    @property
    def bought_length(self) -> float:
        """The length that is bought (m)."""
        return math.fsum(bar.length for bar in self.bars if not bar.owned)

    @property
    def proven(self) -> bool:
        """Whether no other way of cutting buys less."""
        return self.bought_length <= self.bound + 1e-6

    @property
    def least_bars(self) -> int:
        """The least number of bars of the longest length that the bound allows."""
        longest = max(self.bought, default=0.0)
        return math.ceil(self.bound / longest - 1e-6) if longest else 0


def tick(project: Project) -> float:
    """What one marks to (m): a millimetre, or a sixteenth of an inch."""
    return INCH / 16 if project.settings.units == "us" else 0.001


def cutting_list(
    project: Project,
    parts: PartsList | None = None,
    pieces: Iterable[Straight] | None = None,
    seconds: float = SECONDS,
    known: CutCache | None = None,
) -> tuple[PipeCuts, ...]:
    """The cutting list of all straight pieces that fit, or of some of them, pipe by pipe; without
    what is put away.

    `known` holds the cuttings that were found before and gets those that are found now; with no
    `seconds` what is not known is laid out simply, the longest pieces first. Raises `DuctworkError`
    where no stock length is known for a pipe, or none is long enough.
    """
    chosen = (parts or PartsList(project)).straights if pieces is None else list(pieces)
    groups: dict[tuple[str, float], list[Straight]] = defaultdict(list)
    # What is cut and put away needs no pipe any more, unless it has changed its length since.
    away = {item.piece: item.length for item in project.build.cut if item.away}
    for piece in chosen:
        if piece.is_pipe and abs(away.get(piece.id, -1.0) - piece.length) > CUT_WITHIN:
            groups[piece.material, round(piece.diameter, 4)].append(piece)
    kept: CutCache = {} if known is None else known
    ordered = sorted(groups.items(), key=lambda item: (item[0][0], -item[0][1]))
    return tuple(
        _pipe(project, material, bore, group, seconds, kept) for (material, bore), group in ordered
    )


def _pipe(
    project: Project,
    material: str,
    bore: float,
    group: list[Straight],
    seconds: float,
    known: CutCache,
) -> PipeCuts:
    step = tick(project)
    lengths = stock_lengths(project, material, bore)
    _check_stock(project, material, bore, group, lengths)
    # A piece as long as its bar is not cut, whatever the ticks.
    # In whole ticks, rounded so that a plan can always be cut: pieces to the nearest, bars down,
    # the saw up.
    whole = math.floor(max(lengths) / step + 1e-6)
    widths = [min(max(round(piece.length / step), 1), whole) for piece in group]
    bars = [Bar(ticks := math.floor(length / step + 1e-6), ticks) for length in lengths]
    real = list(lengths)
    for offcut in project.build.offcuts:
        if offcut.is_of(material, bore):
            bars.append(Bar(math.floor(offcut.length / step + 1e-6), 0, offcut.count))
            real.append(offcut.length)
    kerf = math.ceil(project.build.kerf / step - 1e-6)
    # For a cut that goes wrong: the longest piece once more, and a little.
    reserve = 0
    if project.build.reserve == "one cut":
        reserve = min(math.ceil(max(widths) * (1 + RESERVE)), whole)
    # Or one whole length more, of which nothing is laid out.
    extra = max(lengths) if project.build.reserve == "one length" else 0.0
    # Equal lengths are one kind: the search need not tell them apart.
    wanted = [*widths, reserve] if reserve else widths
    kinds = sorted(set(wanted), reverse=True)
    made = _cutting(kinds, [wanted.count(width) for width in kinds], bars, kerf, seconds, known)
    laid_out = _laid_out(made, kinds, widths, group, bars, real, kerf, step)
    whole_ones = (BarCut(extra, False, (), extra),) if extra else ()
    return PipeCuts(
        material, bore, (*laid_out, *whole_ones), made.bound * step + extra, extra or reserve * step
    )


def _cutting(
    kinds: Sequence[int],
    demand: Sequence[int],
    bars: Sequence[Bar],
    kerf: int,
    seconds: float,
    known: CutCache,
) -> Cutting:
    """The cutting that is known for these very pieces, else the best within the time; what is found
    is kept.
    """
    key = (tuple(kinds), tuple(demand), tuple(bars), kerf)
    if key not in known:
        made = cut(kinds, demand, bars, kerf, seconds)
        if seconds <= 0 and not made.proven:
            return made
        known[key] = made
    return known[key]


def _laid_out(
    made: Cutting,
    kinds: Sequence[int],
    widths: Sequence[int],
    group: Sequence[Straight],
    bars: Sequence[Bar],
    real: Sequence[float],
    kerf: int,
    step: float,
) -> tuple[BarCut, ...]:
    """Which very piece comes out of which bar: pieces of one length in the order of the drawing.

    What is left of a bar holds the reserve too.
    """
    waiting: dict[int, list[Straight]] = {width: [] for width in kinds}
    for piece, width in zip(group, widths, strict=True):
        waiting[width].append(piece)
    found = []
    # Offcuts first, then the longest bars: in the order in which one would take them.
    for pattern in sorted(
        made.patterns, key=lambda p: (bars[p.bar].count is None, -bars[p.bar].length)
    ):
        pieces: list[Straight] = []
        used = 0
        for width, count in zip(kinds, pattern.counts, strict=True):
            placed = waiting[width][:count]
            pieces += placed
            del waiting[width][:count]
            used += len(placed) * (width + kerf)
        bar = bars[pattern.bar]
        rest = max(bar.length - used, 0) * step
        found.append(BarCut(real[pattern.bar], bar.count is not None, tuple(pieces), rest))
    return tuple(found)


def _check_stock(
    project: Project,
    material: str,
    bore: float,
    group: Sequence[Straight],
    lengths: Sequence[float],
) -> None:
    display = Display(project.settings.units)
    what = f"{materials()[material].label}, {display.diameter(bore)}"
    if not lengths:
        raise DuctworkError(
            what, "has no stock length", "enter the lengths that you can buy it in, at Build"
        )
    longest = max(piece.length for piece in group)
    if longest > max(lengths) + tick(project):
        raise DuctworkError(
            what,
            f"is bought in {display.length(max(lengths))} at most, and a piece is "
            f"{display.length(longest)} long",
            "enter a longer stock length, or part the run",
        )


def numbered(cuts: Iterable[PipeCuts]) -> dict[str, int]:
    """A number for every piece, in the order of the bars, as it is written on the pipe."""
    pieces = itertools.chain.from_iterable(bar.pieces for pipe in cuts for bar in pipe.bars)
    return {piece.id: number for number, piece in enumerate(pieces, 1)}


def kept_offcuts(project: Project, cuts: Iterable[PipeCuts]) -> list[tuple[str, float, float]]:
    """Material, bore and length (m) of what is left over and long enough to be kept."""
    least = project.build.keep_offcuts
    return [(p.material, p.diameter, bar.rest) for p in cuts for bar in p.bars if bar.rest >= least]


def proof_words(pipe: PipeCuts) -> str:
    """How good the cutting is, in words: "7 lengths, proven least", or what gap remains."""
    count = sum(pipe.bought.values())
    lengths = "1 length" if count == 1 else f"{count} lengths"
    if not count:
        return "all out of offcuts"
    if pipe.proven:
        return f"{lengths}, proven least{_reserve_words(pipe)}"
    gap = (pipe.bought_length - pipe.bound) / pipe.bought_length
    return f"{lengths}; at most {gap:.0%} of it could be saved"


def _reserve_words(pipe: PipeCuts) -> str:
    if not pipe.reserve:
        return ""
    if any(not bar.pieces and not bar.owned for bar in pipe.bars):
        return ", with one length in reserve"
    return ", with the longest piece once more in reserve"


def finished(project: Project, cuts: Iterable[PipeCuts]) -> list[tuple[PipeCuts, BarCut]]:
    """The bars of which every piece is ticked as cut."""
    cut_ones = {item.piece for item in project.build.cut}
    found = []
    for pipe in cuts:
        for bar in pipe.bars:
            if bar.pieces and cut_ones.issuperset(piece.id for piece in bar.pieces):
                found.append((pipe, bar))
    return found


def put_away(project: Project, cuts: Iterable[PipeCuts]) -> Project:
    """The project with its finished bars used up: their pieces are cut no more, what is left long
    enough is stock.
    """
    made = project
    for pipe, bar in finished(project, cuts):
        pieces = {piece.id for piece in bar.pieces}
        made = with_build(
            made,
            cut=tuple(c.replaced(away=True) if c.piece in pieces else c for c in made.build.cut),
        )
        # An offcut that was cut is gone; of a new length one more is used.
        rests = [o.length for o in offcuts_of(made, pipe) for _ in range(o.count)]
        if bar.owned:
            rests.remove(bar.length)
        else:
            key = length_key(pipe, bar.length)
            used = next((item.used for item in made.build.owned if item.key == key), 0.0)
            made = with_owned(made, key, used=used + 1)
        if bar.rest >= made.build.keep_offcuts:
            rests.append(round(bar.rest, 4))
        made = with_offcuts(made, pipe.material, pipe.diameter, tuple(rests))
    return made


def offcuts_of(project: Project, pipe: PipeCuts) -> list[Offcut]:
    """The offcuts of a pipe that are there."""
    return [
        offcut for offcut in project.build.offcuts if offcut.is_of(pipe.material, pipe.diameter)
    ]


def length_key(pipe: PipeCuts, length: float) -> str:
    """The part key of a length of pipe as it is sold."""
    return f"length/{pipe.material}/{mm(pipe.diameter)}/{mm(length)}"

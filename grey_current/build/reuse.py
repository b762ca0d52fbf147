"""Another shop's pieces used again in this one: which fit, which pipe is cut out of which, what is
left to buy, and what is left over.

What the other shop has is taken to be there as it is drawn, and nothing of it costs anything. What
joins and seals (screws, tape, cement, wire) is not used twice, and cemented fittings stay on their
pipe.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from dataclasses import dataclass

from grey_current.build.bill import Bill, bill
from grey_current.build.cuts import BarCut
from grey_current.design.parts.keys import hose_key, kind_of
from grey_current.design.parts.parts_list import PartsList
from grey_current.design.parts.straights import Straight
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop.build_edits import with_build, with_owned
from grey_current.shop.build_plan import Offcut
from grey_current.shop.ducts import Run
from grey_current.shop.hoses import cut_length
from grey_current.shop.model import Project
from grey_current.shop.places import distance

# m at each end of an old pipe that is cut off clean: holes of screws, a dent, cement. Allowance.
END_CUT = 0.025
# The same where pipe is cemented into hubs: what is in the hub stays there. Allowance.
CEMENTED_CUT = 0.06
CEMENTED = "pvc"
# m; a shorter piece of pipe is not worth taking along.
LEAST = 0.15
# Kinds of pipe pieces that one project may hold.
MOST_LENGTHS = 60
GROUPS = ("Collector", "Fittings", "Gates", "Hose", "Machine ends", "Hangers", "Made in the shop")
# Of what is made in the shop the things themselves, not what they were made of.
MADE = ("made", "panel-filter", "air-fan")


@dataclass(frozen=True)
class ReusedPart:
    """A kind of part: how many there are, are used again, are to be bought, and are left over."""

    key: str
    there: float
    used: float
    to_buy: float

    @property
    def left_over(self) -> float:
        """How many nobody needs here: to sell, or to keep."""
        return max(self.there - self.used, 0.0)


@dataclass(frozen=True)
class ReusedPipe:
    """An old piece of pipe, its length cleaned up (m), and what is cut out of it; nothing where it
    is left over.
    """

    material: str
    diameter: float
    length: float
    pieces: tuple[Straight, ...]

    @property
    def as_it_is(self) -> bool:
        """Whether it is used without a cut."""
        return len(self.pieces) == 1 and self.length - self.pieces[0].length < 1e-3


@dataclass(frozen=True)
class Reuse:
    """What becomes of another shop's pieces.

    Attributes:
        project: The shop with the pieces among what is there already.
        parts: Every kind of part that there is or that is wanted, in the order of the bill.
        pipes: Every old piece of pipe, the longest first.
        before, after: What all that is wanted costs without and with them.
    """

    project: Project
    parts: tuple[ReusedPart, ...]
    pipes: tuple[ReusedPipe, ...]
    before: Bill
    after: Bill

    @property
    def saved(self) -> float:
        """How much less there is to pay."""
        return self.before.total - self.after.total


def with_pieces_of(project: Project, old: Project) -> Project:
    """The project with another shop's pieces among what is there already; taken twice they are
    there once.

    Raises `DuctworkError` where the other shop's pieces cannot be counted.
    """
    parts = PartsList(old)
    lengths: dict[tuple[str, float], Counter[float]] = defaultdict(Counter)
    for offcut in old.build.offcuts:
        lengths[offcut.material, round(offcut.diameter, 4)][offcut.length] += offcut.count
    glued = _is_cemented(parts)
    for piece in parts.straights:
        end = CEMENTED_CUT if glued and piece.material == CEMENTED else END_CUT
        clean = math.floor((piece.length - 2 * end) * 1000) / 1000
        if piece.is_pipe and clean >= LEAST:
            lengths[piece.material, round(piece.diameter, 4)][clean] += 1
    for offcut in project.build.offcuts:
        known = lengths[offcut.material, round(offcut.diameter, 4)]
        known[offcut.length] = max(known[offcut.length], offcut.count)
    kinds = [
        Offcut(material=material, diameter=bore, length=length, count=min(count, 100))
        for (material, bore), counts in lengths.items()
        for length, count in counts.items()
    ]
    kinds.sort(key=lambda item: -item.length)
    project = with_build(project, offcuts=tuple(kinds[:MOST_LENGTHS]))
    for key, count in _loose(project, old, parts).items():
        had = next((item.had for item in project.build.owned if item.key == key), 0.0)
        project = with_owned(project, key, had=max(had, count))
    return project


def _loose(project: Project, old: Project, parts: PartsList) -> dict[str, float]:
    """How much of each kind of part, other than pipe, comes along."""
    glued = _is_cemented(parts)
    found: dict[str, float] = {}
    for part in parts.parts:
        words = part.key.split("/")
        if part.group not in GROUPS:
            continue
        if part.group == "Made in the shop" and words[0] not in MADE:
            continue
        if part.group == "Fittings" and glued and CEMENTED in words:
            continue
        # Clamps and couplers are counted; hose itself goes by its lengths.
        if part.unit == "piece":
            found[part.key] = part.quantity
    found |= _hoses(project, old)
    return {key: min(count, 10_000.0) for key, count in found.items() if count > 0}


def _is_cemented(parts: PartsList) -> bool:
    """Whether a shop's plastic pipe is cemented."""
    return any(part.key.startswith("cement") for part in parts.parts)


def _hoses(project: Project, old: Project) -> dict[str, float]:
    """How much hose (m) of each kind is used again: each old hose once, for the longest new one
    that it is long enough for.
    """
    left: dict[str, list[float]] = defaultdict(list)
    for run in old.runs:
        if is_hose(run):
            left[hose_key(run.material, run.diameter)].append(_long(old, run))
    matched: dict[str, float] = defaultdict(float)
    wanted = [
        (_long(project, run), hose_key(run.material, run.diameter))
        for run in project.runs
        if is_hose(run)
    ]
    for length, key in sorted(wanted, reverse=True):
        able = [old_length for old_length in left[key] if old_length >= length - 1e-6]
        if able:
            left[key].remove(min(able))
            matched[key] += length
    return matched


def _long(project: Project, run: Run) -> float:
    return run.length or cut_length(project, distance(project, run))


def reuse(project: Project, old: Project) -> Reuse:
    """What becomes of another shop's pieces in this one. Raises `DuctworkError` where either cannot
    be counted, or its pipe be cut.
    """
    taken = with_pieces_of(project, old)
    before, after = bill(project), bill(taken)
    return Reuse(taken, reused_parts(after), reused_pipes(taken, after), before, after)


def reused_parts(found: Bill) -> tuple[ReusedPart, ...]:
    """What there is of each kind of part, beside pipe, and what becomes of it."""
    owned = {item.key: item.had for item in found.parts.project.build.owned if item.had}
    rows = [
        ReusedPart(
            line.part.key,
            owned.pop(line.part.key, 0.0),
            min(line.had, line.part.quantity),
            line.left,
        )
        for line in found.lines
        if line.part.group in GROUPS
    ]
    # What nothing here asks for.
    rows += [
        ReusedPart(key, had, 0.0, 0.0) for key, had in owned.items() if kind_of(key).group in GROUPS
    ]
    return tuple(row for row in rows if row.there or row.to_buy)


def reused_pipes(project: Project, found: Bill) -> tuple[ReusedPipe, ...]:
    """Every piece of pipe that is there, the longest first, and what is cut out of it."""
    used: dict[tuple[str, float, float], list[BarCut]] = defaultdict(list)
    for pipe in found.cuts:
        for bar in pipe.bars:
            if bar.owned:
                used[pipe.material, round(pipe.diameter, 4), bar.length].append(bar)
    rows = []
    for offcut in project.build.offcuts:
        bars = used[offcut.material, round(offcut.diameter, 4), offcut.length]
        for _ in range(offcut.count):
            pieces = bars.pop().pieces if bars else ()
            rows.append(ReusedPipe(offcut.material, offcut.diameter, offcut.length, pieces))
    return tuple(sorted(rows, key=lambda row: -row.length))

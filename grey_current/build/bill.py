"""The bill: every part with its price, what is there already, what is left to buy, and sums by
group and machine.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, replace
from functools import cached_property

from grey_current.build.cuts import CutCache, PipeCuts, cutting_list, length_key
from grey_current.build.made.materials import with_materials
from grey_current.design.parts.costs import prices, unit_price
from grey_current.design.parts.keys import GROUPS, pipe_key
from grey_current.design.parts.owners import Owners
from grey_current.design.parts.packs import in_packs, packs_of_part
from grey_current.design.parts.parts_list import Part, PartsList
from grey_current.shop.build_plan import Owned, Price
from grey_current.shop.model import Project
from grey_current.shop.usual_prices import Usual

# The owner of what several machines share.
SHARED = ""


@dataclass(frozen=True)
class Line:
    """One part of the bill: its price (None where it has none), and how much of it is there
    already.
    """

    part: Part
    price: float | None
    entry: Price | None
    had: float = 0.0
    bought: float = 0.0
    # The range of its price where it is only the usual one.
    usual: Usual | None = None
    # Whether it is bought where one counts in feet.
    us: bool = False

    @property
    def left(self) -> float:
        """How much is left to buy."""
        return max(self.part.quantity - self.had - self.bought, 0.0)

    @property
    def sum(self) -> float | None:
        """What is paid for it in all, in whole packs: what was had before costs nothing."""
        if self.price is None:
            return None
        return self.price * self._in_packs(max(self.part.quantity - self.had, 0.0))

    @property
    def left_sum(self) -> float | None:
        """What is left to pay."""
        return None if self.price is None else self.price * self._in_packs(self.left)

    def packs(self, quantity: float) -> Counter[float]:
        """In which packs so much of it is bought, by size; empty for what is not packed."""
        return packs_of_part(self.part.key, self.part.uses, quantity, us=self.us)

    def _in_packs(self, quantity: float) -> float:
        return in_packs(self.part.key, self.part.uses, quantity, us=self.us)


@dataclass(frozen=True)
class Bill:
    """All lines, in the order of the groups, and the cutting list that the pipe was counted by."""

    parts: PartsList
    lines: tuple[Line, ...]
    cuts: tuple[PipeCuts, ...]

    @cached_property
    def line(self) -> dict[str, Line]:
        """The lines by part key."""
        return {line.part.key: line for line in self.lines}

    @property
    def total(self) -> float:
        """What everything costs that has a price and was not had before."""
        return math.fsum(line.sum or 0.0 for line in self.lines)

    @property
    def left_to_buy(self) -> float:
        """What is left to pay, for what has a price."""
        return math.fsum(line.left_sum or 0.0 for line in self.lines)

    @property
    def unpriced(self) -> tuple[Line, ...]:
        """What is still to be bought and has no price."""
        return tuple(line for line in self.lines if line.price is None and line.left > 0)

    @property
    def range(self) -> tuple[float, float]:
        """What the total may come to, by the ranges of the usual prices in it."""
        sums = [
            (line.sum or 0.0, line.usual.low / line.usual.usual, line.usual.high / line.usual.usual)
            if line.usual is not None
            else (line.sum or 0.0, 1.0, 1.0)
            for line in self.lines
        ]
        low = math.fsum(money * least for money, least, _ in sums)
        return low, math.fsum(money * most for money, _, most in sums)

    @property
    def by_usual(self) -> float:
        """How much of the total rests on usual prices."""
        return math.fsum(line.sum or 0.0 for line in self.lines if line.usual is not None)

    @property
    def made_up(self) -> bool:
        """Whether a price that counts is made up."""
        return any(line.entry is not None and line.entry.made_up for line in self.lines)

    def by_group(self) -> dict[str, float]:
        """Money for each group that has parts."""
        found: dict[str, float] = {}
        for group in GROUPS:
            lines = [line for line in self.lines if line.part.group == group]
            if lines:
                found[group] = math.fsum(line.sum or 0.0 for line in lines)
        return found

    @cached_property
    def by_machine(self) -> dict[str, float]:
        """Money for each machine's own parts, by its id; under `SHARED` what machines share."""
        owners = Owners(self.parts.project, self.parts.joints)
        found: dict[str, float] = defaultdict(float)
        for line in self.lines:
            whole = math.fsum(quantity for _, quantity in line.part.uses)
            if not whole:
                found[SHARED] += line.sum or 0.0
            for element, quantity in line.part.uses:
                found[owners.of(element) or SHARED] += (line.sum or 0.0) * quantity / whole
        return dict(found)


def bill(
    project: Project,
    parts: PartsList | None = None,
    cuts: tuple[PipeCuts, ...] | None = None,
    quick: CutCache | None = None,
) -> Bill:
    """The bill of a project; with `quick` by the cuttings known there, else simple ones, without a
    search.

    Raises `DuctworkError` where pipe has no stock length that will do.
    """
    known = parts or PartsList(project)
    if cuts is None:
        if quick is None:
            cuts = cutting_list(project, known)
        else:
            cuts = cutting_list(project, known, seconds=0.0, known=quick)
    book = prices(project)
    owned = {item.key: item for item in project.build.owned}
    us = project.settings.units == "us"
    lines = []
    # Pipe is listed as the lengths that are bought, and what was used up already counts as had.
    listed = with_materials(known.parts, project)
    for part in with_used(with_lengths(listed, cuts), owned.values()):
        item = owned.get(part.key)
        had, bought = (item.had, item.bought) if item else (0.0, 0.0)
        price, entry = unit_price(book, part.key), book.own.get(part.key)
        usual = book.usual(part.key)
        lines.append(Line(part, price, entry, had, bought, usual, us))
    return Bill(known, tuple(lines), cuts)


def with_lengths(parts: Iterable[Part], cuts: Iterable[PipeCuts]) -> list[Part]:
    """Parts with pipe by the metre as the lengths that are bought, each run with its share of
    them.
    """
    pipes = {pipe_key(pipe.material, pipe.diameter): pipe for pipe in cuts}
    made: list[Part] = []
    for part in parts:
        pipe = pipes.get(part.key)
        if pipe is None:
            made.append(part)
            continue
        # Each run bears the share of the lengths that its pipe is of all that pipe.
        for length, count in sorted(pipe.bought.items()):
            whole = math.fsum(quantity for _, quantity in part.uses)
            uses = tuple((run, count * quantity / whole) for run, quantity in part.uses)
            made.append(
                replace(part, key=length_key(pipe, length), quantity=float(count), uses=uses)
            )
    return made


def with_used(parts: list[Part], owned: Iterable[Owned]) -> list[Part]:
    """Parts with the lengths of pipe that are cut up already, which were paid for like the
    others.
    """
    used = {item.key: item.used for item in owned if item.used}
    made = [replace(part, quantity=part.quantity + used.pop(part.key, 0.0)) for part in parts]
    made += [Part(key, count, ()) for key, count in used.items()]
    return sorted(made, key=lambda part: GROUPS.index(part.group))

"""Which of many trees are worth sizing: little duct, short ways for the air that is needed most,
and room for their fittings.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from grey_current.design.flow.scenarios import need
from grey_current.design.laying.routes import Layout
from grey_current.design.laying.search import Site, reach_cost
from grey_current.design.laying.sizes import SizeSearch
from grey_current.design.parts.buildable import BuildSet
from grey_current.shop.model import Project

# Of the trees with the least duct, and of those with the shortest ways, so many have their air
# computed.
JUDGED = 4
# Trees that are rated by what stands too near in them; metres of duct that one such place counts
# as, and the share of the ways' length; trees of little duct that get their joints moved apart.
RATED, TIGHT, CROWDED, MOVED_APART = 40, 0.4, 0.01, 8


@dataclass(frozen=True)
class TreeChoice:
    """Chooses among the trees of one site.

    Attributes:
        sizing: The search for a tree's sizes, which knows a quick rule.
        moved_apart: Moves a project's new joints apart until each has room for its fittings.
        tight, rest: What is known of trees by their `id`: how many places are too tight before and
            after joints are moved apart. Strategies that share their trees share these too.
        rated: How many trees are rated by what stands too near in them.
    """

    place: Site
    sizing: Callable[[Layout], SizeSearch]
    moved_apart: Callable[[Project], Project]
    should_continue: Callable[[], bool]
    tight: dict[int, int]
    rest: dict[int, int]
    rated: int = RATED

    def of(self, trees: list[Layout], least_duct: bool) -> list[Layout]:
        """Of some trees, those with least duct first, the ones to be sized: that lead to most
        pickups, promise most, and can be put together. `least_duct` asks for little duct alone.
        """
        return self._with_room(self._promising(trees, least_duct), least_duct)

    def _promising(self, trees: list[Layout], least_duct: bool) -> list[Layout]:
        """Those with the least duct, and those on which the air that is needed most has the
        shortest ways; a tree in which much stands too near comes later.
        """
        base = self.place.base
        needs = {ref: need(base.pickup[ref][1], base.settings).airflow for ref in self.place.refs}
        least = len(trees[0].stranded)
        whole = [layout for layout in trees if len(layout.stranded) == least]
        crowding = self._crowding(whole)
        known = list(crowding)
        short = sorted(known, key=lambda n: whole[n].cost + TIGHT * crowding[n])
        if least_duct:
            return [whole[number] for number in short[:MOVED_APART]]
        near = sorted(
            known, key=lambda n: reach_cost(whole[n], needs) * (1 + CROWDED * crowding[n])
        )
        return [whole[n] for n in dict.fromkeys([*short[:JUDGED], *near[:JUDGED]])]

    def _crowding(self, trees: list[Layout]) -> dict[int, int]:
        """How many places of each tree are too tight before joints are moved apart, by its number:
        the lattice knows no fittings.
        """
        found: dict[int, int] = {}
        if not self.rated:
            return dict.fromkeys(range(len(trees)), 0)
        for number, layout in enumerate(trees[: self.rated]):
            if found and not self.should_continue():
                break
            found[number] = self._tight(layout)
        return found

    def _tight(self, layout: Layout) -> int:
        if id(layout) not in self.tight:
            self.tight[id(layout)] = len(BuildSet(self._sized_by_rule(layout)).troubles)
        return self.tight[id(layout)]

    def _rest(self, layout: Layout) -> int:
        if id(layout) not in self.rest:
            moved = self.moved_apart(self._sized_by_rule(layout)) if self._tight(layout) else None
            self.rest[id(layout)] = len(BuildSet(moved).troubles) if moved is not None else 0
        return self.rest[id(layout)]

    def _with_room(self, chosen: list[Layout], least_duct: bool) -> list[Layout]:
        """Of some trees those that can be put together once their joints are moved apart; where
        none can, those that come nearest to it.
        """
        left: list[tuple[int, Layout]] = []
        for layout in chosen:
            if left and not self.should_continue():
                break
            left.append((self._rest(layout), layout))
            if least_duct and not self._rest(layout):
                break
        least = min(rest for rest, _ in left)
        return [layout for rest, layout in left if rest == least]

    def _sized_by_rule(self, layout: Layout) -> Project:
        search = self.sizing(layout)
        return search.with_sizes(search.by_rule())

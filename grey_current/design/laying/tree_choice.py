"""Which of many trees are worth sizing: by their air in a few simple sizes, by how they lie, and by
whether their fittings have room.
"""

from __future__ import annotations

import bisect
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from grey_current.design.laying.proposal import Rank, as_laid, trouble_of_lying
from grey_current.design.laying.routes import Layout
from grey_current.design.laying.search import reach_cost
from grey_current.design.laying.segments import Sizes
from grey_current.design.laying.sizes import SizeSearch
from grey_current.design.parts.buildable import BuildSet
from grey_current.shop.model import Project

# Trees of little duct whose tight places are counted; metres of duct that one such place counts as;
# of those with the least of both so many get their joints moved apart.
RATED, TIGHT, MOVED_APART = 40, 0.4, 8
# Trees of the least duct, and as many with the shortest ways, whose air is computed.
JUDGED = 16
# Trees that are tried in one size too, not only by rule, and of the best of those that have room
# for their fittings so many are judged as whole layouts.
SIZED, FINALISTS = 12, 4
# So many of the best trees so far get others that are grown like them.
PARENTS = 3

# Grows a tree with its pickups in nearly the same order; None for one that is known.
MoreLike = Callable[[Layout], Layout | None]


@dataclass
class TreesKnown:
    """What is known of the trees of one shop by their `id`; strategies share it."""

    searches: dict[int, SizeSearch] = field(default_factory=dict)
    tight: dict[int, int] = field(default_factory=dict)
    apart: dict[tuple[int, Sizes], tuple[Project, int]] = field(default_factory=dict)


@dataclass(frozen=True)
class TreeChoice:
    """Chooses among the trees of one site.

    Attributes:
        needs: The airflow (m³/s) that each pickup needs.
        sizing: The search for a tree's sizes, which knows a quick rule.
        moved_apart: Moves a project's new joints apart until each has room for its fittings.
        uniform: Whether all ducts get one size.
    """

    needs: Mapping[str, float]
    sizing: Callable[[Layout], SizeSearch]
    moved_apart: Callable[[Project], Project]
    should_continue: Callable[[], bool]
    known: TreesKnown
    uniform: bool = False

    def of_little_duct(self, trees: list[Layout]) -> list[Layout]:
        """Of some trees, those with least duct first, the one to be sized: of those that lead to
        most pickups with little duct the first that can be put together.
        """
        short = sorted(_whole(trees)[:RATED], key=lambda one: one.cost + TIGHT * self._tight(one))
        return self._with_room(short[:MOVED_APART], 1)

    def of_best_air(self, trees: list[Layout]) -> list[Layout]:
        """The trees to be sized, the best first: that lead to most pickups, promise the best air,
        and can be put together.
        """
        best = sorted(self._best_by_rule(trees), key=self._promise)[:MOVED_APART]
        return sorted(self._with_room(best, FINALISTS), key=self._rank)

    def grown_like_the_best(
        self, trees: list[Layout], more_like: MoreLike, count: int
    ) -> list[Layout]:
        """More trees, each grown like one of the best so far, of so many that are tried. Raises
        nothing.
        """
        found: list[Layout] = []
        best = sorted(self._best_by_rule(trees), key=self._promise)
        for number in range(count):
            if not self.should_continue():
                break
            tree = more_like(best[min(number % PARENTS, len(best) - 1)])
            if tree is not None and len(tree.stranded) <= len(best[0].stranded):
                found.append(tree)
                bisect.insort(best, tree, key=self._promise)
        return found

    def _best_by_rule(self, trees: list[Layout]) -> list[Layout]:
        """The best of some trees in sizes by rule.

        The lattice's costs say little of the air, and a rule for the sizes nearly all: so trees of
        little duct, and those with short ways for the air that is needed most, are judged by it.
        """
        whole = _whole(trees)
        near = sorted(whole, key=lambda one: reach_cost(one, self.needs))[:JUDGED]
        short = sorted(whole, key=lambda one: one.cost)[:JUDGED]
        judged = {id(one): one for one in (*short, *near)}.values()
        return sorted(judged, key=lambda one: self._promise(one, sized=False))[:SIZED]

    def _search(self, layout: Layout) -> SizeSearch:
        if id(layout) not in self.known.searches:
            self.known.searches[id(layout)] = self.sizing(layout)
        return self.known.searches[id(layout)]

    def _promise(self, layout: Layout, sized: bool = True) -> tuple[float, ...]:
        """What a tree promises by its air and by how it lies; smaller is better.

        After the search was told to stop, what is not known yet comes last.
        """
        if id(layout) not in self.known.searches and not self.should_continue():
            return (math.inf,)
        search = self._search(layout)
        chosen = self._simple(search) if sized else search.by_rule()
        trouble, margin, pipe = search.key(chosen)
        return trouble + trouble_of_lying(search.with_sizes(chosen)), margin, pipe

    def _simple(self, search: SizeSearch) -> Sizes:
        """The best of the simple choices of sizes."""
        rule, uniform = search.by_rule(), search.segments.uniform()
        # One size far from what the main wants by rule is not the best one.
        middle = max(rule, default=0)
        near = uniform[max(middle - 1, 0) : middle + 2]
        return min(near if self.uniform else [rule, *near], key=search.key)

    def _tight(self, layout: Layout) -> int:
        """How many places are too tight for their fittings before joints are moved apart."""
        if id(layout) not in self.known.tight:
            search = self._search(layout)
            by_rule = search.with_sizes(search.by_rule())
            self.known.tight[id(layout)] = len(BuildSet(by_rule).troubles)
        return self.known.tight[id(layout)]

    def _apart(self, layout: Layout) -> tuple[Project, int]:
        """A tree in simple sizes with its joints moved apart, and how many places are too tight
        still.
        """
        search = self._search(layout)
        key = id(layout), self._simple(search)
        if key not in self.known.apart:
            project = search.with_sizes(key[1])
            rest = len(BuildSet(project).troubles)
            if rest:
                project = self.moved_apart(project)
                rest = len(BuildSet(project).troubles)
            self.known.apart[key] = project, rest
        return self.known.apart[key]

    def _rank(self, layout: Layout) -> Rank:
        """What the whole layout is worth in simple sizes; smaller is better."""
        return as_laid(self._apart(layout)[0], layout.stranded).rank

    def _with_room(self, chosen: list[Layout], wanted: int) -> list[Layout]:
        """The first of some trees that can be put together once their joints are moved apart; where
        none can, those that come nearest to it.
        """
        left: list[tuple[int, Layout]] = []
        for layout in chosen:
            if left and not self.should_continue():
                break
            left.append((self._apart(layout)[1], layout))
            if sum(not rest for rest, _ in left) == wanted:
                break
        least = min(rest for rest, _ in left)
        return [layout for rest, layout in left if rest == least]


def _whole(trees: list[Layout]) -> list[Layout]:
    """Those of some trees that lead to most pickups."""
    least = min(len(layout.stranded) for layout in trees)
    return [layout for layout in trees if len(layout.stranded) == least]

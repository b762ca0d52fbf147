"""One way to lay ducts carried out: trees grown, the promising ones sized, joints moved apart."""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import NamedTuple

from grey_current.design.laying.assemble import with_levers_as_high
from grey_current.design.laying.flushing import tuned
from grey_current.design.laying.kept import Kept
from grey_current.design.laying.reasons import stranded_because
from grey_current.design.laying.routes import Layout
from grey_current.design.laying.search import (
    ANYWHERE,
    Grounds,
    Liking,
    Site,
    built,
    grounds,
    grown_like,
    layouts,
    needs_of,
    site,
)
from grey_current.design.laying.sizes import SizeSearch, allowed_sizes
from grey_current.design.laying.tree_choice import TreeChoice, TreesKnown
from grey_current.design.parts.make_room import with_room_everywhere
from grey_current.design.space.clashes import DuctSpace
from grey_current.design.space.crossings import crossings
from grey_current.shop.model import Project

# Trees that are grown like the best ones, for each that is grown by chance.
GROWN_LIKE = 0.08
# Trees after which it is said how many were tried.
TOLD_EVERY = 20
# Choices with which it lies overhead, or else where a main can begin.
OVERHEAD = ("under the beams", "between the beams")
# Choices with which the user says how high the main lies.
LEVEL_CHOSEN = ("at a height", "along the wall")

# The pickups that are led to each collector.
Assigned = Mapping[str, tuple[str, ...]]


class Laid(NamedTuple):
    """Ducts that were laid: the project with them, the search for their sizes, and the pickups that
    they leave out.
    """

    project: Project
    search: SizeSearch
    stranded: tuple[str, ...]


def _most_reached(layout: Layout) -> tuple[int, float]:
    return len(layout.stranded), layout.cost


def _left_out(trees: Sequence[Layout]) -> float:
    """How many pickups the best tree leads to nowhere; all of them where there is no tree."""
    return len(trees[0].stranded) if trees else math.inf


@dataclass
class Strategy:
    """How a layout is chosen: along the walls or freely, for the least duct or the best air, in one
    size or stepped.
    """

    name: str
    # Trees are grown for each; so many for all of them together.
    likings: tuple[Liking, ...] = (ANYWHERE,)
    least_duct: bool = False
    uniform: bool = False
    trees: int = field(kw_only=True)
    # Sizes without gates opened for others: quicker, where there are many.
    rough: bool = False
    # Only for comparing: whether its fittings have room is not looked at.
    quick: bool = False


@dataclass
class _Growth:
    """Trees that grow as they are asked for; none is ever let go of, for others know them by their
    `id`.
    """

    more: Iterator[Layout | None]
    trees: list[Layout] = field(default_factory=list)
    grown: int = 0

    def up_to(self, count: int) -> Iterator[Layout | None]:
        """Grow until so many are grown; None stands for one that is known."""
        while self.grown < count:
            layout = next(self.more)
            self.grown += 1
            if layout is not None:
                self.trees.append(layout)
            yield layout


class Laying:
    """Carries out strategies for one shop; those that share their trees are quicker together.

    Attributes:
        tried: How many different trees were grown.
        stranded: Why pickups found no way, by their references.
        lowered: The collectors whose main lies at their inlet's height because from overhead fewer
            pickups are reached.
    """

    def __init__(
        self,
        kept: Kept,
        seed: int,
        should_continue: Callable[[], bool],
        on_tried: Callable[[], None] = lambda: None,
    ) -> None:
        self.kept, self.seed, self.should_continue, self.on_tried = (
            kept,
            seed,
            should_continue,
            on_tried,
        )
        self.tried = 0
        self.stranded: dict[str, str] = {}
        self.lowered: set[str] = set()
        # By a site and what is liked.
        self._trees: dict[tuple[object, ...], _Growth] = {}
        # By the `id` of a tree: those that are chosen among are kept in `_trees` and
        # `_like_the_best`.
        self._grown_on: dict[int, Grounds] = {}
        self._known = TreesKnown()
        self._like_the_best: dict[tuple[object, ...], list[Layout]] = {}
        self._grounds: dict[tuple[object, ...], Grounds] = {}
        self._spaces: dict[int, tuple[Project, DuctSpace]] = {}
        self._tuned: dict[object, SizeSearch] = {}

    def carried_out(self, strategy: Strategy, assigned: Assigned) -> Laid | None:
        """One strategy carried out for every collector in turn; each finds the ducts of those
        before it in place. None where nothing can be laid.
        """
        project = self.kept.base
        stranded: list[str] = []
        search: SizeSearch | None = None
        for ident, refs in assigned.items():
            place = site(
                replace(self.kept, base=project), project.collector[ident], refs, self.seed
            )
            choice = self.laid(place, strategy)
            if choice is None:
                return None
            layout, search = choice
            # Sizes found for the same tree before are where this search starts.
            if not strategy.rough:
                search = self._tuned[layout.shape] = tuned(search, self._tuned.get(layout.shape))
            project = search.with_sizes(search.best())
            stranded += layout.stranded
        if search is None:
            return None
        return Laid(self._moved_apart(project), search, tuple(stranded))

    def laid(self, place: Site, strategy: Strategy) -> tuple[Layout, SizeSearch] | None:
        """The layout that a strategy takes for one site, ready to be sized."""
        trees = self._all_grown(place, strategy, strategy.likings)
        if place.base.laying.height in OVERHEAD and _left_out(trees) > 0:
            likings = tuple(replace(liking, at_inlet=True) for liking in strategy.likings)
            lower = self._all_grown(place, strategy, likings)
            if _left_out(lower) < _left_out(trees):
                trees = lower
                self.lowered.add(place.collector.id)
        for layout in trees[:1]:
            made = self._grown_on[id(layout)]
            self.stranded |= {ref: stranded_because(place, made, ref) for ref in layout.stranded}
        # Which tree is best shows only when it is sized; a few are.
        short = trees if strategy.quick or not trees else self._chosen(place, strategy, trees)
        for layout in short:
            search = self._sizing(place, layout, strategy)
            # A tree whose ducts would go through one another is given up while another is left.
            if layout is short[-1] or not crossings(search.project, search.runs):
                return layout, search
        return None

    def _chosen(self, place: Site, strategy: Strategy, trees: list[Layout]) -> list[Layout]:
        """Of some trees, and of more that are grown like the best of them, those to be sized."""
        choice = TreeChoice(
            needs_of(place),
            lambda layout: self._sizing(place, layout, strategy),
            self._moved_apart,
            self.should_continue,
            self._known,
            strategy.uniform,
        )
        if strategy.least_duct:
            return choice.of_little_duct(trees)
        if not strategy.rough:
            # Strategies that share their trees share these too: they grow the first time.
            key = (place.collector.id, place.refs, strategy.likings, id(place.base))
            if key not in self._like_the_best:
                self._like_the_best[key] = choice.grown_like_the_best(
                    trees, self._more_like(trees), round(GROWN_LIKE * strategy.trees)
                )
            trees = [*trees, *self._like_the_best[key]]
        return choice.of_best_air(trees)

    def _more_like(self, trees: list[Layout]) -> Callable[[Layout], Layout | None]:
        """What grows a tree like another one; None is one that is known."""
        shapes, chance = {layout.shape for layout in trees}, random.Random(self.seed)

        def more_like(layout: Layout) -> Layout | None:
            made = self._grown_on[id(layout)]
            tree = grown_like(made, layout, chance)
            if tree.shape in shapes:
                return None
            shapes.add(tree.shape)
            self._grown_on[id(tree)] = made
            self.tried += 1
            return tree

        return more_like

    def _all_grown(
        self, place: Site, strategy: Strategy, likings: Sequence[Liking]
    ) -> list[Layout]:
        """Trees for all that is liked, those that lead to most pickups first."""
        trees: list[Layout] = []
        for liking in likings:
            made = self._ground(place, liking)
            more = self._grown(place, made, liking, strategy.trees // len(likings))
            self._grown_on |= {id(layout): made for layout in more}
            trees += more
        return sorted(trees, key=_most_reached)

    def _ground(self, place: Site, liking: Liking) -> Grounds:
        key = (place.collector.id, place.refs, liking, id(place.base))
        if key not in self._grounds:
            if id(place.base) not in self._spaces:
                self._spaces[id(place.base)] = place.base, DuctSpace(place.base)
            self._grounds[key] = grounds(place, self._spaces[id(place.base)][1], liking)
        return self._grounds[key]

    def _grown(self, place: Site, made: Grounds, liking: Liking, count: int) -> list[Layout]:
        """Trees for a site, those that lead to most pickups with the least duct first."""
        key = (place.collector.id, place.refs, liking, id(place.base))
        growth = self._trees.setdefault(key, _Growth(layouts(place, made)))
        for layout in growth.up_to(count):
            self.tried += layout is not None
            if not self.should_continue():
                break
            if layout is not None and self.tried % TOLD_EVERY == 0:
                self.on_tried()
        return sorted(growth.trees, key=_most_reached)

    def _moved_apart(self, project: Project) -> Project:
        """The project with its new joints moved apart until each has room for its fittings."""
        chosen = project.laying.height in LEVEL_CHOSEN
        apart = with_room_everywhere(project, frozenset(self.kept.base.point), levels=not chosen)
        return with_levers_as_high(project, apart)

    def _sizing(self, place: Site, layout: Layout, strategy: Strategy) -> SizeSearch:
        project, new = built(place, self._grown_on[id(layout)], layout)
        sizes = allowed_sizes(project, place.collector.duct_inlet)
        return SizeSearch(
            project, new, sizes, strategy.uniform, should_continue=self.should_continue
        )

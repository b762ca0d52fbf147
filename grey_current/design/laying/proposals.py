"""Whole layouts of ducts proposed for a shop: a few that differ, each judged by the one judgement,
with its why.
"""

from __future__ import annotations

import math
import time
from collections import defaultdict
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.judgement import judge
from grey_current.design.laying.flushing import tuned
from grey_current.design.laying.free_ground import is_low_under_slopes
from grey_current.design.laying.kept import kept
from grey_current.design.laying.lattice import ACROSS
from grey_current.design.laying.moved_hose import moved_hose
from grey_current.design.laying.proposal import (
    LEAST_DUCT,
    MOST_AIR,
    Proposal,
    Proposals,
    taken_to_make,
    truly_named,
    unlike,
)
from grey_current.design.laying.reasons import gave_up, left_over, not_all, reason, stranded_because
from grey_current.design.laying.routes import Layout
from grey_current.design.laying.search import (
    ANYWHERE,
    HUG,
    Grounds,
    Liking,
    Site,
    built,
    grounds,
    layouts,
    site,
)
from grey_current.design.laying.sizes import SizeSearch, allowed_sizes
from grey_current.design.laying.small_ports import with_vacuum
from grey_current.design.laying.tree_choice import RATED, TreeChoice
from grey_current.design.parts.buildable import BuildSet
from grey_current.design.parts.make_room import with_room_everywhere
from grey_current.design.space.clashes import DuctSpace
from grey_current.design.space.crossings import crossings
from grey_current.errors import RefusedEdit
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.places import position

ShouldContinue = Callable[[], bool]
# Trees grown for a site, and half as many along the walls; fewer where there are many pickups.
TREES = 130
# Trees of which the first proposal is taken.
FEW_TREES = 30
# Trees of which the first sketch is taken.
SKETCHED = 8
# Square to the walls, or across the room where that saves the air a way.
EITHER = (ANYWHERE, Liking(aslant=ACROSS))
# Trees after which it is said how many were tried.
TOLD_EVERY = 20
# m; a collector with a narrower inlet is no collector for ducts while there is a wider one.
# Allowance.
SMALL_INLET = 0.09


# The pickups that are led to each collector.
Assigned = Mapping[str, tuple[str, ...]]
# The row in which they are led to others than the nearest.
SHARED_OUT = "Shared out otherwise"
# The row of what stands there now, and what is said where it is the first.
AS_IT_IS = "As it is now"
NOTHING_BETTER = "Nothing found is better than what you have."

OnProgress = Callable[[Proposals], None]

# Hits that no layout may have: what a duct would go through.
SOLID = ("beam", "thing", "machine", "duct", "ceiling")
# Choices with which the user says how high the main lies.
LEVEL_CHOSEN = ("at a height", "along the wall")


def propose(
    project: Project,
    *,
    only_unconnected: bool = False,
    most: int | None = None,
    seed: int = 0,
    should_continue: ShouldContinue = lambda: True,
    on_progress: OnProgress = lambda found: None,
) -> Proposals:
    """Lay a shop's ducts in several ways.

    Parameters
    ----------
    project
        The shop; its `laying` choices and what is pinned in it are kept to.
    only_unconnected
        Leave all that is drawn alone, and connect what is not connected.
    most
        End with so many proposals, which takes less time. The work is counted, not timed: the same
        shop and seed give the same proposals.
    seed
        Another one gives other orders to try.
    should_continue, on_progress
        Whether the answer is still wanted, and where to say what is found so far.

    Raises
    ------
    RefusedEdit
        When there is no collector, nothing to connect, or no way for anything.
    """
    return _Proposing(project, only_unconnected, most, seed, should_continue, on_progress).all()


def as_laid(project: Project, stranded: tuple[str, ...]) -> Proposal:
    """A layout without a name or a why, its air computed and judged; `stranded` are the pickups
    that it leaves out.
    """
    done = assess(project, all_scenarios(project))
    return Proposal("", "", project, done, judge(done), *taken_to_make(project, done), stranded)


def quickly_laid(
    project: Project, trees: int, seed: int = 0, *, only_unconnected: bool = False
) -> Proposal | None:
    """One layout of the least duct in sizes by rule, for comparing; None where nothing can be laid.

    `only_unconnected` leaves all that is drawn as it is.
    """
    search = _Proposing(project, only_unconnected, None, seed, lambda: True, lambda found: None)
    return search.quick(trees) if search.kept.wanted else None


def _not_empty(shares: Mapping[str, Sequence[str]]) -> Assigned:
    return {ident: tuple(refs) for ident, refs in shares.items() if refs}


def _most_reached(layout: Layout) -> tuple[int, float]:
    return len(layout.stranded), layout.cost


@dataclass
class _Strategy:
    """How a layout is chosen: along the walls or freely, for the least duct or the best air, in one
    size or stepped.
    """

    name: str
    # Trees are grown for each; so many for all of them together.
    likings: tuple[Liking, ...] = (ANYWHERE,)
    least_duct: bool = False
    uniform: bool = False
    trees: int = TREES
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


class _Proposing:
    """One search for proposals."""

    def __init__(
        self,
        project: Project,
        only_unconnected: bool,
        most: int | None,
        seed: int,
        should_continue: ShouldContinue,
        on_progress: OnProgress,
    ) -> None:
        self.project, self.seed, self.on_progress = project, seed, on_progress
        self.should_continue, self._most = should_continue, most
        self._only_unconnected, self._began = only_unconnected, time.monotonic()
        self.kept = kept(project, only_unconnected)
        self.found: list[Proposal] = []
        self._first: list[Proposal] = []
        self.tried = 0
        # By a site and what is liked.
        self._trees: dict[tuple[object, ...], _Growth] = {}
        # By the `id` of a tree, all of which `_trees` keeps.
        self._tight: dict[int, int] = {}
        self._rest: dict[int, int] = {}
        self._grounds: dict[tuple[object, ...], Grounds] = {}
        self._spaces: dict[int, tuple[Project, DuctSpace]] = {}
        self._stranded: dict[str, str] = {}
        self._tuned: dict[object, SizeSearch] = {}

    @property
    def _enough(self) -> bool:
        """Whether no other way of laying them is asked for."""
        return self._most is not None and len(self._laid_any()) >= self._most

    # -- what is asked

    @cached_property
    def assigned(self) -> Assigned:
        """The pickups that wait, by the collector that they are led to."""
        base = self.kept.base
        wide = [c for c in base.collectors if c.inlet >= SMALL_INLET] or list(base.collectors)
        found: dict[str, list[str]] = {item.id: [] for item in wide}
        for ref in self.kept.wanted:
            x, y, _ = position(base, ref)
            near = min(wide, key=lambda c: math.dist(position(base, c.id)[:2], (x, y)))
            found[near.id].append(ref)
        return _not_empty(found)

    def _check(self) -> None:
        base = self.kept.base
        if not base.collectors:
            raise RefusedEdit(
                "the ducts", "laying them without a collector", "put a collector in first (stage 3)"
            )
        if not any(machine.pickups for machine in base.machines):
            raise RefusedEdit(
                "the ducts",
                "laying them to nothing",
                "put down a machine with a port first (stage 2)",
            )
        if not self.kept.wanted and self.kept.loose:
            attempt = "connecting what pinned ducts hold that lead to no collector"
            raise RefusedEdit("the ducts", attempt, "lead those to a collector, or unpin them")
        if not self.kept.wanted:
            raise RefusedEdit(
                "the ducts", "connecting what is connected already", "delete a duct, or unpin it"
            )

    def notes(self) -> tuple[str, ...]:
        """What cannot be laid, and why."""
        names = Names(self.kept.base)
        found = [
            f"{m.name} has no port: give it a hood or a sweep first."
            for m in self.project.machines
            if not m.pickups
        ]
        found += [
            f"{names.start(run)} is pinned but leads to no collector: lead it there, or unpin it."
            for run in self.kept.loose
        ]
        return (*found, *self._stranded_for())

    def _stranded_for(self) -> list[str]:
        """Why pickups found no way, one sentence for all that found none for the same reason."""
        names, alike = Names(self.kept.base), defaultdict(list)
        for ref, why in self._stranded.items():
            alike[why].append(names.start(ref))
        return [
            f"{who[0]}{f' and {len(who) - 1} more' if len(who) > 1 else ''}: {why}"
            for why, who in alike.items()
        ]

    def _not_all(self, rows: Sequence[Proposal]) -> tuple[str, ...]:
        """That not all are served by any row, where that is so."""
        said = not_all(rows, self._stranded) if rows else ""
        return (said,) if said else ()

    # -- the search

    def all(self) -> Proposals:
        """Every proposal, the best first."""
        self._check()
        self._sketch()
        # The most promising first: whoever stops early has the best of what was tried.
        for strategy in self._strategies():
            if self._enough or not self.should_continue():
                break
            self._take(self._made(strategy))
        if not self._enough and self.should_continue():
            self._take(self._with_vacuum())
        if not self._enough and self.should_continue():
            self._take(self._shared_out_otherwise())
        if not self._enough and self.should_continue():
            self._take(self._with_moved_hose())
        # Nothing could be laid at all: the first reason says what would open a way.
        if not self._laid_any():
            why = self._stranded_for()
            first = (
                f"{why[0][:1].lower()}{why[0][1:]}".rstrip(".") if why else "choose another height"
            )
            raise RefusedEdit("the ducts", "laying any of them", first)
        return self._answer(self._enough or self.should_continue())

    def _sketch(self) -> None:
        """Tell of one layout at once, which is shown until the first one is worked out."""
        first = self.quick(SKETCHED)
        if first is not None:
            self._first = [
                replace(first, name="A first sketch", why=left_over(first.project, first.judgement))
            ]
            self.on_progress(self._answer(complete=False))

    def quick(self, trees: int) -> Proposal | None:
        """One layout, sized by the better of a rule and of one size for all; its why is not worked
        out.
        """
        project = self.kept.base
        stranded: list[str] = []
        for ident, refs in self.assigned.items():
            place = site(
                replace(self.kept, base=project), project.collector[ident], refs, self.seed
            )
            choice = self._laid(place, _Strategy("", least_duct=True, trees=trees, quick=True))
            if choice is None:
                return None
            layout, search = choice
            project = search.with_sizes(
                min([search.by_rule(), *search.uniforms()[:1]], key=search.key)
            )
            stranded += layout.stranded
        return as_laid(project, tuple(stranded))

    def _laid_any(self) -> list[Proposal]:
        """The proposals in which anything is laid."""
        return [p for p in self.found if p.project.runs != self.kept.base.runs]

    def _strategies(self) -> Iterator[_Strategy]:
        count = max(24, round(TREES * min(1.0, 14 / max(len(self.kept.wanted), 1))))
        few = min(FEW_TREES, count)
        yield _Strategy(LEAST_DUCT, least_duct=True, trees=few)
        yield _Strategy("One size", EITHER, trees=2 * count, uniform=True)
        yield _Strategy(MOST_AIR, EITHER, trees=2 * count)
        yield _Strategy("Along the walls", (Liking(HUG),), trees=count // 2)
        if is_low_under_slopes(self.kept.base):
            yield _Strategy("At the low side", (Liking(low_side=True),), trees=few)

    def _answer(self, complete: bool) -> Proposals:
        found = sorted(self._laid_any() or ([] if complete else self._first), key=lambda p: p.rank)
        kept, notes = self._that_can_be_built(found) if complete else (found, ())
        ranked = truly_named(unlike(kept))
        told = [
            replace(p, why=f"{p.why} {gave_up(p, ranked)}".strip()) if complete else p
            for p in ranked
        ]
        notes = (*self.notes(), *notes)
        if complete and self._present is not None:
            told = sorted([*told, self._present], key=lambda p: p.rank)
            if told[0] is self._present:
                notes = (*notes, NOTHING_BETTER)
        if complete:
            notes = (*notes, *self._not_all(told))
        return Proposals(
            tuple(told), self.tried, time.monotonic() - self._began, self.seed, notes, complete
        )

    def _that_can_be_built(self, found: list[Proposal]) -> tuple[list[Proposal], tuple[str, ...]]:
        """The proposals that can be put together as drawn, and how many were left out; all of them
        where none can.
        """
        drawn = BuildSet(self.kept.base).troubles
        stay = self.kept.base.run

        def goes_through(one: Proposal) -> bool:
            """Whether a new duct goes through something that stands there."""
            return any(
                hit.kind in SOLID and hit.element in one.project.run and hit.element not in stay
                for hit in one.judgement.hits
            )

        whole = [
            p
            for p in found
            if not any(item.is_fault for item in p.judgement.unbuildable - drawn)
            and not goes_through(p)
        ]
        left_out = len(found) - len(whole)
        if not whole or not left_out:
            return found, ()
        were = "1 layout was" if left_out == 1 else f"{left_out} layouts were"
        return whole, (f"{were} left out: no room for the pipes or the fittings.",)

    @cached_property
    def _present(self) -> Proposal | None:
        """What stands there now, as a row among the others; None where nothing is laid, or only
        what is not connected is asked about.
        """
        if not self.project.runs or self._only_unconnected:
            return None
        now = as_laid(self.project, ())
        why = left_over(self.project, now.judgement) or "All needs are met."
        return replace(now, name=AS_IT_IS, why=why)

    def _take(self, made: Proposal | None) -> None:
        """Keep a proposal that is none of those already found, and say so."""
        if made is None:
            return
        drawn = (made.project.points, made.project.runs, made.project.collectors)
        if all(
            (p.project.points, p.project.runs, p.project.collectors) != drawn for p in self.found
        ):
            self.found.append(made)
        self.on_progress(self._answer(complete=False))

    def _made(
        self,
        strategy: _Strategy,
        leave_out: frozenset[str] = frozenset(),
        assigned: Assigned | None = None,
    ) -> Proposal | None:
        """One strategy carried out for every collector in turn; each finds the ducts of those
        before it in place.
        """
        project = self.kept.base
        stranded: list[str] = []
        search: SizeSearch | None = None
        for ident, refs in (assigned or self.assigned).items():
            asked = tuple(ref for ref in refs if ref not in leave_out)
            if not asked:
                continue
            place = site(
                replace(self.kept, base=project), project.collector[ident], asked, self.seed
            )
            choice = self._laid(place, strategy)
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
        project = self._moved_apart(project)
        return self._proposal(strategy.name, project, search, tuple(stranded))

    def _laid(self, place: Site, strategy: _Strategy) -> tuple[Layout, SizeSearch] | None:
        """The layout that a strategy takes for one site, ready to be sized."""
        trees: list[Layout] = []
        grown_on: dict[int, Grounds] = {}
        for liking in strategy.likings:
            made = self._ground(place, liking)
            more = self._grown(place, made, liking, strategy.trees // len(strategy.likings))
            grown_on |= {id(layout): made for layout in more}
            trees += more
        trees.sort(key=_most_reached)
        for layout in trees[:1]:
            made = grown_on[id(layout)]
            self._stranded |= {ref: stranded_because(place, made, ref) for ref in layout.stranded}

        def sizing(layout: Layout) -> SizeSearch:
            return self._sizing(place, grown_on[id(layout)], layout, strategy)

        # Which tree is best shows only when it is sized; a few are.
        short = trees
        if not strategy.quick and trees:
            choice = TreeChoice(
                place,
                sizing,
                self._moved_apart,
                self.should_continue,
                self._tight,
                self._rest,
                rated=0 if strategy.rough else RATED,
            )
            short = choice.of(trees, strategy.least_duct)
        searches: list[tuple[Layout, SizeSearch]] = []
        for layout in short:
            if searches and (strategy.least_duct or not self.should_continue()):
                break
            search = sizing(layout)
            # A tree whose ducts would go through one another is given up while another is left.
            if layout is short[-1] or not crossings(search.project, search.runs):
                searches.append((layout, search))
        if not searches:
            return None
        if len(searches) == 1:
            return searches[0]
        return min(searches, key=lambda pair: pair[1].key(pair[1].by_rule()))

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
                self.on_progress(self._answer(complete=False))
        return sorted(growth.trees, key=_most_reached)

    def _moved_apart(self, project: Project) -> Project:
        """The project with its new joints moved apart until each has room for its fittings."""
        chosen = project.laying.height in LEVEL_CHOSEN
        return with_room_everywhere(project, frozenset(self.kept.base.point), levels=not chosen)

    def _sizing(
        self, place: Site, made: Grounds, layout: Layout, strategy: _Strategy
    ) -> SizeSearch:
        project, new = built(place, made, layout)
        sizes = allowed_sizes(project, place.collector.inlet)
        return SizeSearch(
            project, new, sizes, strategy.uniform, should_continue=self.should_continue
        )

    def _with_vacuum(self) -> Proposal | None:
        """The best layout for the wide ports, and a vacuum's hose for the small ones, where that
        serves more.
        """
        best = min(self.found, key=lambda p: p.rank, default=None)
        if best is None:
            return None
        small = with_vacuum(best.project, best.judgement, self.kept.wanted)
        if small is None:
            return None
        strategy = _Strategy(MOST_AIR, EITHER, trees=FEW_TREES, rough=True)
        made = self._made(strategy, small.refs)
        if made is None:
            return None
        project = small.added_to(made.project)
        found = self._proposal(
            "A vacuum for the small ports", project, None, made.stranded, small.words
        )
        return found if found.judgement.trouble < best.judgement.trouble else None

    def _shared_out_otherwise(self) -> Proposal | None:
        """The best layout in which the machines are led to other collectors than the nearest; None
        where that serves no better.
        """
        best = min(self.found, key=lambda p: p.rank, default=None)
        if best is None:
            return None
        made = []
        for assigned in self._other_shares(best):
            if not self.should_continue():
                break
            strategy = _Strategy(SHARED_OUT, EITHER, trees=FEW_TREES)
            one = self._made(strategy, assigned=assigned)
            if one is not None:
                made.append(replace(one, why=f"{self._shares(assigned)} {one.why}"))
        good = [one for one in made if one.rank < best.rank]
        return min(good, key=lambda one: one.rank, default=None)

    def _shares(self, assigned: Assigned) -> str:
        """Which machines are led to which collector, in a sentence each."""
        base = self.kept.base
        said = []
        for ident, refs in assigned.items():
            machines = dict.fromkeys(base.pickup[ref][0].name.lower() for ref in refs)
            said.append(f"To the {base.collector[ident].name}: {', '.join(machines)}.")
        return " ".join(said)

    def _other_shares(self, best: Proposal) -> Iterator[Assigned]:
        """Who leads where, otherwise than to the nearest: what is not served by one collector to
        another one, and all to one alone.
        """
        base = self.kept.base
        wide = [c.id for c in base.collectors if c.inlet >= SMALL_INLET]
        if len(wide) < 2:
            return
        failing = {
            ref for (_, ref), p in best.judgement.pickups.items() if not (p.met and p.carried)
        }
        for other in wide:
            shares: dict[str, list[str]] = {ident: [] for ident in wide}
            for ident, refs in self.assigned.items():
                for ref in refs:
                    shares[other if ref in failing else ident].append(ref)
            yield _not_empty(shares)
        for alone in wide:
            yield {alone: self.kept.wanted}

    def _with_moved_hose(self) -> Proposal | None:
        """One hose that is moved about instead of ducts, where that serves more than they do."""
        base = self.kept.base
        if base.runs or len(self.assigned) != 1 or not self.found:
            return None
        ((ident, refs),) = self.assigned.items()
        moved = moved_hose(base, base.collector[ident], refs)
        if moved is None:
            return None
        name = "One hose moved about" if len(refs) > 1 else "One hose"
        made = self._proposal(name, moved.project, None, moved.out_of_reach, moved.words)
        best = min(self.found, key=lambda p: p.rank)
        return made if made.rank < best.rank or made.served > best.served else None

    # -- what is said of it

    def _proposal(
        self,
        name: str,
        project: Project,
        search: SizeSearch | None,
        stranded: tuple[str, ...],
        words: str = "",
    ) -> Proposal:
        done = assess(project, all_scenarios(project))
        judged = judge(done)
        counts = taken_to_make(project, done)
        why = " ".join(
            part
            for part in (words, reason(project, judged, search), left_over(project, judged))
            if part
        )
        return Proposal(name, why, project, done, judged, *counts, stranded)

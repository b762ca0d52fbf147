"""Whole layouts of ducts proposed for a shop: a few that differ, each judged by the one judgement,
with its why.
"""

from __future__ import annotations

import time
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import cached_property
from typing import NamedTuple

from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.judgement import judge
from grey_current.design.laying.free_ground import is_low_under_slopes
from grey_current.design.laying.kept import kept
from grey_current.design.laying.lattice import ACROSS
from grey_current.design.laying.moved_hose import moved_hose
from grey_current.design.laying.proposal import (
    BY_WALLS,
    LEAST_DUCT,
    MOST_AIR,
    Proposal,
    Proposals,
    as_laid,
    taken_to_make,
    truly_named,
    unlike,
)
from grey_current.design.laying.reasons import gave_up, left_over, not_all, reason
from grey_current.design.laying.search import ANYWHERE, HUG, Liking, site
from grey_current.design.laying.shares import not_empty, shared_otherwise, shares_words, to_nearest
from grey_current.design.laying.sizes import SizeSearch
from grey_current.design.laying.small_ports import with_vacuum
from grey_current.design.laying.strategy import Assigned, Laying, Strategy
from grey_current.design.parts.buildable import BuildSet
from grey_current.errors import RefusedEdit
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.places import position
from grey_current.units import Display
from grey_current.workers.pool import ALONE, Crew

ShouldContinue = Callable[[], bool]
# Trees grown for a site, and half as many along the walls; fewer where there are many pickups.
TREES = 130
# Trees of which the first proposal is taken.
FEW_TREES = 30
# Trees of which the first sketch is taken.
SKETCHED = 8
# Square to the walls, or across the room where that saves the air a way.
EITHER = (ANYWHERE, Liking(aslant=ACROSS))

# The row in which they are led to others than the nearest.
SHARED_OUT = "Shared out otherwise"
# The row of what stands there now, and what is said where it is the first.
AS_IT_IS = "As it is now"
NOTHING_BETTER = "Nothing found is better than what you have."
NONE_HOLDS = (
    "No layout found can be put together as it is drawn: choose another height, let it pass a "
    "wall, or move what stands in the way."
)

OnProgress = Callable[[Proposals], None]

# Hits that no layout may have: what a duct would go through.
SOLID = ("beam", "thing", "machine", "duct", "ceiling")


def propose(
    project: Project,
    *,
    only_unconnected: bool = False,
    most: int | None = None,
    seed: int = 0,
    should_continue: ShouldContinue = lambda: True,
    on_progress: OnProgress = lambda found: None,
    crew: Crew = ALONE,
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
    crew
        Helpers that carry out some of the ways to lay them; the answer is the same without.

    Raises
    ------
    RefusedEdit
        When there is no collector, nothing to connect, or no way for anything.
    """
    search = _Proposing(project, only_unconnected, most, seed, should_continue, on_progress)
    return search.all(crew)


def quickly_laid(
    project: Project, trees: int, seed: int = 0, *, only_unconnected: bool = False
) -> Proposal | None:
    """One layout of the least duct in sizes by rule, for comparing; None where nothing can be laid.

    `only_unconnected` leaves all that is drawn as it is.
    """
    search = _Proposing(project, only_unconnected, None, seed, lambda: True, lambda found: None)
    return search.quick(trees) if search.kept.wanted else None


def well_laid(project: Project, seed: int = 0) -> Proposal | None:
    """One layout for the most air, as it is offered among others; None where nothing can be laid.
    Raises nothing.
    """
    search = _Proposing(project, False, None, seed, lambda: True, lambda found: None)
    if not search.kept.wanted:
        return None
    made = search.group((Strategy(MOST_AIR, EITHER, trees=FEW_TREES),))
    return made[0] if made else None


def _worth_a_row(found: list[Proposal]) -> list[Proposal]:
    """The proposals without those that lead to fewer pickups than others and serve no more."""
    least = min((len(p.stranded) for p in found), default=0)
    most = max((p.served[0] for p in found if len(p.stranded) == least), default=0)
    return [p for p in found if len(p.stranded) == least or p.served[0] > most]


class _Row(NamedTuple):
    """A proposal as a helper sends it: its air is quicker computed again than sent."""

    name: str
    why: str
    project: Project
    stranded: tuple[str, ...]

    def proposal(self) -> Proposal:
        """The proposal, its air computed."""
        return replace(as_laid(self.project, self.stranded), name=self.name, why=self.why)


class _Found(NamedTuple):
    """What some strategies come to: their rows, how many trees were tried, and why pickups found no
    way.
    """

    rows: tuple[_Row, ...]
    tried: int
    stranded: dict[str, str]
    lowered: frozenset[str] = frozenset()


class _LayingRequest(NamedTuple):
    """What a helper is sent: the shop, what is asked of it, and strategies, some at a time."""

    project: Project
    only_unconnected: bool
    seed: int
    groups: tuple[tuple[Strategy, ...], ...]


class WorkerTask:
    """Groups of strategies, as a helper carries them out."""

    def __init__(self, sent: _LayingRequest, last: object) -> None:
        del last
        self._sent = sent

    def part(self, number: int) -> _Found:
        """What one group comes to."""
        sent = self._sent
        search = _Proposing(
            sent.project, sent.only_unconnected, None, sent.seed, lambda: True, lambda found: None
        )
        made = search.group(sent.groups[number])
        # Without what is cached in a project, which would be sent with it.
        rows = tuple(_Row(p.name, p.why, p.project.replaced(), p.stranded) for p in made)
        return _Found(rows, search.tried, search.stranded, frozenset(search.lowered))


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
        self.stranded: dict[str, str] = {}
        self.lowered: set[str] = set()
        self._under_way: Laying | None = None

    @property
    def _enough(self) -> bool:
        """Whether no other way of laying them is asked for."""
        return self._most is not None and len(self._laid_any()) >= self._most

    # -- what is asked

    @cached_property
    def assigned(self) -> Assigned:
        """The pickups that wait, by the collector that they are led to."""
        # Shared out by distance first; other shares are tried when the best of these is known.
        return to_nearest(self.kept.base, self.kept.wanted)

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
        return (*found, *self._lowered_for(), *self._stranded_for())

    def _lowered_for(self) -> list[str]:
        """Which mains lie lower than was chosen, and why."""
        base = self.kept.base
        say = Display(base.settings.units).about
        chosen = base.laying.height
        return [
            f"{chosen[:1].upper()}{chosen[1:]} not all is reached: the main lies at the "
            f"{base.collector[ident].name.lower()}'s inlet, {say(position(base, ident)[2])} up."
            for ident in sorted(self.lowered)
        ]

    def _stranded_for(self) -> list[str]:
        """Why pickups found no way, one sentence for all that found none for the same reason."""
        names, alike = Names(self.kept.base), defaultdict(list)
        for ref, why in self.stranded.items():
            alike[why].append(names.start(ref))
        return [
            f"{who[0]}{f' and {len(who) - 1} more' if len(who) > 1 else ''}: {why}"
            for why, who in alike.items()
        ]

    def _not_all(self, rows: Sequence[Proposal]) -> tuple[str, ...]:
        """That not all are served by any row, where that is so."""
        said = not_all(rows, self.stranded) if rows else ""
        return (said,) if said else ()

    # -- the search

    def all(self, crew: Crew) -> Proposals:
        """Every proposal, the best first."""
        self._check()
        self._sketch()
        self._carry_out(crew)
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
        # What stands in a sketch's way is looked for again with more trees.
        self.stranded = {}
        if first is not None:
            self._first = [
                replace(first, name="A first sketch", why=left_over(first.project, first.judgement))
            ]
            self.on_progress(self._answer(complete=False))

    def quick(self, trees: int) -> Proposal | None:
        """One layout, sized by the better of a rule and of one size for all; its why is not worked
        out.
        """
        project, laying = self.kept.base, self._laying()
        stranded: list[str] = []
        for ident, refs in self.assigned.items():
            place = site(
                replace(self.kept, base=project), project.collector[ident], refs, self.seed
            )
            choice = laying.laid(place, Strategy("", least_duct=True, trees=trees, quick=True))
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

    def _groups(self) -> tuple[tuple[Strategy, ...], ...]:
        """The strategies, those together that share their trees. Where few proposals are asked for
        the quickest come first, else those that take longest: they are begun at once.
        """
        count = max(24, round(TREES * min(1.0, 14 / max(len(self.kept.wanted), 1))))
        few = min(FEW_TREES, count)
        least = (Strategy(LEAST_DUCT, least_duct=True, trees=few),)
        most = (
            Strategy("One size", EITHER, trees=2 * count, uniform=True),
            Strategy(MOST_AIR, EITHER, trees=2 * count),
        )
        along = [Strategy(BY_WALLS, (Liking(HUG),), trees=count // 2)]
        if is_low_under_slopes(self.kept.base):
            along.append(Strategy("At the low side", (Liking(low_side=True),), trees=few))
        # Asked for few, one wants to be done soon; asked for all, the longest is begun first.
        if self._most is not None:
            return least, most, tuple(along)
        return most, least, tuple(along)

    def _carry_out(self, crew: Crew) -> None:
        """All strategies, some of them by helpers; what they find stands in the same order
        whoever does them.
        """
        groups = self._groups()
        own: dict[int, list[Proposal]] = {}

        def here(number: int) -> _Found:
            # What is laid here has its air already; a helper sends the ducts alone.
            own[number] = [] if self._enough else self.group(groups[number])
            return _Found((), 0, {})

        project = self.project.replaced()  # without all that is cached in it: it is sent
        sent = _LayingRequest(project, self._only_unconnected, self.seed, groups)
        done = crew.share(WorkerTask, sent, len(groups), here, self.should_continue)
        rows: list[Proposal] = []
        for number in range(len(groups)):
            if number in own:
                rows += own[number]
            elif done is not None:
                self.tried += done[number].tried
                self.stranded |= done[number].stranded
                self.lowered |= done[number].lowered
                rows += [row.proposal() for row in done[number].rows]
        self.found = []
        for proposal in rows:
            self._add(proposal)
        self.on_progress(self._answer(complete=False))

    def group(self, strategies: Sequence[Strategy]) -> list[Proposal]:
        """Strategies that share their trees, carried out here."""
        laying, made = self._laying(), []
        for strategy in strategies:
            if self._enough or not self.should_continue():
                break
            proposal = self._made(laying, strategy, self.assigned)
            if proposal is not None:
                made.append(proposal)
                self._take(proposal)
        self._count(laying)
        return made

    def _laying(self) -> Laying:
        self._under_way = Laying(self.kept, self.seed, self.should_continue, self._tell_tried)
        return self._under_way

    def _tell_tried(self) -> None:
        self.on_progress(self._answer(complete=False))

    def _count(self, laying: Laying) -> None:
        """Add up what was tried and what stood in the way."""
        self._under_way = None
        self.tried += laying.tried
        self.stranded |= laying.stranded
        self.lowered |= laying.lowered

    def _made(self, laying: Laying, strategy: Strategy, assigned: Assigned) -> Proposal | None:
        laid = laying.carried_out(strategy, assigned)
        if laid is None:
            return None
        return self._proposal(strategy.name, laid.project, laid.search, laid.stranded)

    def _answer(self, complete: bool) -> Proposals:
        # A sketch stands there only until something better does.
        found = sorted(self._laid_any() or ([] if complete else self._first), key=lambda p: p.rank)
        kept, notes = self._that_can_be_built(found) if complete else (found, ())
        ranked = truly_named(unlike(_worth_a_row(kept)))
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
        under_way = self._under_way.tried if self._under_way is not None else 0
        return Proposals(
            tuple(told),
            self.tried + under_way,
            time.monotonic() - self._began,
            self.seed,
            notes,
            complete,
        )

    def _that_can_be_built(self, found: list[Proposal]) -> tuple[list[Proposal], tuple[str, ...]]:
        """The proposals that can be put together as drawn, and how many were left out; all of them
        where none can, and that.
        """
        # What stood there before the search is not the search's fault.
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
        if not left_out:
            return found, ()
        if not whole:
            return found, (NONE_HOLDS,)
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
        if made is not None:
            self._add(made)
            self.on_progress(self._answer(complete=False))

    def _add(self, made: Proposal) -> None:
        drawn = (made.project.points, made.project.runs, made.project.collectors)
        if all(
            (p.project.points, p.project.runs, p.project.collectors) != drawn for p in self.found
        ):
            self.found.append(made)

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
        strategy = Strategy(MOST_AIR, EITHER, trees=FEW_TREES, rough=True)
        laying = self._laying()
        # The ducts are laid once more for the wide ports alone: without the small ones they may
        # be wider.
        left = {
            ident: [ref for ref in refs if ref not in small.refs]
            for ident, refs in self.assigned.items()
        }
        laid = laying.carried_out(strategy, not_empty(left))
        self._count(laying)
        if laid is None:
            return None
        project = small.added_to(laid.project)
        found = self._proposal(
            "A vacuum for the small ports", project, None, laid.stranded, small.words
        )
        return found if found.judgement.trouble < best.judgement.trouble else None

    def _shared_out_otherwise(self) -> Proposal | None:
        """The best layout in which the machines are led to other collectors than the nearest; None
        where that serves no better.
        """
        best = min(self.found, key=lambda p: p.rank, default=None)
        if best is None:
            return None
        made, laying = [], self._laying()
        for assigned in shared_otherwise(
            self.kept.base, self.kept.wanted, self.assigned, best.judgement
        ):
            if not self.should_continue():
                break
            strategy = Strategy(SHARED_OUT, EITHER, trees=FEW_TREES)
            one = self._made(laying, strategy, assigned)
            if one is not None:
                made.append(replace(one, why=f"{shares_words(self.kept.base, assigned)} {one.why}"))
        self._count(laying)
        good = [one for one in made if one.rank < best.rank]
        return min(good, key=lambda one: one.rank, default=None)

    def _with_moved_hose(self) -> Proposal | None:
        """One hose that is moved about instead of ducts, where that serves more than they do."""
        base = self.kept.base
        # One hose for all asks for one collector, and for nothing that is drawn already.
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
        # Judged by what is drawn in the end, never by what the search thought of it on the way.
        counts = taken_to_make(project, done)
        why = " ".join(
            part
            for part in (words, reason(project, judged, search), left_over(project, judged))
            if part
        )
        return Proposal(name, why, project, done, judged, *counts, stranded)

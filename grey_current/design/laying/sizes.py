"""The size of every rigid duct by search over the sizes that are sold, never smaller towards the
collector.

What has one airflow has one size: a branch segment, from junction to junction. Each choice is
judged with every scenario solved; chips that lie come before spare air, and of equal air the
smaller pipe.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property

from grey_current.air.needs import TRANSPORT_VELOCITY
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import all_scenarios, need
from grey_current.design.judgement import Judgement, air_judgement
from grey_current.shop.catalogue import FITS_OVER, materials, pipe_sizes, size_for_port
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.ducts import Run
from grey_current.shop.model import Project
from grey_current.shop.places import distance

ShouldContinue = Callable[[], bool]
Sizes = tuple[int, ...]
"""For each segment the place of its size in the list of those allowed."""
Key = tuple[float, float, float]

EXACT = 120
"""Choices up to which all are tried, so that the best is known to be the best."""
MOST_SWEEPS = 6
MOST_JUDGED, LEAST_JUDGED, SHARED = 110, 70, 5000
"""Choices that one walk of small steps judges at most: so many segments share so many of them."""


def allowed_sizes(project: Project, inlet: float) -> tuple[float, ...]:
    """The sizes (m) that ducts may have, smallest first: those chosen or all that are sold, none
    wider than the inlet.

    Where none is left, the widest that is sold and no wider than the inlet, or the smallest.
    """
    sold = pipe_sizes(project)
    chosen = sorted(project.laying.sizes or sold)
    narrow = [size for size in chosen if size <= inlet + FITS_OVER]
    return tuple(narrow) or (max((s for s in sold if s <= inlet + FITS_OVER), default=sold[0]),)


@dataclass(frozen=True)
class Segment:
    """Runs that carry the same air and are of one size: which, their length (m), the segment that
    they lead to.

    `least` and `most` are the places in the list of the smallest size that it may have, for what it
    takes up, and of the widest, for the duct that stays and that it leads to.
    """

    runs: tuple[str, ...]
    length: float
    after: int | None
    least: int
    most: int


@dataclass
class SizeSearch:
    """A search for the sizes of some runs of a project; all others stay as they are.

    `uniform` asks for one size for all of them, as far as their ports allow; `start` is a choice to
    begin at.
    """

    project: Project
    runs: frozenset[str]
    sizes: tuple[float, ...]
    uniform: bool = False
    exact: int = EXACT
    start: Sizes | None = None
    should_continue: ShouldContinue = lambda: True

    def __post_init__(self) -> None:
        self._scenarios = all_scenarios(self.project)
        self.known: dict[Sizes, tuple[Key, Judgement]] = {}
        self._last: Assessment | None = None
        self._best: Sizes | None = None

    @cached_property
    def segments(self) -> tuple[Segment, ...]:
        """What is sized, those farther from the collector first."""
        paths = AirPaths(self.project)
        rigid = [
            run
            for run in self.project.runs
            if run.id in self.runs and not materials()[run.material].hose
        ]
        chains: dict[tuple[str, ...], None] = {}
        for run in rigid:
            chain = tuple(r for r in paths.branch_segment(run.id) if r in {one.id for one in rigid})
            chains.setdefault(chain)
        number = {run: i for i, chain in enumerate(chains) for run in chain}
        found = []
        for chain in chains:
            after = paths.next_run(chain[-1])
            length = sum(distance(self.project, self.project.run[run]) for run in chain)
            follows = number.get(after.id) if after is not None else None
            most = len(self.sizes) - 1
            if after is not None and follows is None:
                fits = [
                    i for i, size in enumerate(self.sizes) if size <= after.diameter + FITS_OVER
                ]
                most = fits[-1] if fits else 0
            found.append(Segment(chain, length, follows, self._least(chain), most))
        return _no_narrower_than_before(found)

    def _least(self, chain: tuple[str, ...]) -> int:
        """The smallest size of a segment: that of the port or of the duct that stays and leads into
        it.
        """
        ends = {end for run in chain for end in self.project.run[run].ends}
        inner = set(chain)
        wide = 0.0
        for run in self.project.runs:
            if run.id in inner or (run.id in self.runs and not materials()[run.material].hose):
                continue
            if {run.start, run.end} & ends and self._leads_into(run, inner):
                ports = [ref for ref in run.serves if ref in self.project.pickup]
                port = max((self.project.pickup[ref][1].port for ref in ports), default=0.0)
                wide = max(wide, size_for_port(self.project, port) if port else run.diameter)
        for ref in ends & set(self.project.pickup):
            wide = max(wide, size_for_port(self.project, self.project.pickup[ref][1].port))
        return next(
            (i for i, size in enumerate(self.sizes) if size >= wide - FITS_OVER),
            len(self.sizes) - 1,
        )

    def _leads_into(self, run: Run, inner: set[str]) -> bool:
        after = self._paths.next_run(run.id)
        return after is not None and after.id in inner

    @cached_property
    def _paths(self) -> AirPaths:
        return AirPaths(self.project)

    # -- judging a choice

    def with_sizes(self, chosen: Sizes) -> Project:
        """The project with a choice made."""
        bores = {
            run: self.sizes[at]
            for segment, at in zip(self.segments, chosen, strict=True)
            for run in segment.runs
        }
        return self.project.replaced(
            runs=tuple(
                run.model_copy(update={"diameter": bores[run.id]}) if run.id in bores else run
                for run in self.project.runs
            )
        )

    def key(self, chosen: Sizes) -> Key:
        """What a choice is worth; smaller is better: trouble, margin (less is worse), pipe to be
        bought (m²).
        """
        if chosen not in self.known:
            answer = assess(self.with_sizes(chosen), self._scenarios, self._last)
            self._last = self._last or answer
            judged = air_judgement(answer)
            pipe = sum(
                self.sizes[at] * segment.length
                for segment, at in zip(self.segments, chosen, strict=True)
            )
            self.known[chosen] = (round(judged.trouble, 4), -round(judged.margin, 3), pipe), judged
        return self.known[chosen][0]

    def judged(self, chosen: Sizes) -> Judgement:
        """The judgement of the air of a choice."""
        self.key(chosen)
        return self.known[chosen][1]

    def only(self, chosen: Sizes) -> SizeSearch:
        """This search, ended with a choice."""
        self._best = chosen
        return self

    # -- searching

    def best(self) -> Sizes:
        """The best choice found."""
        if self._best is None:
            self._best = self._found()
        return self._best

    def _found(self) -> Sizes:
        if not self.segments:
            return ()
        if self.uniform:
            return self.uniforms()[0]
        if self.exact and len(every := list(self._all(self.exact))) <= self.exact:
            return min(every, key=self.key)
        if self.start is not None:
            return self._improved(self.start)
        return self._improved(min({*self._uniform(), self.by_rule()}, key=self.key))

    def uniforms(self) -> list[Sizes]:
        """One size for all, in each of the sizes, the best first."""
        return sorted(self._uniform(), key=self.key)

    def by_rule(self) -> Sizes:
        """Each segment so wide that the largest need of what it takes up just carries chips."""
        flows = self._flows()
        area = [flow / TRANSPORT_VELOCITY["dry dust"] for flow in flows]
        wide = [
            max(self._fitting(a), segment.least)
            for a, segment in zip(area, self.segments, strict=True)
        ]
        return self._mended(wide)

    def _fitting(self, area: float) -> int:
        """The widest size whose area (m²) is no larger than one that carries."""
        fits = [i for i, size in enumerate(self.sizes) if 0.7854 * size * size <= area * 1.05]
        return fits[-1] if fits else 0

    def _flows(self) -> list[float]:
        """For each segment the largest airflow (m³/s) that is needed through it at one time."""
        at = {run: i for i, segment in enumerate(self.segments) for run in segment.runs}
        passes: dict[str, set[int]] = {}
        for run in self.project.runs:
            for ref in run.touches:
                if ref in self.project.pickup:
                    passes[ref] = {
                        at[passed] for passed in self._paths.onward(run.id) if passed in at
                    }
        flows = [0.0] * len(self.segments)
        for scenario in self._scenarios:
            sums = [0.0] * len(self.segments)
            for ref, numbers in passes.items():
                machine, pickup = self.project.pickup[ref]
                if scenario.uses(machine.id, pickup.id):
                    for number in numbers:
                        sums[number] += need(pickup, self.project.settings).airflow
            flows = [max(a, b) for a, b in zip(flows, sums, strict=True)]
        return flows

    def _uniform(self) -> list[Sizes]:
        """One size for all, or what their ports ask for where that is more."""
        return [
            self._mended([max(at, s.least) for s in self.segments]) for at in range(len(self.sizes))
        ]

    def _all(self, most: int) -> Iterator[Sizes]:
        """Every choice in which no duct is smaller towards the collector, up to one more than
        `most`.
        """

        def further(done: dict[int, int], left: list[int]) -> Iterator[dict[int, int]]:
            if not left:
                yield done
                return
            number, rest = left[0], left[1:]
            after = self.segments[number].after
            top = done[after] if after is not None else self.segments[number].most
            least = self.segments[number].least
            for at in range(least, max(top, least) + 1):
                yield from further({**done, number: at}, rest)

        for one in itertools.islice(further({}, self._downstream_first()), most + 1):
            yield tuple(one[i] for i in range(len(self.segments)))

    def _downstream_first(self) -> list[int]:
        order: list[int] = []
        left = list(range(len(self.segments)))
        while left:
            ready = [
                i for i in left if self.segments[i].after is None or self.segments[i].after in order
            ]
            order += ready
            left = [i for i in left if i not in ready]
        return order

    def _mended(self, chosen: list[int]) -> Sizes:
        """A choice in which no duct is smaller towards the collector: what is downstream made wider
        where it must.
        """
        for number in reversed(self._downstream_first()):
            after = self.segments[number].after
            if after is not None and chosen[after] < chosen[number]:
                chosen[after] = chosen[number]
        for number in self._downstream_first():
            segment = self.segments[number]
            top = segment.most if segment.after is None else chosen[segment.after]
            chosen[number] = max(min(chosen[number], top), segment.least)
        return tuple(chosen)

    def _improved(self, chosen: Sizes) -> Sizes:
        """The best that small steps from a choice lead to, as far as the number of choices to be
        judged goes.
        """
        most = len(self.known) + min(MOST_JUDGED, max(LEAST_JUDGED, SHARED // len(self.segments)))
        for _ in range(MOST_SWEEPS):
            before = chosen
            for changed in self._steps():
                if len(self.known) >= most or not self.should_continue():
                    return chosen
                if self.key(changed(chosen)) < self.key(chosen):
                    chosen = changed(chosen)
            if chosen == before:
                break
        return chosen

    def _steps(self) -> Iterator[Callable[[Sizes], Sizes]]:
        """Ways to change a choice: one segment, one with all upstream of it, one with all
        downstream of it.

        Those next to the collector come first, for they matter to most.
        """
        for number in self._downstream_first():
            for step in (1, -1):
                for group in self._groups(number):
                    yield lambda now, g=group, s=step: self.resized(now, g, s)  # type: ignore[misc]

    def _groups(self, number: int) -> list[tuple[int, ...]]:
        up = tuple(i for i in range(len(self.segments)) if number in self._path(i))
        down = tuple(self._path(number))
        return list(dict.fromkeys([(number,), up, down]))

    def _path(self, number: int) -> list[int]:
        found = [number]
        while (after := self.segments[found[-1]].after) is not None:
            found.append(after)
        return found

    def resized(self, chosen: Sizes, group: tuple[int, ...], step: int) -> Sizes:
        """A choice with some segments a size wider (1) or narrower (-1), and with them what that
        makes misfit.
        """
        made = list(chosen)
        for number in group:
            made[number] = min(
                max(made[number] + step, self.segments[number].least), len(self.sizes) - 1
            )
        if step < 0:
            for number in self._downstream_first():
                after = self.segments[number].after
                if after is not None and made[number] > made[after]:
                    made[number] = max(made[after], self.segments[number].least)
        return self._mended(made)


def _no_narrower_than_before(segments: list[Segment]) -> tuple[Segment, ...]:
    """The segments, each with the least size of all that leads into it, so that every choice can be
    gone on with.
    """
    least = [segment.least for segment in segments]
    for segment in segments:
        here = segment.after
        while here is not None:
            least[here] = max(least[here], segment.least)
            here = segments[here].after
    return tuple(replace(segment, least=least[i]) for i, segment in enumerate(segments))


def size_runs(project: Project) -> frozenset[str]:
    """The rigid runs that may be given another size: all that lead to a collector and are not
    pinned.
    """
    down = AirPaths(project).down
    return frozenset(
        run.id
        for run in project.runs
        if run.id in down and not run.pinned and not materials()[run.material].hose
    )

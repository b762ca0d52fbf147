"""The size of every rigid duct, by search over the sizes that are sold.

Each choice is judged with every scenario solved; chips that lie come before spare air, and of equal
air the smaller pipe.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from grey_current.air.needs import TRANSPORT_VELOCITY
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import all_scenarios, need
from grey_current.design.judgement import Judgement, air_judgement
from grey_current.design.laying.segments import Sizes, segments_of
from grey_current.shop.catalogue import FITS_OVER, materials, pipe_sizes
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.ducts import Run
from grey_current.shop.model import Project

ShouldContinue = Callable[[], bool]
Key = tuple[float, float, float]

# Choices up to which all are tried, so that the best is known to be the best.
EXACT = 120
MOST_SWEEPS = 6
# Choices that one walk of small steps judges at most: so many segments share so many of them.
MOST_JUDGED, LEAST_JUDGED, SHARED = 110, 70, 5000


def allowed_sizes(project: Project, inlet: float) -> tuple[float, ...]:
    """The sizes (m) that ducts may have, smallest first, none wider than the inlet.

    They are those that the user chose, or all that are sold. Where none is left, it is the widest
    that is sold and no wider than the inlet, or the smallest.
    """
    sold = pipe_sizes(project)
    chosen = sorted(project.laying.sizes or sold)
    narrow = [size for size in chosen if size <= inlet + FITS_OVER]
    return tuple(narrow) or (max((s for s in sold if s <= inlet + FITS_OVER), default=sold[0]),)


@dataclass
class SizeSearch:
    """A search for the sizes of some runs of a project; all others stay as they are.

    Attributes:
        uniform: One size for all of them, as far as their ports allow.
        exact: Choices up to which all are tried.
        start: A choice to begin at.
        known: Every choice that was judged, with what it is worth.
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
        self.segments = segments_of(self.project, self.runs, self.sizes)
        self.known: dict[Sizes, tuple[Key, Judgement]] = {}
        self._before: Assessment | None = None
        self._best: Sizes | None = None
        self._rule: Sizes | None = None
        self._runs: dict[tuple[str, float], Run] = {}

    # -- judging a choice

    def with_sizes(self, chosen: Sizes) -> Project:
        """The project with a choice made."""
        runs = []
        for run in self.project.runs:
            segment = self.segments.number_of.get(run.id)
            if segment is None:
                runs.append(run)
            else:
                runs.append(self._as_wide(run, self.sizes[chosen[segment]]))
        return self.project.replaced(runs=tuple(runs))

    def _as_wide(self, run: Run, diameter: float) -> Run:
        """A run in a size (m): the very same value each time, so that the next choice is seen at
        once to differ only where it does.
        """
        if (run.id, diameter) not in self._runs:
            self._runs[run.id, diameter] = run.model_copy(update={"diameter": diameter})
        return self._runs[run.id, diameter]

    def key(self, chosen: Sizes) -> Key:
        """What a choice is worth; smaller is better.

        Trouble comes first, then the margin (less is worse), then pipe to be bought (m²).
        """
        if chosen not in self.known:
            answer = assess(self.with_sizes(chosen), self._scenarios, self._before)
            self._before = self._before_next(answer)
            judged = air_judgement(answer)
            pipe = 0.0
            for segment, at in zip(self.segments.each, chosen, strict=True):
                pipe += self.sizes[at] * segment.length
            # Rounded, so that two ways to the same air are told apart by what they cost.
            self.known[chosen] = (round(judged.trouble, 4), -round(judged.margin, 3), pipe), judged
        return self.known[chosen][0]

    def _before_next(self, answer: Assessment) -> Assessment:
        """What the next choice is computed from: the flows of the first answer, so that no choice
        depends on the order, and the branches as last walked, of which most are still the same.
        """
        return replace(self._before or answer, traces=answer.traces)

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
        if not self.segments.each:
            return ()
        if self.uniform:
            return self.uniforms()[0]
        if self.exact:
            # Of a small shop every choice is judged: the best is then known to be the best.
            every = self.segments.first_choices(self.exact + 1)
            if len(every) <= self.exact:
                return min(every, key=self.key)
        if self.start is not None:
            return self._improved(self.start)
        # From the best of the simple choices: one size for all, or each by its own need.
        return self._improved(min({*self.segments.uniform(), self.by_rule()}, key=self.key))

    def uniforms(self) -> list[Sizes]:
        """One size for all, in each of the sizes, the best first."""
        return sorted(self.segments.uniform(), key=self.key)

    def by_rule(self) -> Sizes:
        """Each segment so wide that the largest need of what it takes up just carries chips."""
        if self._rule is None:
            wide = []
            for flow, segment in zip(self._flows(), self.segments.each, strict=True):
                area = flow / TRANSPORT_VELOCITY["dry dust"]
                wide.append(max(self._fitting(area), segment.least))
            self._rule = self.segments.mended(wide)
        return self._rule

    def _fitting(self, area: float) -> int:
        """The widest size whose area (m²) is no larger than one that carries."""
        fits = [i for i, size in enumerate(self.sizes) if 0.7854 * size * size <= area * 1.05]
        return fits[-1] if fits else 0

    def _flows(self) -> list[float]:
        """For each segment the largest airflow (m³/s) that is needed through it at one time."""
        passes = self._passes()
        flows = [0.0] * len(self.segments)
        for scenario in self._scenarios:
            # What runs together draws through one pipe at one time; what does not never adds up.
            sums = [0.0] * len(self.segments)
            for ref, numbers in passes.items():
                machine, pickup = self.project.pickup[ref]
                if scenario.uses(machine.id, pickup.id):
                    for number in numbers:
                        sums[number] += need(pickup, self.project.settings).airflow
            flows = [max(a, b) for a, b in zip(flows, sums, strict=True)]
        return flows

    def _passes(self) -> dict[str, set[int]]:
        """For each pickup the segments that its air passes."""
        paths, at = AirPaths(self.project), self.segments.number_of
        found: dict[str, set[int]] = {}
        for run in self.project.runs:
            for ref in run.touches:
                if ref in self.project.pickup:
                    found[ref] = {at[passed] for passed in paths.onward(run.id) if passed in at}
        return found

    def _improved(self, chosen: Sizes) -> Sizes:
        """The best that small steps from a choice lead to.

        So many choices are judged at most: large shops get fewer for each segment.
        """
        most = len(self.known) + min(MOST_JUDGED, max(LEAST_JUDGED, SHARED // len(self.segments)))
        for _ in range(MOST_SWEEPS):
            before = chosen
            for group, step in self._steps():
                if len(self.known) >= most or not self.should_continue():
                    return chosen
                # One step at a time, kept where it is better: wider pipe helps one machine and
                # slows another's chips, so that no rule says which way.
                changed = self.segments.resized(chosen, group, step)
                if self.key(changed) < self.key(chosen):
                    chosen = changed
            if chosen == before:
                break
        return chosen

    def _steps(self) -> Iterator[tuple[tuple[int, ...], int]]:
        """Ways to change a choice: which segments, and a size wider (1) or narrower (-1).

        Those next to the collector come first, for they matter to most.
        """
        for number in self.segments.downstream_first:
            for step in (1, -1):
                for group in self.segments.groups(number):
                    yield group, step


def size_runs(project: Project) -> frozenset[str]:
    """The rigid runs that may have another size: all unpinned ones that lead to a collector."""
    down = AirPaths(project).down
    return frozenset(
        run.id
        for run in project.runs
        if run.id in down and not run.pinned and not materials()[run.material].hose
    )

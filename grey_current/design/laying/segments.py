"""The stretches of duct that have one size each, and which choices of sizes go together.

What has one airflow has one size: a branch segment, from junction to junction. No duct is smaller
than the one that leads into it.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from grey_current.shop.catalogue import FITS_OVER, materials, size_for_port
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.ducts import Run, ends_of
from grey_current.shop.model import Project
from grey_current.shop.places import distance

# For each segment the place of its size in the list of those allowed.
Sizes = tuple[int, ...]


@dataclass(frozen=True)
class Segment:
    """Runs that carry the same air and are of one size.

    Attributes:
        runs: Which, upstream ones first.
        length: All of them together, m.
        after: The segment that they lead to; None for the last one.
        least: Place of the smallest size that it may have, for what it takes up.
        most: Place of the widest, for a duct that stays and that it leads to.
    """

    runs: tuple[str, ...]
    length: float
    after: int | None
    least: int
    most: int


@dataclass(frozen=True)
class Segments:
    """All segments of what is sized, those farther from the collector first."""

    each: tuple[Segment, ...]
    # How many sizes are allowed.
    count: int

    def __len__(self) -> int:
        return len(self.each)

    @cached_property
    def number_of(self) -> dict[str, int]:
        """The segment of each run."""
        found: dict[str, int] = {}
        for number, segment in enumerate(self.each):
            found |= dict.fromkeys(segment.runs, number)
        return found

    @cached_property
    def downstream_first(self) -> list[int]:
        """The segments from the collector outwards."""
        order: list[int] = []
        left = list(range(len(self.each)))
        while left:
            # What leads to nothing, or to what is in already.
            ready = [i for i in left if self.each[i].after in (None, *order)]
            order += ready
            left = [i for i in left if i not in ready]
        return order

    def onward(self, number: int) -> list[int]:
        """A segment and all that it leads to."""
        found = [number]
        while (after := self.each[found[-1]].after) is not None:
            found.append(after)
        return found

    def groups(self, number: int) -> list[tuple[int, ...]]:
        """What may change its size together: a segment, all upstream of it, all downstream."""
        # One segment alone often cannot change: it would be narrower than what leads into it, or
        # wider than what follows.
        up = tuple(i for i in range(len(self.each)) if number in self.onward(i))
        down = tuple(self.onward(number))
        return list(dict.fromkeys([(number,), up, down]))

    def mended(self, chosen: Sequence[int]) -> Sizes:
        """A choice in which no duct is smaller towards the collector.

        What is downstream is made wider where it must, as far as a duct that stays allows.
        """
        made = list(chosen)
        # First from the ports to the collector: what follows gets as wide as what leads into it.
        for number in reversed(self.downstream_first):
            after = self.each[number].after
            if after is not None and made[after] < made[number]:
                made[after] = made[number]
        # Then back, for a duct that stays may not have let it.
        for number in self.downstream_first:
            segment = self.each[number]
            top = segment.most if segment.after is None else made[segment.after]
            made[number] = max(min(made[number], top), segment.least)
        return tuple(made)

    def resized(self, chosen: Sizes, group: Sequence[int], step: int) -> Sizes:
        """A choice with some segments a size wider (1) or narrower (-1).

        What that makes misfit goes along.
        """
        made = list(chosen)
        for number in group:
            wanted = max(made[number] + step, self.each[number].least)
            made[number] = min(wanted, self.count - 1)
        if step < 0:
            for number in self.downstream_first:
                after = self.each[number].after
                if after is not None and made[number] > made[after]:
                    made[number] = max(made[after], self.each[number].least)
        return self.mended(made)

    def uniform(self) -> list[Sizes]:
        """One size for all, or what their ports ask for where that is more."""
        found = []
        for at in range(self.count):
            found.append(self.mended([max(at, segment.least) for segment in self.each]))
        return found

    def first_choices(self, most: int) -> list[Sizes]:
        """Every choice in which no duct is smaller towards the collector, at most so many."""
        found = []
        for made in itertools.islice(self._further({}, self.downstream_first), most):
            found.append(tuple(made[number] for number in range(len(self.each))))
        return found

    def _further(self, done: dict[int, int], left: list[int]) -> Iterator[dict[int, int]]:
        if not left:
            yield done
            return
        number, rest = left[0], left[1:]
        segment = self.each[number]
        top = segment.most if segment.after is None else done[segment.after]
        for at in range(segment.least, max(top, segment.least) + 1):
            yield from self._further({**done, number: at}, rest)


def segments_of(project: Project, runs: frozenset[str], sizes: Sequence[float]) -> Segments:
    """Return the segments of some rigid runs; all other runs stay as they are."""
    paths = AirPaths(project)
    rigid = [r.id for r in project.runs if r.id in runs and not materials()[r.material].hose]
    chains: dict[tuple[str, ...], None] = {}
    for run in rigid:
        # Runs with no joint between them have one size: a change of it would be a reducer for
        # nothing.
        chains.setdefault(tuple(r for r in paths.branch_segment(run) if r in rigid))
    number: dict[str, int] = {}
    for place, chain in enumerate(chains):
        number |= dict.fromkeys(chain, place)
    found = []
    for chain in chains:
        after = paths.next_run(chain[-1])
        follows = number.get(after.id) if after is not None else None
        most = len(sizes) - 1
        if after is not None and follows is None:
            # It leads to a duct that stays, and may not be wider than that.
            fits = [i for i, size in enumerate(sizes) if size <= after.diameter + FITS_OVER]
            most = fits[-1] if fits else 0
        length = sum(distance(project, project.run[run]) for run in chain)
        least = _least(project, paths, set(chain), frozenset(rigid), sizes)
        found.append(Segment(chain, length, follows, least, most))
    return Segments(_no_narrower_than_before(found), len(sizes))


def _least(
    project: Project,
    paths: AirPaths,
    chain: set[str],
    sized: frozenset[str],
    sizes: Sequence[float],
) -> int:
    """The smallest size of a segment: that of a port, or of the duct that stays, before it."""
    ends = ends_of(project.run[run] for run in chain)
    wide = 0.0
    for run in project.runs:
        if run.id not in sized and not ends.isdisjoint(run.ends):
            after = paths.next_run(run.id)
            if after is not None and after.id in chain:
                wide = max(wide, _brings(project, run))
    for ref in ends & project.pickup.keys():
        wide = max(wide, size_for_port(project, project.pickup[ref][1].port))
    fits = [i for i, size in enumerate(sizes) if size >= wide - FITS_OVER]
    return fits[0] if fits else len(sizes) - 1


def _brings(project: Project, run: Run) -> float:
    """The bore (m) that a run which stays asks of the duct behind it: a hose its widest port's."""
    ports = [project.pickup[ref][1].port for ref in run.serves if ref in project.pickup]
    port = max(ports, default=0.0)
    return size_for_port(project, port) if port else run.diameter


def _no_narrower_than_before(segments: list[Segment]) -> tuple[Segment, ...]:
    """The segments, each with the least size of all that leads into it.

    So every choice can be gone on with.
    """
    least = [segment.least for segment in segments]
    for segment in segments:
        here = segment.after
        while here is not None:
            least[here] = max(least[here], segment.least)
            here = segments[here].after
    return tuple(replace(segment, least=least[i]) for i, segment in enumerate(segments))

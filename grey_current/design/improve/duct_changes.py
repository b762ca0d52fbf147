"""Changes of ducts that serve several machines: the main's size, the way into the collector, ends
that stand open.
"""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterable, Iterator

from grey_current.air.fittings import INLET_DIAMETERS
from grey_current.air.needs import PORT_VELOCITY
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop import edits
from grey_current.shop.catalogue import next_size, pipe_sizes
from grey_current.shop.duct_edits import with_points_moved
from grey_current.shop.duct_graph import AirPaths, far_end
from grey_current.shop.ducts import Run
from grey_current.shop.edits import Change
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.places import distance, position
from grey_current.shop.straighten import straightened
from grey_current.units import Display

# m; no main is made smaller than a 4 in or 100 mm pipe.
LEAST_MAIN = 0.09
# Sizes above or below its own in which a main is tried.
MOST_SIZES = 4
# Turns before a collector's inlet that are tried without.
MOST_TURNS = 2


def main_runs(project: Project) -> dict[str, list[str]]:
    """Return the pipes of each collector's main: those that serve several machines, or all where
    it has only one.
    """
    paths = AirPaths(project)
    users: dict[str, set[str]] = defaultdict(set)
    for run in project.runs:
        if run.id not in paths.down:
            continue
        machines = {project.pickup[r][0].id for r in run.touches if r in project.pickup}
        for passed in paths.onward(run.id):
            users[passed] |= machines
    found: dict[str, list[str]] = defaultdict(list)
    everyone: dict[str, set[str]] = defaultdict(set)
    heads = {run: paths.head(run) for run in users}
    for ident, head in heads.items():
        everyone[head] |= users[ident]
    for ident, head in heads.items():
        shared = len(users[ident]) > 1 or len(everyone[head]) == 1
        if shared and not is_hose(project.run[ident]):
            found[head].append(ident)
    return found


def main_sizes(project: Project, runs: Iterable[str], *, up: bool) -> Iterator[Change]:
    """A main in each of the next sizes: what is smaller brought up to it, or what is larger down.

    Parts that have the size already stay as they are.
    """
    display = Display(project.settings.units)
    chosen = [project.run[run] for run in runs]
    bores = [run.diameter for run in chosen]
    if not bores:
        return
    size = min(bores) if up else max(bores)
    for _ in range(MOST_SIZES):
        bigger = next_size(project, size, up=up)
        if bigger is None or (not up and bigger < LEAST_MAIN):
            return
        size = bigger
        changed = [r.id for r in chosen if (r.diameter < size if up else r.diameter > size)]
        was = min(bores) if up else max(bores)
        words = f"The main {display.diameter(was)} → {display.diameter(size)}"
        yield Change(words, changed[0], _sized(changed, size))


def stepped_main(
    project: Project, runs: Iterable[str], airflows: dict[str, float]
) -> Iterator[Change]:
    """A main in steps: each part as wide as the most air (m³/s) of any machine that passes it asks
    for, so that chips are carried; no part made narrower.
    """
    display = Display(project.settings.units)
    wider: dict[str, float] = {}
    for run in runs:
        ideal = math.sqrt(4 * airflows.get(run, 0.0) / (math.pi * PORT_VELOCITY))
        size = _nearest_size(project, ideal)
        if size > project.run[run].diameter + 1e-3:
            wider[run] = size
    if wider:
        least, most = (display.diameter(pick(wider.values())) for pick in (min, max))
        sizes = most if least == most else f"{least} to {most}"
        first = next(iter(wider))
        yield Change(f"The main wider where it is narrow: {sizes}", first, _each_sized(wider))


def _nearest_size(project: Project, ideal: float) -> float:
    return min(pipe_sizes(project), key=lambda size: abs(size - ideal), default=0.0)


def _each_sized(sizes: dict[str, float]) -> edits.Edit:
    def edit(project: Project) -> Project:
        for size in set(sizes.values()):
            chosen = [run for run, its in sizes.items() if its == size]
            project = edits.changed_all(project, chosen, diameter=size)
        return project

    return edit


def _sized(runs: list[str], size: float) -> edits.Edit:
    return lambda project: edits.changed_all(project, runs, diameter=size)


def straighter_inlet(project: Project, collector: str) -> Iterator[Change]:
    """Other ways into a collector: its first turn moved away from the inlet, or left out with the
    turns behind it.
    """
    turns = list(itertools.islice(_turns_before(project, collector), MOST_TURNS))
    if not turns:
        return
    display = Display(project.settings.units)
    point, run = turns[0]
    here, inlet = position(project, point), position(project, collector)
    flat = [a - b for a, b in zip(here[:2], inlet[:2], strict=True)]
    length = distance(project, run)
    wanted = INLET_DIAMETERS * run.diameter
    # Only a level way into the inlet can be made longer on the floor's plan.
    level = abs(here[2] - inlet[2]) < 1e-3 and length > 1e-3
    if level and length < wanted:
        more = display.tape(wanted - length)
        dx, dy = (part / length * more for part in flat)
        words = f"Move {called(project, point)} {display.length(more)} away from the inlet"
        yield Change(words, point, lambda p: with_points_moved(p, {point}, dx, dy))
    for count in range(1, len(turns) + 1):
        chosen = [each for each, _ in turns[:count]]
        words = "Straight into the collector, without the last turn"
        if count > 1:
            words = f"Straight into the collector, without the last {count} turns"
        yield Change(words, point, _without(chosen))


def _without(points: list[str]) -> edits.Edit:
    return lambda project: straightened(project, points)


def _turns_before(project: Project, collector: str) -> Iterator[tuple[str, Run]]:
    """Joints that only turn the main, from the inlet outwards, each with the run on its inlet's
    side.
    """
    paths = AirPaths(project)
    near, meeting = collector, paths.at[collector]
    while len(meeting) == 1:
        run = meeting[0]
        point = far_end(run, near)
        behind = [other for other in paths.at[point] if other is not run]
        if point not in project.point or project.point[point].pinned or len(behind) != 1:
            return
        if is_hose(run) or is_hose(behind[0]):
            return
        yield point, run
        near, meeting = point, behind


def capped_ends(project: Project, open_ends: Iterable[str]) -> Iterator[Change]:
    """Caps on ends of pipe that stand open."""
    ends = list(open_ends)
    if ends:
        words = "Cap the open end" if len(ends) == 1 else f"Cap {len(ends)} open ends"
        yield Change(words, ends[0], lambda p: edits.changed_all(p, ends, end="cap"))

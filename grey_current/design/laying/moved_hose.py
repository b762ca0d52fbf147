"""One hose that is moved from port to port, as a row beside the layouts of ducts: with a small
collector it often does more than pipe.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.judgement import judge
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hose_reach import reach, swaps
from grey_current.shop.catalogue import pipe_sizes
from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import Run
from grey_current.shop.edits import added, fresh_id
from grey_current.shop.hoses import HOSE_SLACK, cut_length
from grey_current.shop.model import Project
from grey_current.shop.places import position
from grey_current.units import Display

# Ports beyond which nobody moves a hose about, m of it beyond which nobody drags it. Allowances.
MOST_PORTS, LONGEST = 12, 7.5
# m; no narrower hose is tried, and the share of an inlet that one may be wider. Allowances.
LEAST, WIDER = 0.06, 3e-3
HOSE = "ribbed-hose"


@dataclass(frozen=True)
class MovedHose:
    """A project with one hose that goes to every port that it reaches, that in words, and the ports
    that are out of its reach.
    """

    project: Project
    words: str
    out_of_reach: tuple[str, ...]


def moved_hose(project: Project, collector: Collector, refs: tuple[str, ...]) -> MovedHose | None:
    """The best hose by the one judgement that goes from port to port; None where there are too many
    ports, or none within its reach.

    `project` has nothing at the collector's inlet and at these ports. Raises nothing.
    """
    if len(refs) > MOST_PORTS:
        return None
    near = {ref: length_to(project, collector, ref, HOSE) for ref in refs}
    within = sorted((ref for ref in refs if near[ref] <= LONGEST), key=lambda ref: near[ref])
    if not within:
        return None
    length = cut_length(project, max(near[ref] for ref in within) / HOSE_SLACK)
    made = list(_in_each_size(project, collector, within, length))
    if not made:
        return None
    best = min(made, key=lambda one: judge(assess(one, all_scenarios(one))).rank)
    hose = next(run for run in best.runs if run.also_serves or run.start in within)
    too_far = tuple(ref for ref in refs if ref not in within)
    return MovedHose(best, _words(best, hose, len(too_far)), too_far)


def _in_each_size(
    project: Project, collector: Collector, refs: list[str], length: float
) -> Iterator[Project]:
    for size in pipe_sizes(project):
        if LEAST <= size <= collector.duct_inlet + WIDER:
            yield added(project, hose_to(project, collector, refs, size, length, HOSE))


def hose_to(
    project: Project,
    collector: Collector,
    refs: list[str],
    size: float,
    length: float,
    material: str,
) -> Run:
    """A hose (bore and length in m) from a collector to one port, and in turn to the others."""
    return Run(
        id=fresh_id(project, f"{collector.id}-hose"),
        start=refs[0],
        end=collector.id,
        diameter=size,
        material=material,
        length=length,
        also_serves=tuple(refs[1:]),
    )


def length_to(project: Project, collector: Collector, ref: str, material: str) -> float:
    """Length (m) of hose to one port, round what stands there; infinite where walls leave no
    way.
    """
    straight = math.dist(position(project, ref), position(project, collector.id)) * HOSE_SLACK
    hose = hose_to(project, collector, [ref], collector.duct_inlet, straight, material)
    return max(straight, reach(added(project, hose), FloorSpace(project), hose, ref).needed)


def _words(project: Project, hose: Run, too_far: int) -> str:
    display = Display(project.settings.units)
    ports = len(hose.also_serves) + 1
    goes = f"goes to {ports} ports in turn" if ports > 1 else "goes to the one port"
    said = f"One {display.diameter(hose.diameter)} hose of {display.about(hose.length or 0)} {goes}"
    minutes = swaps(project, hose).minutes
    said += f": about {minutes:.0f} min of moving it a week." if minutes >= 1 else "."
    if too_far:
        said += f" {too_far} more {'are' if too_far > 1 else 'is'} out of its reach."
    return said

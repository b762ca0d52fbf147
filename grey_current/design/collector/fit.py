"""Whether a collector fits where it stands: under the ceiling, with its bin out, and how long its
bin lasts.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from grey_current.design.space.ground import ELSEWHERE
from grey_current.design.space.outlines import beam_plan, plan
from grey_current.design.supply.circuits import machines_of_collectors
from grey_current.shop.collectors import Bin, Collector
from grey_current.shop.model import Project
from grey_current.shop.places import distance, footprint
from grey_current.shop.roofs import lowest_over
from grey_current.shop.stacking import free_under, host_of, relation, top_of

# m kept between a collector's top and what is above it, for its lid and wiring. Allowance.
CLEARANCE = 0.05
# Generic bins: 200, 130, 75 and 45 litres.
BINS = (
    Bin(volume=0.200, height=0.87),
    Bin(volume=0.130, height=0.70),
    Bin(volume=0.075, height=0.55),
    Bin(volume=0.045, height=0.42),
)
# kg/m³ of chips as they lie. Allowance.
CHIPS = 170.0
# Share of a bin at which it should be emptied; fuller, it sends chips to the filter.
WARN_AT = 2 / 3


@dataclass(frozen=True)
class Headroom:
    """Height under what is above (m), what is there ("ceiling" or a beam's id), and the room left
    over the top.

    `spare` m is negative when it does not fit; `bin` is then the largest generic bin with which it
    would, None when no bin is small enough, and `cut` the m to be cut off its stand with the bin
    that it has, None when the stand is lower.
    """

    above: float
    by: str
    spare: float
    bin: Bin | None
    cut: float | None


def fit(project: Project, collector: Collector) -> Headroom:
    """How a collector fits under the ceiling and the beams over its footprint. Raises nothing."""
    ground = plan(footprint(collector))
    above, by = math.inf, "ceiling"
    for room in project.rooms:
        if not plan(room.outline).intersects(ground):
            continue
        height = lowest_over(room, footprint(collector))
        if height < above:
            above, by = height, "ceiling"
    for beam in project.beams:
        if beam_plan(beam).intersects(ground) and beam.underside < above:
            above, by = beam.underside, beam.id
    if collector.stands in ELSEWHERE:
        above = math.inf
    clear, host = CLEARANCE, host_of(project, collector)
    if host is not None and relation(host, collector) == "under" and free_under(host) < above:
        above, by = free_under(host), host.id
        # It is pulled out to be opened: only its height counts.
        clear = 0.0
    spare = above - top_of(collector) - clear
    if spare >= 0 or math.isinf(above):
        return Headroom(above, by, spare, None, 0.0)
    smaller = None
    if collector.bin is not None:
        # `spare` is negative here: a bin lower by that much would make it fit.
        wanted = collector.bin.height + spare
        smaller = next(
            (b for b in BINS if b.height <= wanted and b.volume < collector.bin.volume), None
        )
    return Headroom(above, by, spare, smaller, -spare if collector.stand >= -spare else None)


def litres_a_week(project: Project, collector: str) -> float:
    """Chips (litres, lying loose) that a collector's machines make in a week of the use that is
    entered.
    """
    reached = machines_of_collectors(project)[collector]
    return math.fsum(
        (m.chip_litres_per_hour or 0.0) * m.uses_per_week * m.minutes_per_use / 60
        for m in project.machines
        if m.id in reached
    )


def full_bin(collector: Collector) -> float | None:
    """What the chips in a full bin weigh (kg); None where its bin is not known."""
    return collector.bin.volume * CHIPS if collector.bin is not None else None


def days_to_empty(project: Project, collector: Collector) -> float | None:
    """Days until a collector's bin is two thirds full; None when its bin or its chips are not
    known.
    """
    litres = litres_a_week(project, collector.id)
    if collector.bin is None or litres <= 0:
        return None
    return collector.bin.volume * 1000 * WARN_AT / litres * 7


def straight_before_inlet(project: Project, collector: Collector) -> float | None:
    """Length (m) of the run that ends at a collector's inlet; None when nothing does."""
    run = next((r for r in project.runs if collector.id in r.ends), None)
    return None if run is None else distance(project, run)

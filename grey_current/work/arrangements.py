"""What each arrangement of a shop allows: lanes, air, what is in the way, and what moving takes."""

from __future__ import annotations

import math
from dataclasses import dataclass

from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hose_reach import cut_off
from grey_current.shop.arrangements import as_arranged, moves
from grey_current.shop.model import Project


@dataclass(frozen=True)
class ArrangementFacts:
    """An arrangement.

    Attributes:
        now: Whether it is laid out.
        longest: The longest board (m) that each machine with a lane takes.
        cut_off: Machines that the ducts do not reach there: a hose that is too short, a rigid duct
            whose end was moved away.
        served: How many machines get the air that they need, and `asked` of how many.
        problems: What is in the way there, in sentences, worst first.
        moved: What is moved to it from how the shop stands now, and `minutes` that it takes.
    """

    ident: str
    name: str
    now: bool
    longest: dict[str, float]
    cut_off: tuple[str, ...]
    served: int
    asked: int
    problems: tuple[str, ...]
    moved: tuple[str, ...]
    minutes: float


def arrangement_facts(project: Project) -> list[ArrangementFacts]:
    """Every arrangement of a shop, in their order; none where it has none. Raises nothing."""
    found = []
    for each, shop in as_arranged(project):
        now, space = assess(shop), FloorSpace(shop)
        lanes = {
            machine.id: lane.longest
            for machine in shop.machines
            if (lane := space.lane(machine)) is not None
        }
        cut = cut_off(project, shop)
        moved = moves(project, shop)
        found.append(
            ArrangementFacts(
                each.id,
                each.name,
                each.id == project.arranged,
                lanes,
                cut,
                sum(answer.met for ident, answer in now.of_machine.items() if ident not in cut),
                len(now.asking),
                tuple(
                    finding.message
                    for finding in all_findings(shop, now)
                    if finding.code in IN_THE_WAY and finding.severity != "note"
                ),
                tuple(ident for ident, _ in moved),
                math.fsum(minutes for _, minutes in moved),
            )
        )
    return found


# What of the findings is about where things stand.
IN_THE_WAY = frozenset(
    {
        "overlap",
        "in-the-wall",
        "in-the-air",
        "lane-blocked",
        "lane-short",
        "service-blocked",
        "under-ceiling",
        "too-tall",
        "door-blocked",
        "door-tracks",
        "walkway",
        "parked-in",
        "front-blocked",
        "lead-short",
    }
)

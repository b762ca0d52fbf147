"""All findings of a shop as one list, which window and command line both read."""

from __future__ import annotations

from collections.abc import Iterator

from grey_current.design.findings import (
    air,
    building,
    chips,
    clashes,
    collectors,
    connections,
    gates,
    joints,
    room_things,
    room_to_work,
    supply,
    zones,
)
from grey_current.design.findings.finding import Finding, Found, Inspection, Rule, in_order
from grey_current.design.flow.assessment import Assessment
from grey_current.design.space.ground import FloorSpace
from grey_current.shop.model import Project

# Rules that any edit may answer otherwise.
AIR_RULES: tuple[Rule, ...] = (
    *air.RULES,
    *chips.RULES,
    *connections.RULES,
    *gates.RULES,
    *joints.RULES,
    *clashes.RULES,
    *collectors.RULES,
    *supply.RULES,
    *building.RULES,
)
# Rules that look only at what stands where.
GROUND_RULES: tuple[Rule, ...] = (*room_to_work.RULES, *room_things.RULES, *zones.RULES)


def all_findings(
    project: Project,
    assessment: Assessment,
    space: FloorSpace | None = None,
    *,
    in_full: bool = True,
) -> list[Finding]:
    """All findings, worst first; within one severity in the order of the rules.

    `assessment` answers each machine running alone; `space` is kept by a caller who asks often.
    Unless `in_full` they come without computed remedies. Raises nothing.
    """
    inspection = Inspection(assessment.counted, space or FloorSpace(project), in_full)
    return in_order(finding for finding in _all(inspection) if finding is not None)


def steps(rules: tuple[Rule, ...], inspection: Inspection) -> Found:
    """The findings of some rules as they are found, with a None after every piece of work."""
    for rule in rules:
        yield from rule(inspection)
        yield None


def _all(inspection: Inspection) -> Iterator[Finding | None]:
    yield from steps(AIR_RULES, inspection)
    yield from steps(GROUND_RULES, inspection)

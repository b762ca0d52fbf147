"""The findings that causes are held against, without the remedies that take long to compute."""

from __future__ import annotations

from grey_current.design.findings import air, chips, collectors, connections, gates, joints
from grey_current.design.findings.finding import Finding, Inspection, Rule
from grey_current.design.flow.assessment import Assessment
from grey_current.design.space.ground import FloorSpace

# Rules about air: a cause explains nothing else.
RULES: tuple[Rule, ...] = (
    air.short_of_air,
    air.too_fast,
    chips.chips_settle,
    connections.not_connected,
    connections.hose_length,
    gates.gate_rules,
    joints.near_inlet,
    joints.narrow,
    collectors.filter_too_small,
    collectors.each_collector,
)


def symptoms(now: Assessment) -> list[Finding]:
    """Return what is wrong with the air of a shop, as `all_findings` has it but for the remedies.

    Raises nothing.
    """
    inspection = Inspection(now.counted, FloorSpace(now.project), in_full=False)
    return [finding for rule in RULES for finding in rule(inspection) if finding is not None]

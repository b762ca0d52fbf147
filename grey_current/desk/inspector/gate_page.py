"""The page of a blast gate."""

from __future__ import annotations

from grey_current.design.findings.finding import Finding
from grey_current.desk.inspector.cost_section import cost_section
from grey_current.desk.inspector.fields import ChoiceField, Fact, Page, Section, percent_field
from grey_current.desk.inspector.improvement_fields import part_choices
from grey_current.shop import edits
from grey_current.shop.ducts import Gate
from grey_current.workspace.workspace import Workspace


def gate_page(workspace: Workspace, gate: Gate, found: tuple[Finding, ...]) -> Page:
    """A gate: what opens it, how it is made, what it leaks."""
    rules = (("with its machine", "opens with its machine"), ("left open", "left open"), ("kept shut", "kept shut"))
    bores = (("full bore", "full bore, smooth"), ("stepped", "slot and steps"))
    what = Section(
        "What it is",
        (
            ChoiceField(
                f"{gate.id}/rule",
                "It is",
                gate.rule,
                rules,
                "Change the gate",
                lambda p, v: edits.changed(p, gate.id, rule=v),
            ),
            ChoiceField(
                f"{gate.id}/bore",
                "Inside",
                gate.bore,
                bores,
                "Change the gate",
                lambda p, v: edits.changed(p, gate.id, bore=v),
            ),
            percent_field(
                f"{gate.id}/opening", "Opens to", gate.opening, lambda p, v: edits.changed(p, gate.id, opening=v)
            ),
            percent_field(
                f"{gate.id}/leak", "Leaks when shut", gate.leak, lambda p, v: edits.changed(p, gate.id, leak=v)
            ),
            Fact("", "About 0.5 % of the bore for a bought gate, 0.1 % for one with a seal."),
        ),
    )
    sections = (what, *part_choices(workspace), *cost_section(workspace, {gate.id}, gate.run))
    names = workspace.computed.names
    return Page(names.start(gate.id), f"A blast gate in {names.of(gate.run)}.", sections, found)

"""The page of a blast gate."""

from __future__ import annotations

from collections.abc import Callable

from grey_current.design.findings.finding import Finding
from grey_current.design.flow.gates import opened_for, own_gates
from grey_current.desk.inspector.cost_section import cost_section
from grey_current.desk.inspector.fields import (
    ChoiceField,
    Fact,
    Page,
    Section,
    length_field,
    percent_field,
)
from grey_current.desk.inspector.improvement_fields import part_choices
from grey_current.desk.inspector.reason_fields import why_button
from grey_current.shop import edits
from grey_current.shop.ducts import Gate
from grey_current.shop.model import Project
from grey_current.shop.places import distance
from grey_current.shop.slides import with_gate_along
from grey_current.workspace.workspace import Workspace


def gate_page(workspace: Workspace, gate: Gate, found: tuple[Finding, ...]) -> Page:
    """A gate: what opens it, how it is made, what it leaks."""
    rules = (
        ("with its machine", "opens with its machine"),
        ("left open", "left open"),
        ("kept shut", "kept shut"),
    )
    bores = (("full bore", "full bore, smooth"), ("stepped", "slot and steps"))
    what = Section(
        "What it is",
        (
            ChoiceField(
                f"{gate.id}/rule",
                "It is",
                gate.rule,
                rules,
                step="Change the gate",
                edit=lambda p, v: edits.changed(p, gate.id, rule=v),
            ),
            ChoiceField(
                f"{gate.id}/bore",
                "Inside",
                gate.bore,
                bores,
                step="Change the gate",
                edit=lambda p, v: edits.changed(p, gate.id, bore=v),
            ),
            length_field(
                workspace.project,
                f"{gate.id}/along",
                "Along its duct",
                gate.at * distance(workspace.project, workspace.project.run[gate.run]),
                edit=lambda p, v: with_gate_along(p, gate.id, v),
                step="Slide the gate",
            ),
            percent_field(
                f"{gate.id}/opening",
                "Opens to",
                gate.opening,
                edit=lambda p, v: edits.changed(p, gate.id, opening=v),
            ),
            percent_field(
                f"{gate.id}/leak",
                "Leaks when shut",
                gate.leak,
                edit=lambda p, v: edits.changed(p, gate.id, leak=v),
            ),
            Fact("", "About 0.5 % of the bore for a bought gate, 0.1 % for one with a seal."),
            *why_button(workspace, gate.id, "gates-at-tool-or-wye"),
        ),
    )
    sections = (
        what,
        *_also_open(workspace, gate),
        *part_choices(workspace),
        *cost_section(workspace, {gate.id}, gate.run),
    )
    names = workspace.computed.names
    return Page(names.start(gate.id), f"A blast gate in {names.of(gate.run)}.", sections, found)


def _also_open(workspace: Workspace, gate: Gate) -> tuple[Section, ...]:
    """For every machine that it does not belong to, whether it is opened for it too, to flush the
    main.
    """
    if gate.rule != "with its machine":
        return ()
    own = own_gates(workspace.assessment)
    fields = tuple(
        ChoiceField(
            f"{gate.id}/for/{machine.id}",
            machine.name,
            "open" if machine.id in gate.also_open_for else "shut",
            (("shut", "shut"), ("open", "open too")),
            step="Open a gate for a machine too",
            edit=_set_for(gate.id, machine.id),
        )
        for machine in workspace.project.machines
        if machine.id in own and gate.id not in own[machine.id]
    )
    return (Section("While another machine runs, it is", fields),) if fields else ()


def _set_for(gate: str, machine: str) -> Callable[[Project, str], Project]:
    return lambda project, value: opened_for(project, gate, machine, value == "open")

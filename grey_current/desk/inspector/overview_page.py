"""The page of the whole shop, when nothing is selected."""

from __future__ import annotations

from grey_current.desk.inspector.fields import (
    SYSTEMS,
    ChoiceField,
    Fact,
    Page,
    Section,
    altitude_field,
    measured_field,
)
from grey_current.desk.inspector.reason_fields import why_button
from grey_current.shop import edits, room_edits
from grey_current.units import Display
from grey_current.workspace.guide import stage_findings
from grey_current.workspace.workspace import Workspace

CAUTION = "Fine wood dust harms lungs: wear a respirator for what the hoods miss."


def overview(workspace: Workspace, sections: tuple[Section, ...], answer: str = "") -> Page:
    """The shop's page with its answer, some sections and the findings of this stage."""
    found = stage_findings(workspace)
    return Page(workspace.project.name, "", sections, found, CAUTION, answer)


def settings_section(workspace: Workspace) -> Section:
    """How the shop counts: units, design criterion, its air."""
    project, s = workspace.project, workspace.project.settings
    display = Display(s.units)
    return Section(
        "How this shop counts",
        (
            ChoiceField(
                "units", "Units", s.units, SYSTEMS, step="Change units", edit=room_edits.in_units
            ),
            ChoiceField(
                "criterion",
                "Air must",
                s.criterion,
                (("clear chips", "clear the chips"), ("catch fine dust", "catch the fine dust")),
                step="Change what air must do",
                edit=lambda p, v: edits.with_settings(p, criterion=v),
            ),
            altitude_field(project),
            measured_field(
                "temperature",
                project,
                "temperature",
                "Temperature",
                s.temperature,
                edit=lambda p, v: edits.with_settings(p, temperature=v),
            ),
            Fact("Air density", display.density(workspace.assessment.air.density)),
            *why_button(workspace, "criterion", "chips-or-fine-dust"),
        ),
    )

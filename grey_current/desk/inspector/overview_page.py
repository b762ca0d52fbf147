"""The page of the whole shop, when nothing is selected."""

from __future__ import annotations

from grey_current.desk.inspector.fields import (
    ChoiceField,
    Fact,
    Page,
    Section,
    altitude_field,
    temperature_field,
)
from grey_current.shop import edits
from grey_current.units import Display
from grey_current.workspace.guide import stage_findings
from grey_current.workspace.workspace import Workspace

CAUTION = (
    "Estimates for planning, not a certificate. Fine wood dust harms lungs: wear a "
    "respirator for what the hoods miss."
)


def overview(workspace: Workspace, sections: tuple[Section, ...]) -> Page:
    """The shop's page with some sections and the findings of this stage."""
    subtitle = "Nothing is selected. Click anything on the floor."
    return Page(workspace.project.name, subtitle, sections, stage_findings(workspace), CAUTION)


def settings_section(workspace: Workspace) -> Section:
    """How the shop counts: units, design criterion, its air."""
    project, s = workspace.project, workspace.project.settings
    return Section(
        "How this shop counts",
        (
            ChoiceField(
                "units",
                "Units",
                s.units,
                (("us", "Feet, inches, CFM"), ("metric", "Metric, m³/h")),
                step="Change units",
                edit=lambda p, v: edits.with_settings(p, units=v),
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
            temperature_field(
                project,
                "temperature",
                "Temperature",
                s.temperature,
                edit=lambda p, v: edits.with_settings(p, temperature=v),
            ),
        ),
    )


def in_it(workspace: Workspace) -> Section:
    """What the shop holds."""
    project, display = workspace.project, Display(workspace.project.settings.units)
    return Section(
        "In it",
        (
            Fact("Ceiling", display.length(project.rooms[0].ceiling)),
            Fact("Machines", str(len(project.machines))),
            Fact("Runs of duct and hose", str(len(project.runs))),
            Fact("Air density", display.density(workspace.assessment.air.density)),
        ),
    )

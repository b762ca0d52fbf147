"""The page of the whole shop, when nothing is selected."""

from __future__ import annotations

from typing import Literal

from grey_current.desk.inspector.fields import (
    NOTHING,
    SYSTEMS,
    ChoiceField,
    Fact,
    Page,
    Section,
    TextField,
    altitude_field,
    measured_field,
)
from grey_current.desk.inspector.reason_fields import why_button
from grey_current.shop import edits, room_edits
from grey_current.shop.model import Project
from grey_current.shop.names import lower_first
from grey_current.units import Display, parse_length_like, parse_mass
from grey_current.workspace.guide import stage_findings
from grey_current.workspace.workspace import Workspace

# m; what a bare figure of a height is read like.
USUAL_TALL = 1.75
CAUTION = "Fine wood dust harms lungs: wear a respirator for what the hoods miss."


def overview(workspace: Workspace, sections: tuple[Section, ...], answer: str = "") -> Page:
    """The shop's page with its answer, some sections and the findings of this stage."""
    found = stage_findings(workspace)
    return Page(workspace.project.name, "", sections, found, CAUTION, answer)


NOT_SAID = "not said"


def person_field(
    project: Project, field: Literal["tall", "reaches", "lifts"], label: str
) -> TextField:
    """A figure of whoever works here; nothing makes it not said."""
    units, display = project.settings.units, Display(project.settings.units)
    value: float | None = getattr(project.settings, field)

    def say(figure: float | None) -> str:
        if figure is None:
            return NOT_SAID
        return display.mass(figure) if field == "lifts" else display.length(figure)

    def read(text: str) -> float | None:
        if text.strip().lower() in NOTHING:
            return None
        if field == "lifts":
            return parse_mass(text, units, label)
        # Of a room's size, not of a screw's: a bare 1.8 is metres.
        return parse_length_like(text, units, label, value or USUAL_TALL, 1.0)

    return TextField(
        f"person/{field}",
        label,
        say(value),
        step=f"Change {lower_first(label)}",
        read=read,
        edit=lambda p, v: edits.with_settings(p, **{field: v}),
        say=say,
    )


def person_section(project: Project) -> Section:
    """Who works here: what hangs too low or too high, and which bin is too heavy, goes by it."""
    return Section(
        "Who works here",
        (
            person_field(project, "tall", "Your height"),
            person_field(project, "reaches", "You reach up to"),
            person_field(project, "lifts", "You lift alone"),
        ),
    )


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

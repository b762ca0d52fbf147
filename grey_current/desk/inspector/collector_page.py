"""The collector's page: what it must do, which would, where it stands, what it is made of."""

from __future__ import annotations

from grey_current.design.findings.finding import of_element
from grey_current.desk.inspector import collector_choice, collector_parts, collector_place
from grey_current.desk.inspector.fields import Fact, Page, Section
from grey_current.desk.inspector.laying_fields import place_question
from grey_current.desk.inspector.place_fields import place_section
from grey_current.shop.collectors import Collector
from grey_current.shop.model import Project
from grey_current.units import Display
from grey_current.workspace import asking
from grey_current.workspace.guide import stage_findings
from grey_current.workspace.workspace import Workspace

CAUTION = (
    "Unplug before reaching into it. Dust burns and can explode: no metal grinding through it, "
    "empty the bin in time. "
    "Mains wiring and flues: licensed people and the local code."
)


def stage_page(workspace: Workspace) -> Page | None:
    """The Collector stage's own page: of the collector that is looked at, or of the one to come."""
    chosen = workspace.selection
    # Anything else that is selected has its own page.
    if chosen is not None and chosen not in workspace.project.collector:
        return None
    project = workspace.project
    wanted = [
        *collector_choice.must(workspace),
        *collector_choice.together(workspace),
        *collector_choice.offered(workspace),
    ]
    item = project.collector.get(asking.sized_collector(workspace) or "")
    if item is None:
        subtitle = "No collector stands here yet; this is what one must do."
        sections = (*wanted, *collector_choice.other_kinds(workspace))
        return Page("Collector", subtitle, sections, stage_findings(workspace), CAUTION)
    stands = (place_question(workspace, item.id), *_standing(workspace, item))
    sections = (
        _at_work(workspace, item),
        *wanted,
        *stands,
        *collector_choice.other_kinds(workspace),
        *_made_of(project, item),
    )
    return _page(workspace, item, sections)


def collector_page(workspace: Workspace, item: Collector) -> Page:
    """The page of a collector at any other stage."""
    sections = (
        _at_work(workspace, item),
        *_standing(workspace, item),
        *_made_of(workspace.project, item),
    )
    return _page(workspace, item, sections)


def _page(workspace: Workspace, item: Collector, sections: tuple[Section, ...]) -> Page:
    found = tuple(of_element(workspace.known_findings, workspace.project, item.id))
    return Page(item.name, f"{item.model}. {item.curve_note}.", sections, found, CAUTION)


def _standing(workspace: Workspace, item: Collector) -> tuple[Section, ...]:
    return (
        collector_place.fit_section(workspace, item),
        collector_place.power(workspace, item),
        collector_place.noise(workspace, item),
        collector_place.air(workspace, item),
        *place_section(workspace.project, item.id),
    )


def _made_of(project: Project, item: Collector) -> tuple[Section, ...]:
    return (
        collector_parts.fan(project, item),
        collector_parts.cleaning(project, item),
        collector_parts.body(project, item),
    )


def _at_work(workspace: Workspace, item: Collector) -> Section:
    display = Display(workspace.project.settings.units)
    system = workspace.scenario.systems.get(item.id) if workspace.scenario else None
    if system is None or not system.converged:
        return Section(
            "At work", (Fact("", "It is not running now. Switch a machine on to see it at work."),)
        )
    return Section(
        "At work",
        (
            Fact("Air", display.airflow(system.airflow)),
            Fact("Fan static pressure", display.pressure(system.fan_static)),
            Fact("Static pressure at inlet", display.pressure(system.inlet_static)),
        ),
    )

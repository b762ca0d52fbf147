"""The collector's page: what it must do, which would, where it stands, what it is made of."""

from __future__ import annotations

from grey_current.design.findings.finding import of_element
from grey_current.desk.inspector import collector_choice, collector_parts, collector_place
from grey_current.desk.inspector.apart_fields import apart_sections
from grey_current.desk.inspector.fields import Fact, Item, Page, Section
from grey_current.desk.inspector.laying_fields import place_question
from grey_current.desk.inspector.place_fields import foot_field, place_fields, stand_fields
from grey_current.shop.collectors import Collector
from grey_current.shop.edits import part_of
from grey_current.spelling import localised
from grey_current.units import Display
from grey_current.workspace import asking
from grey_current.workspace.guide import stage_findings
from grey_current.workspace.workspace import Workspace

CAUTION = "Unplug before reaching in. Never grind metal through it."


def stage_page(workspace: Workspace) -> Page | None:
    """The Collector stage's own page: of the collector that is looked at, or of the one to come."""
    chosen = workspace.selection
    project = workspace.project
    # Anything else that is selected has its own page; a part by itself is its collector's.
    part = part_of(project, chosen or "")
    if chosen is not None and chosen not in project.collector and part is None:
        return None
    wanted = [*collector_choice.offered(workspace), *collector_choice.must(workspace)]
    item = project.collector.get(asking.sized_collector(workspace) or "")
    if item is None:
        answer = "No collector stands here yet."
        sections = (*wanted, *collector_choice.other_kinds(workspace))
        found = stage_findings(workspace)
        return Page("Collector", "", sections, found, CAUTION, answer)
    stands = (_place(workspace, item), *_standing(workspace, item))
    sections = (
        *_chosen_part(workspace, item),
        *wanted,
        *_at_work(workspace, item),
        *stands,
        *collector_choice.separators(workspace, item.id),
        *collector_choice.other_kinds(workspace),
        *_made_of(workspace, item),
    )
    return _page(workspace, item, sections, collector_choice.served_answer(workspace))


def collector_page(workspace: Workspace, item: Collector) -> Page:
    """The page of a collector at any other stage."""
    sections = (
        *_chosen_part(workspace, item),
        *_at_work(workspace, item),
        Section("Place", _place_fields(workspace, item)),
        *_standing(workspace, item),
        *_made_of(workspace, item),
    )
    return _page(workspace, item, sections, _work_answer(workspace, item))


def _page(
    workspace: Workspace, item: Collector, sections: tuple[Section, ...], answer: str
) -> Page:
    found = tuple(of_element(workspace.known_findings, workspace.project, item.id))
    model = localised(item.model, workspace.project.settings.units)
    return Page(item.name, f"{model}.", sections, found, CAUTION, answer)


def _work_answer(workspace: Workspace, item: Collector) -> str:
    """What it moves now, or at most."""
    display = Display(workspace.project.settings.units)
    system = workspace.scenario.systems.get(item.id) if workspace.scenario else None
    if system is not None and system.converged:
        pressure = display.pressure(system.fan_static)
        return f"Moving {display.airflow(system.airflow)} at {pressure}."
    most = workspace.assessment.most_airflow(item.id)
    return f"Moves up to {display.airflow(most)} in this shop." if most else "Nothing runs on it."


def _place(workspace: Workspace, item: Collector) -> Section:
    """Where it stands, and where it had better."""
    return Section("Place", (place_question(workspace, item.id), *_place_fields(workspace, item)))


def _place_fields(workspace: Workspace, item: Collector) -> tuple[Item, ...]:
    project = workspace.project
    stand = stand_fields(project, item) or (foot_field(project, item),)
    return (*place_fields(project, item.id), *stand)


def _standing(workspace: Workspace, item: Collector) -> tuple[Section, ...]:
    return (
        collector_place.fit_section(workspace, item),
        collector_place.power(workspace, item),
        collector_place.noise(workspace, item),
        collector_place.air(workspace, item),
    )


def _chosen_part(workspace: Workspace, item: Collector) -> tuple[Section, ...]:
    """The section of what stands by itself and is selected: it comes first."""
    chosen = workspace.selection or ""
    return tuple(s for s in apart_sections(workspace.project, item, chosen) if s.open_first)


def _made_of(workspace: Workspace, item: Collector) -> tuple[Section, ...]:
    project, chosen = workspace.project, workspace.selection or ""
    return (
        Section("Fan", collector_parts.fan(project, item)),
        Section("Separator, filter and bin", collector_parts.cleaning(project, item)),
        *(s for s in apart_sections(project, item, chosen) if not s.open_first),
        Section("Body", collector_parts.body(project, item)),
    )


def _at_work(workspace: Workspace, item: Collector) -> tuple[Section, ...]:
    display = Display(workspace.project.settings.units)
    system = workspace.scenario.systems.get(item.id) if workspace.scenario else None
    if system is None or not system.converged:
        return ()
    items = (
        Fact("Air", display.airflow(system.airflow)),
        Fact("Fan static pressure", display.pressure(system.fan_static)),
        Fact("Static pressure at inlet", display.pressure(system.inlet_static)),
    )
    return (Section("At work", items, summary=display.airflow(system.airflow)),)

"""Which page the inspector shows: the stage's own, or that of what is selected."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from grey_current.design.findings.finding import of_element
from grey_current.desk.inspector.air_pages import machine_page
from grey_current.desk.inspector.collector_page import collector_page
from grey_current.desk.inspector.drawing_page import drawing_page
from grey_current.desk.inspector.duct_pages import duct_page
from grey_current.desk.inspector.fields import Page
from grey_current.desk.inspector.first_shop_section import guide_section
from grey_current.desk.inspector.laying_fields import laying_page
from grey_current.desk.inspector.overview_page import overview, settings_section
from grey_current.desk.inspector.reason_fields import reading_page
from grey_current.desk.inspector.shop_pages import shop_page
from grey_current.shop.collectors import Collector
from grey_current.workspace.workspace import Workspace

# A stage's own page; None where it has nothing of its own to say about what is selected.
StagePage = Callable[[Workspace], Page | None]


def page(workspace: Workspace, own: StagePage) -> Page:
    """The page for what is selected at this stage of the work, or for the shop; `own` is the
    stage's.
    """
    if workspace.reading is not None:
        return reading_page(workspace, workspace.reading)
    if workspace.placing is not None and workspace.placing.kind == "duct":
        return drawing_page(workspace)
    if workspace.asked is not None and workspace.selection is None:
        return laying_page(workspace)
    shown = (
        own(workspace)
        or _selected(workspace)
        or overview(workspace, (settings_section(workspace),))
    )
    guide = guide_section(workspace)
    return shown if guide is None else replace(shown, sections=(guide, *shown.sections))


def _selected(workspace: Workspace) -> Page | None:
    """The page of what is selected, whatever the stage; None when nothing is."""
    project, chosen = workspace.project, workspace.selection
    if chosen is None:
        return None
    machine = project.machine.get(chosen.split("/")[0])
    if machine is not None:
        return machine_page(workspace, machine)
    item = project.find(chosen)
    if isinstance(item, Collector):
        return collector_page(workspace, item)
    found = tuple(of_element(workspace.known_findings, project, chosen))
    return duct_page(workspace, item, found) or shop_page(workspace)

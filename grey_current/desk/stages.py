"""What the desk has for each stage of the work: its tool, its strip and its page, bound once.

A new stage is one more entry here, and one more in `workspace/stages.py`.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module

from grey_current.desk.floor.air_tool import AirTool
from grey_current.desk.floor.build_tool import BuildTool
from grey_current.desk.floor.keep_tool import KeepTool
from grey_current.desk.floor.machines_tool import MachinesTool
from grey_current.desk.floor.scene import Emphasis
from grey_current.desk.floor.shop_tool import ShopTool
from grey_current.desk.floor.tool import Tool
from grey_current.desk.floor.work_tool import WorkTool
from grey_current.desk.inspector import air_pages, collector_page, machine_page, shop_pages
from grey_current.desk.inspector.fields import Page
from grey_current.desk.strips.card_strip import building_strip, machine_strip
from grey_current.desk.strips.comparison_strip import ComparisonStrip
from grey_current.desk.strips.laying_strip import LayingStrip
from grey_current.desk.strips.lever_frame import LeverFrame
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.strips.run_strip import RunStrip
from grey_current.desk.theme import Palette
from grey_current.workspace.library import Library
from grey_current.workspace.workspace import Workspace

StripMaker = Callable[[Workspace, Palette, Library], StripPanel]


@dataclass(frozen=True)
class StageView:
    """A stage on the desk: what the pointer does, what stands under the floor, what the inspector
    says first.

    `emphasis` says what stands out on the floor. `page` returns None where the stage has nothing of
    its own to say about what is selected. `compares`: a comparison of two designs takes the strip's
    place.
    """

    emphasis: Emphasis
    tool: type[Tool]
    strip: StripMaker
    page: Callable[[Workspace], Page | None]
    compares: bool = False


def _run_strip(workspace: Workspace, palette: Palette, library: Library) -> StripPanel:
    del library
    return RunStrip(workspace, palette)


def _lever_frame(workspace: Workspace, palette: Palette, library: Library) -> StripPanel:
    del library
    return LeverFrame(workspace, palette)


def _later_strip(name: str, kind: str) -> StripMaker:
    """A strip whose module is loaded when it is first shown: the window is up sooner."""

    def make(workspace: Workspace, palette: Palette, library: Library) -> StripPanel:
        del library
        made: StripPanel = getattr(import_module(f"grey_current.desk.strips.{name}"), kind)(
            workspace, palette
        )
        return made

    return make


def _later_page(name: str) -> Callable[[Workspace], Page | None]:
    """The same for a stage's page."""

    def page(workspace: Workspace) -> Page | None:
        made: Page | None = import_module(f"grey_current.desk.inspector.{name}").stage_page(
            workspace
        )
        return made

    return page


STAGE_VIEWS: dict[str, StageView] = {
    "shop": StageView("building", ShopTool, building_strip, shop_pages.shop_page),
    "machines": StageView("machines", MachinesTool, machine_strip, machine_page.stage_page),
    "collector": StageView(
        "bodies", MachinesTool, _later_strip("match_chart", "MatchChart"), collector_page.stage_page
    ),
    "air": StageView("air", AirTool, _run_strip, air_pages.stage_page, compares=True),
    "gates": StageView("air", AirTool, _lever_frame, air_pages.stage_page, compares=True),
    "build": StageView(
        "air", BuildTool, _later_strip("build_strip", "BuildStrip"), _later_page("build_pages")
    ),
    "work": StageView(
        "air", WorkTool, _later_strip("day_strip", "DayStrip"), _later_page("work_pages")
    ),
    "keep": StageView(
        "air", KeepTool, _later_strip("sure_strip", "SureStrip"), _later_page("keep_pages")
    ),
}


def _comparison(workspace: Workspace, palette: Palette, library: Library) -> StripPanel:
    del library
    return ComparisonStrip(workspace, palette)


def _laying(workspace: Workspace, palette: Palette, library: Library) -> StripPanel:
    del library
    return LayingStrip(workspace, palette)


def strip_maker(workspace: Workspace) -> StripMaker:
    """What makes the strip that is wanted: what the search offers, a comparison of two designs, or
    the stage's own.
    """
    if workspace.asked is not None:
        return _laying
    view = STAGE_VIEWS[workspace.stage]
    if view.compares and workspace.comparison is not None:
        return _comparison
    return _laying if workspace.offers_to_lay else view.strip


def stage_page(workspace: Workspace) -> Page | None:
    """The page of the stage where the work stands."""
    return STAGE_VIEWS[workspace.stage].page(workspace)

"""The window: builds everything in order, wires it in one place, and does what commands ask of
it.
"""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPoint, QPointF, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QApplication, QMainWindow, QStackedWidget, QVBoxLayout, QWidget

from grey_current.desk import glyphs
from grey_current.desk.floor.floor import Floor
from grey_current.desk.inspector.inspector import Inspector
from grey_current.desk.plain import OneLine
from grey_current.desk.shell import help_texts
from grey_current.desk.shell.background import Background
from grey_current.desk.shell.begin import session_of
from grey_current.desk.shell.build_dialogs import BuildDialogs
from grey_current.desk.shell.collector_dialogs import CollectorDialogs
from grey_current.desk.shell.file_dialogs import FileDialogs
from grey_current.desk.shell.findings_search import FindingsSearch
from grey_current.desk.shell.help_page import show_help
from grey_current.desk.shell.instrument_link import InstrumentLink
from grey_current.desk.shell.keep_dialogs import KeepDialogs
from grey_current.desk.shell.menus import Menus
from grey_current.desk.shell.panes import Panes
from grey_current.desk.shell.rack import Rack
from grey_current.desk.shell.stage_bar import StageBar
from grey_current.desk.shell.throttle_timer import ThrottleTimer
from grey_current.desk.shell.underlay_dialogs import PLANS, UnderlayDialogs
from grey_current.desk.shell.verdict_bar import Banner, VerdictBar
from grey_current.desk.shell.work_dialogs import WorkDialogs
from grey_current.desk.space.floor_views import FloorViews
from grey_current.desk.stages import STAGE_VIEWS, StripMaker, stage_page, strip_maker
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.theme import PALETTES, SPACE, style_sheet
from grey_current.errors import GreyCurrentError
from grey_current.shop.collectors import Collector
from grey_current.shop.room import Feature, Opening
from grey_current.workspace.commands import kind_of_selection
from grey_current.workspace.desk import FloorView
from grey_current.workspace.jobs import (
    Advice,
    AskHowSure,
    Job,
    Phased,
    ProposePhases,
    Refused,
    Result,
)
from grey_current.workspace.library import Library
from grey_current.workspace.open_project import ProjectChanged
from grey_current.workspace.placing import Placeable
from grey_current.workspace.settings import UserSettings
from grey_current.workspace.workspace import Workspace

if TYPE_CHECKING:
    from grey_current.desk.shell.manual_window import ManualWindow
    from grey_current.desk.shell.preferences import PreferencesDialog
    from grey_current.desk.space.space_view import SpaceView

# Pixels across from which the caution has room beside the menus.
CAUTION_FROM = 1000
# How often a shop is saved by itself, where that is wished.
SAVED_EVERY_MS = 5 * 60_000


class MainWindow(QMainWindow):
    """The one window. No signals; it listens to the workspace and shows it."""

    def __init__(
        self, workspace: Workspace, settings: UserSettings, library: Path | None = None
    ) -> None:
        super().__init__()
        self.workspace, self.settings = workspace, settings
        self.colours = PALETTES[settings.get("theme")]
        self.setStyleSheet(style_sheet(self.colours))
        self.setAcceptDrops(True)
        self.setWindowIcon(glyphs.icon("app", self.colours.accent.name()))
        self.library = Library(library)
        self.files = FileDialogs(self, workspace, settings)
        self.underlays = UnderlayDialogs(self, workspace)
        self.collectors = CollectorDialogs(self, workspace, self.library, self.say)
        self.building = BuildDialogs(self, workspace, self.say)
        workspace.library = self.library
        self.working = WorkDialogs(self, workspace, self.say)
        self.keeping = KeepDialogs(self, workspace, self.say)
        self.link = InstrumentLink(workspace)
        self.menus = Menus(self, self, settings)
        self.stage_bar = StageBar(workspace, self.colours)
        self.verdict_bar = VerdictBar(workspace, self.colours, self.menus.actions)
        self.banner = Banner()
        self.rack = Rack(workspace, self.colours)
        self.floor = Floor(workspace, self.colours, STAGE_VIEWS)
        self.strips = QStackedWidget()
        self._panels: dict[StripMaker, StripPanel] = {}
        self.inspector = Inspector(workspace, self.colours, stage_page)
        self.caution = OneLine("soft")
        self.caution.setText(
            "Estimates for planning, not a certificate. Mains, gas and fire safety: local code "
            "and licensed people."
        )
        self.views = FloorViews(self.floor, self._made_space)
        self.panes = Panes(self.rack, self.views, self.strips, self.inspector, settings)
        self.panes.show_palette(self.colours)
        workspace.begun = settings.begun
        self._own_saving = QTimer(self)
        self._own_saving.setInterval(SAVED_EVERY_MS)
        self._own_saving.timeout.connect(self.save_itself)
        self._own_saving.start()
        self._preferences: PreferencesDialog | None = None
        self._manual: ManualWindow | None = None
        # Whether the desktop's session ends: nothing is asked then.
        self.leaves_quietly = False
        workspace.show_space = lambda: self.show_view("space")
        self.background = Background(workspace)
        self.search = FindingsSearch(workspace)
        self._side_timer = ThrottleTimer(self)
        self._lay_out()
        self.menus.build()
        self._connect_signals()
        self.views.set_moving(self._wants_motion())
        self.views.set_all_lanes(self.settings.get("lanes") == "all")
        self._show_frame()
        self._ask_findings()

    # -- building

    def _lay_out(self) -> None:
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(SPACE, 0, SPACE, SPACE)
        column.setSpacing(SPACE)
        top = QVBoxLayout()
        top.setSpacing(SPACE // 2)
        top.addWidget(self.stage_bar)
        top.addWidget(self.verdict_bar)
        top.addWidget(self.banner)
        column.addLayout(top)
        column.addWidget(self.panes, 1)
        self.setCentralWidget(body)
        self.resize(1280, 800)
        # The caution stands in the menu's own line, so that the floor gets the room of one.
        self.caution.setContentsMargins(0, 0, SPACE, 0)
        bar = self.menuBar()
        assert bar is not None
        bar.setCornerWidget(self.caution)

    def _connect_signals(self) -> None:
        self.workspace.listen(self.on_notice)
        self.search.found.connect(self.on_found)
        self._side_timer.timeout.connect(self.on_sides_due)
        self.background.found.connect(self.on_job_done)
        self.link.said.connect(self.say)
        self.rack.chosen.connect(self.workspace.select)
        self.rack.switched.connect(self.workspace.toggle)
        self.rack.more_asked.connect(self.on_more_asked)
        self.inspector.chosen.connect(self.on_finding_chosen)
        self.inspector.looked_up.connect(self.show_manual)
        self.stage_bar.chosen.connect(self.workspace.go)
        self.floor.refused.connect(self.say)
        self.floor.scale_asked.connect(self.on_scale_asked)
        self.floor.menu_asked.connect(self.on_menu_asked)
        self.rack.menu_asked.connect(self.on_menu_asked)

    def _made_space(self) -> SpaceView:
        """The view in space, when it is first wanted."""
        from grey_current.desk.space.space_view import SpaceView  # noqa: PLC0415

        space = SpaceView(self.workspace, self.colours)
        space.refused.connect(self.say)
        space.menu_asked.connect(self.on_menu_asked)
        space.set_moving(self.floor.moving)
        self.building.eye = lambda: space.camera if space.isVisible() else None
        return space

    @property
    def strip(self) -> StripPanel:
        """The strip that is wanted; each is made when it is first."""
        maker = strip_maker(self.workspace)
        if maker not in self._panels:
            panel = maker(self.workspace, self.colours, self.library)
            panel.chosen.connect(self.workspace.select)
            panel.refused.connect(self.say)
            panel.put.connect(self.on_put)
            self._panels[maker] = panel
            self.strips.addWidget(panel)
        return self._panels[maker]

    # -- showing

    def on_notice(self, notice: ProjectChanged) -> None:
        """Show what changed, once for each change."""
        other_shop = notice.project and notice.before.rooms != notice.after.rooms
        self.stage_bar.show_workspace()
        self.verdict_bar.show_workspace()
        self.rack.show_workspace()
        self.keeping.show_workspace()
        self.views.show_workspace(refit=other_shop and notice.look)
        if self.workspace.in_gesture:
            self._side_timer.start()
        else:
            self.on_sides_due()
        if notice.project or notice.look:
            self.banner.hide()
        self._show_frame()
        if notice.running:
            self.working.follow()
        self._ask_findings()

    def on_sides_due(self) -> None:
        """Show strip and inspector; while something is dragged they follow a little behind the
        floor.
        """
        self._side_timer.stop()
        self._show_strip()
        self.inspector.show_workspace()

    def _ask_findings(self) -> None:
        """Let the findings follow once the effect of the edit itself is on screen."""
        self.search.ask()
        self.background.ask()

    def on_job_done(self, revision: int, job: Job, found: Result) -> None:
        """Show a result from the background, unless the project has moved on."""
        if not self.workspace.computed.take_result(revision, job, found):
            return
        if isinstance(job, ProposePhases):
            self._take_phases(found)
            return
        self._show_strip()
        if isinstance(found, Advice):
            self.verdict_bar.show_workspace()
        if isinstance(job, AskHowSure):
            self.verdict_bar.show_workspace()
            self.rack.show_workspace()
            self.views.show_workspace()
            self.background.ask()  # how often advice holds is asked once all else is known
        if self.workspace.asked is None:
            self.inspector.show_workspace()
        elif (
            row := self.workspace.pointed_row
        ) is not None and row.shown is not self.floor.scene.project:
            self.views.show_workspace()

    def _take_phases(self, found: Result) -> None:
        """Take the phases that were proposed, or say why there are none."""
        if isinstance(found, Phased):
            self.attempt(lambda: self.workspace.take_phased(found.project))
        elif isinstance(found, Refused):
            self.workspace.phase_budget = None
            self.on_sides_due()
            self.say(found.sentence)

    def on_found(self) -> None:
        """Show the findings, now that all are known."""
        self.views.show_findings()
        self.stage_bar.show_workspace()
        self.inspector.show_workspace()

    def _show_strip(self) -> None:
        strip = self.strip
        strip.show_workspace()
        self.strips.setCurrentWidget(strip)
        self.panes.show_stage(self.workspace.stage, strip.room, one_line=not strip.has_something)

    def _show_frame(self) -> None:
        """Title, commands and their state."""
        name = self.workspace.project.name
        where = f" — {self.workspace.path.name}" if self.workspace.path else ""
        self.setWindowTitle(f"{name}[*]{where} — Grey Current")
        self.setWindowModified(self.workspace.dirty)
        self.menus.show_workspace(self.workspace)

    def put_setting(self, name: str, choice: str) -> None:
        """Choose one of the declared settings."""
        self.settings.put(name, choice)
        if name == "theme":
            self.colours = PALETTES[choice]
            self.setStyleSheet(style_sheet(self.colours))
            for panel in (self.stage_bar, self.verdict_bar, self.rack, self.views, self.inspector):
                panel.show_workspace(palette=self.colours)
            for strip in self._panels.values():
                strip.show_workspace(palette=self.colours)
            self.panes.show_palette(self.colours)
        self.views.set_moving(self._wants_motion())
        self.views.set_all_lanes(self.settings.get("lanes") == "all")
        self._show_frame()
        if name == "text-size":
            self.say(f"Text will be at {choice} % when you next start Grey Current.")
        if name == "numbers":
            self.say("Figures will be written so when you next start Grey Current.")

    def _wants_motion(self) -> bool:
        wish = self.settings.get("motion")
        if wish != "system":
            return wish == "on"
        reduced = os.environ.get("GTK_ENABLE_ANIMATIONS") == "0"
        return not reduced and QApplication.isEffectEnabled(Qt.UIEffect.UI_General)

    def save_itself(self) -> None:
        """Save what has a file, where that is wished; what hinders it is said, nothing is asked."""
        try:
            self.files.save_itself()
        except GreyCurrentError as problem:
            self.say(str(problem))

    def say(self, sentence: str) -> None:
        """Show what could not be done."""
        self.banner.say(sentence, self.colours)

    def attempt(self, action: Callable[[], object]) -> bool:
        """Do something that may be refused; the sentence goes into the banner. Returns whether it
        was done.
        """
        try:
            action()
        except GreyCurrentError as problem:
            self.say(str(problem))
            return False
        self.banner.hide()
        return True

    # -- what Qt asks

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Leave the menu's line to the menus where it is short; Help has the cautions too."""
        super().resizeEvent(event)
        self.caution.setVisible(self.width() >= CAUTION_FROM)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.views.show_workspace(refit=True)
        self._show_strip()
        self.views.in_hand.setFocus()
        if self.library.problem:
            self.say(self.library.problem)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is None:
            return
        self.inspector.enter()
        may = [True] if self.leaves_quietly else list[bool]()
        if not may:
            self.attempt(lambda: may.append(self.files.may_leave()))
        if may == [True]:
            self.background.stop()
            self.panes.write()
            self.keep_session()
            event.accept()
        else:
            event.ignore()

    def keep_session(self) -> None:
        """Keep what is shown, for the next start."""
        self.settings.put_session(session_of(self, self.workspace))

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event else None
        if event is not None and data is not None and any(u.isLocalFile() for u in data.urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event else None
        if data is not None:
            path = Path(next(u.toLocalFile() for u in data.urls() if u.isLocalFile()))
            self.attempt(lambda: self._take_file(path))

    def _take_file(self, path: Path) -> None:
        """Take a file that was dropped: a plan to draw over, a price list, or else a shop."""
        kind = path.suffix.lower()
        if kind in PLANS:
            self.underlays.lay(path)
        elif kind == ".csv":
            self.building.take_prices(path)
        else:
            self.files.open(path)

    # -- what the panels tell

    def on_put(self, placing: Placeable) -> None:
        """Put a thing down where it had better be, else in the middle of the floor shown."""
        x, y = self.floor.view.place(QPointF(self.floor.width() / 2, self.floor.height() / 2))
        self.attempt(lambda: self.workspace.put(placing, round(x, 2), round(y, 2), well=True))
        self.views.in_hand.setFocus()

    def on_finding_chosen(self, element: str) -> None:
        """Show what a finding is about, at the stage where it can be mended; of an offer, on its
        ghost.
        """
        if self.workspace.pointed_row is not None:
            self.workspace.light(element)
            return
        item = self.workspace.project.find(element)
        if isinstance(item, Opening | Feature):
            self.workspace.go("shop")
        elif isinstance(item, Collector) and self.workspace.stage not in ("collector", "air"):
            self.workspace.go("collector")
        self.workspace.select(element)

    def on_scale_asked(self, first: tuple[float, float], second: tuple[float, float]) -> None:
        """Two places on the plan were pointed at."""
        self.attempt(lambda: self.underlays.scale(first, second))

    def on_more_asked(self, machine: str) -> None:
        """Ten more minutes of the day at a machine."""
        self.attempt(lambda: self.workspace.add_minutes(machine))

    def on_menu_asked(self, where: QPoint) -> None:
        """Open the menu of what is selected."""
        menu = self.menus.context_menu(kind_of_selection(self.workspace))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(where)

    # -- what commands ask (`workspace.commands.Desk`)

    def new_window(self) -> None:
        self.files.new_window()

    def ask_open(self) -> None:
        self.files.ask_open()

    def show_recent(self) -> None:
        from grey_current.desk.shell.recent_dialog import RecentDialog  # noqa: PLC0415

        def open_path(path: Path) -> None:
            self.attempt(lambda: self.files.open(path))

        dialog = RecentDialog(self, self.settings.recent, self.colours, open_path)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.open()

    def open_demo(self, name: str) -> None:
        self.files.open_demo(name)

    def open_template(self, name: str) -> None:
        self.files.open_template(name)

    def save(self) -> None:
        self.inspector.enter()
        self.files.save()

    def save_as(self) -> None:
        self.inspector.enter()
        self.files.save_as()

    def cancel(self) -> bool:
        return self.floor.stop()

    def focus_floor(self) -> None:
        self.views.in_hand.setFocus()

    def focus_strip(self) -> None:
        self.strip.take_keys()

    def fit(self) -> None:
        self.views.in_hand.fit()

    def zoom(self, factor: float) -> None:
        self.views.in_hand.zoom(factor)

    def show_manual(self, ident: str = "") -> None:
        """Show a page of the manual, or the one about what is looked at; it stays open beside the
        window.
        """
        from grey_current.desk.shell.manual_window import ManualWindow  # noqa: PLC0415
        from grey_current.workspace.manual import page_here  # noqa: PLC0415

        if self._manual is None:
            self._manual = ManualWindow(self)
        self._manual.open_page(ident or self.inspector.page_in_hand() or page_here(self.workspace))
        self._manual.show()
        self._manual.activateWindow()

    def show_preferences(self) -> None:
        """Show what can be set for all shops; it stays open beside the window."""
        from grey_current.desk.shell.preferences import PreferencesDialog  # noqa: PLC0415

        if self._preferences is None:
            self._preferences = PreferencesDialog(self, self.workspace, self.settings)
            self._preferences.chosen.connect(self.put_setting)
        self._preferences.show_settings()
        self._preferences.show()
        self._preferences.activateWindow()

    def show_view(self, name: FloorView) -> None:
        self.views.show_view(name)

    def toggle_before(self) -> None:
        self.views.toggle_before()

    def toggle_theme(self) -> None:
        self.put_setting("theme", "dark" if self.colours.name == "light" else "light")

    def toggle_lanes(self) -> None:
        self.put_setting("lanes", "chosen" if self.floor.scene.all_lanes else "all")

    def toggle_motion(self) -> None:
        self.put_setting("motion", "off" if self.floor.moving else "on")

    def toggle_pane(self, name: str) -> None:
        self.inspector.enter()
        self.panes.fold(name)
        self.views.in_hand.setFocus()

    def keep_machine(self) -> None:
        self.library.keep(
            self.workspace.project.machine[(self.workspace.selection or "").split("/")[0]]
        )
        self._show_strip()

    def forget_kept(self) -> None:
        self.collectors.forget()
        self._show_strip()
        self.background.ask()

    def keep_collector(self) -> None:
        self.collectors.keep()
        self.background.ask()

    def read_curve(self) -> None:
        self.collectors.read_curve()

    def save_chart(self) -> None:
        self.collectors.save_chart(self.strip)

    def show_papers(self) -> None:
        self.inspector.enter()
        self.building.preview()

    def connect_instrument(self) -> None:
        self.link.ask_where(self)

    def guess(self) -> None:
        self.keeping.guess(self.colours)

    def show_history(self) -> None:
        from grey_current.desk.shell.history_dialog import HistoryDialog  # noqa: PLC0415

        def go(by: int) -> None:
            self.attempt(lambda: self.workspace.go_steps(by))

        dialog = HistoryDialog(self, lambda: self.workspace.steps, go)
        dialog.exec()
        dialog.deleteLater()

    def show_about(self) -> None:
        show_help(self, "About Grey Current", help_texts.about_page())

    def find_anything(self) -> None:
        # Not needed for a start.
        from grey_current.desk.shell.finder_dialog import find_anything  # noqa: PLC0415
        from grey_current.workspace.finder import Entry, entries  # noqa: PLC0415

        def run(entry: Entry) -> None:
            act = entry.act
            if act is not None:
                self.attempt(lambda: act(self))

        find_anything(self, entries(self.workspace, self.put_setting), run)

    def practise(self) -> None:
        if not self.files.may_leave() or (chosen := self.keeping.practise()) is None:
            return
        if isinstance(chosen, int):
            self.workspace.begin_lesson(chosen)
        else:
            self.workspace.show_project(chosen, None)
            self.workspace.go("keep")

    def merge_logbook(self) -> None:
        self.say(self.keeping.merge_logbook())

    def at_machine(self) -> None:
        self.working.at_machine(self.colours)

    def show_keys(self) -> None:
        show_help(self, "Keys and mouse", help_texts.keys_page())

    def show_cautions(self) -> None:
        show_help(self, "Before you rely on it", help_texts.CAUTIONS)

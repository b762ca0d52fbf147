"""The window: builds everything in order, wires it in one place, and carries out the commands."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QShowEvent
from PyQt6.QtWidgets import (
    QApplication,
    QFileDialog,
    QGridLayout,
    QLabel,
    QMainWindow,
    QMessageBox,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from grey_current.design.improve.jobs import Job, Result
from grey_current.desk import glyphs
from grey_current.desk.floor.floor import Floor
from grey_current.desk.inspector.inspector import Inspector
from grey_current.desk.shell import help_texts as help_pages
from grey_current.desk.shell.background import Background
from grey_current.desk.shell.collector_dialogs import CollectorDesk
from grey_current.desk.shell.menus import Menus
from grey_current.desk.shell.rack import Rack
from grey_current.desk.shell.side_timer import SideTimer
from grey_current.desk.shell.stage_bar import StageBar
from grey_current.desk.shell.underlay_dialogs import UnderlayDesk
from grey_current.desk.shell.verdict_bar import Banner, VerdictBar
from grey_current.desk.strips.card_strip import CardStrip, collector_things, machine_things, shop_things
from grey_current.desk.strips.comparison_strip import CompareStrip
from grey_current.desk.strips.lever_frame import LeverFrame
from grey_current.desk.strips.run_strip import HEIGHT as STRIP_HEIGHT
from grey_current.desk.strips.run_strip import Strip
from grey_current.desk.theme import PALETTES, SPACE, style_sheet
from grey_current.errors import GreyCurrentError
from grey_current.files.project_file import SUFFIX
from grey_current.shop import edits, kept_designs
from grey_current.shop.model import Collector
from grey_current.shop.room import Feature, Opening
from grey_current.workspace.library import Library
from grey_current.workspace.placing import Placing
from grey_current.workspace.settings import UserSettings
from grey_current.workspace.workspace import Notice, Workspace

if TYPE_CHECKING:
    from grey_current.desk.strips.match_chart import MatchChart

CHART_HEIGHT = 312
FILTER = f"Grey Current shop (*{SUFFIX} *.json);;All files (*)"


class MainWindow(QMainWindow):
    """The one window. No signals; it listens to the workspace and shows it."""

    def __init__(self, workspace: Workspace, settings: UserSettings, library: Path | None = None) -> None:
        super().__init__()
        self.workspace, self.settings = workspace, settings
        self.colours = PALETTES[settings.get("theme")]
        self.setStyleSheet(style_sheet(self.colours))
        self.setAcceptDrops(True)
        self.setWindowIcon(glyphs.icon("app", self.colours.accent.name()))
        self.menus = Menus(self, settings, self._handler, self._put_setting, self.open_path)
        self.library = Library(library)
        self.stage_bar = StageBar(workspace, self.colours)
        self.verdict_bar = VerdictBar(workspace, self.colours, self.menus.actions)
        self.banner = Banner()
        self.rack = Rack(workspace, self.colours)
        self.floor = Floor(workspace, self.colours)
        self.strip = Strip(workspace, self.colours)
        units = workspace.project.settings.units
        self.shop_strip = CardStrip("THINGS OF THE BUILDING", shop_things(units), self.colours, units)
        self.machine_strip = CardStrip("MACHINES AND COLLECTORS", self._machine_cards(), self.colours, units)
        self.lever_frame = LeverFrame(workspace, self.colours)
        self.match_chart: MatchChart | None = None
        self.compare_strip = CompareStrip(workspace, self.colours)
        self.strips = QStackedWidget()
        self.inspector = Inspector(workspace, self.colours)
        self.caution = QLabel(
            "Estimates for planning, not a certificate. Mains, gas and fire safety: local code and licensed people."
        )
        self.underlays = UnderlayDesk(self, workspace)
        self.collectors = CollectorDesk(self, workspace, self.library)
        self.background = Background(workspace)
        self._findings_timer = QTimer(self)
        self._findings_timer.setSingleShot(True)
        self._findings_timer.setInterval(0)
        self._side_timer = SideTimer(self)
        self._lay_out()
        self.menus.build()
        self._connect_signals()
        self.floor.set_moving(self._wants_motion())
        self._show_frame()
        self._ask_findings()

    # -- building

    def _handler(self, command: str) -> Callable[[], object]:
        """The slot of a command: "draw-duct" is `on_draw_duct`."""
        found: Callable[[], object] = getattr(self, "on_" + command.replace("-", "_"))
        return found

    def _lay_out(self) -> None:
        body = QWidget()
        grid = QGridLayout(body)
        grid.setContentsMargins(SPACE, 0, SPACE, 4)
        grid.setSpacing(SPACE)
        top = QVBoxLayout()
        top.setSpacing(SPACE // 2)
        top.addWidget(self.stage_bar)
        top.addWidget(self.verdict_bar)
        top.addWidget(self.banner)
        grid.addLayout(top, 0, 0, 1, 3)
        grid.addWidget(self.rack, 1, 0, 2, 1)
        grid.addWidget(self.floor, 1, 1)
        for panel in (self.shop_strip, self.machine_strip, self.strip, self.lever_frame, self.compare_strip):
            self.strips.addWidget(panel)
        self.strips.setFixedHeight(STRIP_HEIGHT)
        grid.addWidget(self.strips, 2, 1)
        grid.addWidget(self.inspector, 1, 2, 2, 1)
        self.caution.setObjectName("soft")
        grid.addWidget(self.caution, 3, 0, 1, 3)
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(1, 1)
        self.setCentralWidget(body)
        self.resize(1280, 800)

    def _connect_signals(self) -> None:
        self.workspace.listen(self.on_change)
        self._findings_timer.timeout.connect(self.on_findings_due)
        self._side_timer.timeout.connect(self.on_sides_due)
        self.background.found.connect(self.on_job_done)
        self.rack.chosen.connect(self.workspace.select)
        self.rack.switched.connect(self.workspace.toggle)
        self.strip.chosen.connect(self.workspace.select)
        self.lever_frame.chosen.connect(self.workspace.select)
        self.lever_frame.pulled.connect(self.on_lever_pulled)
        self.compare_strip.chosen.connect(self.workspace.select)
        self.compare_strip.ended.connect(self.on_compare_ended)
        self.strip.refused.connect(self.say)
        self.inspector.chosen.connect(self.on_finding_chosen)
        self.stage_bar.chosen.connect(self.workspace.go)
        self.floor.refused.connect(self.say)
        self.floor.scale_asked.connect(self.on_scale_asked)
        for strip in (self.shop_strip, self.machine_strip):
            strip.taken.connect(self.workspace.arm)
            strip.put.connect(self.on_put)

    # -- showing

    def on_change(self, change: Notice) -> None:
        """Show what changed, once for each change."""
        other_shop = change.project and change.before.rooms != change.after.rooms
        refit = other_shop and change.stage
        self.stage_bar.show_workspace()
        self.verdict_bar.show_workspace()
        self.rack.show_workspace()
        self.floor.show_workspace(refit=refit)
        if self.workspace.in_gesture:
            self._side_timer.start()
        else:
            self.on_sides_due()
        if change.project or change.stage:
            self.banner.hide()
        self._show_frame()
        self._ask_findings()

    def on_sides_due(self) -> None:
        """Show strip and inspector; while something is dragged they follow a little behind the floor."""
        self._side_timer.stop()
        self._show_strip()
        self.strips.setFixedHeight(CHART_HEIGHT if self.workspace.stage == "collector" else STRIP_HEIGHT)
        self.inspector.show_workspace()

    def _ask_findings(self) -> None:
        """Let the findings follow once the effect of the edit itself is on screen."""
        if self.workspace.findings_due:
            self._findings_timer.start()
        self.background.ask()

    def on_job_done(self, revision: int, job: Job, found: Result) -> None:
        """Show what would help most, unless the project has moved on."""
        if self.workspace.computed.take_result(revision, job, found):
            self._show_strip()
            self.inspector.show_workspace()

    def on_findings_due(self) -> None:
        """Compute the findings and show them."""
        if self.workspace.findings_due:
            _ = self.workspace.findings
            self.stage_bar.show_workspace()
            self.inspector.show_workspace()

    def _show_strip(self) -> None:
        """The strip of this stage."""
        stage, hand = self.workspace.stage, self.workspace.placing
        units = self.workspace.project.settings.units
        if stage == "shop":
            self.shop_strip.show_things(shop_things(units), self.colours, units, hand)
            self.strips.setCurrentWidget(self.shop_strip)
        elif stage == "machines":
            self.machine_strip.show_things(self.machine_strip.things, self.colours, units, hand)
            self.strips.setCurrentWidget(self.machine_strip)
        elif stage == "collector":
            self._match_chart().show_workspace()
            self.strips.setCurrentWidget(self._match_chart())
        elif self.workspace.comparison is not None:
            self.compare_strip.show_workspace()
            self.strips.setCurrentWidget(self.compare_strip)
        elif stage == "gates":
            self.lever_frame.show_workspace()
            self.strips.setCurrentWidget(self.lever_frame)
        else:
            self.strip.show_workspace()
            self.strips.setCurrentWidget(self.strip)

    def _match_chart(self) -> MatchChart:
        """The match chart, made when it is first wanted: the plotting library is slow to load."""
        if self.match_chart is None:
            from grey_current.desk.strips.match_chart import MatchChart  # noqa: PLC0415

            self.match_chart = MatchChart(self.workspace, self.colours)
            self.strips.addWidget(self.match_chart)
        return self.match_chart

    def _show_frame(self) -> None:
        """Title, commands and their state."""
        name = self.workspace.project.name
        where = f" — {self.workspace.path.name}" if self.workspace.path else ""
        self.setWindowTitle(f"{name}[*]{where} — Grey Current")
        self.setWindowModified(self.workspace.dirty)
        self.menus.show_workspace(self.workspace)

    def _put_setting(self, name: str, choice: str) -> None:
        self.settings.put(name, choice)
        if name == "theme":
            self.colours = PALETTES[choice]
            self.setStyleSheet(style_sheet(self.colours))
            for panel in (
                self.stage_bar,
                self.verdict_bar,
                self.rack,
                self.floor,
                self.strip,
                self.lever_frame,
                self.compare_strip,
                self.inspector,
            ):
                panel.show_workspace(palette=self.colours)
            if self.match_chart is not None:
                self.match_chart.show_workspace(palette=self.colours)
            self._show_strip()
        self.floor.set_moving(self._wants_motion())
        self._show_frame()

    def _wants_motion(self) -> bool:
        wish = self.settings.get("motion")
        if wish != "system":
            return wish == "on"
        reduced = os.environ.get("GTK_ENABLE_ANIMATIONS") == "0"
        return not reduced and QApplication.isEffectEnabled(Qt.UIEffect.UI_General)

    def say(self, sentence: str) -> None:
        """Show what could not be done."""
        self.banner.say(sentence, self.colours)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.floor.show_workspace(refit=True)
        self._show_strip()
        self.floor.setFocus()
        if self.library.problem:
            self.say(self.library.problem)

    # -- files

    def open_path(self, path: Path) -> bool:
        """Open a file, after asking about unsaved work; what cannot be opened is said in the banner."""
        if not self._may_leave():
            return False
        try:
            self.workspace.open(path)
        except GreyCurrentError as problem:
            self.say(str(problem))
            return False
        self.banner.hide()
        self.settings.remember(path)
        return True

    def _open_demo(self, name: str) -> None:
        if self._may_leave():
            self.workspace.open_demo(name)
            self.banner.hide()

    def save_to(self, path: Path | None) -> bool:
        """Save; what cannot be saved is said in the banner and stays open."""
        try:
            self.workspace.save(path)
        except GreyCurrentError as problem:
            self.say(str(problem))
            return False
        self.banner.hide()
        if self.workspace.path:
            self.settings.remember(self.workspace.path)
        return True

    def _may_leave(self) -> bool:
        """Whether this project may be put away: there is nothing unsaved, or the user has decided."""
        if not self.workspace.dirty:
            return True
        box = QMessageBox(self)
        box.setIcon(QMessageBox.Icon.Question)
        box.setText(f"“{self.workspace.project.name}” has changes that are not saved.")
        box.setInformativeText("Save them first?")
        box.setStandardButtons(
            QMessageBox.StandardButton.Save | QMessageBox.StandardButton.Discard | QMessageBox.StandardButton.Cancel
        )
        box.setDefaultButton(QMessageBox.StandardButton.Save)
        answer = box.exec()
        box.deleteLater()
        if answer == QMessageBox.StandardButton.Save:
            return self.on_save()
        return answer == QMessageBox.StandardButton.Discard

    def closeEvent(self, event: QCloseEvent | None) -> None:
        if event is not None:
            if self._may_leave():
                self.background.stop()
                event.accept()
            else:
                event.ignore()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event else None
        if event is not None and data is not None and any(u.isLocalFile() for u in data.urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event else None
        if data is not None:
            self.open_path(Path(next(u.toLocalFile() for u in data.urls() if u.isLocalFile())))

    # -- commands, one slot each

    def on_open(self) -> None:
        start = str(self.workspace.path.parent) if self.workspace.path else ""
        chosen, _ = QFileDialog.getOpenFileName(self, "Open a shop", start, FILTER)
        if chosen:
            self.open_path(Path(chosen))

    def on_open_loft(self) -> None:
        self._open_demo("loft")

    def on_open_allotment(self) -> None:
        self._open_demo("allotment")

    def on_open_empty(self) -> None:
        self._open_demo("empty")

    def on_save(self) -> bool:
        return self.save_to(None) if self.workspace.path else self.on_save_as()

    def on_save_as(self) -> bool:
        stem = self.workspace.project.name.lower().replace(" ", "-").replace("/", "-")
        start = str(self.workspace.path or f"{stem}{SUFFIX}")
        chosen, _ = QFileDialog.getSaveFileName(self, "Save the shop", start, FILTER)
        if not chosen:
            return False
        path = Path(chosen)
        return self.save_to(path if path.suffix else path.with_name(path.name + SUFFIX))

    def on_quit(self) -> None:
        self.close()

    def on_undo(self) -> None:
        self.workspace.undo()

    def on_redo(self) -> None:
        self.workspace.redo()

    def on_all_off(self) -> None:
        self.workspace.switch_on(())

    def on_deselect(self) -> None:
        if not self.floor.stop():
            self.workspace.select(None)

    def on_units(self) -> None:
        other = "metric" if self.workspace.project.settings.units == "us" else "us"
        self.workspace.edit("Change units", lambda p: edits.with_settings(p, units=other))

    def on_criterion(self) -> None:
        now = self.workspace.project.settings.criterion
        other = "catch fine dust" if now == "clear chips" else "clear chips"
        self.workspace.edit("Change what air must do", lambda p: edits.with_settings(p, criterion=other))

    def on_fit(self) -> None:
        self.floor.fit()

    def on_zoom_in(self) -> None:
        self.floor.zoom(1.25)

    def on_zoom_out(self) -> None:
        self.floor.zoom(0.8)

    def on_theme(self) -> None:
        self._put_setting("theme", "dark" if self.colours.name == "light" else "light")

    def on_motion(self) -> None:
        self._put_setting("motion", "off" if self.floor.moving else "on")

    def on_next_machine(self) -> None:
        self._step_machine(1)

    def on_previous_machine(self) -> None:
        self._step_machine(-1)

    def _step_machine(self, step: int) -> None:
        idents = [machine.id for machine in self.workspace.project.machines]
        now = idents.index(self.workspace.running[0]) if self.workspace.running else -1 if step > 0 else 0
        ident = idents[(now + step) % len(idents)]
        self.workspace.switch_on((ident,))
        self.workspace.select(ident)

    # -- putting things down, and doing things to them

    def _attempt(self, action: Callable[[], None]) -> None:
        """Do something that may be refused; the sentence goes into the banner."""
        try:
            action()
        except GreyCurrentError as problem:
            self.say(str(problem))

    def on_put(self, placing: Placing) -> None:
        """Put a thing down in the middle of the floor that is shown."""
        x, y = self.floor.view.place(QPointF(self.floor.width() / 2, self.floor.height() / 2))
        self._attempt(lambda: self.workspace.put(placing, round(x, 2), round(y, 2)))
        self.floor.setFocus()

    def on_finding_chosen(self, element: str) -> None:
        """Show what a finding is about, at the stage where it can be mended."""
        item = self.workspace.project.find(element)
        if isinstance(item, Opening | Feature):
            self.workspace.go("shop")
        elif isinstance(item, Collector) and self.workspace.stage not in ("collector", "air"):
            self.workspace.go("collector")
        self.workspace.select(element)

    def _machine_cards(self) -> tuple[Placing, ...]:
        return (*machine_things(self.library.all_models()), *collector_things())

    def on_draw_duct(self) -> None:
        self.workspace.go("air")
        self.workspace.arm(Placing("duct", "duct", "Duct"))
        self.floor.setFocus()

    def on_keep_design(self) -> None:
        self._attempt(lambda: self.workspace.edit("Keep this design", lambda p: kept_designs.kept(p)[0]))

    def on_compare_design(self) -> None:
        """Compare with the design that was kept last, or end the comparison."""
        last = self.workspace.project.kept_designs[-1].id
        self._attempt(lambda: self.workspace.compare(None if self.workspace.compared else last))

    def on_compare_ended(self) -> None:
        self.workspace.compare(None)

    def on_copy(self) -> None:
        self.workspace.copy()
        self._show_frame()

    def on_paste(self) -> None:
        self._attempt(self.workspace.paste)

    def on_delete(self) -> None:
        self._attempt(self.workspace.delete)

    def on_select_all(self) -> None:
        self.workspace.select_all(tuple(self.workspace.project.machine))

    def on_next_thing(self) -> None:
        self.workspace.select_next(1)

    def on_previous_thing(self) -> None:
        self.workspace.select_next(-1)

    def on_turn(self) -> None:
        self._turn(90)

    def on_turn_little(self) -> None:
        self._turn(15)

    def _turn(self, degrees: float) -> None:
        chosen = self.workspace.selected
        self._attempt(lambda: self.workspace.edit("Turn", lambda p: edits.turned(p, chosen, degrees)))

    def on_align_x(self) -> None:
        chosen = self.workspace.selected
        self._attempt(lambda: self.workspace.edit("Align", lambda p: edits.aligned(p, chosen, "x")))

    def on_align_y(self) -> None:
        chosen = self.workspace.selected
        self._attempt(lambda: self.workspace.edit("Align", lambda p: edits.aligned(p, chosen, "y")))

    def on_keep_machine(self) -> None:
        machine = self.workspace.project.machine[(self.workspace.selection or "").split("/")[0]]
        self._attempt(lambda: self.library.keep(machine))
        things = self._machine_cards()
        units = self.workspace.project.settings.units
        self.machine_strip.show_things(things, self.colours, units, self.workspace.placing)

    def on_keep_collector(self) -> None:
        self._attempt(self.collectors.keep)
        self._ask_findings()

    def on_read_curve(self) -> None:
        self._attempt(self.collectors.read_curve)

    def on_save_chart(self) -> None:
        self._attempt(lambda: self.collectors.save_chart(self._match_chart()))

    def on_run_together(self) -> None:
        sets = self.workspace.project.settings.together
        running = self.workspace.running
        if running not in sets:
            step = "Count machines as run together"
            self._attempt(
                lambda: self.workspace.edit(step, lambda p: edits.with_settings(p, together=(*sets, running)))
            )

    def on_stage_shop(self) -> None:
        self.workspace.go("shop")

    def on_stage_machines(self) -> None:
        self.workspace.go("machines")

    def on_stage_collector(self) -> None:
        self.workspace.go("collector")

    def on_stage_air(self) -> None:
        self.workspace.go("air")

    def on_stage_gates(self) -> None:
        self.workspace.go("gates")

    def on_lever_pulled(self, gate: str) -> None:
        """Leave a gate open, or let it follow its machine again."""
        follows = self.workspace.project.gate[gate].rule == "with its machine"
        rule = "left open" if follows else "with its machine"
        step = "Leave a gate open" if follows else "Let a gate follow its machine"
        self._attempt(lambda: self.workspace.edit(step, lambda p: edits.changed(p, gate, rule=rule)))

    # -- the plan underneath

    def on_underlay(self) -> None:
        self._attempt(self.underlays.choose)

    def on_scale_underlay(self) -> None:
        self.underlays.begin_scale()

    def on_scale_asked(self, first: tuple[float, float], second: tuple[float, float]) -> None:
        """Two places on the plan were pointed at."""
        self._attempt(lambda: self.underlays.scale(first, second))

    def on_drop_underlay(self) -> None:
        self.underlays.drop()

    def on_keys(self) -> None:
        self._help("Keys and mouse", help_pages.keys_page())

    def on_cautions(self) -> None:
        self._help("Before you rely on it", help_pages.CAUTIONS)

    def _help(self, title: str, text: str) -> None:
        box = QMessageBox(self)
        box.setWindowTitle(title)
        box.setTextFormat(Qt.TextFormat.RichText)
        box.setText(text)
        box.exec()
        box.deleteLater()

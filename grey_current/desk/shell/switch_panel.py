"""A panel of stand-ins for the shop's switches: start and stop tools by hand and see what the
collectors do.
"""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QDialog, QGridLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from grey_current.desk.inspector.rows import WordButton
from grey_current.desk.plain import OneLine, plain_label, resize_on_screen
from grey_current.desk.scroll import Scrolled
from grey_current.shop.model import Project
from grey_current.standins.switches import LiveSwitch
from grey_current.work.day import served_by_collectors
from grey_current.workspace.workspace import Workspace

TICK_MS = 200
# Pixels of the panel at first.
SIZE = (480, 260)


class SwitchPanel(QDialog):
    """Tools to start and stop; for each collector whether it is on and how long it still runs on.
    No signals.
    """

    def __init__(
        self, parent: QWidget, workspace: Workspace, clock: Callable[[], float] = time.monotonic
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Tools and switches, simulated")
        self.workspace, self._clock = workspace, clock
        project = workspace.project
        self._served = served_by_collectors(project)
        self.tools: dict[str, QPushButton] = {}
        self.switches: dict[str, LiveSwitch] = {}
        self.states: dict[str, QLabel] = {}
        layout = QVBoxLayout(self)
        layout.addWidget(
            plain_label(
                "Start a tool as its own switch would; the collector follows by its current.",
                "soft",
            )
        )
        # Names break over lines, and many machines scroll.
        tools, rows = QWidget(), Scrolled()
        rows.setAccessibleName("Tools and switches")
        grid = QGridLayout(tools)
        grid.setContentsMargins(0, 0, 0, 0)
        rows.setWidget(tools)
        layout.addWidget(rows, 1)
        for number, machine in enumerate(project.machines):
            button = WordButton(machine.name)
            button.setAccessibleName(machine.name)
            button.setCheckable(True)
            button.toggled.connect(lambda on, ident=machine.id: self.on_tool(ident, on))
            self.tools[machine.id] = button
            grid.addWidget(button, number // 3, number % 3)
        for collector in project.collectors:
            label = OneLine()
            self.states[collector.id] = label
            self.switches[collector.id] = _switch(project, collector.id)
            layout.addWidget(label)
        resize_on_screen(self, parent, *SIZE)
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self.show_states)
        self._timer.start()
        self.show_states()

    def on_tool(self, machine: str, on: bool) -> None:
        """A tool was started or stopped."""
        now = self._clock()
        for collector in self._served.get(machine, ()):
            self.switches[collector].tell(machine, on, now)
        running = tuple(ident for ident, button in self.tools.items() if button.isChecked())
        self.workspace.switch_on(
            tuple(ident for ident in running if ident in self.workspace.project.machine)
        )
        self.show_states()

    def show_states(self) -> None:
        """Show what every collector does now."""
        now, project = self._clock(), self.workspace.project
        for ident, label in self.states.items():
            if ident in project.collector:
                on, left = self.switches[ident].state(now)
                words = "on" if on else "off"
                more = f", runs on for {left:.0f} s more" if on and left > 0 else ""
                label.setText(f"{project.collector[ident].name}: {words}{more}")

    def done(self, result: int) -> None:
        """The panel is put away: all tools stop."""
        self._timer.stop()
        super().done(result)


def _switch(project: Project, collector: str) -> LiveSwitch:
    item = project.collector[collector]
    return LiveSwitch(1.0, item.run_on) if item.auto_start else LiveSwitch(0.0, 0.0)

"""At the machine: one machine's card over the whole screen, to be read from three metres. Space
goes on.
"""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QDialog, QPushButton, QWidget

from grey_current.design.flow.levers import LeverFacts
from grey_current.desk.inspector.log_pages import emptied_today, logs_day
from grey_current.desk.strips.lever_frame import paint_lever
from grey_current.desk.theme import Palette, sized_font
from grey_current.errors import GreyCurrentError
from grey_current.shop.day_edits import with_more_at
from grey_current.shop.edits import Edit
from grey_current.work.cards import Card
from grey_current.work.day import served_by_collectors
from grey_current.workspace.workspace import Workspace

SLOW = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft
GONE = "This machine is no longer in the shop. Choose another one with the arrow keys."
HELP = "Space: next line.  Left and right: another machine.  Esc: back."


class AtMachine(QDialog):
    """The card of the machine that runs, or the first; keys choose another. No signals."""

    def __init__(
        self, parent: QWidget, workspace: Workspace, cards: list[Card], palette: Palette
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("At the machine")
        self.setAccessibleName("A machine's card in large letters")
        self.workspace, self.cards, self.colours = workspace, cards, palette
        # What the last click did, or why it did not.
        self.told = ""
        known = [card.machine for card in cards]
        wanted = (
            workspace.running[0] if workspace.running else (workspace.selection or "").split("/")[0]
        )
        self.at = known.index(wanted) if wanted in known else 0
        self.line = 0
        self.setMinimumSize(640, 400)
        # Two large buttons for the end of the day, and one for ten minutes more.
        self.buttons = [
            self._button("+10 min", "Ten more minutes of the day at this machine", self.on_more),
            self._button("Log today", "Write the day into the logbook", self.on_log),
            self._button("Bin emptied", "Write that into the logbook", self.on_emptied),
        ]
        self._show_buttons()

    def _button(self, words: str, about: str, act: Callable[[], None]) -> QPushButton:
        button = QPushButton(words, self)
        button.setToolTip(about)
        button.setAutoDefault(False)
        # Space walks through the checklist, whatever was clicked last.
        button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        button.clicked.connect(act)
        return button

    def _show_buttons(self) -> None:
        """Say what has been done, and offer what can be."""
        project = self.workspace.project
        more, log, emptied = self.buttons
        minutes = sum(j.minutes for j in project.work.day if j.machine == self.card.machine)
        more.setText(f"{minutes:.0f} min, +10" if minutes else "+10 min")
        more.setEnabled(self._there)
        log.setEnabled(bool(project.work.day))
        emptied.setEnabled(any(item.bin is not None for item in project.collectors))

    def _edit(self, step: str, edit: Edit, done: str) -> None:
        """Change the project; what cannot be is told on the help line."""
        try:
            self.workspace.edit(step, edit)
            self.told = done
        except GreyCurrentError as problem:
            self.told = str(problem)
        self._show_buttons()
        self.update()

    def on_more(self) -> None:
        """Ten more minutes of the day at this machine."""
        machine = self.card.machine
        self._edit("Ten more minutes", lambda p: with_more_at(p, machine), "")

    def on_log(self) -> None:
        """Write the day into the logbook."""
        edit = logs_day(self.workspace.assessment)
        self._edit("Log a day's work", edit, "Today is in the logbook.")

    def on_emptied(self) -> None:
        """Write down that the bin of the collector that this machine draws through was emptied."""
        project = self.workspace.project
        served = served_by_collectors(project).get(self.card.machine, ())
        bins = [item.id for item in project.collectors if item.bin is not None]
        collector = next((c for c in served if c in bins), bins[0])
        self._edit("Log an emptied bin", emptied_today(collector), "The bin is empty.")

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        unit = self._unit
        wide, tall = unit * 6.4, unit * 1.9
        x = self.width() - unit
        for button in reversed(self.buttons):
            # The window's style sheet has the last word on fonts.
            button.setStyleSheet(f"font-size: {round(unit * 0.85)}px; font-weight: bold;")
            x -= wide
            button.setGeometry(round(x), round(unit * 0.8), round(wide - unit * 0.3), round(tall))

    @property
    def card(self) -> Card:
        """The card that is shown."""
        return self.cards[self.at]

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Space goes on, arrows choose another machine, Esc leaves."""
        if event is None:
            return
        if event.key() == Qt.Key.Key_Space:
            self.go_on()
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.choose(self.at + (1 if event.key() == Qt.Key.Key_Right else -1))
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        del event
        self.go_on()

    def follow(self) -> None:
        """Show the tool that runs, where it is another one."""
        known = [card.machine for card in self.cards]
        running = [machine for machine in self.workspace.running if machine in known]
        if running and self.card.machine not in running:
            self.at, self.line, self.told = known.index(running[-1]), 0, ""
            self._show_buttons()
            self.update()

    def go_on(self) -> None:
        """The next line of the checklist; behind the last one it begins again."""
        self.line = (self.line + 1) % (len(self.card.lines) + 1)
        self.update()

    def choose(self, number: int) -> None:
        """Another machine's card; it is switched on, as one walks up to it."""
        self.at, self.line, self.told = number % len(self.cards), 0, ""
        self._show_buttons()
        if self._there:
            self.workspace.switch_on((self.card.machine,))
        self.update()

    @property
    def _there(self) -> bool:
        """Whether the machine is still in the shop, which may be edited behind this window."""
        return self.card.machine in self.workspace.project.machine

    @property
    def _unit(self) -> float:
        """Pixels that all sizes follow."""
        return min(self.width() / 32, self.height() / 20)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        p, unit = self.colours, self._unit
        painter.fillRect(self.rect(), p.sheet)
        painter.setPen(p.ink)
        margin = unit
        painter.setFont(sized_font(unit * 2.4, bold=True))
        painter.drawText(
            QRectF(margin, 0, self.width() - 21 * unit, unit * 3.4), SLOW, self.card.name
        )
        if not self._there:
            painter.setFont(sized_font(unit * 1.2))
            self._paint_text(painter, GONE, unit * 3.4, unit * 1.6)
            painter.end()
            return
        y = self._paint_levers(painter, unit, unit * 3.4)
        painter.setFont(sized_font(unit * 1.2, bold=True))
        painter.setPen(p.ink)
        if self.card.gates:
            y = self._paint_text(painter, self.card.gates, y, unit * 1.6)
        painter.setFont(sized_font(unit * 0.8))
        for text in (*self.card.air, f"{self.card.together} {self.card.boards}".strip()):
            y = self._paint_text(painter, text, y, unit * 1.1)
        painter.setPen(QPen(p.rule, 2))
        painter.drawLine(
            round(margin),
            round(y + unit * 0.3),
            round(self.width() - margin),
            round(y + unit * 0.3),
        )
        y += unit * 0.7
        self._paint_lines(painter, unit, y)
        painter.setFont(sized_font(unit * 0.6))
        painter.setPen(p.soft)
        foot = QRectF(margin, self.height() - unit * 1.2, self.width() - 2 * margin, unit)
        painter.drawText(foot, SLOW, f"{self.told}  {HELP}".strip())
        painter.end()

    def _paint_levers(self, painter: QPainter, unit: float, y: float) -> float:
        facts: LeverFacts = self.workspace.computed.levers((self.card.machine,))
        if not facts.levers:
            return y
        wide = min((self.width() - 2 * unit) / len(facts.levers), unit * 4)
        for number, lever in enumerate(facts.levers):
            box = QRectF(unit + number * wide, y, wide, max(unit * 4.6, 130.0))
            paint_lever(painter, box, number + 1, lever, self.colours, lever.pulled)
        return y + max(unit * 4.6, 130.0) + unit * 0.3

    def _paint_text(self, painter: QPainter, text: str, y: float, tall: float) -> float:
        box = QRectF(self._unit, y, self.width() - 2 * self._unit, tall * 3)
        flags = Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
        needed = painter.boundingRect(box, int(flags), text)
        painter.drawText(box, flags, text)
        return y + max(needed.height(), tall)

    def _paint_lines(self, painter: QPainter, unit: float, y: float) -> None:
        p = self.colours
        for number, line in list(enumerate((self.card.wear, *self.card.lines)))[
            max(self.line - 1, 0) :
        ]:
            if y > self.height() - unit * 2.8:
                break
            now = number == self.line
            painter.setFont(sized_font(unit * (1.25 if now else 0.95), bold=now))
            painter.setPen(p.ink if number >= self.line else p.soft)
            if now:
                painter.fillRect(
                    QRectF(unit * 0.4, y + unit * 0.15, unit * 0.3, unit * 1.2), p.accent
                )
            box = QRectF(unit, y, self.width() - 2 * unit, unit * 1.5)
            painter.drawText(box, SLOW, f"{'✓ ' if number < self.line else ''}{line}")
            y += unit * 1.5

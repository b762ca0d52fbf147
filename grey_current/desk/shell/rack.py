"""The rack: one row a machine, with its air against its need; a row is also the machine's
switch.
"""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import (
    QContextMenuEvent,
    QDrag,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
)
from PyQt6.QtWidgets import QAbstractButton, QFrame, QSizePolicy, QVBoxLayout, QWidget

from grey_current.design.flow.assessment import ScenarioAir
from grey_current.design.flow.states import machine_state
from grey_current.design.flow.transport import slowest_transport
from grey_current.design.words import transport_word
from grey_current.desk import glyphs
from grey_current.desk.plain import MACHINE_DRAG, plain_label, takes_key
from grey_current.desk.scroll import Scrolled
from grey_current.desk.theme import SPACE, Palette, font
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace

ROW = 62
# When the rows would need more room than there is, each is as tall as this: twelve of them stand
# in a window of 1280 by 800.
TIGHT_ROW = 45
# Pixels that the pointer goes before a row is dragged away.
DRAG_FROM = 12
SWITCH = QRectF(10, 12, 30, 16)
TEXT_LEFT = 50.0
# Below so many pixels a bar says nothing.
LEAST_BAR = 24
# Pixels across of the button for ten more minutes.
MORE_WIDE = 76
CHIPS_LIE = ("settles", "may settle")
RIGHT_ALIGNED = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight


@dataclass(frozen=True)
class RowFacts:
    """What a row shows: name, state word, share of the need, the figures in words, and how chips
    fare.
    """

    machine: str
    name: str
    state: str
    share: float
    figures: str
    transport: str
    running: bool
    selected: bool
    # At the Work stage: the minutes of the day at it.
    minutes: float | None = None


def row_facts(workspace: Workspace, machine: str) -> RowFacts:
    """A machine's row: from the scenario that runs now if it is in it, else from running alone."""
    project = workspace.project
    running = machine in workspace.running
    answer = workspace.air_at(machine)
    state = machine_state(answer, machine)
    mine = [p for p in answer.pickups if p.machine == machine] if answer else []
    worst = min(mine, key=lambda p: p.share, default=None)
    figures, share = _plain_state(state), 0.0
    if worst is not None and not figures:
        display = Display(project.settings.units)
        share = round(worst.share, 3)
        need = display.airflow(worst.need.airflow)
        figures = f"{display.airflow(worst.airflow, unit=False)} of {need}"
        if worst.loose:
            ref = f"{machine}/{worst.pickup}"
            left = "left open" if ref in project.moved_to else "not connected"
            figures = f"{project.pickup[ref][1].name.lower()} {left}"
    item = project.machine[machine]
    chosen = workspace.selection is not None and workspace.selection.split("/")[0] == machine
    chips = _transport(workspace, answer)
    minutes = None
    if workspace.stage == "work":
        minutes = sum(job.minutes for job in project.work.day if job.machine == machine)
    return RowFacts(machine, item.name, state, share, figures, chips, running, chosen, minutes)


def _plain_state(state: str) -> str:
    return {
        "no pickup": "nothing to connect to",
        "not connected": "no duct or hose yet",
        "no answer": "no airflow computed",
    }.get(state, "")


def _transport(workspace: Workspace, answer: ScenarioAir | None) -> str:
    slow = slowest_transport(workspace.project, answer) if answer and answer.converged else None
    return transport_word(slow.share) if slow else ""


class RackRow(QAbstractButton):
    """One machine, with its switch as a button that a screen reader presses. Signals: `chosen` (its
    row was clicked), `switched` (its switch; True: with the others), `more_asked` (ten more minutes
    of the day), `menu_asked` (where on the screen).
    """

    chosen = pyqtSignal(str)
    switched = pyqtSignal(str, bool)
    more_asked = pyqtSignal(str)
    menu_asked = pyqtSignal(QPoint)

    def __init__(self, facts: RowFacts, palette: Palette) -> None:
        super().__init__()
        self.facts, self.colours = facts, palette
        self._pressed: QPoint | None = None
        self.tight = False
        self.setFixedHeight(ROW)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setToolTip(
            "Click to switch this machine on alone; its gates open, the rest shut.\n"
            "Ctrl+click or Ctrl+Space to switch it on together with the others."
        )
        self.clicked.connect(lambda _checked: self._switch())
        self.show_facts(facts, palette)

    def _switch(self, *, together: bool = False) -> None:
        self.switched.emit(self.facts.machine, together)
        self.chosen.emit(self.facts.machine)

    def show_facts(self, facts: RowFacts, palette: Palette) -> None:
        """Show other facts; the same ones again cost nothing."""
        if self.accessibleName() and (facts, palette) == (self.facts, self.colours):
            return
        self.facts, self.colours = facts, palette
        on = "on" if facts.running else "off"
        day = f", {facts.minutes:.0f} minutes of the day" if facts.minutes is not None else ""
        self.setAccessibleName(f"{facts.name}, {on}, {facts.figures}, {facts.state}{day}")
        self.update()

    def make_tight(self, tight: bool) -> None:
        """Stand in less height, or in the usual one."""
        if tight != self.tight:
            self.tight = tight
            self.setFixedHeight(TIGHT_ROW if tight else ROW)
            self.update()

    @property
    def more_box(self) -> QRectF:
        """Where ten more minutes are asked for; nothing but at the Work stage."""
        if self.facts.minutes is None:
            return QRectF()
        return more_box(QRectF(self.rect()), self.tight)

    def sizeHint(self) -> QSize:
        return QSize(230, TIGHT_ROW if self.tight else ROW)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint = paint_tight_row if self.tight else paint_row
        paint(painter, QRectF(self.rect()), self.facts, self.colours, self.hasFocus())
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or event.button() != Qt.MouseButton.LeftButton:
            return
        if self.more_box.contains(event.position()):
            self.more_asked.emit(self.facts.machine)
            return
        together = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        on_switch = SWITCH.adjusted(-8, -8, 8, 8).contains(event.position())
        if on_switch or together or not self.facts.running:
            self.switched.emit(self.facts.machine, together)
        self.chosen.emit(self.facts.machine)
        self._pressed = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        """Drag the machine away, to put it into the day."""
        if (
            event is None
            or self._pressed is None
            or not event.buttons() & Qt.MouseButton.LeftButton
        ):
            return
        if (event.position().toPoint() - self._pressed).manhattanLength() < DRAG_FROM:
            return
        self._pressed = None
        drag, data = QDrag(self), QMimeData()
        data.setData(MACHINE_DRAG, self.facts.machine.encode())
        drag.setMimeData(data)
        drag.exec(Qt.DropAction.CopyAction)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        if event is not None:
            self.chosen.emit(self.facts.machine)
            self.menu_asked.emit(event.globalPos())

    def event(self, event: QEvent | None) -> bool:
        """At the Work stage + is the row's, not the zoom's."""
        wanted = (Qt.Key.Key_Plus,) if self.facts.minutes is not None else ()
        return takes_key(event, wanted) or super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._switch(together=bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        elif event.key() == Qt.Key.Key_Plus and self.facts.minutes is not None:
            self.more_asked.emit(self.facts.machine)
        elif event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self.focusNextPrevChild(event.key() == Qt.Key.Key_Down)
        else:
            super().keyPressEvent(event)


def more_box(box: QRectF, tight: bool) -> QRectF:
    """Where a row's button for ten more minutes stands."""
    return QRectF(box.right() - 12 - MORE_WIDE, 2 if tight else 5, MORE_WIDE, 24)


def paint_row(painter: QPainter, box: QRectF, facts: RowFacts, p: Palette, focused: bool) -> None:
    """A row: switch, name and state, the bar of air against need, the figures."""
    _paint_ground(painter, box, facts, p, focused)
    _paint_switch(painter, SWITCH, facts.running, p)
    left, right = TEXT_LEFT, box.width() - 12
    _paint_name(painter, QRectF(left, 9, right - left, 20), facts, p)
    if facts.share:
        glyphs.draw_state(painter, QPointF(25, 44), 13, facts.state, p)
        _paint_bar(painter, QRectF(left, 33, right - left, 6), facts, p)
    line = QRectF(left, 41, right - left, 17)
    painter.setPen(p.soft)
    painter.setFont(font("small"))
    painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, facts.figures)
    if facts.transport in CHIPS_LIE:
        wide = painter.fontMetrics().horizontalAdvance(facts.transport)
        painter.setPen(p.state(facts.transport))
        painter.drawText(line, RIGHT_ALIGNED, facts.transport)
        glyphs.draw_state(painter, QPointF(right - wide - 10, 50), 10, facts.transport, p)


def paint_tight_row(
    painter: QPainter, box: QRectF, facts: RowFacts, p: Palette, focused: bool
) -> None:
    """The same in two lines: the bar stands before the figures, chips are a mark without a word."""
    _paint_ground(painter, box, facts, p, focused)
    _paint_switch(painter, SWITCH.translated(0, -6), facts.running, p)
    left, right = TEXT_LEFT, box.width() - 12
    _paint_name(painter, QRectF(left, 4, right - left, 20), facts, p)
    line = QRectF(left, 24, right - left, 17)
    painter.setPen(p.soft)
    painter.setFont(font("small"))
    figures = painter.fontMetrics().horizontalAdvance(facts.figures)
    if facts.share:
        glyphs.draw_state(painter, QPointF(25, 33), 11, facts.state, p)
        room = line.width() - figures - 22
        if room > LEAST_BAR:
            _paint_bar(painter, QRectF(left, 30, room, 5), facts, p)
        painter.setPen(p.soft)
        painter.drawText(line.adjusted(0, 0, -16, 0), RIGHT_ALIGNED, facts.figures)
    else:
        painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, facts.figures)
    if facts.transport in CHIPS_LIE:
        glyphs.draw_state(painter, QPointF(right - 5, 33), 10, facts.transport, p)


def _paint_ground(
    painter: QPainter, box: QRectF, facts: RowFacts, p: Palette, focused: bool
) -> None:
    """What tells a row that runs, is selected or has the keyboard from the others."""
    if facts.running or facts.selected:
        painter.fillRect(box, p.machine_on if facts.running else p.raised)
    painter.fillRect(QRectF(box.left(), box.bottom() - 1, box.width(), 1), p.rule)
    if facts.selected:
        painter.fillRect(QRectF(box.left(), box.top(), 3, box.height() - 1), p.accent)
    if focused:
        painter.setPen(QPen(p.accent, 1, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(box.adjusted(1.5, 1.5, -1.5, -2.5))


def _paint_name(painter: QPainter, line: QRectF, facts: RowFacts, p: Palette) -> None:
    """The name, cut short before the state at the line's end."""
    painter.setFont(font("small"))
    if facts.minutes is None:
        state_wide = painter.fontMetrics().horizontalAdvance(facts.state) + 6.0
        painter.setPen(p.state(facts.state))
        painter.drawText(line, RIGHT_ALIGNED, facts.state)
    else:
        state_wide = MORE_WIDE + 6.0
        _paint_more(painter, line, facts.minutes, p)
    painter.setFont(font("name", bold=True))
    painter.setPen(p.ink)
    name = painter.fontMetrics().elidedText(
        facts.name, Qt.TextElideMode.ElideRight, int(line.width() - state_wide)
    )
    painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, name)


def _paint_more(painter: QPainter, line: QRectF, minutes: float, p: Palette) -> None:
    """The button that adds ten minutes, with what the day has at this machine so far."""
    box = QRectF(line.right() - MORE_WIDE, line.top() - 3, MORE_WIDE, 24)
    painter.setPen(QPen(p.accent, 1.2))
    painter.setBrush(p.machine_on if minutes else p.raised)
    painter.drawRoundedRect(box, 4, 4)
    painter.setPen(p.ink)
    painter.setFont(font("fine"))
    words = f"{minutes:.0f} min, +10" if minutes else "+ 10 min"
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def _paint_switch(painter: QPainter, box: QRectF, on: bool, p: Palette) -> None:
    painter.setPen(QPen(p.soft, 1.2))
    painter.setBrush(p.accent if on else p.raised)
    painter.drawRoundedRect(box, 3, 3)
    painter.setBrush(p.raised if on else p.soft)
    painter.setPen(Qt.PenStyle.NoPen)
    half = box.width() / 2
    knob = QRectF(box.left() + (half if on else 0) + 3, box.top() + 3, half - 6, box.height() - 6)
    painter.drawRoundedRect(knob, 2, 2)


def _paint_bar(painter: QPainter, box: QRectF, facts: RowFacts, p: Palette) -> None:
    """Air got as a bar; the need is the upright stroke at three quarters of the width."""
    need = box.left() + box.width() * 0.75
    painter.fillRect(box, p.rule)
    got = box.width() * min(facts.share * 0.75, 1.0)
    painter.fillRect(
        QRectF(box.left(), box.top(), max(got, 0.0), box.height()), p.state(facts.state)
    )
    painter.fillRect(QRectF(need - 1, box.top() - 3, 2, box.height() + 6), p.ink)


class Rack(QFrame):
    """All machines. Signals: `chosen` (machine), `switched` (machine, together), `more_asked`
    (machine), `menu_asked` (where on the screen) for the one that is selected then.
    """

    chosen = pyqtSignal(str)
    switched = pyqtSignal(str, bool)
    more_asked = pyqtSignal(str)
    menu_asked = pyqtSignal(QPoint)

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.workspace, self.colours = workspace, palette
        head = plain_label("MACHINES")
        head.setObjectName("head")
        head.setContentsMargins(12, SPACE, 12, SPACE // 2)
        self._hint = plain_label(name="soft", wraps=True)
        self._hint.setContentsMargins(12, 0, 12, SPACE)
        self._rows: dict[str, RackRow] = {}
        self._list = QVBoxLayout()
        self._list.setContentsMargins(0, 0, 0, 0)
        self._list.setSpacing(0)
        self._list.addStretch(1)
        inner = QWidget()
        inner.setLayout(self._list)
        self._scroll = Scrolled()
        self._scroll.setAccessibleName("Machines")
        self._scroll.resized.connect(self._make_rows_fit)
        self._scroll.setWidget(inner)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(1, 1, 1, 1)
        layout.setSpacing(0)
        layout.addWidget(head)
        layout.addWidget(self._hint)
        layout.addWidget(self._scroll, 1)
        self.show_workspace()

    def row(self, machine: str) -> RackRow:
        """The row of a machine. Raises `KeyError` for an unknown one."""
        return self._rows[machine]

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        wanted = [machine.id for machine in self.workspace.project.machines]
        if list(self._rows) != wanted:
            self._rebuild(wanted)
        for ident, row in self._rows.items():
            row.show_facts(row_facts(self.workspace, ident), self.colours)
        self._hint.setText(self._hint_words() if wanted else "No machines in this shop yet.")

    def _hint_words(self) -> str:
        if self.workspace.stage == "work":
            return "+ adds ten minutes to the day, and so does a click on the floor."
        return "Click one to switch it on: its gates open, the rest shut."

    def _make_rows_fit(self) -> None:
        """Rows as tall as usual, or tight ones when they would not all be in sight."""
        viewport = self._scroll.viewport()
        room = viewport.height() if viewport is not None else 0
        for row in self._rows.values():
            row.make_tight(len(self._rows) * ROW > room)

    def _rebuild(self, wanted: list[str]) -> None:
        for row in self._rows.values():
            self._list.removeWidget(row)
            row.hide()
            row.deleteLater()
        self._rows = {}
        for place, ident in enumerate(wanted):
            row = RackRow(row_facts(self.workspace, ident), self.colours)
            row.chosen.connect(self.chosen)
            row.switched.connect(self.switched)
            row.more_asked.connect(self.more_asked)
            row.menu_asked.connect(self.menu_asked)
            self._list.insertWidget(place, row)
            self._rows[ident] = row
        self._make_rows_fit()

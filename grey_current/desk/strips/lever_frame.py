"""The lever frame: a lever for each gate, as in a signal box. Choosing a machine in the rack sets
them.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QPushButton

from grey_current.design.flow.gates import opened_for
from grey_current.design.flow.levers import Lever, LeverFacts
from grey_current.desk.plain import draw_cut
from grey_current.desk.strips.gate_table import GateTable
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.theme import Palette, faded, font
from grey_current.shop import edits
from grey_current.workspace.workspace import Workspace

AS_TABLE, AS_LEVERS = "As a table", "As levers"
TOP, FOOT = 34.0, 58.0
# Pixels across that a lever has.
LEAST, MOST = 62.0, 118.0


class LeverFrame(StripPanel):
    """All gates: signals `chosen` (gate) when a lever or its plate is clicked."""

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__(workspace, palette)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Lever frame of the blast gates")
        self.setToolTip(
            "With one machine switched on, click another machine's lever to open its gate for "
            "that one too.\n"
            "With none or several, a click leaves a gate open, or lets it follow its machine again."
        )
        self._shift = 0.0
        self.table = GateTable(self)
        self.table.hide()
        self.table.toggled.connect(self._open_too)
        self.table.picked.connect(self.chosen)
        self.face = QPushButton(AS_TABLE, self)
        self.face.setObjectName("small")
        self.face.clicked.connect(self._flip)
        self.facts = LeverFacts("", ())

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        answer = self.workspace.scenario
        places = answer.scenario.places if answer else ()
        self.facts = self.workspace.computed.levers(self.workspace.running, places)
        gates = [lever.gate for lever in self.facts.levers]
        if self.workspace.selection in gates:
            self._show(gates.index(self.workspace.selection))
        self.face.setVisible(bool(gates))
        if self.table.isVisible() and not gates:
            self._flip()
        elif self.table.isVisible():
            self._show_table()
        self.update()

    @property
    def has_something(self) -> bool:
        """Whether there are gates."""
        return bool(self.facts.levers)

    def _flip(self) -> None:
        """From levers to the table, and back."""
        to_table = not self.table.isVisible()
        if to_table:
            self._show_table()
        self.table.setVisible(to_table)
        self.face.setText(AS_LEVERS if to_table else AS_TABLE)
        (self.table if to_table else self).setFocus()
        self._lay_out()
        self.update()

    def _show_table(self) -> None:
        self.table.show_sheet(
            self.workspace.computed.gate_sheet, self.workspace.running, self.colours
        )

    def _open_too(self, gate: str, machine: str) -> None:
        opened = machine not in self.workspace.project.gate[gate].also_open_for
        step = "Open a gate for a machine too" if opened else "Open a gate for a machine no more"
        self.attempt(
            lambda: self.workspace.edit(step, lambda p: opened_for(p, gate, machine, opened))
        )

    def _lay_out(self) -> None:
        self.face.adjustSize()
        self.face.move(self.width() - self.face.width() - 10, 5)
        self.table.setGeometry(QRectF(8, TOP, self.width() - 16, self.height() - TOP - 7).toRect())

    def _wide(self) -> float:
        count = max(len(self.facts.levers), 1)
        return min(max((self.width() - 24) / count, LEAST), MOST)

    def _scroll_to(self, shift: float) -> None:
        """Shift the levers so many pixels to the left, as far as there are any."""
        room = self._wide() * len(self.facts.levers) - (self.width() - 24)
        self._shift = min(max(shift, 0.0), max(room, 0.0))
        self.update()

    def _show(self, number: int) -> None:
        """Shift the frame until a lever is in sight."""
        box = self.box(number)
        if box.left() < 12:
            self._scroll_to(self._shift - (12 - box.left()))
        elif box.right() > self.width() - 12:
            self._scroll_to(self._shift + box.right() - (self.width() - 12))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        """The wheel walks along a frame that is longer than the window."""
        if event is not None:
            turn = event.angleDelta()
            self._scroll_to(self._shift - (turn.y() or turn.x()) * 0.6)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._scroll_to(self._shift)
        self._lay_out()

    def box(self, number: int) -> QRectF:
        """Where a lever stands, in pixels."""
        wide = self._wide()
        return QRectF(12 + number * wide - self._shift, TOP, wide, self.height() - TOP - 8)

    def lever_at(self, spot: QPointF) -> int | None:
        """The lever at a pixel, or None."""
        return next((i for i in range(len(self.facts.levers)) if self.box(i).contains(spot)), None)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font("small", bold=True))
        painter.setPen(self.colours.ink)
        head = QRectF(12, 4, self.width() - 36 - self.face.width(), TOP - 4)
        wraps = Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap
        if painter.boundingRect(head, wraps, self.facts.head).height() <= head.height():
            painter.drawText(head, wraps, self.facts.head)
        else:
            draw_cut(painter, head, self.facts.head)
        if self.table.isVisible():
            painter.end()
            return
        for number, lever in enumerate(self.facts.levers):
            selected = lever.gate == self.workspace.selection
            paint_lever(painter, self.box(number), number + 1, lever, self.colours, selected)
        hidden = self._wide() * len(self.facts.levers) - (self.width() - 24)
        if hidden > 1:
            share, wide = (self.width() - 24) / (hidden + self.width() - 24), self.width() - 24
            painter.fillRect(
                QRectF(
                    12 + self._shift / (hidden + wide) * wide, self.height() - 5, wide * share, 3
                ),
                self.colours.soft,
            )
        if self.hasFocus():
            painter.setPen(QPen(self.colours.accent, 1, Qt.PenStyle.DotLine))
            painter.drawRect(QRectF(self.rect()).adjusted(2, 2, -3, -3))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self.lever_at(event.position()) if event else None
        if number is None or event is None:
            return
        lever = self.facts.levers[number]
        if event.position().y() < self.box(number).bottom() - FOOT:
            self._pull(lever)
        self.chosen.emit(lever.gate)

    def _pull(self, lever: Lever) -> None:
        """Open a gate for the machine that runs alone too, or not; else leave it open, or let it
        follow again.
        """
        gate, machine = lever.gate, lever.toggled_for
        if machine is not None:
            self._open_too(gate, machine)
            return
        follows = self.workspace.project.gate[gate].rule == "with its machine"
        rule = "left open" if follows else "with its machine"
        step = "Leave a gate open" if follows else "Let a gate follow its machine"
        self.attempt(lambda: self.workspace.edit(step, lambda p: edits.changed(p, gate, rule=rule)))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and right walk along the frame, space works the lever."""
        gates = [lever.gate for lever in self.facts.levers]
        if event is None or not gates:
            return
        chosen = self.workspace.selection
        now = gates.index(chosen) if chosen in gates else -1
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            step = 1 if event.key() == Qt.Key.Key_Right else -1
            self.chosen.emit(gates[(now + step) % len(gates)])
        elif event.key() == Qt.Key.Key_Space and now >= 0:
            self._pull(self.facts.levers[now])
        else:
            super().keyPressEvent(event)


def paint_lever(
    painter: QPainter, box: QRectF, number: int, lever: Lever, p: Palette, selected: bool
) -> None:
    """A lever in its slot: upright when its gate is shut, pulled over when it is open; its plate
    below.
    """
    if selected:
        painter.fillRect(box.adjusted(2, 0, -2, 0), faded(p.accent, 30))
    foot = QPointF(box.center().x(), box.bottom() - FOOT - 8)
    slot = QRectF(foot.x() - 20, foot.y() - 4, 40, 8)
    painter.setPen(QPen(p.ink, 1.2))
    painter.setBrush(p.rule)
    painter.drawRoundedRect(slot, 4, 4)
    reach = box.height() - FOOT - 22
    lean = 0.52 if lever.pulled else 0.0
    tip = QPointF(foot.x() + reach * lean * 0.62, foot.y() - reach * (1 - lean * 0.42))
    colour = p.good if lever.pulled else p.soft
    painter.setPen(QPen(colour, 6, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawLine(foot, tip)
    painter.setPen(QPen(p.ink, 1.2))
    painter.setBrush(p.raised)
    painter.drawEllipse(tip, 7, 7)
    if lever.pinned:
        painter.setBrush(p.short)
        painter.drawRect(QRectF(foot.x() - 5, foot.y() - 14, 10, 5))
    elif lever.would_help:
        painter.setPen(QPen(p.good, 2, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(tip, 12, 12)
    _paint_plate(painter, box, number, lever, p)


def _paint_plate(painter: QPainter, box: QRectF, number: int, lever: Lever, p: Palette) -> None:
    plate = QRectF(box.left() + 3, box.bottom() - FOOT + 6, box.width() - 6, FOOT - 8)
    painter.setPen(QPen(p.rule, 1))
    painter.setBrush(p.raised)
    painter.drawRoundedRect(plate, 3, 3)
    painter.setPen(p.ink)
    painter.setFont(font("fine", bold=lever.pulled))
    middle = Qt.AlignmentFlag.AlignCenter
    draw_cut(painter, plate.adjusted(2, 3, -2, -24), lever.plate, middle)
    painter.setFont(font("fine"))
    words, colour = "shut", p.soft
    if lever.pinned:
        words, colour = lever.pinned, p.short
    elif lever.pulled:
        words, colour = "open", p.good
    elif lever.would_help:
        words, colour = "would help", p.good
    painter.setPen(colour)
    numbered = f"{number} · {words}"
    room = plate.adjusted(2, 24, -2, -2)
    # The state says more than the number, which only counts the levers.
    fits = painter.fontMetrics().horizontalAdvance(numbered) <= room.width()
    draw_cut(painter, room, numbered if fits else words, middle)

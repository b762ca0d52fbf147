"""The lever frame: a lever for each gate, as in a signal box. Choosing a machine in the rack sets the gates."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QFrame, QSizePolicy

from grey_current.design.flow.gates import flushings, gate_machine, gate_order, open_gates, own_gates
from grey_current.design.flow.scenarios import Scenario
from grey_current.desk.strips.run_strip import HEIGHT
from grey_current.desk.theme import Palette, faded, font
from grey_current.workspace.workspace import Workspace

TOP, FOOT = 34.0, 58.0
LEAST, MOST = 62.0, 118.0
"""Pixels across that a lever has."""


@dataclass(frozen=True)
class Lever:
    """One lever: its gate and plate, whether it is pulled (open), pinned by its rule, and proposed to be pulled."""

    gate: str
    plate: str
    pulled: bool
    pinned: str
    flushing: bool
    selected: bool


@dataclass(frozen=True)
class FrameFacts:
    """The frame: the line above it, and its levers in the order of the main."""

    head: str
    levers: tuple[Lever, ...]


def frame_facts(workspace: Workspace) -> FrameFacts:
    """The frame as the workspace has it: for what runs, or at rest."""
    assessment, project = workspace.assessment, workspace.project
    order = gate_order(assessment)
    own = own_gates(assessment)
    running = Scenario(workspace.running)
    pulled = open_gates(assessment, running)
    scenario = workspace.scenario
    proposals = flushings(assessment, scenario) if scenario is not None and scenario.converged else []
    best = next((flushing for flushing in proposals if flushing.met), None)
    levers = []
    for gate in order:
        owner = gate_machine(own, gate)
        plate = project.machine[owner].name if owner else gate
        rule = project.gate[gate].rule
        pinned = "" if rule == "with its machine" else rule
        flushing = best is not None and best.gate == gate
        levers.append(Lever(gate, plate, gate in pulled, pinned, flushing, gate == workspace.selection))
    return FrameFacts(_head(workspace, pulled, best.gate if best else None), tuple(levers))


def _head(workspace: Workspace, pulled: frozenset[str], flushing: str | None) -> str:
    project = workspace.project
    if not project.gates:
        return "No gates in this shop yet."
    if not workspace.running:
        return "Choose a machine in the rack: its gates are set here."
    name = Scenario(workspace.running).name(project)
    strays = sorted(gate for gate in pulled if project.gate[gate].rule == "left open")
    mine = sorted(pulled.difference(strays))
    text = f"{name}: open {', '.join(mine) or 'nothing'}, shut the other {len(project.gates) - len(pulled)}."
    if strays:
        text += f" Left open too: {', '.join(strays)}."
    if flushing:
        text += f" Opening {flushing} as well would carry the chips better."
    return text


class LeverFrame(QFrame):
    """All gates. Signals: `chosen` (gate) when its plate is clicked, `pulled` (gate) when its lever is worked."""

    chosen = pyqtSignal(str)
    pulled = pyqtSignal(str)

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.workspace, self.colours = workspace, palette
        self.setFixedHeight(HEIGHT)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Lever frame of the blast gates")
        self.setToolTip("Click a lever to leave its gate open, or to let it follow its machine again.")
        self.facts = FrameFacts("", ())

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        self.facts = frame_facts(self.workspace)
        self.update()

    def box(self, number: int) -> QRectF:
        """Where a lever stands, in pixels."""
        count = max(len(self.facts.levers), 1)
        wide = min(max((self.width() - 24) / count, LEAST), MOST)
        return QRectF(12 + number * wide, TOP, wide, self.height() - TOP - 8)

    def lever_at(self, spot: QPointF) -> int | None:
        """The lever at a pixel, or None."""
        return next((i for i in range(len(self.facts.levers)) if self.box(i).contains(spot)), None)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(font("small", bold=True))
        painter.setPen(self.colours.ink)
        head = QRectF(12, 4, self.width() - 24, TOP - 4)
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap, self.facts.head)
        for number, lever in enumerate(self.facts.levers):
            paint_lever(painter, self.box(number), number + 1, lever, self.colours)
        if self.hasFocus():
            painter.setPen(QPen(self.colours.accent, 1, Qt.PenStyle.DotLine))
            painter.drawRect(QRectF(self.rect()).adjusted(2, 2, -3, -3))
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self.lever_at(event.position()) if event else None
        if number is None or event is None:
            return
        gate = self.facts.levers[number].gate
        if event.position().y() < self.box(number).bottom() - FOOT:
            self.pulled.emit(gate)
        self.chosen.emit(gate)

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
            self.pulled.emit(gates[now])
        else:
            super().keyPressEvent(event)


def paint_lever(painter: QPainter, box: QRectF, number: int, lever: Lever, p: Palette) -> None:
    """A lever in its slot: upright when its gate is shut, pulled over when it is open; its plate below."""
    if lever.selected:
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
    elif lever.flushing:
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
    name = painter.fontMetrics().elidedText(lever.plate, Qt.TextElideMode.ElideRight, int(plate.width() - 4))
    painter.drawText(plate.adjusted(2, 3, -2, -24), Qt.AlignmentFlag.AlignCenter, name)
    painter.setFont(font("fine"))
    words = lever.pinned or ("open" if lever.pulled else "would help" if lever.flushing else "shut")
    painter.setPen(p.short if lever.pinned else p.good if lever.pulled or lever.flushing else p.soft)
    painter.drawText(plate.adjusted(2, 24, -2, -2), Qt.AlignmentFlag.AlignCenter, f"{number} · {words}")

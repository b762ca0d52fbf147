"""The match chart: what the collector gives against what every scenario takes, and a table of candidates beside it."""

from __future__ import annotations

from dataclasses import dataclass

import pyqtgraph as pg
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from grey_current.design.collector.candidates import LOADED, Line, Offer, collector_line, port_line, stood_in
from grey_current.design.flow.assessment import ScenarioAir
from grey_current.design.improve.jobs import Sizing
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.theme import SIZES, SPACE, Palette, faded, font
from grey_current.shop.model import Collector
from grey_current.units import CFM, CUBIC_METRE_PER_HOUR, INH2O, Display
from grey_current.workspace import asking
from grey_current.workspace.workspace import Workspace

TABLE = 352
ROW = 19
NOTE = (
    "Dots: at work. Hollow: needed. Dotted red: all that the machine's own port lets through. Slowest: slowest air "
    "over what chips need. Click a row to draw its curve, numbered at its foot. Red mark: too tall here, or too "
    "much for its circuit."
)
MOST_OTHERS = 3
"""Candidates' curves shown before any is chosen in the table."""


@dataclass(frozen=True)
class Dot:
    """A point of the chart: which use, m³/s and Pa, "works" or "needs", and the state word of the scenario."""

    name: str
    airflow: float
    pressure: float
    kind: str
    state: str
    chosen: bool


@dataclass(frozen=True)
class ChartFacts:
    """What the chart shows, in SI: lines, dots, and the largest airflow and pressure in sight."""

    lines: tuple[Line, ...]
    dots: tuple[Dot, ...]
    most_airflow: float
    most_pressure: float
    words: str


def chart_facts(workspace: Workspace, shown: frozenset[str]) -> ChartFacts | None:
    """The chart as the workspace has it; None while there is nothing to show. `shown` are candidates to draw."""
    sizing = asking.known_sizing(workspace)
    project, air = workspace.project, workspace.assessment.air
    collector = project.collector.get(asking.sized_collector(workspace) or "")
    if sizing is None or not sizing.requirements:
        return None
    lines: list[Line] = []
    if collector is not None:
        lines.append(collector_line(collector, air, 0.0, "clean"))
        lines.append(collector_line(collector, air, LOADED, "loaded"))
    models = asking.collector_models(workspace)
    for name in sorted(shown & set(models)):
        if collector is None or name != collector.model:
            item = stood_in(project, collector.id if collector else None, models[name])
            lines.append(collector_line(item, air, 0.0, "other"))
    focus = _focus(workspace, sizing)
    top = max([p for line in lines for _, p in line.points] + [r.pressure for r in sizing.requirements]) * 1.14
    wide = max([q for line in lines for q, _ in line.points] + [r.airflow for r in sizing.requirements]) * 1.05
    for requirement in sizing.requirements:
        name = requirement.scenario.name(project)
        chosen = requirement.scenario.running == focus
        held = tuple((q, p) for q, p in requirement.curve if p <= top * 1.1)
        lines.append(Line(name, "system chosen" if chosen else "system", ((0.0, 0.0), *held)))
        if chosen:
            lines.append(port_line(project, requirement.ruling, air, top))
    dots = [
        Dot(r.scenario.name(project), r.airflow, r.pressure, "needs", "", r.scenario.running == focus)
        for r in sizing.requirements
        if r.reached
    ]
    dots += _working(workspace, collector, focus)
    return ChartFacts(tuple(lines), tuple(dots), wide, top, _words(workspace, sizing))


def _focus(workspace: Workspace, sizing: Sizing) -> tuple[str, ...]:
    """The scenario that is looked at: what runs, else the hardest."""
    running = workspace.running
    if any(r.scenario.running == running for r in sizing.requirements):
        return running
    return sizing.hardest.scenario.running if sizing.hardest else ()


def _working(workspace: Workspace, collector: Collector | None, focus: tuple[str, ...]) -> list[Dot]:
    found: list[Dot] = []
    answers: list[ScenarioAir] = list(workspace.assessment.answers)
    for answer in answers if collector else ():
        system = answer.systems.get(collector.id) if collector else None
        if system is None or not system.converged:
            continue
        mine = [p for p in answer.pickups if p.collector == system.network.collector]
        met = all(p.met for p in mine)
        name = answer.scenario.name(workspace.project)
        found.append(
            Dot(
                name,
                system.airflow,
                -system.inlet_total,
                "works",
                "good" if met else "short",
                answer.scenario.running == focus,
            )
        )
    return found


def _words(workspace: Workspace, sizing: Sizing) -> str:
    """The one line over the chart."""
    hard = sizing.hardest
    if hard is None:
        return ""
    display = Display(workspace.project.settings.units)
    rough = " (an estimate along the walls; no duct is drawn yet)" if hard.estimated else ""
    return (
        f"Hardest: {hard.scenario.name(workspace.project)}, {display.airflow(hard.airflow)} at "
        f"{display.pressure(hard.pressure)}{rough}"
    )


class CandidateTable(QWidget):
    """One row a candidate. Signal: `toggled` (model) when its curve is to be shown or hidden."""

    toggled = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setFixedWidth(TABLE)
        self.setAccessibleName("Candidates: how each collector would do")
        self.setToolTip("Click one to draw its curve, or to take it off the chart; Up, Down and Space do the same.")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._at = 0
        self.offers: tuple[Offer, ...] = ()
        self.shown: frozenset[str] = frozenset()
        self.now = ""
        self.colours: Palette | None = None

    def show_offers(self, offers: tuple[Offer, ...], shown: frozenset[str], now: str, palette: Palette) -> None:
        """Show other rows; `now` is the model that stands in the shop."""
        self.offers, self.shown, self.now, self.colours = offers, shown, now, palette
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(TABLE, ROW * (len(self.offers) + 1))

    def row_at(self, y: float) -> int | None:
        """The candidate at a pixel down, or None."""
        number = int((y - ROW * 1.6) // ROW)
        return number if 0 <= number < len(self.offers) else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self.row_at(event.position().y()) if event else None
        if number is not None:
            self._at = number
            self.toggled.emit(self.offers[number].model)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or not self.offers:
            return
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event.key() in steps:
            self._at = min(max(self._at + steps[Qt.Key(event.key())], 0), len(self.offers) - 1)
            self.update()
        elif event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return):
            self.toggled.emit(self.offers[min(self._at, len(self.offers) - 1)].model)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        if self.colours is None or not self.offers:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_offers(painter, QRectF(self.rect()), self.offers, self.shown, self.now, self.colours)
        if self.hasFocus():
            painter.setPen(QPen(self.colours.accent, 1, Qt.PenStyle.DotLine))
            painter.drawRect(QRectF(0.5, ROW * 1.6 + self._at * ROW, self.width() - 1, ROW - 1))
        painter.end()


def paint_offers(
    painter: QPainter, box: QRectF, offers: tuple[Offer, ...], shown: frozenset[str], now: str, p: Palette
) -> None:
    """A head line and a row a candidate: name, machines served, worst share, slowest air, and shaft power or price."""
    priced = any(offer.price is not None for offer in offers)
    columns = [(186.0, "served"), (228.0, "worst"), (270.0, "slowest"), (312.0, "price" if priced else "shaft W")]
    right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
    painter.setFont(font("fine"))
    painter.setPen(p.soft)
    for left, title in columns:
        painter.drawText(QRectF(left - 20, 0, 54, ROW), right, title)
    for number, offer in enumerate(offers):
        y = ROW * 1.6 + number * ROW
        row = QRectF(0, y, box.width(), ROW)
        mine = offer.model == now
        if mine:
            painter.fillRect(row, p.machine_on)
        if mine or offer.model in shown:
            painter.fillRect(QRectF(0, y + 3, 3, ROW - 6), p.accent if mine else p.ink)
        painter.setFont(font("small", bold=mine))
        painter.setPen(p.ink)
        painter.drawText(QRectF(8, y, 14, ROW), Qt.AlignmentFlag.AlignVCenter, str(number + 1))
        name = painter.fontMetrics().elidedText(offer.model, Qt.TextElideMode.ElideRight, 158)
        painter.drawText(QRectF(22, y, 162, ROW), Qt.AlignmentFlag.AlignVCenter, name)
        painter.setFont(font("small"))
        values = [
            f"{offer.served} of {offer.asked}",
            f"{offer.worst:.0%}",
            "–" if offer.transport is None else f"{offer.transport:.0%}",
            _money(offer) if priced else f"{offer.power:,.0f}" + ("!" if offer.overloads else ""),
        ]
        for (left, _), value in zip(columns, values, strict=True):
            painter.drawText(QRectF(left - 20, y, 54, ROW), right, value)
        if offer.too_tall or offer.over_amps or offer.overloads:
            painter.fillRect(QRectF(box.width() - 5, y + 6, 4, ROW - 12), p.starved)


def _money(offer: Offer) -> str:
    return "–" if offer.price is None else f"{offer.price:,.0f}"


class MatchChart(StripPanel):
    """The chart and the table. No signals of its own."""

    tall = 312

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__(workspace, palette)
        self.facts: ChartFacts | None = None
        self.head = QLabel()
        self.head.setObjectName("head")
        self.plot = pg.PlotWidget()
        self.plot.setMenuEnabled(False)
        self.plot.setAccessibleName("Match chart: airflow across, pressure up")
        self.plot.hideButtons()
        self.plot.setToolTip("The wheel zooms, a drag moves, a double click shows all again.")
        self.plot.scene().sigMouseMoved.connect(self.on_moved)
        self.plot.scene().sigMouseClicked.connect(self.on_clicked)
        self.table = CandidateTable()
        self.table.toggled.connect(self.on_toggled)
        self._note = QLabel()
        self._note.setObjectName("soft")
        self._note.setWordWrap(True)
        self._shown: frozenset[str] | None = None
        self._drawn: object = None
        side = QVBoxLayout()
        side.addWidget(self.table, 1)
        side.addWidget(self._note)
        row = QHBoxLayout()
        row.addWidget(self.plot, 1)
        row.addLayout(side)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, SPACE, 12, SPACE)
        layout.setSpacing(4)
        layout.addWidget(self.head)
        layout.addLayout(row, 1)

    @property
    def shown(self) -> frozenset[str]:
        """The candidates whose curves are drawn: the ones chosen, else the best few."""
        if self._shown is not None:
            return self._shown
        sizing = asking.known_sizing(self.workspace)
        return frozenset(offer.model for offer in sizing.offers[:MOST_OTHERS]) if sizing else frozenset()

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now; while an answer is being computed the last one stays, greyed by words."""
        self.colours = palette or self.colours
        sizing = asking.known_sizing(self.workspace)
        collector = self.workspace.project.collector.get(asking.sized_collector(self.workspace) or "")
        if sizing is None:
            asked = asking.job(self.workspace) is not None
            self.head.setText("Working out what the collector must do…" if asked else "Place machines first.")
            return
        self.facts = chart_facts(self.workspace, self.shown)
        self.head.setText(self.facts.words if self.facts else "No machine here has a pickup.")
        now = collector.model if collector else ""
        self.table.show_offers(sizing.offers, self.shown, now, self.colours)
        self._note.setText(NOTE)
        self._draw()

    def on_toggled(self, model: str) -> None:
        """Draw a candidate's curve, or take it off."""
        self._shown = self.shown ^ {model}
        self.show_workspace()

    def on_moved(self, spot: QPointF) -> None:
        """Tell the figures under the pointer."""
        box = self.plot.getViewBox()
        if self.facts is None or not self.plot.sceneBoundingRect().contains(spot):
            return
        place = box.mapSceneToView(spot)
        self.head.setText(self.told(place.x() * self._across, place.y() * self._up))

    def on_clicked(self, event: pg.GraphicsScene.mouseEvents.MouseClickEvent) -> None:
        """A double click shows the whole chart again."""
        if event.double():
            self._show_all()

    def _show_all(self) -> None:
        if self.facts is not None:
            self.plot.setXRange(0, self.facts.most_airflow / self._across, padding=0.01)
            self.plot.setYRange(0, self.facts.most_pressure / self._up, padding=0.01)

    def told(self, airflow: float, pressure: float) -> str:
        """What is at an airflow (m³/s) and pressure (Pa): the place, and the nearest dot or the collector's curve."""
        display = Display(self.workspace.project.settings.units)
        facts = self.facts
        if facts is None:
            return ""
        near = min(
            facts.dots,
            key=lambda d: (
                abs(d.airflow - airflow) / facts.most_airflow + abs(d.pressure - pressure) / facts.most_pressure
            ),
            default=None,
        )
        close = near is not None and (
            abs(near.airflow - airflow) / facts.most_airflow + abs(near.pressure - pressure) / facts.most_pressure
            < 0.05
        )
        if near is not None and close:
            verb = "works at" if near.kind == "works" else "needs"
            return f"{near.name} {verb} {display.airflow(near.airflow)}, {display.pressure(near.pressure)}"
        return f"{display.airflow(max(airflow, 0))} at {display.pressure(max(pressure, 0))}"

    def leaveEvent(self, event: object) -> None:
        del event
        if self.facts is not None:
            self.head.setText(self.facts.words)

    @property
    def _across(self) -> float:
        return CFM if self.workspace.project.settings.units == "us" else CUBIC_METRE_PER_HOUR

    @property
    def _up(self) -> float:
        return INH2O if self.workspace.project.settings.units == "us" else 1.0

    def _draw(self) -> None:
        """Draw the facts, unless they are drawn already."""
        drawn = (self.facts, self.colours, self._across)
        if self.facts is None or drawn == self._drawn:
            return
        self._drawn = drawn
        p, across, up = self.colours, self._across, self._up
        self.plot.clear()
        self.plot.setBackground(p.sheet)
        us = self.workspace.project.settings.units == "us"
        for side, words in (
            ("bottom", "airflow, CFM" if us else "airflow, m³/h"),
            ("left", "suction at the inlet, " + ("inH2O" if us else "Pa")),
        ):
            axis = self.plot.getAxis(side)
            axis.setPen(p.rule)
            axis.setTextPen(p.soft)
            axis.setStyle(tickFont=font("fine"))
            axis.setLabel(words, color=p.soft.name(), **{"font-size": f"{SIZES['fine']}px"})
            axis.enableAutoSIPrefix(False)
        pens = {
            "clean": pg.mkPen(p.accent, width=2.6),
            "other": pg.mkPen(p.soft, width=1.2),
            "loaded": pg.mkPen(p.accent, width=1.6, style=Qt.PenStyle.DashLine),
            "system": pg.mkPen(faded(p.soft, 70), width=1),
            "system chosen": pg.mkPen(p.ink, width=1.8),
            "port": pg.mkPen(p.starved, width=1.4, style=Qt.PenStyle.DotLine),
        }
        for line in self.facts.lines:
            xs, ys = zip(*((q / across, v / up) for q, v in line.points), strict=True)
            self.plot.plot(list(xs), list(ys), pen=pens[line.kind], antialias=True)
            self._label(line, list(xs), list(ys))
        for dot in self.facts.dots:
            self._dot(dot)
        self._show_all()

    def _label(self, line: Line, xs: list[float], ys: list[float]) -> None:
        """A word at a curve: a collector's near its top, a candidate's number at its foot, a scenario's at its end."""
        words = {
            "clean": f"{line.name}, clean filter",
            "loaded": "filter due",
            "other": self._number(line.name),
            "system chosen": line.name,
        }.get(line.kind)
        if words is None or self.facts is None:
            return
        colour = {"clean": self.colours.accent, "loaded": self.colours.accent}
        item = pg.TextItem(words, color=colour.get(line.kind, self.colours.ink))
        item.setFont(font("fine"))
        if line.kind == "system chosen":
            top = self.facts.most_pressure / self._up * 0.86
            at = max((i for i, y in enumerate(ys) if y <= top), default=0)
        else:
            at = {"clean": 9, "loaded": 50, "other": 52}[line.kind]
        item.setPos(xs[min(at, len(xs) - 1)], ys[min(at, len(ys) - 1)])
        item.setAnchor((0, 0) if line.kind == "system chosen" else (0, 1))
        self.plot.addItem(item)

    def _number(self, model: str) -> str:
        """The number of a candidate's row in the table."""
        models = [offer.model for offer in self.table.offers]
        return str(models.index(model) + 1) if model in models else model

    def _dot(self, dot: Dot) -> None:
        p = self.colours
        works = dot.kind == "works"
        colour = p.state(dot.state) if works else p.ink
        size = 11 if dot.chosen else 8
        self.plot.addItem(
            pg.ScatterPlotItem(
                [dot.airflow / self._across],
                [dot.pressure / self._up],
                size=size,
                symbol="o" if works else "d",
                pen=pg.mkPen(colour, width=1.6),
                brush=pg.mkBrush(colour if works else p.sheet),
            )
        )

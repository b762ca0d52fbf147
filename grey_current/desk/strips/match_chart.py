"""The match chart: what the collector gives against what every scenario takes, and the table beside
it.
"""

from __future__ import annotations

import pyqtgraph as pg
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QFontMetrics, QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QVBoxLayout

from grey_current.design.collector.chart_lines import Line
from grey_current.desk.plain import OneLine
from grey_current.desk.scroll import Scrolled
from grey_current.desk.strips.candidate_table import LEAST, TABLE, CandidateTable
from grey_current.desk.strips.chart_facts import MOST_OTHERS, ChartFacts, Dot, chart_facts
from grey_current.desk.strips.chart_legend import ChartLegend
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.theme import SIZES, SPACE, Palette, faded, font
from grey_current.spelling import names_alike
from grey_current.units import CFM, CUBIC_METRE_PER_HOUR, INH2O, Display
from grey_current.workspace import asking
from grey_current.workspace.workspace import Workspace

# Least pixels of a strip that has room for chart and table side by side.
BOTH = 480
# The share of the chart within which a curve is named.
NAMED_WITHIN = 0.6


class MatchChart(StripPanel):
    """The chart and the table. No signals of its own."""

    tall = 312

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__(workspace, palette)
        self.facts: ChartFacts | None = None
        self.head = OneLine("head")
        self.plot = pg.PlotWidget(background=palette.sheet)
        self.plot.setMenuEnabled(False)
        self.plot.setAccessibleName("Match chart: airflow across, pressure up")
        self.plot.hideButtons()
        self.plot.setToolTip("The wheel zooms, a drag moves, a double click shows all again.")
        self.plot.scene().sigMouseMoved.connect(self.on_moved)
        self.plot.scene().sigMouseClicked.connect(self.on_clicked)
        self.table = CandidateTable()
        self.table.toggled.connect(self.on_toggled)
        self.legend = ChartLegend(palette)
        self._shown: frozenset[str] | None = None
        self._drawn: object = None
        self.rows = Scrolled()
        self.rows.setAccessibleName("Collectors to choose from")
        self.rows.setWidget(self.table)
        self.rows.setMinimumWidth(LEAST)
        self.rows.setMaximumWidth(TABLE + SPACE)
        chart = QVBoxLayout()
        chart.setSpacing(2)
        chart.addWidget(self.plot, 1)
        chart.addWidget(self.legend)
        row = QHBoxLayout()
        row.addLayout(chart, 2)
        # Names are read in full before the chart gets more.
        row.addWidget(self.rows, 3)
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
        if sizing:
            return frozenset(offer.model for offer in sizing.offers[:MOST_OTHERS])
        return frozenset()

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now; while an answer is being computed the last one stays,
        greyed by words.
        """
        if palette is not None:
            self.colours = palette
            self.plot.setBackground(palette.sheet)
        sizing = asking.known_sizing(self.workspace)
        collector = self.workspace.project.collector.get(
            asking.sized_collector(self.workspace) or ""
        )
        self.facts = chart_facts(self.workspace, self.shown) if sizing is not None else self.facts
        something, missing = self.has_something, asking.nothing_to_size(self.workspace)
        self.rows.setVisible(something)
        self._show_chart()
        if sizing is None:
            self.head.setText("Working out what the collector must do…" if something else missing)
            return
        self.head.setText(self.facts.words if self.facts else missing)
        now = collector.model if collector else ""
        display = Display(self.workspace.project.settings.units)
        self.table.show_offers(sizing.offers, self.shown, now, display, self.colours)
        self.legend.show_palette(self.colours)
        self._draw()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._show_chart()

    def _show_chart(self) -> None:
        """Show the chart where there is something to draw, and room for it beside the table."""
        shown = self.has_something and self.width() >= BOTH
        self.plot.setVisible(shown)
        self.legend.setVisible(shown)

    @property
    def has_something(self) -> bool:
        """Whether something is known of what the collector must do, or is being worked out."""
        if asking.known_sizing(self.workspace):
            return self.facts is not None
        return asking.job(self.workspace) is not None

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
        """What is at an airflow (m³/s) and pressure (Pa): the place, and the nearest dot or the
        collector's curve.
        """
        display = Display(self.workspace.project.settings.units)
        facts = self.facts
        if facts is None:
            return ""
        near = min(
            facts.dots,
            key=lambda d: (
                abs(d.airflow - airflow) / facts.most_airflow
                + abs(d.pressure - pressure) / facts.most_pressure
            ),
            default=None,
        )
        close = near is not None and (
            abs(near.airflow - airflow) / facts.most_airflow
            + abs(near.pressure - pressure) / facts.most_pressure
            < 0.05
        )
        if near is not None and close:
            verb = "works at" if near.kind == "works" else "needs"
            return (
                f"{near.name} {verb} {display.airflow(near.airflow)}, "
                f"{display.pressure(near.pressure)}"
            )
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
            "seasoned": pg.mkPen(p.accent, width=2.6),
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
        """A word at a curve: a collector's near its top, a candidate's number at its left, a
        scenario's at its end.
        """
        words = {
            "seasoned": line.name,
            "other": self._number(line.name),
            "system chosen": line.name,
        }.get(line.kind)
        if words is None or self.facts is None:
            return
        colour = {"seasoned": self.colours.accent}
        # A long name ends within the chart.
        room = int(self.plot.width() * NAMED_WITHIN)
        words = QFontMetrics(font("fine")).elidedText(words, Qt.TextElideMode.ElideRight, room)
        # On a ground of its own, for other curves pass there.
        item = pg.TextItem(
            words, color=colour.get(line.kind, self.colours.ink), fill=self.colours.sheet
        )
        item.setZValue(1)
        item.setFont(font("fine"))
        if line.kind == "system chosen":
            top = self.facts.most_pressure / self._up * 0.86
            at = max((i for i, y in enumerate(ys) if y <= top), default=0)
        else:
            at = {"seasoned": 9, "other": 2}[line.kind]
        x, y = xs[min(at, len(xs) - 1)], ys[min(at, len(ys) - 1)]
        item.setPos(x, y)
        # In the right half a name ends at its curve, so that it stays within the chart.
        left_of_it = x > self.facts.most_airflow / self._across / 2
        above = left_of_it or line.kind != "system chosen"
        item.setAnchor((1 if left_of_it else 0, 1 if above else 0))
        self.plot.addItem(item)

    def _number(self, model: str) -> str:
        """The number of a candidate's row in the table."""
        rows = enumerate(self.table.offers, 1)
        return next((str(row) for row, o in rows if names_alike(o.model, model)), model)

    def _dot(self, dot: Dot) -> None:
        p = self.colours
        works = dot.kind == "works"
        colour = p.state(dot.state) if works else p.ink
        size = 11 if dot.chosen else 8
        mark = pg.ScatterPlotItem(
            [dot.airflow / self._across],
            [dot.pressure / self._up],
            size=size,
            symbol="o" if works else "d",
            pen=pg.mkPen(colour, width=1.6),
            brush=pg.mkBrush(colour if works else p.sheet),
        )
        mark.setZValue(2)
        self.plot.addItem(mark)

"""What was logged over time: readings of one kind, or litres and hours added up, as lines over the
days.
"""

from __future__ import annotations

import datetime

import pyqtgraph as pg
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from grey_current.desk.theme import SIZES, Palette, font
from grey_current.keep.forecast import Trend, trends
from grey_current.shop.names import capital
from grey_current.units import CFM, CUBIC_METRE_PER_HOUR, FPM, INH2O
from grey_current.workspace.workspace import Workspace

# What can be looked at, with the kinds of course that belong to it.
KINDS: dict[str, tuple[str, ...]] = {
    "Air": ("airflow", "velocity"),
    "Suction": ("static pressure",),
    "Filter": ("filter drop",),
    "Current": ("motor current",),
    "Sound": ("sound",),
    "Chips": ("litres",),
    "Hours": ("hours",),
}
# A kind's unit and its size in SI: US, metric.
UNITS: dict[str, tuple[tuple[str, float], tuple[str, float]]] = {
    "airflow": (("CFM", CFM), ("m³/h", CUBIC_METRE_PER_HOUR)),
    "velocity": (("fpm", FPM), ("m/s", 1.0)),
    "static pressure": (("inH2O", INH2O), ("Pa", 1.0)),
    "filter drop": (("inH2O", INH2O), ("Pa", 1.0)),
    "motor current": (("A", 1.0), ("A", 1.0)),
    "sound": (("dB(A)", 1.0), ("dB(A)", 1.0)),
    "litres": (("litres", 1.0), ("litres", 1.0)),
    "hours": (("hours", 1.0), ("hours", 1.0)),
}
SYMBOLS = ("o", "s", "t", "d", "+", "x")
MOST_LINES = 6


class TrendChart(QWidget):
    """The chart; `words` tells what it shows, or what to do while there is nothing."""

    def __init__(self, workspace: Workspace, palette: Palette, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace, self.colours = workspace, palette
        self.words = ""
        self.lines: list[Trend] = []
        self.plot = pg.PlotWidget(axisItems={"bottom": pg.DateAxisItem(utcOffset=0)})
        self.plot.setMenuEnabled(False)
        self.plot.hideButtons()
        self.plot.setAccessibleName("What was logged over time")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.plot)

    def show_kind(self, name: str, palette: Palette) -> None:
        """Draw what was logged of one sort."""
        self.colours = p = palette
        us = self.workspace.project.settings.units == "us"
        found = [line for line in trends(self.workspace.project) if line.kind in KINDS[name]]
        kind = found[0].kind if found else KINDS[name][0]
        self.lines = [line for line in found if line.kind == kind][:MOST_LINES]
        unit, size = UNITS[kind][0 if us else 1]
        self.plot.clear()
        self.plot.setBackground(p.sheet)
        for side in ("bottom", "left"):
            axis = self.plot.getAxis(side)
            axis.setPen(p.rule)
            axis.setTextPen(p.soft)
            axis.setStyle(tickFont=font("fine"))
        left = self.plot.getAxis("left")
        left.setLabel(f"{kind}, {unit}", color=p.soft.name(), **{"font-size": f"{SIZES['fine']}px"})
        left.enableAutoSIPrefix(False)
        colours = (p.accent, p.ink, p.soft)
        for number, line in enumerate(self.lines):
            xs = [_seconds(date) for date, _ in line.points]
            ys = [value / size for _, value in line.points]
            pen = pg.mkPen(colours[number % len(colours)], width=1.6)
            self.plot.plot(
                xs,
                ys,
                pen=pen,
                antialias=True,
                symbol=SYMBOLS[number % len(SYMBOLS)],
                symbolSize=7,
                symbolPen=pen,
                symbolBrush=pg.mkBrush(p.sheet),
            )
            label = pg.TextItem(
                capital(line.name), color=colours[number % len(colours)], anchor=(1, 1)
            )
            label.setFont(font("fine"))
            label.setPos(xs[-1], ys[-1])
            self.plot.addItem(label)
        self._fit(size)
        self.plot.setVisible(bool(self.lines))
        self.words = self._head(name, len(found))

    def _fit(self, size: float) -> None:
        days = [_seconds(date) for line in self.lines for date, _ in line.points]
        values = [value / size for line in self.lines for _, value in line.points]
        if days:
            spare = max((max(days) - min(days)) * 0.04, 86_400.0)
            self.plot.setXRange(min(days) - spare, max(days) + spare, padding=0)
            self.plot.setYRange(0, max(values) * 1.15, padding=0)

    def _head(self, name: str, count: int) -> str:
        if not count:
            todo = "a day's work logged" if name in ("Chips", "Hours") else "a reading typed"
            return f"Nothing of it is written down yet: {todo} on the right is the first point."
        more = f"; {count - len(self.lines)} more in the logbook" if count > len(self.lines) else ""
        added = ", added up" if name in ("Chips", "Hours") else ""
        return f"{name} over time{added}, as it was logged{more}"


def _seconds(date: datetime.date) -> float:
    return datetime.datetime.combine(date, datetime.time(12), datetime.UTC).timestamp()

"""How sure every airflow is: a band for each pickup on one scale of its need, and the chance in
words.

The same strip shows what was logged over time, where that is chosen.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import (
    QColor,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)

from grey_current.desk.choice_box import ChoiceBox
from grey_current.desk.plain import draw_cut
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.theme import Palette, faded, font
from grey_current.files.keep_report import pickup_words
from grey_current.keep.answers import HowSure
from grey_current.keep.uncertainty import LIKELY_ENOUGH, LIKELY_SHORT, PickupSure
from grey_current.shop.names import capital
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace

if TYPE_CHECKING:
    from grey_current.desk.strips.reading_table import ReadingTable
    from grey_current.desk.strips.trend_chart import TrendChart

BANDS, READINGS = "How sure", "Readings"
OVER_TIME = ("Air", "Suction", "Filter", "Current", "Chips", "Hours")
HEAD, ROW, FOOT = 28.0, 17.0, 20.0
# Pixels for names and for figures beside the bands: where it is roomy, and where it is not, where
# the figures are left out (the row's words say what they come to).
NAME, FIGURES = 180.0, 320.0
TIGHT_NAME, TIGHT_FIGURES, ROOMY = 104.0, 112.0, 660
# Pixels of the scale from which all its words have room.
WORDS_APART = 170.0
LEFT = 12.0
# The share of the need at the right end of the scale: at least, and at most.
LEAST_SCALE, MOST_SCALE = 1.6, 3.0


class SureStrip(StripPanel):
    """The bands: signals `chosen` (machine) when a row is clicked; the wheel and the arrow keys
    walk along them.
    """

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__(workspace, palette)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("How sure the airflows are")
        self.setToolTip(
            "Eight in ten lie within the band; the stroke across all rows is the need. Click "
            "for more."
        )
        self._first = 0
        self._widest = LEAST_SCALE
        self.trend: TrendChart | None = None
        self.readings: ReadingTable | None = None
        self.view = ChoiceBox(self)
        self.view.call("What the strip shows")
        self.view.addItems([BANDS, READINGS, *OVER_TIME])
        self.view.currentTextChanged.connect(self.on_view)
        workspace.show_readings = lambda: self.view.setCurrentText(READINGS)

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        highest = max((item.high / item.need for item in self.rows), default=0.0)
        self._widest = min(max(highest * 1.05, LEAST_SCALE), MOST_SCALE)
        self._scroll_to(self._first)
        self.view.setVisible(self.has_something)
        if self.trend is not None and self.trend.isVisible():
            self.trend.show_kind(self.view.currentText(), self.colours)
        if self.readings is not None and self.readings.isVisible():
            self.readings.show_workspace(self.colours)

    def on_view(self, name: str) -> None:
        """Show the bands, the readings, or what was logged over time."""
        # Charts and tables are made when somebody first looks at them.
        if name == READINGS and self.readings is None:
            from grey_current.desk.strips.reading_table import ReadingTable  # noqa: PLC0415

            self.readings = ReadingTable(self.workspace, self.colours, self)
        if name in OVER_TIME and self.trend is None:
            from grey_current.desk.strips.trend_chart import TrendChart  # noqa: PLC0415

            self.trend = TrendChart(self.workspace, self.colours, self)
        if self.readings is not None:
            self.readings.setVisible(name == READINGS)
        if self.trend is not None:
            self.trend.setVisible(name in OVER_TIME)
        self._place()
        self.show_workspace()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._place()

    def _place(self) -> None:
        wide = self.view.sizeHint().width()
        self.view.setGeometry(int(self.width() - LEFT - wide), 2, wide, int(HEAD) - 3)
        top = int(HEAD) + 4
        for shown in (self.trend, self.readings):
            if shown is not None:
                shown.setGeometry(
                    int(LEFT), top, int(self.width() - 2 * LEFT), self.height() - top - 4
                )

    @property
    def found(self) -> HowSure | None:
        """The bands as they were last known; None where there are no ducts."""
        return self.workspace.computed.doubt if self.workspace.project.runs else None

    @property
    def has_something(self) -> bool:
        """Whether there are ducts to be sure of, or something was logged."""
        project = self.workspace.project
        return bool(project.runs or project.keep.readings or project.keep.entries)

    @property
    def rows(self) -> list[PickupSure]:
        """The pickups that are still in the shop, each with its machine alone."""
        found, known = self.found, self.workspace.project.pickup
        alone = found.sure.pickups if found is not None else ()
        return [item for item in alone if item.pickup in known and len(item.scenario.running) == 1]

    def fits(self) -> int:
        """How many rows there is room for."""
        return max(int((self.height() - HEAD - FOOT) / ROW), 1)

    def row_at(self, y: float) -> PickupSure | None:
        """The row at a pixel down, or None."""
        line = int((y - HEAD) // ROW)
        rows = self.rows[self._first :]
        return rows[line] if 0 <= line < min(self.fits(), len(rows)) else None

    def _scroll_to(self, first: int) -> None:
        self._first = min(max(first, 0), max(len(self.rows) - self.fits(), 0))
        self.update()

    # -- mouse and keys

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is not None:
            self._scroll_to(self._first - (1 if event.angleDelta().y() > 0 else -1))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        row = self.row_at(event.position().y()) if event is not None else None
        if row is not None:
            self.setFocus()
            self.chosen.emit(row.pickup.partition("/")[0])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        steps = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
        if event is None or event.key() not in steps:
            super().keyPressEvent(event)
            return
        self._scroll_to(self._first + steps[Qt.Key(event.key())])

    # -- painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        painter, p = QPainter(self), self.colours
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(p.ink)
        painter.setFont(font("small", bold=True))
        head = QRectF(LEFT, 4, self.width() - 3 * LEFT - self.view.width(), self.line(HEAD - 6))
        draw_cut(painter, head, self._head())
        if self.view.currentText() != BANDS:
            painter.end()
            return
        rows = self.rows
        shown = rows[self._first : self._first + self.fits()]
        for line, item in enumerate(shown):
            self._paint_row(painter, HEAD + line * ROW, item)
        if shown:
            self._paint_scale(painter, len(shown))
        if len(rows) > len(shown):
            painter.setPen(p.soft)
            painter.setFont(font("fine"))
            words = (
                f"{self._first + 1} to {self._first + len(shown)} of {len(rows)}: turn the wheel"
            )
            # Up to where the scale begins, whose words stand in the same line.
            wide = self._x_of(0) - LEFT - 8
            draw_cut(painter, QRectF(LEFT, self.height() - FOOT, wide, FOOT - 4), words)
        painter.end()

    def _head(self) -> str:
        if self.trend is not None and self.trend.isVisible():
            return self.trend.words
        if self.readings is not None and self.readings.isVisible():
            return self.readings.words
        found, project = self.found, self.workspace.project
        if not project.runs:
            return "No ducts yet: how sure their airflows are comes with them."
        if found is None:
            return "Working out how sure the airflows are…"
        if not found.sure.pickups:
            return "No airflow to be sure of: no machine has a duct to a collector."
        taught = found.project.keep.applied and found.fit.readings
        follows = "as your readings say" if taught else "from the tables alone"
        return (
            f"How sure each machine's air is, {follows}: a band holds eight in ten; the "
            "share is the chance"
        )

    def _x_of(self, share: float) -> float:
        name, figures = self._beside
        wide = max(self.width() - 2 * LEFT - name - figures, 60.0)
        return LEFT + name + wide * min(max(share, 0.0), self._widest) / self._widest

    @property
    def _beside(self) -> tuple[float, float]:
        """Pixels for names and figures."""
        roomy = self.width() >= ROOMY
        return (NAME, FIGURES) if roomy else (TIGHT_NAME, TIGHT_FIGURES)

    def _paint_scale(self, painter: QPainter, lines: int) -> None:
        p, bottom = self.colours, HEAD + lines * ROW
        painter.setPen(QPen(p.rule, 1))
        painter.drawLine(QPointF(self._x_of(0), bottom), QPointF(self._x_of(self._widest), bottom))
        painter.setPen(QPen(p.ink, 1.2))
        painter.drawLine(QPointF(self._x_of(1), HEAD), QPointF(self._x_of(1), bottom))
        painter.setPen(p.soft)
        painter.setFont(font("fine"))
        apart = self._x_of(self._widest) - self._x_of(0) >= WORDS_APART
        for share, words in ((0.0, "0"), (0.5, "half"), (1.0, "its need"), (2.0, "twice")):
            if share <= self._widest and (apart or words == "its need"):
                box = QRectF(self._x_of(share) - 40, bottom + 1, 80, 14)
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_row(self, painter: QPainter, top: float, item: PickupSure) -> None:
        p, middle = self.colours, Qt.AlignmentFlag.AlignVCenter
        names, display = (
            self.workspace.computed.names,
            Display(self.workspace.project.settings.units),
        )
        if item.pickup.partition("/")[0] in self.workspace.selected:
            painter.fillRect(QRectF(LEFT - 6, top, self.width() - 2 * LEFT + 12, ROW), p.machine_on)
        painter.setFont(font("fine"))
        painter.setPen(p.ink)
        name = capital(pickup_words(names, item)).removeprefix("The ")
        name_wide, figures_wide = self._beside
        draw_cut(painter, QRectF(LEFT, top, name_wide - 10, ROW), capital(name))
        colour = chance_colour(item.chance, p)
        low, mid, high = (
            self._x_of(value / item.need) for value in (item.low, item.figure, item.high)
        )
        painter.fillRect(QRectF(low, top + 5, max(high - low, 2.0), ROW - 10), faded(colour, 110))
        painter.fillRect(QRectF(mid - 1.5, top + 3, 3, ROW - 6), colour)
        left = self.width() - LEFT - figures_wide + 14
        figures = QRectF(left, top, figures_wide - 14, ROW)
        if figures_wide == FIGURES:
            painter.setPen(p.soft)
            likely = (
                f"likely {display.airflow(item.low, unit=False)} to "
                f"{display.airflow(item.high, unit=False)}"
            )
            painter.drawText(figures, middle, f"{likely} of {display.airflow(item.need)}")
        painter.setPen(colour)
        right = Qt.AlignmentFlag.AlignRight | middle
        painter.drawText(figures, right, item.words)


def chance_colour(chance: float, p: Palette) -> QColor:
    """The colour of a chance that a need is met."""
    if chance >= LIKELY_ENOUGH:
        return p.good
    return p.short if chance >= LIKELY_SHORT else p.starved

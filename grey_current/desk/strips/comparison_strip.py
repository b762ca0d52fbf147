"""The comparison of two designs, machine by machine: what each gets in the kept one and in the
present one.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from grey_current.air.needs import MET_FROM
from grey_current.design.improve.comparison import Difference, Figures, served
from grey_current.design.parts.costs import shop_cost
from grey_current.design.words import served_words, state_word, transport_word
from grey_current.desk import glyphs
from grey_current.desk.plain import plain_label
from grey_current.desk.strips.panel import StripPanel
from grey_current.desk.theme import SPACE, Palette, font
from grey_current.numerals import decimal
from grey_current.shop.kept_designs import as_project
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace

ROW = 17
NAME = 132.0
CHANGE = 78.0
CARRY = 22.0
# Share of the need at which a bar is at its end.
MOST_SHARE = 1.35


class ComparisonRows(QWidget):
    """The rows. Signal: `chosen` (machine) when one is clicked."""

    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[Difference] = []
        self.colours: Palette | None = None
        self.display = Display("us")
        self.setAccessibleName("Two designs compared, machine by machine")

    def show_rows(self, rows: list[Difference], palette: Palette, display: Display) -> None:
        """Show other figures."""
        self.rows, self.colours, self.display = rows, palette, display
        self.setMinimumHeight(ROW * len(rows))
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(500, ROW * len(self.rows))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        if self.colours is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for number, row in enumerate(self.rows):
            paint_difference(
                painter, QRectF(0, number * ROW, self.width(), ROW), row, self.colours, self.display
            )
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = int(event.position().y() // ROW) if event else -1
        if 0 <= number < len(self.rows):
            self.chosen.emit(self.rows[number].machine)


class ComparisonStrip(StripPanel):
    """Two designs side by side: signals `chosen` (machine)."""

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__(workspace, palette)
        self.head = plain_label("", "head", wraps=True)
        self._columns = plain_label("", "soft", wraps=True)
        end = QPushButton("End the comparison")
        end.clicked.connect(lambda: self.workspace.compare(None))
        self.rows = ComparisonRows()
        self.rows.chosen.connect(self.chosen)
        scroll = QScrollArea()
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(self.rows)
        top = QHBoxLayout()
        top.addWidget(self.head, 1)
        top.addWidget(end)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, SPACE, 12, SPACE)
        layout.setSpacing(2)
        layout.addLayout(top)
        layout.addWidget(self._columns)
        layout.addWidget(scroll, 1)

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        rows = self.workspace.comparison
        kept = next(
            (v for v in self.workspace.project.kept_designs if v.id == self.workspace.compared),
            None,
        )
        if rows is None or kept is None:
            return
        self.head.setText(
            f"{kept.name}: {served_words(*served(rows, False), len(rows))}.   "
            f"As drawn now: {served_words(*served(rows, True), len(rows))}.{self._money(kept.id)}"
        )
        self._columns.setText(
            f"Each machine running alone. Upper bar {kept.name}, lower bar as drawn now; the "
            "stroke is the need."
        )
        self.rows.show_rows(rows, self.colours, Display(self.workspace.project.settings.units))

    def _money(self, kept: str) -> str:
        """What the parts of both cost, where there are prices."""
        project = self.workspace.project
        costs = [shop_cost(as_project(project, kept)), shop_cost(project)]
        if costs[0] is None or costs[1] is None:
            return ""
        return (
            f"   Parts for {decimal(costs[0])}, now {decimal(costs[1])} {project.build.currency}."
        )


def paint_difference(
    painter: QPainter, box: QRectF, row: Difference, p: Palette, display: Display
) -> None:
    """One machine: name, two bars against the need, both figures, how chips fare now, and the
    change.
    """
    painter.setPen(p.ink)
    painter.setFont(font("small", bold=True))
    name = painter.fontMetrics().elidedText(row.name, Qt.TextElideMode.ElideRight, int(NAME - 8))
    middle = Qt.AlignmentFlag.AlignVCenter
    painter.drawText(QRectF(box.left(), box.top(), NAME, box.height()), middle, name)
    figures_wide = 150.0
    bar = QRectF(
        box.left() + NAME, box.top() + 2, box.width() - NAME - figures_wide - CHANGE - CARRY - 12, 5
    )
    for number, figures in enumerate((row.kept, row.present)):
        _paint_bar(painter, bar.translated(0, number * 7), figures, p)
    need = bar.left() + bar.width() / MOST_SHARE
    painter.fillRect(QRectF(need - 1, bar.top() - 1, 2, 14), p.ink)
    painter.setFont(font("small"))
    painter.setPen(p.soft)
    x = bar.right() + 8
    painter.drawText(
        QRectF(x, box.top(), figures_wide, box.height()), middle, _figure_words(row, display)
    )
    carried = row.present.transport if row.present is not None else None
    if carried is not None and carried < MET_FROM:
        word = transport_word(carried)
        glyphs.draw_state(
            painter, QPointF(x + figures_wide + CARRY / 2, box.center().y()), 11, word, p
        )
    painter.setFont(font("small", bold=True))
    words = _change_words(row, display)
    painter.setPen({"+": p.good, "−": p.starved}.get(words[:1], p.soft))
    right = Qt.AlignmentFlag.AlignRight | middle
    painter.drawText(QRectF(box.right() - CHANGE, box.top(), CHANGE, box.height()), right, words)


def _paint_bar(painter: QPainter, box: QRectF, figures: Figures | None, p: Palette) -> None:
    painter.fillRect(box, p.rule)
    if figures is not None:
        wide = box.width() * min(max(figures.share, 0.0) / MOST_SHARE, 1.0)
        painter.fillRect(
            QRectF(box.left(), box.top(), wide, box.height()), p.state(state_word(figures.share))
        )


def _figure_words(row: Difference, display: Display) -> str:
    def got(figures: Figures | None) -> str:
        return display.airflow(figures.airflow, unit=False) if figures else "–"

    shown = row.present or row.kept
    need = f" of {display.airflow(shown.need)}" if shown else " not connected"
    return f"{got(row.kept)} → {got(row.present)}{need}"


def _change_words(row: Difference, display: Display) -> str:
    if row.change is None:
        if row.kept is not None:
            return "gone"
        return "" if row.present is None else "new"
    words = display.airflow(abs(row.change), unit=False)
    sign = "+" if row.change > 0 else "−"
    return "same" if words == "0" else sign + words

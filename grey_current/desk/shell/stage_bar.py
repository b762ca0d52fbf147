"""The stages of the work in their order, each with a mark, and the next thing to do."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QAbstractButton, QBoxLayout, QFrame, QHBoxLayout, QSizePolicy

from grey_current.desk import glyphs
from grey_current.desk.plain import plain_label, tip
from grey_current.desk.theme import SPACE, Palette, font
from grey_current.workspace.guide import StageState, next_step, stage_states
from grey_current.workspace.workspace import Workspace

# Pixels of a tab: eight of them and the hint stand side by side at 1280 pixels. In a narrower
# window tabs shrink to the least that holds their title, and the hint goes below them.
TAB = 110
LEAST_TAB = 84
LEAST_HINT = 220
SHAPES = {"done": "good", "look": "short", "to do": "starved"}


class StageTab(QAbstractButton):
    """One stage, a button for whoever cannot see it. Signal: `chosen` (stage)."""

    chosen = pyqtSignal(str)

    def __init__(self, number: int, state: StageState, palette: Palette) -> None:
        super().__init__()
        self.number, self.state, self.colours, self.here = number, state, palette, False
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setFixedHeight(34)
        self.setMinimumWidth(LEAST_TAB)
        self.setMaximumWidth(TAB)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: self.chosen.emit(self.state.stage))

    def sizeHint(self) -> QSize:
        return QSize(TAB, 34)

    def show_state(self, state: StageState, palette: Palette, here: bool) -> None:
        """Show another state of the stage."""
        if (state, palette, here) != (
            self.state,
            self.colours,
            self.here,
        ) or not self.accessibleName():
            self.state, self.colours, self.here = state, palette, here
            self.setAccessibleName(f"Stage {self.number}: {state.title}, {state.words}")
            self.setToolTip(tip(f"{state.title}: {state.words} (Ctrl+{self.number})"))
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        p, box = self.colours, QRectF(self.rect())
        painter.fillRect(box.adjusted(0, 0, 0, -3), p.sheet if self.here else p.bench)
        if self.here:
            painter.fillRect(QRectF(box.left(), box.bottom() - 3, box.width(), 3), p.accent)
        if self.state.progress is not None:
            foot = QRectF(box.left() + 8, box.bottom() - 7, box.width() - 16, 3)
            painter.fillRect(foot, p.rule)
            painter.fillRect(
                QRectF(foot.left(), foot.top(), foot.width() * self.state.progress, 3), p.good
            )
        if self.hasFocus():
            painter.setPen(QPen(p.accent, 1, Qt.PenStyle.DotLine))
            painter.drawRect(box.adjusted(1, 1, -1, -4))
        painter.setPen(p.ink)
        painter.setFont(font("small", bold=self.here))
        # Where it is tight the number, which is only the key to press, is left out.
        roomy = box.width() > TAB - 8
        title = f"{self.number} {self.state.title}" if roomy else self.state.title
        painter.drawText(
            box.adjusted(8 if roomy else 5, 0, 0, -3), Qt.AlignmentFlag.AlignVCenter, title
        )
        painter.setFont(font("fine"))
        painter.setPen(p.short if self.state.mark == "look" else p.soft)
        right = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        count = str(self.state.count or "")
        painter.drawText(box.adjusted(0, 0, -6, -3), right, count)
        wide = painter.fontMetrics().horizontalAdvance(count) + (4 if count else 0)
        spot = QPointF(box.right() - wide - 12, box.center().y() - 1.5)
        glyphs.draw_state(
            painter, spot, 9, SHAPES[self.state.mark] if self.state.mark != "to do" else "", p
        )
        painter.end()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        del event
        self.chosen.emit(self.state.stage)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space):
            self.chosen.emit(self.state.stage)
        else:
            super().keyPressEvent(event)


class StageBar(QFrame):
    """All stages and the next step. Signal: `chosen` (stage)."""

    chosen = pyqtSignal(str)

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__()
        self.workspace, self.colours = workspace, palette
        self._layout = QBoxLayout(QBoxLayout.Direction.LeftToRight, self)
        self._layout.setContentsMargins(0, 0, 4, 0)
        self._layout.setSpacing(SPACE)
        row = QHBoxLayout()
        row.setSpacing(2)
        self._layout.addLayout(row)
        self.tabs: dict[str, StageTab] = {}
        for number, state in enumerate(stage_states(workspace), 1):
            tab = StageTab(number, state, palette)
            tab.chosen.connect(self.chosen)
            row.addWidget(tab)
            self.tabs[state.stage] = tab
        self.next = plain_label(name="soft", wraps=True)
        self.next.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self._layout.addWidget(self.next, 1)
        self.show_workspace()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Put the hint beside the tabs, or below them where it would be squeezed into a column."""
        super().resizeEvent(event)
        beside = self.width() >= len(self.tabs) * (TAB + 2) + LEAST_HINT
        direction = QBoxLayout.Direction
        self._layout.setDirection(direction.LeftToRight if beside else direction.TopToBottom)
        self._layout.setSpacing(SPACE if beside else 0)

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        self.colours = palette or self.colours
        for state in stage_states(self.workspace):
            self.tabs[state.stage].show_state(
                state, self.colours, state.stage == self.workspace.stage
            )
        self.next.setText(next_step(self.workspace))

"""The bar at the top: the verdict, the most used buttons, and under it a banner for what went
wrong.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QSize, Qt
from PyQt6.QtGui import QAction, QPainter, QPaintEvent
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from grey_current.design.flow.states import scenario_state
from grey_current.desk import glyphs
from grey_current.desk.plain import OneLine, plain_label
from grey_current.desk.theme import SPACE, Palette
from grey_current.workspace.workspace import Workspace

BUTTONS = ("undo", "redo", "fit", "all-off", "motion", "theme")
ICONS = {"all-off": "off"}


class VerdictBar(QFrame):
    """The verdict in one sentence, under it what takes the air. No signals; its buttons are the
    commands' own actions.
    """

    def __init__(self, workspace: Workspace, palette: Palette, actions: dict[str, QAction]) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.workspace, self.colours = workspace, palette
        self.setMinimumHeight(54)
        self._mark = _Shape()
        self.sentence = plain_label("", "verdict", wraps=True)
        self.sentence.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(SPACE * 2, SPACE // 2, SPACE, SPACE // 2)
        layout.setSpacing(SPACE)
        layout.addWidget(self._mark)
        self.cause = OneLine("cause")
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addStretch(1)
        words.addWidget(self.sentence)
        words.addWidget(self.cause)
        words.addStretch(1)
        layout.addLayout(words, 1)
        self._buttons: dict[str, QToolButton] = {}
        for name in BUTTONS:
            button = QToolButton()
            button.setDefaultAction(actions[name])
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonIconOnly)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setIconSize(QSize(20, 20))
            layout.addWidget(button)
            self._buttons[name] = button
        self.show_workspace(palette)

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        if palette is not None:
            self.colours = palette
            for name, button in self._buttons.items():
                action = button.defaultAction()
                if action is not None:
                    action.setIcon(glyphs.icon(ICONS.get(name, name), palette.ink.name()))
        self.sentence.setText(self.workspace.verdict)
        cause = self.workspace.cause
        self.cause.setText(cause)
        self.cause.setVisible(bool(cause))
        state = scenario_state(self.workspace.project, self.workspace.shown_scenario)
        self._mark.show_state(state, self.colours)


class _Shape(QWidget):
    """The state of what runs, as a large shape."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedSize(26, 30)
        self._state = ""
        self._palette: Palette | None = None

    def show_state(self, state: str, palette: Palette) -> None:
        self._state, self._palette = state, palette
        self.setVisible(bool(state))
        self.setToolTip(state)
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        if self._palette is not None:
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            glyphs.draw_state(painter, QPointF(13, 15), 22, self._state, self._palette)
            painter.end()


class Banner(QFrame):
    """One sentence about what could not be done; it stays until it is put away or something works
    again.
    """

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("banner")
        self.text = plain_label(wraps=True)
        self.text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self._close = QToolButton()
        self._close.setToolTip("Close")
        self._close.setAccessibleName("Close this message")
        self._close.clicked.connect(self.hide)
        row = QHBoxLayout()
        row.addWidget(self.text, 1)
        row.addWidget(self._close)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 6, 6, 6)
        layout.addLayout(row)
        self.hide()

    def say(self, sentence: str, palette: Palette) -> None:
        """Show a sentence."""
        self._close.setIcon(glyphs.icon("close", palette.ink.name()))
        self.text.setText(sentence)
        self.show()

"""Putting up, step by step: the part in hand, onto what it goes and how high, forward and back."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSlider, QVBoxLayout, QWidget

from grey_current.build.steps import Step, step_line
from grey_current.desk.plain import plain_label
from grey_current.desk.theme import SPACE
from grey_current.shop.names import capital

# Steps after the one in hand that are told beside it.
AHEAD = 3


class StepPanel(QWidget):
    """One step. Signals: `wanted` (step, from 1), `space_wanted` to see it in space."""

    wanted = pyqtSignal(int)
    space_wanted = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Steps of putting up")
        self._number, self._count = 1, 0
        self.words = plain_label(name="title", wraps=True)
        self.joint = plain_label(wraps=True)
        self.ahead = plain_label(name="soft", wraps=True)
        self.back, self.next = QPushButton("Back"), QPushButton("Next")
        self.next.setObjectName("primary")
        self.in_space = QPushButton("See it in space")
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Step")
        self.back.clicked.connect(lambda: self.wanted.emit(self._number - 1))
        self.next.clicked.connect(lambda: self.wanted.emit(self._number + 1))
        self.slider.valueChanged.connect(self._on_slid)
        self.in_space.clicked.connect(self.space_wanted)
        row = QHBoxLayout()
        for widget in (self.back, self.next):
            row.addWidget(widget)
        row.addWidget(self.slider, 1)
        row.addWidget(self.in_space)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, SPACE // 2, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(row)
        for label in (self.words, self.joint, self.ahead):
            layout.addWidget(label)
        layout.addStretch(1)

    def show_steps(self, steps: tuple[Step, ...], number: int) -> None:
        """Show a step of all, from 1."""
        self._count = len(steps)
        self._number = min(max(number, 1), max(self._count, 1))
        for widget in (self.back, self.next, self.slider, self.in_space):
            widget.setVisible(bool(steps))
        if not steps:
            self.words.setText("Nothing to put up yet: lay the ducts first.")
            self.joint.setText("")
            self.ahead.setText("")
            return
        self.slider.blockSignals(True)
        self.slider.setRange(1, self._count)
        self.slider.setValue(self._number)
        self.slider.blockSignals(False)
        self.back.setEnabled(self._number > 1)
        self.next.setEnabled(self._number < self._count)
        now = steps[self._number - 1]
        self.words.setText(f"{self._number} of {self._count}: {now.words}")
        self.joint.setText(f"{capital(now.joint)}; {now.height}.")
        later = steps[self._number : self._number + AHEAD]
        self.ahead.setText("\n".join(step_line(step) for step in later))

    def _on_slid(self, number: int) -> None:
        self.wanted.emit(number)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        """Left and right go back and forward."""
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
        if event is None or event.key() not in steps:
            super().keyPressEvent(event)
            return
        self.wanted.emit(self._number + steps[Qt.Key(event.key())])

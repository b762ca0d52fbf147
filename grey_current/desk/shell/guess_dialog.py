"""The pressure game in a window of its own: a question, a guess, the answer with why, and how the
misses go.
"""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from grey_current.desk.plain import plain_label
from grey_current.desk.theme import SPACE, Palette
from grey_current.errors import InputError
from grey_current.keep.guessing import CLOSE, FAR, ROUNDS, Answer, answered, misses_words, questions
from grey_current.shop.names import Names
from grey_current.units import Display, parse_airflow
from grey_current.workspace.workspace import Workspace

BARS = 64


class Misses(QWidget):
    """A bar for each guess: how far it was off. No signals."""

    def __init__(self, palette: Palette) -> None:
        super().__init__()
        self.colours, self.answers = palette, list[Answer]()
        self.setFixedHeight(BARS)
        self.setAccessibleName("How far each guess was off")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        painter, p = QPainter(self), self.colours
        wide = self.width() / ROUNDS
        painter.fillRect(QRectF(0, self.height() - 1, self.width(), 1), p.rule)
        for number, answer in enumerate(self.answers):
            high = max(min(answer.miss / (2 * FAR), 1.0) * (BARS - 4), 2.0)
            colour = p.short
            if answer.miss <= CLOSE:
                colour = p.good
            elif answer.miss > FAR:
                colour = p.starved
            painter.fillRect(
                QRectF(number * wide + 3, self.height() - 1 - high, wide - 6, high), colour
            )
        painter.end()


class GuessDialog(QDialog):
    """Asks ten questions about the shop that is open. No signals.

    Raises `InputError` when it is made for a shop in which no change moves any air.
    """

    def __init__(self, parent: QWidget, workspace: Workspace, palette: Palette, seed: int) -> None:
        super().__init__(parent)
        self.setWindowTitle("Guess what a change gives")
        self.setMinimumWidth(520)
        self._now = workspace.assessment
        self._display = Display(self._now.project.settings.units)
        self._names = Names(self._now.project)
        self._questions = questions(self._now, seed)
        self.asked, self._after = next(self._questions)
        self.answers: list[Answer] = []
        self.head, self.question = plain_label(name="soft"), plain_label(name="head", wraps=True)
        self.told = plain_label(wraps=True)
        self.told.setMinimumHeight(110)
        self.told.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.guess = QLineEdit()
        self.guess.setAccessibleName("Your guess")
        self.guess.setAccessibleName("Your guess")
        self.guess.returnPressed.connect(self.on_enter)
        self.button = QPushButton()
        self.button.setAutoDefault(False)
        self.button.clicked.connect(self.on_enter)
        self.misses = Misses(palette)
        row = QHBoxLayout()
        row.addWidget(self.guess, 1)
        row.addWidget(self.button)
        layout = QVBoxLayout(self)
        layout.setSpacing(SPACE)
        layout.addWidget(self.head)
        layout.addWidget(self.question)
        layout.addLayout(row)
        layout.addWidget(self.told)
        layout.addWidget(self.misses)
        self._waits = True
        self._show_question()

    def on_enter(self) -> None:
        """Take the guess, or go on to the next question; after the last one the game is over."""
        if not self._waits:
            if len(self.answers) >= ROUNDS:
                self.accept()
                return
            self.asked, self._after = next(self._questions)
            self._show_question()
            return
        try:
            guess = parse_airflow(self.guess.text(), self._now.project.settings.units, "Your guess")
            answer = answered(self._now, self.asked, self._after, guess)
        except InputError as problem:
            self.told.setText(str(problem))
            return
        self.answers.append(answer)
        self.misses.answers = self.answers
        self.misses.update()
        self._waits = False
        said = f"{self._display.airflow(answer.after)}: {answer.words}, off by {answer.miss:.0%}."
        self.told.setText("\n".join((said, *answer.why)))
        self.head.setText(misses_words(self.answers))
        self.guess.setReadOnly(True)
        self.button.setText("Next" if len(self.answers) < ROUNDS else "Close")

    def _show_question(self) -> None:
        self._waits = True
        number, display = len(self.answers) + 1, self._display
        self.head.setText(f"{number} of {ROUNDS}. {misses_words(self.answers)}")
        name = self._names.of(self.asked.pickup)
        self.question.setText(
            f"{self.asked.words}. Now {display.airflow(self.asked.before)} go in at {name}; "
            "how much then?"
        )
        self.told.setText("")
        self.guess.setReadOnly(False)
        self.guess.clear()
        self.guess.setPlaceholderText(display.airflow(self.asked.before))
        self.guess.setFocus()
        self.button.setText("That is my guess")

"""What the inspector's page is made of besides fields: marks of a state, buttons in words,
findings.
"""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from grey_current.design.findings.finding import Finding
from grey_current.design.reasons.reasons import reason_about
from grey_current.desk import glyphs
from grey_current.desk.plain import plain_label, tip
from grey_current.desk.theme import Palette
from grey_current.shop.edits import Change
from grey_current.workspace.manual import page_about

SEVERITY_STATE = {"fault": "starved", "warning": "short", "note": "note"}


class Mark(QWidget):
    """A state shape on its own."""

    def __init__(self, state: str, palette: Palette) -> None:
        super().__init__()
        self.state, self.colours = state, palette
        self.setFixedSize(QSize(16, 18))
        self.setToolTip(state)

    def show_state(self, state: str, palette: Palette) -> None:
        """Show another state."""
        if (state, palette) != (self.state, self.colours):
            self.state, self.colours = state, palette
            self.setToolTip(state)
            self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        del event
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        glyphs.draw_state(painter, QPointF(8, 9), 12, self.state, self.colours)
        painter.end()


class WordButton(QPushButton):
    """A button whose words break over as many lines as they need: what it does, and below what that
    is worth.
    """

    def __init__(self, words: str, detail: str = "") -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 4, 10, 5)
        layout.setSpacing(0)
        for text, name in ((words, ""), (detail, "soft")):
            if text:
                label = page_label(text, name)
                label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
                layout.addWidget(label)
        policy = QSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)

    def words(self) -> str:
        """All that stands on it."""
        return "\n".join(label.text() for label in self.findChildren(QLabel))

    def heightForWidth(self, width: int) -> int:
        layout = self.layout()
        if layout is not None:
            return layout.totalHeightForWidth(width)
        return super().heightForWidth(width)

    def sizeHint(self) -> QSize:
        return QSize(200, self.heightForWidth(200))

    def minimumSizeHint(self) -> QSize:
        return QSize(80, self.heightForWidth(max(self.width(), 80)))


# Pixels before a heading, for the hook that says whether it is folded.
FOLD_MARGIN = 14


class FoldHead(QPushButton):
    """A heading that folds what stands under it, with a few words beside it. Signal: `pressed_to`
    (whether it is open then).
    """

    pressed_to = pyqtSignal(bool)

    def __init__(self, title: str, beside: str, palette: Palette, folds: bool = True) -> None:
        super().__init__()
        self.title, self.opened, self.colours, self._folds = title, True, palette, folds
        self.setObjectName("fold")
        # A section that shows all it has already is a heading and nothing more.
        self.setEnabled(folds)
        self._beside = plain_label("", "soft")
        self._beside.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self._beside.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self._head = head = page_label(title, "head")
        head.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(FOLD_MARGIN, 1, 0, 1)
        layout.setSpacing(8)
        layout.addWidget(head, 1)
        layout.addWidget(self._beside)
        policy = QSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)
        self.clicked.connect(lambda: self.pressed_to.emit(not self.opened))
        self.say_beside(beside)

    def say_beside(self, words: str) -> None:
        """Show other words beside the heading; they are for while it is folded."""
        self._words = words
        self._fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """Cut what stands beside the heading short where there is no room for it."""
        words = "" if self.opened and self._folds else self._words
        heading = self._head.fontMetrics().horizontalAdvance(self.title)
        room = max(self.width() - heading - 3 * FOLD_MARGIN, 0)
        metrics = self._beside.fontMetrics()
        self._beside.setText(metrics.elidedText(words, Qt.TextElideMode.ElideRight, room))
        self._beside.setToolTip(tip(words))

    def show_opened(self, opened: bool) -> None:
        """Show whether it is open."""
        self.opened = opened
        self.setAccessibleName(f"{self.title}, {'open' if opened else 'folded'}")
        self.say_beside(self._words)
        self.update()

    def heightForWidth(self, width: int) -> int:
        layout = self.layout()
        return 20 if layout is None else max(layout.totalHeightForWidth(width), 20)

    def sizeHint(self) -> QSize:
        return QSize(200, self.heightForWidth(200))

    def minimumSizeHint(self) -> QSize:
        return QSize(80, self.heightForWidth(max(self.width(), 80)))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        super().paintEvent(event)
        if self._folds:
            painter = QPainter(self)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            glyphs.draw_fold(painter, QPointF(5, self.height() / 2), self.opened, self.colours)
            painter.end()


class AboutButton(QToolButton):
    """The way to the manual's page about a section; F1 in one of its fields is the same by key."""

    def __init__(self, title: str) -> None:
        super().__init__()
        self.setObjectName("about")
        self.setText("?")
        self.setAccessibleName(f"Read about {title}")
        self.setToolTip(tip("Read about it in the manual (F1)"))
        # One stop fewer for each section on the way through the page by Tab.
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)


class FindingRow(QWidget):
    """One finding. Signals: `chosen` (element) when it is clicked, `mended` (change) when a fix of
    it is, `wondered` (page of reasons) when its reasons are asked for, `looked_up` (page of the
    manual) where it has none.
    """

    chosen = pyqtSignal(str)
    mended = pyqtSignal(object)
    wondered = pyqtSignal(str)
    looked_up = pyqtSignal(str)

    def __init__(self, finding: Finding, palette: Palette, brief: bool = False) -> None:
        super().__init__()
        self.finding = finding
        remedy = " ".join(finding.remedies)
        self.setToolTip(tip(remedy) if brief else "")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        layout = QGridLayout(self)
        layout.setContentsMargins(0, 2, 0, 4)
        layout.setHorizontalSpacing(6)
        layout.setVerticalSpacing(0)
        layout.addWidget(
            Mark(SEVERITY_STATE[finding.severity], palette), 0, 0, Qt.AlignmentFlag.AlignTop
        )
        text = plain_label(finding.message, wraps=True)
        layout.addWidget(text, 0, 1)
        # In brief the cure is told on hover, or by the words on its button.
        self._remedy = plain_label("" if brief else remedy, "soft", wraps=True)
        layout.addWidget(self._remedy, 1, 1)
        # Once it has a parent; a label on its own would be a window.
        self._remedy.setHidden(brief or not remedy)
        self.buttons = [self._button(change) for change in finding.fixes]
        for number, button in enumerate(self.buttons):
            layout.addWidget(button, 2 + number, 1)
        if not brief:
            layout.addWidget(self._reader(finding), 2 + len(self.buttons), 1)
        layout.setColumnStretch(1, 1)
        policy = QSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Minimum)
        policy.setHeightForWidth(True)
        self.setSizePolicy(policy)

    def _reader(self, finding: Finding) -> WordButton:
        """The button to its page of reasons, or to the manual's page about it."""
        page = reason_about(finding.code)
        words = "Read why" if page is not None else "Read about it"
        button = WordButton(words)
        button.setObjectName("quiet")
        button.setAccessibleName(f"{words}: {finding.message}")
        if page is not None:
            button.clicked.connect(lambda: self.wondered.emit(page))
        else:
            button.clicked.connect(lambda: self.looked_up.emit(page_about(finding.code)))
        return button

    def refuse(self, problem: str) -> None:
        """Say why a fix could not be made."""
        self._remedy.setText(problem)
        self._remedy.show()

    def _button(self, change: Change) -> QPushButton:
        button = WordButton("Do it" if change.words in self._remedy.text() else change.words)
        button.setToolTip(tip(f"{change.words}. Undo takes it back."))
        button.setAccessibleName(change.words)
        button.clicked.connect(lambda: self.mended.emit(change))
        return button

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        del event
        self.chosen.emit(self.finding.element)


class Complaint(QWidget):
    """What is said under a field: how it is understood, what is wrong with it, or which of two
    things it means, with a button for each. Signal: `answered` (text) when one is pressed.
    """

    answered = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.choices: tuple[str, ...] = ()
        self._words = page_label("", "bad")
        self._choices = QHBoxLayout()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(3)
        layout.addWidget(self._words)
        layout.addLayout(self._choices)
        self.hide()

    def text(self) -> str:
        """What it says."""
        return self._words.text()

    def style_name(self) -> str:
        """How it is said: "soft" for what is understood, "bad" for a complaint."""
        return self._words.objectName()

    def say(self, text: str, name: str, choices: tuple[str, ...] = ()) -> None:
        """Say something in a style of the sheet; nothing hides it."""
        if text and (text, choices) == (self.text(), self.choices):
            return
        self.choices = choices
        if self._words.objectName() != name:
            self._words.setObjectName(name)
            style = self._words.style()
            if style is not None:
                style.polish(self._words)
        self._words.setText(text)
        while (item := self._choices.takeAt(0)) is not None:
            if (button := item.widget()) is not None:
                button.hide()
                button.deleteLater()
        for choice in choices:
            self._choices.addWidget(self._button(choice))
        self.setVisible(bool(text))

    def _button(self, choice: str) -> QPushButton:
        button = QPushButton(choice)
        # A click that took the focus would enter the field once more.
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.clicked.connect(lambda: self.answered.emit(choice))
        return button


def page_label(text: str, name: str) -> QLabel:
    """A label of the page, whose words break over as many lines as they need."""
    return plain_label(text, name, wraps=True)

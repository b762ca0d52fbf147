"""At the start: work that was not saved when the program last ended is offered, with what
differs.
"""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QPushButton, QVBoxLayout, QWidget

from grey_current.desk.plain import plain_label
from grey_current.files import journal
from grey_current.workspace.autosave import Autosave, Left

# Differences that are listed; the rest is counted.
MOST_SAID = 6


class RecoveryDialog(QDialog):
    """Asks what becomes of work that was left behind; `answer` is "bring back", "forget" or
    "later".
    """

    def __init__(self, parent: QWidget, left: Left) -> None:
        super().__init__(parent)
        self.setWindowTitle("Work that was not saved")
        self.answer = "later"
        layout = QVBoxLayout(self)
        layout.setSpacing(8)
        record = left.record
        where = f" ({record.path.name})" if record.path else ""
        self._say(layout, f"“{left.project.name}”{where} ended before it was saved.", "title")
        self._say(layout, f"Last edit: {record.step}, {record.when:%d %B %Y, %H:%M}.", "")
        lines = [f"•  {line}" for line in left.differs[:MOST_SAID]]
        more = len(left.differs) - MOST_SAID
        lines += [f"•  and {more} more"] if more > 0 else []
        there = left.file_is == "there"
        self._say(layout, "What the saved file does not have:" if there else "What it was:", "head")
        self._say(layout, "\n".join(lines), "")
        self.buttons = QDialogButtonBox()
        for words, answer, role in (
            ("Bring it back", "bring back", QDialogButtonBox.ButtonRole.AcceptRole),
            ("Decide later", "later", QDialogButtonBox.ButtonRole.RejectRole),
            ("Delete it", "forget", QDialogButtonBox.ButtonRole.DestructiveRole),
        ):
            button = QPushButton(words)
            button.clicked.connect(lambda _, answer=answer: self._choose(answer))
            self.buttons.addButton(button, role)
        layout.addWidget(self.buttons)
        self.setMinimumWidth(460)

    def _say(self, layout: QVBoxLayout, text: str, name: str) -> None:
        layout.addWidget(plain_label(text, name, wraps=True))

    def _choose(self, answer: str) -> None:
        self.answer = answer
        self.accept()


def offer(parent: QWidget, autosave: Autosave, left: Left) -> str:
    """Ask about work that was left behind and do what is answered. Raises `FileError`,
    `DuctworkError`.
    """
    dialog = RecoveryDialog(parent, left)
    dialog.exec()
    answer = dialog.answer
    dialog.deleteLater()
    if answer == "bring back":
        autosave.bring_back(left)
    elif answer == "forget":
        journal.forget(left.place)
    return answer

"""The search for findings, a slice at a time between what the user does: it never holds the
window.
"""

from __future__ import annotations

import time

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from grey_current.workspace.workspace import Workspace

# s that the search may take before the window takes a breath.
SLICE = 0.006


class FindingsSearch(QObject):
    """Finds what is wrong once the effect of an edit is on screen. Signal: `found` when all is
    known.
    """

    found = pyqtSignal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self.on_due)

    def ask(self) -> None:
        """Begin, or go on, when an edit has made the findings old."""
        if self.workspace.findings_due:
            self._timer.start()

    def on_due(self) -> None:
        """Go on for a moment."""
        if not self.workspace.findings_due:
            return
        until = time.perf_counter() + SLICE
        if self.workspace.computed.find(lambda: time.perf_counter() > until):
            self.found.emit()
        else:
            self._timer.start()

    def find_all(self) -> None:
        """Find everything at once, for a picture."""
        self.workspace.computed.find()
        self.found.emit()

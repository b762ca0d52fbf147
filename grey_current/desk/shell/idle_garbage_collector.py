"""Full rounds of the garbage collector, kept for quiet moments: one holds the window for 10 ms and
more.
"""

from __future__ import annotations

import gc
import time

from PyQt6.QtCore import QObject, Qt, QTimer
from PyQt6.QtWidgets import QApplication

from grey_current.workspace.open_project import ProjectChanged
from grey_current.workspace.workspace import Workspace

# ms between two looks at whether it is quiet.
LOOKS_EVERY = 1000
# s without an edit or a pressed button after which it is quiet.
QUIET = 1.5
# s after which a round comes when it is quiet, for what is searched beside the window, and in any
# case.
SLOWLY, AT_LATEST = 30.0, 120.0
NEVER = 1_000_000


def freeze() -> None:
    """What is there now is there for good, and no full round comes by itself any more."""
    gc.freeze()
    young, middle, _ = gc.get_threshold()
    gc.set_threshold(young, middle, NEVER)


class IdleGarbageCollector(QObject):
    """Goes its rounds after something was done, once it is quiet, and now and then. No signals."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self._last = self._round = time.monotonic()
        self._due = False
        self._timer = QTimer(self)
        self._timer.setInterval(LOOKS_EVERY)
        self._timer.timeout.connect(self.on_timeout)
        workspace.listen(self._hear)

    def begin(self) -> None:
        """From now on."""
        freeze()
        self._timer.start()

    def _hear(self, notice: ProjectChanged) -> None:
        del notice
        self._last, self._due = time.monotonic(), True

    def on_timeout(self) -> None:
        """Go a round, if one is due and this is the moment."""
        now, pressed = time.monotonic(), QApplication.mouseButtons() != Qt.MouseButton.NoButton
        quiet = now - self._last > QUIET and not pressed
        since = now - self._round
        if (quiet and (self._due or since > SLOWLY)) or since > AT_LATEST:
            gc.collect()
            self._round, self._due = now, False

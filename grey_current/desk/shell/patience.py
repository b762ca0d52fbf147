"""Long work beside the window: a bar that fills, and Cancel."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Generic, TypeVar

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtWidgets import QProgressDialog, QWidget

T = TypeVar("T")
# ms between two looks at how far the work is; before the bar is shown at all.
LOOK_MS, AFTER_MS = 40, 400
# What work is given: it tells how far it is (0 to 1) and is told whether to go on.
OnProgress = Callable[[float], bool]


class _Work(threading.Thread, Generic[T]):
    """Work in a thread of its own."""

    def __init__(self, work: Callable[[OnProgress], T]) -> None:
        super().__init__(name="patience", daemon=True)
        self._work = work
        self.share, self.cancelled = 0.0, False
        self.found: T | None = None
        self.problem: Exception | None = None

    def run(self) -> None:
        try:
            self.found = self._work(self._tell)
        except Exception as problem:
            self.problem = problem

    def _tell(self, share: float) -> bool:
        self.share = share
        return not self.cancelled


def patiently(parent: QWidget, words: str, work: Callable[[OnProgress], T]) -> T | None:
    """Do long work while a bar fills; None once it was cancelled. Raises what the work does."""
    worker = _Work(work)
    bar = QProgressDialog(words, "Cancel", 0, 100, parent)
    bar.setWindowModality(Qt.WindowModality.WindowModal)
    bar.setMinimumDuration(AFTER_MS)
    bar.setAutoClose(False)
    bar.setAutoReset(False)
    look = QTimer(bar)
    look.setInterval(LOOK_MS)

    def on_look() -> None:
        if worker.is_alive():
            bar.setValue(min(round(worker.share * 100), 99))
        else:
            look.stop()
            bar.done(1)

    look.timeout.connect(on_look)
    worker.start()
    look.start()
    done = bar.exec()
    worker.cancelled = not done
    look.stop()
    worker.join()
    bar.deleteLater()
    if worker.problem is not None:
        raise worker.problem
    return worker.found if done else None

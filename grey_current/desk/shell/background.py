"""Answers what takes a while beside the window, so that the window never waits for it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, QTimer, pyqtSignal

from grey_current.design.flow.assessment import Assessment
from grey_current.design.improve.jobs import Job, Result, carried_out
from grey_current.workspace import asking
from grey_current.workspace.workspace import Workspace

PAUSE_MS = 120
"""A search starts when edits have paused for so long."""


class _Task(QRunnable):
    """One search on a snapshot; it stops between two changes when nobody wants its answer any more."""

    def __init__(self, now: Assessment, job: Job, wanted: Callable[[], bool], done: Callable[[Result], None]) -> None:
        super().__init__()
        self._now, self._asked, self._wanted, self._done = now, job, wanted, done

    def run(self) -> None:
        found = carried_out(self._now, self._asked, self._wanted)
        if self._wanted():
            self._done(found)


class Background(QObject):
    """Answers the question that the workspace asks. Signal: `found` (revision, question, answer)."""

    found = pyqtSignal(int, object, object)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        self._ticket = 0
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PAUSE_MS)
        self._timer.timeout.connect(self._start)

    def ask(self) -> None:
        """Search again when what is shown needs an answer that there is not; any older search is dropped."""
        self._ticket += 1
        self._timer.stop()
        if asking.job_due(self.workspace) is not None:
            self._timer.start()

    def stop(self) -> None:
        """Drop every search and wait for the thread to see it."""
        self._ticket += 1
        self._timer.stop()
        self._pool.waitForDone()

    def _start(self) -> None:
        job = asking.job_due(self.workspace)
        if job is None:
            return
        ticket, revision = self._ticket, self.workspace.revision
        task = _Task(
            self.workspace.assessment.counted,
            job,
            lambda: self._ticket == ticket,
            lambda answer: self.found.emit(revision, job, answer),
        )
        self._pool.start(task)

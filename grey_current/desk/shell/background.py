"""Returns what takes a while beside the window, so that the window never waits for it."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, QTimer, pyqtSignal

from grey_current.design.flow.assessment import Assessment
from grey_current.workers.pool import ALONE, Crew
from grey_current.workspace import asking
from grey_current.workspace.helpers import helpers
from grey_current.workspace.jobs import Beside, Job, Refused, Result, carried_out
from grey_current.workspace.workspace import Workspace

FAULT = "Something in this program went wrong in the search; the shop is as it was."
# A search starts when edits have paused for so long.
PAUSE_MS = 120


class _Task(QRunnable):
    """One search on a snapshot; it stops between two changes when nobody wants its answer any
    more.
    """

    def __init__(
        self,
        now: Assessment,
        job: Job,
        should_continue: Callable[[], bool],
        tell: Callable[[Result], None],
        failed: Callable[[Exception], None],
        crew: Crew,
    ) -> None:
        super().__init__()
        self._now, self._asked = now, job
        self._wanted, self._tell, self._failed = should_continue, tell, failed
        self._beside = Beside(should_continue, self._told, crew)

    def run(self) -> None:
        try:
            self._told(carried_out(self._now, self._asked, self._beside))
        except Exception as problem:  # in this thread nobody else would take it
            self._told(Refused(FAULT))
            self._failed(problem)

    def _told(self, found: Result) -> None:
        """Hand over what is found, on the way or at the end, while somebody wants it."""
        if self._wanted():
            self._tell(found)


class Background(QObject):
    """Returns the question that the workspace asks.

    Signals: `found` (revision, question, answer), of a long search also with what it has found so
    far; `failed` (exception) when a search came to a fault of its own.
    """

    found = pyqtSignal(int, object, object)
    failed = pyqtSignal(object)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)
        # Helpers that take a share of what can be shared, once they are called.
        self.crew = ALONE
        self._ticket = 0
        self._under_way: tuple[int, Job] | None = None
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(PAUSE_MS)
        self._timer.timeout.connect(self._start)

    def ask(self) -> None:
        """Search again when what is shown needs an answer that there is not; any older search is
        dropped.
        """
        due = asking.job_due(self.workspace)
        if due is not None and (self.workspace.revision, due) == self._under_way:
            return
        self._ticket += 1
        self._timer.stop()
        self._under_way = None
        if due is not None:
            self._timer.start()

    def call_helpers(self) -> None:
        """From now on helpers take a share of what can be shared; they begin beside the window."""
        self.crew = helpers()

    def dismiss(self) -> None:
        """Drop every search for good and send the helpers away."""
        self.stop()
        self.crew.stop()
        self.crew = ALONE

    def stop(self) -> None:
        """Drop every search and wait for the thread to see it."""
        self._under_way = None
        self._ticket += 1
        self._timer.stop()
        self._pool.waitForDone()

    def _start(self) -> None:
        job = asking.job_due(self.workspace)
        if job is None:
            return
        ticket, revision = self._ticket, self.workspace.revision
        self._under_way = revision, job
        task = _Task(
            self.workspace.assessment.counted,
            job,
            lambda: self._ticket == ticket,
            lambda answer: self.found.emit(revision, job, answer),
            self.failed.emit,
            self.crew,
        )
        self._pool.start(task)

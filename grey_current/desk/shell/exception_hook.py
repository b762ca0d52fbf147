"""Nothing ends the window: faults are caught, told in a sentence, and taken back; signals keep the
work.
"""

from __future__ import annotations

import signal
import socket
import sys
from collections.abc import Callable
from types import TracebackType

from PyQt6.QtCore import QObject, QSocketNotifier, QTimer
from PyQt6.QtWidgets import QApplication
from PyQt6.sip import voidptr

from grey_current.desk.shell.background import FAULT
from grey_current.desk.shell.window import MainWindow
from grey_current.errors import GreyCurrentError
from grey_current.workspace.keeping import Keeper
from grey_current.workspace.open_project import ProjectChanged

# A project that has been shown for so long without a fault counts as good.
PAINTED_AFTER_MS = 60
ENDING = (signal.SIGTERM, signal.SIGHUP, signal.SIGINT)


class Guard(QObject):
    """Stands behind the window while it runs; `release` puts everything back."""

    def __init__(
        self, window: MainWindow, keeper: Keeper, in_journal: Callable[[], bool] = lambda: False
    ) -> None:
        super().__init__(window)
        self.window, self.keeper, self._in_journal = window, keeper, in_journal
        self._busy = False
        # Whether the session ended the program, and not its user.
        self.ended_by_signal = False
        self._shown = QTimer(self)
        self._shown.setSingleShot(True)
        self._shown.setInterval(PAINTED_AFTER_MS)
        self._shown.timeout.connect(keeper.shown)
        window.workspace.listen(self._hear)
        window.background.failed.connect(self.on_search_failed)
        self._before = sys.excepthook
        sys.excepthook = self.caught
        self._signals()
        application = QApplication.instance()
        if isinstance(application, QApplication):
            application.commitDataRequest.connect(self.on_logout)

    def _hear(self, notice: ProjectChanged) -> None:
        if notice.project:
            self.ended_by_signal = self.window.leaves_quietly = False
            self._shown.start()

    def caught(
        self, kind: type[BaseException], problem: BaseException, trace: TracebackType | None
    ) -> None:
        """An exception that nobody else took, from wherever Qt called us."""
        if self._busy or not isinstance(problem, Exception):
            self._before(kind, problem, trace)
            return
        self._busy = True
        self._shown.stop()
        try:
            foreseen = isinstance(problem, GreyCurrentError)
            self.window.say(str(problem) if foreseen else self.keeper.caught(problem))
        finally:
            self._busy = False

    def on_search_failed(self, problem: Exception) -> None:
        """A search beside the window came to a fault: told and logged, with nothing taken back."""
        log = self.keeper.log(problem)
        self.window.say(FAULT + (f" Details: {log}." if log else ""))

    # -- the session's end

    def _signals(self) -> None:
        """Wake Qt's loop when a signal comes, for Python's handlers run only between its steps."""
        self._reading, self._writing = socket.socketpair()
        self._writing.setblocking(False)
        signal.set_wakeup_fd(self._writing.fileno(), warn_on_full_buffer=False)
        for each in ENDING:
            signal.signal(each, lambda number, frame: None)
        self._notifier = QSocketNotifier(
            voidptr(self._reading.fileno()), QSocketNotifier.Type.Read, self
        )
        self._notifier.activated.connect(self._on_signal)

    def _on_signal(self) -> None:
        number = self._reading.recv(1)[0]
        if number in ENDING:
            self.end()

    def end(self) -> None:
        """End without a question: what is not saved is kept for the next start."""
        self.on_logout()
        QApplication.exit(0)

    def on_logout(self) -> None:
        """The desktop's session ends: keep everything, and let the window close without a question.

        Whoever goes on working because the logout was called off is asked again.
        """
        self.ended_by_signal = self.window.leaves_quietly = True
        self.keeper.shown()
        self.window.keep_session()
        sys.stderr.write(self._kept_words())

    def _kept_words(self) -> str:
        """Where work that is not saved is found again: in the journal, or in a copy where that
        cannot have it.
        """
        if not self.window.workspace.dirty:
            return ""
        if self._in_journal():
            return "grey-current-desk: work that was not saved is kept; the next start offers it.\n"
        copy = self.keeper.keep_copy()
        return f"grey-current-desk: work that was not saved is kept in {copy}\n" if copy else ""

    def release(self) -> None:
        """Give signals and exceptions back to those who had them."""
        sys.excepthook = self._before
        signal.set_wakeup_fd(-1)
        for each in ENDING:
            signal.signal(each, signal.SIG_DFL)
        self._notifier.setEnabled(False)
        self._reading.close()
        self._writing.close()

"""An instrument on a line, asked beside the window: the window never waits for its answer."""

from __future__ import annotations

import datetime
import threading
from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QInputDialog, QWidget

from grey_current.errors import GreyCurrentError
from grey_current.files.keep_report import reading_of
from grey_current.keep.fit import ReadingSpec
from grey_current.shop.keep_edits import with_reading
from grey_current.standins.line import LineInstrument, read_address
from grey_current.workspace.workspace import Workspace


class InstrumentLink(QObject):
    """Connects an instrument and takes its figures into the workspace.

    Signals: `said` (sentence) for what is worth telling or could not be done; the others are its
    own, from its thread.
    """

    said = pyqtSignal(str)
    connected = pyqtSignal(object)
    figured = pyqtSignal(object, float)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.connected.connect(self.on_connected)
        self.figured.connect(self.on_figure)
        workspace.take_figure = self.ask

    def ask_where(self, parent: QWidget) -> None:
        """Ask where an instrument listens, and connect it. Raises `InputError` for what is no
        address.
        """
        words = "Where does it listen? A port such as 7431, or a name and a port; nothing for none."
        known = self.workspace.instrument
        there = str(known.address) if known is not None else ""
        text, wanted = QInputDialog.getText(parent, "Connect an instrument", words, text=there)
        if wanted:
            self.connect_to(text)

    def connect_to(self, address: str) -> None:
        """Find out who is there; no address parts from what was there. Raises `InputError` for what
        is no address.
        """
        if not address.strip():
            self.on_connected(None)
            return
        wanted = read_address(address)
        self._beside(lambda: self.connected.emit(LineInstrument(wanted)))

    def ask(self, asked: ReadingSpec) -> None:
        """Let the instrument read what it is held to."""
        instrument = self.workspace.instrument
        if instrument is not None:
            self._beside(lambda: self.figured.emit(asked, instrument.read(*asked)))

    def on_connected(self, instrument: LineInstrument | None) -> None:
        """An instrument is there, or none any more."""
        self.workspace.use_instrument(instrument)
        if instrument is not None:
            reads = " and ".join(instrument.kind.reads)
            self.said.emit(
                f"A {instrument.kind.name} answers at {instrument.address}; it reads {reads}."
            )

    def on_figure(self, asked: ReadingSpec, value: float) -> None:
        """A figure has come: it is a reading of today, unless its place is gone."""
        try:
            self.workspace.edit(
                "Log a reading",
                lambda p: with_reading(p, reading_of(p, asked, value, datetime.date.today())),
            )
        except GreyCurrentError as problem:
            self.said.emit(str(problem))

    def _beside(self, work: Callable[[], None]) -> None:
        def run() -> None:
            try:
                work()
            except GreyCurrentError as problem:
                self.said.emit(str(problem))

        threading.Thread(target=run, daemon=True).start()

"""What all strips under the floor have in common."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QSizePolicy

from grey_current.desk.theme import Palette
from grey_current.errors import GreyCurrentError
from grey_current.workspace.workspace import Workspace

HEIGHT = 192
# Pixels of a strip that has only a sentence to say: the floor gets the rest.
ONE_LINE = 42


class StripPanel(QFrame):
    """A strip under the floor; it reads the workspace and sends edits to it.

    Signals: `chosen` (element) when a part of it is clicked, `refused` (a sentence), `put`
    (placing) when a thing is to be put down in the middle of the floor.
    """

    chosen = pyqtSignal(str)
    refused = pyqtSignal(str)
    put = pyqtSignal(object)
    tall = HEIGHT

    def __init__(self, workspace: Workspace, palette: Palette) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.workspace, self.colours = workspace, palette
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Ignored)

    def show_workspace(self, palette: Palette | None = None) -> None:
        """Show the workspace as it is now."""
        raise NotImplementedError

    @property
    def has_something(self) -> bool:
        """Whether there is more to show than a sentence."""
        return True

    def line(self, tall: float) -> float:
        """How tall the line is that the strip's sentence stands in: `tall`, or all that there
        is.
        """
        return tall if self.has_something else ONE_LINE - 8

    @property
    def room(self) -> int:
        """How tall the strip would like to be, in pixels: as tall as what there is to show."""
        return self.tall if self.has_something else ONE_LINE

    def take_keys(self) -> None:
        """Take the keyboard, where the strip has rows for it."""
        self.setFocus()

    def attempt(self, action: Callable[[], None]) -> None:
        """Do something that may be refused; the sentence goes out as `refused`."""
        try:
            action()
        except GreyCurrentError as problem:
            self.refused.emit(str(problem))

"""A clock that lets the panels beside the floor follow a drag without holding it up."""

from __future__ import annotations

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QWidget

SIDES_MS = 40


class ThrottleTimer(QTimer):
    """Lets what stands beside the floor follow a drag some 25 times a second; starting it again
    does not put it off.
    """

    def __init__(self, owner: QWidget) -> None:
        super().__init__(owner)
        self.setSingleShot(True)
        self.setInterval(SIDES_MS)

    def start(self) -> None:  # type: ignore[override]
        """Begin to wait, unless it waits already."""
        if not self.isActive():
            super().start()

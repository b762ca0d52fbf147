"""The floor's two views side by side, or one of them: the plan, and the shop in space."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QSplitter

from grey_current.desk.floor.floor import Floor
from grey_current.desk.theme import SPACE, Palette
from grey_current.workspace.desk import FloorView

if TYPE_CHECKING:
    from grey_current.desk.space.space_view import SpaceView


class FloorViews(QSplitter):
    """Plan and space. No signals; `make_space` makes the space view when it is first shown."""

    def __init__(self, floor: Floor, make_space: Callable[[], SpaceView]) -> None:
        super().__init__(Qt.Orientation.Horizontal)
        self.floor, self._make_space = floor, make_space
        self.space: SpaceView | None = None
        self.shown: FloorView = "plan"
        self.setHandleWidth(SPACE)
        self.setChildrenCollapsible(False)
        self.setMinimumSize(320, 160)
        self.addWidget(floor)

    def show_view(self, name: FloorView) -> None:
        """Show the plan, the space view, or both."""
        if name != "plan" and self.space is None:
            self.space = self._make_space()
            self.addWidget(self.space)
        self.shown = name
        if self.space is not None:
            self.space.setVisible(name != "plan")
        self.floor.setVisible(name != "space")
        if name == "both":
            self.setSizes([1, 1])
        self.in_hand.setFocus()

    @property
    def in_hand(self) -> Floor | SpaceView:
        """The view that keys and commands are for: the one that has the keyboard, else the one
        that is shown.
        """
        space = self.space
        if space is None or self.shown == "plan":
            return self.floor
        return space if self.shown == "space" or space.hasFocus() else self.floor

    def show_workspace(self, palette: Palette | None = None, refit: bool = False) -> None:
        """Show the workspace as it is now."""
        self.floor.show_workspace(palette, refit)
        if self.space is not None:
            self.space.show_workspace(palette, refit)

    def show_findings(self) -> None:
        """Show what is in one another's way, now that it is known."""
        if self.space is not None:
            self.space.redraw()

    def set_all_lanes(self, shown: bool) -> None:
        """Show the ways of all boards, or only of what is chosen or runs."""
        self.floor.set_all_lanes(shown)
        if self.space is not None:
            self.space.set_all_lanes(shown)

    def toggle_before(self) -> None:
        """Show the kept design that is compared with beside the present one, or hide it, in the
        view that is in hand.
        """
        self.in_hand.toggle_before()

    def set_moving(self, moving: bool) -> None:
        """Let the air move, or stand."""
        self.floor.set_moving(moving)
        if self.space is not None:
            self.space.set_moving(moving)

"""What a tool may ask of the floor that it works on."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from grey_current.desk.floor.scene import FloorScene
from grey_current.desk.floor.view import View
from grey_current.desk.theme import Palette
from grey_current.shop.places import XY
from grey_current.workspace.workspace import Workspace


class Canvas(Protocol):
    """The floor as tools know it."""

    workspace: Workspace
    colours: Palette
    view: View
    scene: FloorScene

    def update(self) -> None:
        """Paint again soon."""

    def attempt(self, action: Callable[[], None]) -> None:
        """Do something that may be refused, and say so."""

    def ask_scale(self, first: XY, second: XY) -> None:
        """Two places on the plan underneath were pointed at."""

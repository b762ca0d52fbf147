"""What the window shows when it is started, and what it keeps for the next start."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QRect
from PyQt6.QtWidgets import QApplication, QMainWindow

from grey_current.errors import GreyCurrentError
from grey_current.files import project_file
from grey_current.shop.demo_shops import demo_path
from grey_current.workspace.autosave import in_use
from grey_current.workspace.settings import Session, UserSettings
from grey_current.workspace.stages import STAGES
from grey_current.workspace.workspace import Workspace

# Pixels of a window's title that must be on a screen for it to be moved.
IN_REACH = 40
FIRST_SHOP = "loft"


def begun(
    path: Path | None, shop: str | None, settings: UserSettings, state: Path | None
) -> tuple[Workspace, str]:
    """The workspace to start with: a file, a demo shop, or else what the settings say; and what is
    to be said of the shop of last time where that cannot be shown.

    Raises `GreyCurrentError` for a file that was asked for and cannot be read.
    """
    if path is not None or shop is not None:
        return Workspace(project_file.load(path or demo_path(shop or FIRST_SHOP)), path), ""
    wish, last, said = settings.get("start"), settings.session, ""
    if wish == "last" and last.path is not None:
        # A second window on the same shop would only be in the way: it begins with an empty one.
        if in_use(last.path, state):
            wish = "empty"
        else:
            try:
                found = Workspace(project_file.load(last.path), last.path)
            except GreyCurrentError as problem:
                said = f"The shop of last time cannot be opened: {problem}"
            else:
                if last.stage in [stage.name for stage in STAGES]:
                    found.go(last.stage)
                return found, ""
    if wish == "empty":
        return Workspace(settings.begun(project_file.load(demo_path("empty")))), said
    return Workspace(project_file.load(demo_path(FIRST_SHOP))), said


def session_of(window: QMainWindow, workspace: Workspace) -> Session:
    """What the next start is to show again."""
    frame = window.normalGeometry()
    whole = window.isMaximized() or window.isFullScreen()
    sides = None if whole else (frame.x(), frame.y(), frame.width(), frame.height())
    return Session(workspace.path, workspace.stage, sides)


def put_back(window: QMainWindow, session: Session) -> bool:
    """Put the window where it was last; returns whether it is there. A screen may be gone or
    smaller since.
    """
    if session.frame is None:
        return False
    frame = QRect(*session.frame)
    for screen in QApplication.screens():
        room = screen.availableGeometry()
        seen = room.intersected(frame)
        if seen.width() >= IN_REACH and room.top() <= frame.top() <= room.bottom() - IN_REACH:
            window.resize(frame.size().boundedTo(room.size()))
            window.move(frame.topLeft())
            return True
    return False

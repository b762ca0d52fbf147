"""Shops opened and saved: the questions that are asked about files, and about work that no file
holds yet.
"""

from __future__ import annotations

import sys
from pathlib import Path

from PyQt6.QtCore import QProcess, Qt
from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from grey_current.errors import FileChanged, RefusedEdit
from grey_current.files.project_file import SUFFIX
from grey_current.workspace.settings import UserSettings
from grey_current.workspace.workspace import Workspace

FILTER = f"Grey Current shop (*{SUFFIX} *.json);;All files (*)"


class FileDialogs:
    """Asks the user about files, in dialogs of a window. Its methods raise the sentences that may
    be refused.
    """

    def __init__(self, window: QWidget, workspace: Workspace, settings: UserSettings) -> None:
        self.window, self.workspace, self.settings = window, workspace, settings

    def ask_open(self) -> None:
        """Ask for a file and open it. Raises `FileError`."""
        start = str(self.workspace.path.parent) if self.workspace.path else ""
        chosen, _ = QFileDialog.getOpenFileName(self.window, "Open a shop", start, FILTER)
        if chosen:
            self.open(Path(chosen))

    def open(self, path: Path) -> None:
        """Open a file, after asking about unsaved work. Raises `FileError`; what was open stays
        open then.
        """
        if self.may_leave():
            self.workspace.open(path)
            self.settings.remember(path)

    def open_demo(self, name: str) -> None:
        """Open a demo shop, after asking about unsaved work."""
        if self.may_leave():
            self.workspace.open_demo(name)

    def open_template(self, name: str) -> None:
        """Begin a new shop from a template, after asking about unsaved work."""
        if self.may_leave():
            self.workspace.open_template(name)

    def new_window(self) -> None:
        """Open another window with an empty shop: the program once more, so that nothing that
        happens to one touches the other. Raises `RefusedEdit`.
        """
        folder = self.settings.own
        own = [] if folder is None else ["--settings", str(folder)]
        arguments = ["-m", "grey_current.desk.app", "--shop", "empty", *own]
        started, _ = QProcess.startDetached(sys.executable, arguments)
        if not started:
            raise RefusedEdit("a new window", "opening it", "start Grey Current once more yourself")

    def save_itself(self) -> None:
        """Save a shop that has a file and changes, where that is wished; not half-way through a
        drag. Raises `FileError`.
        """
        workspace = self.workspace
        if self.settings.get("saving") != "itself" or workspace.in_gesture:
            return
        if workspace.path and workspace.dirty:
            workspace.save()

    def save(self) -> bool:
        """Save, asking for a name the first time; returns whether it was saved. Raises
        `FileError`.
        """
        return self.save_to(None) if self.workspace.path else self.save_as()

    def save_as(self) -> bool:
        """Ask for a name and save there; returns whether it was saved. Raises `FileError`."""
        start = str(self.workspace.path or self.workspace.file_name(SUFFIX))
        chosen, _ = QFileDialog.getSaveFileName(self.window, "Save the shop", start, FILTER)
        if not chosen:
            return False
        path = Path(chosen)
        return self.save_to(path if path.suffix else path.with_name(path.name + SUFFIX))

    def save_to(self, path: Path | None) -> bool:
        """Save to a path, or where it was saved before. Raises `FileError`; the work stays open
        then.
        """
        try:
            self.workspace.save(path)
        except FileChanged as problem:
            answer = self._ask_over(problem)
            if answer == QMessageBox.StandardButton.Save:
                return self.save_as()
            if answer != QMessageBox.StandardButton.Discard:
                return False
            self.workspace.save(path, over=True)
        if self.workspace.path:
            self.settings.remember(self.workspace.path)
        return True

    def _ask_over(self, problem: FileChanged) -> int:
        """What is to be done with a file that another program has changed: Save elsewhere, Discard
        its changes, not.
        """
        return self._ask(
            QMessageBox.Icon.Warning,
            f"{Path(problem.path).name} was changed by another program since it was opened here.",
            "Save under another name, or put this window's state in its place?",
            ("Save as…", "Put mine in its place"),
        )

    def _ask(
        self, icon: QMessageBox.Icon, text: str, more: str, words: tuple[str, str] | None = None
    ) -> int:
        """A question with Save, Discard and Cancel, which may be called otherwise; returns the
        button.
        """
        box = QMessageBox(self.window)
        box.setTextFormat(Qt.TextFormat.PlainText)
        box.setIcon(icon)
        box.setText(text)
        box.setInformativeText(more)
        save, discard = QMessageBox.StandardButton.Save, QMessageBox.StandardButton.Discard
        box.setStandardButtons(save | discard | QMessageBox.StandardButton.Cancel)
        for button, called in zip((save, discard), words or (), strict=False):
            choice = box.button(button)
            if choice is not None:
                choice.setText(called)
        if words is None:
            box.setDefaultButton(save)
        answer = box.exec()
        box.deleteLater()
        return answer

    def may_leave(self) -> bool:
        """Whether this project may be put away: nothing is unsaved, or the user has decided. Raises
        `FileError`.
        """
        if not self.workspace.dirty:
            return True
        answer = self._ask(
            QMessageBox.Icon.Question,
            f"“{self.workspace.project.name}” has changes that are not saved.",
            "Save them first?",
        )
        if answer == QMessageBox.StandardButton.Save:
            return self.save()
        return answer == QMessageBox.StandardButton.Discard

"""Work that was left behind is offered at the start, brought back, thrown away, or left for later."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMessageBox, QPushButton

from grey_current.desk.shell.recovery import RecoveryDialog, offer
from grey_current.files import journal, project_file
from grey_current.shop import edits
from grey_current.workspace.autosave import Autosave, left_in
from grey_current.workspace.workspace import Workspace
from tests.core.shops import demo


def left_behind(folder):
    """A shop that was edited and not saved when its program ended, and where its journal lies."""
    path = folder / "loft.greycurrent.json"
    project_file.save(demo(), path)
    workspace = Workspace(project_file.load(path), path)
    autosave = Autosave(workspace, folder)
    workspace.edit("Move the <b>saw</b>", lambda p: edits.moved(p, "saw", 0.4, 0.0))
    autosave.close(keep=True)
    return path, workspace.project


@pytest.mark.parametrize(
    ("words", "answer"), [("Bring it back", "bring back"), ("Throw it away", "forget"), ("Decide later", "later")]
)
def test_what_was_left_is_offered_and_done_as_answered(window, tmp_path, words, answer):
    path, project = left_behind(tmp_path)
    left = left_in(journal.beside(path))
    seen = []

    def press():
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, RecoveryDialog)
        seen.append(dialog.grab().toImage())
        button = next(b for b in dialog.findChildren(QPushButton) if b.text() == words)
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)

    QTimer.singleShot(0, press)
    assert offer(window, window.workspace, left) == answer
    assert seen and (window.workspace.project == project) == (answer == "bring back")
    assert window.workspace.dirty == (answer == "bring back")
    assert journal.beside(path).exists() == (answer == "later")


def test_a_file_changed_meanwhile_is_not_overwritten_without_asking(window, tmp_path, monkeypatch):
    path = tmp_path / "loft.greycurrent.json"
    workspace = window.workspace
    workspace.save(path)
    workspace.edit("Warm", lambda p: edits.with_settings(p, altitude=9.0))
    other = edits.with_settings(demo(), altitude=3.0)
    project_file.save(other, path)
    answers = [QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Discard]
    monkeypatch.setattr(QMessageBox, "exec", lambda box: answers.pop(0))
    window.save()
    assert project_file.load(path) == other and workspace.dirty
    window.save()
    assert project_file.load(path) == workspace.project and not workspace.dirty

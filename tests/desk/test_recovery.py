"""Work that was left behind is offered at the start, brought back, thrown away, or left for
later."""

from __future__ import annotations

import errno
import os

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMessageBox, QPushButton

from grey_current.desk.app import watch
from grey_current.desk.shell.recovery import RecoveryDialog, offer
from grey_current.files import journal, project_file
from grey_current.shop import edits
from grey_current.workspace.autosave import UNSAVED, Autosave, left_in
from grey_current.workspace.workspace import Workspace
from tests.core.shops import demo
from tests.desk.conftest import do


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
    ("words", "answer"),
    [("Bring it back", "bring back"), ("Delete it", "forget"), ("Decide later", "later")],
)
def test_what_was_left_is_offered_and_done_as_answered(window, tmp_path, words, answer):
    path, project = left_behind(tmp_path)
    place = journal.place_for(path, tmp_path / UNSAVED)
    left, autosave = left_in(place), Autosave(window.workspace, tmp_path)
    seen = []

    def press():
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, RecoveryDialog)
        seen.append(dialog.grab().toImage())
        button = next(b for b in dialog.findChildren(QPushButton) if b.text() == words)
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)

    QTimer.singleShot(0, press)
    assert offer(window, autosave, left) == answer
    assert seen and (window.workspace.project == project) == (answer == "bring back")
    assert window.workspace.dirty == (answer == "bring back")
    assert (left_in(place) is not None) == (answer == "later")
    assert autosave.keeps and (
        answer != "bring back"
        or journal.last_record(place).project == project.model_dump(mode="json")
    )
    autosave.close()


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


def test_a_disk_that_fills_while_one_edits(window, tmp_path, monkeypatch, qtbot):
    """It is said, also after the last edit; the work goes on, the file stays as it was, and with
    room all is kept."""
    path, workspace = tmp_path / "loft.greycurrent.json", window.workspace
    workspace.save(path)
    autosave = Autosave(workspace, tmp_path)
    watch(window, autosave)
    full = [True]

    def no_room(handle, line, written=os.write):
        if full[0]:
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))
        return written(handle, line)

    monkeypatch.setattr(os, "write", no_room)
    monkeypatch.setattr(os, "fsync", lambda handle: no_room(handle, b"", lambda *a: None))
    workspace.edit("Thin air", lambda p: edits.with_settings(p, altitude=900.0))
    qtbot.waitUntil(
        lambda: "no space left on device" in window.banner.text.text().lower(), timeout=5000
    )
    window.banner.text.setText("")
    do(window, "save")
    assert "could not be saved" in window.banner.text.text() and workspace.dirty
    assert (
        project_file.load(path).settings.altitude == 0
        and workspace.project.settings.altitude == 900
    )
    full[0] = False
    workspace.edit("Thinner air", lambda p: edits.with_settings(p, altitude=1500.0))
    autosave.wait()
    assert (
        autosave.problem == ""
        and journal.last_record(journal.place_for(path, tmp_path / UNSAVED)).step == "Thinner air"
    )
    do(window, "save")
    assert project_file.load(path).settings.altitude == 1500
    autosave.close()

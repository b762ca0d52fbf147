"""What the window shows at the start, what it keeps when it is closed or the session ends, recent
shops with their pictures, files that are dropped."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, QMimeData, QPointF, QRect, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from grey_current.desk.shell.begin import begun, put_back
from grey_current.desk.shell.exception_hook import Guard
from grey_current.desk.shell.recent_dialog import RecentDialog
from grey_current.errors import FileError
from grey_current.files import project_file
from grey_current.files.safe_write import write_export
from grey_current.shop import edits
from grey_current.workspace.autosave import UNSAVED, Autosave, left_in
from grey_current.workspace.keeping import Keeper
from grey_current.workspace.settings import Session, UserSettings
from tests.core.shops import demo
from tests.desk.conftest import do


def saved(folder, name="mine", shop="allotment"):
    path = folder / f"{name}.greycurrent.json"
    project_file.save(demo(shop), path)
    return path


def test_it_starts_where_it_was_left(window, tmp_path):
    path = saved(tmp_path)
    settings = window.settings
    # The first start of all.
    workspace, said = begun(None, None, settings, tmp_path)
    assert (workspace.project.name, workspace.path, said) == ("Tern Street Net Loft", None, "")
    window.files.open(path)
    window.workspace.go("build")
    window.resize(780, 690)
    size = window.size()
    window.close()
    window.resize(700, 500)
    again = UserSettings(tmp_path / "settings")
    assert again.session.path == path and again.session.stage == "build"
    workspace, said = begun(None, None, again, tmp_path)
    assert (workspace.path, workspace.stage, said) == (path, "build", "")
    assert put_back(window, again.session)
    assert window.size() == size
    # Another window has it: a second one begins with an empty shop.
    other = Autosave(workspace, tmp_path)
    assert begun(None, None, again, tmp_path)[0].project.name == "Empty Shop"
    other.close()
    assert begun(None, None, again, tmp_path)[0].path == path
    # What is asked for comes before what was open.
    assert begun(None, "loft", again, tmp_path)[0].path is None
    for choice, name in (("empty", "Empty Shop"), ("loft", "Tern Street Net Loft")):
        again.put("start", choice)
        assert begun(None, None, again, tmp_path)[0].project.name == name
    again.put("start", "last")
    # Gone since, or broken: said, and the sample is there.
    path.write_text("{")
    workspace, said = begun(None, None, again, tmp_path)
    assert workspace.project.name == "Tern Street Net Loft" and "cannot be opened" in said
    path.unlink()
    assert "mine.greycurrent.json" in begun(None, None, again, tmp_path)[1]
    with pytest.raises(FileError):
        begun(path, None, again, tmp_path)


def test_a_broken_session_is_none(window, tmp_path):
    before = window.geometry()
    sessions: tuple[object, ...] = (
        {"path": 7, "stage": [], "frame": "x"},
        {"path": "", "stage": "none", "frame": [1, 2, 3]},
        {"frame": [1, 2, "a", True]},
        {"frame": [99999, 99999, 400, 300], "stage": "later"},
        [],
        None,
    )
    for number, session in enumerate(sessions):
        folder = tmp_path / f"other {number}"
        folder.mkdir()
        (folder / "settings.json").write_text(json.dumps({"session": session, "later": {"a": 1}}))
        settings = UserSettings(folder)
        workspace, said = begun(None, None, settings, folder)
        assert workspace.stage == "air" and not said
        assert not put_back(window, settings.session) and window.geometry() == before
        # What a newer version keeps stays in the file.
        settings.put_session(Session())
        assert json.loads((folder / "settings.json").read_text())["later"] == {"a": 1}


def test_a_window_is_put_where_it_can_be_reached(window):
    room = QApplication.primaryScreen().availableGeometry()
    assert put_back(window, Session(frame=(room.left() + 5, room.top() + 5, 9000, 9000)))
    assert room.contains(QRect(window.pos(), window.size()).adjusted(0, 0, -5, -5))
    for frame in ((-5000, 0, 800, 600), (0, room.bottom() + 1, 800, 600), (0, -300, 800, 600)):
        assert not put_back(window, Session(frame=frame)), frame


def test_a_logout_asks_nothing_and_loses_nothing(window, tmp_path, monkeypatch):
    monkeypatch.setattr(
        type(window.files), "may_leave", lambda self: pytest.fail("it must not ask")
    )
    path = saved(tmp_path)
    window.workspace.open(path)
    autosave = Autosave(window.workspace, tmp_path)
    guard = Guard(window, Keeper(window.workspace, tmp_path), lambda: autosave.keeps)
    try:
        window.workspace.edit("Move the bandsaw", lambda p: edits.moved(p, "bandsaw", 0.1, 0.0))
        QApplication.instance().commitDataRequest.emit(None)
        assert window.leaves_quietly and window.settings.session.path == path
        # The logout is called off and the work goes on: asked again.
        window.workspace.edit("Move it on", lambda p: edits.moved(p, "bandsaw", 0.1, 0.0))
        assert not window.leaves_quietly
        guard.on_logout()
        window.close()
        assert not window.isVisible()
        autosave.close(keep=guard.ended_by_signal)
    finally:
        guard.release()
    (left,) = [left_in(place) for place in (tmp_path / UNSAVED).iterdir()]
    assert left.project == window.workspace.project and left.record.path == path


def test_recent_shops_have_a_picture_of_their_plan(window, qtbot, tmp_path, monkeypatch):
    paths = [saved(tmp_path, "one", "loft"), saved(tmp_path, "two"), tmp_path / "gone.json"]
    broken = tmp_path / "broken.json"
    broken.write_text("no shop")
    for path in (*paths, broken):
        window.settings.remember(path)
    do(window, "recent")
    dialog = window.findChild(RecentDialog)
    qtbot.waitUntil(lambda: not dialog._timer.isActive(), timeout=20_000)
    rows = [dialog.list.item(n) for n in range(dialog.list.count())]
    assert [Path(row.toolTip()).name for row in rows] == [
        "broken.json",
        "gone.json",
        "two.greycurrent.json",
        "one.greycurrent.json",
    ]
    assert "Allotment Shed" in rows[2].text() and "Tern Street Net Loft" in rows[3].text()
    for row, plan in zip(rows, (False, False, True, True), strict=True):
        image = row.icon().pixmap(dialog.list.iconSize()).toImage()
        inks = {image.pixel(x, y) for x in range(image.width()) for y in range(image.height())}
        assert (len(inks) > 12) == plan
        assert plan or str(Path(row.toolTip())) in row.text()
    dialog.list.setFocus()
    QTest.keyClick(dialog.list, Qt.Key.Key_End)
    QTest.keyClick(dialog.list, Qt.Key.Key_Return)
    assert window.workspace.path == paths[0]
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
    assert window.findChild(RecentDialog) is None


def test_a_dropped_file_is_taken_for_what_it_is(window, tmp_path):
    picture = tmp_path / "plan.png"
    image = QImage(60, 40, QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    image.save(str(picture))
    drop(window, picture)
    assert window.workspace.project.underlay.name == "plan.png"
    do(window, "undo")
    prices = tmp_path / "prices.csv"
    write_export("key,price,unit\n", prices)
    drop(window, prices)
    assert not window.banner.isHidden() and window.workspace.path is None
    drop(window, tmp_path / "nothing.json")
    assert "nothing.json" in window.banner.text.text()
    window.workspace._saved = window.workspace.project
    path = saved(tmp_path)
    drop(window, path)
    assert window.workspace.path == path


def drop(window, path):
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    window.dropEvent(
        QDropEvent(
            QPointF(300, 300),
            Qt.DropAction.CopyAction,
            data,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
    )

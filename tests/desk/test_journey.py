"""Whole jobs with mouse and keyboard. The same file runs off screen and, from test_real_window, under Xvfb."""

from __future__ import annotations

from PyQt6.QtCore import QMimeData, QPointF, Qt, QTimer, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtWidgets import QApplication, QFileDialog, QMessageBox

from grey_current.files import project_file
from tests.core.shops import demo


def answer_next_box(button: QMessageBox.StandardButton) -> None:
    """Press a button of the message box that comes next."""

    def press() -> None:
        box = QApplication.activeModalWidget()
        if isinstance(box, QMessageBox):
            box.button(button).click()
        else:
            QTimer.singleShot(20, press)

    QTimer.singleShot(20, press)


def test_the_planers_hose_from_click_to_saved_file(window, hands, tmp_path, monkeypatch):
    """Open the loft, run the planer, shorten its hose, see the air rise, undo, redo, save, reopen."""
    workspace = window.workspace
    hands.click_row("planer")
    assert workspace.running == ("planer",) and workspace.selection == "planer"
    before = workspace.use.airflow
    sentence = window.verdict_bar.sentence.text()
    assert sentence.startswith("Planer: ") and "Biggest thief: 10' 6\" of hose" in sentence

    hands.click_run("planer-hose")
    assert workspace.selection == "planer-hose"
    hands.type_into("planer-hose/length", "3' 8\"")
    assert workspace.use.airflow > before * 1.03
    assert window.verdict_bar.sentence.text() != sentence

    hands.keys("Ctrl+Z")
    assert abs(workspace.use.airflow - before) < 1e-9 * before + 1e-7
    assert window.verdict_bar.sentence.text() == sentence
    assert window.inspector.field("planer-hose/length").text() == "10' 6\""
    hands.keys("Ctrl+Shift+Z")
    better = workspace.use.airflow

    path = tmp_path / "loft.greycurrent.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    assert window.isWindowModified()
    hands.keys("Ctrl+S")
    assert path.exists() and not window.isWindowModified()

    window.on_open_empty()
    assert workspace.project.name == "Empty Shop"
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(path), ""))
    hands.keys("Ctrl+O")
    assert workspace.project.name == "Tern Street Net Loft" and workspace.path == path
    hands.click_row("planer")
    assert abs(workspace.use.airflow - better) < 1e-6
    assert window.settings.recent[0] == path


def test_every_first_edit_shows_at_once_and_undoes(window, hands):
    """School, units, pipe, gate, collector, a dragged machine, a nudge, a need: each one step, each undone."""
    workspace = window.workspace
    start = workspace.project
    hands.click_row("saw")

    def sentence() -> str:
        return window.verdict_bar.sentence.text()

    first = sentence()
    edits = [
        (lambda: hands.keys("Ctrl+D"), lambda: workspace.project.settings.school == "catch fine dust"),
        (lambda: hands.keys("Ctrl+U"), lambda: "m³/h" in sentence()),
        (
            lambda: (workspace.select("saw-branch"), hands.choose("saw-branch/diameter", "5 in")),
            lambda: abs(workspace.project.run["saw-branch"].diameter - 0.127) < 1e-4,
        ),
        (
            lambda: (workspace.select("gate-mitre"), hands.choose("gate-mitre/rule", "opens with its machine")),
            lambda: "gate-open" not in {f.code for f in workspace.findings},
        ),
        (
            lambda: (
                workspace.select("cyclone"),
                hands.choose("cyclone/model", "5 hp cyclone, 16 in impeller"),
            ),
            lambda: workspace.project.collectors[0].inlet > 0.2,
        ),
        (
            lambda: hands.drag("saw", -0.5, 0.3),
            lambda: abs(workspace.project.machine["saw"].x - start.machine["saw"].x + 0.5) < 0.03,
        ),
        (
            lambda: (workspace.select("saw"), hands.type_into("saw/cabinet/need", "300")),
            lambda: "300 CFM" in sentence(),
        ),
    ]
    for act, holds in edits:
        act()
        assert holds(), sentence()
        assert workspace.project != start
        while workspace.undo_label:
            hands.keys("Ctrl+Z")
        assert workspace.project == start and sentence() == first
    hands.drag("saw", 0.8, 0.0, keep=False)
    assert workspace.project == start and workspace.undo_label is None


def test_unsaved_work_is_guarded(window, hands, tmp_path):
    workspace = window.workspace
    workspace.select("planer-hose")
    hands.type_into("planer-hose/length", "4 ft")
    answer_next_box(QMessageBox.StandardButton.Cancel)
    window.on_open_allotment()
    assert workspace.project.name == "Tern Street Net Loft" and workspace.dirty
    answer_next_box(QMessageBox.StandardButton.Discard)
    window.on_open_allotment()
    assert workspace.project.name == "Allotment Shed"
    path = tmp_path / "dropped.greycurrent.json"
    project_file.save(demo("loft"), path)
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    drop = QDropEvent(
        QPointF(300, 300), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    )  # fmt: skip
    window.dropEvent(drop)
    assert workspace.path == path
    window.on_recent_shown()
    assert [a.text() for a in window._recent.actions()] == ["dropped"]
    workspace.select("planer-hose")
    hands.type_into("planer-hose/length", "4 ft")
    answer_next_box(QMessageBox.StandardButton.Save)
    assert window.close()
    assert abs(project_file.load(path).run["planer-hose"].length - 4 * 0.3048) < 1e-9

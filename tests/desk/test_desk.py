"""The window's parts: selection everywhere, bad input on screen, keyboard, looks, and the starter."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QImage, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QMessageBox

from grey_current.desk import app, floor_scene, theme
from grey_current.files import project_file
from grey_current.workspace.commands import COMMANDS
from tests.core.bad_files import write_bad_files


def test_what_is_selected_is_selected_everywhere(window, hands):
    hands.click_row("jointer")
    spans = window.strip.spans()
    wanted = next(i for i, p in enumerate(window.strip.facts.pieces) if p.element == "jointer-drop")
    x = (spans[wanted][0] + spans[wanted][1]) / 2
    QTest.mouseClick(window.strip, Qt.MouseButton.LeftButton, pos=QPoint(round(x), 60))
    assert window.workspace.selection == "jointer-drop"
    assert window.inspector._page.title == "Drop 'jointer-drop'"
    for element, title in [
        ("cyclone", "Cyclone"), ("gate-saw", "Blast gate 'gate-saw'"), ("wye-saw", "Joint 'wye-saw'"),
        ("saw/cabinet", "Saw"), ("main-3", "Duct 'main-3'"), (None, "Tern Street Net Loft"),
    ]:  # fmt: skip
        window.workspace.select(element)
        assert window.inspector._page.title == title
        window.grab()


def test_every_element_can_be_hit_on_the_floor(window):
    floor, project = window.floor, window.workspace.project
    found = set()
    for y in range(0, floor.height(), 4):
        found |= {floor.hit(QPointF(x, y)) for x in range(0, floor.width(), 4)}
    assert set(project.machine) - {"sweep"} <= {f.split("/")[0] for f in found if f}
    assert {"cyclone", "planer-hose", "main-1", "gate-saw", "saw/cabinet", None} <= found
    flat = {d.run for d in floor.scene.ducts if not d.vertical}
    assert len(flat - found) <= 3, flat - found


@pytest.mark.parametrize(("text", "says"), [("long", "write a length"), ("0", "greater than 0"), ("", "length")])
def test_a_bad_number_is_marked_explained_and_not_swallowed(window, hands, text, says):
    window.workspace.select("planer-hose")
    before = window.workspace.project
    if text:
        hands.type_into("planer-hose/length", text)
    else:
        editor = window.inspector.field("planer-hose/length")
        editor.clear()
        QTest.keyClick(editor, Qt.Key.Key_Return)
    editor = window.inspector.field("planer-hose/length")
    labels = [w.text() for w in window.inspector.findChildren(type(window.caution)) if w.objectName() == "bad"]
    assert window.workspace.project == before
    assert editor.text() == text and editor.property("bad") == "true"
    assert any(says in label for label in labels)
    hands.type_into("planer-hose/length", "4 ft")
    assert window.workspace.project.run["planer-hose"].length == pytest.approx(1.2192)


def test_bad_files_on_screen_say_one_sentence_and_keep_what_is_open(window, tmp_path):
    before = window.workspace.project
    for path, says in write_bad_files(tmp_path).items():
        assert not window.open_path(path)
        assert window.banner.isVisible() and says in window.banner.text.text()
    assert not window.save_to(tmp_path)
    assert "is a folder" in window.banner.text.text()
    assert window.workspace.project is before
    window.save_to(tmp_path / "good.json")
    assert not window.banner.isVisible()


def test_machines_are_run_by_keyboard_alone_and_together(window, hands):
    rows = window.rack
    rows.row("saw").setFocus()
    QTest.keyClick(rows.row("saw"), Qt.Key.Key_Space)
    assert window.workspace.running == ("saw",)
    QTest.keyClick(rows.row("planer"), Qt.Key.Key_Space, Qt.KeyboardModifier.ControlModifier)
    assert window.workspace.running == ("saw", "planer")
    assert "on" in rows.row("planer").accessibleName()
    hands.keys("0")
    assert window.workspace.running == ()
    hands.keys("Ctrl+Down")
    hands.keys("Ctrl+Down")
    assert window.workspace.running == ("planer",)
    hands.keys("Ctrl+Up")
    assert window.workspace.running == ("saw",)
    QTest.mouseClick(rows.row("saw"), Qt.MouseButton.LeftButton, pos=QPoint(25, 20))
    assert window.workspace.running == ()


def test_the_paper_moves_and_scales(window):
    floor = window.floor
    at = QPointF(200, 150)
    place = floor.view.place(at)
    wheel = QWheelEvent(
        at, floor.mapToGlobal(at), QPoint(), QPoint(0, 240), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    scale = floor.view.scale
    floor.wheelEvent(wheel)
    assert floor.view.scale > scale and floor.view.place(at) == pytest.approx(place)
    window.workspace.select(None)
    left = floor.view.left
    QTest.keyClick(floor, Qt.Key.Key_Right)
    assert floor.view.left < left
    window.on_fit()
    assert floor.view.scale == pytest.approx(scale)
    window.workspace.select("planer")
    x = window.workspace.project.machine["planer"].x
    QTest.keyClick(floor, Qt.Key.Key_Left)
    assert window.workspace.project.machine["planer"].x == pytest.approx(x - 0.0254, abs=1e-4)


def test_air_moves_when_it_may_and_stands_when_it_may_not(window, hands, qtbot):
    hands.click_row("planer")
    still = [window.floor.grab().toImage() for _ in range(2)]
    assert still[0] == still[1]
    window._put_setting("motion", "on")
    moving = window.floor.grab().toImage()
    qtbot.waitUntil(lambda: window.floor.grab().toImage() != moving, timeout=2000)
    window._put_setting("motion", "system")
    window._put_setting("motion", "off")
    assert not window.floor._clock.isActive()


def test_moving_ducts_follow_the_air(window, hands):
    hands.click_row("planer")
    ducts = {d.run: d for d in window.floor.scene.ducts}
    assert ducts["planer-hose"].velocity > 10 and ducts["main-3"].velocity > 10
    assert ducts["mitre-stub"].state == "air" and ducts["saw-branch"].state == "idle"
    assert ducts["main-5"].state == "settles"
    gates = {g.gate: g.open for g in window.floor.scene.gates}
    assert gates["gate-planer"] and gates["gate-mitre"] and not gates["gate-saw"]
    total = sum(
        ((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2) ** 0.5
        for a, b in zip(ducts["planer-hose"].line, ducts["planer-hose"].line[1:], strict=False)
    )
    assert total == pytest.approx(3.2, rel=0.1)


def test_light_and_dark_are_readable():
    """Text against its ground, by WCAG's contrast ratio: 4.5 for ink, 3 for soft text and marks."""

    def luminance(colour) -> float:
        parts = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in colour.getRgbF()[:3]]
        return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]

    for palette in theme.PALETTES.values():
        for name, least in [
            ("ink", 7),
            ("soft", 4.5),
            ("good", 3),
            ("short", 3),
            ("starved", 4),
            ("settled", 3),
        ]:
            a, b = sorted((luminance(getattr(palette, name)), luminance(palette.sheet)))
            assert (b + 0.05) / (a + 0.05) >= least, (palette.name, name)


def test_every_command_has_a_hand_and_help_lists_it(window, monkeypatch):
    for command in COMMANDS:
        assert callable(getattr(window, "on_" + command.id.replace("-", "_")))
    shown = []

    def read(box: QMessageBox) -> int:
        shown.append(box.text())
        return 0

    monkeypatch.setattr(QMessageBox, "exec", read)
    window.on_keys()
    window.on_cautions()
    assert "Ctrl+Shift+Z" in shown[0] and "respirator" in shown[1]
    window.on_theme()
    assert window.settings.get("theme") == "dark"
    window.on_zoom_in()
    window.on_zoom_out()
    window.on_deselect()


def test_other_shops_are_shown(window):
    for name, machines in (("allotment", 5), ("empty", 0)):
        window._open_demo(name)
        assert len(window.rack._rows) == machines
        assert not window.grab().toImage().isNull()
    assert "An empty floor:" in window.verdict_bar.sentence.text()
    assert floor_scene.machine_state(None, "saw") == "no pickup"


def run_app(tmp_path: Path, *arguments: str, **environment: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "grey_current.desk.app", "--settings", str(tmp_path), *arguments],
        capture_output=True, text=True, timeout=120, check=False, env={**os.environ, **environment},
    )  # fmt: skip


def test_the_starter_paints_a_picture_and_refuses_bad_files(tmp_path):
    picture = tmp_path / "shop.png"
    done = run_app(tmp_path, "--shop", "allotment", "--run", "bandsaw", "--picture", str(picture), DISPLAY="")
    assert done.returncode == 0, done.stderr
    image = QImage(str(picture))
    assert (image.width(), image.height()) == (1280, 800)
    colours = {image.pixel(x, y) for x in range(0, 1280, 7) for y in range(0, 800, 7)}
    assert len(colours) > 20
    bad = tmp_path / "bad.json"
    bad.write_text("{")
    for arguments in ([str(bad)], ["--run", "nothing"]):
        refused = run_app(tmp_path, *arguments)
        assert refused.returncode == 2 and "Traceback" not in refused.stderr
        assert refused.stderr.count("\n") == 1 and refused.stderr.startswith("grey-current-desk: ")
    assert app.SIZE == (1280, 800) and project_file.SUFFIX.startswith(".greycurrent")

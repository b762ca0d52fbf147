"""The window's parts: selection everywhere, bad input on screen, keyboard, looks, and the
starter."""

from __future__ import annotations

import os
import re
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QInputDialog, QLabel

from grey_current.desk import app, theme
from grey_current.desk.floor import scene as floor_scene
from grey_current.desk.inspector.fields import ActionField, ChoiceField, Fact, Table, TextField
from grey_current.desk.inspector.pages import page
from grey_current.desk.inspector.rows import FindingRow
from grey_current.desk.shell.help_page import HelpPage
from grey_current.desk.stages import stage_page
from grey_current.desk.strips.card_strip import CardStrip
from grey_current.desk.strips.laying_strip import LayingStrip
from grey_current.desk.strips.panel import ONE_LINE
from grey_current.errors import GreyCurrentError
from grey_current.files import project_file
from grey_current.shop import edits, kept_designs
from grey_current.shop.collector_edits import with_collector
from grey_current.shop.duct_edits import with_point_moved
from grey_current.workspace import asking
from grey_current.workspace.commands import COMMANDS
from grey_current.workspace.jobs import HelpShop, carried_out
from grey_current.workspace.stages import STAGES
from grey_current.workspace.workspace import demo_workspace
from tests.core.bad_files import write_bad_files
from tests.core.shops import demo
from tests.desk.conftest import do, turn_wheel


def test_what_is_selected_is_selected_everywhere(window, hands):
    hands.click_row("jointer")
    spans = window.strip.spans()
    wanted = next(i for i, p in enumerate(window.strip.facts.pieces) if p.element == "jointer-drop")
    x = (spans[wanted][0] + spans[wanted][1]) / 2
    QTest.mouseClick(window.strip, Qt.MouseButton.LeftButton, pos=QPoint(round(x), 60))
    assert window.workspace.selection == "jointer-drop"
    assert window.inspector._page.title == "The jointer's drop"
    for element, title in [
        ("cyclone", "Cyclone"),
        ("gate-saw", "The saw's gate"),
        ("wye-saw", "The saw's wye"),
        ("saw/cabinet", "Saw"),
        ("main-3", "The main between the miter saw's and the bandsaw's wye"),
        (None, "Tern Street Net Loft"),
    ]:
        window.workspace.select(element)
        assert window.inspector._page.title == title
        window.grab()


@pytest.mark.sweep
def test_every_element_can_be_hit_on_the_floor(window):
    floor, project = window.floor, window.workspace.project
    found = set()
    for y in range(0, floor.height(), 4):
        found |= {floor.hit(QPointF(x, y)) for x in range(0, floor.width(), 4)}
    assert set(project.machine) - {"sweep"} <= {f.split("/")[0] for f in found if f}
    assert {"cyclone", "planer-hose", "main-1", "gate-saw", "saw/cabinet", None} <= found
    flat = {d.run for d in floor.scene.ducts if not d.vertical}
    assert len(flat - found) <= 3, flat - found


@pytest.mark.parametrize(
    ("text", "says"), [("long", "write a length"), ("0", "more than 0"), ("", "length")]
)
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
    labels = [w.text() for w in window.inspector.findChildren(QLabel) if w.objectName() == "bad"]
    assert window.workspace.project == before
    assert editor.text() == text and editor.property("bad") == "true"
    assert any(says in label for label in labels)
    hands.type_into("planer-hose/length", "4 ft")
    assert window.workspace.project.run["planer-hose"].length == pytest.approx(1.2192)


def test_bad_files_on_screen_say_one_sentence_and_keep_what_is_open(window, tmp_path):
    before = window.workspace.project
    for path, says in write_bad_files(tmp_path).items():
        assert not window.attempt(lambda p=path: window.files.open(p))
        assert window.banner.isVisible() and says in window.banner.text.text()
    assert not window.attempt(lambda: window.files.save_to(tmp_path))
    assert "is a folder" in window.banner.text.text()
    assert window.workspace.project is before
    window.attempt(lambda: window.files.save_to(tmp_path / "good.json"))
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
    scale = floor.view.scale
    turn_wheel(floor, at, 240)
    assert floor.view.scale > scale and floor.view.place(at) == pytest.approx(place)
    window.workspace.select(None)
    left = floor.view.left
    QTest.keyClick(floor, Qt.Key.Key_Right)
    assert floor.view.left < left
    do(window, "fit")
    assert floor.view.scale == pytest.approx(scale)
    window.workspace.select("planer")
    x = window.workspace.project.machine["planer"].x
    QTest.keyClick(floor, Qt.Key.Key_Left)
    assert window.workspace.project.machine["planer"].x == pytest.approx(x - 0.0254, abs=1e-4)


def test_air_moves_when_it_may_and_stands_when_it_may_not(window, hands, qtbot):
    hands.click_row("planer")
    still = [window.floor.grab().toImage() for _ in range(2)]
    assert still[0] == still[1]
    window.put_setting("motion", "on")
    moving = window.floor.grab().toImage()
    qtbot.waitUntil(lambda: window.floor.grab().toImage() != moving, timeout=2000)
    window.put_setting("motion", "system")
    window.put_setting("motion", "off")
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
        parts = [
            c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4
            for c in colour.getRgbF()[:3]
        ]
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
    assert len({command.id for command in COMMANDS}) == len(COMMANDS) == len(window.menus.actions)
    shortcuts = [command.shortcut for command in COMMANDS if command.shortcut]
    assert len(set(shortcuts)) == len(shortcuts)
    shown = []

    def read(page: HelpPage) -> int:
        shown.append(page.text.toPlainText())
        assert page.height() <= window.screen().availableGeometry().height()
        return 0

    monkeypatch.setattr(HelpPage, "exec", read)
    do(window, "keys")
    do(window, "cautions")
    assert "Ctrl+Shift+Z" in shown[0] and "respirator" in shown[1]
    do(window, "theme")
    assert window.settings.get("theme") == "dark"
    do(window, "zoom-in")
    do(window, "zoom-out")
    do(window, "deselect")


def test_other_shops_are_shown(window):
    for name, machines in (("allotment", 5), ("empty", 0)):
        window.open_demo(name)
        assert len(window.rack._rows) == machines
        assert not window.grab().toImage().isNull()
    assert "An empty floor:" in window.verdict_bar.sentence.text()
    assert floor_scene.machine_state(None, "saw") == "no pickup"


def test_a_strip_with_nothing_to_show_is_one_line_and_the_floor_gets_the_room(window):
    """At every stage of an empty shop, and in a full one again; no chart is ever shown without its
    colours."""
    stages = ("collector", "air", "gates", "build", "work", "keep")
    window.open_demo("empty")
    for stage in stages:
        window.workspace.go(stage)
        assert window.strips.height() == window.strip.height() == ONE_LINE, stage
    high = window.floor.height()
    lathe = demo("loft").machine["lathe"]
    for machines, words in (
        ((), "Place machines first."),
        ((lathe,), "No machine here has a pickup."),
    ):
        window.workspace.go("collector")
        window.workspace.edit(
            "Put down",
            lambda p, m=machines: p.replaced(machines=tuple(x.replaced(circuit=None) for x in m)),
        )
        assert window.strip.head.text() == words and window.strip.height() == ONE_LINE
    window.workspace.undo()
    window.workspace.go("gates")
    window.open_demo("loft")
    for stage in stages:
        window.workspace.go(stage)
        assert window.strips.height() == window.strip.height() == window.strip.tall, stage
        if stage == "gates":
            window.strip.face.click()
            window.workspace.edit("Take the gates away", lambda p: p.replaced(gates=()))
            assert window.strip.height() == ONE_LINE and not window.strip.table.isVisible()
            window.workspace.undo()
            assert window.strip.face.isVisible() and window.strip.face.text() == "As a table"
        if stage == "collector":
            assert window.strip.plot.backgroundBrush().color() == window.colours.sheet
    assert window.floor.height() < high
    window.workspace.go("air")
    window.workspace.edit("Bare", lambda p: p.replaced(runs=(), gates=(), points=(), collectors=()))
    assert (
        window.strip.height() == window.strip.tall
    )  # so that the floor stands still while a first duct is drawn


def test_the_shop_stage_by_mouse_and_keyboard(window, hands, qtbot, monkeypatch):
    """Openings slide along walls, features move, the tape measures, N walks through everything, Del
    takes away."""
    workspace, floor = window.workspace, window.floor
    hands.keys("Ctrl+1")
    assert isinstance(window.strip, CardStrip)
    do(window, "fit")
    stove = workspace.project.element["stove"].outline
    hands.drag_from((4.5, 0.8), (-0.6, 0.3))
    assert workspace.project.element["stove"].outline[0][0] < stove[0][0] - 0.4
    hands.keys("Ctrl+Z")
    hands.drag_from((0.0254 * 12 * 16.7, 5.18), (-1.5, -0.2))
    window_now = workspace.project.element["north-window"]
    assert {window_now.start[1], window_now.end[1]} == {5.1816} and window_now.start[
        0
    ] == pytest.approx(3.073, abs=0.03)
    hands.keys("Ctrl+Z")
    hands.drag_from((9.4488, 1.2), (-0.5, 0.0))
    assert max(x for x, _ in workspace.project.rooms[0].outline) == pytest.approx(8.9408, abs=0.03)
    assert workspace.project.element["hoist-door"].start[0] == pytest.approx(8.9408, abs=0.03)
    assert workspace.selection == "loft/wall-2" and workspace.undo_label == "Push the wall"
    QTest.keyClick(floor, Qt.Key.Key_Right)
    assert workspace.project.rooms[0].outline[1][0] == pytest.approx(8.9662, abs=0.03)
    hands.keys("Ctrl+Z")
    hands.keys("Ctrl+Z")

    hands.take("Tape measure")
    hands.drag_from((1.0, 1.0), (3.0, 4.0))
    assert floor.tool.tape is not None
    a, b = floor.tool.tape
    assert ((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2) ** 0.5 == pytest.approx(5.0, abs=0.05)
    window.grab()
    hands.keys("Esc")
    assert floor.tool.tape is None and workspace.placing is None

    seen = set()
    for _ in range(40):
        hands.keys("N")
        seen.add(workspace.selection)
        window.inspector.grab()
    assert {"loft/wall-1", "hoist-door", "stair-hatch", "tie-beam-2", "outlet-1"} <= seen
    hands.keys("Shift+N")
    workspace.select("walkway")
    hands.keys("Del")
    assert workspace.project.find("walkway") is None
    hands.take("Another room")
    hands.click(-2.0, 2.0)
    room = workspace.selection
    assert room == "another-room" and len(workspace.project.rooms) == 2
    hands.drag_from((-2.0, 2.0), (0.4, 0.0))
    assert max(x for x, _ in workspace.project.element[room].outline) == pytest.approx(
        0.0, abs=0.11
    )


NUMBERS_OF_THE_BUILDING = [
    (None, "loft/ceiling", "8 ft", lambda p: abs(p.rooms[0].ceiling - 2.4384) < 1e-6),
    (None, "loft/far", "9' 6\"", lambda p: abs(p.rooms[0].far_ceiling - 2.8956) < 1e-6),
    (None, "wish", "10 ft", lambda p: abs(p.settings.longest_board - 3.048) < 1e-6),
    (
        "loft/wall-1",
        "loft/wall-1/length",
        "32 ft",
        lambda p: abs(p.rooms[0].outline[1][0] - 9.7536) < 1e-3,
    ),
    ("hoist-door", "hoist-door/head", "6' 8\"", lambda p: abs(p.openings[0].head - 2.032) < 1e-6),
    ("stove", "stove/top", "40", lambda p: abs(p.element["stove"].top - 1.016) < 1e-6),
    (
        "tie-beam-1",
        "tie-beam-1/underside",
        "7 ft",
        lambda p: abs(p.beams[0].underside - 2.1336) < 1e-6,
    ),
    ("outlet-1", "ring-b/breaker", "40 A", lambda p: p.element["ring-b"].breaker == 40),
    ("outlet-1", "outlet-1/name", "By the stair", lambda p: p.outlets[0].name == "By the stair"),
]


def test_every_number_of_the_building_is_edited_in_place(window, hands):
    before = window.workspace.project
    window.workspace.go("shop")
    for element, key, text, holds in NUMBERS_OF_THE_BUILDING:
        window.workspace.select(element)
        hands.type_into(key, text)
        assert holds(window.workspace.project), key
        hands.keys("Ctrl+Z")
        assert window.workspace.project == before, key


CHOICES_OF_THE_SHOP = [
    ("saw", "saw/feed", "left to right", lambda p: p.machine["saw"].feed == 0),
    ("saw", "saw/wheels", "yes", lambda p: p.machine["saw"].wheels),
    ("saw", "saw/priority", "may run short", lambda p: not p.machine["saw"].priority),
    ("saw", "saw/cutter", "none", lambda p: p.machine["saw"].cutter is None),
    ("hoist-door", "hoist-door/kind", "door", lambda p: p.openings[0].kind == "door"),
    (
        "planer-top",
        "planer-top/elbow",
        "mitered elbow",
        lambda p: p.point["planer-top"].elbow == "mitre",
    ),
    (
        "planer-top",
        "planer-top/radius",
        "2.5 diameters",
        lambda p: p.point["planer-top"].radius_ratio == 2.5,
    ),
    ("outlet-1", "outlet-1/circuit", "a new circuit", lambda p: len(p.circuits) == 3),
    (None, "loft/slope", "along the length", lambda p: p.rooms[0].slopes_along == "x"),
]


def test_choices_of_building_and_machines(window, hands):
    before = window.workspace.project
    for element, key, words, holds in CHOICES_OF_THE_SHOP:
        window.workspace.go({"saw": "machines", "planer-top": "air"}.get(element, "shop"))
        window.workspace.select(element)
        hands.choose(key, words)
        assert holds(window.workspace.project), key
        hands.keys("Ctrl+Z")
        assert window.workspace.project == before, key


def test_machine_figures_and_their_bad_values(window, hands):
    workspace = window.workspace
    workspace.go("machines")
    workspace.select("saw")
    for key, text, field, value in [
        ("saw/service", "left and back", "service", ("left", "back")),
        ("saw/turn", "45", "turn", 45.0),
        ("saw/uses", "7", "uses_per_week", 7.0),
        ("saw/table", "36", "table_height", 0.9144),
        ("saw/name", "Old saw", "name", "Old saw"),
    ]:
        hands.type_into(key, text)
        assert getattr(workspace.project.machine["saw"], field) == (
            pytest.approx(value) if isinstance(value, float) else value
        )
    for key, text, says in [
        ("saw/service", "top", "name any of"),
        ("saw/uses", "often", "write a number"),
    ]:
        before = workspace.project
        hands.type_into(key, text)
        assert workspace.project == before
        assert says in window.inspector._complaints[key].text()


def test_a_plan_is_laid_under_and_scaled_by_two_places(window, hands, tmp_path, monkeypatch):
    picture = QImage(600, 300, QImage.Format.Format_RGB32)
    picture.fill(0xFFCC8844)
    path = tmp_path / "plan.png"
    picture.save(str(path))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(path), ""))
    monkeypatch.setattr(QInputDialog, "getText", lambda *a, **k: ("4 m", True))
    do(window, "underlay")
    workspace = window.workspace
    assert workspace.stage == "shop" and workspace.placing.kind == "scale"
    assert "Click two places" in window.stage_bar.next.text()
    hands.click(1.0, 1.0)
    hands.click(3.0, 1.0)
    assert workspace.project.underlay.width == pytest.approx(16.0, abs=0.2)
    with_plan = window.floor.grab().toImage()
    do(window, "drop-underlay")
    assert workspace.project.underlay is None and window.floor.grab().toImage() != with_plan
    path.write_bytes(b"no picture")
    do(window, "underlay")
    assert "is no picture" in window.banner.text.text()


def test_a_corner_of_the_ductwork_is_dragged_and_nudged(window, hands):
    workspace = window.workspace
    start = workspace.project
    top = start.point["jointer-top"]
    hands.drag_from((top.x, top.y), (0.25, -0.1))
    moved = workspace.project.point
    assert moved["jointer-top"].x - top.x == pytest.approx(0.25, abs=0.03)
    assert moved["jointer-foot"].x == pytest.approx(moved["jointer-top"].x)
    assert workspace.selection == "gate-jointer"
    assert workspace.undo_label == "Move the elbow in the jointer's branch"
    workspace.select("jointer-top")
    QTest.keyClick(window.floor, Qt.Key.Key_Left)
    assert workspace.project.point["jointer-top"].x == pytest.approx(
        moved["jointer-top"].x - 0.0254, abs=1e-3
    )
    hands.keys("Ctrl+Z")
    hands.keys("Ctrl+Z")
    assert workspace.project == start


def test_the_lever_frame_sets_the_road(window, hands):
    workspace = window.workspace
    hands.keys("Ctrl+5")
    frame = window.strip
    assert "Choose a machine" in frame.facts.head and window.strips.currentWidget() is frame
    hands.click_row("jointer")
    hands.click_row("saw", together=True)
    pulled = {lever.gate for lever in frame.facts.levers if lever.pulled}
    assert pulled == {"gate-jointer", "gate-saw", "gate-mitre"}
    assert (
        "open the jointer's gate, the saw's gate, shut the other 5. Left open too: the miter saw's gate."
        in frame.facts.head
    )
    assert [lever.plate for lever in frame.facts.levers][:3] == ["Bandsaw", "Miter saw", "Saw"]
    mitre = frame.box(1)
    QTest.mouseClick(
        frame,
        Qt.MouseButton.LeftButton,
        pos=QPointF(mitre.center().x(), mitre.top() + 30).toPoint(),
    )
    assert workspace.project.gate["gate-mitre"].rule == "with its machine"
    assert workspace.selection == "gate-mitre" and not frame.facts.levers[1].pulled
    hands.keys("Ctrl+Z")
    workspace.switch_on(("router-table",))
    assert (
        any(lever.would_help for lever in frame.facts.levers)
        and "would carry the chips better" in frame.facts.head
    )
    frame.setFocus()
    workspace.select("gate-mitre")
    QTest.keyClick(frame, Qt.Key.Key_Right)
    QTest.keyClick(frame, Qt.Key.Key_Space)
    chosen = workspace.selection
    assert workspace.project.gate[chosen].also_open_for == ("router-table",)
    assert next(lever for lever in frame.facts.levers if lever.gate == chosen).pulled
    workspace.switch_on(("jointer",))
    assert not next(lever for lever in frame.facts.levers if lever.gate == chosen).pulled
    hands.choose(f"{chosen}/for/router-table", "shut")
    assert workspace.project.gate[chosen].also_open_for == ()
    workspace.switch_on(())
    QTest.keyClick(frame, Qt.Key.Key_Space)
    assert workspace.project.gate[chosen].rule == "left open"
    QTest.mouseClick(
        frame,
        Qt.MouseButton.LeftButton,
        pos=QPointF(frame.box(4).center().x(), frame.height() - 20).toPoint(),
    )
    assert (
        workspace.selection == "gate-jointer"
        and workspace.project.gate["gate-jointer"].rule == "with its machine"
    )
    frame.grab()


def test_altitude_and_temperature_thin_the_air(window, hands):
    workspace = window.workspace
    hands.type_into("altitude", "5000")
    assert workspace.project.settings.altitude == pytest.approx(1524.0)
    hands.keys("Ctrl+Z")
    hands.type_into("altitude", "1800 m")
    hands.type_into("temperature", "86")  # °F, as the shop shows it
    assert workspace.project.settings.altitude == 1800
    assert workspace.assessment.air.density == pytest.approx(0.93, abs=0.02)
    hands.keys("Ctrl+Z")
    hands.keys("Ctrl+Z")
    assert not workspace.dirty


def test_things_are_dragged_in_from_the_strip(window, hands, qtbot):
    """The drop that ends a drag puts the machine down where the pointer is."""
    window.workspace.go("machines")
    card = window.strip.card("Lathe")
    window.workspace.arm(card.placing)
    at = QPointF(hands.spot(7.0, 1.0))
    for kind in (QDragEnterEvent, QDropEvent):
        place = at.toPoint() if kind is QDragEnterEvent else at
        event = kind(
            place,
            Qt.DropAction.CopyAction,
            QMimeData(),
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
        (window.floor.dragEnterEvent if kind is QDragEnterEvent else window.floor.dropEvent)(event)
        assert event.isAccepted()
    lathe = window.workspace.project.machine["lathe-2"]
    assert (lathe.x, lathe.y) == pytest.approx((7.0, 1.0), abs=0.03)
    assert window.workspace.placing is None


def test_several_machines_are_selected_moved_and_parked(window, hands):
    workspace = window.workspace
    workspace.go("machines")
    before = workspace.project
    hands.click(*_centre(workspace, "saw"))
    hands.click(*_centre(workspace, "lathe"), shift=True)
    assert workspace.selected == ("saw", "lathe")
    QTest.keyClick(window.floor, Qt.Key.Key_Up)
    moved = [
        workspace.project.machine[m].y - before.machine[m].y for m in ("saw", "lathe", "jointer")
    ]
    assert moved == pytest.approx([0.0254, 0.0254, 0.0], abs=1e-4)
    hands.keys("Ctrl+Z")
    hands.click(8.717, 0.79)
    assert workspace.selection == "planer/parked-1"
    hands.drag_from((8.717, 0.79), (-1.0, 0.5))
    assert workspace.project.machine["planer"].parked[0].x < 8.0
    hands.keys("Del")
    assert workspace.project.machine["planer"].parked == ()


def _centre(workspace, machine: str) -> tuple[float, float]:
    item = workspace.project.machine[machine]
    return item.x, item.y


def run_app(
    tmp_path: Path, *arguments: str, **environment: str
) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "grey_current.desk.app", "--settings", str(tmp_path), *arguments],
        capture_output=True,
        text=True,
        timeout=120,
        check=False,
        env={**os.environ, **environment},
    )


def test_the_starter_paints_a_picture_and_refuses_bad_files(tmp_path):
    picture = tmp_path / "shop.png"
    done = run_app(
        tmp_path, "--shop", "allotment", "--on", "bandsaw", "--picture", str(picture), DISPLAY=""
    )
    assert done.returncode == 0, done.stderr
    image = QImage(str(picture))
    assert (image.width(), image.height()) == (1280, 800)
    colours = {image.pixel(x, y) for x in range(0, 1280, 7) for y in range(0, 800, 7)}
    assert len(colours) > 20
    bad = tmp_path / "bad.json"
    bad.write_text("{")
    for arguments in ([str(bad)], ["--on", "nothing"]):
        refused = run_app(tmp_path, *arguments)
        assert refused.returncode == 2 and "Traceback" not in refused.stderr
        assert refused.stderr.count("\n") == 1 and refused.stderr.startswith("grey-current-desk: ")
    assert app.SIZE == (1280, 800) and project_file.SUFFIX.startswith(".greycurrent")


ROUNDING = 6
"""Of 255: what a clipped edge may differ by, which no eye sees."""


def pixels(picture):
    image = picture.toImage().convertToFormat(QImage.Format.Format_RGB32)
    bits = image.constBits()
    bits.setsize(image.sizeInBytes())
    return np.frombuffer(bytes(bits), dtype=np.uint8).astype(int)


def test_what_is_painted_after_an_edit_is_what_a_whole_painting_shows(window):
    """The still picture is mended only where something changed; it is the same picture as a whole
    one."""
    workspace, floor = window.workspace, window.floor
    workspace.switch_on(("planer",))
    floor.grab()
    steps = [
        lambda p: with_point_moved(p, "wye-bandsaw", 0.2, 0.0),
        lambda p: with_point_moved(p, "planer-foot", 0.1, -0.3),
        lambda p: edits.with_hose_length(p, "planer-hose", 1.4),
        lambda p: edits.moved(p, "saw", 0.3, -0.2),
        lambda p: edits.changed(p, "main-4", diameter=0.127),
        lambda p: edits.changed(p, "gate-mitre", rule="with its machine"),
        lambda p: edits.changed(p, "jointer", name="Long jointer"),
        lambda p: edits.removed(p, ["jointer"]),
        lambda p: with_collector(p, "cyclone", "5 hp cyclone, 15 1/2 in impeller"),
    ]
    for number, change in enumerate(steps):
        workspace.edit("Change", change)
        if number == 4:
            workspace.switch_on(("saw", "bandsaw"))
        mended = pixels(floor.grab())
        floor._still = type(floor._still)()
        whole = pixels(floor.grab())
        assert np.abs(mended - whole).max() <= ROUNDING, number


BAD = ("", "-5", "0", "1e99", "nan", "3 ft", "1/0")


def given(item) -> list:
    """Everything that is tried on a field."""
    if isinstance(item, ChoiceField):
        return [value for value, _ in item.options]
    return [None] if isinstance(item, ActionField) else [*BAD, item.label]


def give(workspace, item, value) -> None:
    """What the inspector does with a value."""
    if isinstance(item, ActionField):
        item.act() if item.act else workspace.edit("Try", item.edit)
        return
    taken = item.read(value) if isinstance(item, TextField) else value
    item.act(taken) if item.act else workspace.edit("Try", partial_edit(item, taken))


def partial_edit(item, taken):
    return lambda project: item.edit(project, taken)


@pytest.mark.sweep
@pytest.mark.parametrize("shop", ["loft", "allotment"])
def test_every_field_of_every_page_takes_or_refuses_what_is_typed_in_one_sentence(shop):
    """Each button, each choice and each field with odd texts, for one thing of each kind at each
    stage."""
    workspace = demo_workspace(shop)
    start, tried, refusals = workspace.project, 0, []
    kinds = {type(item): item.id for item in start.element.values()}
    for stage in (entry.name for entry in STAGES):
        workspace.go(stage)
        if stage == "keep":
            job = asking.job_due(workspace)
            workspace.computed.take_result(
                workspace.revision, job, carried_out(workspace.assessment.counted, job)
            )
        for thing in (None, *kinds.values(), next(iter(start.pickup))):
            workspace.select(thing)
            for item in (
                i
                for s in page(workspace, stage_page).sections
                for i in s.items
                if not isinstance(i, Fact | Table)
            ):
                for value in given(item):
                    tried += 1
                    try:
                        give(workspace, item, value)
                    except GreyCurrentError as refused:
                        refusals.append(str(refused))
                    workspace.undo()
                    assert workspace.project == start, item.key
            workspace.compare(None)
    assert (
        tried > 500 and len(refusals) > 100 and all(sentence.endswith(".") for sentence in refusals)
    )


def test_a_lathe_gets_a_hood_by_the_button_of_its_finding_and_every_figure_of_it_can_be_typed(
    window, hands, qtbot
):
    workspace = window.workspace
    hands.keys("Ctrl+2")
    workspace.select("lathe")

    def rows():
        return [
            r for r in window.inspector.findChildren(FindingRow) if r.finding.code == "no-pickup"
        ]

    qtbot.waitUntil(lambda: bool(rows()), timeout=20_000)
    QTest.mouseClick(rows()[0].buttons[0], Qt.MouseButton.LeftButton)
    assert workspace.undo_label == "Add a hood" and workspace.project.pickup["lathe/hood"]
    for key, text in (
        ("area", "12 sq in"),
        ("dx", '-3"'),
        ("distance", "120 mm"),
        ("velocity", "300 fpm"),
        ("mouth", "9"),
    ):
        hands.type_into(f"lathe/hood/{key}", text)
    for key, words in (
        ("opening", "bell mouth"),
        ("intake", "one measurement"),
        ("flanged", "nothing"),
        ("tilts", "moves with it"),
    ):
        hands.choose(f"lathe/hood/{key}", words)
    hands.type_into("lathe/hood/measured-pressure", "2.5 inH2O")
    hood = workspace.project.pickup["lathe/hood"][1]
    assert (hood.opening, hood.intake.by, hood.tilts) == ("bell", "measured", True)
    assert hood.intake.static_pressure == pytest.approx(
        622.7, rel=1e-3
    ) and hood.dx == pytest.approx(-0.0762)
    assert hood.capture.distance == pytest.approx(0.12) and hood.capture.velocity == pytest.approx(
        1.524
    )
    assert hood.capture.area == pytest.approx(9 * 0.0254**2) and not hood.capture.flanged
    hands.press("lathe/hood/remove")
    assert workspace.project.machine["lathe"].pickups == ()
    hands.keys("Ctrl+Z")
    assert workspace.project.pickup["lathe/hood"][1] == hood


def test_while_nothing_runs_the_strip_shows_the_whole_shop_and_a_click_goes_to_the_part(
    window, hands
):
    workspace, strip = window.workspace, window.strip
    assert strip.facts is None and len(strip.bars.rows) == 8
    rect, part, element = max(
        strip.bars.shares(1, 1, strip.width()), key=lambda share: share[0].width()
    )
    spot = rect.center().toPoint()
    QTest.mouseMove(strip, spot)
    strip._tell_bar(rect.center())
    assert strip._told.startswith(f"Planer, {part}: ") and "inH2O" in strip._told
    strip.grab()
    QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=spot)
    assert (
        workspace.running == ("planer",) and workspace.selection == element and strip.bars is None
    )
    workspace.switch_on(())
    workspace.select(None)
    strip._scroll_to(99)
    assert (
        strip._first == max(8 - strip.bars.fits(strip.height()), 0)
        and strip.bar_at(QPointF(5, 3)) is None
    )
    window.workspace.edit("Bare", lambda p: p.replaced(runs=(), gates=(), points=()))
    assert (
        isinstance(window.strip, LayingStrip)
        and window.strip.head.text() == "10 pickups wait without a duct"
    )


@pytest.mark.parametrize(
    ("text", "metres"),
    [
        ("I want to rip 8 ft boards", 2.4384),
        ("8'", 2.4384),
        ("boards of 7' 6 1/2\"", 2.2987),
        ("2,4 m please", 2.4),
        ("none", None),
        ("not said", None),
    ],
)
def test_a_wish_is_read_out_of_a_sentence_and_can_be_taken_back(window, hands, text, metres):
    hands.keys("Ctrl+2")
    hands.type_into("wish", "3 m")
    hands.type_into("wish", text)
    board = window.workspace.project.settings.longest_board
    assert board == (None if metres is None else pytest.approx(metres, abs=1e-4))


def test_no_stage_makes_the_window_wider_than_a_small_screen(window):
    """Names of forty letters and a comparison widen nothing: what does not fit wraps or is elided."""
    workspace, long = window.workspace, "A very long name for what stands here, 40"
    workspace.edit("Rename", lambda p: edits.changed(p, "planer", name=long))
    workspace.edit("Keep", lambda p: kept_designs.kept(p, long)[0])
    workspace.edit("Shorten", lambda p: edits.with_hose_length(p, "planer-hose", 1.0))
    for stage in STAGES:
        workspace.go(stage.name)
        for chosen in (None, "planer", "planer-hose", "cyclone"):
            workspace.select(chosen)
            assert window.minimumSizeHint().width() <= 1280, (stage.name, chosen)
    workspace.go("air")
    workspace.compare(workspace.project.kept_designs[-1].id)
    assert window.minimumSizeHint().width() <= 1280


def test_what_would_help_the_shop_names_what_it_wins(window):
    """Never "+0 CFM": a branch that only stood in the way says what it no longer stands in."""
    workspace = window.workspace
    workspace.edit("Shorten", lambda p: edits.with_hose_length(p, "planer-hose", 1.0))
    workspace.edit("Shut", lambda p: edits.changed(p, "gate-mitre", rule="with its machine"))
    workspace.select(None)
    workspace.switch_on(())
    job = HelpShop()
    workspace.computed.take_result(
        workspace.revision, job, carried_out(workspace.assessment.counted, job)
    )
    section = next(
        s
        for s in page(workspace, stage_page).sections
        if s.title == "What would help the shop most"
    )
    details = [item.detail for item in section.items if isinstance(item, ActionField)]
    assert details and not any(words.startswith(("+0 ", "fewer problems")) for words in details)
    assert any(
        words.startswith("the router table's drop no longer stands where boards pass")
        for words in details
    )


def test_a_room_is_typed_in_the_units_that_it_shows(window, hands):
    """In a metric shop "7.2" over "6.00 m" is 7.2 m, 7200 is too, feet are feet; undo restores each."""
    workspace = window.workspace
    workspace.open_demo("empty")
    workspace.edit("Units", lambda p: edits.with_settings(p, units="metric"))
    hands.keys("Ctrl+1")
    start = workspace.project.rooms[0]
    key = f"{start.id}/length"
    for typed, metres in (
        ("7.2", 7.2),
        ("7200", 7.2),
        ("7.2 m", 7.2),
        ("720 cm", 7.2),
        ("24'", 7.3152),
    ):
        hands.type_into(key, typed)
        xs, ys = zip(*workspace.project.rooms[0].outline, strict=True)
        sides = (max(xs) - min(xs), max(ys) - min(ys))
        assert any(side == pytest.approx(metres, abs=1e-3) for side in sides), (typed, sides)
        workspace.undo()
        assert workspace.project.rooms[0] == start


@pytest.mark.parametrize("units", ["us", "metric"])
@pytest.mark.parametrize("name", ["loft", "allotment"])
def test_no_page_shows_raw_values_or_the_other_units(name, units):
    """No "nan", "None" of Python, brace or "-0"; no litre, m² or °C in a US shop, no CFM or gallon in a metric one."""
    workspace = demo_workspace(name)
    workspace.edit("Units", lambda p: edits.with_settings(p, units=units))
    other = {
        "us": r"\d ?(l|cm²|m²|°C|kg/m³|m³/h|Pa)\b",
        "metric": r"\d ?(CFM|gal|°F|sq ft|sq in|inH2O|fpm)\b",
    }[units]
    odd = re.compile(rf"{other}|[{{}}]|\bnan\b|\binf\b|: None\b|(?<![\d.])-0(\.0+)? |\+0 ")
    project = workspace.project
    for stage in STAGES:
        workspace.go(stage.name)
        for chosen in (None, *project.machine, *project.collector, *list(project.run)[:3]):
            workspace.select(chosen)
            for section in page(workspace, stage_page).sections:
                for item in section.items:
                    words = (
                        f"{item.label} {getattr(item, 'value', '')} {getattr(item, 'detail', '')}"
                    )
                    assert not odd.search(words), (stage.name, chosen, words)

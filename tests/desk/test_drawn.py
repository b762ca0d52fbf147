"""By hand on the floor: corners, beams' ends, mains, gates and the plan underneath; and places that
are typed."""

from __future__ import annotations

import math

import pytest
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtTest import QTest

from grey_current.design.flow.gates import gate_table
from grey_current.design.flow.states import scenario_state
from grey_current.shop import edits
from grey_current.shop.fitting_edits import with_gate_on
from grey_current.shop.places import position, stood_apart
from grey_current.shop.room import FLAT, Beam, Underlay
from tests.desk.conftest import begin_metric, do


def at(window, hands, place, by):
    """Drag from a place of the shop, then answer what the undo list calls it."""
    hands.drag_from(place, by)
    return window.workspace.undo_label


def test_corners_and_beams_are_dragged_typed_nudged_and_taken_back(window, hands):
    workspace = window.workspace
    begin_metric(window)
    start = workspace.project
    assert at(window, hands, (6.0, 4.0), (1.03, 0.71)) == "Move corner 3 of the workshop"
    assert workspace.project.rooms[0].outline[2] == pytest.approx((7.03, 4.71), abs=0.03)
    assert window.inspector._page.title == "Corner 3"
    hands.type_into("room/corner-3/left", "6 m")
    hands.type_into("room/corner-3/low", "4 m")
    assert workspace.project.rooms == start.rooms
    hands.type_into("room/corner-3/low", "-900 m")
    assert "200 m" in window.inspector._complaints["room/corner-3/low"].text()
    window.floor.setFocus()
    QTest.keyClick(window.floor, Qt.Key.Key_Up)
    assert workspace.project.rooms[0].outline[2][1] > 4.0
    hands.press("room/corner-3/join")
    assert len(workspace.project.rooms[0].outline) == 3
    while workspace.undo_label:
        hands.keys("Ctrl+Z")
    assert workspace.project == start
    beam = Beam(id="beam", start=(1, 1), end=(4, 1), width=0.15, underside=2.2)
    workspace.edit("Add", lambda p: edits.added(p, beam))
    hands.click(2.5, 1.0)
    assert workspace.selection == "beam"
    assert at(window, hands, (4.0, 1.0), (0.0, 1.5)) == "Move the end of the beam"
    assert workspace.project.element["beam"].end == pytest.approx((4.0, 2.5), abs=0.03)
    hands.type_into("beam/angle", "90")
    hands.type_into("beam/length", "2 m")
    assert workspace.project.element["beam"].end == pytest.approx((1, 3), abs=1e-3)
    hands.type_into("beam/end-1/left", "2 m")
    assert workspace.project.element["beam"].start == pytest.approx((2, 1))


def test_a_main_and_a_gate_are_dragged_and_a_drag_out_of_the_room_is_survived(window, hands):
    workspace, project = window.workspace, window.workspace.project
    workspace.go("air")
    before = {p.id: (p.x, p.y) for p in project.points}
    a, b = (
        position(project, end) for end in (project.run["main-3"].start, project.run["main-3"].end)
    )
    middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
    across = (0.0, -0.3) if abs(b[0] - a[0]) > abs(b[1] - a[1]) else (-0.3, 0.0)
    assert at(window, hands, middle, across).startswith("Move the main")
    moved = [p.id for p in workspace.project.points if (p.x, p.y) != before[p.id]]
    assert len(moved) > 3 and {project.run["main-3"].start, project.run["main-3"].end} <= set(moved)
    hands.keys("Ctrl+Z")
    assert workspace.project == project
    at(window, hands, middle, (400.0, 0.0))
    assert all(math.isfinite(v) for p in workspace.project.points for v in (p.x, p.y))
    hands.keys("Ctrl+Z")
    workspace.edit("Gate", lambda p: with_gate_on(p, "main-3")[0])
    project, flat = workspace.project, window.floor.scene.gates[-1]
    workspace.select(flat.gate)
    ux, uy = math.cos(flat.heading), math.sin(flat.heading)
    assert (
        at(window, hands, flat.at, (0.1 * ux, 0.1 * uy))
        == f"Move {workspace.computed.names.of(flat.gate)}"
    )
    assert workspace.project.gate[flat.gate].at > project.gate[flat.gate].at
    hands.type_into(f"{flat.gate}/along", "0 m")
    assert 0 < workspace.project.gate[flat.gate].at < project.gate[flat.gate].at + 0.5


def test_the_plan_underneath_is_dragged_turned_and_widened(window, hands):
    workspace = window.workspace
    do(window, "open-empty")
    plan = Underlay(name="plan.dxf", lines=(((0.0, 0.0), (1.0, 1.0)),), width=4.0, height=3.0)
    workspace.edit("Lay", lambda p: p.replaced(underlay=plan))
    do(window, "move-underlay")
    assert at(window, hands, (1.0, 1.0), (0.6, -0.4)) == "Move the plan underneath"
    assert (workspace.project.underlay.x, workspace.project.underlay.y) == pytest.approx(
        (0.6, -0.4), abs=0.03
    )
    hands.keys("Esc")
    workspace.select(None)
    hands.type_into("plan/turn", "90")
    hands.type_into("plan/width", "8 m")
    hands.type_into("plan/low", "1 m")
    under = workspace.project.underlay
    assert (under.turn, under.width, under.height, under.y) == (90, 8, 6, 1)
    window.grab()


def test_a_post_ends_below_the_ceiling_and_a_nonsense_opening_is_refused(window, hands):
    workspace = window.workspace
    workspace.go("shop")
    feature = next(f for f in workspace.project.features if f.kind not in FLAT)
    workspace.select(feature.id)
    hands.type_into(f"{feature.id}/top", "5 ft")
    assert workspace.project.element[feature.id].top == pytest.approx(1.524)
    hands.type_into(f"{feature.id}/top", "up to the ceiling")
    assert workspace.project.element[feature.id].top is None
    door = next(o for o in workspace.project.openings if o.kind != "window")
    workspace.select(door.id)
    for field, text, says in (
        ("width", "0", "50 mm"),
        ("sill", "9 ft", "sill"),
        ("head", "30 ft", "ceiling"),
    ):
        hands.type_into(f"{door.id}/{field}", text)
        assert says in window.inspector._complaints[f"{door.id}/{field}"].text()
    assert workspace.project.element[door.id] == door


def test_the_floor_fits_itself_to_typed_sizes_and_shows_all_lanes_when_asked(window, hands):
    window.workspace.go("shop")
    window.workspace.select(None)
    hands.type_into(f"{window.workspace.project.rooms[0].id}/length", "60 ft")
    spots = [
        window.floor.view.point(corner) for corner in window.workspace.project.rooms[0].outline
    ]
    assert all(QRectF(window.floor.rect()).contains(spot) for spot in spots)
    window.workspace.go("machines")
    one = window.floor.grab().toImage()
    hands.keys("L")
    assert window.floor.scene.all_lanes and window.settings.get("lanes") == "all"
    assert window.floor.grab().toImage() != one
    hands.keys("L")
    assert window.floor.grab().toImage() == one


def test_the_mark_says_when_chips_settle(window):
    workspace = window.workspace
    words = set()
    for machine in workspace.project.machine:
        workspace.switch_on((machine,))
        state = scenario_state(workspace.project, workspace.scenario)
        assert window.verdict_bar._mark.toolTip() == state
        assert (state in ("settles", "may settle")) == ("settle" in workspace.verdict)
        words.add(state)
    assert len(words) > 1


def test_the_gates_as_a_table_agree_with_the_levers_and_are_worked_by_click_and_key(window, hands):
    workspace = window.workspace
    workspace.go("gates")
    QTest.mouseClick(window.strip.face, Qt.MouseButton.LeftButton)
    table = window.strip.table
    assert table.isVisible() and table.rowCount() == len(table.sheet.rows) == 8
    for number, row in enumerate(table.sheet.rows):
        opened = gate_table(workspace.assessment)[row.machine]
        for column, (gate, _) in enumerate(table.sheet.gates):
            assert (table.item(number, column).text() in ("open", "open too", "left open")) == (
                gate in opened
            )
    row, column = next(
        (r, c) for r in range(8) for c in range(8) if table.sheet.rows[r].states[c] == "shut"
    )
    machine, gate = table.sheet.rows[row].machine, table.sheet.gates[column][0]
    spot = table.visualItemRect(table.item(row, column)).center()
    QTest.mouseClick(table.viewport(), Qt.MouseButton.LeftButton, pos=spot)
    assert machine in workspace.project.gate[gate].also_open_for and workspace.selection == gate
    assert table.item(row, column).text() == "open too"
    QTest.keyClick(table, Qt.Key.Key_Space)
    assert machine not in workspace.project.gate[gate].also_open_for
    own = next(c for c in range(8) if table.sheet.rows[row].states[c] == "own")
    table.setCurrentCell(row, own)
    before = workspace.project
    QTest.keyClick(table, Qt.Key.Key_Space)
    assert workspace.project == before
    workspace.edit("None", lambda p: edits.removed(p, list(p.gate)))
    assert not table.isVisible() and not window.strip.face.isVisible()
    hands.keys("Ctrl+Z")
    for seen in (True, False):
        QTest.mouseClick(window.strip.face, Qt.MouseButton.LeftButton)
        assert table.isVisible() == seen and table.rowCount() == 8


def test_what_is_typed_is_read_back_while_it_is_typed(window, hands):
    window.workspace.select("planer-hose")
    editor, label = (
        window.inspector.field("planer-hose/length"),
        window.inspector._complaints["planer-hose/length"],
    )
    before = window.workspace.project
    editor.setFocus()
    editor.selectAll()
    QTest.keyClicks(editor, "6-1/2 ft")
    assert label.text() == "= 6' 6\"", label.text()
    editor.selectAll()
    QTest.keyClicks(editor, "34-1/4")
    assert label.text() == "= 2' 10 1/4\"" and label.style_name() == "soft"
    editor.selectAll()
    QTest.keyClicks(editor, "rubbish")
    assert label.text() == "" and window.workspace.project == before
    QTest.keyClick(editor, Qt.Key.Key_Return)
    assert label.style_name() == "bad" and "write a length" in label.text()


def test_a_separator_stands_by_itself_is_dragged_turned_and_put_back(window, hands):
    workspace = window.workspace
    workspace.go("collector")
    workspace.select("cyclone")
    before = workspace.project
    hands.choose("cyclone/separator-place", "by itself, with a hose")
    body = stood_apart(workspace.project.collector["cyclone"], "separator")
    # It is on the floor, named, and has a page of its own.
    names = [shape.name for shape in window.floor.scene.collectors]
    assert names == ["Cyclone", "Cyclone"] and window.floor.scene.collectors[0].lead
    hands.click(body.x, body.y)
    assert workspace.selection == "cyclone/separator"
    page = window.inspector
    assert (
        page._page.sections[0].title == "Separator by itself"
        and page._open_now["Separator by itself"]
    )
    air = workspace.assessment.of_machine["saw"].worst.airflow
    hands.type_into("cyclone/separator/length", "20'")
    assert workspace.assessment.of_machine["saw"].worst.airflow < air
    hands.type_into("cyclone/separator/length", "none")
    assert workspace.assessment.of_machine["saw"].worst.airflow == pytest.approx(air)
    hands.type_into("cyclone/separator/width", "wide")
    assert "write a length" in page._complaints["cyclone/separator/width"].text()
    hands.drag_from((body.x, body.y), (0.4, -0.3))
    assert workspace.undo_label == "Move the cyclone's separator"
    now = stood_apart(workspace.project.collector["cyclone"], "separator")
    assert (now.x - body.x, now.y - body.y) == pytest.approx((0.4, -0.3), abs=0.25)
    assert workspace.project.collector["cyclone"].x == before.collector["cyclone"].x
    window.floor.setFocus()
    hands.keys("R")
    assert stood_apart(workspace.project.collector["cyclone"], "separator").turn != now.turn
    do(window, "delete")
    assert workspace.project.collector["cyclone"] == before.collector["cyclone"]
    while workspace.undo_label:
        hands.keys("Ctrl+Z")
    assert workspace.project == before


def test_one_hose_is_plugged_in_at_two_ports_by_a_choice(window, hands):
    workspace = window.workspace
    workspace.go("air")
    workspace.select("jointer-hose")
    before = workspace.project
    hands.choose("jointer-hose/same-hose", "the miter saw's hose")
    assert [len(runs) for runs in workspace.project.shared_hoses] == [2]
    # What carrying it takes stands on the page now.
    titles = [section.title for section in window.inspector._page.sections]
    assert "Moving it" in titles
    hands.choose("jointer-hose/same-hose", "no other: it stays here")
    assert workspace.project.shared_hoses == ()
    while workspace.undo_label:
        hands.keys("Ctrl+Z")
    assert workspace.project == before

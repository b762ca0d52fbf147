"""Room for the floor: panes that are dragged, folded and remembered, a tight rack, names that never
collide.
"""

import itertools

import pytest
from PyQt6.QtCore import QPoint, QRectF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from shapely.geometry import Point, Polygon, box
from shapely.ops import unary_union

from grey_current.desk.floor.building_paint import wall_width
from grey_current.desk.floor.labels import placed_labels, placed_names
from grey_current.desk.floor.scene import build_scene
from grey_current.desk.shell.window import MainWindow
from grey_current.shop.room_edits import rectangle
from grey_current.workspace.settings import UserSettings
from grey_current.workspace.stages import STAGES
from tests.core.laid_shops import bare, cellar, garage, many, small, two_rooms, with_machines
from tests.core.shops import demo
from tests.desk.conftest import do

NAMES = ("Table saw", "15 in planer", "8 in jointer", "Bandsaw", "Mitre saw", "Lathe")


def square():
    """A square double garage with twelve machines."""
    places = [(1.0 + 1.8 * (n % 4), 1.3 + 2.2 * (n // 4), 0.0) for n in range(12)]
    rows = [(NAMES[n % len(NAMES)], *place) for n, place in enumerate(places)]
    return with_machines(bare(rectangle(0, 0, 6.7, 6.7)), *rows)


SHOPS = {
    "loft": demo,
    "allotment": lambda: demo("allotment"),
    "cellar": cellar,
    "garage": garage,
    "two rooms": two_rooms,
    "thirty machines": many,
    "square": square,
    **{f"small {seed}": lambda seed=seed: small(seed) for seed in range(6)},
}


def settle(window, wide=1280, tall=800):
    window.resize(wide, tall)
    for _ in range(3):
        QApplication.processEvents()


def dragged(window, handle, dx, dy):
    middle = handle.rect().center()
    QTest.mousePress(handle, Qt.MouseButton.LeftButton, pos=middle)
    QTest.mouseMove(handle, middle + QPoint(dx, dy))
    QTest.mouseRelease(handle, Qt.MouseButton.LeftButton, pos=middle + QPoint(dx, dy))
    settle(window)


def test_a_square_garage_with_twelve_machines_fills_half_the_window_and_the_rack_shows_them(window):
    window.workspace.show_project(square(), None)
    settle(window)
    rows = [window.rack.row(machine) for machine in window.workspace.project.machine]
    assert len(rows) == 12
    for stage in ("shop", "machines", "air", "gates"):
        window.workspace.go(stage)
        settle(window)
        spots = [window.floor.view.point(c) for c in window.workspace.project.corners]
        deep = max(s.y() for s in spots) - min(s.y() for s in spots)
        assert deep >= window.height() / 2, stage
        assert all(not row.visibleRegion().isEmpty() for row in rows)
        assert rows[-1].visibleRegion().boundingRect().height() == rows[-1].height()


def test_panes_are_dragged_folded_and_remembered_for_each_stage(window, tmp_path):
    settle(window)
    panes = window.panes
    window.workspace.go("air")
    settle(window)
    before = {name: pane.size() for name, pane in panes._panes.items()}
    dragged(window, panes._handles["strip"], 0, -60)
    dragged(window, panes._handles["machines"], -40, 0)
    dragged(window, panes._handles["page"], -50, 0)
    assert window.strips.height() == before["strip"].height() + 60
    assert window.rack.width() == before["machines"].width() - 40
    assert window.inspector.width() == before["page"].width() + 50
    after = {name: pane.size() for name, pane in panes._panes.items()}
    # Another stage has its own sizes; a larger window gives what it has more to the floor.
    window.workspace.go("gates")
    settle(window)
    assert window.rack.width() == before["machines"].width()
    window.workspace.go("air")
    settle(window, 1500, 900)
    assert window.rack.width() == after["machines"].width()
    assert window.strips.height() == after["strip"].height()
    settle(window)
    # Folded by key and by a double click, and back to what it was.
    for name, key in (("machines", "F6"), ("strip", "F7"), ("page", "F8")):
        pane = panes._panes[name]
        QTest.keyClick(window.floor, getattr(Qt.Key, f"Key_{key}"))
        settle(window)
        assert pane.visibleRegion().isEmpty() and panes.is_folded(name) and not pane.isEnabled()
        QTest.mouseDClick(panes._handles[name], Qt.MouseButton.LeftButton)
        settle(window)
        assert pane.size() == after[name] and pane.isEnabled()
    do(window, "pane-page")
    panes.write()
    again = MainWindow(window.workspace, UserSettings(window.settings._path.parent), tmp_path)
    again.show()
    settle(again)
    assert again.rack.width() == after["machines"].width() and again.panes.is_folded("page")
    again.hide()
    again.background.stop()
    again.deleteLater()


@pytest.mark.parametrize(
    "written", ['{"panes": 3}', '{"panes": {"air": {"strip": "x", "page": 99999, "folded": 1}}}']
)
def test_sizes_that_cannot_be_are_left_out(tmp_path, written):
    (tmp_path / "settings.json").write_text(written)
    assert all(not s.pixels and not s.folded for s in UserSettings(tmp_path).panes.values())


def test_the_floor_keeps_its_place_between_the_stages_and_is_zoomed_at_each(window):
    settle(window)
    for stage in STAGES:
        window.workspace.go(stage.name)
        settle(window)
        before = window.floor.view
        do(window, "zoom-in")
        middle = window.floor.rect().center()
        QTest.mousePress(window.floor, Qt.MouseButton.MiddleButton, pos=middle)
        QTest.mouseMove(window.floor, middle + QPoint(15, 5))
        QTest.mouseRelease(window.floor, Qt.MouseButton.MiddleButton, pos=middle)
        moved = window.floor.view
        assert moved.scale > before.scale
        for other in STAGES:
            window.workspace.go(other.name)
            settle(window)
            assert window.floor.view == moved, (stage.name, other.name)


@pytest.mark.parametrize("name", SHOPS)
def test_names_lie_over_no_wall_port_symbol_or_other_name(window, name):
    workspace = window.workspace
    workspace.show_project(SHOPS[name](), None)
    settle(window)
    shown = 0
    for factor in (0.55, 1.0, 2.3):
        window.floor.fit()
        window.floor.zoom(factor)
        view = window.floor.view
        scene = build_scene(workspace, "air")
        canvas = window.floor.width(), window.floor.height()
        places = placed_names(scene, view, mark=True, canvas=canvas).places
        labels = placed_labels(scene, places, mark=True)
        paper = QRectF(window.floor.rect())
        assert all(paper.contains(label.box) for label in labels), "a name is cut off"
        shown += len(labels)
        names = [box(*label.box.adjusted(0.5, 0.5, -0.5, -0.5).getCoords()) for label in labels]
        for one, two in itertools.combinations(names, 2):
            assert not one.intersects(two)
        rooms = [
            Polygon([(s.x(), s.y()) for s in map(view.point, room.outline)])
            for room in scene.project.rooms
        ]
        walls = unary_union(
            [room.buffer(wall_width(view) - 1, join_style="mitre") for room in rooms]
        )
        walls = walls.difference(unary_union([room.buffer(1) for room in rooms]))
        hard = [walls]
        for machine in scene.machines:
            for _, place, port in machine.ports:
                spot = view.point(place)
                hard.append(Point(spot.x(), spot.y()).buffer(max(port / 2 * view.scale - 1, 1)))
        for collector in scene.collectors:
            spot = view.polygon(collector.corners).boundingRect().center()
            hard.append(Point(spot.x(), spot.y()).buffer(collector.radius * view.scale - 1))
        for label, area in zip(labels, names, strict=True):
            assert not any(area.intersects(thing) for thing in hard), (label.text, factor)
    # Few are left out, so that this is not true of an empty floor.
    assert shown >= 2.2 * len(workspace.project.machine)

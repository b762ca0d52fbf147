"""The shop in space at the window: keys and buttons, clicks and drags, the tape, files, odd shops."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh
from pypdf import PdfReader
from PyQt6.QtCore import QPoint, QPointF, Qt, QTimer
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog

from grey_current.desk.papers.step_pages import steps_on_paper
from grey_current.desk.shell import build_dialogs
from grey_current.desk.shell.patience import patiently
from grey_current.shop import edits
from grey_current.units import INCH
from tests.desk.conftest import do, pick, turn_wheel
from tests.desk.seen import inks, out_of_sight

pytestmark = pytest.mark.usefixtures("compiled_kernel")


@pytest.fixture
def space(window, hands):
    """The window with the view in space drawn."""
    hands.keys("3")
    view = window.views.space
    view.wait()
    draw(view)
    return view


def look(view, name):
    """Pick from the list of looks by keys."""
    index = view.looks.findData(name)
    view.looks.setCurrentIndex(-1)
    pick(view.looks, view.looks.itemText(index))
    assert view.looks.currentData() == name


def draw(view):
    view.repaint()
    QApplication.processEvents()


def spot_of(view, place):
    x, y, _ = view._pixels([place])[0]
    return QPoint(round(x), round(y))


def spot_on(view, element):
    """A pixel at which an element is seen, in the middle of those."""
    ratio = view.picture.seen._times / view.devicePixelRatioF()
    whose = np.append(view.picture.seen._owners, -1)[view.picture.seen._hit]
    numbers = [n for n, s in enumerate(view.picture.seen._solids) if s.element == element]
    rows, columns = np.nonzero(np.isin(whose, numbers))
    n = len(rows) // 2
    return QPoint(int(columns[n] / ratio), int(rows[n] / ratio))


def drag(view, start, end, button=Qt.MouseButton.LeftButton):
    QTest.mousePress(view, button, pos=start)
    for share in (0.3, 0.7, 1.0):
        QTest.mouseMove(view, start + (end - start) * share)
        draw(view)
    QTest.mouseRelease(view, button, pos=end)


def test_keys_show_the_plan_the_space_or_both(window, hands, space):
    assert space.isVisible() and not window.floor.isVisible() and inks(space) > 200
    hands.keys("4")
    assert space.isVisible() and window.floor.isVisible()
    assert abs(space.width() - window.floor.width()) < 40
    hands.keys("2")
    assert window.floor.isVisible() and not space.isVisible()
    assert window.views.in_hand is window.floor
    do(window, "view-space")
    before = space.camera
    hands.keys("Ctrl++")
    assert space.camera.far < before.far
    hands.keys("F")
    assert space.camera.far == pytest.approx(before.far)
    # A shop without anything in it is a floor with its walls.
    window.workspace.edit(
        "All out",
        lambda p: p.replaced(
            machines=(), collectors=(), points=(), runs=(), gates=(), features=(), beams=()
        ),
    )
    draw(space)
    assert inks(space) > 5
    do(window, "undo")


def test_what_is_clicked_in_space_is_selected_everywhere(window, hands, space):
    workspace = window.workspace
    for element in ("jointer", "cyclone", "planer-hose"):
        QTest.mouseClick(space, Qt.MouseButton.LeftButton, pos=spot_on(space, element))
        assert workspace.selection == element, element
        draw(space)
    window.rack.row("saw")
    workspace.select("saw")
    look(space, "chosen")
    draw(space)
    assert space.picture.seen.shares["saw"] > 0.01 * space.width() * space.height()
    nothing = next(
        spot
        for x in range(4, space.width(), 9)
        if space.element_at(QPointF(spot := QPoint(x, space.height() - 60))) is None
    )
    QTest.mouseClick(space, Qt.MouseButton.LeftButton, pos=nothing)
    assert workspace.selection is None


def test_the_eye_is_turned_moved_and_brought_near(space):
    start, before = QPoint(space.width() // 2, space.height() - 20), space.camera
    drag(space, start, start + QPoint(60, 0))
    assert space.camera.turn != before.turn and space.camera.tilt == before.tilt
    turned = space.camera
    drag(space, start, start + QPoint(0, -40), Qt.MouseButton.RightButton)
    assert space.camera.target != turned.target and space.camera.turn == turned.turn
    moved = space.camera
    turn_wheel(space, QPointF(50, 50), 240)
    assert space.camera.far < moved.far
    QTest.keyClick(space, Qt.Key.Key_Left)
    assert space.camera.turn != moved.turn
    QTest.keyClick(space, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    for name, tilt in (("above", 89.9), ("door", 16.0), ("main", 18.0), ("corner", 32.0)):
        look(space, name)
        assert space.camera.tilt == tilt
    # It is drawn finely once it rests, and at once while it is moved.
    space.draw_finely()
    draw(space)
    assert space.picture.seen._times == 2
    QTest.keyClick(space, Qt.Key.Key_Left)
    draw(space)
    assert space.picture.seen._times == 1


def test_a_main_is_lifted_by_a_drag_with_the_air_going_along(window, hands, space):
    workspace = window.workspace
    heights = {p.id: p.height for p in workspace.project.points}
    run = workspace.project.run["main-3"]
    workspace.select("main-3")
    draw(space)
    air = workspace.assessment
    spot = spot_on(space, "main-3")
    drag(space, spot, spot - QPoint(0, 40))
    now = {p.id: p.height for p in workspace.project.points}
    rise = now[run.start] - heights[run.start]
    assert rise > 0 and rise / (2 * INCH) == pytest.approx(round(rise / (2 * INCH)), abs=1e-3)
    assert "height" in workspace.undo_label and workspace.assessment is not air
    level = [p for p, high in heights.items() if abs(high - heights[run.start]) < 0.01]
    assert sum(now[p] == pytest.approx(heights[p] + rise) for p in level) >= 4
    do(window, "undo")
    assert {p.id: p.height for p in workspace.project.points} == heights
    # Cancelled or undone on the way, or deleted in the hand, nothing is left behind.
    for act in ("cancel", "undo", "delete"):
        workspace.select("main-3")
        draw(space)
        spot = spot_on(space, "main-3")
        QTest.mousePress(space, Qt.MouseButton.LeftButton, pos=spot)
        if act == "delete":
            do(window, "delete")
        for up in (20, 40):
            QTest.mouseMove(space, spot - QPoint(0, up))
        assert workspace.in_gesture == (act != "delete")
        if act == "cancel":
            window.cancel()
        elif act == "undo":
            workspace.undo()
        QTest.mouseMove(space, spot - QPoint(0, 60))
        QTest.mouseRelease(space, Qt.MouseButton.LeftButton, pos=spot - QPoint(0, 60))
        draw(space)
        while workspace.undo_label:
            workspace.undo()
        assert {p.id: p.height for p in workspace.project.points} == heights, act
        draw(space)
    # The keyboard does the same by one step.
    workspace.select("main-3")
    QTest.keyClick(space, Qt.Key.Key_PageUp)
    assert workspace.project.point[run.start].height == pytest.approx(
        heights[run.start] + 2 * INCH, abs=1e-3
    )
    do(window, "undo")


def test_the_tape_says_how_far_two_places_are_apart(window, space):
    look(space, "above")
    QTest.mouseClick(space.measure, Qt.MouseButton.LeftButton)
    draw(space)
    item = window.workspace.project.machine["jointer"]
    top = item.table_height
    places = [(item.x + dx, item.y - 0.05, top) for dx in (-0.3, 0.3)]
    for place in places:
        QTest.mouseClick(space, Qt.MouseButton.LeftButton, pos=spot_of(space, place))
    assert math.dist(*space.measured) == pytest.approx(0.6, abs=0.03)
    assert all(abs(z - top) < 0.02 for _, _, z in space.measured)
    assert "along" in space.measure_words() and window.workspace.selection is None
    draw(space)
    QTest.mouseClick(space.measure, Qt.MouseButton.LeftButton)
    assert not space.measured


def test_putting_up_step_by_step_shows_what_is_up_so_far(window, hands, space):
    workspace = window.workspace
    hands.keys("2")
    hands.keys("Ctrl+6")
    QTest.mouseClick(window.strip.faces["steps"], Qt.MouseButton.LeftButton)
    panel, steps = window.strip.steps, workspace.computed.steps
    assert "1 of" in panel.words.text() and not panel.back.isEnabled()
    QTest.mouseClick(panel.in_space, Qt.MouseButton.LeftButton)
    assert space.isVisible()
    for number in (1, 2, 3):
        draw(space)
        up = {solid.part for solid in space.picture.packed.solids if solid.part}
        assert up == {part for step in steps[:number] for part in step.parts}
        assert space.picture.lit() == set(steps[number - 1].parts)
        QTest.mouseClick(panel.next, Qt.MouseButton.LeftButton)
    QTest.keyClick(panel, Qt.Key.Key_Left)
    assert workspace.step == 3 and steps[2].words in panel.words.text()
    panel.slider.setValue(len(steps))
    assert not panel.next.isEnabled() and workspace.step == len(steps)
    # What is taken out of the drawing leaves fewer steps, and the view says so.
    workspace.edit("Out", lambda p: p.replaced(points=(), runs=(), gates=()))
    assert "Nothing to put up yet" in panel.words.text() and not workspace.steps_shown
    draw(space)
    do(window, "undo")
    QTest.mouseClick(window.strip.faces["parts"], Qt.MouseButton.LeftButton)
    draw(space)
    parts = {solid.part for solid in space.picture.packed.solids if solid.part}
    assert len(parts) == len(workspace.computed.parts.assembly.parts)


def test_what_is_higher_is_cut_off_and_the_dark_theme_is_dark(window, hands, space):
    beams = {beam.id for beam in window.workspace.project.beams}
    assert beams <= set(space.picture.seen.shares)
    space.cut.setValue(space.cut.minimum() + 10)
    draw(space)
    assert not beams & set(space.picture.seen.shares) and "Up to" in space.cut_words.text()
    light = space.grab().toImage().pixelColor(6, space.height() - 6).lightness()
    do(window, "theme")
    draw(space)
    assert space.grab().toImage().pixelColor(6, space.height() - 6).lightness() < light - 80
    do(window, "theme")


def test_running_air_moves_and_labels_tell_the_state(window, hands, space):
    window.workspace.switch_on(("planer",))
    draw(space)
    still = space.grab().toImage()
    space.set_moving(True)
    assert space._clock.isActive()
    space._started -= 1.7
    draw(space)
    assert space.grab().toImage() != still
    space.set_moving(False)
    assert not space._clock.isActive()


def test_the_shop_in_space_is_saved_as_it_is_looked_at(window, space, tmp_path, monkeypatch):
    path = tmp_path / "shop.glb"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    do(window, "save-space")
    assert trimesh.load(path).geometry
    pictures = []
    for turn in (0, 60):
        path = tmp_path / f"view-{turn}.svg"
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, p=path, **k: (str(p), ""))
        space._look(space.camera.orbited(turn, 0))
        do(window, "save-space")
        pictures.append(path.read_text())
    assert pictures[0] != pictures[1]
    wrong = tmp_path / "shop.doc"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(wrong), ""))
    do(window, "save-space")
    assert "one of .glb" in window.banner.text.text() and not wrong.exists()


def test_the_steps_are_printed_four_a_page(window, tmp_path, monkeypatch):
    path = tmp_path / "steps.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    # A few parts of the loft are enough: the main up to the first wye.
    workspace = window.workspace
    workspace.edit(
        "Fewer",
        lambda p: edits.removed(p, [r.id for r in p.runs if r.id.startswith(("main-", "planer"))]),
    )
    steps = workspace.computed.steps
    assert len(steps) > 4
    do(window, "save-steps")
    pages = PdfReader(path).pages
    assert len(pages) == -(-len(steps) // 4)
    words = " ".join(" ".join(page.extract_text() for page in pages).split())
    for step in steps:
        assert f"{step.number}. {step.words.split(',')[0]}" in words
    pictures = [len(page.images) for page in pages]
    assert sum(pictures) == len(steps)
    workspace.edit("None", lambda p: p.replaced(points=(), runs=(), gates=()))
    path.unlink()
    do(window, "save-steps")
    assert "lay the ducts first" in window.banner.text.text() and not path.exists()
    # Cancelled on the way nothing is written.
    do(window, "undo")
    monkeypatch.setattr(build_dialogs, "patiently", lambda *given: None)
    do(window, "save-steps")
    assert not path.exists()
    told = []

    def stopped(share):
        told.append(share)
        return len(told) < 3

    assert patiently(window, "…", lambda on: [on(0.2), on(0.4)]) == [True, True]
    assert not steps_on_paper(workspace.project, "A4", stopped) and len(told) == 3


def test_a_page_to_share_is_asked_for_and_saved(window, tmp_path, monkeypatch):
    path = tmp_path / "page.html"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))

    def fill():
        dialog = QApplication.activeModalWidget()
        assert not out_of_sight(dialog)
        dialog.question.setPlainText("Is the planer all right?")
        dialog.prices.click()
        dialog.accept()

    QTimer.singleShot(0, fill)
    do(window, "share")
    text = path.read_text()
    assert "Is the planer all right?" in text and "USD" in text and "<h2>Notes</h2>" not in text
    path.unlink()
    QTimer.singleShot(0, lambda: QApplication.activeModalWidget().reject())
    do(window, "share")
    assert not path.exists()


def test_what_is_in_the_way_is_lit_once_it_is_known(window, space):
    window.search.find_all()
    window.on_found()
    assert {"router-table", "router-drop"} <= space.picture.in_the_way()
    draw(space)
    red = window.colours.starved.rgb()
    assert (space.picture.seen.picture == red).sum() > 20


def test_two_designs_are_held_against_one_another(window, hands, space):
    workspace = window.workspace
    do(window, "keep-design")
    workspace.edit("Move the jointer", lambda p: edits.moved(p, "jointer", -0.6, 0.0))
    workspace.compare(workspace.project.kept_designs[-1].id)
    draw(space)
    assert space.picture.seen_before is not None and "jointer" in space.picture.differing
    assert "saw" not in space.picture.differing and "jointer-hose" in space.picture.differing
    middle = space.height() // 2
    for share in (0.95, 0.05):
        at = QPoint(round(space.picture.divide * space.width()), middle)
        drag(space, at, QPoint(round(share * space.width()), middle))
        assert space.picture.divide == pytest.approx(share, abs=0.01)
        # Left of the line lies the design before, right of it the present one.
        shown = space.picture.seen_before if share > 0.5 else space.picture.seen
        spots = [(x, y) for x in range(100, 500, 23) for y in range(80, 300, 23)]
        for x, y in spots:
            ratio = space.devicePixelRatioF()
            there = shown.solid_at(x * ratio, y * ratio)
            found = space.element_at(QPointF(x, y))
            assert found is None or found == there.element
    assert workspace.compared_name == "Before: Design A"
    do(window, "undo")
    draw(space)
    assert not space.picture.differing
    workspace.compare(None)
    draw(space)
    assert space.picture.seen_before is None


def test_the_design_before_is_slid_over_the_plan(window, hands):
    workspace, floor = window.workspace, window.floor
    workspace.go("build")
    workspace.select(None)
    do(window, "keep-design")
    was = pixels(floor)
    assert not floor.before.at_line(QPointF(1, floor.height() / 2), floor.width(), floor.height())
    workspace.edit("Move the jointer", lambda p: edits.moved(p, "jointer", -0.6, 0.0))
    now = pixels(floor)
    workspace.compare(workspace.project.kept_designs[-1].id)
    middle, wide = floor.height() // 2, floor.width()
    # Hidden but for its tab, until that is dragged.
    shown = pixels(floor)
    assert (shown != now)[:, :20].any() and (shown == now)[:, 24:].all()
    drag(floor, QPoint(6, floor.height() // 5), QPoint(round(0.95 * wide), middle))
    assert floor.before.divide == pytest.approx(0.95, abs=0.01)
    shown, edge = pixels(floor), round(0.95 * wide) - 30
    marked = shown != was
    jointer = next(m for m in floor.before.scene.machines if m.machine == "jointer")
    frame = floor.view.polygon(jointer.corners).boundingRect().toAlignedRect()
    lit = marked[frame.top() - 2 : frame.bottom() + 3, frame.left() - 2 : frame.right() + 3]
    assert lit.any() and marked[: floor.height() - 30, :edge].mean() < 0.05
    saw = floor.view.polygon(corners_of(floor, "saw")).boundingRect().toAlignedRect()
    assert not marked[saw.top() : saw.bottom(), saw.left() : saw.right()].any()
    # What was is no thing to take in hand: a drag there moves the paper.
    item = workspace.project.machine["saw"]
    spot = floor.view.point((item.x, item.y)).toPoint()
    assert floor.hit(QPointF(spot)) is None
    before = workspace.project
    drag(floor, spot, spot + QPoint(30, 0))
    assert workspace.project is before and not workspace.selected
    workspace.go("machines")
    hands.take("12 in planer")
    QTest.mouseClick(floor, Qt.MouseButton.LeftButton, pos=spot)
    assert workspace.project is before and "design before" in window.banner.text.text()
    floor.stop()
    workspace.go("build")
    do(window, "before")
    assert floor.before.divide == 0
    do(window, "before")
    assert floor.before.divide == 0.5
    do(window, "undo")
    assert not floor.before.differing
    do(window, "undo")
    # The kept design is gone, and with it the line.
    assert floor.before.scene is None and floor.before.divide == 0


def pixels(floor):
    """What the plan shows, a number for each pixel."""
    image = floor.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
    data = image.constBits().asarray(image.sizeInBytes())
    return np.frombuffer(bytes(data), np.uint32).reshape(image.height(), image.width())


def corners_of(floor, machine):
    return next(m.corners for m in floor.scene.machines if m.machine == machine)


def test_a_place_on_screen_and_in_the_shop_are_one(window, space):
    project = window.workspace.project
    for name in ("above", "corner"):
        look(space, name)
        draw(space)
        for machine in project.machines:
            place = (machine.x, machine.y, machine.table_height)
            spot = spot_of(space, place)
            found = space.place_at(QPointF(spot))
            if found is not None and space.element_at(QPointF(spot)) == machine.id:
                # What is met first is the thing itself or a part of it that lies before.
                assert math.dist(found, place) < 0.9

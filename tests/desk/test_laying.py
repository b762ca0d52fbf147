"""Laying ducts at the window: the offer, its ghost, taking a row, choices and pins, and ends in the
middle."""

from __future__ import annotations

import re

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel

from grey_current.desk.inspector.rows import FindingRow
from grey_current.desk.strips.comparison_strip import ComparisonStrip
from grey_current.desk.strips.laying_strip import ROW, LayingStrip
from grey_current.shop.places import position
from tests.core.laid_shops import faults, without_ducts
from tests.desk.conftest import do

pytestmark = pytest.mark.usefixtures("compiled_kernel")


class Counting:
    """The hands, with every click and key counted."""

    def __init__(self, hands, qtbot) -> None:
        self.hands, self.window, self.qtbot, self.clicks = hands, hands.window, qtbot, 0

    def key(self, text):
        self.clicks += 1
        self.hands.keys(text)

    def press(self, field):
        self.clicks += 1
        self.hands.press(field)

    def button(self, button):
        self.clicks += 1
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)

    def row(self, number):
        self.clicks += 1
        QTest.mouseClick(
            self.window.strip.table,
            Qt.MouseButton.LeftButton,
            pos=QPoint(40, ROW * (number + 1) + 9),
        )

    def found(self):
        self.qtbot.waitUntil(lambda: self.window.workspace.offer.complete, timeout=240_000)


def inspector_words(window):
    return " ".join(label.text() for label in window.inspector.findChildren(QLabel))


def is_told(window, why):
    """Whether all of a row's reasons stand on the page."""
    told, *wanted = (
        " ".join(re.findall(r"\w+", text.lower()))
        for text in (inspector_words(window), *re.split(r"[.:;] ", why))
    )
    return all(reason in told for reason in wanted)


def test_from_four_walls_to_a_whole_design_in_twelve_clicks(window, hands, qtbot):
    workspace, counted = window.workspace, Counting(hands, qtbot)
    do(window, "open-empty")
    counted.clicks += 2  # the menu and its entry
    hands.type_into("room/length", "7.2 m")
    hands.type_into("room/width", "4.5 m")
    counted.clicks += 2
    counted.key("Ctrl+2")
    for name, x, y in (
        ("Table saw", 4.2, 1.6),
        ("12 in planer", 5.6, 3.5),
        ("Spindle sander", 2.4, 3.6),
    ):
        hands.take(name)
        hands.click(x, y)
    hands.take("3 hp cyclone, 15 in impeller")  # placed like a machine, somewhere
    hands.click(6.4, 0.9)
    counted.key("Ctrl+3")
    counted.press(f"{workspace.project.collectors[0].id}/ask-places")
    counted.found()
    assert (
        isinstance(window.strip, LayingStrip) and workspace.offer.rows and window.floor.scene.ghost
    )
    counted.row(0)
    assert workspace.undo_label == "Stand the collector" and not workspace.project.runs
    counted.key("Ctrl+4")
    QTest.mouseClick(window.strip.end, Qt.MouseButton.LeftButton)
    assert (
        not isinstance(window.strip, LayingStrip) and "ask-ducts" in window.inspector.fields
    )  # put off, not lost
    workspace.put_off = False
    window.on_sides_due()
    assert isinstance(window.strip, LayingStrip) and "4 pickups wait" in window.strip.head.text()
    counted.button(window.strip.lay)
    counted.found()
    counted.row(0)
    assert counted.clicks <= 12
    project = workspace.project
    assert (
        workspace.undo_label == "Lay the ducts" and not faults(project) and len(project.gates) == 4
    )
    answers = workspace.assessment.counted.answers
    assert all(p.leaf is not None for answer in answers for p in answer.pickups)
    assert sum(answer.met for answer in answers) >= 2
    before = workspace.project
    hands.keys("Ctrl+Z")
    assert not workspace.project.runs
    hands.keys("Ctrl+Shift+Z")
    assert workspace.project == before


@pytest.mark.sweep
def test_an_offer_shows_ghosts_keeps_the_design_before_and_compares(window, hands, qtbot):
    workspace, counted = window.workspace, Counting(hands, qtbot)
    drawn = workspace.project
    workspace.go("air")
    hands.keys("Shift+D")
    counted.found()
    table, offer = window.strip.table, workspace.offer
    assert "as drawn 0 of 8" in window.strip.state.text() and len(offer.rows) >= 3
    QTest.mouseMove(table, QPoint(60, ROW * 2 + 9))
    assert workspace.pointed_row is offer.rows[1]
    assert is_told(window, offer.rows[1].why)
    pictures = window.strip.pictures
    QTest.mouseMove(pictures, pictures.box(2).center().toPoint())
    assert workspace.pointed_row is offer.rows[2] and is_told(window, offer.rows[2].why)
    QTest.mouseMove(table, QPoint(60, ROW * 2 + 9))
    problem = window.inspector.findChildren(FindingRow)[0]
    QTest.mouseClick(problem, Qt.MouseButton.LeftButton)
    assert problem.finding.element in workspace.lit and workspace.selected == ()
    QTest.mouseClick(window.inspector.findChildren(FindingRow)[0], Qt.MouseButton.LeftButton)
    assert workspace.lit == ()
    shapes = {duct.run for duct in window.floor.scene.ducts}
    assert window.floor.scene.ghost and shapes == set(offer.rows[1].shown.run)
    window.floor.grab()
    assert workspace.project is drawn and workspace.undo_label is None
    table.setFocus()
    QTest.keyClick(table, Qt.Key.Key_Down)
    assert workspace.asked.pointed == 2
    QTest.keyClick(table, Qt.Key.Key_Up)
    QTest.keyClick(table, Qt.Key.Key_Return)
    assert workspace.asked is None and workspace.project.runs == offer.rows[1].project.runs
    assert [kept.name for kept in workspace.project.kept_designs] == ["Before"]
    assert isinstance(window.strip, ComparisonStrip) and "Before:" in window.strip.head.text()
    hands.keys("Ctrl+Z")
    assert workspace.project == drawn and not window.floor.scene.ghost


def test_sizes_and_missing_branches_are_offered_too_and_pins_hold(window, hands, qtbot):
    workspace, counted = window.workspace, Counting(hands, qtbot)
    workspace.go("air")
    hands.keys("Shift+S")
    counted.found()
    assert (
        workspace.offer.rows[0].name in ("Stepped", "One size")
        and "choices" in workspace.offer.state
    )
    hands.keys("Esc")
    assert workspace.asked is None
    workspace.select("main-1")
    hands.choose("main-1/pinned", "stays: pinned")
    assert workspace.project.run["main-1"].pinned
    workspace.select("jointer-drop")
    hands.keys("Del")
    workspace.select(None)
    hands.keys("Ctrl+Shift+D")
    counted.found()
    assert workspace.offer.rows and all("main-1" in row.project.run for row in workspace.offer.rows)
    counted.row(0)
    assert workspace.undo_label == "Connect what was not connected" and not workspace.waiting
    workspace.ask_for("ducts")
    hands.press("laying/unpin")
    assert not any(run.pinned for run in workspace.project.runs)


@pytest.mark.sweep
def test_choices_stand_beside_the_offer_and_begin_the_search_anew(window, hands, qtbot):
    workspace, counted = window.workspace, Counting(hands, qtbot)
    window.workspace.edit("Bare", without_ducts)
    workspace.go("air")
    assert isinstance(window.strip, LayingStrip)
    hands.choose("laying/height", "at a height of…")
    hands.type_into("laying/wall_height", "6' 6\"")
    assert workspace.project.laying.wall_height == pytest.approx(1.9812)
    hands.type_into("laying/sizes", "4, 5 in")
    assert workspace.project.laying.sizes == pytest.approx((0.1016, 0.127))
    for rubbish, says in (
        ("3.7 in", "sizes that are sold"),
        ("wide", "write a length"),
        ("125 cm", "sizes that are sold"),
    ):
        hands.type_into("laying/sizes", rubbish)
        assert says in window.inspector._complaints["laying/sizes"].text()
        assert workspace.project.laying.sizes == pytest.approx((0.1016, 0.127))
    hands.type_into("laying/sizes", "all")
    assert workspace.project.laying.sizes == ()
    hands.choose("laying/gates", "at the wye")
    counted.button(window.strip.lay)
    qtbot.waitUntil(lambda: bool(workspace.offer.rows), timeout=120_000)
    revision = workspace.revision
    hands.choose("laying/height", "under the beams")
    assert (
        workspace.revision > revision and not workspace.offer.rows and workspace.asked is not None
    )
    workspace.select("saw")
    workspace.edit("Move it", lambda p: p)
    do(window, "units")
    counted.found()
    assert workspace.offer.rows and "m" in workspace.offer.rows[0].cells[3]
    counted.row(0)
    assert (
        workspace.project.laying.gates == "at the wye"
        and workspace.project.settings.units == "metric"
    )


def test_an_offer_ends_without_harm_wherever_one_is(window, hands, qtbot):
    workspace = window.workspace
    drawn = workspace.project
    workspace.ask_for("ducts")
    qtbot.waitUntil(lambda: "tried" in workspace.offer.state, timeout=30_000)
    workspace.point_at(7)
    workspace.take(7)
    assert workspace.project is drawn
    workspace.go("shop")
    assert workspace.asked is None and not isinstance(window.strip, LayingStrip)
    workspace.go("collector")
    workspace.ask_for("places", "cyclone")
    do(window, "open-empty")
    assert workspace.asked is None
    do(window, "open-loft")
    workspace.ask_for("unconnected")
    qtbot.waitUntil(lambda: workspace.offer.complete, timeout=10_000)
    assert "connected already" in window.strip.why.text() and not workspace.offer.rows
    QTest.keyClick(window.strip.table, Qt.Key.Key_Return)
    QTest.mouseClick(window.strip.end, Qt.MouseButton.LeftButton)
    assert workspace.asked is None
    workspace.ask_for("sizes")
    workspace.select("cyclone")
    hands.keys("Del")
    qtbot.waitUntil(lambda: workspace.offer is None or workspace.offer.complete, timeout=10_000)
    assert workspace.offer is None or not workspace.offer.rows or workspace.project.collectors


def test_the_first_run_of_a_main_leaves_straight_and_along_the_building(window, hands):
    workspace = window.workspace
    workspace.edit("Bare", without_ducts)
    hands.keys("D")
    collector = workspace.project.collectors[0]
    hands.click(collector.x, collector.y)
    hands.click(5.0, 3.9)
    runs = workspace.project.run
    inlet, main = runs["inlet"], runs["main"]
    (ax, ay, _), (bx, by, _) = (
        position(workspace.project, end) for end in (inlet.start, inlet.end)
    )
    assert ay == pytest.approx(by, abs=1e-6) and abs(ax - bx) > 0.5
    (ax, ay, _), (bx, by, _) = (position(workspace.project, end) for end in (main.start, main.end))
    assert (
        ay == pytest.approx(by, abs=1e-4)
        or ax == pytest.approx(bx, abs=1e-4)
        or abs(ax - bx) == pytest.approx(abs(ay - by), abs=1e-3)
    )
    assert QPointF(ax, ay) != QPointF(bx, by)

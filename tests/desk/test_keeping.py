"""The Keep stage at the window: where to measure, a figure typed, bands that narrow, what
contradicts and what is gone."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog

from grey_current.desk.strips.sure_strip import HEAD, ROW
from grey_current.files import project_file
from tests.core.shops import made_up
from tests.desk.conftest import do

pytestmark = pytest.mark.usefixtures("compiled_kernel")


@pytest.fixture
def keep(window, hands, qtbot):
    """The window at the Keep stage with its answers in."""
    hands.keys("Ctrl+8")
    wait(window, qtbot)
    return window


def wait(window, qtbot):
    def known():
        found = window.workspace.computed.doubt
        return found is not None and found.project == window.workspace.project

    qtbot.waitUntil(known, timeout=60_000)


def first_reading(window):
    return next(key for key in window.inspector.fields if key.startswith("read/"))


def facts(window):
    return " ".join(
        item.value
        for section in window.inspector._page.sections
        for item in section.items
        if hasattr(item, "value")
    )


def test_a_figure_typed_where_the_ring_stands_narrows_the_bands(keep, hands, qtbot, tmp_path):
    workspace, strip = keep.workspace, keep.strip
    assert "from the tables alone" in strip._head() and len(strip.rows) == 10
    wanted = workspace.computed.doubt.wanted[0]
    assert first_reading(keep) == f"read/{wanted.kind}/{wanted.machine}/{wanted.place}"
    spot = keep.floor.tool._spot(wanted.place)
    assert keep.floor.rect().contains(spot.toPoint())
    before = {row.pickup: row.high - row.low for row in strip.rows}
    display = "5.9 in" if wanted.kind == "static pressure" else "120 CFM"
    hands.type_into(first_reading(keep), "rubbish")
    assert workspace.project.keep.readings == ()
    assert "write a" in keep.inspector._complaints[first_reading(keep)].text()
    hands.type_into(first_reading(keep), display)
    assert len(workspace.project.keep.readings) == 1 and workspace.undo_label == "Log a reading"
    wait(keep, qtbot)
    assert sum(row.high - row.low for row in strip.rows) < 0.98 * sum(before.values())
    assert (
        "as your readings say" in strip._head()
        and "Delete reading 1" in keep.inspector.field("reading-1/away").words()
    )
    taught = {row.pickup: row.mid for row in strip.rows}
    for row in (
        strip.rows
    ):  # the same figure as everywhere else on screen, whichever the readings make of it
        shown = workspace.shown_air.of(row.scenario)
        assert shown is not None and any(
            row.figure == pytest.approx(p.airflow, rel=1e-6) for p in shown.pickups
        )
    hands.choose("applied", "as the tables say")
    wait(keep, qtbot)
    assert {row.pickup: row.high - row.low for row in strip.rows} == before
    path = tmp_path / "kept.json"
    project_file.save(workspace.project, path)
    assert project_file.load(path).keep == workspace.project.keep
    workspace.undo()
    wait(keep, qtbot)
    assert {row.pickup: row.mid for row in strip.rows} == taught
    hands.press("reading-1/away")
    assert workspace.project.keep.readings == ()
    workspace.undo()
    workspace.undo()
    assert workspace.project.keep.readings == ()
    wait(keep, qtbot)
    assert {row.pickup: row.high - row.low for row in strip.rows} == before


@pytest.mark.sweep
def test_a_reading_that_contradicts_is_named_and_one_whose_place_is_gone_is_kept(
    keep, hands, qtbot
):
    workspace = keep.workspace
    workspace.select("inlet-run")
    assert "only the saw on" in keep.inspector._page.subtitle
    workspace.switch_on(("planer",))
    assert "only the planer on" in keep.inspector._page.subtitle
    for text in ("6.2", "9.9 in"):
        hands.type_into("read/static pressure/planer/inlet-run", text)
        wait(keep, qtbot)
    workspace.select(None)
    QApplication.processEvents()
    assert "contradicts" in facts(keep)
    workspace.edit("Take it out", lambda p: p.replaced(points=(), runs=(), gates=()))
    QApplication.processEvents()
    assert "No ducts yet" in keep.strip._head() and len(workspace.project.keep.readings) == 2
    keep.grab()
    workspace.undo()
    wait(keep, qtbot)
    assert "contradicts" in facts(keep)


@pytest.mark.sweep
def test_every_thing_has_its_page_and_rows_lead_to_it(keep, hands, qtbot, tmp_path, monkeypatch):
    workspace, strip = keep.workspace, keep.strip
    row = next(n for n, item in enumerate(strip.rows) if item.pickup.startswith("planer/"))
    QTest.mouseClick(
        strip, Qt.MouseButton.LeftButton, pos=QPoint(60, int(HEAD + row * ROW + ROW / 2))
    )
    assert workspace.selection == "planer" and "of the uncertainty" in facts(keep)
    hands.type_into(
        "read/airflow/planer/planer/hood"
        if "read/airflow/planer/planer/hood" in keep.inspector.fields
        else first_reading(keep),
        "430 CFM",
    )
    assert len(workspace.project.keep.readings) == 1
    for chosen in (
        *workspace.project.machine,
        *workspace.project.run,
        *workspace.project.collector,
        *workspace.project.gate,
    ):
        workspace.select(chosen)
        keep.grab()
    path = tmp_path / "readings.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(path), ""))
    do(keep, "save-readings")
    do(keep, "read-readings")
    assert len(workspace.project.keep.readings) == 2 and workspace.undo_label == "Read readings"
    path.write_text("kind,machine,place,value\n")
    do(keep, "read-readings")
    assert "a line for each reading" in keep.banner.text.text()
    workspace.select("planer-hose")
    assert "no test hole" in keep.inspector._page.subtitle
    workspace.select("cyclone")
    hands.type_into(first_reading(keep), "1.1")
    assert workspace.project.keep.readings[-1].kind == "filter drop"
    wait(keep, qtbot)
    hands.type_into(first_reading(keep), "6 in")
    wait(keep, qtbot)
    workspace.select(None)
    QApplication.processEvents()
    assert "the filter is loaded" in facts(keep) and "It takes" in facts(keep)
    strip.resize(strip.width(), 90)
    strip.setFixedHeight(90)
    centre = QPointF(60, 60)
    QApplication.sendEvent(
        strip,
        QWheelEvent(
            centre,
            centre,
            QPoint(),
            QPoint(0, -120),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        ),
    )
    assert strip._first == 1
    QTest.keyClick(strip, Qt.Key.Key_Up)
    assert strip._first == 0


@pytest.mark.parametrize("seed", [2, 5, 9])
def test_any_shop_is_shown(window, hands, qtbot, seed):
    window.workspace.edit("Another shop", lambda _: made_up(seed))
    window.workspace.go("keep")
    if window.workspace.project.runs:
        wait(window, qtbot)
    window.grab()
    for machine in window.workspace.project.machine:
        window.workspace.select(machine)
        window.grab()

"""The Keep stage at the window: where to measure, a figure typed, bands that narrow, what
contradicts and what is gone."""

from __future__ import annotations

import pytest
from pypdf import PdfReader
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog

from grey_current.desk.inspector.fields import Table
from grey_current.desk.papers.layout import MARGIN, Word, width
from grey_current.desk.papers.sticker_page import TALL, WIDE, sticker_page
from grey_current.desk.strips.sure_strip import HEAD, ROW
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.keep_edits import with_reading_changed
from grey_current.shop.keep_plan import READS
from tests.core.shops import made_up
from tests.desk.conftest import do, turn_wheel, wait_for_keep

pytestmark = pytest.mark.usefixtures("compiled_kernel")


def first_reading(window):
    wanted = window.workspace.computed.doubt.wanted[0]
    return f"read/{wanted.kind}/{wanted.machine}/{wanted.place}"


def first_field(window):
    """The first field for a figure on the page."""
    return next(key for key in window.inspector.fields if key.startswith("read/"))


def facts(window):
    """All that the page says in facts and tables."""
    items = [item for section in window.inspector._page.sections for item in section.items]
    tables = [item for item in items if isinstance(item, Table)]
    said = [item.value for item in items if hasattr(item, "value")]
    return " ".join((*said, *(cell for table in tables for row in table.rows for cell in row)))


def test_a_figure_typed_where_the_ring_stands_narrows_the_bands(keep, hands, qtbot, tmp_path):
    workspace, strip = keep.workspace, keep.strip
    assert "from the tables alone" in strip._head() and len(strip.rows) == 10
    wanted = workspace.computed.doubt.wanted[0]
    assert first_reading(keep) in keep.inspector.fields
    spot = keep.floor.tool._spot(wanted.place)
    assert keep.floor.rect().contains(spot.toPoint())
    before = {row.pickup: row.high - row.low for row in strip.rows}
    display = "5.9 in" if wanted.kind == "static pressure" else "120 CFM"
    hands.type_into(first_reading(keep), "rubbish")
    assert workspace.project.keep.readings == ()
    assert "write a" in keep.inspector._complaints[first_reading(keep)].text()
    hands.type_into(first_reading(keep), display)
    assert len(workspace.project.keep.readings) == 1 and workspace.undo_label == "Log a reading"
    wait_for_keep(keep, qtbot)
    assert sum(row.high - row.low for row in strip.rows) < 0.98 * sum(before.values())
    assert "as your readings say" in strip._head()
    taught = {row.pickup: row.mid for row in strip.rows}
    for row in (
        strip.rows
    ):  # the same figure as everywhere else on screen, whichever the readings make of it
        shown = workspace.shown_air.of(row.scenario)
        assert shown is not None and any(
            row.figure == pytest.approx(p.airflow, rel=1e-6) for p in shown.pickups
        )
    hands.choose("applied", "as the tables say")
    wait_for_keep(keep, qtbot)
    assert {row.pickup: row.high - row.low for row in strip.rows} == before
    path = tmp_path / "kept.json"
    project_file.save(workspace.project, path)
    assert project_file.load(path).keep == workspace.project.keep
    workspace.undo()
    wait_for_keep(keep, qtbot)
    assert {row.pickup: row.mid for row in strip.rows} == taught
    hands.press("readings/all")
    assert strip.readings.isVisible() and "1 reading" in strip._head()
    # A figure is changed in place; rubbish is said and changes nothing, and until it is worked
    # out nothing is said of it.
    table = strip.readings
    cell = table.shown.index(0, table.table.columns.index("You read"))
    was = workspace.project
    assert not table.shown.setData(cell, "rubbish", Qt.ItemDataRole.EditRole)
    table.show_workspace(keep.colours)
    assert "write a" in table.complaint.text() and workspace.project is was
    assert table.shown.setData(cell, display, Qt.ItemDataRole.EditRole) or cell.data() == display
    workspace.edit("Later", lambda p: with_reading_changed(p, 1, note="again"))
    assert "as expected" not in table.words
    wait_for_keep(keep, qtbot)
    table.show_workspace(keep.colours)
    assert table.table.rows[0].cells[-1]
    while workspace.project is not was:
        workspace.undo()
    strip.readings.view.selectRow(0)
    QTest.keyClick(strip.readings.view, Qt.Key.Key_Delete)
    assert workspace.project.keep.readings == () and workspace.undo_label == "Delete a reading"
    workspace.undo()
    assert strip.readings.table.rows
    workspace.undo()
    assert workspace.project.keep.readings == ()
    wait_for_keep(keep, qtbot)
    assert {row.pickup: row.high - row.low for row in strip.rows} == before


@pytest.mark.sweep
def test_one_reading_a_month_is_one_field(keep, hands, qtbot, tmp_path, monkeypatch):
    """From the Keep stage a figure and Enter; what it means stands beside it, and on the sticker."""
    workspace = keep.workspace
    (one,) = workspace.computed.doubt.monthly
    # Where a ring stands no size is written under it.
    sizes = {duct.run: duct.label for duct in keep.floor.scene.ducts}
    assert not sizes[one.place] and sum(map(bool, sizes.values())) > 4
    page = keep.inspector._page
    assert page.sections[0].title == "This month" and page.sections[0].summary == "due"
    assert keep.floor.rect().contains(keep.floor.tool._spot(one.place).toPoint())
    key = f"read/static pressure/{one.machine}/{one.place}"
    hands.type_into(key, f"{one.healthy:.0f} Pa")
    wait_for_keep(keep, qtbot)
    assert "As it should be." in facts(keep) and workspace.computed.doubt.monthly[0].own
    hands.type_into(key, f"{one.low_red * 0.9:.0f} Pa")
    wait_for_keep(keep, qtbot)
    told = next(i for i in keep.inspector._page.sections[0].items if "Last" in (i.label or ""))
    assert "clean the filter" in told.value and told.state == "starved"
    path = tmp_path / "sticker.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(path), ""))
    hands.press(f"sticker/{one.collector}")
    said = PdfReader(path).pages[0].extract_text()
    assert "only the saw on" in said and "Green: " in said and "Red under " in said
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path), ""))
    hands.press(f"sticker/{one.collector}")
    assert "is a folder" in keep.banner.text.text()
    # Without a gauge no figure is asked for; with nothing at all nothing is.
    for name in READS:
        hands.choose(f"instrument/{name}", "don't have it")
        wait_for_keep(keep, qtbot)
        left = {"particle counter"} & set(workspace.project.keep.instruments)
        if set(workspace.project.keep.instruments) == left:
            # A counter alone reads nothing in a duct.
            assert workspace.computed.doubt.wanted == ()
            assert "Nothing to measure with" in facts(keep)
    assert workspace.project.keep.instruments == () and key not in keep.inspector.fields
    hands.choose("instrument/gauge", "have it")
    wait_for_keep(keep, qtbot)
    assert key in keep.inspector.fields
    for units in ("us", "metric"):
        marks = sticker_page(edits.with_settings(workspace.project, units=units), one).marks
        words = [mark for mark in marks if isinstance(mark, Word)]
        assert all(w.x + width(w.text, w.size, w.bold) < MARGIN + WIDE for w in words)
        assert max(w.y for w in words) < MARGIN + TALL


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
        wait_for_keep(keep, qtbot)
    workspace.select(None)
    QApplication.processEvents()
    assert "contradicts" in facts(keep)
    workspace.edit("Take it out", lambda p: p.replaced(points=(), runs=(), gates=()))
    QApplication.processEvents()
    assert "No ducts yet" in keep.strip._head() and len(workspace.project.keep.readings) == 2
    keep.grab()
    workspace.undo()
    wait_for_keep(keep, qtbot)
    assert "contradicts" in facts(keep)


@pytest.mark.sweep
def test_every_thing_has_its_page_and_rows_lead_to_it(keep, hands, qtbot, tmp_path, monkeypatch):
    workspace, strip = keep.workspace, keep.strip
    row = next(n for n, item in enumerate(strip.rows) if item.pickup.startswith("planer/"))
    QTest.mouseClick(
        strip, Qt.MouseButton.LeftButton, pos=QPoint(60, int(HEAD + row * ROW + ROW / 2))
    )
    assert workspace.selection == "planer"
    tables = [i for s in keep.inspector._page.sections for i in s.items if isinstance(i, Table)]
    assert "share of the uncertainty" in tables[0].headings
    hands.type_into(
        "read/airflow/planer/planer/hood"
        if "read/airflow/planer/planer/hood" in keep.inspector.fields
        else first_field(keep),
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
    hands.type_into(first_field(keep), "1.1")
    assert workspace.project.keep.readings[-1].kind == "filter drop"
    wait_for_keep(keep, qtbot)
    hands.type_into(first_field(keep), "6 in")
    wait_for_keep(keep, qtbot)
    workspace.select(None)
    QApplication.processEvents()
    assert "the filter is loaded" in facts(keep) and "It takes" in facts(keep)
    strip.resize(strip.width(), 90)
    strip.setFixedHeight(90)
    turn_wheel(strip, QPointF(60, 60), -120)
    assert strip._first == 1
    QTest.keyClick(strip, Qt.Key.Key_Up)
    assert strip._first == 0


@pytest.mark.parametrize("seed", [2, 5, 9])
def test_any_shop_is_shown(window, hands, qtbot, seed):
    window.workspace.edit("Another shop", lambda _: made_up(seed))
    window.workspace.go("keep")
    if window.workspace.project.runs:
        wait_for_keep(window, qtbot)
    window.grab()
    for machine in window.workspace.project.machine:
        window.workspace.select(machine)
        window.grab()

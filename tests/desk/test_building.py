"""The Build stage at the window: parts, cuts, phases, prices, papers, things to make, and what is
done."""

from __future__ import annotations

import functools
import re
from pathlib import Path

import pytest
import shapely
import shapely.affinity
from pypdf import PdfReader
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QFileDialog

from grey_current.build.bill import bill
from grey_current.build.cuts import numbered
from grey_current.build.drawing import Dimension, Text, dimension_text
from grey_current.build.papers import drawings, papers
from grey_current.build.phases import phase_facts
from grey_current.design.flow.assess import assess
from grey_current.desk import app
from grey_current.desk.inspector.fields import Fact
from grey_current.desk.papers.layout import FOOT, MARGIN, Placed, Word, pages, width
from grey_current.desk.papers.painting import CAP, picture, print_pages, save_pdf
from grey_current.desk.papers.preview import PapersDialog
from grey_current.desk.shell import build_dialogs
from grey_current.desk.shell.build_dialogs import DRAWINGS
from grey_current.desk.strips.parts_table import ROW
from grey_current.errors import FileError
from grey_current.files import project_file
from grey_current.files.reuse_report import left_over_lines
from grey_current.shop import build_edits, edits
from grey_current.shop.demo_shops import demo_path
from tests.core.shops import demo, hall, made_up
from tests.desk.conftest import do
from tests.desk.seen import out_of_sight


@pytest.fixture
def build(window, hands, qtbot):
    """The window at the Build stage with its answers in."""
    hands.keys("Ctrl+6")
    qtbot.waitUntil(lambda: bool(window.workspace.computed.phases), timeout=20_000)
    return window


def face(window, name):
    QTest.mouseClick(window.strip.faces[name], Qt.MouseButton.LeftButton)
    QApplication.processEvents()


def row_of(table, key):
    return next(n for n, row in enumerate(table.rows) if row.line and row.line.part.key == key)


def test_a_part_lights_up_where_it_goes_and_is_priced_and_bought(build, hands):
    workspace, table = build.workspace, build.strip.parts
    key = "elbow/spiral-steel/102/90/r1.5"
    QTest.mouseClick(
        table, Qt.MouseButton.LeftButton, pos=QPoint(200, row_of(table, key) * ROW + 9)
    )
    assert (
        workspace.part == key and len(workspace.selected) == 7 and "saw-top" in workspace.selected
    )
    before = workspace.computed.bill.total
    hands.type_into(f"price/{key}", "$ 30")
    assert workspace.computed.bill.total == pytest.approx(before + 7 * (30 - 21.2), abs=0.02)
    assert [p.key for p in build.library.prices] == [key] and not build.library.prices[0].made_up
    hands.type_into(f"price/{key}", "lots")
    assert "write a price" in build.inspector._complaints[f"price/{key}"].text()
    hands.type_into(f"price/{key}", "30")
    QTest.mouseClick(table, Qt.MouseButton.LeftButton, pos=QPoint(9, row_of(table, key) * ROW + 9))
    assert workspace.computed.bill.line[key].left == 0
    hands.keys("Ctrl+Z")
    assert workspace.computed.bill.line[key].left == 7
    hands.type_into(f"takes-0/{key}", "7 1/2")
    assert workspace.project.build.sizes[0].takes == pytest.approx((0.1905,))
    hands.press(f"usual/{key}")
    assert workspace.project.build.sizes == ()
    workspace.select("saw-drop")
    items = [item for section in build.inspector._page.sections for item in section.items]
    shown = {item.value for item in items if isinstance(item, Fact)}
    assert "Blast gate 4 in, stepped" not in shown and any("Pipe 4 in" in value for value in shown)
    table.setFocus()
    workspace.choose_part(None)
    QTest.keyClick(table, Qt.Key.Key_Down)
    QTest.keyClick(table, Qt.Key.Key_Space)
    assert workspace.part == "bracket" and workspace.project.build.owned[0].bought == 1


def test_pieces_are_ticked_as_cut_and_runs_as_mounted_and_the_floor_shows_it(build, hands):
    workspace = build.workspace
    face(build, "cuts")
    bars = build.strip.bars
    piece, box = next((p, b) for *_, pieces in bars.boxes() for p, b in pieces if p.run == "main-4")
    QTest.mouseMove(bars, box.center().toPoint())
    assert bars.words_of(piece) in bars.toolTip() and "the main between" in bars.toolTip()
    QTest.mouseClick(bars, Qt.MouseButton.LeftButton, pos=box.center().toPoint())
    assert workspace.selection == "main-4"
    QTest.mouseClick(
        bars, Qt.MouseButton.LeftButton, pos=QPoint(round(box.left()) + 8, round(box.center().y()))
    )
    assert [c.piece for c in workspace.project.build.cut] == [piece.id]
    hands.choose("mounted/main-4", "done")
    hands.choose("sealed/main-4", "done")
    assert next(d for d in build.floor.scene.ducts if d.run == "main-4").state == "sealed"
    QTest.keyClick(bars, Qt.Key.Key_Space)
    assert not workspace.project.build.cut
    workspace.select(None)
    hands.type_into("stock/spiral-steel", "6 ft; 10'")
    assert [round(s.length, 3) for s in workspace.project.build.stock] == [1.829, 3.048]
    hands.type_into("offcuts/spiral-steel/0.1524", "4'; 4'")
    assert workspace.project.build.offcuts[0].count == 2
    hands.type_into("kerf", "2 m")
    assert "at most" in build.inspector._complaints["kerf"].text()
    assert workspace.selection is None and workspace.project.build.kerf < 0.01


def test_machines_are_dragged_to_another_step_and_phases_proposed(build, hands, qtbot):
    workspace = build.workspace
    face(build, "phases")
    stairs = build.strip.stairs
    chip = dict(stairs.chips())["planer"].center().toPoint()
    behind = stairs.step(1).center().toPoint()
    QTest.mousePress(stairs, Qt.MouseButton.LeftButton, pos=chip)
    QTest.mouseMove(stairs, behind)
    stairs.grab()
    QTest.mouseRelease(stairs, Qt.MouseButton.LeftButton, pos=behind)
    assert workspace.project.machine["planer"].phase == 2 and workspace.selection == "planer"
    qtbot.waitUntil(lambda: len(workspace.computed.phases) == 2, timeout=20_000)
    workspace.select("planer-drop")
    hands.press("planer-drop/up-to-here")
    assert workspace.project.run["planer-drop"].phase == 1
    hands.choose("planer-drop/phase", "with its machine: 2")
    assert workspace.project.run["planer-drop"].phase is None
    workspace.select(None)
    hands.type_into("phase-budget", "none of that")
    assert "write a price" in build.inspector._complaints["phase-budget"].text()
    hands.type_into("phase-budget", "0")
    assert "more than 0" in build.inspector._complaints["phase-budget"].text()
    hands.type_into("phase-budget", "2,100")
    qtbot.waitUntil(lambda: workspace.phase_budget is None, timeout=60_000)
    assert workspace.project.build.phases[0].budget == 2100
    hands.keys("Ctrl+Z")
    assert [p.budget for p in workspace.project.build.phases] == [None, None]
    hands.press("no-phases")
    assert workspace.project.build.phases == () and workspace.project.machine["planer"].phase == 1
    workspace.edit("No prices", lambda p: build_edits.with_build(p, prices=(), currency="CHF"))
    hands.type_into("phase-budget", "500")
    qtbot.waitUntil(
        lambda: "enter what the parts cost first" in build.banner.text.text(), timeout=20_000
    )


def test_a_gate_is_made_in_the_shop_and_bought_after_all(build, hands, tmp_path, monkeypatch):
    workspace = build.workspace
    workspace.select("gate-planer")
    hands.press("make/gate/gate-planer")
    assert workspace.project.gate["gate-planer"].leak == pytest.approx(4 * 0.0005 / 0.127)
    hands.type_into("made/gate/gate-planer/gap", "1 mm")
    assert workspace.project.gate["gate-planer"].leak == pytest.approx(4 * 0.001 / 0.127)
    hands.type_into("made/gate/gate-planer/gap", "20 mm")
    assert "it should be from" in build.inspector._complaints["made/gate/gate-planer/gap"].text()
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "gate.svg"), "")
    )
    hands.press("drawing/gate/gate-planer")
    assert "Sliding gate of plywood" in (tmp_path / "gate.svg").read_text()
    for kind, ending in DRAWINGS.items():
        name = str(tmp_path / f"made-{ending[1:]}")
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, n=name, k=kind: (n, k))
        hands.press("drawing/gate/gate-planer")
        assert Path(name + ending).stat().st_size > 1000
    text = PdfReader(tmp_path / "made-pdf.pdf").pages[0].extract_text()
    assert re.search(r"full size on Letter. Sheet A\d of \d", text)
    hands.press("unmake/gate/gate-planer")
    assert workspace.project == demo()
    for element in ("saw", "planer-hose", "cyclone", None):
        workspace.select(element)
        for key in [key for key in build.inspector.fields if key.startswith("make/")]:
            hands.press(key)
        build.grab()
    assert len(workspace.project.build.made) >= 6


def test_prices_are_read_from_a_file_and_taken_from_the_book(build, hands, tmp_path, monkeypatch):
    workspace, path = build.workspace, tmp_path / "prices.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(path), ""))
    do(build, "save-prices")
    whole = workspace.computed.bill.total
    workspace.edit("No prices", lambda p: build_edits.with_build(p, prices=()))
    usual = workspace.computed.bill
    assert (
        usual.by_usual == pytest.approx(usual.total) and "usual prices" in build.strip.head.text()
    )
    do(build, "read-prices")
    assert (
        workspace.computed.bill.total == pytest.approx(whole)
        and "prices read" in build.banner.text.text()
    )
    assert len(build.library.prices) == len(workspace.project.build.prices)
    workspace.edit("No prices", lambda p: build_edits.with_build(p, prices=()))
    hands.press("own-prices")
    assert workspace.computed.bill.total == pytest.approx(whole)
    path.write_text("nothing,here\n1,2\n")
    do(build, "read-prices")
    assert (
        "has no column 'part'" in build.banner.text.text()
        and workspace.computed.bill.total == pytest.approx(whole)
    )
    hands.type_into("currency", "euros")
    assert "currency" in build.inspector._complaints["currency"].text().lower()
    hands.type_into("currency", "chf")
    assert workspace.computed.bill.total == 0


def test_the_papers_are_shown_saved_and_read_back(build, hands, tmp_path, monkeypatch, qtbot):
    shown: list[PapersDialog] = []

    def shows(dialog):
        shown.append(dialog)

    monkeypatch.setattr(QDialog, "exec", shows)
    monkeypatch.setattr(QDialog, "deleteLater", lambda self: None)
    hands.keys("Ctrl+P")
    dialog = shown[0]
    assert dialog.size_name == "Letter" and len(dialog.pages) >= 10
    path = tmp_path / "papers.pdf"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    dialog.sheets.setCurrentText("A4")
    dialog.saving.emit(dialog.pages, "A4")
    read = PdfReader(path)
    assert len(read.pages) == len(dialog.pages)
    text = "\n".join(page.extract_text() for page in read.pages)
    for words in (
        "Tern Street Net Loft",
        "What to buy",
        "3 hp cyclone, 15 in impeller",
        "What to cut",
        "proven least",
        "Gates and levers",
        "for the electrician",
        "Page 1 of",
        "Saw's cabinet",
    ):
        assert words in text, words
    sizes = {
        tuple(sorted((round(float(p.mediabox.width)), round(float(p.mediabox.height)))))
        for p in read.pages
    }
    assert sizes == {(595, 842)}
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path), ""))
    dialog.saving.emit(dialog.pages, "A4")
    assert "is a folder" in dialog.complaint.text()
    # Whatever can be printed is shown before; what was cancelled has no pages to print.
    monkeypatch.setattr(build_dialogs, "patiently", lambda *given: None)
    for kind, count in (("The shop in space", 1), ("Machine cards", 2), ("Putting up", 0)):
        dialog.kind.setCurrentIndex(
            next(n for n in range(dialog.kind.count()) if dialog.kind.itemText(n).startswith(kind))
        )
        assert len(dialog.pages) == count or len(dialog.pages) > count == 2
        assert dialog.printer.isEnabled() == bool(dialog.pages) and not dialog.complaint.text()
    qtbot.addWidget(dialog)
    folder = tmp_path / "lists"
    folder.mkdir()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *a, **k: str(folder))
    do(build, "save-lists")
    assert "18 files saved" in build.banner.text.text() and (folder / "drawings.dxf").exists()
    # The plan alone, and of a shop where nothing is drawn yet.
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    for command in ("", "new-double-garage"):
        if command:
            build.workspace._saved = build.workspace.project
            do(build, command)
            hands.keys("Ctrl+P")
        dialog = shown[-1]
        dialog.kind.setCurrentText("The plan")
        dialog.saving.emit(dialog.pages, "A4")
        assert len(dialog.pages) == 1 and not dialog.complaint.text()
        words = PdfReader(path).pages[0].extract_text()
        assert "1 : " in words and ("Planer" in words) == (not command)


@pytest.mark.sweep
@pytest.mark.parametrize("size", ["A4", "Letter"])
def test_nothing_on_paper_is_clipped_and_a_hundred_millimetres_are(window, size):
    shops = [
        demo(),
        demo("allotment"),
        demo("empty"),
        build_edits.with_phase_of(demo(), ("saw",), 3),
        made_up(7),
    ]
    for project in shops:
        for page in pages(papers(assess(project), phase_facts(project)), size):
            for mark in page.marks:
                if isinstance(mark, Word):
                    wide = width(mark.text, mark.size, mark.bold)
                    left = mark.x - {"left": 0.0, "middle": wide / 2, "right": wide}[mark.align]
                    assert left >= MARGIN - 0.5 and left + wide <= page.wide - MARGIN + 0.5, mark
                    assert 0 < mark.y < page.tall
                elif isinstance(mark, Placed):
                    a, b, c, d = mark.drawing.bounds
                    assert mark.x + (c - a) * 1000 / mark.drawing.scale <= page.wide - MARGIN + 3, (
                        mark.drawing.title
                    )
                    assert mark.y - (d - b) * 1000 / mark.drawing.scale >= 0, mark.drawing.title
    plan = next(page for page in pages(papers(assess(demo())), size) if page.lying)
    image = picture(plan, 254.0).convertToFormat(
        QImage.Format.Format_Grayscale8
    )  # ten pixels a millimetre
    bar = next(m for m in plan.marks if type(m).__name__ == "Rule" and m.to_x - m.x == 100.0)
    y = round(bar.y * 10)
    dark = [x for x in range(round(bar.to_x * 10) + 8) if image.pixelColor(x, y).value() < 128]
    assert max(dark) - min(dark) == pytest.approx(1000, abs=4)


@pytest.mark.parametrize("size", ["A4", "Letter"])
def test_no_page_is_empty_and_no_drawing_runs_into_the_foot(window, size):
    for project in (demo(), demo("allotment"), made_up(7)):
        for page in pages(papers(assess(project)), size):
            foot = page.tall - FOOT
            words = [m for m in page.marks if isinstance(m, Word) and m.y < foot - 2]
            placed = [m for m in page.marks if isinstance(m, Placed)]
            assert placed or len(words) > 2, [word.text for word in words]
            assert all(mark.y + 9.5 <= foot for mark in placed), page.marks[0]


ON_PAPER = {
    "loft": demo,
    "allotment": lambda: demo("allotment"),
    "hall": lambda: hall(30),
    **{f"drawn {seed}": functools.partial(made_up, seed) for seed in (7, 12, 23)},
}


def lettering(page):
    """Everything that is written on a page, each with the outline (mm) of its letters."""

    def outline(text, x, y, size, align, turn=0.0, bold=False):
        wide = width(text, size, bold)
        left = {"left": 0.0, "middle": -wide / 2, "right": -wide}[align]
        # Capitals are 0.72 as high as the face is set.
        box = shapely.box(left + 0.05, -0.72 * size, left + wide - 0.05, 0.0)
        return shapely.affinity.translate(shapely.affinity.rotate(box, -turn, origin=(0, 0)), x, y)

    for mark in page.marks:
        if isinstance(mark, Word):
            at = (mark.x, mark.y, mark.size, mark.align, 0.0, mark.bold)
            yield mark.text, outline(mark.text, *at)
        elif isinstance(mark, Placed):
            drawing = mark.drawing
            left, low, _, _ = drawing.bounds
            mm = 1000 / drawing.scale
            for item in drawing.items:
                text = item
                if isinstance(item, Dimension):
                    text = dimension_text(item, drawing.scale)
                if isinstance(text, Text):
                    x, y = mark.x + (text.at[0] - left) * mm, mark.y - (text.at[1] - low) * mm
                    at = (x, y, text.size * CAP, text.anchor, text.turn, False)
                    yield text.text, outline(text.text, *at)


@pytest.mark.parametrize("units", ["us", "metric"])
@pytest.mark.parametrize("name", ON_PAPER)
def test_nothing_is_written_over_anything_on_any_page(window, name, units):
    project = edits.with_settings(ON_PAPER[name](), units=units)
    made = papers(assess(project), phase_facts(project))
    for size in ("A4", "Letter"):
        for number, page in enumerate(pages(made, size), 1):
            words, boxes = zip(*lettering(page), strict=True)
            sheet, tree = shapely.box(0, 0, page.wide, page.tall), shapely.STRtree(boxes)
            for one, box in enumerate(boxes):
                assert sheet.contains(box), (number, words[one])
                for other in tree.query(box):
                    over = box.intersection(boxes[other]).area if other > one else 0.0
                    assert over < 0.15, (number, words[one], words[other])


def test_a_plan_too_large_for_a_sheet_is_read_in_parts(window):
    """Every number of the cutting list once, on the part that shows its pipe."""
    project = hall(30)
    found = bill(project)
    plan, *_ = drawings(found)
    assert len(plan) > 2 and all(drawing.scale <= 100 for drawing in plan[1:])
    numbers = [
        item.text
        for drawing in plan
        for item in drawing.items
        if isinstance(item, Text) and item.text.isdigit()
    ]
    assert sorted(numbers, key=int) == [
        f"{number}" for number in sorted(numbered(found.cuts).values())
    ]


def test_papers_without_a_window_and_on_a_printer(tmp_path, monkeypatch, capsys):
    path = tmp_path / "out.pdf"
    made = pages(papers(assess(demo("allotment"))), "A4")
    save_pdf(made, path, "Shed")
    assert len(PdfReader(path).pages) == len(made)
    with pytest.raises(FileError, match="could not be saved"):
        save_pdf(made, tmp_path / "no" / "such.pdf", "Shed")
    from PyQt6.QtPrintSupport import QPrinter  # noqa: PLC0415

    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "printed.pdf"))
    print_pages(made, printer)
    assert len(PdfReader(tmp_path / "printed.pdf").pages) == len(made)
    monkeypatch.setattr(app, "QApplication", lambda *a: QApplication.instance())
    monkeypatch.setattr(app, "qInstallMessageHandler", lambda handler: None)
    assert (
        app.main([str(demo_path("loft")), "--papers", str(tmp_path / "loft.pdf"), "--letter"]) == 0
    )
    assert re.search(r"Page 1 of \d+", PdfReader(tmp_path / "loft.pdf").pages[0].extract_text())
    assert app.main([str(demo_path("loft")), "--papers", str(tmp_path / "no" / "x.pdf")]) == 2
    assert "could not be saved" in capsys.readouterr().err


@pytest.mark.sweep
def test_build_on_every_shop_and_with_nothing_there(window, hands, qtbot, tmp_path):
    for project in (
        demo("empty"),
        demo("allotment"),
        made_up(3),
        demo().replaced(machines=(), runs=(), points=(), gates=()),
    ):
        window.workspace.show_project(project, None)
        window.workspace.go("build")
        for name in ("parts", "cuts", "phases"):
            face(window, name)
            for key in ("Up", "Down", "Space", "Left"):
                window.strip.take_keys()
                QTest.keyClick(QApplication.focusWidget() or window, getattr(Qt.Key, f"Key_{key}"))
            window.grab()
        for element in (*project.element, None):
            window.workspace.select(element)
        hands.keys("Ctrl+U")
        window.search.find_all()
    none = build_edits.with_stock(demo(), "spiral-steel", (0.5,))
    none = build_edits.with_build(none, stock=(none.build.stock[0].replaced(diameter=0.2),))
    window.workspace.show_project(none, None)
    window.workspace.go("build")
    assert (
        "has no stock length" in window.strip.head.text()
        and "has no stock length" in window.inspector._page.subtitle
    )
    face(window, "cuts")
    hands.type_into("stock/spiral-steel", "10 ft")
    assert "proven least" in window.strip.head.text()


def test_from_the_plan_over_layout_and_price_to_phases_and_paper(
    window, hands, qtbot, tmp_path, monkeypatch
):
    """The whole journey: four walls, machines, ducts by search, prices from a file, phases for a
    budget, a PDF, a file."""
    do(window, "open-empty")
    workspace = window.workspace
    hands.keys("Ctrl+2")
    for name, x, y in (("Table saw", 2.6, 1.6), ("12 in planer", 4.0, 3.0)):
        hands.take(name)
        hands.click(x, y)
    hands.take("3 hp cyclone, 15 in impeller")
    hands.click(0.8, 0.8)
    hands.keys("Shift+D")
    qtbot.waitUntil(
        lambda: workspace.offer is not None and workspace.offer.complete, timeout=120_000
    )
    workspace.take(0)
    hands.keys("Ctrl+6")
    path = tmp_path / "prices.csv"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    do(window, "save-prices")
    rows = [line.split(",") for line in path.read_text().splitlines()]
    path.write_text("part,price\n" + "".join(f"{row[0]},10\n" for row in rows[1:]))
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(path), ""))
    do(window, "read-prices")
    assert not workspace.computed.bill.unpriced
    face(window, "phases")
    hands.type_into("phase-budget", f"{workspace.computed.bill.total * 0.7:.0f}")
    qtbot.waitUntil(lambda: workspace.phase_budget is None, timeout=60_000)
    assert len(workspace.project.build.phases) >= 2
    save_pdf(
        pages(papers(workspace.assessment.counted, phase_facts(workspace.project))),
        tmp_path / "p.pdf",
        "Shop",
    )
    assert "In phases" in "".join(
        page.extract_text() for page in PdfReader(tmp_path / "p.pdf").pages
    )
    saved = tmp_path / "shop.greycurrent.json"
    workspace.save(saved)
    assert bill(project_file.load(saved)).total == pytest.approx(workspace.computed.bill.total)


def test_another_shops_pieces_are_counted_as_there(window, hands, qtbot, tmp_path, monkeypatch):
    """File, Import: one step; the parts say what is there, the page what is left over."""
    old = tmp_path / "old.greycurrent.json"
    project_file.save(demo(), old)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(old), ""))
    workspace = window.workspace
    workspace.edit("Smaller", lambda p: edits.removed(p, ["gate-planer", "planer"]))
    before = workspace.project
    do(window, "read-pieces")
    assert "kinds of parts are there now" in window.banner.text.text()
    hands.keys("Ctrl+6")
    section = next(s for s in window.inspector._page.sections if s.title == "Left over")
    assert "to sell or keep" in section.summary
    # The gate that is gone from the drawing is there nevertheless.
    assert any("Blast gate" in line for line in left_over_lines(workspace.computed.bill))
    assert not out_of_sight(window)
    workspace.undo()
    assert workspace.project == before
    old.write_text("rubbish", encoding="utf-8")
    do(window, "read-pieces")
    assert "old.greycurrent.json" in window.banner.text.text()
    assert workspace.project == before

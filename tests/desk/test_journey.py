"""Whole jobs with mouse and keyboard. The same file runs off screen and, from test_real_window,
under Xvfb."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import QMimeData, QPointF, Qt, QTimer, QUrl
from PyQt6.QtGui import QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QInputDialog, QMessageBox, QPushButton

from grey_current.desk.strips.run_strip import RunStrip
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.places import distance, position
from grey_current.workspace import asking
from grey_current.workspace.jobs import HelpMachine
from tests.core.shops import demo
from tests.desk.conftest import begin_metric, do

PLANER = HelpMachine("planer")


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
    """Open the loft, run the planer, shorten its hose, see the air rise, undo, redo, save,
    reopen."""
    workspace = window.workspace
    hands.click_row("planer")
    assert workspace.running == ("planer",) and workspace.selection == "planer"
    before = workspace.scenario.airflow
    sentence = window.verdict_bar.sentence.text()
    assert sentence.startswith("Planer: ") and "Biggest loss: 10' 6\" of hose" in sentence

    hands.click_run("planer-hose")
    assert workspace.selection == "planer-hose"
    hands.type_into("planer-hose/length", "3' 8\"")
    assert workspace.scenario.airflow > before * 1.03
    assert window.verdict_bar.sentence.text() != sentence

    hands.keys("Ctrl+Z")
    assert abs(workspace.scenario.airflow - before) < 1e-9 * before + 1e-7
    assert window.verdict_bar.sentence.text() == sentence
    assert window.inspector.field("planer-hose/length").text() == "10' 6\""
    hands.keys("Ctrl+Shift+Z")
    better = workspace.scenario.airflow

    path = tmp_path / "loft.greycurrent.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    assert window.isWindowModified()
    hands.keys("Ctrl+S")
    assert path.exists() and not window.isWindowModified()

    do(window, "open-empty")
    assert workspace.project.name == "Empty Shop"
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(path), ""))
    hands.keys("Ctrl+O")
    assert workspace.project.name == "Tern Street Net Loft" and workspace.path == path
    hands.click_row("planer")
    assert abs(workspace.scenario.airflow - better) < 1e-6
    assert window.settings.recent[0] == path


def test_the_first_lever_is_one_click_and_one_undo(window, hands, qtbot):
    """Run the planer, wait for what would help most, click it, get all the air, take it back."""
    workspace = window.workspace
    hands.click_row("planer")
    before = workspace.project
    qtbot.waitUntil(
        lambda: workspace.computed.known_improvements(PLANER) is not None, timeout=20_000
    )
    button = window.inspector.field("planer/lever-1")
    assert "the miter saw's gate" in button.words() and "all that it needs" in button.words()
    lever = workspace.computed.known_improvements(PLANER)[0]
    flow = workspace.scenario.airflow
    hands.press("planer/lever-1")
    assert abs(workspace.scenario.airflow - flow - lever.gain) < 1e-6
    assert workspace.undo_label == lever.words and workspace.scenario.worst.met
    assert workspace.computed.known_improvements(PLANER) is None
    hands.keys("Ctrl+Z")
    assert workspace.project == before
    workspace.edit("Shorten", lambda p: edits.with_hose_length(p, "planer-hose", 2.0))
    window.on_job_done(workspace.revision - 1, PLANER, [lever])
    assert workspace.computed.known_improvements(PLANER) is None


def test_every_first_edit_shows_at_once_and_undoes(window, hands):
    """School, units, pipe, gate, collector, a dragged machine, a nudge, a need: each one step, each
    undone."""
    workspace = window.workspace
    start = workspace.project
    hands.click_row("saw")

    def sentence() -> str:
        return window.verdict_bar.sentence.text()

    first = sentence()
    steps = [
        (
            lambda: hands.keys("Ctrl+D"),
            lambda: workspace.project.settings.criterion == "catch fine dust",
        ),
        (lambda: hands.keys("Ctrl+U"), lambda: "m³/h" in sentence()),
        (
            lambda: (workspace.select("saw-branch"), hands.choose("saw-branch/diameter", "5 in")),
            lambda: abs(workspace.project.run["saw-branch"].diameter - 0.127) < 1e-4,
        ),
        (
            lambda: (
                workspace.select("gate-mitre"),
                hands.choose("gate-mitre/rule", "opens with its machine"),
            ),
            lambda: "gate-open" not in {f.code for f in workspace.findings},
        ),
        (
            lambda: (
                workspace.select("cyclone"),
                hands.choose("cyclone/model", "5 hp cyclone, 15 1/2 in impeller"),
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
    for act, holds in steps:
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
    do(window, "open-allotment")
    assert workspace.project.name == "Tern Street Net Loft" and workspace.dirty
    answer_next_box(QMessageBox.StandardButton.Discard)
    do(window, "open-allotment")
    assert workspace.project.name == "Allotment Shed"
    path = tmp_path / "dropped.greycurrent.json"
    project_file.save(demo("loft"), path)
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path))])
    drop = QDropEvent(
        QPointF(300, 300),
        Qt.DropAction.CopyAction,
        data,
        Qt.MouseButton.LeftButton,
        Qt.KeyboardModifier.NoModifier,
    )
    window.dropEvent(drop)
    assert workspace.path == path
    assert [path.name for path in window.settings.recent] == ["dropped.greycurrent.json"]
    workspace.select("planer-hose")
    hands.type_into("planer-hose/length", "4 ft")
    answer_next_box(QMessageBox.StandardButton.Save)
    assert window.close()
    assert abs(project_file.load(path).run["planer-hose"].length - 4 * 0.3048) < 1e-9


def test_an_l_shaped_shop_from_four_walls(window, hands, tmp_path, monkeypatch):
    """Empty Shop to an L with a post, a roll-up door and three machines, by mouse and keyboard,
    saved, reopened."""
    workspace = window.workspace
    workspace._saved = workspace.project
    begin_metric(window)
    assert workspace.stage == "shop" and "length and width" in window.stage_bar.next.text()
    hands.type_into("room/length", "7.2 m")
    hands.type_into("room/width", "5 m")
    hands.keys("F")
    hands.click(3.6, 5.0)
    assert workspace.selection == "room/wall-3"
    hands.press("room/wall-3/split")
    hands.click(1.8, 5.0)
    hands.press_drag_type((1.8, 5.0), (1.8, 4.0), "4.9213 ft")
    corners = workspace.project.rooms[0].outline
    assert len(corners) == 6
    assert {y for _, y in corners} == {0.0, 3.5, 5.0}
    hands.take("Roll-up door")
    hands.click(7.15, 2.2)
    hands.type_into("roll-up-door/width", "2.2 m")
    hands.take("Post")
    hands.click(4.5, 2.6)
    door = workspace.project.openings[0]
    assert {door.start[0], door.end[0]} == {7.2}
    assert abs(abs(door.end[1] - door.start[1]) - 2.2) < 1e-3

    hands.keys("Ctrl+2")
    for name, x, y in (("Table saw", 3.0, 1.6), ("6 in jointer", 1.2, 0.8)):
        hands.take(name)
        hands.click(x, y)
    window.strip.search.setText("drill")
    card = window.strip.card("Drill press")
    assert not window.strip.card("Table saw").isVisible()
    card.setFocus()
    QTest.keyClick(card, Qt.Key.Key_Return)
    assert [m.name for m in workspace.project.machines] == [
        "Table saw",
        "150 mm jointer",
        "Drill press",
    ]
    press = workspace.project.machine["drill-press"]
    hands.keys("Shift+R")
    hands.keys("R")
    assert workspace.project.machine["drill-press"].turn == (press.turn + 105) % 360
    hands.keys("Ctrl+Z")
    hands.keys("Ctrl+Z")

    hands.drag("drill-press", 6.5 - press.x, 4.5 - press.y, corner=(0.18, 0.3))
    workspace.select("table-saw")
    hands.keys("R")
    hands.keys("R")
    hands.keys("R")
    saw = workspace.project.machine["table-saw"]
    hands.drag("table-saw", 0.0, 1.9 - saw.y, corner=(saw.width / 2, saw.depth / 2))
    lane = workspace.space.lane(workspace.project.machine["table-saw"])
    assert lane.through == ("roll-up-door",) and lane.longest > 2.4
    assert any(
        "Boards pass through the roll-up door." in f[1].text() for f in window.inspector._values
    )

    workspace.select("6-in-jointer")
    x = workspace.project.machine["6-in-jointer"].x
    window.floor.setFocus()
    QTest.keyClick(window.floor, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    assert abs(workspace.project.machine["6-in-jointer"].x - x - 0.1) < 1e-6
    hands.keys("Ctrl+C")
    hands.keys("Ctrl+V")
    assert len(workspace.project.machines) == 4 and workspace.selection == "6-in-jointer-2"
    hands.keys("Del")
    assert len(workspace.project.machines) == 3
    hands.keys("Ctrl+A")
    hands.keys("Ctrl+Shift+Y")
    assert len({m.y for m in workspace.project.machines}) == 1
    hands.keys("Ctrl+Z")
    workspace.select("table-saw")
    hands.press("table-saw/park")
    assert workspace.project.machine["table-saw"].wheels
    do(window, "keep-machine")
    assert window.strip.cards[0].placing.title == "Table saw"
    cards = len(window.strip.cards)
    monkeypatch.setattr(QInputDialog, "getItem", lambda *a: (a[3][0], True))
    do(window, "forget-kept")
    assert len(window.strip.cards) == cards - 1 and window.library.machines == ()
    do(window, "forget-kept")
    assert "nothing is kept" in window.banner.text.text()

    path = tmp_path / "ell.greycurrent.json"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(path), ""))
    hands.keys("Ctrl+S")
    before = workspace.project
    do(window, "open-loft")
    assert window.attempt(lambda: window.files.open(path)) and workspace.project == before
    assert workspace.stage == "air"


def test_from_four_walls_to_air_at_every_machine(window, hands, tmp_path, qtbot):
    """Empty Shop, three machines, a collector, a main drawn by clicks, three branches that make
    themselves."""
    workspace = window.workspace
    begin_metric(window)
    hands.keys("Ctrl+2")
    for name, x, y in (
        ("Table saw", 3.2, 1.0),
        ("12 in planer", 4.6, 3.2),
        ("Spindle sander", 2.4, 3.3),
        ("3 hp cyclone, 15 in impeller", 0.5, 2.2),
    ):
        hands.take(name)
        hands.click(x, y)
    assert workspace.project.collectors[0].id == "3-hp-cyclone-375-mm-impeller"
    hands.keys("D")
    assert workspace.stage == "air" and "Click the collector" in window.stage_bar.next.text()
    hands.click(0.5, 2.2)
    QTest.mouseMove(window.floor, hands.spot(4.0, 2.3))
    window.floor.grab()
    hands.click(5.4, 2.2)
    assert [r.id for r in workspace.project.runs] == ["inlet", "riser", "main"]
    hands.click(5.4, 2.2)
    assert "same place" in window.banner.text.text()
    hands.keys("Esc")
    assert workspace.placing is None
    window.search.find_all()
    assert "Connect what is not connected" in window.stage_bar.next.text()
    saw, planer, sander = workspace.project.machines
    for machine in (saw, planer):
        workspace.select(machine.id)
        for pickup in machine.pickups[:1]:
            hands.press(f"{machine.id}/{pickup.id}/connect")
            assert workspace.undo_label == f"Connect the {machine.name.lower()}"
    hands.keys("D")
    hands.click(*position(workspace.project, f"{sander.id}/{sander.pickups[0].id}")[:2])
    assert workspace.undo_label == "Connect the spindle sander"
    hands.keys("Esc")
    answers = {
        m: workspace.assessment.of_machine[m]
        for m in ("table-saw", "12-in-planer", "spindle-sander")
    }
    assert all(a.converged and a.pickups[0].airflow > 0.03 for a in answers.values())
    assert len(workspace.project.gates) == 3
    explained = {
        f.element for f in workspace.findings if f.code in ("short", "starved", "not-connected")
    }
    for answer in workspace.assessment.counted.answers:
        assert all(p.met or f"{p.machine}/{p.pickup}" in explained for p in answer.pickups)
    hands.click_row("table-saw")
    drawn = workspace.project
    asked = HelpMachine("table-saw")
    qtbot.waitUntil(
        lambda: workspace.computed.known_improvements(asked) is not None, timeout=20_000
    )
    first = workspace.computed.known_improvements(asked)[0]
    hands.press("table-saw/lever-1")
    assert workspace.project != drawn and workspace.undo_label == first.words
    hands.keys("Ctrl+Z")
    assert workspace.project == drawn
    hands.click_row("12-in-planer")
    assert "300 mm planer: " in window.verdict_bar.sentence.text()
    path = tmp_path / "new.greycurrent.json"
    assert window.files.save_to(path)
    flows = {m: a.pickups[0].airflow for m, a in answers.items()}
    do(window, "open-empty")
    assert window.attempt(lambda: window.files.open(path))
    for machine, flow in flows.items():
        assert abs(workspace.assessment.of_machine[machine].pickups[0].airflow - flow) < 1e-9
    workspace.select("riser")
    hands.keys("Del")
    assert workspace.assessment.of_machine["table-saw"].pickups[0].leaf is None


def test_two_designs_compared_from_keeping_one_to_bringing_it_back(window, hands):
    """Keep the loft as it is, mend the hose and the open gate, compare, bring the old one back,
    undo it all."""
    workspace = window.workspace
    hands.keys("Esc")
    hands.press("keep-design")
    workspace.select("planer-hose")
    hands.type_into("planer-hose/length", "3' 4\"")
    workspace.select("gate-mitre")
    hands.choose("gate-mitre/rule", "opens with its machine")
    hands.keys("Esc")
    hands.press("design-a/compare")
    strip = window.strip
    assert window.strips.currentWidget() is strip
    assert strip.head.text().startswith("Design A: air enough for 4 of 8, chips carried for 0.")
    assert "As drawn now: air enough for 7 of 8" in strip.head.text()
    rows = {row.machine: row for row in strip.rows.rows}
    assert rows["planer"].change > 0.05 and "lathe" not in rows
    strip.grab()
    QTest.mouseClick(strip.rows, Qt.MouseButton.LeftButton, pos=QPointF(30, 17 * 1.5).toPoint())
    assert workspace.selection == "planer"
    hands.keys("Esc")
    hands.type_into("design-a/design-name", "As found")
    hands.press("design-a/bring-back")
    assert [v.name for v in workspace.project.kept_designs] == ["As found", "Design A"]
    assert all(row.change in (None, 0.0) or abs(row.change) < 1e-9 for row in strip.rows.rows)
    hands.press(f"{workspace.project.kept_designs[1].id}/drop")
    QTest.mouseClick(strip.findChild(QPushButton), Qt.MouseButton.LeftButton)
    assert workspace.comparison is None and isinstance(window.strip, RunStrip)
    while workspace.undo_label:
        hands.keys("Ctrl+Z")
    assert workspace.project == demo()


def test_a_hose_dragged_shorter_in_the_run_strip(window, hands):
    """Run the planer, take the hose's end in the strip and drag it: one gesture, one undo, never
    under its way."""
    workspace, strip = window.workspace, window.strip
    hands.click_row("planer")
    index = next(i for i, piece in enumerate(strip.facts.pieces) if piece.kind == "hose")
    right, y = strip.spans()[index][1], strip.height() // 2
    before = workspace.scenario.airflow
    QTest.mousePress(strip, Qt.MouseButton.LeftButton, pos=QPointF(right, y).toPoint())
    for x in (right - 20, right - 45):
        QTest.mouseMove(strip, QPointF(x, y).toPoint())
    assert workspace.in_gesture and workspace.scenario.airflow > before
    strip._drag_hose(replace(strip._hose, scale=1.0), right + 500)
    assert "hose" in window.banner.text.text() and workspace.project.run["planer-hose"].length < 3
    QTest.mouseMove(strip, QPointF(5, y).toPoint())
    QTest.mouseRelease(strip, Qt.MouseButton.LeftButton, pos=QPointF(5, y).toPoint())
    hose = workspace.project.run["planer-hose"]
    assert abs(hose.length - distance(workspace.project, hose)) < 0.03
    assert workspace.undo_label == "Change the hose" and workspace.selection == "planer-hose"
    hands.keys("Ctrl+Z")
    assert workspace.project == demo()


def test_a_part_made_otherwise_and_parts_added(window, hands, qtbot):
    """Choose another elbow by its computed difference; add a clean-out, a stub, a gate; place a
    gate at the wye."""
    workspace = window.workspace

    def choose_first(element):
        workspace.select(element)
        qtbot.waitUntil(
            lambda: workspace.computed.known_improvements(asking.job(workspace)) is not None,
            timeout=20_000,
        )
        return workspace.computed.known_improvements(asking.job(workspace))

    choices = choose_first("planer-top")
    mitre = next(n for n, c in enumerate(choices, 1) if c.words == "Mitered elbow")
    assert "−20 CFM" in window.inspector.field(f"planer-top/lever-{mitre}").words()
    before = workspace.assessment.of_machine["planer"].worst.airflow
    hands.press(f"planer-top/lever-{mitre}")
    after = workspace.assessment.of_machine["planer"].worst.airflow
    assert (
        abs(after - before - choices[mitre - 1].gain) < 1e-6
        and workspace.undo_label == "Mitered elbow"
    )
    assert [c.words for c in choose_first("gate-jointer")][:3] == [
        "At the tool",
        "At the wye",
        "One at each",
    ]
    hands.press("gate-jointer/lever-2")
    for element, key in (("jointer-foot", "clean-out"), ("main-7", "stub"), ("main-7", "gate")):
        workspace.select(element)
        count = len(workspace.project.runs) + len(workspace.project.gates)
        hands.press(f"{element}/{key}")
        assert len(workspace.project.runs) + len(workspace.project.gates) > count
    workspace.go("build")
    workspace.select(None)
    hands.press("main-end/main-8")
    assert any(point.id == "main-end-clean-out" for point in workspace.project.points)
    page = window.inspector._page
    ends = next(section for section in page.sections if section.title == "Clean-outs")
    assert ends.items[0].value == "it has one"
    workspace.go("machines")
    workspace.select("planer")
    hands.choose("planer/hood/port-end", "a socket: pipe goes into it")
    assert workspace.project.pickup["planer/hood"][1].port_end == "socket"
    hands.choose("planer/hood/fan", "a chip fan, into its own bag")
    assert workspace.project.pickup["planer/hood"][1].own_bag
    workspace.select("gate-jointer")
    hands.type_into("gate-jointer/opening", "50 %")
    hands.type_into("gate-jointer/leak", "0.1")
    gate = workspace.project.gate["gate-jointer"]
    assert (gate.opening, gate.leak) == (0.5, 0.001)
    hands.type_into("gate-jointer/leak", "much")
    assert workspace.project.gate["gate-jointer"] == gate


def test_one_hose_for_a_shed(window, hands):
    """In the shed: see whom the hose reaches, give it quick connectors, take it off one machine,
    put it on again."""
    workspace = window.workspace
    do(window, "open-allotment")
    workspace.select("hose")
    hands.choose("hose/coupling", "quick connectors")
    hands.type_into("hose/seconds", "20 s")
    run = workspace.project.run["hose"]
    assert (run.coupling, run.swap_seconds) == ("quick", 20)
    hands.press("hose/reach")
    assert window.floor.scene.reach and workspace.reached.share > 0.5
    hands.press("hose/reach")
    assert not window.floor.scene.reach
    hands.choose("hose/hangs", "from a hook, rail or arm")
    hung = workspace.project.run["hose"]
    assert hung.hung is not None and hung.length > run.length
    hands.type_into("hose/hung", "9")
    assert "the ceiling is at 2.25 m" in window.inspector._complaints["hose/hung"].text()
    hands.choose("hose/hangs", "as it will")
    workspace.undo()
    workspace.undo()
    assert workspace.project.run["hose"] == run
    hands.press("hose/no-longer-bandsaw/lower")
    assert "bandsaw/lower" not in workspace.project.run["hose"].also_serves
    hands.choose("hose/also", "Bandsaw")
    assert workspace.project.run["hose"].also_serves[-1] == "bandsaw/lower"


def test_a_main_drawn_at_a_height_along_the_wall_and_a_branch_from_its_middle(window, hands):
    """Draw at four feet from the loft's main, snap along the wall, begin another branch halfway,
    refuse the chimney."""
    workspace, floor = window.workspace, window.floor
    hands.keys("D")
    hands.choose("draw/level", "at a height of…")
    hands.type_into("draw/height", "4'")
    hands.choose("draw/diameter", "4 in")
    assert (
        workspace.drawing.height == 4 * 0.3048 and abs(workspace.drawing.diameter - 0.1016) < 1e-6
    )
    main = workspace.project.run["main-3"]
    a, b = position(workspace.project, main.start), position(workspace.project, main.end)
    count = len(workspace.project.runs)
    hands.click((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
    hands.click((a[0] + b[0]) / 2 - 0.02, 0.12)
    QTest.mouseMove(floor, hands.spot(5.0, 1.0))
    floor.grab()
    made = workspace.project.points[-1]
    assert len(workspace.project.runs) == count + 3 and made.height == 4 * 0.3048
    assert abs(made.y - (0.0508 + 0.05)) < 0.01
    before = workspace.project
    hands.click(6.2, made.y)
    assert workspace.project == before and "through the chimney breast" in window.banner.text.text()
    hands.click(2.0, made.y)
    assert abs(workspace.project.points[-1].x - 2.0) < 0.03 and not window.banner.isVisible()
    hands.keys("Esc")
    assert workspace.placing is None


def test_three_collectors_compared_one_chosen_and_taken_back(
    window, hands, qtbot, tmp_path, monkeypatch
):
    """In the loft: what the collector must do, three curves on one chart, put the larger one in,
    see it, undo."""
    workspace = window.workspace
    hands.keys("Ctrl+3")
    qtbot.waitUntil(lambda: asking.known_sizing(workspace) is not None, timeout=20_000)
    sizing = asking.known_sizing(workspace)
    assert sizing.hardest.scenario.running == ("saw",)
    chart = window.strip
    assert window.strips.currentWidget() is chart and chart.head.text().startswith("Hardest: Saw, ")
    assert len(chart.shown) == 3 and {line.kind for line in chart.facts.lines} >= {
        "seasoned",
        "loaded",
        "other",
        "system",
    }
    QTest.mouseClick(
        chart.table, Qt.MouseButton.LeftButton, pos=QPointF(60, 19 * 1.6 + 19 * 3.5).toPoint()
    )
    assert sizing.offers[3].model in chart.shown
    dot = next(d for d in chart.facts.dots if d.kind == "works" and d.name == "Planer")
    assert chart.told(dot.airflow, dot.pressure).startswith("Planer works at ")
    box = chart.plot.getViewBox()
    box.setXRange(0, 10)
    viewport = chart.plot.viewport()
    QTest.mouseDClick(viewport, Qt.MouseButton.LeftButton, pos=viewport.rect().center())
    QTest.mouseClick(viewport, Qt.MouseButton.LeftButton, pos=viewport.rect().center())
    assert box.viewRange()[0][1] > 1000
    chart.grab()
    before, sentence = workspace.project, window.verdict_bar.sentence.text()
    hands.press("offer/5 hp cyclone, 15 1/2 in impeller")
    assert workspace.project.collectors[0].model.startswith("5 hp")
    assert (
        window.verdict_bar.sentence.text() != sentence
        and "5 of 8" in window.verdict_bar.sentence.text()
    )
    hands.keys("Ctrl+Z")
    assert workspace.project == before and window.verdict_bar.sentence.text() == sentence
    qtbot.waitUntil(lambda: asking.known_sizing(workspace) is not None, timeout=20_000)
    workspace.switch_on(("jointer", "sander"))
    hands.press("together")
    qtbot.waitUntil(lambda: asking.known_sizing(workspace) is not None, timeout=20_000)
    assert ("jointer", "sander") in [
        r.scenario.running for r in asking.known_sizing(workspace).requirements
    ]
    hands.press("apart/jointer-sander")
    assert workspace.project.settings.together == ()
    qtbot.waitUntil(lambda: asking.known_sizing(workspace) is not None, timeout=20_000)
    hands.press("way/One hose moved about")
    assert workspace.project.kept_designs[0].name == "One hose moved about"
    csv = tmp_path / "fan.csv"
    csv.write_text("airflow CFM,pressure inH2O\n0,16\n600,13\n1300,2\n")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a, **k: (str(csv), ""))
    do(window, "read-curve")
    assert len(workspace.project.collectors[0].fan.points) == 3
    hands.type_into("cyclone/curve", "0 at 15; 700 at 12; 1200 at 3")
    hands.type_into("cyclone/loading", "100 %")
    hands.type_into("cyclone/impeller-ratio", "1000 %")
    assert workspace.project.collectors[0].fan.impeller_ratio == 1.0
    hands.choose("cyclone/stands", "in the room")
    hands.choose("cyclone/separator", "drum lid")
    hands.choose("cyclone/filter", "bag")
    hands.choose("cyclone/known-by", "its maker's claim")
    hands.type_into("cyclone/free-air", "1500 CFM")
    assert (
        workspace.project.collectors[0].fan.by == "claim"
        and workspace.project.collectors[0].separator.kind == "drum lid"
    )
    do(window, "keep-collector")
    assert [m.model for m in workspace.own_models] == ["Cyclone"]
    picture = tmp_path / "chart.png"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(picture), ""))
    do(window, "save-chart")
    assert picture.stat().st_size > 2000
    csv.write_text("CFM,Pa\n0,zero\n")
    do(window, "read-curve")
    assert "line 2, column 2" in window.banner.text.text()
    while workspace.undo_label:
        hands.keys("Ctrl+Z")
    assert workspace.project == demo()


def test_the_first_collector_is_chosen_before_there_is_any(window, hands, qtbot):
    """Three machines on an empty floor: what one must do, estimated; put one in with its button."""
    workspace = window.workspace
    begin_metric(window)
    hands.keys("Ctrl+2")
    for name, x, y in (("Table saw", 3.2, 1.0), ("12 in planer", 4.6, 3.2)):
        hands.take(name)
        hands.click(x, y)
    workspace.select(None)
    hands.keys("Ctrl+3")
    qtbot.waitUntil(lambda: asking.known_sizing(workspace) is not None, timeout=20_000)
    assert "an estimate: its duct is not drawn yet" in window.strip.head.text()
    offer = asking.known_sizing(workspace).offers[0]
    hands.press(f"offer/{offer.model}")
    assert [c.model for c in workspace.project.collectors] == [offer.model]
    hands.keys("Ctrl+U")
    qtbot.waitUntil(lambda: asking.known_sizing(workspace) is not None, timeout=20_000)
    assert "CFM" in window.strip.head.text()
    do(window, "theme")
    window.strip.grab()

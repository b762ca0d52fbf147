"""The Work stage at the window: a day typed, ordered and cleared, the card in large, cards and
calendars in files."""

from __future__ import annotations

import pytest
from pypdf import PdfReader
from PyQt6.QtCore import QEvent, QMimeData, QPoint, QPointF, Qt
from PyQt6.QtGui import QDrag, QDragEnterEvent, QDropEvent, QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QDialog, QFileDialog

from grey_current.desk import app
from grey_current.desk.inspector.fields import Fact, Table
from grey_current.desk.plain import MACHINE_DRAG
from grey_current.files import project_file
from grey_current.shop.demo_shops import demo_path
from grey_current.shop.edits import changed, removed
from grey_current.shop.work_edits import with_work
from grey_current.work.day_plan import ALL_GONE
from tests.core.shops import demo, made_up
from tests.desk.conftest import do


@pytest.fixture
def work(window, hands, qtbot):
    """The window at the Work stage with its answers in."""
    hands.keys("Ctrl+7")
    qtbot.waitUntil(lambda: complete(window), timeout=60_000)
    return window


def complete(window):
    found = window.workspace.computed.worked
    return found is not None and found.complete and found.day.project == window.workspace.project


def log_today(window):
    sections = window.inspector._page.sections
    return next(i for s in sections for i in s.items if getattr(i, "key", "") == "log-today")


def test_a_day_is_typed_ordered_and_its_dust_cleared(work, hands, qtbot, tmp_path, monkeypatch):
    workspace = work.workspace
    jotted = ", ".join(["saw 20 min, planer 5 walnut"] * 9)
    hands.type_into("day", f"{jotted}, sand 40, glue 10, saw 5")
    assert len(workspace.project.work.day) == 21
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)
    saved = workspace.computed.worked.saved
    assert saved >= 180
    hands.press("better-order")
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)
    assert (
        workspace.computed.worked.saved < saved - 180
        and workspace.undo_label == "Take the better order"
    )
    before = workspace.computed.worked.room.dose("loft")
    close = next(
        k
        for k in work.inspector.fields
        if k.startswith("room-change-") and "cleaner" in work.inspector.fields[k].words()
    )
    hands.press(close)
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)
    found = workspace.computed.worked
    assert found.room.dose("loft") < before and len(workspace.project.work.cleaners) == 1
    if "run-on-cleaners" in work.inspector.fields:
        hands.press("run-on-cleaners")
        assert workspace.project.work.cleaners[0].runs_on == pytest.approx(
            found.room.decay / 60, abs=1
        )
    hands.choose("limit", "WHO, fine dust: 0.015")
    hands.choose("respirator", "FFP3")
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)
    assert "over the reference" in work.inspector._page.answer
    hands.type_into("day", "saw -5 min")
    assert "more than 0" in work.inspector._page.sections[1].items[1].value
    hands.type_into("day", "boat 5")
    assert "is no one machine" in work.inspector._complaints["day"].text()
    hands.type_into("windows", "900")
    assert "at most 20" in work.inspector._complaints["windows"].text()
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "cards.pdf"), "")
    )
    do(work, "cards")
    text = "".join(page.extract_text() for page in PdfReader(tmp_path / "cards.pdf").pages)
    assert "Open: Miter saw, Planer. Shut all others." in text and "No nails" in text
    workspace.save(tmp_path / "day.greycurrent.json")
    assert project_file.load(tmp_path / "day.greycurrent.json").work == workspace.project.work


def test_a_line_that_is_not_understood_is_marked_with_a_guess(work, hands):
    workspace = work.workspace
    hands.type_into("day", "saw 20, plnaer 25 walnut, boat 5")
    assert [job.machine for job in workspace.project.work.day] == ["saw"]
    assert "plnaer 25 walnut" in work.inspector.field("day").text()
    assert work.inspector.field("unread/0/take").words() == "Take it as: planer 25 min walnut"
    hands.press("unread/0/take")
    assert [job.machine for job in workspace.project.work.day] == ["saw", "planer"]
    hands.press("unread/0/drop")
    assert not workspace.project.work.unread and "boat" not in work.inspector.field("day").text()
    workspace.undo()
    workspace.undo()
    assert [line.text for line in workspace.project.work.unread] == ["plnaer 25 walnut", "boat 5"]


def test_whose_dust_it_is_and_when_to_varnish_are_said(work, hands, qtbot):
    workspace = work.workspace
    hands.type_into("day", "sand 40")
    for _ in range(2):
        hands.press("by-hand/hand-sand")
    hands.press("by-hand/hand-finish")
    do(work, "undo")
    hands.press("by-hand/hand-finish")
    jobs = [(job.machine, job.minutes) for job in workspace.project.work.day]
    assert jobs == [("sander", 40), ("hand-sand", 20), ("hand-finish", 10)]
    hands.type_into("day", "sand 40, hand sanding 20, finish 10, saw 10")
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)
    page = work.inspector._page
    rows = {
        s.title: [(i.label, i.value) for i in s.items if isinstance(i, Fact)] for s in page.sections
    }
    whose = next(
        i for s in page.sections if s.title == "Whose dust" for i in s.items if isinstance(i, Table)
    )
    assert whose.headings == ("Operation", "now", "with it")
    shown = {name: (int(now[:-1]), int(then[:-1])) for name, now, then in whose.rows}
    assert "Hand sanding, 20 min: nothing catches it" in shown
    total = shown.pop("All together")
    assert total[0] == 100 == pytest.approx(sum(now for now, _ in shown.values()), abs=2)
    assert total[1] == pytest.approx(sum(then for _, then in shown.values()), abs=2) and (
        total[1] < 100
    )
    # Another change leaves other dust.
    other = work.inspector.field("dust-after").itemText(1)
    hands.choose("dust-after", other)
    again = next(
        i
        for s in work.inspector._page.sections
        if s.title == "Whose dust"
        for i in s.items
        if isinstance(i, Table)
    )
    assert workspace.dust_after == other and again.rows != whose.rows
    assert "after work" in dict(rows["When to varnish"])["Clean enough"]
    # The stove: a cyclone that takes the air away is not left on beside it.
    assert not any("left on" in label for label, _ in rows["When to varnish"])
    assert any("saw is used after the finishing" in value for _, value in rows["When to varnish"])
    workspace.edit(
        "Stay in", lambda p: changed(p, "cyclone", exhausts="into the shop", stands="in the room")
    )
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)
    rows = {
        s.title: [i.label for i in s.items if isinstance(i, Fact)]
        for s in work.inspector._page.sections
    }
    assert "With the cyclone left on" in rows["When to varnish"]


def test_the_floor_is_tinted_along_the_day(work, hands):
    workspace, strip = work.workspace, work.strip
    step = next(s for s in workspace.computed.worked.day.steps if s.machine == "planer")
    QTest.mouseClick(
        strip,
        Qt.MouseButton.LeftButton,
        pos=QPoint(round(strip.x_of((step.starts + step.ends) / 2)), 40),
    )
    assert workspace.chosen_job == step.job and step.starts < workspace.clock < step.ends
    clean = work.floor.grab().toImage()
    QTest.mousePress(strip, Qt.MouseButton.LeftButton, pos=QPoint(round(strip.x_of(0)) + 1, 120))
    QTest.mouseMove(strip, QPoint(round(strip.x_of(6000)), 120))
    QTest.mouseRelease(strip, Qt.MouseButton.LeftButton, pos=QPoint(round(strip.x_of(6000)), 120))
    assert work.floor.grab().toImage() != clean and "mg/m³ of fine dust" in strip._head()
    QTest.keyClick(strip, Qt.Key.Key_Right)
    QTest.keyClick(strip, Qt.Key.Key_Left)
    strip.grab()
    workspace.go("air")
    assert workspace.clock is None


def more(work, machine):
    """Click a row's button for ten more minutes."""
    row = work.rack.row(machine)
    QTest.mouseClick(row, Qt.MouseButton.LeftButton, pos=row.more_box.center().toPoint())


def test_a_day_is_logged_in_five_clicks(window, hands, qtbot):
    workspace = window.workspace
    workspace.edit("None", lambda p: with_work(p, day=()))
    QTest.mouseClick(window.stage_bar.tabs["work"], Qt.MouseButton.LeftButton)
    assert workspace.stage == "work"
    more(window, "saw")
    planer = workspace.project.machine["planer"]
    hands.click(planer.x, planer.y)
    hands.click(planer.x, planer.y)
    day = workspace.project.work.day
    assert [(job.machine, job.minutes) for job in day] == [("saw", 10), ("planer", 20)]
    assert workspace.undo_label == "Ten more minutes at the planer" and workspace.chosen_job == 1
    hands.press("log-today")
    entries = workspace.project.keep.entries
    assert entries[-1].kind == "worked" and entries[-1].hours == pytest.approx(0.5, abs=0.1)
    assert workspace.project.work.logged == day
    hands.press("emptied/cyclone")
    assert workspace.project.keep.entries[-1].kind == "bin emptied"
    # A new day like the last one, and one that is kept.
    hands.type_into("keep-day", "Saturday")
    workspace.edit("None", lambda p: with_work(p, day=()))
    hands.press("as-last-time")
    assert workspace.project.work.day == day
    workspace.edit("None", lambda p: with_work(p, day=()))
    hands.press("day/Saturday")
    assert workspace.project.work.day == day
    hands.press("drop-day/Saturday")
    assert workspace.project.work.days == ()
    # With Shift a machine is looked at instead.
    saw = workspace.project.machine["saw"]
    keys = Qt.KeyboardModifier.ShiftModifier
    QTest.mouseClick(
        window.floor, Qt.MouseButton.LeftButton, keys, hands.spot(saw.x - 0.3, saw.y + 0.1)
    )
    assert workspace.selection == "saw" and workspace.project.work.day == day
    QTest.keyClick(window.rack.row("saw"), Qt.Key.Key_Plus)
    assert workspace.project.work.day[-1].machine == "saw"


def test_a_job_is_stretched_moved_and_taken_out_on_the_time_line(work, hands, qtbot):
    workspace, strip = work.workspace, work.strip
    hands.type_into("day", "saw 20, planer 30, jointer 20")
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)

    def step_of(machine):
        return next(s for s in workspace.computed.worked.day.steps if s.machine == machine)

    def drag(start, to):
        left = Qt.MouseButton.LeftButton
        QTest.mousePress(strip, left, pos=QPoint(round(start), 40))
        QTest.mouseMove(strip, QPoint(round((start + to) / 2), 41))
        QTest.mouseMove(strip, QPoint(round(to), 40))
        strip.grab()
        QTest.mouseRelease(strip, left, pos=QPoint(round(to), 40))

    end = strip.x_of(step_of("planer").ends)
    drag(end - 2, end - 2 + (strip.x_of(600) - strip.x_of(0)))
    assert [job.minutes for job in workspace.project.work.day] == [20, 40, 20]
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)
    saw, jointer = step_of("saw"), step_of("jointer")
    middle = strip.x_of((saw.starts + saw.ends) / 2)
    drag(middle, strip.x_of(jointer.ends) + 4)
    assert [job.machine for job in workspace.project.work.day] == ["planer", "jointer", "saw"]
    assert workspace.chosen_job == 2
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)
    hands.choose("job-2/wood", "oak")
    hands.press("job-2/earlier")
    assert [job.wood for job in workspace.project.work.day] == [None, "oak", None]
    workspace.choose_job(0)
    for key in (Qt.Key.Key_Plus, Qt.Key.Key_Minus, Qt.Key.Key_Minus):
        QTest.keyClick(strip, key)
    assert workspace.project.work.day[0].minutes == 35
    QTest.keyClick(strip, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    assert workspace.project.work.day[1].machine == "planer"
    QTest.keyClick(strip, Qt.Key.Key_Delete)
    assert [job.machine for job in workspace.project.work.day] == ["saw", "jointer"]
    hands.keys("Ctrl+Z")
    assert len(workspace.project.work.day) == 3
    # A click that goes nowhere changes nothing; beside the jobs it only moves the clock.
    before = workspace.project
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)
    drag(strip.x_of(60), strip.x_of(60) + 1)
    drag(strip.x_of(workspace.computed.worked.day.ends) + 40, strip.x_of(60))
    assert workspace.project is before


def test_a_machines_page_checklist_and_switching(work, hands, qtbot):
    workspace = work.workspace
    workspace.select("planer")
    hands.type_into("planer/line-1", "Dust bag on.")
    hands.type_into("planer/line-new", "Feed slowly.")
    lines = workspace.project.work.checklists[0].lines
    assert lines[0] == "Dust bag on." and lines[-1] == "Feed slowly."
    hands.type_into("planer/line-2", " ")
    assert len(workspace.project.work.checklists[0].lines) == len(lines) - 1
    hands.press("planer/usual")
    assert workspace.project.work.checklists == ()
    hands.choose("cyclone/auto_start", "with the tool")
    hands.type_into("cyclone/run_on", "1 s")
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)
    assert len(workspace.computed.worked.day.on["cyclone"]) > 1
    workspace.select("mitre-saw")
    told = [
        item.value
        for section in work.inspector._page.sections
        for item in section.items
        if isinstance(item, Fact)
    ]
    assert any("stops before the miter saw: leave its gate open" in words for words in told)
    workspace.select("planer")
    hands.type_into("planer/hood/caught", "about 95 % by my eye")
    assert workspace.project.pickup["planer/hood"][1].caught == pytest.approx(0.95)
    hands.type_into("planer/hood/caught", "worked out")
    assert workspace.project.pickup["planer/hood"][1].caught is None
    hands.choose("planer/chip_drawer", "yes")
    hands.type_into("planer/drawer_caught", "40 %")
    assert workspace.project.machine["planer"].drawer_caught == pytest.approx(0.4)
    hands.type_into("planer/drawer_caught", "140 %")
    assert workspace.project.machine["planer"].drawer_caught == pytest.approx(0.4)
    hands.type_into("planer/drawer_caught", "an allowance")
    assert workspace.project.machine["planer"].drawer_caught is None
    hands.press("planer/into-the-day")
    assert workspace.project.work.day[-1].machine == "planer"
    workspace.delete()
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)
    assert workspace.computed.worked.day.missing == ("planer",)
    assert log_today(work).detail.endswith("; 2 left out, their machines are gone")
    # And with none of its machines left, the day is not one of no dust.
    everything = list(workspace.project.machine)
    workspace.edit("Delete the machines", lambda p: removed(p, everything))
    qtbot.waitUntil(lambda: complete(work), timeout=60_000)
    assert log_today(work).detail.startswith("0 jobs, 0 min; 9 left out")
    assert work.inspector._said["answer"].text() == ALL_GONE
    assert work.strip._head().startswith(ALL_GONE)


def test_the_card_in_large_goes_on_with_space_and_follows_the_tools(
    work, hands, monkeypatch, tmp_path
):
    monkeypatch.setattr(QDialog, "showFullScreen", lambda self: self.show())
    work.workspace.switch_on(("planer",))
    hands.keys("F11")
    card = work.working.card
    card.resize(1280, 800)
    assert card.card.machine == "planer"
    seen = set()
    for _ in range(len(card.card.lines) + 1):
        seen.add(card.line)
        card.grab()
        QTest.keyClick(card, Qt.Key.Key_Space)
    assert card.line == 0 and len(seen) == len(card.card.lines) + 1
    # The large buttons stand in the window at any size, and do what they say.
    for size in ((1280, 720), (1920, 1080), (700, 420)):
        card.resize(*size)
        assert all(card.rect().contains(button.geometry()) for button in card.buttons)
        assert not card.buttons[0].geometry().intersects(card.buttons[1].geometry())
    for button in card.buttons:
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    keep, day = work.workspace.project.keep, work.workspace.project.work.day
    assert (day[-1].machine, day[-1].minutes) == (
        "planer",
        10,
    ) and work.workspace.project.work.logged
    assert [entry.kind for entry in keep.entries] == ["worked", "bin emptied"]
    card.grab()
    QTest.keyClick(card, Qt.Key.Key_Space)
    assert card.line == 1 and len(work.workspace.project.work.day) == len(day)
    for _ in range(3):
        work.workspace.undo()
    QTest.keyClick(card, Qt.Key.Key_Right)
    assert work.workspace.running == ("jointer",)
    work.workspace.edit("Automatic", lambda p: changed(p, "cyclone", auto_start=True, run_on=30.0))
    do(work, "switch-panel")
    panel, moment = work.working.panel, [0.0]
    panel._clock = lambda: moment[0]
    panel.tools["sander"].click()
    assert work.workspace.running == ("sander",) and card.card.machine == "sander"
    work.workspace.edit("Take away", lambda p: removed(p, ["sander"]))  # behind the card
    gone = card.grab().toImage()
    work.workspace.undo()
    assert card.grab().toImage() != gone
    moment[0] = 2.0
    panel.show_states()
    assert panel.states["cyclone"].text() == "Cyclone: on"
    panel.tools["sander"].click()
    assert "runs on for 30 s more" in panel.states["cyclone"].text()
    moment[0] = 40.0
    panel.show_states()
    assert panel.states["cyclone"].text() == "Cyclone: off"
    panel.close()
    card.close()
    monkeypatch.setattr(
        QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "c.ics"), "")
    )
    do(work, "chores")
    assert "BEGIN:VEVENT" in (tmp_path / "c.ics").read_text()


def test_a_machine_is_dragged_from_the_rack_into_the_day(work, monkeypatch):
    dragged: list[QMimeData] = []
    monkeypatch.setattr(QDrag, "exec", lambda self, action: dragged.append(self.mimeData()))
    row = work.rack.row("router-table")
    QTest.mousePress(row, Qt.MouseButton.LeftButton, pos=QPoint(100, 30))
    move = QPointF(160, 40)
    buttons = Qt.MouseButton.LeftButton
    row.mouseMoveEvent(
        QMouseEvent(
            QEvent.Type.MouseMove, move, move, buttons, buttons, Qt.KeyboardModifier.NoModifier
        )
    )
    assert dragged[0].data(MACHINE_DRAG).data() == b"router-table"
    data = QMimeData()
    data.setData(MACHINE_DRAG, b"router-table")
    count = len(work.workspace.project.work.day)
    for machine in (b"router-table", b"nothing"):
        data.setData(MACHINE_DRAG, machine)
        where = QPointF(200, 60)
        args = (Qt.DropAction.CopyAction, data, buttons, Qt.KeyboardModifier.NoModifier)
        work.strip.dragEnterEvent(QDragEnterEvent(where.toPoint(), *args))
        work.strip.dropEvent(QDropEvent(where, *args))
    assert [job.machine for job in work.workspace.project.work.day[count:]] == ["router-table"]
    assert "choose a machine" in work.banner.text.text()


@pytest.mark.sweep
def test_work_on_every_shop_and_cards_without_a_window(
    window, hands, tmp_path, monkeypatch, capsys
):
    for project in (
        demo("empty"),
        demo("allotment"),
        made_up(5),
        demo().replaced(machines=(), runs=(), points=(), gates=()),
    ):
        window.workspace.show_project(project, None)
        window.workspace.go("work")
        QTest.mouseClick(window.strip, Qt.MouseButton.LeftButton, pos=QPoint(200, 100))
        for element in (*project.element, None):
            window.workspace.select(element)
        window.grab()
        hands.keys("Ctrl+U")
    monkeypatch.setattr(app, "QApplication", lambda *a: QApplication.instance())
    monkeypatch.setattr(app, "qInstallMessageHandler", lambda handler: None)
    assert app.main([str(demo_path("loft")), "--cards", str(tmp_path / "cards.pdf")]) == 0
    assert len(PdfReader(tmp_path / "cards.pdf").pages) == 3
    assert app.main([str(demo_path("empty")), "--cards", str(tmp_path / "none.pdf")]) == 2
    assert "put a machine in first" in capsys.readouterr().err

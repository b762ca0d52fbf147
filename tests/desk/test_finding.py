"""A fault found by clicks, a lesson, a hood tested and the room's dust read: at the window."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import QPoint, QRect
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QDialog

from grey_current.desk.inspector.fields import Picture
from grey_current.desk.inspector.picture import DrawnPicture
from grey_current.desk.shell.keep_dialogs import PracticeDialog
from grey_current.keep.lessons import lessons
from grey_current.keep.practice import mended_of
from grey_current.units import INH2O
from tests.desk.conftest import do, wait_for_keep
from tests.desk.seen import out_of_sight

pytestmark = pytest.mark.usefixtures("compiled_kernel")


def press(window, hands, key):
    """Press a button of the page, brought into sight first."""
    window.inspector.reveal(key)
    button = window.inspector.field(key)
    window.inspector._scroll.ensureWidgetVisible(button)
    hands.press(key)


def answer(window):
    return window.inspector._said["answer"].text()


def facts(window):
    sections = window.inspector._page.sections
    return " ".join(item.value for s in sections for item in s.items if hasattr(item, "value"))


def pictures(window):
    return [p for p in window.inspector.findChildren(DrawnPicture) if p.isVisible()]


def test_from_a_red_figure_to_a_mended_filter_in_twelve_clicks(keep, hands, qtbot):
    """The gauge shows too little: look, measure, mend as asked, and read it once more."""
    workspace, clicks = keep.workspace, 0
    month = workspace.computed.doubt.monthly[0]
    field = f"read/static pressure/{month.machine}/{month.place}"
    hands.type_into(field, f"{month.low_red * 0.8 / INH2O:.2f} inH2O")
    wait_for_keep(keep, qtbot)
    press(keep, hands, "finding/start")
    clicks += 1
    assert answer(keep) == "What do you notice?" and not out_of_sight(keep)
    press(keep, hands, "finding/only the gauge")
    clicks += 1
    assert workspace.project.keep.complaint.kind == "only the gauge"
    mended = False
    while not mended:
        wait_for_keep(keep, qtbot)
        step = workspace.computed.doubt.step
        (picture,) = pictures(keep)
        assert not out_of_sight(keep) and picture.accessibleName()
        if step.asked is not None:
            # It reads as a filter does that is loaded.
            kind, machine, place = step.asked
            at, _ = step.healthy
            worth = {c.kind.name: value for c, value in step.meanings}
            value = worth.get("filter loaded", at)
            hands.type_into(f"read/{kind}/{machine}/{place}", f"{value:.0f} Pa")
        elif step.todo == "look":
            there = step.fault.name == "filter loaded"
            press(keep, hands, "finding/yes" if there else "finding/no")
        else:
            press(keep, hands, "finding/mended")
            mended = True
        clicks += 1
        assert clicks < 12
    assert workspace.project.keep.complaint is None
    assert workspace.project.keep.entries[-1].kind == "filter cleaned"
    wait_for_keep(keep, qtbot)
    assert answer(keep).startswith("Is it well again?")
    hands.type_into(field, f"{month.healthy:.0f} Pa")
    clicks += 1
    wait_for_keep(keep, qtbot)
    assert answer(keep) == "It is well again." and clicks <= 12
    press(keep, hands, "finding/stop")
    assert workspace.finding == ""
    hands.keys("Ctrl+Z")
    hands.keys("Ctrl+Z")
    assert workspace.project.keep.complaint is not None


def test_one_machine_is_named_and_what_is_not_there_is_not_asked_for(keep, hands, qtbot):
    workspace = keep.workspace
    press(keep, hands, "finding/start")
    press(keep, hands, "finding/which")
    assert "finding/only one machine/lathe" not in keep.inspector.fields
    press(keep, hands, "finding/back")
    press(keep, hands, "finding/which")
    press(keep, hands, "finding/only one machine/planer")
    wait_for_keep(keep, qtbot)
    assert workspace.project.keep.complaint.machine == "planer"
    press(keep, hands, "finding/no")
    wait_for_keep(keep, qtbot)
    asked = workspace.computed.doubt.step.asked
    press(keep, hands, "finding/out of reach")
    wait_for_keep(keep, qtbot)
    then = workspace.computed.doubt.step.asked
    assert then is None or then[2] != asked[2]
    for _ in range(4):
        if "finding/no instrument" not in keep.inspector.fields:
            break
        press(keep, hands, "finding/no instrument")
        wait_for_keep(keep, qtbot)
    assert workspace.computed.doubt.step.todo in ("look", "end")
    # Anything selected shows its own page; another stage ends it.
    workspace.select("planer")
    assert keep.inspector._page.title == "Planer"
    workspace.select(None)
    assert keep.inspector._page.title == "Find the fault"
    hands.keys("Ctrl+4")
    assert workspace.finding == ""
    hands.keys("Ctrl+8")
    wait_for_keep(keep, qtbot)
    assert keep.inspector._page.title == "Keep"
    press(keep, hands, "finding/start")
    assert keep.inspector._page.subtitle.startswith("Step 2")


def test_all_lessons_one_after_the_other(window, hands, qtbot, monkeypatch):
    shown: list[PracticeDialog] = []

    def accept(dialog):
        shown.append(dialog)
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(PracticeDialog, "exec", accept)
    do(window, "practise")
    (dialog,) = shown
    assert dialog.what.currentText().startswith("Lesson 1") and not dialog.shops.isEnabled()
    for lesson in lessons():
        assert window.inspector._page.title.startswith(f"Lesson {lesson.number} of 7")
        clicks = 0
        while True:
            (picture,) = pictures(window)
            assert picture.accessibleName() == lesson.title and not out_of_sight(window)
            keys = [key for key in window.inspector.fields if key.startswith("lesson/")]
            if not keys or keys == ["lesson/next"]:
                break
            press(window, hands, keys[0])
            clicks += 1
        assert clicks <= 6
        practice = window.workspace.project.keep.practice
        assert mended_of(practice) == {(kind, place) for kind, place, _ in lesson.faults}
        if keys:
            press(window, hands, "lesson/next")
    assert "free shops" in facts(window)


def test_a_picture_is_drawn_in_the_ink_of_the_theme(keep, hands, qtbot):
    press(keep, hands, "finding/start")
    press(keep, hands, "finding/weaker everywhere")
    wait_for_keep(keep, qtbot)
    for _ in range(2):
        (drawn,) = pictures(keep)
        # As it stands in the window: by itself it has no ground of its own.
        image = keep.grab(QRect(drawn.mapTo(keep, QPoint(0, 0)), drawn.size())).toImage()
        seen = {
            QColor(image.pixel(x, y)).lightness()
            for x in range(0, image.width(), 2)
            for y in range(0, image.height(), 2)
        }
        assert max(seen) - min(seen) > 120
        item = next(
            i for s in keep.inspector._page.sections for i in s.items if isinstance(i, Picture)
        )
        assert drawn.toolTip() and item.words == drawn.accessibleName()
        do(keep, "theme")


def test_a_hood_is_tested_and_fitted_out_on_its_page(window, hands, qtbot):
    hands.keys("Ctrl+7")
    workspace = window.workspace
    workspace.select("saw")
    hands.choose("saw/lamp", "a plume")
    hands.type_into("saw/removed", "28 oz")
    hands.type_into("saw/swept", "40 oz")
    assert "no more can be swept up" in window.inspector._complaints["saw/swept"].text()
    hands.type_into("saw/swept", "4")
    test = workspace.project.machine["saw"].hood_test
    assert test.lamp == "a plume" and test.chips_caught == pytest.approx(1 - 4 / 28)
    hands.choose("saw/aid/brushes", "there")
    assert workspace.project.machine["saw"].aids == ("brushes",)
    assert not out_of_sight(window)
    hands.keys("Ctrl+Z")
    assert workspace.project.machine["saw"].aids == ()


def test_a_particle_counter_is_read_at_the_work_stage(window, hands, qtbot):
    hands.keys("Ctrl+7")
    workspace = window.workspace

    def worked():
        found = workspace.computed.worked
        return found is not None and found.dust.meter is not None

    qtbot.waitUntil(worked, timeout=60_000)
    one = workspace.computed.worked.dust.meter.expected
    field = f"read/dust/{one.machine}/{one.room}"
    qtbot.waitUntil(lambda: field in window.inspector.fields, timeout=60_000)
    hands.type_into(field, "0.9")
    assert "may mean" in window.inspector._complaints[field].text()
    window.inspector.field(field).clear()
    hands.type_into(field, "900")
    assert workspace.project.keep.readings[-1].value == pytest.approx(0.9)

    def narrowed():
        found = workspace.computed.worked
        return found.day.project == workspace.project and found.dust.meter.readings == 1

    qtbot.waitUntil(narrowed, timeout=60_000)
    meter = workspace.computed.worked.dust.meter
    assert meter.expected.wide < meter.tables.wide / 4
    hands.keys("Ctrl+8")
    wait_for_keep(window, qtbot)
    assert workspace.computed.doubt.logged[-1].standing == "of the room"
    window.strip.view.setCurrentText("Readings")
    assert window.strip.readings.table.rows[-1].cells[-1] == "narrows the room's dust"

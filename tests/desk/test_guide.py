"""The guide to a first shop: a template's room to a laid and saved design, in either units."""

from __future__ import annotations

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.desk.strips.card_strip import LESS, MORE
from grey_current.files import project_file
from grey_current.shop.room import walls_of
from grey_current.shop.templates import TEMPLATES, template_shop
from grey_current.workspace.first_shop import STEPS, WORKS, body_of
from tests.core.laid_shops import faults
from tests.desk.conftest import do
from tests.desk.test_laying import Counting
from tests.desk.test_seen import inches

pytestmark = pytest.mark.usefixtures("compiled_kernel")


def in_units(window, units):
    window.workspace.edit(
        "Change the units",
        lambda p: p.replaced(settings=p.settings.model_copy(update={"units": units})),
    )


def test_a_garage_is_laid_and_saved_in_twelve_clicks_and_two_sizes(
    window, hands, qtbot, tmp_path, monkeypatch
):
    monkeypatch.setattr(window.files, "may_leave", lambda: True)
    workspace = window.workspace
    for units, sizes in (("metric", ("6.6", "6")), ("us", ("23", "20'"))):
        in_units(window, units)
        counted = Counting(hands, qtbot)
        do(window, "new-double-garage")
        counted.clicks += 2  # the submenu and its entry
        hands.type_into("room/length", sizes[0])
        if units == "us":  # no room is 23 inches long
            assert workspace.project.rooms[0].outline[2][0] == pytest.approx(7.0104)
        hands.type_into("room/width", sizes[1])
        counted.press("guide/next")
        for name in ("Table saw", "12 in planer"):
            counted.press(f"guide/{name}")
        counted.press("guide/next")
        assert units == "us" or not inches(window)
        qtbot.waitUntil(lambda: "offer/3 hp cyclone, 15 in impeller" in window.inspector.fields)
        counted.press("offer/3 hp cyclone, 15 in impeller")
        counted.press("guide/next")
        counted.press("guide/lay")
        counted.found()
        counted.row(0)
        assert counted.clicks <= 12
        project = workspace.project
        answers = workspace.assessment.counted.answers
        assert project.settings.units == units and len(project.machines) == 2
        assert not faults(project) and all(answer.met for answer in answers)
        assert units == "us" or not inches(window)
        path = tmp_path / f"{units}.greycurrent"
        workspace.save(path)
        assert project_file.load(path) == project


def test_the_guide_can_be_left_taken_up_again_and_begun_with_the_work_one_does(window, hands):
    workspace = window.workspace
    do(window, "guide")  # in a shop that stands: the ducts are what is left to do
    assert workspace.stage == "air" and "guide/next" not in window.inspector.fields
    hands.press("guide/end")
    assert "guide/end" not in window.inspector.fields
    workspace.open_demo("empty")
    hands.press("guide/begin")
    assert "guide/next" in window.inspector.fields
    workspace.open_template("shed")
    assert workspace.stage == STEPS[0].stage
    for thing in ("door", "roll-up door", "window"):
        hands.press(f"guide/{thing}")
    assert len(workspace.project.openings) == 5 and not faults(workspace.project)
    hands.press("guide/next")
    for work in WORKS.values():
        hands.choose("guide/work", work.title)
        assert {f"guide/{name}" for name in work.machines} <= set(window.inspector.fields)
        assert all(body_of(name) for name in work.machines)
    for here in ("1 here", "2 here"):
        hands.press("guide/Small bandsaw")
        assert here in window.inspector.field("guide/Small bandsaw").words()
    hands.keys("Ctrl+Z")
    assert "1 here" in window.inspector.field("guide/Small bandsaw").words()
    # In the pictures: found by a word, one more by a click or by +, one less by its mark.
    window.strip.search.setText("lathe")
    card = next(card for card in window.strip.cards if card.isVisible())
    for spot, count in ((card.rect().center(), 1), (MORE, 2), (LESS, 1), (LESS, 0), (MORE, 1)):
        at = spot if spot == card.rect().center() else spot.center().toPoint()
        QTest.mouseClick(card, Qt.MouseButton.LeftButton, pos=at)
        lathes = [m for m in workspace.project.machines if m.name.startswith("Lathe")]
        assert len(lathes) == count == card.count
        assert (f"{count} here" in card.accessibleName()) == bool(count)
        assert "guide/next" in window.inspector.fields, "the guide goes on"
    QTest.keyClicks(card, "+-")
    assert card.count == 1
    hands.keys("Ctrl+Z")
    window.strip.search.clear()
    workspace.go("shop")
    do(window, "guide")
    assert workspace.stage == "collector"  # the first of its steps that is still to do
    workspace.open_demo("allotment")  # another shop, which nobody asked to be led through
    assert "guide/end" not in window.inspector.fields


@pytest.mark.parametrize("template", TEMPLATES, ids=lambda template: template.name)
@pytest.mark.parametrize("units", ["metric", "us"])
def test_templates_are_rooms_whose_doors_are_in_walls(template, units):
    made = template_shop(template.name, units)
    walls = walls_of(made.rooms)
    for opening in made.openings:
        assert any(within(opening.start, wall) and within(opening.end, wall) for wall in walls), (
            opening
        )
        assert opening.head <= made.rooms[0].ceiling
    assert not [f for f in all_findings(made, assess(made)) if f.severity != "note"]


def within(place, wall):
    (x, y), ((ax, ay), (bx, by)) = place, wall
    return (
        abs((bx - ax) * (y - ay) - (by - ay) * (x - ax)) < 1e-6
        and min(ax, bx) - 1e-6 <= x <= max(ax, bx) + 1e-6
        and min(ay, by) - 1e-6 <= y <= max(ay, by) + 1e-6
    )

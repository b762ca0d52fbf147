"""The cause first: in the sentence at the top, on the page with its cure, and what stands behind it."""

import re

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from grey_current.design.judgement import air_judgement
from grey_current.design.reasons.reasons import GROUPS, reasons
from grey_current.desk.inspector.rows import FindingRow, FoldHead
from grey_current.workspace import asking
from grey_current.workspace.jobs import HelpMachine, HelpShop
from tests.core.shops import demo, straight_shop
from tests.core.test_diagnosis import laid
from tests.desk.conftest import do


@pytest.fixture
def ungated(window, qtbot):
    """The loft without its gates, at the Air stage, with its cause known."""
    window.workspace.show_project(demo().replaced(gates=()), None)
    window.workspace.go("air")
    window.resize(1280, 800)
    diagnosis = window.workspace.computed.known_diagnosis
    qtbot.waitUntil(lambda: diagnosis(HelpShop()) is not None, timeout=20_000)
    return window


def head(window, title):
    return next(h for h in window.inspector.findChildren(FoldHead) if h.title == title)


def whole(label):
    """Whether a label shows all of its text."""
    return (
        label.isVisible() and label.fontMetrics().horizontalAdvance(label.text()) <= label.width()
    )


def test_one_click_on_the_cause_serves_the_shop_and_undo_brings_it_back(ungated, hands, qtbot):
    window, workspace = ungated, ungated.workspace
    QApplication.processEvents()
    bar = window.verdict_bar
    assert bar.cause.text().startswith("Eight branches have no gate") and whole(bar.cause)
    assert "Biggest loss" not in bar.sentence.text()
    assert bar.cause.geometry().bottom() <= bar.height() and bar.sentence.height() >= 20
    before = bar.sentence.text()
    hands.press("shop/cause-1")
    assert len(workspace.project.gates) == 8 and "7 of 8" in bar.sentence.text()
    do(window, "undo")
    assert not workspace.project.gates and bar.sentence.text().startswith(before[:6])


@pytest.mark.parametrize("name", ["loft", "ungated", "garage", "cellar"])
def test_the_cure_is_in_sight_however_full_the_page_is(window, qtbot, name):
    shops = {"loft": demo, "ungated": lambda: demo().replaced(gates=())}
    project = shops[name]() if name in shops else laid(name)
    workspace = window.workspace
    workspace.show_project(project, None)
    workspace.go("air")
    window.resize(1280, 800)
    qtbot.waitUntil(lambda: asking.job_due(workspace) is None, timeout=60_000)
    window.search.find_all()
    QApplication.processEvents()
    diagnosis = workspace.computed.known_diagnosis(HelpShop())
    if diagnosis is not None and diagnosis.root is not None and diagnosis.root.cure is not None:
        button = window.inspector.field("shop/cause-1")
        assert button.isVisible() and not button.visibleRegion().isEmpty()


def test_what_the_cause_explains_is_folded_under_it(ungated):
    window = ungated
    window.search.find_all()
    QApplication.processEvents()
    page = window.inspector._page
    assert len(page.explained) > 10 and not set(page.explained) & set(page.findings)
    folded = head(window, "Problems")
    assert f"{len(page.explained)} from the cause above" in folded._words
    QTest.mouseClick(folded, Qt.MouseButton.LeftButton)
    QApplication.processEvents()
    shown = {row.finding.message for row in window.inspector.findChildren(FindingRow)}
    assert {each.message for each in page.explained} <= shown


def test_a_machine_has_its_own_cause(window, hands, qtbot):
    workspace = window.workspace
    workspace.go("air")
    hands.click_row("planer")
    workspace.select("planer")
    known = workspace.computed.known_diagnosis
    qtbot.waitUntil(lambda: known(HelpMachine("planer")) is not None, timeout=20_000)
    assert window.verdict_bar.cause.text().startswith("The miter saw's gate is left open.")
    hands.press("planer/cause-1")
    assert workspace.project.gate["gate-mitre"].rule == "with its machine"
    assert workspace.assessment.of_machine["planer"].met


def test_reasons_are_read_from_the_cause_and_shown_on_the_shop(ungated, hands):
    window, workspace = ungated, ungated.workspace
    window.inspector.reveal("shop/cause-1/why")
    hands.press("shop/cause-1/why")
    assert window.inspector._page.title == reasons()["no-gates"].title
    hands.press("reason/show")
    assert len(workspace.project.gates) == 8 and workspace.comparison
    assert [design.name for design in workspace.project.kept_designs] == ["Before"]
    hands.press("reason/all")
    assert {section.title for section in window.inspector._page.sections} >= set(GROUPS)
    window.inspector.reveal("reason/static")
    hands.press("reason/static")
    hands.press("reason/back")
    assert workspace.reading is None and window.inspector._page.title == workspace.project.name
    # Whatever is clicked next has its own page.
    do(window, "reasons")
    hands.click_row("planer")
    workspace.select("planer")
    assert window.inspector._page.title == "Planer"


def test_a_finding_leads_to_its_reasons(ungated):
    window = ungated
    window.search.find_all()
    QApplication.processEvents()
    QTest.mouseClick(head(window, "Problems"), Qt.MouseButton.LeftButton)
    QApplication.processEvents()
    buttons = window.inspector.findChildren(QPushButton)
    whys = [b for b in buttons if b.accessibleName().startswith("Read why:") and b.isVisible()]
    QTest.mouseClick(whys[0], Qt.MouseButton.LeftButton)
    assert window.workspace.reading in reasons()


def test_a_hose_gets_a_gate_at_its_fixed_end(window, hands):
    workspace = window.workspace
    workspace.show_project(demo("allotment"), None)
    workspace.go("air")
    workspace.select("hose")
    window.inspector.reveal("hose/gate")
    hands.press("hose/gate")
    (gate,) = workspace.project.gates
    assert gate.run == "hose" and gate.at == 1.0
    assert "gate/100/stepped" in {part.key for part in workspace.computed.parts.parts}
    assert all(answer.converged for answer in workspace.assessment.answers)


def test_a_shop_says_how_many_get_their_air_and_how_many_an_offer_calls_served(window):
    """With one hose the only pickup of its network counts like any other; what has no port does
    not.
    """
    workspace, told = window.workspace, []
    for project in (demo(), demo("allotment"), straight_shop(), demo("empty")):
        workspace.show_project(project, None)
        workspace.go("air")
        workspace.select(None)
        words = window.inspector._said["answer"].text()
        told.append(re.findall(r"\d+", words.replace("for none", "for 0")))
        if len(project.machines) < 2:
            assert words in ("The one machine gets enough air.", "No machine has air yet.")
            continue
        served, asked = air_judgement(workspace.assessment.counted).served()
        met = sum(answer.met for answer in workspace.assessment.of_machine.values())
        assert asked == sum(bool(machine.pickups) for machine in workspace.project.machines)
        figures = [met, asked] if served == met else [met, asked, served]
        assert told[-1] == [str(figure) for figure in figures]
    assert [len(each) for each in told] == [3, 3, 0, 0]

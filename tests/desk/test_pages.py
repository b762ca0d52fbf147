"""Pages beside the floor: an answer first, few words, the rest folded until it is opened."""

import re
from dataclasses import fields as dataclass_fields
from dataclasses import is_dataclass

import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication, QComboBox, QLabel, QLineEdit

from grey_current.design.findings.finding import Finding
from grey_current.design.reasons.reasons import reason_page, reasons
from grey_current.desk.choice_box import ChoiceBox
from grey_current.desk.inspector.fields import MOST_WORDS, ChoiceField
from grey_current.desk.inspector.folding import FIRST_FINDINGS
from grey_current.desk.inspector.pages import page
from grey_current.desk.inspector.rows import FindingRow, FoldHead
from grey_current.desk.stages import stage_page
from grey_current.desk.strips.card_strip import machine_things
from grey_current.shop.catalogue import machine_models
from grey_current.shop.edits import with_settings
from grey_current.spelling import AMERICAN
from grey_current.workspace import asking
from grey_current.workspace.placing import Placeable
from grey_current.workspace.stages import STAGES
from grey_current.workspace.workspace import Workspace
from tests.core.laid_shops import cellar, garage, many, two_rooms
from tests.core.shops import demo
from tests.desk.conftest import turn_wheel

SHOPS = {
    "loft": demo,
    "allotment": lambda: demo("allotment"),
    "empty": lambda: demo("empty"),
    "cellar": cellar,
    "garage": garage,
    "two rooms": two_rooms,
    "thirty machines": many,
}


def settle(window):
    window.resize(1280, 800)
    for _ in range(3):
        QApplication.processEvents()


def words_in_sight(panel):
    """What can be read in a panel without scrolling, of a field only what fits into it."""
    words: list[str] = []
    for kind in (QLabel, QLineEdit, QComboBox, QAbstractButton):
        for widget in panel.findChildren(kind):
            if not widget.isVisible() or widget.visibleRegion().isEmpty():
                continue
            if widget.objectName() in ("unit", "about"):
                continue  # the field's own text has the one, the other is a mark
            text = widget.currentText() if isinstance(widget, QComboBox) else widget.text()
            if isinstance(widget, QLineEdit):
                metrics = widget.fontMetrics()
                text = metrics.elidedText(text, Qt.TextElideMode.ElideRight, widget.width())
            words += text.split()
    return words


def heads(window):
    return {head.title: head for head in window.inspector.findChildren(FoldHead)}


def rows(window):
    return [row for row in window.inspector.findChildren(FindingRow) if row.isVisible()]


@pytest.mark.parametrize("units", ["us", "metric"])
@pytest.mark.parametrize("name", SHOPS)
def test_no_page_shows_more_words_than_one_reads_beside_a_saw(window, qtbot, name, units):
    workspace = window.workspace
    workspace.show_project(SHOPS[name](), None)
    workspace.edit("Units", lambda p: p.replaced(settings=p.settings.replaced(units=units)))
    for stage in STAGES:
        workspace.go(stage.name)
        project = workspace.project
        firsts = [next(iter(things), None) for things in (project.machine, project.collector)]
        for chosen in (None, *firsts, next(iter(project.run), None)):
            workspace.select(chosen)
            if name in ("loft", "garage") and chosen is None:
                qtbot.waitUntil(lambda: asking.job_due(workspace) is None, timeout=60_000)
            settle(window)
            words = words_in_sight(window.inspector)
            shown = window.inspector._page
            most = 60 if (stage.name, chosen) == ("keep", None) and project.runs else MOST_WORDS
            assert len(words) <= most, (stage.name, chosen, len(words), " ".join(words))
            # Every page says something before its first heading, whatever is selected.
            assert shown.title and (shown.answer or shown.subtitle or shown.sections), stage.name


def test_sections_are_opened_and_folded_by_click_and_key_and_stay_so(window):
    workspace = window.workspace
    workspace.go("collector")
    workspace.select("cyclone")
    settle(window)
    head = heads(window)["Noise"]
    field = window.inspector.field("cyclone/noise")
    assert not head.opened and not field.isVisible() and "folded" in head.accessibleName()
    QTest.mouseClick(head, Qt.MouseButton.LeftButton)
    settle(window)
    assert field.isVisible() and not field.visibleRegion().isEmpty()
    workspace.select("planer")
    workspace.select("cyclone")
    settle(window)
    assert window.inspector.field("cyclone/noise").isVisible()
    head = heads(window)["Noise"]
    head.setFocus()
    QTest.keyClick(head, Qt.Key.Key_Space)
    settle(window)
    assert not window.inspector.field("cyclone/noise").isVisible()


def test_the_section_in_which_somebody_types_is_not_folded_under_their_hands(window, hands):
    workspace = window.workspace
    workspace.go("machines")
    workspace.select("planer")
    settle(window)
    hands.type_into("planer/width", "2' 1\"")
    QTest.mouseClick(heads(window)["Its body"], Qt.MouseButton.LeftButton)
    QTest.mouseClick(heads(window)["Its body"], Qt.MouseButton.LeftButton)
    field = window.inspector.field("planer/width")
    field.setFocus()
    workspace.edit("Longer lane", lambda p: p.replaced(name="Other"))
    settle(window)
    assert window.inspector.field("planer/width").isVisible()


def test_problems_show_their_cures_when_they_are_opened(window, qtbot):
    window.workspace.go("air")
    qtbot.waitUntil(lambda: len(window.workspace.known_findings) > 5, timeout=20_000)
    settle(window)
    qtbot.waitUntil(lambda: asking.job_due(window.workspace) is None, timeout=20_000)
    settle(window)
    page, head = window.inspector._page, heads(window)["Problems"]
    few = rows(window)
    # A page that names a cause may have no room for any; another has room for one at least.
    assert (not page.explained) <= len(few) <= FIRST_FINDINGS < len(page.findings)
    remedy = next(f.remedies[0] for f in page.findings if f.remedies)
    QTest.mouseClick(head, Qt.MouseButton.LeftButton)
    settle(window)
    labels = [label for row in rows(window) for label in row.findChildren(QLabel)]
    said = [label.text() for label in labels if label.isVisible()]
    assert len(rows(window)) == len(page.findings) + len(page.explained)
    assert any(remedy in text for text in said)


def texts(value):
    """Every text within a page's values."""
    if isinstance(value, str):
        yield value
    elif isinstance(value, tuple):
        for part in value:
            yield from texts(part)
    elif isinstance(value, ChoiceField):
        # Of what may be chosen only the words are seen, not what they stand for.
        yield from (value.label, value.step, *(words for _, words in value.options))
    elif is_dataclass(value) and not isinstance(value, Finding):
        for field in dataclass_fields(value):
            if field.name != "key":
                yield from texts(getattr(value, field.name))
    elif isinstance(value, Finding):
        yield from (value.message, *value.remedies)


@pytest.mark.parametrize(("units", "foreign"), [("us", AMERICAN), ("metric", AMERICAN.values())])
def test_a_page_is_spelled_as_its_shop_is(units, foreign):
    """Pages, cards of machines and reasons have the spelling of the shop's units, and no other."""
    odd = re.compile(rf"\b({'|'.join(foreign)})s?\b", re.IGNORECASE)
    project = with_settings(cellar(), units=units)
    workspace = Workspace(project)
    for model in machine_models():
        workspace.put(Placeable("machine", "", "machine", body=model.body), 1.0, 1.0)
    seen = [thing.title + thing.about for thing in machine_things(machine_models(), units)]
    for ident in reasons():
        seen += reason_page(workspace.assessment, ident).paragraphs
    for stage in STAGES:
        workspace.go(stage.name)
        for chosen in (None, *(item.id for item in project.points[:6]), *workspace.project.machine):
            workspace.select(chosen)
            seen += texts(page(workspace, stage_page))
    wrong = [text for text in seen if odd.search(text.replace("Grey Current", ""))]
    assert len(seen) > 2000 and not wrong, wrong[:5]


@pytest.mark.parametrize("stage", [each.name for each in STAGES])
def test_nothing_is_chosen_by_scrolling_past_or_by_keys_that_are_taken_back(window, stage):
    """The wheel over a list moves its page; down, down and Esc in it change nothing."""
    workspace = window.workspace
    before, tried = workspace.project, 0
    for element in (None, "saw", "saw/cabinet", "cyclone", "inlet-run", "stove"):
        workspace.select(None)
        workspace.go(stage)
        workspace.select(element)
        settle(window)
        for box in window.inspector.findChildren(ChoiceBox):
            if not box.isVisible():
                continue
            tried += 1
            shown = box.currentText()
            turn_wheel(box, QPointF(box.rect().center()), -120)
            box.setFocus()
            QTest.keyClick(box, Qt.Key.Key_Down)
            QTest.keyClick(box.view(), Qt.Key.Key_Down)
            QTest.keyClick(box.view(), Qt.Key.Key_Escape)
            assert box.currentText() == shown and workspace.project is before
    assert tried

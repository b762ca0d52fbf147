"""The manual at the window: F1 opens the page about what is looked at, problems lead to theirs."""

from __future__ import annotations

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit

from grey_current.desk.inspector.rows import FindingRow
from grey_current.workspace.finder import entries, ranked
from grey_current.workspace.manual import OF_SECTION, OF_STAGE, manual_pages
from tests.desk.conftest import do
from tests.desk.seen import out_of_sight

INSPECTOR = Path(__file__).parents[2] / "grey_current/desk/inspector"
# Qt's number for a picture of a document.
IMAGE = 2
pytestmark = pytest.mark.usefixtures("compiled_kernel")


@pytest.fixture
def manual(window, hands):
    hands.keys("F1")
    yield window._manual
    window._manual.close()


def test_f1_opens_the_page_about_what_is_looked_at(window, manual):
    for stage, page in OF_STAGE.items():
        window.workspace.go(stage)
        do(window, "manual")
        assert manual.shown == page and manual.isVisible()
        assert manual.pages.currentItem().text() == manual_pages()[page].title
        assert manual_pages()[page].title in manual.text.toPlainText()
    manual.resize(860, 600)
    QApplication.processEvents()
    assert not out_of_sight(manual)
    # The picture of a page is there.
    manual.open_page("gates")
    picture = manual.text.loadResource(IMAGE, QUrl("pictures/gates-stage.png"))
    assert 200 < picture.width() <= manual.text.width()


def test_each_open_section_leads_to_its_page_and_so_does_f1_in_a_field(window, hands, manual):
    workspace, page = window.workspace, window.inspector
    led = {}
    for stage in OF_STAGE:
        for chosen in (None, "saw", "cyclone", "planer-hose", "main-3", "saw/cabinet"):
            workspace.go(stage)
            workspace.select(chosen)
            window.inspector.show_workspace()
            for title, (head, hidden) in page._folds.items():
                if title in led:
                    continue
                if head.isEnabled():
                    page._fold(title, True)
                about = page._about[title]
                assert about.isVisible() and min(about.width(), about.height()) >= 24
                manual.open_page("whats-new")
                about.click()
                led[title] = manual.shown
                assert manual.shown != "whats-new", title
                field = hidden.findChild(QLineEdit)
                if field is not None:
                    field.setFocus()
                    do(window, "manual")
                    assert manual.shown == led[title], title
                if head.isEnabled():
                    page._fold(title, False)
                    assert not about.isVisible()
    wanted = {"Prices": "parts", "For sweeping up": "hoses", "Pickups": "ports", "Fan": "collector"}
    assert wanted.items() <= led.items()
    # No section is listed that no page has.
    source = "".join(path.read_text() for path in INSPECTOR.glob("*.py"))
    assert all(f'"{title}"' in source for title in OF_SECTION)


def test_a_page_is_found_by_its_words_and_from_the_finder(window, manual):
    QTest.keyClicks(manual.search, "varnish")
    shown = [
        manual.pages.item(n).text()
        for n in range(manual.pages.count())
        if not manual.pages.item(n).isHidden()
    ]
    assert shown == ["The dust in the room", "What is new"] and manual.shown == "dust"
    manual.search.clear()
    QTest.keyClicks(manual.search, "xyzzy")
    assert all(manual.pages.item(n).isHidden() for n in range(manual.pages.count()))
    manual.search.clear()
    manual.pages.setFocus()
    QTest.keyClick(manual.pages, Qt.Key.Key_Home)
    assert manual.shown == "first-shop"
    found = ranked(entries(window.workspace, lambda name, choice: None), "will it clog")
    page = next(entry for entry in found if entry.title == "Will it clog?")
    page.act(window)
    assert manual.shown == "chips"


def test_a_problem_without_a_page_of_reasons_leads_to_the_manual(window, manual):
    window.workspace.go("machines")
    window.workspace.select("planer")
    window.search.find_all()
    window.on_found()
    window.inspector._fold("Problems", True)
    rows = [row for row in window.inspector.findChildren(FindingRow) if row.isVisible()]
    readers = [
        (row, child)
        for row in rows
        for child in row.children()
        if getattr(child, "accessibleName", lambda: "")().startswith("Read about it")
    ]
    assert readers
    row, button = readers[0]
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    assert manual.shown in manual_pages() and row.finding.message in button.accessibleName()

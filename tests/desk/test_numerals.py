"""A window in which figures have a comma: no page, strip, floor or paper shows a decimal point."""

from __future__ import annotations

import re
from dataclasses import fields as dataclass_fields
from dataclasses import is_dataclass

import pytest
from PyQt6.QtCore import QLocale

from grey_current.build.papers import papers
from grey_current.design.reasons.reasons import reason_page, reasons
from grey_current.desk import app
from grey_current.desk.inspector.fields import TextField
from grey_current.desk.inspector.pages import page
from grey_current.desk.papers.layout import Word, pages
from grey_current.desk.stages import stage_page
from grey_current.numerals import VARIABLE
from grey_current.shop.edits import with_settings
from grey_current.shop.room_edits import wall_length
from grey_current.workspace import asking
from grey_current.workspace.jobs import carried_out
from grey_current.workspace.stages import STAGES
from grey_current.workspace.workspace import Workspace
from tests.core.shops import demo
from tests.desk.seen import painted_words
from tests.desk.test_pages import settle, texts
from tests.marks import POINT, written


@pytest.fixture
def commas():
    with written("comma"):
        yield


@pytest.mark.parametrize("units", ["us", "metric"])
def test_nothing_in_sight_has_a_point(commas, window, units):
    workspace = window.workspace
    workspace.edit("Other units", lambda p: with_settings(p, units=units))
    seen = []
    for stage in STAGES:
        workspace.go(stage.name)
        for ident in (None, "saw", "cyclone", *list(workspace.project.run)[:2], "planer-top"):
            workspace.select(ident)
            seen += [(stage.name, ident, text) for text in texts(page(workspace, stage_page))]
        settle(window)
        for part in (window.floor, window.strip, window.rack, window.stage_bar):
            seen += [(stage.name, part, words) for words, _ in painted_words(part)]
    assert not [each for each in seen if POINT.search(each[2])]
    assert sum(bool(re.search(r"\d,\d", words)) for _, _, words in seen) > 100


def test_reasons_papers_and_answers_have_commas_too(commas, window):
    workspace, assessment = window.workspace, window.workspace.assessment
    workspace.edit("Metres", lambda p: with_settings(p, units="metric"))
    seen = [text for each in reasons() for text in reason_page(assessment, each).paragraphs]
    seen += [
        mark.text
        for sheet in pages(papers(assessment), "A4")
        for mark in sheet.marks
        if isinstance(mark, Word)
    ]
    window.background.stop()
    for stage in ("collector", "keep", "work"):
        workspace.go(stage)
        job = asking.job_due(workspace)
        assert job is not None
        found = carried_out(workspace.assessment.counted, job)
        window.on_job_done(workspace.revision, job, found)
        settle(window)
        seen += [words for words, _ in painted_words(window.strip)]
        seen += list(texts(page(workspace, stage_page)))
    assert not [each for each in seen if POINT.search(each)]


def test_figures_are_typed_as_they_are_shown(commas, window, hands):
    workspace = window.workspace
    workspace.edit("Metres", lambda p: with_settings(p, units="metric"))
    workspace.go("shop")
    workspace.select("loft/wall-1")
    for typed, metres, shown in (("8,4", 8.4, "8,40 m"), ("8.25", 8.25, "8,25 m")):
        hands.type_into("loft/wall-1/length", typed)
        assert wall_length(workspace.project.rooms[0], 0) == pytest.approx(metres)
        assert window.inspector.fields["loft/wall-1/length"].text() == shown


def test_the_marks_are_those_of_the_computer_until_others_are_chosen(window, monkeypatch):
    monkeypatch.delenv(VARIABLE, raising=False)
    monkeypatch.setattr(QLocale, "system", lambda: QLocale("de_DE"))
    assert [app._marks(wish) for wish in ("system", "point", "comma")] == [
        "comma",
        "point",
        "comma",
    ]
    monkeypatch.setattr(QLocale, "system", lambda: QLocale("en_US"))
    assert app._marks("system") == "point"
    window.put_setting("numbers", "comma")
    assert window.settings.get("numbers") == "comma" and "next start" in window.banner.text.text()


def fields_of(value):
    """Every field that is typed within a page's values."""
    if isinstance(value, TextField):
        yield value
    elif isinstance(value, tuple):
        for part in value:
            yield from fields_of(part)
    elif is_dataclass(value):
        for field in dataclass_fields(value):
            yield from fields_of(getattr(value, field.name))


@pytest.mark.parametrize("units", ["us", "metric", "metric-cm"])
@pytest.mark.parametrize("marks", ["point", "comma"])
def test_what_a_field_shows_reads_back_as_it_is(marks, units):
    workspace, looked = Workspace(with_settings(demo(), units=units)), 0
    project = workspace.project
    some = (project.runs, project.points, project.features, project.openings, project.gates)
    chosen = [None, *project.machine, *project.collector, "loft/wall-1"]
    chosen += [item.id for kind in some for item in kind[:4]]
    with written(marks):
        for stage in STAGES:
            workspace.go(stage.name)
            for ident in chosen:
                workspace.select(ident)
                for field in fields_of(page(workspace, stage_page)):
                    # A complaint begins with nothing in it.
                    if field.value and field.say is not None:
                        looked += 1
                        again = field.say(field.read(field.value))
                        assert again == field.value.removeprefix("about "), field.key
    assert looked > 500

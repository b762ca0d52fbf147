"""What the window says of one small shop: every page with its fields, the rack, the strips and the
floor; read through by hand once, and the same since.

Where a page is changed on purpose, `GREY_CURRENT_RENEW=1` writes the new one down; the difference is
then to be read.
"""

from __future__ import annotations

import datetime
from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QApplication

import tests.core
from grey_current.dates import date_words
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Picture,
    Table,
    TextField,
)
from grey_current.desk.inspector.pages import page
from grey_current.desk.shell.rack import row_facts
from grey_current.desk.stages import stage_page
from grey_current.workspace import asking
from grey_current.workspace.jobs import carried_out
from tests.core.kept import same_as_kept
from tests.desk.seen import painted_words

pytestmark = pytest.mark.usefixtures("compiled_kernel")
SAVED = Path(tests.core.__file__).parent / "saved" / "small"
SELECTED = {
    "shop": (None, "side-door"),
    "machines": ("planer",),
    "collector": ("fan",),
    "air": (None, "saw", "main", "planer-hood-hose", "wye"),
    "gates": (None, "gate-saw-cabinet"),
    "build": (None, "main"),
    "work": (None, "planer"),
    "keep": (None, "inlet"),
}


def test_what_is_shown_of_a_small_shop(window):
    workspace = window.workspace
    workspace.open(SAVED / "small.greycurrent.json")
    lines: list[str] = []
    for stage, selected in SELECTED.items():
        workspace.go(stage)
        for chosen in selected:
            workspace.select(chosen)
            answered(window)
            lines += ["", f"## {stage}: {chosen or 'nothing selected'}"]
            lines += page_lines(page(workspace, stage_page))
            if chosen is None:
                lines += [f"= {workspace.verdict} {workspace.cause}"]
                for machine in workspace.project.machine:
                    facts = row_facts(workspace, machine)
                    lines += [f"| {facts.name}: {facts.state}, {facts.figures}, {facts.transport}"]
                strip = dict.fromkeys(text for text, _ in painted_words(window.strip))
                lines += ["# " + " · ".join(strip)] if strip else []
    text = "\n".join(lines).strip() + "\n"
    # Which day it is today is no part of it.
    text = text.replace(date_words(datetime.date.today(), "us"), "today")
    same_as_kept(text, SAVED / "shown.txt")


def answered(window) -> None:
    """Give every answer that the page waits for."""
    QApplication.processEvents()
    while (job := asking.job_due(window.workspace)) is not None:
        answer = carried_out(window.workspace.assessment.counted, job)
        window.on_job_done(window.workspace.revision, job, answer)
    window.search.find_all()
    QApplication.processEvents()


def page_lines(shown: Page) -> Iterator[str]:
    yield f"{shown.title} ({shown.state}): {shown.subtitle} {shown.answer}"
    for section in shown.sections:
        # They hang on what the catalogue has.
        if section.title == "Recommended collectors":
            continue
        yield f"- {section.title} [{section.summary}]"
        yield from (f"    {line}" for item in section.items for line in item_lines(item))
    yield from (f"! {found.severity}: {found.message}" for found in shown.findings)
    yield f"  {shown.caution}"


def item_lines(item: Item) -> Iterator[str]:
    match item:
        case Fact():
            yield f"{item.label}: {item.value} {item.state}".strip()
        case TextField():
            yield f"{item.label} = {item.value}"
        case ChoiceField():
            yield f"{item.label} = {dict(item.options).get(item.value, item.value)}"
        case ActionField():
            yield f"[{item.label}] {item.detail}".strip()
        case Picture():
            yield item.words
        case Table():
            yield from (" | ".join(row) for row in (item.headings, *item.rows))

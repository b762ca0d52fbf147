"""What takes the air, on a page: the root cause with its cure as the one thing to do, the other
causes folded behind it.
"""

from __future__ import annotations

from dataclasses import replace

from grey_current.design.diagnosis.cause import Cause
from grey_current.design.diagnosis.diagnose import Diagnosis
from grey_current.design.diagnosis.words import (
    brings_words,
    cause_sentence,
    cost_words,
    cure_words,
    worse_words,
)
from grey_current.desk.inspector.fields import ActionField, Fact, Item, Page, Section
from grey_current.desk.inspector.reason_fields import why_button
from grey_current.workspace.jobs import Job
from grey_current.workspace.workspace import Workspace

TITLE, OTHERS = "Why", "Other causes"
LOOKING = "Looking for the cause…"


def cause_sections(workspace: Workspace, job: Job, owner: str) -> list[Section]:
    """The root cause and its cure, then the other causes; empty where nothing is out of the
    ordinary.
    """
    diagnosis = workspace.computed.known_diagnosis(job)
    if diagnosis is None:
        return [Section(TITLE, (Fact("", LOOKING),), 2)]
    if not diagnosis.causes:
        return []
    root, others = diagnosis.causes[0], diagnosis.causes[1:]
    first = _items(workspace, job, diagnosis, root, f"{owner}/cause-1")
    sections = [Section(TITLE, first, 2)]
    if others:
        items: list[Item] = []
        for number, cause in enumerate(others, 2):
            items += _items(workspace, job, diagnosis, cause, f"{owner}/cause-{number}")
        sections.append(Section(OTHERS, tuple(items), summary=f"{len(others)} more"))
    return sections


def _items(
    workspace: Workspace, job: Job, diagnosis: Diagnosis, cause: Cause, key: str
) -> tuple[Item, ...]:
    """What a cause is, the button that puts it right or what to do instead, and its reasons."""
    project, cure = workspace.project, cause.cure
    said = Fact("", cause_sentence(cause), prose=True)
    why = why_button(workspace, key, cause.code)
    if cure is None:
        return said, Fact("", cure_words(project, diagnosis, cause)), *why
    facts = (
        brings_words(project, diagnosis, cure),
        cost_words(project, cure),
        worse_words(cure, brief=cause is diagnosis.causes[0]),
        workspace.computed.known_adds(job, cure.change.words),
    )
    mend = ActionField(
        key,
        cure.change.words,
        step=cure.change.words,
        edit=cure.change.edit,
        detail="; ".join(fact for fact in facts if fact),
        primary=cause is diagnosis.causes[0],
    )
    return said, mend, *why


def with_explained(workspace: Workspace, job: Job | None, page: Page) -> Page:
    """The page with the problems that the root cause explains taken out of the others."""
    diagnosis = workspace.computed.known_diagnosis(job)
    root = diagnosis.root if diagnosis is not None else None
    if root is None:
        return page
    explained = tuple(f for f in page.findings if (f.code, f.element) in root.explains)
    left = tuple(f for f in page.findings if f not in explained)
    return replace(page, findings=left, explained=explained)

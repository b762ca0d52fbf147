"""Pages of reasons beside the floor: the list of them, and one with this shop's figures."""

from __future__ import annotations

from functools import partial

from grey_current.design.reasons.reasons import GROUPS, reason_about, reason_page, reasons
from grey_current.desk.inspector.fields import ActionField, Fact, Item, Page, Section
from grey_current.shop.names import lower_first
from grey_current.workspace.workspace import Workspace

LIST = ""


def reading_page(workspace: Workspace, ident: str) -> Page:
    """The page that is read, or the list of all of them."""
    if ident == LIST:
        return _list_page(workspace)
    shown = reason_page(workspace.assessment.counted, ident)
    said: tuple[Item, ...] = tuple(
        Fact("", paragraph, prose=True) for paragraph in shown.paragraphs
    )
    doing: list[Item] = []
    change = shown.show
    if change is not None:
        doing.append(
            ActionField(
                "reason/show",
                f"Show me: {lower_first(change.words)}",
                step=change.words,
                act=partial(workspace.show_me, change),
                detail="the design as it is now is kept beside it, to compare with",
                primary=True,
            )
        )
    doing += [
        ActionField("reason/back", "Close this page", "", act=partial(workspace.read, None)),
        ActionField("reason/all", "All reasons", "", act=partial(workspace.read, LIST)),
    ]
    sections = (
        Section(shown.reason.group, said, open_first=True),
        Section("What to do", tuple(doing), open_first=True),
    )
    source = f"Source: {shown.reason.source}."
    return Page(shown.reason.title, "", sections, (), source, problems=False)


def _list_page(workspace: Workspace) -> Page:
    sections = [
        Section(
            group,
            tuple(
                ActionField(
                    f"reason/{each.id}", each.title, "", act=partial(workspace.read, each.id)
                )
                for each in reasons().values()
                if each.group == group
            ),
        )
        for group in GROUPS
    ]
    back = ActionField("reason/back", "Close this list", "", act=partial(workspace.read, None))
    sections.append(Section("Back", (back,), open_first=True))
    return Page(
        "Reasons", "", tuple(sections), (), answer="Why advice is what it is.", problems=False
    )


def why_button(workspace: Workspace, key: str, code: str) -> tuple[ActionField, ...]:
    """A button to the page about a finding or a cause; empty where there is none."""
    ident = reason_about(code)
    if ident is None:
        return ()
    page, read = reasons()[ident], partial(workspace.read, ident)
    # A question is its own label.
    if page.group == "What people ask":
        return (ActionField(f"{key}/{ident}", page.title, "", act=read),)
    return (ActionField(f"{key}/why", "Read why", "", act=read, detail=page.title),)

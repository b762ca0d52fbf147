"""Arrangements on the Machines stage's page: begin one, lay one out, name it, delete it."""

from __future__ import annotations

from grey_current.design.space.hose_reach import cut_off
from grey_current.desk.inspector.fields import ActionField, Fact, Item, Section, TextField
from grey_current.shop import arrangements
from grey_current.shop.model import FloorArrangement, Project
from grey_current.shop.names import Names
from grey_current.workspace.workspace import Workspace


def arrangements_section(workspace: Workspace) -> Section:
    """How the shop may stand: each arrangement with a click that lays it out."""
    project = workspace.project
    items: list[Item] = []
    for each in project.arrangements:
        items += _of_arrangement(workspace, each)
    items.append(
        ActionField(
            "new-arrangement",
            "New arrangement",
            step="Begin an arrangement",
            edit=lambda p: arrangements.begun(p)[0],
            detail="for a day on which things stand elsewhere: sheets, the car in, assembly",
        )
    )
    now = next((e.name for e in project.arrangements if e.id == project.arranged), "one only")
    return Section("Arrangements", tuple(items), summary=now)


def _of_arrangement(workspace: Workspace, each: FloorArrangement) -> list[Item]:
    project = workspace.project
    name = TextField(
        f"{each.id}/arrangement-name",
        "Name",
        each.name,
        step="Rename an arrangement",
        read=str,
        edit=lambda p, v: arrangements.renamed(p, each.id, v),
    )
    if each.id == project.arranged:
        return [Fact("Laid out now", each.name), name]
    return [
        name,
        ActionField(
            f"{each.id}/lay-out",
            f"Lay out “{each.name}”",
            step=f"Lay out {each.name}",
            edit=lambda p: arrangements.laid_out(p, each.id),
            detail=_moves_words(project, each),
        ),
        ActionField(
            f"{each.id}/drop-arrangement",
            f"Delete “{each.name}”",
            step=f"Delete {each.name}",
            edit=lambda p: arrangements.dropped(p, each.id),
        ),
    ]


def _moves_words(project: Project, each: FloorArrangement) -> str:
    there = arrangements.laid_out(project, each.id)
    found = arrangements.moves(project, there)
    if not found:
        return "nothing to move"
    minutes = sum(each for _, each in found)
    things = "1 thing" if len(found) == 1 else f"{len(found)} things"
    words = f"{things} to move, {arrangements.minutes_words(minutes)}"
    away = cut_off(project, there)
    if away:
        names = Names(project)
        words += f"; the ducts do not reach {', '.join(names.of(ident) for ident in away)} there"
    return words

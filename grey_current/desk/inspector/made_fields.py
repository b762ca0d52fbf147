"""Things to make in the shop, offered where they are needed: figures, what decides, the drawing."""

from __future__ import annotations

from typing import Any

from grey_current.build.made.at_place import bought_instead, made_for, templates_at
from grey_current.build.made.template import TemplateInput, read, say
from grey_current.build.made.templates import notes, template
from grey_current.desk.inspector.fields import ActionField, Changed, Fact, Item, Section, TextField
from grey_current.errors import GreyCurrentError
from grey_current.shop.build_plan import ShopMade
from grey_current.shop.model import Project
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace


def made_sections(workspace: Workspace, element: str) -> list[Section]:
    """What is made for an element, and what could be."""
    project = workspace.project
    there = [item for item in project.build.made if item.element == element]
    sections = [_made_section(workspace, item) for item in there]
    made = {item.template for item in there}
    offers: list[Item] = []
    for name in templates_at(project, element):
        if name not in made:
            chosen = template(name)
            offers.append(
                ActionField(
                    f"make/{name}/{element}",
                    chosen.title,
                    step=f"Make a {chosen.title.lower()}",
                    edit=_maker(workspace, name, element),
                    detail=chosen.purpose.lower(),
                )
            )
    return [*sections, *([Section("Make it yourself", tuple(offers))] if offers else [])]


def _maker(workspace: Workspace, name: str, element: str) -> Any:
    now = workspace.assessment
    return lambda project: made_for(now, name, element) if project == now.project else project


def _made_section(workspace: Workspace, item: ShopMade) -> Section:
    project = workspace.project
    display, chosen = Display(project.settings.units), template(item.template)
    fields: list[Item] = [
        TextField(
            f"made/{item.template}/{item.element}/{asked.name}",
            asked.label,
            say(asked, item.figures.get(asked.name, asked.default), display),
            step=f"Change the {chosen.title.lower()}",
            read=_reader(asked, display),
            edit=_changer(workspace, item, asked.name),
            say=_sayer(asked, display),
        )
        for asked in chosen.asks
    ]
    try:
        fields += [Fact("", line) for line in notes(chosen.made(item.figures, display), display)]
    except GreyCurrentError as problem:
        fields.append(Fact("", str(problem)))
    fields += [
        ActionField(
            f"drawing/{item.template}/{item.element}",
            "Save its drawing…",
            step="",
            act=lambda: workspace.save_drawing(item.template, dict(item.figures)),
            detail="PDF at full size to saw by, DXF for a machine, SVG to scale",
        ),
        ActionField(
            f"unmake/{item.template}/{item.element}",
            "Buy it instead" if item.replaces else "Do without it",
            step="Take a shop-made thing off the list",
            edit=lambda p: bought_instead(p, item.template, item.element),
        ),
    ]
    return Section(chosen.title, tuple(fields))


def _reader(asked: TemplateInput, display: Display) -> Any:
    return lambda text: read(asked, text, display)


def _sayer(asked: TemplateInput, display: Display) -> Any:
    return lambda value: say(asked, value, display)


def _changer(workspace: Workspace, item: ShopMade, name: str) -> Changed:
    def edit(project: Project, value: float) -> Project:
        del project
        return made_for(
            workspace.assessment, item.template, item.element, {**item.figures, name: value}
        )

    return edit

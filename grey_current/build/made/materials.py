"""What things made in the shop want bought: sheets, battens, screws, glue and what else each
names.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from grey_current.build.made.template import Board, TemplateResult
from grey_current.build.made.templates import template
from grey_current.design.parts.parts_list import Part, gathered
from grey_current.design.parts.takeoffs import Use
from grey_current.errors import InputError
from grey_current.shop.model import Project
from grey_current.units import Display

# Sheet bought over sheet used; screws and litres of glue for each board. Allowances.
OFFCUTS, SCREWS, GLUE = 1.2, 6, 0.01
# What boards are cut from, by the first word of their material: a kind of sheet, or a batten.
SHEETS = {"plywood": "plywood", "hardboard": "hardboard", "clear": "polycarbonate"}


def with_materials(parts: Iterable[Part], project: Project) -> tuple[Part, ...]:
    """A list of parts with the materials of everything that is made in the shop. Raises nothing."""
    listed = tuple(parts)
    bought = [Use(part.key, element, n) for part in listed for element, n in part.uses]
    materials = list(_materials(project))
    return gathered((*bought, *materials)) if materials else listed


def _materials(project: Project) -> Iterator[Use]:
    display = Display(project.settings.units)
    for number, item in enumerate(project.build.made):
        if item.element and project.find(item.element) is None:
            continue
        # Figures that no longer go together are told where the thing is shown.
        try:
            made = template(item.template).made(item.figures, display)
        except InputError:
            continue
        element = item.element or f"made-{number + 1}"
        for key, quantity in supplies(made):
            yield Use(key, element, quantity)


def supplies(made: TemplateResult) -> Iterator[tuple[str, float]]:
    """Everything that a thing wants bought: part keys, each with how much of it. Raises nothing."""
    count = 0
    for board in made.boards:
        count += board.count
        yield stock(board)
    if count > 1:
        yield "wood-screws", float(SCREWS * count)
        yield "wood-glue", GLUE * count
    for supply in made.supplies:
        yield supply.key, supply.quantity


def stock(board: Board) -> tuple[str, float]:
    """The part that a board is cut from, and how much of it (m² or m). Raises nothing."""
    kind = SHEETS.get(board.material.replace(",", " ").split()[0])
    if kind is None:
        return "batten", board.count * board.length
    area = board.count * board.length * board.width * OFFCUTS
    return f"sheet/{kind}/{max(board.thickness * 1000, 1):.0f}", area

"""All templates, and what one makes as a sheet: drawing at a usual scale with its cut list and its
facts as notes.
"""

from __future__ import annotations

from grey_current.build.drawing import Drawing, fitting_scale
from grey_current.build.full_size import to_cut
from grey_current.build.made.coupler import COUPLER
from grey_current.build.made.hoods import BOX, CLOSING_PLATE, HOOD
from grey_current.build.made.hung import ARM, BRACKET, CRADLE
from grey_current.build.made.joints import ADAPTOR, GATE, SPLITTER
from grey_current.build.made.lid import LID
from grey_current.build.made.rooms import ROOM_FILTER, SOUND_BOX
from grey_current.build.made.template import Figures, Template, TemplateResult
from grey_current.build.made.tops import DOWNDRAFT, OVER_BLADE, SLOT_HOOD
from grey_current.errors import InputError
from grey_current.numerals import compact
from grey_current.units import Display

TEMPLATES: tuple[Template, ...] = (
    GATE,
    COUPLER,
    ADAPTOR,
    SPLITTER,
    HOOD,
    BOX,
    CLOSING_PLATE,
    SLOT_HOOD,
    OVER_BLADE,
    DOWNDRAFT,
    BRACKET,
    ARM,
    CRADLE,
    LID,
    SOUND_BOX,
    ROOM_FILTER,
)
# mm of paper for a template's drawing.
SHEET = (190.0, 150.0)


def template(name: str) -> Template:
    """A template by its name. Raises `InputError` for an unknown one."""
    found = next((item for item in TEMPLATES if item.name == name), None)
    if found is None:
        raise InputError(
            "what to make", name, f"choose one of {', '.join(item.name for item in TEMPLATES)}"
        )
    return found


def sheet(name: str, given: Figures, display: Display) -> Drawing:
    """A template's drawing with everything that is to be read beside it. Raises as
    `Template.made`.
    """
    chosen = template(name)
    made = chosen.made(given, display)
    drawing = Drawing(chosen.title, made.items)
    scale = fitting_scale([drawing], *SHEET)
    return Drawing(
        chosen.title, made.items, scale, (f"Scale 1 : {compact(scale)}", *notes(made, display))
    )


def full_size(name: str, given: Figures, display: Display, kerf: float = 0.0) -> Drawing:
    """A template's drawing at full size, to be sawn by; with a `kerf` (m) contours lie where the
    middle of the cut goes. Raises as `Template.made`.
    """
    chosen = template(name)
    made = chosen.made(given, display)
    return to_cut(Drawing(chosen.title, made.items, 1.0, notes(made, display)), kerf)


def notes(made: TemplateResult, display: Display) -> tuple[str, ...]:
    """What decides, what else is to be known, what to cut, and what to beware of, each as a
    line.
    """
    cut = [
        f"{board.count} × {board.name}, {board.material}: {display.length(board.length)} × "
        f"{display.length(board.width)}, {display.length(board.thickness)} thick"
        for board in made.boards
    ]
    return (made.decides, *made.facts, *cut, *made.cautions)

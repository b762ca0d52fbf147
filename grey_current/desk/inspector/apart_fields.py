"""Fields of what stands by itself of a collector: its separator or its filter."""

from __future__ import annotations

from typing import Any

from grey_current.design.space.apart_places import beside_its_fan
from grey_current.desk.inspector.fields import (
    NOTHING,
    Changed,
    ChoiceField,
    Fact,
    Item,
    Section,
    TextField,
    length_field,
)
from grey_current.desk.inspector.place_fields import place_fields
from grey_current.shop.apart_edits import stood_by_itself, with_part, with_part_inlet
from grey_current.shop.collector_edits import INLET_SIDES, inlet_side
from grey_current.shop.collectors import PARTS, Apart, Collector, PartName
from grey_current.shop.model import Project
from grey_current.shop.names import capital
from grey_current.shop.places import lead_length
from grey_current.units import Display, parse_length

WHERE: dict[PartName, str] = {"separator": "The separator is", "filter": "The filter is"}
BY_ITSELF = "by itself, with a hose"
AS_FAR = "as far as it is"


def place_choice(item: Collector, part: PartName) -> ChoiceField:
    """Whether a part is on the collector's own body or stands by itself."""
    now = "apart" if item.apart(part) is not None else "on it"

    def place(project: Project, value: str) -> Project:
        if value == "apart":
            return beside_its_fan(project, item.id, part)
        return stood_by_itself(project, item.id, part, False)

    return ChoiceField(
        f"{item.id}/{part}-place",
        WHERE[part],
        now,
        (("on it", "on the collector"), ("apart", BY_ITSELF)),
        step=f"Move the {part}",
        edit=place,
    )


def apart_sections(project: Project, item: Collector, chosen: str = "") -> tuple[Section, ...]:
    """A section for each part that stands by itself; that of the one which is `chosen` is open."""
    return tuple(
        Section(
            f"{capital(part)} by itself",
            _fields(project, item, part, body),
            open_first=chosen == f"{item.id}/{part}",
        )
        for part in PARTS
        if (body := item.apart(part)) is not None
    )


def _fields(project: Project, item: Collector, part: PartName, body: Apart) -> tuple[Item, ...]:
    ref, display = f"{item.id}/{part}", Display(project.settings.units)

    def to(name: str) -> Changed:
        def edit(p: Project, value: Any) -> Project:
            return with_part(p, item.id, part, **{name: value})

        return edit

    sizes = (("bottom", "Its foot is up"), *((n, capital(n)) for n in ("width", "depth", "height")))
    items: list[Item] = [
        *place_fields(project, ref),
        *(
            length_field(project, f"{ref}/{name}", label, getattr(body, name), edit=to(name))
            for name, label in sizes
        ),
        length_field(project, f"{ref}/port", "Its ports", body.port, edit=to("port")),
        ChoiceField(
            f"{ref}/inlet-side",
            "Inlet on its",
            inlet_side(body),
            tuple((side, side) for side in INLET_SIDES),
            step="Change the inlet's side",
            edit=lambda p, v: with_part_inlet(p, item.id, part, v),
        ),
        length_field(
            project, f"{ref}/hose", "Hose to the fan", body.hose or body.port, edit=to("hose")
        ),
        TextField(
            f"{ref}/length",
            "Its length",
            AS_FAR if body.length is None else display.length(body.length),
            step="Change the hose's length",
            read=lambda text: _length(project, text),
            edit=to("length"),
            say=lambda v: AS_FAR if v is None else display.length(v),
        ),
    ]
    if body.length is None:
        items.append(Fact("It takes", display.about(lead_length(item, part))))
    items.append(
        Fact("", "It is moved and turned with the fan. Del puts it back on the collector.")
    )
    return tuple(items)


def _length(project: Project, text: str) -> float | None:
    """A length, or None for what the distance asks for."""
    if text.strip().lower() in (*NOTHING, AS_FAR):
        return None
    return parse_length(text, project.settings.units, "Hose to the fan, length")

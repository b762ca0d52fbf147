"""Fields for where something is, as one measures it with a tape: from the left and from the lower
edge of the room.
"""

from __future__ import annotations

from grey_current.desk.inspector.fields import (
    ChoiceField,
    Item,
    Section,
    length_field,
    offset_field,
)
from grey_current.shop.collectors import Collector
from grey_current.shop.edits import changed
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.room import Feature, Opening
from grey_current.shop.stacking import Thing, bottom_of
from grey_current.shop.stacking_edits import stand_choices, stands, with_stand
from grey_current.shop.typed_places import along_wall, measured, with_along_wall, with_measured

STEP = "Move by typing"


def place_fields(project: Project, ref: str) -> tuple[Item, ...]:
    """Two fields for the place of something; none for what has no place of its own."""
    here = measured(project, ref)
    if here is None:
        return ()
    return (
        offset_field(
            project,
            f"{ref}/left",
            "From the left",
            here[0],
            edit=lambda p, v: with_measured(p, ref, left=v),
            step=STEP,
        ),
        offset_field(
            project,
            f"{ref}/low",
            "From below",
            here[1],
            edit=lambda p, v: with_measured(p, ref, low=v),
            step=STEP,
        ),
    )


def place_section(
    project: Project, ref: str, title: str = "Its place on the plan"
) -> tuple[Section, ...]:
    """The same as a section of its own; none for what has no place."""
    fields = place_fields(project, ref)
    return (Section(title, fields),) if fields else ()


def stand_fields(project: Project, item: Thing) -> tuple[Item, ...]:
    """What something stands on, under or in, and how high its foot is; none for what stands on the
    floor where nothing else does.
    """
    choices = stand_choices(project, item)
    if len(choices) == 1 and bottom_of(item) == 0:
        return ()
    stand = ChoiceField(
        f"{item.id}/stands-on",
        "It stands",
        stands(project, item),
        choices,
        step="Change what it stands on",
        edit=lambda p, v: with_stand(p, item.id, v),
    )
    if isinstance(item, Feature):
        return (stand,)
    return (stand, foot_field(project, item))


def foot_field(project: Project, item: Machine | Collector) -> Item:
    """How high over the floor the foot of something is."""
    return length_field(
        project,
        f"{item.id}/foot",
        "Its foot is up",
        item.bottom,
        edit=lambda p, v: changed(p, item.id, bottom=v),
        step="Raise it",
    )


def along_field(project: Project, item: Opening) -> Item:
    """How far an opening lies from the corner where its wall begins."""
    along = along_wall(project, item)
    return length_field(
        project,
        f"{item.id}/along",
        "From the corner",
        along,
        edit=lambda p, v: with_along_wall(p, item.id, v),
        step=STEP,
    )

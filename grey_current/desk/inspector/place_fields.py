"""Fields for where something is, as one measures it with a tape: from the left and from the lower
edge of the room.
"""

from __future__ import annotations

from grey_current.desk.inspector.fields import Item, Section, length_field, offset_field
from grey_current.shop.model import Project
from grey_current.shop.room import Opening
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

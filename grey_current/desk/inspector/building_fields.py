"""What the Shop stage's pages say of openings, things that stand there, beams, outlets and the plan
underneath.
"""

from __future__ import annotations

import math

from grey_current.desk.inspector.fields import (
    NOTHING,
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Section,
    TextField,
    choice,
    length_field,
    name_field,
    number_field,
    offset_field,
    yes_no,
)
from grey_current.desk.inspector.place_fields import (
    along_field,
    place_fields,
    place_section,
    stand_fields,
)
from grey_current.shop import edits, room_edits
from grey_current.shop.arrangements import MOVED_ABOUT
from grey_current.shop.model import Project
from grey_current.shop.places import XY, middle_of
from grey_current.shop.room import FLAT, OVERHEAD, Beam, Circuit, Feature, Opening, Outlet, walls
from grey_current.shop.typed_places import origin
from grey_current.shop.underlays import with_underlay, with_underlay_wide
from grey_current.units import Display, parse_length

SWINGS = (
    ("none", "does not swing"),
    ("left from start", "in or left, hinges first"),
    ("left from end", "in or left, hinges last"),
    ("right from start", "out or right, hinges first"),
    ("right from end", "out or right, hinges last"),
)
KINDS = tuple(
    (k, k) for k in ("door", "roll-up door", "sliding door", "hoist door", "doorway", "window")
)
CEILING = "up to the ceiling"


# What may begin over the floor.
HANGING = OVERHEAD | {"bench", "rack", "cupboard", "air cleaner"}
# What may be on wheels.
ROLLED = frozenset({"bench", "rack"})
# What may have doors or drawers.
OPENS = frozenset({"bench", "rack", "cupboard", "finish store"})


def opening_fields(project: Project, item: Opening) -> tuple[Section, ...]:
    """An opening: what it is, where in its wall, how wide and high."""
    width = math.dist(item.start, item.end)

    items: list[Item] = [
        name_field(item.id, item.name),
        choice(item.id, "kind", "Kind", item.kind, KINDS),
        length_field(
            project,
            f"{item.id}/width",
            "Width",
            width,
            edit=lambda p, v: room_edits.with_opening_width(p, item.id, v),
        ),
        along_field(project, item),
        length_field(
            project,
            f"{item.id}/sill",
            "Sill",
            item.sill,
            edit=lambda p, v: room_edits.with_opening_heights(p, item.id, sill=v),
        ),
        length_field(
            project,
            f"{item.id}/head",
            "Head",
            item.head,
            edit=lambda p, v: room_edits.with_opening_heights(p, item.id, head=v),
        ),
        yes_no(item.id, "feeds", "Boards pass", item.feeds),
    ]
    if item.kind == "door":
        items.append(choice(item.id, "swing", "Swings", item.swing, SWINGS))
    return (Section("Opening", tuple(items)),)


def feature_fields(project: Project, item: Feature) -> tuple[Section, ...]:
    """A thing that stands there: its place and sizes."""
    xs, ys = zip(*item.outline, strict=True)
    across, deep = max(xs) - min(xs), max(ys) - min(ys)

    items: tuple[Item, ...] = (
        name_field(item.id, item.name),
        length_field(
            project,
            f"{item.id}/across",
            "Across",
            across,
            edit=lambda p, v: room_edits.with_feature_size(p, item.id, across=v),
        ),
        length_field(
            project,
            f"{item.id}/deep",
            "Deep",
            deep,
            edit=lambda p, v: room_edits.with_feature_size(p, item.id, deep=v),
        ),
        *(() if item.kind in FLAT - OVERHEAD else (_top_field(project, item),)),
        *((_bottom_field(project, item),) if item.kind in HANGING else ()),
        *(_front_fields(project, item) if item.kind in OPENS else ()),
        *place_fields(project, item.id),
        *(() if item.kind in FLAT else stand_fields(project, item)),
        *((yes_no(item.id, "wheels", "On wheels", item.wheels),) if item.kind in ROLLED else ()),
        *(
            (yes_no(item.id, "away", "It is", item.away, ("away now", "there")),)
            if item.kind in MOVED_ABOUT
            else ()
        ),
        ActionField(
            f"{item.id}/turn",
            "Rotate 90°",
            step="Rotate",
            edit=lambda p: room_edits.quarter_turned(p, item.id),
        ),
    )
    return (Section(item.kind.capitalize(), items),)


def _front_fields(project: Project, item: Feature) -> tuple[Item, ...]:
    """To which side its doors or drawers open, and how deep the ground before them stays free."""
    options = [("", "nothing")]
    for number, (a, b) in enumerate(walls(item.outline)):
        options.append((str(number), _side_of(item, ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2))))
    side = ChoiceField(
        f"{item.id}/front",
        "Opens to",
        "" if item.front is None else str(item.front),
        tuple(options),
        step="Change where it opens to",
        edit=lambda p, v: edits.changed(p, item.id, front=int(v) if v else None),
    )
    if item.front is None:
        return (side,)
    depth = length_field(
        project,
        f"{item.id}/front-depth",
        "Free before it",
        item.front_depth,
        edit=lambda p, v: edits.changed(p, item.id, front_depth=v),
    )
    return (side, depth)


def _side_of(item: Feature, middle: XY) -> str:
    """Where a side of something lies on the plan."""
    cx, cy = middle_of(item.outline)
    dx, dy = middle[0] - cx, middle[1] - cy
    if abs(dx) > abs(dy):
        return "the right" if dx > 0 else "the left"
    return "above, on the plan" if dy > 0 else "below, on the plan"


def _top_field(project: Project, item: Feature) -> TextField:
    """How high something stands: a length, or up to the ceiling."""
    units = project.settings.units

    def read(text: str) -> float | None:
        if "ceiling" in text.lower() or not text.strip():
            return None
        return parse_length(text, units, "Top")

    shown = CEILING if item.top is None else Display(units).length(item.top)
    return TextField(
        f"{item.id}/top",
        "Top",
        shown,
        step="Change the top",
        read=read,
        edit=lambda p, v: edits.changed(p, item.id, top=v),
        quantity="length",
        amount=item.top,
    )


def _bottom_field(project: Project, item: Feature) -> TextField:
    """From which height something takes room."""
    return length_field(
        project,
        f"{item.id}/bottom",
        "Free under it" if item.kind == "bench" else "Underside",
        item.bottom,
        edit=lambda p, v: edits.changed(p, item.id, bottom=v),
    )


def beam_fields(project: Project, item: Beam) -> tuple[Section, ...]:
    """A beam: its height, and both of its ends."""
    items = (
        length_field(
            project,
            f"{item.id}/underside",
            "Underside",
            item.underside,
            edit=lambda p, v: edits.changed(p, item.id, underside=v),
        ),
        length_field(
            project,
            f"{item.id}/width",
            "Width",
            item.width,
            edit=lambda p, v: edits.changed(p, item.id, width=v),
        ),
    )
    length = math.dist(item.start, item.end)
    turn = math.degrees(math.atan2(item.end[1] - item.start[1], item.end[0] - item.start[0]))
    way: tuple[Item, ...] = (
        length_field(
            project,
            f"{item.id}/length",
            "Length",
            length,
            edit=lambda p, v: room_edits.with_beam_turned(p, item.id, length=v),
        ),
        number_field(
            f"{item.id}/angle",
            "Angle",
            round(turn, 1),
            edit=lambda p, v: room_edits.with_beam_turned(p, item.id, degrees=v),
            unit="°",
        ),
    )
    ends = (
        *place_section(project, f"{item.id}/end-1", "One end"),
        *place_section(project, f"{item.id}/end-2", "The other end"),
    )
    return (Section("Beam", (*items, *way)), *ends)


def underlay_section(project: Project) -> tuple[Section, ...]:
    """Where the plan underneath lies, how wide it is and how it is turned; nothing without one."""
    plan = project.underlay
    if plan is None:
        return ()
    left, low = origin(project)
    items: tuple[Item, ...] = (
        Fact("", plan.name),
        offset_field(
            project,
            "plan/left",
            "From the left",
            plan.x - left,
            edit=lambda p, v: with_underlay(p, x=v + left),
            step="Move the plan",
        ),
        offset_field(
            project,
            "plan/low",
            "From below",
            plan.y - low,
            edit=lambda p, v: with_underlay(p, y=v + low),
            step="Move the plan",
        ),
        length_field(
            project,
            "plan/width",
            "Across",
            plan.width,
            edit=with_underlay_wide,
            step="Scale the plan",
        ),
        number_field(
            "plan/turn", "Turned", plan.turn, edit=lambda p, v: with_underlay(p, turn=v), unit="°"
        ),
    )
    return (Section("The plan underneath", items),)


def _outlet_height(project: Project, item: Outlet) -> TextField:
    units = project.settings.units
    say = Display(units).length

    def read(text: str) -> float | None:
        return None if text.strip().lower() in NOTHING else parse_length(text, units, "Height")

    return TextField(
        f"{item.id}/height",
        "Height",
        "not said" if item.height is None else say(item.height),
        step="Change the height",
        read=read,
        edit=lambda p, v: edits.changed(p, item.id, height=v),
        say=lambda v: "not said" if v is None else say(v),
        quantity="length",
        amount=item.height,
    )


def outlet_fields(project: Project, item: Outlet) -> tuple[Section, ...]:
    """An outlet: its place, and the circuit that it is on."""
    circuit: Circuit = project.element[item.circuit]
    options = (*((c.id, c.name) for c in project.circuits), ("", "a new circuit"))

    items = (
        name_field(item.id, item.name),
        *place_fields(project, item.id),
        _outlet_height(project, item),
        ChoiceField(
            f"{item.id}/circuit",
            "Circuit",
            item.circuit,
            options,
            step="Change the circuit",
            edit=lambda p, v: room_edits.with_circuit(p, item.id, v),
        ),
        number_field(
            f"{circuit.id}/volts",
            "Voltage",
            circuit.volts,
            edit=lambda p, v: edits.changed(p, circuit.id, volts=v),
            unit="V",
        ),
        number_field(
            f"{circuit.id}/breaker",
            "Breaker",
            circuit.breaker,
            edit=lambda p, v: edits.changed(p, circuit.id, breaker=v),
            unit="A",
        ),
    )
    return (Section("Outlet", items),)

"""A box over a collector, and a room filter: what is made for the ears and for the dust that stays
in the room.
"""

from __future__ import annotations

import math

from grey_current.air.needs import STANDARD_DENSITY
from grey_current.build.drawing import Item, Path, Text, rectangle
from grey_current.build.made.template import (
    Board,
    Figures,
    Supply,
    Template,
    TemplateInput,
    TemplateResult,
    plate,
)
from grey_current.design.collector.noise import WALLS
from grey_current.numerals import decimal
from grey_current.units import Display

# J/(kg K) of air. White, Fluid Mechanics, 2011, table A.4.
AIR_HEAT = 1006.0
# K that the air in a box may be warmer than the room before a motor suffers. Allowance.
WARM = 15.0
LINING = 0.025
# m/s in a lined air way up to which it is not heard itself. Allowance.
SLOT_AIR = 3.0


def warming(power: float, airflow: float) -> float:
    """By how many K a motor that turns `power` (W) into heat warms an airflow (m³/s).

    Raises `ZeroDivisionError` for no air. Source: P = ρ c Q ΔT.
    """
    return power / (STANDARD_DENSITY * AIR_HEAT * airflow)


def _sound_box(f: Figures, display: Display) -> TemplateResult:
    room = f["clear"]
    wide, deep = f["width"] + 2 * room, f["depth"] + 2 * room
    high = f["height"] + f["lift"]
    # Wide enough that the air does not hiss, long and lined so that noise does not go with it.
    slot = f["airflow"] / SLOT_AIR
    filter_area = f["airflow"] / f["face"]
    warm = warming(f["power"], f["airflow"])
    items: list[Item] = [*plate(0, 0, wide, high, display)]
    items.append(rectangle(room, 0, f["width"], f["height"], "hidden"))
    items.append(Text((wide / 2, f["height"] / 2), "what stands in it"))
    x = wide + 0.3
    items += [*plate(x, 0, wide, deep, display), Text((x + wide / 2, deep + 0.05), "from above")]
    slot_high = slot / (wide / 2)
    items.append(rectangle(x + wide / 4, deep - LINING, wide / 2, LINING, "outline"))
    items.append(
        Path(((x + wide / 4 - 0.1, deep - 0.12), (x + wide * 0.75 + 0.1, deep - 0.12)), "hidden")
    )
    return TemplateResult(
        tuple(items),
        (
            Board(2, "sides", "plywood, lined inside", high, deep, 0.018),
            Board(1, "back with the slot", "plywood, lined inside", high, wide + 0.036, 0.018),
            Board(1, "door", "plywood, lined inside", high, wide + 0.036, 0.018),
            Board(
                1, "lid that lifts off", "plywood, lined inside", wide + 0.036, deep + 0.036, 0.018
            ),
            Board(
                1,
                "baffle before the slot",
                "plywood, lined both sides",
                wide / 2 + 0.2,
                slot_high + 0.1,
                0.018,
            ),
        ),
        f"It takes about {WALLS['boxed in']:.0f} dB off: half as loud and a little more. Its "
        "air comes out through a "
        f"lined slot of {display.length(wide / 2)} × {display.length(slot_high)} behind a baffle.",
        (
            f"The motor warms the air by {display.warmer(warm)}"
            + (
                ": that is well."
                if warm <= WARM
                else f", more than {display.warmer(WARM)}: let more air through."
            ),
            f"A filter in the way back wants {display.surface(filter_area)} at "
            f"{display.velocity(f['face'])}.",
            f"{display.length(f['lift'])} over it to lift it off; the filter is reached "
            "through the door.",
        ),
        (
            "Dust on a hot motor burns: keep the box clean and the cooling air free.",
            "Hearing: it is an estimate.",
        ),
        (
            Supply("lining", 2 * high * deep + 2 * high * wide + wide * deep),
            Supply("foam", 2 * (high + wide)),
        ),
    )


SOUND_BOX = Template(
    "sound-box",
    "Box over a collector or vacuum",
    "Quieter, with its filter reachable and its motor cool",
    (
        TemplateInput("width", "Width of what stands in it", "length", 0.5, 0.2, 2.0),
        TemplateInput("depth", "Depth of what stands in it", "length", 0.5, 0.2, 2.0),
        TemplateInput("height", "Height of what stands in it", "length", 0.8, 0.2, 3.0),
        TemplateInput("clear", "Clearance beside it", "length", 0.1, 0.03, 0.8),
        TemplateInput("lift", "Clearance over it", "length", 0.25, 0.05, 1.5),
        TemplateInput("power", "Motor's heat", "power", 1100.0, 50.0, 6000.0),
        TemplateInput("airflow", "Air through it", "airflow", 0.08, 0.01, 2.0),
        TemplateInput("face", "Air through the filter", "velocity", 0.25, 0.02, 3.0),
    ),
    _sound_box,
)


def clean_air(airflow: float, caught: float, volume: float) -> float:
    """How many times an hour a filter cleans a room's air: airflow (m³/s), share caught, volume
    (m³).

    Raises `ZeroDivisionError` for no room. Source: Q η 3600 / V.
    """
    return airflow * caught * 3600 / volume


def _room_filter(f: Figures, display: Display) -> TemplateResult:
    count, wide, high, thick = round(f["count"]), f["width"], f["height"], f["thick"]
    area = count * wide * high
    face = f["airflow"] / area
    # Changes of the room's air that are really cleaned, by what the filter holds.
    times = clean_air(f["airflow"], f["caught"], f["volume"])
    items: list[Item] = [*plate(0, 0, wide + 0.036, high + 0.036, display)]
    items.append(rectangle(0.018, 0.018, wide, high, "hidden"))
    items.append(Text((wide / 2 + 0.018, high / 2), "filter"))
    x = wide + 0.2
    items += [
        *plate(x, 0, wide, high, display),
        Text((x + wide / 2, high + 0.03), f"{count} filters round one fan"),
    ]
    for n in range(min(count, 4)):
        left, low, w, h = (
            (x, 0.0, thick, high),
            (x + wide - thick, 0.0, thick, high),
            (x, 0.0, wide, thick),
            (x, high - thick, wide, thick),
        )[n]
        items.append(rectangle(left, low, w, h, "hidden"))
    slow = (
        "." if face <= 1.5 else ", too fast for it to hold fine dust: take more or larger filters."
    )
    return TemplateResult(
        tuple(items),
        (
            Board(2, "top and bottom", "plywood", wide + 0.036, wide + 0.036, 0.012),
            Board(4, "corner posts", "batten", high, 0.04, 0.04),
            Board(2 * count, "filter slides", "strip", high, 0.02, 0.01),
        ),
        f"{display.airflow(f['airflow'] * f['caught'])} of clean air: the room's air "
        f"{decimal(times, 1)} times an hour. "
        f"Through its {display.surface(area)} the air goes at {display.velocity(face)}{slow}",
        (
            "It cleans what is in the air already: it does not take the place of collecting at "
            "the tool.",
            "To clear a dusty room to a tenth takes about "
            f"{math.log(10) / max(times, 1e-9) * 60:.0f} minutes.",
        ),
        ("Let it run on after work; a respirator for what it has not caught yet.",),
        (
            Supply(f"panel-filter/{wide * 1000:.0f}-{high * 1000:.0f}", float(count)),
            Supply(f"air-fan/{f['airflow'] * 3600:.0f}", 1.0),
        ),
    )


ROOM_FILTER = Template(
    "room-filter",
    "Room filter",
    "Filters round one fan, for the fine dust that stays in the air",
    (
        TemplateInput("count", "Filters", "count", 4.0, 1.0, 8.0),
        TemplateInput("width", "A filter's width", "length", 0.508, 0.1, 1.2),
        TemplateInput("height", "A filter's height", "length", 0.508, 0.1, 1.2),
        TemplateInput("thick", "A filter's thickness", "length", 0.0254, 0.01, 0.15),
        TemplateInput("airflow", "The fan's air through them", "airflow", 0.35, 0.02, 3.0),
        TemplateInput("caught", "Fine dust caught in one pass", "share", 0.6, 0.05, 1.0),
        TemplateInput("volume", "Room", "volume", 80.0, 5.0, 3000.0),
    ),
    _room_filter,
)

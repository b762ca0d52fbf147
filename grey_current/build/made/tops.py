"""Downdraft top, slot hood and hood over a blade: what catches dust where no port does."""

from __future__ import annotations

import math

from grey_current.air.needs import PORT_VELOCITY, STANDARD_DENSITY
from grey_current.build.drawing import Circle, Item, Path, Text
from grey_current.build.made.hoods import RIM, check_bore, pipe_velocity
from grey_current.build.made.template import (
    Board,
    Figures,
    Template,
    TemplateInput,
    TemplateResult,
    hole,
    plate,
)
from grey_current.errors import InputError
from grey_current.numerals import decimal
from grey_current.units import Display

# m/s down through a sanding top: less lets fine dust up past the work. Allowance.
DOWN = 0.5
# Velocity pressures that a square-edged hole in a board costs. Source: orifice of thin wall,
# Idelchik, Handbook of Hydraulic Resistance, 2007, diagram 4-10: about 2.7.
THROUGH_HOLES = 2.7
# Holes that nobody drills by hand, and m of rim without any.
MOST_HOLES, BORDER = 700, 0.03
# A flanged slot's airflow over length, velocity and distance. Source: ACGIH, Industrial
# Ventilation, 2013, table 6-2: 2.6 L V X.
SLOT = 2.6
# m/s in a slot, so that air comes in evenly along it, and the plenum's section over the slot's.
# Source: ACGIH, Industrial Ventilation, 2013, ch. 6: 10 m/s, plenum at most half as fast.
IN_SLOT, PLENUM = 10.0, 2.0


def downdraft(airflow: float, wide: float, deep: float) -> float:
    """Velocity (m/s) of an airflow (m³/s) down through a top of some width and depth (m). Raises
    nothing. Source: Q = A V.
    """
    return airflow / (wide * deep)


def slot_airflow(length: float, velocity: float, distance: float) -> float:
    """Airflow (m³/s) with which a flanged slot of a length (m) draws air at a velocity (m/s) from a
    distance (m). Raises nothing. Source: ACGIH, Industrial Ventilation, 2013, table 6-2.
    """
    return SLOT * length * velocity * distance


def _in_the_pipe(speed: float, display: Display) -> str:
    """How fast the air runs in a thing's pipe, and whether that carries chips."""
    slow = "" if speed >= PORT_VELOCITY * 0.85 else ": too slow for chips, take a smaller pipe"
    return f"In its pipe the air runs at {display.velocity(speed)}{slow}."


def _downdraft(f: Figures, display: Display) -> TemplateResult:
    wide, deep, drill = f["width"], f["depth"], f["drill"]
    pitch = max(f["pitch"], drill * 1.3)
    across = math.floor((wide - 2 * BORDER) / pitch) + 1
    down = math.floor((deep - 2 * BORDER) / pitch) + 1
    if across * down > MOST_HOLES:
        least = math.sqrt((wide - 2 * BORDER) * (deep - 2 * BORDER) / MOST_HOLES)
        raise InputError(
            "Downdraft top, from hole to hole",
            display.length(pitch),
            f"that makes {decimal(across * down)} holes: take {display.length(least)} or more",
        )
    speed = pipe_velocity("Downdraft top", f["airflow"], f["bore"], display)
    through = f["airflow"] / (across * down * math.pi / 4 * drill**2)
    loss = THROUGH_HOLES * STANDARD_DENSITY / 2 * through**2
    face = downdraft(f["airflow"], wide, deep)
    items: list[Item] = [*plate(0, 0, wide, deep, display)]
    left = (wide - (across - 1) * pitch) / 2
    low = (deep - (down - 1) * pitch) / 2
    items += [
        Circle((left + column * pitch, low + row * pitch), drill / 2, "outline")
        for row in range(down)
        for column in range(across)
    ]
    high = f["bore"] + 2 * RIM + 0.02
    x = wide + 0.1
    items += [*plate(x, 0, wide, high, display), Text((x + wide / 2, high + 0.012), "front")]
    check_bore("Downdraft top", f["bore"], wide, "front", display)
    items += hole((x + wide / 2, high / 2), f["bore"], display)
    verdict = "enough" if face >= DOWN else f"too little: {display.velocity(DOWN)} is wanted"
    return TemplateResult(
        tuple(items),
        (
            Board(1, "top with holes", "plywood", wide, deep, 0.012),
            Board(2, "front and back", "plywood", wide, high, 0.012),
            Board(2, "sides", "plywood", deep, high, 0.012),
            Board(1, "bottom, sloped to the pipe", "plywood", wide, deep, 0.006),
        ),
        f"{display.airflow(f['airflow'])} go down through it at {display.velocity(face)}: "
        f"{verdict}.",
        (
            f"{across * down} holes of {display.length(drill)}, {display.length(pitch)} apart; the "
            f"air passes them at {display.velocity(through)} and loses {display.pressure(loss)}.",
            "What covers holes, such as the work itself, speeds up the air in the others.",
            f"In its pipe the air runs at {display.velocity(speed)}"
            + ("." if speed >= PORT_VELOCITY * 0.85 else ": fine dust stays up, chips may lie."),
        ),
        ("Sand no metal over it: sparks in wood dust burn.",),
    )


DOWNDRAFT = Template(
    "downdraft-top",
    "Downdraft top for sanding",
    "A bench top with holes that takes the dust of hand sanding",
    (
        TemplateInput("width", "Width", "length", 0.6, 0.2, 1.5),
        TemplateInput("depth", "Depth", "length", 0.45, 0.2, 1.0),
        TemplateInput("drill", "Holes", "length", 0.012, 0.006, 0.03),
        TemplateInput("pitch", "From hole to hole", "length", 0.04, 0.01, 0.1),
        TemplateInput("airflow", "Air through it", "airflow", 0.2, 0.02, 1.0),
        TemplateInput("bore", "Pipe's bore", "length", 0.1016, 0.05, 0.25),
    ),
    _downdraft,
)


def _slot(f: Figures, display: Display) -> TemplateResult:
    long, bore = f["length"], f["bore"]
    need = slot_airflow(long, f["velocity"], f["distance"])
    speed = pipe_velocity("Slot hood", need, bore, display)
    slot = need / (IN_SLOT * long)
    high = max(f["height"], slot + 2 * BORDER, bore + 2 * RIM)
    deep = max(PLENUM * slot, bore + 2 * RIM)
    items: list[Item] = [*plate(0, 0, long, high, display)]
    y = high / 2 - slot / 2
    items.append(Path(((0.0, y), (long, y), (long, y + slot), (0.0, y + slot)), "hidden", True))
    items.append(Text((long / 2, high + 0.012), "face, the slot open between the lines"))
    x = long + 0.1
    items += [*plate(x, 0, deep, high, display), Text((x + deep / 2, high + 0.012), "end")]
    items += hole((x + deep / 2, high / 2), bore, display)
    return TemplateResult(
        tuple(items),
        (
            Board(2, "face, above and below the slot", "plywood", long, (high - slot) / 2, 0.012),
            Board(1, "back", "plywood", long, high, 0.012),
            Board(2, "ends", "plywood", high, deep, 0.012),
            Board(2, "top and bottom", "plywood", long, deep, 0.012),
        ),
        f"It needs {display.airflow(need)} to draw dust at {display.velocity(f['velocity'])} from "
        f"{display.length(f['distance'])} along all of its {display.length(long)}.",
        (
            f"Make the slot {display.length(slot)} high: the air enters it at "
            f"{display.velocity(IN_SLOT)}, and so all along it.",
            _in_the_pipe(speed, display),
            "Twice as near it needs half of the air. Slide it along with the work.",
        ),
        ("Long shavings do not go into a slot: rake them out, and keep sleeves away.",),
    )


SLOT_HOOD = Template(
    "slot-hood",
    "Slot hood behind a lathe",
    "Draws fine dust along the whole of the work",
    (
        TemplateInput("length", "Length", "length", 0.6, 0.15, 2.0),
        TemplateInput("height", "Height of the face", "length", 0.25, 0.05, 0.8),
        TemplateInput("distance", "Dust is made before it", "length", 0.15, 0.02, 0.6),
        TemplateInput("velocity", "Air wanted there", "velocity", 0.8, 0.2, 2.0),
        TemplateInput("bore", "Pipe's bore", "length", 0.127, 0.05, 0.4),
    ),
    _slot,
)


def _over_blade(f: Figures, display: Display) -> TemplateResult:
    long, wide, high, bore = f["length"], f["width"], f["height"], f["bore"]
    check_bore("Hood over a blade", bore, long, "top", display)
    speed = pipe_velocity("Hood over a blade", f["airflow"], bore, display)
    edge = 2 * (long + wide) * f["gap"]
    enters = f["airflow"] / edge
    items: list[Item] = [
        *plate(0, 0, long, high, display),
        Text((long / 2, high + 0.012), "two sides, clear plastic"),
    ]
    y = high + 0.1
    across = max(wide, bore + 2 * RIM)
    items += [*plate(0, y, long, across, display), Text((long / 2, y + across + 0.012), "top")]
    items += hole((long - bore / 2 - RIM, y + across / 2), bore, display)
    return TemplateResult(
        tuple(items),
        (
            Board(2, "sides", "clear polycarbonate", long, high, 0.006),
            Board(1, "top", "plywood", long, across, 0.012),
            Board(2, "ends", "plywood", wide, high, 0.012),
        ),
        f"{display.airflow(f['airflow'])} enter under its edge at {display.velocity(enters)} when "
        f"it hangs {display.length(f['gap'])} over the work.",
        (
            _in_the_pipe(speed, display),
            "Hang the pipe from the ceiling or an arm, so that the hood swings out of the way.",
        ),
        (
            "It is no guard: keep the saw's own guard and riving knife, and fix it so that it "
            "cannot sag onto the blade.",
        ),
    )


OVER_BLADE = Template(
    "over-blade",
    "Hood over a blade",
    "Takes the dust that a table saw throws up",
    (
        TemplateInput("length", "Length", "length", 0.4, 0.15, 0.8),
        TemplateInput("width", "Width", "length", 0.1, 0.04, 0.3),
        TemplateInput("height", "Height", "length", 0.12, 0.05, 0.3),
        TemplateInput("gap", "Over the work", "length", 0.02, 0.003, 0.1),
        TemplateInput("airflow", "Air through it", "airflow", 0.12, 0.02, 0.6),
        TemplateInput("bore", "Pipe's bore", "length", 0.0762, 0.05, 0.2),
    ),
    _over_blade,
)

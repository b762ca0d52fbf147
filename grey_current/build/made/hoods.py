"""Hood, collecting box and closing plates: what is made where the dust is."""

from __future__ import annotations

import math

from grey_current.air.needs import FLANGE_FACTOR, PORT_VELOCITY, TOO_FAST, capture
from grey_current.build.drawing import Item, Path, Text
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
from grey_current.numerals import compact
from grey_current.units import Display

# m of wood that stays round a hole.
RIM = 0.01
# Degrees from which on chips slide down planed wood by themselves. Allowance.
SLIDES_AT = 45.0


def pipe_velocity(name: str, airflow: float, bore: float, display: Display) -> float:
    """Velocity (m/s) of an airflow (m³/s) in a pipe of a bore (m). Raises `InputError` for air that
    no collector gets through such a pipe.
    """
    velocity = airflow / (math.pi / 4 * bore**2)
    if velocity > TOO_FAST:
        wanted = math.sqrt(airflow / TOO_FAST * 4 / math.pi)
        raise InputError(
            f"{name}, pipe's bore",
            display.length(bore),
            f"{display.airflow(airflow)} would run at {display.velocity(velocity)} in it: take "
            f"{display.length(wanted)} or more, or ask for less air",
        )
    return velocity


def check_bore(name: str, bore: float, room: float, side: str, display: Display) -> None:
    """Raise `InputError` for a pipe's bore (m) that leaves no wood round it on a side with so much
    room (m).
    """
    if bore + 2 * RIM > room:
        raise InputError(
            f"{name}, pipe's bore",
            display.length(bore),
            f"its {side} takes one of {display.length(max(room - 2 * RIM, 0.0))} at most",
        )


def _hood(f: Figures, display: Display) -> TemplateResult:
    wide, high, deep, far = f["width"], f["height"], f["depth"], f["distance"]
    bore = f["bore"]
    check_bore("Hood", bore, min(wide, high), "back", display)
    # Low in the back, where chips slide to, but with wood all round.
    outlet = max(high * 0.3, bore / 2 + RIM)
    open_share = 1 - f["closed"]
    area = wide * high
    # With part of the opening closed, and open all the way, to tell what closing wins.
    need = capture(far, f["velocity"], area * open_share, flanged=True)
    whole = capture(far, f["velocity"], area, flanged=True)
    items: list[Item] = [*plate(0, 0, wide, high, display)]
    items += hole((wide / 2, outlet), bore, display)
    if f["closed"] > 0:
        top = high * open_share
        items += [
            Path(((0, top), (wide, top)), "hidden"),
            Text((wide / 2, top + 0.01), "closed above this line"),
        ]
    x = wide + 0.1
    items += [
        *plate(x, 0, deep, high, display),
        Text((x + deep / 2, high + 0.012), "from the side"),
    ]
    items.append(Path(((x, 0), (x + deep, outlet - bore / 2)), "hidden"))
    at_port = pipe_velocity("Hood", need, bore, display)
    return TemplateResult(
        tuple(items),
        (
            Board(1, "back", "plywood", wide, high, 0.012),
            Board(2, "sides", "plywood", high, deep, 0.012),
            Board(1, "top", "plywood", wide + 0.024, deep, 0.012),
            Board(1, "sloped bottom", "plywood", wide, math.hypot(deep, high * 0.3), 0.012),
        ),
        f"It needs {display.airflow(need)} to draw dust at {display.velocity(f['velocity'])} from "
        f"{display.length(far)} before it.",
        (
            f"Closing {f['closed']:.0%} of the opening wins {display.airflow(whole - need)}."
            if f["closed"] > 0
            else "Closing part of the opening wins air: try a quarter.",
            "A flange all round is counted: without one it needs "
            f"{display.airflow(need / FLANGE_FACTOR)}.",
            f"In its pipe the air then runs at {display.velocity(at_port)}"
            + (
                "."
                if at_port >= PORT_VELOCITY * 0.85
                else ": too slow to carry chips, take a smaller pipe."
            ),
        ),
    )


HOOD = Template(
    "hood",
    "Hood behind a machine",
    "For a chop saw or a lathe, whose dust flies where no port is",
    (
        TemplateInput("width", "Opening's width", "length", 0.6, 0.1, 2.0),
        TemplateInput("height", "Opening's height", "length", 0.4, 0.1, 2.0),
        TemplateInput("depth", "Depth", "length", 0.3, 0.1, 1.5),
        TemplateInput("distance", "Dust is thrown from", "length", 0.15, 0.0, 1.0),
        TemplateInput("velocity", "Air wanted there", "velocity", 1.0, 0.1, 10.0),
        TemplateInput("closed", "Part of it closed", "share", 0.0, 0.0, 0.9),
        TemplateInput("bore", "Pipe's bore", "length", 0.127, 0.05, 0.4),
    ),
    _hood,
)


def _box(f: Figures, display: Display) -> TemplateResult:
    wide, deep, bore, angle = f["width"], f["depth"], f["bore"], f["slope"]
    check_bore("Collecting box", bore, wide, "front", display)
    pipe_velocity("Collecting box", f["airflow"], bore, display)
    run = max((max(wide, deep) - bore) / 2, 0.0)
    # As high as the slopes fall, and the pipe below them.
    fall = run * math.tan(math.radians(angle))
    high = fall + bore + 0.02
    if high > f["room"]:
        raise InputError(
            "Collecting box, room under the machine",
            display.length(f["room"]),
            f"slopes of {compact(angle)}° want {display.length(high)}: use a drawer, or let "
            "the pipe go out at the back",
        )
    items: list[Item] = [*plate(0, 0, wide, high, display)]
    low = bore + 0.02
    left, right = (wide - bore) / 2, (wide + bore) / 2
    items += [
        Path(((0, high), (left, low)), "hidden"),
        Path(((wide, high), (right, low)), "hidden"),
    ]
    items += hole((wide / 2, bore / 2 + 0.01), bore, display)
    x = wide + 0.08
    items += [*plate(x, 0, wide, deep, display), Text((x + wide / 2, deep + 0.012), "from above")]
    slope = math.hypot(run, fall)
    gap_air = f["airflow"] / max(f["gap"], 1e-6)
    return TemplateResult(
        tuple(items),
        (
            Board(2, "front and back", "plywood", wide, high, 0.009),
            Board(2, "sides", "plywood", deep, high, 0.009),
            Board(2, "slopes", "plywood", deep, slope, 0.009),
        ),
        f"Air enters through {display.area(f['gap'])} of openings at {display.velocity(gap_air)}"
        + (
            "."
            if gap_air >= 2.0
            else ": too slow to hold fine dust, close more of the machine's underside."
        ),
        (
            f"Slopes of {compact(angle)}° let chips slide by themselves."
            if angle >= SLIDES_AT
            else f"At {compact(angle)}° chips lie still: make it {compact(SLIDES_AT)}° or wax the "
            "slopes.",
            "Without a pipe it is a drawer: empty it before it is half full.",
        ),
        ("Keep a motor's own cooling air out of the box, and the box off a hot motor.",),
    )


BOX = Template(
    "box",
    "Collecting box under a machine",
    "For a machine without a port, or as a drawer for its chips",
    (
        TemplateInput("width", "Width", "length", 0.4, 0.1, 1.5),
        TemplateInput("depth", "Depth", "length", 0.35, 0.1, 1.5),
        TemplateInput("room", "Room under the machine", "length", 0.5, 0.08, 1.5),
        TemplateInput("slope", "Slope of its bottom", "number", 45.0, 10.0, 70.0),
        TemplateInput("bore", "Pipe's bore", "length", 0.1016, 0.03, 0.3),
        TemplateInput("airflow", "Air through it", "airflow", 0.165, 0.005, 2.0),
        TemplateInput("gap", "Openings left, m²", "number", 0.012, 0.0005, 1.0),
    ),
    _box,
)


def _closing_plate(f: Figures, display: Display) -> TemplateResult:
    wide, high, count = f["width"], f["height"], round(f["count"])
    open_now = f["area"]
    closed = wide * high * count
    if closed >= open_now:
        raise InputError(
            "Closing plates, openings of the cabinet",
            display.area(open_now),
            "plates cannot close more than is open; leave a fifth for the air to come in by",
        )
    # Something has to stay open: without air coming in nothing goes out.
    left = open_now - closed
    before, after = f["airflow"] / open_now, f["airflow"] / left
    port = math.pi / 4 * f["bore"] ** 2
    items: list[Item] = [*plate(0, 0, wide + 0.03, high + 0.03, display)]
    inner = (
        (0.015, 0.015),
        (0.015 + wide, 0.015),
        (0.015 + wide, 0.015 + high),
        (0.015, 0.015 + high),
    )
    items.append(Path(inner, "hidden", True))
    if left >= port:
        verdict = "Enough stays open for the pipe."
    else:
        verdict = (
            f"Less stays open than the pipe is wide ({display.area(port)}): too little, leave more."
        )
    return TemplateResult(
        tuple(items),
        (Board(count, "plates", "hardboard or sheet", wide + 0.03, high + 0.03, 0.003),),
        f"Air enters the cabinet at {display.velocity(after)} instead of "
        f"{display.velocity(before)}: "
        f"{display.area(left)} of {display.area(open_now)} stay open. {verdict}",
        ("Magnets or turn buttons, so that it comes off to clean and to tilt the blade.",),
        ("Unplug the saw before a hand goes into the cabinet.",),
    )


CLOSING_PLATE = Template(
    "closing-plate",
    "Closing plates for a cabinet's openings",
    "A saw's cabinet with wide openings lets its air in everywhere and holds no dust",
    (
        TemplateInput("width", "Width closed", "length", 0.2, 0.01, 1.0),
        TemplateInput("height", "Height closed", "length", 0.1, 0.01, 1.0),
        TemplateInput("count", "How many of them", "count", 1.0, 1.0, 12.0),
        TemplateInput("area", "Openings now, m²", "number", 0.04, 0.001, 1.0),
        TemplateInput("airflow", "Air through it", "airflow", 0.165, 0.005, 2.0),
        TemplateInput("bore", "Pipe's bore", "length", 0.1016, 0.03, 0.4),
    ),
    _closing_plate,
)

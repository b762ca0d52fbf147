"""Wall bracket, hose arm and pipe saw cradle: what pipe and hose hang on, and what cuts pipe."""

from __future__ import annotations

import math

from grey_current.build.drawing import Circle, Dimension, Item, Path, Text
from grey_current.build.made.coupler import GRAVITY
from grey_current.build.made.template import (
    Board,
    Figures,
    Template,
    TemplateInput,
    TemplateResult,
    plate,
)
from grey_current.errors import InputError
from grey_current.numerals import compact, decimal
from grey_current.shop.places import XY
from grey_current.units import Display

# kg/m³ of chips that lie loose, and the share of a level pipe that they may fill before it is
# noticed. Allowances.
LOOSE, FILLED = 200.0, 0.25
# kg/m² of sheet steel 0.7 mm thick, for pipe whose mass nobody knows. Allowance.
SHEET = 5.5
# m; holes for wall screws, what stays round them, and wood round the pipe. Allowances.
SCREW, ROUND = 0.006, 0.03
# Pa that plywood on edge bears for good, with all safety. Allowance, after usual tables for
# sheathing plywood.
PLYWOOD_BEARS = 8e6
# Straight parts of a round that is sawn.
STEPS = 48


def hung_mass(bore: float) -> float:
    """Mass (kg/m) of a pipe of a bore (m), a quarter full of chips. Raises nothing. Source: sheet
    of the pipe's girth and chips in its section.
    """
    return math.pi * bore * SHEET + FILLED * LOOSE * math.pi / 4 * bore**2


def bending(mass: float, reach: float, thick: float, high: float) -> float:
    """Stress (Pa) in a board on edge (m) at whose end a mass (kg) hangs. Raises nothing. Source:
    beam theory, moment over section modulus, 6 M / (b h²).
    """
    return 6 * mass * GRAVITY * reach / (thick * high**2)


def _arc(centre: XY, radius: float, first: float, last: float) -> list[XY]:
    """Places on a round from one angle (degrees) to another."""
    turns = [math.radians(first + (last - first) * n / STEPS) for n in range(STEPS + 1)]
    return [(centre[0] + radius * math.cos(t), centre[1] + radius * math.sin(t)) for t in turns]


def _sizes(
    wide: float, high: float, middle: XY, outer: float, display: Display
) -> tuple[Item, ...]:
    """Width and height of a board with a cradle, and where the cradle's middle is."""
    return (
        Dimension((0.0, 0.0), (wide, 0.0), display.length(wide), -7.0),
        Dimension((0.0, high), (0.0, 0.0), display.length(high), -7.0),
        Dimension((0.0, high), (middle[0], high), display.length(middle[0]), 9.0),
        Dimension(
            (middle[0] - outer / 2, high),
            (middle[0] + outer / 2, high),
            f"⌀ {display.length(outer)}",
            3.0,
        ),
    )


def _bracket(f: Figures, display: Display) -> TemplateResult:
    outer, away, thick = f["outer"], f["away"], f["thickness"]
    if away < outer / 2:
        raise InputError(
            "Wall bracket, from wall to the pipe's middle",
            display.length(away),
            f"a pipe so wide takes {display.length(outer / 2)} at least",
        )
    deep, high = away + outer / 2 + ROUND, outer / 2 + 2 * ROUND
    # A cradle of half a round; the strap holds the other half.
    cradle = _arc((away, high), outer / 2, 180, 360)
    arm: list[XY] = [(0.0, 0.0), (deep, 0.0), (deep, high), *reversed(cradle), (0.0, high)]
    load = hung_mass(f["outer"]) * f["span"]
    back = high + 0.1
    x = deep + 0.1
    wide = max(0.06, 3 * thick)
    items: list[Item] = [
        Path(tuple(arm), "outline", closed=True),
        *_sizes(deep, high, (away, high), outer, display),
        Text((deep / 2, high + 0.012), "arm, from the side"),
        *plate(x, 0, wide, back, display),
        Text((x + wide / 2, back + 0.012), "back plate"),
    ]
    items += [Circle((x + wide / 2, y), SCREW / 2, "outline") for y in (0.02, back - 0.02)]
    stress = bending(load, away, thick, high)
    if stress > PLYWOOD_BEARS:
        raise InputError(
            "Wall bracket, thickness",
            display.length(thick),
            f"{decimal(load, 1)} kg so far from the wall want thicker wood, or brackets "
            "nearer together",
        )
    return TemplateResult(
        tuple(items),
        (
            Board(1, "arm with a half-round cradle", "plywood", deep, high, thick),
            Board(1, "back plate", "plywood", back, wide, thick),
        ),
        f"Each carries {decimal(load, 1)} kg: {display.about(f['span'])} of pipe a quarter full "
        "of chips.",
        (
            f"Its arm bears {PLYWOOD_BEARS / stress:.0f} times that.",
            f"Put the pipe's middle {display.length(away)} from the wall, and hold it down with a "
            "strap.",
        ),
        ("Two screws into a stud or an anchor each; what is overhead falls on somebody.",),
    )


BRACKET = Template(
    "bracket",
    "Wall bracket for a pipe",
    "A cradle on the wall in place of bought hangers",
    (
        TemplateInput("outer", "Pipe's outside", "length", 0.13, 0.05, 0.4),
        TemplateInput("away", "From wall to the pipe's middle", "length", 0.15, 0.03, 0.5),
        TemplateInput("span", "From bracket to bracket", "length", 1.5, 0.3, 3.0),
        TemplateInput("thickness", "Thickness", "length", 0.018, 0.009, 0.04),
    ),
    _bracket,
)


def _arm(f: Figures, display: Display) -> TemplateResult:
    reach, high, thick = f["reach"], f["height"], f["thickness"]
    stress = bending(f["mass"], reach, thick, high)
    if stress > PLYWOOD_BEARS:
        raise InputError(
            "Hose arm, height of the board",
            display.length(high),
            f"{compact(f['mass'])} kg at {display.length(reach)} want a higher or a thicker one",
        )
    long = reach + 2 * ROUND
    items: list[Item] = [*plate(0, 0, long, high, display)]
    items.append(Circle((ROUND, high / 2), f["pivot"] / 2, "outline"))
    # The hose hangs in a sling through the hole at the end.
    items.append(Circle((long - ROUND, high / 2), 0.01, "outline"))
    items.append(Text((long / 2, high + 0.012), "arm: pivot left, sling right"))
    moment = f["mass"] * GRAVITY * reach
    return TemplateResult(
        tuple(items),
        (
            Board(1, "arm", "plywood", long, high, thick),
            Board(2, "pivot plates under the ceiling", "plywood", 0.2, 0.12, thick),
        ),
        f"A hose of {compact(f['mass'])} kg at its end turns on the pivot with {moment:.0f} N·m; "
        f"the arm bears {PLYWOOD_BEARS / max(stress, 1.0):.0f} times that.",
        (f"It swings over a round of {display.about(reach)}: keep lamps and doors out of it.",),
        ("Bolt the pivot plates through a joist, not into the ceiling's board.",),
    )


ARM = Template(
    "hose-arm",
    "Hose arm under the ceiling",
    "Carries a hose over the machine, off the floor and out of the cut",
    (
        TemplateInput("reach", "Reach", "length", 1.2, 0.3, 2.5),
        TemplateInput("mass", "Hose that hangs on it", "mass", 3.0, 0.2, 20.0),
        TemplateInput("height", "Height of the board", "length", 0.08, 0.07, 0.3),
        TemplateInput("thickness", "Thickness", "length", 0.018, 0.009, 0.04),
        TemplateInput("pivot", "Pivot bolt", "length", 0.01, 0.006, 0.02),
    ),
    _arm,
)


def _cradle(f: Figures, display: Display) -> TemplateResult:
    outer, thick, long = f["outer"], f["thickness"], f["length"]
    wide = outer + 2 * ROUND
    high = outer / 2 + ROUND
    side: list[XY] = [(0.0, 0.0), (wide, 0.0), (wide, high)]
    side += list(reversed(_arc((wide / 2, high), outer / 2, 180, 360)))
    side.append((0.0, high))
    x = wide + 0.1
    items: list[Item] = [
        Path(tuple(side), "outline", closed=True),
        *_sizes(wide, high, (wide / 2, high), outer, display),
        Text((wide / 2, high + 0.012), "four ribs, two on each side of the cut"),
        *plate(x, 0, long, wide, display),
        Text((x + long / 2, wide + 0.012), "base, the cut at the line"),
        Path(((x + long / 2, 0.0), (x + long / 2, wide)), "centre lines"),
    ]
    # Ribs stand square when the base is; what a rib leans the cut leans over the pipe.
    lean = math.degrees(math.atan2(0.0005, high))
    return TemplateResult(
        tuple(items),
        (
            Board(4, "ribs with a half-round cradle", "plywood", wide, high, thick),
            Board(1, "base", "plywood", long, wide, thick),
        ),
        f"A pipe of {display.length(outer)} lies in it and is turned against the saw: the cut "
        f"meets itself when the ribs stand within {decimal(lean, 1)}° of square.",
        (
            f"Two ribs stand {display.length(2 * f['kerf'])} apart at the cut, so that the blade "
            "runs between them.",
            "Mark the length on the pipe and on the base, and turn the pipe as you cut.",
        ),
        ("Gloves and glasses: cut edges of sheet metal are sharp. Clamp the base down.",),
    )


CRADLE = Template(
    "saw-cradle",
    "Saw cradle for cutting pipe square",
    "Holds round pipe while a hand saw or a hacksaw goes round it",
    (
        TemplateInput("outer", "Pipe's outside", "length", 0.13, 0.05, 0.4),
        TemplateInput("length", "Length", "length", 0.4, 0.2, 1.2),
        TemplateInput("thickness", "Thickness", "length", 0.018, 0.009, 0.04),
        TemplateInput("kerf", "Saw's cut", "length", 0.002, 0.0005, 0.006),
    ),
    _cradle,
)

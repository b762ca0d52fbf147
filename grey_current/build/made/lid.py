"""A separator lid for a drum: two pipes through it, and a baffle under them that keeps what
fell.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from grey_current.air.fittings import entry
from grey_current.air.needs import PORT_VELOCITY, STANDARD_DENSITY
from grey_current.air.separators import FULL_FROM, Spread, catch
from grey_current.build.drawing import Circle, Dimension, Item, Path, Text
from grey_current.build.made.hoods import pipe_velocity
from grey_current.build.made.template import (
    Board,
    Figures,
    Supply,
    Template,
    TemplateInput,
    TemplateResult,
    hole,
    plate,
)
from grey_current.errors import InputError
from grey_current.units import Display

# m that the lid reaches over the drum, and that its ring inside is smaller than it. Allowances.
OVER, EASY_FIT = 0.02, 0.003
# m between a pipe and the drum's wall or the other pipe. Allowance.
BETWEEN = 0.012
# The baffle hangs so many bores under the lid. Allowance.
HANGS = 1.5
# Velocity pressures that turning round in the drum takes besides getting in and out. Allowance.
TURNING = 0.5
# kg/m³ of chips as they lie in a drum. Allowance.
CHIPS = 170.0
SIDES_OF_A_SLOT = 40


@dataclass(frozen=True)
class LidSizes:
    """A lid, all in m: its outside, the ring inside the drum, the baffle with its tabs, the middle
    of the pipe that comes in and how far the baffle hangs.
    """

    outside: float
    ring: float
    baffle: float
    inlet: float
    hangs: float


def lid_sizes(drum: float, bore: float, slot: float) -> LidSizes:
    """The sizes of a lid for a drum of an inside diameter (m). Raises `ValueError` where two pipes
    of the bore (m) do not go side by side through it.
    """
    inlet = drum / 2 - slot - BETWEEN - bore / 2
    if inlet < bore + BETWEEN:
        raise ValueError("two pipes do not go side by side through the lid")
    return LidSizes(drum + 2 * OVER, drum - EASY_FIT, drum - 2 * slot, inlet, HANGS * bore)


def lid_loss(airflow: float, bore: float) -> float:
    """Pressure (Pa) that a lid takes of an airflow (m³/s) in pipes of a bore (m).

    Raises `ZeroDivisionError` for a bore of 0. Source: one velocity pressure lost in coming in,
    `fittings.entry` in going out, and an allowance for turning round.
    """
    speed = airflow / (math.pi / 4 * bore**2)
    return (1.0 + entry("plain") + TURNING) * STANDARD_DENSITY / 2 * speed**2


def _lid(f: Figures, display: Display) -> TemplateResult:
    drum, bore, slot = f["drum"], f["bore"], f["slot"]
    try:
        sizes = lid_sizes(drum, bore, slot)
    except ValueError:
        least = 2 * (1.5 * bore + 2 * BETWEEN + slot)
        raise InputError(
            "Separator lid, drum's inside",
            display.length(drum),
            f"for two pipes of {display.diameter(bore)} it should be {display.length(least)} or "
            "more",
        ) from None
    speed = pipe_velocity("Separator lid", f["airflow"], bore, display)
    kept = catch("lid with baffle", fill=f["fill"])
    loss = lid_loss(f["airflow"], bore)
    weight = f["volume"] * FULL_FROM * CHIPS
    full = ", as long as the drum is not over two thirds full"
    if f["fill"] > FULL_FROM:
        full = ", for the drum is too full"
    carries = "" if speed >= PORT_VELOCITY * 0.85 else ": too slow for chips, take smaller ones"
    return TemplateResult(
        tuple(_drawn(sizes, drum, bore, slot, f["open"], display)),
        (
            Board(1, "lid", "plywood", sizes.outside, sizes.outside, 0.018),
            Board(1, "ring inside the drum", "plywood", sizes.ring, sizes.ring, 0.012),
            Board(1, "baffle", "plywood", sizes.ring, sizes.ring, 0.012),
        ),
        f"It keeps {_share(kept.chips)} of the chips and {_share(kept.fine)} of the fine dust"
        f"{full}. It takes {display.pressure(loss)} of {display.airflow(f['airflow'])}.",
        (
            f"In its pipes the air runs at {display.velocity(speed)}{carries}.",
            f"The baffle hangs {display.length(sizes.hangs)} under the lid on threaded rods. Its "
            f"slot goes round {f['open']:.0%} of it and is {display.length(slot)} wide; the closed "
            "part lies under the pipe that comes in.",
            "Turn the incoming pipe with an elbow along the drum's wall, so that the air goes "
            "round; the outgoing one ends flush under the lid.",
            f"Two thirds full it holds about {weight:.0f} kg of chips: put it on wheels. A length "
            "of clear pipe or a window shows how full it is.",
        ),
        (
            "With all gates shut the collector pulls on the drum with its whole suction: on a lid "
            f"of this size {f['suction'] * math.pi / 4 * drum**2:.0f} N. Thin drums cave in.",
            "Unplug before you reach in. Embers smoulder in chips: no metal, and empty it.",
        ),
        (Supply("foam", math.pi * drum), Supply("rod", 4 * (sizes.hangs + 0.06))),
    )


def _share(kept: Spread) -> str:
    return f"{kept.least:.0%} to {kept.most:.0%}"


def _drawn(
    sizes: LidSizes, drum: float, bore: float, slot: float, share: float, display: Display
) -> list[Item]:
    half = sizes.outside / 2
    items: list[Item] = [
        *plate(-half, -half, sizes.outside, sizes.outside, display),
        Circle((0, 0), half, "outline"),
        Circle((0, 0), drum / 2, "hidden"),
        *hole((0, 0), bore, display),
        *hole((sizes.inlet, 0), bore, display),
        Dimension((0, 0), (sizes.inlet, 0), display.length(sizes.inlet), 12.0),
        Text((0, half + 0.02), "lid, from above"),
    ]
    # The baffle beside it: cut away all round but for the closed part, which reaches the drum.
    middle = sizes.outside + 0.08
    closed = 2 * math.pi * (1 - share)
    outline = []
    for number in range(SIDES_OF_A_SLOT + 1):
        turn = -closed / 2 + closed * number / SIDES_OF_A_SLOT
        outline.append((turn, sizes.ring / 2))
    for number in range(SIDES_OF_A_SLOT + 1):
        turn = closed / 2 + (2 * math.pi - closed) * number / SIDES_OF_A_SLOT
        outline.append((turn, sizes.baffle / 2))
    points = tuple((middle + r * math.cos(turn), r * math.sin(turn)) for turn, r in outline)
    items += [
        Path(points, "outline", closed=True),
        Dimension(
            (middle - sizes.baffle / 2, 0),
            (middle + sizes.ring / 2, 0),
            display.length((sizes.baffle + sizes.ring) / 2),
            0.0,
        ),
        Text((middle, half + 0.02), "baffle"),
    ]
    for turn in (0.6, 2.2, -2.2, -0.6):
        at = (middle + sizes.baffle * 0.42 * math.cos(turn), sizes.baffle * 0.42 * math.sin(turn))
        items.append(Circle(at, 0.0045, "drill"))
    return items


LID = Template(
    "drum-lid",
    "Separator lid for a drum",
    "Keeps chips out of the fan, the bag and the filter",
    (
        TemplateInput("drum", "Drum's inside", "length", 0.45, 0.2, 1.0),
        TemplateInput("volume", "What the drum holds", "volume", 0.12, 0.01, 0.5),
        TemplateInput("bore", "Pipe's bore", "length", 0.1016, 0.03, 0.26),
        TemplateInput("airflow", "Air through it", "airflow", 0.17, 0.005, 1.2),
        TemplateInput("suction", "Suction with gates shut", "pressure", 2000.0, 50.0, 30_000.0),
        TemplateInput("slot", "Baffle's slot", "length", 0.03, 0.012, 0.08),
        TemplateInput("open", "Round that the slot goes", "share", 0.65, 0.3, 0.85),
        TemplateInput("fill", "How full the drum is", "share", 0.5, 0.0, 1.0),
    ),
    _lid,
)

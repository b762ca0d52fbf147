"""Gate, adaptor plate and splitter box: what is made in a run of duct."""

from __future__ import annotations

import math
from dataclasses import dataclass

from grey_current.air.fittings import ENTRY_K, SHARP_DISCHARGE
from grey_current.air.fittings import splitter as splitter_loss
from grey_current.air.needs import PORT_VELOCITY, STANDARD_DENSITY
from grey_current.build.drawing import Circle, Dimension, Item, Path, Text
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
from grey_current.numerals import decimal
from grey_current.units import Display

# m of a gate's slide: the pegs that stop it, the end that is gripped, and how far it must cover
# the plates round their hole at least. Allowances.
PEG, HANDLE, LEAST_LAND = 0.012, 0.035, 0.012


def leaking(area: float, pressure: float, density: float = STANDARD_DENSITY) -> float:
    """Airflow (m³/s) through a gap of `area` (m²) under a pressure difference (Pa) at a density
    (kg/m³).

    Raises nothing. Source: orifice equation with Cd 0.62, Idelchik, Handbook of Hydraulic
    Resistance, 2007, ch. 4.
    """
    return SHARP_DISCHARGE * area * math.sqrt(2 * pressure / density)


def gate_leak_share(bore: float, gap: float) -> float:
    """The share of its bore through which a shut sliding gate leaks: the gap (m) all round the bore
    (m).

    Raises `ZeroDivisionError` for a bore of 0. Source: π d g over π d²/4.
    """
    return 4 * gap / bore


@dataclass(frozen=True)
class GateSizes:
    """A sliding gate of plywood, all in m. The slide goes right through: what it pushes before it
    falls out at the far end, and a peg on each end stops it open and shut.

    Attributes:
        plate: Width and height of both plates.
        plate_hole: The hole in each plate, into which the pipe's end is glued.
        slide: Width and length of the slide.
        slide_hole: Diameter of its hole, and how far its middle is from the slide's far end.
        travel: From shut to open.
        pegs: How far the edges of both pegs that meet the plates are from the slide's far end.
        inner: Between the guides.
    """

    plate: tuple[float, float]
    plate_hole: float
    slide: tuple[float, float]
    slide_hole: tuple[float, float]
    travel: float
    pegs: tuple[float, float]
    inner: float

    def open_share(self, pulled: float) -> float:
        """The free share of the slide's hole when the slide is pulled out by so much (m) from where
        it stands open.

        Raises nothing. Source: two circles that overlap, as area of a lens.
        """
        small, large = self.slide_hole[0] / 2, self.plate_hole / 2
        apart = abs(pulled)
        if apart >= small + large:
            return 0.0
        if apart <= large - small:
            return 1.0
        one = math.acos((apart**2 + small**2 - large**2) / (2 * apart * small))
        two = math.acos((apart**2 + large**2 - small**2) / (2 * apart * large))
        lens = small**2 * (one - math.sin(2 * one) / 2) + large**2 * (two - math.sin(2 * two) / 2)
        return lens / (math.pi * small**2)


def gate_sizes(bore: float, outer: float, land: float, gap: float, rim: float) -> GateSizes:
    """The sizes of a sliding gate (m) for a pipe of a bore and an outside diameter.

    `land` is how far the slide covers the plates beyond the hole, all round, shut and open; `gap`
    the room that it has to each side; `rim` the width of its guides. Raises nothing.
    """
    covered = outer + 2 * land
    inner = covered + 2 * gap
    travel = outer / 2 + land + bore / 2
    # From the far end: a peg, what covers the plates shut, what covers them open, the handle.
    shut_peg = PEG
    middle = PEG + covered / 2 + travel
    open_peg = middle + covered / 2
    return GateSizes(
        plate=(inner + 2 * rim, covered),
        plate_hole=outer,
        slide=(covered, open_peg + HANDLE),
        slide_hole=(bore, middle),
        travel=travel,
        pegs=(shut_peg, open_peg),
        inner=inner,
    )


def _gate(f: Figures, display: Display) -> TemplateResult:
    bore, gap, rim = f["bore"], f["gap"], f["rim"]
    g = gate_sizes(bore, bore + 2 * f["wall"], f["land"], gap, rim)
    wide, high = g.plate
    items: list[Item] = [
        *plate(0, 0, wide, high, display),
        *hole((wide / 2, high / 2), g.plate_hole, display),
        Text((wide / 2, high + 0.012), "two plates"),
    ]
    for x in (rim, wide - rim):
        items.append(Path(((x, 0.0), (x, high)), "centre lines"))
    left = wide + 0.06
    across, long = g.slide
    items += [*plate(left, 0, across, long, display)]
    items += hole((left + across / 2, g.slide_hole[1]), g.slide_hole[0], display)
    right = left + across
    items += [Path(((left, y), (right, y)), "centre lines") for y in g.pegs]
    # From the far end to each peg's edge and to the hole's middle, one behind the other.
    for number, y in enumerate((g.pegs[0], g.slide_hole[1], g.pegs[1]), 1):
        items.append(Dimension((right, y), (right, 0.0), display.length(y), 7.0 * number))
    items.append(Text((left + across / 2, long + 0.012), "slide, pegs at the lines"))
    # What a gate of plywood leaks is what one should know before making eight of them.
    share = gate_leak_share(bore, gap)
    leak = leaking(math.pi * bore * gap, f["suction"])
    strip = f["slide"] + 2 * gap
    boards = (
        Board(2, "plates", "plywood", wide, high, f["plate"]),
        Board(1, "slide", "hardboard or thin plywood", long, across, f["slide"]),
        Board(2, "side guides", "strip as thick as slide and two gaps", high, rim, strip),
        Board(2, "pegs across the slide's ends", "strip", across, PEG, 0.01),
    )
    return TemplateResult(
        tuple(items),
        boards,
        f"Shut, it leaks {display.airflow(leak)} at {display.pressure(f['suction'])}: "
        f"{decimal(share * 100, 1)}% of its bore. Every such gate that is shut takes that from the "
        "machine that runs.",
        (
            f"Pushed in to its peg it is wide open, pulled out {display.length(g.travel)} to the "
            "other peg it is shut.",
            f"The slide has {decimal(gap * 1000, 1)} mm of room on every side; half of it leaks "
            "half as much.",
            "Glue each pipe's end into its plate, flush with the inside.",
        ),
        ("Put the pegs on last. The far end pushes out what lies in the groove: keep it free.",),
    )


GATE = Template(
    "gate",
    "Sliding gate of plywood",
    "A blast gate for any size of pipe",
    (
        TemplateInput("bore", "Pipe's bore", "length", 0.1016, 0.03, 0.4),
        TemplateInput("wall", "Pipe's wall", "length", 0.0015, 0.0003, 0.01),
        TemplateInput("plate", "Plates' thickness", "length", 0.012, 0.004, 0.03),
        TemplateInput("slide", "Slide's thickness", "length", 0.006, 0.002, 0.02),
        TemplateInput("gap", "Room round the slide", "length", 0.0005, 0.0001, 0.005),
        TemplateInput("land", "Cover round the hole", "length", 0.015, LEAST_LAND, 0.06),
        TemplateInput("rim", "Width of the guides", "length", 0.032, 0.015, 0.15),
        TemplateInput("suction", "Suction there", "pressure", 1500.0, 50.0, 30_000.0),
    ),
    _gate,
)


def _adaptor(f: Figures, display: Display) -> TemplateResult:
    wide, high, bore = f["width"], f["height"], f["bore"]
    rim = f["rim"]
    if bore > min(wide, high):
        raise InputError(
            "Adaptor plate, pipe's bore",
            display.length(bore),
            "it should go into the port's opening",
        )
    outer_wide, outer_high = wide + 2 * rim, high + 2 * rim
    middle = (outer_wide / 2, outer_high / 2)
    items: list[Item] = [
        *plate(0, 0, outer_wide, outer_high, display),
        *hole(middle, bore, display),
    ]
    items.append(
        Path(
            ((rim, rim), (rim + wide, rim), (rim + wide, rim + high), (rim, rim + high)),
            "hidden",
            True,
        )
    )
    corners = [
        (x, y) for x in (rim / 2, outer_wide - rim / 2) for y in (rim / 2, outer_high - rim / 2)
    ]
    items += [Circle(corner, 0.003, "outline") for corner in corners]
    # The step from the port to the pipe costs by how sharp its edge is, not by its share.
    share = (math.pi / 4 * bore**2) / (wide * high)
    return TemplateResult(
        tuple(items),
        (Board(1, "plate", "plywood", outer_wide, outer_high, 0.012),),
        f"The pipe's bore is {share:.0%} of the port's opening. A sharp edge costs "
        f"{decimal(ENTRY_K['flanged'], 2)} velocity "
        f"pressures; rounded over by a sixth of the bore it costs {decimal(ENTRY_K['bell'], 2)}.",
        ("A strip of foam between plate and machine keeps false air out.",),
        supplies=(Supply("foam", 2 * (outer_wide + outer_high)),),
    )


ADAPTOR = Template(
    "adaptor",
    "Adaptor plate for a machine's port",
    "From a rectangular or odd opening to a pipe that is sold",
    (
        TemplateInput("width", "Opening's width", "length", 0.15, 0.03, 1.0),
        TemplateInput("height", "Opening's height", "length", 0.12, 0.03, 1.0),
        TemplateInput("bore", "Pipe's bore", "length", 0.1016, 0.03, 0.4),
        TemplateInput("rim", "Rim to screw down", "length", 0.025, 0.01, 0.1),
    ),
    _adaptor,
)


def _splitter(f: Figures, display: Display) -> TemplateResult:
    large, small = f["large"], f["small"]
    if small > large:
        raise InputError(
            "Splitter box, small pipes",
            display.length(small),
            "they should be no larger than the large one",
        )
    wide = max(2 * small + 0.06, large + 0.04)
    deep = max(large, small) + 0.04
    long = 2 * large
    items: list[Item] = [
        *plate(0, 0, wide, deep, display),
        *hole((wide / 2, deep / 2), large, display),
    ]
    x = wide + 0.07
    items += plate(x, 0, wide, deep, display)
    for share in (0.25, 0.75):
        items += hole((x + wide * share, deep / 2), small, display)
    items += [
        Text((wide / 2, deep + 0.012), "to the collector"),
        Text((x + wide / 2, deep + 0.012), "to the machines"),
    ]
    loss = splitter_loss(large, small)
    return TemplateResult(
        tuple(items),
        (
            Board(2, "ends", "plywood", wide, deep, 0.012),
            Board(2, "top and bottom", "plywood", long, wide + 0.024, 0.012),
            Board(2, "sides", "plywood", long, deep, 0.012),
        ),
        f"Each small pipe loses {decimal(loss, 2)} of its velocity pressures here: "
        f"{display.pressure(loss * STANDARD_DENSITY / 2 * PORT_VELOCITY**2)} at "
        f"{display.velocity(PORT_VELOCITY)}.",
        ("Chips fall out of the air in a box: give it a lid to look in.",),
    )


SPLITTER = Template(
    "splitter",
    "Splitter box",
    "Two pipes into one, where no wye of that size is sold",
    (
        TemplateInput("large", "Large pipe's bore", "length", 0.1016, 0.04, 0.4),
        TemplateInput("small", "Small pipes' bore", "length", 0.0635, 0.03, 0.4),
    ),
    _splitter,
)

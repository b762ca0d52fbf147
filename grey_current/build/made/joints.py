"""Gate, quick coupler, adaptor plate and splitter box: what is made in a run of duct."""

from __future__ import annotations

import math

from grey_current.air.fittings import ENTRY_K, SHARP_DISCHARGE
from grey_current.air.fittings import splitter as splitter_loss
from grey_current.air.needs import PORT_VELOCITY, STANDARD_DENSITY
from grey_current.build.drawing import Circle, Item, Path, Text
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
from grey_current.units import Display

GRAVITY = 9.81
# m that a ring's hole is wider than the hose that goes into it. Allowance.
FIT = 0.001
# m of wood that a magnet and what holds it want across. Allowance.
MAGNET_ROOM = 0.016


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


def _gate(f: Figures, display: Display) -> TemplateResult:
    bore, ply, slide, gap, rim = f["bore"], f["plate"], f["slide"], f["gap"], f["rim"]
    wide = bore + 2 * rim
    long = 2 * bore + 3 * rim
    guide = rim - 0.003
    items: list[Item] = [
        *plate(0, 0, wide, wide, display),
        *hole((wide / 2, wide / 2), bore, display),
    ]
    x = wide + 0.06
    items += [*plate(x, 0, bore + 2 * rim - 2 * guide, long, display)]
    items += hole((x + (wide - 2 * guide) / 2, long - rim - bore / 2), bore, display)
    items += [
        Text((wide / 2, wide + 0.012), "two plates"),
        Text((x + wide / 2 - guide, long + 0.012), "slide"),
    ]
    # What a gate of plywood leaks is what one should know before making eight of them.
    share = gate_leak_share(bore, gap)
    leak = leaking(math.pi * bore * gap, f["suction"])
    boards = (
        Board(2, "plates", "plywood", wide, wide, ply),
        Board(1, "slide", "hardboard or thin plywood", long, wide - 2 * guide, slide),
        Board(
            2, "side guides", "strip as thick as the slide and the gap", wide, guide, slide + gap
        ),
        Board(
            1,
            "stop",
            "strip as thick as the slide and the gap",
            wide - 2 * guide,
            guide,
            slide + gap,
        ),
    )
    return TemplateResult(
        tuple(items),
        boards,
        f"Shut, it leaks {display.airflow(leak)} at {display.pressure(f['suction'])}: "
        f"{share:.1%} of its bore. Every such gate that is shut takes that from the machine "
        "that runs.",
        (f"A gap of {gap * 1000:.1f} mm round the slide; half of it leaks half as much.",),
        ("Let the slide's end stand out far enough that chips in its groove are pushed through.",),
    )


GATE = Template(
    "gate",
    "Sliding gate of plywood",
    "A blast gate for any size of pipe",
    (
        TemplateInput("bore", "Pipe's bore", "length", 0.1016, 0.03, 0.4),
        TemplateInput("plate", "Plates' thickness", "length", 0.012, 0.004, 0.03),
        TemplateInput("slide", "Slide's thickness", "length", 0.006, 0.002, 0.02),
        TemplateInput("gap", "Gap round the slide", "length", 0.0005, 0.0001, 0.005),
        TemplateInput("rim", "Rim round the bore", "length", 0.032, 0.015, 0.15),
        TemplateInput("suction", "Suction there", "pressure", 1500.0, 50.0, 30_000.0),
    ),
    _gate,
)


def holding_force(bore: float, suction: float, mass: float, factor: float) -> float:
    """Force (N) that a coupler's magnets must hold: the hose that the air shortens, and its weight,
    times a factor.

    `bore` in m, `suction` in Pa, hanging `mass` in kg. Raises nothing. Source: pressure over the
    bore's area; a ribbed hose has next to no stiffness along its axis, so all of it pulls.
    """
    return factor * (suction * math.pi / 4 * bore**2 + mass * GRAVITY)


def _coupler(f: Figures, display: Display) -> TemplateResult:
    outer, bore = f["outer"], f["bore"]
    if outer <= bore:
        raise InputError(
            "Quick coupler, hose's outside",
            display.length(outer),
            "it should be more than its bore",
        )
    force = holding_force(bore, f["suction"], f["mass"], f["factor"])
    # Three at least, or the ring tips off.
    count = max(3, math.ceil(force / f["pull"]))
    inner = outer + 2 * FIT
    circle = inner + MAGNET_ROOM + 0.004
    ring = circle + MAGNET_ROOM + 0.004
    room = math.pi * circle / count
    if room < MAGNET_ROOM:
        raise InputError(
            "Quick coupler, pull of one magnet",
            f"{f['pull']:g} N",
            f"{count} magnets do not fit: take stronger ones",
        )
    items: list[Item] = [
        *plate(-ring / 2, -ring / 2, ring, ring, display),
        *hole((0, 0), inner, display),
    ]
    items += [Circle((0, 0), ring / 2, "outline"), Circle((0, 0), circle / 2, "centre lines")]
    for n in range(count):
        turn = 2 * math.pi * n / count
        items.append(
            Circle((circle / 2 * math.cos(turn), circle / 2 * math.sin(turn)), 0.005, "outline")
        )
    return TemplateResult(
        tuple(items),
        (Board(2, "rings", "plywood", ring, ring, 0.012),),
        f"{count} magnets of {f['pull']:g} N in each ring hold {count * f['pull']:.0f} N of "
        f"the {force:.0f} N wanted "
        f"(suction and hose with a factor of {f['factor']:g}).",
        (
            "One ring is glued on the hose, its twin stands at each machine; hole "
            f"{display.length(inner)}.",
            f"The air's pull on the hose is {f['suction'] * math.pi / 4 * bore**2:.0f} N when "
            "it runs.",
        ),
        ("Strong magnets pinch; keep them from pacemakers and children.",),
    )


COUPLER = Template(
    "coupler",
    "Quick coupler for a hose",
    "Two rings with magnets, so that a hose is moved in seconds",
    (
        TemplateInput("outer", "Hose's outside", "length", 0.11, 0.03, 0.4),
        TemplateInput("bore", "Hose's bore", "length", 0.1016, 0.02, 0.38),
        TemplateInput("suction", "Suction there", "pressure", 1500.0, 10.0, 30_000.0),
        TemplateInput("mass", "Hose that hangs on it", "mass", 1.0, 0.0, 20.0),
        TemplateInput("pull", "Pull of one magnet", "force", 10.0, 1.0, 200.0),
        TemplateInput("factor", "Factor of safety", "number", 2.0, 1.0, 6.0),
    ),
    _coupler,
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
        f"{ENTRY_K['flanged']:.2f} velocity "
        f"pressures; rounded over by a sixth of the bore it costs {ENTRY_K['bell']:.2f}.",
        ("A strip of foam between plate and machine keeps false air out.",),
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
        f"Each small pipe loses {loss:.2f} of its velocity pressures here: "
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

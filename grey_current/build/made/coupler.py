"""Quick coupler: two rings with magnets, what holds them together and what parts them."""

from __future__ import annotations

import math
from dataclasses import dataclass

from grey_current.build.drawing import Circle, Dimension, Item, Path, Text
from grey_current.build.made.joints import leaking
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
from grey_current.numerals import compact, decimal
from grey_current.units import Display

GRAVITY = 9.81
# m that a ring's hole is wider than the hose that goes into it. Allowance.
FIT = 0.001
# m of wood round a magnet, and m that it lies under the ring's face. Allowances.
ROUND_MAGNET, SUNK = 0.006, 0.0003
# m that the foam is wide, and m of wood between it and the bore. Allowances.
FOAM_WIDE, FOAM_LAND = 0.006, 0.003
# Pa with which soft foam pushes back when it is pressed to half. Allowance.
FOAM_PUSHES = 5000.0
# m that two rings of plywood are apart on average where nothing seals them; the share of it that
# soft foam leaves. Allowances.
RING_GAP, FOAM_LEAVES = 0.0003, 0.1
# N that a hand parts without trouble, and that it parts at all. Allowances.
EASY, MOST_BY_HAND = 80.0, 150.0
# Least magnets in a ring: on two it rocks.
LEAST_MAGNETS = 3


def holding_force(bore: float, suction: float, mass: float, factor: float) -> float:
    """Force (N) that a coupler's magnets must hold: the hose that the air shortens, and its weight,
    times a factor.

    `bore` in m, `suction` in Pa, hanging `mass` in kg. Raises nothing. Source: pressure over the
    bore's area; a ribbed hose has next to no stiffness along its axis, so all of it pulls.
    """
    return factor * (suction * math.pi / 4 * bore**2 + mass * GRAVITY)


def pressed_together(bore: float, suction: float) -> float:
    """Force (N) with which the room's air presses two rings together, `bore` in m, `suction` in Pa.

    Raises nothing. Source: pressure over the bore's area.
    """
    return suction * math.pi / 4 * bore**2


@dataclass(frozen=True)
class RingSizes:
    """A coupler's ring, all in m: its hole, outside, the circle of its magnets and the middle of
    its groove for the foam; and how many magnets it has.
    """

    hole: float
    outside: float
    circle: float
    groove: float
    magnets: int

    @property
    def foam(self) -> float:
        """The area (m²) of the foam's face; of none where it has no groove."""
        return math.pi * self.groove * FOAM_WIDE if self.groove else 0.0


def ring_sizes(outer: float, magnet: float, count: int, *, foam: bool) -> RingSizes:
    """The sizes of a ring for a hose of an outside diameter (m) with round magnets of a diameter
    (m).

    The foam lies inside the magnets, so that no air goes by their holes. Raises nothing.
    """
    bore = outer + 2 * FIT
    groove = bore + 2 * FOAM_LAND + FOAM_WIDE if foam else 0.0
    inside = groove + FOAM_WIDE if foam else bore
    circle = inside + magnet + ROUND_MAGNET
    return RingSizes(bore, circle + magnet + ROUND_MAGNET, circle, groove, count)


def _coupler(f: Figures, display: Display) -> TemplateResult:
    outer, bore, magnet, pull = f["outer"], f["bore"], f["magnet"], f["pull"]
    if outer <= bore:
        raise InputError(
            "Quick coupler, hose's outside",
            display.length(outer),
            "it should be more than its bore",
        )
    foam = f["foam"] >= 0.001
    wanted = holding_force(bore, f["suction"], f["mass"], f["factor"])
    pushed = FOAM_PUSHES * ring_sizes(outer, magnet, 0, foam=foam).foam
    count = max(LEAST_MAGNETS, math.ceil((wanted + pushed) / pull))
    ring = ring_sizes(outer, magnet, count, foam=foam)
    if math.pi * ring.circle / count < magnet + ROUND_MAGNET:
        raise InputError(
            "Quick coupler, pull of one magnet",
            f"{compact(pull)} N",
            f"{count} magnets do not fit: take stronger ones",
        )
    holds = count * pull - pushed
    rings = round(f["machines"])
    return TemplateResult(
        tuple(_drawn(ring, magnet, foam, display)),
        (Board(1 + rings, "rings", "plywood", ring.outside, ring.outside, 0.012),),
        f"{count} magnets of {compact(pull)} N in each ring hold {holds:.0f} N of the "
        f"{wanted:.0f} N wanted (suction and hose with a factor of "
        f"{compact(f['factor'])}). {_by_hand(holds)}",
        (
            *_poles(),
            f"Holes for the magnets: {decimal(magnet * 1000, 1)} mm wide, "
            f"{decimal((f['thick'] + SUNK) * 1000, 1)} mm deep, a flat-bottomed bit with a stop; "
            f"glue them {decimal(SUNK * 1000, 1)} mm under the face.",
            *_seal(f, ring, foam, display),
            "When it runs, the air presses the rings together with "
            f"{pressed_together(bore, f['suction']):.0f} N more and pulls as much on the hose: "
            "shut the gate or stop the collector before you part them.",
            f"Before you glue the rest, hang {decimal(holds / GRAVITY / f['factor'], 1)} kg on one "
            "finished pair: it should stay.",
            f"One ring goes on the hose, one on each machine; hole {display.length(ring.hole)}.",
        ),
        ("Strong magnets pinch; keep them from pacemakers and children.",),
        (
            Supply(f"magnet/{magnet * 1000:.0f}/{f['thick'] * 1000:.0f}", count * (1.0 + rings)),
            *([Supply("foam", math.pi * ring.groove * rings)] if foam else []),
        ),
    )


def _by_hand(holds: float) -> str:
    """How hard it is to part: straight off, or tipped over its edge, which takes half."""
    if holds <= EASY:
        return f"A hand parts it straight off with {holds:.0f} N."
    tipped = holds / 2
    if tipped <= EASY:
        return f"Tip it off over its edge: that takes {tipped:.0f} N, straight off {holds:.0f} N."
    if tipped <= MOST_BY_HAND:
        return f"Even tipped over its edge it takes {tipped:.0f} N: take weaker magnets."
    return f"No hand parts that: tipped over its edge it takes {tipped:.0f} N. Take weaker magnets."


def _poles() -> tuple[str, ...]:
    return (
        "Any ring meets any other when every magnet on hoses shows one pole and every one on "
        "machines the other. Mark one magnet as a gauge and try each before the glue.",
        "Drill all rings through one template and mark its first hole on each: the magnets meet "
        "there.",
        "Machine rings may have every second magnet only, where that still holds; steel washers in "
        "their place have no poles to mind and hold about two thirds.",
    )


def _seal(f: Figures, ring: RingSizes, foam: bool, display: Display) -> tuple[str, ...]:
    around = math.pi * (ring.groove or ring.hole)
    bare = leaking(around * RING_GAP, f["suction"])
    if not foam:
        return (
            f"Without foam it draws in {display.airflow(bare)} between the rings: a strip of soft "
            "foam leaves a tenth of that.",
        )
    return (
        f"The foam lies in a groove {FOAM_WIDE * 1000:.0f} mm wide and "
        f"{decimal(f['foam'] * 500, 1)} mm deep in the machine's ring, so that it is pressed to "
        f"half; it pushes back with {FOAM_PUSHES * ring.foam:.0f} N and lets in "
        f"{display.airflow(bare * FOAM_LEAVES)} instead of {display.airflow(bare)}.",
    )


def _drawn(ring: RingSizes, magnet: float, foam: bool, display: Display) -> list[Item]:
    half = ring.outside / 2
    items: list[Item] = [
        *plate(-half, -half, ring.outside, ring.outside, display),
        *hole((0, 0), ring.hole, display),
        Circle((0, 0), half, "outline"),
        Circle((0, 0), ring.circle / 2, "centre lines"),
    ]
    if foam:
        for side in (-1, 1):
            items.append(Circle((0, 0), (ring.groove + side * FOAM_WIDE) / 2, "hidden"))
    for number in range(ring.magnets):
        turn = 2 * math.pi * number / ring.magnets
        at = (ring.circle / 2 * math.cos(turn), ring.circle / 2 * math.sin(turn))
        items.append(Circle(at, magnet / 2, "drill"))
    # The mark by which rings are put together alike, beside the first magnet.
    items.append(Path(((ring.circle / 2 + magnet, 0.0), (half, 0.0)), "score"))
    across = ring.circle / 2
    items += [
        Dimension((-across, half), (across, half), f"⌀ {display.length(ring.circle)}", 8.0),
        Text((0.0, half + 0.03), "magnets' circle"),
    ]
    return items


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
        TemplateInput("magnet", "Magnet's diameter", "length", 0.01, 0.005, 0.03),
        TemplateInput("thick", "Magnet's thickness", "length", 0.005, 0.002, 0.009),
        TemplateInput("foam", "Foam's thickness", "length", 0.006, 0.0, 0.012),
        TemplateInput("machines", "Rings on machines", "count", 1.0, 1.0, 30.0),
        TemplateInput("factor", "Factor of safety", "number", 2.0, 1.0, 6.0),
    ),
    _coupler,
)

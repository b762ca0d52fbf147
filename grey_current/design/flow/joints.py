"""Where runs meet: which one is the main, how far air turns, and the wyes that join them."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

from grey_current.air.pieces import Piece
from grey_current.design.flow import fittings as make
from grey_current.design.flow.spans import JoinedLeg
from grey_current.shop.catalogue import materials
from grey_current.shop.ducts import Point, Run
from grey_current.shop.places import XYZ

# Angle of a wye whose branch is a hose, which the drawing does not tell. Allowance.
HOSE_WYE_ANGLE = 45.0
# Degrees from which on a main that turns at a wye has an elbow there. Allowance.
TURNS_MAIN = 15.0


class Coming(NamedTuple):
    """A run that comes to a joint, and the degrees by which its air turns there."""

    run: Run
    turn: float

    @property
    def hose(self) -> bool:
        return materials()[self.run.material].hose


def main_first(upstream: Sequence[Run], turn: Callable[[Run], float]) -> list[Run]:
    """Return the runs that meet at a joint, the one that goes straightest on first.

    `turn` gives the degrees by which a run's air turns. Five degrees more or less count as equally
    straight; then the wider one is the main. A hose is a branch wherever a duct comes too.
    """

    def order(run: Run) -> tuple[bool, int, float, str]:
        return materials()[run.material].hose, round(turn(run) / 5), -run.diameter, run.id

    return sorted(upstream, key=order)


def turn_between(a: XYZ, b: XYZ) -> float:
    """Degrees between two headings."""
    dot = a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
    return math.degrees(math.acos(min(1.0, max(-1.0, dot))))


def wye_legs(point: Point, down: Run, main: Coming, sides: Sequence[Coming]) -> Iterator[JoinedLeg]:
    """Yield the legs of the wyes at a point, which join one side after the other to the main.

    Each wye has two: its side, and what leads on upstream, which for the last one is the main.
    """
    joins = -1
    for number, side in enumerate(sides):
        last = number == len(sides) - 1
        drawn = HOSE_WYE_ANGLE if side.hose else side.turn
        wye = make.WyeShape(
            point,
            suffix=f"-{number + 1}" if len(sides) > 1 else "",
            combined=down.diameter,
            angle=point.wye_angle or drawn,
            side=side.run.diameter,
            crowded=number > 0,
        )
        leg = make.wye_leg(wye, side.run.diameter, roughness(side.run), is_main=False)
        yield JoinedLeg(joins, leg, side.run.id)
        onward = main.run if last else down
        through = make.wye_leg(wye, onward.diameter, roughness(onward), is_main=True)
        if last:
            through = (*_elbows(point, main), *through)
        yield JoinedLeg(joins, through, main.run.id if last else None)
        joins = 2 * number + 1


def _elbows(point: Point, main: Coming) -> tuple[Piece, ...]:
    """Return what turns a main that does not go straight on through its wye."""
    if main.turn <= TURNS_MAIN or main.hose:
        return ()
    bore = main.run.diameter
    return make.elbows(point, main.turn, bore, roughness(main.run), guessed=True)


def roughness(run: Run) -> float:
    """Roughness of a run's inside, m."""
    return materials()[run.material].roughness

"""Fan curves and claims that neither the motor nor the impeller could give."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from grey_current.air.fan import (
    AIR_POWER_LIMIT,
    MOTOR_RPM,
    SHUT_OFF_MOST,
    believable,
    best_air_power,
    curve_from_claim,
    curve_from_points,
)
from grey_current.shop.collectors import Collector
from grey_current.shop.fans import Claim, CurvePoints
from grey_current.units import Display

# How far over the most that an impeller gives a measured shut-off pressure may lie. Allowance.
MEASURED_WITHIN = 1.05
# m; a narrower inlet is a vacuum's, whose motor runs many times faster than its mains.
VACUUM_INLET = 0.07
# m (18 in) of impeller that is taken where none is known; no larger one is sold for a home shop.
# Allowance.
LARGEST_WHEEL = 0.46


@dataclass(frozen=True)
class Implausible:
    """Why a curve cannot be: the figure and the most that it may be (W or Pa), in words, and what
    to do about it.
    """

    value: float
    limit: float
    words: str
    remedy: str


def implausible(item: Collector, display: Display) -> Iterator[Implausible]:
    """What is implausible about a collector's fan curve or claim. Raises nothing."""
    if isinstance(item.fan, Claim):
        yield from _claim(item.fan, display)
    elif isinstance(item.fan, CurvePoints):
        yield from _power(item, item.fan, display)
        yield from _shut_off(item, item.fan, display)


def _claim(claim: Claim, display: Display) -> Iterator[Implausible]:
    curve = curve_from_claim(claim.impeller, claim.free_air, claim.hertz)
    if not believable(curve, claim.motor_power):
        power = best_air_power(curve)
        yield Implausible(
            power,
            AIR_POWER_LIMIT * claim.motor_power,
            f"the claim needs {display.power(power)} in the air, more than half of "
            f"what its motor of {display.power(claim.motor_power)} can give",
            "Ask for a measured fan curve, or take the claim down.",
        )


def _power(item: Collector, fan: CurvePoints, display: Display) -> Iterator[Implausible]:
    curve = curve_from_points(fan.points)
    if item.motor and not believable(curve, item.motor.power):
        power = best_air_power(curve)
        yield Implausible(
            power,
            AIR_POWER_LIMIT * item.motor.power,
            f"its curve needs {display.power(power)} in the air, more than half of "
            f"what its motor of {display.power(item.motor.power)} can give",
            "Ask how the curve was measured, or take it down.",
        )


def _shut_off(item: Collector, fan: CurvePoints, display: Display) -> Iterator[Implausible]:
    curve = curve_from_points(fan.points)
    if item.inlet < VACUUM_INLET:
        return
    wheel = item.impeller or LARGEST_WHEEL
    # No wheel gives more than the dynamic pressure of its tip times a factor of its blades.
    tip = math.pi * wheel * MOTOR_RPM[60] / 60
    most = SHUT_OFF_MOST * fan.density * tip**2 * MEASURED_WITHIN
    if curve.shut_off > most:
        yield Implausible(
            curve.shut_off,
            most,
            f"{display.pressure(curve.shut_off)} at shut-off; an impeller of "
            f"{display.diameter(wheel)} on a two-pole "
            f"motor gives no more than about {display.pressure(most)}",
            "Check the impeller's size, or how the curve was measured.",
        )

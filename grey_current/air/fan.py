"""Fan curves: measured or estimated points, monotone interpolation, density and speed laws."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

# Standard air of fan tables (0.075 lb/ft³), kg/m³; AMCA 210, 2016.
REFERENCE_DENSITY = 1.2014
# Shut-off pressure over ρU² of a radial dust fan, between 0.55 and 0.70. Allowance.
SHUT_OFF_FACTOR = 0.62
# The most of it. Allowance.
SHUT_OFF_MOST = 0.70
# Euler's work that a radial wheel of ten or so blades does: 1 − 0.63 π/Z. Stanitz, Some Theoretical
# Aerodynamic Investigations of Impellers, 1952.
SLIP = 0.8
# Power of a radial wheel at no flow over that at free delivery: recirculation, disc friction,
# bearings, 0.25 to 0.35. Allowance.
IDLE_SHARE = 0.30
# Pa of shut-off pressure that no single wheel on a two-pole motor reaches: beyond it are a vacuum's
# two or three.
SINGLE_STAGE_LIMIT = 8000.0
# Power of a vacuum's motor at no flow over that at free delivery: nearly flat. Allowance.
VACUUM_IDLE_SHARE = 0.85
# Share taken off a "free air" claim, the middle of the usual 25-40 %. Allowance.
CLAIM_DERATING = 0.33
# Largest believable air power over shaft power. Allowance.
AIR_POWER_LIMIT = 0.50
# Speed of a two-pole induction motor under load, by mains frequency in Hz.
MOTOR_RPM = {60: 3450.0, 50: 2850.0}

Points = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class FanCurve:
    """Fan static pressure (Pa, outlet static less inlet total) against airflow (m³/s).

    `points` rise in airflow and reach from shut-off (airflow 0) to free delivery (pressure 0);
    `known` is the airflow range of the points as given. Outside 0 to free delivery the curve goes
    on straight with its end slopes.
    """

    points: Points
    known: tuple[float, float]

    @property
    def shut_off(self) -> float:
        return self.points[0][1]

    @property
    def free_delivery(self) -> float:
        return self.points[-1][0]

    def pressure(self, flow: Array) -> tuple[Array, Array]:
        """Fan static pressure (Pa) and its slope (Pa per m³/s) at any shape of airflow (m³/s).

        Raises nothing. Source: Fritsch and Carlson, Monotone Piecewise Cubic Interpolation, 1980.
        """
        return curve_pressure(interpolant(self.points), flow)

    def knows(self, flow: float) -> bool:
        """Whether an airflow (m³/s) lies within the points that the curve was given."""
        return self.known[0] - 1e-9 <= flow <= self.known[1] + 1e-9


def curve_from_points(points: Sequence[tuple[float, float]]) -> FanCurve:
    """A fan curve from (airflow m³/s, fan static pressure Pa) points, extended to both axes.

    Shut-off: the first two points' line, never below the first point. Free delivery: the last two
    points' line down to zero pressure. Raises `ValueError` for fewer than two points, airflows that
    do not rise, negative pressures, or an end that does not fall. Source: none; straight extension
    to the axes, an allowance outside the points.
    """
    given = sorted((float(q), float(p)) for q, p in points)
    if len(given) < 2:
        raise ValueError("a fan curve needs at least two points")
    if any(b[0] - a[0] < 1e-9 for a, b in itertools.pairwise(given)):
        raise ValueError("two points of a fan curve share one airflow")
    if given[0][0] < 0 or any(p < 0 for _, p in given):
        raise ValueError("airflows and pressures of a fan curve cannot be negative")
    (q0, p0), (q1, p1), (qa, pa), (qb, pb) = given[0], given[1], given[-2], given[-1]
    if pb >= pa:
        raise ValueError("a fan curve must fall towards its last point")
    extended = list(given)
    # Leftwards along the first piece, but never below its first point: curves do not fall towards
    # shut-off.
    if q0 > 0:
        extended.insert(0, (0.0, max(p0, p0 + (p0 - p1) / (q1 - q0) * q0)))
    if pb > 0:
        extended.append((qb + pb * (qb - qa) / (pa - pb), 0.0))
    return FanCurve(tuple(extended), (q0, qb))


def scaled(curve: FanCurve, density: float, reference: float, speed: float = 1.0) -> FanCurve:
    """The same fan in air of another density (kg/m³) and at another speed (ratio).

    Q ∝ n, p ∝ n² ρ/ρ_ref. Raises nothing for positive values.
    Source: AMCA 210, Laboratory Methods of Testing Fans, 2016, annex on fan laws.
    """
    pressure = density / reference * speed**2
    points = tuple((q * speed, p * pressure) for q, p in curve.points)
    return FanCurve(points, (curve.known[0] * speed, curve.known[1] * speed))


def curve_from_claim(impeller: float, free_air: float, hertz: int) -> FanCurve:
    """An *estimated* curve from a maker's claim only.

    Impeller diameter (m), claimed "free air" (m³/s) and mains frequency (50 or 60 Hz). Shut-off is
    0.62 ρU² with the tip speed U of a two-pole motor; free delivery is the claim less 33 %; between
    them p = p0 (1 - x²). Allowance throughout. Raises `KeyError` for another frequency.
    Source: Eck, Fans, 1973, ch. 3 (pressure coefficient of radial fans); derating by practice.
    """
    tip_speed = math.pi * impeller * MOTOR_RPM[hertz] / 60
    shut_off = SHUT_OFF_FACTOR * REFERENCE_DENSITY * tip_speed**2
    free = free_air * (1 - CLAIM_DERATING)
    shares = [0.0, 0.2, 0.4, 0.6, 0.8, 0.9, 1.0]
    return curve_from_points([(free * x, shut_off * (1 - x * x)) for x in shares])


def is_vacuum(curve: FanCurve) -> bool:
    """Whether a curve (Pa over m³/s) is a vacuum's, with several small wheels on a universal motor.
    Raises nothing.

    Source: Eck, Fans, 1973, ch. 3: the pressure coefficient bounds what one wheel reaches at a
    two-pole motor's speed.
    """
    return curve.shut_off > SINGLE_STAGE_LIMIT


def shaft_power(curve: FanCurve, airflow: float, rated: float) -> float:
    """Power (W) that a fan takes at its shaft at an airflow (m³/s), of a motor of `rated` power (W;
    0: not known).

    A radial dust fan: SLIP · ρ Q_free U² at free delivery, where it moves most air, so that an open
    system can overload its motor; `IDLE_SHARE` of that at no flow, and straight between them, so
    that its static efficiency stays under a half. ρU² is read off the curve's shut-off pressure. A
    vacuum draws nearly the same whatever passes, and never more than it is rated for. Raises
    nothing. Source: Euler's equation with Stanitz's slip, 1952; Eck, Fans, 1973, ch. 3; universal
    motors: allowance.
    """
    # A radial fan takes little power with all gates shut and most in free delivery.
    share = min(max(airflow / curve.free_delivery, 0.0), 1.0)
    if is_vacuum(curve):
        return rated * (VACUUM_IDLE_SHARE + (1 - VACUUM_IDLE_SHARE) * share)
    most = SLIP * curve.free_delivery * curve.shut_off / SHUT_OFF_FACTOR
    return most * (IDLE_SHARE + (1 - IDLE_SHARE) * share)


def best_air_power(curve: FanCurve) -> float:
    """Largest product of airflow and pressure along the curve, W. Raises nothing.

    Source: AMCA 210, 2016, fan static power.
    """
    flow = np.linspace(0, curve.free_delivery, 200)
    return float(np.max(flow * curve.pressure(flow)[0]))


def believable(curve: FanCurve, shaft_power: float) -> bool:
    """Whether a curve's air power stays within half of the motor's shaft power (W). Raises nothing.

    Source: Eck, Fans, 1973: radial dust fans reach at most about 50 % static efficiency.
    """
    return best_air_power(curve) <= AIR_POWER_LIMIT * shaft_power


@lru_cache(maxsize=256)
def interpolant(points: Points) -> Array:
    """Points (m³/s, Pa) as monotone cubic pieces: rows of x, y, slope, quadratic and cubic
    coefficient.

    Row i holds from point i to the next; the last row only ends the curve. Raises nothing for
    points that rise in x. Source: Fritsch and Carlson, Monotone Piecewise Cubic Interpolation,
    1980. SciPy has the same but takes a second to import.
    """
    x, y = (np.array(column) for column in zip(*points, strict=True))
    h, secant = np.diff(x), np.diff(y) / np.diff(x)
    slopes = np.zeros(len(x))
    if len(x) == 2:
        slopes[:] = secant[0]
    else:
        before, after = secant[:-1], secant[1:]
        w1, w2 = 2 * h[1:] + h[:-1], h[1:] + 2 * h[:-1]
        # A slope of 0 at every peak or trough keeps the curve from overshooting its points.
        same = before * after > 0
        harmonic = (w1 + w2)[same] / (w1[same] / before[same] + w2[same] / after[same])
        slopes[1:-1][same] = harmonic
        slopes[0] = _end_slope(h[0], h[1], secant[0], secant[1])
        slopes[-1] = _end_slope(h[-1], h[-2], secant[-1], secant[-2])
    square = (3 * secant - 2 * slopes[:-1] - slopes[1:]) / h
    cube = (slopes[:-1] + slopes[1:] - 2 * secant) / (h * h)
    rows = np.column_stack([x, y, slopes, np.append(square, 0.0), np.append(cube, 0.0)])
    rows.flags.writeable = False
    return rows


def curve_pressure(rows: Array, flow: Array) -> tuple[Array, Array]:
    """A fan's pressure (Pa) and its slope (Pa per m³/s) at airflows (m³/s), from the rows of
    `interpolant`.

    Outside the curve it goes on straight. Raises nothing. Source: as `interpolant`.
    """
    knots = rows[:, 0]
    inside = np.minimum(np.maximum(flow, knots[0]), knots[-1])
    piece = np.minimum(
        np.maximum(np.searchsorted(knots, inside, side="right") - 1, 0), len(rows) - 2
    )
    x, y, c1, c2, c3 = np.moveaxis(rows[piece], -1, 0)
    step = inside - x
    slope = c1 + step * (2 * c2 + step * 3 * c3)
    return y + step * (c1 + step * (c2 + step * c3)) + slope * (flow - inside), slope


def _end_slope(h0: float, h1: float, m0: float, m1: float) -> float:
    slope = ((2 * h0 + h1) * m0 - h0 * m1) / (h0 + h1)
    if slope * m0 <= 0:
        return 0.0
    return 3 * m0 if m0 * m1 <= 0 and abs(slope) > 3 * abs(m0) else slope

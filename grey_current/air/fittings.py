"""Loss coefficients of everything that is not straight duct.

Each function says on which velocity pressure its K counts. The correlations come from the library
`fluids`; what is written out here is only what a batch solver needs in arrays with derivatives (the
wye) and what no correlation covers, named an allowance.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cache, lru_cache
from typing import Literal

import numpy as np
from fluids import fittings as correlations
from numpy.typing import NDArray

from grey_current.air.friction import turbulent_factor

Array = NDArray[np.float64]

# Surcharge on a smooth elbow for its gores. Allowance.
GORE_FACTOR = {"smooth": 1.0, "five gores": 1.1, "three gores": 1.4}
# K (-) of a hood opening on the duct's velocity pressure; ASHRAE, Duct Fitting Database, 2016
# (ED1).
ENTRY_K = {"flanged": 0.49, "tapered": 0.20, "bell": 0.04}
# K (-) of an open blast gate on the duct's velocity pressure. Allowance.
GATE_K = {"full bore": 0.10, "stepped": 0.35}
# Discharge coefficient of a sharp opening; Idelchik, Handbook of Hydraulic Resistance, 2007, ch. 4.
SHARP_DISCHARGE = 0.62
# Included angle of a bought reducer or adapter, degrees. Allowance.
TAPER_ANGLE = 30.0
# Velocity (m/s) at which the friction factor inside fitting correlations is taken.
DESIGN_VELOCITY = 20.0
SPACING_DIAMETERS = 4.0
# Diameters of straight duct that a collector's inlet wants before it.
INLET_DIAMETERS = 5.0
WYE_ANGLES = (30.0, 90.0)

_KINEMATIC_VISCOSITY = 1.51e-5
# Area ratios between which Crane's two C are joined; he steps at 0.35. Allowance.
AREA_JOIN = (0.28, 0.42)
# Flow shares between which the two sides of Crane's C are joined.
WYE_JOIN = (0.38, 0.42)


@lru_cache(maxsize=1024)
def fitting_friction(diameter: float, roughness: float) -> float:
    """Friction factor (-) used inside fitting correlations, for a duct of diameter and roughness in
    m.

    Taken at 20 m/s in standard air, so that K stays constant while the flow is solved for; over 5
    to 40 m/s a 90° elbow's K moves by less than 4 %. Raises nothing. Source: Colebrook, see
    `friction`.
    """
    reynolds = np.array(DESIGN_VELOCITY * diameter / _KINEMATIC_VISCOSITY)
    return float(turbulent_factor(reynolds, np.array(roughness / diameter))[0])


Construction = Literal["smooth", "five gores", "three gores", "mitre"]


@lru_cache(maxsize=1024)
def elbow(
    diameter: float, angle: float, radius_ratio: float, friction: float, construction: Construction
) -> float:
    """K (-) of an elbow on the duct's velocity pressure.

    `diameter` in m, `angle` in degrees (0 to 180), centre-line radius over diameter (-), Darcy
    `friction` factor (-). Raises `KeyError` for an unknown construction. Source: Rennels and
    Hudson, Pipe Flow, 2012, ch. 15 (`fluids.bend_rounded`, `fluids.bend_miter`); gores by
    `GORE_FACTOR`.
    """
    if construction == "mitre":
        return float(correlations.bend_miter(angle=angle, method="Rennels"))
    smooth = correlations.bend_rounded(
        Di=diameter, angle=angle, fd=friction, bend_diameters=radius_ratio, method="Rennels"
    )
    return float(smooth) * GORE_FACTOR[construction]


def expansion(small: float, large: float, friction: float, angle: float | None) -> float:
    """K (-) of a widening with the flow, on the small end's velocity pressure.

    Diameters in m, Darcy `friction` factor (-), included `angle` in degrees, or None for a sudden
    step. Raises nothing for small < large. Source: Rennels and Hudson, Pipe Flow, 2012, ch. 11
    (`fluids.diffuser_conical`, `fluids.diffuser_sharp`).
    """
    if angle is None:
        return float(correlations.diffuser_sharp(Di1=small, Di2=large, method="Rennels"))
    return float(
        correlations.diffuser_conical(
            Di1=small, Di2=large, angle=angle, fd=friction, method="Rennels"
        )
    )


def contraction(large: float, small: float, friction: float, angle: float | None) -> float:
    """K (-) of a narrowing with the flow, on the small end's velocity pressure.

    Diameters in m, Darcy `friction` factor (-), included `angle` in degrees, or None for a sudden
    step. Raises nothing for small < large. Source: Rennels and Hudson, Pipe Flow, 2012, ch. 10
    (`fluids.contraction_conical`, `fluids.contraction_sharp`).
    """
    if angle is None:
        return float(correlations.contraction_sharp(Di1=large, Di2=small, method="Rennels"))
    return float(
        correlations.contraction_conical(
            Di1=large, Di2=small, angle=angle, fd=friction, method="Rennels"
        )
    )


def splitter(large: float, small: float) -> float:
    """K (-) of a two-into-one box on the small leg's velocity pressure, for one leg (diameters in
    m).

    Sudden expansion into the box and sudden contraction out of it, the box taken as twice the area
    of the large pipe. Allowance. Raises nothing for small <= large. Source: Rennels and Hudson,
    Pipe Flow, 2012, ch. 10 and 11.
    """
    box = large * math.sqrt(2.0)
    leaving = contraction(box, large, 0.0, None) * (small / large) ** 4
    return expansion(small, box, 0.0, None) + leaving


def entry(end: Literal["plain", "flanged", "tapered", "bell"]) -> float:
    """K (-) of the opening through which air enters a duct, on the duct's velocity pressure.

    Raises `KeyError` for an unknown end. Source: Rennels and Hudson, Pipe Flow, 2012, ch. 9
    (`fluids.entrance_distance` with a wall of 1 % of the diameter) for a plain end; `ENTRY_K`.
    """
    if end == "plain":
        return float(correlations.entrance_distance(Di=1.0, t=0.0101, method="Rennels"))
    return ENTRY_K[end]


def gate(open_k: float, opening: float) -> float:
    """K (-) of a blast gate on the duct's velocity pressure; `opening` is the free share of its
    bore (0-1).

    (1/(0.62 a) - 1)² for a part-open gate and nothing more for a full one, plus the open gate's own
    K. Raises `ZeroDivisionError` for an opening of 0: a shut gate is a leak. Source: Idelchik,
    Handbook of Hydraulic Resistance, 2007, ch. 9 (vena contracta). Allowance.
    """
    return open_k if opening >= 1 else (1 / (SHARP_DISCHARGE * opening) - 1) ** 2 + open_k


def leak(share: float) -> float:
    """K (-) of a shut gate or cap that leaks through `share` (0-1) of its bore, on the bore's VP.

    Raises `ZeroDivisionError` for 0. Source: orifice equation with Cd 0.62, Idelchik, 2007, ch. 4.
    """
    return 1 / (SHARP_DISCHARGE * share) ** 2


def free_intake() -> float:
    """K (-) of a cabinet's or hood's free intake area on the velocity pressure in that area.

    Raises nothing. Source: sharp opening, vena contracta 0.62, Idelchik, 2007, ch. 4.
    """
    return 1 / SHARP_DISCHARGE**2


def intake_from_measurement(
    airflow: float, static: float, diameter: float, density: float
) -> float:
    """K (-) on the port's velocity pressure from one measurement at the port.

    Parameters are the airflow (m³/s), the static pressure below the room's (Pa, positive), the
    port's diameter (m) and the density (kg/m³). The static pressure has paid for the velocity
    pressure too, so K = SP/VP - 1, never below 0. Raises nothing for positive values.
    Source: ACGIH, Industrial Ventilation, 2013, ch. 3 (hood static pressure, eq. 3.14).
    """
    velocity = airflow / (math.pi / 4 * diameter**2)
    return max(static / (density / 2 * velocity**2) - 1, 0.0)


def spacing_share(distance: float, diameter: float) -> float:
    """Share (0 to 0.3) of its own K that a fitting loses more when another stands `distance` m
    before it.

    Full at no distance, falling linearly to nothing at 4 diameters (m). Allowance; raises nothing.
    Source: none measured; the range of ASHRAE, Fundamentals, 2017, ch. 21 on system effects.
    """
    return 0.3 * max(0.0, 1 - distance / (SPACING_DIAMETERS * diameter))


def inlet_disturbance(distance: float, diameter: float) -> float:
    """K (0 to 0.5, on the duct's velocity pressure) of an elbow or wye `distance` m before a fan or
    cyclone.

    Falls linearly to nothing at 5 diameters (m). Allowance; raises nothing.
    Source: none measured; the range of AMCA 201, Fans and Systems, 2002, inlet system effects.
    """
    return 0.5 * max(0.0, 1 - distance / (INLET_DIAMETERS * diameter))


def hose_turn(length: float, distance: float) -> float:
    """Degrees through which a hose of `length` m turns when its ends are `distance` m apart.

    The surplus hangs as one arc (L/c = (θ/2)/sin(θ/2)) through θ: about 60° for 5 % of surplus,
    120° for 20 %; at least 90° for any hose between two fixed ends. Allowance, half to one and a
    half times; raises nothing. Source: chord of a circular arc; no measured correlation.
    """
    ratio = length / max(distance, 1e-6)
    # A full circle, and more than any hose in a shop.
    if ratio >= 50:
        return 360.0
    # Half the angle of an arc whose length over its chord is the ratio, by halving.
    low, high = 0.0, math.pi
    for _ in range(40):
        half = (low + high) / 2
        arc_ratio = half / math.sin(half) if 0 < half < math.pi else math.inf
        low, high = (half, high) if half == 0 or arc_ratio < ratio else (low, half)
    return float(max(90.0, math.degrees(2 * low)))


def hose_bend(diameter: float, roughness: float) -> float:
    """K (-) of 90° of a drooping hose (m, m) on its velocity pressure, without the friction counted
    as length.

    Bends of R/D 2. Allowance; raises nothing.
    Source: Rennels and Hudson, Pipe Flow, 2012, ch. 15, first term left out.
    """
    friction = fitting_friction(diameter, roughness)
    with_friction = elbow(diameter, 90.0, 2.0, friction, "smooth")
    return with_friction - friction * math.pi / 2 * 2.0


def angle_term(angle: float, *, main: bool) -> float:
    """Crane's F (-) for the main or branch leg of a converging wye at an angle in degrees, clamped
    to 30-90.

    Raises nothing. Source: Crane, Flow of Fluids, TP-410, 2009, tables with eq. 2-35, as `fluids`
    has them.
    """
    leg = "run" if main else "branch"
    angles = getattr(correlations, f"{leg}_converging_Crane_angles")
    terms = getattr(correlations, f"{leg}_converging_Crane_Fs")
    return float(np.interp(min(max(angle, WYE_ANGLES[0]), WYE_ANGLES[1]), angles, terms))


@lru_cache(maxsize=1024)
def wye_branch(area_ratio: float, angle: float) -> Array:
    """K (-) of the branch leg of a converging wye on the combined leg's velocity pressure.

    Parameters
    ----------
    area_ratio
        Branch area over combined area, above 0, up to 1.
    angle
        Between branch and main, degrees, clamped to 30-90.

    Returns
    -------
    (3, 6) array
        K as polynomials in the branch's share q of the combined flow (0 to 1), lowest power first:
        one row below `WYE_JOIN`, one in it, one above. Negative at a small share: the main drags
        the branch.

    Raises
    ------
    ZeroDivisionError
        For a ratio of 0.

    Source: Crane, Flow of Fluids, TP-410, 2009, eq. 2-35. Its factor C steps from 0.54 to 0.55 at q
    = 0.4; within the seam a cubic joins the two sides, so that Newton never meets a kink. It also
    steps from 1 at an area ratio of 0.35; within `AREA_JOIN` the two sides are mixed, so that a
    pipe size more is never a step.
    """
    term = angle_term(angle, main=False)
    base = np.array([-1.0, 4.0, 1 / area_ratio**2 - 2 - term / area_ratio])
    low, high = AREA_JOIN
    # Between the two published ranges the coefficients go over smoothly, so that the slope has no
    # step.
    t = min(max((area_ratio - low) / (high - low), 0.0), 1.0)
    wide = t * t * (3 - 2 * t)
    factors = [np.array([0.9, -0.9]), _join_cubic(), np.array([0.55])]
    rows = [
        (1 - wide) * np.pad(base, (0, len(f) - 1)) + wide * np.convolve(f, base) for f in factors
    ]
    return _table(rows)


@cache
def _join_cubic() -> Array:
    """C(q) from 0.9 (1 - q) to 0.55 across the seam, with both end slopes (Hermite's cubic)."""
    low, high = WYE_JOIN
    matrix = [
        [1.0, low, low**2, low**3],
        [0.0, 1.0, 2 * low, 3 * low**2],
        [1.0, high, high**2, high**3],
        [0.0, 1.0, 2 * high, 3 * high**2],
    ]
    return np.linalg.solve(np.array(matrix), np.array([0.9 * (1 - low), -0.9, 0.55, 0.0]))


@lru_cache(maxsize=1024)
def wye_main(area_ratio: float, angle: float) -> Array:
    """K (-) of the straight leg of a converging wye on the combined leg's velocity pressure.

    `area_ratio` is branch over combined, `angle` the branch's in degrees (clamped to 30-90).
    Returns a (3, 6) array of polynomials as `wye_branch` does, here in the *straight leg's own*
    share of the flow; its three rows are alike. Raises `ZeroDivisionError` for a ratio of 0.
    Source: Crane, Flow of Fluids, TP-410, 2009, eq. 2-36, and K = 1.55 q - q² from 75° on.
    """
    if angle >= 75.0:
        linear, quadratic = 1.55, -1.0
    else:
        linear, quadratic = 2.0, -1 - angle_term(angle, main=True) / area_ratio
    return _table([[linear + quadratic, -linear - 2 * quadratic, quadratic]] * 3)


def _table(rows: Sequence[Sequence[float] | Array]) -> Array:
    """Polynomials of up to degree 5 as one array that is shared and so cannot be written to."""
    table = np.zeros((len(rows), 6))
    for line, row in zip(table, rows, strict=True):
        line[: len(row)] = row
    table.flags.writeable = False
    return table

"""Friction in straight duct: Darcy-Weisbach with a factor that Newton's method can
differentiate.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

LAMINAR_UNTIL = 2000.0
TURBULENT_FROM = 4000.0
_LN10 = math.log(10.0)


def roughness_term(relative_roughness: Array | float) -> Array | float:
    """(ε/D/3.7)^1.11 (-) for a relative roughness ε/D (-), which does not depend on the airflow.

    Raises nothing for a roughness that is not negative. Source: Haaland, Simple and Explicit
    Formulas for the Friction Factor, 1983, eq. 7.
    """
    return (relative_roughness / 3.7) ** 1.11


def turbulent_factor(
    reynolds: Array, relative_roughness: Array, term: Array | float | None = None
) -> tuple[Array, Array]:
    """Darcy friction factor of turbulent flow, and its derivative.

    Parameters
    ----------
    reynolds
        Reynolds number, any shape, > 2000.
    relative_roughness
        ε/D, same or broadcastable shape, 0 to 0.05.
    term
        Its `roughness_term`, where that is known already.

    Returns
    -------
    factor, slope
        Darcy friction factor (-) and d factor / d Re (-), broadcast shape.

    Raises
    ------
    Nothing; outside the range the value is an extrapolation of the same law.

    Source: Colebrook, Turbulent Flow in Pipes, 1939; started from Haaland, Simple and Explicit
    Formulas for the Friction Factor, 1983, eq. 7, and finished by one step of Halley's method,
    which leaves less than 1e-6 of the factor.
    """
    rough = relative_roughness / 3.7
    inverse = 1 / reynolds
    x = (-1.8 / _LN10) * np.log(
        (roughness_term(relative_roughness) if term is None else term) + 6.9 * inverse
    )
    # One step of Halley's method on Colebrook's equation, begun at an explicit approximation.
    smooth = 2.51 * inverse
    inner = rough + smooth * x
    ratio = smooth / inner
    first = 1 + (2 / _LN10) * ratio
    newton = (x + (2 / _LN10) * np.log(inner)) / first
    x -= newton / (1 + newton * (ratio * ratio) / (_LN10 * first))
    ratio = (2 / _LN10) * smooth / (rough + smooth * x)
    factor = 1 / (x * x)
    return factor, -2 * factor * ratio * inverse / (1 + ratio)


class Ducts(NamedTuple):
    """Straight ducts made ready for `friction_drop`: everything that does not depend on the
    airflow.

    Of shapes that broadcast against the airflow: Reynolds number per m³/s; Pa/(m³/s)² that times
    the friction factor is the quadratic loss; Pa/(m³/s) of Poiseuille's law; roughness over
    diameter, and its `roughness_term`.
    """

    reynolds: Array | float
    square: Array | float
    linear: Array | float
    rough: Array | float
    term: Array | float


def duct_terms(
    length: float, diameter: float, roughness: float, density: float, viscosity: float
) -> tuple[float, float, float, float, float]:
    """What `Ducts` needs of one duct: length, diameter and roughness in m, air in kg/m³ and Pa·s.

    Returns ρD/(μA) (s/m³), ρ/2 L/(D A²) (Pa/(m³/s)²), 128 μ L/(π D⁴) (Pa/(m³/s)), ε/D and its
    term (-). Raises `ZeroDivisionError` for no diameter.
    Source: White, Fluid Mechanics, 7th ed. 2011, eq. 6.10 and 6.12.
    """
    return (
        4 * density / (math.pi * viscosity * diameter),
        8 * density * length / (math.pi**2 * diameter**5),
        128 * viscosity * length / (math.pi * diameter**4),
        roughness / diameter,
        float(roughness_term(roughness / diameter)),
    )


def friction_drop(flow: Array, ducts: Ducts) -> tuple[Array, Array]:
    """Pressure lost in straight duct, and its derivative by airflow.

    Laminar below Re 2000 (Δp = 128 μ L Q / (π D⁴), so that the slope at rest is finite), turbulent
    above 4000, and between them a C¹ blend by the cubic 3t² - 2t³, so that Newton never meets a
    kink.

    Parameters
    ----------
    flow
        Airflow, m³/s, any shape; negative against the drawn direction.
    ducts
        The ducts, of shapes that broadcast against `flow`.

    Returns
    -------
    drop, slope
        Pa and Pa/(m³/s), shape of `flow`; `drop` has the sign of `flow`.

    Raises
    ------
    Nothing for positive diameters.

    Source: White, Fluid Mechanics, 7th ed. 2011, eq. 6.10 (Darcy-Weisbach) and 6.12 (Poiseuille).
    """
    size = np.abs(flow)
    reynolds = size * ducts.reynolds
    factor, factor_slope = turbulent_factor(
        np.maximum(reynolds, LAMINAR_UNTIL), np.asarray(ducts.rough), ducts.term
    )
    grown = ducts.square * size
    turbulent_slope = grown * (2 * factor + factor_slope * reynolds)
    turbulent = grown * size * factor
    # The usual case, in which nothing is laminar: half the work.
    if reynolds.size and reynolds.min() >= TURBULENT_FROM:
        return np.copysign(turbulent, flow), turbulent_slope
    width = TURBULENT_FROM - LAMINAR_UNTIL
    t = np.minimum(np.maximum((reynolds - LAMINAR_UNTIL) / width, 0.0), 1.0)
    # Between laminar and turbulent a smooth blend: the true flow there is neither.
    share = t * t * (3 - 2 * t)
    share_slope = (6 / width) * t * (1 - t) * ducts.reynolds
    laminar = ducts.linear * size
    surplus = turbulent - laminar
    slope = ducts.linear + share * (turbulent_slope - ducts.linear) + share_slope * surplus
    return np.copysign(laminar + share * surplus, flow), slope

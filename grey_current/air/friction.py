"""Friction in straight duct: Darcy-Weisbach with a factor that Newton's method can differentiate."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

LAMINAR_UNTIL = 2000.0
TURBULENT_FROM = 4000.0
_LN10 = math.log(10.0)


def turbulent_factor(reynolds: Array, relative_roughness: Array) -> tuple[Array, Array]:
    """Darcy friction factor of turbulent flow, and its derivative.

    Parameters
    ----------
    reynolds
        Reynolds number, any shape, > 2000.
    relative_roughness
        ε/D, same or broadcastable shape, 0 to 0.05.

    Returns
    -------
    factor, slope
        Darcy friction factor (-) and d factor / d Re (-), broadcast shape.

    Raises
    ------
    Nothing; outside the range the value is an extrapolation of the same law.

    Source: Colebrook, Turbulent Flow in Pipes, 1939; started from Haaland, Simple and Explicit
    Formulas for the Friction Factor, 1983, eq. 7, and finished by one step of Halley's method, which
    leaves less than 1e-6 of the factor.
    """
    rough = relative_roughness / 3.7
    inverse = 1 / reynolds
    x = (-1.8 / _LN10) * np.log(rough**1.11 + 6.9 * inverse)
    smooth = 2.51 * inverse
    inner = rough + smooth * x
    ratio = smooth / inner
    first = 1 + (2 / _LN10) * ratio
    newton = (x + (2 / _LN10) * np.log(inner)) / first
    x -= newton / (1 + newton * (ratio * ratio) / (_LN10 * first))
    ratio = (2 / _LN10) * smooth / (rough + smooth * x)
    factor = 1 / (x * x)
    return factor, -2 * factor * ratio * inverse / (1 + ratio)


@dataclass(frozen=True)
class Ducts:
    """Straight ducts made ready for `friction_drop`: everything that does not depend on the airflow.

    `length`, `diameter` and `roughness` in m, of shapes that broadcast against the airflow; density in
    kg/m³, viscosity in Pa·s.
    """

    length: Array
    diameter: Array
    roughness: Array
    density: float
    viscosity: float

    @cached_property
    def reynolds_per_flow(self) -> Array:
        return 4 * self.density / (math.pi * self.viscosity * self.diameter)

    @cached_property
    def square(self) -> Array:
        """ρ/2 L/(D A²), Pa/(m³/s)²: times the friction factor it is the quadratic loss."""
        return 8 * self.density * self.length / (math.pi**2 * self.diameter**5)

    @cached_property
    def linear(self) -> Array:
        """128 μ L/(π D⁴), Pa/(m³/s): Poiseuille's law."""
        return 128 * self.viscosity * self.length / (math.pi * self.diameter**4)

    @cached_property
    def relative_roughness(self) -> Array:
        return self.roughness / self.diameter


def friction_drop(flow: Array, ducts: Ducts) -> tuple[Array, Array]:
    """Pressure lost in straight duct, and its derivative by airflow.

    Laminar below Re 2000 (Δp = 128 μ L Q / (π D⁴), so that the slope at rest is finite), turbulent
    above 4000, and between them a C¹ blend by the cubic 3t² - 2t³, so that Newton never meets a kink.

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
    reynolds = size * ducts.reynolds_per_flow
    factor, factor_slope = turbulent_factor(np.maximum(reynolds, LAMINAR_UNTIL), ducts.relative_roughness)
    grown = ducts.square * size
    turbulent_slope = grown * (2 * factor + factor_slope * reynolds)
    turbulent = grown * size * factor
    if reynolds.size and reynolds.min() >= TURBULENT_FROM:
        return np.copysign(turbulent, flow), turbulent_slope
    width = TURBULENT_FROM - LAMINAR_UNTIL
    t = np.minimum(np.maximum((reynolds - LAMINAR_UNTIL) / width, 0.0), 1.0)
    share = t * t * (3 - 2 * t)
    share_slope = (6 / width) * t * (1 - t) * ducts.reynolds_per_flow
    laminar = ducts.linear * size
    surplus = turbulent - laminar
    slope = ducts.linear + share * (turbulent_slope - ducts.linear) + share_slope * surplus
    return np.copysign(laminar + share * surplus, flow), slope

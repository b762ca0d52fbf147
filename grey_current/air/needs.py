"""What airflow a pickup needs, by the two design criteria, and how fast air must run to carry
chips.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from grey_current.air.gas import air_at

DesignCriterion = Literal["clear chips", "catch fine dust"]
Chips = Literal["sanding dust", "dry dust", "shavings", "heavy"]

# m/s (4,000 fpm) through the port itself. ACGIH, Industrial Ventilation, 2013, table 5-1 (heavy
# dusts).
PORT_VELOCITY = 20.3
# A flanged opening needs a quarter less air. DallaValle, Exhaust Hoods, 1952.
FLANGE_FACTOR = 0.75
# m/s (3,000, 3,500, 4,000, 4,500 fpm). ACGIH, Industrial Ventilation, 2013, table 5-1: wood; very
# fine, light dust (12.7 to 15.2) for what only sanders make.
TRANSPORT_VELOCITY: dict[Chips, float] = {
    "sanding dust": 15.2,
    "dry dust": 17.8,
    "shavings": 20.3,
    "heavy": 22.9,
}
# m/s in a riser: shavings are heavy stock to lift. Allowance for the upward case.
RISER_VELOCITY: dict[Chips, float] = {
    "sanding dust": 15.2,
    "dry dust": 17.8,
    "shavings": 22.9,
    "heavy": 22.9,
}
# Share of a need from which it counts as met: half a per cent is nothing that anybody can measure.
# Allowance.
MET_FROM = 0.995
# Share of a need from which a pickup has nearly enough: less than a reading tells. Allowance.
NEARLY = 0.95
# kg/m³ at which the velocities here hold: sea level, 21 °C, dry.
STANDARD_DENSITY = air_at().density
# Share of the transport velocity below which chips will settle. Allowance.
SETTLES_BELOW = 0.8
# m/s, about Mach 0.3, beyond which air is compressed and this model ends. White, Fluid Mechanics,
# 2011, ch. 9.
COMPRESSIBLE = 100.0
# m/s (6,000 fpm) above which air costs noise and pressure and carries no better. Allowance.
TOO_FAST = 30.0


@dataclass(frozen=True)
class Need:
    """An airflow (m³/s) that a pickup needs, and in words why."""

    airflow: float
    reason: str


def thin_air(density: float) -> float:
    """How many times faster air of a density (kg/m³) must run to carry chips as standard air does.

    √(ρ_ref/ρ), for the drag on a chip goes with ρV²: about 1.12 at 1,800 m and 21 °C. An allowance
    on the safe side: saltation correlations (Rizk) ask for half as much more. Catching fine dust
    needs no more: below some 50 µm drag is Stokes', which knows no density. Raises
    `ZeroDivisionError` for 0. Source: drag at equal Reynolds range, White, Fluid Mechanics, 2011,
    ch. 7.6.
    """
    return math.sqrt(STANDARD_DENSITY / density)


def clear_chips(port: float) -> float:
    """Airflow (m³/s) that keeps a port of diameter `port` (m) at transport velocity. Raises
    nothing.

    Source: Q = A V, V of `PORT_VELOCITY`.

    >>> round(clear_chips(4 * 0.0254) / 4.719474432e-4)
    349
    """
    return math.pi / 4 * port**2 * PORT_VELOCITY


def capture(distance: float, velocity: float, area: float, flanged: bool) -> float:
    """Airflow (m³/s) that draws dust at `distance` m from an opening of `area` m² at `velocity`
    m/s.

    Q = V (10 x² + A), a quarter less when flanged. Raises nothing.
    Source: DallaValle, Exhaust Hoods, 1952; ACGIH, Industrial Ventilation, 2013, fig. 6-12.
    """
    return velocity * (10 * distance**2 + area) * (FLANGE_FACTOR if flanged else 1.0)

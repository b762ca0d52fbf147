"""Properties of the air itself: density and viscosity from where and how warm the shop is."""

from __future__ import annotations

import math
from dataclasses import dataclass

# Specific gas constant of dry air, J/(kg K). ICAO, Manual of the Standard Atmosphere, 1993.
GAS_CONSTANT_DRY = 287.0528
# Specific gas constant of water vapour, J/(kg K). ASHRAE, Fundamentals, 2017, ch. 1.
GAS_CONSTANT_VAPOUR = 461.5
ZERO_CELSIUS = 273.15


@dataclass(frozen=True)
class Air:
    """The air in the ducts: density in kg/m³ and dynamic viscosity in Pa·s."""

    density: float
    viscosity: float


def pressure_at(altitude: float) -> float:
    """Standard pressure at an altitude.

    Parameters
    ----------
    altitude
        Height above the sea, m; -500 to 11,000 (troposphere).

    Returns
    -------
    float
        Pressure, Pa.

    Raises
    ------
    ValueError
        Outside the troposphere.

    Source: ICAO, Manual of the Standard Atmosphere, 1993, eq. for a constant lapse rate of 6.5
    K/km.

    >>> round(pressure_at(0.0))
    101325
    """
    if not -500 <= altitude <= 11_000:
        raise ValueError(f"altitude {altitude} m is outside -500 to 11,000 m")
    return float(101_325 * (1 - 0.0065 * altitude / 288.15) ** 5.255876)


def vapour_pressure(celsius: float) -> float:
    """Saturation pressure of water vapour (Pa) over water at a temperature in °C (-40 to 50).

    Source: Alduchov and Eskridge, Improved Magnus Form Approximation of Saturation Vapor
    Pressure, 1996, eq. 21. Raises nothing: outside the range it is an extrapolation.
    """
    return 610.94 * math.exp(17.625 * celsius / (celsius + 243.04))


def viscosity(celsius: float) -> float:
    """Dynamic viscosity of air (Pa·s) at a temperature in °C, good from -100 to 500 °C.

    Source: Sutherland's law with the constants of ICAO, Manual of the Standard Atmosphere, 1993.
    Raises `ValueError` at or below absolute zero.
    """
    kelvin = celsius + ZERO_CELSIUS
    if kelvin <= 0:
        raise ValueError(f"{celsius} °C is below absolute zero")
    return float(1.458e-6 * kelvin**1.5 / (kelvin + 110.4))


def air_at(altitude: float = 0.0, celsius: float = 21.0, humidity: float = 0.0) -> Air:
    """Air in a shop at an altitude (m), temperature (°C) and relative humidity (0 to 1).

    Returns `Air` (kg/m³, Pa·s). Moist air is lighter: the vapour's partial pressure counts with
    its own gas constant. Raises `ValueError` for an altitude outside the troposphere.
    Source: ideal gas mixture, ASHRAE, Fundamentals, 2017, ch. 1, eq. 26.

    >>> round(air_at().density, 3)
    1.2
    """
    kelvin = celsius + ZERO_CELSIUS
    vapour = humidity * vapour_pressure(celsius)
    dry = pressure_at(altitude) - vapour
    density = dry / (GAS_CONSTANT_DRY * kelvin) + vapour / (GAS_CONSTANT_VAPOUR * kelvin)
    return Air(density, viscosity(celsius))

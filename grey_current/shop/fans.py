"""How a fan is known: by points of its curve, or by its maker's claim only."""

from __future__ import annotations

import itertools
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from grey_current.shop.values import Airflow, Value


class CurvePoints(Value):
    """A fan known by points of airflow (m³/s) and fan static pressure (Pa) at a density (kg/m³)."""

    by: Literal["points"] = "points"
    points: Annotated[tuple[tuple[float, float], ...], Field(min_length=2, max_length=200)]
    density: Annotated[float, Field(ge=0.5, le=2)] = 1.2014
    # Speed over the speed at which the points were taken.
    speed: Annotated[float, Field(ge=0.2, le=2)] = 1.0
    # Impeller in it over the impeller with which the points were taken, in the same housing.
    impeller_ratio: Annotated[float, Field(ge=0.5, le=1.5, description="share")] = 1.0

    @model_validator(mode="after")
    def _falls(self) -> Self:
        ordered = sorted(self.points)
        if any(q < 0 or p < 0 or q > 20 or p > 60_000 for q, p in ordered):
            raise ValueError("airflows go from 0 to 20 m³/s and pressures from 0 to 60,000 Pa")
        if any(b[0] - a[0] < 1e-6 for a, b in itertools.pairwise(ordered)):
            raise ValueError("two points share one airflow")
        if ordered[0][1] <= 0:
            raise ValueError("a fan that gives no pressure at its least airflow drives nothing")
        if ordered[-1][1] >= ordered[-2][1]:
            raise ValueError("the pressure must fall towards the last point")
        return self


class Claim(Value):
    """A fan known by its maker's claim only: impeller (m), "free air" (m³/s), motor (W), mains
    (Hz).
    """

    by: Literal["claim"] = "claim"
    impeller: Annotated[float, Field(gt=0.05, le=1.5, description="m")]
    free_air: Airflow
    motor_power: Annotated[float, Field(gt=10, le=50_000)]
    hertz: Literal[50, 60] = 60


Fan = Annotated[CurvePoints | Claim, Field(discriminator="by")]

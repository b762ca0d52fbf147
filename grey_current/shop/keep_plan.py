"""What was measured in the shop, and whether the model follows it. Values only."""

from __future__ import annotations

import datetime
from typing import Annotated, Literal

from pydantic import Field

from grey_current.shop.values import Id, Ref, Value

ReadingKind = Literal["static pressure", "airflow", "velocity", "filter drop"]


class Reading(Value):
    """A measurement: what, while which machine runs alone, where, its figure and its own doubt (SI, one deviation).

    Static pressure (Pa) and velocity (m/s) are measured in a run; static pressure counts as suction, below the room.
    Airflow (m³/s) is that of a pickup, a filter's drop (Pa) that of a collector.
    """

    kind: ReadingKind
    machine: Id
    place: Ref
    value: Annotated[float, Field(gt=0, le=60_000)]
    error: Annotated[float, Field(gt=0, le=30_000)]
    date: datetime.date
    note: Annotated[str, Field(max_length=200)] = ""


class KeepPlan(Value):
    """Readings, and whether the figures are to follow them."""

    readings: Annotated[tuple[Reading, ...], Field(max_length=400)] = ()
    applied: bool = True

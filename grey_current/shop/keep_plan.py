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


EntryKind = Literal["worked", "bin emptied", "filter cleaned", "filter changed", "hose changed", "mended", "noticed"]


class LogEntry(Value):
    """A line of the logbook: what was done or noticed on a day, and where (a collector, hose or anything else).

    A day's work has `hours` that the collector was on, `litres` of chips, `kwh` and `woods`; an emptied bin may have
    the litres that it held. `design` marks the design that stood then (keep/log.py).
    """

    kind: EntryKind
    date: datetime.date
    place: Ref | None = None
    hours: Annotated[float, Field(ge=0, le=24)] | None = None
    litres: Annotated[float, Field(ge=0, le=5000)] | None = None
    kwh: Annotated[float, Field(ge=0, le=2000)] | None = None
    woods: Annotated[tuple[Id, ...], Field(max_length=20)] = ()
    note: Annotated[str, Field(max_length=200)] = ""
    design: Annotated[str, Field(max_length=16)] = ""


class KeepPlan(Value):
    """Readings, whether the figures are to follow them, and the logbook."""

    readings: Annotated[tuple[Reading, ...], Field(max_length=400)] = ()
    applied: bool = True
    entries: Annotated[tuple[LogEntry, ...], Field(max_length=4000)] = ()

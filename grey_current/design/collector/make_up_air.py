"""Where a collector's air goes, back into the shop or outdoors, what openings that asks for and what it costs."""

from __future__ import annotations

import math
from dataclasses import dataclass

from grey_current.air.fittings import SHARP_DISCHARGE
from grey_current.air.gas import Air
from grey_current.design.supply.circuits import machines_of_collectors
from grey_current.shop.collectors import Collector
from grey_current.shop.model import Project
from grey_current.shop.room import HOT

HEAT = 1005.0
"""Heat capacity of air, J/(kg K)."""
EASY = 2.0
"""m/s through an opening that air comes back by: quiet, and next to no loss. Allowance."""
DEPRESSION = 5.0
"""Pa below outdoors that a shop may be pulled at most, near a flue not even that."""
EFFICIENCY = 0.78
"""Of a small single-phase motor. Allowance."""
SEASON_WEEKS = 26


@dataclass(frozen=True)
class MakeUpAir:
    """Opening (m²) that the air wants, heat carried out (W and kWh in a season), warmth (K) in a box.

    `flue` names what burns in the shop and needs its draught; empty when nothing does.
    """

    opening: float
    heat: float
    season: float
    warmth: float
    flue: tuple[str, ...]


def make_up_air(project: Project, collector: Collector, airflow: float, air: Air) -> MakeUpAir:
    """What a collector's air asks for at an airflow (m³/s). Raises nothing.

    Outdoors: heat ρ c_p Q ΔT, and a make-up opening that pulls the shop less than `DEPRESSION` below outdoors,
    A = Q / (C_d √(2 Δp/ρ)). Otherwise an opening that the air passes at `EASY`.
    Source: sharp opening, Idelchik, Handbook of Hydraulic Resistance, 2007, ch. 4.
    """
    outdoors = collector.exhausts == "outdoors"
    opening = airflow / (SHARP_DISCHARGE * math.sqrt(2 * DEPRESSION / air.density)) if outdoors else airflow / EASY
    colder = max(project.settings.temperature - project.settings.outside, 0.0)
    heat = air.density * HEAT * airflow * colder if outdoors else 0.0
    served = machines_of_collectors(project).get(collector.id, frozenset())
    hours = sum(m.uses_per_week * m.minutes_per_use / 60 for m in project.machines if m.id in served)
    power = collector.motor.power if collector.motor else 0.0
    warmth = power / EFFICIENCY / (air.density * HEAT * airflow) if airflow > 0 else 0.0
    burning = tuple(f.id for f in project.features if f.kind in HOT) if outdoors else ()
    return MakeUpAir(opening, heat, heat / 1000 * hours * SEASON_WEEKS, warmth, burning)

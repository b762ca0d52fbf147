"""Where a collector's air goes, back into the shop or outdoors, what openings that asks for and
what it costs.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from grey_current.air.fittings import SHARP_DISCHARGE
from grey_current.air.gas import Air
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.flow.fittings import LEAKS
from grey_current.design.supply.circuits import machines_of_collectors
from grey_current.shop.collectors import Collector
from grey_current.shop.model import Project
from grey_current.shop.room import HOT

# Heat capacity of air, J/(kg K).
HEAT = 1005.0
# Pa below what surrounds it that a shop may be pulled at most; near a flue not even that is safe.
# Allowance.
DEPRESSION = 5.0
# Of a small single-phase motor. Allowance.
EFFICIENCY = 0.78
SEASON_WEEKS = 26


@dataclass(frozen=True)
class MakeUpAir:
    """Opening (m²) that the air wants, heat carried out (W and kWh in a season), warmth (K) in a
    box.

    `depression` is what its opening pulls the shop below what surrounds it (Pa). `flue` names what
    burns in the shop and needs its draught, where the air leaves the room; empty when nothing does.
    """

    opening: float
    depression: float
    heat: float
    season: float
    warmth: float
    flue: tuple[str, ...]


def make_up_air(project: Project, collector: Collector, airflow: float, air: Air) -> MakeUpAir:
    """What a collector's air asks for at an airflow (m³/s). Raises nothing.

    Outdoors: heat ρ c_p Q ΔT. Wherever the air leaves the room it wants an opening that pulls the
    shop less than `DEPRESSION` below what surrounds it, A = Q / (C_d √(2 Δp/ρ)). Source: sharp
    opening, Idelchik, Handbook of Hydraulic Resistance, 2007, ch. 4.
    """
    outdoors = collector.exhausts == "outdoors"
    away = collector.takes_air_away
    # The free opening through which this air comes in at no more than a depression that is safe for
    # flues.
    opening = airflow / (SHARP_DISCHARGE * math.sqrt(2 * DEPRESSION / air.density)) if away else 0.0
    depression = pulled_below(airflow, area_back(collector), air) if away else 0.0
    # Warm air that leaves is made up by cold air; a collector in the room warms it by its motor
    # instead.
    colder = max(project.settings.temperature - project.settings.outside, 0.0)
    heat = air.density * HEAT * airflow * colder if outdoors else 0.0
    served = machines_of_collectors(project).get(collector.id, frozenset())
    hours = sum(
        m.uses_per_week * m.minutes_per_use / 60 for m in project.machines if m.id in served
    )
    power = collector.motor.power if collector.motor else 0.0
    warmth = power / EFFICIENCY / (air.density * HEAT * airflow) if airflow > 0 else 0.0
    burning = tuple(f.id for f in project.features if f.kind in HOT) if away else ()
    return MakeUpAir(opening, depression, heat, heat / 1000 * hours * SEASON_WEEKS, warmth, burning)


def area_back(collector: Collector) -> float:
    """Area (m²) by which a collector's air comes back: its opening, else the building's own gaps.
    Raises nothing.
    """
    return LEAKS if collector.opening is None else collector.opening


def pulled_below(airflow: float, opening: float, air: Air) -> float:
    """How far (Pa) an airflow (m³/s) pulls a room below what surrounds it, through an opening (m²).

    Δp = ρ/2 (Q / (C_d A))². Raises `ZeroDivisionError` for no opening at all.
    Source: sharp opening, Idelchik, Handbook of Hydraulic Resistance, 2007, ch. 4.
    """
    return air.density / 2 * (max(airflow, 0.0) / (SHARP_DISCHARGE * opening)) ** 2


def depression(project: Project, answer: ScenarioAir, air: Air) -> float:
    """How far (Pa) a scenario's collectors pull the shop below what surrounds it; 0 where all air
    stays in the room.

    Those that blow outdoors share what comes in from outdoors: their airflows and their openings
    add up, and without an opening there are the building's gaps once. Every other one has its own
    way back. Raises nothing.
    """
    outdoors: list[tuple[float, float | None]] = []
    alone = [0.0]
    for ident, system in answer.systems.items():
        item = project.collector[ident]
        if not system.converged or not item.takes_air_away:
            continue
        if item.exhausts == "outdoors":
            outdoors.append((system.airflow, item.opening))
        else:
            alone.append(pulled_below(system.airflow, area_back(item), air))
    # What blows outdoors shares one supply of fresh air; another room's comes back by its own way.
    given = math.fsum(opening for _, opening in outdoors if opening is not None)
    drawn = math.fsum(airflow for airflow, _ in outdoors)
    return max(*alone, pulled_below(drawn, given or LEAKS, air))


def most_depression(now: Assessment, collector: str | None = None) -> float:
    """The most (Pa) that any scenario pulls the shop below what surrounds it, or any with one
    collector in it.
    """
    answers = [
        a for a in now.answers if a.converged and (collector is None or collector in a.systems)
    ]
    return max((depression(now.project, answer, now.air) for answer in answers), default=0.0)

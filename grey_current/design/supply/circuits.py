"""Whether the wiring bears it: everything that runs together on each circuit, its voltage, the legs
of a split supply.

An estimate from plates or from power; mains wiring is for a licensed electrician and the local
code.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely

from grey_current.design.flow.scenarios import Scenario, all_scenarios
from grey_current.shop.catalogue import METRIC_MAINS
from grey_current.shop.collectors import Collector
from grey_current.shop.duct_graph import downstream_ends
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.of_last import OfLast
from grey_current.shop.places import bodies, footprint
from grey_current.shop.room import Circuit, Outlet

# Share of a breaker that a load may take for hours. Most codes ask for this.
CONTINUOUS = 0.80
# W of shaft power.
HORSEPOWER = 745.7
# Horsepower and amps at 115 V of single-phase motors at full load; NFPA 70, 2020, table 430.248.
# Half at 230 V.
FULL_LOAD = (
    (0.5, 9.8),
    (0.75, 13.8),
    (1.0, 16.0),
    (1.5, 20.0),
    (2.0, 24.0),
    (3.0, 34.0),
    (5.0, 56.0),
    (10.0, 100.0),
)
# Times the running current that a motor draws for a moment while it starts. Allowance.
STARTS_AT = 6.0
# What a motor is wound for where its plate does not say. Allowance.
US_SMALL_VOLTS, US_BIG_VOLTS = 120.0, 240.0
# W of shaft power from which a motor in a US shop is wound for 240 V. Allowance.
US_BIG = 1400.0
# Share by which a circuit's voltage may differ from what is plugged into it: 230 and 240 V are one.
# Allowance.
SAME_VOLTAGE = 0.12

# Times the straight way over the floor that a lead takes, and m over the floor at which an outlet
# is that was given no height. Allowances.
LEAD_ROUND, USUAL_OUTLET = 1.2, 0.4

Item = Machine | Collector


@dataclass(frozen=True)
class Draw:
    """Current (A) at a voltage, and whether it was worked from the power instead of read from a
    plate.
    """

    volts: float
    amps: float
    estimated: bool


@dataclass(frozen=True)
class Load:
    """What runs together on one circuit, or on one leg of the supply: ids, A drawn, A allowed for
    long.
    """

    circuit: str
    items: tuple[str, ...]
    amps: float
    allowed: float
    scenario: Scenario

    @property
    def fits(self) -> bool:
        """Whether the breaker bears it for long."""
        return self.amps <= self.allowed + 1e-9


@dataclass(frozen=True)
class SupplyTrouble:
    """Why something cannot be plugged in where it stands: no outlet of its voltage, or a circuit of
    another one.
    """

    kind: Literal["no-outlet", "wrong-voltage"]
    element: str
    volts: float
    circuit: str | None = None


def draw(project: Project, item: Item) -> Draw | None:
    """The current that a machine or collector draws; None when neither its plate nor its motor is
    known.
    """
    us = project.settings.units == "us"
    if isinstance(item, Machine):
        usual = US_SMALL_VOLTS if us else METRIC_MAINS
        return Draw(item.volts or usual, item.amps, False) if item.amps else None
    motor = item.motor
    if motor is None:
        return None
    if motor.volts and motor.amps:
        return Draw(motor.volts, motor.amps, False)
    usual = METRIC_MAINS
    if us:
        usual = US_SMALL_VOLTS if motor.power < US_BIG else US_BIG_VOLTS
    volts = motor.volts or usual
    return Draw(volts, full_load_amps(motor.power, volts), True)


def full_load_amps(power: float, volts: float) -> float:
    """Full-load current (A) of a single-phase motor of a shaft power (W) at a voltage; straight
    between the table.
    """
    sizes, amps = zip(*FULL_LOAD, strict=True)
    horses = power / HORSEPOWER
    at_115 = (
        float(np.interp(horses, sizes, amps)) if horses >= sizes[0] else amps[0] * horses / sizes[0]
    )
    return at_115 if volts < 160 else at_115 * 115 / 230 * 230 / volts


def circuit_of(project: Project, item: Item) -> Circuit | None:
    """The circuit that something is plugged into: its own choice, else that of the nearest outlet
    of its voltage.
    """
    known = {circuit.id: circuit for circuit in project.circuits}
    if item.circuit:
        return known[item.circuit]
    nearest = outlet_of(project, item)
    return None if nearest is None else known[nearest.circuit]


def outlet_of(project: Project, item: Item) -> Outlet | None:
    """The nearest outlet that something may be plugged into: of its circuit, else of its voltage;
    None where there is none.
    """
    known = {circuit.id: circuit for circuit in project.circuits}
    volts = _volts(project, item)
    fitting = [
        outlet
        for outlet in project.outlets
        if (
            outlet.circuit == item.circuit
            if item.circuit
            else volts is None or _same(known[outlet.circuit].volts, volts)
        )
    ]
    return min(fitting, key=lambda o: math.dist((o.x, o.y), (item.x, item.y)), default=None)


def lead_needed(item: Item, outlet: Outlet) -> float:
    """Length of lead (m) from something's side to an outlet: over the floor, not quite straight,
    and up to it.
    """
    away = shapely.Polygon(footprint(item)).distance(shapely.Point(outlet.x, outlet.y))
    up = USUAL_OUTLET if outlet.height is None else outlet.height
    return float(away) * LEAD_ROUND + up


def supply_troubles(project: Project) -> Iterator[SupplyTrouble]:
    """What no outlet fits, or what its own circuit does not fit by voltage; nothing in a shop
    without outlets.
    """
    if not project.outlets:
        return
    for item in bodies(project):
        volts, circuit = _volts(project, item), circuit_of(project, item)
        if volts is None:
            continue
        if circuit is None:
            yield SupplyTrouble("no-outlet", item.id, volts)
        elif not _same(circuit.volts, volts):
            yield SupplyTrouble("wrong-voltage", item.id, volts, circuit.id)


def all_loads(project: Project, scenarios: Iterable[Scenario] | None = None) -> Sequence[Load]:
    """What every circuit, and each leg of a split supply, bears in every scenario of the shop, or
    in others.
    """
    return _usual_loads(project) if scenarios is None else tuple(_loads_in(project, scenarios))


def _loads_in(project: Project, scenarios: Iterable[Scenario]) -> Iterator[Load]:
    if not project.circuits:
        return
    served = machines_of_collectors(project)
    taken: dict[str, tuple[Circuit, float]] = {}
    for item in bodies(project):
        drawn, circuit = draw(project, item), circuit_of(project, item)
        if drawn is not None and circuit is not None:
            taken[item.id] = circuit, drawn.amps
    for scenario in scenarios:
        # Machines that run, and the collectors that run with them.
        working = [
            *scenario.running,
            *(c for c, machines in served.items() if machines.intersection(scenario.running)),
        ]
        yield from _loads(
            project, scenario, [(ident, *taken[ident]) for ident in working if ident in taken]
        )


# A candidate's own load and what the supply does not bear are asked one after the other.
_usual_loads = OfLast(lambda project: tuple(_loads_in(project, all_scenarios(project))))


def worst_load(project: Project, element: str) -> Load | None:
    """The heaviest load, against what is allowed, that a machine or collector is part of; None when
    none is known.
    """
    mine = (load for load in all_loads(project) if element in load.items)
    return max(mine, key=lambda load: load.amps / load.allowed, default=None)


def _loads(
    project: Project, scenario: Scenario, working: Iterable[tuple[str, Circuit, float]]
) -> Iterator[Load]:
    """What runs in a scenario, each with its circuit and what it draws (A), added up."""
    on: dict[str, dict[str, float]] = defaultdict(dict)
    circuits = {circuit.id: circuit for circuit in project.circuits}
    for element, circuit, drawn in working:
        on[circuit.id][element] = drawn
    for ident, amps in on.items():
        yield Load(
            ident, tuple(amps), sum(amps.values()), CONTINUOUS * circuits[ident].breaker, scenario
        )
    yield from _legs(project, scenario, on, circuits)


def _legs(
    project: Project,
    scenario: Scenario,
    on: Mapping[str, Mapping[str, float]],
    circuits: Mapping[str, Circuit],
) -> Iterator[Load]:
    """What each leg of a split supply bears, where the main breaker and the legs are said."""
    main = project.settings.main_breaker
    # What runs on both legs loads each with its whole current.
    for leg in ("first", "second") if main else ():
        mine = {
            i: a
            for c, amps in on.items()
            if circuits[c].leg in (leg, "both")
            for i, a in amps.items()
        }
        if mine and main:
            yield Load(
                f"the supply's {leg} leg",
                tuple(mine),
                sum(mine.values()),
                CONTINUOUS * main,
                scenario,
            )


def machines_of_collectors(project: Project) -> dict[str, frozenset[str]]:
    """The machines that each collector serves by ducts or hoses; all of them while nothing is
    connected to anything.
    """
    if not project.runs:
        return {c.id: frozenset(project.machine) for c in project.collectors}
    found = {}
    for collector in project.collectors:
        runs = [project.run[ident] for ident in downstream_ends(project, collector.id)]
        refs = {ref for run in runs for ref in run.touches if "/" in ref}
        found[collector.id] = frozenset(ref.split("/", maxsplit=1)[0] for ref in refs)
    return found


def _volts(project: Project, item: Item) -> float | None:
    if isinstance(item, Machine):
        return item.volts
    taken = draw(project, item)
    return taken.volts if taken else None


def _same(a: float, b: float) -> bool:
    return abs(a - b) <= SAME_VOLTAGE * b

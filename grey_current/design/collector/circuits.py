"""Whether the wiring bears it: the collector and the machine that runs with it, on their circuits.

An estimate from plates or from power; mains wiring is for a licensed electrician and the local code.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.room import Circuit

CONTINUOUS = 0.80
"""Share of a breaker that a load may take for hours. Most codes ask for this."""
EFFICIENCY, POWER_FACTOR = 0.78, 0.85
"""Of a small single-phase motor, where its plate is not known. Allowance."""
STARTS_AT = 6.0
"""Times the running current that a motor draws for a moment while it starts. Allowance."""
US_BIG = 1400.0
"""W of shaft power from which a motor in a US shop is wound for 240 V. Allowance."""


@dataclass(frozen=True)
class Draw:
    """Current (A) at a voltage, and whether it was worked from the power instead of read from a plate."""

    volts: float
    amps: float
    estimated: bool


@dataclass(frozen=True)
class Load:
    """What a circuit bears when a collector runs with one machine on it: A drawn, A allowed, both names."""

    circuit: str
    collector: str
    machine: str | None
    amps: float
    allowed: float

    @property
    def fits(self) -> bool:
        return self.amps <= self.allowed + 1e-9


def collector_draw(project: Project, collector: Collector) -> Draw | None:
    """The current that a collector draws; None when its motor is not known."""
    motor = collector.motor
    if motor is None:
        return None
    if motor.volts and motor.amps:
        return Draw(motor.volts, motor.amps, False)
    us = project.settings.units == "us"
    volts = motor.volts or (120.0 if us and motor.power < US_BIG else 240.0 if us else 230.0)
    return Draw(volts, motor.power / (EFFICIENCY * POWER_FACTOR * volts), True)


def circuit_of(project: Project, item: Machine | Collector) -> Circuit | None:
    """The circuit that something is plugged into: its own choice, else that of the nearest outlet of its voltage."""
    known = {circuit.id: circuit for circuit in project.circuits}
    if item.circuit:
        return known[item.circuit]
    volts = _volts(project, item)
    fitting = [o for o in project.outlets if volts is None or abs(known[o.circuit].volts - volts) < 0.2 * volts]
    if not fitting:
        return None
    nearest = min(fitting, key=lambda o: math.dist((o.x, o.y), (item.x, item.y)))
    return known[nearest.circuit]


def _volts(project: Project, item: Machine | Collector) -> float | None:
    if isinstance(item, Machine):
        return item.volts
    draw = collector_draw(project, item)
    return draw.volts if draw else None


def loads(project: Project, collector: Collector) -> Iterator[Load]:
    """What the collector's circuit bears with each machine that shares it, the collector alone first."""
    draw, circuit = collector_draw(project, collector), circuit_of(project, collector)
    if draw is None or circuit is None:
        return
    allowed = CONTINUOUS * circuit.breaker
    yield Load(circuit.id, collector.id, None, draw.amps, allowed)
    for machine in project.machines:
        theirs = circuit_of(project, machine)
        if machine.amps and theirs is not None and theirs.id == circuit.id:
            yield Load(circuit.id, collector.id, machine.id, draw.amps + machine.amps, allowed)

"""Lines of the match chart: what a collector gives, and what a machine's own port lets through."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from grey_current.air import laws
from grey_current.air.gas import Air
from grey_current.air.pieces import Fan
from grey_current.design.collector.requirement import available_pressure, free_airflow
from grey_current.design.flow import fittings as make
from grey_current.shop.collectors import Collector
from grey_current.shop.model import Project


@dataclass(frozen=True)
class Line:
    """A curve of the match chart: a name, points (m³/s, Pa at the inlet) and what it is."""

    name: str
    kind: str
    points: tuple[tuple[float, float], ...]


def collector_line(item: Collector, air: Air, loading: float, kind: str) -> Line:
    """What a collector gives, from shut-off to where it gives nothing more."""
    flows = np.linspace(0.0, free_airflow(item, air), 60)
    pressures = available_pressure(item, air, flows, loading)
    held = [(float(q), float(p)) for q, p in zip(flows, pressures, strict=True) if p >= 0]
    return Line(item.name, kind, tuple(held))


def port_line(project: Project, ref: str, air: Air, top: float) -> Line:
    """What the machine's own intake and port would let through with no duct at all: the choke, up
    to `top` Pa.
    """
    machine, pickup = project.pickup[ref]
    parts = [p for p in make.pickup(ref, machine.id, pickup, air) if not isinstance(p, Fan)]
    # All of it as one coefficient on Q²: what the intake loses, then what the air's speed in the
    # port takes.
    k = sum(
        p.law.k / laws.area(p.law.diameter) ** 2 for p in parts if isinstance(p.law, laws.Constant)
    )
    k += 1 / laws.area(pickup.port) ** 2  # the velocity pressure in the port is spent too
    pressures = np.linspace(0, top, 40)
    flows = np.sqrt(2 * pressures / (air.density * k))
    return Line(
        f"{machine.name}'s own port",
        "port",
        tuple(zip(flows.tolist(), pressures.tolist(), strict=True)),
    )

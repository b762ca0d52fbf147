"""Small ports: whether a vacuum on a short hose would serve them better than a wide duct."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from grey_current.air import laws
from grey_current.air.gas import Air
from grey_current.air.network import Branch, Network
from grey_current.air.solver import solve
from grey_current.design.flow import fittings as make
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import need
from grey_current.shop.catalogue import catalogue, materials
from grey_current.shop.machines import Pickup

# m; ports up to 2 1/2 in with what their adapters add.
SMALL = 0.068
# m of the hose that a vacuum comes with. Allowance.
VACUUM_HOSE = 3.0


@dataclass(frozen=True)
class SmallPort:
    """A small port ("machine/pickup") by both ways: m³/s that it needs, that the duct gives and
    that a vacuum gives.

    `duct` is None where no duct goes to it.
    """

    ref: str
    needed: float
    duct: float | None
    vacuum: float

    @property
    def vacuum_better(self) -> bool:
        """Whether the vacuum meets the need and the duct does not, or gives clearly more where
        neither does.
        """
        duct = self.duct or 0.0
        if self.vacuum >= self.needed:
            return duct < self.needed
        return self.vacuum > 1.1 * duct


def small_ports(assessment: Assessment) -> list[SmallPort]:
    """Every port of 2 1/2 in or less, with what a wet/dry vacuum on its own hose would give it.
    Raises nothing.
    """
    project, air = assessment.project, assessment.air
    found = []
    for ref, (machine, pickup) in project.pickup.items():
        if pickup.port > SMALL:
            continue
        answer = assessment.of_machine.get(machine.id)
        if answer:
            got = next(
                (p for p in answer.pickups if p.pickup == pickup.id and p.leaf is not None), None
            )
        else:
            got = None
        needed = need(pickup, project.settings).airflow
        found.append(
            SmallPort(ref, needed, got.airflow if got else None, vacuum_airflow(ref, pickup, air))
        )
    return found


@lru_cache(maxsize=256)
def vacuum_airflow(ref: str, pickup: Pickup, air: Air) -> float:
    """Airflow (m³/s) that a generic wet/dry vacuum on its own hose draws through a pickup; kept, as
    few ever change.
    """
    model = next(m for m in catalogue().collectors if m.kind == "vacuum")
    machine = ref.split("/", maxsplit=1)[0]
    hose = materials()["smooth-hose"].roughness
    # The vacuum is a small system of its own: port, adapter, hose, fan and filter.
    step = make.reducer("adapter", machine, pickup.port, model.inlet, hose, True)
    fan = make.fan_curve(model.fan, air)
    pieces = [
        *make.pickup(ref, machine, pickup, air),
        *([step] if step else []),
        make.straight(
            "hose", machine, VACUUM_HOSE, model.inlet, hose, hose=True, rises=False, forward=True
        ),
        make.hose_bends(machine, VACUUM_HOSE, VACUUM_HOSE * 0.7, model.inlet, hose),
        make.fan_piece("vacuum", fan, model.inlet),
        make.filter_piece("vacuum", model.filter, model.inlet),
    ]
    key = (machine, pickup.id)
    own = (key,) if pickup.own_fan else ()
    network = Network("vacuum", (Branch(tuple(pieces), -1, key),), (), air, own)
    return float(solve(network, laws.cases(np.ones((1, len(own)), dtype=bool))).flow[0, 0])

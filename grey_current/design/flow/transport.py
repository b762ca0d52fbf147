"""Whether air carries the chips: velocity in every run that chips pass, against what they need."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from grey_current.air.needs import RISER_VELOCITY, TRANSPORT_VELOCITY
from grey_current.air.pieces import Straight
from grey_current.design.flow.assessment import ScenarioAir, System
from grey_current.shop.model import Project


@dataclass(frozen=True)
class TransportCheck:
    """A run that chips pass in a scenario: its velocity and the velocity they need, m/s.

    `piece` counts in the network of its `collector`.
    """

    collector: str
    run: str
    piece: int
    velocity: float
    needed: float
    rises: bool

    @property
    def share(self) -> float:
        return self.velocity / self.needed


def transport_checks(project: Project, scenario: ScenarioAir) -> Iterator[TransportCheck]:
    """Every length of duct or hose that chips of the running machines pass, with its velocity."""
    for system in scenario.systems.values():
        if not system.converged:
            continue
        collector = system.network.collector
        for branch, machines in _passed(system, scenario).items():
            for index in system.network.pieces_of_branch[branch]:
                piece = system.network.pieces[index]
                if isinstance(piece, Straight):
                    needed = max(_needed(project, m, piece) for m in machines)
                    speed = abs(system.velocity(index))
                    yield TransportCheck(collector, piece.source_id, index, speed, needed, piece.rises)


def slowest_transport(project: Project, scenario: ScenarioAir) -> TransportCheck | None:
    """The run where chips are carried worst: the least that `transport_checks` gives, found without listing all."""
    worst: TransportCheck | None = None
    for system in scenario.systems.values():
        if not system.converged:
            continue
        network = system.network
        for (machine, _), leaf in network.leaf_of_pickup.items():
            passed = network.straights(leaf) if machine in scenario.scenario.running else ()
            if not len(passed):
                continue
            chips = project.machine[machine].chips
            needed = np.where(network.rising[passed], RISER_VELOCITY[chips], TRANSPORT_VELOCITY[chips])
            speed = np.abs(system.speeds[passed])
            least = int(np.argmin(speed / needed))
            if worst is None or speed[least] / needed[least] < worst.share:
                index = int(passed[least])
                worst = TransportCheck(
                    network.collector,
                    network.pieces[index].source_id,
                    index,
                    float(speed[least]),
                    float(needed[least]),
                    bool(network.rising[index]),
                )
    return worst


def _passed(system: System, scenario: ScenarioAir) -> dict[int, set[str]]:
    passed: dict[int, set[str]] = {}
    for (machine, _), leaf in system.network.leaf_of_pickup.items():
        if machine in scenario.scenario.running:
            for branch in system.network.branch_path(leaf):
                passed.setdefault(branch, set()).add(machine)
    return passed


def _needed(project: Project, machine: str, piece: Straight) -> float:
    table = RISER_VELOCITY if piece.rises else TRANSPORT_VELOCITY
    return table[project.machine[machine].chips]

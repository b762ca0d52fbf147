"""Whether air carries the chips: velocity in every run that chips pass, against what they need."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grey_current.air.needs import RISER_VELOCITY, TRANSPORT_VELOCITY
from grey_current.air.network import Network
from grey_current.air.pieces import Straight
from grey_current.design.flow.assessment import ScenarioAir, System
from grey_current.design.flow.scenarios import faster_in_thin_air, used_leaves
from grey_current.shop.model import Project

Array = NDArray[Any]


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
        for branch, machines in _passed(project, system, scenario).items():
            for index in system.network.pieces_of_branch[branch]:
                piece = system.network.pieces[index]
                if isinstance(piece, Straight):
                    needed = max(_needed(project, m, piece) for m in machines)
                    speed = abs(system.velocity(index))
                    yield TransportCheck(collector, piece.source_id, index, speed, needed, piece.rises)


def path_shares(project: Project, scenario: ScenarioAir) -> dict[str, tuple[float, str]]:
    """For each ducted pickup in use, the slowest air on its path over what its chips need, and the run where it is."""
    found: dict[str, tuple[float, str]] = {}
    for network, speeds, ref, passed, needed in _paths(project, scenario):
        shares = speeds[passed] / needed
        least = int(np.argmin(shares))
        found[ref] = float(shares[least]), network.pieces[int(passed[least])].source_id
    return found


def slowest_transport(project: Project, scenario: ScenarioAir) -> TransportCheck | None:
    """The run where chips are carried worst: the least that `transport_checks` gives, found without listing all."""
    worst: TransportCheck | None = None
    for network, speeds, _, passed, needed in _paths(project, scenario):
        least = int(np.argmin(speeds[passed] / needed))
        index = int(passed[least])
        if worst is None or speeds[index] / needed[least] < worst.share:
            worst = TransportCheck(
                network.collector,
                network.pieces[index].source_id,
                index,
                float(speeds[index]),
                float(needed[least]),
                bool(network.rising[index]),
            )
    return worst


def _paths(project: Project, scenario: ScenarioAir) -> Iterator[tuple[Network, Array, str, Array, Array]]:
    """For each ducted pickup in use: its network, all velocities, its reference, its runs' pieces, what each needs."""
    faster = faster_in_thin_air(project.settings)
    for system in scenario.systems.values():
        if not system.converged:
            continue
        network, speeds = system.network, np.abs(system.speeds)
        for ref, leaf in used_leaves(project, network, scenario.scenario):
            passed = network.straights(leaf)
            if len(passed):
                chips = project.pickup[ref][0].chips
                needed = np.where(network.rising[passed], RISER_VELOCITY[chips], TRANSPORT_VELOCITY[chips]) * faster
                yield network, speeds, ref, passed, needed


def _passed(project: Project, system: System, scenario: ScenarioAir) -> dict[int, set[str]]:
    passed: dict[int, set[str]] = {}
    for ref, leaf in used_leaves(project, system.network, scenario.scenario):
        for branch in system.network.branch_path(leaf):
            passed.setdefault(branch, set()).add(ref.split("/", maxsplit=1)[0])
    return passed


def _needed(project: Project, machine: str, piece: Straight) -> float:
    table = RISER_VELOCITY if piece.rises else TRANSPORT_VELOCITY
    return table[project.machine[machine].chips] * faster_in_thin_air(project.settings)

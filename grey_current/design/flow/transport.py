"""Whether air carries the chips: velocity in every run that chips pass, against what they need."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

from grey_current.air.needs import RISER_VELOCITY, TRANSPORT_VELOCITY
from grey_current.air.network import Slowest
from grey_current.air.pieces import Straight
from grey_current.design.flow.assessment import ScenarioAir, System
from grey_current.design.flow.scenarios import faster_in_thin_air
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
        for branch, machines in _passed(system).items():
            for index in system.network.pieces_of_branch[branch]:
                piece = system.network.pieces[index]
                if isinstance(piece, Straight):
                    # The heaviest chips that pass decide.
                    needed = max(_needed(project, m, piece) for m in machines)
                    speed = abs(system.velocity(index))
                    yield TransportCheck(
                        collector, piece.source_id, index, speed, needed, piece.rises
                    )


def path_shares(project: Project, scenario: ScenarioAir) -> dict[str, tuple[float, str]]:
    """For each ducted pickup in use, the slowest air on its path over what its chips need, and the
    run where it is.
    """
    return {
        one.ref: (one.share, one.at.piece.source_id) for one in _slowest_on_paths(project, scenario)
    }


def slowest_transport(project: Project, scenario: ScenarioAir) -> TransportCheck | None:
    """The run where chips are carried worst: the least that `transport_checks` gives, found without
    listing all.
    """
    one = min(_slowest_on_paths(project, scenario), key=lambda one: one.share, default=None)
    if one is None:
        return None
    network, piece = one.system.network, one.at.piece
    index = network.pieces_of_branch[one.branch].start + one.at.place
    speed = abs(one.system.velocity(index))
    return TransportCheck(network.collector, piece.source_id, index, speed, one.needed, piece.rises)


class _Carried(NamedTuple):
    """Where on a pickup's path its chips are carried worst, what they need there (m/s) and the
    share of it they get.
    """

    ref: str
    share: float
    needed: float
    system: System
    branch: int
    at: Slowest


def _slowest_on_paths(project: Project, scenario: ScenarioAir) -> Iterator[_Carried]:
    """For each ducted pickup in use, the run on its path where its chips are carried worst."""
    faster = faster_in_thin_air(project.settings)
    for system in scenario.systems.values():
        if not system.converged:
            continue
        network, flows = system.network, system.flows
        for ref, leaf in system.leaves.items():
            chips = project.pickup[ref][0].chips
            needs = TRANSPORT_VELOCITY[chips] * faster, RISER_VELOCITY[chips] * faster
            # Per branch, not per piece: where chips are carried worst does not depend on the flow.
            slowest = network.slowest(*needs)
            path = [
                (branch, at)
                for branch in network.branch_path(leaf)
                if (at := slowest[branch]) is not None
            ]
            shares = [abs(flows[branch]) * at.share for branch, at in path]
            if shares:
                least = min(shares)
                branch, at = path[shares.index(least)]
                yield _Carried(ref, least, needs[at.piece.rises], system, branch, at)


def _passed(system: System) -> dict[int, set[str]]:
    passed: dict[int, set[str]] = {}
    for ref, leaf in system.leaves.items():
        for branch in system.network.branch_path(leaf):
            passed.setdefault(branch, set()).add(ref.split("/", maxsplit=1)[0])
    return passed


def _needed(project: Project, machine: str, piece: Straight) -> float:
    table = RISER_VELOCITY if piece.rises else TRANSPORT_VELOCITY
    return table[project.machine[machine].chips] * faster_in_thin_air(project.settings)

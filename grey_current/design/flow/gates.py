"""Gates as one works them: in the order of the main, which are open for whom, and what would flush
a slow main.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from grey_current.air import laws
from grey_current.air.needs import MET_FROM
from grey_current.air.network import Network
from grey_current.air.pieces import BlastGate, Straight
from grey_current.air.solver import solve
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.flow.scenarios import Scenario, gate_settings, scenario_of
from grey_current.design.flow.transport import transport_checks
from grey_current.shop.edits import changed
from grey_current.shop.model import Project

# Share by which the slowest run must get faster before opening a gate for it is proposed.
WORTH = 1.05


@dataclass(frozen=True)
class Flushing:
    """A gate that, left open while a machine runs, speeds the air in the slowest run that its chips
    pass.

    `before` and `after` are that slowest run's velocity over what the chips need; `met` whether the
    machine's pickups still get their need.
    """

    gate: str
    before: float
    after: float
    met: bool


def gate_order(assessment: Assessment) -> list[str]:
    """All gates, nearest to their collector first (m of duct), systems one after the other; loose
    ones last.
    """
    away: dict[str, tuple[int, float]] = {}
    for networks in assessment.networks.values():
        for number, network in enumerate(networks.values()):
            for gate, distance in _distances(network).items():
                away.setdefault(gate, (number, distance))
    return sorted(assessment.project.gate, key=lambda gate: away.get(gate, (len(away), 0.0)))


def _distances(network: Network) -> dict[str, float]:
    """Length of duct (m) between each gate and the collector."""
    starts: list[float] = []
    found: dict[str, float] = {}
    for branch in network.branches:
        at = starts[branch.joins] if branch.joins >= 0 else 0.0
        for piece in reversed(branch.pieces):
            if isinstance(piece, BlastGate):
                found[piece.source_id] = at
            elif isinstance(piece, Straight):
                at += piece.length
        starts.append(at)
    return found


def open_gates(assessment: Assessment, scenario: Scenario) -> frozenset[str]:
    """Ids of the gates that are open while some machines run."""
    project = assessment.project
    opened: set[str] = set()
    for networks in assessment.networks.values():
        for network in networks.values():
            settings = gate_settings(project, network, scenario)
            opened |= {
                gate
                for gate, is_open in zip(network.gates, settings[: len(network.gates)], strict=True)
                if is_open
            }
    return frozenset(opened)


def own_gates(assessment: Assessment) -> dict[str, frozenset[str]]:
    """For each machine that has any, the gates between its pickups and the fan, whatever their
    rules.
    """
    found: dict[str, set[str]] = {}
    for networks in assessment.networks.values():
        for network in networks.values():
            for (machine, _), leaf in network.leaf_of_pickup.items():
                gates = {network.gates[index] for index in network.gates_of_branch[leaf]}
                found.setdefault(machine, set()).update(gates)
    return {m: frozenset(found[m]) for m in assessment.project.machine if found.get(m)}


def gate_table(assessment: Assessment) -> dict[str, frozenset[str]]:
    """For each machine that has a gate, the gates that are open when it runs alone."""
    project = assessment.project
    return {
        machine: open_gates(assessment, scenario_of(project, [machine]))
        for machine in own_gates(assessment)
    }


def gate_machine(own: dict[str, frozenset[str]], gate: str) -> str | None:
    """The machine that a gate belongs to, by `own_gates`; None for one that several share or none
    has.
    """
    mine = [machine for machine, gates in own.items() if gate in gates]
    return mine[0] if len(mine) == 1 else None


def opened_for(project: Project, gate: str, machine: str, opened: bool = True) -> Project:
    """The project with a gate that is opened when a machine runs too, or not any more. Raises
    `InputError`.
    """
    also = [m for m in project.gate[gate].also_open_for if m != machine]
    return changed(project, gate, also_open_for=(*also, machine) if opened else tuple(also))


def flushings(assessment: Assessment, answer: ScenarioAir) -> list[Flushing]:
    """Gates that would speed up the slowest run that chips of a scenario pass, the best first.

    Every shut gate is tried on its own, all in one call of the solver. Empty when no run is too
    slow, or none helps.
    """
    slow = [c for c in transport_checks(assessment.project, answer) if c.share < MET_FROM]
    found: list[Flushing] = []
    for ident, system in answer.systems.items():
        mine = [c for c in slow if c.collector == ident]
        base = system.solved.cases.gates[system.row]
        shut = np.flatnonzero(~base[: len(system.network.gates)])
        if not mine or not len(shut):
            continue
        before = min(c.share for c in mine)
        # One case for each gate that is shut: all of them solved in one call.
        rows = np.repeat(base[None, :], len(shut), axis=0)
        rows[np.arange(len(shut)), shut] = True
        solved = solve(system.network, laws.cases(rows))
        asked = [
            (p.leaf, p.need.airflow)
            for p in answer.pickups
            if p.leaf is not None and p.collector == ident
        ]
        for row, index in enumerate(shut):
            if not solved.converged[row]:
                continue
            after = min(abs(solved.velocity(c.piece, row)) / c.needed for c in mine)
            met = all(solved.flow[row, leaf] >= MET_FROM * need for leaf, need in asked)
            # Less than that nobody would reach up for.
            if after > before * WORTH:
                found.append(Flushing(system.network.gates[index], before, after, met))
    return sorted(found, key=lambda flushing: (not flushing.met, -flushing.after))

"""The whole computation for a project: trace, solve all scenarios in one call a network, read off.

Three things are taken over from an earlier answer, each only where it is known to be the same: what
was traced (`trace`), the settings of gates and the flows to begin with (`ScenarioBatch`), and what
each pickup needs (`ScenarioAir.with_systems`).
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from grey_current.air import laws
from grey_current.air.network import Network
from grey_current.air.solver import solve
from grey_current.design.flow.assessment import (
    Assessment,
    PickupAir,
    ScenarioAir,
    ScenarioBatch,
    System,
)
from grey_current.design.flow.own_bag import own_bag_airflow
from grey_current.design.flow.scenarios import (
    Scenario,
    all_scenarios,
    arrangement,
    gate_settings,
    need,
    switched_alike,
    used_leaves,
)
from grey_current.design.flow.trace import Arrangement, Trace, shop_air, trace
from grey_current.shop.design_parts import alike
from grey_current.shop.model import Project

Array = NDArray[np.float64]


def assess(
    project: Project, scenarios: Sequence[Scenario] = (), before: Assessment | None = None
) -> Assessment:
    """Compute the air of a project.

    Parameters
    ----------
    project
        The shop.
    scenarios
        Those to answer; without any, each machine on its own.
    before
        An earlier answer for a similar project, to start from.

    Returns
    -------
    Assessment
        Scenarios that share one arrangement of hoses are solved in one call.

    Raises
    ------
    DuctworkError
        When the ductwork cannot be traced.
    """
    wanted = tuple(scenarios) or all_scenarios(project)
    # A hose that is moved makes another tree of ducts: scenarios are solved together only where
    # every hose is at the same port.
    groups: dict[Arrangement, list[Scenario]] = {}
    for scenario in wanted:
        groups.setdefault(arrangement(project, scenario), []).append(scenario)
    answers: dict[Scenario, ScenarioAir] = {}
    traces: dict[Arrangement, Trace] = {}
    solved: dict[tuple[Arrangement, str], ScenarioBatch] = {}
    for places, group in groups.items():
        last_trace = before.traces.get(places) if before else None
        traces[places] = trace(project, places, last_trace)
        arranged = _Arranged(project, traces[places], tuple(group), before)
        batches = arranged.batches()
        solved |= {(places, collector): batch for collector, batch in batches.items()}
        answers |= arranged.answers(batches)
    # In the order that was asked for; groups are solved in the order in which they turned up.
    ordered = tuple([answers[scenario] for scenario in wanted])
    return Assessment(project, shop_air(project), ordered, traces, solved)


@dataclass(frozen=True)
class _Arranged:
    """The scenarios of one arrangement of hoses, and what was computed of them before."""

    project: Project
    traced: Trace
    asked: tuple[Scenario, ...]
    before: Assessment | None

    def batches(self) -> dict[str, ScenarioBatch]:
        """Solve all scenarios, for each collector that is in use in any."""
        found: dict[str, ScenarioBatch] = {}
        for collector, network in self.traced.networks.items():
            last = self._last.get(collector)
            batch = self._solved_anew(network) if last is None else _solved_as(last, network)
            if batch is not None:
                found[collector] = batch
        return found

    @cached_property
    def _last(self) -> dict[str, ScenarioBatch]:
        """Return what was solved before, where nothing but resistances has changed since."""
        before = self.before
        found: dict[str, ScenarioBatch] = {}
        # With the same switches every row of the batch means the same scenario as before, so that
        # its flows are a start next to the answer.
        if before is None or not switched_alike(before.project, self.project):
            return found
        for collector, network in self.traced.networks.items():
            last = before.solved.get((self.traced.arrangement, collector))
            if last is not None and last.is_compatible(network, self.asked):
                found[collector] = last
        return found

    def _solved_anew(self, network: Network) -> ScenarioBatch | None:
        """Solve the scenarios in which a collector is in use; None where it is in none."""
        leaves = tuple([dict(used_leaves(self.project, network, s)) for s in self.asked])
        # A collector that nothing in use leads to is off, and has no air to be solved.
        used = [(s, mine) for s, mine in zip(self.asked, leaves, strict=True) if mine]
        if not used:
            return None
        gates = np.array([gate_settings(self.project, network, s, m.values()) for s, m in used])
        start = _start(self.before, network, [scenario for scenario, _ in used])
        return ScenarioBatch(self.asked, leaves, solve(network, laws.cases(gates), start))

    def answers(self, batches: Mapping[str, ScenarioBatch]) -> dict[Scenario, ScenarioAir]:
        """Read the answer of each scenario off what was solved."""
        systems: dict[Scenario, dict[str, System]] = {scenario: {} for scenario in self.asked}
        for collector, batch in batches.items():
            for scenario, row, leaves in _rows(batch):
                network = self.traced.networks[collector]
                systems[scenario][collector] = System(network, batch.solved, row, leaves)
        # While a duct is dragged no need changes: comparing once is quicker than working out each
        # again.
        same_needs = self._same_needs()
        found = {}
        for scenario, mine in systems.items():
            was = self.before.of(scenario) if self.before and same_needs else None
            if was is not None:
                found[scenario] = was.with_systems(mine)
            else:
                found[scenario] = _scenario_air(self.project, scenario, mine)
        return found

    def _same_needs(self) -> bool:
        """Whether every pickup needs what it did before, and its air goes to the same collector."""
        before = self.before
        last = before.traces.get(self.traced.arrangement) if before else None
        if before is None or last is None or last.networks.keys() != self.traced.networks.keys():
            return False
        if self._last.keys() != self.traced.networks.keys():
            return False
        was = before.project
        return was.settings == self.project.settings and alike(was.machines, self.project.machines)


def _solved_as(last: ScenarioBatch, network: Network) -> ScenarioBatch:
    """Solve the same scenarios in a network of which only resistances have changed."""
    return ScenarioBatch(last.asked, last.leaves, solve(network, last.solved.cases, last.start))


def _rows(batch: ScenarioBatch) -> Iterator[tuple[Scenario, int, Mapping[str, int]]]:
    """Yield the scenarios in which a batch's collector is in use, with their rows and leaves."""
    used = [(s, mine) for s, mine in zip(batch.asked, batch.leaves, strict=True) if mine]
    for row, (scenario, leaves) in enumerate(used):
        yield scenario, row, leaves


def _start(before: Assessment | None, network: Network, scenarios: list[Scenario]) -> Array | None:
    """Leaf flows of an earlier answer, when its tree has the same shape and all scenarios in it."""
    rows: list[Array] = []
    for scenario in scenarios:
        answer = before.of(scenario) if before else None
        system = answer.systems.get(network.collector) if answer else None
        # Flows of another tree, or of no answer, lead a search astray more than none.
        if not system or not system.converged or system.network.tree != network.tree:
            return None
        rows.append(system.solved.flow[system.row, network.tree.leaves])
    return np.stack(rows)


def _scenario_air(project: Project, scenario: Scenario, systems: dict[str, System]) -> ScenarioAir:
    """Return what every pickup in use gets; one that no system takes the air of gets none."""
    leaves: dict[str, tuple[str, int]] = {}
    for collector, system in systems.items():
        leaves |= {ref: (collector, leaf) for ref, leaf in system.leaves.items()}
    pickups: list[PickupAir] = []
    for ident in scenario.running:
        for item in project.machine[ident].pickups:
            if not scenario.uses(ident, item.id):
                continue
            asked = need(item, project.settings)
            # Three cases: in a duct, into a bag of its own, or into the room.
            ducted = leaves.get(f"{ident}/{item.id}")
            if ducted is None and item.bags_itself:
                own = own_bag_airflow(f"{ident}/{item.id}", item, shop_air(project))
                pickups.append(PickupAir(ident, item.id, asked, own, None, None, by_itself=True))
            elif ducted is None:
                pickups.append(PickupAir(ident, item.id, asked, 0.0, None, None))
            else:
                flow = systems[ducted[0]].drawn(ducted[1])
                pickups.append(PickupAir(ident, item.id, asked, flow, *ducted))
    return ScenarioAir(scenario, systems, tuple(pickups))

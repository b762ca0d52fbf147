"""Scenarios: which machines run together, where hoses are for them and which gates are open."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from grey_current.air.needs import Need, capture, clear_chips
from grey_current.air.network import Network
from grey_current.design.flow.trace import Arrangement
from grey_current.errors import InputError
from grey_current.shop.machines import Pickup
from grey_current.shop.model import Project, Settings


@dataclass(frozen=True)
class Scenario:
    """Machines that run together, by id, in the shop's order."""

    running: tuple[str, ...]

    def name(self, project: Project) -> str:
        """The machines' names."""
        return " and ".join(project.machine[ident].name for ident in self.running)


def scenario_of(project: Project, machines: list[str] | tuple[str, ...]) -> Scenario:
    """A scenario of some machines. Raises `InputError` for an unknown machine."""
    for ident in machines:
        if ident not in project.machine:
            known = ", ".join(project.machine) or "none"
            raise InputError("machine", ident, f"machines of this shop are: {known}")
    return Scenario(tuple(m.id for m in project.machines if m.id in machines))


def alone_scenarios(project: Project) -> tuple[Scenario, ...]:
    """Each machine on its own, in turn."""
    return tuple(Scenario((machine.id,)) for machine in project.machines)


def arrangement(project: Project, scenario: Scenario) -> Arrangement:
    """Where each moved hose is for a scenario: at the first running machine that it serves, else at rest."""
    moved: list[tuple[str, str]] = []
    for run in project.runs:
        if not run.also_serves:
            continue
        for ref in (run.start, *run.also_serves):
            if ref.split("/")[0] in scenario.running:
                if ref != run.start:
                    moved.append((run.id, ref))
                break
    return tuple(moved)


def gate_settings(project: Project, network: Network, scenario: Scenario) -> NDArray[np.bool_]:
    """Which gates are open in a scenario, shape (gate,).

    Open: those between a running machine's pickups and the fan, and those left open. Shut: the rest,
    and those kept shut.
    """
    wanted: set[int] = set()
    for (machine, _), leaf in network.leaf_of_pickup.items():
        if machine in scenario.running:
            wanted |= network.gates_of_branch[leaf]
    rules = [gate.rule for gate in project.gates]
    return np.array(
        [rule == "left open" or (rule == "with its machine" and index in wanted) for index, rule in enumerate(rules)],
        dtype=bool,
    )


def need(pickup: Pickup, settings: Settings) -> Need:
    """What airflow (m³/s) a pickup needs, and which design criterion said so. Raises nothing."""
    if pickup.need is not None:
        return Need(pickup.need, "your own figure")
    chips = clear_chips(pickup.port)
    if settings.criterion == "catch fine dust" and pickup.capture:
        c = pickup.capture
        dust = capture(c.distance, c.velocity, c.area, c.flanged)
        if dust > chips:
            return Need(dust, "to catch the fine dust where it is released")
    return Need(chips, "to keep chips moving in the port")

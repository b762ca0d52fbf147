"""The air of a project as it was computed: by pickup, by collector, by scenario."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from grey_current.air import laws
from grey_current.air.gas import Air
from grey_current.air.needs import MET_FROM, NEARLY, Need
from grey_current.air.network import Network
from grey_current.air.pieces import Fan, Piece, Separator
from grey_current.air.solver import Solved
from grey_current.design.flow.scenarios import Scenario, all_scenarios
from grey_current.design.flow.trace import Arrangement, Trace
from grey_current.shop.model import Project

Array = NDArray[np.float64]


class PickupAir(NamedTuple):
    """What one pickup of a running machine gets (m³/s) against its need; `leaf` is its branch, if
    ducted; `by_itself` its own fan blows into a bag of its own.
    """

    machine: str
    pickup: str
    need: Need
    airflow: float
    collector: str | None
    leaf: int | None
    by_itself: bool = False

    @property
    def loose(self) -> bool:
        """Whether nothing takes its dust: no duct, and no bag of its own."""
        return self.leaf is None and not self.by_itself

    @property
    def met(self) -> bool:
        return self.airflow >= MET_FROM * self.need.airflow

    @property
    def nearly_met(self) -> bool:
        """Whether it gets its need, or so little less that a reading would hardly tell."""
        return self.airflow >= NEARLY * self.need.airflow

    @property
    def share(self) -> float:
        """Airflow over need."""
        return self.airflow / self.need.airflow


@dataclass(frozen=True)
class System:
    """One collector at work in one scenario: a network, its solution and the row of this scenario.

    `leaves` holds the branch of every pickup ("machine/pickup") that is in use and whose air it
    takes.
    """

    network: Network
    solved: Solved
    row: int
    leaves: Mapping[str, int]

    @property
    def converged(self) -> bool:
        return bool(self.solved.converged[self.row])

    @property
    def airflow(self) -> float:
        """Airflow through the collector, m³/s."""
        return float(self.solved.flow[self.row, 0])

    @cached_property
    def airflows(self) -> list[float]:
        """Airflow of each piece, m³/s, in the order of the network's pieces."""
        return self.solved.piece_flow[self.row].tolist()  # type: ignore[no-any-return]

    @cached_property
    def losses(self) -> list[float]:
        """Total pressure lost in each piece, Pa."""
        return self.solved.loss[self.row].tolist()  # type: ignore[no-any-return]

    @cached_property
    def flows(self) -> list[float]:
        """Airflow of each branch, m³/s."""
        return self.solved.flow[self.row].tolist()  # type: ignore[no-any-return]

    @cached_property
    def velocities(self) -> list[float]:
        """Velocity in each piece's own diameter, m/s; a list, which is quicker to look single
        pieces up in.
        """
        return (self.solved.piece_flow[self.row] / self.network.areas).tolist()  # type: ignore[no-any-return]

    def drawn(self, leaf: int) -> float:
        """Airflow that a leaf draws, m³/s; 0 without an answer."""
        return self.flows[leaf] if self.converged else 0.0

    def velocity(self, piece: int) -> float:
        """Velocity in one piece, m/s."""
        return self.velocities[piece]

    def gate_open(self, piece: Piece) -> bool:
        """Whether a gate piece is open in this scenario."""
        # Gates come first among the switches of a case, machines' own fans after them.
        law = piece.law
        return isinstance(law, laws.Gate) and bool(self.solved.cases.gates[self.row, law.index])

    def runs(self, law: laws.MachineFan) -> bool:
        """Whether a machine's own fan runs in this scenario."""
        return bool(self.solved.cases.gates[self.row, law.index])

    def runs_backward(self, piece: int) -> bool:
        """Whether air passes a wye's leg, or the leg that it joins, against the way that the
        correlation knows.
        """
        branch = int(self.network.branch_of_piece[piece])
        joined = int(self.network.tree.joined_at[branch])
        return bool(min(self.solved.flow[self.row, branch], self.solved.flow[self.row, joined]) < 0)

    @cached_property
    def fan_piece(self) -> int:
        """Index of the collector's own fan."""
        name = f"{self.network.collector}/fan"
        return next(i for i, piece in enumerate(self.network.pieces) if piece.id == name)

    @property
    def fan_static(self) -> float:
        """Fan static pressure at work, Pa: its curve at this airflow, without working out every
        other piece.
        """
        law = self.network.pieces[self.fan_piece].law
        assert isinstance(law, laws.Fan)
        lift = law.curve.pressure(np.array(self.airflow))[0]
        return float(lift * self.solved.cases.fan[self.row])

    @cached_property
    def _first_own(self) -> int:
        """Index of the first piece behind the collector's inlet."""
        own = self.network.collector
        pieces = enumerate(self.network.pieces)
        return next(
            i
            for i, piece in pieces
            if piece.source_id == own and isinstance(piece, Separator | Fan)
        )

    @property
    def inlet_total(self) -> float:
        """Total pressure in the collector's inlet, Pa (negative: below the room)."""
        return float(self.solved.before[self.row, self._first_own])

    @property
    def inlet_static(self) -> float:
        """Static pressure in the collector's inlet, Pa (negative: below the room)."""
        velocity = self.airflow / laws.area(self.network.pieces[self._first_own].diameter)
        return self.inlet_total - self.network.air.density / 2 * velocity**2


@dataclass(frozen=True)
class ScenarioAir:
    """The air in one scenario: the systems at work by collector id, and every pickup of its
    machines.
    """

    scenario: Scenario
    systems: Mapping[str, System]
    pickups: tuple[PickupAir, ...]

    @property
    def converged(self) -> bool:
        return all(system.converged for system in self.systems.values())

    @cached_property
    def worst(self) -> PickupAir | None:
        """The ducted pickup that gets the smallest share of its need."""
        ducted = [p for p in self.pickups if p.leaf is not None]
        return min(ducted, key=lambda p: p.share, default=None)

    @cached_property
    def least(self) -> PickupAir | None:
        """The pickup in use that gets the smallest share of its need; one that nothing reaches gets
        none of it.
        """
        return min(self.pickups, key=lambda p: p.share, default=None)

    @property
    def least_share(self) -> float:
        """Share of its need that the least pickup gets; infinite without a pickup."""
        return self.least.share if self.least else math.inf

    @property
    def met(self) -> bool:
        """Whether every pickup in use gets what it needs."""
        return self.converged and bool(self.pickups) and all(p.met for p in self.pickups)

    def with_systems(self, systems: Mapping[str, System]) -> ScenarioAir:
        """The same scenario with other air in its systems; pickups whose air none of these takes
        stay as they are.
        """
        pickups: list[PickupAir] = []
        for p in self.pickups:
            system = systems.get(p.collector or "")
            pickups.append(
                p
                if system is None or p.leaf is None
                else PickupAir(*p[:3], system.drawn(p.leaf), *p[4:])
            )
        return ScenarioAir(self.scenario, systems, tuple(pickups))

    @property
    def airflow(self) -> float:
        """All its pickups together, m³/s."""
        return math.fsum(p.airflow for p in self.pickups)

    @property
    def needed(self) -> float:
        return math.fsum(p.need.airflow for p in self.pickups)


@dataclass(frozen=True, eq=False)
class ScenarioBatch:
    """Scenarios of one arrangement, solved in one call for one collector.

    `leaves` has for each of them what a `System` has, empty where the collector is not in use;
    `solved` has a row for each of the others.
    """

    asked: tuple[Scenario, ...]
    leaves: tuple[Mapping[str, int], ...]
    solved: Solved

    def is_compatible(self, network: Network, asked: tuple[Scenario, ...]) -> bool:
        """Whether it is the same tree, with the same pickups and gates in it, and the same is
        asked.
        """
        was = self.solved.network
        return (
            asked == self.asked
            and network.tree is was.tree
            and network.leaf_of_pickup == was.leaf_of_pickup
            and network.gates_of_branch == was.gates_of_branch
            and network.own_fans == was.own_fans
        )

    @property
    def start(self) -> Array | None:
        """Flows of the leaves, to begin with where only resistances have changed; None without an
        answer for all.
        """
        if self.solved.converged.all():
            return self.solved.flow[:, self.solved.network.tree.leaves]
        return None


@dataclass(frozen=True, eq=False)
class Assessment:
    """What follows from a project: its air and the answer for every scenario asked for. Equal only
    to itself.
    """

    project: Project
    air: Air
    answers: tuple[ScenarioAir, ...]
    traces: Mapping[Arrangement, Trace]
    solved: Mapping[tuple[Arrangement, str], ScenarioBatch]

    @cached_property
    def networks(self) -> dict[Arrangement, Mapping[str, Network]]:
        """The networks by collector id, for every arrangement of hoses."""
        return {places: traced.networks for places, traced in self.traces.items()}

    @cached_property
    def of_machine(self) -> dict[str, ScenarioAir]:
        """The answer for each machine alone, where it was asked for; of several working places the
        worst.
        """
        found: dict[str, ScenarioAir] = {}
        for answer in self.answers:
            if len(answer.scenario.running) == 1:
                (machine,) = answer.scenario.running
                if machine not in found or answer.least_share < found[machine].least_share:
                    found[machine] = answer
        return found

    @cached_property
    def asking(self) -> dict[str, ScenarioAir]:
        """The answer for each machine alone that has a pickup: what asks for no air is not counted
        among those that get too little.
        """
        return {machine: answer for machine, answer in self.of_machine.items() if answer.pickups}

    @cached_property
    def counted(self) -> Assessment:
        """The part of the answer that the shop counts with: each machine alone, and the sets that
        work together.
        """
        wanted = all_scenarios(self.project)
        if wanted == tuple([answer.scenario for answer in self.answers]):
            return self
        answers = tuple(answer for answer in self.answers if answer.scenario in wanted)
        return Assessment(self.project, self.air, answers, self.traces, self.solved)

    @cached_property
    def pieces(self) -> tuple[Piece, ...]:
        """Every piece of every network."""
        return tuple(
            p for nets in self.networks.values() for net in nets.values() for p in net.pieces
        )

    def most_airflow(self, collector: str) -> float:
        """The largest airflow (m³/s) through a collector in any scenario; 0 when none passes."""
        systems = (answer.systems.get(collector) for answer in self.answers)
        return max((s.airflow for s in systems if s is not None and s.converged), default=0.0)

    @cached_property
    def _of_scenario(self) -> dict[Scenario, ScenarioAir]:
        return {answer.scenario: answer for answer in reversed(self.answers)}

    def of(self, scenario: Scenario) -> ScenarioAir | None:
        return self._of_scenario.get(scenario)

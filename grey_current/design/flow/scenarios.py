"""Scenarios: which machines run together, where hoses are for them and which gates are open."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from grey_current.air.gas import air_at
from grey_current.air.needs import Need, capture, clear_chips, thin_air
from grey_current.air.network import Network
from grey_current.design.flow.trace import Arrangement
from grey_current.errors import InputError
from grey_current.shop.ducts import Gate
from grey_current.shop.machines import Machine, Pickup
from grey_current.shop.model import Project, Settings


@dataclass(frozen=True)
class Scenario:
    """Machines that run together, by id, in the shop's order.

    `places` are the pickups ("machine/pickup") in use of machines that have several working places
    but use one at a time; of every other machine all pickups are in use.
    """

    running: tuple[str, ...]
    places: tuple[str, ...] = ()

    def name(self, project: Project) -> str:
        """The machines' names, with the working place of those that use one at a time."""
        return " and ".join(self._named(project, ident) for ident in self.running)

    def _named(self, project: Project, machine: str) -> str:
        place = next((ref for ref in self.places if ref.startswith(f"{machine}/")), None)
        name = project.machine[machine].name
        return name if place is None else f"{name}, {project.pickup[place][1].name.lower()}"

    def uses(self, machine: str, pickup: str) -> bool:
        """Whether a pickup is in use."""
        if machine not in self.running:
            return False
        # Only machines used at one place at a time name a place; of all others every pickup
        # counts.
        mine = [ref for ref in self.places if ref.startswith(f"{machine}/")]
        return not mine or f"{machine}/{pickup}" in mine


def scenario_of(project: Project, machines: Sequence[str], places: Sequence[str] = ()) -> Scenario:
    """A scenario of some machines; one that uses one place at a time, its first or the one among
    `places`.

    Raises `InputError` for an unknown machine.
    """
    for ident in machines:
        if ident not in project.machine:
            known = ", ".join(project.machine) or "none"
            raise InputError("machine", ident, f"machines of this shop are: {known}")
    running = tuple(m.id for m in project.machines if m.id in machines)
    chosen = []
    # A combination machine is used at one of its places; without a word it is the first.
    for machine in (project.machine[ident] for ident in running):
        refs = [f"{machine.id}/{pickup.id}" for pickup in machine.pickups]
        if machine.one_at_a_time and len(refs) > 1:
            chosen.append(next((ref for ref in refs if ref in places), refs[0]))
    return Scenario(running, tuple(chosen))


def scenario_named(project: Project, wanted: Sequence[str]) -> Scenario:
    """A scenario of machines as they are typed: an id, or "machine/place" for one that uses one
    place at a time.

    Raises `InputError` for an unknown machine or place, with those that there are.
    """
    places = []
    for ident, _, place in (text.partition("/") for text in wanted):
        machine = project.machine.get(ident)
        if not place or machine is None:
            continue
        known = [pickup.id for pickup in machine.pickups]
        if not machine.one_at_a_time or len(known) < 2:
            raise InputError(
                "machine",
                f"{ident}/{place}",
                f"{machine.name} has no places that are used one at a time",
            )
        if place not in known:
            raise InputError(
                "machine", f"{ident}/{place}", f"places of {machine.name} are: {', '.join(known)}"
            )
        places.append(f"{ident}/{place}")
    return scenario_of(project, [text.partition("/")[0] for text in wanted], places)


def alone_scenarios(project: Project) -> tuple[Scenario, ...]:
    """Each machine on its own, in turn; one that uses one place at a time, each place in turn."""
    found: list[Scenario] = []
    for machine in project.machines:
        if machine.one_at_a_time and len(machine.pickups) > 1:
            found += [_alone(machine.id, f"{machine.id}/{pickup.id}") for pickup in machine.pickups]
        else:
            found.append(_alone(machine.id))
    return tuple(found)


@lru_cache(maxsize=512)
def _alone(machine: str, *places: str) -> Scenario:
    """The very same value each time: it is looked up by the hundred."""
    return Scenario((machine,), places)


def all_scenarios(project: Project) -> tuple[Scenario, ...]:
    """All that the shop counts with: each machine on its own, then the sets that work together."""
    sets = dict.fromkeys(
        tuple(m for m in project.machine if m in group) for group in project.settings.together
    )
    several = [scenario_of(project, group) for group in sets if len(group) > 1]
    return (*alone_scenarios(project), *several)


def arrangement(project: Project, scenario: Scenario) -> Arrangement:
    """Where each moved hose is for a scenario: at the first running machine that it serves, else at
    rest.
    """
    moved: list[tuple[str, str]] = []
    for run in project.moved_hoses:
        # A hose serves one port at a time: the first in its own order that is in use.
        for ref in run.serves:
            if scenario.uses(*ref.split("/", 1)):
                if ref != run.start:
                    moved.append((run.id, ref))
                break
    return tuple(moved)


def used_leaves(
    project: Project, network: Network, scenario: Scenario
) -> Iterator[tuple[str, int]]:
    """The pickups ("machine/pickup") in use in a scenario whose air a network takes, each with its
    branch.
    """
    for machine in (
        project.machine[ident] for ident in scenario.running if ident in project.machine
    ):
        for pickup in machine.pickups:
            leaf = network.leaf_of_pickup.get((machine.id, pickup.id))
            if leaf is not None and scenario.uses(machine.id, pickup.id):
                yield f"{machine.id}/{pickup.id}", leaf


def gate_settings(
    project: Project, network: Network, scenario: Scenario, leaves: Iterable[int] | None = None
) -> NDArray[np.bool_]:
    """Which gates are open in a scenario and which machines' own fans run, shape (switch,): gates
    first.

    Open: those between the pickups in use and the fan, those that are opened for a running machine
    too, and those left open. Shut: the rest, and those kept shut. `leaves` are those of the pickups
    in use, where they are known.
    """
    if leaves is None:
        leaves = [leaf for _, leaf in used_leaves(project, network, scenario)]
    # The gates on the way of the pickups in use, besides those that are left open.
    wanted = set().union(*[network.gates_of_branch[leaf] for leaf in leaves])
    running = set(scenario.running)
    opened = [
        gate.rule == "left open"
        or (
            gate.rule == "with its machine"
            and (index in wanted or not running.isdisjoint(gate.also_open_for))
        )
        for index, gate in enumerate(project.gates)
    ]
    return np.array([*opened, *(machine in running for machine, _ in network.own_fans)], dtype=bool)


def switched_alike(was: Project, now: Project) -> bool:
    """Whether the same pickups are in use and the same gates open in every scenario, as far as the
    ducts are the same.

    Raises nothing.
    """
    return (
        len(was.machines) == len(now.machines)
        and len(was.gates) == len(now.gates)
        and all(
            a is b or _pickups(a) == _pickups(b)
            for a, b in zip(was.machines, now.machines, strict=True)
        )
        and all(
            a is b or _switching(a) == _switching(b)
            for a, b in zip(was.gates, now.gates, strict=True)
        )
    )


def _pickups(machine: Machine) -> object:
    return machine.id, machine.one_at_a_time, [pickup.id for pickup in machine.pickups]


def _switching(gate: Gate) -> object:
    return gate.id, gate.rule, gate.also_open_for


def faster_in_thin_air(settings: Settings) -> float:
    """How many times faster this shop's air must run than standard air to carry chips."""
    return _faster(settings.altitude, settings.temperature, settings.humidity)


@lru_cache(maxsize=16)
def _faster(altitude: float, temperature: float, humidity: float) -> float:
    return thin_air(air_at(altitude, temperature, humidity).density)


def need(pickup: Pickup, settings: Settings) -> Need:
    """What airflow (m³/s) a pickup needs, and which design criterion said so. Raises nothing."""
    if pickup.need is not None:
        return Need(pickup.need, "your own figure")
    chips = clear_chips(pickup.port) * faster_in_thin_air(settings)
    if settings.criterion == "catch fine dust" and pickup.capture:
        c = pickup.capture
        # The larger of the two needs holds: a port that catches the dust may still let its chips
        # lie.
        dust = capture(c.distance, c.velocity, c.area, c.flanged)
        if dust > chips:
            return Need(dust, "to catch the fine dust where it is released")
    return Need(chips, "to keep chips moving in the port")

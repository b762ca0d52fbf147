"""What a collector must do, worked from the machines backwards, and what one holds at its inlet."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from grey_current.air import laws
from grey_current.air.bank import Bank
from grey_current.air.fan import FanCurve
from grey_current.air.gas import Air
from grey_current.air.network import Network
from grey_current.air.pieces import Fan, Piece
from grey_current.air.solver import Solver
from grey_current.air.tables import packed
from grey_current.design.collector.estimate import rough_network
from grey_current.design.flow import fittings as make
from grey_current.design.flow.scenarios import (
    Scenario,
    all_scenarios,
    arrangement,
    gate_settings,
    need,
    used_leaves,
)
from grey_current.design.flow.trace import Arrangement, shop_air, trace
from grey_current.shop.collectors import Collector
from grey_current.shop.model import Project

Array = NDArray[np.float64]

# Pa; no workshop collector pulls harder, so a scenario that asks for more is out of reach.
STRONG = 40_000.0
WIDE = 20.0
# Pulls over the whole range, pulls between two of them, and how often that is done.
SCALES, FINER, ROUNDS = 20, 9, 4


@dataclass(frozen=True)
class Requirement:
    """What a collector must do at its inlet for one scenario, so that every need is just met.

    `airflow` m³/s through the inlet; `pressure` and `static` Pa that the total and the static
    pressure there are below the room; `ruling` is the pickup ("machine/pickup") whose need is met
    last. `curve` is the system's curve at the inlet as (m³/s, Pa total). `estimated` when no duct
    is drawn yet. `reached` is False when no workshop collector could: then the figures are those at
    `STRONG`.
    """

    scenario: Scenario
    airflow: float
    pressure: float
    static: float
    ruling: str
    curve: tuple[tuple[float, float], ...]
    estimated: bool
    reached: bool

    @property
    def air_power(self) -> float:
        """W in the air at the inlet."""
        return self.airflow * self.pressure


def requirements(
    project: Project, collector: str | None, scenarios: Sequence[Scenario] = ()
) -> list[Requirement]:
    """What a collector must do for each scenario that it serves.

    Parameters
    ----------
    project
        The shop, with or without ducts.
    collector
        Which one; None when there is none yet.
    scenarios
        Without any, each machine on its own and the sets that are run together.

    Returns
    -------
    list of Requirement
        In the order of the scenarios; one without a pickup that this collector serves, or might
        serve, is left out. Pickups that no collector reaches are estimated along the walls.

    Raises
    ------
    DuctworkError
        When the ductwork cannot be traced.
    """
    wanted = list(scenarios) or list(all_scenarios(project))
    groups: dict[Arrangement, list[Scenario]] = {}
    for scenario in wanted:
        groups.setdefault(arrangement(project, scenario), []).append(scenario)
    found: dict[Scenario, Requirement] = {}
    for places, group in groups.items():
        traced = trace(project, places).networks
        mine = traced.get(collector or "")
        if mine is not None:
            found |= {made.scenario: made for made in _from_ducts(project, group, mine)}
        connected: set[tuple[str, str]] = set()
        for network in traced.values():
            connected.update(network.leaf_of_pickup)
        for scenario in group:
            rough = (
                None if scenario in found else _estimated(project, scenario, collector, connected)
            )
            if rough is not None:
                found[scenario] = rough
    return [found[scenario] for scenario in wanted if scenario in found]


def hardest(found: Sequence[Requirement]) -> Requirement | None:
    """The scenario that asks for the biggest fan of one shape; the one that rules the choice."""
    return max(found, key=_size_of_fan, default=None)


def _size_of_fan(requirement: Requirement) -> float:
    """How large a fan of p = n² (1 − (Q/n)²) shape must be: n² = p + Q², in units of 3,000 Pa and
    0.6 m³/s.
    """
    return requirement.pressure / 3000 + (requirement.airflow / 0.6) ** 2


def _ideal(air: Air, inlet: float) -> Piece:
    """A fan that only pulls: as strong as its scale says, nearly whatever the airflow."""
    curve = FanCurve(((0.0, STRONG), (WIDE, 0.0)), (0.0, WIDE))
    return Fan("ideal/fan", "ideal", laws.Fan(curve), inlet)


@dataclass(frozen=True)
class _Asked:
    """A scenario of one network: its gates, and the leaves that must get their needs (m³/s), by
    "machine/pickup".
    """

    scenario: Scenario
    gates: NDArray[np.bool_]
    leaves: list[int]
    needs: list[float]
    refs: list[str]


def _from_ducts(
    project: Project, scenarios: Sequence[Scenario], network: Network
) -> list[Requirement]:
    """The requirements through ducts that are drawn, of the scenarios that this network serves."""
    root, inlet = network.branches[0], project.collector[network.collector].duct_inlet
    kept = tuple(p for p in root.pieces if not make.is_own(p, network.collector))
    # The collector is replaced by an ideal fan at its inlet, whose pressure is then what it must
    # do.
    bare = network.with_branches({0: replace(root, pieces=(*kept, _ideal(network.air, inlet)))})
    asked = []
    for scenario in scenarios:
        running = list(used_leaves(project, network, scenario))
        if running:
            needs = [need(project.pickup[ref][1], project.settings).airflow for ref, _ in running]
            gates = gate_settings(project, network, scenario)
            asked.append(
                _Asked(
                    scenario,
                    gates,
                    [leaf for _, leaf in running],
                    needs,
                    [ref for ref, _ in running],
                )
            )
    return _worked_back(asked, bare, inlet, estimated=False) if asked else []


def _estimated(
    project: Project, scenario: Scenario, collector: str | None, connected: set[tuple[str, str]]
) -> Requirement | None:
    """The requirement along the walls, where nothing is drawn: airflows added, the hardest
    pressure.
    """
    parts = []
    for machine in scenario.running:
        for pickup in project.machine[machine].pickups:
            if scenario.uses(machine, pickup.id) and (machine, pickup.id) not in connected:
                parts.append(_rough(project, scenario, f"{machine}/{pickup.id}", collector))
    if not parts:
        return None
    worst = max(parts, key=lambda part: part.pressure)
    airflow = math.fsum(part.airflow for part in parts)
    curve = tuple((q * airflow / worst.airflow, p) for q, p in worst.curve)
    return replace(worst, airflow=airflow, curve=curve, reached=all(part.reached for part in parts))


def _rough(project: Project, scenario: Scenario, ref: str, collector: str | None) -> Requirement:
    air = shop_air(project)
    inlet = project.collector[collector].duct_inlet if collector else project.pickup[ref][1].port
    network = rough_network(project, ref, collector, [_ideal(air, inlet)], air)
    needs = [need(project.pickup[ref][1], project.settings).airflow]
    asked = _Asked(scenario, np.ones(len(network.own_fans), dtype=bool), [0], needs, [ref])
    return _worked_back([asked], network, inlet, estimated=True)[0]


def _worked_back(
    asked: list[_Asked], network: Network, inlet: float, *, estimated: bool
) -> list[Requirement]:
    """Pull harder and harder until each scenario's last need is just met; a round is one call of
    the solver.
    """
    solver = Solver(network)

    def pulled(scales: Array, start: Array | None = None) -> tuple[Array, Array]:
        """Smallest share of a need and the flows (scenario, scale, branch) at each scale,
        (scenario, scale).

        `start` are flows (scenario, scale or 1, branch) that are not far from these.
        """
        tries = scales.shape[1]
        gates = np.repeat(np.stack([a.gates for a in asked]), tries, axis=0)
        given = laws.Cases(gates, scales.ravel(), np.ones(scales.size))
        near = (
            None if start is None else np.broadcast_to(start, (len(asked), tries, start.shape[2]))
        )
        near = None if near is None else near.reshape(-1, near.shape[2])[:, network.tree.leaves]
        flow = solver.solve(given, near).flow.reshape(len(asked), tries, -1)
        shares = np.stack(
            [np.min(f[:, a.leaves] / a.needs, axis=1) for f, a in zip(flow, asked, strict=True)]
        )
        return shares, flow

    rows = np.arange(len(asked))
    # Coarse steps of pressure over all that a fan could give, then finer ones within the step that
    # counts.
    scales = np.repeat(np.geomspace(2e-4, 1.0, SCALES)[None, :], len(asked), axis=0)
    strongest = pulled(np.ones((len(asked), 1)))[1]
    # Turbulent flow goes with √Δp.
    shares, flow = pulled(scales, strongest * np.sqrt(scales)[:, :, None])
    curves = [_curve(f[:, 0], s) for f, s in zip(flow, scales, strict=True)]
    reached = np.array([bool((row >= 1).any()) for row in shares])
    # The first step at which the last of its pickups gets its need.
    met = np.argmax(shares >= 1, axis=1)
    for _ in range(ROUNDS):
        low, high, near = (
            scales[rows, np.maximum(met - 1, 0)],
            scales[rows, met],
            flow[rows, met, None],
        )
        scales = low[:, None] + (high - low)[:, None] * np.linspace(0, 1, FINER)
        shares, flow = pulled(scales, near)
        met = np.argmax(shares >= 1, axis=1)
    # What no pressure serves is told at the highest one that was tried.
    last = np.where(reached, scales[rows, met], 1.0)
    flow = pulled(last[:, None], flow[rows, met, None])[1][:, 0]
    return [
        _requirement(a, f, float(scale), bool(ok), curve, network.air, inlet, estimated)
        for a, f, scale, ok, curve in zip(asked, flow, last, reached, curves, strict=True)
    ]


def _curve(flows: Array, scales: Array) -> tuple[tuple[float, float], ...]:
    """The system's curve (m³/s, Pa) from what was pulled through it."""
    pressures = scales * STRONG * (1 - flows / WIDE)
    return tuple(
        (float(q), float(p)) for q, p in zip(flows, pressures, strict=True) if math.isfinite(q)
    )


def _requirement(
    asked: _Asked,
    flow: Array,
    scale: float,
    reached: bool,
    curve: tuple[tuple[float, float], ...],
    air: Air,
    inlet: float,
    estimated: bool,
) -> Requirement:
    """What was pulled in the end, read off at the inlet."""
    airflow = float(flow[0])
    pressure = scale * STRONG * (1 - airflow / WIDE)
    static = pressure + air.density / 2 * (airflow / laws.area(inlet)) ** 2
    ruling = asked.refs[int(np.argmin(flow[asked.leaves] / asked.needs))]
    return Requirement(asked.scenario, airflow, pressure, static, ruling, curve, estimated, reached)


def available_pressure(
    collector: Collector, air: Air, flows: Array, loading: float | None = None
) -> Array:
    """Total pressure (Pa) that a collector holds at its inlet at some airflows (m³/s), shape as
    `flows`.

    The fan's less what its own separator, filter and opening take; `loading` in place of the
    filter's own. Raises nothing.
    """
    if loading is not None:
        collector = collector.replaced(filter=collector.filter.replaced(loading=loading))
    parts = make.collector(collector, air)
    table = packed([p.law for p in parts], [0] * len(parts), 1, air)
    bank = Bank(table, laws.cases(np.zeros((len(flows), 0), dtype=bool)))
    taken: Array = bank.evaluate(flows[None, :], flows[None, :])[0][0]
    return -taken


def required_fan_pressure(
    collector: Collector, requirement: Requirement, air: Air, loading: float
) -> float:
    """Fan static pressure (Pa) for a requirement, with what the collector's own separator, filter
    and opening take.
    """
    flow = np.array([requirement.airflow])
    lift = make.fan_curve(collector.fan, air).pressure(flow)[0]
    own = lift - available_pressure(collector, air, flow, loading)
    return requirement.pressure + float(own[0])


def free_airflow(collector: Collector, air: Air) -> float:
    """Airflow (m³/s) beyond which a collector's fan gives nothing."""
    return make.fan_curve(collector.fan, air).free_delivery

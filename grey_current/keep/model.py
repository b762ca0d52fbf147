"""The shop as a model with doubts: every allowance a factor with a spread, all scenarios solved for any draw."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grey_current.air import pieces
from grey_current.air.drawn import FAN_FLOW, FAN_PRESSURE, DrawnNetwork
from grey_current.air.network import Network
from grey_current.air.pieces import Piece, Straight
from grey_current.air.solver import Solved
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import Scenario, arrangement, gate_settings
from grey_current.shop.model import Project
from grey_current.shop.names import Names

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Spread:
    """What may be otherwise than the table says: its name, words, the deviation of its logarithm, and for what each."""

    name: str
    words: str
    sigma: float
    each: str
    reason: str


@cache
def spreads() -> dict[str, Spread]:
    """The spreads by name."""
    raw: dict[str, Any] = json.loads((files("grey_current.keep") / "data" / "spreads.json").read_text(encoding="utf-8"))
    return {item["name"]: Spread(**item) for item in raw["spreads"]}


@dataclass(frozen=True)
class Unknown:
    """One thing that is not known for sure: its key, in words, and the deviation of its logarithm."""

    key: str
    words: str
    sigma: float


KINDS: tuple[tuple[type[Piece] | tuple[type[Piece], ...], str], ...] = (
    ((pieces.Hose, pieces.HoseBend), "hose"),
    (pieces.Duct, "duct"),
    ((pieces.Elbow, pieces.Mitre, pieces.SizeChange), "elbows"),
    ((pieces.WyeMain, pieces.WyeBranch, pieces.Splitter), "wyes"),
    ((pieces.Intake, pieces.Entry), "intake"),
    ((pieces.BlastGate, pieces.Cap), "gate leak"),
    (pieces.Leakage, "duct leak"),
    ((pieces.Spacing, pieces.InletDisturbance), "spacing"),
    (pieces.Separator, "separator"),
    (pieces.Filter, "filter"),
)


def unknown_of(piece: Piece, collector: str) -> str:
    """The key of the unknown that a piece belongs to; empty for what is known."""
    name = next((name for kind, name in KINDS if isinstance(piece, kind)), "")
    if not name:
        return ""
    each = spreads()[name].each
    owner = {"collector": collector, "pickup": piece.id.rpartition("/")[0], "run": piece.source_id}.get(each, "")
    return f"{name}/{owner}" if owner else name


@dataclass(frozen=True)
class _Part:
    """One collector's network in one arrangement of hoses, and the scenarios that it answers."""

    collector: str
    network: Network
    drawn: DrawnNetwork
    scenarios: tuple[Scenario, ...]
    gates: NDArray[np.bool_]
    start: Array


class Model:
    """All scenarios that the shop counts with, for any factors of what is not known."""

    def __init__(self, now: Assessment) -> None:
        self.project = now.project
        self.parts = _parts(now.counted)
        self.unknowns = tuple(_unknowns(self.project, self.parts))
        self.place = {unknown.key: number for number, unknown in enumerate(self.unknowns)}
        self.sigma = np.array([unknown.sigma for unknown in self.unknowns])
        self.pickups = tuple(
            (scenario, f"{m}/{p}", part.collector)
            for part in self.parts
            for scenario in part.scenarios
            for (m, p) in part.network.leaf_of_pickup
            if scenario.uses(m, p)
        )

    def factors(self, theta: Array) -> dict[str, float]:
        """The factors of a vector of logarithms, in the order of `unknowns`."""
        each = np.exp(theta)
        return {unknown.key: float(f) for unknown, f in zip(self.unknowns, each, strict=True)}

    def solved(self, factors: Mapping[str, float]) -> list[Solved]:
        """The networks solved with factors; rows as each part's scenarios."""
        found = []
        for part in self.parts:
            mine = {k.partition("/")[0] if k.startswith("fan ") else k: v for k, v in factors.items() if _for(k, part)}
            outcome = part.drawn.solve(mine, part.gates, part.start)
            given = _cases(part, factors)
            found.append(
                Solved(part.network, given, outcome.converged, outcome.iterations, outcome.residual, outcome.flow)
            )
        return found

    def airflows(self, factors: Mapping[str, float]) -> Array:
        """The airflow of every pickup in use (m³/s), in the order of `pickups`; NaN where there is no answer."""
        values: list[float] = []
        for part, solved in zip(self.parts, self.solved(factors), strict=True):
            for row, scenario in enumerate(part.scenarios):
                values += [
                    float(solved.flow[row, leaf])
                    for (m, p), leaf in part.network.leaf_of_pickup.items()
                    if scenario.uses(m, p)
                ]
        return np.array(values)

    def static_at(self, factors: Mapping[str, float], scenario: Scenario, run: str) -> float:
        """The static pressure (Pa, below the room negative) in the middle of a run in a scenario; NaN where unknown.

        Worked out from the losses between there and the exhaust with the same factors.
        """
        for part, solved in zip(self.parts, self.solved(factors), strict=True):
            if scenario in part.scenarios:
                return _static(part, solved, part.scenarios.index(scenario), run, part.drawn, factors)
        return float("nan")


def _for(key: str, part: _Part) -> bool:
    """Whether an unknown concerns a part: its own collector's fan, or anything of the ducts."""
    return not key.startswith("fan ") or key.partition("/")[2] == part.collector


def _cases(part: _Part, factors: Mapping[str, float]) -> Any:
    from grey_current.air.laws import Cases  # noqa: PLC0415 - only for what is shown

    pressure = factors.get(f"{FAN_PRESSURE}/{part.collector}", 1.0)
    return Cases(part.gates, np.full(len(part.gates), pressure), np.ones(len(part.gates)))


def _parts(now: Assessment) -> list[_Part]:
    project, found = now.project, []
    for places, networks in now.networks.items():
        for collector, network in networks.items():
            answers = [
                a
                for a in now.answers
                if arrangement(project, a.scenario) == places
                and collector in a.systems
                and a.systems[collector].converged
            ]
            if not answers:
                continue
            scenarios = tuple(a.scenario for a in answers)
            gates = np.stack([gate_settings(project, network, s) for s in scenarios])
            start = np.stack(
                [a.systems[collector].solved.flow[a.systems[collector].row, network.tree.leaves] for a in answers]
            )
            drawn = DrawnNetwork(network, lambda piece, own=collector: unknown_of(piece, own))  # type: ignore[misc]
            found.append(_Part(collector, network, drawn, scenarios, gates, start))
    return found


def _unknowns(project: Project, parts: list[_Part]) -> list[Unknown]:
    names, known = Names(project), spreads()
    keys: dict[str, None] = {}
    for part in parts:
        keys |= dict.fromkeys((f"{FAN_PRESSURE}/{part.collector}", f"{FAN_FLOW}/{part.collector}"))
        keys |= dict.fromkeys(group for group in part.drawn.groups if group)
    found = []
    for key in keys:
        name, _, owner = key.partition("/")
        spread = known[name]
        words = spread.words if not owner or spread.each == "collector" else f"{spread.words}, {names.of(owner)}"
        found.append(Unknown(key, words, spread.sigma))
    return found


def _static(
    part: _Part, solved: Solved, row: int, run: str, drawn: DrawnNetwork, factors: Mapping[str, float]
) -> float:
    """Total pressure at a run's middle, summed from the exhaust, less its velocity pressure."""
    network = part.network
    index = next((i for i, p in enumerate(network.pieces) if isinstance(p, Straight) and p.source_id == run), None)
    if index is None or not solved.converged[row]:
        return float("nan")
    scaled = scaled_losses(part, solved, row, factors)
    path = _to_exhaust(network, index)
    total = float(sum(scaled[i] for i in path[1:]) + scaled[index] / 2)
    velocity = float(solved.piece_flow[row, index] / network.areas[index])
    return total - network.air.density / 2 * velocity**2


def scaled_losses(part: _Part, solved: Solved, row: int, factors: Mapping[str, float]) -> Array:
    """What every piece takes (Pa) with factors; a fan's is negative. Shut gates by their leak."""
    table = solved.network.piece_table
    lost = np.array(solved.loss[row], dtype=float)
    flow = factors.get(f"{FAN_FLOW}/{part.collector}", 1.0)
    for i, piece in enumerate(solved.network.pieces):
        key = unknown_of(piece, part.collector)
        factor = factors.get(key, 1.0) if key else 1.0
        if isinstance(piece, pieces.BlastGate | pieces.Leakage):
            continue
        if isinstance(piece, pieces.Fan) and piece.source_id == part.collector:
            lift, _ = _lift(table, i, float(solved.piece_flow[row, i]) / flow)
            lost[i] = -lift * factors.get(f"{FAN_PRESSURE}/{part.collector}", 1.0)
            continue
        lost[i] *= factor
    return lost


def _lift(table: Any, slot: int, flow: float) -> tuple[float, float]:
    from grey_current.air.fan import curve_pressure  # noqa: PLC0415

    number = next(n for n, (own, _) in enumerate(table.fan_at) if own == slot)
    rows = table.knots[table.fan_start[number] : table.fan_start[number + 1]]
    lift, slope = curve_pressure(rows, np.array([flow]))
    return float(lift[0]), float(slope[0])


def _to_exhaust(network: Network, piece: int) -> list[int]:
    """The pieces from one to the exhaust, itself first."""
    branch = int(network.branch_of_piece[piece])
    inside = [i for i in network.pieces_of_branch[branch] if i >= piece]
    after = [i for b in network.branch_path(branch)[1:] for i in network.pieces_of_branch[b]]
    return [*inside, *after]

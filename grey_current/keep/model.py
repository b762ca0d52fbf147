"""The shop as a model with doubts: every allowance a factor with a spread, all scenarios solved for
any draw.
"""

from __future__ import annotations

import copy
import json
import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cache, cached_property
from importlib.resources import files
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grey_current.air import pieces
from grey_current.air.drawn import FAN_FLOW, FAN_PRESSURE, DrawnNetwork
from grey_current.air.fan import curve_pressure, shaft_power
from grey_current.air.laws import Cases
from grey_current.air.network import Network
from grey_current.air.pieces import Piece, Straight
from grey_current.air.solver import Solved
from grey_current.air.tables import Table
from grey_current.design.collector.noise import beside, changed_by
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.fittings import fan_curve
from grey_current.design.flow.scenarios import Scenario, arrangement, gate_settings
from grey_current.design.supply.circuits import draw
from grey_current.shop.machines import Measured
from grey_current.shop.model import Project
from grey_current.shop.names import Names

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Spread:
    """What may be otherwise than the table says: its name, words, the deviation of its logarithm,
    and for what each.

    `freedom` is that of Student's t where one in many is far off; None for normal ones.
    """

    name: str
    words: str
    sigma: float
    each: str
    reason: str
    freedom: float | None = None


@cache
def spreads() -> dict[str, Spread]:
    """The spreads by name."""
    raw: dict[str, Any] = json.loads(
        (files("grey_current.keep") / "data" / "spreads.json").read_text(encoding="utf-8")
    )
    return {item["name"]: Spread(**item) for item in raw["spreads"]}


@dataclass(frozen=True)
class Unknown:
    """One thing that is not known for sure: its key, in words, and the deviation of its
    logarithm with the freedom of that.
    """

    key: str
    words: str
    sigma: float
    freedom: float = math.inf


# Share of its full current that a motor draws without load. Allowance.
IDLING = 0.35
KINDS: tuple[tuple[type[Piece] | tuple[type[Piece], ...], str], ...] = (
    ((pieces.Hose, pieces.CollectorHose, pieces.HoseBend), "hose"),
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
    owner = {
        "collector": collector,
        "pickup": piece.id.rpartition("/")[0],
        "run": piece.source_id,
    }.get(each, "")
    # Pieces with one owner are off together: all elbows of a maker, the hoses of one run.
    return f"{name}/{owner}" if owner else name


# Unknowns of the whole shop whose pieces can be scaled run by run besides: a plug or a hole is in
# one of them.
PER_RUN = ("duct", "duct leak")


def group_of(piece: Piece, collector: str) -> str:
    """What scales a piece: its unknown, and its run where it has one to itself."""
    key = unknown_of(piece, collector)
    return f"{key}/{piece.source_id}" if key in PER_RUN else key


def shared(group: str) -> str:
    """The unknown that a group belongs to."""
    name = group.partition("/")[0]
    return name if name in PER_RUN else group


def factor_of(factors: Mapping[str, float], group: str) -> float:
    """The factor of a group: that of its unknown, times its own."""
    key = shared(group)
    return factors.get(group, 1.0) * (factors.get(key, 1.0) if key != group else 1.0)


@dataclass(frozen=True)
class Part:
    """One collector's network in one arrangement of hoses, and the scenarios that it answers.

    `start` are the leaves' flows (S, leaf) by the tables, `keys` the unknowns that scale what
    pieces take, `key_of` their numbers by piece; what a shut gate or a leak takes follows from its
    flow alone and has the first, empty one.
    """

    collector: str
    network: Network
    drawn: DrawnNetwork
    scenarios: tuple[Scenario, ...]
    gates: NDArray[np.bool_]
    start: Array
    keys: tuple[str, ...]
    key_of: NDArray[np.intp]
    # The runs that end at the collector.
    into: tuple[str, ...]

    def uses(self) -> Iterator[tuple[int, str, int]]:
        """Yield each pickup in use: the row of its scenario, its reference, and its leaf."""
        for row, scenario in enumerate(self.scenarios):
            for (machine, pickup), leaf in self.network.leaf_of_pickup.items():
                if scenario.uses(machine, pickup):
                    yield row, f"{machine}/{pickup}", leaf

    @cached_property
    def row_of(self) -> dict[str, int]:
        """The scenario in which a machine runs alone."""
        return {
            # Backwards, so that of several working places the first one stays.
            s.running[0]: row
            for row, s in reversed(list(enumerate(self.scenarios)))
            if len(s.running) == 1
        }

    @cached_property
    def fans(self) -> tuple[int, ...]:
        """The pieces that are the collector's fan."""
        found = enumerate(self.network.pieces)
        return tuple(
            i for i, p in found if isinstance(p, pieces.Fan) and p.source_id == self.collector
        )

    @cached_property
    def piece_of(self) -> dict[str, int]:
        """The first straight piece of every run: where a test hole would be."""
        pieces_ = list(enumerate(self.network.pieces))
        return {p.source_id: i for i, p in reversed(pieces_) if isinstance(p, Straight)}

    @cached_property
    def inlet(self) -> tuple[int, NDArray[np.intp]] | None:
        """A straight piece of the run that goes into the collector, and the pieces behind that run;
        None without any.
        """
        # A gauge beside the collector reads behind its whole first run, not half-way along it.
        for run in self.into:
            if run in self.piece_of:
                index = self.piece_of[run]
                own = {i for i, p in enumerate(self.network.pieces) if p.source_id == run}
                behind = [i for i in self.after[index] if i not in own]
                return index, np.array(behind, dtype=np.intp)
        return None

    @cached_property
    def after(self) -> dict[int, NDArray[np.intp]]:
        """The pieces from each of those to the exhaust, without itself."""
        return {
            i: np.array(_to_exhaust(self.network, i)[1:], dtype=np.intp)
            for i in self.piece_of.values()
        }

    def only(self, machines: frozenset[str]) -> Part | None:
        """The part with the scenarios in which one of some machines runs alone; None where there
        are none.
        """
        rows = [
            n
            for n, s in enumerate(self.scenarios)
            if len(s.running) == 1 and s.running[0] in machines
        ]
        if not rows:
            return None
        chosen = tuple(self.scenarios[n] for n in rows)
        return replace(self, scenarios=chosen, gates=self.gates[rows], start=self.start[rows])


class Model:
    """All scenarios that the shop counts with, for any factors of what is not known."""

    def __init__(self, now: Assessment) -> None:
        self.project = now.project
        self.parts = _parts(now.counted)
        self.curves = {
            part.collector: fan_curve(self.project.collector[part.collector].fan, part.network.air)
            for part in self.parts
        }
        self.unknowns = tuple(_unknowns(self.project, self.parts))
        self.place = {unknown.key: number for number, unknown in enumerate(self.unknowns)}
        # As arrays, in one order: a fit works on vectors.
        self.sigma = np.array([unknown.sigma for unknown in self.unknowns])
        self.freedom = np.array([unknown.freedom for unknown in self.unknowns])
        self.pickups = tuple(
            (part.scenarios[row], ref, part.collector)
            for part in self.parts
            for row, ref, _ in part.uses()
        )

    def factors(self, theta: Array) -> dict[str, float]:
        """The factors of a vector of logarithms, in the order of `unknowns`."""
        each = np.exp(theta)
        return {unknown.key: float(f) for unknown, f in zip(self.unknowns, each, strict=True)}

    def only(self, machines: frozenset[str]) -> Model:
        """The same model with the scenarios of some machines alone: quicker where only they are
        asked about.
        """
        made = copy.copy(self)
        made.parts = [
            part for part in (item.only(machines) for item in self.parts) if part is not None
        ]
        return made

    def solved(self, factors: Mapping[str, float], near: View | None = None) -> list[Solved]:
        """The networks solved with factors; rows as each part's scenarios. From the flows of a view
        that is near.
        """
        found = []
        for number, part in enumerate(self.parts):
            mine = {group: factor_of(factors, group) for group in part.drawn.groups}
            mine |= {
                # A fan is off along both of its axes, each by itself.
                name: factors.get(f"{name}/{part.collector}", 1.0)
                for name in (FAN_PRESSURE, FAN_FLOW)
            }
            # From flows that are near: two or three steps of Newton's method instead of six.
            start = part.start
            if near is not None and near.solved[number].converged.all():
                start = near.solved[number].flow[:, part.network.tree.leaves]
            outcome = part.drawn.solve(mine, part.gates, start)
            given = _cases(part, factors)
            found.append(
                Solved(
                    part.network,
                    given,
                    outcome.converged,
                    outcome.iterations,
                    outcome.residual,
                    outcome.flow,
                )
            )
        return found

    def airflows(self, factors: Mapping[str, float]) -> Array:
        """The airflow of every pickup in use (m³/s), in the order of `pickups`; NaN where there is
        no answer.
        """
        return self.view(factors).airflows()

    def view(self, factors: Mapping[str, float], near: View | None = None) -> View:
        """The shop solved with factors, to be asked for airflows and readings; quicker from a view
        that is near.
        """
        return View(self, factors, self.solved(factors, near))


class View:
    """The shop as it is with some factors. Lost pressures are worked out once for each scenario
    that is asked about.
    """

    def __init__(self, model: Model, factors: Mapping[str, float], solved: list[Solved]) -> None:
        self.model, self.factors, self.solved = model, factors, solved
        self._lost: dict[tuple[int, int], Array] = {}
        self._each: dict[int, Array] = {}

    def airflows(self) -> Array:
        """The airflow of every pickup in use (m³/s), in the order of the model's `pickups`."""
        flows: list[float] = []
        for part, solved in zip(self.model.parts, self.solved, strict=True):
            flows += [float(solved.flow[row, leaf]) for row, _, leaf in part.uses()]
        return np.array(flows)

    def value(self, kind: str, machine: str, place: str) -> float:
        """What a reading would be (SI) while a machine runs alone; NaN where there is no air for
        it.
        """
        for number, part in enumerate(self.model.parts):
            row = part.row_of.get(machine)
            if row is not None and self.solved[number].converged[row]:
                found = self._value(kind, number, row, place)
                if np.isfinite(found):
                    return found
        return float("nan")

    def _value(self, kind: str, number: int, row: int, place: str) -> float:
        part, solved = self.model.parts[number], self.solved[number]
        network = part.network
        if kind == "airflow":
            machine, _, pickup = place.partition("/")
            leaf = network.leaf_of_pickup.get((machine, pickup))
            return float(solved.flow[row, leaf]) if leaf is not None else float("nan")
        if kind == "motor current":
            return self._current(number, row) if place == part.collector else float("nan")
        if kind == "sound":
            return self._sound(number, row) if place == part.collector else float("nan")
        if kind == "filter drop":
            # A collector has one filter, wherever it stands.
            index = next(
                (i for i, p in enumerate(network.pieces) if isinstance(p, pieces.Filter)), None
            )
            if index is not None and place == part.collector:
                return float(self.losses(number, row)[index])
            return float("nan")
        inlet = part.inlet if place == part.collector else None
        index = part.piece_of.get(place) if inlet is None else inlet[0]
        if index is None:
            return float("nan")
        # A gauge at the wall reads static pressure: velocity pressure less all that is lost from
        # there to the open.
        velocity = float(solved.piece_flow[row, index] / network.areas[index])
        if kind == "velocity":
            return velocity
        lost = self.losses(number, row)
        if inlet is not None:
            total = float(lost[inlet[1]].sum())
        else:
            # Half way along the run.
            total = float(lost[part.after[index]].sum() + lost[index] / 2)
        return network.air.density / 2 * velocity**2 - total

    def _current(self, number: int, row: int) -> float:
        """What a collector's motor draws (A): with its shaft's power, from idling on. NaN for an
        unknown motor.

        A drawn curve's power goes with both of its axes.
        """
        part, solved = self.model.parts[number], self.solved[number]
        item = self.model.project.collector[part.collector]
        rated = draw(self.model.project, item)
        if rated is None or item.motor is None:
            return float("nan")
        flow = float(solved.piece_flow[row, part.fans[0]])
        times = self.factors.get(f"{FAN_PRESSURE}/{part.collector}", 1.0)
        power = times * shaft_power(self.model.curves[part.collector], flow, item.motor.power)
        return rated.amps * (IDLING + (1 - IDLING) * power / item.motor.power)

    def _sound(self, number: int, row: int) -> float:
        """The collector's sound 1 m from it (dB(A)): its own at half its free delivery, by airflow
        and pressure.
        """
        part, solved, project = self.model.parts[number], self.solved[number], self.model.project
        item, fan = project.collector[part.collector], part.fans[0]
        known, curve = beside(project, item), self.model.curves[part.collector]
        usual = curve.free_delivery / 2
        flow, lift = float(solved.piece_flow[row, fan]), -float(self.losses(number, row)[fan])
        if min(flow, lift, usual) <= 0:
            return float("nan")
        # Sound power goes with airflow and the square of the pressure; the factor is what this one
        # is louder.
        louder = 20 * float(np.log10(self.factors.get(f"sound/{part.collector}", 1.0)))
        return (
            known.level
            + louder
            + changed_by(flow / usual, lift / float(curve.pressure(np.array([usual]))[0][0]))
        )

    def losses(self, number: int, row: int) -> Array:
        """What every piece of a part takes (Pa) in one of its scenarios."""
        if (number, row) not in self._lost:
            part = self.model.parts[number]
            if number not in self._each:
                self._each[number] = np.array([factor_of(self.factors, key) for key in part.keys])
            self._lost[number, row] = _scaled_losses(
                part, self.solved[number], row, self.factors, self._each[number]
            )
        return self._lost[number, row]


def _cases(part: Part, factors: Mapping[str, float]) -> Cases:
    pressure = factors.get(f"{FAN_PRESSURE}/{part.collector}", 1.0)
    return Cases(part.gates, np.full(len(part.gates), pressure), np.ones(len(part.gates)))


def _parts(now: Assessment) -> list[Part]:
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
                [
                    a.systems[collector].solved.flow[a.systems[collector].row, network.tree.leaves]
                    for a in answers
                ]
            )
            drawn = DrawnNetwork(network, lambda piece, own=collector: group_of(piece, own))  # type: ignore[misc]
            found.append(
                Part(
                    collector,
                    network,
                    drawn,
                    scenarios,
                    gates,
                    start,
                    *_scaled_by(network, collector),
                    tuple(run.id for run in project.runs if collector in run.ends),
                )
            )
    return found


def _scaled_by(network: Network, collector: str) -> tuple[tuple[str, ...], NDArray[np.intp]]:
    """The unknowns that scale what pieces take, an empty one first, and the number of each piece's
    own.
    """
    own = [
        "" if isinstance(piece, pieces.BlastGate | pieces.Leakage) else group_of(piece, collector)
        for piece in network.pieces
    ]
    keys = tuple(dict.fromkeys(["", *own]))
    return keys, np.array([keys.index(key) for key in own], dtype=np.intp)


def _unknowns(project: Project, parts: list[Part]) -> list[Unknown]:
    names, known = Names(project), spreads()
    keys: dict[str, None] = {}
    for part in parts:
        keys |= dict.fromkeys(
            (
                f"{FAN_PRESSURE}/{part.collector}",
                f"{FAN_FLOW}/{part.collector}",
                f"sound/{part.collector}",
            )
        )
        # In the order of the ducts: the same shop has the same vector each time.
        keys |= dict.fromkeys(shared(group) for group in part.drawn.groups if group)
    found = []
    for key in keys:
        name, _, owner = key.partition("/")
        spread = known[
            "measured intake" if name == "intake" and _measured(project, owner) else name
        ]
        if not owner or spread.each == "collector":
            words = spread.words
        else:
            words = f"{spread.words}, {names.of(owner)}"
        found.append(Unknown(key, words, spread.sigma, spread.freedom or math.inf))
    return found


def _measured(project: Project, pickup: str) -> bool:
    """Whether what a machine takes at a pickup was measured, which leaves less doubt than its
    openings.
    """
    return pickup in project.pickup and isinstance(project.pickup[pickup][1].intake, Measured)


def _scaled_losses(
    part: Part, solved: Solved, row: int, factors: Mapping[str, float], each: Array
) -> Array:
    """What every piece takes (Pa) with factors; a fan's is negative. Shut gates by their leak."""
    # All but the fan is scaled by one multiplication.
    lost: Array = solved.loss[row] * each[part.key_of]
    flow = factors.get(f"{FAN_FLOW}/{part.collector}", 1.0)
    for i in part.fans:
        lift = _lift(solved.network.piece_table, i, float(solved.piece_flow[row, i]) / flow)
        lost[i] = -lift * factors.get(f"{FAN_PRESSURE}/{part.collector}", 1.0)
    return lost


def _lift(table: Table, slot: int, flow: float) -> float:
    number = next(n for n, (own, _) in enumerate(table.fan_at) if own == slot)
    rows = table.knots[table.fan_start[number] : table.fan_start[number + 1]]
    return float(curve_pressure(rows, np.array([flow]))[0][0])


def _to_exhaust(network: Network, piece: int) -> list[int]:
    """The pieces from one to the exhaust, itself first."""
    branch = int(network.branch_of_piece[piece])
    inside = [i for i in network.pieces_of_branch[branch] if i >= piece]
    after = [i for b in network.branch_path(branch)[1:] for i in network.pieces_of_branch[b]]
    return [*inside, *after]

"""Figures of the open shop for the pages of reasons, in its units; what a shop has not is left out.

Each function gives one figure in words, or None where the shop has nothing of it.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property

from grey_current.air import laws
from grey_current.air import pieces as kinds
from grey_current.air.needs import DesignCriterion
from grey_current.design.collector.fit import days_to_empty, full_bin
from grey_current.design.collector.make_up_air import make_up_air, most_depression
from grey_current.design.flow.assessment import Assessment, PickupAir, ScenarioAir, System
from grey_current.design.flow.fittings import fan_curve
from grey_current.design.flow.scenarios import need
from grey_current.design.improve.duct_changes import main_runs
from grey_current.design.improve.gate_changes import open_branches
from grey_current.design.parts.takeoffs import is_hose
from grey_current.design.supply.circuits import draw
from grey_current.numerals import decimal
from grey_current.shop.collectors import Collector
from grey_current.shop.edits import with_settings
from grey_current.shop.hoses import hose_mass
from grey_current.shop.names import Names
from grey_current.shop.places import distance, position
from grey_current.shop.roofs import volume
from grey_current.units import Display


class ShopFigures:
    """What the figures are read off: the machine that gets the least of its need, running alone,
    and the collector that moves most.
    """

    def __init__(self, now: Assessment) -> None:
        self.now, self.project = now, now.project
        self.display = Display(now.project.settings.units)

    @cached_property
    def worst(self) -> tuple[ScenarioAir, PickupAir] | None:
        """The connected pickup that gets the least of its need."""
        pairs = [
            (answer, answer.worst)
            for answer in self.now.of_machine.values()
            if answer.converged and answer.worst is not None
        ]
        return min(pairs, key=lambda pair: pair[1].share, default=None)

    @cached_property
    def busiest(self) -> tuple[Collector, System] | None:
        """The collector that moves the most air, with the scenario's answer in which it does."""
        systems = [
            (self.project.collector[ident], system)
            for answer in self.now.answers
            for ident, system in answer.systems.items()
            if system.converged
        ]
        return max(systems, key=lambda pair: pair[1].airflow, default=None)

    def taken_by(self, kind: type[kinds.Piece]) -> float | None:
        """Pressure (Pa) that the busiest collector's pieces of a kind take."""
        if self.busiest is None:
            return None
        system = self.busiest[1]
        losses = [
            system.losses[i] for i, p in enumerate(system.network.pieces) if isinstance(p, kind)
        ]
        return sum(losses) if losses else None

    def worst_words(self) -> str | None:
        """The machine that gets the least of its need."""
        if self.worst is None:
            return None
        return f"the {self.project.machine[self.worst[1].machine].name.lower()}"

    def main_system(self) -> tuple[ScenarioAir, PickupAir, list[str]] | None:
        """The worst pickup with the pipes of the main that its air passes."""
        if self.worst is None:
            return None
        answer, p = self.worst
        runs = main_runs(self.project).get(p.collector or "", [])
        return (answer, p, runs) if runs else None


def _air(shop: ShopFigures) -> str | None:
    return shop.display.airflow(shop.busiest[1].airflow) if shop.busiest else None


def _collector(shop: ShopFigures) -> str | None:
    return f"the {shop.busiest[0].name.lower()}" if shop.busiest else None


def _claim(shop: ShopFigures) -> str | None:
    """What the fan would move with nothing on it."""
    if shop.busiest is None:
        return None
    points = fan_curve(shop.busiest[0].fan, shop.now.air).points
    return shop.display.airflow(max(airflow for airflow, _ in points))


def _filter(shop: ShopFigures) -> str | None:
    taken = shop.taken_by(kinds.Filter)
    return shop.display.pressure(taken) if taken else None


def _filter_share(shop: ShopFigures) -> str | None:
    taken = shop.taken_by(kinds.Filter)
    if not taken or shop.busiest is None:
        return None
    return f"{taken / max(shop.busiest[1].fan_static, 1.0):.0%}"


def _separator(shop: ShopFigures) -> str | None:
    taken = shop.taken_by(kinds.Separator)
    return shop.display.pressure(taken) if taken else None


def _cloth_speed(shop: ShopFigures) -> str | None:
    if shop.busiest is None or shop.busiest[0].filter.kind == "none":
        return None
    speed = shop.busiest[1].airflow / shop.busiest[0].filter.area
    return (
        f"{60 * speed / 0.3048:.0f} ft/min"
        if shop.display.us
        else f"{decimal(60 * speed, 1)} m/min"
    )


def _got(shop: ShopFigures) -> str | None:
    return shop.display.airflow(max(shop.worst[1].airflow, 0.0)) if shop.worst else None


def _need(shop: ShopFigures) -> str | None:
    return shop.display.airflow(shop.worst[1].need.airflow) if shop.worst else None


def _need_by(criterion: DesignCriterion) -> Callable[[ShopFigures], str | None]:
    """What the worst pickup needs by one of the two schools."""

    def figure(shop: ShopFigures) -> str | None:
        if shop.worst is None:
            return None
        p = shop.worst[1]
        pickup = shop.project.pickup[f"{p.machine}/{p.pickup}"][1]
        settings = with_settings(shop.project, criterion=criterion).settings
        return shop.display.airflow(need(pickup.replaced(need=None), settings).airflow)

    return figure


def _machines(shop: ShopFigures) -> str | None:
    return str(len(shop.now.asking)) if shop.now.asking else None


def _met(shop: ShopFigures) -> str | None:
    if not shop.now.of_machine:
        return None
    return str(sum(answer.met for answer in shop.now.of_machine.values()))


def _collectors(shop: ShopFigures) -> str | None:
    count = len(shop.project.collectors)
    if not count:
        return None
    return "one collector" if count == 1 else f"{count} collectors"


def _open_branches(shop: ShopFigures) -> str | None:
    count = len(open_branches(shop.project))
    if not count:
        return None
    return "one branch is" if count == 1 else f"{count} branches are"


def _left_open(shop: ShopFigures) -> str | None:
    names = Names(shop.project)
    return ", ".join(names.of(g.id) for g in shop.project.gates if g.rule == "left open") or None


def _leak(shop: ShopFigures) -> str | None:
    """Air through all gates that are shut while the worst machine runs."""
    if shop.worst is None:
        return None
    passed = [
        abs(system.airflows[i])
        for system in shop.worst[0].systems.values()
        if system.converged
        for i, piece in enumerate(system.network.pieces)
        if isinstance(piece.law, laws.Gate) and not system.gate_open(piece)
    ]
    return shop.display.airflow(sum(passed)) if passed else None


def _main(shop: ShopFigures) -> str | None:
    found = shop.main_system()
    if found is None:
        return None
    return shop.display.diameter(max(shop.project.run[run].diameter for run in found[2]))


def _main_speed(shop: ShopFigures) -> str | None:
    """The slowest air in the part of the main that the worst machine's air passes."""
    found = shop.main_system()
    if found is None:
        return None
    answer, p, runs = found
    system = answer.systems[p.collector or ""]
    network = system.network
    path = network.path(p.leaf or 0)
    speeds = [abs(system.velocity(i)) for i in path if network.pieces[i].source_id in runs]
    return shop.display.velocity(min(speeds)) if speeds else None


def _main_height(shop: ShopFigures) -> str | None:
    """The height at which most of the pipe runs level."""
    levels: dict[float, float] = {}
    for run in shop.project.runs:
        a, b = (position(shop.project, end) for end in run.ends)
        if not is_hose(run) and abs(a[2] - b[2]) < 0.02:
            levels[round(a[2], 2)] = levels.get(round(a[2], 2), 0.0) + distance(shop.project, run)
    if not levels:
        return None
    return shop.display.about(max(levels, key=lambda height: levels[height]))


def _longest_hose(shop: ShopFigures) -> tuple[str, float] | None:
    hoses = [
        (run.id, run.length or distance(shop.project, run))
        for run in shop.project.runs
        if is_hose(run)
    ]
    return max(hoses, key=lambda hose: hose[1], default=None)


def _hose_length(shop: ShopFigures) -> str | None:
    hose = _longest_hose(shop)
    return shop.display.about(hose[1]) if hose else None


def _hose_loss(shop: ShopFigures) -> str | None:
    """What the longest hose takes at the most air that passes it."""
    hose = _longest_hose(shop)
    taken = [
        sum(
            system.losses[i]
            for i, piece in enumerate(system.network.pieces)
            if hose is not None
            and piece.source_id == hose[0]
            and isinstance(piece, kinds.Hose | kinds.HoseBend)
        )
        for answer in shop.now.answers
        for system in answer.systems.values()
        if system.converged
    ]
    most = max(taken, default=0.0)
    return shop.display.pressure(most) if most > 0 else None


def _duct_leak(shop: ShopFigures) -> str | None:
    """Air that all joints take together in the scenario that loses most."""
    if not shop.now.answers or not shop.project.runs:
        return None
    lost = [
        sum(
            abs(system.airflows[i])
            for i, piece in enumerate(system.network.pieces)
            if isinstance(piece, kinds.Leakage)
        )
        for answer in shop.now.answers
        for system in answer.systems.values()
        if system.converged
    ]
    most = max(lost, default=0.0)
    return shop.display.airflow(most) if most > 0 else "none: the joints count as tight"


def _pipe_metres(shop: ShopFigures) -> str | None:
    length = sum(distance(shop.project, r) for r in shop.project.runs if not is_hose(r))
    return shop.display.far(length) if length else None


def _depression(shop: ShopFigures) -> str | None:
    if not any(item.takes_air_away for item in shop.project.collectors):
        return None
    return shop.display.pressure(most_depression(shop.now))


def _heat(shop: ShopFigures) -> str | None:
    """Heat that would be carried outdoors."""
    if shop.busiest is None:
        return None
    outdoors = shop.busiest[0].replaced(exhausts="outdoors")
    made = make_up_air(shop.project, outdoors, shop.busiest[1].airflow, shop.now.air)
    return f"{decimal(made.heat / 1000, 1)} kW" if made.heat > 0 else None


def _bin_days(shop: ShopFigures) -> str | None:
    if shop.busiest is None:
        return None
    days = days_to_empty(shop.project, shop.busiest[0])
    return f"{decimal(days, 1)} days" if days is not None else None


def _bin_weight(shop: ShopFigures) -> str | None:
    """What a full bin weighs, of the collector that moves most."""
    full = full_bin(shop.busiest[0]) if shop.busiest is not None else None
    return shop.display.mass(full) if full is not None else None


def _hose_weight(shop: ShopFigures) -> str | None:
    hose = _longest_hose(shop)
    if hose is None:
        return None
    return shop.display.mass(hose_mass(shop.project.run[hose[0]].diameter, hose[1]))


def _amps(shop: ShopFigures) -> str | None:
    """The current of the collector that moves most."""
    drawn = draw(shop.project, shop.busiest[0]) if shop.busiest is not None else None
    return f"{drawn.amps:.0f} A at {drawn.volts:.0f} V" if drawn is not None else None


def _volume(shop: ShopFigures) -> str | None:
    return shop.display.room(sum(volume(room) for room in shop.project.rooms))


FIGURES: dict[str, Callable[[ShopFigures], str | None]] = {
    "air": _air,
    "amps": _amps,
    "bin_days": _bin_days,
    "bin_weight": _bin_weight,
    "claim": _claim,
    "cloth_speed": _cloth_speed,
    "collector": _collector,
    "collectors": _collectors,
    "depression": _depression,
    "duct_leak": _duct_leak,
    "filter": _filter,
    "filter_share": _filter_share,
    "got": _got,
    "heat": _heat,
    "hose_length": _hose_length,
    "hose_loss": _hose_loss,
    "hose_weight": _hose_weight,
    "leak": _leak,
    "left_open": _left_open,
    "machines": _machines,
    "main": _main,
    "main_height": _main_height,
    "main_speed": _main_speed,
    "met": _met,
    "need": _need,
    "need_chips": _need_by("clear chips"),
    "need_fine": _need_by("catch fine dust"),
    "open_branches": _open_branches,
    "pipe_metres": _pipe_metres,
    "separator": _separator,
    "volume": _volume,
    "worst": ShopFigures.worst_words,
}

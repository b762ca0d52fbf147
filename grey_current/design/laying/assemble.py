"""A layout made into ducts: points, runs, gates and hoses added to a project, not yet sized."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from dataclasses import dataclass, field

from grey_current.design.laying.drops import LEAST_DROP, least_hose
from grey_current.design.laying.inlet import Inlet
from grey_current.design.laying.routes import Layout, OntoLeg, OntoRun, RoutedBranch, Target
from grey_current.shop.catalogue import size_for_port
from grey_current.shop.design_parts import LISTS
from grey_current.shop.duct_edits import split, upright
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.edits import fresh_id
from grey_current.shop.hoses import cut_length
from grey_current.shop.laying import LayingChoices
from grey_current.shop.model import Project
from grey_current.shop.person import reach_up
from grey_current.shop.places import XY, position
from grey_current.shop.room import share_along

HOSE = "ribbed-hose"
# Diameters of pipe between a wye and a gate that sits at it.
GATE_FROM_WYE = 2.5
# Share of a drop at which a gate sits that is at the tool.
GATE_AT = 0.5
# m at which a lever is handy, and m over a drop's foot below which the elbow there leaves a gate no
# room: with ease, and just so, which is better than a lever that no hand reaches. Allowances.
HANDY, OVER_FOOT, CLOSE_TO_FOOT = 1.6, 0.45, 0.35
# m by which a lever hangs lower than the hand reaches.
IN_HAND = 0.03


def assembled(
    base: Project, layout: Layout, inlet: Inlet | None, bore: float
) -> tuple[Project, frozenset[str]]:
    """The project with a layout's ducts in one bore (m), its hoses in their ports' sizes, and its
    gates; its new runs.

    `inlet` is the collector's first duct, None where the collector has one that stays. Raises what
    the model raises.
    """
    made = _Assembly(base, layout, inlet, bore)
    return made.project, frozenset(run.id for run in made.runs)


@dataclass
class _Assembly:
    base: Project
    layout: Layout
    inlet: Inlet | None
    bore: float
    points: list[Point] = field(default_factory=list)
    runs: list[Run] = field(default_factory=list)
    gates: list[Gate] = field(default_factory=list)

    def __post_init__(self) -> None:
        self._names: dict[str, int] = {}
        self._taken: set[str] = {item.id for name in LISTS for item in getattr(self.base, name)}
        self._joints: dict[tuple[Target, XY], str] = {}
        self._shared = _shared(self.layout.legs)
        self.project = self._made()

    def _made(self) -> Project:
        base = self._split_trunks()
        self.base = base
        top = self._collector_end() if self.inlet is not None else None
        joined: dict[int, list[XY]] = defaultdict(list)
        for leg in self.layout.legs:
            if isinstance(leg.target, OntoLeg):
                joined[leg.target.number].append(leg.places[-1])
        for number, leg in enumerate(self.layout.legs):
            self._leg(number, leg, joined[number], top)
        return base.replaced(
            points=(*base.points, *self.points),
            runs=(*base.runs, *self.runs),
            gates=(*base.gates, *self.gates),
        )

    def _name(self, wanted: str) -> str:
        """A free id like the one that is wanted."""
        base = fresh_id(self.base, wanted) if wanted not in self._names else wanted
        number = self._names.get(wanted, 0)
        name = base if number == 0 else f"{wanted}-{number + 1}"
        while name in self._taken:
            number += 1
            name = f"{wanted}-{number + 1}"
        self._names[wanted] = number + 1
        self._taken.add(name)
        return name

    def _point(self, name: str, place: XY, height: float) -> str:
        ident = self._name(name)
        self.points.append(
            Point(id=ident, x=round(place[0], 4), y=round(place[1], 4), height=round(height, 4))
        )
        return ident

    def _run(self, name: str, start: str, end: str) -> Run:
        material = self.base.laying.material
        run = Run(id=self._name(name), start=start, end=end, diameter=self.bore, material=material)
        self.runs.append(run)
        return run

    def _split_trunks(self) -> Project:
        """The ducts that stay, with a joint wherever a leg joins one."""
        project = self.base
        stops: dict[str, list[tuple[float, XY]]] = defaultdict(list)
        for leg in self.layout.legs:
            if isinstance(leg.target, OntoRun):
                run = project.run[leg.target.run]
                a, b = position(project, run.start)[:2], position(project, run.end)[:2]
                stops[run.id].append((share_along(leg.places[-1], a, b), leg.places[-1]))
        for run_id, places in stops.items():
            last = 1.0
            # From the downstream end back: a run that is split keeps its upstream part, whose
            # shares then count anew.
            for share, place in sorted(places, reverse=True):
                project, joint = split(project, run_id, share / last)
                self._joints[OntoRun(run_id), place] = joint
                last = share
        self._taken |= {item.id for name in ("points", "runs") for item in getattr(project, name)}
        return project

    def _collector_end(self) -> str:
        """The first duct of the collector; returns the point at which its main arrives."""
        inlet = self.inlet
        assert inlet is not None
        if inlet.heading is None:
            top = self._point("riser-top", inlet.foot, inlet.height)
            self._run("riser", top, inlet.collector)
            return top
        foot = self._point("inlet-corner", inlet.foot, inlet.inlet[2])
        self._run("inlet", foot, inlet.collector)
        if inlet.level:
            return foot
        top = self._point("riser-top", inlet.foot, inlet.height)
        self._run("riser", top, foot)
        return top

    def _leg(self, number: int, leg: RoutedBranch, joined: list[XY], top: str | None) -> None:
        """The runs of one leg, from its port to where it joins."""
        base = leg.ref.replace("/", "-")
        height = self.layout.height
        stations = _stations(leg, joined)
        # A joint at the drop, at each turn and wherever another branch joins.
        names = [self._point(f"{base}-top", stations[0], height)]
        for place in stations[1:-1]:
            shared = place in joined
            names.append(self._point("wye" if shared else f"{base}-turn", place, height))
            if shared:
                self._joints[OntoLeg(number), place] = names[-1]
        names.append(self._end(leg, top))
        made = []
        for a, b, place in zip(names, names[1:], stations, strict=False):
            # What carries more than one pickup's air is called the main.
            name = "main" if self._serves(number, leg, place, joined) > 1 else f"{base}-branch"
            made.append(self._run(name, a, b))
        self._drop(leg, names[0], made, joined, stations)

    def _end(self, leg: RoutedBranch, top: str | None) -> str:
        if leg.target is None:
            assert top is not None
            return top
        return self._joints[leg.target, leg.places[-1]]

    def _serves(self, number: int, leg: RoutedBranch, place: XY, joined: list[XY]) -> int:
        """How many pickups' air passes the run that begins at a station."""
        here = _along(leg, place)
        more = [
            self._shared[other]
            for other, one in enumerate(self.layout.legs)
            if one.target == OntoLeg(number) and _along(leg, one.places[-1]) <= here + 1e-9
        ]
        return 1 + sum(more) if joined else 1

    def _drop(
        self, leg: RoutedBranch, top: str, made: list[Run], joined: list[XY], stations: list[XY]
    ) -> None:
        """The drop with its gate, and the hose to the port."""
        project, height = self.base, self.layout.height
        machine, pickup = project.pickup[leg.ref]
        base = leg.ref.replace("/", "-")
        port = position(project, leg.ref)
        end, foot_height = top, height
        drop: Run | None = None
        if abs(height - port[2]) >= LEAST_DROP:
            end, foot_height = (self._point(f"{base}-foot", stations[0], port[2]), port[2])
            drop = self._run(f"{base}-drop", end, top)
        # The gate belongs where no other branch's air passes.
        own = [
            run
            for run, place in zip(made, stations, strict=False)
            if not _behind_a_wye(leg, place, joined)
        ]
        self._gate(base, drop, own or made[:1], project.laying)
        away = math.dist(port, (*stations[0], foot_height))
        self.runs.append(
            Run(
                id=self._name(f"{base}-hose"),
                start=leg.ref,
                end=end,
                diameter=size_for_port(project, pickup.port),
                material=HOSE,
                length=max(cut_length(project, away), least_hose(machine, pickup)),
            )
        )

    def _gate(self, base: str, drop: Run | None, own: list[Run], choices: LayingChoices) -> None:
        run, at = (drop or own[0]), GATE_AT
        if drop is not None:
            at = self._within_reach(drop)
        if choices.gates == "at the wye":
            run = own[-1]
            places = {point.id: (point.x, point.y) for point in (*self.base.points, *self.points)}
            length = math.dist(places[run.start], places[run.end])
            at = max(0.5, 1 - GATE_FROM_WYE * self.bore / length)
        self.gates.append(Gate(id=self._name(f"gate-{base}"), run=run.id, at=round(at, 4)))

    def _within_reach(self, drop: Run) -> float:
        """The share of a drop at which a gate sits: in its middle, lower where no hand would reach
        that.
        """
        heights = {point.id: point.height for point in (*self.base.points, *self.points)}
        low, high = heights[drop.start], heights[drop.end]
        if high <= low:
            return GATE_AT
        within_reach = reach_up(self.base.settings) - IN_HAND - low
        over_foot = max(CLOSE_TO_FOOT, min(OVER_FOOT, within_reach))
        return min(GATE_AT, max(HANDY - low, over_foot) / (high - low))


def with_levers_as_high(before: Project, after: Project) -> Project:
    """The later project with the gates on its drops as high over the feet as they were before a
    main was lifted or lowered: so that a lever stays within reach.
    """
    gates = tuple([_as_high(before, after, gate) for gate in after.gates])
    return after.replaced(gates=gates) if gates != after.gates else after


def _as_high(before: Project, after: Project, gate: Gate) -> Gate:
    """A gate that is as high over its drop's foot as it was, but no higher than its middle."""
    was, drop = before.run.get(gate.run), after.run[gate.run]
    if was is None or not (upright(after, drop) and upright(before, was)):
        return gate
    (low, high), (foot, top) = _heights(before, was), _heights(after, drop)
    # Where the foot itself is elsewhere, the gate goes with it.
    if low != foot or high == top or foot >= top:
        return gate
    return gate.replaced(at=round(min(gate.at * (high - low) / (top - foot), GATE_AT), 4))


def _heights(project: Project, run: Run) -> tuple[float, float]:
    return position(project, run.start)[2], position(project, run.end)[2]


def _shared(legs: tuple[RoutedBranch, ...]) -> list[int]:
    """How many pickups' air passes the end of each leg."""
    counts = [1] * len(legs)
    for number in range(len(legs) - 1, -1, -1):
        target = legs[number].target
        if isinstance(target, OntoLeg):
            counts[target.number] += counts[number]
    return counts


def _along(leg: RoutedBranch, place: XY) -> float:
    """How far (m) along a leg a place on it lies."""
    best, done = (math.inf, 0.0), 0.0
    for a, b in itertools.pairwise(leg.places):
        share, length = share_along(place, a, b), math.dist(a, b)
        away = math.dist(place, (a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share))
        best = min(best, (round(away, 6), done + share * length))
        done += length
    return best[1]


def _stations(leg: RoutedBranch, joined: list[XY]) -> list[XY]:
    """Where a leg's runs begin and end: its corners and the wyes on it, in the way of the air."""
    inner = {*leg.places[1:-1], *joined}
    return [leg.places[0], *sorted(inner, key=lambda place: _along(leg, place)), leg.places[-1]]


def _behind_a_wye(leg: RoutedBranch, place: XY, joined: list[XY]) -> bool:
    return any(_along(leg, other) <= _along(leg, place) + 1e-9 for other in joined)

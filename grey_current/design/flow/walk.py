"""The walk from a collector's inlet outward, along which a network's pieces are laid one after the
other.

Along a branch it collects what it meets; where runs meet it makes a wye: the leg that goes
straightest on is the main, the others are branches. What lies along a branch is kept as a span, for
a later walk through the same ductwork.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence, Set
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple

from grey_current.air import fittings, laws, pieces
from grey_current.air.gas import Air
from grey_current.air.network import Branch, Network
from grey_current.air.pieces import Piece
from grey_current.design.flow import fittings as make
from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import Gate, Run
from grey_current.shop.model import Project
from grey_current.shop.places import position

HOSE_WYE_ANGLE = 45.0
"""Angle of a wye whose branch is a hose, which the drawing does not tell. Allowance."""
RISER_SLOPE = 0.5

Ends = Mapping[str, Sequence[Run]]
"""The runs that end at each point, pickup or collector."""
SpanKey = tuple[str, str]
"""The run by which a walk comes into a branch, and the end of it by which it comes."""


class JoinedLeg(NamedTuple):
    """A branch that begins at a wye: the pieces there in flow order, and the run that the walk goes
    on with, if any.

    `joins` counts in the legs of the same joint; -1 is the branch that all of them lead to.
    """

    joins: int
    pieces: tuple[Piece, ...]
    run: str | None


@dataclass(frozen=True)
class Span:
    """What lies along one branch, and what the walk went on with at `at`, its upstream end.

    `runs` are those that it passes; `switch` is the place of the machine's own fan at its end among
    the switches.
    """

    runs: frozenset[str]
    branch: Branch
    at: str
    legs: tuple[JoinedLeg, ...]
    switch: int | None

    def goes_on_as(self, other: Span) -> bool:
        """Whether the same branches begin at its upstream end, and the same pickup stands there."""
        mine, others = ([(leg.joins, leg.run) for leg in span.legs] for span in (self, other))
        ends = (self.at, self.branch.pickup, self.switch) == (
            other.at,
            other.branch.pickup,
            other.switch,
        )
        return ends and mine == others


Place = tuple[int, int]
"""Where a branch begins: at the upstream end of which other one, and as which of the legs there."""


@dataclass(frozen=True)
class Walked:
    """A network, the spans along its branches for a later walk, and where each of them lies.

    `entered` names each branch's span, None where the walk did not go along it; `begins` its place,
    the root's (-1, 0).
    """

    network: Network
    spans: Mapping[SpanKey, Span]
    entered: tuple[SpanKey | None, ...]
    begins: tuple[Place, ...]

    @cached_property
    def at(self) -> dict[Place, int]:
        """The branch that begins at a place."""
        return {place: branch for branch, place in enumerate(self.begins)}


@dataclass(slots=True)
class _Draft:
    """A branch under way, from its wye at the head on; pieces are collected against the flow and
    turned round at the end.
    """

    joins: int
    head: tuple[Piece, ...] = ()
    against: list[Piece] = field(default_factory=list)
    pickup: tuple[str, str] | None = None
    after_wye: bool = False
    goes_on: int | None = None
    """The branch that brings its air, where only a leaky seam lies between the two."""
    entered: SpanKey | None = None
    runs: list[str] = field(default_factory=list)
    end: tuple[str, tuple[JoinedLeg, ...]] = ("", ())
    switch: int | None = None
    begins: Place = (-1, 0)
    kept: Span | None = None
    """What an earlier walk found here, where nothing has changed since."""

    def add(self, *pieces: Piece) -> None:
        """Add pieces that stand in flow order, upstream of all that are there."""
        self.against.extend(reversed(pieces))


class _Lie(NamedTuple):
    """How a run lies now: its far end, the straight distance (m) between its ends, the flow's
    heading.
    """

    far: str
    straight: float
    heading: tuple[float, float, float]


class Walk:
    """One collector's walk through the ducts. `kept` are the spans of an earlier one that are as
    they were.
    """

    def __init__(
        self,
        project: Project,
        moved: Mapping[str, str],
        collector: Collector,
        air: Air,
        ends_at: Ends,
        kept: Mapping[SpanKey, Span],
    ) -> None:
        self.project, self.collector, self.air = project, collector, air
        self.moved, self.ends_at, self.kept = moved, ends_at, kept
        self.gates_on: dict[str, list[tuple[int, Gate]]] = defaultdict(list)
        for index, gate in enumerate(project.gates):
            self.gates_on[gate.run].append((index, gate))
        self.gates = tuple([gate.id for gate in project.gates])
        self.drafts: list[_Draft] = []
        self.own_fans: list[tuple[str, str]] = []
        self.lies: dict[str, _Lie] = {}
        self.from_inlet: float | None = 0.0

    def walked(self) -> Walked:
        """The network, and its spans for a later walk: none where ducts leak, which parts a branch
        at every seam.
        """
        first = self.ends_at[self.collector.id][0]
        self.drafts.append(self._root(first))
        pending = [(first, self.collector.id, 0)]
        while pending:
            run, near, branch = pending.pop()
            onward = self._resumed(run, near, branch)
            pending.extend(self._follow(run, near, branch) if onward is None else onward)
        branches = self._branches()
        network = Network(self.collector.id, branches, self.gates, self.air, tuple(self.own_fans))
        spans = {} if self.project.settings.duct_leakage else self._spans(branches)
        entered = tuple([draft.entered for draft in self.drafts])
        return Walked(network, spans, entered, tuple([draft.begins for draft in self.drafts]))

    def again(self, walked: Walked, stale: Set[str]) -> Walked | None:
        """The walk done again only along branches that a run in `stale` is part of; None where
        others begin now.
        """
        spans, changed = dict(walked.spans), dict[int, Branch]()
        for number, key in enumerate(walked.entered):
            if key is None or (was := walked.spans[key]).runs.isdisjoint(stale):
                continue
            parent, leg = walked.begins[number]
            above = walked.entered[parent] if parent >= 0 else None
            head = spans[above].legs[leg].pieces if above else ()
            span = self._along(
                key, _Draft(was.branch.joins, head), was.switch, walked.network.own_fans
            )
            if span is None or not span.goes_on_as(was):
                return None
            spans[key], changed[number] = (
                span,
                span.branch.joining(walked.network.branches[number].joins),
            )
            for place, (old, new) in enumerate(zip(was.legs, span.legs, strict=True)):
                begun = walked.at[number, place]
                if new.run is None:
                    pieces = make.with_spacing(new.pieces, math.inf)[0]
                    changed[begun] = Branch(pieces, walked.network.branches[begun].joins)
                elif new.run not in stale and old.pieces != new.pieces:
                    return None
        return Walked(walked.network.with_branches(changed), spans, walked.entered, walked.begins)

    def _along(
        self, key: SpanKey, draft: _Draft, switch: int | None, own_fans: Sequence[tuple[str, str]]
    ) -> Span | None:
        """What lies along one branch; None where it cannot be entered as it was. `switch` its own
        fan had before.
        """
        run, near = self.project.run.get(key[0]), key[1]
        if run is None or near not in (run.end, self.moved.get(run.id, run.start)):
            return None
        if near == self.collector.id:
            draft, self.from_inlet = self._root(run), 0.0
        else:
            self.from_inlet = None
        self.own_fans = [] if switch is None else list(own_fans[: switch - len(self.gates)])
        self.drafts, pending = [draft], [(run, near, 0)]
        while pending and not draft.end[0]:
            pending = self._follow(*pending[0])
        pieces, _ = make.with_spacing(
            (*draft.against[::-1], *draft.head), 0.0 if draft.after_wye else math.inf
        )
        return Span(
            frozenset(draft.runs),
            Branch(pieces, draft.joins, draft.pickup),
            *draft.end,
            draft.switch,
        )

    def _root(self, first: Run) -> _Draft:
        """The branch that goes through the collector, as far as its inlet, at which a run ends."""
        root = _Draft(joins=-1)
        root.add(*make.collector(self.collector, self.air))
        bores = first.diameter, self.collector.inlet
        own = self.collector.id
        step = make.reducer(f"{own}/adapter", own, *bores, self._roughness(first), True)
        if step:
            root.add(step)
        return root

    def _resumed(self, run: Run, near: str, branch: int) -> list[tuple[Run, str, int]] | None:
        """Pass a branch that is as an earlier walk found it; None where it is not. Answers as
        `_follow`.
        """
        draft = self.drafts[branch]
        if draft.entered is not None:  # in the middle of it
            return None
        draft.entered = run.id, near
        span = self.kept.get(draft.entered)
        if span is None or span.switch not in (None, self._next_switch):
            return None
        if span.switch is not None and span.branch.pickup:
            self.own_fans.append(span.branch.pickup)
        draft.kept, self.from_inlet = span, None
        return self._opened(branch, span.at, span.legs)

    @property
    def _next_switch(self) -> int:
        return len(self.gates) + len(self.own_fans)

    def _branches(self) -> tuple[Branch, ...]:
        """Every branch, its pieces with their allowances, worked out with the air: a seam parts no
        fittings.
        """
        made: list[Branch] = []
        clear = [math.inf] * len(self.drafts)
        for number in reversed(range(len(self.drafts))):
            draft = self.drafts[number]
            if draft.kept is not None:
                made.append(draft.kept.branch.joining(draft.joins))
                continue
            before = (
                0.0
                if draft.after_wye
                else math.inf
                if draft.goes_on is None
                else clear[draft.goes_on]
            )
            laid, clear[number] = make.with_spacing((*draft.against[::-1], *draft.head), before)
            made.append(Branch(laid, draft.joins, draft.pickup))
        return tuple(made[::-1])

    def _spans(self, branches: Sequence[Branch]) -> dict[SpanKey, Span]:
        return {
            draft.entered: draft.kept
            or Span(frozenset(draft.runs), branch, *draft.end, draft.switch)
            for draft, branch in zip(self.drafts, branches, strict=True)
            if draft.entered is not None
        }

    def _roughness(self, run: Run) -> float:
        return materials()[run.material].roughness

    def _hose(self, run: Run) -> bool:
        return materials()[run.material].hose

    def _lie(self, run: Run, near: str) -> _Lie:
        """How a run lies whose downstream end is `near`; the walk comes to each run by one end
        only.
        """
        if run.id not in self.lies:
            far = self.moved.get(run.id, run.start) if run.end == near else run.end
            a, b = position(self.project, far), position(self.project, near)
            length = math.dist(a, b)
            by = length or 1.0
            self.lies[run.id] = _Lie(
                far, length, ((b[0] - a[0]) / by, (b[1] - a[1]) / by, (b[2] - a[2]) / by)
            )
        return self.lies[run.id]

    def _follow(self, run: Run, near: str, branch: int) -> list[tuple[Run, str, int]]:
        """Pass a run upstream and whatever stands at its far end; answer the runs to follow
        next.
        """
        lie = self._lie(run, near)
        far = lie.far
        self.drafts[branch].runs.append(run.id)
        gates = tuple(self.gates_on.get(run.id, ()))
        rises = lie.heading[2] > RISER_SLOPE
        self.drafts[branch].add(*make.run_pieces(run, lie.straight, run.end == near, rises, gates))
        if self.from_inlet is not None:
            self.from_inlet += lie.straight
        branch = self._leaky(run, lie.straight, branch)
        draft = self.drafts[branch]
        upstream = [other for other in self.ends_at[far] if other.id != run.id]
        if far in self.project.pickup:
            self._end_at_pickup(draft, run, far)
            return []
        if not upstream:
            draft.add(make.open_end(self.project.point[far], run.diameter))
            return []
        if len(upstream) == 1:
            self._pass_point(draft, run, upstream[0], near, far)
            return [(upstream[0], far, branch)]
        return self._meet(branch, run, upstream, near, far)

    def _leaky(self, run: Run, length: float, branch: int) -> int:
        """With duct leakage, let the room in at the run's upstream end; returns the branch to go on
        with.
        """
        leakage = self.project.settings.duct_leakage
        if leakage == 0 or self._hose(run):
            return branch
        capacity = leakage * math.pi * run.diameter * length
        leak = _Draft(joins=branch)
        law = laws.DuctLeakage(capacity)
        leak.add(
            pieces.Leakage(
                f"{run.id}/seams", run.id, law, run.diameter, capacity=capacity, allowance=True
            )
        )
        self.drafts += [leak, _Draft(joins=branch)]
        self.drafts[branch].goes_on = len(self.drafts) - 1
        return len(self.drafts) - 1

    def _end_at_pickup(self, draft: _Draft, run: Run, ref: str) -> None:
        machine, item = self.project.pickup[ref]
        step = make.reducer(
            f"{ref}/adapter", run.id, item.port, run.diameter, self._roughness(run), True
        )
        if step:
            draft.add(step)
        switch = self._next_switch
        if item.own_fan:
            self.own_fans.append((machine.id, item.id))
            draft.switch = switch
        draft.add(*make.pickup(ref, machine.id, item, self.air, switch))
        draft.pickup = (machine.id, item.id)

    def _inlet_allowance(self, draft: _Draft, point: str, diameter: float) -> None:
        """The first elbow or wye before the collector, when it stands too near."""
        if self.from_inlet is None:
            return
        k = fittings.inlet_disturbance(self.from_inlet, diameter)
        if k > 0:
            law = laws.Constant(k, diameter)
            name = f"{point}/near-inlet"
            draft.add(
                pieces.InletDisturbance(
                    name, point, law, diameter, gap=self.from_inlet, allowance=True
                )
            )
        self.from_inlet = None

    def _pass_point(self, draft: _Draft, down: Run, up: Run, near: str, at: str) -> None:
        """Two runs meet: an elbow where they turn, a reducer where they change diameter."""
        point = self.project.point[at]
        taper = point.reducer == "taper"
        step = make.reducer(
            f"{at}/reducer", at, up.diameter, down.diameter, self._roughness(up), taper
        )
        if step:
            draft.add(step)
        turn = turn_between(self._lie(up, at).heading, self._lie(down, near).heading)
        if turn > make.STRAIGHT_WITHIN and not (self._hose(down) or self._hose(up)):
            self._inlet_allowance(draft, at, up.diameter)
            draft.add(*make.elbows(point, turn, up.diameter, self._roughness(up)))

    def _meet(
        self, branch: int, down: Run, upstream: list[Run], near: str, at: str
    ) -> list[tuple[Run, str, int]]:
        """Three or more runs meet: wyes one after the other, each joining one branch to the
        main.
        """
        out = self._lie(down, near).heading
        point = self.project.point[at]
        main, *sides = main_first(
            upstream, lambda run: turn_between(self._lie(run, at).heading, out)
        )
        draft = self.drafts[branch]
        self._inlet_allowance(draft, at, down.diameter)
        draft.after_wye = True
        legs: list[JoinedLeg] = []
        joins = -1
        for number, side in enumerate(sides):
            angle = point.wye_angle or (
                HOSE_WYE_ANGLE
                if self._hose(side)
                else turn_between(self._lie(side, at).heading, out)
            )
            suffix = f"-{number + 1}" if len(sides) > 1 else ""
            joint, crowded = (down.diameter, angle), number > 0
            last = number == len(sides) - 1
            leg = make.wye_leg(
                point,
                suffix,
                side.diameter,
                self._roughness(side),
                *joint,
                False,
                side.diameter,
                crowded,
            )
            legs.append(JoinedLeg(joins, leg, side.id))
            shape = main if last else down
            onward = make.wye_leg(
                point,
                suffix,
                shape.diameter,
                self._roughness(shape),
                *joint,
                True,
                side.diameter,
                crowded,
            )
            if last:
                turn = turn_between(self._lie(main, at).heading, out)
                if turn > 15 and not self._hose(main):
                    onward = (
                        *make.elbows(
                            point, turn, main.diameter, self._roughness(main), guessed=True
                        ),
                        *onward,
                    )
            legs.append(JoinedLeg(joins, onward, main.id if last else None))
            joins = len(legs) - 1
        draft.end = at, tuple(legs)
        return self._opened(branch, *draft.end)

    def _opened(
        self, branch: int, at: str, legs: Sequence[JoinedLeg]
    ) -> list[tuple[Run, str, int]]:
        """Begin the branches that meet at a joint; returns the runs to follow next."""
        first = len(self.drafts)
        for place, leg in enumerate(legs):
            joins = branch if leg.joins < 0 else first + leg.joins
            self.drafts.append(_Draft(joins, leg.pieces, begins=(branch, place)))
        return [
            (self.project.run[leg.run], at, first + number)
            for number, leg in enumerate(legs)
            if leg.run
        ]


def main_first(upstream: Sequence[Run], turn: Callable[[Run], float]) -> list[Run]:
    """The runs that meet at a joint, the one that goes straightest on first, then the branches in
    their order.

    `turn` answers by how many degrees a run's air turns at the joint.
    """
    return sorted(
        upstream,
        key=lambda run: (
            materials()[run.material].hose,
            round(turn(run) / 5),
            -run.diameter,
            run.id,
        ),
    )


def turn_between(a: tuple[float, float, float], b: tuple[float, float, float]) -> float:
    """Degrees between two headings."""
    dot = a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
    return math.degrees(math.acos(min(1.0, max(-1.0, dot))))

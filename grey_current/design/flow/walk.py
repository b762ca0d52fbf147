"""The walk from a collector's inlet outward, which lays a network's pieces one after the other.

There is one step, `Walk._pass_branch`: up a branch to where others join it, or to its end. The
whole walk takes it from joint to joint; a later walk takes it only along the branches that an edit
has touched (`Walk.again`), and has the others from the spans that the earlier one kept.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence, Set
from dataclasses import dataclass, field
from typing import NamedTuple

from grey_current.air import fittings, laws, pieces
from grey_current.air.gas import Air
from grey_current.air.network import Branch, Network
from grey_current.air.pieces import Piece
from grey_current.design.flow import fittings as make
from grey_current.design.flow.joints import Coming, main_first, roughness, turn_between, wye_legs
from grey_current.design.flow.spans import ROOT, JoinedLeg, Place, Span, SpanKey, Walked
from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import Collector
from grey_current.shop.ducts import Gate, Run
from grey_current.shop.model import Project
from grey_current.shop.places import XYZ, bridged, position

# Share of its length that a run rises from which on chips have to be lifted in it.
RISER_SLOPE = 0.5

# The runs that end at each point, pickup or collector.
Ends = Mapping[str, Sequence[Run]]


class _Lie(NamedTuple):
    """How a run lies as the walk comes to it.

    Attributes:
        far: The reference at its upstream end.
        straight: Distance between its ends, m; over what a hose hangs from.
        heading: Unit vector in which its air flows.
    """

    far: str
    straight: float
    heading: XYZ


@dataclass
class _Passage:
    """A branch while the walk goes up it.

    Ducts that leak let the room in at every seam, which parts a branch into stretches, the one at
    the collector's side first.

    Attributes:
        head: What the branch has of the joint where it begins, in flow order.
        from_inlet: Straight length (m) to the collector's inlet; None behind the first fitting.
        switch: The number that the switch of a machine's own fan would have.
        against: The pieces of each stretch, against the flow.
        seams: The leak between a stretch and the next one.
        legs: The branches that begin at its upstream end.
        own_fan: Whether a machine's own fan stands at its end.
    """

    head: tuple[Piece, ...]
    from_inlet: float | None
    switch: int
    against: list[list[Piece]] = field(default_factory=lambda: [[]])
    seams: list[Piece] = field(default_factory=list)
    runs: list[str] = field(default_factory=list)
    at: str = ""
    legs: tuple[JoinedLeg, ...] = ()
    pickup: tuple[str, str] | None = None
    own_fan: bool = False

    def add(self, *more: Piece) -> None:
        """Add pieces that stand in flow order, upstream of all that are there."""
        self.against[-1].extend(reversed(more))

    def laid(self) -> list[tuple[Piece, ...]]:
        """Return the pieces of each stretch in flow order, with allowances for close fittings.

        A wye upstream counts as a fitting; a seam between two stretches does not.
        """
        # From upstream downwards, for what stands before a fitting is what disturbs it.
        clear = 0.0 if self.legs else math.inf
        made: list[tuple[Piece, ...]] = []
        for number in reversed(range(len(self.against))):
            head = self.head if number == 0 else ()
            stretch, clear = make.with_spacing((*self.against[number][::-1], *head), clear)
            made.insert(0, stretch)
        return made

    def span(self, joins: int) -> Span:
        """Return the branch as it is kept; only for ducts that do not leak."""
        (stretch,) = self.laid()
        branch = Branch(stretch, joins, self.pickup)
        switch = self.switch if self.own_fan else None
        return Span(frozenset(self.runs), branch, self.at, self.legs, switch)


@dataclass
class _Numbered:
    """The branches of a network in the order in which the walk came to them."""

    branches: list[Branch | None] = field(default_factory=list)
    entered: list[SpanKey | None] = field(default_factory=list)
    begins: list[Place] = field(default_factory=list)

    def begin(self, branch: Branch | None = None, place: Place = ROOT) -> int:
        """Give a branch its number; what is not passed yet is filled in later."""
        self.branches.append(branch)
        self.entered.append(None)
        self.begins.append(place)
        return len(self.branches) - 1


class Walk:
    """One collector's walk through the ducts.

    Parameters
    ----------
    project, moved
        The shop, and where hoses are that are not where they rest.
    collector, air, ends_at
        Where the walk begins, in which air, and which runs end where.
    kept
        Spans of an earlier walk that are as they were.
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
        self._lies: dict[str, _Lie] = {}

    def walked(self) -> Walked:
        """Walk the whole system; return its network and the spans for a later walk."""
        first = self.ends_at[self.collector.id][0]
        leaky = self.project.settings.duct_leakage > 0
        own_fans: list[tuple[str, str]] = []
        spans: dict[SpanKey, Span] = {}
        numbered = _Numbered()
        # Each is a branch that is begun but not passed: its number, what it joins, its head.
        pending = [(numbered.begin(), -1, self._root(first), first, self.collector.id)]
        while pending:
            # Depth first, the last leg of a joint first: numbers stay the same while nothing
            # changes.
            number, joins, head, run, near = pending.pop()
            numbered.entered[number] = key = (run.id, near)
            span = self._as_before(key, len(own_fans))
            at = number
            if span is not None:
                numbered.branches[number] = span.branch.joining(joins)
            else:
                passage = self._pass_branch(run, near, head, len(self.gates) + len(own_fans))
                if leaky:
                    at, span = self._with_seams(numbered, number, joins, passage)
                else:
                    span = passage.span(joins)
                    numbered.branches[number] = span.branch
            spans[key] = span
            if span.switch is not None and span.branch.pickup:
                own_fans.append(span.branch.pickup)
            # All legs of a joint get their numbers before any of them is passed.
            first_leg = len(numbered.branches)
            for place, leg in enumerate(span.legs):
                onto = at if leg.joins < 0 else first_leg + leg.joins
                between = _between_wyes(leg, onto) if leg.run is None else None
                begun = numbered.begin(between, (at, place))
                if leg.run:
                    pending.append((begun, onto, leg.pieces, self.project.run[leg.run], span.at))
        branches = tuple([branch for branch in numbered.branches if branch is not None])
        network = Network(self.collector.id, branches, self.gates, self.air, tuple(own_fans))
        # A branch that seams have parted is no one span.
        kept = {} if leaky else spans
        return Walked(network, kept, tuple(numbered.entered), tuple(numbered.begins))

    def again(self, walked: Walked, stale: Set[str]) -> Walked | None:
        """Walk again only along the branches that a run in `stale` is part of.

        Returns None where other branches begin now than before: then all is to be walked.
        """
        spans, changed = dict(walked.spans), dict[int, Branch]()
        for number, key in enumerate(walked.entered):
            if key is None or (was := walked.spans[key]).runs.isdisjoint(stale):
                continue
            # Its head is made by the joint that it begins at, which may itself have been walked
            # again just now: parents have lower numbers.
            parent, leg = walked.begins[number]
            above = walked.entered[parent] if parent >= 0 else None
            head = spans[above].legs[leg].pieces if above else ()
            joins = walked.network.branches[number].joins
            span = self._one_again(key, head, was, joins)
            if span is None or not span.goes_on_as(was):
                return None
            spans[key], changed[number] = span, span.branch
            for place, (old, new) in enumerate(zip(was.legs, span.legs, strict=True)):
                begun = walked.at[number, place]
                if new.run is None:
                    changed[begun] = _between_wyes(new, walked.network.branches[begun].joins)
                elif new.run not in stale and old.pieces != new.pieces:
                    # Its wye is another one now, and nobody would walk that branch again.
                    return None
        return Walked(walked.network.with_branches(changed), spans, walked.entered, walked.begins)

    def _one_again(
        self, key: SpanKey, head: tuple[Piece, ...], was: Span, joins: int
    ) -> Span | None:
        """Return what lies along one branch now; None where it cannot be entered as it was."""
        run, near = self.project.run.get(key[0]), key[1]
        if run is None or near not in (run.end, self.moved.get(run.id, run.start)):
            return None
        if near == self.collector.id:
            head = self._root(run)
        switch = len(self.gates) if was.switch is None else was.switch
        return self._pass_branch(run, near, head, switch).span(joins)

    def _as_before(self, key: SpanKey, own_fans: int) -> Span | None:
        """Return a branch as an earlier walk found it; None where it is not as it was.

        A machine's own fan is known by the number of its switch, which fans before it shift.
        """
        span = self.kept.get(key)
        if span is None or span.switch not in (None, len(self.gates) + own_fans):
            return None
        return span

    def _with_seams(
        self, numbered: _Numbered, number: int, joins: int, passage: _Passage
    ) -> tuple[int, Span]:
        """Number the stretches of a branch and the leaks between them.

        Returns the last stretch's number, and its span.
        """
        laid = passage.laid()
        onto, at = joins, number
        for place, stretch in enumerate(laid):
            if place > 0:
                onto = at
                numbered.begin(Branch((passage.seams[place - 1],), onto))
                at = numbered.begin()
            last = place == len(laid) - 1
            branch = Branch(stretch, onto, passage.pickup if last else None)
            numbered.branches[at] = branch
        switch = passage.switch if passage.own_fan else None
        return at, Span(frozenset(passage.runs), branch, passage.at, passage.legs, switch)

    # -- one branch

    def _pass_branch(self, run: Run, near: str, head: tuple[Piece, ...], switch: int) -> _Passage:
        """Walk up a branch to where others join it, or to its end.

        `near` is the downstream end of its first run, `switch` the number for a machine's own fan.
        """
        at_inlet = near == self.collector.id
        passage = _Passage(head, 0.0 if at_inlet else None, switch)
        while True:
            self._lay_run(passage, run, near)
            far = self._lie(run, near).far
            upstream = [other for other in self.ends_at[far] if other.id != run.id]
            if far in self.project.pickup:
                self._end_at_pickup(passage, run, far)
                return passage
            if not upstream:
                passage.add(make.open_end(self.project.point[far], run.diameter))
                return passage
            if len(upstream) > 1:
                self._end_at_wye(passage, run, upstream, near, far)
                return passage
            self._pass_point(passage, run, upstream[0], near, far)
            run, near = upstream[0], far

    def _root(self, first: Run) -> tuple[Piece, ...]:
        """Return the pieces of the collector itself, and what fits the first run to its inlet."""
        own, inlet = self.collector.id, self.collector.duct_inlet
        step = make.reducer(f"{own}/adapter", own, first.diameter, inlet, roughness(first), True)
        collector = make.collector(self.collector, self.air)
        return (step, *collector) if step else tuple(collector)

    def _lay_run(self, passage: _Passage, run: Run, near: str) -> None:
        lie = self._lie(run, near)
        passage.runs.append(run.id)
        gates = tuple(self.gates_on.get(run.id, ()))
        rises = lie.heading[2] > RISER_SLOPE
        passage.add(*make.run_pieces(run, lie.straight, run.end == near, rises, gates))
        # Counted until the first turn: a fan wants straight duct before its inlet.
        if passage.from_inlet is not None:
            passage.from_inlet += lie.straight
        leakage = self.project.settings.duct_leakage
        if leakage and not materials()[run.material].hose:
            # Joints leak along the whole wall of a rigid duct; a hose is one piece between two
            # clamps.
            capacity = leakage * math.pi * run.diameter * lie.straight
            passage.seams.append(_seam(run, capacity))
            passage.against.append([])

    def _end_at_pickup(self, passage: _Passage, run: Run, ref: str) -> None:
        machine, item = self.project.pickup[ref]
        step = make.reducer(f"{ref}/adapter", run.id, item.port, run.diameter, roughness(run), True)
        if step:
            passage.add(step)
        passage.own_fan = bool(item.own_fan)
        passage.add(*make.pickup(ref, machine.id, item, self.air, passage.switch))
        passage.pickup = (machine.id, item.id)

    def _pass_point(self, passage: _Passage, down: Run, up: Run, near: str, at: str) -> None:
        """Two runs meet: an elbow where they turn, a reducer where they change diameter."""
        point = self.project.point[at]
        taper = point.reducer == "taper"
        step = make.reducer(f"{at}/reducer", at, up.diameter, down.diameter, roughness(up), taper)
        if step:
            passage.add(step)
        turn = turn_between(self._lie(up, at).heading, self._lie(down, near).heading)
        # A hose turns by itself and counts its own bends.
        hose = materials()[down.material].hose or materials()[up.material].hose
        if turn > make.STRAIGHT_WITHIN and not hose:
            _disturb_inlet(passage, at, up.diameter)
            passage.add(*make.elbows(point, turn, up.diameter, roughness(up)))

    def _end_at_wye(
        self, passage: _Passage, down: Run, upstream: list[Run], near: str, at: str
    ) -> None:
        """Three or more runs meet: wyes one after the other."""
        out = self._lie(down, near).heading

        def turn(run: Run) -> float:
            return turn_between(self._lie(run, at).heading, out)

        _disturb_inlet(passage, at, down.diameter)
        # What goes on straightest is the main; the others come in from the side, one wye each.
        main, *sides = [Coming(run, turn(run)) for run in main_first(upstream, turn)]
        passage.at = at
        passage.legs = tuple(wye_legs(self.project.point[at], down, main, sides))

    def _lie(self, run: Run, near: str) -> _Lie:
        """Return how a run lies whose downstream end is `near`.

        Kept by run alone, for a walk comes to each by one end only.
        """
        if run.id not in self._lies:
            # A moved hose starts at the port where it is now, not where it rests.
            far = self.moved.get(run.id, run.start) if run.end == near else run.end
            a, b = position(self.project, far), position(self.project, near)
            length = math.dist(a, b)
            by = length or 1.0
            heading = ((b[0] - a[0]) / by, (b[1] - a[1]) / by, (b[2] - a[2]) / by)
            self._lies[run.id] = _Lie(far, bridged(a, b, run), heading)
        return self._lies[run.id]


def _between_wyes(leg: JoinedLeg, joins: int) -> Branch:
    """Return the branch between two wyes at one place."""
    return Branch(make.with_spacing(leg.pieces, math.inf)[0], joins)


def _seam(run: Run, capacity: float) -> Piece:
    law, name = laws.DuctLeakage(capacity), f"{run.id}/seams"
    return pieces.Leakage(name, run.id, law, run.diameter, capacity=capacity, allowance=True)


def _disturb_inlet(passage: _Passage, point: str, diameter: float) -> None:
    """Lay an allowance for the first elbow or wye before the collector, when it stands too near."""
    gap, passage.from_inlet = passage.from_inlet, None
    if gap is None:
        return
    k = fittings.inlet_disturbance(gap, diameter)
    if k > 0:
        law, name = laws.Constant(k, diameter), f"{point}/near-inlet"
        passage.add(pieces.InletDisturbance(name, point, law, diameter, gap=gap, allowance=True))

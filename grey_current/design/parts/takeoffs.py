"""What stands at every joint as things one buys, and how much of the centre line each takes.

The fittings are the ones that the trace infers; their lay lengths follow from geometry and generic
collars (`shop/fitting_sizes.py`), or are what the user measured.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from grey_current.air.fittings import TAPER_ANGLE
from grey_current.design.flow.fittings import STRAIGHT_WITHIN
from grey_current.design.flow.joints import HOSE_WYE_ANGLE, main_first, turn_between
from grey_current.design.parts.joint_places import (
    Branch,
    Fitting,
    Link,
    Misfit,
    Seat,
    Unsold,
    WyeRow,
    facing,
    least_gap,
    wyes_in_a_row,
)
from grey_current.design.parts.keys import mm
from grey_current.shop.catalogue import FITS_OVER, materials
from grey_current.shop.duct_graph import AirPaths, far_end
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.fitting_sizes import PipeSizes, fitting_sizes, pipe_sizes_of
from grey_current.shop.model import Project
from grey_current.shop.places import XYZ, position
from grey_current.shop.vectors import along, between, dot, opposite, way_between

# Degrees within which a fitting that is sold is taken for the angle drawn: joints give so much.
# Allowance.
NEAR_ANGLE = 3.0
# m; what slips over the other is no change of section and wants no reducer.
SAME_BORE = FITS_OVER
# Degrees from the main's own line within which a branch has no side to it.
ALONG_MAIN = 10.0
# Degrees to which an adjustable elbow can be turned.
MOST_BENT = 90.0


@dataclass(frozen=True)
class Use:
    """So many units of a part for one element (an id or a pickup's reference)."""

    key: str
    element: str
    quantity: float = 1.0


def is_hose(run: Run) -> bool:
    """Whether a run is a hose."""
    return materials()[run.material].hose


def elbow_takes(bore: float, angle: float, ratio: float, collar: float) -> float:
    """What an elbow takes (m) of the centre line at each end, from the corner to its shoulder.

    `bore` and `collar` in m, `angle` in degrees, `ratio` of the centre-line radius to the bore.
    Raises nothing. Source: tangent length of a circular arc, R tan(angle/2).
    """
    return ratio * bore * math.tan(math.radians(angle) / 2) + collar


def two_elbows_take(leg: float, angle: float, gap: float = 0.0) -> float:
    """The same for two elbows, which cut a corner of `angle` (degrees) off, `gap` (m) apart.

    `leg` is what one of them takes (m). Raises nothing.
    Source: isosceles triangle over the chord between the two elbows' own corners.
    """
    return (leg + gap / 2) / math.cos(math.radians(angle) / 2) + leg


def wye_takes(
    combined: float, side: float, angle: float, collar: float
) -> tuple[float, float, float]:
    """What a wye takes (m) towards the collector, towards the main and towards the branch, from its
    middle.

    `combined` and `side` are the bores of main and branch (m), `angle` between them in degrees.
    Raises nothing. Source: two cylinders that meet: the branch cuts an ellipse d/sin(angle) long
    out of the main's wall.
    """
    # Flatter than 15° the cut would be longer than any fitting; no such wye is sold.
    turned = math.radians(min(max(angle, 15.0), 90.0))
    middle = combined / 2 / math.tan(turned)
    half = side / 2 / math.sin(turned)
    branch = combined / 2 / math.sin(turned) + side / 2 / math.tan(turned)
    return max(half - middle, 0.0) + collar, half + middle + collar, branch + collar


def reducer_takes(small: float, large: float, taper: bool, collar: float) -> float:
    """The length (m) of a reducer between two bores (m), from shoulder to shoulder. Raises nothing.

    Source: a cone of the included angle that the air is computed with; a stepped one is an
    allowance.
    """
    if not taper:
        return fitting_sizes().step.takes
    return (large - small) / 2 / math.tan(math.radians(TAPER_ANGLE / 2)) + 2 * collar


class Joints:
    """Everything that stands at the ends of runs.

    Attributes:
        takes: What stands at a run's end takes of it (m), by (run, end); less than nothing where
            the run goes on past the joint, to a wye that has slid along the main.
        uses: The parts, for the list.
        fittings, links: Where they stand, and which of their ends face one another.
        misfits, unsold: What cannot be put together as drawn, or is not sold.
        branches: The runs that come into each wye as its branches, not as its main.
        known_sizes: What each kind of part takes, by its key.
    """

    def __init__(self, project: Project, only: frozenset[str] | None = None) -> None:
        """Stand all fittings, or only those at some ends of runs."""
        self.project = project
        self.paths = AirPaths(project)
        self.takes: dict[tuple[str, str], float] = {}
        self.uses: list[Use] = []
        self.fittings: list[Fitting] = []
        self.links: list[Link] = []
        self.misfits: list[Misfit] = []
        self.unsold: list[Unsold] = []
        self.branches: dict[str, list[str]] = {}
        self.known_sizes: dict[str, tuple[float, ...]] = {}
        self._places: dict[str, XYZ] = {}
        self._ways: dict[tuple[str, str], XYZ] = {}
        self._own = {item.key: item.takes for item in project.build.sizes}
        self._counts: Counter[tuple[str, str]] = Counter()
        for run in project.runs:
            if only is None or not only.isdisjoint(run.ends):
                self._at_body(run)
        for point in project.points:
            if only is not None and point.id not in only:
                continue
            # Only what stands at one joint can face one another without pipe in between.
            before = len(self.fittings)
            self._at_point(point)
            self.links += facing(self.fittings[before:])

    def of(self, run: Run, end: str) -> float:
        """What the part at a run's end takes of it (m)."""
        return self.takes.get((run.id, end), 0.0)

    def down(self, run: Run) -> str:
        """The end that a run's air leaves by; as drawn for one that leads to no collector."""
        return self.paths.down.get(run.id, run.end)

    def place(self, ref: str) -> XYZ:
        """Where a point, a pickup or a collector's inlet is, m."""
        if ref not in self._places:
            self._places[ref] = position(self.project, ref)
        return self._places[ref]

    def way(self, run: Run, near: str) -> XYZ:
        """Unit vector along a run, away from one of its ends."""
        way = self._ways.get((run.id, near))
        if way is None:
            way = way_between(self.place(near), self.place(far_end(run, near)))
            self._ways[run.id, near] = way
        return way

    def sizes(self, key: str, *usual: float) -> tuple[float, ...]:
        """What a part takes: as the user measured it, else as it usually is."""
        found = self._own.get(key, usual)
        self.known_sizes.setdefault(key, found)
        return found

    def stand(self, kind: str, key: str, point: str, run: Run, seats: tuple[Seat, ...]) -> None:
        """Put a fitting down; it counts as a part."""
        self.uses.append(Use(key, point))
        # Named in order: two elbows of one corner are two parts to tick off.
        self._counts[point, kind] += 1
        name = f"{point}/{kind}-{self._counts[point, kind]}"
        self.fittings.append(Fitting(name, kind, key, point, run.id, seats))

    def gate_takes(self, gate: Gate) -> float:
        """What a gate takes of its run to each side (m)."""
        return self.sizes(gate_key(gate, self.project.run[gate.run]), fitting_sizes().gate.takes)[0]

    # -- at machines and collectors

    def _at_body(self, run: Run) -> None:
        for ref in run.ends:
            if ref in self.project.pickup:
                self._adapted(run, ref, self.project.pickup[ref][1].port)
            elif ref in self.project.collector:
                self._adapted(run, ref, self.project.collector[ref].duct_inlet)

    def _adapted(self, run: Run, ref: str, port: float) -> None:
        """An adaptor where a port or an inlet is of another bore than the run."""
        if abs(port - run.diameter) < SAME_BORE:
            return
        key = f"adaptor/{mm(port)}-{mm(run.diameter)}"
        small, large = sorted((port, run.diameter))
        length = self.sizes(key, reducer_takes(small, large, True, _collar(run)))[0]
        at, way = self.place(ref), self.way(run, ref)
        # At a machine the air comes in by the port, at a collector it leaves by it.
        comes = ref in self.project.pickup
        seats = (
            Seat(at, opposite(way), port, comes),
            Seat(along(at, way, length), way, run.diameter, not comes),
        )
        self.stand("adaptor", key, ref, run, seats)
        self.takes[run.id, ref] = length

    # -- at points

    def _at_point(self, point: Point) -> None:
        meeting = self.paths.at.get(point.id, [])
        if len(meeting) == 1 and point.end == "cap":
            run = meeting[0]
            seat = Seat(self.place(point.id), self.way(run, point.id), run.diameter, comes=False)
            self.stand("cap", f"cap/{_stuff(run)}", point.id, run, (seat,))
        if len(meeting) < 2:
            return
        # The run that leads on to the collector; of ducts that lead nowhere, any.
        leaving = next((run for run in meeting if self.down(run) != point.id), meeting[0])
        coming = [run for run in meeting if run.id != leaving.id]
        if len(coming) == 1:
            self._passed(point, coming[0], leaving)
        else:
            self._met(point, coming, leaving)

    def _passed(self, point: Point, up: Run, down: Run) -> None:
        """Two runs meet: an elbow where they turn, a coupling where they do not, a reducer where
        the bore changes, a change where the material does.
        """
        here, onward = self.place(point.id), self.way(down, point.id)
        back = self.way(up, point.id)
        turn = turn_between(opposite(back), onward)
        rigid = not is_hose(up) and not is_hose(down)
        taken = 0.0
        if rigid and turn > STRAIGHT_WITHIN:
            taken = self._turned(point, up, here, (back, onward), turn, comes=True)
        elif rigid and up.material == down.material:
            taken = self._coupled(point, up, down)
        # What changes bore or material lies on the collector's side, or on the one rigid pipe.
        on_up = is_hose(down) and not is_hose(up)
        first = down if on_up else up
        line = _Line(self, point, here, back if on_up else onward, first.diameter, comes=not on_up)
        line.go(taken, begun=taken > 0)
        if on_up:
            line.reduce(up, up.diameter)
        else:
            line.reduce(down if is_hose(up) else up, down.diameter)
            line.change(up, down)
        self.takes[up.id, point.id] = line.reach if on_up else taken
        self.takes[down.id, point.id] = taken if on_up else line.reach

    def _turned(
        self, point: Point, run: Run, corner: XYZ, ways: tuple[XYZ, XYZ], turn: float, comes: bool
    ) -> float:
        """Stand an elbow, or the two that stand for one, in a corner; returns what it takes to each
        side.

        `ways` lead from the corner to either side; air comes in on the first one if it `comes`.
        """
        key, leg = self._elbow(point, run, turn)
        self._check_elbow(point, run, turn)
        if point.elbow != "two 45s":
            self._bend(point, run, key, (corner, *ways), leg, comes)
            return leg
        takes = self._elbow_takes(point, run, turn)
        # Each stands where it turns half as much, so that the corner itself is cut off.
        first, second = (along(corner, way, takes - leg) for way in ways)
        across = way_between(first, second)
        self._bend(point, run, key, (first, ways[0], across), leg, comes)
        self._bend(point, run, key, (second, opposite(across), ways[1]), leg, comes)
        return takes

    def _bend(
        self,
        point: Point,
        run: Run,
        key: str,
        corner: tuple[XYZ, XYZ, XYZ],
        leg: float,
        comes: bool,
    ) -> None:
        at, one, other = corner
        seats = (
            Seat(along(at, one, leg), one, run.diameter, comes),
            Seat(along(at, other, leg), other, run.diameter, not comes),
        )
        self.stand("elbow", key, point.id, run, seats)

    def _coupled(self, point: Point, up: Run, down: Run) -> float:
        """A coupling between two pipes of one make; returns what it takes of each."""
        sizes = pipe_sizes_of(up.material)
        if abs(up.diameter - down.diameter) >= SAME_BORE or sizes.coupled_by == "crimp":
            return 0.0
        key, here = f"coupling/{_stuff(up)}", self.place(point.id)
        half = self.sizes(key, sizes.coupling.at(up.diameter))[0]
        ways = self.way(up, point.id), self.way(down, point.id)
        seats = (
            Seat(along(here, ways[0], half), ways[0], up.diameter, comes=True),
            Seat(along(here, ways[1], half), ways[1], down.diameter, comes=False),
        )
        self.stand("coupling", key, point.id, up, seats)
        return half

    def _met(self, point: Point, coming: list[Run], leaving: Run) -> None:
        """Wyes one after the other, each joining one branch to the main, as the trace has them."""
        onward = self.way(leaving, point.id)

        def turn(run: Run) -> float:
            return turn_between(opposite(self.way(run, point.id)), onward)

        main, *sides = main_first(coming, turn)
        self.branches[point.id] = [side.id for side in sides]
        if point.splitter:
            self._split(point, leaving, main, sides)
            return
        # Where a main turns, its elbow keeps the corner and the wyes stand behind it.
        here, turned = self.place(point.id), turn(main) > STRAIGHT_WITHIN and not is_hose(main)
        first = -math.inf
        if turned:
            ways = self.way(main, point.id), onward
            taken = self._turned(point, main, here, ways, turn(main), comes=True)
            self.takes[main.id, point.id] = taken
            line = _Line(self, point, here, onward, main.diameter, comes=True)
            line.go(taken, begun=True)
            line.reduce(main, leaving.diameter)
            line.change(main, leaving)
            first = line.reach + least_gap(_pipe(leaving), leaving.diameter)
        branches = [self._branch(point, leaving, side, turn(side)) for side in sides]
        # Those that cannot slide stand upstream of those that can.
        branches.sort(key=lambda branch: branch.stays)
        row = wyes_in_a_row(branches, _pipe(leaving), leaving.diameter, first)
        self.misfits += [
            Misfit(point.id, run, wanting, "the wye has no room beside what else stands there")
            for run, wanting in row.wanting.items()
        ]
        self._stand_wyes(point, leaving, branches, row)
        self.takes[leaving.id, point.id] = row.ends
        if not turned:
            line = _Line(self, point, here, opposite(onward), leaving.diameter, comes=False)
            line.go(-row.begins, begun=True)
            line.reduce(leaving if is_hose(main) else main, main.diameter)
            line.change(leaving, main)
            self.takes[main.id, point.id] = line.reach

    def _branch(self, point: Point, leaving: Run, side: Run, drawn: float) -> Branch:
        """How a branch comes to its wye: at the wye's own angle, or round an elbow behind it."""
        angle = point.wye_angle or (HOSE_WYE_ANGLE if is_hose(side) else drawn)
        combined = leaving.diameter
        mouth = min(side.diameter, combined)
        stuff, sold = _stuff(leaving, bore=False), _pipe(leaving).wye_angles
        own = _sold_angle(angle, sold)
        key = f"wye/{stuff}{mm(combined)}-{mm(combined)}-{mm(mouth)}/{own:g}"
        # Measured as it is sold: the branch is brought to the drawn angle behind it.
        takes = self._three(key, wye_takes(combined, mouth, own, _collar(leaving)))
        if own not in sold:
            self.unsold.append(Unsold(point.id, "wye", leaving.material, angle, sold))
        bare = 0.0
        # Nearly along or against the main there is no side that an elbow could bring it round to.
        beside = ALONG_MAIN < drawn < 180 - ALONG_MAIN
        if not is_hose(side) and abs(drawn - angle) > NEAR_ANGLE and beside:
            bare = takes[2] + self._elbow_takes(point, side, abs(drawn - angle))
            if side.diameter > combined + SAME_BORE:
                # Its reducer stands between wye and elbow.
                bare += self._reducer(point, side, combined, side.diameter)[1]
                bare += least_gap(_pipe(leaving), combined)
        return Branch(
            side.id, self.way(side, point.id), drawn, angle, bare, is_hose(side), key, *takes
        )

    def _stand_wyes(self, point: Point, leaving: Run, branches: list[Branch], row: WyeRow) -> None:
        """Stand the wyes on the main, and what is behind each on its branch."""
        here, onward = self.place(point.id), self.way(leaving, point.id)
        bore, back = leaving.diameter, opposite(onward)
        for branch in branches:
            run, far = self.project.run[branch.run], row.middles[branch.run]
            middle, side = along(here, onward, far), branch.mouth_way(onward)
            mouth = along(middle, side, branch.to_side)
            seats = (
                Seat(along(middle, back, branch.to_main), back, bore, comes=True),
                Seat(along(middle, onward, branch.to_out), onward, bore, comes=False),
                Seat(mouth, side, min(run.diameter, bore), comes=True),
            )
            self.stand("wye", branch.key, point.id, leaving, seats)
            line = _Line(self, point, mouth, side, min(run.diameter, bore), comes=False)
            line.go(0.0, begun=True)
            line.change(leaving, run)
            if run.diameter > bore + SAME_BORE:
                line.reduce(leaving if is_hose(run) else run, run.diameter)
            end = line.at
            if branch.brought_round:
                # Where the wye's own direction meets the line that was drawn.
                corner = along(middle, side, far / branch.shift)
                ways = opposite(side), branch.out
                turn = abs(branch.drawn - branch.angle)
                leg = self._turned(point, run, corner, ways, turn, comes=False)
                end = along(corner, branch.out, leg)
            self.takes[run.id, point.id] = dot(between(here, end), branch.out)

    def _split(self, point: Point, leaving: Run, main: Run, sides: list[Run]) -> None:
        """A box that joins two pipes into one: it is made to the directions that are drawn."""
        here, combined = self.place(point.id), leaving.diameter
        for side in sides:
            bores = f"{mm(side.diameter)}-{mm(side.diameter)}"
            key = f"splitter/{_stuff(leaving, bore=False)}{mm(combined)}/{bores}"
            takes = self._three(key, (fitting_sizes().splitter.times * combined,) * 3)
            seats = []
            for run, far in zip((main, leaving, side), takes, strict=True):
                way = self.way(run, point.id)
                comes = run is not leaving
                seats.append(Seat(along(here, way, far), way, run.diameter, comes=comes))
                self.takes[run.id, point.id] = far
            self.stand("splitter", key, point.id, leaving, tuple(seats))

    # -- single parts

    def _elbow(self, point: Point, run: Run, turn: float) -> tuple[str, float]:
        """Key of an elbow, or of each of the two that stand for it, and what it takes to each
        side.
        """
        angle = turn / 2 if point.elbow == "two 45s" else turn
        if point.elbow == "mitre":
            make, ratio = "mitre", 0.5
        else:
            gores = point.elbow.replace(" ", "-") + "-" if "gores" in point.elbow else ""
            make, ratio = f"{gores}r{point.radius_ratio:g}", point.radius_ratio
        shelf = _pipe(run)
        sold = _sold_angle(angle, shelf.elbow_angles)
        fixed = sold in shelf.elbow_angles
        turned = shelf.adjustable and not fixed and angle <= MOST_BENT
        name = "adjustable" if turned else f"{sold:g}"
        key = f"elbow/{_stuff(run)}/{name}/{make}"
        # A part has the measures of its own angle, however the joints beside it give.
        own = sold if fixed else angle
        return key, self.sizes(key, elbow_takes(run.diameter, own, ratio, _collar(run)))[0]

    def _elbow_takes(self, point: Point, run: Run, turn: float) -> float:
        """What turns the air takes to each side, two elbows with the pipe between them too."""
        leg = self._elbow(point, run, turn)[1]
        if point.elbow != "two 45s":
            return leg
        return two_elbows_take(leg, turn, least_gap(_pipe(run), run.diameter))

    def _check_elbow(self, point: Point, run: Run, turn: float) -> None:
        angle, shelf = turn / 2 if point.elbow == "two 45s" else turn, _pipe(run)
        sold = _sold_angle(angle, shelf.elbow_angles) in shelf.elbow_angles
        if not sold and not (shelf.adjustable and angle <= MOST_BENT):
            self.unsold.append(Unsold(point.id, "elbow", run.material, angle, shelf.elbow_angles))

    def _reducer(self, point: Point, run: Run, one: float, other: float) -> tuple[str, float]:
        """Key and length of a reducer; the bore that air comes in by is named first."""
        small, large = sorted((one, other))
        key = f"reducer/{_stuff(run, bore=False)}{mm(one)}-{mm(other)}/{point.reducer}"
        usual = reducer_takes(small, large, point.reducer == "taper", _collar(run))
        return key, self.sizes(key, usual)[0]

    def _three(self, key: str, usual: tuple[float, float, float]) -> tuple[float, float, float]:
        own = self.sizes(key, *usual)
        return (own[0], own[1], own[2]) if len(own) == 3 else (own[0],) * 3


class _Line:
    """Straight parts of a joint, put one behind the other along a line.

    Attributes:
        at, bore: Where the last one ends, and its bore there, m.
        reach: How far (m) that is from where the line begins.
    """

    def __init__(
        self, joints: Joints, point: Point, at: XYZ, way: XYZ, bore: float, *, comes: bool
    ) -> None:
        self._joints, self._point = joints, point
        self.at, self.bore, self._way, self._comes = at, bore, way, comes
        self.reach, self._begun = 0.0, False

    def go(self, far: float, *, begun: bool) -> None:
        """Go on by `far` (m); `begun`: a fitting ends there."""
        self.at, self.reach = along(self.at, self._way, far), self.reach + far
        self._begun = begun

    def reduce(self, rigid: Run, bore: float) -> None:
        """Put down a reducer of the make of `rigid` to another bore, where that is another."""
        now = self.bore
        if abs(now - bore) < SAME_BORE:
            return
        named = (now, bore) if self._comes else (bore, now)
        key, length = self._joints._reducer(self._point, rigid, *named)
        if self._begun:
            self.go(least_gap(_pipe(rigid), now), begun=True)
        self._put("reducer", key, rigid, (now, bore), length)
        self.bore = bore

    def change(self, before: Run, behind: Run) -> None:
        """Put down what joins two rigid pipes of different make; it takes no length."""
        if before.material == behind.material or is_hose(before) or is_hose(behind):
            return
        first, second = (before, behind) if self._comes else (behind, before)
        key = f"change/{first.material}/{second.material}/{mm(self.bore)}"
        self._put("change", key, behind, (self.bore, self.bore), 0.0)

    def _put(
        self, kind: str, key: str, run: Run, bores: tuple[float, float], length: float
    ) -> None:
        start = self.at
        self.go(length, begun=True)
        seats = (
            Seat(start, opposite(self._way), bores[0], self._comes),
            Seat(self.at, self._way, bores[1], not self._comes),
        )
        self._joints.stand(kind, key, self._point.id, run, seats)


def gate_key(gate: Gate, run: Run) -> str:
    """The part key of a gate."""
    return f"gate/{mm(run.diameter)}/{gate.bore.replace(' ', '-')}"


def gate_uses(project: Project) -> Iterator[Use]:
    """The gates as parts."""
    for gate in project.gates:
        yield Use(gate_key(gate, project.run[gate.run]), gate.id)


def _sold_angle(angle: float, sold: tuple[float, ...]) -> float:
    """The angle of the fitting that one asks for: one that is sold, else that which is drawn, in
    whole degrees.
    """
    near = min(sold, key=lambda known: abs(known - angle))
    return near if abs(near - angle) <= NEAR_ANGLE else float(round(angle))


def _pipe(run: Run) -> PipeSizes:
    """How pipe and fittings of a run's make go together; those between hoses are of plastic."""
    return pipe_sizes_of(make_of(run))


def make_of(run: Run) -> str:
    """The material that fittings at a run are of."""
    return "pvc" if is_hose(run) else run.material


def _collar(run: Run) -> float:
    return 0.0 if is_hose(run) else pipe_sizes_of(run.material).collar.at(run.diameter)


def _stuff(run: Run, bore: bool = True) -> str:
    """A rigid run's material and bore as keys have them; fittings between hoses are of plastic."""
    return f"{make_of(run)}/{mm(run.diameter)}" if bore else f"{make_of(run)}/"

"""What stands at every joint as things one buys, and how much of the centre line each takes.

The fittings are the ones that the trace infers; their lay lengths follow from geometry and generic
collars (`shop/fitting_sizes.py`), or are what the user measured.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from grey_current.air.fittings import TAPER_ANGLE
from grey_current.design.flow.fittings import STRAIGHT_WITHIN
from grey_current.design.flow.joints import HOSE_WYE_ANGLE, main_first, turn_between
from grey_current.design.parts.keys import mm
from grey_current.shop.catalogue import FITS_OVER, materials
from grey_current.shop.duct_graph import AirPaths, far_end
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.fitting_sizes import fitting_sizes, pipe_sizes_of
from grey_current.shop.model import Project
from grey_current.shop.places import XYZ, position

# Degrees within which a fitting that is sold is taken for the angle drawn: joints give so much.
# Allowance.
NEAR_ANGLE = 3.0
# m; what slips over the other is no change of section and wants no reducer.
SAME_BORE = FITS_OVER
# Degrees from which a main that turns in a wye wants an elbow too; the same as in the trace.
MAIN_TURNS = 15.0


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


def two_elbows_take(leg: float, angle: float) -> float:
    """The same for two elbows joined end to end, which cut a corner of `angle` (degrees) off.

    `leg` is what one of them takes (m). Raises nothing.
    Source: isosceles triangle over the chord between the two elbows' own corners.
    """
    return leg / math.cos(math.radians(angle) / 2) + leg


def wye_takes(
    combined: float, side: float, angle: float, collar: float
) -> tuple[float, float, float]:
    """What a wye takes (m) towards the collector, towards the main and towards the branch, from its
    middle.

    `combined` and `side` are the bores of main and branch (m), `angle` between them in degrees.
    Raises nothing. Source: two cylinders that meet: the branch cuts an ellipse d/sin(angle) long
    out of the main's wall.
    """
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
    """Everything that stands at the ends of runs: `takes` by (run, end), and `uses` for the list of
    parts.
    """

    def __init__(self, project: Project) -> None:
        self.project = project
        self.paths = AirPaths(project)
        self.takes: dict[tuple[str, str], float] = {}
        self.uses: list[Use] = []
        # The runs that come into each wye as its branches, not as its main.
        self.branches: dict[str, list[str]] = {}
        # What each kind of part takes, by its key.
        self.known_sizes: dict[str, tuple[float, ...]] = {}
        self._places: dict[str, XYZ] = {}
        self._own = {item.key: item.takes for item in project.build.sizes}
        for run in project.runs:
            self._at_body(run)
        for point in project.points:
            self._at_point(point)

    def of(self, run: Run, end: str) -> float:
        """What the part at a run's end takes of it (m)."""
        return self.takes.get((run.id, end), 0.0)

    def down(self, run: Run) -> str:
        """The end that a run's air leaves by; as drawn for one that leads to no collector."""
        return self.paths.down.get(run.id, run.end)

    def gate_takes(self, gate: Gate) -> float:
        """What a gate takes of its run to each side (m)."""
        return self._sizes(gate_key(gate, self.project.run[gate.run]), fitting_sizes().gate.takes)[
            0
        ]

    # -- at machines and collectors

    def _at_body(self, run: Run) -> None:
        for ref in run.ends:
            if ref in self.project.pickup:
                self._adapted(run, ref, self.project.pickup[ref][1].port)
            elif ref in self.project.collector:
                self._adapted(run, ref, self.project.collector[ref].inlet)

    def _adapted(self, run: Run, ref: str, port: float) -> None:
        if abs(port - run.diameter) < SAME_BORE:
            return
        key = f"adaptor/{mm(port)}-{mm(run.diameter)}"
        small, large = sorted((port, run.diameter))
        usual = reducer_takes(small, large, True, _collar(run))
        self.uses.append(Use(key, ref))
        self.takes[run.id, ref] = self._sizes(key, usual)[0]

    # -- at points

    def _at_point(self, point: Point) -> None:
        meeting = self.paths.at.get(point.id, [])
        if len(meeting) == 1 and point.end == "cap":
            self.uses.append(Use(f"cap/{_stuff(meeting[0])}", point.id))
        if len(meeting) < 2:
            return
        leaving = next((run for run in meeting if self.down(run) != point.id), meeting[0])
        coming = [run for run in meeting if run.id != leaving.id]
        if len(coming) == 1:
            self._passed(point, coming[0], leaving)
        else:
            self._met(point, coming, leaving)

    def _passed(self, point: Point, up: Run, down: Run) -> None:
        turn = turn_between(self._heading(up, point.id), self._heading(down, self.down(down)))
        takes = 0.0
        if turn > STRAIGHT_WITHIN and not is_hose(up) and not is_hose(down):
            takes = self._elbow(point, up, turn)
        elif not is_hose(up) and not is_hose(down) and up.material == down.material:
            self._coupled(point, up, down)
        self.takes[up.id, point.id] = self.takes.get((up.id, point.id), 0.0) + takes
        self.takes[down.id, point.id] = self.takes.get((down.id, point.id), 0.0) + takes
        self._reduced(point, up, down)
        self._changed(point, up, down)

    def _elbow(self, point: Point, run: Run, turn: float) -> float:
        """The elbow at a point, or the two that stand for it; what it takes to each side."""
        halves = 2 if point.elbow == "two 45s" else 1
        sold = _sold_angle(turn / halves)
        if point.elbow == "mitre":
            make, ratio = "mitre", 0.5
        else:
            gores = point.elbow.replace(" ", "-") + "-" if "gores" in point.elbow else ""
            make, ratio = f"{gores}r{point.radius_ratio:g}", point.radius_ratio
        key = f"elbow/{_stuff(run)}/{sold:g}/{make}"
        self.uses.append(Use(key, point.id, halves))
        if halves == 2:
            leg = self._sizes(key, elbow_takes(run.diameter, turn / 2, ratio, _collar(run)))[0]
            return two_elbows_take(leg, turn)
        return self._sizes(key, elbow_takes(run.diameter, turn, ratio, _collar(run)))[0]

    def _coupled(self, point: Point, up: Run, down: Run) -> None:
        sizes = pipe_sizes_of(up.material)
        if abs(up.diameter - down.diameter) >= SAME_BORE or sizes.coupled_by == "crimp":
            return
        key = f"coupling/{_stuff(up)}"
        self.uses.append(Use(key, point.id))
        for run in (up, down):
            self.takes[run.id, point.id] = self._sizes(key, sizes.coupling.at(run.diameter))[0]

    def _reduced(self, point: Point, up: Run, down: Run, onto: str | None = None) -> None:
        """A reducer where the bore changes; it lies on the collector's side, or on the side of
        `onto`.
        """
        if abs(up.diameter - down.diameter) < SAME_BORE:
            return
        taper = point.reducer == "taper"
        small, large = sorted((up.diameter, down.diameter))
        rigid = down if is_hose(up) else up
        bores = f"{mm(up.diameter)}-{mm(down.diameter)}"
        key = f"reducer/{_stuff(rigid, bore=False)}{bores}/{point.reducer}"
        self.uses.append(Use(key, point.id))
        usual = reducer_takes(small, large, taper, _collar(rigid))
        lies_on = onto or (up.id if is_hose(down) else down.id)
        self.takes[lies_on, point.id] = (
            self.takes.get((lies_on, point.id), 0.0) + self._sizes(key, usual)[0]
        )

    def _changed(self, point: Point, up: Run, down: Run) -> None:
        """Two rigid pipes of different make want a part between them."""
        if up.material != down.material and not is_hose(up) and not is_hose(down):
            key = f"change/{up.material}/{down.material}/{mm(min(up.diameter, down.diameter))}"
            self.uses.append(Use(key, point.id))

    def _met(self, point: Point, coming: list[Run], leaving: Run) -> None:
        """Wyes one after the other, each joining one branch to the main, as the trace has them."""
        out = self._heading(leaving, self.down(leaving))

        def turn(run: Run) -> float:
            return turn_between(self._heading(run, point.id), out)

        main, *sides = main_first(coming, turn)
        self.branches[point.id] = [side.id for side in sides]
        combined, along = leaving.diameter, 0.0
        # Each wye takes some of the main: the first from the run behind the joint, the others from
        # the one before it.
        for number, side in enumerate(sides):
            angle = point.wye_angle or (HOSE_WYE_ANGLE if is_hose(side) else turn(side))
            to_out, to_main, to_side = self._wye(
                point, leaving, min(side.diameter, combined), angle
            )
            if number == 0:
                self.takes[leaving.id, point.id] = to_out
            else:
                along += to_out
            along += to_main
            self.takes[side.id, point.id] = to_side + self._brought_round(
                point, side, turn(side), angle
            )
            if side.diameter > combined + SAME_BORE:
                self._reduced(point, side, leaving, onto=side.id)
            self._changed(point, side, leaving)
        self.takes[main.id, point.id] = along
        # A main that turns at its wye has an elbow there, which takes from both of its sides.
        if turn(main) > MAIN_TURNS and not is_hose(main):
            self.takes[main.id, point.id] += 2 * self._elbow(point, main, turn(main))
        self._reduced(point, main, leaving, onto=main.id)
        self._changed(point, main, leaving)

    def _wye(
        self, point: Point, leaving: Run, side: float, angle: float
    ) -> tuple[float, float, float]:
        stuff, combined = _stuff(leaving, bore=False), leaving.diameter
        if point.splitter:
            key = f"splitter/{stuff}{mm(combined)}/{mm(side)}-{mm(side)}"
            usual = (fitting_sizes().splitter.times * combined,) * 3
        else:
            sold = _sold_angle(angle, fitting_sizes().wye_angles)
            key = f"wye/{stuff}{mm(combined)}-{mm(combined)}-{mm(side)}/{sold:g}"
            usual = wye_takes(combined, side, angle, _collar(leaving))
        self.uses.append(Use(key, point.id))
        own = self._sizes(key, *usual)
        return (own[0], own[1], own[2]) if len(own) == 3 else (own[0],) * 3

    def _brought_round(self, point: Point, side: Run, drawn: float, angle: float) -> float:
        """An elbow behind a wye whose branch is drawn at another angle than the wye has; what it
        takes of the run.
        """
        if point.splitter or is_hose(side) or drawn - angle <= MAIN_TURNS:
            return 0.0
        return 2 * self._elbow(point, side, drawn - angle)

    # -- geometry

    def _heading(self, run: Run, near: str) -> XYZ:
        """Unit vector of a run's air, whose downstream end is taken to be `near`."""
        a, b = self._place(far_end(run, near)), self._place(near)
        far = math.dist(a, b) or 1.0
        return (b[0] - a[0]) / far, (b[1] - a[1]) / far, (b[2] - a[2]) / far

    def _place(self, ref: str) -> XYZ:
        if ref not in self._places:
            self._places[ref] = position(self.project, ref)
        return self._places[ref]

    def _sizes(self, key: str, *usual: float) -> tuple[float, ...]:
        """What a part takes: as the user measured it, else as it usually is."""
        found = self._own.get(key, usual)
        self.known_sizes.setdefault(key, found)
        return found


def gate_key(gate: Gate, run: Run) -> str:
    """The part key of a gate."""
    return f"gate/{mm(run.diameter)}/{gate.bore.replace(' ', '-')}"


def gate_uses(project: Project) -> Iterator[Use]:
    """The gates as parts."""
    for gate in project.gates:
        yield Use(gate_key(gate, project.run[gate.run]), gate.id)


def _sold_angle(angle: float, sold: tuple[float, ...] | None = None) -> float:
    """The angle of the fitting that one asks for: one that is sold, else that which is drawn, in
    whole degrees.
    """
    shelf = fitting_sizes().elbow_angles if sold is None else sold
    near = min(shelf, key=lambda known: abs(known - angle))
    return near if abs(near - angle) <= NEAR_ANGLE else float(round(angle))


def _collar(run: Run) -> float:
    return 0.0 if is_hose(run) else pipe_sizes_of(run.material).collar.at(run.diameter)


def _stuff(run: Run, bore: bool = True) -> str:
    """A rigid run's material and bore as keys have them; fittings between hoses are of plastic."""
    material = "pvc" if is_hose(run) else run.material
    return f"{material}/{mm(run.diameter)}" if bore else f"{material}/"

"""The straight pieces of pipe that a design consists of, each with its cut length.

A run's centre line is parted by what stands on it: fittings at its ends, gates, couplings where it
is longer than pipe is sold. A piece is as long as its part of the centre line, less what is taken
at both ends, plus what goes into joints.
"""

from __future__ import annotations

import itertools
import math
from collections import Counter
from dataclasses import dataclass

from grey_current.design.parts.joint_places import JOINED
from grey_current.design.parts.keys import mm
from grey_current.design.parts.takeoffs import Joints, Use, is_hose, make_of
from grey_current.shop.ducts import Run
from grey_current.shop.fitting_sizes import PipeSizes, pipe_sizes_of, stock_lengths
from grey_current.shop.model import Project
from grey_current.shop.places import distance

# The shortest last piece (m) of a run that is put together of several; else the last two share
# evenly. Allowance.
LEAST_REST = 0.15
# m by which a piece may be cut otherwise and still go in. Allowance.
CUT_WITHIN = 0.003
MOST_PIECES = 99


@dataclass(frozen=True)
class Straight:
    """A straight piece of pipe: its part of the centre line, what is taken at both ends, what goes
    into joints (m).

    `starts` is how far from the run's start its part begins; `between` names what stands at its
    ends: an element's id, or "" for a coupling.
    """

    id: str
    run: str
    material: str
    diameter: float
    starts: float
    centre_line: float
    takeoff: tuple[float, float]
    joint: float
    least: float
    between: tuple[str, str]
    # Between two fittings of one joint, and part of no run's centre line.
    link: tuple[tuple[str, int], tuple[str, int]] | None = None

    @property
    def nipple(self) -> bool:
        """Whether it stands between two fittings of one joint, each named with its end."""
        return self.link is not None

    @property
    def length(self) -> float:
        """The cut length (m); negative where the fittings at its ends do not fit between one
        another.
        """
        return self.centre_line - sum(self.takeoff) + self.joint

    @property
    def free(self) -> float:
        """What is left (m) between the two shoulders."""
        return self.centre_line - sum(self.takeoff)

    @property
    def fits(self) -> bool:
        """Whether the fittings at its ends have room."""
        return self.free >= -JOINED

    @property
    def is_pipe(self) -> bool:
        """Whether there is a piece to cut: fittings that touch are joined directly."""
        return self.fits and self.length > JOINED

    @property
    def long_enough(self) -> bool:
        """Whether the piece is as long as its two joints want."""
        return self.length >= self.least - 1e-6

    @property
    def is_tight(self) -> bool:
        """Whether it cannot be put in as drawn: no room, or a piece too short to hold."""
        return not self.fits or (self.is_pipe and not self.long_enough)


@dataclass(frozen=True)
class _Stop:
    """Something on a run: where (m from its start), what it takes before and behind its middle, and
    what it is.
    """

    at: float
    before: float
    behind: float
    element: str


def straights(project: Project, joints: Joints | None = None) -> tuple[list[Straight], list[Use]]:
    """All straight pieces, run by run, and the couplings between those of one run. Raises
    nothing.
    """
    known = joints or Joints(project)
    made: list[Straight] = []
    couplings: list[Use] = []
    for run in project.runs:
        if is_hose(run):
            continue
        pieces = straights_of(project, known, run)
        made += pieces
        kind = pipe_sizes_of(run.material).coupled_by
        joined = sum(1 for piece in pieces if piece.between[1] == "")
        if joined and kind == "coupling":
            couplings.append(Use(f"coupling/{run.material}/{mm(run.diameter)}", run.id, joined))
    return made + nipples(project, known), couplings


def nipples(project: Project, joints: Joints) -> list[Straight]:
    """The pieces of pipe between fittings of one joint that do not go into one another. Raises
    nothing.
    """
    made: list[Straight] = []
    counts: Counter[str] = Counter()
    for link in joints.links:
        fitting, end = link.one
        run, seat = project.run[fitting.run], fitting.seats[end]
        sizes = pipe_sizes_of(make_of(run))
        # A part that changes the make is joined to by itself.
        changes = "change" in (fitting.kind, link.other[0].kind)
        if changes or (sizes.coupled_by == "crimp" and link.gap <= JOINED):
            continue
        counts[fitting.point] += 1
        joint = sizes.joint(seat.bore)
        made.append(
            Straight(
                f"{fitting.point}/nipple-{counts[fitting.point]}",
                run.id,
                make_of(run),
                seat.bore,
                0.0,
                link.gap,
                (0.0, 0.0),
                joint,
                sizes.least.at(seat.bore),
                (fitting.point, fitting.point),
                link=((fitting.id, end), (link.other[0].id, link.other[1])),
            )
        )
    return made


def straights_of(project: Project, joints: Joints, run: Run) -> list[Straight]:
    """The straight pieces of one rigid run. Raises nothing."""
    sizes = pipe_sizes_of(run.material)
    length = distance(project, run)
    gates = [
        _Stop(gate.at * length, joints.gate_takes(gate), joints.gate_takes(gate), gate.id)
        for gate in project.gates
        if gate.run == run.id
    ]
    ends = (
        _Stop(0.0, 0.0, joints.of(run, run.start), run.start),
        _Stop(length, joints.of(run, run.end), 0.0, run.end),
    )
    # Between two stops lies one straight piece; where that is longer than pipe is sold, couplings
    # part it.
    stops = [ends[0], *sorted(gates, key=lambda stop: stop.at), ends[1]]
    longest = max(stock_lengths(project, run.material, run.diameter), default=math.inf)
    parted = [stops[0]]
    for a, b in itertools.pairwise(stops):
        parted += _couplings(a, b, sizes, run.diameter, longest)
        parted.append(b)
    joint, least = sizes.joint(run.diameter), sizes.least.at(run.diameter)
    return [
        Straight(
            f"{run.id}/pipe-{number}",
            run.id,
            run.material,
            run.diameter,
            a.at,
            b.at - a.at,
            (a.behind, b.before),
            _joint(a, b, joint, sizes),
            least,
            (a.element, b.element),
        )
        for number, (a, b) in enumerate(itertools.pairwise(parted), 1)
    ]


def _joint(a: _Stop, b: _Stop, joint: float, sizes: PipeSizes) -> float:
    """What goes into joints; nothing where two crimped fittings go right into one another."""
    free = b.at - a.at - a.behind - b.before
    return 0.0 if sizes.coupled_by == "crimp" and abs(free) <= JOINED else joint


def _couplings(a: _Stop, b: _Stop, sizes: PipeSizes, bore: float, longest: float) -> list[_Stop]:
    """Where pieces are coupled between two stops, so that none is longer than pipe is sold: whole
    lengths first.
    """
    takes, joint = sizes.coupling.at(bore), sizes.joint(bore)
    start, end = a.at + a.behind, b.at - b.before
    made: list[_Stop] = []
    whole = longest - joint
    if whole <= 2 * takes or end - start + joint <= longest + 1e-9:
        return []
    # Whole lengths first; the last two share what is left, so that no rest is too short to hold.
    while end - start + joint > longest + 1e-9 and len(made) < MOST_PIECES - 1:
        step = whole
        rest = end - start - whole - 2 * takes + joint
        if rest < max(LEAST_REST, sizes.least.at(bore)):
            step = (end - start - 2 * takes) / 2
        at = start + step + takes
        made.append(_Stop(at, takes, takes, ""))
        start = at + takes
    return made

"""The assembly: every fitting, piece, gate and hose in its place in space, with the ends by which
they go together.

It is made from the fittings that stand at the joints (`takeoffs.Joints`) and the pieces between
them (`straights`). Where two ends do not go together as they are sold, a connector stands between
them: a stub of pipe, or a coupling.
"""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Literal, NamedTuple

from grey_current.design.parts.joint_places import JOINED, Fitting, Misfit, Seat, Unsold
from grey_current.design.parts.keys import hose_key, mm, pipe_key
from grey_current.design.parts.straights import Straight, straights
from grey_current.design.parts.takeoffs import Joints, Use, gate_key, is_hose, make_of
from grey_current.shop.ducts import Run
from grey_current.shop.fitting_sizes import Gender, PipeSizes, pipe_sizes_of
from grey_current.shop.model import Project
from grey_current.shop.places import XYZ
from grey_current.shop.vectors import along, dot, opposite

Kind = Literal["fitting", "pipe", "gate", "coupling", "hose", "connector"]
# Ends that go together as they are.
GO_TOGETHER: frozenset[tuple[Gender, Gender]] = frozenset(
    [
        *(("male", "female"), ("female", "male"), ("plain", "female"), ("female", "plain")),
        *(("male", "plain"), ("plain", "male"), ("cuff", "male"), ("male", "cuff")),
        *(("cuff", "plain"), ("plain", "cuff")),
    ]
)
# m of a stub that stand out of a hub, for a hose to be clamped on. Allowance.
FOR_A_HOSE = 0.05
# Which end of an adaptor is the one at the machine or the collector.
AT_PORT = 0


class PartEnd(NamedTuple):
    """An end of a part: its middle (m), the unit vector out of it, bore (m), how it goes together,
    whether air comes in there.
    """

    at: XYZ
    out: XYZ
    bore: float
    gender: Gender
    comes: bool


class PlacedPart(NamedTuple):
    """A part in its place.

    Attributes:
        id: Its own; that of a piece of pipe is the one that the cutting list has.
        kind: What it is; a fitting's own kind is in its key.
        key: The key that it is bought by.
        run: The run that it belongs to.
        length: Cut length (m) of a piece or a hose; None for what has no length to cut.
        ends: Where it goes together with others.
    """

    id: str
    kind: Kind
    key: str
    run: str
    length: float | None
    ends: tuple[PartEnd, ...]


class PlacedBy(NamedTuple):
    """What a connector is: its key, whose run it is, cut length (m), how its ends go together."""

    key: str
    run: str
    length: float | None
    genders: tuple[Gender, Gender]


# An end of a part: the part's id and the end's number.
EndRef = tuple[str, int]


@dataclass(frozen=True)
class Assembly:
    """All parts, which ends go together, and what cannot be put together as drawn.

    Attributes:
        joins: For each end that another is joined to, that other.
        ports: The ends at pickups and collectors' inlets, by their reference.
        unsold, misfits, pieces: Fittings that are not sold; joints in which they have no room;
            pieces of pipe that have none, or are too short to hold.
    """

    parts: tuple[PlacedPart, ...]
    joins: dict[EndRef, EndRef]
    ports: dict[str, list[EndRef]]
    unsold: tuple[Unsold, ...]
    misfits: tuple[Misfit, ...]
    pieces: tuple[Straight, ...]

    @cached_property
    def part(self) -> dict[str, PlacedPart]:
        """The parts by their ids."""
        return {part.id: part for part in self.parts}

    @property
    def connectors(self) -> tuple[PlacedPart, ...]:
        """What stands between ends that do not go together."""
        return tuple(part for part in self.parts if part.kind == "connector")

    def path(self, pickup: str) -> list[str]:
        """The parts that air passes from a pickup to a collector; empty for one that is not
        connected.
        """
        found: list[str] = []
        end = next(iter(self.ports.get(pickup, [])), None)
        while end is not None and end[0] not in found:
            found.append(end[0])
            part = self.part[end[0]]
            out = next((n for n, e in enumerate(part.ends) if not e.comes and n != end[1]), None)
            end = self.joins.get((part.id, out)) if out is not None else None
        return found


def assemble(
    project: Project, joints: Joints | None = None, pieces: list[Straight] | None = None
) -> Assembly:
    """Put all parts of a project into their places. Raises nothing."""
    known = joints or Joints(project)
    cut = straights(project, known)[0] if pieces is None else pieces
    return _Assembling(project, known, cut).whole()


class _Assembling:
    """An assembly while it is put together."""

    def __init__(self, project: Project, joints: Joints, pieces: list[Straight]) -> None:
        self.project, self.joints, self.pieces = project, joints, pieces
        self.parts: dict[str, PlacedPart] = {}
        self.joins: dict[EndRef, EndRef] = {}
        self.ports: dict[str, list[EndRef]] = {}
        # The end that each run meets at each of its ends, once it is known.
        self._at_end: dict[tuple[str, str], EndRef] = {}
        self._mine: dict[str, list[Straight]] = defaultdict(list)
        for piece in pieces:
            if not piece.nipple:
                self._mine[piece.run].append(piece)

    def whole(self) -> Assembly:
        """Place everything, join it, and put connectors where ends do not go together."""
        for fitting in self.joints.fittings:
            run = self.project.run[fitting.run]
            ends = tuple(
                self._fitting_end(fitting, run, number, seat)
                for number, seat in enumerate(fitting.seats)
            )
            part = PlacedPart(fitting.id, "fitting", fitting.key, fitting.run, None, ends)
            self.parts[part.id] = part
        self._join_within_joints()
        self._find_ends_of_runs()
        for run in self.project.runs:
            if is_hose(run):
                self._hose(run)
            else:
                self._pipes(run)
        for point in self.project.points:
            self._join_runs(point.id)
        self._connect()
        for ref, refs in list(self.ports.items()):
            self.ports[ref] = [self._fitted_to(ref, end) for end in refs]
        short = [piece for piece in self.pieces if piece.is_tight]
        return Assembly(
            tuple(self.parts.values()),
            self.joins,
            self.ports,
            tuple(self.joints.unsold),
            tuple(self.joints.misfits),
            tuple(short),
        )

    # -- fittings of one joint

    def _fitting_end(self, fitting: Fitting, run: Run, number: int, seat: Seat) -> PartEnd:
        kind, ref = fitting.kind, fitting.point
        genders = pipe_sizes_of(make_of(run)).fitting_ends
        gender = genders[0 if seat.comes else 1]
        if kind == "adaptor" and number == AT_PORT:
            # It is chosen for what is there.
            gender = "plain" if port_gender(self.project, ref) == "female" else "cuff"
        elif kind == "adaptor" and is_hose(run):
            gender = "male"
        return PartEnd(seat.at, seat.out, seat.bore, gender, seat.comes)

    def _join_within_joints(self) -> None:
        """Join the fittings of each joint, by nipples where there are any."""
        nipples = {piece.link: piece for piece in self.pieces if piece.link is not None}
        for link in self.joints.links:
            (one, i), (other, j) = link.one, link.other
            a, b = (one.id, i), (other.id, j)
            nipple = nipples.get((a, b))
            if nipple is None:
                self._join(a, b)
                continue
            start, end = one.seats[i], other.seats[j]
            self._place_pipe(nipple, (start.at, end.at), start.out, not start.comes)
            self._join(a, (nipple.id, 0))
            self._join((nipple.id, 1), b)

    # -- runs

    def _find_ends_of_runs(self) -> None:
        """Which free end of a joint's fittings each run comes to: the one that looks its way."""
        for point, ends in self._free_ends().items():
            runs = self.joints.paths.at.get(point, [])
            if len(ends) == len(runs) == 1:
                self._at_end[runs[0].id, point] = ends[0][0]
                continue
            pairs = [
                (-dot(out, self.joints.way(run, point)), end, run.id)
                for end, out in ends
                for run in runs
            ]
            taken: set[object] = set()
            for _, end, run_id in sorted(pairs):
                if end not in taken and run_id not in taken:
                    taken |= {end, run_id}
                    self._at_end[run_id, point] = end

    def _free_ends(self) -> dict[str, list[tuple[EndRef, XYZ]]]:
        """The ends of each joint's fittings that face no other fitting, with their ways out."""
        free: dict[str, list[tuple[EndRef, XYZ]]] = defaultdict(list)
        for fitting in self.joints.fittings:
            for number, seat in enumerate(fitting.seats):
                end = fitting.id, number
                if fitting.kind == "adaptor" and number == AT_PORT:
                    self._note_port(fitting.point, end)
                elif end not in self.joins:
                    free[fitting.point].append((end, seat.out))
        return free

    def _pipes(self, run: Run) -> None:
        """The pieces of a rigid run, with the gates and couplings between them."""
        start, way = self.joints.place(run.start), self.joints.way(run, run.start)
        with_air = self.joints.down(run) == run.end
        chain: list[str] = []
        mine = self._mine[run.id]
        for number, piece in enumerate(mine, 1):
            ends = piece.starts + piece.centre_line
            # What overlaps is joined in name only: that piece is told of as having no room.
            if piece.is_pipe:
                a = along(start, way, piece.starts + piece.takeoff[0])
                b = along(start, way, ends - piece.takeoff[1])
                self._place_pipe(piece, (a, b), way, with_air)
                chain.append(piece.id)
            if number < len(mine):
                chain.append(self._stop(run, number, piece, along(start, way, ends), way, with_air))
        for one, other in itertools.pairwise(chain):
            self._join((one, 1), (other, 0))
        if chain:
            self._meet(run, run.start, (chain[0], 0))
            self._meet(run, run.end, (chain[-1], 1))
        elif all((run.id, end) in self._at_end for end in run.ends):
            self._join(self._at_end[run.id, run.start], self._at_end[run.id, run.end])

    def _meet(self, run: Run, place: str, end: EndRef) -> None:
        """Join the end of a run's chain to what stands there, or remember it for its neighbour."""
        there = self._at_end.get((run.id, place))
        if there is not None:
            self._join(there, end)
            return
        self._at_end[run.id, place] = end
        self._note_port(place, end)

    def _stop(
        self, run: Run, number: int, piece: Straight, at: XYZ, way: XYZ, with_air: bool
    ) -> str:
        """A gate or a coupling between two pieces of a run; returns its id."""
        half, element = piece.takeoff[1], piece.between[1]
        genders = pipe_sizes_of(run.material).fitting_ends
        places = along(at, way, -half), along(at, way, half)
        ends = _two_ends(places, way, run.diameter, genders, with_air)
        if element:
            key = gate_key(self.project.gate[element], run)
            part = PlacedPart(element, "gate", key, run.id, None, ends)
        else:
            key = f"coupling/{run.material}/{mm(run.diameter)}"
            part = PlacedPart(f"{run.id}/coupling-{number}", "coupling", key, run.id, None, ends)
        self.parts[part.id] = part
        return part.id

    def _place_pipe(
        self, piece: Straight, places: tuple[XYZ, XYZ], way: XYZ, with_air: bool
    ) -> None:
        genders = pipe_sizes_of(piece.material).pipe_ends
        ends = _two_ends(places, way, piece.diameter, genders, with_air)
        key = pipe_key(piece.material, piece.diameter)
        self.parts[piece.id] = PlacedPart(piece.id, "pipe", key, piece.run, piece.length, ends)

    def _hose(self, run: Run) -> None:
        """A hose: its ends lie against what they are clamped to, however it hangs between."""
        ends = []
        for place in run.ends:
            out, comes = opposite(self.joints.way(run, place)), self.joints.down(run) != place
            ends.append(PartEnd(self.joints.place(place), out, run.diameter, "cuff", comes))
        key = hose_key(run.material, run.diameter)
        self.parts[run.id] = PlacedPart(run.id, "hose", key, run.id, run.length, tuple(ends))
        for number, place in enumerate(run.ends):
            self._meet(run, place, (run.id, number))

    def _note_port(self, ref: str, end: EndRef) -> None:
        if ref in self.project.pickup or ref in self.project.collector:
            self.ports.setdefault(ref, []).append(end)

    def _join_runs(self, point: str) -> None:
        """Join two runs that come straight to one another, with nothing between."""
        runs = self.joints.paths.at.get(point, [])
        ends = [self._at_end[run.id, point] for run in runs if (run.id, point) in self._at_end]
        free = [end for end in ends if end not in self.joins]
        if len(free) == 2:
            self._join(*free)

    # -- ends that do not go together

    def _join(self, one: EndRef, other: EndRef) -> None:
        """Join two ends; a hose is laid against what it is joined to."""
        self.joins[one], self.joins[other] = other, one
        for mine, there in ((one, other), (other, one)):
            part = self.parts[mine[0]]
            if part.kind == "hose":
                seat, ends = self.parts[there[0]].ends[there[1]], list(part.ends)
                ends[mine[1]] = ends[mine[1]]._replace(at=seat.at, out=opposite(seat.out))
                self.parts[part.id] = part._replace(ends=tuple(ends))

    def _connect(self) -> None:
        """Put a connector between ends that do not go together."""
        for one, other in list(self.joins.items()):
            if one > other:
                continue
            a, b = self.parts[one[0]].ends[one[1]], self.parts[other[0]].ends[other[1]]
            # Where there is no room for pipe nothing helps but to move them apart.
            if (a.gender, b.gender) not in GO_TOGETHER and math.dist(a.at, b.at) <= JOINED:
                self._connector(one, other, a, b)

    def _connector(self, one: EndRef, other: EndRef, a: PartEnd, b: PartEnd) -> None:
        run = self.project.run[self.parts[one[0]].run]
        rigid = next(
            (r for r in (run, self.project.run[self.parts[other[0]].run]) if not is_hose(r)), run
        )
        sizes, bore = pipe_sizes_of(make_of(rigid)), min(a.bore, b.bore)
        key, length = _connector_key(sizes, bore, {a.gender, b.gender})
        genders: tuple[Gender, Gender] = (_partner(a.gender), _partner(b.gender))
        facing = (a._replace(bore=bore), b._replace(bore=bore))
        name = self._between(one, other[0], facing, PlacedBy(key, rigid.id, length, genders))
        self._join((name, 1), other)

    def _between(
        self, one: EndRef, other: str, facing: tuple[PartEnd, PartEnd], made: PlacedBy
    ) -> str:
        """Stand a connector between an end and what it faces, joined to the first; its id."""
        first, second = (
            PartEnd(end.at, opposite(end.out), end.bore, gender, not end.comes)
            for end, gender in zip(facing, made.genders, strict=True)
        )
        name = f"{one[0]}/to-{other.replace('/', '-')}"
        ends = first, second
        self.parts[name] = PlacedPart(name, "connector", made.key, made.run, made.length, ends)
        self._join(one, (name, 0))
        return name

    # -- machines and collectors

    def _fitted_to(self, ref: str, end: EndRef) -> EndRef:
        """The end that goes together with a port or an inlet: the one there, or that of what has to
        stand between.
        """
        part, there = self.parts[end[0]], port_gender(self.project, ref)
        here, run = part.ends[end[1]], self.project.run[part.run]
        sizes = pipe_sizes_of(make_of(run))
        # A crimp is cut off there.
        gender: Gender = "plain" if _is_crimp(part, sizes, here) else here.gender
        wants_sleeve = there == "male" and gender == "plain" and sizes.on_spigot == "sleeve"
        if (gender, there) in GO_TOGETHER and not (wants_sleeve and part.kind == "pipe"):
            return end
        genders: tuple[Gender, Gender] = _partner(gender), _partner(there)
        key, length = _connector_key(sizes, here.bore, {gender, there})
        if wants_sleeve:
            key, length, genders = f"sleeve/{mm(here.bore)}", None, ("cuff", "cuff")
        port = here._replace(out=opposite(here.out), comes=not here.comes)
        made = PlacedBy(key, run.id, length, genders)
        return self._between(end, ref, (here, port), made), 1


def port_gender(project: Project, ref: str) -> Gender:
    """How a machine's port or a collector's inlet goes together with what comes to it."""
    known = (
        project.pickup[ref][1].port_end
        if ref in project.pickup
        else project.collector[ref].inlet_end
    )
    return "male" if known == "spigot" else "female"


def _is_crimp(part: PlacedPart, sizes: PipeSizes, end: PartEnd) -> bool:
    return part.kind == "pipe" and sizes.coupled_by == "crimp" and end.gender == "male"


def _two_ends(
    places: tuple[XYZ, XYZ], way: XYZ, bore: float, genders: tuple[Gender, Gender], with_air: bool
) -> tuple[PartEnd, PartEnd]:
    """The ends of a straight part; `with_air`: air goes from the first to the second."""
    first, second = genders if with_air else genders[::-1]
    return (
        PartEnd(places[0], opposite(way), bore, first, with_air),
        PartEnd(places[1], way, bore, second, not with_air),
    )


def _partner(gender: Gender) -> Gender:
    """An end that goes together with one."""
    return "plain" if gender in ("female", "cuff") else "female"


def _connector_key(sizes: PipeSizes, bore: float, genders: set[Gender]) -> tuple[str, float | None]:
    """What stands between two ends: key, and the length (m) of a stub that is cut for it."""
    if sizes.has_hubs and "female" in genders:
        return pipe_key(sizes.material, bore), sizes.joint(bore) / 2 + FOR_A_HOSE
    return f"coupling/{sizes.material}/{mm(bore)}", None


def connector_uses(assembly: Assembly) -> Iterator[Use]:
    """The connectors as parts; a stub is pipe by the metre."""
    for part in assembly.connectors:
        yield Use(part.key, part.run, 1.0 if part.length is None else part.length)

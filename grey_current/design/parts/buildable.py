"""What of a shop's ducts cannot be put together: plain facts that two designs can be compared by.

After an edit only the joints that it touches are stood anew: what stands at a joint follows from
the runs that meet there, and from nothing farther off.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from grey_current.design.parts.straights import Straight, nipples, straights_of
from grey_current.design.parts.takeoffs import Joints, is_hose
from grey_current.shop.duct_graph import downstream_ends
from grey_current.shop.ducts import Gate, Run
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.places import XYZ, position

# What each adds to the shop's trouble: a joint that is moved by an inch or two mends most of them,
# so it is worth saying and worth avoiding, but no machine stands still for it. Allowances.
WEIGHTS = {"room": 0.05, "joint": 0.05, "short": 0.02, "unsold": 0.02}
WORDS = {
    "room": "has no room for pipe",
    "short": "has a piece too short for its joints",
    "joint": "does not reach its wye",
    "unsold": "wants a fitting that is not sold",
}


@dataclass(frozen=True, order=True)
class Unbuildable:
    """Something that cannot be put together.

    Attributes:
        kind: One of `WORDS`.
        element: The run, or the joint for a fitting that is not sold.
        where: What a piece of pipe lies between, or the joint.
    """

    kind: str
    element: str
    where: tuple[str, ...]

    @property
    def is_fault(self) -> bool:
        """Whether it cannot be put together at all."""
        return self.kind in ("room", "joint")

    @property
    def at_joint(self) -> bool:
        """Whether it is wrong with one joint, not with a run between two."""
        if self.kind in ("joint", "unsold"):
            return True
        # A nipple; a piece between two couplings has no names at its ends.
        return self.where[0] == self.where[1] != ""

    def words(self, names: Names) -> str:
        """What is wrong with it, with its name."""
        return f"{names.of(self.element)} then {WORDS[self.kind]}"


class _Facts(NamedTuple):
    """What the joints at a run's ends follow from, besides their points."""

    run: Run
    places: tuple[XYZ, XYZ]
    bores: tuple[float | None, float | None]
    gates: tuple[Gate, ...]
    down: str | None


class BuildSet:
    """What cannot be put together in a project. Looked for when it is first asked after; what an
    edit left alone since `before` is taken from there.
    """

    def __init__(self, project: Project, before: BuildSet | None = None) -> None:
        self.project = project
        self._before = before if before is not None and _alike(before.project, project) else None

    @cached_property
    def troubles(self) -> frozenset[Unbuildable]:
        """All of it. Raises nothing."""
        before, self._before = self._before, None
        if before is None:
            return frozenset(_of_joints(Joints(self.project), self.project.runs, None))
        points = _changed_points(before, self)
        if not points:
            return before.troubles
        runs = [run for run in self.project.runs if not points.isdisjoint(run.ends)]
        ends = {end for run in runs for end in run.ends}
        joints = Joints(self.project, frozenset(ends))
        anew = {run.id for run in runs}
        gone = before.project.run.keys() - self.project.run.keys()
        stay = [
            item
            for item in before.troubles
            if (item.where[0] not in points if item.at_joint else item.element not in anew | gone)
        ]
        return frozenset([*stay, *_of_joints(joints, runs, points)])

    @cached_property
    def facts(self) -> dict[str, _Facts]:
        """What the joints follow from, by run."""
        project = self.project
        down = downstream_ends(project)
        gates: dict[str, tuple[Gate, ...]] = {}
        for gate in project.gates:
            gates[gate.run] = (*gates.get(gate.run, ()), gate)
        places: dict[str, XYZ] = {}
        found = {}
        for run in project.runs:
            for end in run.ends:
                if end not in places:
                    places[end] = position(project, end)
            found[run.id] = _Facts(
                run,
                (places[run.start], places[run.end]),
                (_bore(project, run.start), _bore(project, run.end)),
                gates.get(run.id, ()),
                down.get(run.id),
            )
        return found


def _alike(a: Project, b: Project) -> bool:
    """Whether two projects' fittings are of the same measures, and their pipe of the same
    lengths.
    """
    return a is b or (a.build.sizes == b.build.sizes and a.build.stock == b.build.stock)


def _bore(project: Project, ref: str) -> float | None:
    """The bore of a port or an inlet; None for a point."""
    if ref in project.pickup:
        return project.pickup[ref][1].port
    return project.collector[ref].inlet if ref in project.collector else None


def _changed_points(before: BuildSet, after: BuildSet) -> set[str]:
    """The ends of runs, at which another thing stands, or the same otherwise."""
    was, now = before.facts, after.facts
    changed = {
        point.id
        for point in after.project.points
        if before.project.point.get(point.id) is not point
    }
    changed |= before.project.point.keys() - after.project.point.keys()
    for ident in was.keys() | now.keys():
        one, other = was.get(ident), now.get(ident)
        if one is None or other is None or not _same(one, other):
            changed.update(end for facts in (one, other) if facts for end in facts.run.ends)
    return changed


def _same(one: _Facts, other: _Facts) -> bool:
    return one.run is other.run and one[1:] == other[1:]


def _of_joints(
    joints: Joints, runs: Iterable[Run], points: set[str] | None
) -> Iterator[Unbuildable]:
    """What is wrong with some runs, and with the joints at some points (all for None)."""
    for run in runs:
        if not is_hose(run):
            yield from _of_pieces(straights_of(joints.project, joints, run))
    for piece in nipples(joints.project, joints):
        if points is None or piece.between[0] in points:
            yield from _of_pieces([piece])
    for misfit in joints.misfits:
        if points is None or misfit.point in points:
            yield Unbuildable("joint", misfit.run, (misfit.point,))
    for unsold in joints.unsold:
        if points is None or unsold.element in points:
            yield Unbuildable("unsold", unsold.element, (unsold.element, unsold.kind))


def _of_pieces(pieces: Iterable[Straight]) -> Iterator[Unbuildable]:
    for piece in pieces:
        if not piece.fits:
            yield Unbuildable("room", piece.run, piece.between)
        elif piece.is_pipe and not piece.long_enough:
            yield Unbuildable("short", piece.run, piece.between)

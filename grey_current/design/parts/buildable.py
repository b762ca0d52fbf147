"""What of a shop's ducts cannot be put together: plain facts that two designs can be compared by.

After an edit only the joints that it touches are stood anew: what stands at a joint follows from
the runs that meet there, and from nothing farther off.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property

from grey_current.design.parts.straights import Straight, nipples, straights_of
from grey_current.design.parts.takeoffs import Joints, is_hose
from grey_current.shop.duct_graph import downstream_ends
from grey_current.shop.ducts import Run
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.of_last import OfLast
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
        points = _changed_points(before.project, self.project)
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


# One change after the other is held against the same project.
build_set_of = OfLast(BuildSet)


def _alike(a: Project, b: Project) -> bool:
    """Whether two projects' fittings are of the same measures, and their pipe of the same
    lengths.
    """
    return a is b or (a.build.sizes == b.build.sizes and a.build.stock == b.build.stock)


def _changed_points(before: Project, after: Project) -> set[str]:
    """The ends of runs at which another thing stands, or the same otherwise.

    What an edit left alone is the very same value, so that most is told by identity.
    """
    changed, moved = set(_moved_ends(before, after)), set[str]()
    for point in after.points:
        was = before.point.get(point.id)
        if was is not point:
            changed.add(point.id)
            if was is None or (was.x, was.y, was.height) != (point.x, point.y, point.height):
                moved.add(point.id)
    moved |= changed - after.point.keys()
    changed |= before.point.keys() - after.point.keys()
    runs = set(_changed_runs(before, after))
    for run in after.runs:
        # A run that ends elsewhere has another way at its other end too.
        if run.id in runs or not moved.isdisjoint(run.ends):
            changed.update(run.ends)
    # Where a run ended before there is one less.
    for ident in runs & before.run.keys():
        changed.update(before.run[ident].ends)
    return changed


def _moved_ends(before: Project, after: Project) -> Iterator[str]:
    """Ports and inlets that are elsewhere or of another bore."""
    for machine in after.machines:
        was = before.machine.get(machine.id)
        if was is not machine:
            for ref in (f"{machine.id}/{pickup.id}" for pickup in machine.pickups):
                if ref not in before.pickup or _end(before, ref) != _end(after, ref):
                    yield ref
    for item in after.collectors:
        known = before.collector.get(item.id)
        if known is not item and (known is None or _end(before, item.id) != _end(after, item.id)):
            yield item.id


def _end(project: Project, ref: str) -> tuple[XYZ, float]:
    """Where a port or an inlet is, and its bore (m)."""
    if ref in project.pickup:
        return position(project, ref), project.pickup[ref][1].port
    return position(project, ref), project.collector[ref].duct_inlet


def _changed_runs(before: Project, after: Project) -> Iterator[str]:
    """Runs that are others, have other gates, or whose air goes the other way."""
    if before.runs is not after.runs:
        for ident in before.run.keys() | after.run.keys():
            if before.run.get(ident) is not after.run.get(ident):
                yield ident
    if before.gates is not after.gates:
        for ident in before.gate.keys() | after.gate.keys():
            one, other = before.gate.get(ident), after.gate.get(ident)
            if one is not other:
                yield from (gate.run for gate in (one, other) if gate is not None)
    ends = [[(run.id, run.ends) for run in project.runs] for project in (before, after)]
    heads = [[item.id for item in project.collectors] for project in (before, after)]
    if ends[0] != ends[1] or heads[0] != heads[1]:
        was, now = downstream_ends(before), downstream_ends(after)
        yield from (ident for ident in was.keys() | now.keys() if was.get(ident) != now.get(ident))


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

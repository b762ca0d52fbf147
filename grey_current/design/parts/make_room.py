"""Room where a piece of pipe has none: a joint moved by as little as it takes."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from functools import cached_property

from grey_current.design.parts.buildable import BuildSet, Unbuildable
from grey_current.design.parts.straights import Straight, nipples, straights, straights_of
from grey_current.design.parts.takeoffs import Joints, is_hose
from grey_current.design.space.hits import ClashSet, clash_set
from grey_current.errors import InputError, RefusedEdit
from grey_current.shop.duct_edits import upright, upright_group, with_points_moved
from grey_current.shop.duct_graph import AirPaths, far_end
from grey_current.shop.ducts import Run
from grey_current.shop.edits import changed
from grey_current.shop.fitting_sizes import pipe_sizes_of
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.of_last import OfLast
from grey_current.shop.places import position
from grey_current.shop.vectors import dot, way_between

# m more than the least: lengths are written down in whole sixteenths or millimetres.
SPARE = 0.002
# m within which two heights are one.
LEVEL = 1e-3
# Centre-line radius of a tight elbow, over its bore.
TIGHT = 1.0
# Cosines of the turns that air may take: a little over square in an elbow, up to 66° into a main.
LEAST_AHEAD, LEAST_INTO_MAIN = -0.01, 0.4
# How often all tight places are looked at.
ROUNDS = 3


def with_room_everywhere(project: Project, fixed: frozenset[str], *, levels: bool) -> Project:
    """The project with room for every piece that can be given some; the joints in `fixed` stay, and
    unless `levels` may change every joint stays at its height. Raises nothing.
    """
    state = _State(project)
    for _ in range(ROUNDS):
        before = state
        for piece in troubles(state.project).values():
            state = state.with_room(piece, fixed, levels=levels) or state
        # What one move has given room may make another one possible.
        if state is before:
            break
    return state.project


def with_room(project: Project, piece: str) -> Project:
    """The project with room for a piece of pipe, by the smallest move of a joint that leaves no
    other piece without room. Pinned joints stay.

    Raises `RefusedEdit` where no joint at its run's ends can be moved so.
    """
    tight = troubles(project).get(piece)
    if tight is None:
        return project
    mended = _state_of(project).with_room(tight, frozenset(), levels=True)
    if mended is None:
        raise RefusedEdit(
            Names(project).of(tight.run),
            "making room by moving one joint",
            "move the machine or the main, or draw it another way",
        )
    return mended.project


class _State:
    """A project with what cannot be put together in it and what is hit; after a move only what it
    touched is looked at.
    """

    def __init__(self, project: Project, before: _State | None = None) -> None:
        self.project = project
        known = before._build if before is not None else None
        self._build: BuildSet = BuildSet(project, known)
        self._before = before

    @cached_property
    def _clashes(self) -> ClashSet:
        before, self._before = self._before, None
        return clash_set(self.project, before._clashes if before is not None else None)

    @property
    def tight(self) -> frozenset[Unbuildable]:
        """The pieces that have no room or are too short to hold."""
        return frozenset(item for item in self._build.troubles if item.kind in ("room", "short"))

    @cached_property
    def _against_the_flow(self) -> frozenset[str]:
        paths = AirPaths(self.project)
        return frozenset(run.id for run in self.project.runs if _back(self.project, paths, run))

    def no_worse_than(self, before: _State) -> bool:
        """Whether nothing is wrong that was right before."""
        return (
            self._build.troubles <= before._build.troubles
            and self._against_the_flow <= before._against_the_flow
        )

    def with_room(self, piece: Straight, fixed: frozenset[str], *, levels: bool) -> _State | None:
        """This project with room for a tight piece, by the smallest move that makes nothing worse;
        None where no joint outside `fixed` can be moved so.
        """
        project, run = self.project, self.project.run[piece.run]
        tight = _tight_piece(project, run, piece.id)
        if tight is None:
            return self
        mended = Unbuildable("short" if tight.fits else "room", tight.run, tight.between)
        stay = fixed | _pinned(project)
        if not levels and upright(project, run):
            stay |= frozenset(project.point)
        for start in (project, _with_tight_elbows(project, run)):
            there = _tight_piece(start, run, piece.id)
            for moved in _moves(start, run, there, stay) if there is not None else (start,):
                after = _State(moved, self)
                if mended in after.tight or not after.no_worse_than(self):
                    continue
                # What is hit is looked at last, for it takes longest.
                if after._clashes.hits <= self._clashes.hits:
                    return after
        return None


# One change after the other is held against the same project.
_state_of = OfLast(_State)


def _tight_piece(project: Project, run: Run, piece: str) -> Straight | None:
    """A piece at a run, where it is tight; only the joints at the run's ends are stood for it."""
    joints = Joints(project, frozenset(run.ends))
    here = [*straights_of(project, joints, project.run[run.id]), *nipples(project, joints)]
    return next((one for one in here if one.id == piece and one.is_tight), None)


def _back(project: Project, paths: AirPaths, run: Run) -> bool:
    """Whether a rigid run's air turns back where it goes on, or too sharply into a main."""
    onward = paths.next_run(run.id)
    if onward is None or is_hose(run) or is_hose(onward):
        return False
    at = paths.down[run.id]
    here = position(project, at)
    back = way_between(here, position(project, far_end(run, at)))
    ahead = -dot(back, way_between(here, position(project, far_end(onward, at))))
    return ahead < (LEAST_INTO_MAIN if len(paths.at[at]) > 2 else LEAST_AHEAD)


def troubles(project: Project) -> dict[str, Straight]:
    """The pieces that have no room or are too short to hold, by their ids. Raises nothing."""
    return {piece.id: piece for piece in straights(project)[0] if piece.is_tight}


def builds_no_worse(before: Project, after: Project) -> bool:
    """Whether a project can be put together wherever the one before it could. Raises nothing."""
    was = _state_of(before)
    return _State(after, was).no_worse_than(was)


def _with_tight_elbows(project: Project, run: Run) -> Project:
    """The project with elbows of a small radius at both ends of a run."""
    for end in run.ends:
        point = project.point.get(end)
        if point is not None and point.elbow == "smooth" and point.radius_ratio > TIGHT:
            project = changed(project, end, radius_ratio=TIGHT)
    return project


def _pinned(project: Project) -> frozenset[str]:
    """The joints that are pinned, or at the end of a pinned run."""
    ends = {end for run in project.runs if run.pinned for end in run.ends}
    return frozenset(ends | {point.id for point in project.points if point.pinned})


def _moves(project: Project, run: Run, tight: Straight, stay: frozenset[str]) -> Iterator[Project]:
    """The run made longer at one of its ends, or shorter until its fittings touch."""
    sizes = pipe_sizes_of(tight.material)
    wanted = [max(sizes.least.at(tight.diameter) - sizes.joint(tight.diameter), 0.0) - tight.free]
    if sizes.has_hubs or sizes.coupled_by == "crimp":
        wanted.append(-tight.free)
    for by in sorted(wanted, key=abs):
        for end in run.ends:
            if end not in project.point or not stay.isdisjoint(_moved_along(project, run, end)):
                continue
            # Several pieces lie on a run with gates: each gets its share of what is added.
            for times in (1.0, 2.0, 3.0):
                with contextlib.suppress(InputError):
                    yield _stretched(project, run, end, times * by + (SPARE if by > 0 else 0.0))


def _moved_along(project: Project, run: Run, end: str) -> set[str]:
    """The joints that move when the end of a run does."""
    if upright(project, run):
        return _level_with(project, end)
    return set(upright_group(project, end))


def _stretched(project: Project, run: Run, end: str, by: float) -> Project:
    """The project with one end of a run moved along it, `by` m away from the other end."""
    away = way_between(position(project, far_end(run, end)), position(project, end))
    if not upright(project, run):
        return with_points_moved(project, {end}, away[0] * by, away[1] * by)
    for point in _level_with(project, end):
        height = project.point[point].height + away[2] * by
        project = changed(project, point, height=round(height, 4))
    return project


def _level_with(project: Project, point: str) -> set[str]:
    """A point, and what level ducts join to it: a main is raised whole."""
    found, pending = {point}, [point]
    while pending:
        here = pending.pop()
        for run in project.runs:
            if here not in run.ends or is_hose(run):
                continue
            other = far_end(run, here)
            if other not in project.point or other in found:
                continue
            if abs(project.point[other].height - project.point[here].height) < LEVEL:
                found.add(other)
                pending.append(other)
    return found

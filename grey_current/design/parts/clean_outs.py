"""Clean-outs that can be put together: where what settled in a run comes out by a cap."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial
from typing import NamedTuple

from grey_current.design.flow.joints import turn_between
from grey_current.design.parts.buildable import BuildSet, build_set_of
from grey_current.design.parts.takeoffs import is_hose
from grey_current.errors import RefusedEdit
from grey_current.shop.capped_ends import (
    PAST_A_TURN,
    is_capped,
    takes_clean_out,
    takes_stub,
    with_capped_stub,
    with_clean_out,
)
from grey_current.shop.duct_graph import AirPaths, far_end
from grey_current.shop.ducts import Run
from grey_current.shop.edits import Edit
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.places import XYZ, position
from grey_current.shop.vectors import way_between


def clean_out_at(paths: AirPaths, project: Project, point: str) -> Edit | None:
    """The edit that puts the shortest clean-out past a joint's turn that has room there; None
    where none has.
    """
    if not takes_clean_out(paths, point):
        return None
    return _first_with_room(
        project, (partial(with_clean_out, point=point, length=far) for far in PAST_A_TURN)
    )


def clean_out_of(paths: AirPaths, project: Project, run: str) -> Edit | None:
    """The edit that puts a clean-out where what lies in a run is best taken out: past the turn
    that it begins behind, else on a wye in its middle.

    None for a hose, which is taken off; where there is one already; where none has room.
    """
    if is_capped(paths, run):
        return None
    item = project.run[run]
    past_turn = clean_out_at(paths, project, _begins(paths, item))
    if past_turn is not None or not takes_stub(paths, run):
        return past_turn
    return _first_with_room(project, (partial(_on_a_wye, run=run, diameter=item.diameter),))


def may_take_clean_out(paths: AirPaths, run: str) -> bool:
    """Whether a run has a place for a clean-out, whether or not there is room; known at once."""
    if is_capped(paths, run):
        return False
    return takes_stub(paths, run) or takes_clean_out(paths, _begins(paths, paths.design.run[run]))


def with_clean_out_there(project: Project, element: str) -> Project:
    """The project with a clean-out at a joint or for a run. Raises `RefusedEdit` where none has
    room.
    """
    find = clean_out_of if element in project.run else clean_out_at
    edit = find(AirPaths(project), project, element)
    if edit is None:
        raise RefusedEdit(
            called(project, element),
            "a clean-out here",
            "there is no room for the wye and its cap; make the runs beside it longer",
        )
    return edit(project)


class MainEnd(NamedTuple):
    """The end of a main: the run that its farthest wye begins, whether there is a cap, and the
    edit that puts one where there is room.
    """

    run: str
    capped: bool
    edit: Edit | None


def main_ends(paths: AirPaths, project: Project) -> list[MainEnd]:
    """The end of each collector's main, away from the collector; none where nothing is joined."""
    found = []
    for collector in project.collector:
        line = _straight_up(paths, collector)
        wyes = [n for n, run in enumerate(line) if len(_coming(paths, _begins(paths, run))) > 1]
        if not wyes:
            continue
        # The last run of the main, and what goes straight on upstream of its wye.
        last, *behind = line[wyes[-1] :]
        capped = any(is_capped(paths, run.id) for run in (last, *behind))
        places = () if capped else (*behind, last)
        edits = (clean_out_of(paths, project, run.id) for run in places if not is_hose(run))
        edit = next((edit for edit in edits if edit is not None), None)
        found.append(MainEnd(last.id, capped, edit))
    return found


def _straight_up(paths: AirPaths, collector: str) -> list[Run]:
    """The runs from a collector upstream; the straightest at each wye."""
    found: list[Run] = []
    place = collector
    while coming := _coming(paths, place):
        onward = _way(paths, found[-1] if found else coming[0])
        turns = [turn_between(_way(paths, run), onward) for run in coming]
        found.append(coming[turns.index(min(turns))])
        place = _begins(paths, found[-1])
    return found


def _coming(paths: AirPaths, place: str) -> list[Run]:
    """The runs whose air comes to a place."""
    return [run for run in paths.at[place] if paths.down.get(run.id) == place]


def _begins(paths: AirPaths, run: Run) -> str:
    """The end that a run's air comes in by; as drawn for one that leads nowhere."""
    return far_end(run, paths.down.get(run.id, run.end))


def _way(paths: AirPaths, run: Run) -> XYZ:
    """The unit vector by which air passes a run."""
    ends = position(paths.design, _begins(paths, run)), position(paths.design, paths.down[run.id])
    return way_between(*ends)


def _on_a_wye(project: Project, run: str, diameter: float) -> Project:
    return with_capped_stub(project, run, diameter)[0]


def _first_with_room(project: Project, edits: Iterable[Edit]) -> Edit | None:
    """The first edit behind which everything goes together as it did before."""
    now = build_set_of(project)
    for edit in edits:
        try:
            made = edit(project)
        except RefusedEdit:
            continue
        if BuildSet(made, now).troubles <= now.troubles:
            return edit
    return None

"""A duct led on straight where it turned: joints that only turn it are left out."""

from __future__ import annotations

from collections.abc import Iterable

from grey_current.errors import RefusedEdit
from grey_current.shop.catalogue import materials
from grey_current.shop.duct_graph import far_end, runs_at
from grey_current.shop.ducts import Gate, Run
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.places import distance


def straightened(project: Project, points: Iterable[str]) -> Project:
    """The project with the two runs at each of some joints made one straight run; gates stay as
    far along it.

    Raises `RefusedEdit` where anything but two rigid ducts of one size meets, and `InputError` for
    an unknown joint.
    """
    for point in points:
        project = _without_turn(project, point)
    return project


def _without_turn(project: Project, point: str) -> Project:
    meeting = runs_at(project)[point]
    rigid = [run for run in meeting if not materials()[run.material].hose]
    alike = {(run.diameter, run.material) for run in meeting}
    if point not in project.point or len(rigid) != 2 or len(meeting) != 2 or len(alike) != 1:
        raise RefusedEdit(
            called(project, point),
            "leaving it out",
            "choose a joint where two rigid ducts of one size meet",
        )
    first, second = meeting
    far = far_end(second, point)
    joined = first.replaced(end=far) if first.end == point else first.replaced(start=far)
    lengths = distance(project, first), distance(project, second)
    gates = tuple(_moved_gate(gate, (first, second), lengths, point) for gate in project.gates)
    return project.replaced(
        points=tuple(p for p in project.points if p.id != point),
        runs=tuple(joined if r.id == first.id else r for r in project.runs if r.id != second.id),
        gates=gates,
    )


def _moved_gate(
    gate: Gate, runs: tuple[Run, Run], lengths: tuple[float, float], point: str
) -> Gate:
    """A gate on either of two runs, on the one that they become: as far along as it was."""
    first, second = runs
    if gate.run not in (first.id, second.id):
        return gate
    whole = sum(lengths)
    # Measured from the far end of the first run, over the joint, to the far end of the second.
    if gate.run == first.id:
        along = (gate.at if first.end == point else 1 - gate.at) * lengths[0]
    else:
        along = lengths[0] + (gate.at if second.start == point else 1 - gate.at) * lengths[1]
    share = along / whole
    return gate.replaced(run=first.id, at=round(share if first.end == point else 1 - share, 4))

"""Whose a part is: the one machine that it is needed for, or nobody's where machines share it."""

from __future__ import annotations

from grey_current.design.parts.takeoffs import Joints
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.model import Project


def served_by(project: Project, paths: AirPaths | None = None) -> dict[str, set[str]]:
    """For each run, the machines whose air passes it, those that a hose is moved to among them."""
    ways = paths or AirPaths(project)
    found: dict[str, set[str]] = {run.id: set() for run in project.runs}
    for run in project.runs:
        ends = {project.pickup[ref][0].id for ref in run.touches if ref in project.pickup}
        for onward in ways.onward(run.id) if ends else ():
            found[onward] |= ends
    return found


class Owners:
    """The machine that each element is for, by `of`."""

    def __init__(self, project: Project, joints: Joints | None = None) -> None:
        self.project, self._joints = project, joints or Joints(project)
        self._served = served_by(project, self._joints.paths)

    def of(self, element: str) -> str | None:
        """The id of the one machine that an element is for; None where several share it, or none
        has it.
        """
        project = self.project
        if element in project.pickup or element in project.machine:
            return element.split("/", maxsplit=1)[0]
        if element in project.gate:
            return self._of_run(project.gate[element].run)
        if element in project.run:
            return self._of_run(element)
        return self._of_point(element) if element in project.point else None

    def _of_run(self, run: str) -> str | None:
        machines = self._served[run]
        return next(iter(machines)) if len(machines) == 1 else None

    def _of_point(self, point: str) -> str | None:
        """A joint is its machine's where all its air is; a wye is that of the branch that it lets
        in.
        """
        branches = self._joints.branches.get(point)
        runs = branches or [run.id for run in self._joints.paths.at.get(point, [])]
        machines = {machine for run in runs for machine in self._served[run]}
        return next(iter(machines)) if len(machines) == 1 else None

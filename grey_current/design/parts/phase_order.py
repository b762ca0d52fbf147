"""In which phase everything is built, and what would hang on nothing then."""

from __future__ import annotations

from dataclasses import dataclass

from grey_current.design.parts.owners import served_by
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.model import Project
from grey_current.shop.places import bodies


def phase_of(project: Project) -> dict[str, int]:
    """The phase of every machine, collector, run and gate, by id.

    A run that is in none comes with the first machine that it serves, one that serves none with the
    run that it joins.
    """
    found = {item.id: item.phase for item in bodies(project)}
    paths = AirPaths(project)
    served = served_by(project, paths)
    for run in project.runs:
        own = run.phase or min((project.machine[m].phase for m in served[run.id]), default=None)
        # A run that no machine names comes with the next one on its way.
        if own is None:
            joined = (project.run[other] for other in paths.onward(run.id))
            phases = (
                r.phase or min((project.machine[m].phase for m in served[r.id]), default=None)
                for r in joined
            )
            own = next((phase for phase in phases if phase is not None), 1)
        found[run.id] = own
    return found | {gate.id: found[gate.run] for gate in project.gates}


@dataclass(frozen=True)
class Hanging:
    """A run that is built in a phase, and what its air would have to pass and comes later."""

    run: str
    phase: int
    waits_for: str
    later: int


def hanging(project: Project) -> list[Hanging]:
    """Runs that hang on nothing in the phase in which they are built, for what is next on the way
    comes later.
    """
    phases, paths = phase_of(project), AirPaths(project)
    found = []
    for run in project.runs:
        end = paths.down.get(run.id)
        after = paths.next_run(run.id)
        waits_for = after.id if after is not None else end
        if waits_for == end and end not in project.collector:
            continue
        if waits_for is not None and phases[waits_for] > phases[run.id]:
            found.append(Hanging(run.id, phases[run.id], waits_for, phases[waits_for]))
    return found

"""How far the building is: everything that can be ticked, in the first phase that is not
finished.
"""

from __future__ import annotations

from dataclasses import dataclass

from grey_current.design.parts.parts_list import PartsList
from grey_current.design.parts.phase_order import phase_of
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop.model import Project


@dataclass(frozen=True)
class Progress:
    """The phase under way, of how many, and how many of its ticks are made: cut, mounted,
    sealed.
    """

    phase: int
    phases: int
    done: int
    asked: int

    @property
    def share(self) -> float:
        """Ticks made over ticks asked for."""
        return self.done / self.asked if self.asked else 0.0


def begun(project: Project) -> bool:
    """Whether anything is ticked."""
    plan = project.build
    return bool(plan.cut or plan.mounted or plan.sealed)


def progress(project: Project, parts: PartsList) -> Progress:
    """How far the first unfinished phase is, or the last one. Raises nothing."""
    plan = project.build
    phases = phase_of(project)
    cut, mounted, sealed = {item.piece for item in plan.cut}, set(plan.mounted), set(plan.sealed)
    last = max((*phases.values(), len(plan.phases)), default=1)
    found = Progress(1, last, 0, 0)
    for number in range(1, last + 1):
        runs = [run for run in project.runs if phases[run.id] == number]
        pieces = [p for p in parts.straights if phases[p.run] == number and p.is_pipe]
        rigid = [run for run in runs if not is_hose(run)]
        # A tick for every piece cut, every run mounted and every rigid run sealed.
        done = (
            sum(p.id in cut for p in pieces)
            + sum(r.id in mounted for r in runs)
            + sum(r.id in sealed for r in rigid)
        )
        found = Progress(number, last, done, len(pieces) + len(runs) + len(rigid))
        if found.done < found.asked:
            break
    return found

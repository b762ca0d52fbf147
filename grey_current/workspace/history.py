"""Undo and redo: a bounded history of projects that share structure, and the gesture that is under
way.
"""

from __future__ import annotations

from dataclasses import dataclass

from grey_current.shop.model import Project

# Steps that can be taken back.
LONGEST = 200
# What the list of steps calls where it begins.
BEGINNING = "As it was opened"


@dataclass(frozen=True)
class Step:
    """A step in the user's words, and the project that undoing or redoing it brings back.

    One that `stands` cannot be undone by its user, nor can those before it.
    """

    label: str
    project: Project
    stands: bool = False


class History:
    """What can be undone and redone."""

    def __init__(self) -> None:
        self._undo: list[Step] = []
        self._redo: list[Step] = []
        # A drag that is under way: what it shows on the way becomes one step.
        self.gesture: Step | None = None

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._undo[-1].label if self._undo and not self._undo[-1].stands else None

    @property
    def redo_label(self) -> str | None:
        """What redo would bring back."""
        return self._redo[-1].label if self._redo else None

    @property
    def steps(self) -> list[tuple[int, str]]:
        """Every step that can be gone to: how many steps away, and in words what was done last
        there. Those that would be redone have a plus, those behind a minus; 0 is where one is.

        The latest first; what stands ends the list, for nobody goes back over it.
        """
        ahead = [(n, step.label) for n, step in enumerate(reversed(self._redo), 1)]
        behind: list[tuple[int, str]] = []
        for n, step in enumerate(reversed(self._undo)):
            behind.append((-n, step.label))
            if step.stands:
                return [*reversed(ahead), *behind]
        return [*reversed(ahead), *behind, (-len(self._undo), BEGINNING)]

    def jump(self, present: Project, by: int) -> Project | None:
        """The project so many steps forward or, below zero, back; None where the way is shorter, or
        leads over what stands.
        """
        if by not in [away for away, _ in self.steps]:
            return None
        source, target = (self._redo, self._undo) if by > 0 else (self._undo, self._redo)
        for _ in range(abs(by)):
            present = _moved(source, target, present) or present
        return present

    def remember(self, step: Step) -> None:
        """One more step that can be undone; what was undone before cannot be redone any more."""
        self._undo = [*self._undo[-LONGEST + 1 :], step]
        self._redo = []

    def way_to(self, project: Project) -> str | None:
        """Whether "undo" or "redo" leads to a project; None when neither does."""
        if any(step.project == project for step in self._undo):
            return "undo"
        return "redo" if any(step.project == project for step in self._redo) else None

    def back(self, present: Project, over_all: bool = False) -> Project | None:
        """Undo: the project before the last step, None when there is none, or it stands and it is
        not `over_all`.
        """
        free = over_all or self.undo_label is not None
        return _moved(self._undo, self._redo, present) if free else None

    def forward(self, present: Project) -> Project | None:
        """Redo: the project after the step that was undone last, None when there is none."""
        return _moved(self._redo, self._undo, present)


def _moved(source: list[Step], target: list[Step], present: Project) -> Project | None:
    if not source:
        return None
    step = source.pop()
    target.append(Step(step.label, present, step.stands))
    return step.project

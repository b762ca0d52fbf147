"""Undo and redo: a bounded history of projects that share structure, and the gesture that is under
way.
"""

from __future__ import annotations

from dataclasses import dataclass

from grey_current.shop.model import Project

# Steps that can be taken back.
LONGEST = 200


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

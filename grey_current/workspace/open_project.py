"""The open project: what it computes to, edits and their history, what is selected and switched on.
No Qt.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from grey_current.design.findings.finding import Finding
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.flow.scenarios import scenario_of
from grey_current.design.space.ground import FloorSpace
from grey_current.errors import InputError, RefusedEdit
from grey_current.shop import edits
from grey_current.shop.copying import Clip, clip_of, pasted
from grey_current.shop.edits import Edit
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.workspace.computed import DerivedState
from grey_current.workspace.history import History, Step


@dataclass(frozen=True)
class ProjectChanged:
    """What one step changed. Parts that did not change are equal before and after."""

    before: Project
    after: Project
    selection: bool = False
    running: bool = False
    file: bool = False
    # Another stage, something else in hand, another comparison: what is shown, not what is.
    look: bool = False

    @property
    def project(self) -> bool:
        """Whether the project is another one."""
        return self.before is not self.after


Listener = Callable[[ProjectChanged], None]


class OpenProject:
    """A project that is worked on. Tell it edits; listen to its notices."""

    def __init__(self, project: Project) -> None:
        self._listeners: list[Listener] = []
        self._clipboard = Clip()
        self.computed = DerivedState(project)
        self._begin_with(project)

    def _begin_with(self, project: Project) -> None:
        self.project = project
        self.selected: tuple[str, ...] = ()
        self.running: tuple[str, ...] = ()
        # Working places ("machine/pickup") chosen for machines that use one at a time; else the
        # least served.
        self.places: tuple[str, ...] = ()
        self._history = History()

    def listen(self, listener: Listener) -> None:
        """Hear of every change, once each."""
        self._listeners.append(listener)

    def _tell(self, before: Project | None = None, **what: bool) -> None:
        notice = ProjectChanged(before or self.project, self.project, **what)
        for listener in self._listeners:
            listener(notice)

    # -- what follows from the project

    @property
    def assessment(self) -> Assessment:
        """The air: each machine alone, and what is switched on together."""
        return self.computed.assessment

    @property
    def revision(self) -> int:
        """Counts the projects shown."""
        return self.computed.revision

    @property
    def scenario(self) -> ScenarioAir | None:
        """The air in the scenario that is switched on now."""
        chosen = any(ref.split("/")[0] in self.running for ref in self.places)
        if len(self.running) == 1 and not chosen:
            return self.assessment.of_machine.get(self.running[0])
        if self.running:
            return self.assessment.of(scenario_of(self.project, self.running, self.places))
        return None

    @property
    def space(self) -> FloorSpace:
        """Room to work, for the project as it is."""
        return self.computed.space

    @property
    def findings(self) -> list[Finding]:
        """Findings of the whole shop, all of them found now; a gesture keeps the last ones."""
        self.computed.find()
        return self.computed.known_findings

    @property
    def known_findings(self) -> list[Finding]:
        """The findings as they were last known, which may be before an edit."""
        return self.computed.known_findings

    @property
    def findings_due(self) -> bool:
        """Whether an edit has made the known findings old, and no gesture is under way."""
        return self.computed.stale and not self.in_gesture

    # -- edits

    def edit(self, label: str, change: Edit) -> None:
        """One edit, one undo step. Raises what `change` raises, with nothing changed."""
        before = self.project
        after = edits.made(before, change, label)
        if after != before:
            self._show(after, Step(label, before))

    def begin(self, label: str) -> None:
        """Begin a gesture, such as a drag: what it shows on the way becomes one undo step."""
        self._history.gesture = Step(label, self.project)

    def preview(self, change: Edit) -> None:
        """Show a gesture's edit, counted from where the gesture began."""
        if self._history.gesture:
            self._show(
                edits.made(self._history.gesture.project, change, self._history.gesture.label)
            )

    def commit(self) -> None:
        """End a gesture and keep it."""
        step, self._history.gesture = self._history.gesture, None
        if step and step.project != self.project:
            self.computed.forget_findings()
            self._history.remember(step)
            self._tell(file=True)

    def abort(self) -> None:
        """End a gesture and take it back."""
        step, self._history.gesture = self._history.gesture, None
        if step:
            self._show(step.project)

    @property
    def in_gesture(self) -> bool:
        """Whether a gesture is under way."""
        return self._history.gesture is not None

    @property
    def gesture_start(self) -> Project | None:
        """The project as it was when the gesture under way began."""
        return self._history.gesture.project if self._history.gesture else None

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._history.undo_label

    @property
    def redo_label(self) -> str | None:
        """What redo would bring back."""
        return self._history.redo_label

    def undo(self) -> None:
        """Go back one step, if there is one."""
        self.abort()
        self._show(self._history.back(self.project) or self.project)

    @property
    def steps(self) -> list[tuple[int, str]]:
        """Every step that can be gone to, the latest first: how many away, and its words."""
        return self._history.steps

    def go_steps(self, by: int) -> None:
        """Go so many steps forward or, below zero, back; nowhere where there are fewer."""
        self.abort()
        self._show(self._history.jump(self.project, by) or self.project)

    def knows(self, project: Project) -> bool:
        """Whether a project is the present one, or a step of this history."""
        return project == self.project or self._history.way_to(project) is not None

    def go_to(self, project: Project) -> None:
        """Go back, over what stands too, or forward until a project is shown; nothing for one that
        is not known.
        """
        self.abort()
        way = None if project == self.project else self._history.way_to(project)
        while way is not None and self.project != project:
            if way == "undo":
                self._show(self._history.back(self.project, over_all=True) or self.project)
            else:
                self.redo()

    def redo(self) -> None:
        """Go forward one step, if there is one."""
        self.abort()
        self._show(self._history.forward(self.project) or self.project)

    def _show(self, project: Project, step: Step | None = None) -> None:
        """Show another project, and remember the step to it; one that cannot be computed changes
        nothing.
        """
        before, selected, running = self.project, self.selected, self.running
        if project is before:
            return
        known = {machine.id for machine in project.machines}
        still_running = tuple(ident for ident in running if ident in known)
        places = tuple(ref for ref in self.places if ref in project.pickup)
        # Computed before anything is changed: a project that has no answer leaves all as it was.
        self.computed.show(self.computed.assess(project, still_running, places))
        self.project, self.running, self.places = project, still_running, places
        self.selected = tuple(ident for ident in selected if project.find(ident) is not None)
        if step:
            self._history.remember(replace(step, stands=_took_minutes(before, project)))
        # While a thing is dragged the findings stay; they follow when it is let go.
        if not self.in_gesture:
            self.computed.forget_findings()
        self._tell(
            before, selection=self.selected != selected, running=still_running != running, file=True
        )

    # -- selection

    def select(self, element: str | None, together: bool = False) -> None:
        """Select an element by id or reference, or nothing. An unknown one selects nothing.

        `together` adds it to what is selected, or takes it out again.
        """
        chosen = element if element and self.project.find(element) is not None else None
        if together and chosen:
            others = tuple(ident for ident in self.selected if ident != chosen)
            self.select_all(others if chosen in self.selected else (*others, chosen))
        else:
            self.select_all((chosen,) if chosen else ())

    def select_all(self, elements: tuple[str, ...]) -> None:
        """Select several elements; the last one is the one shown."""
        if elements != self.selected:
            self.selected = elements
            self._tell(selection=True)

    @property
    def selection(self) -> str | None:
        """What was selected last."""
        return self.selected[-1] if self.selected else None

    # -- what is switched on

    def switch_on(self, machines: tuple[str, ...]) -> None:
        """Switch machines on; all others off. Raises `InputError` for an unknown one."""
        chosen = scenario_of(self.project, machines).running
        if chosen != self.running:
            if len(chosen) > 1:
                self.computed.assessment = self.computed.assess(self.project, chosen, self.places)
            self.running = chosen
            self._tell(running=True)

    def work_at(self, place: str) -> None:
        """Choose the working place ("machine/pickup") of a machine that uses one at a time, and
        switch it on there.

        Raises `InputError` for an unknown place.
        """
        if place not in self.project.pickup:
            raise InputError("working place", place, "choose a pickup of a machine of this shop")
        machine = place.split("/", maxsplit=1)[0]
        self.places = (
            *(ref for ref in self.places if ref.split("/", maxsplit=1)[0] != machine),
            place,
        )
        self.running = self.running if machine in self.running else (machine,)
        self.computed.assessment = self.computed.assess(self.project, self.running, self.places)
        self._tell(running=True)

    def toggle(self, machine: str, together: bool = False) -> None:
        """Switch one machine on or off; `together` leaves the others as they are."""
        if machine in self.running:
            rest = tuple(m for m in self.running if m != machine)
            self.switch_on(rest if together else ())
        else:
            self.switch_on((*self.running, machine) if together else (machine,))

    # -- taking away, copies

    def delete(self) -> None:
        """Take away what is selected, with what cannot be without it. Raises `RefusedEdit`."""
        gone = self.selected
        if any("/parked-" in ident for ident in gone):
            self.edit("Delete the parked place", lambda p: edits.unparked(p, gone))
        elif len(gone) == 1 and (named := edits.part_of(self.project, gone[0])) is not None:
            # It is the collector's: it goes back onto its body.
            self.edit("Stand it on the collector", lambda p: edits.with_apart(p, *named, None))
        elif gone and all("/" in ident for ident in gone):
            raise RefusedEdit(
                called(self.project, gone[-1]), "deleting it alone", "delete the whole thing"
            )
        elif gone:
            self.edit("Delete", lambda p: edits.removed(p, gone))

    @property
    def can_paste(self) -> bool:
        """Whether something was copied or cut."""
        return bool(self._clipboard)

    def copy(self) -> None:
        """Remember what is selected for `paste`, as it is now."""
        self._clipboard = clip_of(self.project, self.selected)
        self._tell()

    def cut(self) -> None:
        """Remember what is selected for `paste`, and take it away. Raises `RefusedEdit` as
        `delete`.
        """
        self.copy()
        self.delete()

    def paste(self) -> None:
        """Put copies of what was copied beside it, and select them."""
        made: list[str] = []

        def change(project: Project) -> Project:
            after, idents = pasted(project, self._clipboard)
            made[:] = idents
            return after

        self.edit("Paste", change)
        if made:
            self.select_all(tuple(made))


def _took_minutes(before: Project, after: Project) -> bool:
    """Whether something was done in a practice: as in any shop, what took its minutes took them."""
    was, now = before.keep.practice, after.keep.practice
    return was is not None and now is not None and len(now.acts) > len(was.acts)

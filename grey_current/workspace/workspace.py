"""What is open: the project, what is selected and running, and the undo history. No Qt."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal

from grey_current.design.findings.airflow import Finding, findings, in_order
from grey_current.design.findings.collectors import collector_findings
from grey_current.design.findings.ductwork import duct_findings
from grey_current.design.findings.room_to_work import space_findings
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assessment import Assessment, ScenarioAir, assess
from grey_current.design.flow.scenarios import Scenario, alone_scenarios, scenario_of
from grey_current.design.flow.transport import slowest_transport
from grey_current.design.improve.comparison import Difference, compared, kept_assessment
from grey_current.design.improve.jobs import Job, Result, Sizing
from grey_current.design.improve.ranking import Improvement
from grey_current.design.space.ground import Space
from grey_current.errors import FileError, GreyCurrentError, InputError
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.catalogue import CollectorModel, catalogue
from grey_current.shop.demo_shops import demo_path
from grey_current.shop.duct_edits import Drawing
from grey_current.shop.kept_designs import as_project, find
from grey_current.shop.model import Gate, Point, Project, Run
from grey_current.workspace.placing import Placing, place

HISTORY = 200
Stage = Literal["shop", "machines", "collector", "air", "gates"]
"""The stages of the work that there are, in their order."""


@dataclass(frozen=True)
class Notice:
    """What one step changed. Parts that did not change are equal before and after."""

    before: Project
    after: Project
    selection: bool
    running: bool
    file: bool
    stage: bool = False

    @property
    def project(self) -> bool:
        return self.before is not self.after


@dataclass(frozen=True)
class _Step:
    label: str
    project: Project


Listener = Callable[[Notice], None]
Edit = Callable[[Project], Project]


class Workspace:
    """The open project. Tell it edits; listen to its changes.

    `revision` counts the projects shown; an answer computed elsewhere carries the revision it is for.
    """

    def __init__(self, project: Project, path: Path | None = None) -> None:
        self._listeners: list[Listener] = []
        self.stage: Stage = "air" if project.machines else "shop"
        self._clipboard: tuple[str, ...] = ()
        self.own_models: tuple[CollectorModel, ...] = ()
        """Collectors of the user's own library, which are candidates too."""
        self.revision = -1
        self._set(project, path)

    def _set(self, project: Project, path: Path | None) -> None:
        assessment = assess(project)  # first: when it cannot be computed, what was open stays open
        self.project, self.path = project, path
        self.selected: tuple[str, ...] = ()
        self.placing: Placing | None = None
        self.drawing = Drawing()
        """How ducts are drawn on: height, size, material, angles."""
        self.compared: str | None = None
        """The kept design that the present design is compared with, by id."""
        self.running: tuple[str, ...] = ()
        self.revision += 1  # goes on counting, so that an answer for another shop is never taken for this one
        self._undo: list[_Step] = []
        self._redo: list[_Step] = []
        self._saved: Project | None = project if path else None
        self._pristine = project
        self._gesture: _Step | None = None
        self.assessment = assessment
        self._findings: list[Finding] | None = None
        self.known_findings: list[Finding] = []
        """The findings as they were last asked for; `findings_due` says whether that was before an edit."""
        self._kept: tuple[object, Assessment] | None = None
        self._answer: tuple[int, Job | None, Result] = (-1, None, ())
        self._space = Space(project)
        self._about_space: tuple[Space, list[Finding]] | None = None

    def listen(self, listener: Listener) -> None:
        """Hear of every change, once each."""
        self._listeners.append(listener)

    # -- what follows from the project

    def _assess(self, project: Project, running: tuple[str, ...]) -> Assessment:
        scenarios = list(alone_scenarios(project))
        if len(running) > 1:
            scenarios.append(Scenario(running))
        return assess(project, scenarios, self.assessment)

    @property
    def scenario(self) -> ScenarioAir | None:
        """The air in the scenario that is running now."""
        return self.assessment.of(Scenario(self.running)) if self.running else None

    @property
    def verdict(self) -> str:
        return verdict(self.assessment, self.scenario)

    @property
    def selection(self) -> str | None:
        """What was selected last."""
        return self.selected[-1] if self.selected else None

    @property
    def space(self) -> Space:
        """Room to work, for the project as it is; kept while nothing that takes room has changed."""
        if not _same_ground(self._space.project, self.project):
            self._space = Space(self.project)
        return self._space

    @property
    def findings(self) -> list[Finding]:
        """Findings of the whole shop, computed when first asked for after an edit; a gesture keeps the last."""
        if self._findings is None:
            if self._about_space is None or self._about_space[0] is not self.space:
                self._about_space = (self.space, space_findings(self.space))
            alone = self.assessment.alone
            self._findings = in_order(
                [*findings(alone), *duct_findings(alone, self.space), *collector_findings(alone), *self._about_space[1]]
            )
            self.known_findings = self._findings
        return self._findings

    @property
    def findings_due(self) -> bool:
        """Whether an edit has made the known findings old, and no gesture is under way."""
        return self._findings is None and not self.in_gesture

    # -- what would help most

    @property
    def asked_machine(self) -> str | None:
        """The machine that is looked at and wants help: short of air, or with air too slow for its chips."""
        owner = (self.selection or "").split("/")[0]
        running = self.running[0] if len(self.running) == 1 else None
        machine = owner if owner in self.project.machine else running if self.selection is None else None
        answer = self.assessment.of_machine.get(machine or "")
        if answer is None or answer.worst is None or not answer.converged:
            return None
        slow = slowest_transport(self.project, answer)
        fine = answer.worst.met and (slow is None or slow.share >= 1)
        return None if fine else machine

    @property
    def job(self) -> Job | None:
        """What is to be computed beside the window for what is looked at; None when nothing is."""
        if self.stage == "collector":
            machines = any(machine.pickups for machine in self.project.machines)
            return Job("collector", self.sized_collector or "", models=self.own_models) if machines else None
        if self.stage not in ("air", "gates") or self.placing is not None:
            return None
        if self.asked_machine is not None:
            return Job("machine", self.asked_machine)
        item = self.project.find(self.selection or "")
        if isinstance(item, Run | Point | Gate) and (machine := self._passing(item.id)) is not None:
            return Job("part", item.id, machine)
        short = any(a.worst is not None and a.converged and not a.worst.met for a in self.assessment.alone.answers)
        return Job("shop") if self.selection is None and not self.running and short else None

    @property
    def collector_models(self) -> dict[str, CollectorModel]:
        """Every collector that could be put in, by model: the user's own, then the shipped ones."""
        return {model.model: model for model in (*self.own_models, *catalogue().collectors)}

    @property
    def sized_collector(self) -> str | None:
        """The collector that the Collector stage is about: the selected one, else the first, if there is one."""
        if self.selection in self.project.collector:
            return self.selection
        return next(iter(self.project.collector), None)

    def _passing(self, element: str) -> str | None:
        """The machine whose air passes a part: a running one, else the one that gets the least of its need."""
        passing = []
        for answer in self.assessment.alone.answers:
            worst = answer.worst
            if worst is None or not answer.converged or worst.collector is None or worst.leaf is None:
                continue
            network = answer.systems[worst.collector].network
            if not network.branches_of.get(element, frozenset()).isdisjoint(network.branch_path(worst.leaf)):
                passing.append((worst.machine not in self.running, worst.share, worst.machine))
        return min(passing)[2] if passing else None

    @property
    def job_due(self) -> Job | None:
        """The question whose answer is not known yet for the project as it is; None while a gesture goes on."""
        job = None if self.in_gesture else self.job
        return job if job and self._known(job) is None else None

    def _known(self, job: Job | None) -> Result | None:
        revision, of, found = self._answer
        return found if (revision, of) == (self.revision, job) else None

    def known_improvements(self, job: Job | None) -> Sequence[Improvement] | None:
        """The computed changes that answer a question about the project as it is; None when they are not known."""
        found = self._known(job)
        return None if isinstance(found, Sizing) else found

    @property
    def known_sizing(self) -> Sizing | None:
        """What the collector must do and which would do it, for the project as it is; None when it is not known."""
        found = self._known(self.job)
        return found if isinstance(found, Sizing) else None

    def take_result(self, revision: int, job: Job, found: Result) -> bool:
        """Take an answer that was found; one for another revision is dropped. Answers whether it was taken."""
        if revision != self.revision:
            return False
        self._answer = (revision, job, found)
        return True

    # -- edits

    def edit(self, label: str, change: Edit) -> None:
        """One edit, one undo step. Raises what `change` raises, with nothing changed."""
        after = change(self.project)
        if after != self.project:
            self._show(after, _Step(label, self.project))

    def begin(self, label: str) -> None:
        """Begin a gesture, such as a drag: what it shows on the way becomes one undo step."""
        self._gesture = _Step(label, self.project)

    def preview(self, change: Edit) -> None:
        """Show a gesture's edit, counted from where the gesture began."""
        if self._gesture:
            self._show(change(self._gesture.project))

    def commit(self) -> None:
        """End a gesture and keep it."""
        step, self._gesture = self._gesture, None
        if step and step.project != self.project:
            self._findings = None
            self._remember(step)
            self._tell(Notice(self.project, self.project, False, False, True))

    def abort(self) -> None:
        """End a gesture and take it back."""
        step, self._gesture = self._gesture, None
        if step:
            self._show(step.project)

    @property
    def in_gesture(self) -> bool:
        return self._gesture is not None

    @property
    def gesture_start(self) -> Project | None:
        """The project as it was when the gesture under way began."""
        return self._gesture.project if self._gesture else None

    @property
    def undo_label(self) -> str | None:
        return self._undo[-1].label if self._undo else None

    @property
    def redo_label(self) -> str | None:
        return self._redo[-1].label if self._redo else None

    def undo(self) -> None:
        """Go back one step, if there is one."""
        self._swap(self._undo, self._redo)

    def redo(self) -> None:
        """Go forward one step, if there is one."""
        self._swap(self._redo, self._undo)

    def _swap(self, source: list[_Step], target: list[_Step]) -> None:
        self.abort()
        if source:
            step = source.pop()
            target.append(_Step(step.label, self.project))
            self._show(step.project)

    def _remember(self, step: _Step) -> None:
        self._undo = [*self._undo[-HISTORY + 1 :], step]
        self._redo = []

    def _show(self, project: Project, step: _Step | None = None) -> None:
        """Show another project, and remember the step to it; one that cannot be computed changes nothing."""
        before, selected, running = self.project, self.selected, self.running
        if project is before:
            return
        known = {machine.id for machine in project.machines}
        still_running = tuple(ident for ident in running if ident in known)
        self.assessment = self._assess(project, still_running)
        self.project, self.running = project, still_running
        self.selected = tuple(ident for ident in selected if project.find(ident) is not None)
        if step:
            self._remember(step)
        if not self.in_gesture:
            self._findings = None
        self.revision += 1
        self._tell(Notice(before, project, self.selected != selected, still_running != running, True))

    # -- selection and running machines

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
            self._tell(Notice(self.project, self.project, True, False, False))

    def select_next(self, step: int) -> None:
        """Select the next (1) or previous (-1) thing of this stage of the work."""
        things = self._things()
        if things:
            now = things.index(self.selection) if self.selection in things else -1 if step > 0 else 0
            self.select(things[(now + step) % len(things)])

    def _things(self) -> list[str]:
        project = self.project
        if self.stage == "shop":
            walls = [f"{room.id}/wall-{n + 1}" for room in project.rooms for n in range(len(room.outline))]
            lists = (project.rooms[1:], project.openings, project.features, project.beams, project.outlets)
            return walls + [item.id for items in lists for item in items]
        if self.stage == "machines":
            parked = [f"{m.id}/parked-{n + 1}" for m in project.machines for n in range(len(m.parked))]
            return [*project.machine, *project.collector, *parked]
        if self.stage == "gates":
            return list(project.gate)
        if self.stage == "collector":
            return list(project.collector)
        return [*project.machine, *project.collector, *project.run, *project.gate, *project.point]

    def go(self, stage: Stage) -> None:
        """Go to another stage of the work."""
        if stage != self.stage:
            self.stage, self.placing = stage, None
            self._tell(Notice(self.project, self.project, False, False, False, True))

    def arm(self, placing: Placing | None) -> None:
        """Take something from a strip in hand, to be put down by the next click on the floor."""
        if placing != self.placing:
            self.placing = placing
            self._tell(Notice(self.project, self.project, False, False, False, True))

    def compare(self, kept_design: str | None) -> None:
        """Compare the present design with a kept one, or end the comparison.

        Raises `InputError` for an unknown one, `DuctworkError` for one that this shop cannot hold.
        """
        chosen = find(self.project, kept_design).id if kept_design else None
        if chosen is not None:
            as_project(self.project, chosen)
        if chosen != self.compared:
            self.compared = chosen
            self._tell(Notice(self.project, self.project, False, False, False, True))

    @property
    def comparison(self) -> list[Difference] | None:
        """The present design against the one it is compared with; None when none is chosen or it is gone."""
        kept = next((v for v in self.project.kept_designs if v.id == self.compared), None)
        if kept is None:
            return None
        if self._kept is None or self._kept[0] != (kept, self.project.settings, self.project.rooms):
            try:
                answer = kept_assessment(self.project, kept.id)
            except GreyCurrentError:  # what was put into the shop since has taken its ids
                return None
            self._kept = ((kept, self.project.settings, self.project.rooms), answer)
        return compared(self.assessment.alone, self._kept[1])

    def draw_with(self, **changes: Any) -> None:
        """Draw the next ducts at another height, in another size or material, or at any angle."""
        drawing = replace(self.drawing, **changes)
        if drawing != self.drawing:
            self.drawing = drawing
            self._tell(Notice(self.project, self.project, False, False, False, True))

    def put(self, placing: Placing, x: float, y: float) -> None:
        """Put something down at a place (m) and select it. Raises `InputError`."""
        made: list[str] = []

        def change(project: Project) -> Project:
            after, ident = place(project, placing, x, y)
            made[:] = [ident]
            return after

        self.placing = None
        self.edit(f"Put down the {placing.title.lower()}", change)
        self.select(made[0])

    def delete(self) -> None:
        """Take away what is selected, with what cannot be without it. Raises `InputError`."""
        gone = self.selected
        if any("/parked-" in ident for ident in gone):
            self.edit("Take away the parked place", lambda p: edits.unparked(p, gone))
        elif gone and all("/" in ident for ident in gone):
            raise InputError(gone[-1], "taking it away", "a wall or pickup cannot go alone; take the whole thing away")
        elif gone:
            self.edit("Take away", lambda p: edits.removed(p, gone))

    @property
    def can_paste(self) -> bool:
        """Whether something that was copied is still there."""
        return any(ident in self.project.element for ident in self._clipboard)

    def copy(self) -> None:
        """Remember what is selected for `paste`."""
        self._clipboard = self.selected

    def paste(self) -> None:
        """Put copies of what was copied beside it, and select them."""
        made: list[str] = []

        def change(project: Project) -> Project:
            after, idents = edits.copied(project, self._clipboard, 0.3, -0.3)
            made[:] = idents
            return after

        self.edit("Paste", change)
        if made:
            self.select_all(tuple(made))

    def switch_on(self, machines: tuple[str, ...]) -> None:
        """Switch machines on; all others off. Raises `InputError` for an unknown one."""
        scenario = scenario_of(self.project, machines)
        if scenario.running != self.running:
            if len(scenario.running) > 1:
                self.assessment = self._assess(self.project, scenario.running)
            self.running = scenario.running
            self._tell(Notice(self.project, self.project, False, True, False))

    def toggle(self, machine: str, together: bool = False) -> None:
        """Switch one machine on or off; `together` leaves the others as they are."""
        if machine in self.running:
            rest = tuple(m for m in self.running if m != machine)
            self.switch_on(rest if together else ())
        else:
            self.switch_on((*self.running, machine) if together else (machine,))

    # -- files

    @property
    def dirty(self) -> bool:
        """Whether there is work that no file holds."""
        return self.project != (self._saved or self._pristine)

    def open(self, path: Path) -> None:
        """Open a project file. Raises `FileError`; what was open stays open then."""
        self.show_project(project_file.load(path), path)

    def open_demo(self, name: str) -> None:
        """Open a demo shop as a new project that is saved elsewhere. Raises `InputError`."""
        self.show_project(project_file.load(demo_path(name)), None)

    def show_project(self, project: Project, path: Path | None) -> None:
        """Put another project in place of this one, with a new history."""
        before = self.project
        self._set(project, path)
        self.stage = "air" if project.machines else "shop"
        self._tell(Notice(before, project, True, True, True, True))

    def save(self, path: Path | None = None) -> None:
        """Save to a path, or where it was saved before. Raises `FileError`; nothing is lost then."""
        target = path or self.path
        if target is None:
            raise FileError(self.project.name, "has no file yet", "choose where to save it")
        project_file.save(self.project, target)
        self.path, self._saved = target, self.project
        self._tell(Notice(self.project, self.project, False, False, True))

    def _tell(self, change: Notice) -> None:
        for listener in self._listeners:
            listener(change)


def _same_ground(a: Project, b: Project) -> bool:
    """Whether two projects have the same things standing in the same places."""
    names = ("machines", "collectors", "features", "openings", "rooms", "settings")
    return a is b or all(getattr(a, name) == getattr(b, name) for name in names)


def demo_workspace(name: str = "loft") -> Workspace:
    """A workspace with a demo shop open."""
    return Workspace(project_file.load(demo_path(name)))

"""What is open: the project, what is selected and switched on, and the undo history. No Qt."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, Literal

from grey_current.design.findings.finding import Finding
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.flow.scenarios import scenario_of
from grey_current.design.improve.comparison import Difference
from grey_current.design.space.ground import Space
from grey_current.errors import FileChanged, FileError, InputError, RefusedEdit
from grey_current.files import project_file
from grey_current.files.safe_write import stamp
from grey_current.shop import edits
from grey_current.shop.build_plan import Price
from grey_current.shop.catalogue import CollectorModel
from grey_current.shop.demo_shops import demo_path
from grey_current.shop.duct_edits import Drawing
from grey_current.shop.edits import Edit
from grey_current.shop.keep_plan import ReadingKind
from grey_current.shop.kept_designs import as_project, find
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.standins.line import LineInstrument
from grey_current.workspace.computed import Computed
from grey_current.workspace.history import History, Step
from grey_current.workspace.library import Library
from grey_current.workspace.offering import STEPS, Asked, Offer, OfferKind, OfferRow, took
from grey_current.workspace.placing import Placing, place
from grey_current.workspace.stages import stage


@dataclass(frozen=True)
class Notice:
    """What one step changed. Parts that did not change are equal before and after."""

    before: Project
    after: Project
    selection: bool = False
    running: bool = False
    file: bool = False
    look: bool = False
    """Another stage, something else in hand, another comparison: what is shown, not what is."""

    @property
    def project(self) -> bool:
        """Whether the project is another one."""
        return self.before is not self.after


LAYING_STAGES = ("collector", "air", "gates")
"""Stages at which an offer of the search stays open."""
BuildFace = Literal["parts", "cuts", "phases"]
Listener = Callable[[Notice], None]


class Workspace:
    """The open project. Tell it edits; listen to its notices."""

    def __init__(self, project: Project, path: Path | None = None) -> None:
        self._listeners: list[Listener] = []
        self.stage = _first_stage(project)
        self._clipboard: tuple[edits.Copyable, ...] = ()
        self.own_models: tuple[CollectorModel, ...] = ()
        """Collectors of the user's own library, which are candidates too."""
        self.library: Library | None = None
        """Where the user's own prices are kept."""
        self.save_drawing: Callable[[str, dict[str, float]], None] = lambda template, figures: None
        """What asks where to save a drawing of a thing made in the shop; the window puts its own here."""
        self.instrument: LineInstrument | None = None
        """The instrument on a line that figures may be taken from."""
        self.take_figure: Callable[[tuple[ReadingKind, str, str]], None] = lambda asked: None
        """What asks the instrument beside the window; the window puts its own here."""
        self.computed = Computed(project)
        self._set(project, path)

    def _set(self, project: Project, path: Path | None) -> None:
        self.project, self.path = project, path
        self.selected: tuple[str, ...] = ()
        self.running: tuple[str, ...] = ()
        self.places: tuple[str, ...] = ()
        """Working places ("machine/pickup") chosen for machines that use one at a time; else the least served."""
        self.placing: Placing | None = None
        self.drawing = Drawing()
        """How ducts are drawn on: height, size, material, angles."""
        self.compared: str | None = None
        """The kept design that the present one is compared with, by id."""
        self.asked: Asked | None = None
        """What the search was asked to lay, size or place."""
        self.part: str | None = None
        """The part of the bill that is looked at, by its key."""
        self.clock: float | None = None
        """The moment of the day (s) that the floor shows at the Work stage."""
        self.face: BuildFace = "parts"
        """What the strip of the Build stage shows."""
        self.phase_budget: float | None = None
        """The budget for which phases are being proposed."""
        self.put_off = False
        """Whether the strip's own offer to lay ducts was put away in this shop."""
        self._history = History()
        self._saved: Project | None = project if path else None
        self._stamp = stamp(path) if path else None
        self._pristine: Project | None = project

    def listen(self, listener: Listener) -> None:
        """Hear of every change, once each."""
        self._listeners.append(listener)

    def _tell(self, before: Project | None = None, **what: bool) -> None:
        notice = Notice(before or self.project, self.project, **what)
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
    def measured(self) -> Assessment | None:
        """The air as the readings have it: at the Keep stage, where figures follow them, once it is worked out."""
        found = self.computed.doubt
        current = self.stage == "keep" and found is not None and found.project == self.project
        return found.measured if current and found is not None else None

    @property
    def shown_air(self) -> Assessment:
        """The air that is shown: as the readings have it, else by the tables."""
        return self.measured or self.assessment

    @property
    def shown_scenario(self) -> ScenarioAir | None:
        """The same of the scenario that is switched on now."""
        measured, scenario = self.measured, self.scenario
        known = measured.of(scenario.scenario) if measured is not None and scenario is not None else None
        return known or scenario

    def air_at(self, machine: str) -> ScenarioAir | None:
        """What is told of a machine: in the scenario that is switched on where it runs, else alone."""
        return self.shown_scenario if machine in self.running else self.shown_air.of_machine.get(machine)

    @property
    def scenario(self) -> ScenarioAir | None:
        """The air in the scenario that is switched on now."""
        chosen = any(ref.split("/")[0] in self.running for ref in self.places)
        if len(self.running) == 1 and not chosen:
            return self.assessment.of_machine.get(self.running[0])
        return self.assessment.of(scenario_of(self.project, self.running, self.places)) if self.running else None

    @property
    def verdict(self) -> str:
        """The one sentence at the top."""
        sentence = verdict(self.shown_air, self.shown_scenario)
        return sentence if self.measured is None else f"By your readings: {sentence}"

    @property
    def space(self) -> Space:
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

    @property
    def comparison(self) -> list[Difference] | None:
        """The present design against the one it is compared with; None when none is chosen or it is gone."""
        return self.computed.comparison(self.compared)

    # -- edits

    def edit(self, label: str, change: Edit) -> None:
        """One edit, one undo step. Raises what `change` raises, with nothing changed."""
        before = self.project
        after = edits.made(before, change, label)
        if after != before:
            self._show(after, Step(label, before))
            self._keep_prices(before)

    def _keep_prices(self, before: Project) -> None:
        """Keep prices that were just entered in the user's own book too."""
        new = [price for price in self.project.build.prices if price not in before.build.prices]
        if new and self.library is not None:
            self.library.keep_prices(new)

    @property
    def own_prices(self) -> list[Price]:
        """Prices of the user's own book for parts of this shop that have none here."""
        if self.library is None:
            return []
        wanted = {line.part.key for line in self.computed.bill.unpriced}
        return [price for price in self.library.prices if price.key in wanted]

    def begin(self, label: str) -> None:
        """Begin a gesture, such as a drag: what it shows on the way becomes one undo step."""
        self._history.gesture = Step(label, self.project)

    def preview(self, change: Edit) -> None:
        """Show a gesture's edit, counted from where the gesture began."""
        if self._history.gesture:
            self._show(edits.made(self._history.gesture.project, change, self._history.gesture.label))

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

    def knows(self, project: Project) -> bool:
        """Whether a project is the present one, or a step of this history."""
        return project == self.project or self._history.way_to(project) is not None

    def go_to(self, project: Project) -> None:
        """Undo or redo until a project is shown; nothing when the history does not know it."""
        self.abort()
        way = None if project == self.project else self._history.way_to(project)
        while way is not None and self.project != project:
            self.undo() if way == "undo" else self.redo()

    def redo(self) -> None:
        """Go forward one step, if there is one."""
        self.abort()
        self._show(self._history.forward(self.project) or self.project)

    def _show(self, project: Project, step: Step | None = None) -> None:
        """Show another project, and remember the step to it; one that cannot be computed changes nothing."""
        before, selected, running = self.project, self.selected, self.running
        if project is before:
            return
        known = {machine.id for machine in project.machines}
        still_running = tuple(ident for ident in running if ident in known)
        places = tuple(ref for ref in self.places if ref in project.pickup)
        self.computed.show(self.computed.assess(project, still_running, places))
        self.project, self.running, self.places = project, still_running, places
        self.selected = tuple(ident for ident in selected if project.find(ident) is not None)
        if step:
            self._history.remember(step)
        if not self.in_gesture:
            self.computed.forget_findings()
        self._tell(before, selection=self.selected != selected, running=still_running != running, file=True)

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
            self.selected, self.part = elements, None
            self._tell(selection=True)

    @property
    def selection(self) -> str | None:
        """What was selected last."""
        return self.selected[-1] if self.selected else None

    def select_next(self, step: int) -> None:
        """Select the next (1) or previous (-1) thing of this stage of the work."""
        things = stage(self.stage).things(self.project)
        if things:
            now = things.index(self.selection) if self.selection in things else -1 if step > 0 else 0
            self.select(things[(now + step) % len(things)])

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
        """Choose the working place ("machine/pickup") of a machine that uses one at a time, and switch it on there.

        Raises `InputError` for an unknown place.
        """
        if place not in self.project.pickup:
            raise InputError("working place", place, "choose a pickup of a machine of this shop")
        machine = place.split("/", maxsplit=1)[0]
        self.places = (*(ref for ref in self.places if ref.split("/", maxsplit=1)[0] != machine), place)
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

    # -- what is shown and what is in hand

    def go(self, name: str) -> None:
        """Go to another stage of the work. Raises `KeyError` for an unknown one."""
        if stage(name).name != self.stage:
            self.stage, self.placing, self.part, self.phase_budget = name, None, None, None
            self.clock = None
            self.asked = self.asked if name in LAYING_STAGES else None
            self._tell(look=True)

    def arm(self, placing: Placing | None) -> None:
        """Take something from a strip in hand, to be put down by the next click on the floor."""
        if placing != self.placing:
            self.placing = placing
            self._tell(look=True)

    def compare(self, kept_design: str | None) -> None:
        """Compare the present design with a kept one, or end the comparison.

        Raises `InputError` for an unknown one, `DuctworkError` for one that this shop cannot hold.
        """
        chosen = find(self.project, kept_design).id if kept_design else None
        if chosen is not None:
            as_project(self.project, chosen)
        if chosen != self.compared:
            self.compared = chosen
            self._tell(look=True)

    def use_instrument(self, instrument: LineInstrument | None) -> None:
        """Take figures from another instrument on a line, or from none."""
        self.instrument = instrument
        self._tell(look=True)

    # -- what the search offers

    def ask_for(self, kind: OfferKind, collector: str = "") -> None:
        """Ask the search for layouts, sizes or places; its answer comes from the background.

        Raises `RefusedEdit` when there is no collector to lay ducts to, or nothing to connect or to size.
        """
        if not self.project.collectors:
            raise RefusedEdit("the ducts", "laying them without a collector", "put a collector in first (stage 3)")
        if self.stage not in LAYING_STAGES:
            self.stage = "air"
        self.placing, self.asked = None, Asked(kind, collector)
        self.selected = ()
        self._tell(look=True, selection=True)

    @property
    def waiting(self) -> int:
        """How many pickups wait without a duct."""
        answers = self.assessment.counted.answers
        return len({(p.machine, p.pickup) for answer in answers for p in answer.pickups if p.leaf is None})

    @property
    def offers_to_lay(self) -> bool:
        """Whether the strip offers to lay ducts: at the Air stage, while machines wait and nothing is looked at."""
        idle = not self.selected and not self.running and self.placing is None
        return (
            self.stage == "air" and idle and not self.put_off and bool(self.project.collectors) and bool(self.waiting)
        )

    @property
    def offer(self) -> Offer | None:
        """What is offered of what was asked for; None when nothing was."""
        if self.asked is None:
            return None
        return self.computed.offer(self.asked)

    @property
    def pointed_row(self) -> OfferRow | None:
        """The row of the offer that is shown on the floor: that which is pointed at, else the best so far."""
        offer = self.offer
        if offer is None or self.asked is None or not offer.rows:
            return None
        at = self.asked.pointed or 0
        return offer.rows[at] if at < len(offer.rows) else None

    def point_at(self, row: int | None) -> None:
        """Point at a row of the offer, or at none: it is shown on the floor."""
        if self.asked is not None and self.asked.pointed != row:
            self.asked = replace(self.asked, pointed=row)
            self._tell(look=True)

    def take(self, row: int) -> None:
        """Take a row of the offer as one step; the design before is kept and compared with.

        Raises `RefusedEdit` when no more designs can be kept.
        """
        offer, asked = self.offer, self.asked
        if offer is None or asked is None:
            return
        if not 0 <= row < len(offer.rows):
            return
        after, before = took(self.project, offer.rows[row])
        self.asked, self.compared = None, before
        self.edit(STEPS[asked.kind], lambda project: after)
        self._tell(look=True)

    def end_offer(self) -> None:
        """Put the offer away, or the strip's own offer to lay ducts; nothing is taken."""
        if self.asked is None:
            self.put_off = True
        self.asked = None
        self._tell(look=True)

    def draw_with(self, **changes: Any) -> None:
        """Draw the next ducts at another height, in another size or material, or at any angle."""
        drawing = replace(self.drawing, **changes)
        if drawing != self.drawing:
            self.drawing = drawing
            self._tell(look=True)

    # -- building

    def file_name(self, end: str) -> str:
        """A name for a file that is made of this shop: what the shop is called, and how the file's name ends."""
        return self.project.name.lower().replace(" ", "-").replace("/", "-") + end

    def show_face(self, face: BuildFace) -> None:
        """Show parts, cuts or phases in the strip of the Build stage."""
        if face != self.face:
            self.face = face
            self._tell(look=True)

    def look_at(self, clock: float | None) -> None:
        """Show a moment of the day on the floor, or none."""
        if clock != self.clock:
            self.clock = clock
            self._tell(look=True)

    def choose_part(self, key: str | None) -> None:
        """Look at a part of the bill: everything that it is for is selected; or at none."""
        line = self.computed.bill.line.get(key or "")
        elements = line.part.elements if line is not None else ()
        self.part = key if line is not None else None
        self.selected = tuple(element for element in elements if self.project.find(element) is not None)
        self._tell(look=True, selection=True)

    def propose_phases(self, budget: float) -> None:
        """Ask for phases of a budget each; they come from the background as one step. Raises `InputError`."""
        if not 0 < budget <= 1e7:
            raise InputError("Budget for a phase", budget, "write the money for one phase, more than 0")
        self.phase_budget = budget
        self._tell(look=True)

    def take_phased(self, after: Project) -> None:
        """Take the phases that were proposed, as one step."""
        self.phase_budget, self.face = None, "phases"
        self.edit("Propose phases", lambda project: after)
        self._tell(look=True)

    # -- putting down, taking away

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
        """Take away what is selected, with what cannot be without it. Raises `RefusedEdit`."""
        gone = self.selected
        if any("/parked-" in ident for ident in gone):
            self.edit("Take away the parked place", lambda p: edits.unparked(p, gone))
        elif gone and all("/" in ident for ident in gone):
            raise RefusedEdit(called(self.project, gone[-1]), "taking it away alone", "take the whole thing away")
        elif gone:
            self.edit("Take away", lambda p: edits.removed(p, gone))

    @property
    def can_paste(self) -> bool:
        """Whether something was copied or cut."""
        return bool(self._clipboard)

    def copy(self) -> None:
        """Remember what is selected for `paste`, as it is now."""
        self._clipboard = tuple(
            item for i in self.selected if isinstance(item := self.project.element.get(i), edits.Copyable)
        )
        self._tell()

    def cut(self) -> None:
        """Remember what is selected for `paste`, and take it away. Raises `RefusedEdit` as `delete`."""
        self.copy()
        self.delete()

    def paste(self) -> None:
        """Put copies of what was copied beside it, and select them."""
        made: list[str] = []

        def change(project: Project) -> Project:
            after, idents = edits.copied(project, self._clipboard)
            made[:] = idents
            return after

        self.edit("Paste", change)
        if made:
            self.select_all(tuple(made))

    # -- files

    @property
    def dirty(self) -> bool:
        """Whether there is work that no file holds."""
        held = self._saved or self._pristine
        return held is None or self.project != held

    def open(self, path: Path) -> None:
        """Open a project file. Raises `FileError`; what was open stays open then."""
        self.show_project(project_file.load(path), path)

    def unsaved(self) -> None:
        """What is open counts as work that no file holds yet."""
        self._saved = self._pristine = None
        self._tell(file=True)

    def open_demo(self, name: str) -> None:
        """Open a demo shop as a new project that is saved elsewhere. Raises `InputError`."""
        self.show_project(project_file.load(demo_path(name)), None)

    def show_project(self, project: Project, path: Path | None) -> None:
        """Put another project in place of this one, with a new history; one that cannot be computed changes nothing."""
        before = self.project
        self.computed.show(self.computed.assess(project, ()))
        self.computed.forget_findings()
        self._set(project, path)
        self.stage = _first_stage(project)
        self._tell(before, selection=True, running=True, file=True, look=True)

    def save(self, path: Path | None = None, over: bool = False) -> None:
        """Save to a path, or where it was saved before. Raises `FileError`; nothing is lost then.

        Raises `FileChanged` when the file is not as this program last read or wrote it; `over` saves all the same.
        """
        target = path or self.path
        if target is None:
            raise FileError(self.project.name, "has no file yet", "choose where to save it")
        if target == self.path and not over and self._stamp != stamp(target):
            raise FileChanged(str(target), "was changed by another program meanwhile", "save under another name")
        project_file.save(self.project, target)
        self.path, self._saved, self._stamp = target, self.project, stamp(target)
        self._tell(file=True)


def _first_stage(project: Project) -> str:
    return "air" if project.machines else "shop"


def demo_workspace(name: str = "loft") -> Workspace:
    """A workspace with a demo shop open."""
    return Workspace(project_file.load(demo_path(name)))

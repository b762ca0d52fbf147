"""What is open and what is shown of it: the stage, what the search offers, what is in hand, and its
file. No Qt.
"""

from __future__ import annotations

import datetime
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any, Literal

from grey_current.build.steps import Step
from grey_current.design.diagnosis.words import root_words
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.improve.comparison import Difference
from grey_current.design.parts.takeoffs import is_hose
from grey_current.design.space.reach_map import ReachMap
from grey_current.errors import FileChanged, FileError, InputError
from grey_current.files import project_file
from grey_current.files.safe_write import name_for, stamp
from grey_current.keep.lessons import lesson_shop
from grey_current.keep.monthly import Monthly
from grey_current.shop.build_plan import Price
from grey_current.shop.catalogue import CollectorModel
from grey_current.shop.day_edits import with_more_at
from grey_current.shop.demo_shops import demo_path
from grey_current.shop.duct_edits import Drawing
from grey_current.shop.edits import Change, Edit, removed, with_settings
from grey_current.shop.keep_plan import ReadingKind
from grey_current.shop.kept_designs import as_project, find
from grey_current.shop.model import Project
from grey_current.shop.room_edits import in_units
from grey_current.shop.templates import template_shop
from grey_current.standins.line import LineInstrument
from grey_current.workspace.first_shop import WORKS
from grey_current.workspace.jobs import HelpMachine, HelpShop
from grey_current.workspace.library import Library
from grey_current.workspace.offered_project import LAYING_STAGES, OfferedProject
from grey_current.workspace.offering import with_before_kept
from grey_current.workspace.placing import Placeable, copies_of, place, place_well
from grey_current.workspace.stages import stage, stepped

BuildFace = Literal["parts", "cuts", "steps", "phases"]
# Pages of finding a fault: none, what is noticed, at which machine, the next step, whether it is
# well again.
Finding = Literal["", "ask", "which", "step", "check"]


class Workspace(OfferedProject):
    """The open project, the stage that it is looked at from, and what is in hand there."""

    # Whether the guide to a first shop is shown, and for which work.
    guiding = False
    work = "any"

    def __init__(self, project: Project, path: Path | None = None) -> None:
        self.stage = _first_stage(project)
        # Collectors of the user's own library, which are candidates too.
        self.own_models: tuple[CollectorModel, ...] = ()
        # Where the user's own prices are kept.
        self.library: Library | None = None
        # What a new shop begins with, by the user's settings; the window puts its own here.
        self.begun: Callable[[Project], Project] = lambda made: made
        # What asks where to save a drawing of a thing made in the shop; the window puts its own
        # here.
        self.save_drawing: Callable[[str, dict[str, float]], None] = lambda template, figures: None
        # What asks where to save the sticker of a monthly reading; the window puts its own here.
        self.save_sticker: Callable[[Monthly], None] = lambda found: None
        # What shows all readings as a table; the strip puts its own here.
        self.show_readings: Callable[[], None] = lambda: None
        # What shows the shop in space; the window puts its own here.
        self.show_space: Callable[[], None] = lambda: None
        # What opens the logbook; the window puts its own here.
        self.show_logbook: Callable[[], None] = lambda: None
        # The instrument on a line that figures may be taken from.
        self.instrument: LineInstrument | None = None
        # What asks the instrument beside the window; the window puts its own here.
        self.take_figure: Callable[[tuple[ReadingKind, str, str]], None] = lambda asked: None
        super().__init__(project)
        self._stands_in(path)

    def _begin_with(self, project: Project) -> None:
        super()._begin_with(project)
        # How ducts are drawn on: height, size, material, angles.
        self.drawing = Drawing()
        # The page of reasons that is read: its id, "" for the list of them, None for none.
        self.reading: str | None = None
        # Which page of finding a fault is shown.
        self.finding: Finding = ""
        # The part of the bill that is looked at, by its key.
        self.part: str | None = None
        # Whether the floor shows what the chosen hose reaches.
        self.shows_reach = False
        # The moment of the day (s) that the floor shows at the Work stage.
        self.clock: float | None = None
        # The job of the day that is looked at, from 0.
        self.job: int | None = None
        # The change after which it is shown whose dust is left, by its words; "" for the best.
        self.dust_after = ""
        # What the strip of the Build stage shows.
        self.face: BuildFace = "parts"
        # The step of putting up that is looked at, from 1.
        self.step = 1
        # The budget for which phases are being proposed.
        self.phase_budget: float | None = None

    def _stands_in(self, path: Path | None) -> None:
        """The project is as a file has it, or in none yet."""
        self.path = path
        self._saved: Project | None = self.project if path else None
        self._stamp = stamp(path) if path else None
        self._pristine: Project | None = self.project

    # -- what is shown and what is in hand

    @property
    def measured(self) -> Assessment | None:
        """The air as the readings have it: at the Keep stage, where figures follow them, once it is
        worked out.
        """
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
        if measured is not None and scenario is not None:
            known = measured.of(scenario.scenario)
        else:
            known = None
        return known or scenario

    def air_at(self, machine: str) -> ScenarioAir | None:
        """What is told of a machine: in the scenario that is switched on where it runs, else
        alone.
        """
        if machine in self.running:
            return self.shown_scenario
        return self.shown_air.of_machine.get(machine)

    @property
    def verdict(self) -> str:
        """The one sentence at the top."""
        names_loss = not self.cause
        sentence = verdict(self.shown_air, self.shown_scenario, names_loss=names_loss)
        return sentence if self.measured is None else f"By your readings: {sentence}"

    @property
    def cause(self) -> str:
        """What takes the air of what the sentence at the top is about; empty until that is
        known.
        """
        running = self.running
        job = HelpShop() if not running else HelpMachine(running[0]) if len(running) == 1 else None
        found = self.computed.known_diagnosis(job)
        return root_words(self.project, found) if found is not None else ""

    @property
    def comparison(self) -> list[Difference] | None:
        """The present design against the one it is compared with; None when none is chosen or it is
        gone.
        """
        return self.computed.comparison(self.compared)

    def edit(self, label: str, change: Edit) -> None:
        """One edit, one undo step. Raises what `change` raises, with nothing changed."""
        before = self.project
        super().edit(label, change)
        self._keep_prices(before)

    def _keep_prices(self, before: Project) -> None:
        """Keep prices that were just entered in the user's own book too."""
        if self.project.build is before.build:
            return
        new = [price for price in self.project.build.prices if price not in before.build.prices]
        if new and self.library is not None:
            self.library.keep_prices(new)

    @property
    def own_prices(self) -> list[Price]:
        """Prices of the user's own book for parts of this shop that have none of its own here."""
        if self.library is None:
            return []
        lines = self.computed.bill.lines
        wanted = {line.part.key for line in lines if line.price is None or line.usual is not None}
        return [price for price in self.library.prices if price.key in wanted]

    def select_all(self, elements: tuple[str, ...]) -> None:
        """Select several elements; the last one is the one shown."""
        if elements != self.selected:
            self.part = self.reading = None
            super().select_all(elements)

    def select_next(self, step: int) -> None:
        """Select the next (1) or previous (-1) thing of this stage of the work."""
        things = stage(self.stage).things(self.project)
        if things:
            self.select(stepped(things, self.selection, step))

    def go(self, name: str) -> None:
        """Go to another stage of the work. Raises `KeyError` for an unknown one."""
        if stage(name).name != self.stage:
            self.stage, self.placing, self.part, self.phase_budget = name, None, None, None
            self.clock, self.reading, self.finding = None, None, ""
            self.asked = self.asked if name in LAYING_STAGES else None
            # The first collector is chosen on the shop's own page.
            if name == "collector" and not self.project.collectors:
                self.select(None)
            self._tell(look=True)

    def arm(self, placing: Placeable | None) -> None:
        """Take something from a strip in hand, to be put down by the next click on the floor."""
        if placing != self.placing:
            self.placing = placing
            self._tell(look=True)

    def put(self, placing: Placeable, x: float, y: float, *, well: bool = False) -> None:
        """Put something down at a place (m), and select it unless the guide is open; `well`
        looks for a better place.

        Raises `InputError`.
        """
        made: list[str] = []
        down = place_well if well else place

        def change(project: Project) -> Project:
            after, ident = down(project, placing, x, y)
            made[:] = [ident]
            return after

        self.placing = None
        self.edit(f"Put down the {placing.title.lower()}", change)
        # The guide goes on with the next one.
        if not self.guiding:
            self.select(made[0])

    def take_back(self, placing: Placeable) -> None:
        """Delete the last one of a thing. Raises `RefusedEdit` as deleting it does."""
        copies = copies_of(self.project, placing)
        if copies:
            self.edit(f"Delete the {placing.title.lower()}", lambda p: removed(p, copies[-1:]))

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

    def read(self, ident: str | None) -> None:
        """Open a page of reasons beside the floor, the list of them by "", or close it."""
        if ident != self.reading:
            self.reading = ident
            self._tell(look=True)

    def begin_lesson(self, number: int) -> None:
        """Open the shop of a practice lesson (from 1) in place of this one. Raises `InputError`
        for a number that is none.
        """
        loft = with_settings(
            project_file.load(demo_path("loft")), units=self.project.settings.units
        )
        self.show_project(lesson_shop(loft, number, datetime.date.today()), None)
        self.go("keep")

    def find_fault(self, page: Finding) -> None:
        """Show a page of finding a fault beside the floor, or none."""
        self.finding = page
        if page:
            self.select(None)
        self._tell(look=True)

    def show_me(self, change: Change) -> None:
        """Make a change as one step, with the design before kept and compared with.

        Raises what the change raises, and `RefusedEdit` when no more designs can be kept.
        """
        after, before = with_before_kept(self.project, change.edit(self.project))
        self.compared = before
        self.edit(change.words, lambda project: after)
        self._tell(look=True)

    def use_instrument(self, instrument: LineInstrument | None) -> None:
        """Take figures from another instrument on a line, or from none."""
        self.instrument = instrument
        self._tell(look=True)

    def draw_with(self, **changes: Any) -> None:
        """Draw the next ducts at another height, in another size or material, or at any angle."""
        drawing = replace(self.drawing, **changes)
        if drawing != self.drawing:
            self.drawing = drawing
            self._tell(look=True)

    # -- building

    def file_name(self, end: str) -> str:
        """A name for a file that is made of this shop: what the shop is called, and how the file's
        name ends.
        """
        return name_for(self.project.name.lower().replace(" ", "-"), end)

    def show_face(self, face: BuildFace) -> None:
        """Show parts, cuts or phases in the strip of the Build stage."""
        if face != self.face:
            self.face = face
            self._tell(look=True)

    @property
    def compared_project(self) -> Project | None:
        """The shop as the kept design has it that the present one is compared with; None where
        `compared_air` is.
        """
        air = self.compared_air
        return air.project if air is not None else None

    @property
    def compared_name(self) -> str:
        """What that kept design is called on screen; empty for none."""
        designs = {design.id: design.name for design in self.project.kept_designs}
        return f"Before: {designs[self.compared]}" if self.compared in designs else ""

    @property
    def compared_air(self) -> Assessment | None:
        """The air of that kept design; None for none, or for one that no longer goes into this
        shop.
        """
        return self.computed.kept_air(self.compared)

    @property
    def steps_shown(self) -> tuple[Step, ...]:
        """The steps of putting up while they are looked at, up to the one in hand; else none."""
        if self.stage != "build" or self.face != "steps":
            return ()
        return self.computed.steps[: self.step]

    def show_step(self, number: int) -> None:
        """Look at a step of putting up, from 1; one beyond the ends is the first or the last."""
        self.step = min(max(number, 1), max(len(self.computed.steps), 1))
        self._tell(look=True)

    def show_dust_after(self, words: str) -> None:
        """Show whose dust is left after another change, by its words."""
        self.dust_after = words
        self._tell(look=True)

    def add_minutes(self, machine: str) -> None:
        """Ten more minutes of the day at a machine. Raises `InputError` for an unknown one."""
        name = self.project.machine[machine].name.lower()
        self.edit(f"Ten more minutes at the {name}", lambda p: with_more_at(p, machine))
        self.choose_job(len(self.project.work.day) - 1)

    def choose_job(self, number: int | None) -> None:
        """Look at a job of the day (from 0), or at none."""
        count = len(self.project.work.day)
        known = number if number is not None and 0 <= number < count else None
        if known is not None and self.selection is not None:
            self.select(None)
        if known != self.job:
            self.job = known
            self._tell(look=True, selection=True)

    @property
    def chosen_job(self) -> int | None:
        """The job of the day that is looked at, while there is one."""
        job = self.job
        return job if job is not None and job < len(self.project.work.day) else None

    def look_at(self, clock: float | None) -> None:
        """Show a moment of the day on the floor, or none."""
        if clock != self.clock:
            self.clock = clock
            self._tell(look=True)

    def show_reach(self, shown: bool) -> None:
        """Show on the floor what the chosen hose reaches, or no longer."""
        if shown != self.shows_reach:
            self.shows_reach = shown
            self._tell(look=True)

    @property
    def reached(self) -> ReachMap | None:
        """What the chosen hose reaches of the floor, where that is shown."""
        run = self.project.run.get(self.selection or "")
        if not self.shows_reach or run is None or not is_hose(run):
            return None
        return self.computed.reach_of(run)

    def choose_part(self, key: str | None) -> None:
        """Look at a part of the bill: everything that it is for is selected; or at none."""
        line = self.computed.bill.line.get(key or "")
        elements = line.part.elements if line is not None else ()
        self.part = key if line is not None else None
        self.selected = tuple(
            element for element in elements if self.project.find(element) is not None
        )
        self._tell(look=True, selection=True)

    def propose_phases(self, budget: float) -> None:
        """Ask for phases of a budget each; they come from the background as one step. Raises
        `InputError`.
        """
        if not 0 < budget <= 1e7:
            raise InputError(
                "Budget for a phase", budget, "write the money for one phase, more than 0"
            )
        self.phase_budget = budget
        self._tell(look=True)

    def take_phased(self, after: Project) -> None:
        """Take the phases that were proposed, as one step."""
        self.phase_budget, self.face = None, "phases"
        self.edit("Propose phases", lambda project: after)
        self._tell(look=True)

    # -- files

    @property
    def dirty(self) -> bool:
        """Whether there is work that no file holds."""
        held = self._saved or self._pristine
        return held is None or self.project != held

    def open(self, path: Path) -> None:
        """Open a project file. Raises `FileError`; what was open stays open then."""
        self.show_project(project_file.load(path), path)

    def open_template(self, name: str) -> None:
        """Begin a new shop in one of the template rooms, with the guide. Raises `InputError`."""
        units = self.begun(self.project).settings.units
        self.show_project(self.begun(template_shop(name, units)), None)
        self.begin_guide()

    def begin_guide(self) -> None:
        """Show the guide to a first shop, from the stage where something is missing yet."""
        self.guiding = True
        project = self.project
        if not project.machines:
            self.go("shop")
        elif not project.collectors:
            self.go("collector")
        else:
            self.go("air")
        self.select(None)
        self._tell(look=True)

    def end_guide(self) -> None:
        """Close the guide; Help has it again."""
        self.guiding = False
        self._tell(look=True)

    def choose_work(self, work: str) -> None:
        """Say what one makes, for the guide. Raises `KeyError` for an unknown kind of work."""
        if work not in WORKS:
            raise KeyError(work)
        self.work = work
        self._tell(look=True)

    def unsaved(self) -> None:
        """What is open counts as work that no file holds yet."""
        self._saved = self._pristine = None
        self._tell(file=True)

    def open_demo(self, name: str) -> None:
        """Open a demo shop as a new project that is saved elsewhere; four walls begin as the user's
        settings want it. Raises `InputError`.
        """
        made = project_file.load(demo_path(name))
        if name == "empty":
            made = self.begun(in_units(made, self.project.settings.units))
        self.show_project(made, None)

    def show_project(self, project: Project, path: Path | None) -> None:
        """Put another project in place of this one, with a new history; one that cannot be computed
        changes nothing.
        """
        before = self.project
        self.computed.show(self.computed.assess(project, ()))
        self.computed.forget_findings()
        self._begin_with(project)
        self._stands_in(path)
        self.stage = _first_stage(project)
        self.guiding = False
        self._tell(before, selection=True, running=True, file=True, look=True)

    def save(self, path: Path | None = None, over: bool = False) -> None:
        """Save to a path, or where it was saved before. Raises `FileError`; nothing is lost then.

        Raises `FileChanged` when the file is not as this program last read or wrote it; `over`
        saves all the same.
        """
        target = path or self.path
        if target is None:
            raise FileError(self.project.name, "has no file yet", "choose where to save it")
        # Another program has written it: saving would lose that.
        if target == self.path and not over and self._stamp != stamp(target):
            raise FileChanged(
                str(target), "was changed by another program meanwhile", "save under another name"
            )
        project_file.save(self.project, target)
        self.path, self._saved, self._stamp = target, self.project, stamp(target)
        self._tell(file=True)


def _first_stage(project: Project) -> str:
    return "air" if project.machines else "shop"


def demo_workspace(name: str = "loft") -> Workspace:
    """A workspace with a demo shop open."""
    return Workspace(project_file.load(demo_path(name)))

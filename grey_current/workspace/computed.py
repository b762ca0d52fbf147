"""What follows from the project as it is: its air, its ground, findings, comparison and answers
from the background.

Everything here is kept while it is true and dropped when it is not.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from functools import cached_property

from grey_current.build.bill import Bill, bill
from grey_current.build.cuts import CutCache, numbered
from grey_current.build.phases import PhaseFacts
from grey_current.build.progress import Progress, begun, progress
from grey_current.build.setting_out import SettingOut
from grey_current.build.steps import Step, build_steps
from grey_current.design.diagnosis.diagnose import Diagnosis
from grey_current.design.findings.all_findings import AIR_RULES, GROUND_RULES, steps
from grey_current.design.findings.finding import Finding, Inspection, in_order
from grey_current.design.findings.remedies import Remedies
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.levers import GateSheet, LeverFacts, gate_sheet, lever_facts
from grey_current.design.flow.scenarios import Scenario, all_scenarios, scenario_of
from grey_current.design.flow.transport import slowest_transport
from grey_current.design.improve.comparison import Difference, compared, kept_assessment
from grey_current.design.improve.ranking import Improvement
from grey_current.design.judgement import SAME
from grey_current.design.laying.next_machine import NextMachines
from grey_current.design.parts.clean_outs import MainEnd, main_ends
from grey_current.design.parts.parts_list import PartsList
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hose_reach import Reach, reaches
from grey_current.design.space.reach_map import ReachMap, reach_map
from grey_current.errors import GreyCurrentError
from grey_current.keep.answers import HowSure
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.ducts import Run
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.workspace.jobs import Advice, Building, Job, Refused, Result, Worked
from grey_current.workspace.offering import Offer, OfferRequest, offer_of

# Cuttings that are kept; a shop has one for each of its pipes.
KEPT_CUTTINGS = 400
# Parts of a project that room to work follows from.
GROUND = (
    *("machines", "collectors", "features", "openings", "rooms", "beams", "settings"),
    *("outlets", "circuits", "arrangements", "arranged"),
)
# What a kept design shares with the present one, and is drawn or breathes by.
AROUND = ("rooms", "openings", "beams", "features", "circuits", "outlets", "settings")


class DerivedState:
    """The answers for one project after the other. Raises `DuctworkError` for one that cannot be
    traced.
    """

    def __init__(self, project: Project) -> None:
        self.assessment = assess(project)
        # Counts the projects shown; an answer computed elsewhere carries the revision that it is
        # for.
        self.revision = 0
        # The findings as they were last known; `stale` says whether that was before an edit.
        self.known_findings: list[Finding] = []
        self.stale = True
        self._space = FloorSpace(project)
        self._search: Iterator[None] | None = None
        self._about_ground: tuple[FloorSpace, list[Finding]] | None = None
        self._result: tuple[int, Job | None, Result] = (-1, None, ())
        self._kept: tuple[object, Assessment] | None = None
        self._reaches: dict[str, list[Reach]] = {}
        self._reach_maps: dict[str, ReachMap | None] = {}
        self._levers: dict[Scenario, LeverFacts] = {}
        self._cuttings: CutCache = {}
        self._phases: tuple[PhaseFacts, ...] = ()
        self._next: NextMachines | Refused | None = None
        # How the day goes, as it was last known.
        self.worked: Worked | None = None
        # How sure the airflows are, as it was last known.
        self.doubt: HowSure | None = None
        self._offer: tuple[tuple[int, Job], Result | None, Offer] | None = None

    def assess(
        self, project: Project, running: tuple[str, ...], places: tuple[str, ...] = ()
    ) -> Assessment:
        """The air of a project, started from the last answer, also for what is switched on. Raises
        `DuctworkError`.
        """
        scenarios = dict.fromkeys(all_scenarios(project))
        if len(running) > 1:
            scenarios.setdefault(scenario_of(project, running, places))
        return assess(project, list(scenarios), self.assessment)

    def show(self, assessment: Assessment) -> None:
        """Take another project's answer; findings go on being the old ones until
        `forget_findings`.
        """
        self.assessment = assessment
        self.revision += 1
        # What is a cached property here follows from the project, and is worked out once for each.
        for name in FOLLOWS:
            self.__dict__.pop(name, None)
        self._reaches, self._levers, self._reach_maps = {}, {}, {}

    # -- findings

    def forget_findings(self) -> None:
        """An edit has made the known findings old."""
        self.stale, self._search = True, None

    @property
    def space(self) -> FloorSpace:
        """Room to work, kept while nothing that takes room has changed."""
        if not _same_ground(self._space.project, self.assessment.project):
            self._space = FloorSpace(self.assessment.project)
        return self._space

    def find(self, enough: Callable[[], bool] = lambda: False) -> bool:
        """Go on finding until all is found or `enough` says to stop; returns whether all is
        found.
        """
        if not self.stale:
            return True
        self._search = self._search or self._find_all()
        return not any(enough() for _ in self._search)

    def _find_all(self) -> Iterator[None]:
        """The search as a walk that can be left between two pieces of work."""
        inspection = Inspection(self.assessment.counted, self.space)
        found: list[Finding] = []
        # None between two findings is where the window may take a breath.
        for finding in steps(AIR_RULES, inspection):
            if finding is None:
                yield
            else:
                found.append(finding)
        # Room to work depends on nothing that flows: kept while the ground is the same value.
        if self._about_ground is None or self._about_ground[0] is not inspection.space:
            ground: list[Finding] = []
            for finding in steps(GROUND_RULES, inspection):
                if finding is None:
                    yield
                else:
                    ground.append(finding)
            self._about_ground = (inspection.space, ground)
        self.known_findings = in_order([*found, *self._about_ground[1]])
        self.stale, self._search = False, None

    # -- names, paths, levers

    @cached_property
    def amiss(self) -> bool:
        """Whether any connected machine is short of air, or its chips are not carried."""
        for answer in self.assessment.counted.answers:
            if answer.worst is None or not answer.converged:
                continue
            slow = slowest_transport(self.assessment.project, answer)
            short = not all(pickup.nearly_met for pickup in answer.pickups)
            if short or (slow is not None and slow.share < 1 - SAME):
                return True
        return False

    @cached_property
    def names(self) -> Names:
        """What things are called, for the project as it is."""
        return Names(self.assessment.project)

    @cached_property
    def paths(self) -> AirPaths:
        """Which way air goes through the runs as drawn."""
        return AirPaths(self.assessment.project)

    @cached_property
    def main_ends(self) -> list[MainEnd]:
        """The end of each main, and whether it can be opened."""
        return main_ends(self.paths, self.assessment.project)

    def reaches(self, run: Run) -> list[Reach]:
        """How a moved hose gets to each pickup that it serves."""
        if run.id not in self._reaches:
            self._reaches[run.id] = reaches(self.assessment.project, self.space, run)
        return self._reaches[run.id]

    def reach_of(self, run: Run) -> ReachMap | None:
        """What a hose's free end reaches of the floor."""
        if run.id not in self._reach_maps:
            self._reach_maps[run.id] = reach_map(self.assessment.project, self.space, run)
        return self._reach_maps[run.id]

    @cached_property
    def gate_sheet(self) -> GateSheet:
        """The table of machines and gates."""
        return gate_sheet(self.assessment)

    def levers(self, running: tuple[str, ...], places: tuple[str, ...] = ()) -> LeverFacts:
        """The lever frame for what is switched on, at chosen working places."""
        scenario = scenario_of(self.assessment.project, running, places)
        if scenario not in self._levers:
            answer = self.assessment.of(scenario) if len(running) == 1 else None
            flush = None
            if answer is not None and answer.converged:
                flush = Remedies(self.assessment.counted, self.names).flush(answer)
            best = flush.element if flush is not None else None
            self._levers[scenario] = lever_facts(self.assessment, scenario, best)
        return self._levers[scenario]

    # -- answers from the background

    def take_result(self, revision: int, job: Job, found: Result) -> bool:
        """Take a job's result; one for another revision is dropped. Returns whether it was
        taken.
        """
        if revision != self.revision:
            return False
        self._result = (revision, job, found)
        if isinstance(found, Building):
            self._keep_building(found)
        elif isinstance(found, Worked):
            self.worked = found
        elif isinstance(found, HowSure):
            self.doubt = found
        return True

    def known(self, job: Job | None) -> Result | None:
        """The result of a job for the project as it is; None while it is not known."""
        revision, of, found = self._result
        return found if (revision, of) == (self.revision, job) else None

    def known_improvements(self, job: Job | None) -> Sequence[Improvement] | None:
        """The computed changes that answer a job about the project as it is; None when they are not
        known.
        """
        found = self.known(job)
        if isinstance(found, Advice):
            return found.changes if found.complete else None
        return found if isinstance(found, Sequence) else None

    def known_diagnosis(self, job: Job | None) -> Diagnosis | None:
        """What takes the air, as the answer to a job says; None while it is not known."""
        found = self.known(job)
        return found.diagnosis if isinstance(found, Advice) else None

    def known_adds(self, job: Job | None, change: str) -> str:
        """How many problems a change adds, in words; empty while that is not known, or for none."""
        found = self.known(job)
        return found.adds.get(change, "") if isinstance(found, Advice) else ""

    def offer(self, asked: OfferRequest) -> Offer:
        """What is known of what the search was asked for, as rows."""
        found = self.known(asked.job)
        key = (self.revision, asked.job)
        if self._offer is None or self._offer[0] != key or self._offer[1] is not found:
            self._offer = key, found, offer_of(self.assessment, asked.kind, found)
        return self._offer[2]

    # -- building

    @cached_property
    def parts(self) -> PartsList:
        """Straight pieces and parts of the project as it is."""
        return PartsList(self.assessment.project)

    @cached_property
    def bill(self) -> Bill:
        """The bill, by the cuttings known so far.

        Raises `DuctworkError` where no pipe that is sold will do.
        """
        return bill(self.assessment.project, self.parts, quick=self._cuttings)

    @cached_property
    def steps(self) -> tuple[Step, ...]:
        """The order in which the ductwork is put up. Raises as `bill` does."""
        return build_steps(SettingOut(self.parts, numbered(self.bill.cuts)))

    @cached_property
    def progress(self) -> Progress | None:
        """How far the building is; None where nothing is ticked."""
        project = self.assessment.project
        # Every edit asks, and most shops are not being built.
        return progress(project, self.parts) if begun(project) else None

    @property
    def phases(self) -> tuple[PhaseFacts, ...]:
        """The phases as they were last known; empty before they were computed for the first
        time.
        """
        return self._phases

    @property
    def next_machines(self) -> NextMachines | Refused | None:
        """Which main stays good for the next machines, as it was last known."""
        return self._next

    def _keep_building(self, found: Building) -> None:
        """Keep how pipe is cut, for all projects that want the same pieces, and the phases."""
        self._cuttings = dict([*self._cuttings.items(), *found.known.items()][-KEPT_CUTTINGS:])
        self._phases = found.phases
        if found.complete:
            self._next = found.next
        for stale in ("bill", "steps"):
            self.__dict__.pop(stale, None)

    # -- two designs

    def kept_air(self, kept_design: str | None) -> Assessment | None:
        """The air of a kept design, by its id; None when none is chosen, it is gone, or it no
        longer goes into this shop.
        """
        project = self.assessment.project
        kept = next((design for design in project.kept_designs if design.id == kept_design), None)
        if kept is None:
            return None
        key = (kept, *(getattr(project, name) for name in AROUND))
        if self._kept is None or self._kept[0] != key:
            try:
                answer = kept_assessment(project, kept.id)
            except GreyCurrentError:  # what was put into the shop since has taken its ids
                return None
            self._kept = (key, answer)
        return self._kept[1]

    def comparison(self, compared_with: str | None) -> list[Difference] | None:
        """The present design against a kept one, by its id; None where `kept_air` is."""
        kept = self.kept_air(compared_with)
        return compared(self.assessment.counted, kept) if kept is not None else None


# What of it follows from the project and is forgotten with it.
FOLLOWS = [name for name, item in vars(DerivedState).items() if isinstance(item, cached_property)]


def _same_ground(a: Project, b: Project) -> bool:
    """Whether two projects have the same things standing in the same places."""
    return a is b or all(getattr(a, name) == getattr(b, name) for name in GROUND)

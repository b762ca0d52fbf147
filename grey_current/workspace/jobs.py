"""Questions whose answers take a while, so that they are asked beside the window.

Each question is a value of its own kind, which knows how it is answered; two that are equal have
the same answer for the same project.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, fields, replace

from grey_current.build.cuts import CutCache, cutting_list
from grey_current.build.phases import PhaseFacts, phase_facts, proposed_phases
from grey_current.design.collector.sizing import Sizing
from grey_current.design.diagnosis.diagnose import Diagnosis, diagnose
from grey_current.design.diagnosis.symptoms import symptoms
from grey_current.design.findings.adds import added_findings, added_words
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.improve.ranking import (
    Improvement,
    ShouldContinue,
    improvements,
    part_improvements,
)
from grey_current.design.improve.shop_search import shop_improvements
from grey_current.design.laying.first_tree import sizing_for
from grey_current.design.laying.next_machine import NextMachines, next_machines
from grey_current.design.laying.places import CollectorPlaces, where_to_stand
from grey_current.design.laying.proposal import Proposals
from grey_current.design.laying.proposals import propose
from grey_current.design.laying.resizing import Resized, resized
from grey_current.errors import GreyCurrentError
from grey_current.keep.answers import HowSure, followed, how_sure
from grey_current.keep.robustness import HowOften, how_often
from grey_current.shop.catalogue import CollectorModel
from grey_current.shop.edits import Edit
from grey_current.shop.model import Project
from grey_current.work.day import Day
from grey_current.work.day_plan import plan_day
from grey_current.work.day_tasks import better_neighbours, better_order
from grey_current.work.dust_budget import DayDust, day_dust
from grey_current.work.one_stops import OneStops, one_stops
from grey_current.work.order import Order
from grey_current.work.pairs import Pair, all_pairs
from grey_current.work.room_changes import RoomChange, room_changes
from grey_current.work.room_day import RoomDay, room_day
from grey_current.work.separators import SeparatorRow, separator_rows
from grey_current.work.worth import Worth, worth_making
from grey_current.workers.pool import ALONE, Crew

# Improvements that a window may show at once.
SHOWN = 9
# Machines up to which each change is looked at for what it adds: beyond it takes seconds a change.
MOST_LOOKED_AT = 60


@dataclass(frozen=True)
class Resizings:
    """The drawn ducts in other sizes, the better first."""

    rows: tuple[Resized, ...]
    complete: bool = True


@dataclass(frozen=True)
class Refused:
    """A question that has no answer, and why not in one sentence."""

    sentence: str


@dataclass(frozen=True)
class Building:
    """How pipe is cut, by what was asked of the cutter, and the phases; then the main for the next
    machines, or why there is none to try.
    """

    known: CutCache
    phases: tuple[PhaseFacts, ...]
    next: NextMachines | Refused | None = None
    complete: bool = True


@dataclass(frozen=True)
class Worked:
    """How the day goes.

    Attributes:
        day: In the order that is typed.
        best: The better order, and `saved` what it saves, s.
        room: The air of the rooms, `dust` where it comes from and when it is gone, and `changes`
            what would clear it.
        pairs: Every two machines, judged; `stops` what becomes of chips when one of two stops.
        neighbours: Two machines whose places had better be changed, and the seconds that it saves.
    """

    day: Day
    best: Order
    saved: float
    room: RoomDay
    dust: DayDust
    changes: tuple[RoomChange, ...] = ()
    pairs: tuple[Pair, ...] = ()
    neighbours: tuple[str, str, float] | None = None
    worth: tuple[Worth, ...] = ()
    stops: tuple[OneStops, ...] = ()
    complete: bool = True


@dataclass(frozen=True)
class Advice:
    """What takes the air of a machine or of the whole shop, then what would help most.

    Attributes:
        diagnosis: The causes, the root cause first.
        changes: Every sensible change, the best first; empty until `complete`.
        adds: By a change's words how many problems it adds, in words.
    """

    diagnosis: Diagnosis
    changes: tuple[Improvement, ...] = ()
    adds: Mapping[str, str] = field(default_factory=dict)
    complete: bool = True


@dataclass(frozen=True)
class CollectorSized(Sizing):
    """What a collector must do and which would, then which separator it had better have."""

    separators: tuple[SeparatorRow, ...] = ()
    complete: bool = True


@dataclass(frozen=True)
class Phased:
    """The shop in phases for a budget each."""

    project: Project


Laid = Proposals | CollectorPlaces | Resizings
Result = (
    Sequence[Improvement]
    | Advice
    | Sizing
    | Laid
    | Building
    | Phased
    | Worked
    | HowSure
    | HowOften
    | Refused
)
OnProgress = Callable[[Result], None]


@dataclass(frozen=True)
class Beside:
    """What an answer may use while it is worked out.

    Attributes:
        should_continue: Asked now and then; the answer is worthless once it returns False.
        on_progress: Told what is found on the way, by questions that take long.
        crew: Helpers that take a share of what can be shared.
    """

    should_continue: ShouldContinue = lambda: True
    on_progress: OnProgress = lambda found: None
    crew: Crew = ALONE


class Job(ABC):
    """A question about the project as it is."""

    @abstractmethod
    def answer(self, now: Assessment, beside: Beside) -> Result:
        """Work the answer out. Raises `GreyCurrentError` where there is none."""


# -- advice


@dataclass(frozen=True)
class HelpMachine(Job):
    """What takes a machine's air, and what would help it most."""

    machine: str

    def answer(self, now: Assessment, beside: Beside) -> Result:
        return _advice(
            now,
            self.machine,
            beside,
            lambda: improvements(now, self.machine, beside.should_continue),
        )


@dataclass(frozen=True)
class HelpShop(Job):
    """What takes the whole shop's air, and what would help it most."""

    def answer(self, now: Assessment, beside: Beside) -> Result:
        return _advice(
            now, None, beside, lambda: shop_improvements(now, beside.should_continue, beside.crew)
        )


@dataclass(frozen=True)
class OtherParts(Job):
    """What other ways to make a part would be worth to a machine."""

    part: str
    machine: str

    def answer(self, now: Assessment, beside: Beside) -> Result:
        return _ready(part_improvements(now, self.part, self.machine, beside.should_continue))


# -- collector and ducts


@dataclass(frozen=True)
class SizeCollector(Job):
    """What a collector must do, None for one to come.

    `models` are considered besides the shipped ones.
    """

    collector: str | None
    models: tuple[CollectorModel, ...] = ()

    def answer(self, now: Assessment, beside: Beside) -> Result:
        found = sizing_for(now, self.collector, self.models, beside.should_continue)
        parts = {part.name: getattr(found, part.name) for part in fields(found)}
        sized = CollectorSized(**parts, complete=self.collector is None)
        if self.collector is None or not beside.should_continue():
            return sized
        beside.on_progress(sized)
        rows = tuple(separator_rows(now.project, self.collector))
        return replace(sized, separators=rows, complete=True)


@dataclass(frozen=True)
class LayDucts(Job):
    """How all ducts might be laid, or those that are missing."""

    only_unconnected: bool = False

    def answer(self, now: Assessment, beside: Beside) -> Result:
        found = propose(
            now.project,
            only_unconnected=self.only_unconnected,
            should_continue=beside.should_continue,
            on_progress=beside.on_progress,
            crew=beside.crew,
        )
        # Looked for here, so that no window has to wait for it.
        for proposal in found.proposals:
            _ = proposal.problems
        return found


@dataclass(frozen=True)
class SizeDucts(Job):
    """In which sizes the ducts had better be."""

    def answer(self, now: Assessment, beside: Beside) -> Result:
        return Resizings(resized(now.project, beside.should_continue))


@dataclass(frozen=True)
class PlaceCollector(Job):
    """Where a collector should stand, None for the first one."""

    collector: str | None = None

    def answer(self, now: Assessment, beside: Beside) -> Result:
        return where_to_stand(
            now.project,
            self.collector,
            should_continue=beside.should_continue,
            on_progress=beside.on_progress,
            crew=beside.crew,
        )


# -- building


@dataclass(frozen=True)
class CutPipe(Job):
    """How the pipe is cut, and what each phase is."""

    def answer(self, now: Assessment, beside: Beside) -> Result:
        known: CutCache = {}
        cutting_list(now.project, known=known)
        phases = phase_facts(now.project, beside.should_continue, known)
        built = Building(known, phases, complete=False)
        beside.on_progress(built)
        try:
            after: NextMachines | Refused
            after = next_machines(now.project, should_continue=beside.should_continue)
        except GreyCurrentError as problem:
            after = Refused(str(problem))
        return replace(built, next=after, complete=True)


@dataclass(frozen=True)
class ProposePhases(Job):
    """Phases that cost no more than a budget each."""

    budget: float

    def answer(self, now: Assessment, beside: Beside) -> Result:
        return Phased(proposed_phases(now.project, self.budget, beside.should_continue))


# -- work and keep


@dataclass(frozen=True)
class GoThroughDay(Job):
    """How the day goes."""

    def answer(self, now: Assessment, beside: Beside) -> Result:
        return _worked(now, beside.should_continue, beside.on_progress)


@dataclass(frozen=True)
class AskHowSure(Job):
    """How sure the airflows are, and what readings have taught."""

    def answer(self, now: Assessment, beside: Beside) -> Result:
        return how_sure(now, should_continue=beside.should_continue)


@dataclass(frozen=True)
class AskHowOften(Job):
    """In how many shops like this one the advice for a machine holds."""

    machine: str

    def answer(self, now: Assessment, beside: Beside) -> Result:
        found = how_often(now, self.machine, followed(now), beside.should_continue)
        _ready([holds.improvement for holds in found.changes])
        return found


def carried_out(now: Assessment, job: Job, beside: Beside | None = None) -> Result:
    """Return the answer to a question about the present design.

    Raises nothing: where there is no answer, it says why not.
    """
    try:
        return job.answer(now, beside or Beside())
    except GreyCurrentError as problem:
        return Refused(str(problem))


def _advice(
    now: Assessment, machine: str | None, beside: Beside, changes: Callable[[], list[Improvement]]
) -> Advice:
    """The causes as soon as they are known, the changes behind them."""
    diagnosis = diagnose(now, machine, symptoms(now), beside.should_continue)
    beside.on_progress(Advice(diagnosis, complete=False))
    found = tuple(_ready(changes()))
    return Advice(diagnosis, found, _adds(now, diagnosis, found, beside))


def _adds(
    now: Assessment, diagnosis: Diagnosis, found: Sequence[Improvement], beside: Beside
) -> dict[str, str]:
    """What each change in sight adds to what `check` says, by its words."""
    if len(now.project.machines) > MOST_LOOKED_AT:
        return {}
    offered: dict[str, Edit] = {}
    for cause in diagnosis.causes:
        if cause.cure is not None:
            offered[cause.cure.change.words] = cause.cure.change.edit
    offered |= {improvement.words: improvement.edit for improvement in found[:SHOWN]}
    words: dict[str, str] = {}
    for name, edit in offered.items():
        if not beside.should_continue():
            return {}
        after = edit(now.project)
        then = assess(after, all_scenarios(after), now)
        words[name] = added_words(added_findings(now, then))
    return words


def _ready(found: list[Improvement]) -> list[Improvement]:
    """Improvements with what the first of them cost worked out here, not while a window is
    painted.
    """
    for improvement in found[:SHOWN]:
        _ = improvement.costs, improvement.money
    return found


def _worked(now: Assessment, should_continue: ShouldContinue, on_progress: OnProgress) -> Worked:
    """The day first, then what would help."""
    jobs = now.project.work.day
    day, (best, saved) = plan_day(now, jobs), better_order(now, jobs)
    # The day itself is there at once; what would help takes some seconds.
    room = room_day(now, day)
    first = Worked(day, best, saved, room, day_dust(now, room), complete=False)
    on_progress(first)
    pairs = all_pairs(now) if should_continue() else []
    changes = room_changes(now, first.room, should_continue) if should_continue() else []
    neighbours = better_neighbours(now, jobs, day.order)
    return replace(
        first,
        changes=tuple(changes),
        pairs=tuple(pairs),
        neighbours=neighbours,
        worth=tuple(worth_making(now)),
        stops=tuple(one_stops(now, pairs)),
        complete=True,
    )

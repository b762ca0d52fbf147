"""Questions whose answers take a while, so that they are asked beside the window: one kind of value
for all of them.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from grey_current.build.cuts import CutCache, cutting_list
from grey_current.build.phases import PhaseFacts, phase_facts, proposed_phases
from grey_current.design.collector.sizing import Sizing
from grey_current.design.flow.assessment import Assessment
from grey_current.design.improve.ranking import (
    Improvement,
    ShouldContinue,
    improvements,
    part_improvements,
)
from grey_current.design.improve.shop_search import shop_improvements
from grey_current.design.laying.first_tree import sizing_for
from grey_current.design.laying.places import CollectorPlaces, where_to_stand
from grey_current.design.laying.proposal import Proposals
from grey_current.design.laying.proposals import propose
from grey_current.design.laying.resizing import Resized, resized
from grey_current.errors import GreyCurrentError
from grey_current.keep.answers import HowSure, followed, how_sure
from grey_current.keep.robustness import HowOften, how_often
from grey_current.shop.catalogue import CollectorModel
from grey_current.shop.model import Project
from grey_current.work.day import Day
from grey_current.work.day_plan import plan_day
from grey_current.work.day_tasks import better_neighbours, better_order
from grey_current.work.one_stops import OneStops, one_stops
from grey_current.work.order import Order
from grey_current.work.pairs import Pair, all_pairs
from grey_current.work.room_changes import RoomChange, room_changes
from grey_current.work.room_day import RoomDay, room_day
from grey_current.work.worth import Worth, worth_making
from grey_current.workers.pool import ALONE, Crew

SHOWN = 9
"""Improvements that a window may show at once."""


@dataclass(frozen=True)
class Job:
    """What is asked: what would help a machine (`subject`), what the whole shop, what other ways to
    make a part (`subject`) would be worth to a machine, what a collector (`subject`, empty for one
    to come) must do, how all ducts might be laid or those that are missing, in which sizes, or
    where a collector (`subject`) should stand; how the pipe is cut and what each phase is, or
    phases for a budget (`subject`); how the day goes; how sure the airflows are and what readings
    have taught.

    `models` are the collectors considered besides the shipped ones.
    """

    about: Literal[
        "machine",
        "shop",
        "part",
        "collector",
        "ducts",
        "unconnected",
        "sizes",
        "places",
        "building",
        "phasing",
        "day",
        "doubt",
        "holds",
    ]
    subject: str = ""
    machine: str = ""
    models: tuple[CollectorModel, ...] = ()


@dataclass(frozen=True)
class Resizings:
    """The drawn ducts in other sizes, the better first."""

    rows: tuple[Resized, ...]
    complete: bool = True


@dataclass(frozen=True)
class Building:
    """How pipe is cut, by what was asked of the cutter, and the phases."""

    known: CutCache
    phases: tuple[PhaseFacts, ...]


@dataclass(frozen=True)
class Worked:
    """How the day goes: in the order that is typed, the better order and what it saves (s), the air
    of the rooms.

    `changes` are what would clear it, `pairs` every two machines, judged, `stops` what becomes of
    chips when one of two stops, `neighbours` two machines whose places had better be changed.
    """

    day: Day
    best: Order
    saved: float
    room: RoomDay
    changes: tuple[RoomChange, ...] = ()
    pairs: tuple[Pair, ...] = ()
    neighbours: tuple[str, str, float] | None = None
    worth: tuple[Worth, ...] = ()
    stops: tuple[OneStops, ...] = ()
    complete: bool = True


@dataclass(frozen=True)
class Phased:
    """The shop in phases for a budget each."""

    project: Project


@dataclass(frozen=True)
class Refused:
    """A question that has no answer, and why not in one sentence."""

    sentence: str


Laid = Proposals | CollectorPlaces | Resizings
Result = (
    Sequence[Improvement]
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


def carried_out(
    now: Assessment,
    job: Job,
    should_continue: ShouldContinue = lambda: True,
    on_progress: OnProgress = lambda found: None,
    crew: Crew = ALONE,
) -> Result:
    """The answer to a question about the present design; worthless once `should_continue` answers
    False.

    `on_progress` is told what is found on the way, where the question is one of those that take
    long; `crew` are helpers that take a share of what can be shared. Raises nothing.
    """
    try:
        return _answered(now, job, should_continue, on_progress, crew)
    except GreyCurrentError as problem:
        return Refused(str(problem))


def _answered(
    now: Assessment, job: Job, should_continue: ShouldContinue, on_progress: OnProgress, crew: Crew
) -> Result:
    if job.about in ("ducts", "unconnected"):
        return propose(
            now.project,
            only_unconnected=job.about == "unconnected",
            should_continue=should_continue,
            on_progress=on_progress,
        )
    if job.about == "places":
        return where_to_stand(
            now.project,
            job.subject or None,
            should_continue=should_continue,
            on_progress=on_progress,
            crew=crew,
        )
    if job.about == "sizes":
        return Resizings(resized(now.project, should_continue))
    if job.about == "building":
        known: CutCache = {}
        cutting_list(now.project, known=known)
        return Building(known, phase_facts(now.project, should_continue, known))
    if job.about == "day":
        return _worked(now, should_continue, on_progress)
    if job.about == "doubt":
        return how_sure(now, should_continue=should_continue)
    if job.about == "holds":
        found = how_often(now, job.subject, followed(now), should_continue)
        _ready([holds.improvement for holds in found.changes])
        return found
    if job.about == "phasing":
        return Phased(proposed_phases(now.project, float(job.subject), should_continue))
    if job.about == "machine":
        return _ready(improvements(now, job.subject, should_continue))
    if job.about == "shop":
        return _ready(shop_improvements(now, should_continue, crew))
    if job.about == "part":
        return _ready(part_improvements(now, job.subject, job.machine, should_continue))
    return sizing_for(now, job.subject or None, job.models, should_continue)


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
    first = Worked(day, best, saved, room_day(now, day), complete=False)
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

"""Questions whose answers take a while, so that they are asked beside the window: one kind of value for all of them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

from grey_current.design.collector.candidates import Offer, offers
from grey_current.design.collector.requirement import Requirement, hardest, requirements
from grey_current.design.collector.system_kinds import SystemKind, system_kinds
from grey_current.design.flow.assessment import Assessment
from grey_current.design.improve.ranking import Improvement, Wanted, improvements, part_improvements, shop_improvements
from grey_current.design.laying.places import CollectorPlaces, where_to_stand
from grey_current.design.laying.proposals import Proposals, propose
from grey_current.design.laying.resizing import Resized, resized
from grey_current.errors import GreyCurrentError
from grey_current.shop.catalogue import CollectorModel, catalogue


@dataclass(frozen=True)
class Job:
    """What is asked: what would help a machine (`subject`), what the whole shop, what other ways to make a part
    (`subject`) would be worth to a machine, what a collector (`subject`, empty for one to come) must do, how all ducts
    might be laid or those that are missing, in which sizes, or where a collector (`subject`) should stand.

    `models` are the collectors considered besides the shipped ones.
    """

    about: Literal["machine", "shop", "part", "collector", "ducts", "unconnected", "sizes", "places"]
    subject: str = ""
    machine: str = ""
    models: tuple[CollectorModel, ...] = ()


@dataclass(frozen=True)
class Sizing:
    """What a collector must do for each scenario, the one that rules, how each candidate would do, and other ways."""

    requirements: tuple[Requirement, ...]
    hardest: Requirement | None
    offers: tuple[Offer, ...]
    system_kinds: tuple[SystemKind, ...]


@dataclass(frozen=True)
class Resizings:
    """The drawn ducts in other sizes, the better first."""

    rows: tuple[Resized, ...]
    complete: bool = True


@dataclass(frozen=True)
class Refused:
    """A question that has no answer, and why not in one sentence."""

    sentence: str


Laid = Proposals | CollectorPlaces | Resizings
Result = Sequence[Improvement] | Sizing | Laid | Refused
Report = Callable[[Result], None]


def carried_out(
    now: Assessment, job: Job, wanted: Wanted = lambda: True, report: Report = lambda found: None
) -> Result:
    """The answer to a question about the present design; worthless once `wanted` answers False.

    `report` is told what is found on the way, where the question is one of those that take long. Raises nothing.
    """
    try:
        return _answered(now, job, wanted, report)
    except GreyCurrentError as problem:
        return Refused(str(problem))


def _answered(now: Assessment, job: Job, wanted: Wanted, report: Report) -> Result:
    if job.about in ("ducts", "unconnected"):
        return propose(now.project, only_unconnected=job.about == "unconnected", wanted=wanted, report=report)
    if job.about == "places":
        return where_to_stand(now.project, job.subject or None, wanted=wanted, report=report)
    if job.about == "sizes":
        return Resizings(resized(now.project, wanted))
    if job.about == "machine":
        return improvements(now, job.subject, wanted)
    if job.about == "shop":
        return shop_improvements(now, wanted)
    if job.about == "part":
        return part_improvements(now, job.subject, job.machine, wanted)
    return sizing(now, job.subject or None, job.models, wanted)


def sizing(
    now: Assessment, collector: str | None, models: Sequence[CollectorModel] = (), wanted: Wanted = lambda: True
) -> Sizing:
    """What a collector must do and which would do it. Raises nothing."""
    project = now.project
    found = tuple(requirements(project, collector))
    offered = tuple(offers(project, collector, (*models, *catalogue().collectors))) if wanted() and found else ()
    kinds = tuple(system_kinds(project)) if wanted() else ()
    return Sizing(found, hardest(found), offered, kinds)

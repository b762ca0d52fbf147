"""Questions whose answers take a while, so that they are asked beside the window: one kind of value for all of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from grey_current.design.collector.candidates import Offer, Requirement, hardest, offers, requirements
from grey_current.design.collector.system_kinds import Scheme, schemes
from grey_current.design.flow.assessment import Assessment
from grey_current.design.improve.ranking import Lever, Wanted, choices, levers, shop_levers
from grey_current.shop.catalogue import CollectorModel, catalogue


@dataclass(frozen=True)
class Question:
    """What is asked: what would help a machine (`of`), what the whole shop, what other ways to make a part (`of`)
    would be worth to a machine, or what a collector (`of`, empty for one to come) must do and which would.

    `models` are the collectors considered besides the shipped ones.
    """

    about: Literal["machine", "shop", "part", "collector"]
    of: str = ""
    machine: str = ""
    models: tuple[CollectorModel, ...] = ()


@dataclass(frozen=True)
class Sizing:
    """What a collector must do for each use, the use that rules, how each candidate would do it, and other ways."""

    requirements: tuple[Requirement, ...]
    hardest: Requirement | None
    offers: tuple[Offer, ...]
    schemes: tuple[Scheme, ...]


Answer = Sequence[Lever] | Sizing


def answered(now: Assessment, question: Question, wanted: Wanted = lambda: True) -> Answer:
    """The answer to a question about the present design; worthless once `wanted` answers False. Raises nothing."""
    if question.about == "machine":
        return levers(now, question.of, wanted)
    if question.about == "shop":
        return shop_levers(now, wanted)
    if question.about == "part":
        return choices(now, question.of, question.machine, wanted)
    return sizing(now, question.of or None, question.models, wanted)


def sizing(
    now: Assessment, collector: str | None, models: Sequence[CollectorModel] = (), wanted: Wanted = lambda: True
) -> Sizing:
    """What a collector must do and which would do it. Raises nothing."""
    project = now.project
    found = tuple(requirements(project, collector))
    offered = tuple(offers(project, collector, (*models, *catalogue().collectors))) if wanted() and found else ()
    ways = tuple(schemes(project)) if wanted() else ()
    return Sizing(found, hardest(found), offered, ways)

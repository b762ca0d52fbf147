"""What a collector must do and which would do it, all in one answer."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from grey_current.design.collector.candidates import Offer, Refit, offers
from grey_current.design.collector.requirement import Requirement, hardest, requirements
from grey_current.design.collector.system_kinds import SystemKind, system_kinds
from grey_current.design.flow.assessment import Assessment
from grey_current.shop.catalogue import CollectorModel, catalogue


@dataclass(frozen=True)
class Sizing:
    """What a collector must do for each scenario, the one that rules, how each candidate would do,
    and other ways.

    `estimated` where ducts are missing and were guessed at, so that the figures have a band.
    """

    requirements: tuple[Requirement, ...]
    hardest: Requirement | None
    offers: tuple[Offer, ...]
    system_kinds: tuple[SystemKind, ...]
    estimated: bool = False


def sizing(
    now: Assessment,
    collector: str | None,
    models: Sequence[CollectorModel] = (),
    should_continue: Callable[[], bool] = lambda: True,
    refit: Refit = lambda project: project,
    *,
    guessed: bool = False,
) -> Sizing:
    """What a collector must do and which would do it. Raises nothing.

    `refit` makes the ducts of a shop with a candidate go with it; `guessed` says that ducts in
    `now` are a guess, for which other ways to make the whole are not asked.
    """
    project = now.project
    found = tuple(requirements(project, collector))
    if should_continue() and found:
        offered = tuple(offers(now, collector, (*models, *catalogue().collectors), refit))
    else:
        offered = ()
    others = tuple(system_kinds(now)) if not guessed and should_continue() else ()
    # Through drawn ducts the count of machines served is exact; otherwise it is told as a range.
    uncertain = guessed or any(requirement.estimated for requirement in found)
    if not uncertain:
        offered = tuple(replace(offer, close=(offer.served, offer.served)) for offer in offered)
    return Sizing(found, hardest(found), offered, others, uncertain)

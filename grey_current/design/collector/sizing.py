"""What a collector must do and which would do it, all in one answer."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from grey_current.design.collector.candidates import Offer, offers
from grey_current.design.collector.requirement import Requirement, hardest, requirements
from grey_current.design.collector.system_kinds import SystemKind, system_kinds
from grey_current.design.flow.assessment import Assessment
from grey_current.shop.catalogue import CollectorModel, catalogue


@dataclass(frozen=True)
class Sizing:
    """What a collector must do for each scenario, the one that rules, how each candidate would do, and other ways."""

    requirements: tuple[Requirement, ...]
    hardest: Requirement | None
    offers: tuple[Offer, ...]
    system_kinds: tuple[SystemKind, ...]


def sizing(
    now: Assessment,
    collector: str | None,
    models: Sequence[CollectorModel] = (),
    wanted: Callable[[], bool] = lambda: True,
) -> Sizing:
    """What a collector must do and which would do it. Raises nothing."""
    project = now.project
    found = tuple(requirements(project, collector))
    offered = tuple(offers(now, collector, (*models, *catalogue().collectors))) if wanted() and found else ()
    kinds = tuple(system_kinds(now)) if wanted() else ()
    return Sizing(found, hardest(found), offered, kinds)

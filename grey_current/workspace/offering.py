"""What the search offers to take: layouts, sizes or places as rows, what they are pointed at, and
taking one. No Qt.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

from grey_current.design.findings.finding import Finding
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.flow.scenarios import scenario_of
from grey_current.design.judgement import Judgement, air_judgement
from grey_current.design.laying.places import CollectorPlace, CollectorPlaces, taken
from grey_current.design.laying.proposal import Proposal, Proposals
from grey_current.design.laying.resizing import Resized
from grey_current.numerals import decimal
from grey_current.shop.kept_designs import kept, same_as_kept
from grey_current.shop.model import Project
from grey_current.shop.names import capital
from grey_current.units import Display
from grey_current.workspace.jobs import (
    Job,
    LayDucts,
    PlaceCollector,
    Refused,
    Resizings,
    Result,
    SizeDucts,
)

OfferKind = Literal["ducts", "unconnected", "sizes", "places"]
TITLES: dict[OfferKind, str] = {
    "ducts": "Lay the ducts",
    "unconnected": "Connect what is not connected",
    "sizes": "Size the ducts",
    "places": "Where should it stand?",
}
STEPS: dict[OfferKind, str] = {
    "ducts": "Lay the ducts",
    "unconnected": "Connect what was not connected",
    "sizes": "Size the ducts",
    "places": "Stand the collector",
}
# How the design that was there before is called in the kept ones.
BEFORE = "Before"
# Changes of size that are named; more are counted.
CHANGED = 3


@dataclass(frozen=True)
class OfferRequest:
    """What was asked for: its kind, the collector that it is about, the row that is pointed at, and
    what of its ghost is lit.
    """

    kind: OfferKind
    collector: str = ""
    pointed: int | None = None
    lit: tuple[str, ...] = ()

    @property
    def job(self) -> Job:
        """The question for the background."""
        if self.kind == "places":
            return PlaceCollector(self.collector or None)
        if self.kind == "sizes":
            return SizeDucts()
        return LayDucts(only_unconnected=self.kind == "unconnected")


@dataclass(frozen=True)
class OfferRow:
    """One row: its name, its figures under the columns of `columns`, why it is so, and the shop
    with it.

    `strong` are the columns in which no other row is better and most are worse; `problems` what is
    left to be mended.
    """

    name: str
    cells: tuple[str, ...]
    why: str
    project: Project
    shown: Project
    assessment: Assessment | None
    strong: frozenset[int] = frozenset()
    problems: tuple[Finding, ...] = ()


@dataclass(frozen=True)
class Offer:
    """All rows with their columns, and one line about how far the search is; whether it
    `falls_short`: no row serves all that it is asked for.
    """

    title: str
    columns: tuple[str, ...]
    rows: tuple[OfferRow, ...]
    state: str
    notes: tuple[str, ...]
    complete: bool
    falls_short: bool = False


def offer_of(now: Assessment, kind: OfferKind, found: Result | None) -> Offer:
    """What is known of an answer about a shop, as rows, with how the shop is as it is drawn. Raises
    nothing.
    """
    offer = _offer_of(now.project, kind, found)
    if not offer.rows or not now.project.runs:
        return offer
    served, least, slow = _judged(air_judgement(now.counted))
    return replace(
        offer, state=f"{offer.state}; as drawn {served}, least air {least}, slowest {slow}"
    )


def _offer_of(project: Project, kind: OfferKind, found: Result | None) -> Offer:
    title = TITLES[kind]
    if isinstance(found, Refused):
        return Offer(title, (), (), found.sentence, (), True, falls_short=True)
    if isinstance(found, Proposals):
        return _of_proposals(project, title, found)
    if isinstance(found, CollectorPlaces):
        return _of_places(project, title, found)
    if isinstance(found, Resizings):
        return _of_sizes(project, title, found)
    return Offer(
        title, (), (), "Trying layouts…" if kind != "sizes" else "Trying sizes…", (), False
    )


def _judged(judged: Judgement) -> tuple[str, str, str]:
    served, asked = judged.served()
    slow = judged.slowest
    return f"{served} of {asked}", f"{judged.worst:.0%}", "–" if slow is None else f"{slow:.0%}"


def _of_proposals(project: Project, title: str, found: Proposals) -> Offer:
    display = Display(project.settings.units)
    priced = any(item.judgement.price is not None for item in found.proposals)
    columns = (
        "served",
        "least air",
        "slowest",
        "duct",
        "hose",
        "elbows",
        "wyes",
        "gates",
        *(("money",) if priced else ()),
    )
    strong = _strong([_goodness(item) for item in found.proposals])
    rows = tuple(
        replace(
            _proposal_row(item, display, priced),
            strong=best,
            problems=_problems(item) if found.complete else (),
        )
        for item, best in zip(found.proposals, strong, strict=True)
    )
    tried = f"{decimal(found.tried)} layouts tried" + ("" if found.complete else " so far")
    short = found.complete and all(p.served[0] < p.served[1] for p in found.proposals)
    return Offer(title, columns, rows, tried, found.notes, found.complete, short)


def _goodness(item: Proposal) -> tuple[float, ...]:
    """How good a layout is in each of its columns; more is better. A layout without duct is none of
    little duct.
    """
    judged = item.judgement
    work = (item.duct, item.hose, item.elbows, item.wyes, item.gates)
    made = [-amount for amount in work] if item.duct > 0 else [-math.inf] * len(work)
    slowest = -1.0 if judged.slowest is None else judged.slowest
    money = -math.inf if judged.price is None else -judged.price
    return (judged.served()[0], round(judged.worst, 2), round(slowest, 2), *made, money)


def _strong(rows: list[tuple[float, ...]]) -> list[frozenset[int]]:
    """For each row the columns in which none is better and most are worse."""
    found: list[set[int]] = [set() for _ in rows]
    for column, values in enumerate(zip(*rows, strict=True)):
        best = max(values)
        # What most have is nothing that sets one apart.
        if values.count(best) <= max(len(values) // 2, 1) and min(values) < best:
            for number, value in enumerate(values):
                if value == best:
                    found[number].add(column)
    return [frozenset(columns) for columns in found]


def _problems(item: Proposal) -> tuple[Finding, ...]:
    """What a layout leaves to be mended once it is taken: before that there is nothing to mend."""
    return tuple(replace(finding, fixes=()) for finding in item.problems)


def _proposal_row(item: Proposal, display: Display, priced: bool) -> OfferRow:
    cells = (
        *_judged(item.judgement),
        display.about(item.duct),
        display.about(item.hose),
        f"{item.elbows}",
        f"{item.wyes}",
        f"{item.gates}",
        *((_money(item.judgement.price),) if priced else ()),
    )
    return OfferRow(item.name, cells, item.why, item.project, item.project, item.assessment)


def _money(price: float | None) -> str:
    return "–" if price is None else decimal(price)


def _of_places(project: Project, title: str, found: CollectorPlaces) -> Offer:
    display = Display(project.settings.units)
    columns = ("served", "least air", "slowest", "duct", "over it", "dB(A)", "A over")
    rows = tuple(_place_row(project, place, display) for place in found.places)
    tried = f"{decimal(found.tried)} places looked at" + ("" if found.complete else " so far")
    return Offer(title, columns, rows, tried, (), found.complete)


def _place_row(project: Project, place: CollectorPlace, display: Display) -> OfferRow:
    cells = (
        *_judged(place.proposal.judgement),
        display.about(place.proposal.duct),
        display.about(place.spare),
        "–" if place.loudest is None else f"{place.loudest.level:.0f}",
        f"{place.over_amps:.0f}" if place.over_amps else "–",
    )
    laid = any(place.collector.id in run.ends for run in project.runs)
    why = "Judged with the ducts that it would have from there. "
    why += "Taking it lays its ducts anew." if laid else "Its ducts come with Lay the ducts."
    lost = [one.words(project) for one in place.shortens[:2]]
    why = " ".join([why, *(f"{capital(words)}." for words in lost)])
    shown = place.proposal
    return OfferRow(
        capital(place.words), cells, why, taken(project, place), shown.project, shown.assessment
    )


def _of_sizes(project: Project, title: str, found: Resizings) -> Offer:
    columns = ("served", "least air", "slowest", "runs changed")
    rows = tuple(_sizes_row(project, item) for item in found.rows)
    tried = f"{decimal(sum(item.tried for item in found.rows))} choices judged"
    return Offer(title, columns, rows, tried, (), found.complete)


def _sizes_row(project: Project, item: Resized) -> OfferRow:
    display, changes = Display(project.settings.units), item.in_words
    told = [
        f"{name} {display.diameter(before)} to {display.diameter(after)}"
        for name, before, after in changes[:CHANGED]
    ]
    more = f" and {len(changes) - CHANGED} more" if len(changes) > CHANGED else ""
    why = f"{capital(', '.join(told))}{more}." if told else "As drawn: no other size does better."
    if item.costs:
        more = f"; {len(item.costs) - CHANGED} more" if len(item.costs) > CHANGED else ""
        why += f" But {'; '.join(item.costs[:CHANGED])}{more}."
    cells = (*_judged(item.judgement), f"{len(item.changes)}")
    return OfferRow(item.name, cells, why, item.project, item.project, item.assessment)


def offered_scenario(
    project: Project, row: OfferRow, running: tuple[str, ...]
) -> ScenarioAir | None:
    """The air that is shown for a row: with what is switched on, or else where least of a need is
    met.
    """
    if row.assessment is None:
        return None
    if running:
        found = row.assessment.of(scenario_of(project, running))
        if found is not None:
            return found
    ducted = [
        answer for answer in row.assessment.answers if answer.worst is not None and answer.converged
    ]
    return min(ducted, key=lambda answer: answer.least_share, default=None)


def took(project: Project, row: OfferRow) -> tuple[Project, str | None]:
    """The project with a row taken and the design before kept, and the kept design's id. Raises
    as `with_before_kept`.
    """
    return with_before_kept(project, row.project)


def with_before_kept(project: Project, after: Project) -> tuple[Project, str | None]:
    """Another design of a shop with the one before kept in it, and the kept design's id.

    A design without ducts, or one that is kept already, is not kept again. Raises `RefusedEdit`
    when no more can be kept.
    """
    if not project.runs or project.replaced(kept_designs=()) == after.replaced(kept_designs=()):
        return after.replaced(kept_designs=project.kept_designs), None
    # The design before is kept, unless it is kept already.
    known = same_as_kept(project)
    if known is not None:
        return after.replaced(kept_designs=project.kept_designs), known.id
    names = {design.name for design in project.kept_designs}
    name = next(n for n in (BEFORE, *(f"{BEFORE} {i}" for i in range(2, 99))) if n not in names)
    with_it, ident = kept(project, name)
    return after.replaced(kept_designs=with_it.kept_designs), ident

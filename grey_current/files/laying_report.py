"""Proposed layouts, sizes and places as text and as JSON in SI units."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from grey_current.design.findings.adds import added_findings
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.judgement import Judgement
from grey_current.design.laying.places import CollectorPlace, CollectorPlaces
from grey_current.design.laying.proposal import Proposal, Proposals
from grey_current.design.laying.resizing import Resized
from grey_current.design.parts.costs import extra_cost
from grey_current.errors import FileError
from grey_current.files import project_file
from grey_current.files.safe_write import reason, saved_words
from grey_current.numerals import decimal
from grey_current.shop.model import Project
from grey_current.units import Display

ESTIMATE = "Estimates for planning, not a certificate."


def proposals_text(project: Project, found: Proposals) -> str:
    """A row and its why for each proposal, the best first."""
    display = Display(project.settings.units)
    lines = [
        f"{project.name}: {decimal(found.tried)} layouts tried in "
        f"{decimal(found.seconds, 1)} s, seed {found.seed}"
    ]
    for number, item in enumerate(found.proposals, 1):
        lines += ["", f"{number}  {item.name}: {_figures(item, display)}", f"   {item.why}"]
        if item.unsolved:
            lines.append(f"   check says: {', '.join(item.unsolved)}")
    if found.notes:
        lines += ["", *found.notes]
    return "\n".join([*lines, "", ESTIMATE])


def _figures(item: Proposal, display: Display) -> str:
    served, asked = item.served
    slow = item.judgement.slowest
    parts = [
        f"serves {served} of {asked}",
        f"worst {item.judgement.worst:.0%}",
        "" if slow is None else f"slowest air {slow:.0%} of what chips need",
        f"{display.about(item.duct)} of duct",
        f"{display.about(item.hose)} of hose",
        f"{item.elbows} elbows, {item.wyes} wyes, {item.gates} gates",
        ""
        if item.judgement.price is None
        else f"{decimal(item.judgement.price)} for parts that have a price",
    ]
    return ", ".join(part for part in parts if part)


def proposals_report(project: Project, found: Proposals) -> dict[str, Any]:
    """The same as plain values, with every whole project, and what `check` would say anew or of
    something worse than in the shop as it is.
    """
    now = assess(project)
    return {
        "format": "grey-current/proposals/1",
        "proposals": [
            {
                "name": item.name,
                "why": item.why,
                **_judged(item.judgement),
                "duct_m": round(item.duct, 3),
                "hose_m": round(item.hose, 3),
                "elbows": item.elbows,
                "wyes": item.wyes,
                "gates": item.gates,
                "cost": item.judgement.price,
                "money": item.judgement.price,
                "unsolved": list(item.unsolved),
                "adds": adds_report(now, item.assessment),
                "not_connected": list(item.stranded),
                "project": item.project.model_dump(mode="json"),
            }
            for item in found.proposals
        ],
        "notes": list(found.notes),
        "tried": found.tried,
        "seconds": round(found.seconds, 3),
        "seed": found.seed,
        "complete": found.complete,
    }


def adds_report(before: Assessment, after: Assessment) -> list[dict[str, Any]]:
    """What `check` would say anew, or of something worse, once an offer is taken.

    `less` marks what was there before and is no worse then, under another name.
    """
    return [
        {
            "code": each.finding.code,
            "element": each.finding.element,
            "severity": each.finding.severity,
            "less": each.less,
        }
        for each in added_findings(before, after)
    ]


def _judged(judged: Judgement) -> dict[str, Any]:
    served, asked = judged.served()
    return {
        "served": served,
        "of": asked,
        "worst_share": judged.worst,
        "slowest_share": judged.slowest,
    }


def save_proposals(found: Proposals, folder: Path) -> list[str]:
    """Save each proposal as a project file of its own, `proposal-1` the best; returned is what was
    saved, in words.

    Raises `FileError`.
    """
    saved = []
    make_folder(folder)
    for number, item in enumerate(found.proposals, 1):
        path = folder / f"proposal-{number}{project_file.SUFFIX}"
        saved.append(saved_words(path, project_file.save(item.project, path)))
    return saved


def make_folder(folder: Path) -> None:
    """Make a folder, if it is not there. Raises `FileError`."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as problem:
        raise FileError(
            str(folder), f"cannot hold the proposals ({reason(problem)})", "name another folder"
        ) from None


def sizes_text(project: Project, found: tuple[Resized, ...]) -> str:
    """What each way of sizing changes and what that is worth."""
    display = Display(project.settings.units)
    lines = [f"{project.name}: sizes for the ducts as they are drawn"]
    for item in found:
        served, asked = item.judgement.served()
        slow = item.judgement.slowest
        air = "" if slow is None else f", slowest air {slow:.0%} of what chips need"
        head = f"{item.name}: serves {served} of {asked}, worst {item.judgement.worst:.0%}{air}"
        lines += ["", f"{head}, {item.tried} choices judged"]
        lines += [
            f"  {name}: {display.diameter(before)} -> {display.diameter(after)}"
            for name, before, after in item.in_words
        ]
        lines += [f"  but {words}" for words in item.costs]
        if not item.changes:
            lines.append("  as drawn")
    return "\n".join([*lines, "", ESTIMATE])


def sizes_report(project: Project, found: tuple[Resized, ...]) -> dict[str, Any]:
    """The same as plain values."""
    now = assess(project)
    return {
        "format": "grey-current/sizes/1",
        "sizes": [
            {
                "name": item.name,
                **_judged(item.judgement),
                "changes": [
                    {"run": run, "from_m": before, "to_m": after}
                    for run, before, after in item.changes
                ],
                "tried": item.tried,
                "costs": list(item.costs),
                "money": _money(project, item.project),
                "adds": adds_report(now, item.assessment),
                "project": item.project.model_dump(mode="json"),
            }
            for item in found
        ],
    }


def places_text(project: Project, found: CollectorPlaces) -> str:
    """Where the collector should stand, the best first."""
    display = Display(project.settings.units)
    name = project.collector[found.collector].name
    lines = [f"{name}: {decimal(found.tried)} places looked at in {decimal(found.seconds, 1)} s"]
    for number, place in enumerate(found.places, 1):
        lines.append(
            f"{number}  {place.words}, turned {place.collector.turn:.0f}°: "
            f"{place_figures(place, display)}"
        )
    return "\n".join([*lines, "", ESTIMATE])


def place_figures(place: CollectorPlace, display: Display) -> str:
    """What speaks for and against a place, in figures."""
    served, asked = place.proposal.served
    parts = [
        f"serves {served} of {asked}",
        f"worst {place.proposal.judgement.worst:.0%}",
        f"{display.about(place.proposal.duct)} of duct",
        f"{display.about(place.spare)} free over it",
    ]
    if place.loudest is not None:
        parts.append(f"to {place.loudest.level:.0f} dB(A) at a machine")
    if place.over_amps > 0:
        parts.append(f"{place.over_amps:.0f} A too much for its circuit")
    parts += [one.words(place.proposal.project) for one in place.shortens[:2]]
    return ", ".join(parts)


def _money(before: Project, after: Project) -> float | None:
    """What is to be bought; None where no prices are known."""
    cost = extra_cost(before, after)
    return None if cost is None else cost.money


def places_report(project: Project, found: CollectorPlaces) -> dict[str, Any]:
    """The same as plain values."""
    now = assess(project)
    return {
        "format": "grey-current/places/1",
        "collector": found.collector,
        "places": [
            {
                "x": place.collector.x,
                "y": place.collector.y,
                "turn": place.collector.turn,
                "words": place.words,
                **_judged(place.proposal.judgement),
                "money": place.proposal.judgement.price,
                "adds": adds_report(now, place.proposal.assessment),
                "duct_m": round(place.proposal.duct, 3),
                "spare_height_m": round(place.spare, 3),
                "loudest_db_a": place.loudest.level if place.loudest is not None else None,
                "over_amps": round(place.over_amps, 2),
                "shortens": [
                    {
                        "machine": s.machine,
                        "before_m": round(s.before, 3),
                        "after_m": round(s.after, 3),
                    }
                    for s in place.shortens
                ],
                "not_connected": list(place.proposal.stranded),
                "project": place.proposal.project.model_dump(mode="json"),
            }
            for place in found.places
        ],
        "tried": found.tried,
        "seconds": round(found.seconds, 3),
    }

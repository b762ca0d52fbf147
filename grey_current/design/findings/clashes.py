"""Ducts through what stands there, over heads and feet, too high, or with nothing to hang from."""

from __future__ import annotations

import math

from grey_current.design.findings.finding import Finding, Found, Inspection, Rule, Severity
from grey_current.design.findings.hanging import hooks
from grey_current.design.parts.takeoffs import is_hose
from grey_current.design.space.clashes import TRIP, Clash
from grey_current.design.space.crossings import crossings
from grey_current.design.space.ground import OVER_TABLES
from grey_current.shop.catalogue import materials
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.edits import Change
from grey_current.shop.person import head_room

# m of low duct over open floor from which it is said. Allowance.
LEAST_LOW = 1.2
# How bad it is to meet what stands there; everything else is a warning.
SEVERITY: dict[str, Severity] = {
    "beam": "fault",
    "thing": "fault",
    "machine": "fault",
    "window": "note",
}


def clashes(inspection: Inspection) -> Found:
    """Each run against what stands there, what is above it and what it hangs from."""
    # Lanes take a while each, and are kept while nothing stands otherwise.
    for item in inspection.project.machines:
        inspection.space.lane(item)
        yield None
    ground, display = inspection.ducts, inspection.display
    for run in inspection.project.runs:
        yield None
        for clash in ground.clashes(run):
            yield _clash_finding(inspection, clash)
        for machine in ground.lanes_met(run):
            yield Finding(
                "clash-lane",
                "warning",
                run.id,
                f"{inspection.names.start(run.id)}: stands where boards pass at "
                f"{inspection.names.of(machine)}.",
                also=(machine,),
                remedies=("Move it aside, with a little more hose.",),
            )
        if ground.through_wall(run):
            yield Finding(
                "through-wall",
                "note",
                run.id,
                f"{inspection.names.start(run.id)}: goes through a wall.",
                remedies=(
                    "Seal the hole; ask first whether the wall holds the roof or holds back fire.",
                ),
            )
        above = ground.above_ceiling(run)
        if above is not None:
            yield Finding(
                "above-ceiling",
                "fault",
                run.id,
                f"{inspection.names.start(run.id)}: its top is {display.about(above)} above "
                "the ceiling.",
                above,
                0.0,
                remedies=("Lower it, or lead it through the wall.",),
            )
        free = ground.unsupported(run)
        if free is not None:
            yield Finding(
                "unsupported",
                "note",
                run.id,
                f"{inspection.names.start(run.id)}: {display.about(free[0])} of it has no beam "
                "or ceiling to hang "
                f"from; it wants a hanger every {display.about(free[1])}.",
                free[0],
                free[1],
                remedies=("Hang it from a batten across two beams, or bracket it to the wall.",),
            )


def low_ducts(inspection: Inspection) -> Found:
    """Level ducts over floor that people walk on, low enough to walk into or to trip over: one
    finding for all that lead to one collector.
    """
    project, names, display = inspection.project, inspection.names, inspection.display
    paths = AirPaths(project)
    least = head_room(project.settings)
    low: dict[str, list[tuple[float, float, str]]] = {}
    for run in project.runs:
        yield None
        if run.id not in paths.down or is_hose(run):
            continue
        met = inspection.space.walked_under(project, run, least)
        if met is not None:
            low.setdefault(paths.head(run.id), []).append((met.length, met.underside, run.id))
    for found in low.values():
        length = math.fsum(each for each, _, _ in found)
        if length < LEAST_LOW:
            continue
        _, underside, first = max(found)
        others = f" and {len(found) - 1} more" if found[1:] else ""
        verb = "run" if others else "runs"
        if underside < TRIP:
            words = f"{verb} over open floor, {display.about(length)} in all: a trip hazard"
            remedy = "Lead it along a wall or overhead."
        else:
            height = display.about(underside)
            words = (
                f"{verb} {height} up over open floor, {display.about(length)} in all: low enough "
                "to hit your head"
            )
            remedy = "Lead it along a wall or higher; pad and mark what has to stay."
        yield Finding(
            "low-duct",
            "warning",
            first,
            f"{names.start(first)}{others} {words}.",
            underside,
            least,
            also=tuple(ident for _, _, ident in found if ident != first),
            remedies=(remedy,),
        )


def over_tables(inspection: Inspection) -> Found:
    """Level ducts that hang low over a table or a bench, each once."""
    project, names, display = inspection.project, inspection.names, inspection.display
    for run in project.runs:
        yield None
        met = None if is_hose(run) else inspection.space.over_tables(project, run)
        if met is not None:
            table, low = met
            yield Finding(
                "over-table",
                "warning",
                run.id,
                f"{names.start(run.id)} hangs {display.about(low.underside)} over "
                f"{names.of(table)}, in the way of work.",
                low.underside,
                OVER_TABLES,
                also=(table,),
                remedies=("Lead it higher, or beside the table.",),
            )


def _clash_finding(inspection: Inspection, clash: Clash) -> Finding:
    project, what, kind = inspection.project, inspection.names.of(clash.ident), clash.kind
    low = inspection.display.about(max(clash.underside, 0.0))
    # Low across a walkway it trips, high it hits heads: other words, another remedy.
    trip = clash.underside < TRIP
    # What is wrong, and what to do about it, by what is met.
    sentences = {
        "beam": (f"goes through {what}.", "Lower it, or pass beside it."),
        "thing": (f"goes through {what}.", "Lead it round with two 45s, or move it aside."),
        "machine": (f"goes through {what}.", "Raise it, or move the machine."),
        "door": (
            f"hangs in the swing of {what}.",
            "Raise it over the door, or hang the door the other way.",
        ),
        "doorway": (f"crosses {what}.", "Lead it over the opening."),
        "tracks": (f"is in the way of {what} when rolled up.", "Keep clear of its tracks."),
        "window": (f"hangs before {what}.", "Lead it above the window, unless the light may go."),
        "lamp": (f"goes through {what}.", "Lead it beside the lamp, or hang the lamp elsewhere."),
        "area": (
            f"goes through {what}, where no duct is to be.",
            "Lead it round, or make that area smaller.",
        ),
        "walkway": (
            f"lies across {what}: a trip hazard."
            if trip
            else f"crosses {what} {low} up: low enough to hit your head.",
            "Lead it overhead." if trip else "Raise it, or pad and mark it.",
        ),
    }
    words, remedy = sentences[kind]
    severity = SEVERITY.get(kind, "warning")
    code, fixes = f"clash-{kind}", tuple[Change, ...]()
    if kind == "walkway" and materials()[project.run[clash.run].material].hose:
        code, fixes = "hose-across", hooks(inspection, clash.run)
    message = f"{inspection.names.start(clash.run)}: {words}"
    return Finding(
        code,
        severity,
        clash.run,
        message,
        clash.underside,
        also=(clash.ident,),
        remedies=(remedy,),
        fixes=fixes,
    )


def ducts_in_ducts(inspection: Inspection) -> Found:
    """Ducts that go through one another."""
    for one, other in crossings(inspection.project):
        yield Finding(
            "clash-duct",
            "fault",
            one,
            f"{inspection.names.start(one)}: goes through {inspection.names.of(other)}.",
            also=(other,),
            remedies=(
                "Lead one of them beside the other or at another height, or join them in a wye.",
            ),
        )


RULES: tuple[Rule, ...] = (clashes, low_ducts, over_tables, ducts_in_ducts)

"""What is connected to what: pickups, loose runs, open ends, hoses and their lengths."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import partial

from grey_current.air.pieces import Entry
from grey_current.design.collector.system_kinds import own_collector_change, with_own_collector
from grey_current.design.findings.finding import Finding, Found, Inspection, Rule
from grey_current.design.findings.hanging import hooks
from grey_current.design.flow.assessment import PickupAir, ScenarioAir
from grey_current.design.parts.connecting import connected
from grey_current.design.space.hits import SHORT_BY
from grey_current.design.space.hose_reach import reaches
from grey_current.errors import RefusedEdit
from grey_current.shop.catalogue import materials
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.edits import Change, with_hose_length
from grey_current.shop.hoses import cut_length
from grey_current.shop.model import Project
from grey_current.shop.pickup_edits import with_new_pickup, with_own_fan
from grey_current.shop.places import distance

# m of hose over the straight way before it counts as longer than needed. Allowance.
SPARE_HOSE = 0.6


def _ways_to_connect(inspection: Inspection, ref: str) -> Iterator[Change]:
    """What a click can do for a pickup that nothing leads away from."""
    if ref in inspection.project.moved_to:
        if inspection.in_full and _has_room_for_its_own(inspection.project, ref):
            yield own_collector_change(inspection.project, ref)
    elif inspection.project.runs:
        yield Change("Connect it to the main", ref, partial(connected, ref=ref))
    pickup = inspection.project.pickup[ref][1]
    if pickup.own_fan is not None and not pickup.own_bag:
        words = "Its own fan blows into a bag"
        yield Change(words, ref, partial(with_own_fan, ref=ref, kind="bag"))


def _has_room_for_its_own(project: Project, ref: str) -> bool:
    """Whether a small collector can stand beside a pickup's machine, out of the way."""
    try:
        with_own_collector(project, ref)
    except RefusedEdit:
        return False
    return True


def _own_bag(inspection: Inspection, answer: ScenarioAir, p: PickupAir) -> Finding:
    """What a machine's own fan gives into its own bag."""
    ref = f"{p.machine}/{p.pickup}"
    machine = inspection.project.machine[p.machine]
    got = inspection.display.airflow(p.airflow, unit=False)
    return Finding(
        "own-bag",
        "note" if p.met else "warning",
        ref,
        f"{machine.name}: its own fan moves {got} of "
        f"{inspection.display.airflow(p.need.airflow)} into its own bag, which lets much of the "
        "fine dust through.",
        p.airflow,
        p.need.airflow,
        answer.scenario.running,
        remedies=("Wear a respirator there, or lead it to the collector too.",),
        fixes=tuple(_ways_to_connect(inspection, ref)),
    )


def not_connected(inspection: Inspection) -> Found:
    """Pickups and runs that no collector reaches, and machines with nothing to connect."""
    project = inspection.project
    for machine in project.machines:
        if not machine.pickups:
            yield Finding(
                "no-pickup",
                "note",
                machine.id,
                f"{machine.name}: no pickup, so nothing catches its dust.",
                remedies=("A hood behind it or a floor sweep beside it would.",),
                fixes=(
                    Change(
                        "Add a hood",
                        machine.id,
                        partial(with_new_pickup, machine=machine.id, kind="hood"),
                    ),
                ),
            )
    said: set[str] = set()
    for answer in inspection.assessment.answers:
        for p in answer.pickups:
            ref = f"{p.machine}/{p.pickup}"
            if p.by_itself and ref not in said:
                said.add(ref)
                yield _own_bag(inspection, answer, p)
            if p.loose and ref not in said:
                said.add(ref)
                machine, pickup = project.pickup[ref]
                code, says = "not-connected", "not connected to a collector"
                remedy = "Run a duct or a hose to it."
                if ref in project.moved_to:
                    code = "left-open"
                    says = "open while the moved hose is at the machine's other port"
                    remedy = "A vacuum or a hose of its own for it."
                yield Finding(
                    code,
                    "warning",
                    ref,
                    f"{machine.name}, {pickup.name.lower()}: {says}.",
                    scenario=answer.scenario.running,
                    remedies=(remedy,),
                    fixes=tuple(_ways_to_connect(inspection, ref)),
                )
    pieces = inspection.assessment.pieces
    # A run that no network has a piece of leads to no collector.
    reached = {piece.source_id for piece in pieces}
    for run in project.runs if inspection.assessment.answers or not project.machines else ():
        if run.id not in reached:
            yield Finding(
                "no-collector",
                "warning",
                run.id,
                f"{inspection.names.start(run.id)}: leads to no collector.",
                remedies=("Connect it, or delete it.",),
            )
    for ident in dict.fromkeys(
        p.source_id for p in pieces if isinstance(p, Entry) and p.source_id in project.point
    ):
        yield Finding(
            "open-end",
            "warning",
            ident,
            f"{inspection.names.start(ident)}: a duct ends here in the open air and draws from "
            "the room.",
            remedies=("Cap it, or take it on to a pickup.",),
        )


def _rigid_at(inspection: Inspection, ref: str) -> bool:
    """Whether a pickup has a rigid duct on it, or nothing yet."""
    run = next((r for r in inspection.project.runs if ref in r.touches), None)
    return run is None or not materials()[run.material].hose


def tilting_ports(inspection: Inspection) -> Found:
    """Ports that move with their machine, where a rigid duct or nothing ends."""
    for ref, (machine, pickup) in inspection.project.pickup.items():
        if pickup.tilts and _rigid_at(inspection, ref):
            yield Finding(
                "tilts",
                "note",
                ref,
                f"{machine.name}, {pickup.name.lower()}: this port moves with the machine.",
                remedies=("Let a hose, not a rigid duct, end here.",),
            )


def hose_length(inspection: Inspection) -> Found:
    """Hoses that do not reach, and hoses with more length than they need."""
    project, display = inspection.project, inspection.display
    for run in project.runs:
        if not materials()[run.material].hose or run.length is None:
            continue
        distances = {ref: distance(project, run, ref) for ref in run.serves}
        # A moved hose must reach the farthest of its pickups.
        farthest = max(distances, key=lambda ref: distances[ref])
        straight = distances[farthest]
        if run.length < straight - SHORT_BY:
            machine = project.pickup[farthest][0].name if farthest in project.pickup else farthest
            yield Finding(
                "hose-short",
                "fault",
                run.id,
                f"{inspection.names.start(run.id)}: {display.length(run.length)} of hose does "
                "not reach the "
                f"{machine.lower()}, {display.about(straight)} away.",
                run.length,
                straight,
                remedies=(f"Use at least {display.length(cut_length(project, straight))}.",),
            )
        # A moved hose needs its length elsewhere; only others are called too long.
        elif run.length > _long_from(project, straight) and not run.also_serves:
            short = cut_length(project, straight)
            yield Finding(
                "hose-long",
                "warning",
                run.id,
                f"{inspection.names.start(run.id)}: {display.length(run.length)} of hose for a "
                "distance of "
                f"{display.about(straight)}.",
                run.length,
                straight,
                remedies=(f"Cut it to about {display.length(short)}.",),
                fixes=(
                    Change("Cut it", run.id, partial(with_hose_length, run=run.id, length=short)),
                ),
            )


def _long_from(project: Project, straight: float) -> float:
    """M from which a hose is longer than needed; never what it is cut to by the program itself."""
    return max(straight + SPARE_HOSE, cut_length(project, straight) + SHORT_BY)


def hoses_round(inspection: Inspection) -> Found:
    """Hoses that do not reach round what stands there, or to which walls leave no way; moved ones
    over a walkway.
    """
    project, display, space = inspection.project, inspection.display, inspection.space
    for run in project.runs:
        if not materials()[run.material].hose or run.length is None:
            continue
        for reach in reaches(project, space, run):
            yield None
            name = project.pickup[reach.pickup][0].name.lower()
            if math.isinf(reach.length):
                yield Finding(
                    "hose-round",
                    "fault",
                    run.id,
                    f"{inspection.names.start(run.id)}: what stands there leaves it no way to "
                    f"the {name}.",
                    also=(reach.pickup,),
                    remedies=("Lead a rigid duct through the wall, or move the machine.",),
                )
            # The straight line reached; what stands between makes it longer.
            elif reach.around and run.length < reach.needed:
                things = " and ".join(inspection.names.of(ident) for ident in reach.around)
                yield Finding(
                    "hose-round",
                    "warning",
                    run.id,
                    f"{inspection.names.start(run.id)}: round {things} it is "
                    f"{display.about(reach.needed)} to the "
                    f"{name}; the hose has {display.length(run.length)}.",
                    run.length,
                    reach.needed,
                    also=(reach.pickup,),
                    remedies=("A longer hose, or another place for the machine.",),
                )
            for walkway in reach.walkways if run.also_serves else ():
                yield Finding(
                    "hose-across",
                    "warning",
                    run.id,
                    f"{inspection.names.start(run.id)}: on the {name} it lies across "
                    f"{inspection.names.of(walkway)}.",
                    also=(walkway,),
                    remedies=("Hang it from the ceiling, or change where the machine stands.",),
                    fixes=hooks(inspection, run.id),
                )


def plugged_hoses(inspection: Inspection) -> Found:
    """Hoses that are plugged in at several ports: machines that want one at once, and ports that
    stay open while it is at another.
    """
    project, names = inspection.project, inspection.names
    # Asked after every edit: most shops have none.
    if not project.shared_hoses:
        return
    paths = AirPaths(project)
    gated = {gate.run for gate in project.gates}
    for runs in project.shared_hoses:
        owner = {run.start.partition("/")[0]: run for run in runs}
        for together in project.settings.together:
            both = [machine for machine in together if machine in owner]
            if len(both) > 1:
                first, second = (names.of(machine) for machine in both[:2])
                yield Finding(
                    "one-hose",
                    "warning",
                    owner[both[0]].id,
                    f"{names.start(owner[both[0]].id)}: {first} and {second} are to run together, "
                    "but it is at one of them at a time.",
                    also=(owner[both[1]].id,),
                    remedies=("Give one of them a hose of its own, or run them in turn.",),
                )
        for run in runs:
            if gated.isdisjoint(paths.branch_segment(run.id)):
                yield Finding(
                    "open-port",
                    "warning",
                    run.id,
                    f"{names.start(run.id)}: while it is plugged in elsewhere this port stands "
                    "open and draws air.",
                    remedies=("Put a gate or a flap on its drop.",),
                )
        yield None


RULES: tuple[Rule, ...] = (not_connected, hose_length, tilting_ports, hoses_round, plugged_hoses)

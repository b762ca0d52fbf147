"""Findings about ductwork as built: clashes, head room, hangers, crowded fittings, whistles, dead pipe, hoses."""

from __future__ import annotations

from collections.abc import Iterator

from grey_current.air.fittings import SPACING_DIAMETERS
from grey_current.air.needs import TOO_FAST
from grey_current.air.pieces import SizeChange, Spacing
from grey_current.design.findings.airflow import Finding, Severity
from grey_current.design.findings.room_to_work import name_of
from grey_current.design.flow.assessment import Assessment
from grey_current.design.space.clashes import TRIP, DuctSpace
from grey_current.design.space.ground import Space
from grey_current.design.space.hose_reach import reaches
from grey_current.shop.catalogue import materials
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.model import Project, distance, position
from grey_current.units import Display

WHISTLE = 25.0
"""m/s through an abrupt narrowing from which it whistles. Allowance."""
THROTTLE = 0.1
"""Share of the fan's pressure lost in one change of size from which it throttles the machine. Allowance."""
DEAD_PIPE = 1.0
"""m of pipe between a wye and a shut gate beyond which chips drift in and stay. Allowance."""
CROWD = 2.0
"""Diameters between two fittings below which a finding is worth a line; the loss counts up to four."""


def duct_findings(assessment: Assessment, space: Space) -> list[Finding]:
    """All findings about the ductwork as built."""
    project = assessment.project
    return [*_clashes(project), *_crowded(assessment), *_narrow(assessment), *_dead_pipe(project), *_moved_hoses(space)]


def _clashes(project: Project) -> Iterator[Finding]:
    ground, display = DuctSpace(project), Display(project.settings.units)
    for run in project.runs:
        for clash in ground.clashes(run):
            yield _clash_finding(project, clash.run, clash.ident, clash.kind, clash.underside, display)
        above = ground.above_ceiling(run)
        if above is not None:
            yield Finding(
                "above-ceiling",
                "fault",
                run.id,
                f"'{run.id}': its top is {display.length(above)} above the ceiling.",
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
                f"'{run.id}': {display.length(free[0])} of it has no beam or ceiling to hang from; it wants a hanger "
                f"every {display.length(free[1])}.",
                free[0],
                free[1],
                remedies=("Hang it from a batten across two beams, or bracket it to the wall.",),
            )


def _clash_finding(project: Project, run: str, ident: str, kind: str, underside: float, display: Display) -> Finding:
    what = name_of(project, ident)
    low = display.length(max(underside, 0.0))
    trip = underside < TRIP
    sentences = {
        "beam": (f"goes through {what if 'beam' in what else 'the beam'}.", "Lower it, or pass beside it."),
        "thing": (f"goes through {what}.", "Lead it round with two 45s, or move it aside."),
        "machine": (f"goes through {what}.", "Raise it, or move the machine."),
        "door": (f"hangs in the swing of {what}.", "Raise it over the door, or hang the door the other way."),
        "doorway": (f"crosses {what}.", "Lead it over the opening."),
        "tracks": (f"is in the way of {what} when rolled up.", "Keep clear of its tracks."),
        "window": (f"hangs before {what}.", "Lead it above the window, unless the light may go."),
        "walkway": (
            f"lies across {what}: one stumbles over it." if trip else f"crosses {what} {low} up: heads meet it.",
            "Lead it overhead." if trip else "Raise it, or pad and mark it.",
        ),
    }
    words, remedy = sentences[kind]
    severity: Severity = "fault" if kind in ("beam", "thing", "machine") else "note" if kind == "window" else "warning"
    code = "hose-across" if kind == "walkway" and materials()[project.run[run].material].hose else f"clash-{kind}"
    return Finding(code, severity, run, f"'{run}': {words}", underside, also=(ident,), remedies=(remedy,))


def _crowded(assessment: Assessment) -> Iterator[Finding]:
    """Fittings that disturb each other."""
    display = Display(assessment.project.settings.units)
    seen: set[str] = set()
    for piece in assessment.pieces:
        if not isinstance(piece, Spacing) or piece.source_id in seen or piece.gap > CROWD * piece.diameter:
            continue
        gap = piece.gap
        seen.add(piece.source_id)
        wanted = SPACING_DIAMETERS * piece.diameter
        yield Finding(
            "crowded",
            "note",
            piece.source_id,
            f"'{piece.source_id}': {display.length(gap)} after another fitting; air wants {display.length(wanted)} of "
            "straight pipe to settle.",
            gap,
            wanted,
            remedies=("Put straight pipe between them where it fits.",),
        )


def _narrow(assessment: Assessment) -> Iterator[Finding]:
    """Changes of size that throttle a machine, and those that whistle."""
    project, display = assessment.project, Display(assessment.project.settings.units)
    seen: set[str] = set()
    for answer in assessment.answers:
        for system in answer.systems.values():
            if not system.converged or system.fan_static <= 0:
                continue
            for index, piece in enumerate(system.network.pieces):
                if not isinstance(piece, SizeChange) or piece.source_id in seen:
                    continue
                speed, loss = abs(system.velocity(index)), system.losses[index]
                small, large = display.diameter(piece.small), display.diameter(piece.large)
                if loss > THROTTLE * system.fan_static:
                    seen.add(piece.source_id)
                    yield Finding(
                        "throttles",
                        "warning",
                        piece.source_id,
                        f"{answer.scenario.name(project)} running: the change between {small} and {large} at "
                        f"'{piece.source_id}' takes {display.pressure(loss)}, {loss / system.fan_static:.0%} of what the "
                        "fan gives.",
                        loss,
                        THROTTLE * system.fan_static,
                        answer.scenario.running,
                        remedies=("Use the larger size on both sides, or a long taper.",),
                    )
                elif speed > (WHISTLE if piece.sudden else TOO_FAST):
                    seen.add(piece.source_id)
                    yield Finding(
                        "whistles",
                        "note",
                        piece.source_id,
                        f"{answer.scenario.name(project)} running: {display.velocity(speed)} through the change between "
                        f"{small} and {large} at '{piece.source_id}'; it will whistle.",
                        speed,
                        WHISTLE,
                        answer.scenario.running,
                        remedies=("A long taper, or the larger size.",),
                    )


def _dead_pipe(project: Project) -> Iterator[Finding]:
    """Long pipe between a wye and the gates that shut it off; one finding for all of them, the longest first."""
    display = Display(project.settings.units)
    dead = sorted(_still_pipe(project), reverse=True)
    if dead:
        length, gate = dead[0]
        more = f", and before {len(dead) - 1} other gates" if len(dead) > 1 else ""
        yield Finding(
            "dead-pipe",
            "note",
            gate,
            f"'{gate}': when it is shut, {display.length(length)} of pipe before it stand still{more}; chips drift "
            "in and drop.",
            length,
            DEAD_PIPE,
            also=tuple(other for _, other in dead[1:]),
            remedies=("A gate at the wye as well, or a clean-out at the drop's foot.",),
        )


def _still_pipe(project: Project) -> Iterator[tuple[float, str]]:
    """Length (m) of pipe between each far gate and its wye, where chips would fall away from the main."""
    paths = AirPaths(project)
    down = paths.down
    for gate in project.gates:
        if gate.run not in down:
            continue
        chain = paths.branch_segment(gate.run)
        wye = down[chain[-1]]
        here = project.run[gate.run]
        share = 1 - gate.at if here.end == down[gate.run] else gate.at
        dead = share * distance(project, here)
        dead += sum(distance(project, project.run[r]) for r in chain[chain.index(gate.run) + 1 :])
        if dead > DEAD_PIPE and len(paths.at[wye]) > 2 and _lower_than(project, wye, chain[0]):
            yield dead, gate.id


def _lower_than(project: Project, wye: str, first: str) -> bool:
    """Whether chips that drift into a branch fall away from the main."""
    run = project.run[first]
    heights = [position(project, end)[2] for end in (run.start, run.end)]
    return min(heights) < position(project, wye)[2] - 0.3


def _moved_hoses(space: Space) -> Iterator[Finding]:
    """Hoses moved between machines that do not reach round what stands there, or cross a walkway."""
    project, display = space.project, Display(space.project.settings.units)
    for run in project.runs:
        if not run.also_serves or run.length is None:
            continue
        for reach in reaches(space, run):
            name = project.pickup[reach.pickup][0].name.lower()
            if reach.around and run.length < reach.needed:
                things = " and ".join(name_of(project, ident) for ident in reach.around)
                yield Finding(
                    "hose-round",
                    "warning",
                    run.id,
                    f"'{run.id}': round {things} it is {display.length(reach.needed)} to the {name}; the hose has "
                    f"{display.length(run.length)}.",
                    run.length,
                    reach.needed,
                    also=(reach.pickup,),
                    remedies=("A longer hose, or another place for the machine.",),
                )
            for walkway in reach.walkways:
                yield Finding(
                    "hose-across",
                    "warning",
                    run.id,
                    f"'{run.id}': on the {name} it lies across {name_of(project, walkway)}.",
                    also=(walkway,),
                    remedies=("Hang it from the ceiling, or change where the machine stands.",),
                )

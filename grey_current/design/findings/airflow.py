"""What is wrong with a design, each finding by one rule, in plain words with what would mend it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from typing import Literal, TypeVar

from grey_current.air.fan import AIR_POWER_LIMIT, believable, best_air_power, curve_from_claim
from grey_current.air.fittings import INLET_DIAMETERS
from grey_current.air.needs import SETTLES_BELOW, TOO_FAST
from grey_current.air.pieces import Entry, InletDisturbance, Piece, WyeLeg
from grey_current.design.findings.verdict import largest_losses
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.flow.transport import TransportCheck, transport_checks
from grey_current.design.words import STARVED_BELOW
from grey_current.shop.catalogue import materials
from grey_current.shop.model import Claim, Project, distance
from grey_current.units import Display

PieceT = TypeVar("PieceT", bound=Piece)
Severity = Literal["fault", "warning", "note"]
ORDER: tuple[Severity, ...] = ("fault", "warning", "note")

SPARE_HOSE = 0.6
"""m of hose over the straight way before it counts as longer than needed. Allowance."""
FILTER_VELOCITY = 0.05
"""m/s through bag, felt or pleated cartridge in a home shop (10 fpm). Allowance."""
JAM_PORT = 0.125
"""m; curls of a straight-knife cutter jam ports smaller than 5 in. Allowance."""


@dataclass(frozen=True)
class Finding:
    """One thing that is wrong: which rule, how bad, the element's id, a sentence, and what would mend it.

    `value` and `limit` are the figures behind the sentence in SI units, where there are any; `use` names
    the running machines, `also` the other elements that the sentence is about.
    """

    code: str
    severity: Severity
    element: str
    message: str
    value: float | None = None
    limit: float | None = None
    scenario: tuple[str, ...] = ()
    also: tuple[str, ...] = ()
    remedies: tuple[str, ...] = ()


Rule = Callable[[Assessment], Iterator[Finding]]
RULES: list[Rule] = []


def rule(function: Rule) -> Rule:
    """Enter a rule into the registry."""
    RULES.append(function)
    return function


def findings(assessment: Assessment) -> list[Finding]:
    """All findings, worst first; within one severity in the order of the rules."""
    return in_order(finding for each in RULES for finding in each(assessment))


def in_order(found: Iterable[Finding]) -> list[Finding]:
    """Findings worst first, otherwise as they came."""
    return sorted(found, key=lambda f: ORDER.index(f.severity))


def _display(assessment: Assessment) -> Display:
    return Display(assessment.project.settings.units)


@rule
def unanswered(assessment: Assessment) -> Iterator[Finding]:
    """A scenario whose flows could not be computed."""
    for answer in assessment.answers:
        if not answer.converged:
            name = answer.scenario.name(assessment.project)
            yield Finding(
                "no-answer",
                "fault",
                answer.scenario.running[0],
                f"{name}: no airflow could be computed for this ductwork.",
                scenario=answer.scenario.running,
                remedies=("Look for a duct of extreme size or a fan curve without a fall.",),
            )


@rule
def short_of_air(assessment: Assessment) -> Iterator[Finding]:
    """Pickups that get less than they need when their machine runs."""
    project, display = assessment.project, _display(assessment)
    for answer in assessment.answers:
        if not answer.converged:
            continue
        for p in answer.pickups:
            if p.leaf is None or p.met:
                continue
            machine, pickup = project.pickup[f"{p.machine}/{p.pickup}"]
            starved = p.share < STARVED_BELOW
            never = " It must never be short." if machine.priority else ""
            largest_loss = next(iter(largest_losses(project, answer, p)), None)
            yield Finding(
                "starved" if starved else "short",
                "fault" if starved or machine.priority else "warning",
                f"{p.machine}/{p.pickup}",
                f"{machine.name}, {pickup.name.lower()}: {display.airflow(p.airflow, unit=False)} of "
                f"{display.airflow(p.need.airflow)} {p.need.reason}.{never}",
                p.airflow,
                p.need.airflow,
                answer.scenario.running,
                remedies=(f"Biggest loss: {largest_loss.words}, {display.pressure(largest_loss.loss)}.",)
                if largest_loss
                else (),
            )


def _slow_runs(project: Project, answer: ScenarioAir) -> dict[str, TransportCheck]:
    """The slowest length of every run that chips of a scenario pass too slowly, slowest run first."""
    slow: dict[str, TransportCheck] = {}
    for transport in sorted(transport_checks(project, answer), key=lambda c: c.share):
        if transport.share < 1:
            slow.setdefault(transport.run, transport)
    return slow


def _runs_words(project: Project, runs: list[str], display: Display) -> str:
    size = display.diameter(project.run[runs[0]].diameter)
    rest = len(runs) - 1
    more = f" and {rest} more run{'s' if rest > 1 else ''}" if rest else ""
    return f"'{runs[0]}' ({size}){more}"


@rule
def chips_settle(assessment: Assessment) -> Iterator[Finding]:
    """Runs where the air is too slow for the chips that pass; one finding a scenario and degree."""
    project, display = assessment.project, _display(assessment)
    flushing = "Open a second gate to flush the main, or use smaller pipe there."
    for answer in assessment.answers:
        slow = _slow_runs(project, answer)
        for will in (True, False):
            runs = [run for run, transport in slow.items() if (transport.share < SETTLES_BELOW) == will]
            if not runs:
                continue
            worst = slow[runs[0]]
            verb = f"{'will' if will else 'may'} {'fall back' if worst.rises else 'settle'}"
            yield Finding(
                "settles" if will else "may-settle",
                "warning" if will else "note",
                runs[0],
                f"{answer.scenario.name(project)} running: chips {verb} in "
                f"{_runs_words(project, runs, display)}: {display.velocity(worst.velocity, unit=False)} of "
                f"{display.velocity(worst.needed)}.",
                worst.velocity,
                worst.needed,
                answer.scenario.running,
                tuple(runs[1:]),
                (flushing if project.gates else "Use smaller pipe or hose there.",),
            )


@rule
def too_fast(assessment: Assessment) -> Iterator[Finding]:
    """Runs where air is fast enough to be only noise and loss; one finding a scenario."""
    project, display = assessment.project, _display(assessment)
    for answer in assessment.answers:
        fast = sorted(
            (c for c in transport_checks(project, answer) if c.velocity > TOO_FAST), key=lambda c: -c.velocity
        )
        runs = list(dict.fromkeys(c.run for c in fast))
        if runs:
            yield Finding(
                "too-fast",
                "note",
                runs[0],
                f"{answer.scenario.name(project)} running: {display.velocity(fast[0].velocity)} in "
                f"{_runs_words(project, runs, display)}; beyond {display.velocity(TOO_FAST)} it is only "
                "noise and lost pressure.",
                fast[0].velocity,
                TOO_FAST,
                answer.scenario.running,
                tuple(runs[1:]),
                ("Use larger pipe there.",),
            )


@rule
def off_the_curve(assessment: Assessment) -> Iterator[Finding]:
    """A fan that works outside the points that its curve was given."""
    display = _display(assessment)
    seen: set[str] = set()
    for answer in assessment.answers:
        for ident, system in answer.systems.items():
            curve = system.network.pieces[system.fan_piece].law.curve  # type: ignore[union-attr]
            if not system.converged or curve.knows(system.airflow) or ident in seen:
                continue
            seen.add(ident)
            yield Finding(
                "off-curve",
                "note",
                ident,
                f"{assessment.project.collector[ident].name}: works at {display.airflow(system.airflow)}, "
                "outside the points of its fan curve, so the figures are a guess there.",
                system.airflow,
                curve.known[1],
                answer.scenario.running,
                remedies=("Add a curve point beyond it.",),
            )


@rule
def filter_too_small(assessment: Assessment) -> Iterator[Finding]:
    """A filter that air passes too fast, so that fine dust goes through it and it blinds soon."""
    display = _display(assessment)
    fastest: dict[str, tuple[float, ScenarioAir]] = {}
    for answer in assessment.answers:
        for ident, system in answer.systems.items():
            if system.converged and system.airflow > fastest.get(ident, (0.0, answer))[0]:
                fastest[ident] = (system.airflow, answer)
    for ident, (airflow, answer) in fastest.items():
        collector = assessment.project.collector[ident]
        speed = airflow / collector.filter.area
        if speed > FILTER_VELOCITY:
            wanted = airflow / FILTER_VELOCITY
            yield Finding(
                "small-filter",
                "note",
                ident,
                f"{collector.name}: {display.airflow(airflow)} through {collector.filter.area:.1f} m² of filter, "
                f"{speed / FILTER_VELOCITY:.1f} times what it takes well.",
                speed,
                FILTER_VELOCITY,
                answer.scenario.running,
                remedies=(f"A filter of {wanted:.1f} m², and a respirator for what it lets through.",),
            )


@rule
def implausible_claim(assessment: Assessment) -> Iterator[Finding]:
    """A maker's claim that no motor of that power could keep."""
    for collector in assessment.project.collectors:
        claim = collector.fan
        if isinstance(claim, Claim):
            curve = curve_from_claim(claim.impeller, claim.free_air, claim.hertz)
            if not believable(curve, claim.motor_power):
                power = best_air_power(curve)
                yield Finding(
                    "implausible-curve",
                    "warning",
                    collector.id,
                    f"{collector.name}: the claim needs {power:.0f} W in the air, more than half of its "
                    f"{claim.motor_power:.0f} W motor can give.",
                    power,
                    AIR_POWER_LIMIT * claim.motor_power,
                    remedies=("Ask for a measured fan curve, or take the claim down.",),
                )


@rule
def blows_out(assessment: Assessment) -> Iterator[Finding]:
    """A running pickup that air leaves instead of entering."""
    for answer in assessment.answers:
        for p in answer.pickups:
            if p.airflow < 0:
                machine, pickup = assessment.project.pickup[f"{p.machine}/{p.pickup}"]
                yield Finding(
                    "back-flow",
                    "fault",
                    f"{p.machine}/{p.pickup}",
                    f"{machine.name}, {pickup.name.lower()}: air blows out of it.",
                    p.airflow,
                    0.0,
                    answer.scenario.running,
                    remedies=("Shut its gate, or give it a system of its own.",),
                )


@rule
def not_connected(assessment: Assessment) -> Iterator[Finding]:
    """Pickups and runs that no collector reaches, and machines with nothing to connect."""
    project = assessment.project
    for machine in project.machines:
        if not machine.pickups:
            yield Finding(
                "no-pickup",
                "note",
                machine.id,
                f"{machine.name}: no pickup, so nothing catches its dust.",
                remedies=("A hood behind it or a floor sweep beside it would.",),
            )
    for answer in assessment.answers:
        for p in answer.pickups:
            if p.leaf is None:
                machine, pickup = project.pickup[f"{p.machine}/{p.pickup}"]
                yield Finding(
                    "not-connected",
                    "warning",
                    f"{p.machine}/{p.pickup}",
                    f"{machine.name}, {pickup.name.lower()}: not connected to a collector.",
                    scenario=answer.scenario.running,
                    remedies=("Run a duct or a hose to it.",),
                )
    pieces = assessment.pieces
    reached = {piece.source_id for piece in pieces}
    for run in project.runs if assessment.answers or not project.machines else ():
        if run.id not in reached:
            yield Finding(
                "no-collector",
                "warning",
                run.id,
                f"'{run.id}': leads to no collector.",
                remedies=("Connect it, or take it away.",),
            )
    for ident in dict.fromkeys(p.source_id for p in pieces if isinstance(p, Entry) and p.source_id in project.point):
        yield Finding(
            "open-end",
            "warning",
            ident,
            f"'{ident}': a duct ends here in the open air and draws from the room.",
            remedies=("Cap it, or take it on to a pickup.",),
        )


@rule
def hose_length(assessment: Assessment) -> Iterator[Finding]:
    """Hoses that do not reach, and hoses with more length than their way needs."""
    project, display = assessment.project, _display(assessment)
    for run in project.runs:
        if not materials()[run.material].hose or run.length is None:
            continue
        distances = {ref: distance(project, run, ref) for ref in (run.start, *run.also_serves)}
        farthest = max(distances, key=lambda ref: distances[ref])
        straight = distances[farthest]
        if run.length < straight - 0.005:
            machine = project.pickup[farthest][0].name if farthest in project.pickup else farthest
            yield Finding(
                "hose-short",
                "fault",
                run.id,
                f"'{run.id}': {display.length(run.length)} of hose does not reach the {machine.lower()}, "
                f"{display.length(straight)} away.",
                run.length,
                straight,
                remedies=(f"Use at least {display.length(display.tape(straight * 1.1))}.",),
            )
        elif run.length > straight + SPARE_HOSE and not run.also_serves:
            yield Finding(
                "hose-long",
                "warning",
                run.id,
                f"'{run.id}': {display.length(run.length)} of hose for a way of {display.length(straight)}.",
                run.length,
                straight,
                remedies=(f"Cut it to about {display.length(display.tape(straight * 1.15))}.",),
            )


@rule
def gate_rules(assessment: Assessment) -> Iterator[Finding]:
    """Gates that do not follow their machine."""
    for gate in assessment.project.gates:
        if gate.rule == "left open":
            yield Finding(
                "gate-open",
                "warning",
                gate.id,
                f"'{gate.id}': left open, so it takes air from every other machine.",
                remedies=("Let it follow its machine.",),
            )
        elif gate.rule == "kept shut":
            yield Finding(
                "gate-shut",
                "warning",
                gate.id,
                f"'{gate.id}': kept shut, so what is behind it gets no air.",
                remedies=("Let it follow its machine.",),
            )


@rule
def chip_jam(assessment: Assessment) -> Iterator[Finding]:
    """Straight knives make long curls that jam small ports."""
    project, display = assessment.project, _display(assessment)
    for machine in project.machines:
        for pickup in machine.pickups:
            if machine.cutter == "straight knives" and pickup.port < JAM_PORT - 1e-3:
                yield Finding(
                    "chip-jam",
                    "note",
                    f"{machine.id}/{pickup.id}",
                    f"{machine.name}: straight knives make long curls, which jam a "
                    f"{display.diameter(pickup.port)} port.",
                    pickup.port,
                    JAM_PORT,
                    remedies=(f"A port of {display.diameter(JAM_PORT)} or a segmented cutter.",),
                )


@rule
def near_inlet(assessment: Assessment) -> Iterator[Finding]:
    """An elbow or wye so close before the collector that the air arrives swirling."""
    display = _display(assessment)
    for piece in _one_each(p for p in assessment.pieces if isinstance(p, InletDisturbance)):
        wanted = INLET_DIAMETERS * piece.diameter
        yield Finding(
            "near-inlet",
            "note",
            piece.source_id,
            f"'{piece.source_id}': a turn {display.length(piece.gap)} before the "
            f"collector's inlet; it wants {display.length(wanted)} of straight duct there.",
            piece.gap,
            wanted,
            remedies=("Move the turn away from the collector.",),
        )


@rule
def outside_data(assessment: Assessment) -> Iterator[Finding]:
    """Fittings for which no measured coefficient exists."""
    for piece in _one_each(p for p in assessment.pieces if isinstance(p, WyeLeg) and p.outside_data):
        yield Finding(
            "outside-data",
            "note",
            piece.source_id,
            f"'{piece.source_id}': this joint lies outside the measured data; its loss is a guess.",
            piece.angle,
            remedies=("Use a wye of 30 to 60 degrees, one branch at a time.",),
        )


def _one_each(pieces: Iterable[PieceT]) -> list[PieceT]:
    """The first piece of each element."""
    first: dict[str, PieceT] = {}
    for piece in pieces:
        first.setdefault(piece.source_id, piece)
    return list(first.values())


def of_element(found: list[Finding], project: Project, element: str) -> list[Finding]:
    """The findings about an element, a machine's pickups and a run's gates included."""
    gates = {gate.id for gate in project.gates if gate.run == element}
    return [
        f
        for f in found
        if f.element == element or element in f.also or f.element.startswith(f"{element}/") or f.element in gates
    ]

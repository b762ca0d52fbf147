"""Air at the pickups: no answer, too little, too fast, the wrong way."""

from __future__ import annotations

from grey_current.air.needs import COMPRESSIBLE, TOO_FAST
from grey_current.design.findings.chips import runs_words
from grey_current.design.findings.finding import Finding, Found, Inspection, Rule, Severity
from grey_current.design.flow.assessment import PickupAir, ScenarioAir
from grey_current.design.flow.losses import biggest_loss
from grey_current.design.flow.transport import transport_checks
from grey_current.design.words import STARVED_BELOW


def unanswered(inspection: Inspection) -> Found:
    """A scenario whose flows could not be computed."""
    for answer in inspection.assessment.answers:
        if not answer.converged:
            name = answer.scenario.name(inspection.project)
            yield Finding(
                "no-answer",
                "fault",
                answer.scenario.running[0],
                f"{name}: no airflow could be computed for this ductwork.",
                scenario=answer.scenario.running,
                remedies=("Look for a duct of extreme size or a fan curve without a fall.",),
            )


def short_of_air(inspection: Inspection) -> Found:
    """Pickups that get less than they need, their machine alone first; together only those that
    then become short.
    """
    project, display = inspection.project, inspection.display
    said: set[str] = set()
    # A machine that is short by itself is short with any other too: it is said once, alone.
    for answer in sorted(inspection.assessment.answers, key=lambda a: len(a.scenario.running)):
        if not answer.converged:
            continue
        for p in answer.pickups:
            ref = f"{p.machine}/{p.pickup}"
            if p.leaf is None or p.met or ref in said:
                continue
            said.add(ref)
            machine, pickup = project.pickup[ref]
            starved = p.share < STARVED_BELOW
            severity: Severity = "warning"
            if starved or (machine.priority and not p.nearly_met):
                severity = "fault"
            elif p.nearly_met and not machine.priority:
                severity = "note"
            nearly = ", nearly enough" if p.nearly_met else ""
            never = " This machine is marked “must never run short”." if machine.priority else ""
            others = [inspection.names.of(m) for m in answer.scenario.running if m != machine.id]
            beside = f" with {' and '.join(others)} running too" if others else ""
            yield Finding(
                "starved" if starved else "short",
                severity,
                ref,
                f"{machine.name}, {pickup.name.lower()}{beside}: "
                f"{display.airflow(p.airflow, unit=False)} of "
                f"{display.airflow(p.need.airflow)} {p.need.reason}{nearly}.{never}",
                p.airflow,
                p.need.airflow,
                answer.scenario.running,
                remedies=_biggest_loss(inspection, answer, p),
            )
        yield None


def _biggest_loss(
    inspection: Inspection, answer: ScenarioAir, pickup: PickupAir
) -> tuple[str, ...]:
    found = biggest_loss(inspection.project, answer, pickup)
    if found is not None:
        return (f"Biggest loss: {found.words}, {inspection.display.pressure(found.loss)}.",)
    return ()


def beyond_the_model(inspection: Inspection) -> Found:
    """Scenarios in which air somewhere is so fast that it is compressed, which is not computed
    here.
    """
    for answer in inspection.assessment.answers:
        fastest = (0.0, "")
        for system in answer.systems.values():
            if system.converged:
                # Against the flow too: what compresses air is its speed.
                speeds = [abs(speed) for speed in system.velocities]
                index = max(range(len(speeds)), key=speeds.__getitem__)
                fastest = max(fastest, (speeds[index], system.network.pieces[index].source_id))
        if fastest[0] > COMPRESSIBLE:
            yield Finding(
                "beyond-model",
                "warning",
                fastest[1],
                f"{answer.scenario.name(inspection.project)} running: "
                f"{inspection.display.velocity(fastest[0])} at "
                f"{inspection.names.of(fastest[1])}; from "
                f"{inspection.display.velocity(COMPRESSIBLE)} on air is "
                "compressed, and these figures do not hold.",
                fastest[0],
                COMPRESSIBLE,
                answer.scenario.running,
                remedies=(
                    "Look for a bore or an intake that is much too small, or a fan curve that "
                    "cannot be.",
                ),
            )
        yield None


def too_fast(inspection: Inspection) -> Found:
    """Runs where air is fast enough to be only noise and loss; one finding a scenario."""
    project, display = inspection.project, inspection.display
    for answer in inspection.assessment.answers:
        fast = sorted(
            (c for c in transport_checks(project, answer) if c.velocity > TOO_FAST),
            key=lambda c: -c.velocity,
        )
        # The fastest is named with its figure, the others are counted.
        runs = list(dict.fromkeys(c.run for c in fast))
        if runs:
            yield Finding(
                "too-fast",
                "note",
                runs[0],
                f"{answer.scenario.name(project)} running: {display.velocity(fast[0].velocity)} in "
                f"{runs_words(inspection, runs)}; above about {display.velocity(TOO_FAST)} you "
                "only gain noise.",
                fast[0].velocity,
                TOO_FAST,
                answer.scenario.running,
                tuple(runs[1:]),
                ("Use larger pipe there.",),
            )


def blows_out(inspection: Inspection) -> Found:
    """A running pickup that air leaves instead of entering."""
    for answer in inspection.assessment.answers:
        for p in answer.pickups:
            if p.airflow < 0:
                machine, pickup = inspection.project.pickup[f"{p.machine}/{p.pickup}"]
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


RULES: tuple[Rule, ...] = (unanswered, short_of_air, beyond_the_model, too_fast, blows_out)

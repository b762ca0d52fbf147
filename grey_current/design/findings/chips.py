"""Whether chips are carried, and whether they pass a port."""

from __future__ import annotations

from grey_current.air.needs import MET_FROM, SETTLES_BELOW
from grey_current.design.findings.finding import Finding, Found, Inspection, Rule
from grey_current.design.flow.assessment import ScenarioAir
from grey_current.design.flow.transport import TransportCheck, transport_checks
from grey_current.shop.model import Project

# m; curls of a straight-knife cutter jam ports smaller than 5 in. Allowance.
JAM_PORT = 0.125


def _slow_runs(project: Project, answer: ScenarioAir) -> dict[str, TransportCheck]:
    """The slowest length of every run that chips of a scenario pass too slowly, slowest run
    first.
    """
    slow: dict[str, TransportCheck] = {}
    for transport in sorted(transport_checks(project, answer), key=lambda c: c.share):
        if transport.share < MET_FROM:
            slow.setdefault(transport.run, transport)
    return slow


def runs_words(inspection: Inspection, runs: list[str]) -> str:
    """The first of several runs with its size, and how many more there are elsewhere."""
    name = inspection.names.of(runs[0])
    others = {inspection.names.of(run) for run in runs} - {name}
    size = inspection.display.diameter(inspection.project.run[runs[0]].diameter)
    if not others:
        return f"{name} ({size})"
    places = "place" if len(others) == 1 else "places"
    return f"{name} ({size}) and {len(others)} more {places}"


def chips_settle(inspection: Inspection) -> Found:
    """Runs where the air is too slow for the chips that pass; one finding a scenario and degree."""
    project, display = inspection.project, inspection.display
    for answer in inspection.assessment.answers:
        slow = _slow_runs(project, answer)
        # Those where chips will lie apart from those where they may: two findings, two severities.
        for will in (True, False):
            runs = [
                run for run, transport in slow.items() if (transport.share < SETTLES_BELOW) == will
            ]
            if not runs:
                continue
            worst = slow[runs[0]]
            # Remedies solve the air anew: the window takes a breath between them.
            for _ in inspection.remedies.prepare(answer, worst):
                yield None
            offered = [inspection.remedies.for_slow_run(answer, worst)]
            # What only may settle is seldom worth a wye.
            if will:
                for _ in inspection.remedies.prepare_clean_out(runs):
                    yield None
                offered.append(inspection.remedies.clean_out(runs))
            yield None
            verb = f"{'will' if will else 'may'} {'fall back' if worst.rises else 'settle'}"
            yield Finding(
                "settles" if will else "may-settle",
                "warning" if will else "note",
                runs[0],
                f"{answer.scenario.name(project)} running: chips {verb} in "
                f"{runs_words(inspection, runs)}: "
                f"{display.velocity(worst.velocity, unit=False)} of "
                f"{display.velocity(worst.needed)}.",
                worst.velocity,
                worst.needed,
                answer.scenario.running,
                tuple(runs[1:]),
                tuple(words for words, _ in offered if words),
                tuple(change for _, change in offered if change),
            )


def chip_jam(inspection: Inspection) -> Found:
    """Straight knives make long curls that jam small ports."""
    project, display = inspection.project, inspection.display
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


RULES: tuple[Rule, ...] = (chips_settle, chip_jam)

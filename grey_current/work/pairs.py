"""Which two machines may run at the same time: by the one judgement, each need, the chips, the
wiring.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass

from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.flow.scenarios import Scenario, all_scenarios, scenario_of
from grey_current.design.judgement import SAME, PickupJudged, judged_pickups
from grey_current.design.supply.circuits import all_loads
from grey_current.shop.model import Project
from grey_current.shop.names import Names


@dataclass(frozen=True)
class Pair:
    """Two machines that run together: their air, and what stands against it in words; nothing does
    when it is empty.
    """

    air: ScenarioAir
    hinders: str

    @property
    def machines(self) -> tuple[str, ...]:
        """Their ids."""
        return self.air.scenario.running

    @property
    def share(self) -> float:
        """The least share of a need that a pickup of either gets."""
        return self.air.least_share

    @property
    def good(self) -> bool:
        """Whether both may run."""
        return not self.hinders


def all_pairs(now: Assessment) -> list[Pair]:
    """Every two machines that both have a duct, the best first. Raises nothing."""
    project = now.project
    ducted = [m for m, a in now.of_machine.items() if a.converged and a.worst is not None]
    wanted = [scenario_of(project, two) for two in itertools.combinations(ducted, 2)]
    if not wanted:
        return []
    known: list[Scenario] = [*all_scenarios(project), *wanted]
    # All pairs in one call, for they share arrangements and start from the answer that is known.
    answered = assess(project, list(dict.fromkeys(known)), now)
    answers = [
        answer
        for scenario in wanted
        if (answer := answered.of(scenario)) is not None and answer.converged
    ]
    wiring = _overloads(project, wanted)
    names = Names(project)
    pairs = [
        Pair(a, wiring.get(a.scenario) or next(_in_the_air(now, a, names), "")) for a in answers
    ]
    return sorted(pairs, key=lambda pair: (not pair.good, -pair.share))


def _overloads(project: Project, scenarios: list[Scenario]) -> dict[Scenario, str]:
    """What the wiring does not bear, by scenario."""
    circuits = {circuit.id: circuit.name for circuit in project.circuits}
    return {
        load.scenario: f"{circuits.get(load.circuit, load.circuit)} is overloaded"
        for load in all_loads(project, scenarios)
        if not load.fits
    }


def _in_the_air(now: Assessment, answer: ScenarioAir, names: Names) -> Iterator[str]:
    """A need that is not met, or chips that are carried worse than with the machine alone."""
    alone: dict[str, PickupJudged] = {}
    for machine in answer.scenario.running:
        alone |= {
            ref: judged for (_, ref), judged in judged_pickups(now.project, now.of_machine[machine])
        }
    for (_, ref), judged in judged_pickups(now.project, answer):
        if not judged.met:
            yield f"{names.of(ref)} gets {judged.share:.0%} of its need"
        was = alone[ref].transport if ref in alone else None
        slower = judged.transport is not None and was is not None and judged.transport < was - SAME
        if slower and not judged.carried:
            yield f"chips from {names.of(ref)} settle"

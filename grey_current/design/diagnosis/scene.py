"""What the rules for suspects look at: the shop's air, and the machine that is asked about."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cached_property

from grey_current.design.diagnosis.cause import Suspect
from grey_current.design.flow.assessment import Assessment, PickupAir, ScenarioAir
from grey_current.shop import edits
from grey_current.shop.collectors import Collector
from grey_current.shop.edits import Change
from grey_current.shop.model import Project
from grey_current.shop.names import Names, pickup_words
from grey_current.units import Display

# What a cause counts for that no change here cures and that lack of air in general makes worse:
# where all are starved its machine is too, and gets its air when that is cured. Allowance.
BESIDE = 0.2
# What to do about ports that are too small for a collector.
A_VACUUM = "A vacuum for the small ports, started by the tool's current."


@dataclass(frozen=True)
class Scene:
    """What the rules look at: the shop's air, and the machine that is asked about, if it is one."""

    now: Assessment
    machine: str | None = None

    @property
    def project(self) -> Project:
        return self.now.project

    @cached_property
    def names(self) -> Names:
        return Names(self.project)

    @cached_property
    def display(self) -> Display:
        return Display(self.project.settings.units)

    @cached_property
    def answers(self) -> list[ScenarioAir]:
        """Machines running alone that are asked about and have an answer."""
        return [
            answer
            for machine, answer in self.now.of_machine.items()
            if self.machine in (None, machine) and answer.converged
        ]

    @cached_property
    def pickups(self) -> dict[str, tuple[ScenarioAir, PickupAir]]:
        """Connected pickups that are asked about, by reference, with the answer of their machine
        alone.
        """
        return {
            f"{p.machine}/{p.pickup}": (answer, p)
            for answer in self.answers
            for p in answer.pickups
            if p.leaf is not None
        }

    @cached_property
    def collectors(self) -> list[Collector]:
        """Collectors that serve what is asked about."""
        used = {p.collector for _, p in self.pickups.values()}
        return [item for item in self.project.collectors if item.id in used]

    def runs_of(self, ref: str) -> set[str]:
        """Everything that a pickup's air passes, by element."""
        answer, p = self.pickups[ref]
        network = answer.systems[p.collector or ""].network
        return {network.pieces[i].source_id for i in network.path(p.leaf or 0)}

    @cached_property
    def passed(self) -> set[str]:
        """Everything that the air of what is asked about passes."""
        return set().union(*(self.runs_of(ref) for ref in self.pickups))

    def machine_of(self, ref: str) -> str:
        """What a pickup's machine is called, with the pickup where it has several."""
        return f"the {pickup_words(*self.project.pickup[ref])}"

    def most_air(self, collector: str) -> float:
        """The most air (m³/s) that a collector moves in any scenario."""
        flows = [a.systems[collector].airflow for a in self.now.answers if collector in a.systems]
        return max(flows, default=0.0)


Found = Iterator[Suspect]
Rule = Callable[[Scene], Found]


def counted(number: int, one: str, many: str) -> str:
    """A small number in words with its noun: "One branch", "Seven branches"."""
    words = ("No", "One", "Two", "Three", "Four", "Five", "Six", "Seven", "Eight", "Nine", "Ten")
    return f"{words[number] if number < len(words) else number} {one if number == 1 else many}"


def with_fields(element: str, words: str, **fields: object) -> Change:
    """A change of some fields of one element."""
    return Change(words, element, lambda p: edits.changed(p, element, **fields))

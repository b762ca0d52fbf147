"""A finding, the stage of the work at which it is mended, and what the rules look at."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from grey_current.design.findings.remedies import MOST_SOLVED, Remedies
from grey_current.design.flow.assessment import Assessment
from grey_current.design.space.clashes import DuctSpace, duct_space
from grey_current.design.space.ground import FloorSpace
from grey_current.shop.edits import Change
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.units import Display

Severity = Literal["fault", "warning", "note"]
ORDER: tuple[Severity, ...] = ("fault", "warning", "note")

# Every code that a rule may give, with the stage where it is mended; an unknown one is an error,
# not silence.
STAGE_OF: dict[str, str] = {
    **dict.fromkeys(
        (
            "door-blocked",
            "door-tracks",
            "walkway",
            "near-heat",
            "store-near-heat",
            "near-grille",
            "front-blocked",
            "hangs-low",
            "no-drilling",
            "outlet-hidden",
            "clean-zone-air",
            "machine-overload",
            "no-outlet",
            "lead-short",
            "wrong-voltage",
        ),
        "shop",
    ),
    **dict.fromkeys(
        (
            "in-the-wall",
            "overlap",
            "in-the-air",
            "in-arrangement",
            "lane-blocked",
            "lane-short",
            "service-blocked",
            "must-move",
            "under-ceiling",
            "parked-in",
            "in-clean-zone",
            "out-of-zone",
            "no-pickup",
            "tilts",
            "chip-jam",
        ),
        "machines",
    ),
    **dict.fromkeys(
        (
            "too-tall",
            "overload",
            "loud",
            "flue",
            "opening",
            "small-bin",
            "heavy-bin",
            "implausible-curve",
            "motor",
            "through-the-fan",
            "small-port",
            "small-filter",
            "no-filter",
            "off-curve",
            "run-on",
        ),
        "collector",
    ),
    **dict.fromkeys(
        (
            "no-answer",
            "starved",
            "short",
            "too-fast",
            "beyond-model",
            "back-flow",
            "settles",
            "may-settle",
            "not-connected",
            "left-open",
            "own-bag",
            "no-collector",
            "open-end",
            "hose-short",
            "hose-long",
            "hose-round",
            "hose-across",
            "one-hose",
            "open-port",
            "near-inlet",
            "outside-data",
            "crowded",
            "throttles",
            "whistles",
            "above-ceiling",
            "unsupported",
            "through-wall",
            "clash-beam",
            "clash-thing",
            "clash-machine",
            "clash-door",
            "clash-doorway",
            "clash-tracks",
            "clash-window",
            "clash-walkway",
            "clash-lamp",
            "clash-area",
            "clash-duct",
            "clash-lane",
            "low-duct",
            "over-table",
        ),
        "air",
    ),
    **dict.fromkeys(("gate-open", "gate-shut", "gate-reach", "dead-pipe", "flush"), "gates"),
    **dict.fromkeys(
        (
            "no-pipe-room",
            "no-joint-room",
            "short-piece",
            "unsold-fitting",
            "cut-otherwise",
            "no-stock",
            "hangs-on-nothing",
        ),
        "build",
    ),
}


@dataclass(frozen=True)
class Finding:
    """One thing that is wrong: which rule, how bad, the element's id, a sentence, and what would
    mend it.

    `value` and `limit` are the figures behind the sentence in SI units, where there are any;
    `scenario` names the running machines, `also` the other elements that the sentence is about;
    `fixes` are remedies that one click can make, computed or plain. Raises `KeyError` for a code
    that `STAGE_OF` does not know.
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
    fixes: tuple[Change, ...] = field(default=(), compare=False)

    def __post_init__(self) -> None:
        _ = self.stage

    @property
    def stage(self) -> str:
        """The stage of the work at which it is mended."""
        return STAGE_OF[self.code]


@dataclass(frozen=True)
class Inspection:
    """What the rules look at: the air with each machine running alone, and the ground that
    everything stands on.

    Unless it is `in_full` no remedy is computed, which takes longest.
    """

    assessment: Assessment
    space: FloorSpace
    in_full: bool = True
    # The shop as it stands in another arrangement, where that is looked at.
    arranged: Project | None = None

    @property
    def project(self) -> Project:
        """The shop that is looked at."""
        return self.assessment.project if self.arranged is None else self.arranged

    def in_arrangement(self, arranged: Project) -> Inspection:
        """The same for the shop in another arrangement; its air is not looked at."""
        return Inspection(self.assessment, FloorSpace(arranged), self.in_full, arranged)

    @cached_property
    def display(self) -> Display:
        """Quantities in the shop's units."""
        return Display(self.project.settings.units)

    @cached_property
    def names(self) -> Names:
        """What things are called."""
        return Names(self.project)

    @cached_property
    def remedies(self) -> Remedies:
        """What would mend slow runs, computed once for each run."""
        return Remedies(self.assessment, self.names, _solved=0 if self.in_full else MOST_SOLVED)

    @cached_property
    def ducts(self) -> DuctSpace:
        """The room as ducts see it."""
        found = duct_space(self.project)
        found.ground = self.space
        return found


# What a rule gives: findings, and now and then None, where a window may take a breath.
Found = Iterator[Finding | None]
Rule = Callable[[Inspection], Found]


def in_order(found: Iterable[Finding]) -> list[Finding]:
    """Findings worst first, otherwise as they came."""
    return sorted(found, key=lambda f: ORDER.index(f.severity))


def of_element(found: Iterable[Finding], project: Project, element: str) -> list[Finding]:
    """The findings about an element, a machine's pickups and a run's gates included."""
    gates = {gate.id for gate in project.gates if gate.run == element}
    return [
        f
        for f in found
        if f.element == element
        or element in f.also
        or f.element.startswith(f"{element}/")
        or f.element in gates
    ]

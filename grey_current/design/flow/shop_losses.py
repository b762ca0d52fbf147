"""The whole shop at a glance: for each machine, what takes the fan's pressure, its air, and its
slowest air.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from grey_current.air import pieces as kinds
from grey_current.air.pieces import Piece
from grey_current.design.flow.assessment import Assessment, PickupAir, ScenarioAir
from grey_current.design.flow.transport import slowest_transport

# What takes pressure on a path, from the machine to the exhaust.
PARTS = ("intake", "hose", "fittings", "straight pipe", "separator", "filter", "way back")
# Every other piece is a fitting.
PART_OF: dict[type[Piece], str] = {
    kinds.Intake: "intake",
    kinds.Entry: "intake",
    kinds.Hose: "hose",
    kinds.HoseBend: "hose",
    kinds.CollectorHose: "hose",
    kinds.Duct: "straight pipe",
    kinds.Leakage: "straight pipe",
    kinds.Separator: "separator",
    kinds.Filter: "filter",
    kinds.ReturnOpening: "way back",
}


@dataclass(frozen=True)
class Share:
    """One part of `PARTS`: the pressure (Pa) that it takes, and the element that takes most of
    it.
    """

    part: str
    loss: float
    element: str


@dataclass(frozen=True)
class MachineLosses:
    """A machine running alone: its least ducted pickup, what takes the pressure, the slowest air on
    its path.

    `slowest` is over what its chips need, in the run `slow_run`; both None where no chips pass.
    """

    machine: str
    pickup: PickupAir
    parts: tuple[Share, ...]
    slowest: float | None
    slow_run: str | None

    @property
    def total(self) -> float:
        """All of the parts, Pa."""
        return sum(share.loss for share in self.parts)


def shop_losses(assessment: Assessment) -> tuple[MachineLosses, ...]:
    """Every machine that has air, in the shop's order. Raises nothing."""
    found = []
    for machine, answer in assessment.of_machine.items():
        worst = answer.worst
        if worst is not None and answer.converged:
            slow = slowest_transport(assessment.project, answer)
            share, run = (slow.share, slow.run) if slow else (None, None)
            found.append(MachineLosses(machine, worst, _parts(answer, worst), share, run))
    return tuple(found)


def _parts(answer: ScenarioAir, pickup: PickupAir) -> tuple[Share, ...]:
    system = answer.systems[pickup.collector or ""]
    taken: dict[str, dict[str, float]] = defaultdict(lambda: defaultdict(float))
    for index in system.network.path(pickup.leaf or 0):
        piece = system.network.pieces[index]
        if not isinstance(piece, kinds.Fan):
            taken[PART_OF.get(type(piece), "fittings")][piece.source_id] += system.losses[index]
    return tuple(_share(part, taken[part]) for part in PARTS if part in taken)


def _share(part: str, taken: dict[str, float]) -> Share:
    return Share(
        part, max(sum(taken.values()), 0.0), max(taken, key=lambda element: taken[element])
    )

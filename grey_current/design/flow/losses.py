"""Where the suction goes: what takes the pressure between a pickup and the exhaust, what belongs
together as one.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from grey_current.air.pieces import Hose, Piece
from grey_current.design.flow.assessment import PickupAir, ScenarioAir
from grey_current.design.words import piece_words
from grey_current.shop.model import Project
from grey_current.units import Display

# Kinds that nobody can lay a hand on.
NOT_COUNTED = {"fan", "entry"}
# Kinds that belong to the collector as bought: listed, but not what one is told to mend first.
GIVEN = {"separator"}
GROUPS = {
    **dict.fromkeys(("hose_bend", "collector_hose"), "hose"),
    **dict.fromkeys(("spacing", "mitre", "inlet_disturbance"), "elbow"),
}


@dataclass(frozen=True)
class Loss:
    """Something that takes pressure (Pa); `element` is its id.

    `given`: it belongs to the collector as bought, and no change of the ductwork lessens it.
    """

    element: str
    words: str
    loss: float
    given: bool = False


def group_of(piece: Piece) -> tuple[str, str]:
    """What a piece belongs to when losses are added up: (element, kind)."""
    return piece.source_id, GROUPS.get(piece.kind, piece.kind)


def largest_losses(project: Project, scenario: ScenarioAir, pickup: PickupAir) -> list[Loss]:
    """What takes the pressure between a pickup and the exhaust, worst first; what belongs together
    as one.
    """
    if pickup.collector is None or pickup.leaf is None:
        return []
    system = scenario.systems[pickup.collector]
    network = system.network
    display = Display(project.settings.units)
    losses: dict[tuple[str, str], float] = defaultdict(float)
    words: dict[tuple[str, str], str] = {}
    for index in network.path(pickup.leaf):
        piece = network.pieces[index]
        if piece.kind in NOT_COUNTED:
            continue
        key = group_of(piece)
        losses[key] += system.losses[index]
        if isinstance(piece, Hose):
            run = project.run[piece.source_id]
            words[key] = f"{display.about(_hose_length(system.network.pieces, run.id))} of hose"
        elif piece.kind not in GROUPS or key not in words:
            words[key] = piece_words(project, piece, display, system.gate_open(piece))
    found = [Loss(key[0], words[key], loss, key[1] in GIVEN) for key, loss in losses.items()]
    return sorted(found, key=lambda largest_loss: -largest_loss.loss)


def biggest_loss(project: Project, scenario: ScenarioAir, pickup: PickupAir) -> Loss | None:
    """The largest loss that something can be done about; None where nothing takes pressure."""
    return next(
        (loss for loss in largest_losses(project, scenario, pickup) if not loss.given), None
    )


def _hose_length(pieces: tuple[Piece, ...], run: str) -> float:
    return sum(p.length for p in pieces if p.source_id == run and isinstance(p, Hose))

"""What the run strip shows, as plain values: the path piece by piece, heights, the pressure that is
left.
"""

from __future__ import annotations

from dataclasses import dataclass

from grey_current.air.pieces import Piece, Straight
from grey_current.design.flow.assessment import PickupAir, ScenarioAir
from grey_current.design.flow.losses import GIVEN, NOT_COUNTED, group_of
from grey_current.design.words import piece_words
from grey_current.shop.model import Project
from grey_current.shop.places import position
from grey_current.shop.roofs import highest
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace

# Pixels for a fitting, which has no length of its own.
POINT_WIDTH = 9.0
END_WIDTH = {"intake": 46.0, "separator": 58.0, "filter": 42.0, "return_opening": 52.0}
NO_WIDTH = {"spacing", "inlet_disturbance"}


@dataclass(frozen=True)
class StripPiece:
    """One piece along the path: its length (m) or its fixed width (px), loss, and the pressure
    left.

    `group` is what it belongs to when losses are added up: a hose and its bends are one thing.
    `whole`: it stands for a machine or collector, so that selecting that shows the whole path.
    """

    element: str
    kind: str
    words: str
    length: float
    width: float
    height_start: float
    height_end: float
    diameter: float
    loss: float
    left_after: float
    group: tuple[str, str]
    whole: bool


@dataclass(frozen=True)
class StripFacts:
    """A pickup's whole path; `total` is the fan's pressure, `head` the line above it.

    `largest_loss` is the group that takes most.
    """

    head: str
    pieces: tuple[StripPiece, ...]
    largest_loss: tuple[str, str]
    largest_pressure: float
    total: float
    ceiling: float


def strip_facts(workspace: Workspace) -> StripFacts | None:
    """The path shown: of the selected or running machine's selected or worst pickup; None without
    one.
    """
    project = workspace.project
    found = _shown_pickup(workspace)
    if found is None:
        return None
    answer, pickup = found
    if pickup.collector is None or pickup.leaf is None:
        return None
    system = answer.systems[pickup.collector]
    if not system.converged:
        return None
    display = Display(project.settings.units)
    path = system.network.path(pickup.leaf)
    own_fan = system.fan_piece
    total = -system.losses[own_fan]
    heights = _heights(project, pickup, [system.network.pieces[i] for i in path])
    pieces: list[StripPiece] = []
    left = total
    bodies = {*project.machine, *project.collector}
    for index, (low, high) in zip(path, heights, strict=True):
        piece = system.network.pieces[index]
        if index == own_fan:
            continue
        loss = system.losses[index]
        words = piece_words(project, piece, display, system.gate_open(piece))
        pieces.append(
            StripPiece(
                piece.source_id,
                piece.kind,
                words,
                *_extent(piece),
                low,
                high,
                piece.diameter,
                loss,
                left - loss,
                group_of(piece),
                piece.source_id in bodies,
            )
        )
        left -= loss
    sums: dict[tuple[str, str], float] = {}
    for shown in pieces:
        sums[shown.group] = sums.get(shown.group, 0.0) + shown.loss
    largest_loss = max((g for g in sums if g[1] not in NOT_COUNTED | GIVEN), key=lambda g: sums[g])
    machine, item = project.pickup[f"{pickup.machine}/{pickup.pickup}"]
    name = machine.name + (f", {item.name.lower()}" if len(machine.pickups) > 1 else "")
    got, lift = display.airflow(pickup.airflow), display.pressure(total)
    head = f"{name}: {got} from the port to the exhaust, fan pressure {lift}"
    return StripFacts(
        head,
        tuple(pieces),
        largest_loss,
        sums[largest_loss],
        total,
        max(highest(room) for room in project.rooms),
    )


def _shown_pickup(workspace: Workspace) -> tuple[ScenarioAir, PickupAir] | None:
    """The pickup whose path is shown, and the scenario it is computed in."""
    chosen = (workspace.selection or "").split("/")
    scenario = workspace.scenario
    machine = chosen[0] if chosen[0] in workspace.project.machine else ""
    if scenario is None or (machine and machine not in workspace.running):
        scenario = workspace.assessment.of_machine.get(machine) if machine else None
    if scenario is None or not scenario.converged:
        return None
    mine = [
        p for p in scenario.pickups if p.leaf is not None and (not machine or p.machine == machine)
    ]
    exact = [p for p in mine if len(chosen) > 1 and p.pickup == chosen[1]]
    best = min(exact or mine, key=lambda p: p.share, default=None)
    return (scenario, best) if best else None


def _extent(piece: Piece) -> tuple[float, float]:
    """(length in m, fixed width in px) of a piece on the strip; one of them is 0."""
    if isinstance(piece, Straight):
        return max(piece.length, 0.02), 0.0
    return 0.0, 0.0 if piece.kind in NO_WIDTH else END_WIDTH.get(piece.kind, POINT_WIDTH)


def _heights(project: Project, pickup: PickupAir, pieces: list[Piece]) -> list[tuple[float, float]]:
    """Height (m) at both ends of each piece; a run's slope is shared out over its pieces."""
    here = position(project, f"{pickup.machine}/{pickup.pickup}")[2]
    heights: list[tuple[float, float]] = []
    for piece in pieces:
        if not isinstance(piece, Straight):
            heights.append((here, here))
            continue
        run = project.run[piece.source_id]
        far = position(project, run.end if piece.forward else run.start)[2]
        near = position(project, run.start if piece.forward else run.end)[2]
        mine = [p for p in pieces if isinstance(p, Straight) and p.source_id == piece.source_id]
        share = piece.length / (sum(p.length for p in mine) or 1.0)
        nxt = here + (far - near) * share
        heights.append((here, nxt))
        here = nxt
    return heights

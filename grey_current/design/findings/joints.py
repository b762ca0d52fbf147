"""Fittings: turns near the inlet, joints outside the data, crowded ones, changes of size."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import TypeVar

from grey_current.air.fittings import INLET_DIAMETERS, SPACING_DIAMETERS
from grey_current.air.needs import TOO_FAST
from grey_current.air.pieces import InletDisturbance, Piece, SizeChange, Spacing, WyeLeg
from grey_current.design.findings.finding import Finding, Found, Inspection, Rule
from grey_current.design.flow.assessment import ScenarioAir, System

PieceT = TypeVar("PieceT", bound=Piece)
# m/s through an abrupt narrowing from which it whistles. Allowance.
WHISTLE = 25.0
# Share of the fan's pressure lost in one change of size from which it throttles the machine.
# Allowance.
THROTTLE = 0.1
# Diameters between two fittings below which a finding is worth a line; the loss counts up to four.
CROWD = 2.0

# m of straight duct that may be wanting without a word.
HARDLY = 0.01


def near_inlet(inspection: Inspection) -> Found:
    """An elbow or wye so close before the collector that the air arrives swirling."""
    display = inspection.display
    for piece in _one_each(
        p for p in inspection.assessment.pieces if isinstance(p, InletDisturbance)
    ):
        wanted = INLET_DIAMETERS * piece.diameter
        # Nobody measures a duct to the centimetre.
        if piece.gap > wanted - HARDLY:
            continue
        yield Finding(
            "near-inlet",
            "note",
            piece.source_id,
            f"{inspection.names.start(piece.source_id)}: a turn {display.about(piece.gap)} "
            "before the "
            f"collector's inlet; it wants {display.about(wanted)} of straight duct there.",
            piece.gap,
            wanted,
            remedies=("Move the turn away from the collector.",),
        )


def outside_data(inspection: Inspection) -> Found:
    """Fittings for which no measured coefficient exists."""
    for piece in _one_each(
        p for p in inspection.assessment.pieces if isinstance(p, WyeLeg) and p.outside_data
    ):
        yield Finding(
            "outside-data",
            "note",
            piece.source_id,
            f"{inspection.names.start(piece.source_id)} lies outside the measured data; its "
            "loss is a guess.",
            piece.angle,
            remedies=("Use a wye of 30 to 60 degrees, one branch at a time.",),
        )


def _one_each(pieces: Iterable[PieceT]) -> list[PieceT]:
    """The first piece of each element."""
    first: dict[str, PieceT] = {}
    for piece in pieces:
        first.setdefault(piece.source_id, piece)
    return list(first.values())


def crowded(inspection: Inspection) -> Found:
    """Fittings that disturb each other."""
    display = inspection.display
    seen: set[str] = set()
    for piece in inspection.assessment.pieces:
        if (
            not isinstance(piece, Spacing)
            or piece.source_id in seen
            or piece.gap > CROWD * piece.diameter
        ):
            continue
        gap = piece.gap
        seen.add(piece.source_id)
        wanted = SPACING_DIAMETERS * piece.diameter
        yield Finding(
            "crowded",
            "note",
            piece.source_id,
            f"{inspection.names.start(piece.source_id)}: {display.about(gap)} after another "
            "fitting; air wants "
            f"{display.about(wanted)} of straight pipe to settle.",
            gap,
            wanted,
            remedies=("Put straight pipe between them where it fits.",),
        )


def narrow(inspection: Inspection) -> Found:
    """Changes of size that throttle a machine, and those that whistle."""
    seen: set[str] = set()
    for answer in inspection.assessment.answers:
        for system in answer.systems.values():
            for index, piece in enumerate(system.network.pieces if system.converged else ()):
                if (
                    isinstance(piece, SizeChange)
                    and piece.source_id not in seen
                    and system.fan_static > 0
                ):
                    for finding in _size_change(inspection, answer, system, index):
                        seen.add(piece.source_id)
                        yield finding
        yield None


def _size_change(
    inspection: Inspection, answer: ScenarioAir, system: System, index: int
) -> Iterator[Finding]:
    """What is wrong with one change of size while some machines run."""
    piece, display = system.network.pieces[index], inspection.display
    assert isinstance(piece, SizeChange)
    speed, loss = abs(system.velocity(index)), system.losses[index]
    where, running = inspection.names.of(piece.source_id), answer.scenario.running
    change = (
        f"the change between {display.diameter(piece.small)} and "
        f"{display.diameter(piece.large)} at {where}"
    )
    who = answer.scenario.name(inspection.project)
    if loss > THROTTLE * system.fan_static:
        share = f"{loss / system.fan_static:.0%} of what the fan gives"
        yield Finding(
            "throttles",
            "warning",
            piece.source_id,
            f"{who} running: {change} takes {display.pressure(loss)}, {share}.",
            loss,
            THROTTLE * system.fan_static,
            running,
            remedies=("Use the larger size on both sides, or a long taper.",),
        )
    elif speed > (WHISTLE if piece.sudden else TOO_FAST):
        words = f"{who} running: {display.velocity(speed)} through {change}; it will whistle."
        yield Finding(
            "whistles",
            "note",
            piece.source_id,
            words,
            speed,
            WHISTLE,
            running,
            remedies=("A long taper, or the larger size.",),
        )


RULES: tuple[Rule, ...] = (near_inlet, outside_data, crowded, narrow)

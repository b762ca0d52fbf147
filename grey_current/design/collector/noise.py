"""How loud a collector is, as an estimate with its band. The ear is not a meter: wear protection
when in doubt.
"""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from grey_current.shop.collectors import Collector
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.room import area

# dB by which the estimate may be off either way. Allowance.
BAND = 5.0
# dB(A) 1 m from a collector on an open floor, where its own figure is not known. Allowance.
USUAL = 80.0
# dB(A) over a working day from which hearing needs protection. ISO 1999; most countries' law asks
# the same.
PROTECT_FROM = 85.0
# Mean absorption of a workshop's walls, floor and what stands there. Allowance.
ABSORPTION = 0.12
# dB that a box with a lined air way, a partition wall or an outer wall takes off. Allowance.
WALLS = {"in the room": 0.0, "boxed in": 12.0, "next room": 28.0, "outdoors": 30.0}


@dataclass(frozen=True)
class Loudness:
    """Sound level, dB(A), and how far off it may be either way."""

    level: float
    band: float = BAND

    @property
    def needs_protection(self) -> bool:
        """Whether it may reach the level from which ears need protection."""
        return self.level + self.band >= PROTECT_FROM


def total(levels: Iterable[float]) -> float:
    """Level of several sources together, dB(A); −∞ for none.

    L = 10 log Σ 10^(L_i/10): two of 91 make 94, not 91. Raises nothing.
    Source: Beranek, Noise and Vibration Control, 1988, ch. 2 (sources that do not keep step).

    >>> round(total([82.0, 91.0]), 1)
    91.5
    """
    energy = math.fsum(10 ** (level / 10) for level in levels)
    return 10 * math.log10(energy) if energy > 0 else -math.inf


def at_machine(project: Project, collector: Collector, machine: Machine) -> Loudness | None:
    """The collector's own sound where somebody stands at a machine; None when its level is not
    known.

    Source: as `heard_at`.
    """
    return None if collector.noise is None else heard_at(project, collector, machine)


def heard_at(project: Project, collector: Collector, machine: Machine) -> Loudness:
    """The collector's own sound where somebody stands at a machine, from a usual level where its
    own is not known.

    L_p = L_w + 10 log(Q/(4π d²) + 4/R) with the room constant R = S α/(1 − α). A level 1 m from
    something on a floor is over a half space, so that Q = 2 and L_w = L_p + 8 dB. Raises nothing.
    Source: Beranek, Noise and Vibration Control, 1988, ch. 9; ISO 3744, 2010 (hemisphere over a
    floor).
    """
    away = max(math.dist((collector.x, collector.y), (machine.x, machine.y)), 0.5)
    known = USUAL if collector.noise is None else collector.noise
    return Loudness(known + _room_gain(project, away) - WALLS[collector.stands])


def beside(project: Project, collector: Collector) -> Loudness:
    """The collector's own sound 1 m from it where it stands, a usual one when its level is not
    known.

    Source: as `heard_at`.
    """
    return Loudness(
        (USUAL if collector.noise is None else collector.noise) + _room_gain(project, 1.0)
    )


def changed_by(airflow: float, pressure: float) -> float:
    """DB by which a fan is louder at so many times its airflow and its pressure.

    Source: Bies and Hansen, Engineering Noise Control, 2009, eq. 11.1: 10 log Q + 20 log p.
    """
    return 10 * math.log10(airflow) + 20 * math.log10(pressure)


def _room_gain(project: Project, away: float) -> float:
    """DB at a distance (m) in the shop, against 1 m on an open floor."""
    surface = sum(_surface(room.outline, room.ceiling) for room in project.rooms)
    constant = surface * ABSORPTION / (1 - ABSORPTION)
    half_space = 1 / (2 * math.pi * away**2)
    return 10 * math.log10((half_space + 4 / constant) * 2 * math.pi)


def _surface(outline: tuple[tuple[float, float], ...], ceiling: float) -> float:
    around = sum(math.dist(a, b) for a, b in zip(outline, (*outline[1:], outline[0]), strict=True))
    return 2 * abs(area(outline)) + around * ceiling

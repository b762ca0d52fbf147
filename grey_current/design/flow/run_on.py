"""How long a collector must run on: until the last chip from the farthest pickup has reached the
bin.
"""

from __future__ import annotations

import math

from grey_current.air.pieces import Straight
from grey_current.design.flow.assessment import ScenarioAir

# Velocity of a chip over that of the air that carries it. AIR.md 9; allowance.
SLIP = 0.7
# s from the collector's inlet into the bin. Allowance.
INTO_THE_BIN = 1.5
# m/s under which no chip moves at all. Allowance.
STILL = 0.5


def run_on(answer: ScenarioAir) -> float:
    """Seconds that the collector must run on after a machine has stopped; infinite where chips lie
    still.

    Σ L / (0.7 V) over the path of its farthest pickup, and the way into the bin; 0 for one without
    a duct. Source: time along a path at constant velocity in each piece.
    """
    longest = 0.0
    for pickup in answer.pickups:
        if pickup.collector is None or pickup.leaf is None:
            continue
        system = answer.systems[pickup.collector]
        if not system.converged:
            continue
        total = INTO_THE_BIN
        for index in system.network.path(pickup.leaf):
            piece = system.network.pieces[index]
            if isinstance(piece, Straight):
                velocity = system.velocity(index)
                total += piece.length / (SLIP * velocity) if velocity > STILL else math.inf
        longest = max(longest, total)
    return longest

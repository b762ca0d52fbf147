"""What separators keep of chips and of fine dust, by their air and by how full their bin is."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

SeparatorKind = Literal["none", "drum lid", "lid with baffle", "bucket", "small cyclone", "cyclone"]

# Shares of chips and of fine dust that each kind keeps at its own airflow, least and most.
# Allowances: nobody has measured yours.
KEPT: dict[SeparatorKind, tuple[tuple[float, float], tuple[float, float]]] = {
    "none": ((0.0, 0.0), (0.0, 0.0)),
    "drum lid": ((0.90, 0.97), (0.30, 0.60)),
    "lid with baffle": ((0.95, 0.99), (0.50, 0.80)),
    "bucket": ((0.95, 0.99), (0.60, 0.85)),
    "small cyclone": ((0.97, 0.995), (0.80, 0.95)),
    "cyclone": ((0.98, 0.998), (0.85, 0.98)),
}
# A cyclone with less than this share of its air throws less against its wall. Allowance.
SLOW = 0.6
# The share of a bin above which what lies in it is picked up again. Allowance.
FULL_FROM = 2 / 3


@dataclass(frozen=True)
class Spread:
    """A share with its least and most."""

    least: float
    usual: float
    most: float


@dataclass(frozen=True)
class Catch:
    """What a separator keeps: the shares of chips and of fine dust."""

    chips: Spread
    fine: Spread


def catch(kind: SeparatorKind, flow: float = 1.0, fill: float = 0.0) -> Catch:
    """The shares of chips and of fine dust that a separator keeps.

    `flow` is the airflow as a share of the one that it is made for, `fill` how full its bin is (0
    to 1). Below `SLOW` a cyclone lets the more through the less air there is; above `FULL_FROM`
    what is kept falls to nothing at the brim. Raises `ValueError` for a negative share.

    Source: shares are allowances; that what a cyclone lets through grows as its air slows follows
    from its cut size, Lapple, Processes use many collector types, Chemical Engineering 58, 1951,
    eq. 4: d50² goes with 1 / v.
    """
    if flow < 0 or fill < 0:
        raise ValueError(f"a share of air or of a bin is not negative: {flow}, {fill}")
    chips, fine = KEPT[kind]
    lets = SLOW / max(flow, 1e-9) if kind.endswith("cyclone") and flow < SLOW else 1.0
    room = min(max((1 - fill) / (1 - FULL_FROM), 0.0), 1.0)
    return Catch(_spread(chips, lets, room), _spread(fine, lets, room))


def _spread(kept: tuple[float, float], lets: float, room: float) -> Spread:
    # What passes is spread evenly by its logarithm: half as much is as likely as twice as much.
    passes = [1 - share for share in kept]
    usual = math.sqrt(passes[0] * passes[1])
    least, middle, most = (
        (1 - min(part * lets, 1.0)) * room for part in (passes[0], usual, passes[1])
    )
    return Spread(least, middle, most)

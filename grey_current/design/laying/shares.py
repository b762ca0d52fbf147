"""Which pickups are led to which collector: each to the nearest, or shared out otherwise."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence

from grey_current.design.judgement import Judgement
from grey_current.design.laying.strategy import Assigned
from grey_current.shop.model import Project
from grey_current.shop.places import position

# m; a collector with a narrower inlet is no collector for ducts while there is a wider one.
# Allowance.
SMALL_INLET = 0.09


def to_nearest(base: Project, wanted: Sequence[str]) -> Assigned:
    """Each pickup to the nearest collector with a wide inlet, where there is one."""
    wide = [c for c in base.collectors if c.inlet >= SMALL_INLET] or list(base.collectors)
    found: dict[str, list[str]] = {item.id: [] for item in wide}
    for ref in wanted:
        x, y, _ = position(base, ref)
        near = min(wide, key=lambda c: math.dist(position(base, c.id)[:2], (x, y)))
        found[near.id].append(ref)
    return not_empty(found)


def shared_otherwise(
    base: Project, wanted: Sequence[str], assigned: Assigned, judged: Judgement
) -> Iterator[Assigned]:
    """Who leads where, otherwise than to the nearest: what is not served by one collector to
    another one, and all to one alone.
    """
    wide = [c.id for c in base.collectors if c.inlet >= SMALL_INLET]
    if len(wide) < 2:
        return
    failing = {ref for (_, ref), p in judged.pickups.items() if not (p.met and p.carried)}
    for other in wide:
        shares: dict[str, list[str]] = {ident: [] for ident in wide}
        for ident, refs in assigned.items():
            for ref in refs:
                shares[other if ref in failing else ident].append(ref)
        yield not_empty(shares)
    for alone in wide:
        yield {alone: tuple(wanted)}


def shares_words(base: Project, assigned: Assigned) -> str:
    """Which machines are led to which collector, in a sentence each."""
    said = []
    for ident, refs in assigned.items():
        machines = dict.fromkeys(base.pickup[ref][0].name.lower() for ref in refs)
        said.append(f"To the {base.collector[ident].name}: {', '.join(machines)}.")
    return " ".join(said)


def not_empty(shares: Mapping[str, Sequence[str]]) -> Assigned:
    """Shares without the collectors to which nothing is led."""
    return {ident: tuple(refs) for ident, refs in shares.items() if refs}

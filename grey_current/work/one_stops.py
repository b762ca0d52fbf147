"""Two machines on one collector, one of which is switched off: what becomes of the chips of
both.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.run_on import run_on
from grey_current.design.flow.transport import path_shares
from grey_current.shop.names import Names
from grey_current.work.pairs import Pair


@dataclass(frozen=True)
class OneStops:
    """One machine goes on while another on its collector stops.

    `together` and `alone` are the slowest air on the way of the one that goes on, as a share of
    what its chips need, before and after the other's gate is shut. `clear` is how long (s) that
    gate must stay open for its last chips; infinite where they lie still.
    """

    stays: str
    stops: str
    together: float
    alone: float
    clear: float


def one_stops(now: Assessment, pairs: Sequence[Pair]) -> list[OneStops]:
    """Every two machines that may run together on one collector, each way round. Raises nothing."""
    project, found = now.project, list[OneStops]()
    for answer in (pair.air for pair in pairs if pair.good):
        # Each way round: which of the two stops first makes a difference.
        for stays, stops in (answer.scenario.running, answer.scenario.running[::-1]):
            alone, other = now.of_machine.get(stays), now.of_machine.get(stops)
            if alone is None or other is None or set(alone.systems).isdisjoint(other.systems):
                continue
            before, after = (
                _slowest(path_shares(project, item), stays) for item in (answer, alone)
            )
            if before is not None and after is not None:
                last = replace(
                    answer, pickups=tuple(p for p in answer.pickups if p.machine == stops)
                )
                found.append(OneStops(stays, stops, before, after, run_on(last)))
    return found


def _slowest(shares: dict[str, tuple[float, str]], machine: str) -> float | None:
    own = [share for ref, (share, _) in shares.items() if ref.partition("/")[0] == machine]
    return min(own, default=None)


def one_stops_words(names: Names, item: OneStops) -> str:
    """What to do when the other stops, and what then becomes of the chips of the one that goes
    on.
    """
    other, stays = names.of(item.stops), names.of(item.stays)
    first = f"When {other} stops before {stays}: "
    speed = f"{item.alone:.0%} of the speed that they need"
    if item.alone < 1 <= item.together:
        return (
            f"{first}leave its gate open, for with it shut the chips of {stays} would "
            f"settle ({speed})."
        )
    if math.isfinite(item.clear):
        first += f"shut its gate {item.clear:.0f} s later, when its last chips are in the bin. "
    else:
        first += "its last chips lie still in any case. "
    return (
        f"{first}The chips of {stays} "
        f"{'are still carried' if item.alone >= 1 else 'settle in either case'} ({speed})."
    )

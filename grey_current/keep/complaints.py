"""How likely people would complain as they do: by the air that causes take from whom, or by what a
kind does.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from grey_current.keep.causes import FaultKind, fault_kinds
from grey_current.keep.evidence import LEAST, Suspects
from grey_current.keep.model import View
from grey_current.shop.keep_plan import Complaint

Array = NDArray[np.float64]
Rows = NDArray[np.signedinteger[Any]]
# Share of a machine's air whose loss half of all people notice, and how sharply. Allowance.
NOTICED, NOTICED_WITHIN = 0.12, 0.03
# Nobody notices, or misses, anything more surely than this. Allowance.
SURE_OF = 0.98
# Pairs that are weighed at once: more would only take memory.
AT_ONCE = 50_000
# Shares of a machine's air by which two must differ for people to tell which has lost more.
# Allowance.
WORST_WITHIN = 0.06


class Symptom:
    """How likely a complaint is with causes alone and two by two."""

    def __init__(self, suspects: Suspects, complaint: Complaint | None) -> None:
        pickups, self.complaint = suspects.model.pickups, complaint
        self.alone = [n for n, (scenario, _, _) in enumerate(pickups) if len(scenario.running) == 1]
        self.plain = suspects.plain.airflows()[self.alone]
        owners = [pickups[n][1].partition("/")[0] for n in self.alone]
        self.machines = list(dict.fromkeys(owners))
        self.owned = [
            [i for i, owner in enumerate(owners) if owner == machine] for machine in self.machines
        ]

    def kept(self, view: View) -> Array:
        """The logarithm of the share of its air that each machine keeps, at its worst pickup."""
        shares = view.airflows()[self.alone] / np.maximum(self.plain, LEAST)
        logs = np.log(np.maximum(np.nan_to_num(shares, nan=1.0), LEAST))
        return np.array([logs[own].min() for own in self.owned])

    def alone_of(self, kept: Array, kinds: list[FaultKind | None]) -> Array:
        """The logarithm of the chance of the complaint with each cause (row,), by what machines
        keep (row, machine).
        """
        heard = self._heard(kinds)
        return self._by_air(kept) if heard is None else np.log(heard)

    def both_of(
        self, kept: Array, kinds: list[FaultKind | None], first: Rows, second: Rows
    ) -> Array:
        """The same for pairs of rows: the shares that both leave are multiplied."""
        heard = self._heard(kinds)
        if heard is None:
            parts = [slice(n, n + AT_ONCE) for n in range(0, max(len(first), 1), AT_ONCE)]
            return np.concatenate(
                [self._by_air(kept[first[part]] + kept[second[part]]) for part in parts]
            )
        return np.log(1 - (1 - heard[first]) * (1 - heard[second]))

    def _heard(self, kinds: list[FaultKind | None]) -> Array | None:
        """The chance that it is heard or seen by kind; None where it is the air that is complained
        of.
        """
        usual = fault_kinds()
        if self.complaint is not None and self.complaint.kind == "whistles":
            return np.array(
                [usual.healthy_whistles if kind is None else kind.whistles for kind in kinds]
            )
        if self.complaint is not None and self.complaint.kind == "dust behind the filter":
            return np.array([usual.healthy_dusty if kind is None else kind.dusty for kind in kinds])
        return None

    def _by_air(self, kept: Array) -> Array:
        said = self.complaint
        # What only the gauge says is evidence as a reading, not as a complaint.
        if said is None or said.kind == "only the gauge" or not self.machines:
            return np.zeros(len(kept))
        lost = 1 - np.exp(kept)
        # One notices a loss the surer the larger it is; never with certainty, for people err.
        noticed = np.clip(
            1 / (1 + np.exp(-(lost - NOTICED) / NOTICED_WITHIN)), 1 - SURE_OF, SURE_OF
        )
        named = [
            self.machines.index(m)
            for m in (said.machine, said.besides)
            if m is not None and m in self.machines
        ]
        if not named:
            return _all_of(np.log(noticed))
        if said.kind == "weaker everywhere":
            # Weaker everywhere, but named as worst: the others have lost less.
            worse = (lost - lost[:, named[:1]]) / WORST_WITHIN
            made: Array = _all_of(np.log(noticed)) - np.log(
                np.exp(np.minimum(worse, 50.0)).sum(axis=1)
            )
            return made
        # Only the named ones are weaker: that the others were not noticed counts as well.
        others = np.log(1 - np.delete(noticed, named, axis=1))
        made = np.log(noticed[:, named]).sum(axis=1)
        return made + (_all_of(others) if others.size else 0.0)


def _all_of(logs: Array) -> Array:
    """The logarithm of the chance that all of it is noticed: people do not look at each machine.
    Allowance.
    """
    made: Array = logs.mean(axis=1) * logs.shape[1] ** 0.75
    return made

"""Stand-ins for instruments, behind one small interface that a real one fills as well.

The interface: `WHO`, `AT what machine place` and `READ`, a line each, answered by a line each (see
`answered`). A real instrument does not mind where it is held and answers OK; a stand-in looks up
there what the shop would show.
"""

from __future__ import annotations

import math
import shlex
from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from grey_current.errors import InputError

# Signs of a line that are looked at; a longer one is no line of ours.
LONGEST_LINE = 200


@dataclass(frozen=True)
class InstrumentKind:
    """What an instrument reads, in which unit, and how badly (one deviation each). Allowances for
    cheap ones.

    `noise` is a share of the value, `floor`, `offset` and `step` are in the unit, `drift` in the
    unit per hour.
    """

    name: str
    reads: tuple[str, ...]
    unit: str
    noise: float
    floor: float
    offset: float
    drift: float
    step: float


# The stand-ins that ship with the program.
INSTRUMENTS = {
    kind.name: kind
    for kind in (
        InstrumentKind("gauge", ("static pressure", "filter drop"), "Pa", 0.04, 5.0, 6.0, 4.0, 2.5),
        InstrumentKind(
            "anemometer", ("velocity", "airflow"), "m/s or m3/s", 0.07, 0.0, 0.0, 0.0, 0.001
        ),
        InstrumentKind("amps", ("motor current",), "A", 0.02, 0.05, 0.1, 0.0, 0.1),
        InstrumentKind("meter", ("sound",), "dB(A)", 0.0, 1.0, 1.0, 0.0, 1.0),
        InstrumentKind("particles", ("dust",), "mg/m3", 0.2, 0.005, 0.0, 0.0, 0.001),
        InstrumentKind("bin", ("litres",), "l", 0.1, 3.0, 2.0, 0.0, 1.0),
    )
}

# What is truly there (SI): asked by what is read, the machine that runs, the place; NaN where
# nothing is.
World = Callable[[str, str, str], float]


class Instrument(Protocol):
    """An instrument: what it reads, and its figure where it is held."""

    kind: InstrumentKind

    def read(self, what: str, machine: str, place: str) -> float:
        """The figure (SI). Raises `InputError` where there is nothing to read."""


class StandIn:
    """A simulated instrument: what is truly there, with noise, an offset, drift by the hour, and
    its last digit.
    """

    def __init__(
        self,
        kind: InstrumentKind,
        world: World,
        seed: int,
        hours: Callable[[], float] = lambda: 0.0,
    ) -> None:
        self.kind, self._world, self._hours = kind, world, hours
        self._chance = np.random.default_rng(seed)
        self._offset = kind.offset * float(self._chance.standard_normal())
        self._drift = kind.drift * float(self._chance.standard_normal())

    def read(self, what: str, machine: str, place: str) -> float:
        """The figure. Raises `InputError` where there is nothing to read."""
        if what not in self.kind.reads:
            raise InputError(self.kind.name, what, f"it reads {' and '.join(self.kind.reads)}")
        true = self._world(what, machine, place)
        if not math.isfinite(true):
            raise InputError(
                self.kind.name,
                f"{what} {machine} {place}",
                "no air is computed there; hold it elsewhere",
            )
        noise = self.kind.noise * true + self.kind.floor
        shown = (
            true
            + self._offset
            + self._drift * self._hours()
            + noise * float(self._chance.standard_normal())
        )
        return max(round(shown / self.kind.step) * self.kind.step, self.kind.step)


class Session:
    """One conversation with an instrument by lines; it remembers where the instrument is held."""

    def __init__(self, instrument: Instrument) -> None:
        self.instrument = instrument
        self._held: tuple[str, str, str] | None = None

    def answered(self, line: str) -> str:
        """The answer to a line: `I kind unit`, `OK`, `V figure`, or `E` and why not in a sentence.
        Raises nothing.
        """
        if len(line) > LONGEST_LINE:
            return f"E a line has at most {LONGEST_LINE} signs"
        try:
            words = shlex.split(line)
        except ValueError:
            return "E a quotation mark is not closed"
        verb = words[0].upper() if words else ""
        if verb == "WHO":
            return f"I {self.instrument.kind.name} {self.instrument.kind.unit}"
        if verb == "AT" and len(words) == 4:
            self._held = (words[1], words[2], words[3])
            return "OK"
        if verb == "READ":
            if self._held is None:
                return (
                    "E it is held nowhere; say AT with what is read, the machine that runs "
                    "and the place"
                )
            try:
                return f"V {self.instrument.read(*self._held):.6g}"
            except InputError as problem:
                return f"E {problem}"
        return "E say WHO, AT with what is read, the machine and the place, or READ"

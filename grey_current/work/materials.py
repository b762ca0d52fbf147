"""Woods and dust: what a job makes, how much of it floats, what a hood catches. All allowances,
with their range.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any, Literal

from grey_current.air.needs import capture, clear_chips
from grey_current.shop.machines import Aid, HoodTest, Machine, MachineBody, Pickup
from grey_current.shop.model import Project
from grey_current.shop.values import Name, Value
from grey_current.shop.work_plan import DayJob

Guess = Literal["low", "mid", "high"]
GUESSES: tuple[Guess, ...] = ("low", "mid", "high")
# Sanding by hand among the jobs of a day.
HAND_SANDING = "hand-sand"
# The wood of a job for which none was named.
UNSAID = "unknown"
# kg/m³ where no wood is said. Allowance.
USUAL_DENSITY = 600.0


class Wood(Value):
    """A wood: words that it is typed by, density (kg/m³), hard or soft, and what its chips are no
    good for.

    They may harm animals as bedding or plants as compost; glued boards are for neither, nor for a
    stove. `only_tip` says why its chips are good for nothing but the tip; empty where they are.
    """

    name: Name
    words: tuple[str, ...]
    density: float
    hard: bool
    harms_animals: bool
    harms_plants: bool
    glued: bool
    only_tip: str


@cache
def woods() -> dict[str, Wood]:
    """The woods by name."""
    return {raw["name"]: Wood.model_validate(raw) for raw in _data("woods.json")["woods"]}


def wood_by_word(word: str) -> Wood | None:
    """The wood that a word names, or None."""
    return next(
        (wood for wood in woods().values() if word.lower() in (*wood.words, wood.name)), None
    )


def recent_woods(project: Project, but: int | None = None) -> list[str]:
    """The woods by name, those of the day's jobs and of the latest lines of the logbook first.

    A job (from 0) whose wood is being chosen is left out: the list stays as it is meanwhile.
    """
    jobs = [job for number, job in enumerate(project.work.day) if number != but]
    used = [job.wood for job in reversed(jobs) if job.wood]
    # The latest first: one works in the same wood for weeks.
    for entry in reversed(project.keep.entries):
        used += entry.woods
    known = woods()
    first = [wood for wood in dict.fromkeys(used) if wood in known]
    return [*first, *(wood for wood in known if wood not in first and wood != UNSAID)]


@cache
def wood_words() -> tuple[str, ...]:
    """Every word that a wood is typed by."""
    return tuple(word for wood in woods().values() for word in (wood.name, *wood.words))


@cache
def _data(name: str) -> dict[str, Any]:
    found: dict[str, Any] = json.loads(
        (files("grey_current.work") / "data" / name).read_text(encoding="utf-8")
    )
    return found


def density_of(wood: str | None) -> float:
    """The density (kg/m³) of a wood by its name; a usual one where none is said."""
    return woods()[wood].density if wood in woods() else USUAL_DENSITY


def opposite(guess: Guess) -> Guess:
    """The guess for what works against something: much settles where little dust is guessed."""
    return GUESSES[-1 - GUESSES.index(guess)]


def allowance(name: str, guess: Guess) -> float:
    """An allowance that has a range. Raises `KeyError` for an unknown one."""
    return float(_data("dust.json")[name][guess])


def clean_air() -> float:
    """Floating dust (mg/m³) that a quiet room of a house has: clean enough to varnish in."""
    return float(_data("dust.json")["clean_air"])


def filter_lets_through(kind: str) -> float:
    """The share of fine dust that a seasoned filter of a kind lets through. Raises `KeyError` for
    an unknown kind.
    """
    return float(_data("dust.json")["filters"][kind])


def litres_an_hour(machine: Machine) -> float:
    """Chips (l/h, as they lie) that a machine makes; a usual figure where none is known."""
    known = machine.chip_litres_per_hour
    return float(_data("dust.json")["litres_per_hour"]) if known is None else known


def fine_share(machine: Machine, guess: Guess) -> float:
    """The share of the wood removed that stays in the air, by how a machine cuts it."""
    return fine_share_of(machine.cutter or "", guess)


def fine_share_of(cutter: str, guess: Guess) -> float:
    """The share of the wood removed that stays in the air, by the kind of cutter."""
    table = _data("dust.json")["fine"]
    return float(next(row for row in table if row["cutter"] in (cutter, ""))[guess])


def solid_mass(litres: float, density: float) -> float:
    """Wood removed (kg) from chips (l as they lie) and density (kg/m³): bulked as allowed. Raises
    nothing.
    """
    return litres / 1000 / allowance("bulking", "mid") * density


@dataclass(frozen=True)
class JobOutput:
    """What a job makes: chips (l as they lie), wood removed (kg), fine dust that floats (mg)."""

    litres: float
    mass: float
    fine: float


def made(
    machine: Machine, minutes: float, density: float, guess: Guess, litres: float | None = None
) -> JobOutput:
    """What a machine makes in some minutes. Raises nothing."""
    # What one measured counts for more than what the table says.
    chips = litres_an_hour(machine) * minutes / 60 if litres is None else litres
    mass = solid_mass(chips, density)
    return JobOutput(chips, mass, mass * 1e6 * fine_share(machine, guess))


def made_by_hand(
    minutes: float, density: float, guess: Guess, litres: float | None = None
) -> JobOutput:
    """What sanding by hand makes in some minutes: little, but nothing catches it. Raises
    nothing.
    """
    usual = float(_data("dust.json")["hand_sanding_litres_per_hour"])
    chips = usual * minutes / 60 if litres is None else litres
    mass = solid_mass(chips, density)
    return JobOutput(chips, mass, mass * 1e6 * fine_share_of("abrasive", guess))


def made_by_job(project: Project, job: DayJob, guess: Guess) -> JobOutput:
    """What a job of a day makes, at its machine or by hand; nothing where neither makes any."""
    density, machine = density_of(job.wood), project.machine.get(job.machine)
    if machine is not None:
        return made(machine, job.minutes, density, guess, job.litres)
    if job.machine == HAND_SANDING:
        return made_by_hand(job.minutes, density, guess, job.litres)
    return JobOutput(0.0, 0.0, 0.0)


def catching_airflow(pickup: Pickup) -> float:
    """Airflow (m³/s) with which a pickup catches fine dust as well as a hood can. Raises nothing.

    Source: DallaValle, as `air.needs.capture`; the port's own need where no place of release is
    known.
    """
    if pickup.capture is None:
        return clear_chips(pickup.port)
    c = pickup.capture
    return max(capture(c.distance, c.velocity, c.area, c.flanged), 1e-4)


def caught_share(pickup: Pickup, airflow: float, guess: Guess) -> float:
    """The share (0 to 1) of fine dust that a pickup catches at an airflow (m³/s); the user's own
    figure where given.

    1 − (1 − c)^(Q/Q_c) with c at the airflow Q_c that catching asks for: nothing without air, more
    air catches the same share of what is left, and some is thrown past any hood. Allowance; raises
    nothing.
    """
    if pickup.caught is not None:
        return pickup.caught
    # Each further airflow of that size catches the same share of what is left.
    full = allowance("capture_full", guess)
    shares = 1 - (1 - full) ** (max(airflow, 0.0) / catching_airflow(pickup))
    return float(min(shares, allowance("capture_most", guess)))


@dataclass(frozen=True)
class AidKind:
    """A thing that keeps dust from flying past a hood: what it is called, what putting it on is
    called, which machines it fits, what it costs besides money.
    """

    aid: Aid
    label: str
    change: str
    fits: tuple[str, ...]
    unfit: tuple[str, ...]
    costs: str

    def suits(self, machine: MachineBody) -> bool:
        """Whether it can be put on a machine, by what kind that is."""
        kind = machine.kind.lower()
        return any(word in kind for word in self.fits) and not any(
            word in kind for word in self.unfit
        )


@cache
def aid_kinds() -> tuple[AidKind, ...]:
    """What can be put on machines."""
    return tuple(
        AidKind(
            row["aid"],
            row["label"],
            row["change"],
            tuple(row["fits"]),
            tuple(row["not"]),
            row["costs"],
        )
        for row in _data("dust.json")["aids"]
    )


def aid_keeps(aid: Aid, guess: Guess) -> float:
    """The share of what flies past the hoods that an aid keeps back. Allowance; raises nothing."""
    row = next(row for row in _data("dust.json")["aids"] if row["aid"] == aid)
    return float(row[guess])


def tested_share(test: HoodTest, guess: Guess) -> float | None:
    """The share of fine dust that a machine's hoods catch by a test of them; None where none was
    made.

    What a lamp shows is of the fine dust itself; what a scale shows is of chips, of which more are
    caught. Allowances.
    """
    if test.lamp is not None:
        return float(_data("dust.json")["lamp"][test.lamp][guess])
    chips = test.chips_caught
    return None if chips is None else float(chips ** allowance("weighed", guess))


def with_aids(share: float, aids: Iterable[Aid], guess: Guess) -> float:
    """The share that is caught with aids at hoods that catch a share without them: nothing where
    these draw nothing, for aids only steer what is drawn. Raises nothing.
    """
    if share <= 0:
        return share
    return together([share, *(aid_keeps(aid, guess) for aid in aids)])


def drawer_share(machine: Machine, guess: Guess) -> float:
    """The share of fine dust that stays in the drawer under a machine; the user's own figure where
    given. Allowance.
    """
    return (
        allowance("chip_drawer", guess) if machine.drawer_caught is None else machine.drawer_caught
    )


def together(shares: list[float]) -> float:
    """What several pickups of one machine catch together, each of what the others leave."""
    return 1 - math.prod(1 - share for share in shares)

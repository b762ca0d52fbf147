"""The card at each machine: gates, air, what a gauge should show, boards, what to wear, its
checklist.
"""

from __future__ import annotations

import json
import math
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from grey_current.air.needs import MET_FROM
from grey_current.air.pieces import Straight
from grey_current.design.flow.assessment import Assessment, PickupAir, ScenarioAir
from grey_current.design.flow.levers import GateSheet, gate_sheet
from grey_current.design.flow.run_on import run_on
from grey_current.design.space.ground import FloorSpace
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.units import Display
from grey_current.work.ears import noise_at
from grey_current.work.pairs import all_pairs

PROTECT_EARS = 85.0
NO_GLOVES = "No gloves at a turning cutter."


@dataclass(frozen=True)
class Card:
    """One machine's card: levers as (plate, open), air and gauge in words, with whom it may run,
    boards, lines.
    """

    machine: str
    name: str
    levers: tuple[tuple[str, bool], ...]
    air: tuple[str, ...]
    boards: str
    together: str
    wear: str
    lines: tuple[str, ...]

    @property
    def gates(self) -> str:
        """What to do with the gates, in words; empty where there are none."""
        opened = [plate for plate, is_open in self.levers if is_open]
        if not self.levers:
            return ""
        if opened:
            return f"Open: {', '.join(opened)}. Shut all others."
        return "All gates shut: it has none of its own."


def cards(now: Assessment, space: FloorSpace | None = None) -> list[Card]:
    """A card for every machine of the shop. Raises nothing."""
    project = now.project
    ground, sheet = space or FloorSpace(project), gate_sheet(now)
    pairs = [pair.machines for pair in all_pairs(now) if pair.good]
    return [_card(now, machine, ground, sheet, pairs) for machine in project.machines]


def _card(
    now: Assessment,
    machine: Machine,
    space: FloorSpace,
    sheet: GateSheet,
    pairs: list[tuple[str, ...]],
) -> Card:
    project, display = now.project, Display(now.project.settings.units)
    row = next((row for row in sheet.rows if row.machine == machine.id), None)
    states = row.states if row is not None else ("shut",) * len(sheet.gates)
    levers = tuple(
        (plate, s in ("own", "too", "left open"))
        for (_, plate), s in zip(sheet.gates, states, strict=True)
    )
    lane = space.lane(machine)
    boards = f"Boards to {display.about(lane.longest, down=True)}." if lane is not None else ""
    # What it may run with, by the pairs that were judged good.
    with_it = [other for two in pairs if machine.id in two for other in two if other != machine.id]
    names = ", ".join(project.machine[other].name.lower() for other in with_it)
    together = f"May run with the {names}." if names else "Run it alone."
    # Without a port there is no air that another machine could take.
    if not machine.pickups:
        together = ""
    ears = "ears, " if noise_at(now, machine) >= PROTECT_EARS - 5 else ""
    wear = f"Wear: eyes, {ears}respirator for what the hood misses."
    return Card(
        machine.id,
        machine.name,
        levers,
        tuple(air_lines(now, machine.id)),
        boards,
        together,
        wear,
        checklist(project, machine, gates=row is not None),
    )


def air_lines(now: Assessment, machine: str) -> list[str]:
    """What each pickup of a machine gets, and what a gauge at its port should show."""
    project, display = now.project, Display(now.project.settings.units)
    answer = now.of_machine.get(machine)
    if answer is None or not answer.converged or not answer.pickups:
        return (
            ["No air computed for it."] if project.machine[machine].pickups else ["It has no port."]
        )
    lines = []
    for pickup in answer.pickups:
        name = project.pickup[f"{pickup.machine}/{pickup.pickup}"][1].name
        if pickup.by_itself:
            lines.append(f"{name}: {display.airflow(pickup.airflow)} into its own bag.")
            continue
        if pickup.leaf is None:
            lines.append(f"{name}: no duct.")
            continue
        words = f"{name}: {display.airflow(pickup.airflow)}"
        words += "" if pickup.share >= MET_FROM else f" of {display.airflow(pickup.need.airflow)}"
        lines.append(
            f"{words}; a gauge at its port shows {display.pressure(-gauge(answer, pickup))} of "
            "suction."
        )
    seconds = run_on(answer)
    # Where chips lie still no time is enough; that is said elsewhere.
    if 0 < seconds < math.inf:
        lines.append(f"Leave the collector on for {math.ceil(seconds)} s after the cut.")
    return lines


def gauge(answer: ScenarioAir, pickup: PickupAir) -> float:
    """The static pressure (Pa, below the room negative) just behind a pickup's port. Raises
    `KeyError` for no duct.
    """
    system = answer.systems[pickup.collector or ""]
    for index in system.network.path(pickup.leaf or 0):
        if isinstance(system.network.pieces[index], Straight):
            total = float(system.solved.before[system.row, index])
            return total - system.network.air.density / 2 * system.velocity(index) ** 2
    return 0.0


def checklist(project: Project, machine: Machine, *, gates: bool = True) -> tuple[str, ...]:
    """A machine's checklist: the user's own, else the usual lines for its kind, about `gates` only
    where it has any.
    """
    own = next((item.lines for item in project.work.checklists if item.machine == machine.id), None)
    return own if own is not None else usual_lines(machine, gates=gates)


def usual_lines(machine: Machine, *, gates: bool = True) -> tuple[str, ...]:
    """The usual lines for a machine by its name and kind."""
    lines = _lines_of(machine)
    turning = machine.cutter is not None and machine.cutter != "abrasive"
    found = [line for line in lines if gates or not line.startswith("Gate")]
    if turning:
        found.insert(2, NO_GLOVES)
    return tuple(found)


def _lines_of(machine: Machine) -> tuple[str, ...]:
    data = _checklists()
    words = f"{machine.name} {machine.kind}".lower()
    for entry in data["by_words"]:
        if any(word in words for word in entry["words"]) and not any(
            word in words for word in entry.get("not", ())
        ):
            return (*data["before"], *entry["lines"], *data["after"])
    return (*data["before"], *data["after"])


@cache
def _checklists() -> dict[str, Any]:
    found: dict[str, Any] = json.loads(
        (files("grey_current.work") / "data" / "checklists.json").read_text(encoding="utf-8")
    )
    return found

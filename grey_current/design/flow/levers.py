"""What the lever frame shows: a lever for each gate in the order of the main, and the line above
them.
"""

from __future__ import annotations

from dataclasses import dataclass

from grey_current.design.flow.assessment import Assessment
from grey_current.design.flow.gates import gate_machine, gate_order, open_gates, own_gates
from grey_current.design.flow.scenarios import Scenario
from grey_current.shop.ducts import Gate
from grey_current.shop.names import Names, capital


@dataclass(frozen=True)
class Lever:
    """One lever: its gate and plate, whether it is pulled (open), what pins it, and whether pulling
    it would help.

    `toggled_for` is the machine that pulling it opens it for; None where it is left open for all.
    """

    gate: str
    plate: str
    pulled: bool
    pinned: str
    would_help: bool
    toggled_for: str | None = None


@dataclass(frozen=True)
class LeverFacts:
    """The frame: the line above it, and its levers in the order of the main."""

    head: str
    levers: tuple[Lever, ...]


@dataclass(frozen=True)
class SheetRow:
    """One machine's row: its id, its name, and for each gate what it is while this machine runs
    alone.

    "own": open because it is on the machine's path; "too": opened for it as well; "left open" or
    "kept shut" for all; "shut".
    """

    machine: str
    name: str
    states: tuple[str, ...]


@dataclass(frozen=True)
class GateSheet:
    """The table of machines and gates: each gate with its plate in the order of the main, and a row
    a machine.
    """

    gates: tuple[tuple[str, str], ...]
    rows: tuple[SheetRow, ...]


def gate_sheet(assessment: Assessment) -> GateSheet:
    """The table of every machine that has a gate, and every gate. Raises nothing."""
    project, names = assessment.project, Names(assessment.project)
    own, order = own_gates(assessment), gate_order(assessment)
    rows = []
    for machine, mine in own.items():
        states = tuple(_state(project.gate[g], g in mine, machine) for g in order)
        rows.append(SheetRow(machine, project.machine[machine].name, states))
    plates = tuple((gate, _plate(assessment, names, own, gate)) for gate in order)
    return GateSheet(plates, tuple(rows))


def _state(gate: Gate, mine: bool, machine: str) -> str:
    if gate.rule != "with its machine":
        return gate.rule
    if mine:
        return "own"
    return "too" if machine in gate.also_open_for else "shut"


def _plate(assessment: Assessment, names: Names, own: dict[str, frozenset[str]], gate: str) -> str:
    """What stands on a gate's plate: its machine, with its pickup where the machine has several
    gates, or where it is when several share it or none has it.
    """
    owner = gate_machine(own, gate)
    if owner is None:
        return capital(names.of(gate).removeprefix("the "))
    machine = names.project.machine[owner]
    pickup = _pickup_of(assessment, owner, gate) if len(own[owner]) > 1 else None
    return machine.name if pickup is None else f"{machine.name}, {pickup.lower()}"


def _pickup_of(assessment: Assessment, machine: str, gate: str) -> str | None:
    """The name of the one pickup of a machine whose air passes a gate; None where several do."""
    passing = {
        ident
        for networks in assessment.networks.values()
        for network in networks.values()
        for (owner, ident), leaf in network.leaf_of_pickup.items()
        if owner == machine
        and gate in {network.gates[index] for index in network.gates_of_branch[leaf]}
    }
    if len(passing) != 1:
        return None
    return assessment.project.pickup[f"{machine}/{passing.pop()}"][1].name


def lever_facts(assessment: Assessment, running: Scenario, best: str | None = None) -> LeverFacts:
    """The frame for what is switched on, or at rest.

    `best` is the gate that would carry the chips better when it is opened as well, if one would.
    Raises nothing.
    """
    project, names = assessment.project, Names(assessment.project)
    own = own_gates(assessment)
    pulled = open_gates(assessment, running)
    levers = []
    for gate in gate_order(assessment):
        rule = project.gate[gate].rule
        alone = running.running[0] if len(running.running) == 1 else None
        mine = alone is not None and gate in own.get(alone, frozenset())
        too = alone is not None and alone in project.gate[gate].also_open_for
        if too:
            pinned = "open for it too"
        else:
            pinned = "" if rule == "with its machine" else rule
        toggled_for = alone if rule == "with its machine" and not mine else None
        levers.append(
            Lever(
                gate,
                _plate(assessment, names, own, gate),
                gate in pulled,
                pinned,
                gate == best,
                toggled_for,
            )
        )
    return LeverFacts(_head(assessment, running, pulled, best, names), tuple(levers))


def _head(
    assessment: Assessment,
    running: Scenario,
    pulled: frozenset[str],
    best: str | None,
    names: Names,
) -> str:
    project = assessment.project
    if not project.gates:
        return "No gates in this shop yet."
    if not running.running:
        return "Choose a machine in the rack: its gates are set here."
    strays = sorted(gate for gate in pulled if project.gate[gate].rule == "left open")
    mine = ", ".join(names.of(gate) for gate in sorted(pulled.difference(strays))) or "nothing"
    text = (
        f"{running.name(project)}: open {mine}, shut the other {len(project.gates) - len(pulled)}."
    )
    if strays:
        text += f" Left open too: {', '.join(names.of(gate) for gate in strays)}."
    if best:
        text += f" Opening {names.of(best)} as well would carry the chips better."
    return text

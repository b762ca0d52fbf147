"""States read off the answers, in one word each: machines, runs, gates; nothing on screen decides
them.
"""

from __future__ import annotations

from grey_current.air.needs import TOO_FAST
from grey_current.air.pieces import BlastGate, Straight
from grey_current.design.flow.assessment import ScenarioAir
from grey_current.design.flow.transport import TransportCheck, slowest_transport, transport_checks
from grey_current.design.words import state_word, transport_word
from grey_current.shop.model import Project

# States of a machine, the most pressing first.
ORDER = ("starved", "no answer", "not connected", "no pickup", "short", "nearly", "good")


def run_velocities(scenario: ScenarioAir | None) -> dict[str, float]:
    """Velocity in each run along its drawn direction, m/s."""
    flows: dict[str, float] = {}
    for system in scenario.systems.values() if scenario and scenario.converged else ():
        for index, piece in enumerate(system.network.pieces):
            if isinstance(piece, Straight):
                speed = system.velocity(index)
                flows[piece.source_id] = speed if piece.forward else -speed
    return flows


def run_states(project: Project, scenario: ScenarioAir | None) -> dict[str, str]:
    """A state word for each run that chips pass: the worst along it."""
    worst: dict[str, tuple[float, str]] = {}
    for transport in transport_checks(project, scenario) if scenario else ():
        word = check_word(transport)
        if transport.run not in worst or transport.share < worst[transport.run][0]:
            worst[transport.run] = (transport.share, word)
    return {run: word for run, (_, word) in worst.items()}


def gates_open(scenario: ScenarioAir | None) -> set[str]:
    """Gates that are open while something runs."""
    systems = scenario.systems.values() if scenario else ()
    found: set[str] = set()
    for system in systems:
        gates = [piece for piece in system.network.pieces if isinstance(piece, BlastGate)]
        found |= {gate.source_id for gate in gates if system.gate_open(gate)}
    return found


def machine_state(answer: ScenarioAir | None, machine: str) -> str:
    """The state word of a machine: that of its least pickup, or why there is none.

    Where one of several pickups is not connected, the machine is starved there.
    """
    pickups = [p for p in answer.pickups if p.machine == machine] if answer else []
    if not pickups:
        return "no pickup"
    if all(p.loose for p in pickups):
        return "not connected"
    if answer is None or not answer.converged:
        return "no answer"
    return state_word(min(p.share for p in pickups))


def scenario_state(project: Project, scenario: ScenarioAir | None) -> str:
    """One word for everything that runs: the least of its machines', or how chips are carried where
    air suffices.

    Empty when nothing runs.
    """
    if scenario is None or not scenario.scenario.running:
        return ""
    least = min((machine_state(scenario, m) for m in scenario.scenario.running), key=ORDER.index)
    slow = slowest_transport(project, scenario) if least in ("nearly", "good") else None
    word = transport_word(slow.share) if slow is not None else "carries"
    return least if word == "carries" else word


def check_word(check: TransportCheck) -> str:
    """One word for how fast air is in a run: too fast, carries, may settle, settles."""
    return "too fast" if check.velocity > TOO_FAST else transport_word(check.share)

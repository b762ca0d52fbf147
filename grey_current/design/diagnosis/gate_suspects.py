"""What is out of the ordinary with gates."""

from __future__ import annotations

from grey_current.design.diagnosis.cause import Suspect
from grey_current.design.diagnosis.scene import Found, Scene, counted, with_fields
from grey_current.design.improve.gate_changes import gates_on_branches, open_branches
from grey_current.design.parts.besides import SEALED
from grey_current.shop import edits
from grey_current.shop.edits import Change
from grey_current.shop.names import capital

# A gate that leaks more than this share of its bore is worth a seal; bought ones leak half of it.
LEAKY = 0.01


def no_gates(scene: Scene) -> Found:
    """Branches that nothing shuts."""
    found = open_branches(scene.project)
    if not found:
        return
    runs = tuple(branch.run for branch in found)
    if len(runs) == 1:
        says = f"{capital(scene.names.of(runs[0]))} has no gate and always draws air"
    else:
        says = f"{counted(len(runs), '', 'branches have no gate and always draw air')}"
    yield Suspect("no-gates", runs, says, tuple(gates_on_branches(scene.project, found)))


def gates_set_wrong(scene: Scene) -> Found:
    """Gates that are left open, kept shut or half open."""
    for gate in scene.project.gates:
        name = capital(scene.names.of(gate.id))
        if gate.rule == "left open":
            yield Suspect(
                "gate-open",
                (gate.id,),
                f"{name} is left open",
                (with_fields(gate.id, "Shut it when its machine is off", rule="with its machine"),),
                ("gate-open",),
            )
        if gate.rule == "kept shut" and gate.id in scene.passed:
            yield Suspect(
                "gate-shut",
                (gate.id,),
                f"{name} is kept shut",
                (with_fields(gate.id, "Open it with its machine", rule="with its machine"),),
                ("gate-shut",),
            )
        if gate.opening < 1 and gate.id in scene.passed:
            yield Suspect(
                "gate-part-open",
                (gate.id,),
                f"{name} opens only {gate.opening:.0%} of the way",
                (with_fields(gate.id, "Open it all the way", opening=1.0),),
            )


def leaky_gates(scene: Scene) -> Found:
    """Shut gates that let air through."""
    leaky = tuple(gate.id for gate in scene.project.gates if gate.leak > LEAKY)
    if leaky:
        says = counted(len(leaky), "shut gate leaks", "shut gates leak")
        words = "A gate with a seal" if len(leaky) == 1 else f"Seals on {len(leaky)} gates"
        cure = Change(words, leaky[0], lambda p: edits.changed_all(p, leaky, leak=SEALED))
        yield Suspect("gate-leaky", leaky, says, (cure,))

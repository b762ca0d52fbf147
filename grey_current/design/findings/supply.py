"""The wiring: circuits that bear too much of what runs together, and plugs without an outlet of
their voltage.
"""

from __future__ import annotations

from grey_current.design.findings.finding import Finding, Found, Inspection, Rule
from grey_current.design.supply.circuits import Load, all_loads, supply_troubles
from grey_current.numerals import compact
from grey_current.shop.names import capital

ELECTRICIAN = "Ask a licensed electrician; the local code decides."


def overloaded_circuits(inspection: Inspection) -> Found:
    """Circuits, and legs of a split supply, that bear more than is allowed for long; the worst
    scenario of each.
    """
    worst: dict[str, Load] = {}
    for load in all_loads(inspection.project):
        if not load.fits and (load.circuit not in worst or load.amps > worst[load.circuit].amps):
            worst[load.circuit] = load
    for load in worst.values():
        yield _overload(inspection, load)


def _overload(inspection: Inspection, load: Load) -> Finding:
    project = inspection.project
    collectors = [ident for ident in load.items if ident in project.collector]
    circuit = (
        project.element[load.circuit].name if load.circuit in project.element else load.circuit
    )
    who = " and ".join(inspection.names.of(ident) for ident in load.items)
    verb = "draws" if len(load.items) == 1 else "draw"
    bears = f"{load.amps:.0f} A, and it bears {load.allowed:.0f} A for long."
    message = f"{capital(circuit)}: {who} {verb} {bears}"
    return Finding(
        "overload" if collectors else "machine-overload",
        "warning",
        (collectors or list(load.items))[0],
        message,
        load.amps,
        load.allowed,
        load.scenario.running,
        tuple(load.items),
        (f"Give one of them a circuit of its own. {ELECTRICIAN}",),
    )


def plugs_without_outlet(inspection: Inspection) -> Found:
    """Machines and collectors whose voltage no outlet here gives, or whose circuit gives
    another.
    """
    project = inspection.project
    for trouble in supply_troubles(project):
        name = inspection.names.start(trouble.element)
        if trouble.circuit is None:
            message = f"{name}: needs {compact(trouble.volts)} V, and no outlet here gives that."
            remedy = f"Add an outlet of {compact(trouble.volts)} V. {ELECTRICIAN}"
        else:
            circuit = project.element[trouble.circuit]
            message = (
                f"{name}: needs {compact(trouble.volts)} V, but {circuit.name} gives "
                f"{compact(circuit.volts)} V."
            )
            remedy = f"Choose a circuit of its voltage. {ELECTRICIAN}"
        also = (trouble.circuit,) if trouble.circuit else ()
        yield Finding(
            trouble.kind,
            "fault",
            trouble.element,
            message,
            trouble.volts,
            also=also,
            remedies=(remedy,),
        )


RULES: tuple[Rule, ...] = (overloaded_circuits, plugs_without_outlet)

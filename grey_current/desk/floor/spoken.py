"""What is selected in words, for who hears the floor instead of seeing it."""

from __future__ import annotations

from grey_current.design.flow.states import machine_state
from grey_current.desk.floor.scene import FloorScene
from grey_current.shop.catalogue import materials
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace


def spoken(workspace: Workspace, scene: FloorScene) -> str:
    """What is selected, with its air and its state: "The planer, 445 of 545 CFM, short". What there
    is on the floor where nothing is.
    """
    chosen, project = workspace.selection, workspace.project
    if chosen is None:
        things = len(project.machines) + len(project.collectors)
        counted = "1 machine or collector" if things == 1 else f"{things} machines and collectors"
        return f"{counted}, {len(project.runs)} ducts. Tab goes from one to the next."
    name = workspace.computed.names.start(chosen)
    machine = chosen.split("/", maxsplit=1)[0]
    if machine in project.machine:
        return _machine(workspace, machine, name)
    run = project.run.get(chosen)
    if run is not None:
        display = Display(project.settings.units)
        state = next((duct.state for duct in scene.ducts if duct.run == chosen), "")
        label = materials()[run.material].label.split(",")[0]
        air = f", {state}" if state not in ("", "idle") else ""
        return f"{name}, {display.diameter(run.diameter)}, {label}{air}"
    return name


def _machine(workspace: Workspace, machine: str, name: str) -> str:
    answer = workspace.assessment.of_machine.get(machine)
    state, worst = machine_state(answer, machine), answer.worst if answer is not None else None
    if worst is None:
        return f"{name}, {state}"
    display = Display(workspace.project.settings.units)
    got = display.airflow(worst.airflow, unit=False)
    return f"{name}, {got} of {display.airflow(worst.need.airflow)}, {state}"

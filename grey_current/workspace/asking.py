"""What is looked at, and so what is worth computing beside the window for it."""

from __future__ import annotations

from collections.abc import Callable

from grey_current.air.needs import MET_FROM
from grey_current.design.collector.sizing import Sizing
from grey_current.design.flow.transport import slowest_transport
from grey_current.shop.catalogue import CollectorModel, catalogue
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.workspace.jobs import (
    AskHowOften,
    AskHowSure,
    CutPipe,
    GoThroughDay,
    HelpMachine,
    HelpShop,
    Job,
    OtherParts,
    ProposePhases,
    SizeCollector,
)
from grey_current.workspace.workspace import Workspace


def asked_machine(workspace: Workspace) -> str | None:
    """The machine that is looked at and wants help: short of air, or with air too slow for its
    chips.
    """
    project = workspace.project
    owner = (workspace.selection or "").split("/")[0]
    running = workspace.running[0] if len(workspace.running) == 1 else None
    machine = None
    if owner in project.machine:
        machine = owner
    elif workspace.selection is None:
        machine = running
    answer = workspace.assessment.of_machine.get(machine or "")
    if answer is None or answer.worst is None or not answer.converged:
        return None
    slow = slowest_transport(project, answer)
    # Advice only where something is amiss: air short, or too slow for its chips.
    fine = answer.met and (slow is None or slow.share >= MET_FROM)
    return None if fine else machine


def _of_keep(workspace: Workspace) -> Job | None:
    """How sure everything is first; then how often advice for the selected machine holds."""
    doubt = workspace.computed.doubt
    if not workspace.project.runs:
        return None
    if doubt is None or doubt.project != workspace.project:
        return AskHowSure()
    machine = (workspace.selection or "").partition("/")[0]
    asked = machine in workspace.project.machine and not workspace.project.keep.practising
    return AskHowOften(machine) if asked else None


def _of_collector(workspace: Workspace) -> Job | None:
    """What the collector must do, once there is anything to serve."""
    if not any(machine.pickups for machine in workspace.project.machines):
        return None
    return SizeCollector(sized_collector(workspace), workspace.own_models)


def _of_build(workspace: Workspace) -> Job | None:
    return CutPipe() if workspace.project.runs or workspace.project.collectors else None


def _of_work(workspace: Workspace) -> Job | None:
    return GoThroughDay() if workspace.project.work.day else None


def _of_air(workspace: Workspace) -> Job | None:
    """What would help the machine that is looked at; else the part, else the whole shop."""
    if workspace.placing is not None:
        return None
    machine = asked_machine(workspace)
    if machine is not None:
        return HelpMachine(machine)
    item = workspace.project.find(workspace.selection or "")
    if isinstance(item, Run | Point | Gate):
        passing = _passing(workspace, item.id)
        if passing is not None:
            return OtherParts(item.id, passing)
    if workspace.selection is not None or workspace.running:
        return None
    return HelpShop() if workspace.computed.amiss else None


# What each stage asks by itself; the others ask nothing.
OF_STAGE: dict[str, Callable[[Workspace], Job | None]] = {
    "collector": _of_collector,
    "air": _of_air,
    "gates": _of_air,
    "build": _of_build,
    "work": _of_work,
    "keep": _of_keep,
}


def job(workspace: Workspace) -> Job | None:
    """What is to be computed beside the window for what is looked at; None when nothing is."""
    if workspace.asked is not None:
        return workspace.asked.job
    if workspace.phase_budget is not None:
        return ProposePhases(workspace.phase_budget)
    asks = OF_STAGE.get(workspace.stage)
    return asks(workspace) if asks is not None else None


def job_due(workspace: Workspace) -> Job | None:
    """The job whose result is not known yet for the project as it is; None while a gesture goes
    on.
    """
    wanted = None if workspace.in_gesture else job(workspace)
    known = workspace.computed.known(wanted) if wanted else None
    known_whole = known is not None and getattr(known, "complete", True)
    return None if known_whole else wanted


def nothing_to_size(workspace: Workspace) -> str:
    """What is missing before a collector can be sized."""
    return (
        "No machine here has a pickup." if workspace.project.machines else "Place machines first."
    )


def known_sizing(workspace: Workspace) -> Sizing | None:
    """What the collector must do and which would do it, for the project as it is; None when it is
    not known.
    """
    found = workspace.computed.known(job(workspace))
    return found if isinstance(found, Sizing) else None


def collector_models(workspace: Workspace) -> dict[str, CollectorModel]:
    """Every collector that could be put in, by model: the user's own, then the shipped ones."""
    return {model.model: model for model in (*workspace.own_models, *catalogue().collectors)}


def sized_collector(workspace: Workspace) -> str | None:
    """The collector that the Collector stage is about: the selected one, else the first, if there
    is one.
    """
    # What stands by itself of one is that collector's.
    owner = (workspace.selection or "").partition("/")[0]
    if owner in workspace.project.collector:
        return owner
    return next(iter(workspace.project.collector), None)


def _passing(workspace: Workspace, element: str) -> str | None:
    """The machine whose air passes a part: a running one, else the one that gets the least of its
    need.
    """
    passing = []
    for answer in workspace.assessment.counted.answers:
        worst = answer.worst
        if worst is None or not answer.converged or worst.collector is None or worst.leaf is None:
            continue
        network = answer.systems[worst.collector].network
        if not network.branches_of.get(element, frozenset()).isdisjoint(
            network.branch_path(worst.leaf)
        ):
            passing.append((worst.machine not in workspace.running, worst.share, worst.machine))
    return min(passing)[2] if passing else None

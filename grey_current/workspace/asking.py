"""What is looked at, and so what is worth computing beside the window for it."""

from __future__ import annotations

from grey_current.design.collector.sizing import Sizing
from grey_current.design.flow.transport import slowest_transport
from grey_current.shop.catalogue import CollectorModel, catalogue
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.workspace.jobs import Job
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
    fine = answer.met and (slow is None or slow.share >= 1)
    return None if fine else machine


def _keep_job(workspace: Workspace) -> Job | None:
    """How sure everything is first; then how often advice for the selected machine holds."""
    doubt = workspace.computed.doubt
    if not workspace.project.runs:
        return None
    if doubt is None or doubt.project != workspace.project:
        return Job("doubt")
    machine = (workspace.selection or "").partition("/")[0]
    asked = machine in workspace.project.machine and not workspace.project.keep.practising
    return Job("holds", machine) if asked else None


def job(workspace: Workspace) -> Job | None:
    """What is to be computed beside the window for what is looked at; None when nothing is."""
    project = workspace.project
    if workspace.asked is not None:
        return workspace.asked.job
    if workspace.stage == "collector":
        machines = any(machine.pickups for machine in project.machines)
        return (
            Job("collector", sized_collector(workspace) or "", models=workspace.own_models)
            if machines
            else None
        )
    if workspace.phase_budget is not None:
        return Job("phasing", f"{workspace.phase_budget!r}")
    if workspace.stage == "work":
        return Job("day") if project.work.day else None
    if workspace.stage == "keep":
        return _keep_job(workspace)
    if workspace.stage == "build":
        return Job("building") if project.runs or project.collectors else None
    if workspace.stage not in ("air", "gates") or workspace.placing is not None:
        return None
    machine = asked_machine(workspace)
    if machine is not None:
        return Job("machine", machine)
    item = project.find(workspace.selection or "")
    if (
        isinstance(item, Run | Point | Gate)
        and (passing := _passing(workspace, item.id)) is not None
    ):
        return Job("part", item.id, passing)
    answers = workspace.assessment.counted.answers
    short = any(a.worst is not None and a.converged and not a.met for a in answers)
    return Job("shop") if workspace.selection is None and not workspace.running and short else None


def job_due(workspace: Workspace) -> Job | None:
    """The job whose result is not known yet for the project as it is; None while a gesture goes
    on.
    """
    wanted = None if workspace.in_gesture else job(workspace)
    known = workspace.computed.known(wanted) if wanted else None
    return wanted if wanted and (known is None or not getattr(known, "complete", True)) else None


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
    if workspace.selection in workspace.project.collector:
        return workspace.selection
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

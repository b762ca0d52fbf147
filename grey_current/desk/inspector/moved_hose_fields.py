"""One hose for several machines: whether it reaches them, and what the moving costs."""

from __future__ import annotations

import math

from grey_current.design.space.hose_reach import SWAP_SECONDS, swaps
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Section,
    number_field,
)
from grey_current.desk.inspector.reason_fields import why_button
from grey_current.shop import edits
from grey_current.shop.catalogue import FITS_OVER, materials
from grey_current.shop.duct_edits import plugged_as
from grey_current.shop.ducts import Run
from grey_current.shop.model import Project
from grey_current.shop.names import Names
from grey_current.shop.places import distance
from grey_current.units import Display
from grey_current.workspace.workspace import Workspace


def reach_section(workspace: Workspace, run: Run) -> tuple[Section, ...]:
    """What a hose's end reaches of the floor, for sweeping up: shown where it is asked for."""
    project = workspace.project
    if not materials()[run.material].hose or run.start not in project.pickup:
        return ()
    shown = workspace.shows_reach
    items: list[Item] = [
        ActionField(
            f"{run.id}/reach",
            "Hide what its end reaches" if shown else "Show what its end reaches",
            step="",
            act=lambda: workspace.show_reach(not shown),
            detail="of the floor, taken off its machine, round what stands there",
        )
    ]
    found = workspace.reached
    if shown and found is not None:
        display = Display(project.settings.units)
        floor = f"{display.surface(found.reached)} of {display.surface(found.floor)}"
        items.append(Fact("Of the floor", f"{floor}, {found.share:.0%}"))
    items += why_button(workspace, run.id, "hung-hose")
    return (Section("For sweeping up", tuple(items)),)


def serves_section(workspace: Workspace, run: Run) -> tuple[Section, ...]:
    """Which machines a hose is put on, whether it reaches them, and what the moving costs."""
    project = workspace.project
    if not materials()[run.material].hose or run.start not in project.pickup:
        return ()
    display = Display(project.settings.units)
    length = run.length or distance(project, run)
    items: list[Item] = []
    for reach in workspace.computed.reaches(run) if run.also_serves else ():
        name = _pickup_name(project, reach.pickup)
        enough = length >= reach.needed - 5e-3
        around = " round things" if reach.around else ""
        if math.isinf(reach.needed):
            asked = "no way round the walls"
        else:
            asked = f"needs {display.about(reach.needed)}{around}"
        items.append(Fact(name, asked, "good" if enough else "short"))
    items += [_no_longer(run, ref, _pickup_name(project, ref)) for ref in run.also_serves]
    taken = {ref for other in project.runs for ref in other.touches}
    free = [(ref, _pickup_name(project, ref)) for ref in project.pickup if ref not in taken]
    if free:
        items.append(
            ChoiceField(
                f"{run.id}/also",
                "Also carry it to",
                "",
                (("", "choose…"), *free),
                step="Carry the hose to one more",
                edit=lambda p, v: edits.changed(
                    p, run.id, also_serves=(*p.run[run.id].also_serves, v)
                ),
            )
        )
    items += _plugged_fields(project, run)
    made = [Section("Carried to", tuple(items))] if items else []
    if run.also_serves or project.same_hose(run):
        made.append(_moving_section(project, run))
    return tuple(made)


def _plugged_fields(project: Project, run: Run) -> list[Item]:
    """Whether it is the very same hose as another one, plugged in at another port."""
    if run.also_serves:
        return []
    others = [
        other
        for other in project.runs
        if other.id != run.id
        and materials()[other.material].hose
        and other.start in project.pickup
        and not other.also_serves
        and abs(other.diameter - run.diameter) < FITS_OVER
    ]
    if not others:
        return []
    same = next(
        (o.id for o in others if run.one_hose is not None and o.one_hose == run.one_hose), ""
    )
    names = Names(project)
    return [
        ChoiceField(
            f"{run.id}/same-hose",
            "The same hose as",
            same,
            (("", "no other: it stays here"), *((o.id, names.of(o.id)) for o in others)),
            step="Plug one hose in at several ports",
            edit=lambda p, v: plugged_as(p, run.id, v),
        )
    ]


def _pickup_name(project: Project, ref: str) -> str:
    machine, pickup = project.pickup[ref]
    return machine.name if len(machine.pickups) == 1 else f"{machine.name}, {pickup.name.lower()}"


def _no_longer(run: Run, ref: str, name: str) -> ActionField:
    rest = tuple(other for other in run.also_serves if other != ref)
    return ActionField(
        f"{run.id}/no-longer-{ref}",
        f"Remove the {name.lower()} from this hose",
        step="Remove a machine from the hose",
        edit=lambda p: edits.changed(p, run.id, also_serves=rest),
    )


def _moving_section(project: Project, run: Run) -> Section:
    cost = swaps(project, run)
    couplings = (("clamp", "hose clamps"), ("quick", "quick connectors"))
    usual = SWAP_SECONDS[run.coupling]
    items: list[Item] = [
        ChoiceField(
            f"{run.id}/coupling",
            "Fastened by",
            run.coupling,
            couplings,
            step="Change the connectors",
            edit=lambda p, v: edits.changed(p, run.id, coupling=v, swap_seconds=None),
        ),
        number_field(
            f"{run.id}/seconds",
            "Each swap",
            run.swap_seconds or usual,
            edit=lambda p, v: edits.changed(p, run.id, swap_seconds=v),
            unit="s",
        ),
        Fact("Swaps a week", f"about {cost.each_week:.0f}"),
        Fact("Time for them", f"{cost.minutes:.0f} min a week"),
    ]
    if cost.weeks is not None:
        other = "clamp" if run.coupling == "quick" else "quick"
        then = swaps(project, run.replaced(coupling=other, swap_seconds=None))
        items.append(Fact("With " + dict(couplings)[other], f"{then.minutes:.0f} min a week"))
        items.append(
            Fact(
                "",
                f"{cost.drops} fixed drops, about 2 h each to build, win their time back in "
                f"{_span(cost.weeks)}.",
            )
        )
    return Section("Moving it", tuple(items))


def _span(weeks: float) -> str:
    return f"{weeks:.0f} weeks" if weeks < 100 else f"{weeks / 52:.0f} years"

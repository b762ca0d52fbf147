"""Pages of the ductwork: which one, and that of a run or hose."""

from __future__ import annotations

from typing import Literal

from grey_current.air.fittings import hose_turn
from grey_current.design.findings.finding import Finding
from grey_current.design.flow.fittings import HOOK_TURNS
from grey_current.design.improve.gate_changes import with_gates_on
from grey_current.design.parts.clean_outs import may_take_clean_out, with_clean_out_there
from grey_current.design.space.clashes import hanger_gap, hangers
from grey_current.desk.inspector.cost_section import cost_section
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Section,
    TextField,
    length_field,
    pinned_field,
)
from grey_current.desk.inspector.gate_page import gate_page
from grey_current.desk.inspector.improvement_fields import part_choices
from grey_current.desk.inspector.joint_page import joint_page
from grey_current.desk.inspector.moved_hose_fields import reach_section, serves_section
from grey_current.shop import edits
from grey_current.shop.capped_ends import takes_stub, with_capped_stub
from grey_current.shop.catalogue import catalogue, materials, pipe_sizes
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.fitting_edits import (
    continues_size,
    usual_hanging,
    with_diameter_continued,
    with_gate_on,
    with_hung_hose,
)
from grey_current.shop.model import Project
from grey_current.shop.places import distance
from grey_current.units import Display, parse_length_like
from grey_current.workspace.workspace import Workspace

# Bore (m) of a stub for later, in inches and in millimetres.
STUB_US, STUB_METRIC = 0.1016, 0.1


def duct_page(workspace: Workspace, item: object, found: tuple[Finding, ...]) -> Page | None:
    """The page of a run, a gate or a joint; None for anything else."""
    if isinstance(item, Run):
        return _run_page(workspace, item, found)
    if isinstance(item, Gate):
        return gate_page(workspace, item, found)
    if isinstance(item, Point):
        return joint_page(workspace, item, found)
    return None


def _run_page(workspace: Workspace, run: Run, found: tuple[Finding, ...]) -> Page:
    project = workspace.project
    display = Display(project.settings.units)
    hose = materials()[run.material].hose
    straight = distance(project, run)
    length: Item = (
        _hose_field(run, run.length or straight, project)
        if hose
        else Fact("Length", display.length(straight))
    )
    what = Section(
        "What it is",
        (
            length,
            *_hanger_facts(run, straight, display),
            *(_hose_facts(run, straight, display) if hose else ()),
            *(_hanging_fields(project, run) if hose else ()),
            _diameter_field(project, run, display),
            *_size_fields(workspace, run),
            ChoiceField(
                f"{run.id}/material",
                "Material",
                run.material,
                tuple((m.name, m.label) for m in catalogue().materials),
                step="Change the material",
                edit=lambda p, v: edits.with_material(p, run.id, v),
            ),
            pinned_field(run.id, run.pinned),
        ),
        open_first=True,
    )
    sections = [
        what,
        *serves_section(workspace, run),
        *reach_section(workspace, run),
        *cost_section(workspace, {run.id}, run.id),
        *part_choices(workspace),
        *_add_section(workspace, run),
    ]
    return Page(
        workspace.computed.names.start(run.id), _ends(workspace, run), tuple(sections), found
    )


def _hose_field(run: Run, length: float, project: Project) -> TextField:
    units = project.settings.units
    return TextField(
        f"{run.id}/length",
        "Hose length",
        Display(units).length(length),
        step="Change the hose",
        read=lambda t: parse_length_like(t, units, "Hose length", length),
        edit=lambda p, v: edits.with_hose_length(p, run.id, v),
        say=Display(units).length,
        quantity="length",
        amount=length,
    )


def _ends(workspace: Workspace, run: Run) -> str:
    names = workspace.computed.names
    return f"From {names.of(run.start)} to {names.of(run.end)}."


def _diameter_field(project: Project, run: Run, display: Display) -> ChoiceField:
    sizes = sorted({*pipe_sizes(project), run.diameter})
    return ChoiceField(
        f"{run.id}/diameter",
        "Diameter",
        f"{run.diameter:.5f}",
        tuple((f"{size:.5f}", display.diameter(size)) for size in sizes),
        step="Change the diameter",
        edit=lambda p, v: edits.changed(p, run.id, diameter=float(v)),
    )


def _add_section(workspace: Workspace, run: Run) -> tuple[Section, ...]:
    """What can be put on a duct: one more gate, a capped stub for a machine to come."""
    if materials()[run.material].hose:
        gate = ActionField(
            f"{run.id}/gate",
            "A gate at its fixed end",
            step="Add a gate",
            edit=lambda p: with_gates_on(p, (run.id,)),
        )
        return (Section("Add to it", (gate,)),)
    actions = [
        ActionField(
            f"{run.id}/gate",
            "A gate on it",
            step="Add a gate",
            edit=lambda p: with_gate_on(p, run.id)[0],
        )
    ]
    if takes_stub(workspace.computed.paths, run.id):
        size = STUB_US if workspace.project.settings.units == "us" else STUB_METRIC
        actions.append(
            ActionField(
                f"{run.id}/stub",
                "A capped stub",
                step="Add a capped stub",
                edit=lambda p: with_capped_stub(p, run.id, size)[0],
                detail="a wye on it, for a machine to come",
            )
        )
    if may_take_clean_out(workspace.computed.paths, run.id):
        actions.append(
            ActionField(
                f"{run.id}/clean-out",
                "A clean-out for it",
                step="Add a clean-out",
                edit=lambda p: with_clean_out_there(p, run.id),
                detail="capped pipe past its turn or on a wye",
            )
        )
    return (Section("Add to it", tuple(actions)),)


def _size_fields(workspace: Workspace, run: Run) -> tuple[ActionField, ...]:
    """Buttons that carry the diameter on to the next wye, where that would change anything."""
    size = Display(workspace.project.settings.units).diameter(run.diameter)
    sides: tuple[Literal["collector", "machine"], ...] = ("collector", "machine")
    return tuple(
        _size_field(run, side, size)
        for side in sides
        if continues_size(workspace.computed.paths, run.id, side)
    )


def _size_field(run: Run, side: Literal["collector", "machine"], size: str) -> ActionField:
    return ActionField(
        f"{run.id}/carry-{side}",
        f"Carry {size} on, towards the {side}",
        step="Carry the size on",
        edit=lambda p: with_diameter_continued(p, run.id, side),
        detail="over every duct to the next wye",
    )


def _hose_facts(run: Run, straight: float, display: Display) -> tuple[Fact, ...]:
    """How far its ends are apart, and what its sag counts as."""
    turn = hose_turn(run.length or straight, straight)
    turn += 0.0 if run.hung is None else 90 * HOOK_TURNS
    return (
        Fact("Straight way" if run.hung is None else "Over its hook", display.length(straight)),
        Fact("Its sag", f"counts as {turn:.0f}° of bends"),
        Fact("", "An allowance: it may be half as much, or half as much again."),
    )


def _hanging_fields(project: Project, run: Run) -> tuple[Item, ...]:
    """Whether a hose hangs from something, and at what height."""
    hangs = ChoiceField(
        f"{run.id}/hangs",
        "It hangs",
        "free" if run.hung is None else "hook",
        (("free", "as it will"), ("hook", "from a hook, rail or arm")),
        step="Hang the hose",
        edit=lambda p, v: with_hung_hose(
            p, run.id, usual_hanging(p, run.id) if v == "hook" else None
        ),
    )
    if run.hung is None:
        return (hangs,)
    height = length_field(
        project,
        f"{run.id}/hung",
        "At a height of",
        run.hung,
        edit=lambda p, v: with_hung_hose(p, run.id, v),
    )
    return hangs, height


def _hanger_facts(run: Run, straight: float, display: Display) -> tuple[Fact, ...]:
    if materials()[run.material].hose:
        return ()
    return (
        Fact(
            "Hangers",
            f"{hangers(run, straight)}, every "
            f"{display.length(display.tape(hanger_gap(run.material)))}",
        ),
    )

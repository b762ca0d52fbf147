"""Pages of the ductwork: runs and hoses, gates, the joints between them, and how the next duct is drawn."""

from __future__ import annotations

from grey_current.air.needs import TOO_FAST
from grey_current.air.pieces import Straight
from grey_current.design.findings.finding import Finding
from grey_current.design.flow.assessment import ScenarioAir, System
from grey_current.design.flow.transport import transport_checks
from grey_current.design.space.clashes import hanger_gap, hangers
from grey_current.design.space.hose_reach import SWAP_SECONDS, reaches, swaps
from grey_current.design.words import piece_words, transport_word
from grey_current.desk.inspector.fields import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Section,
    TextField,
    length_field,
    number_field,
    percent_field,
)
from grey_current.desk.inspector.improvement_fields import part_choices
from grey_current.shop import edits
from grey_current.shop.catalogue import catalogue, materials, pipe_sizes
from grey_current.shop.duct_edits import Level, upright
from grey_current.shop.duct_graph import branch_segment, downstream_ends, runs_at
from grey_current.shop.duct_parts import (
    with_capped_stub,
    with_clean_out,
    with_diameter_continued,
    with_gate_on,
    with_sweep,
)
from grey_current.shop.model import Gate, Point, Project, Run, distance, position
from grey_current.shop.names import capital
from grey_current.units import Display, parse_length
from grey_current.workspace.workspace import Workspace

STUB_SIZES = {"us": 0.1016, "metric": 0.1}
LEVELS: tuple[tuple[Level, str], ...] = (
    ("as it goes on", "as it goes on"),
    ("under the beams", "under the beams"),
    ("at a height", "at a height of…"),
    ("on the floor", "on the floor"),
    ("under the floor", "under the floor"),
)


def duct_page(workspace: Workspace, item: object, found: tuple[Finding, ...]) -> Page | None:
    """The page of a run, a gate or a joint; None for anything else."""
    if isinstance(item, Run):
        return _run_page(workspace, item, found)
    if isinstance(item, Gate):
        return _gate_page(workspace, item, found)
    if isinstance(item, Point):
        return _point_page(workspace, item, found)
    return None


def drawing_page(workspace: Workspace) -> Page:
    """How the next duct is drawn: its height, size and material, and the angles that it may turn by."""
    project, how = workspace.project, workspace.drawing
    display = Display(project.settings.units)
    sizes = tuple((f"{size:.5f}", display.diameter(size)) for size in pipe_sizes(project))
    rigid = tuple((m.name, m.label) for m in catalogue().materials if not m.hose)
    items: list[Item] = [
        ChoiceField("draw/level", "Height", how.level, LEVELS, "", act=lambda v: workspace.draw_with(level=v))
    ]
    if how.level == "at a height":
        items.append(_height_field(workspace))
    items += [
        ChoiceField(
            "draw/diameter",
            "Diameter",
            f"{how.diameter:.5f}" if how.diameter else "same",
            (("same", "as it goes on"), *sizes),
            "",
            act=lambda v: workspace.draw_with(diameter=None if v == "same" else float(v)),
        ),
        ChoiceField(
            "draw/material",
            "Material",
            how.material or "same",
            (("same", "as it goes on"), *rigid),
            "",
            act=lambda v: workspace.draw_with(material=None if v == "same" else v),
        ),
        ChoiceField(
            "draw/free",
            "Turns",
            "free" if how.free else "fittings",
            (("fittings", "30, 45, 60 or 90°"), ("free", "any angle")),
            "",
            act=lambda v: workspace.draw_with(free=v == "free"),
        ),
    ]
    diameter = how.diameter or max((c.inlet for c in project.collectors), default=0.15)
    lies = Fact("Centre line", f"{display.length(how.centre(project, diameter))} above the floor")
    caution = (
        "Under a floor: keep clean-outs within reach, and let no joint leak into a hollow."
        if (how.level == "under the floor")
        else ""
    )
    subtitle = "Click the collector or a duct to begin, then each turn; click a port to connect it. Esc ends it."
    return Page("Draw a duct", subtitle, (Section("How it goes on", (*items, lies)),), (), caution)


def _height_field(workspace: Workspace) -> TextField:
    units = workspace.project.settings.units
    shown = Display(units).length(workspace.drawing.height)
    return TextField(
        "draw/height",
        "Above the floor",
        shown,
        "",
        lambda t: parse_length(t, units, "Height of the duct"),
        act=lambda v: workspace.draw_with(height=v),
    )


def _run_page(workspace: Workspace, run: Run, found: tuple[Finding, ...]) -> Page:
    project = workspace.project
    display = Display(project.settings.units)
    hose = materials()[run.material].hose
    straight = distance(project, run)
    length: Item = (
        _hose_field(run, run.length or straight, project) if hose else Fact("Length", display.length(straight))
    )
    what = Section(
        "What it is",
        (
            length,
            *_hanger_facts(run, straight, display),
            *((Fact("Straight way", display.length(straight)),) if hose else ()),
            _diameter_field(project, run, display),
            *_size_fields(project, run, display),
            ChoiceField(
                f"{run.id}/material",
                "Material",
                run.material,
                tuple((m.name, m.label) for m in catalogue().materials),
                "Change the material",
                lambda p, v: edits.with_material(p, run.id, v),
            ),
        ),
    )
    sections = [
        what,
        *_serves_section(workspace, run),
        *_costs(workspace, {run.id}, run.id),
        *part_choices(workspace),
        *_add_section(project, run),
    ]
    name = "Hose" if hose else "Drop" if _is_drop(project, run) else "Duct"
    return Page(f"{name} '{run.id}'", _ends(project, run), tuple(sections), found)


def _hose_field(run: Run, length: float, project: Project) -> TextField:
    units = project.settings.units
    return TextField(
        f"{run.id}/length",
        "Hose length",
        Display(units).length(length),
        "Change the hose",
        lambda t: parse_length(t, units, "Hose length"),
        lambda p, v: edits.with_hose_length(p, run.id, v),
    )


def _is_drop(project: Project, run: Run) -> bool:
    a, b = position(project, run.start), position(project, run.end)
    return abs(a[2] - b[2]) > 0.9 * distance(project, run)


def _ends(project: Project, run: Run) -> str:
    names = [
        project.pickup[ref][0].name
        if ref in project.pickup
        else project.collector[ref].name
        if ref in project.collector
        else f"'{ref}'"
        for ref in (run.start, run.end)
    ]
    return f"From {names[0]} to {names[1]}."


def _diameter_field(project: Project, run: Run, display: Display) -> ChoiceField:
    sizes = sorted({*pipe_sizes(project), run.diameter})
    return ChoiceField(
        f"{run.id}/diameter",
        "Diameter",
        f"{run.diameter:.5f}",
        tuple((f"{size:.5f}", display.diameter(size)) for size in sizes),
        "Change the diameter",
        lambda p, v: edits.changed(p, run.id, diameter=float(v)),
    )


def _system_with(scenario: ScenarioAir | None, elements: set[str]) -> System | None:
    for system in scenario.systems.values() if scenario and scenario.converged else ():
        if any(piece.source_id in elements for piece in system.network.pieces):
            return system
    return None


def _costs(workspace: Workspace, elements: set[str], run: str) -> list[Section]:
    """What something costs in the scenario that runs now."""
    project = workspace.project
    display = Display(project.settings.units)
    scenario = workspace.scenario
    if scenario is None:
        return [Section("What it costs", (Fact("", "Switch a machine on to see."),))]
    system = _system_with(scenario, elements)
    if system is None:
        return [Section("What it costs", (Fact("", "No air passes with what is running now."),))]
    mine = [i for i, piece in enumerate(system.network.pieces) if piece.source_id in elements]
    flow = abs(system.airflows[mine[0]])
    items: list[Item] = [Fact("Air", display.airflow(flow))]
    ducts = [i for i in mine if isinstance(system.network.pieces[i], Straight)]
    if ducts:
        items.append(_velocity_fact(project, scenario, run, abs(system.velocity(ducts[0])), display))
    for index in mine:
        piece = system.network.pieces[index]
        words = piece_words(project, piece, display, system.gate_open(piece))
        items.append(Fact(capital(words), display.pressure(system.losses[index])))
    if len(mine) > 1:
        items.append(Fact("Together", display.pressure(sum(system.losses[i] for i in mine))))
    return [Section(f"What it costs: {scenario.scenario.name(project)} running", tuple(items))]


def _velocity_fact(project: Project, scenario: ScenarioAir, run: str, speed: float, display: Display) -> Fact:
    mine = [c for c in transport_checks(project, scenario) if c.run == run]
    if not mine:
        return Fact("Velocity", display.velocity(speed))
    worst = min(mine, key=lambda c: c.share)
    state = "too fast" if worst.velocity > TOO_FAST else transport_word(worst.share)
    words = f"{display.velocity(worst.velocity, unit=False)} of {display.velocity(worst.needed)}"
    return Fact("Velocity", words, state)


def _gate_page(workspace: Workspace, gate: Gate, found: tuple[Finding, ...]) -> Page:
    rules = (("with its machine", "opens with its machine"), ("left open", "left open"), ("kept shut", "kept shut"))
    bores = (("full bore", "full bore, smooth"), ("stepped", "slot and steps"))
    what = Section(
        "What it is",
        (
            ChoiceField(
                f"{gate.id}/rule",
                "It is",
                gate.rule,
                rules,
                "Change the gate",
                lambda p, v: edits.changed(p, gate.id, rule=v),
            ),
            ChoiceField(
                f"{gate.id}/bore",
                "Inside",
                gate.bore,
                bores,
                "Change the gate",
                lambda p, v: edits.changed(p, gate.id, bore=v),
            ),
            percent_field(
                f"{gate.id}/opening", "Opens to", gate.opening, lambda p, v: edits.changed(p, gate.id, opening=v)
            ),
            percent_field(
                f"{gate.id}/leak", "Leaks when shut", gate.leak, lambda p, v: edits.changed(p, gate.id, leak=v)
            ),
            Fact("", "About 0.5 % of the bore for a bought gate, 0.1 % for one with a seal."),
        ),
    )
    sections = (what, *part_choices(workspace), *_costs(workspace, {gate.id}, gate.run))
    return Page(f"Blast gate '{gate.id}'", f"On run '{gate.run}'.", sections, found)


def _point_page(workspace: Workspace, point: Point, found: tuple[Finding, ...]) -> Page:
    meeting = len(runs_at(workspace.project)[point.id])
    elbows = (
        ("smooth", "smooth elbow"),
        ("five gores", "elbow of five gores"),
        ("three gores", "elbow of three gores"),
        ("mitre", "mitred elbow"),
        ("two 45s", "two 45s"),
    )
    what = Section(
        "What it is",
        (
            length_field(
                workspace.project,
                f"{point.id}/height",
                "Height",
                point.height,
                lambda p, v: edits.changed(p, point.id, height=v),
            ),
            *(_end_fields(point) if meeting == 1 else ()),
            *(_turn_fields(point, elbows) if meeting > 1 else ()),
            *(_wye_fields(point) if meeting > 2 else ()),
        ),
    )
    more = _joint_actions(workspace.project, point, meeting)
    add = (Section("Add to it", more),) if more else ()
    sections = (what, *part_choices(workspace), *_costs(workspace, {point.id}, ""), *add)
    return Page(f"Joint '{point.id}'", "Drag it; fittings here follow from the runs that meet.", sections, found)


def _end_fields(point: Point) -> tuple[ChoiceField, ...]:
    ends = (("cap", "a cap"), ("open", "nothing: it is open"))
    return (
        ChoiceField(
            f"{point.id}/end",
            "On its end",
            point.end,
            ends,
            "Change the end",
            lambda p, v: edits.changed(p, point.id, end=v),
        ),
    )


def _turn_fields(point: Point, elbows: tuple[tuple[str, str], ...]) -> tuple[ChoiceField, ...]:
    radii = [1.0, 1.5, 2.0, 2.5]
    sizes = sorted({*radii, point.radius_ratio})
    return (
        ChoiceField(
            f"{point.id}/elbow",
            "Where it turns",
            point.elbow,
            elbows,
            "Change the elbow",
            lambda p, v: edits.changed(p, point.id, elbow=v),
        ),
        ChoiceField(
            f"{point.id}/radius",
            "Radius",
            f"{point.radius_ratio:g}",
            tuple((f"{r:g}", f"{r:g} diameters") for r in sizes),
            "Change the elbow",
            lambda p, v: edits.changed(p, point.id, radius_ratio=float(v)),
        ),
    )


def _wye_fields(point: Point) -> tuple[ChoiceField, ...]:
    angles: tuple[tuple[str, str], ...] = (
        ("drawn", "as drawn"),
        ("30", "30°"),
        ("45", "45°"),
        ("60", "60°"),
        ("90", "90°, a tee"),
    )
    now = "drawn" if point.wye_angle is None else f"{point.wye_angle:g}"
    if now not in dict(angles):
        angles = (*angles, (now, f"{now}°"))
    joins = (("wye", "a wye"), ("box", "a splitter box"))
    return (
        ChoiceField(
            f"{point.id}/joins",
            "Joined by",
            "box" if point.splitter else "wye",
            joins,
            "Change the wye",
            lambda p, v: edits.changed(p, point.id, splitter=v == "box"),
        ),
        ChoiceField(
            f"{point.id}/angle",
            "Angle of entry",
            now,
            angles,
            "Change the wye",
            lambda p, v: edits.changed(p, point.id, wye_angle=None if v == "drawn" else float(v)),
        ),
    )


def _joint_actions(project: Project, point: Point, meeting: int) -> tuple[ActionField, ...]:
    """What can be put on at a joint: a clean-out at a drop's foot, a floor sweep at a free end."""
    made: list[ActionField] = []
    runs = runs_at(project)[point.id]
    rigid = [run for run in runs if upright(project, run)]
    if meeting == 2 and len(rigid) == 1 and all(materials()[r.material].hose for r in runs if r not in rigid):
        made.append(
            ActionField(
                f"{point.id}/clean-out",
                "A clean-out below it",
                "Add a clean-out",
                lambda p: with_clean_out(p, point.id),
                "a tee with a cap, for what falls down the drop",
            )
        )
    if meeting == 1 and point.height > 1.0:
        made.append(
            ActionField(
                f"{point.id}/sweep",
                "A floor sweep under it",
                "Add a floor sweep",
                lambda p: with_sweep(p, point.id)[0],
                "drop, gate and sweep at the main's end",
            )
        )
    return tuple(made)


def _add_section(project: Project, run: Run) -> tuple[Section, ...]:
    """What can be put on a duct: one more gate, a capped stub for a machine to come."""
    if materials()[run.material].hose:
        return ()
    actions = [ActionField(f"{run.id}/gate", "A gate on it", "Add a gate", lambda p: with_gate_on(p, run.id)[0])]
    a, b = position(project, run.start), position(project, run.end)
    if abs(a[2] - b[2]) < 0.1 and distance(project, run) > 1.0 and run.id in downstream_ends(project):
        size = STUB_SIZES[project.settings.units]
        actions.append(
            ActionField(
                f"{run.id}/stub",
                "A capped stub",
                "Add a capped stub",
                lambda p: with_capped_stub(p, run.id, size)[0],
                "a wye on it, for a machine to come",
            )
        )
    return (Section("Add to it", tuple(actions)),)


def _size_fields(project: Project, run: Run, display: Display) -> tuple[ActionField, ...]:
    """Buttons that carry the diameter on to the next wye, where that would change anything."""
    chain = branch_segment(project, run.id)
    here = chain.index(run.id)
    sides = (("collector", chain[here + 1 :]), ("machine", chain[:here]))
    made = []
    for towards, others in sides:
        rigid = [r for r in others if not materials()[project.run[r].material].hose]
        if any(abs(project.run[r].diameter - run.diameter) > 1e-4 for r in rigid):
            made.append(_size_field(run, towards, display))
    return tuple(made)


def _size_field(run: Run, towards: str, display: Display) -> ActionField:
    side = "collector" if towards == "collector" else "machine"
    return ActionField(
        f"{run.id}/carry-{side}",
        f"Carry {display.diameter(run.diameter)} on, towards the {side}",
        "Carry the size on",
        lambda p: with_diameter_continued(p, run.id, "collector" if side == "collector" else "machine"),
        "over every duct to the next wye",
    )


def _hanger_facts(run: Run, straight: float, display: Display) -> tuple[Fact, ...]:
    if materials()[run.material].hose:
        return ()
    return (
        Fact("Hangers", f"{hangers(run, straight)}, every {display.length(display.tape(hanger_gap(run.material)))}"),
    )


# -- one hose, several machines


def _serves_section(workspace: Workspace, run: Run) -> tuple[Section, ...]:
    """Which machines a hose is put on, whether it reaches them, and what the moving costs."""
    project = workspace.project
    if not materials()[run.material].hose or run.start not in project.pickup:
        return ()
    display = Display(project.settings.units)
    length = run.length or distance(project, run)
    items: list[Item] = []
    for reach in reaches(workspace.space, run) if run.also_serves else ():
        name = _pickup_name(project, reach.pickup)
        enough = length >= reach.needed - 5e-3
        around = " round things" if reach.around else ""
        items.append(Fact(name, f"needs {display.length(reach.needed)}{around}", "good" if enough else "short"))
    items += [_no_longer(run, ref, _pickup_name(project, ref)) for ref in run.also_serves]
    taken = {ref for other in project.runs for ref in (other.start, other.end, *other.also_serves)}
    free = [(ref, _pickup_name(project, ref)) for ref in project.pickup if ref not in taken]
    if free:
        items.append(
            ChoiceField(
                f"{run.id}/also",
                "Also carry it to",
                "",
                (("", "choose…"), *free),
                "Carry the hose to one more",
                lambda p, v: edits.changed(p, run.id, also_serves=(*p.run[run.id].also_serves, v)),
            )
        )
    made = [Section("Carried to", tuple(items))] if items else []
    if run.also_serves:
        made.append(_moving_section(project, run))
    return tuple(made)


def _pickup_name(project: Project, ref: str) -> str:
    machine, pickup = project.pickup[ref]
    return machine.name if len(machine.pickups) == 1 else f"{machine.name}, {pickup.name.lower()}"


def _no_longer(run: Run, ref: str, name: str) -> ActionField:
    rest = tuple(other for other in run.also_serves if other != ref)
    return ActionField(
        f"{run.id}/no-longer-{ref}",
        f"No longer to the {name.lower()}",
        "Carry the hose to one less",
        lambda p: edits.changed(p, run.id, also_serves=rest),
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
            "Change the connectors",
            lambda p, v: edits.changed(p, run.id, coupling=v, swap_seconds=None),
        ),
        number_field(
            f"{run.id}/seconds",
            "Each swap",
            run.swap_seconds or usual,
            lambda p, v: edits.changed(p, run.id, swap_seconds=v),
            "s",
        ),
        Fact("Swaps a week", f"about {cost.each_week:.0f}"),
        Fact("Time for them", f"{cost.minutes:.0f} min a week"),
    ]
    if cost.weeks is not None:
        other = "clamp" if run.coupling == "quick" else "quick"
        then = swaps(project, run.replaced(coupling=other, swap_seconds=None))
        items.append(Fact("With " + dict(couplings)[other], f"{then.minutes:.0f} min a week"))
        items.append(
            Fact("", f"{cost.drops} fixed drops, about 2 h each to build, win their time back in {_span(cost.weeks)}.")
        )
    return Section("Moving it", tuple(items))


def _span(weeks: float) -> str:
    return f"{weeks:.0f} weeks" if weeks < 100 else f"{weeks / 52:.0f} years"

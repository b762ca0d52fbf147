"""What the inspector says about each kind of thing, as plain values: facts, fields and findings."""

from __future__ import annotations

from grey_current.air.needs import TOO_FAST
from grey_current.design.assess import System, UseAir
from grey_current.design.findings import Finding, of_element
from grey_current.design.levers import Lever
from grey_current.design.routing import connected
from grey_current.design.transport import carries
from grey_current.design.uses import need
from grey_current.design.verdict import thieves
from grey_current.design.words import carry_word, piece_words, state_word
from grey_current.desk.machine_pages import machine_page, service_field
from grey_current.desk.page_items import (
    ActionField,
    ChoiceField,
    Fact,
    Item,
    Page,
    Section,
    TextField,
    altitude_field,
    capital,
    field_edit,
    length_field,
    number_field,
    wish_field,
)
from grey_current.desk.shop_pages import shop_page
from grey_current.shop import edits
from grey_current.shop.catalogue import catalogue, materials, pipe_sizes
from grey_current.shop.model import Collector, Gate, Machine, Point, Project, Run, distance, position
from grey_current.units import Display, parse_airflow, parse_length
from grey_current.workspace.guide import stage_findings
from grey_current.workspace.workspace import Edit, Workspace

MOST_THIEVES = 6
MOST_LEVERS = 5


def page(workspace: Workspace) -> Page:
    """The page for what is selected at this stage of the work, or for the shop."""
    project = workspace.project
    chosen = workspace.selection
    if workspace.stage == "shop" and (made := shop_page(workspace)) is not None:
        return made
    if chosen is None:
        return _shop_page(workspace)
    owner = chosen.split("/")[0]
    if owner in project.machine:
        return (machine_page if workspace.stage == "machines" else _machine_page)(workspace, project.machine[owner])
    found = tuple(of_element(workspace.known_findings, project, chosen))
    item = project.find(chosen)
    if isinstance(item, Run):
        return _run_page(workspace, item, found)
    if isinstance(item, Gate):
        return _gate_page(workspace, item, found)
    if isinstance(item, Collector):
        return _collector_page(workspace, item, found)
    if isinstance(item, Point):
        return _point_page(workspace, item, found)
    return shop_page(workspace) or _shop_page(workspace)


# -- the shop


def _shop_page(workspace: Workspace) -> Page:
    project = workspace.project
    s = project.settings
    display = Display(s.units)
    settings = Section("How this shop counts", (
        ChoiceField(
            "units", "Units", s.units, (("us", "Feet, inches, CFM"), ("metric", "Metric, m³/h")),
            "Change units", lambda v: lambda p: edits.with_settings(p, units=v),
        ),
        ChoiceField(
            "school", "Air must", s.school,
            (("clear chips", "clear the chips"), ("catch fine dust", "catch the fine dust")),
            "Change what air must do", lambda v: lambda p: edits.with_settings(p, school=v),
        ),
        altitude_field(project),
        number_field(
            "temperature", "Temperature", s.temperature, lambda v: lambda p: edits.with_settings(p, temperature=v), "°C"
        ),
    ))  # fmt: skip
    count = Section("In it", (
        Fact("Ceiling", display.length(project.rooms[0].ceiling)),
        Fact("Machines", str(len(project.machines))),
        Fact("Runs of duct and hose", str(len(project.runs))),
        Fact("Air density", f"{workspace.assessment.air.density:.2f} kg/m³"),
    ))  # fmt: skip
    caution = (
        "Estimates for planning, not a certificate. Fine wood dust harms lungs: wear a respirator for what "
        "the hoods miss."
    )
    subtitle = "Nothing is selected. Click anything on the floor."
    if workspace.stage == "machines":
        settings = Section("What it is for", (wish_field(project),))
    return Page(project.name, subtitle, (settings, count), stage_findings(workspace), caution)


# -- a machine


def _machine_page(workspace: Workspace, machine: Machine) -> Page:
    project = workspace.project
    display = Display(project.settings.units)
    running = machine.id in workspace.running
    answer = workspace.use if running else workspace.assessment.of_machine.get(machine.id)
    sections = []
    for pickup in machine.pickups:
        asked = need(pickup, project.settings)
        air = next(
            (p for p in answer.pickups if (p.machine, p.pickup) == (machine.id, pickup.id)), None
        ) if answer else None  # fmt: skip
        items: list[Item] = []
        if air is None or air.leaf is None:
            items.append(Fact("Air", "not connected", "starved"))
            items.append(_connect_field(machine, pickup.id))
        else:
            items.append(Fact("Air", display.airflow(air.airflow), state_word(air.share)))
        items.append(_need_field(machine, pickup.id, display.airflow(asked.airflow), project))
        items.append(Fact("", asked.reason))
        items.append(Fact("Port", display.diameter(pickup.port)))
        sections.append(Section(pickup.name, tuple(items)))
    if answer and answer.converged and answer.worst and answer.worst.machine == machine.id:
        taken = thieves(project, answer, answer.worst)[:MOST_THIEVES]
        lines = tuple(Fact(capital(t.words), display.pressure(t.loss)) for t in taken)
        name = next(p.name for p in machine.pickups if p.id == answer.worst.pickup)
        where = f" from the {name.lower()}" if len(machine.pickups) > 1 else ""
        sections.append(Section(f"Where the suction goes{where}", lines))
    sections[:0] = _help_section(workspace, machine)
    subtitle = f"{machine.kind}. Drag it on the floor, or nudge it with the arrow keys."
    found = tuple(of_element(workspace.known_findings, project, machine.id))
    caution = "Unplug before reaching into the machine or its hood." if machine.pickups else ""
    return Page(machine.name, subtitle, tuple(sections), found, caution)


def _connect_field(machine: Machine, pickup: str) -> ActionField:
    ref = f"{machine.id}/{pickup}"
    step = f"Connect the {machine.name.lower()}"
    return ActionField(f"{ref}/connect", "Connect it to the main", step, lambda: lambda p: connected(p, ref))


def _help_section(workspace: Workspace, machine: Machine) -> list[Section]:
    """What would help most, each change with what it was computed to be worth; one click makes it."""
    if workspace.asked_machine != machine.id:
        return []
    found = workspace.known_levers(machine.id)
    title = "What would help most, running alone"
    if found is None:
        return [Section(title, (Fact("", "Trying every sensible change…"),))]
    if not found:
        return [Section(title, (Fact("", "No single change gains much."),))]
    items = tuple(_lever_field(workspace, machine, n, lever) for n, lever in enumerate(found[:MOST_LEVERS]))
    return [Section(title, items)]


def _lever_field(workspace: Workspace, machine: Machine, number: int, lever: Lever) -> ActionField:
    project = workspace.project
    display = Display(project.settings.units)
    detail = f"+{display.airflow(lever.gain)}" + (": all that it needs" if lever.met else "")
    if lever.losers:
        other, loss = max(lever.losers, key=lambda pair: pair[1])
        detail += f"; the {project.machine[other].name.lower()} loses {display.airflow(loss, unit=False)}"
    return ActionField(f"{machine.id}/lever-{number + 1}", lever.words, lever.words, lambda: lever.change, detail)


def _need_field(machine: Machine, pickup: str, value: str, project: Project) -> TextField:
    def edit(text: str) -> Edit:
        airflow = parse_airflow(text, project.settings.units, f"{machine.name}, airflow needed")

        def change(p: Project) -> Project:
            pickups = tuple(
                edits.checked(item, f"{machine.name}, {item.name.lower()}", {"need": airflow})
                if item.id == pickup else item
                for item in p.machine[machine.id].pickups
            )  # fmt: skip
            return edits.changed(p, machine.id, pickups=pickups)

        return change

    return TextField(f"{machine.id}/{pickup}/need", "Needs", value, "Change the need", edit)


# -- ductwork


def _run_page(workspace: Workspace, run: Run, found: tuple[Finding, ...]) -> Page:
    project = workspace.project
    display = Display(project.settings.units)
    hose = materials()[run.material].hose
    way = distance(project, run)
    length: Item = _hose_field(run, run.length or way, project) if hose else Fact("Length", display.length(way))
    what = Section("What it is", (
        length,
        *((Fact("Straight way", display.length(way)),) if hose else ()),
        _diameter_field(project, run, display),
        ChoiceField(
            f"{run.id}/material", "Material", run.material,
            tuple((m.name, m.label) for m in catalogue().materials),
            "Change the material", lambda v: lambda p: edits.with_material(p, run.id, v),
        ),
    ))  # fmt: skip
    sections = [what, *_costs(workspace, {run.id}, run.id)]
    name = "Hose" if hose else "Drop" if _is_drop(project, run) else "Duct"
    return Page(f"{name} '{run.id}'", _ends(project, run), tuple(sections), found)


def _hose_field(run: Run, length: float, project: Project) -> TextField:
    units = project.settings.units

    def edit(text: str) -> Edit:
        value = parse_length(text, units, "Hose length")
        return lambda p: edits.with_hose_length(p, run.id, value)

    return TextField(f"{run.id}/length", "Hose length", Display(units).length(length), "Change the hose", edit)


def _is_drop(project: Project, run: Run) -> bool:
    a, b = position(project, run.start), position(project, run.end)
    return abs(a[2] - b[2]) > 0.9 * distance(project, run)


def _ends(project: Project, run: Run) -> str:
    names = [
        project.pickup[ref][0].name if ref in project.pickup
        else project.collector[ref].name if ref in project.collector else f"'{ref}'"
        for ref in (run.start, run.end)
    ]  # fmt: skip
    return f"From {names[0]} to {names[1]}."


def _diameter_field(project: Project, run: Run, display: Display) -> ChoiceField:
    sizes = sorted({*pipe_sizes(project), run.diameter})
    return ChoiceField(
        f"{run.id}/diameter", "Diameter", f"{run.diameter:.5f}",
        tuple((f"{size:.5f}", display.diameter(size)) for size in sizes),
        "Change the diameter", lambda v: lambda p: edits.changed(p, run.id, diameter=float(v)),
    )  # fmt: skip


def _system_with(use: UseAir | None, elements: set[str]) -> System | None:
    for system in use.systems.values() if use and use.converged else ():
        if any(piece.of in elements for piece in system.network.pieces):
            return system
    return None


def _costs(workspace: Workspace, elements: set[str], run: str) -> list[Section]:
    """What something costs in the use that runs now."""
    project = workspace.project
    display = Display(project.settings.units)
    use = workspace.use
    if use is None:
        return [Section("What it costs", (Fact("", "Switch a machine on to see."),))]
    system = _system_with(use, elements)
    if system is None:
        return [Section("What it costs", (Fact("", "No air passes with what is running now."),))]
    mine = [i for i, piece in enumerate(system.network.pieces) if piece.of in elements]
    flow = abs(system.airflows[mine[0]])
    items: list[Item] = [Fact("Air", display.airflow(flow))]
    ducts = [i for i in mine if system.network.pieces[i].kind in ("duct", "hose")]
    if ducts:
        items.append(_velocity_fact(project, use, run, abs(system.velocity(ducts[0])), display))
    for index in mine:
        piece = system.network.pieces[index]
        words = piece_words(project, piece, display, system.gate_open(piece))
        items.append(Fact(capital(words), display.pressure(system.losses[index])))
    if len(mine) > 1:
        items.append(Fact("Together", display.pressure(sum(system.losses[i] for i in mine))))
    return [Section(f"What it costs: {use.use.name(project)} running", tuple(items))]


def _velocity_fact(project: Project, use: UseAir, run: str, speed: float, display: Display) -> Fact:
    mine = [c for c in carries(project, use) if c.run == run]
    if not mine:
        return Fact("Velocity", display.velocity(speed))
    worst = min(mine, key=lambda c: c.share)
    state = "too fast" if worst.velocity > TOO_FAST else carry_word(worst.share)
    words = f"{display.velocity(worst.velocity, unit=False)} of {display.velocity(worst.needed)}"
    return Fact("Velocity", words, state)


def _gate_page(workspace: Workspace, gate: Gate, found: tuple[Finding, ...]) -> Page:
    rules = (
        ("with its machine", "opens with its machine"),
        ("left open", "left open"),
        ("kept shut", "kept shut"),
    )
    bores = (("full bore", "full bore, smooth"), ("stepped", "slot and steps"))
    what = Section("What it is", (
        ChoiceField(
            f"{gate.id}/rule", "It is", gate.rule, rules, "Change the gate",
            lambda v: lambda p: edits.changed(p, gate.id, rule=v),
        ),
        ChoiceField(
            f"{gate.id}/bore", "Inside", gate.bore, bores, "Change the gate",
            lambda v: lambda p: edits.changed(p, gate.id, bore=v),
        ),
        Fact("Leaks when shut", f"{gate.leak:.1%} of its bore"),
    ))  # fmt: skip
    sections = (what, *_costs(workspace, {gate.id}, gate.run))
    return Page(f"Blast gate '{gate.id}'", f"On run '{gate.run}'.", sections, found)


def _point_page(workspace: Workspace, point: Point, found: tuple[Finding, ...]) -> Page:
    meeting = sum(point.id in (run.start, run.end) for run in workspace.project.runs)
    elbows = (
        ("smooth", "smooth elbow"), ("five gores", "elbow of five gores"),
        ("three gores", "elbow of three gores"), ("mitre", "mitred elbow"), ("two 45s", "two 45s"),
    )  # fmt: skip
    what = Section("What it is", (
        length_field(
            workspace.project, f"{point.id}/height", "Height", point.height,
            lambda v: lambda p: edits.changed(p, point.id, height=v),
        ),
        *(_end_fields(point) if meeting == 1 else ()),
        *(_turn_fields(point, elbows) if meeting > 1 else ()),
    ))  # fmt: skip
    sections = (what, *_costs(workspace, {point.id}, ""))
    return Page(f"Joint '{point.id}'", "Drag it; fittings here follow from the runs that meet.", sections, found)


def _end_fields(point: Point) -> tuple[ChoiceField, ...]:
    ends = (("cap", "a cap"), ("open", "nothing: it is open"))
    return (
        ChoiceField(
            f"{point.id}/end", "On its end", point.end, ends, "Change the end",
            lambda v: lambda p: edits.changed(p, point.id, end=v),
        ),
    )  # fmt: skip


def _turn_fields(point: Point, elbows: tuple[tuple[str, str], ...]) -> tuple[ChoiceField, ...]:
    radii = [1.0, 1.5, 2.0, 2.5]
    sizes = sorted({*radii, point.radius_ratio})
    return (
        ChoiceField(
            f"{point.id}/elbow", "Where it turns", point.elbow, elbows, "Change the elbow",
            lambda v: lambda p: edits.changed(p, point.id, elbow=v),
        ),
        ChoiceField(
            f"{point.id}/radius", "Radius", f"{point.radius_ratio:g}",
            tuple((f"{r:g}", f"{r:g} diameters") for r in sizes), "Change the elbow",
            lambda v: lambda p: edits.changed(p, point.id, radius_ratio=float(v)),
        ),
    )  # fmt: skip


def _collector_page(workspace: Workspace, item: Collector, found: tuple[Finding, ...]) -> Page:
    project = workspace.project
    display = Display(project.settings.units)
    models = tuple((m.model, m.model) for m in catalogue().collectors)
    if item.model not in dict(models):
        models = ((item.model, item.model), *models)
    what = Section("What it is", (
        ChoiceField(
            f"{item.id}/model", "Model", item.model, models, "Change the collector",
            lambda v: lambda p: edits.with_collector(p, item.id, v),
        ),
        Fact("Inlet", display.diameter(item.inlet)),
        Fact("Height", display.length(item.height)),
        Fact("Filter", f"{item.filter.kind}, {item.filter.area:.1f} m²"),
        Fact("", item.curve_note),
        number_field(f"{item.id}/turn", "Turned", item.turn, lambda v: field_edit(item.id, turn=v), "°"),
        service_field(item),
    ))  # fmt: skip
    system = workspace.use.systems.get(item.id) if workspace.use else None
    if system and system.converged:
        at_work = Section("At work", (
            Fact("Air", display.airflow(system.airflow)),
            Fact("Fan static pressure", display.pressure(system.fan_static)),
            Fact("Static pressure at inlet", display.pressure(system.inlet_static)),
        ))  # fmt: skip
    else:
        at_work = Section("At work", (Fact("", "It is not running now."),))
    caution = "Unplug before reaching into it. Dust burns: no metal grinding through it; empty the bin in time."
    return Page(item.name, item.model, (what, at_work), found, caution)

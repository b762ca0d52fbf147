"""What the floor shows, as plain values: shapes and states read off the workspace. No painting
here.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import Literal

from grey_current.design.findings.room_to_work import LEAST_LANE
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment, ScenarioAir
from grey_current.design.flow.scenarios import arrangement, scenario_of
from grey_current.design.flow.states import gates_open, machine_state, run_states, run_velocities
from grey_current.design.space.lanes import REACH
from grey_current.design.space.outlines import strip_outline
from grey_current.design.space.reach_map import Strip
from grey_current.shop.catalogue import materials
from grey_current.shop.collectors import Collector, PartName
from grey_current.shop.ducts import Run
from grey_current.shop.machines import Machine
from grey_current.shop.model import Project
from grey_current.shop.places import (
    XY,
    bridged,
    footprint,
    lead_ends,
    parts_apart,
    position,
    standing,
)
from grey_current.shop.roofs import highest
from grey_current.shop.stacking import host_of, relation
from grey_current.units import Display
from grey_current.workspace.offering import offered_scenario
from grey_current.workspace.workspace import Workspace

# What stands out on the floor: the building, machines with their lanes, bodies only, or what air
# passes.
Emphasis = Literal["building", "machines", "bodies", "air"]
# m from a machine at most where its lane says how long a board may be.
WORDS_REACH = 2.0
# m/s above which air that carries no chips is drawn moving: it is stolen from somebody.
STRAY_AIR = 1.5


@dataclass(frozen=True)
class DuctShape:
    """A run as drawn: centre line (m), width (m), height, kind, state word, and velocity along the
    line.
    """

    run: str
    line: tuple[XY, ...]
    width: float
    height: float
    hose: bool
    vertical: bool
    state: str
    velocity: float
    label: str

    @cached_property
    def look(self) -> object:
        """Everything that a still picture of it follows from."""
        return self.line, self.width, self.height, self.hose, self.vertical, self.state, self.label

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, low, right and high edge of the centre line, m."""
        xs, ys = zip(*self.line, strict=True)
        return min(xs), min(ys), max(xs), max(ys)


@dataclass(frozen=True)
class GateShape:
    """A gate: where it sits (m), the duct's heading there (radians), its width, whether it is
    open.
    """

    gate: str
    at: XY
    heading: float
    width: float
    open: bool
    forced: bool


@dataclass(frozen=True)
class MachineShape:
    """A machine: corners (m), name, state word, whether it runs, its ports, whether it stands
    hidden, under something or in it, and where its body ends and a wing of its table begins.
    """

    machine: str
    corners: tuple[XY, ...]
    name: str
    state: str
    running: bool
    ports: tuple[tuple[str, XY, float], ...]
    hidden: bool = False
    wings: tuple[tuple[XY, XY], ...] = ()


@dataclass(frozen=True)
class CollectorShape:
    """A collector: corners (m), name, whether it runs, its inlet, and whether it stands hidden.

    What stands by itself of one is a shape of its own: `part` says what it is, and `lead` where its
    hose to the fan goes.
    """

    collector: str
    corners: tuple[XY, ...]
    name: str
    running: bool
    inlet: XY
    radius: float
    hidden: bool = False
    part: PartName | None = None
    lead: tuple[XY, ...] = ()


@dataclass(frozen=True)
class LaneShape:
    """A machine's lane: its outline and the feed's start and direction, and the longest board in
    words.
    """

    machine: str
    outline: tuple[XY, ...]
    start: XY
    ahead: XY
    good: bool
    running: bool
    text: str
    words_at: XY


@dataclass(frozen=True)
class FloorScene:
    """Everything on the floor."""

    project: Project
    ducts: tuple[DuctShape, ...]
    gates: tuple[GateShape, ...]
    machines: tuple[MachineShape, ...]
    collectors: tuple[CollectorShape, ...]
    lanes: tuple[LaneShape, ...] = ()
    parked: tuple[tuple[str, tuple[XY, ...]], ...] = ()
    all_lanes: bool = False
    # Whether it shows what the search offers, not what is drawn.
    ghost: bool = False
    # What the chosen hose reaches of the floor.
    reach: tuple[Strip, ...] = ()

    @property
    def headroom(self) -> float:
        """The highest ceiling, m."""
        return max(highest(room) for room in self.project.rooms)


def build_scene(workspace: Workspace, emphasis: Emphasis, all_lanes: bool = False) -> FloorScene:
    """The floor as the workspace has it: with what is switched on and what stands out at its stage.

    Lanes are those of machines that are selected or run, or `all_lanes`.
    """
    row = workspace.pointed_row
    # An offer that is pointed at is shown as if it were taken.
    if row is not None and row.assessment is not None:
        project, assessment = row.shown, row.assessment
        scenario = offered_scenario(project, row, workspace.running)
    else:
        project, scenario, assessment = (
            workspace.project,
            workspace.shown_scenario,
            workspace.shown_air,
        )
    scene = _scene(project, assessment, scenario)
    if workspace.stage == "build" and row is None:
        scene = replace(scene, ducts=tuple(_as_built(duct, project) for duct in scene.ducts))
    if workspace.stage == "keep" and row is None:
        # A ring stands where the size would.
        ringed = _measured_in(workspace)
        scene = replace(
            scene, ducts=tuple(replace(d, label="") if d.run in ringed else d for d in scene.ducts)
        )
    reached = workspace.reached if row is None else None
    at_machines = emphasis == "machines"
    return replace(
        scene,
        lanes=tuple(_lanes(workspace)) if at_machines else (),
        parked=tuple(_parked(project)) if at_machines else (),
        all_lanes=all_lanes,
        ghost=row is not None,
        reach=reached.strips if reached is not None else (),
    )


def _measured_in(workspace: Workspace) -> frozenset[str]:
    """The places at which a reading was taken or is wanted."""
    found = workspace.computed.doubt
    places = [reading.place for reading in workspace.project.keep.readings]
    if found is not None:
        places += [wanted.place for wanted in found.wanted]
        places += [hole.place for hole in found.monthly]
    return frozenset(places)


def scene_before(workspace: Workspace) -> FloorScene | None:
    """The floor as the kept design has it that the present one is compared with, with what is
    switched on now and stands in it too; None where nothing is compared.
    """
    air = workspace.compared_air
    if air is None:
        return None
    running = tuple(ident for ident in workspace.running if ident in air.project.machine)
    scenario = air.of(scenario_of(air.project, running)) if running else None
    return _scene(air.project, air, scenario)


def plain_scene(project: Project) -> FloorScene:
    """The floor of a shop with nothing switched on."""
    return _scene(project, assess(project), None)


def _scene(project: Project, assessment: Assessment, scenario: ScenarioAir | None) -> FloorScene:
    """Ducts, gates, machines and collectors in the states that a scenario gives them."""
    moved = dict(arrangement(project, scenario.scenario)) if scenario else {}
    flows = run_velocities(scenario)
    states = run_states(project, scenario)
    ducts = [
        _duct(
            project,
            run,
            moved.get(run.id, run.start),
            flows.get(run.id, 0.0),
            states.get(run.id, ""),
        )
        for run in project.runs
    ]
    pulled = gates_open(scenario)
    return FloorScene(
        project,
        tuple(sorted(ducts, key=lambda d: d.height)),
        tuple(_gate(project, gate.id, moved, gate.id in pulled) for gate in project.gates),
        # What stands higher lies over what is lower, and what is hidden is drawn through.
        tuple(
            _machine(assessment, machine, scenario)
            for machine in sorted(project.machines, key=_layer(project))
        ),
        tuple(s for c in project.collectors for s in _collector(project, c, scenario)),
    )


def _lanes(workspace: Workspace) -> Iterator[LaneShape]:
    project, display = workspace.project, Display(workspace.project.settings.units)
    wish = project.settings.longest_board
    for machine in project.machines:
        lane = workspace.space.lane(machine)
        if lane is None:
            continue
        outline = tuple(
            strip_outline(lane.start, lane.direction, lane.width, lane.before, lane.after)
        )
        # Where no wish is said, the least that a board must have.
        good = lane.across or lane.longest >= (wish or LEAST_LANE)
        far = " and more" if lane.longest >= REACH - 0.01 else ""
        text = f"boards to {display.about(lane.longest, down=True)}{far}"
        running = machine.id in workspace.running
        ahead = min(max(lane.after, lane.before) * 0.62, WORDS_REACH)
        ahead *= 1 if lane.after >= lane.before and not lane.through else -1
        words_at = (
            lane.start[0] + lane.direction[0] * ahead,
            lane.start[1] + lane.direction[1] * ahead,
        )
        yield LaneShape(
            machine.id, outline, lane.start, lane.direction, good, running, text, words_at
        )


def _parked(project: Project) -> Iterator[tuple[str, tuple[XY, ...]]]:
    for machine in project.machines:
        for number, place in enumerate(machine.parked, 1):
            there = machine.model_copy(update={"x": place.x, "y": place.y, "turn": place.turn})
            yield f"{machine.id}/parked-{number}", footprint(there)


def _duct(project: Project, run: Run, start: str, velocity: float, state: str) -> DuctShape:
    a, b = position(project, start), position(project, run.end)
    hose = materials()[run.material].hose
    straight = bridged(a, b, run)
    flat = math.dist(a[:2], b[:2])
    line: tuple[XY, ...] = (a[:2], b[:2])
    if hose and run.length and run.length > straight * 1.02 and flat > 0.02:
        line = hanging(a[:2], b[:2], flat * run.length / max(straight, 0.05))
    state = state or ("air" if abs(velocity) > STRAY_AIR else "idle")
    return DuctShape(
        run.id,
        line,
        run.diameter,
        (a[2] + b[2]) / 2 if run.hung is None or not hose else run.hung,
        hose,
        flat < run.diameter * 0.5,
        state,
        velocity,
        Display(project.settings.units).diameter(run.diameter) + (", pinned" if run.pinned else ""),
    )


def _as_built(duct: DuctShape, project: Project) -> DuctShape:
    """A duct as far as it is built: what is mounted or sealed says so."""
    state, label = "idle", duct.label
    if duct.run in project.build.sealed:
        state = "sealed"
    elif duct.run in project.build.mounted:
        state = "mounted"
    if state != "idle":
        label = f"{duct.label}, {state}"
    return replace(duct, state=state, velocity=0.0, label=label)


@lru_cache(maxsize=256)
def hanging(a: XY, b: XY, length: float, steps: int = 11) -> tuple[XY, ...]:
    """A line of about `length` from a to b: a hose with more length than its way lies in waves.

    The surplus goes into half-waves across the straight way, more of them the more there is.
    """
    chord = math.dist(a, b)
    surplus = min(length / chord, 8.0)
    waves = max(1, round((surplus - 1) * 2))
    low, high = 0.0, 4.0 * chord
    for _ in range(24):
        bulge = (low + high) / 2
        points = _wave(a, b, chord, bulge, waves, steps * waves)
        total = sum(math.dist(p, q) for p, q in itertools.pairwise(points))
        low, high = (bulge, high) if total < surplus * chord else (low, bulge)
    return tuple(points)


def _wave(a: XY, b: XY, chord: float, bulge: float, waves: int, steps: int) -> list[XY]:
    ux, uy = (b[0] - a[0]) / chord, (b[1] - a[1]) / chord
    points = []
    for i in range(steps + 1):
        t = i / steps
        off = bulge * math.sin(math.pi * waves * t)
        points.append((a[0] + ux * chord * t - uy * off, a[1] + uy * chord * t + ux * off))
    return points


def _gate(project: Project, ident: str, moved: dict[str, str], is_open: bool) -> GateShape:
    gate = project.gate[ident]
    run = project.run[gate.run]
    a = position(project, moved.get(run.id, run.start))
    b = position(project, run.end)
    at = (a[0] + (b[0] - a[0]) * gate.at, a[1] + (b[1] - a[1]) * gate.at)
    heading = math.atan2(b[1] - a[1], b[0] - a[0])
    return GateShape(
        ident,
        at,
        heading,
        run.diameter,
        is_open or gate.rule == "left open",
        gate.rule != "with its machine",
    )


def _machine(
    assessment: Assessment, machine: Machine, scenario: ScenarioAir | None
) -> MachineShape:
    running = scenario is not None and machine.id in scenario.scenario.running
    answer = scenario if running else assessment.of_machine.get(machine.id)
    ports = tuple(
        (f"{machine.id}/{p.id}", position(assessment.project, f"{machine.id}/{p.id}")[:2], p.port)
        for p in machine.pickups
    )
    word = machine_state(answer, machine.id)
    hidden = _is_hidden(assessment.project, machine)
    corners, wings = footprint(machine), tuple(_wings(machine))
    return MachineShape(machine.id, corners, machine.name, word, running, ports, hidden, wings)


def _wings(machine: Machine) -> Iterator[tuple[XY, XY]]:
    half, deep = machine.width / 2, machine.depth / 2
    for wing, at in (
        (machine.left_wing, -half + machine.left_wing),
        (machine.right_wing, half - machine.right_wing),
    ):
        if wing > 0:
            ends = (standing(machine.x, machine.y, machine.turn, at, dy) for dy in (-deep, deep))
            low, high = ends
            yield low, high


def _collector(
    project: Project, item: Collector, scenario: ScenarioAir | None
) -> Iterator[CollectorShape]:
    running = scenario is not None and item.id in scenario.systems
    inlet = position(project, item.id)[:2]
    hidden = _is_hidden(project, item)
    for part, body in parts_apart(item):
        lead = tuple(end[:2] for end in lead_ends(item, part))
        yield CollectorShape(
            f"{item.id}/{part}",
            footprint(body),
            body.name,
            running,
            inlet,
            min(body.width, body.depth) * 0.36,
            part=part,
            lead=lead,
        )
    radius = min(item.width, item.depth) * 0.36
    yield CollectorShape(item.id, footprint(item), item.name, running, inlet, radius, hidden)


def _layer(project: Project) -> Callable[[Machine], tuple[bool, float]]:
    return lambda machine: (_is_hidden(project, machine), machine.bottom)


def _is_hidden(project: Project, item: Machine | Collector) -> bool:
    """Whether something stands under something else or in it, so that one does not see it from
    above.
    """
    host = host_of(project, item)
    return host is not None and relation(host, item) != "on"

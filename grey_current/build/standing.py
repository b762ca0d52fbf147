"""The shop as it stands after a phase: what comes later is left out, and what it will join on to is
capped.
"""

from __future__ import annotations

import math
import zlib
from collections import defaultdict

from grey_current.design.parts.keys import mm
from grey_current.design.parts.owners import served_by
from grey_current.design.parts.phase_order import phase_of
from grey_current.design.parts.takeoffs import Joints, is_hose
from grey_current.shop.build_plan import BuildPlan
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.edits import fresh_id
from grey_current.shop.fitting_sizes import pipe_sizes_of
from grey_current.shop.kept_designs import as_project
from grey_current.shop.model import Project
from grey_current.shop.places import position

# Letters of an id that a name made of it may take over.
LONG = 44


def standing(project: Project, number: int) -> Project:
    """The shop as it stands after a phase (from 1): that phase's kept design, or what is built by
    then.

    Where a run is to join on later, a short capped stub of its size is left. Raises `InputError` as
    `as_project` does.
    """
    plan = project.build.phases
    design = plan[number - 1].design if number <= len(plan) else None
    alone = project.build.replaced(phases=())
    if design is not None:
        return as_project(project, design).replaced(build=alone)
    return _part_of(
        project, {ident for ident, phase in phase_of(project).items() if phase <= number}, alone
    )


def with_only(project: Project, machines: set[str]) -> Project:
    """The shop with some of its machines, and what they need; everything else comes later."""
    served = served_by(project)
    runs = {run for run, whom in served.items() if whom & machines}
    paths = AirPaths(project)
    ends = {paths.down[run] for run in runs if run in paths.down}
    collectors = {c.id for c in project.collectors if c.id in ends}
    kept = machines | runs | collectors | {gate.id for gate in project.gates if gate.run in runs}
    return _part_of(project, kept, project.build.replaced(phases=()))


def _part_of(project: Project, kept: set[str], plan: BuildPlan) -> Project:
    machines = tuple(machine for machine in project.machines if machine.id in kept)
    there = {f"{machine.id}/{pickup.id}" for machine in machines for pickup in machine.pickups}
    runs = []
    for run in project.runs:
        moved = _moved(project, run, there) if run.id in kept else None
        if moved is not None:
            runs.append(moved)
    collectors = tuple(c for c in project.collectors if c.id in kept)
    # A run to a collector that comes later has nothing to lead to yet.
    loose = {c.id for c in project.collectors} - {c.id for c in collectors}
    runs = [run for run in runs if not {run.start, run.end} & loose]
    points, stubs = _capped(project, runs)
    known = {machine.id for machine in machines}
    together = tuple(group for group in project.settings.together if set(group) <= known)
    built = {run.id for run in runs}
    gates = tuple(_gate(gate, known) for gate in project.gates if gate.run in built)
    return project.replaced(
        machines=machines,
        collectors=collectors,
        runs=(*runs, *stubs),
        points=points,
        gates=gates,
        settings=project.settings.replaced(together=together),
        build=plan,
        kept_designs=(),
    )


def _gate(gate: Gate, machines: set[str]) -> Gate:
    wanted = tuple(machine for machine in gate.also_open_for if machine in machines)
    return gate if wanted == gate.also_open_for else gate.replaced(also_open_for=wanted)


def _moved(project: Project, run: Run, there: set[str]) -> Run | None:
    """A run with only the pickups that are there; None for one that would begin at a machine that
    is not.
    """
    ends = [ref for ref in run.ends if ref in project.pickup and ref not in there]
    others = tuple(ref for ref in run.also_serves if ref in there)
    if not ends:
        return run if others == run.also_serves else run.replaced(also_serves=others)
    if ends == [run.start] and others:
        return run.replaced(start=others[0], also_serves=others[1:])
    return None


def _capped(project: Project, runs: list[Run]) -> tuple[tuple[Point, ...], list[Run]]:
    """The points that are left, with caps and stubs where runs of a later phase join on."""
    kept = {run.id for run in runs}
    meeting: dict[str, list[Run]] = defaultdict(list)
    for run in project.runs:
        for ref in run.ends:
            if ref in project.point:
                meeting[ref].append(run)
    joints = Joints(project)
    points: list[Point] = []
    stubs: list[Run] = []
    for point in project.points:
        here = [run for run in meeting[point.id] if run.id in kept]
        later = [run for run in meeting[point.id] if run.id not in kept]
        if not here:
            continue
        # The end of what is built; what joins on later comes to the cap.
        if len(here) == 1 and later:
            points.append(point.replaced(end="cap"))
            continue
        points.append(point)
        for run in later:
            end, stub = _stub(project, joints, point, run, here[0])
            points.append(end)
            stubs.append(stub)
    return tuple(points), stubs


def _short(ident: str) -> str:
    """An id that leaves room for more, and is still one of its own."""
    if len(ident) <= LONG:
        return ident
    return f"{ident[: LONG - 9].rstrip('-')}-{zlib.crc32(ident.encode()):08x}"


def _stub(
    project: Project, joints: Joints, at: Point, later: Run, beside: Run
) -> tuple[Point, Run]:
    """A short capped piece of the size of the run that is to come, in its direction.

    It is known by what comes to it and its bore: in every phase the same piece, whatever else is
    left.
    """
    known = f"{_short(later.id)}-{mm(later.diameter)}"
    material = beside.material if is_hose(later) else later.material
    far = later.start if later.end == at.id else later.end
    a, b = position(project, at.id), position(project, far)
    length = math.dist(a, b) or 1.0
    if not is_hose(beside) or not is_hose(later):
        sizes = pipe_sizes_of(material)
    else:
        sizes = pipe_sizes_of("pvc")
    taken = (
        joints.of(later, at.id)
        + sizes.least.at(later.diameter)
        - sizes.joint(later.diameter)
        + 1e-6
    )
    x, y, z = (p + (q - p) / length * max(taken, 0.05) for p, q in zip(a, b, strict=True))
    end = Point(id=fresh_id(project, f"later-{known}"), x=x, y=y, height=z, end="cap")
    stub = Run(
        id=fresh_id(project, f"stub-{known}"),
        start=end.id,
        end=at.id,
        diameter=later.diameter,
        material=sizes.material,
        phase=later.phase,
    )
    return end, stub

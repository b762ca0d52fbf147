"""The other ways in which one part of the ductwork could be made, as changes; `ranking` computes
them.
"""

from __future__ import annotations

from collections.abc import Iterator

from grey_current.design.improve.changes import LONG_RADIUS
from grey_current.shop import edits
from grey_current.shop.catalogue import materials, next_size
from grey_current.shop.duct_graph import branch_segment, runs_at
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.edits import Change, Edit
from grey_current.shop.fitting_edits import GatePlace, with_gate_at
from grey_current.shop.model import Project
from grey_current.spelling import spelled
from grey_current.units import Display

ELBOWS = (
    ("Smooth elbow, radius 1.5 diameters", "smooth", 1.5),
    ("Long-radius elbow, 2.5 diameters", "smooth", LONG_RADIUS),
    ("Short elbow, 1 diameter", "smooth", 1.0),
    ("Two 45s with a straight between", "two 45s", 1.5),
    ("Elbow of five gores", "five gores", 1.5),
    ("Elbow of three gores", "three gores", 1.5),
    ("Mitred elbow", "mitre", 1.5),
)
WYES = ((30.0, "Wye of 30°"), (45.0, "Wye of 45°"), (60.0, "Wye of 60°"), (90.0, "Tee"))
GATE_PLACES: tuple[tuple[GatePlace, str], ...] = (
    ("at the tool", "At the tool"),
    ("at the wye", "At the wye"),
    ("both", "One at each"),
)


def part_changes(project: Project, element: str) -> Iterator[Change]:
    """The other ways to make an element: a point's fittings, a run's size and material, a gate's
    place and bore.
    """
    item = project.find(element)
    if isinstance(item, Point):
        yield from _of_point(project, item)
    elif isinstance(item, Run):
        yield from _of_run(project, item)
    elif isinstance(item, Gate):
        yield from _of_gate(item)


def _set(ident: str, **changes: object) -> Edit:
    return lambda project: edits.changed(project, ident, **changes)


def _of_point(project: Project, point: Point) -> Iterator[Change]:
    meeting = runs_at(project)[point.id]
    rigid = [run for run in meeting if not materials()[run.material].hose]
    # Two ducts meet in an elbow, three or more in wyes.
    if len(meeting) == 2 and len(rigid) == 2:
        for words, elbow, radius in ELBOWS:
            if (elbow, radius) != (point.elbow, point.radius_ratio):
                named = spelled(words, project.settings.units)
                yield Change(named, point.id, _set(point.id, elbow=elbow, radius_ratio=radius))
    if len(meeting) > 2:
        for angle, words in WYES:
            if point.splitter or point.wye_angle != angle:
                yield Change(words, point.id, _set(point.id, wye_angle=angle, splitter=False))
        if not point.splitter:
            yield Change("Splitter box", point.id, _set(point.id, splitter=True))
    if len({run.diameter for run in meeting}) > 1:
        other = "step" if point.reducer == "taper" else "taper"
        words = "Abrupt change of size" if other == "step" else "Tapered change of size"
        yield Change(words, point.id, _set(point.id, reducer=other))


def _of_run(project: Project, run: Run) -> Iterator[Change]:
    display = Display(project.settings.units)
    chain = [
        r for r in branch_segment(project, run.id) if not materials()[project.run[r].material].hose
    ]
    for size in (next_size(project, run.diameter), next_size(project, run.diameter, up=False)):
        if size is not None:
            yield Change(f"{display.diameter(size)} here", run.id, _set(run.id, diameter=size))
            if len(chain) > 1 and run.id in chain:
                yield Change(
                    f"{display.diameter(size)} from wye to wye", run.id, _sized(chain, size)
                )
    hose = materials()[run.material].hose
    for material in materials().values():
        if material.hose == hose and material.name != run.material:
            yield Change(material.label, run.id, _made_of(run.id, material.name))


def _sized(chain: list[str], size: float) -> Edit:
    return lambda project: edits.changed_all(project, chain, diameter=size)


def _made_of(run: str, material: str) -> Edit:
    return lambda project: edits.with_material(project, run, material)


def _of_gate(gate: Gate) -> Iterator[Change]:
    for place, words in GATE_PLACES:
        yield Change(words, gate.id, _placed(gate.id, place))
    if gate.bore == "stepped":
        yield Change("A full-bore gate", gate.id, _set(gate.id, bore="full bore"))
    if gate.leak > 0.001:
        yield Change("A gate with a seal", gate.id, _set(gate.id, leak=0.001))


def _placed(gate: str, place: GatePlace) -> Edit:
    return lambda project: with_gate_at(project, gate, place)

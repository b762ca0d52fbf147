"""Every sensible single change to a shop's air, as functions that make them; `ranking` finds what
each is worth.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property

from grey_current.air import fittings, laws
from grey_current.air import pieces as kinds
from grey_current.air.pieces import Piece
from grey_current.design.flow.assessment import PickupAir, ScenarioAir
from grey_current.design.improve.collector_changes import collector_changes
from grey_current.design.improve.duct_changes import LEAST_MAIN
from grey_current.design.improve.gate_changes import gate_changes
from grey_current.design.parts.buildable import BuildSet, build_set_of
from grey_current.design.parts.connecting import reconnected
from grey_current.design.space.clashes import duct_space
from grey_current.design.space.ground import FloorSpace
from grey_current.shop import edits
from grey_current.shop.catalogue import FITS_OVER, materials, next_size
from grey_current.shop.duct_graph import branch_segment
from grey_current.shop.ducts import Run
from grey_current.shop.edits import Change
from grey_current.shop.hoses import cut_length
from grey_current.shop.machines import FreeArea, Machine, Pickup
from grey_current.shop.model import Project
from grey_current.shop.names import called
from grey_current.shop.places import distance, position
from grey_current.units import Display

WIDER_INTAKE = 1.5
# m; no port is made wider than a 6 in or 150 mm pipe.
MOST_PORT = 0.16
LONG_RADIUS, USUAL_RADIUS = 2.5, 1.5
# Elbows on one way that are tried one by one for a wider radius: those nearest to the machine.
MOST_WIDENED = 4
# m at most by which a machine is moved towards its drop in one step.
NEARER = 0.5
# Degrees by which a machine is turned, and the hose (m) that it must save.
TURNS, LEAST_TURNED = (90.0, 180.0, 270.0), 0.3
# m of way that a hose keeps when its machine is moved nearer.
HANGS = 0.35
# Degrees; a wye that joins at more than this gains by one of 45.
BEND_45 = 50.0


@dataclass(frozen=True)
class _Case:
    """A machine's worst pickup with the way of its air."""

    project: Project
    answer: ScenarioAir
    worst: PickupAir

    @cached_property
    def display(self) -> Display:
        return Display(self.project.settings.units)

    @cached_property
    def pieces(self) -> list[Piece]:
        """What its air passes."""
        network = self.answer.systems[self.worst.collector or ""].network
        return [network.pieces[i] for i in network.path(self.worst.leaf or 0)]


def sensible_changes(project: Project, answer: ScenarioAir, worst: PickupAir) -> Iterator[Change]:
    """Every sensible single change for one machine's worst pickup; what cannot be built is left
    out.
    """
    yield from own_changes(project, answer, worst)
    case = _Case(project, answer, worst)
    mine = {p.source_id for p in case.pieces if isinstance(p, kinds.BlastGate)}
    yield from shared_changes(project, worst.collector or "", mine)


def own_changes(project: Project, answer: ScenarioAir, worst: PickupAir) -> Iterator[Change]:
    """Those of them that are made on the pickup's own way to the collector."""
    case = _Case(project, answer, worst)
    own, main = _own_and_main(case)
    for run in (*own, *main):
        yield from _hose_ideas(project, run, case.display)
    yield from _resized(
        project, [r for r in own if not _hose(r)], "the drop and branch", case.display
    )
    yield from _resized(project, own, "drop, branch and hose", case.display)
    yield from _other_main(case, [r for r in main if not _hose(r)])
    yield from _elbow_ideas(case)
    yield from _wye_ideas(case)
    yield from _gate_ideas(case)
    yield from _machine_ideas(case, own)


def elbow_changes(project: Project, answer: ScenarioAir, worst: PickupAir) -> Iterator[Change]:
    """Other elbows on a pickup's way to the collector."""
    yield from _elbow_ideas(_Case(project, answer, worst))


def shared_changes(project: Project, collector: str, mine: Iterable[str] = ()) -> Iterator[Change]:
    """Changes of a collector, and of gates that draw air beside the machine whose gates are
    `mine`.
    """
    yield from gate_changes(project, set(mine))
    yield from collector_changes(project, collector)


def _own_and_main(case: _Case) -> tuple[list[Run], list[Run]]:
    """Runs that only this machine's air passes, and runs of the main behind the last wye that it
    joins.
    """
    project = case.project
    pieces = case.pieces
    joins = [i for i, piece in enumerate(pieces) if isinstance(piece, kinds.WyeBranch)]
    last = joins[-1] if joins else len(pieces)
    own = dict.fromkeys(p.source_id for p in pieces[:last] if p.source_id in project.run)
    main = dict.fromkeys(p.source_id for p in pieces[last:] if p.source_id in project.run)
    return [project.run[r] for r in own], [project.run[r] for r in main]


def _hose(run: Run) -> bool:
    return materials()[run.material].hose


def _hose_ideas(project: Project, run: Run, display: Display) -> Iterator[Change]:
    if not _hose(run):
        return
    straight = max(distance(project, run, ref) for ref in run.serves)
    short = cut_length(project, straight)
    if run.length and run.length > short * 1.02:
        words = f"Hose {display.about(run.length)} → {display.about(short)}"
        yield Change(words, run.id, lambda p: edits.with_hose_length(p, run.id, short))
    if run.material != "smooth-hose":
        words = f"Smooth bore for {called(project, run.id)}"
        yield Change(words, run.id, lambda p: edits.with_material(p, run.id, "smooth-hose"))


def _resized(
    project: Project, runs: list[Run], what: str, display: Display, *, up: bool = True
) -> Iterator[Change]:
    """The next pipe size, up or down, for the runs that have the commonest diameter."""
    if not runs:
        return
    bore = Counter(run.diameter for run in runs).most_common(1)[0][0]
    size = next_size(project, bore, up=up)
    if size is not None and (up or size >= LEAST_MAIN):
        chosen = [run.id for run in runs if run.diameter == bore]
        words = f"{what[:1].upper()}{what[1:]} {display.diameter(bore)} → {display.diameter(size)}"
        yield Change(words, chosen[0], lambda p: edits.changed_all(p, chosen, diameter=size))


def _other_main(case: _Case, runs: list[Run]) -> Iterator[Change]:
    """The main a size up, which loses less; where there is air enough, a size down, which carries
    chips better.
    """
    yield from _resized(case.project, runs, "the main", case.display)
    if case.worst.met:
        yield from _resized(case.project, runs, "the main", case.display, up=False)


def _points(case: _Case, *wanted: type[Piece]) -> list[str]:
    """Points on the way that have a piece of some kinds."""
    return list(
        dict.fromkeys(
            p.source_id
            for p in case.pieces
            if isinstance(p, wanted) and p.source_id in case.project.point
        )
    )


def _elbow_ideas(case: _Case) -> Iterator[Change]:
    turns = _points(case, kinds.Elbow, kinds.Mitre)
    points = case.project.point
    tight = [t for t in turns if points[t].radius_ratio < LONG_RADIUS or points[t].elbow == "mitre"]
    wider = _with_room(case.project, tight)
    if wider:
        count = len(wider)
        words = f"Long-radius elbows all the way ({count})"
        if len(wider) < len(tight) or min(wider.values()) < LONG_RADIUS:
            words = f"Wider elbows where they have room ({count} of {len(tight)})"
        yield Change(words, next(iter(wider)), lambda p: _with_radii(p, wider))
    # Two 45s lose less than one 90 only where the elbow does not stand too near after another
    # fitting.
    single = [
        t for t in _better_as_45s(case.pieces) if t in points and points[t].elbow != "two 45s"
    ]
    if single:
        words = f"Two 45s in place of each elbow ({len(single)})"
        yield Change(words, single[0], lambda p: edits.changed_all(p, single, elbow="two 45s"))


def _with_room(project: Project, tight: list[str]) -> dict[str, float]:
    """The widest radius (in bores) that each of some elbows has room for where it stands; those
    that have none for a wider one are left out.
    """
    if not tight:
        return {}
    whole = dict.fromkeys(tight, LONG_RADIUS)
    now = build_set_of(project)
    if BuildSet(_with_radii(project, whole), now).troubles <= now.troubles:
        return whole
    found: dict[str, float] = {}
    for ident in tight[:MOST_WIDENED]:
        point = project.point[ident]
        for radius in (LONG_RADIUS, USUAL_RADIUS):
            if point.elbow != "mitre" and radius <= point.radius_ratio:
                break
            # With those before it, for two elbows share the pipe between them.
            made = _with_radii(project, {**found, ident: radius})
            if BuildSet(made, now).troubles <= now.troubles:
                found[ident] = radius
                break
    return found


def _with_radii(project: Project, radii: dict[str, float]) -> Project:
    """The project with smooth elbows of some radii."""
    for radius in set(radii.values()):
        these = [ident for ident, own in radii.items() if own == radius]
        project = edits.changed_all(project, these, elbow="smooth", radius_ratio=radius)
    return project


def _better_as_45s(way: list[Piece]) -> Iterator[str]:
    """Where two halves in place of an elbow lose less than it does, what it loses for standing too
    close counted.
    """
    crowded = {
        p.source_id: p.law.k
        for p in way
        if isinstance(p, kinds.Spacing) and isinstance(p.law, laws.Constant)
    }
    for piece in way:
        if isinstance(piece, kinds.Mitre):
            yield piece.source_id
        elif isinstance(piece, kinds.Elbow) and isinstance(piece.law, laws.Constant):
            form = piece.radius_ratio, piece.friction_factor
            # What a fitting loses for standing too near counts as a share of its own loss, of both
            # halves alike.
            half, more = (
                fittings.elbow(piece.diameter, piece.angle / 2, *form, "smooth"),
                crowded.get(piece.source_id, 0),
            )
            if half * (2 + more / piece.law.k) < piece.law.k + more:
                yield piece.source_id


def _wye_ideas(case: _Case) -> Iterator[Change]:
    steep = [
        p.source_id for p in case.pieces if isinstance(p, kinds.WyeBranch) and p.angle > BEND_45
    ]
    if steep:
        yield Change(
            "Enter the main at 45°", steep[0], lambda p: edits.changed_all(p, steep, wye_angle=45.0)
        )
    boxes = _points(case, kinds.Splitter)
    if boxes:
        yield Change(
            "A wye of 45° for the splitter box",
            boxes[0],
            lambda p: edits.changed_all(p, boxes, splitter=False, wye_angle=45.0),
        )
    ref = f"{case.worst.machine}/{case.worst.pickup}"
    yield Change("Route its branch anew, by the nearest way", ref, lambda p: reconnected(p, ref))


def _gate_ideas(case: _Case) -> Iterator[Change]:
    project = case.project
    mine = {p.source_id for p in case.pieces if isinstance(p, kinds.BlastGate)}
    rough = [g.id for g in project.gates if g.id in mine and g.bore == "stepped"]
    if rough:
        yield Change(
            "A full-bore gate", rough[0], lambda p: edits.changed_all(p, rough, bore="full bore")
        )
    narrow = [g.id for g in project.gates if g.id in mine and g.opening < 1]
    if narrow:
        yield Change(
            "Open its gate all the way",
            narrow[0],
            lambda p: edits.changed_all(p, narrow, opening=1.0),
        )


def nearer_changes(project: Project, answer: ScenarioAir, worst: PickupAir) -> Iterator[Change]:
    """A machine moved towards its duct, or turned so that its port faces it."""
    case = _Case(project, answer, worst)
    ref = f"{worst.machine}/{worst.pickup}"
    hose = next(
        (r for r in project.runs if r.start == ref and _hose(r) and not r.also_serves), None
    )
    if hose is not None:
        yield from _nearer_ideas(case, project.machine[worst.machine], hose)
        yield from _turned_ideas(case, project.machine[worst.machine], hose)


def _machine_ideas(case: _Case, own: list[Run]) -> Iterator[Change]:
    machine = case.project.machine[case.worst.machine]
    yield from _intake_ideas(machine, case.worst.pickup)
    yield from _port_ideas(case, machine)
    hose = next(
        (r for r in own if _hose(r) and r.start.startswith(f"{machine.id}/") and not r.also_serves),
        None,
    )
    if hose is not None:
        yield from _nearer_ideas(case, machine, hose)
        yield from _turned_ideas(case, machine, hose)


def _port_ideas(case: _Case, machine: Machine) -> Iterator[Change]:
    """The port as wide as its pipe, or the next size, with the need that goes with it; a hood that
    leads the air in.
    """
    item = next(p for p in machine.pickups if p.id == case.worst.pickup)
    yield from wider_ports(case.project, f"{machine.id}/{item.id}")
    yield from _led_in(machine, item)


def wider_ports(project: Project, ref: str, usual: float = 0.0) -> Iterator[Change]:
    """A pickup's port, hose and all, in its usual size, as wide as the pipe behind it, and in the
    next size.
    """
    item = project.pickup[ref][1]
    display = Display(project.settings.units)
    pipes = [run.diameter for run in runs_from(project, ref) if not _hose(run)]
    following = next_size(project, item.port + FITS_OVER)
    wanted = (usual, *pipes[:1], *([following] if following is not None else []))
    sizes = list(dict.fromkeys(s for s in wanted if item.port + FITS_OVER < s <= MOST_PORT))
    hose = any(
        _hose(run) and run.diameter < max(sizes, default=0) for run in runs_from(project, ref)
    )
    for wider in sizes:
        what = "Its port and hose" if hose else "Its port"
        words = f"{what} {display.diameter(item.port)} → {display.diameter(wider)}"
        yield Change(words, ref, _with_port(ref, wider))


def _with_port(ref: str, size: float) -> edits.Edit:
    """The port and every narrower hose on it in a size."""

    def edit(project: Project) -> Project:
        hoses = [r.id for r in runs_from(project, ref) if _hose(r) and r.diameter < size]
        if hoses:
            project = edits.changed_all(project, hoses, diameter=size)
        return edits.with_pickup(project, ref, port=size)

    return edit


def runs_from(project: Project, ref: str) -> list[Run]:
    """The runs that a pickup's air passes before any other joins it, outermost first."""
    first = next((run for run in project.runs if ref in run.touches), None)
    if first is None:
        return []
    return [project.run[run] for run in branch_segment(project, first.id)]


def _led_in(machine: Machine, item: Pickup) -> Iterator[Change]:
    if item.opening in ("plain", "flanged") and isinstance(item.intake, FreeArea):
        ref = f"{machine.id}/{item.id}"
        where = f" ({item.name.lower()})" if len(machine.pickups) > 1 else ""
        yield Change(
            f"A tapered hood at its port{where}",
            ref,
            lambda p: edits.with_pickup(p, ref, opening="tapered"),
        )


def _nearer_ideas(case: _Case, machine: Machine, hose: Run) -> Iterator[Change]:
    """The machine moved towards the far end of its hose, and the hose cut to what is left."""
    project, display = case.project, case.display
    here, there = position(project, hose.start), position(project, hose.end)
    dx, dy = there[0] - here[0], there[1] - here[1]
    flat = (dx * dx + dy * dy) ** 0.5
    # Not so near that the hose would hang in a loop.
    step = min(NEARER, flat - HANGS)
    if step < 0.1:
        return

    def change(p: Project) -> Project:
        # Standing in something is allowed only where it stood in it before.
        before = set(duct_space(p).ground.overlaps(p.machine[machine.id]))
        p = edits.moved(p, machine.id, dx / flat * step, dy / flat * step)
        space = FloorSpace(p)
        if set(space.overlaps(p.machine[machine.id])) - before or space.outside(
            p.machine[machine.id]
        ):
            return project
        return edits.with_hose_length(p, hose.id, cut_length(p, distance(p, p.run[hose.id])))

    yield Change(
        f"Move it {display.length(display.tape(step))} towards its drop", machine.id, change
    )


def _turned_ideas(case: _Case, machine: Machine, hose: Run) -> Iterator[Change]:
    """The machine turned where it stands so that its hose gets shorter, and the hose cut."""
    project, display = case.project, case.display
    length = distance(project, hose)
    for degrees in TURNS:
        there = edits.turned(project, [machine.id], degrees)
        won = length - distance(there, there.run[hose.id])
        if won >= LEAST_TURNED:
            words = f"Turn it by {degrees:.0f}°, {display.about(won)} less hose"
            yield Change(words, machine.id, _turned(machine.id, degrees, hose.id))


def _turned(machine: str, degrees: float, hose: str) -> edits.Edit:
    def edit(project: Project) -> Project:
        project = edits.turned(project, [machine], degrees)
        return edits.with_hose_length(
            project, hose, cut_length(project, distance(project, project.run[hose]))
        )

    return edit


def _intake_ideas(machine: Machine, pickup: str) -> Iterator[Change]:
    item = next(p for p in machine.pickups if p.id == pickup)
    if not isinstance(item.intake, FreeArea):
        return
    wider = FreeArea(area=min(item.intake.area * WIDER_INTAKE, 4.0))
    ref = f"{machine.id}/{pickup}"
    where = f" ({item.name.lower()})" if len(machine.pickups) > 1 else ""
    yield Change(
        f"Open its intake by half{where}", ref, lambda p: edits.with_pickup(p, ref, intake=wider)
    )

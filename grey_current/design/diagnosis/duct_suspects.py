"""What is out of the ordinary with ducts: not connected, too narrow, too wide, winding, leaking."""

from __future__ import annotations

from grey_current.air import pieces as kinds
from grey_current.design.collector.small_ports import SMALL
from grey_current.design.collector.system_kinds import own_collector_change
from grey_current.design.diagnosis.cause import Suspect
from grey_current.design.diagnosis.scene import A_VACUUM, Found, Scene, counted
from grey_current.design.improve import changes as ideas
from grey_current.design.improve.duct_changes import (
    capped_ends,
    main_runs,
    main_sizes,
    stepped_main,
)
from grey_current.design.parts.connecting import connected
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop import edits
from grey_current.shop.catalogue import next_size
from grey_current.shop.edits import Change
from grey_current.shop.hoses import cut_length
from grey_current.shop.model import Project
from grey_current.shop.names import capital
from grey_current.shop.places import distance

# A hose this much longer than it is cut, and by so much (m), is too long. Allowance.
LONG_HOSE, LONG_BY = 1.1, 0.1
# A port or an intake narrower than this share of what it should be throttles. Allowance.
NARROW = 0.85
# Degrees that a path turns through before it counts as winding: four square turns. Allowance.
WINDING = 380.0
# What a pickup that nothing leads away from counts for. Allowance: as one that gets no air.
NOT_CONNECTED = 2.5
# And one that a moved hose leaves open: the other hood of its machine works. Allowance.
LEFT_OPEN = 0.2
# Pickups that are connected one by one by the nearest way; each takes some milliseconds.
MOST_CONNECTED = 4


def not_connected(scene: Scene) -> Found:
    """No collector, or pickups that nothing leads away from."""
    project = scene.project
    wanted = [
        f"{machine.id}/{pickup.id}"
        for machine in project.machines
        for pickup in machine.pickups
        if scene.machine in (None, machine.id) and not pickup.bags_itself
    ]
    if wanted and not project.collectors:
        yield Suspect(
            "no-collector",
            (),
            "There is no collector yet",
            (),
            instead="Choose one at the Collector stage.",
            worth=float(len(wanted)),
        )
        return
    without = [ref for ref in wanted if ref not in scene.pickups]
    left = [ref for ref in without if ref in project.moved_to]
    if left:
        yield _left_by_the_hose(scene, left)
    loose = [ref for ref in without if ref not in project.moved_to]
    if not loose:
        return
    says = f"{capital(scene.machine_of(loose[0]))} is not connected"
    if loose[1:]:
        says = f"{counted(len(loose), 'pickup is', 'pickups are')} not connected"
    cures: tuple[Change, ...] = ()
    # Where nothing is drawn yet, or much is missing, ducts are laid by the search over layouts.
    if project.runs and len(loose) <= MOST_CONNECTED:
        words = "Connect it" if len(loose) == 1 else "Connect them by the nearest way"
        cures = (Change(words, loose[0], _all_connected(loose)),)
    # What a moved hose leaves out is mostly too small for it.
    small = all(project.pickup[ref][1].port <= SMALL for ref in loose)
    yield Suspect(
        "not-connected",
        tuple(loose),
        says,
        cures,
        ("not-connected",),
        instead=A_VACUUM if project.runs and small else "Lay the ducts at the Air stage.",
        worth=NOT_CONNECTED * len(loose),
    )


def _left_by_the_hose(scene: Scene, left: list[str]) -> Suspect:
    """Ports that a moved hose leaves open, for it is at another port of their machine."""
    worst, name = left[0], scene.machine_of(left[0])
    says = f"{capital(name)} is open while the moved hose is at another port of its machine"
    if left[1:]:
        ports = counted(len(left), "port is", "ports are")
        says = f"{ports} open while the moved hose is at another port of their machine"
    cure = own_collector_change(scene.project, worst, name)
    return Suspect(
        "left-open",
        tuple(left),
        says,
        (cure,),
        ("left-open",),
        instead="A vacuum or a hose of its own for what is left open.",
        worth=LEFT_OPEN * len(left),
    )


def _all_connected(refs: list[str]) -> edits.Edit:
    def edit(project: Project) -> Project:
        for ref in refs:
            project = connected(project, ref)
        return project

    return edit


def open_ends(scene: Scene) -> Found:
    """Pipe that ends in the open air."""
    entries = [p.source_id for p in scene.now.pieces if isinstance(p, kinds.Entry)]
    ends = tuple(dict.fromkeys(e for e in entries if e in scene.project.point))
    if ends:
        verb = "stands open and draws from the room"
        many = "stand open and draw from the room"
        says = counted(len(ends), f"end of pipe {verb}", f"ends of pipe {many}")
        yield Suspect(
            "open-end", ends, says, tuple(capped_ends(scene.project, ends)), ("open-end",)
        )


# -- ducts


def mains(scene: Scene) -> Found:
    """A main narrower than the collector's inlet, or wider than its air can keep clear."""
    for collector, runs in main_runs(scene.project).items():
        item = scene.project.collector[collector]
        if item not in scene.collectors:
            continue
        bores = [scene.project.run[run].diameter for run in runs]
        if min(bores, default=1.0) < item.duct_inlet - 1e-3:
            narrow = tuple(run for run in runs if scene.project.run[run].diameter == min(bores))
            says = f"The main is only {scene.display.diameter(min(bores))} wide"
            cures = (
                *stepped_main(scene.project, runs, _asked_for(scene)),
                *main_sizes(scene.project, runs, up=True),
            )
            yield Suspect("main-small", narrow, says, cures, ("too-fast",))
        if bores:
            wide = tuple(run for run in runs if scene.project.run[run].diameter == max(bores))
            says = f"The main of {scene.display.diameter(max(bores))} is too wide for its air"
            cures = tuple(main_sizes(scene.project, runs, up=False))
            if cures:
                yield Suspect("main-large", wide, says, cures)


def _asked_for(scene: Scene) -> dict[str, float]:
    """The most air (m³/s) that any machine, all its pickups open, asks for through each run."""
    most: dict[str, float] = {}
    for answer in scene.answers:
        through: dict[str, float] = {}
        for p in answer.pickups:
            ref = f"{p.machine}/{p.pickup}"
            for run in scene.runs_of(ref) if ref in scene.pickups else ():
                through[run] = through.get(run, 0.0) + p.need.airflow
        for run, airflow in through.items():
            most[run] = max(most.get(run, 0.0), airflow)
    return most


def branches(scene: Scene) -> Found:
    """A machine's own pipe narrower than its port."""
    shared = {run for runs in main_runs(scene.project).values() for run in runs}
    for ref in scene.pickups:
        port = scene.project.pickup[ref][1].port
        own = [
            run
            for run in ideas.runs_from(scene.project, ref)
            if run.diameter < NARROW * port and run.id not in shared
        ]
        size = next_size(scene.project, port - 2e-3)
        if own and size is not None:
            ids = tuple(run.id for run in own)
            bore = scene.display.diameter(min(run.diameter for run in own))
            what = "pipe and hose" if any(is_hose(r) for r in own) else "pipe"
            words = f"Its {what} {bore} → {scene.display.diameter(size)}"
            yield Suspect(
                "branch-small",
                ids,
                f"{capital(scene.machine_of(ref))} hangs on {what} of {bore}, less than its port",
                (Change(words, ids[0], _all_sized(ids, size)),),
            )


def _all_sized(runs: tuple[str, ...], size: float) -> edits.Edit:
    return lambda project: edits.changed_all(project, runs, diameter=size)


def hoses(scene: Scene) -> Found:
    """Hoses that are longer than they need to be, and ribbed ones."""
    project, display = scene.project, scene.display
    for run in project.runs:
        if not is_hose(run) or run.id not in scene.passed:
            continue
        straight = max(distance(project, run, ref) for ref in run.serves)
        short = cut_length(project, straight)
        name, slack = capital(scene.names.of(run.id)), run.material == "slack-hose"
        if run.length and run.length > max(LONG_HOSE * short, short + LONG_BY):
            bridges = display.about(straight)
            says = f"{name} is {display.about(run.length)} long for a distance of {bridges}"
            words = f"Cut it to {display.about(short)}" + (" and stretch it" if slack else "")
            cure = Change(words, run.id, _hose_cut(run.id, short, stretched=slack))
            yield Suspect("hose-long", (run.id,), says, (cure,), ("hose-long",))
        elif slack:
            stretched = Change("Stretch it", run.id, _of_material(run.id, "ribbed-hose"))
            yield Suspect("hose-long", (run.id,), f"{name} hangs slack", (stretched,))
        if run.material != "smooth-hose":
            cure = Change("Smooth-bore hose there", run.id, _of_material(run.id, "smooth-hose"))
            yield Suspect("hose-rough", (run.id,), f"{name} is ribbed inside", (cure,))


def _hose_cut(run: str, length: float, *, stretched: bool) -> edits.Edit:
    def edit(project: Project) -> Project:
        if stretched:
            project = edits.with_material(project, run, "ribbed-hose")
        return edits.with_hose_length(project, run, length)

    return edit


def _of_material(run: str, material: str) -> edits.Edit:
    return lambda project: edits.with_material(project, run, material)


def leaking_ducts(scene: Scene) -> Found:
    """Joints that leak."""
    if scene.project.settings.duct_leakage > 0 and scene.project.runs:
        cure = Change(
            "Seal every joint with mastic or foil tape",
            scene.project.runs[0].id,
            lambda p: edits.with_settings(p, duct_leakage=0.0),
        )
        yield Suspect("duct-leak", (), "The joints of the ducts leak", (cure,))


def winding_ways(scene: Scene) -> Found:
    """Paths with more turns than a shop needs."""
    for ref, (answer, p) in scene.pickups.items():
        network = answer.systems[p.collector or ""].network
        path = [network.pieces[i] for i in network.path(p.leaf or 0)]
        turns = [piece for piece in path if isinstance(piece, kinds.Elbow | kinds.Mitre)]
        if sum(piece.angle for piece in turns) > WINDING:
            says = f"The air of {scene.machine_of(ref)} passes {len(turns)} turns"
            cures = tuple(ideas.elbow_changes(scene.project, answer, p))
            elements = tuple(dict.fromkeys(piece.source_id for piece in turns))
            yield Suspect("bends-many", elements, says, cures)

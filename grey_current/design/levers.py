"""What would help most: every sensible single change for one machine, each computed, ranked by what it gains."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from grey_current.design.assess import Assessment, PickupAir, UseAir, assess
from grey_current.design.uses import own_uses
from grey_current.shop import edits
from grey_current.shop.catalogue import catalogue, materials, pipe_sizes
from grey_current.shop.model import FreeArea, Machine, Project, Run, distance
from grey_current.units import Display

Change = Callable[[Project], Project]

SPARE = 1.15
"""Length of a hose over its straight way that still hangs easily. Allowance."""
WIDER_INTAKE = 1.5
LONG_RADIUS = 2.5
LEAST_GAIN = 0.002
"""Share of the need under which a change is not worth a line."""
LOSES = 0.01
"""Share of its need that another machine must lose before it is named."""


@dataclass(frozen=True)
class Lever:
    """One change: in words, on which element, the function that makes it, and what it was worth as computed.

    `gain` is the airflow (m³/s) more at the machine's worst pickup when it runs alone; `met` whether all its
    pickups get their need then; `losers` the machines that lose by it, with what they lose (m³/s).
    """

    words: str
    element: str
    change: Change
    gain: float
    met: bool
    losers: tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class _Idea:
    words: str
    element: str
    change: Change


def levers(now: Assessment, machine: str, wanted: Callable[[], bool] = lambda: True) -> list[Lever]:
    """Changes that would give a machine more air, the most first.

    Parameters
    ----------
    now
        The present answer, each machine running alone.
    machine
        Whose air is to grow.
    wanted
        Asked before each idea; the search stops when it answers False.

    Returns
    -------
    list of Lever
        Each worth at least `LEAST_GAIN` of the need; empty for a machine without a ducted pickup.

    Raises
    ------
    Nothing; an idea that cannot be built is left out.
    """
    answer = now.of_machine.get(machine)
    worst = answer.worst if answer and answer.converged else None
    if answer is None or worst is None:
        return []
    found: list[Lever] = []
    for idea in _ideas(now.project, answer, worst):
        if not wanted():
            return []
        lever = _tried(now, worst, idea)
        if lever is not None and lever.gain >= LEAST_GAIN * worst.need.airflow:
            found.append(lever)
    return sorted(found, key=lambda lever: -lever.gain)


def _tried(now: Assessment, worst: PickupAir, idea: _Idea) -> Lever | None:
    """An idea computed for every machine running alone."""
    changed = idea.change(now.project)
    if changed == now.project:
        return None
    then = assess(changed, own_uses(changed), now)
    answer = then.of_machine[worst.machine]
    if not answer.converged:
        return None
    after = next(p for p in answer.pickups if p.pickup == worst.pickup)
    losers = []
    for other in now.uses:
        was, will = other.worst, then.of(other.use)
        if was is None or will is None or not will.converged or was.machine == worst.machine:
            continue
        same = next((p for p in will.pickups if p.pickup == was.pickup), None)
        if same is not None and was.airflow - same.airflow > LOSES * was.need.airflow:
            losers.append((was.machine, was.airflow - same.airflow))
    met = all(p.met for p in answer.pickups)
    return Lever(idea.words, idea.element, idea.change, after.airflow - worst.airflow, met, tuple(losers))


def _ideas(project: Project, answer: UseAir, worst: PickupAir) -> Iterator[_Idea]:
    own, main = _ways(project, answer, worst)
    display = Display(project.settings.units)
    for run in (*own, *main):
        yield from _hose_ideas(project, run, display)
    yield from _larger(project, [r for r in own if not _hose(r)], "the drop and branch", display)
    yield from _larger(project, own, "drop, branch and hose", display)
    yield from _larger(project, [r for r in main if not _hose(r)], "the main", display)
    yield from _elbow_ideas(project, answer, worst)
    yield from _gate_ideas(project, answer, worst)
    yield from _intake_ideas(project.machine[worst.machine], worst.pickup)
    yield from _collector_ideas(project, worst.collector or "")


def _ways(project: Project, answer: UseAir, worst: PickupAir) -> tuple[list[Run], list[Run]]:
    """Runs that only this machine's air passes, and runs of the main behind the last wye that it joins."""
    network = answer.systems[worst.collector or ""].network
    pieces = [network.pieces[i] for i in network.path(worst.leaf or 0)]
    joins = [i for i, piece in enumerate(pieces) if piece.kind == "wye_branch"]
    last = joins[-1] if joins else len(pieces)
    own = dict.fromkeys(p.of for p in pieces[:last] if p.of in project.run)
    main = dict.fromkeys(p.of for p in pieces[last:] if p.of in project.run)
    return [project.run[r] for r in own], [project.run[r] for r in main]


def _hose(run: Run) -> bool:
    return materials()[run.material].hose


def _hose_ideas(project: Project, run: Run, display: Display) -> Iterator[_Idea]:
    if not _hose(run):
        return
    way = max(distance(project, run, ref) for ref in (run.start, *run.also_serves))
    short = display.tape(way * SPARE)
    if run.length and run.length > short * 1.02:
        words = f"Hose {display.length(run.length)} → {display.length(short)}"
        yield _Idea(words, run.id, lambda p: edits.with_hose_length(p, run.id, short))
    if run.material != "smooth-hose":
        words = f"Smooth-bore hose at '{run.id}'"
        yield _Idea(words, run.id, lambda p: edits.with_material(p, run.id, "smooth-hose"))


def _larger(project: Project, runs: list[Run], what: str, display: Display) -> Iterator[_Idea]:
    """The next pipe size for the runs that have the commonest diameter."""
    if not runs:
        return
    bore = Counter(run.diameter for run in runs).most_common(1)[0][0]
    size = next((s for s in pipe_sizes(project) if s > bore + 1e-3), None)
    if size is None:
        return
    chosen = [run.id for run in runs if run.diameter == bore]

    def change(p: Project) -> Project:
        for ident in chosen:
            p = edits.changed(p, ident, diameter=size)
        return p

    words = f"{what[:1].upper()}{what[1:]} {display.diameter(bore)} → {display.diameter(size)}"
    yield _Idea(words, chosen[0], change)


def _points(project: Project, answer: UseAir, worst: PickupAir, kinds: set[str]) -> list[str]:
    """Points on the way that have a piece of some kinds."""
    network = answer.systems[worst.collector or ""].network
    pieces = (network.pieces[i] for i in network.path(worst.leaf or 0))
    return list(dict.fromkeys(p.of for p in pieces if p.kind in kinds and p.of in project.point))


def _elbow_ideas(project: Project, answer: UseAir, worst: PickupAir) -> Iterator[_Idea]:
    turns = _points(project, answer, worst, {"elbow", "mitre"})
    tight = [t for t in turns if project.point[t].radius_ratio < LONG_RADIUS or project.point[t].elbow == "mitre"]
    if tight:
        words = f"Long-radius elbows all the way ({len(tight)})"
        yield _Idea(words, tight[0], lambda p: _all(p, tight, elbow="smooth", radius_ratio=LONG_RADIUS))


def _all(project: Project, idents: list[str], **changes: object) -> Project:
    for ident in idents:
        project = edits.changed(project, ident, **changes)
    return project


def _gate_ideas(project: Project, answer: UseAir, worst: PickupAir) -> Iterator[_Idea]:
    network = answer.systems[worst.collector or ""].network
    mine = {p.of for p in (network.pieces[i] for i in network.path(worst.leaf or 0)) if p.kind == "gate"}
    strays = [g.id for g in project.gates if g.rule == "left open" and g.id not in mine]
    if strays:
        words = "Shut what is left open: " + ", ".join(f"'{s}'" for s in strays)
        yield _Idea(words, strays[0], lambda p: _all(p, strays, rule="with its machine"))
    leaky = [g.id for g in project.gates if g.leak > 0.001 and g.id not in mine]
    if leaky:
        yield _Idea(f"Gates with seals elsewhere ({len(leaky)})", leaky[0], lambda p: _all(p, leaky, leak=0.001))
    rough = [g.id for g in project.gates if g.id in mine and g.bore == "stepped"]
    if rough:
        yield _Idea("A full-bore gate", rough[0], lambda p: _all(p, rough, bore="full bore"))


def _intake_ideas(machine: Machine, pickup: str) -> Iterator[_Idea]:
    item = next(p for p in machine.pickups if p.id == pickup)
    if not isinstance(item.intake, FreeArea):
        return
    wider = FreeArea(area=min(item.intake.area * WIDER_INTAKE, 4.0))

    def change(p: Project) -> Project:
        pickups = tuple(q.but(intake=wider) if q.id == pickup else q for q in p.machine[machine.id].pickups)
        return edits.changed(p, machine.id, pickups=pickups)

    yield _Idea(f"Open the {item.name.lower()}'s intake by half", f"{machine.id}/{pickup}", change)


def _collector_ideas(project: Project, collector: str) -> Iterator[_Idea]:
    item = project.collector[collector]
    if item.filter.loading > 0:
        clean = item.filter.but(loading=0.0)
        yield _Idea("Clean the filter", collector, lambda p: edits.changed(p, collector, filter=clean))
    larger = _next_larger(item.model)
    if larger is not None:
        yield _Idea(f"Collector: {larger}", collector, lambda p: edits.with_collector(p, collector, larger))


def _next_larger(model: str) -> str | None:
    """The next catalogue model after one, of the same sort: vacuums stay vacuums."""
    models = catalogue().collectors
    names = [m.model for m in models]
    if model not in names:
        return None
    here = names.index(model)
    vacuum = models[here].kind == "vacuum"
    return next((m.model for m in models[here + 1 :] if (m.kind == "vacuum") == vacuum), None)

"""The stages of the work as data, in their order. A new one is one more entry here and in
`desk/stages.py`.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from grey_current.shop.model import Project
from grey_current.shop.places import parts_apart


@dataclass(frozen=True)
class Stage:
    """One stage: its name in code and file, its title, and what is true of it in a project.

    `begun` says whether there is anything of it yet, `things` lists what it holds by id (what N
    steps through), `next_step` is the one next thing to do, from the project and the codes of its
    known findings. `wants_machines`: it has nothing to say while no machine stands.
    """

    name: str
    title: str
    begun: Callable[[Project], bool]
    things: Callable[[Project], list[str]]
    next_step: Callable[[Project, frozenset[str]], str]
    wants_machines: bool = False


def stage(name: str) -> Stage:
    """A stage by its name. Raises `KeyError` for an unknown one."""
    return _BY_NAME[name]


def stepped(things: Sequence[str], now: str | None, step: int) -> str:
    """Return the next thing (`step` 1) or the one before (-1), round and round.

    From nothing, or from what is not among them, a step forward leads to the first one.
    """
    if now in things:
        return things[(things.index(now) + step) % len(things)]
    return things[0 if step > 0 else -1]


# -- Shop


def _shop_things(project: Project) -> list[str]:
    walls = [f"{room.id}/wall-{n + 1}" for room in project.rooms for n in range(len(room.outline))]
    lists = (project.rooms[1:], project.openings, project.features, project.beams, project.outlets)
    for items in lists:
        walls += [item.id for item in items]
    return walls


def _next_in_shop(project: Project, codes: frozenset[str]) -> str:
    del codes
    if not project.openings and not project.machines:
        return (
            "Type the room's length and width on the right; then add doors and posts from "
            "the strip below."
        )
    return (
        "Drag a wall to push it; click one to type its length or split it. Then go on to Machines."
    )


# -- Machines


def _machine_things(project: Project) -> list[str]:
    parked = [f"{m.id}/parked-{n + 1}" for m in project.machines for n in range(len(m.parked))]
    apart = [f"{c.id}/{part}" for c in project.collectors for part, _ in parts_apart(c)]
    return [*project.machine, *project.collector, *apart, *parked]


def _next_in_machines(project: Project, codes: frozenset[str]) -> str:
    del codes
    if not project.machines:
        return "Drag the first machine from the strip below to where it stands."
    return "Drag a machine to move it, R turns it. Its lane shows the longest board it can take."


# -- Collector


def _next_in_collector(project: Project, codes: frozenset[str]) -> str:
    del codes
    if not project.machines:
        return "Machines first: go back to stage 2."
    if not project.collectors:
        return (
            "See what a collector must do, then choose one with its button and drag it to "
            "its place."
        )
    return "Drag it to its place. A button replaces it with another one; undo restores the old one."


# -- Air


def _air_things(project: Project) -> list[str]:
    return [*project.machine, *project.collector, *project.run, *project.gate, *project.point]


def _next_in_air(project: Project, codes: frozenset[str]) -> str:
    if not project.machines:
        return "Machines first: go back to stage 2."
    if not project.collectors:
        return "A collector comes next: stage 3 says what it must do."
    if not project.runs:
        return (
            "Press 'Lay the ducts', or D to draw the main yourself: click the collector, "
            "then each corner."
        )
    if "not-connected" in codes:
        return (
            "Press 'Connect what is not connected', or D and click a machine's port to draw "
            "its branch."
        )
    return "Click a machine's row to switch it on; click anything to see what it costs."


# -- Gates


def _next_in_gates(project: Project, codes: frozenset[str]) -> str:
    del codes
    if not project.gates:
        return "Gates come with the branches: connect a machine to the main at stage 4."
    return (
        "Choose a machine in the rack: the levers show its gates. Click another's lever to "
        "open it for that one too."
    )


# -- Build


def _begun_building(project: Project) -> bool:
    return bool(project.runs)


def _build_things(project: Project) -> list[str]:
    return [*project.collector, *project.run, *project.gate]


def _next_in_build(project: Project, codes: frozenset[str]) -> str:
    plan = project.build
    if not project.runs:
        return "Nothing to build yet: lay the ducts at stage 4."
    if "no-pipe-room" in codes:
        return (
            "First make room where fittings do not fit: click a finding on the right to see where."
        )
    if not plan.prices:
        return (
            "Click a part below to see where it goes and to enter its price, or read a "
            "dealer's prices from CSV."
        )
    if not plan.cut and not plan.mounted:
        return (
            "Tick what is bought; then cut by the bars, and take the papers to the shop (Ctrl+P)."
        )
    return "Tick pieces as they are cut and ducts as they are mounted and sealed."


# -- Work


def _begun_working(project: Project) -> bool:
    return bool(project.work.day)


def _next_in_work(project: Project, codes: frozenset[str]) -> str:
    del codes
    if not project.work.day:
        return (
            "Type a day's jobs on the right, as you would jot them down: saw 20 min, planer "
            "25 walnut, sand 40."
        )
    return (
        "Drag along the day below to see the dust. F11 shows a machine's card full screen; "
        "File, Export has them all."
    )


# -- Keep


def _begun_keeping(project: Project) -> bool:
    return bool(project.keep.readings)


def _keep_things(project: Project) -> list[str]:
    return [*project.machine, *project.run, *project.collector]


def _next_in_keep(project: Project, codes: frozenset[str]) -> str:
    del codes
    if not project.runs:
        return "Nothing to measure yet: lay the ducts at stage 4."
    if project.keep.practising:
        return (
            "Click a duct, machine, gate or the collector: measure there or look, and mend "
            "what you find."
        )
    if project.keep.practice is not None:
        return "See on the right what it was. Another one: Tools, Fault-finding practice."
    if not project.keep.readings:
        return (
            "Take the first reading on the right: where the ring stands on the floor, with "
            "that one machine on."
        )
    return (
        "Bands narrow with every reading. The ring on the floor shows where the next one "
        "helps most."
    )


STAGES: tuple[Stage, ...] = (
    Stage("shop", "Shop", lambda p: bool(p.machines or p.openings), _shop_things, _next_in_shop),
    Stage("machines", "Machines", lambda p: bool(p.machines), _machine_things, _next_in_machines),
    Stage(
        "collector",
        "Collector",
        lambda p: bool(p.collectors),
        lambda p: list(p.collector),
        _next_in_collector,
        wants_machines=True,
    ),
    Stage("air", "Air", lambda p: bool(p.runs), _air_things, _next_in_air, wants_machines=True),
    Stage(
        "gates",
        "Gates",
        lambda p: bool(p.gates),
        lambda p: list(p.gate),
        _next_in_gates,
        wants_machines=True,
    ),
    Stage("build", "Build", _begun_building, _build_things, _next_in_build, wants_machines=True),
    Stage(
        "work",
        "Work",
        _begun_working,
        lambda p: list(p.machine),
        _next_in_work,
        wants_machines=True,
    ),
    Stage("keep", "Keep", _begun_keeping, _keep_things, _next_in_keep, wants_machines=True),
)
_BY_NAME = {entry.name: entry for entry in STAGES}

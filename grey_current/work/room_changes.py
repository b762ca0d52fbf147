"""What one change is worth to the air of a room: cleaners, filters, windows, outdoors, plates,
drawers.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import partial

from grey_current.design.collector.make_up_air import make_up_air
from grey_current.design.flow.assess import assess
from grey_current.design.flow.assessment import Assessment
from grey_current.design.judgement import SAME, judge, worsenings
from grey_current.design.parts.connecting import connected
from grey_current.design.parts.own_drop import connected_to_own_drop
from grey_current.errors import GreyCurrentError
from grey_current.numerals import decimal
from grey_current.shop.edits import Change, changed, with_pickup
from grey_current.shop.machines import Capture, FreeArea, Machine
from grey_current.shop.model import Project
from grey_current.shop.names import pickup_words
from grey_current.shop.pickup_edits import can_have_blade_guard, with_blade_guard, with_new_pickup
from grey_current.shop.work_edits import with_work
from grey_current.shop.work_plan import AirCleaner
from grey_current.work.day import served_by_collectors
from grey_current.work.day_plan import plan_day
from grey_current.work.dust_budget import DustShare, dust_budget
from grey_current.work.materials import aid_kinds
from grey_current.work.room_day import RoomDay, room_day

# Generic cleaners: name, airflow (m³/s), share of fine dust caught in one pass. Allowance.
CLEANER_MODELS = (
    ("Ceiling unit, two filters and a timer", 0.35, 0.7),
    ("Fan with a furnace filter", 0.30, 0.35),
    ("Shop-made blower box", 0.40, 0.55),
)


# The share of the dust from which on a change is worth a line; how many are looked into.
LEAST_LESS, LOOKED_INTO = 0.02, 5


@dataclass(frozen=True)
class RoomChange:
    """A change, the dust over eight hours before and after (mg/m³), and what it costs in words.

    Attributes:
        dust: Whose dust it is with the change; for the best changes only.
    """

    change: Change
    before: float
    after: float
    costs: str = ""
    dust: tuple[DustShare, ...] = ()

    @property
    def less(self) -> float:
        """The share of the dust that it takes away."""
        return 1 - self.after / self.before if self.before > 0 else 0.0


def room_changes(
    now: Assessment, base: RoomDay, should_continue: Callable[[], bool] = lambda: True
) -> list[RoomChange]:
    """What one change would be worth to the air of the worst room of a day, the best first.

    None that is worth little, and none that leaves the shop worse by the one judgement; what gets
    worse on the side is said with what it costs.
    """
    day, room = base.day, base.worst_room
    found: list[tuple[RoomChange, Assessment, RoomDay]] = []
    before = base.dose(room)
    if before <= 0:
        return []
    was = judge(now.counted)
    for change, costs in _ideas(now, base):
        if not should_continue():
            return []
        try:
            then = _with_change(now, change)
            changed_day = room_day(then, plan_day(then, day.jobs, day.order))
            after = changed_day.dose(room)
        except (GreyCurrentError, ValueError):
            continue
        judged = judge(then.counted, was)
        worse = worsenings(then.project, was, judged)
        # Cleaner air that leaves another machine short of it is no advice. A second hood takes air
        # from the first one of its own machine, and the two together still catch more.
        own = then.project.machine.get(change.element)
        mine = (
            own is not None
            and bool(worse)
            and all(
                item.loser is not None and item.loser.partition("/")[0] == own.id for item in worse
            )
        )
        if mine or judged.trouble <= was.trouble + SAME:
            said = (item.words for item in worse)
            made = RoomChange(change, before, after, "; ".join((costs, *said)))
            found.append((made, then, changed_day))
    found.sort(key=lambda item: -item[0].less)
    return [
        replace(made, dust=dust_budget(then, changed_day)) if place < LOOKED_INTO else made
        for place, (made, then, changed_day) in enumerate(found)
        if made.less > LEAST_LESS
    ]


def _with_change(now: Assessment, change: Change) -> Assessment:
    """The air after a change; what moves no air is not computed again."""
    project = change.edit(now.project)
    same = project.replaced(work=now.project.work) == now.project
    return replace(now, project=project) if same else assess(project, (), now)


def _ideas(now: Assessment, found: RoomDay) -> Iterable[tuple[Change, str]]:
    project, room = now.project, found.worst_room
    for name, airflow, caught in CLEANER_MODELS:
        cleaner = AirCleaner(name=name, room=room, airflow=airflow, caught=caught)
        more = (*project.work.cleaners, cleaner)
        yield (
            Change(f"One more cleaner: {name.lower()}", room, _with(cleaners=more)),
            "its filters want changing",
        )
    for number, cleaner in enumerate(project.work.cleaners):
        if cleaner.hours > 0:
            new = tuple(
                c.replaced(hours=0.0) if n == number else c
                for n, c in enumerate(project.work.cleaners)
            )
            yield (
                Change(f"New filters for the {cleaner.name.lower()}", room, _with(cleaners=new)),
                "filters to buy",
            )
    if project.work.seal > 0:
        yield Change("A new seal on the collector's filter", room, _with(seal=0.0)), "a seal to buy"
    yield (
        Change("Open the windows while working", room, _with(windows=project.work.windows + 3)),
        "warmth goes out with it",
    )
    for unit in project.collectors:
        # Each idea with what it costs besides money.
        blown = make_up_air(
            project, unit.replaced(exhausts="outdoors"), now.counted.most_airflow(unit.id), now.air
        )
        if unit.exhausts == "into the shop" and not blown.flue:  # beside a flue it is no advice
            words = f"Let the {unit.name.lower()} blow outdoors"
            yield (
                Change(words, unit.id, _outdoors(unit.id)),
                f"{decimal(blown.heat / 1000, 1)} kW of warmth goes with it",
            )
    piped = served_by_collectors(project)
    used = dict.fromkeys(job.machine for job in found.day.jobs)
    for machine in (name for name in used if name in project.machine):
        yield from _at_the_machine(now, project.machine[machine])
        if machine not in piped and not project.machine[machine].chip_drawer:
            words = f"A drawer under the {project.machine[machine].name.lower()} for its chips"
            yield (
                Change(words, machine, _with_drawer(machine)),
                "a box to make, emptied before it is half full",
            )
        yield from _plates(project.machine[machine])


def _plates(machine: Machine) -> Iterable[tuple[Change, str]]:
    """A plate over half of what is open at each hood."""
    for pickup in machine.pickups:
        if (
            pickup.capture is not None
            and pickup.caught is None
            and isinstance(pickup.intake, FreeArea)
        ):
            ref = f"{machine.id}/{pickup.id}"
            words = f"Close half of the openings at the {pickup_words(machine, pickup)}"
            yield (
                Change(words, ref, _half_closed(ref, pickup.capture, pickup.intake)),
                "a plate to make, off for cleaning",
            )


def _at_the_machine(now: Assessment, machine: Machine) -> Iterable[tuple[Change, str]]:
    """What can be put on a machine whose hoods draw air, and a guard with a port over its blade."""
    name, answer = machine.name.lower(), now.of_machine.get(machine.id)
    if not machine.pickups:
        words = f"A hood behind the work at the {name}, connected"
        hooded = partial(_with_hood, machine=machine.id)
        yield Change(words, machine.id, hooded), "a hood, a branch and a gate"
    if answer is None or not answer.systems:
        return
    for kind in aid_kinds():
        if kind.suits(machine) and kind.aid not in machine.aids:
            words = f"{kind.change} the {name}"
            edit = partial(changed, element=machine.id, aids=(*machine.aids, kind.aid))
            yield Change(words, machine.id, edit), kind.costs
    if can_have_blade_guard(machine):
        words = f"A guard with a port over the blade of the {name}, connected"
        guarded = partial(_with_guard, machine=machine.id)
        yield Change(words, machine.id, guarded), "a guard, and a hose to its drop"


def _with_hood(project: Project, machine: str) -> Project:
    hooded = with_new_pickup(project, machine, "hood")
    (hood,) = hooded.machine[machine].pickups
    return connected(hooded, f"{machine}/{hood.id}")


def _with_guard(project: Project, machine: str) -> Project:
    guarded, ref = with_blade_guard(project, machine)
    return connected_to_own_drop(guarded, ref)


def _outdoors(collector: str) -> Callable[[Project], Project]:
    return lambda project: changed(project, collector, exhausts="outdoors")


def _with_drawer(machine: str) -> Callable[[Project], Project]:
    return lambda project: changed(project, machine, chip_drawer=True)


def _half_closed(ref: str, capture: Capture, intake: FreeArea) -> Callable[[Project], Project]:
    """A plate over half of what is open: less to catch at, and less that the air comes in by."""
    there, by = capture.replaced(area=capture.area / 2), intake.replaced(area=intake.area / 2)
    return lambda project: with_pickup(project, ref, capture=there, intake=by)


def _with(**changes: object) -> Callable[[Project], Project]:
    return lambda project: with_work(project, **changes)

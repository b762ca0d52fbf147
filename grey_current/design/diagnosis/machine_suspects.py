"""What is out of the ordinary with machines: ports, intakes, own fans, what runs together."""

from __future__ import annotations

import math

from grey_current.design.collector.plausible import VACUUM_INLET
from grey_current.design.collector.small_ports import small_ports
from grey_current.design.diagnosis.cause import Suspect
from grey_current.design.diagnosis.scene import A_VACUUM, BESIDE, Found, Scene, counted
from grey_current.design.flow.assess import assess
from grey_current.design.improve import changes as ideas
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop import edits
from grey_current.shop.catalogue import machine_models
from grey_current.shop.edits import Change
from grey_current.shop.fans import CurvePoints, Fan
from grey_current.shop.machines import FreeArea, Machine, Pickup
from grey_current.shop.names import capital
from grey_current.shop.places import distance
from grey_current.spelling import names_alike

# m of way from a port to its duct beyond which a machine stands far. Allowance.
FAR = 1.2
# A port or an intake narrower than this share of what it should be throttles. Allowance.
NARROW = 0.85
# A fan that turns slower than this share of its speed is as good as off.
SLOW_FAN = 0.9


def ports(scene: Scene) -> Found:
    """Ports narrower than such a machine usually has; of a machine unlike any, narrower than the
    pipe behind them.
    """
    for ref in scene.pickups:
        machine, item = scene.project.pickup[ref]
        usual = _usual(machine, item)
        behind = [r for r in ideas.runs_from(scene.project, ref) if not is_hose(r)]
        wide = usual.port if usual is not None else behind[0].diameter if behind else 0.0
        if item.port < NARROW * wide:
            says = (
                f"{capital(scene.machine_of(ref))} has a port of only "
                f"{scene.display.diameter(item.port)}"
            )
            yield Suspect(
                "port-narrow",
                (ref,),
                says,
                tuple(ideas.wider_ports(scene.project, ref, wide)),
                ("throttles", "whistles", "chip-jam"),
                restores=usual is not None,
            )


def _usual(machine: Machine, item: Pickup) -> Pickup | None:
    """The pickup that such a machine has in the catalogue; None for a machine unlike any."""
    for model in machine_models():
        if not names_alike(model.body.kind, machine.kind):
            continue
        for pickup in model.body.pickups:
            if pickup.name == item.name:
                return pickup
    return None


def intakes(scene: Scene) -> Found:
    """Cabinets that let too little air in."""
    for ref in scene.pickups:
        machine, item = scene.project.pickup[ref]
        # Only held against what such a machine usually has: nobody knows an own machine better
        # than its owner.
        usual = _usual(machine, item)
        if not isinstance(item.intake, FreeArea) or usual is None:
            continue
        if isinstance(usual.intake, FreeArea) and item.intake.area < NARROW * usual.intake.area:
            area = usual.intake.area
            words = f"Open its intake to {scene.display.area(area)}"
            says = f"{capital(scene.machine_of(ref))} lets too little air in"
            yield Suspect("intake-small", (ref,), says, (Change(words, ref, _intake(ref, area)),))


def _intake(ref: str, area: float) -> edits.Edit:
    return lambda project: edits.with_pickup(project, ref, intake=FreeArea(area=area))


def own_fans(scene: Scene) -> Found:
    """Machines whose own chip fan stands still, or blows against what the collector draws."""
    for ref in scene.pickups:
        machine, item = scene.project.pickup[ref]
        usual = _usual(machine, item)
        fan = item.own_fan
        if fan is None and usual is not None and usual.own_fan is not None:
            says = f"The {machine.name.lower()}'s own chip fan does not run"
            cure = Change("Let its own chip fan run", ref, _fan(ref, usual.own_fan))
            yield Suspect("own-fan-off", (ref,), says, (cure,))
        if isinstance(fan, CurvePoints) and fan.speed < SLOW_FAN:
            says = (
                f"The {machine.name.lower()}'s own chip fan turns at {fan.speed:.0%} of its speed"
            )
            cure = Change(
                "Let its own chip fan run at full speed", ref, _fan(ref, fan.replaced(speed=1.0))
            )
            yield Suspect("own-fan-off", (ref,), says, (cure,))
        elif fan is not None:
            says = f"The {machine.name.lower()}'s own chip fan holds the collector's air back"
            cure = Change("Take its own chip fan out", ref, _fan(ref, None))
            yield Suspect("own-fan-against", (ref,), says, (cure,))


def _fan(ref: str, fan: Fan | None) -> edits.Edit:
    return lambda project: edits.with_pickup(project, ref, own_fan=fan)


def sets_together(scene: Scene) -> Found:
    """Machines that are run together though the collector bears only one of them."""
    for together in scene.project.settings.together:
        alone = [scene.now.of_machine.get(machine) for machine in together]
        answer = next(
            (a for a in scene.now.answers if set(a.scenario.running) == set(together)), None
        )
        asked = scene.machine is None or scene.machine in together
        if not asked or answer is None or answer.met or len(together) < 2:
            continue
        # One that is short alone too has another cause.
        if not all(each is not None and each.met for each in alone):
            continue
        names = " and ".join(f"the {scene.project.machine[m].name.lower()}" for m in together)
        rest = tuple(each for each in scene.project.settings.together if each != together)
        cure = Change("Run them one after the other", together[0], _run_apart(rest))
        yield Suspect(
            "two-at-once", tuple(together), f"{capital(names)} run at the same time", (cure,)
        )


def _run_apart(rest: tuple[tuple[str, ...], ...]) -> edits.Edit:
    return lambda project: edits.with_settings(project, together=rest)


def many_pickups(scene: Scene) -> Found:
    """Machines whose pickups share too little air: what one of them would get alone."""
    project = scene.project
    for answer in scene.answers:
        short = [p for p in answer.pickups if p.leaf is not None and not p.nearly_met]
        if len(answer.pickups) < 2 or not short:
            continue
        worst = min(short, key=lambda p: p.share)
        ref = f"{worst.machine}/{worst.pickup}"
        others = [f"{p.machine}/{p.pickup}" for p in answer.pickups if p is not worst]
        hoses = [run.id for run in project.runs if run.start in others]
        # As with a gate on each of the others, shut.
        alone = assess(edits.removed(project, hoses), [answer.scenario], scene.now)
        there = alone.of(answer.scenario)
        after = (
            next((p for p in there.pickups if p.pickup == worst.pickup), None) if there else None
        )
        if after is not None and after.airflow > worst.airflow and hoses:
            takes = after.airflow - worst.airflow
            yield Suspect(
                "pickups-many",
                (ref, *others),
                f"The {len(answer.pickups)} pickups of the "
                f"{project.machine[worst.machine].name.lower()} share too little air",
                (),
                instead="A gate on each of them, and open only what the work at hand needs.",
                takes=takes,
                worth=BESIDE * min(takes / worst.need.airflow, 1.0),
            )


def small_ports_on_ducts(scene: Scene) -> Found:
    """Ports so small that a vacuum would serve them better than the duct does."""
    vacuums = {item.id for item in scene.project.collectors if item.inlet < VACUUM_INLET}
    better = [
        port
        for port in small_ports(scene.now)
        if port.ref in scene.pickups
        and port.vacuum_better
        and port.duct is not None
        and scene.pickups[port.ref][1].collector not in vacuums
    ]
    if better:
        takes = math.fsum(port.vacuum - (port.duct or 0.0) for port in better)
        worth = math.fsum((port.vacuum - (port.duct or 0.0)) / port.needed for port in better)
        first = capital(scene.machine_of(better[0].ref))
        says = f"{first} has too small a port for a collector"
        if better[1:]:
            says = f"{counted(len(better), 'port is', 'ports are')} too small for a collector"
        yield Suspect(
            "kind-wrong",
            tuple(port.ref for port in better),
            says,
            (),
            ("small-port",),
            instead=A_VACUUM,
            takes=takes,
            worth=BESIDE * worth,
        )


def far_machines(scene: Scene) -> Found:
    """Machines that a long hose leads to, and that could stand nearer or turn their port to it."""
    for ref, (answer, p) in scene.pickups.items():
        first = next((run for run in scene.project.runs if run.start == ref), None)
        if p.nearly_met or first is None or not is_hose(first):
            continue
        if distance(scene.project, first) > FAR:
            says = f"{capital(scene.machine_of(ref))} stands far from its duct"
            cures = tuple(ideas.nearer_changes(scene.project, answer, p))
            if cures:
                yield Suspect("machine-far", (p.machine,), says, cures)

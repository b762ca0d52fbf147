"""One edit of any kind to a shop, by chance: what a trace, and all that follows from it, must keep
up with."""

import random

from grey_current.design.improve.changes import shared_changes
from grey_current.design.parts.connecting import connected, reconnected
from grey_current.shop import edits
from grey_current.shop.duct_edits import split, with_points_moved
from grey_current.shop.ducts import Gate
from grey_current.shop.fans import Claim
from grey_current.shop.model import Project

BORES = (0.0635, 0.1016, 0.127, 0.1524)


def edited(project: Project, chance: random.Random) -> Project:
    """The project with something changed; unchanged where the chosen kind has nothing to change.

    Raises what the edit raises: many of them cannot be.
    """
    kinds = (
        _point,
        _point,
        _run,
        _gate,
        _machine,
        _collector,
        _taken_away,
        _led_anew,
        _settings,
        _shared,
    )
    return chance.choice(kinds)(project, chance)


def _point(project: Project, chance: random.Random) -> Project:
    point = chance.choice(project.points)
    if chance.random() < 0.4:
        return with_points_moved(
            project, [point.id], chance.uniform(-0.5, 0.5), chance.uniform(-0.5, 0.5)
        )
    name, values = chance.choice(
        [
            ("height", (0.3, 1.2, 2.2)),
            ("elbow", ("smooth", "five gores", "mitre", "two 45s")),
            ("radius_ratio", (1.0, 2.0)),
            ("reducer", ("taper", "step")),
            ("wye_angle", (None, 30.0, 60.0)),
            ("splitter", (True, False)),
            ("end", ("open", "cap")),
            ("pinned", (True, False)),
        ]
    )
    return edits.changed(project, point.id, **{name: chance.choice(values)})


def _run(project: Project, chance: random.Random) -> Project:
    run = chance.choice(project.runs)
    name = chance.choice(["diameter", "material", "length", "split"])
    if name == "split":
        return split(project, run.id, chance.uniform(0.2, 0.8))[0]
    if name == "material":
        return edits.with_material(
            project, run.id, chance.choice(["smooth-hose", "ribbed-hose", "spiral-steel", "pvc"])
        )
    if name == "length":
        return edits.with_hose_length(project, run.id, chance.uniform(0.2, 6))
    return edits.changed(project, run.id, diameter=chance.choice(BORES))


def _gate(project: Project, chance: random.Random) -> Project:
    if not project.gates or chance.random() < 0.4:
        run = chance.choice(project.runs)
        return edits.added(
            project, Gate(id=edits.fresh_id(project, "gate"), run=run.id, at=chance.random())
        )
    gate = chance.choice(project.gates)
    if chance.random() < 0.3:
        return edits.removed(project, [gate.id])
    run = chance.choice(project.runs)
    name, value = chance.choice(
        [("run", run.id), ("at", 0.7), ("rule", "left open"), ("bore", "full bore")]
    )
    return edits.changed(project, gate.id, **{name: value})


def _machine(project: Project, chance: random.Random) -> Project:
    machine = chance.choice(project.machines)
    pickup = chance.choice(machine.pickups)
    kind = chance.choice(["moved", "turned", "port", "own fan", "reversed"])
    if kind == "moved":
        return edits.moved(
            project, machine.id, chance.uniform(-0.5, 0.5), chance.uniform(-0.5, 0.5)
        )
    if kind == "turned":
        return edits.turned(project, [machine.id], 90.0)
    if kind == "reversed":
        return project.replaced(machines=project.machines[::-1])
    if kind == "port":
        return edits.with_pickup(project, f"{machine.id}/{pickup.id}", port=chance.choice(BORES))
    fan = None if pickup.own_fan else Claim(impeller=0.2, free_air=0.2, hertz=60, motor_power=400)
    return edits.with_pickup(project, f"{machine.id}/{pickup.id}", own_fan=fan)


def _collector(project: Project, chance: random.Random) -> Project:
    item = chance.choice(project.collectors)
    if chance.random() < 0.5:
        return edits.moved(project, item.id, chance.uniform(-0.5, 0.5), 0.1)
    return edits.changed(project, item.id, filter=item.filter.replaced(loading=chance.random()))


def _taken_away(project: Project, chance: random.Random) -> Project:
    if chance.random() < 0.7:
        return project
    return edits.removed(project, [chance.choice([*project.run, *project.machine])])


def _led_anew(project: Project, chance: random.Random) -> Project:
    ref = chance.choice(list(project.pickup))
    reached = any(ref in (run.start, run.end) for run in project.runs)
    return reconnected(project, ref) if reached else connected(project, ref)


def _settings(project: Project, chance: random.Random) -> Project:
    if chance.random() < 0.5:
        return edits.with_settings(project, units=chance.choice(["us", "metric"]))
    return edits.with_settings(
        project, **chance.choice([{"altitude": 1500.0}, {"altitude": 0.0}, {"humidity": 0.5}])
    )


def _shared(project: Project, chance: random.Random) -> Project:
    return chance.choice(list(shared_changes(project, chance.choice(project.collectors).id))).edit(
        project
    )

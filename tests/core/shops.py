"""Small shops for tests, made from the demo files or from nothing."""

from __future__ import annotations

import contextlib
import random
from collections.abc import Callable, Iterator, Mapping
from functools import cache

from grey_current.design.parts.connecting import connected
from grey_current.errors import GreyCurrentError
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.catalogue import catalogue, collector_model, machine_models
from grey_current.shop.collectors import Collector
from grey_current.shop.demo_shops import demo_path
from grey_current.shop.duct_edits import drawn_on
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.fans import CurvePoints
from grey_current.shop.machines import FreeArea, Machine, Pickup
from grey_current.shop.model import Project, Settings
from grey_current.shop.room import Room
from grey_current.shop.room_edits import rectangle
from grey_current.workspace.placing import Placeable, place

FAN = CurvePoints(
    points=(
        *((0.0, 2650.0), (0.0855, 2577.9), (0.171, 2381.0), (0.2565, 2068.8)),
        *((0.342, 1646.0), (0.4275, 1115.9), (0.513, 480.8), (0.57, 0.0)),
    )
)
"""The fan of the shops here, whatever the catalogue holds: figures in tests and docs were worked
with it."""


@cache
def demo(name: str = "loft") -> Project:
    return project_file.load(demo_path(name))


def tight_loft() -> Project:
    """The loft with three places that have no room for pipe, and two pieces too short to hold."""
    project = demo()
    project = edits.changed(project, "cyclone", inlet_height=1.65)
    for ident, height in (("riser-foot", 1.65), ("saw-join", 1.676)):
        project = edits.changed(project, ident, height=height)
    for ident in ("planer-top", "planer-foot", "sander-top", "sander-foot"):
        project = edits.changed(project, ident, y=3.932)
    return project


def machine(ident: str, x: float, y: float, port: float = 0.1, **changes) -> Machine:
    pickup = Pickup(id="port", name="Port", height=0.5, port=port, intake=FreeArea(area=0.02))
    return Machine(
        id=ident,
        name=ident.capitalize(),
        kind="Machine",
        x=x,
        y=y,
        width=0.6,
        depth=0.6,
        pickups=(pickup,),
    ).replaced(**changes)


def collector(ident: str = "fan", x: float = 0.0, y: float = 0.0) -> Collector:
    model = collector_model("2 hp single-stage, 6 in inlet")
    kept = {name: getattr(model, name) for name in type(model).model_fields if name != "kind"}
    item = Collector(id=ident, name="Collector", x=x, y=y, **(kept | {"fan": FAN}))
    return item.replaced(inlet_height=0.5, filter=item.filter.replaced(loading=0.0))


def point(ident: str, x: float, y: float, height: float = 0.5, **changes) -> Point:
    return Point(id=ident, x=x, y=y, height=height).replaced(**changes)


def run(ident: str, start: str, end: str, diameter: float = 0.1524, **changes) -> Run:
    return Run(id=ident, start=start, end=end, diameter=diameter, material="spiral-steel").replaced(
        **changes
    )


def shop(machines=(), points=(), runs=(), gates=(), collectors=None, **settings) -> Project:
    return Project(
        name="Test shop",
        settings=Settings(**settings),
        rooms=(Room(outline=((-2, -5), (12, -5), (12, 5), (-2, 5)), ceiling=3.0),),
        machines=tuple(machines),
        points=tuple(points),
        runs=tuple(runs),
        gates=tuple(gates),
        collectors=(collector(),) if collectors is None else tuple(collectors),
    )


def straight_shop(**settings) -> Project:
    """One machine, 4 m of duct, one gate."""
    return shop(
        [machine("saw", 4, 0)],
        [],
        [run("main", "saw/port", "fan")],
        [Gate(id="gate", run="main")],
        **settings,
    )


def hall(count: int) -> Project:
    """So many machines along mains of fifty, each main with a collector of its own."""
    machines, points, runs, gates, fans = [], [], [], [], []
    for number in range(count):
        row, place = divmod(number, 50)
        if place == 0:
            fans.append(collector(f"fan-{row}", 0.0, 1.0 + 4 * row).replaced(inlet=0.2))
        machines.append(machine(f"m{number}", 1.2 * place + 1, 3.0 + 4 * row))
        points.append(point(f"p{number}", 1.2 * place + 1, 1.5 + 4 * row, 2.4))
        runs.append(
            run(f"r{number}", f"p{number}", f"p{number - 1}" if place else f"fan-{row}", 0.2)
        )
        runs.append(run(f"b{number}", f"m{number}/port", f"p{number}", 0.1))
        gates.append(Gate(id=f"g{number}", run=f"b{number}"))
    room = Room(outline=rectangle(-2, -2, 66, 4 * len(fans) + 6), ceiling=3.0)
    return shop(machines, points, runs, gates, fans).replaced(rooms=(room,))


class LazyShops(Mapping[str, Project]):
    """Shops by name, each made when it is first asked for: collecting the tests makes none."""

    def __init__(self, made: Mapping[str, Callable[[], Project]]) -> None:
        self._made = {name: cache(make) for name, make in made.items()}

    def __getitem__(self, name: str) -> Project:
        return self._made[name]()

    def __iter__(self) -> Iterator[str]:
        return iter(self._made)

    def __len__(self) -> int:
        return len(self._made)


@cache
def made_up(seed: int) -> Project:
    """A shop by seed: four walls of some size, a collector, a main in two legs, machines anywhere,
    some connected."""
    chance = random.Random(seed)
    across, deep = chance.uniform(3, 12), chance.uniform(2.5, 8)
    project = demo("empty").replaced(
        rooms=(Room(outline=rectangle(0, 0, across, deep), ceiling=2.5),)
    )
    model = chance.choice(catalogue().collectors)
    project, start = place(
        project, Placeable("collector", model.model, "Collector"), 0.6, deep - 0.6
    )
    for x, y in ((across * 0.5, deep - 0.6), (across * 0.5, 0.5)):
        with contextlib.suppress(GreyCurrentError):
            project, start = drawn_on(project, start, x, y)
    for shelf in chance.sample(machine_models(), chance.randint(1, 8)):
        x, y = chance.uniform(-1, across + 1), chance.uniform(-1, deep + 1)
        project, ident = edits.placed(project, shelf.body, x, y, chance.choice((0.0, 90.0, 33.0)))
        for pickup in project.machine[ident].pickups:
            if chance.random() < 0.7:
                with contextlib.suppress(GreyCurrentError):
                    project = connected(project, f"{ident}/{pickup.id}")
    return project

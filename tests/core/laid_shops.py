"""Shops whose ducts are to be laid, by name and by seed, and what must be true of every layout."""

from __future__ import annotations

import math
import random

from grey_current.design.space.hits import clash_set
from grey_current.shop.catalogue import catalogue, machine_models, materials, new_collector
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.edits import added, placed
from grey_current.shop.laying import LayingChoices
from grey_current.shop.model import Project
from grey_current.shop.places import position
from grey_current.shop.room import Feature, Opening, Room
from grey_current.shop.room_edits import rectangle
from tests.core.shops import demo

CYCLONE = next(m for m in catalogue().collectors if m.model.startswith("3 hp cyclone"))
BY_NAME = {m.body.name: m.body for m in machine_models()}


def without_ducts(project: Project) -> Project:
    return project.replaced(points=(), runs=(), gates=(), kept_designs=())


def bare(outline, ceiling: float = 2.6, **changes) -> Project:
    """Four or more walls and a cyclone in its lower left corner."""
    project = demo("empty").replaced(rooms=(Room(outline=outline, ceiling=ceiling),), **changes)
    return added(project, new_collector(CYCLONE, "cyclone", "Cyclone", 0.6, 0.6))


def with_machines(project: Project, *wanted: tuple[str, float, float, float]) -> Project:
    for name, x, y, turn in wanted:
        project, _ = placed(project, BY_NAME[name], x, y, turn)
    return project


def cellar() -> Project:
    """A long L-shaped cellar with posts in the way, low."""
    ell = ((0, 0), (11, 0), (11, 3), (4, 3), (4, 7), (0, 7))
    project = bare(ell, 2.1)
    posts = [
        Feature(
            id=f"post-{n}",
            name=f"Post {n}",
            kind="post",
            outline=rectangle(2.2 + 2 * n, 1.5, 0.2, 0.2),
        )
        for n in range(1, 4)
    ]
    return with_machines(
        project.replaced(features=tuple(posts)),
        ("Table saw", 6.0, 0.8, 0.0),
        ("Small bandsaw", 9.5, 2.4, 0.0),
        ("12 in planer", 2.0, 6.0, 90.0),
    )


def garage() -> Project:
    """A garage with a roll-up door and a side door that swings in."""
    project = bare(rectangle(0, 0, 6, 6), 2.7)
    doors = (
        Opening(
            id="big",
            name="Garage door",
            kind="roll-up door",
            start=(2.0, 6.0),
            end=(5.0, 6.0),
            head=2.1,
        ),
        Opening(
            id="side",
            name="Side door",
            kind="door",
            start=(6.0, 3.0),
            end=(6.0, 3.9),
            swing="left from start",
        ),
    )
    return with_machines(
        project.replaced(openings=doors),
        ("Table saw", 3.4, 2.4, 0.0),
        ("8 in jointer", 1.2, 4.2, 90.0),
        ("Spindle sander", 5.0, 1.0, 0.0),
    )


def two_rooms(**choices) -> Project:
    """The collector in a small room, a saw in the next one, a wall of 0.15 m between."""
    project = bare(rectangle(0, 0, 2.5, 4)).replaced(
        rooms=(
            Room(outline=rectangle(0, 0, 2.5, 4), ceiling=2.6),
            Room(id="next", name="Next room", outline=rectangle(2.65, 0, 5, 4), ceiling=2.6),
        ),
        laying=LayingChoices(**choices),
    )
    return with_machines(project, ("Table saw", 5.0, 2.0, 0.0))


def many(count: int = 30) -> Project:
    """A large hall with many machines in rows."""
    project = bare(rectangle(0, 0, 16, 11), 3.0)
    names = [
        m.body.name for m in machine_models() if m.body.pickups and not m.body.pickups[0].own_fan
    ]
    places = [(2.6 + 2.2 * (n % 6), 1.6 + 2.0 * (n // 6), 0.0) for n in range(count)]
    return with_machines(
        project, *((names[n % len(names)], *place) for n, place in enumerate(places))
    )


def small(seed: int) -> Project:
    """A small shop by seed: one to three machines with one port each and a collector, nothing
    drawn."""
    chance = random.Random(seed)
    across, deep = chance.uniform(4, 7), chance.uniform(3, 5)
    project = demo("empty").replaced(
        rooms=(Room(outline=rectangle(0, 0, across, deep), ceiling=chance.uniform(2.3, 3)),)
    )
    model = chance.choice([m for m in catalogue().collectors if m.inlet >= 0.12])
    project = added(project, new_collector(model, "fan", "Fan", 0.6, 0.6))
    ports = [m.body for m in machine_models() if len(m.body.pickups) == 1]
    for n in range(chance.randint(1, 3)):
        body = chance.choice(ports)
        place = (across * chance.uniform(0.4, 0.85), deep * (0.2 + 0.3 * n))
        project, _ = placed(project, body, *place, chance.choice((0.0, 90.0)))
    return project


def faults(project: Project, stranded: tuple[str, ...] = ()) -> list[object]:
    """What no layout may have: a duct that narrows on, a wye against the flow, a hit, a pickup that
    was left out."""
    paths, found = AirPaths(project), []
    for run in project.runs:
        after = paths.next_run(run.id)
        if after is None or materials()[run.material].hose or materials()[after.material].hose:
            continue
        if after.diameter < run.diameter - 1e-9:
            found.append(("narrows", run.id, after.id))
        at = paths.down[run.id]
        a, b, c = (
            position(project, p)
            for p in (run.start if run.end == at else run.end, at, paths.down[after.id])
        )
        lengths = math.dist(a, b) * math.dist(b, c)
        turn = sum((q - p) * (r - q) for p, q, r in zip(a, b, c, strict=True)) / lengths
        if turn < (0.4 if len(paths.at[at]) > 2 else -0.01):
            found.append(("against the flow", run.id, after.id))
    found += [hit for hit in clash_set(project).hits if hit.element in project.run]
    reached = {
        end
        for run in project.runs
        if run.id in paths.down
        for end in (run.start, run.end, *run.also_serves)
    }
    return found + [ref for ref in project.pickup if (ref in reached) == (ref in stranded)]

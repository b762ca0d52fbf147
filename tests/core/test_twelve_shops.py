"""Twelve small shops in which things stand under, in, on and over one another: none of that is
blamed, and whatever is pushed where it has no room is."""

from __future__ import annotations

import pytest

from grey_current.design.space.clashes import duct_space
from grey_current.design.space.solids import blocks
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.collectors import Collector
from grey_current.shop.machines import ParkedPlace
from grey_current.shop.places import own_bodies
from grey_current.shop.room import Feature, Room
from grey_current.shop.room_edits import rectangle
from grey_current.shop.stacking import host_of, relation, things, top_of
from tests.core.shops import shop
from tests.core.test_stacking import body, said, saw, thing, vac


def room(wide, deep, ceiling, *items):
    made = shop(collectors=()).replaced(
        rooms=(Room(outline=rectangle(0, 0, wide, deep), ceiling=ceiling),)
    )
    return edits.added(made, *items)


def bench(ident="bench", x=1.0, y=0.4, wide=1.6, **changes):
    return thing(ident, "bench", wide, 0.7, 0.9, 0.8, x=x, y=y, **changes)


def shelf(ident, x, y, top, **changes):
    return thing(ident, "rack", 1.0, 0.5, top, top - 0.04, x=x, y=y, **changes)


def on(ident, host, x, y, bottom, **changes):
    return body(ident, x, y, bottom=bottom, host=host, **changes)


SHOPS = {
    # A cellar under a low ceiling: all along one wall.
    "cellar": lambda: room(
        *(3.2, 2.6, 1.95),
        bench(x=1.0, y=0.4),
        vac(0.6, 0.4, host="bench"),
        on("sander", "bench", 1.5, 0.4, 0.9),
        body("planer", 1.4, 0.35, height=0.6, host="bench"),
        shelf("board", 2.6, 0.3, 0.4),
        on("compressor", "board", 2.6, 0.3, 0.4, height=0.5),
        thing("cupboard", "cupboard", 0.8, 0.3, 1.9, 1.45, x=2.6, y=0.2),
    ),
    # The car comes in: everything at the back, or under the bench.
    "single garage with a car": lambda: room(
        *(2.9, 5.4, 2.3),
        thing("car", "car", 1.7, 3.6, 1.4, 0.0, x=1.0, y=2.0),
        bench(x=1.0, y=5.0),
        vac(0.5, 5.0, host="bench"),
        body("planer", 1.4, 5.0, height=0.6, host="bench"),
        on("drill", "bench", 1.6, 5.0, 0.9, height=0.7),
        thing("cupboard", "cupboard", 0.8, 0.35, 2.2, 1.75, x=1.0, y=5.2),
        thing("air", "air cleaner", 0.7, 0.6, 2.25, 1.95, x=2.4, y=4.8),
    ),
    "shed, 2.4 by 3.6 m": lambda: room(
        *(2.4, 3.6, 2.1),
        bench(x=0.85, y=3.2),
        vac(0.4, 3.2, host="bench"),
        body("shaper", 1.2, 3.2, height=0.7, host="bench"),
        on("lathe", "bench", 1.0, 3.2, 0.9, height=0.4),
        saw(1.2, 1.4, under=0.7),
        body("planer", 1.2, 1.4, height=0.6, host="saw"),
    ),
    "spare room": lambda: room(
        *(3.0, 2.8, 2.4),
        bench(x=1.0, y=0.4, wide=1.8),
        vac(0.5, 0.4, host="bench", bottom=0.1),
        thing("drawers", "cupboard", 0.5, 0.6, 0.7, 0.0, x=1.5, y=0.4, host="bench"),
        on("scroll", "bench", 0.6, 0.4, 0.9),
        on("press", "bench", 1.4, 0.4, 0.9),
        thing("cupboard", "cupboard", 0.8, 0.3, 2.2, 1.6, x=1.0, y=0.2, front=2),
        thing("free", "kept free", 1.4, 1.2, 0.0, 0.0, x=2.1, y=1.9),
    ),
    "no larger than a van": lambda: room(
        *(1.8, 3.2, 1.9),
        bench(x=0.85, y=2.8),
        vac(0.4, 2.8, host="bench"),
        body("toolbox", 1.2, 2.8, height=0.5, host="bench"),
        on("sander", "bench", 0.6, 2.8, 0.9, height=0.4),
        on("router", "bench", 1.2, 2.8, 0.9, height=0.5),
    ),
    # The vacuum is in the outfeed table, the router in the saw's wing.
    "built in": lambda: room(
        *(4.0, 4.0, 2.4),
        saw(2.0, 1.5, right_wing=0.5),
        body("router", 2.5, 1.5, height=0.86, host="saw").replaced(width=0.4, depth=0.5),
        thing("outfeed", "bench", 1.6, 0.8, 0.84, 0.0, x=2.0, y=2.6),
        vac(1.6, 2.6, host="outfeed"),
        body("filterbox", 2.4, 2.6, height=0.6, host="outfeed"),
        thing("cupboard", "cupboard", 1.2, 0.35, 2.1, 1.4, x=2.0, y=1.5),
    ),
    "turning stand": lambda: room(
        *(3.4, 3.0, 2.4),
        body("planer", 1.2, 1.2, height=0.9),
        body("sander", 1.2, 1.2, height=0.9, host="planer", turns=True),
        body("shaper", 1.2, 1.2, height=0.9, host="planer", turns=True),
        bench(x=2.4, y=2.5),
        vac(2.0, 2.5, host="bench"),
        on("drill", "bench", 2.8, 2.5, 0.9),
    ),
    "a wall of shelves": lambda: room(
        *(3.6, 2.4, 2.5),
        shelf("low", 0.8, 0.3, 0.5),
        shelf("middle", 0.8, 0.3, 1.1),
        shelf("high", 0.8, 0.3, 1.55),
        on("compressor", "low", 0.8, 0.3, 0.5, height=0.5).replaced(width=0.4, depth=0.4),
        on("sander", "middle", 0.8, 0.3, 1.1, height=0.4).replaced(width=0.4, depth=0.4),
        vac(0.8, 0.32, bottom=1.55, host="high", depth=0.4, width=0.4),
        body("planer", 0.8, 0.3, height=0.4, host="low").replaced(width=0.4, depth=0.4),
    ),
    # The bucket stands by itself under the bench, the vacuum hangs on the wall.
    "bucket under the bench": lambda: room(
        *(3.0, 3.0, 2.4),
        bench(x=1.4, y=0.4),
        apart_bucket(vac(0.25, 1.6, bottom=1.1), dx=0.95, dy=-1.2),
        on("mitre", "bench", 1.6, 0.4, 0.9),
        body("box", 1.9, 0.4, height=0.6, host="bench"),
        thing("cupboard", "cupboard", 0.9, 0.35, 2.2, 1.6, x=1.4, y=0.2, front=2),
        shelf("rail", 2.6, 2.6, 1.2),
    ),
    "on wheels": lambda: room(
        *(3.6, 3.2, 2.4),
        bench(x=1.0, y=2.8),
        body("planer", 2.6, 0.6, wheels=True, parked=(ParkedPlace(x=0.6, y=2.8),)),
        body("sander", 1.0, 0.6, wheels=True, parked=(ParkedPlace(x=1.4, y=2.8),)),
        on("drill", "bench", 0.6, 2.8, 0.9),
        on("grinder", "bench", 1.3, 2.8, 0.9),
    ),
    "under the stairs": lambda: room(
        *(2.6, 2.0, 2.4),
        thing("post", "post", 0.12, 0.12, None, 0.0, x=2.2, y=1.7),
        bench(x=0.9, y=0.4),
        vac(0.4, 0.4, host="bench"),
        body("planer", 1.3, 0.4, height=0.5, host="bench"),
        on("sander", "bench", 0.5, 0.4, 0.9),
        thing("slab", "heated floor", 0.6, 0.6, 0.0, 0.0, x=2.1, y=0.5),
    ),
    "three high": lambda: room(
        *(2.4, 2.4, 2.6),
        bench(x=1.0, y=0.4),
        on("stand", "bench", 0.6, 0.4, 0.9, height=0.3),
        on("sander", "stand", 0.6, 0.4, 1.2, height=0.4),
        vac(1.4, 0.4, bottom=0.9, host="bench"),
        body("planer", 1.0, 0.4, height=0.6, host="bench"),
        thing("cupboard", "cupboard", 1.4, 0.3, 2.4, 1.75, x=1.0, y=0.2),
    ),
}


def apart_bucket(item: Collector, dx: float, dy: float) -> Collector:
    separator = {
        "kind": "bucket",
        "loss": 900.0,
        "at_airflow": 0.047,
        "apart": {
            "dx": dx,
            "dy": dy,
            "width": 0.35,
            "depth": 0.35,
            "height": 0.6,
            "port": 0.058,
            "inlet_height": 0.6,
        },
    }
    return item.replaced(separator=separator)


def stacked(project):
    """Everything that stands on, under or in something, with its host."""
    found = []
    for item in things(project):
        host = host_of(project, item)
        if host is not None:
            found.append((item, host))
    return found


@pytest.mark.parametrize("name", SHOPS)
def test_nothing_that_has_room_is_blamed(name):
    project = SHOPS[name]()
    notes = {("no-drilling", item.id) for item in (*project.machines, *project.collectors)}
    assert said(project) - notes == set()
    assert project_file.parse(project_file.dump(project), name) == project
    hung = [i for i in things(project) if isinstance(i, Feature) and i.bottom > 0]
    apart = [i for i in project.collectors if len(own_bodies(i)) > 1]
    parked = [m for m in project.machines if m.parked]
    assert len(stacked(project)) + len(hung) + len(apart) + len(parked) >= 4


@pytest.mark.parametrize("name", SHOPS)
def test_what_is_pushed_where_it_has_no_room_is_said(name):
    project = SHOPS[name]()
    for guest, host in stacked(project):
        if getattr(guest, "turns", False) or isinstance(guest, Feature):
            continue
        how = relation(host, guest)
        if how == "on":
            # Sunk into it.
            moves = [{"bottom": guest.bottom - 0.06}]
        else:
            # As high as the host's top and a hand, and half out of what it stands in.
            moves = [{"height": top_of(host) + 0.1 - guest.bottom}]
            moves += [{"x": guest.x + 9.0}]
        for changes in moves:
            made = edits.changed(project, guest.id, **changes)
            ids = {element for _, element in said(made) - said(project)}
            ids |= {item.id for item in own_things(made) if duct_space(made).ground.outside(item)}
            assert ids & {guest.id, host.id, *guests_on(project, guest.id)}, (guest.id, changes)


def own_things(project):
    return (*project.machines, *project.collectors)


def guests_on(project, ident):
    return {item.id for item in things(project) if item.host == ident}


def test_a_bucket_that_meets_the_bench_above_it_is_found():
    project = SHOPS["bucket under the bench"]()
    (item,) = project.collectors
    assert len(blocks(item)) == 2
    tall = item.separator.replaced(apart=item.separator.apart.replaced(height=0.95))
    assert ("overlap", item.id) in said(edits.changed(project, item.id, separator=tall))

"""Things under, in, on and over one another: pairs that go and pairs that do not, and what follows
when the lower one is moved."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current.design.collector.fit import fit
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.space.clashes import duct_space
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hits import clash_set
from grey_current.design.space.outlines import plan
from grey_current.design.space.solids import blocks
from grey_current.errors import DuctworkError, GreyCurrentError, RefusedEdit, ValueRefused
from grey_current.files import project_file
from grey_current.shop import edits, kept_designs
from grey_current.shop.catalogue import collector_model, new_collector
from grey_current.shop.machines import Machine, ParkedPlace
from grey_current.shop.model import Project
from grey_current.shop.places import footprint, position
from grey_current.shop.room import Circuit, Feature, Outlet, Room
from grey_current.shop.room_edits import quarter_turned, rectangle
from grey_current.shop.stacking import (
    bottom_of,
    free_under,
    host_of,
    relation,
    stand_mates,
    things,
    top_of,
)
from grey_current.shop.stacking_edits import stand_choices, stands, with_stand
from grey_current.work.day_plan import plan_day
from grey_current.work.day_text import parse_day
from grey_current.workspace.placing import SHOP_THINGS, Placeable, place
from grey_current.workspace.workspace import Workspace
from tests.core.shops import machine, shop

OUTLET = next(thing for thing in SHOP_THINGS if thing.kind == "outlet")
VACUUM = "Wet/dry vacuum, 2 1/2 in hose"


def thing(ident, kind="bench", wide=1.6, deep=0.7, top=0.9, bottom=0.8, x=3.0, y=2.5, **changes):
    outline = rectangle(x - wide / 2, y - deep / 2, wide, deep)
    return Feature(
        id=ident, name=ident.capitalize(), kind=kind, outline=outline, top=top, bottom=bottom
    ).replaced(**changes)


def vac(x=3.0, y=2.5, **changes):
    item = new_collector(collector_model(VACUUM), "vac", "Vacuum", x, y)
    return item.replaced(service=(), **changes)


def body(ident="tool", x=3.0, y=2.5, height=0.5, **changes) -> Machine:
    """A machine 0.5 m square without a stand."""
    return machine(ident, x, y, width=0.5, depth=0.5, table_height=0.3, height=height, **changes)


def saw(x=3.0, y=2.5, **changes) -> Machine:
    """A saw with a table of 1.6 by 0.7 m, boards going along y."""
    return machine(
        "saw", x, y, width=1.6, depth=0.7, table_height=0.86, height=0.86, feed=90.0, **changes
    )


def room_of(*items, ceiling=2.4):
    project = shop(collectors=()).replaced(
        rooms=(Room(outline=rectangle(0, 0, 6, 5), ceiling=ceiling),)
    )
    return edits.added(project, *items)


def said(project):
    """What is said of things and where they stand: code and element."""
    places = {"overlap", "in-the-air", "under-ceiling", "too-tall", "service-blocked", "walkway"}
    codes = places | {"parked-in", "must-move", "lane-short", "lane-blocked"}
    codes |= {"front-blocked", "hangs-low", "no-drilling", "outlet-hidden"}
    codes |= {"in-clean-zone", "clean-zone-air", "out-of-zone", "lead-short"}
    found = all_findings(project, assess(project))
    return {(f.code, f.element) for f in found if f.code in codes}


BENCH, CLOSED = thing("bench"), thing("bench", bottom=0.0)
CUPBOARD = thing("cupboard", "cupboard", 1.2, 0.35, 2.1, 1.4)
OPEN_SAW = saw(under=0.7)
WINGED = saw(left_wing=0.6)
AIR = ("in-the-air", "tool")
ZONE, DUSTY, NOISY = (
    thing("zone", f"{kind} zone", 1.6, 1.2, 0.0, 0.0) for kind in ("clean", "dusty", "noisy")
)
LANE = {("lane-blocked", "saw")}
TROLLEY = thing("trolley", wheels=True)
POWER = (
    Circuit(id="ring", name="Ring", volts=230, breaker=16),
    Outlet(id="wall", name="Outlet", x=3.0, y=0.0, circuit="ring", height=0.3),
)
SHELF = thing("shelf", "rack", 1.0, 0.6, 0.35, 0.3)
# What stands there, and what is wrong with it: nothing, or codes with their elements.
PAIRS = {
    # -- before what opens: side 0 of a thing is below it on the plan, 2 above
    "machine before drawers": (
        [CLOSED.replaced(front=0), body(y=1.8)],
        {("front-blocked", "bench")},
    ),
    "machine behind drawers": ([CLOSED.replaced(front=0), body(y=3.2)], set()),
    "machine before drawers that open the other way": (
        [CLOSED.replaced(front=2), body(y=1.8)],
        set(),
    ),
    "machine a step before drawers": (
        [CLOSED.replaced(front=0, front_depth=0.4), body(y=1.4)],
        set(),
    ),
    "vacuum under a cupboard's doors": ([CUPBOARD.replaced(front=0), vac(y=2.1)], set()),
    "cyclone before a cupboard's doors": (
        [CUPBOARD.replaced(front=0), vac(y=1.9).replaced(height=1.6, inlet_height=1.0)],
        {("front-blocked", "cupboard")},
    ),
    "drawers to the wall": (
        [CLOSED.replaced(front=0, outline=rectangle(2.2, 0.05, 1.6, 0.7))],
        {("front-blocked", "bench")},
    ),
    # -- areas, and what hangs
    "machine in an area kept free": (
        [thing("area", "kept free", top=0.0, bottom=0.0), body()],
        {("walkway", "area")},
    ),
    "machine beside it": ([thing("area", "kept free", top=0.0, bottom=0.0), body(y=3.2)], set()),
    "vacuum on a heated floor": (
        [thing("slab", "heated floor", top=0.0, bottom=0.0), vac()],
        {("no-drilling", "vac")},
    ),
    "bench on a heated floor": ([thing("slab", "heated floor", top=0.0, bottom=0.0), BENCH], set()),
    "air cleaner at the ceiling": ([thing("air", "air cleaner", top=2.35, bottom=2.05)], set()),
    "air cleaner through the ceiling": (
        [thing("air", "air cleaner", top=2.6, bottom=2.3)],
        {("under-ceiling", "air")},
    ),
    "air cleaner where one walks": (
        [thing("air", "air cleaner", top=2.0, bottom=1.7)],
        {("hangs-low", "air")},
    ),
    "air cleaner over a bench": ([BENCH, thing("air", "air cleaner", top=2.0, bottom=1.7)], set()),
    "cyclone under an air cleaner": (
        [thing("air", "air cleaner", top=2.35, bottom=2.05), vac().replaced(height=1.6)],
        set(),
    ),
    # -- a trolley, and leads
    "machine over a tool trolley": ([TROLLEY, body()], set()),
    "vacuum under a tool trolley": ([TROLLEY, vac(host="trolley")], set()),
    "tall vacuum in a tool trolley": (
        [TROLLEY, vac(host="trolley").replaced(height=1.2)],
        {("overlap", "vac")},
    ),
    "two on a tool trolley, one in the other": (
        [
            TROLLEY,
            body(bottom=0.9, host="trolley"),
            body("mill", x=3.2, bottom=0.9, host="trolley"),
        ],
        {("overlap", "tool"), ("overlap", "mill")},
    ),
    "tool trolley in a lane": ([TROLLEY, saw(y=1.5)], LANE | {("must-move", "saw")}),
    "planer on a tool trolley in a lane": (
        [TROLLEY, body(bottom=0.9, host="trolley"), saw(y=1.5)],
        LANE | {("must-move", "saw")},
    ),
    "planer on a bench in a lane": ([BENCH, body(bottom=0.9, host="bench"), saw(y=1.5)], LANE),
    "lead that reaches": ([*POWER, body(y=1.0, lead=2.0)], set()),
    "lead that does not": ([*POWER, body(y=4.0, lead=2.0)], {("lead-short", "tool")}),
    "lead up to a high outlet": (
        [POWER[0], POWER[1].replaced(height=2.2), body(y=1.0, lead=2.0)],
        {("lead-short", "tool")},
    ),
    "lead of nothing known": ([*POWER, body(y=4.0)], set()),
    "lead of a vacuum": (
        [*POWER, vac(y=4.0).replaced(lead=3.0, circuit="ring")],
        {("lead-short", "vac")},
    ),
    # -- zones
    "sander in a clean zone": ([ZONE, body(cutter="abrasive")], {("in-clean-zone", "tool")}),
    "sander in the room of a clean zone": (
        [ZONE, body(y=4.2, cutter="abrasive")],
        {("clean-zone-air", "zone")},
    ),
    "saw in the room of a clean zone": ([ZONE, body(y=4.2, cutter="blade")], set()),
    "saw out of a dusty zone": ([DUSTY, body(y=4.2, cutter="blade")], set()),
    "sander in a dusty zone": ([DUSTY, body(cutter="abrasive")], set()),
    "sander out of a dusty zone": (
        [DUSTY, body(y=4.2, cutter="abrasive")],
        {("out-of-zone", "tool")},
    ),
    "loud vacuum out of a noisy zone": (
        [NOISY, vac(y=4.2).replaced(noise=88.0)],
        {("out-of-zone", "vac")},
    ),
    "loud vacuum in a noisy zone": ([NOISY, vac().replaced(noise=88.0)], set()),
    "quiet vacuum out of a noisy zone": ([NOISY, vac(y=4.2).replaced(noise=74.0)], set()),
    # -- under
    "vacuum under a bench": ([BENCH, vac()], set()),
    "vacuum under a bench, its lid to the wall": (
        [thing("bench", y=0.4), vac(y=0.4, host="bench").replaced(service=("back", "front"))],
        set(),
    ),
    "vacuum beside the wall, its lid to it": (
        [vac(y=0.4).replaced(service=("front",))],
        {("service-blocked", "vac")},
    ),
    "vacuum shut in under a bench": (
        [
            thing("bench", y=0.4),
            vac(y=0.4, host="bench").replaced(service=("front",)),
            thing("cupboard", "cupboard", 3.0, 0.4, 1.8, 0.0, y=1.0),
            thing("shelves", "cupboard", 0.3, 0.6, 1.8, 0.0, x=2.5, y=0.4),
            thing("press", "cupboard", 0.3, 0.6, 1.8, 0.0, x=3.5, y=0.4),
        ],
        {("service-blocked", "vac")},
    ),
    "vacuum in a closed bench, unsaid": ([CLOSED, vac()], {("overlap", "vac")}),
    "vacuum under a low bench": ([thing("bench", bottom=0.5), vac()], {("overlap", "vac")}),
    "vacuum at a bench's leg": ([BENCH, vac(x=2.4, y=2.4)], {("overlap", "vac")}),
    "half under a bench": ([BENCH, vac(y=2.1)], set()),
    "planer under a bench": ([BENCH, body()], set()),
    "tall machine under a bench": ([BENCH, body(height=0.85)], {("overlap", "tool")}),
    "planer under a saw on legs": ([OPEN_SAW, body()], set()),
    "planer under a saw on a cabinet": ([saw(), body()], {("overlap", "saw"), ("overlap", "tool")}),
    "planer under a saw that is too low": (
        [saw(under=0.4), body()],
        {("overlap", "saw"), ("overlap", "tool")},
    ),
    "vacuum under a saw's wing": ([WINGED, vac(x=2.5)], set()),
    "vacuum under a saw's body": ([WINGED, vac(x=3.2)], {("overlap", "saw")}),
    "vacuum under a cupboard": ([CUPBOARD, vac()], set()),
    "cyclone under a cupboard": (
        [CUPBOARD, vac().replaced(height=1.6, inlet_height=1.0)],
        {("overlap", "vac")},
    ),
    "machine under a bench on wheels": ([BENCH, body(wheels=True)], set()),
    "bench over a bench": ([BENCH, thing("low", top=0.5, bottom=0.4), body(height=0.3)], set()),
    "vacuum under a rack": ([thing("rack", "rack", top=2.0, bottom=0.9), vac()], set()),
    "machine under a low rack": (
        [thing("rack", "rack", top=2.0, bottom=0.4), body()],
        {("overlap", "tool")},
    ),
    # -- on
    "planer on a bench": ([BENCH, body(bottom=0.9, host="bench")], set()),
    "planer on a bench, unsaid": ([BENCH, body(bottom=0.9)], set()),
    "planer sunk into a bench": ([BENCH, body(bottom=0.85)], {("overlap", "tool"), AIR}),
    "planer over a bench": ([BENCH, body(bottom=1.2)], {AIR}),
    "planer on nothing": ([body(bottom=0.5)], {AIR}),
    "planer half beside a bench": ([BENCH, body(x=3.8, bottom=0.9)], set()),
    "planer next to a bench": ([BENCH, body(x=4.1, bottom=0.9)], {AIR}),
    "machine drawn with its bench": ([BENCH, machine("tool", 3, 2.5, table_height=1.1)], set()),
    "two on one bench": ([BENCH, body(x=2.6, bottom=0.9), body("other", x=3.3, bottom=0.9)], set()),
    "two in one place on a bench": (
        [BENCH, body(bottom=0.9), body("other", x=3.2, bottom=0.9)],
        {("overlap", "tool"), ("overlap", "other")},
    ),
    "planer on a saw's wing": ([WINGED, body(x=2.5, bottom=0.86)], set()),
    "compressor on a shelf": ([SHELF, body(bottom=0.35, height=0.4)], set()),
    "vacuum on a shelf": ([SHELF, vac(bottom=0.35)], set()),
    "vacuum on the wall": ([vac(x=0.25, bottom=1.2)], set()),
    "vacuum in mid-air": ([vac(bottom=1.2)], {("in-the-air", "vac")}),
    "vacuum on the wall, too high": ([vac(x=0.25, bottom=1.8)], {("too-tall", "vac")}),
    "tall on a bench under the ceiling": (
        [BENCH, body(bottom=0.9, height=1.6)],
        {("under-ceiling", "tool")},
    ),
    "machine on a machine": ([saw(), body(bottom=0.86)], {("lane-blocked", "saw")}),
    "vacuum on a cyclone": ([vac().replaced(id="low", height=1.0), vac(bottom=1.0)], set()),
    # -- in
    "vacuum in a bench, said": ([CLOSED, vac(host="bench")], set()),
    "vacuum too tall for its bench": (
        [thing("bench", bottom=0.0, top=0.7), vac(host="bench")],
        {("overlap", "vac")},
    ),
    "vacuum out of its bench": ([CLOSED, vac(y=2.1, host="bench")], {("overlap", "vac")}),
    "router in a saw": ([saw(), body(x=2.6, height=0.86, host="saw")], set()),
    "router higher than its saw": (
        [saw(), body(x=2.6, height=0.95, host="saw")],
        {("overlap", "saw"), ("overlap", "tool"), ("lane-blocked", "saw")},
    ),
    "two in one bench": ([CLOSED, vac(x=2.6, host="bench"), body(x=3.4, host="bench")], set()),
    "two in one bench at one place": (
        [CLOSED, vac(host="bench"), body(x=3.2, host="bench")],
        {("overlap", "tool")},
    ),
    # -- over, and the way of boards
    "cupboard over a saw": ([saw(), CUPBOARD], set()),
    "cupboard low over a saw": (
        [saw(), thing("cupboard", "cupboard", 1.2, 0.35, 1.6, 1.0)],
        {("lane-blocked", "saw")},
    ),
    "cupboard in a saw": (
        [saw(), thing("cupboard", "cupboard", 1.2, 0.35, 1.6, 0.7)],
        {("lane-blocked", "saw"), ("overlap", "saw")},
    ),
    "board over a lower bench": ([saw(), thing("bench", y=1.2, top=0.8, bottom=0.7)], set()),
    "board against a higher bench": (
        [saw(), thing("bench", y=1.6, top=1.0, bottom=0.7)],
        {("lane-blocked", "saw")},
    ),
    "board under a cupboard before the saw": (
        [saw(), thing("cupboard", "cupboard", 1.2, 0.35, 2.1, 1.4, y=1.6)],
        set(),
    ),
    "saw on a bench, boards over it": (
        [thing("bench", wide=3, deep=2), saw(bottom=0.9, under=0.0)],
        set(),
    ),
    "post in a bench": ([BENCH, thing("post", "post", 0.15, 0.15, None, 0.0), vac(x=2.6)], set()),
    "collector before a saw": (
        [saw(), vac(y=1.85).replaced(height=1.4, inlet_height=1.0)],
        {("lane-blocked", "saw")},
    ),
    "collector on wheels before a saw": (
        [saw(), vac(y=1.85, wheels=True).replaced(height=1.4, inlet_height=1.0)],
        {("lane-blocked", "saw"), ("must-move", "saw")},
    ),
    "vacuum on wheels in a saw's place": ([saw(), vac(wheels=True)], {("must-move", "saw")}),
    "vacuum in a post": (
        [thing("post", "post", 0.15, 0.15, None, 0.0), vac()],
        {("overlap", "vac")},
    ),
    # -- service, walkways, parked places
    "service under a bench, free before it": ([BENCH, vac().replaced(service=("front",))], set()),
    "service blocked by a machine": (
        [vac().replaced(service=("front",)), body(y=1.8)],
        {("service-blocked", "vac")},
    ),
    "service under a cupboard is no place to stand": (
        [
            thing("cupboard", "cupboard", 1.2, 0.6, 2.1, 1.4, y=1.9),
            vac().replaced(service=("front",)),
        ],
        {("service-blocked", "vac")},
    ),
    "cupboard over a walkway, high": (
        [
            thing("way", "walkway", 1, 2, 0.0, 0.0),
            thing("cupboard", "cupboard", top=2.3, bottom=2.0),
        ],
        set(),
    ),
    "cupboard over a walkway, low": (
        [thing("way", "walkway", 1, 2, 0.0, 0.0), CUPBOARD],
        {("walkway", "way")},
    ),
    "parked under a bench": (
        [BENCH, body(x=1.0, y=1.0, wheels=True, parked=(ParkedPlace(x=3, y=2.5),))],
        set(),
    ),
    "parked in a closed bench": (
        [CLOSED, body(x=1.0, y=1.0, wheels=True, parked=(ParkedPlace(x=3, y=2.5),))],
        {("parked-in", "tool")},
    ),
    "parked under a saw": (
        [OPEN_SAW, body(x=1.0, y=1.0, wheels=True, parked=(ParkedPlace(x=3, y=2.5),))],
        set(),
    ),
    "parked in a saw": (
        [saw(), body(x=1.0, y=1.0, wheels=True, parked=(ParkedPlace(x=3, y=2.5),))],
        {("parked-in", "tool"), ("must-move", "saw")},
    ),
}


@pytest.mark.parametrize("name", PAIRS)
def test_what_goes_is_not_blamed_and_what_does_not_is_said(name):
    items, wrong = PAIRS[name]
    assert said(room_of(*items)) == wrong


def test_the_table_is_long_enough():
    assert len(PAIRS) >= 60


# -- guests follow


def test_what_stands_on_something_goes_with_it_and_comes_down_when_it_goes():
    project = room_of(BENCH, body("low", height=0.3, bottom=0.9, host="bench"), vac(host="bench"))
    project = edits.added(project, body("high", height=0.2, bottom=1.2, host="low"))
    moved = edits.moved(project, "bench", 0.7, -0.4)
    for ident in ("low", "high", "vac"):
        item = moved.element[ident]
        assert (item.x, item.y) == pytest.approx((3.7, 2.1))
    turned = quarter_turned(edits.moved(project, "vac", 0.5, 0.1), "bench")
    assert (turned.collector["vac"].x, turned.collector["vac"].y) == pytest.approx((2.9, 3.0))
    assert turned.machine["low"].turn == pytest.approx(90)
    raised = edits.changed(project, "bench", top=1.0)
    assert [raised.machine[m].bottom for m in ("low", "high")] == pytest.approx([1.0, 1.3])
    assert raised.collector["vac"].bottom == 0
    # Both picked up together: what stands on the bench is moved once.
    both = edits.moved_all(project, ("low", "bench"), 1.0, 0.0)
    assert both.machine["low"].x == pytest.approx(4.0)
    gone = edits.removed(project, ("bench",))
    assert gone.machine["low"].bottom == 0 and gone.machine["low"].host is None
    assert gone.collector["vac"].host is None and gone.machine["high"].host == "low"
    # Dragged off its bench it stands on the floor; back under it, it belongs to it again.
    off = edits.moved(project, "low", 2.0, 0.0)
    assert off.machine["low"].host is None and off.machine["low"].bottom == 0
    assert off.machine["high"].x == pytest.approx(5.0)
    assert edits.moved(off, "low", -2.0, 0.0).machine["low"].host == "bench"


def test_what_is_put_down_over_a_bench_goes_under_it_and_with_it():
    bench = next(t for t in SHOP_THINGS if t.sort == "bench")
    project, ident = place(room_of(), bench, 3.0, 2.5)
    project, vacuum = place(project, Placeable("collector", VACUUM, "Vacuum"), 3.1, 2.5)
    assert project.collector[vacuum].host == ident and said(project) == set()
    # A cupboard on the wall over it does not take it along.
    over = edits.moved(room_of(CUPBOARD, body(x=4.8)), "tool", -1.8, 0.0)
    assert over.machine["tool"].host is None
    gone = edits.moved(project, ident, 0.5, 0.5).collector[vacuum]
    assert (gone.x, gone.y) == pytest.approx((3.6, 3.0))
    cyclone = Placeable("collector", "1 hp single-stage, 4 in inlet", "Collector")
    project, tall = place(room_of(BENCH), cyclone, 3.0, 2.5)
    assert project.collector[tall].host is None and ("overlap", tall) in said(project)


def test_heights_are_over_its_own_foot():
    """A port 0.2 m up on a machine 0.9 m up is 1.1 m up, and a duct at that height ends there."""
    port = body().pickups[0].replaced(height=0.2)
    project = room_of(BENCH, body(bottom=0.9, host="bench", pickups=(port,)), vac(bottom=0.1, x=5))
    assert position(project, f"tool/{port.id}")[2] == pytest.approx(1.1)
    assert position(project, "vac")[2] == pytest.approx(0.1 + project.collector["vac"].inlet_height)


@pytest.mark.parametrize(
    ("items", "how", "says"),
    [
        ([CLOSED, body(height=0.95)], "under:bench", "standing under bench"),
        ([thing("bench", "rack", top=None, bottom=0.0), body()], "on:bench", "up to the ceiling"),
        ([BENCH, body()], "on:tool", "standing on itself"),
        ([BENCH, body()], "beside:bench", "offered"),
        ([BENCH, body()], "on:nothing", "offered"),
    ],
)
def test_what_cannot_stand_so_is_one_sentence(items, how, says):
    with pytest.raises(GreyCurrentError) as problem:
        with_stand(room_of(*items), "tool", how)
    assert says in str(problem.value) and "\n" not in str(problem.value)


def test_bad_hosts_and_heights_are_one_sentence():
    one, two = body("one", host="two"), body("two", x=1.0, host="one")
    for items in ([one, two], [body(host="nobody")]):
        with pytest.raises((DuctworkError, ValueRefused)) as problem:
            room_of(*items)
        assert "\n" not in str(problem.value)
    with pytest.raises(ValueRefused):
        thing("shelf", top=0.3, bottom=0.4)
    with pytest.raises(ValueRefused):
        body(bottom=-0.1)
    project = room_of(BENCH, body("one"), body("two", host="one"))
    with pytest.raises(RefusedEdit, match="on itself"):
        with_stand(project, "one", "on:two")
    # A kept design whose bench is gone since is brought back without it.
    held, ident = kept_designs.kept(room_of(BENCH, body(host="bench")), "With bench")
    back = kept_designs.brought_back(edits.removed(held, ("bench",)), ident)
    assert back.machine["tool"].host is None


def test_a_chosen_stand_makes_room_and_keeps_the_table_where_it_is():
    project = with_stand(room_of(CLOSED, vac()), "vac", "under:bench")
    assert project.element["bench"].bottom == pytest.approx(0.76) and not said(project)
    assert stands(project, project.collector["vac"]) == "under:bench"
    assert dict(stand_choices(project, project.collector["vac"]))["in:bench"] == "in the bench"
    tall = machine("tool", 3.0, 2.5, table_height=1.1, height=1.3)
    on = with_stand(room_of(BENCH, tall), "tool", "on:bench")
    tool = on.machine["tool"]
    assert (tool.bottom, tool.table_height, tool.height) == pytest.approx((0.9, 0.2, 0.4))
    assert (
        position(on, f"tool/{tool.pickups[0].id}")
        == pytest.approx(position(room_of(BENCH, tall), f"tool/{tool.pickups[0].id}"))
        or tool.pickups[0].height == 0.0
    )
    assert with_stand(on, "tool", "floor").machine["tool"].host is None


# -- properties


@st.composite
def stacked(draw):
    """A room with a bench, a saw with wings and a shelf, and three things put at any height in it."""
    items = [BENCH, saw(x=1.2, y=1.0, left_wing=0.4, under=draw(st.sampled_from((0.0, 0.5))))]
    for number in range(3):
        x, y = draw(st.floats(0.6, 5.4)), draw(st.floats(0.6, 4.4))
        high, foot = draw(st.floats(0.1, 1.2)), draw(st.sampled_from((0.0, 0.3, 0.9)))
        items.append(body(f"b{number}", x, y, high, bottom=foot, turn=draw(st.floats(0, 90))))
    return room_of(*items)


@settings(max_examples=60, deadline=None)
@given(stacked())
def test_two_things_overlap_just_where_their_solids_do(project):
    """By a grid of places and heights: what shares none of them is never blamed."""
    space = FloorSpace(project)
    for item in project.machines:
        blamed = set(space.overlaps(item))
        for other in things(project):
            if other.id == item.id:
                continue
            share = max(
                (
                    one.shape.intersection(two.shape).area
                    for one, two in itertools.product(blocks(item), blocks(other))
                    if min(one.top, two.top) - max(one.bottom, two.bottom) > 0.005
                ),
                default=0.0,
            )
            drawn_on = (
                other.id == "bench" and item.bottom == 0 and top_of(other) < item.table_height
            )
            assert (other.id in blamed) == (share > 1e-3 and not drawn_on)
    assert sum(len(space.overlaps(item)) for item in project.machines) == sum(
        hit.kind == "overlap" for hit in clash_set(project).hits
    )


@settings(max_examples=60, deadline=None)
@given(stacked(), st.sampled_from(("b0", "b1", "b2", "saw")), st.floats(-1, 1), st.floats(0, 1.2))
def test_what_an_edit_left_alone_is_as_if_looked_at_anew(project, ident, dx, foot):
    before = clash_set(project)
    assert before.hits is not None
    after = edits.changed(edits.moved(project, ident, dx, 0.3), ident, bottom=foot)
    assert clash_set(after, before).hits == clash_set(after).hits
    again = duct_space(project).with_bodies_of(after, frozenset({ident}))
    assert [(s.ident, s.low, s.high) for s in again.solids] == [
        (s.ident, s.low, s.high) for s in duct_space(after).solids
    ]


@settings(max_examples=80, deadline=None)
@given(stacked(), st.sampled_from(("b0", "b1", "b2")), st.integers(0, 5))
def test_whatever_is_chosen_is_so_and_saved(project, ident, number):
    choices = [value for value, _ in stand_choices(project, project.machine[ident])]
    how = choices[number % len(choices)]
    try:
        made = with_stand(project, ident, how)
    except RefusedEdit:
        return
    item = made.machine[ident]
    if how == "floor":
        assert item.bottom == 0 and item.host is None
    elif how != "height":
        host = host_of(made, item)
        assert host is not None and host.id == how.split(":")[1]
        if how.startswith("on:"):
            assert item.bottom == pytest.approx(top_of(host), abs=1e-4)
            assert relation(host, item) == "on"
        if how.startswith("under:"):
            assert top_of(item) <= free_under(host) + 0.01 and item.bottom == bottom_of(host)
            # Nothing of the host takes its room; a leg at a corner may still stand in it.
            assert not any(
                part.meets(item.bottom, top_of(item))
                and part.shape.area > 0.05
                and part.shape.intersection(plan(footprint(item))).area > 1e-3
                for part in blocks(host)
            )
    assert project_file.parse(project_file.dump(made), "made") == made


def test_a_collector_under_a_bench_has_the_height_that_is_free_there():
    found = fit(room_of(BENCH, vac(host="bench")), vac(host="bench"))
    assert found.by == "bench" and found.spare == pytest.approx(0.05)
    assert fit(room_of(BENCH, vac(x=5.0)), vac(x=5.0)).by == "ceiling"


def test_a_duct_passes_under_a_bench_and_not_through_its_top_or_legs():
    project = room_of(BENCH, thing("closed", bottom=0.0, y=4.0))
    space = duct_space(project)

    def met(x, y, height):
        line = ((x, y - 0.8, height), (x, y + 0.8, height), 0.1)
        return {solid.ident for solid, _ in space.passed(*line)}

    assert met(3.0, 2.5, 0.4) == set() and met(3.0, 2.5, 0.85) == {"bench"}
    assert met(2.24, 2.5, 0.4) == {"bench"} and met(3.0, 2.5, 1.1) == set()
    assert met(3.0, 4.0, 0.4) == {"closed"}


# -- turning stands


def on_one_stand(**changes) -> Project:
    """A planer and a sander on one turning stand, with a bench beside it and boards along y."""
    planer = machine("planer", 3.0, 2.5, width=0.6, depth=0.6, feed=90.0, table_height=0.8)
    sander = machine("sander", 3.0, 2.5, width=0.5, depth=0.5, table_height=0.9, height=1.3)
    return with_stand(room_of(planer, sander.replaced(**changes)), "sander", "turn:planer")


def test_of_two_on_a_turning_stand_one_is_up_at_a_time():
    project = on_one_stand(x=3.1, y=2.6, turn=30.0)
    sander = project.machine["sander"]
    assert (sander.x, sander.y, sander.turn, sander.host) == (3.0, 2.5, 0.0, "planer")
    assert stands(project, sander) == "turn:planer" and said(project) == set()
    assert stand_mates(project, "planer") == {"sander"}
    space = FloorSpace(project)
    assert {b.ident for b in space.bodies()} == {"planer"}
    assert {b.ident for b in space.bodies("sander")} == {"sander"}
    # The planer's boards pass over the sander, which is turned down, and both go with the stand.
    assert space.lane(project.machine["planer"]).longest > 2
    moved = edits.moved(project, "planer", 1.0, 0.5)
    assert (moved.machine["sander"].x, moved.machine["sander"].y) == pytest.approx((4.0, 3.0))
    off = edits.moved(project, "sander", 2.0, 0.0)
    assert not off.machine["sander"].turns and off.machine["sander"].host is None
    alone = edits.removed(project, ("planer",)).machine["sander"]
    assert not alone.turns and alone.host is None
    assert said(edits.changed(project, "sander", host=None, turns=False)) == {
        ("overlap", "planer"),
        ("overlap", "sander"),
        ("lane-blocked", "planer"),
    }
    before = clash_set(project)
    assert before.hits is not None
    apart = edits.changed(project, "sander", turns=False)
    assert clash_set(apart, before).hits == clash_set(apart).hits


def test_turning_the_stand_is_part_of_the_day():
    project = edits.changed(on_one_stand(), "planer", turn_over=25.0)
    jobs = parse_day("planer 20, sander 20, planer 10", project)
    day = plan_day(assess(project), jobs)
    assert day.stands_turned == 2
    turns = [step for step in day.steps if "stand over" in step.words]
    assert [step.seconds for step in turns] == [25.0, 25.0]
    assert turns[0].words == "Turn the stand over for the sander"


def test_a_sockets_height_is_judged_at_once_in_the_window_too():
    project, _ = place(
        room_of(CLOSED.replaced(outline=rectangle(2.2, 0.05, 1.6, 0.7))), OUTLET, 3, 0
    )
    workspace = Workspace(project)
    (outlet,) = workspace.project.outlets

    def hidden():
        workspace.computed.find()
        return "outlet-hidden" in {f.code for f in workspace.computed.known_findings}

    assert not hidden()
    workspace.edit("Lower", lambda p: edits.changed(p, outlet.id, height=0.3))
    assert hidden()
    workspace.edit("Raise", lambda p: edits.changed(p, outlet.id, height=1.2))
    assert not hidden()

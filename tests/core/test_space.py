"""Room to work: hand-worked rooms, properties, and a fixture whose faults the command line must
name."""

import math
from typing import Any

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current import cli
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.judgement import judge, worsenings
from grey_current.design.laying.places import where_to_stand
from grey_current.design.laying.proposals import propose
from grey_current.design.space.gate_reach import gate_seconds
from grey_current.design.space.good_places import free_places, wall_place
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.lanes import REACH
from grey_current.design.space.outlines import passage, plan, swing_outline, track_outline
from grey_current.errors import RefusedEdit
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.catalogue import catalogue, collector_model, machine_models, new_collector
from grey_current.shop.ducts import Gate, Point, Run
from grey_current.shop.machines import Machine, ParkedPlace
from grey_current.shop.pickup_edits import with_new_pickup
from grey_current.shop.places import footprint, middle_of
from grey_current.shop.roofs import ceiling_at, volume
from grey_current.shop.room import Beam, Feature, Opening, Room, area
from grey_current.shop.room_edits import rectangle
from grey_current.shop.templates import TEMPLATES, template_shop
from grey_current.units import Display
from grey_current.workspace.first_shop import WORKS, body_of
from grey_current.workspace.placing import ALONG_WALLS, SHOP_THINGS, Placeable, place_well, sized
from tests.core import laid_shops
from tests.core.shops import demo, machine, point, run, shop


def saw(ident="saw", x=3.0, y=2.0, **changes) -> Machine:
    return Machine(
        id=ident,
        name=ident.capitalize(),
        kind="Saw",
        x=x,
        y=y,
        width=0.8,
        depth=0.6,
        feed=90.0,
        lane_width=0.4,
    ).replaced(**changes)


def room_of(machines=(), features=(), openings=(), across=6.0, deep=5.0, **wishes):
    """One rectangular room, 6 by 5 m unless said otherwise, with some things in it."""
    project = shop(machines, collectors=(), **wishes)
    room = Room(outline=rectangle(0, 0, across, deep), ceiling=2.5)
    return project.replaced(rooms=(room,), features=tuple(features), openings=tuple(openings))


def box(ident, kind, x, y, wide, deep, top=None) -> Feature:
    return Feature(
        id=ident, name=ident.capitalize(), kind=kind, outline=rectangle(x, y, wide, deep), top=top
    )


def lane_of(project, ident="saw", **how):
    return FloorSpace(project).lane(project.machine[ident], **how)


def codes(project) -> set[tuple[str, str]]:
    return {(f.code, f.element) for f in all_findings(project, assess(project))}


LANES = [
    # what stands there, free before, free after, longest, what ends it
    ("an empty room", {}, 2.0, 3.0, 2.0, "wall"),
    (
        "a post ahead",
        {"features": [box("post", "post", 2.9, 4.0, 0.2, 0.2)]},
        2.0,
        2.0,
        2.0,
        "wall",
    ),
    (
        "a post close behind",
        {"features": [box("post", "post", 2.9, 0.9, 0.2, 0.2)]},
        0.9,
        3.0,
        0.9,
        "post",
    ),
    (
        "a post beside the lane",
        {"features": [box("post", "post", 3.3, 1.0, 0.2, 0.2)]},
        2.0,
        3.0,
        2.0,
        "wall",
    ),
    (
        "a lower bench",
        {"features": [box("bench", "bench", 2.5, 3.5, 1, 1, 0.80)]},
        2.0,
        3.0,
        2.0,
        "wall",
    ),
    (
        "a higher bench",
        {"features": [box("bench", "bench", 2.5, 3.5, 1, 1, 0.95)]},
        2.0,
        1.5,
        1.5,
        "bench",
    ),
    (
        "a lower table ahead",
        {"machines": [saw(), saw("low", 3, 4, table_height=0.8)]},
        2.0,
        3.0,
        2.0,
        "wall",
    ),
    (
        "a higher machine ahead",
        {"machines": [saw(), saw("tall", 3, 4, height=1.8)]},
        2.0,
        1.7,
        1.7,
        "tall",
    ),
]


@pytest.mark.parametrize(
    ("name", "stands", "before", "after", "longest", "ends"), LANES, ids=[r[0] for r in LANES]
)
def test_longest_board_in_hand_worked_rooms(name, stands, before, after, longest, ends):
    lane = lane_of(room_of(**{"machines": [saw()], **stands}))
    assert (lane.before, lane.after, lane.longest) == pytest.approx(
        (before, after, longest), abs=1e-6
    )
    assert lane.stopper == ends


def test_an_open_door_lengthens_a_lane_and_a_low_or_narrow_one_does_not():
    door = Opening(id="door", name="Door", kind="roll-up door", start=(2, 5), end=(4, 5), head=2.1)
    assert lane_of(room_of([saw()], openings=[door])).after == REACH
    assert lane_of(room_of([saw()], openings=[door])).through == ("door",)
    for closed in (
        door.replaced(feeds=False),
        door.replaced(head=0.5),
        door.replaced(start=(2.9, 5), end=(3.1, 5)),
        door.replaced(sill=1.0),
    ):
        assert lane_of(room_of([saw()], openings=[closed])).after == pytest.approx(3.0, abs=0.13)


def test_a_board_goes_on_through_a_doorway_into_the_next_room():
    doorway = Opening(id="way", name="Way", kind="doorway", start=(2.5, 5), end=(3.5, 5))
    project = room_of([saw()], openings=[doorway])
    next_door = Room(id="next", name="Next", outline=rectangle(2, 5, 2, 3), ceiling=2.4)
    assert lane_of(project.replaced(rooms=(*project.rooms, next_door))).after == pytest.approx(
        6.0, abs=1e-6
    )


def test_a_mitre_saw_needs_room_on_both_sides_together_and_a_sheet_needs_width():
    project = room_of([saw(feed=0.0, feeds_across=True)])
    assert lane_of(project).longest == pytest.approx(6.0)
    wide = room_of(
        [saw(y=2.5, takes_sheets=True)], [box("post", "post", 3.6, 4, 0.1, 0.1)], across=9, deep=5
    )
    assert FloorSpace(wide).widest_sheet(wide.machine["saw"]) == pytest.approx(1.2, abs=0.02)
    short = room_of([saw(takes_sheets=True)])
    assert FloorSpace(short).widest_sheet(short.machine["saw"]) == 0


def test_machines_on_wheels_are_judged_where_they_stand_when_another_runs():
    cart = saw("cart", 3, 4, height=1.2, wheels=True)
    in_the_way = room_of([saw(), cart])
    assert FloorSpace(in_the_way).must_move(in_the_way.machine["saw"]) == ["cart"]
    assert lane_of(in_the_way).longest == pytest.approx(1.7)
    assert ("must-move", "saw") in codes(
        in_the_way.replaced(machines=(saw(y=1.0), cart.replaced(y=1.9)))
    )
    parked = room_of([saw(), cart.replaced(parked=(ParkedPlace(x=0.5, y=0.5),))])
    assert lane_of(parked).longest == pytest.approx(2.0)
    assert FloorSpace(parked).must_move(parked.machine["saw"]) == []
    assert lane_of(parked, "cart").start == (3, 4)


@settings(max_examples=30, deadline=None)
@given(
    st.floats(-50, 50),
    st.floats(-50, 50),
    st.floats(0, 360),
    st.floats(0.6, 5.4),
    st.floats(0.6, 4.4),
)
def test_moving_everything_changes_nothing_and_an_obstacle_never_helps(dx, dy, feed, px, py):
    project = room_of([saw(feed=round(feed, 1))], [box("bench", "bench", 0.2, 0.2, 0.8, 0.8, 1.0)])
    here = lane_of(project)
    away = edits.moved_all(project, ("saw", "bench", "room"), dx, dy)
    there = lane_of(away)
    assert (there.before, there.after) == pytest.approx((here.before, here.after), abs=1e-3)
    more = lane_of(
        project.replaced(features=(*project.features, box("post", "post", px, py, 0.1, 0.1)))
    )
    assert more.before <= here.before + 1e-9
    assert more.after <= here.after + 1e-9


def test_a_short_lane_says_how_far_to_move_the_machine():
    project = room_of([saw(y=1.5)], longest_board=2.0)
    lane = FloorSpace(project).lane(project.machines[0])
    said = next(f for f in all_findings(project, assess(project)) if f.code == "lane-short")
    assert said.remedies == (
        f"Moved {Display('us').length(Display('us').tape(abs(lane.before - lane.after) / 2))} along its lane it would.",
    )


def with_port(machine):
    """A room with a machine whose port tilts."""
    project = with_new_pickup(room_of([machine]), machine.id, "port")
    return edits.with_pickup(project, f"{machine.id}/port", tilts=True)


FAULTS = [
    ("in-the-wall", room_of([saw(x=0.2)])),
    ("overlap", room_of([saw(), saw("other", 3.3, 2.0)])),
    ("lane-blocked", room_of([saw(y=0.5)])),
    ("lane-short", room_of([saw()], longest_board=2.44)),
    ("service-blocked", room_of([saw(x=0.5, service=("left",))])),
    ("service-blocked", room_of([saw(service=("front",)), saw("other", 3, 1.2)])),
    (
        "service-blocked",
        room_of([saw(x=0.5, y=0.9)]).replaced(
            collectors=(
                new_collector(
                    collector_model("2 hp single-stage, 6 in inlet"), "fan", "Fan", 0.6, 1.9
                ),
            )
        ),
    ),
    ("near-heat", room_of([saw()], [box("heater", "heater", 3.9, 2, 0.5, 0.3)])),
    ("near-grille", room_of([saw()], [box("grille", "return-air grille", 3.9, 2, 0.5, 0.3)])),
    ("walkway", room_of([saw()], [box("way", "walkway", 2.8, 1.5, 1, 1, 0)])),
    ("walkway", room_of([saw()], [box("hatch", "hatch", 2.8, 1.5, 1, 1, 0)])),
    ("walkway", room_of([saw()], [box("stair", "stair", 2.8, 1.5, 1, 1, 2.0)])),
    ("under-ceiling", room_of([saw(height=2.6)])),
    (
        "under-ceiling",
        room_of([saw(height=2.0)]).replaced(
            beams=(Beam(id="b", start=(3, 0), end=(3, 5), width=0.2, underside=1.9),)
        ),
    ),
    ("parked-in", room_of([saw(wheels=True, parked=(ParkedPlace(x=5.9, y=2.0),))])),
    (
        "parked-in",
        room_of(
            [
                saw(wheels=True, parked=(ParkedPlace(x=1, y=1), ParkedPlace(x=5, y=4))),
                saw("other", 5.2, 4.0),
            ]
        ),
    ),
    (
        "parked-in",
        room_of(
            [
                saw(i, 3, y, wheels=True, parked=(ParkedPlace(x=1, y=1),))
                for i, y in (("a", 2), ("b", 4))
            ]
        ),
    ),
    ("tilts", with_port(saw())),
    (
        "door-blocked",
        room_of(
            [saw(x=1.0, y=0.4)],
            openings=[
                Opening(
                    id="door",
                    name="Door",
                    kind="door",
                    start=(0.6, 0),
                    end=(1.5, 0),
                    swing="left from start",
                )
            ],
        ),
    ),
    (
        "door-tracks",
        room_of(
            [saw(y=4.0, height=2.3)],
            openings=[
                Opening(
                    id="door", name="Door", kind="roll-up door", start=(2, 5), end=(4, 5), head=2.1
                )
            ],
        ),
    ),
]


@pytest.mark.parametrize(("code", "project"), FAULTS)
def test_faults_are_found_and_a_roomy_shop_has_none(code, project):
    found = all_findings(project, assess(project))
    assert code in {f.code for f in found}
    assert all(f.message.endswith(".") and project.find(f.element) is not None for f in found)
    assert {code for code, _ in codes(room_of([saw()]))} == {"no-pickup"}


def test_a_bench_machine_may_stand_on_a_bench():
    bench = box("bench", "bench", 2.5, 1.5, 1, 1, 0.9)
    assert ("overlap", "saw") not in codes(room_of([saw(table_height=1.05)], [bench]))
    assert ("overlap", "saw") in codes(room_of([saw(table_height=0.8)], [bench]))


def test_areas_volumes_and_sloped_ceilings():
    ell = ((0, 0), (6, 0), (6, 2), (3, 2), (3, 4), (0, 4))
    assert area(ell) == pytest.approx(18) and area(ell[::-1]) == pytest.approx(-18)
    room = Room(outline=rectangle(0, 0, 6, 4), ceiling=2.0, far_ceiling=3.0, slopes_along="y")
    assert volume(room) == pytest.approx(60)
    assert [ceiling_at(room, (1, y)) for y in (0, 2, 4, 9)] == pytest.approx([2.0, 2.5, 3.0, 3.0])
    assert volume(Room(outline=ell, ceiling=2.5)) == pytest.approx(45)


def test_swings_and_tracks_cover_the_right_ground():
    door = Opening(id="d", name="D", kind="door", start=(1, 0), end=(2, 0), swing="left from start")
    for swing, y, hinge in [
        ("left from start", 1, (1, 0)),
        ("left from end", 1, (2, 0)),
        ("right from end", -1, (2, 0)),
    ]:
        swept = swing_outline(door.replaced(swing=swing))
        assert (
            swept[0] == hinge
            and max(p[1] * y for p in swept) == pytest.approx(1)
            and min(p[1] * y for p in swept) > -1e-9
        )
        assert abs(area(tuple(swept))) == pytest.approx(math.pi / 4, rel=0.02)
    roll = Opening(id="r", name="R", kind="roll-up door", start=(2, 5), end=(4, 5), head=2.1)
    assert {round(p[1], 3) for p in track_outline(roll, (3, 2))} == {5.0, 2.9}


def test_the_command_line_names_what_is_wrong_with_the_space(tmp_path, capsys):
    project = room_of(
        [saw(y=0.5), saw("planer", 5.4, 3.0, service=("right",))],
        [box("heater", "heater", 4.3, 3.6, 0.3, 0.3)],
    )
    path = tmp_path / "cramped.greycurrent.json"
    project_file.save(project, path)
    assert cli.main(["check", str(path)]) == 1
    out = capsys.readouterr().out
    assert "Saw: infeed ends after" in out
    assert "Planer: its right must stay free for service, but the wall is in the way." in out
    assert "from the heater. Dust burns." in out


@pytest.mark.parametrize(
    ("x", "height", "through"),
    [(8.0, 1.0, True), (5.9, 1.0, False), (8.0, 2.2, False), (6.0, 1.0, False)],
)
def test_a_duct_that_leaves_by_the_wall_is_said_and_one_by_a_window_is_not(x, height, through):
    window = Opening(
        id="light", name="Light", kind="window", start=(6, 1.5), end=(6, 2.5), sill=1.9, head=2.4
    )
    ends = (point("in", 3, 2, height), point("out", x, 2, height))
    project = room_of(openings=[window]).replaced(points=ends, runs=(run("duct", "in", "out"),))
    assert (("through-wall", "duct") in codes(project)) == through


@pytest.mark.parametrize("degrees", [0, 30, 90, 200])
@pytest.mark.parametrize(("gap", "through"), [(0.0, 0.12), (0.25, 0.37), (0.7, 0.12)])
def test_a_hole_in_a_wall_reaches_through_the_next_rooms_wall_where_that_is_close(
    degrees, gap, through
):
    """A door 1 m wide in the upper wall of a room, with another room's wall so far (m) above it:
    0.12 m beyond that."""
    turn = math.radians(degrees)

    def at(x, y):
        return 3 + x * math.cos(turn) - y * math.sin(turn), 2 + x * math.sin(turn) + y * math.cos(
            turn
        )

    def room(low, high):
        return Room(
            id=f"room-{high}",
            outline=tuple(at(*c) for c in ((0, low), (4, low), (4, high), (0, high))),
            ceiling=2.5,
        )

    door = Opening(id="door", name="Door", kind="door", start=at(1, 3), end=at(2, 3))
    ground = passage(door, [room(0, 3), room(3 + gap, 6)])
    assert ground.area == pytest.approx(0.12 + through, abs=1e-5)
    for x, y, inside in (
        (1.5, 3 + through - 0.01, True),
        (1.5, 3 + through + 0.01, False),
        (1.5, 2.89, True),
        (2.1, 3, False),
    ):
        assert ground.contains(shapely.Point(at(x, y))) == inside


# -- put in by search


@pytest.mark.parametrize("system", ["us", "metric"])
@pytest.mark.parametrize("name", ["empty", "loft", "allotment"])
def test_what_is_put_in_stands_free_and_hinders_nobody(name, system):
    """Whatever of the strips is put in, one after the other: nothing in a wall or in another thing,
    doors beside one another, and no board of what stood there is stopped earlier than before.
    """
    project = edits.with_settings(demo(name), units=system)
    things = [sized(t, system) for t in SHOP_THINGS if t.kind in ("opening", "feature")]
    bodies = [model.body for model in machine_models()[::4]]
    things += [Placeable("machine", body.name, body.name, body=body) for body in bodies]
    things += [Placeable("collector", catalogue().collectors[0].model, "Collector")]
    for thing in things[:9] + things[-8:]:
        space = FloorSpace(project)
        lanes = {m.id: space.lane(m) for m in project.machines if m.feed is not None}
        try:
            after, ident = place_well(project, thing, *middle_of(project.rooms[0].outline))
        except RefusedEdit:
            assert thing.kind == "opening"
            continue
        now = FloorSpace(after)
        item = after.element[ident]
        if isinstance(item, Machine) and free_places(project, space.free_ground, item):
            assert not now.outside(item) and not now.overlaps(item), (name, ident)
            stands_in_a_lane = space.lane_ground.intersects(plan(footprint(item)))
            for machine, lane in lanes.items():
                longest = now.lane(after.machine[machine]).longest
                assert stands_in_a_lane or longest >= lane.longest - 0.01
        if isinstance(item, Opening):
            for other in project.openings:
                far = math.dist(
                    middle_of([item.start, item.end]), middle_of([other.start, other.end])
                )
                wide = math.dist(item.start, item.end) + math.dist(other.start, other.end)
                assert far >= wide / 2
        place = wall_place(project, thing.width, thing.depth, (0.0, 0.0))
        if isinstance(item, Feature) and item.kind in ALONG_WALLS and place is not None:
            assert plan(item.outline).distance(plan(project.rooms[0].outline).boundary) < 0.06
        project = after


def test_a_first_collector_is_put_along_a_wall_where_its_ducts_are_short():
    project = laid_shops.garage().replaced(collectors=())
    thing = Placeable("collector", "3 hp cyclone, 15 in impeller", "Cyclone")
    after, ident = place_well(project, thing, *middle_of(project.rooms[0].outline))
    item = after.collector[ident]
    assert plan(footprint(item)).distance(plan(project.rooms[0].outline).boundary) < 0.3
    best = where_to_stand(after, ident).places[0]
    served = propose(after, most=1).proposals[0]
    assert served.served[0] >= best.proposal.served[0] - 1


@pytest.mark.parametrize(
    ("height", "y", "says"),
    [
        (1.3, 1.5, "1.25 m up over open floor, 4.00 m in all: low enough to hit your head"),
        (0.05, 1.5, "over open floor, 4.00 m in all: a trip hazard"),
        (2.0, 1.5, ""),
        (1.3, 0.15, ""),  # along the wall
        (-0.2, 1.5, ""),  # under the floor
    ],
)
def test_a_level_duct_is_low_only_over_floor_that_people_walk_on(height, y, says):
    """Worked by hand: 4 m of 100 mm pipe, 1 m from both end walls of a room of 6 by 3 m."""
    project = laid_shops.bare(rectangle(0, 0, 6, 3))
    fan = new_collector(collector_model("3 hp cyclone, 15 in impeller"), "fan", "Fan", 5.5, 2.5)
    ends = [Point(id=name, x=x, y=y, height=height) for name, x in (("a", 1.0), ("b", 5.0))]
    duct = Run(id="duct", start="a", end="b", diameter=0.1, material="spiral-steel")
    inlet = Run(id="inlet", start="b", end="fan", diameter=0.1, material="ribbed-hose", length=3.0)
    project = edits.added(project, fan, *ends, duct, inlet)
    found = [f for f in all_findings(project, assess(project)) if f.code == "low-duct"]
    assert [f.message.endswith(f"{says}.") for f in found] == ([True] if says else [])


@pytest.mark.parametrize(
    ("height", "gate", "codes", "fetching"),
    [
        (2.3, 0.5, {"gate-reach"}, True),  # out of the way, its lever too
        (1.7, 0.1, {"low-duct"}, False),
        (1.3, 0.1, {"low-duct", "over-table"}, False),
        (1.3, 0.5, {"low-duct", "over-table", "gate-reach"}, True),  # over the saw one leans
    ],
)
def test_what_is_in_peoples_way_is_said_and_judged(height, gate, codes, fetching):
    """Worked by hand: 4 m of 100 mm pipe over a saw of 1.6 m, whose table is 0.85 m high."""
    project = laid_shops.bare(rectangle(0, 0, 6, 3))
    fan = new_collector(collector_model("3 hp cyclone, 15 in impeller"), "fan", "Fan", 5.5, 2.5)
    item = machine("saw", 3.0, 1.5, width=1.6, depth=1.6, feed=90.0, uses_per_week=10.0)
    ends = [Point(id=name, x=x, y=1.5, height=height) for name, x in (("a", 1.0), ("b", 5.0))]
    duct = Run(id="duct", start="a", end="b", diameter=0.1, material="spiral-steel")
    hoses = [
        Run(id="inlet", start="b", end="fan", diameter=0.1, material="ribbed-hose", length=3.0),
        Run(id="hose", start="saw/port", end="a", diameter=0.1, material="ribbed-hose", length=3.0),
    ]
    blast = Gate(id="gate", run="duct", at=gate)
    project = edits.added(project, item, fan, *ends, duct, *hoses, blast)
    asked = {"low-duct", "over-table", "gate-reach"}
    found = {f.code: f for f in all_findings(project, assess(project))}
    assert found.keys() & asked == codes
    judged = judge(assess(project))
    # 2.4 m of it are over open floor, 1.6 m over the saw.
    low = ("low-duct" in codes) * 2.4 + ("over-table" in codes) * 1.6
    assert judged.low == pytest.approx(low, abs=0.8 * bool(low))
    assert judged.fetching == pytest.approx(10 * 2 * 15 / 60 if fetching else 0.0)
    assert gate_seconds(project)["gate"] == (21.0 if fetching else 6.0)
    # A bench is worked at like a table; one that is put away is not.
    bench: dict[str, Any] = {
        "id": "bench",
        "name": "Bench",
        "kind": "bench",
        "outline": rectangle(2.2, 0.7, 3.8, 2.3),
        "top": 0.85,
    }
    bare = edits.removed(project, ["saw", "hose"])
    for away in (False, True):
        benched = edits.added(bare, Feature(**bench, away=away, wheels=away))
        over = [f for f in all_findings(benched, assess(benched)) if f.code == "over-table"]
        assert len(over) == ("over-table" in codes and not away)
    plain = edits.removed(project, ["gate", "duct", "inlet", "hose", "a", "b"])
    words = [w.words for w in worsenings(project, judge(assess(plain)), judged)]
    assert any("in people's way" in w for w in words) == bool(low)
    assert any("reaching gates takes about 5 min more" in w for w in words) == fetching


@pytest.mark.parametrize("units", ["metric", "us"])
@pytest.mark.parametrize("template", TEMPLATES, ids=lambda template: template.name)
def test_the_guides_machines_stand_where_their_boards_have_room(template, units):
    """For every kind of work; in the smallest rooms a lane may be short, but nothing overlaps."""
    small = template.name not in {"double-garage", "barn"}
    for work in WORKS.values():
        project = template_shop(template.name, units)
        for name in work.machines:
            thing = sized(Placeable("machine", name, name, body=body_of(name)), units)
            project = place_well(project, thing, *middle_of(project.rooms[0].outline))[0]
        found = [f for f in all_findings(project, assess(project)) if f.severity != "note"]
        short = {"lane-blocked", "service-blocked"} if small else set()
        assert {f.code for f in found} <= {"not-connected"} | short

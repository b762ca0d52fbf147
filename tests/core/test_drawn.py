"""What is drawn is what is judged: rooms, beams and openings as edited, branches and hoses round
what stands there."""

import math
import random

import ezdxf.filemanagement
import pytest

from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.judgement import judge, worsenings
from grey_current.design.parts.connecting import connected
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hits import clash_set
from grey_current.errors import GreyCurrentError
from grey_current.files import underlay
from grey_current.shop import edits, room_edits
from grey_current.shop.catalogue import catalogue
from grey_current.shop.collector_edits import with_collector
from grey_current.shop.corner_edits import squared, with_corner_at, without_corner
from grey_current.shop.ducts import Gate
from grey_current.shop.places import distance, position
from grey_current.shop.room import Beam, Feature, Opening, Outlet, Room, area
from grey_current.shop.room_edits import rectangle
from grey_current.shop.slides import with_gate_along, with_gate_slid, with_run_moved
from grey_current.shop.typed_places import along_wall, measured, with_along_wall, with_measured
from grey_current.shop.underlays import with_underlay, with_underlay_moved, with_underlay_wide
from grey_current.workspace.placing import Placeable, place
from tests.core.shops import demo, machine, point, run, shop
from tests.core.test_routing import with_main
from tests.core.test_space import box, lane_of, room_of, saw

DOOR = Opening(id="door", name="Door", kind="door", start=(2.0, 0.0), end=(3.0, 0.0))


def codes(project):
    return {(f.code, f.element) for f in all_findings(project, assess(project))}


# -- rooms and what is in their walls


def test_a_corner_goes_anywhere_and_doors_keep_their_share_of_the_wall():
    project = room_of(openings=[DOOR]).replaced(outlets=())
    slanted = with_corner_at(project, "room", 1, (7.0, -1.0))
    assert slanted.rooms[0].outline[1] == (7.0, -1.0) and area(slanted.rooms[0].outline) > 30
    door = slanted.openings[0]
    assert math.dist(door.start, door.end) == pytest.approx(1.0, abs=1e-3)
    middle = [(p + q) / 2 for p, q in zip(door.start, door.end, strict=True)]
    assert middle == pytest.approx([7 * 2.5 / 6, -1 * 2.5 / 6], abs=1e-3)
    assert with_corner_at(slanted, "room", 1, (6.0, 0.0)) == project
    assert squared(slanted.rooms[0].outline, 1, (6.05, -0.06), 0.1) == (6.0, 0.0)
    split = room_edits.with_wall_split(project, "room", 0)
    joined = without_corner(split, "room", 1)
    assert joined == project


CORNERS_REFUSED = [
    (1, (-1.0, 3.0), "cross"),
    (1, (6.0, 5.0), "another corner"),
    (1, (1e4, 0.0), "200"),
]


@pytest.mark.parametrize(("corner", "where", "says"), CORNERS_REFUSED)
def test_a_corner_that_cannot_be_there_is_refused(corner, where, says):
    with pytest.raises(GreyCurrentError, match=says):
        with_corner_at(room_of(), "room", corner, where)
    triangle = room_of().replaced(rooms=(Room(outline=((0, 0), (4, 0), (0, 4)), ceiling=2.5),))
    with pytest.raises(GreyCurrentError, match="three"):
        without_corner(triangle, "room", 0)


def test_a_room_takes_its_own_doors_with_it_and_leaves_shared_ones():
    second = Room(id="second", name="Second", outline=rectangle(6, 0, 3, 5), ceiling=2.5)
    own = DOOR.replaced(id="own", start=(7.0, 0.0), end=(8.0, 0.0))
    shared = DOOR.replaced(id="shared", start=(6.0, 2.0), end=(6.0, 3.0))
    project = room_of(openings=[DOOR, own, shared])
    project = project.replaced(rooms=(*project.rooms, second))
    project = edits.moved(project, "second", 1.0, 0.5)
    assert project.element["own"].start == (8.0, 0.5)
    assert project.element["shared"] == shared and project.element["door"] == DOOR


OPENINGS_REFUSED = [
    (lambda p: room_edits.with_opening_width(p, "door", 0.0), "50 mm"),
    (lambda p: room_edits.with_opening_heights(p, "door", sill=2.74), "sill"),
    (lambda p: room_edits.with_opening_heights(p, "door", head=2.9), "ceiling"),
    (lambda p: room_edits.with_beam_turned(p, "beam", length=0.0), "beam"),
]


@pytest.mark.parametrize(("change", "says"), OPENINGS_REFUSED)
def test_openings_and_beams_that_cannot_be_are_refused(change, says):
    beam = Beam(id="beam", start=(0, 2), end=(6, 2), width=0.15, underside=2.2)
    project = room_of(openings=[DOOR]).replaced(beams=(beam,))
    with pytest.raises(GreyCurrentError, match=says):
        edits.made(project, change, "Change it")


def test_a_beam_reaches_from_wall_to_wall_and_each_end_can_be_moved():
    ell = room_edits.with_wall_pushed(
        room_edits.with_wall_split(demo("empty"), "room", 2), "room", 2, -1.5
    )
    made, ident = place(ell, Placeable("beam", "beam", "Beam", 0.15, 0.0, 2.2), 4.5, 1.0)
    assert sorted((made.element[ident].start, made.element[ident].end)) == [(4.5, 0), (4.5, 2.5)]
    turned = room_edits.with_beam_turned(made, ident, length=2.0, degrees=45.0)
    start, end = turned.element[ident].start, turned.element[ident].end
    assert math.dist(start, end) == pytest.approx(2.0, abs=1e-3) and end[0] - start[
        0
    ] == pytest.approx(2**0.5, abs=1e-3)
    dragged = edits.moved(turned, f"{ident}/end-2", 0.5, 0.0)
    assert dragged.element[ident].start == start and dragged.element[ident].end[0] == pytest.approx(
        end[0] + 0.5
    )


# -- typed places

MEASURED = [
    "saw",
    "fan",
    "post",
    "second",
    "socket",
    "joint",
    "saw/parked-1",
    "room/corner-2",
    "beam/end-1",
]


@pytest.mark.parametrize("ref", MEASURED)
def test_anything_goes_where_its_place_is_typed(ref):
    project = room_of(
        [saw(parked=({"x": 5, "y": 4, "turn": 90},), wheels=True)],
        [box("post", "post", 4, 3, 0.2, 0.2)],
    )
    second = Room(id="second", name="Second", outline=rectangle(8, 0, 3, 5), ceiling=2.5)
    beam = Beam(id="beam", start=(0, 2), end=(6, 2), width=0.15, underside=2.2)
    kept = edits.added(project, *shop().collectors, point("joint", 1, 1), second, beam)
    project = edits.added(kept, demo("loft").circuits[0])
    project = edits.added(
        project, Outlet(id="socket", name="Socket", x=0, y=1, circuit=project.circuits[0].id)
    )
    project = project.replaced(rooms=(project.rooms[0], *project.rooms[1:]))
    moved = with_measured(project, ref, left=2.5)
    there = measured(moved, ref)
    assert there == pytest.approx((2.5, measured(project, ref)[1]))
    assert measured(with_measured(moved, ref, low=0.75), ref) == pytest.approx((2.5, 0.75))
    assert (
        measured(project, "saw/port") is None and with_measured(project, "nothing", 1.0) == project
    )


def test_a_door_is_put_by_its_distance_from_the_corner():
    project = room_of(openings=[DOOR])
    assert along_wall(project, DOOR) == pytest.approx(2.0)
    moved = with_along_wall(project, "door", 0.4)
    assert sorted((moved.openings[0].start, moved.openings[0].end)) == [(0.4, 0), (1.4, 0)]
    assert (
        along_wall(
            with_along_wall(project, "door", 99.0),
            with_along_wall(project, "door", 99.0).openings[0],
        )
        == 5.0
    )


# -- the ductwork slid


def test_a_gate_slides_along_its_run_and_no_farther():
    project = shop(
        [machine("saw", 4, 0)],
        [],
        [run("main", "saw/port", "fan")],
        [Gate(id="gate", run="main", at=0.5)],
    )
    slid = with_gate_slid(project, "gate", -1.03, 0.4, 0.01)
    assert slid.gate["gate"].at * 4 == pytest.approx(2 + 1.03, abs=1e-3)
    assert with_gate_along(project, "gate", 9.0).gate["gate"].at * 4 == pytest.approx(
        4 - 0.06, abs=1e-3
    )
    assert with_gate_along(project, "gate", 0.0).gate["gate"].at * 4 == pytest.approx(
        0.06, abs=1e-3
    )


def test_a_main_moved_aside_stays_straight_and_its_branches_keep_their_angles():
    project = connected(with_main([machine("saw", 4, 3)]), "saw/port")
    moved = with_run_moved(project, "main", 0.0, 0.4)
    for ident in project.run:
        before, after = (p.run[ident] for p in (project, moved))
        if ident.startswith("main") or ident.endswith("stub"):
            assert distance(moved, after) == pytest.approx(distance(project, before), abs=1e-3), (
                ident
            )
    branch = next(r for r in project.run if r.endswith("-branch"))
    assert distance(moved, moved.run[branch]) == pytest.approx(
        distance(project, project.run[branch]) - 0.4, abs=1e-3
    )
    assert position(moved, "main-corner")[1] == pytest.approx(
        position(project, "main-corner")[1] + 0.4
    )
    assert codes(moved) == codes(project)


# -- branches by themselves


def legs(project, ref):
    """The rigid runs of a pickup's branch, each as its two ends in plan, and the hose's length."""
    base = ref.replace("/", "-")
    mine = [r for r in project.runs if r.id.startswith(base)]
    rigid = [
        (position(project, r.start), position(project, r.end))
        for r in mine
        if r.material == "spiral-steel"
    ]
    return rigid, next(r.length for r in mine if r.material != "spiral-steel")


def test_a_branch_goes_round_a_post_and_the_shortest_way_without_one():
    free = with_main([machine("saw", 4, 3)])
    plain, _ = legs(connected(free, "saw/port"), "saw/port")
    assert len(plain) == 3  # stub, branch, drop
    for y in (0.9, 1.5, 2.2):
        post = Feature(id="post", name="Post", kind="post", outline=rectangle(3.9, y, 0.2, 0.2))
        made = connected(free.replaced(features=(post,)), "saw/port")
        assert ("clash-thing",) not in {(f.code,) for f in all_findings(made, assess(made))}
        rigid, hose = legs(made, "saw/port")
        assert (
            hose < 1.5
            and sum(math.dist(*leg) for leg in rigid) < sum(math.dist(*leg) for leg in plain) + 2.5
        )


def test_a_machine_beyond_the_mains_end_gets_duct_and_no_long_hose():
    project = with_main([machine("saw", 14.5, 2.0)]).replaced(
        rooms=(Room(outline=rectangle(-2, -5, 20, 10), ceiling=3.0),)
    )
    rigid, hose = legs(connected(project, "saw/port"), "saw/port")
    assert hose < 1.0 and len(rigid) == 4
    for a, b in rigid[1:]:
        assert math.isclose(a[0], b[0], abs_tol=1e-3) or math.isclose(a[1], b[1], abs_tol=1e-3)


def test_hoses_are_judged_against_posts_and_walls():
    hose = run("hose", "saw/port", "fan", 0.1, material="ribbed-hose", length=4.3)
    project = shop([machine("saw", 4, 0)], runs=[hose])
    assert not codes(project) & {("hose-round", "hose")}
    rack = box("rack", "rack", 2, -1, 0.2, 2, 1.8)
    assert ("hose-round", "hose") in codes(project.replaced(features=(rack,)))
    wall = rectangle(-2, -5, 4, 10), rectangle(2.2, -5, 10, 10)
    parted = project.replaced(
        rooms=tuple(Room(id=f"r{n}", outline=w, ceiling=3.0) for n, w in enumerate(wall))
    )
    found = [f for f in all_findings(parted, assess(parted)) if f.code == "hose-round"]
    assert found[0].severity == "fault" and "no way" in found[0].message
    worse = worsenings(parted, judge(assess(project)), judge(assess(parted)))
    assert any("reach" in w.words for w in worse)
    door = Opening(id="door", name="Door", kind="doorway", start=(2, 1), end=(2, 2))
    opened = parted.replaced(openings=(door,))
    found = [f for f in all_findings(opened, assess(opened)) if f.code == "hose-round"]
    assert [f.severity for f in found] in ([], ["warning"])
    long = opened.replaced(runs=(hose.replaced(length=8.0),))
    assert "hose-round" not in {f.code for f in all_findings(long, assess(long))}


# -- lanes


def test_a_board_passes_a_doorway_through_a_real_wall():
    rooms = (
        Room(outline=rectangle(0, 0, 6, 5), ceiling=2.5),
        Room(id="second", name="Second", outline=rectangle(0, 5.2, 6, 4), ceiling=2.5),
    )
    door = Opening(id="door", name="Door", kind="doorway", start=(2.5, 5.0), end=(3.5, 5.0))
    project = room_of([saw()]).replaced(rooms=rooms)
    assert lane_of(project).after == pytest.approx(3.0)
    opened = project.replaced(openings=(door,))
    assert lane_of(opened).after == pytest.approx(7.2) and lane_of(opened).through == ("door",)
    assert not FloorSpace(opened).outside(saw(y=5.1)) and FloorSpace(project).outside(saw(y=5.1))


def test_no_board_goes_over_a_stove_and_every_cart_in_the_way_must_move():
    low = box("stove", "stove", 2.7, 4.0, 0.5, 0.5, 0.6)
    assert lane_of(room_of([saw()], [low])).after == pytest.approx(2.0)
    carts = [
        saw(f"cart-{n}", 3.0, 2.0 + d, wheels=True, height=1.2)
        for n, d in ((1, 0.9), (2, 1.7), (3, -0.8))
    ]
    project = room_of([saw(), *carts])
    assert FloorSpace(project).must_move(project.machine["saw"]) == ["cart-1", "cart-2", "cart-3"]


# -- the plan underneath


def test_a_plan_of_blocks_is_read_and_can_be_moved_and_turned(tmp_path):
    document = ezdxf.filemanagement.new()
    document.header["$INSUNITS"] = 4
    wall = document.blocks.new("WALL")
    wall.add_line((0, 0), (4000, 0))
    nested = document.blocks.new("ROOM")
    nested.add_blockref("WALL", (0, 0))
    nested.add_blockref("WALL", (4000, 0), dxfattribs={"rotation": 90})
    document.modelspace().add_blockref("ROOM", (1000, 1000))
    document.saveas(tmp_path / "blocks.dxf")
    plan = underlay.from_dxf(tmp_path / "blocks.dxf")
    assert len(plan.lines) == 2 and (plan.width, plan.height) == pytest.approx((4.0, 4.0))
    project = with_underlay(
        with_underlay_moved(demo("empty").replaced(underlay=plan), 1.5, -0.25), turn=90.0
    )
    assert (project.underlay.x, project.underlay.y, project.underlay.turn) == (1.5, -0.25, 90.0)
    assert with_underlay_wide(project, 8.0).underlay.height == pytest.approx(8.0)
    with pytest.raises(GreyCurrentError, match="lay one"):
        with_underlay(demo("empty"), turn=3.0)


@pytest.mark.sweep
@pytest.mark.parametrize("name", ["loft", "allotment"])
def test_what_is_hit_is_the_same_worked_out_anew_or_from_before(name):
    """Bodies moved, turned, grown, parked elsewhere, exchanged, boards fed otherwise, runs of
    another size: only what is near is looked at again, and it is enough.
    """
    chance, first = random.Random(5), demo(name)
    ground, project = clash_set(first), first
    for _ in range(120):
        ident = chance.choice([*project.machine, *project.collector])
        by = chance.choice(((0.4, 0.0), (0.0, -0.5), (2.0, 1.0), (-3.0, 0.3)))
        change = chance.choice(
            (
                lambda p, i=ident, by=by: edits.moved(p, i, *by),
                lambda p, i=ident: edits.turned(p, [i], 35),
                lambda p, i=ident: edits.changed(
                    p, i, width=chance.uniform(0.3, 1.6), height=chance.uniform(0.5, 2.4)
                ),
                lambda p, i=ident, by=by: edits.parked(p, i, *by) if i in p.machine else p,
                lambda p: with_collector(
                    p, p.collectors[0].id, chance.choice(catalogue().collectors).model
                ),
                lambda p: edits.removed(p, [chance.choice(list(p.run))]) if len(p.runs) > 14 else p,
                lambda p: edits.changed(
                    p, chance.choice(list(p.machine)), feed=chance.choice((None, 0.0, 90.0))
                ),
                lambda p: edits.changed(
                    p, chance.choice(list(p.machine)), lane_width=chance.uniform(0.1, 1.5)
                ),
                lambda p: edits.changed(
                    p, chance.choice(list(p.machine)), table_height=chance.uniform(0.3, 1.2)
                ),
                lambda p: edits.changed(
                    p, chance.choice(list(p.machine)), wheels=chance.choice((True, False))
                ),
                lambda p: edits.changed(
                    p, p.collectors[0].id, stands=chance.choice(("in the room", "outdoors"))
                ),
                lambda p: edits.changed(
                    p, chance.choice(list(p.run)), diameter=chance.choice((0.063, 0.152, 0.3))
                ),
            )
        )
        project = change(project)
        ground = clash_set(project, ground)
        fresh = clash_set(project)
        assert ground.hits == fresh.hits
        lanes = zip(ground.ducts.lanes, fresh.ducts.lanes, strict=True)
        assert all(
            one.id == other.id and mine.equals(theirs) for (one, mine), (other, theirs) in lanes
        )

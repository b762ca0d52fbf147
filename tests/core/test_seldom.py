"""What is met seldom: scenarios without an answer, air that blows out, boxes for wyes, inlets on
top, rooms that are full."""

import dataclasses
import math

import numpy as np
import pytest

from grey_current.build.bill import bill
from grey_current.build.papers import _parts
from grey_current.design.collector.sizing import sizing
from grey_current.design.findings.adds import added_findings, added_words
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assess import assess
from grey_current.design.flow.levers import lever_facts
from grey_current.design.flow.losses import largest_losses
from grey_current.design.flow.scenarios import Scenario, all_scenarios
from grey_current.design.flow.transport import slowest_transport, transport_checks
from grey_current.design.improve.changes import sensible_changes
from grey_current.design.improve.comparison import Figures
from grey_current.design.improve.ranking import improvements, made_with, winners
from grey_current.design.judgement import judge, worsenings
from grey_current.design.laying.places import where_to_stand
from grey_current.design.laying.proposals import propose
from grey_current.design.parts.parts_list import PartsList, with_shop_made
from grey_current.design.parts.takeoffs import Joints, elbow_takes, wye_takes
from grey_current.design.space.free_places import freely_standing
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hits import Hit, clash_set
from grey_current.design.space.lanes import WIDEST_SHEET
from grey_current.design.words import piece_words
from grey_current.errors import FileError, InputError, RefusedEdit
from grey_current.files.project_file import MIGRATIONS
from grey_current.files.size_report import size_text
from grey_current.files.underlay import from_dxf, from_picture
from grey_current.shop import edits, kept_designs
from grey_current.shop.build_plan import ShopMade
from grey_current.shop.collector_edits import with_claim
from grey_current.shop.ducts import Gate
from grey_current.shop.fans import CurvePoints
from grey_current.shop.laying_edits import with_laying
from grey_current.shop.machines import ParkedPlace
from grey_current.shop.room import Circuit, Feature, Opening, Outlet, Room
from grey_current.shop.room_edits import rectangle, refitted
from grey_current.standins.switches import LiveSwitch
from grey_current.units import Display
from tests.core.laid_shops import faults, garage
from tests.core.shops import collector, demo, machine, point, run, shop, straight_shop


def pair(**changes):
    """A saw and a planer on wide ports, a gate each, one main; both may run at once."""
    machines = [machine("saw", 4, 1, 0.15), machine("planer", 4, -1, 0.15)]
    runs = [
        run("main", "joint", "fan"),
        run("a", "saw/port", "joint"),
        run("b", "planer/port", "joint"),
    ]
    gates = [Gate(id="gate-a", run="a"), Gate(id="gate-b", run="b")]
    return shop(
        machines, [point("joint", 3, 0, **changes)], runs, gates, together=(("saw", "planer"),)
    )


def four_ducts(*places, **changes):
    """Three machines at some places, and their ducts that meet in one point with the main."""
    machines = [
        machine(name, x, y)
        for name, (x, y) in zip(("saw", "planer", "sander"), places, strict=True)
    ]
    branches = [run(name, f"{m.id}/port", "joint") for name, m in zip("abc", machines, strict=True)]
    return shop(
        machines, [point("joint", 2, 0, **changes)], [run("main", "joint", "fan"), *branches]
    )


def said(project, code):
    return [
        (f.message, f.remedies) for f in all_findings(project, assess(project)) if f.code == code
    ]


def test_a_scenario_without_an_answer_is_said_and_nothing_is_told_of_its_air():
    now = assess(straight_shop())
    systems = {
        ident: dataclasses.replace(
            system, solved=dataclasses.replace(system.solved, converged=np.array([False]))
        )
        for ident, system in now.answers[0].systems.items()
    }
    answer = dataclasses.replace(now.answers[0], systems=systems)
    none = dataclasses.replace(now, answers=(answer,))
    assert verdict(none, answer) == "Saw: no answer could be computed for this ductwork."
    assert [f.code for f in all_findings(none.project, none)] == ["no-answer", "low-duct", "loud"]
    assert (
        not [*transport_checks(none.project, answer)]
        and slowest_transport(none.project, answer) is None
    )
    assert improvements(none, "saw") == []
    worse = worsenings(none.project, judge(now), judge(none))
    assert [w.words for w in worse] == ["no airflow could be computed for Saw"]


def test_machines_that_are_short_together_are_named_and_one_that_is_blown_at_too():
    project = pair()
    now = assess(project, all_scenarios(project))
    both = now.answers[2]
    assert [answer.met for answer in now.answers] == [True, True, False] and len(
        both.scenario.running
    ) == 2
    least = f"{Display('us').airflow(both.worst.airflow, unit=False)} of {Display('us').airflow(both.worst.need.airflow)}"
    assert verdict(now, None) == (
        f"2 of 2 machines get the air they need; but together the saw and the planer do not: {least} at the saw."
    )
    blown = edits.with_pickup(
        project, "planer/port", own_fan=CurvePoints(points=((0.0, 9000.0), (1.8, 0.0)))
    )
    now = assess(blown, all_scenarios(blown))
    assert verdict(now, now.answers[2]).startswith(
        "Saw, port: air blows out of the port instead of in. It needs "
    )


def test_a_splitter_box_and_a_gate_half_open_have_their_changes():
    project = edits.changed(pair(splitter=True), "gate-a", opening=0.4)
    now = assess(project, all_scenarios(project))
    answer = now.of_machine["saw"]
    assert answer.worst is not None
    changes = {
        change.words: change.edit(project)
        for change in sensible_changes(project, answer, answer.worst)
    }
    wye = changes["A wye of 45° for the splitter box"].point["joint"]
    assert (wye.splitter, wye.wye_angle) == (False, 45.0)
    assert changes["Open its gate all the way"].gate["gate-a"].opening == 1.0


@pytest.mark.parametrize(("end", "words"), [("open", "open pipe end, 6 in"), ("cap", "cap, 6 in")])
def test_an_end_of_pipe_is_called_what_it_is(end, words):
    runs = [run("main", "joint", "fan"), run("a", "saw/port", "joint"), run("b", "end", "joint")]
    project = shop(
        [machine("saw", 4, 0)], [point("joint", 2, 0), point("end", 2, 2, end=end)], runs
    )
    pieces = assess(project).pieces
    assert {
        piece_words(project, p, Display("us")) for p in pieces if p.source_id in ("end", "saw")
    } >= {words}


@pytest.mark.parametrize(
    "change",
    [
        lambda p: edits.changed(p, "b", diameter=0.1),
        lambda p: edits.changed(p, "main", diameter=0.2),
        lambda p: edits.changed(p, "a", diameter=0.1),
        lambda p: edits.changed(p, "c", material="pvc"),
        lambda p: edits.moved(p, "joint", 0.2, 0.1),
        lambda p: edits.moved(p, "joint", -0.5, -1.5),
        lambda p: edits.removed(p, ["c"]),
    ],
)
def test_where_four_ducts_meet_an_edit_is_traced_as_anew(change):
    project = four_ducts((4, 0), (3, 2), (3, -2))
    changed = change(project)
    after, anew = assess(changed, (), assess(project)), assess(changed)
    assert [p.id for p in after.pieces] == [p.id for p in anew.pieces]
    air = [
        [p.airflow for answer in found.answers for p in answer.pickups] for found in (after, anew)
    ]
    assert air[0] == pytest.approx(air[1], abs=1e-9)


def test_two_wyes_at_one_point_take_of_every_duct_what_their_geometry_says():
    """Branches drawn at 90° on wyes of 45° want an elbow of 45° each; the main passes both wyes,
    one behind the other."""
    project = four_ducts((4, 0), (2, 3), (2, -3), wye_angle=45.0)
    takes, wanted = (
        Joints(project).takes,
        {part.key: part.quantity for part in PartsList(project).parts},
    )
    to_out, to_main, to_side = wye_takes(0.1524, 0.1524, 45.0, 0.01)
    leg, pipe = elbow_takes(0.1524, 45.0, 1.5, 0.01), 0.1
    # The one upstream slides until its elbow, with a nipple before it, stands on the branch's line;
    # the other one stands a nipple behind it.
    slid = (to_side + pipe + leg) * math.sin(math.radians(45))
    other = slid + to_out + pipe + to_main
    assert takes["main", "joint"] == pytest.approx(other + to_out)
    assert takes["a", "joint"] == pytest.approx(to_main - slid)
    sides = sorted((takes["b", "joint"], takes["c", "joint"]))
    assert sides == pytest.approx([slid + leg, other + leg])
    assert (
        wanted["wye/spiral-steel/152-152-152/45"] == wanted["elbow/spiral-steel/152/45/r1.5"] == 2
    )


def test_two_45s_stand_for_a_mitre_and_a_machine_is_not_moved_into_another():
    runs = [
        run("main", "turn", "fan"),
        run("drop", "foot", "turn"),
        run("hose", "saw/port", "foot", material="ribbed-hose"),
    ]
    points = [point("turn", 3, 0, elbow="mitre"), point("foot", 3, 2)]
    saw = machine("saw", 5, 2)
    project = edits.changed(shop([saw], points, runs), "hose", length=2.5)
    for others, moved in (((), True), ((machine("planer", 4.3, 2),), False)):
        now = assess(project.replaced(machines=(saw, *others)))
        answer = now.of_machine["saw"]
        assert answer.worst is not None
        changes = {
            c.words: made_with(now.project, c)
            for c in sensible_changes(now.project, answer, answer.worst)
        }
        assert changes["Two 45s in place of each elbow (1)"].point["turn"].elbow == "two 45s"
        (nearer,) = [made for words, made in changes.items() if words.startswith("Move it")]
        assert (nearer is not None and nearer.machine["saw"].x == pytest.approx(4.5)) == moved


def test_what_no_outlet_fits_counts_against_a_shop():
    circuit = Circuit(id="a", name="A", volts=120, breaker=20)
    project = shop([machine("saw", 4, 0, volts=240, amps=8)], collectors=())
    project = project.replaced(
        circuits=(circuit,), outlets=(Outlet(id="o", name="O", x=0, y=0, circuit="a"),)
    )
    assert judge(assess(project)).supply == {("no-outlet", "saw"): 1.0}


def test_a_wide_hall_lets_the_widest_sheet_pass():
    saw = machine("saw", 0, 0, kind="Table saw", feed=0.0)
    hall = shop([saw], collectors=()).replaced(
        rooms=(Room(outline=rectangle(-8, -8, 16, 16), ceiling=3.0),)
    )
    assert FloorSpace(hall).widest_sheet(saw) == WIDEST_SHEET


def test_a_machine_on_wheels_that_ends_a_lane_is_rolled_away():
    machines = [
        machine("saw", 5, 0, feed=0.0, lane_width=0.6),
        machine("planer", 7, 0, wheels=True, height=1.5),
    ]
    project = shop(machines, collectors=(), longest_board=3.0)
    ((message, remedies),) = said(project, "lane-short")
    assert message.endswith("the planer ends its lane.") and remedies == (
        "With what is on wheels rolled away it does.",
    )
    assert len(said(project, "must-move")) == 1


def test_a_shop_at_rest_and_one_without_ducts_have_no_losses_to_speak_of():
    now = assess(straight_shop())
    assert (
        lever_facts(now, Scenario(())).head
        == "Choose a machine in the rack: its gates are set here."
    )
    loose = assess(shop([machine("saw", 4, 0)]))
    assert largest_losses(loose.project, loose.answers[0], loose.answers[0].pickups[0]) == []
    assert improvements(loose, "nobody") == []


def test_a_duct_over_the_ceiling_is_hit_and_a_collector_on_a_stand_is_cut_down():
    project = straight_shop()
    low = project.replaced(rooms=(project.rooms[0].replaced(ceiling=2.0),))
    assert clash_set(edits.changed(low, "fan", inlet_height=2.1)).hits == {Hit("main", "ceiling")}
    tall = edits.changed(project, "fan", stand=1.2, height=2.6)
    assert not said(tall, "too-tall")
    ((message, remedies),) = said(
        tall.replaced(rooms=(project.rooms[0].replaced(ceiling=2.2),)), "too-tall"
    )
    assert "1' 5 11/16\" too tall" in message and remedies[0] == "Cut 1' 5 11/16\" off its stand."


@pytest.mark.parametrize(("top", "found"), [(None, 1), (2.2, 1), (1.5, 0)])
def test_what_is_higher_than_a_roll_up_door_stands_in_its_way(top, found):
    door = Opening(
        id="big", name="Garage door", kind="roll-up door", start=(0, 5), end=(3, 5), head=2.0
    )
    rack = Feature(id="rack", name="Rack", kind="rack", outline=rectangle(1, 4, 1, 0.5), top=top)
    assert (
        len(
            said(
                shop([], collectors=()).replaced(openings=(door,), features=(rack,)), "door-tracks"
            )
        )
        == found
    )
    item = collector("fan", 1.5, 4).replaced(height=top or 2.1)
    assert (
        len(said(shop([], collectors=(item,)).replaced(openings=(door,)), "door-tracks")) == found
    )


@pytest.mark.parametrize(("apart", "said_of"), [(0.59, ["Planer", "Saw"]), (0.6, [])])
def test_two_machines_are_not_parked_in_one_another(apart, said_of):
    """Both are 0.6 m wide, and rest elsewhere than where they work."""
    places = {"saw": ParkedPlace(x=8, y=3), "planer": ParkedPlace(x=8 + apart, y=3)}
    machines = [
        machine(name, 2, n, wheels=True, parked=(places[name],)) for n, name in enumerate(places)
    ]
    found = said(shop(machines, collectors=()), "parked-in")
    assert sorted(message.split(":")[0] for message, _ in found) == said_of


def test_a_collector_stands_beside_a_walkway_and_as_it_was_given_where_nothing_is_free():
    hall, item = shop([], collectors=()), collector("fan", 3, 0)
    assert freely_standing(hall, item) == item
    way = Feature(id="way", name="Way", kind="walkway", outline=rectangle(2, -5, 2, 10))
    beside = freely_standing(hall.replaced(features=(way,)), item)
    assert abs(beside.x - 3) >= 1 + min(item.width, item.depth) / 2 and beside.y == 0
    long = Feature(id="bench", name="Bench", kind="bench", outline=rectangle(-2, -5, 12.2, 10))
    assert freely_standing(hall.replaced(features=(long,)), item).x == 11
    full = Feature(id="bench", name="Bench", kind="bench", outline=rectangle(-2, -5, 14, 10))
    assert freely_standing(hall.replaced(features=(full,)), item) == item


# -- laying


@pytest.mark.parametrize(
    ("project", "first"),
    [
        (edits.changed(garage(), "cyclone", inlet_dx=0.0, inlet_dy=0.0, inlet_height=2.0), "riser"),
        (with_laying(garage(), height="at a height", wall_height=1.65), "inlet"),
    ],
)
def test_an_inlet_on_top_and_one_as_high_as_the_main_are_led_to(project, first):
    """A riser comes down on the one; the main goes on level to the other."""
    assert project.collectors[0].inlet_height in (1.65, 2.0)
    found = propose(project, most=1).proposals
    assert found and not any(faults(one.project, one.stranded) for one in found)
    for one in found:
        (last,) = [run for run in one.project.runs if run.end == "cyclone"]
        height = one.project.point[last.start].height
        assert last.id == first and (
            height > 2.0 if first == "riser" else height == pytest.approx(1.65)
        )


@pytest.mark.parametrize(
    ("kind", "outline", "served", "because"),
    [
        (
            "no-duct area",
            rectangle(0.01, 0.01, 5.98, 5.98),
            0,
            "the area leaves the cyclone's inlet no room",
        ),
        (
            "no-duct area",
            rectangle(2.2, 0, 0.2, 6),
            1,
            "what stands there leaves no way to the cyclone",
        ),
        ("post", rectangle(2.2, 0, 0.2, 6), 1, "what stands there leaves no way to the cyclone"),
    ],
)
def test_what_cannot_be_reached_is_not_said_to_be_served_alone(kind, outline, served, because):
    area = Feature(id="area", name="Area", kind=kind, outline=outline)
    found = propose(garage().replaced(openings=(), features=(area,)), most=1)
    assert found.proposals[0].served == (served, 3) and because in found.notes[0]
    assert found.notes[-1] == f"No layout found serves all: the best serves {served} of 3."


def test_where_no_place_can_be_found_is_said_and_a_loose_branch_is_laid_anew():
    project = garage()
    laid = propose(project, most=1).proposals[0].project
    pinned = laid.replaced(runs=tuple(r.replaced(pinned=r.end == "cyclone") for r in laid.runs))
    for shop_now, words in (
        (
            edits.changed(project, "cyclone", stands="outdoors"),
            "say first that it stands in the room",
        ),
        (project.replaced(machines=()), "put down a machine with a port first"),
        (pinned, "unpin what leads to its inlet"),
    ):
        with pytest.raises(RefusedEdit, match=words):
            where_to_stand(shop_now, "cyclone")
    mains = [run.id for run in laid.runs if run.end == "cyclone" or run.id.startswith("main")]
    loose = edits.removed(laid, mains)
    found = [one for one in propose(loose, most=1).proposals if one.project is not loose]
    assert found and not any(faults(one.project, one.stranded) for one in found)
    held = loose.replaced(runs=tuple(run.replaced(pinned=True) for run in loose.runs))
    with pytest.raises(
        RefusedEdit,
        match="pinned ducts hold that lead to no collector is not possible; lead those to",
    ):
        propose(held)


@pytest.mark.parametrize(("share", "served"), [(1.0, True), (0.9975, True), (0.99, False)])
def test_a_machine_is_served_within_half_a_per_cent_of_its_chips_velocity(share, served):
    assert Figures(0.2, 0.2, share).served is served and not Figures(0.1, 0.2, share).served


def test_a_kept_designs_name_holds_80_letters():
    project, before = kept_designs.kept(straight_shop(), "Before")
    long = kept_designs.renamed(project, before, "n" * 80)
    assert long.kept_designs[0].name == "n" * 80
    for name in ("n" * 81, " "):
        with pytest.raises(InputError, match="1 to 80 letters"):
            kept_designs.renamed(project, before, name)


@pytest.mark.parametrize("way", [1, -1])
@pytest.mark.parametrize("ends", [((1.0, 0.0), (1.9, 0.0)), ((6.0, 1.0), (6.0, 1.9))])
def test_an_opening_put_where_it_is_stays_as_it_is_whichever_way_it_swings(ends, way):
    project = straight_shop().replaced(
        rooms=(Room(id="room", outline=rectangle(0, 0, 6, 4), ceiling=2.4),)
    )
    start, end = ends[::way]
    door = Opening(
        id="door",
        name="Door",
        kind="door",
        sill=0.0,
        start=start,
        end=end,
        head=2.0,
        swing="left from start",
    )
    middle = (start[0] + end[0]) / 2, (start[1] + end[1]) / 2
    again = refitted(project, door, middle, 0.9)
    assert np.allclose([again.start, again.end], [start, end])


def test_a_fan_asked_for_as_it_is_known_already_stays_as_it_is():
    project = straight_shop()
    ident = project.collectors[0].id
    assert with_claim(project, ident, claimed=False) is project
    claimed = with_claim(project, ident, claimed=True)
    assert with_claim(claimed, ident, claimed=True) is claimed
    assert isinstance(with_claim(claimed, ident, claimed=False).collectors[0].fan, CurvePoints)


@pytest.mark.parametrize("pixels", [(2, 600_000), (600_000, 2)])
def test_a_plan_that_is_too_narrow_or_no_file_is_refused(pixels, tmp_path):
    with pytest.raises(FileError, match="too narrow"):
        from_picture("plan", b"", pixels, 10.0)
    laid = from_picture("plan", b"\x89PNG\r\n\x1a\n", (600, 300), 10.0)
    assert (laid.width, laid.height) == pytest.approx((10.0, 5.0))
    with pytest.raises(FileError, match="not an ordinary file"):
        from_dxf(tmp_path)


@pytest.mark.parametrize("now", [0.0, 1.1, 30.0])
def test_a_switch_that_no_tool_was_heard_by_is_off_and_runs_on_as_long_as_it_says(now):
    switch = LiveSwitch(delay=0.5, run_on=10.0)
    assert switch.state(now) == (False, 0.0)
    switch.tell("saw", True, now)
    assert switch.state(now + 0.4) == (False, 0.0) and switch.state(now + 0.5)[0]
    switch.tell("saw", False, now + 5.0)
    assert switch.state(now + 14.9)[0] and not switch.state(now + 15.0)[0]


def test_files_of_every_version_are_brought_to_the_next():
    """Each step says what it made; one that said another would leave a step out."""
    for version in sorted(MIGRATIONS):
        assert MIGRATIONS[version]({"name": "Shop"})["format_version"] == version + 1


def test_a_thing_made_for_no_element_is_a_part_of_its_own():
    made = [ShopMade(template="box"), ShopMade(template="gate")]
    uses = list(with_shop_made((), made, straight_shop()))
    assert [(use.key, use.element) for use in uses] == [
        ("made/box", "made-1"),
        ("made/gate", "made-2"),
    ]


def test_what_the_fan_must_hold_is_said_where_there_is_a_collector():
    project = demo("allotment")
    found = sizing(assess(project), project.collectors[0].id)
    assert "The fan itself must hold" in size_text(project, project.collectors[0].id, found)
    assert "The fan itself" not in size_text(project, None, found)


def test_the_parts_on_paper_stand_under_a_heading_for_each_group():
    project = straight_shop()
    costs = bill(project)
    rows = _parts(costs).rows
    headings = [row[0] for row in rows if len(row) == 1]
    assert headings == list(dict.fromkeys(line.part.group for line in costs.lines))


def test_who_has_enough_wins_nothing_by_more_and_a_fault_that_shrinks_is_not_added():
    project = straight_shop()
    now = assess(project)
    need = now.of_machine["saw"].worst.airflow

    def shop_of(share):
        return assess(edits.with_pickup(project, "saw/port", need=need / share))

    starved, short, enough, ample = (judge(shop_of(share)) for share in (0.5, 0.9, 1.02, 1.2))
    assert winners(starved, short) == winners(short, enough) == ("saw",)
    assert winners(enough, ample) == winners(short, starved) == ()
    better = added_findings(shop_of(0.5), shop_of(0.9))
    assert [(each.finding.code, each.less) for each in better] == [("short", True)]
    worse = added_findings(shop_of(0.9), shop_of(0.5))
    assert [(each.finding.code, each.less) for each in worse] == [("starved", False)]
    assert added_words(better) == "" and added_words(worse) == "adds 1 fault"

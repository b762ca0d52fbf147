"""Parts put into the ductwork, variants, clashes in space, hoses carried about: hand-worked cases
and properties."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.flow.trace import trace
from grey_current.design.improve.comparison import compared, kept_assessment, served
from grey_current.design.judgement import judge
from grey_current.design.parts.assembly import assemble
from grey_current.design.parts.buildable import BuildSet
from grey_current.design.parts.clean_outs import (
    clean_out_at,
    clean_out_of,
    main_ends,
    may_take_clean_out,
    with_clean_out_there,
)
from grey_current.design.parts.connecting import connected, reconnected
from grey_current.design.space.clashes import HEAD_ROOM, DuctSpace, hangers
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hose_reach import CLEARANCE, reaches, swaps
from grey_current.errors import InputError, RefusedEdit
from grey_current.files import project_file
from grey_current.shop import edits, kept_designs
from grey_current.shop.capped_ends import with_capped_stub, with_clean_out
from grey_current.shop.duct_edits import (
    Drawing,
    beside_walls,
    drawn_on,
    main_height,
    snapped_heading,
)
from grey_current.shop.duct_graph import AirPaths, branch_segment, downstream_ends, far_end
from grey_current.shop.ducts import Gate
from grey_current.shop.fitting_edits import (
    with_diameter_continued,
    with_gate_at,
    with_gate_on,
    with_second_hose,
    with_sweep,
)
from grey_current.shop.hoses import HOSE_SLACK
from grey_current.shop.machines import Pickup
from grey_current.shop.places import distance, position
from grey_current.shop.room import Beam, Feature, Opening
from grey_current.shop.room_edits import rectangle
from tests.core.shops import collector, demo, machine, made_up, point, run, shop
from tests.core.test_routing import with_main


def air_at(project, ident):
    answer = assess(project).of_machine[ident]
    assert answer.converged
    return answer.worst.airflow


def kinds(project, at):
    return sorted(
        p.kind for net in trace(project).networks.values() for p in net.pieces if p.source_id == at
    )


# -- what air goes through as one


def test_a_stretch_goes_from_wye_to_machine_and_every_run_knows_its_way():
    project = demo()
    chain = branch_segment(project, "planer-drop")
    assert chain[:2] == ["planer-hose", "planer-drop"]
    assert chain[-1] == next(
        run.id for run in project.runs if run.end == "wye-planer" and "planer" in run.id
    )
    down = downstream_ends(project)
    forward = {
        p.source_id: p.forward
        for net in trace(project).networks.values()
        for p in net.pieces
        if p.kind in ("duct", "hose")
    }
    assert {r: project.run[r].end == down[r] for r in forward} == forward
    assert branch_segment(
        shop(
            runs=[run("lone", "saw/port", "far")],
            machines=[machine("saw", 1, 1)],
            points=[point("far", 2, 2)],
            collectors=(),
        ),
        "lone",
    ) == ["lone"]


def test_a_size_is_carried_on_to_the_next_wye_and_no_further():
    project = edits.changed(demo(), "planer-drop", diameter=0.1016)
    for towards in ("collector", "machine"):
        carried = with_diameter_continued(project, "planer-drop", towards)
        chain = branch_segment(project, "planer-drop")
        here = chain.index("planer-drop")
        side = chain[here + 1 :] if towards == "collector" else chain[:here]
        for item in carried.runs:
            rigid = item.id in side and item.id != "planer-hose"
            assert item.diameter == (0.1016 if rigid else project.run[item.id].diameter)


# -- parts


def caps(project):
    return sum(part.key.startswith("cap/") for part in assemble(project).parts)


def test_a_clean_out_makes_a_tee_that_costs_air_and_can_be_put_only_past_a_turn():
    project = demo()
    cleaned = with_clean_out(project, "jointer-foot")
    assert {"wye_branch", "wye_main"} <= set(kinds(cleaned, "jointer-foot"))
    assert "leak" in kinds(cleaned, "jointer-foot-clean-out")
    assert 0.8 < air_at(cleaned, "jointer") / air_at(project, "jointer") < 1.0
    for where in ("wye-planer", "planer/hood", "nowhere"):
        with pytest.raises(RefusedEdit, match="clean-out"):
            with_clean_out(project, where)


@pytest.mark.parametrize("seed", [None, *range(12)])
def test_every_clean_out_that_is_offered_goes_together_and_is_bought(seed):
    drawn = demo() if seed is None else made_up(seed)
    paths, now = AirPaths(drawn), BuildSet(drawn)
    offered = [clean_out_at(paths, drawn, place.id) for place in drawn.points]
    offered += [clean_out_of(paths, drawn, item.id) for item in drawn.runs]
    before = caps(drawn)
    for element, edit in zip([*drawn.point, *drawn.run], offered, strict=True):
        if edit is not None:
            assert with_clean_out_there(drawn, element) == edit(drawn)
            assert element in drawn.point or may_take_clean_out(paths, element)
            continue
        with pytest.raises(RefusedEdit, match="clean-out"):
            with_clean_out_there(drawn, element)
    assert seed is not None or sum(edit is not None for edit in offered) > 20
    for made in (edit(drawn) for edit in offered if edit is not None):
        assert BuildSet(made).troubles <= now.troubles
        assert caps(made) == before + 1
    ends = main_ends(paths, drawn)
    assert seed is not None or [end.edit is not None for end in ends] == [True]
    for end in ends:
        if end.edit is not None:
            then = end.edit(drawn)
            capped = [each.capped for each in main_ends(AirPaths(then), then)]
            assert sum(capped) == 1 + sum(each.capped for each in main_ends(paths, drawn))


@pytest.mark.parametrize(("along", "wall"), [(1, 1), (1, -1), (-1, 1), (-1, -1)])
def test_a_stub_leaves_to_the_side_where_no_wall_is_near(along, wall):
    """A main 0.15 m from a wall, with the flow to either side."""
    drawn = shop(
        [machine("saw", 8 * along, 0)],
        [point("far", 7.0 * along, 0, 0.5)],
        [run("drop", "saw/port", "far"), run("main", "far", "fan")],
        [],
        [collector("fan", 0, 0)],
    )
    _, y, _ = position(drawn, "fan")
    near = y + 0.15 * wall
    low, high = sorted((near, near - 3.0 * wall))
    room = drawn.rooms[0].replaced(outline=((-9, low), (9, low), (9, high), (-9, high)))
    stubbed, end = with_capped_stub(drawn.replaced(rooms=(room,)), "main", 0.1016)
    cap = stubbed.point[end]
    assert low < cap.y < high and abs(cap.y - y) > 0.2
    # Against the flow: the cap is farther from the collector than its wye.
    (stub,) = [item for item in stubbed.runs if end in item.ends]
    wye = stubbed.point[far_end(stub, end)]
    assert abs(cap.x) - abs(wye.x) == pytest.approx(0.3 * math.cos(math.pi / 4), abs=1e-3)


def test_what_settles_comes_out_by_a_clean_out_that_is_offered_once():
    project = demo()
    settling = next(f for f in all_findings(project, assess(project)) if f.code == "settles")
    change = next(fix for fix in settling.fixes if fix.words.startswith("A clean-out for"))
    made = change.edit(project)
    hit = {f.element for f in all_findings(project, assess(project)) if f.code.startswith("clash")}
    after = all_findings(made, assess(made))
    assert {f.element for f in after if f.code.startswith("clash")} <= hit
    words = [" ".join(f.remedies) for f in after if f.code == "settles"]
    assert any("Look into the clean-out of" in text for text in words)
    assert not any(change.words in text for text in words)


def test_a_capped_stub_leaves_with_the_flow_and_waits_without_taking_air():
    project = with_main([machine("saw", 3, 3)])
    project = connected(project, "saw/port")
    stubbed, end = with_capped_stub(project, "main-2", 0.1016)
    wye = stubbed.run["main-2-stub"].end
    angle = next(
        p.angle
        for net in trace(stubbed).networks.values()
        for p in net.pieces
        if p.source_id == wye and p.angle
    )
    assert angle == pytest.approx(45, abs=0.5) and stubbed.point[end].end == "cap"
    assert air_at(stubbed, "saw") == pytest.approx(air_at(project, "saw"), rel=0.02)
    with pytest.raises(RefusedEdit, match="stub"):
        with_capped_stub(project, "saw-port-hose", 0.1016)


def test_a_floor_sweep_hangs_under_a_free_end_and_has_a_gate():
    project = with_main()
    end = project.points[-1].id
    swept, sweep = with_sweep(project, end)
    ref = f"{sweep}/{swept.machine[sweep].pickups[0].id}"
    assert position(swept, ref)[:2] == pytest.approx(position(swept, end)[:2], abs=1e-3)
    assert air_at(swept, sweep) > 0.05 and swept.gates[-1].run == swept.runs[-1].id
    with pytest.raises(RefusedEdit, match="floor sweep"):
        with_sweep(swept, end)


def test_a_second_hose_shares_the_drop_through_a_splitter():
    two = machine("saw", 4, 2)
    upper = Pickup(id="upper", name="Upper", height=1.2, port=0.0635, intake=two.pickups[0].intake)
    project = with_main([two.replaced(pickups=(*two.pickups, upper))])
    with pytest.raises(RefusedEdit, match="other pickup first"):
        with_second_hose(project, "saw/upper")
    project = with_second_hose(connected(project, "saw/port"), "saw/upper")
    assert any(p.kind == "splitter" for net in trace(project).networks.values() for p in net.pieces)
    assert all(p.airflow > 0.01 for p in assess(project).of_machine["saw"].pickups)


@pytest.mark.parametrize("place", ["at the tool", "at the wye", "both"])
def test_a_gate_moves_within_its_branch_and_still_serves_its_machine(place):
    project = demo()
    moved = with_gate_at(project, "gate-jointer", place)
    chain = branch_segment(project, project.gate["gate-jointer"].run)
    mine = [g for g in moved.gates if g.id.startswith("gate-jointer")]
    assert len(mine) == (2 if place == "both" else 1) and all(g.run in chain for g in mine)
    wye = downstream_ends(moved)[chain[-1]]
    gate = moved.gate["gate-jointer"]
    item = moved.run[gate.run]
    a, b = position(moved, item.start), position(moved, item.end)
    spot = [p + (q - p) * gate.at for p, q in zip(a, b, strict=True)]
    near = math.dist(spot, position(moved, wye)) < 0.15
    assert near == (place != "at the tool")
    assert air_at(moved, "jointer") / air_at(project, "jointer") == pytest.approx(1, abs=0.06)
    bare = shop(
        [machine("saw", 4, 0)],
        runs=[run("main", "saw/port", "fan", material="ribbed-hose")],
        gates=[Gate(id="gate", run="main")],
    )
    with pytest.raises(RefusedEdit, match="rigid"):
        with_gate_at(bare, "gate", place)
    more, ident = with_gate_on(project, "main-1")
    assert more.gate[ident].run == "main-1"


def test_a_branch_is_routed_anew_with_its_own_gate():
    project = edits.changed(demo(), "gate-planer", leak=0.02, bore="full bore")
    anew = reconnected(project, "planer/hood")
    gate = anew.gates[-1]
    assert (gate.leak, gate.bore) == (0.02, "full bore") and len(anew.gates) == len(project.gates)
    assert len(anew.machines) == len(project.machines) and air_at(anew, "planer") > air_at(
        project, "planer"
    )
    with pytest.raises(RefusedEdit, match="needs a main"):
        reconnected(shop([machine("saw", 4, 0)], runs=[run("main", "saw/port", "fan")]), "saw/port")


# -- drawing at heights and angles


@pytest.mark.parametrize(
    ("level", "expected"),
    [
        ("under the beams", None),
        ("at a height", 1.1),
        ("on the floor", 0.126),
        ("under the floor", -0.156),
    ],
)
def test_a_main_lies_where_it_is_asked_for_and_machines_connect_to_it(level, expected):
    project = shop([machine("saw", 4, 2)])
    project, end = drawn_on(project, "fan", 8.0, 0.0, Drawing(level, 1.1))
    size = project.runs[0].diameter
    wanted = main_height(project, size) if expected is None else expected
    assert project.point[end].height == pytest.approx(wanted, abs=1e-3)
    project = connected(project, "saw/port")
    assert air_at(project, "saw") > 0.05
    again, corner = drawn_on(project, end, 9.0, 1.0, Drawing("at a height", 1.9, 0.1016, "pvc"))
    assert again.point[corner].height == 1.9
    added = [r for r in again.runs if r.id not in project.run]
    assert len(added) == 2 and {(r.diameter, r.material) for r in added} == {(0.1016, "pvc")}


@settings(max_examples=60, deadline=None)
@given(st.floats(-180, 180), st.floats(-180, 180), st.floats(0.3, 9))
def test_a_drawn_duct_turns_as_fittings_do(heading, wanted, far):
    along = (math.cos(math.radians(heading)), math.sin(math.radians(heading)))
    place = (far * math.cos(math.radians(wanted)), far * math.sin(math.radians(wanted)))
    x, y = snapped_heading((0, 0), place, along)
    if math.hypot(x, y) > 1e-6:
        dot = (x * along[0] + y * along[1]) / math.hypot(x, y)
        turn = math.degrees(math.acos(min(1, max(-1, dot))))
        assert min(abs(turn - t) for t in (0, 30, 45, 60, 90)) < 1e-3


def test_a_corner_near_a_wall_settles_close_along_it():
    project = shop()  # walls at x = 12 and y = ±5
    assert beside_walls(project, (0, 0), (11.7, 0), 0.15, 0.3) == pytest.approx((12 - 0.125, 0))
    assert beside_walls(project, (0, 0), (11.0, 0), 0.15, 0.3) == (11.0, 0)
    assert beside_walls(project, (0, 4.8), (6, 4.8), 0.15, 0.3) == (6, 4.8)


# -- clashes in space, by hand


def room_with(*things, height=1.5, end=(6.0, 0.0), end_height=None, diameter=0.1524):
    lists: dict[str, list] = {}
    for thing in things:
        lists.setdefault(
            {"Beam": "beams", "Feature": "features", "Opening": "openings"}[type(thing).__name__],
            [],
        ).append(thing)
    base = shop(
        [],
        [point("far", end[0], end[1], end_height or height), point("near", 0.5, 0, height)],
        [run("main", "far", "near", diameter), run("in", "near", "fan")],
    )
    return base.replaced(**{name: tuple(items) for name, items in lists.items()})


POST = Feature(id="post", name="Post", kind="post", outline=rectangle(3, 0.05, 0.15, 0.15))
WALK = Feature(id="walk", name="Way out", kind="walkway", outline=rectangle(3, -1, 1, 2), top=0.0)
DOOR = Opening(
    id="door",
    name="Back door",
    kind="door",
    start=(4, -0.4),
    end=(4.9, -0.4),
    swing="left from start",
)
ROLL = Opening(
    id="roll", name="Roll-up", kind="roll-up door", start=(3, -5), end=(5.5, -5), head=2.1
)
WINDOW = Opening(
    id="window", name="Window", kind="window", start=(5.9, -0.1), end=(5.9, 1), sill=0.9, head=1.9
)


@pytest.mark.parametrize(
    ("project", "codes"),
    [
        (room_with(POST), {"clash-thing"}),
        (room_with(POST.replaced(outline=rectangle(3, 0.07, 0.15, 0.15))), set()),
        (room_with(POST.replaced(top=1.42)), set()),
        (room_with(POST.replaced(top=1.45)), {"clash-thing"}),
        (
            room_with(Beam(id="beam", start=(2, -5), end=(2, 5), width=0.15, underside=1.56)),
            {"clash-beam"},
        ),
        (room_with(Beam(id="beam", start=(2, -5), end=(2, 5), width=0.15, underside=1.59)), set()),
        (
            room_with(
                Beam(id="beam", start=(2, -5), end=(2, 5), width=0.15, underside=1.85),
                end_height=2.4,
            ),
            set(),
        ),  # it rises, and is still low where the beam is
        (
            room_with(
                Beam(id="beam", start=(5, -5), end=(5, 5), width=0.15, underside=1.85),
                end_height=2.4,
            ),
            {"clash-beam"},
        ),
        (room_with(WALK), {"clash-walkway"}),
        (room_with(WALK, height=0.1), {"clash-walkway"}),
        (room_with(WALK, height=HEAD_ROOM + 0.08), set()),
        (room_with(DOOR), {"clash-door"}),
        (room_with(DOOR, height=2.2), set()),
        (room_with(ROLL, end=(4, -4), height=2.2), {"clash-tracks"}),
        (room_with(ROLL, end=(4, -4), height=1.9), set()),
        (room_with(WINDOW), {"clash-window"}),
        (room_with(height=2.95), {"above-ceiling"}),
    ],
)
def test_clashes_in_three_dimensions(project, codes):
    found = all_findings(project, assess(project))
    seen = {f.code for f in found if f.element == "main" and f.code.startswith(("clash", "above"))}
    assert seen == codes
    for finding in found:
        assert project.find(finding.element) is not None and finding.message.endswith(".")
        assert all(project.find(other) is not None for other in finding.also) and finding.remedies


def test_hangers_need_something_to_hang_from():
    beams = [
        Beam(id=f"beam-{n}", start=(x, -5), end=(x, 5), width=0.1, underside=2.2)
        for n, x in enumerate((2, 7))
    ]
    high = room_with(*beams, height=2.05, end=(9.0, 0.0))
    gap, allowed = DuctSpace(high).unsupported(high.run["main"])
    assert gap == pytest.approx(5.0, abs=0.05) and allowed == 3.0
    assert hangers(high.run["main"], 8.5) == 3
    under = room_with(height=2.6, end=(9.0, 0.0))
    assert DuctSpace(under).unsupported(under.run["main"]) is None
    assert "unsupported" in {f.code for f in all_findings(high, assess(high))}


def test_crowded_narrow_and_dead_parts_are_found():
    project = edits.changed(demo(), "gate-planer", opening=1.0)
    codes = {f.code for f in all_findings(project, assess(project))}
    assert "dead-pipe" in codes
    close = shop(
        [machine("saw", 3, 1)],
        [point("a", 1.2, 0), point("b", 1.2, 0.25)],
        [run("in", "a", "fan"), run("mid", "b", "a"), run("out", "saw/port", "b")],
    )
    assert "crowded" in {f.code for f in all_findings(close, assess(close))}
    neck = shop(
        [machine("saw", 4, 0)],
        [point("a", 1.2, 0, reducer="step"), point("b", 2, 0, reducer="step")],
        [run("in", "a", "fan"), run("mid", "b", "a", 0.05), run("out", "saw/port", "b")],
    )
    assert "throttles" in {f.code for f in all_findings(neck, assess(neck))}


# -- one hose, several machines


def test_a_hose_is_laid_round_what_is_higher_and_says_how_far_that_is():
    wall = Feature(id="rack", name="Rack", kind="rack", outline=rectangle(2, -1, 0.2, 2), top=1.8)
    hose = run(
        "hose",
        "saw/port",
        "fan",
        0.1,
        material="ribbed-hose",
        length=4.2,
        also_serves=("sander/port",),
    )
    project = shop(
        [machine("saw", 1.5, 1.5, uses_per_week=3), machine("sander", 4, 0, uses_per_week=1)],
        runs=[hose],
    )
    free = {r.pickup: r for r in reaches(project, FloorSpace(project), project.run["hose"])}
    assert free["sander/port"].around == () and free["sander/port"].length == pytest.approx(4.0)
    blocked = project.replaced(features=(wall, WALK.replaced(outline=rectangle(2.8, 0, 0.4, 1.2))))
    reach = {r.pickup: r for r in reaches(blocked, FloorSpace(blocked), hose)}["sander/port"]
    corner = 1 + CLEARANCE
    by_hand = (
        math.hypot(2 - CLEARANCE, corner)
        + 0.2
        + 2 * CLEARANCE
        + math.hypot(4 - 2.2 - CLEARANCE, corner)
    )
    assert reach.around == ("rack",) and reach.length == pytest.approx(by_hand, abs=2e-3)
    assert reach.needed == pytest.approx(reach.length * HOSE_SLACK)
    assert reach.walkways == ("walk",)
    codes = {f.code for f in all_findings(blocked, assess(blocked))}
    assert "hose-round" in codes
    low = blocked.replaced(features=(wall.replaced(top=0.4),))
    assert {r.pickup: r.around for r in reaches(low, FloorSpace(low), hose)}["sander/port"] == ()


def test_swaps_are_counted_and_the_time_won_back_worked_by_hand():
    hose = run(
        "hose",
        "saw/port",
        "fan",
        0.1,
        material="ribbed-hose",
        length=4.2,
        also_serves=("sander/port",),
    )
    project = shop(
        [machine("saw", 1, 1, uses_per_week=3), machine("sander", 4, 0, uses_per_week=1)],
        runs=[hose],
    )
    cost = swaps(project, hose)
    assert cost.each_week == pytest.approx(4 * (1 - 0.75**2 - 0.25**2)) == pytest.approx(1.5)
    assert cost.minutes == pytest.approx(1.5) and cost.weeks == pytest.approx(2 * 120 / 1.5)
    assert swaps(project, hose.replaced(coupling="quick")).minutes == pytest.approx(0.3)
    assert swaps(project, hose.replaced(swap_seconds=30)).minutes == pytest.approx(0.75)
    idle = edits.changed(edits.changed(project, "saw", uses_per_week=0), "sander", uses_per_week=0)
    assert swaps(idle, hose).weeks is None


# -- variants


def test_designs_are_kept_compared_and_brought_back_and_live_in_the_file():
    project, first = kept_designs.kept(demo(), None)
    with pytest.raises(RefusedEdit, match="kept already"):
        kept_designs.kept(project)
    changed = edits.with_hose_length(project, "planer-hose", 1.0)
    changed = edits.removed(changed, ["jointer"])
    again = project_file.parse(project_file.dump(changed), "again")
    assert again == changed and again.kept_designs[0].name == "Design A"
    rows = {row.machine: row for row in compared(assess(changed), kept_assessment(changed, first))}
    alone = assess(demo()).of_machine["planer"].worst.airflow
    assert rows["planer"].kept.airflow == pytest.approx(alone) and rows["planer"].change > 0.015
    assert (
        rows["jointer"].present is None and rows["jointer"].change is None and "lathe" not in rows
    )
    fine = judge(assess(kept_designs.as_project(changed, first)))
    assert served(list(rows.values()), present=False) == (4, fine.served()[0])
    back = kept_designs.brought_back(changed, "Design A")
    assert [v.name for v in back.kept_designs] == [
        "Design A",
        "Design B",
    ] and "jointer" in back.machine
    assert kept_designs.brought_back(back, "Design B").runs == changed.runs
    assert len(kept_designs.dropped(back, first).kept_designs) == 1
    assert kept_designs.renamed(back, first, "Short hose").kept_designs[0].name == "Short hose"
    for attempt in (
        lambda: kept_designs.find(back, "gone"),
        lambda: kept_designs.renamed(back, first, " "),
    ):
        with pytest.raises(InputError):
            attempt()


def test_a_kept_design_comes_back_whatever_has_been_taken_away_or_put_in_since():
    circuit = demo().circuits[0].id
    project, ident = kept_designs.kept(edits.changed(demo(), "saw", circuit=circuit))
    project = edits.removed(project, ["saw", circuit])
    assert edits.fresh_id(project, "saw") == "saw-2"
    back = kept_designs.brought_back(project, ident)
    assert (
        back.machine["saw"].circuit is None
        and kept_assessment(project, ident).of_machine["saw"].converged
    )


def test_two_systems_take_their_own_branches():
    far = collector("fan-2", 10.0, 3.0)
    project = shop([machine("saw", 4, 2)], collectors=(collector(), far))
    project, _ = drawn_on(project, "fan", 8.0, 0.0, Drawing("at a height", 1.5))
    project, _ = drawn_on(project, "fan-2", 2.0, 3.5, Drawing("at a height", 1.5))
    for ident in ("fan", "fan-2"):
        joined = connected(project, "saw/port", ident)
        assert assess(joined).of_machine["saw"].worst.collector == ident
        hose = next(r for r in joined.runs if r.start == "saw/port")
        assert distance(joined, hose) > 0

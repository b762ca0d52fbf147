"""Edits of the building and the machines: walls, copies, removals, snapping, library, underlay."""

import json
import math
import re

import ezdxf.filemanagement
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from grey_current.design.flow.assess import assess
from grey_current.design.parts.connecting import connected
from grey_current.errors import FileError, InputError, RefusedEdit
from grey_current.files import underlay
from grey_current.files.project_file import dump, parse
from grey_current.shop import edits, room_edits
from grey_current.shop.catalogue import machine_models
from grey_current.shop.copying import clip_of, pasted
from grey_current.shop.edits import changed
from grey_current.shop.pickup_edits import (
    with_intake,
    with_intake_figure,
    with_new_pickup,
    without_pickup,
)
from grey_current.shop.room import PNG, area, walls
from grey_current.shop.snap import snapped
from grey_current.shop.underlays import rescaled
from grey_current.spelling import names_alike
from grey_current.workspace.guide import next_step, stage_states
from grey_current.workspace.library import Library
from grey_current.workspace.placing import SHOP_THINGS, place, sized
from grey_current.workspace.workspace import Workspace
from tests.core.shops import demo, machine, shop


def outline(project):
    return project.rooms[0].outline


def empty():
    return demo("empty")


def test_an_l_is_made_by_splitting_a_wall_and_pushing_one_half():
    split = room_edits.with_wall_split(empty(), "room", 2)
    ell = room_edits.with_wall_pushed(split, "room", 2, -1.5)
    assert set(outline(ell)) == {(0, 0), (6, 0), (6, 2.5), (3, 2.5), (3, 4), (0, 4)}
    assert area(outline(ell)) == pytest.approx(24 - 4.5)
    back = room_edits.with_wall_pushed(ell, "room", 2, 1.5)
    assert area(outline(back)) == pytest.approx(24)


@given(st.integers(0, 3), st.floats(-1.5, 3))
def test_pushing_a_wall_changes_the_area_by_its_length(wall, out):
    project = empty()
    length = room_edits.wall_length(project.rooms[0], wall)
    pushed = room_edits.with_wall_pushed(project, "room", wall, out)
    assert area(outline(pushed)) == pytest.approx(24 + length * out, abs=1e-2)


def test_typed_sizes_and_lengths():
    sized_room = room_edits.with_size(empty(), "room", 5.2, 3.1)
    assert room_edits.size(sized_room.rooms[0]) == pytest.approx((5.2, 3.1))
    longer = room_edits.with_wall_length(sized_room, "room", 0, 7.0)
    assert room_edits.size(longer.rooms[0]) == pytest.approx((7.0, 3.1))
    ell = room_edits.with_wall_pushed(
        room_edits.with_wall_split(empty(), "room", 2), "room", 2, -1.5
    )
    wider = room_edits.with_size(ell, "room", 12, 4)
    assert area(outline(wider)) == pytest.approx(2 * area(outline(ell)))
    for bad in (0.0, 1000.0, float("nan")):
        with pytest.raises(InputError):
            room_edits.with_wall_length(empty(), "room", 0, bad)
    with pytest.raises(InputError, match="leave at least"):
        room_edits.with_wall_pushed(empty(), "room", 0, -4.0)
    with pytest.raises(InputError, match="cross"):
        room_edits.with_wall_pushed(ell, "room", 1, -6.5)


def test_doors_and_outlets_go_with_their_wall():
    project, _ = place(empty(), SHOP_THINGS[0], 3.0, 4.0)
    project, _ = place(project, next(t for t in SHOP_THINGS if t.kind == "outlet"), 1.0, 4.0)
    project, _ = place(project, SHOP_THINGS[4], 6.0, 2.0)
    pushed = room_edits.with_wall_pushed(project, "room", 2, 0.7)
    assert {p[1] for p in (pushed.element["door"].start, pushed.element["door"].end)} == {4.7}
    assert pushed.element["outlet"].y == 4.7 and pushed.element["outlet"].x == pytest.approx(1.0)
    assert pushed.element["window"].start == project.element["window"].start
    stretched = room_edits.with_size(project, "room", 9.0, 5.0)
    door = stretched.element["door"]
    assert {door.start[1], door.end[1]} == {5.0} and (
        door.start[0] + door.end[0]
    ) / 2 == pytest.approx(4.5)
    assert math.dist(door.start, door.end) == pytest.approx(0.85)
    assert stretched.element["window"].start[0] == 9.0
    turned = edits.changed(
        project, "door", start=project.element["door"].end, end=project.element["door"].start
    )
    kept = room_edits.with_wall_pushed(turned, "room", 2, 0.7).element["door"]
    assert (kept.start[0] < kept.end[0]) == (
        turned.element["door"].start[0] < turned.element["door"].end[0]
    )


@pytest.mark.parametrize(
    "thing", [t for t in SHOP_THINGS if t.kind not in ("tape", "scale")], ids=lambda t: t.title
)
def test_everything_on_the_strip_can_be_put_down_and_taken_away(thing):
    for system in ("us", "metric"):
        project = edits.with_settings(empty(), units=system)
        after, ident = place(project, sized(thing, system), 2.9, 3.8)
        assert after.find(ident) is not None
        assert after.replaced(name="again").find(ident) is not None
        if thing.kind == "opening":
            opening = after.element[ident]
            assert {opening.start[1], opening.end[1]} == {4.0}
            assert math.dist(opening.start, opening.end) == pytest.approx(
                sized(thing, system).width, abs=1e-3
            )
        assert edits.removed(after, [ident]).find(ident) is None
        _, second = place(after, sized(thing, system), 1.0, 1.0)
        assert second != ident


def test_every_catalogue_machine_can_be_placed_and_says_how_it_was_derived():
    project = empty()
    models = machine_models()
    assert len(models) >= 30 and len({m.body.name for m in models}) == len(models)
    for model in models:
        project, ident = edits.placed(project, model.body, 3, 2, 90)
        own = project.machine[ident]
        assert names_alike(own.kind, model.body.kind) and model.derived
        # In the figures of a metric shop: whole millimetres, its mains, the same power.
        assert not re.search(r"\d in\b", f"{own.name} {own.kind}")
        assert all(abs(size * 1000 % 1) < 1e-6 for size in (own.width, own.depth))
        if model.body.amps and model.body.volts:
            power = model.body.amps * model.body.volts
            assert own.volts == 230 and own.amps * own.volts == pytest.approx(power, rel=0.04)
        us, there = edits.placed(edits.with_settings(empty(), units="us"), model.body, 1, 1)
        assert us.machine[there].width == model.body.width
    project, ident = edits.placed(project, models[0].body, 1, 1)
    assert project.machine[ident].name == "Table saw 2"


def test_a_bare_room_gets_round_sizes_in_other_units_and_nothing_else_moves():
    us = room_edits.in_units(empty(), "us")
    across, deep = room_edits.size(us.rooms[0])
    assert all(
        abs(side / 0.3048 % 1) < 1e-3 or side / 0.3048 % 1 > 0.999 for side in (across, deep)
    )
    back = room_edits.in_units(us, "metric")
    assert back.rooms == empty().rooms and back.settings == empty().settings
    for drawn in (
        demo(),
        demo("allotment"),
        edits.placed(empty(), machine_models()[0].body, 1, 1)[0],
    ):
        other = room_edits.in_units(drawn, "metric" if drawn.settings.units == "us" else "us")
        assert other.rooms == drawn.rooms and other.machines == drawn.machines


def test_taking_a_machine_away_takes_its_hose_and_gates_but_not_the_main():
    project = demo()
    gone = edits.removed(project, ["planer"])
    assert "planer-hose" not in gone.run and "main-5" in gone.run and "gate-planer" in gone.gate
    assert len(edits.removed(project, ["cyclone"]).collectors) == 0
    assert "inlet-run" not in edits.removed(project, ["cyclone"]).run
    shed = edits.removed(demo("allotment"), ["planer-thicknesser"])
    assert shed.run["hose"].start == "bandsaw/lower" and shed.run["hose"].also_serves == (
        "saw/port",
    )
    with pytest.raises(RefusedEdit, match="at least one room"):
        edits.removed(project, ["loft"])


def test_copies_alignment_turns_and_parked_places():
    project, copies = pasted(demo(), clip_of(demo(), ["saw", "stove"]))
    assert set(copies) == {"saw-2", "stove-2"} and project.machine["saw-2"].x == pytest.approx(
        demo().machine["saw"].x + 0.3
    )
    lined = edits.aligned(project, ["saw", "jointer", "stove"], "y")
    assert lined.machine["jointer"].y == lined.machine["saw"].y
    assert edits.turned(project, ["saw"], 270).machine["saw"].turn == 270
    parked = edits.parked(project, "saw", 1.0, 0.0)
    moved = edits.moved(parked, "saw/parked-1", 0.5, 0.5)
    assert moved.machine["saw"].parked[0].y == pytest.approx(project.machine["saw"].y + 0.5)
    assert edits.unparked(moved, ["saw/parked-1"]).machine["saw"].parked == ()


@pytest.mark.parametrize("name", ["loft", "allotment"])
def test_a_whole_shop_copied_into_an_empty_one_breathes_alike(name):
    """Machines, collectors and ducts with their gates: every machine gets the very same air."""
    old = demo(name)
    everything = [*old.machine, *old.collector, *old.run, *(f.id for f in old.features)]
    same = old.settings.replaced(units=empty().settings.units)
    new, made = pasted(empty().replaced(settings=same), clip_of(old, everything))
    assert len(set(made)) == len(everything)
    before, after = assess(old), assess(new)
    for machine_, answer in before.of_machine.items():
        flows = [(p.pickup, p.airflow) for p in answer.pickups]
        twins = [(p.pickup, p.airflow) for p in after.of_machine[machine_].pickups]
        assert [p for p, _ in twins] == [p for p, _ in flows]
        assert [q for _, q in twins] == pytest.approx([q for _, q in flows], rel=1e-6)
    assert parse(dump(new), "x") == new
    # Once more, beside the first: two shops that have nothing in common.
    twice, more = pasted(new, clip_of(new, everything))
    assert not set(more) & set(made) and len(twice.runs) == 2 * len(old.runs)
    assert parse(dump(twice), "x") == twice


def test_what_is_copied_alone_stands_on_its_own():
    old = demo()
    # A branch without its machine and its main ends in points where those were.
    branch, made = pasted(empty(), clip_of(old, ["planer-drop", "planer-hose"]))
    assert len(made) == 2 and all(end in branch.point for r in branch.runs for end in r.ends)
    assert {gate.run for gate in branch.gates} <= set(made)
    # A guest without its host stands on the floor, with it on it.
    hosted = changed(old, "sander", host="saw", bottom=0.9)
    alone, _ = pasted(empty(), clip_of(hosted, ["sander"]))
    assert (alone.machines[0].host, alone.machines[0].bottom) == (None, 0.0)
    both, _ = pasted(empty(), clip_of(hosted, ["saw", "sander"]))
    assert both.machine["sander"].host == "saw" and both.machine["sander"].bottom == 0.9
    # A room goes with its door and windows, clear of the other rooms.
    roomed, _ = pasted(empty(), clip_of(old, ["loft"]))
    assert len(roomed.rooms) == 2 and len(roomed.openings) == len(old.openings)
    shapes = [shapely.Polygon(each.outline) for each in roomed.rooms]
    assert shapes[0].distance(shapes[1]) >= 1.0 - 1e-6
    assert shapes[1].area == pytest.approx(shapely.Polygon(old.rooms[0].outline).area)
    assert not clip_of(old, []) and pasted(old, clip_of(old, ["nothing"])) == (old, ())


def test_snapping_to_walls_neighbours_and_grid():
    project = shop([machine("a", 0, 0), machine("b", 5, 3)], collectors=())
    assert snapped(project, ["a"], -1.66, 0.0, 0.1, 0.01) == pytest.approx((-1.7, 0.0))
    assert snapped(project, ["a"], 2.0, 2.96, 0.1, 0.01) == pytest.approx((2.0, 3.0))
    assert snapped(project, ["a"], 1.234, 1.237, 0.01, 0.1) == pytest.approx((1.2, 1.2))


def test_the_nearest_wall_and_a_stretch_on_it():
    rooms = empty().rooms
    room, number, along, _ = room_edits.on_wall(rooms, (5.8, 1.0))
    assert (room, number) == ("room", 1) and along == pytest.approx(1.0)
    assert room_edits.span_on_wall(rooms, (0.2, 3.9), 0.8) == ((0.8, 4.0), (0.0, 4.0))
    assert len(walls(rooms[0].outline)) == 4


def test_the_users_own_machines_are_kept_in_one_file(tmp_path):
    library = Library(tmp_path)
    own = demo().machine["saw"].replaced(name="Father's saw")
    library.keep(own)
    library.keep(own.replaced(table_height=0.9))
    again = Library(tmp_path)
    assert [m.body.table_height for m in again.machines] == [0.9]
    assert again.all_models()[0].group == "My machines"
    for text, says in (
        ("{", "no readable machine file"),
        ('{"machines": [{"group": "x"}]}', "is missing"),
    ):
        again.path.write_text(text)
        broken = Library(tmp_path)
        assert says in (broken.problem or "")
        with pytest.raises(FileError):
            broken.keep(own)
        assert again.path.read_text() == text


def test_a_plan_underneath_is_read_scaled_and_kept(tmp_path):
    document = ezdxf.filemanagement.new("R2010")
    document.header["$INSUNITS"] = 4
    space = document.modelspace()
    space.add_lwpolyline([(100, 100), (6100, 100), (6100, 4100)])
    space.add_circle((3000, 2000), 500)
    path = tmp_path / "plan.dxf"
    document.saveas(path)
    plan = underlay.from_dxf(path)
    assert (plan.width, plan.height) == pytest.approx((6.0, 4.0)) and len(plan.lines) == 2
    twice = rescaled(plan, (1.0, 1.0), (2.0, 1.0), 2.0)
    assert twice.width == pytest.approx(12) and twice.x == pytest.approx(-1.0)
    project = empty().replaced(underlay=plan)
    assert type(project).model_validate(json.loads(project.model_dump_json())) == project
    picture = underlay.from_picture("plan.png", PNG, (400, 200), 8.0)
    assert picture.height == 4.0
    for name, content in (("no.dxf", "not a plan"), ("empty.dxf", None)):
        bad = tmp_path / name
        bad.write_text(content) if content else ezdxf.filemanagement.new().saveas(bad)
        with pytest.raises(FileError):
            underlay.from_dxf(bad)


def test_the_guide_leads_from_an_empty_floor_to_a_machine():
    workspace = Workspace(empty())
    assert workspace.stage == "shop" and "length and width" in next_step(workspace)
    assert [s.mark for s in stage_states(workspace)] == ["to do"] * 8
    workspace.put(SHOP_THINGS[0], 3, 4)
    assert workspace.findings_due and workspace.findings == workspace.known_findings
    assert stage_states(workspace)[0].mark == "done" and workspace.selection == "door"
    workspace.go("machines")
    assert "first machine" in next_step(workspace)
    workspace.copy()
    workspace.select_all(("door",))
    workspace.delete()
    assert workspace.project.openings == () and not workspace.can_paste
    loft = Workspace(demo())
    assert loft.findings
    assert [s.mark for s in stage_states(loft)] == [*["look"] * 5, "done", "done", "to do"]


@pytest.mark.parametrize("kind", ["hood", "sweep", "port"])
def test_a_pickup_is_added_connected_and_taken_away_with_its_branch(kind):
    project = with_new_pickup(with_new_pickup(demo(), "lathe", kind), "lathe", kind)
    assert [p.id for p in project.machine["lathe"].pickups] == [kind, f"{kind}-2"]
    joined = connected(project, f"lathe/{kind}")
    answer = assess(joined).of_machine["lathe"]
    assert answer.worst.airflow > 0.02 and answer.least.leaf is None
    bare = without_pickup(without_pickup(joined, f"lathe/{kind}"), f"lathe/{kind}-2")
    assert bare.machine["lathe"].pickups == ()
    assert {run.id for run in bare.runs} >= {
        run.id for run in demo().runs if not run.id.startswith("main")
    }
    assert assess(bare).of_machine["saw"].worst.airflow == pytest.approx(
        assess(demo()).of_machine["saw"].worst.airflow, rel=0.02
    )
    moved = demo("allotment")
    hose = next(run for run in moved.runs if run.also_serves)
    assert without_pickup(moved, hose.start).run[hose.id].start == hose.also_serves[0]
    for wrong in (
        lambda: with_new_pickup(project, "lathe", "tail"),
        lambda: without_pickup(project, "lathe/none"),
    ):
        with pytest.raises(InputError):
            wrong()


@pytest.mark.parametrize("opening", ["plain", "flanged", "tapered", "bell"])
def test_an_intake_told_the_other_way_loses_the_same(opening):
    project = edits.with_pickup(demo(), "planer/hood", opening=opening)
    told = with_intake(project, "planer/hood", "measured")
    got = [assess(p).of_machine["planer"].worst.airflow for p in (project, told)]
    assert got[1] == pytest.approx(got[0], rel=2e-3)
    back = with_intake(told, "planer/hood", "free area").pickup["planer/hood"][1].intake
    assert back.area == pytest.approx(project.pickup["planer/hood"][1].intake.area, rel=1e-6)
    with pytest.raises(InputError, match="intake"):
        with_intake_figure(project, "planer/hood", area=0.0)


def test_copies_have_their_own_names_and_places_and_what_was_cut_comes_back_where_it_was():
    workspace = Workspace(demo())
    workspace.select("planer")
    workspace.copy()
    workspace.paste()
    workspace.paste()
    twins = [workspace.project.machine[i] for i in ("planer-2", "planer-3")]
    assert [twin.name for twin in twins] == ["Planer 2", "Planer 3"]
    original = demo().machine["planer"]
    assert twins[0].parked[0].x == pytest.approx(original.parked[0].x + 0.3)
    workspace.select("lathe")
    before = workspace.project.machine["lathe"]
    workspace.cut()
    assert "lathe" not in workspace.project.machine and workspace.can_paste
    workspace.paste()
    assert workspace.project.machine["lathe"] == before and workspace.selection == "lathe"
    workspace.undo()
    workspace.undo()
    assert workspace.project.machine["lathe"] == before

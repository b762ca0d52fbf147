"""What must hold wherever a shop lies and whatever stands in it: ways, clashes, requirements,
noise, questions."""

import math

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from grey_current.design.collector.estimate import path_along_walls
from grey_current.design.collector.noise import at_machine
from grey_current.design.collector.requirement import available_pressure, requirements
from grey_current.design.collector.sizing import Sizing
from grey_current.design.flow.assess import assess
from grey_current.design.flow.trace import shop_air
from grey_current.design.space.clashes import DuctSpace
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hose_reach import reaches
from grey_current.shop import edits, kept_designs
from grey_current.shop.duct_edits import beside_walls
from grey_current.shop.places import distance
from grey_current.shop.room import Beam, Feature
from grey_current.shop.room_edits import rectangle
from grey_current.workspace import asking
from grey_current.workspace.jobs import (
    HelpMachine,
    HelpShop,
    OtherParts,
    SizeCollector,
    carried_out,
)
from grey_current.workspace.workspace import Workspace, demo_workspace
from tests.core.shops import collector, demo, machine, point, run, shop, straight_shop

INSIDE = st.tuples(st.floats(-1.9, 11.9), st.floats(-4.9, 4.9))
"""Places in the test shop's room."""
BOXES = st.lists(
    st.tuples(
        st.floats(0, 10),
        st.floats(-4, 3),
        st.floats(0.1, 2),
        st.floats(0.1, 2),
        st.floats(0.3, 2.9),
    ),
    max_size=4,
)


@settings(max_examples=80, deadline=None)
@given(INSIDE, INSIDE)
def test_a_way_along_the_walls_is_the_same_back_and_never_shorter_than_straight(a, b):
    project = shop()
    way = path_along_walls(project, a, b)
    assert way == pytest.approx(path_along_walls(project, b, a)) and way >= math.dist(a, b) - 1e-9
    assert way <= 24 + 20 + 1e-9  # half round, and from both places to a wall


@settings(max_examples=40, deadline=None)
@given(BOXES, st.floats(2, 9), st.floats(-3, 3))
def test_a_hose_lies_no_shorter_for_what_stands_in_its_way(boxes, x, y):
    hose = run("hose", "saw/port", "fan", 0.1, material="ribbed-hose", length=30.0)
    project = shop([machine("saw", x, y)], runs=[hose])
    things = tuple(
        Feature(id=f"box-{n}", name="Box", kind="rack", outline=rectangle(bx, by, w, d), top=top)
        for n, (bx, by, w, d, top) in enumerate(boxes)
    )
    free = reaches(project, FloorSpace(project), hose)[0].length
    assert free == pytest.approx(distance(project, hose))
    crowded = reaches(project, FloorSpace(project.replaced(features=things)), hose)[0]
    assert crowded.length >= free - 1e-9 and (crowded.length < 60 or math.isinf(crowded.length))
    flat = project.replaced(features=tuple(f.replaced(top=0.2) for f in things))
    low = reaches(flat, FloorSpace(flat), hose)[0]
    assert low.length == pytest.approx(free) and low.around == ()


@settings(max_examples=40, deadline=None)
@given(
    BOXES, st.floats(0.2, 2.8), st.floats(-4, 4), st.floats(-30, 30), st.sampled_from([0, 1, 2, 3])
)
def test_clashes_do_not_depend_on_where_the_shop_lies(boxes, height, y, shift, quarters):
    def placed(px, py):
        for _ in range(quarters):
            px, py = -py, px
        return round(px + shift, 6), round(py - shift, 6)

    def made(move):
        features = tuple(
            Feature(
                id=f"box-{n}",
                name="Box",
                kind="rack",
                outline=tuple(move(*c) for c in rectangle(bx, by, w, d)),
                top=top,
            )
            for n, (bx, by, w, d, top) in enumerate(boxes)
        )
        beam = Beam(id="beam", start=move(5, -5), end=move(5, 5), width=0.15, underside=2.2)
        ends = {"a": move(0.5, 0), "b": move(9, y)}
        base = shop(
            [],
            [point(n, ends[n][0], ends[n][1], height) for n in ends],
            [run("main", "b", "a")],
            collectors=(),
        )
        return base.replaced(features=features, beams=(beam,))

    here, there = made(lambda px, py: (px, py)), made(placed)
    found = [
        {(c.ident, c.kind) for c in DuctSpace(p).clashes(p.run["main"])} for p in (here, there)
    ]
    assert found[0] == found[1]
    high = edits.changed(edits.changed(here, "a", height=19.0), "b", height=19.0)
    assert {c.kind for c in DuctSpace(high).clashes(high.run["main"])} <= {"beam"}


@settings(max_examples=60, deadline=None)
@given(INSIDE, INSIDE, st.floats(0.05, 0.2), st.floats(0.0, 0.5))
def test_a_corner_settles_only_along_its_own_way_and_only_so_far(origin, place, diameter, reach):
    assume(math.dist(origin, place) > 0.2)
    moved = beside_walls(shop(), origin, place, diameter, reach)
    assert math.dist(moved, place) <= reach + 1e-9
    cross = (place[0] - origin[0]) * (moved[1] - origin[1]) - (place[1] - origin[1]) * (
        moved[0] - origin[0]
    )
    assert abs(cross) < 1e-6 * (1 + math.dist(origin, place) ** 2)


@settings(max_examples=15, deadline=None)
@given(st.floats(0.5, 6), st.floats(1.05, 2.5), st.sampled_from([0.075, 0.1, 0.127]))
def test_more_in_the_way_asks_for_more_suction_and_a_larger_need_for_more_air(length, factor, port):
    def made(metres, need=None):
        saw = machine("saw", 4, 0, port)
        saw = saw.replaced(pickups=(saw.pickups[0].replaced(need=need),))
        hose = run("hose", "saw/port", "joint", port, material="ribbed-hose", length=3.2 + metres)
        return shop([saw], [point("joint", 1, 0)], [hose, run("main", "joint", "fan")])

    (less,), (more,) = requirements(made(length), "fan"), requirements(made(length * factor), "fan")
    assert more.pressure > less.pressure and more.airflow == pytest.approx(less.airflow, rel=1e-3)
    (larger,) = requirements(made(length, less.airflow * factor), "fan")
    assert (
        larger.airflow == pytest.approx(less.airflow * factor, rel=1e-3)
        and larger.pressure > less.pressure
    )
    again = edits.with_settings(made(length), units="us")
    assert requirements(again, "fan")[0].pressure == pytest.approx(less.pressure, rel=1e-9)


@settings(max_examples=30, deadline=None)
@given(st.floats(0, 4), st.floats(0, 3000), st.floats(0.02, 1))
def test_what_a_collector_gives_falls_with_airflow_loading_and_thin_air(loading, altitude, opening):
    project = edits.with_settings(shop(), altitude=altitude)
    item, air = collector().replaced(opening=opening, stands="boxed in"), shop_air(project)
    flows = np.linspace(0.01, 0.5, 20)
    clean, loaded = (
        available_pressure(item, air, flows, 0.0),
        available_pressure(item, air, flows, loading),
    )
    assert (np.diff(clean) < 0).all() and (loaded <= clean + 1e-9).all()
    assert (available_pressure(item.replaced(stands="in the room"), air, flows, 0.0) > clean).all()
    gaps = available_pressure(item.replaced(opening=None), air, flows, 0.0)
    assert (
        gaps <= clean + 1e-9
    ).all()  # no opening is the building's own gaps, the least that there can be here
    thick = available_pressure(item, shop_air(shop()), np.array([0.01]), 0.0)
    assert clean[0] <= thick[0] + 1e-9


@settings(max_examples=40, deadline=None)
@given(st.floats(0.6, 12), st.floats(1.01, 3))
def test_it_is_never_louder_farther_off(away, factor):
    item = collector().replaced(noise=80.0)
    near, far = (at_machine(shop(), item, machine("m", d, 0)).level for d in (away, away * factor))
    assert far <= near + 1e-9


def test_each_stage_asks_its_own_question_and_an_edit_makes_every_answer_old():
    workspace = demo_workspace()
    assert asking.job(workspace) == HelpShop()
    workspace.select("planer")
    assert asking.job(workspace) == HelpMachine("planer")
    workspace.select("planer-hose")
    assert asking.job(workspace) == OtherParts("planer-hose", "planer")
    workspace.select("main-2")
    assert asking.job(workspace).machine == "saw"
    workspace.switch_on(("jointer",))
    assert asking.job(workspace).machine == "jointer"
    workspace.go("shop")
    assert asking.job(workspace) is None
    workspace.go("collector")
    asked = asking.job(workspace)
    assert asked == SizeCollector("cyclone") and asking.job_due(workspace) == asked
    found = carried_out(workspace.assessment.counted, asked)
    assert isinstance(found, Sizing) and workspace.computed.take_result(
        workspace.revision, asked, found
    )
    assert (
        asking.known_sizing(workspace) is found
        and asking.job_due(workspace) is None
        and workspace.computed.known_improvements(asked) is None
    )
    workspace.begin("Drag")
    workspace.preview(lambda p: edits.moved(p, "cyclone", 0.1, 0.0))
    assert asking.known_sizing(workspace) is None and asking.job_due(workspace) is None
    workspace.commit()
    assert asking.job_due(workspace) == asked and not workspace.computed.take_result(
        workspace.revision - 1, asked, found
    )
    assert asking.job(Workspace(shop([]))) is None


def test_a_comparison_follows_edits_and_ends_with_its_design():
    workspace = demo_workspace()
    workspace.edit("Keep", lambda p: kept_designs.kept(p, "Old")[0])
    workspace.compare("Old")
    assert all(row.change in (None, 0.0) for row in workspace.comparison)
    workspace.edit("Shorten", lambda p: edits.with_hose_length(p, "planer-hose", 1.0))
    changes = {row.machine: row.change for row in workspace.comparison}
    alone = assess(demo()).of_machine["planer"].worst.airflow
    now = workspace.assessment.of_machine["planer"].worst.airflow
    assert changes["planer"] == pytest.approx(now - alone) and changes["planer"] > 0.015
    workspace.edit("Drop", lambda p: kept_designs.dropped(p, "old"))
    assert workspace.comparison is None
    workspace.undo()
    assert workspace.comparison is not None
    workspace.edit("Replace", lambda p: kept_designs.with_design(p, "Old", straight_shop()))
    assert (
        len(workspace.project.kept_designs) == 1
        and workspace.project.kept_designs[0].machines[0].id == "saw"
    )
    workspace.compare(None)
    assert workspace.comparison is None

"""Ducts drawn on, runs split, pickups connected by themselves: geometry, and that the air agrees
with it."""

import math

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.flow.trace import trace
from grey_current.design.parts.buildable import BuildSet
from grey_current.design.parts.connecting import connected, reconnected
from grey_current.design.space.hits import clash_set
from grey_current.errors import RefusedEdit
from grey_current.shop import edits
from grey_current.shop.catalogue import catalogue
from grey_current.shop.collector_edits import with_collector
from grey_current.shop.duct_edits import (
    drawn_on,
    main_height,
    snapped_heading,
    split,
    upright_group,
    with_point_moved,
)
from grey_current.shop.duct_graph import runs_at
from grey_current.shop.places import position
from grey_current.workspace.placing import Placeable, place
from tests.core.shops import demo, machine, shop


def with_main(machines=(), **settings_of):
    """A collector at the left wall and a main along y = 0, drawn as a user draws it."""
    project, ident = place(
        shop(machines, collectors=(), **settings_of),
        Placeable("collector", "3 hp cyclone, 15 in impeller", "Cyclone"),
        -1,
        0,
    )
    for x in (6.0, 10.0):
        project, ident = drawn_on(project, ident, x, 0.0)
    return project


def test_a_main_leads_straight_out_up_and_on():
    project = with_main()
    assert [run.id for run in project.runs] == ["inlet", "riser", "main", "main-2"]
    bore = project.runs[0].diameter
    assert bore == pytest.approx(0.1778)
    assert math.dist(
        position(project, "cyclone"), position(project, "inlet-corner")
    ) == pytest.approx(5 * bore, abs=1e-3)
    assert position(project, "main-corner")[2] == pytest.approx(main_height(project, bore))
    assert "near-inlet" not in {f.code for f in all_findings(project, assess(project))}
    with pytest.raises(RefusedEdit, match="second duct"):
        drawn_on(project, "cyclone", 3, 3)
    with pytest.raises(RefusedEdit, match="same place"):
        drawn_on(project, "main-corner-2", 10.0, 0.0)


@settings(max_examples=40, deadline=None)
@given(
    st.floats(1.2, 9.5),
    st.floats(0.6, 4.0),
    st.booleans(),
    st.sampled_from([0.05, 0.1, 0.125]),
    st.booleans(),
)
@example(2.0, 0.8125, False, 0.05, False)
@example(9.5, 0.75, True, 0.1, True)
def test_a_pickup_anywhere_beside_a_main_is_connected_with_the_flow(x, away, left, port, metric):
    saw = machine("saw", x, away if left else -away, port)
    project = connected(with_main([saw], units="metric" if metric else "us"), "saw/port")
    pieces = {p.id: p for p in trace(project).networks["cyclone"].pieces}
    wyes = [p for p in pieces.values() if p.kind == "wye_branch"]
    assert len(wyes) == 1
    assert wyes[0].law.angle == pytest.approx(45, abs=2)
    kinds = [p.kind for p in pieces.values()]
    assert "hose" in kinds and kinds.count("gate") == 1 and not any(p.outside_data for p in wyes)
    answer = assess(project).of_machine["saw"]
    assert answer.converged and answer.pickups[0].airflow > 0.02
    found = {f.code for f in all_findings(project, assess(project))}
    assert not found & {"hose-short", "hose-long", "not-connected", "no-collector", "outside-data"}
    assert not found & {"open-end", "near-inlet"}
    assert [p.source_id for p in pieces.values() if p.kind == "leak"] == ["main-corner-2"]
    assert wyes[0].diameter == pytest.approx(port, abs=3.1e-3)
    # There is room all round: nothing is gone through, its own machine neither.
    assert not {hit for hit in clash_set(project).hits if hit.element.startswith("saw")}
    assert not [item for item in BuildSet(project).troubles if item.is_fault]


@pytest.mark.parametrize("name", ["loft", "allotment"])
def test_a_branch_put_in_anew_goes_round_things_and_can_be_put_together(name):
    project = demo(name)
    before = {item for item in BuildSet(project).troubles if item.is_fault}
    for ref in project.pickup:
        try:
            anew = reconnected(project, ref)
        except RefusedEdit:
            continue
        joins = [run for run in anew.runs if run.id not in project.run and run.end in anew.point]
        for run in (each for each in joins if len(runs_at(anew)[each.end]) > 2):
            (onward,) = [r for r in runs_at(anew)[run.end] if r.start == run.end]
            assert onward.diameter >= run.diameter - 3e-3, ref
        new = {hit for hit in clash_set(anew).hits if hit.element not in project.run}
        assert not {hit for hit in new if hit.kind in ("machine", "thing", "lane")}, ref
        assert not {item for item in BuildSet(anew).troubles if item.is_fault} - before, ref


def test_three_machines_are_connected_one_after_the_other_and_taken_away_again():
    machines = [
        machine("saw", 2.5, 2.0),
        machine("planer", 5.0, -2.5, 0.125),
        machine("sander", 8.0, 1.5, 0.063),
    ]
    project = start = with_main(machines)
    for ref in ("saw/port", "planer/port", "sander/port"):
        project = connected(project, ref)
    assessment = assess(project)
    assert all(u.converged and u.pickups[0].leaf is not None for u in assessment.answers)
    assert [g.id for g in project.gates] == [
        "gate-saw-port",
        "gate-planer-port",
        "gate-sander-port",
    ]
    with pytest.raises(RefusedEdit, match="delete the first one"):
        connected(project, "saw/port")
    gone = edits.removed(
        project, [i for i in project.element if i.startswith(("saw", "planer", "sander"))]
    )
    assert not any(run.id.startswith(("saw", "planer", "sander")) for run in gone.runs)
    assert not gone.gates
    assert len(start.runs) == 4


def test_without_a_main_there_is_nothing_to_connect_to():
    with pytest.raises(RefusedEdit, match="draw a main"):
        connected(shop([machine("saw", 4, 2)]), "saw/port")


def test_a_split_run_keeps_its_air_and_its_gates():
    project = demo()
    before = assess(project)
    for run, share in (("planer-drop", 0.5), ("main-4", 0.3), ("planer-drop", 0.2)):
        after, point = split(project, run, share)
        assert after.gate["gate-planer"].run in after.run
        there = after.gate["gate-planer"]
        spot = [
            a + (b - a) * there.at
            for a, b in zip(
                position(after, after.run[there.run].start),
                position(after, after.run[there.run].end),
                strict=True,
            )
        ]
        old = project.run["planer-drop"]
        was = [
            a + (b - a) * 0.35
            for a, b in zip(position(project, old.start), position(project, old.end), strict=True)
        ]
        assert spot == pytest.approx(was, abs=1e-3)
        flows = [u.airflow for u in assess(after).answers]
        assert flows == pytest.approx([u.airflow for u in before.answers], rel=1e-4)
        assert after.point[point].height > 0
    for run, share in (("planer-hose", 0.5), ("main-4", 0.0)):
        with pytest.raises(RefusedEdit, match="rigid duct"):
            split(project, run, share)


def test_a_drop_moves_as_one_and_fittings_are_inferred_anew():
    project = demo()
    assert upright_group(project, "saw-top") == {"saw-top", "saw-join", "saw-foot"}
    assert upright_group(project, "wye-saw") == {"wye-saw"}
    after = with_point_moved(project, "saw-join", 0.2, -0.3)
    for ident in ("saw-top", "saw-join", "saw-foot"):
        shift = [
            b - a for a, b in zip(position(project, ident), position(after, ident), strict=True)
        ]
        assert shift == pytest.approx([0.2, -0.3, 0.0], abs=1e-3)
    was, now = (
        next(p for p in trace(p_).networks["cyclone"].pieces if p.id == "saw-turn/elbow")
        for p_ in (project, after)
    )
    assert now.angle != pytest.approx(was.angle, abs=1)
    assert assess(after).of_machine["saw"].converged


def test_headings_snap_to_fittings():
    assert snapped_heading((0, 0), (3.0, 0.4)) == pytest.approx((3.0, 0.0))
    assert snapped_heading((1, 1), (3.0, 2.8)) == pytest.approx((2.9, 2.9))


@pytest.mark.parametrize("model", catalogue().collectors, ids=lambda model: model.model)
def test_what_leads_level_to_an_inlet_follows_it_when_the_collector_is_exchanged(model):
    project = with_main()
    there = with_collector(project, "cyclone", model.model)
    joint, main = there.point["inlet-corner"], there.point["main-corner"]
    assert main == project.point["main-corner"]
    room = abs(main.height - model.inlet_height) >= 0.4 and model.inlet_height < main.height
    assert (joint.height == pytest.approx(there.collector["cyclone"].inlet_height)) == room
    # What is pinned, or has no room to follow, stays.
    pinned = edits.changed(project, "inlet-corner", pinned=True)
    stays = with_collector(pinned, "cyclone", model.model).point["inlet-corner"]
    assert stays == pinned.point["inlet-corner"]

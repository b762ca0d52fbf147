"""Arrangements: named sets of places, of which one is laid out."""

from __future__ import annotations

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current import cli
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.errors import DuctworkError, InputError, RefusedEdit
from grey_current.files import project_file
from grey_current.files.arrangement_report import text
from grey_current.shop import arrangements, edits
from grey_current.shop.model import Project
from grey_current.shop.room import Circuit, Outlet
from grey_current.work.arrangements import arrangement_facts
from tests.core.shops import demo, machine, run
from tests.core.test_stacking import body, room_of, saw, thing, vac

CAR = thing("car", "car", 1.8, 3.0, 1.5, 0.0, x=3.0, y=2.0, away=True)


def with_car_in() -> Project:
    """A saw in the middle, which is rolled aside when the car comes in, and a bench with a vacuum."""
    project = room_of(
        saw(y=2.4, wheels=True), thing("bench", x=1.0, y=4.5), vac(x=1.0, y=4.5, host="bench"), CAR
    )
    project, _ = arrangements.begun(project, "Car in")
    project = edits.changed(project, "car", away=False)
    return edits.moved(project, "saw", 2.0, 1.9)


def places(project):
    found = {
        i.id: (i.x, i.y, i.turn, i.bottom, i.host) for i in (*project.machines, *project.collectors)
    }
    return found | {f.id: (f.outline, f.away, f.bottom, f.host) for f in project.features}


def test_going_to_and_fro_brings_everything_back():
    car_in = with_car_in()
    assert [each.name for each in car_in.arrangements] == ["Usual", "Car in"]
    usual = arrangements.laid_out(car_in, "usual")
    assert (usual.machine["saw"].x, usual.machine["saw"].y) == pytest.approx((3.0, 2.4))
    assert usual.element["car"].away and not car_in.element["car"].away
    again = arrangements.laid_out(usual, "Car in")
    assert places(again) == places(car_in) and again.arranged == car_in.arranged
    # What is changed while one is laid out is that one's.
    moved = edits.moved(usual, "bench", 0.5, 0.0)
    there_and_back = arrangements.laid_out(arrangements.laid_out(moved, "Car in"), "usual")
    assert places(there_and_back) == places(moved)
    assert project_file.parse(project_file.dump(there_and_back), "it") == there_and_back


def test_what_is_in_the_way_is_said_of_the_arrangement_in_which_it_is():
    project = with_car_in()
    found = {f.code: f for f in all_findings(project, assess(project))}
    assert "overlap" not in found and "in-arrangement" not in found
    # The bench moved to where the car stands is said while the car is away.
    usual = edits.moved(arrangements.laid_out(project, "usual"), "bench", 1.9, -2.4)
    usual = edits.changed(usual, "car", away=True)
    codes = {f.code for f in all_findings(usual, assess(usual))}
    assert "overlap" in codes  # in the saw, now
    wrong = arrangements.laid_out(edits.moved(project, "vac", 1.8, -2.4), "usual")
    said = [f for f in all_findings(wrong, assess(wrong)) if f.code == "in-arrangement"]
    assert said and all(f.message.startswith("In “Car in”: ") for f in said)
    assert any("stands in the car" in f.message for f in said)
    there = arrangements.laid_out(wrong, "Car in")
    assert "overlap" in {f.code for f in all_findings(there, assess(there))}


def test_the_facts_of_each_are_those_of_the_shop_laid_out_so():
    project = arrangements.laid_out(with_car_in(), "usual")
    facts = {each.name: each for each in arrangement_facts(project)}
    assert facts["Usual"].now and not facts["Usual"].moved
    assert set(facts["Car in"].moved) == {"saw", "car"}
    # The saw is on wheels: half a minute, and the car three.
    assert facts["Car in"].minutes == pytest.approx(3.5)
    assert facts["Usual"].longest["saw"] > facts["Car in"].longest["saw"]
    assert arrangement_facts(demo()) == []


def test_what_rolls_goes_together_and_what_its_ducts_no_longer_reach_is_said():
    """A planer with a vacuum under a trolley, and a hose from another machine that is too short
    once the trolley stands in the corner; a lead that reaches only where it usually stands."""
    trolley = thing("trolley", wheels=True, x=2.0, y=1.2)
    power = (
        Circuit(id="ring", name="Ring", volts=230, breaker=16),
        Outlet(id="wall", name="Outlet", x=2.0, y=0.0, circuit="ring", height=0.3),
    )
    project = room_of(trolley, vac(x=2.0, y=1.2, host="trolley", lead=2.0, circuit="ring"), *power)
    hose = run("hose", "sander/port", "vac", 0.063, material="smooth-hose")
    project = edits.added(project, machine("sander", 3.2, 1.2, port=0.06), hose)
    project, _ = arrangements.begun(project, "Assembly")
    project = edits.moved(project, "trolley", 3.2, 3.0)
    usual = arrangements.laid_out(project, "usual")
    facts = {each.name: each for each in arrangement_facts(usual)}
    there = facts["Assembly"]
    # One roll: the vacuum goes along with what it stands under.
    assert there.moved == ("trolley",) and there.minutes == pytest.approx(0.5)
    assert there.cut_off == ("sander",) and facts["Usual"].cut_off == ()
    assert there.served == 0
    assert any("its lead is" in problem for problem in there.problems)
    said = [f for f in all_findings(usual, assess(usual)) if f.code == "in-arrangement"]
    assert any("its lead is" in f.message for f in said)
    # Long enough, it is reached and served as by that hose.
    long = edits.changed(usual, "hose", length=6.0)
    there = {each.name: each for each in arrangement_facts(long)}["Assembly"]
    shop = arrangements.laid_out(long, "Assembly")
    assert there.cut_off == ()
    assert there.served == sum(a.met for a in assess(shop).of_machine.values())
    told = text(usual, arrangement_facts(usual))
    assert "do not reach: " in told and "trolley; half a minute" in told


def test_too_many_none_and_unknown_are_one_sentence():
    project = with_car_in()
    with pytest.raises(InputError, match="arrangements of this shop are: Usual, Car in"):
        arrangements.laid_out(project, "assembly")
    for name in ("", " ", "x" * 200):
        with pytest.raises(InputError):
            arrangements.renamed(project, "usual", name)
    for _ in range(6):
        project, _ = arrangements.begun(project)
    assert [each.name for each in project.arrangements][-1] == "Arrangement 8"
    with pytest.raises(RefusedEdit, match="a file holds 8"):
        arrangements.begun(project)
    with pytest.raises(DuctworkError, match="not there"):
        project.replaced(arranged="assembly")
    one = arrangements.dropped(with_car_in(), "usual")
    assert one.arrangements == () and one.arranged is None
    assert one.machine["saw"].x == pytest.approx(5.0)


def test_what_came_or_went_since_does_not_matter():
    project = edits.removed(with_car_in(), ("bench",))
    usual = arrangements.laid_out(edits.added(project, body("new", x=5.0, y=1.0)), "usual")
    assert "bench" not in usual.element and usual.machine["new"].x == 5.0
    assert usual.collector["vac"].host is None


@settings(max_examples=30, deadline=None)
@given(
    st.lists(
        st.tuples(st.sampled_from(("saw", "vac", "bench", "go", "new")), st.floats(-1, 1)),
        max_size=8,
    )
)
def test_no_switching_loses_a_place(steps):
    """Each arrangement is, whenever it is laid out, as it was left."""
    project, left = with_car_in(), {}
    for what, far in steps:
        if what == "go":
            left[project.arranged] = places(project)
            held = [each.id for each in project.arrangements]
            target = held[int(abs(far) * 97) % len(held)]
            project = arrangements.laid_out(project, target)
            if target in left:
                assert places(project) == left[target]
        elif what == "new" and len(project.arrangements) < 6:
            left[project.arranged] = places(project)
            project, _ = arrangements.begun(project)
        elif what in project.element:
            project = edits.moved(project, what, far, far / 2)


def test_the_command(tmp_path, capsys):
    path = tmp_path / "car.greycurrent.json"
    project_file.save(with_car_in(), path)
    assert cli.main(["arrangements", str(path)]) == 0
    said = capsys.readouterr().out
    assert "Car in (laid out now)" in said and "to move: the saw, the car" in said
    assert cli.main(["arrangements", str(path), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert [each["name"] for each in report["arrangements"]] == ["Usual", "Car in"]

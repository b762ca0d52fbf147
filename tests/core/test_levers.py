"""What would help most: each lever, applied, gives the very gain that it was computed to give."""

import pytest

from grey_current.design.flow.assessment import assess
from grey_current.design.flow.transport import slowest_transport
from grey_current.design.improve.ranking import LEAST_GAIN, improvements, part_improvements, shop_improvements
from grey_current.shop import edits
from tests.core.shops import demo, straight_shop


@pytest.mark.parametrize(
    ("shop", "machine"), [("loft", "planer"), ("loft", "saw"), ("loft", "bandsaw"), ("allotment", "bandsaw")]
)
def test_every_lever_applied_gives_its_gain(shop, machine):
    project = demo(shop)
    now = assess(project)
    worst = now.of_machine[machine].worst
    found = improvements(now, machine)
    assert len(found) >= 4
    assert [improvement.gain for improvement in found] == sorted(
        (improvement.gain for improvement in found), reverse=True
    )
    for improvement in found:
        then = assess(improvement.edit(project))
        after = next(p for p in then.of_machine[machine].pickups if p.pickup == worst.pickup)
        assert after.airflow - worst.airflow == pytest.approx(improvement.gain, rel=1e-5, abs=1e-8), improvement.words
        assert improvement.gain >= LEAST_GAIN * worst.need.airflow
        assert improvement.met == all(p.met for p in then.of_machine[machine].pickups)
        for other, loss in improvement.losers:
            was = now.of_machine[other].worst
            will = next(p for p in then.of_machine[other].pickups if p.pickup == was.pickup)
            assert was.airflow - will.airflow == pytest.approx(loss, rel=1e-4)
        assert project.find(improvement.element) is not None


def test_the_levers_know_the_faults_of_the_shop():
    words = [improvement.words for improvement in improvements(assess(demo()), "planer")]
    assert words[0] == "Shut what is left open: the mitre saw's gate"
    assert "Hose 10' 6\" → 3' 2\"" in words
    blinded = demo().collectors[0].filter.replaced(loading=3.0)
    dirty = edits.changed(demo(), "cyclone", filter=blinded)
    assert any(improvement.words == "Clean the filter" for improvement in improvements(assess(dirty), "planer"))
    mitred = edits.changed(demo(), "planer-top", elbow="mitre")
    assert any("Long-radius" in improvement.words for improvement in improvements(assess(mitred), "planer"))


def test_nothing_is_offered_where_there_is_nothing_to_gain_and_a_search_can_be_stopped():
    assert improvements(assess(demo()), "lathe") == []
    assert improvements(assess(demo()), "planer", wanted=lambda: False) == []
    assert all(improvement.gain > 0 for improvement in improvements(assess(straight_shop()), "saw"))


@pytest.mark.parametrize(
    ("element", "machine", "least"),
    [
        ("wye-planer", "planer", 4),
        ("planer-top", "planer", 6),
        ("planer-drop", "planer", 5),
        ("gate-planer", "planer", 4),
        ("planer-hose", "planer", 3),
        ("main-2", "bandsaw", 3),
    ],
)
def test_every_other_way_to_make_a_part_gives_what_was_said(element, machine, least):
    project = demo()
    now = assess(project)
    worst = now.of_machine[machine].worst
    found = part_improvements(now, element, machine)
    assert len(found) >= least and len({choice.words for choice in found}) == len(found)
    for choice in found:
        then = assess(choice.edit(project))
        after = next(p for p in then.of_machine[machine].pickups if p.pickup == worst.pickup)
        assert after.airflow - worst.airflow == pytest.approx(choice.gain, rel=1e-4, abs=1e-7), choice.words
    assert part_improvements(now, "lathe", machine) == [] and part_improvements(now, element, "lathe") == []


def test_what_helps_the_whole_shop_is_what_the_short_machines_win():
    project = demo()
    now = assess(project)
    found = shop_improvements(now)
    assert found[0].words == "Shut what is left open: the mitre saw's gate" and len(found) > 8
    for improvement in found[:6]:
        then = assess(improvement.edit(project))
        gain = 0.0
        for scenario in now.answers:
            if scenario.worst is not None:
                after = next(p for p in then.of(scenario.scenario).pickups if p.pickup == scenario.worst.pickup)
                gain += min(after.airflow, after.need.airflow) - min(
                    scenario.worst.airflow, scenario.worst.need.airflow
                )
        assert gain == pytest.approx(improvement.gain, rel=1e-3, abs=1e-7), improvement.words
    assert shop_improvements(now, wanted=lambda: False) == []


def test_with_enough_air_it_is_the_chips_that_are_helped():
    now = assess(edits.changed(demo(), "gate-mitre", rule="with its machine"))
    answer = now.of_machine["router-table"]
    assert answer.worst.met and slowest_transport(now.project, answer).share < 0.8
    found = improvements(now, "router-table")
    assert found and found[0].transport > slowest_transport(now.project, answer).share
    for improvement in found[:4]:
        then = assess(improvement.edit(now.project)).of_machine["router-table"]
        assert slowest_transport(improvement.edit(now.project), then).share == pytest.approx(
            improvement.transport, rel=1e-4
        )
        assert then.worst.met
    assert any(improvement.words.startswith("Leave the ") for improvement in found)

"""What would help most: each lever, applied, gives the very gain that it was computed to give."""

import pytest

from grey_current.design.assess import assess
from grey_current.design.levers import LEAST_GAIN, levers
from grey_current.shop import edits
from tests.core.shops import demo, straight_shop


@pytest.mark.parametrize(
    ("shop", "machine"), [("loft", "planer"), ("loft", "saw"), ("loft", "bandsaw"), ("allotment", "bandsaw")]
)
def test_every_lever_applied_gives_its_gain(shop, machine):
    project = demo(shop)
    now = assess(project)
    worst = now.of_machine[machine].worst
    found = levers(now, machine)
    assert len(found) >= 4
    assert [lever.gain for lever in found] == sorted((lever.gain for lever in found), reverse=True)
    for lever in found:
        then = assess(lever.change(project))
        after = next(p for p in then.of_machine[machine].pickups if p.pickup == worst.pickup)
        assert after.airflow - worst.airflow == pytest.approx(lever.gain, rel=1e-5, abs=1e-8), lever.words
        assert lever.gain >= LEAST_GAIN * worst.need.airflow
        assert lever.met == all(p.met for p in then.of_machine[machine].pickups)
        for other, loss in lever.losers:
            was = now.of_machine[other].worst
            will = next(p for p in then.of_machine[other].pickups if p.pickup == was.pickup)
            assert was.airflow - will.airflow == pytest.approx(loss, rel=1e-4)
        assert project.find(lever.element) is not None


def test_the_levers_know_the_faults_of_the_shop():
    words = [lever.words for lever in levers(assess(demo()), "planer")]
    assert words[0] == "Shut what is left open: 'gate-mitre'"
    assert "Hose 10' 6\" → 3' 2\"" in words
    blinded = demo().collectors[0].filter.but(loading=3.0)
    dirty = edits.changed(demo(), "cyclone", filter=blinded)
    assert any(lever.words == "Clean the filter" for lever in levers(assess(dirty), "planer"))
    mitred = edits.changed(demo(), "planer-top", elbow="mitre")
    assert any("Long-radius" in lever.words for lever in levers(assess(mitred), "planer"))


def test_nothing_is_offered_where_there_is_nothing_to_gain_and_a_search_can_be_stopped():
    assert levers(assess(demo()), "lathe") == []
    assert levers(assess(demo()), "planer", wanted=lambda: False) == []
    assert all(lever.gain > 0 for lever in levers(assess(straight_shop()), "saw"))

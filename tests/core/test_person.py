"""Who works in the shop: levers in reach, ducts over the head, what is lifted."""

import pytest

from grey_current.design.collector.fit import WARN_AT, full_bin
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.judgement import judge
from grey_current.design.space.gate_reach import is_out_of_reach, lever_place
from grey_current.errors import InputError
from grey_current.files.project_file import dump, parse
from grey_current.shop.edits import with_settings
from grey_current.shop.person import head_room, reach_up
from grey_current.workspace.placing import SHOP_THINGS, place
from tests.core.shops import demo

FINISH_STORE = next(thing for thing in SHOP_THINGS if thing.title == "Finish store")
pytestmark = pytest.mark.usefixtures("compiled_kernel")


def of_code(project, code):
    return [f for f in all_findings(project, assess(project)) if f.code == code]


@pytest.mark.parametrize(
    ("tall", "reach", "head"),
    [(None, 1.9, 1.9), (1.75, 1.9005, 1.9), (1.5, 1.629, 1.9), (2.0, 2.172, 2.15)],
)
def test_reach_and_head_room_by_hand(tall, reach, head):
    settings = demo().settings.replaced(tall=tall)
    assert reach_up(settings) == pytest.approx(reach, abs=1e-3)
    assert head_room(settings) == pytest.approx(head)


def test_a_reach_that_is_said_goes_before_ones_height():
    seated = with_settings(demo(), tall=1.8, reaches=1.3)
    assert reach_up(seated.settings) == 1.3 and head_room(seated.settings) == 1.95
    assert judge(assess(seated)).fetching > judge(assess(demo())).fetching
    assert parse(dump(seated), "x") == seated


def test_somebody_small_reaches_fewer_gates_and_that_is_judged():
    project = demo()
    heights = sorted(lever_place(project, gate)[2] for gate in project.gates)
    small = with_settings(project, tall=heights[-1] / 1.086 - 0.05)
    for gate in small.gates:
        if lever_place(small, gate)[2] > reach_up(small.settings):
            assert is_out_of_reach(small, gate) or gate.rule != "with its machine"
    assert len(of_code(small, "gate-reach")) == 1
    (found,) = of_code(small, "gate-reach")
    assert found.limit == reach_up(small.settings)
    assert judge(assess(small)).fetching > judge(assess(project)).fetching
    assert parse(dump(small), "x") == small


def test_somebody_tall_walks_into_more():
    project = demo()
    before = sum(f.code == "low-duct" for f in all_findings(project, assess(project)))
    lowest = min(p.height for p in project.points if p.height > 1.95)
    tall = with_settings(project, tall=min(lowest + 0.1, 2.4))
    assert sum(f.code == "low-duct" for f in all_findings(tall, assess(tall))) >= before
    assert judge(assess(tall)).low >= judge(assess(project)).low


def test_a_bin_that_is_too_heavy_is_said_with_how_full_it_may_be():
    project = demo()
    (cyclone,) = project.collectors
    weight = full_bin(cyclone) * WARN_AT
    assert of_code(project, "heavy-bin") == []
    assert of_code(with_settings(project, lifts=weight + 1), "heavy-bin") == []
    (found,) = of_code(with_settings(project, lifts=weight / 2), "heavy-bin")
    assert "33%" in found.remedies[0] and found.element == "cyclone"
    with pytest.raises(InputError, match="at most"):
        with_settings(project, tall=18.0)
    with pytest.raises(InputError, match=r"at most 2\.40 m"):
        with_settings(with_settings(project, units="metric"), tall=18.0)


def test_finish_beside_heat_or_a_motor_is_said():
    project = demo()
    (stove,) = [f for f in project.features if f.kind == "stove"]
    (x, y), cyclone = stove.outline[0], project.collectors[0]
    for at, code in (
        ((x, y - 1.0), ("store-near-heat", stove.id)),
        ((cyclone.x + 0.5, cyclone.y - 1.2), ("store-near-heat", cyclone.id)),
        ((x + 5.0, y), None),
    ):
        store, ident = place(project, FINISH_STORE, *at)
        assert store.element[ident].kind == "finish store"
        found = of_code(store, "store-near-heat")
        assert [(f.code, f.also[0]) for f in found] == ([code] if code else [])
        assert parse(dump(store), "x") == store

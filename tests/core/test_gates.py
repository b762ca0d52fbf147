"""Gates in the order of the main, who opens what, and that a proposed gate does what it
promises."""

import pytest

from grey_current import cli
from grey_current.design.flow.assess import assess
from grey_current.design.flow.gates import (
    flushings,
    gate_machine,
    gate_order,
    gate_table,
    open_gates,
    opened_for,
    own_gates,
)
from grey_current.design.flow.scenarios import Scenario
from grey_current.design.flow.transport import slowest_transport, transport_checks
from grey_current.design.judgement import judge
from grey_current.shop import edits
from grey_current.shop.demo_shops import demo_path
from grey_current.shop.ducts import Gate
from grey_current.workspace.workspace import Workspace
from tests.core.shops import demo, straight_shop


def test_gates_stand_in_the_order_of_the_main():
    order = gate_order(assess(demo()))
    assert order == [
        f"gate-{name}"
        for name in ("bandsaw", "mitre", "saw", "planer", "jointer", "router", "sander", "sweep")
    ]
    assert gate_order(assess(demo("allotment"))) == []


def test_the_table_says_which_gates_are_open_for_whom():
    now = assess(demo())
    table, own = gate_table(now), own_gates(now)
    assert set(table) == {m for m in demo().machine if m != "lathe"}
    assert table["saw"] == {"gate-saw", "gate-mitre"} and table["mitre-saw"] == {"gate-mitre"}
    assert gate_machine(own, "gate-mitre") == "mitre-saw"
    both = open_gates(now, Scenario(("saw", "planer")))
    assert both == {"gate-saw", "gate-planer", "gate-mitre"}
    shared = edits.changed(demo(), "gate-saw", run="main-2")
    assert gate_machine(own_gates(assess(shared)), "gate-saw") is None


@pytest.mark.parametrize("machine", ["jointer", "sander", "router-table"])
def test_a_gate_left_open_for_a_slow_main_does_what_was_promised(machine):
    project = demo()
    now = assess(project)
    answer = now.of_machine[machine]
    found = flushings(now, answer)
    assert found and found[0].before == pytest.approx(slowest_transport(project, answer).share)
    best = found[0]
    opened = edits.changed(project, best.gate, rule="left open")
    then = assess(opened).of_machine[machine]
    slow = {c.piece for c in transport_checks(project, answer) if c.share < 1}
    assert best.after > best.before * 1.05
    assert min(c.share for c in transport_checks(opened, then) if c.piece in slow) == pytest.approx(
        best.after, rel=1e-5
    )
    assert all(p.met for p in then.pickups) == best.met


def test_two_systems_at_work_are_judged_each_for_itself():
    project = edits.added(
        demo("allotment"), Gate(id="gate-hose", run="hose"), Gate(id="gate-vac", run="vacuum-hose")
    )
    scenario = Scenario(("saw", "router-table"))
    now = assess(project, [scenario])
    assert set(now.answers[0].systems) == {"chip-collector", "vacuum"}
    assert {c.collector for c in transport_checks(project, now.answers[0])} == {
        "chip-collector",
        "vacuum",
    }
    both = flushings(now, now.answers[0])
    alone = assess(project, [Scenario(("saw",))])
    assert [w for w in both if w.before < 1] == flushings(alone, alone.answers[0])


def test_nothing_is_proposed_where_chips_are_carried():
    project = straight_shop()
    now = assess(project)
    assert flushings(now, now.of_machine["saw"]) == []


def test_a_gate_is_opened_for_a_machine_once_and_shut_for_it_alone():
    project = opened_for(opened_for(demo(), "gate-planer", "saw"), "gate-planer", "jointer")
    again = opened_for(project, "gate-planer", "saw")
    assert again.gate["gate-planer"].also_open_for == ("jointer", "saw")
    assert opened_for(again, "gate-planer", "saw", opened=False).gate[
        "gate-planer"
    ].also_open_for == ("jointer",)


def test_the_table_on_the_command_line(capsys):
    assert cli.main(["gates", str(demo_path("loft"))]) == 0
    out = capsys.readouterr().out
    assert "  2  gate-mitre  (left open)" in out
    assert "Planer                   . O . O . . . ." in out


def test_a_lever_that_would_help_makes_the_whole_shop_better():
    """The mark goes by the one judgement: what it opens lessens the shop's trouble, or there is no
    mark."""
    marked = 0
    for name in ("loft", "allotment"):
        workspace = Workspace(demo(name))
        before = judge(assess(workspace.project))
        for machine in workspace.project.machine:
            workspace.switch_on((machine,))
            helping = [
                lever.gate
                for lever in workspace.computed.levers((machine,)).levers
                if lever.would_help
            ]
            assert len(helping) <= 1
            for gate in helping:
                then = opened_for(workspace.project, gate, machine)
                assert judge(assess(then)).trouble < before.trouble
                marked += 1
    assert marked

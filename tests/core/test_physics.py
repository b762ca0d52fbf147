"""Where the physics of a shop is easily got wrong: seams, own fans, back-flow, wyes, power, thin air, hoses."""

import json

import numpy as np
import pytest

from grey_current.air import laws
from grey_current.air.bank import SHARE_MARGIN
from grey_current.design.collector.requirement import requirements
from grey_current.design.flow.assessment import assess
from grey_current.design.flow.trace import trace
from grey_current.files.air_report import air_report
from grey_current.shop import edits
from grey_current.shop.fans import CurvePoints
from tests.core.shops import collector, demo, machine, point, run, shop
from tests.core.strategies import bank


def test_a_leaky_shop_with_wyes_reports_its_nodes_and_keeps_its_spacing_allowances():
    tight, leaky = (edits.with_settings(demo(), duct_leakage=c) for c in (0.0, 1e-6))
    report = air_report(assess(leaky))
    json.dumps(report)
    pieces = report["uses"][0]["pieces"]
    nodes = {node["id"]: node["total_pressure_pa"] for node in report["uses"][0]["nodes"]}
    for piece in pieces:
        drop = nodes[piece["from"]] - nodes[piece["to"]] if piece["kind"] != "fan" else piece["total_pressure_loss_pa"]
        assert drop == pytest.approx(piece["total_pressure_loss_pa"], abs=1e-6)
    spaced = [
        {p.id for net in trace(project).values() for p in net.pieces if p.kind == "spacing"}
        for project in (tight, leaky)
    ]
    assert spaced[0] == spaced[1] and spaced[0]


def two_with_a_fan(strength=3000.0):
    """A saw with a strong chip fan of its own and a sander, on one main."""
    saw = machine("saw", 4, 0)
    own = saw.pickups[0].replaced(own_fan=CurvePoints(points=((0.0, strength), (0.4, 0.0))))
    runs = [run("main", "wye", "fan"), run("a", "saw/port", "wye", 0.1), run("b", "sander/port", "wye", 0.1)]
    return shop([saw.replaced(pickups=(own,)), machine("sander", 4, 3)], [point("wye", 2, 0)], runs)


def test_a_machines_own_fan_stands_while_its_machine_does():
    with_fan = two_with_a_fan()
    bare = edits.with_pickup(with_fan, "saw/port", own_fan=None)
    sander = {p: assess(p).of_machine["sander"].pickups[0].airflow for p in (with_fan, bare)}
    assert sander[with_fan] > 0.95 * sander[bare] > 0
    saw = {p: assess(p).of_machine["saw"].pickups[0].airflow for p in (with_fan, bare)}
    assert saw[with_fan] > 1.1 * saw[bare]
    report = {use["running"][0]: use for use in air_report(assess(with_fan))["uses"]}
    kinds = {who: {p["kind"] for p in use["pieces"] if p["id"] == "saw/port/fan"} for who, use in report.items()}
    assert kinds == {"saw": {"fan"}, "sander": {"standing_fan"}}


def test_what_a_collector_must_do_leaves_a_machines_own_fan_as_it_is():
    project = two_with_a_fan(400.0)
    asked = {r.scenario.running: r for r in requirements(project, "fan")}[("saw",)]
    made = edits.changed(
        project,
        "fan",
        fan=CurvePoints(points=((0.0, 4 * asked.pressure), (asked.airflow, asked.pressure), (2 * asked.airflow, 0.0))),
        filter=project.collectors[0].filter.replaced(resistance=1e-6),
        separator=None,
    )
    got = assess(made).of_machine["saw"].pickups[0]
    assert got.airflow == pytest.approx(got.need.airflow, rel=0.02)


@pytest.mark.parametrize("main", [True, False])
def test_back_flow_in_a_wye_stays_at_the_end_of_its_data_and_is_marked(main):
    one = bank([laws.Wye(main, 45.0, 0.1, 0.15, 0.15 if main else 0.1)])
    ends = [one.wye_coefficients(np.array([[q]]), np.array([[0.3]]))[0, 0] for q in (0.0, 0.3)]
    for flow in (-0.3, -0.05, 0.4, 3.0):
        k = one.wye_coefficients(np.array([[flow]]), np.array([[0.3]]))[0, 0]
        end = ends[0] if flow < 0 else ends[1]
        assert abs(k - end) <= SHARE_MARGIN * 12
    blind = edits.changed(two_with_a_fan(), "fan", filter=collector().filter.replaced(resistance=150_000))
    marked = {p["id"] for p in air_report(assess(blind))["uses"][0]["pieces"] if p.get("outside_data")}
    assert any(ident.startswith("wye/") for ident in marked)

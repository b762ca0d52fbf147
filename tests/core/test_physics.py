"""Where the physics of a shop is easily got wrong: seams, own fans, back-flow, wyes, power, thin
air, hoses."""

import json
import math

import numpy as np
import pytest

from grey_current.air import fan, laws
from grey_current.air.bank import SHARE_MARGIN
from grey_current.design.collector.candidates import fan_power, offers
from grey_current.design.collector.requirement import requirements
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import all_scenarios, need
from grey_current.design.flow.trace import shop_air, trace
from grey_current.design.flow.transport import slowest_transport
from grey_current.errors import InputError
from grey_current.files.air_report import air_report
from grey_current.shop import edits
from grey_current.shop.catalogue import catalogue, new_collector
from grey_current.shop.collector_edits import with_filter
from grey_current.shop.ducts import Gate
from grey_current.shop.fans import CurvePoints
from grey_current.shop.machines import Measured
from tests.core.shops import collector, demo, machine, point, run, shop
from tests.core.strategies import bank


def test_a_leaky_shop_with_wyes_reports_its_nodes_and_keeps_its_spacing_allowances():
    tight, leaky = (edits.with_settings(demo(), duct_leakage=c) for c in (0.0, 1e-6))
    report = air_report(assess(leaky))
    json.dumps(report)
    pieces = report["uses"][0]["pieces"]
    nodes = {node["id"]: node["total_pressure_pa"] for node in report["uses"][0]["nodes"]}
    for piece in pieces:
        drop = (
            nodes[piece["from"]] - nodes[piece["to"]]
            if piece["kind"] != "fan"
            else piece["total_pressure_loss_pa"]
        )
        assert drop == pytest.approx(piece["total_pressure_loss_pa"], abs=1e-6)
    spaced = [
        {
            p.id
            for net in trace(project).networks.values()
            for p in net.pieces
            if p.kind == "spacing"
        }
        for project in (tight, leaky)
    ]
    assert spaced[0] == spaced[1] and spaced[0]


def two_with_a_fan(strength=3000.0):
    """A saw with a strong chip fan of its own and a sander, on one main."""
    saw = machine("saw", 4, 0)
    own = saw.pickups[0].replaced(own_fan=CurvePoints(points=((0.0, strength), (0.4, 0.0))))
    runs = [
        run("main", "wye", "fan"),
        run("a", "saw/port", "wye", 0.1),
        run("b", "sander/port", "wye", 0.1),
    ]
    return shop([saw.replaced(pickups=(own,)), machine("sander", 4, 3)], [point("wye", 2, 0)], runs)


def test_a_machines_own_fan_stands_while_its_machine_does():
    with_fan = two_with_a_fan()
    bare = edits.with_pickup(with_fan, "saw/port", own_fan=None)
    sander = {p: assess(p).of_machine["sander"].pickups[0].airflow for p in (with_fan, bare)}
    assert sander[with_fan] > 0.95 * sander[bare] > 0
    saw = {p: assess(p).of_machine["saw"].pickups[0].airflow for p in (with_fan, bare)}
    assert saw[with_fan] > 1.1 * saw[bare]
    report = {use["running"][0]: use for use in air_report(assess(with_fan))["uses"]}
    kinds = {
        who: {p["kind"] for p in use["pieces"] if p["id"] == "saw/port/fan"}
        for who, use in report.items()
    }
    assert kinds == {"saw": {"fan"}, "sander": {"standing_fan"}}


def test_what_a_collector_must_do_leaves_a_machines_own_fan_as_it_is():
    project = two_with_a_fan(400.0)
    asked = {r.scenario.running: r for r in requirements(project, "fan")}[("saw",)]
    made = edits.changed(
        project,
        "fan",
        fan=CurvePoints(
            points=(
                (0.0, 4 * asked.pressure),
                (asked.airflow, asked.pressure),
                (2 * asked.airflow, 0.0),
            )
        ),
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
    blind = edits.changed(
        two_with_a_fan(), "fan", filter=collector().filter.replaced(resistance=150_000)
    )
    marked = {
        p["id"] for p in air_report(assess(blind))["uses"][0]["pieces"] if p.get("outside_data")
    }
    assert any(ident.startswith("wye/") for ident in marked)


def test_more_air_takes_more_power_and_an_open_shop_can_overload_the_motor():
    curve = fan.curve_from_points([(0.0, 3450.0), (0.4, 2300.0), (0.71, 0.0)])
    powers = [fan.shaft_power(curve, q, 2237) for q in np.linspace(0, 0.71, 30)]
    assert (np.diff(powers) > 0).all() and powers[0] == pytest.approx(0.3 * powers[-1])
    assert powers[-1] > 1.15 * 2237 > fan.shaft_power(curve, 0.4, 2237)
    for model in (
        catalogue().collectors
    ):  # a vacuum draws nearly the same whatever passes, and never too much
        item, own = new_collector(model, "x", "x", 0, 0), fan.curve_from_points(model.fan.points)
        shut, free = (fan_power(item, q, shop_air(demo())) for q in (0.0, own.free_delivery))
        vacuum = model.kind == "vacuum"
        assert (
            fan.is_vacuum(own) == vacuum
            and (shut / free > 0.8) == vacuum
            and 0.24 < shut / free < 0.9
        )
        assert not vacuum or free == pytest.approx(model.motor.power)
        tip = math.pi * model.impeller * fan.MOTOR_RPM[60] / 60
        assert vacuum or own.shut_off == pytest.approx(
            fan.SHUT_OFF_FACTOR * fan.REFERENCE_DENSITY * tip**2, rel=0.03
        )
        assert (
            vacuum
            or fan.best_air_power(own) / fan.shaft_power(own, 0.55 * own.free_delivery, 0.0) < 0.5
        )
    saws = [machine(f"saw-{n}", 2 + n, 3, 0.15) for n in range(12)]
    points = [point(f"wye-{n}", 2 + n, 0) for n in range(12)]
    ends = ["fan", *(f"wye-{n}" for n in range(11))]
    mains = [run(f"main-{n}", f"wye-{n}", ends[n], 0.2) for n in range(12)]
    branches = [run(f"branch-{n}", f"saw-{n}/port", f"wye-{n}", 0.15) for n in range(12)]
    fans = collector().replaced(inlet=0.2)
    gates = [Gate(id=f"gate-{n}", run=f"branch-{n}") for n in range(12)]
    project = shop(saws, points, [*mains, *branches], gates, collectors=[fans])

    def taken(count):
        sets = edits.with_settings(project, together=(tuple(saw.id for saw in saws[:count]),))
        assessed = assess(sets, all_scenarios(sets)[-1:])
        return fan_power(fans, assessed.most_airflow("fan"), assessed.air), all_findings(
            sets, assess(sets)
        )

    few, _ = taken(2)
    many, found = taken(12)
    assert many > few
    assert ("motor" in {f.code for f in found}) == (many > 1.15 * fans.motor.power)


def test_a_filter_is_new_seasoned_or_due_and_may_be_missing():
    project = demo()
    item = project.collectors[0].filter
    assert item.loading == item.seasoned < item.due

    def got(**changes):
        return (
            assess(with_filter(project, "cyclone", **changes))
            .of_machine["planer"]
            .pickups[0]
            .airflow
        )

    assert got(loading=0.0) > got() > got(loading=item.due)
    none = with_filter(project, "cyclone", kind="none")
    assert assess(none).of_machine["planer"].pickups[0].airflow > got(loading=0.0)
    assert "no-filter" in {f.code for f in all_findings(none, assess(none))}
    back = with_filter(none, "cyclone", kind="pleated cartridge")
    assert back.collectors[0].filter.resistance == pytest.approx(2500 / item.area)
    offer = next(o for o in offers(assess(project), "cyclone", ()))
    assert offer.served >= offer.loaded


def test_thin_air_must_run_faster():
    low, high = demo(), edits.with_settings(demo(), altitude=1800.0)
    pickup = (
        low.pickup["planer/hood"][1]
        if "planer/hood" in low.pickup
        else low.machine["planer"].pickups[0]
    )
    ratio = need(pickup, high.settings).airflow / need(pickup, low.settings).airflow
    assert ratio == pytest.approx((101_325 / 81_490) ** 0.5, rel=2e-3)
    needed = [slowest_transport(p, assess(p).of_machine["planer"]).needed for p in (low, high)]
    assert needed[1] / needed[0] == pytest.approx(ratio)
    fine = edits.with_settings(high, criterion="catch fine dust")
    assert need(pickup, fine.settings).airflow >= need(pickup, high.settings).airflow


def test_air_beyond_the_model_is_said_and_a_fan_that_drives_nothing_is_refused():
    fast = shop([machine("saw", 4, 0, 0.03)], runs=[run("main", "saw/port", "fan", 0.03)])
    strong = edits.changed(fast, "fan", fan=CurvePoints(points=((0.0, 50_000.0), (0.4, 0.0))))
    assert "beyond-model" in {f.code for f in all_findings(strong, assess(strong))}
    for project in (fast, demo(), demo("allotment")):
        assert "beyond-model" not in {f.code for f in all_findings(project, assess(project))}
    with pytest.raises(InputError, match="drives nothing"):
        edits.changed(
            fast, "fan", fan={"by": "points", "points": ((0.0, 0.0), (0.2, 900.0), (0.4, 0.0))}
        )


def test_a_measured_intake_is_what_it_is_in_whatever_air_it_was_measured():
    """An opening has one K: measured at sea level or up here, the same hood draws the same air."""
    high = edits.with_settings(
        shop([machine("saw", 4, 0)], runs=[run("main", "saw/port", "fan")]), altitude=1800.0
    )
    thin, standard = shop_air(high).density, 1.2
    got = []
    for density, pressure in ((None, 600.0), (standard, 600.0 * standard / thin)):
        seen = Measured(airflow=0.1, static_pressure=pressure, density=density)
        got.append(assess(edits.with_pickup(high, "saw/port", intake=seen)).answers[0].airflow)
    assert got[0] == pytest.approx(got[1])

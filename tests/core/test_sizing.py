"""The collector: what it must do worked backwards, which would do it, whether it fits, what it
draws, how loud it is."""

import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current import cli
from grey_current.air import fittings, laws
from grey_current.air.solver import solve
from grey_current.design.collector.candidates import offer_troubles, offers, put_in, stood_in
from grey_current.design.collector.estimate import assumed_place, path_along_walls, rough_network
from grey_current.design.collector.fit import BINS, CLEARANCE, days_to_empty, fit, litres_a_week
from grey_current.design.collector.make_up_air import DEPRESSION, make_up_air
from grey_current.design.collector.noise import at_machine, changed_by
from grey_current.design.collector.requirement import (
    available_pressure,
    hardest,
    required_fan_pressure,
    requirements,
)
from grey_current.design.collector.sizing import sizing
from grey_current.design.collector.small_ports import small_ports
from grey_current.design.collector.system_kinds import system_kinds
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.flow.fittings import collector as collector_pieces
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.flow.trace import shop_air
from grey_current.design.judgement import judge
from grey_current.design.space.ground import FloorSpace
from grey_current.design.supply.circuits import all_loads, circuit_of, full_load_amps, worst_load
from grey_current.errors import FileError, InputError, RefusedEdit
from grey_current.files import project_file
from grey_current.files.curve_csv import read_curve
from grey_current.shop import edits
from grey_current.shop.catalogue import catalogue, collector_model
from grey_current.shop.collector_edits import (
    curve_text,
    standing,
    with_bin,
    with_claim,
    with_curve_text,
    with_filter,
    with_inlet_side,
    with_motor,
    with_separator,
    with_stand,
)
from grey_current.shop.collectors import Bin, Motor
from grey_current.shop.demo_shops import demo_path
from grey_current.shop.fans import Claim, CurvePoints
from grey_current.shop.room import Beam, Circuit, Feature, Outlet
from grey_current.shop.room_edits import rectangle
from grey_current.units import CFM, INH2O, Display
from grey_current.workspace.library import Library
from tests.core.laid_shops import CYCLONE
from tests.core.shops import demo, machine, shop, straight_shop
from tests.core.strategies import bank

LOFT = str(demo_path("loft"))


def passing_through(project, ident, airflow, pressure):
    """The collector with its own losses away and a fan straight through a required point."""
    points = ((0.0, 2 * pressure), (airflow, pressure), (2 * airflow, 0.0))
    item = project.collector[ident]
    free = item.filter.replaced(resistance=0.0, loading=0.0)
    density = shop_air(project).density
    bare = item.replaced(
        separator=None,
        filter=free,
        fan=CurvePoints(points=points, density=density),
        stands="in the room",
    )
    return project.replaced(
        collectors=tuple(bare if c.id == ident else c for c in project.collectors)
    )


# -- the requirement


@pytest.mark.parametrize(
    ("name", "ident"), [("loft", "cyclone"), ("allotment", "chip-collector"), ("loft", "metric")]
)
def test_a_fan_through_the_required_point_just_meets_every_need(name, ident):
    project = demo(name)
    if ident == "metric":
        project, ident = edits.with_settings(project, units="metric", altitude=1500), "cyclone"
    found = requirements(project, ident)
    assert len(found) >= 3
    for r in found:
        then = assess(passing_through(project, ident, r.airflow, r.pressure), [r.scenario]).answers[
            0
        ]
        mine = [p for p in then.pickups if p.collector == ident]
        least = min(mine, key=lambda p: p.share)
        assert least.share == pytest.approx(1.0, abs=2e-4)
        assert f"{least.machine}/{least.pickup}" == r.ruling and r.reached and not r.estimated
        system = then.systems[ident]
        assert system.airflow == pytest.approx(r.airflow, rel=1e-3)
        assert -system.inlet_static == pytest.approx(r.static, rel=1e-3)
    ruling = hardest(found)
    assert ruling.air_power == max(r.air_power for r in found)


def test_machines_run_together_and_both_schools_ask_for_more():
    project = demo()
    alone = {r.scenario.running: r for r in requirements(project, "cyclone")}
    both = edits.with_settings(project, together=(("jointer", "sander"), ("gone", "saw")))
    together = {r.scenario.running: r for r in requirements(both, "cyclone")}
    pair = together["jointer", "sander"]
    assert set(together) == {*alone, ("jointer", "sander")}
    assert pair.airflow > max(alone["jointer",].airflow, alone["sander",].airflow)
    dust = requirements(edits.with_settings(project, criterion="catch fine dust"), "cyclone")
    assert sum(r.air_power for r in dust) > sum(r.air_power for r in alone.values())
    leaking = edits.changed(project, "gate-mitre", rule="with its machine")
    assert hardest(requirements(leaking, "cyclone")).airflow < alone["saw",].airflow


def test_without_a_duct_the_way_is_estimated_along_the_walls_and_says_so():
    project = shop([machine("saw", 8, 2)], collectors=())  # the room is 14 by 10 m, from (-2, -5)
    assert path_along_walls(project, (8, 5), (-2, -1)) == pytest.approx(10 + 6)
    assert assumed_place(project) in ((12, 5), (12, -5))
    (found,) = requirements(project, None)
    assert found.estimated and found.ruling == "saw/port" and found.reached
    network = rough_network(project, "saw/port", None, [], shop_air(project))
    lost = {
        p.id.rpartition("/")[2]: p.law.k for p in network.pieces if isinstance(p.law, laws.Constant)
    }
    bore = network.pieces[-1].diameter
    bend = fittings.elbow(bore, 90.0, 1.5, fittings.fitting_friction(bore, 9e-5), "smooth")
    assert lost["wye"] == 0.3 and lost["elbows"] == pytest.approx(4 * bend, rel=0.02)
    flow = np.array([[found.airflow]])
    ready = bank([p.law for p in network.pieces], network.air, [0] * len(network.pieces))
    assert ready.evaluate(flow, flow)[0][0, 0] == pytest.approx(found.pressure, rel=2e-3)
    with_it = put_in(project, None, collector_model("3 hp cyclone, 15 in impeller"))
    stood = with_it.collectors[0]
    assert (
        fit(with_it, stood).above == 3.0
        and math.dist((stood.x, stood.y), assumed_place(project)) < 1.0
    )
    assert requirements(with_it, stood.id)[0].estimated
    assert requirements(shop([]), "fan") == []


# -- candidates


def test_candidates_are_ranked_and_altitude_and_a_loaded_filter_move_them_the_right_way():
    project = demo()
    found = offers(assess(project), "cyclone", catalogue().collectors)
    assert len({o.model for o in found}) == len(catalogue().collectors) and found[
        0
    ].model.startswith("5 hp")
    assert offer_troubles(project, found[0]) and found[0].over_amps > 0
    low = project.replaced(rooms=(project.rooms[0].replaced(ceiling=2.3, far_ceiling=None),))
    tall = next(
        o
        for o in offers(assess(low), "cyclone", catalogue().collectors)
        if o.model.startswith("5 hp")
    )
    assert tall.too_tall == pytest.approx(2.55 + CLEARANCE - 2.3)
    assert offer_troubles(low, tall)[0] == "1' too tall here"
    now = project.collectors[0]
    for offer in [offer for offer in found if offer.model != now.model][:3]:
        then = assess(put_in(project, "cyclone", collector_model(offer.model)))
        shares = [u.worst.share for u in then.answers if u.worst is not None]
        assert judge(then).served()[0] == offer.served and min(shares) == pytest.approx(
            offer.worst, rel=1e-4
        )
        assert offer.loaded <= offer.served and offer.close[0] <= offer.served <= offer.close[1]
    at_work = assess(project).of_machine["planer"].systems["cyclone"]
    dirty = edits.changed(
        project, "cyclone", filter=project.collectors[0].filter.replaced(loading=6.0)
    )
    high = edits.with_settings(project, altitude=1800)
    assert assess(dirty).of_machine["planer"].systems["cyclone"].airflow < at_work.airflow
    thin = assess(high).of_machine["planer"].systems["cyclone"]
    assert (
        thin.airflow == pytest.approx(at_work.airflow, rel=0.03)
        and thin.fan_static < 0.87 * at_work.fan_static
    )


def test_candidates_rank_as_the_one_judgement_does_and_a_new_one_stands_free():
    project = demo()
    found = [
        o for o in offers(assess(project), "cyclone", catalogue().collectors) if not o.implausible
    ]
    assert [o.rank for o in found] == sorted(o.rank for o in found)
    plain = [o for o in found if not (o.overloads or o.too_tall)]
    for offer in plain[:4]:
        made = (
            put_in(project, "cyclone", collector_model(offer.model))
            if offer.model != project.collectors[0].model
            else project
        )
        clean = edits.changed(
            made,
            "cyclone",
            filter=made.collectors[0].filter.replaced(loading=made.collectors[0].filter.seasoned),
        )
        trouble, _, money, work = judge(assess(clean, all_scenarios(clean))).rank
        assert offer.rank == pytest.approx(
            (trouble, offer.asked - offer.loaded, offer.size, money, work), abs=2e-3
        )
    for offer in offers(
        assess(demo()), "cyclone", catalogue().collectors
    ):  # an overload counts as much as no air
        assert offer.by_air[0] == pytest.approx(offer.judged.trouble + offer.against, abs=1e-3)
    bare = demo("empty")
    blocked = Feature(id="rack", name="Rack", kind="rack", outline=rectangle(0, 0, 6, 1.2))
    full = edits.added(bare.replaced(features=(blocked,)), machine("saw", 1.0, 2.5))
    stood = put_in(full, None, catalogue().collectors[-1])
    space = FloorSpace(stood)
    assert not space.outside(stood.collectors[0]) and not space.overlaps(stood.collectors[0])
    assert stood.collectors[0].turn % 90 == 0  # square to the walls


def test_what_a_collector_gives_is_its_fan_less_what_its_own_parts_take():
    project = demo()
    item, air = project.collector["cyclone"], shop_air(project)
    flows = np.array([0.1, 0.3, 0.5])
    parts = collector_pieces(item, air)
    by_hand = [
        parts[1].law.curve.pressure(np.array([q]))[0][0]
        - item.separator.loss * (q / item.separator.at_airflow) ** 2 * air.density / 1.2014
        - item.filter.resistance * (1 + item.filter.loading) * q
        - (1 / 0.62) ** 2 * air.density / 2 * (q / item.opening) ** 2
        for q in flows
    ]
    assert available_pressure(item, air, flows) == pytest.approx(by_hand, rel=1e-6)
    assert (
        available_pressure(item, air, flows, item.filter.due) < available_pressure(item, air, flows)
    ).all()
    hard = hardest(requirements(project, "cyclone"))
    assert hard is not None
    clean, due = (required_fan_pressure(item, hard, air, loading) for loading in (0.0, 1.0))
    assert due - clean == pytest.approx(item.filter.resistance * hard.airflow, rel=1e-6)


@pytest.mark.parametrize("change", ["speed", "impeller_ratio"])
def test_a_faster_or_larger_impeller_moves_the_point_up_and_50_hz_down(change):
    project = straight_shop()
    before = assess(project).of_machine["saw"].systems["fan"].airflow
    for factor, sign in ((1.1, 1), (0.826, -1)):
        fan = project.collectors[0].fan.replaced(**{change: factor})
        after = (
            assess(edits.changed(project, "fan", fan=fan)).of_machine["saw"].systems["fan"].airflow
        )
        assert (after - before) * sign > 0 and after / before == pytest.approx(factor, rel=0.06)


def test_separators_and_filters_change_the_answer_and_their_order_the_inlets_pressure():
    project = straight_shop()

    def system(p):
        return assess(p).of_machine["saw"].systems["fan"]

    plain = system(project)
    lid = with_separator(project, "fan", "drum lid")
    after = edits.changed(
        lid, "fan", separator=lid.collectors[0].separator.replaced(placed="after the fan")
    )
    assert system(lid).airflow < plain.airflow and system(after).airflow == pytest.approx(
        system(lid).airflow
    )
    assert "through-the-fan" in {f.code for f in all_findings(after, assess(after))}
    small = with_filter(project, "fan", kind="bag", area=1.0)
    assert small.collectors[0].filter.resistance == pytest.approx(260 * 830 / 2500 * 6.0 / 1.0)
    assert system(small).airflow < plain.airflow
    assert with_separator(lid, "fan", "none").collectors[0].separator is None
    for attempt in (
        lambda: with_filter(project, "fan", area=0.0),
        lambda: with_separator(project, "fan", "box"),
    ):
        with pytest.raises(InputError):
            attempt()


# -- curves of the user's own


@settings(max_examples=40, deadline=None)
@given(
    st.lists(
        st.tuples(st.floats(5, 1500), st.floats(0.2, 20)),
        min_size=2,
        max_size=8,
        unique_by=lambda t: round(t[0]),
    )
)
def test_a_typed_curve_comes_back_as_it_was_typed(points):
    points = sorted(points)
    pressures = sorted((p for _, p in points), reverse=True)
    rows = [(round(q), round(p, 2)) for (q, _), p in zip(points, pressures, strict=True)]
    text = "; ".join(f"{q} at {p}" for q, p in rows)
    if len({p for _, p in rows[-2:]}) < 2:
        return
    project = with_curve_text(straight_shop(units="us"), "fan", text)
    assert [round(q / CFM) for q, _ in project.collectors[0].fan.points] == [q for q, _ in rows]
    fan = project.collectors[0].fan
    assert (
        isinstance(fan, CurvePoints) and curve_text(fan, Display("us")).count(";") == len(rows) - 1
    )


def test_bad_curves_get_one_sentence_with_their_place():
    project = straight_shop(units="us")
    for text, says in (
        ("400 at twelve", "point 1"),
        ("0 at 9; x", "point 2"),
        ("0 at 5", "at least 2 points"),
        ("0 at 5; 100 at 9", "fall"),
        ("", "at least 2 points"),
    ):
        with pytest.raises(InputError, match=says):
            with_curve_text(project, "fan", text)


CSV = "airflow (CFM),pressure (in. w.g.)\n0,13.9\n400,12.1\n\n800,8.5\n"


def test_a_curve_is_read_from_csv_whatever_its_columns_and_units():
    want = [(0.0, 13.9 * INH2O), (400 * CFM, 12.1 * INH2O), (800 * CFM, 8.5 * INH2O)]
    assert [tuple(p) for p in read_curve(CSV, "c").points] == [pytest.approx(w) for w in want]
    turned = "static pressure Pa;flow m3/h\n1200;0\n800,5;1000\n"
    assert read_curve(turned, "c").points[1] == pytest.approx((1000 / 3600, 800.5))
    for text, says in (
        ("", "is empty"),
        ("flow,pressure\n1,2\n", "names no unit of airflow"),
        ("CFM,bananas\n1,2\n", "unit of pressure"),
        ("CFM,Pa\n0,900\nx,100\n", "line 3, column 1: 'x' is no number"),
        ("CFM,Pa\n0,900\n5\n", "line 3, column 2: nothing"),
        ("CFM,Pa\n0,900\n100,950\n", "must fall"),
        ("CFM,Pa\n0,900\n", "no fan curve"),
    ):
        with pytest.raises(FileError, match=says):
            read_curve(text, "c.csv")


def test_claims_and_curves_that_no_motor_or_impeller_could_give_are_caught():
    project = demo()

    def boasts(p):
        return [f.message for f in all_findings(p, assess(p)) if f.code == "implausible-curve"]

    assert boasts(project) == []
    weak = with_motor(project, "cyclone", 900)
    assert "more than half of what its motor of 1.21 hp" in boasts(weak)[0]
    tiny = edits.changed(project, "cyclone", impeller=0.2)
    assert "impeller of 7 3/4 in" in boasts(tiny)[0]
    for inches in (33, 60):
        high = CurvePoints(points=((0.0, inches * INH2O), (0.3, inches * INH2O / 2), (0.5, 0.0)))
        dream = edits.changed(project, "cyclone", impeller=None, motor=None, fan=high)
        assert "18 in" in boasts(dream)[0], inches
        for inlet, told in (
            (0.069, False),
            (0.071, True),
        ):  # a vacuum's motor runs many times faster
            assert bool(boasts(edits.changed(dream, "cyclone", inlet=inlet))) == told
    made_up = collector_model("5 hp cyclone, 15 1/2 in impeller").replaced(
        model="Dream", fan=CurvePoints(points=((0.0, 12000.0), (1.0, 0.0)))
    )
    dreamt = offers(
        assess(project), "cyclone", [made_up, collector_model("5 hp cyclone, 15 1/2 in impeller")]
    )
    assert dreamt[-1].model == "Dream" and "a curve that cannot be" in offer_troubles(
        project, dreamt[-1]
    )
    claimed = with_claim(project, "cyclone", True)
    assert isinstance(claimed.collectors[0].fan, Claim)
    again = with_claim(claimed, "cyclone", False)
    assert isinstance(again.collectors[0].fan, CurvePoints)
    flows = np.linspace(0.05, 0.6, 5)
    assert available_pressure(again.collectors[0], shop_air(again), flows) == pytest.approx(
        available_pressure(claimed.collectors[0], shop_air(claimed), flows), rel=1e-6
    )
    loud = edits.changed(project, "cyclone", motor=Motor(power=500))
    assert "motor" in {f.code for f in all_findings(loud, assess(loud))}


# -- fit, power, noise, air


def test_the_fit_under_a_beam_worked_by_hand():
    tall = collector_model("3 hp cyclone, 15 in impeller")
    project = put_in(shop([machine("saw", 4, 0)], collectors=()), None, tall)
    item = project.collectors[0]
    assert fit(project, item).spare == pytest.approx(3.0 - 2.15 - CLEARANCE)
    beam = Beam(id="beam", start=(item.x, -5), end=(item.x, 5), width=0.2, underside=2.1)
    low = project.replaced(beams=(beam,))
    found = fit(low, item)
    assert (found.by, found.above) == ("beam", 2.1) and found.spare == pytest.approx(
        2.1 - 2.15 - CLEARANCE
    )
    assert found.bin == BINS[2] and found.cut is None  # 0.70 m bin less 0.10 m: the 0.55 m one
    assert fit(low, item.replaced(bin=BINS[0])).bin == BINS[1]  # 0.87 m less 0.10 m: the 0.70 m one
    lower = with_bin(low, item.id, found.bin, lower=True)
    assert (
        lower.collectors[0].height == pytest.approx(2.0)
        and fit(lower, lower.collectors[0]).spare >= 0
    )
    on_legs = with_stand(low, item.id, 0.4)
    assert fit(on_legs, on_legs.collectors[0]).cut == pytest.approx(0.10)
    with pytest.raises(InputError):
        with_stand(low, item.id, 2.5)
    away = standing(low, item.id, "next room")
    assert fit(away, away.collectors[0]).spare > 9 and not FloorSpace(away).outside(
        away.collectors[0]
    )
    words = next(f for f in all_findings(low, assess(low)) if f.code == "too-tall")
    assert "the beam is" in words.message and "20 gal" in words.remedies[0]


def test_the_bin_fills_by_what_the_machines_make():
    saw = machine("saw", 4, 0, chip_litres_per_hour=30, uses_per_week=10, minutes_per_use=20)
    project = straight_shop().replaced(
        machines=(saw, machine("idle", 8, 4, chip_litres_per_hour=900))
    )
    assert litres_a_week(project, "fan") == pytest.approx(100)
    item = edits.changed(project, "fan", bin=Bin(volume=0.15, height=0.7)).collectors[0]
    assert days_to_empty(project, item) == pytest.approx(150 * 2 / 3 / 100 * 7)


def wired(**changes):
    """A saw (10 A) and a collector (9 A) at 240 V, an outlet on circuit A beside them, one on B far
    off."""
    circuits = (
        Circuit(id="a", name="A", volts=240, breaker=20),
        Circuit(id="b", name="B", volts=240, breaker=20),
    )
    outlets = (
        Outlet(id="o1", name="O1", x=0, y=0, circuit="a"),
        Outlet(id="o2", name="O2", x=9, y=0, circuit="b"),
    )
    saw = machine("saw", 4, 0, volts=240, amps=10)
    project = straight_shop(**changes).replaced(machines=(saw,), circuits=circuits, outlets=outlets)
    return edits.changed(project, "fan", motor=Motor(power=2200, volts=240, amps=9))


def test_a_first_collector_is_stood_in_the_nearest_corner_with_its_inlet_to_the_room():
    stood = [
        stood_in(shop([machine("saw", x, 1.0)], collectors=()), None, CYCLONE) for x in (0.5, 7.5)
    ]
    assert [one.turn for one in stood] == [0.0, 180.0] and stood[0].x < 0 and stood[1].x > 10


def supply_codes(project) -> set[str]:
    wanted = {"overload", "machine-overload", "no-outlet", "wrong-voltage"}
    return {f.code for f in all_findings(project, assess(project))} & wanted


def test_circuits_bear_everything_that_runs_together_on_them():
    project = wired()
    assert circuit_of(project, project.machine["saw"]).id == "a"
    worst = worst_load(project, "fan")
    assert (worst.amps, worst.allowed, worst.fits) == (19, 16, False) and worst.items == (
        "saw",
        "fan",
    )
    assert supply_codes(project) == {"overload"}
    apart = edits.changed(project, "saw", circuit="b")
    assert all(load.fits for load in all_loads(apart)) and supply_codes(apart) == set()
    moved = edits.moved(project, "saw", 4, 0)
    here, there = judge(assess(project)), judge(assess(moved))
    assert (
        here.supply == {("overload", "a"): pytest.approx(1 + 0.25 * 3 / 16)}
        and there.supply == judge(assess(moved), here).supply == {}
    )
    assert judge(assess(edits.moved(moved, "saw", -4, 0)), there).supply == here.supply
    gone = edits.removed(apart, ["b"])
    assert gone.machine["saw"].circuit is None and len(gone.outlets) == 1
    planer = machine("planer", 8, 2, volts=240, amps=7)
    both = edits.changed(edits.added(apart, planer), "planer", circuit="b")
    assert supply_codes(both) == set()
    assert supply_codes(edits.with_settings(both, together=(("saw", "planer"),))) == {
        "machine-overload"
    }


@pytest.mark.parametrize(
    ("change", "codes"),
    [
        (lambda p: edits.removed(p, ["a", "b"]), set()),  # nothing drawn, nothing judged
        (lambda p: edits.changed(edits.changed(p, "a", volts=120), "b", volts=120), {"no-outlet"}),
        (
            lambda p: edits.changed(edits.changed(p, "a", volts=120), "fan", circuit="a"),
            {"wrong-voltage"},
        ),
        (lambda p: edits.changed(p, "a", volts=230), {"overload"}),
        (
            lambda p: edits.changed(edits.changed(p, "a", volts=212), "fan", circuit="a"),
            {"overload"},
        ),
        (
            lambda p: edits.changed(edits.changed(p, "a", volts=210), "fan", circuit="a"),
            {"wrong-voltage"},
        ),
    ],
)
def test_what_is_plugged_in_needs_its_own_voltage(change, codes):
    assert supply_codes(change(wired())) == codes


def test_each_leg_of_a_split_supply_bears_what_lies_on_it():
    project = edits.changed(edits.changed(wired(), "a", breaker=70, leg="both"), "saw", amps=40)
    assert supply_codes(edits.with_settings(project, main_breaker=100)) == set()
    assert supply_codes(edits.with_settings(project, main_breaker=60)) == {"overload"}


@pytest.mark.parametrize(
    ("horses", "volts", "amps"),
    [
        (1, 115, 16),
        (1.5, 120, 20),
        (2, 230, 12),
        (3, 240, 17 * 230 / 240),
        (5, 230, 28),
        (10, 230, 50),
    ],
)
def test_motor_currents_are_those_of_the_full_load_table(horses, volts, amps):
    assert full_load_amps(horses * 745.7, volts) == pytest.approx(amps, rel=1e-3)


def test_noise_falls_with_distance_and_walls_and_asks_for_protection():
    project = edits.changed(straight_shop(), "fan", noise=85.0)
    item = project.collectors[0]
    near = at_machine(project, item, machine("a", 1, 0)).level
    far = at_machine(project, item, machine("b", 10, 0)).level
    # the room is 14 by 10 by 3 m: 424 m² that take 0.12, so R = 57.8 m² and 10 log(2π (1/(2π r²) +
    # 4/R)) at 1 and 10 m
    assert (near, far) == (pytest.approx(85 + 1.57, abs=0.01), pytest.approx(85 - 3.52, abs=0.01))
    assert changed_by(2.0, 1.0) == pytest.approx(3.01, abs=0.01) and changed_by(
        1.0, 2.0
    ) == pytest.approx(6.02, abs=0.01)
    assert at_machine(project, item, machine("a", 1, 0)).needs_protection
    boxed = item.replaced(stands="boxed in")
    assert at_machine(project, boxed, machine("a", 1, 0)).level == pytest.approx(near - 12)
    assert at_machine(project, item.replaced(noise=None), machine("a", 1, 0)) is None


def test_air_blown_outdoors_wants_make_up_carries_heat_and_is_never_safe_beside_a_flame():
    stove = Feature(
        id="stove", name="Stove", kind="stove", outline=rectangle(9, 3, 0.5, 0.5), top=0.9
    )
    project = straight_shop().replaced(features=(stove,))
    item = project.collectors[0].replaced(exhausts="outdoors")
    air = shop_air(project)
    way = make_up_air(project, item, 0.4, air)
    assert 0.62 * way.opening * math.sqrt(2 * DEPRESSION / air.density) == pytest.approx(0.4)
    assert way.heat == pytest.approx(air.density * 1005 * 0.4 * 19) and way.flue == ("stove",)
    out = project.replaced(collectors=(item,))
    codes = {f.code: f.severity for f in all_findings(out, assess(out))}
    assert codes["flue"] == "fault" and codes["opening"] == "warning"
    tight = edits.changed(out, "fan", opening=0.01)
    assert (
        assess(tight).of_machine["saw"].systems["fan"].airflow
        < assess(out).of_machine["saw"].systems["fan"].airflow
    )


# -- small ports, other ways, the library, the command line


def test_small_ports_are_computed_by_both_ways():
    found = {p.ref: p for p in small_ports(assess(demo()))}
    assert set(found) >= {"bandsaw/under-table", "sander/port"} and all(
        p.vacuum > 0.02 for p in found.values()
    )
    port = found["bandsaw/under-table"]
    assert (port.duct, port.vacuum, port.needed) == pytest.approx(
        (0.0443, 0.0565, 0.0643), abs=2e-4
    )
    assert port.vacuum_better  # neither serves it, and the vacuum gives a quarter more
    alone = small_ports(assess(shop([machine("saw", 4, 0, 0.0635)])))[0]
    assert alone.duct is None and alone.vacuum_better


def test_the_same_machines_by_three_ways_each_a_design_that_computes():
    ways = system_kinds(assess(demo()))
    assert [w.name for w in ways] == ["As drawn", "One hose moved about", "Several small ones"]
    for way in ways:
        answers = [u for u in assess(way.project).answers if u.pickups]
        assert way.asked == len(answers) and way.loudness is not None
        judged = judge(assess(way.project))
        assert (way.served, way.worst, way.transport) == (
            judged.served()[0],
            judged.worst,
            judged.slowest,
        )
        assert not {hit for hit in judged.hits if hit.kind in ("overlap", "wall")}
        served = {ref for run in way.project.runs for ref in (run.start, run.end, *run.also_serves)}
        assert way.name == "As drawn" or served >= set(demo().pickup)
    assert ways[1].swap_minutes > 10 and len(ways[2].project.collectors) == len(demo().pickup)
    assert project_file.parse(project_file.dump(ways[1].project), "hose").runs[0].also_serves


def test_a_collector_of_ones_own_is_kept_and_offered_again(tmp_path):
    project = with_curve_text(demo(), "cyclone", "0 at 16; 500 at 14; 1300 at 2")
    mine = edits.changed(project, "cyclone", name="Old grey one").collectors[0]
    library = Library(tmp_path)
    library.keep_collector(mine)
    again = Library(tmp_path).collectors
    assert [m.model for m in again] == ["Old grey one"] and again[0].fan == mine.fan
    assert "Old grey one" in {o.model for o in sizing(assess(demo()), "cyclone", again).offers}
    with pytest.raises(RefusedEdit, match="motor, impeller, bin and noise"):
        library.keep_collector(mine.replaced(bin=None))
    library.keep(project.machine["saw"])
    assert list(library.kept()) == ["Machine: Saw", "Collector: Old grey one"]
    library.forget("Collector: Old grey one")
    library.forget("Machine: Saw")
    assert Library(tmp_path).kept() == {}
    with pytest.raises(InputError, match="kept"):
        library.forget("Machine: Saw")
    (tmp_path / "collectors.json").write_text("{")
    broken = Library(tmp_path)
    assert "no readable collector file" in broken.problem and broken.machines == ()
    with pytest.raises(FileError, match="cannot be read"):
        broken.keep_collector(mine)


def test_size_on_the_command_line(capsys, tmp_path):
    curve = tmp_path / "my fan.csv"
    curve.write_text(CSV)
    assert cli.main(["size", LOFT, "--curve", str(curve)]) == 0
    out = capsys.readouterr().out
    assert "Hardest: Saw." in out and "my fan" in out and "One hose moved about" in out
    assert cli.main(["size", LOFT, "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    by_use = {tuple(r["machines"]): r for r in report["requirements"]}
    want = {r.scenario.running: r for r in requirements(demo(), "cyclone")}
    assert by_use["planer",]["airflow_m3_s"] == pytest.approx(want["planer",].airflow)
    assert report["hardest"] == ["saw"] and report["candidates"][0]["served"] >= 1
    for bad in (["--collector", "x"], ["--curve", str(tmp_path / "none.csv")]):
        assert cli.main(["size", LOFT, *bad]) == 2
        assert capsys.readouterr().err.startswith("grey-current: ")


def test_a_rough_way_gives_the_candidate_what_the_solver_gives_it():
    project = shop([machine("saw", 8, 2)], collectors=())
    (best, *_) = offers(assess(project), None, catalogue().collectors)
    item = put_in(project, None, collector_model(best.model)).collectors[0]
    stood = project.replaced(collectors=(item,))
    network = rough_network(
        stood, "saw/port", item.id, collector_pieces(item, shop_air(project)), shop_air(project)
    )
    flow = solve(network, laws.cases(np.zeros((1, 0), dtype=bool))).flow[0, 0]
    (requirement,) = requirements(stood, item.id)
    assert flow / requirement.airflow == pytest.approx(best.worst, rel=1e-3)


def test_what_was_drawn_at_the_collector_and_judged_by_nothing():
    """Its inlet turned away from its duct, a neighbour that it stands in, the air of one that
    stands outdoors."""
    project = demo()

    def codes(p):
        return {(f.code, f.element) for f in all_findings(p, assess(p))}

    turned = with_inlet_side(project, "cyclone", "left")
    through = codes(turned) - codes(project)
    assert {code for code, _ in through} >= {"clash-machine"}
    assert judge(assess(turned)).trouble > judge(assess(project)).trouble
    twin = project.collectors[0].replaced(id="twin", x=project.collectors[0].x + 0.2)
    both = codes(project.replaced(collectors=(*project.collectors, twin)))
    assert {("overlap", "twin"), ("overlap", "cyclone")} & both and not {
        ("overlap", "twin"),
        ("overlap", "cyclone"),
    } <= both
    outside = standing(edits.changed(project, "cyclone", x=-3.0), "cyclone", "outdoors")
    assert ("flue", "cyclone") in codes(outside) and ("in-the-wall", "cyclone") not in codes(
        outside
    )
    assert standing(outside, "cyclone", "in the room").collectors[0].exhausts == "into the shop"

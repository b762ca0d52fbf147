"""Each piece against `fluids`, SciPy or a hand-worked value, over its range; slopes by finite
difference."""

import math

import fluids
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from grey_current.air import fan, fittings, friction, gas, laws, needs
from grey_current.units import CFM, INCH, INH2O
from tests.core.crane import crane_branch
from tests.core.strategies import LAWS, bank

STANDARD = gas.Air(1.2014, 1.81e-5)


def slope_of(function, x: float, step: float) -> float:
    return (function(x + step) - function(x - step)) / (2 * step)


def test_air_agrees_with_the_standard_atmosphere_and_gets_thinner_uphill():
    for altitude in (0, 500, 1800, 4000):
        standard = fluids.atmosphere.ATMOSPHERE_1976(altitude)
        air = gas.air_at(altitude, standard.T - 273.15)
        assert air.density == pytest.approx(standard.rho, rel=2e-3)
        assert air.viscosity == pytest.approx(standard.mu, rel=2e-3)
    assert gas.air_at().density == pytest.approx(1.2, rel=2e-3)
    assert gas.air_at(1800).density / gas.air_at().density == pytest.approx(0.80, abs=0.01)
    assert gas.air_at(humidity=1.0).density < gas.air_at().density
    with pytest.raises(ValueError, match="altitude"):
        gas.air_at(20_000)


def test_velocity_pressure_of_standard_air():
    """ACGIH, Industrial Ventilation: VP = (V/4005)² inH2O."""
    velocity = 4005 * 0.00508
    assert STANDARD.density / 2 * velocity**2 / INH2O == pytest.approx(1.0, rel=2e-3)


@pytest.mark.parametrize(
    ("celsius", "book"), [(0, 611.2), (10, 1228.2), (21, 2488.2), (30, 4247.0), (40, 7384.9)]
)
def test_vapour_pressure_is_that_of_the_steam_tables(celsius, book):
    """IAPWS steam tables, Pa."""
    assert gas.vapour_pressure(celsius) == pytest.approx(book, rel=4e-3)


def test_transport_velocities_are_the_book_s():
    """ACGIH, Industrial Ventilation, 2013, table 5-1: 3,500, 4,000 and 4,500 fpm; heavier going
    up."""
    fpm = {chips: round(v / 0.00508, -2) for chips, v in needs.TRANSPORT_VELOCITY.items()}
    assert fpm == {"sanding dust": 3000, "dry dust": 3500, "shavings": 4000, "heavy": 4500}
    assert {chips: round(v / 0.00508, -2) for chips, v in needs.RISER_VELOCITY.items()} == {
        "sanding dust": 3000,
        "dry dust": 3500,
        "shavings": 4500,
        "heavy": 4500,
    }


@given(st.floats(5e3, 1e6), st.floats(0, 0.05))
def test_turbulent_factor_is_colebrook(reynolds, rough):
    factor, slope = friction.turbulent_factor(np.array(reynolds), np.array(rough))
    assert factor == pytest.approx(fluids.friction_factor(Re=reynolds, eD=rough), rel=5e-4)
    numeric = slope_of(
        lambda r: friction.turbulent_factor(np.array(r), np.array(rough))[0],
        reynolds,
        reynolds * 1e-4,
    )
    assert slope == pytest.approx(numeric, rel=2e-3, abs=1e-12)


@given(st.floats(-0.6, 0.6), st.floats(0.03, 0.3), st.floats(1e-5, 3e-3))
def test_friction_is_odd_smooth_and_has_its_own_slope(flow, diameter, rough):
    ducts = friction.Ducts(*friction.duct_terms(2.0, diameter, rough, 1.2, 1.82e-5))
    drop, slope = friction.friction_drop(np.array(flow), ducts)
    assert friction.friction_drop(np.array(-flow), ducts)[0] == pytest.approx(-drop)
    step = max(abs(flow) * 1e-5, 1e-8)
    numeric = slope_of(lambda q: friction.friction_drop(np.array(q), ducts)[0], flow, step)
    assert slope > 0
    assert slope == pytest.approx(numeric, rel=2e-3)


@pytest.mark.parametrize(
    ("diameter", "cfm", "rough_mm", "book"),
    [(4, 400, 0.09, 8.2), (4, 400, 0.03, 7.5), (6, 800, 0.09, 4.0), (4, 400, 1.5, 17.5)],
)
def test_friction_per_hundred_feet(diameter, cfm, rough_mm, book):
    """Charts give these losses in inH2O per 100 ft; `fluids` is the sharper witness."""
    d, q = diameter * INCH, cfm * CFM
    ducts = friction.Ducts(*friction.duct_terms(30.48, d, rough_mm / 1000, 1.2014, 1.81e-5))
    drop = float(friction.friction_drop(np.array(q), ducts)[0])
    velocity = q / laws.area(d)
    factor = fluids.friction_factor(Re=1.2014 * velocity * d / 1.81e-5, eD=rough_mm / 1000 / d)
    assert drop == pytest.approx(factor * 30.48 / d * 1.2014 / 2 * velocity**2, rel=1e-3)
    assert drop / INH2O == pytest.approx(book, rel=0.06)


@given(st.floats(10, 180), st.floats(0.05, 0.3), st.floats(1, 4))
def test_elbows_are_rennels(angle, diameter, ratio):
    f = fittings.fitting_friction(diameter, 9e-5)
    book = fluids.fittings.bend_rounded(Di=diameter, angle=angle, fd=f, bend_diameters=ratio)
    assert fittings.elbow(diameter, angle, ratio, f, "smooth") == pytest.approx(book)
    assert fittings.elbow(diameter, angle, ratio, f, "five gores") == pytest.approx(1.1 * book)
    assert fittings.elbow(diameter, angle, ratio, f, "three gores") == pytest.approx(1.4 * book)
    mitre = fluids.fittings.bend_miter(angle=angle, method="Rennels")
    assert fittings.elbow(diameter, angle, ratio, f, "mitre") == pytest.approx(mitre)


def test_fittings_against_known_values():
    """Each row: what, computed, book value, tolerance. Sources stand in the functions'
    docstrings."""
    area_k = (1 / (0.62 * 0.5) - 1) ** 2
    rows = [
        ("mitred right angle", fittings.elbow(0.1, 90, 1.5, 0.018, "mitre"), 1.20, 0.03),
        (
            "sudden expansion 4 to 6 in",
            fittings.expansion(0.1016, 0.1524, 0.0, None),
            (1 - 4 / 9) ** 2,
            1e-9,
        ),
        ("plain duct end", fittings.entry("plain"), 0.92, 0.005),
        ("flanged end", fittings.entry("flanged"), 0.49, 1e-9),
        ("gate half open", fittings.gate(0.35, 0.5), 0.35 + area_k, 1e-9),
        ("gate full open", fittings.gate(0.10, 1.0), 0.10, 1e-9),
        ("shut gate, 0.5 % leak", fittings.leak(0.005), 1 / (0.62 * 0.005) ** 2, 1e-9),
        ("spacing at no distance", fittings.spacing_share(0, 0.1), 0.30, 1e-9),
        ("spacing at 2 D", fittings.spacing_share(0.2, 0.1), 0.15, 1e-9),
        ("spacing at 4 D", fittings.spacing_share(0.4, 0.1), 0.0, 1e-9),
        ("inlet at 2.5 D", fittings.inlet_disturbance(0.25, 0.1), 0.25, 1e-9),
        (
            "hood measured at 2 VP",
            fittings.intake_from_measurement(0.2, 2 * 0.6 * (0.2 / laws.area(0.1)) ** 2, 0.1, 1.2),
            1.0,
            1e-9,
        ),
    ]
    for name, computed, book, tolerance in rows:
        assert computed == pytest.approx(book, abs=tolerance), name
    assert fittings.expansion(0.1, 0.15, 0.018, 30.0) < fittings.expansion(0.1, 0.15, 0.018, None)
    assert fittings.contraction(0.15, 0.1, 0.018, 30.0) < fittings.contraction(
        0.15, 0.1, 0.018, None
    )
    assert fittings.splitter(0.1, 0.1) > fittings.expansion(0.1, 0.1414, 0.0, None)


@given(st.floats(1.0, 60), st.floats(0.05, 4))
def test_hose_turn_of_a_hanging_hose(ratio, way):
    turn = fittings.hose_turn(ratio * way, way)
    assert 90 <= turn <= 360
    assert turn <= fittings.hose_turn(ratio * way * 1.3, way) + 1e-6
    if 90 < turn < 359:
        half = math.radians(turn / 2)
        assert half / math.sin(half) == pytest.approx(ratio, rel=1e-3)


@pytest.mark.parametrize("angle", [30, 40, 45, 60, 90])
@pytest.mark.parametrize("bores", [(0.1, 0.15), (0.15, 0.15), (0.05, 0.15), (0.063, 0.1)])
def test_wyes_are_crane_with_the_sign_kept(angle, bores):
    branch, combined = bores
    shares = np.array([0.0, 0.05, 0.2, 0.37, 0.43, 0.6, 0.9, 1.0])
    legs = [
        laws.Wye(False, angle, branch, combined, branch),
        laws.Wye(True, angle, branch, combined, combined),
    ]
    flow = np.array([shares, 1 - shares]) * 0.3
    computed = bank(legs, STANDARD).wye_coefficients(flow, np.full_like(flow, 0.3))
    for i, q in enumerate(shares):
        of_branch = crane_branch(combined, branch, q, angle)
        if not 0.28 < (branch / combined) ** 2 < 0.42:
            book = fluids.fittings.K_branch_converging_Crane(combined, branch, 1 - q, q, angle)
            assert of_branch == pytest.approx(book, rel=1e-6, abs=1e-9)
        of_main = fluids.fittings.K_run_converging_Crane(combined, branch, 1 - q, q, angle)
        assert computed[0, i] == pytest.approx(of_branch, rel=1e-6, abs=1e-9)
        assert computed[1, i] == pytest.approx(of_main, rel=1e-6, abs=1e-9)
    assert computed[0, 0] < 0


def test_no_wye_loses_more_for_a_hair_of_pipe():
    """Crane's factor steps where the branch has 0.35 of the area; ours does not."""
    wyes = [fittings.wye_branch(ratio, 45.0) for ratio in np.linspace(0.25, 0.45, 401)]
    for share in (0.2, 0.5, 0.9):
        k = [table[0 if share < 0.38 else 2] @ share ** np.arange(6) for table in wyes]
        assert np.abs(np.diff(k)).max() < 0.05


def test_crane_worked_example():
    """Crane, TP-410, 2009, example 7-35: K of the branch -0.04, of the run 0.33."""
    legs = [laws.Wye(False, 90, 0.1023, 0.1023, 0.1023), laws.Wye(True, 90, 0.1023, 0.1023, 0.1023)]
    flow = np.array([[0.00633], [0.018917]])
    k = bank(legs, STANDARD).wye_coefficients(flow, np.full_like(flow, flow.sum()))
    assert k[:, 0] == pytest.approx([-0.04044, 0.32576], abs=1e-4)


@given(
    st.floats(-0.5, 0.5).filter(lambda q: abs(q) > 1e-4),
    st.floats(-0.6, 0.6).filter(lambda q: abs(q) > 1e-3),
)
def test_slopes_of_every_law_backward_flow_included(flow, joined):
    ready = bank(LAWS, STANDARD)
    column = np.full((len(LAWS), 1), 1.0)

    def drops(q: float, c: float) -> np.ndarray:
        return ready.evaluate(q * column, c * column)[0]

    _, slope, coupling = ready.evaluate(flow * column, joined * column)
    step = 1e-7
    by_flow = (drops(flow + step, joined) - drops(flow - step, joined)) / (2 * step)
    by_joined = (drops(flow, joined + step) - drops(flow, joined - step)) / (2 * step)
    scale = 1 + np.abs(slope) + np.abs(coupling)
    assert np.all(np.abs(slope - by_flow) < 5e-3 * scale)
    assert np.all(np.abs(coupling - by_joined) < 5e-3 * scale)


def test_fan_curve_is_pchip_between_its_points_and_straight_beyond():
    points = [(0.05, 3000.0), (0.2, 2700.0), (0.4, 1800.0), (0.6, 500.0)]
    curve = fan.curve_from_points(points)
    knots, values = zip(*curve.points, strict=True)
    assert knots[0] == 0 and values[-1] == 0
    flow = np.linspace(0, curve.free_delivery, 300)
    reference = PchipInterpolator(knots, values)
    pressure, slope = curve.pressure(flow)
    assert pressure == pytest.approx(reference(flow), abs=1e-6)
    assert slope == pytest.approx(reference.derivative()(flow), abs=1e-6)
    beyond = curve.pressure(np.array([-0.1, curve.free_delivery + 0.1]))[0]
    assert beyond[0] > curve.shut_off - 1e-9 and beyond[1] < 0
    assert curve.knows(0.3) and not curve.knows(0.01) and not curve.knows(0.65)
    half = fan.scaled(curve, 0.6, 1.2, 0.5)
    assert half.pressure(np.array(0.1))[0] == pytest.approx(
        curve.pressure(np.array(0.2))[0] * 0.5 * 0.25
    )


@pytest.mark.parametrize(
    ("points", "why"),
    [
        ([(0.1, 100.0)], "two points"),
        ([(0.1, 100.0), (0.1, 50.0)], "share"),
        ([(0.1, -1.0), (0.2, -2.0)], "negative"),
        ([(0.1, 100.0), (0.2, 200.0)], "fall"),
    ],
)
def test_fan_curves_that_cannot_be(points, why):
    with pytest.raises(ValueError, match=why):
        fan.curve_from_points(points)


def test_a_claim_gives_a_stated_estimate_and_a_boast_is_found_out():
    curve = fan.curve_from_claim(15 * INCH, 2000 * CFM, 60)
    tip = math.pi * 15 * INCH * 3450 / 60
    assert curve.shut_off == pytest.approx(0.62 * 1.2014 * tip**2)
    assert curve.free_delivery == pytest.approx(2000 * CFM * 0.67)
    assert fan.believable(curve, 4500) and not fan.believable(curve, 1100)


def test_needs_of_both_schools():
    table = {2.5: 136, 3: 196, 4: 349, 5: 545, 6: 785}
    for inches, cfm in table.items():
        assert needs.clear_chips(inches * INCH) / CFM == pytest.approx(cfm, abs=0.6)
    assert needs.capture(0.2, 0.75, 0.008, False) / CFM == pytest.approx(648, abs=2)
    assert needs.capture(0.2, 0.75, 0.008, True) == pytest.approx(
        0.75 * needs.capture(0.2, 0.75, 0.008, False)
    )

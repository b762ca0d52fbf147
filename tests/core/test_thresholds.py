"""Just below and just above: the limits from which something is said, and the figures that offers
carry."""

import re

import numpy as np
import pytest
from scipy.interpolate import PchipInterpolator

from grey_current.air.fan import MOTOR_RPM, curve_from_points
from grey_current.air.laws import area
from grey_current.design.collector.chart_lines import port_line
from grey_current.design.collector.make_up_air import SEASON_WEEKS, make_up_air
from grey_current.design.collector.system_kinds import several
from grey_current.design.diagnosis.diagnose import diagnose
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assess import assess
from grey_current.design.flow.states import machine_state
from grey_current.design.flow.trace import shop_air
from grey_current.design.flow.transport import path_shares, transport_checks
from grey_current.design.improve.part_changes import part_changes
from grey_current.design.improve.ranking import improvements
from grey_current.design.judgement import judge, worsenings
from grey_current.design.space.clashes import DuctSpace
from grey_current.shop import edits
from grey_current.shop.collector_edits import standing, with_inlet_side
from grey_current.shop.machines import FreeArea
from grey_current.shop.names import called
from grey_current.shop.places import distance, position
from grey_current.shop.room import Feature
from grey_current.shop.room_edits import rectangle
from tests.core.shops import demo, machine, point, run, shop, straight_shop


def codes(project):
    return {f.code for f in all_findings(project, assess(project))}


@pytest.mark.parametrize(("wide", "blocked"), [(0.03, False), (0.2, True)])
def test_a_service_side_is_blocked_by_more_than_a_twentieth(wide, blocked):
    """The side's ground is 0.6 by 0.5 m; a post of so much of its width stands in it."""
    box = Feature(id="post", name="Post", kind="post", outline=rectangle(2.7, -0.75, wide, 0.4))
    project = shop([machine("saw", 3, 0, service=("front",))], collectors=()).replaced(
        features=(box,)
    )
    assert ("service-blocked" in codes(project)) == blocked


@pytest.mark.parametrize(("short_by", "hit"), [(0.002, False), (0.02, True)])
def test_a_hose_that_is_too_short_is_out_of_reach(short_by, hit):
    project = straight_shop()
    straight = distance(project, project.runs[0])
    hose = project.runs[0].replaced(material="ribbed-hose", length=straight - short_by)
    there = project.replaced(runs=(hose,))
    assert bool({h for h in judge(assess(there)).hits if h.kind == "reach"}) == hit


@pytest.mark.parametrize(("beside", "hit"), [(0.06, True), (0.09, False)])
def test_a_duct_is_as_thick_as_it_is(beside, hit):
    """A post's edge so far (m) beside the middle line of a duct 152 mm across."""
    post = Feature(id="post", name="Post", kind="post", outline=rectangle(2.0, beside, 0.2, 0.2))
    project = straight_shop().replaced(features=(post,))
    assert bool(DuctSpace(project).clashes(project.runs[0])) == hit
    upright = run("up", "low", "high")
    tall = shop(
        [], [point("low", 2.1, 0, 0.2), point("high", 2.1, 0, 2.0)], [upright], collectors=()
    ).replaced(features=(post,))
    assert bool(DuctSpace(tall).clashes(tall.runs[0])) == hit


def test_what_is_offered_is_what_its_words_say():
    project = demo()
    made = {c.words: c.edit(project) for c in part_changes(project, "planer-top")}
    radii = {
        words: p.point["planer-top"].radius_ratio
        for words, p in made.items()
        if "diameter" in words
    }
    assert radii == {"Long-radius elbow, 2.5 diameters": 2.5, "Short elbow, 1 diameter": 1.0}
    wye = {
        c.words: c.edit(project).point["wye-planer"] for c in part_changes(project, "wye-planer")
    }
    assert wye["Splitter box"].splitter and wye["Tee"].wye_angle == 90
    assert {words: p.wye_angle for words, p in wye.items() if words.startswith("Wye of")} == {
        f"Wye of {angle:.0f}°": angle
        for angle in (30.0, 45.0, 60.0)
        if angle != project.point["wye-planer"].wye_angle
    }
    assert MOTOR_RPM == {50: 2850.0, 60: 3450.0}


def test_small_collectors_stand_beside_their_machines():
    made = several(demo())
    for each in made.runs:
        far = [
            abs(a - b)
            for a, b in zip(
                position(made, each.start)[:2], position(made, each.end)[:2], strict=True
            )
        ]
        item = made.machine[each.start.split("/")[0]]
        port, body = position(made, each.start), made.collector[each.end]
        outward = (port[0] - item.x) * (body.x - port[0]) + (port[1] - item.y) * (body.y - port[1])
        assert max(far) < 3.6 and (outward > -0.05 or max(far) > 0.9), each.id


@pytest.mark.parametrize(
    ("code", "project"), [("back-flow", straight_shop()), ("whistles", straight_shop())]
)
def test_what_is_in_order_is_not_said(code, project):
    assert code not in codes(project)


@pytest.mark.parametrize(("free", "whistles"), [(0.02, True), (0.012, False)])
def test_an_abrupt_narrowing_whistles_from_twenty_five_metres_a_second(free, whistles):
    runs = [run("in", "a", "fan"), run("mid", "saw/port", "a", 0.145)]
    project = shop([machine("saw", 3, 0, 0.15)], [point("a", 1.2, 0, reducer="step")], runs)
    project = edits.with_pickup(project, "saw/port", intake=FreeArea(area=free))
    assert ("whistles" in codes(project)) == whistles


def test_dead_pipe_names_how_many_more_there_are():
    project = demo()
    said = next(f for f in all_findings(project, assess(project)) if f.code == "dead-pipe")
    assert (f"before {len(said.also)} other gates" in said.message) == (len(said.also) > 0)
    one = edits.removed(project, said.also)
    alone = next((f for f in all_findings(one, assess(one)) if f.code == "dead-pipe"), None)
    assert alone is not None and "other gates" not in alone.message


def test_a_fan_curve_goes_between_its_points_as_a_monotone_cubic_does():
    points = [(0.0, 3400.0), (0.2, 3300.0), (0.35, 2900.0), (0.5, 1800.0), (0.7, 0.0)]
    flows = np.linspace(0.0, 0.7, 57)
    wanted = PchipInterpolator(*zip(*points, strict=True))(flows)
    curve = curve_from_points(points)
    assert curve.pressure(flows)[0] == pytest.approx(wanted, rel=1e-6, abs=1e-6)
    (low, first, last, high), slopes = curve.pressure(
        np.array([-0.1, 0.0, 0.7, 0.9])
    )  # beyond its ends straight on
    assert slopes[0] == slopes[1] <= 0 and slopes[2] == slopes[3] < -5000
    assert (low, high) == pytest.approx((first - 0.1 * slopes[0], last + 0.2 * slopes[3]), abs=1e-9)


@pytest.mark.parametrize(("above", "says"), [(-0.03, False), (0.03, True)])
def test_a_duct_is_under_the_ceiling_with_its_whole_bore(above, says):
    high = 3.0 - 0.0762 + above
    project = shop(
        [], [point("a", 1, 0, high), point("b", 4, 0, high)], [run("r", "a", "b")], collectors=()
    )
    found = DuctSpace(project).above_ceiling(project.runs[0])
    assert (found is not None) == says and (not says or found == pytest.approx(above))


def test_slowest_air_of_a_pickup_is_that_of_the_run_where_it_is_slowest():
    now = assess(demo())
    for answer in now.answers:
        shares, checks = (
            path_shares(now.project, answer),
            list(transport_checks(now.project, answer)),
        )
        if len(shares) == 1:
            assert min(shares.values())[0] == pytest.approx(min(check.share for check in checks))
            assert min(shares.values())[1] in {
                c.run for c in checks if c.share == min(d.share for d in checks)
            }


def test_words_beside_an_offer_are_exact():
    project = demo()
    now = assess(project)
    saw = {made.words: made.costs for made in improvements(now, "saw")}
    assert any(
        re.fullmatch(r"the saw \(over-blade\) loses \d+ CFM", cost)
        for costs in saw.values()
        for cost in costs
    )
    router = [made.words for made in improvements(now, "router-table")]
    assert "The main 6 in → 5 in" in router and not any(
        "Smooth bore" in words for words in router[:3]
    )
    settling = [f for f in all_findings(project, now) if f.code == "settles"]
    worded = [f.remedies[0] for f in settling if f.remedies]
    gains = [re.search(r"(\d+)% → (\d+)%", words) for words in worded]
    assert any(1.02 < int(g[2]) / int(g[1]) < 1.25 for g in gains if g)
    assert all(
        int(found[1]) >= 1
        for words in worded
        for found in [re.search(r", and (\d+) more", words)]
        if found
    )


def test_make_up_air_by_hand():
    project = standing(demo(), "cyclone", "outdoors")
    air, item = shop_air(project), project.collectors[0]
    way = make_up_air(project, item, 0.4, air)
    hours = sum(m.uses_per_week * m.minutes_per_use / 60 for m in project.machines if m.pickups)
    assert way.season == pytest.approx(way.heat / 1000 * hours * SEASON_WEEKS, rel=1e-9)


def test_what_is_hit_or_overloaded_stands_in_a_line_in_small_letters():
    project = demo()
    low = with_inlet_side(project, "cyclone", "left")
    words = [worse.words for worse in worsenings(low, judge(assess(project)), judge(assess(low)))]
    assert any(" then goes through " in each for each in words) and all(
        each[0].islower() for each in words
    ), words
    legs = edits.with_settings(edits.changed(project, "ring-b", leg="first"), main_breaker=10)
    said = [worse.words for worse in worsenings(legs, judge(assess(project)), judge(assess(legs)))]
    assert said and all(
        each.startswith("the supply's ") and each.endswith("then is overloaded") for each in said
    )


def test_the_port_alone_lets_through_what_its_openings_do():
    """By hand: the cabinet's free area, the flange, and the velocity pressure in the port, at 1,000
    Pa."""
    project = straight_shop()
    air = shop_air(project)
    line = port_line(project, "saw/port", air, 1000.0)
    k = (1 / 0.62) ** 2 / 0.02**2 + 0.49 / area(0.1) ** 2 + 1 / area(0.1) ** 2
    assert line.points[-1] == pytest.approx(
        ((2 * 1000 / (air.density * k)) ** 0.5, 1000.0), rel=1e-3
    )


def test_a_flush_that_helps_several_machines_names_every_gate():
    project = demo()
    said = next(f for f in all_findings(project, assess(project)) if f.code == "flush")
    words = [remedy for remedy in said.remedies if remedy.startswith("Open ")]
    assert len(words) == len(said.remedies) >= 2
    gates = {
        gate for gate in project.gate if any(called(project, gate) in remedy for remedy in words)
    }
    assert {said.element, *said.also} >= gates - {said.element} and len(said.also) >= len(gates) - 1


@pytest.mark.parametrize(("share", "severity"), [(0.9, "fault"), (0.97, "warning")])
def test_what_must_never_run_short_is_no_fault_where_it_has_nearly_enough(share, severity):
    project = edits.changed(straight_shop(), "saw", priority=True)
    got = assess(project).of_machine["saw"].worst.airflow
    project = edits.with_pickup(project, "saw/port", need=got / share)
    (said,) = [f for f in all_findings(project, assess(project)) if f.code == "short"]
    assert said.severity == severity and "must never run short" in said.message


@pytest.mark.parametrize(
    ("share", "word", "severity", "says"),
    [
        (0.996, "good", None, "needs"),
        (0.994, "nearly", "note", "nearly enough"),
        (0.951, "nearly", "note", "nearly enough"),
        (0.949, "short", "warning", "short."),
        (0.74, "starved", "fault", "short."),
    ],
)
@pytest.mark.parametrize("priority", [False, True])
def test_what_a_reading_would_hardly_tell_is_nearly_enough(share, word, severity, says, priority):
    """The need is typed so that the same air is such a share of it."""
    plain = straight_shop()
    got = assess(plain).of_machine["saw"].worst.airflow
    project = edits.with_pickup(plain, "saw/port", need=got / share)
    project = edits.changed(project, "saw", priority=priority)
    now = assess(project)
    answer = now.of_machine["saw"]
    assert machine_state(answer, "saw") == word
    found = [f.severity for f in all_findings(project, now) if f.code in ("short", "starved")]
    graver = {"note": "warning", "warning": "fault"} if priority else {}
    assert found == ([graver.get(severity, severity)] if severity else [])
    assert says in verdict(now, answer) and ("nearly" in verdict(now, None)) == (word == "nearly")
    assert ("Good" in verdict(now, answer)) == (
        word == "good" and "chips" not in verdict(now, answer)
    )
    # Nobody is told to buy a larger collector for what they would hardly read.
    causes = {cause.code for cause in diagnose(now).causes}
    assert not (word == "nearly" and causes & {"collector-small", "collector-far", "machine-far"})

"""What can hurt somebody, by hand-worked figures: ears, a shop under negative pressure, chips, dust
that is breathed."""

import datetime
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from grey_current.design.collector.make_up_air import DEPRESSION, most_depression, pulled_below
from grey_current.design.collector.noise import heard_at, total
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.flow.fittings import LEAKS
from grey_current.design.flow.trace import shop_air
from grey_current.files.air_report import air_report
from grey_current.files.log_report import made_entry
from grey_current.keep.chips import chip_uses, chips_of
from grey_current.keep.forecast import litres_in_bin
from grey_current.keep.log import entries_of_day
from grey_current.shop.edits import changed
from grey_current.shop.keep_edits import with_entries
from grey_current.shop.room import Feature
from grey_current.shop.room_edits import rectangle
from grey_current.shop.work_edits import with_work
from grey_current.work.cards import cards
from grey_current.work.chores import chores
from grey_current.work.day_plan import plan_day
from grey_current.work.day_text import parse_day
from grey_current.work.ears import noise_at, noise_of
from grey_current.work.exposure import Band, exposure, floating_at_limit, product
from grey_current.work.room_day import room_day
from tests.core.shops import demo, machine, straight_shop

MONDAY = datetime.date(2026, 3, 2)


# -- ears


@pytest.mark.parametrize(
    ("levels", "together"),
    [
        ((82, 91), 91.51),
        ((91, 91), 94.01),
        ((95,), 95.0),
        ((80, 80, 80, 80), 86.02),
        ((60, 100), 100.0),
        ((), -math.inf),
    ],
)
def test_sources_add_up(levels, together):
    assert total(levels) == pytest.approx(together, abs=0.01)


@pytest.mark.parametrize("vacuum", [60.0, 91.0, None])
def test_a_dose_counts_machine_and_collector(vacuum):
    project = straight_shop()
    ident = project.machines[0].id
    project = changed(changed(project, ident, noise=82.0), project.collectors[0].id, noise=vacuum)
    now = assess(project)
    day = plan_day(now, parse_day(f"{project.machines[0].name} 48 min", project))
    near = heard_at(project, project.collectors[0], project.machines[0]).level
    assert near == pytest.approx(
        (vacuum or 80.0)
        + heard_at(project, project.collectors[0].replaced(noise=100.0), project.machines[0]).level
        - 100
    )
    assert day.dose == pytest.approx(10 * math.log10(0.1 * (10**8.2 + 10 ** (near / 10))))
    assert noise_at(now, project.machines[0]) == pytest.approx(total([82, near]))
    walled = with_work(project, wall="stud wall")
    heard = plan_day(assess(walled), day.jobs).next_door
    assert heard == pytest.approx(total([82, vacuum or 80.0]) - 35)
    assert any("ears" in card.wear for card in cards(now)) == (total([82, near]) >= 80)


def test_half_a_space_is_three_decibels_less_than_a_whole_one():
    """By hand: 1 m off in a room of 6 x 4 x 2.5 m, R = 98 · 0.12/0.88 = 13.4 m²: 10 log(1 + 8π/R)
    above the open."""
    project = straight_shop()
    room = project.rooms[0].replaced(outline=rectangle(0, 0, 6, 4), ceiling=2.5)
    project = project.replaced(rooms=(room,))
    item = project.collectors[0].replaced(noise=80.0, x=1.0, y=1.0, stands="in the room")
    near = machine("a", 2, 1)
    assert heard_at(project, item, near).level == pytest.approx(
        80 + 10 * math.log10(1 + 8 * math.pi / (98 * 0.12 / 0.88))
    )
    assert heard_at(project, item.replaced(stands="boxed in"), near).level == pytest.approx(
        heard_at(project, item, near).level - 12
    )


def test_a_collector_that_runs_on_between_jobs_is_heard_too():
    project = demo()
    day = plan_day(assess(project), parse_day("saw 20, planer 20", project))
    switched = plan_day(assess(changed(project, "cyclone", auto_start=True)), day.jobs)
    assert (
        day.dose
        > switched.dose
        > total([10 * math.log10(1 / 24) + noise_of(project.machine[m]) for m in ("saw", "planer")])
    )


# -- flues and pressure


STOVE = Feature(id="stove", name="Stove", kind="stove", outline=rectangle(9, 3, 0.5, 0.5), top=0.9)


@pytest.mark.parametrize("flame", [False, True])
@pytest.mark.parametrize(
    ("stands", "exhausts", "opening"),
    [
        ("in the room", "into the shop", None),
        ("in the room", "outdoors", None),
        ("in the room", "outdoors", 1.0),
        ("next room", "into the shop", 0.02),
        ("next room", "into the shop", 1.0),
        ("boxed in", "into the shop", None),
        ("outdoors", "outdoors", 0.3),
    ],
)
def test_a_shop_under_negative_pressure_is_said_and_beside_a_flame_loudly(
    stands, exhausts, opening, flame
):
    project = straight_shop().replaced(features=(STOVE,) if flame else ())
    project = changed(project, "fan", stands=stands, exhausts=exhausts, opening=opening)
    now = assess(project)
    found = {f.code: f for f in all_findings(project, now)}
    pulled, away = most_depression(now), stands != "in the room" or exhausts == "outdoors"
    if not away:
        assert pulled == 0 and not {"flue", "opening"} & found.keys()
        return
    system = now.of_machine["saw"].systems["fan"]
    area = opening or LEAKS
    assert pulled == pytest.approx(1.2 / 2 * (system.airflow / (0.62 * area)) ** 2, rel=2e-3)
    # the same figure is what the network lost there, and what the report says
    (back,) = [n for n, p in enumerate(system.network.pieces) if p.kind == "return_opening"]
    assert system.losses[back] == pytest.approx(pulled, rel=1e-9)
    assert system.network.pieces[back].allowance == (opening is None)
    assert air_report(now)["uses"][0]["shop_depression_pa"] == pytest.approx(pulled)
    assert ("flue" in found) == flame
    if flame:
        assert (found["flue"].severity == "fault") == (
            exhausts == "outdoors" or pulled > DEPRESSION
        )
        assert (
            found["flue"].value == pytest.approx(pulled) and "CO alarm" in found["flue"].remedies[0]
        )
    if opening is None:
        assert "0 cm²" not in found["opening"].message and "own gaps" in found["opening"].message
        assert found["opening"].value == LEAKS
    dusty = room_day(now, plan_day(now, parse_day("saw 10", project)))
    assert any("flue gases" in words for words in dusty.warnings) == flame


def test_two_that_blow_outdoors_share_the_gaps():
    """By hand: as much air again through the same 200 cm² is four times the pressure."""
    air = shop_air(demo())
    assert pulled_below(0.4, LEAKS, air) == pytest.approx(4 * pulled_below(0.2, LEAKS, air))
    assert pulled_below(0.2, LEAKS, air) == pytest.approx(
        1.2 / 2 * (0.2 / (0.62 * 0.02)) ** 2, rel=1e-3
    )


# -- chips


def worked(project, day, *woods, litres=20.0):
    return made_entry(
        project, "worked", MONDAY + datetime.timedelta(day), "cyclone", woods=woods, litres=litres
    )


def emptied(project, day):
    return made_entry(project, "bin emptied", MONDAY + datetime.timedelta(day), "cyclone")


@pytest.mark.parametrize(
    ("woods", "good"),
    [
        (("ash",), {"Bedding", "Compost", "Stove", "Tip"}),
        (("birch", "softwood"), {"Bedding", "Compost", "Stove", "Tip"}),
        (("ash", "walnut"), {"Stove", "Tip"}),
        (("cherry",), {"Compost", "Stove", "Tip"}),
        *(
            ((wood, "ash"), {"Tip"})
            for wood in ("mdf", "birch-plywood", "chipboard", "yew", "treated", "painted")
        ),
        (("unknown",), {"Tip"}),
        (("ash", "unknown"), {"Tip"}),
        (("a-wood-of-a-later-version", "ash"), {"Tip"}),
        ((), set()),
    ],
)
def test_chips_are_for_what_every_wood_among_them_allows(woods, good):
    uses = chip_uses(woods)
    assert {use.use for use in uses if use.good} == good
    # The tip is said first wherever anything among them harms.
    assert not good or (uses[0].use == "Tip") == ("Bedding" not in good)


def test_chips_are_those_in_the_bin_or_just_taken_out_never_the_planned_ones():
    project = demo()
    assert project.work.day and chips_of(project, "cyclone") is None
    steps = [
        (worked(project, 0, "walnut"), ("walnut",), None, 20.0),
        (emptied(project, 1), ("walnut",), 1, 0.0),
        (worked(project, 1, "ash"), ("ash",), None, 20.0),  # the same day, after it
        (worked(project, 2), ("ash", "unknown"), None, 40.0),
        (emptied(project, 2), ("ash", "unknown"), 2, 0.0),
        (emptied(project, 2), None, None, 0.0),  # once more, of nothing
        (worked(project, 2, "oak"), ("oak",), None, 20.0),
    ]
    for entry, woods, day, litres in steps:
        project = with_entries(project, [entry])
        chips = chips_of(project, "cyclone")
        assert (chips.woods if chips else None) == woods
        assert chips is None or chips.taken_out == (
            None if day is None else MONDAY + datetime.timedelta(day)
        )
        assert litres_in_bin(project, "cyclone") == litres


def test_a_job_without_a_wood_makes_the_whole_bin_one_for_the_tip():
    project = demo()
    for text, woods in (
        ("saw 20 ash, planer 10", ("ash", "unknown")),
        ("saw 20 ash, planer 10 oak, glue 5", ("ash", "oak")),
    ):
        (entry,) = entries_of_day(plan_day(assess(project), parse_day(text, project)), MONDAY)
        assert entry.woods == woods
        uses = chip_uses(chips_of(with_entries(project, [entry]), "cyclone").woods)
        assert (uses[0].use == "Tip") == ("unknown" in woods)


def test_motors_are_vacuumed_before_anything_is_blown():
    (chore,) = [chore for chore in chores(demo()) if "motors" in chore.words]
    words = chore.why.lower()
    assert (
        "unplug" in words
        and words.index("vacuum") < words.index("blow")
        and "outdoors" in words
        and "respirator" in words
    )


# -- what is breathed


@given(*(st.floats(1.0, 30.0) for _ in range(4)))
def test_spreads_of_independent_figures_are_wider_than_one_and_narrower_than_both_ends(a, b, c, d):
    one, two = Band(1 / a, 1.0, b), Band(2 / c, 2.0, 2 * d)
    both = product(one, two)
    assert (
        both.mid == 2.0
        and 2 * max(b, d) <= both.high * 1.000001
        and both.high <= 2 * b * d * 1.000001
    )
    assert 2 / (a * c) <= both.low * 1.000001 and both.low <= 2 / max(a, c) * 1.000001


def test_a_verdict_on_dust_holds_for_the_whole_band_and_compares_like_with_like():
    now = assess(demo())
    made = room_day(now, plan_day(now, parse_day("saw 30", now.project)))
    # a room that holds 1, 2 and 4 mg/m³ all the while that one saws, half an hour
    ones = np.ones_like(made.mid.dust)
    flat = replace(made, mid=replace(made.mid, dust=2 * ones), low=ones, high=4 * ones)
    found = exposure(flat)
    at_work = made.day.ends / 28_800
    assert found.room.mid == pytest.approx(2 * 3 * at_work)
    spread = math.hypot(math.log(2), math.log(2))
    assert found.room.high == pytest.approx(found.room.mid * math.exp(spread))
    assert (
        found.person.mid == pytest.approx(4 * found.room.mid, rel=0.02)
        and found.person.high > found.room.high
    )
    assert floating_at_limit(now.project) == pytest.approx(2 / 3)
    # day and reference fixed, the shop's dust scaled: under, may be over, over, in this order and
    # nothing else
    said = []
    for share in (1e-6, 1e-3, 0.1, 1, 10, 1e3):
        scaled = replace(
            flat,
            mid=replace(flat.mid, dust=2 * share * ones),
            low=share * ones,
            high=4 * share * ones,
        )
        each = exposure(scaled)
        assert each.verdict == (
            "under" if each.person.high <= 2 else "over" if each.person.low > 2 else "may be over"
        )
        said.append(each.verdict)
    assert list(dict.fromkeys(said)) == ["under", "may be over", "over"]
    masked = replace(flat, day=replace(flat.day, project=with_work(now.project, respirator="ffp3")))
    assert exposure(masked).breathed.mid == pytest.approx(exposure(masked).person.mid / 20)
    fine = replace(flat, day=replace(flat.day, project=with_work(now.project, limit="who-pm25")))
    assert exposure(fine).room.mid == pytest.approx(2 * 0.25 * made.day.ends / 86_400)

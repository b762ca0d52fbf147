"""What a particle counter makes of the room's dust, what is put on machines, and how hoods are tested."""

import datetime
import math
from typing import get_args

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current import cli
from grey_current.design.flow.assess import assess
from grey_current.errors import DoubtfulInput, InputError
from grey_current.files.keep_report import made_reading
from grey_current.files.project_file import dump, parse, save
from grey_current.files.work_report import day_text, room_lines
from grey_current.shop.catalogue import machine_models
from grey_current.shop.edits import changed, placed, with_settings
from grey_current.shop.keep_edits import with_instrument, with_reading
from grey_current.shop.machines import HoodTest
from grey_current.shop.pickup_edits import can_have_blade_guard, with_blade_guard, without_pickup
from grey_current.shop.work_edits import with_hood_test, with_work
from grey_current.shop.work_plan import DayJob, Wall
from grey_current.units import POUND, parse_mass
from grey_current.work import materials
from grey_current.work.day_plan import plan_day
from grey_current.work.day_tasks import better_order
from grey_current.work.dust_budget import day_dust
from grey_current.work.ears import BEHIND, BETTER, WALL_TAKES, quieter
from grey_current.work.exposure import exposure
from grey_current.work.materials import GUESSES, aid_keeps, aid_kinds, with_aids
from grey_current.work.room_air import caught_by
from grey_current.work.room_changes import room_changes
from grey_current.work.room_day import room_day
from grey_current.work.room_readings import IN_COMMON, INSIDE, METER, dust_factors, expected_dust
from tests.core.laid_shops import BY_NAME
from tests.core.shops import demo
from tests.core.test_diagnosis import laid
from tests.core.test_work import two_rooms

pytestmark = pytest.mark.usefixtures("compiled_kernel")

DAY = datetime.date(2026, 3, 14)


@pytest.fixture(scope="module")
def loft(compiled_kernel):
    return assess(demo())


def read(project, machine, text):
    return with_reading(project, made_reading(project, ("dust", machine, "loft"), text, DAY))


# -- the particle counter


@settings(max_examples=12, deadline=None)
@given(st.floats(-2.5, 2.5))
def test_one_reading_by_hand(deviations):
    """Prior and counter as two normal figures of one logarithm: their weighted mean, and what of
    the prior's deviation is left. Another machine follows by half, for half is in common."""
    now = assess(demo())
    usual = expected_dust(now, "saw", "loft", {})
    spread, own = math.log(usual.wide) / 2 / INSIDE, METER / INSIDE
    seen = deviations * spread
    shown = read(demo(), "saw", f"{usual.mid * math.exp(seen)} mg/m3")
    factors = dust_factors(assess(shown))
    weight = spread**2 / (spread**2 + own**2)
    assert math.log(factors["saw"].times) == pytest.approx(weight * seen, rel=1e-4, abs=1e-6)
    assert factors["saw"].left == pytest.approx(math.sqrt(1 - weight), rel=1e-6)
    other = expected_dust(now, "planer", "loft", {})
    theirs = math.log(other.wide) / 2 / INSIDE
    carried = IN_COMMON * theirs * spread / (spread**2 + own**2)
    assert math.log(factors["planer"].times) == pytest.approx(carried * seen, rel=1e-4, abs=1e-6)
    assert 0 < factors["saw"].left < factors["planer"].left < 1


def test_a_reading_narrows_the_band_of_the_day_round_what_was_read(loft):
    day = plan_day(loft, loft.project.work.day)
    before = exposure(room_day(loft, day)).person
    usual = expected_dust(loft, "saw", "loft", {})
    wide, last = before.high / before.low, usual.wide
    project = demo()
    for _ in range(3):
        project = read(project, "saw", f"{usual.mid} mg/m3")
        now = assess(project)
        told = expected_dust(now, "saw", "loft", dust_factors(now))
        # As expected: the middle stays, both ends come nearer, and no further than to it.
        assert told.mid == pytest.approx(usual.mid, rel=1e-6)
        assert usual.low < told.low < told.mid < told.high < usual.high and told.wide < last
        last = told.wide
    after = exposure(room_day(now, plan_day(now, project.work.day))).person
    assert after.high / after.low < wide and after.mid == pytest.approx(before.mid, rel=1e-6)
    assert parse(dump(project), "x") == project


def test_what_was_read_counts_twice_as_much_where_twice_is_read(loft):
    usual = expected_dust(loft, "saw", "loft", {})
    much = read(demo(), "saw", f"{usual.high * 4} mg/m3")
    few = read(demo(), "saw", f"{usual.low / 4} mg/m3")
    doses = [
        exposure(room_day(now, plan_day(now, now.project.work.day))).person.mid
        for now in (assess(few), loft, assess(much))
    ]
    assert doses == sorted(doses) and doses[0] < doses[1] / 1.3 and doses[2] > doses[1] * 1.3


def test_without_a_reading_all_is_as_the_tables_say_and_without_a_counter_nothing_is_asked(loft):
    assert dust_factors(loft) == {}
    found = room_day(loft, plan_day(loft, loft.project.work.day))
    dust = day_dust(loft, found)
    assert dust.meter is not None and dust.meter.readings == 0
    assert dust.meter.expected == dust.meter.tables
    assert any("particle counter after 15 min" in line for line in room_lines(found, dust))
    bare = assess(with_instrument(demo(), "particle counter", there=False))
    assert day_dust(bare, room_day(bare, plan_day(bare, bare.project.work.day))).meter is None


def test_a_bare_figure_that_may_be_either_is_asked_about():
    with pytest.raises(DoubtfulInput, match=r"0\.9 µg/m³ or 0\.9 mg/m³"):
        read(demo(), "saw", "0.9")
    with pytest.raises(InputError, match="name a room"):
        with_reading(demo(), made_reading(demo(), ("dust", "saw", "saw"), "350", DAY))
    with pytest.raises(InputError, match="no more than"):
        read(demo(), "saw", "5000 mg/m3")


def test_a_counter_at_the_command_line(tmp_path, capsys):
    path = tmp_path / "x.greycurrent.json"
    save(demo(), path)
    assert cli.main(["log", str(path), "add", "dust", "saw", "loft", "900 ug/m3"]) == 0
    assert cli.main(["room", str(path), "saw 20"]) == 0
    assert "now 4." in capsys.readouterr().out


# -- what is put on machines


def test_aids_steer_what_is_drawn_and_nothing_else(loft):
    for kind in aid_kinds():
        low, mid, high = (aid_keeps(kind.aid, guess) for guess in GUESSES)
        assert 0 <= low < mid < high < 1
        assert with_aids(0.0, [kind.aid], "high") == 0.0
        assert with_aids(0.5, [kind.aid], "mid") == pytest.approx(1 - 0.5 * (1 - mid))
    fits = {
        model.body.name: [k.aid for k in aid_kinds() if k.suits(model.body)]
        for model in machine_models()
    }
    assert fits["Table saw"] == ["brushes", "insert", "edge block"]
    assert fits["Floor sweep"] == fits["12 in planer"] == []
    project = demo()
    saw = project.machine["saw"]
    more = changed(project, "saw", aids=("brushes", "insert"))
    now = assess(more)
    for guess in GUESSES:
        plain = caught_by(loft, saw, guess)
        assert caught_by(now, more.machine["saw"], guess) == pytest.approx(
            1 - (1 - plain) * (1 - aid_keeps("brushes", guess)) * (1 - aid_keeps("insert", guess))
        )
    assert parse(dump(more), "x") == more


def test_what_could_be_put_on_is_offered_once_with_what_it_brings(loft):
    found = room_day(loft, plan_day(loft, loft.project.work.day))
    changes = room_changes(loft, found)
    words = [c.change.words for c in changes]
    assert "Brushes at the gaps of the saw" in words and len(set(words)) == len(words)
    for change in changes:
        then = assess(change.change.edit(loft.project))
        after = room_day(then, plan_day(then, found.day.jobs, found.day.order))
        assert after.dose(found.worst_room) == pytest.approx(change.after, rel=1e-9)
    brushed = assess(changed(demo(), "saw", aids=("brushes",)))
    again = room_changes(brushed, room_day(brushed, plan_day(brushed, brushed.project.work.day)))
    assert "Brushes at the gaps of the saw" not in [c.change.words for c in again]


@pytest.mark.parametrize("units", ["us", "metric"])
def test_a_guard_over_the_blade_is_put_on_a_saw_without_one(units):
    project = with_settings(demo(), units=units)
    bare = without_pickup(project, "saw/over-blade")
    assert can_have_blade_guard(bare.machine["saw"]) and not can_have_blade_guard(
        project.machine["saw"]
    )
    assert not any(
        can_have_blade_guard(bare.machine[m]) for m in ("bandsaw", "planer", "mitre-saw")
    )
    # And it is offered for the room's sake, connected, where the day is full of sawing.
    now = assess(with_work(bare, day=(DayJob(machine="saw", minutes=120),)))
    offered = room_changes(now, room_day(now, plan_day(now, now.project.work.day)))
    guard = next(c for c in offered if "guard" in c.change.words)
    made = guard.change.edit(bare)
    assert guard.less > 0.02 and any("saw/guard" in run.touches for run in made.runs)
    with_guard, ref = with_blade_guard(bare, "saw")
    assert with_guard.pickup[ref][1].height > with_guard.machine["saw"].table_height
    assert not can_have_blade_guard(with_guard.machine["saw"])
    with pytest.raises(InputError, match="choose a machine"):
        with_blade_guard(bare, "nobody")


def test_a_hood_is_offered_to_a_machine_without_one_where_it_can_be_connected():
    garage, lathe = placed(laid("garage"), BY_NAME["Lathe"], 3.0, 4.2, 0.0)
    bare = changed(garage, lathe, pickups=())
    now = assess(with_work(bare, day=(DayJob(machine=lathe, minutes=60),)))
    offered = room_changes(now, room_day(now, plan_day(now, now.project.work.day)))
    best = offered[0]
    assert best.change.words == "A hood behind the work at the lathe, connected"
    made = best.change.edit(bare)
    assert best.less > 0.5 and any(f"{lathe}/hood" in run.touches for run in made.runs)


# -- tests of hoods


@pytest.mark.parametrize(
    ("test", "shares"),
    [
        (HoodTest(lamp="nothing"), (0.9, 0.96, 0.99)),
        (HoodTest(lamp="a cloud", removed=1.0, swept=0.0), (0.05, 0.25, 0.5)),
        # A fifth of the chips on the floor: 0.8², 0.8^1.5 and 0.8 of the fine dust.
        (HoodTest(removed=1.0, swept=0.2), (0.64, 0.8**1.5, 0.8)),
        (HoodTest(removed=1.0), (None, None, None)),
        (HoodTest(), (None, None, None)),
    ],
)
def test_what_a_test_says_by_hand(test, shares):
    for guess, share in zip(GUESSES, shares, strict=True):
        assert materials.tested_share(test, guess) == (
            None if share is None else pytest.approx(share)
        )


def test_a_tested_hood_counts_as_tested_and_what_is_put_on_since_counts_besides():
    project = with_hood_test(demo(), "saw", lamp="a plume")
    now = assess(project)
    assert caught_by(now, project.machine["saw"], "mid") == pytest.approx(0.65)
    more = changed(project, "saw", aids=("brushes",))
    kept = aid_keeps("brushes", "mid")
    assert caught_by(assess(more), more.machine["saw"], "mid") == pytest.approx(
        1 - 0.35 * (1 - kept)
    )
    # Tested again with them on: they are in what was seen.
    again = with_hood_test(more, "saw", lamp="a thin veil")
    assert caught_by(assess(again), again.machine["saw"], "mid") == pytest.approx(0.87)
    assert parse(dump(again), "x") == again
    assert with_hood_test(project, "saw", lamp=None).machine["saw"].hood_test is None
    weighed = with_hood_test(demo(), "saw", removed=0.8)
    with pytest.raises(InputError, match="no more can be swept up"):
        with_hood_test(weighed, "saw", swept=0.9)
    with pytest.raises(InputError, match="choose a machine"):
        with_hood_test(demo(), "nobody", lamp="nothing")


@pytest.mark.parametrize(
    ("text", "system", "kg"),
    [
        ("850", "metric", 0.85),
        ("30", "us", 30 * POUND / 16),
        ("1.2 kg", "us", 1.2),
        ("2 lb", "metric", 2 * POUND),
    ],
)
def test_a_small_mass_is_read_as_it_is_meant(text, system, kg):
    assert parse_mass(text, system, small=True) == pytest.approx(kg)
    assert parse_mass("44", "us") == pytest.approx(44 * POUND) and parse_mass("20", "metric") == 20
    with pytest.raises(InputError, match="write a mass"):
        parse_mass("heavy", system)


# -- what is heard and breathed beyond a wall


def test_what_a_better_wall_would_win_is_what_it_then_wins():
    for wall, better in BETTER.items():
        project = with_work(demo(), wall=wall)
        now = assess(project)
        level = plan_day(now, project.work.day).next_door
        assert level is not None
        said = quieter(wall, level)
        for other, words in zip(better, said, strict=True):
            assert WALL_TAKES[other] > WALL_TAKES[wall]
            then = with_work(project, wall=other)
            heard = plan_day(assess(then), then.work.day).next_door
            assert words == f"With {BEHIND[other]} about {heard:.0f} dB(A)"
    assert set(BEHIND) == set(WALL_TAKES) == set(get_args(Wall)) - {"none"}
    project = with_work(demo(), wall="stud wall")
    text = day_text(
        plan_day(assess(project), project.work.day), better_order(assess(project), ())[0], 0
    )
    assert "Behind a stud wall one hears" in text and "With two stud walls" in text


def test_sealed_doors_keep_dust_out_of_the_next_room():
    two = two_rooms()
    shut = tuple(o.replaced(kind="door") if o.id == "between" else o for o in two.openings)
    two = two.replaced(openings=shut)
    doses = {}
    for name, doors in (
        ("open", {"open_doors": True}),
        ("shut", {}),
        ("sealed", {"sealed_doors": True}),
    ):
        now = assess(with_work(two, **doors))
        found = room_day(now, plan_day(now, now.project.work.day))
        other = next(room for room in found.rooms if room != found.worst_room)
        doses[name] = found.dose(other)
    assert doses["open"] > 2 * doses["shut"] > 4 * doses["sealed"] > 0

"""Working: the room's air, days and their order, run-on, catching, cards, chores, and their
commands."""

from __future__ import annotations

import datetime
import itertools
import json
import math
import random
from dataclasses import replace
from pathlib import Path

import icalendar
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from grey_current import cli
from grey_current.air.pieces import Straight
from grey_current.air.rooms import RoomAir, course, course_in_parts, rates, seconds_until
from grey_current.design.collector.catch import share_in_bin
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.flow.run_on import INTO_THE_BIN, SLIP, run_on
from grey_current.design.flow.transport import slowest_transport
from grey_current.errors import InputError
from grey_current.files.ics import calendar
from grey_current.files.project_file import dump, parse
from grey_current.files.work_report import day_text
from grey_current.shop.collector_edits import with_bin_volume
from grey_current.shop.day_edits import with_unread_taken, without_unread
from grey_current.shop.edits import changed, placed, removed, with_pickup
from grey_current.shop.names import Names
from grey_current.shop.room import Opening, Room
from grey_current.shop.room_edits import rectangle
from grey_current.shop.work_edits import with_checklist, with_cleaner, with_work, without_cleaner
from grey_current.shop.work_plan import AirCleaner, DayJob, Unread
from grey_current.standins.switches import CurrentSwitch, LiveSwitch, Remote, Timer, joined
from grey_current.work.cards import cards, usual_lines
from grey_current.work.chores import chores
from grey_current.work.day_plan import plan_day
from grey_current.work.day_tasks import better_neighbours, better_order, tasks_of
from grey_current.work.day_text import day_words, guess, parse_day, read_day
from grey_current.work.dust_budget import before_and_after, dust_budget
from grey_current.work.exposure import exposure
from grey_current.work.materials import (
    catching_airflow,
    caught_share,
    clean_air,
    made,
    together,
    woods,
)
from grey_current.work.one_stops import one_stops, one_stops_words
from grey_current.work.order import Costs, Task, best_order, seconds_of
from grey_current.work.pairs import all_pairs
from grey_current.work.room_air import lets_through, quiet_air, stretches
from grey_current.work.room_changes import room_changes
from grey_current.work.room_day import at_moment, minutes_words, room_day
from grey_current.work.varnish import clean_rooms, early_finishing, may_run_on
from grey_current.work.worth import worth_making
from grey_current.workspace.first_shop import body_of
from tests.core.shops import demo, made_up, straight_shop

LOFT = Path(__file__).parents[2] / "grey_current/shop/demos/net-loft.greycurrent.json"
DAY = "saw 20 min, jointer 15, planer 25 walnut, sand 40 after saw"


def steady(air):
    """The dust that each room comes to in the end: where its rate is nothing."""
    matrix, source, _ = rates(air)
    return np.linalg.solve(matrix, -source)


def alone(seconds: float = 600.0, made_mg: float = 0.0, **flows: float) -> RoomAir:
    """One room of 80 m³."""
    one = {name: (flows.get(name, 0.0),) for name in ("out", "settling", "filtered")}
    return RoomAir(
        seconds, (80.0,), (made_mg,), ((0.0,),), one["out"], one["settling"], one["filtered"]
    )


# -- the room's air


def test_one_room_against_closed_forms():
    decayed = course([alone(filtered=0.2, out=0.1, settling=0.05)], [3.0])
    assert decayed.dust[-1, 0] == pytest.approx(3.0 * math.exp(-0.35 / 80 * 600), rel=1e-9)
    made_of = course([alone(1e5, 2.0, filtered=0.25)], [0.0])
    assert made_of.dust[-1, 0] == pytest.approx(
        2.0 / 0.25 * (1 - math.exp(-0.25 / 80 * 1e5)), rel=1e-9
    )
    assert steady(alone(made_mg=2.0, filtered=0.25))[0] == pytest.approx(8.0, rel=1e-9)
    for dust in (5.0, 0.05):  # from much or little, a tenth is as far away
        tenth = seconds_until(alone(filtered=0.25), [dust], 0.1, 0)
        assert tenth == pytest.approx(math.log(10) * 80 / 0.25, rel=1e-9)
    assert (
        seconds_until(alone(), [5.0], 0.1, 0) == math.inf
        and seconds_until(alone(), [0.0], 0.1, 0) == 0.0
    )
    kept = course([alone(made_mg=3.0)], [0.0])
    assert kept.dust[-1, 0] == pytest.approx(3.0 * 600 / 80, rel=1e-9)


def test_two_rooms_against_the_closed_form_and_an_independent_integrator():
    # two equal rooms that only exchange air: the mean stays, the difference falls with 2 Q / V
    pair = RoomAir(
        900.0,
        (40.0, 40.0),
        (0.0, 0.0),
        ((0.0, 0.1), (0.1, 0.0)),
        (0.0, 0.0),
        (0.0, 0.0),
        (0.0, 0.0),
    )
    found = course([pair], [4.0, 0.0]).dust[-1]
    apart = 4.0 * math.exp(-2 * 0.1 / 40 * 900)
    assert found == pytest.approx([(4 + apart) / 2, (4 - apart) / 2], rel=1e-9)
    now = assess(two_rooms())
    day = plan_day(now, parse_day("saw 30, planer 45 oak, saw 15", now.project))
    pieces = stretches(now, day, "high")
    exact = course(pieces, [0.0, 0.0])
    state, clock = np.zeros(2), 0.0
    for piece in pieces:
        matrix, source, _ = rates(piece)
        answer = solve_ivp(
            lambda t, c, m=matrix, s=source: m @ c + s,
            (0, piece.seconds),
            state,
            rtol=1e-11,
            atol=1e-13,
        )
        state, clock = answer.y[:, -1], clock + piece.seconds
        at = int(np.argmin(abs(exact.times - clock)))
        assert exact.dust[at] == pytest.approx(state, rel=1e-6, abs=1e-9)


@settings(max_examples=40, deadline=None)
@given(st.integers(1, 4), st.integers(0, 10_000))
def test_dust_is_never_lost(rooms, seed):
    chance = random.Random(seed)
    pieces = [
        RoomAir(
            chance.uniform(1, 5000),
            tuple(20.0 + 30 * n for n in range(rooms)),
            tuple(chance.uniform(0, 5) for _ in range(rooms)),
            tuple(
                tuple(0.0 if i == j else chance.uniform(0, 0.3) for j in range(rooms))
                for i in range(rooms)
            ),
            *(
                tuple(chance.choice((0.0, chance.uniform(0, 0.5))) for _ in range(rooms))
                for _ in range(3)
            ),
        )
        for _ in range(3)
    ]
    # Whose dust it is: the parts of what is made add up to the whole, at the same moments.
    made_by = [np.diag(piece.made) for piece in pieces]
    parts = course_in_parts(pieces, made_by)
    clean = course(pieces, [0.0] * rooms)
    assert parts.sum(axis=2) == pytest.approx(clean.dust, rel=1e-9, abs=1e-12)
    found = course(pieces, [chance.uniform(0, 3) for _ in range(rooms)])
    assert (
        abs(found.balance) <= 1e-9 * found.made
        and (found.dust > -1e-9).all()
        and (found.sinks > -1e-9).all()
    )


@pytest.mark.parametrize(
    "bad", [replace(alone(), volumes=(0.0,)), alone(out=1e6), replace(alone(), volumes=(math.nan,))]
)
def test_a_room_that_cannot_be_is_refused(bad):
    with pytest.raises(ValueError, match="a room"):
        course([bad], [0.0])


# -- a day as it is typed


@pytest.mark.parametrize(
    ("text", "jobs"),
    [
        (
            DAY,
            [
                ("saw", 20, None, ()),
                ("jointer", 15, None, ()),
                ("planer", 25, "walnut", ()),
                ("sander", 40, None, (1,)),
            ],
        ),
        ("Saw 1 h; miter 1½ h oak", [("saw", 60, None, ()), ("mitre-saw", 90, "oak", ())]),
        ("Saw 1 h; mitre saw 1½ h oak", [("saw", 60, None, ()), ("mitre-saw", 90, "oak", ())]),
        (
            "route 10 in mdf\nglue 15",
            [("router-table", 10, "mdf", ()), ("hand-glue", 15, None, ())],
        ),
        (
            "floor sweep 5 min, saw 5 after floor sweep",
            [("sweep", 5, None, ()), ("saw", 5, None, (1,))],
        ),
    ],
)
def test_a_day_is_read_as_people_jot_it_and_written_back(text, jobs):
    project = demo()
    found = parse_day(text, project)
    assert [(j.machine, j.minutes, j.wood, j.after) for j in found] == jobs
    assert parse_day(day_words(project, found), project) == found
    assert parse_day("planer 25 40 l walnut", project)[0].litres == 40
    boards = parse_day("planer 25 min 6 boards 2 m x 200 mm x 3 mm walnut, saw 5", project)
    assert (
        boards[0].litres == pytest.approx(6 * 2 * 0.2 * 0.003 * 1000 * 5)
        and boards[0].wood == "walnut"
        and len(boards) == 2
    )
    assert parse_day("planer 5 board 8 ft x 6 in x 1/8 in", project)[0].litres == pytest.approx(
        5.9, abs=0.02
    )


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("saw", "write it such as"),
        ("saw -5 min", "more than 0"),
        ("saw 0", "more than 0"),
        ("saw 9000", "at most 720"),
        ("boat 5", "is no one machine; machines of this shop are: Saw"),
        ("sa 5", "is no one machine"),
        ("saw 5 okk", "is no wood that is known here; write oak, if it was that"),
        ("plnaer 5", "is no one machine; write Planer, if you mean that"),
        ("saw 5 after planer", "no job before it is at the planer"),
        ("saw 1.2.3.4", "write it such as"),
        (", ".join(["saw 1"] * 61), "sixty are the most"),
        ("planer 5 999999 l", "at most 1,321 gal"),
        ("planer 5 99999 gal", "at most 1,321 gal"),
    ],
)
def test_a_day_that_cannot_be_is_one_sentence(text, says):
    with pytest.raises(InputError, match=says):
        parse_day(text, demo())


@pytest.mark.parametrize(
    ("text", "read"),
    [
        ("saw20", "saw 20 min"),
        ("saw: 20", "saw 20 min"),
        ("saw - 20", "saw 20 min"),
        ("saw = 20 min", "saw 20 min"),
        ("saw (20)", "saw 20 min"),
        ("20 min saw", "saw 20 min"),
        ("20min on the saw", "saw 20 min"),
        ("saw for 20 min", "saw 20 min"),
        ("used the jointer for 15 minutes", "jointer 15 min"),
        ("about 15 min at the jointer", "jointer 15 min"),
        ("saw 1 1/2 h", "saw 90 min"),
        ("saw 1½ hours", "saw 90 min"),
        ("saw 1:30", "saw 90 min"),
        ("1h30 planer oak", "planer 90 min oak"),
        ("planer 1 h 30 min walnut", "planer 90 min walnut"),
        ("planer 1 hour and 15 minutes", "planer 75 min"),
        ("half an hour on the bandsaw", "bandsaw 30 min"),
        ("an hour planer", "planer 60 min"),
        ("½ h saw", "saw 30 min"),
        ("saw 20' oak", "saw 20 min oak"),
        ("20 min on the saw, in oak", "saw 20 min oak"),
        ("oak on the saw, 20 min", None),
        ("saw 20 and planer 25", "saw 20 min, planer 25 min"),
        ("saw 20min then jointer 10min", "saw 20 min, jointer 10 min"),
        ("saw 20 + planer 1:15 walnut", "saw 20 min, planer 75 min walnut"),
        ("- saw 10\n- planer 20\n- glue 15", "saw 10 min, planer 20 min, glue 15 min"),
        ("miter 10, mitre saw 10", "miter saw 10 min, miter saw 10 min"),
        ("chop saw 15 oak", "miter saw 15 min oak"),
        ("thickness planer 25 walnut", "planer 25 min walnut"),
        ("table saw 20", "saw 20 min"),
        ("router 15 mdf", "router table 15 min mdf"),
        ("router table 15 mdf", "router table 15 min mdf"),
        ("planing 25 pine", "planer 25 min softwood"),
        ("planer 25 zebrano", "planer 25 min unknown"),
        ("glue up 20", "glue 20 min"),
        ("finishing 30 oil", "finish 30 min"),
        ("saw 20, lunch 30, coffee 10", "saw 20 min, break 30 min, break 10 min"),
        ("assembly 45", "assembly 45 min"),
        ("hand sanding 20 oak", "hand sanding 20 min oak"),
        ("20 min sanding by hand", "hand sanding 20 min"),
        ("lathe 20 maple", "lathe 20 min maple"),
        ("saw 20 min, 15 min sander after saw", "saw 20 min, spindle sander 15 min after saw"),
    ],
)
def test_a_day_is_read_in_all_the_usual_ways(text, read):
    if read is None:
        with pytest.raises(InputError):
            parse_day(text, demo())
        return
    assert day_words(demo(), parse_day(text, demo())) == read
    assert day_words(demo(), parse_day(read, demo())) == read
    # Of two of each the same.
    twice = parse_day(f"{text}\n{text}", demo())
    assert len(twice) == 2 * len(parse_day(read, demo()))


@pytest.mark.parametrize(
    ("text", "meant"),
    [
        ("saw", "saw 10 min"),
        ("plnaer 25 walnut", "planer 25 min walnut"),
        ("planer 25 wallnut", "planer 25 min walnut"),
        ("saw 5 after planer", "saw 5 min"),
        ("saw 9000", "saw 720 min"),
        ("bandsow 1,5 h", "bandsaw 90 min"),
        ("jonter ½ h ok", "jointer 30 min oak"),
        ("handsanding 15", "hand sanding 15 min"),
        ("gleu 20", "glue 20 min"),
        ("boat 5", None),
    ],
)
def test_what_is_not_understood_is_kept_with_a_guess_and_the_rest_goes_on(text, meant):
    shop, whole = demo(), f"jointer 15, {text}, lathe 20"
    jobs, unread = read_day(whole, shop)
    assert [job.machine for job in jobs] == ["jointer", "lathe"]
    assert unread == (Unread(text=text, after_jobs=1),)
    planned = with_work(shop, day=jobs, unread=unread)
    # What the field shows is read as it was.
    again = day_words(shop, jobs, unread)
    assert text in again and read_day(again, shop) == (jobs, unread)
    left = without_unread(planned, 0)
    assert left.work.day == jobs and not left.work.unread
    job = guess(text, shop)
    assert (job and day_words(shop, (job,))) == meant
    if job is not None:
        taken = with_unread_taken(planned, 0, job)
        assert day_words(shop, taken.work.day) == f"jointer 15 min, {meant}, lathe 20 min"
        assert not taken.work.unread
        assert parse_day(meant, shop) == (job,)


def test_lines_that_are_not_understood_keep_their_places():
    shop = demo()
    jobs, unread = read_day("plnaer 5, saw 20, jonter 10, boat 5, sander 10 after saw", shop)
    planned = with_work(shop, day=jobs, unread=unread)
    while planned.work.unread:
        job = guess(planned.work.unread[0].text, shop)
        planned = with_unread_taken(planned, 0, job) if job else without_unread(planned, 0)
    words = "planer 5 min, saw 20 min, jointer 10 min, spindle sander 10 min after saw"
    assert day_words(shop, planned.work.day) == words
    with pytest.raises(InputError, match="not understood"):
        without_unread(planned, 0)
    # Nothing but what nobody understands is refused.
    with pytest.raises(InputError, match="is no one machine"):
        read_day("boat 5", shop)
    two = placed(
        placed(demo("empty"), body_of("Contractor saw"), 1, 1)[0], body_of("Mitre saw"), 3, 1
    )[0]
    assert [job.machine for job in parse_day("saw 20, mitre 5", two)] == [
        "contractor-saw",
        "mitre-saw",
    ]


def test_names_with_figures_and_commas_and_ands_are_read_whole():
    """What the field shows is what it reads: a name is one word, however it is written."""
    names = ("Planer 15 in", "Belt and disc sander", "Saw, small", "Planer", "20 in bandsaw (old)")
    machines = tuple(m.replaced(name=name) for m, name in zip(demo().machines, names, strict=False))
    project = demo().replaced(machines=(*machines, *demo().machines[len(machines) :]))
    jobs = tuple(
        DayJob(machine=m.id, minutes=n + 5, wood="oak") for n, m in enumerate(machines[:4])
    )
    jobs += (DayJob(machine=machines[1].id, minutes=9, after=(1, 3)),)
    assert parse_day(day_words(project, jobs), project) == jobs
    typed = parse_day(
        "planer 15 IN 12, planer 8, belt and disc sander 3 after planer 15 in and planer", project
    )
    assert [(job.machine, job.minutes, job.after) for job in typed] == [
        (machines[0].id, 12, ()),
        (machines[3].id, 8, ()),
        (machines[1].id, 3, (1, 2)),
    ]
    with pytest.raises(InputError, match="planer 15 in 4 9"):
        parse_day("planer 15 in 4 9", project)


def test_jobs_that_wait_for_one_another_are_refused():
    saw = DayJob(machine="saw", minutes=5)
    for day in (
        (saw.replaced(after=(1,)),),
        (saw.replaced(after=(2,)), saw.replaced(after=(1,))),
        (saw.replaced(after=(7,)),),
    ):
        with pytest.raises(InputError):
            with_work(demo(), day=day)
    late = with_work(demo(), day=parse_day(DAY, demo()))
    assert parse(dump(late), "file") == late


# -- the order


def random_tasks(seed: int, count: int) -> tuple[list[Task], Costs]:
    chance = random.Random(seed)
    kinds = [
        (
            frozenset(chance.sample("abcdef", chance.randint(0, 2))),
            chance.choice((None, "x", "y")),
            chance.uniform(0, 9),
        )
        for _ in range(5)
    ]
    chosen = [chance.choice(kinds) for _ in range(count)]
    tasks = [
        Task(gates, (hose,), frozenset(j for j in range(i) if chance.random() < 0.15))
        for i, (gates, hose, _) in enumerate(chosen)
    ]
    walk = tuple(tuple(abs(a[2] - b[2]) for b in chosen) for a in chosen)
    gates = {gate: 6.0 for task in tasks for gate in task.gates}
    return tasks, Costs(gates | {"a": 6.0}, (60.0,), walk, ("x",), frozenset("a"))


@pytest.mark.parametrize("seed", range(40))
def test_the_order_is_as_good_as_the_best_of_all(seed):
    count = seed % 7 + 1
    tasks, costs = random_tasks(seed, count)
    allowed = (
        o
        for o in itertools.permutations(range(count))
        if all(tasks[j].after <= set(o[:n]) for n, j in enumerate(o))
    )
    found = best_order(tasks, costs)
    assert found.proven and found.seconds == pytest.approx(
        min(seconds_of(o, tasks, costs) for o in allowed)
    )
    assert all(tasks[job].after <= set(found.jobs[:n]) for n, job in enumerate(found.jobs))


def test_a_long_day_is_ordered_as_well_as_can_be_said():
    tasks, costs = random_tasks(3, 40)
    found = best_order(tasks, costs)
    assert not found.proven and sorted(found.jobs) == list(range(40))
    assert found.seconds <= seconds_of(range(40), tasks, costs) or any(task.after for task in tasks)
    with pytest.raises(ValueError, match="circle"):
        best_order(
            [replace(tasks[0], after=frozenset({1})), replace(tasks[1], after=frozenset({0}))]
            + tasks[2:],
            costs,
        )


def test_the_days_moves_are_those_that_the_search_counts():
    now = assess(demo("allotment"))
    jobs = parse_day(
        "bandsaw 10, planer 10, bandsaw 5, saw 5, disc sander 4, router 4", now.project
    )
    day, (best, saved) = plan_day(now, jobs), better_order(now, jobs)
    tasks, costs = tasks_of(now, jobs)
    rolled = sum(step.seconds for step in day.steps if step.words.startswith("Roll"))
    assert day.move_seconds - rolled == pytest.approx(seconds_of(day.order, tasks, costs))
    assert saved > 30 and plan_day(now, jobs, best.jobs).hose_swaps < day.hose_swaps
    assert any("Put the hose that is moved about on" in step.words for step in day.steps)
    assert all(a.ends == pytest.approx(b.starts) for a, b in itertools.pairwise(day.steps))
    assert {item.words for item in worth_making(now)} >= {"Quick couplers on the moved hose"}


def test_a_remote_saves_the_way_to_the_switch_and_back_twice():
    """3 m away and used five times a week: 60 m a week at 1.2 m/s, 48 weeks."""
    project = straight_shop()
    fan, saw = project.collectors[0], project.machines[0]
    project = changed(project, saw.id, x=fan.x + 3.0, y=fan.y, uses_per_week=5.0)
    found = {item.words: item.minutes for item in worth_making(assess(project))}
    words = f"A remote or automatic starter for the {fan.name.lower()}"
    assert found[words] == pytest.approx(5 * 12 / 1.2 / 60 * 48)
    by_tool = changed(project, fan.id, auto_start=True)
    assert words not in {item.words for item in worth_making(assess(by_tool))}


def test_a_combination_machine_is_turned_over_as_seldom_as_can_be():
    """Its working place is typed in brackets; the search counts the turning, the time line says it,
    the room knows."""
    project = changed(demo(), "saw", one_at_a_time=True, turn_over=50)
    first, other = project.machine["saw"].pickups[:2]
    text = f"saw ({first.name}) 10, saw ({other.id}) 10, saw 20"
    jobs = parse_day(text, project)
    assert [job.place for job in jobs] == [first.id, other.id, None]
    assert parse_day(day_words(project, jobs), project) == jobs
    now = assess(with_work(project, day=jobs))
    day, (best, saved) = plan_day(now, jobs), better_order(now, jobs)
    assert day.hoods_turned == 2 and best.proven and saved >= 50
    assert plan_day(now, jobs, best.jobs).hoods_turned == 1
    turned = [step for step in day.steps if step.words.startswith("Turn the hood over")]
    assert [step.seconds for step in turned] == [50, 50] and other.name.lower() in turned[0].words
    assert seconds_of(range(3), *tasks_of(now, jobs)) == pytest.approx(day.move_seconds)
    assert room_day(now, day).mid.dust.max() > 0
    gone = changed(project, "saw", one_at_a_time=False)
    assert plan_day(assess(gone), jobs).hoods_turned == 0
    for bad in ("saw (nowhere) 10", "planer (port) 10", "saw 10 20"):
        with pytest.raises(InputError):
            parse_day(bad, project)


def test_nobody_glues_before_the_saw_and_small_gains_are_not_proposed():
    now = assess(demo())
    jobs = parse_day(
        "saw 20, glue 20, planer 15, sand 30, saw 5, jointer 5, finish 20", now.project
    )
    best, saved = better_order(now, jobs)
    stages = ["cut", "glue", "cut", "sand", "cut", "cut", "finish"]
    assert [stages[n] for n in best.jobs] == stages and saved >= 0
    assert "No order of these jobs saves 3 min" in day_text(plan_day(now, jobs), best, saved)
    often = parse_day(", ".join(["saw 5, planer 5"] * 9), now.project)
    best, saved = better_order(now, often)
    assert saved > 180 and "Better order" in day_text(plan_day(now, often), best, saved)
    assert [often[n].machine for n in best.jobs] in (
        ["saw"] * 9 + ["planer"] * 9,
        ["planer"] * 9 + ["saw"] * 9,
    )


def test_a_run_on_that_is_too_short_is_a_finding_with_its_remedy():
    project = changed(demo(), "cyclone", auto_start=True, run_on=2)
    told = [f for f in all_findings(project, assess(project)) if f.code == "run-on"]
    assert len(told) == 1 and told[0].stage == "collector" and told[0].limit > 2
    mended = told[0].fixes[0].edit(project)
    assert mended.collector["cyclone"].run_on >= told[0].limit
    assert not [f for f in all_findings(mended, assess(mended)) if f.code == "run-on"]
    assert not [f for f in all_findings(demo(), assess(demo())) if f.code == "run-on"]


def test_a_day_adds_up():
    now = assess(changed(demo(), "cyclone", auto_start=True, run_on=4.0))
    day = plan_day(now, parse_day(DAY, now.project))
    kept = share_in_bin(now.project.collector["cyclone"])
    assert day.litres == pytest.approx(sum(m.litres for m in day.made))
    assert day.bins["cyclone"] == pytest.approx(day.litres * kept) and kept > 0.99
    assert day.made[0] == made(now.project.machine["saw"], 20, 600.0, "mid")
    assert day.made[0].litres == pytest.approx(30 * 20 / 60)
    assert len(day.on["cyclone"]) == 4 and day.starts_an_hour("cyclone") == 3
    assert day.hours_on("cyclone") == pytest.approx((100 * 60 + 4 * 3) / 3600)
    # By hand: a bin of which the day's chips fill two thirds one and a half times is at two thirds
    # when two thirds of the chips have come, each job's evenly over its time.
    small = with_bin_volume(now.project, "cyclone", day.bins["cyclone"] / 1000)
    filling = plan_day(assess(small), parse_day(DAY, small))
    left = 2 / 3 * day.bins["cyclone"]
    for step in (s for s in filling.steps if s.job is not None):
        more = filling.made[step.job].litres * kept
        if more > left:
            break
        left -= more
    full = step.starts + step.seconds * left / more
    assert filling.bin_full_after("cyclone") == pytest.approx(full)
    assert day.bin_full_after("cyclone") is None
    with pytest.raises(InputError, match=r"no such|none before"):
        with_work(now.project, day=(DayJob(machine="saw", minutes=5, after=(3,)),))
    gone = assess(removed(now.project, ["planer"]))
    assert plan_day(gone, parse_day(DAY, now.project)).missing == ("planer",)
    far = better_neighbours(
        now, parse_day("saw 5, lathe 5, saw 5, lathe 5, saw 5", now.project), range(5)
    )
    assert far is None or far[2] > 0.5


def test_the_run_on_is_the_time_along_the_path():
    now = assess(demo())
    answer = now.of_machine["planer"]
    system = answer.systems["cyclone"]
    leaf = answer.pickups[0].leaf or 0
    by_hand = INTO_THE_BIN + sum(
        piece.length / (SLIP * system.velocity(index))
        for index in system.network.path(leaf)
        if isinstance(piece := system.network.pieces[index], Straight)
    )
    assert run_on(answer) == pytest.approx(by_hand) and run_on(now.of_machine["lathe"]) == 0


def test_the_stand_ins_switch_as_real_ones_would():
    tools = [(100.0, 160.0), (165.0, 200.0), (400.0, 400.5)]
    assert CurrentSwitch(1.0, 10.0).on_during(tools, 1000) == [(101.0, 210.0)]
    assert (
        Remote(5.0).on_during(tools, 1000) == [(100.0, 405.5)] and Remote().on_during([], 9) == []
    )
    assert Timer(3600.0).on_during(tools, 1000) == [(100.0, 1000.0)]
    live = LiveSwitch(1.0, 10.0)
    live.tell("saw", True, 0.0)
    assert live.state(0.5) == (False, 0.0) and live.state(1.0) == (True, 0.0)
    live.tell("saw", False, 5.0)
    assert live.state(9.0) == (True, 6.0) and live.state(15.1) == (False, 0.0)
    live.tell("saw", True, 20.0)
    live.tell("saw", False, 20.4)  # too short to be sensed
    assert live.state(21.5) == (False, 0.0)
    assert joined([(3, 4), (0, 1), (1, 2)]) == [(0, 2), (3, 4)]


# -- hoods and the dust of a day


def test_what_a_hood_catches():
    pickup = demo().pickup["planer/hood"][1]
    full = catching_airflow(pickup)
    assert caught_share(pickup, 0.0, "mid") == 0 and caught_share(
        pickup, full, "mid"
    ) == pytest.approx(0.9)
    assert (
        caught_share(pickup, full, "low")
        < caught_share(pickup, full, "mid")
        < caught_share(pickup, full, "high")
    )
    assert caught_share(pickup, full / 2, "mid") == pytest.approx(1 - math.sqrt(0.1))
    assert (
        caught_share(pickup.replaced(caught=0.95), 0.0, "mid") == 0.95
        and together([0.5, 0.5]) == 0.75
    )
    half = pickup.replaced(capture=pickup.capture.replaced(area=pickup.capture.area / 2))
    assert caught_share(half, full / 2, "mid") > caught_share(pickup, full / 2, "mid")
    assert woods()["walnut"].harms_animals and not woods()["ash"].harms_animals


def test_a_drawer_under_a_machine_without_a_pipe():
    bare = demo()
    bare = bare.replaced(
        machines=(
            *bare.machines,
            bare.machine["saw"].replaced(id="old", name="Old saw", x=4.0, y=3.0),
        )
    )
    now = assess(bare)
    jobs = parse_day("old saw 40", bare)
    found = room_day(now, plan_day(now, jobs))
    offered = next(c for c in room_changes(now, found) if "drawer" in c.change.words)
    assert (
        found.caught["old"] == 0
        and offered.less == pytest.approx(0.3, abs=0.02)
        and "to make" in offered.costs
    )
    with_it = assess(offered.change.edit(bare))
    then = room_day(with_it, plan_day(with_it, jobs))
    assert then.caught["old"] == pytest.approx(0.3) and then.dose("loft") == pytest.approx(
        offered.after
    )
    assert not [c for c in room_changes(with_it, then) if "drawer" in c.change.words]
    mine = assess(changed(with_it.project, "old", drawer_caught=0.6))
    assert room_day(mine, plan_day(mine, jobs)).caught["old"] == pytest.approx(0.6)
    assert [c.words for c in chores(mine.project) if "drawer" in c.words] == [
        "Empty the old saw's drawer, with a respirator on"
    ]
    piped = changed(
        bare, "saw", chip_drawer=True
    )  # the air takes its chips away: the drawer adds to what is caught
    assert not [c for c in chores(piped) if "drawer" in c.words]
    assert (
        room_day(assess(piped), plan_day(assess(piped), jobs)).caught["saw"] > found.caught["saw"]
    )


def two_rooms():
    """The loft with a second room behind a door in its gable."""
    loft = demo()
    side = Room(id="store", name="Store", outline=rectangle(9.5, 0.5, 3, 4), ceiling=2.4)
    door = Opening(
        id="between", name="Store door", kind="doorway", start=(9.4488, 2.0), end=(9.4488, 2.9)
    )
    return loft.replaced(rooms=(*loft.rooms, side), openings=(*loft.openings, door))


def test_the_dust_of_a_day_and_what_would_clear_it():
    now = assess(demo())
    day = plan_day(now, parse_day(DAY, now.project))
    found = room_day(now, day)
    assert abs(found.mid.balance) <= 1e-9 * found.mid.made
    assert (found.low <= found.mid.dust + 1e-12).all() and (
        found.mid.dust <= found.high + 1e-12
    ).all()
    changes = room_changes(now, found)
    assert [c.less for c in changes] == sorted((c.less for c in changes), reverse=True)
    best = changes[0]
    after = assess(best.change.edit(now.project))
    assert room_day(after, plan_day(after, day.jobs)).dose("loft") == pytest.approx(best.after)
    assert best.after < best.before
    cleaner = AirCleaner(name="Box", room="loft", airflow=0.4, caught=0.5)
    clean = assess(with_work(now.project, cleaners=(cleaner,)))
    assert room_day(clean, plan_day(clean, day.jobs)).decay < found.decay / 1.5
    loaded = assess(with_cleaner(clean.project, 1, hours=400.0))
    assert (
        room_day(loaded, plan_day(loaded, day.jobs)).decay
        > room_day(clean, plan_day(clean, day.jobs)).decay
    )
    assert without_cleaner(clean.project, 1) == now.project
    mine = assess(with_pickup(now.project, "sander/port", caught=0.0))
    assert room_day(mine, plan_day(mine, day.jobs)).dose("loft") > found.dose("loft")
    leaky = assess(with_work(now.project, seal=0.5))
    assert room_day(leaky, plan_day(leaky, day.jobs)).dose("loft") > found.dose("loft")
    assert lets_through(leaky.project, leaky.project.collector["cyclone"]) > 0.5
    assert minutes_words(3900) == "1 h 5 min" and minutes_words(math.inf) == "more than a day"


@pytest.mark.parametrize("shop", ["loft", "allotment", "two rooms"])
def test_whose_dust_it_is_shows_when_a_job_makes_none(shop):
    """A share is what the dose falls by, all else being the same, when that place makes no dust."""
    project = two_rooms() if shop == "two rooms" else demo(shop)
    now = assess(project)
    names = [machine.name.lower() for machine in project.machines[:3]]
    text = f"{names[0]} 20, {names[1]} 15 walnut, hand sanding 10, {names[2]} 5, {names[0]} 10"
    jobs = parse_day(text, project)
    found = room_day(now, plan_day(now, jobs))
    shares = dust_budget(now, found)
    assert sum(share.whole for share in shares) == pytest.approx(1)
    assert len(shares) == 4 and min(min(s.missed, s.returned) for s in shares) >= 0
    whole = exposure(found).person.mid
    for share in shares:
        without = tuple(
            job.replaced(litres=0.0) if job.machine == share.machine else job for job in jobs
        )
        less = exposure(room_day(now, plan_day(now, without))).person.mid
        assert 1 - less / whole == pytest.approx(share.whole, abs=2e-3)
    by_hand = next(share for share in shares if share.machine == "hand-sand")
    assert by_hand.way == "nothing catches it" and by_hand.returned == 0
    nothing = dust_budget(now, room_day(now, plan_day(now, parse_day("glue 10", project))))
    assert nothing == ()


@pytest.mark.parametrize("shop", ["loft", "allotment", "two rooms"])
def test_whose_dust_is_left_after_a_change_adds_up_to_what_is_breathed_then(shop):
    """What the operations add up to after each change is the dose of the changed shop's own day,
    as a share of the day's as it is; one wood more is one operation more.
    """
    project = two_rooms() if shop == "two rooms" else demo(shop)
    now = assess(project)
    names = [machine.name.lower() for machine in project.machines[:3]]
    text = f"{names[0]} 20, {names[1]} 15 walnut, {names[0]} 5 mdf, hand sanding 10"
    jobs = parse_day(text, project)
    found = room_day(now, plan_day(now, jobs))
    shares = dust_budget(now, found)
    assert sorted(share.minutes for share in shares) == [5, 10, 15, 20]
    assert any(share.name.endswith(", mdf") for share in shares)
    whole, looked_into = exposure(found).person.mid, [c for c in room_changes(now, found) if c.dust]
    assert looked_into
    for change in looked_into:
        both = before_and_after(shares, change.dust)
        assert sum(row.now for row in both) == pytest.approx(1)
        then = assess(change.change.edit(project))
        breathed = exposure(room_day(then, plan_day(then, jobs))).person.mid
        assert sum(row.then for row in both) == pytest.approx(breathed / whole, abs=2e-3)


@pytest.mark.parametrize("cleaners", [0, 1])
def test_when_to_varnish_is_when_the_dust_is_down_and_stays(cleaners):
    box = AirCleaner(name="Box", room="store", airflow=0.3, caught=0.5)
    now = assess(with_work(two_rooms(), cleaners=(box,) * cleaners))
    day = plan_day(now, parse_day("sand 40, hand sanding 20", now.project))
    found = room_day(now, day)
    end = list(found.mid.dust[at_moment(found.mid, day.ends)])
    for place, room in enumerate(clean_rooms(now, found)):
        assert room.soonest < room.likely < room.latest
        assert (room.without > room.likely) == bool(cleaners)
        # The same by its own way: dusty a minute before, clean then and for hours after.
        for seconds, clean in ((room.likely - 60, False), (room.likely + 60, True), (7e4, True)):
            left = course([quiet_air(now, day, "mid", seconds)], end).dust[-1][place]
            assert (left < clean_air()) == clean
    # What blows outdoors beside a stove is not left on; one with a good filter clears the air.
    assert may_run_on(day) == () and math.isnan(clean_rooms(now, found)[0].running)
    inside = assess(changed(now.project, "cyclone", exhausts="into the shop", stands="in the room"))
    again = plan_day(inside, parse_day("sand 40, hand sanding 20", inside.project))
    loft, _ = clean_rooms(inside, room_day(inside, again))
    assert may_run_on(again) == ("cyclone",) and loft.running < loft.likely
    assert early_finishing(now, found) == ()
    by_remote = assess(changed(now.project, "cyclone", auto_start=True))
    both = plan_day(by_remote, parse_day("sand 40, finish 20, saw 5", now.project))
    said = early_finishing(by_remote, room_day(by_remote, both))
    assert "would begin in" in said[0] and "saw is used after the finishing" in said[1]
    stays = assess(
        changed(by_remote.project, "cyclone", exhausts="into the shop", stands="in the room")
    )
    there = plan_day(stays, parse_day("sand 40, finish 20", now.project))
    assert "with the collector left on" in early_finishing(stays, room_day(stays, there))[0]
    assert "left on" not in said[0]
    first = plan_day(now, parse_day("finish 20", now.project))
    assert early_finishing(now, room_day(now, first)) == ()
    assert all(room.words == "at once" for room in clean_rooms(now, room_day(now, first)))


def test_dangers_are_named_and_rooms_share_their_air():
    outdoors = changed(demo(), "cyclone", exhausts="outdoors")
    now = assess(outdoors)
    found = room_day(now, plan_day(now, parse_day("saw 20, finish 30", outdoors)))
    text = " ".join(found.warnings)
    assert "Danger" in text and "solvent fumes" in text and "negative pressure" in text
    both = assess(two_rooms())
    shared = room_day(both, plan_day(both, parse_day(DAY, both.project)))
    assert shared.worst_room == "loft" and 0 < shared.dose("store") < shared.dose("loft")
    wild = assess(
        with_work(
            demo(), cleaners=(AirCleaner(name="Gale", room="loft", airflow=20, caught=1),) * 12
        )
    )
    gale = plan_day(wild, parse_day(DAY, demo()))
    with pytest.raises(InputError, match="cannot be changed so often"):
        room_day(wild, gale)


@pytest.mark.parametrize("seed", range(6))
def test_days_in_shops_of_all_kinds(seed):
    project = made_up(seed)
    now = assess(project)
    jobs = tuple(DayJob(machine=m.id, minutes=7) for m in project.machines)
    day = plan_day(now, jobs)
    found = room_day(now, day)
    assert (
        abs(found.mid.balance) <= 1e-9 * max(found.mid.made, 1.0)
        and np.isfinite(found.mid.dust).all()
    )
    assert len(cards(now)) == len(project.machines) and chores(project)


# -- cards and chores


def test_cards_say_what_is_computed_and_checklists_are_the_users():
    now = assess(demo())
    planer = next(card for card in cards(now) if card.machine == "planer")
    assert [plate for plate, is_open in planer.levers if is_open] == ["Miter saw", "Planer"]
    assert "444 CFM of 545 CFM" in planer.air[0] and "inH2O of suction" in planer.air[0]
    assert planer.lines == usual_lines(demo().machine["planer"]) and "nails" in " ".join(
        planer.lines
    )
    assert "No gloves at a turning cutter." in planer.lines
    assert any(line.startswith("Gate open, collector up") for line in planer.lines)
    assert any("Leave the collector on for" in line for line in planer.air)
    # Nothing about gates or running alone where there is no port.
    lathe = next(card for card in cards(assess(demo())) if card.machine == "lathe")
    assert not any(line.startswith("Gate") for line in lathe.lines) and lathe.together == ""
    own = with_checklist(demo(), "planer", ("Dust bag on.",))
    assert next(card for card in cards(assess(own)) if card.machine == "planer").lines == (
        "Dust bag on.",
    )
    assert with_checklist(own, "planer", None) == demo()
    pairs = [pair.machines for pair in all_pairs(now) if pair.good]
    assert pairs and all(a != b for a, b in pairs)
    assert "It has no port." in next(card for card in cards(now) if card.machine == "lathe").air


def test_chores_come_as_a_calendar():
    found = chores(
        with_work(
            demo(), cleaners=(AirCleaner(name="Box; large", room="loft", airflow=0.4, caught=0.5),)
        )
    )
    assert found[0].words == "Empty the cyclone's bin" and any(
        "stove" in chore.words for chore in found
    )
    text = calendar(found, "Loft, upstairs", datetime.date(2026, 11, 26))
    assert all(len(line.encode()) <= 75 for line in text.split("\r\n"))
    read = icalendar.Calendar.from_ical(text)
    events = read.walk("VEVENT")
    assert len(events) == len(found) == len({str(event["UID"]) for event in events})
    for event, chore in zip(events, found, strict=True):
        assert str(event["SUMMARY"]) == chore.words
        assert str(event["DESCRIPTION"]) == f"Loft, upstairs: {chore.why}."
        assert event["DTSTART"].dt == chore.first(datetime.date(2026, 11, 26))
        assert event["RRULE"] == {"FREQ": ["DAILY"], "INTERVAL": [chore.days]}


# -- the command line


def test_the_commands_that_work(tmp_path, capsys):
    def told(*arguments: object, status: int = 0) -> str:
        assert cli.main([str(a) for a in arguments]) == status
        captured = capsys.readouterr()
        assert "Traceback" not in captured.err
        return captured.out + captured.err

    report = json.loads(told("day", LOFT, DAY, "--json"))
    assert report["format"] == "grey-current/day/1" and report["order"] == [
        "saw",
        "jointer",
        "planer",
        "sander",
    ]
    assert {
        "moves",
        "seconds",
        "swaps_saved",
        "bin_litres",
        "kwh",
        "run_on_s",
        "room",
        "decay_s",
    } <= set(report)
    room = report["room"][0]
    assert len(room["t_s"]) == len(room["fine_mg_m3"]) == len(room["low"]) == len(room["high"])
    assert "No order of these jobs saves 3 min" in told("day", LOFT) and "down to a tenth" in told(
        "room", LOFT, DAY
    )
    assert json.loads(told("room", LOFT, DAY, "--json"))["format"] == "grey-current/room/1"
    assert (
        "Empty the cyclone's bin" in told("chores", LOFT, "-o", tmp_path / "c.ics")
        and (tmp_path / "c.ics").exists()
    )
    for bad, says in {
        ("day", LOFT, "saw -5 min"): "more than 0",
        ("day", LOFT, "boat 5"): "is no one machine",
        ("day", LOFT.parent / "allotment-shed.greycurrent.json"): "write the jobs",
        ("room", tmp_path / "none.json"): "does not exist",
    }.items():
        assert says in told(*bad, status=2)


@pytest.mark.parametrize("name", ["loft", "allotment"])
def test_when_one_of_two_stops_the_other_is_as_it_is_alone(name):
    now = assess(demo(name))
    pairs = all_pairs(now)
    found = one_stops(now, pairs)
    together = {frozenset(pair.machines) for pair in pairs if pair.good}
    assert {frozenset((item.stays, item.stops)) for item in found} <= together
    assert len(found) == 2 * len({frozenset((item.stays, item.stops)) for item in found})
    for item in found:
        slow = slowest_transport(now.project, now.of_machine[item.stays])
        assert (
            item.alone == pytest.approx(slow.share)
            and item.clear >= run_on(now.of_machine[item.stops]) * 0.5
        )
        words = one_stops_words(Names(now.project), item)
        assert ("leave its gate open" in words) == (item.alone < 1 <= item.together)
        assert ("settle in either case" in words) == (item.alone < 1 and item.together < 1)
        still = one_stops_words(
            Names(now.project), replace(item, together=0.5, alone=1.5, clear=math.inf)
        )
        assert "lie still in any case" in still and "still carried" in still
    assert found if name == "loft" else not found

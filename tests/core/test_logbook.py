"""The logbook: lines, a day's work written down, two copies put together, what comes next with its
dates, chips."""

from __future__ import annotations

import csv
import datetime
import io
import json
import random

import icalendar
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current import cli
from grey_current.design.flow.assess import assess
from grey_current.errors import InputError
from grey_current.files.ics import calendar
from grey_current.files.keep_report import reading_of
from grey_current.files.log_report import (
    book_csv,
    dates_words,
    forecast_report,
    forecast_text,
    log_text,
    made_entry,
)
from grey_current.files.project_file import dump, load, parse, save
from grey_current.keep.forecast import forecasts, months, resistances_of, trends
from grey_current.keep.log import design_mark, entries_of_day, log_lines, merged
from grey_current.keep.model import Model
from grey_current.keep.practice import begun, done
from grey_current.shop.build_plan import Price
from grey_current.shop.differences import differences
from grey_current.shop.edits import changed, moved, with_settings
from grey_current.shop.keep_edits import (
    with_complaint,
    with_entries,
    with_entry_changed,
    with_keep,
    with_reading,
    without_entry,
)
from grey_current.shop.keep_plan import LogEntry
from grey_current.shop.work_edits import with_job, with_work
from grey_current.work.chores import chores
from grey_current.work.day_plan import plan_day
from tests.core.shops import demo, made_up

pytestmark = pytest.mark.usefixtures("compiled_kernel")
START = datetime.date(2026, 3, 2)


def later(days: float) -> datetime.date:
    return START + datetime.timedelta(days=days)


@pytest.fixture(scope="module")
def loft():
    project = demo()
    return project, Model(assess(project))


def due(project, model, today, what):
    return next(item for item in forecasts(project, model, today) if what in item.words)


def test_a_day_is_written_down_and_knows_its_design(loft):
    project, _ = loft
    day = plan_day(assess(project), project.work.day)
    logged = with_entries(project, entries_of_day(day, START))
    (entry,) = logged.keep.entries
    # What the cyclone lets through does not fall into its bin.
    assert entry.litres == pytest.approx(day.bins["cyclone"], abs=0.1)
    assert 0.99 * day.litres < entry.litres < day.litres
    assert entry.kwh == pytest.approx(day.kwh, abs=0.01)
    assert entry.woods == ("ash",) and parse(dump(logged), "x") == logged
    assert "other ducts" not in log_text(logged)
    assert "other ducts" in log_text(moved(logged, "planer", 0.1, 0.0))
    assert design_mark(logged) == design_mark(with_settings(logged, units="metric"))
    with pytest.raises(InputError, match="plan a day"):
        entries_of_day(plan_day(assess(project), ()), START)


@pytest.mark.parametrize(
    ("kind", "place", "facts", "says"),
    [
        ("bin emptied", "saw", {}, "collectors are"),
        ("worked", None, {}, "collectors are"),
        ("hose changed", "cyclone", {}, "name a hose"),
        ("noticed", "nowhere", {}, "name something of this shop"),
        ("shouted", None, {}, "write one of"),
        ("mended", None, {"hours": 30}, "at most 24"),
        ("mended", None, {"litres": float("nan")}, "it should be a plain number"),
        ("noticed", None, {"note": "x" * 201}, "cannot be used"),
    ],
)
def test_a_line_that_cannot_be_is_one_sentence(kind, place, facts, says):
    with pytest.raises(InputError, match=says):
        with_entries(demo(), (made_entry(demo(), kind, START, place, **facts),))


def test_lines_are_struck_out_and_dated_anew():
    project = with_entries(
        demo(), [made_entry(demo(), "noticed", later(n), note=f"line {n}") for n in range(3)]
    )
    assert [line.words for line in log_lines(project)] == [
        "Noticed. line 2",
        "Noticed. line 1",
        "Noticed. line 0",
    ]
    assert [e.note for e in without_entry(project, 2).keep.entries] == ["line 0", "line 2"]
    assert log_lines(with_entry_changed(project, 1, date=later(9)))[0].words == "Noticed. line 0"
    for act in (
        lambda: without_entry(project, 4),
        lambda: with_entry_changed(project, 0, date=START),
    ):
        with pytest.raises(InputError, match="lines of this logbook are 1 to 3"):
            act()


@settings(deadline=None, max_examples=30)
@given(st.lists(st.integers(0, 5), max_size=8), st.lists(st.integers(0, 5), max_size=8))
def test_two_copies_are_put_together_without_loss_or_doubling(mine, theirs):
    """Each line as often as in the copy that has it more often; either way round, and twice is as
    good as once."""
    project = demo()

    def copy(numbers):
        return with_entries(
            project, [LogEntry(kind="noticed", date=later(n), note=f"{n}") for n in numbers]
        )

    found = merged(copy(mine), copy(theirs)).project
    notes = [int(e.note) for e in found.keep.entries]
    assert notes == sorted(n for n in range(6) for _ in range(max(mine.count(n), theirs.count(n))))
    assert merged(copy(theirs), copy(mine)).project.keep.entries == found.keep.entries
    again = merged(found, copy(theirs))
    assert (again.project, again.entries) == (found, 0)


def test_copies_of_different_shops_are_not_put_together():
    other = with_entries(demo(), [made_entry(demo(), "bin emptied", START, "cyclone")])
    with pytest.raises(InputError, match="cannot be put together"):
        merged(demo("allotment"), other)


def test_the_bin_is_full_when_its_litres_say_so(loft):
    project, model = loft
    first = due(project, model, START, "two thirds full")
    assert first.early < first.date < first.late and "were it empty" not in first.why
    logged = with_entries(project, [made_entry(project, "bin emptied", START, "cyclone")])
    for week in range(1, 7):
        logged = with_entries(
            logged,
            [made_entry(project, "worked", later(7 * week), "cyclone", litres=5.0, hours=1.0)],
        )
    found = due(logged, model, later(42), "two thirds full")
    assert (found.late - found.date) < datetime.timedelta(days=200) and found.date > later(42)
    room = project.collector["cyclone"].bin.volume * 1000 * 2 / 3
    over = with_entries(logged, [made_entry(project, "worked", later(42), "cyclone", litres=room)])
    full = due(over, model, later(42), "two thirds full")
    assert full.date == full.early == full.late == later(42) and dates_words(full, "us").startswith(
        "now"
    )
    emptied = with_entries(
        over, [made_entry(project, "bin emptied", later(42), "cyclone", litres=room)]
    )
    assert due(
        with_entry_changed(emptied, len(emptied.keep.entries), date=later(43)),
        model,
        later(43),
        "thirds",
    ).date > later(43)


def test_a_filter_that_loads_by_a_known_law_is_foretold(loft):
    """Readings taken from the model with a resistance that rises day by day: the day when it is due
    is in the band."""
    project, model = loft
    item = project.collector["cyclone"].filter
    ratio, rate = (1 + item.due) / (1 + item.loading), 0.012
    logged, held = project, []
    noise = np.random.default_rng(4)
    for day in range(0, 50, 7):
        view = model.view({"filter/cyclone": 1 + rate * day})
        true = view.value("filter drop", "saw", "cyclone")
        assert resistances_of(
            model, [reading_of(project, ("filter drop", "saw", "cyclone"), true, START)]
        ) == [pytest.approx(1 + rate * day, rel=0.02)]
        value = true * (1 + 0.02 * noise.standard_normal())
        logged = with_reading(
            logged, reading_of(project, ("filter drop", "saw", "cyclone"), value, later(day))
        )
        held.append(due(logged, model, later(day), "filter"))
    crossing = later((ratio - 1) / rate)
    assert held[-1].early <= crossing <= held[-1].late
    assert (held[-1].late - held[-1].early) < 0.5 * (held[0].late - held[0].early)
    cleaned = with_entries(logged, [made_entry(project, "filter cleaned", later(50), "cyclone")])
    assert "cleaned" in due(cleaned, model, later(50), "filter").why
    changed_ = with_entries(logged, [made_entry(project, "filter changed", later(50), "cyclone")])
    assert (
        due(changed_, model, later(50), "filter").date
        > due(cleaned, model, later(50), "filter").date
    )


@pytest.mark.parametrize("seed", range(8))
def test_any_shop_has_its_forecasts_and_reports(seed):
    """No date before today, bands in order, JSON without NaN, CSV whole, a calendar, in both
    units."""
    chance = random.Random(seed)
    project = with_settings(made_up(seed), units=chance.choice(["us", "metric"]))
    for collector in project.collectors:
        kinds = ["worked", "bin emptied", "filter cleaned", "filter changed"]
        lines = [
            made_entry(
                project,
                chance.choice(kinds),
                later(chance.randint(-900, 40)),
                collector.id,
                litres=chance.choice([0.0, 3.0, 400.0]),
                hours=chance.choice([0.0, 2.0]),
            )
            for _ in range(12)
        ]
        project = with_entries(project, lines)
    found = tuple(forecasts(project, Model(assess(project)), later(30)))
    for item in found:
        dates = [d for d in (item.early, item.date, item.late) if d is not None]
        assert dates == sorted(dates) and all(d >= later(30) for d in dates), item
    json.dumps(forecast_report(project, found), allow_nan=False)
    assert project.name in forecast_text(project, found)
    rows = list(csv.reader(io.StringIO(book_csv(project))))
    assert len(rows) == 1 + len(project.keep.entries) and [r[0] for r in rows[1:]] == sorted(
        r[0] for r in rows[1:]
    )
    assert sum(m.litres for m in months(project)) == pytest.approx(
        sum(e.litres or 0 for e in project.keep.entries if e.kind == "worked")
    )
    text = calendar(chores(project), project.name, later(30), found)
    # One entry for each bin and filter: what the logbook expects dates the chore.
    listed = chores(project)
    dated = {chore.key for chore in listed if chore.key}
    due = [f for f in found if f.date is not None]
    events = icalendar.Calendar.from_ical(text).walk("VEVENT")
    assert len(events) == len(listed) + sum(f.key not in dated for f in due)
    for item in due:
        assert item.date in [event["DTSTART"].dt for event in events]
    assert all(len(event.walk("VALARM")) == 1 for event in events)
    empty = icalendar.Calendar.from_ical(calendar((), project.name, later(30)))
    assert not empty.walk("VEVENT") and empty.subcomponents


def test_trends_add_up_work_and_keep_places_apart(loft):
    project, _ = loft
    for n, (machine, value) in enumerate([("saw", 300.0), ("planer", 400.0), ("saw", 330.0)]):
        project = with_reading(
            project, reading_of(project, ("static pressure", machine, "inlet-run"), value, later(n))
        )
    project = with_entries(
        project,
        [made_entry(project, "worked", later(n), "cyclone", litres=10.0) for n in (2, 0, 1)],
    )
    found = {(t.kind, t.name): t.points for t in trends(project)}
    assert [value for _, value in found["litres", "the cyclone"]] == [10, 20, 30]
    assert len(found) == 3 and sorted(len(points) for points in found.values()) == [1, 2, 3]


def test_what_differs_is_named_in_every_plan():
    """What a recovered copy has more is said by name: prices, ticks, the day, readings, lines."""
    project = demo()
    priced = project.replaced(
        build=project.build.replaced(
            prices=(*project.build.prices, Price(key="x", price=2.0, currency="USD", date=START)),
            kerf=0.002,
        )
    )
    assert list(differences(project, priced)) == [
        "1 price added",
        "Figures of the build stage changed",
    ]
    assert next(iter(differences(priced, project))) == "1 price taken away"
    days = with_job(with_work(project, hearing=20.0), "saw")
    assert list(differences(project, days)) == [
        "1 job of the day added",
        "Figures of the work stage changed",
    ]
    logged = with_entries(project, [made_entry(project, "noticed", START, note=n) for n in "ab"])
    assert list(differences(project, logged)) == ["2 lines of the logbook added"]
    assert list(differences(logged, with_entry_changed(logged, 1, date=later(4)))) == [
        "Lines of the logbook changed"
    ]
    assert list(differences(project, with_keep(project, applied=False))) == [
        "Whether figures follow the readings changed"
    ]
    complained = with_complaint(logged, "whistles", None, START)
    assert list(differences(logged, complained)) == ["What is complained of changed"]
    assert list(differences(begun(project, 3, 1, START), done(begun(project, 3, 1, START)))) == [
        "The practice changed"
    ]


def test_the_commands_of_the_logbook(tmp_path, capsys):
    path, copy = tmp_path / "loft.json", tmp_path / "copy.json"
    save(changed(demo(), "saw", note="mine"), path)
    save(demo(), copy)
    for words in (
        ["note", "bin emptied", "cyclone", "--litres", "90", "--date", "2026-03-14"],
        ["day", "saw 20 min, planer 25 walnut"],
        ["day"],
        ["note", "noticed", "--note", "whistles"],
    ):
        assert cli.main(["log", str(path), *words]) == 0
    assert cli.main(["log", str(copy), "note", "noticed", "--note", "only in the copy"]) == 0
    assert cli.main(["log", str(path), "merge", str(copy)]) == 0
    assert "0 readings and 1 other lines" in capsys.readouterr().out
    assert len(load(path).keep.entries) == 5 and load(path).machine["saw"].note == "mine"
    assert (
        cli.main(["log", str(path), "remove", "L5"]) == 0
        and cli.main(["log", str(path), "list"]) == 0
    )
    assert "only in the copy" not in capsys.readouterr().out.split("Logbook")[1]
    assert cli.main(["log", str(path), "book", str(tmp_path / "b.csv")]) == 0
    assert cli.main(["forecast", str(path), "-o", str(tmp_path / "n.ics")]) == 0
    capsys.readouterr()
    assert cli.main(["forecast", str(path), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["format"] == "grey-current/forecast/1" and len(report["due"]) == 2
    before = path.read_bytes()
    for bad in (
        ["note", "bin emptied", "saw"],
        ["note", "noticed", "--date", "2199-01-01"],
        ["note", "noticed", "--date", "soon"],
        ["remove", "x"],
        ["day", "saw 0"],
    ):
        assert cli.main(["log", str(path), *bad]) == 2
    assert path.read_bytes() == before

"""Which separator: what each kind costs in air and spares in work, against hand-worked figures and
over shops."""

from __future__ import annotations

import datetime
import json
import math

import pytest

from grey_current import cli
from grey_current.design.collector.catch import (
    CLEAN_AFTER_HOURS,
    caught,
    hours_between_cleanings,
    share_in_bin,
)
from grey_current.design.flow.assess import assess
from grey_current.errors import InputError
from grey_current.keep.forecast import forecasts
from grey_current.keep.model import Model
from grey_current.shop.collector_edits import SEPARATORS, with_separator
from grey_current.shop.demo_shops import demo_path
from grey_current.work.chores import chores
from grey_current.work.day_plan import plan_day
from grey_current.work.day_text import parse_day
from grey_current.work.separators import (
    FOR_VACUUMS,
    air_words,
    dust_words,
    separator_rows,
    with_kind,
    work_words,
)
from tests.core.shops import demo, made_up

TODAY = datetime.date(2026, 5, 4)
SHOPS = {"loft": demo, "shed": lambda: demo("allotment"), **{f"{n}": n for n in (3, 7, 12, 23)}}


def project_of(name):
    made = SHOPS[name]
    return made_up(made) if isinstance(made, int) else made()


def test_hours_and_shares_by_hand():
    """A cartridge behind a cyclone wants cleaning after 40 h: 7.9 h over 15 % and 85 % of 5.5 %."""
    cyclone = demo().collector["cyclone"]
    assert cyclone.filter.kind == "pleated cartridge"
    assert hours_between_cleanings(cyclone) == pytest.approx(
        7.9 / (0.15 + 0.85 * math.sqrt(0.15 * 0.02))
    )
    bare = cyclone.replaced(separator=None)
    assert hours_between_cleanings(bare) == pytest.approx(7.9) and share_in_bin(bare) == 1
    lid = cyclone.replaced(separator=SEPARATORS["drum lid"])
    assert share_in_bin(lid) == pytest.approx(1 - math.sqrt(0.1 * 0.03))
    # With half its air a cyclone lets a fifth more through.
    slow = caught(cyclone, cyclone.separator.at_airflow / 2)
    assert slow.fine.usual == pytest.approx(1 - math.sqrt(0.15 * 0.02) * 1.2)
    none = cyclone.replaced(filter=cyclone.filter.replaced(kind="none"))
    assert hours_between_cleanings(none) is None and "none" not in CLEAN_AFTER_HOURS


@pytest.mark.parametrize("name", SHOPS)
def test_every_row_is_what_the_shop_would_be(name):
    project = project_of(name)
    for collector in project.collector:
        rows = separator_rows(project, collector)
        assert [row.now for row in rows].count(True) == 1
        assert len({row.kind for row in rows}) == len(rows)
        for row in rows:
            made = with_kind(project, collector, row.kind)
            now = assess(made)
            for ref, airflow in row.air.items():
                machine, pickup = ref.split("/")
                answer = now.of_machine[machine]
                got = next(p.airflow for p in answer.pickups if p.pickup == pickup)
                assert got == pytest.approx(airflow)
            # Nothing but the separator changes.
            was, new = project.collector[collector], made.collector[collector]
            assert new.replaced(separator=was.separator) == was
            assert made.replaced(collectors=project.collectors) == project
            assert (made == project) == row.now
            words = " ".join(
                (
                    air_words(project, row, next(r for r in rows if r.now)),
                    dust_words(row),
                    work_words(project, row),
                )
            )
            assert "nan" not in words and "inf" not in words
        kept = sorted(rows, key=lambda row: row.fine.usual)
        hours = [row.hours for row in kept if row.hours is not None]
        assert hours == sorted(hours)
        assert next(row for row in rows if row.kind == "none").to_bag == pytest.approx(
            max(row.to_bag for row in rows)
        )


def test_a_separator_changes_chores_forecast_and_bin():
    with_it = demo()
    without = with_separator(with_it, "cyclone", "none")
    days = {}
    for project in (with_it, without):
        filters = next(
            c for c in chores(project) if c.words.startswith("Clean the cyclone's filter")
        )
        days[project.collector["cyclone"].separator is not None] = filters.days
        model = Model(assess(project))
        due = next(f for f in forecasts(project, model, TODAY) if "filter is due" in f.words)
        assert ("no separator" in due.why) == (project is without)
    assert days[True] > 3 * days[False]
    jobs = parse_day("planer 60", with_it)
    litres = [plan_day(assess(p), jobs).bins["cyclone"] for p in (with_it, without)]
    assert litres[0] == pytest.approx(litres[1] * (1 - math.sqrt(0.02 * 0.002)))


def test_vacuums_are_offered_what_goes_on_vacuums():
    project = demo("allotment")
    vacuum = next(c.id for c in project.collectors if "vacuum" in c.model.lower())
    assert {row.kind for row in separator_rows(project, vacuum)} >= set(FOR_VACUUMS)


def test_the_command(capsys):
    assert cli.main(["separators", str(demo_path("loft"))]) == 0
    said = capsys.readouterr().out
    assert "No separator" in said and "Cyclone (as it is)" in said and "nobody has measured" in said
    assert cli.main(["separators", str(demo_path("loft")), "cyclone", "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["format"] == "grey-current/separators/1"
    assert {row["kind"] for row in report["separators"]} == {
        "none",
        "drum lid",
        "lid with baffle",
        "cyclone",
    }
    assert cli.main(["separators", str(demo_path("loft")), "planer"]) == 2
    assert "choose one of cyclone" in capsys.readouterr().err
    assert cli.main(["separators", str(demo_path("empty"))]) == 2
    with pytest.raises(InputError):
        with_separator(demo(), "cyclone", "sieve")

"""Figures with a comma as the decimal mark: written, read back, asked about; files keep the point."""

import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grey_current import cli
from grey_current.build.bill import bill
from grey_current.errors import DoubtfulInput, InputError
from grey_current.files import project_file
from grey_current.files.build_report import parts_csv
from grey_current.files.keep_report import read_readings, readings_csv
from grey_current.numerals import compact, decimal
from grey_current.shop.edits import with_settings
from grey_current.shop.keep_edits import with_keep
from grey_current.shop.keep_plan import Reading
from grey_current.unit_choices import QUANTITIES, in_each_unit
from grey_current.units import (
    Display,
    parse_airflow,
    parse_length,
    parse_length_like,
    parse_money,
    parse_number,
)
from tests.core.shops import demo
from tests.core.test_units import READ, SYSTEMS
from tests.marks import POINT, written

COMMANDS = ("air", "check", "gates", "help-most", "size", "sizes", "parts", "cuts", "day", "faults")


def test_figures_with_a_comma():
    with written("comma"):
        assert decimal(1234567.891, 2) == "1\u00a0234\u00a0567,89" and decimal(-0.5, 1) == "-0,5"
        assert compact(0.25) == "0,25" and compact(63.0) == "63"
        assert Display("metric").length(2.875) == "2,875 m"
    assert decimal(1234567.891, 2) == "1,234,567.89" and compact(0.25) == "0.25"


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("1,5", 1.5),
        ("1.5", 1.5),
        ("1,250", 1.25),
        ("1.250", 1250.0),
        ("0.250", 0.25),
        ("1.234.567", 1234567.0),
        ("1.234,5", 1234.5),
        ("1,234.5", 1234.5),
        ("1\u00a0234,5", 1234.5),
        ("1 234,5", 1234.5),
    ],
)
def test_plain_numbers_where_a_comma_is_the_mark(text, wanted):
    with written("comma"):
        assert parse_number(text) == wanted


@given(
    st.sampled_from(("point", "comma")),
    st.sampled_from(QUANTITIES),
    st.floats(0.01, 40.0),
    st.sampled_from(SYSTEMS),
)
def test_what_is_shown_reads_back_with_either_mark(marks, quantity, amount, system):
    with written(marks):
        for place, choice in enumerate(in_each_unit(quantity, amount)):
            read = READ[quantity](choice.text, system, quantity)
            assert in_each_unit(quantity, read)[place] == choice
            assert marks == "point" or not POINT.search(choice.text)
        display = Display(system)
        for shown in (display.length(amount), display.about(amount)):
            again = parse_length(shown, system)
            assert display.length(again) == shown or display.about(again) == shown
        # Typed again without its unit, a length in a field is what it was.
        if system == "metric" and amount >= 2:
            bare = display.length(amount).removesuffix(" m")
            assert parse_length_like(bare, system, "length", amount) == pytest.approx(
                amount, abs=6e-4
            )
        flow = display.airflow(amount)
        assert display.airflow(parse_airflow(flow, system)) == flow


@pytest.mark.parametrize(
    ("read", "text", "one", "other"),
    [
        (parse_length, "1.200 mm", 1.2, 0.0012),
        (parse_length, "2.500 m", 2500.0, 2.5),
        (parse_airflow, "1,200 m3/h", 1200 / 3600, 1.2 / 3600),
        (parse_money, "1,200", 1200.0, 1.2),
    ],
)
def test_what_may_be_either_is_asked_with_commas_too(read, text, one, other):
    with written("comma"):
        with pytest.raises(DoubtfulInput) as asked:
            read(text, "metric")
        assert asked.value.value == text
        assert not any(POINT.search(choice) for choice in asked.value.choices)
        assert [read(choice, "metric") for choice in asked.value.choices] == pytest.approx(
            [one, other]
        )


@pytest.mark.parametrize("text", ["abc", "1,2,3", "-", "5 stones"])
def test_what_would_do_is_written_with_commas(text):
    with written("comma"), pytest.raises(InputError) as refused:
        parse_length(text, "metric")
    assert "2,3 m" in str(refused.value) and not POINT.search(str(refused.value))
    assert "2,3 m" in refused.value.beside(text)


def test_files_are_the_same_whoever_writes_and_reads_them(tmp_path):
    made = [
        Reading(
            kind="static pressure",
            machine="saw",
            place=next(iter(demo().run)),
            value=pascal,
            error=10.0,
            date=datetime.date(2026, 11, 28),
        )
        for pascal in (1234.5, 987.654)
    ]
    project = with_keep(demo(), readings=tuple(made))
    plain = project_file.dump(project), readings_csv(project), parts_csv(bill(project))
    with written("comma"):
        assert (
            project_file.dump(project),
            readings_csv(project),
            parts_csv(bill(project)),
        ) == plain
        table = tmp_path / "readings.csv"
        table.write_text(plain[1], encoding="utf-8")
        assert len(plain[1].splitlines()) > 2
        assert [r.value for r in read_readings(table, project)] == pytest.approx(
            [r.value for r in project.keep.readings], rel=1e-5
        )


@pytest.mark.parametrize("units", ["us", "metric"])
@pytest.mark.parametrize("command", COMMANDS)
def test_commands_speak_with_a_comma(command, units, tmp_path, capsys):
    path = tmp_path / "mine.greycurrent.json"
    project_file.save(with_settings(demo(), units=units), path)
    with written("comma"):
        cli.main([command, str(path)])
        said = capsys.readouterr()
        lines = (said.out + said.err).replace(str(path), "").splitlines()
        assert lines
        assert [line for line in lines if POINT.search(line)] == []

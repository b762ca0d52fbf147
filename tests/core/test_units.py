import datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grey_current.dates import date_words, parse_date
from grey_current.errors import DoubtfulInput, InputError
from grey_current.shop import edits
from grey_current.unit_choices import QUANTITIES, in_each_unit
from grey_current.units import (
    FOOT,
    INCH,
    Display,
    System,
    parse_airflow,
    parse_length,
    parse_length_like,
    parse_number,
    parse_power,
    parse_pressure,
    parse_surface,
    parse_temperature,
    parse_volume,
)
from tests.core.shops import demo

SAME = {
    "us": [
        "7' 6 1/2\"",
        "7-6.5",
        "90.5",
        "7'-6 1/2\"",
        "7’ 6½”",
        "90½",
        "90-1/2",
        "90-1/2 in",
        "7′-6.5″",
        "90 1/2 in",
        "7 ft 6.5 in",
        "7'6.5",
        '90.5"',
        "7′ 6 1/2″",
        "2.2987 m",
    ],
    "metric": ["2298.7", "2.2987 m", "229.87 cm", "2298.7 mm", "2,2987 m", "7' 6 1/2\""],
}


@pytest.mark.parametrize(("system", "text"), [(s, t) for s, texts in SAME.items() for t in texts])
def test_lengths_as_people_say_them(system, text):
    assert parse_length(text, system) == pytest.approx(2.2987, abs=1e-6)


@pytest.mark.parametrize(
    "text", ["", "long", "7' 6' 2\"", "1/0", "3 apples", "-5", "5 in 3 ft", "1e400", "nan"]
)
def test_a_bad_length_is_explained(text):
    with pytest.raises(InputError, match="write a length such as"):
        parse_length(text, "us", "Hose length")


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("34-1/4", 34.25),
        ("6-1/2", 6.5),
        ("6 - 1/2", 6.5),
        ("6-1/2'", 78),
        ("2-6", 30),
        ("2-6 1/2", 30.5),
        ("¾", 0.75),
    ],
)
def test_a_dash_before_a_fraction_joins_and_before_a_number_parts_feet_from_inches(text, wanted):
    assert parse_length(text, "us") / 0.0254 == pytest.approx(wanted)


@pytest.mark.parametrize("text", ["1,200 mm", "1,200", "2,500 m"])
def test_a_comma_that_may_be_either_mark_is_refused_with_both_readings(text):
    with pytest.raises(InputError, match=rf"may mean {text[0]}\d00.* or {text[0]}\.\d"):
        parse_length(text, "metric")


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("1200", 1200),
        ("1,200", 1200),
        ("1 200", 1200),
        ("1,5", 1.5),
        ("1.5", 1.5),
        ("0,500", 0.5),
        ("12,34", 12.34),
        ("1,200.5", 1200.5),
        ("1.200,5", 1200.5),
        ("1,234,567", 1234567),
        ("-3,5", -3.5),
        ("−2", -2),
        (".5", 0.5),
        ("7.", 7),
    ],
)
def test_plain_numbers_with_either_decimal_mark(text, wanted):
    assert parse_number(text) == pytest.approx(wanted)


@pytest.mark.parametrize(
    "text", ["", "-", "1,2,3", "1.2.3", "1,,2", "1e9", "inf", "one", "1 2", "12,3456,7"]
)
def test_what_is_no_plain_number_is_not_guessed_at(text):
    with pytest.raises(ValueError, match="no number"):
        parse_number(text)


@given(st.floats(0.0, 1e6), st.sampled_from(["us", "metric"]))
def test_a_number_that_is_shown_reads_back(value, system):
    assert parse_number(f"{value:,.2f}") == pytest.approx(value, abs=0.005 + 1e-9)
    flow = Display(system).airflow(value / 1000)
    assert Display(system).airflow(parse_airflow(flow, system)) == flow


def test_airflows():
    assert parse_airflow("600,5 cfm", "us") == pytest.approx(600.5 * 4.719474432e-4)
    assert (
        parse_airflow("1,200 m³/h", "us")
        == parse_airflow("1200 m3/h", "metric")
        == pytest.approx(1 / 3)
    )
    assert parse_airflow("600 CFM", "metric") == pytest.approx(0.28317, abs=1e-4)
    assert parse_airflow("1,000", "metric") == pytest.approx(1000 / 3600)
    with pytest.raises(InputError, match="write an airflow"):
        parse_airflow("plenty", "us")


@given(st.floats(0.001, 60))
def test_what_is_shown_reads_back(metres):
    systems: tuple[tuple[System, float], ...] = (("us", 0.0254 / 32), ("metric", 0.0005))
    for system, half in systems:
        shown = Display(system).length(metres)
        assert parse_length(shown, system) == pytest.approx(metres, abs=half + 1e-9)


def test_display():
    us, metric = Display("us"), Display("metric")
    rows = [
        (us.length(2.2987), "7' 6 1/2\""),
        (us.length(0.3048), "1'"),
        (us.length(0.0127), '1/2"'),
        (us.length(-0.0254), '-1"'),
        (metric.length(0.345), "345 mm"),
        (metric.length(3.4), "3.40 m"),
        (metric.length(3.425), "3.425 m"),
        (us.diameter(0.0635), "2 1/2 in"),
        (metric.diameter(0.1), "100 mm"),
        (us.airflow(0.2416), "512 CFM"),
        (us.velocity(17.78), "3,500 fpm"),
        (us.pressure(249.08891), "1.00 inH2O"),
        (metric.pressure(470.2), "470 Pa"),
        (metric.room(30.24), "30.2 m³"),
        (us.room(30.24), "1,068 cu ft"),
    ]
    for shown, wanted in rows:
        assert shown == wanted


@pytest.mark.parametrize("value", [float("inf"), -float("inf"), float("nan")])
def test_every_formatter_survives_what_is_no_figure(value):
    for display in (Display("us"), Display("metric")):
        shown = [
            getattr(display, name)(value)
            for name in ("length", "diameter", "airflow", "pressure", "velocity")
        ]
        assert set(shown) == {"–"} and display.tape(value) != 0


@given(st.floats(0.0, 60), st.sampled_from(["us", "metric"]))
def test_a_length_that_nobody_cuts_is_said_to_the_inch_or_centimetre(metres, system):
    step = 0.0254 if system == "us" else 0.01
    said = parse_length(Display(system).about(metres), system, "length")
    assert abs(said - metres) <= step / 2 + 2e-4
    most = parse_length(Display(system).about(metres, down=True), system, "length")
    assert most <= metres + 2e-4 and metres - most <= step + 2e-4
    assert "/" not in Display("us").about(metres) or metres < 0.3048


@pytest.mark.parametrize(
    ("units", "says"), [("us", "at most 328'"), ("metric", "at most 100.00 m")]
)
def test_limits_are_told_in_the_users_units_and_can_be_typed(units, says):
    project = edits.with_settings(demo(), units=units)
    with pytest.raises(InputError, match=says) as caught:
        edits.changed(project, "saw", width=15000.240000000000002)
    assert "0000" not in str(caught.value).replace("15000", "") and "The saw" in str(caught.value)
    for field in ("width", "lane_width", "table_height"):
        with pytest.raises(InputError) as caught:
            edits.changed(project, "saw", **{field: 1e4})
        typed = str(caught.value).partition("at most ")[2].rstrip(".")
        edits.changed(project, "saw", **{field: parse_length(typed, units, field)})


@given(st.floats(0.02, 60.0), st.sampled_from(["mm", "m"]))
def test_a_bare_number_means_the_unit_that_the_field_shows_or_the_one_that_was_meant(now, unit):
    """What is shown reads back without its unit; the same length typed in the other unit is meant, not a thousandth."""
    shown = Display("metric").length(now)
    bare = shown.removesuffix(" mm").removesuffix(" m")
    assert parse_length_like(bare, "metric", "x", now) == pytest.approx(now, abs=6e-4)
    other = f"{now * 1000:.0f}" if unit == "mm" else f"{now:.3f}"
    assert parse_length_like(other, "metric", "x", now) == pytest.approx(now, rel=0.03, abs=6e-4)
    assert parse_length_like(f"{now:.3f} m", "metric", "x", 9.0) == pytest.approx(now, abs=6e-4)


@pytest.mark.parametrize(
    ("text", "now", "read"),
    [
        ("7.2", 6.0, 7.2),
        ("7,2", 6.0, 7.2),
        ("2400", 2.4, 2.4),
        ("2 400", 2.4, 2.4),
        ("7.2", 1.738, 7.2),
        ("900", 1.738, 0.9),
        ("10", 0.0, 0.01),
    ],
)
def test_numbers_typed_over_metric_lengths(text, now, read):
    assert parse_length_like(text, "metric", "x", now) == pytest.approx(read)


SYSTEMS = ("us", "metric", "metric-cm")
READ = {
    "length": parse_length,
    "altitude": parse_length,
    "airflow": parse_airflow,
    "pressure": parse_pressure,
    "temperature": parse_temperature,
    "volume": parse_volume,
    "surface": parse_surface,
    "power": parse_power,
}


@given(st.sampled_from(QUANTITIES), st.floats(0.01, 40.0), st.sampled_from(SYSTEMS))
def test_a_quantity_in_each_unit_of_its_menu_reads_back_in_every_shop(quantity, amount, system):
    """Each text is the very same after it has been read: no factor is another one on the way."""
    for place, choice in enumerate(in_each_unit(quantity, amount)):
        read = READ[quantity](choice.text, system, quantity)
        assert in_each_unit(quantity, read)[place] == choice
        assert choice.text.endswith(choice.sign) or choice.sign == "ft in"


@given(st.dates(datetime.date(1990, 1, 1), datetime.date(2099, 12, 31)), st.sampled_from(SYSTEMS))
def test_a_date_reads_back_as_it_is_said_and_by_its_figures(date, system):
    said = date_words(date, system)
    figures = f"{date.month}/{date.day}" if system == "us" else f"{date.day}.{date.month}."
    year = date.year
    written = [said, said.lower(), date.isoformat(), f"{figures.rstrip('.')}/{year}"]
    if system != "us":
        written += [f"{figures}{year}", f"{date.day}/{date.month}/{year}"]
    assert {parse_date(text, system) for text in written} == {date}
    # Without a year it is the last one that has been.
    short = said.removesuffix(str(year)).rstrip(", ")
    assert parse_date(short, system, today=date) == date
    if (date.month, date.day) not in ((1, 1), (2, 29), (3, 1)):
        before = date - datetime.timedelta(days=1)
        assert parse_date(short, system, today=before) == date.replace(year=year - 1)


@pytest.mark.parametrize("text", ["", "soon", "31/31/2026", "Feb 30", "13 13", "1/2/3/4", "Foo 3"])
@pytest.mark.parametrize("system", SYSTEMS)
def test_what_is_no_date_is_refused_with_one_that_is(text, system):
    with pytest.raises(InputError, match="write a date such as") as caught:
        parse_date(text, system)
    example = caught.value.rule.removeprefix("write a date such as ").split(" or ")
    assert len({parse_date(each, system) for each in example}) == 1


@given(st.floats(0.02, 60.0))
def test_a_shop_in_centimetres_reads_its_own_figures_bare(now):
    shown = Display("metric-cm").length(now)
    assert shown.endswith("cm" if now < 1.9999 else " m")
    bare = shown.removesuffix(" cm").removesuffix(" m")
    assert parse_length_like(bare, "metric-cm", "x", now) == pytest.approx(now, abs=6e-4)
    assert parse_length(shown, "metric-cm") == pytest.approx(now, abs=6e-4)


@given(st.floats(0.1, 60.0), st.floats(0.05, 4000.0))
def test_feet_are_asked_for_where_they_may_be_meant_and_each_answer_is_read(now, typed):
    """Where inches would make a room of feet tiny, both are offered; elsewhere inches are read."""
    text = f"{typed:.2f}"
    inches, feet = float(text) * INCH, float(text) * FOOT
    if now < FOOT or not now / 4 < feet < now * 2:
        assert parse_length_like(text, "us", "x", now) == pytest.approx(inches)
        return
    with pytest.raises(DoubtfulInput, match=r"write one of these\.$") as asked:
        parse_length_like(text, "us", "x", now)
    # No room is two inches long.
    assert parse_length_like(text, "us", "x", now, inches + 0.01) == pytest.approx(feet)
    answers = [parse_length_like(answer, "us", "x", now) for answer in asked.value.choices]
    assert answers == pytest.approx([inches, feet])


@pytest.mark.parametrize("unit", ["m3/h", "cfm", "pa"])
@given(st.integers(1, 999), st.integers(0, 999))
def test_what_a_mark_parts_is_asked_with_two_answers_that_are_read(unit, whole, part):
    read = parse_pressure if unit == "pa" else parse_airflow
    with pytest.raises(DoubtfulInput) as asked:
        read(f"{whole}.{part:03} {unit}", "metric")
    one, other = (read(choice, "metric") for choice in asked.value.choices)
    assert one == pytest.approx(read(f"{whole}{part:03} {unit}", "metric"))
    assert other == pytest.approx(one / 1000)

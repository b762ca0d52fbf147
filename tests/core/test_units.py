import pytest
from hypothesis import given
from hypothesis import strategies as st

from grey_current.errors import InputError
from grey_current.units import Display, System, parse_airflow, parse_length

SAME = {
    "us": ["7' 6 1/2\"", "7-6.5", "90.5", "90 1/2 in", "7 ft 6.5 in", "7'6.5", '90.5"', "7′ 6 1/2″", "2.2987 m"],
    "metric": ["2298.7", "2.2987 m", "229.87 cm", "2298.7 mm", "2,2987 m", "7' 6 1/2\""],
}


@pytest.mark.parametrize(("system", "text"), [(s, t) for s, texts in SAME.items() for t in texts])
def test_lengths_as_people_say_them(system, text):
    assert parse_length(text, system) == pytest.approx(2.2987, abs=1e-6)


@pytest.mark.parametrize("text", ["", "long", "7' 6' 2\"", "1/0", "3 apples", "-5", "5 in 3 ft", "1e400", "nan"])
def test_a_bad_length_is_explained(text):
    with pytest.raises(InputError, match="write a length such as"):
        parse_length(text, "us", "Hose length")


def test_airflows():
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
    ]
    for shown, wanted in rows:
        assert shown == wanted

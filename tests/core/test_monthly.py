"""The one reading a month: its limits are those of this shop, and what they say is so."""

from __future__ import annotations

import datetime
import json

import pytest

from grey_current import cli
from grey_current.design.flow.assess import assess
from grey_current.design.flow.gates import own_gates
from grey_current.errors import InputError
from grey_current.files.keep_report import reading_of
from grey_current.files.project_file import dump, parse
from grey_current.keep.model import Model
from grey_current.keep.monthly import due_again, limit_lines, monthly, place_of, spec_of
from grey_current.shop.demo_shops import demo_path
from grey_current.shop.edits import changed, changed_all
from grey_current.shop.keep_edits import with_out_of_reach, with_reading
from grey_current.shop.names import Names
from grey_current.units import Display
from tests.core.laid_shops import garage
from tests.core.shops import demo, hall, made_up, straight_shop
from tests.core.test_diagnosis import laid

DAY = datetime.date(2026, 3, 1)
SHOPS = {
    "loft": demo,
    "garage": lambda: laid("garage"),
    "straight": straight_shop,
    "hall": lambda: hall(6),
    **{f"drawn {seed}": (lambda seed=seed: made_up(seed)) for seed in (3, 7, 12, 23, 31)},
}


def reads(project, found):
    """What a gauge would show in the hole."""
    model = Model(assess(project)).only(frozenset((found.machine,)))
    return float(model.view({}).value("static pressure", found.machine, found.place))


def with_read(project, found, value, days=0):
    reading = reading_of(project, spec_of(found), value, DAY + datetime.timedelta(days=days))
    return with_reading(project, reading)


@pytest.mark.parametrize("name", SHOPS)
def test_the_limits_are_true_of_the_shop(name):
    """As it is: green. With its filter due: red, low. With its gate half shut: red, high."""
    project = SHOPS[name]()
    now = assess(project)
    for collector, item in project.collector.items():
        found = monthly(now, collector)
        if found is None:
            continue
        assert found.low_red < found.low < found.healthy and not found.own
        assert found.state(reads(project, found)) == "good"
        due = changed(project, collector, filter=item.filter.replaced(loading=item.filter.due))
        low = reads(due, found)
        if low < found.healthy * 0.9:
            assert found.state(low * 0.999) == "starved" and "filter" in found.words(low * 0.999)
        gates = own_gates(now).get(found.machine)
        assert (found.high is None) == (not gates)
        if gates:
            assert found.healthy < found.high < found.high_red
            shut = reads(changed_all(project, gates, opening=0.4), found)
            if shut > found.healthy * 1.15:
                assert found.state(shut) == "starved" and "plugged" in found.words(shut)
        lines = limit_lines(Display("us"), found)
        assert len(lines) == (5 if gates else 3) and "nan" not in " ".join(lines)
        assert "only the" in place_of(Names(project), found)


def test_the_shops_own_first_reading_is_what_is_healthy():
    project = demo()
    tables = monthly(assess(project), "cyclone")
    read = with_read(project, tables, tables.healthy * 1.1)
    own = monthly(assess(read), "cyclone")
    assert own.own and own.healthy == pytest.approx(tables.healthy * 1.1)
    assert own.low / own.healthy == pytest.approx(tables.low / tables.healthy)
    assert own.state(tables.healthy) == "starved"  # a tenth below its own healthy value
    # Far off the tables something was wrong already: that is no healthy value.
    ill = monthly(assess(with_read(project, tables, tables.healthy * 0.6)), "cyclone")
    assert not ill.own and ill.state(ill.readings[-1][1]) == "starved"
    later = monthly(assess(with_read(read, tables, tables.healthy, days=31)), "cyclone")
    assert [date for date, _ in later.readings] == [DAY, DAY + datetime.timedelta(days=31)]
    assert later.healthy == own.healthy
    assert tables is not None and own is not None
    assert due_again(tables, DAY) and not due_again(own, DAY + datetime.timedelta(days=10))
    assert due_again(own, DAY + datetime.timedelta(days=30))


def test_nothing_is_asked_where_there_is_no_duct_to_measure_in():
    assert monthly(assess(demo("empty")), "none") is None
    shed = demo("allotment")
    far = with_out_of_reach(shed, "vacuum")
    assert monthly(assess(far), "vacuum") is None and monthly(assess(shed), "vacuum") is not None
    bare = garage()
    assert all(monthly(assess(bare), c) is None for c in bare.collector)


def test_a_hose_is_measured_in_the_collectors_inlet():
    """By hand: what the room's air has lost on its way there, and its speed, are all of it."""
    shed = demo("allotment")
    now = assess(shed)
    for collector in shed.collector:
        found = monthly(now, collector)
        assert found is not None and found.place == collector
        answer = now.of_machine[found.machine]
        system = answer.systems[collector]
        pieces, lost = system.network.pieces, system.solved.loss[system.row]
        behind = list(system.network.path(next(iter(system.leaves.values()))))
        hose = next(run.id for run in shed.runs if collector in run.ends)
        last = max(n for n, i in enumerate(behind) if pieces[i].source_id == hose)
        before = float(sum(lost[i] for i in behind[: last + 1]))
        leaks = system.solved.piece_flow[system.row, behind[0]]
        flow = system.solved.piece_flow[system.row, behind[last]]
        assert leaks == pytest.approx(flow)  # one way only, so that nothing else comes in
        speed = flow / system.network.areas[behind[last]]
        assert found.healthy == pytest.approx(
            before + system.network.air.density / 2 * speed**2, rel=1e-3
        )
        assert "the inlet of" in place_of(Names(shed), found)
    low = with_read(shed, monthly(now, "vacuum"), 600.0)
    assert parse(dump(low), "x") == low


def test_what_no_fan_of_the_shop_could_show_is_refused():
    """The loft's fan gives 3,450 Pa at most: a reading up to half as much again is taken."""
    project = demo()
    found = monthly(assess(project), "cyclone")
    assert found is not None
    spec = spec_of(found)
    assert reading_of(project, spec, 5_100.0, DAY).value == 5_100.0
    with pytest.raises(InputError, match=r"no more than 20\.7. inH2O"):
        reading_of(project, spec, 5_300.0, DAY)


def test_the_command(capsys):
    assert cli.main(["monthly", str(demo_path("loft"))]) == 0
    said = capsys.readouterr().out
    assert "Green: 6.66 inH2O to" in said and "only the saw on" in said
    assert cli.main(["monthly", str(demo_path("loft")), "--json"]) == 0
    (one,) = json.loads(capsys.readouterr().out)["monthly"]
    assert one["machine"] == "saw" and one["low_red"] < one["healthy"] < one["high_red"]
    assert cli.main(["monthly", str(demo_path("allotment"))]) == 0
    assert "Suction in the inlet of the wheeled collector" in capsys.readouterr().out
    assert cli.main(["monthly", str(demo_path("empty"))]) == 0
    assert "No machine draws" in capsys.readouterr().out

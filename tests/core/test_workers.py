"""Helpers: each part is done once, the answer is the program's own whatever becomes of them, none
outlives it."""

import itertools
import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from grey_current import cli
from grey_current.design.flow.assess import assess
from grey_current.design.improve.shop_search import shop_improvements
from grey_current.design.laying.places import where_to_stand
from grey_current.design.laying.proposals import propose
from grey_current.shop.demo_shops import demo_path
from grey_current.workers import pool as crew_module
from grey_current.workers.claims import MOST, Claims
from grey_current.workers.pool import Crew
from grey_current.workspace.helpers import ready
from tests.core import laid_shops
from tests.core.shops import demo, made_up
from tests.core.worker_tasks import Amiss, Times, slowly

READY = ("grey_current.workspace.helpers:ready",)


@given(st.lists(st.booleans(), max_size=40), st.integers(0, 30))
def test_every_part_is_taken_once_from_either_end(ends, count):
    claims = Claims()
    old, work = claims.begin(9), claims.begin(count)
    taken = [claims.take(work, first=first) for first in ends]
    low, high, wanted = 0, count, []
    for first in ends:
        wanted.append(None if low == high else low if first else high - 1)
        low, high = (low + 1, high) if first and low < high else (low, high - (low < high))
    assert taken == wanted and claims.going_on(work)
    assert claims.take(old, first=True) is None and not claims.going_on(old)
    claims.end()
    assert claims.take(work, first=True) is None
    claims.close()


@pytest.fixture(autouse=True, scope="module")
def tasks_are_found():
    """A helper looks for nothing in the folder that the program happens to stand in."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("PYTHONPATH", str(Path.cwd()))
        yield


@pytest.fixture(scope="module")
def helped(tasks_are_found):
    with Crew(2) as crew:
        crew.wait()
        yield crew


def test_a_share_is_done_by_helpers_and_the_answer_stands_in_its_order(helped):
    for before in (0, 1):
        found = helped.share(Times, 7, 120, slowly)
        assert [answer for answer, _ in found] == [7 * number for number in range(120)]
        assert {made for _, made in found} == {-1, before}
        assert (
            found[0][1] == -1 and found[-1][1] == before
        )  # the first are the program's own, the last a helper's
    assert helped.share(Times, 7, 0, slowly) == []
    assert len(helped.share(Times, 7, MOST + 1, lambda number: number)) == MOST + 1


@pytest.mark.parametrize(
    "amiss", ["refuses", "fails", "ends", "cannot be sent", "prints", "cannot begin", "hangs"]
)
def test_whatever_becomes_of_a_helper_the_answer_is_whole(amiss, monkeypatch):
    monkeypatch.setattr(crew_module, "PATIENCE", 0.5)
    with Crew(1, ("tests.core.worker_tasks:unable",) if amiss == "cannot begin" else ()) as crew:
        crew.wait(30)
        if amiss == "hangs":
            os.kill(crew.helpers[0].process.pid, signal.SIGSTOP)
        for again in (False, True):
            found = crew.share(Amiss, amiss, 60, slowly)
            assert [answer for answer, _ in found] == [7 * number for number in range(60)]
            some = amiss in ("prints", "fails") or (amiss == "ends" and not again)
            assert any(by == 0 for _, by in found) == some


def test_what_nobody_wants_any_more_ends_at_once_and_the_next_is_whole(helped):
    asked = itertools.count()
    assert helped.share(Times, 7, 500, slowly, lambda: next(asked) < 10) is None
    found = helped.share(Times, 7, 90, slowly)
    assert [answer for answer, _ in found] == [7 * number for number in range(90)]


def test_a_helper_that_comes_late_joins_in():
    with Crew(1) as crew:
        found = crew.share(Times, 7, 900, slowly)
        assert [answer for answer, _ in found] == [7 * number for number in range(900)]
        assert found[-1][1] == -1 or found[0][1] == -1


def test_a_helper_does_not_outlive_its_program():
    program = subprocess.Popen(
        [sys.executable, "-m", "tests.core.worker_tasks"], stdout=subprocess.PIPE
    )
    helper = int(program.stdout.readline())
    time.sleep(0.1)
    program.kill()
    program.wait()
    program.stdout.close()
    for _ in range(200):
        if (
            not Path(f"/proc/{helper}").exists()
            or "Z (zombie)" in Path(f"/proc/{helper}/status").read_text()
        ):
            return
        time.sleep(0.05)
    pytest.fail("it goes on")


@pytest.mark.sweep
def test_helpers_find_what_the_program_finds_alone(capsys):
    """What would help whole shops, and where a collector should stand, line by line."""
    ready()

    def lines(found):
        return [(i.words, i.element, i.met, i.costs, i.winners, i.carried, i.money) for i in found]

    with Crew(1, READY) as crew:
        crew.wait()
        for project in (demo(), made_up(3), demo("allotment"), demo("empty"), demo()):
            now = assess(project)
            alone, helped = shop_improvements(now), shop_improvements(now, crew=crew)
            assert lines(alone) == lines(helped)
            assert [i.better for i in alone] == pytest.approx([i.better for i in helped], abs=1e-6)
            told = [i for i in helped if i.told is not None]
            assert [i.judged.trouble for i in told[:3]] == pytest.approx(
                [i.told.trouble for i in told[:3]], abs=1e-6
            )
            assert (len(helped) > 20) <= bool(told)
        garage = laid_shops.garage()
        here, there = where_to_stand(garage), where_to_stand(garage, crew=crew)
        assert [p.collector for p in here.places] == [p.collector for p in there.places]
        assert [p.rank for p in here.places] == [pytest.approx(p.rank) for p in there.places]
        lying, laid = propose(garage), propose(garage, crew=crew)
        assert (lying.notes, lying.tried) == (laid.notes, laid.tried)
        for one, other in zip(lying.proposals, laid.proposals, strict=True):
            assert (one.name, one.why, one.project) == (other.name, other.why, other.project)
            assert one.rank == pytest.approx(other.rank)
    assert cli.main(["places", str(demo_path("allotment"))]) == 0
    assert "places looked at" in capsys.readouterr().out

"""The pressure game, the shop's air as readings have it, and how often advice holds."""

from __future__ import annotations

import datetime
import io
import itertools
from dataclasses import replace

import numpy as np
import pytest

from grey_current import cli
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assess import assess
from grey_current.design.improve.ranking import improvements
from grey_current.errors import InputError
from grey_current.files.keep_report import reading_of
from grey_current.files.project_file import save
from grey_current.keep.answers import how_sure
from grey_current.keep.by_readings import by_readings
from grey_current.keep.fit import ReadingSpec, fit
from grey_current.keep.guessing import CLOSE, FAR, answered, misses_words, questions
from grey_current.keep.model import Model
from grey_current.keep.robustness import how_often
from grey_current.shop.edits import made
from grey_current.shop.keep_edits import with_keep, with_readings
from tests.core.shops import demo, made_up

pytestmark = pytest.mark.usefixtures("compiled_kernel")
DAY = datetime.date(2026, 3, 14)


@pytest.mark.parametrize("name", ["loft", "allotment"])
def test_questions_are_about_what_happens_and_answers_are_computed(name):
    now = assess(demo(name))
    asked = list(itertools.islice(questions(now, 4), 12))
    assert [q.words for q, _ in itertools.islice(questions(now, 4), 12)] == [
        q.words for q, _ in asked
    ]
    assert len({(q.machine, q.words) for q, _ in asked}) == 12
    for question, after in asked:
        machine, _, pickup = question.pickup.partition("/")
        fresh = assess(made(now.project, question.change.edit, question.words)).of(after.scenario)
        got = next(p.airflow for p in fresh.pickups if (p.machine, p.pickup) == (machine, pickup))
        right = answered(now, question, after, got)
        assert right.miss < 1e-9 and right.words == "close" and right.after == pytest.approx(got)
        assert answered(now, question, after, 2 * got).words == "far off"
        assert abs(got / question.before - 1) > 0.009 and 2 <= len(right.why) <= 3
        assert all(line.endswith(".") and "nan" not in line for line in right.why)
    harms = [q for q, after in asked if answered(now, q, after, 1.0).after < q.before]
    assert harms and len(harms) < 12


def test_a_guess_that_cannot_be_and_a_shop_without_air_are_a_sentence():
    now = assess(demo())
    question, after = next(questions(now, 1))
    for guess in (0.0, -1.0, float("nan"), float("inf")):
        with pytest.raises(InputError, match="Your guess"):
            answered(now, question, after, guess)
    with pytest.raises(InputError, match="draw ducts"):
        next(questions(assess(demo("empty")), 1))


def test_the_misses_are_said_as_they_go():
    now = assess(demo())
    asked = list(itertools.islice(questions(now, 2), 6))
    rights = [answered(now, q, after, 1.0).after for q, after in asked]
    assert misses_words([]).startswith("Guess first")
    offs = [0.5, 0.4, 0.3, 0.1, 0.05, 0.0]
    answers = [
        answered(now, q, a, r * (1 + off))
        for (q, a), r, off in zip(asked, rights, offs, strict=True)
    ]
    assert [a.miss for a in answers] == pytest.approx(offs) and CLOSE < FAR
    assert "getting better" in misses_words(answers) and "take your time" in misses_words(
        answers[::-1]
    )


def test_the_game_on_the_command_line(tmp_path, capsys, monkeypatch):
    save(demo(), tmp_path / "l.json")
    monkeypatch.setattr("sys.stdin", io.StringIO("400\nrubbish\n300 CFM\n\n"))
    assert cli.main(["guess", str(tmp_path / "l.json"), "--seed", "2"]) == 0
    told = capsys.readouterr().out
    assert told.count("off by") == 2 and "write an airflow" in told and "on average" in told
    save(demo("empty"), tmp_path / "e.json")
    assert cli.main(["guess", str(tmp_path / "e.json")]) == 2


@pytest.mark.parametrize("seed", range(4))
def test_the_air_by_readings_is_the_fitted_model_and_adds_up(seed):
    """Airflows are those of the fitted model; along every way the losses add up to nothing; without
    readings all stays."""
    project = demo() if seed == 0 else made_up(seed)
    now = assess(project)
    model = Model(now)
    if not model.pickups:
        return
    plain = by_readings(now, fit(now, (), model))
    for was, same in zip(now.answers, plain.answers, strict=True):
        assert [p.airflow for p in same.pickups] == pytest.approx(
            [p.airflow for p in was.pickups], rel=1e-5, abs=1e-9
        )
    scenario, ref, _ = next(item for item in model.pickups if len(item[0].running) == 1)
    machine = scenario.running[0]
    asked: ReadingSpec = ("airflow", machine, ref)
    value = 0.8 * model.view({}).value(*asked)
    if not value > 1e-4:
        return
    fitted = fit(now, [reading_of(project, asked, value, DAY)], model)
    measured = by_readings(now, fitted)
    mine = next(a for a in measured.answers if a.scenario == scenario)
    got = next(p.airflow for p in mine.pickups if f"{p.machine}/{p.pickup}" == ref)
    assert (
        got == pytest.approx(model.view(fitted.factors).value(*asked), rel=1e-9)
        and got < value / 0.8
    )
    for answer in measured.answers:
        for system in answer.systems.values():
            for pickup in answer.pickups:
                if (
                    pickup.leaf is not None
                    and pickup.collector == system.network.collector
                    and pickup.airflow > 0
                ):
                    around = np.array([system.losses[i] for i in system.network.path(pickup.leaf)])
                    assert abs(around.sum()) < 1e-3 * np.abs(around).max()


def test_three_readings_change_the_verdict_and_the_switch_takes_them_back():
    project = demo()
    view = Model(assess(project)).view({"filter/cyclone": 2.5, "hose/planer-hose": 1.8})
    asked: list[ReadingSpec] = [
        ("filter drop", "planer", "cyclone"),
        ("airflow", "planer", "planer/hood"),
        ("static pressure", "planer", "inlet-run"),
    ]
    project = with_readings(project, [reading_of(project, a, view.value(*a), DAY) for a in asked])
    found = how_sure(assess(project), 20)
    assert found.measured is not None
    before, after = (
        verdict(now, now.of_machine["planer"]) for now in (assess(project), found.measured)
    )
    assert before != after and after.startswith("Planer: ")
    got = found.measured.of_machine["planer"].worst.airflow
    assert got == pytest.approx(view.value(*asked[1]), rel=0.08)
    off = with_keep(project, applied=False)
    assert how_sure(assess(off), 20).measured is None


@pytest.mark.parametrize("name", ["loft", "allotment"])
def test_how_often_advice_holds_is_the_share_of_drawn_shops(name):
    """The same each time; without doubt a change gives in every shop what it promises, or the need
    is met in none."""
    now = assess(demo(name))
    plain = fit(now, (), Model(now))
    machine = min(
        now.of_machine,
        key=lambda m: now.of_machine[m].least_share if now.of_machine[m].worst else 9.0,
    )
    found = how_often(now, machine, plain)
    again = how_often(now, machine, plain)
    figures = [
        [(c.improvement.words, c.kept, c.met, c.before) for c in each.changes]
        for each in (found, again)
    ]
    assert found.changes and figures[0] == figures[1]
    wanted = improvements(now, machine)
    assert [item.improvement.words for item in found.changes] == [
        i.words for i in wanted[: len(found.changes)]
    ]
    for item in found.changes:
        assert 0 <= item.before <= 1 and 0 <= item.met <= 1 and 0.3 < item.kept <= 1
    sure = replace(plain, covariance=plain.covariance * 1e-12)
    for item in how_often(now, machine, sure).changes:
        assert item.before == float(now.of_machine[machine].met)
        assert item.kept > 0.8, item.improvement.words
    assert how_often(now, machine, plain, lambda: False).changes == ()
    assert how_often(now, "nobody", plain).changes == ()

"""Which main stays good for the next machines: what is said against what is then built, and the regret
by hand."""

from __future__ import annotations

import json

import pytest

from grey_current import cli
from grey_current.air.needs import MET_FROM
from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.judgement import judge
from grey_current.design.laying import next_machine as after
from grey_current.design.laying.next_machine import (
    USUAL,
    MainChoice,
    likeliest,
    main_runs,
    next_machines,
    with_main,
)
from grey_current.design.parts.costs import shop_cost
from grey_current.errors import GreyCurrentError, InputError, RefusedEdit
from grey_current.files.next_report import next_lines, rows
from grey_current.shop.catalogue import machine_models
from grey_current.shop.demo_shops import demo_path
from tests.core.shops import demo, machine, made_up, shop


@pytest.mark.parametrize("seed", [0, 3, 7, 12, 19, 23])
def test_what_is_said_of_each_main_is_what_is_then_built(seed):
    project = made_up(seed) if seed else demo()
    try:
        found = next_machines(project)
    except RefusedEdit:
        # Fewer than two machines on one main.
        assert not main_runs(assess(project, all_scenarios(project)))
        return
    now = assess(project, all_scenarios(project))
    main = main_runs(now)
    drawn = found.choices[0]
    assert drawn.size is None and drawn.extra == 0.0 and drawn.trouble == judge(now).trouble
    for choice in found.choices:
        made = with_main(project, main, choice.size)
        assert choice.extra == pytest.approx(shop_cost(made) - shop_cost(project), abs=0.01)
        assert choice.trouble == pytest.approx(judge(assess(made, all_scenarios(made))).trouble)
        answers = [a for a in assess(made).of_machine.values() if a.worst is not None]
        assert (choice.served, choice.asked) == (sum(a.met for a in answers), len(answers))
        # What serves costs nothing later, what does not is bought again or served by none.
        for number, share in enumerate(choice.shares):
            others = [c.shares[number] >= MET_FROM for c in found.choices]
            if share >= MET_FROM:
                assert choice.later[number] == 0.0
            else:
                assert (choice.later[number] is None) == (not any(others))
        assert choice.regret >= -1e-9
    able = [c for c in found.choices if c.trouble <= drawn.trouble + 0.005]
    assert found.best in able
    assert found.best.regret == min(c.regret for c in able if c.regret is not None)
    lines = next_lines(project, found)
    assert len(lines) == 1 + len(found.names)
    for name, line, share in zip(found.names, lines[1:], found.best.shares, strict=True):
        assert line.startswith(name) and ("gets its air" in line) == (share >= MET_FROM)
        assert "would serve it" not in line or share < MET_FROM
    assert rows(project, found)[0][0] == "as drawn"


def test_broken_off_it_still_knows_the_main_as_drawn():
    found = next_machines(demo(), should_continue=lambda: False)
    assert [choice.size for choice in found.choices] == [None] and found.best is found.choices[0]


def test_regret_by_hand():
    """A narrow main costs nothing now and 300 when the planer comes, a wide one 100 at once: whoever
    takes the narrow one pays 200 too much at worst, the wide one 100."""

    def choice(size, share, extra, later):
        return MainChoice(size, 3, 3, 0.0, (share,), extra, (later,), None)

    narrow, wide = after._regretted([choice(None, 0.7, 0.0, 300.0), choice(0.15, 1.1, 100.0, 0.0)])
    assert (narrow.regret, wide.regret) == (200.0, 100.0)
    # A machine that no main serves tells nothing.
    one, other = after._regretted([choice(None, 0.5, 0.0, None), choice(0.15, 0.6, 100.0, None)])
    assert (one.regret, other.regret) == (0.0, 100.0)
    # Without prices there is none.
    assert after._regretted([choice(None, 1.0, None, 0.0)])[0].regret is None


def test_the_likeliest_are_those_that_are_not_there():
    known = {model.body.name for model in machine_models()}
    assert {name for name, _ in USUAL} <= known
    bare = shop()
    assert likeliest(bare)[0] == "Table saw"
    every = [
        machine(f"m{n}", 1, 1).replaced(kind=model.body.kind)
        for n, model in enumerate(machine_models())
    ]
    assert likeliest(bare.replaced(machines=tuple(every))) == ()
    for name, words in USUAL:
        body = next(model.body for model in machine_models() if model.body.name == name)
        assert any(word in body.kind.lower() for word in words), name


def test_the_command_says_it_and_refuses_in_a_sentence(capsys):
    path = str(demo_path("loft"))
    assert cli.main(["next", path, "15 in planer", "--json"]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["format"] == "grey-current/next/1" and said["machines"] == ["15 in planer"]
    assert [row["best"] for row in said["choices"]].count(True) == 1
    for wrong in ("glider", "Lathe"):
        assert cli.main(["next", path, wrong]) == 2
        assert capsys.readouterr().err.count("\n") == 1
        with pytest.raises(InputError):
            next_machines(demo(), [wrong])
    with pytest.raises(GreyCurrentError, match="two machines or more"):
        next_machines(demo("allotment"))

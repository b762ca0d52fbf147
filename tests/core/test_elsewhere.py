"""Where on its paper a shop is drawn, and which way round, is nobody's business but the draughtsman's:
every answer stays what it was."""

import re

import pytest

from grey_current import cli
from grey_current.files import project_file
from tests.core import laid_shops
from tests.core.paper import elsewhere
from tests.core.shops import demo, made_up

SHOPS = {
    "loft": demo,
    "allotment": lambda: demo("allotment"),
    **{f"wild-{seed}": lambda seed=seed: made_up(seed) for seed in (3, 5, 8)},
    "cellar": laid_shops.cellar,
}
SHIFT = (3.7, -1.9)
QUICK = ("air", "check", "gates", "parts", "cuts", "day", "arrangements")
ALL = (*QUICK, "why", "assembly", "room", "sure", "monthly", "next-reading", "forecast", "phases")


def told(command, project, folder, capsys):
    file = folder / "shop.json"
    project_file.save(project, file)
    return cli.main([command, str(file)]), capsys.readouterr()


@pytest.mark.parametrize("name", ["loft", pytest.param("allotment", marks=pytest.mark.sweep)])
def test_turned_and_shifted_it_is_the_same_shop(name, tmp_path, capsys):
    project = SHOPS[name]()
    other = elsewhere(project, 1, SHIFT)
    assert other.machines[0].x != project.machines[0].x
    for command in QUICK:
        assert told(command, other, tmp_path, capsys) == told(command, project, tmp_path, capsys)


@pytest.mark.sweep
@pytest.mark.parametrize("quarters", [1, 2, 3])
@pytest.mark.parametrize("name", SHOPS)
def test_whichever_way_round_all_answers_are_the_same(name, quarters, tmp_path, capsys):
    project = SHOPS[name]()
    other = elsewhere(project, quarters, SHIFT)
    for command in ALL:
        was, now = (told(command, each, tmp_path, capsys) for each in (project, other))
        assert now == was, command


@pytest.mark.parametrize("quarters", [1, 2])
def test_a_hose_reaches_as_much_of_the_floor(quarters, tmp_path, capsys):
    """Its grid lies a little otherwise; the floor is as large to the last digit but one."""
    areas = []
    for project in (demo("allotment"), elsewhere(demo("allotment"), quarters, SHIFT)):
        _, words = told("reach", project, tmp_path, capsys)
        areas.append([float(figure) for figure in re.findall(r"(\d+\.\d+) m²", words.out)])
    assert areas[0] == pytest.approx(areas[1], rel=0.04) and len(areas[0]) == 4
    assert areas[0][1::2] == pytest.approx(areas[1][1::2], abs=0.011)

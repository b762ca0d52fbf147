"""docs/worked-example.md, held to what the program computes."""

import re
from pathlib import Path

import pytest

from grey_current.design.assess import assess
from tests.core.shops import straight_shop

PAGE = (Path(__file__).parents[2] / "docs" / "worked-example.md").read_text(encoding="utf-8")
ROWS = {name: float(loss) for name, loss in re.findall(r"^\| (\w+) \|.*\| ([\d.]+) \|$", PAGE, re.MULTILINE)}


def test_every_loss_of_the_worked_example():
    system = assess(straight_shop(units="metric")).uses[0].systems["fan"]
    assert system.airflow == pytest.approx(float(re.search(r"Q = ([\d.]+)", PAGE)[1]), abs=6e-5)
    computed: dict[str, float] = {}
    for piece, loss in zip(system.network.pieces, system.losses, strict=True):
        if piece.kind != "fan":
            computed[piece.kind] = computed.get(piece.kind, 0.0) + loss
    assert set(ROWS) == {*computed, "together"}
    for kind, loss in computed.items():
        assert loss == pytest.approx(ROWS[kind], rel=2e-3), kind
    assert ROWS["together"] == pytest.approx(sum(ROWS[kind] for kind in computed), abs=0.2)
    assert system.fan_static == pytest.approx(ROWS["together"], rel=1e-3)

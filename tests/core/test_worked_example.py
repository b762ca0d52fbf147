"""The worked examples in docs/, held to what the program computes."""

import re
from pathlib import Path

import numpy as np
import pytest

from grey_current.design.collector.candidates import offers
from grey_current.design.collector.requirement import required_fan_pressure, requirements
from grey_current.design.flow.assess import assess
from grey_current.design.flow.trace import trace
from grey_current.files.curve_csv import read_curve
from grey_current.shop.catalogue import catalogue
from tests.core.shops import straight_shop
from tests.core.strategies import bank

DOCS = Path(__file__).parents[2] / "docs"
PAGE = (DOCS / "worked-example.md").read_text(encoding="utf-8")
SIZED = (DOCS / "how-the-collector-is-sized.md").read_text(encoding="utf-8")


def rows(page):
    return {
        name: float(loss)
        for name, loss in re.findall(r"^\| (\w+) \|.*\| ([\d.]+) \|$", page, re.MULTILINE)
    }


ROWS = rows(PAGE)


def test_every_loss_of_the_worked_example():
    system = assess(straight_shop(units="metric")).answers[0].systems["fan"]
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


def test_how_the_collector_is_sized_by_hand():
    project = straight_shop(units="metric")
    (found,) = requirements(project, "fan")
    network, table = trace(project).networks["fan"], rows(SIZED)
    flow = np.array([[found.airflow]])
    computed: dict[str, float] = {}
    for piece in network.pieces:
        if piece.kind not in ("fan", "filter"):
            ready = bank([piece.law], network.air)
            computed[piece.kind] = (
                computed.get(piece.kind, 0.0) + ready.evaluate(flow, flow)[0][0, 0]
            )
    assert set(table) == {*computed, "requirement"}
    for kind, loss in computed.items():
        assert loss == pytest.approx(table[kind], abs=0.06), kind
    assert found.pressure == pytest.approx(table["requirement"], abs=0.1)
    assert found.airflow == pytest.approx(
        float(re.search(r"= ([\d.]+) m³/s\. At", SIZED)[1]), rel=1e-4
    )
    assert f"{found.static:.1f} Pa below the room" in SIZED
    item = project.collectors[0]
    clean, due = (
        required_fan_pressure(item, found, network.air, loading) for loading in (0.0, 1.0)
    )
    assert (
        f"must hold {clean:.1f} Pa with the filter new and {due:.1f} Pa with it loaded to twice that"
        in SIZED
    )
    two_hp = next(
        o for o in offers(assess(project), "fan", catalogue().collectors) if o.model == item.model
    )
    assert f"{two_hp.worst:.2f} times its need" in SIZED
    csv = "\n".join(
        line.strip() for line in SIZED.splitlines() if line.startswith("    ") and "," in line
    )
    assert len(read_curve(csv, "page").points) == 3

"""A machine that blows into a bag of its own: what air that gives, by hand, and that nobody takes it
for one that is not connected.
"""

import itertools
import math

import pytest

from grey_current.air.fittings import entry, free_intake
from grey_current.air.gas import air_at
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow import fittings as make
from grey_current.design.flow.assess import assess
from grey_current.design.flow.own_bag import APART, CLOTH, HOSE, own_bag_airflow
from grey_current.design.flow.states import machine_state
from grey_current.design.judgement import judge
from grey_current.design.laying.kept import kept
from grey_current.design.parts.connecting import connected
from grey_current.files.project_file import dump, parse
from grey_current.shop.catalogue import catalogue, chip_fan, materials
from grey_current.shop.machines import FreeArea
from grey_current.shop.pickup_edits import with_own_fan
from grey_current.work.cards import cards
from grey_current.work.day_plan import plan_day
from grey_current.work.day_text import parse_day
from grey_current.work.room_day import room_day
from tests.core.shops import demo, machine, shop


def bagged(port: float = 0.1):
    """A planer that blows into its own bag beside a saw that nothing is led to."""
    drawn = shop([machine("planer", 3, 0, port=port), machine("saw", 5, 2)], [], [], [], [])
    return with_own_fan(drawn, "planer/port", "bag")


@pytest.mark.parametrize("port", [0.1, 0.125, 0.15])
def test_the_fan_gives_what_intake_port_hose_and_bag_take(port):
    """By hand, in Pa at the air that is computed: Darcy and Weisbach with Colebrook's factor for
    the hose, loss coefficients for the rest, Darcy's law for the cloth.
    """
    item = bagged(port).pickup["planer/port"][1]
    air = air_at()
    flow = own_bag_airflow("planer/port", item, air)
    pressure = air.density / 2 * (flow / (math.pi / 4 * port**2)) ** 2
    assert isinstance(item.intake, FreeArea)
    intake = free_intake() * air.density / 2 * (flow / item.intake.area) ** 2
    port_entry = entry(item.opening) * pressure
    rough = materials()["ribbed-hose"].roughness
    reynolds = flow / (math.pi / 4 * port) / (air.viscosity / air.density)
    factor = 0.04
    for _ in range(30):
        inner = rough / port / 3.7 + 2.51 / (reynolds * math.sqrt(factor))
        factor = (-2 * math.log10(inner)) ** -2
    hose = factor * HOSE / port * pressure
    bends = make.hose_bends("planer", HOSE, APART, port, rough).law.k * pressure
    bag = next(m.filter for m in catalogue().collectors if m.filter.kind == "bag")
    cloth = bag.resistance * bag.area / CLOTH * (1 + bag.seasoned) * flow
    points = make.fan_curve(chip_fan(), air).points
    gives = next(
        a[1] + (b[1] - a[1]) * (flow - a[0]) / (b[0] - a[0])
        for a, b in itertools.pairwise(points)
        if a[0] <= flow <= b[0]
    )
    # The curve is drawn through its points, not straight from one to the next.
    taken = intake + port_entry + hose + bends + cloth
    assert taken == pytest.approx(gives, rel=0.08)


def test_it_is_not_taken_for_one_that_is_not_connected():
    project = bagged()
    now = assess(project)
    found = {f.code: f for f in all_findings(project, now)}
    assert (
        found["own-bag"].element == "planer/port" and found["not-connected"].element == "saw/port"
    )
    alone = now.of_machine["planer"]
    assert "by its own fan, into a bag" in verdict(now, alone)
    assert machine_state(alone, "planer") not in ("not connected", "no pickup")
    # It lays no claim to a duct, and serves where its air is enough.
    assert kept(project).wanted == ("saw/port",)
    easy = parse(dump(project), "a file").replaced(
        machines=tuple(
            item.replaced(pickups=(item.pickups[0].replaced(need=0.05),))
            for item in project.machines
        )
    )
    assert judge(assess(easy)).served() == (1, 2)
    card = next(each for each in cards(assess(easy)) if each.machine == "planer")
    assert any("into its own bag" in line for line in card.air)
    # Without its bag it is as it was.
    plain = with_own_fan(project, "planer/port", "own")
    codes = [f.code for f in all_findings(plain, assess(plain))]
    assert codes.count("not-connected") == 2 and "own-bag" not in codes
    change = next(
        fix
        for f in all_findings(plain, assess(plain))
        for fix in f.fixes
        if f.element == "planer/port" and fix.words == "Its own fan blows into a bag"
    )
    assert change.edit(plain) == project
    assert with_own_fan(project, "planer/port", "none").pickup["planer/port"][1].own_fan is None


def test_a_duct_takes_over_from_the_bag_and_the_bag_from_no_duct():
    loft = demo()
    ducted = with_own_fan(loft, "planer/hood", "bag")
    helped = with_own_fan(loft, "planer/hood", "own")
    got = [assess(p).of_machine["planer"].pickups[0] for p in (ducted, helped)]
    assert got[0] == got[1] and not got[0].by_itself
    cut = ducted.replaced(runs=tuple(r for r in ducted.runs if r.id != "planer-hose"))
    alone = assess(cut).of_machine["planer"].pickups[0]
    assert alone.by_itself and alone.airflow > 0.05
    back = connected(cut, "planer/hood")
    assert not assess(back, before=assess(cut)).of_machine["planer"].pickups[0].by_itself
    # Its bag keeps what an own bag usually does of the dust.
    day = plan_day(assess(cut), parse_day("planer 30", cut))
    assert 0.3 <= room_day(assess(cut), day).caught["planer"] <= 0.8

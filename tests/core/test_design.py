"""Needs, findings and verdicts: a table of shops and what the program must say of them."""

import math
from pathlib import Path

import pytest

from grey_current.design.findings.all_findings import all_findings
from grey_current.design.findings.finding import STAGE_OF, Finding, of_element
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assess import assess
from grey_current.design.flow.losses import biggest_loss, largest_losses
from grey_current.design.flow.scenarios import Scenario, need
from grey_current.design.flow.shop_losses import PARTS, shop_losses
from grey_current.design.parts.parts_list import PartsList
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hose_reach import reach
from grey_current.errors import RefusedEdit
from grey_current.files.project_file import dump, parse
from grey_current.shop import edits
from grey_current.shop.ducts import Gate
from grey_current.shop.fans import Claim, CurvePoints
from grey_current.shop.fitting_edits import usual_hanging, with_hung_hose
from grey_current.shop.machines import Capture, Measured
from grey_current.shop.model import Project
from grey_current.shop.places import distance
from grey_current.shop.room import Feature, Opening
from grey_current.shop.room_edits import rectangle
from grey_current.workspace.stages import stage
from tests.core.shops import demo, machine, point, run, shop, straight_shop


def codes(project):
    return {f.code for f in all_findings(project, assess(project))}


def pickup_changed(project, **changes):
    m = project.machines[0]
    return edits.changed(project, m.id, pickups=(m.pickups[0].replaced(**changes),))


def hose(project, length, material="ribbed-hose"):
    return edits.with_hose_length(edits.with_material(project, "main", material), "main", length)


def straight_knives(project):
    return edits.changed(project, "saw", cutter="straight knives")


WALKWAY = Feature(id="walk", name="Walk", kind="walkway", outline=rectangle(1.5, -1, 1, 2), top=0.0)


def two_ports_one_fan() -> Project:
    """A machine whose own fan blows through one port what a blind filter cannot take: it comes out
    of the other."""
    saw = machine("saw", 4, 0)
    blown = saw.pickups[0].replaced(own_fan=CurvePoints(points=((0.0, 3000.0), (0.4, 0.0))))
    other = saw.pickups[0].replaced(id="other", name="Other")
    points = [point("wye", 2, 0)]
    runs = [
        run("main", "wye", "fan", 0.1),
        run("a", "saw/port", "wye", 0.1),
        run("b", "saw/other", "wye", 0.1),
    ]
    project = shop([saw.replaced(pickups=(blown, other))], points, runs)
    return edits.changed(
        project, "fan", filter=project.collectors[0].filter.replaced(resistance=150_000)
    )


def doorway(head: float) -> Opening:
    return Opening(id="way", name="Way", kind="doorway", start=(2, -1), end=(2, 1), head=head)


def main_through(thing, hose: bool = False, height: float = 1.5) -> Project:
    """A main at a height that passes where a thing stands, 2 m from the collector."""
    made = (
        run("main", "far", "near", material="ribbed-hose", length=6.0)
        if hose
        else run("main", "far", "near")
    )
    base = shop(
        [],
        [point("far", 6, 0, height), point("near", 0.5, 0, height)],
        [made, run("in", "near", "fan")],
    )
    return edits.added(base, thing)


def test_a_hose_is_hung_over_the_way_and_is_as_long_as_that_takes():
    lies = edits.changed(main_through(WALKWAY, hose=True), "far", height=1.0)
    lies = edits.changed(lies, "near", height=0.5)
    found = {f.code: f for f in all_findings(lies, assess(lies))}
    (change,) = found["hose-across"].fixes
    hung = change.edit(lies)
    hose = hung.run["main"]
    assert change.words == "Hang it at 7' 2\"" and hose.hung == pytest.approx(2.1844)
    # By hand: up from 1 m, 5.5 m across, down to 0.5 m, and a seventh more for the sag.
    assert distance(hung, hose) == pytest.approx(5.5 + 1.1844 + 1.6844)
    assert hose.length == pytest.approx(1.15 * 8.3688, abs=0.011)
    codes = {f.code for f in all_findings(hung, assess(hung))}
    assert not codes & {"hose-across", "hose-long", "hose-short", "hose-round"}
    # No hook makes it shorter than the straight way, and no pipe hangs from one.
    low = edits.changed(hung, "main", hung=0.1)
    assert distance(low, low.run["main"]) == pytest.approx(math.hypot(5.5, 0.5))
    pipe = edits.changed(hung, "in", hung=2.2)
    assert distance(pipe, pipe.run["in"]) == distance(hung, hung.run["in"])
    assert edits.with_material(hung, "main", "spiral-steel").run["main"].hung is None
    # Taken down it is cut to the straight way again; over the ceiling nothing hangs.
    down = with_hung_hose(hung, "main", None)
    assert distance(down, down.run["main"]) == pytest.approx(math.hypot(5.5, 0.5))
    with pytest.raises(RefusedEdit, match="the ceiling is at"):
        with_hung_hose(hung, "main", 9.0)
    with pytest.raises(RefusedEdit, match="only a hose hangs"):
        with_hung_hose(hung, "in", 2.0)
    hooks = [part for part in PartsList(hung).parts if part.key.startswith("hanger/")]
    assert sum(part.quantity for part in hooks) == 2 + sum(
        part.quantity for part in PartsList(lies).parts if part.key.startswith("hanger/")
    )


def test_a_hung_hose_goes_over_what_is_lower_and_costs_air():
    project = demo("allotment")
    hung = with_hung_hose(project, "hose", usual_hanging(project, "hose"))
    hose = hung.run["hose"]
    space = FloorSpace(hung)
    for ref in hose.serves:
        over = reach(hung, space, hose, ref)
        assert over.length >= reach(project, FloorSpace(project), project.run["hose"], ref).length
        assert not over.around and not over.walkways
        assert hose.length >= over.needed - 0.006
    for ident in ("planer-thicknesser", "bandsaw"):
        lies, hangs = (assess(p).of_machine[ident].worst for p in (project, hung))
        assert 0.7 * lies.airflow < hangs.airflow < lies.airflow
    assert parse(dump(hung), "a file") == hung


def with_bin(litres: float) -> Project:
    """A saw that makes 30 litres of chips a week, and a bin under its collector."""
    chips = edits.changed(
        straight_shop(), "saw", chip_litres_per_hour=30, uses_per_week=6, minutes_per_use=10
    )
    return edits.changed(chips, "fan", bin={"volume": litres / 1000, "height": 0.5})


CASES = [
    ("a sound shop", straight_shop(), set(), {"short", "starved", "hose-long", "no-answer"}),
    ("a need beyond the fan", pickup_changed(straight_shop(), need=2.0), {"starved"}, set()),
    ("a need just missed", pickup_changed(straight_shop(), need=0.43), {"short"}, {"starved"}),
    ("a hose far too long", hose(straight_shop(), 7.0), {"hose-long"}, {"hose-short"}),
    ("a hose that does not reach", hose(straight_shop(), 3.0), {"hose-short"}, {"hose-long"}),
    (
        "a gate left open",
        edits.changed(straight_shop(), "gate", rule="left open"),
        {"gate-open"},
        set(),
    ),
    (
        "a gate kept shut",
        edits.changed(straight_shop(), "gate", rule="kept shut"),
        {"gate-shut", "starved"},
        set(),
    ),
    (
        "a tiny port on a large pipe",
        shop([machine("saw", 4, 0, 0.05)], [], [run("main", "saw/port", "fan", 0.2)]),
        {"settles"},
        {"too-fast"},
    ),
    (
        "a small pipe on a large fan",
        shop([machine("saw", 1.2, 0)], [], [run("main", "saw/port", "fan", 0.1)]),
        {"too-fast"},
        {"settles"},
    ),
    ("nothing connected", shop([machine("saw", 4, 0)]), {"not-connected"}, {"starved"}),
    ("no pickup", shop([machine("lathe", 4, 0, pickups=())]), {"no-pickup"}, {"not-connected"}),
    (
        "a duct into the air",
        shop([machine("saw", 4, 0)], [point("p", 2, 0)], [run("a", "p", "fan")]),
        {"open-end"},
        set(),
    ),
    (
        "a capped stub",
        shop([], [point("p", 2, 0, end="cap")], [run("a", "p", "fan")]),
        set(),
        {"open-end"},
    ),
    (
        "a duct without a collector",
        shop([machine("saw", 4, 0)], [point("p", 2, 0)], [run("a", "saw/port", "p")]),
        {"no-collector", "not-connected"},
        set(),
    ),
    (
        "a claim no motor can keep",
        edits.changed(
            straight_shop(), "fan", fan=Claim(impeller=0.36, free_air=1.2, motor_power=750)
        ),
        {"implausible-curve"},
        set(),
    ),
    (
        "a claim to believe",
        edits.changed(
            straight_shop(), "fan", fan=Claim(impeller=0.32, free_air=0.9, motor_power=2200)
        ),
        set(),
        {"implausible-curve"},
    ),
    (
        "a bag too small",
        edits.changed(
            straight_shop(), "fan", filter=straight_shop().collectors[0].filter.replaced(area=1.0)
        ),
        {"small-filter"},
        set(),
    ),
    ("curls in a small port", straight_knives(straight_shop()), {"chip-jam"}, set()),
    ("air that comes out of the other port", two_ports_one_fan(), {"back-flow"}, set()),
    (
        "a main through a machine",
        main_through(machine("tall", 2, 0, height=2.0)),
        {"clash-machine"},
        {"clash-thing"},
    ),
    (
        "a main low through a bench machine",
        main_through(machine("low", 2, 0, height=0.8), height=0.7),
        {"clash-machine"},
        set(),
    ),
    (
        "a main over a bench machine",
        main_through(machine("low", 2, 0, height=0.8), height=0.9),
        set(),
        {"clash-machine"},
    ),
    (
        "a main over a lower machine",
        main_through(machine("low", 2, 0, height=1.3)),
        set(),
        {"clash-machine"},
    ),
    ("a main across a doorway", main_through(doorway(head=2.0)), {"clash-doorway"}, {"clash-door"}),
    ("a main over a doorway", main_through(doorway(head=1.4)), set(), {"clash-doorway"}),
    (
        "a hose across a walkway",
        main_through(WALKWAY, hose=True),
        {"hose-across"},
        {"clash-walkway"},
    ),
    (
        "a step down at speed",
        shop(
            [machine("saw", 3, 0, 0.15)],
            [point("a", 1.2, 0, reducer="step")],
            [run("in", "a", "fan"), run("mid", "saw/port", "a", 0.127)],
        ),
        {"whistles"},
        {"throttles"},
    ),
    ("a loud collector", edits.changed(straight_shop(), "fan", noise=96.0), {"loud"}, set()),
    ("a quiet one", edits.changed(straight_shop(), "fan", noise=60.0), set(), {"loud"}),
    ("a bin full in a day", with_bin(litres=15), {"small-bin"}, set()),
    ("a bin that lasts", with_bin(litres=2000), set(), {"small-bin"}),
    (
        "a port that swings",
        edits.with_pickup(straight_shop(), "saw/port", tilts=True),
        {"tilts"},
        set(),
    ),
    (
        "the loft's faults",
        demo(),
        {
            "starved",
            "short",
            "settles",
            "may-settle",
            "hose-long",
            "gate-open",
            "near-inlet",
            "no-pickup",
            "chip-jam",
            "small-port",
        },
        {"no-answer", "hose-short", "small-filter", "implausible-curve"},
    ),
]


@pytest.mark.parametrize(
    ("name", "project", "has", "has_not"), CASES, ids=[case[0] for case in CASES]
)
def test_findings(name, project, has, has_not):
    found = codes(project)
    assert has <= found
    assert not has_not & found


def test_every_code_is_looked_for_somewhere_and_belongs_to_a_stage():
    written = "".join(path.read_text() for path in Path(__file__).parent.glob("test_*.py"))
    for code, stage_name in STAGE_OF.items():
        assert f'"{code}"' in written, code
        assert stage(stage_name).title
    with pytest.raises(KeyError):
        Finding("no-such-code", "note", "saw", "Something.")


def test_findings_come_worst_first_and_point_at_their_element():
    project = demo()
    found = all_findings(project, assess(project))
    order = ["fault", "warning", "note"]
    assert [f.severity for f in found] == sorted((f.severity for f in found), key=order.index)
    for f in found:
        assert project.find(f.element) is not None, f.element
        assert f.message.endswith(".") and "\n" not in f.message
    assert {f.code for f in of_element(found, project, "mitre-drop")} >= {"gate-open", "too-fast"}
    assert {f.element for f in of_element(found, project, "saw") if f.stage == "air"} == {
        "saw/cabinet",
        "saw/over-blade",
    }


def test_an_operating_point_beyond_the_curve_is_said():
    project = shop([machine("saw", 1.5, 0, 0.15)], [], [run("main", "saw/port", "fan")])
    short_curve = CurvePoints(points=((0.02, 2600.0), (0.1, 2500.0)))
    beyond = edits.changed(project, "fan", fan=short_curve)
    assert "off-curve" in codes(beyond) and "off-curve" not in codes(project)


def test_the_need_follows_school_and_the_users_own_figure():
    project = straight_shop()
    settings, fine = (
        project.settings,
        edits.with_settings(project, criterion="catch fine dust").settings,
    )
    item = project.machines[0].pickups[0]
    assert "chips" in need(item, settings).reason
    dusty = item.replaced(capture=Capture(distance=0.2, velocity=0.75, area=0.008))
    assert need(dusty, settings).airflow == need(item, settings).airflow
    assert (
        need(dusty, fine).airflow == pytest.approx(0.75 * 0.408)
        and "fine dust" in need(dusty, fine).reason
    )
    assert need(dusty.replaced(need=0.2), fine).airflow == 0.2


def test_measured_hood_own_fan_and_claimed_collector_are_computed():
    base = assess(straight_shop()).answers[0].pickups[0].airflow
    measured = Measured(airflow=0.1, static_pressure=600.0)
    tight = assess(pickup_changed(straight_shop(), intake=measured)).answers[0].pickups[0].airflow
    own = CurvePoints(points=((0.0, 900.0), (0.5, 0.0)))
    helped = assess(pickup_changed(straight_shop(), own_fan=own)).answers[0].pickups[0].airflow
    claim = Claim(impeller=0.32, free_air=0.9, motor_power=2200.0)
    claimed = assess(edits.changed(straight_shop(), "fan", fan=claim)).answers[0]
    assert tight < base < helped and claimed.converged


VERDICTS = [
    (
        demo(),
        ("planer",),
        ["Planer: ", " of 545 CFM, ", " short. Biggest loss: 10' 6\" of hose, ", " inH2O."],
    ),
    (demo(), ("saw",), ["Saw, cabinet: ", "the saw's own intake"]),
    (
        demo(),
        ("router-table",),
        ["Router table: ", " (needs 136), but chips will settle in the main between the"],
    ),
    (demo(), ("lathe",), ["Lathe: no pickup"]),
    (demo(), (), ["4 of 8 machines get the air they need; worst is the saw: "]),
    (
        demo("allotment"),
        ("bandsaw", "planer-thicknesser"),
        ["Bandsaw, lower cabinet: left open by the moved hose"],
    ),
    (demo("empty"), (), ["An empty floor: "]),
    (
        shop([machine("saw", 4, 0)]),
        (),
        ["One machine placed, no air yet: a main and a branch to each come next."],
    ),
    (shop([machine("saw", 4, 0)]), ("saw",), ["Saw: not connected to a collector yet."]),
    (straight_shop(units="metric"), ("saw",), ["Saw: ", " m³/h (needs 574). Good."]),
]


@pytest.mark.parametrize(("project", "running", "parts"), VERDICTS)
def test_verdict(project, running, parts):
    scenarios = [Scenario((m.id,)) for m in project.machines] + [Scenario(running)]
    assessment = assess(project, scenarios)
    sentence = verdict(assessment, assessment.of(Scenario(running)) if running else None)
    for part in parts:
        assert part in sentence


def test_the_biggest_loss_is_called_the_same_everywhere_and_mending_it_helps():
    project = demo()
    scenario = assess(project, [Scenario(("planer",))]).answers[0]
    found = largest_losses(project, scenario, scenario.pickups[0])
    system = scenario.systems["cyclone"]
    leaf = scenario.pickups[0].leaf
    assert leaf is not None
    path = system.network.path(leaf)
    hose_loss = sum(
        system.losses[i] for i in path if system.network.pieces[i].source_id == "planer-hose"
    )
    hose = biggest_loss(project, scenario, scenario.pickups[0])
    assert (
        hose is not None and hose.element == "planer-hose" and hose.loss == pytest.approx(hose_loss)
    )
    assert next(loss for loss in found if not loss.given) == hose
    short = next(
        f
        for f in all_findings(project, assess(project))
        if f.code == "short" and "planer" in f.element
    )
    assert short.remedies[0].startswith(f"Biggest loss: {hose.words}, ") and found[0].given
    assert found == sorted(found, key=lambda t: -t.loss)
    shorter = edits.with_hose_length(project, "planer-hose", 1.1)
    assert assess(shorter, [Scenario(("planer",))]).answers[0].airflow > scenario.airflow * 1.03


def test_a_gate_at_the_tool_or_at_the_wye_hardly_matters():
    """Pipe between a wye and a shut gate carries only the leak."""
    gate = demo().gate["gate-jointer"]
    at_wye = edits.changed(demo(), "gate-jointer", run="jointer-stub", at=0.9)
    flows = [assess(p, [Scenario(("planer",))]).answers[0].airflow for p in (demo(), at_wye)]
    assert isinstance(gate, Gate)
    assert flows[1] == pytest.approx(flows[0], rel=2e-3)


@pytest.mark.parametrize("name", ["loft", "allotment"])
def test_the_whole_shop_at_a_glance_adds_up_to_what_the_fan_gives(name):
    now = assess(demo(name))
    rows = shop_losses(now)
    assert [row.machine for row in rows] == [
        m for m, a in now.of_machine.items() if a.worst is not None
    ]
    for row in rows:
        system = now.of_machine[row.machine].systems[row.pickup.collector]
        speed = system.airflow / system.network.areas[system.fan_piece]
        left = system.network.air.density / 2 * speed**2
        assert row.total == pytest.approx(system.fan_static, abs=left + 1.0), row.machine
        assert row.pickup == now.of_machine[row.machine].worst
        assert all(demo(name).find(share.element) is not None for share in row.parts)
        assert {share.part for share in row.parts} <= set(PARTS) and row.slowest > 0

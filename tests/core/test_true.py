"""What the program says of air, collectors and sizes, held to one meaning everywhere."""

import json
import math

import pytest

from grey_current import cli
from grey_current.air.needs import thin_air
from grey_current.design.collector.requirement import requirements
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import need, scenario_named
from grey_current.design.flow.trace import shop_air
from grey_current.design.improve.ranking import improvements, lost_words, won_words
from grey_current.design.improve.shop_search import shop_improvements
from grey_current.design.judgement import judge
from grey_current.design.laying.first_tree import first_tree, sizing_for
from grey_current.design.laying.proposals import propose, quickly_laid
from grey_current.design.laying.resizing import resized
from grey_current.design.parts.parts_list import PartsList
from grey_current.errors import GreyCurrentError, InputError
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.catalogue import catalogue, machine_models
from grey_current.shop.collector_edits import with_filter
from grey_current.shop.machines import Capture
from grey_current.units import Display
from tests.core import laid_shops
from tests.core.shops import collector, demo, hall, machine, point, run, shop, straight_shop


def test_thin_air_asks_for_faster_chips_but_not_for_more_to_catch_fine_dust():
    """1,800 m, 21 °C: 0.804 of the pressure, so √(1/0.804) faster for chips; Stokes' drag knows no
    density."""
    pickup = machine("saw", 0, 0).pickups[0]
    catching = pickup.replaced(capture=Capture(distance=0.3, velocity=0.8, area=0.01))
    low, high = (
        straight_shop(altitude=a, criterion="catch fine dust").settings for a in (0.0, 1800.0)
    )
    assert need(pickup, high).airflow / need(pickup, low).airflow == pytest.approx(
        1 / math.sqrt(0.804), abs=2e-3
    )
    assert thin_air(shop_air(straight_shop(altitude=1800.0)).density) == pytest.approx(
        1.115, abs=3e-3
    )
    assert (
        need(catching, high).airflow
        == need(catching, low).airflow
        == pytest.approx(0.8 * (10 * 0.09 + 0.01))
    )


@pytest.mark.parametrize(
    ("port", "pipe", "same"),
    [
        (0.1, 0.1016, True),
        (0.125, 0.127, True),
        (0.15, 0.1524, True),
        (0.1016, 0.127, False),
        (0.0762, 0.08, False),
    ],
)
def test_trade_sizes_that_slip_over_one_another_are_no_change_of_section(port, pipe, same):
    runs = [
        run("hose", "saw/port", "a", port, material="smooth-hose"),
        run("main", "a", "fan", pipe),
    ]
    project = shop([machine("saw", 4, 0, pipe)], [point("a", 2, 0)], runs)
    now = assess(project)
    kinds = [p.kind for n in now.networks.values() for net in n.values() for p in net.pieces]
    inlet = ["expansion"]  # into the collector's wider inlet, or none where it is as wide
    sections = [kind for kind in kinds if kind in ("expansion", "contraction")]
    assert (len(sections) <= len(inlet)) == same
    keys = {part.key for part in PartsList(project).parts}
    assert same == (
        not any(
            key.startswith(("adaptor", "reducer")) and str(round(port * 1000)) in key
            for key in keys
        )
    )
    assert not same or not any(f.element == "a" for f in all_findings(project, now))


def test_a_filter_of_no_kind_loses_nothing_whatever_the_file_says():
    project = with_filter(straight_shop(), "fan", kind="none")
    item = project.collectors[0]
    lossy = edits.changed(
        project, "fan", filter=item.filter.replaced(resistance=50_000.0, loading=5.0)
    )
    system = assess(lossy).answers[0].systems["fan"]
    (loss,) = [
        x for p, x in zip(system.network.pieces, system.losses, strict=True) if p.kind == "filter"
    ]
    assert loss == 0.0


def test_hoods_are_where_chips_come_out():
    """A planer throws its chips out where the board comes out, so there its hood is."""
    for model in machine_models():
        body = model.body
        if (
            body.name.startswith("Planer")
            and body.feed is not None
            and not body.feeds_across
            and "thick" not in body.name
        ):
            along = (math.cos(math.radians(body.feed)), math.sin(math.radians(body.feed)))
            assert all(p.dx * along[0] + p.dy * along[1] > 0 for p in body.pickups), body.name


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda p: edits.changed(p, "saw", name="x" * 115), "at most 80 letters"),
        (
            lambda p: edits.changed(
                p, "fan", fan={"by": "claim", "impeller": 0.3, "free_air": 1e-9, "motor_power": 900}
            ),
            "at least",
        ),
        (lambda p: edits.changed(p, "fan", opening=1e-300), "at least"),
        (lambda p: p.replaced(machines=p.machines * 250), "200 machines"),
    ],
)
def test_what_no_shop_has_is_refused_at_the_edge_and_mended_in_older_files(change, says):
    with pytest.raises(InputError, match=says) as caught:
        change(straight_shop())
    assert not set("{}[]") & set(str(caught.value))
    raw = json.loads(project_file.dump(demo()))
    raw["format_version"] = 7
    raw["machines"][0]["name"], raw["collectors"][0]["opening"] = "x" * 115, 1e-300
    mended = project_file.from_raw(raw, "old")
    assert len(mended.machines[0].name) == 80 and mended.collectors[0].opening == 1e-4


def test_a_run_that_is_called_by_digits_alone_may_be_pinned():
    project = laid_shops.garage()
    best = propose(project, most=1).proposals[0].project
    main = max(best.runs, key=lambda r: r.diameter * (not r.start.count("/")))
    odd = best.replaced(
        runs=tuple(r.replaced(id="17") if r is main else r for r in best.runs),
        gates=tuple(g.replaced(run="17") if g.run == main.id else g for g in best.gates),
    )
    pinned = edits.changed(odd, "17", pinned=True)
    assert propose(pinned, most=1).proposals[0].project.run["17"].pinned


# -- collectors


def test_the_smallest_that_serves_all_with_its_filter_due_comes_first():
    sander = machine("sander", 2, 0, 0.05, chips="sanding dust")
    project = shop([sander], collectors=(collector(x=0, y=0),))
    found = sizing_for(assess(project), "fan").offers
    fine = [o for o in found if o.loaded == o.asked and not o.against and o.judged.trouble < 1e-3]
    assert fine and found[0] == min(fine, key=lambda o: o.size) and "cyclone" not in found[0].model


@pytest.mark.parametrize("name", ["garage", "cellar"])
def test_without_ducts_a_collector_is_sized_through_a_first_tree_and_says_how_sure_that_is(name):
    project = edits.removed(laid := getattr(laid_shops, name)(), [run.id for run in laid.runs])
    ident = project.collectors[0].id
    found = sizing_for(assess(project), ident)
    tree = first_tree(project, ident)
    assert found.estimated and all(r.estimated for r in found.requirements)
    for asked in found.requirements:  # worked backwards through the very tree
        (same,) = [r for r in requirements(tree.project, ident) if r.scenario == asked.scenario]
        assert same.pressure == pytest.approx(asked.pressure)
    for offer in found.offers:
        assert offer.close[0] <= offer.served <= offer.close[1] and offer.served <= offer.asked
    bare = project.replaced(collectors=())
    none = sizing_for(assess(bare), None)
    assert none.estimated and len(none.offers) == len(catalogue().collectors)
    drawn = quickly_laid(project, 8)
    whole = sizing_for(assess(drawn.project), ident)
    if not drawn.stranded:
        assert not whole.estimated and all(o.close == (o.served, o.served) for o in whole.offers)
        own = next(o for o in whole.offers if o.model == project.collectors[0].model)
        usual = with_filter(drawn.project, ident, loading=project.collectors[0].filter.seasoned)
        assert own.served == judge(assess(usual)).served()[0]


def test_size_names_the_place_and_what_the_fan_must_hold(tmp_path, capsys):
    project = edits.changed(demo(), "saw", one_at_a_time=True)
    path = tmp_path / "shop.json"
    project_file.save(project, path)
    assert cli.main(["size", str(path), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    named = [r for r in report["requirements"] if r["places"]]
    assert {place for r in named for place in r["places"]} == {"saw/cabinet", "saw/over-blade"}
    for asked in report["requirements"]:
        held = asked["fan_must_hold_pa"]
        assert asked["total_pressure_pa"] < held["seasoned"] < held["due"]
    assert cli.main(["air", str(path), "--on", "saw/over-blade"]) == 0
    assert "over-blade" in capsys.readouterr().out.lower()
    for wrong, says in (
        ("saw/nowhere", "places of Saw are"),
        ("planer/hood", "no places that are used"),
        ("x/y", "machines of"),
    ):
        with pytest.raises(InputError, match=says):
            scenario_named(project, [wrong])


# -- words


def test_no_change_is_offered_as_a_gain_of_nothing_or_of_less():
    project = demo()
    now, display = assess(project), Display("us")
    found = [(made, None) for made in shop_improvements(now)]
    found += [
        (made, machine)
        for machine in ("planer", "router-table", "saw")
        for made in improvements(now, machine)
    ]
    for made, machine_asked in found:
        words, less = won_words(made, machine_asked, display), lost_words(made, display)
        assert not words.startswith(("-", "−", "+0 ", "+-", "-0")), words
        if words.startswith("+"):
            assert made.gain > 0
        elif "→" in words:
            was, after = (
                int(part.rstrip("%")) for part in words.removeprefix("slowest air ").split(" → ")
            )
            assert after >= was and made.transport is not None
        assert (less != "") == (round(-made.gain / 4.719474432e-4) >= 1)


def test_sizes_says_each_duct_once():
    for project in (demo(), laid_shops.garage()):
        try:
            found = resized(project)
        except GreyCurrentError:
            continue
        for item in found:
            assert len(set(item.in_words)) == len(item.in_words)
            assert {(b, a) for _, b, a in item.in_words} == {(b, a) for _, b, a in item.changes}


def test_two_hundred_machines_are_answered_and_each_short_one_is_told_what_to_do():
    project = hall(200)
    now = assess(project)
    assert all(answer.converged for answer in now.answers) and len(now.answers) == 200
    found = all_findings(project, now)
    settling = [f for f in found if f.code in ("settles", "may-settle")]
    assert settling and all(f.remedies and f.remedies[0] for f in settling)
    assert any(f.fixes for f in settling) and any(
        "Select the machine" in f.remedies[0] for f in settling
    )
    few = hall(8)
    assert not any(
        "Select the machine" in " ".join(f.remedies) for f in all_findings(few, assess(few))
    )

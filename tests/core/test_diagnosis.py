"""Why: what is taken away is named and demanded back, and nothing is said that is not so."""

import json
import random
from functools import cache

import pytest

from grey_current import cli
from grey_current.design.collector.system_kinds import with_own_collector
from grey_current.design.diagnosis.cause import ODDITY, Oddity
from grey_current.design.diagnosis.diagnose import EXPLAINED_FROM, diagnose
from grey_current.design.diagnosis.scene import Scene
from grey_current.design.diagnosis.suspects import RULES
from grey_current.design.diagnosis.symptoms import symptoms
from grey_current.design.diagnosis.words import brings_words, sure_words, worse_words
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.findings.finding import STAGE_OF
from grey_current.design.findings.verdict import verdict
from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.improve.changes import sensible_changes, shared_changes
from grey_current.design.improve.gate_changes import missing_gates, open_branches
from grey_current.design.improve.shop_search import shop_improvements
from grey_current.design.judgement import judge, judgement_of
from grey_current.design.laying.proposals import propose
from grey_current.design.parts.make_room import builds_no_worse
from grey_current.design.reasons.reasons import reason_about, reason_page, reasons
from grey_current.errors import GreyCurrentError
from grey_current.files import project_file
from grey_current.shop import edits
from grey_current.shop.catalogue import collector_model, machine_models
from grey_current.shop.collector_edits import with_collector, with_separator
from grey_current.shop.design_parts import LISTS
from grey_current.shop.places import position
from grey_current.spelling import names_alike
from grey_current.workspace.placing import Placeable, place
from tests.core import laid_shops
from tests.core.shops import demo, made_up, point, run, shop, straight_shop
from tests.core.shops import machine as small
from tests.core.taken_away import air_of, taken_away

LAID = {
    "loft": lambda: laid_shops.without_ducts(demo()),
    "garage": laid_shops.garage,
    "cellar": laid_shops.cellar,
    "two-rooms": lambda: laid_shops.two_rooms(through_walls=True),
    **{f"small-{seed}": lambda seed=seed: laid_shops.small(seed) for seed in range(1, 7)},
}
QUICK = ("garage", "small-1", "small-2")
SWEEP = [pytest.param(name, marks=() if name in QUICK else pytest.mark.sweep) for name in LAID]
DRAWN = {
    "loft": demo,
    "allotment": lambda: demo("allotment"),
    "wild": lambda: made_up(5),
    "wild-8": lambda: made_up(8),
}


@cache
def laid(name):
    """The best of a few layouts of a shop, worked out once."""
    return next(one.project for one in propose(LAID[name](), most=2).proposals if one.duct > 0)


def computed(project):
    return assess(project, all_scenarios(project))


def ranks(names, chance):
    """For each thing taken away that matters: its cause's place, and the share of the air that the
    cure brings back."""
    for name in names:
        project = laid(name)
        whole = computed(project)
        for code, without, machine in taken_away(project, chance):
            now = computed(without)
            lost = air_of(whole, machine) - air_of(now, machine)
            if lost < 0.05 * air_of(whole, machine):
                continue
            causes = diagnose(now, machine).causes
            place = next((n for n, each in enumerate(causes, 1) if each.code == code), 99)
            back = causes[place - 1].takes / lost if place < 99 else 0.0
            yield place, back, (name, code, [each.code for each in causes])


@pytest.mark.parametrize("names", [QUICK, pytest.param(tuple(LAID), marks=pytest.mark.sweep)])
def test_what_is_taken_away_is_demanded_back(names):
    found = [each for seed in range(3) for each in ranks(names, random.Random(seed))]
    assert len(found) > 20 * len(names)
    wrong = [what for place, _, what in found if place > 1]
    assert sum(place == 1 for place, _, _ in found) >= 0.9 * len(found), wrong
    assert sum(place <= 2 for place, _, _ in found) >= 0.98 * len(found), wrong
    assert sum(back >= 0.9 for _, back, _ in found) >= 0.9 * len(found)


def test_of_two_things_both_are_among_the_first_three():
    chance, both, count = random.Random(4), 0, 0
    for name in QUICK:
        for code, without, machine in taken_away(laid(name), chance):
            if machine is not None or not without.collectors:
                continue
            item = without.collectors[0]
            dirty = edits.changed(without, item.id, filter=item.filter.replaced(loading=12.0))
            if code in ("filter-loaded", "separator-lossy"):
                continue
            named = [each.code for each in diagnose(computed(dirty)).causes[:3]]
            both, count = both + ({code, "filter-loaded"} <= set(named)), count + 1
    assert count >= 10 and both >= 0.8 * count


@pytest.mark.parametrize("name", [*DRAWN, *QUICK])
def test_every_gain_is_what_the_shop_then_gets_and_every_explained_finding_goes(name):
    project = DRAWN[name]() if name in DRAWN else laid(name)
    now = computed(project)
    said = {(each.code, each.element) for each in all_findings(project, now)}
    found = diagnose(now, None, symptoms(now))
    assert [each.worth for each in found.causes] == sorted(
        (each.worth for each in found.causes), reverse=True
    )
    for cause in found.causes:
        assert cause.code in ODDITY and set(cause.explains) <= said
        if cause.cure is None:
            continue
        then = computed(cause.cure.change.edit(project))
        assert cause.cure.gain == pytest.approx(air_of(then, None) - air_of(now, None), abs=1e-9)
        assert cause.cure.met_after == sum(answer.met for answer in then.of_machine.values())
        assert cause.cure.machines == sum(bool(machine.pickups) for machine in project.machines)
        if cause.cure.costs:
            # In brief it leaves out where, not what happens.
            worst, brief = cause.cure.costs[0], worse_words(cause.cure, brief=True)
            assert brief.partition(" then ")[1] == worst.partition(" then ")[1], worst
        # The one judgement: no cure hits anything new or leaves the shop worse, but for what is set
        # wrong, which is put right whatever follows from it.
        before, after = judgement_of(now), judge(then)
        assert after.hits <= before.hits
        # What leaves most of the lack of air and of carried chips is called not enough, and is never
        # called the main cause.
        lacked, lacks = lack_of(before), lack_of(after)
        enough = lacks <= lacked / 2 + 1e-9 or not lacked
        assert enough is not brings_words(project, found, cause.cure).endswith("not enough")
        assert enough or "main cause" not in sure_words(cause)
        forgiven = cause.suspect.oddity is Oddity.SET_WRONG
        assert forgiven or after.trouble <= before.trouble + 1e-3
        for code, element in cause.explains:
            if code in ("starved", "short"):
                machine, _, pickup = element.partition("/")
                was, left = (
                    1 - next(p for p in a.of_machine[machine].pickups if p.pickup == pickup).share
                    for a in (now, then)
                )
                assert left <= max((1 - EXPLAINED_FROM) * was, 0.006)


def lack_of(judged):
    """What all pickups lack that have not nearly enough: shares of their need, and half of what
    chips need more of."""
    lack = 0.0
    for pickup in judged.pickups.values():
        carried = 1 if pickup.transport is None else min(pickup.transport, 1)
        if pickup.share < 0.95 or carried < 0.8:
            lack += 1 - min(pickup.share, 1) + (1 - carried) / 2
    return lack


def offered(project):
    """Every change that anything here would offer."""
    now = computed(project)
    for answer in now.of_machine.values():
        if answer.worst is not None and answer.converged:
            yield from sensible_changes(project, answer, answer.worst)
    for item in project.collectors:
        yield from shared_changes(project, item.id)
    for rule in RULES:
        for suspect in rule(Scene(now)):
            yield from suspect.cures


MAY_CHANGE = {
    "points": {"x", "y", "elbow", "radius_ratio", "wye_angle", "splitter", "end"},
    "runs": {"start", "end", "diameter", "material", "length"},
    "gates": {"run", "at", "rule", "bore", "leak", "opening"},
    "machines": {"x", "y", "turn", "pickups"},
    "collectors": {"filter", "separator", "opening"},
}
"""Fields that some change names; of a collector that is exchanged all that a model brings."""
MODEL = set(type(collector_model("1 hp single-stage, 4 in inlet")).model_fields) | {
    "name",
    "inlet_dx",
}


@pytest.mark.parametrize("name", [*DRAWN, "bucket"])
def test_no_change_alters_what_it_does_not_name(name):
    project = with_a_bucket() if name == "bucket" else DRAWN[name]()
    for change in offered(project):
        try:
            after = change.edit(project)
        except GreyCurrentError:
            continue
        exchanged = "ollector" in change.words and "Straight into" not in change.words
        for part in LISTS:
            was = {item.id: item for item in getattr(project, part)}
            for item in getattr(after, part):
                old = was.get(item.id)
                if old is None or old is item:
                    continue
                fields = {f for f in type(item).model_fields if getattr(item, f) != getattr(old, f)}
                allowed = MAY_CHANGE.get(part, set())
                if exchanged:
                    # Joints that lead level to its inlet follow it.
                    allowed = {"collectors": MODEL, "points": {"height"}}.get(part, set())
                assert fields <= allowed, (change.words, item.id, fields)
        lost = {item.id for item in project.collectors if item.separator} - {
            item.id for item in after.collectors if item.separator
        }
        assert not lost or "Without" in change.words, change.words
        others = ("settings", *(part for part in ("rooms", "features", "build", "work", "keep")))
        for part in others[1:]:
            assert getattr(after, part) == getattr(project, part), change.words


def with_a_bucket():
    """One machine on a hose, whose collector has a bucket before it."""
    project = laid_shops.bare(((0, 0), (4, 0), (4, 3), (0, 3)))
    item = project.collectors[0]
    project = with_collector(project, item.id, "1 hp single-stage, 4 in inlet")
    project = with_separator(project, item.id, "bucket")
    project = laid_shops.with_machines(project, ("Small bandsaw", 2.0, 1.5, 0.0))
    return propose(project, most=1).proposals[0].project


def test_the_bucket_is_named_and_stays_with_another_collector():
    project = with_a_bucket()
    found = diagnose(computed(project))
    assert found.root.code == "separator-lossy" and found.root.cure.met_after >= 0
    item = project.collectors[0]
    larger = with_collector(project, item.id, "2 hp single-stage, 6 in inlet")
    assert larger.collectors[0].separator == item.separator
    cyclone = with_collector(project, item.id, "3 hp cyclone, 15 in impeller")
    assert cyclone.collectors[0].separator.kind == "cyclone"


@pytest.mark.parametrize("name", ["loft", "garage"])
def test_missing_gates_are_put_where_they_have_room(name):
    project = (demo() if name == "loft" else laid(name)).replaced(gates=())
    (change,) = missing_gates(project)
    gated = change.edit(project)
    assert open_branches(project) and not open_branches(gated)
    assert builds_no_worse(project, gated)
    assert len(gated.gates) == len(open_branches(project))


def test_why_from_the_command_line(tmp_path, capsys):
    path = tmp_path / "shop.greycurrent.json"
    project_file.save(demo().replaced(gates=()), path)
    assert cli.main(["why", str(path), "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    assert told["format"] == "grey-current/why/1"
    root = told["causes"][0]
    assert root["code"] == "no-gates" and len(root["elements"]) == 8
    assert root["cure"]["met_after"] > root["cure"]["met_before"] and root["cure"]["money"] < 300
    assert {"code": "starved", "element": "planer/hood"} in root["explains"]
    assert cli.main(["why", str(path), "planer"]) == 1
    assert "Eight branches have no gate" in capsys.readouterr().out
    assert cli.main(["why", str(path), "anvil"]) == 2
    assert "machines of this shop are" in capsys.readouterr().err
    cli.main(["check", str(path)])
    lines = capsys.readouterr().out.splitlines()
    place = next(n for n, line in enumerate(lines) if line.startswith("cause: "))
    assert lines[place].startswith("cause: Eight branches")
    assert lines[place + 1].startswith("    fault: ")
    bare = [line.strip() for line in lines if not line.startswith(("cause:", "The shop"))]
    assert len(bare) == len(
        all_findings(demo().replaced(gates=()), computed(demo().replaced(gates=())))
    )


def test_a_shop_without_ducts_or_collector_says_what_comes_first():
    bare = laid_shops.without_ducts(demo())
    assert [c.code for c in diagnose(computed(bare)).causes] == ["not-connected"]
    assert [c.code for c in diagnose(computed(bare.replaced(collectors=()))).causes] == [
        "no-collector"
    ]
    assert not diagnose(computed(demo("empty"))).causes


@pytest.mark.parametrize("name", [*DRAWN, "empty", "no-ducts"])
def test_every_page_of_reasons_reads_well_in_every_shop(name):
    shops = {"empty": lambda: demo("empty"), "no-ducts": LAID["loft"], **DRAWN}
    now = computed(shops[name]())
    for ident, reason in reasons().items():
        page = reason_page(now, ident)
        words = len(" ".join(page.paragraphs).split())
        assert 60 <= words <= 200 and "{" not in "".join(page.paragraphs), ident
        assert reason.source and all(
            p[0].isupper() or p[0] in "“0123456789" for p in page.paragraphs
        )
        if page.show is not None:
            assert page.show.edit(now.project) != now.project, ident


def test_every_cause_has_a_page_and_every_page_a_figure_that_follows_the_shop():
    assert set(ODDITY) <= {code for each in reasons().values() for code in (each.id, *each.about)}
    assert set(STAGE_OF) >= {"starved", "settles"} and reason_about("starved") == "collector-small"
    loft = demo()
    other = with_collector(loft, "cyclone", "5 hp cyclone, 15 1/2 in impeller")
    other = edits.changed(other, "planer-hose", length=4.5)
    other = edits.with_settings(other, units="metric", duct_leakage=0.0002)
    other = edits.changed(edits.removed(other, ["gate-planer"]), "gate-saw", rule="left open")
    pages = [{i: reason_page(computed(p), i).paragraphs for i in reasons()} for p in (loft, other)]
    same = [ident for ident in reasons() if pages[0][ident] == pages[1][ident]]
    assert not same


def test_reasons_from_the_command_line(tmp_path, capsys):
    path = tmp_path / "shop.greycurrent.json"
    project_file.save(demo(), path)
    assert cli.main(["reasons", str(path)]) == 0
    assert "gates-at-tool-or-wye" in capsys.readouterr().out
    assert cli.main(["reasons", str(path), "main-large"]) == 0
    assert "The main here is 6 in wide; with the saw running" in capsys.readouterr().out
    assert cli.main(["reasons", str(path), "anvil"]) == 2
    assert "use one of: no-gates" in capsys.readouterr().err


@pytest.mark.parametrize("name", [*QUICK, pytest.param("loft", marks=pytest.mark.sweep)])
def test_what_an_offer_adds_is_what_check_then_says(name, tmp_path, capsys):
    """By construction: the offer is taken, and check is asked before and after."""
    project = laid(name)
    before = checked(project, tmp_path, capsys)
    path = tmp_path / "shop.greycurrent.json"
    project_file.save(project, path)
    cli.main(["help-most", str(path), "--json"])
    told = json.loads(capsys.readouterr().out)["changes"]
    cli.main(["sizes", str(path), "--json"])
    sizes = json.loads(capsys.readouterr().out)["sizes"]
    for item in sizes:
        path.write_text(json.dumps(item["project"]), encoding="utf-8")
        assert said(item) >= anew(before, checked(project_file.load(path), tmp_path, capsys))
    now = computed(project)
    found = {i.words: i for i in shop_improvements(now)}
    for item in told:
        after = checked(found[item["words"]].edit(project), tmp_path, capsys)
        assert said(item) >= anew(before, after), item["words"]
        assert item["money"] is not None or item["unpriced"] == []


@pytest.mark.parametrize("command", ["propose", "places"])
def test_what_a_layout_adds_is_what_check_then_says(command, tmp_path, capsys):
    project, path = LAID["small-1"](), tmp_path / "shop.greycurrent.json"
    project_file.save(project, path)
    before = checked(project, tmp_path, capsys)
    cli.main([command, str(path), "--json", *(["--most", "2"] if command == "propose" else [])])
    rows = json.loads(capsys.readouterr().out)[{"propose": "proposals"}.get(command, command)]
    assert rows and all(item["money"] for item in rows)
    for item in rows:
        path.write_text(json.dumps(item["project"]), encoding="utf-8")
        assert said(item) >= anew(before, checked(project_file.load(path), tmp_path, capsys))


def checked(project, folder, capsys):
    """What check finds, by code and element, with how bad it is."""
    path = folder / "checked.greycurrent.json"
    project_file.save(project, path)
    cli.main(["check", str(path), "--json"])
    order = ["note", "warning", "fault"]
    found: dict[tuple[str, str], int] = {}
    for item in json.loads(capsys.readouterr().out)["findings"]:
        key = item["code"], item["element"]
        found[key] = max(found.get(key, 0), order.index(item["severity"]))
    return found


def said(item):
    return {(each["code"], each["element"]) for each in item["adds"]}


def anew(before, after):
    return {key for key, rank in after.items() if rank > before.get(key, -1)}


@pytest.mark.parametrize(
    ("model", "running", "still"),
    [
        ("1.5 hp single-stage, 5 in inlet", "chips-through-fan", "own-fan-off"),
        ("3 hp cyclone, 15 in impeller", "own-fan-against", None),
    ],
)
def test_an_own_fan_that_stands_still_is_named_and_one_that_holds_back(model, running, still):
    room = laid_shops.bare(((0, 0), (6, 0), (6, 4), (0, 4)))
    room = with_collector(room, room.collectors[0].id, model)
    placed = ("Planer with its own fan", 3.5, 2.0, 0.0), ("Small bandsaw", 5.0, 3.0, 0.0)
    project = propose(laid_shops.with_machines(room, *placed), most=1).proposals[0].project
    machine = next(m for m in project.machines if m.pickups[0].own_fan)
    ref, fan = f"{machine.id}/{machine.pickups[0].id}", machine.pickups[0].own_fan
    assert diagnose(computed(project), machine.id).root.code == running
    for other in (None, fan.replaced(speed=0.3)) if still else ():
        now = computed(edits.with_pickup(project, ref, own_fan=other))
        assert diagnose(now, machine.id).root.code == still


def test_of_causes_without_a_cure_it_is_said_what_to_do_instead():
    # The shed's own bandsaw lets in less than its like, which would come before.
    shed = demo("allotment")
    usual = next(m for m in machine_models() if names_alike(m.body.kind, "250 mm bandsaw")).body
    shed = edits.with_pickup(shed, "bandsaw/lower", intake=usual.pickups[0].intake)
    told = {c.code: c for c in diagnose(computed(shed)).causes}["chips-through-fan"]
    assert told.cure is None and told.suspect.instead
    ports = diagnose(computed(demo()), "bandsaw").causes
    assert any(c.code in ("kind-wrong", "pickups-many") and c.suspect.instead for c in ports)
    assert sum(c.sure for c in ports) == pytest.approx(1.0)


def test_a_collector_at_the_far_end_of_narrow_pipe_is_said_to_stand_far():
    """Sixty metres of 4 in pipe: Darcy's law takes most of what a small fan gives."""
    x, y, high = position(straight_shop(), "fan")
    long = shop(
        (small("saw", x + 60.5, y),),
        (point("end", x + 60.0, y, high),),
        (run("main", "end", "fan", 0.1016), run("hose", "saw/port", "end", 0.1016)),
    )
    found = {c.code: c for c in diagnose(computed(long)).causes}
    assert "collector-far" in found and found["collector-far"].suspect.instead
    near = {c.code for c in diagnose(computed(straight_shop())).causes}
    assert "collector-far" not in near


def test_what_no_vacuum_can_fill_wants_a_collector_of_its_own_not_a_larger_filter():
    machines = [small("bandsaw", 3, 1), small("scroll", 5, 1, 0.038), small("sander", 6, -1, 0.063)]
    bare = shop(machines, collectors=(), units="metric")
    vacuum = Placeable("collector", "Wet/dry vacuum, 2 1/2 in hose", "Vacuum")
    project, ident = place(bare, vacuum, 4, 0)
    hose = run("hose", "bandsaw/port", ident, 0.063, material="ribbed-hose", length=4.0)
    moved = edits.added(project, hose.replaced(also_serves=("scroll/port", "sander/port")))
    root = diagnose(computed(moved)).root
    assert root.code == "kind-wrong" and root.cure.met_after > root.cure.met_before
    assert "4 in" not in root.cure.change.words
    cured = root.cure.change.edit(moved)
    assert cured.run["hose"].serves == ("scroll/port", "sander/port")
    assert len(cured.collectors) == 2 and computed(cured).of_machine["bandsaw"].met
    # The hose of its own goes with what it led to.
    alone = edits.added(project, hose)
    assert "hose" not in with_own_collector(alone, "bandsaw/port").run


def test_a_port_that_the_moved_hose_leaves_open_is_told_as_that_and_gets_one_of_its_own():
    saw = small("saw", 3, 1)
    guard = saw.pickups[0].replaced(id="guard", name="Guard", port=0.063, height=1.2)
    bare = shop([saw.replaced(pickups=(*saw.pickups, guard)), small("planer", 5, 1)], units="us")
    hose = run("hose", "saw/port", "fan", 0.1, material="ribbed-hose", length=6.0)
    project = edits.added(bare, hose.replaced(also_serves=("saw/guard", "planer/port")))
    now = computed(project)
    (left,) = [f for f in all_findings(project, now) if f.code == "left-open"]
    assert left.element == "saw/guard" and "open while the moved hose is at" in left.message
    assert "stands open while the moved hose" in verdict(now, None)
    told = {cause.code: cause for cause in diagnose(now, None, symptoms(now)).causes}
    found = told["left-open"]
    assert "moved hose" in found.suspect.says and ("left-open", "saw/guard") in found.explains
    for change in (found.cure.change, left.fixes[0]):
        after = change.edit(project)
        assert after.run["hose"].serves == ("saw/port", "planer/port")
        assert "left-open" not in {f.code for f in all_findings(after, computed(after))}

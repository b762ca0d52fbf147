"""Ducts laid by computation: layouts, sizes and places, by journeys, tables and what must hold for
all of them."""

from __future__ import annotations

import contextlib
import itertools
import json
import math
import random
import re
from collections import Counter
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st

from grey_current import cli
from grey_current.design.collector.candidates import put_in
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.flow.assess import assess
from grey_current.design.flow.scenarios import all_scenarios
from grey_current.design.judgement import air_judgement, judge
from grey_current.design.laying.free_ground import duct_ground
from grey_current.design.laying.inlet import ways_out
from grey_current.design.laying.lattice import HEADINGS, OUTSIDE, Start, lattice
from grey_current.design.laying.places import where_to_stand
from grey_current.design.laying.proposals import AS_IT_IS, NONE_HOLDS, NOTHING_BETTER, propose
from grey_current.design.laying.reasons import served_by_any
from grey_current.design.laying.resizing import resized
from grey_current.design.laying.sizes import SizeSearch, allowed_sizes, size_runs
from grey_current.design.parts.buildable import BuildSet
from grey_current.design.parts.make_room import troubles
from grey_current.design.parts.takeoffs import is_hose
from grey_current.design.space.clashes import DuctSpace
from grey_current.design.space.crossings import crossings, segment_distances
from grey_current.design.space.gate_reach import lever_place
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hits import clash_set
from grey_current.design.space.outlines import plan
from grey_current.design.space.reached import service_blocked
from grey_current.errors import GreyCurrentError, RefusedEdit
from grey_current.files import project_file
from grey_current.shop.catalogue import (
    catalogue,
    collector_model,
    materials,
    new_collector,
    size_for_port,
)
from grey_current.shop.duct_graph import AirPaths
from grey_current.shop.edits import added, changed, removed
from grey_current.shop.laying_edits import unpinned, with_laying
from grey_current.shop.person import reach_up
from grey_current.shop.places import footprint, inlet_of, outwards, position
from grey_current.shop.room import Feature, Opening, Room
from grey_current.shop.room_edits import rectangle
from tests.core import laid_shops
from tests.core.laid_shops import faults, without_ducts
from tests.core.shops import collector, demo, made_up, point, run, shop

pytestmark = pytest.mark.usefixtures("compiled_kernel")


@pytest.fixture(scope="module")
def loft(compiled_kernel):
    return propose(without_ducts(demo()))


def found_codes(project):
    return {(f.code, f.element) for f in all_findings(project, assess(project))}


# -- whole layouts


@pytest.mark.sweep
def test_the_loft_gets_layouts_that_serve_more_than_the_drawn_one_with_less_hose_and_no_clash(loft):
    drawn = judge(assess(demo()))
    hose = sum(r.length or 0 for r in demo().runs if materials()[r.material].hose)
    best = loft.proposals[0]
    assert 3 <= len(loft.proposals) <= 5 and len({p.name for p in loft.proposals}) == len(
        loft.proposals
    )
    assert best.served[0] > drawn.served()[0] and best.hose < hose and best.served[0] >= 6
    assert (
        best.judgement.slowest >= 1 - 5e-3
    )  # nothing settles that a pipe size could have prevented
    assert (
        loft.complete
        and loft.tried > 100
        and [p.rank for p in loft.proposals] == sorted(p.rank for p in loft.proposals)
    )
    for one in loft.proposals:
        assert (
            not faults(one.project)
            and one.why[0].isupper()
            and one.why.endswith(".")
            and one.why.startswith("Limited by")
        )
        assert (one.gates, one.stranded) == (10, ()) and one.judgement.rank == judge(
            assess(one.project)
        ).rank
        # What `check` would say of the ducts is said by the offer.
        found = all_findings(one.project, one.assessment)
        left = [f for f in found if f.stage in ("air", "gates", "build")]
        assert set(one.unsolved) == {f.code for f in left if f.severity in ("fault", "warning")}
        ways = [
            AirPaths(one.project).onward(run.id)
            for run in one.project.runs
            if run.start in one.project.pickup
        ]
        passed = Counter(itertools.chain.from_iterable(ways))
        assert all(
            (passed[ident] > 1) == ident.startswith(("main", "riser", "inlet")) for ident in passed
        )
    assert any("Lathe has no port" in note for note in loft.notes)
    short = min(loft.proposals, key=lambda p: p.duct)
    assert all(
        "more duct than the shortest" in p.why for p in loft.proposals if p.duct > 1.06 * short.duct
    )


def test_the_same_shop_and_seed_give_the_same_and_another_seed_other_orders():
    project = laid_shops.garage()
    one, two, other = (propose(project, seed=seed) for seed in (3, 3, 4))
    assert [p.project for p in one.proposals] == [p.project for p in two.proposals]
    assert one.tried and (one.seed, other.seed) == (3, 4)


@pytest.mark.parametrize("name", ["cellar", "garage"])
def test_layouts_go_round_what_stands_there(name):
    project = getattr(laid_shops, name)()
    found = propose(project)
    assert len(found.proposals) >= 3 and found.proposals[0].served[0] >= 2
    for one in found.proposals:
        assert not faults(one.project)
    unsolved = found.proposals[0].unsolved
    assert set(unsolved) <= {
        f.code for f in all_findings(found.proposals[0].project, assess(found.proposals[0].project))
    }


def test_the_allotment_shed_is_told_that_its_collector_is_too_weak_for_one_layout_to_serve_all():
    found = propose(without_ducts(demo("allotment")))
    assert found.proposals and all(not faults(p.project, p.stranded) for p in found.proposals)
    assert any("No layout found serves all" in note and "too weak" in note for note in found.notes)
    vacuum = next(p for p in found.proposals if p.name.startswith("A vacuum"))
    assert (
        any(r.also_serves for r in vacuum.project.runs) and vacuum.rank < found.proposals[-1].rank
    )


@pytest.mark.parametrize("name", ["cellar", "garage", "loft", "small"])
def test_rows_can_be_put_together_and_what_stands_there_is_one_of_them(name):
    shops = {"cellar": laid_shops.cellar, "garage": laid_shops.garage, "loft": demo}
    project = shops[name]() if name in shops else made_up(11)
    found = propose(project)
    laid = [p for p in found.proposals if p.name != AS_IT_IS]
    broken = [p for p in laid if any(item.is_fault for item in p.judgement.unbuildable)]
    assert laid and (not broken or len(broken) == len(laid))
    assert [p.rank for p in found.proposals] == sorted(p.rank for p in found.proposals)
    there = [p for p in found.proposals if p.name == AS_IT_IS]
    assert len(there) == bool(project.runs) and all(p.project is project for p in there)
    whole = [p for p in laid if p.duct > 0 and not p.name.startswith("A vacuum")]
    for one in whole:
        if one.name == "Least duct":
            assert all(one.duct <= p.duct + 0.011 for p in whole)
        if one.name == "Most air":
            assert all(one.judgement.by_air <= p.judgement.by_air for p in whole)
        if "more duct than the shortest" in one.why:
            assert one.duct > min(p.duct for p in laid if p.duct > 0)
    assert (NOTHING_BETTER in found.notes) == (found.proposals[0].name == AS_IT_IS)
    for one in found.proposals:
        assert one.judgement.unbuildable == BuildSet(one.project).troubles
        assert one.served == judge(assess(one.project, all_scenarios(one.project))).served()


def test_a_machine_is_led_to_the_collector_that_can_and_not_to_the_nearest():
    """A small collector beside the planer, and a cyclone across the room."""
    project = laid_shops.bare(rectangle(0, 0, 6, 4))
    project = laid_shops.with_machines(
        project, ("15 in planer", 3.9, 1.8, 0.0), ("Drum sander", 2.0, 3.2, 0.0)
    )
    model = collector_model("1 hp single-stage, 4 in inlet")
    project = added(project, new_collector(model, "small", "Small fan", 5.4, 0.6))
    found = propose(project).proposals
    assert found[0].name == "Shared out otherwise" and found[0].served == (2, 2)
    assert "To the Cyclone: drum sander, 375 mm planer." in found[0].why
    assert not faults(found[0].project)
    assert all(one.served[0] < 2 for one in found[1:])


def test_one_hose_is_offered_where_it_does_more_than_ducts():
    """A planer beside a small collector, and two machines that a hose reaches in turn."""
    project = laid_shops.bare(rectangle(0, 0, 4, 3))
    project = laid_shops.with_machines(project, ("12 in planer", 2.0, 2.0, 0.0))
    model = collector_model("2 hp single-stage, 6 in inlet")
    project = added(project, new_collector(model, "fan", "Fan", 0.6, 0.6))
    alone = next(p for p in propose(project).proposals if p.name == "One hose")
    assert alone.served == (1, 1) and alone.duct == 0 and "goes to the one port" in alone.why
    project = laid_shops.with_machines(project, ("Drum sander", 3.2, 0.8, 0.0))
    found = propose(project).proposals
    moved = next(p for p in found if p.name == "One hose moved about")
    (hose,) = moved.project.runs
    assert hose.also_serves and "2 ports in turn" in moved.why and "a week" in moved.why
    ducts = [p for p in found if p.duct > 0]
    assert all(moved.rank < p.rank or moved.served > p.served for p in ducts)


@pytest.mark.sweep
@settings(max_examples=12, deadline=None)
@given(st.integers(0, 5000))
@example(190)  # only a hose can be laid, and that reaches two of four
@example(387)  # its planer's drop stood in the collector's first duct
@example(281)  # machines stand in one another; the one layout asked for cannot be put together
def test_every_layout_of_a_random_shop_is_sound(seed):
    project = without_ducts(made_up(seed))
    try:
        found = propose(project, most=1)
    except RefusedEdit:
        return
    for one in found.proposals:
        bad = faults(one.project, one.stranded)
        # A collector may stand in a lane itself. Where nothing holds that is said.
        sound = not [f for f in bad if getattr(f, "kind", "") != "lane"]
        assert sound or (NONE_HOLDS in found.notes and one.unsolved)
        assert not one.stranded or any(": " in note for note in found.notes)


def unbuilt(row):
    """What of a row cannot be put together, a piece that holds badly by half."""
    return sum(1.0 if item.is_fault else 0.5 for item in row.judgement.unbuildable)


def levers_too_high(project):
    """Gates on a drop that no hand reaches though they could sit lower over its foot."""
    reach, wrong = reach_up(project.settings), []
    for gate in project.gates if project.laying.gates == "at the tool" else ():
        run = project.run[gate.run]
        (*foot, low), (*top, _) = position(project, run.start), position(project, run.end)
        if foot == top and lever_place(project, gate)[2] > reach >= low + 0.4:
            wrong.append(gate.id)
    return wrong


def true_of(found):
    """What rows and notes say, held to the rows themselves; returns what is not so."""
    rows, wrong = found.proposals, list[object]()
    drawn = [p for p in rows if p.name != AS_IT_IS]
    fewest = min(len(p.project.collectors) for p in drawn)
    ducted = [p for p in drawn if p.duct > 0 and len(p.project.collectors) == fewest]
    for row in drawn:
        saved = project_file.parse(project_file.dump(row.project), "a saved row")
        again = judge(assess(saved, all_scenarios(saved)))
        laid = [saved.run[r] for r in AirPaths(saved).down if not is_hose(saved.run[r])]
        claims = {
            "serves what its saved file does": again.served() == row.served,
            "least duct": row.name != "Least duct"
            or row.duct <= min(p.duct for p in ducted) + 0.011,
            "most air": row.name != "Most air"
            or row.judgement.by_air == min(p.judgement.by_air for p in ducted),
            "one size": row.name != "One size" or one_size(row.project),
            "square": row.name != "Square to the walls" or row.aslant < 0.5,
            "across": row.name != "Across the room"
            or row.aslant >= max(0.5, *(p.aslant - 0.011 for p in drawn)),
            "levers on drops are in reach": not levers_too_high(saved),
            "none serves more at no more trouble behind it": not any(
                other.served > row.served
                and other.judgement.trouble <= row.judgement.trouble
                and unbuilt(other) <= unbuilt(row)
                and other.aslant <= row.aslant + 4
                for other in rows[rows.index(row) + 1 :]
            ),
            "in the order of the judgement": row.rank
            == min(p.rank for p in rows[rows.index(row) :]),
            "nothing else is drawn": bool(laid) or row.duct == 0,
        }
        for fewer in re.findall(r"(\d+) fewer served", row.why):
            most = max(p.served[0] for p in drawn)
            claims["fewer served"] = int(fewer) == most - row.served[0]
        for who, share in re.findall(r"the ([^;:,.]+?) (\d+)% of the need", row.why):
            shares = [
                round(p.share * 100)
                for (_, ref), p in row.judgement.pickups.items()
                if row.project.pickup[ref][0].name.lower() in who
            ]
            claims[f"{who} {share}"] = int(share) in shares
        wrong += [(row.name, claim) for claim, holds in claims.items() if not holds]
    most, asked = max(p.served[0] for p in rows), rows[0].served[1]
    for note in found.notes:
        if "No layout found serves all" in note:
            wrong += [note] if f"the best serves {most} of {asked}" not in note else []
            wrong += [note] if most == asked else []
        if "is too weak" in note or "Alone on a duct" in note:
            named = [
                ref
                for ref in rows[0].project.pickup
                if rows[0].project.pickup[ref][0].name.lower() in note.lower()
            ]
            wrong += [note] if named and all(ref in served_by_any(rows) for ref in named) else []
    if most < asked and not any("No layout found" in note for note in found.notes):
        wrong.append("it is not said that none serves all")
    return wrong


def one_size(project):
    """Whether all new rigid ducts have one size, or the wider one that their ports ask for."""
    paths = AirPaths(project)
    rigid = [r for r in project.runs if r.id in paths.down and not is_hose(r) and not r.pinned]
    least = min(each.diameter for each in rigid)
    for each in rigid:
        if each.diameter > least + 1e-6:
            brings = [
                size_for_port(project, project.pickup[ref][1].port)
                for other in project.runs
                for ref in other.serves
                if ref in project.pickup and each.id in set(paths.onward(other.id))
            ]
            if max(brings, default=0.0) < each.diameter - 1e-6:
                return False
    return True


@pytest.mark.sweep
@settings(max_examples=8, deadline=None)
@given(st.integers(0, 5000))
@example(4662)  # a row that serves more has a piece too short to hold
@example(190)
def test_what_the_rows_of_a_random_shop_say_is_true_of_them(seed):
    try:
        found = propose(without_ducts(made_up(seed)))
    except RefusedEdit:
        return
    assert not true_of(found)


def test_what_the_rows_of_the_loft_say_is_true_of_them(loft):
    assert not true_of(loft)


def test_a_wall_wants_a_hole_and_a_ceiling_room():
    with pytest.raises(RefusedEdit, match="a wall stands between it and the cyclone; allow a hole"):
        propose(laid_shops.two_rooms())
    holed = propose(laid_shops.two_rooms(through_walls=True)).proposals[0]
    assert holed.served == (1, 1) and not faults(holed.project)
    assert sum(DuctSpace(holed.project).through_wall(r) for r in holed.project.runs) >= 1
    low = laid_shops.garage()
    low = low.replaced(rooms=(low.rooms[0].replaced(ceiling=1.5),), openings=())
    notes = propose(low, most=1).notes
    assert any(
        "the ceiling leaves the cyclone's inlet no room; move or turn" in note for note in notes
    )
    low = laid_shops.garage()
    high = propose(with_laying(low, height="at a height", wall_height=5.0))
    assert any("the ceiling leaves the cyclone's inlet no room" in note for note in high.notes)
    assert all(p.duct == 0 for p in high.proposals if p.project.runs)


@pytest.mark.parametrize(
    ("project", "words"),
    [
        (demo("empty"), "without a collector"),
        (removed(laid_shops.bare(rectangle(0, 0, 5, 5)), []), "machine with a port"),
    ],
)
def test_what_cannot_be_laid_is_said_in_one_sentence(project, words):
    with pytest.raises(RefusedEdit, match=words):
        propose(project)


def test_ducts_along_a_wall_keep_clear_of_its_window():
    window = Opening(
        id="w", name="W", kind="window", start=(0.0, 1.0), end=(0.0, 3.0), sill=0.3, head=2.65
    )
    project = with_laying(laid_shops.garage().replaced(openings=(window,)), height="along the wall")
    found = propose(project, most=1)
    layouts = [one.project for one in found.proposals]
    # The saw stands in the middle: over the floor to it one would walk into a duct at that height.
    assert any("along the wall its duct would lie where people walk" in n for n in found.notes)
    assert all(one.judgement.low < 1.5 for one in found.proposals)
    assert layouts and not [c for p in layouts for run in p.runs for c in DuctSpace(p).clashes(run)]


def test_most_layouts_can_be_put_together_as_they_are_offered():
    shops = [laid_shops.cellar(), laid_shops.garage(), laid_shops.two_rooms()]
    fine = offered = 0
    for shop_ in (*shops, *(laid_shops.small(seed) for seed in range(6))):
        with contextlib.suppress(RefusedEdit):
            for one in propose(shop_).proposals:
                tight = len(troubles(one.project))
                fine, offered = fine + (tight == 0), offered + 1
                # What has no room is said by the offer, and nothing is said where all has.
                told = {"no-pipe-room", "short-piece", "no-joint-room"} & set(one.unsolved)
                assert bool(told) == (tight > 0)
    assert fine >= 0.7 * offered, (fine, offered)


# -- choices


@pytest.mark.parametrize(
    ("choices", "holds"),
    [
        (
            {"height": "on the floor"},
            lambda p: all(q.height < 0.35 for q in p.points if q.id.startswith("wye")),
        ),
        ({"height": "under the floor"}, lambda p: any(q.height < 0 for q in p.points)),
        (
            {"height": "at a height", "wall_height": 1.9},
            lambda p: any(q.height == 1.9 for q in p.points),
        ),
        ({"height": "between the beams"}, lambda p: max(q.height for q in p.points) > 2.3),
        ({"material": "pvc"}, lambda p: "spiral-steel" not in {r.material for r in p.runs}),
        (
            {"sizes": (0.1, 0.125)},
            lambda p: (
                {r.diameter for r in p.runs if not r.material.endswith("hose")} <= {0.1, 0.125}
            ),
        ),
        ({"gates": "at the wye"}, lambda p: all(_near_its_wye(p, gate) for gate in p.gates)),
    ],
)
def test_choices_are_kept_to(choices, holds):
    project = with_laying(laid_shops.garage(), **choices)
    assert project_file.parse(project_file.dump(project), "kept") == project
    found = propose(project, most=1)
    for one in found.proposals:
        assert holds(one.project)
        assert not [
            f
            for f in faults(one.project, one.stranded)
            if getattr(f, "kind", "") not in ("walkway", "door")
        ]


def _near_its_wye(project, gate):
    run = project.run[gate.run]
    return gate.at >= 0.5 and not run.id.endswith("drop")


def test_a_choice_that_cannot_be_is_refused_in_its_own_words():
    with pytest.raises(GreyCurrentError, match="each size is to be named once"):
        with_laying(demo(), sizes=(0.1, 0.1))


# -- what stays


@pytest.mark.sweep
def test_what_is_pinned_stays_and_the_rest_is_laid_to_it(loft):
    laid = loft.proposals[0].project
    main = max((r for r in laid.runs if r.id.startswith("main")), key=lambda r: r.diameter)
    pinned = changed(laid, main.id, pinned=True)
    kept_runs = {r.id for r in pinned.runs if r.pinned}
    found = propose(pinned, most=2)
    for one in found.proposals:
        for ident in kept_runs:
            old, new = laid.run[ident], one.project.run[ident]
            assert (new.diameter, new.material, new.pinned) == (old.diameter, old.material, True)
            assert position(one.project, new.start) == position(laid, old.start)
        assert set(one.project.pickup) - set(one.stranded) <= _reached(one.project)
    assert not any(r.pinned for r in unpinned(pinned).runs)
    loose = without_ducts(demo()).replaced(
        points=(point("a", 5, 2), point("b", 6, 2)), runs=(run("stray", "a", "b", pinned=True),)
    )
    assert any("leads to no collector" in note for note in propose(loose, most=1).notes)


def _reached(project):
    done = assess(project, all_scenarios(project))
    return {
        f"{p.machine}/{p.pickup}" for a in done.answers for p in a.pickups if p.leaf is not None
    }


def test_only_what_is_not_connected_is_connected_and_what_is_drawn_stays():
    gone = [r.id for r in demo().runs if r.id.startswith(("planer", "jointer"))]
    cut = removed(demo(), gone)
    with pytest.raises(RefusedEdit, match="connected already"):
        propose(demo(), only_unconnected=True)
    found = propose(cut, only_unconnected=True)
    for one in found.proposals:
        new = one.project
        assert {"planer/hood", "jointer/chute"} - set(one.stranded) <= _reached(new)
        for old in cut.runs:
            assert (new.run[old.id].diameter, new.run[old.id].material) == (
                old.diameter,
                old.material,
            )
        assert [
            g.replaced(also_open_for=(), run="x", at=0.5) for g in new.gates if g.id in cut.gate
        ] == [g.replaced(also_open_for=(), run="x", at=0.5) for g in cut.gates]
        assert not {
            h for h in clash_set(new).hits if h.element not in cut.run and h.element in new.run
        }
        for fresh in (
            r for r in new.runs if r.id not in cut.run and not materials()[r.material].hose
        ):
            (ax, ay, _), (bx, by, _) = position(new, fresh.start), position(new, fresh.end)
            if (
                math.hypot(bx - ax, by - ay) > 0.1
            ):  # level ones lie along the walls or halfway between them
                assert abs(math.remainder(math.degrees(math.atan2(by - ay, bx - ax)), 45)) < 0.2


def test_areas_lamps_and_ducts_are_in_the_way_and_said():
    project = laid_shops.garage()
    best = propose(project, most=1).proposals[0].project
    level = next(r for r in best.runs if r.id.startswith("main"))
    (ax, ay, z), (bx, by, _) = position(best, level.start), position(best, level.end)
    x, y = (ax + bx) / 2, (ay + by) / 2
    area = Feature(
        id="area",
        name="Hoist way",
        kind="no-duct area",
        outline=rectangle(x - 0.2, y - 0.2, 0.4, 0.4),
    )
    lamp = area.replaced(id="lamp", name="Lamp", kind="lamp", bottom=2.0)
    assert ("clash-area", level.id) in found_codes(added(best, area))
    assert ("clash-lamp", level.id) in found_codes(added(best, lamp))
    assert ("clash-lamp", level.id) not in found_codes(added(best, lamp.replaced(bottom=z + 0.4)))
    for one in propose(added(project, area), most=1).proposals:
        assert not faults(one.project)
    across = (point("p", x, y - 1, z), point("q", x, y + 1, z), run("cross", "p", "q", 0.1))
    assert ("clash-duct", "cross") in found_codes(added(best, *across)) or (
        "clash-duct",
        level.id,
    ) in found_codes(added(best, *across))
    lane = FloorSpace(best).lane(next(m for m in best.machines if m.feed is not None))
    x, y = (lane.start[axis] + lane.direction[axis] * 0.9 for axis in (0, 1))
    drop = (point("foot", x, y, 0.6), point("head", x, y, 2.2), run("post", "foot", "head", 0.1))
    assert ("clash-lane", "post") in found_codes(added(best, *drop))
    assert ("clash-lane", "post") not in found_codes(
        changed(added(best, *drop), "foot", height=1.6)
    )


def test_distances_of_segments_are_those_of_dense_points():
    chance = np.random.default_rng(5)
    a, b, c, d = (chance.uniform(-1, 1, (6, 3)) for _ in range(4))
    along = np.linspace(0, 1, 201)[:, None]
    for i, j in itertools.product(range(6), range(6)):
        one, two = a[i] + (b[i] - a[i]) * along, c[j] + (d[j] - c[j]) * along
        dense = np.linalg.norm(one[:, None] - two[None], axis=-1).min()
        exact = segment_distances(a[i], b[i], c[j], d[j])
        assert exact <= dense + 1e-12 and dense - exact < 0.02
    assert crossings(shop()) == []


# -- sizes


def brute_force(search: SizeSearch):
    """The best of every choice that never narrows towards the collector."""
    ranges = [range(segment.least, len(search.sizes)) for segment in search.segments.each]
    choices = (
        c
        for c in itertools.product(*ranges)
        if all(s.after is None or c[s.after] >= c[i] for i, s in enumerate(search.segments.each))
    )
    return min(search.key(choice) for choice in choices)


@pytest.mark.parametrize("seed", range(6))
def test_the_size_search_finds_what_brute_force_finds(seed):
    project = with_laying(laid_shops.small(seed), sizes=(0.1, 0.125, 0.15, 0.16))
    try:
        laid = propose(project, most=1).proposals[0].project
    except RefusedEdit:
        pytest.skip("nothing can be laid there")
    search = SizeSearch(
        laid, size_runs(laid), allowed_sizes(laid, laid.collectors[0].inlet), exact=0
    )
    best = search.key(search.best())
    truth = brute_force(SizeSearch(laid, size_runs(laid), search.sizes))
    assert best[0] <= truth[0] * 1.01 + 1e-3
    exact = SizeSearch(laid, size_runs(laid), search.sizes, exact=10_000)
    assert exact.key(exact.best()) == truth


def test_size_it_tells_both_ways_apart_and_leaves_what_is_pinned():
    project = changed(demo(), "main-1", pinned=True)
    stepped, one_size = sorted(resized(project), key=lambda item: item.name == "One size")
    assert (
        stepped.judgement.trouble
        <= air_judgement(assess(project, all_scenarios(project))).trouble + 2
    )
    assert stepped.judgement.rank[0] <= one_size.judgement.rank[0]
    assert all(r != "main-1" for item in (stepped, one_size) for r, _, _ in item.changes)
    assert (
        len({round(new, 4) for _, _, new in one_size.changes}) <= 2
    )  # one, and what the planer's port asks for
    with pytest.raises(RefusedEdit, match="draw ducts"):
        resized(without_ducts(demo()))


# -- places


@pytest.mark.sweep
def test_places_are_free_high_enough_and_reached_and_the_best_is_first():
    project = without_ducts(demo())
    found = where_to_stand(project)
    assert 1 <= len(found.places) <= 3 and found.tried > 100
    assert [p.rank for p in found.places] == sorted(p.rank for p in found.places)
    for place in found.places:
        stood = place.proposal.project
        space = FloorSpace(stood)
        assert (
            not space.overlaps(place.collector)
            and not space.outside(place.collector)
            and place.spare >= 0
        )
        assert not faults(stood, place.proposal.stranded)
        if place.words != "Where it stands now":
            assert not service_blocked(space, place.collector)
            assert plan(footprint(place.collector)).intersection(space.lane_ground).area < 1e-6
    with pytest.raises(RefusedEdit, match="put one in first"):
        where_to_stand(demo("empty"))
    tiny = laid_shops.bare(rectangle(0, 0, 1.2, 1.2))
    tiny = laid_shops.with_machines(tiny, ("Spindle sander", 0.6, 0.6, 0.0))
    with pytest.raises(RefusedEdit, match="standing anywhere"):
        where_to_stand(tiny)


def test_a_collector_that_is_put_in_stands_in_nobodys_way():
    for model in catalogue().collectors:
        made = put_in(without_ducts(demo()).replaced(collectors=()), None, model)
        space, item = FloorSpace(made), made.collectors[0]
        assert not space.overlaps(item) and not space.outside(item)
        assert plan(footprint(item)).intersection(space.lane_ground).area < 1e-6


# -- command line


@pytest.mark.sweep
def test_propose_sizes_and_places_say_what_air_check_and_size_say(tmp_path, capsys):
    path, folder = tmp_path / "shop.greycurrent.json", tmp_path / "new" / "laid"
    project_file.save(laid_shops.garage(), path)
    assert cli.main(["propose", str(path), "--json", "-o", str(folder)]) == 0
    said = json.loads(capsys.readouterr().out)
    assert said["format"] == "grey-current/proposals/1" and said["tried"] > 20 and said["seed"] == 0
    for number, item in enumerate(said["proposals"], 1):
        saved = project_file.load(folder / f"proposal-{number}.greycurrent.json")
        assert project_file.from_raw(item["project"], "said") == saved
        judged = judge(assess(saved))
        assert (item["served"], item["of"]) == judged.served()
        assert item["worst_share"] == pytest.approx(judged.worst, rel=1e-9)
        assert item["slowest_share"] == pytest.approx(judged.slowest, rel=1e-9)
        cli.main(["check", str(folder / f"proposal-{number}.greycurrent.json")])
        checked = capsys.readouterr().out
        assert len(item["unsolved"]) <= checked.count("\n") and (
            item["unsolved"] or "fault" not in checked
        )
        assert cli.main(["air", str(folder / f"proposal-{number}.greycurrent.json")]) == 0
        assert "not connected" not in capsys.readouterr().out
    assert cli.main(["propose", str(path), "--most", "1"]) == 0
    text = capsys.readouterr().out
    assert "layouts tried" in text and "Estimates for planning" in text
    laid = folder / "proposal-1.greycurrent.json"
    assert cli.main(["sizes", str(laid), "-o", str(tmp_path / "sized.greycurrent.json")]) == 0
    assert (
        "Stepped: serves" in capsys.readouterr().out
        and (tmp_path / "sized.greycurrent.json").exists()
    )
    assert cli.main(["sizes", str(laid), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)["format"] == "grey-current/sizes/1"
    assert cli.main(["places", str(path), "--json"]) == 0
    places = json.loads(capsys.readouterr().out)
    assert places["format"] == "grey-current/places/1" and places["places"][0]["of"] == 3
    assert cli.main(["places", str(path)]) == 0
    assert "places looked at" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("words", "says"),
    [
        (["propose", "{shop}", "--most", "0"], "is no number from 1 to"),
        (["propose", "{shop}", "--most", "soon"], "is no number from 1 to"),
        (["propose", "{shop}", "-o", "{shop}"], "cannot hold the proposals"),
        (["propose", "{shop}", "--only-unconnected"], "connected already"),
        (["places", "{shop}", "--collector", "nobody"], "collectors of this shop are: cyclone"),
        (["sizes", "{shop}", "-o", "/no/such/folder/x.json"], "could not be saved"),
    ],
)
def test_bad_input_on_the_command_line_is_one_sentence(words, says, tmp_path, capsys):
    path = tmp_path / "shop.greycurrent.json"
    project_file.save(demo(), path)
    try:
        status = cli.main([word.replace("{shop}", str(path)) for word in words])
    except SystemExit as ended:
        status = int(ended.code or 0)
    shown = capsys.readouterr()
    assert status == 2 and says in shown.err and "Traceback" not in shown.err and shown.out == ""


@pytest.mark.parametrize("turn", [0, 90, 180, 270])
def test_a_collector_outdoors_has_room_for_its_duct_ahead_of_its_inlet_and_not_behind_it(turn):
    """Five diameters straight on before anything turns, and 0.7 m round that."""
    item = collector("fan", -4, -7).replaced(
        stands="outdoors", turn=turn, inlet_dx=0.3, inlet_dy=0.0
    )
    (x, y, _), (ahead_x, ahead_y) = inlet_of(item), outwards(item)
    free = duct_ground(DuctSpace(shop(collectors=(item,))), item, 2.2, 0.15).free
    for far, reached in ((1.4, True), (-1.4, False)):
        assert free.contains(shapely.Point(x + far * ahead_x, y + far * ahead_y)) == reached


def test_a_first_duct_goes_as_far_out_as_boards_leave_room_then_as_it_may():
    """A jointer's lane passes 0.7 to 1.1 m before the inlet of a collector whose duct begins lower
    than its table."""
    model = collector_model("2 hp single-stage, 6 in inlet")
    room = demo("empty").replaced(rooms=(Room(outline=rectangle(0, 0, 8, 5), ceiling=2.6),))
    project = added(room, new_collector(model, "fan", "Fan", 0.6, 2.5))
    project = laid_shops.with_machines(project, ("8 in jointer", 1.7, 0.8, 90.0))
    space = DuctSpace(project)
    found = ways_out(space, project.collector["fan"], 2.2, 0.15)
    in_lane = [space.lanes[0][1].distance(shapely.Point(one.foot)) < 0.075 for one in found]
    assert [one.diameters for one in found] == [3.5, 3.0, 2.5, 2.0, 1.5, 1.0, 5.0, 4.5, 4.0]
    assert in_lane == [False] * 6 + [True] * 3


@pytest.mark.parametrize("gone", [1, 7, 60])
def test_a_grid_with_nodes_taken_out_has_the_edges_of_one_that_never_had_them(gone):
    """Its graph is picked from the whole grid's; here against one that is made anew."""
    grid = lattice(shapely.box(0, 0, 2.4, 1.8), (0.0, 0.0), 0.2, 0.3)
    starts = [[Start(0, 0.4), Start(5, 0.1)], [Start(40, 0.0)]]
    grid.ways(starts)
    bare = grid.without(random.Random(gone).sample(range(grid.nodes), gone))
    anew = replace(bare, _edges=None, _strides=())
    graph, wanted = bare.graph(starts), anew.graph(starts)
    assert abs(graph - wanted).nnz == 0 and graph.nnz == wanted.nnz < grid.graph(starts).nnz
    # Every edge is a step of the grid in its heading, or a turn that goes on for a fitting.
    rows, columns = wanted.nonzero()
    on_grid = rows < grid.nodes * HEADINGS
    for row, column in zip(rows[on_grid], columns[on_grid], strict=True):
        (node, before), (end, heading) = divmod(row, HEADINGS), divmod(column, HEADINGS)
        steps = bare.straight(node, heading, end)
        assert len(steps) == (1 if before == heading else bare.stride(heading)[0])


@pytest.mark.sweep
@pytest.mark.parametrize("name", ["cellar", "garage", "loft"])
def test_another_seed_finds_a_first_row_that_is_about_as_good(name):
    """A search that lives on luck is no search: before trees were chosen by their air, rows of one
    shop differed by up to 0.7."""
    project = without_ducts(demo()) if name == "loft" else getattr(laid_shops, name)()
    first = [propose(project, seed=seed).proposals[0].rank[0] for seed in range(3)]
    assert max(first) - min(first) < 0.35, first


@pytest.mark.parametrize("share", [0.25, 0.5, 0.75])
def test_no_step_of_the_grid_passes_what_lies_between_two_nodes(share):
    """A sheet of metal across a strip of ground, a quarter, half or three quarters of the way from
    one node to the next."""
    grid = lattice(shapely.box(-1, -0.1, 1, 0.1), (0.0, 0.0), 0.0, 0.0)
    sheet = shapely.box(share * grid.step - 0.001, -1, share * grid.step + 0.001, 1)
    parted = lattice(shapely.box(-1, -0.1, 1, 0.1).difference(sheet), (0.0, 0.0), 0.0, 0.0)
    origin = int(np.argmin(np.hypot(*grid.xy.T)))
    assert np.allclose(grid.xy, parted.xy) and np.allclose(
        grid.xy[grid.next[0][origin]], (grid.step, 0)
    )
    assert (
        parted.next[0][origin] == OUTSIDE
        and grid.next[4][origin] == parted.next[4][origin] != OUTSIDE
    )
    assert parted.next[4][grid.next[0][origin]] == OUTSIDE

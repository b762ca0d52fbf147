"""Building: parts, cut lengths, cutting, prices, phases, things to make, drawings, and their
commands."""

from __future__ import annotations

import contextlib
import csv
import io
import itertools
import json
import math
import random
import re
from collections import Counter
from functools import partial
from pathlib import Path as FilePath
from typing import Any
from xml.etree import ElementTree

import ezdxf.filemanagement
import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st
from pypdf import PdfReader
from shapely import LineString, Point, Polygon, box
from shapely.ops import unary_union

from grey_current import cli
from grey_current.air.separators import KEPT, catch
from grey_current.build.bill import SHARED, bill
from grey_current.build.cuts import cutting_list, finished, numbered, proof_words, put_away, tick
from grey_current.build.cutting import Bar, cut
from grey_current.build.drawing import Circle, Dimension, Path
from grey_current.build.full_size import best_page, sheets
from grey_current.build.made.at_place import bought_instead, figures_at, made_for, templates_at
from grey_current.build.made.coupler import holding_force, ring_sizes
from grey_current.build.made.hung import bending, hung_mass
from grey_current.build.made.joints import gate_leak_share, gate_sizes, leaking
from grey_current.build.made.lid import lid_loss
from grey_current.build.made.materials import stock, supplies
from grey_current.build.made.rooms import clean_air, warming
from grey_current.build.made.template import read, say
from grey_current.build.made.templates import TEMPLATES, full_size, sheet, template
from grey_current.build.made.tops import downdraft, slot_airflow
from grey_current.build.miscuts import miscut_words, one_more, one_more_words, spare
from grey_current.build.papers import drawings, papers
from grey_current.build.phases import phase_facts, proposed_phases
from grey_current.build.standing import standing
from grey_current.build.words import totals_words
from grey_current.design.findings.all_findings import all_findings
from grey_current.design.findings.building import two_of
from grey_current.design.flow.assess import assess
from grey_current.design.improve.ranking import improvements, money_words
from grey_current.design.parts.keys import part_words
from grey_current.design.parts.packs import packed
from grey_current.design.parts.parts_list import PartsList
from grey_current.design.parts.phase_order import hanging, phase_of
from grey_current.design.parts.straights import LEAST_REST, straights
from grey_current.design.parts.takeoffs import (
    elbow_takes,
    is_hose,
    reducer_takes,
    two_elbows_take,
    wye_takes,
)
from grey_current.errors import DuctworkError, FileError, InputError, RefusedEdit
from grey_current.files import build_report, project_file
from grey_current.files.drawing_dxf import write_dxf
from grey_current.files.drawing_svg import svg
from grey_current.files.price_csv import parse_prices, price_list
from grey_current.shop import build_edits, edits, kept_designs
from grey_current.shop.build_plan import Offcut, ShopMade
from grey_current.shop.catalogue import catalogue, collector_key
from grey_current.shop.duct_edits import with_point_moved
from grey_current.shop.edits import changed, removed, with_material, with_settings
from grey_current.shop.model import Project
from grey_current.shop.places import distance
from grey_current.shop.usual_prices import usual_price
from grey_current.units import FOOT, INCH, Display, parse_length
from tests.core.shops import LazyShops, demo, machine, made_up, point, run, shop, tight_loft

US, METRIC = Display("us"), Display("metric")
ROOT = FilePath(__file__).parents[2]


def in_material(project: Project, material: str) -> Project:
    for item in project.runs:
        if not is_hose(item):
            project = with_material(project, item.id, material)
    return project


def odd_joints() -> Project:
    bent = changed(changed(demo(), "bend-1", elbow="two 45s"), "saw-top", elbow="mitre")
    return changed(bent, "saw-join", splitter=True)


SHOPS = LazyShops(
    {
        **{name: partial(demo, name) for name in ("loft", "allotment", "empty")},
        "loft in pvc": lambda: in_material(demo(), "pvc"),
        "loft in snap-lock-steel": lambda: in_material(demo(), "snap-lock-steel"),
        "loft, metric": lambda: with_settings(demo(), units="metric"),
        "loft, mitred, two 45s, splitter": odd_joints,
        **{f"drawn {seed}": partial(made_up, seed) for seed in range(20)},
    }
)


# -- lay lengths and cut lengths


@pytest.mark.parametrize(
    ("name", "two"),
    [
        ("the elbow in the planer's branch", "two elbows in the planer's branch"),
        ("the router table's gate", "the router table's two gates"),
        ("the wye", "two wyes"),
        ("a coupling", "two couplings"),
    ],
)
def test_two_of_a_name_are_said_once(name, two):
    assert two_of(name) == two


def test_lay_lengths_against_hand_worked_geometry():
    assert elbow_takes(0.15, 90, 1.5, 0.0) == pytest.approx(0.225)  # R tan 45°
    assert elbow_takes(0.1, 45, 1.5, 0.02) == pytest.approx(0.15 * 0.41421 + 0.02, abs=1e-4)
    assert two_elbows_take(0.1, 90) == pytest.approx(0.1 * math.sqrt(2) + 0.1)
    # a tee: half of the branch along the main, half of the main along the branch
    assert wye_takes(0.15, 0.1, 90, 0.0) == pytest.approx((0.05, 0.05, 0.075))
    # a 45° wye of equal pipes: r√2 ± r along the main, r√2 + r along the branch
    out, main, side = wye_takes(0.2, 0.2, 45, 0.0)
    assert (out, main, side) == pytest.approx(
        (0.1 * (math.sqrt(2) - 1), 0.1 * (math.sqrt(2) + 1), 0.1 * (math.sqrt(2) + 1))
    )
    assert reducer_takes(0.1, 0.15, True, 0.0) == pytest.approx(0.025 / math.tan(math.radians(15)))


@pytest.mark.parametrize("name", SHOPS)
def test_straights_and_what_is_taken_make_up_every_centre_line(name):
    project = SHOPS[name]
    found, _ = straights(project)
    for item in project.runs:
        mine = [piece for piece in found if piece.run == item.id and not piece.nipple]
        if is_hose(item):
            assert not mine
            continue
        whole = sum(p.length - p.joint + sum(p.takeoff) for p in mine)
        assert whole == pytest.approx(distance(project, item), abs=1e-9)
        assert all(p.centre_line >= -1e-9 and p.joint >= 0 for p in mine)
    assert len({piece.id for piece in found}) == len(found)


def test_a_long_run_is_put_together_of_lengths_that_are_sold():
    for material, most in (("spiral-steel", 3.048), ("pvc", 3.048), ("snap-lock-steel", 1.524)):
        project = shop(
            [machine("saw", 8, 0)],
            [point("a", 8, 0.0, 2.0)],
            [
                run("drop", "saw/port", "a", material=material),
                run("main", "a", "fan", material=material),
            ],
        )
        pieces = [piece for piece in straights(project)[0] if piece.run == "main"]
        assert len(pieces) > 2 and all(piece.length <= most + 1e-9 for piece in pieces)
        assert [p.length for p in pieces[:-2]] == pytest.approx([most] * (len(pieces) - 2))
        for far in np.arange(
            3.2, 7.0, 0.04
        ).tolist():  # the rest is worth a piece, or the last two are alike
            moved = edits.changed(edits.changed(project, "saw", x=far), "a", x=far)
            *whole, last, end = [p.length for p in straights(moved)[0] if p.run == "main"]
            assert whole == pytest.approx([most] * len(whole)) and end >= LEAST_REST - 1e-9
            assert last == pytest.approx(most) or last == pytest.approx(end)
            assert last + end > most  # none of them could be left out
        couplings = [p for p in PartsList(project).parts if p.key.startswith("coupling/")]
        assert sum(p.quantity for p in couplings) == (
            0 if material.startswith("snap") else len(pieces) - 1
        )


def test_the_parts_of_the_loft_are_those_counted_by_hand():
    table = re.findall(
        r"^\| (\S+) \| ([\d.]+) \|$",
        (ROOT / "docs" / "net-loft-parts.md").read_text(),
        re.MULTILINE,
    )
    counted = {key: float(count) for key, count in table}
    beside = ("pipe/", "screws", "tape")
    found = {
        part.key: part.quantity
        for part in PartsList(demo()).parts
        if not part.key.startswith(beside)
    }
    assert found == pytest.approx(counted)


@pytest.mark.parametrize("name", SHOPS)
def test_every_part_is_for_something_and_reads_in_words(name):
    project = SHOPS[name]
    for part in PartsList(project).parts:
        assert part.quantity > 0 and part.quantity == pytest.approx(sum(q for _, q in part.uses))
        assert all(project.find(element) is not None for element in part.elements)
        for display in (US, METRIC):
            words = part_words(part.key, display)
            assert words and "/" not in re.sub(r"\d/\d|wet/dry|Wet/dry", "", words), words


@pytest.mark.parametrize("model", [item.model for item in catalogue().collectors])
def test_a_collector_that_no_catalogue_has_reads_as_its_name_not_as_a_key(model):
    letters = re.sub(r"[,/-](?!\d)", " ", f"{model} of ours".lower())
    read = part_words(collector_key(f"{model} of ours"), US)
    assert read.split() == letters.split()


def test_a_measured_fitting_changes_the_cut_and_too_tight_ones_are_told():
    project = tight_loft()
    key = "elbow/spiral-steel/102/90/r1.5"
    before = {p.id: p.length for p in straights(project)[0]}
    after = {p.id: p.length for p in straights(build_edits.with_own_size(project, key, (0.2,)))[0]}
    changed_pieces = [ident for ident in before if abs(before[ident] - after[ident]) > 1e-9]
    assert len(changed_pieces) == 14 and all(
        after[i] - before[i] == pytest.approx(0.1624 - 0.2) for i in changed_pieces
    )
    codes = Counter(f.code for f in all_findings(project, assess(project)) if f.stage == "build")
    assert codes == {"no-pipe-room": 3, "short-piece": 2}
    # The sample shop itself can be put together.
    assert not [f for f in all_findings(demo(), assess(demo())) if f.stage == "build"]
    moved = build_edits.with_cut(project, "main-4/pipe-1", before["main-4/pipe-1"])
    moved = with_point_moved(moved, "wye-saw", 0.1, 0.0)
    assert "cut-otherwise" in {f.code for f in all_findings(moved, assess(moved))}


def test_earthing_sealing_and_quick_couplers_are_parts():
    plastic = build_edits.with_build(in_material(demo(), "pvc"), earthing=True)
    keys = {part.key: part for part in PartsList(plastic).parts}
    assert keys["earth-wire"].quantity > 20 and "cement" in keys and "screws" not in keys
    # Primer goes wherever cement does, and hangers into what the shop's walls are of.
    assert keys["primer"].elements == keys["cement"].elements
    assert keys["primer"].quantity == pytest.approx(keys["cement"].quantity * 3 / 5)
    hangers = sum(part.quantity for key, part in keys.items() if key.startswith("hanger/"))
    assert keys["anchor/wood"].quantity == 2 * hangers + 4
    stone = PartsList(build_edits.with_build(plastic, fixing="masonry")).parts
    assert {p.key for p in stone} ^ set(keys) == {"anchor/wood", "anchor/masonry"}
    mastic = {
        part.key for part in PartsList(build_edits.with_build(demo(), sealing="mastic")).parts
    }
    assert "mastic" in mastic and "tape" not in mastic
    quick = {
        p.key: p.quantity
        for p in PartsList(changed(demo("allotment"), "hose", coupling="quick")).parts
    }
    assert quick["quick/100"] == 1 and quick["collar/100"] == 3


# -- cutting


def fewest(pieces: list[int], length: int, kerf: int) -> int:
    """The least number of bars by branch and bound, written without looking at the other solver."""
    best = [len(pieces)]

    def put(number: int, left: list[int]) -> None:
        if len(left) >= best[0]:
            return
        if number == len(pieces):
            best[0] = len(left)
            return
        need = pieces[number] + kerf
        for place in {room: n for n, room in enumerate(left) if room >= need}.values():
            put(number + 1, [room - need * (n == place) for n, room in enumerate(left)])
        put(number + 1, [*left, length + kerf - need])

    pieces = sorted(pieces, reverse=True)
    put(0, [])
    return best[0]


def test_cutting_needs_no_more_lengths_than_an_independent_optimum():
    for seed in range(200):
        chance = random.Random(seed)
        pieces = [chance.randint(100, 1500) for _ in range(chance.randint(1, 10))]
        kerf, counted = chance.choice((0, 2, 3)), Counter(pieces)
        made = cut(list(counted), list(counted.values()), [Bar(1920, 1920)], kerf)
        assert made.proven and made.cost == 1920 * fewest(pieces, 1920, kerf), seed
        for pattern in made.patterns:
            assert (
                sum(n * (w + kerf) for n, w in zip(pattern.counts, counted, strict=True))
                <= 1920 + kerf
            )
        given = [sum(p.counts[i] for p in made.patterns) for i in range(len(counted))]
        assert given == list(counted.values())


def test_offcuts_are_used_first_and_short_stock_where_it_will_do():
    made = cut([900, 400], [1, 2], [Bar(2000, 2000), Bar(1000, 1000), Bar(850, 0, 1)], 3)
    assert made.cost == 1000 and made.proven
    assert Counter(p.bar for p in made.patterns) == {1: 1, 2: 1}
    assert cut([], [], [Bar(100, 100)], 3).cost == 0
    with pytest.raises(ValueError, match="longer than every bar"):
        cut([101], [1], [Bar(100, 100)], 0)


@settings(max_examples=25, deadline=None)
@given(
    st.lists(st.integers(20, 900), min_size=1, max_size=40), st.integers(0, 5), st.integers(0, 3)
)
def test_a_cutting_gives_every_piece_once_and_its_bound_holds(pieces, kerf, spare):
    counted = Counter(pieces)
    bars = [Bar(1000, 1000), Bar(1500, 1500)] + ([Bar(700, 0, spare)] if spare else [])
    made = cut(list(counted), list(counted.values()), bars, kerf, seconds=0.5)
    assert made.bound <= made.cost
    assert [sum(p.counts[i] for p in made.patterns) for i in range(len(counted))] == list(
        counted.values()
    )
    assert sum(p.bar == 2 for p in made.patterns) <= spare


@pytest.mark.parametrize("name", SHOPS)
def test_every_bar_holds_its_pieces_with_kerf(name):
    project = SHOPS[name]
    cuts = cutting_list(project, seconds=1.0)
    kerf = math.ceil(project.build.kerf / tick(project) - 1e-6) * tick(project)
    pieces = [piece for pipe in cuts for bar in pipe.bars for piece in bar.pieces]
    assert sorted(numbered(cuts).values()) == list(range(1, len(pieces) + 1))
    wanted = {p.id for p in straights(project)[0] if p.fits and p.length > 0}
    assert {p.id for p in pieces} == wanted and len(pieces) == len(wanted)
    for pipe in cuts:
        assert "proven least" in proof_words(pipe) or "could be saved" in proof_words(pipe)
        for bar in pipe.bars:
            used = sum(piece.length for piece in bar.pieces) + kerf * (len(bar.pieces) - 1)
            assert used <= bar.length + tick(project) * len(bar.pieces)


def test_stock_that_will_not_do_is_one_sentence():
    project = build_edits.with_stock(demo(), "spiral-steel", (0.5,))
    project = build_edits.with_build(
        project, stock=(project.build.stock[0].replaced(diameter=0.2),)
    )
    with pytest.raises(DuctworkError, match="has no stock length; enter the lengths"):
        cutting_list(project)
    assert "no-stock" in {f.code for f in all_findings(project, assess(project))}
    owned = build_edits.with_offcuts(demo(), "spiral-steel", 0.1524, (1.3, 1.3))
    assert owned.build.offcuts == (
        Offcut(material="spiral-steel", diameter=0.1524, length=1.3, count=2),
    )
    six = next(pipe for pipe in cutting_list(owned) if pipe.diameter > 0.15)
    assert any(bar.owned for bar in six.bars) and sum(six.bought.values()) == 1


# -- money


def test_the_bill_adds_up_and_what_has_no_price_is_counted():
    project = demo()
    found = bill(project)
    assert (
        found.total
        == pytest.approx(sum(found.by_group().values()))
        == pytest.approx(sum(found.by_machine.values()))
    )
    assert (
        found.made_up
        and not found.unpriced
        and found.by_machine["planer"] > found.by_machine["sweep"] > 0
    )
    fewer = build_edits.with_price(project, "gate/102/stepped", None)
    guessed = bill(fewer)
    line = guessed.line["gate/102/stepped"]
    assert not guessed.unpriced and guessed.by_usual == pytest.approx(7 * line.usual.usual)
    others = found.total - 7 * found.line["gate/102/stepped"].price
    assert guessed.total == pytest.approx(others + guessed.by_usual)
    low, high = guessed.range
    assert (low, high) == pytest.approx((others + 7 * line.usual.low, others + 7 * line.usual.high))
    bought = build_edits.with_owned(project, "gate/102/stepped", had=2, bought=5)
    line = bill(bought).line["gate/102/stepped"]
    assert line.left == 0 and line.sum == pytest.approx(5 * line.price)
    # A currency that nobody knows usual prices in: then nothing has one.
    other = build_edits.with_build(project, currency="CHF")
    assert bill(other).total == 0 and len(bill(other).unpriced) == len(found.lines)
    assert totals_words(bill(other)) == ["None of the parts has a price yet."]
    assert SHARED in found.by_machine


@pytest.mark.parametrize("name", SHOPS)
def test_every_part_has_a_usual_price_from_the_first_minute(name):
    for units, currency in (("us", "USD"), ("metric", "EUR")):
        project = with_settings(build_edits.with_build(SHOPS[name], prices=()), units=units)
        found = bill(build_edits.with_build(project, currency=currency))
        assert not found.unpriced
        for line in found.lines:
            assert 0 < line.usual.low < line.price < line.usual.high, line.part.key
        if found.lines:
            (said,) = totals_words(found)
            assert said.startswith("About") and "usual prices of 20" in said
            assert found.range[0] < found.total < found.range[1]


def test_usual_prices_grow_with_the_bore_and_metres_and_lengths_agree():
    for kind in ("pipe/spiral-steel/{}", "elbow/pvc/{}/90/r1.5", "gate/{}/stepped", "hanger/{}"):
        prices = [usual_price(kind.format(bore), "USD").usual for bore in (63, 102, 127, 152, 203)]
        assert all(a < b for a, b in itertools.pairwise(prices)), kind
    length = usual_price("length/pvc/102/3048", "USD")
    assert length.usual == pytest.approx(3.048 * usual_price("pipe/pvc/102", "USD").usual)
    # The larger end of a part decides, and a name of the user's own has none.
    assert usual_price("reducer/pvc/63-152/taper", "USD") == usual_price(
        "reducer/pvc/152-63/taper", "USD"
    )
    assert usual_price("widget/9", "USD") is None and usual_price("gate/102/x", "CHF") is None


def test_prices_go_out_and_come_back_through_csv():
    project = demo()
    bare = build_edits.with_build(project, prices=())
    read_back = parse_prices(price_list(bill(project)), "list.csv", "USD", ())
    again = build_edits.with_prices(bare, read_back.prices)
    assert bill(again).total == pytest.approx(bill(project).total)
    dealer = (
        "Key;Unit price;Date\ngate/102/stepped;17,50 €;2026-03-01\ncap/pvc/102;2,10;\nclamp/64;;\n"
    )
    found = parse_prices(dealer, "dealer.csv", "EUR", {"gate/102/stepped", "clamp/64"})
    assert [(p.key, p.price, p.currency) for p in found.prices] == [
        ("gate/102/stepped", 17.5, "EUR"),
        ("cap/pvc/102", 2.1, "EUR"),
    ]
    assert found.unknown == ("cap/pvc/102",) and found.empty == 1


def test_what_is_sold_by_length_is_listed_and_read_in_one_unit():
    for units, unit, size in (("us", "ft", FOOT), ("metric", "m", 1.0)):
        project = with_settings(demo(), units=units)
        found = bill(project)
        hose = next(line for line in found.lines if line.part.key.startswith("hose/"))
        for text in (price_list(found), build_report.parts_csv(found)):
            rows = list(csv.DictReader(io.StringIO(text)))
            row = next(row for row in rows if row["part"] == hose.part.key)
            assert row["unit"] == unit
            bought = sum(length * count for length, count in hose.packs(hose.left).items())
            assert float(row["quantity"]) <= bought / size + 1e-3
            assert bought / size * float(row["price"]) == pytest.approx(hose.sum, rel=2e-3)
            assert float(row["price"]) == pytest.approx(hose.price * size, rel=1e-3)
    for cell, price in (("ft", 3 / FOOT), ("m", 3.0), (["per", "foot"][1], 3 / FOOT)):
        text = f"part,price,unit\nhose/smooth-hose/76,3,{cell}\n"
        assert parse_prices(text, "x.csv", "USD", ()).prices[0].price == pytest.approx(price)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "is empty"),
        ("part,price\nhose/smooth-hose/76,3\n", "line 2: no unit is said"),
        ("part,price,unit\nhose/smooth-hose/76,3,yd\n", "line 2: the unit 'yd' cannot be used"),
        ("part,price,unit\ngate/102,3,ft\n", "line 2: the unit 'ft' cannot be used"),
        ("part,price\ngate/102,3 €\n", "line 2: the price is in EUR, and this shop counts in USD"),
        ("a,b\n1,2\n", "has no column 'part'"),
        ("part,name\nx,y\n", "has no column 'price'"),
        ("part,price\ngate/102,lots\n", "line 2: the price 'lots' is no number"),
        ("part,price\ngate/102,-3\n", "line 2: the price '-3' cannot be used"),
        ("part,price\nBad Key!,3\n", "line 2: the key 'Bad Key!' cannot be used"),
        (
            "part,price,currency\ngate/102,3,dollars\n",
            "line 2: the currency 'DOLLARS' cannot be used",
        ),
        ("part,price,date\ngate/102,3,yesterday\n", "line 2: the date 'yesterday' is none"),
        ("part,price\n\0", "is not a text file"),
        ("part,price\n" + "x" * 200_000 + ",1\n", "no readable CSV"),
    ],
)
def test_a_broken_price_list_is_one_sentence(text, says):
    with pytest.raises(FileError) as problem:
        parse_prices(text, "list.csv", "USD", ())
    assert says in str(problem.value) and str(problem.value).startswith("list.csv")


def test_a_change_says_what_it_costs():
    found = improvements(assess(demo()), "planer")
    assert all(item.money is not None for item in found)
    assert any(item.money.known and item.money.money > 0 for item in found)
    nobody_knows = build_edits.with_build(demo(), prices=(), currency="CHF")
    usual = improvements(assess(build_edits.with_build(demo(), prices=())), "planer")
    bought = [item for item in usual if item.money.money]
    assert bought and all(item.money.by_usual == item.money.money for item in bought)
    assert "parts for about" in money_words(bought[0], "USD")
    assert all(item.money is None for item in improvements(assess(nobody_knows), "planer"))


def test_a_price_that_a_collector_had_goes_into_the_book():
    raw = json.loads((ROOT / "tests/core/saved/v6.greycurrent.json").read_text())
    raw["collectors"][0]["price"] = 900.0
    project = project_file.from_raw(raw, "old")
    assert [(p.key, p.price) for p in project.build.prices] == [
        ("collector/3-hp-cyclone-15-in-impeller", 900.0)
    ]


# -- phases


def test_runs_come_with_the_first_machine_that_they_serve():
    late = build_edits.with_phase_of(
        demo(), ("saw", "planer", "jointer", "router-table", "sander", "sweep"), 2
    )
    phases = phase_of(late)
    assert (
        phases["main-3"] == 1
        and phases["main-4"] == 2
        and phases["saw-stub"] == phases["gate-saw"] == 2
    )
    assert len(late.build.phases) == 2 and not hanging(late)
    early = build_edits.with_phase_of(late, ("main-6",), 1)
    assert {(h.run, h.waits_for) for h in hanging(early)} == {("main-6", "main-5")}
    told = next(f for f in all_findings(early, assess(early)) if f.code == "hangs-on-nothing")
    assert not hanging(told.fixes[0].edit(early)) or hanging(told.fixes[0].edit(early)) != hanging(
        early
    )
    assert phase_of(build_edits.without_phases(early)) == phase_of(demo())
    for wrong in (("wye-saw",), ()):
        with pytest.raises(RefusedEdit):
            build_edits.with_phase_of(early, wrong, 2)


def test_a_phase_is_the_shop_with_only_its_parts_and_its_air_is_that_shops():
    late = build_edits.with_phase_of(demo(), ("sander", "sweep"), 2)
    first = standing(late, 1)
    assert {m.id for m in demo().machines} - {m.id for m in first.machines} == {"sander", "sweep"}
    # by hand: the sander's and the sweep's ducts taken away but for the main up to the wye, which
    # is capped there
    by_hand = removed(demo(), ["sander", "sweep"])
    keep = {r.id for r in first.runs} | {"main-8"}
    by_hand = by_hand.replaced(
        runs=tuple(r for r in demo().runs if r.id in keep),
        points=tuple(
            p.replaced(end="cap") if p.id == "wye-sander" else p
            for p in demo().points
            if p.id in {*first.point, "wye-sander"}
        ),
        gates=tuple(g for g in demo().gates if g.run in keep),
    )
    for machine_id in ("saw", "planer", "router-table"):
        got = assess(first).of_machine[machine_id].worst.airflow
        assert got == pytest.approx(assess(by_hand).of_machine[machine_id].worst.airflow, rel=1e-5)
    facts = phase_facts(late)
    assert [f.number for f in facts] == [1, 2] and facts[0].capped
    assert facts[1].project.replaced(build=demo().build, kept_designs=()) == demo().replaced(
        machines=late.machines, kept_designs=()
    )
    assert facts[-1].so_far == pytest.approx(bill(demo()).total, rel=0.05)
    assert {p.key.split("/")[0] for p in facts[1].waste} <= {
        "cap",
        "pipe",
        "screws",
        "tape",
        "hanger",
    }


def test_a_stub_stays_the_same_whatever_else_is_left_for_later():
    few, more = (
        build_edits.with_phase_of(demo(), names, 2)
        for names in (("sander", "sweep"), ("sander", "sweep", "planer"))
    )
    stubs = [
        {r.id: (r.diameter, r.end) for r in standing(p, 1).runs if r.id.startswith("stub-")}
        for p in (few, more)
    ]
    assert len(stubs[0]) == 1 and len(stubs[1]) == 2 and stubs[0].items() <= stubs[1].items()


@pytest.mark.parametrize("budget", [1900.0, 2300.0, 10_000.0])
def test_proposed_phases_keep_to_their_budget(budget):
    made = proposed_phases(demo(), budget)
    facts = phase_facts(made)
    assert facts[0].number == 1 and all(f.phase.budget == budget for f in facts)
    ducted = {m.id for m in demo().machines if m.pickups}
    assert all(not f.over or len(ducted & set(f.new)) <= 1 for f in facts)
    assert {i for f in facts for i in f.new} == {*demo().machine, *demo().collector}
    assert (len(facts) == 1) == (budget == 10_000.0) and not hanging(made)


def test_phases_that_cannot_be_are_one_sentence():
    for budget in (0.0, -5.0, math.inf, math.nan):
        with pytest.raises(InputError, match="more than 0"):
            proposed_phases(demo(), budget)
    with pytest.raises(RefusedEdit, match="enter what the parts cost first"):
        proposed_phases(build_edits.with_build(demo(), prices=(), currency="CHF"), 500.0)
    with pytest.raises(RefusedEdit, match="nine are"):
        build_edits.with_phase_of(demo(), ("saw",), 10)
    with pytest.raises(InputError, match="make a phase first"):
        build_edits.with_phase(demo(), 1, name="First")


def test_a_kept_design_may_stand_for_a_phase_and_its_parts_are_waste_later():
    kept, ident = kept_designs.kept(demo("allotment"), "One hose")
    bigger = changed(kept, "hose", length=5.0)
    phased = build_edits.with_phase_count(bigger, 2)
    phased = build_edits.with_phase(phased, 1, design=ident)
    facts = phase_facts(phased)
    assert facts[0].project.run["hose"].length == 2.4 and facts[1].project.run["hose"].length == 5.0
    assert [(p.key, round(p.quantity, 1)) for p in facts[1].bought] == [
        ("hose/ribbed-hose/100", 2.6)
    ]
    assert kept_designs.dropped(phased, ident).build.phases[0].design is None
    with pytest.raises(DuctworkError, match="does not exist"):
        phased.replaced(kept_designs=())


# -- progress


def test_what_is_done_is_kept_and_undone():
    project = build_edits.with_done(demo(), ("main-4", "no such run"), "sealed", True)
    assert project.build.mounted == project.build.sealed == ("main-4",)
    project = build_edits.with_done(project, ("main-4",), "mounted", False)
    assert project.build.mounted == project.build.sealed == ()
    project = build_edits.with_cut(project, "main-4/pipe-1", 0.99)
    assert project_file.parse(project_file.dump(project), "file") == project
    assert build_edits.with_cut(project, "main-4/pipe-1", None).build.cut == ()
    for bad in ({"currency": "dollars"}, {"kerf": -1.0}, {"keep_offcuts": 99.0}):
        with pytest.raises(InputError):
            build_edits.with_build(project, **bad)


def test_bars_that_are_cut_are_put_away_and_their_offcuts_kept():
    project, whole = demo(), bill(demo()).total
    six = cutting_list(project)[0]
    for piece in six.bars[1].pieces:  # the second bar of 6 in pipe: 4' 9" are left of it
        project = build_edits.with_cut(project, piece.id, piece.length)
    assert [bar for _, bar in finished(project, cutting_list(project))] == [six.bars[1]]
    project = put_away(project, cutting_list(project))
    left = cutting_list(project)[0]
    assert {p.id for b in left.bars for p in b.pieces} == {p.id for p in six.bars[0].pieces}
    assert [(o.length, o.count) for o in project.build.offcuts] == [
        (pytest.approx(six.bars[1].rest, abs=1e-4), 1)
    ]
    assert bill(project).total <= whole + 0.01 and project.build.owned[0].used == 1
    assert phase_facts(project)[-1].so_far == pytest.approx(bill(project).total)
    moved = changed(project, "bend-1", x=2.9)  # what was cut fits no more, so it is cut again
    assert {p.id for b in cutting_list(moved)[0].bars for p in b.pieces} > {
        p.id for b in left.bars for p in b.pieces
    }


# -- made in the shop


def test_what_decides_against_hand_worked_figures():
    assert leaking(1e-4, 1500.0, 1.2) == pytest.approx(0.62 * 1e-4 * 50.0)
    assert gate_leak_share(0.1, 0.0005) == pytest.approx(0.02)  # π d g over π d²/4
    assert holding_force(0.1, 2000.0, 1.0, 2.0) == pytest.approx(2 * (15.708 + 9.81), rel=1e-4)
    assert warming(1000.0, 0.1) == pytest.approx(1000 / (1.2 * 1006 * 0.1), rel=0.01)
    assert clean_air(0.3, 0.5, 60.0) == pytest.approx(9.0)
    # 3 kg at 1.2 m on a board of 18 by 80 mm: 6 * 35.3 / (0.018 * 0.0064).
    assert bending(3.0, 1.2, 0.018, 0.08) == pytest.approx(1.839e6, rel=1e-3)
    assert hung_mass(0.1) == pytest.approx(math.pi * 0.1 * 5.5 + 50 * math.pi / 4 * 0.01)
    assert slot_airflow(0.6, 0.8, 0.15) == pytest.approx(0.1872)
    assert downdraft(0.2, 0.6, 0.45) == pytest.approx(0.741, abs=1e-3)
    half, whole = (template("hood").made({"closed": c}, METRIC) for c in (0.5, 0.0))
    assert "Closing 50% of the opening wins" in half.facts[0] and half.decides != whole.decides


def test_a_coupler_holds_and_is_parted_by_hand():
    """Figures by hand: foam of 6 mm width on a ring of 0.124 m pushes 5 kPa; a hand tips with half."""
    rings = ring_sizes(0.11, 0.01, 4, foam=True)
    assert rings.hole == pytest.approx(0.112) and rings.groove == pytest.approx(0.124)
    assert rings.circle == pytest.approx(0.146) and rings.outside == pytest.approx(0.162)
    assert 5000 * rings.foam == pytest.approx(5000 * math.pi * 0.124 * 0.006)
    made = template("coupler").made({"mass": 0.0, "suction": 1500.0, "machines": 3.0}, METRIC)
    # 2 × 12.2 N and 11.7 N of foam want four magnets of 10 N.
    assert "4 magnets of 10 N in each ring hold 28 N of the 24 N wanted" in made.decides
    assert {s.key: s.quantity for s in made.supplies}["magnet/10/5"] == 16
    assert made.boards[0].count == 4
    strong = template("coupler").made({"pull": 60.0, "foam": 0.0}, METRIC)
    assert "Tip it off over its edge: that takes 90 N" not in strong.decides
    assert "Even tipped over its edge it takes 90 N" in strong.decides
    assert "Without foam it draws in" in " ".join(strong.facts)


@given(
    st.sampled_from(sorted(KEPT)),
    st.floats(0, 2),
    st.floats(0, 1.2),
    st.floats(0, 1),
    st.floats(0, 0.5),
)
def test_what_a_separator_keeps_falls_with_less_air_and_a_fuller_bin(kind, flow, fill, less, more):
    here = catch(kind, flow, fill)
    for kept in (here.chips, here.fine):
        assert 0 <= kept.least <= kept.usual <= kept.most <= 1
    assert here.fine.usual <= here.chips.usual
    for worse in (catch(kind, flow * less, fill), catch(kind, flow, fill + more)):
        assert worse.chips.usual <= here.chips.usual + 1e-12
        assert worse.fine.usual <= here.fine.usual + 1e-12
    assert catch(kind, flow, 1.0).chips.most == 0


def test_what_a_separator_keeps_by_hand():
    """A cyclone lets 2 to 15 % of the fine dust by, and with half its air a fifth more."""
    fine = catch("cyclone").fine
    assert (fine.least, fine.most) == pytest.approx((0.85, 0.98))
    assert fine.usual == pytest.approx(1 - math.sqrt(0.15 * 0.02))
    assert catch("cyclone", 0.5).fine.least == pytest.approx(1 - 0.15 * 1.2)
    assert catch("drum lid", 0.5) == catch("drum lid")
    assert catch("bucket", 1.0, 5 / 6).chips.least == pytest.approx(0.475)
    assert lid_loss(0.17, 0.1016) == pytest.approx(2.42 * 1.2014 / 2 * 20.97**2, rel=0.01)
    with pytest.raises(ValueError, match="not negative"):
        catch("cyclone", -0.1)


@pytest.mark.parametrize("name", [item.name for item in TEMPLATES])
def test_nothing_that_is_made_costs_nothing(name):
    """Every board, magnet and filter is on the list, priced, and no less than what is cut."""
    chosen, project = template(name), demo()
    made = chosen.made({}, METRIC)
    before = bill(project)
    with_it = build_edits.with_shop_made(project, ShopMade(template=name))
    found = bill(with_it)
    wanted = dict(supplies(made))
    assert wanted and {f"made/{name}", *wanted} <= set(found.line)
    assert all(found.line[key].sum > 0 and found.line[key].usual for key in wanted)
    sheets_bought = sum(q for key, q in supplies(made) if key.startswith("sheet/"))
    cut_out = sum(
        b.count * b.length * b.width for b in made.boards if stock(b)[0].startswith("sheet/")
    )
    assert sheets_bought >= cut_out
    assert found.total > before.total
    assert phase_facts(with_it)[-1].so_far == pytest.approx(found.total)


def held_together(made, display):
    """A sheet that one can build by: holes lie in wood, plates lie side by side, and what is written
    along a line is as long as that line.
    """
    plates = [
        Polygon(item.points)
        for item in made.items
        if isinstance(item, Path) and item.closed and item.layer == "outline"
    ]
    for item in made.items:
        if isinstance(item, Circle) and item.layer == "outline":
            disc = Point(item.centre).buffer(item.radius - 1e-6)
            assert any(plate.buffer(1e-6).contains(disc) for plate in plates)
        if isinstance(item, Dimension):
            written = parse_length(item.text.removeprefix("⌀ "), display.system, "a dimension")
            fine = INCH / 32 if display.us else 0.0005
            far = math.dist(item.a, item.b)
            assert written == pytest.approx(far, abs=max(fine, 0.006 * (far >= 2)) + 1e-6)
    for one, other in itertools.combinations(plates, 2):
        apart = one.intersection(other).area < 1e-9
        assert apart or one.covers(other.buffer(-1e-6)) or other.covers(one.buffer(-1e-6))
    for board in made.boards:
        assert board.count >= 1 and min(board.length, board.width, board.thickness) > 0


def all_on_sheets(drawing):
    """Whatever is sawn, drilled or scored lies on the sheets, and none of them is empty."""
    assert not {item.layer for item in drawing.items} & {"outline", "centre lines", "hidden"}
    for page in ((210.0, 297.0), (279.4, 215.9)):
        found = sheets(drawing, page)
        frames = [box(s.left, s.low, s.left + s.wide, s.low + s.high) for s in found]
        whole = unary_union(frames).buffer(1e-6)
        for item in drawing.items:
            if isinstance(item, Path):
                ring = [*item.points, item.points[0]] if item.closed else item.points
                assert whole.covers(LineString(ring))
            elif isinstance(item, Circle):
                assert whole.covers(Point(item.centre).buffer(item.radius, 64).exterior)
        assert sum(frame.area for frame in frames) == pytest.approx(unary_union(frames).area)


@given(st.just(0.0) | st.floats(1e-4, 0.008))
def test_half_a_kerf_is_left_to_the_wood_that_stays(kerf):
    plain, moved = (full_size("gate", {}, METRIC, k) for k in (0.0, kerf))
    for one, other in zip(plain.items, moved.items, strict=True):
        if isinstance(one, Circle) and one.layer == "cut":
            assert other.radius == pytest.approx(one.radius - kerf / 2)
        elif isinstance(one, Path) and one.layer == "cut":
            grown = Polygon(one.points).buffer(kerf / 2, join_style="mitre")
            assert Polygon(other.points).symmetric_difference(grown).area < 1e-9
        else:
            assert one == other
    # A peg's hole is drilled, whatever the saw.
    assert {item.layer for item in full_size("coupler", {}, US, kerf).items} >= {"cut", "drill"}


def test_things_are_saved_for_the_machine_and_to_saw_by(tmp_path, capsys):
    assert cli.main(["make", "gate", "--kerf", "3mm", "-o", str(tmp_path / "gate.dxf")]) == 0
    document = ezdxf.filemanagement.readfile(tmp_path / "gate.dxf")
    lines = list(document.modelspace().query("LWPOLYLINE"))
    cut = [line for line in lines if line.dxf.layer == "CUT"]
    assert cut and all(line.dxf.flags & 1 for line in cut) and not document.audit().errors
    assert {line.dxf.layer for line in lines} <= {"CUT", "SCORE", "DIMENSIONS"}
    assert cli.main(["make", "gate", "-o", str(tmp_path / "gate.pdf"), "--letter"]) == 0
    pages = PdfReader(tmp_path / "gate.pdf").pages
    gate = full_size("gate", {}, US)
    assert len(pages) == len(sheets(gate, best_page(gate, (215.9, 279.4))))
    text = pages[0].extract_text()
    assert re.search(r"Sheet A\d of", text) and "100mm" in text.replace(" ", "") and "4 in" in text
    assert {round(float(side)) for side in pages[0].mediabox[2:]} == {612, 792}
    capsys.readouterr()
    for words, says in {
        ("gate", "-o", "gate.png"): "end its name with .svg, .dxf, .pdf or .stl",
        ("gate", "--kerf", "wide"): "write a length",
        ("gate", "--kerf", "40mm"): "give from 0 to",
        ("sound-box", "width=2m", "depth=2m", "height=2m", "-o", "b.pdf"): "save it as DXF or SVG",
    }.items():
        asked = [str(tmp_path / w) if w.endswith((".png", ".pdf")) else w for w in words]
        assert cli.main(["make", *asked]) == 2
        assert says in capsys.readouterr().err


@pytest.mark.parametrize("name", [item.name for item in TEMPLATES])
def test_every_template_draws_at_any_size_or_says_why_not(name):
    chosen, said = template(name), list[str]()

    @settings(max_examples=25, deadline=None)
    @given(
        st.fixed_dictionaries({a.name: st.floats(a.least, a.most) for a in chosen.asks}),
        st.sampled_from([US, METRIC]),
    )
    def drawn(figures, display):
        try:
            made = sheet(name, figures, display)
        except InputError as problem:
            said.append(str(problem))
            return
        left, low, right, high = made.bounds
        assert math.isfinite(right - left) and right > left and high > low and len(made.notes) >= 3
        ElementTree.fromstring(svg(made))
        held_together(chosen.made(figures, display), display)
        all_on_sheets(full_size(name, figures, display))

    if name == "hood":
        # Its hole reaches past a sheet's edge by less than a thousandth of a pipe.
        usual = {asked.name: asked.default for asked in chosen.asks}
        wide = {"width": 1.072265625, "height": 1.2370115372404829, "bore": 1 / 3}
        drawn = example({**usual, **wide, "depth": 1.0, "distance": 0.0}, US)(drawn)
    drawn()
    assert all(chosen.title.split()[0] in sentence for sentence in said)
    for asked in chosen.asks:
        for display in (US, METRIC):
            value = (asked.least + asked.most) / 2
            assert read(asked, say(asked, value, display), display) == pytest.approx(
                value, rel=0.02, abs=0.002
            )
        with pytest.raises(InputError):
            chosen.figures({asked.name: asked.most * 2 + 1})
    with pytest.raises(InputError, match="choose one of"):
        template("boat")


@settings(max_examples=60, deadline=None)
@given(st.floats(0.04, 0.3), st.floats(0, 0.01), st.floats(0.012, 0.05), st.floats(0.0002, 0.003))
def test_a_gate_opens_wide_shuts_tight_and_is_held_at_both_ends(bore, wall, land, gap):
    made = gate_sizes(bore, bore + wall, land, gap, 0.03)
    _, high = made.plate
    across, long = made.slide
    at_hole = made.slide_hole[1]
    areas = []
    # The slide is pulled out by a millimetre at a time; the plates' middle is at 0.
    for step in range(math.floor(made.travel * 1000) + 1):
        pulled = step / 1000
        slid = Point(0, pulled).buffer(bore / 2, 90)
        free = slid.intersection(Point(0, 0).buffer((bore + wall) / 2, 90)).area / slid.area
        share = made.open_share(pulled)
        assert share == pytest.approx(free, abs=2e-3)
        areas.append(share)
    assert areas[0] == 1.0 and areas == sorted(areas, reverse=True)
    assert made.open_share(made.travel) == 0.0
    # Shut, solid wood covers the plates' hole with the land all round; open, so it does at the end.
    hole_edge = made.travel - bore / 2
    assert hole_edge - (bore + wall) / 2 == pytest.approx(land)
    assert across - (bore + wall) == pytest.approx(2 * land) and made.inner - across > 0
    # Each peg meets the plates' edge just there.
    assert made.pegs[1] - at_hole == pytest.approx(high / 2)
    assert at_hole - made.pegs[0] - made.travel == pytest.approx(high / 2)
    assert long > made.pegs[1] and made.plate_hole == pytest.approx(bore + wall)


def test_a_shop_made_gate_takes_the_bought_ones_place_and_leaks():
    now = assess(demo())
    made = made_for(now, "gate", "gate-planer")
    assert figures_at(now, "gate", "gate-planer")["bore"] == pytest.approx(0.127)
    assert made.gate["gate-planer"].leak == pytest.approx(gate_leak_share(0.127, 0.0005))
    keys = {part.key: part.quantity for part in PartsList(made).parts}
    assert "gate/127/stepped" not in keys and keys["made/gate"] == 1
    assert bought_instead(made, "gate", "gate-planer") == demo()
    for project in (demo(), demo("allotment"), demo("empty")):
        found = assess(project)
        for element in ("", *project.element):
            for name in templates_at(project, element):
                with contextlib.suppress(InputError):
                    made_for(found, name, element)


# -- drawings and papers


def test_drawings_are_true_to_scale_in_dxf_and_svg(tmp_path):
    project = demo()
    (plan,), mains, drops, _ = drawings(bill(project))
    assert len(mains) == 1 and len(drops) == 10
    write_dxf([plan, *mains, *drops], tmp_path / "all.dxf")
    document = ezdxf.filemanagement.readfile(tmp_path / "all.dxf")
    assert not document.audit().has_errors and document.header["$INSUNITS"] == 6
    walls: Any = next(
        e
        for e in document.modelspace().query("LWPOLYLINE")
        if e.dxf.layer == "V01_WALLS" and e.closed  # type: ignore[attr-defined]
    )
    xs, ys = zip(*((x, y) for x, y, *_ in walls.get_points()), strict=True)
    assert (max(xs) - min(xs), max(ys) - min(ys)) == pytest.approx((9.4488, 5.1816))
    texts = {e.dxf.text for e in document.modelspace().query("TEXT")}
    assert {"Planer", "Plan", "Saw's cabinet"} <= texts
    # Each view on layers of its own; dimensions are known as such and measure what they say.
    assert {e.dxf.layer.split("_")[0] for e in document.modelspace()} == {
        f"V{number:02}" for number in range(1, 1 + 1 + 10 + 1)
    }
    measured: list[Any] = list(document.modelspace().query("DIMENSION"))
    assert len(measured) == sum(
        isinstance(item, Dimension) for each in (plan, *mains, *drops) for item in each.items
    )
    assert "31'" in {e.dxf.text for e in measured}
    for each in measured:
        said = parse_length(each.dxf.text.removeprefix("⌀ "), "us", "a dimension")
        assert each.get_measurement() == pytest.approx(said, abs=0.011)
    root = ElementTree.fromstring(svg(plan))
    outline = next(e for e in root.iter() if e.tag.endswith("polygon")).get("points").split()
    wide = max(float(p.split(",")[0]) for p in outline) - min(
        float(p.split(",")[0]) for p in outline
    )
    assert wide == pytest.approx(9.4488 * 1000 / plan.scale, abs=0.01)
    assert (
        root.get("width").endswith("mm")
        and root.get("viewBox").split()[2] == root.get("width")[:-2]
    )


@pytest.mark.sweep
@pytest.mark.parametrize("name", SHOPS)
def test_papers_can_be_made_of_every_shop(name):
    project = SHOPS[name]
    made = papers(assess(project), phase_facts(project))
    titles = [section.title for section in made.sections]
    assert (
        titles[0] == project.name
        and "What to buy" in titles
        and titles[-1] == "Before you climb the ladder"
    )
    assert all(section.blocks for section in made.sections)


# -- the command line


def test_the_commands_that_build(tmp_path, capsys):
    loft = ROOT / "grey_current/shop/demos/net-loft.greycurrent.json"

    def told(*arguments: object, status: int = 0) -> str:
        assert cli.main([str(a) for a in arguments]) == status
        captured = capsys.readouterr()
        assert "Traceback" not in captured.err
        return captured.out + captured.err

    parts = json.loads(told("parts", loft, "--json"))
    assert parts["format"] == "grey-current/parts/1"
    assert {"key", "name", "quantity", "unit", "for", "price", "owned"} <= set(parts["parts"][0])
    for piece in parts["straights"]:
        taken = sum(piece["takeoff_m"])
        assert piece["length_m"] - piece["joint_m"] + taken == pytest.approx(
            piece["centre_line_m"], abs=3e-6
        )
    cuts = json.loads(told("cuts", loft, "--json"))
    assert (
        cuts["format"] == "grey-current/cuts/1" and cuts["lengths_used"] == cuts["lower_bound"] == 7
    )
    assert told("parts", loft, "--csv").count("\n") == len(parts["parts"]) + 1
    assert "proven least" in told("cuts", loft) and told("cuts", loft, "--csv").startswith(
        "number,piece"
    )
    (tmp_path / "prices.csv").write_text(
        told("parts", loft, "--price-list").replace(",1450,", ",1,")
    )
    assert (
        json.loads(told("parts", loft, "--prices", tmp_path / "prices.csv", "--json"))["total"]
        < parts["total"] - 1000
    )
    phased = tmp_path / "phased.greycurrent.json"
    assert "so far" in told("phases", loft, "--budget", "2100", "-o", phased)
    phases = json.loads(told("phases", phased, "--json"))["phases"]
    assert len(phases) == 2 and "What" not in told("parts", phased, "--phase", 1, "--csv")
    made = told("make", "coupler", "outer=110mm", "bore=4in", "-o", tmp_path / "ring.svg")
    assert "magnets" in made and ElementTree.parse(tmp_path / "ring.svg")
    saved = told("papers", loft, "-o", tmp_path / "papers", "--svg", "--dxf")
    assert saved.count("Saved") == 14 + 1 + 3 == len(list((tmp_path / "papers").iterdir()))
    for bad, says in {
        ("parts", loft, "--phase", 3): "phases of this shop are 1 to 1",
        ("phases", loft, "-o", phased): "give a budget as well",
        ("phases", loft, "--budget", "0"): "more than 0",
        ("make", "boat"): "choose one of gate",
        ("make", "gate", "bore"): "write NAME=SIZE",
        ("make", "gate", "bore=huge"): "write a length",
        ("make", "gate", "bore=0"): "it should be from 30 mm",
        ("parts", loft, "--prices", tmp_path / "none.csv"): "cannot be read",
        ("papers", loft, "-o", phased): "",
    }.items():
        assert says in told(*bad, status=2)


def test_the_report_names_what_does_not_fit():
    text = build_report.parts_text(bill(tight_loft()))
    assert text.count("No room for pipe in") == 3 and "by made-up prices of the demo" in text


# -- packs


@pytest.mark.parametrize(
    ("key", "pieces", "us", "packs"),
    [
        ("hose/ribbed-hose/102", [3 * FOOT], True, {5 * FOOT: 1}),
        ("hose/ribbed-hose/102", [4 * FOOT, 4 * FOOT, 3 * FOOT], True, {10 * FOOT: 1, 5 * FOOT: 1}),
        ("hose/ribbed-hose/102", [4 * FOOT, 4 * FOOT], True, {10 * FOOT: 1}),
        ("hose/ribbed-hose/102", [30 * FOOT], True, {30 * FOOT: 1}),
        ("hose/ribbed-hose/100", [2.4], False, {2.5: 1}),
        ("screws", [270.0], True, {100.0: 3}),
        ("screws", [470.0], True, {500.0: 1}),
        ("tape", [123.4 * FOOT], True, {150 * FOOT: 1}),
        ("mastic", [0.3], False, {1.0: 1}),
        ("earth-wire", [31.0], False, {25.0: 1, 10.0: 1}),
        ("elbow/pvc/102/90/r1.5", [4.0], True, {}),
        ("hose/ribbed-hose/102", [0.0], True, {}),
    ],
)
def test_what_is_bought_in_lengths_boxes_rolls_and_tins(key, pieces, us, packs):
    assert packed(key, pieces, us=us) == pytest.approx(packs)


@given(st.lists(st.floats(0.05, 5.9), min_size=1, max_size=6), st.booleans())
def test_every_piece_of_hose_comes_out_of_a_length_that_is_bought(pieces, us):
    bought = packed("hose/ribbed-hose/102", pieces, us=us)
    lengths = sorted(bought.elements(), reverse=True)
    # No more than one length a piece, and all of them can be cut from what is bought.
    assert len(lengths) <= len(pieces)

    def cut(left, waiting):
        if not waiting:
            return True
        tried = {round(length, 9) for length in left if length >= waiting[0] - 1e-9}
        return any(
            cut(
                [*(n for i, n in enumerate(left) if i != place), left[place] - waiting[0]],
                waiting[1:],
            )
            for place in (next(i for i, n in enumerate(left) if round(n, 9) == t) for t in tried)
        )

    assert cut(lengths, sorted(pieces, reverse=True))


@pytest.mark.parametrize("name", ["loft", "loft, metric", "loft in pvc", "drawn 3", "drawn 7"])
def test_with_a_reserve_any_piece_can_be_cut_once_more(name):
    none, once = (
        cutting_list(build_edits.with_build(SHOPS[name], reserve=reserve))
        for reserve in ("none", "one cut")
    )
    for before, after in zip(none, once, strict=True):
        pieces = [p.length for bar in after.bars for p in bar.pieces]
        assert Counter(pieces) == Counter(p.length for bar in before.bars for p in bar.pieces)
        # A little longer than the longest, or a whole length where nothing is longer.
        longest = max(bar.length for bar in after.bars)
        assert after.reserve >= min(max(pieces) * 1.02, longest) - 2e-3
        assert max(bar.rest for bar in after.bars) >= after.reserve - 2e-3
        assert before.reserve == 0 and after.bound <= after.bought_length + 1e-6
        assert 0 <= after.bought_length - before.bought_length <= longest + 1e-6
        assert "in reserve" in proof_words(after) or not after.proven


@pytest.mark.parametrize("name", ["loft", "loft, metric", "loft in pvc", "drawn 3", "drawn 7"])
def test_what_a_miscut_costs_is_so(name):
    project = SHOPS[name]
    display = Display(project.settings.units)
    with_more = bill(build_edits.with_build(project, reserve="one length"))
    plain = bill(build_edits.with_build(project, reserve="none"))
    for before, after in zip(plain.cuts, with_more.cuts, strict=True):
        more = one_more(plain.parts.project, before)
        # What is promised of one more length is so when it is bought: of the same plan, one bar.
        assert after.bought == before.bought + Counter({more.length: 1})
        assert after.proven == before.proven
        lengths = [p.length for bar in after.bars for p in bar.pieces]
        assert more.again_then == more.pieces == len(lengths)
        assert more.again_now == sum(length <= spare(before) for length in lengths)
        kerf, longest = project.build.kerf, max(lengths)
        assert more.times * longest + (more.times - 1) * kerf <= more.length + 1e-6
        assert (more.times + 1) * longest + more.times * kerf > more.length
        words = one_more_words(more, project.build.currency, display)
        assert f"Any of the {more.pieces} pieces" in words or more.pieces == 1
        assert ("gives each too" in words) == (more.again_now == more.pieces > 1)
    prices = [one_more(project, pipe).price or 0.0 for pipe in plain.cuts]
    # No tape, screws or hanger comes with a length that nothing is cut from.
    assert with_more.total - plain.total == pytest.approx(sum(prices), abs=0.02)
    for pipe in cutting_list(project):
        words, rests = miscut_words(pipe, display), [bar.rest for bar in pipe.bars]
        again = [p for bar in pipe.bars for p in bar.pieces if p.length <= spare(pipe)]
        count = sum(len(bar.pieces) for bar in pipe.bars)
        assert all(piece.length <= max(rests) for piece in again)
        assert ("whichever" in words) == (len(again) == count)
        assert ("nothing long enough" in words) == (not again)
        found = re.search(r"up to (.*) again", words)
        if found:
            assert parse_length(found[1], project.settings.units) <= max(rests)

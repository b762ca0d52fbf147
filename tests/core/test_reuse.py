"""Another shop's pieces used again: nothing is counted twice, nothing is lost, everything fits."""

from __future__ import annotations

import itertools
import json
from collections import Counter

import pytest

from grey_current import cli
from grey_current.build.reuse import END_CUT, GROUPS, reuse, with_pieces_of
from grey_current.design.parts.keys import kind_of
from grey_current.design.parts.parts_list import PartsList
from grey_current.design.parts.takeoffs import is_hose
from grey_current.files import reuse_report
from grey_current.files.project_file import dump, parse, save
from grey_current.shop.build_edits import with_build, with_offcuts
from grey_current.shop.edits import changed, changed_all
from tests.core.shops import demo, made_up, straight_shop
from tests.core.test_diagnosis import laid

pytestmark = pytest.mark.usefixtures("compiled_kernel")

SHOPS = {
    "loft": demo,
    "garage": lambda: laid("garage"),
    "straight": straight_shop,
    "drawn": lambda: made_up(7),
}
PAIRS = [
    pytest.param(new, old, marks=[] if "straight" in (new, old) else pytest.mark.sweep)
    for new, old in itertools.product(SHOPS, SHOPS)
]


def test_what_is_clean_of_an_old_pipe_by_hand():
    """Both ends of a piece are cut off, more of them where they were cemented; less is left over."""
    old = straight_shop()
    lengths = sorted(p.length for p in PartsList(old).straights if p.is_pipe)
    clean = sorted(pipe.length for pipe in reuse(straight_shop(), old).pipes)
    assert clean == pytest.approx([length - 2 * 0.025 for length in lengths], abs=1e-3)


@pytest.mark.parametrize(("new", "old"), PAIRS)
def test_every_piece_is_used_bought_or_left_over(new, old):
    project, other = SHOPS[new](), SHOPS[old]()
    found = reuse(project, other)
    # Of parts: what there is is used or left over, what is wanted is used or bought.
    wanted = {line.part.key: line.part.quantity for line in found.after.lines}
    there = {item.key: item.had for item in found.project.build.owned}
    for part in found.parts:
        assert part.there == pytest.approx(part.used + part.left_over)
        assert part.used + part.to_buy == pytest.approx(wanted.get(part.key, 0.0))
        assert part.there == pytest.approx(there.get(part.key, 0.0))
    assert {key for key in there if kind_of(key).group in GROUPS} <= {p.key for p in found.parts}
    # Of pipe: each old piece once, shorter than it was, and each new piece cut once.
    old_lengths = sorted(p.length for p in PartsList(other).straights if p.is_pipe)
    assert len(found.pipes) <= len(old_lengths)
    for pipe, longest in zip(found.pipes, reversed(old_lengths), strict=False):
        assert pipe.length <= longest - 2 * END_CUT + 1e-9
        kerf = found.project.build.kerf * max(len(pipe.pieces) - 1, 0)
        assert sum(piece.length for piece in pipe.pieces) + kerf <= pipe.length + 2e-3
        for piece in pipe.pieces:
            assert (piece.material, piece.diameter) == pytest.approx(
                (pipe.material, pipe.diameter)
            ) or (piece.material == pipe.material and abs(piece.diameter - pipe.diameter) < 1e-3)
    cut = Counter(
        piece.id for cuts in found.after.cuts for bar in cuts.bars for piece in bar.pieces
    )
    assert set(cut.values()) <= {1}
    from_old = {piece.id for pipe in found.pipes for piece in pipe.pieces}
    assert from_old <= set(cut)
    assert found.saved >= -1e-6
    # Taken twice it is there once, and a file keeps it.
    assert with_pieces_of(found.project, other).build == found.project.build
    assert parse(dump(found.project), "x") == found.project
    text = reuse_report.reuse_text(found, other.name)
    assert "nan" not in text and text.count("\n") > 4
    json.dumps(reuse_report.reuse_report(found), allow_nan=False)


def test_a_shop_into_itself_buys_only_what_joins():
    """All fittings, gates, hoses and the collector are there; pipe is shorter by its ends."""
    found = reuse(demo(), demo())
    assert all(part.to_buy < 1e-6 and part.left_over < 1e-6 for part in found.parts)
    bought = {line.part.group for line in found.after.lines if line.left > 1e-6}
    assert bought <= {"Pipe", "Joints", "Earthing", "Made in the shop"}
    assert found.after.total < found.before.total / 3
    lines = reuse_report.left_over_lines(found.after)
    unused = sum(not pipe.pieces for pipe in found.pipes)
    assert sum(int(line.split(" × ")[0]) if " × " in line else 1 for line in lines) == unused


def test_a_hose_serves_one_that_is_no_longer():
    """By hand: of 3 m and 1 m the new shop wants 2 m; the 3 m one is cut, the 1 m one is too short."""
    old = demo("allotment")
    new = changed(old, "hose", length=2.0)
    for length, used in ((3.0, 2.0), (2.0, 2.0), (1.0, 0.0)):
        found = reuse(new, changed(old, "hose", length=length))
        (row,) = [part for part in found.parts if part.key.startswith("hose/ribbed-hose")]
        assert row.used == pytest.approx(used) and row.to_buy == pytest.approx(2.0 - used)


def test_what_is_cemented_stays_together():
    steel = demo()
    rigid = [run.id for run in steel.runs if not is_hose(run)]
    plastic = changed_all(steel, rigid, material="pvc")
    assert any(part.key.startswith("cement") for part in PartsList(plastic).parts)
    taken = with_pieces_of(plastic, plastic)
    assert not [
        o for o in taken.build.owned if "/pvc" in o.key and kind_of(o.key).group == "Fittings"
    ]
    assert [
        o for o in with_pieces_of(steel, steel).build.owned if kind_of(o.key).group == "Fittings"
    ]


def test_own_offcuts_come_along_and_are_not_doubled():
    old = with_offcuts(straight_shop(), "spiral-steel", 0.1016, (0.5, 0.5, 0.9))
    mine = with_offcuts(straight_shop(), "spiral-steel", 0.1016, (0.5, 1.1))
    taken = with_pieces_of(mine, old)
    counts = {
        round(o.length, 3): o.count for o in taken.build.offcuts if abs(o.diameter - 0.1016) < 1e-3
    }
    assert counts[0.5] >= 2 and counts[0.9] >= 1 and counts[1.1] == 1
    many = with_build(taken, offcuts=taken.build.offcuts[:1])
    assert with_pieces_of(many, many).build.offcuts


def test_the_command(tmp_path, capsys):
    new, old, out = (tmp_path / f"{n}.greycurrent.json" for n in ("new", "old", "out"))
    save(straight_shop(), new)
    save(demo(), old)
    assert cli.main(["reuse", str(new), str(old), "-o", str(out)]) == 0
    said = capsys.readouterr().out
    assert "used again" in said and "To pay:" in said and out.exists()
    assert cli.main(["reuse", str(new), str(old), "--json"]) == 0
    report = json.loads(capsys.readouterr().out)
    assert report["format"] == "grey-current/reuse/1" and report["saved"] > 0
    assert cli.main(["reuse", str(new), str(tmp_path / "none.json")]) == 2
    assert "none.json" in capsys.readouterr().err

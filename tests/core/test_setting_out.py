"""Papers to set out by: held against the walls, the assembly and the cutting list."""

import itertools
import math

import pytest

from grey_current.build.bill import bill
from grey_current.build.cuts import numbered
from grey_current.build.drawing import Text, text_box
from grey_current.build.papers import papers
from grey_current.build.setting_out import SPREAD, SettingOut, marks_drawing
from grey_current.design.flow.assess import assess
from grey_current.design.parts.takeoffs import is_hose
from grey_current.shop import edits
from grey_current.shop.places import position
from grey_current.units import Display, parse_length
from tests.core.shops import demo, made_up, point, run, shop
from tests.core.shops import machine as small


def turned_wye():
    """A branch drawn at 90° that a wye of 45° and an elbow turn: neither stands where it is drawn."""
    x, y, high = position(shop(), "fan")
    points = (
        point("wye", x + 3.0, y, high, wye_angle=45.0),
        point("top", x + 3.0, y + 2.0, high),
        point("end", x + 6.0, y, high),
    )
    runs = (
        run("main-1", "wye", "fan"),
        run("main-2", "end", "wye"),
        run("branch", "top", "wye", 0.1016),
    )
    return shop((small("saw", x + 4.5, y + 2.5),), points, runs)


SHOPS = {
    "loft": demo,
    "metric loft": lambda: edits.with_settings(demo(), units="metric"),
    "turned wye": turned_wye,
    **{f"wild {seed}": lambda seed=seed: made_up(seed) for seed in (3, 5, 7)},
}


@pytest.fixture(params=SHOPS)
def found(request):
    costs = bill(SHOPS[request.param]())
    return SettingOut(costs.parts, numbered(costs.cuts))


def test_two_distances_from_two_walls_lead_back_to_the_joint(found):
    letters = [mark.letter for mark in found.marks]
    assert len(set(letters)) == len(letters)
    for mark in found.marks:
        assert len(mark.walls) == 2, mark
        # Two lines beside the walls, as one would snap them on the floor, meet at the joint.
        lines = []
        for wall in mark.walls:
            a, b = found.walls[wall.number - 1]
            length = math.dist(a, b)
            nx, ny = -(b[1] - a[1]) / length, (b[0] - a[0]) / length
            side = 1 if (mark.at[0] - a[0]) * nx + (mark.at[1] - a[1]) * ny > 0 else -1
            lines.append((nx, ny, nx * a[0] + ny * a[1] + side * wall.distance))
        (a, b, e), (c, d, f) = lines
        across = a * d - b * c
        assert abs(across) >= math.sin(math.radians(SPREAD)) - 1e-9
        met = ((e * d - b * f) / across, (a * f - e * c) / across)
        assert math.dist(met, mark.at) < 1e-6


def test_every_joint_and_every_fitting_that_turns_has_its_letter_where_it_stands(found):
    project = found.project
    rigid = {end for r in project.runs if not is_hose(r) for end in r.ends if end in project.point}
    assert rigid <= found.letter.keys()
    stands = {stand.parts[0]: stand for mark in found.marks for stand in mark.stands if stand.parts}
    for part in found.parts.assembly.parts:
        if part.kind != "fitting" or not part.key.startswith(("elbow", "wye")):
            continue
        # The centre line of each of its ends passes through the place that is marked.
        at = stands[part.id].at
        for end in part.ends:
            along = sum((p - q) * o for p, q, o in zip(at, end.at, end.out, strict=True))
            foot = [q + along * o for q, o in zip(end.at, end.out, strict=True)]
            assert math.dist(foot, at) < 2e-3, part.id


def test_a_turned_wye_is_marked_where_it_slides_to():
    costs = bill(turned_wye())
    found = SettingOut(costs.parts, numbered(costs.cuts))
    wye, elbow = (
        next(s for m in found.marks for s in m.stands if s.words.startswith(word))
        for word in ("Wye 45°", "Elbow 45°")
    )
    # On the main, and on the branch as drawn: as far along as the branch stands off.
    drawn = position(found.project, "wye")
    assert wye.at[1] == pytest.approx(drawn[1], abs=1e-6) and wye.at[0] < drawn[0] - 0.01
    assert elbow.at[0] == pytest.approx(drawn[0], abs=1e-6)
    assert elbow.at[1] - drawn[1] == pytest.approx(drawn[0] - wye.at[0], abs=1e-6)


def test_the_tables_say_what_the_marks_are(found):
    display = Display(found.project.settings.units)
    rows = list(found.joint_rows())
    stands = [stand for mark in found.marks for stand in mark.stands]
    assert len(rows) == len(stands)
    for row, stand in zip(rows, stands, strict=True):
        assert parse_length(row[3], found.project.settings.units) == pytest.approx(
            stand.at[2], abs=1.6e-3
        )
        assert row[4]
    pipes = [r for r in found.project.runs if not is_hose(r)]
    assert len(list(found.run_rows())) == len(pipes)
    assert all(
        display.diameter(r.diameter) == row[2]
        for r, row in zip(pipes, found.run_rows(), strict=True)
    )


def test_every_part_goes_on_another_once(found):
    """Each numbered piece that lies on a pickup's way is put on once, and the way ends somewhere."""
    orders = list(found.orders())
    text = " – ".join(words for _, words in orders)
    assembly = found.parts.assembly
    on_a_way = {i for ref in found.project.pickup for i in assembly.path(ref)}
    for ident, number in found.numbers.items():
        said = text.count(f"piece {number} (") - text.count(f"into piece {number} (")
        assert said == (ident in on_a_way), (ident, number)
    for _, words in orders[1:]:
        assert "into " in words.rpartition(" – ")[2] or " – " in words


@pytest.mark.parametrize("scale", [30.0, 60.0])
def test_no_letter_lies_on_another(found, scale):
    drawing = marks_drawing(found, scale)
    boxes = []
    for item in drawing.items:
        if isinstance(item, Text):
            xs, ys = zip(*text_box(item, scale), strict=True)
            boxes.append((min(xs), min(ys), max(xs), max(ys), item.text))
    for one, two in itertools.combinations(boxes, 2):
        apart = one[2] <= two[0] or two[2] <= one[0] or one[3] <= two[1] or two[3] <= one[1]
        assert apart, (one[4], two[4])


def test_the_papers_have_the_pages_and_the_cutting_list_the_letters():
    project = demo()
    made = {section.title: section for section in papers(assess(project)).sections}
    assert {"Setting out", "Where every joint comes", "Every pipe", "What goes on what"} <= set(
        made
    )
    cuts = [row for block in made["What to cut"].blocks for row in getattr(block, "rows", ())]
    assert any(row[-1] == "The planer's branch, N to J" for row in cuts), cuts
    bare = papers(assess(demo("empty"))).sections
    assert "Setting out" not in [section.title for section in bare]

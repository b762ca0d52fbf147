"""What a hose's end reaches of the floor: by hand on an empty floor, and held to the shortest way
that is found corner by corner.
"""

import json
import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current import cli
from grey_current.design.space.ground import FloorSpace
from grey_current.design.space.hose_reach import reach
from grey_current.design.space.reach_map import FINEST, NOZZLE, reach_map
from grey_current.files.project_file import dump
from grey_current.shop.hoses import HOSE_SLACK
from grey_current.shop.machines import Machine
from grey_current.shop.places import position
from grey_current.shop.room import Feature
from grey_current.shop.room_edits import rectangle
from tests.core.shops import demo, machine, point, run, shop


def hall(length: float, things=(), high: float = NOZZLE, *more: Machine):
    """A room of 10 x 8 m with a hose that hangs from its middle."""
    made = shop(
        [machine("sweep", 4.6, 4.0), *more],
        [point("drop", 5.0, 4.0, high)],
        [run("hose", "sweep/port", "drop", material="smooth-hose", length=length)],
    )
    room = made.rooms[0].replaced(outline=rectangle(0, 0, 10, 8))
    # What it is taken off is out of the way.
    gone = made.machine["sweep"].replaced(x=9.9, y=7.9, width=0.05, depth=0.05)
    machines = tuple(gone if item.id == "sweep" else item for item in made.machines)
    return made.replaced(rooms=(room,), machines=machines, features=tuple(things), collectors=())


def box(ident: str, left: float, low: float, right: float, high: float, **more) -> Feature:
    kind = more.pop("kind", "rack")
    return Feature(
        id=ident, kind=kind, name=ident, outline=rectangle(left, low, right, high), **more
    )


@pytest.mark.parametrize(("length", "high"), [(2.0, NOZZLE), (3.0, NOZZLE), (3.0, 2.1)])
def test_on_an_empty_floor_it_is_a_circle(length, high):
    project = hall(length * HOSE_SLACK, high=high)
    found = reach_map(project, FloorSpace(project), project.run["hose"])
    radius = math.sqrt(length**2 - (high - NOZZLE) ** 2)
    assert found.reached == pytest.approx(math.pi * radius**2, rel=0.06)
    assert found.floor == pytest.approx(80, rel=0.02) and 0 < found.share < 1
    strips = sum((r - a) * (t - b) for a, b, r, t in found.strips)
    assert strips == pytest.approx(found.reached, rel=0.03)


def test_behind_a_wall_it_reaches_what_is_left_of_it_and_over_what_is_low():
    bare = hall(3.0 * HOSE_SLACK)
    # A rack right across the room but for a gap at one end.
    shut = hall(3.0 * HOSE_SLACK, [box("rack", 5.5, 0.0, 5.8, 8.0, top=1.8)])
    low = hall(3.0 * HOSE_SLACK, [box("rack", 5.5, 0.0, 5.8, 8.0, top=0.1)])
    under = hall(
        3.0 * HOSE_SLACK, [box("top", 5.5, 0.0, 5.8, 8.0, kind="cupboard", bottom=1.4, top=2.1)]
    )
    reached = [reach_map(p, FloorSpace(p), p.run["hose"]).reached for p in (bare, shut, low, under)]
    assert reached[1] < 0.75 * reached[0] and reached[2] == reached[3] == reached[0]
    assert all(
        right <= 5.5 + FINEST
        for _, _, right, _ in reach_map(shut, FloorSpace(shut), shut.run["hose"]).strips
    )
    # One that is too short to come down reaches nothing.
    hung = hall(1.0, high=2.1)
    assert reach_map(hung, FloorSpace(hung), hung.run["hose"]).strips == ()


@settings(max_examples=25, deadline=None)
@given(
    st.lists(
        st.tuples(st.floats(0.5, 8), st.floats(0.5, 6), st.floats(0.3, 1.5), st.floats(0.3, 1.5)),
        max_size=4,
    ),
    st.floats(0.6, 9.4),
    st.floats(0.6, 7.4),
)
def test_it_agrees_with_the_shortest_way_from_corner_to_corner(boxes, x, y):
    """A place is reached by a hose that is a little longer than the way, and not by one that is
    shorter.
    """
    things = [
        box(f"b{n}", a, b, min(a + w, 9.5), min(b + d, 7.5), top=1.5)
        for n, (a, b, w, d) in enumerate(boxes)
    ]
    free = [t for t in things if not inside(t, 5.0, 4.0, 0.4) and not inside(t, x, y, 0.4)]
    there = machine("there", x, y).replaced(width=0.05, depth=0.05)
    project = hall(1.0, free, NOZZLE, there)
    space = FloorSpace(project)
    tall = project.replaced(
        machines=tuple(
            m.replaced(pickups=(m.pickups[0].replaced(dx=0.0, dy=0.0, height=NOZZLE),))
            for m in project.machines
        )
    )
    way = reach(tall, FloorSpace(tall), tall.run["hose"], "there/port")
    if math.isinf(way.length) or way.length < 0.3:
        return
    spot = position(tall, "there/port")
    for share, reached in ((1.06 + 0.3 / way.length, True), (0.95 - 0.35 / way.length, False)):
        if share <= 0:
            continue
        longer = project.run["hose"].replaced(length=way.length * share * HOSE_SLACK)
        found = reach_map(project, space, longer)
        near = [
            s
            for s in found.strips
            if s[0] - 0.2 <= spot[0] <= s[2] + 0.2 and s[1] - 0.2 <= spot[1] <= s[3] + 0.2
        ]
        assert bool(near) == reached, (way.length, share)


def inside(thing: Feature, x: float, y: float, by: float) -> bool:
    xs, ys = zip(*thing.outline, strict=True)
    return min(xs) - by < x < max(xs) + by and min(ys) - by < y < max(ys) + by


def test_the_command_tells_each_hose(capsys, tmp_path):
    path = tmp_path / "loft.json"
    path.write_text(dump(demo()))
    assert cli.main(["reach", str(path)]) == 0
    assert "planer's hose: 152 sq ft of 455 sq ft, 33%" in capsys.readouterr().out
    assert cli.main(["reach", str(path), "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["format"] == "grey-current/reach/1" and len(told["hoses"]) == 10

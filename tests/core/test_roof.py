"""Rooms with a ridge: the ceiling over a place, the air under it, and ducts that keep below."""

import itertools
import math

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current.build.solid.body_shapes import wall_shapes
from grey_current.build.wall_elevations import wall_drawing, walls_of_shop
from grey_current.design.laying.free_ground import _under
from grey_current.errors import InputError, RefusedEdit
from grey_current.files.project_file import dump, parse
from grey_current.shop import edits, roof_edits, room_edits
from grey_current.shop.roofs import (
    ceiling_at,
    ceiling_marks,
    dormers,
    highest,
    lowest,
    lowest_over,
    roof_lines,
    volume,
)
from grey_current.shop.room import Dormer, Room, walls
from grey_current.shop.room_edits import rectangle
from tests.core.shops import shop

HALL = Room(outline=rectangle(0, 0, 6, 4), ceiling=2.0, ridge=3.0, slopes_along="y")


def test_a_gabled_roof_by_hand():
    """2 m at both eaves, 3 m over the middle of 4 m: half way up the slope 2.5 m."""
    for y, height in ((0, 2.0), (1, 2.5), (2, 3.0), (3, 2.5), (4, 2.0)):
        assert ceiling_at(HALL, (5.0, y)) == pytest.approx(height)
    assert volume(HALL) == pytest.approx(6 * 4 * 2.5)
    assert (lowest(HALL), highest(HALL)) == (2.0, 3.0)
    # One eave higher than the other: 2 to 3 over half, 3 to 2.6 over the other half.
    crooked = HALL.replaced(far_ceiling=2.6)
    assert ceiling_at(crooked, (1.0, 3.0)) == pytest.approx(2.8)
    assert volume(crooked) == pytest.approx(6 * (2 * 2.5 + 2 * 2.8))
    with pytest.raises(InputError, match="a ridge is no lower"):
        HALL.replaced(ridge=1.9)


@settings(max_examples=60, deadline=None)
@given(
    st.sampled_from(["x", "y"]),
    st.floats(1.8, 3.0),
    st.none() | st.floats(1.8, 3.0),
    st.none() | st.floats(3.0, 5.0),
    st.integers(0, 3),
    st.floats(0, 4),
    st.floats(0.3, 3),
    st.floats(0, 1),
    st.sampled_from(["low", "high"]),
)
def test_air_and_ground_under_any_roof(axis, low, far, ridge, shape, start, width, share, eave):
    """Against a fine grid: the volume, and the ground over which the ceiling is so high."""
    outlines = (
        rectangle(0, 0, 6, 4),
        ((0, 0), (6, 0), (6, 2), (3, 2), (3, 4), (0, 4)),
        ((0, 0), (5, 1), (6, 4), (1, 3)),
        ((2, 0), (4, 0), (6, 4), (0, 4)),
    )
    room = Room(
        outline=outlines[shape], ceiling=low, far_ceiling=far, ridge=ridge, slopes_along=axis
    )
    # One dormer, between the eaves' height and the highest; half of the tries have none.
    height = low + (highest(room) - low) * share
    dormer = Dormer(start=start, width=width, ceiling=max(height, 1.2), eave=eave)
    room = room.replaced(dormers=(dormer,) if share < 0.5 else ())
    ground = shapely.Polygon(room.outline)
    step = 0.1
    spots = [(x * step + step / 2, y * step + step / 2) for x in range(60) for y in range(40)]
    inside = [spot for spot in spots if ground.buffer(-1e-3).contains(shapely.Point(spot))]
    heights = [ceiling_at(room, spot) for spot in inside]
    assert volume(room) == pytest.approx(sum(heights) * step**2, rel=0.03)
    assert lowest(room) - 1e-9 <= min(heights) and max(heights) <= highest(room) + 1e-9
    top = (lowest(room) + highest(room)) / 2
    found = _under(room, top)
    sides = [part for _, *strip in dormers(room) for bounds in strip for part in bounds]
    wrong = [
        spot
        for spot, height in zip(inside, heights, strict=True)
        if abs(height - top) > 0.1
        and found.contains(shapely.Point(spot)) != (height > top)
        # A spot beside a dormer's cheek may lie on either side of it.
        and all(abs(at - side) > 1e-6 for at in spot for side in sides)
    ]
    assert not wrong
    # Between its marks the ceiling runs straight along any way, and over any ground it is found.
    a, b = inside[0], inside[-1]
    marks, far = ceiling_marks(room, a, b), math.dist(a, b)

    def over(m):
        return ceiling_at(room, (a[0] + (b[0] - a[0]) * m / far, a[1] + (b[1] - a[1]) * m / far))

    for m, n in itertools.pairwise(marks):
        if n - m > 1e-3:
            middle = (over(m + 1e-6) + over(n - 1e-6)) / 2
            assert over((m + n) / 2) == pytest.approx(middle, abs=1e-4)
    assert lowest_over(room, room.outline) == pytest.approx(min(heights), abs=0.1)


def test_a_dormer_by_hand_drawn_kept_and_refused():
    """2 m at both eaves, 3 m over the middle of 4 m; a dormer of 2 m by 2.5 m of height reaches
    1 m in, where the roof is as high, and adds a wedge of 2 x 1 x 0.5 / 2 m3."""
    project = shop(collectors=()).replaced(rooms=(HALL,))
    made = roof_edits.with_dormer(project, "room")
    (dormer,) = made.rooms[0].dormers
    assert (dormer.start, dormer.width, dormer.ceiling) == (2.25, 1.5, 2.5)
    made = roof_edits.with_dormer_changed(made, "room", 0, width=2.0, ceiling=2.5)
    room = made.rooms[0]
    assert volume(room) == pytest.approx(6 * 4 * 2.5 + 0.5)
    for place, height in (((3, 0.1), 2.5), ((2.2, 0.1), 2.05), ((3, 1.5), 2.75), ((3, 3.9), 2.05)):
        assert ceiling_at(room, place) == pytest.approx(height)
    assert roof_lines(room) == [((0, 2), (6, 2)), ((2.25, 0), (2.25, 1), (4.25, 1), (4.25, 0))]
    # The wall's elevation and its mesh in space go up in the dormer, and down again.
    wall = next(w for w in walls_of_shop(made) if {w.left[1], w.right[1]} == {0.0})
    drawn = next(
        item for item in wall_drawing(made, wall, 50).items if getattr(item, "layer", "") == "walls"
    )
    assert sorted({round(z, 2) for _, z in drawn.points}) == [0.0, 2.0, 2.5]
    tops = {round(float(z), 2) for m in wall_shapes(room, ()) for _, _, z in m.points}
    assert {2.0, 2.5, 3.0} <= tops
    # It stays where it is when the wall at its left is pushed, and goes with the room.
    left = next(n for n, (a, b) in enumerate(walls(room.outline)) if a[0] == b[0] == 0)
    pushed = room_edits.with_wall_pushed(made, "room", left, 1.0).rooms[0]
    assert pushed.dormers[0].start == pytest.approx(3.25)
    assert ceiling_at(pushed, (3, 0.1)) == pytest.approx(2.5)
    # Stretched, it keeps its width and its share; pushed past, it ends where the eave ends.
    short = room_edits.with_size(made, "room", 3.0, 4.0).rooms[0].dormers[0]
    assert (short.start, short.width) == pytest.approx((0.625, 2.0))
    right = next(n for n, (a, b) in enumerate(walls(room.outline)) if a[0] == b[0] == 6)
    narrow = room_edits.with_wall_pushed(made, "room", right, -3.0).rooms[0].dormers[0]
    assert (narrow.start, narrow.width) == pytest.approx((1.0, 2.0))
    assert parse(dump(made), "x") == made
    for values, words in (
        ({"ceiling": 3.2}, "no higher than the roof"),
        ({"start": 5.0}, "past the end of the eave"),
        ({"width": 0.1}, "at least 300 mm"),
    ):
        with pytest.raises(InputError, match=words):
            roof_edits.with_dormer_changed(made, "room", 0, **values)
    two = roof_edits.with_dormer(made, "room")
    with pytest.raises(InputError, match="overlap"):
        roof_edits.with_dormer_changed(two, "room", 1, start=2.5)
    other = roof_edits.with_dormer_changed(two, "room", 1, eave="high", start=2.5)
    assert ceiling_at(other.rooms[0], (3.2, 3.9)) == pytest.approx(2.5)
    # A level ceiling has none; sloped again they are there.
    level = roof_edits.with_slope(two, "room", "none")
    assert volume(level.rooms[0]) == pytest.approx(48) and roof_lines(level.rooms[0]) == []
    assert len(dormers(roof_edits.with_slope(level, "room", "y").rooms[0])) == 2
    with pytest.raises(RefusedEdit, match="slopes first"):
        roof_edits.with_dormer(level, "room")
    assert len(roof_edits.without_dormer(two, "room", 0).rooms[0].dormers) == 1
    for _ in range(5):
        two = roof_edits.with_dormer(two, "room")
    for _ in range(3):
        two = roof_edits.without_dormer(two, "room", 0)
    wide = [Dormer(start=0, width=6, ceiling=3, eave=eave) for eave in ("low", "high")]
    with pytest.raises(RefusedEdit, match="narrow the dormers"):
        roof_edits.with_dormer(edits.changed(two, "room", dormers=tuple(wide)), "room")

"""Rooms with a ridge: the ceiling over a place, the air under it, and ducts that keep below."""

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from grey_current.design.collector.fit import fit
from grey_current.design.laying.free_ground import _under
from grey_current.errors import InputError
from grey_current.files.project_file import dump, parse
from grey_current.shop import room_edits
from grey_current.shop.edits import changed
from grey_current.shop.room import Room, ceiling_at, highest, lowest, volume
from grey_current.shop.room_edits import rectangle
from tests.core.shops import demo

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
)
def test_air_and_ground_under_any_roof(axis, low, far, ridge, shape):
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
    ground = shapely.Polygon(room.outline)
    step = 0.05
    spots = [(x * step + step / 2, y * step + step / 2) for x in range(120) for y in range(80)]
    inside = [spot for spot in spots if ground.buffer(-1e-3).contains(shapely.Point(spot))]
    heights = [ceiling_at(room, spot) for spot in inside]
    assert volume(room) == pytest.approx(sum(heights) * step**2, rel=0.02)
    assert lowest(room) - 1e-9 <= min(heights) and max(heights) <= highest(room) + 1e-9
    top = (lowest(room) + highest(room)) / 2
    found = _under(room, top)
    wrong = [
        spot
        for spot, height in zip(inside, heights, strict=True)
        if abs(height - top) > 0.05 and found.contains(shapely.Point(spot)) != (height > top)
    ]
    assert not wrong


def test_a_ridge_makes_room_for_the_collector_and_is_kept():
    project = demo()
    (cyclone,) = project.collectors
    bare = project.rooms[0].replaced(ceiling=1.7, far_ceiling=None)
    low = project.replaced(rooms=(bare,), beams=())
    assert fit(low, low.collectors[0]).spare < 0
    raised = room_edits.with_slope(low, "loft", "ridge y")
    assert raised.rooms[0].ridge == pytest.approx(2.2)
    raised = changed(raised, "loft", ridge=4.5)
    middle = changed(raised, cyclone.id, y=sum(p[1] for p in raised.rooms[0].outline) / 4)
    assert fit(middle, middle.collectors[0]).spare > fit(low, low.collectors[0]).spare
    assert parse(dump(middle), "x") == middle
    level = room_edits.with_slope(middle, "loft", "none")
    assert (level.rooms[0].ridge, level.rooms[0].far_ceiling) == (None, None)
    sloped = room_edits.with_slope(middle, "loft", "x")
    assert sloped.rooms[0].ridge is None and sloped.rooms[0].far_ceiling == 4.5
    with pytest.raises(InputError, match="ridge"):
        changed(raised, "loft", ridge=1.5)

"""Rows of lights: the two schools, clipping to the room, moving clear of joists."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.derive.house import shape
from fjeld.drawing.building import Room
from fjeld.drawing.handles import Handle
from fjeld.propose.rows import RowsRefused, array, least_shift, snapped, stations, wall_distance
from tests.houses import walls_of


def closed(kind="rectangle", seed=0):
    import random

    return shape(Handle("R1"), Room("Room", walls_of(kind, random.Random(seed))), (), 1.0)


def test_half_a_spacing_from_the_walls():
    assert stations(4200, 3, "half-spacing") == pytest.approx([700, 2100, 3500])
    assert stations(3300, 2, "half-spacing") == pytest.approx([825, 2475])


def test_a_fixed_offset_and_even_between():
    assert stations(4200, 3, "offset", 750) == pytest.approx([750, 2100, 3450])
    assert stations(3300, 2, "offset", 750) == pytest.approx([750, 2550])


@pytest.mark.parametrize(("count", "offset"), [(0, 100), (41, 100), (3, 0), (3, 2100), (3, -5)])
def test_what_cannot_be_laid_is_refused(count, offset):
    with pytest.raises(RowsRefused):
        stations(4200, count, "offset", offset)


@given(
    st.sampled_from(["rectangle", "L", "T", "skew"]), st.integers(0, 50), st.integers(1, 5), st.integers(1, 4)
)
def test_every_light_lies_in_the_room_clear_of_its_walls(kind, seed, across, down):
    where = closed(kind, seed)
    try:
        found = array(where, across, down, "half-spacing", 0, 300)
    except RowsRefused:
        return
    assert len(found.points) + found.dropped == across * down
    distances = [wall_distance(where, p) for p in found.points]
    assert min(distances) >= 299
    assert found.worst_wall == pytest.approx(min(distances))


@given(st.integers(0, 50), st.integers(1, 4), st.integers(1, 4))
def test_rows_moved_clear_of_joists_stay_straight(seed, across, down):
    where = closed("rectangle", seed)
    before = array(where, across, down, "half-spacing", 0, 300)
    after = snapped(before, where, 38.1, 101.6, 6.35)
    axis = where.joist_axis
    for (x, y), (u, v) in zip(before.points, after.points, strict=True):
        moved = (u, v)[axis]
        assert min(abs(moved - j) for j in where.joists) >= 38.1 / 2 + 101.6 / 2 + 6.35 - 0.5
        assert (x, y)[1 - axis] == (u, v)[1 - axis], "only across the joists"
    rows = {round(p[axis], 3) for p in before.points}
    assert len({round(p[axis], 3) for p in after.points}) <= len(rows)


@given(st.floats(0, 2000), st.floats(40, 180))
def test_the_shift_is_the_least_there_is(at, needed):
    joists = (200.0, 600.0, 1000.0, 1400.0, 1800.0)
    shift = least_shift(at, joists, needed)
    assert all(abs(at + shift - j) >= needed - 0.51 for j in joists)
    tries = [at + k * 0.5 for k in range(-900, 900)]
    best = min(abs(t - at) for t in tries if all(abs(t - j) >= needed for j in joists))
    assert abs(shift) <= best + 0.51


def test_touching_passes_and_no_bay_is_told():
    assert least_shift(400, (300.0, 500.0), 100) == 0
    with pytest.raises(RowsRefused, match="no bay wide enough"):
        least_shift(2000, tuple(100.0 * n for n in range(40)), 80)

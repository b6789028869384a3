"""Plane figures, each against a library or a construction of its own."""

import math

import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st

from fjeld import geometry
from fjeld.quantities import INCH

coordinate = st.integers(0, 4000)
points = st.tuples(coordinate, coordinate)


def test_misclosure_of_a_boot_room_is_spread_square():
    legs = [(90, 148 * INCH), (180, 120 * INCH), (270, 147 * INCH), (0, 120 * INCH)]
    walked = geometry.walk(legs)
    assert math.dist(walked[0], walked[-1]) == pytest.approx(1 * INCH)
    corners = geometry.closed_corners(legs)
    assert corners[1][0] / INCH == pytest.approx(147.498, abs=5e-4)
    assert (corners[2][0] - corners[3][0]) / INCH == pytest.approx(147.498, abs=5e-4)
    assert corners[1][0] == pytest.approx(corners[2][0]), "corners stay square"
    assert corners[0][1] == pytest.approx(corners[1][1])


def test_a_skew_room_takes_the_compass_rule():
    legs = [(90, 3000), (135, 1414), (180, 2000), (270, 4010), (0, 3000)]
    corners = geometry.closed_corners(legs)
    walked = geometry.walk(legs)
    gap = (walked[-1][0], walked[-1][1])
    around = sum(length for _, length in legs)
    gone = 0.0
    for n, (_, length) in enumerate(legs[:-1], 1):
        gone += length
        assert corners[n][0] == pytest.approx(walked[n][0] - gap[0] * gone / around)
        assert corners[n][1] == pytest.approx(walked[n][1] - gap[1] * gone / around)


@given(st.lists(st.integers(100, 5000), min_size=2, max_size=2), st.integers(-20, 20))
def test_a_spread_rectangle_keeps_right_angles(sides, error):
    w, d = sides
    corners = geometry.closed_corners([(90, w), (180, d), (270, w + error), (0, d)])
    for a, b, c in zip(corners, corners[1:] + corners[:1], corners[2:] + corners[:2], strict=True):
        dot = (b[0] - a[0]) * (c[0] - b[0]) + (b[1] - a[1]) * (c[1] - b[1])
        assert abs(dot) < 1e-6


@given(st.lists(points, min_size=3, max_size=7, unique=True), points)
def test_inside_agrees_with_shapely(polygon, point):
    figure = shapely.Polygon(polygon)
    assume(figure.is_valid and figure.area > 1)
    assume(figure.exterior.distance(shapely.Point(point)) > 1e-3)
    assert geometry.contains(polygon, point) == figure.contains(shapely.Point(point))
    assert abs(geometry.area(polygon)) == pytest.approx(figure.area)


@given(st.lists(points, min_size=4, max_size=7, unique=True))
def test_a_figure_that_crosses_itself_is_found(polygon):
    figure = shapely.Polygon(polygon)
    assert (geometry.crossing_sides(polygon) is None) == figure.is_valid


@given(points, points, points)
def test_distance_to_a_segment_agrees_with_shapely(p, a, b):
    line = shapely.LineString([a, b]) if a != b else shapely.Point(a)
    assert geometry.to_segment(p, a, b) == pytest.approx(shapely.Point(p).distance(line), abs=1e-6)


@given(st.lists(points, min_size=3, max_size=7, unique=True), st.integers(1, 3999))
def test_spans_agree_with_shapely(polygon, at):
    figure = shapely.Polygon(polygon)
    at = at + 0.37
    assume(figure.is_valid and figure.area > 1)
    cut = figure.intersection(shapely.LineString([(-10, at), (5000, at)]))
    assert sum(b - a for a, b in geometry.spans(polygon, 1, at)) == pytest.approx(cut.length, abs=1e-6)


def test_inset_moves_each_side_in():
    square = [(0, 0), (1000, 0), (1000, 800), (0, 800)]
    assert [(round(x), round(y)) for x, y in geometry.inset(square, 100)] == [
        (100, 100),
        (900, 100),
        (900, 700),
        (100, 700),
    ]


@pytest.mark.parametrize(
    "polygon",
    [
        [(0, 0), (4000, 0), (4000, 3000), (0, 3000)],
        [(0, 0), (4000, 0), (4000, 1000), (1000, 1000), (1000, 4000), (0, 4000)],
        [(0, 0), (4000, 0), (4000, 3000), (3000, 3000), (3000, 1000), (1000, 1000), (1000, 3000), (0, 3000)],
    ],
)
def test_the_middle_lies_inside(polygon):
    assert shapely.Polygon(polygon).contains(shapely.Point(geometry.middle(polygon)))


def test_the_middle_of_a_figure_without_area_is_the_mean():
    assert geometry.middle([(0, 0), (10, 0)]) == (5, 0)
    assert geometry.middle([]) == (0, 0)


@pytest.mark.parametrize(
    ("bearing", "step"), [(0, (0, -5)), (90, (5, 0)), (180, (0, 5)), (270, (-5, 0)), (450, (5, 0))]
)
def test_steps_along_the_compass_are_exact(bearing, step):
    assert geometry.step(bearing, 5) == step

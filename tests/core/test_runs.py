"""Lanes, routes and what they ask: lengths in space, holes, plates, staples, cut lengths."""

import itertools
import math
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.derive.plan import derive
from fjeld.derive.routes import (
    cut_length,
    point_along,
    staple_positions,
    supports_needed,
)
from fjeld.judge.wood import beside, steel
from fjeld.quantities import FOOT, INCH
from tests.houses import one_room


@pytest.mark.parametrize(
    ("inches", "ends", "count"),
    [
        (120, "box-hole", 2),
        (121, "box-hole", 3),
        (10, "box-hole", 1),
        (24, "box-box", 1),
        (24.1, "box-box", 2),
        (78, "box-box", 2),
        (78.1, "box-box", 3),
        (54, "hole-hole", 0),
        (55, "hole-hole", 1),
        (109, "hole-hole", 2),
    ],
)
def test_staples_on_a_stretch(inches, ends, count):
    assert supports_needed(inches * INCH, 12 * INCH, 12 * INCH, 54 * INCH, ends) == count


def test_staples_at_a_foot_and_at_five_and_a_half():
    found = staple_positions(120 * INCH, 12 * INCH, 12 * INCH, 54 * INCH, "box-hole")
    assert [round(s / INCH) for s in found] == [12, 66]


@given(
    st.floats(1, 9000),
    st.floats(100, 400),
    st.floats(100, 400),
    st.floats(500, 1500),
    st.sampled_from(["box-box", "box-hole", "hole-hole"]),
)
def test_no_gap_between_staples_is_over_the_interval(length, first, second, interval, ends):
    found = staple_positions(length, first, second, interval, ends)
    assert found == sorted(found)
    gaps = [b - a for a, b in itertools.pairwise(found)]
    assert all(g <= interval + 1 for g in gaps)
    if found and ends.startswith("box"):
        assert found[0] <= first + 1
    last = length - (found[-1] if found else 0.0)
    limit = {"box-box": second, "box-hole": interval, "hole-hole": interval}[ends]
    assert last <= limit + 1 or (ends == "box-box" and length <= first + second + 1)


def test_an_unknown_kind_of_stretch_is_refused():
    with pytest.raises(ValueError, match="box-box"):
        supports_needed(100, 1, 1, 1, "box-wall")


def test_cut_length_is_written_out(na):
    found = cut_length(20 * FOOT, 1, na)
    assert [round(line.amount / INCH, 3) for line in found.lines] == [240, 12, 10, 48]
    assert found.total / INCH == pytest.approx(312), "rounded up to the next six inches"
    assert cut_length(20 * FOOT, 0, na).total / INCH == pytest.approx(276)


def test_hole_edges_and_plates(na):
    assert beside(3.5 * INCH, 0.75 * INCH)[0] / INCH == pytest.approx(1.375)
    for depth, plates in ((3.5, 0), (1.5, 2), (3.25, 0), (3.2, 2)):
        assert steel("stud", depth * INCH, 0.75 * INCH, na) == plates, "exactly an inch and a quarter passes"
    assert steel("plate", 3.5 * INCH, 0.75 * INCH, na, offset=0.2 * INCH) == 1, "off the middle, one face"


@given(st.integers(0, 400))
def test_a_route_is_a_way_through_space_from_box_to_box(seed):
    plan = derive(one_room(seed))
    for cable in plan.cables.values():
        assert cable.route is not None
        start, end = (plan.placed[h].position for h in (cable.cable.a, cable.cable.b))
        legs = cable.route.legs
        if not legs:
            assert math.dist(start, end) < 1e-3
            continue
        assert math.dist(legs[0].start, start) < 1
        assert math.dist(legs[-1].end, end) < 1
        for a, b in itertools.pairwise(legs):
            assert math.dist(a.end, b.start) < 1
        assert cable.route.length >= math.dist(start, end) - 1
        assert cable.length >= cable.route.length
        for staple in cable.staples:
            assert min(_off(staple.position, leg.start, leg.end) for leg in legs) < 1


def _off(p, a, b):
    length = math.dist(a, b) or 1.0
    t = max(0.0, min(1.0, sum((pi - ai) * (bi - ai) for pi, ai, bi in zip(p, a, b, strict=True)) / length**2))
    return math.dist(p, [ai + t * (bi - ai) for ai, bi in zip(a, b, strict=True)])


@given(st.integers(0, 200))
def test_the_shortest_way_is_the_shortest(seed):
    """Dijkstra over the sparse matrix against Bellman and Ford over the list of lanes."""
    plan = derive(one_room(seed))
    ((_, router),) = plan.ways.routers.items()
    boxes = sorted(router.lanes.boxes)
    die = random.Random(seed)
    a, b = die.sample(boxes, 2)
    far = [math.inf] * len(router.lanes.nodes)
    far[router.lanes.boxes[a]] = 0.0
    for _ in far:
        changed = False
        for e in router.lanes.edges:
            for u, v in ((e.a, e.b), (e.b, e.a)):
                if far[u] + max(e.cost(FOOT), 1e-3) < far[v] - 1e-9:
                    far[v], changed = far[u] + max(e.cost(FOOT), 1e-3), True
        if not changed:
            break
    assert router.cost(a, b) == pytest.approx(far[router.lanes.boxes[b]])
    assert router.route(a, b).length + router.route(a, b).weight * FOOT == pytest.approx(
        router.cost(a, b), abs=0.1
    )


@given(st.integers(0, 200))
def test_every_member_bored_is_counted_and_nothing_else(seed):
    """Holes along a bored wall leg are the studs that stand strictly between its ends."""
    plan = derive(one_room(seed))
    (where,) = plan.rooms.values()
    for cable in plan.cables.values():
        for leg in cable.route.legs:
            if leg.medium != "bored wall":
                continue
            wall = min(
                where.walls,
                key=lambda w: (
                    _off((*leg.start[:2], 0), (*w.start, 0), (*w.end, 0))
                    + _off((*leg.end[:2], 0), (*w.start, 0), (*w.end, 0))
                ),
            )
            spots = sorted(math.dist(wall.start, p[:2]) for p in (leg.start, leg.end))
            between = [s for s in wall.studs if spots[0] + 0.2 < s < spots[1] - 0.2]
            assert abs(len(leg.bores) - len(between)) <= sum(
                abs(s - e) <= 0.2 for s in wall.studs for e in spots
            )


def test_a_point_along_a_route(boot_plan):
    route = next(c.route for c in boot_plan.cables.values() if len(c.route.legs) > 2)
    assert point_along(route, 0) == pytest.approx(route.legs[0].start)
    assert math.dist(point_along(route, route.length + 5), route.legs[-1].end) < 1e-6


def test_cables_through_one_member_share_a_hole(boot_plan):
    through = sum(len(h.cables) for h in boot_plan.holes)
    each = sum(c.route.holes + c.route.fire_stops for c in boot_plan.cables.values())
    assert through == each
    assert len(boot_plan.holes) < each

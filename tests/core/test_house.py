"""Rooms as they stand: what closes, studs around openings, joists, crossings."""

import pytest

from fjeld.derive.house import crossings, shape, stud_centers
from fjeld.drawing.building import Joists, Opening, Room, Side, Studs
from fjeld.drawing.handles import Handle
from fjeld.quantities import INCH, Length


def room(*walls, **fields):
    return Room("Room", tuple(Side(b, Length(mm)) for b, mm in walls), **fields)


def shaped(found, openings=(), limit=1.0):
    return shape(Handle("R1"), found, openings, limit)


SQUARE = ((90, 4000), (180, 3000), (270, 4000), (0, 3000))


def test_a_room_that_closes_has_an_area():
    where = shaped(room(*SQUARE))
    assert where.closed
    assert where.area == pytest.approx(12.0)
    assert where.misclosure == pytest.approx(0)


def test_beyond_the_limit_nothing_is_bent():
    # 200 mm in 14 m is more than one per cent.
    where = shaped(room((90, 4000), (180, 3000), (270, 3800), (0, 3000)))
    assert not where.closed
    assert where.walls[1].length == pytest.approx(3000)
    assert where.walls[2].length == pytest.approx(3800), "walls stay as walked"
    assert where.share == pytest.approx(100 * 200 / 13800)


@pytest.mark.parametrize(("short", "closes"), [(138.0, True), (14000 / 101, True), (139.2, False)])
def test_the_limit_is_one_per_cent_of_the_perimeter(short, closes):
    assert shaped(room((90, 4000), (180, 3000), (270, 4000 - short), (0, 3000))).closed is closes


def test_a_room_that_crosses_itself_is_told_and_not_closed():
    where = shaped(room((90, 4000), (180, 3000), (270, 2000), (0, 4000), (270, 2000), (180, 1000)))
    assert not where.closed
    assert where.crossing is not None


def test_a_room_of_one_wall_or_none_stands_open():
    assert not shaped(room()).closed
    assert not shaped(room((90, 4000))).closed
    assert len(shaped(room((90, 4000))).walls) == 1


def test_studs_stand_at_both_ends_and_on_center_between():
    studs = Studs(spacing=Length(400), first=Length(400), thick=Length(38))
    assert stud_centers(2000, studs, []) == (19, 400, 800, 1200, 1600, 1981)


def test_an_opening_gets_jack_and_king_on_each_side_and_no_common_stud():
    studs = Studs(spacing=Length(400), first=Length(400), thick=Length(40))
    door = Opening("door", Handle("R1"), 1, Length(700), Length(800))
    found = stud_centers(3000, studs, [door])
    assert {640, 680, 1520, 1560} <= set(found)
    assert not [s for s in found if 680 < s < 1520]


def test_joists_are_counted_from_the_west_or_north_wall():
    where = shaped(room(*SQUARE, joists=Joists("N-S", Length(400), Length(200))))
    assert where.joist_axis == 0
    assert where.joists[:3] == pytest.approx((200, 600, 1000))
    assert where.joists[-1] < 4000


def test_five_studs_lie_strictly_between_two_and_nine_feet():
    studs = tuple(16 * INCH * n for n in range(20))
    assert [round(s / INCH) for s in crossings(studs, 24 * INCH, 108 * INCH)] == [32, 48, 64, 80, 96]
    assert len(crossings(studs, 32 * INCH, 96 * INCH)) == 3, "a stud at an end is not crossed"
    assert crossings(studs, 108 * INCH, 24 * INCH) == crossings(studs, 24 * INCH, 108 * INCH)[::-1]


def test_walls_walked_the_other_way_round_face_inward_too():
    where = shaped(room((180, 3000), (90, 4000), (0, 3000), (270, 4000)))
    for wall in where.walls:
        x, y = wall.at(wall.length / 2)
        assert 0 < x + wall.normal[0] < 4000
        assert 0 < y + wall.normal[1] < 3000


@pytest.mark.parametrize("nothing", [0.0, 1e-9])
def test_no_rule_breaks_on_a_wall_of_no_length(nothing):
    """A side that nobody has measured may stand for nothing: with a panel, a body and a door at it,
    everything is still looked at.
    """
    from fjeld.check import check
    from fjeld.derive.plan import derive
    from fjeld.drawing.building import Body, Opening, Panel
    from fjeld.drawing.model import Circuit, Drawing, House, Point

    length = Length(nothing, "?")
    sides = tuple(
        Side(float(b), side)
        for b, side in ((90, Length(3000.0)), (180, Length(2500.0)), (270, Length(3000.0)), (0, length))
    )
    for wall in range(1, 5):
        drawing = Drawing(
            {
                "house": House(),
                "R1": Room("Room", sides, "bed"),
                "P1": Panel("R1", wall, Length(300.0)),
                "Q1": Circuit("All"),
                "B1": Body("counter", "R1", Length(600.0), Length(600.0), wall, Length(0.0)),
                "B2": Body("duct", "R1", Length(600.0), Length(200.0), x=Length(0.0), y=Length(0.0)),
                "D1": Opening("door", "R1", wall, Length(0.0), Length(700.0)),
                "O1": Point("outlet", "R1", wall, Length(0.0), circuit="Q1"),
            }
        )
        plan = derive(drawing)
        assert all(abs(part) <= 1.0 for part in plan.rooms["R1"].walls[3].run)
        assert check(plan) is not None

"""What is measured along a way, against a wall put up in coordinates: holes, bays, roofs, wood."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fjeld.concealed.along import STOPS, asks, details
from fjeld.concealed.ground import ground_of
from fjeld.concealed.path import by_measure, path
from fjeld.concealed.routes import routes
from fjeld.drawing.errand import Errand, Plate, Spot, Way, part_of, with_part
from fjeld.drawing.handles import Handle
from fjeld.drawing.old_box import OldBox
from fjeld.judge.ways import EaveAsked, eave
from fjeld.practice import load, rules
from fjeld.practice.finished.ways import way_data
from fjeld.quantities import INCH, Length, parse_length
from fjeld.work.book import book

NA, GB = load("na"), load("gb")
BOX = OldBox(Handle("E1"), place="outlet", height=parse_length('12"'))
mm = st.floats(1, 3000).map(lambda v: round(v, 2))


def inches(text):
    return parse_length(f'{text}"')


def taken(way, practice=NA, spot=None, attic=True, below=False, old=BOX):
    """The best way by what is told, taken in hand; from an outlet to an outlet over the attic."""
    spot = spot or Spot("wall", height=inches(12), thick=inches("1/2"), cavity=inches("3 1/2"))
    errand = Errand("outlet", attic=attic, below=below, spot=spot, way=way)
    found = path(errand, old, practice)
    # Hidden ways are known to be there: what is measured of them is asked of none that stays in sight.
    key = next(r.key for r in found.routes if any(leg.way.measures for leg in r.made))
    return path(replace(errand, way=replace(way, chosen=key)), old, practice)


OVER = Way("elsewhere", across=inches(168), ceiling=inches("96 5/8"), joists=9, insulated=False)


def detail(found, measure, end=1):
    return next(d for d in found.details if d.measure == measure and d.end == end)


@given(room=mm, back=st.floats(0, 100), thick=st.floats(3, 40), deep=st.floats(60, 200))
def test_the_middle_of_the_plate_is_where_coordinates_put_it(room, back, thick, deep):
    """The wall's face stands at 0, its wood behind its board; the reference in the room, and farther back
    above.
    """
    below_ceiling, above = -room, -room - back
    middle = thick + deep / 2
    plate = Plate("surface", room=Length(room), back=Length(back))
    spot = Spot("wall", height=inches(12), thick=Length(thick), cavity=Length(deep))
    told = detail(taken(replace(OVER, there=plate), spot=spot), "transfer")
    assert told.answer.figure("from the reference") == pytest.approx(middle - above)
    assert middle - above > middle - below_ceiling - 1e-9
    assert not told.usual


def test_worked_marks_of_a_vent_and_of_a_pilot():
    vent = taken(replace(OVER, there=Plate("middle", room=inches("41 1/4"))))
    assert detail(vent, "transfer").answer.figures[0].value == pytest.approx(43.5 * INCH)
    pilot = taken(replace(OVER, here=Plate("pilot", pilot=inches("3/8"))))
    found = detail(pilot, "transfer", 0)
    assert found.answer.figures[0].value == pytest.approx(2.625 * INCH)
    assert found.usual == ('3 1/2" of wood', '1/2" of board')
    assert '2 5/8" from the pilot' in found.marks[0]


@pytest.mark.parametrize(
    ("miss", "word"),
    [("1/8", "no steel plate"), ("3/16", "a steel plate"), ("1 1/2", "comes out of the plate")],
)
def test_a_hole_off_its_mark_asks_for_steel(miss, word):
    plate = Plate("middle", room=inches("41 1/4"), miss=inches(miss))
    assert word in detail(taken(replace(OVER, there=plate)), "transfer").marks[-1]


@given(off=st.floats(-30, 30).filter(lambda v: abs(v) > 0.5))
def test_what_one_hole_was_off_by_mends_the_next(off):
    """A tape that reads wrong by as much both times: the mark as mended comes out in the middle."""
    true = inches("41 1/4").mm + inches("1/2").mm + inches("1 3/4").mm
    plate = Plate("middle", room=Length(inches("41 1/4").mm + off))
    first = replace(plate, miss=Length(abs(off)), missed="too far" if off > 0 else "too near")
    told = detail(taken(replace(OVER, here=first, there=plate)), "transfer")
    mended = next(m for m in told.marks if "The other hole came out" in m).partition(": mark ")[2]
    assert parse_length(mended).mm == pytest.approx(true, abs=INCH / 16)
    other = replace(plate, met="pilot", pilot=inches("3/8"))
    assert len(detail(taken(replace(OVER, here=first, there=other)), "transfer").marks) == 1


@given(block=st.floats(0, 2454), below=st.booleans())
def test_a_chain_stops_at_what_stands_between_the_opening_and_the_box(block, below):
    """Something stands so high above the floor; a chain from above or a rod from below goes as far as that,
    or to the box.
    """
    ceiling, height = OVER.ceiling.mm, BOX.height.mm
    practice = load("na")
    top, foot = ceiling + practice[rules.TOP_PLATES], -practice[rules.FLOOR_PLATE]
    went = min(top - block, top - height) if not below else min(block - foot, height - foot)
    between = block < height - 13 if below else block > height + 13
    if abs(block - height) <= 13:
        return
    plate = Plate(went=Length(went))
    found = taken(replace(OVER, here=plate), attic=not below, below=below)
    told = detail(found, "sounding", 0)
    assert (told.answer.said[0].tone == "passes") == (not between)
    if between:
        assert told.answer.figure(STOPS) == pytest.approx(block, abs=0.1)
        shut = taken(replace(OVER, here=replace(plate, stops="all across")), attic=not below, below=below)
        assert all(r.blocked for r in shut.routes if {"P1", "P2"} & {*r.key})
    else:
        leg = next(leg for leg in found.chosen.made if leg.way.id in ("P1", "P2"))
        assert leg.measured == {"block": "clear"}
        assert "block" not in leg.looks


@given(heel=st.floats(0, 600), rise=st.floats(0, 24), deep=st.sampled_from([89.0, 140.0, 184.0]))
def test_the_drill_stands_where_the_roof_leaves_it_room(heel, rise, deep):
    """The roof as a line over the plate: the best of every hole that may be bored, sixteenth by sixteenth."""
    practice = load("na")
    inner = deep - practice[rules.PLATE_HOLE]
    holes = [
        x * INCH / 16
        for x in range(int(16 * deep / INCH) + 1)
        if deep / 2 - 0.1 <= x * INCH / 16 <= max(inner, deep / 2)
    ]
    best = max((heel + x * rise / 12 for x in holes), default=0.0)
    answer = eave(
        EaveAsked(Length(heel), rise, Length(deep), Length(practice[rules.ATTIC_DRILL][0])), practice
    )
    assert answer.figure("headroom") == pytest.approx(best, abs=4)
    way = replace(OVER, insulated=True, there=Plate(heel=Length(heel), rise=rise, deep=Length(deep)))
    found = taken(way)
    told, head = detail(found, "eave"), answer.figure("headroom")
    tone = (
        "passes"
        if head >= practice[rules.ATTIC_DRILL][0] - 0.05
        else "needs"
        if head >= practice[rules.ATTIC_DRILL][1] - 0.05
        else "fails"
    )
    assert told.answer.said[0].tone == tone
    assert bool(found.chosen.blocked) == (tone == "fails")


def test_a_deeper_plate_leaves_more_room_over_its_hole():
    head = eave(EaveAsked(inches(4), 6.0, inches("5 1/2"), inches(18)), load("na"))
    assert head.figure("headroom") == pytest.approx(5.875 * INCH)


@pytest.mark.parametrize(
    ("practice", "wood", "bearing", "tone", "word"),
    [
        ("na", "3 1/2", True, "needs", '7/8" deep at most'),
        ("na", "2 1/2", True, "fails", "too much here"),
        ("na", "3 1/2", False, "needs", '1 3/8" deep at most'),
    ],
)
def test_notches_at_the_foot_of_a_wall(practice, wood, bearing, tone, word):
    way = Way("same wall", studs=5, across=inches(80), base=True, wood=inches(wood), bearing=bearing)
    spot = Spot("wall", height=inches(15))
    errand = Errand("outlet", spot=spot, way=replace(way, chosen=("P6",)))
    found = path(errand, BOX, load(practice))
    told = next(d for d in found.details if d.measure == "wood")
    assert told.answer.said[0].tone == tone
    assert word in told.answer.said[0].words
    assert told.answer.figure("members") == 5


@pytest.mark.parametrize(
    ("practice", "deep", "tone"),
    [("na", "9 1/4", "passes"), ("na", "2", "fails"), ("gb", "220 mm", "passes"), ("gb", "60 mm", "fails")],
)
def test_joists_crossed_from_below_are_bored_as_their_rule_lets_them(practice, deep, tone):
    unit = "mm" if practice == "gb" else "ft-in"
    way = Way("across the joists", joists=4, across=inches(60), wood=parse_length(deep, unit), chosen=("P9",))
    old = OldBox(Handle("E1"), place="ceiling")
    found = path(Errand("light", spot=Spot("ceiling"), way=way), old, load(practice))
    told = next(d for d in found.details if d.measure == "wood")
    assert told.answer.said[0].tone == tone
    strip = next(d for d in found.details if d.measure == "patch")
    assert strip.answer.figure("piece wide") == pytest.approx(inches(60).mm - INCH / 8)


def test_a_ring_of_holes_for_the_box_in_hand():
    spot = Spot("wall", covering="veneer brick or block", box="flush-1", height=Length(450))
    way = Way("same bay", across=Length(500), leaf=Length(100))
    told = next(d for d in taken(way, GB, spot, attic=False).details if d.measure == "masonry")
    # Four sides of 75 mm, a hole every 15.
    assert told.answer.figure("holes") == 20
    assert told.answer.said[0].tone == "fails"
    assert "33 mm" in told.answer.said[0].words


@pytest.mark.parametrize("practice", ["na", "gb"])
@pytest.mark.parametrize(
    "lies", ["elsewhere", "same wall", "across the joists", "another storey", "same bay"]
)
def test_every_measure_of_a_way_can_be_told_and_only_of_the_way_that_was_taken(practice, lies):
    """Answered one after another whatever comes, the questions end, and each way has every measure that it
    names.
    """
    metric = practice == "gb"
    errand = Errand(
        "outlet",
        attic=True,
        below=True,
        spot=Spot("wall", covering="veneer brick or block"),
        way=Way(lies, insulated=True),
    )
    open_ = path(errand, BOX, load(practice))
    assert not [a for a in open_.asks if "." in a.id]
    answers = {"length": Length(30.0 if metric else INCH), "rise": 6.0, "yes": True}
    for route in open_.routes[:8]:
        way = replace(errand.way, chosen=route.key)
        for _ in range(60):
            mine = asks(route, ground_of(replace(errand, way=way), BOX, load(practice)))
            blank = next((a for a in mine if part_of(way, a.id) in (None, "")), None)
            if blank is None:
                break
            way = with_part(
                way, blank.id, next(iter(blank.options)) if blank.kind == "choice" else answers[blank.kind]
            )
        assert blank is None
        found = details(route, ground_of(replace(errand, way=way), BOX, load(practice)), load(practice))
        assert [d.measure for d in found] == [m for leg in route.made for m in leg.way.measures]
        assert {d.measure for d in found if d.answer is None} <= {"sounding", "patch"}


def test_each_measure_belongs_to_a_way_and_to_the_bench():
    from fjeld.bench.questions import QUESTIONS

    used = {m for way in way_data().way for m in way.measures}
    assert used <= {*QUESTIONS}
    assert {m for ask in way_data().measure for m in ask.of} <= used


def test_the_book_says_what_was_worked_out_and_stops_at_a_way_that_is_blocked():
    way = replace(OVER, here=Plate("pilot", pilot=inches("3/8")), chosen=("P1", "P8", "P1"))
    errand = Errand("outlet", attic=True, spot=Spot("wall", height=inches(12)), way=way)
    found = path(errand, BOX, NA)
    steps = {t.id: t for t in book(errand, load("na"), found.chosen, (), found.details)}
    assert '2 5/8" from the pilot' in steps["way 1"].marks[0]
    assert not steps["way 2"].marks
    assert not steps["way 1"].blocked_by
    shut = replace(way, here=Plate(went=inches(24), stops="all across"))
    again = path(replace(errand, way=shut), BOX, NA)
    assert again.chosen.blocked == "a block across the bay"
    tasks = {t.id: t for t in book(replace(errand, way=shut), load("na"), again.chosen, (), again.details)}
    assert [b.why for b in tasks["way 1"].blocked_by] == ["a block across the bay"]
    assert not tasks["way"].blocked_by


def test_a_measure_of_both_ends_tells_what_a_look_would():
    clear = Plate(went=Length(3000))
    way = replace(OVER, here=clear, there=clear, chosen=("P1", "P8", "P1"))
    found = path(Errand("outlet", attic=True, spot=Spot("wall", height=inches(12)), way=way), BOX, NA)
    block = next(a for a in found.asks if a.id == "block")
    assert by_measure(block, found.chosen) == "clear"
    assert "block" not in found.open
    half = path(
        Errand("outlet", attic=True, spot=Spot("wall", height=inches(12)), way=replace(way, there=Plate())),
        BOX,
        NA,
    )
    assert by_measure(block, half.chosen) is None
    assert "block" in half.open
    assert routes(half.ground)


def test_thicker_plates_make_the_bay_deeper_and_the_cable_longer():
    usual = taken(replace(OVER, here=Plate(went=inches(87))))
    thick = taken(replace(OVER, here=Plate(went=inches(87)), plates=inches("4 1/2")))
    more = inches("4 1/2").mm - load("na")[rules.TOP_PLATES]
    assert "plates" in {a.id for a in usual.asks}
    assert detail(thick, "sounding", 0).answer.figures[-1].value - detail(
        usual, "sounding", 0
    ).answer.figures[-1].value == pytest.approx(more)
    assert thick.pull.figure("way") - usual.pull.figure("way") == pytest.approx(2 * more)
    below = taken(OVER, attic=False, below=True)
    assert "plates" not in {a.id for a in below.asks}

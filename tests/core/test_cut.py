"""A place before it is cut: its span against every placement tried, its stops, and answers in any order."""

import random
from typing import get_args

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from fjeld.concealed.cut import place
from fjeld.drawing.errand import Errand, Spot, length_of
from fjeld.judge.spot import FoundBy, known_to
from fjeld.practice import load, rules
from fjeld.practice.finished.spots import spots
from fjeld.quantities import INCH, Length, parse_length
from tests.often import often

NA, GB = load("na"), load("gb")
WALL = Spot("wall", "wallboard", "cut-in-1", left=parse_length('16 3/4"'), right=parse_length('31 1/4"'))


def placed(spot, practice=NA, wants="outlet"):
    return place(Errand(wants, spot=spot), practice)


def test_the_span_of_a_bay_is_told_with_both_its_edges():
    found = placed(WALL)
    assert found.low == pytest.approx(18.125 * INCH)
    assert found.high == pytest.approx(29.875 * INCH)
    assert [r.at for r in found.rests] == pytest.approx([found.low, 24 * INCH, found.high])
    metric = Spot("wall", box="dry-lining-1", left=parse_length("619 mm"), right=parse_length("1181 mm"))
    found = placed(metric, GB)
    assert (found.low, found.high) == pytest.approx((668.5, 1131.5))


def test_a_jamb_stands_for_the_member_to_the_left():
    beside = Spot("wall", box="cut-in-1", door=parse_length('0"'), along=parse_length('4"'))
    found = placed(beside)
    assert found.low == pytest.approx(5.625 * INCH)
    assert "left" not in found.open
    assert any("5 5/8" in s.words for s in found.stops), "the wish is refused, and the nearest named"
    assert found.at is None


@pytest.mark.parametrize("along", ['17 7/8"', '30 1/8"'])
def test_a_box_screwed_to_a_stud_stands_against_it(along):
    bay = {
        "left": parse_length('16 3/4"'),
        "right": parse_length('31 1/4"'),
        "left_by": "detector",
        "right_by": "detector",
    }
    found = placed(Spot("wall", box="side-screw-1", along=parse_length(along), **bay))
    assert found.at == pytest.approx(parse_length(along).mm)
    assert [r.at / INCH for r in found.rests] == pytest.approx([17.875, 30.125])
    aside = placed(Spot("wall", box="side-screw-1", along=parse_length('24"'), **bay))
    assert aside.at is None
    assert any("is refused" in s.words for s in aside.stops)


def test_a_pan_box_stands_where_wood_is():
    bay = {"left": parse_length('16 3/4"'), "right": parse_length('31 1/4"')}
    on_it = placed(Spot("ceiling", box="pan", along=parse_length('16"'), **bay))
    assert on_it.at == pytest.approx(16 * INCH)
    between = placed(Spot("ceiling", box="pan", along=parse_length('24"'), **bay))
    assert between.at is None
    assert between.stops
    assert [r.at / INCH for r in on_it.rests] == pytest.approx([16.0, 32.0])


@pytest.mark.parametrize(
    ("right", "fits"),
    [('31 1/4"', True), ('30 15/16"', False), ('31"', True), ('39"', True), ('39 1/16"', False)],
)
def test_a_brace_is_held_against_the_space_that_it_spans(right, fits):
    """It bridges 14 1/2 to 22 1/2 in: the left face is at 16 1/2."""
    found = placed(Spot("ceiling", box="fan-brace", left=parse_length('16 1/2"'), right=parse_length(right)))
    assert any("bridges" in s.words for s in found.stops) is not fits


@often(60)
@given(
    st.sampled_from(["na", "gb"]),
    st.integers(0, 30),
    st.integers(60, 700),
    st.sampled_from(get_args(FoundBy)),
    st.sampled_from(get_args(FoundBy)),
    st.data(),
)
def test_no_box_within_the_span_meets_a_member_wherever_its_edge_is(practice, left, wide, one, other, data):
    """Each 1/32 in tried, with the edges at either end of what they may be."""
    practice = load(practice)
    box = data.draw(
        st.sampled_from([b for b in practice.catalogue.old_work if b.surface == "wall" and not b.on_member])
    )
    spot = Spot(
        "wall",
        box=box.id,
        left=Length(float(left)),
        left_by=one,
        right=Length(float(left + wide)),
        right_by=other,
    )
    found = placed(spot, practice)
    step = INCH / 32
    clear = []
    for n in range(int((wide + 40) / step)):
        middle = left - 20 + n * step
        body = (
            middle - box.body[0] / 2 - practice[rules.CUT_IN_CLEAR],
            middle + box.body[0] / 2 + practice[rules.CUT_IN_CLEAR],
        )
        grip = (middle - box.cut[0] / 2 - box.throw, middle + box.cut[0] / 2 + box.throw)
        low, high = min(body[0], grip[0]), max(body[1], grip[1])
        body_clear = (
            low >= left + known_to(one, practice) - 1e-6
            and high <= left + wide - known_to(other, practice) + 1e-6
        )
        if body_clear:
            clear.append(middle)
    if found.low is None:
        assert not clear
        assert found.stops
    else:
        inside = [m for m in clear if found.low - 1e-6 <= m <= found.high + 1e-6]
        assert inside == clear
        assert not clear or (clear[0] - found.low <= step and found.high - clear[-1] <= step)


def test_what_was_not_looked_at_keeps_the_cut_shut():
    known = replace(WALL, along=parse_length('24"'))
    found = placed(known)
    assert set(found.looks) == {"other side", "pocket door", "duct", "old coat", "header", "water"}
    assert not found.may_cut
    looked = replace(known, seen=dict.fromkeys(found.looks, "clear"))
    assert placed(looked).may_cut
    for look in found.looks:
        there = placed(replace(looked, seen={**looked.seen, look: "there"}))
        told = next(a for a in there.asks if a.id == look).there
        assert told.words in [s.words for s in (*there.stops, *there.said)]
        assert there.may_cut == (told.tone not in ("danger", "fails")), look


def test_a_door_that_slides_into_the_wall_and_its_basis_by_practice():
    assert placed(replace(WALL, seen={"pocket door": "there"})).stops[0].tone == "danger"
    duct = replace(WALL, seen={"duct": "there"})
    assert placed(duct).stops[0].basis == "300.22(C)"
    assert placed(duct, GB).stops[0].basis == ""


def test_a_ceiling_is_asked_for_its_void_and_a_wall_for_its_depth():
    wall, ceiling = ({a.id for a in placed(Spot(s)).asks} for s in ("wall", "ceiling"))
    assert {"height", "cavity", "pocket door"} <= wall - ceiling
    assert {"needs", "lowest"} <= ceiling - wall
    deep = Spot("ceiling", needs=parse_length('5 1/2"'), lowest=parse_length('4"'))
    assert placed(replace(deep, left=parse_length('0"')), wants="light").stops
    flat = replace(deep, needs=parse_length('2 1/2"'), left=parse_length('0"'))
    assert not placed(flat, wants="light").stops


ANSWERS = {
    "surface": "wall",
    "covering": "wallboard",
    "box": "cut-in-1",
    "left": parse_length('16 3/4"'),
    "right": parse_length('31 1/4"'),
    "along": parse_length('24"'),
    "height": parse_length('46"'),
    "thick": parse_length('1/2"'),
    "cavity": parse_length('3 1/2"'),
    "opposite": Length(0.0, "0"),
}


def test_answers_may_come_in_any_order():
    ends = set()
    for seed in range(20):
        die, told = random.Random(seed), Spot()
        asks = [
            a
            for a in spots().ask
            if a.surface in ("", "wall") and (not a.of or "outlet" in a.of) and not a.after
        ]
        die.shuffle(asks)
        for ask in asks:
            before = len(placed(told).open)
            told = (
                replace(told, seen={**told.seen, ask.id: "clear"})
                if ask.kind == "seen"
                else replace(told, **{ask.id: ANSWERS[ask.id]})
            )
            assert len(placed(told).open) < before or ask.id == "surface"
        found = placed(told)
        assert found.open == ()
        assert found.next is None
        ends.add((found.low, found.high, found.at, found.may_cut, found.word))
    assert len(ends) == 1
    low, high, at, may_cut, word = ends.pop()
    assert (low, high, at) == pytest.approx((18.125 * INCH, 29.875 * INCH, 24 * INCH))
    assert (may_cut, word) == (True, "measured")


def test_each_question_is_asked_once_and_what_is_left_open_comes_back_no_more():
    told, asked = Spot(), []
    while (ask := placed(told).next) is not None:
        asked.append(ask.id)
        told = replace(told, later=(*told.later, ask.id))
    assert len(asked) == len(set(asked)) == len(placed(Spot()).asks)


def test_a_measure_nobody_took_is_not_known():
    unsure = replace(WALL, left=parse_length("? 16 in"))
    assert length_of(unsure.left) is None
    assert placed(unsure).low is None
    assert "left" in placed(unsure).open
    by_pattern = replace(WALL, left_by="pattern", right_by="pattern")
    assert placed(by_pattern).word == "usual"


def test_an_outlet_too_high_says_that_it_does_not_count():
    high = replace(WALL, height=parse_length("6'"))
    assert any("does not count" in s.words for s in placed(high).said)
    assert not any("does not count" in s.words for s in placed(high, wants="light").said)


def test_two_measures_that_contradict_are_said_to():
    crossed = replace(WALL, left=parse_length('31"'), right=parse_length('16"'))
    found = placed(crossed)
    assert found.low is None
    assert "measure both again" in found.stops[0].words
    assert len(found.stops) == 1

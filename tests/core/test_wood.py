"""Holes and notches are judged alike in a house that is bored and in a wall that stays closed."""

from itertools import product

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from shapely.geometry import box

from fjeld.judge.ways import TransferAsked, WoodAsked, transfer, wood
from fjeld.judge.wood import beside, bored, deepest_notch, steel, widest_in_stud
from fjeld.practice import Amendment, load, rules
from fjeld.quantities import INCH, Length

MEMBERS = ("joist", "stud", "bearing stud", "plate")


@given(st.floats(50, 300), st.floats(5, 40), st.floats(-30, 30))
def test_what_stays_beside_a_hole_is_what_is_left_of_the_wood(depth, hole, offset):
    """Against plane figures: the member's section without the hole's."""
    assume(min(beside(depth, hole, offset)) >= 0)
    member, taken = (
        box(0, 0, depth, 1),
        box(depth / 2 + offset - hole / 2, 0, depth / 2 + offset + hole / 2, 1),
    )
    rest = member.difference(taken)
    assert sum(beside(depth, hole, offset)) == pytest.approx(rest.area, abs=1e-6)


@pytest.mark.parametrize(("practice", "member"), list(product(("na", "gb"), MEMBERS)))
def test_a_hole_at_its_limit_passes_and_one_beyond_does_not(practice, member):
    rules_, depth = load(practice), 140.0
    found = bored(member, depth, 16.0, rules_)
    if found.most is not None:
        assert not bored(member, depth, found.most, rules_).too_wide
        assert bored(member, depth, found.most + 1.0, rules_).too_wide
    if found.least is not None:
        widest = depth - 2 * found.least
        assert not bored(member, depth, widest, rules_).too_near
        assert bored(member, depth, widest + 2.0, rules_).too_near
    assert not bored("stud", 38.0, 19.0, rules_).too_wide, "a batten carries nothing"


def test_where_cables_lie_in_zones_a_wall_asks_no_steel_and_a_joist_does():
    gb, na = load("gb"), load("na")
    assert [steel(m, 89.0, 18.0, gb) for m in MEMBERS] == [2, 0, 0, 0]
    assert [steel(m, 1.5 * INCH, 0.75 * INCH, na) for m in MEMBERS] == [2, 2, 2, 2]
    asked = TransferAsked(
        Length(12.5), Length(89.0), pilot=Length(10.0), hole=Length(18.0), error=Length(20.0)
    )
    assert [s.tone for s in transfer(asked, gb).said] == ["passes"]
    assert [s.tone for s in transfer(asked, na).said] == ["advice"]


def test_an_amended_share_holds_wherever_wood_is_asked():
    plain = load("na")
    amended = plain.amended((Amendment("stud-hole", 0.3, "the builder's own"),))
    asked = WoodAsked(Length(0), Length(2000), Length(406), depth=Length(140), bearing=True)
    for practice, share in ((plain, 0.4), (amended, 0.3)):
        assert wood(asked, practice).figure("bore at most") == pytest.approx(share * 140)
        assert widest_in_stud(True, 140.0, practice) == bored("bearing stud", 140.0, 1.0, practice).most
    assert deepest_notch(True, 140.0, plain) == pytest.approx(plain[rules.NOTCH_BEARING] * 140)

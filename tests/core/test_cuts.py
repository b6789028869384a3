"""Cuts from coils: the example, every assignment of small cases, and the refusals."""

import itertools
import math
import random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.propose import cuts
from fjeld.propose.buying import cut_lists
from fjeld.propose.cuts import CoilOffer, CutRequest, CutsRefused, _first_fit, _price, _stock, plan_cuts
from fjeld.quantities import FOOT
from tests.often import often


def test_three_pieces_from_coils_of_fifty_and_a_hundred():
    found = plan_cuts(CutRequest((61, 43, 38), (CoilOffer(50), CoilOffer(100))))
    assert [(c.length, sorted(c.pieces)) for c in found.coils] == [(100, [38, 61]), (50, [43])]
    assert sum(c.left for c in found.coils) == pytest.approx(8)
    assert found.proven


def test_of_equal_prices_one_left_over_is_kept_whole():
    found = plan_cuts(
        CutRequest((39.0, 31.0, 30.0), (CoilOffer(50, 10), CoilOffer(60, 10), CoilOffer(70, 10)))
    )
    assert max(c.left for c in found.coils) == 40


def brute(pieces, offers):
    """The least price, then the fewest coils, then the largest single left-over, over every way to put pieces
    into coils.
    """
    best = (math.inf, 0, 0.0)
    n = len(pieces)
    for groups in itertools.product(range(n), repeat=n):
        if any(g > max(groups[:i], default=-1) + 1 for i, g in enumerate(groups)):
            continue
        total, left = 0.0, 0.0
        for g in set(groups):
            used = sum(p for p, at in zip(pieces, groups, strict=True) if at == g)
            fitting = [
                (o.length if o.price is None else o.price, -o.length) for o in offers if o.length >= used
            ]
            price, length = min(fitting, default=(math.inf, 0.0))
            total, left = total + price, max(left, -length - used)
        best = min(best, (total, len(set(groups)), -left))
    return best


@given(
    st.lists(st.integers(5, 90), min_size=1, max_size=6),
    st.lists(st.tuples(st.integers(20, 120), st.integers(10, 200)), min_size=1, max_size=3),
)
@often(20)
def test_the_least_price_is_the_least(pieces, coils):
    offers = tuple(CoilOffer(float(length), float(price)) for length, price in coils)
    request = CutRequest(tuple(map(float, pieces)), offers)
    if max(pieces) > max(length for length, _ in coils):
        with pytest.raises(CutsRefused, match="longer than any coil"):
            plan_cuts(request)
        return
    found = plan_cuts(request)
    assert found.proven
    price, count, left = brute(pieces, offers)
    assert found.price == pytest.approx(price)
    assert len(found.coils) == count
    assert max(c.left for c in found.coils) == pytest.approx(-left)
    assert sorted(p for c in found.coils for p in c.pieces) == sorted(map(float, pieces)), "every piece once"
    assert all(sum(c.pieces) <= c.length + 1e-9 for c in found.coils), "no splice"


@given(st.lists(st.integers(5, 90), min_size=1, max_size=14))
@often(8)
def test_never_above_first_fit_decreasing_nor_below_the_bound(pieces):
    request = CutRequest(tuple(map(float, pieces)), (CoilOffer(100.0, 100.0), CoilOffer(250.0, 230.0)))
    found = plan_cuts(request)
    ordered = sorted(request.pieces, reverse=True)
    stock = _stock(request, ordered)
    assert found.price <= _price(stock, _first_fit(stock, ordered)) + 1e-6
    assert found.price >= sum(pieces) * 0.92 - 1e-6, "the cheapest coil by length"


def test_off_cuts_on_hand_are_free_and_used_first():
    found = plan_cuts(CutRequest((30, 40), (CoilOffer(50, 40), CoilOffer(35, 0, 1))))
    assert found.price == 40
    assert any(c.length == 35 and c.pieces == (30,) for c in found.coils)


@pytest.mark.parametrize(
    ("pieces", "coils"),
    [((10, 0), (CoilOffer(50),)), ((60,), (CoilOffer(50),)), ((30, 30), (CoilOffer(50, 0, 1),)), ((5,), ())],
)
def test_what_cannot_be_cut_is_refused_in_words(pieces, coils):
    with pytest.raises(CutsRefused):
        plan_cuts(CutRequest(pieces, coils))


def test_nothing_to_cut():
    assert plan_cuts(CutRequest((), (CoilOffer(50),))).coils == ()


def test_the_demos_cut_list_covers_its_cables(boot_plan):
    wanted = sorted(round(boot_plan.cables[r.cable].length / FOOT, 4) for r in boot_plan.runs())
    found = cut_lists(boot_plan)
    assert sorted(p.sold for kind in found for p in kind.pieces) == wanted
    assert sorted(p for kind in found for c in kind.plan.coils for p in c.pieces) == wanted


OFFERS = (CoilOffer(25, 2900), CoilOffer(50, 5500), CoilOffer(100, 10500), CoilOffer(250, 25000))


@given(
    st.lists(st.integers(60, 700), min_size=2, max_size=9),
    st.lists(st.tuples(st.integers(300, 900), st.integers(1, 2)), max_size=2),
)
@often(12)
def test_priced_ways_are_never_below_the_least_price_and_their_bound_never_above(pieces, off_cuts):
    """Of few pieces both roads can be gone: the exact one says where the other stands."""
    request = CutRequest(
        tuple(p / 10 for p in pieces),
        (*OFFERS, *(CoilOffer(length / 10, 0.0, count) for length, count in off_cuts)),
    )
    exact = plan_cuts(request)
    assert exact.proven
    with pytest.MonkeyPatch.context() as patched:
        patched.setattr(cuts, "EXACTLY", 1)
        found = plan_cuts(request)
    assert found.price >= exact.price - 1e-6
    assert found.bound <= exact.price + 1e-6
    assert sorted(p for c in found.coils for p in c.pieces) == sorted(request.pieces), "every piece once"
    assert all(math.fsum(c.pieces) <= c.length + 1e-9 for c in found.coils)
    for length, count in off_cuts:
        least = sum(n for other, n in off_cuts if other == length)
        assert sum(c.price == 0 and c.length == length / 10 for c in found.coils) <= max(count, least)


def test_a_house_of_pieces_is_cut_within_a_few_percent_and_alike_every_time():
    die = random.Random(5)
    for n in (25,):
        request = CutRequest(tuple(round(die.uniform(6, 70), 1) for _ in range(n)), OFFERS)
        found = plan_cuts(request)
        assert plan_cuts(request) == found
        ordered = sorted(request.pieces, reverse=True)
        stock = _stock(request, ordered)
        assert found.price <= _price(stock, _first_fit(stock, ordered))
        assert 0 < found.bound <= found.price <= 1.06 * found.bound
        assert sorted(p for c in found.coils for p in c.pieces) == sorted(request.pieces)
        assert all(math.fsum(c.pieces) <= c.length + 1e-9 for c in found.coils)


def test_one_off_cut_on_hand_does_not_make_the_bound_nothing():
    offers = (*OFFERS, CoilOffer(40.0, 0.0, 1))
    quick = plan_cuts(CutRequest((38.0, 60.0, 55.0, 30.0), offers), search=False)
    # Forty of the 183 are free; a length costs a hundredth of the largest coil's at the least.
    assert quick.bound == pytest.approx(143 * 100)
    assert quick.bound <= plan_cuts(CutRequest((38.0, 60.0, 55.0, 30.0), offers)).price
    free = plan_cuts(CutRequest((38.0,), offers), search=False)
    assert free.price == free.bound == 0
    assert free.proven


@given(st.lists(st.integers(5, 90), min_size=3, max_size=20))
@often(15)
def test_what_is_emptied_costs_the_same_and_leaves_no_less_on_one_coil(pieces):
    request = CutRequest(tuple(map(float, pieces)), (CoilOffer(100.0, 100.0), CoilOffer(250.0, 230.0)))
    ordered = sorted(request.pieces, reverse=True)
    stock = _stock(request, ordered)
    before = _first_fit(stock, ordered)
    after = cuts._emptied(stock, ordered, before)
    assert _price(stock, after) <= _price(stock, before)

    def most_left(assignment):
        loads = cuts._loads(ordered, assignment)
        assert all(load <= stock[c][0] + 1e-9 for c, load in loads.items())
        return max(stock[c][0] - loads.get(c, 0.0) for c in {*before})

    assert most_left(after) >= most_left(before) - 1e-9

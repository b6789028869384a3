"""The tree of cables: exact against every tree there is, and never worse than what one does unthinking."""

import itertools
import math

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from fjeld.demo import job_file
from fjeld.derive.plan import derive
from fjeld.derive.tree import tree
from fjeld.drawing.changes import apply
from fjeld.drawing.edits.common import Revise
from fjeld.drawing.handles import Mint
from fjeld.drawing.model import Cable, Control, LoadRef
from fjeld.drawing.naming import Drafts
from fjeld.formats.jobfile import decode
from fjeld.propose import trees
from fjeld.propose.attach import attached
from fjeld.propose.offers import offer
from fjeld.propose.trees import (
    EXACT,
    _chain_ways,
    _spanning,
    best_tree,
    follows_feed,
    least_price,
    nearest_chain,
    price_of,
    problem_of,
)
from tests.houses import one_room
from tests.often import often


def every_tree(root, boxes):
    """All spanning trees with one cable at the root, by their Prüfer codes over the boxes."""
    n = len(boxes)
    if n == 1:
        yield [(root, boxes[0])]
        return
    codes = itertools.product(range(n), repeat=n - 2) if n > 2 else [()]
    for code in codes:
        degree = [1 + code.count(i) for i in range(n)]
        pairs = []
        for i in code:
            leaf = next(k for k in range(n) if degree[k] == 1)
            pairs.append((boxes[leaf], boxes[i]))
            degree[leaf] -= 1
            degree[i] -= 1
        a, b = (k for k in range(n) if degree[k] == 1)
        pairs.append((boxes[a], boxes[b]))
        for first in boxes:
            yield [(root, first), *pairs]


def small_problems(feed):
    for seed in range(400):
        plan = derive(one_room(seed))
        for circuit in plan.circuits:
            problem = problem_of(plan, circuit, feed)
            if 2 <= len(problem.boxes) <= 5:
                yield seed, problem


@pytest.mark.parametrize("feed", ["cheapest", "switch", "light"])
def test_up_to_five_boxes_no_tree_is_cheaper(feed):
    for _, problem in itertools.islice(small_problems(feed), 12):
        pairs, price, exact = best_tree(problem)
        brute = min(price_of(problem, list(t)) for t in every_tree(problem.root, problem.boxes))
        if not math.isfinite(brute):
            assert not pairs or not math.isfinite(price)
            continue
        assert price == pytest.approx(brute)
        assert price == pytest.approx(price_of(problem, pairs))
        assert exact


def test_a_tree_is_called_the_cheapest_only_when_every_order_of_its_switches_was_tried():
    checked = {True: 0, False: 0}
    for seed in range(250):
        drawing = one_room(seed)
        if checked[True] >= 3 or all(len(c.positions) < 3 for c in drawing.of(Control).values()):
            continue
        plan = derive(drawing)
        for circuit in plan.circuits:
            problem = problem_of(plan, circuit, "cheapest")
            longest = max((len(c.positions) for c in problem.intent.controls.values()), default=0)
            if longest < 3 or problem.intent.strap or len(problem.boxes) > 5:
                continue
            _, price, exact = best_tree(problem)
            if exact:
                brute = min(price_of(problem, list(t)) for t in every_tree(problem.root, problem.boxes))
                assert price == pytest.approx(brute), (seed, circuit)
            checked[exact] += 1
    assert checked[True]


def test_with_too_many_orders_nothing_is_claimed(boot_plan):
    problem = problem_of(boot_plan, "Q1", "cheapest")
    control = Control(("S1", "S2", "S4", "S5"), (LoadRef("A1"),))
    many = msgspec.structs.replace(problem.intent, controls={"K1": control})
    ways, complete = _chain_ways(msgspec.structs.replace(problem, intent=many))
    assert (len(ways), complete) == (8, False)


@given(st.integers(0, 300), st.sampled_from(["cheapest", "switch", "light"]))
@often(12)
def test_a_tree_joins_every_box_once_follows_its_feed_and_leaves_the_panel_once(seed, feed):
    plan = derive(one_room(seed))
    for circuit in plan.circuits:
        problem = problem_of(plan, circuit, feed)
        if len(problem.boxes) > 9:
            continue
        pairs, price, _ = best_tree(problem)
        if not pairs:
            continue
        assert len(pairs) == len(problem.boxes)
        where = tree(problem.root, problem.boxes, {f"C{n}": p for n, p in enumerate(pairs, 1)})
        assert not where.unfed
        assert not where.loops
        assert follows_feed(problem, where)
        assert sum(problem.root in p for p in pairs) == 1
        if feed == "cheapest":
            assert price <= price_of(problem, nearest_chain(problem)) + 1e-6
            assert price <= price_of(problem, _spanning(problem)) + 1e-6


@pytest.mark.parametrize("feed", ["cheapest", "switch"])
def test_no_tree_costs_less_than_is_said(feed):
    for _, problem in itertools.islice(small_problems(feed), 12):
        brute = min(price_of(problem, list(t)) for t in every_tree(problem.root, problem.boxes))
        assert 0 < least_price(problem) <= brute + 1e-6
    for seed in (19, 23, 31):
        plan = derive(one_room(seed))
        for circuit in plan.circuits:
            problem = problem_of(plan, circuit, feed)
            _, price, exact = best_tree(problem)
            assert least_price(problem) <= price + 1e-6
            found = offer(plan, circuit, feed, Drafts())
            if found is not None:
                assert found.exact == exact
                assert found.above == pytest.approx(0 if exact else price / least_price(problem) - 1)


def test_a_circuit_of_more_boxes_than_the_exact_search_takes_is_still_joined(monkeypatch):
    plan = derive(one_room(19))
    problem = problem_of(plan, "Q1", "cheapest")
    assert len(problem.boxes) > EXACT
    pairs, price, exact = best_tree(problem)
    assert not exact
    assert least_price(problem) - 1e-6 <= price <= price_of(problem, nearest_chain(problem)) + 1e-6
    assert len(pairs) == len(problem.boxes)
    # Of eleven boxes the cheapest is known, and what small steps come to is no cheaper.
    loft = problem_of(derive(decode(job_file("chandlers-loft"))), "Q3", "cheapest")
    assert len(loft.boxes) == 11
    _, least, proven = best_tree(loft)
    monkeypatch.setattr(trees, "EXACT", 6)
    _, stepwise, claimed = best_tree(loft)
    assert (proven, claimed) == (True, False)
    assert least <= stepwise + 1e-6


def test_an_offer_says_what_it_saves_and_taking_it_gives_that_tree(boot_plan):
    found = offer(boot_plan, "Q1", "cheapest", Mint(boot_plan.drawing.items))
    assert found is not None
    assert found.saves >= -1e-6
    after = derive(apply(boot_plan.drawing, found.edit.plan(boot_plan.drawing)))
    joined = {frozenset((c.a, c.b)) for c in after.drawing.of(Cable).values() if c.circuit == "Q1"}
    assert joined == {frozenset(p) for p in found.pairs}
    again = offer(after, "Q1", "cheapest", Mint(after.drawing.items))
    assert again.saves == pytest.approx(0, abs=1e-6)
    assert not again.edit.fresh


def test_a_pinned_cable_stays(boot_room):
    cable = next(h for h, c in boot_room.of(Cable).items() if c.circuit == "Q1" and "P1" not in (c.a, c.b))
    pinned = apply(boot_room, Revise(cable, {"state": "pinned"}).plan(boot_room))
    found = offer(derive(pinned), "Q1", "cheapest", Mint(pinned.items))
    if found is not None:
        assert cable in found.edit.kept
        found.edit.plan(pinned)


def test_without_boxes_or_panel_there_is_no_problem(boot_room):
    bare = msgspec.structs.replace(
        boot_room, items={h: i for h, i in boot_room.items.items() if h[0] not in "PC"}
    )
    with pytest.raises(ValueError, match="no panel"):
        problem_of(derive(bare), "Q1", "cheapest")


@given(st.integers(0, 300))
@often(12)
def test_moving_a_box_re_lays_no_other_cable(seed):
    """A standing tree stays: attaching again changes nothing."""
    drawing = one_room(seed)
    assert attached(drawing, Mint(drawing.items)) == drawing


@pytest.mark.parametrize("name", ["tarn-house", "chandlers-loft"])
def test_large_circuits_follow_the_feed_and_never_cost_more_than_what_stands(name):
    """Beyond ten boxes the search starts from several trees, the standing one among them."""
    plan = derive(decode(job_file(name)))
    large = [q for q, circuit in plan.circuits.items() if len(circuit.boxes) > 10]
    assert large
    for circuit in large:
        standing = [(c.a, c.b) for c in plan.drawing.of(Cable).values() if c.circuit == circuit]
        for feed in ("switch", "light", "cheapest"):
            problem = problem_of(plan, circuit, feed)
            pairs, price, _ = best_tree(problem)
            where = tree(problem.root, problem.boxes, {f"C{n}": pair for n, pair in enumerate(pairs, 1)})
            assert not where.unfed
            assert follows_feed(problem, where), (circuit, feed)
            cables = {f"C{n}": pair for n, pair in enumerate(standing, 1)}
            if follows_feed(problem, tree(problem.root, problem.boxes, cables)):
                assert price <= price_of(problem, standing) + 1e-6

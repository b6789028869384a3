"""The tree of cables that costs least, exactly for small circuits.

What a cable carries depends only on which boxes lie beyond it, so the price of an edge
that cuts off the set S is length × price(k(S)). A dynamic programme over subsets is
therefore exact (after Dreyfus and Wagner's recurrence for Steiner trees):

    f(S, r)  cheapest tree on S hung at its member r      = h(S ∖ r, r)
    g(S, u)  S joined to u by one cable                    = min over r ∈ S of f(S, r) + w(u, r) · p(S)
    h(S, u)  S hung at u by any number of cables           = min over T ∋ lowest(S), T ⊆ S of g(T, u) + h(S ∖
      T, u)

A circuit leaves the panel by one cable, its home run, so the answer is g(all boxes, panel).
Every tree on S below u splits uniquely into the branch that holds the lowest member and
the rest, so h sees each tree once; O(3ⁿ n) steps. Above :data:`EXACT` boxes, the minimum
spanning tree and others are improved move by move (:mod:`fjeld.propose.tree_moves`).

Fed at the switch, every light needs a switch of its control above it. Each value is kept
for every set M of controls whose need something further up will meet: hanging at a switch
of k adds k to the M below it, and a light of k costs infinity unless k ∈ M. Both parts of
a split take the same M, so the recurrence only grows by the factor 2^controls.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from itertools import combinations, groupby, islice, product
from typing import Literal

import msgspec
import numpy as np

from fjeld.derive.intents import intents
from fjeld.derive.keys import Net
from fjeld.derive.nets import orders, solve
from fjeld.derive.plan import Plan
from fjeld.derive.terminals import CircuitIntent, terminals_of
from fjeld.derive.tree import Tree, tree
from fjeld.drawing.handles import Handle, order
from fjeld.drawing.model import Cable
from fjeld.propose.heed import Heed, go_on
from fjeld.propose.tree_moves import Pair, Pricer, improved

#: Up to this many boxes the tree is exact.
EXACT = 12
#: Beyond so many orders of chained switches a tree is never called the cheapest.
MOST_WAYS = 8
Feed = Literal["switch", "light", "cheapest"]


class TreeProblem(msgspec.Struct, frozen=True):
    """A circuit to be joined: its boxes, the cost of each way between two (mm, holes), and prices."""

    root: Handle
    boxes: tuple[Handle, ...]
    length: dict[Pair, float]
    holes: dict[Pair, float]
    intent: CircuitIntent
    mm_price: Callable[[int], float]
    hole_price: float
    feed: Feed = "cheapest"
    pinned: frozenset[Pair] = frozenset()
    standing: tuple[Pair, ...] = ()
    on_load: frozenset[Pair] = frozenset()

    def pair_length(self, a: Handle, b: Handle) -> float:
        return self.length.get((a, b), self.length.get((b, a), math.inf))

    def pair_holes(self, a: Handle, b: Handle) -> float:
        return self.holes.get((a, b), self.holes.get((b, a), 0.0))


def problem_of(plan: Plan, circuit: Handle, feed: Feed) -> TreeProblem:
    """The tree problem of a circuit; raises ``ValueError`` when it begins nowhere or there is no
    box to join.
    """
    if circuit not in plan.circuits:
        raise ValueError("there is no panel to feed from")
    mine = plan.circuits[circuit]
    source, gauge = mine.source, mine.circuit.gauge
    # Where a person leads a cable through another circuit's box, it goes on there.
    own = dict.fromkeys(plan.home(b) for b in mine.boxes)
    boxes = tuple(b for b in (*own, *mine.panels, *mine.through) if b in plan.placed)
    if not boxes:
        raise ValueError(f"{circuit} has no boxes yet")
    routes = {pair: plan.ways.route(*pair) for pair in combinations((source, *boxes), 2)}
    drawn = _drawn(plan, circuit, {source, *boxes})
    catalogue = plan.practice.catalogue
    return TreeProblem(
        root=source,
        boxes=boxes,
        length={pair: route.length if route else math.inf for pair, route in routes.items()},
        holes={pair: float(route.weight) if route else 0.0 for pair, route in routes.items()},
        intent=intents(plan.drawing, plan.practice)[circuit],
        mm_price=lambda n: catalogue.price_of_mm(gauge, n),
        hole_price=float(catalogue.parts["hole"]),
        feed=feed,
        pinned=frozenset((c.a, c.b) for c in drawn if c.state != "proposed"),
        standing=tuple((c.a, c.b) for c in drawn),
        on_load=_on_load(plan, circuit),
    )


def _drawn(plan: Plan, circuit: Handle, reached: set[Handle]) -> list[Cable]:
    """The cables of a circuit as they are drawn."""
    mine = (c for c in plan.drawing.of(Cable).values() if c.circuit == circuit)
    return [c for c in mine if {c.a, c.b} <= reached]


def _on_load(plan: Plan, circuit: Handle) -> frozenset[Pair]:
    """The cables that go on from the load side of a protective device, outward."""
    tree = plan.circuits[circuit].tree
    outward = ((e.up, e.down) for e in tree.edges if plan.cables[e.cable].cable.load_side)
    return frozenset((up, down) for up, down in outward if tree.behind.get(down) == up)


def price_of(problem: TreeProblem, pairs: list[Pair]) -> float:
    """The price of a tree, cents, its chains running the cheapest way; infinite if it does not join all
    boxes.
    """
    cables = {Handle(f"C{n}"): p for n, p in enumerate(pairs, 1)}
    on_load = {h for h, (a, b) in cables.items() if {(a, b), (b, a)} & problem.on_load}
    where = tree(problem.root, problem.boxes, cables, on_load, {a for a, _ in problem.on_load})
    if where.unfed or where.loops or not follows_feed(problem, where):
        return math.inf
    ends = {e.cable: (e.up, e.down) for e in where.edges}
    if any(ends[h] not in problem.on_load for h in on_load):
        # Turned about, it would no longer hang on its device.
        return math.inf

    def edge_price(cable: Handle, n: int) -> float:
        a, b = ends[cable]
        return problem.pair_length(a, b) * problem.mm_price(n)

    solved = solve(problem.intent, where, edge_price)
    if solved.overflow:
        return math.inf
    total = 0.0
    for edge in where.edges:
        carried = sum(len(b.nets) for b in solved.bundles[edge.cable])
        total += edge_price(edge.cable, carried) + problem.pair_holes(edge.up, edge.down) * problem.hole_price
    return total


def follows_feed(problem: TreeProblem, where: Tree) -> bool:
    """Whether every light has a switch of its control on its way from the panel (or every switch a light)."""
    if problem.feed == "cheapest":
        return True
    above = {e.down: e.up for e in where.edges}
    for positions, loads in _sides(problem):
        first, second = (positions, loads) if problem.feed == "switch" else (loads, positions)
        for box in second:
            here = box
            while here in above and above[here] not in first:
                here = above[here]
            if here not in above:
                return False
    return True


def best_tree(problem: TreeProblem, heed: Heed = go_on) -> tuple[list[Pair], float, bool]:
    """The cheapest tree found, its price, and whether it is proven the cheapest."""
    found: list[tuple[float, list[Pair]]] = []
    bound = math.inf
    ways, all_ways = _chain_ways(problem)
    if len(problem.boxes) <= EXACT and len(problem.intent.controls) <= 4 and not problem.pinned:
        for chains in ways:
            value, pairs = _subsets(problem, chains, heed)
            bound = min(bound, value)
            found.append((price_of(problem, pairs), pairs) if pairs else (math.inf, []))
    best = min(found, default=(math.inf, []))
    if all_ways and math.isfinite(best[0]) and best[0] <= bound + 1e-6:
        return best[1], best[0], True
    starts = [best[1]] if math.isfinite(best[0]) else []
    value, pairs = min(_improved(problem, starts, ways, heed), default=(math.inf, []))
    return pairs, value, False


def least_price(problem: TreeProblem) -> float:
    """What no tree of a problem costs less than: the minimum spanning tree, every cable of the narrowest kind
    (Prim). O(boxes²).
    """
    per_mm = min(problem.mm_price(n) for n in range(1, max(1, problem.intent.most) + 1))

    def cost(a: Handle, b: Handle) -> float:
        return problem.pair_length(a, b) * per_mm + problem.pair_holes(a, b) * problem.hole_price

    away = {box: cost(problem.root, box) for box in problem.boxes}
    total = 0.0
    while away:
        nearest = min(away, key=away.__getitem__)
        total += away.pop(nearest)
        away = {box: min(known, cost(nearest, box)) for box, known in away.items()}
    return total


def _improved(
    problem: TreeProblem, starts: list[list[Pair]], ways: list[dict[Handle, tuple[Handle, ...]]], heed: Heed
) -> Iterator[tuple[float, list[Pair]]]:
    """Trees with their prices: those to start from that keep what is pinned, and what comes of each by small
    steps.
    """
    starts = [
        *starts,
        _spanning(problem),
        _by_control(problem),
        nearest_chain(problem),
        list(problem.standing),
    ]
    starts = [s for s in starts if problem.pinned <= {*s, *((b, a) for a, b in s)}]
    pricer = Pricer(
        problem.root,
        problem.boxes,
        intent=problem.intent,
        ways=ways,
        length=lambda a, b: problem.pair_length(a, b),
        drill=lambda a, b: problem.pair_holes(a, b) * problem.hole_price,
        each=problem.mm_price,
    )
    for start in starts:
        yield price_of(problem, start), start
        if _follows(problem, start):
            tree = improved(start, pricer, lambda t: _follows(problem, t), problem.pinned, heed)
            yield price_of(problem, tree), tree


def _follows(problem: TreeProblem, pairs: list[Pair]) -> bool:
    cables = {Handle(f"C{n}"): p for n, p in enumerate(pairs, 1)}
    return follows_feed(problem, tree(problem.root, problem.boxes, cables))


def _chain_ways(problem: TreeProblem) -> tuple[list[dict[Handle, tuple[Handle, ...]]], bool]:
    """The orders in which the controls' positions can be chained, :data:`MOST_WAYS` at most, and whether that
    is all.

    Joined commons have no order.
    """
    each = [
        [(h, p) for p in orders(c.positions, c)] if h not in problem.intent.strap else [(h, c.positions)]
        for h, c in problem.intent.controls.items()
    ]
    found = [dict(choice) for choice in islice(product(*each), MOST_WAYS)]
    return found, math.prod(len(orders) for orders in each) <= MOST_WAYS


def _subsets(
    problem: TreeProblem, chains: Mapping[Handle, tuple[Handle, ...]], heed: Heed = go_on
) -> tuple[float, list[Pair]]:
    """The recurrence of this module, for all u and all sets M of unmet needs at once."""
    boxes = problem.boxes
    n = len(boxes)
    nodes = (*boxes, problem.root)
    length = np.array([[problem.pair_length(a, b) if a != b else math.inf for b in boxes] for a in nodes])
    drill = np.array(
        [[problem.pair_holes(a, b) * problem.hole_price if a != b else 0.0 for b in boxes] for a in nodes]
    )
    price = _set_prices(problem, chains)
    needs, meets, wide = _needs(problem)
    unmet = np.arange(wide)
    size = 1 << n
    h = np.full((size, n + 1, wide), math.inf)
    g = np.full((size, n + 1, wide), math.inf)
    took = np.zeros((size, n + 1, wide), dtype=np.int64)
    hung = np.full((size, n + 1, wide), -1, dtype=np.int64)
    h[0] = 0.0
    for s in range(1, size):
        heed()
        members = [i for i in range(n) if s >> i & 1]
        below = np.array(
            [
                np.where((needs[i] & ~unmet) == 0, h[s ^ (1 << i), i, unmet | meets[i]], math.inf)
                for i in members
            ]
        )
        ways = below[None, :, :] + (length[:, members] * price[s] + drill[:, members])[:, :, None]
        g[s] = ways.min(axis=1)
        hung[s] = np.array(members)[ways.argmin(axis=1)]
        g[s, members] = math.inf
        lowest = s & -s
        parts = np.array([t | lowest for t in _submasks(s ^ lowest)])
        splits = g[parts] + h[s ^ parts]
        h[s] = splits.min(axis=0)
        took[s] = parts[splits.argmin(axis=0)]
    if not math.isfinite(g[size - 1, n, 0]):
        return math.inf, []
    pairs: list[Pair] = []

    def hang(part: int, u: int, m: int) -> None:
        i = int(hung[part, u, m])
        pairs.append((nodes[u], nodes[i]))
        rest, below = part ^ (1 << i), m | meets[i]
        while rest:
            branch = int(took[rest, i, below])
            hang(branch, i, below)
            rest ^= branch

    hang(size - 1, n, 0)
    return float(g[size - 1, n, 0]), pairs


def _submasks(s: int) -> list[int]:
    found, t = [s], s
    while t:
        t = (t - 1) & s
        found.append(t)
    return found


def _needs(problem: TreeProblem) -> tuple[list[int], list[int], int]:
    """For each box, the controls it needs met above it and those it meets, as bit sets; and their number of
    sets.

    Fed at the switch, a light needs a switch of its control above it; fed at the light,
    a switch needs one of its lights.
    """
    needs = [0] * len(problem.boxes)
    meets = [0] * len(problem.boxes)
    if problem.feed == "cheapest":
        return needs, meets, 1
    for k, (positions, loads) in enumerate(_sides(problem)):
        first, second = (positions, loads) if problem.feed == "switch" else (loads, positions)
        for i, box in enumerate(problem.boxes):
            needs[i] |= (box in second) << k
            meets[i] |= (box in first) << k
    return needs, meets, 1 << len(problem.intent.controls)


def _sides(problem: TreeProblem) -> list[tuple[set[Handle], set[Handle]]]:
    """The switches and the loads of each control."""
    return [
        (
            {problem.intent.home(p) for p in c.positions},
            {problem.intent.home(load.point) for load in c.loads},
        )
        for c in problem.intent.controls.values()
    ]


def _set_prices(problem: TreeProblem, chains: Mapping[Handle, tuple[Handle, ...]]) -> list[float]:
    """Price a mm of the cable that cuts off each subset, by the nets that cross its boundary."""
    index = {b: i for i, b in enumerate(problem.boxes)}
    where: dict[Net, int] = {}
    at_root = set()
    for terminal in terminals_of(problem.intent, problem.root, chains):
        if terminal.box in index:
            where[terminal.net] = where.get(terminal.net, 0) | 1 << index[terminal.box]
        else:
            at_root.add(terminal.net)
    masks = [(mask, net in at_root) for net, mask in where.items()]
    prices = []
    for s in range(1 << len(index)):
        crossing = sum(1 for mask, root in masks if mask & s and (root or mask & ~s))
        prices.append(problem.mm_price(crossing))
    return prices


def _spanning(problem: TreeProblem) -> list[Pair]:
    """The minimum spanning tree on plain lengths (Kruskal), pinned cables first, one home run last."""
    part = {b: b for b in (problem.root, *problem.boxes)}
    pairs: list[Pair] = []

    def join(a: Handle, b: Handle) -> None:
        here, there = part[a], part[b]
        if here != there:
            pairs.append((a, b))
            for box, of in part.items():
                if of == here:
                    part[box] = there

    for a, b in sorted(problem.pinned):
        join(a, b)
    for a, b in sorted(combinations(problem.boxes, 2), key=lambda p: _nearness(problem, p)):
        join(a, b)
    for a, b in sorted(((problem.root, b) for b in problem.boxes), key=lambda p: _nearness(problem, p)):
        join(a, b)
    return pairs


def _nearness(problem: TreeProblem, pair: Pair) -> tuple[object, ...]:
    return problem.pair_length(*pair), order(pair[0]), order(pair[1])


def nearest_chain(problem: TreeProblem) -> list[Pair]:
    """From the panel to the nearest box not yet visited, and so on: what one does without thinking."""
    here, left, pairs = problem.root, list(problem.boxes), []
    while left:
        there = min(left, key=lambda b: _nearness(problem, (here, b)))
        pairs.append((here, there))
        left.remove(there)
        here = there
    return pairs


def _by_control(problem: TreeProblem) -> list[Pair]:
    """Each control's first kind of box before the others, nearest first: a start that follows the feed.

    A box of the second kind is hung below boxes of the first kind of all its controls,
    where there is such a place.
    """
    early, wanted = _first_kind(problem)
    above: dict[Handle, set[Handle]] = {problem.root: set()}
    joined: list[Handle] = [problem.root]
    pairs: list[Pair] = []
    ordered = sorted(problem.boxes, key=lambda b: b not in early)
    for left in (list(group) for _, group in groupby(ordered, key=lambda b: b in early)):
        while left:
            places = [
                (a, b) for a, b in product(joined, left) if all(above[a] & f for f in wanted.get(b, ()))
            ]
            a, b = min(places or product(joined, left), key=lambda p: _nearness(problem, p))
            pairs.append((a, b))
            if a == problem.root:
                joined.remove(a)
            joined.append(b)
            above[b] = above[a] | {b}
            left.remove(b)
    return pairs


def _first_kind(problem: TreeProblem) -> tuple[set[Handle], dict[Handle, list[set[Handle]]]]:
    """The boxes that the feed comes to first, and for each of the others those that it is to hang below."""
    wanted: dict[Handle, list[set[Handle]]] = {}
    early: set[Handle] = set()
    for positions, loads in _sides(problem) if problem.feed != "cheapest" else ():
        first, second = (positions, loads) if problem.feed == "switch" else (loads, positions)
        early |= first
        for box in second:
            wanted.setdefault(box, []).append(first)
    return early, wanted

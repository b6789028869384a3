"""A circuit's cables laid as a ring, and opened again.

A ring leaves its breaker, passes every box once and comes home: a tour, not a tree with one more cable. The
shortest tour through up to :data:`EXACT` boxes is found exactly (Held and Karp 1962, O(2ⁿ n²)); through more
the tour that grows by the cheapest insertion is improved until no two of its cables can be exchanged (2-opt,
Croes 1958), with no bound on what is left.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import combinations

from fjeld.derive.plan import Plan
from fjeld.derive.tree import Tree
from fjeld.drawing.edits import Edit, EditRefused
from fjeld.drawing.edits.common import Place, Remove, Revise, Together
from fjeld.drawing.handles import Fresh, Handle, order
from fjeld.drawing.model import Cable, Item

#: Up to this many boxes the tour is the shortest there is.
EXACT = 10
Costs = Mapping[tuple[Handle, Handle], float]


def close(plan: Plan, circuit: Handle, mint: Fresh) -> Edit | None:
    """Back to the source: from the box farthest along the cables where that leaves spurs of one box at most,
    else by one tour through all of them. None without a box; raises :class:`EditRefused` where a cable that
    is pinned or built stands in its way.
    """
    where = plan.circuits[circuit].tree
    ends = [edge.down for edge in where.edges if len(where.beyond[edge.cable]) == 1]
    if not ends:
        return None
    marked = Revise(circuit, {"ring": True})
    if where.loops:
        return marked
    last = max(ends, key=lambda box: (where.depth[box], order(box)))
    if _spurs_are_short(where, last):
        back = mint.fresh("cable")
        closing = Place({back: Cable(last, where.root, circuit, by="person", state="pinned")}, "")
        return Together((marked, closing), f"Close {circuit} to a ring, back from {last}")
    return _anew(plan, circuit, marked, mint)


def _spurs_are_short(where: Tree, last: Handle) -> bool:
    """Whether what hangs off the way to a box is one box at a place, and one place at a time."""
    up = {edge.down: edge.up for edge in where.edges}
    way = {last}
    while (at := up.get(min(way, key=lambda b: where.depth.get(b, 0)))) is not None:
        way.add(at)
    off = [edge for edge in where.edges if edge.down not in way]
    hung = [edge.up for edge in off]
    return all(edge.up in way for edge in off) and len(hung) == len({*hung}) and where.root not in hung


def _anew(plan: Plan, circuit: Handle, marked: Revise, mint: Fresh) -> Edit:
    """The boxes joined by one tour: what is on it stays, what is off it goes."""
    root = plan.circuits[circuit].tree.root
    mine = {h: c for h, c in plan.drawing.of(Cable).items() if c.circuit == circuit}
    boxes = sorted({end for c in mine.values() for end in (c.a, c.b)} - {root}, key=order)
    way = tour(root, boxes, costs(plan, (root, *boxes)))
    missing = [frozenset(pair) for pair in zip((root, *way), (*way, root), strict=True)]
    gone: list[Handle] = []
    for handle, cable in mine.items():
        pair = frozenset((cable.a, cable.b))
        if pair in missing:
            missing.remove(pair)
        else:
            gone.append(handle)
    if held := [h for h in gone if mine[h].state != "proposed"]:
        raise EditRefused(
            f"{', '.join(held[:4])} {'are' if len(held) > 1 else 'is'} fast and off the ring: release what is"
            " in its way, or lay the ring by hand"
        )
    fresh: dict[Handle, Item] = {mint.fresh("cable"): _between(pair, circuit) for pair in missing}
    words = f"Close {circuit} to a ring, back from {way[-1]}"
    return Together((marked, *(Remove(h) for h in gone), Place(fresh, "")), words)


def _between(pair: frozenset[Handle], circuit: Handle) -> Cable:
    a, b = sorted(pair, key=order)
    return Cable(a, b, circuit, by="person", state="pinned")


def costs(plan: Plan, ends: Sequence[Handle]) -> dict[tuple[Handle, Handle], float]:
    """What each way between two ends costs, both ways round."""
    found = {}
    for a, b in combinations(ends, 2):
        found[a, b] = found[b, a] = plan.ways.cost(a, b)
    return found


def tour(root: Handle, boxes: Sequence[Handle], cost: Costs) -> tuple[Handle, ...]:
    """The boxes in the order of a tour from the root and back: the shortest of all for up to :data:`EXACT`
    boxes.
    """
    return (
        _exact(root, boxes, cost) if len(boxes) <= EXACT else _improved(root, _grown(root, boxes, cost), cost)
    )


def length(root: Handle, way: Sequence[Handle], cost: Costs) -> float:
    """What a tour costs."""
    return sum(cost[pair] for pair in zip((root, *way), (*way, root), strict=True))


def _exact(root: Handle, boxes: Sequence[Handle], cost: Costs) -> tuple[Handle, ...]:
    """By what is visited and where one stands: best[visited, last] = min over before of best[visited − last,
    before] + cost.
    """
    n = len(boxes)
    best: dict[tuple[int, int], tuple[float, int]] = {
        (1 << k, k): (cost[root, b], -1) for k, b in enumerate(boxes)
    }
    for visited in range(1, 1 << n):
        for last in (k for k in range(n) if visited >> k & 1 and visited != 1 << k):
            rest = visited & ~(1 << last)
            best[visited, last] = min(
                (best[rest, k][0] + cost[boxes[k], boxes[last]], k) for k in range(n) if rest >> k & 1
            )
    visited, last = (1 << n) - 1, min(range(n), key=lambda k: best[(1 << n) - 1, k][0] + cost[boxes[k], root])
    way: list[Handle] = []
    while last >= 0:
        way.append(boxes[last])
        visited, last = visited & ~(1 << last), best[visited, last][1]
    return tuple(reversed(way))


def _grown(root: Handle, boxes: Sequence[Handle], cost: Costs) -> list[Handle]:
    """A tour that grows by the box and the place that lengthen it least."""
    way: list[Handle] = [min(boxes, key=lambda b: cost[root, b])]
    left = [b for b in boxes if b != way[0]]
    while left:

        def grows(box: Handle, at: int) -> float:
            ends = (root, *way, root)
            return cost[ends[at], box] + cost[box, ends[at + 1]] - cost.get((ends[at], ends[at + 1]), 0.0)

        _, box, at = min((grows(b, n), b, n) for b in left for n in range(len(way) + 1))
        way.insert(at, box)
        left.remove(box)
    return way


def _improved(root: Handle, way: list[Handle], cost: Costs) -> tuple[Handle, ...]:
    """Turned round between two places as long as that shortens it."""
    better = True
    while better:
        better = False
        now = length(root, way, cost)
        for i, j in combinations(range(len(way) + 1), 2):
            other = [*way[:i], *reversed(way[i:j]), *way[j:]]
            if length(root, other, cost) < now - 1e-6:
                way, better = other, True
                break
    return tuple(way)


def open_again(plan: Plan, circuit: Handle) -> Edit:
    """No ring any more: of its two cables at the source the one laid last goes."""
    ring = plan.circuits[circuit].tree.ring
    plain = Revise(circuit, {"ring": False}, f"Leave {circuit} open, no ring")
    if ring is None:
        return plain
    last = max(ring.cables[0], ring.cables[-1], key=order)
    return Together((plain, Remove(last)), plain.what)

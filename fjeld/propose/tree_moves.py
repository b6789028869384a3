"""A tree made better by moving cables and by swapping boxes, where the exact search is too long.

Two moves, each tried until none gains: take one cable out and join its two sides by
another (edge exchange); let two boxes change places in the tree (position swap). A tree is
priced by what each cable cuts off, with the nets counted on bit sets; the chains run the
cheapest of the ways given. That leaves out how over-full edges are divided, so the caller
prices the result again in full.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from itertools import combinations

from fjeld.derive.keys import Net
from fjeld.derive.terminals import CircuitIntent, terminals_of
from fjeld.drawing.handles import Handle
from fjeld.propose.heed import Heed, go_on

Pair = tuple[Handle, Handle]
Chains = Mapping[Handle, tuple[Handle, ...]]
#: A tree is mostly as good as it gets after a few rounds of moves; more than this are not taken.
MOST_ROUNDS = 30


class Pricer:
    """Prices trees over one circuit's boxes.

    ``length`` and ``drill`` give a pair's length and the price of its holes, ``each`` the
    price of a mm with so many conductors.
    """

    def __init__(
        self,
        root: Handle,
        boxes: Sequence[Handle],
        intent: CircuitIntent,
        ways: Sequence[Chains],
        length: Callable[[Handle, Handle], float],
        drill: Callable[[Handle, Handle], float],
        each: Callable[[int], float],
    ) -> None:
        self.root = root
        self.boxes = tuple(boxes)
        self._bit = {box: 1 << i for i, box in enumerate(boxes)}
        self._nets = [self._masks(intent, chains) for chains in ways]
        self._counts: list[dict[int, int]] = [{} for _ in ways]
        nodes = (root, *boxes)
        self._cable = {(a, b): (length(a, b), drill(a, b)) for a in nodes for b in nodes if a != b}
        most = max((len(nets) for nets in self._nets), default=0)
        self._each = [each(n) for n in range(most + 1)]
        self.way = 0

    def _masks(self, intent: CircuitIntent, chains: Chains) -> list[tuple[int, bool]]:
        """For each net the boxes it has terminals in, and whether it has one at the panel."""
        where: dict[Net, int] = {}
        at_root: set[Net] = set()
        for terminal in terminals_of(intent, self.root, chains):
            where[terminal.net] = where.get(terminal.net, 0) | self._bit.get(terminal.box, 0)
            if terminal.box not in self._bit:
                at_root.add(terminal.net)
        return [(mask, net in at_root) for net, mask in where.items()]

    def _crossing(self, way: int, cut: int) -> int:
        """How many nets have terminals on both sides of the cable that cuts off the set ``cut``."""
        known = self._counts[way]
        if cut not in known:
            known[cut] = sum(1 for mask, root in self._nets[way] if mask & cut and (root or mask & ~cut))
        return known[cut]

    def settle(self, pairs: Sequence[Pair]) -> None:
        """Let the chains run the way that makes this tree cheapest; later prices keep it."""
        prices = [self.price(pairs, way) for way in range(len(self._nets))]
        self.way = prices.index(min(prices))

    def price(self, pairs: Sequence[Pair], way: int | None = None) -> float:
        """The price of a tree, infinite if the pairs are none."""
        order = self.downward(pairs)
        if order is None:
            return math.inf
        chosen = self.way if way is None else way
        below = dict(self._bit)
        total = 0.0
        for up, down in reversed(order):
            cut = below[down]
            if up != self.root:
                below[up] |= cut
            length, drill = self._cable[up, down]
            total += length * self._each[self._crossing(chosen, cut)] + drill
        return total

    def downward(self, pairs: Sequence[Pair]) -> list[Pair] | None:
        """The pairs as (nearer the panel, beyond), outward; None if they do not join every box once."""
        near: dict[Handle, list[Handle]] = {}
        for a, b in pairs:
            near.setdefault(a, []).append(b)
            near.setdefault(b, []).append(a)
        found: list[Pair] = []
        seen, queue = {self.root}, [self.root]
        for here in queue:
            for there in near.get(here, ()):
                if there not in seen:
                    seen.add(there)
                    queue.append(there)
                    found.append((here, there))
        return found if len(seen) == len(self.boxes) + 1 and len(pairs) == len(self.boxes) else None


def improved(
    pairs: list[Pair],
    pricer: Pricer,
    allowed: Callable[[list[Pair]], bool],
    fixed: frozenset[Pair],
    heed: Heed = go_on,
    rounds: int = MOST_ROUNDS,
) -> list[Pair]:
    """The tree after every gaining move, the best of a round first; ``fixed`` pairs stay."""
    for _ in range(rounds):
        heed()
        pricer.settle(pairs)
        best = pricer.price(pairs)
        tried = [*_exchanges(pairs, pricer, fixed), *_swaps(pairs, pricer, fixed)]
        priced = sorted(p for p in ((pricer.price(t), n) for n, t in enumerate(tried)) if p[0] < best - 1e-6)
        taken = next((n for _, n in priced if allowed(tried[n])), None)
        if taken is None:
            return pairs
        pairs = tried[taken]
    return pairs


def _exchanges(pairs: list[Pair], pricer: Pricer, fixed: frozenset[Pair]) -> list[list[Pair]]:
    """Every tree with one cable put elsewhere, the panel keeping its one cable."""
    found = []
    for pair in pairs:
        if pair in fixed or pair[::-1] in fixed:
            continue
        rest = [p for p in pairs if p != pair]
        side = _side(rest, pricer.root)
        others = [b for b in pricer.boxes if b not in side]
        if any(pricer.root in p for p in rest):
            side.remove(pricer.root)
        found += [[*rest, (a, b)] for a in side for b in others if {a, b} != set(pair)]
    return found


def _side(pairs: list[Pair], root: Handle) -> list[Handle]:
    found = [root]
    for here in found:
        for a, b in pairs:
            there = b if here == a else a if here == b else None
            if there is not None and there not in found:
                found.append(there)
    return found


def _swaps(pairs: list[Pair], pricer: Pricer, fixed: frozenset[Pair]) -> list[list[Pair]]:
    """Every tree with two boxes in each other's place; none while any cable is fixed."""
    if fixed:
        return []
    found = []
    for a, b in combinations(pricer.boxes, 2):
        turn = {a: b, b: a}
        found.append([(turn.get(x, x), turn.get(y, y)) for x, y in pairs])
    return found

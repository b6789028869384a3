"""A tree on offer: what it costs against the standing one, and the edit that takes it."""

from __future__ import annotations

import math

import msgspec

from fjeld.derive.plan import Plan
from fjeld.drawing.edits.runs import TakeTree
from fjeld.drawing.handles import Fresh, Handle
from fjeld.drawing.model import Cable
from fjeld.propose.heed import Heed, go_on
from fjeld.propose.tree_moves import Pair
from fjeld.propose.trees import Feed, best_tree, least_price, price_of, problem_of


class Offer(msgspec.Struct, frozen=True):
    """A tree and what it costs against the standing one; prices in cents, lengths in mm. No tree costs less
    than ``least``.
    """

    edit: TakeTree
    pairs: tuple[Pair, ...]
    feed: Feed
    price: float
    standing: float
    length: float
    standing_length: float
    holes: int
    standing_holes: int
    exact: bool
    least: float

    @property
    def above(self) -> float:
        """By how much it may be dearer than the cheapest there is, a share."""
        return max(0.0, self.price / self.least - 1) if self.least > 0 else 0.0

    @property
    def saves(self) -> float:
        return self.standing - self.price


def offer(plan: Plan, circuit: Handle, feed: Feed, mint: Fresh, heed: Heed = go_on) -> Offer | None:
    """The best tree for a circuit under a way of feeding; None when no tree follows it."""
    if plan.circuits[circuit].circuit.ring:
        # A ring is no tree; which way it goes round, a person says.
        return None
    problem = problem_of(plan, circuit, feed)
    pairs, price, exact = best_tree(problem, heed)
    if problem.on_load and pairs:
        # The search does not know of load sides: what it found is priced with them, and is not called the
        # cheapest.
        price, exact = price_of(problem, pairs), False
    if not pairs or not math.isfinite(price):
        return None
    standing = {h: (c.a, c.b) for h, c in plan.drawing.of(Cable).items() if c.circuit == circuit}
    free = msgspec.structs.replace(problem, feed="cheapest")
    now = price_of(free, list(standing.values()))
    kept = [h for h, ends in standing.items() if ends in pairs or ends[::-1] in pairs]
    have = {frozenset(standing[h]) for h in kept}
    fresh = {mint.fresh("cable"): pair for pair in pairs if frozenset(pair) not in have}
    words = {"switch": "fed at the switch", "light": "fed at the light", "cheapest": "the cheapest way"}[feed]
    edit = TakeTree(circuit, tuple(kept), fresh, what=f"Lay {circuit} {words}")

    def totals(of: list[Pair]) -> tuple[float, int]:
        return sum(problem.pair_length(*p) for p in of), int(sum(problem.pair_holes(*p) for p in of))

    length, holes = totals(pairs)
    old_length, old_holes = totals(list(standing.values()))
    return Offer(
        edit=edit,
        pairs=tuple(pairs),
        feed=feed,
        price=price,
        standing=now,
        length=length,
        standing_length=old_length,
        holes=holes,
        standing_holes=old_holes,
        exact=exact,
        least=price if exact else least_price(problem),
    )

"""The nets of a circuit, its chains of switches running the way that costs least."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from itertools import permutations

from fjeld.derive.divide import Nets, crossing, divide
from fjeld.derive.terminals import CircuitIntent, terminals_of
from fjeld.derive.tree import Tree
from fjeld.drawing.handles import Handle, order


def solve(intent: CircuitIntent, where: Tree, price: Callable[[Handle, int], float]) -> Nets:
    """The nets of a circuit, its chains running the way that costs least.

    ``price(cable, n)`` is what the edge costs with ``n`` insulated conductors. Of equal
    ways, the line ends at the position fewest cables from the panel, then at the lower
    handle. Chains are settled one control after the other, which is exact for one
    control of several positions and for controls that share no cable.
    """
    chains: dict[Handle, tuple[Handle, ...]] = {}
    for handle, control in sorted(intent.controls.items(), key=lambda c: order(c[0])):
        chains[handle] = _by_depth(control.positions, where)
    several = [h for h in chains if len(chains[h]) > 1 and h not in intent.strap]
    for handle in several * (2 if len(several) > 1 else 1):
        ways = permutations(chains[handle]) if len(chains[handle]) <= 4 else [chains[handle]]

        def cost(way: tuple[Handle, ...], handle: Handle = handle) -> tuple[object, ...]:
            tried = {**chains, handle: way}
            terminals = terminals_of(intent, where.root, tried)
            counts = {e.cable: len(crossing(terminals, where.beyond[e.cable])) for e in where.edges}
            full = max(counts.values(), default=0) > intent.most
            undivided = len(divide(terminals, where, tried, intent.most).overflow) if full else 0
            total = sum(price(cable, n) for cable, n in counts.items())
            return undivided, round(total, 3), [(where.depth.get(p, 99), order(p)) for p in way]

        chains[handle] = min(ways, key=cost)
    return divide(terminals_of(intent, where.root, chains), where, chains, intent.most)


def _by_depth(positions: Iterable[Handle], where: Tree) -> tuple[Handle, ...]:
    return tuple(sorted(positions, key=lambda p: (where.depth.get(p, 99), order(p))))
